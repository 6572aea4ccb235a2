"""A job that is open: the one place where edits become records, results and notices.

Every command first writes to the logbook, then changes what is in memory, then tells once. Undo never erases: undoing
an entry strikes it, undoing an edit keeps the former definition as the next revision.
"""

from collections.abc import Mapping
from contextlib import suppress
from dataclasses import replace
from datetime import datetime
from functools import partial
from itertools import count
from types import MappingProxyType
from typing import TYPE_CHECKING
from uuid import uuid4

from fenmist.calibration.edit import with_as_left
from fenmist.calibration.expected import expected_entry, expected_si
from fenmist.calibration.job import Job
from fenmist.calibration.keydown import OFF, ON, Carrier, in_hand
from fenmist.calibration.outcome import Outcome
from fenmist.calibration.references import remember_bench
from fenmist.errors import FenmistError, RecordError, UnknownIdError
from fenmist.findings.note import Answer, Note
from fenmist.hookup.templates import Bench
from fenmist.reading.event import AS_FOUND, AS_LEFT, PAPER, TYPED, WIRE, Entry, Event, EventKind, Slot, struck
from fenmist.reading.interpret import Interpretation, interpret
from fenmist.records.second import SecondFolder, take_in
from fenmist.records.store import Logbook
from fenmist.session.clock import Clock, now
from fenmist.session.commands import Command, Commands
from fenmist.session.listeners import Listeners
from fenmist.session.view import View
from fenmist.session.warmth import Warmth, warmth
from fenmist.session.workable import working_out
from fenmist.units.unit import UNITS

if TYPE_CHECKING:
    from fenmist.instruments.instrument import Samples, Settled
    from fenmist.session.captures import CaptureSource

_BY_ITSELF = ("replaced", "undone")
"""Reasons of strikes that no one gave."""


def _same_round(about: str, slot: Slot) -> bool:
    """Whether a note is about an entry of a slot's round."""
    return about.split("/")[:2] == [slot.point, str(slot.round)]


