"""From standing entries to rounds in time: the reference interpolated to the moment of the DUT, and what is left over.

A round holds what was read together: reference, DUT, and the reference again where the plan says so. The ratio
DUT/reference is taken in the logarithm, so a carrier that drifts between rounds drops out. Where no device is read
the references are all taken at the middle of the round, and what the rounds scatter by together is the source's.
Within a round the reference is interpolated by time stamp; where times are unknown its mean is taken with half its
change as a limit.
What is left over of a drift: from the sharpest bend that three references show, and never more than a quarter of the
change where two stand around the DUT (an exponential no faster than half their distance: Fenmist's own, no source);
with one reference a round, the fastest change seen between rounds times the seconds between its readings.
A display near its floor may show nothing, or less than nothing: where one of a channel's readings at a point does, all
of them are averaged as they are, for to leave such readings out would lift the mean. A reference's are then taken by
their distance from it, the device's scatter in watts.
Page: docs/method/rounds.md.
"""

import math
import statistics
from collections import Counter
from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import replace
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.sent import part_shown, shares_at
from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.kit.part import Indicator, Range
from fenmist.measurand import Kind
from fenmist.methods.modulated import Shares
from fenmist.reading.dial import reading_u
from fenmist.reading.event import AS_FOUND, Entry, Reading, Slot
from fenmist.uncertainty.influence import FloatArray
from fenmist.units.typed import Censoring
from fenmist.waveform.sine import RMS_PER_UNIT

TWO_REFERENCES_LEFT = 0.25
"""Part of the change between two references that may be left after interpolating between them."""

AMPLITUDES = {**RMS_PER_UNIT, "A": 1.0}
"""Units whose square is a power, with what makes rms of them."""

SMALLEST_W = 1e-15
"""Power taken in logarithms for a device that shows nothing: far below the noise of anything at 300 K."""

BEND_MARGIN = 2.0
"""Factor on the sharpest bend seen: an exponential bends more sharply at its beginning than three readings across two
rounds show (Fenmist's own; holds for time constants from half a round's length up)."""


def _mean(values: Iterable[float]) -> float:
    """Of a handful of values: plain sums are a third of the time here."""
    found = values if isinstance(values, list) else list(values)
    return found[0] if len(found) == 1 else sum(found) / len(found)


@dataclass(frozen=True, eq=False)
class Taken:
    """One usable reading with its moment."""

    reading: Reading
    at_s: float | None  # seconds since the epoch; none where the time is unknown
    entry: Entry
    about: float = 0.0  # mean of its channel, where one of its readings is no more than nothing
    share: float = 1.0  # of PEP, that its channel shows of what is sent

    @property
    def stands_for_power(self) -> bool:
        """Whether a power follows from it: no match, nothing of a supply, no detector's output."""
        return self.reading.unit == "W" or self.reading.unit in AMPLITUDES

    @property
    def power(self) -> float:
        """The power it stands for: W, or the square of rms volts or amperes."""
        if self.reading.unit in AMPLITUDES:
            return (self.reading.value * AMPLITUDES[self.reading.unit]) ** 2
        if self.reading.unit != "W":
            raise OutOfRangeError(f"“{self.reading.unit}” stands for no power.", "Type it in W, dBm, V or A.")
        return self.reading.value

    @cached_property
    def log_power(self) -> float:
        """Logarithm of the PEP it stands for (a constant apart), around the mean of its channel where it has to be."""
        if self.about:
            return math.log(self.about / self.share) + self.power / self.about - 1.0
        return math.log(max(self.power, SMALLEST_W) / self.share)


