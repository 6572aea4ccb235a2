"""The error chart as data, drawn alike on screen and on paper."""

from dataclasses import dataclass

from fenmist.calibration.job import Job
from fenmist.calibration.reduction import PointResult, Result
from fenmist.units.display import plain


@dataclass(frozen=True)
class ErrorPoint:
    """One point with its bar; all in per cent of the reference."""

    point_id: str
    frequency_mhz: float
    error: float
    low: float
    high: float
    tolerance: float  # half-width of the corridor there
    level: str


@dataclass(frozen=True)
class ErrorSeries:
    """Points of one planned level, rising in frequency."""

    label: str
    points: tuple[ErrorPoint, ...]


@dataclass(frozen=True)
class ErrorChart:
    """Error of indication over frequency, a series per planned level."""

    series: tuple[ErrorSeries, ...]

    @property
    def frequencies_mhz(self) -> tuple[float, ...]:
        """All frequencies, rising, each once."""
        return tuple(sorted({point.frequency_mhz for line in self.series for point in line.points}))

    @property
    def reach(self) -> float:
        """Largest per cent that must fit, at least 1."""
        found = [max(abs(point.low), abs(point.high), point.tolerance) for line in self.series for point in line.points]
        return max([1.0, *found])


def error_chart(job: Job, result: Result) -> ErrorChart:
    """The chart of a job's results."""
    levels = sorted({point.target_w for point in job.plan})
    series = []
    for level in levels:
        found = sorted(
            (item for item in result.points if item.point.target_w == level), key=lambda item: item.point.frequency_hz
        )
        if found:
            label = plain(level, "W")
            series.append(ErrorSeries(label, tuple(_point(item, label) for item in found)))
    return ErrorChart(tuple(series))


def _point(item: PointResult, level: str) -> ErrorPoint:
    error = 100.0 * item.error_fraction
    low, high = (100.0 * (end - 1.0) for end in item.ratio_interval)
    tolerance = 100.0 * item.tolerance_w / item.reference_w
    return ErrorPoint(item.point.id, item.point.frequency_hz / 1e6, error, low, high, tolerance, level)
