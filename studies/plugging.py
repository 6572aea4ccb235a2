"""Plugging and typing at random in jobs of every question: all of it is worked out, or refused in words."""

import tempfile
from collections.abc import Callable, Iterable, Mapping
from datetime import UTC, datetime
from pathlib import Path

import pytest
from hypothesis import assume
from hypothesis import strategies as st
from hypothesis.stateful import initialize, invariant, rule

from fenmist.calibration.edit import load_rows, load_with_rows, plan_rows, plan_with_cell, with_load_rows
from fenmist.calibration.job import Job
from fenmist.calibration.planning import Grid
from fenmist.errors import FenmistError, UnworkableJobError
from fenmist.kit.draft import draft_from_part, fields_of_part, part_from_draft
from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import SOURCES, Part
from fenmist.kit.sheet import Field
from fenmist.procedures import benchwork
from fenmist.procedures.benches import candidates
from fenmist.procedures.shelf import devices
from fenmist.procedures.table import ROOMS, room_of
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.records.jobfile import job_from_bytes, job_to_bytes
from fenmist.reports.resultfile import csv_bytes
from fenmist.reports.runsheet import form_csv, read_form, run_sheet
from fenmist.session.paper import write_certificate
from fenmist.session.session import Session
from fenmist.session.view import View
from fenmist.session.workable import working_out
from fenmist.units.unit import UNITS
from studies.walking import AnyOrder

SHELF = {part.id: part for part in starter_shelf()}
READ = 24
"""Readings made at most."""

NUMBERS, PARTS = st.integers(0, 999), st.sampled_from(sorted(SHELF))
FREQUENCIES, LEVELS = st.sampled_from(("7.1", "145", "0.474", "1.8 7 28")), st.sampled_from(("10", "100", "1 5 20"))


