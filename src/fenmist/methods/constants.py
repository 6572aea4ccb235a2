"""Constants of a home-built meter: from detector volts, or counts, to watts, by one of three laws.

    quadratic  P = a·V² + b·V + c
    log        V = s·L + i with L the level in dBm: slope and intercept of a logarithmic detector
    detector   P = k·(v·x)² with ln I₀(x) = V/v: a diode on a capacitor, square law below v, less a drop above

Both axes may be uncertain: what the volts are read to, and the reference's power; then orthogonal distances over their
u are least. Page: docs/method/constants.md.

>>> answer = ConstantsRequest("1 2 3 4 5", "1.1 4.2 9.3 16.4 25.5 W")()
>>> [round(value, 3) + 0.0 for value in answer.coefficients.tolist()]
[1.0, 0.1, 0.0]
"""

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.units.display import percent, plain
from fenmist.units.level import dbm_from_watts, watts_from_dbm
from fenmist.units.typed import readings_from_text, value_from_text
from fenmist.units.unit import UNITS

FloatArray = NDArray[np.float64]
Function = Callable[[FloatArray, FloatArray], FloatArray]

SPARE = 2
"""Readings beyond as many as there are constants, from which a fit says something of itself (Fenmist's own)."""

SPAN = 10.0
"""Highest over lowest power from which constants hold over a range at all (Fenmist's own)."""

DIGITS_SHARE = 0.1
"""Part of what a power is known to that rounded constants may move it by (Fenmist's own)."""

FINEST = 1e-4
"""Part of a power below which nobody cares what rounding does (Fenmist's own)."""

MOST_DIGITS = 12
"""Figures that are written at most."""


@dataclass(frozen=True)
class Law:
    """A law by name: its constants, volts and constants to watts, where a fit begins."""

    id: str
    names: tuple[str, ...]
    power: Function  # V (n,), constants -> W (n,)
    begin: Callable[[FloatArray, FloatArray], FloatArray]
    scale: Callable[[FloatArray, FloatArray], FloatArray]  # about how large each is


def _quadratic(volts: FloatArray, beta: FloatArray) -> FloatArray:
    a, b, c = beta
    return np.asarray((a * volts + b) * volts + c)


def _begin_quadratic(volts: FloatArray, watts: FloatArray) -> FloatArray:
    columns = np.stack([volts**2, volts, np.ones_like(volts)], axis=1) / watts[:, None]  # relative
    return np.asarray(np.linalg.lstsq(columns, np.ones_like(volts), rcond=None)[0], float)


def _scale_quadratic(volts: FloatArray, watts: FloatArray) -> FloatArray:
    most = float(np.max(np.abs(volts)))
    return float(watts.max()) / most ** np.array([2.0, 1.0, 0.0])


def _log(volts: FloatArray, beta: FloatArray) -> FloatArray:
    slope, intercept = beta
    return np.asarray(watts_from_dbm((volts - intercept) / slope), float)


def _begin_log(volts: FloatArray, watts: FloatArray) -> FloatArray:
    slope, intercept = np.polyfit(np.asarray(dbm_from_watts(watts), float), volts, 1)
    return np.array([slope, intercept])


def _detector(volts: FloatArray, beta: FloatArray) -> FloatArray:
    scale, knee = np.exp(beta)  # both are above 0
    return np.asarray(scale * (knee * _inverse_log_bessel(volts / knee)) ** 2)


def _begin_detector(volts: FloatArray, watts: FloatArray) -> FloatArray:
    """The knee that fits best of a row of them, each with its best scale."""
    knees = np.geomspace(0.003 * volts.max(), 3.0 * volts.max(), 40)

    def left(knee: float) -> tuple[float, float]:
        logs = np.log(watts / (knee * _inverse_log_bessel(volts / knee)) ** 2)
        return float(np.var(logs)), float(np.mean(logs))

    spreads = [left(float(knee)) for knee in knees]
    best = int(np.argmin([spread for spread, _ in spreads]))
    return np.array([spreads[best][1], math.log(float(knees[best]))])


def _inverse_log_bessel(y: FloatArray) -> FloatArray:
    """x ≥ 0 with ln I₀(x) = y, by Newton's steps from above: ln I₀ is convex, and no less than y at y + 2·√y."""
    from scipy.special import i0e, i1e  # heavy: imported on first use

    y = np.maximum(np.asarray(y, float), 0.0)
    x = y + 2.0 * np.sqrt(y)
    for _ in range(20):
        slope = i1e(x) / i0e(x)
        step = (np.log(i0e(x)) + x - y) / np.where(slope > 1e-12, slope, 1.0)
        x = np.maximum(x - np.where(slope > 1e-12, step, 0.0), 0.0)
    return np.asarray(np.where(y < 1e-8, 2.0 * np.sqrt(y), x))


