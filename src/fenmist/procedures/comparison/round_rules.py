"""Rules that hold one reading against the others of its round and point: forms of volts, arcs, digits, outliers."""

import math
import re
import statistics
from bisect import bisect_left
from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import pairwise

from fenmist.calibration.beside import once
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.rounds import AMPLITUDES, PointReadings, Round, Taken
from fenmist.calibration.sent import level_said
from fenmist.findings import keys
from fenmist.findings.note import Note, Severity
from fenmist.judgement.entry_rules import Read, at_point, each_point, powers_at, powers_read, slipped_decades
from fenmist.kit.part import Range
from fenmist.methods.physics_rules import FORMS_DIFFER, forms_note
from fenmist.procedures.comparison.reduction import Result
from fenmist.reading.dial import reading_u
from fenmist.reading.event import Reading, Slot
from fenmist.units.display import percent, plain
from fenmist.units.level import dbm_from_watts
from fenmist.units.typed import Censoring
from fenmist.waveform.sine import RMS_PER_UNIT

NEAR_FACTOR = 0.12
"""Relative distance within which a factor is recognised (Fenmist's own, no source)."""

FORM_FACTORS = {8.0: "Vpp typed as Vrms", 4.0: "Vpp typed as Vpk", 2.0: "Vpk typed as Vrms"}
"""Power ratios of volts taken for another form; their inverses the other way round."""

REVERSED = 0.05
"""Part of the reference's power below which an in-line meter may show reflected power (Fenmist's own, no source)."""

OUTLYING = 5.0
"""Robust standard deviations (1.4826·MAD) from the median from which a round is an outlier (Fenmist's own)."""

MATTERS = 0.2
"""Part of the point's U that a round must stand apart by (Fenmist's own, no source)."""

USUAL_SCATTER = 1.2
"""Deviation of normal scatter over the median of deviations from three values each: √(2/χ²₂,₀.₅) is 1.20."""

SWAPPED_FITS = 0.02
"""Relative distance within which swapped digits fit, or three times what can be read (Fenmist's own, no source)."""

TRANSPOSED_OFF = 0.04
"""Relative distance from what is expected from which transposed digits are looked for (Fenmist's own, no source)."""


NEAR_LEVEL_DB = 0.4
"""How near a number typed as W must lie to the level in dBm to look like it (Fenmist's own, no source)."""

APART_FROM_LEVEL = 0.2
"""Distance of ln(typed/reference) from which the number isn't simply the watts (Fenmist's own, no source)."""


def _mean(values: Iterable[float]) -> float:
    """Of a handful: a plain sum is a fraction of the time of an exact one."""
    found = list(values)
    return sum(found) / len(found)


def _near(ratio: float, factor: float) -> bool:
    return ratio > 0 and abs(math.log(ratio / factor)) < math.log1p(NEAR_FACTOR)


def _powers(job: Job, result: Result) -> Mapping[Slot, float]:
    """Rough powers in W at the stated plane that the readings of a phase stand for."""
    read = (taken.entry.slot for found in result.readings for one in found.rounds for taken in one.references)
    first = next(read, None)
    return powers_read(job, first.phase) if first is not None else {}


def wrong_form(job: Job, result: Result) -> Iterator[Note]:
    """Volts whose power is 8, 4 or 2 times (or that part of) what the meter and the plan agree on."""
    powers = _powers(job, result)
    for found in result.readings:
        for one in found.rounds:
            dut = math.exp(one.log_dut)
            if not 0.7 < dut / found.point.target_w < 1.4:
                continue
            for taken in one.references:
                if taken.reading.unit not in RMS_PER_UNIT or taken.reading.form:
                    continue
                ratio = powers[taken.entry.slot] / dut
                factor = next((f for f in FORM_FACTORS if _near(ratio, f) or _near(ratio, 1.0 / f)), None)
                if factor is not None:
                    yield _form_note(found.point, taken, ratio, factor)


