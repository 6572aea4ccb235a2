"""Two jobs of the demonstration about what is wrong: a ferry's tired set, and a line with water in it."""

from collections.abc import Callable, Mapping
from dataclasses import replace

from fenmist.calibration.job import Job
from fenmist.calibration.planning import points_at
from fenmist.hookup.templates import OF_TRIAGE, from_template
from fenmist.kit import shelf
from fenmist.kit.part import Indicator, Part, SpecKind, SpecTerm
from fenmist.measurand import Kind
from fenmist.methods.chain import ANTENNA, FAR_LOAD, LOAD
from fenmist.procedures.triage.make import OWN_METER, begin, sightings
from fenmist.session.openjob import OpenJob
from fenmist.session.session import Session
from fenmist.simulation.live import LiveBench
from fenmist.simulation.scenarios import job_bench
from fenmist.units.display import plain

F_HZ = 8.291e6

SEED = 11
"""Of both benches."""

TIRED_DB = -9.5
"""What is left of the ferry's output stage."""

WET_OHM = 40.0
"""Water across the far end of the other line."""

SETTLE_S = 8.0


def add_triage(session: Session, kit: Mapping[str, Part], job_of: Callable[[Job], Job]) -> None:
    """Plan and read both."""
    tired = _job(session, kit, "smew", "Smew 100 of the ferry: hardly heard any more", (LOAD,), (10.0, 100.0))
    _read(session, _of_the_ferry(job_of(tired), "hardly heard any more"), _tired)
    wet = _job(session, kit, "pintail", "Pintail 100: since the storm", (ANTENNA, LOAD, FAR_LOAD), (100.0,))
    _read(session, _of_the_ferry(job_of(wet), "works, but not on its mast"), _wet)


def _of_the_ferry(job: Job, condition: str) -> Job:
    return replace(job, customer="the ferry company", receipt=replace(job.receipt, condition=condition))


def _job(
    session: Session, kit: Mapping[str, Part], name: str, title: str, into: tuple[str, ...], watts: tuple[float, ...]
) -> Job:
    own = Indicator(OWN_METER, "its own meter", Kind.INCIDENT, "W", spec=(SpecTerm(SpecKind.OF_READING, 0.1),))
    sender = replace(shelf.transmitter(name, f"{name.capitalize()} 100", 100.0, "S-88"), indicators=(own,))
    bench = from_template(OF_TRIAGE[0], [sender, kit["jumper"], kit["knot"], kit["reedmace"]], "line", sender)
    made = begin(f"demo-{name}", title, bench, name, session.now())
    made = replace(made, legs=sightings(made.bench.id, into))
    return replace(made, plan=points_at(made, (F_HZ,), watts))


def _read(session: Session, job: Job, bench: Callable[[Job, str], LiveBench]) -> None:
    session.logbook.add_job(job)
    opened = session.open(job.id)
    for point in opened.job.plan:
        live = bench(job, point.leg)
        live.set(watts=point.target_w, frequency_hz=point.frequency_hz, on=True)
        live.advance(SETTLE_S)
        for slot in opened.view.slots(point):
            opened.begin_entry(slot)
            opened.enter(slot, _typed(opened, live, point.sequence[slot.position]))


def _typed(opened: OpenJob, live: LiveBench, name: str) -> str:
    channel = opened.job.channel(name)
    shown = live.shown(channel.element, channel.indicator)
    return f"{shown:.2f}" if channel.measurand.kind is Kind.SWR else plain(shown, "W", 3)


def _tired(job: Job, _: str) -> LiveBench:
    live = job_bench(job.bench, job.parts, SEED)
    weak = replace(live.setup.transmitter, error_db=TIRED_DB)
    return LiveBench(replace(live.setup, transmitter=weak), SEED)


def _wet(job: Job, leg: str) -> LiveBench:
    return job_bench(job.bench, job.parts, SEED, {} if leg == LOAD else {"wet": WET_OHM})
