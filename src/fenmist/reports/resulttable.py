"""The table of results as texts, for screen, paper and clipboard alike."""

from fenmist.calibration.reduction import PointResult, Result
from fenmist.units.display import by_uncertainty, frequency, plain, rounded, uncertainty, with_uncertainty

RESULT_HEADINGS = (
    "frequency", "level", "reference ± U", "indicated", "error ± U", "per cent", "dB", "factor", "verdict"
)  # fmt: skip
"""Columns of the table."""


def result_rows(result: Result) -> list[list[str]]:
    """Rows of texts in the plan's order."""
    return [_row(item) for item in result.points]


def _row(item: PointResult) -> list[str]:
    u_percent = 100.0 * item.expanded_u_ratio
    verdict = str(item.decision.verdict)
    return [
        frequency(item.point.frequency_hz),
        plain(item.point.target_w, "W"),
        with_uncertainty(item.reference_w, item.reference_u_w, "W"),
        by_uncertainty(item.indicated_w, item.expanded_u_w, "W"),
        with_uncertainty(item.error_w, item.expanded_u_w, "W", plus=True),
        f"{rounded(100.0 * item.error_fraction, 1, plus=True)} ± {rounded(u_percent, 1)}",
        rounded(item.error_db, 2, plus=True),
        rounded(item.factor, 3),
        verdict if item.is_reference else f"{verdict} (no reference)",
    ]


def budget_title(item: PointResult) -> str:
    """What a point's budget is headed with."""
    return (
        f"Uncertainty of the error at {frequency(item.point.frequency_hz)}, {plain(item.point.target_w, 'W')}: "
        f"u\u00a0=\u00a0{uncertainty(item.u_error_w, 'W')}, k\u00a0=\u00a0{item.k:.2f}, "
        f"U\u00a0=\u00a0{uncertainty(item.expanded_u_w, 'W')}{'' if item.engine == 'linear' else ', by Monte Carlo'}"
    )
