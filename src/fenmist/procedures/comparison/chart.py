"""The chart of errors: over frequency or over level, as found and as left."""

from fenmist.calibration.job import Job
from fenmist.procedures.charts import stated_point
from fenmist.procedures.comparison.curve import curve_through
from fenmist.procedures.comparison.reduction import PointResult, Result
from fenmist.procedures.page import FREQUENCY, Chart, ChartSeries
from fenmist.units.display import frequency, plain

STEPS_BETWEEN = 24
"""Places of a curve between two of its points."""


def error_chart(
    job: Job, result: Result, left: Result | None = None, over: str = FREQUENCY, curves: bool = False
) -> Chart:
    """The chart of a job's results; `left` adds those as left, `curves` what lies between the points."""
    phases = [(True, result)] if left is None else [(False, result), (True, left)]
    keys = sorted({_key(point.target_w, point.frequency_hz, over) for point in job.plan})
    grouped: list[dict[float, list[PointResult]]] = [{} for _ in phases]
    for groups, (_, of) in zip(grouped, phases, strict=True):
        for item in of.points:
            groups.setdefault(_key(item.point.target_w, item.point.frequency_hz, over), []).append(item)
    series = []
    for group, key in enumerate(keys):
        for groups, (solid, _) in zip(grouped, phases, strict=True):
            if found := groups.get(key, []):
                label = plain(key, "W") if over == FREQUENCY else frequency(key)
                points = sorted((stated_point(item.stated, over) for item in found), key=lambda point: point.x)
                between = _between(found, over) if curves else ()
                series.append(ChartSeries(label, tuple(points), group, solid, between))
    return Chart(tuple(series), over)


def _between(found: list[PointResult], over: str) -> tuple[tuple[float, float], ...]:
    """The curve of calibration.curve over the points of one range; none through fewer than three."""
    ordered = sorted((item for item in found if item.is_reference), key=lambda item: stated_point(item.stated, over).x)
    places = {stated_point(item.stated, over).x for item in ordered}
    if len(places) < 3 or len({item.point.range_id for item in ordered}) > 1:
        return ()
    curve = curve_through("frequency", 0.0, ordered, lambda item: stated_point(item.stated, over).x)
    return tuple((x, 100.0 * (ratio - 1.0)) for x, ratio in curve.drawn(STEPS_BETWEEN))


def _key(target_w: float, frequency_hz: float, over: str) -> float:
    return target_w if over == FREQUENCY else frequency_hz
