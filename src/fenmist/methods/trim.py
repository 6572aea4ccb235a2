"""What to turn: a meter's gain control, or gain and zero, set three ways from what it showed against a reference.

A control multiplies what a meter shows: e = w·(g·a + z − b), with a what it showed, b the reference's power, and w one
over b (per cent) or over full scale. Exact at the working level, least worst case, least squares: each takes something
and leaves something, and what the least worst case leaves no control takes away. Page: docs/method/trim.md.

>>> answer = TrimRequest(("50 W: 47.1 W", "100 W: 93 W"))()
>>> round(answer.minimax.gain, 4), round(100 * answer.minimax.worst, 2)
(1.0684, 0.64)
"""

from collections.abc import Iterator, Sequence
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.units.display import percent, plain
from fenmist.units.level import DB_PER_NEPER
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS

FloatArray = NDArray[np.float64]

WORTH = 0.5
"""Part of the worst error that turning has to take away to be worth opening a meter for (Fenmist's own)."""


class Measure(StrEnum):
    """In what an error is weighed."""

    PER_CENT = "per cent"
    DB = "dB"
    FULL_SCALE = "of full scale"


class Control(StrEnum):
    """What can be turned."""

    GAIN = "gain"
    GAIN_AND_ZERO = "gain and zero"


@dataclass(frozen=True, eq=False)
class Setting:
    """One way to set the controls, and what is left."""

    gain: float  # what the indication is multiplied by
    zero_w: float  # what is added to it then
    errors: FloatArray  # at each reading, shape (n,): a share, or dB

    @property
    def worst(self) -> float:
        """The largest of them, without its sign."""
        return float(np.max(np.abs(self.errors)))

    @property
    def worst_at(self) -> int:
        """Which reading that is."""
        return int(np.argmax(np.abs(self.errors)))


@dataclass(frozen=True, eq=False)
class TrimAnswer:
    """What the controls can do."""

    reference_w: FloatArray  # shape (n,), rising
    indicated_w: FloatArray
    measure: Measure
    as_found: Setting
    exact: Setting
    minimax: Setting
    least_squares: Setting
    working: tuple[float, float]  # power at the working level, and what was shown there, W
    expanded_u: FloatArray | None  # of each ratio, relative; none where nobody says
    weights: FloatArray  # of each error in W
    notes: tuple[Note, ...]

    @property
    def working_w(self) -> float:
        """Power at the working level, where a setting is made."""
        return self.working[0]

    def reads(self, setting: Setting) -> float:
        """What it is to be made to read there, W."""
        return setting.gain * self.working[1] + setting.zero_w

    def left_by(self, gain: float, zero_w: float) -> Setting:
        """What any other setting leaves."""
        return _setting(self.reference_w, self.indicated_w, self.weights, self.measure, gain, zero_w)

    @property
    def is_inside_u(self) -> bool:
        """Whether no error is larger than its uncertainty."""
        return _is_inside(self.indicated_w, self.reference_w, self.expanded_u)


