"""Why a meter errs: shapes that errors take over frequency, level and range, held against each other.

Each shape says how ln(shown/reference) goes, and what reflected power is shown beside it; besides a gain it has one
figure of its own, such as a corner. All are fitted with the covariance of what was read, and with a ripple that is
nobody's shape (1 to 5 % is normal within a span: common practice). They are compared by Akaike's criterion, averaged
over that ripple, and by how well each foretells a reading that is left out. A shape that its own figure doesn't help
counts for nothing; one is named where it has 95 % of the weight and foretells best. Page: docs/method/why.md.

>>> f = np.array([1.8e6, 3.6e6, 7.1e6, 14.2e6, 28e6])
>>> seen = readings(f, np.full(5, 50.0), np.log(0.95 / (1.0 + (1.0e6 / f) ** 2)), np.diag(np.full(5, 0.01**2)))
>>> why = explained(seen)
>>> why.named.shape.kind, [(fit.shape.id, round(fit.figure / 1e6, 1)) for fit in why.likely]
('corner', [('coupler', 1.0), ('arm', 1.2)])
"""

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from fenmist.frozen import dataclass

FloatArray = NDArray[np.float64]

RIPPLES = (0.0, 0.005, 0.01, 0.02, 0.04, 0.08)
"""Standard deviations of what is nobody's shape, all as likely (1 to 5 %: common practice, no source)."""

SURE = 0.95
"""Part of the weight from which a shape is called by its name."""

HELPS = 4.0
"""What a figure of its own has to take off −2·ln L to count (two standard deviations of it)."""

MOST = 80
"""Readings that are looked at; of more, so many spread evenly."""

APART = 1.5
"""Highest over lowest frequency, or power, from which a shape over it can be seen (Fenmist's own)."""

STRANGE = 0.25
"""Miss of readings left out from which none of the shapes is it: three times the largest ripple."""

FORETELLS = 0.2
"""Part of what its figure makes by which a shape may miss readings left out, to be named (Fenmist's own)."""

SMALL = 0.02
"""Relative size of what a figure of its own makes, below which a shape is no more than its gain (Fenmist's own)."""

GRID, FINER = 49, 25
"""Places at which a figure is tried, then again around the best."""

WIDE = 1.0
"""Standard deviation that a gain, or a figure, has before anything is read, where a reading is left out (own)."""

FORMS: Mapping[float, str] = {
    2.0: "rms volts taken for peak", 0.5: "peak volts taken for rms", 4.0: "peak taken for peak-to-peak",
    0.25: "peak-to-peak taken for peak", 8.0: "rms taken for peak-to-peak", 0.125: "peak-to-peak taken for rms",
    1.5: "50\u202fΩ taken for 75\u202fΩ", 2.0 / 3.0: "75\u202fΩ taken for 50\u202fΩ",
}  # fmt: skip
"""What a right meter reads over a reference whose volts were taken in the wrong form, or whose load is another one."""


@dataclass(frozen=True, eq=False)
class Places:
    """Where readings were made, or might be. Arrays have shape (n,), figures beside them () or (m, 1)."""

    frequency_hz: FloatArray
    power_w: FloatArray  # by the reference
    full_scale_w: FloatArray  # of the range in use; the highest power read where it has none
    top_hz: float
    top_w: float


@dataclass(frozen=True, eq=False)
class Readings:
    """What was read. Arrays have shape (n,)."""

    places: Places
    log_ratio: FloatArray  # ln(shown/reference)
    covariance: FloatArray  # (n, n)
    ranges: tuple[str, ...]
    reflected: FloatArray  # √(reflected power shown / reference); nan where it wasn't read
    u_reflected: FloatArray
    reads_volts: bool  # whether the reference's power comes from volts and a load

    @property
    def u_read(self) -> float:
        """What one reading is known to beside what all share, relative, standard."""
        shared = max(float(self.covariance.min()), 0.0)
        return math.sqrt(float(np.median(np.diag(self.covariance))) - shared)

    @cached_property
    def range_names(self) -> tuple[str, ...]:
        """The ranges read on, each once."""
        return tuple(dict.fromkeys(self.ranges))


