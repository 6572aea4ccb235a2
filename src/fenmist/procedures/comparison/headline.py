"""The sentences of a comparison: how far off the device is, seen through the uncertainty."""

from fenmist.calibration.decision import Verdict, Zone
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.outcome import Stated
from fenmist.judgement.headline import nothing_in_hand, other_u, remaining, to_plug, tolerance_shown
from fenmist.procedures.comparison.reduction import PointResult, Result
from fenmist.reading.event import AS_FOUND
from fenmist.units.display import THIN, count_of, decimals_for, frequency, opening, plain, rounded, uncertainty


def error_shown(point: PointResult) -> str:
    """ "0.41 dB low", to the place that U supports."""
    if point.shows_nothing:
        return "nothing"
    low, high = point.error_db_interval
    decimals = max(decimals_for((high - low) / 2.0), 0)
    size = rounded(abs(point.error_db), decimals)
    if float(size) == 0.0:
        return "right, as far as can be seen"
    return f"{size}{THIN}dB {'low' if point.error_db < 0 else 'high'}"


def readings_headline(job: Job, result: Result, point: PlanPoint | None) -> str:
    """The running answer at the present point."""
    if point is None or not job.to_read:
        return nothing_in_hand(job, result, point is not None)
    found = result.of(point.id)
    name = job.dut_part.label
    if plug := to_plug(job, point):
        return plug
    if not any(job.is_device(item) for item in point.sequence):
        return f"Read {_references(job, point)}: {name} takes the place of the first in its turn."
    if found is None and job.legs:
        return f"Read {_references(job, point)}, then {name}: the error appears once each visit was read."
    if found is None:
        both = "both" if len(job.references_of(point)) == 1 else "all"
        return f"Read {_references(job, point)}, then {name}: the error appears once {both} are entered."
    return f"At {frequency(point.frequency_hz)} {name} reads {error_shown(found)} so far: {_zone(job, found.stated)}."


def _references(job: Job, point: PlanPoint) -> str:
    """Names of what a point is read with, beside the device."""
    names = [job.part_read(name).label for name in job.references_of(point)]
    return " and ".join((", ".join(names[:-1]), names[-1])) if len(names) > 1 else "".join(names)


def _zone(job: Job, point: Stated) -> str:
    within = tolerance_shown(job)
    if not point.usable or point.decision is None:
        return "what it is compared with is no reference here, so nothing is decided"
    if point.decision.verdict is Verdict.CANNOT_DECIDE:
        return f"with U = {uncertainty(point.expanded_u, point.unit)} this hook-up cannot decide {within}"
    texts = {
        Zone.INSIDE: f"inside its {within}",
        Zone.INSIDE_WITHIN: f"inside its {within}, but by less than the uncertainty",
        Zone.OUTSIDE_WITHIN: f"outside its {within}, but by less than the uncertainty",
        Zone.OUTSIDE: f"outside its {within} by more than the uncertainty",
    }
    return texts[point.decision.zone]


def what_if_sentence(job: Job, before: Stated, after: Stated) -> str:
    """What another uncertainty would make of U and of what can be said."""
    u = other_u(before.expanded_u, after.expanded_u, before.unit)
    then, now = _zone(job, after), _zone(job, before)
    said = f"then it is {then}" if then != now else f"it stays {now}"
    return f"What if: {u}; {said}. None of this is kept."


def results_headline(job: Job, result: Result, phase: str = AS_FOUND) -> str:
    """The answer of the job: the worst point, or what can't be said."""
    name = opening(job.dut_part.label) if phase == AS_FOUND else f"As left, {job.dut_part.label}"
    if not result.points:
        return f"{_missing_readings(result)} before there is an error to state."
    rejected = [item for item in result.points if item.decision.verdict is Verdict.REJECT]
    undecided = [item for item in result.points if item.decision.verdict is Verdict.CANNOT_DECIDE]
    ending = "" if result.complete else f" {remaining(result)}"
    if rejected:
        worst = max(rejected, key=lambda item: item.stated.tolerance_used)
        more = (
            f", and outside at {count_of(len(rejected) - 1, 'other point', 'other points')}"
            if len(rejected) > 1
            else ""
        )
        where = frequency(worst.point.frequency_hz)
        return f"{name} reads {error_shown(worst)} at {where}, {_zone(job, worst.stated)}{more}.{ending}"
    if undecided:
        worst = min(undecided, key=lambda item: item.decision.tur)
        where = f"at {len(undecided)} of {len(result.points)} points" if len(result.points) > 1 else "here"
        return (
            f"{'This' if phase == AS_FOUND else 'As left, this'} hook-up cannot decide "
            f"{tolerance_shown(job)} {where}: U is "
            f"{uncertainty(worst.expanded_u_w, 'W')} against {plain(worst.tolerance_w, 'W', 3)}.{ending}"
        )
    worst = max(result.points, key=lambda item: item.stated.tolerance_used)
    many = len(result.points)
    points = "at the one point read" if many == 1 else "at both points" if many == 2 else f"at all {many} points"
    return (
        f"{name} is inside its {tolerance_shown(job)} {points}; at worst it reads {error_shown(worst)} "
        f"at {frequency(worst.point.frequency_hz)}.{ending}"
    )


def short_headline(result: Result) -> str:
    """The answer in a few words, for lists."""
    if not result.points:
        return "nothing read yet"
    worst = max(result.points, key=lambda item: item.stated.tolerance_used)
    verdicts = [str(item.decision.verdict) for item in result.points]
    said = ", ".join(f"{verdict} {verdicts.count(verdict)}" for verdict in dict.fromkeys(verdicts))
    return f"{error_shown(worst)} at {frequency(worst.point.frequency_hz)}; {said}"


def _missing_readings(result: Result) -> str:
    if not result.readings:
        return "Points must be planned"
    return f"{count_of(result.missing_readings, 'reading is', 'readings are').capitalize()} missing"
