"""The sentences of a job about a source: what it gives, and whether what it says of itself is true."""

from fenmist.calibration.decision import Verdict, Zone
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.outcome import Stated
from fenmist.judgement.headline import nothing_in_hand, other_u, remaining, tolerance_shown
from fenmist.procedures.output.reduction import Claim, Output, OutputPoint
from fenmist.reading.event import AS_FOUND
from fenmist.units.display import (
    count_of,
    frequency,
    level_with_uncertainty,
    opening,
    percent,
    plain,
    uncertainty,
    with_uncertainty,
)

_ZONES = {
    Zone.INSIDE: "inside its {}", Zone.INSIDE_WITHIN: "inside its {}, but by less than the uncertainty",
    Zone.OUTSIDE_WITHIN: "outside its {}, but by less than the uncertainty",
    Zone.OUTSIDE: "outside its {} by more than the uncertainty",
}  # fmt: skip


def gives(item: OutputPoint) -> str:
    """ "96.4 ± 3.1 W (49.84 ± 0.14 dBm)"."""
    shown = with_uncertainty(item.power_w, item.expanded_u_w, "W")
    return f"{shown} ({level_with_uncertainty(item.power_w, item.expanded_u_w)})"


def claim_said(job: Job, claim: Claim, usable: bool = True) -> str:
    """ "its own meter shows 100 W, 3.6 W too much: inside its ±10 %"."""
    name = job.indicator(claim.channel).label
    own = name if name.startswith("its ") else f"its {name}"
    shown = uncertainty(abs(claim.error_w), "W") if claim.error_w else "0\u2009W"
    off = f"{plain(abs(claim.error_w), 'W', 2)} too {'much' if claim.error_w > 0 else 'little'}"
    off = off if abs(claim.error_w) > 0.1 * claim.expanded_u_w else f"right within {shown}"
    if not usable:
        return f"{own} says {plain(claim.claimed_w, 'W')}, {off}; nothing here may judge that"
    if claim.decision.verdict is Verdict.CANNOT_DECIDE:
        return f"{own} says {plain(claim.claimed_w, 'W')}, {off}; this bench cannot decide {tolerance_shown(job)}"
    return (
        f"{own} says {plain(claim.claimed_w, 'W')}, {off}: {_ZONES[claim.decision.zone].format(tolerance_shown(job))}"
    )


def readings_headline(job: Job, result: Output, point: PlanPoint | None) -> str:
    """The running answer at the present point."""
    if point is None or not job.to_read:
        return nothing_in_hand(job, result, point is not None)
    found = result.of(point.id)
    name = job.dut_part.label
    if found is None:
        return f"Read {_names(job, point)}: the power appears once all are entered."
    return f"At {frequency(point.frequency_hz)} {name} gives {gives(found)} so far."


def _names(job: Job, point: PlanPoint) -> str:
    names = [
        job.indicator(name).label if job.is_device(name) else job.part_read(name).label
        for name in dict.fromkeys(point.sequence)
    ]
    return " and ".join((", ".join(names[:-1]), names[-1])) if len(names) > 1 else "".join(names)


def what_if_sentence(_job: Job, before: Stated, after: Stated) -> str:
    """What another uncertainty would make of U."""
    return f"What if: {other_u(before.expanded_u, after.expanded_u, before.unit)}. None of this is kept."


def results_headline(job: Job, result: Output, phase: str = AS_FOUND) -> str:
    """The answer of the job."""
    name = opening(job.dut_part.label) if phase == AS_FOUND else f"As left, {job.dut_part.label}"
    if not result.points:
        if not result.readings:
            return "Points must be planned before there is a power to state."
        missing = count_of(result.missing_readings, "reading is", "readings are").capitalize()
        return f"{missing} missing before there is a power to state."
    ending = "" if result.complete else f" {remaining(result)}"
    worst = result.worst
    item = (result.of(worst.point.id) if worst else None) or result.points[0]
    claim = f"; {claim_said(job, item.claims[0], item.is_reference)}" if item.claims else ""
    if len(result.points) == 1:
        return f"{name} gives {gives(item)} at {frequency(item.point.frequency_hz)}{claim}.{ending}"
    powers = sorted(result.points, key=lambda one: one.power_w)
    span = f"{plain(powers[0].power_w, 'W', 3)} to {plain(powers[-1].power_w, 'W', 3)}"
    known = max(one.expanded_u_w / one.power_w for one in result.points)
    where = f"; at {frequency(item.point.frequency_hz)} {claim[2:]}" if claim else ""
    return f"{name} gives {span} over {len(result.points)} points, known to ±{percent(known)} at worst{where}.{ending}"


def short_headline(result: Output) -> str:
    """The answer in a few words, for lists."""
    if not result.points:
        return "nothing read yet"
    first = result.points[0]
    said = f"{with_uncertainty(first.power_w, first.expanded_u_w, 'W')} at {frequency(first.point.frequency_hz)}"
    verdicts = [str(item.decision.verdict) for item in result.stated if item.decision is not None]
    counts = ", ".join(f"{verdict} {verdicts.count(verdict)}" for verdict in dict.fromkeys(verdicts))
    return f"{said}; {counts}" if counts else said
