"""What is asked of a job about modulation, as it is typed."""

from collections.abc import Mapping
from dataclasses import replace

from fenmist.calibration.asked import HEATED, READING, judged_draft, whose_draft, with_judged
from fenmist.calibration.job import Job, Rule
from fenmist.errors import FenmistError
from fenmist.findings.note import Problem
from fenmist.kit.part import SpecKind
from fenmist.kit.sheet import Field
from fenmist.procedures.modulation.make import CLAIM, PEP_HELD, SCALE, USUAL, visits
from fenmist.procedures.modulation.waves import problem_of
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS

FOR_THE_LINE = (HEATED,)
"""What is asked about the hook-up."""

CLAIMS = ("PEP", "the mean", "nothing in particular")
"""What a meter says that it shows."""

FOR_THE_PLAN = (
    Field("claim", "it claims to show", help="With the button in the position that is asked about", choices=CLAIMS),
    Field("tolerance", "which may be off by, ±", "5 %", "Of what the steady carrier shows"),
    Field(
        "waveforms", "sent in turn", "carrier; two-tone; dots 20 Hz; dots 1 Hz; carrier again",
        "Parted by semicolons, the carrier first: two-tone 0.5, dots 4 Hz 30 %, AM 80 %",
    ),
    Field("pep_held", "PEP the same within ±", "0.2 dB", "Where no instrument reads the crest beside it"),
    Field("scale", "its scale errs by, ±", "3 %", "Between a high and a low reading"),
    Field("rule", "rule", choices=tuple(str(rule) for rule in Rule)),
    *READING,
)  # fmt: skip
"""What is asked before anything is read."""


def job_draft(job: Job) -> dict[str, str]:
    """Everything that is asked of a job, as texts."""
    taken = {**USUAL, **job.method.parameters}
    return {
        **whose_draft(job), **judged_draft(job), "claim": CLAIMS[int(taken[CLAIM])],
        "waveforms": "; ".join(leg.id for leg in job.legs), "pep_held": f"{taken[PEP_HELD]:g} dB",
        "scale": f"{100.0 * taken[SCALE]:g} %",
    }  # fmt: skip


def job_from_draft(job: Job, draft: Mapping[str, str]) -> Job | tuple[Problem, ...]:
    """The job with those fields as typed, or what is wrong with them."""
    made = with_judged(job, {**draft, "of": "reading"})
    problems = [*made] if isinstance(made, tuple) else []
    if not isinstance(made, tuple) and (made.tolerance_more or made.tolerance.kind is not SpecKind.OF_READING):
        problems.append(Problem("tolerance", "It is one share of the reading.", "Type for example 5 %."))
    values = {CLAIM: float(CLAIMS.index(draft["claim"]))}
    for field_id, name, unit, most in (("pep_held", PEP_HELD, "dB", 6.0), ("scale", SCALE, "%", 0.5)):
        try:
            values[name] = value_from_text(draft[field_id], UNITS[unit], "this", "0.2 dB" if unit == "dB" else "3 %")
        except FenmistError as error:
            problems.append(Problem(field_id, error.headline, error.hint))
            continue
        if not 0.0 <= values[name] <= most:
            problems.append(Problem(field_id, "That is out of range.", "It is 0 or above, and small."))
    waveforms = tuple(" ".join(text.split()) for text in draft["waveforms"].split(";") if text.strip())
    moved = waveforms != tuple(leg.id for leg in job.legs)
    if moved and (said := problem_of(waveforms)):
        problems.append(Problem("waveforms", f"{said[0].upper()}{said[1:]}.", "Look at the example."))
    elif moved and job.plan:
        problems.append(Problem(
            "waveforms", "Points are planned for the waveforms as they are.", "Take those points out of the plan first."
        ))  # fmt: skip
    if problems or isinstance(made, tuple):
        return tuple(problems)
    if moved:
        made = replace(made, legs=visits(job.bench.id, waveforms))
    parameters = {**made.method.parameters, **values}
    if parameters == made.method.parameters:
        return made
    return replace(made, method=replace(made.method, parameters=parameters))
