"""Resistors joined in series and in parallel, and the search for those that make a value.

Of a stack the share of power that a piece takes is also by how much the whole follows it: d ln R = Σ p_i·d ln R_i, with
Σ p_i = 1. So heat, spread by tolerance and what is left of a measured value's uncertainty come out of the same shares.
Every way to join up to four pieces is one piece with a stack of the others, or two with two; the search makes all
pairs, sorts them, and looks the missing rest up among them, exhaustively where the drawer is small.
Page: docs/method/designer.md.
"""

import math
from collections.abc import Sequence
from enum import StrEnum
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fenmist.design.stock import Piece
from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass

FloatArray = NDArray[np.float64]
IntArray = NDArray[np.int64]

MOST_PIECES = 4
"""Pieces of a stack that is searched for; a bank of many alike is another matter (`bank`)."""

WORTH_A_PIECE = 0.1
"""Error, as a part of what the tolerance leaves, that isn't worth another piece (Fenmist's own)."""

CANDIDATES = 60_000
"""Joined at a time: everything where there are no more, else the nearest."""

NEAREST = 2
"""Neighbours that are tried where not everything is."""

EVEN = 0.62
"""Largest share of a pair's power in one of its pieces where heat has to be spread (Fenmist's own)."""

FEW = 12
"""Different pieces of which every stack is looked at."""

LONGEST_ROW = 8
"""Pieces in series of a bank."""

MOST_OF_A_BANK = 120
"""Pieces of a bank (Fenmist's own: more is a bought load)."""

OFFERED = 24
"""Stacks that are named."""

PROMISING = 60
"""Stacks of each kind that are sorted."""


class How(StrEnum):
    """How the parts of a stack are joined."""

    ONE = "one"
    SERIES = "in series"
    PARALLEL = "in parallel"


@dataclass(frozen=True)
class Leaf:
    """A piece where it sits in a stack."""

    piece: Piece
    power_share: float  # of the stack's power
    volts_share: float  # of the stack's volts


@dataclass(frozen=True)
class Stack:
    """One piece, or stacks in series or in parallel."""

    how: How
    piece: Piece | None = None
    parts: tuple["Stack", ...] = ()

    @property
    def ohm(self) -> float:
        """Its resistance."""
        if self.piece is not None:
            return self.piece.ohm
        values = [part.ohm for part in self.parts]
        return math.fsum(values) if self.how is How.SERIES else 1.0 / math.fsum(1.0 / value for value in values)

    @property
    def leaves(self) -> tuple[Leaf, ...]:
        """Each piece with its shares."""
        if self.piece is not None:
            return (Leaf(self.piece, 1.0, 1.0),)
        whole, found = self.ohm, []
        for part in self.parts:
            share = part.ohm / whole if self.how is How.SERIES else whole / part.ohm
            volts = share if self.how is How.SERIES else 1.0
            found += [Leaf(leaf.piece, share * leaf.power_share, volts * leaf.volts_share) for leaf in part.leaves]
        return tuple(found)

    @property
    def tolerance(self) -> float:
        """± part of its resistance with every piece at its own limit the same way, to first order."""
        return math.fsum(leaf.power_share * leaf.piece.tolerance for leaf in self.leaves)

    @property
    def is_measured(self) -> bool:
        """Whether every piece was held to an ohmmeter."""
        return all(leaf.piece.is_measured for leaf in self.leaves)

    @property
    def bears_w(self) -> float | None:
        """Power of the whole at which the first piece is at its rating; none where a rating isn't known."""
        rated = [leaf.piece.power_w / leaf.power_share for leaf in self.leaves if leaf.piece.power_w is not None]
        return min(rated) if len(rated) == len(self.leaves) else None

    @property
    def bears_volts(self) -> float | None:
        """The same of volts; none where no piece states any."""
        rated = [leaf.piece.volts / leaf.volts_share for leaf in self.leaves if leaf.piece.volts is not None]
        return min(rated) if rated else None

    def said(self) -> str:
        """ "3 × 820 Ω in series", "56 Ω with 470 Ω across it", "(1 kΩ + 220 Ω) across 4.7 kΩ"."""
        if self.piece is not None:
            return self.piece.label
        if all(part == self.parts[0] for part in self.parts):
            alike = self.parts[0].said()
            return f"{len(self.parts)} × {alike if self.parts[0].piece else f'({alike})'} {self.how}"
        parts = sorted(self.parts, key=lambda part: part.ohm, reverse=self.how is How.SERIES)
        names = [part.said() if part.piece is not None else f"({part.said()})" for part in parts]
        if self.how is How.SERIES:
            counted = [(name, names.count(name)) for name in dict.fromkeys(names)]
            return " + ".join(f"{count} × {name}" if count > 1 else name for name, count in counted)
        if len(parts) == 2:
            return f"{names[0]} with {names[1]} across it"
        return " ∥ ".join(names)