def readings(
    frequency_hz: ArrayLike, power_w: ArrayLike, log_ratio: ArrayLike, covariance: ArrayLike, *,
    ranges: Sequence[str] = (), full_scale_w: ArrayLike = 0.0, reflected: ArrayLike = math.nan,
    u_reflected: ArrayLike = math.inf, reads_volts: bool = False,
) -> Readings:  # fmt: skip
    """Readings to be explained; those of more than can be looked at are spread evenly.

    Parameters
    ----------
    frequency_hz, power_w : array, shape (n,)
        Where, in Hz and in W by the reference; above 0.
    log_ratio : array, shape (n,)
        ln(shown/reference).
    covariance : array, shape (n, n)
        Of those, of all that is uncertain but the meter.
    ranges : sequence of n, optional
        Names of the ranges in use.
    full_scale_w : array, optional
        Of the range in use, W; 0 where it has none.
    reflected, u_reflected : array, optional
        √(reflected power shown / reference) with what a good line alone makes of it, as a standard uncertainty.
    reads_volts : bool
        Whether the reference's power comes from volts and a load.
    """
    f, logs = np.asarray(frequency_hz, float), np.asarray(log_ratio, float)
    n = f.size
    keep = np.unique(np.linspace(0, n - 1, min(n, MOST)).round().astype(int))
    b = np.broadcast_to(np.asarray(power_w, float), n)[keep]
    full = np.broadcast_to(np.asarray(full_scale_w, float), n)[keep]
    full = np.where(full > 0.0, full, b.max())
    names = tuple(ranges) or ("",) * n
    places = Places(f[keep], b, full, float(f[keep].max()), float(b.max()))
    return Readings(
        places, logs[keep], np.asarray(covariance, float)[np.ix_(keep, keep)], tuple(names[i] for i in keep),
        np.broadcast_to(np.asarray(reflected, float), n)[keep],
        np.broadcast_to(np.asarray(u_reflected, float), n)[keep], reads_volts,
    )  # fmt: skip


# shapes


def _coupler(at: Places, corner: FloatArray) -> FloatArray:
    return -np.log1p((corner / at.frequency_hz) ** 2)


def _arm(at: Places, corner: FloatArray) -> FloatArray:
    x = (corner / at.frequency_hz) ** 2
    return np.asarray(np.log((1.0 + x / 4.0) / (1.0 + x)))


def _arm_reflected(at: Places, corner: FloatArray) -> FloatArray:
    x = corner / at.frequency_hz
    return np.asarray(0.5 * x / np.hypot(1.0, x))


def _diode(at: Places, knee: FloatArray) -> FloatArray:
    """`knee`: v of the diode over the detector's volts at the highest power read."""
    x = np.sqrt(at.power_w / at.top_w) / knee
    return np.asarray(2.0 * np.log(log_bessel(x) / x))


def log_bessel(x: FloatArray) -> FloatArray:
    """ln I₀(x): the DC of a diode on a capacitor at a sine's amplitude, both over its v."""
    from scipy.special import i0e  # heavy: imported on first use

    return np.asarray(np.where(x < 1e-4, x * x / 4.0, np.log(i0e(x)) + x))


def _zero(at: Places, share: FloatArray) -> FloatArray:
    """`share`: what is shown without power, of full scale."""
    return np.asarray(np.log(np.maximum(1.0 + share * at.full_scale_w / at.power_w, 1e-9)))


def _square(at: Places) -> FloatArray:
    return np.asarray((at.frequency_hz / at.top_hz) ** 2)


def _root(at: Places) -> FloatArray:
    return np.asarray(np.sqrt(at.frequency_hz / at.top_hz))


def _scale(at: Places) -> FloatArray:
    return np.asarray(np.log(at.power_w / at.full_scale_w))


def _corners(seen: Readings) -> FloatArray:
    f = seen.places.frequency_hz
    return np.geomspace(0.02 * f.min(), 2.0 * f.max(), GRID)


