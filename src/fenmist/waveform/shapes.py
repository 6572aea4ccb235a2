"""Waveforms of the textbook: what their power comes to, exactly, and their envelope over time.

Each knows its moments in closed form (docs/method/waveform.md derives them; the powers stand in any radio handbook and
in ITU-R SM.326, from memory) and makes its envelope at even steps, 1 at its crest.
"""

import math
from collections.abc import Hashable
from functools import lru_cache
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.waveform.envelope import CREST, Envelope, Moments

FloatArray = NDArray[np.float64]


FINE = 64.0
"""Steps in a period (Fenmist's own)."""


class Waveform(Hashable, Protocol):
    """A kind of modulation."""

    @property
    def name(self) -> str:
        """As people call it, with its settings."""

    @property
    def period_s(self) -> float:
        """After which it repeats; 0 where it is steady, infinite where it never does."""

    @property
    def fine_s(self) -> float:
        """Steps of time in which nothing of it is lost."""

    @property
    def exact(self) -> Moments | None:
        """Of a whole period, where it has one."""

    def envelope(self, seconds: float, step_s: float) -> Envelope:
        """So long, at such steps; 1 is the crest, or the power that was set where the crest overshoots it."""


@dataclass(frozen=True)
class Steady:
    """A carrier, or one that only its frequency or phase is modulated: the envelope stands."""

    name: str = "steady carrier"

    @property
    def period_s(self) -> float:
        """It stands."""
        return 0.0

    @property
    def fine_s(self) -> float:
        """Any."""
        return math.inf

    @property
    def exact(self) -> Moments:
        """All of it is the crest."""
        return Moments(1.0, 1.0, 1.0)

    def envelope(self, seconds: float, step_s: float) -> Envelope:
        """Ones."""
        return Envelope(np.ones(_count(seconds, step_s)), step_s)


@dataclass(frozen=True)
class TwoTone:
    """Two tones of a suppressed carrier: a(θ) = |1 + r·e^jθ| / (1 + r)."""

    ratio: float = 1.0  # volts of the weaker over the stronger
    spacing_hz: float = 1200.0

    def __post_init__(self) -> None:
        """Raises OutOfRangeError."""
        _within(self.ratio, 0.0, 1.0, "The ratio of two tones", "The weaker over the stronger: 0 to 1.")
        _above(self.spacing_hz, "The spacing of two tones")

    @property
    def name(self) -> str:
        """With the ratio where they aren't equal."""
        return "two equal tones" if self.ratio == 1.0 else f"two tones, {self.ratio:.3g} to 1 in volts"

    @property
    def period_s(self) -> float:
        """One beat."""
        return 1.0 / self.spacing_hz

    @property
    def fine_s(self) -> float:
        """Of the beat."""
        return self.period_s / FINE

    @property
    def exact(self) -> Moments:
        """Mean (1 + r²)/(1 + r)², mean volts 2·E(m)/π with the complete elliptic integral at m = 4r/(1 + r)²."""
        from scipy.special import ellipe  # heavy: imported on first use

        r, top = self.ratio, (1.0 + self.ratio) ** 2
        volts = 2.0 / math.pi * float(ellipe(4.0 * r / top))
        near = 1.0 if r == 0.0 else math.acos(max((CREST * top - 1.0 - r**2) / (2.0 * r), -1.0)) / math.pi
        return Moments((1.0 + r**2) / top, volts, near)

    def envelope(self, seconds: float, step_s: float) -> Envelope:
        """From a crest."""
        beat = np.exp(2j * math.pi * self.spacing_hz * _times(seconds, step_s))
        return Envelope(np.asarray(np.abs(1.0 + self.ratio * beat)) / (1.0 + self.ratio), step_s)


