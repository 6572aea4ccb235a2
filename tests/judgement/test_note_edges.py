"""Where each rule begins to speak, from just below to just above, and which of several it names."""

from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest

from fenmist.calibration.job import PlanPoint
from fenmist.findings.note import Severity
from fenmist.judgement.bench import judge_bench
from fenmist.judgement.drift_rules import drift_curves
from fenmist.judgement.reference_rules import reference_notes
from fenmist.judgement.run_rules import heat_reached
from fenmist.kit import generic, shelf
from fenmist.methods.physics_rules import bandwidth_note, forms_note
from fenmist.reading.event import Slot
from studies.benches import LOAD, bench
from studies.builders import WHEN, bench_kit, enter, job
from support.noted import notes
from support.results import point_result, results
from support.texts import spaced

AROUND = ("scope", "meter", "scope")


# one round


@pytest.mark.parametrize(("difference", "said"), [(0.011, True), (-0.011, True), (0.009, False)])
def test_two_forms_are_told_from_a_per_cent_of_volts(difference, said):
    note = forms_note("Vpp", "fit", difference, "at 7 MHz")

    assert (note is not None) is said
    if note:
        assert spaced(note.what) == "The same volts taken as Vpp and as fit differ by 1.1 % at 7 MHz."
        assert spaced(note.why).startswith("2.2 % of power")


@pytest.mark.parametrize(("limit", "said"), [(0.0050, True), (0.0048, False)])
def test_a_drift_that_bends_counts_from_a_fifth_of_u(limit, said):
    """U is 1.2 W of 50 W, 2.4 % of a ratio of 0.98, 2.45 % of it: a fifth is 0.49 %."""
    assert bool(list(drift_curves(results(point_result(drift_limit=limit))))) is said


def test_the_drift_that_bends_most_is_named():
    first, second = point_result(drift_limit=0.01), point_result(at_id="p2", drift_limit=0.02)
    (note,) = drift_curves(results(first, second, point_result(at_id="p3")))

    assert spaced(note.what).startswith("The carrier's drift may leave 2.0 % at 2 points")


def test_times_of_one_reading_only_are_enough_to_miss_them():
    made = job([], load="50")
    point = made.plan[0]
    made = replace(made, plan=(PlanPoint("p1", point.hookup, point.frequency_hz, 25.0, "200", AROUND),))
    for position, text in enumerate(("100", "25", "100")):
        made = enter(made, Slot("p1", 1, position), text)
    event = made.events[1]
    assert len(notes(made, "drift.no_times")) == (0 if event.entry.observed_at else 1)
    timed = tuple(replace(e, entry=replace(e.entry, observed_at=e.at)) for e in made.events)
    assert notes(replace(made, events=timed), "drift.no_times") == []
    mixed = (timed[0], replace(timed[1], entry=replace(timed[1].entry, observed_at=None)), timed[2])
    (note,) = notes(replace(made, events=mixed), "drift.no_times")
    assert spaced(note.what) == "The times of readings are unknown at 1 points."


# parts and plan


def test_what_a_bandwidth_takes_and_how_much_is_kept():
    """A one-pole scope of 100 MHz at 25 MHz: 1 + (1/4)² of power is added, 6.25 %, which are 5.9 % of what there is."""
    correction = np.array([1.0 + 0.1**2, 1.0 + 0.25**2])
    note = bandwidth_note("scope", "oscilloscope", np.array([10e6, 25e6]), 100e6, correction, {})

    assert note.severity is Severity.WATCH
    assert spaced(note.what) == "The oscilloscope loses 5.9 % of power at 25 MHz."
    assert "100 MHz, 4 times the carrier" in spaced(note.why)


@pytest.mark.parametrize(
    ("ratio", "setting", "power"), [(10.0, 1.0, "100"), (1.0, 10.0, "100"), (10.6, 10.0, "1.12"), (10.4, 10.0, None)]
)
def test_a_probe_set_otherwise_is_said_as_a_factor_of_power(ratio, setting, power):
    """A probe that divides by 10 read as 1: 100 times in power; 10.6 for 10 is 1.06² = 1.1236."""
    probe = shelf.probe("lead", "probe", ratio=ratio, setting=setting)
    made = replace(job(), kit=tuple(bench_kit(probe=probe)))
    found = [note for note in reference_notes(made) if note.code == "probe.setting"]

    assert bool(found) is (power is not None)
    if power:
        assert f"would be {'low' if ratio > setting else 'high'} by a factor of {power};" in found[0].why