class OpenJob:
    """Commands on one job and the notices of its changes.

    Parameters
    ----------
    logbook : Logbook
        Where everything is kept.
    job : Job
        As read from it.
    clock : callable
        Gives the present; tests set it.
    second : SecondFolder, optional
        Where events go while the logbook can't be written.
    worked : Outcome, optional
        What came of it already.
    """

    def __init__(
        self, logbook: Logbook, job: Job, clock: Clock = now, second: SecondFolder | None = None,
        worked: Outcome | None = None,
    ) -> None:  # fmt: skip
        self._logbook = logbook
        self._second = second
        self.hookup_shown = ""  # id of the hook-up that is looked at; the first where nothing was chosen
        self.from_paper = False  # what is typed was read at an unknown time
        self.trouble = ""  # why readings go to the second folder, while they do
        self._clock = clock
        self._begun: tuple[Slot, datetime] | None = None  # the entry in hand, and when its first digit was typed
        self.changed = Listeners()
        self.commands = Commands(self.changed.tell)
        phase = AS_LEFT if job.is_adjusted else AS_FOUND
        self.view = View(job, clock().replace(microsecond=0), phase, worked)

    @property
    def job(self) -> Job:
        """The job as it stands."""
        return self.view.job

    @property
    def entries_on_disk(self) -> int:
        """Entries of this job that the logbook holds, struck ones too."""
        waiting = self._second.waiting() if self.trouble and self._second is not None else ()
        return self.job.ledger.made - sum(event.entry is not None for item in waiting for event in item.events)

    # what follows

    def draw_in_steps(self) -> None:
        """From now on one point is drawn at a time: a window doesn't wait for all of them."""
        self.view = replace(self.view, most=1)

    def draw_on(self) -> bool:
        """Draw what is next where something still is to be drawn; whether it was."""
        if not self.view.to_draw:
            return False
        self.view = self.view.further()
        return True

    # reading

    def expected_si(self, slot: Slot) -> float | None:
        """What an entry should be near: what the bench makes of the planned power; none of a supply."""
        return expected_si(self.job, self.job.point(slot.point), self._channel(slot))

    def interpret(self, slot: Slot, text: str) -> Interpretation:
        """What a text means in a slot; nothing is kept."""
        channel = self._channel(slot)
        used = self.job.range_of(self.job.point(slot.point), channel)
        return interpret(text, self.job.indicator(channel), used, self.expected_si(slot))

    def _channel(self, slot: Slot) -> str:
        """What is read in a slot; raises UnknownIdError."""
        sequence = self.job.point(slot.point).sequence
        if slot.position >= len(sequence):
            raise UnknownIdError(f"A round of “{slot.point}” has {len(sequence)} readings.", "Look at its order.")
        return sequence[slot.position]

    def draft(self, slot: Slot, text: str) -> View:
        """The job as it would be with this text entered; nothing is kept."""
        return self.view.after(self.job.with_event(self._entry_event(slot, text)), self.view.as_of)

    def get_ready(self, slot: Slot) -> None:
        """Work out what doesn't hang on what is read next before a key waits for it: as if it were as expected."""
        with suppress(FenmistError):  # what is wrong is said where it is worked out
            remember_bench(self.job, self.job.point(slot.point))
            if slot not in self.view.standing:
                _ = self._with_here(self._event(EventKind.ENTER, entry=expected_entry(self.job, slot))).at_once

    def draft_here(self, slot: Slot, text: str) -> View:
        """The same for the point in hand alone: what a key waits for."""
        return self._with_here(self._entry_event(slot, text))

    def _with_here(self, event: Event) -> View:
        here = self.view.at(event.entry.slot.point if event.entry else "")
        return here.after(here.job.with_event(event), here.as_of)

    def enter(self, slot: Slot, text: str) -> Event:
        """Keep what was typed in a slot; what stood there is struck as replaced."""
        return self._keep(self._entry_event(slot, text), f"entry {text.strip()}")

    def enter_trace(self, slot: Slot, source: "CaptureSource", channel: str) -> Event:
        """Keep what a capture's channel says as the entry of a slot, with its file; open where it can't be trusted."""
        return self._keep(self._trace_event(slot, source, channel), f"capture {source.name}", source.data)

    def enter_wire(self, slot: Slot, settled: "Settled") -> Event:
        """Keep what an instrument gave over its wire as the entry of a slot, with its replies and its address."""
        text = settled.text
        channel = self._channel(slot)
        used = self.job.range_of(self.job.point(slot.point), channel)
        beyond = used is not None and used.scale is None and settled.si > used.full_scale  # it has changed its range
        found = interpret(text, self.job.indicator(channel), None if beyond else used, self.expected_si(slot))
        if found.reading is not None:
            step = partial(UNITS[settled.last.unit].step_si, settled.mean)
            u = step(settled.u) if settled.scatters else None
            found = replace(found, reading=replace(found.reading, u=u, digit=step(settled.last.digit)))
        entry = replace(
            self._entry(slot, text, found), origin=WIRE, address=settled.last.address,
            replies=tuple(item.raw for item in settled.readings), observed_at=settled.last.at.replace(microsecond=0),
        )  # fmt: skip
        return self._keep(self._event(EventKind.ENTER, entry=entry), f"reading {text}")

    def enter_samples(self, slot: Slot, samples: "Samples") -> Event:
        """Keep samples that an oscilloscope gave over its wire: as a capture, read by fitting a sine."""
        from fenmist.session.captures import CaptureSource  # fits and files are imported on first use

        part = self.job.part_read(self._channel(slot)).label
        source = CaptureSource(f"{part} {samples.at:%H%M%S}.csv", samples.csv(part).encode())
        return self.enter_trace(slot, source, source.capture.channels[0].name)

    def take_form(self, data: bytes, name: str) -> int:
        """Enter what stands on a filled run sheet, times unknown; returns how many readings. One undo takes all back.

        Raises
        ------
        FileFormatError
            Names the line; nothing is entered then.
        """
        from fenmist.reports.runsheet import read_form

        known = {slot: event for slot, event in self.job.standing.items() if event.entry is not None}
        fresh = [
            item
            for item in read_form(self.job, data, name)
            if item.slot not in known or (entry := known[item.slot].entry) is None or entry.raw_text != item.text
        ]
        former = [known[item.slot] for item in fresh if item.slot in known]
        was, self.from_paper = self.from_paper, True
        try:
            events = [self._entry_event(item.slot, item.text) for item in fresh]
        finally:
            self.from_paper = was

        def swap(out: list[Event], back: list[Event], reason: str) -> None:
            self._append(*(self._strike(event, reason) for event in out), *(self._restore(event) for event in back))

        if events:
            self._append(*(self._strike(event, "replaced") for event in former), *events)
            self.commands.did(
                Command(
                    f"{len(events)} readings from paper", lambda: swap(events, former, "undone"),
                    lambda: swap(former, events, "replaced"),
                )
            )  # fmt: skip
        return len(events)

    def attached_capture(self, entry: Entry) -> "CaptureSource":
        """The capture that an entry was read from; raises UnknownIdError where there is none."""
        from fenmist.session.captures import CaptureSource  # fits and files are imported on first use

        return CaptureSource(entry.attached_name, self._logbook.attachment(entry.attached))

    def attach(self, data: bytes, name: str) -> str:
        """Keep a file with the logbook; returns its hash."""
        return self._logbook.attach(data, name, self._stamp())

    def attached(self, digest: str) -> bytes:
        """The bytes of a kept file; raises UnknownIdError, DamagedLogbookError."""
        return self._logbook.attachment(digest)

    def _keep(self, event: Event, label: str, attached: bytes | None = None) -> Event:
        slot = event.entry.slot if event.entry else None
        self._begun = None
        former = self.view.standing.get(slot) if slot else None
        files = {event.entry.attached: attached} if event.entry is not None and attached is not None else {}
        replaced = () if former is None else (self._strike(former, "replaced"),)
        self._append(*(replace(strike, at=event.at) for strike in replaced), event, files=files)

        def back() -> None:
            restored = () if former is None else (self._restore(former),)
            self._append(self._strike(event, "undone"), *restored)

        def again() -> None:
            gone = () if former is None else (self._strike(former, "replaced"),)
            self._append(*gone, self._restore(event))

        self.commands.did(Command(label, back, again))
        return event

    def strike(self, slot: Slot, reason: str) -> None:
        """Strike out what stands in a slot; it stays on record with the reason."""
        former = self.view.standing.get(slot)
        if former is None:
            raise UnknownIdError("There is nothing to strike here.", "Choose an entry first.")
        self._do("strike", self._strike(former, reason), self._restore(former))

    def move_round(self, slot: Slot) -> Slot:
        """Move a round to the planned point whose level it was read at, as one step; returns where it begins there.

        Struck here and entered there with the same text and times: the record keeps both.

        Raises
        ------
        UnknownIdError
            Where nothing is to be moved, or no planned point fits.
        """
        notes = (note for note in self.view.notes_near(slot.point) if note.code == "round.other_level")
        note = next((note for note in notes if _same_round(note.about, slot)), None)
        point = str(note.evidence["belongs_to"]) if note else ""
        if not point:
            raise UnknownIdError("No planned point fits this round.", "Strike it, or plan that level.")
        number = self._free_round(point)
        here = [
            event
            for found, event in self.job.ledger.at(slot.point).items()
            if (found.round, found.phase) == (slot.round, slot.phase)
        ]
        there = [
            self._event(EventKind.ENTER, entry=replace(e.entry, slot=replace(e.entry.slot, point=point, round=number)))
            for e in here
            if e.entry is not None
        ]

        def swap(out: list[Event], back: list[Event], reason: str) -> None:
            self._append(*(self._strike(event, reason) for event in out), *(self._restore(event) for event in back))

        self._append(*(self._strike(event, f"moved to {point}") for event in here), *there)
        self.commands.did(
            Command("moved round", lambda: swap(there, here, "undone"), lambda: swap(here, there, f"moved to {point}"))
        )
        return Slot(point, number, 0, slot.phase)

    def _free_round(self, point_id: str) -> int:
        """The first round of a point in which nothing stands in the phase in hand."""
        taken = {slot.round for slot in self.job.ledger.at(point_id) if slot.phase == self.view.phase}
        return next(number for number in count(1) if number not in taken)

    def give_reason(self, reason: str) -> None:
        """Say otherwise why the entry struck last was struck; raises UnknownIdError where none is."""
        event = self.last_strike
        if event is None:
            raise UnknownIdError("No entry was struck.", "Strike one first: /1.")
        again = self._event(EventKind.STRIKE, target=event.target, reason=reason, slot=event.slot)
        self._do("reason", again, replace(again, reason=event.reason))

    @property
    def last_strike(self) -> Event | None:
        """The latest strike by hand that still holds."""
        gone = struck(self.job.events)
        by_hand = (e for e in reversed(self.job.events) if e.kind is EventKind.STRIKE and e.reason not in _BY_ITSELF)
        return next((event for event in by_hand if gone.get(event.target) == event.reason), None)

    def skip(self, slot: Slot, reason: str) -> None:
        """Leave the round of a slot out of what is to be read; where it was left out, ask for it again."""
        former = self._skip_at(slot)
        event = self._event(EventKind.SKIP, reason=reason, slot=slot)
        if former is not None:
            self._do("read after all", self._event(EventKind.RESTORE, target=former.id, slot=slot), event, of_skip=True)
        else:
            self._do("skip", event, self._event(EventKind.RESTORE, target=event.id, slot=slot), of_skip=True)

    def _skip_at(self, slot: Slot | None) -> Event | None:
        return self.job.skipped.get((slot.point, slot.round, slot.phase)) if slot else None

    def doubt(self, slot: Slot, reason: str) -> None:
        """Mark what stands in a slot as doubtful, or take the doubt back; it stays in the results."""
        entry = self.view.standing.get(slot)
        if entry is None:
            raise UnknownIdError("There is nothing to doubt here.", "Choose an entry first.")
        had = self.job.ledger.doubt_of(entry.id)
        event = self._event(EventKind.DOUBT, target=entry.id, reason="" if had else reason)
        self._do("doubt", event, self._event(EventKind.DOUBT, target=entry.id, reason=had))

    def _do(self, label: str, event: Event, against: Event, of_skip: bool = False) -> None:
        """Keep an event that another one takes back; each doing of it is an event of its own."""

        def keep(made: Event) -> None:
            fresh = replace(made, id=uuid4().hex, at=self._stamp())
            skip = self._skip_at(made.slot) if of_skip and made.kind is EventKind.RESTORE else None
            if skip is not None:  # whichever stands there now
                fresh = replace(fresh, target=skip.id)
            self._append(fresh)

        self._append(event)
        self.commands.did(Command(label, lambda: keep(against), lambda: keep(event)))

    # the carrier

    def begin_entry(self, slot: Slot) -> bool:
        """The first digit of an entry was typed: from now on the carrier is taken to be on. True where it is news."""
        if self._begun is not None and self._begun[0].point == slot.point:
            return False
        self._begun = slot, self._stamp()
        return True

    def switch_carrier(self, slot: Slot | None) -> None:
        """The carrier is not as inferred: on if it was off, off if it was on."""
        on = not self.carrier.is_on
        self._begun = None
        self._append(self._event(EventKind.CARRIER, reason=ON if on else OFF, slot=slot))
        self.changed.tell()

    def carrier_is(self, on: bool, slot: Slot | None) -> None:
        """An instrument on a wire says whether the carrier is on: that overrides what is inferred."""
        if self.carrier.is_on is not on:
            self.switch_carrier(slot)

    @property
    def carrier(self) -> Carrier:
        """The carrier as it is inferred now."""
        known = self.view.carrier.at(self._clock().timestamp())
        if self._begun is None:
            return known
        return in_hand(known, self.job, self._begun[1].timestamp(), self._begun[0].point)

    def warmth(self, slot: Slot | None) -> Warmth | None:
        """How warm the load is by now, and what it bears of the point in hand; none where it has no rating."""
        return warmth(self.job, self.carrier, self._clock().timestamp(), slot)

    def answer(self, note: Note, text: str) -> None:
        """Keep what was said to a note; an empty text takes it back."""
        former = self.job.answers.get(note.key)

        def say(what: str) -> None:
            stamp = self._stamp()
            answer = Answer(note.key, note.fingerprint, what, self.job.technician, stamp)
            self._append(self._event(EventKind.ANSWER, answer=answer))

        say(text)
        self.commands.did(Command("answer", lambda: say(former.text if former else ""), lambda: say(text)))

    # phases

    def begin_as_left(self) -> None:
        """The meter was adjusted: what is read from now on is as left; what was read stays as found."""
        self.edit(with_as_left(self.job), "adjusted")
        self.show_phase(AS_LEFT)

    def show_phase(self, phase: str) -> None:
        """Bring a phase's readings to hand."""
        if phase != self.view.phase and (phase == AS_FOUND or self.job.is_adjusted):
            self.view = View(self.job, self.view.as_of, phase, most=self.view.most)
            self.changed.tell()

    # editing

    def edit(self, job: Job, label: str, merge: str = "") -> None:
        """Keep a changed definition; edits with the same `merge` in a row are undone as one.

        Raises
        ------
        UnworkableJobError
            Where nothing could be worked out of the changed job; then it stays as it was.
        """
        former = replace(self.job, events=())
        changed = replace(job, events=())
        if changed == former:
            return
        view = self._tried(changed)
        self._logbook.save_definition(changed, self._stamp(), label)
        self.view = view
        self.commands.did(
            Command(label, lambda: self._define(former, f"undo {label}"), lambda: self._define(changed, label), merge)
        )

    def move_to(self, bench: Bench) -> None:
        """Put the job on another bench; raises OutOfRangeError where something was read on this one."""
        from fenmist.procedures.shelf import on_bench  # on first use

        self.edit(on_bench(self.job, self.view.procedure, bench), f"bench {bench.hookup.label}")

    def _tried(self, definition: Job) -> View:
        """What follows from a changed job, worked out before it is kept; of another plan results are enough."""
        with working_out(definition.title):
            view = self.view.after(replace(definition, events=self.job.events), self._stamp())
            only_planned = replace(definition, plan=()) == replace(self.job, plan=(), events=())
            _ = view.result if only_planned else view.notes
        return view

    def _define(self, definition: Job, label: str) -> None:
        self._logbook.save_definition(definition, self._stamp(), label)
        self._set(replace(definition, events=self.job.events))

    # one way in

    def _entry_event(self, slot: Slot, text: str) -> Event:
        text = text.encode("utf-8", "replace").decode()  # half a sign can't be written down
        return self._event(EventKind.ENTER, entry=self._entry(slot, text, self.interpret(slot, text)))

    def _trace_event(self, slot: Slot, source: "CaptureSource", channel: str) -> Event:
        expected = self.job.point(slot.point).frequency_hz
        text, found = source.reading(channel, expected)
        entry = self._entry(slot, text, found)
        kept = replace(entry, origin="capture", attached=source.sha256, attached_name=source.name)
        return self._event(EventKind.ENTER, entry=kept)

    def _entry(self, slot: Slot, text: str, found: Interpretation) -> Entry:
        channel = self.job.channel(self._channel(slot))
        used = self.job.range_of(self.job.point(slot.point), channel.id)
        return Entry(
            slot, channel.id, channel.element, channel.indicator, found.range_id or (used.id if used else ""), text,
            found.reading, found.why_open, found.likeliest_text, PAPER if self.from_paper else TYPED,
            observed_at=None if self.from_paper else self._stamp(),
            begun_at=self._begun[1] if self._begun and self._begun[0].point == slot.point else None,
        )  # fmt: skip

    def _event(
        self,
        kind: EventKind,
        entry: Entry | None = None,
        target: str = "",
        reason: str = "",
        answer: Answer | None = None,
        slot: Slot | None = None,
    ) -> Event:
        return Event(uuid4().hex, kind, self._stamp(), entry, target, reason, answer, slot)

    def _strike(self, event: Event, reason: str) -> Event:
        slot = event.entry.slot if event.entry else None
        return self._event(EventKind.STRIKE, target=event.id, reason=reason, slot=slot)

    def _restore(self, event: Event) -> Event:
        return self._event(EventKind.RESTORE, target=event.id, slot=event.entry.slot if event.entry else None)

    def _append(self, *events: Event, files: Mapping[str, bytes] = MappingProxyType({})) -> None:
        """Keep events that belong together: in the logbook, or in the second folder while that can't be written."""
        try:
            if self.trouble:
                self.retry()
            self._logbook.append(self.job.id, events, files)
        except RecordError as error:
            if self._second is None:
                raise
            self._second.append(self.job.id, events, files)
            self.trouble = f"{error.headline} Readings are kept in {self._second.path} until it can."
        self._set(self.job.with_events(events))

    def retry(self) -> str:
        """Take what waits in the second folder into the logbook; returns what is to be said about it.

        Raises
        ------
        RecordError
            While the logbook can't be written.
        """
        taken = take_in(self._logbook, self._second) if self._second is not None else None
        self.trouble = ""
        return " ".join(taken.said) if taken else ""

    def _set(self, job: Job) -> None:
        self.view = self.view.after(job, self._stamp())

    def _stamp(self) -> datetime:
        return self._clock().replace(microsecond=0)
