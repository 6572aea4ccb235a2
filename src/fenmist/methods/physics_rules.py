"""Rules about the reference's physics: its bandwidth, its lead, its load. Used by jobs and by the tool alike.

Each rule looks at all points at once and says at most one note, however many points it holds for.
"""

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.kit.characterisation import Footing, LoadState
from fenmist.uncertainty.influence import FloatArray
from fenmist.units.display import THIN, frequency, opening, percent, plain
from fenmist.units.impedance import Known
from fenmist.waveform.response import COMFORT_LIMIT, REFERENCE_LIMIT

if TYPE_CHECKING:  # of the tool, which has imported what it asks about
    from fenmist.methods.match import Match
    from fenmist.methods.scope_across_load import ScopeReadings

STUB_WATCH = 0.01
"""Part of the power that a lead may add before it is spoken of (common practice, no source)."""

STUB_DOUBT = 0.05
"""Part of the power from which a computed correction is doubtful (Fenmist's own, no source)."""

OFF_NOMINAL = 0.05
"""Part of the power by which nominal 50 Ω would have been wrong, to be spoken of (Fenmist's own, no source)."""


FORMS_DIFFER = 0.01
"""Relative difference of volts from which two forms are said to differ (common practice, no source)."""


def where(frequencies_hz: FloatArray) -> str:
    """The points meant, in words."""
    distinct = sorted(set(frequencies_hz.tolist()))
    if len(distinct) == 1:
        return f"at {frequency(distinct[0])}"
    span = f"{frequency(distinct[0])} to {frequency(distinct[-1])}"
    return f"at {frequencies_hz.size} points, {span}"


def bandwidth_note(
    about: str,
    name: str,
    frequencies_hz: FloatArray,
    bandwidth_hz: float,
    correction: FloatArray,
    limits: Mapping[str, float],
) -> Note | None:
    """Carrier above a third (doubt) or a fifth (watch) of an instrument's bandwidth; `name` is how it is called."""
    if not math.isfinite(bandwidth_hz):
        return None
    share = frequencies_hz / bandwidth_hz
    doubt = limits.get("reference_limit", REFERENCE_LIMIT)
    comfort = limits.get("comfort_limit", COMFORT_LIMIT)
    over = share > comfort
    if not np.any(over):
        return None
    worst = int(np.argmax(share))
    ratio = 1.0 / float(share[worst])
    worst_hz = float(frequencies_hz[worst])
    evidence: dict[str, float | str] = {"frequency_hz": worst_hz, "bandwidth_hz": bandwidth_hz}
    added = float(correction[worst]) - 1.0
    if share[worst] > doubt:
        return Note(
            "scope.bandwidth", Severity.DOUBT, about,
            f"{opening(name)} is no reference {where(frequencies_hz[share > doubt])}.",
            f"Its bandwidth is {frequency(bandwidth_hz)}, only {ratio:.2g} times the carrier; three times is the "
            f"least. {percent(added)} of power is added for it, itself uncertain by as much: shown, but left "
            "out of the verdict.",
            f"Use one of {plain(5.0 * worst_hz, 'Hz', 2)} or more, or read lower in frequency.",
            evidence,
        )  # fmt: skip
    return Note(
        "scope.bandwidth", Severity.WATCH, about,
        f"{opening(name)} loses {percent(added / (1.0 + added))} of power {where(frequencies_hz[over])}.",
        f"Its bandwidth is {frequency(bandwidth_hz)}, {ratio:.2g} times the carrier; five times is comfortable. "
        "Corrected by its stated response, with an uncertainty as large as the correction.",
        "A wider bandwidth, or a measured response, makes this smaller.",
        evidence,
    )  # fmt: skip


@dataclass(frozen=True)
class Hanging:
    """What leads volts to an instrument: a lead, or a probe with its ground lead."""

    length_m: float  # of the lead, or of the ground lead
    is_probe: bool


