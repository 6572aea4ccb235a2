"""The error chart as data, drawn alike on screen and on paper: over frequency or over level, as found and as left."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date

from fenmist.calibration.curve import curve_through
from fenmist.calibration.history import Past
from fenmist.calibration.job import Job
from fenmist.calibration.reduction import PointResult, Result
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.units.display import frequency, plain, rounded

FREQUENCY, LEVEL, YEARS = "frequency", "level", "years"
AXIS_TITLES = {FREQUENCY: "frequency in MHz", LEVEL: "level in W, as planned", YEARS: "year and month"}
"""What runs across, with its unit."""


@dataclass(frozen=True)
class ErrorPoint:
    """One point with its bar; errors in per cent of the reference."""

    point_id: str
    x: float  # MHz or W
    error: float
    low: float
    high: float
    tolerance: float  # half-width of the corridor there


@dataclass(frozen=True)
class ErrorSeries:
    """Points of one level (or frequency) in one phase, rising."""

    label: str
    points: tuple[ErrorPoint, ...]
    group: int = 0  # which level or frequency, from 0: the sign
    solid: bool = True  # false as found where there is an as left
    between: tuple[tuple[float, float], ...] = ()  # the curve through them, as places and errors in per cent


@dataclass(frozen=True)
class ErrorChart:
    """Error of indication, a series per planned level (or frequency) and phase."""

    series: tuple[ErrorSeries, ...]
    over: str = FREQUENCY

    @property
    def groups(self) -> tuple[tuple[int, str], ...]:
        """Number and name of each level or frequency."""
        return tuple({line.group: line.label for line in self.series}.items())

    @property
    def phases_said(self) -> str:
        """What solid and hollow signs mean, where both stand."""
        return "" if all(line.solid for line in self.series) else f"hollow: {AS_FOUND}, solid: {AS_LEFT}"

    @property
    def places(self) -> tuple[float, ...]:
        """All places across, rising, each once."""
        return tuple(sorted({point.x for line in self.series for point in line.points}))

    @property
    def reach(self) -> float:
        """Largest per cent that must fit, at least 1; what lies far outside the tolerance is drawn at the edge."""
        points = [point for line in self.series for point in line.points]
        found = [max(abs(point.low), abs(point.high), point.tolerance) for point in points]
        farthest = max([FAR, *(FAR_TOLERANCES * point.tolerance for point in points)])
        return min(max([1.0, *found]), farthest)

    def tick(self, x: float) -> str:
        """What stands at a place across."""
        if self.over != YEARS:
            return f"{x:g}"
        return f"{int(x)}-{min(int((x - int(x)) * 12.0) + 1, 12):02d}"

    def said_at(self, point: ErrorPoint) -> str:
        """A point's values in words, for the crosshair."""
        unit = {FREQUENCY: f"{point.x:g}\u2009MHz", LEVEL: f"{point.x:g}\u2009W"}.get(self.over, self.tick(point.x))
        low, high = rounded(point.low, 1, plus=True), rounded(point.high, 1, plus=True)
        return (
            f"{unit}: {rounded(point.error, 1, plus=True)}\u2009% "
            f"({low} to {high}), tolerance ±{rounded(point.tolerance, 1)}\u2009%"
        )

    @property
    def axis_title(self) -> str:
        """What runs across."""
        return AXIS_TITLES[self.over]


FAR, FAR_TOLERANCES = 60.0, 3.0
"""Per cent, or tolerances, beyond which an error no longer stretches the drawing (Fenmist's own)."""

STEPS_BETWEEN = 24
"""Places of a curve between two of its points."""


def error_chart(
    job: Job, result: Result, left: Result | None = None, over: str = FREQUENCY, curves: bool = False
) -> ErrorChart:
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
                points = sorted((_point(item, over) for item in found), key=lambda point: point.x)
                between = _between(found, over) if curves else ()
                series.append(ErrorSeries(label, tuple(points), group, solid, between))
    return ErrorChart(tuple(series), over)


def history_chart(past: Sequence[Past], present: Sequence[PointResult], on: date) -> ErrorChart:
    """One point through the years: what was found, and this job's result, as found hollow and as left solid."""
    places = [*(_year(date.fromisoformat(item.on)) for item in past)]
    points = [
        (ErrorPoint(
            item.job, x, 100.0 * item.error, 100.0 * (item.error - item.expanded_u),
            100.0 * (item.error + item.expanded_u), 100.0 * item.tolerance,
        ), item.as_left)
        for item, x in zip(past, places, strict=True)
    ]  # fmt: skip
    series = []
    for solid in (False, True):
        chosen = sorted((point for point, left in points if left is solid), key=lambda point: point.x)
        if chosen:
            series.append(ErrorSeries("as left" if solid else "as found", tuple(chosen), 0, solid, ()))
    now = [replace(_point(item, FREQUENCY), x=_year(on)) for item in present]
    if now:
        series.append(ErrorSeries("this job", tuple(now), 1, True, ()))
    return ErrorChart(tuple(series), YEARS)


def _year(day: date) -> float:
    return day.year + (day.timetuple().tm_yday - 1) / 366.0


def _between(found: list[PointResult], over: str) -> tuple[tuple[float, float], ...]:
    """The curve of calibration.curve over the points of one range; none through fewer than three."""
    ordered = sorted((item for item in found if item.is_reference), key=lambda item: _point(item, over).x)
    places = {_point(item, over).x for item in ordered}
    if len(places) < 3 or len({item.point.range_id for item in ordered}) > 1:
        return ()
    curve = curve_through("frequency", 0.0, ordered, lambda item: _point(item, over).x)
    return tuple((x, 100.0 * (ratio - 1.0)) for x, ratio in curve.drawn(STEPS_BETWEEN))


def _key(target_w: float, frequency_hz: float, over: str) -> float:
    return target_w if over == FREQUENCY else frequency_hz


def _point(item: PointResult, over: str) -> ErrorPoint:
    low, high = (100.0 * (end - 1.0) for end in item.ratio_interval)
    x = item.point.frequency_hz / 1e6 if over == FREQUENCY else item.point.target_w
    return ErrorPoint(
        item.point.id, x, 100.0 * item.error_fraction, low, high, 100.0 * item.tolerance_w / item.reference_w
    )
