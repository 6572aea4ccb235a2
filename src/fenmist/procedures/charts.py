"""Charts of what is stated, whatever it is: a point with its bar, and one point through the years."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

from fenmist.calibration.history import Past
from fenmist.calibration.outcome import Stated
from fenmist.procedures.page import FREQUENCY, YEARS, Chart, ChartPoint, ChartSeries


def stated_point(item: Stated, over: str) -> ChartPoint:
    """A point with its bar, in per cent (a share) over frequency in MHz or level in W."""
    low, high = item.share_interval
    x = item.point.frequency_hz / 1e6 if over == FREQUENCY else item.point.target_w
    return ChartPoint(item.point.id, x, 100.0 * item.share, 100.0 * low, 100.0 * high, 100.0 * item.share_tolerance)


def history_chart(past: Sequence[Past], present: Sequence[Stated], on: date) -> Chart:
    """One point through the years: what was found, and this job's result, as found hollow and as left solid."""
    places = [*(_year(date.fromisoformat(item.on)) for item in past)]
    points = [
        (ChartPoint(
            item.job, x, 100.0 * item.error, 100.0 * (item.error - item.expanded_u),
            100.0 * (item.error + item.expanded_u), 100.0 * item.tolerance,
        ), item.as_left)
        for item, x in zip(past, places, strict=True)
    ]  # fmt: skip
    series = []
    for solid in (False, True):
        chosen = sorted((point for point, left in points if left is solid), key=lambda point: point.x)
        if chosen:
            series.append(ChartSeries("as left" if solid else "as found", tuple(chosen), 0, solid, ()))
    now = [replace(stated_point(item, FREQUENCY), x=_year(on)) for item in present]
    if now:
        series.append(ChartSeries("this job", tuple(now), 1, True, ()))
    return Chart(tuple(series), YEARS)


def _year(day: date) -> float:
    return day.year + (day.timetuple().tm_yday - 1) / 366.0
