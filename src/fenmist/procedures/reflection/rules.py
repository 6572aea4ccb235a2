"""What is remarked of a job about a match: slips of reading, and what the meter's coupler and detectors do."""

import math
from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import date
from itertools import pairwise

import numpy as np

from fenmist.calibration.expected import expected_si
from fenmist.calibration.job import Job
from fenmist.calibration.rounds import PointReadings, Round
from fenmist.calibration.sent import level_said
from fenmist.findings.note import Note, Severity
from fenmist.hookup.line import main_way
from fenmist.judgement import entry_rules, run_rules
from fenmist.judgement.any_job import before_reading, narrowed, of_the_outcome, of_the_run
from fenmist.judgement.entry_rules import at_point
from fenmist.judgement.judge import Judge, Rules, all_in_order, but
from fenmist.kit.impedance import IMPEDANCE
from fenmist.kit.part import Part
from fenmist.measurand import OF_MATCH, Kind
from fenmist.methods.match_shown import MeterClaim, leak_of, reflection_limit, reflection_shown
from fenmist.procedures.reflection.findings import (
    MOVED,
    AtOneLevel,
    balances,
    by_level,
    end_of,
    from_watts,
    over_levels,
)
from fenmist.procedures.reflection.headline import directivity_said, expected_said, shown_said, swr_of, window_said
from fenmist.procedures.reflection.reduction import (
    SET_POWER,
    Matches,
    MatchPoint,
    OtherMeter,
    channel_of,
    round_reflection,
)
from fenmist.reading.event import AS_FOUND
from fenmist.units.display import frequency, percent, plain

TOGETHER = 2.0
"""Reading limits within which a meter's own three numbers belong together (Fenmist's own)."""

SPOILT = 0.01
"""Part of forward power from which what directivity does to it is spoken of (handbook 15.4: use a load of SWR 1.1)."""

SCALE_OFF = 0.05
"""Part by which a meter shows too little or too much at every end, from which its set control is spoken of."""

CANCELS = ("load.not_nominal", "load.phase_unknown", "load.unknown_here")
"""What is said of a load as a reference of power."""

PLAIN_SHARE = 0.15
"""Part of ρ beyond the window from which a single reading is asked about (Fenmist's own)."""

FAR = 0.15
"""Distance of ρ from what it should be, from which a reading may be a slip: a directivity of 16 dB explains less (own).
"""

PLAIN_U = 2.0
"""Widths beyond the window from which a single reading is asked about (GUM coverage)."""


@Judge
def judge(job: Job, result: Matches, as_of: date, phase: str = AS_FOUND, _found: Matches | None = None) -> Rules:
    """All notes on a job on a day; see `Procedure.judge`."""
    yield from but(before_reading(job, as_of), CANCELS)
    yield from _entries(job, result, phase)
    yield from of_the_run(job, result, phase)
    yield from of_the_outcome(job, result)
    yield from _patterns(job, result)


def judge_entries(job: Job, result: Matches, phase: str, point_id: str) -> tuple[Note, ...]:
    """Notes on the entries of one point: what must be said as soon as an entry is kept."""
    near = replace(result, readings=(result.readings_at(point_id),), points=())
    return all_in_order(_entries(narrowed(job, near.readings), near, phase))


def _entries(job: Job, result: Matches, phase: str) -> Rules:
    yield entry_rules.decimal_slips(job, phase)
    yield ports_swapped(job, result)
    yield far_off(job, result)
    yield three_numbers(job, result)
    yield entry_rules.off_scale(job, phase)
    yield entry_rules.open_entries(job, phase)
    yield run_rules.doubted_entries(job, phase)


def _patterns(job: Job, result: Matches) -> Rules:
    yield end_unknown(job, result)
    yield directivity_found(job, result)
    yield balance(job, result)
    yield flattered(job, result)
    yield not_set(job, result)
    yield over_power(job, result)
    yield over_time(job, result)
    yield two_meters(job, result)
    yield forward_spoilt(job, result)


# single readings


def _watts(job: Job, found: PointReadings, one: Round) -> tuple[float, float] | None:
    values = []
    for kind in (Kind.INCIDENT, Kind.REFLECTED):
        channel = channel_of(job, found.point, kind)
        taken = [item.reading.value for item in one.duts if item.entry.channel == channel]
        if not taken:
            return None
        values.append(sum(taken) / len(taken))
    return values[0], values[1]


