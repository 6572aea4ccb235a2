"""From standing entries to rounds in time: the reference interpolated to the moment of the DUT, and what is left over.

A round holds what was read together: reference, DUT, and the reference again where the plan says so. The ratio
DUT/reference is taken in the logarithm, so a carrier that drifts between rounds drops out. Within a round the
reference is interpolated by time stamp; where times are unknown its mean is taken with half its change as a limit.
What is left over of a drift: from the sharpest bend that three references show, and never more than a quarter of the
change where two stand around the DUT (an exponential no faster than half their distance: Fenmist's own, no source);
with one reference a round, the fastest change seen between rounds times the seconds between its readings.
Page: docs/method/rounds.md.
"""

import math
import statistics
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.reading.dial import reading_u
from fenmist.reading.event import AS_FOUND, Entry, Reading, Slot
from fenmist.uncertainty.influence import FloatArray
from fenmist.units.typed import Censoring
from fenmist.waveform.sine import RMS_PER_UNIT

TWO_REFERENCES_LEFT = 0.25
"""Part of the change between two references that may be left after interpolating between them."""

BEND_MARGIN = 2.0
"""Factor on the sharpest bend seen: an exponential bends more sharply at its beginning than three readings across two
rounds show (Fenmist's own; holds for time constants from half a round's length up)."""


def _mean(values: Iterable[float]) -> float:
    """Of a handful of values: plain sums are a third of the time here."""
    found = list(values)
    return found[0] if len(found) == 1 else sum(found) / len(found)


@dataclass(frozen=True, eq=False)
class Taken:
    """One usable reading with its moment."""

    reading: Reading
    at_s: float | None  # seconds since the epoch; none where the time is unknown
    entry: Entry

    @cached_property
    def log_power(self) -> float:
        """Logarithm of the power it stands for: of W, or of the square of its rms volts (a constant apart)."""
        if self.reading.unit in RMS_PER_UNIT:
            return 2.0 * math.log(self.reading.value * RMS_PER_UNIT[self.reading.unit])
        return math.log(self.reading.value)


@dataclass(frozen=True, eq=False)
class Round:
    """Readings of reference and DUT that belong together, each in the order in which they were planned."""

    number: int
    references: tuple[Taken, ...]
    duts: tuple[Taken, ...]
    complete: bool  # nothing of what is planned is missing

    @cached_property
    def log_reference(self) -> float:
        """Logarithm of the reference at the moment of the DUT: interpolated in time, else the mean."""
        values = [item.log_power for item in self.references]
        times = [item.at_s for item in self.references]
        moment = self._moment
        if len(values) < 2 or moment is None or any(t is None for t in times):
            return _mean(values)
        return float(np.interp(moment, *_in_time(times, values)))

    @cached_property
    def log_dut(self) -> float:
        """Logarithm of what the DUT showed."""
        return _mean(item.log_power for item in self.duts)

    @cached_property
    def log_ratio(self) -> float:
        """ln(DUT/reference), a constant apart."""
        return self.log_dut - self.log_reference

    @property
    def change(self) -> float:
        """Change of the reference's logarithm within the round, last less first."""
        return self.references[-1].log_power - self.references[0].log_power

    @property
    def _moment(self) -> float | None:
        times = [item.at_s for item in self.duts]
        return None if any(t is None for t in times) else _mean(t for t in times if t is not None)

    @property
    def seconds_between(self) -> float | None:
        """From the nearest reference to the DUT; none where a time is unknown."""
        moment = self._moment
        if moment is None or any(item.at_s is None for item in self.references):
            return None
        return min(abs(moment - item.at_s) for item in self.references if item.at_s is not None)


def _in_time(times: Sequence[float | None], values: Sequence[float]) -> tuple[list[float], list[float]]:
    ordered = sorted((t, v) for t, v in zip(times, values, strict=True) if t is not None)
    return [t for t, _ in ordered], [v for _, v in ordered]


