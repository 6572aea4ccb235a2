"""What an indicator is put to per watt: against the trade's numbers, the network of levels, and the closed form."""

from dataclasses import replace

import numpy as np
import pytest

from fenmist.calibration.job import Job
from fenmist.errors import UnknownIdError
from fenmist.hookup.line import Element, HookUp, Joint, side_ways
from fenmist.hookup.network import line_network
from fenmist.hookup.templates import TEMPLATES, from_template
from fenmist.hookup.transfer import Transfer, transfer_of, waves_along
from fenmist.kit import generic, shelf
from fenmist.kit.impedance import table_from_rows
from fenmist.kit.part import Part, PartKind, Property
from fenmist.kit.tables import QUANTITIES, TableFacts, table_from_texts
from fenmist.kit.touchstone import Touchstone, characterisations_from
from fenmist.measurand import Kind, PlaneRef
from fenmist.methods.scope_across_load import power_influences, power_model
from fenmist.methods.scope_chain import volts_at_tee
from fenmist.uncertainty.influence import Distribution
from studies.benches import LOAD, SOURCE, bench
from studies.builders import job
from tests.support.closed_form import scope_readings

F = np.array([1.8e6, 7e6, 14e6, 28e6, 50e6])
MATCHED = replace(LOAD, properties={**LOAD.properties, "nominal_ohm": Property(50.0, "Ω")})
EXACT = shelf.inline_meter("exact", "Teal", (200.0,), None, 0.05)


def estimates(bench: Transfer) -> dict[str, np.ndarray]:
    return {item.id: item.estimate for item in bench.influences}


def at(made: HookUp, parts, kind: PartKind) -> PlaneRef:
    element = next(item.id for item in made.elements if parts[item.part].kind is kind)
    return PlaneRef(made.id, element, parts[made.element(element).part].ports[0].id)


def stated_behind(made: Job, kind: PartKind) -> HookUp:
    hookup = made.hookups[-1]
    where = at(hookup, made.parts, kind)
    return replace(hookup, stated=replace(where, port=made.parts[hookup.element(where.element).part].ends[-1]))


def per_watt(made: Job, hookup: HookUp, kind: Kind, on: PartKind, f=7e6, **settings) -> float:
    where = at(hookup, made.parts, on)
    found = transfer_of(hookup, made.parts, np.array([f]), [(kind, where)])
    x = {**estimates(found), **{name: np.full(1, value) for name, value in settings.items()}}
    return float(found.per_watt(x, [(kind, where)])[0][0])


def dbm(watts: float) -> float:
    return 10.0 * np.log10(watts / 1e-3)


# the trade's numbers: derived, no source


def test_a_tap_into_a_sensor_and_into_an_oscilloscope():
    """100 W incident into 50 Ω beside 2510 Ω: the sensor sees V·50/2·1/2510... : +9.965 dBm; the scope 1.395 V rms."""
    tap = generic.resistive_tap("tap", "tap", 2460.0, 50.0)
    sensor = generic.power_meter("s", "sensor", swr=1.0)
    made = bench(EXACT, tap, MATCHED, hang=(tap, sensor))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    assert dbm(100.0 * per_watt(made, hookup, Kind.INCIDENT, PartKind.POWER_METER, 1e3)) == pytest.approx(
        9.965, abs=1e-3
    )

    scope = shelf.oscilloscope("o", "Sedge", 1e9, capacitance_f=0.0)
    made = bench(EXACT, tap, MATCHED, hang=(tap, scope))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    volts = 10.0 * per_watt(made, hookup, Kind.VOLTAGE, PartKind.OSCILLOSCOPE, 1e3) ** 0.5
    assert volts == pytest.approx(1.395, abs=1e-3)


def test_a_pad_of_30_db_an_ampere_and_a_divider():
    """10 W behind 30 dB are +10 dBm; 1 A through 50 Ω are 50 W; 8.00 V behind 22 kΩ and 2.66 kΩ are 110.0 W in 50 Ω."""
    pad = generic.attenuator("pad", "pad", 30.0, 0.1, 150.0)
    made = bench(EXACT, pad, generic.power_meter("s", "sensor", swr=1.0))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    assert dbm(10.0 * per_watt(made, hookup, Kind.INCIDENT, PartKind.POWER_METER)) == pytest.approx(10.0, abs=1e-9)

    made = bench(EXACT, generic.ammeter("amps", "ammeter", 2.0, 0.2), MATCHED)
    hookup = stated_behind(made, PartKind.INLINE_METER)
    where = at(hookup, made.parts, PartKind.AMMETER)
    ends = transfer_of(hookup, made.parts, np.array([7e6]))
    (square,) = ends.per_watt(estimates(ends), [(Kind.CURRENT, where)], Kind.NET)
    assert 1.0 / float(square[0]) == pytest.approx(50.2, rel=1e-9)  # 0.2 Ω of its heater, too

    divider = generic.divider("divider", "divider", 22e3, 2.66e3, 1e-18)
    tee = shelf.tee("tee", "tee", 0.0, 0.0)
    made = bench(EXACT, tee, MATCHED, hang=(tee, divider))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    ends = transfer_of(hookup, made.parts, np.array([1e3]))
    where = PlaneRef(hookup.id, ends.sides["tee", "side"][0].element, divider.ports[-1].id)
    (square,) = ends.per_watt(estimates(ends), [(Kind.VOLTAGE, where)], Kind.NET)
    assert 8.0**2 / float(square[0]) == pytest.approx(110.0, abs=0.25)  # the divider's own 24.66 kΩ draws 0.2 %


