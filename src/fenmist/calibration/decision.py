"""What may be said about an error: its zone, the verdict by the agreed rule, and the risk of being wrong.

Zone and verdict are two things. The zone says where the error lies against the tolerance, seen through the
uncertainty. The verdict applies the rule agreed beforehand; where U is larger than the tolerance nothing can be
accepted, and only an error outside by more than U can still be rejected (docs/decisions/0003).
"""

from enum import StrEnum
from statistics import NormalDist

from fenmist.calibration.job import Rule
from fenmist.frozen import dataclass


class Zone(StrEnum):
    """Where an error lies."""

    INSIDE = "inside by more than the uncertainty"
    INSIDE_WITHIN = "inside, but within the uncertainty"
    OUTSIDE_WITHIN = "outside, but within the uncertainty"
    OUTSIDE = "outside by more than the uncertainty"


class Verdict(StrEnum):
    """What the rule makes of it."""

    ACCEPT = "accept"
    REJECT = "reject"
    CANNOT_DECIDE = "cannot decide"


@dataclass(frozen=True)
class Decision:
    """Zone, verdict and risk of one error; `risk` is the probability that the verdict is wrong."""

    zone: Zone
    verdict: Verdict
    conformance_probability: float  # that the true error lies inside the tolerance
    risk: float | None  # none where nothing was decided
    tur: float  # tolerance over U; infinite where U is 0


def decide(
    error: float,
    u: float,
    expanded_u: float,
    tolerance: float,
    rule: Rule,
    may_decide: bool = True,
    conformance: float | None = None,
) -> Decision:
    """Judge one error; all in one unit, `tolerance` > 0. Nothing is decided by what is no reference.

    `conformance` is the probability that the true error lies inside, where it was drawn; else it is taken as normal.

    Notes
    -----
    p = Φ((T − e)/u) − Φ((−T − e)/u), normal with a flat prior (JCGM 106:2012, 7.4 and 9.3).
    """
    size = abs(error)
    inside = size <= tolerance
    beyond_u = abs(size - tolerance) > expanded_u
    zone = {
        (True, True): Zone.INSIDE, (True, False): Zone.INSIDE_WITHIN,
        (False, False): Zone.OUTSIDE_WITHIN, (False, True): Zone.OUTSIDE,
    }[inside, beyond_u]  # fmt: skip
    if not may_decide:
        verdict = Verdict.CANNOT_DECIDE
    elif expanded_u > tolerance:
        verdict = Verdict.REJECT if zone is Zone.OUTSIDE else Verdict.CANNOT_DECIDE
    else:
        limit = tolerance - (expanded_u if rule is Rule.GUARDED else 0.0)
        verdict = Verdict.ACCEPT if size <= limit else Verdict.REJECT
    p = conformance_probability(error, u, tolerance) if conformance is None else conformance
    risk = {Verdict.ACCEPT: 1.0 - p, Verdict.REJECT: p}.get(verdict)
    return Decision(zone, verdict, p, risk, tolerance / expanded_u if expanded_u > 0 else float("inf"))


def conformance_probability(error: float, u: float, tolerance: float) -> float:
    """Probability that the true error lies inside ± tolerance."""
    if u <= 0:
        return float(abs(error) <= tolerance)
    normal = NormalDist()
    return normal.cdf((tolerance - error) / u) - normal.cdf((-tolerance - error) / u)
