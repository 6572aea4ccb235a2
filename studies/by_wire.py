"""Truth by the simulated bench: a job is planned, read through the wire and reduced; its U holds what it says.

Every hidden truth is drawn within what is stated, so rectangular shares make coverage exceed 95.45 %
(docs/method/coverage.md).
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Outcome, Stated
from fenmist.calibration.planning import points_at
from fenmist.hookup.templates import OF_SOURCES, Template, from_template
from fenmist.kit.part import Part, PartKind
from fenmist.measurand import Kind
from fenmist.procedures.table import procedure_of, room_of
from fenmist.session.autorun import Arrange, AutoRun, Ended, Read, Tell
from fenmist.session.openjob import OpenJob
from fenmist.session.session import Session
from fenmist.simulation.envelopes import envelope_named
from fenmist.simulation.faults import METERS
from fenmist.simulation.live import LiveBench
from fenmist.simulation.needle import Needle
from fenmist.simulation.put import Put
from fenmist.simulation.scenarios import scenario
from fenmist.simulation.setup import Setup
from fenmist.simulation.wattmeter import TrueWattmeter
from fenmist.uncertainty.influence import FloatArray
from studies.in_turn import PLACES, job_in_turn
from studies.losses import matched_loss_db
from studies.served import DRIVERS, served_job

HURRY = 60.0

IN_TURN = "in turn"

RUNS = {
    # room, scenario: frequencies, watts
    ("comparison", "live"): ((4e6, 12e6), (20.0, 80.0)),
    ("comparison", "tap"): ((4e6, 12e6), (20.0, 80.0)),
    ("comparison", "steps"): ((4e6, 12e6), (20.0, 80.0)),
    ("comparison", "pad"): ((4e6, 12e6), (20.0, 80.0)),
    ("comparison", "divider"): ((2e5, 4.7e5), (4.0, 12.0)),  # both on the 3 V range
    ("output", "live"): ((4e6, 12e6), (20.0, 80.0)),
    ("output", "pad"): ((4e6, 12e6), (20.0, 80.0)),
    ("constants", "home-built"): ((8e6,), (5.0, 20.0, 50.0, 100.0)),
    **{(room, IN_TURN): places for room, places in PLACES.items()},
}  # fmt: skip


def bench_of(room: str, name: str) -> tuple[Template, tuple[Part, ...], Part]:
    """The template of a room on a scenario's bench, its parts and its device."""
    scene = scenario(name)
    parts = scene.parts()
    device = next(part for part in parts if part.kind in METERS)
    if room != "output":
        return scene.template, parts, device
    kinds = {kind for kind in scene.template.kinds if kind not in METERS}
    template = next(item for item in OF_SOURCES if set(item.kinds) - set(item.optional) == kinds - set(item.optional))
    sender = next(part for part in parts if part.kind is PartKind.TRANSMITTER)
    return template, tuple(part for part in parts if part.kind not in METERS), sender


def job_on(session: Session, room: str, name: str) -> OpenJob:
    """A job of a room on a scenario's bench, planned."""
    job_id = f"{room} {name} {session.logbook.job_count()}"
    if name == IN_TURN:
        made = job_in_turn(room, job_id)
    else:
        template, parts, device = bench_of(room, name)
        bench = from_template(template, parts, "bench", device)
        made = room_of(room).begin(job_id, "by wire", bench, device.id, session.now())
        made = replace(made, plan=points_at(made, *RUNS[room, name]))
    session.logbook.add_job(made)
    return session.open(made.id)


@dataclass(frozen=True)
class Truth:
    """What is true while a point is read."""

    incident_w: float
    reflected_w: float
    swr: float  # as the device would show it with all its digits
    setup: Setup
    put: Put


def read_by_wire(session: Session, job: OpenJob, seed: int) -> dict[str, Truth]:
    """Read it on a served bench drawn from a number, a person's work done by whoever knows it; the truths by point."""
    truths: dict[str, Truth] = {}
    with served_job(job.job, seed, HURRY if job.job.question != "modulation" else HURRY / 6.0) as bench:
        session.wires.remove_simulated()
        for item in bench.served:
            counts = "line-counts" if item.stand_in.kind == "line meter" and job.job.question == "constants" else ""
            driver = counts or DRIVERS[item.stand_in.kind]
            session.wires.add(item.address, driver, item.stand_in.part, is_simulated=True)
        for wire in session.wires.attached:
            session.wires.instrument(wire.id)._wait = lambda _: None
        session.wires.arranged = {"plug": bench.live.setup.hookup.id, "send": ""}
        run = AutoRun(job, session.wires, job.view.order[0], "run")
        while not isinstance(run.step, Ended):
            step = run.step
            if isinstance(step, Tell):
                run.back(session.wires.instrument(step.instrument).set(step.setting, step.at))
            elif isinstance(step, Read):
                run.back(session.wires.instrument(step.instrument).settle(step.name, step.at))
                truths[step.slot.point] = true_now(job.job, bench.live)
            elif isinstance(step, Arrange):
                assert not bench.live.keyed.on
                if step.verb == "plug":
                    bench.live.plug(step.of)
                else:
                    bench.live.set(envelope=step.of or "carrier")
                run.back(None)
            else:
                raise SystemExit(f"a person is asked, or something is lost: {step}")
        session.wires.remove_simulated()
    return truths