def _knees(_: Readings) -> FloatArray:
    return np.geomspace(1e-3, 2.0, GRID)


def _zeros(seen: Readings) -> FloatArray:
    """From where the lowest would show next to nothing up to three times what it should, closest together at 0."""
    least = float(np.min(seen.places.power_w / seen.places.full_scale_w))
    t = np.linspace(-1.0, 1.0, GRID)
    return np.asarray(np.where(t < 0.0, 0.97, 3.0) * least * np.sign(t) * np.abs(t) ** 2)


FREQUENCY, LEVEL = "frequency", "level"


@dataclass(frozen=True)
class Shape:
    """A way of erring, with one figure of its own or none beside a gain."""

    id: str
    over: str = ""  # what has to differ for it to be seen
    bend: Callable[[Places, FloatArray], FloatArray] | None = None  # not straight in its figure
    figures: Callable[[Readings], FloatArray] | None = None  # that are tried
    column: Callable[[Places], FloatArray] | None = None  # straight in its figure
    reflects: Callable[[Places, FloatArray], FloatArray] | None = None
    factor: float = 1.0  # known beforehand
    has_gain: bool = True
    family: str = ""  # of shapes that are much alike, and are named together

    @property
    def kind(self) -> str:
        """Its family, or itself."""
        return self.family or self.id


SHAPES = (
    Shape("right", has_gain=False),
    Shape("gain"),
    Shape("zero", LEVEL, _zero, _zeros),
    Shape("coupler", FREQUENCY, _coupler, _corners, family="corner"),
    Shape("arm", FREQUENCY, _arm, _corners, reflects=_arm_reflected, family="corner"),
    Shape("square", FREQUENCY, column=_square),
    Shape("root", FREQUENCY, column=_root),
    Shape("diode", LEVEL, _diode, _knees),
    Shape("scale", LEVEL, column=_scale),
)
"""All but those of volts taken wrongly, and of ranges that each have their own gain."""

_FORMS = tuple(Shape("volts", factor=factor, has_gain=False, family="gain") for factor in FORMS)


@dataclass(frozen=True, eq=False)
class Fit:
    """A shape as it fits best."""

    shape: Shape
    by_range: bool  # each range with a gain of its own
    seen: Readings
    values: FloatArray  # gains (in their logarithms), the column's slope, then the figure where it bends
    covariance: FloatArray  # of those
    ripple: float  # what is left that is nobody's shape, relative
    loss: float  # Akaike's criterion, averaged over the ripple
    foretold: float  # log of the density at readings left out, each by the others
    missed: float  # by how much those are missed, relative: root of the mean square
    weight: float = 0.0  # among all that count
    counts: bool = True  # false where a figure of its own helps nothing

    @property
    def key(self) -> tuple[str, bool, float]:
        """Tells it from any other."""
        return self.shape.id, self.by_range, self.shape.factor

    @property
    def kind(self) -> str:
        """Of its shape; that of a gain where its own figure makes next to nothing."""
        return "gain" if self.has_figure and self.span < SMALL else self.shape.kind

    @property
    def has_figure(self) -> bool:
        """Whether it has one beside gains."""
        return self.shape.bend is not None or self.shape.column is not None

    @property
    def figure(self) -> float:
        """Its own: a corner in Hz, a zero as a share of full scale, a knee, the slope of its column."""
        return float(self.values[-1])

    @property
    def u_figure(self) -> float:
        """Standard uncertainty of that."""
        return float(np.sqrt(self.covariance[-1, -1]))

    @property
    def gains(self) -> FloatArray:
        """ln of the gain, of each range where each has its own; none where the shape has none."""
        count = len(self.seen.range_names) if self.by_range else int(self.shape.has_gain)
        return self.values[:count]

    @cached_property
    def span(self) -> float:
        """How much of ln(shown/reference) its own figure makes over what was read; the gain's size without one."""
        if not self.has_figure:
            made = np.asarray([math.log(self.shape.factor)]) if not self.gains.size else self.gains
            return float(np.ptp(made) if self.by_range else abs(made[0]))
        own = self.log_ratio(self.seen.places, self.seen.ranges) - _base(self, self.seen.ranges) @ self.gains
        return float(np.ptp(own))

    def log_ratio(self, at: Places, ranges: Sequence[str]) -> FloatArray:
        """ln(shown/reference) there, shape (n,)."""
        made = math.log(self.shape.factor) + _base(self, ranges) @ self.gains
        if self.shape.column is not None:
            made = made + self.figure * self.shape.column(at)
        if self.shape.bend is not None:
            made = made + self.shape.bend(at, np.asarray(self.figure))
        return np.asarray(made)

    def u_log_ratio(self, at: Places, ranges: Sequence[str]) -> FloatArray:
        """What that is known to: its figures and the ripple, without reading anything, shape (n,)."""
        slopes = _slopes(self, at, ranges)
        return np.asarray(np.sqrt(np.einsum("ij,jk,ik->i", slopes, self.covariance, slopes) + self.ripple**2))

    def reflected(self, at: Places) -> FloatArray:
        """√(reflected power shown / reference) into a perfect end, shape (n,)."""
        made = self.shape.reflects
        return np.zeros(at.frequency_hz.size) if made is None else made(at, np.asarray(self.figure))


