"""The chain behind a result: what it leans on, what that leaned on in its turn, and the weakest link.

A correction that was taken from a certificate of the logbook holds what that certificate leaned on, so the chain is
walked without the logbook. Weakest is what has no calibration on record, then what was overdue, then what most of the
variance comes from. Page: docs/method/correction.md.
"""

from collections.abc import Iterator
from dataclasses import replace
from datetime import date

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Outcome, by_part
from fenmist.kit.characterisation import ChainLink, Characterisation
from fenmist.kit.due import due
from fenmist.kit.part import Part, PartKind
from fenmist.kit.tables import CORRECTION
from fenmist.units.display import percent
from fenmist.units.moment import years_since

A_MONTH = 1.0 / 12.0
"""In years."""


def read_on(job: Job) -> tuple[Part, ...]:
    """Parts of the hook-ups that are read, each once."""
    read = dict.fromkeys((job.stated.plane.hookup, *(point.hookup for point in job.to_read)))
    used = (element.part for name in read for element in job.hookup(name).elements)
    return tuple(job.part(name) for name in dict.fromkeys(used))


def leaned_on(job: Job) -> tuple[Part, ...]:
    """What the results lean on: every reference, and the load."""
    read = {job.part_read(item.id).id for item in job.channels if not job.is_device(item.id) and not item.beside}
    return tuple(part for part in read_on(job) if part.id in read or part.kind is PartKind.LOAD)


def link_of(part: Part) -> ChainLink:
    """A part as a link: its latest calibration; without a day where none is on record."""
    latest = due(part, date.max).latest
    if latest is None:
        return ChainLink(named(part))
    return ChainLink(named(part), latest.on, latest.by, latest.reference, latest.due)


def links(job: Job) -> tuple[ChainLink, ...]:
    """Everything that the results lean on, each followed by what it leaned on, a step deeper each."""
    return tuple(
        link
        for part in leaned_on(job)
        for link in (link_of(part), *(replace(item, depth=item.depth + 1) for item in beneath(part)))
    )


def beneath(part: Part) -> tuple[ChainLink, ...]:
    """What a part's correction leaned on, where a certificate of the logbook says so."""
    table = part.characterisation(CORRECTION)
    return table.leans_on if table is not None else ()


def named(part: Part) -> str:
    """A part by its label and serial number."""
    return f"{part.label} ({part.serial})" if part.serial else part.label


def chain_statements(job: Job, result: Outcome) -> Iterator[str]:
    """The chain in words where a reference leans on more, and the weakest link, for paper."""
    for part in leaned_on(job):
        table = part.characterisation(CORRECTION)
        if table is not None and table.leans_on:
            steps = [_level(table.leans_on, depth) for depth in sorted({link.depth for link in table.leans_on})]
            yield (
                f"{part.label} is taken with its correction, {table.source}: U up to {percent(_largest_u(table))}, "
                f"{_age(job, table.measured_on)}{_moves(table)}. It leans on {'; that on '.join(steps)}."
            )
    if leaned_on(job) and all(link_of(part).on for part in leaned_on(job)):  # else that is said of the chain already
        yield f"The weakest link is {weakest(job, result)}."


def _largest_u(table: Characterisation) -> float:
    """U, relative, k = 2."""
    return 2.0 * max((u / abs(value) for u, value in zip(table.u, table.real, strict=True)), default=0.0)


def _moves(table: Characterisation) -> str:
    if not table.drift_per_year:
        return ", how it moves through the years not known"
    return f", moving by {percent(table.drift_per_year)} a year"


def _level(beneath: tuple[ChainLink, ...], depth: int) -> str:
    return " and ".join(said(link) for link in beneath if link.depth == depth)


def said(link: ChainLink) -> str:
    """A link in words."""
    return f"{link.label} ({calibrated(link)})"


def calibrated(link: ChainLink) -> str:
    """When a link was calibrated, by whom, under which number."""
    if not link.on:
        return "no calibration on record"
    number = f", {link.reference}" if link.reference else ""
    return f"calibrated {link.on} by {link.by or 'nobody named'}{number}"


def _age(job: Job, day: str) -> str:
    years = years_since(day, job.created_at)
    if years is None:
        return "of unknown age"
    return f"{years:.1f} years old" if years >= A_MONTH else "not a month old"


def weakest(job: Job, result: Outcome) -> str:
    """The weakest link, with why, in words."""
    label, why = weakest_link(job, result)
    return f"{label}: {why}" if why else label


def weakest_link(job: Job, result: Outcome) -> tuple[str, str]:
    """Label of the weakest link, and why it is that; raises IndexError where the results lean on nothing."""
    found = links(job)
    loose = next((link for link in found if not link.on), None)
    if loose is not None:
        return loose.label, "no calibration of it is on record"
    as_of = job.last_at.date().isoformat()
    late = min((link for link in found if link.due and link.due < as_of), key=lambda link: link.due, default=None)
    if late is not None:
        return late.label, f"it was due on {late.due}"
    worst = max(result.stated, key=lambda item: item.expanded_u_share, default=None)
    if worst is None:
        return "not known before anything was read", ", ".join(link.label for link in found)
    names = {part.id: part for part in leaned_on(job)}
    for row in by_part(job, result.budget(worst.point.id)):
        part = names.get(row.influence.id.removeprefix("part "))
        if part is not None:
            return named(part), f"{percent(row.share)} of the variance is from there"
    return found[0].label, ""
