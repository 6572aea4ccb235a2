"""Before anyone keys: what stands on any bench. Each rule just inside, just outside, and where it stays silent."""

from dataclasses import replace
from datetime import date

import pytest

from fenmist.calibration.job import Job
from fenmist.findings.note import Severity
from fenmist.hookup import editing
from fenmist.hookup.levels import PROVEN
from fenmist.hookup.line import HookUp
from fenmist.hookup.templates import TEMPLATES, Bench, from_template
from fenmist.judgement.bench import judge_bench
from fenmist.kit import generic, shelf
from fenmist.kit.part import PartKind, Port, Property
from fenmist.kit.spectext import spec_from_text
from fenmist.kit.tables import QUANTITIES, TableFacts, table_from_texts
from fenmist.kit.touchstone import Touchstone, characterisations_from
from fenmist.measurand import PlaneRef
from fenmist.procedures.benchwork import with_exchanged, with_inserted, with_new_hookup, with_turned
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from fenmist.rf.reflection import reflection_from_impedance
from studies.benches import LOAD, SOURCE, bench
from studies.builders import job


def notes(made: Job, code: str) -> list:
    return [note for note in judge_bench(made, "line 2") if note.code == code]


@pytest.mark.parametrize(("end", "count"), [
    (LOAD, 0), (generic.power_meter("s", "sensor", damage_w=1e3), 0), (shelf.oscilloscope("o", "Sedge", 1e9), 1),
    (shelf.jumper("j", "jumper", 0.1, 0.1), 1),
], ids=["load", "sensor", "scope", "open"])  # fmt: skip
def test_a_line_without_a_load_stops(end, count):
    found = notes(bench(end), "line.no_load")

    assert [note.severity for note in found] == [Severity.STOP] * count


@pytest.mark.parametrize(("loss", "count"), [(0.7, 0), (0.85, 0), (0.91, 1), (1.0, 1)])
def test_a_source_that_cannot_give_the_plan_is_told(loss, count):
    """120 W through 0.79 dB are 100 W; 2 % more is what it is planned to (0.88 dB)."""
    made = bench(shelf.jumper("j", "cable", loss, 0.1), LOAD)
    hookup = made.hookups[1]
    made = made.with_hookup(replace(hookup, stated=PlaneRef(hookup.id, "jumper", "b")))

    assert len(notes(made, "source.too_little")) == count


@pytest.mark.parametrize(("damage", "near", "over"), [(11.0, False, False), (9.0, True, False), (0.9, False, True)])
def test_a_sensor_near_its_damage_level_is_watched(damage, near, over):
    """30 dB of 100 W are 100 mW; ten times that is the house rule's room."""
    pad = generic.attenuator("pad", "pad", 20.0, 0.1, 150.0)
    made = bench(pad, generic.power_meter("s", "sensor", damage_w=damage))

    assert bool(notes(made, "sensor.near_damage")) is near
    assert bool(notes(made, "part.over_rating")) is over


@pytest.mark.parametrize(("floor", "count"), [(0.0099, 0), (0.0101, 1)])
def test_a_sensor_near_its_noise_is_doubted(floor, count):
    pad = generic.attenuator("pad", "pad", 30.0, 0.1, 150.0)
    made = bench(pad, generic.power_meter("s", "sensor", damage_w=100.0, noise_w=floor))

    assert len(notes(made, "sensor.near_floor")) == count


@pytest.mark.parametrize(("power", "seconds", "severity"), [
    (199.0, 60.0, Severity.STOP), (201.0, 60.0, Severity.WATCH), (201.0, 39.0, Severity.STOP),
], ids=["too much", "short enough", "too long"])  # fmt: skip
def test_a_short_time_rating_counts_where_the_round_is_short(power, seconds, severity):
    """A round of two readings is 40 s of carrier; 200 W at a pad rated 100 W."""
    pad = generic.attenuator("pad", "pad", 3.0, 0.1, 100.0)
    known = {"short_power_w": Property(power, "W"), "short_s": Property(seconds, "s")}
    pad = replace(pad, properties={**pad.properties, **known})

    found = notes(bench(pad, LOAD, level_w=200.0), "part.over_rating")

    assert [note.severity for note in found if note.about == "attenuator"] == [severity]