IN_C = {
    "quadratic": "watts = (a * volts + b) * volts + c",
    "log": "dbm = (volts - intercept) / slope",
    "detector": "watts = k * (v * x)^2 with ln(I0(x)) = volts / v",
}
"""Each law as a firmware reckons it."""

LAWS: Mapping[str, Law] = {
    law.id: law
    for law in (
        Law("quadratic", ("a", "b", "c"), _quadratic, _begin_quadratic, _scale_quadratic),
        Law("log", ("slope", "intercept"), _log, _begin_log, lambda v, _: np.full(2, float(np.ptp(v)))),
        Law("detector", ("k", "v"), _detector, _begin_detector, lambda _, __: np.ones(2)),
    )
}
"""By name."""


@dataclass(frozen=True, eq=False)
class ConstantsAnswer:
    """Constants of one law, what they are known to, and how well they hold."""

    law: Law
    volts: FloatArray  # shape (n,)
    watts: FloatArray
    coefficients: FloatArray  # shape (p,), by `law.names`
    covariance: FloatArray  # (p, p)
    u_watts: FloatArray  # standard; what the residuals scatter by where nobody says
    fitted_w: FloatArray  # by the constants, at the volts as read
    leverage: FloatArray  # of each reading on its own fit, 0 to 1; they sum to p
    digits: int  # figures that the constants need
    step_effect: float  # relative: what a step of the converter does at the lowest reading; 0 where none is stated
    notes: tuple[Note, ...]
    checked: FloatArray | None = None  # constants in use over the reference, less one; none where none were typed

    @property
    def standard_u(self) -> FloatArray:
        """Of each constant."""
        return np.asarray(np.sqrt(np.diag(self.covariance)))

    @property
    def residuals(self) -> FloatArray:
        """What the constants say over what the reference said, less one."""
        return self.fitted_w / self.watts - 1.0

    @property
    def in_u(self) -> FloatArray:
        """Residuals over the standard uncertainty of the power."""
        return np.asarray((self.fitted_w - self.watts) / np.maximum(self.u_watts, 1e-30))

    @property
    def enough_points(self) -> bool:
        """Whether there are readings enough, and over range enough, to say how well the constants hold."""
        return self.volts.size >= len(self.law.names) + SPARE and float(np.ptp(np.log(self.watts))) >= math.log(SPAN)

    def power(self, volts: FloatArray) -> FloatArray:
        """By the constants, W; any shape."""
        return np.asarray(self.law.power(np.asarray(volts, float), _inner(self.law, self.coefficients)))


def _inner(law: Law, coefficients: FloatArray) -> FloatArray:
    """As the law takes them: those of a detector in their logarithms, which can't fall below 0."""
    return np.log(coefficients) if law.id == "detector" else coefficients


