"""The sentences of a job about what is wrong, and what runs along while it is read."""

from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.outcome import Stated
from fenmist.calibration.series import series_at
from fenmist.judgement.entry_rules import reading_shown
from fenmist.judgement.headline import nothing_in_hand, other_u
from fenmist.methods.triage import odds_said
from fenmist.procedures.arriving import arrivals as drawn
from fenmist.procedures.page import Arrivals, Figures
from fenmist.procedures.triage.reduction import Triage
from fenmist.reading.event import AS_FOUND, Entry
from fenmist.units.display import count_of, plain
from fenmist.waveform.series import Series


def readings_headline(job: Job, result: Triage, point: PlanPoint | None) -> str:
    """The running answer at the present point."""
    if point is None or not job.to_read:
        return nothing_in_hand(job, result, point is not None)
    answer = result.answers.get(point.frequency_hz)
    if answer is not None and result.readings_at(point.id).rounds:
        return answer.headline
    names = [job.part_read(name).label for name in dict.fromkeys(point.sequence)]
    return f"Sighted into {point.leg}, {plain(point.target_w, 'W')} set: read {' and '.join(dict.fromkeys(names))}."


def what_if_sentence(_job: Job, before: Stated, after: Stated) -> str:
    """What another uncertainty would make of U."""
    return f"What if: {other_u(before.expanded_u, after.expanded_u, before.unit)}. None of this is kept."


def results_headline(_job: Job, result: Triage, _phase: str = AS_FOUND) -> str:
    """The answer of the job."""
    if result.answer is not None:
        return result.answer.headline
    if not result.readings:
        return "Points must be planned before anything can be told."
    missing = count_of(result.missing_readings, "reading is", "readings are").capitalize()
    return f"{missing} missing before anything can be told."


def short_headline(result: Triage) -> str:
    """The answer in a few words, for lists."""
    if result.answer is None:
        return "nothing read yet"
    first = result.answer.suspects[0]
    return f"{first.what} ({odds_said(first.odds)})"


def figures(result: Triage, point_id: str) -> Figures:
    """The likeliest suspect with its odds; dashes where there is none yet."""
    none, point = Figures.NOTHING, result.job.point(point_id)
    answer = result.answers.get(point.frequency_hz)
    if answer is None:
        return Figures("likeliest so far", none, none, none, "odds", none, none)
    first, second = answer.suspects[:2]
    return Figures(
        "likeliest so far", odds_said(first.odds), first.what, odds_said(second.odds), second.what, none, none
    )


def entry_text(_result: Triage, entry: Entry) -> str:
    """An entry as it is listed."""
    return reading_shown(entry.reading) if entry.reading else ""


def series(result: Triage, point_id: str) -> tuple[Series, ...]:
    """What was read at a point against time, at the planned power."""
    return series_at(result.readings_at(point_id), result.job.point(point_id).target_w)


def arrivals(result: Triage, point_id: str) -> Arrivals | None:
    """What arrives of what is set at all sightings of a point's frequency; none where nothing was read."""
    f = result.job.point(point_id).frequency_hz
    answer = result.answers.get(f)
    if answer is None:
        return None
    return drawn(((item.found.point.leg, item.sighting) for item in result.seen_at(f)), answer)
