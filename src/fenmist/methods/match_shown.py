"""What a meter of match shows, and within which bounds: reflected watts, SWR, ρ or return loss, all as ρ.

A meter knows |Γ| alone. Of its directivity D each of its arms lets 10^(−D/20) of the other wave in, in a phase that
nobody knows: a true ρ shows anywhere from (ρ − d)/(1 + d·ρ) to (ρ + d)/(1 − d·ρ). Below its detector's floor it shows
too little; its scale adds what is stated of that. Read the other way about the same gives the ring in which the truth
lies. Page: docs/method/reflection.md.
"""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.kit.part import SpecKind, SpecTerm
from fenmist.kit.stated import Shown, half_width
from fenmist.measurand import Kind
from fenmist.rf.reflection import swr_from_reflection
from fenmist.uncertainty.influence import FloatArray

LARGEST = 1.0 - 1e-9
"""ρ below which an SWR is a number."""

USUAL_DIRECTIVITY_DB = 20.0
"""Of a meter that states none (common practice for meters of the workshop, no source)."""


def leak_of(directivity_db: float) -> float:
    """|δ| = 10^(−D/20): the part of the other wave that an arm lets in.

    >>> round(leak_of(25.0), 4)
    0.0562
    """
    return float(10.0 ** (-directivity_db / 20.0))


def reflection_shown(kind: Kind, value: FloatArray, forward_w: FloatArray | None = None) -> FloatArray:
    """ρ that a reading stands for, any shape; not held below 1.

    Parameters
    ----------
    kind : Kind
        Of what was read: SWR, reflection coefficient, return loss (dB), or reflected power (W).
    forward_w : FloatArray, optional
        Forward power in W, to which reflected power is held.
    """
    if kind is Kind.SWR:
        s = np.maximum(value, 1.0)
        return np.asarray((s - 1.0) / (s + 1.0))
    if kind is Kind.RETURN_LOSS:
        return np.asarray(10.0 ** (-np.asarray(value) / 20.0))
    if kind is Kind.REFLECTED and forward_w is not None:
        return np.asarray(np.sqrt(np.maximum(value, 0.0) / forward_w))
    return np.asarray(value, float)


def as_shown(kind: Kind, rho: FloatArray, forward_w: FloatArray | None = None) -> FloatArray:
    """What a perfect meter of a kind shows for ρ: the other way about."""
    held = np.clip(rho, 0.0, LARGEST)
    if kind is Kind.SWR:
        return np.asarray(swr_from_reflection(held))
    if kind is Kind.RETURN_LOSS:
        return np.asarray(-20.0 * np.log10(np.maximum(held, 1e-12)))
    if kind is Kind.REFLECTED and forward_w is not None:
        return np.asarray(held**2 * forward_w)
    return np.asarray(held)


def reflection_limit(
    kind: Kind, rho: FloatArray, limit: FloatArray, forward_w: FloatArray | None = None
) -> tuple[FloatArray, FloatArray]:
    """By how much ρ may lie below and above, where the reading may be off by ± a limit in its own unit."""
    value = as_shown(kind, rho, forward_w)
    ends = (reflection_shown(kind, value - limit, forward_w), reflection_shown(kind, value + limit, forward_w))
    low, high = (ends[1], ends[0]) if kind is Kind.RETURN_LOSS else ends
    return np.maximum(rho - low, 0.0), np.maximum(high - rho, 0.0)