def feed_note(about: str, frequencies_hz: FloatArray, added: FloatArray, feed: Hanging) -> Note | None:
    """What hangs on the line lifts the volts by more than a per cent of power; `added` is a part of power."""
    over = np.abs(added) > STUB_WATCH
    if not np.any(over):
        return None
    worst, length_m = int(np.argmax(np.abs(added))), feed.length_m
    evidence: dict[str, float | str] = {
        "frequency_hz": float(frequencies_hz[worst]), "length_m": length_m, "added": float(added[worst])
    }  # fmt: skip
    severe = abs(float(added[worst])) > STUB_DOUBT
    shorter = length_m * math.sqrt(0.5 * STUB_WATCH / abs(float(added[worst])))
    length = plain(length_m, "m")
    if feed.is_probe:
        return Note(
            "probe.ground", Severity.DOUBT if severe else Severity.WATCH, about,
            f"The probe's ground lead adds {percent(float(added[worst]))} of power {where(frequencies_hz[over])}.",
            f"{length} of it rings with the tip's capacitance, so the tip sees more volts than the tee has. Corrected "
            "from its length, with what that is known to.",
            "Use a coaxial tip adapter, or a ground lead of a few millimetres.", evidence,
        )  # fmt: skip
    return Note(
        "lead.stub", Severity.DOUBT if severe else Severity.WATCH, about,
        f"The lead adds {percent(float(added[worst]))} of power {where(frequencies_hz[over])}.",
        f"{length} of cable that ends in the oscilloscope's capacitance is an open stub: the screen sees more volts "
        "than the tee has. Corrected from its length, with what that is known to.",
        f"Keep the lead below {plain(max(shorter, 0.05), 'm', 1)}, or put a divider probe at the tee.",
        evidence,
    )  # fmt: skip


def load_notes(about: str, frequencies_hz: FloatArray, state: LoadState, nominal_ohm: float) -> tuple[Note, ...]:
    """The load is unknown at a frequency, held past its table, known by magnitude only, or not what it says."""
    unknown = np.array([item is Footing.UNKNOWN for item in state.footing])
    held = np.array([item is Footing.HELD for item in state.footing])
    magnitude = np.array([item is Known.MAGNITUDE for item in state.known])
    notes = []
    if np.any(unknown):
        notes.append(_unknown_note(about, frequencies_hz[unknown], nominal_ohm))
    if np.any(held):
        notes.append(_held_note(about, frequencies_hz[held], state, held))
    if np.any(magnitude):
        notes.append(_magnitude_note(about, frequencies_hz[magnitude], state.resistance_ohm[magnitude]))
    note = _off_nominal_note(about, frequencies_hz, state, nominal_ohm, ~unknown & ~magnitude)
    return (*notes, note) if note else tuple(notes)


def _unknown_note(about: str, frequencies_hz: FloatArray, nominal_ohm: float) -> Note:
    return Note(
        "load.unknown_here", Severity.DOUBT, about,
        f"The load was not measured {where(frequencies_hz)}.",
        f"Its nominal {nominal_ohm:g}{THIN}Ω is taken. Loads of 45 to 58{THIN}Ω are met, so the power is "
        "uncertain by 8 % (standard) from this alone.",
        "Measure its impedance at this frequency and type it in the step “parts”.",
        {"count": float(frequencies_hz.size), "nominal_ohm": nominal_ohm},
    )  # fmt: skip


def _held_note(about: str, frequencies_hz: FloatArray, state: LoadState, held: np.ndarray) -> Note:
    spread = float(np.max(state.u_resistance_ohm[held] / state.resistance_ohm[held]))
    return Note(
        "load.unknown_here", Severity.DOUBT, about,
        f"The load's table has no value {where(frequencies_hz)}.",
        f"Its last value is held, with {percent(spread)} standard uncertainty for it.",
        "Measure the load at this frequency as well.",
        {"count": float(frequencies_hz.size), "spread": spread},
    )  # fmt: skip