def fitted(
    volts: FloatArray, watts: FloatArray, law: Law, u_watts: FloatArray | None = None,
    u_volts: FloatArray | None = None, step_v: float = 0.0,
) -> ConstantsAnswer:  # fmt: skip
    """Constants by least squares.

    Parameters
    ----------
    volts, watts : array, shape (n,)
        As read; watts above 0, volts above 0 for the detector's law.
    u_watts, u_volts : array, shape (n,), optional
        Standard uncertainties. Without those of the power all count alike, in per cent, and their scatter says what
        they are known to; without those of the volts these are taken as exact.
    step_v : float
        Of the converter that reads the volts.

    Raises
    ------
    OutOfRangeError
        For fewer readings than constants, or values that the law can't have.
    """
    from odrpack import odr_fit  # heavy: imported on first use

    p = len(law.names)
    if np.unique(volts).size < p:
        raise OutOfRangeError(
            f"{np.unique(volts).size} readings don't fix {p} constants.", "Read more levels, low ones too."
        )
    if np.any(watts <= 0.0) or (law.id == "detector" and np.any(volts <= 0.0)):
        raise OutOfRangeError("Powers are above 0, and a detector's volts, too.", "Leave out what showed nothing.")
    u = watts if u_watts is None else u_watts
    begin = law.begin(volts, watts)
    scale = law.scale(volts, watts)

    def function(x: FloatArray, beta: FloatArray) -> FloatArray:
        return law.power(x, beta * scale)

    weight_x = None if u_volts is None else 1.0 / np.maximum(u_volts, 1e-12 * np.ptp(volts)) ** 2
    found = odr_fit(
        function, volts, watts, begin / scale, weight_x=weight_x, weight_y=1.0 / u**2, diff_scheme="central", maxit=500,
        task="OLS" if u_volts is None else "explicit-ODR", sstol=1e-15, partol=1e-15,
    )  # fmt: skip
    beta = np.asarray(found.beta, float) * scale
    covariance = np.asarray(found.cov_beta, float) * np.outer(scale, scale)
    spare = volts.size - p
    variance = float(found.sum_square) / spare if spare else math.inf  # through as many as constants anything goes
    if u_watts is None:
        covariance = covariance * variance if spare else np.full((p, p), math.inf)
    elif spare:  # readings that scatter more than they are known to: Birge's ratio
        covariance = covariance * max(variance, 1.0)
    if law.id == "detector":
        beta, covariance = np.exp(beta), covariance * np.outer(np.exp(beta), np.exp(beta))
    at = law.power(volts, _inner(law, beta))
    known = u * math.sqrt(variance) if u_watts is None else u
    slopes = _slopes(law, volts, watts, beta)
    total = u if u_volts is None else np.hypot(u, _by_volts(law, volts, beta) * u_volts)
    half = slopes / total[:, None]
    size = np.linalg.norm(half, axis=0)  # they may be far apart in it
    half = half / np.where(size > 0.0, size, 1.0)
    leverage = np.einsum("ij,jk,ik->i", half, np.linalg.pinv(half.T @ half), half)
    answer = ConstantsAnswer(
        law, volts, watts, beta, covariance, known, at, leverage, _digits(law, volts, beta, known),
        _step_effect(law, volts, beta, step_v), (),
    )  # fmt: skip
    return replace(answer, notes=tuple(_notes(answer, math.nan if u_watts is None else variance)))


def moved_by_gain(answer: ConstantsAnswer, u_gain: float) -> ConstantsAnswer:
    """The same where all powers share a relative standard uncertainty: it moves the constants, and no residual.

    A quadratic's go with the powers, of a detector its k does, of a logarithmic one the intercept by s·10/ln 10 dB.
    """
    slopes = answer.coefficients
    if answer.law.id == "log":
        slopes = np.array([0.0, -slopes[0] * 10.0 / math.log(10.0)])
    elif answer.law.id == "detector":
        slopes = slopes * np.array([1.0, 0.0])
    return replace(answer, covariance=answer.covariance + np.outer(slopes, slopes) * u_gain**2)


def checked_against(answer: ConstantsAnswer, typed: FloatArray) -> FloatArray:
    """What constants in use say over what the reference said, less one, at each reading; raises OutOfRangeError."""
    law = answer.law
    if typed.size != len(law.names):
        raise OutOfRangeError(
            f"{typed.size} constants for {', '.join(law.names)}.", "Give one for each, in that order."
        )
    if law.id == "detector" and np.any(typed <= 0.0):
        raise OutOfRangeError("Constants of a detector are above 0.", "Look at what was typed.")
    return np.asarray(law.power(answer.volts, _inner(law, typed)) / answer.watts - 1.0)


def _slopes(law: Law, volts: FloatArray, watts: FloatArray, beta: FloatArray) -> FloatArray:
    """Watts for each constant, shape (n, p); a constant next to 0 is moved by what constants of such readings are."""
    steps = 1e-6 * (beta if law.id == "detector" else law.scale(volts, watts))
    both = [
        (law.power(volts, _inner(law, beta + step)) - law.power(volts, _inner(law, beta - step))) / (2.0 * step.sum())
        for step in np.diag(steps)
    ]
    return np.stack(both, axis=1)


def _by_volts(law: Law, volts: FloatArray, beta: FloatArray) -> FloatArray:
    """Watts for each volt."""
    step = 1e-6 * float(np.max(np.abs(volts)))
    inner = _inner(law, beta)
    return np.asarray(
        (law.power(volts + step, inner) - law.power(np.maximum(volts - step, 1e-12), inner)) / (2.0 * step)
    )


def _digits(law: Law, volts: FloatArray, beta: FloatArray, known: FloatArray) -> int:
    """Figures from which rounding moves no power by more than a tenth of its u."""
    exact = law.power(volts, _inner(law, beta))
    allowed = np.maximum(DIGITS_SHARE * np.where(np.isfinite(known), known, 0.0), FINEST * np.abs(exact))
    for digits in range(2, MOST_DIGITS):
        rounded = np.array([float(f"{value:.{digits}g}") for value in beta])
        if np.all(np.abs(law.power(volts, _inner(law, rounded)) - exact) <= allowed):
            return digits
    return MOST_DIGITS


