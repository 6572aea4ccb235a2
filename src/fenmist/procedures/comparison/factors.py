"""What a meter's readings are to be multiplied by, as a table over frequency and level with what is worth knowing."""

from collections.abc import Iterator

from fenmist.procedures.comparison.reduction import PointResult, Result
from fenmist.procedures.comparison.surface import Surface, factor_said, not_worth_using, surfaces
from fenmist.procedures.page import Factors
from fenmist.units.display import frequency, percent, plain


def factors_page(result: Result) -> Factors | None:
    """Factors by frequency down and level across; none where nothing decided."""
    found = surfaces(result)
    if not found:
        return None
    several = len(found) > 1
    columns = [(surface, row) for surface in found for row in surface.rows]
    names = [f"{plain(row.fixed, 'W')}{f', range {surface.range_id}' if several else ''}" for surface, row in columns]
    by_place = [{item.point.frequency_hz: item for item in row.points} for _, row in columns]
    places = sorted({f for column in by_place for f in column})
    rows = tuple(
        (frequency(f), *(factor_said(column[f]) if f in column else "—" for column in by_place)) for f in places
    )
    items = [item for column in by_place for item in column.values()]
    spans = tuple(not_worth_using(result))
    return Factors(_headline(items), ("multiply by", *names), rows, (*spans, *_apart(found)))


def _headline(items: list[PointResult]) -> str:
    low, high = min(items, key=lambda item: item.factor), max(items, key=lambda item: item.factor)
    if all(item.ratio_interval[0] <= 1.0 <= item.ratio_interval[1] for item in items):
        return "Use it as it is: no factor differs from 1 by more than its uncertainty."
    if len(items) == 1:
        return f"Multiply what it shows by {factor_said(low)}."
    differs = [
        name
        for name, values in (
            ("frequency", {item.point.frequency_hz for item in items}),
            ("level", {item.point.target_w for item in items}),
        )
        if len(values) > 1
    ]
    by = " and ".join(differs) or "range"
    return f"Multiply what it shows by {factor_said(low)} up to {factor_said(high)}, by {by}."


def _apart(found: tuple[Surface, ...]) -> Iterator[str]:
    """Whether level and frequency can be taken apart, where anything was read to tell."""
    for surface in found:
        of = f" of range {surface.range_id}" if len(found) > 1 else ""
        count = len(surface.corners)
        worst = max(surface.corners, key=lambda item: abs(item.off) / item.expanded_u, default=None)
        if worst is None:
            continue
        if not worst.agrees:
            point = worst.point.point
            yield (
                f"Level and frequency{of} can't be taken apart: {plain(point.target_w, 'W')} at "
                f"{frequency(point.frequency_hz)} is {percent(worst.off, plus=True)} off what one row and one column "
                f"make of it, with U = {percent(worst.expanded_u)}. Only what was read around a place is used there."
            )
        elif surface.is_separable:
            yield (
                f"Level and frequency{of} can be taken apart: {count} corner points agree with one row and one "
                "column. What a level does at one frequency is used at the others."
            )