def _magnitude_note(about: str, frequencies_hz: FloatArray, magnitude_ohm: FloatArray) -> Note:
    return Note(
        "load.phase_unknown", Severity.DOUBT, about,
        f"Only the load's magnitude is known {where(frequencies_hz)}.",
        "V²/|Z| is too high by 1/cos φ. A phase within ±30° is assumed: 7 % taken off, ±7 % kept.",
        "Note the SWR beside |Z|, or use an analyser that shows resistance and reactance.",
        {"count": float(frequencies_hz.size), "magnitude_ohm": float(magnitude_ohm[0])},
    )  # fmt: skip


def _off_nominal_note(
    about: str, frequencies_hz: FloatArray, state: LoadState, nominal_ohm: float, known: np.ndarray
) -> Note | None:
    square = state.resistance_ohm**2 + state.reactance_ohm**2
    wrong = np.where(known, square / (state.resistance_ohm * nominal_ohm) - 1.0, 0.0)
    over = np.abs(wrong) > OFF_NOMINAL
    if not np.any(over):
        return None
    worst = int(np.argmax(np.abs(wrong)))
    r, x = float(state.resistance_ohm[worst]), float(state.reactance_ohm[worst])
    shown = f"{r:.1f}{THIN}Ω" if x == 0 else f"{r:.1f} {'+' if x > 0 else '−'} j{abs(x):.1f}{THIN}Ω"
    return Note(
        "load.not_nominal", Severity.GOOD_TO_KNOW, about,
        f"The load is {shown} at {frequency(float(frequencies_hz[worst]))}, not {nominal_ohm:g}{THIN}Ω.",
        f"Taken for {nominal_ohm:g}{THIN}Ω the power would come out wrong by "
        f"{percent(float(wrong[worst]), plus=True)}. The measured value is used.",
        "Nothing to do. Measure it hot as well if it runs long.",
        {"resistance_ohm": r, "reactance_ohm": x, "nominal_ohm": nominal_ohm},
    )  # fmt: skip


def match_notes(about: str, match: "Match") -> tuple[Note, ...]:
    """Linear theory would put the SWR below 1, where nothing lies."""
    if match.linear_low >= 1.0:
        return ()
    low, high = match.swr_interval
    return (
        Note(
            "swr.below_one", Severity.GOOD_TO_KNOW, about,
            f"The SWR at the tee lies from {low:.2f} to {high:.2f}, by Monte Carlo.",
            f"It is near 1: {match.swr:.2f} ± its uncertainty would go below 1, where no SWR lies.",
            "Nothing to do. State the window, or an upper bound.",
            {"swr": match.swr, "low": low, "high": high},
        ),
    )  # fmt: skip


def forms_note(first: str, second: str, difference: float, places: str = "") -> Note | None:
    """Two forms of the same volts, `difference` apart in ln V: noise or distortion, if it is a per cent or more."""
    if abs(difference) < FORMS_DIFFER:
        return None
    return Note(
        "entry.forms_differ", Severity.WATCH, "scope",
        f"The same volts taken as {first} and as {second} differ by {percent(abs(difference))} {places}".rstrip() + ".",
        f"{percent(2 * abs(difference))} of power: peak to peak takes the outermost samples, so noise lifts it; "
        "harmonics move each form in its own way.",
        "Take rms or a sine fit at all points, and state the noise at the oscilloscope.", {"difference": difference},
    )  # fmt: skip


def physics_notes(inputs: "ScopeReadings") -> tuple[Note, ...]:
    """Bandwidth and lead of one power from volts."""
    from fenmist.methods.scope_across_load import power_corrections
    from fenmist.methods.scope_chain import Probe

    f, chain = inputs.frequency_hz, inputs.chain
    found = [
        bandwidth_note("scope", "The oscilloscope", f, chain.bandwidth_hz, power_corrections(inputs)["bandwidth"], {})
    ]
    if chain.feed is not None:
        is_probe = isinstance(chain.feed, Probe)
        length_m = chain.feed.ground_m if isinstance(chain.feed, Probe) else chain.feed.length_m
        found.append(feed_note("lead", f, chain.feed_transfer(f) ** 2 - 1.0, Hanging(length_m, is_probe)))
    return tuple(note for note in found if note is not None)