def trimmed(
    reference_w: FloatArray,
    indicated_w: FloatArray,
    measure: Measure = Measure.PER_CENT,
    *,
    control: Control = Control.GAIN,
    full_scale_w: float = 0.0,
    working_w: float | None = None,
    exact_at: int | None = None,
    expanded_u: FloatArray | None = None,
) -> TrimAnswer:
    """Three settings of a control.

    Parameters
    ----------
    reference_w, indicated_w : array, shape (n,)
        Above 0.
    full_scale_w : float
        Of the range; needed where errors are weighed by it.
    working_w : float, optional
        Where the first setting is exact, between readings as their ratio goes; the highest read where nobody says.
    exact_at : int, optional
        The reading at which it is, instead.
    expanded_u : array, shape (n,), optional
        U of each ratio, relative: least squares weigh by it, and errors inside it aren't worth turning for.

    Raises
    ------
    OutOfRangeError
        For fewer readings than there are controls, nothing above 0, no full scale where one is needed, dB of a zero.
    """
    needed = 1 if control is Control.GAIN else 2
    if reference_w.size < needed or np.unique(reference_w).size < needed:
        raise OutOfRangeError(f"{control.capitalize()} needs {needed} levels or more.", "Read another level.")
    if np.any(reference_w <= 0.0) or np.any(indicated_w <= 0.0):
        raise OutOfRangeError("Powers are above 0.", "Leave out what showed nothing: no gain helps there.")
    if measure is Measure.FULL_SCALE and full_scale_w <= 0.0:
        raise OutOfRangeError("Errors of full scale need a full scale.", "Type for example 200 W.")
    if measure is Measure.DB and control is not Control.GAIN:
        raise OutOfRangeError("A zero isn't weighed in dB.", "Choose per cent, or of full scale.")
    order = np.argsort(reference_w, kind="stable")
    b, a = reference_w[order], indicated_w[order]
    u = None if expanded_u is None else np.asarray(np.broadcast_to(expanded_u, b.shape)[order], float)
    weights = np.full(b.size, 1.0 / full_scale_w) if measure is Measure.FULL_SCALE else 1.0 / b
    if exact_at is not None:
        at = float(reference_w[exact_at]), float(indicated_w[exact_at])
    else:
        level = float(b[-1]) if working_w is None else working_w
        at = level, level * float(np.exp(np.interp(np.log(level), np.log(b), np.log(a / b))))

    def setting(gain: float, zero_w: float = 0.0) -> Setting:
        return _setting(b, a, weights, measure, gain, zero_w)

    found, exact = setting(1.0), setting(at[0] / at[1])
    if control is Control.GAIN:
        least, squares = (
            setting(_least_worst(a, b, weights, measure)),
            setting(_least_squares(a, b, weights, u, measure)),
        )
    else:
        least, squares = setting(*_least_worst_of_two(a, b, weights)), setting(*_least_squares_of_two(a, b, weights, u))
    notes = tuple(_notes(b, measure, (found, exact, least), at[0], _is_inside(a, b, u)))
    return TrimAnswer(b, a, measure, found, exact, least, squares, at, u, weights, notes)


def _setting(
    b: FloatArray, a: FloatArray, weights: FloatArray, measure: Measure, gain: float, zero_w: float
) -> Setting:
    shown = gain * a + zero_w
    if measure is Measure.DB:
        return Setting(gain, zero_w, DB_PER_NEPER * np.log(shown / b))
    return Setting(gain, zero_w, weights * (shown - b))


def _is_inside(a: FloatArray, b: FloatArray, u: FloatArray | None) -> bool:
    """Whether no error is larger than its uncertainty."""
    return u is not None and bool(np.all(np.abs(a / b - 1.0) <= u))


def _least_worst(a: FloatArray, b: FloatArray, weights: FloatArray, measure: Measure) -> float:
    """Gain whose largest error is the least: where the two that limit it are alike and opposite."""
    if measure is not Measure.FULL_SCALE:
        ends = a / b
        low, high = float(ends.min()), float(ends.max())
        return 2.0 / (low + high) if measure is Measure.PER_CENT else (low * high) ** -0.5
    gains = (b[:, None] + b[None, :]) / (a[:, None] + a[None, :])  # each pair alike and opposite
    worst = np.max(np.abs(weights * (gains[..., None] * a - b)), axis=-1)
    return float(gains.flat[int(np.argmin(worst))])


def _least_squares(a: FloatArray, b: FloatArray, weights: FloatArray, u: FloatArray | None, measure: Measure) -> float:
    counts = np.ones_like(a) if u is None else 1.0 / np.maximum(u, 1e-12) ** 2
    if measure is Measure.DB:
        return float(np.exp(-np.sum(counts * np.log(a / b)) / np.sum(counts)))
    counts = counts * weights**2
    return float(np.sum(counts * a * b) / np.sum(counts * a * a))


def _least_worst_of_two(a: FloatArray, b: FloatArray, weights: FloatArray) -> tuple[float, float]:
    """Gain and zero by linear programming: t as small as can be with −t ≤ w·(g·a + z − b) ≤ t."""
    from scipy.optimize import linprog  # heavy: imported on first use

    scale = float(np.max(b))  # so that gain and zero are of one size
    rows = np.stack([weights * a, weights * scale, -np.ones_like(a)], axis=1)
    below = np.concatenate([rows, rows * np.array([-1.0, -1.0, 1.0])])
    limits = np.concatenate([weights * b, -weights * b])
    found = linprog([0.0, 0.0, 1.0], A_ub=below, b_ub=limits, bounds=[(None, None), (None, None), (0.0, None)])
    gain, zero, _ = np.asarray(found.x, float)
    return float(gain), scale * float(zero)


