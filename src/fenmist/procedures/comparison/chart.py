"""The chart of errors: over frequency or over level, as found and as left, with the curve through the points."""

from collections.abc import Sequence

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Stated
from fenmist.kit.dialsheet import set_ranges
from fenmist.procedures.charts import stated_chart, stated_point
from fenmist.procedures.comparison.curve import curve_through
from fenmist.procedures.comparison.reduction import PointResult, Result
from fenmist.procedures.page import FREQUENCY, Chart

STEPS_BETWEEN = 24
"""Places of a curve between two of its points."""


def error_chart(
    job: Job, result: Result, left: Result | None = None, over: str = FREQUENCY, curves: bool = False
) -> Chart:
    """The chart of a job's results; `left` adds those as left, `curves` what lies between the points."""
    by_row = {id(item.stated): item for of in (result, left) if of is not None for item in of.points}

    def between(some: Sequence[Stated]) -> tuple[tuple[float, float], ...]:
        return _between([by_row[id(item)] for item in some], over, set_ranges(job.dut_part))

    return stated_chart(job, result, left, over, between if curves else None)


def _between(found: list[PointResult], over: str, by_control: Sequence[str]) -> tuple[tuple[float, float], ...]:
    """The curve of calibration.curve over the points of one range; none through fewer than three, nor of a range that
    a set control makes.
    """
    ordered = sorted((item for item in found if item.is_reference), key=lambda item: stated_point(item.stated, over).x)
    places = {stated_point(item.stated, over).x for item in ordered}
    ranges = {item.point.range_id for item in ordered}
    if len(places) < 3 or len(ranges) > 1 or ranges & set(by_control):
        return ()
    curve = curve_through("frequency", 0.0, ordered, lambda item: stated_point(item.stated, over).x)
    return tuple((x, 100.0 * (ratio - 1.0)) for x, ratio in curve.drawn(STEPS_BETWEEN))