@dataclass(frozen=True, eq=False)
class Round:
    """Readings of reference and DUT that belong together, each in the order in which they were planned."""

    number: int
    references: tuple[Taken, ...]
    duts: tuple[Taken, ...]
    complete: bool  # nothing of what is planned is missing
    at_floor: bool = False  # at this point the device showed nothing, or less, at times
    others: tuple[Taken, ...] = ()  # what is no power: the DC that went into the source, another meter's SWR

    @property
    def channels(self) -> set[str]:
        """Everything that was read."""
        return {item.entry.channel for item in (*self.references, *self.duts, *self.others)}

    @cached_property
    def by_channel(self) -> dict[str, tuple[Taken, ...]]:
        """What each reference showed, in the order read."""
        found: dict[str, tuple[Taken, ...]] = {}
        for item in self.references:
            found[item.entry.channel] = (*found.get(item.entry.channel, ()), item)
        return found

    def log_of(self, channel: str) -> float:
        """Logarithm of what one reference showed at the moment of the DUT: interpolated in time, else the mean."""
        taken = self.by_channel[channel]
        if len(taken) == 1:
            return taken[0].log_power
        values, times = [item.log_power for item in taken], [item.at_s for item in taken]
        moment = self._moment
        if moment is None or any(t is None for t in times):
            return _mean(values)
        return float(np.interp(moment, *_in_time(times, values)))

    @cached_property
    def log_reference(self) -> float:
        """The same of all references together: their mean (constants apart)."""
        return _mean(self.log_of(name) for name in self.by_channel)

    @cached_property
    def log_dut(self) -> float:
        """Logarithm of the PEP that the DUT showed, or that follows from what it showed."""
        return _mean(item.log_power for item in self.duts)

    def log_scatter(self, channel: str) -> float:
        """A logarithm that scatters from round to round as one reference does: of the device's ratio to it.

        Where no device is read it is its distance from the mean of all m references, times √(m/(m − 1)) since it is
        part of that mean; of a reference that is alone nothing, for what it scatters by is taken as the source's.
        Where the device shows nothing at times it is the reference's own, beside the device's in watts.
        """
        if self.at_floor:
            return self.log_of(channel)
        if self.duts:
            return self.log_dut - self.log_of(channel)
        m = len(self.by_channel)
        return math.sqrt(m / (m - 1)) * (self.log_reference - self.log_of(channel)) if m > 1 else 0.0

    @cached_property
    def log_ratio(self) -> float:
        """ln(DUT/reference), a constant apart."""
        return self.log_dut - self.log_reference

    @property
    def change(self) -> float:
        """Change of a reference's logarithm within the round, last less first; of several the largest, of none 0."""
        return max((self.change_of(name) for name in self.by_channel), key=abs, default=0.0)

    def change_of(self, channel: str) -> float:
        """The same of one reference."""
        taken = self.by_channel[channel]
        return taken[-1].log_power - taken[0].log_power

    @cached_property
    def _moment(self) -> float | None:
        """When the device was read; where it isn't, the middle of the round."""
        times = [item.at_s for item in self.duts or self.references]
        return None if any(t is None for t in times) else _mean(t for t in times if t is not None)

    def seconds_between(self, channel: str) -> float | None:
        """From the nearest reading of a reference to the DUT; none where a time is unknown."""
        moment, taken = self._moment, self.by_channel[channel]
        if moment is None or any(item.at_s is None for item in taken):
            return None
        return min(abs(moment - item.at_s) for item in taken if item.at_s is not None)


def _in_time(times: Sequence[float | None], values: Sequence[float]) -> tuple[list[float], list[float]]:
    ordered = sorted((t, v) for t, v in zip(times, values, strict=True) if t is not None)
    return [t for t, _ in ordered], [v for _, v in ordered]


@dataclass(frozen=True, eq=False)
class PointReadings:
    """What stands at one plan point."""

    point: PlanPoint
    rounds: tuple[Round, ...]  # those in which everything that is planned was read at least once
    open_entries: int
    bounded: int  # readings that are only bounds ("below 0.5")
    silent: int  # readings of references that show nothing in the mean
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
    skips = _skips(job, phase)
    return tuple(
        before[point.id]
        if point.id in same and before[point.id].point is point
        else _readings_at(job, phase, point, skips)
        for point in job.plan
    )


def readings_moved_on(
    job: Job, phase: str, former: tuple[PointReadings, ...], changed: set[str]
) -> tuple[PointReadings, ...]:
    """The same where the plan is that of `former`: looks at nothing but what changed, however long it is."""
    found, skips = list(former), _skips(job, phase)
    for name in changed:
        if job.has_point(name):
            place = job.place_of(name)
            found[place] = _readings_at(job, phase, job.plan[place], skips)
    return tuple(found)


