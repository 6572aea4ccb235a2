"""A whole job as typed, from opening to PDF: driven offscreen and in a real window alike."""

from pathlib import Path

from support.desk import Hands


def whole_job(hands: Hands, pdf_path: Path) -> None:
    """New job, plan, load, readings, results, page."""
    hands.press("ctrl+n")
    shell = hands.shell
    assert shell.bench is not None

    # plan: from the line to the table, two points in the empty row
    plan = shell.bench.step_at(0).plan
    plan.setFocus()
    for text in ("7.125 MHz", "14,2"):
        plan.setCurrentCell(plan.rowCount() - 1, 0)
        hands.press("f2")
        hands.type(text)
        hands.press("return")
    for row in (0, 1):
        plan.setCurrentCell(row, 1)
        hands.press("f2")
        hands.type("25 W")
        hands.press("return")
    assert [point.target_w for point in shell.bench.job.job.plan] == [25.0, 25.0]

    # parts: the load as the analyser shows it
    hands.press("alt+2")
    for _ in range(2):
        hands.press("f2")
        hands.type("57.7+j0")
        hands.press("return")
        shell.bench.step_at(1).enter()

    # readings: digits, point and Enter only
    hands.press("alt+3")
    hands.read("102", "25.6", "101.6", "25.0")

    # results, certificate
    hands.press("alt+4", "alt+5")
    hands.press("ctrl+a")
    hands.type(str(pdf_path))
    hands.press("enter")
    hands.until(lambda: "Written" in shell.bench.step_at(4).said.text())
