"""Rules about the whole job: what its uncertainty can decide, ratings, history, and the usual cautions.

They are said once at the job, not at every entry.
"""

import math
from collections.abc import Iterator, Sequence
from datetime import date

import numpy as np

from fenmist.calibration.job import Channel, Job
from fenmist.calibration.levels import planned_levels
from fenmist.calibration.outcome import Outcome, Stated
from fenmist.calibration.schedule import schedule
from fenmist.findings.note import Note, Severity
from fenmist.hookup.levels import LevelPlan, Overload
from fenmist.judgement.bench_rules import history_of
from fenmist.judgement.headroom_rules import rf_voltage
from fenmist.kit.part import UNKNOWN_SHARE, PartKind
from fenmist.kit.spectext import said_term
from fenmist.kit.stated import Shown, limits
from fenmist.uncertainty.estimate import BudgetRow
from fenmist.units.display import frequency, opening, percent, plain, uncertainty
from fenmist.units.letters import printable, unprintable

TUR_WANTED = 4.0
"""Tolerance over uncertainty below which it is said aloud (common practice, no source)."""


def highest_level(job: Job) -> LevelPlan | None:
    """Levels of the hook-up that is read at the highest power planned, or none while nothing is planned."""
    levels = planned_levels(job).get(job.stated.plane.hookup)
    return levels.highest if levels else None


def tur_note(result: Outcome, wanted: float = TUR_WANTED) -> Iterator[Note]:
    """The uncertainty is more than a quarter of the tolerance, or larger than it."""
    low = [(item.decision.tur, item) for item in result.stated if item.decision and item.decision.tur < wanted]
    if not low:
        return
    tur, worst = min(low, key=lambda pair: pair[0])
    lines = result.budget(worst.point.id)
    largest = lines[0]
    undecided = tur < 1.0
    count = f"{len(low)} of {len(result.stated)} points"
    beyond = sum(each < 1.0 for each, _ in low)
    what = (
        f"The uncertainty is larger than the tolerance at {beyond} of {len(result.stated)} points."
        if undecided
        else f"The tolerance is less than {wanted:g} times the uncertainty at {count}."
    )
    yield Note(
        "tur.low", Severity.DOUBT if undecided else Severity.WATCH, "job", what,
        f"At worst ±{plain(worst.tolerance, worst.unit, 3)} is judged with U = "
        f"{uncertainty(worst.expanded_u, worst.unit)}: "
        f"{plain(tur, '', 2)} to 1. An error near the limit can't be told from one inside it.",
        f"Improve the largest contribution first: {largest.influence.label}, {percent(largest.share)} of the variance.",
        {"tur": tur, "points": float(len(low)), "largest": largest.influence.id},
    )  # fmt: skip


def accuracy_not_evaluated(job: Job) -> Iterator[Note]:
    """A term of the reference's stated accuracy is a share of something that nobody knows here."""
    for channel in job.channels:
        if not job.is_device(channel.id) and not channel.beside:
            yield from _not_evaluated(job, channel)


def _not_evaluated(job: Job, channel: Channel) -> Iterator[Note]:
    indicator = job.indicator(channel.id)
    shown = Shown(np.ones(1), np.ones(1), np.ones(1) if indicator.ranges else None)
    unknown = [item.term for item in limits(indicator.spec, shown) if not item.evaluated]
    if not unknown:
        return
    part = job.part_read(channel.id)
    said = " + ".join(said_term(term) for term in unknown)
    yield Note(
        "spec.not_evaluated", Severity.DOUBT, channel.element,
        f"{opening(part.label)} is stated to {said}, and no range of it is known.",
        f"±{percent(UNKNOWN_SHARE)} of the reading is taken instead, as for an unknown accuracy: it is in the budget.",
        "State its accuracy as a share of reading, or in volts on the setting used.",
        {"terms": said, "taken": UNKNOWN_SHARE},
    )  # fmt: skip


def letters_on_paper(job: Job) -> Iterator[Note]:
    """Something that stands on paper holds a sign that no shipped face has, or one that shows nothing."""
    texts = {
        "title": job.title, "customer": job.customer, "place": job.place, "technician": job.technician,
        "conditions": job.conditions, "inventory": job.receipt.inventory, "condition": job.receipt.condition,
        **{f"name of {printable(part.label)}": part.label for part in job.kit},
        **{f"serial of {printable(part.label)}": part.serial for part in job.kit},
    }  # fmt: skip
    found = {where: codes for where, text in texts.items() if (codes := unprintable(text))}
    if not found:
        return
    codes = tuple(dict.fromkeys(code for own in found.values() for code in own))
    first = ", ".join(codes[:4]) + (" and more" if len(codes) > 4 else "")
    yield Note(
        "paper.letters", Severity.WATCH, "job",
        f"Paper shows {first} as a code, not as a sign.",
        f"No face that ships with Fenmist has a shape for it ({', '.join(list(found)[:3])}); controls, and signs that "
        "turn the direction of writing, are always shown so.",
        "Write it with other letters where the reader would not know what is meant.",
        {"codes": " ".join(codes), "where": ", ".join(found)},
    )  # fmt: skip


