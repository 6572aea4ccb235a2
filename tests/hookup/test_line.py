"""What is plugged together, and the levels it will bear."""

import math

import pytest

from fenmist.errors import UnknownIdError
from fenmist.hookup.line import branches, main_line
from fenmist.kit import shelf
from fenmist.procedures.comparison.make import scope_across_load
from studies.builders import bench_kit
from support.referees import level_plan


def _line(**kit):
    parts = bench_kit(**kit)
    return scope_across_load("line", parts), {part.id: part for part in parts}


def test_the_line_goes_from_source_to_load_and_the_scope_hangs_on_the_tee():
    hookup, parts = _line(jumper=shelf.jumper("j", "jumper", 0.1, 0.02))

    assert main_line(hookup, parts) == ("source", "meter", "jumper", "tee", "load")
    assert branches(hookup, parts) == {("tee", "side"): ("lead", "scope")}


def test_a_hookup_without_a_load_is_refused():
    kit = [part for part in bench_kit() if part.id != "load"]

    with pytest.raises(UnknownIdError, match="dummy load"):
        scope_across_load("line", kit)


def test_a_hundred_watts_into_fifty_ohms_are_seventy_one_volts():
    """V = √(P·R): 100 W in 50 Ω is 70.7 V rms, 100 V peak (common practice, no source)."""
    hookup, parts = _line(load="50")
    level = level_plan(hookup, parts, 100.0, 7e6).at("scope", "in")

    assert level.incident_w is None
    assert level.volts_rms == pytest.approx(math.sqrt(5000), rel=1e-3)
    assert level.volts_peak == pytest.approx(100.0, rel=1e-3)


def test_a_jumper_takes_its_loss_off_behind_the_meter():
    hookup, parts = _line(load="50", jumper=shelf.jumper("j", "jumper", 3.0103, 0.02))
    plan = level_plan(hookup, parts, 100.0, 7e6)

    assert plan.at("meter", "out").incident_w == pytest.approx(100.0)
    assert plan.at("load", "in").incident_w == pytest.approx(50.0, rel=1e-4)


@pytest.mark.parametrize(("power", "over"), [(149.0, set()), (151.0, {("load", "power")})])
def test_a_part_over_its_rating_is_named(power, over):
    hookup, parts = _line(load="50")

    found = {(item.element, item.what) for item in level_plan(hookup, parts, power, 7e6).overloads}

    assert found == over


def test_the_scope_over_its_volts_is_named():
    """300 V peak are 900 W in 50 Ω."""
    hookup, parts = _line(load="50")
    found = {(item.element, item.what) for item in level_plan(hookup, parts, 901.0, 1e6).overloads}

    assert ("scope", "volts") in found


def test_a_mismatched_line_carries_more_volts():
    """√(P·Z0)·(1 + ρ): any textbook of lines, from memory."""
    hookup, parts = _line(load="100")

    level = level_plan(hookup, parts, 100.0, 1e6).at("meter", "out")

    assert level.volts_rms == pytest.approx(math.sqrt(5000) * (1 + 1 / 3), rel=1e-3)


@pytest.mark.parametrize(("f", "over"), [(2e6, False), (11.5e6, False), (12.5e6, True), (28e6, True)])
def test_a_probe_bears_less_the_higher_the_frequency(f, over):
    """600 V from 2 MHz on as 1/f: 100 V, the crest of 100 W in 50 Ω, are left at 12 MHz."""
    hookup, parts = _line(load="50", probe=shelf.probe("probe", "probe", ground_m=0.0, capacitance_f=0.0))
    found = [item.element for item in level_plan(hookup, parts, 100.0, f).overloads]

    assert ("lead" in found) is over


def test_a_probe_gives_the_scope_its_part_of_the_volts():
    hookup, parts = _line(load="50", probe=shelf.probe("probe", "probe", ground_m=0.0, capacitance_f=0.0))

    assert level_plan(hookup, parts, 100.0, 7e6).at("scope", "in").volts_rms == pytest.approx(math.sqrt(50), rel=1e-3)
