"""How steps depart, as a page: a row for each step; cards, tables for other programs."""

from fenmist.calibration.job import Job, Rule
from fenmist.calibration.outcome import Stated
from fenmist.procedures.cards import card_of
from fenmist.procedures.charts import ends_chart, stated_chart
from fenmist.procedures.page import BENCH, FREQUENCY, LID, Card, Cell, Chart, ResultPage
from fenmist.procedures.procedure import Seen
from fenmist.procedures.steps.headline import departure_said, results_headline, step_name
from fenmist.procedures.steps.reduction import StepPoint, Steps, sides
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.units.display import THIN, frequency, plain, rounded

HEADINGS = ("frequency", "step", "should be", "departs ± U", "this step alone", "read behind", "verdict")
"""Columns of the table."""

_ACCEPTED = {Rule.SIMPLE: "it departs by no more, whatever U is", Rule.GUARDED: "departure and U together are no more"}


def method_in_words(job: Job) -> str:
    """The method with its version."""
    front, back = (job.part_read(name).label for name in sides(job, job.bench.id))
    return f"{job.bench.label}: {back} over {front}, each step against one, version {job.method.version}"


def page(seen: Seen[Steps]) -> ResultPage:
    """The page of the phase in hand."""
    job, result = seen.job, seen.in_hand
    return ResultPage(
        results_headline(job, result, result.phase), HEADINGS, tuple(_row(result, item) for item in result.points),
        (
            ("quantity", f"departure of steps from what they should be, dB, {job.stated.z0_ohm:g}{THIN}Ω"),
            ("method", method_in_words(job)),
            ("decision rule", f"±{job.tolerance.value:g}{THIN}dB, {job.rule}: accepted where {_ACCEPTED[job.rule]}"),
        ),
        (
            "Each step is held against the reference step at its frequency; what gains both have cancels. Where both "
            "instruments are wrong alike this can't see it.",
        ) if result.points else (),
    )  # fmt: skip


def _row(result: Steps, item: StepPoint) -> tuple[str, ...]:
    alone = result.single_step_db(item)
    verdict = "—" if item.is_reference else str(item.decision.verdict)
    return (
        frequency(item.point.frequency_hz), step_name(item.point), f"{rounded(item.nominal_db, 2, plus=True)}{THIN}dB",
        departure_said(item), "—" if alone is None else f"{rounded(alone, 2, plus=True)}{THIN}dB",
        plain(item.behind_w, "W", 4), verdict,
    )  # fmt: skip


def chart(job: Job, result: Steps, left: Steps | None = None, over: str = FREQUENCY, _curves: bool = False) -> Chart:
    """The departure over frequency or level: a series for each step, or each level."""
    if any(leg.id for leg in job.visits):
        return ends_chart(job, result, left, over, quantity="departure")
    return stated_chart(job, result, left, over, quantity="departure")


def cards(seen: Seen[Steps], number: str) -> tuple[Card, ...]:
    """Both sizes: what to add to each step."""
    result = seen.final
    steps = {item.point.id: item for item in result.points}

    def cell(item: Stated) -> str:
        found = steps[item.point.id]
        return "0" if found.is_reference else f"{rounded(found.departure_db, 2, plus=True)}{THIN}dB"

    worst = max((item.expanded_u_db for item in result.points), default=0.0)
    foot = f"departure of each step, ± at most {worst:.2g}{THIN}dB (95 %)"
    return tuple(
        card_of(seen.job, result.stated, size, number, "steps", foot, cell, lambda item: step_name(item.point))
        for size in (LID, BENCH)
    )


COLUMNS = (
    "phase", "frequency / Hz", "step", "level / W", "reference step", "rounds", "should be / dB", "departure / dB",
    "U(departure) / dB", "k", "this step alone / dB", "read behind / W", "range", "may depart / dB", "zone", "verdict",
    "probability that the verdict is wrong", "is usable",
)  # fmt: skip


def table(seen: Seen[Steps]) -> list[list[Cell]]:
    """Headings and rows, as found and then as left."""
    phases = [(AS_FOUND, seen.found)] + ([(AS_LEFT, seen.left)] if seen.left is not None else [])
    return [[*COLUMNS], *([*_cells(phase, result, item)] for phase, result in phases for item in result.points)]


def _cells(phase: str, result: Steps, item: StepPoint) -> list[Cell]:
    risk, alone = item.decision.risk, result.single_step_db(item)
    judged = not item.is_reference
    return [
        phase, item.point.frequency_hz, step_name(item.point), item.point.target_w, step_name(item.reference),
        item.rounds, item.nominal_db, item.departure_db, item.expanded_u_db, item.k, "" if alone is None else alone,
        item.behind_w, item.range_id, item.tolerance_db, str(item.decision.zone) if judged else "",
        str(item.decision.verdict) if judged else "", "" if risk is None or not judged else risk,
        "yes" if item.is_usable else "no",
    ]  # fmt: skip
