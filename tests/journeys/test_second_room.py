"""A room that nothing outside its folder knows is carried by desk, paper, logbook and job file."""

import pytest

from fenmist.procedures import table
from fenmist.procedures.shelf import device_on, first_bench
from support.journeys import on_paper, reduced_elsewhere, walk
from support.texts import spaced
from support.tiny import VOLTS


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
    hands.tab_to("Add these points")
    hands.press("enter")
    walk(hands)

    hands.press("alt+5")
    assert shell.bench.step.headline.text() == "Read the volts."
    hands.read("5.1")
    assert spaced(shell.bench.step.headline.text()).startswith("So far: 5.1")
    hands.press("alt+6")
    assert spaced(shell.bench.step.headline.text()).startswith("There are 5.1")
    assert job.view.result.budget(job.job.plan[0].id)[0].influence.id == "volts.gain"

    on_paper(
        hands,
        tmp_path,
        "Volts at a connector",
        "A tiny statement.",
        "Nothing is claimed that could be judged",
        "7.1 MHz",
    )
    hands.press("ctrl+4")
    (line,) = session.summaries()
    assert spaced(line.headline).startswith("5.1")

    assert "There are 5.1" in reduced_elsewhere(hands, tmp_path, capsys)
