"""What every job is asked, as it is typed: whose it is, what the device is, by what it is judged."""

import math
import re
from collections.abc import Mapping
from dataclasses import replace
from datetime import date

from fenmist.calibration.job import HEAT, Job, Rule
from fenmist.calibration.planning import range_for
from fenmist.calibration.receipt import STATES
from fenmist.errors import FenmistError, UnreadableError
from fenmist.findings.note import Problem
from fenmist.kit.part import Part, PartKind, SpecKind, SpecTerm
from fenmist.kit.sheet import Field
from fenmist.kit.spectext import spec_from_text, text_of_spec

WHOSE = (
    Field("title", "job", "Bittern 200 of the pilot boat"),
    Field("customer", "customer", "its owner"),
    Field("received_on", "received on", "2026-11-25"),
    Field("inventory", "asset number", "A-0417"),
    Field(
        "ports", "ports", "left faces the transmitter, HF", "Which port faces the transmitter; the band of each port"
    ),
    Field("switches", "settings during calibration", "average, 200 W", "Positions of buttons and switches"),
    Field("condition", "condition", "scratched glass, works"),
    Field("place", "place"),
    Field("technician", "technician"),
    Field("conditions", "conditions", "21 °C, warmed up for 30 minutes"),
    Field("next_due", "next due", "2027-11-25", "Printed on the certificate; only if the customer asks for it"),
)
"""Whose it is, and what stands on its page."""

_OF_RECEIPT = ("received_on", "inventory", "ports", "switches", "condition")
_KINDS = {"full scale": SpecKind.OF_RANGE, "reading": SpecKind.OF_READING, "dB": SpecKind.DB}


def whose_draft(job: Job) -> dict[str, str]:
    """Those fields as texts."""
    return {
        "title": job.title, "customer": job.customer, "place": job.place, "technician": job.technician,
        "conditions": job.conditions, "next_due": job.next_due,
        **{name: getattr(job.receipt, name) for name in _OF_RECEIPT},
    }  # fmt: skip


def with_whose(job: Job, draft: Mapping[str, str]) -> Job | tuple[Problem, ...]:
    """The job with those fields as typed, or what is wrong with them."""
    problems = _no_days(draft)
    if problems:
        return problems
    typed = {name: draft[name].strip() for name in whose_draft(job)}
    return replace(
        job, title=typed["title"] or job.title, customer=typed["customer"], place=typed["place"],
        technician=typed["technician"], conditions=typed["conditions"], next_due=typed["next_due"],
        receipt=replace(
            job.receipt, received_on=typed["received_on"], inventory=typed["inventory"], ports=typed["ports"],
            switches=typed["switches"], condition=typed["condition"],
        ),
    )  # fmt: skip


def _no_days(draft: Mapping[str, str]) -> tuple[Problem, ...]:
    found = []
    for field_id in ("received_on", "next_due"):
        text = draft[field_id].strip()
        try:
            if text:
                date.fromisoformat(text)
        except ValueError:
            found.append(Problem(field_id, f"“{text}” is no day.", "Type year-month-day: 2026-11-25."))
    return tuple(found)


_BARE = re.compile(r"[\d.,]+\s*(%|dB)?", re.I)
_MOST = {SpecKind.DB: 10.0, SpecKind.OF_RANGE: 1.0, SpecKind.OF_READING: 1.0}


def tolerance_from_draft(draft: Mapping[str, str]) -> tuple[SpecTerm, ...]:
    """Terms of the tolerance; a number or a share alone is of what is chosen beside it. Raises UnreadableError."""
    of, text = draft["of"], draft["tolerance"].strip()
    kind = _KINDS[of]
    if match := _BARE.fullmatch(text):
        unit = (match[1] or "").lower()
        if unit and (unit == "db") is not (kind is SpecKind.DB):
            raise UnreadableError(
                f"“{text}” isn't {'in dB' if kind is SpecKind.DB else f'a share of the {of}'}.",
                "Type 0.3 dB." if kind is SpecKind.DB else "Type 5 %.",
            )
        number = re.sub(r"\s*(%|dB)$", "", text, flags=re.I)
        text = f"{number} dB" if kind is SpecKind.DB else f"{number} % of {of}"
    terms = spec_from_text(text, "W", basis="agreed")
    if not terms or any(term.kind is SpecKind.UNKNOWN for term in terms):
        raise UnreadableError("A tolerance is needed.", "Type for example 5 %, or 3 % of reading + 1 digit.")
    return terms


def tolerance_draft(job: Job) -> dict[str, str]:
    """The tolerance as texts: the share, and what it is of."""
    kinds = {kind: name for name, kind in _KINDS.items()}
    return {"tolerance": _tolerance_text(job.tolerances), "of": kinds.get(job.tolerance.kind, "full scale")}


def _tolerance_text(terms: tuple[SpecTerm, ...]) -> str:
    """One term of the usual kinds without what it is of, which stands beside it; else the whole statement."""
    term, *more = terms
    if more or term.kind not in _KINDS.values():
        return text_of_spec(terms)
    return f"{term.value:g} dB" if term.kind is SpecKind.DB else f"{100 * term.value:g} %"


def tolerance_problems(draft: Mapping[str, str]) -> tuple[Problem, ...]:
    """What is wrong with a tolerance as typed."""
    try:
        terms = tolerance_from_draft(draft)
    except FenmistError as error:
        return (Problem("tolerance", error.headline, error.hint),)
    if any(term.value > _MOST.get(term.kind, math.inf) for term in terms):
        return (Problem("tolerance", "A tolerance is above 0 and at most 100 % or 10 dB."),)
    return ()