# referees


@pytest.mark.parametrize("template", TEMPLATES, ids=lambda item: item.label)
def test_at_the_estimates_it_is_the_network_of_levels(template):
    """Waves at every connector behind the stated plane, over the wave that goes forward there."""
    kit = [shelf.tee("t0", "tee", 0.0, 1e-12), SOURCE, LOAD, *generic.starter_shelf()]
    bench = from_template(template, kit, "line")
    hookup, used = bench.hookup, bench.parts
    parts = {part.id: part for part in used}
    ours = transfer_of(hookup, parts, F)
    levels = line_network(hookup, parts, F)
    incident = levels.incident(levels.load_reflection)
    leaving = levels.leaving(incident)
    place = levels.number[hookup.stated.element, hookup.stated.port]
    forward = incident if levels.forward_is_in[place] else leaving
    x = estimates(ours)
    leaks = {name: 10.0 ** (-part.properties["directivity_db"].value / 20.0) for name, part in parts.items()
             if "directivity_db" in part.properties and part.side_ports}  # fmt: skip
    waves = ours.waves({**x, **{f"{name}.directivity.real": np.full(F.size, leak) for name, leak in leaks.items()}})

    for key, into in waves.into.items():
        expected = incident[:, levels.number[key]] / forward[:, place]
        assert np.allclose(
            into / waves.stated, expected, rtol=0, atol=1e-9 * max(1.0, float(np.abs(expected).max()))
        ), key


BENCHES = {
    "lead": {"load": "57.7+j8", "lead_m": 0.5},
    "arm": {"load": "|52| swr 1.1", "lead_m": 0.3, "tee": shelf.tee("tee", "tee", 0.02, 1e-12)},
    "probe": {"load": "50", "probe": shelf.probe("lead", "probe", ratio=10.0, setting=1.0, bandwidth_hz=1e15)},
    "jumper": {"load": "45-j5", "lead_m": 0.4, "jumper": shelf.jumper("j", "jumper", 0.2, 0.05)},
    "magnitude": {"load": "|57.7|", "lead_m": 0.5},
}


@pytest.mark.parametrize("name", BENCHES)
@pytest.mark.parametrize("seed", range(4))
def test_the_closed_form_of_an_oscilloscope_across_the_load_is_the_same(name, seed):
    """Any value of any influence: to rounding, where the sign of a reactance is one or the other."""
    made = job(frequencies_hz=tuple(F), **BENCHES[name])
    readings = scope_readings(made, F, np.full(F.size, 30.0), np.zeros(F.size), ("fit",) * F.size)
    influences, rng = power_influences(readings), np.random.default_rng(seed)
    x = {
        item.id: rng.choice([-1.0, 1.0], F.size) if item.id.endswith(".sign") and np.any(item.standard_u)
        else item.estimate + rng.normal(size=F.size) * item.standard_u
        for item in influences
    }  # fmt: skip
    x["load.cos_phi"] = np.minimum(x["load.cos_phi"], 1.0)
    scope = PlaneRef("line", "scope", made.part("scope").ports[0].id)
    ours = transfer_of(made.hookups[0], made.parts, F, [(Kind.VOLTAGE, scope)])
    tee_v = volts_at_tee(readings.chain)(x, np.ones(F.size)) / volts_at_tee(replace(readings.chain, feed=None))(
        x, np.ones(F.size)
    )
    at_input = x["scope.reading"] * volts_at_tee(replace(readings.chain, feed=None))(x, np.ones(F.size))
    (square,) = ours.per_watt({**estimates(ours), **x}, [(Kind.VOLTAGE, scope)])

    assert np.all(tee_v > 0)
    assert at_input**2 / square == pytest.approx(power_model(readings)(x)["incident_at_meter"], rel=1e-9)


def test_power_stated_at_the_meters_input_holds_its_own_loss():
    made = job(load="50")
    hookup = made.hookups[0]
    scope = PlaneRef("line", "scope", made.part("scope").ports[0].id)
    at_out = transfer_of(hookup, made.parts, F, [(Kind.VOLTAGE, scope)])
    at_in = transfer_of(
        replace(hookup, stated=replace(hookup.stated, port="in")), made.parts, F, [(Kind.VOLTAGE, scope)]
    )
    loss = made.dut_part.properties["loss_db"].value
    (out,), (into,) = (item.per_watt(estimates(item), [(Kind.VOLTAGE, scope)]) for item in (at_out, at_in))

    assert 10.0 * np.log10(out / into) == pytest.approx(loss, abs=1e-9)


# everything uncertain, by part and property


def moved(part: Part, **values: float) -> Part:
    components = tuple(
        replace(item, measured=values[item.id]) if item.id in values else item for item in part.components
    )
    return replace(part, components=components)