@dataclass(frozen=True, eq=False)
class PointReadings:
    """What stands at one plan point."""

    point: PlanPoint
    rounds: tuple[Round, ...]  # those with a reference and a DUT reading
    open_entries: int
    bounded: int  # readings that are only bounds ("below 0.5")
    entries: Mapping[Slot, Entry]  # all that stand
    wanted: int  # rounds that are to be read: none of a blocked point, less the skipped ones

    @property
    def entered(self) -> int:
        """Entries that stand, open ones too."""
        return len(self.entries)

    @property
    def missing_readings(self) -> int:
        """Readings that are missing in wanted rounds; open entries are missing, too."""
        open_rounds = self.wanted - self.complete_rounds
        if open_rounds <= 0:
            return 0
        complete = {item.number for item in self.rounds if item.complete}
        there = sum(1 for slot, e in self.entries.items() if e.reading is not None and slot.round not in complete)
        return max(open_rounds * len(self.point.sequence) - there, 1)

    @property
    def complete_rounds(self) -> int:
        """Rounds of which nothing is missing."""
        return sum(item.complete for item in self.rounds)


def readings_by_point(
    job: Job, phase: str = AS_FOUND, former: tuple[PointReadings, ...] = (), changed: set[str] | None = None
) -> tuple[PointReadings, ...]:
    """The standing readings of each plan point, in the plan's order.

    `former` are those before a change, `changed` the points at which it may have changed something: at the others,
    where the plan's point is the same too, the same objects are given again.
    """
    before = {item.point.id: item for item in former} if changed is not None else {}
    same = {name for name in before if name not in (changed or ())}
    by_point: dict[str, dict[Slot, Entry]] = {
        point.id: {} for point in job.plan if point.id not in same or before[point.id].point is not point
    }
    for name, entries in by_point.items():
        for slot, event in job.ledger.at(name).items():
            if slot.phase == phase and event.entry is not None:
                entries[slot] = event.entry
    skips = Counter(point for point, _, of in job.skipped if of == phase)
    return tuple(
        _point_readings(job, point, by_point[point.id], _wanted(point, skips[point.id]))
        if point.id in by_point
        else before[point.id]
        for point in job.plan
    )


def _wanted(point: PlanPoint, skips: int) -> int:
    return 0 if point.blocked else max(point.repeats - skips, 0)


def _point_readings(job: Job, point: PlanPoint, found: dict[Slot, Entry], wanted: int) -> PointReadings:
    rounds: dict[int, dict[int, Taken]] = {}
    bounded = 0
    for slot, entry in found.items():
        reading = entry.reading
        if reading is None:
            continue
        if reading.censoring is not Censoring.NONE or reading.value <= 0:
            bounded += 1
            continue
        rounds.setdefault(slot.round, {})[slot.position] = Taken(
            reading, entry.observed_at.timestamp() if entry.observed_at else None, entry
        )
    made = (_round(job, number, taken, len(point.sequence)) for number, taken in sorted(rounds.items()))
    usable = tuple(item for item in made if item.references and item.duts)
    open_entries = sum(1 for entry in found.values() if entry.reading is None)
    return PointReadings(point, usable, open_entries, bounded, found, wanted)


def _round(job: Job, number: int, taken: dict[int, Taken], planned: int) -> Round:
    ordered = [taken[position] for position in sorted(taken)]
    return Round(
        number,
        tuple(item for item in ordered if not job.is_device(item.entry.channel)),
        tuple(item for item in ordered if job.is_device(item.entry.channel)),
        len(ordered) >= planned,
    )


@dataclass(frozen=True, eq=False)
class Scatter:
    """Mean of the rounds at each of n points and what they scatter by. Arrays have shape (n,)."""

    reference_vrms: FloatArray
    u_reference_vrms: FloatArray  # of reading the screen once
    indicated_w: FloatArray
    u_indicated_w: FloatArray  # of reading the dial once
    u_repeat: FloatArray  # of the mean ratio, relative; 0 for one round
    dof_repeat: FloatArray
    drift_limit: FloatArray  # ± of the mean ratio, relative: what may be left of the carrier's drift
    digit_rms: FloatArray  # the coarsest last digit of the reference's volts, as rms
    digit_w: FloatArray  # the coarsest last digit of what the meter showed
    forms: tuple[str, ...]  # how the reference's volts were taken