def true_now(job: Job, live: LiveBench) -> Truth:
    """What is true on the bench as it stands."""
    plane = job.stated.plane
    shows = [item.id for item in job.dut_part.indicators if item.quantity is Kind.SWR]
    swr = live.shown(job.device_channel.element, shows[0]) if job.question == "reflection" else 1.0
    element = live.setup.element_of(job.dut) or live.setup.source
    port = plane.port if live.setup.part_in(element) == job.dut else live.setup.part(element).ports[0].id
    return Truth(live.true_w(), live.true_w(Kind.REFLECTED), swr, live.setup, live.put(element, port))


def lost_in(setup: Setup, part: str) -> float:
    """dB that a part truly loses where it is switched to."""
    element = setup.element_of(part)
    assert element is not None
    return setup.true.truths[element].part.properties["loss_db"].value


def rho(swr: float) -> float:
    """Size of the reflection."""
    return (swr - 1.0) / (swr + 1.0)


def missed(job: OpenJob, outcome: Outcome, row: Stated, truths: Mapping[str, Truth]) -> float:
    """What is stated at a point less what is true there, over the stated U."""
    true, question, point = truths[row.point.id], job.job.question, row.point
    if question == "comparison":
        device = next(
            event.entry.reading.value for slot, event in job.view.standing.items()
            if slot.point == point.id and event.entry and event.entry.reading and job.job.is_device(event.entry.channel)
        )  # fmt: skip
        return (row.share - (device / true.incident_w - 1.0)) / row.expanded_u_share
    if question == "reflection":  # the meter's error: what it shows less what comes back
        error = rho(true.swr) - math.sqrt(true.reflected_w / true.incident_w)
        return (row.value - error) / row.expanded_u
    if question == "loss":
        lost = matched_loss_db(
            true.setup.true, job.job.stated.plane.element, job.job.dut_part, np.random.default_rng(1)
        )
        return (row.value - lost) / row.expanded_u
    if question == "linearity":
        at = {name: lost_in(item.setup, job.job.dut) for name, item in truths.items()}
        first = job.job.plan[0]
        step = at[point.id] - at[first.id] - float(point.leg.split()[0]) + float(first.leg.split()[0])
        return (row.value - step) / row.expanded_u
    if question == "constants":  # a meter with these constants shows the fit; the truth is the power there
        power = outcome.power_at(point.id)
        assert power is not None
        return (power[1] - true.incident_w) / row.expanded_u
    if question == "modulation":
        return (row.value - 100.0 * (true_fraction(true, point.leg) - 1.0)) / row.expanded_u
    return (row.value - true.incident_w) / row.expanded_u


def true_fraction(true: Truth, leg: str) -> float:
    """Of its steady carrier, what a meter shows of a waveform: its needle let run until it stands, then averaged."""
    meter = next(item for item in true.setup.instruments.values() if isinstance(item, TrueWattmeter))
    drive, envelope = meter.drives(true.put)["forward"], envelope_named(leg.removesuffix(" again"))
    needle, angles = Needle(meter.movement), []
    needle.run(envelope, drive, 0.0, 6.0)
    for turn in range(200):
        angles.append(needle.run(envelope, drive, 6.0 + 0.01 * turn, 0.01))
    return meter.watts(float(np.mean(angles))) / meter.watts(Needle(meter.movement).steady(drive, 0.0, 60.0))


def errors(session: Session, room: str, name: str, seeds: Iterable[int]) -> FloatArray:
    """What is stated less what is true, over the stated U, of every point of so many benches: (benches, points)."""
    found = []
    for seed in seeds:
        job = job_on(session, room, name)
        truths = read_by_wire(session, job, seed)
        outcome = procedure_of(job.job).reduce(job.job, job.view.phase, {}, None)
        rows = [row for row in outcome.stated if row.expanded_u > 0.0]  # the first step is what others are held against
        found.append([missed(job, outcome, row, truths) for row in rows])
    return np.array(found)