def test_a_switch_that_destroys_is_named_with_its_position():
    pad = generic.attenuator("pad", "pad", 40.0, 0.1, 150.0, positions=(40.0, 20.0))
    made = bench(pad, generic.power_meter("s", "sensor", damage_w=0.5))

    found = notes(made, "switch.over_rating")
    assert [note.about for note in found] == ["line 2 meter"]
    assert "pad at 20 dB" in found[0].what and "1 W" in found[0].what.replace("\u202f", " ")
    assert not notes(made, "part.over_rating")


@pytest.mark.parametrize(
    ("share", "measured", "count"), [(None, False, 1), (0.1, False, 1), (0.1, True, 0), (1.0, True, 1)]
)
def test_a_fault_at_a_tap_is_watched_unless_fold_back_was_proven(share, measured, count):
    tap, sensor = generic.resistive_tap("tap", "tap", 2460.0, 50.0), generic.power_meter("s", "sensor", damage_w=0.02)
    source = SOURCE
    if share is not None:
        source = replace(SOURCE, properties={**SOURCE.properties, PROVEN: Property(share, "", measured=measured)})

    found = notes(bench(tap, LOAD, hang=(tap, sensor), source=source), "fault.over_rating")

    assert sum(note.about == "line 2 meter" for note in found) == count


@pytest.mark.parametrize(("turn", "power", "count"), [(False, 100.0, 0), (True, 100.0, 1), (True, 4.9, 0)])
def test_a_pad_the_wrong_way_round_stops(turn, power, count):
    pad = generic.attenuator("pad", "pad", 30.0, 0.1, 150.0, far_power_w=5.0)
    made = bench(pad, generic.power_meter("s", "sensor", damage_w=10.0), level_w=power)
    if turn:
        made = made.with_hookup(editing.turned_round(made.hookups[1], made.parts, "attenuator"))

    assert [note.severity for note in notes(made, "pad.turned")] == [Severity.STOP] * count


@pytest.mark.parametrize(("where", "count"), [("behind the tap", 1), ("before the sensor", 0), ("nowhere", 0)])
def test_a_sensor_on_the_wrong_side_of_its_pad_stops(where, count):
    """100 mW at a +10 dBm sensor, and a 30 dB pad that stands on the line instead."""
    tap, sensor = (
        generic.resistive_tap("tap", "tap", 740.0, 50.0, r1_power_w=50.0),
        generic.power_meter("s", "sensor", damage_w=0.01),
    )
    pad = generic.attenuator("pad", "pad", 30.0, 0.1, 150.0)
    made = bench(tap, *((pad,) if where == "behind the tap" else ()), LOAD, hang=(tap, sensor))
    if where == "before the sensor":
        hookup = editing.inserted(made.hookups[1], "tap", "side", pad)
        made = replace(made, kit=(*made.kit, pad)).with_hookup(hookup)

    assert len(notes(made, "sensor.wrong_side")) == count


def test_a_pad_that_stands_before_the_sensor_already_is_on_its_right_side():
    """50 mW behind 3 dB, rated 30 mW: another such pad would do, this one can't be moved there."""
    tap = generic.resistive_tap("tap", "tap", 740.0, 50.0, r1_power_w=50.0)
    pad, sensor = generic.attenuator("pad", "pad", 3.0, 0.1, 150.0), generic.power_meter("s", "s", damage_w=0.03)
    made = bench(tap, LOAD, hang=(tap, sensor))
    hookup = editing.inserted(made.hookups[1], "tap", "side", pad)
    made = replace(made, kit=(*made.kit, pad)).with_hookup(hookup)

    stops = {note.code for note in judge_bench(made, "line 2") if note.severity is Severity.STOP}
    assert stops == {"part.over_rating"}  # no more than that


@pytest.mark.parametrize(("ohm", "count"), [(99.0, 0), (101.0, 1)])
def test_an_antenna_on_another_bench_is_told(ohm, count):
    load = replace(LOAD, properties={**LOAD.properties, "nominal_ohm": Property(ohm, "Ω")})

    assert len(notes(bench(load), "load.poor")) == count


@pytest.mark.parametrize(("length", "severity"), [(0.1, None), (0.4, Severity.WATCH), (1.0, Severity.DOUBT)])
def test_a_lead_that_is_a_stub_on_another_bench(length, severity):
    tee, scope = shelf.tee("tee", "tee"), shelf.oscilloscope("o", "Sedge", 1e9)
    made = bench(tee, LOAD, hang=(tee, shelf.lead("long", "long lead", length)))
    hookup = editing.inserted(made.hookups[1], "lead", "b", scope)
    made = replace(made, kit=(*made.kit, replace(scope, id="o"))).with_hookup(hookup)

    found = notes(made, "lead.stub")
    assert [note.severity for note in found] == ([severity] if severity else [])


