"""The results of a comparison as a page: the answer, a row for each point, and what paper says of them."""

from collections.abc import Iterator

from fenmist.calibration.gather import stated_at_input
from fenmist.calibration.job import Job
from fenmist.calibration.references import VERSION
from fenmist.judgement.entry_rules import at_point
from fenmist.procedures.comparison.card import card
from fenmist.procedures.comparison.headline import error_shown, results_headline
from fenmist.procedures.comparison.reduction import Result
from fenmist.procedures.comparison.tables import RESULT_HEADINGS, result_rows, result_table
from fenmist.procedures.page import BENCH, LID, Card, ResultPage
from fenmist.procedures.procedure import Cell, Seen
from fenmist.units.display import percent, plain, with_uncertainty


def page(seen: Seen[Result]) -> ResultPage:
    """The page of the phase in hand."""
    job, result = seen.job, seen.in_hand
    where = "input" if stated_at_input(job) else "output"
    return ResultPage(
        results_headline(job, result, result.phase), RESULT_HEADINGS,
        tuple(tuple(row) for row in result_rows(result)),
        (
            ("quantity", f"{job.stated.kind} at the meter's {where}, steady carrier, {job.stated.z0_ohm:g}\u2009Ω"),
            ("method", method_in_words(job)),
        ),
        (*_largest(result), *_each_reference(job, result)),
    )  # fmt: skip


def cards(seen: Seen[Result], number: str) -> tuple[Card, ...]:
    """Both sizes, of what the job ends with."""
    return tuple(card(seen.job, seen.final, size, number) for size in (LID, BENCH))


def table(seen: Seen[Result]) -> list[list[Cell]]:
    """Headings and rows for other programs, as found and then as left."""
    return result_table(seen.found, seen.left)


def method_in_words(job: Job) -> str:
    """The method with its version; one that was recorded under another version than worked it out says so."""
    recorded = job.method.version
    worked = "" if recorded == VERSION else f", worked out by version {VERSION}"
    names = [job.part_read(name).label for name in dict.fromkeys(job.order) if not job.is_device(name)]
    used = f"{', '.join(names)} as {'the reference' if len(names) == 1 else 'references'}"
    if len(names) > 1:
        decides = f"{job.part_read(job.reference).label} decides" if job.reference else "their consensus decides"
        used = f"{used}, {decides}"
    return f"{job.bench.label}: {used}, version {recorded}{worked}"


def _largest(result: Result) -> Iterator[str]:
    worst = max(result.points, key=lambda item: abs(item.error_db), default=None)
    if worst:
        yield f"The largest error is {error_shown(worst)}."


def _each_reference(job: Job, result: Result) -> Iterator[str]:
    """What each of several references says at a point, and what they say together."""
    for point in result.points:
        if len(point.references) < 2:
            continue
        said = ", ".join(
            f"{job.part_read(item.channel).label} {plain(item.power_w, 'W', 4)} (weight {percent(item.weight)})"
            for item in point.references
        )
        together = with_uncertainty(point.reference_w, point.reference_u_w, "W")
        yield f"A{at_point(point.point)[1:]}: {said}; reference {together}."
