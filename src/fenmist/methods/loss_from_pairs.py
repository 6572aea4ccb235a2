"""The loss of a part from pairs of powers, without a bench: in front and behind, without the part and with it.

A frozen request: call it for the answer. Ratios of ratios, averaged as logarithms; uncertainty is what the pairs
scatter by, no less than what their last digits leave. With both instruments exchanged there is a second ratio: both
losses are averaged in dB, and what they differ by counts. Page: docs/method/loss.md.
"""

import math
import statistics
from collections.abc import Sequence

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.uncertainty.coverage import coverage_factor, one_sided
from fenmist.units.level import DB_PER_NEPER
from fenmist.units.typed import Typed, Unclear, parse
from fenmist.units.unit import UNITS

ONE_SIDED = 0.95
"""Probability of a bound."""


@dataclass(frozen=True)
class LossAnswer:
    """What pairs of powers say."""

    loss_db: float  # as it came out, even below 0
    u_db: float  # standard
    dof: float
    expanded_u_db: float
    bound_db: float  # smaller than that with 95 % probability, one-sided; never below 0
    coupler_ratio: float  # behind/front without the part
    pairs: tuple["PairLoss", ...]  # each with the part, in the order in which they were read
    notes: tuple[Note, ...]

    @property
    def efficiency(self) -> float:
        """Part of the power that comes out."""
        return float(10.0 ** (-self.loss_db / 10.0))

    @property
    def is_seen(self) -> bool:
        """Whether it is larger than its uncertainty."""
        return self.loss_db >= self.expanded_u_db


@dataclass(frozen=True)
class PairLoss:
    """One pair with the part beside the ratio without it: 10·log10(behind/front), dB."""

    direct_db: float
    through_db: float
    is_swapped: bool  # with both instruments exchanged

    @property
    def loss_db(self) -> float:
        """Of that pair alone."""
        return self.direct_db - self.through_db


@dataclass(frozen=True)
class LossRequest:
    """Pairs as typed: "104 W 103.4 W", in front and behind; those of exchanged instruments apart."""

    direct: tuple[str, ...]
    through: tuple[str, ...]
    swapped_direct: tuple[str, ...] = ()
    swapped_through: tuple[str, ...] = ()

    def __call__(self) -> LossAnswer:
        """The answer; raises UnreadableError, OutOfRangeError."""
        first, swapped = (self.direct, self.through), (self.swapped_direct, self.swapped_through)
        for both in (first, swapped):
            if not all(both) and (both is first or any(both)):
                raise UnreadableError(
                    "A loss is a ratio of ratios: pairs are needed without the part and with it"
                    f"{', with both instruments exchanged, too' if both is swapped else ''}.",
                    "Give one or more of each, such as 104 W 103.4 W.",
                )
        made = [_Side.of(*both) for both in (first, swapped) if any(both)]
        loss = statistics.fmean(item.loss_db for item in made)
        u = math.hypot(*(item.u_db for item in made)) / len(made)
        dof = _welch(*((item.u_db, item.dof) for item in made))
        apart = (made[0].loss_db - made[-1].loss_db) / 2.0
        if abs(apart) / math.sqrt(3.0) > u:  # what exchanging them shows beyond the scatter
            u, dof = abs(apart) / math.sqrt(3.0), math.inf
        k = float(coverage_factor(dof))
        bound = max(loss + one_sided(ONE_SIDED, dof) * u, 0.0)
        notes = tuple(_notes(loss, k * u, bound, min(len(some) for both in (first, swapped) for some in both if some)))
        pairs = tuple(
            PairLoss(DB_PER_NEPER * item.direct.logs[min(n, len(item.direct.logs) - 1)], DB_PER_NEPER * log, number > 0)
            for number, item in enumerate(made)
            for n, log in enumerate(item.through.logs)
        )
        return LossAnswer(loss, u, dof, k * u, bound, math.exp(made[0].direct.mean), pairs, notes)


