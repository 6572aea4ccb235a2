"""A room that nothing outside its folder knows is carried by desk, paper, logbook and job file."""

import pypdf
import pytest

from fenmist.__main__ import main
from fenmist.procedures import table
from fenmist.procedures.shelf import device_on, first_bench
from support.tiny import VOLTS


def spaced(text: str) -> str:
    return text.replace("\u202f", " ").replace("\u2009", " ")


def tab_to(hands, name: str) -> None:
    for _ in range(20):
        if hands.focus.accessibleName() == name:
            return
        hands.press("tab")
    raise AssertionError(f"no Tab leads to {name}")


@pytest.fixture
def with_volts(monkeypatch):
    """One line in the table."""
    monkeypatch.setitem(table.ROOMS, VOLTS.id, lambda: VOLTS)


def test_from_the_first_key_to_the_certificate_and_into_another_logbook(with_volts, hands, tmp_path, capsys):
    shell, session = hands.shell, hands.session
    bench = first_bench(VOLTS, session.kit)
    made = session.new_job("Volts of the harbour launch", device_on(bench), bench, "volts")
    shell.open_job(made.job.id)
    job = shell.bench.job

    hands.press("alt+4")
    hands.type("7.1 MHz")
    hands.press("tab")
    hands.type("0.5 W")
    tab_to(hands, "Add these points")
    hands.press("enter")
    for step in range(1, 8):
        hands.press(f"alt+{step}")
        assert shell.bench.step.headline.text()

    hands.press("alt+5")
    assert shell.bench.step.headline.text() == "Read the volts."
    hands.read("5.1")
    assert spaced(shell.bench.step.headline.text()).startswith("So far: 5.1")
    hands.press("alt+6")
    assert spaced(shell.bench.step.headline.text()).startswith("There are 5.1")
    assert job.view.result.budget(job.job.plan[0].id)[0].influence.id == "volts.gain"

    hands.press("alt+8", "enter")
    step = shell.bench.step
    hands.until(lambda: step.said.text().startswith("Issued:"))
    step.save.wait()
    (issued,) = session.logbook.issued()
    pdf = tmp_path / "page.pdf"
    pdf.write_bytes(session.logbook.issued_pdf(issued.number, issued.revision))
    text = spaced(" ".join(page.extract_text() for page in pypdf.PdfReader(pdf).pages))
    for said in ("Volts at a connector", "A tiny statement.", "Nothing is claimed that could be judged", "7.1 MHz"):
        assert said in " ".join(text.split()), said
    hands.press("ctrl+4")
    (line,) = session.summaries()
    assert spaced(line.headline).startswith("5.1")

    file, other = tmp_path / "job.fenjob.json", tmp_path / "other.fenlog"
    session.hand_over(line.id, file)
    assert main(["import", str(file), str(other)]) == 0
    assert main(["reduce", str(file)]) == 0
    assert "There are 5.1" in spaced(capsys.readouterr().out)
