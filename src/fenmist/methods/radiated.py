"""Radiated power: from the transmitter through line and antenna, from the antenna's current, from the field far away.

Each way multiplies; what is uncertain of its factors adds as squares of their logarithms, and the interval is as wide
upwards as downwards in dB. Where nothing is said of a factor what is usual is taken, and it is large. A frozen request:
call it for the answer. Page: docs/method/radiated.md.

>>> answer = RadiatedRequest(current="2 A", height="15 m", frequency="474 kHz")()
>>> round(answer.resistance_ohm, 3), round(answer.eirp_w, 2), round(answer.erp_w, 2), round(answer.emrp_w, 2)
(0.222, 2.66, 1.62, 0.89)
"""

import math
import re
from collections.abc import Iterator, Mapping
from dataclasses import replace

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.methods.limited import Limited, above_nothing, limited
from fenmist.rf.antenna import (
    HALF_WAVE_DIPOLE,
    SHORT_MONOPOLE,
    base_reactance_ohm,
    effective_height_m,
    eirp_from_field_w,
    field_from_eirp_v_per_m,
    short_monopole_resistance_ohm,
    wavelength_m,
)
from fenmist.rf.reflection import reflection_from_swr
from fenmist.units.display import frequency, percent, plain
from fenmist.units.typed import number_from_text, tidy, value_from_text
from fenmist.units.unit import UNITS

NEPER = 10.0 / math.log(10.0)
"""dB of a factor e of power."""

USUAL = {"power": 0.05, "current": 0.05, "height": 0.2, "distance": 0.02}
"""Limits as parts of the value, where nothing is said: a meter, an ammeter, a vertical over real ground with things
about, a map (common practice, no source; the height is Fenmist's own)."""

USUAL_DB = {"gain": 2.0, "field": 3.0}
"""The same in dB: an antenna's gain from its maker or a table, a field over real ground (common practice)."""

UNSTATED_DB = 5.0
"""By which an antenna of which nothing is stated may be off from 0 dBi (Fenmist's own, no source)."""

USUAL_LOSS = 0.2
"""Part of a line's loss by which it may be off, and 0.1 dB (common practice, no source)."""

LEAST_LOSS_DB = 0.1

LESS_ABOVE, MORE_ABOVE = 0.85, 1.05
"""Current above a coil over that below it: below the first it leaks, above the second one reading is off; two ammeters
of 5 % differ by less (common practice, no source)."""

SHORT = 0.1
"""Effective height in wavelengths from which a vertical is no longer short (Fenmist's own, no source)."""

REFLECTED = 2.0
"""By which a reflection can raise a field: both waves in step (derived)."""

FAR = 1.0
"""Wavelengths from which a field is taken for far (common practice: beyond λ/2π by a good deal)."""

POWER, CURRENT, FIELD = "power", "current", "field"
"""Ways to it."""

EIRP, ERP, EMRP = "EIRP", "ERP", "e.m.r.p."
OVER: Mapping[str, float] = {EIRP: 1.0, ERP: HALF_WAVE_DIPOLE, EMRP: SHORT_MONOPOLE}
"""How many times as much EIRP there is of each."""


@dataclass(frozen=True)
class Line:
    """One line of a way's budget."""

    name: str
    u: float  # standard, of the logarithm of the power
    limit: str  # as it was typed, or what was assumed
    is_assumed: bool


@dataclass(frozen=True)
class Way:
    """EIRP by one way, with everything that is uncertain."""

    name: str
    eirp_w: float
    lines: tuple[Line, ...]

    @property
    def u(self) -> float:
        """Standard uncertainty of the logarithm."""
        return math.sqrt(sum(line.u**2 for line in self.lines))

    @property
    def interval_w(self) -> tuple[float, float]:
        """About 95 %, k = 2."""
        wide = math.exp(2.0 * self.u)
        return self.eirp_w / wide, self.eirp_w * wide

    @property
    def largest(self) -> Line:
        """The line to be mended first."""
        return max(self.lines, key=lambda line: line.u)

    @property
    def share(self) -> float:
        """Its part of the variance."""
        return (self.largest.u / self.u) ** 2 if self.u else 0.0


