"""Rules about the run itself: the load's heat, the machine's clock, doubted entries, faults received."""

import math
from collections.abc import Iterator

from fenmist.calibration.gather import load_of
from fenmist.calibration.job import Job
from fenmist.calibration.keydown import carrier, clock_set_back
from fenmist.calibration.outcome import Outcome
from fenmist.calibration.schedule import READING_S
from fenmist.calibration.sent import level_said
from fenmist.findings.note import Note, Severity
from fenmist.hookup.heat import heat_model
from fenmist.units.display import frequency, opening, percent
from fenmist.units.moment import text_of_moment


def heat_planned(job: Job) -> Iterator[Note]:
    """The planned key-down at a level is longer than the load bears from cold."""
    load, planned = load_of(job), job.to_read
    model = heat_model(load) if load is not None else None
    if load is None or model is None or not planned:
        return
    worst = max(planned, key=lambda p: p.target_w * p.repeats * len(p.sequence))
    seconds = READING_S * worst.repeats * len(worst.sequence)
    left = model.seconds_left(0.0, worst.target_w)
    if left >= seconds:
        return
    yield Note(
        "load.key_down", Severity.WATCH, "load",
        f"{opening(load.label)} stands {level_said(worst)} for about {_minutes(left)}, from cold.",
        f"{worst.repeats} rounds take about {_minutes(seconds)} of carrier at some {READING_S:g}\u2009s a reading.",
        "Key down for one round at a time and let it rest between them; the clock in the readings says how long.",
        {"power_w": worst.target_w, "bears_s": left, "planned_s": seconds},
    )  # fmt: skip


def heat_reached(job: Job, phase: str) -> Iterator[Note]:
    """By the record the load was warmer than its rating allows."""
    load = load_of(job)
    model = heat_model(load) if load is not None else None
    events = [e for e in job.events if e.entry is None or e.entry.slot.phase == phase]
    if load is None or model is None or not events:
        return
    keyed = carrier(job).keyings
    highest = model.highest_rise(keyed)
    if highest <= 1.0:
        return
    yield Note(
        "load.hot", Severity.WATCH, "load",
        f"By the clock {load.label} reached about {percent(highest)} of the temperature rise its rating allows.",
        "An estimate from the times of the entries, which takes the carrier for on from the first to the last entry of "
        "a point; a hot load's impedance isn't what was measured cold.",
        "Feel whether it is still warm, measure it hot in the step parts, and rest longer.",
        {"rise": math.floor(10.0 * highest) / 10.0},
    )  # fmt: skip


def clock_went_back(job: Job) -> Iterator[Note]:
    """The machine's clock was set back during the job."""
    found = list(clock_set_back(job))
    if not found:
        return
    former, event = found[0]
    yield Note(
        "clock.set_back", Severity.DOUBT, "job",
        f"The machine's clock went back from {former.at.time()} to {event.at.time()}.",
        "The order on record is the order of entry; where times decide (drift within a round) they can't be trusted.",
        "Set the clock, and read again the rounds in which it happened.",
        {"from": text_of_moment(former.at), "to": text_of_moment(event.at), "times": float(len(found))},
    )  # fmt: skip


def doubted_entries(job: Job, phase: str) -> Iterator[Note]:
    """Entries that their reader marked."""
    points = {point.id for point in job.plan}
    for slot, event in job.standing.items():
        reason = job.ledger.doubt_of(event.id)
        if reason and slot.phase == phase and slot.point in points and event.entry is not None:
            yield Note(
                "entry.doubted", Severity.DOUBT, slot.place, f"“{event.entry.raw_text}” was marked as doubtful.",
                f"Reason given: {reason}.",
                "Read it again, strike it, or answer “checked”.", {"reason": reason},
            )  # fmt: skip


def references_silent(outcome: Outcome) -> Iterator[Note]:
    """References that showed nothing, or less, in the mean of a point: they say nothing there."""
    silent = [item for item in outcome.readings if item.silent]
    if not silent:
        return
    first, others = silent[0].point, len(silent) - 1
    more = f", and at {others} more" if others else ""
    yield Note(
        "reference.shows_nothing", Severity.DOUBT, first.id,
        f"A reference shows nothing at {frequency(first.frequency_hz)}, {level_said(first)}{more}.",
        "Its readings are nothing in the mean: below its noise, or no power reaches it.",
        "Look at its feed and its zero, take less attenuation, or plan more power.",
        {"points": float(len(silent)), "readings": float(sum(item.silent for item in silent))},
    )  # fmt: skip


def received_faults(job: Job) -> Iterator[Note]:
    """What was not fine when the device came in."""
    faults = job.receipt.faults
    if faults:
        yield Note(
            "received.faults", Severity.WATCH, "dut",
            f"{opening(job.dut_part.label)} came in with {'a fault' if len(faults) == 1 else f'{len(faults)} faults'}.",
            "; ".join(faults) + ".",
            "It stands on the certificate; mend it before the readings as left, or say why not.",
            {"faults": "; ".join(faults)},
        )  # fmt: skip


def _minutes(seconds: float) -> str:
    if math.isinf(seconds):
        return "without limit"
    return f"{seconds:.0f}\u2009s" if seconds < 90 else f"{seconds / 60:.1f}\u2009min"
