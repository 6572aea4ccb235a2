"""Envelopes that a simulated transmitter can send: volts over time, 1 at the crest.

Written down anew, apart from `waveform.shapes`, which they test.
"""

import math
import re
from collections.abc import Callable
from functools import lru_cache

import numpy as np

from fenmist.errors import UnknownIdError

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

_SYLLABLES, _SYLLABLE_S, _RATE_HZ = 64, 0.25, 8000


def speech(seed: int, compression: float = 1.0) -> Envelope:
    """Syllables of a voice on a single sideband, the same sixteen seconds again and again.

    Its upper sideband is the sum of a pitch's harmonics, weaker upwards, each of a phase of its own; syllables, four a
    second, and pauses make it loud and quiet. `compression` is the drive over that at which the crest just touches
    the limit: what lies above is limited.
    """
    rng = np.random.default_rng(seed)
    orders = np.arange(_LOWEST, _HIGHEST + 1)
    phases = rng.uniform(0.0, 2.0 * math.pi, orders.size)
    loud = rng.uniform(0.15, 1.0, _SYLLABLES) * (rng.uniform(size=_SYLLABLES) > 0.2)
    pitch = _VOICE_HZ * (1.0 + 0.12 * rng.normal(size=_SYLLABLES))
    t = np.arange(round(_SYLLABLE_S * _RATE_HZ)) / _RATE_HZ
    swell = np.sin(math.pi * t / _SYLLABLE_S) ** 0.7
    said = []
    for level, hertz in zip(loud, pitch, strict=True):
        angle = 2.0 * math.pi * hertz * orders[:, None] * t + phases[:, None]
        said.append(level * swell * np.abs((orders[:, None] ** -1.2 * np.exp(1j * angle)).sum(axis=0)))
    volts = np.concatenate(said)
    kept = np.minimum(compression * volts / volts.max(), 1.0).tolist()
    return lambda at: float(kept[int(at * _RATE_HZ) % len(kept)])


_OFF_BEAT = 0.7213
"""Looks at an envelope for each of its samples: a rate that no tone is in step with."""


def mean_share(envelope: Envelope, seconds: float = _SYLLABLES * _SYLLABLE_S) -> float:
    """Mean power over that of the crest."""
    if envelope is carrier:
        return 1.0
    steps = round(seconds * _RATE_HZ * _OFF_BEAT)
    return float(np.mean([envelope(n * seconds / steps) ** 2 for n in range(steps)]))


NAMED: dict[str, Callable[[], Envelope]] = {
    "carrier": lambda: carrier,
    "two tones": lambda: two_tones(700.0),
    "dots": lambda: dots(10.0),
    "AM": lambda: modulated(0.8, 400.0),
    "speech": lambda: speech(1, 2.0),  # as level control leaves it
}
"""Envelopes by the name under which a stand-in sends them."""


def envelope_named(name: str) -> Envelope:
    """An envelope by its name, or as one is typed in a job: “two-tone 200 Hz”, “dots 20 Hz 40 %”, “AM 30 %”.

    Raises
    ------
    UnknownIdError
        Of what it can't send.
    """
    if name in NAMED:
        return NAMED[name]()
    kind = name.split()[0].casefold() if name.strip() else ""
    found = {unit: float(number) for number, unit in re.findall(r"([\d.]+)\s*(Hz|%)", name)}
    hertz, share = found.get("Hz"), found.get("%", 0.0) / 100.0
    made: dict[str, Callable[[], Envelope]] = {
        "fm": lambda: carrier,
        "two-tone": lambda: two_tones(hertz or 1200.0),
        "dots": lambda: dots(hertz or 10.0, share or 0.5),
        "am": lambda: modulated(share or 1.0, hertz or 1000.0),
        "speech": lambda: speech(1, 1.0),
        "compressed": lambda: speech(1, 2.0),
    }
    if kind not in made or (hertz is not None and hertz <= 0.0):
        raise UnknownIdError(f"It can't send “{name}”.", f"It can send {', '.join((*NAMED, *made))}.")
    return made[kind]()


@lru_cache(maxsize=32)
def sent(name: str) -> tuple[Envelope, float]:
    """An envelope by its name, with its mean power over that of the crest; raises UnknownIdError."""
    envelope = envelope_named(name)
    return envelope, mean_share(envelope)
