"""What is remarked of a job about a source: the rules of any bench, and slips seen against plan and partners."""

import math
import statistics
from collections.abc import Iterator
from dataclasses import replace
from datetime import date

from fenmist.calibration.expected import power_of
from fenmist.calibration.job import Job
from fenmist.findings.note import Note, Severity
from fenmist.judgement import agreement_rules, entry_rules, run_rules
from fenmist.judgement.agreement_rules import explained
from fenmist.judgement.any_job import before_reading, narrowed, of_the_outcome, of_the_run
from fenmist.judgement.entry_rules import at_point
from fenmist.judgement.judge import Judge, Rules, all_in_order
from fenmist.procedures.output.reduction import Output
from fenmist.reading.event import AS_FOUND
from fenmist.units.display import percent, plain

OFF = 0.3
"""ln of a reading's power over the plan's, or its partners', from which it is spoken of (Fenmist's own, no source)."""


@Judge
def judge(job: Job, result: Output, as_of: date, phase: str = AS_FOUND, _found: Output | None = None) -> Rules:
    """All notes on a job on a day; see `Procedure.judge`."""
    yield from before_reading(job, as_of)
    yield from _entries(job, result, phase)
    yield from of_the_run(job, result, phase)
    yield from of_the_outcome(job, result)
    yield agreement_rules.references_agree(job, result.points)


def judge_entries(job: Job, result: Output, phase: str, point_id: str) -> tuple[Note, ...]:
    """Notes on the entries of one point: what must be said as soon as an entry is kept."""
    near = replace(result, readings=(result.readings_at(point_id),))
    return all_in_order(_entries(narrowed(job, near.readings), near, phase))


def _entries(job: Job, result: Output, phase: str) -> Rules:
    yield entry_rules.decimal_slips(job, phase)
    yield off_the_others(job, result)
    yield entry_rules.off_scale(job, phase)
    yield entry_rules.open_entries(job, phase)
    yield run_rules.doubted_entries(job, phase)


def off_the_others(job: Job, result: Output) -> Iterator[Note]:
    """A reading whose power is a known slip's factor from what its partners, or else the plan, lead to."""
    for found in result.readings:
        for one in found.rounds:
            taken = tuple(item for item in (*one.references, *one.duts) if item.power > 0.0)
            powers = [power_of(job, found.point, item.entry.channel, item.reading) for item in taken]
            for place, (item, power) in enumerate(zip(taken, powers, strict=True)):
                others = powers[:place] + powers[place + 1 :]
                against = statistics.median(others) if others else found.point.target_w
                said = "the other readings of its round" if others else "what is planned"
                ratio = power / against
                fits_plan = abs(math.log(power / found.point.target_w)) < OFF
                slip = explained(ratio)
                if abs(math.log(ratio)) < OFF or not slip or fits_plan:
                    continue
                yield Note(
                    "entry.slip", Severity.DOUBT, item.entry.slot.place,
                    f"“{item.entry.raw_text}” is {percent(ratio - 1.0, plus=True)} from {said}.",
                    f"It stands for {plain(power, 'W', 3)} {at_point(found.point)}, they for "
                    f"{plain(against, 'W', 3)}: that looks like {slip}.",
                    "Look at its range, its termination and the form it was typed in; type it again, or answer "
                    "“checked”.",
                    {"ratio": ratio, "power_w": power},
                )  # fmt: skip