# how it is read and judged

TOLERANCE = (
    Field("tolerance", "tolerance, ±", "5 %", "Per cent, dB, or as a data sheet states it: 3 % of reading + 1 digit"),
    Field("of", "of", choices=tuple(_KINDS)),
    Field("rule", "rule", choices=tuple(str(rule) for rule in Rule)),
)  # fmt: skip
"""By what a claim is judged."""

READING = (
    Field(
        "part_of_division",
        "needle is read to",
        choices=("a quarter division", "half a division", "a whole division"),
        help="A whole division, that is a segment, of a bar graph",
    ),
    Field("interval", "Monte Carlo interval", choices=("symmetric", "shortest")),
)
"""How needles are read, and which interval is stated where one is drawn."""

HEATED = Field("heat", "the load is", choices=("in between", "cold", "hot"))
"""Which of its tables holds."""

_HEATS: Mapping[str, float | None] = {"in between": None, "cold": 0.0, "hot": 1.0}
_INTERVALS = {"symmetric": False, "shortest": True}
_PARTS_OF_DIVISION = {"a quarter division": 0.25, "half a division": 0.5, "a whole division": 1.0}


def judged_draft(job: Job) -> dict[str, str]:
    """Tolerance, rule, heat and reading as texts."""
    parts = {part: name for name, part in _PARTS_OF_DIVISION.items()}
    return {
        **tolerance_draft(job),
        "rule": str(job.rule),
        "heat": next(name for name, heat in _HEATS.items() if heat == job.method.parameters.get(HEAT)),
        "interval": next(name for name, shortest in _INTERVALS.items() if shortest == job.shortest_interval),
        "part_of_division": parts.get(job.part_of_division, "a quarter division"),
    }


def with_judged(job: Job, draft: Mapping[str, str]) -> Job | tuple[Problem, ...]:
    """The job with those fields and what stands on paper about it as typed, or what is wrong with them."""
    made, problems = with_whose(job, draft), tolerance_problems(draft)
    if isinstance(made, tuple):
        return (*made, *problems)
    if problems:
        return problems
    terms = tolerance_from_draft(draft)
    made = _with_heat(replace(made, shortest_interval=_INTERVALS[draft["interval"]]), _HEATS[draft["heat"]])
    return replace(
        made, tolerance=terms[0], tolerance_more=terms[1:], rule=Rule(draft["rule"]),
        part_of_division=_PARTS_OF_DIVISION[draft["part_of_division"]],
    )  # fmt: skip


def _with_heat(job: Job, heat: float | None) -> Job:
    """The job with how hot its load is: what was measured cold and hot then counts."""
    method = job.method
    parameters = {name: value for name, value in method.parameters.items() if name != HEAT}
    if heat is not None:
        parameters[HEAT] = heat
    return job if parameters == method.parameters else replace(job, method=replace(method, parameters=parameters))


def with_order(job: Job, sequence: tuple[str, ...]) -> Job:
    """The job with another order within a round: at points to come and at those where nothing was entered."""
    begun = {event.entry.slot.point for event in job.events if event.entry is not None}
    plan = tuple(
        point
        if point.id in begun or not job.is_read(point.hookup)
        else replace(point, sequence=job.order_on(point.hookup, sequence))
        for point in job.plan
    )
    return replace(job, plan=plan, order=sequence)


# the device


_OF_DEVICE = (
    "label",
    "serial",
    "ranges",
    "marks",
    "divisions",
    "law",
    "accuracy",
    "shows",
    "needles",
    "span",
    "directivity",
)


def device_fields(kind: PartKind) -> tuple[Field, ...]:
    """What a device of a kind is, of a meter as far as it can be seen on it."""
    from fenmist.kit.draft import fields_for  # on first use, with every field of every kind

    fields = fields_for(kind)
    if kind is not PartKind.INLINE_METER:
        return fields
    known = {item.id: item for item in fields}
    return tuple(known[name] for name in _OF_DEVICE)


def device_draft(job: Job) -> dict[str, str]:
    """Those fields as texts."""
    from fenmist.kit.draft import draft_from_part

    return draft_from_part(job.dut_part)


def with_device_draft(job: Job, draft: Mapping[str, str]) -> Job | tuple[Problem, ...]:
    """The job with its device as typed, ranges of the plan chosen anew where theirs is gone."""
    from fenmist.kit.draft import part_from_draft

    made = part_from_draft(job.dut_part, {**device_draft(job), **draft})
    return made if isinstance(made, tuple) else with_device(job, made)


def with_device(job: Job, part: Part) -> Job:
    """The job with its device described otherwise; ranges of the plan are chosen anew where theirs is gone."""
    changed = job.with_part(part)
    ranges = changed.device_ranges
    known = {item.id for item in ranges}
    plan = tuple(
        point if point.range_id in known else replace(point, range_id=range_for(ranges, point.target_w))
        for point in job.plan
    )
    return replace(changed, plan=plan)


def with_look(job: Job, item: str, remark: str | None = None) -> Job:
    """The job with the next state of an item of the look-over list, or with a remark to it."""
    look = job.receipt.look(item)
    if remark is None:
        look = replace(look, state=STATES[(STATES.index(look.state) + 1) % len(STATES)])
    else:
        look = replace(look, remark=remark.strip())
    return replace(job, receipt=job.receipt.with_look(item, look))