def scatter(job: Job, points: tuple[PointReadings, ...]) -> Scatter:
    """Average the rounds as log ratios.

    Notes
    -----
    The mean ratio DUT/reference is the geometric one; the powers shown are geometric means as well. What a dial or a
    screen can be read to counts once per point, not per round: the eye repeats its own habit.
    """
    rows = [_scatter_row(job, point) for point in points]
    volts, u_volts, watts, u_watts, u_repeat, dof, drift, digit_v, digit_w = (
        np.array(column, float) for column in zip(*rows, strict=True)
    )
    forms = tuple(_form(point) for point in points)
    return Scatter(volts, u_volts, watts, u_watts, u_repeat, dof, drift, digit_v, digit_w, forms)


def _scatter_row(job: Job, found: PointReadings) -> tuple[float, ...]:
    # a handful of rounds: plain Python is faster here than arrays
    count = len(found.rounds)
    ratios = [item.log_ratio for item in found.rounds]
    u_repeat = statistics.stdev(ratios) / math.sqrt(count) if count > 1 else 0.0
    mean_v = math.exp(_mean(item.log_reference for item in found.rounds) / 2.0)
    mean_w = math.exp(_mean(item.log_dut for item in found.rounds))
    last = found.rounds[-1].duts[-1].reading
    at_mean = Reading(mean_w, "W", last.digit)
    u_dial = reading_u(at_mean, job.device_range(found.point), job.part_of_division)
    u_v = max(_u_rms(item.reading) for one in found.rounds for item in one.references)
    dof = count - 1 if count > 1 else math.inf
    digit_v = max(
        RMS_PER_UNIT[item.reading.unit] * item.reading.digit for one in found.rounds for item in one.references
    )
    digit_w = max(item.reading.digit for one in found.rounds for item in one.duts)
    return mean_v, u_v, mean_w, u_dial, u_repeat, dof, drift_left(found), digit_v, digit_w


def _u_rms(reading: Reading) -> float:
    """Standard uncertainty of reading the volts once, as rms."""
    factor = RMS_PER_UNIT[reading.unit]
    return factor * (reading.digit / math.sqrt(12.0) if reading.u is None else reading.u)


def _form(found: PointReadings) -> str:
    """How the volts were taken at a point; the first where the rounds differ (and that is said)."""
    reading = found.rounds[0].references[0].reading
    return reading.form or reading.unit


def drift_left(found: PointReadings) -> float:
    """± limit of what a drift of the carrier may leave in the mean log ratio of a point."""
    bend, speed = _sharpest_bend(found), _fastest(found)
    limits = []
    for item in found.rounds:
        times = [taken.at_s for taken in item.references if taken.at_s is not None]
        if len(item.references) < 2:
            limits.append(speed * (item.seconds_between or 0.0))
        elif item.seconds_between is None:
            limits.append(0.5 * abs(item.change))
        else:
            seen = math.inf if bend is None else BEND_MARGIN * bend * (max(times) - min(times)) ** 2 / 4.0
            limits.append(min(seen, TWO_REFERENCES_LEFT * abs(item.change)))
    return _mean(limits)


def _sharpest_bend(found: PointReadings) -> float | None:
    """Largest second-order coefficient of ln P over time in 1/s² through three references that follow each other.

    None where fewer than three references with known times stand at the point.
    """
    taken = [item for one in found.rounds for item in one.references]
    times, values = _in_time([item.at_s for item in taken], [item.log_power for item in taken])
    if len(set(times)) < len(times) or len(times) < 3:
        return None
    slopes = [(v2 - v1) / (t2 - t1) for (t1, v1), (t2, v2) in pairwise(zip(times, values, strict=True))]
    spans = [after - before for before, after in zip(times, times[2:], strict=False)]
    return max(abs(s2 - s1) / span for (s1, s2), span in zip(pairwise(slopes), spans, strict=True))


def _fastest(found: PointReadings) -> float:
    """Largest change of ln P per second between references that follow each other; 0 where none is seen."""
    taken = [item for one in found.rounds for item in one.references]
    times, values = _in_time([item.at_s for item in taken], [item.log_power for item in taken])
    pairs = pairwise(zip(times, values, strict=True))
    return max((abs(v2 - v1) / (t2 - t1) for (t1, v1), (t2, v2) in pairs if t2 > t1), default=0.0)