def _skips(job: Job, phase: str) -> Counter[str]:
    """How many rounds of each point are left out."""
    return Counter(point for point, _, of in job.skipped if of == phase)


def _readings_at(job: Job, phase: str, point: PlanPoint, skips: Counter[str]) -> PointReadings:
    standing = job.ledger.at(point.id).items()
    found = {slot: event.entry for slot, event in standing if slot.phase == phase and event.entry is not None}
    return _point_readings(job, point, found, _wanted(point, skips[point.id]))


def _wanted(point: PlanPoint, skips: int) -> int:
    return 0 if point.blocked else max(point.repeats - skips, 0)


def _point_readings(job: Job, point: PlanPoint, found: dict[Slot, Entry], wanted: int) -> PointReadings:
    if not found:
        return PointReadings(point, (), 0, 0, 0, found, wanted)
    rounds: dict[int, dict[int, Taken]] = {}
    bounded = silent = 0
    floor = False
    for slot, entry in found.items():
        reading = entry.reading
        if reading is None:
            continue
        if reading.censoring is not Censoring.NONE:
            bounded += 1
            within = _within_bound(job, entry, reading)
            if within is None:
                continue
            reading = within
        rounds.setdefault(slot.round, {})[slot.position] = Taken(
            reading,
            entry.observed_at.timestamp() if entry.observed_at else None,
            entry,
            share=part_shown(job, point, entry.channel, reading),
        )
    if any(item.reading.value <= 0.0 for one in rounds.values() for item in one.values()):
        silent, rounds = _around_means(job, rounds)
        floor = any(
            job.is_device(item.entry.channel) and item.reading.value <= 0.0
            for one in rounds.values()
            for item in one.values()
        )
    made = (_round(job, number, taken, len(point.sequence), floor) for number, taken in sorted(rounds.items()))
    wants = set(point.sequence)
    usable = tuple([item for item in made if wants <= item.channels])
    open_entries = sum([entry.reading is None for entry in found.values()])
    return PointReadings(point, usable, open_entries, bounded, silent, found, wanted)


LOWEST: Mapping[Kind, float] = {Kind.SWR: 1.0, Kind.REFLECTED: 0.0, Kind.REFLECTION: 0.0}
"""What a perfect match shows."""


def _within_bound(job: Job, entry: Entry, reading: Reading) -> Reading | None:
    """A bound on a match, "SWR below 1.05" or "above 10", as anything between it and the end; none of any other bound.

    Near a match marks bunch up, near full reflection they end, and a bound is all that a needle tells: rectangular, its
    middle as the value; above, in ρ.
    """
    kind = job.channel(entry.channel).measurand.kind
    lowest = LOWEST.get(kind)
    if lowest is None or reading.value <= lowest:
        return None
    if reading.censoring is Censoring.BELOW:
        half = (reading.value - lowest) / 2.0
        return replace(reading, value=lowest + half, u=half / math.sqrt(3.0), censoring=Censoring.NONE)
    if kind is Kind.REFLECTION and reading.value < 1.0:
        half = (1.0 - reading.value) / 2.0
        return replace(reading, value=reading.value + half, u=half / math.sqrt(3.0), censoring=Censoring.NONE)
    if kind is Kind.SWR:
        half = 1.0 / (reading.value + 1.0)  # of 1 − ρ
        value, less = ((1.0 + rho) / (1.0 - rho) for rho in (1.0 - half, 1.0 - half * (1.0 + 1.0 / math.sqrt(3.0))))
        return replace(reading, value=value, u=value - less, censoring=Censoring.NONE)
    return None