def test_a_piece_that_is_moved_is_a_part_built_with_it():
    """Each resistor of a tap a per cent up: as if it had been measured so."""
    tap = generic.resistive_tap("tap", "tap", 2460.0, 50.0)
    sensor = generic.power_meter("s", "sensor", swr=1.0)
    made = bench(EXACT, tap, MATCHED, hang=(tap, sensor))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    named = {item.id for item in transfer_of(hookup, made.parts, F).influences}
    for item in tap.components:
        if item.u > 0:
            assert f"tap.{item.id}" in named
            other = {**made.parts, "tap": moved(tap, **{item.id: 1.01 * item.value})}
            built = transfer_of(hookup, other, F)
            where = at(hookup, made.parts, PartKind.POWER_METER)
            (wanted,) = built.per_watt(estimates(built), [(Kind.INCIDENT, where)])
            here = transfer_of(hookup, made.parts, F)
            stack = {key: np.broadcast_to(value, (3, F.size)).copy() for key, value in estimates(here).items()}
            stack[f"tap.{item.id}"][1] *= 1.01
            (found,) = here.per_watt(stack, [(Kind.INCIDENT, where)])
            assert found[1] == pytest.approx(wanted, rel=1e-12)
            assert found[0] == pytest.approx(found[2], rel=1e-15)
            assert np.all(np.abs(found[1] / found[0] - 1.0) > 1e-9)


@pytest.mark.parametrize(
    ("part", "what", "factor"),
    [
        (generic.attenuator("pad", "pad", 30.0, 0.1, 150.0), "pad.loss", 10 ** (-0.01)),
        (shelf.jumper("pad", "jumper", 0.2, 0.05), "pad.loss", 10 ** (-0.01)),
        (generic.cable("pad", "cable", "50 Ω, 5 mm, solid polyethylene", 10.0), "pad.loss", None),
    ],
    ids=["pad", "jumper", "cable"],
)
def test_a_loss_of_a_tenth_of_a_decibel_more_takes_it(part, what, factor):
    made = bench(EXACT, part, generic.power_meter("s", "sensor", swr=1.0))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    here = transfer_of(hookup, made.parts, np.array([7e6]))
    known = {item.id: item for item in here.influences}
    where = at(hookup, made.parts, PartKind.POWER_METER)
    before, after = (
        here.per_watt({**estimates(here), what: known[what].estimate + more}, [(Kind.INCIDENT, where)])[0][0]
        for more in (0.0, 0.1)
    )

    assert known[what].source_id == "pad"
    if factor is not None:
        assert after / before == pytest.approx(factor, rel=1e-9)
    else:  # a tenth of the cable's own loss more
        assert after / before == pytest.approx(before**0.1, rel=1e-6)


def test_a_setting_of_steps_stands_in_the_name():
    pad = generic.attenuator("steps", "Sallow", 40.0, 0.1, 150.0, positions=(40.0, 20.0))
    made = bench(EXACT, pad, generic.power_meter("s", "sensor", swr=1.0))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    pad_at = next(item.id for item in hookup.elements if item.part == "steps")
    turned = replace(
        hookup,
        elements=tuple(
            replace(item, settings={pad.switches[0].id: "20 dB"}) if item.id == pad_at else item
            for item in hookup.elements
        ),
    )
    names = [{item.id for item in transfer_of(item, made.parts, F).influences} for item in (hookup, turned)]

    assert "steps.loss@40 dB" in names[0] and "steps.loss@20 dB" in names[1]
    where = at(hookup, made.parts, PartKind.POWER_METER)
    levels = [
        float(found.per_watt(estimates(found), [(Kind.INCIDENT, where)])[0][0])
        for found in (transfer_of(item, made.parts, F) for item in (hookup, turned))
    ]
    assert 10.0 * np.log10(levels[1] / levels[0]) == pytest.approx(20.0, abs=1e-9)


def test_two_instruments_share_what_stands_before_both():
    """A pad before a tee with a scope across and a sensor behind: its loss is one influence, both move by it alike."""
    pad, tee = generic.attenuator("pad", "pad", 10.0, 0.1, 150.0), shelf.tee("tee", "tee", 0.0, 0.0)
    scope = shelf.oscilloscope("o", "Sedge", 1e9, capacitance_f=0.0)
    made = bench(EXACT, pad, tee, generic.power_meter("s", "sensor", swr=1.0), hang=(tee, scope))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    wanted = [
        (Kind.VOLTAGE, at(hookup, made.parts, PartKind.OSCILLOSCOPE)),
        (Kind.INCIDENT, at(hookup, made.parts, PartKind.POWER_METER)),
    ]
    here = transfer_of(hookup, made.parts, F, wanted)
    before, after = (
        here.per_watt({**estimates(here), "pad.loss": 10.0 + more + np.zeros(F.size)}, wanted) for more in (0.0, 0.5)
    )

    assert [item.id for item in here.influences].count("pad.loss") == 1
    for one, other in zip(before, after, strict=True):
        assert 10.0 * np.log10(one / other) == pytest.approx(0.5, abs=1e-9)


def test_what_leaks_into_a_coupler_has_an_open_phase():
    """Directivity 20 dB, load of SWR 2: forward arm moves by at most 2·0.1·(1/3) of power, either way."""
    coupler = generic.coupler("c", "coupler", 30.0, 20.0, 0.0, 200.0)
    poor = replace(LOAD, properties={**LOAD.properties, "nominal_ohm": Property(100.0, "Ω")})
    made = bench(EXACT, coupler, poor, hang=(coupler, generic.power_meter("s", "sensor", swr=1.0)))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    where = at(hookup, made.parts, PartKind.POWER_METER)
    here = transfer_of(hookup, made.parts, np.array([7e6]))
    x, names = estimates(here), [item.id for item in here.influences]

    def shown(real: float) -> float:
        return float(here.per_watt({**x, "c.directivity.real": np.full(1, real)}, [(Kind.INCIDENT, where)])[0][0])

    assert {"c.directivity.real", "c.directivity.imaginary"} <= set(names)
    assert shown(0.1) / shown(0.0) == pytest.approx((1.0 + 0.1 / 3.0) ** 2, rel=1e-4)
    assert shown(-0.1) / shown(0.0) == pytest.approx((1.0 - 0.1 / 3.0) ** 2, rel=1e-4)