@dataclass(frozen=True)
class Am:
    """Amplitude modulation by one sine: a(θ) = (1 + m·cos θ)/(1 + m)."""

    depth: float = 1.0
    tone_hz: float = 400.0

    def __post_init__(self) -> None:
        """Raises OutOfRangeError."""
        _within(self.depth, 0.0, 1.0, "A depth of modulation", "0 to 1: beyond, the carrier is cut off.")
        _above(self.tone_hz, "The modulating tone")

    @property
    def name(self) -> str:
        """With the depth."""
        return f"AM, {100.0 * self.depth:.3g} % deep"

    @property
    def period_s(self) -> float:
        """One cycle of the tone."""
        return 1.0 / self.tone_hz

    @property
    def fine_s(self) -> float:
        """Of the tone."""
        return self.period_s / FINE

    @property
    def exact(self) -> Moments:
        """Mean Pc·(1 + m²/2) of PEP Pc·(1 + m)²; the volts average to the carrier's."""
        m, top = self.depth, 1.0 + self.depth
        near = 1.0 if m == 0.0 else math.acos(max((math.sqrt(CREST) * top - 1.0) / m, -1.0)) / math.pi
        return Moments((1.0 + m**2 / 2.0) / top**2, 1.0 / top, near)

    def envelope(self, seconds: float, step_s: float) -> Envelope:
        """From a crest."""
        wave = np.cos(2.0 * math.pi * self.tone_hz * _times(seconds, step_s))
        return Envelope((1.0 + self.depth * wave) / (1.0 + self.depth), step_s)


@dataclass(frozen=True)
class Dots:
    """A keyed carrier: duty between half-way points, edges of raised cosine."""

    duty: float = 0.5
    rate_hz: float = 10.0
    rise_s: float = 0.0  # the whole edge, from nothing to full

    def __post_init__(self) -> None:
        """Raises OutOfRangeError."""
        _within(self.duty, 0.01, 1.0, "The duty of dots", "0.01 to 1.")
        _above(self.rate_hz, "The rate of dots")
        gap = min(self.duty, 1.0 - self.duty) if self.duty < 1.0 else 1.0
        most = gap / self.rate_hz
        if not 0.0 <= self.rise_s <= most:
            raise OutOfRangeError(
                f"An edge of {1e3 * self.rise_s:.3g} ms doesn't fit dots of {self.rate_hz:.3g} Hz.",
                f"At this duty it can last {1e3 * most:.3g} ms at most.",
            )

    @property
    def name(self) -> str:
        """With rate and duty."""
        return f"dots, {self.rate_hz:.3g} a second, {100.0 * self.duty:.3g} % on"

    @property
    def period_s(self) -> float:
        """A dot and its space."""
        return 1.0 / self.rate_hz

    @property
    def fine_s(self) -> float:
        """Of a dot, and of its edges."""
        return min(self.period_s / FINE, self.rise_s / 8.0 or math.inf)

    @property
    def exact(self) -> Moments:
        """An edge averages to 1/2 in volts and 3/8 in power: duty d and d − T·f/4."""
        if self.duty == 1.0:
            return Moments(1.0, 1.0, 1.0)
        edges = self.rise_s * self.rate_hz
        near = self.duty + edges * (2.0 * math.acos(2.0 * math.sqrt(CREST) - 1.0) / math.pi - 1.0)
        return Moments(self.duty - edges / 4.0, self.duty, near)

    def envelope(self, seconds: float, step_s: float) -> Envelope:
        """From the middle of a dot."""
        if self.duty == 1.0:
            return Envelope(np.ones(_count(seconds, step_s)), step_s)
        phase = (_times(seconds, step_s) * self.rate_hz + 0.5) % 1.0 - 0.5
        inside = (self.duty / 2.0 - np.abs(phase)) / self.rate_hz  # seconds to the nearer half-way point
        if self.rise_s == 0.0:
            return Envelope(np.asarray(inside > 0.0, float), step_s)
        edge = np.clip(inside / self.rise_s, -0.5, 0.5)
        return Envelope(0.5 + 0.5 * np.sin(math.pi * edge), step_s)


