"""What is asked of a job about a match, as it is typed."""

from collections.abc import Mapping
from dataclasses import replace

from fenmist.calibration.asked import HEATED, READING, judged_draft, whose_draft, with_judged
from fenmist.calibration.job import Job, Rule
from fenmist.errors import FenmistError, OutOfRangeError
from fenmist.findings.note import Problem
from fenmist.kit.part import SpecKind, SpecTerm
from fenmist.kit.sheet import Field
from fenmist.kit.spectext import spec_from_text, text_of_spec
from fenmist.measurand import Kind
from fenmist.procedures.reflection.make import judged_indicator
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS

FOR_THE_LINE = (HEATED,)
"""What is asked about the hook-ups."""

FOR_THE_PLAN = (
    Field("tolerance", "directivity claimed", "25 dB", "Of the meter's coupler, as its data sheet states it"),
    Field("scale", "accuracy of its scale, ±", "5 % of full scale", "Left empty: directivity alone is judged"),
    Field("rule", "rule", choices=tuple(str(rule) for rule in Rule)),
    *READING,
)
"""What is asked before anything is read."""

LEAST_DB, MOST_DB = 3.0, 80.0
"""Directivities that a meter may claim (Fenmist's own)."""


def job_draft(job: Job) -> dict[str, str]:
    """Everything that is asked of a job, as texts."""
    drafted = {**whose_draft(job), **judged_draft(job)}
    return {**drafted, "tolerance": f"{job.tolerance.value:g} dB", "scale": text_of_spec(job.tolerance_more)}


def job_from_draft(job: Job, draft: Mapping[str, str]) -> Job | tuple[Problem, ...]:
    """The job with those fields as typed, or what is wrong with them."""
    made = with_judged(job, {**draft, "tolerance": "1 dB", "of": "dB"})
    problems = list(made) if isinstance(made, tuple) else []
    first, more = job.tolerance, job.tolerance_more
    try:
        first = _directivity(job, draft["tolerance"])
    except FenmistError as error:
        problems.append(Problem("tolerance", error.headline, error.hint))
    try:
        more = _scale(job, draft["scale"])
    except FenmistError as error:
        problems.append(Problem("scale", error.headline, error.hint))
    if problems or isinstance(made, tuple):
        return tuple(problems)
    return replace(made, tolerance=first, tolerance_more=more)


def _directivity(job: Job, text: str) -> SpecTerm:
    value = value_from_text(text, UNITS["dB"], "directivity", "25 dB")
    if not LEAST_DB <= value <= MOST_DB:
        raise OutOfRangeError(f"No meter has a directivity of “{text.strip()}”.", "Type for example 25 dB.")
    return job.tolerance if value == job.tolerance.value else SpecTerm(SpecKind.DB, value, "dB", basis="agreed")


def _scale(job: Job, text: str) -> tuple[SpecTerm, ...]:
    if text.strip() == text_of_spec(job.tolerance_more):
        return job.tolerance_more
    shows = judged_indicator(job.dut_part)
    unit = {Kind.REFLECTED: "W", Kind.RETURN_LOSS: "dB"}.get(shows.quantity if shows else Kind.SWR, "")
    terms = spec_from_text(text, unit, basis="agreed")
    if any(term.kind is SpecKind.UNKNOWN for term in terms):
        raise OutOfRangeError("What is unknown judges nothing.", "Leave it empty, or type for example 10 % of reading.")
    return terms