def ports_swapped(job: Job, result: Matches) -> Iterator[Note]:
    """More comes back than goes out."""
    found = [
        (readings, one, watts)
        for readings in result.readings
        for one in readings.rounds
        if (watts := _watts(job, readings, one)) is not None and watts[1] > watts[0]
    ]
    if not found:
        return
    readings, one, (forward, reflected) = found[0]
    every = len(found) > 1 and len(found) == sum(len(item.rounds) for item in result.readings)
    entry = next(item.entry for item in one.duts if job.channel(item.entry.channel).measurand.kind is Kind.REFLECTED)
    said = "at every point" if every else at_point(readings.point)
    yield Note(
        "reflection.ports_swapped", Severity.DOUBT, entry.slot.place, f"More comes back than goes out {said}.",
        f"Forward {plain(forward, 'W')}, reflected {plain(reflected, 'W')}: no end of a line gives power.",
        "Look whether the meter stands the wrong way round, with the transmitter at its output; or whether both "
        "needles' readings were exchanged.",
        {"forward_w": forward, "reflected_w": reflected},
    )  # fmt: skip


def far_off(job: Job, result: Matches) -> Iterator[Note]:
    """A reading that lies outside its window as it stands, and inside as a known slip."""
    for readings in result.readings:
        for one in readings.rounds:
            watts = _watts(job, readings, one)
            if watts is None or watts[1] <= watts[0]:
                yield from _slips_of(job, result, readings, one)


def _slips_of(job: Job, result: Matches, readings: PointReadings, one: Round) -> Iterator[Note]:
    point = readings.point
    for item in one.duts:
        kind = job.channel(item.entry.channel).measurand.kind
        wanted = expected_si(job, point, item.entry.channel) if kind in OF_MATCH else None
        if wanted is None:
            continue
        watts = _watts(job, readings, one)
        forward = watts[0] if watts else point.target_w
        power = np.array(forward)
        rho = float(reflection_shown(kind, np.array(wanted), np.array(point.target_w)))
        # by its directivity alone: a scale that is stated loosely hides no slip
        low, high = (float(end) for end in MeterClaim(kind, job.tolerance.value, ()).shows(np.array(rho)))
        shown = float(reflection_shown(kind, np.array(item.reading.value), power))
        wide = PLAIN_U * _width(result, point.id) + PLAIN_SHARE * rho
        if low - wide <= shown <= high + wide or abs(shown - rho) < FAR:
            continue
        fitting = [
            (abs(again - rho), meant, said)
            for slip, said in _slips(job, item.entry.channel, kind, item.entry.range_id)
            if (meant := slip(item.reading.value)) is not None
            and low - wide <= (again := float(reflection_shown(kind, np.array(meant), power))) <= high + wide
        ]
        if fitting:
            _, meant, said = min(fitting)
            yield Note(
                "entry.slip", Severity.DOUBT, item.entry.slot.place,
                f"“{item.entry.raw_text}” lies outside what this meter may show here.",
                f"That is SWR {swr_of(shown)}; with {point.leg or 'this end'} it may show "
                f"{window_said((low, high))}: that looks like {said}.",
                f"Was it {plain(meant, item.reading.unit, 3)}? Type it again, or answer “checked”.",
                {"rho": shown, "low": low, "high": high},
            )  # fmt: skip


def _width(result: Matches, point_id: str) -> float:
    """Half of what the end is known to, ρ; a fifth where it isn't worked out yet."""
    found = result.of(point_id)
    return 0.05 if found is None else (found.expected_interval[1] - found.expected_interval[0]) / 2.0


Slip = Callable[[float], float | None]


def _slips(job: Job, channel: str, kind: Kind, range_id: str) -> Iterator[tuple[Slip, str]]:
    """What a reading may have been, with the slip in words."""
    if kind is Kind.SWR:
        for places in (10.0, 100.0):
            yield _over(places), "a decimal point left out"
        return
    if kind is not Kind.REFLECTED:
        return
    shows = job.indicator(channel)
    used = shows.range(range_id)
    for other in shows.ranges:
        if used is not None and other is not used:
            factor = other.full_scale / used.full_scale
            yield _times(factor), f"a reading on the arc of range {other.id}"
    for factor in (0.1, 10.0, 1e-3, 1e3):
        yield _times(factor), "a slipped decimal point" if factor in (0.1, 10.0) else "mW for W"


