"""The correction card for a meter's lid: what a reading is to be multiplied by, at each frequency that was read.

Where nothing was a reference the card shows a dash.
"""

from dataclasses import replace

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Stated
from fenmist.kit.dialsheet import set_ranges
from fenmist.procedures.cards import card_of
from fenmist.procedures.comparison.chart import error_chart
from fenmist.procedures.comparison.reduction import SMALLEST_RATIO, Result
from fenmist.procedures.page import BENCH, Card, ChartPoint
from fenmist.units.display import decimals_for, percent, rounded


def card(job: Job, result: Result, size: str, number: str = "") -> Card:
    """The card of a job's results (as left, where adjusted).

    Raises
    ------
    OutOfRangeError
        Where nothing was read.
    """
    worst = max((item.expanded_u_share for item in result.stated), default=0.0)
    foot = f"each ± at most {percent(worst)} (95 %); between the lines as between them, outside not"
    by_control = [name for name in set_ranges(job.dut_part) if any(i.point.range_id == name for i in result.stated)]
    if by_control:
        foot = f"{foot}; range {' and '.join(by_control)}, by set control: at these frequencies only"
    return card_of(job, result.stated, size, number, "multiply the reading by", foot, _cell)


def curve_card(job: Job, result: Result, number: str = "") -> Card | None:
    """The same as a curve over frequency, for a bench; none where no level was read at three frequencies."""
    chart = error_chart(job, result, curves=True)
    drawn = tuple(
        replace(line, points=tuple(map(_to_add, line.points)), between=tuple((x, _added(y)) for x, y in line.between))
        for line in chart.series
        if line.between
    )
    if not drawn:
        return None
    made = card(job, result, BENCH, number)
    return replace(
        made, title=f"{job.dut_part.label}: add to the reading, in per cent", columns=(), rows=(), left_out="",
        curve=replace(chart, series=drawn, quantity="to be added"),
        foot=f"{made.foot.partition(';')[0]}; along the line between the points, outside not",
    )  # fmt: skip


def _added(error_percent: float) -> float:
    """What has to be added to a reading that is off by so much, both in per cent."""
    return 100.0 / (1.0 + error_percent / 100.0) - 100.0


def _to_add(point: ChartPoint) -> ChartPoint:
    return replace(point, value=_added(point.value), low=_added(point.high), high=_added(point.low), tolerance=0.0)


def _cell(item: Stated) -> str:
    if 1.0 + item.share < 2.0 * SMALLEST_RATIO:
        return "shows nothing"
    factor = 1.0 / (1.0 + item.share)
    return rounded(factor, min(max(decimals_for(factor**2 * item.expanded_u_share, 1), 0), 3))
