"""A meter's correction over frequency, from its comparison: what one meter was found to be makes it a reference."""

import math
import statistics

from fenmist.kit.characterisation import Characterisation
from fenmist.kit.dialsheet import set_ranges
from fenmist.kit.tables import CORRECTION
from fenmist.procedures.comparison.reduction import PointResult, Result


def correction_table(result: Result, source: str, measured_on: str) -> Characterisation | None:
    """What its indication of a steady carrier is to be multiplied by at each frequency; none where nothing decided.

    The mean over levels and ranges; its standard uncertainty is the largest of theirs with half of what they differ by
    taken as a limit (rectangular), since a curve over frequency says nothing of levels.
    """
    by_frequency: dict[float, list[PointResult]] = {}
    by_control = set_ranges(result.job.dut_part)  # of those a mark holds until the control is touched
    for item in result.points:
        usable = item.is_reference and item.is_steady and not item.shows_nothing
        if usable and item.point.range_id not in by_control:
            by_frequency.setdefault(item.point.frequency_hz, []).append(item)
    if not by_frequency:
        return None
    rows = [(f, *_at(found)) for f, found in sorted(by_frequency.items())]
    frequencies, factors, uncertainties = zip(*rows, strict=True)
    return Characterisation(
        "", CORRECTION, frequencies, factors, source=source, measured_on=measured_on, unit="", u=uncertainties,
        coverage=2.0,
    )  # fmt: skip


def _at(found: list[PointResult]) -> tuple[float, float]:
    factors = [item.factor for item in found]
    u = max(item.factor * item.expanded_u_ratio / item.ratio / item.k for item in found)
    spread = (max(factors) - min(factors)) / 2.0 / math.sqrt(3.0)
    return statistics.fmean(factors), math.hypot(u, spread)
