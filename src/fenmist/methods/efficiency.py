"""DC into an amplifier against the RF that comes out: how much of it, what its class allows, what stays as heat.

Both at the same time, and a mean against a mean: PEP is never held against DC that a meter averages. A frozen request:
call it for the answer. Page: docs/method/efficiency.md.

>>> answer = EfficiencyRequest("13.8 V", "20 A", "100 W")()
>>> round(answer.share, 3), round(answer.heat_w)
(0.362, 176)
"""

import math
from collections.abc import Iterator

from fenmist.errors import OutOfRangeError
from fenmist.findings.note import Note, Severity, in_order
from fenmist.frozen import dataclass
from fenmist.kit.amplifier import CLASSES, FEEDS, NOT_SAID, OF_A_SET, WHOLE_SET, Usual
from fenmist.methods.limited import above_nothing, limited
from fenmist.methods.modulated import check, mean_share, stands
from fenmist.units.display import opening, percent, plain, with_uncertainty
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS

FULL = 0.7
"""Part of full power from which the usual spans hold: below, A and B make less of their DC (common practice)."""

USUAL = {"volts": 0.01, "amperes": 0.02, "power": 0.05}
"""Limits where nothing is said, as parts of the value (common practice, no source)."""

SLIPS = {
    2.0: "peak volts taken for rms are twice the power",
    4.0: "twice the volts, where nothing ends a tap or a line, are four times the power",
    8.0: "volts peak to peak taken for rms are eight times the power",
    10.0: "a decimal, or the next range, is ten times", 100.0: "a probe's ×10 is a hundred times",
}  # fmt: skip
"""What makes a power so many times too large."""

NEAR = math.log(1.35)
"""By how much of a ratio a slip may be off and still be named: efficiencies differ (Fenmist's own)."""


@dataclass(frozen=True)
class Amplifier:
    """What is known of it."""

    label: str
    id: str = "amplifier"
    of_class: str = NOT_SAID
    feeds: str = WHOLE_SET
    full_w: float | None = None
    heat_w: float | None = None  # that it may get rid of for as long as it's keyed

    @property
    def usual(self) -> Usual | None:
        """What is usual of it at full power; nothing where nobody says what it is."""
        if self.feeds == WHOLE_SET:
            return OF_A_SET
        return CLASSES.get(self.of_class)

    @property
    def most(self) -> float:
        """The most that its class gives."""
        found = CLASSES.get(self.of_class)
        return found.most if found is not None else 1.0


@dataclass(frozen=True)
class Converted:
    """Means of one time: W of DC, of drive, and of RF with its interval; `where` is how it is said of a point."""

    dc_w: float
    dc_u_w: float  # standard
    drive_w: float
    out_w: tuple[float, float, float]  # low, value, high
    where: str = ""
    about: str = ""
    is_steady: bool = True

    @property
    def into_w(self) -> float:
        """All that goes in."""
        return self.dc_w + self.drive_w

    @property
    def share(self) -> float:
        """RF over all that goes in."""
        return self.out_w[1] / self.into_w

    @property
    def heat_w(self) -> float:
        """What stays."""
        return self.into_w - self.out_w[1]

    @property
    def ceiling_w(self) -> float:
        """The most RF that can come out, at two standard uncertainties."""
        return self.dc_w + 2.0 * self.dc_u_w + self.drive_w

    @property
    def interval(self) -> tuple[float, float]:
        """Of the share, about 95 %."""
        off = 2.0 * self.dc_u_w
        return self.out_w[0] / (self.into_w + off), self.out_w[2] / max(self.into_w - off, 1e-12)


def too_much(one: Converted, amplifier: Amplifier) -> Note | None:
    """More RF than goes in, or than its class can make of it; nothing where it fits."""
    low, value, high = one.out_w
    shown = with_uncertainty(value, (high - low) / 2.0, "W")
    facts: dict[str, float | str] = {
        "out_w": value, "dc_w": one.dc_w, "drive_w": one.drive_w, "ceiling_w": one.ceiling_w,
    }  # fmt: skip
    if low > one.ceiling_w:
        driven = f" and {plain(one.drive_w, 'W')} of drive" if one.drive_w else ""
        return Note(
            "supply.more_out", Severity.DOUBT, one.about or amplifier.id,
            f"More comes out of {amplifier.label} than goes in{one.where}.",
            f"{shown} against {plain(one.dc_w, 'W')} of DC{driven}, at most {plain(one.ceiling_w, 'W')} with what "
            f"their meters allow; {_likely(one, amplifier)}.",
            "Look at the references (scale, ratio, load) and at the supply's meters; say the drive, where a driven "
            "stage passes it on.", facts,
        )  # fmt: skip
    most = amplifier.most * (one.dc_w + 2.0 * one.dc_u_w) + one.drive_w
    if low > most:
        return Note(
            "supply.above_class", Severity.DOUBT, one.about or amplifier.id,
            f"{opening(amplifier.label)} gives more than class {amplifier.of_class} can{one.where}: "
            f"{percent(one.share)}.",
            f"{shown} of {plain(one.into_w, 'W')}; a sine as large as its supply allows is {percent(amplifier.most)} "
            "of its DC.",
            "Look at the references first; a stage that is driven into limiting makes harmonics, and it is no longer "
            "that class.", {**facts, "most_w": most},
        )  # fmt: skip
    return None


