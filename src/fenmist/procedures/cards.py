"""Cards for a lid or a bench: a cell for each frequency and level that was read, in two sizes.

Two sizes: a lid card the size of a bank card, and a bench card of A6. Nothing is stated at a frequency that was not
read. A ruler line proves that it was printed to scale.
"""

from collections.abc import Callable, Sequence

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Stated
from fenmist.calibration.sent import level_said, stated_as
from fenmist.errors import OutOfRangeError
from fenmist.procedures.page import BENCH, LID, SIZES, Card
from fenmist.units.display import frequency
from fenmist.units.moment import day_of

LEVELS = {LID: 3, BENCH: 6}
"""Columns of levels that fit."""

ROWS = {LID: 9, BENCH: 18}
"""Lines that fit."""


def card_of(
    job: Job, stated: Sequence[Stated], size: str, number: str, says: str, foot: str, cell: Callable[[Stated], str],
    column: Callable[[Stated], str] | None = None,
) -> Card:  # fmt: skip
    """A card of what is stated; `says` stands behind the device's name, `cell` is what stands for a point.

    A column for each level and range, or for what `column` says of a point: then the highest level counts.

    Raises
    ------
    OutOfRangeError
        Where nothing was read.
    """
    if not stated:
        raise OutOfRangeError("There is nothing to put on a card: no point has been read yet.", "Read a point first.")
    device = job.dut_part
    names = _levels(job, stated) if column is None else [column(item) for item in stated]
    keys = list(dict.fromkeys(name for _, name in sorted(zip(_order(stated, column), names, strict=True))))
    shown = keys[-LEVELS[size] :] if column is None else keys[: LEVELS[size]]
    tones = sorted({item.point.frequency_hz for item in stated})
    rising = sorted(zip(stated, names, strict=True), key=lambda pair: pair[0].point.target_w)
    found = {(item.point.frequency_hz, name): item for item, name in rising}
    at = [[found.get((f, name)) for name in shown] for f in tones[: ROWS[size]]]
    rows = tuple(
        (frequency(f), *("—" if item is None or not item.usable else cell(item) for item in line))
        for f, line in zip(tones, at, strict=False)
    )
    out = [name for name in keys if name not in shown] + [frequency(f) for f in tones[ROWS[size] :]]
    return Card(
        size, *SIZES[size], f"{device.label}: {says}",
        " · ".join(
            text for text in (device.serial, day_of(job.last_at), number and f"No. {number}", job.place) if text
        ),
        ("at", *shown), rows, foot, f"not on this card: {', '.join(out)}" if out else "", job.demo,
    )  # fmt: skip


def _levels(job: Job, stated: Sequence[Stated]) -> list[str]:
    """The level of each, as what it is stated where that isn't its PEP, and its range where several are used."""
    many = len({item.point.range_id for item in stated}) > 1
    return [
        f"{level_said(item.point)}{stated_as(job, item.point)}{f', range {item.point.range_id}' if many else ''}"
        for item in stated
    ]


def _order(stated: Sequence[Stated], column: Callable[[Stated], str] | None) -> list[tuple[float, str]]:
    """By what columns stand in a row: levels and ranges rising, else as they come."""
    if column is None:
        return [(item.point.target_w, item.point.range_id) for item in stated]
    places: dict[str, float] = {}
    return [(places.setdefault(column(item), float(len(places))), "") for item in stated]
