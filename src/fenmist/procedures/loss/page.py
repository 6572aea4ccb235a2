"""What a part loses, as a page: a row for each frequency and level, cards, tables for other programs."""

from fenmist.calibration.job import Job, Rule
from fenmist.calibration.outcome import Stated
from fenmist.calibration.sent import carrier_said, level_said
from fenmist.judgement.entry_rules import at_point
from fenmist.procedures.cards import card_of
from fenmist.procedures.charts import ends_chart, stated_chart
from fenmist.procedures.loss.headline import heat_said, leave_in, results_headline, said, through_said
from fenmist.procedures.loss.reduction import Losses, LossPoint, into_ends
from fenmist.procedures.page import BENCH, FREQUENCY, LID, Card, Cell, Chart, ResultPage
from fenmist.procedures.procedure import Seen
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.units.display import THIN, frequency, swr, with_uncertainty

HEADINGS = ("frequency", "level", "measured into", "loss", "came out ± U", "through", "heat", "verdict")
"""Columns of the table."""


_ACCEPTED = {Rule.SIMPLE: "the loss is no more, whatever U is", Rule.GUARDED: "the loss and its U together are no more"}


def method_in_words(job: Job) -> str:
    """The method with its version."""
    names = [job.part_read(item.id).label for item in job.channels if item.hookup == job.bench.id]
    visits = ", ".join(leg.id for leg in job.visits)
    return f"{job.bench.label}: {' and '.join(names)}, ratio of ratios ({visits}), version {job.method.version}"


def page(seen: Seen[Losses]) -> ResultPage:
    """The page of the phase in hand."""
    job, result = seen.job, seen.in_hand
    most = sum(term.value for term in job.tolerances)
    return ResultPage(
        results_headline(job, result, result.phase), HEADINGS, tuple(_row(item) for item in result.points),
        (
            ("quantity", f"{_quantity(job)}, {carrier_said(item.point for item in result.points)}"),
            ("method", method_in_words(job)),
            ("decision rule", f"at most {most:g}{THIN}dB, {job.rule}: accepted where {_ACCEPTED[job.rule]}"),
        ),
        _statements(job, result),
    )  # fmt: skip


def _quantity(job: Job) -> str:
    if into_ends(job):
        return "loss from what comes in to what goes into each end"
    return f"insertion loss in matched surroundings, {job.stated.z0_ohm:g}{THIN}Ω"


def measured_into(item: LossPoint) -> str:
    """What follows the part: the match in which the loss was measured."""
    match = f"SWR {swr(item.match_swr)}"
    return f"{item.into}, {match}" if item.into else match


def _row(item: LossPoint) -> tuple[str, ...]:
    verdict = str(item.decision.verdict) if item.is_usable else f"{item.decision.verdict} (no instrument)"
    return (
        frequency(item.point.frequency_hz), level_said(item.point), measured_into(item), said(item),
        with_uncertainty(item.loss_db, item.expanded_u_db, "dB"), _short(through_said(item)), _short(heat_said(item)),
        verdict,
    )  # fmt: skip


def _short(text: str) -> str:
    """Bounds as signs, for a table."""
    return text.replace("at least ", "≥\u202f").replace("at most ", "≤\u202f")


def _statements(job: Job, result: Losses) -> tuple[str, ...]:
    if not result.points:
        return ()
    worst = max(result.points, key=lambda item: item.loss_db)
    match = job.dut_part.properties.get("swr")
    known = (
        f"its own SWR of {'' if match.measured else 'at most '}{match.value:g}" if match else "no statement of its SWR"
    )
    holds = f"The loss holds for matched surroundings; U counts the matches on both sides with {known}."
    if into_ends(job):
        holds = "Each loss holds for the end that is named, with the part tuned to it."
    return (
        holds,
        *(
            ()
            if any(item.ratio for item in result.points)
            else (
                "One instrument is all that was read: that the source stayed the same is part of U by what it moved "
                "between the first visit and the last.",
            )
        ),
        *(
            f"With both instruments exchanged it came out {item.apart[0]:+.3f} ± {item.apart[1]:.2g}{THIN}dB less "
            f"{at_point(item.point)}; stated is the mean of both."
            for item in result.points[:1]
            if item.apart
        ),
        "Where the loss is smaller than U only its bound is stated (95 %, one-sided).",
        leave_in(worst),
    )


def chart(job: Job, result: Losses, left: Losses | None = None, over: str = FREQUENCY, _curves: bool = False) -> Chart:
    """The loss over frequency or level, of each end where several take turns."""
    drawn = ends_chart if into_ends(job) else stated_chart
    return drawn(job, result, left, over, quantity="loss")


def cards(seen: Seen[Losses], number: str) -> tuple[Card, ...]:
    """Both sizes: what it loses at each frequency."""
    result = seen.final
    losses = {item.point.id: item for item in result.points}

    def cell(item: Stated) -> str:
        return said(losses[item.point.id])

    worst = max((item.expanded_u_db for item in result.points), default=0.0)
    each = into_ends(seen.job)
    foot = f"each ± at most {worst:.2g}{THIN}dB (95 %), {'tuned to each end' if each else 'in matched surroundings'}"
    column = (lambda item: item.point.leg) if each else None
    return tuple(card_of(seen.job, result.stated, size, number, "loses", foot, cell, column) for size in (LID, BENCH))


COLUMNS = (
    "phase", "frequency / Hz", "level / W", "rounds", "loss / dB", "U(loss) / dB", "k", "less than / dB", "is seen",
    "through / %", "heat / W", "ratio without it", "moved between visits / dB", "end", "SWR behind it",
    "difference when exchanged / dB", "U(difference) / dB", "may lose / dB", "zone", "verdict",
    "probability that the verdict is wrong", "is usable",
)  # fmt: skip


def table(seen: Seen[Losses]) -> list[list[Cell]]:
    """Headings and rows, as found and then as left."""
    phases = [(AS_FOUND, seen.found)] + ([(AS_LEFT, seen.left)] if seen.left is not None else [])
    return [[*COLUMNS], *([*_cells(phase, item)] for phase, result in phases for item in result.points)]


def _cells(phase: str, item: LossPoint) -> list[Cell]:
    risk = item.decision.risk
    return [
        phase, item.point.frequency_hz, item.point.target_w, item.rounds, item.loss_db, item.expanded_u_db, item.k,
        item.bound_db, "yes" if item.is_seen else "no", 100.0 * item.efficiency, item.heat_w,
        "" if item.ratio is None else item.ratio, item.moved_db, item.into, item.match_swr,
        *(item.apart or ("", "")),
        item.tolerance_db, str(item.decision.zone), str(item.decision.verdict), "" if risk is None else risk,
        "yes" if item.is_usable else "no",
    ]  # fmt: skip