def _over(places: float) -> Slip:
    """An SWR without its point; none where it would be below a match."""
    return lambda value: value / places if value >= places else None


def _times(factor: float) -> Slip:
    return lambda value: value * factor


def three_numbers(job: Job, result: Matches) -> Iterator[Note]:
    """A meter's own forward, reflected and SWR don't belong together."""
    worst: tuple[float, MatchPoint, float] | None = None
    for item in result.points:
        own = from_watts(item)
        if own is None:
            continue
        limit = _own_limit(job, result, item, own)
        off = abs(own - item.shown)
        if off > TOGETHER * limit and (worst is None or off > worst[0]):
            worst = off, item, own
    if worst is not None:
        _, item, own = worst
        forward, reflected = plain(item.forward_w or 0.0, "W"), plain(item.reflected_w or 0.0, "W")
        yield Note(
            "reflection.three_numbers", Severity.DOUBT, item.point.id,
            f"Its own three numbers don't belong together {at_point(item.point)}.",
            f"{forward} forward and {reflected} reflected are SWR {swr_of(own)}; it shows {shown_said(item)}.",
            "One of them was misread, or was read at another moment; else its own arithmetic or one detector is off.",
            {"from_watts": own, "shown": item.shown},
        )  # fmt: skip


def _own_limit(job: Job, result: Matches, item: MatchPoint, own: float) -> float:
    """How far ρ of a meter's watts and ρ of its SWR may lie apart by what each can be read to."""
    rounds = result.readings_at(item.point.id).rounds
    channel = channel_of(job, item.point, Kind.REFLECTED)
    digit = max(one.reading.digit for all_of in rounds for one in all_of.duts if one.entry.channel == channel)
    below, above = reflection_limit(Kind.REFLECTED, np.array(own), np.array(digit), np.array(item.forward_w))
    return max(float(below), float(above)) + 2.0 * item.u_shown


# what the ends say together


def end_unknown(job: Job, result: Matches) -> Iterator[Note]:
    """An end of which only the nominal value is known: what it reflects may be as much as what is judged."""
    found = [
        item
        for item in result.points
        if not item.tuned
        and (end := end_part(job, item.point.hookup)).characterisation(IMPEDANCE) is None
        and end.properties.get("nominal_ohm") is not None
        and not end.properties["nominal_ohm"].u
    ]
    if found:
        worst = max(found, key=lambda item: item.expected_interval[1])
        end = end_part(job, worst.point.hookup)
        yield Note(
            "reflection.end_unknown", Severity.DOUBT, main_way(job.hookup(worst.point.hookup), job.parts)[-1].element,
            f"Nobody measured {end.label}: its nominal {end.properties['nominal_ohm'].value:g}\u2009Ω is taken.",
            f"Loads of 45 to 58\u2009Ω are met, so it may itself be {expected_said(worst)} "
            f"{at_point(worst.point)}: a null says little then.",
            "Measure it with an analyser at these frequencies (step “parts”, Alt+3), or state to what its value is "
            "known.",
            {"high": worst.expected_interval[1]},
        )  # fmt: skip


def end_part(job: Job, hookup_id: str) -> Part:
    """What ends the line of a hook-up."""
    hookup = job.hookup(hookup_id)
    return job.part(hookup.element(main_way(hookup, job.parts)[-1].element).part)


def directivity_found(job: Job, result: Matches) -> Iterator[Note]:
    """The coupler's directivity as the ends leave it, against what is claimed; said once, of the worst."""
    levels = by_level(result)
    claimed = job.tolerance.value
    poor = [item for item in levels if item.directivity_db[1] < claimed]
    if poor:
        worst = min(poor, key=lambda item: item.directivity_db[1])
        leak = leak_of(worst.directivity_db[1])
        yield Note(
            "reflection.directivity", Severity.DOUBT, worst.points[0].point.id,
            f"Its directivity is {_or_at_most(worst)} {at_point(worst.points[0].point)}, {claimed:g}\u2009dB are "
            "claimed.",
            f"{_how(worst)}; a leak of {leak:.3f} at least lets a true SWR of 1.5 show anything from "
            f"{swr_of(max(0.2 - leak, 0.0))} to {swr_of(0.2 + leak)}.",
            "Judge a match by it no closer than that; a bad connector at the null end looks the same.",
            {"directivity_db": worst.directivity_db[1], "claimed_db": claimed},
        )  # fmt: skip
        return
    known = [item for item in levels if math.isfinite(item.directivity_db[0]) and item.directivity_db[0] > 0.0]
    if known:
        worst = min(known, key=lambda item: item.directivity_db[0])
        yield Note(
            "reflection.directivity_seen", Severity.GOOD_TO_KNOW, worst.points[0].point.id,
            f"Its directivity is {_or_at_least(worst)} {at_point(worst.points[0].point)}.", f"{_how(worst)}.",
            "A better known load, and ends of both signs, bound it closer.",
            {"directivity_db": worst.directivity_db[0], "claimed_db": claimed},
        )  # fmt: skip