def _form_note(point: PlanPoint, taken: Taken, ratio: float, factor: float) -> Note:
    said = FORM_FACTORS[factor]
    if ratio < 1.0:
        first, second = said.split(" typed as ")
        said = f"{second} typed as {first}"
    times = f"{factor:g} times" if ratio > 1 else f"1/{factor:g} of"
    return Note(
        "entry.wrong_form", Severity.DOUBT, taken.entry.slot.place,
        f"“{taken.entry.raw_text}” looks like {said}.",
        f"Its power is {times} what the meter shows and what is planned {at_point(point)}.",
        "Type it with its form, such as 102 Vpp or 36.1 Vrms, or answer “checked”.",
        {"ratio": ratio, "factor": factor, "value": taken.reading.value},
    )  # fmt: skip


def _median_without(ordered: Sequence[float], value: float) -> float | None:
    """Median of a sorted sequence without one element of that value; none where nothing is left."""
    count = len(ordered) - 1
    if count < 1:
        return None
    gone = bisect_left(ordered, value)
    low, high = (ordered[place if place < gone else place + 1] for place in ((count - 1) // 2, count // 2))
    return (low + high) / 2.0


def _around(read: Sequence[PointReadings]) -> list[list[float]]:
    """For each point ln(DUT/reference) of its rounds and the means of the points beside it, sorted."""
    ratios = [[one.log_ratio for one in found.rounds] for found in read]
    means = [_mean(values) for values in ratios]
    return [
        sorted((*own, *means[max(place - 2, 0) : place], *means[place + 1 : place + 3]))
        for place, own in enumerate(ratios)
    ]


def _typical(around: Sequence[float], one: Round) -> float | None:
    """ln(DUT/reference) that the point's other rounds and the points beside it lead to; none from fewer than two."""
    return _median_without(around, one.log_ratio) if len(around) > 2 else None


_Against = tuple[PointReadings, Taken, float, float]


def _against_reference(job: Job, result: Result) -> tuple[_Against, ...]:
    """What `_compared` finds, once for the rules that ask."""
    return once(result, "against reference", lambda: tuple(_compared(job, result)))


def _compared(job: Job, result: Result) -> Iterator[_Against]:
    """Each DUT reading where the volts fit the plan: its power over what is to be expected, and that power in W.

    Expected is what the oscilloscope says, by the meter's own ratio to it at the other rounds and points where known:
    a meter that is 10 % high everywhere doesn't hide a slip.
    """
    powers, read = _powers(job, result), [found for found in result.readings if found.rounds]
    for found, around in zip(read, _around(read), strict=True):
        for one in found.rounds:
            watts = _mean(powers[item.entry.slot] for item in one.references)
            if not 0.7 < watts / found.point.target_w < 1.4:
                continue
            typical = _typical(around, one)
            for taken in one.duts:
                if taken.power <= 0.0:
                    continue
                ratio = math.exp(taken.log_power) / watts
                if typical is not None:
                    ratio = math.exp(taken.log_power - one.log_reference - typical)
                yield found, taken, ratio, math.exp(taken.log_power) / ratio


def wrong_arc(job: Job, result: Result) -> Iterator[Note]:
    """A meter reading that is off by the ratio of two ranges: the other range's figures, or the knob on it."""
    for found, taken, ratio, _ in _against_reference(job, result):
        used = job.device_range(found.point)
        if used is None or slipped_decades(ratio):
            continue  # said as a slipped point
        others = [item for item in job.indicator(job.device_channel.id).ranges if item.id != used.id]
        figures = next((item for item in others if _near(ratio, item.full_scale / used.full_scale)), None)
        knob = next((item for item in others if _near(ratio, used.full_scale / item.full_scale)), None)
        if figures is not None or knob is not None:
            yield _arc_note(taken, ratio, used, figures, knob)


def _arc_note(taken: Taken, ratio: float, used: Range, figures: Range | None, knob: Range | None) -> Note:
    other = figures or knob or used
    meant = taken.reading.value * used.full_scale / other.full_scale
    if figures is None:
        meant = taken.reading.value * other.full_scale / used.full_scale
        what = f"“{taken.entry.raw_text}” looks as if the knob stood on the {plain(other.full_scale, 'W')} range."
    else:
        what = f"“{taken.entry.raw_text}” looks as if read on the {plain(other.full_scale, 'W')} figures."
    apart = max(other.full_scale, used.full_scale) / min(other.full_scale, used.full_scale)
    return Note(
        "entry.wrong_arc", Severity.DOUBT, taken.entry.slot.place, what,
        f"It is {ratio:.2g} times what is to be expected there; the ranges are {apart:.2g} to 1.",
        f"The range here is {plain(used.full_scale, 'W')}: was it {plain(meant, 'W', 3)}?",
        {"ratio": ratio, "used_w": used.full_scale, "other_w": other.full_scale},
    )  # fmt: skip


def level_as_watts(job: Job, result: Result) -> Iterator[Note]:
    """A number typed as W that is the level in dBm of what is to be expected."""
    for _, taken, ratio, expected_w in _against_reference(job, result):
        level, value = float(dbm_from_watts(expected_w)), taken.reading.value
        if abs(value - level) < NEAR_LEVEL_DB and abs(math.log(ratio)) > APART_FROM_LEVEL:
            yield Note(
                "entry.level_as_watts", Severity.DOUBT, taken.entry.slot.place,
                f"“{taken.entry.raw_text}” looks like dBm typed as W.",
                f"About {plain(expected_w, 'W', 3)} is to be expected, which is {level:.1f}\u2009dBm.",
                f"Was it {taken.entry.raw_text.split()[0]} dBm? Type it with its unit, or answer “checked”.",
                {"value": value, "level_dbm": level},
            )  # fmt: skip


def reversed_ports(job: Job, result: Result, phase: str) -> Iterator[Note]:
    """The forward needle shows next to nothing while the oscilloscope sees the planned power."""
    read = {item.point.id for item in result.readings}
    for found in each_point(job, phase, "reversed", lambda *read: tuple(_reversed(job, phase, *read))):
        for slot, share in found:
            if slot.point not in read:
                continue
            yield Note(
                "meter.reversed", Severity.DOUBT, slot.place,
                f"The meter shows {percent(share)} of the power that the oscilloscope sees.",
                "A forward scale that reads next to nothing into a good load shows reflected power: its ports are "
                "swapped, or it is switched to reflected.",
                "Carrier off, then check which port faces the transmitter, and the switch.",
                {"share": share},
            )  # fmt: skip


def _reversed(job: Job, phase: str, point: PlanPoint, entries: Read) -> Iterator[tuple[Slot, float]]:
    """Readings of the meter that are next to nothing of what the references of their round show, as a share of it."""
    powers = powers_at(job, phase, point, entries)
    references: dict[int, list[float]] = {}
    for slot, power in powers.items():
        if job.is_reference(entries[slot].channel):
            references.setdefault(slot.round, []).append(power)
    for slot, shown in powers.items():
        partners = references.get(slot.round, [])
        reading = entries[slot].reading
        if reading is None or not partners or not job.is_device(entries[slot].channel):
            continue
        if reading.censoring is Censoring.ABOVE or not 0.7 < _mean(partners) / point.target_w < 1.4:
            continue
        share = max(shown, 0.0) / _mean(partners)
        if share < REVERSED:
            yield slot, share


# another level

OTHER_LEVEL = 0.2
"""ln of the power over the plan from which a round was read at another level: 22 % (Fenmist's own, no source)."""


def other_level(job: Job, result: Result) -> Iterator[Note]:
    """A round whose readings agree with each other on another power than is planned: the carrier was set otherwise.

    Where another planned point fits, it is named: the round most likely belongs there.
    """
    powers = _powers(job, result)
    for found in result.readings:
        for one in found.rounds:
            watts = _mean(powers[item.entry.slot] for item in one.references)
            if watts <= 0.0 or min(item.power for item in one.duts) <= 0.0:
                continue
            shown = _mean(math.exp(item.log_power) for item in one.duts)
            off, apart = math.log(watts / found.point.target_w), math.log(shown / watts)
            both = abs(off + apart) >= OTHER_LEVEL / 2.0  # the device says so, too
            if abs(off) >= OTHER_LEVEL and abs(apart) < OTHER_LEVEL and both:
                yield _level_note(found.point, one, watts, point_at_level(job, found.point, watts))


def _level_note(point: PlanPoint, one: Round, watts: float, fitting: PlanPoint | None) -> Note:
    why = f"Both readings say so. Here it is averaged with what was read {at_point(point)}."
    remedy = "Strike it, plan that level, or answer “checked”."
    if fitting is not None:
        why = f"Both readings say so, and that level is planned there, too. {why.partition('so. ')[2]}"
        remedy = f"{keys.MOVE} moves the round to {level_said(fitting)}; or answer “checked”."
    return Note(
        "round.other_level", Severity.DOUBT, one.references[0].entry.slot.place,
        f"Round {one.number} was read at about {plain(watts, 'W', 2)}; {level_said(point)} is planned.",
        why, remedy,
        {"power_w": watts, "planned_w": point.target_w, "belongs_to": fitting.id if fitting else ""},
    )  # fmt: skip


def point_at_level(job: Job, point: PlanPoint, watts: float) -> PlanPoint | None:
    """The planned point whose level a power fits best, if any does; never the point itself.

    Read at the same frequency and waveform, on the same hook-up and range, in the same order: else its round wouldn't
    fit there.
    """
    others = [
        item for item in job.to_read
        if item.id != point.id and _read_as(item) == _read_as(point)
        and abs(item.frequency_hz / point.frequency_hz - 1.0) < SAME_FREQUENCY
        and abs(math.log(watts / item.target_w)) < OTHER_LEVEL
    ]  # fmt: skip
    return min(others, key=lambda item: abs(math.log(watts / item.target_w)), default=None)


def _read_as(point: PlanPoint) -> tuple[object, ...]:
    return point.hookup, point.range_id, point.sequence, point.waveform


SAME_FREQUENCY = 0.005
"""Relative distance within which two planned frequencies are one (Fenmist's own, no source)."""


# digits and outliers


def transposed_digits(job: Job, result: Result) -> Iterator[Note]:
    """Two neighbouring digits the other way round would bring a reading to where the others are.

    The others are the point's other rounds and the points beside it in the plan: with two rounds alone nobody could
    say which of them is the odd one.
    """
    read = [found for found in result.readings if found.rounds]
    for found, around in zip(read, _around(read), strict=True):
        own = sorted(one.log_ratio for one in found.rounds)
        for one in found.rounds:
            expected = _typical(around, one)
            if expected is None or (len(own) == 2 and len(read) == 1):
                continue
            off = one.log_ratio - expected
            others = _median_without(own, one.log_ratio)
            apart = others is None or abs(one.log_ratio - others) >= TRANSPOSED_OFF
            if apart and abs(off) >= TRANSPOSED_OFF:
                fits = max(SWAPPED_FITS, 3.0 * readable_u(job, found))
                yield from _transposed_in(found.point, one, off, expected, fits)


def _transposed_in(point: PlanPoint, one: Round, off: float, expected: float, fits: float) -> Iterator[Note]:
    for taken, sign, power in (
        *((item, 1.0, 1.0) for item in one.duts),
        *((item, -1.0, 2.0 if item.reading.unit in AMPLITUDES else 1.0) for item in one.references),
    ):
        for swapped, ratio in _swaps(taken.entry.raw_text):
            left = off + sign * power * math.log(ratio)
            if abs(left) < min(fits, abs(off) / 4.0):
                yield Note(
                    "entry.transposed", Severity.DOUBT, taken.entry.slot.place,
                    f"“{taken.entry.raw_text}” may have two digits the other way round.",
                    f"It lies {percent(math.expm1(off), plus=True)} from what the other readings lead to "
                    f"{at_point(point)}; {swapped} would lie {percent(round(math.expm1(left), 6), plus=True)} from it.",
                    f"Was it {swapped}? Type it again, or answer “checked”.",
                    {"off": off, "swapped": swapped, "expected": expected},
                )  # fmt: skip
                return


def _swaps(text: str) -> Iterator[tuple[str, float]]:
    """The number of a text with two neighbouring digits swapped, and its ratio to what stands there."""
    match = re.match(r"\s*(\d+(?:[.,]\d+)?)", text)
    if match is None:
        return
    body = match[1].replace(",", ".")
    value = float(body)
    digits = [place for place, letter in enumerate(body) if letter.isdigit()]
    for a, b in pairwise(digits):
        if body[a] != body[b]:
            letters = list(body)
            letters[a], letters[b] = letters[b], letters[a]
            swapped = "".join(letters)
            if value > 0 and float(swapped) > 0:
                yield swapped, float(swapped) / value


def outliers(job: Job, result: Result) -> Iterator[Note]:
    """A round far from the median of three or more, beyond what dial and screen can be read to.

    Three rounds alone know little of their own scatter: two that happen to lie close make an outlier of any third. So
    they are held against the scatter at the other points, too, and what the result doesn't feel isn't spoken of.
    """
    scatters = {
        f.point.id: statistics.stdev(one.log_ratio for one in f.rounds) for f in result.readings if f.rounds[1:]
    }
    for found in result.readings:
        if len(found.rounds) < 3:
            continue
        ratios = [one.log_ratio for one in found.rounds]
        middle = statistics.median(ratios)
        elsewhere = [scatter for point, scatter in scatters.items() if point != found.point.id]
        usual = USUAL_SCATTER * statistics.median(elsewhere) if elsewhere else 0.0
        spread = max(1.4826 * statistics.median(abs(value - middle) for value in ratios), usual)
        answer = result.of(found.point.id)
        least = MATTERS * answer.expanded_u_ratio / answer.ratio if answer is not None and answer.ratio > 0.0 else 0.0
        for one, value in zip(found.rounds, ratios, strict=True):
            if abs(value - middle) > max(OUTLYING * spread, 3.0 * readable_u(job, found), least):
                yield Note(
                    "round.outlier", Severity.DOUBT, one.duts[-1].entry.slot.place,
                    f"Round {one.number} stands apart {at_point(found.point)}.",
                    f"Its ratio lies {percent(math.expm1(value - middle), plus=True)} from the median of "
                    f"{len(ratios)} rounds; the others scatter by {percent(spread)}.",
                    "Look at both readings of it; strike what was misread, or read one more round.",
                    {"off": value - middle, "spread": spread, "round": float(one.number)},
                )  # fmt: skip


def readable_u(job: Job, found: PointReadings) -> float:
    """Relative standard uncertainty of reading dial and screen once, as powers; infinite where one shows nothing."""
    last = found.rounds[-1]
    dut, screen = last.duts[-1].reading, last.references[-1].reading
    if min(dut.value, screen.value) <= 0.0:
        return math.inf
    u_dut = reading_u(dut, job.device_range(found.point), job.part_of_division) / dut.value
    twice = 2.0 if screen.unit in AMPLITUDES else 1.0
    return math.hypot(u_dut, twice * screen.digit / math.sqrt(12.0) / screen.value)


# forms of the same volts


def forms_differ(result: Result) -> Iterator[Note]:
    """The same volts taken as Vpp/2√2 and as rms differ: within one capture, or between rounds of a point."""
    worst: tuple[float, PlanPoint, str, str] | None = None
    count = 0
    for found in result.readings:
        for first, second, difference in _differences(found):
            if abs(difference) >= FORMS_DIFFER:
                count += 1
                if worst is None or abs(difference) > abs(worst[0]):
                    worst = difference, found.point, first, second
    if worst is None:
        return
    difference, point, first, second = worst
    places = at_point(point) if count == 1 else f"{at_point(point)} at worst, {count} times"
    note = forms_note(first, second, difference, places)
    if note is not None:
        yield note


def _differences(found: PointReadings) -> Iterator[tuple[str, str, float]]:
    by_form: dict[str, list[float]] = {}
    for one in found.rounds:
        for taken in one.references:
            by_form.setdefault(_form(taken.reading), []).append(one.log_dut - taken.log_power)
            for other in taken.reading.also:
                yield _form(other), _form(taken.reading), _log_volts(other) - _log_volts(taken.reading)
    forms = sorted(form for form in by_form if form in RMS_PER_UNIT or form == "fit")
    for first in forms:
        for second in forms:
            if first < second:
                # the ratio to the meter, so that a carrier set otherwise for the second reading drops out
                means = [_mean(by_form[form]) for form in (first, second)]
                yield first, second, (means[1] - means[0]) / 2.0


def _form(reading: Reading) -> str:
    return reading.form or reading.unit


def _log_volts(reading: Reading) -> float:
    return math.log(reading.value * RMS_PER_UNIT[reading.unit])
