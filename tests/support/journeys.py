"""What journeys have in common: beginning a job, what the headline says, the certificate's text."""

import pypdf
from PySide6.QtWidgets import QComboBox

from fenmist.__main__ import main
from support.texts import spaced


def begin(hands, question: str, of: str, bench: str, planned: str, power: str = "") -> None:
    """Ctrl+N, what is asked, of what, at which frequencies and power, the bench."""
    hands.press("ctrl+n")
    page = hands.shell.places["begin"]
    asked, device_box = page.findChildren(QComboBox)[:2]
    hands.pick(asked, question)
    hands.pick(device_box, of)
    if power:
        page.level.setFocus()
        hands.press("ctrl+a")
        hands.type(power)
    page.rounds.setFocus()
    hands.press("ctrl+a")
    hands.type("1")
    hands.choose_bench(bench, planned)
    hands.settle(0.2)


def headline(hands) -> str:
    return spaced(hands.shell.bench.step.headline.text())


def walk(hands) -> None:
    """Through all steps; each says something."""
    for step in range(1, 8):
        hands.press(f"alt+{step}")
        assert headline(hands)


def turned_to_picture(hands):
    """The results' picture, with its button pressed until it shows."""
    step = hands.shell.bench.step
    for _ in range(3):
        if not step.picture.isVisible():
            step.over_button.setFocus()
            hands.press("enter")
    assert step.picture.isVisible()
    return step.picture


def reduced_elsewhere(hands, tmp_path, capsys) -> str:
    """What `fenmist reduce` says of the job once it is handed over and taken in elsewhere."""
    file = tmp_path / "job.fenjob.json"
    hands.shell.session.hand_over(hands.shell.bench.job.job.id, file)
    assert main(["import", str(file), str(tmp_path / "other.fenlog")]) == 0
    assert main(["reduce", str(file)]) == 0
    return spaced(capsys.readouterr().out)


def on_paper(hands, tmp_path, *told: str) -> None:
    """Issue the certificate; it holds each of those, in capitals or not."""
    text = paper(hands, tmp_path).casefold()
    assert [said for said in told if said.casefold() not in text] == []


def paper(hands, tmp_path) -> str:
    hands.press("alt+8", "enter")
    step = hands.shell.bench.step
    hands.until(lambda: step.said.text().startswith("Issued:"))
    step.save.wait()
    session = hands.shell.session
    (issued,) = session.logbook.issued()
    pdf = tmp_path / "page.pdf"
    pdf.write_bytes(session.logbook.issued_pdf(issued.number, issued.revision))
    return " ".join(spaced(" ".join(page.extract_text() for page in pypdf.PdfReader(pdf).pages)).split())


def to_tool(hands, title: str):
    """To the tools, and by a click on its name to one of them."""
    hands.press("ctrl+2")
    (name,) = (item for item in hands.shell.tools.names if item.text() == title)
    hands.click(name)
    return hands.shell.tools.tool