def _step_effect(law: Law, volts: FloatArray, beta: FloatArray, step_v: float) -> float:
    lowest = int(np.argmin(volts))
    power = float(law.power(volts, _inner(law, beta))[lowest])
    return abs(float(_by_volts(law, volts, beta)[lowest])) * step_v / power if step_v and power > 0.0 else 0.0


def _notes(answer: ConstantsAnswer, variance: float) -> Iterator[Note]:
    n, p = answer.volts.size, len(answer.law.names)
    if n < p + SPARE:
        yield Note(
            "constants.few", Severity.DOUBT, "constants", f"{n} readings for {p} constants: the fit can't fail.",
            "Through as many points as constants any curve goes; nothing says how wrong it is between them.",
            f"Read {p + SPARE} levels or more, two of them in the lowest tenth.", {"readings": n, "constants": p},
        )  # fmt: skip
    elif not answer.enough_points:
        span = float(answer.watts.max() / answer.watts.min())
        yield Note(
            "constants.narrow", Severity.WATCH, "constants", f"The readings span {span:.2g} to 1 in power.",
            "Constants are trusted where they were fitted; below, a diode goes over into its square law.",
            "Read the lowest power that will be shown, too.", {"span": span},
        )  # fmt: skip
    if math.isfinite(variance) and variance > 4.0:
        yield Note(
            "constants.law", Severity.DOUBT, "constants",
            f"The readings scatter {math.sqrt(variance):.2g} times as far about this law as they are known to.",
            "The law isn't the meter's, or a reading is off; the uncertainties are widened by it.",
            "Try another law, or look at the largest residual.", {"ratio": math.sqrt(variance)},
        )  # fmt: skip
    worst = int(np.argmax(np.abs(answer.residuals)))
    if abs(answer.residuals[worst]) > 0.05:
        yield Note(
            "constants.residual", Severity.WATCH, "constants",
            f"At {plain(float(answer.watts[worst]), 'W')} the constants are off by "
            f"{percent(answer.residuals[worst], plus=True)}.",
            "A single set of constants doesn't follow the meter there.", "A set for each band, or for each range.",
            {"residual": float(answer.residuals[worst])},
        )  # fmt: skip
    if answer.step_effect > 0.05:
        yield Note(
            "constants.step", Severity.WATCH, "constants",
            f"One step of the converter is {percent(answer.step_effect)} of the lowest power.",
            "There the display jumps by that, whatever the constants are.", "More gain, or average conversions.",
            {"step": answer.step_effect},
        )  # fmt: skip


@dataclass(frozen=True)
class ConstantsRequest:
    """Volts and watts as typed, lists of one length."""

    volts: str
    watts: str
    u_watts: str = ""  # in per cent, k = 2
    u_volts: str = ""  # in volts, k = 2; none: exact
    law: str = "quadratic"
    step: str = ""  # of the converter
    check: str = ""  # constants that are in use, in the law's order

    def __call__(self) -> ConstantsAnswer:
        """The answer; raises UnreadableError, OutOfRangeError."""
        volts = np.array([item.value_si for item in readings_from_text(self.volts, "V", "volts", "0.4 0.9 1.6 V")])
        watts = np.array([item.value_si for item in readings_from_text(self.watts, "W", "watts", "1 5 20 W")])
        if volts.size != watts.size:
            raise OutOfRangeError(
                f"{volts.size} volts and {watts.size} watts don't go together.", "Give one power for each of them."
            )
        if self.law not in LAWS:
            raise UnreadableError(f"“{self.law}” is no law that is known.", f"One of: {', '.join(LAWS)}.")
        u_watts = u_volts = None
        if self.u_watts.strip():
            u_watts = watts * value_from_text(self.u_watts, UNITS["%"], "U of the watts", "3 %") / 2.0
        if self.u_volts.strip():
            u_volts = np.full(volts.size, value_from_text(self.u_volts, UNITS["V"], "U of the volts", "2 mV") / 2.0)
        step = value_from_text(self.step, UNITS["V"], "converter's step", "0.8 mV") if self.step.strip() else 0.0
        answer = fitted(volts, watts, LAWS[self.law], u_watts, u_volts, step)
        if not self.check.strip():
            return answer
        typed = np.array([item.value_si for item in readings_from_text(self.check, "", "constants", "1.02 0.1 0")])
        return replace(answer, checked=checked_against(answer, typed))
