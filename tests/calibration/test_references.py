"""References of any kind, alone and several at one point: numbers worked out by hand."""

import math
from dataclasses import replace

import numpy as np
import pytest

from fenmist.kit import generic, shelf
from fenmist.kit.part import Property, SpecKind, SpecTerm
from fenmist.measurand import Kind
from fenmist.methods.modulated import UNKNOWN
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from studies.benches import LOAD, bench, read_on
from studies.builders import WHEN, arc, job

METER = shelf.inline_meter("device", "Teal", (20.0, 200.0), arc(), 0.05)
QUIET = shelf.transmitter("source", "Plover", 250.0, harmonics_dbc={2: -120.0, 3: -120.0})
MATCHED = replace(LOAD, properties={**LOAD.properties, "nominal_ohm": Property(50.0, "Ω")})
WATTS, VOLTS = Kind.INCIDENT, Kind.VOLTAGE


def sensor(name="s", limit_db=0.2, cal_factor=1.0, cal_share=0.0, swr=1.0):
    """A sensor whose accuracy is ± so many dB and whose calibration factor is known to a share."""
    spec = (SpecTerm(SpecKind.DB, limit_db, "dB"),)
    made = generic.power_meter(name, f"sensor {name}", accuracy=spec, swr=swr, noise_w=0.0, top_w=0.2)
    factor = Property(cal_factor, "", SpecTerm(SpecKind.OF_READING, cal_share))
    return replace(made, properties={**made.properties, "cal_factor": factor, "zero_w": Property(0.0, "W")})


def pad(db=30.0, u_db=0.1, name="pad"):
    made = generic.attenuator(name, name, db, u_db, 150.0)
    return replace(made, properties={**made.properties, "swr": Property(1.0, "", measured=True)})


def shares(result, point="p1"):
    return {row.influence.id: row for row in result.budget(point) if row.contribution > 1e-4}


def behind_a_pad(shown="9.5 mW", **known):
    made = bench(METER, pad(), sensor(**known), source=QUIET, level_w=10.0)
    return read_on(made, {"sensor": ("s", WATTS), "meter": ("device", WATTS)}, [{"sensor": shown, "meter": "10.2"}])


def test_a_sensor_behind_a_pad():
    """9.5 mW shown of 10 mW incident (calibration factor 0.95), 30 dB in front: 10 W."""
    result = reduce(behind_a_pad(cal_factor=0.95))
    (point,) = result.points

    assert point.reference_w == pytest.approx(10.0, rel=1e-9)
    assert point.error_w == pytest.approx(0.2, rel=1e-6)
    assert (point.net_w, point.is_reference) == (pytest.approx(0.01), True)


def test_the_same_reading_stands_for_what_is_asked():
    """An oscilloscope across 75 Ω at 7 MHz: V²/R goes into it, and 1/(1 − 0.2²) of that came along the line."""
    made = job([[("102", "25.6")]], load=[(3e6, "75"), (28e6, "75")])
    net = replace(made, stated=replace(made.stated, kind=Kind.NET))
    came, went = (reduce(one).points[0].reference_w for one in (made, net))

    assert came / went == pytest.approx(1.0 / 0.96, rel=1e-3)
    assert reduce(made).points[0].reference_w == came


def test_every_line_of_its_budget():
    """Half a division of 0.05 mW, 0.2 dB, 1 % of the factor, 0.1 dB of the pad: rectangular, but for the pad's."""
    made = behind_a_pad(cal_share=0.01)
    found, watts = shares(reduce(made)), 9.5
    spec = made.part("pad").switches[0].positions[0].properties.get("loss_db") if made.part("pad").switches else None
    loss = spec or made.part("pad").properties["loss_db"]

    assert found["s.gain"].contribution == pytest.approx((10**0.02 - 1) / 3**0.5 * watts, rel=1e-3)
    assert found["s.cal_factor"].contribution == pytest.approx(0.01 / 3**0.5 * watts, rel=1e-3)
    assert found["s.reading"].contribution == pytest.approx(0.1 / 12**0.5, rel=1e-3)  # the last digit, 0.1 mW
    assert found["pad.loss"].contribution == pytest.approx(loss.u * math.log(10) / 10 * watts, rel=1e-3)
    assert set(found) == {"s.gain", "s.cal_factor", "s.reading", "pad.loss", "device.reading"}


def test_zero_and_noise_of_a_sensor_are_watts():
    part = sensor()
    part = replace(part, properties={
        **part.properties, "zero_w": Property(1e-4, "W", SpecTerm(SpecKind.ABSOLUTE, 1e-4, "W")),
        "noise_floor_w": Property(2e-4, "W"),
    })  # fmt: skip
    made = bench(METER, pad(), part, source=QUIET, level_w=10.0)
    made = read_on(made, {"s": ("s", WATTS), "m": ("device", WATTS)}, [{"s": "10 mW", "m": "10"}])
    result = reduce(made)

    assert result.points[0].reference_w == pytest.approx(9.9, rel=1e-9)
    assert shares(result)["s.zero"].contribution == pytest.approx(0.1 / 3**0.5, rel=1e-3)
    assert shares(result)["s.noise_floor"].contribution == pytest.approx(0.1, rel=1e-3)