def one(piece: Piece) -> Stack:
    """A stack of one."""
    return Stack(How.ONE, piece)


def joined(how: How, parts: Sequence[Stack]) -> Stack:
    """Stacks joined; those that are joined alike inside become one row."""
    flat = [inner for part in parts for inner in (part.parts if part.how is how else (part,))]
    return Stack(how, None, tuple(sorted(flat, key=lambda part: -part.ohm)))


@dataclass(frozen=True)
class Wanted:
    """What a stack has to be and to bear."""

    ohm: float
    power_w: float = 0.0  # in the whole stack
    volts: float = 0.0  # rms, across it
    derating: float = 0.5  # part of a rating that is used
    pieces: int = MOST_PIECES

    def __post_init__(self) -> None:
        """Raises OutOfRangeError where nothing can be built to it."""
        if not (self.ohm > 0.0 and math.isfinite(self.ohm)):
            raise OutOfRangeError(f"{self.ohm:g} Ω can't be built.", "A resistance lies above 0.")
        if not 1 <= self.pieces <= MOST_PIECES:
            raise OutOfRangeError(f"Stacks of {self.pieces} aren't searched for.", f"1 to {MOST_PIECES} pieces.")


@dataclass(frozen=True)
class Ranked:
    """A stack beside what is wanted."""

    stack: Stack
    error: float  # part of what is wanted, with its sign
    heat: float | None  # highest power in a piece over what is used of its rating; none where a rating isn't known
    volts: float | None  # the same of volts

    @property
    def holds(self) -> bool:
        """Whether no piece is known to be over what is used of its rating."""
        return (self.heat or 0.0) <= 1.0 and (self.volts or 0.0) <= 1.0


def beside(stack: Stack, wanted: Wanted) -> Ranked:
    """A stack judged by what is wanted of it."""
    bears, volts = stack.bears_w, stack.bears_volts
    return Ranked(
        stack,
        stack.ohm / wanted.ohm - 1.0,
        None if bears is None else wanted.power_w / (bears * wanted.derating),
        None if volts is None else wanted.volts / volts,
    )


def search(wanted: Wanted, pieces: Sequence[Piece]) -> tuple[Ranked, ...]:
    """Stacks that make a value, the best first.

    Those that bear heat and volts come first; of these the smaller total error, but an error of less than a tenth of
    what the tolerance leaves isn't worth another piece; then the fewer pieces.

    Parameters
    ----------
    wanted : Wanted
        Value, power, volts.
    pieces : sequence of Piece
        What there is; a count limits how often one is taken.

    Raises
    ------
    OutOfRangeError
        Where there is nothing to build with.
    """
    if not pieces:
        raise OutOfRangeError("There is nothing to build with.", "Name a series, or what lies in the drawer.")
    singles = _singles(pieces)
    found = [singles]
    pairs = _pairs(singles) if wanted.pieces >= 2 else ()
    found += [*pairs, *_larger(wanted, singles, pairs)]
    if wanted.power_w > 0.0 and len(pieces) > FEW:  # the nearest crowd out those that share the heat
        found += _larger(wanted, singles, tuple(pair.take(np.flatnonzero(pair.most <= EVEN)) for pair in pairs))
    promising = sorted(item for number, table in enumerate(found) for item in _best(number, table, wanted, pieces))
    kept: dict[str, Ranked] = {}
    for item in promising:
        stack = found[item.table].stack(item.row, pieces)
        kept.setdefault(stack.said(), beside(stack, wanted))
        if len(kept) == OFFERED:
            break
    return tuple(sorted(kept.values(), key=_key))


