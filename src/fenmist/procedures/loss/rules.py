"""What is remarked of a job about a loss: the rules of any bench, and what a ratio of ratios shows of itself."""

import math
from collections.abc import Iterator
from dataclasses import replace
from datetime import date

from fenmist.calibration.job import Job
from fenmist.findings.note import Note, Severity
from fenmist.hookup.line import main_way
from fenmist.judgement import entry_rules, run_rules
from fenmist.judgement.any_job import before_reading, narrowed, of_the_outcome, of_the_run
from fenmist.judgement.entry_rules import at_point
from fenmist.judgement.judge import Judge, Rules, all_in_order, but
from fenmist.kit.network import SOURCE_SWR
from fenmist.procedures.loss.bench import is_through
from fenmist.procedures.loss.headline import leave_in
from fenmist.procedures.loss.reduction import Losses, LossPoint
from fenmist.reading.event import AS_FOUND
from fenmist.units.display import opening

GAIN_U = 1.0
"""Expanded uncertainties below nothing from which a loss is a contradiction rather than chance (GUM coverage)."""

RATIO_DB = 1.5
"""Difference of both instruments without the part, from which it is spoken of (Fenmist's own, no source)."""


SOURCE_SHARE = 0.1
"""Share of the variance from which a source's own match is spoken of (Fenmist's own)."""

CANCELS = ("load.unknown_here", "load.phase_unknown", "load.not_nominal", "reference.history")
"""What a ratio of ratios doesn't lean on: the end of the line, and how true each instrument is."""


@Judge
def judge(job: Job, result: Losses, as_of: date, phase: str = AS_FOUND, _found: Losses | None = None) -> Rules:
    """All notes on a job on a day; see `Procedure.judge`."""
    yield from but(before_reading(job, as_of), CANCELS)
    yield from _entries(job, phase)
    yield from of_the_run(job, result, phase)
    yield from of_the_outcome(job, result)
    yield from _patterns(job, result)


def judge_entries(job: Job, result: Losses, phase: str, point_id: str) -> tuple[Note, ...]:
    """Notes on the entries of one point: what must be said as soon as an entry is kept."""
    near = replace(result, readings=(result.readings_at(point_id),), points=())
    return all_in_order(_entries(narrowed(job, near.readings), phase))


def _entries(job: Job, phase: str) -> Rules:
    yield entry_rules.decimal_slips(job, phase)
    yield entry_rules.off_scale(job, phase)
    yield entry_rules.open_entries(job, phase)
    yield run_rules.doubted_entries(job, phase)


def _patterns(job: Job, result: Losses) -> Rules:
    yield gain(job, result)
    yield unlike(result)
    yield exchanged(result)
    yield source_unwatched(job, result)
    yield source_match(job, result)
    yield unseen(job, result)
    yield match_unknown(job, result)


def gain(job: Job, result: Losses) -> Iterator[Note]:
    """A passive part can't give more than it gets: a loss below nothing by more than U."""
    found = [item for item in result.points if item.loss_db < -GAIN_U * item.expanded_u_db]
    if found:
        worst = min(found, key=lambda item: item.loss_db / max(item.expanded_u_db, 1e-12))
        yield Note(
            "loss.gain", Severity.DOUBT, worst.point.id,
            f"{opening(job.dut_part.label)} seems to give more than it gets {at_point(worst.point)}.",
            f"{worst.loss_db:.3f} ± {worst.expanded_u_db:.3f}\u2009dB: no passive part does.",
            "Look for readings of with and without exchanged, a range changed between the visits, a loose connector.",
            {"loss_db": worst.loss_db, "u_db": worst.expanded_u_db},
        )  # fmt: skip


def unlike(result: Losses) -> Iterator[Note]:
    """Both instruments say different powers without the part in between."""
    off = [(abs(10.0 * math.log10(item.ratio)), item.ratio, item.point) for item in result.points if item.ratio]
    found = [one for one in off if one[0] > RATIO_DB]
    if found:
        apart, ratio, point = max(found, key=lambda one: one[0])
        yield Note(
            "loss.ratio", Severity.WATCH, point.id,
            f"Without the part both instruments lie {apart:.1f}\u2009dB apart {at_point(point)}.",
            "The ratio takes it out; but one of them may be on another range, behind another pad, or wrongly "
            "terminated, and then it may not stay the same.",
            "Look at both instruments' ranges and pads before going on.", {"ratio": ratio},
        )  # fmt: skip