def test_an_ammeter_in_the_line():
    """1 A through 50 Ω behind it: 50 W into the load, 50.2 W with its own 0.2 Ω."""
    meter = generic.ammeter("amps", "ammeter", 2.0, 0.2)
    made = bench(METER, meter, MATCHED, source=QUIET, level_w=50.0)
    made = read_on(made, {"a": ("amps", Kind.CURRENT), "m": ("device", WATTS)}, [{"a": "1.00 A", "m": "50"}])
    (point,) = reduce(made).points

    assert point.net_w == pytest.approx(50.0, rel=1e-9)
    rho = 0.2 / 100.2
    assert point.reference_w == pytest.approx(50.2 / (1 - rho**2), rel=1e-9)
    assert shares(reduce(made))["amps.gain"].contribution == pytest.approx(2 * 0.02 * 2 / 3**0.5 * 50.2, rel=2e-3)


def test_a_better_meter_in_line_with_its_correction_curve():
    from fenmist.kit.characterisation import Characterisation

    curve = Characterisation("c", "correction", (1e6, 30e6), (1.05, 1.05), unit="", u=(0.01, 0.01))
    better = replace(shelf.inline_meter("better", "Heron", (200.0,), None, 0.05), characterisations=(curve,))
    made = bench(METER, better, MATCHED, source=QUIET, level_w=50.0)
    made = read_on(made, {"b": ("better", WATTS), "m": ("device", WATTS)}, [{"b": "100", "m": "50"}])
    result = reduce(made)
    loss = better.properties["loss_db"].value

    assert result.points[0].reference_w == pytest.approx(105.0, rel=1e-6)  # as it enters the better one
    assert shares(result)["better.correction"].contribution == pytest.approx(100.0 * 0.01, rel=1e-3)
    assert "better.gain" not in shares(result) and loss >= 0


# several at one point


def three(volts="63.2 Vpp", first="9.95 mW", second="10.1 mW", rounds=1, **known):
    """10 W: a scope on a tee, then a pad of 3 dB, a coupler-free tap of two sensors behind one pad of 27 dB."""
    tee = shelf.tee("tee", "tee", 0.0, 0.0)
    scope = shelf.oscilloscope("o", "Sedge", 1e12, capacitance_f=0.0)
    coupler = generic.coupler("c", "Rush", 30.0, 60.0, 0.0, 200.0)
    made = bench(
        METER, tee, coupler, pad(30.0, 0.1, "big"), sensor("end"), hang=(tee, scope), source=QUIET, level_w=10.0
    )
    from fenmist.hookup.editing import inserted

    hookup = made.hookups[-1]
    name = next(item.id for item in hookup.elements if item.part == "c")
    side = sensor("side")
    made = replace(made, kit=(*made.kit, side)).with_hookup(inserted(hookup, name, "forward", side))
    texts = {"scope": volts, "end": first, "side": second, "meter": "10"}
    read = {"scope": ("o", VOLTS), "end": ("end", WATTS), "side": ("side", WATTS), "meter": ("device", WATTS)}
    shown = [f"{10 + 0.2 * number:g}" for number in range(rounds)]
    return read_on(made, read, [{**texts, "meter": text} for text in shown])


def test_three_references_agree_and_their_consensus_is_weighted():
    made = three()
    (point,) = reduce(made).points
    said = {item.channel: item for item in point.references}

    assert said["scope"].power_w == pytest.approx((63.2 / 8**0.5) ** 2 / 50.0, rel=1e-3)
    assert said["end"].power_w == pytest.approx(9.95, rel=2e-3)
    assert said["side"].power_w == pytest.approx(10.1, rel=2e-3)
    assert sum(item.weight for item in point.references) == pytest.approx(1.0)
    us = np.array([math.log(item.interval_w[1] / item.interval_w[0]) for item in point.references])
    weights = np.array([item.weight for item in point.references])
    assert weights == pytest.approx(us**-2 / np.sum(us**-2), rel=0.05)  # they share next to nothing
    assert np.ptp(weights) > 0.1
    log = sum(item.weight * math.log(item.power_w) for item in point.references)
    assert point.reference_w == pytest.approx(math.exp(log), rel=1e-6)
    assert point.agreement.agrees and point.agreement.odd is None
    low, high = said["scope"].interval_w
    assert low < said["scope"].power_w < high
    assert point.reference_u_w < (high - low) / 2.0  # together they know it better than the scope alone


def test_what_two_share_is_counted_once():
    """End and side sensors share nothing but the coupler's own; two behind one pad would: its loss is in both."""
    made = three()
    result = reduce(made)
    named = {row.influence.id for row in result.budget("p1")}

    assert {"o.gain", "end.gain", "side.gain", "big.loss", "c.coupling"} <= named
    pairs = {(pair.a, pair.b): pair.correlation for pair in result.points[0].agreement.pairs}
    assert all(abs(value) < 0.1 for value in pairs.values())


