"""Propagation of distributions by drawing (JCGM 101:2008), for where the linear picture bends or meets a bound.

Inputs are drawn from their stated distributions; inputs with finite degrees of freedom from a shifted and scaled t
(6.4.9); an ensemble's members share one chi-square, so that they are a multivariate t. Points that share an error
share its draw. Trials go through the model in chunks, so that memory stays bounded and the work can be watched and
stopped. The seed follows from the inputs: the same record gives the same digits, and nothing jumps while one types.
"""

import hashlib
from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from fenmist.errors import CancelledError, OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.uncertainty.coverage import COVERAGE
from fenmist.uncertainty.influence import Distribution, FloatArray, Influence, Inputs, IntArray
from fenmist.uncertainty.propagation import Model

if TYPE_CHECKING:  # drawing brings a library of its own
    from numpy.random import Generator

CHUNK = 20_000
"""Values of an output (trials times points) that go through the model at once."""

TRIALS = 200_000
"""Trials unless asked otherwise: the ends of a 95 % interval are then known to about 0.5 % of u."""


@dataclass(frozen=True, eq=False)
class Sampled:
    """What the draws of one output say, at n points. Arrays have shape (n,)."""

    mean: FloatArray
    u: FloatArray  # standard deviation
    low: FloatArray  # ends of the interval
    high: FloatArray
    trials: int
    inside: FloatArray | None = None  # part of the draws within ± the limit asked for

    @property
    def half_width(self) -> FloatArray:
        """Half of the interval's width."""
        return np.asarray((self.high - self.low) / 2.0)