@pytest.mark.parametrize(("f", "severity"), [(19e6, None), (21e6, Severity.WATCH), (34e6, Severity.DOUBT)])
def test_a_voltmeter_too_slow_for_the_carrier(f, severity):
    meter = next(part for part in generic.generics() if part.kind is PartKind.VOLTMETER)
    tee = shelf.tee("t", "tee")

    found = notes(bench(tee, LOAD, hang=(tee, meter), frequencies_hz=(f,)), "instrument.bandwidth")

    assert [note.severity for note in found] == ([severity] if severity else [])


@pytest.mark.parametrize(("ohm", "power", "count"), [(99.0, 100.0, 0), (101.0, 100.0, 1), (101.0, 20.0, 0)])
def test_tuning_at_power_into_a_bad_match_stops(ohm, power, count):
    tuner = next(part for part in generic.generics() if part.kind is PartKind.TUNER)
    load = replace(LOAD, properties={**LOAD.properties, "nominal_ohm": Property(ohm, "Ω")})

    assert len(notes(bench(tuner, load, level_w=power), "tuner.high_power")) == count


@pytest.mark.parametrize(
    ("power", "codes"),
    [(4.0, ["tuner.too_little"]), (5.0, []), (8.0, []), (9.0, ["tuner.high_power"])],
)
def test_a_tuner_that_says_what_it_wants_and_bears_is_held_to_that(power, codes):
    tuner = tuner_of(5.0, 8.0)
    load = replace(LOAD, properties={**LOAD.properties, "nominal_ohm": Property(101.0, "Ω")})
    made = bench(tuner, load, level_w=power)

    found = [note for note in judge_bench(made, "line 2") if note.code.startswith("tuner")]
    assert [note.code for note in found] == codes
    assert not found or ("5" if power < 5.0 else "8") in found[0].remedy


def tuner_of(least, most):
    tuner = next(part for part in generic.generics() if part.kind is PartKind.TUNER)
    limits = {"tune_least_w": Property(least, "W"), "tune_most_w": Property(most, "W")}
    return replace(tuner, properties={**tuner.properties, **limits})


def test_what_is_stated_of_a_source_is_said():
    source = replace(SOURCE, settings={"output": "valves", "carrier": "speech only"})
    made = bench(LOAD, source=source)

    assert notes(made, "caution.valves")[0].severity is Severity.GOOD_TO_KNOW
    assert notes(made, "source.not_steady")[0].severity is Severity.DOUBT
    assert not notes(bench(LOAD), "caution.valves")
    assert not notes(bench(LOAD), "source.not_steady")


@pytest.mark.parametrize(("droop", "twice", "count"), [(0.009, False, 0), (0.011, False, 1), (0.011, True, 0)])
def test_a_drooping_source_wants_the_reference_read_twice(droop, twice, count):
    made = job()
    source = made.part("tx")
    made = made.with_part(replace(source, properties={**source.properties, "droop": Property(droop, "")}))
    if twice:
        order = ("scope", "meter", "scope")
        made = replace(made, plan=tuple(replace(point, sequence=order) for point in made.plan))

    assert sum(note.code == "source.droops" for note in judge_bench(made, "line")) == count


def test_an_oscilloscope_of_unknown_accuracy_costs():
    """ "Unknown" is a value: ±25 % of volts stand for it, and U of power grows to half of it and more."""
    known = job([[("102 Vpp", "25.6")]])
    scope = known.part("scope")
    unknown = replace(scope, indicators=(replace(scope.indicators[0], spec=spec_from_text("unknown", "V")),))

    made = reduce(known.with_part(unknown)).points[0]

    assert made.expanded_u_ratio > 5 * reduce(known).points[0].expanded_u_ratio


@pytest.mark.parametrize(("f", "ohm", "count"), [(149e6, 35.0, 0), (151e6, 35.0, 1), (151e6, 48.0, 0)])
def test_connectors_that_are_not_fifty_ohms_are_watched_above_150_mhz(f, ohm, count):
    made = bench(generic.adapter("a", "adapter", 0.025, ohm), LOAD, frequencies_hz=(f,))

    assert len(notes(made, "connector.not_z0")) == count