@dataclass(frozen=True)
class Radiated:
    """What is radiated, by the surest way that was given."""

    way: Way
    ways: tuple[Way, ...]
    resistance_ohm: float | None  # radiation resistance; none where no height is known
    base_ohm: float | None  # resistance of the whole antenna: power at its base over the square of its current
    u_base: float  # of its logarithm, standard
    gain_dbi: float | None  # that follows from those two
    limit_w: float | None  # as EIRP
    power_w: float | None  # of the transmitter, as typed
    current_a: float | None
    people_m: float | None  # distance of the nearest people
    notes: tuple[Note, ...]

    @property
    def eirp_w(self) -> float:
        """Over an isotropic radiator."""
        return self.way.eirp_w

    @property
    def erp_w(self) -> float:
        """Over a half-wave dipole."""
        return self.eirp_w / HALF_WAVE_DIPOLE

    @property
    def emrp_w(self) -> float:
        """Over a short vertical on perfect ground."""
        return self.eirp_w / SHORT_MONOPOLE

    @property
    def interval_w(self) -> tuple[float, float]:
        """Of the EIRP, about 95 %."""
        return self.way.interval_w

    @property
    def field_v_per_m(self) -> tuple[float, float] | None:
        """Field where the nearest people are, and the most that it may be: upper end, doubled by a reflection."""
        if self.people_m is None:
            return None
        low, high = (field_from_eirp_v_per_m(watts, self.people_m) for watts in (self.eirp_w, self.interval_w[1]))
        return low, REFLECTED * high

    @property
    def base_interval_ohm(self) -> tuple[float, float]:
        """Of the whole antenna's resistance, about 95 %; nothing where it isn't known."""
        middle, wide = self.base_ohm or 0.0, math.exp(2.0 * self.u_base)
        return middle / wide, middle * wide

    @property
    def heat_w(self) -> float | None:
        """What coil and ground take of the power at its base, W; none where it isn't known, or more is radiated."""
        if self.base_ohm is None or self.resistance_ohm is None or self.current_a is None:
            return None
        lost = self.base_ohm - self.resistance_ohm
        return self.current_a**2 * lost if lost > 0.0 else None

    @property
    def power_at_limit_w(self) -> float | None:
        """Power of the transmitter at which the limit is reached; its interval is as wide in dB as the EIRP's."""
        return self._at_limit(self.power_w, 1.0)

    @property
    def current_at_limit_a(self) -> float | None:
        """Current at the base at which it is."""
        return self._at_limit(self.current_a, 0.5)

    def _at_limit(self, value: float | None, root: float) -> float | None:
        if value is None or self.limit_w is None:
            return None
        return float(value * (self.limit_w / self.eirp_w) ** root)


def _line(typed: Limited, name: str, root: float = 1.0) -> Line:
    """Its line of the budget: a rectangle of the logarithm; amplitudes count twice."""
    return Line(name, root * typed.u, typed.said, typed.is_assumed)


