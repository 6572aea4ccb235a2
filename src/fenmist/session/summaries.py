"""A job's line in the list, worked out once and kept until its record changes, so that long logs list quickly."""

import math
import time
from collections.abc import Container, Iterable, Iterator, Sequence
from typing import TYPE_CHECKING

import msgspec

from fenmist.calibration.history import Column, Past, Row
from fenmist.errors import FenmistError, RecordError, UnworkableJobError
from fenmist.frozen import dataclass
from fenmist.procedures.table import procedure_of
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.records.store import Logbook, Summary, Worked
from fenmist.session.workable import working_out
from fenmist.session.worked import as_kept, outcome_of, program
from fenmist.units.moment import day_of

if TYPE_CHECKING:
    from fenmist.calibration.job import Job
    from fenmist.calibration.outcome import Outcome, Stated

EDITION = "5"
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
    began_on: str
    last_on: str
    points_read: int
    points: int
    complete: bool
    headline: str
    trouble: str = ""  # why it can't be read or worked out, where it can't
    question: str = ""  # what it asks; nothing of a line that was made before that was kept
    next_due: str = ""  # as put on its page


_LINE = msgspec.json.Decoder(JobSummary)
_PAST = msgspec.json.Decoder(tuple[Past, ...], dec_hook=lambda _, text: Column.of_kept(text))


class Listing:
    """The lines of a logbook's jobs. What is stale is made anew piece by piece, so that a window needn't wait for it.

    A job that can't be read or worked out has a line that says why; it never keeps the others from the list.
    """

    def __init__(self, logbook: Logbook) -> None:
        self._logbook = logbook
        self._unkept: dict[str, Summary] = {}  # for which there was no room on the disk

    def catch_up(self, seconds: float = math.inf, among: Container[str] | None = None) -> int:
        """Make lines anew until none is stale or the time is up, one at least; returns how many are left.

        Of all jobs, or among some and those that have no line yet.
        """
        kept = self._logbook.summary_stamps() | {job: item.stamp for job, item in self._unkept.items()}
        worked = self._logbook.worked_stamps()

        def is_stale(job: str, stamp: str) -> bool:
            return kept.get(job) != _stamp(stamp) or (worked.get(job) != _of(stamp) and job not in self._unkept)

        stale = [
            (job, stamp)
            for job, stamp in self._logbook.job_stamps().items()
            if is_stale(job, stamp) and (among is None or job in among or job not in kept)
        ]
        made: list[tuple[Summary, Worked]] = []
        ends = time.monotonic() + seconds
        for job, stamp in stale:
            made.append(_made(self._logbook, job, stamp))
            if time.monotonic() >= ends:
                break
        if made:
            self._keep(made)
        return len(stale) - len(made)

    def _keep(self, made: Sequence[tuple[Summary, Worked]]) -> None:
        lines = [line for line, _ in made]
        try:
            self._logbook.keep_summaries(lines, [worked for _, worked in made])
        except RecordError:  # they are shown all the same
            self._unkept |= {item.job: item for item in lines}
        else:
            for item in lines:
                self._unkept.pop(item.job, None)

    def worked(self, job: "Job") -> "Outcome | None":
        """What came of a job's phase in hand, as the logbook holds it; none where that isn't kept.

        Raises
        ------
        UnknownIdError
            Where the logbook has no such job.
        """
        kept = self._logbook.worked(job.id, _of(self._logbook.job_stamp(job.id)))
        return outcome_of(job, AS_LEFT if job.is_adjusted else AS_FOUND, kept)

    def lines(self, search: str = "") -> tuple[JobSummary, ...]:
        """Of all jobs that hold every word of `search`, the newest first; those of an older edition are left out."""
        words = tuple(search.lower().split())
        found = self._logbook.summary_lines(f"{EDITION}/", words)
        found |= {item.job: item.payload for item in self._unkept.values() if all(word in item.words for word in words)}
        return tuple(_LINE.decode(found[job]) for job in self._logbook.job_stamps() if job in found)

    def past_of(self, device_id: str, serial: str = "") -> dict[str, tuple[Past, ...]]:
        """Errors of one meter through the years by job: by its serial number, where both have one."""
        self.catch_up(among=self._logbook.jobs_of(device_id, serial))
        found = self._logbook.past_of(device_id, serial, f"{EDITION}/")
        return {job: _PAST.decode(text) for job, text in found.items()}

    def using(self, part_id: str) -> tuple[JobSummary, ...]:
        """Lines of the jobs whose snapshot holds a part, the newest first."""
        self.catch_up(among=self._logbook.used_in(part_id))
        jobs = self._logbook.used_in(part_id)
        return tuple(line for line in self.lines() if line.id in jobs)