def test_measured_parameters_are_known_as_their_tables_say():
    s = np.zeros((2, 2, 2), complex)
    s[:, 0, 1] = s[:, 1, 0] = 0.1
    tables = [
        replace(item, u=(0.001,) * 2)
        for item in characterisations_from(Touchstone(np.array([1e6, 50e6]), s, 50.0), "p")
    ]
    pad = replace(generic.attenuator("pad", "pad", 20.0, 0.1, 150.0), characterisations=tuple(tables))
    made = bench(EXACT, pad, generic.power_meter("s", "sensor", swr=1.0))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    known = {item.id: item for item in transfer_of(hookup, made.parts, np.array([1e6])).influences}

    assert known["pad.loss"].standard_u[0] == pytest.approx(20.0 / np.log(10.0) * 0.001 / 0.1, rel=1e-9)
    assert known["pad.s11.real"].standard_u[0] == known["pad.s22.imaginary"].standard_u[0] == 0.001


def test_a_ratio_measured_at_a_level_counts_and_not_its_pieces():
    table = table_from_texts(QUANTITIES["coupling_db"], [["7 MHz", "39.95 dB", "0.1"]], TableFacts())
    tap = replace(generic.resistive_tap("tap", "tap", 2460.0, 50.0), characterisations=(table,))
    made = bench(EXACT, tap, MATCHED, hang=(tap, generic.power_meter("s", "sensor", swr=1.0)))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    known = {item.id: item for item in transfer_of(hookup, made.parts, np.array([7e6])).influences}

    assert known["tap.coupling"].standard_u[0] == pytest.approx(0.05)
    assert not [name for name in known if name.startswith("tap.R")]
    where = at(hookup, made.parts, PartKind.POWER_METER)
    here = transfer_of(hookup, made.parts, np.array([7e6]))
    through = PlaneRef(hookup.id, at(hookup, made.parts, PartKind.LOAD).element, "in")
    side, line = here.per_watt(estimates(here), [(Kind.INCIDENT, where), (Kind.INCIDENT, through)])
    assert 10.0 * np.log10(line[0] / side[0]) == pytest.approx(39.95, abs=0.01)


# open phases


def test_open_phases_are_an_influence_for_each_pair_that_faces():
    """Pad and sensor of SWR 1.2 measured: √2·(1/11)² = 1.17 % of power; the pair is named, and shared by frequency."""
    pad = generic.attenuator("pad", "pad", 10.0, 0.1, 150.0)
    pad = replace(pad, properties={**pad.properties, "swr": Property(1.2, "", measured=True)})
    sensor = generic.power_meter("s", "sensor", swr=1.2)
    sensor = replace(sensor, properties={**sensor.properties, "swr": Property(1.2, "", measured=True)})
    made = bench(EXACT, pad, sensor)
    hookup = stated_behind(made, PartKind.INLINE_METER)
    where = at(hookup, made.parts, PartKind.POWER_METER)
    wanted = [(Kind.INCIDENT, where), (Kind.NET, where)]
    here = transfer_of(hookup, made.parts, np.array([7e6, 7e6, 14e6]), wanted)
    (found,) = here.mismatches[Kind.INCIDENT, where.element, where.port]

    assert found.id == "attenuator.out~meter.in.mismatch"
    assert found.standard_u == pytest.approx([np.sqrt(2.0) / 121.0] * 3)
    assert found.sharing[0] == found.sharing[1] != found.sharing[2]
    x = estimates(here)
    up = np.array(here.per_watt({**x, found.id: np.full(3, 0.01)}, wanted))  # a net power is moved, too
    assert up / here.per_watt(x, wanted) == pytest.approx(np.full((2, 3), 1.01))
    assert np.array_equal(here.estimated_per_watt(wanted), here.per_watt(x, wanted))


def known_swr(part: Part, swr: float) -> Part:
    return replace(part, properties={**part.properties, "swr": Property(swr, "", measured=True)})


def pairs(made: Job, hookup: HookUp, where: PlaneRef) -> dict[str, float]:
    found = transfer_of(hookup, made.parts, np.array([7e6]), [(Kind.INCIDENT, where)])
    return {item.id.removesuffix(".mismatch"): float(item.standard_u[0]) for item in found.influences
            if item.id.endswith(".mismatch")}  # fmt: skip


def pad_of(name: str, db: float, swr: float = 1.2) -> Part:
    return known_swr(generic.attenuator(name, name, db, 0.1, 150.0), swr)


def test_every_pair_along_a_way_counts_weaker_by_the_loss_between():
    """SWR 1.2 three times: √2/121 next to each other, half of it across 3 dB, both ways."""
    made = bench(EXACT, pad_of("one", 10.0), pad_of("two", 3.0103), known_swr(generic.power_meter("s", "s"), 1.2))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    found = pairs(made, hookup, at(hookup, made.parts, PartKind.POWER_METER))
    next_to = 2.0**0.5 / 121.0

    assert found == {
        "attenuator.out~attenuator 2.in": pytest.approx(next_to),
        "attenuator 2.out~meter.in": pytest.approx(next_to),
        "attenuator.out~meter.in": pytest.approx(next_to / 2.0, rel=1e-5),
    }