def monte_carlo(
    model: Model,
    inputs: Inputs,
    outputs: Sequence[str],
    *,
    trials: int = TRIALS,
    seed: int | None = None,
    coverage: float = COVERAGE,
    shortest: bool = False,
    within: Mapping[str, FloatArray] | None = None,
    progress: Callable[[float], None] | None = None,
    cancelled: Callable[[], bool] | None = None,
) -> dict[str, Sampled]:
    """Draw, evaluate, and describe.

    Parameters
    ----------
    model, inputs
        As `propagate` takes them.
    outputs : names
        Outputs of the model to describe.
    trials : int
        At least 1000.
    seed : int, optional
        From the inputs unless given.
    coverage : float
        Probability of the interval.
    shortest : bool
        The shortest interval (JCGM 101:2008, 5.3.4) instead of the probabilistically symmetric one.
    within : mapping, optional
        Limit by output, shape (n,): how many draws lie within ± it, for a probability of conformance.
    progress, cancelled : callable, optional
        Told the part done, 0 to 1, and asked whether to stop, once a chunk.

    Raises
    ------
    CancelledError
        When `cancelled` says so.
    OutOfRangeError
        For too few trials, or correlated inputs that are not normal.
    """
    if trials < 1000:
        raise OutOfRangeError(f"{trials} trials can't show an interval.", "Take 1000 or more.")
    random = np.random.default_rng(seed_of(inputs) if seed is None else seed)
    drawing = _Drawing(inputs)
    points = inputs.influences[0].estimate.size
    kept = {name: np.empty((trials, points)) for name in outputs}
    step = max(CHUNK // points, 1)
    for begin in range(0, trials, step):
        if cancelled is not None and cancelled():
            raise CancelledError("The simulation was stopped.", "Nothing was changed.")
        end = min(begin + step, trials)
        found = model(drawing.draw(end - begin, random))
        for name in outputs:
            kept[name][begin:end] = found[name]
        if progress is not None:
            progress(end / trials)
    limits = within or {}
    return {name: _describe(values, coverage, shortest, limits.get(name)) for name, values in kept.items()}


def seed_of(inputs: Inputs) -> int:
    """A seed that follows from the inputs' numbers."""
    digest = hashlib.sha256()
    for item in inputs.influences:
        digest.update(item.id.encode())
        digest.update(item.estimate.tobytes())
        digest.update(item.standard_u.tobytes())
    return int.from_bytes(digest.digest()[:8], "big")


def _describe(values: FloatArray, coverage: float, shortest: bool, limit: FloatArray | None) -> Sampled:
    trials = values.shape[0]
    inside = round(coverage * trials)
    if shortest:
        ordered = np.sort(values, axis=0)
        widths = ordered[inside:] - ordered[: trials - inside]
        first = np.argmin(widths, axis=0)
        columns = np.arange(values.shape[1])
        low, high = ordered[first, columns], ordered[first + inside, columns]
    else:
        first_rank = (trials - inside) // 2
        ranks = np.array([first_rank, min(first_rank + inside, trials - 1)])
        low, high = np.partition(values, ranks, axis=0)[ranks]
    within = None if limit is None else np.mean(np.abs(values) <= limit, axis=0)
    return Sampled(values.mean(axis=0), values.std(axis=0, ddof=1), low, high, trials, within)


class _Drawing:
    """Draws of all influences: groups that go together, and which points share."""

    def __init__(self, inputs: Inputs) -> None:
        self._inputs = inputs
        groups: dict[str, list[Influence]] = {}
        for item in inputs.influences:
            groups.setdefault(inputs.group_of[item.id], []).append(item)
        self._groups = list(groups.values())
        self._sharing = {item.id: _sharing(item) for item in inputs.influences}
        for group in self._groups:
            if len(group) > 1 and any(item.distribution is not Distribution.NORMAL for item in group):
                names = ", ".join(item.label for item in group)
                raise OutOfRangeError(
                    f"The correlated inputs {names} are not all normal.", "Only normal inputs can be drawn together."
                )

    def draw(self, trials: int, random: "Generator") -> Mapping[str, FloatArray]:
        """Values of every influence, shape (trials, n)."""
        out: dict[str, FloatArray] = {}
        for group in self._groups:
            if len(group) > 1:
                out |= self._draw_together(group, trials, random)
            else:
                item = group[0]
                out[item.id] = _values(item, _standard(item, self._sharing[item.id], trials, random))
        return out

    def _draw_together(self, group: list[Influence], trials: int, random: "Generator") -> dict[str, FloatArray]:
        matrix = self._inputs.correlation([item.id for item in group])
        values, vectors = np.linalg.eigh(matrix)
        root = vectors * np.sqrt(np.maximum(values, 0.0))
        count, _, place = self._sharing[group[0].id]
        normal = random.standard_normal((len(group), trials, count))
        mixed = np.einsum("ij,jtl->itl", root, normal)
        dof = float(np.min([item.dof.min() for item in group]))
        if np.isfinite(dof):
            mixed = mixed / np.sqrt(random.chisquare(dof, (1, trials, count)) / dof)
        spread = mixed if place is None else mixed[:, :, place]
        return {item.id: _values(item, spread[row]) for row, item in enumerate(group)}


def _values(item: Influence, standard: FloatArray) -> FloatArray:
    """From standard draws to the input's; they are fresh, so this is done in place."""
    standard *= item.standard_u
    standard += item.estimate
    return standard


class _Sharing(NamedTuple):
    """Which points share a draw: how many draws, the first point of each, and each point's draw (none: its own)."""

    draws: int
    first: IntArray
    place: IntArray | None


def _sharing(item: Influence) -> _Sharing:
    labels, first, place = np.unique(item.sharing, return_index=True, return_inverse=True)
    own = np.array_equal(place, np.arange(labels.size))
    return _Sharing(labels.size, first, None if own else place)


def _standard(item: Influence, sharing: _Sharing, trials: int, random: "Generator") -> FloatArray:
    """Draws of mean 0 and (but for the t) standard deviation 1, shape (trials, n), shared as the influence says."""
    if not np.any(item.standard_u > 0):
        return np.zeros((1, item.estimate.size))
    drawn = _drawn(item, sharing, (trials, sharing.draws), random)
    return drawn if sharing.place is None else drawn[:, sharing.place]


def _drawn(item: Influence, sharing: _Sharing, shape: tuple[int, int], random: "Generator") -> FloatArray:
    if item.distribution is Distribution.RECTANGULAR:
        return random.uniform(-np.sqrt(3.0), np.sqrt(3.0), shape)
    if item.distribution is Distribution.TRIANGULAR:
        return random.triangular(-np.sqrt(6.0), 0.0, np.sqrt(6.0), shape)
    if item.distribution in (Distribution.U_SHAPED, Distribution.DISC):  # on a circle, or anywhere within one
        is_disc = item.distribution is Distribution.DISC
        radius = 2.0 * np.sqrt(random.uniform(0.0, 1.0, shape)) if is_disc else np.sqrt(2.0)
        return np.asarray(radius * np.sin(random.uniform(0.0, 2.0 * np.pi, shape)))
    if item.distribution is Distribution.TWO_POINT:
        return np.asarray(random.integers(0, 2, shape) * 2.0 - 1.0)
    drawn = random.standard_normal(shape)
    dof = item.dof[sharing.first]
    finite = np.isfinite(dof)
    if np.any(finite):
        drawn[:, finite] /= np.sqrt(random.chisquare(dof[finite], (shape[0], int(finite.sum()))) / dof[finite])
    return drawn
