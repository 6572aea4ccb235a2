"""The correction card for a meter's lid: what a reading is to be multiplied by, at each frequency that was read.

Where nothing was a reference the card shows a dash.
"""

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Stated
from fenmist.kit.dialsheet import set_ranges
from fenmist.procedures.cards import card_of
from fenmist.procedures.comparison.reduction import SMALLEST_RATIO, Result
from fenmist.procedures.page import Card
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


def _cell(item: Stated) -> str:
    if 1.0 + item.share < 2.0 * SMALLEST_RATIO:
        return "shows nothing"
    factor = 1.0 / (1.0 + item.share)
    return rounded(factor, min(max(decimals_for(factor**2 * item.expanded_u_share, 1), 0), 3))
