"""What a meter makes of an envelope: its detector, then its needle or digits. All show a steady carrier rightly.

A thermal detector averages power. A diode that averages gives volts, which the dial's scale squares: so two equal tones
show (2/π)² of PEP there, and half on the thermal one. A hold circuit charges a capacitor through a diode and lets it
leak. A true peak meter keeps the highest of a window. Equations: docs/method/waveform.md.
"""

import cmath
import math
from collections import deque
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.measurand import Detector
from fenmist.waveform.envelope import Envelope, Moments
from fenmist.waveform.shapes import Waveform

FloatArray = NDArray[np.float64]

FINE, FINE_DIGITS = 40.0, 10.0
"""Pieces in the time of a needle, and of digits, in which they are worked out (Fenmist's own)."""

CHARGE, OF_MANY, GATHERED = 20.0, 5.0, 100.0
"""Steps in the time that charges a hold: of one, of the quickest of many, and where steps are gathered (own)."""

FOLLOWS = 0.1
"""Period of a modulation, over a display's time, below which the display stands (Fenmist's own)."""

LONGEST_S = 30.0
"""How long a waveform that never repeats is watched (Fenmist's own)."""


@dataclass(frozen=True)
class Needle:
    """A movement of second order: θ″ + 2ζω·θ′ + ω²·θ = ω²·x with ω = 2π/T."""

    period_s: float = 0.5  # T, undamped
    damping: float = 0.7  # ζ; 1 is critical
    stiction: float = 0.0  # friction, as a share of the deflection at PEP

    @property
    def slowest_s(self) -> float:
        """Time over which it moves."""
        return self.period_s

    @property
    def piece_s(self) -> float:
        """In which it is worked out."""
        return self.period_s / FINE


@dataclass(frozen=True)
class Digits:
    """A display that is written anew each time with the mean since the last."""

    averaging_s: float = 0.3

    @property
    def slowest_s(self) -> float:
        """Time over which it changes."""
        return self.averaging_s

    @property
    def piece_s(self) -> float:
        """In which it is worked out."""
        return self.averaging_s / FINE_DIGITS


@dataclass(frozen=True)
class Movement:
    """A detector and its display, as data."""

    detector: Detector
    time_s: float  # constant of averaging (thermal, average), of charging (hold); window (peak)
    display: Needle | Digits
    decay_s: float = math.inf  # of a hold

    @property
    def squares(self) -> bool:
        """True where the display goes with volts, and its scale squares."""
        return self.detector not in (Detector.THERMAL, Detector.RMS)

    @property
    def slowest_s(self) -> float:
        """The longest of its times."""
        return max(self.time_s, self.display.slowest_s, self.decay_s if math.isfinite(self.decay_s) else 0.0)


USUAL = {
    "thermal": Movement(Detector.THERMAL, 0.1, Digits(0.3)),
    "averaging": Movement(Detector.AVERAGE, 0.02, Needle()),
    "hold": Movement(Detector.HOLD, 0.01, Needle(), 1.0),
    "peak": Movement(Detector.PEAK, 1.0, Digits(0.1)),
}
"""The four that are met, with times of the usual size (common practice, no source)."""


@dataclass(frozen=True)
class Shown:
    """What a meter shows, as powers over PEP."""

    reading: float  # about which it stands
    low: float
    high: float  # between which it moves nine tenths of the time