def test_on_a_branch_its_root_counts_and_on_the_line_what_is_seen():
    """A tap's side port is 50 Ω beside 2510 Ω less 25 Ω; the line in front sees tap and load: (2510 ∥ 50 Ω)."""
    tap = generic.resistive_tap("tap", "tap", 2460.0, 50.0)
    sensor = known_swr(generic.power_meter("s", "s"), 1.2)
    made = bench(EXACT, pad_of("pad", 3.0), tap, MATCHED, hang=(tap, sensor))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    where = at(hookup, made.parts, PartKind.POWER_METER)
    found = transfer_of(hookup, made.parts, np.array([1e3]), [(Kind.INCIDENT, where)])
    u = {item.id: float(item.standard_u[0]) for item in found.influences if item.id.endswith(".mismatch")}
    side = 1.0 / (1.0 / 50.0 + 1.0 / (2460.0 + 25.0))
    rho_side, seen = abs(side - 50.0) / (side + 50.0), 1.0 / (1.0 / 50.0 + 1.0 / (2460.0 + 25.0))
    rho_seen = abs(seen - 50.0) / (seen + 50.0)

    assert set(u) == {"attenuator.out~tap.in.mismatch", "tap.side~meter.in.mismatch"}
    assert u["tap.side~meter.in.mismatch"] == pytest.approx(2.0**0.5 * rho_side / 11.0, rel=1e-3)
    assert u["attenuator.out~tap.in.mismatch"] == pytest.approx(2.0**0.5 * rho_seen / 11.0, rel=0.02)


def test_a_pad_on_the_line_faces_a_sensor_through_a_coupler():
    """20 dB of coupling: a hundredth of what it would be face to face; the coupler's own sides face both."""
    coupler = known_swr(generic.coupler("c", "coupler", 20.0, 100.0, 0.0, 200.0), 1.2)
    sensor = known_swr(generic.power_meter("s", "s"), 1.2)
    made = bench(EXACT, pad_of("pad", 3.0), coupler, MATCHED, hang=(coupler, sensor))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    next_to = 2.0**0.5 / 121.0

    assert pairs(made, hookup, at(hookup, made.parts, PartKind.POWER_METER)) == {
        "attenuator.out~coupler.in": pytest.approx(next_to),
        "coupler.forward~meter.in": pytest.approx(next_to),
        "attenuator.out~meter.in": pytest.approx(next_to / 100.0),
    }


def test_what_stands_in_front_of_the_plane_counts_only_for_an_instrument_there():
    """A better meter, a pad, then the meter under test: the pad's two sides face the meters, nothing behind does."""
    better = known_swr(shelf.inline_meter("better", "Heron", (200.0,), None, 0.05), 1.2)
    device = known_swr(EXACT, 1.2)
    made = bench(better, pad_of("pad", 3.0), device, MATCHED)
    hookup = made.hookups[-1]
    names = {item.part: item.id for item in hookup.elements}
    hookup = replace(hookup, stated=PlaneRef(hookup.id, names["exact"], "out"))
    load = PlaneRef(hookup.id, at(hookup, made.parts, PartKind.LOAD).element, "in")

    assert pairs(made, hookup, load) == {}
    assert set(pairs(made, hookup, PlaneRef(hookup.id, names["better"], "out"))) == {
        f"{names['pad']}.out~{names['exact']}.in"
    }
    here = transfer_of(hookup, made.parts, F, [(Kind.INCIDENT, PlaneRef(hookup.id, names["better"], "out"))])
    counting = {item.source_id for item in here.influences}
    assert "pad" in counting and "exact" in counting and "better" not in counting
    assert "pad" not in {
        item.source_id for item in transfer_of(hookup, made.parts, F, [(Kind.INCIDENT, load)]).influences
    }


def test_parts_with_phases_between_two_reflections_are_a_correction():
    """A jumper of length between tap and load: nothing open, no pair."""
    tap = generic.resistive_tap("tap", "tap", 2460.0, 50.0)
    piece = generic.adapter("piece", "adapter", 0.3, 35.0)
    poor = replace(LOAD, properties={**LOAD.properties, "nominal_ohm": Property(75.0, "Ω")})
    made = bench(EXACT, piece, tap, poor, hang=(tap, known_swr(generic.power_meter("s", "s"), 1.0)))
    hookup = stated_behind(made, PartKind.INLINE_METER)

    assert pairs(made, hookup, at(hookup, made.parts, PartKind.POWER_METER)) == {}


def test_waves_along_a_branch_are_those_of_the_whole_bench():
    made = job(frequencies_hz=tuple(F), lead_m=0.5, load="50")
    hookup = made.hookups[0]
    whole = transfer_of(hookup, made.parts, F)
    stops = whole.sides["tee", "side"]
    along, waves = waves_along(hookup, made.parts, F, stops), whole.waves(estimates(whole))

    def raised(found):
        lead, scope = ("lead", "a"), ("scope", "in")
        return np.abs((found.into[scope] + found.out[scope]) / (found.into[lead] + found.out[lead]))

    assert raised(along) == pytest.approx(raised(waves), rel=1e-12)
    only = waves_along(hookup, made.parts, F, stops[:1])  # what follows it still counts
    assert only.out["lead", "a"] == pytest.approx(along.out["lead", "a"])


