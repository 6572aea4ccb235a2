"""The correction card for a meter's lid: what a reading is to be multiplied by, at each frequency that was read.

Two sizes: a lid card the size of a bank card, and a bench card of A6. Nothing is stated at a frequency that was not
read; where nothing was a reference the card shows a dash. A ruler line proves that it was printed to scale.
"""

from fenmist.calibration.job import Job
from fenmist.errors import OutOfRangeError
from fenmist.procedures.comparison.reduction import PointResult, Result
from fenmist.procedures.page import BENCH, LID, SIZES, Card
from fenmist.units.display import frequency, percent, plain, rounded
from fenmist.units.moment import day_of

LEVELS = {LID: 3, BENCH: 6}
"""Columns of levels that fit."""

ROWS = {LID: 9, BENCH: 18}
"""Lines that fit."""


def card(job: Job, result: Result, size: str, number: str = "") -> Card:
    """The card of a job's results (as left, where adjusted).

    Raises
    ------
    OutOfRangeError
        Where nothing was read.
    """
    if not result.points:
        raise OutOfRangeError("There is nothing to put on a card: no point has been read yet.", "Read a point first.")
    device = job.dut_part
    keys = sorted({(item.point.target_w, item.point.range_id) for item in result.points})
    shown, tones = keys[-LEVELS[size] :], sorted({item.point.frequency_hz for item in result.points})
    many = len({used for _, used in shown}) > 1
    columns = ("at", *(f"{plain(level, 'W')}{f', range {used}' if many else ''}" for level, used in shown))
    found = {(i.point.frequency_hz, i.point.target_w, i.point.range_id): i for i in result.points}
    rows = tuple(
        (frequency(f), *(_cell(found.get((f, level, used))) for level, used in shown)) for f in tones[: ROWS[size]]
    )
    out = [plain(level, "W") for level, _ in keys[: -LEVELS[size]]] + [frequency(f) for f in tones[ROWS[size] :]]
    last = day_of(job.last_at)
    worst = max(item.expanded_u_ratio for item in result.points)
    return Card(
        size, *SIZES[size], f"{device.label}: multiply the reading by",
        " · ".join(text for text in (device.serial, last, number and f"No. {number}", job.place) if text),
        columns, rows, f"each ± at most {percent(worst)} (95 %); between the lines as between them, outside not",
        f"not on this card: {', '.join(out)}" if out else "", job.demo,
    )  # fmt: skip


def _cell(item: PointResult | None) -> str:
    if item is None or not item.is_reference:
        return "—"
    return rounded(item.factor, 3 if item.expanded_u_ratio < 0.005 else 2)
