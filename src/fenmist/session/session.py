"""The open logbook: its jobs, its kit, and the job in hand."""

from collections.abc import Iterator, Sequence
from contextlib import nullcontext, suppress
from dataclasses import replace
from datetime import datetime
from functools import cached_property
from itertools import chain
from pathlib import Path
from typing import TYPE_CHECKING
from uuid import uuid4

import msgspec

from fenmist.calibration.history import Drift, Past, drift_per_year, drifts
from fenmist.errors import FenmistError, RecordError, UnknownIdError, UnreadableError
from fenmist.files.whole import write_whole
from fenmist.procedures.table import ROOMS, procedure_of, room_of
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.records.second import SecondFolder, take_in
from fenmist.records.store import Issued, Logbook
from fenmist.session.backup import back_up_today, refuse_emptied
from fenmist.session.clock import Clock, now
from fenmist.session.commands import Command, Commands
from fenmist.session.listeners import Listeners
from fenmist.session.place import Place
from fenmist.session.summaries import JobSummary, Listing

if TYPE_CHECKING:  # what jobs and parts are made of comes with the first of them: the list needs none
    from fenmist.calibration.job import Job
    from fenmist.calibration.planning import Grid
    from fenmist.hookup.line import HookUp
    from fenmist.hookup.templates import Bench
    from fenmist.kit.due import Due
    from fenmist.kit.part import Part
    from fenmist.kit.tables import Corrected
    from fenmist.procedures.shelf import Ranked
    from fenmist.session.openjob import OpenJob
    from fenmist.session.trial import Tried
    from fenmist.session.wires import Wires

SETTINGS = {"workshop": "", "technician": "", "paper": "a4", "numbering": "", "csv": "comma"}
"""Facts about the logbook that are asked on its first page, with what holds until then."""

UNNAMED = "New job"
"""Title of a job that nobody has named yet."""