def _least_squares_of_two(
    a: FloatArray, b: FloatArray, weights: FloatArray, u: FloatArray | None
) -> tuple[float, float]:
    counts = weights if u is None else weights / np.maximum(u, 1e-12)
    gain, zero = np.linalg.lstsq(np.stack([counts * a, counts], axis=1), counts * b, rcond=None)[0]
    return float(gain), float(zero)


def _notes(
    reference_w: FloatArray, measure: Measure, settings: tuple[Setting, Setting, Setting], working_w: float,
    is_inside: bool,
) -> Iterator[Note]:  # fmt: skip
    found, exact, least = settings

    def worst(setting: Setting) -> str:
        return f"{_said(setting.worst, measure)} at {plain(reference_w[setting.worst_at], 'W')}"

    if is_inside:
        yield Note(
            "trim.inside_u", Severity.WATCH, "trim", "Leave it: no error is larger than its uncertainty.",
            "What would be turned away is as likely the reference's error as the meter's.",
            "A better reference first, if it has to be better.", {"worst": found.worst},
        )  # fmt: skip
    elif least.worst > (1.0 - WORTH) * found.worst:
        yield Note(
            "trim.little", Severity.WATCH, "trim", f"Whatever is turned, {worst(least)} stays.",
            f"As found the worst is {worst(found)}: errors differ from reading to reading, and a control moves all.",
            "Another control (zero, each range its own), or a correction table.",
            {"worst": least.worst, "found": found.worst},
        )  # fmt: skip
    if least.worst > 0.0 and exact.worst > 2.0 * least.worst:
        yield Note(
            "trim.working_costs", Severity.GOOD_TO_KNOW, "trim",
            f"Exact at {plain(working_w, 'W', 3)} leaves {worst(exact)}.",
            f"The least worst case leaves no more than {_said(least.worst, measure)} anywhere.",
            "Choose by where it is used.", {"worst": exact.worst},
        )  # fmt: skip


def _said(error: float, measure: Measure) -> str:
    return f"{error:.2g}\u202fdB" if measure is Measure.DB else percent(error)


@dataclass(frozen=True)
class TrimRequest:
    """Pairs of reference and indication as typed, "50 W: 47.1 W", and how errors are weighed."""

    readings: Sequence[str]
    working: str = ""
    full_scale: str = ""
    u: str = ""  # of each ratio, in per cent, k = 2
    measure: Measure | None = None  # of full scale where that is given, else per cent
    control: Control = Control.GAIN

    def __call__(self) -> TrimAnswer:
        """The answer; raises UnreadableError, OutOfRangeError."""
        pairs = [_pair(text) for text in self.readings]
        if not pairs:
            raise UnreadableError("A control is set by readings.", "Give one or more, such as “50 W: 47.1 W”.")
        watts = UNITS["W"]
        full = value_from_text(self.full_scale, watts, "full scale", "200 W") if self.full_scale.strip() else 0.0
        working = value_from_text(self.working, watts, "working level", "50 W") if self.working.strip() else None
        if working is not None and working <= 0.0:
            raise OutOfRangeError("A working level is above 0.", "Type for example 50 W.")
        u: FloatArray | None = None
        if self.u.strip():
            u = np.array([value_from_text(self.u, UNITS["%"], "U", "3 %")])
        measure = self.measure or (Measure.FULL_SCALE if full else Measure.PER_CENT)
        reference, indicated = (np.array(column, float) for column in zip(*pairs, strict=True))
        return trimmed(
            reference, indicated, measure, control=self.control, full_scale_w=full, working_w=working, expanded_u=u
        )


def _pair(text: str) -> tuple[float, float]:
    reference, colon, indicated = text.partition(":")
    if not colon:
        raise UnreadableError(f"“{text}” is no pair.", "Type reference and indication: 50 W: 47.1 W.")
    watts, example = UNITS["W"], "50 W: 47.1 W"
    return value_from_text(reference, watts, "reference", example), value_from_text(
        indicated, watts, "indication", example
    )
