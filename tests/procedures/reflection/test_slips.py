"""Slips of a meter of match on drawn benches: those that count are caught, clean runs stay quiet."""

import numpy as np
import pytest

from fenmist.calibration.job import Job
from fenmist.measurand import Kind
from fenmist.procedures.reflection.reduction import reduce
from fenmist.procedures.table import room_of
from fenmist.reading.event import AS_FOUND, Slot
from fenmist.simulation.matchmeter import TrueMatchMeter, drawn_meter
from studies.builders import WHEN, enter
from studies.matches import ENDS, drawn, match_job, swr_meter, watt_meter

TRIALS = 30
SPEAK = ("reflection.ports_swapped", "entry.slip", "reflection.three_numbers", "reflection.scale", "entry.decimal_slip")
"""Notes that say that something was misread, mis-set or plugged the wrong way."""


def watts_job() -> Job:
    return match_job(watt_meter((25.0, 100.0), True), ENDS[1:], levels=(20.0,))


def set_job() -> Job:
    return match_job(swr_meter(has_set=True))


def codes(job: Job) -> set[str]:
    found = room_of("reflection").judge(job, reduce(job), WHEN.date(), AS_FOUND, None)
    return {note.code for note in found}


def texts_at(job: Job, point_id: str) -> list[str]:
    point = job.point(point_id)
    return [job.standing[Slot(point_id, 1, place)].entry.raw_text for place in range(len(point.sequence))]


def with_texts(job: Job, point_id: str, texts: list[str]) -> Job:
    for place, text in enumerate(texts):
        job = enter(job, Slot(point_id, 1, place), text)
    return job


def place_of(job: Job, point_id: str, kind: Kind) -> int:
    return next(n for n, name in enumerate(job.point(point_id).sequence) if job.channel(name).measurand.kind is kind)


def exchanged(job: Job, rng: np.random.Generator) -> Job:
    """Forward and reflected typed into each other's place at one point."""
    point = rng.choice([item.id for item in job.plan])
    first, second, *rest = texts_at(job, point)
    return with_texts(job, point, [second, first, *rest])


def wrong_way_round(job: Job, rng: np.random.Generator) -> Job:
    """The meter stands with the transmitter at its output: all of it the other way about."""
    for point in job.plan:
        first, second, *rest = texts_at(job, point.id)
        job = with_texts(job, point.id, [second, first, *rest])
    return job


def wrong_arc(job: Job, rng: np.random.Generator) -> Job:
    """Reflected power read on the arc of the range four times as high."""
    point = rng.choice([item.id for item in job.plan])
    texts = texts_at(job, point)
    place = place_of(job, point, Kind.REFLECTED)
    return with_texts(job, point, [f"{4 * float(t):.3f}" if n == place else t for n, t in enumerate(texts)])


def slipped_point(job: Job, rng: np.random.Generator) -> Job:
    """An SWR typed without its point."""
    point = rng.choice([item.id for item in job.plan])
    texts = texts_at(job, point)
    place = place_of(job, point, Kind.SWR)
    return with_texts(job, point, [t.replace(".", "") if n == place else t for n, t in enumerate(texts)])


SLIPS = {
    "exchanged": (watts_job, exchanged), "wrong way round": (watts_job, wrong_way_round),
    "wrong arc": (watts_job, wrong_arc), "slipped point": (watts_job, slipped_point),
}  # fmt: skip


@pytest.mark.parametrize("name", list(SLIPS))
def test_slips_are_caught(name):
    """95 % of them at least, by a note that speaks of a slip."""
    make, slip = SLIPS[name]
    made, rng = make(), np.random.default_rng(17)
    caught = sum(bool(codes(slip(drawn(made, rng)[0], rng)) & set(SPEAK)) for _ in range(TRIALS))

    assert caught >= 0.95 * TRIALS


def test_a_set_control_that_was_forgotten_is_caught():
    """Left where it was for a quarter to a half more power: the scale shows half to nine tenths of ρ."""
    made, rng, caught = set_job(), np.random.default_rng(18), 0
    for _ in range(TRIALS):
        meter = drawn_meter(25.0, rng)
        meter = TrueMatchMeter(meter.leak, meter.forward_leak, set_to=rng.uniform(0.5, 0.9))
        caught += "reflection.scale" in codes(drawn(made, rng, meter)[0])

    assert caught >= 0.95 * TRIALS


@pytest.mark.parametrize("make", [watts_job, set_job])
def test_clean_runs_stay_quiet(make):
    """Fewer than one in a hundred speaks of a slip."""
    made, rng = make(), np.random.default_rng(19)
    loud = [found for _ in range(2 * TRIALS) if (found := codes(drawn(made, rng)[0]) & set(SPEAK))]

    assert len(loud) <= 0.01 * 2 * TRIALS, loud