def test_the_odd_one_is_named_with_what_explains_it():
    """The end sensor at half of what it should: 3 dB."""
    made = three(first="5.0 mW")
    (point,) = reduce(made).points
    (note,) = [item for item in judge(made, reduce(made), WHEN.date()) if item.code == "agreement.odd"]

    assert point.references[point.agreement.odd].channel == "end"
    assert note.about == made.channel("end").element
    assert "sensor end stands apart at 7.125" in note.what.replace("The ", "")
    assert "3 dB" in note.why.replace("\u202f", " ")


def test_a_reference_that_is_named_decides():
    made = replace(three(), reference="scope")
    (point,) = reduce(made).points

    assert [item.weight for item in point.references] == [1.0, 0.0, 0.0]
    assert point.reference_w == pytest.approx(point.references[0].power_w, rel=1e-9)


def test_what_is_no_reference_has_no_weight():
    """A scope of 10 MHz at 7 MHz is none; the sensors go on."""
    made = three()
    slow = replace(made.part("o"), properties={**made.part("o").properties, "bandwidth_hz": Property(10e6, "Hz")})
    (point,) = reduce(made.with_part(slow)).points

    assert [item.is_reference for item in point.references] == [False, True, True]
    assert point.references[0].weight == 0.0
    assert point.is_reference and len(point.agreement.weights) == 2


def test_points_weighed_together_are_each_as_weighed_alone():
    """All agree; the end sensor is odd; the scope is none at 28 MHz; nobody knows which; of nothing is known what is
    sent: all are weighed, and none decides.
    """
    rows = [
        (7e6, {}, ""), (14e6, {"first": "5.0 mW"}, ""), (28e6, {"second": "10.3 mW"}, ""),
        (7e6, {"first": "5.0 mW", "second": "20 mW"}, ""), (14e6, {"volts": "64 Vpp"}, UNKNOWN),
        (3.5e6, {"volts": "45 Vpp"}, ""),
    ]  # fmt: skip
    plan, events = [], []
    for number, (hertz, known, sent) in enumerate(rows, start=1):
        one = three(**known)
        plan.append(replace(one.plan[0], id=f"p{number}", frequency_hz=hertz, waveform=sent))
        events += [
            replace(event, id=f"{event.id} {number}", entry=replace(event.entry, slot=replace(event.entry.slot,
                    point=f"p{number}")))
            for event in one.events
        ]  # fmt: skip
    made = three()
    slow = replace(made.part("o"), properties={**made.part("o").properties, "bandwidth_hz": Property(60e6, "Hz")})
    made = replace(made.with_part(slow), plan=tuple(plan), events=tuple(events))

    together = reduce(made).points
    alone = [reduce(made.narrowed([point], made.events)).points[0] for point in made.plan]

    assert [item.agreement.odd for item in together] == [None, 1, None, None, None, 0]
    assert [len(item.agreement.weights) for item in together] == [3, 3, 2, 3, 3, 3]
    assert [item.is_reference for item in together] == [True, True, True, False, False, True]
    for one, other in zip(together, alone, strict=True):
        weights, by_itself = ([item.weight for item in found.references] for found in (one, other))
        assert weights == pytest.approx(by_itself, rel=1e-9)
        assert sum(weights) == pytest.approx(1.0)
        assert (one.reference_w, one.reference_u_w) == pytest.approx((other.reference_w, other.reference_u_w), rel=1e-9)
        assert one.agreement.off == pytest.approx(other.agreement.off, rel=1e-6)
        assert (one.agreement.odd, one.is_reference) == (other.agreement.odd, other.is_reference)


def test_scatter_of_each_against_the_meter_is_its_own_line():
    made = three(rounds=3)
    found = reduce(made).budget("p1")

    assert {"repeat.scope", "repeat.end", "repeat.side"} <= {row.influence.id for row in found}
    assert np.isfinite(reduce(made).points[0].dof)


def test_points_read_otherwise_are_worked_out_apart_and_joined():
    """One point by scope alone, one by all three: the scope's gain is one error in both."""
    made = three()
    more = replace(made.plan[0], id="p2", sequence=("scope", "meter"))
    events = tuple(
        replace(event, id=f"{event.id}b", entry=replace(event.entry, slot=replace(event.entry.slot, point="p2",
                position={"scope": 0, "meter": 1}[event.entry.channel])))
        for event in made.events if event.entry.channel in ("scope", "meter")
    )  # fmt: skip
    made = replace(made, plan=(*made.plan, more), events=(*made.events, *events))
    result = reduce(made)

    assert [len(item.references) for item in result.points] == [3, 1]
    assert result.error.value == pytest.approx([item.error_w for item in result.points])
    assert result.error.u == pytest.approx([item.u_error_w for item in result.points])
    gain = list(result.log_ratio.sensitivities).index("o.gain")
    assert result.log_ratio.shared_by_all()[gain]
    alone = reduce(made).points[1]
    assert alone.reference_w == pytest.approx(result.points[0].references[0].power_w, rel=1e-9)