_PLACE, _TEMPLATES, _DESIGN = "place", "templates", "design"


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
    second_folder : Path, optional
        Where readings go while the logbook can't be written; the user's state folder unless given.
    """

    def __init__(
        self,
        path: Path,
        clock: Clock = now,
        first_kit: "tuple[Part, ...] | None" = None,
        second_folder: Path | None = None,
    ) -> None:
        refuse_emptied(path)
        self.logbook = Logbook(path)
        self._clock = clock
        self.changed = Listeners()
        self.commands = Commands(self.changed.tell)  # of the kit and the first page; a job has its own
        self.open_job: OpenJob | None = None
        self._remembered = ""
        is_begun = self.logbook.has_parts  # then nothing needs to be written, and a full disk is no reason to stop
        with nullcontext() if is_begun else self.logbook.together():
            self.second = SecondFolder(self.logbook, second_folder or _state_folder())
            if not is_begun:
                from fenmist.kit.generic import starter_shelf  # of a new logbook

                self.logbook.save_parts(starter_shelf() if first_kit is None else first_kit, self.now())
        self._listing = Listing(self.logbook)
        self.said_on_open = self._on_open()

    def _on_open(self) -> str:
        """Take in what waits; what went wrong with that is said, and stops nothing."""
        said = list(self.logbook.said_on_open)
        try:
            taken = take_in(self.logbook, self.second)
            if taken.events:
                said.append(f"{taken.events} readings that waited in {self.second.path} were taken into the logbook.")
            said += taken.said
        except RecordError as error:
            said.append(str(error))
        return " ".join(said)

    def back_up(self) -> str:
        """Copy the logbook beside itself, once a day; returns what went wrong with it, which stops nothing."""
        try:
            back_up_today(self.logbook, self._clock().date())
        except RecordError as error:
            return str(error)
        return ""

    def close(self) -> None:
        """Close the logbook and every wire."""
        if "wires" in self.__dict__:
            self.wires.close()
        self.logbook.close()

    @cached_property
    def wires(self) -> "Wires":
        """Instruments on wires, made when first asked for."""
        from fenmist.session.wires import Wires

        return Wires(self.logbook, self.logbook.path.parent / "drivers", self._clock)

    @property
    def is_demo(self) -> bool:
        """True in the demonstration's logbook."""
        return self.logbook.is_demo

    @property
    def workshop(self) -> str:
        """Name of the workshop, as it stands on paper."""
        return self.setting("workshop")

    def setting(self, key: str) -> str:
        """A fact about the logbook; see `SETTINGS`."""
        return self.logbook.setting(key, SETTINGS[key])

    def set_setting(self, key: str, value: str) -> None:
        """Keep a fact about the logbook."""
        former = self.setting(key)
        if value != former:
            keep = self.logbook.set_setting
            self._do(Command(f"change of {key}", lambda: keep(key, former), lambda: keep(key, value)))

    def remember(self, place: Place) -> None:
        """Keep where the work is; a logbook that can't be written is no reason to stop."""
        text = msgspec.json.encode(place).decode()
        if text != self._remembered:
            self._remembered = text
            with suppress(RecordError):
                self.logbook.set_setting(_PLACE, text)

    def remembered(self) -> Place | None:
        """Where the work was left, if that job is still there."""
        try:
            place = msgspec.json.decode(self.logbook.setting(_PLACE, "null").encode(), type=Place | None)
        except (msgspec.DecodeError, ValueError, RecursionError):
            return None
        return place if place is not None and place.job and self.logbook.has_job(place.job) else None

    def kept_design(self) -> str:
        """The design that was in hand, as it was kept."""
        return self.logbook.setting(_DESIGN, "")

    def keep_design(self, text: str) -> None:
        """Keep the design in hand; a logbook that can't be written is no reason to stop."""
        with suppress(RecordError):
            self.logbook.set_setting(_DESIGN, text)

    @property
    def is_new(self) -> bool:
        """True until the first page was filled in or a job was made."""
        return not self.is_demo and not self.workshop and not self.has_jobs

    # kit

    @property
    def kit(self) -> "tuple[Part, ...]":
        """All equipment in its newest revision."""
        return self.logbook.kit()

    # hook-ups to begin from

    def template_names(self) -> tuple[str, ...]:
        """The usual hook-ups, then the workshop's own."""
        from fenmist.hookup.templates import TEMPLATES  # on first use

        return (*(item.label for item in TEMPLATES), *(item.label for item in self._own_templates()))

    def from_template(self, name: str) -> "Bench":
        """A hook-up of that name with the parts it takes from the kit; raises UnknownIdError."""
        from fenmist.hookup.templates import TEMPLATES, Bench, from_template  # on first use

        usual = next((item for item in TEMPLATES if item.label == name), None)
        if usual is not None:
            return from_template(usual, self.kit, "new")
        own = next((item for item in self._own_templates() if item.label == name), None)
        if own is None:
            raise UnknownIdError(f"There is no hook-up “{name}” to begin from.", "Choose one of the list.")
        kit = {part.id: part for part in self.kit}
        missing = next((item.id for item in own.elements if item.part not in kit), "")
        if missing:
            raise UnknownIdError(
                f"The part that “{name}” has as its {missing} is no longer in the kit.", "Add it again."
            )
        return Bench(own, tuple({item.part: kit[item.part] for item in own.elements}.values()), ())

    def keep_template(self, hookup: "HookUp") -> None:
        """Keep a hook-up of a job to begin others from; one of the same name is replaced."""
        former = self._own_templates()
        made = (*(item for item in former if item.label != hookup.label), hookup)
        self._do(
            Command(
                f"template {hookup.label}", lambda: self._write_templates(former), lambda: self._write_templates(made)
            )
        )

    def _own_templates(self) -> "tuple[HookUp, ...]":
        from fenmist.hookup.line import HookUp

        try:
            return msgspec.json.decode(self.logbook.setting(_TEMPLATES, "[]").encode(), type=tuple[HookUp, ...])
        except (msgspec.DecodeError, ValueError):
            return ()

    def _write_templates(self, templates: "tuple[HookUp, ...]") -> None:
        self.logbook.set_setting(_TEMPLATES, msgspec.json.encode(templates).decode())

    def corrections_of(self, part: "Part") -> "dict[str, Corrected]":
        """The part's correction by each certificate that was issued for it, by the certificate's name, newest last.

        With what was seen of its drift, and with everything that the certificate leans on.
        """
        from fenmist.calibration.chain import links  # on first use
        from fenmist.kit.part import CalibrationRecord
        from fenmist.kit.tables import Corrected

        found = {}
        drift = drift_per_year(self.drifts(part.id, part.serial))
        mine = self.logbook.jobs_of(part.id, "")
        for issued in self.logbook.issued():
            if issued.job not in mine:
                continue
            with suppress(FenmistError):
                job = self.logbook.job(issued.job)
                room = procedure_of(job)
                if room.correction is None:
                    continue
                left = room.reduce(job, AS_LEFT, {}, None) if job.is_adjusted else None
                result = left if left is not None and left.stated else room.reduce(job, AS_FOUND, {}, None)
                on = issued.issued_at.date().isoformat()
                table = room.correction(result, f"certificate {issued.name}", on)
                if table is not None:
                    table = replace(table, drift_per_year=drift, leans_on=links(job))
                    by = job.place or self.workshop or "this workshop"
                    record = CalibrationRecord(on, by, job.next_due, issued.name)
                    found[f"certificate {issued.name}"] = Corrected(table, record)
        return found

    def due(self, part: "Part") -> "Due":
        """Whether a part is due today."""
        from fenmist.kit.due import due

        return due(part, self.now().date())

    def used_in(self, part_id: str) -> tuple[JobSummary, ...]:
        """Jobs that hold a part in their snapshot, the newest first."""
        return self._listing.using(part_id)

    def save_part(self, part: "Part") -> None:
        """Keep a part; jobs that used it keep their own snapshot."""
        before = next((item for item in self.kit if item.id == part.id), None)
        if before == part:
            return
        former = before or replace(part, retired=True)
        keep = self.logbook.save_parts
        label = f"change of {part.label}"
        self._do(Command(label, lambda: keep((former,), self.now()), lambda: keep((part,), self.now())))

    def _do(self, command: Command) -> None:
        command.again()
        self.commands.did(command)

    # jobs

    def summaries(self, search: str = "") -> tuple[JobSummary, ...]:
        """The list of jobs that hold every word of `search`, the newest first; all that is stale is made anew first."""
        self._listing.catch_up()
        return self.listed(search)

    def listed(self, search: str) -> tuple[JobSummary, ...]:
        """The list as far as it is made; see `catch_up`."""
        return self._listing.lines(search)

    def catch_up(self, seconds: float) -> int:
        """Make stale lines of the list anew for about so long; returns how many are left."""
        return self._listing.catch_up(seconds)

    def history(self, device_id: str, serial: str = "", but: str = "") -> tuple[Past, ...]:
        """Errors of one meter through the years, from all its jobs but one."""
        found = self._listing.past_of(device_id, serial)
        return tuple(chain.from_iterable(errors for job, errors in found.items() if job != but))

    def drifts(self, device_id: str, serial: str = "") -> tuple[Drift, ...]:
        """How one meter moved at each point."""
        return drifts(self.history(device_id, serial))

    def issued(self, job_id: str = "") -> tuple[Issued, ...]:
        """Certificates of a job, or of all."""
        return self.logbook.issued(job_id)

    @property
    def has_jobs(self) -> bool:
        """True where the logbook holds a job."""
        return self.logbook.job_count() > 0

    def new_job(
        self, title: str, device_id: str = "", bench: "Bench | None" = None, question: str = "",
        grid: "Grid | None" = None,
    ) -> "OpenJob":  # fmt: skip
        """Begin a job about a device (the first that fits) on a bench (the first that the kit allows), and open it.

        Its plan is a grid where one is given.

        Raises
        ------
        UnknownIdError
            Names what the kit lacks.
        UnreadableError
            Names what of the grid can't be read; then no job is made.
        """
        from fenmist.calibration.job import PlanPoint  # on first use
        from fenmist.calibration.planning import BY_FREQUENCY, points_from_grid, with_points
        from fenmist.findings.note import Problem
        from fenmist.procedures.shelf import device_on, first_bench

        room = room_of(question) if question else next(iter(ROOMS.values()))()
        bench = bench or first_bench(room, self.kit, device_id)
        job = room.begin(uuid4().hex, title, bench, device_id or device_on(bench), self.now())
        points = points_from_grid(job, grid) if grid is not None else ()
        wrong = next((item for item in points if isinstance(item, Problem)), None)
        if wrong is not None:
            said = (
                f"{wrong.what[:1].upper()}{wrong.what[1:]}"
                if wrong.field in wrong.what.lower()
                else f"{wrong.field.capitalize()}: {wrong.what}"
            )
            raise UnreadableError(said, wrong.remedy)
        job = with_points(job, [item for item in points if isinstance(item, PlanPoint)], BY_FREQUENCY)
        job = replace(job, demo=self.is_demo, place=self.workshop, technician=self.setting("technician"))
        self.logbook.add_job(job)
        return self.open(job.id)

    def shelf(
        self, question: str, device: "Part", frequencies_hz: Sequence[float], level_w: float, kit: "Sequence[Part]" = ()
    ) -> "Iterator[Ranked]":
        """The benches that a kit (the logbook's) allows for a question about a part, one after the other."""
        from fenmist.procedures.shelf import looked_at  # on first use

        now = self.now()
        return looked_at(room_of(question), kit or self.kit, device, frequencies_hz, level_w, now.date(), now)

    def open(self, job_id: str) -> "OpenJob":
        """Open a job; raises UnknownIdError."""
        from fenmist.session.openjob import OpenJob  # with all that a job stands on

        job = self.logbook.job(job_id)
        self.open_job = OpenJob(self.logbook, job, self._clock, self.second, self._listing.worked(job))
        self.changed.tell()
        return self.open_job

    def put_away(self) -> None:
        """No job is in hand any more, nor is it where the next start goes on."""
        self.open_job = None
        self.remember(Place(""))

    # jobs as files

    def hand_over(self, job_id: str, path: Path) -> Path:
        """Write a job with everything it needs to one file; raises RecordError, UnwritableError."""
        from fenmist.records.jobfile import job_to_bytes

        job = self.logbook.job(job_id)
        return write_whole(path, lambda: job_to_bytes(job, self.logbook.attachment))

    def take_in(self, path: Path) -> str:
        """Try the job of a file and keep it in this logbook; returns its id, a new one where that is taken.

        Raises
        ------
        FileFormatError
            Where the file can't be taken in; nothing of it is kept then.
        """
        from fenmist.session.trial import read_tried  # all of paper is tried: imported on first use

        return self.keep(read_tried(path))

    def keep(self, tried: "Tried") -> str:
        """Keep a job that was tried; returns its id, a new one where that is taken. Raises RecordError."""
        job = tried.job
        if self.logbook.has_job(job.id) or any(self.logbook.has_event(event.id) for event in job.events):
            job = _as_copy(job)
        self.logbook.add_job(replace(job, demo=job.demo or self.is_demo), tried.files)
        self.changed.tell()
        return job.id

    def now(self) -> datetime:
        """The time by this session's clock, to the second."""
        return self._clock().replace(microsecond=0)


def _as_copy(job: "Job") -> "Job":
    """The job under another id, with ids of its own for its events, which point to each other as before."""
    fresh = {event.id: uuid4().hex for event in job.events}
    events = tuple(replace(e, id=fresh[e.id], target=fresh.get(e.target, e.target)) for e in job.events)
    return replace(job, id=uuid4().hex, title=f"{job.title} (copy)", events=events)


def _state_folder() -> Path:
    from platformdirs import user_state_path

    return user_state_path("fenmist", appauthor=False)