@dataclass(frozen=True)
class RadiatedRequest:
    """What is known, as typed; each value may have its limit behind ±."""

    power: str = ""  # forward power at the transmitter
    line_loss: str = ""  # dB, matched
    swr: str = ""  # at the antenna
    gain: str = ""  # dBi, or dBd
    current: str = ""  # A rms at the base
    height: str = ""  # of a vertical
    top_loading: str = ""  # 0 to 1
    above: str = ""  # A rms above a loading coil
    coil_height: str = ""  # of the coil; at the base where nothing is said
    frequency: str = ""
    field: str = ""  # mV/m or dBµV/m
    distance: str = ""
    limit: str = ""  # W, of EIRP where nothing else is said
    people: str = ""  # distance of the nearest people

    def __call__(self) -> Radiated:
        """The answer; raises UnreadableError, OutOfRangeError."""
        hertz = self._frequency()
        resistance = self._resistance(hertz)
        found = (self._by_current(resistance), self._by_power(), self._by_field())
        ways = tuple(way for way in found if way is not None)
        if not ways:
            raise UnreadableError(
                "Nothing is known of what is radiated.",
                "Type the power, the antenna's current with height and frequency, or a field with its distance.",
            )
        way = min(ways, key=lambda one: one.u)
        power = self._power().value if self.power.strip() else None
        current = self._current().value if self.current.strip() else None
        base = self._at_antenna_w(power) / current**2 if power is not None and current else None
        gain = 10.0 * math.log10(SHORT_MONOPOLE * resistance / base) if resistance and base else None
        limit = _limit(self.limit) if self.limit.strip() else None
        u_base = self._u_base() if base else 0.0
        people = self._people_m()
        made = Radiated(way, ways, resistance, base, u_base, gain, limit, power, current, people, ())
        notes = (
            *_against_limit(made), *self._no_gain(way), *_apart(ways), *self._not_far(hertz), *self._not_short(hertz),
            *self._more_than_all(made), *self._coil(), *self._volts(hertz), *_exposed(made, hertz),
            *_largest(way), *_law(made),
        )  # fmt: skip
        return replace(made, notes=notes)

    # ways

    def _by_power(self) -> Way | None:
        if not self.power.strip():
            return None
        if not self.gain.strip() and (self.current.strip() or self.field.strip()):
            return None  # it is there for the limit
        power, gain, loss = self._power(), self._gain(), self._loss()
        eirp = self._at_antenna_w(power.value) * 10.0 ** (gain.value / 10.0)
        lines = [_line(power, "transmitter's power"), _line(gain, "antenna's gain")]
        if loss.value or not loss.is_assumed:
            lines.append(_line(loss, "line's loss"))
        return Way(POWER, eirp, tuple(lines))

    def _by_current(self, resistance: float | None) -> Way | None:
        if not self.current.strip():
            return None
        if resistance is None:
            raise UnreadableError(
                "From a current alone nothing follows: height and frequency are missing.",
                "Type for example 15 m and 474 kHz.",
            )
        current, above = self._current(), self._above_coil()
        lines = [_line(self._height(), "effective height", 2.0)]
        below = self._share_below()
        if below:
            lines.append(_line(current, "antenna's current", 2.0 * below))
        if above is not None:
            lines.append(_line(above, "current above the coil", 2.0 * (1.0 - below)))
        return Way(CURRENT, SHORT_MONOPOLE * current.value**2 * resistance, tuple(lines))

    def _by_field(self) -> Way | None:
        if not self.field.strip():
            return None
        if not self.distance.strip():
            raise UnreadableError("A field tells nothing without its distance.", "Type for example 5 km.")
        field, distance = self._field(), limited(self.distance, "m", "distance", "5000 m", USUAL["distance"])
        above_nothing(distance.value, "distance", "5000 m")
        lines = (_line(field, "field strength"), _line(distance, "distance", 2.0))
        return Way(FIELD, eirp_from_field_w(field.value, distance.value), lines)

    # values

    def _frequency(self) -> float | None:
        if not self.frequency.strip():
            return None
        hertz = value_from_text(self.frequency, UNITS["MHz"], "frequency", "474 kHz")
        return above_nothing(hertz, "frequency", "474 kHz")

    def _power(self) -> Limited:
        typed = limited(self.power, "W", "power", "50 W", USUAL["power"])
        above_nothing(typed.value, "power", "50 W")
        return typed

    def _people_m(self) -> float | None:
        if not self.people.strip():
            return None
        metres = value_from_text(self.people, UNITS["m"], "distance of people", "10 m")
        return above_nothing(metres, "distance of people", "10 m")

    def _current(self) -> Limited:
        typed = limited(self.current, "A", "current", "2 A", USUAL["current"])
        above_nothing(typed.value, "current", "2 A")
        return typed

    def _height(self) -> Limited:
        typed = limited(self.height, "m", "height", "15 m", USUAL["height"])
        above_nothing(typed.value, "height", "15 m")
        return typed

    def _top(self) -> float:
        return value_from_text(self.top_loading, UNITS[""], "top loading", "0.5") if self.top_loading.strip() else 0.0

    def _above_coil(self) -> Limited | None:
        if not self.above.strip():
            return None
        if not self.current.strip():
            raise UnreadableError(
                "The current above the coil says nothing without the one below it.",
                "Type the current at the base, too.",
            )
        typed = limited(self.above, "A", "current above the coil", "1.7 A", USUAL["current"])
        above_nothing(typed.value, "current above the coil", "1.7 A")
        return typed

    def _coil_height_m(self) -> float:
        """Of the coil, where the current drops; 0 at the base, or where there is none."""
        if not self.coil_height.strip():
            return 0.0
        height = value_from_text(self.coil_height, UNITS["m"], "coil's height", "5 m")
        if not 0.0 <= height < self._height().value:
            raise OutOfRangeError(
                f"A coil at {plain(height, 'm')} isn't on that vertical.", "It stands between its base and its top."
            )
        if not self.above.strip():
            raise UnreadableError("What flows above that coil is missing.", "Type for example 1.7 A.")
        return height

    def _effective_m(self) -> float:
        """Effective height for the current at the base: all of it up to the coil, the rest in a straight line."""
        above = self._above_coil()
        kept = above.value / self._current().value if above is not None else 1.0
        coil = self._coil_height_m()
        return coil + kept * effective_height_m(self._height().value - coil, self._top())

    def _share_below(self) -> float:
        """Part of what radiates that the current at the base makes itself."""
        return self._coil_height_m() / self._effective_m() if self.above.strip() else 1.0

    def _resistance(self, hertz: float | None) -> float | None:
        if not self.height.strip() or hertz is None:
            return None
        return short_monopole_resistance_ohm(self._effective_m(), hertz)

    def _loss(self) -> Limited:
        typed = self.line_loss.strip()
        text, _, limit = typed.partition("±")
        value = value_from_text(text, UNITS["dB"], "line loss", "1 dB") if typed else 0.0
        if not 0.0 <= value <= 100.0:
            raise OutOfRangeError(f"No line loses {value:g}\u202fdB.", "Type its loss in dB, 0 or more.")
        if limit.strip():
            return Limited(value, _decibels(limit, "line loss") / NEPER, f"±{limit.strip()}", False)
        assumed = max(USUAL_LOSS * value, LEAST_LOSS_DB)
        return Limited(value, assumed / NEPER, f"±{assumed:.2g}\u202fdB assumed", True)

    def _gain(self) -> Limited:
        if not self.gain.strip():
            return Limited(0.0, UNSTATED_DB / NEPER, f"0 dBi ±{UNSTATED_DB:g}\u202fdB assumed", True)
        text, _, limit = self.gain.partition("±")
        match = re.fullmatch(r"\s*(.+?)\s*(dBi|dBd|dB|)\s*", tidy(text), re.IGNORECASE)
        if match is None:
            raise UnreadableError("The antenna's gain is missing.", "Type for example -12 dBi.")
        value = value_from_text(match[1], UNITS[""], "gain", "-12 dBi")
        value += 10.0 * math.log10(HALF_WAVE_DIPOLE) if match[2].casefold() == "dbd" else 0.0
        if not -100.0 <= value <= 60.0:
            raise OutOfRangeError(f"No antenna gains {value:g}\u202fdBi.", "Type for example -12 dBi.")
        if limit.strip():
            return Limited(value, _decibels(limit, "gain") / NEPER, f"±{limit.strip()}", False)
        return Limited(value, USUAL_DB["gain"] / NEPER, f"±{USUAL_DB['gain']:g}\u202fdB assumed", True)

    def _field(self) -> Limited:
        text, _, limit = self.field.partition("±")
        match = re.fullmatch(r"\s*(.+?)\s*(dB[µu]V/m|[mµu]?V/m)\s*", tidy(text))
        if match is None:
            raise UnreadableError(f"“{self.field}” is no field strength.", "Type for example 10 mV/m, or 80 dBµV/m.")
        number, unit = number_from_text(match[1])[0], match[2].replace("u", "µ")
        volts = 1e-6 * 10.0 ** (number / 20.0) if unit.startswith("dB") else number * _PREFIX[unit[0]]
        above_nothing(volts, "field", "10 mV/m")
        decibels = _decibels(limit, "field") if limit.strip() else USUAL_DB["field"]
        said = f"±{limit.strip()}" if limit.strip() else f"±{decibels:g}\u202fdB assumed"
        return Limited(volts, decibels / NEPER, said, not limit.strip())

    def _u_base(self) -> float:
        """Of the logarithm of power over current squared."""
        lines = [_line(self._power(), "power"), _line(self._current(), "current", 2.0)]
        lines += [_line(self._loss(), "loss")] if self.line_loss.strip() else []
        return math.sqrt(sum(line.u**2 for line in lines))

    def _at_antenna_w(self, power_w: float) -> float:
        """What gets past the line and isn't sent back, W."""
        swr = value_from_text(self.swr, UNITS[""], "SWR", "1.5") if self.swr.strip() else 1.0
        if not swr >= 1.0:
            raise OutOfRangeError(f"An SWR of {swr:g} makes no sense.", "Type 1 or more.")
        taken = 1.0 - float(reflection_from_swr(swr)) ** 2
        return float(power_w * taken * 10.0 ** (-self._loss().value / 10.0))

    # notes

    def _no_gain(self, way: Way) -> Iterator[Note]:
        if way.name == POWER and not self.gain.strip():
            yield Note(
                "radiated.no_gain", Severity.WATCH, "antenna", "No gain is stated: 0 dBi is taken.",
                f"Antennas lie anywhere from a dipole's 2.15 dBi up and from −30 dBi of a short one down; ±"
                f"{UNSTATED_DB:g}\u202fdB is taken.", "Type its gain: -12 dBi, or 0 dBd for a dipole.",
                {"gain_dbi": 0.0},
            )  # fmt: skip

    def _not_far(self, hertz: float | None) -> Iterator[Note]:
        if not self.field.strip() or hertz is None:
            return
        distance = limited(self.distance, "m", "distance", "5000 m", USUAL["distance"]).value
        waves = distance / wavelength_m(hertz)
        if waves < FAR:
            yield Note(
                "radiated.near", Severity.DOUBT, "field",
                f"{plain(distance, 'm', 3)} is {waves:.2g} of a wavelength: that isn't far enough.",
                f"Within about a wavelength, {plain(wavelength_m(hertz), 'm', 3)}, the field isn't that of what is "
                "radiated.",
                "Read it several wavelengths away, in several directions.", {"wavelengths": waves},
            )  # fmt: skip

    def _not_short(self, hertz: float | None) -> Iterator[Note]:
        if not self.height.strip() or hertz is None:
            return
        waves = self._effective_m() / wavelength_m(hertz)
        if waves > SHORT:
            yield Note(
                "radiated.not_short", Severity.DOUBT, "antenna",
                f"An effective height of {waves:.2g} wavelengths isn't short any more at {frequency(hertz)}.",
                "The current no longer falls in a straight line: 160π²(h/λ)² says too little.",
                "Take its gain from a model of it instead.", {"wavelengths": waves},
            )  # fmt: skip

    def _volts(self, hertz: float | None) -> Iterator[Note]:
        if not self.current.strip() or not self.height.strip() or hertz is None or self._top() > 0.0:
            return
        current = self._above_coil() or self._current()
        volts = current.value * abs(base_reactance_ohm(self._height().value, hertz))
        if volts >= 50.0:
            yield Note(
                "radiated.volts", Severity.WATCH, "antenna",
                f"About {plain(volts, 'V', 1)} stand at the base of that wire.",
                "A short wire is a small capacitor; its coil brings the volts up until the current flows "
                "(a wire of 2 mm; order of magnitude).",
                "Keep people and animals off it; carrier off before anyone touches it.", {"volts": volts},
            )  # fmt: skip

    def _coil(self) -> Iterator[Note]:
        above = self._above_coil()
        if above is None:
            return
        below = self._current().value
        kept = above.value / below
        facts: dict[str, float | str] = {"above_a": above.value, "below_a": below}
        said = f"{plain(above.value, 'A', 3)} above the coil, {plain(below, 'A', 3)} below it"
        if kept > MORE_ABOVE:
            yield Note(
                "radiated.coil_above", Severity.DOUBT, "antenna", f"More flows above the coil than below it: {said}.",
                "A coil can't add current unless it is near its own resonance; an ammeter can be off.",
                "Exchange the two ammeters and read again.", facts,
            )  # fmt: skip
        elif kept < LESS_ABOVE:
            yield Note(
                "radiated.coil_leaks", Severity.WATCH, "antenna",
                f"{percent(1.0 - kept)} of the current doesn't come out of the coil: {said}.",
                "It goes through the air round the coil, to itself and to what stands near: it heats and doesn't "
                "radiate. What flows above the coil is what counts.",
                "A coil as wide as it is long, away from walls and earth; more wire on top lets fewer turns do.", facts,
            )  # fmt: skip

    @staticmethod
    def _more_than_all(made: Radiated) -> Iterator[Note]:
        if made.resistance_ohm is None or made.base_ohm is None or made.resistance_ohm <= made.base_ohm:
            return
        yield Note(
            "radiated.more_than_all", Severity.DOUBT, "antenna",
            f"More would be radiated than goes in: {plain(made.resistance_ohm, 'Ω', 3)} of "
            f"{plain(made.base_ohm, 'Ω', 3)}.",
            "The power at the base over the square of its current is all of its resistance, ground and coil too.",
            "Look at current, power and height: one of them isn't what was typed.",
            {"radiation_ohm": made.resistance_ohm, "base_ohm": made.base_ohm},
        )  # fmt: skip