def _or_at_most(item: AtOneLevel) -> str:
    low, high = item.directivity_db
    return f"{directivity_said((low, high))}" if item.fitted is not None else f"at most {high:.0f}\u2009dB"


def _or_at_least(item: AtOneLevel) -> str:
    low, high = item.directivity_db
    return directivity_said((low, high)) if item.fitted is not None else f"at least {low:.0f}\u2009dB"


def _how(item: AtOneLevel) -> str:
    if item.fitted is not None:
        leak = f"{item.fitted.leak:.3f} ± {2 * item.fitted.u_leak:.3f}"
        return f"{item.fitted.ends} ends of known phase give a leak of {leak}"
    return "What it shows with a good load is its leak and that load's reflection, in phases that nobody knows"


def balance(job: Job, result: Matches) -> Iterator[Note]:
    """Turned round on a good load, forward becomes reflected: both arms should show the same wave alike."""
    found = balances(result)
    if not found:
        return
    worst = max(found, key=lambda item: abs(item.db))
    end, u = end_of(job, worst.straight), worst.expanded_u_db
    at = worst.turned.point.id
    facts: dict[str, float | str] = {"balance_db": worst.db, "expanded_u_db": u}
    straight, turned = (plain(item.forward_w or 0.0, "W") for item in (worst.straight, worst.turned))
    why = (
        f"{straight} by its forward arm, {turned} by its reflected arm: {worst.db:+.2f} ± {u:.2g}\u2009dB, if the "
        "source stayed the same."
    )
    if abs(worst.db) <= max(u, BALANCED_DB):
        yield Note(
            "reflection.balanced", Severity.GOOD_TO_KNOW, at,
            f"Turned round on {end} both arms show the same wave alike {at_point(worst.turned.point)}.", why,
            "What is left of a null is its directivity.", facts,
        )  # fmt: skip
        return
    yield Note(
        "reflection.balance", Severity.WATCH, at,
        f"Its arms differ by {abs(worst.db):.2f}\u2009dB {at_point(worst.turned.point)}.",
        f"{why} A true SWR of 2 shows as {swr_of(worst.swr_2_shows)} by that alone.",
        "Read both ways once more, so that a source that moved shows; then look at the reflected arm's diode and "
        "trimmer, or hold it against a known mismatch.", facts,
    )  # fmt: skip


BALANCED_DB = 0.2
"""Difference of both arms below which nobody would look twice: SWR 2.00 and 2.05 (Fenmist's own)."""


def flattered(job: Job, result: Matches) -> Iterator[Note]:
    """A poor end that shows much better than it is."""
    found = [
        item
        for item in result.points
        if not item.tuned
        and item.expected >= POOR
        and item.shown < item.expected - max(abs(item.interval[1] - item.error), 0.03)
    ]
    if found:
        worst = min(found, key=lambda item: item.error)
        share, really = worst.shown**2, worst.expected**2
        yield Note(
            "reflection.flatters", Severity.WATCH, worst.point.id,
            f"It makes {end_of(job, worst)} look better than it is {at_point(worst.point)}.",
            f"It shows SWR {shown_said(worst)}, {percent(share)} reflected; it is {expected_said(worst)}, "
            f"{percent(really)} reflected. Its claims allow {window_said(worst.window)}.",
            "An alarm at SWR 2 would come too late with it; in another phase the same leak shows too much.",
            {"shown": worst.shown, "expected": worst.expected},
        )  # fmt: skip


POOR = 0.2
"""ρ from which an end is no match: SWR 1.5."""


