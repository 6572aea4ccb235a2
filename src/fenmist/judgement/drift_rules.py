"""Rules about the carrier in time: it moved during a point, it bends, or nothing could show whether it did."""

import math
from collections.abc import Iterator

from fenmist.calibration.outcome import Outcome
from fenmist.calibration.rounds import AMPLITUDES, PointReadings
from fenmist.findings.note import Note, Severity
from fenmist.judgement.entry_rules import at_point
from fenmist.units.display import percent

MOVED = 0.01
"""Change of the reference's power within a point from which a drift is spoken of (Fenmist's own, no source)."""

FOLDED = 0.10
"""Change from which it is no drift any more: droop, fold-back, another power setting (Fenmist's own, no source)."""

CURVED = 0.2
"""Part of U that the drift's curvature may leave (common practice, no source)."""


def _change(found: PointReadings) -> float:
    """Largest less smallest ln(power) of the reference within one round of a point; signed by time."""
    return max((one.change for one in found.rounds), key=abs, default=0.0)


def reference_moved(result: Outcome) -> Iterator[Note]:
    """The reference changed during a round by more than it can be read to."""
    moved = [item for item in result.readings if MOVED < abs(_change(item)) > 3.0 * _readable(item)]
    if not moved:
        return
    worst = max(moved, key=lambda item: abs(_change(item)))
    change = _change(worst)
    severe = abs(change) > FOLDED
    places = at_point(worst.point) if len(moved) == 1 else f"at {len(moved)} points"
    yield Note(
        "source.moved", Severity.DOUBT if severe else Severity.WATCH, "source",
        f"The carrier moved by {percent(math.expm1(change), plus=True)} within a round {places}.",
        "The reference was read before and after the meter, and its change is taken out by time; what may be left is "
        "in the budget." if not severe
        else "That is more than warming up: a transmitter that folds back, droops, or was set anew.",
        "Let it warm up, read faster, and look at the match; read the round again." if severe
        else "Let it warm up, or read faster.",
        {"change": change, "points": float(len(moved))},
    )  # fmt: skip


def _readable(found: PointReadings) -> float:
    """Relative standard uncertainty of a difference of two readings of the reference, in power.

    Infinite where one shows nothing: near its floor it tells no drift.
    """
    readings = [item.reading for one in found.rounds for item in one.references]
    if any(r.value <= 0.0 for r in readings):
        return math.inf
    once = [(2.0 if r.unit in AMPLITUDES else 1.0) * r.digit / math.sqrt(12.0) / r.value for r in readings]
    return math.sqrt(2.0) * max(once, default=0.0)


def drift_curves(result: Outcome) -> Iterator[Note]:
    """What is left of the drift after interpolating in time is more than a fifth of U."""
    bent = [(point.drift_limit, point) for point in result.stated if point.drift_limit > CURVED * point.relative_u]
    if not bent:
        return
    left, point = max(bent, key=lambda pair: pair[0])
    places = at_point(point.point) if len(bent) == 1 else f"at {len(bent)} points"
    yield Note(
        "drift.curvature", Severity.WATCH, "source",
        f"The carrier's drift may leave {percent(left)} {places}, more than a fifth of U.",
        "A warming transmitter falls as an exponential; between two readings of the reference it is taken as straight.",
        "Read reference, meter, reference closer together, or let it warm up.",
        {"left": left, "points": float(len(bent))},
    )  # fmt: skip


def drift_unseen(result: Outcome) -> Iterator[Note]:
    """Points with a single reading of the reference: nothing there can show a drift."""
    read = [item for item in result.readings if item.rounds]
    blind = [item for item in read if sum(len(one.references) for one in item.rounds) == 1]
    if not blind:
        return
    places = "any point" if len(blind) == len(read) else f"{len(blind)} of {len(read)} points"
    yield Note(
        "drift.unseen", Severity.GOOD_TO_KNOW, "source", f"Nothing shows whether the carrier drifted at {places}.",
        "The reference was read once there, so no drift can be corrected.",
        "Read reference, meter, reference, or two rounds.", {"points": float(len(blind))},
    )  # fmt: skip


def times_unknown(result: Outcome) -> Iterator[Note]:
    """Readings copied from paper carry no time, so a drift can't be taken out by time."""
    unknown = [
        item
        for item in result.readings
        if any(taken.at_s is None for one in item.rounds for taken in (*one.references, *one.duts))
        and any(len(one.references) > 1 for one in item.rounds)
    ]
    if unknown:
        yield Note(
            "drift.no_times", Severity.WATCH, "source", f"The times of readings are unknown at {len(unknown)} points.",
            "The mean of the references is taken, and half of their change stays in the budget.",
            "Type readings as they are made, or write their times down.", {"points": float(len(unknown))},
        )  # fmt: skip
