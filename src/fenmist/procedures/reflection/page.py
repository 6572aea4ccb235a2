"""What a meter shows of a match, as a page: a row for each end, frequency and level; cards, tables for programs."""

from collections.abc import Iterator

from fenmist.calibration.job import Job, Rule
from fenmist.calibration.outcome import Stated
from fenmist.calibration.sent import level_said
from fenmist.kit.spectext import text_of_spec
from fenmist.procedures.cards import card_of
from fenmist.procedures.charts import ends_chart
from fenmist.procedures.page import BENCH, FREQUENCY, LID, Card, Cell, Chart, ResultPage
from fenmist.procedures.procedure import Seen
from fenmist.procedures.reflection.alarms import alarms
from fenmist.procedures.reflection.findings import balances, by_level, end_of
from fenmist.procedures.reflection.headline import (
    directivity_said,
    expected_said,
    results_headline,
    shown_said,
    swr_of,
    window_said,
)
from fenmist.procedures.reflection.reduction import Matches, MatchPoint
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.units.display import THIN, frequency, percent, plain, signed

HEADINGS = ("frequency", "level", "end", "SWR of the end", "shown", "window", "error of ρ ± U", "verdict")
"""Columns of the table."""

_ACCEPTED = {
    Rule.SIMPLE: "what is shown lies in the window, whatever U is",
    Rule.GUARDED: "it lies in the window with its U",
}


def claims_said(job: Job) -> str:
    """ "directivity 25 dB, scale ±5 % of full scale"."""
    scale = f", scale ±{text_of_spec(job.tolerance_more)}" if job.tolerance_more else ""
    return f"directivity {job.tolerance.value:g}{THIN}dB{scale}"


def method_in_words(job: Job) -> str:
    """The method with its version."""
    ends = ", ".join(leg.id for leg in job.visits if leg.id) or job.bench.label
    return f"{job.bench.label}: {ends}; Γ of each as the meter's output sees it, version {job.method.version}"


def page(seen: Seen[Matches]) -> ResultPage:
    """The page of the phase in hand."""
    job, result = seen.job, seen.in_hand
    return ResultPage(
        results_headline(job, result, result.phase), HEADINGS, tuple(_row(job, item) for item in result.points),
        (
            ("quantity", f"size of the reflection at the meter's output, {job.stated.z0_ohm:g}{THIN}Ω, steady carrier"),
            ("method", method_in_words(job)),
            ("claims", claims_said(job)),
            *_alarms(job, result),
            ("decision rule", f"{job.rule}: accepted where {_ACCEPTED[job.rule]}"),
        ),
        tuple(_statements(job, result)),
    )  # fmt: skip


def _alarms(job: Job, result: Matches) -> Iterator[tuple[str, str]]:
    """What alarm levels at the end of the line show on this meter, at the highest frequency read."""
    if not result.points:
        return
    f = max(item.point.frequency_hz for item in result.points)
    made = alarms(job, f)
    shown = "; ".join(f"{item.name} shows as {window_said(item.shows)}" for item in made)
    yield f"alarms at {frequency(f)}", shown
    if made[0].matched_loss_db > LOSS_SAID_DB:
        worst = made[1]
        yield (
            "the line", f"{worst.matched_loss_db:.2g}{THIN}dB between meter and end, {worst.line_loss_db:.2g}{THIN}dB "
            f"at {worst.name} there, which arrives as {window_said(worst.arrives)}",
        )  # fmt: skip


LOSS_SAID_DB = 0.05
"""Loss between meter and end from which it is spoken of (Fenmist's own)."""


def error_said(item: MatchPoint) -> str:
    """ "+0.041 ± 0.012"."""
    half = (item.interval[1] - item.interval[0]) / 2.0
    return f"{item.error:+.3f} ± {half:.3f}".replace("-", "−")


def _row(job: Job, item: MatchPoint) -> tuple[str, ...]:
    return (
        frequency(item.point.frequency_hz), level_said(item.point), end_of(job, item), expected_said(item),
        shown_said(item), "—" if item.tuned else window_said(item.window), "—" if item.tuned else error_said(item),
        "—" if item.tuned else str(item.decision.verdict),
    )  # fmt: skip