@pytest.mark.parametrize(("f", "count"), [(10e6, 0), (11e6, 1), (16e6, 1)])
def test_a_part_used_outside_its_table_is_doubted(f, count):
    import numpy as np

    s = np.zeros((2, 2, 2), complex)
    s[:, 0, 1] = s[:, 1, 0] = 0.5
    tables = characterisations_from(Touchstone(np.array([1e6, 10e6]), s, 50.0), "pad.s2p")
    pad = replace(generic.attenuator("pad", "pad", 6.0, 0.1, 150.0), characterisations=tables)

    found = notes(bench(pad, LOAD, frequencies_hz=(f,)), "part.extrapolated")

    assert len(found) == count
    assert all(("unknown" in note.why) is (f > 15e6) for note in found)


@pytest.mark.parametrize(("swr", "count"), [(1.05, 0), (1.4, 1)])
def test_unknown_phases_are_told_where_they_cost_a_per_cent(swr, count):
    """Two ceilings of SWR 1.4 face each other: |Γ1Γ2|/√2 is 2 % of power (handbook 3)."""
    pad = generic.attenuator("pad", "pad", 10.0, 0.1, 150.0, swr=swr)
    made = bench(pad, generic.power_meter("s", "sensor", damage_w=100.0, swr=swr))

    assert len(notes(made, "mismatch.unknown_phase")) == count


@pytest.mark.parametrize(("pad", "count"), [(0.0, 1), (10.0, 0)])
def test_a_substituted_sensor_is_told_what_the_sources_match_costs(pad, count):
    """Γg of SWR 1.5 measured, sensors of SWR 1.2: √2·0.2·0.0909·√2 = 3.6 % of power; 10 dB of pad take it away."""
    source = replace(SOURCE, properties={**SOURCE.properties, "swr": Property(1.5, "", measured=True)})
    made = job(level_w=0.01)
    for name in ("first", "second"):
        sensor = generic.power_meter(name, name, damage_w=100.0, swr=1.2)
        sensor = replace(sensor, properties={**sensor.properties, "swr": Property(1.2, "", measured=True)})
        parts = [generic.attenuator("pad", "pad", pad, 0.1, 150.0, swr=1.0), sensor] if pad else [sensor]
        hookup = HookUp("x", name, (editing.Element("tx", source.id),), (), PlaneRef("x", "tx", "out"))
        at = ("tx", "out")
        for part in parts:
            element = editing.free_name(hookup, part)
            hookup = editing.inserted(hookup, *at, part)
            at = (element, part.ends[-1])
        made = with_new_hookup(made, Bench(hookup, (source, *parts), ()))

    found = [note for note in judge_bench(made, "line 3") if note.code == "source.substitution"]
    assert len(found) == count
    assert all(note.evidence["u"] == pytest.approx(2 * 0.2 / 2.2 * 0.2, rel=1e-6) for note in found)
    assert not [note for note in judge_bench(made, "line 2") if note.code == "source.substitution"]


def test_a_part_plugged_in_elsewhere_keeps_what_this_job_typed_of_it():
    """The load in the kit has no table, this job's was measured: another bench with it must not move the results."""
    made = job([[("102 Vpp", "25.6")]])
    bare = replace(made.part("load"), characterisations=())
    before = reduce(made).points[0]

    made = with_new_hookup(made, from_template(TEMPLATES[6], (made.part("tx"), bare, *generic.starter_shelf()), "x"))
    made = with_inserted(made, made.hookups[1], "cable", generic.attenuator("p", "pad", 3.0, 0.1, 150.0))
    made = with_exchanged(made, made.hookups[1], "load", shelf.dummy_load("other", "other", 10.0))
    made = with_exchanged(made, made.hookups[1], "load", bare)

    assert made.part("load").characterisations
    assert reduce(made).points[0].reference_w == before.reference_w


def test_results_stand_while_another_bench_is_plugged():
    """Turning a switch on a bench on paper makes nothing anew of what was read elsewhere."""
    made = with_new_hookup(job([[("102 Vpp", "25.6")]]), from_template(TEMPLATES[2], generic.starter_shelf(), "x"))
    before = reduce(made)
    other = with_turned(made, made.hookups[1], "attenuator")

    assert before.holds_for(other, before.phase, before.known)
    assert reduce(other, former=before).points[0] is before.points[0]
    pad = generic.attenuator("pad", "pad", 3.0, 0.1, 150.0)
    assert not before.holds_for(with_inserted(made, made.hookups[0], "meter", pad), before.phase, before.known)


