"""The loss of a part from pairs of powers, without a bench: in front and behind, without the part and with it.

A frozen request: call it for the answer. Ratios of ratios, averaged as logarithms; uncertainty is what the pairs
scatter by, no less than what their last digits leave. Page: docs/method/loss.md.
"""

import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.findings.note import Note, Severity
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
class LossRequest:
    """Pairs as typed: "104 W 103.4 W", in front and behind."""

    direct: tuple[str, ...]
    through: tuple[str, ...]

    def __call__(self) -> LossAnswer:
        """The answer; raises UnreadableError, OutOfRangeError."""
        if not self.direct or not self.through:
            raise UnreadableError(
                "A loss is a ratio of ratios: pairs are needed without the part and with it.",
                "Give “--direct” and “--through” once or more each.",
            )
        direct, through = (_Ratios.of(texts) for texts in (self.direct, self.through))
        loss = DB_PER_NEPER * (direct.mean - through.mean)
        u = DB_PER_NEPER * math.hypot(direct.u, through.u)
        dof = _welch((direct.u, direct.dof), (through.u, through.dof))
        k = float(coverage_factor(dof))
        bound = max(loss + one_sided(ONE_SIDED, dof) * u, 0.0)
        notes = tuple(_notes(loss, k * u, bound, min(len(self.direct), len(self.through))))
        return LossAnswer(loss, u, dof, k * u, bound, math.exp(direct.mean), notes)


@dataclass(frozen=True)
class _Ratios:
    """ln(behind/front) of some pairs."""

    mean: float
    u: float
    dof: float

    @classmethod
    def of(cls, texts: Sequence[str]) -> "_Ratios":
        pairs = [_pair(text) for text in texts]
        logs = [math.log(behind.value_si / front.value_si) for front, behind in pairs]
        n = len(pairs)
        digit = max(math.hypot(*(item.digit_si / math.sqrt(12.0) / item.value_si for item in pair)) for pair in pairs)
        scatter = statistics.stdev(logs) / math.sqrt(n) if n > 1 else 0.0
        readable = digit / math.sqrt(n)
        mean = statistics.fmean(logs)
        return cls(mean, scatter, n - 1.0) if scatter > readable else cls(mean, readable, math.inf)


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