def _stamp(record: str) -> str:
    return f"{EDITION}/{record}"


def _of(record: str) -> str:
    """The stamp of what this program works out of a record."""
    return f"{program()}/{record}"


def _made(logbook: Logbook, job_id: str, stamp: str) -> tuple[Summary, Worked]:
    job: Job | None = None
    try:
        job = logbook.job(job_id)
        with working_out(job.title):
            line, past, outcome = summary(job)
            words = "\n".join(_words(job, line)).lower()
            kept = Worked(job_id, _of(stamp), as_kept(outcome))
            return _kept(line, past, job.parts, words, stamp), kept
    except FenmistError as error:
        known = isinstance(error, UnworkableJobError | RecordError)
        why = str(error) if known else f"This job can't be worked out: {error}"
        said = _kept(_in_trouble(job_id, job, why), (), job.parts if job else (), why.lower(), stamp)
        return said, Worked(job_id, _of(stamp), b"")


def _kept(line: JobSummary, past: tuple[Past, ...], parts: Iterable[str], words: str, stamp: str) -> Summary:
    payload = msgspec.json.encode(line).decode()
    found = msgspec.json.encode(past, enc_hook=Column.kept).decode()
    _LINE.decode(payload)  # a number that JSON can't hold is trouble now, not at the next look
    listed = msgspec.json.encode(tuple(parts)).decode()
    return Summary(line.id, _stamp(stamp), line.device_id, line.serial, payload, found, listed, words)


def _in_trouble(job_id: str, job: "Job | None", why: str) -> JobSummary:
    """The line of a job that can't be read (then nothing is known of it) or worked out."""
    if job is None:
        return JobSummary(job_id, job_id, "", "", "", "", "", "", 0, 0, False, f"✕ {why}", trouble=why)
    device = job.parts.get(job.dut)
    return JobSummary(
        job.id, job.title, device.label if device else "", job.dut, device.serial if device else "", job.customer,
        day_of(job.created_at), day_of(job.last_at), 0, len(job.plan), False, f"✕ {why}", why,
    )  # fmt: skip


def summary(job: "Job") -> tuple[JobSummary, tuple[Past, ...], "Outcome"]:
    """The line of a job, the errors it found, and what came of its phase in hand."""
    room = procedure_of(job)
    found = room.reduce(job, AS_FOUND, {}, None)
    left = room.reduce(job, AS_LEFT, {}, None) if job.is_adjusted else None
    result = left if left is not None and left.stated else found
    past = (*_past(job, found.stated, AS_FOUND), *(_past(job, left.stated, AS_LEFT) if left is not None else ()))
    device = job.dut_part
    line = JobSummary(
        job.id, job.title, device.label, device.id, device.serial, job.customer, day_of(job.created_at),
        day_of(job.last_at), len(result.stated),
        job.answers_wanted, result.complete, room.short(result), question=job.question,
        next_due=job.next_due,
    )  # fmt: skip
    return line, past, left or found


def present_as_past(job: "Job", point: "Stated", phase: str) -> tuple[Past, ...]:
    """A point of the job in hand, to be set beside what was found before; none where it is no reference."""
    return tuple(_past(job, (point,), phase))


def _past(job: "Job", points: "Iterable[Stated]", phase: str) -> Iterator[Past]:
    from fenmist.methods.modulated import stands  # where something is worked out anew

    days = {}
    for slot, event in job.standing.items():
        if slot.phase == phase:
            days[slot.point] = day_of(event.at)
    found: dict[tuple[str, str, str], list[Row]] = {}
    for item in points:
        if item.usable and stands(item.point.waveform):  # years are compared on a steady carrier
            day = days.get(item.point.id, day_of(job.created_at))
            leg = item.point.leg if job.answers_alone(item.point) else ""
            row = item.point.frequency_hz, item.point.target_w, item.share, item.expanded_u_share, item.share_tolerance
            found.setdefault((day, item.share_unit, leg), []).append(row)
    for (day, unit, leg), rows in found.items():
        yield Past.of_rows(day, phase == AS_LEFT, job.id, rows, job.question, unit, leg)


def _words(job: "Job", line: JobSummary) -> Iterator[str]:
    """Everything of a job that can be searched for."""
    yield from (line.title, line.device, line.serial, line.headline, job.customer, job.place, job.technician)
    yield from (job.conditions, job.purpose, day_of(job.created_at), job.receipt.condition, job.receipt.inventory)
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