_PREFIX = {"V": 1.0, "m": 1e-3, "µ": 1e-6}


def _decibels(text: str, name: str) -> float:
    value = value_from_text(text, UNITS["dB"], f"limit of the {name}", "2 dB")
    if not 0.0 <= value <= 30.0:
        raise OutOfRangeError(f"±{text.strip()} is no limit of a {name}.", "Type for example ±2 dB.")
    return value


def _limit(text: str) -> float:
    """A limit as EIRP, W: “5 W”, “1 W ERP”, “1 W EMRP”."""
    match = re.fullmatch(r"(.+?)\s*(EIRP|ERP|EMRP)?", tidy(text).replace(".m.r.p.", "MRP").strip(), re.IGNORECASE)
    if match is None:
        raise UnreadableError(f"“{text}” is no limit.", "Type for example 5 W, or 1 W ERP.")
    kind = {"ERP": ERP, "EMRP": EMRP}.get((match[2] or "").upper(), EIRP)
    return above_nothing(value_from_text(match[1], UNITS["W"], "limit", "5 W"), "limit", "5 W") * OVER[kind]


# notes on the answer


def _against_limit(made: Radiated) -> Iterator[Note]:
    if made.limit_w is None:
        return
    low, high = made.interval_w
    facts: dict[str, float | str] = {"eirp_w": made.eirp_w, "low_w": low, "high_w": high, "limit_w": made.limit_w}
    limit, is_, lies = plain(made.limit_w, "W", 3), _w(made.eirp_w), f"It lies between {_w(low)} and {_w(high)}."
    if low > made.limit_w:
        yield Note(
            "radiated.limit", Severity.DOUBT, "limit", f"{is_} EIRP is above {limit} by more than can be mistaken.",
            lies, "Less power; the sentence above says how much.", facts,
        )  # fmt: skip
    elif high > made.limit_w:
        yield Note(
            "radiated.limit", Severity.WATCH, "limit",
            f"{is_} EIRP can't be told from {limit}: it may be above.", lies,
            "Less power, or mend the largest line.", facts,
        )  # fmt: skip


