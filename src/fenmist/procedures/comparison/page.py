"""The results of a comparison as a page: the answer, a row for each point, and what paper says of them."""

from collections.abc import Iterator

from fenmist.calibration.gather import stated_at_input
from fenmist.calibration.sent import carrier_said, sent_statements
from fenmist.procedures.comparison.card import card, curve_card
from fenmist.procedures.comparison.headline import error_shown, results_headline
from fenmist.procedures.comparison.marks import mark_statements
from fenmist.procedures.comparison.reduction import Result
from fenmist.procedures.comparison.surface import not_worth_using
from fenmist.procedures.comparison.tables import RESULT_HEADINGS, result_rows, result_table
from fenmist.procedures.page import BENCH, LID, Card, Cell, ResultPage
from fenmist.procedures.procedure import Seen
from fenmist.procedures.words import each_reference, method_in_words


def page(seen: Seen[Result]) -> ResultPage:
    """The page of the phase in hand."""
    job, result = seen.job, seen.in_hand
    where = "input" if stated_at_input(job) else "output"
    return ResultPage(
        results_headline(job, result, result.phase), RESULT_HEADINGS,
        tuple(tuple(row) for row in result_rows(result)),
        (
            ("quantity", f"{job.stated.kind} at the meter's {where}, {_sent(result)}, {job.stated.z0_ohm:g}\u2009Ω"),
            ("method", method_in_words(job)),
        ),
        (
            *_largest(result),
            *not_worth_using(result),
            *mark_statements(job, result),
            *each_reference(
                job, ((item, item.reference_w / item.part, item.reference_u_w / item.part) for item in result.points)
            ),
            *sent_statements(job, (item.point for item in result.points)),
        ),
    )  # fmt: skip


def _sent(result: Result) -> str:
    return carrier_said(item.point for item in result.points)


def cards(seen: Seen[Result], number: str) -> tuple[Card, ...]:
    """Both sizes, of what the job ends with, and a curve where there is one."""
    drawn = curve_card(seen.job, seen.final, number)
    tables = tuple(card(seen.job, seen.final, size, number) for size in (LID, BENCH))
    return tables if drawn is None else (*tables, drawn)


def table(seen: Seen[Result]) -> list[list[Cell]]:
    """Headings and rows for other programs, as found and then as left."""
    return result_table(seen.found, seen.left)


def _largest(result: Result) -> Iterator[str]:
    worst = max(result.points, key=lambda item: abs(item.error_db), default=None)
    if worst:
        yield f"The largest error is {error_shown(worst)}."
