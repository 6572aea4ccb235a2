"""Ranges that a set control makes: a known power fixes a mark; at each frequency it stands for what was found.

The control is set where a needle stands on a mark at a power that is known; from then on every mark of the arc stands
for as much more. What the detector does over frequency is in it, so a mark's value holds where it was checked and
nowhere between. Page: docs/method/set-control.md.
"""

from collections.abc import Iterator

from fenmist.calibration.job import Job
from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.kit.dialsheet import set_ranges
from fenmist.procedures.comparison.reduction import PointResult, Result
from fenmist.units.display import frequency, plain, with_uncertainty


@dataclass(frozen=True)
class Mark:
    """What a mark stands for at one frequency."""

    point: PointResult

    @property
    def nominal_w(self) -> float:
        """What is printed there, times what the control makes of it."""
        return self.point.point.target_w

    @property
    def value_w(self) -> float:
        """The power at which the needle stands on it."""
        return self.nominal_w * self.point.factor

    @property
    def expanded_u_w(self) -> float:
        """U of that."""
        return self.value_w * self.point.expanded_u_ratio / self.point.ratio


def marks(job: Job, result: Result) -> tuple[Mark, ...]:
    """Marks of ranges by set control, at each frequency and level that was read and decided by a reference."""
    by_control = set_ranges(job.dut_part)
    return tuple(
        Mark(item)
        for item in result.points
        if item.point.range_id in by_control and item.is_reference and item.is_steady and not item.shows_nothing
    )


def mark_statements(job: Job, result: Result) -> Iterator[str]:
    """What each mark stands for, for paper."""
    for mark in marks(job, result):
        point = mark.point.point
        yield (
            f"Range {point.range_id}, by its set control: the {plain(mark.nominal_w, 'W')} mark stands for "
            f"{with_uncertainty(mark.value_w, mark.expanded_u_w, 'W')} at {frequency(point.frequency_hz)}, checked "
            "there only."
        )


def by_control(job: Job, result: Result) -> Iterator[Note]:
    """What a range by set control is worth, said once."""
    found = marks(job, result)
    if not found:
        return
    worst = max(found, key=lambda mark: abs(mark.point.error_fraction))
    at = ", ".join(dict.fromkeys(frequency(mark.point.point.frequency_hz) for mark in found))
    point = worst.point.point
    yield Note(
        "comparison.set_range", Severity.GOOD_TO_KNOW, point.id,
        f"Range {point.range_id} is fixed by the set control: its marks hold at {at} alone.",
        f"The {plain(worst.nominal_w, 'W')} mark stands for "
        f"{with_uncertainty(worst.value_w, worst.expanded_u_w, 'W')} at {frequency(point.frequency_hz)}; between "
        "frequencies, or after the control was touched, nothing is known.",
        "Set it on the mark at a known power first, leave the control alone until all is read, and write its place "
        "down.",
        {"value_w": worst.value_w, "nominal_w": worst.nominal_w},
    )  # fmt: skip