class Meter:
    """A movement at work: what it is fed in pieces moves it on from where it stands.

    Parameters
    ----------
    movement : Movement
        Its data; it begins at rest on zero.
    """

    def __init__(self, movement: Movement) -> None:
        self.movement = movement
        self._held = 0.0  # volts of a hold's capacitor
        self._smooth = 0.0  # behind the averaging
        self._recent: deque[tuple[float, float]] = deque()  # of a peak: when until, volts
        self._now = 0.0
        self._place, self._speed = 0.0, 0.0  # of the needle; what the digits say
        self._sum, self._time = 0.0, 0.0  # of the digits

    @property
    def power(self) -> float:
        """What it shows now, in the square of the envelope's unit."""
        return max(self._place, 0.0) ** 2 if self.movement.squares else self._place

    def advance(self, amplitude: FloatArray, step_s: float) -> tuple[FloatArray, FloatArray]:
        """Move on by a piece of envelope.

        Parameters
        ----------
        amplitude : array, shape (n,)
            Volts, each held for a step.
        step_s : float
            Seconds.

        Returns
        -------
        tuple of arrays, shape (k,)
            Deflection (volts where its scale squares, else power) at the ends of k even pieces and a shorter last
            one, and how long each lasts.
        """
        movement = self.movement
        size = max(int(movement.display.piece_s / step_s), 1)
        starts = np.arange(0, amplitude.size, size)
        lengths = np.diff(np.append(starts, amplitude.size))
        if movement.detector is Detector.PEAK:
            fed = np.maximum.reduceat(amplitude, starts)
        else:
            signal = self.held(amplitude, step_s) if movement.detector is Detector.HOLD else amplitude
            fed = np.add.reduceat(signal if movement.squares else signal**2, starts) / lengths
        times = lengths * step_s
        out = [self._move(value, time) for value, time in zip(fed.tolist(), times.tolist(), strict=True)]
        return np.array(out), times

    def held(self, amplitude: FloatArray, step_s: float) -> FloatArray:
        """Volts of a hold's capacitor at the end of each step, as many as it is fed; moves on by them."""
        held = _held(amplitude, step_s, self.movement, self._held)
        self._held = float(held[-1])
        return held

    def _move(self, value: float, time: float) -> float:
        movement = self.movement
        self._now += time
        if movement.detector is Detector.PEAK:
            value = self._highest(value)
        elif movement.detector is not Detector.HOLD:
            value = self._averaged(value, time)
        if isinstance(movement.display, Needle):
            self._swing(movement.display, value, time)
        else:
            self._sum, self._time = self._sum + value * time, self._time + time
            if self._time >= movement.display.averaging_s * (1.0 - 1e-9):
                self._place, self._sum, self._time = self._sum / self._time, 0.0, 0.0
        return self._place

    def _averaged(self, value: float, time: float) -> float:
        """Behind one pole: the mean over the piece; where it ends is kept."""
        away, moved = self._smooth - value, -math.expm1(-time / self.movement.time_s)
        self._smooth = value + away * (1.0 - moved)
        return value + away * moved * self.movement.time_s / time

    def _highest(self, value: float) -> float:
        """The highest of the window: a falling queue of what may still be it."""
        recent = self._recent
        while recent and recent[-1][1] <= value:
            recent.pop()
        recent.append((self._now + self.movement.time_s, value))
        while recent[0][0] <= self._now:
            recent.popleft()
        return recent[0][1]

    def _swing(self, needle: Needle, target: float, time: float) -> None:
        if needle.stiction:
            pull = target - self._place
            if self._speed == 0.0 and abs(pull) <= needle.stiction:
                return
            target -= math.copysign(needle.stiction, self._speed or pull)
        (a, b), (c, d) = _propagator(needle.period_s, needle.damping, time)
        away, speed = self._place - target, self._speed
        self._place, self._speed = target + a * away + b * speed, c * away + d * speed
        if needle.stiction and self._speed * speed < 0.0:
            self._speed = 0.0


def shown(movement: Movement, waveform: Waveform) -> Shown:
    """What a meter shows on a waveform whose crest is at PEP.

    Exact where the waveform's moments are known and the detector only averages; stepped in time otherwise.

    Parameters
    ----------
    movement : Movement
        Calibrated on a steady carrier.
    waveform : Waveform
        Any.

    Returns
    -------
    Shown
        Powers over PEP.
    """
    period, moments = waveform.period_s, waveform.exact
    if moments is None:
        seconds = min(max(10.0 * movement.slowest_s, 10.0), LONGEST_S)
        return watched(movement, waveform.envelope(seconds, _step(movement, waveform)))
    reading = _settled(movement, waveform, moments)
    if period < FOLLOWS * movement.display.slowest_s:
        return Shown(reading, reading, reading)
    settling = math.ceil(5.0 * movement.slowest_s / period) * period
    seen = watched(movement, waveform.envelope(settling + max(4.0 * period, 2.0), _step(movement, waveform)), settling)
    return Shown(reading, min(seen.low, reading), max(seen.high, reading))


def watched(movement: Movement, envelope: Envelope, settling_s: float | None = None) -> Shown:
    """What a meter shows on a record, once it has settled.

    Parameters
    ----------
    movement : Movement
        Calibrated on a steady carrier.
    envelope : Envelope
        n samples; its highest is PEP.
    settling_s : float, optional
        Time that isn't looked at; five times its slowest unless given, a third of the record at most.

    Returns
    -------
    Shown
        Powers over PEP.
    """
    place, times = Meter(movement).advance(envelope.amplitude / envelope.crest, envelope.step_s)
    ends = np.cumsum(times)
    wait = 5.0 * movement.slowest_s if settling_s is None else settling_s
    looked = ends > min(wait, envelope.seconds / 3.0)
    place, times = place[looked], times[looked]
    middle = float(place @ times / times.sum())
    low, high = (float(end) for end in np.quantile(place, (0.05, 0.95)))
    power = 2.0 if movement.squares else 1.0
    return Shown(middle**power, max(low, 0.0) ** power, max(high, 0.0) ** power)


def _settled(movement: Movement, waveform: Waveform, moments: Moments) -> float:
    """The power over PEP about which a meter stands on a waveform that repeats."""
    detector, period = movement.detector, waveform.period_s
    if detector in (Detector.THERMAL, Detector.RMS):
        return moments.mean
    if detector is Detector.AVERAGE:
        return moments.mean_volts**2
    if period == 0.0 or (detector is Detector.PEAK and movement.time_s >= period):
        return 1.0
    step = period / math.ceil(period / _step(movement, waveform))
    one = waveform.envelope(period, step)
    if detector is Detector.PEAK:
        size = max(round(movement.time_s / step), 1)
        twice = np.concatenate([one.amplitude, one.amplitude])
        highest = [twice[place : place + size].max() for place in range(one.amplitude.size)]
        return float(np.mean(highest)) ** 2
    return float(_held(one.amplitude, step, movement, _closed(one.amplitude, step, movement)).mean()) ** 2


