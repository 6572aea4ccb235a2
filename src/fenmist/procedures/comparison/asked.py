"""What a comparison is asked, as it is typed: where power is stated, how it is read, by what it is judged."""

from collections.abc import Mapping
from dataclasses import replace

from fenmist.calibration.asked import (
    tolerance_draft,
    tolerance_from_draft,
    tolerance_problems,
    whose_draft,
    with_whose,
)
from fenmist.calibration.gather import stated_at_input
from fenmist.calibration.job import HEAT, Job, Rule
from fenmist.findings.note import Problem
from fenmist.hookup.line import main_way
from fenmist.kit.sheet import Field

FOR_THE_LINE = (
    Field("stated", "power is stated at", choices=("the meter's output", "the meter's input")),
    Field("heat", "the load is", choices=("in between", "cold", "hot")),
)
"""What is asked about the hook-up."""

_ORDERS = ("REF-DUT", "REF-DUT-REF", "DUT-REF-DUT")

FOR_THE_PLAN = (
    Field("tolerance", "tolerance, ±", "5 %", "Per cent, dB, or as a data sheet states it: 3 % of reading + 1 digit"),
    Field("of", "of", choices=("full scale", "reading", "dB")),
    Field("rule", "rule", choices=tuple(str(rule) for rule in Rule)),
    Field("order", "reading order", help="REF what it is compared with, DUT the meter", choices=_ORDERS),
    Field("part_of_division", "needle is read to", choices=("a quarter division", "half a division")),
    Field("interval", "Monte Carlo interval", choices=("symmetric", "shortest")),
)  # fmt: skip
"""What is asked before anything is read."""

_STATED = {"the meter's output": False, "the meter's input": True}
_HEATS: Mapping[str, float | None] = {"in between": None, "cold": 0.0, "hot": 1.0}
_INTERVALS = {"symmetric": False, "shortest": True}
_PARTS_OF_DIVISION = {"a quarter division": 0.25, "half a division": 0.5}


def job_draft(job: Job) -> dict[str, str]:
    """Everything that is asked of a job, as texts."""
    parts = {part: name for name, part in _PARTS_OF_DIVISION.items()}
    return {
        **whose_draft(job),
        **tolerance_draft(job),
        "rule": str(job.rule),
        "stated": next(name for name, at_input in _STATED.items() if at_input is stated_at_input(job)),
        "order": next((name for name in _ORDERS if _sequence(job, name) == job.order), _ORDERS[0]),
        "heat": next(name for name, heat in _HEATS.items() if heat == job.method.parameters.get(HEAT)),
        "interval": next(name for name, shortest in _INTERVALS.items() if shortest == job.shortest_interval),
        "part_of_division": parts.get(job.part_of_division, "a quarter division"),
    }


def job_from_draft(job: Job, draft: Mapping[str, str]) -> Job | tuple[Problem, ...]:
    """The job with those fields as typed, or what is wrong with them."""
    made, problems = with_whose(job, draft), tolerance_problems(draft)
    if isinstance(made, tuple):
        return (*made, *problems)
    if problems:
        return problems
    terms = tolerance_from_draft(draft)
    made = _with_order(_with_stated(made, _STATED[draft["stated"]]), _sequence(made, draft["order"]))
    made = _with_heat(replace(made, shortest_interval=_INTERVALS[draft["interval"]]), _HEATS[draft["heat"]])
    return replace(
        made, tolerance=terms[0], tolerance_more=terms[1:], rule=Rule(draft["rule"]),
        part_of_division=_PARTS_OF_DIVISION[draft["part_of_division"]],
    )  # fmt: skip


def _sequence(job: Job, order: str) -> tuple[str, ...]:
    """The channels of a round: REF stands for the references one after the other, DUT for the device."""
    device = job.device_channel.id
    references = tuple(dict.fromkeys(item for item in job.order if item != device))
    return tuple(name for place in order.split("-") for name in (references if place == "REF" else (device,)))


def _with_order(job: Job, sequence: tuple[str, ...]) -> Job:
    """The job with another order within a round: at points to come and at those where nothing was entered."""
    begun = {event.entry.slot.point for event in job.events if event.entry is not None}
    plan = tuple(point if point.id in begun else replace(point, sequence=sequence) for point in job.plan)
    return replace(job, plan=plan, order=sequence)


def _with_stated(job: Job, at_input: bool) -> Job:
    """The job with its power stated at the meter's input or output; the meter's own loss lies between."""
    if stated_at_input(job) is at_input:
        return job
    hookup = job.bench
    stop = next(item for item in main_way(hookup, job.parts) if item.element == hookup.stated.element)
    plane = replace(hookup.stated, port=stop.entry if at_input else stop.exit or stop.entry)
    return job.with_hookup(replace(hookup, stated=plane)).stated_at(plane)


def _with_heat(job: Job, heat: float | None) -> Job:
    """The job with how hot its load is: what was measured cold and hot then counts."""
    method = job.method
    parameters = {name: value for name, value in method.parameters.items() if name != HEAT}
    if heat is not None:
        parameters[HEAT] = heat
    return job if parameters == method.parameters else replace(job, method=replace(method, parameters=parameters))
