"""What has to be said of a design before it is built."""

import math
from collections.abc import Iterator

import numpy as np

from fenmist.design.design import Design
from fenmist.design.response import holds, respond
from fenmist.design.shapes import ENDS, PADS, SPLITTERS, TAPS, Shape
from fenmist.design.shortcut import low_corner_hz, shortcut_db
from fenmist.design.spread import Spread
from fenmist.design.stress import DERATING, PortStrain, Strain
from fenmist.findings.note import Note, Severity
from fenmist.units.display import frequency, percent, plain, rounded
from fenmist.units.level import dbm_from_watts

SHORTCUT = 0.05
"""dB from which the usual shortcut's error is worth a word (Fenmist's own)."""

THROUGH_SWR = 1.1
"""SWR on the line from which a tap disturbs what it measures (common practice for power work)."""

BURNS_V = 30.0
"""RF volts at a bare connector that burn (common practice)."""

FEW_GOOD = 0.9
"""Share of those built that hold, below which tighter resistors or a trimmed value are worth it (Fenmist's own)."""


def judge(
    design: Design, pieces: tuple[Strain, ...], ports: tuple[PortStrain, ...], spread: Spread
) -> tuple[Note, ...]:
    """Notes on a design, the most severe first.

    Parameters
    ----------
    design : Design
        With what was chosen for it.
    pieces, ports, spread
        What `stress` and `spread` made of it.
    """
    notes = [
        *_heat(design, pieces), *_volts(pieces), *_sensor(design, ports), *_span(design), *_through(design),
        *_spread(design, spread), *_shape(design), *_touch(ports),
    ]  # fmt: skip
    return tuple(sorted(notes, key=lambda note: note.severity.rank))


def _heat(design: Design, pieces: tuple[Strain, ...]) -> Iterator[Note]:
    resistors = [item for item in pieces if item.is_resistor]
    unrated = [item for item in resistors if item.rated_w is None]
    if unrated:
        worst = max(unrated, key=lambda item: item.power_w)
        yield Note(
            "design.rating_unknown", Severity.WATCH, "design",
            f"Nobody says what {worst.spot} bears.",
            f"{worst.id} ({worst.label}) takes {plain(worst.power_w, 'W', 3)} at {plain(design.ask.power_w, 'W')}.",
            f"Choose parts rated {plain(worst.power_w / DERATING, 'W', 2)} or more, and type their rating.",
            {"power_w": worst.power_w},
        )  # fmt: skip
    rated = [item for item in resistors if item.used is not None]
    if not rated:
        return
    hot = max(rated, key=lambda item: item.used or 0.0)
    used, seconds = hot.used or 0.0, design.ask.keydown_s
    rise = hot.rise(seconds) or 0.0
    if used > DERATING:
        over = used > 1.0
        after = f"{percent(rise)} of what it may warm by after {plain(seconds, 's')}"
        yield Note(
            "design.heat", Severity.STOP if rise > 1.0 else Severity.DOUBT if over else Severity.WATCH, "design",
            f"{hot.id} ({hot.label}) takes {plain(hot.power_w, 'W', 3)}; it is rated {plain(hot.rated_w or 0.0, 'W')}.",
            f"That is {percent(used)} of its rating, {after}; in a closed box half is used.",
            "Share it over more pieces, take larger ones, or key less and shorter.",
            {"used": used, "rise": rise},
        )  # fmt: skip
    faulty = max(rated, key=lambda item: item.fault_w / (item.rated_w or 1.0))
    if faulty.fault_w > (faulty.rated_w or math.inf) and used <= 1.0:
        yield Note(
            "design.fault", Severity.WATCH, "design",
            f"On an open or shorted line {faulty.id} ({faulty.label}) takes {plain(faulty.fault_w, 'W', 3)}.",
            f"It is rated {plain(faulty.rated_w or 0.0, 'W')}: volts or amperes double where all comes back, unless "
            "the transmitter folds back.",
            "Carrier off at once if the SWR is high; or take a larger one.",
            {"fault_w": faulty.fault_w},
        )  # fmt: skip


