"""What is said of estimates that agree, disagree, or lean on one thing; and what would explain the odd one."""

import math
from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple, Protocol

from fenmist.calibration.consensus import ReferenceResult
from fenmist.calibration.job import Job, PlanPoint
from fenmist.findings.note import Note, Severity
from fenmist.judgement.entry_rules import at_point
from fenmist.uncertainty.agreement import LEANING, Agreement
from fenmist.units.display import opening, percent, plain


class Slip(NamedTuple):
    """A factor of power that a known slip makes, and what it is."""

    factor: float
    what: str


SLIPS = (
    Slip(2.0, "3 dB: volts peak taken for rms, or a way divided by two"),
    Slip(4.0, "6 dB: a high impedance where 50 Ω should end it, or peak to peak taken for peak"),
    Slip(8.0, "9 dB: volts peak to peak taken for rms"),
    Slip(10.0, "10 dB: a pad, or a step of the attenuator"),
    Slip(100.0, "20 dB: a divider set to 1 instead of 10, or a pad"),
    Slip(1000.0, "30 dB: a pad, or milliwatts for watts"),
)
"""Factors that slips make (common practice, no source)."""

NEAR = 0.06
"""Relative distance from a slip's factor within which it is named, where what is known is finer than that (Fenmist's
own, no source)."""


def explained(ratio: float, u_ratio: float = 0.0) -> str:
    """The slip that a ratio of two powers looks like, or nothing; `u_ratio` is what the ratio is known to, relative."""
    for factor, what in SLIPS:
        if abs(abs(math.log(ratio)) - math.log(factor)) <= max(NEAR, 2.0 * u_ratio):
            return what
    return ""


class Compared(Protocol):
    """A point at which several references were read."""

    @property
    def point(self) -> PlanPoint:
        """Where."""

    @property
    def references(self) -> tuple[ReferenceResult, ...]:
        """What each says."""

    @property
    def agreement(self) -> Agreement | None:
        """Of those that are references, or of all where none is; none of one alone."""


def references_agree(job: Job, points: Iterable[Compared]) -> Iterator[Note]:
    """Whether the references of a point agree: said once, of the point at which they do so least."""
    several = [(item, found) for item in points if (found := item.agreement) is not None and len(found.weights) > 1]
    if not several:
        return
    worst, found = min(several, key=lambda pair: pair[1].probability)
    used = between(worst)
    names = [job.part_read(channel).label for channel in used]
    ratios = [math.exp(apart) for apart in found.apart]
    about = job.channel(used[found.odd]).element if found.odd is not None else "job"
    yield from agreement_notes(found, names, ratios, about, f" {at_point(worst.point)}", not job.reference)


def between(point: Compared) -> list[str]:
    """Channels that an agreement is between: those that are references, or all where none is."""
    trusted = [item.channel for item in point.references if item.is_reference]
    return trusted or [item.channel for item in point.references]


def agreement_notes(
    found: Agreement, names: Sequence[str], ratios: Sequence[float], about: str, where: str = "", weighed: bool = False
) -> Iterator[Note]:
    """What an agreement says; the names are those of its values, `ratios` each value over what the others say.

    `weighed` where a consensus was made of them that leaves the odd one out.
    """
    if found.odd is not None:
        yield _odd(found, names, ratios, about, where, weighed)
    elif not found.agrees:
        yield _apart(found, names, about, where, weighed)
    for pair in found.leaning:
        yield Note(
            "agreement.lean", Severity.WATCH, about,
            f"{opening(names[pair.a])} and {names[pair.b]} agree{where}, but lean on the same thing.",
            f"{percent(pair.correlation)} of what each is known to is shared; from {percent(LEANING)} on their "
            "agreement says little: they would be wrong alike.",
            "Add a reference that shares less with them.",
            {"a": names[pair.a], "b": names[pair.b], "correlation": pair.correlation},
        )  # fmt: skip
    if found.outside:
        yield Note(
            "agreement.outside", Severity.GOOD_TO_KNOW, about,
            "One of the values counts with a negative weight.",
            "It shares most of its uncertainty with a better known one: their difference tells of the shared error, "
            "and the consensus may lie outside of both.",
            "Nothing has to be done; look at how the shared part was estimated.", {"lowest": min(found.weights)},
        )  # fmt: skip


def _odd(
    found: Agreement, names: Sequence[str], ratios: Sequence[float], about: str, where: str, weighed: bool
) -> Note:
    place = found.odd or 0
    slip = explained(ratios[place])
    why = f"The others agree without it; with it χ² is {plain(found.chi_squared, '', 3)}, {_how_often(found)}."
    return Note(
        "agreement.odd", Severity.DOUBT, about,
        f"{opening(names[place])} stands apart{where}: {percent(ratios[place] - 1.0, plus=True)} from what the others "
        f"say, {plain(abs(found.off[place]), '', 2)} times the expanded uncertainty of that difference.",
        (f"{why} It looks like {slip}." if slip else why) + (" It is left out of the consensus." if weighed else ""),
        "Look at its range, its termination and how it was read; then measure again, or leave it out with the reason.",
        {"off": found.off[place], "ratio": ratios[place], "name": names[place], "slip": slip},
    )  # fmt: skip


def _apart(found: Agreement, names: Sequence[str], about: str, where: str, weighed: bool) -> Note:
    worst = max(found.pairs, key=lambda item: abs(item.en))
    two = len(names) == 2
    return Note(
        "agreement.apart", Severity.DOUBT, about,
        f"{opening(names[worst.a])} and {names[worst.b]} disagree{where}: their difference is "
        f"{plain(abs(worst.en), '', 2)} times its expanded uncertainty.",
        f"χ² is {plain(found.chi_squared, '', 3)}, {_how_often(found)}. "
        + ("Of two nobody knows which one is wrong." if two else "No single one of them explains it.")
        + (" Nothing is decided by them." if weighed else ""),
        "Measure it a third way that shares nothing with them." if two else "Look at what they have in common.",
        {"en": worst.en, "chi_squared": found.chi_squared, "a": names[worst.a], "b": names[worst.b]},
    )  # fmt: skip


def _how_often(found: Agreement) -> str:
    """How often that much is met where all stated uncertainties are right."""
    if found.probability < 1e-6:
        return "which never happens where all of them are right"
    return f"which happens once in {1.0 / found.probability:.0f} times where all of them are right"