def _around_means(job: Job, rounds: dict[int, dict[int, Taken]]) -> tuple[int, dict[int, dict[int, Taken]]]:
    """Readings with those of a reference that sometimes shows nothing taken by their distance from its mean.

    Where that mean is nothing as well the reference says nothing: how many of its readings are left out, and the rest.
    """
    powers: dict[str, list[float]] = {}
    for item in (item for one in rounds.values() for item in one.values()):
        if _is_power(job, item.entry.channel):
            powers.setdefault(item.entry.channel, []).append(item.power)
    low = {name: _mean(some) for name, some in powers.items() if min(some) <= 0.0}
    kept = {
        number: {
            place: replace(item, about=low.get(item.entry.channel, 0.0))
            for place, item in one.items()
            if low.get(item.entry.channel, 1.0) > 0.0
        }
        for number, one in rounds.items()
    }
    return sum(len(powers[name]) for name, mean in low.items() if mean <= 0.0), kept


def _round(job: Job, number: int, taken: dict[int, Taken], planned: int, at_floor: bool) -> Round:
    powers: list[Taken] = []
    device: list[Taken] = []
    others: list[Taken] = []
    for position in sorted(taken):
        item = taken[position]
        name = item.entry.channel
        (device if job.is_device(name) else powers if _is_power(job, name) else others).append(item)
    return Round(number, tuple(powers), tuple(device), len(taken) >= planned, at_floor, tuple(others))


def _is_power(job: Job, channel: str) -> bool:
    """Whether a channel is a power by another instrument: neither the device's nor a supply's, nor of a match."""
    return job.is_reference(channel) and not job.is_of_match(channel)


@dataclass(frozen=True, eq=False)
class ChannelMean:
    """One reference at n points: the mean of its rounds. Arrays have shape (n,).

    Scatter and drift are those of the device's ratio to it; where no device is read, of it to the mean of all.
    """

    channel: str
    value: FloatArray  # V or A rms, or W
    u_reading: FloatArray  # of reading it once
    digit: FloatArray  # the coarsest last digit
    forms: tuple[str, ...]  # how volts were taken
    ranges: tuple[str, ...]  # on which it was read; "" where it has none
    full_scale: FloatArray  # of those, infinite where there is none
    u_repeat: FloatArray  # of that mean ratio, relative; 0 for one round
    dof_repeat: FloatArray
    drift_limit: FloatArray  # ± of that ratio, relative: what may be left of the carrier's drift
    shares: Shares  # of PEP

    @property
    def shows(self) -> tuple[Hashable, ...]:
        """All that its power follows from, as a key: neither scatter nor drift."""
        numbers = _key(self.value, self.u_reading, self.digit, self.full_scale)
        return *numbers, self.forms, self.ranges, self.shares.waveforms, self.shares.each

    @property
    def key(self) -> tuple[Hashable, ...]:
        """All of it."""
        return self.channel, *self.shows, *_key(self.u_repeat, self.dof_repeat, self.drift_limit)


def _key(*arrays: NDArray[np.generic]) -> tuple[bytes, ...]:
    return tuple(item.tobytes() for item in arrays)


@dataclass(frozen=True, eq=False)
class DeviceMean:
    """What the device showed in one channel at n points: the mean of its rounds. Arrays have shape (n,)."""

    channel: str
    watts: FloatArray
    u_reading: FloatArray  # of reading it once
    digit: FloatArray  # the coarsest last digit
    u_repeat_w: FloatArray  # of that mean, where it showed nothing at times; else its scatter is the ratio's
    dof_repeat: FloatArray
    shares: Shares  # of PEP, that it claims to show

    @property
    def key(self) -> tuple[Hashable, ...]:
        """All of it."""
        numbers = _key(self.watts, self.u_reading, self.digit, self.u_repeat_w, self.dof_repeat)
        return self.channel, *numbers, self.shares.waveforms, self.shares.each


@dataclass(frozen=True, eq=False)
class Scatter:
    """Mean of the rounds at each of n points and what they scatter by. Arrays have shape (n,)."""

    references: tuple[ChannelMean, ...]
    device: tuple[DeviceMean, ...]  # a channel each; none where nothing is read on it
    at_floor: NDArray[np.bool_]  # where the device showed nothing, or less, at times
    u_source: FloatArray  # of the mean of all references, relative; 0 where a device is read, or one round
    dof_source: FloatArray

    @property
    def drift_limit(self) -> FloatArray:
        """The largest of all references'."""
        return np.asarray(np.max([item.drift_limit for item in self.references], axis=0))

    @property
    def key(self) -> tuple[Hashable, ...]:
        """All of it: of the same key the same follows, on the same bench."""
        of_references, of_device = (item.key for item in self.references), (item.key for item in self.device)
        return *of_references, *of_device, *_key(self.at_floor, self.u_source, self.dof_source)


