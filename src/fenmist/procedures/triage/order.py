"""The order in which a sighting is made, in words: what stands at its end, tight, the right way round, read, off."""

from collections.abc import Iterator

from fenmist.calibration.job import Job, PlanPoint
from fenmist.hookup.heat import heat_model
from fenmist.hookup.line import main_way
from fenmist.kit.part import Part, PartKind
from fenmist.methods.chain import ANTENNA, FAR_LOAD, SUSPECTS
from fenmist.procedures.triage.asked import alarm_swr
from fenmist.procedures.triage.make import sighted
from fenmist.procedures.triage.reduction import Triage
from fenmist.reading.interpret import shown_on
from fenmist.units.display import opening, plain

LONGEST_S = 30.0
"""Key-down that reads a sighting (common practice, no source)."""

_WHAT = {item.id: item.what for item in SUSPECTS}


def order(result: Triage, point_id: str) -> tuple[str, ...]:
    """What is done one after the other at a point."""
    job = result.job
    point = job.point(point_id)
    into, exchanged = sighted(point.leg)
    return (
        *_exchanged(exchanged), *_into(job, point, into),
        "Connectors tight from the set to the end; a wet one sends power back: dry it first.",
        *_meters(job, point),
        f"Key down, let it settle, read, key up: {_seconds(job, point, into)}.",
        f"Stop at an SWR of {alarm_swr(job):.3g}, where power falls while you look (it folds back), or where it "
        "smells. Carrier off, then feel along: a warm connector is a bad one.",
    )  # fmt: skip


def _exchanged(exchanged: frozenset[str]) -> Iterator[str]:
    if "mode" in exchanged:
        yield "Set CW or FM: a steady carrier, nothing said."
    if "relay" in exchanged:
        yield "Carrier off; go past the relay."
    others = sorted(_WHAT[name] for name in exchanged - {"mode", "relay"})
    if others:
        yield f"Carrier off; exchange {' and '.join(others)}."


def _into(job: Job, point: PlanPoint, into: str) -> Iterator[str]:
    if into == ANTENNA:
        yield (
            "Line and antenna in the load's place: only with a licence, on a permitted and free frequency, identified, "
            "at the least power that shows it."
        )
        return
    load = _load(job, point)
    where = ", at the far end of the line" if into == FAR_LOAD else " first, right behind the meter"
    if load is None:
        yield f"A dummy load{where}: none stands on the line yet."
        return
    rated = load.ports[0].power_limit_w
    if rated is None:
        yield f"The load{where}. Nobody says what {load.label} takes: read its plate before keying."
    elif rated < point.target_w:
        yield (
            f"Not into {load.label}: it is rated {plain(rated, 'W')}, {plain(point.target_w, 'W')} are set. Take one "
            "that bears them, or set less."
        )
    else:
        yield f"The load{where}: {load.label}, rated {plain(rated, 'W')} for {plain(point.target_w, 'W')}."


def _load(job: Job, point: PlanPoint) -> Part | None:
    stops = main_way(job.hookup(point.hookup), job.parts)
    last = job.part(job.hookup(point.hookup).element(stops[-1].element).part) if stops else None
    return last if last is not None and last.kind in (PartKind.LOAD, PartKind.MISMATCH) else None


def _meters(job: Job, point: PlanPoint) -> Iterator[str]:
    for channel in job.references_of(point):
        part, shows = job.part_read(channel), job.indicator(channel)
        if part.kind is not PartKind.INLINE_METER:
            continue
        used = shown_on(shows, point.target_w)
        on = f", on {plain(used.full_scale, 'W')}" if used is not None and len(shows.ranges) > 1 else ""
        yield f"{opening(part.label)} the right way round, its arrow towards the load{on}."


def _seconds(job: Job, point: PlanPoint, into: str) -> str:
    """How long the key may be down."""
    load = _load(job, point) if into != ANTENNA else None
    model = heat_model(load) if load is not None else None
    bears = model.seconds_left(0.0, point.target_w) if model is not None else LONGEST_S
    return f"no longer than {plain(min(bears, LONGEST_S), 's', 2)}"