def hold_readings(waveform: Waveform, charging_s: FloatArray, decay_s: FloatArray) -> FloatArray:
    """What holds of many charging and leaking times show on a waveform that repeats, about which they stand.

    Parameters
    ----------
    waveform : Waveform
        Of a finite period.
    charging_s, decay_s : array, shape (n,)
        Constants.

    Returns
    -------
    array, shape (n,)
        Powers over PEP.
    """
    if waveform.period_s == 0.0:
        return np.ones_like(charging_s)
    step = min(waveform.fine_s, float(np.min(charging_s)) / OF_MANY)
    count = math.ceil(waveform.period_s / step)
    step = waveform.period_s / count
    rate = 1.0 / charging_s + 1.0 / decay_s
    keep, leak, share = np.exp(-step * rate), np.exp(-step / decay_s), 1.0 / (charging_s * rate)
    amplitude = waveform.envelope(waveform.period_s, step).amplitude.tolist()
    begin = share.copy()
    for _ in range(CLOSES):  # Newton on where a period leads: it bends upwards, so this comes down to the one place
        volts, slope, total = begin.copy(), np.ones_like(begin), np.zeros_like(begin)
        for value in amplitude:
            charges = value > volts
            factor = np.where(charges, keep, leak)
            volts = np.where(charges, value * share, 0.0) * (1.0 - keep) + volts * factor
            slope *= factor
            total += volts
        over = volts - begin
        begin = begin + over / (1.0 - slope)
        if np.max(np.abs(over)) < 1e-9:
            break
    return np.asarray((total / count / share) ** 2)


CLOSES = 30
"""Steps in which a period closes; it usually takes five."""


def _closed(amplitude: FloatArray, step_s: float, movement: Movement) -> float:
    """Volts of a hold from which a period leads back to themselves: there is one such place."""
    from scipy.optimize import brentq  # heavy: imported on first use

    def over(begin: float) -> float:
        return float(_held(amplitude, step_s, movement, begin)[-1]) - begin

    return float(brentq(over, 0.0, 2.0 * float(amplitude.max()), xtol=1e-9))


def _step(movement: Movement, waveform: Waveform) -> float:
    """Seconds fine enough for a waveform and for what charges."""
    quick = movement.detector in (Detector.HOLD, Detector.PEAK)
    charging = movement.time_s / CHARGE if quick else math.inf
    return min(waveform.fine_s, charging, movement.display.piece_s)


def _held(amplitude: FloatArray, step_s: float, movement: Movement, begin: float) -> FloatArray:
    """Volts of a hold at the end of each step, scaled so that a steady carrier shows rightly.

    v′ = (a − v)/τ − v/T while a > v, −v/T otherwise; each step solved exactly for the branch it begins in. Steps that
    are far shorter than τ are gathered: v stands while their mean of (a − v)⁺ is taken.
    """
    rate = 1.0 / movement.time_s + 1.0 / movement.decay_s
    share = 1.0 / (movement.time_s * rate)  # of a steady carrier's volts: what leaks is lost
    size = int(movement.time_s / GATHERED / step_s)
    volts = begin * share
    if size > CHARGE:
        pieces = []
        for place in range(0, amplitude.size, size):
            piece = amplitude[place : place + size]
            time = piece.size * step_s
            charge = float(np.maximum(piece - volts, 0.0).mean()) * -math.expm1(-time / movement.time_s)
            volts = volts * math.exp(-time / movement.decay_s) + charge
            pieces.append(np.full(piece.size, volts))
        return np.asarray(np.concatenate(pieces) / share)
    leak, keep = math.exp(-step_s / movement.decay_s), math.exp(-step_s * rate)
    towards = (amplitude * (share * (1.0 - keep))).tolist()
    both = zip(amplitude.tolist(), towards, strict=True)
    out = [volts := (gain + volts * keep if value > volts else volts * leak) for value, gain in both]
    return np.array(out) / share


@lru_cache(maxsize=256)
def _propagator(period_s: float, damping: float, time: float) -> tuple[tuple[float, float], tuple[float, float]]:
    """exp(A·t) of a needle about its target: e^(−ζωt)·[cosh(st)·I + sinh(st)/s·(A + ζω·I)], s = ω·√(ζ² − 1)."""
    omega = 2.0 * math.pi / period_s
    s = omega * cmath.sqrt(damping**2 - 1.0)
    even = cmath.cosh(s * time).real
    odd = time if abs(s) * time < 1e-9 else (cmath.sinh(s * time) / s).real
    fade, lean = math.exp(-damping * omega * time), damping * omega
    return (fade * (even + odd * lean), fade * odd), (-fade * odd * omega**2, fade * (even - odd * lean))
