"""Speech on a single sideband, made from a seed: syllables, pauses, a level control, compression.

No recording: band-limited noise (whose envelope varies as a voice's does from pitch to pitch) under syllables of random
length and strength with gaps between words. It is driven into a soft limiter just as far as gives the mean that is
asked for: about 20 % of PEP without compression, about 40 % with (common practice, no source). Page:
docs/method/waveform.md.
"""

import math
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.measurand import Detector
from fenmist.waveform.envelope import Envelope, Moments
from fenmist.waveform.movement import Meter, Movement, Needle

if TYPE_CHECKING:  # drawing brings a library of its own
    from numpy.random import Generator

FloatArray = NDArray[np.float64]

PLAIN_SHARE, COMPRESSED_SHARE = 0.2, 0.4
"""Mean over PEP without and with compression (common practice, no source)."""

BAND_HZ = 2400.0
"""Width of the voice's band."""

FINEST_S = 1e-4
"""Steps in which it is made: finer ones lie on lines between them."""

_SYLLABLE_S, _GAP_S, _PAUSE_S = 0.18, 0.04, 0.22
_WORD = 4  # syllables between two pauses, on average


@dataclass(frozen=True)
class Speech:
    """Speech from a seed, of a stated mean over PEP."""

    mean_share: float = PLAIN_SHARE
    seed: int = 1

    def __post_init__(self) -> None:
        """Raises OutOfRangeError."""
        if not 0.12 <= self.mean_share <= 0.5:
            raise OutOfRangeError(
                f"Speech whose mean is {100 * self.mean_share:.3g} % of PEP isn't made.",
                "From 12 % (hardly limited) to 50 % (strongly compressed).",
            )

    @property
    def name(self) -> str:
        """With its mean."""
        kind = "speech" if self.mean_share < 0.3 else "compressed speech"
        return f"{kind}, mean {100.0 * self.mean_share:.0f} % of PEP"

    @property
    def period_s(self) -> float:
        """It never repeats."""
        return math.inf

    @property
    def fine_s(self) -> float:
        """Of the voice."""
        return FINEST_S

    @property
    def exact(self) -> Moments | None:
        """None: it is as its seed has it."""
        return None

    def envelope(self, seconds: float, step_s: float) -> Envelope:
        """From a syllable's beginning; 1 is its crest."""
        count = max(math.ceil(seconds / max(step_s, FINEST_S)), 2)
        step = seconds / count
        random = np.random.default_rng(self.seed)
        raw = _syllables(random, count, step) * _voice(random, count, step)
        made = _limited(raw, self.mean_share)
        whole = max(round(seconds / step_s), 1)
        middles = (np.arange(whole) + 0.5) * step_s
        return Envelope(np.interp(middles, (np.arange(count) + 0.5) * step, made), step_s)


@dataclass(frozen=True)
class LevelControl:
    """What holds a transmitter's PEP: too slow at a syllable's beginning, it overshoots there.

    Its gain follows a held copy of the envelope: charged in `attack_s`, let go in `release_s`.
    """

    drive: float = 1.4  # envelope's crest before it, over what it holds
    attack_s: float = 0.002
    release_s: float = 0.4

    def __call__(self, envelope: Envelope) -> Envelope:
        """The envelope behind it: 1 is the level that was set; what is above is overshoot."""
        before = self.drive * envelope.amplitude / envelope.crest
        hold = Meter(Movement(Detector.HOLD, self.attack_s, Needle(), self.release_s))
        return Envelope(before / np.maximum(hold.held(before, envelope.step_s), 1.0), envelope.step_s)


@dataclass(frozen=True)
class Overshooting:
    """A waveform behind a level control."""

    inner: Speech
    control: LevelControl = LevelControl()

    @property
    def name(self) -> str:
        """Both."""
        return f"{self.inner.name}, level control overshooting"

    @property
    def period_s(self) -> float:
        """As what goes in."""
        return self.inner.period_s

    @property
    def fine_s(self) -> float:
        """Of the voice, and of the control."""
        return min(self.inner.fine_s, self.control.attack_s / 5.0)

    @property
    def exact(self) -> None:
        """It is as the control makes it."""
        return

    def envelope(self, seconds: float, step_s: float) -> Envelope:
        """1 is the power that was set."""
        return self.control(self.inner.envelope(seconds, step_s))


def _syllables(random: "Generator", count: int, step: float) -> FloatArray:
    """Strength over time: bumps of raised cosine with flat tops, gaps between, pauses after words."""
    out, place = np.zeros(count), 0
    while place < count:
        for _ in range(1 + random.poisson(_WORD - 1)):
            length = max(round(_SYLLABLE_S * random.lognormal(0.0, 0.35) / step), 4)
            strength = min(random.lognormal(-0.2, 0.35), 1.3)
            edge = max(length // 4, 1)
            rise = 0.5 - 0.5 * np.cos(math.pi * (np.arange(edge) + 0.5) / edge)
            bump = np.concatenate([rise, np.ones(length - 2 * edge), rise[::-1]])
            place, end = min(place, count), min(place + length, count)
            out[place:end] = strength * bump[: max(end - place, 0)]
            place = end + round(_GAP_S * random.random() / step)
        place += round(_PAUSE_S * random.lognormal(0.0, 0.4) / step)
    return out


def _voice(random: "Generator", count: int, step: float) -> FloatArray:
    """Envelope of noise in the voice's band: that of a complex normal process, mean square 1."""
    noise = random.standard_normal((2, count))
    spectrum = np.fft.fft(noise[0] + 1j * noise[1])
    spectrum[np.abs(np.fft.fftfreq(count, step)) > BAND_HZ / 2.0] = 0.0
    voice = np.abs(np.fft.ifft(spectrum))
    return np.asarray(voice / math.sqrt(float(np.mean(voice**2))))


def _limited(raw: FloatArray, share: float) -> FloatArray:
    """Through tanh, driven so far that the mean is the share of PEP; the crest becomes 1."""

    def at(drive: float) -> FloatArray:
        out = np.tanh(drive * raw)
        return np.asarray(out / out.max())

    low, high = 1e-3, 1e3
    for _ in range(40):
        middle = math.sqrt(low * high)
        low, high = (middle, high) if float(np.mean(at(middle) ** 2)) < share else (low, middle)
    return at(low)