def scatter(job: Job, points: tuple[PointReadings, ...]) -> Scatter:
    """Average the rounds as log ratios, at points that read the same references.

    Notes
    -----
    The mean ratio DUT/reference is the geometric one; the powers shown are geometric means as well. What a dial or a
    screen can be read to counts once per point, not per round: the eye repeats its own habit.
    """
    first = points[0].point
    device = tuple(dict.fromkeys(item for item in first.sequence if job.is_device(item)))
    sources = [_source_row(point) for point in points]
    u_source, dof_source = (np.array(column, float) for column in zip(*sources, strict=True))
    return Scatter(
        tuple(_channel_mean(job, points, name) for name in job.references_of(first)),
        tuple(_device_mean(job, points, name) for name in device),
        np.array([any(one.at_floor for one in found.rounds) for found in points]), u_source, dof_source,
    )  # fmt: skip


def _device_mean(job: Job, points: tuple[PointReadings, ...], channel: str) -> DeviceMean:
    rows = [_device_row(job, point, channel) for point in points]
    watts, u_watts, digit_w, u_repeat, dof = (np.array(column, float) for column in zip(*rows, strict=True))
    shares = shares_at(job, [item.point for item in points], channel, [""] * len(points))
    return DeviceMean(channel, watts, u_watts, digit_w, u_repeat, dof, shares)


def _device_row(job: Job, found: PointReadings, channel: str) -> tuple[float, float, float, float, float]:
    # a handful of rounds: plain Python is faster here than arrays
    u_repeat, dof = 0.0, math.inf
    rounds = [[item for item in one.duts if item.entry.channel == channel] for one in found.rounds]
    if any(one.at_floor for one in found.rounds):
        shown = [_mean([item.power for item in one]) for one in rounds]
        mean_w, (u_repeat, dof) = _mean(shown), _u_of_mean(shown)
    else:
        mean_w = rounds[0][0].share * math.exp(_mean([_mean([item.log_power for item in one]) for one in rounds]))
    taken = [item.reading for one in rounds for item in one]
    used = job.range_of(found.point, channel)
    u_dial = reading_u(Reading(mean_w, "W", taken[-1].digit), used, job.part_of_division)
    u_dial = max(u_dial, *[item.u or 0.0 for item in taken])  # what it scattered by while it was read over the wire
    return mean_w, u_dial, max([item.digit for item in taken]), u_repeat, dof


def _source_row(found: PointReadings) -> tuple[float, float]:
    """What the rounds scatter by together, as a mean, where no device is read; with its degrees of freedom."""
    logs = [one.log_reference for one in found.rounds if not one.duts]
    return _u_of_mean(logs)


def _u_of_mean(values: Sequence[float]) -> tuple[float, float]:
    """Standard uncertainty of the mean of a few values, and its degrees of freedom; 0 from fewer than two."""
    count = len(values)
    return (statistics.stdev(values) / math.sqrt(count), count - 1) if count > 1 else (0.0, math.inf)


def _channel_mean(job: Job, points: tuple[PointReadings, ...], channel: str) -> ChannelMean:
    indicator = job.indicator(channel)
    rows, forms, ranges = [], [], []
    for found in points:
        taken = [item.reading for one in found.rounds for item in one.by_channel[channel]]
        halved = 2.0 if taken[0].unit in AMPLITUDES else 1.0
        value = _mean_shown(found, channel) ** (1.0 / halved)
        used = _read_on(indicator, found, channel) if indicator.ranges else None
        u_repeat, dof_repeat = _u_of_mean([one.log_scatter(channel) for one in found.rounds])
        rows.append((
            value, max(u_once(item, used, job.part_of_division) for item in taken),
            max(AMPLITUDES.get(item.unit, 1.0) * item.digit for item in taken),
            used.full_scale if used else math.inf, u_repeat, dof_repeat, drift_left(found, channel),
        ))  # fmt: skip
        forms.append(_form(taken[0]))
        ranges.append(used.id if used else "")
    means, u, digit, full, u_ratio, dof, drift = (np.array(column, float) for column in zip(*rows, strict=True))
    shares = shares_at(job, [item.point for item in points], channel, forms)
    return ChannelMean(channel, means, u, digit, tuple(forms), tuple(ranges), full, u_ratio, dof, drift, shares)