@dataclass(frozen=True)
class _Side:
    """What one arrangement of the instruments says."""

    direct: "_Ratios"
    through: "_Ratios"

    @classmethod
    def of(cls, direct: Sequence[str], through: Sequence[str]) -> "_Side":
        return cls(_Ratios.of(direct), _Ratios.of(through))

    @property
    def loss_db(self) -> float:
        return DB_PER_NEPER * (self.direct.mean - self.through.mean)

    @property
    def u_db(self) -> float:
        return DB_PER_NEPER * math.hypot(self.direct.u, self.through.u)

    @property
    def dof(self) -> float:
        return _welch((self.direct.u, self.direct.dof), (self.through.u, self.through.dof))


@dataclass(frozen=True)
class _Ratios:
    """ln(behind/front) of some pairs."""

    logs: tuple[float, ...]
    u: float
    dof: float

    @property
    def mean(self) -> float:
        return statistics.fmean(self.logs)

    @classmethod
    def of(cls, texts: Sequence[str]) -> "_Ratios":
        pairs = [_pair(text) for text in texts]
        logs = tuple(math.log(behind.value_si / front.value_si) for front, behind in pairs)
        n = len(pairs)
        digit = max(math.hypot(*(item.digit_si / math.sqrt(12.0) / item.value_si for item in pair)) for pair in pairs)
        scatter = statistics.stdev(logs) / math.sqrt(n) if n > 1 else 0.0
        readable = digit / math.sqrt(n)
        return cls(logs, scatter, n - 1.0) if scatter > readable else cls(logs, readable, math.inf)


def _pair(text: str) -> tuple[Typed, Typed]:
    words = text.replace(";", " ").split()
    for cut in range(1, len(words)):
        found = [parse(" ".join(part), UNITS["W"]) for part in (words[:cut], words[cut:])]
        read = [item for item in found if not isinstance(item, Unclear) and item.pointer is None]
        if len(read) == 2:
            if min(item.value_si for item in read) <= 0.0:
                raise OutOfRangeError(f"In “{text}” a power is nothing or less.", "Both are above 0.")
            return read[0], read[1]
    raise UnreadableError(f"“{text}” isn't a pair of powers.", "Type both, in front and behind: “104 W 103 W”.")


def _welch(*parts: tuple[float, float]) -> float:
    """Effective degrees of freedom (Welch-Satterthwaite, JCGM 100:2008, G.4.1)."""
    total = sum(u**2 for u, _ in parts)
    below = sum(u**4 / dof for u, dof in parts if math.isfinite(dof))
    return total**2 / below if below > 0 else math.inf


def _notes(loss: float, expanded: float, bound: float, fewest: int) -> list[Note]:
    found = []
    if loss < -expanded:
        found.append(
            Note(
                "loss.gain", Severity.DOUBT, "pairs", "More comes out than goes in.",
                f"{loss:.3f} ± {expanded:.3f}\u2009dB: no passive part does that.",
                "Look whether direct and through, or front and behind, are exchanged.", {"loss_db": loss},
            )
        )  # fmt: skip
    elif loss < expanded:
        found.append(
            Note(
                "loss.unseen", Severity.GOOD_TO_KNOW, "pairs",
                f"The loss can't be seen: less than {bound:.2g}\u2009dB.",
                f"{loss:+.3f}\u2009dB came out with U = {expanded:.2g}\u2009dB; only the bound is a fact (95 %, "
                "one-sided).",
                "More pairs, each after breaking and remaking the connections, make U smaller.", {"bound_db": bound},
            )
        )  # fmt: skip
    if fewest < 2:
        found.append(
            Note(
                "loss.once", Severity.WATCH, "pairs", "It was read once: nothing shows how far it scatters.",
                "U is what the last digits leave; drift, connectors and matches come on top.",
                "Read direct, through and direct again, and remake the connections each time.",
                {"pairs": float(fewest)},
            )
        )  # fmt: skip
    return found