def _base(fit: Fit, ranges: Sequence[str]) -> FloatArray:
    return _columns(ranges, fit.seen.range_names if fit.by_range else ("",) * int(fit.shape.has_gain), fit.by_range)


def _columns(ranges: Sequence[str], names: Sequence[str], by_range: bool) -> FloatArray:
    """A column for each gain, shape (n, gains)."""
    if not by_range:
        return np.ones((len(ranges), len(names)))
    return np.array([[float(item == name) for name in names] for item in ranges])


def _slopes(fit: Fit, at: Places, ranges: Sequence[str]) -> FloatArray:
    """How ln(shown/reference) goes with each value, shape (n, p)."""
    parts = [_base(fit, ranges)]
    if fit.shape.column is not None:
        parts.append(fit.shape.column(at)[:, None])
    if fit.shape.bend is not None:
        parts.append(_slope_of(lambda figure: _bent(fit.shape, at, figure), np.asarray(fit.figure))[:, None])
    return np.concatenate(parts, axis=1)


def _bent(shape: Shape, at: Places, figure: FloatArray) -> FloatArray:
    return np.zeros(at.frequency_hz.size) if shape.bend is None else np.asarray(shape.bend(at, figure))


def _slope_of(of: Callable[[FloatArray], FloatArray], figures: FloatArray) -> FloatArray:
    step = 1e-4 * np.maximum(np.abs(figures), 1e-6)
    return np.asarray((of(figures + step) - of(figures - step)) / (2.0 * step[..., None]))


# fitting


class _Rows:
    """What was read as one column: ratios, then reflected waves, turned to where their errors are apart.

    There each ripple, of r, makes each of the m by itself lighter.
    """

    def __init__(self, seen: Readings) -> None:
        self.seen = seen
        self.with_reflected = np.flatnonzero(np.isfinite(seen.reflected))
        values, self.vectors = np.linalg.eigh(seen.covariance)
        values = np.maximum(values, 1e-9) + np.square(RIPPLES)[:, None]  # 0.003 %: nothing is read to that
        self.y = self.turned(np.concatenate([seen.log_ratio, seen.reflected[self.with_reflected]]))
        reflected = np.tile(1.0 / seen.u_reflected[self.with_reflected] ** 2, (len(RIPPLES), 1))
        self.weights = np.concatenate([1.0 / values, reflected], axis=1)  # (r, m)
        self.log_dets = np.sum(np.log(values), axis=1)
        self.on_itself = np.concatenate([(1.0 / values) @ (self.vectors**2).T, reflected], axis=1)  # turned back

    def turned(self, rows: FloatArray) -> FloatArray:
        """Rows of shape (..., m) to where their errors are apart."""
        n = self.seen.log_ratio.size
        return np.concatenate([rows[..., :n] @ self.vectors, rows[..., n:]], axis=-1)

    def back(self, rows: FloatArray) -> FloatArray:
        """The other way."""
        n = self.seen.log_ratio.size
        return np.concatenate([rows[..., :n] @ self.vectors.T, rows[..., n:]], axis=-1)

    def lift(self, over_ratios: FloatArray) -> FloatArray:
        """Rows over ratios, of shape (..., n), with nothing at the reflected waves, turned."""
        none = np.zeros((*over_ratios.shape[:-1], self.with_reflected.size))
        return self.turned(np.concatenate([over_ratios, none], axis=-1))

    def bent(self, shape: Shape, figures: FloatArray) -> FloatArray:
        """What figures of any shape make of both, shape (..., m), turned."""
        at, figures = self.seen.places, figures[..., None]
        made = _bent(shape, at, figures)
        shown = np.zeros_like(made) if shape.reflects is None else shape.reflects(at, figures)
        return self.turned(np.concatenate([made, shown[..., self.with_reflected]], axis=-1))


