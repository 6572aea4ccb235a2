"""Builders with defaults, so that a test says only what it is about."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from datetime import datetime

from fenmist.calibration.job import Job, PlanPoint
from fenmist.kit import shelf
from fenmist.kit.impedance import table_from_rows
from fenmist.kit.part import Part
from fenmist.kit.scale import Scale
from fenmist.procedures.comparison.make import cross_check, plan_points
from fenmist.reading.event import Entry, Event, EventKind, Reading, Slot
from fenmist.reading.interpret import interpret
from fenmist.units.moment import moment_from_text

WHEN = moment_from_text("2026-11-24T10:00:00+01:00")


def arc() -> Scale:
    """Printed 0 to 200 with four or more divisions a gap."""
    return Scale("arc", (0.0, 20.0, 40.0, 60.0, 100.0, 140.0, 200.0), (4, 4, 4, 4, 4, 6), 0.5)


def bench_kit(
    *,
    load: str | Sequence[tuple[float, str]] | None = "57.7",
    bandwidth_hz: float = 10e9,
    lead_m: float = 0.0,
    capacitance_f: float | None = None,
    jumper: Part | None = None,
    load_u: float = 0.01,
    accuracy: float = 0.03,
    ranges: tuple[float, ...] = (20.0, 200.0),
    tee: Part | None = None,
    probe: Part | None = None,
    noise: float = 0.0,
    response: str = "one-pole",
    harmonics_dbc: float = -120.0,
) -> list[Part]:
    """A bench without corrections unless asked for; `load` is one impedance at 1 to 100 MHz, or a table."""
    input_f = (16e-12 if lead_m else 0.0) if capacitance_f is None else capacitance_f
    rows = [(1e6, load), (100e6, load)] if isinstance(load, str) else list(load or [])
    dummy = shelf.dummy_load("load", "Reedmace", 150.0)
    if rows:
        dummy = replace(dummy, characterisations=(table_from_rows(rows, load_u),))
    kit = [
        shelf.transmitter("tx", "Plover", 250.0, harmonics_dbc={2: harmonics_dbc, 3: harmonics_dbc}),
        shelf.inline_meter("meter", "Bittern", ranges, arc(), 0.05),
        tee or shelf.tee("tee", "tee", 0.0, 0.0),
        probe or shelf.lead("lead", "lead", lead_m),
        shelf.oscilloscope(
            "scope", "Sedge", bandwidth_hz, accuracy=accuracy, capacitance_f=input_f, noise=noise, model=response
        ),
        dummy,
    ]
    return [*kit, jumper] if jumper else kit


def job(
    readings: Sequence[Sequence[tuple[str, str]]] = (),
    *,
    frequencies_hz: Sequence[float] = (7.125e6,),
    level_w: float = 25.0,
    range_id: str = "200",
    repeats: int = 1,
    **kit: object,
) -> Job:
    """A job; `readings` holds for each point its rounds as (scope, meter) texts."""
    rounds = max((len(point) for point in readings), default=repeats)
    plan = plan_points(frequencies_hz, [level_w], range_id, rounds)
    made = cross_check("job", "a job", bench_kit(**kit), plan, created_at=WHEN)  # type: ignore[arg-type]
    for point, texts in zip(plan, readings, strict=False):
        for number, pair in enumerate(texts, start=1):
            for position, text in enumerate(pair):
                if text:
                    made = enter(made, Slot(point.id, number, position), text)
    return made


def enter(made: Job, slot: Slot, text: str, at: datetime | None = None, reading: Reading | None = None) -> Job:
    """The job with one entry more; of a known moment, or of what was read by other means than the text."""
    point = made.point(slot.point)
    channel = made.channel(point.sequence[slot.position])
    used = made.range_of(point, channel.id)
    found = interpret(text, made.indicator(channel.id), used)
    entry = Entry(
        slot, channel.id, channel.element, channel.indicator, found.range_id or (used.id if used else ""), text,
        reading or found.reading, found.why_open, found.likeliest_text, observed_at=at,
    )  # fmt: skip
    return made.with_event(Event(f"e{len(made.events)}", EventKind.ENTER, WHEN, entry))


def read(made: Job, *rounds: Sequence[str]) -> Job:
    """The job with rounds read at its first point, each a text for every place of its sequence."""
    for number, texts in enumerate(rounds, start=1):
        for position, text in enumerate(texts):
            made = enter(made, Slot(made.plan[0].id, number, position), text)
    return made


IN_A_JOB = 250
"""Benches of a study that are worked out together."""


def on_many(made: Job, benches: int, read: Callable[[Job, tuple[PlanPoint, ...]], Job]) -> Iterator[Job]:
    """Jobs with the readings of so many benches, each bench at points of its own, planned as those of `made`.

    `read` enters what the next bench shows at such points. All that a job works out at once costs hardly more than one
    bench alone.
    """
    for first in range(0, benches, IN_A_JOB):
        places = range(first, min(first + IN_A_JOB, benches))
        plans = [tuple(_once_more(point, number) for point in made.plan) for number in places]
        job = replace(made, plan=tuple(point for plan in plans for point in plan))
        for plan in plans:
            job = read(job, plan)
        yield job


def _once_more(point: PlanPoint, number: int) -> PlanPoint:
    return replace(point, id=f"{point.id}, {number}", group=f"{point.group}, {number}" if point.group else "")
