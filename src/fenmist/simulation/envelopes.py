"""Envelopes that a simulated transmitter can send: volts over time, 1 at the crest.

Written down anew, apart from `waveform.shapes`, which they test.
"""

import cmath
import math
from collections.abc import Callable

import numpy as np

Envelope = Callable[[float], float]
"""Volts of the envelope at a time in s, 0 to 1."""


def carrier(_: float) -> float:
    """Steady."""
    return 1.0


def two_tones(apart_hz: float) -> Envelope:
    """Two equal tones."""
    return lambda t: abs(math.cos(math.pi * apart_hz * t))


def dots(rate_hz: float, duty: float = 0.5, rise_s: float = 0.004) -> Envelope:
    """Keyed dots with straight flanks; `duty` of a period above half of the crest."""

    def at(t: float) -> float:
        since = (t * rate_hz % 1.0) / rate_hz
        up, down = since / rise_s, (duty / rate_hz + rise_s - since) / rise_s
        return min(max(min(up, down), 0.0), 1.0)

    return at


def modulated(depth: float, tone_hz: float) -> Envelope:
    """Amplitude modulation by a tone."""
    return lambda t: (1.0 + depth * math.sin(2.0 * math.pi * tone_hz * t)) / (1.0 + depth)


_VOICE_HZ, _LOWEST, _HIGHEST = 125.0, 3, 22
"""A voice's pitch, and which of its harmonics pass a transmitter's filter (375 to 2750 Hz)."""


def speech(seed: int, compression: float = 1.0) -> Envelope:
    """Syllables of a voice on a single sideband.

    Its upper sideband is the sum of a pitch's harmonics, weaker upwards, each of a phase of its own; syllables, four a
    second, and pauses make it loud and quiet. `compression` is the drive over that at which the crest just touches
    the limit: what lies above is limited.
    """
    rng = np.random.default_rng(seed)
    orders = range(_LOWEST, _HIGHEST + 1)
    tones = [(n, cmath.rect(n**-1.2, phase)) for n, phase in zip(orders, rng.uniform(0, 2 * math.pi, 20), strict=True)]
    loud = rng.uniform(0.15, 1.0, 64) * (rng.uniform(size=64) > 0.2)
    pitch = 1.0 + 0.12 * rng.normal(size=64)

    def raw(t: float) -> float:
        syllable = int(t * 4.0) % 64
        within = math.sin(math.pi * (t * 4.0 % 1.0)) ** 0.7
        turn = cmath.exp(2j * math.pi * _VOICE_HZ * float(pitch[syllable]) * t)
        return float(float(loud[syllable]) * within * abs(sum(size * turn**n for n, size in tones)))

    crest = max(raw(number / 4000.0) for number in range(4000 * 16))
    return lambda t: min(compression * raw(t) / crest, 1.0)


NAMED: dict[str, Callable[[], Envelope]] = {
    "carrier": lambda: carrier,
    "two tones": lambda: two_tones(700.0),
    "dots": lambda: dots(10.0),
    "AM": lambda: modulated(0.8, 400.0),
    "speech": lambda: speech(1),
}
"""Envelopes by the name under which a stand-in sends them."""