class _Beside:
    """How rows weigh, at each ripple, beside some that take from them what they can."""

    def __init__(self, weights: FloatArray, rows: FloatArray, more: FloatArray | float = 0.0) -> None:
        """Weights of shape (r, m); rows of shape (p, m) or (r, p, m); `more` is known of each, (r, p, p)."""
        self._weights = weights
        self.side = rows * weights[:, None]
        self.information = self.side @ np.swapaxes(rows, -1, -2)
        self.inner = np.linalg.inv(self.information + more)

    def left(self, rows: FloatArray) -> FloatArray:
        """Weighed squares that are left of k rows, shape (k, m) or (r, k, m), as shape (r, k)."""
        taken = rows @ np.swapaxes(self.side, 1, 2)
        return np.asarray((rows**2 @ self._weights[..., None])[..., 0] - np.sum((taken @ self.inner) * taken, axis=-1))

    def taken(self, row: FloatArray) -> FloatArray:
        """What each of them takes of a row, shape (r, m), as shape (r, p)."""
        return np.asarray((self.inner @ (self.side @ row[..., None]))[..., 0])

    def of(self, row: FloatArray) -> FloatArray:
        """What weighs in a row, shape (r, m)."""
        return np.asarray(self._weights * row - (self.taken(row)[:, None] @ self.side)[:, 0])


@dataclass(frozen=True, eq=False)
class _At:
    """A shape fitted at each of r ripples."""

    loss: FloatArray  # (r,): Akaike's criterion
    log_det: FloatArray  # of what the readings tell of the values
    values: FloatArray  # (r, p)
    covariance: FloatArray  # (r, p, p)
    foretold: FloatArray
    missed: FloatArray  # mean square


def _fitted(rows: _Rows, shape: Shape, by_range: bool) -> Fit | None:
    """A shape as it fits best; none where the readings can't tell its figures."""
    seen = rows.seen
    names = seen.range_names if by_range else ("",) * int(shape.has_gain)
    columns = _columns(seen.ranges, names, by_range)
    if shape.column is not None:
        columns = np.concatenate([columns, shape.column(seen.places)[:, None]], axis=1)
    count = columns.shape[1] + int(shape.bend is not None)
    if count >= rows.y.size or np.linalg.matrix_rank(columns, tol=1e-6) < columns.shape[1]:
        return None
    found = _at_ripples(rows, shape, rows.lift(columns.T))
    if found is None:
        return None
    losses = -0.5 * found.loss
    mean = float(np.logaddexp.reduce(losses)) - math.log(losses.size)
    likely = losses - 0.5 * found.log_det  # restricted: what is fitted hides ripple
    share = np.exp(likely - np.logaddexp.reduce(likely))
    values = share @ found.values
    off = found.values - values
    spread = np.tensordot(share, found.covariance + off[:, :, None] * off[:, None], 1)
    foretold = float(np.logaddexp.reduce(np.log(share + 1e-300) + found.foretold))
    ripple, missed = (math.sqrt(float(share @ square)) for square in (np.square(RIPPLES), found.missed))
    return Fit(shape, by_range, seen, values, spread, ripple, -2.0 * mean, foretold, missed)


