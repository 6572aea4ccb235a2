"""What a capture of a steady carrier says: fit, harmonics, noise, rms, peak to peak; and what is wrong with it.

Nothing is guessed: a record that is clipped, aliased, too short, unsteady, or that holds two carriers or none, says so
and gives no reading. Page: docs/method/capture.md.
"""

import math
from collections.abc import Iterator, Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError
from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.units.display import frequency, percent, plain
from fenmist.waveform.blocks import Blocks
from fenmist.waveform.capture import Channel
from fenmist.waveform.harmonics import Responds, power_effects
from fenmist.waveform.noise import peak_to_peak_excess
from fenmist.waveform.sinefit import SPECTRUM, SineFit, fit_sine, windowed_power

FloatArray = NDArray[np.float64]

ORDERS = (2, 3, 4, 5)
"""Harmonics looked at, as far as the sampling shows them."""

FEWEST_PERIODS = 2.0
"""Periods below which nothing is read (Fenmist's own, no source); five are comfortable (IEEE Std 1057, from memory)."""

COMFORT_PERIODS = 5.0

FEWEST_PER_PERIOD = 2.5
"""Samples a period below which a frequency can't be told from its mirror image in practice (Fenmist's own)."""

CARRIER_SHARE = 0.5
"""Part of the varying power that the fitted sine must hold to be called a carrier (Fenmist's own, no source)."""

OTHER_LINE = 0.03
"""Volts of another line over the carrier's from which there are two carriers (Fenmist's own, no source)."""

STEADY = 0.02
"""Change of the amplitude within the record from which the carrier isn't steady (Fenmist's own, no source)."""

DIFFERS = 0.01
"""Relative difference of volts from which Vpp/2√2 and the fit are said to differ (common practice, no source)."""


@dataclass(frozen=True)
class Harmonic:
    """A harmonic's volts over the carrier's."""

    order: int
    ratio: float
    u_ratio: float

    @property
    def level_dbc(self) -> float:
        """In dB over the carrier."""
        return 20.0 * math.log10(max(self.ratio, 1e-12))


@dataclass(frozen=True)
class Trace:
    """A channel worked out."""

    fit: SineFit
    u_amplitude_v: float  # with a floor from the digitiser's step
    harmonics: tuple[Harmonic, ...]
    noise_ratio: float  # standard deviation of what is neither carrier nor harmonic, over the amplitude
    u_noise_ratio: float
    rms_v: float  # of whole periods, without DC: harmonics and noise included
    u_rms_v: float
    peak_to_peak_v: float  # outermost samples
    notes: tuple[Note, ...]

    @property
    def usable(self) -> bool:
        """True where a reading may be taken from it."""
        return all(note.severity not in (Severity.DOUBT, Severity.STOP) for note in self.notes)

    @property
    def peak_excess(self) -> float:
        """Vpp as read over twice the fitted amplitude, less one."""
        return self.peak_to_peak_v / (2.0 * self.fit.amplitude_v) - 1.0

    @property
    def effects(self) -> Mapping[Responds, tuple[float, float]]:
        """What its harmonics may do to a power, by what a reading of it responds to."""
        return power_effects(self.ratios)

    @property
    def ratios(self) -> Mapping[int, float]:
        """Harmonics' volts over the carrier's by order."""
        return {item.order: item.ratio for item in self.harmonics}


def analyse(channel: Channel, step_s: float, expected_hz: float | None = None) -> Trace:
    """Work a channel out.

    Parameters
    ----------
    channel : Channel
        Of 16 samples or more.
    step_s : float
        Time between samples.
    expected_hz : float, optional
        The carrier's frequency where it is known; tells an aliased record.

    Raises
    ------
    OutOfRangeError
        Where no sine can be fitted at all; says why.
    """
    volts = channel.volts
    fit = fit_sine(volts, step_s)
    if fit.samples_per_period * FEWEST_PERIODS > volts.size:
        raise OutOfRangeError(
            f"The record holds {fit.periods:.2g} periods: too short.", "Capture five periods or more."
        )
    omega = 2.0 * math.pi * fit.frequency_hz * step_s
    orders = [n for n in ORDERS if n * omega < 0.98 * math.pi and fit.periods >= FEWEST_PERIODS]
    blocks = Blocks(volts)
    omegas = (omega, *(n * omega for n in orders))
    normal = blocks.normal(omegas)
    solution = np.asarray(np.linalg.solve(normal.gram, normal.rhs), float)
    left = blocks.residual(omegas, solution)
    sigma = math.sqrt(float(left @ left) / max(volts.size - solution.size - 1, 1))
    noise = sigma / fit.amplitude_v
    spread = sigma * math.sqrt(2.0 / volts.size) / fit.amplitude_v
    harmonics = tuple(
        Harmonic(n, math.hypot(*solution[2 * k : 2 * k + 2]) / fit.amplitude_v, spread)
        for k, n in enumerate(orders, start=1)
    )
    rms = _rms(volts, fit)
    u_rms = math.hypot(rms * sigma / fit.amplitude_v * math.sqrt(2.0 / volts.size), _floor(channel, fit) / math.sqrt(2))
    made = Trace(
        fit, math.hypot(fit.u_amplitude_v, _floor(channel, fit)), harmonics, noise,
        noise / math.sqrt(2.0 * max(volts.size - solution.size, 1)), rms, u_rms, float(np.ptp(volts)), (),
    )  # fmt: skip
    found = tuple(_troubles(channel, made, left, expected_hz)) or tuple(_remarks(made))
    return replace(made, notes=found)


