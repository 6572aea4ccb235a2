"""Random plugging and unplugging: whatever is done, the hook-up stays one that can be drawn and worked out."""

from collections.abc import Callable

import numpy as np
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from fenmist.calibration.job import Job
from fenmist.errors import FenmistError
from fenmist.hookup.levels import line_levels
from fenmist.hookup.line import HookUp, main_line, side_ways, source_of
from fenmist.hookup.staircase import staircase
from fenmist.hookup.templates import TEMPLATES, Template, from_template
from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import SOURCES
from fenmist.procedures import benchwork
from fenmist.reports.linedrawing import line_svg
from fenmist.reports.linelayout import Measures, lay_out
from studies.builders import job

SHELF = {part.id: part for part in starter_shelf()}
PARTS = st.sampled_from(sorted(SHELF))
MOST = 14


class Lines(RuleBasedStateMachine):
    """One free hook-up of a job, edited at random; every refusal has to come in words."""

    @initialize(template=st.sampled_from(TEMPLATES))
    def begin(self, template: Template) -> None:
        self.job = benchwork.with_new_hookup(job(level_w=0.001), from_template(template, starter_shelf(), "x"))

    @property
    def hookup(self) -> HookUp:
        return self.job.hookups[1]

    def _element(self, number: int) -> str:
        names = [item.id for item in self.hookup.elements]
        return names[number % len(names)]

    def _try(self, edit: Callable[..., Job], *values: object) -> None:
        try:
            self.job = edit(self.job, self.hookup, *values)
        except FenmistError as error:
            assert error.headline.endswith(".") and error.hint.endswith(".")

    @precondition(lambda self: len(self.hookup.elements) < MOST)
    @rule(number=st.integers(0, 99), part=PARTS)
    def insert(self, number: int, part: str) -> None:
        self._try(benchwork.with_inserted, self._element(number), SHELF[part])

    @precondition(lambda self: len(self.hookup.elements) < MOST)
    @rule(number=st.integers(0, 99), part=PARTS)
    def hang(self, number: int, part: str) -> None:
        if SHELF[part].kind not in SOURCES:
            self._try(benchwork.with_hung, self._element(number), SHELF[part])

    @rule(number=st.integers(0, 99))
    def remove(self, number: int) -> None:
        self._try(benchwork.with_removed, self._element(number))

    @rule(number=st.integers(0, 99))
    def turn(self, number: int) -> None:
        self._try(benchwork.with_turned, self._element(number))

    @rule(number=st.integers(0, 99), part=PARTS)
    def exchange(self, number: int, part: str) -> None:
        element = self._element(number)
        here = self.job.part(self.hookup.element(element).part)
        if (here.kind in SOURCES) == (SHELF[part].kind in SOURCES):
            self._try(benchwork.with_exchanged, element, SHELF[part])

    @rule(number=st.integers(0, 99))
    def state(self, number: int) -> None:
        self._try(benchwork.with_stated, self._element(number))

    @rule(number=st.integers(0, 99), step=st.sampled_from([1, -1]))
    def switch(self, number: int, step: int) -> None:
        self._try(benchwork.with_switched, self._element(number), step)

    @invariant()
    def joints_hold(self) -> None:
        if not hasattr(self, "job"):
            return
        hookup, parts = self.hookup, self.job.parts
        names = {item.id for item in hookup.elements}
        assert len(names) == len(hookup.elements)
        ends = [end for joint in hookup.joints for end in (joint.a, joint.b)]
        assert len(ends) == len(set(ends)), "a connector holds one other"
        for element, port in ends:
            assert element in names
            parts[hookup.element(element).part].port(port)
        assert hookup.stated.element in names

    @invariant()
    def everything_is_on_the_way_from_the_source(self) -> None:
        if not hasattr(self, "job"):
            return
        hookup, parts = self.hookup, self.job.parts
        assert source_of(hookup, parts) is not None
        met = {
            *main_line(hookup, parts),
            *(stop.element for stops in side_ways(hookup, parts).values() for stop in stops),
        }
        assert met == {item.id for item in hookup.elements}

    @invariant()
    def it_can_be_worked_out_and_drawn(self) -> None:
        if not hasattr(self, "job"):
            return
        hookup, parts = self.hookup, self.job.parts
        plan = line_levels(hookup, parts, np.array([14e6])).plan(parts, 0.001)
        assert all(np.isfinite(level.volts_rms) for level in (*plan.levels, *plan.worst, *plan.fault))
        assert staircase(hookup, parts, plan)
        layout = lay_out(hookup, parts, lambda _: 60.0, Measures(1000.0, 14.0, 74.0, 42.0, 80.0, 46.0, 170.0, 74.0))
        assert {box.element for box in layout.boxes} == {item.id for item in hookup.elements}
        assert line_svg(self.job, hookup).startswith("<svg")