def _statements(job: Job, result: Matches) -> Iterator[str]:
    if not result.points:
        return
    yield (
        "A meter knows only how large a reflection is: the window is what one within its claims may show with that "
        "end, in whatever phase."
    )
    for item in result.points:
        for other in item.others:
            part = job.part(job.hookup(item.point.hookup).element(other.element).part)
            at = f"At {frequency(item.point.frequency_hz)}, {level_said(item.point)}, {end_of(job, item)}"
            means = "a tuner lies between" if other.tuner else f"at the first meter {window_said(other.carried)}"
            yield (
                f"{at}: {part.label}, further on, shows SWR {swr_of(other.shown)} ({means}); its window with that end "
                f"is {window_said(other.window)}."
            )
    yield from _found(result)


def _found(result: Matches) -> Iterator[str]:
    for both in balances(result):
        at = f"At {frequency(both.turned.point.frequency_hz)}, {level_said(both.turned.point)}"
        yield (
            f"{at}, turned round on {end_of(result.job, both.straight)}, its reflected arm shows "
            f"{signed(f'{both.db:.2f}', plus=True)} ± {both.expanded_u_db:.2g}{THIN}dB of what its forward arm shows."
        )
    for item in by_level(result):
        if item.fitted is None:
            continue
        at = f"At {frequency(item.points[0].point.frequency_hz)}, {plain(item.points[0].point.target_w, 'W')}"
        scale = percent(item.fitted.scale - 1.0, plus=True)
        yield (
            f"{at}, {item.fitted.ends} ends give it a directivity of {directivity_said(item.directivity_db)} and a "
            f"scale {scale} (± {percent(2.0 * item.fitted.u_scale)}) off."
        )


def chart(
    job: Job, result: Matches, left: Matches | None = None, over: str = FREQUENCY, _curves: bool = False
) -> Chart:
    """The error of ρ over frequency or level, a series for each end."""
    return ends_chart(job, result, left, over, quantity="error of ρ")


def cards(seen: Seen[Matches], number: str) -> tuple[Card, ...]:
    """Both sizes: what it shows where the truth is known, end by end."""
    result = seen.final
    shown = {item.point.id: item for item in result.points}

    def cell(item: Stated) -> str:
        found = shown[item.point.id]
        return f"{shown_said(found)} for {expected_said(found)}"

    foot = f"SWR shown for SWR known; {claims_said(seen.job)}"
    return tuple(
        card_of(seen.job, result.stated, size, number, "SWR", foot, cell, lambda item: item.point.leg)
        for size in (LID, BENCH)
    )


COLUMNS = (
    "phase", "frequency / Hz", "level / W", "end", "rounds", "what is judged", "forward / W", "reflected / W",
    "rho shown", "SWR shown", "rho expected", "SWR expected", "rho expected, low", "rho expected, high",
    "Re(Gamma) expected", "Im(Gamma) expected", "window, low", "window, high", "ring, low", "ring, high",
    "other meter, rho shown", "other meter, carried, low", "other meter, carried, high", "error of rho", "U(error)",
    "k", "engine", "directivity claimed / dB", "zone", "verdict",
    "probability that the verdict is wrong",
)  # fmt: skip


def table(seen: Seen[Matches]) -> list[list[Cell]]:
    """Headings and rows, as found and then as left."""
    phases = [(AS_FOUND, seen.found)] + ([(AS_LEFT, seen.left)] if seen.left is not None else [])
    return [[*COLUMNS], *([*_cells(seen.job, phase, item)] for phase, result in phases for item in result.points)]


def _cells(job: Job, phase: str, item: MatchPoint) -> list[Cell]:
    risk = item.decision.risk
    return [
        phase, item.point.frequency_hz, item.point.target_w, end_of(job, item), item.rounds, str(item.kind),
        "" if item.forward_w is None else item.forward_w, "" if item.reflected_w is None else item.reflected_w,
        item.shown, _swr(item.shown), item.expected, _swr(item.expected), *item.expected_interval, item.gamma.real,
        item.gamma.imag, *item.window, *item.ring, *_of_other(item), item.error,
        (item.interval[1] - item.interval[0]) / 2.0, item.k, item.engine, job.tolerance.value,
        str(item.decision.zone), str(item.decision.verdict), "" if risk is None else risk,
    ]  # fmt: skip


def _of_other(item: MatchPoint) -> list[Cell]:
    return [item.others[0].shown, *item.others[0].carried] if item.others else ["", "", ""]


def _swr(rho: float) -> Cell:
    return (1.0 + rho) / (1.0 - rho) if rho < 1.0 else ""