def test_a_divided_reading_is_taken_as_the_instrument_shows_it():
    """A probe of 10:1 and a screen set to 10: volts as on the line; set to 1: a tenth."""
    shown = []
    for setting in (10.0, 1.0):
        made = job(load="50", probe=shelf.probe("lead", "probe", ratio=10.0, setting=setting, capacitance_f=1e-15))
        scope = PlaneRef("line", "scope", "in")
        found = transfer_of(made.hookups[0], made.parts, np.array([1e5]), [(Kind.VOLTAGE, scope)])
        shown.append(float(found.per_watt(estimates(found), [(Kind.VOLTAGE, scope)])[0][0]))
        tee = PlaneRef("line", "tee", "a")
        assert float(found.per_watt(estimates(found), [(Kind.VOLTAGE, tee)])[0][0]) == pytest.approx(50.0, rel=1e-4)

    assert shown == [pytest.approx(50.0, rel=1e-4), pytest.approx(0.5, rel=1e-4)]


@pytest.mark.parametrize(("stated", "count"), [(True, 1), (False, 0)])
def test_a_part_of_which_no_swr_is_said_is_taken_as_matched(stated, count):
    pad = generic.attenuator("pad", "pad", 3.0, 0.1, 150.0)
    properties = {key: item for key, item in pad.properties.items() if key != "swr"}
    pad = replace(pad, properties={**properties, **({"swr": Property(1.2, "")} if stated else {})})
    made = bench(EXACT, pad, shelf.dummy_load("l", "Reedmace", 150.0))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    where = at(hookup, made.parts, PartKind.LOAD)
    poor = {**made.parts, "l": replace(made.part("l"), properties={"nominal_ohm": Property(75.0, "Ω")})}

    assert (
        len(transfer_of(hookup, poor, F, [(Kind.INCIDENT, where)]).mismatches[Kind.INCIDENT, where.element, where.port])
        == count
    )


def test_a_line_that_begins_nowhere_is_said():
    made = job()
    with pytest.raises(UnknownIdError, match="begins nowhere"):
        transfer_of(replace(made.hookups[0], joints=()), made.parts, F)
    assert side_ways(made.hookups[0], made.parts)


def test_forward_back_and_net_watts_of_a_load_of_75_ohm():
    """Γ = 0.2: of a watt forward 0.04 come back, 0.96 stay; volts and amperes are (1 ± Γ)² of a matched load's."""
    load = shelf.dummy_load("dummy", "Reedmace", 150.0)
    load = replace(load, properties={**load.properties, "nominal_ohm": Property(75.0, "Ω")})
    made = bench(load)
    hookup = made.hookups[-1]
    ours = transfer_of(hookup, made.parts, np.array([7e6]))
    where = at(hookup, made.parts, PartKind.LOAD)
    wanted = [(kind, where) for kind in (Kind.INCIDENT, Kind.REFLECTED, Kind.NET, Kind.VOLTAGE, Kind.CURRENT)]
    found = [float(np.ravel(item)[0]) for item in ours.per_watt(estimates(ours), wanted)]

    assert found == pytest.approx([1.0, 0.04, 0.96, 50.0 * 1.44, 0.64 / 50.0], rel=1e-9)


def test_nothing_that_comes_back_is_a_little_and_nothing_that_goes_in_is_nothing():
    """What is read has a logarithm; net power is a difference and may be nought."""
    matched = replace(LOAD, properties={**LOAD.properties, "nominal_ohm": Property(50.0, "Ω")})
    made = bench(EXACT, matched)
    hookup = stated_behind(made, PartKind.INLINE_METER)
    assert 0.0 < per_watt(made, hookup, Kind.REFLECTED, PartKind.LOAD) < 1e-20
    assert per_watt(made, hookup, Kind.NET, PartKind.LOAD) == pytest.approx(1.0)
    shorted = replace(matched, properties={**LOAD.properties, "nominal_ohm": Property(1e-40, "Ω")})
    assert per_watt(bench(EXACT, shorted), hookup, Kind.NET, PartKind.LOAD) < 1e-30


def test_power_may_be_stated_at_the_source_before_volts_with_an_open_reflection_behind():
    """A scope at a tee before a pad of SWR 1.2: what stands at the source's output is per watt that leaves it."""
    tee, scope = shelf.tee("t", "tee", 0.0, 0.0), shelf.oscilloscope("o", "Sedge", 1e12)
    scope = replace(scope, properties={**scope.properties, "capacitance_f": Property(1e-18, "F")})
    made = bench(tee, pad_of("p", 20.0), LOAD, hang=(tee, scope))
    hookup, parts = made.hookups[-1], made.parts
    source = next(item.id for item in hookup.elements if item.part == SOURCE.id)
    stated = replace(hookup, stated=PlaneRef(hookup.id, source, SOURCE.ports[0].id))
    where = at(hookup, parts, PartKind.OSCILLOSCOPE)
    ours = transfer_of(stated, parts, np.array([7e6]), [(Kind.VOLTAGE, where)])
    (square,) = ours.per_watt(estimates(ours), [(Kind.VOLTAGE, where)])

    assert float(np.ravel(square)[0]) == pytest.approx(50.0, rel=2e-3)
    assert any(item.id.endswith(".standing") for item in ours.influences)