def _at_ripples(rows: _Rows, shape: Shape, columns: FloatArray) -> _At | None:
    """A shape with its straight columns, as rows of shape (p, m)."""
    weights, beside, slopes = rows.weights, _Beside(rows.weights, columns), columns
    figure = np.zeros(len(RIPPLES))
    if shape.bend is not None and shape.figures is not None:
        figure = _best_figure(rows, shape, beside, shape.figures(rows.seen))
        rest = rows.y - rows.bent(shape, figure)
        own = _slope_of(lambda values: rows.bent(shape, values), figure)[:, None]
        if np.any((beside.left(own)[:, 0] * figure**2 < 1e-12) & (figure != 0.0)):
            return None  # nothing is left of it beside the gain
        slopes = np.concatenate([np.broadcast_to(columns, (len(RIPPLES), *columns.shape)), own], axis=1)
    else:
        offset = rows.lift(np.full(rows.seen.log_ratio.size, math.log(shape.factor)))
        rest = np.broadcast_to(rows.y - offset, weights.shape)
    values = beside.taken(rest)
    rest = rest - values @ columns
    if shape.bend is not None:
        values = np.concatenate([values, figure[:, None]], axis=1)
    wide = np.eye(values.shape[1]) / _wide(shape, values, rows.seen)[:, None] ** 2
    known = _Beside(weights, slopes, wide)
    side = rows.back(known.side)
    on_itself = rows.on_itself - np.sum((known.inner @ side) * side, axis=1)
    missed = rows.back(known.of(rest)) / on_itself
    away = missed**2 * on_itself
    return _At(
        np.sum(rest**2 * weights, axis=1) + rows.log_dets + 2.0 * values.shape[1],
        np.linalg.slogdet(known.information)[1], values,
        np.asarray(np.linalg.pinv(known.information, hermitian=True), float),
        0.5 * np.sum(np.log(on_itself / (2.0 * math.pi)) - away, axis=1),
        np.mean(missed[:, : rows.seen.log_ratio.size] ** 2, axis=1),
    )  # fmt: skip


def _wide(shape: Shape, values: FloatArray, seen: Readings) -> FloatArray:
    """What each value may be before anything is read, as a standard deviation, shape (r, p)."""
    wide = np.full(values.shape, WIDE)
    if shape.bend is not None:
        least = float(np.min(seen.places.power_w / seen.places.full_scale_w))
        wide[:, -1] = WIDE * (least if shape.id == "zero" else np.abs(values[:, -1]))
    return wide


def _best_figure(rows: _Rows, shape: Shape, beside: _Beside, tried: FloatArray) -> FloatArray:
    """The figure that leaves least at each ripple: along a grid, again around its best, then along a parabola."""
    ripples = np.arange(len(RIPPLES))
    made = rows.bent(shape, tried)
    tried = np.broadcast_to(tried, (ripples.size, tried.size))
    for count in (FINER, FINER):
        best = np.argmin(beside.left(rows.y - made), axis=1)
        ends = tried[ripples, np.maximum(best - 1, 0)], tried[ripples, np.minimum(best + 1, tried.shape[1] - 1)]
        tried = np.linspace(*ends, count, axis=1)
        made = rows.bent(shape, tried)
    found = beside.left(rows.y - made)
    best = np.clip(np.argmin(found, axis=1), 1, tried.shape[1] - 2)
    a, b, c = (found[ripples, best + beside_it] for beside_it in (-1, 0, 1))
    bend = a - 2.0 * b + c
    step = np.divide(0.5 * (a - c), bend, out=np.zeros_like(bend), where=bend > 0.0)
    return np.asarray(tried[ripples, best] + np.clip(step, -1.0, 1.0) * (tried[:, 1] - tried[:, 0]))


# comparing