def _w(value: float) -> str:
    return plain(value, "W", 2)


def _apart(ways: tuple[Way, ...]) -> Iterator[Note]:
    """Two ways to one power that differ by more than both are known to."""
    pairs = [(a, b) for n, a in enumerate(ways) for b in ways[n + 1 :]]
    far = [(abs(math.log(a.eirp_w / b.eirp_w)) / (2.0 * math.hypot(a.u, b.u)), a, b) for a, b in pairs]
    if not far or max(far, key=lambda item: item[0])[0] <= 1.0:
        return
    ratio, a, b = max(far, key=lambda item: item[0])
    yield Note(
        "radiated.apart", Severity.DOUBT, "antenna",
        f"From the {a.name} follow {_w(a.eirp_w)}, from the {b.name} {_w(b.eirp_w)}: they don't agree.",
        f"They differ by {abs(10 * math.log10(a.eirp_w / b.eirp_w)):.1f}\u202fdB, {ratio:.2g} times what both are "
        "known to.",
        "One of them is not what it is taken for: gain, height, or a field read too near.", {"ratio": ratio},
    )  # fmt: skip


def _exposed(made: Radiated, hertz: float | None) -> Iterator[Note]:
    """What the nearest people are exposed to, as a number; near the antenna there is none."""
    if made.people_m is None or made.field_v_per_m is None:
        return
    reach = wavelength_m(hertz) / (2.0 * math.pi) if hertz is not None else None
    field, most = made.field_v_per_m
    facts: dict[str, float | str] = {"distance_m": made.people_m, "field_v_per_m": field, "most_v_per_m": most}
    where = f"{plain(made.people_m, 'm', 3)} away"
    if reach is not None and made.people_m < reach:
        yield Note(
            "radiated.exposure_near", Severity.DOUBT, "people", f"People {where} stand in the antenna's near field.",
            f"Within {plain(reach, 'm', 2)}, λ/2π, volts and amperes of the antenna make more field than what is "
            "radiated: no field follows from its power there.",
            "Keep people further off, or have the field measured; limits of exposure are local law.", facts,
        )  # fmt: skip
        return
    yield Note(
        "radiated.exposure", Severity.GOOD_TO_KNOW, "people",
        f"About {plain(field, 'V/m', 2)} {where}, at most {plain(most, 'V/m', 2)}.",
        "The upper end of the EIRP, doubled as a reflection from the ground can; averaged power counts where a limit "
        "allows it." + ("" if reach is not None else " Without a frequency nobody can say whether that is far enough."),
        "Limits of exposure are local law: hold it against those at that frequency.", facts,
    )  # fmt: skip


def _largest(way: Way) -> Iterator[Note]:
    line = way.largest
    yield Note(
        "radiated.largest", Severity.GOOD_TO_KNOW, "uncertainty",
        f"Largest line: {line.name}, {line.limit}, {percent(way.share)} of the variance.",
        "; ".join(f"{one.name} {one.limit}" for one in way.lines) + ".",
        "Type what it is known to behind ±" + (", if better is known." if line.is_assumed else "."),
        {"share": way.share},
    )  # fmt: skip


def _law(made: Radiated) -> Iterator[Note]:
    yield Note(
        "radiated.law", Severity.GOOD_TO_KNOW, "limit", "Fenmist calculates; the licence decides.",
        "Limits of radiated power, and of what people near an antenna may be exposed to, are local law.",
        "Read the licence: EIRP, ERP or e.m.r.p., and over which time.", {"eirp_w": made.eirp_w},
    )  # fmt: skip