def test_volts_before_an_open_part_stand_by_its_own_match_and_by_what_lies_behind_it():
    """A pad of 6 dB and SWR 1.2 before a load of 75 Ω: ±2/11 of V², and ±2·0.2 weaker by 12 dB there and back."""
    tee, scope = shelf.tee("t", "tee", 0.0, 0.0), shelf.oscilloscope("o", "Sedge", 1e12)
    scope = replace(scope, properties={**scope.properties, "capacitance_f": Property(1e-18, "F")})
    load = replace(LOAD, properties={**LOAD.properties, "nominal_ohm": Property(75.0, "Ω")})
    made = bench(EXACT, tee, pad_of("p", 6.0), load, hang=(tee, scope))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    where = at(hookup, made.parts, PartKind.OSCILLOSCOPE)
    ours = transfer_of(hookup, made.parts, np.array([7e6, 7e6]), [(Kind.VOLTAGE, where)])
    found = {item.id: item for item in ours.influences if item.id.endswith(".standing")}

    assert {name: item.standard_u[0] for name, item in found.items()} == {
        "attenuator.in.standing": pytest.approx(np.sqrt(2.0) / 11.0),
        "load.in.standing": pytest.approx(np.sqrt(2.0) * 0.2 * 10**-0.6, rel=1e-6),
    }
    pad = found["attenuator.in.standing"]
    assert (pad.source_id, len(set(pad.sharing)), pad.distribution) == ("p", 1, Distribution.U_SHAPED)
    x = estimates(ours)
    (square,) = ours.per_watt(x, [(Kind.VOLTAGE, where)])
    (more,) = ours.per_watt({**x, "attenuator.in.standing": np.full(2, 0.01)}, [(Kind.VOLTAGE, where)])
    assert more / square == pytest.approx(1.01)
    assert square == pytest.approx(50.0, rel=2e-3)  # what stands is an uncertainty, not a correction


def test_of_a_reactance_whose_sign_nobody_knows_the_mean_of_both_is_taken():
    """A quarter wave of line turns 50 ± j30 Ω into what differs by sign; what is shown is half-way between."""
    line = replace(next(part for part in generic.generics() if part.kind is PartKind.CABLE), id="line", label="line")
    tee, scope = shelf.tee("t", "tee", 0.0, 0.0), shelf.oscilloscope("o", "Sedge", 1e12)
    scope = replace(scope, properties={**scope.properties, "capacitance_f": Property(1e-18, "F")})

    def volts(impedance: str, elsewhere: str = "") -> float:
        rows = [(1e6, impedance), (14e6, impedance), (1e8, elsewhere or impedance)]
        load = replace(LOAD, characterisations=(table_from_rows(rows, 1e-9),))
        made = bench(EXACT, tee, line, load, hang=(tee, scope))
        hookup = stated_behind(made, PartKind.INLINE_METER)
        return per_watt(made, hookup, Kind.VOLTAGE, PartKind.OSCILLOSCOPE, 14e6)

    size = abs(50 + 30j)
    rho = abs(30j / (100 + 30j))
    swr = (1 + rho) / (1 - rho)
    both = [volts("50+j30"), volts("50-j30")]
    assert abs(both[0] / both[1] - 1.0) > 0.1
    of_size = f"|{size:.6f}| swr {swr:.6f}"
    assert volts(of_size) == pytest.approx(np.mean(both), rel=1e-3)
    resistive = [(1e6, "50"), (1.1e6, "50"), (14e6, of_size), (1e8, of_size)]  # where there is no sign to be known
    made = bench(
        EXACT, tee, line, replace(LOAD, characterisations=(table_from_rows(resistive, 1e-9),)), hang=(tee, scope)
    )
    where = at(made.hookups[-1], made.parts, PartKind.OSCILLOSCOPE)
    found = transfer_of(
        stated_behind(made, PartKind.INLINE_METER), made.parts, np.array([1e6, 14e6]), [(Kind.VOLTAGE, where)]
    )
    assert found.per_watt(estimates(found), [(Kind.VOLTAGE, where)])[0][1] == pytest.approx(np.mean(both), rel=1e-3)


@pytest.mark.parametrize("share", [Kind.INCIDENT])
def test_a_wave_is_held_by_a_couplers_side_arm_and_faces_what_leaks_there(share):
    """A coupler of 20 dB directivity and SWR 1.2 before the plane: Γ_GE² = (1/11)² + 0.01/2 (what leaks is at most so
    much); the sensor behind it, SWR 1.5, ρ = 0.2: u² = 2·Γ_GE²·ρ², once more weaker by the pad between.
    """
    coupler = known_swr(generic.coupler("c", "c", 20.0, 20.0, 0.0, 200.0), 1.2)
    end, side = (known_swr(generic.power_meter(name, name), 1.5) for name in ("end", "side"))
    facing = np.sqrt(2.0 * ((1 / 11) ** 2 + 0.01 / 2) * 0.2**2)
    for pad, weaker in ((None, 1.0), (pad_of("p", 3.0, 1.0), 10**-0.3)):
        made = bench(coupler, *([pad] if pad else []), end, hang=(coupler, side))
        hookup = made.hookups[-1]
        last = next(item.id for item in hookup.elements if item.part == "end")
        hung = next(item.id for item in hookup.elements if item.part == "side")
        stated = replace(hookup, stated=PlaneRef(hookup.id, last, "in"))
        where = PlaneRef(hookup.id, hung, "in")
        found = transfer_of(stated, made.parts, np.array([7e6]), [(share, where)])
        u = {item.id: float(item.standard_u[0]) for item in found.influences}
        assert u[f"coupler.out~{last}.in.mismatch"] == pytest.approx(facing * weaker, rel=1e-6)
        assert all(name.startswith("coupler.") for name in u if "~" in name)  # nothing else is held there


