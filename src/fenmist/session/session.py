"""The open logbook: its jobs, its kit, and the job in hand."""

from dataclasses import dataclass, replace
from pathlib import Path
from uuid import uuid4

from fenmist.calibration.job import Job
from fenmist.calibration.make import cross_check
from fenmist.calibration.reduction import reduce
from fenmist.judgement.headline import short_headline
from fenmist.kit.part import Part, PartKind
from fenmist.kit.shelf import starter_shelf
from fenmist.reading.event import AS_LEFT
from fenmist.records.store import Logbook
from fenmist.session.listeners import Listeners
from fenmist.session.openjob import Clock, OpenJob, now


@dataclass(frozen=True)
class JobSummary:
    """A job's line in the list."""

    id: str
    title: str
    device: str
    created_at: str
    points_read: int
    points: int
    headline: str


class Session:
    """A logbook and what is done in it.

    Parameters
    ----------
    path : Path
        The logbook's file; a new one begins with the starter shelf.
    clock : callable
        Gives the present; tests set it.
    first_kit : parts, optional
        What a new logbook begins with instead of the starter shelf.
    """

    def __init__(self, path: Path, clock: Clock = now, first_kit: tuple[Part, ...] | None = None) -> None:
        self.logbook = Logbook(path)
        self._clock = clock
        self.changed = Listeners()
        self.open_job: OpenJob | None = None
        if not self.logbook.kit():
            for part in starter_shelf() if first_kit is None else first_kit:
                self.logbook.save_part(part, self._stamp())

    def close(self) -> None:
        """Close the logbook."""
        self.logbook.close()

    @property
    def is_demo(self) -> bool:
        """True in the demonstration's logbook."""
        return self.logbook.is_demo

    @property
    def workshop(self) -> str:
        """Name of the workshop, as it stands on paper."""
        return self.logbook.setting("workshop")

    @property
    def kit(self) -> tuple[Part, ...]:
        """All equipment in its newest revision."""
        return self.logbook.kit()

    def save_part(self, part: Part) -> None:
        """Keep a part; jobs that used it keep their own snapshot."""
        self.logbook.save_part(part, self._stamp())
        self.changed.tell()

    def summaries(self) -> tuple[JobSummary, ...]:
        """The list of jobs, the newest first."""
        return tuple(_summary(line.job) for line in self.logbook.jobs())

    @property
    def has_jobs(self) -> bool:
        """True where the logbook holds a job."""
        return self.logbook.job_count() > 0

    def new_job(self, title: str, meter_id: str = "") -> OpenJob:
        """Begin a job with the first part of each kind in the kit, and open it."""
        kit = self.kit
        chosen = [_first(kit, kind, meter_id) for kind in PartKind if kind not in _BY_CHOICE]
        job = cross_check(uuid4().hex, title, [part for part in chosen if part], created_at=self._stamp())
        job = replace(job, demo=self.is_demo, place=self.workshop)
        self.logbook.add_job(job)
        return self.open(job.id)

    def open(self, job_id: str) -> OpenJob:
        """Open a job; raises UnknownIdError."""
        self.open_job = OpenJob(self.logbook, self.logbook.job(job_id), self._clock)
        self.changed.tell()
        return self.open_job

    def _stamp(self) -> str:
        return self._clock().isoformat(timespec="seconds")


_BY_CHOICE = (PartKind.JUMPER, PartKind.PROBE)
"""Kinds that a new job begins without: a jumper may be added, a probe may take the lead's place."""


def _first(kit: tuple[Part, ...], kind: PartKind, wanted: str) -> Part | None:
    fitting = [part for part in kit if part.kind is kind]
    return next((part for part in fitting if part.id == wanted), fitting[0] if fitting else None)


def _summary(job: Job) -> JobSummary:
    found = reduce(job)
    left = reduce(job, AS_LEFT) if job.is_adjusted else found
    result = left if left.points else found
    return JobSummary(
        job.id, job.title, job.dut_part.label, job.created_at, len(result.points), len(job.plan),
        short_headline(result),
    )  # fmt: skip