def _volts(pieces: tuple[Strain, ...]) -> Iterator[Note]:
    over = [item for item in pieces if item.rated_volts is not None and item.volts > item.rated_volts]
    if over:
        worst = max(over, key=lambda item: item.volts / (item.rated_volts or 1.0))
        yield Note(
            "design.volts", Severity.STOP, "design",
            f"{plain(worst.volts, 'V', 3)} lie across {worst.id} ({worst.label}).",
            f"It is rated {plain(worst.rated_volts or 0.0, 'V')}.", "Take more in series.", {"volts": worst.volts},
        )  # fmt: skip
    for item in pieces:
        if not item.is_resistor:
            yield Note(
                "design.capacitor", Severity.GOOD_TO_KNOW, "design",
                f"The capacitor “{item.id}” sees {plain(item.volts, 'V', 3)} rms, "
                f"{plain(item.fault_volts, 'V', 3)} where all comes back.",
                "A DC voltage on the line comes on top.", "Take one rated for both, with a good margin.",
                {"volts": item.volts},
            )  # fmt: skip


def _sensor(design: Design, ports: tuple[PortStrain, ...]) -> Iterator[Note]:
    side = next((item for item in ports if item.port == "side"), None)
    if side is None or design.shape not in TAPS:
        return
    if design.ask.by_volts:
        yield Note(
            "design.sensor", Severity.GOOD_TO_KNOW, "design",
            f"What is plugged in sees {plain(side.volts * 2.0 * math.sqrt(2.0), 'Vpp', 3)}, "
            f"{plain(side.fault_volts * 2.0 * math.sqrt(2.0), 'Vpp', 3)} where all comes back.",
            "A 50 Ω sensor instead of it would load the output: other figures hold then.",
            "Say what it is connected to before any figure is used.", {"volts": side.volts},
        )  # fmt: skip
        return
    level = float(dbm_from_watts(side.power_w))
    yield Note(
        "design.sensor", Severity.WATCH, "design",
        f"The sensor gets {plain(side.power_w, 'W', 3)}, {rounded(level, 1, plus=True)}\u202fdBm; "
        f"{rounded(level + 20.0 * math.log10(side.fault_volts / side.volts), 1, plus=True)}\u202fdBm where all comes "
        "back.",
        "Too much destroys it: pad first, then key.", "Hold that against the sensor's limit, with 10 dB to spare.",
        {"power_w": side.power_w},
    )  # fmt: skip


def _span(design: Design) -> Iterator[Note]:
    if design.shape is Shape.GAP_TAP:  # rises all along: said with its harmonics
        return
    ask, span = design.ask, holds(design)
    unit = "SWR" if design.shape in ENDS else str(design.layout.target) or "loss"
    if span is None:
        yield Note(
            "design.misses", Severity.DOUBT, "design",
            f"It doesn't hold its {unit} within {plain(ask.within_db, 'dB')} anywhere near the band.",
            "The values, or what was chosen to make them, are too far from what is asked.",
            "Choose another stack, or ask for what it makes.", {},
        )  # fmt: skip
        return
    if span.high_hz < ask.high_hz:
        yield Note(
            "design.high_end", Severity.WATCH, "design",
            f"It holds its {unit} within {plain(ask.within_db, 'dB')} up to {_round(span.high_hz)}, not to "
            f"{frequency(ask.high_hz)}.",
            "Capacitance across the resistors and from their joints to the box takes over.",
            "A trim wire, fewer joints, or a tighter build; then prove it.", {"high_hz": span.high_hz},
        )  # fmt: skip
    if span.low_hz > ask.low_hz:
        corner = low_corner_hz(design)
        at = f"Its corner is at {_round(corner)}. " if corner else ""
        yield Note(
            "design.low_end", Severity.WATCH, "design",
            f"It holds its {unit} within {plain(ask.within_db, 'dB')} from {_round(span.low_hz)} on, not from "
            f"{frequency(ask.low_hz)}.",
            f"{at}Below it reads low: at the corner a half, at 0.7 times that a third."
            if design.shape is Shape.TRANSFORMER_TAP else f"{at}A capacitor in the way passes less the lower it gets.",
            "More turns, a better core, a larger capacitor.", {"low_hz": span.low_hz},
        )  # fmt: skip


