"""A whole job as typed, from opening to PDF: driven offscreen and in a real window alike."""

from pathlib import Path

from support.desk import Hands


def whole_job(hands: Hands, pdf_path: Path) -> None:
    """New job, plan, load, readings, results, page."""
    hands.start_job()
    shell = hands.shell
    assert shell.bench is not None

    # receive: what it is called, whose it is
    hands.type("The ferry's wattmeter")
    hands.press("tab")
    hands.type("Ferry Knot")
    hands.press("tab")
    assert shell.bench.job.job.title == "The ferry's wattmeter"
    assert shell.bench.job.job.customer == "Ferry Knot"

    # plan: a grid of two frequencies and one level, read once
    hands.press("alt+4")
    hands.type("7.125 14,2 MHz")
    hands.press("tab")
    hands.type("25 W")
    hands.press("tab", "tab", "ctrl+a")
    hands.type("1")
    hands.press("enter")
    assert [point.target_w for point in shell.bench.job.job.plan] == [25.0, 25.0]

    # parts: the load as the analyser shows it
    hands.press("alt+3")
    for _ in range(2):
        hands.press("f2")
        hands.type("57.7+j0")
        hands.press("return", "down")

    # readings: the numeric pad alone
    hands.press("alt+5")
    hands.pad("102", "25.6", "101.6", "25.0")

    # results, certificate
    hands.press("alt+6", "alt+8")
    hands.press("tab", "ctrl+a")
    hands.type(str(pdf_path))
    hands.press("enter")
    hands.until(lambda: "Written" in shell.bench.step_at(7).save.said.text())