@dataclass(frozen=True, eq=False)
class MeterClaim:
    """What is stated of a meter at n readings; arrays have shape (n,)."""

    kind: Kind  # of what it shows
    directivity_db: float
    terms: tuple[SpecTerm, ...]  # of its scale
    forward_w: FloatArray | None = None  # the power that went out
    full_scale: FloatArray | None = None
    forward_full_scale: FloatArray | None = None
    digit: FloatArray | None = None
    floor_w: float = 0.0  # reflected power below which its detector may show nothing

    def shows(self, rho: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Lowest and highest ρ that it may show for a true one, each 0 to 1."""
        leak = leak_of(self.directivity_db)
        low = np.maximum(rho - leak, 0.0) / (1.0 + leak * rho)
        high = (rho + leak) / np.maximum(1.0 - leak * rho, 1e-9)
        low = np.sqrt(np.maximum(low**2 - self._floor(), 0.0))
        return np.maximum(low - self._scale(low)[0], 0.0), np.minimum(high + self._scale(high)[1], 1.0)

    def truth(self, shown: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Lowest and highest true ρ behind one that it shows: its ring."""
        leak = leak_of(self.directivity_db)
        low = np.maximum(shown - self._scale(shown)[0], 0.0)
        high = np.sqrt((shown + self._scale(shown)[1]) ** 2 + self._floor())
        return (
            np.maximum(low - leak, 0.0) / (1.0 + leak * low),
            np.minimum((high + leak) / np.maximum(1.0 - leak * high, 1e-9), 1.0),
        )

    def _floor(self) -> FloatArray | float:
        return self.floor_w / self.forward_w if self.forward_w is not None and self.floor_w > 0.0 else 0.0

    def _scale(self, rho: FloatArray) -> tuple[FloatArray, FloatArray]:
        """± that its scale allows, in ρ; forward watts of a meter that shows both may be off as well."""
        rho = np.minimum(rho, LARGEST)
        value = as_shown(self.kind, rho, self.forward_w)
        below, above = reflection_limit(self.kind, rho, self._limit(value), self.forward_w)
        if self.kind is Kind.REFLECTED and self.forward_w is not None:
            ahead = replace(self, full_scale=self.forward_full_scale)
            share = np.minimum(ahead._limit(self.forward_w) / self.forward_w, 0.9)
            below = rho - (rho - below) / np.sqrt(1.0 + share)
            above = (rho + above) / np.sqrt(1.0 - share) - rho
        return below, above

    def _limit(self, value: FloatArray) -> FloatArray:
        if self.kind is Kind.RETURN_LOSS:  # its decibels are its unit
            return np.full_like(value, sum(_decibels(item, self.digit) for item in self.terms))
        shown = Shown(value, self.digit, self.full_scale, per_decade_db=10.0 if self.kind is Kind.REFLECTED else 20.0)
        return half_width(self.terms, shown)


def _decibels(term: SpecTerm, digit: FloatArray | None) -> float:
    if term.kind is SpecKind.DIGITS:
        return term.value * (float(np.max(digit)) if digit is not None else 0.0)
    return term.value


@dataclass(frozen=True, eq=False)
class Known:
    """An end of the line: what it reflects at the meter's plane, and what the meter showed with it; all at n ends."""

    gamma: NDArray[np.complex128]  # , shape (n,)
    u_gamma: FloatArray  # standard, along its own direction
    shown: FloatArray  # ρ
    u_shown: FloatArray


@dataclass(frozen=True)
class Fitted:
    """A meter's own leak and scale, from known ends."""

    leak: float  # |δ|
    u_leak: float
    scale: float  # what it shows over what it should: 1 less its set error
    u_scale: float
    ends: int

    @property
    def directivity_db(self) -> float:
        """−20·log10 |δ|."""
        return float(-20.0 * np.log10(max(self.leak, 1e-9)))

    @property
    def directivity_interval_db(self) -> tuple[float, float]:
        """Lowest and highest directivity within ±2 u of the leak; infinite where the leak may be nothing."""
        low, high = self.leak - 2.0 * self.u_leak, self.leak + 2.0 * self.u_leak
        return float(-20.0 * np.log10(high)), float(-20.0 * np.log10(low)) if low > 0.0 else float("inf")


STEPS = 40
"""Steps that a fit may take."""

LARGEST_LEAK = 0.3
"""Standard size of a leak of which nothing is known: a directivity of 10 dB (Fenmist's own)."""

REFLECTS = 0.1
"""|Γ| from which an end tells a meter's scale (Fenmist's own)."""

ENDS_NEEDED = 3
"""Known ends from which leak (two parts) and scale follow."""


def fit_meter(known: Known) -> Fitted | None:
    """Leak and scale of a meter from what it shows at known ends: s = c·|Γ + δ|, least squares weighed by 1/u².

    Parameters
    ----------
    known : Known
        Three ends or more; both signs of reflection, or two phases, tell leak and scale apart.

    Returns
    -------
    Fitted or None
        None of fewer ends, and where all but one of them reflect too little to tell the scale.
    """
    n = known.shown.size
    if n < ENDS_NEEDED or np.sum(np.abs(known.gamma) > REFLECTS) < ENDS_NEEDED - 1:
        return None
    weight = 1.0 / np.maximum(np.hypot(known.u_gamma, known.u_shown), 1e-6)
    # ends on one line through the centre don't tell on which side of it δ lies: begin on one
    along = np.angle(known.gamma[int(np.argmax(np.abs(known.gamma)))])
    begin = 0.7 * float(np.min(known.shown)) * np.exp(1j * (along + np.pi / 4.0))
    at = np.array([1.0, begin.real, begin.imag])  # c, Re δ, Im δ
    usual = np.diag([0.0, 1.0 / LARGEST_LEAK, 1.0 / LARGEST_LEAK])[1:]  # what no end tells isn't larger than that
    jacobian = np.zeros((n + 2, 3))
    for _ in range(STEPS):
        arrives = known.gamma + at[1] + 1j * at[2]
        size = np.maximum(np.abs(arrives), 1e-9)
        of_ends = np.stack([size, at[0] * arrives.real / size, at[0] * arrives.imag / size], axis=1) * weight[:, None]
        jacobian = np.concatenate([of_ends, usual])
        left = np.concatenate([(known.shown - at[0] * size) * weight, -usual @ at])
        step = np.linalg.lstsq(jacobian, left, rcond=None)[0]
        at = at + np.clip(step, -0.2, 0.2)
        if np.max(np.abs(step)) < 1e-10:
            break
    covariance = np.linalg.inv(jacobian.T @ jacobian)
    leak = float(np.hypot(at[1], at[2]))
    way = np.array([0.0, at[1], at[2]]) / max(leak, 1e-12)
    u_leak = float(np.sqrt(way @ covariance @ way)) if leak > 1e-6 else float(np.sqrt(np.max(np.diag(covariance)[1:])))
    return Fitted(leak, u_leak, float(at[0]), float(np.sqrt(covariance[0, 0])), n)


def leak_bounds(known: Known, same_ends: Sequence[tuple[int, int]] = ()) -> tuple[float, float]:
    """Least and most that |δ| can be: from what is shown at each end beyond what it should.

    Parameters
    ----------
    known : Known
        One end or more.
    same_ends : sequence of (int, int)
        Pairs of places that reflect alike in two phases: half of what they differ by is leak.

    Notes
    -----
    ||Γ + δ| − |Γ|| ≤ |δ| ≤ |Γ + δ| + |Γ|: the null of a good load gives both. U of each is taken off, or added.
    """
    size, wide = np.abs(known.gamma), 2.0 * np.hypot(known.u_gamma, known.u_shown)
    least = float(np.max(np.abs(known.shown - size) - wide, initial=0.0))
    for a, b in same_ends:
        apart = abs((known.shown[a] - size[a]) - (known.shown[b] - size[b]))
        least = max(least, (apart - float(np.hypot(wide[a], wide[b]))) / 2.0)
    return max(least, 0.0), float(np.min(known.shown + size + wide, initial=np.inf))