def _through(design: Design) -> Iterator[Note]:
    if design.shape not in TAPS:
        return
    here = respond(design, np.geomspace(design.ask.low_hz, design.ask.high_hz, 24))
    worst = float(np.max(here.swr))
    if worst > THROUGH_SWR and here.through_db is not None:
        yield Note(
            "design.disturbs", Severity.WATCH, "design",
            f"The line sees SWR {worst:.2f} at worst and loses up to {float(np.max(here.through_db)):.2g}\u202fdB.",
            "What hangs on a line belongs to it.", "Couple less, or leave it in while anything is measured.",
            {"swr": worst},
        )  # fmt: skip


def _spread(design: Design, spread: Spread) -> Iterator[Note]:
    if spread.share < FEW_GOOD:
        yield Note(
            "design.tolerance", Severity.WATCH, "design",
            f"{percent(spread.share)} of those built from such parts lie within {plain(design.ask.within_db, 'dB')}.",
            f"At worst {rounded(spread.low_db, 2, plus=True)} to {rounded(spread.high_db, 2, plus=True)}\u202fdB.",
            "Measure the resistors and type what they are, or take tighter ones.", {"share": spread.share},
        )  # fmt: skip


def _shape(design: Design) -> Iterator[Note]:
    off = shortcut_db(design)
    if off is not None and abs(off.off_db) >= SHORTCUT:
        yield Note(
            "design.shortcut", Severity.GOOD_TO_KNOW, "design",
            f"The shortcut {off.formula} says {rounded(off.says_db, 2)}\u202fdB.",
            f"It is off by {rounded(off.off_db, 2, plus=True)}\u202fdB: {off.why}.", "Use the figure worked out here.",
            {"off_db": off.off_db},
        )  # fmt: skip
    if design.shape is Shape.GAP_TAP:
        yield Note(
            "design.harmonics", Severity.WATCH, "design",
            f"It lifts harmonics: the second by {rounded(_lift(design, 2), 1)}\u202fdB, the third by "
            f"{rounded(_lift(design, 3), 1)}\u202fdB.",
            f"Coupling rises 6 dB an octave; what is asked holds at {_round(design.ask.middle_hz)} alone.",
            "A low-pass behind it, or an analyser that looks at the carrier alone.",
            {"second_db": _lift(design, 2)},
        )  # fmt: skip
    if design.shape in PADS:
        yield Note(
            "design.turned", Severity.WATCH, "design",
            "The power goes in at “in”: the resistors there take most of it.",
            "Turned round, the small ones at the other end would.", "Mark the port on the box.", {},
        )  # fmt: skip
    if design.shape in SPLITTERS:
        yield Note(
            "design.exchange", Severity.GOOD_TO_KNOW, "design",
            "What its outputs differ by goes into a comparison of two meters.",
            "Read, exchange the meters, read again: in the mean of both it is gone.", "Plan both ways.", {},
        )  # fmt: skip


def _lift(design: Design, order: int) -> float:
    here = respond(design, design.ask.middle_hz * np.array([1.0, order])).main_db
    return float(here[0] - here[1])


def _touch(ports: tuple[PortStrain, ...]) -> Iterator[Note]:
    worst = max(ports, key=lambda item: item.volts)
    if worst.volts >= BURNS_V:
        yield Note(
            "design.rf_burn", Severity.WATCH, "design",
            f"{plain(worst.volts, 'V', 3)} rms of RF lie at “{worst.port}”, {plain(worst.fault_volts, 'V', 3)} where "
            "all comes back.",
            "That burns. Resistors stay hot long after the carrier is off.",
            "A closed box; carrier off before anything is touched.", {"volts": worst.volts},
        )  # fmt: skip


def _round(value_hz: float) -> str:
    """A frequency that nobody knows better than to three figures."""
    return plain(value_hz, "Hz", 3)