def not_set(job: Job, result: Matches) -> Iterator[Note]:
    """The meter shows the same part too little, or too much, at every end: its set control, or its scale."""
    for item in by_level(result):
        fitted = item.fitted
        if fitted is None or abs(fitted.scale - 1.0) < max(SCALE_OFF, 2.0 * fitted.u_scale):
            continue
        less = fitted.scale < 1.0
        has_set = SET_POWER in job.dut_part.properties
        cause = (
            f"It was set {percent(abs(1.0 - fitted.scale))} {'below' if less else 'above'} full scale, or not set "
            "again after the power changed"
            if has_set
            else "Its reflected arm is weaker than its forward arm, or its diode leaves its law"
        )
        yield Note(
            "reflection.scale", Severity.WATCH, item.points[0].point.id,
            f"It shows {percent(abs(1.0 - fitted.scale))} too {'little' if less else 'much'} of every reflection "
            f"{at_point(item.points[0].point)}.",
            f"{cause}: factor {fitted.scale:.3f} ± {2 * fitted.u_scale:.3f}.",
            "Set it to full scale on forward before each reading, at the power of that reading."
            if has_set
            else "Read it at a higher power, and turned round on a good load: both arms should agree.",
            {"scale": fitted.scale, "u_scale": fitted.u_scale},
        )  # fmt: skip
        return


def over_power(job: Job, result: Matches) -> Iterator[Note]:
    """SWR of a passive end doesn't depend on power: where it does, a detector's floor, heat, or arcing."""
    seen = [item for item in over_levels(result) if item.is_seen]
    if not seen:
        return
    worst = max(seen, key=lambda item: abs(item.moved))
    low, high = worst.low, worst.high
    levels = f"{level_said(low.point)} and {level_said(high.point)}"
    shown = f"SWR {shown_said(low)} and {shown_said(high)} with {end_of(job, low)}"
    nearer = abs(low.error) > abs(high.error)
    why = (
        "At the lower power it is too low: the reflected detector is near its floor there."
        if worst.moved > 0.0 and nearer
        else "It moves away from what the end is as the power rises: the end heats, or something arcs."
        if not nearer
        else "It is too high at the lower power: its forward detector is near its floor there."
    )
    yield Note(
        "reflection.power", Severity.WATCH, low.point.id,
        f"At {levels} it shows {shown} ({frequency(low.point.frequency_hz)}).", why,
        "A passive end's SWR doesn't depend on power. Trust it from the level on at which it stays the same; feel the "
        "end's connector, carrier off.",
        {"moved": worst.moved, "low_w": low.point.target_w, "high_w": high.point.target_w},
    )  # fmt: skip


def over_time(job: Job, result: Matches) -> Iterator[Note]:
    """An end whose reflection rises from round to round at one power: it heats, or something arcs."""
    found = []
    for item in (one for one in result.points if not one.tuned):
        rounds = result.readings_at(item.point.id).rounds
        each = [round_reflection(job, item.point, one, item.kind) for one in rounds]
        rise = each[-1] - each[0]
        steady = all(after >= before for before, after in pairwise(each))
        if len(each) >= ROUNDS_IN_TIME and steady and rise > max(MOVED, 2.0 * math.sqrt(2.0) * item.u_shown):
            found.append((rise, each, item))
    if found:
        rise, each, worst = max(found, key=lambda one: one[0])
        yield Note(
            "reflection.time", Severity.WATCH, worst.point.id,
            f"With {end_of(job, worst)} its SWR rises from round to round {at_point(worst.point)}: "
            f"{', '.join(map(swr_of, each))}.",
            "What a passive end reflects stays: one that rises while the carrier is on heats, or something arcs.",
            "Carrier off: feel the end and its connector. Read it again cold, at less power.",
            {"rise": rise, "rounds": float(len(each))},
        )  # fmt: skip


ROUNDS_IN_TIME = 3
"""Rounds from which a rise is one (Fenmist's own)."""


def two_meters(job: Job, result: Matches) -> Iterator[Note]:
    """Meters in series: what lies between them first, then what is left of their difference against both rings."""
    pairs = [(item, other) for item in result.points for other in item.others]
    tuned = [pair for pair in pairs if pair[1].tuner]
    plain_ = [pair for pair in pairs if not pair[1].tuner]
    apart = [pair for pair in plain_ if not pair[1].agrees_with(pair[0].ring)]
    if tuned:
        yield _tuned(job, *max(tuned, key=lambda pair: abs(pair[0].shown - pair[1].shown)))
    if apart:
        yield _disagree(job, *max(apart, key=lambda pair: abs(pair[0].shown - pair[1].shows_here)))
    elif plain_:
        yield _agree(job, *max(plain_, key=lambda pair: abs(pair[0].shown - pair[1].shown)))