def _floor(channel: Channel, fit: SineFit) -> float:
    """u of the amplitude from the digitiser's step alone: a record in step with its carrier repeats the same samples
    each period and averages over one period only."""
    independent = min(max(fit.samples_per_period, 3.0), float(fit.samples))
    return channel.step_v / math.sqrt(12.0) * math.sqrt(2.0 / independent)


def _rms(volts: FloatArray, fit: SineFit) -> float:
    """True rms without DC over the most whole periods the record holds."""
    whole = round(math.floor(fit.periods) * fit.samples_per_period)
    return float(np.std(volts[: min(max(whole, 2), volts.size)]))


# what is wrong


def _troubles(channel: Channel, made: Trace, left: FloatArray, expected_hz: float | None) -> Iterator[Note]:
    checks = (
        _no_carrier(channel, made), _aliased(made, expected_hz), _clipped(channel, made),
        _two_carriers(made, left), _unsteady(channel, made),
    )  # fmt: skip
    first = next((note for note in checks[:1] if note), None)
    yield from (first,) if first else (note for note in checks if note)


def _doubt(code: str, what: str, why: str, remedy: str, evidence: dict[str, float | str]) -> Note:
    return Note(f"capture.{code}", Severity.DOUBT, "capture", what, why, remedy, evidence)


def _no_carrier(channel: Channel, made: Trace) -> Note | None:
    power = float(np.var(channel.volts))
    share = made.fit.amplitude_v**2 / 2.0 / power if power > 0 else 0.0
    if share >= CARRIER_SHARE:
        return None
    return _doubt(
        "no_carrier", "No carrier stands out in the record.",
        f"The largest sine, {plain(made.fit.amplitude_v, 'V', 2)} at {frequency(made.fit.frequency_hz)}, holds only "
        f"{percent(share)} of what varies.",
        "Is the carrier on, and is this the right channel?", {"share": share},
    )  # fmt: skip


def _aliased(made: Trace, expected_hz: float | None) -> Note | None:
    fit = made.fit
    highest = 0.5 / fit.step_s
    evidence: dict[str, float | str] = {"frequency_hz": fit.frequency_hz, "highest_hz": highest}
    if expected_hz is not None and abs(fit.frequency_hz / expected_hz - 1.0) > 0.02:
        image = abs(expected_hz - round(expected_hz * fit.step_s) / fit.step_s)
        near = abs(image - fit.frequency_hz) < max(0.02 * expected_hz, 2.0 / (fit.step_s * fit.samples))
        if expected_hz > highest and near:
            return _doubt(
                "aliased", f"The record is aliased: it shows {frequency(fit.frequency_hz)}.",
                f"Samples {plain(fit.step_s, 's')} apart show nothing above {frequency(highest)}; the carrier is at "
                f"{frequency(expected_hz)}.", "Sample faster: five samples a period or more.", evidence,
            )  # fmt: skip
        return _doubt(
            "other_frequency", f"The record shows {frequency(fit.frequency_hz)}, not {frequency(expected_hz)}.",
            f"It was sampled every {plain(fit.step_s, 's')} for {fit.periods:.3g} periods.",
            "Is this the right file, the right channel, and its time step right?", evidence,
        )  # fmt: skip
    if fit.samples_per_period < FEWEST_PER_PERIOD:
        return _doubt(
            "aliased", f"Only {fit.samples_per_period:.2g} samples a period: it may be aliased.",
            f"{frequency(fit.frequency_hz)} can't be told from its image about {frequency(highest)}.",
            "Sample faster: five samples a period or more.", evidence,
        )  # fmt: skip
    return None