def exchanged(result: Losses) -> Iterator[Note]:
    """With both instruments exchanged another loss came out, by more than U."""
    found = [(item.apart[0], item.apart[1], item) for item in result.points if item.apart]
    found = [one for one in found if abs(one[0]) > one[1]]
    if found:
        apart, u, worst = max(found, key=lambda one: abs(one[0]) / max(one[1], 1e-12))
        yield Note(
            "loss.exchanged", Severity.DOUBT, worst.point.id,
            f"With both instruments exchanged another loss comes out {at_point(worst.point)}.",
            f"{apart:+.3f}\u2009dB, U = {u:.2g}\u2009dB: more than matches, scatter and last digits allow.",
            "Look for a connection that wasn't made alike, a range that was changed, a part that loses more one way.",
            {"apart_db": apart, "expanded_u_db": u},
        )  # fmt: skip


def source_unwatched(job: Job, result: Losses) -> Iterator[Note]:
    """One instrument alone: nothing tells what the source did between the visits but reading it again."""
    without = {leg.id for leg in job.visits if not is_through(job, leg.hookup)}
    if not result.points or any(item.ratio for item in result.points):
        return
    read = {(item.point.group, item.point.leg) for item in result.read if item.point.leg in without}
    once = [item for item in result.points if sum(group == item.point.group for group, _ in read) < 2]
    if once:
        where = at_point(once[0].point) if len(once) == 1 else f"at {len(once)} points"
        yield Note(
            "loss.source_unwatched", Severity.DOUBT, once[0].point.id,
            f"Nothing tells what the source did between the visits {where}.",
            "One instrument is all that is read: a carrier that fell by 5\u2009% looks like a loss of 0.2\u2009dB.",
            "Read it without the part again at the end.", {"points": float(len(once))},
        )  # fmt: skip


def source_match(job: Job, result: Losses) -> Iterator[Note]:
    """One instrument alone behind a source whose match nobody stated, with less than 10 dB between."""
    source = job.part(job.bench.element(main_way(job.bench, job.parts)[0].element).part)
    if not result.points or any(item.ratio for item in result.points) or "swr" in source.properties:
        return
    facing = (row for row in result.budget(result.points[0].point.id) if row.influence.source_id == source.id)
    share = sum(row.share for row in facing if "~" in row.influence.id)
    if share > SOURCE_SHARE:
        yield Note(
            "loss.source_match", Severity.WATCH, "source",
            f"What {source.label} reflects makes {100.0 * share:.0f}\u2009% of the uncertainty, and nobody states it.",
            f"An SWR of up to {SOURCE_SWR:g} is taken for it; with the part and without it it faces something else.",
            "Put 10\u2009dB or more of pad behind it, or read a second instrument in front of the part.",
            {"share": share},
        )  # fmt: skip


def unseen(job: Job, result: Losses) -> Iterator[Note]:
    """Losses smaller than what these benches can see, said once with what staying in line costs."""
    found = [item for item in result.points if not item.is_seen]
    if not found:
        return
    worst = max(found, key=lambda item: item.bound_db)
    where = at_point(worst.point) if len(found) == 1 else f"at {len(found)} points"
    yield Note(
        "loss.unseen", Severity.GOOD_TO_KNOW, worst.point.id,
        f"What {job.dut_part.label} loses can't be seen {where}: less than {worst.bound_db:.2g}\u2009dB.",
        f"{worst.loss_db:+.3f}\u2009dB came out, with U = {worst.expanded_u_db:.2g}\u2009dB: only the bound is a fact "
        "(95 %, one-sided). The value as it came out stays on record.",
        leave_in(worst), {"bound_db": worst.bound_db, "loss_db": worst.loss_db},
    )  # fmt: skip


def match_unknown(job: Job, result: Losses) -> Iterator[Note]:
    """Nothing is stated of the part's match: what it makes of its neighbours isn't in the budget."""
    part = job.dut_part
    if result.points and "swr" not in part.properties and not part.characterisations:
        largest: LossPoint = max(result.points, key=lambda item: item.loss_db)
        yield Note(
            "loss.match", Severity.WATCH, job.bench.stated.element,
            f"Nothing is stated of the match of {part.label}.",
            "The loss holds in the match it was measured in; what its own reflection makes of its neighbours, ±2·ρ1·ρ2 "
            "of power for each pair, isn't in U.",
            "Type its SWR in the kit, or measure its S-parameters.", {"loss_db": largest.loss_db},
        )  # fmt: skip
