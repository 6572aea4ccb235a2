"""Charts of what is stated, whatever it is: a point with its bar, and one point through the years."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import date

from fenmist.calibration.history import Past
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.outcome import Outcome, Stated
from fenmist.procedures.page import FREQUENCY, YEARS, Chart, ChartPoint, ChartSeries
from fenmist.units.display import frequency, plain


def stated_point(item: Stated, over: str) -> ChartPoint:
    """A point with its bar, in the unit of its share, over frequency in MHz or level in W."""
    (low, high), scale = item.share_interval, item.share_scale
    x = item.point.frequency_hz / 1e6 if over == FREQUENCY else item.point.target_w
    return ChartPoint(item.point.id, x, scale * item.share, scale * low, scale * high, scale * item.share_tolerance)


Between = Callable[[Sequence[Stated]], tuple[tuple[float, float], ...]]
"""What lies between points of one level or frequency, as places and values in the chart's units."""


def stated_chart(
    job: Job, found: Outcome, left: Outcome | None, over: str, between: Between | None = None, quantity: str = "error"
) -> Chart:
    """What is stated, over frequency or level: a series for each level (or frequency) and phase."""
    phases = [(True, found)] if left is None else [(False, found), (True, left)]
    keys = sorted({_key(point, over) for point in job.plan})
    grouped: list[dict[tuple[float, str], list[Stated]]] = [{} for _ in phases]
    for groups, (_, of) in zip(grouped, phases, strict=True):
        for item in of.stated:
            groups.setdefault(_key(item.point, over), []).append(item)
    series = []
    for group, key in enumerate(keys):
        for groups, (solid, _) in zip(grouped, phases, strict=True):
            if some := groups.get(key, []):
                value, sent = key
                label = plain(value, "W") if over == FREQUENCY else frequency(value)
                label += f", {sent}" if sent else ""
                points = sorted((stated_point(item, over) for item in some), key=lambda point: point.x)
                curve = between(some) if between else ()
                series.append(ChartSeries(label, tuple(points), group, solid, curve))
    return Chart(tuple(series), over, quantity, _unit([item for _, of in phases for item in of.stated]))


def ends_chart(job: Job, found: Outcome, left: Outcome | None, over: str, quantity: str) -> Chart:
    """What is stated of several visits, over frequency or level: a series for each visit and phase."""
    phases = [(True, found)] if left is None else [(False, found), (True, left)]
    names = list(dict.fromkeys(point.leg for point in job.plan))
    series = []
    for group, name in enumerate(names):
        for solid, of in phases:
            some = [item for item in of.stated if item.point.leg == name]
            if some:
                points = sorted((stated_point(item, over) for item in some), key=lambda point: point.x)
                label = name or job.bench.label
                series.append(ChartSeries(label, tuple(points), group, solid))
    return Chart(tuple(series), over, quantity, _unit([item for _, of in phases for item in of.stated]))


def _unit(stated: Sequence[Stated]) -> str:
    return stated[0].share_unit if stated else "%"


def _key(point: PlanPoint, over: str) -> tuple[float, str]:
    """What points of one series share: level or frequency, and what is sent."""
    return point.target_w if over == FREQUENCY else point.frequency_hz, point.waveform


def history_chart(past: Sequence[Past], present: Sequence[Stated], on: date) -> Chart:
    """One point through the years: what was found, and this job's result, as found hollow and as left solid."""
    scale = present[0].share_scale if present else 100.0
    points = [
        (ChartPoint(
            item.job, _year(date.fromisoformat(item.on)), scale * error, scale * (error - expanded_u),
            scale * (error + expanded_u), scale * tolerance,
        ), item.as_left)
        for item in past
        for error, expanded_u, tolerance in zip(item.error, item.expanded_u, item.tolerance, strict=True)
    ]  # fmt: skip
    series = []
    for solid in (False, True):
        chosen = sorted((point for point, left in points if left is solid), key=lambda point: point.x)
        if chosen:
            series.append(ChartSeries("as left" if solid else "as found", tuple(chosen), 0, solid, ()))
    now = [replace(stated_point(item, FREQUENCY), x=_year(on)) for item in present]
    if now:
        series.append(ChartSeries("this job", tuple(now), 1, True, ()))
    return Chart(tuple(series), YEARS, unit=_unit(present))


def _year(day: date) -> float:
    return day.year + (day.timetuple().tm_yday - 1) / 366.0