@dataclass(frozen=True)
class Droop:
    """A carrier that sags as its stage heats: the power goes from 1 to 1 − s, exponentially."""

    sag: float = 0.1  # of the power, in the end
    time_s: float = 10.0  # constant

    def __post_init__(self) -> None:
        """Raises OutOfRangeError."""
        _within(self.sag, 0.0, 1.0, "A droop", "A share of the power: 0 to 1.")
        _above(self.time_s, "The time of a droop")

    @property
    def name(self) -> str:
        """With its size."""
        return f"carrier that droops by {100.0 * self.sag:.3g} %"

    @property
    def period_s(self) -> float:
        """It never repeats."""
        return math.inf

    @property
    def fine_s(self) -> float:
        """Of its sagging."""
        return self.time_s / FINE

    @property
    def exact(self) -> None:
        """How long one looks decides."""
        return

    def envelope(self, seconds: float, step_s: float) -> Envelope:
        """From key-down."""
        power = 1.0 - self.sag * -np.expm1(-_times(seconds, step_s) / self.time_s)
        return Envelope(np.sqrt(power), step_s)


@dataclass(frozen=True)
class TuneCycle:
    """A tuner at work on a transmitter that folds back: the power steps between its lowest and full as it hunts."""

    lowest: float = 0.1  # of full power, at the worst match it passes
    hunt_s: float = 3.0  # until it has found
    step_time_s: float = 0.05  # between two switchings
    seed: int = 1

    def __post_init__(self) -> None:
        """Raises OutOfRangeError."""
        _within(self.lowest, 0.0, 1.0, "The lowest power of a tune cycle", "A share of full power: 0 to 1.")
        _above(self.hunt_s, "The time of a tune cycle")
        _above(self.step_time_s, "The time between two steps of a tuner")

    @property
    def name(self) -> str:
        """As it is called."""
        return "tune cycle"

    @property
    def period_s(self) -> float:
        """It never repeats."""
        return math.inf

    @property
    def fine_s(self) -> float:
        """Of a switching."""
        return self.step_time_s / 4.0

    @property
    def exact(self) -> None:
        """How long one looks decides."""
        return

    def envelope(self, seconds: float, step_s: float) -> Envelope:
        """From the first step: nearer to full power as it goes on, full once found."""
        times = _times(seconds, step_s)
        steps = math.ceil(self.hunt_s / self.step_time_s)
        nearer = np.linspace(0.0, 1.0, steps)
        random = np.random.default_rng(self.seed).random(steps)
        power = np.append(self.lowest + (1.0 - self.lowest) * (nearer + (1.0 - nearer) * random) * random**0.5, 1.0)
        place = np.minimum((times / self.step_time_s).astype(int), steps)
        return Envelope(np.sqrt(power[place]), step_s)


@dataclass(frozen=True, eq=False)
class Repeating:
    """A record that is taken to go on like this, over and over."""

    name: str
    record: Envelope

    @property
    def period_s(self) -> float:
        """How long it is."""
        return self.record.seconds

    @property
    def fine_s(self) -> float:
        """Its own."""
        return self.record.step_s

    @property
    def exact(self) -> Moments:
        """Its own."""
        return self.record.moments

    def envelope(self, seconds: float, step_s: float) -> Envelope:
        """From its beginning; 1 is its crest."""
        place = (_times(seconds, step_s) / self.record.step_s).astype(int) % self.record.amplitude.size
        return Envelope(self.record.amplitude[place] / self.record.crest, step_s)


WATCHED_S = 30.0
"""How long a waveform is looked at that has no closed form."""


@lru_cache(maxsize=256)
def moments_of(waveform: Waveform) -> Moments:
    """Exact where they are known, else those of half a minute."""
    return waveform.exact or waveform.envelope(WATCHED_S, waveform.fine_s).moments


def _count(seconds: float, step_s: float) -> int:
    return max(round(seconds / step_s), 1)


def _times(seconds: float, step_s: float) -> FloatArray:
    """Middles of the steps."""
    return np.asarray((np.arange(_count(seconds, step_s)) + 0.5) * step_s, float)


def _within(value: float, low: float, high: float, what: str, remedy: str) -> None:
    if not low <= value <= high:
        raise OutOfRangeError(f"{what} of {value:.4g} makes no sense.", remedy)


def _above(value: float, what: str) -> None:
    if not (math.isfinite(value) and value > 0.0):
        raise OutOfRangeError(f"{what} of {value:.4g} makes no sense.", "It is above 0.")