def test_another_bench_has_no_say_in_the_readings():
    """Its notes stand beside it, not beside results that were taken elsewhere."""
    made = bench(shelf.jumper("j", "jumper", 0.1, 0.1))

    assert "line.no_load" in {note.code for note in judge_bench(made, "line 2")}
    assert "line.no_load" not in {note.code for note in judge(made, reduce(made), date(2026, 11, 24))}


@pytest.mark.parametrize(("r1", "count"), [(2460.0, 0), (2560.0, 1)])
def test_a_tap_that_measures_otherwise_than_its_resistors_is_doubted(r1, count):
    """39.95 dB were measured to 0.05 dB; 2560 Ω make 40.29 dB."""
    table = table_from_texts(QUANTITIES["coupling_db"], [["7 MHz", "39.95 dB", "0.1"]], TableFacts())
    tap = generic.resistive_tap("tap", "tap", 2460.0, 50.0)
    components = tuple(replace(c, measured=v, u_measured=1.0) for c, v in zip(tap.components, (r1, 50.0), strict=True))
    tap = replace(tap, components=components, characterisations=(table,))

    assert len(notes(bench(tap, LOAD, hang=(tap, generic.power_meter("s", "s"))), "part.ratio_differs")) == count


def test_a_part_between_meter_and_tee_counts_in_the_readings():
    """A pad of 3 dB between meter and tee doubles the power at the meter; between tee and load nothing may stand."""
    plain = job([[("102 Vpp", "25.6")]])
    pad = generic.attenuator("pad", "pad", 3.0103, 0.01, 150.0)
    made = with_inserted(plain, plain.hookups[0], "meter", pad)

    before, after = (reduce(item).points[0].reference_w for item in (plain, made))
    assert after / before == pytest.approx(2.0, rel=1e-4)


def test_open_phases_between_meter_and_tee_enter_the_budget_where_an_swr_is_stated():
    """A pad of SWR 1.2 measured in front of a tee that sees |Γ| = 0.0715: √2·|Γ1Γ2| = 0.92 % of power, U-shaped."""
    plain = job([[("102 Vpp", "25.6")]])
    for measured, wanted in ((True, 2**0.5), (False, 1.0)):
        pad = generic.attenuator("pad", "pad", 3.0, 0.01, 150.0)
        pad = replace(pad, properties={**pad.properties, "swr": Property(1.2, "", measured=measured)})
        made = reduce(with_inserted(plain, plain.hookups[0], "meter", pad))

        row = next(row for row in made.budget("p1") if row.influence.id == "attenuator.out~tee.a.mismatch")
        seen = abs(reflection_from_impedance(57.7, 50.0))
        assert row.influence.standard_u[0] == pytest.approx(wanted * (0.2 / 2.2) * seen, rel=1e-3)
        assert row.share > 0
    assert not any(row.influence.id.endswith(".mismatch") for row in reduce(plain).budget("p1"))


def test_the_bench_that_is_read_has_to_stay_one_that_can_be_read():
    from fenmist.errors import OutOfRangeError
    from fenmist.procedures.benchwork import with_removed, with_stated

    plain = job()
    for edit in (
        lambda: with_removed(plain, plain.hookups[0], "scope"),
        lambda: with_removed(plain, plain.hookups[0], "meter"),
        lambda: with_stated(plain, plain.hookups[0], "load"),
    ):
        with pytest.raises(OutOfRangeError, match="readings of this job"):
            edit()


def test_every_template_is_judged_without_a_word_too_many():
    """A bench of generic parts at 1 W: nothing that stops."""
    made = job(level_w=1.0)
    for template in TEMPLATES:
        bench = from_template(template, (SOURCE, LOAD, *generic.starter_shelf()), "x")
        made = with_new_hookup(made, bench)

    benches = [judge_bench(made, hookup.id) for hookup in made.hookups]
    stops = [note for notes in benches for note in notes if note.severity is Severity.STOP]
    # 1 W of plan into a generator's bench and straight into a sensor are too much: that is what the rules are for
    assert {note.code for note in stops} <= {"part.over_rating"}
    assert Port("x").hangs is False
