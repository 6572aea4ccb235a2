"""The table of results: as texts for screen, paper and clipboard, and as numbers for other programs."""

from fenmist.calibration.sent import level_said
from fenmist.procedures.comparison.reduction import PointResult, Result
from fenmist.procedures.page import Cell
from fenmist.procedures.words import further_columns, verdict_said
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.units.display import by_uncertainty, frequency, rounded, with_uncertainty

RESULT_HEADINGS = (
    "frequency", "level", "reference ± U", "indicated", "error ± U", "per cent", "dB", "factor", "verdict"
)  # fmt: skip
"""Columns of the table."""


def result_rows(result: Result) -> list[list[str]]:
    """Rows of texts in the plan's order."""
    return [_row(item) for item in result.points]


def _row(item: PointResult) -> list[str]:
    u_percent = 100.0 * item.expanded_u_ratio
    return [
        frequency(item.point.frequency_hz),
        level_said(item.point),
        with_uncertainty(item.reference_w, item.reference_u_w, "W"),
        by_uncertainty(item.indicated_w, item.expanded_u_w, "W"),
        with_uncertainty(item.error_w, item.expanded_u_w, "W", plus=True),
        f"{rounded(100.0 * item.error_fraction, 1, plus=True)} ± {rounded(u_percent, 1)}",
        rounded(item.error_db, 2, plus=True),
        rounded(item.factor, 3),
        verdict_said(str(item.decision.verdict), item, item.is_reference),
    ]


COLUMNS = (
    "phase", "frequency / Hz", "level planned / W", "range", "rounds", "reference incident / W", "U(reference) / W",
    "net in the load / W", "indicated / W", "error / W", "U(error) / W", "error / %", "error / dB",
    "error low / dB", "error high / dB", "k", "correction factor", "tolerance / W", "zone", "verdict",
    "probability that the verdict is wrong", "computed by", "is a reference",
)  # fmt: skip


def result_table(found: Result, left: Result | None = None) -> list[list[Cell]]:
    """Headings and rows, as found and then as left."""
    phases = [(AS_FOUND, found)] + ([(AS_LEFT, left)] if left is not None else [])
    headings, said = further_columns(found.job, [item for _, result in phases for item in result.points])
    rows = [[*_cells(phase, item), *said(item)] for phase, result in phases for item in result.points]
    return [[*COLUMNS, *headings], *rows]


def _cells(phase: str, item: PointResult) -> list[Cell]:
    low, high = item.error_db_interval
    risk = item.decision.risk
    decibels: tuple[Cell, ...] = ("", "", "") if item.shows_nothing else (item.error_db, low, high)
    return [
        phase, item.point.frequency_hz, item.point.target_w, item.point.range_id, item.rounds, item.reference_w,
        item.reference_u_w, item.net_w, item.indicated_w, item.error_w, item.expanded_u_w,
        100.0 * item.error_fraction, *decibels, item.k, "" if item.shows_nothing else item.factor, item.tolerance_w,
        str(item.decision.zone), str(item.decision.verdict), "" if risk is None else risk, item.engine,
        "yes" if item.is_reference else "no",
    ]  # fmt: skip
