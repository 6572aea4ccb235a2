"""A job's line in the list, worked out once and kept until its record changes, so that long logs list quickly."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import msgspec

from fenmist.calibration.history import Past
from fenmist.calibration.job import Job
from fenmist.calibration.reduction import PointResult, reduce
from fenmist.judgement.headline import short_headline
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.records.store import Logbook, Summary

EDITION = "1"
"""Changes where a summary is worked out otherwise: older ones are then made again."""


@dataclass(frozen=True)
class JobSummary:
    """A job's line in the list."""

    id: str
    title: str
    device: str
    device_id: str
    serial: str
    customer: str
    created_at: str
    last_at: str
    points_read: int
    points: int
    complete: bool
    headline: str


_LINE, _PAST = msgspec.json.Decoder(JobSummary), msgspec.json.Decoder(tuple[Past, ...])


def summaries(logbook: Logbook, search: str = "") -> tuple[JobSummary, ...]:
    """The lines of all jobs that hold every word of `search`, the newest first; made anew only where stale."""
    order = refresh(logbook)
    found = logbook.summary_lines(tuple(search.lower().split()))
    return tuple(_LINE.decode(found[job]) for job in order if job in found)


def refresh(logbook: Logbook) -> tuple[str, ...]:
    """Make anew what is stale; returns all jobs, the newest first."""
    stamps, kept = logbook.job_stamps(), logbook.summary_stamps()
    stale = [job for job, stamp in stamps.items() if kept.get(job) != _stamp(stamp)]
    if stale:
        logbook.keep_summaries(_made(logbook.job(job), stamps[job]) for job in stale)
    return tuple(stamps)


def past_of(logbook: Logbook, device_id: str, serial: str, but: str = "") -> tuple[Past, ...]:
    """Errors of one meter through the years, from all its jobs but one."""
    refresh(logbook)
    found = logbook.past_of(device_id, serial)
    return tuple(past for job, text in found.items() if job != but for past in _PAST.decode(text))


def _stamp(record: str) -> str:
    return f"{EDITION}/{record}"


def _made(job: Job, stamp: str) -> Summary:
    line, past = summary(job)
    words = "\n".join(_words(job, line)).lower()
    payload, found = (msgspec.json.encode(item).decode() for item in (line, past))
    return Summary(job.id, _stamp(stamp), line.device_id, line.serial, payload, found, words)


def summary(job: Job) -> tuple[JobSummary, tuple[Past, ...]]:
    """The line of a job, and the errors it found."""
    found = reduce(job)
    left = reduce(job, AS_LEFT) if job.is_adjusted else None
    result = left if left is not None and left.points else found
    past = (*_past(job, found.points, AS_FOUND), *(_past(job, left.points, AS_LEFT) if left is not None else ()))
    device = job.dut_part
    line = JobSummary(
        job.id, job.title, device.label, device.id, device.serial, job.customer, job.created_at,
        job.events[-1].at if job.events else job.created_at, len(result.points),
        len(job.to_read), result.complete, short_headline(result),
    )  # fmt: skip
    return line, past


def present_as_past(job: Job, point: PointResult, phase: str) -> tuple[Past, ...]:
    """A point of the job in hand, to be set beside what was found before; none where it is no reference."""
    return tuple(_past(job, (point,), phase))


def _past(job: Job, points: Iterable[PointResult], phase: str) -> Iterator[Past]:
    days = {}
    for slot, event in job.standing.items():
        if slot.phase == phase:
            days[slot.point] = event.at[:10]
    for item in points:
        if item.is_reference:
            yield Past(
                days.get(item.point.id, job.created_at[:10]), item.point.frequency_hz, item.point.target_w,
                item.error_fraction, item.expanded_u_ratio, item.tolerance_w / item.reference_w, phase == AS_LEFT,
                job.id,
            )  # fmt: skip


def _words(job: Job, line: JobSummary) -> Iterator[str]:
    """Everything of a job that can be searched for."""
    yield from (line.title, line.device, line.serial, line.headline, job.customer, job.place, job.technician)
    yield from (job.conditions, job.purpose, job.created_at[:10], job.receipt.condition, job.receipt.inventory)
    for part in job.kit:
        yield from (part.label, part.serial, part.remarks)
    for look in job.receipt.looks.values():
        yield look.remark
    for event in job.events:
        if event.entry is not None:
            yield event.entry.raw_text
            yield event.entry.attached_name
        yield event.reason
        if event.answer is not None:
            yield event.answer.text
