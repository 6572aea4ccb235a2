"""Plugging and unplugging in a job: edits of its hook-ups, with the parts they need embedded as they are now.

The hook-up that the job's method reads has to stay one it can read; others may be anything, and are checked on paper.
"""

from collections.abc import Sequence
from dataclasses import replace
from itertools import groupby

from fenmist.calibration.channels import READABLE, channel_on, readable, supply_of
from fenmist.calibration.edit import fitted_to_device, without_unused
from fenmist.calibration.job import Channel, Job
from fenmist.errors import OutOfRangeError
from fenmist.hookup import editing
from fenmist.hookup.line import HookUp, branches, main_way, way
from fenmist.hookup.templates import Bench
from fenmist.kit.part import SOURCES, Part
from fenmist.measurand import Kind, PlaneRef
from fenmist.procedures.table import procedure_of


def read_hookup(job: Job) -> str:
    """Id of the hook-up that the job's method reads."""
    return job.stated.plane.hookup


def with_line(job: Job, made: HookUp, parts: Sequence[Part] = ()) -> Job:
    """The job with a hook-up as edited.

    Raises
    ------
    OutOfRangeError
        Where the method reads that hook-up and could do so no longer.
    """
    changed = without_unused(_embedding(job, parts).with_hookup(made))
    if all(channel.hookup != made.id for channel in job.channels):
        return changed
    trouble = _not_read(changed, made) or procedure_of(changed).trouble(changed, made)
    if trouble:
        raise OutOfRangeError(
            f"The readings of this job are taken on this hook-up: {trouble}.", "Make another hook-up for another bench."
        )
    changed = _refitted(changed, job, made)
    return changed.stated_at(made.stated) if made.id == changed.stated.plane.hookup else changed


def _not_read(job: Job, hookup: HookUp) -> str:
    """Why something that is read on a hook-up isn't there any more, or nothing."""
    read = [item for item in job.channels if item.hookup == hookup.id]
    gone = next((item for item in read if all(element.id != item.element for element in hookup.elements)), None)
    if gone is not None:
        return f"“{gone.element}” is read, and isn't there any more"
    names = [stop.element for stop in main_way(hookup, job.parts)]
    met = {*names, *(name for stops in branches(hookup, job.parts).values() for name in stops)}
    loose = next((item for item in read if item.element not in met), None)
    return f"“{loose.element}” is read, and is joined to nothing" if loose is not None else ""


def _refitted(job: Job, former: Job, hookup: HookUp) -> Job:
    """The job with each channel on an indicator and at a port that its part has, as it lies in the line now: another
    part may call its own otherwise, show another quantity, or be joined by another pair of ports.

    Raises
    ------
    OutOfRangeError
        Where a part shows nothing that could be read in the place of what was.
    """
    before = former.hookup(hookup.id)

    def refitted(channel: Channel) -> Channel:
        if channel.hookup != hookup.id:
            return channel
        part, was = job.part_read(channel.id), former.indicator(channel.id)
        alike = [item for item in part.indicators if item.quantity is was.quantity]
        if not alike:
            return showing_otherwise(channel, part, was.quantity)
        shows = next((item for item in alike if item.id == channel.indicator), alike[0])
        plane = moved(channel.measurand.plane, job.is_device(channel.id))
        return replace(channel, indicator=shows.id, measurand=replace(channel.measurand, plane=plane))

    def moved(plane: PlaneRef, is_device: bool) -> PlaneRef:
        if is_device and plane == before.stated:
            return hookup.stated
        ends = (
            line.ends(plane.element, owner.part(line.element(plane.element).part))
            for line, owner in ((before, former), (hookup, job))
        )
        return replace(plane, port=dict(zip(*ends, strict=False)).get(plane.port, plane.port))

    def showing_otherwise(channel: Channel, part: Part, quantity: Kind) -> Channel:
        if quantity not in READABLE or channel.measurand.kind is not quantity or job.is_device(channel.id):
            raise OutOfRangeError(
                f"{part.label} doesn't show {quantity}, which is read there.",
                "Choose one that does, or begin another job.",
            )
        found = channel_on(hookup, channel.element, part)
        if any(event.entry is not None and event.entry.channel == channel.id for event in job.standing.values()):
            raise OutOfRangeError(
                f"{part.label} shows {found.measurand.kind}, and {quantity} was read there already.",
                "Strike those readings first, or make another hook-up for it.",
            )
        measurand = replace(found.measurand, statistic=channel.measurand.statistic)
        return replace(channel, indicator=found.indicator, measurand=measurand)

    return replace(job, channels=tuple(refitted(channel) for channel in job.channels))