@dataclass(frozen=True, eq=False)
class Why:
    """All shapes that could be tried, the heaviest first."""

    fits: tuple[Fit, ...]

    @property
    def likely(self) -> tuple[Fit, ...]:
        """Those that count and have any weight to speak of."""
        return tuple(fit for fit in self.fits if fit.counts and fit.weight > 1.0 - SURE)

    @property
    def named(self) -> Fit | None:
        """The one that it is, or the heaviest of a family that it is one of; none where that isn't sure."""
        if not self.explains:
            return None
        first = self.fits[0]
        alike = [fit for fit in self.fits if fit.kind == first.kind and fit.by_range == first.by_range]
        foretells = max(self.likely, key=lambda fit: fit.foretold, default=first)
        is_it = sum(fit.weight for fit in alike) >= SURE and foretells in alike
        return first if is_it and (first.kind in ("right", "gain") or first.missed <= FORETELLS * first.span) else None

    @property
    def explains(self) -> bool:
        """Whether any of them foretells what was read."""
        return bool(self.fits) and self.fits[0].missed < STRANGE

    @property
    def is_alone(self) -> bool:
        """Whether no other of its family might be it as well."""
        return not self.fits or self.fits[0].weight >= SURE

    def apart(self, at: Places, ranges: Sequence[str]) -> FloatArray:
        """By how many standard deviations one more reading would tell the two heaviest apart, shape (n,).

        Parameters
        ----------
        at, ranges
            Where a reading can be made.
        """
        first, second = self.fits[0], self.rival
        away = np.abs(first.log_ratio(at, ranges) - second.log_ratio(at, ranges))
        u = [fit.u_log_ratio(at, ranges) for fit in (first, second)]
        return np.asarray(away / np.sqrt(u[0] ** 2 + u[1] ** 2 + first.seen.u_read**2))

    @property
    def rival(self) -> Fit:
        """The heaviest of another kind."""
        return next((fit for fit in self.fits[1:] if fit.shape.id != self.fits[0].shape.id), self.fits[-1])


def explained(seen: Readings) -> Why:
    """All shapes that could have made what was read."""
    rows = _Rows(seen)
    fits = [fit for shape, by_range in _tried(seen) if (fit := _fitted(rows, shape, by_range)) is not None]
    by_key = {fit.key: fit for fit in fits}
    counts = {fit.key: all(_helps(fit, by_key.get(key)) for key in _plainer(fit)) for fit in fits}
    least = min((fit.loss for fit in fits if counts[fit.key]), default=0.0)
    heavy = {fit.key: math.exp(-0.5 * max(fit.loss - least, 0.0)) for fit in fits if counts[fit.key]}
    total = sum(heavy.values())
    weighed = [
        replace(fit, weight=heavy.get(fit.key, 0.0) / total if total else 0.0, counts=counts[fit.key]) for fit in fits
    ]
    return Why(tuple(sorted(weighed, key=lambda fit: (-fit.weight, fit.loss))))


def _tried(seen: Readings) -> Iterator[tuple[Shape, bool]]:
    at = seen.places
    differs = {"": True, FREQUENCY: _differs(at.frequency_hz), LEVEL: _differs(at.power_w)}
    for shape in (*SHAPES, *(_FORMS if seen.reads_volts else ())):
        if differs[shape.over]:
            yield shape, False
            if shape.has_gain and len(seen.range_names) > 1:
                yield shape, True


def _differs(values: FloatArray) -> bool:
    """Whether there are three or more that are apart, over a range that shows something."""
    logs = np.log(values)
    return np.unique(np.round(logs, 1)).size >= 3 and float(np.ptp(logs)) >= math.log(APART)


def _plainer(fit: Fit) -> Iterator[tuple[str, bool, float]]:
    """Shapes that it becomes where a figure is nothing."""
    if fit.shape.has_gain:
        yield "right", False, 1.0
        if fit.has_figure:
            yield "gain", fit.by_range, 1.0
    if fit.by_range:
        yield fit.shape.id, False, 1.0


def _helps(fit: Fit, plainer: Fit | None) -> bool:
    """Whether what it has more takes off enough; Akaike's 2 for each figure are in both."""
    if plainer is None:
        return True
    more = fit.values.size - plainer.values.size
    return fit.loss + (HELPS - 2.0) * more < plainer.loss