class Plugging(AnyOrder):
    """Somebody who plugs anything anywhere, before and after reading."""

    @initialize(question=st.sampled_from(sorted(ROOMS)), number=NUMBERS, frequencies=FREQUENCIES, levels=LEVELS)
    def begin(self, question: str, number: int, frequencies: str, levels: str) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.at = datetime(2026, 11, 29, 9, tzinfo=UTC)
        self.session = Session(Path(self.folder.name) / "log.fenlog", self.clock)
        room, kit = room_of(question), list(SHELF.values())
        asked = devices(room, kit)
        device = asked[number % len(asked)]
        benches = [bench for group in candidates(room.templates, kit, device) for bench in group]
        assume(benches)
        bench = benches[number // len(asked) % len(benches)]
        try:
            self.job = self.session.new_job("any", device.id, bench, question, Grid(frequencies, levels, rounds="1"))
        except FenmistError as error:
            assert not isinstance(error, UnworkableJobError)
            assume(False)

    @rule(part=st.sampled_from((1.0, 0.97, 1.03)))
    def read(self, part: float) -> None:
        for slot in self.job.view.order[:READ]:
            shows = self.job.job.indicator(self.job.job.point(slot.point).sequence[slot.position])
            value = part * (self.job.expected_si(slot) or 1.0)
            self.job.get_ready(slot)
            self.job.enter(slot, f"{UNITS[shows.unit].from_si(value):.5g}")

    @rule(
        how=st.sampled_from(("insert", "hang", "exchange", "remove", "turn", "state", "switch", "switch back", "read")),
        line=NUMBERS, place=NUMBERS, part=PARTS,
    )  # fmt: skip
    def plug(self, how: str, line: int, place: int, part: str) -> None:
        job, kind = self.job.job, SHELF[part].kind
        hookup = job.hookups[line % len(job.hookups)]
        at = hookup.elements[place % len(hookup.elements)]
        is_source = job.part(at.part).kind in SOURCES
        assume(how != "hang" or kind not in SOURCES)
        assume(how != "exchange" or is_source == (kind in SOURCES))
        edits = {
            "insert": lambda: benchwork.with_inserted(job, hookup, at.id, SHELF[part]),
            "hang": lambda: benchwork.with_hung(job, hookup, at.id, SHELF[part]),
            "exchange": lambda: benchwork.with_exchanged(job, hookup, at.id, SHELF[part]),
            "remove": lambda: benchwork.with_removed(job, hookup, at.id),
            "turn": lambda: benchwork.with_turned(job, hookup, at.id),
            "state": lambda: benchwork.with_stated(job, hookup, at.id),
            "switch": lambda: benchwork.with_switched(job, hookup, at.id),
            "switch back": lambda: benchwork.with_switched(job, hookup, at.id, -1),
            "read": lambda: benchwork.with_read(job, hookup, at.id),
        }
        self.attempt(lambda: self.job.edit(edits[how](), how))

    def attempt(self, what: Callable[[], object]) -> None:
        """Do it, or be refused in words."""
        try:
            what()
        except FenmistError as error:
            assert not isinstance(error, UnworkableJobError), error.headline
            assert error.headline.endswith((".", "?")) and error.hint.endswith(".")

    @rule()
    def write(self) -> None:
        """What a job says is what its own file says, read by somebody who remembers nothing of it."""
        job = self.job.job
        back, _ = job_from_bytes(job_to_bytes(job, lambda _: b""), "job.fenjob")
        assert back == job
        for mine, read in zip(
            self.job.view.result.stated, View(back, job.last_at, self.job.view.phase).result.stated, strict=True
        ):
            assert (mine.point, mine.engine, mine.decision) == (read.point, read.engine, read.decision)
            assert (mine.value, mine.u, *mine.interval) == pytest.approx((read.value, read.u, *read.interval), rel=1e-9)

    @invariant()
    def it_is_worked_out(self) -> None:
        if not hasattr(self, "job"):
            return
        view = self.job.view
        with working_out("any"):
            assert view.at_once.readings and view.result.readings
            assert view.page.headings
            _ = view.notes, view.unserved
            for slot in view.order:
                self.job.expected_si(slot)
        for channel in view.job.channels:
            hookup = view.job.hookup(channel.hookup)
            assert channel.measurand.plane.element in {item.id for item in hookup.elements}


TEXTS = st.sampled_from((
    "", "0", "1", "-1", "0.5", "1e9", "3 %", "5 % of reading", "0.3 dB", "50", "100 W", "30 cm", "1.5", "SWR 2",
    "2026-01-01", "abc", "yes", "20 MHz", "100 pF", "1 MΩ", "2 A", "measured", "1 digit", "3 % of full scale + 1 digit",
    "-40 dBc", "100 Vpk", "1:1", "200",
))  # fmt: skip
"""Typed into any field of a form."""

PLANNED = st.sampled_from((
    "7 MHz", "145", "10 W", "100", "1 mW", "20 dBm", "20", "3", "two-tone", "unknown", "2", "", "0", "-1", "abc", "1e9",
))  # fmt: skip
SHOWN = st.sampled_from((
    "10", "0", "-1", "20 dBm", "-30 dBm", "1e6", "1 uW", "141 Vpp", "50 Vrms", "off scale", "below 0.5", "abc", "2 A",
    "SWR 1.5", "1.5", "inf", "1:1", "99 %", "3 dB", "80/2", "1e-12 W",
))  # fmt: skip
LOADS = st.sampled_from(("50", "52+j3", "|48|", "30 - j40", "1", "0", "0.1+j1000", "|70| swr 1.5", "SWR 2"))


class Typing(Plugging):
    """Somebody who types anything anywhere as well."""

    def typed_part(self, part: Part, field: int, text: str) -> Job:
        made = part_from_draft(part, _with(draft_from_part(part), fields_of_part(part), field, text))
        return self.job.job if isinstance(made, tuple) else self.job.job.with_part(made)

    @rule(part=NUMBERS, field=NUMBERS, text=TEXTS)
    def type_of_a_part(self, part: int, field: int, text: str) -> None:
        kit = self.job.job.kit
        self.attempt(lambda: self.job.edit(self.typed_part(kit[part % len(kit)], field, text), "part"))

    @rule(field=NUMBERS, text=TEXTS)
    def type_of_the_question(self, field: int, text: str) -> None:
        room, job = self.job.view.procedure, self.job.job
        draft = room.draft(job)
        assume(draft)
        made = room.from_draft(job, _with(draft, (*room.line_fields, *room.plan_fields), field, text))
        self.attempt(lambda: None if isinstance(made, tuple) else self.job.edit(made, "question"))

    @rule(row=NUMBERS, column=NUMBERS, text=PLANNED)
    def type_in_the_plan(self, row: int, column: int, text: str) -> None:
        job = self.job.job
        assume(job.plan)
        row, column = row % (len(job.plan) + 1), column % len(plan_rows(job)[0])
        self.attempt(lambda: self.job.edit(plan_with_cell(job, row, column, text), "cell"))

    @rule(at=st.sampled_from(("2", "7", "145 MHz")), text=LOADS)
    def type_of_the_load(self, at: str, text: str) -> None:
        def typed() -> Job:
            job = self.job.job
            return with_load_rows(job, load_with_rows(load_rows(job), [[at, text]]), 0.01, "2026-01-01")

        self.attempt(lambda: self.job.edit(typed(), "load"))

    @rule(place=NUMBERS, text=SHOWN)
    def enter(self, place: int, text: str) -> None:
        order = self.job.view.order
        assume(order)
        slot = order[place % len(order)]
        assert self.job.draft_here(slot, text).at_once.readings
        self.attempt(lambda: self.job.enter(slot, text))

    @rule(place=NUMBERS, how=st.sampled_from(("strike", "skip", "doubt", "move")))
    def take_back(self, place: int, how: str) -> None:
        standing = tuple(self.job.view.standing)
        assume(standing)
        slot = standing[place % len(standing)]
        do = {"strike": self.job.strike, "skip": self.job.skip, "doubt": self.job.doubt}
        self.attempt(lambda: do[how](slot, "why") if how in do else self.job.move_round(slot))

    @rule(phase=st.sampled_from((AS_FOUND, AS_LEFT)))
    def adjust(self, phase: str) -> None:
        self.attempt(lambda: self.job.show_phase(phase) if self.job.job.is_adjusted else self.job.begin_as_left())

    @rule()
    def print_it(self) -> None:
        view = self.job.view
        with working_out("any"):
            write_certificate(view, Path(self.folder.name) / "page.pdf", "a4")
            if view.job.to_read:
                run_sheet(view.job, view.notes, "2026-11-29")
            read_form(view.job, form_csv(view.job, view.phase), "form")
            csv_bytes(view.procedure.table(view.seen))


def _with(draft: Mapping[str, str], fields: Iterable[Field], number: int, text: str) -> dict[str, str]:
    """A draft in which one field is another: a choice of its own where it has such."""
    name = sorted(draft)[number % len(draft)]
    choices = next((field.choices for field in fields if field.id == name and field.choices), ())
    return {**draft, name: choices[number % len(choices)] if choices else text}
