"""Parts as they are typed: a draft is texts by field; here they become a part, or problems by field."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import date

from fenmist.findings.note import Problem
from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import CalibrationRecord, Part, PartKind
from fenmist.kit.sheet import Field, fields_of, shown_by, with_facts
from fenmist.kit.sheets import SHEETS, sheet_for

_COMMON = (Field("label", "name", "Bittern 200"), Field("serial", "serial number"))
_HISTORY = (
    Field("compared_on", "calibrated on", "2026-03-12", "Day of the last calibration"),
    Field("compared_by", "calibrated by", "standards room"),
    Field("due", "due", "2027-03-12"),
)

_COMPARED = frozenset(PartKind) - {
    PartKind.TRANSMITTER, PartKind.JUMPER, PartKind.TEE, PartKind.LEAD, PartKind.PROBE,
}  # fmt: skip
"""Kinds that are compared with something better now and then."""


def fields_for(kind: PartKind) -> tuple[Field, ...]:
    """Fields of a kind of part."""
    return (*_COMMON, *fields_of(SHEETS[kind]), *(_HISTORY if kind in _COMPARED else ()))


def fields_of_part(part: Part) -> tuple[Field, ...]:
    """Fields of a part, with those of its own pieces."""
    return (*_COMMON, *fields_of(sheet_for(part)), *(_HISTORY if part.kind in _COMPARED else ()))


def draft_from_part(part: Part) -> dict[str, str]:
    """A part as texts."""
    draft = {"label": part.label, "serial": part.serial, **shown_by(sheet_for(part), part)}
    if part.history:
        latest = part.history[-1]
        draft |= {"compared_on": latest.on, "compared_by": latest.by, "due": latest.due}
    return draft


def part_from_draft(base: Part, draft: Mapping[str, str]) -> Part | tuple[Problem, ...]:
    """The part a draft describes; `base` gives its id, kind and what no form shows (characterisations).

    Returns
    -------
    Part, or Problems
        One for each field that can't be taken.
    """
    label = draft.get("label", "").strip()
    problems = [] if label else [Problem("label", "A part needs a name.", "Type what stands on it.")]
    stated = {name: draft.get(name, "").strip() for name in ("compared_on", "compared_by", "due")}
    problems += [found for name in ("compared_on", "due") if (found := _no_day(name, stated[name]))]
    if not problems and not stated["compared_on"] and any(stated.values()):
        problems.append(Problem("compared_on", "The day of the comparison is missing.", "Type it: 2026-03-12."))
    made = with_facts(base, sheet_for(base), draft)
    if problems or not isinstance(made, Part):
        return (*problems, *(() if isinstance(made, Part) else made))
    return replace(made, label=label, serial=draft.get("serial", "").strip(), history=_history(base, draft))


def _no_day(field_id: str, text: str) -> Problem | None:
    """What is wrong with a field that holds a day, if anything."""
    try:
        if text:
            date.fromisoformat(text)
    except ValueError:
        return Problem(field_id, f"“{text}” is no day.", "Type year-month-day: 2026-03-12.")
    return None


def _history(base: Part, draft: Mapping[str, str]) -> tuple[CalibrationRecord, ...]:
    on = draft.get("compared_on", "").strip()
    if not on:
        return base.history if "compared_on" not in draft else ()
    number = base.history[-1].reference if base.history else ""
    record = CalibrationRecord(on, draft.get("compared_by", "").strip(), draft.get("due", "").strip(), number)
    kept = tuple(item for item in base.history if item.on != on)
    return (*kept, record)


def blank_part(part_id: str, kind: PartKind) -> Part:
    """A new part of a kind, with the starter shelf's typical values to begin from."""
    like = next(part for part in starter_shelf() if part.kind is kind)
    return replace(like, id=part_id, label=f"new {kind}")