def _names(job: Job, item: MatchPoint, other: OtherMeter) -> tuple[str, str]:
    hookup = job.hookup(item.point.hookup)
    return job.dut_part.label, job.part(hookup.element(other.element).part).label


def _tuned(job: Job, item: MatchPoint, other: OtherMeter) -> Note:
    first, second = _names(job, item, other)
    return Note(
        "reflection.tuner_between", Severity.GOOD_TO_KNOW, other.tuner,
        f"{first} and {second} must differ: a tuner works between them.",
        f"{first} shows SWR {swr_of(item.shown)}, the match that the tuner makes for the transmitter; {second} shows "
        f"{swr_of(other.shown)}, what lies behind it. Both can be right.",
        f"Tune for the least reflected power on {first}; judge antenna and line by {second}. Only one tuner at a time "
        "may be active: a transmitter with its own is set to bypass.",
        {"first": item.shown, "second": other.shown},
    )  # fmt: skip


def _agree(job: Job, item: MatchPoint, other: OtherMeter) -> Note:
    first, second = _names(job, item, other)
    lost = f"{other.loss_db:.2g}\u2009dB between them turn it into {swr_of(other.shows_here)} at {first}"
    return Note(
        "reflection.meters_agree", Severity.GOOD_TO_KNOW, item.point.id,
        f"{first} and {second} can both be right {at_point(item.point)}.",
        f"{second} shows SWR {swr_of(other.shown)}; {lost}, by its claims {window_said(other.carried)}. {first} shows "
        f"{swr_of(item.shown)}, by its own {window_said(item.ring)}.",
        "Two meters that agree may still be wrong together; a known end tells.",
        {"first": item.shown, "second": other.shown, "loss_db": other.loss_db},
    )  # fmt: skip


def _disagree(job: Job, item: MatchPoint, other: OtherMeter) -> Note:
    first, second = _names(job, item, other)
    end = end_of(job, item)
    right = {
        (True, True): "With that end each is inside its own window: look at what lies between them",
        (True, False): f"With {end} behind them {first} is inside its window and {second} is not",
        (False, True): f"With {end} behind them {second} is inside its window and {first} is not",
        (False, False): f"With {end} behind them neither is inside its window",
    }[item.is_inside, other.is_inside]
    return Note(
        "reflection.meters_apart", Severity.DOUBT, item.point.id,
        f"{first} and {second} can't both be right {at_point(item.point)}.",
        f"{second}'s SWR {swr_of(other.shown)} means {window_said(other.carried)} at {first}, "
        f"{other.loss_db:.2g}\u2009dB in front of it; {first} shows {swr_of(item.shown)}, which means "
        f"{window_said(item.ring)}. {right}.",
        "Choke the line: if a reading moves, current flows on its outside. Then check connectors and adapters between "
        "them, and each meter with a known end.",
        {"first": item.shown, "second": other.shown, "first_inside": float(item.is_inside),
         "second_inside": float(other.is_inside)},
    )  # fmt: skip


def forward_spoilt(job: Job, result: Matches) -> Iterator[Note]:
    """What directivity does to forward power, where it was read with a poor end."""
    leak = leak_of(job.tolerance.value)
    read = [item for item in result.points if item.forward_w is not None and not item.tuned]
    worst = max(read, key=lambda item: item.expected, default=None)
    if worst is None:
        return
    limit = (1.0 + leak * worst.expected) ** 2 - 1.0
    if limit < SPOILT:
        return
    yield Note(
        "reflection.forward", Severity.GOOD_TO_KNOW, worst.point.id,
        f"With {end_of(job, worst)} behind it its forward power may be off by ±{percent(limit)} for its directivity "
        "alone.",
        f"{job.tolerance.value:g}\u2009dB let {leak:.3f} of the reflected wave into its forward arm: "
        "(1 ± 10^(−D/20)·ρ)² − 1.",
        f"Don't take a correction of the forward scale of {job.dut_part.label} from this end: use a load of SWR 1.1 or "
        "better.",
        {"limit": limit, "rho": worst.expected},
    )  # fmt: skip