def _embedding(job: Job, parts: Sequence[Part]) -> Job:
    """The job with parts in its snapshot; one that stands there already stays as it is, with what was typed of it."""
    known = job.parts
    for part in parts:
        job = job if part.id in known else job.with_part(part)
    return job


def place_behind(job: Job, hookup: HookUp, element_id: str) -> tuple[str, str] | None:
    """The connector behind an element, in front of it where it ends a line; none where nothing can be put."""
    parts = job.parts
    stop = next((item for item in main_way(hookup, parts) if item.element == element_id), None)
    if stop is None:
        for item in hookup.elements:
            for port in parts[item.part].side_ports:
                stop = stop or next((s for s in way(hookup, parts, item.id, port.id) if s.element == element_id), None)
    if stop is None:
        return None
    return (element_id, stop.exit) if stop.exit else hookup.mate(element_id, stop.entry)


def fits_behind(hookup: HookUp, at: tuple[str, str], part: Part) -> bool:
    """Whether a part can be plugged in behind a connector: between two, or at an open end."""
    if part.kind in SOURCES:
        return False
    return hookup.mate(*at) is None or len(part.ends) == 2


def with_inserted(job: Job, hookup: HookUp, element_id: str, part: Part) -> Job:
    """The job with a part behind an element; raises OutOfRangeError."""
    at = place_behind(job, hookup, element_id)
    if at is None:
        raise OutOfRangeError("Nothing can be put in here.", "Choose a part that the line passes.")
    return with_line(job, editing.inserted(hookup, *at, part), (part,))


def with_hung(job: Job, hookup: HookUp, element_id: str, part: Part) -> Job:
    """The job with a part on a free side port of an element; raises OutOfRangeError."""
    port = editing.free_side_port(hookup, job.parts, element_id)
    return with_line(job, editing.inserted(hookup, element_id, port, part), (part,))


def with_removed(job: Job, hookup: HookUp, element_id: str) -> Job:
    """The job without an element and what hangs on it; raises OutOfRangeError."""
    return with_line(job, editing.removed(hookup, job.parts, element_id))


def with_turned(job: Job, hookup: HookUp, element_id: str) -> Job:
    """The job with a part the other way round; raises OutOfRangeError."""
    return with_line(job, editing.turned_round(hookup, job.parts, element_id))


def with_stated(job: Job, hookup: HookUp, element_id: str) -> Job:
    """The job with power stated at an element; raises OutOfRangeError."""
    return with_line(job, editing.stated_at(hookup, job.parts, element_id))


def with_switched(job: Job, hookup: HookUp, element_id: str, step: int = 1) -> Job:
    """The job with an element's switch one position on; raises OutOfRangeError."""
    return with_line(job, editing.with_next_position(hookup, job.parts, element_id, step))


def with_read(job: Job, hookup: HookUp, element_id: str) -> Job:
    """The job with an instrument read in each round that isn't begun yet, or not read any more.

    Raises
    ------
    OutOfRangeError
        Where it shows nothing that a power follows from, is the device, is the last reference, or isn't on the hook-up
        that is read.
    """
    part = job.part(hookup.element(element_id).part)
    if not job.is_read(hookup.id):
        raise OutOfRangeError("The readings of this job are taken on another hook-up.", "Show that one first.")
    if job.legs:
        raise OutOfRangeError("What is read on each of these hook-ups is fixed.", "Choose another bench (Ctrl+B).")
    references = [item for item in dict.fromkeys(job.order) if job.is_reference(item)]
    supply = supply_of(hookup, element_id, part)
    if supply and (part.id == job.dut or not readable(part)):
        return _with_supply(job, supply)
    if part.id == job.dut:
        raise OutOfRangeError(f"{part.label} is the device under test: it is always read.", "Choose a reference.")
    known = next(
        (
            item
            for item in job.channels
            if (item.hookup, item.element) == (hookup.id, element_id) and not job.is_supply(item.id)
        ),
        None,
    )
    if known is not None and known.id in references:
        if len(references) == 1:
            raise OutOfRangeError(f"{part.label} is the only reference.", "Have another one read first.")
        references.remove(known.id)
    else:
        known = known or channel_on(hookup, element_id, part, {item.id for item in job.channels})
        references.append(known.id)
    channels = job.channels if known in job.channels else (*job.channels, known)
    return with_references(replace(job, channels=channels), references)


def _with_supply(job: Job, supply: Sequence[Channel]) -> Job:
    """The job with the DC that goes into its source read last in each round to come, or not read any more."""
    names, known = tuple(item.id for item in supply), {item.id for item in job.channels}
    more = () if names[0] in job.order else names
    begun = {event.entry.slot.point for event in job.events if event.entry is not None}

    def exchanged(sequence: Sequence[str]) -> tuple[str, ...]:
        return (*(item for item in sequence if item not in names), *more)

    plan = tuple(
        point if point.id in begun else replace(point, sequence=exchanged(point.sequence)) for point in job.plan
    )
    channels = (*job.channels, *(item for item in supply if item.id not in known))
    return replace(job, channels=channels, plan=plan, order=exchanged(job.order))