def _likely(one: Converted, amplifier: Amplifier) -> str:
    """What may have made it so many times too large."""
    usual = amplifier.usual or OF_A_SET
    times = one.share / math.sqrt(usual.low * usual.high)
    near = min(SLIPS, key=lambda slip: abs(math.log(times / slip)))
    begin = f"that is {times:.2g} times what is usual"
    if abs(math.log(times / near)) > NEAR:
        return begin
    return f"{begin}, and {SLIPS[near]}"


def remarks(one: Converted, amplifier: Amplifier) -> Iterator[Note]:
    """What is to be said of one reading in which no more comes out than can: too little, too hot."""
    usual, full = amplifier.usual, amplifier.full_w
    high = one.interval[1]
    is_full = one.is_steady and (full is None or one.out_w[1] >= FULL * full)
    if usual is not None and is_full and high < usual.low:
        kind = "a whole set" if amplifier.feeds == WHOLE_SET else f"class {amplifier.of_class}"
        yield Note(
            "supply.below_usual", Severity.WATCH, one.about or amplifier.id,
            f"{opening(amplifier.label)} makes little of its DC{one.where}: {percent(one.share)}; {kind} usually makes "
            f"{percent(usual.low)} to {percent(usual.high)}.",
            f"{plain(one.out_w[1], 'W')} of {plain(one.into_w, 'W')}; at full power into a good match that is little.",
            "A tired or mistuned stage, too little drive, a mode without its full carrier, or a match that isn't one; "
            "or the power is read too low.", {"share": one.share, "low": usual.low, "high": usual.high},
        )  # fmt: skip
    least = one.into_w - 2.0 * one.dc_u_w - one.out_w[2]
    if amplifier.heat_w is not None and least > amplifier.heat_w:
        yield Note(
            "supply.heat", Severity.STOP, one.about or amplifier.id,
            f"{plain(one.heat_w, 'W', 3)} stay in {amplifier.label} as heat{one.where}: it may take "
            f"{plain(amplifier.heat_w, 'W')}.",
            "What goes in and doesn't come out heats it for as long as the key is down.",
            "Key up. Less power or drive, a better match; shorter key-downs with rests.",
            {"heat_w": one.heat_w, "rated_w": amplifier.heat_w},
        )  # fmt: skip


# as typed


@dataclass(frozen=True)
class Efficiency:
    """The answer."""

    made: Converted
    amplifier: Amplifier
    notes: tuple[Note, ...]

    @property
    def share(self) -> float:
        """RF over DC and drive."""
        return self.made.share

    @property
    def heat_w(self) -> float:
        """What stays, W."""
        return self.made.heat_w


@dataclass(frozen=True)
class EfficiencyRequest:
    """DC and RF as typed, read at the same time; each with its limit behind ±."""

    volts: str
    amperes: str
    power: str
    sent: str = ""  # of which the power is the PEP; a steady carrier where nothing is said
    drive: str = ""
    of_class: str = NOT_SAID
    feeds: str = WHOLE_SET
    full: str = ""
    heat: str = ""

    def __call__(self) -> Efficiency:
        """The answer; raises UnreadableError, OutOfRangeError."""
        volts = limited(self.volts, "V", "voltage", "13.8 V", USUAL["volts"])
        amperes = limited(self.amperes, "A", "current", "20 A", USUAL["amperes"])
        power = limited(self.power, "W", "power", "100 W", USUAL["power"])
        dc = above_nothing(volts.value, "voltage", "13.8 V") * above_nothing(amperes.value, "current", "20 A")
        mean, off = self._mean()
        out = above_nothing(power.value, "power", "100 W") * mean
        wide = math.exp(2.0 * math.hypot(power.u, off / math.sqrt(3.0)))
        made = Converted(
            dc, dc * math.hypot(volts.u, amperes.u), self._watts(self.drive, "drive", "5 W") or 0.0,
            (out / wide, out, out * wide), is_steady=mean == 1.0,
        )  # fmt: skip
        amplifier = Amplifier(
            "it", of_class=self.of_class, feeds=self.feeds, full_w=self._watts(self.full, "full power", "100 W"),
            heat_w=self._watts(self.heat, "heat", "150 W"),
        )  # fmt: skip
        if amplifier.feeds not in FEEDS or amplifier.of_class not in (NOT_SAID, *CLASSES):
            raise OutOfRangeError("There is no such amplifier.", f"Class {', '.join(CLASSES)}.")
        doubted = too_much(made, amplifier)
        notes = (doubted,) if doubted is not None else tuple(remarks(made, amplifier))
        return Efficiency(made, amplifier, in_order(notes))

    def _mean(self) -> tuple[float, float]:
        """Mean power over PEP of what is sent, and by how much of it that may be off."""
        sent = " ".join(self.sent.split())
        if not sent or stands(sent):
            return 1.0, 0.0
        check(sent)
        share = mean_share(sent)
        return share.value, abs(share.off) / share.value

    @staticmethod
    def _watts(text: str, name: str, example: str) -> float | None:
        if not text.strip():
            return None
        value = value_from_text(text, UNITS["W"], name, example)
        if not value >= 0.0:
            raise OutOfRangeError(f"A {name} of {value:g} makes no sense.", f"Type for example {example}.")
        return value
