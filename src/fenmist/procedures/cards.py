"""Cards for a lid or a bench: a cell for each frequency and level that was read, in two sizes.

Two sizes: a lid card the size of a bank card, and a bench card of A6. Nothing is stated at a frequency that was not
read. A ruler line proves that it was printed to scale.
"""

from collections.abc import Callable, Sequence

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Stated
from fenmist.errors import OutOfRangeError
from fenmist.procedures.page import BENCH, LID, SIZES, Card
from fenmist.units.display import frequency, plain
from fenmist.units.moment import day_of

LEVELS = {LID: 3, BENCH: 6}
"""Columns of levels that fit."""

ROWS = {LID: 9, BENCH: 18}
"""Lines that fit."""


def card_of(
    job: Job, stated: Sequence[Stated], size: str, number: str, says: str, foot: str, cell: Callable[[Stated], str]
) -> Card:
    """A card of what is stated; `says` stands behind the device's name, `cell` is what stands for a point.

    Raises
    ------
    OutOfRangeError
        Where nothing was read.
    """
    if not stated:
        raise OutOfRangeError("There is nothing to put on a card: no point has been read yet.", "Read a point first.")
    device = job.dut_part
    keys = sorted({(item.point.target_w, item.point.range_id) for item in stated})
    shown, tones = keys[-LEVELS[size] :], sorted({item.point.frequency_hz for item in stated})
    many = len({used for _, used in shown}) > 1
    columns = ("at", *(f"{plain(level, 'W')}{f', range {used}' if many else ''}" for level, used in shown))
    found = {(i.point.frequency_hz, i.point.target_w, i.point.range_id): i for i in stated}
    at = [[found.get((f, level, used)) for level, used in shown] for f in tones[: ROWS[size]]]
    rows = tuple(
        (frequency(f), *("—" if item is None or not item.usable else cell(item) for item in line))
        for f, line in zip(tones, at, strict=False)
    )
    out = [plain(level, "W") for level, _ in keys[: -LEVELS[size]]] + [frequency(f) for f in tones[ROWS[size] :]]
    return Card(
        size, *SIZES[size], f"{device.label}: {says}",
        " · ".join(
            text for text in (device.serial, day_of(job.last_at), number and f"No. {number}", job.place) if text
        ),
        columns, rows, foot, f"not on this card: {', '.join(out)}" if out else "", job.demo,
    )  # fmt: skip