def with_deciding(job: Job, hookup: HookUp, element_id: str) -> Job:
    """The job with a reference that decides alone, or with the consensus of all again where it did already.

    Raises
    ------
    OutOfRangeError
        Where the part isn't read as a reference, or is the only one.
    """
    label = job.part(hookup.element(element_id).part).label
    references = [item for item in dict.fromkeys(job.order) if job.is_reference(item)]
    known = next((item.id for item in job.channels if (item.hookup, item.element) == (hookup.id, element_id)), "")
    if known not in references:
        raise OutOfRangeError(f"{label} isn't read as a reference here.", "Have it read first (M).")
    if len(references) == 1:
        raise OutOfRangeError(f"{label} is the only reference: it decides.", "Have another one read beside it.")
    return replace(job, reference="" if job.reference == known else known)


def _shows_power(part: Part) -> bool:
    """Whether a part shows watts on ranges of its own."""
    return any(item.quantity is Kind.INCIDENT and item.ranges for item in part.indicators)


def with_references(job: Job, references: Sequence[str]) -> Job:
    """The job with these references in the place of those that its rounds read, where none was begun.

    What stands around the device stays around it: REF-DUT-REF reads all of them before and after.
    """
    begun = {event.entry.slot.point for event in job.events if event.entry is not None}

    def exchanged(sequence: Sequence[str]) -> tuple[str, ...]:
        made: list[str] = []
        for is_reference, names in groupby(sequence, job.is_reference):
            made += references if is_reference else names
        return tuple(made)

    plan = tuple(
        point if point.id in begun else replace(point, sequence=exchanged(point.sequence)) for point in job.plan
    )
    reference = job.reference if job.reference in references else ""
    return replace(job, plan=plan, order=exchanged(job.order), reference=reference)


def with_exchanged(job: Job, hookup: HookUp, element_id: str, part: Part) -> Job:
    """The job with another part in a place, embedded as it is now; raises OutOfRangeError.

    A meter that takes the place of the device under test becomes it, and its ranges are chosen anew. What was typed of
    the same part in this job stays.
    """
    former = job.part(hookup.element(element_id).part)
    if part.id == former.id:  # chosen again: as it is in the kit now
        again = part if part.characterisations else replace(part, characterisations=former.characterisations)
        job = job.with_part(again)
    is_device = former.id == job.dut and job.is_read(hookup.id)
    if is_device and job.device_shows is not None and job.device_ranges and not _shows_power(part):
        raise OutOfRangeError(f"{part.label} shows no power.", "The device under test is a meter with ranges.")
    if is_device and part.kind not in procedure_of(job).devices:
        asked = procedure_of(job).question
        raise OutOfRangeError(f"“{asked}” isn't asked of {part.label}.", "Begin another job about it (Ctrl+N).")
    made = editing.exchanged(hookup, job.parts, element_id, part)
    changed = replace(_embedding(job, (part,)), dut=part.id) if is_device else job
    changed = with_line(changed, made, (part,))
    return fitted_to_device(changed, job) if is_device else changed


# several hook-ups


def with_new_hookup(job: Job, bench: Bench) -> Job:
    """The job with one more hook-up, its id and name its own."""
    made = bench.hookup
    taken = {item.id for item in job.hookups}
    name = next(f"line {number}" for number in range(2, 1000) if f"line {number}" not in taken)
    same = sum(item.label.partition(" (")[0] == made.label for item in job.hookups)
    label = f"{made.label} ({same + 1})" if same else made.label
    fresh = replace(made, id=name, label=label, stated=replace(made.stated, hookup=name))
    changed = _embedding(job, bench.parts)
    return replace(changed, hookups=(*changed.hookups, fresh))


def without_hookup(job: Job, hookup_id: str) -> Job:
    """The job without a hook-up and the points planned for it.

    Raises
    ------
    OutOfRangeError
        Where the method reads it.
    """
    if job.is_read(hookup_id):
        raise OutOfRangeError("The readings of this job are taken on this hook-up: it stays.", "Take away another one.")
    hookups = tuple(item for item in job.hookups if item.id != hookup_id)
    plan = tuple(point for point in job.plan if point.hookup != hookup_id)
    return without_unused(replace(job, hookups=hookups, plan=plan))


def with_hookup_label(job: Job, hookup_id: str, label: str) -> Job:
    """The job with a hook-up called otherwise."""
    return job.with_hookup(replace(job.hookup(hookup_id), label=label.strip() or job.hookup(hookup_id).label))