def banks(wanted: Wanted, pieces: Sequence[Piece]) -> tuple[Ranked, ...]:
    """Many alike in rows side by side, as a dummy load is built, the best first.

    Parameters
    ----------
    wanted : Wanted
        Value, power, volts; its number of pieces doesn't count.
    pieces : sequence of Piece
        What there is.
    """
    found = []
    for piece in pieces:
        for row in range(1, LONGEST_ROW + 1):
            beside_each_other = round(row * piece.ohm / wanted.ohm)
            if beside_each_other >= 1 and row * beside_each_other <= min(piece.count or MOST_OF_A_BANK, MOST_OF_A_BANK):
                in_row = one(piece) if row == 1 else joined(How.SERIES, [one(piece)] * row)
                many = in_row if beside_each_other == 1 else joined(How.PARALLEL, [in_row] * beside_each_other)
                found.append(beside(many, wanted))
    return tuple(sorted(found, key=_key)[:OFFERED])


def _key(item: Ranked) -> tuple[float, ...]:
    # errors within a tenth of the tolerance count alike
    beyond = max(abs(item.error) - WORTH_A_PIECE * item.stack.tolerance, 0.0)
    over = max(item.heat or 0.0, item.volts or 0.0, 1.0)
    leaves = item.stack.leaves
    alike = len({leaf.piece for leaf in leaves})  # of one value, they share heat and are bought together
    return over, round(beyond + item.stack.tolerance, 7), len(leaves), alike, abs(item.error)


@dataclass(frozen=True, eq=False)
class _Table:
    """Many stacks at once: what each is made of, and what follows from that. All arrays have one entry for each."""

    value: FloatArray
    heat: FloatArray  # of the hottest piece: its share over its rating, 1/W
    volts: FloatArray  # of the piece at most volts: its share over its rating, 1/V
    spread: FloatArray  # relative, worst case
    most: FloatArray  # largest share of power in one piece
    leaves: IntArray | None  # (n, size), which pieces; none where of each there are enough
    size: int  # pieces of each
    how: How
    left: "tuple[_Table, IntArray] | None" = None
    right: "tuple[_Table, IntArray] | None" = None

    def take(self, rows: IntArray) -> "_Table":
        """Some of them."""
        return _Table(
            self.value[rows], self.heat[rows], self.volts[rows], self.spread[rows], self.most[rows],
            None if self.leaves is None else self.leaves[rows], self.size, self.how,
            *((side[0], side[1][rows]) if side else None for side in (self.left, self.right)),
        )  # fmt: skip

    def stack(self, row: int, pieces: Sequence[Piece]) -> Stack:
        """One of them, put together."""
        if self.left is None or self.right is None:
            return one(pieces[row])
        return joined(self.how, [side[0].stack(int(side[1][row]), pieces) for side in (self.left, self.right)])


class _Promise(NamedTuple):
    """A stack of a table by what it is ranked by, the best first."""

    over: float  # highest use of a rating; 1 within all of them
    beyond: float  # error and tolerance
    pieces: int
    error: float
    table: int
    row: int


def _singles(pieces: Sequence[Piece]) -> _Table:
    value = np.array([piece.ohm for piece in pieces])
    counted = any(piece.count is not None for piece in pieces)
    leaves = np.arange(value.size)[:, None] if counted else None
    heat = np.array([0.0 if piece.power_w is None else 1.0 / piece.power_w for piece in pieces])
    volts = np.array([0.0 if piece.volts is None else 1.0 / piece.volts for piece in pieces])
    spread = np.array([piece.tolerance for piece in pieces])
    return _Table(value, heat, volts, spread, np.ones(value.size), leaves, 1, How.ONE)


def _join(how: How, left: tuple[_Table, IntArray], right: tuple[_Table, IntArray]) -> _Table:
    (one_table, i), (other, j) = left, right
    a, b = one_table.value[i], other.value[j]
    whole = a + b if how is How.SERIES else a * b / (a + b)
    share_a = a / (a + b) if how is How.SERIES else b / (a + b)
    share_b = 1.0 - share_a
    volts_a, volts_b = (share_a, share_b) if how is How.SERIES else (1.0, 1.0)
    return _Table(
        whole,
        np.maximum(share_a * one_table.heat[i], share_b * other.heat[j]),
        np.maximum(volts_a * one_table.volts[i], volts_b * other.volts[j]),
        share_a * one_table.spread[i] + share_b * other.spread[j],
        np.maximum(share_a * one_table.most[i], share_b * other.most[j]),
        None if one_table.leaves is None or other.leaves is None
        else np.concatenate([one_table.leaves[i], other.leaves[j]], axis=1),
        one_table.size + other.size, how, left, right,
    )  # fmt: skip


