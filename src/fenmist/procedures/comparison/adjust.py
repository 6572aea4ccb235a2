"""What a comparison offers to be turned: the readings of each range, with what each is known to."""

import math

from fenmist.procedures.comparison.reduction import PointResult, Result
from fenmist.procedures.page import Turnable, TurnPlace
from fenmist.uncertainty.agreement import K


def turnables(result: Result) -> tuple[Turnable, ...]:
    """One for each range that was read, in the order of the plan, of a steady carrier that decided something."""
    usable = [item for item in result.points if item.is_reference and item.is_steady and not item.shows_nothing]
    names = dict.fromkeys(item.point.range_id for item in usable)
    full = {item.id: item.full_scale for item in result.job.device_ranges}
    return tuple(
        Turnable(
            name, full.get(name, 0.0), tuple(_place(result, item) for item in usable if item.point.range_id == name)
        )
        for name in names
    )


def _place(result: Result, item: PointResult) -> TurnPlace:
    return TurnPlace(
        item.point, item.reference_w, item.indicated_w, item.expanded_u_ratio / item.ratio,
        item.tolerance_w / item.reference_w, _again(result, item),
    )  # fmt: skip


OF_ONE_READING = (".reading", ".drift")
"""Ends of the names of what is drawn anew whenever a point is read."""


def _again(result: Result, item: PointResult) -> float:
    """U of reading the point once more, relative: what the reference itself is wrong by stays the same."""
    fresh = (
        row.contribution for row in result.budget(item.point.id)
        if row.influence.kind == "A" or row.influence.id.endswith(OF_ONE_READING)
    )  # fmt: skip
    return K * math.sqrt(sum(each**2 for each in fresh)) / item.reference_w