def _clipped(channel: Channel, made: Trace) -> Note | None:
    """More samples sit at an extreme than a sine of that amplitude leaves there, next to each other."""
    volts, fit = channel.volts, made.fit
    width = max(channel.step_v, 1e-3 * fit.amplitude_v)
    expected = math.acos(max(1.0 - width / fit.amplitude_v, -1.0)) / math.pi
    for name, level, sign in (("top", float(volts.max()), 1.0), ("bottom", float(volts.min()), -1.0)):
        at_end = np.abs(volts - level) < 0.25 * width
        share = float(np.mean(at_end))
        in_a_row = bool(np.any(at_end[2:] & at_end[1:-1] & at_end[:-2]))
        crest = fit.offset_v + sign * fit.amplitude_v
        beyond = sign * (crest - level) / fit.amplitude_v
        if in_a_row and share > 1.3 * expected + 3.0 / volts.size and beyond > 0.0:
            return _doubt(
                "clipped", f"The {name} of the trace is clipped at {plain(level, 'V', 3)}.",
                f"{percent(share)} of the samples sit there; a sine would leave {percent(expected)}.",
                "Take a larger volts per division, so that the whole trace is on the screen.",
                {"share": share, "expected": expected, "level_v": level},
            )  # fmt: skip
    return None


def _two_carriers(made: Trace, left: FloatArray) -> Note | None:
    size = min(left.size, SPECTRUM)
    power = windowed_power(left[:size])
    peak = int(np.argmax(power[1:])) + 1
    # a line of amplitude a has |X| = a·n/4 under a Hann window
    amplitude = 4.0 * math.sqrt(float(power[peak])) / size
    ratio = amplitude / made.fit.amplitude_v
    here = peak / (size * made.fit.step_s)
    if ratio < OTHER_LINE or float(power[peak]) < 30.0 * float(np.median(power[1:])):
        return None
    if abs(here - made.fit.frequency_hz) * size * made.fit.step_s < 3.0:
        return None  # beside the carrier: its own amplitude moves, which is another remark
    return _doubt(
        "two_carriers", f"A second line stands {20 * math.log10(ratio):.0f} dB below the carrier.",
        f"{frequency(here)} beside {frequency(made.fit.frequency_hz)}: two signals, or a modulated one.",
        "Only a steady carrier can be read: key down, no speech, nothing else on the line.",
        {"frequency_hz": here, "ratio": ratio},
    )  # fmt: skip


def _unsteady(channel: Channel, made: Trace) -> Note | None:
    """The amplitude of eight parts of the record, each fitted at the carrier's frequency, apart from noise."""
    fit = made.fit
    parts = np.array_split(channel.volts, max(min(8, int(fit.periods // 2)), 1))
    if len(parts) < 2:
        return None
    omega = 2.0 * math.pi * fit.frequency_hz * fit.step_s
    found = []
    for part in parts:
        normal = Blocks(part).normal((omega,))
        a, b, _ = np.linalg.solve(normal.gram, normal.rhs)
        found.append(math.hypot(a, b))
    change = (max(found) - min(found)) / fit.amplitude_v
    noise = 3.0 * made.noise_ratio * math.sqrt(2.0 / parts[0].size)
    if change < STEADY + 2.0 * noise:
        return None
    return _doubt(
        "unsteady", f"The carrier is not steady: it changes by {percent(change)} within the record.",
        f"Over {plain(fit.step_s * fit.samples, 's')} its amplitude goes from {plain(min(found), 'V', 3)} to "
        f"{plain(max(found), 'V', 3)}.", "Key down, and capture when the level has settled.", {"change": change},
    )  # fmt: skip


# what is worth knowing


def _remarks(made: Trace) -> Iterator[Note]:
    fit = made.fit
    if fit.periods < COMFORT_PERIODS:
        yield Note(
            "capture.short", Severity.WATCH, "capture", f"The record holds only {fit.periods:.2g} periods.",
            "Harmonics and frequency are poorly told apart in so few.", "Capture five periods or more.",
            {"periods": fit.periods},
        )  # fmt: skip
    excess = made.peak_excess
    if abs(excess) > DIFFERS:
        by_noise = peak_to_peak_excess(made.noise_ratio, min(fit.samples, 1_000_000))
        odd = sum(item.ratio for item in made.harmonics if item.order % 2)
        yield Note(
            "capture.peaks_differ", Severity.WATCH, "capture",
            f"Vpp/2√2 is {percent(excess, plus=True)} off the fitted sine in volts.",
            f"Noise of {percent(made.noise_ratio)} explains {percent(by_noise, plus=True)}, odd harmonics up to "
            f"±{percent(odd)}: the outermost samples are taken, not the carrier.",
            "Take the fitted value.", {"excess": excess, "noise": made.noise_ratio, "odd": odd},
        )  # fmt: skip