def _pairs(singles: _Table) -> tuple[_Table, _Table]:
    """All pairs in series and all in parallel, each in order of their value."""
    i, j = np.triu_indices(singles.value.size)
    series, parallel = (_join(how, (singles, i), (singles, j)) for how in (How.SERIES, How.PARALLEL))
    return series.take(np.argsort(series.value)), parallel.take(np.argsort(parallel.value))


def _larger(wanted: Wanted, singles: _Table, pairs: Sequence[_Table]) -> list[_Table]:
    """Stacks of three and four: a piece with a pair, a pair with a pair, a piece with a stack of a piece and a pair."""
    made = []
    for how in (How.SERIES, How.PARALLEL):
        for number, pair in enumerate(pairs):
            if wanted.pieces >= 3:
                each = (singles, np.arange(singles.value.size))
                made.append(_matched(how, each, _needed(how, wanted.ohm, singles.value), pair))
            if wanted.pieces >= 4:
                made += [
                    _matched(how, (other, np.arange(other.value.size)), _needed(how, wanted.ohm, other.value), pair)
                    for other in pairs[: number + 1]
                ]
                made.append(_of_three(how, wanted.ohm, singles, pair))
    return made


def _of_three(how: How, ohm: float, singles: _Table, pair: _Table) -> _Table:
    """A piece joined with a stack of three, which is joined the other way: else it is two pairs, or a row."""
    within = How.PARALLEL if how is How.SERIES else How.SERIES
    i, j = (side.ravel() for side in np.indices((singles.value.size, singles.value.size)))
    three = _needed(how, ohm, singles.value[i])
    rest = _needed(within, three, singles.value[j])
    left, right, rows = _rows(rest, pair)
    inner = _join(within, (singles, j[left]), (pair, right))
    return _join(how, (singles, i[left]), (inner, rows))


def _matched(how: How, left: tuple[_Table, IntArray], needed: FloatArray, right: _Table) -> _Table:
    table, index = left
    chosen, other, _ = _rows(needed, right)
    return _join(how, (table, index[chosen]), (right, other))


def _needed(how: How, ohm: float | FloatArray, other: FloatArray) -> FloatArray:
    """What has to be joined with `other` to make `ohm`; nothing or without end where nothing can."""
    if how is How.SERIES:
        return np.asarray(np.maximum(ohm - other, 0.0))
    with np.errstate(divide="ignore", invalid="ignore"):
        left = 1.0 / np.asarray(ohm) - 1.0 / other
        return np.asarray(np.where(left > 0.0, 1.0 / left, np.inf))


def _rows(needed: FloatArray, table: _Table) -> tuple[IntArray, IntArray, IntArray]:
    """For each that is needed the nearest of a sorted table: whose, which, and a count; all where few are."""
    size = table.value.size
    if not size or not needed.size:
        none = np.zeros(0, int)
        return none, none, none
    wide = size if needed.size * size <= CANDIDATES else NEAREST
    if wide == size:
        left, right = (side.ravel() for side in np.indices((needed.size, size)))
    else:
        first = np.clip(np.searchsorted(table.value, needed) - wide // 2, 0, size - wide)
        right = (first[:, None] + np.arange(wide)).ravel()
        left = np.repeat(np.arange(needed.size), wide)
    return left, right, np.arange(left.size)


def _best(number: int, table: _Table, wanted: Wanted, pieces: Sequence[Piece]) -> list[_Promise]:
    """The most promising stacks of a table."""
    over = np.maximum(np.maximum(table.heat * wanted.power_w / wanted.derating, table.volts * wanted.volts), 1.0)
    error = np.abs(table.value / wanted.ohm - 1.0)
    beyond = np.round(np.maximum(error - WORTH_A_PIECE * table.spread, 0.0) + table.spread, 7)
    for place, piece in enumerate(pieces):
        if piece.count is not None and table.leaves is not None:
            over[np.count_nonzero(table.leaves == place, axis=1) > piece.count] = np.inf
    cost = over + beyond  # lies within a table's order near enough to choose the few that are sorted
    few = np.argpartition(cost, PROMISING)[:PROMISING] if cost.size > PROMISING else np.arange(cost.size)
    return [
        _Promise(over[row], beyond[row], table.size, error[row], number, row)
        for row in few[np.isfinite(over[few])].tolist()
    ]