def engine_note(result: Outcome) -> Iterator[Note]:
    """Monte Carlo took over somewhere, said once."""
    drawn = [item for item in result.stated if item.engine != "linear"]
    if not drawn:
        return
    widest = max(drawn, key=lambda item: item.expanded_u_share)
    low, high = widest.interval
    yield Note(
        "uncertainty.drawn", Severity.GOOD_TO_KNOW, "job",
        f"At {len(drawn)} of {len(result.stated)} points the uncertainty was found by Monte Carlo.",
        "The linear picture doesn't hold there: the result bends within its uncertainty, or nothing lies within it. "
        f"The error of the widest lies from {plain(low, widest.unit, 3)} to {plain(high, widest.unit, 3)}.",
        "More rounds, or a better known load, usually make it small enough to be linear again.",
        {"points": float(len(drawn)), "u_ratio": widest.expanded_u_share},
    )  # fmt: skip


def overload_notes(job: Job) -> Iterator[Note]:
    """Parts that the plan puts over their rating, on any hook-up and at any frequency."""
    for hookup_id, levels in planned_levels(job).items():
        hookup = job.hookup(hookup_id)
        for f, over in levels.overloads:
            label = job.part(hookup.element(over.element).part).label
            unit, word, power = ("W", "", 1) if over.what == "power" else ("V", " peak", 2)
            inside = f", {over.component}" if over.component else ""
            top = float(levels.power_w[levels.lines.frequency_hz == f].max())
            bearable = top * (over.limit / over.planned) ** power
            severity, why = _how_bad(job, hookup_id, f, over)
            yield Note(
                "part.over_rating", severity, over.element,
                f"{opening(label)}{inside}: {plain(over.planned, unit, 3)}{word} planned, rated "
                f"{plain(over.limit, unit, 3)}"
                f"{word} at {frequency(f)}.",
                why or f"The plan goes up to {plain(top, 'W')} at the stated plane.",
                f"Plan no more than {plain(bearable, 'W', 2)}, or use a part with a higher rating.",
                {"planned": over.planned, "limit": over.limit, "what": over.what, "hookup": hookup_id},
            )  # fmt: skip


WARMS = (
    PartKind.LOAD, PartKind.MISMATCH, PartKind.ATTENUATOR, PartKind.JUMPER, PartKind.CABLE, PartKind.ADAPTER,
    PartKind.TAP, PartKind.COUPLER, PartKind.TUNER, PartKind.INLINE_METER, PartKind.SWR_METER, PartKind.HOME_BUILT,
)  # fmt: skip
"""Kinds that too much power heats, in minutes; others it destroys at once."""

WARM_TIMES = 1.25
"""Rating beyond which heat is no longer a matter of minutes (common practice, no source)."""


def _how_bad(job: Job, hookup_id: str, frequency_hz: float, over: Overload) -> tuple[Severity, str]:
    """By how far a part is over its rating, and what that would do to it."""
    if over.is_marginal:
        return Severity.WATCH, "That is at its rating, as far as a plan is known: levels are set to some 5\u2009%."
    short = _short_time(job, hookup_id, frequency_hz, over)
    if short:
        return Severity.WATCH, short
    kind = job.part(job.hookup(hookup_id).element(over.element).part).kind
    if over.what == "power" and kind in WARMS and over.times <= WARM_TIMES:
        hot = f"{percent(over.times - 1.0)} too much heats it beyond its rating: its value drifts, then it burns"
        return Severity.DOUBT, f"{hot}. Key it for seconds, let it cool, or plan less."
    return Severity.STOP, ""


def _short_time(job: Job, hookup_id: str, frequency_hz: float, over: Overload) -> str:
    """What is said where a part bears the power for a planned round, though not for ever; nothing where it doesn't."""
    stated = job.part(job.hookup(hookup_id).element(over.element).part).properties
    power, seconds = stated.get("short_power_w"), stated.get("short_s")
    if power is None or seconds is None or over.what != "power" or over.component or over.planned > power.value:
        return ""
    rounds = [item for item in schedule(job).stints if item.point.frequency_hz == frequency_hz]
    longest = max((item.key_down_s for item in rounds), default=0.0)
    if longest > seconds.value:
        return ""
    return (
        f"Its rating allows {seconds.value:g} s; a round takes {longest:.0f} s of carrier. It has to cool in between."
    )


def voltage_caution(job: Job) -> Iterator[Note]:
    """RF volts that burn, on the hook-up that is read."""
    plan = highest_level(job)
    if plan is not None:
        yield from rf_voltage(plan)


def reference_history(job: Job, as_of: date) -> Iterator[Note]:
    """A reference was never compared with anything, or is overdue on the day `as_of`."""
    named = set()
    for channel in job.channels:
        part = job.part_read(channel.id)
        if job.is_reference(channel.id) and part.id not in named:
            named.add(part.id)
            yield from history_of(part, channel.element, as_of)


def improvement(result: Outcome, point: Stated | None) -> str:
    """What to improve next at a point, in words: the largest line of its budget."""
    return "" if point is None else improvement_of(result.budget(point.point.id), point.expanded_u, point.unit)


def improvement_of(budget: Sequence[BudgetRow], expanded_u: float, unit: str) -> str:
    """What to improve next, in words: the largest line of a budget, and what would be left without it."""
    if not budget or expanded_u <= 0:
        return ""
    largest = budget[0]
    without = expanded_u * math.sqrt(max(1.0 - largest.share, 0.0))
    return (
        f"Improve next: {largest.influence.label}. It accounts for {percent(largest.share)} of the variance; "
        f"without it U would be {uncertainty(without, unit)} instead of {uncertainty(expanded_u, unit)}."
    )
