"""What leaks past a tap: the sensor's feed replaced by a shielded resistor, the carrier on.

What is left then came another way. It adds to the reading in a phase that nobody knows: with a drop of d dB the reading
is off by 20·log10(1 ± 10^(−d/20)) at most, 0.27 dB at 30 dB, 0.09 dB at 40 dB. Page: docs/method/leakage.md.
"""

import math

from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.units.display import plain, rounded
from fenmist.units.level import dbm_from_watts
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS

LEAST_DROP_DB = 30.0
"""By how much the reading has to fall (common practice, no source)."""

MOVED_DB = 0.1
"""dB by which a reading may move with the leads (Fenmist's own)."""


@dataclass(frozen=True)
class LeakageAnswer:
    """What leaks."""

    drop_db: float
    is_bound: bool  # the sensor showed nothing more: it fell by that or further
    worst_db: float  # the most that a reading is off by, upwards
    lowest_db: float  # the same downwards, below 0
    u_db: float  # standard uncertainty of a reading from it
    notes: tuple[Note, ...]


@dataclass(frozen=True)
class LeakageRequest:
    """Two readings, and a third with the leads moved, as typed."""

    working: str  # "+10.0 dBm"
    replaced: str  # "-28 dBm", or "<-50 dBm" where it shows nothing
    moved: str = ""

    def __call__(self) -> LeakageAnswer:
        """What follows; raises UnreadableError, OutOfRangeError with the field's name."""
        working = _dbm(value_from_text(self.working, UNITS["dBm"], "working level", "10.0 dBm"))
        is_bound = self.replaced.strip().startswith("<")
        left = self.replaced.strip().lstrip("< ")
        drop = working - _dbm(value_from_text(left, UNITS["dBm"], "with the feed replaced", "-28 dBm"))
        ratio = 10.0 ** (-drop / 20.0)
        worst = 20.0 * math.log10(1.0 + ratio)
        lowest = 20.0 * math.log10(1.0 - ratio) if ratio < 1.0 else -math.inf
        moved = None
        if self.moved.strip():
            moved = _dbm(value_from_text(self.moved, UNITS["dBm"], "leads moved", "10.0 dBm")) - working
        u = 20.0 / math.log(10.0) * ratio / math.sqrt(2.0)  # any phase: U-shaped
        return LeakageAnswer(drop, is_bound, worst, lowest, u, tuple(_notes(drop, worst, moved)))


def _dbm(power_w: float) -> float:
    return float(dbm_from_watts(power_w))


def _notes(drop: float, worst: float, moved: float | None) -> list[Note]:
    found = []
    if drop < LEAST_DROP_DB:
        found.append(
            Note(
                "leakage.too_much", Severity.DOUBT, "tool",
                f"The reading falls by {rounded(drop, 1)}\u202fdB only.",
                f"What is left comes another way and may put {rounded(worst, 2)}\u202fdB on it; "
                f"{plain(LEAST_DROP_DB, 'dB')} or more is wanted.",
                "Close the box, move the leads, put a choke over the sensor's, tighten connectors; then try again.",
                {"drop_db": drop},
            )
        )  # fmt: skip
    if moved is not None and abs(moved) >= MOVED_DB:
        found.append(
            Note(
                "leakage.moves", Severity.DOUBT, "tool",
                f"It moves by {rounded(moved, 2, plus=True)}\u202fdB with the leads.",
                "RF runs on the outside of a cable; where it lies decides what is read.",
                "Record nothing before a choke or another way of the leads has ended that.", {"moved_db": moved},
            )
        )  # fmt: skip
    return found
