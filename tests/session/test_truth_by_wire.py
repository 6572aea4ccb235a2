"""Truth by the simulated bench: a job is planned, read through the wire and reduced; its U holds what it says.

Every hidden truth is drawn within what is stated, so rectangular shares make coverage exceed 95.45 %
(docs/method/coverage.md).
"""

import math
from dataclasses import replace

import numpy as np
import pytest

from fenmist.calibration.planning import points_at
from fenmist.hookup.templates import OF_SOURCES, from_template
from fenmist.kit.part import PartKind
from fenmist.procedures.table import procedure_of, room_of
from fenmist.session.autorun import AutoRun, Ended, Read, Tell
from fenmist.session.session import Session
from fenmist.simulation.faults import METERS
from fenmist.simulation.scenarios import scenario
from support.served import DRIVERS, served_job

HURRY = 60.0

RUNS = {
    # room, scenario: frequencies, watts
    ("comparison", "live"): ((4e6, 12e6), (20.0, 80.0)),
    ("comparison", "tap"): ((4e6, 12e6), (20.0, 80.0)),
    ("comparison", "steps"): ((4e6, 12e6), (20.0, 80.0)),
    ("comparison", "pad"): ((4e6, 12e6), (20.0, 80.0)),
    ("comparison", "divider"): ((2e5, 4.7e5), (4.0, 12.0)),  # both on the 3 V range
    ("output", "live"): ((4e6, 12e6), (20.0, 80.0)),
    ("output", "pad"): ((4e6, 12e6), (20.0, 80.0)),
}  # fmt: skip


def job_on(session, room, name):
    """A job of a room on a scenario's bench, planned."""
    scene = scenario(name)
    parts = scene.parts()
    frequencies, watts = RUNS[room, name]
    template, device = scene.template, next(part for part in parts if part.kind in METERS)
    if room == "output":
        kinds = {kind for kind in scene.template.kinds if kind not in METERS}
        template = next(
            item for item in OF_SOURCES if set(item.kinds) - set(item.optional) == kinds - set(item.optional)
        )
        device = next(part for part in parts if part.kind is PartKind.TRANSMITTER)
        parts = tuple(part for part in parts if part.kind not in METERS)
    bench = from_template(template, parts, "bench", device)
    made = room_of(room).begin(f"{room} {name} {session.clock_n}", "by wire", bench, device.id, session.now())
    session.clock_n += 1
    session.logbook.add_job(replace(made, plan=points_at(made, frequencies, watts)))
    return session.open(made.id)


def read_by_wire(session, job, seed):
    """Read it on a served bench drawn from a number; the bench, with its truth at each point beside it."""
    truths = {}
    with served_job(job.job, seed, HURRY) as bench:
        elements = {item.id: item.part for item in job.job.bench.elements}
        session.wires.remove_simulated()
        for item in bench.served:
            counts = "line-counts" if item.stand_in.kind == "line meter" and job.job.question == "constants" else ""
            driver = counts or DRIVERS[item.stand_in.kind]
            session.wires.add(item.address, driver, elements.get(item.stand_in.id, ""), is_simulated=True)
        for item in session.wires.attached:
            session.wires.instrument(item.id)._wait = lambda _: None
        run = AutoRun(job, session.wires, job.view.order[0], "run")
        while not isinstance(run.step, Ended):
            step = run.step
            if isinstance(step, Tell):
                run.back(session.wires.instrument(step.instrument).set(step.setting, step.at))
            elif isinstance(step, Read):
                run.back(session.wires.instrument(step.instrument).settle(step.name, step.at))
                truths[step.slot.point] = bench.live.true_w()
            else:
                pytest.fail(f"a person is asked, or something is lost: {step}")
        session.wires.remove_simulated()
    return truths


def errors(session, room, name, seeds):
    """What is stated less what is true, over the stated U, of every point of so many benches."""
    found = []
    for seed in seeds:
        job = job_on(session, room, name)
        truths = read_by_wire(session, job, seed)
        outcome = procedure_of(job.job).reduce(job.job, job.view.phase, {}, None)
        for row in outcome.stated:
            true = truths[row.point.id]
            if room == "comparison":
                device = next(
                    event.entry.reading.value for slot, event in job.view.standing.items()
                    if slot.point == row.point.id and job.job.is_device(event.entry.channel)
                )  # fmt: skip
                found.append((row.share - (device / true - 1.0)) / row.expanded_u_share)
            else:
                found.append((row.value - true) / row.expanded_u)
    return np.array(found)


@pytest.fixture(scope="module")
def session(tmp_path_factory):
    made = Session(tmp_path_factory.mktemp("wire") / "log.fenlog", first_kit=scenario("live").parts())
    made.clock_n = 0
    yield made
    made.close()


@pytest.mark.parametrize(("room", "name"), RUNS, ids=str)
def test_what_is_stated_holds_the_truth(session, room, name):
    found = errors(session, room, name, range(4))

    assert np.all(np.isfinite(found))
    assert np.mean(np.abs(found) <= 1.0) >= 0.8


@pytest.mark.long
@pytest.mark.parametrize(("room", "name"), RUNS, ids=str)
def test_coverage_is_as_predicted_and_a_control_fails(session, room, name):
    """One point of each of 150 benches counts: those of one bench share their errors."""
    per_bench = len(RUNS[room, name][0]) * len(RUNS[room, name][1])
    found = errors(session, room, name, range(150))[::per_bench]
    hits = np.mean(np.abs(found) <= 1.0)
    spread = 3.0 * math.sqrt(0.9545 * 0.0455 / found.size)

    assert hits >= 0.9545 - spread
    assert np.std(found) > 0.3  # not a U so large that it says nothing
    assert np.mean(np.abs(found) <= 0.4) < 0.9545 - spread  # a U of two fifths would not hold