def _mean_shown(found: PointReadings, channel: str) -> float:
    """Mean over the rounds of the power that one reference showed: the geometric one, else as `Taken` takes it."""
    log, first = _mean([one.log_of(channel) for one in found.rounds]), found.rounds[0].by_channel[channel][0]
    log += math.log(first.share)
    return first.about * (1.0 + log - math.log(first.about)) if first.about else math.exp(log)


def _read_on(indicator: Indicator, found: PointReadings, channel: str) -> Range | None:
    """The range on which a reference was read at a point, the highest of several; none where it has none."""
    names = {item.entry.range_id for one in found.rounds for item in one.by_channel[channel]}
    used = [item for item in indicator.ranges if item.id in names]
    return max(used, key=lambda item: item.full_scale, default=None)


def u_once(reading: Reading, used: Range | None, part_of_division: float) -> float:
    """Standard uncertainty of reading it once: V or A rms, or W."""
    factor = AMPLITUDES.get(reading.unit, 1.0)
    if reading.u is not None:
        return factor * reading.u
    if used is not None and used.scale is not None:
        return factor * reading_u(reading, used, part_of_division)
    return factor * reading.digit / math.sqrt(12.0)


def _form(reading: Reading) -> str:
    """How volts were taken at a point; the first where the rounds differ (and that is said)."""
    return reading.form or reading.unit


def drift_left(found: PointReadings, channel: str) -> float:
    """± limit of what a drift of the carrier may leave in the mean log ratio of a point to one of its references."""
    if sum(len(one.by_channel[channel]) for one in found.rounds) < 2:
        return 0.0
    bend, speed = _sharpest_bend(found, channel), _fastest(found, channel)
    limits = []
    for item in found.rounds:
        taken = item.by_channel[channel]
        times = [one.at_s for one in taken if one.at_s is not None]
        between = item.seconds_between(channel)
        if len(taken) < 2:
            limits.append(speed * (between or 0.0))
        elif between is None:
            limits.append(0.5 * abs(item.change_of(channel)))
        else:
            seen = math.inf if bend is None else BEND_MARGIN * bend * (max(times) - min(times)) ** 2 / 4.0
            limits.append(min(seen, TWO_REFERENCES_LEFT * abs(item.change_of(channel))))
    return _mean(limits)


def _sharpest_bend(found: PointReadings, channel: str) -> float | None:
    """Largest second-order coefficient of ln P over time in 1/s² through three references that follow each other.

    None where fewer than three references with known times stand at the point.
    """
    taken = [item for one in found.rounds for item in one.by_channel[channel]]
    times, values = _in_time([item.at_s for item in taken], [item.log_power for item in taken])
    if len(set(times)) < len(times) or len(times) < 3:
        return None
    slopes = [(v2 - v1) / (t2 - t1) for (t1, v1), (t2, v2) in pairwise(zip(times, values, strict=True))]
    spans = [after - before for before, after in zip(times, times[2:], strict=False)]
    return max(abs(s2 - s1) / span for (s1, s2), span in zip(pairwise(slopes), spans, strict=True))


def _fastest(found: PointReadings, channel: str) -> float:
    """Largest change of ln P per second between references that follow each other; 0 where none is seen."""
    taken = [item for one in found.rounds for item in one.by_channel[channel]]
    times, values = _in_time([item.at_s for item in taken], [item.log_power for item in taken])
    pairs = pairwise(zip(times, values, strict=True))
    return max((abs(v2 - v1) / (t2 - t1) for (t1, v1), (t2, v2) in pairs if t2 > t1), default=0.0)