def test_what_lies_between_the_plane_and_an_instrument_counts_whatever_lies_in_front_does_not():
    made = bench(EXACT, pad_of("p", 3.0, 1.2), known_swr(generic.power_meter("end", "end"), 1.2))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    where = at(hookup, made.parts, PartKind.POWER_METER)
    found = transfer_of(hookup, made.parts, np.array([7e6]), [(Kind.INCIDENT, where)])

    assert {"attenuator", "meter"} <= set(found.counting)
    assert not {"tx", "transmitter"} & set(found.counting)
    assert any(item.id.startswith("p.loss") for item in found.influences)


@pytest.mark.parametrize(("ports", "counts"), [(("out",), False), (("in",), True), (("out", "in"), True)])
def test_a_part_counts_where_it_lies_between_two_planes(ports, counts):
    """Power stated where it leaves the meter: what the meter does itself is between that and what is read before it."""
    made = bench(EXACT, known_swr(generic.power_meter("end", "end"), 1.2))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    planes = [(Kind.INCIDENT, PlaneRef(hookup.id, hookup.stated.element, port)) for port in ports]

    found = transfer_of(hookup, made.parts, np.array([7e6]), planes)
    assert (hookup.stated.element in found.counting) is counts


def test_what_stands_in_front_faces_what_stands_behind_an_open_part():
    """A generator, ρ at most 0.2, sees through a pad of 3 dB a sensor of SWR 1.5: 0.2 weaker by 6 dB there and back."""
    source = known_swr(next(part for part in generic.generics() if part.kind is PartKind.GENERATOR), 1.5)
    pad, end = pad_of("p", 3.0, 1.0), known_swr(generic.power_meter("end", "end"), 1.5)
    parts = {part.id: part for part in (source, pad, end)}
    joints = (Joint((source.id, "out"), ("p", "in")), Joint(("p", "out"), ("end", "in")))
    line = HookUp("h", "h", tuple(Element(name, name) for name in parts), joints, PlaneRef("h", "p", "in"))
    found = transfer_of(line, parts, np.array([7e6]), [(Kind.INCIDENT, PlaneRef("h", source.id, "out"))])
    u = {item.id: float(item.standard_u[0]) for item in found.influences if "~" in item.id}

    assert u[f"{source.id}.out~end.in.mismatch"] == pytest.approx(np.sqrt(2.0) * 0.2 * 0.2 * 10**-0.3, rel=1e-3)
    assert f"{source.id}.out~p.in.mismatch" not in u  # it reflects nothing
    assert "p.out~end.in.mismatch" not in u  # that is behind the plane


def test_at_a_tee_before_the_plane_volts_are_held():
    """Γ_GE of a tee is −1, whatever the source: a sensor of SWR 1.5 behind it faces all of itself, u = √2·0.2."""
    tee = shelf.tee("t", "tee", 0.0, 0.0)
    end = known_swr(generic.power_meter("end", "end"), 1.5)
    scope = shelf.oscilloscope("o", "Sedge", 1e12)
    scope = replace(scope, properties={**scope.properties, "capacitance_f": Property(1e-18, "F")})
    made = bench(tee, end, hang=(tee, scope))
    hookup = made.hookups[-1]
    stated = replace(hookup, stated=at(hookup, made.parts, PartKind.POWER_METER))
    where = at(hookup, made.parts, PartKind.OSCILLOSCOPE)
    found = transfer_of(stated, made.parts, np.array([7e6]), [(Kind.VOLTAGE, where)])
    u = {item.id: float(item.standard_u[0]) for item in found.influences if item.id.endswith(".mismatch")}

    assert u["tee.b~meter.in.mismatch"] == pytest.approx(np.sqrt(2.0) * 0.2, rel=1e-6)


def test_a_part_at_whose_input_power_is_stated_faces_what_follows_it():
    """A pad of SWR 1.2 whose input is the plane, then a sensor of SWR 1.5: √2/11·0.2 behind it."""
    made = bench(pad_of("p", 3.0), known_swr(generic.power_meter("end", "end"), 1.5))
    hookup = made.hookups[-1]
    stated = replace(hookup, stated=at(hookup, made.parts, PartKind.ATTENUATOR))
    where = at(hookup, made.parts, PartKind.POWER_METER)
    found = transfer_of(stated, made.parts, np.array([7e6]), [(Kind.INCIDENT, where)])
    u = {item.id: float(item.standard_u[0]) for item in found.influences if item.id.endswith(".mismatch")}

    assert u == {"attenuator.out~meter.in.mismatch": pytest.approx(np.sqrt(2.0) / 11 * 0.2, rel=1e-6)}


def test_what_an_open_part_reflects_is_its_own_match_and_what_follows_it():
    """A coupler of SWR 1.2 before 75 Ω: a pad in front of it faces 1/11 of its own and 0.2 of the load, each in a phase
    of its own: two pairs.
    """
    load = replace(LOAD, properties={**LOAD.properties, "nominal_ohm": Property(75.0, "Ω")})
    coupler = known_swr(generic.coupler("c", "c", 20.0, 90.0, 0.0, 200.0), 1.2)
    side = known_swr(generic.power_meter("side", "side"), 1.0)
    made = bench(EXACT, pad_of("p", 3.0), coupler, load, hang=(coupler, side))
    hookup = stated_behind(made, PartKind.INLINE_METER)
    where = at(hookup, made.parts, PartKind.POWER_METER)
    u = pairs(made, hookup, where)

    assert u["attenuator.out~coupler.in"] == pytest.approx(np.sqrt(2.0) / 11**2, rel=1e-6)
    assert u["attenuator.out~load.in"] == pytest.approx(np.sqrt(2.0) / 11 * 0.2, rel=2e-2)