@pytest.mark.parametrize(
    ("level", "bearable"), [(300.0, "150"), (200.0, "150")],
)  # fmt: skip
def test_a_part_over_its_rating_says_what_it_bears(level, bearable):
    """A load of 150 W takes 150 W, whatever is planned."""
    made = job(level_w=level, load="50")
    found = [note for note in notes(made, "part.over_rating") if note.about == "load"]

    assert spaced(found[0].remedy).startswith(f"Plan no more than {bearable} W")


def test_volts_over_a_rating_bear_the_square_root():
    """A scope rated 50 V peak sees 100 V of 100 W in 50 Ω: a quarter of the power is as much as it bears."""
    made = job(level_w=100.0, load="50")
    scope = made.part("scope")
    made = made.with_part(replace(scope, ports=tuple(replace(port, volts_limit_vpk=50.0) for port in scope.ports)))
    (note,) = [item for item in notes(made, "part.over_rating") if item.about == "scope"]

    assert "100 V peak planned, rated 50 V peak" in spaced(note.what)
    assert spaced(note.remedy).startswith("Plan no more than 25 W")


# where some points are so and others not


def test_one_point_among_others_is_enough_and_the_others_are_not_named():
    mixed = [(2e6, "50"), (7e6, "80"), (14e6, "|50|")]
    made = job([[("100", "25")]] * 3, frequencies_hz=(2e6, 7e6, 14e6), load=mixed)

    (poor,) = notes(made, "load.poor")
    assert spaced(poor.what) == "The load has an SWR of up to 1.60 at 7 MHz."
    (bare,) = notes(made, "load.phase_unknown")
    assert "14 MHz" in spaced(bare.what) and bare.evidence["magnitude_ohm"] == 50.0


def test_ports_without_a_lowest_frequency_serve_from_nothing_on():
    meter = replace(by_id("two-band"), id="m2")
    low, high = meter.ports[:2], tuple(replace(port, frequency_min_hz=None) for port in meter.ports[2:])
    made = bench(replace(meter, ports=(*low, *high)), LOAD, frequencies_hz=(145e6,))
    (note,) = [item for item in judge_bench(made, "line 2") if item.code == "part.span"]
    assert note.remedy == "Use its VHF ports."
    only_hf = tuple(replace(port, frequency_max_hz=130e6) for port in meter.ports[2:])
    made = bench(replace(meter, ports=(*low, *only_hf)), LOAD, frequencies_hz=(145e6,))
    (note,) = [item for item in judge_bench(made, "line 2") if item.code == "part.span"]
    assert note.remedy.startswith("Plan inside its span")


def by_id(name):
    return next(part for part in generic.starter_shelf() if part.id == f"generic-{name}")


def test_a_needle_at_nothing_and_a_display_say_what_they_can():
    nothing = job([[("40", "0")]], level_w=4.0)
    (note,) = notes(nothing, "scale.bottom_tenth")
    assert spaced(note.why).startswith("0 W of 200 W: the needle can't be told from nothing there")
    made = job([[("40", "3.9")]], level_w=4.0)
    meter = made.part("meter")
    flat = tuple(replace(item, scale=None) for item in meter.indicators[0].ranges)
    made = made.with_part(replace(meter, indicators=(replace(meter.indicators[0], ranges=flat),)))
    (note,) = notes(made, "scale.bottom_tenth")
    assert spaced(note.why).startswith("3.9 W of 200 W: the needle can be read to 0 % there")


def test_how_warm_a_load_became_is_told_in_tenths():
    """150 W for 10 min into a load that bears it for 5: the evidence moves by tenths, so that an answer holds."""
    made = job([], level_w=150.0)
    for position, text in enumerate(("245", "150")):
        made = enter(made, Slot("p1", 1, position), text)
    events = [
        replace(event, at=WHEN + timedelta(minutes=10 * n), entry=replace(
            event.entry, observed_at=WHEN + timedelta(minutes=10 * n)
        ))
        for n, event in enumerate(made.events)
    ]  # fmt: skip
    found = list(heat_reached(replace(made, events=tuple(events)), "as found"))

    assert len(found) == 1
    rise = found[0].evidence["rise"]
    assert rise == pytest.approx(round(rise, 1)) and rise > 1.0
    said = float(spaced(found[0].what).partition("about ")[2].partition(" %")[0]) / 100
    assert rise <= said < rise + 0.1
