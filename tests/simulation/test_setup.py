"""What is drawn of a bench lies within what is stated of its parts, and fills it."""

import math
from dataclasses import replace

import numpy as np
import pytest

from fenmist.kit import generic, shelf
from fenmist.kit.part import Distribution, PartKind, Property, SpecKind, SpecTerm, Times
from fenmist.measurand import Detector
from fenmist.simulation.faults import METERS, plant
from fenmist.simulation.heater import THIN_M
from fenmist.simulation.needle import AVERAGING, HOLD, PEAK, THERMAL
from fenmist.simulation.netlist import draw
from fenmist.simulation.put import Put
from fenmist.simulation.scenarios import SCENARIOS, scenario
from fenmist.simulation.setup import set_up
from fenmist.simulation.wattmeter import FORWARD
from studies.benches import bench
from studies.in_turn import job_in_turn
from studies.substitution import ON_GENERATOR, sensor_job

DRAWS = 300


def stated(part, *terms, **more):
    """A part whose first indicator is stated so, on whatever range."""
    first, *rest = part.indicators
    ranges = tuple(replace(item, spec=()) for item in first.ranges)
    return replace(part, indicators=(replace(first, spec=terms, ranges=ranges, **more), *rest))


def drawn(name, kind, change=lambda part: part, draws=DRAWS):
    """The instrument of a kind on a scenario's bench, drawn again and again."""
    hookup, parts = scenario(name).bench()
    at = next(item.id for item in hookup.elements if parts[item.part].kind is kind)
    kit = {**parts, hookup.element(at).part: change(parts[hookup.element(at).part])}
    return [set_up(hookup, kit, np.random.default_rng(seed)).instruments[at] for seed in range(draws)]


def fills(values, low, high):
    """Within two limits, reaching for both, the same on either side of the middle."""
    values, part = np.array(values), (high - low) / 30.0
    assert low <= values.min() < low + part
    assert high - part < values.max() <= high
    assert values.mean() == pytest.approx((low + high) / 2.0, abs=2.0 * part)


OF_READING = SpecTerm(SpecKind.OF_READING, 0.05)
DECIBELS = SpecTerm(SpecKind.DB, 0.5)
OF_RANGE = SpecTerm(SpecKind.OF_RANGE, 0.03)


def test_watts_err_by_their_part_and_by_decibels_of_power():
    """±5 % of watts; ±0.5 dB of them is 10 to the ±0.05 (any table of decibels)."""
    by_part = drawn("live", PartKind.INLINE_METER, lambda part: stated(part, OF_READING))
    by_db = drawn("live", PartKind.INLINE_METER, lambda part: stated(part, DECIBELS))

    fills([10.0 ** (one.error_db / 10.0) - 1.0 for one in by_part], -0.05, 0.05)
    fills([one.error_db for one in by_db], -0.5, 0.5)
    assert {one.off_full for one in by_db} == {0.0}


def test_volts_err_by_decibels_of_volts():
    """±0.5 dB of volts is 10 to the ±0.025."""
    gains = [one.gain for one in drawn("divider", PartKind.VOLTMETER, lambda part: stated(part, DECIBELS))]

    fills(20.0 * np.log10(gains), -0.5, 0.5)


def test_terms_stated_of_full_scale_move_a_needle_by_as_much_anywhere():
    both = drawn("dial", PartKind.INLINE_METER, lambda part: stated(part, OF_RANGE, OF_READING))
    volts = drawn("divider", PartKind.VOLTMETER, lambda part: stated(part, OF_RANGE))

    fills([one.off_full for one in both], -0.03, 0.03)
    fills([one.off_full for one in volts], -0.03, 0.03)
    fills([10.0 ** (one.error_db / 10.0) - 1.0 for one in both], -0.05, 0.05)
    assert both[0].ranges_w == (20.0, 200.0)
    assert both[0].full_w == 200.0


def test_a_meter_of_so_many_decibels_leaks_no_more_in_either_arm():
    for directivity in (25.0, None):

        def change(part, stated_db=directivity):
            kept = {name: one for name, one in part.properties.items() if name != "directivity_db"}
            return replace(
                part, properties={**kept, **({"directivity_db": Property(stated_db, "dB")} if stated_db else {})}
            )

        meters = drawn("live", PartKind.INLINE_METER, change)
        most = 10.0 ** (-(directivity or 30.0) / 20.0)
        for leaks in ([one.leak for one in meters], [one.forward_leak for one in meters]):
            assert 0.95 * most < max(map(abs, leaks)) <= most
        fills([one.reflected_db for one in meters], -0.1, 0.1)
        fills([one.knee_v for one in meters], 0.1, 0.3)
        assert all(one.knee_v == one.scale_knee_v for one in meters)  # its scale is drawn for its diode


def test_a_display_has_steps_and_a_needle_none():
    assert {one.bits for one in drawn("live", PartKind.INLINE_METER, draws=3)} == {14}
    assert {one.bits for one in drawn("dial", PartKind.INLINE_METER, draws=3)} == {0}


def test_only_a_meter_of_swr_has_a_set_control():
    def as_swr(part):
        return replace(part, kind=PartKind.SWR_METER)

    fills([one.set_to for one in drawn("live", PartKind.INLINE_METER, as_swr)], 0.98, 1.02)
    assert {one.set_to for one in drawn("live", PartKind.INLINE_METER, draws=3)} == {1.0}


@pytest.mark.parametrize(
    ("detector", "movement"),
    [(Detector.AVERAGE, AVERAGING), (Detector.HOLD, HOLD), (Detector.PEAK, PEAK), (Detector.THERMAL, THERMAL)],
)
def test_a_movement_is_of_the_detector_and_the_times_that_are_stated(detector, movement):
    times = Times(detector_s=0.11, decay_s=2.2, needle_s=0.33, damping=0.44, friction=0.0055)
    known = drawn("dial", PartKind.INLINE_METER, lambda p: stated(p, detector=detector, times=times), 1)[0].movement
    plain = drawn("dial", PartKind.INLINE_METER, lambda p: stated(p, detector=detector, times=Times()), 1)[0].movement

    assert known.detector == plain.detector == movement
    assert (known.charge_s, known.decay_s, known.period_s, known.damping, known.friction) == (
        0.11,
        2.2,
        0.33,
        0.44,
        0.0055,
    )
    assert (plain.charge_s, plain.decay_s, plain.period_s, plain.damping, plain.friction) == (0.02, 1.0, 0.5, 0.8, 0.0)


def test_a_scope_has_the_bandwidth_it_is_sold_with_at_least_and_is_told_of_its_probe():
    """Its zero within a thousandth of what its screen shows, as much noise; 8, 10 or 12 bits."""
    for name, ratio in (("live", 1.0), ("probe", 10.0)):
        scopes = drawn(name, PartKind.OSCILLOSCOPE)
        fills([one.bandwidth_hz for one in scopes], 200e6, 240e6)
        fills([one.offset_v for one in scopes], -1e-3 * ratio, 1e-3 * ratio)
        fills([one.gain for one in scopes], 0.98, 1.02)
        assert {one.bits for one in scopes} == {8, 10, 12}
        assert {(one.multiplied_by, one.noise_v, one.sets_itself) for one in scopes} == {(ratio, 1e-3 * ratio, True)}


def test_a_voltmeter_has_its_bandwidth_at_least_or_any_where_none_is_stated():
    def without(part):
        return replace(part, properties={k: v for k, v in part.properties.items() if k != "bandwidth_hz"})

    meters = drawn("divider", PartKind.VOLTMETER)
    hookup, parts = scenario("divider").bench()
    least = next(part for part in parts.values() if part.kind is PartKind.VOLTMETER).properties["bandwidth_hz"].value
    fills([one.bandwidth_hz for one in meters], least, 1.2 * least)
    assert drawn("divider", PartKind.VOLTMETER, without, 1)[0].bandwidth_hz == math.inf
    assert hookup.elements


def test_a_sensor_is_what_was_drawn_of_it_and_its_floor_is_three_of_its_noise():
    hookup, parts = scenario("pad").bench()
    part = parts["snipe"]
    known = {
        "cal_factor": Property(0.96, "", SpecTerm(SpecKind.OF_READING, 0.02)),
        "zero_w": Property(0.0, "W", SpecTerm(SpecKind.ABSOLUTE, 1e-9, "W")),
    }
    part = replace(part, properties={**part.properties, **known})
    at = next(item.id for item in hookup.elements if item.part == "snipe")
    made = [set_up(hookup, {**parts, "snipe": part}, np.random.default_rng(seed)) for seed in range(40)]

    for one in made:
        true, sensor = one.true.truths[at].part.properties, one.instruments[at]
        assert (sensor.factor, sensor.zero_w) == (true["cal_factor"].value, true["zero_w"].value)
        assert sensor.noise_w == sensor.drift_w == pytest.approx(1e-9 / 3.0)
        assert sensor.top_w == pytest.approx(1.2 * 0.02)
    assert all(0.96 * 0.98 <= one.instruments[at].factor <= 0.96 * 1.02 for one in made)
    assert len({one.instruments[at].zero_w for one in made}) == 40
    plain = replace(part, properties={}, indicators=(replace(part.indicators[0], ranges=()),))
    bare = set_up(hookup, {**parts, "snipe": plain}, np.random.default_rng(1)).instruments[at]
    assert (bare.factor, bare.zero_w, bare.noise_w, bare.top_w) == (1.0, 0.0, 0.0, math.inf)


def on_line(*parts):
    """Instruments in order behind a transmitter."""
    job = bench(shelf.inline_meter("m", "Teal", (200.0,), None, 0.05), *parts)
    return job.hookups[-1], dict(job.parts)


def test_an_ammeters_heater_is_of_its_wire_within_a_half_or_of_a_thin_one():
    wire = generic.ammeter("a", "ammeter", 2.0)
    load = shelf.dummy_load("l", "load", 150.0)
    thick = replace(wire, properties={**wire.properties, "wire_m": Property(2e-4, "m")})
    plain = replace(wire, properties={k: v for k, v in wire.properties.items() if k != "wire_m"})
    found = {}
    for name, part in (("thick", thick), ("plain", plain)):
        hookup, kit = on_line(part, load)
        at = next(item.id for item in hookup.elements if item.part == "a")
        found[name] = [set_up(hookup, kit, np.random.default_rng(seed)).instruments[at] for seed in range(DRAWS)]

    fills([one.heater.scale for one in found["thick"]], 0.5, 1.5)
    assert {one.heater.wire_m for one in found["thick"]} == {2e-4}
    assert {(one.heater.wire_m, one.heater.scale) for one in found["plain"]} == {(THIN_M, 1.0)}


def test_an_analysers_bridge_leaks_a_hundredth_at_most():
    """−40 dB of leak, −45 dB of tracking, a noise of 3 in 10,000."""
    job = job_in_turn("reflection")
    at = next(item.id for item in job.bench.elements if job.parts[item.part].kind in METERS)
    part = replace(job.parts[job.bench.element(at).part], kind=PartKind.ANALYSER)
    kit = {**job.parts, part.id: part}
    made = [set_up(job.bench, kit, np.random.default_rng(seed)).instruments[at] for seed in range(DRAWS)]

    assert 0.0095 < max(abs(one.leak) for one in made) <= 0.01
    assert 0.0053 < max(abs(one.tracking - 1.0) for one in made) <= 10.0 ** (-45.0 / 20.0)
    assert {one.noise for one in made} == {3e-4}


# what sends


def sent(change=lambda part: part):
    hookup, parts = scenario("live").bench()
    kit = {**parts, "plover": change(parts["plover"])}
    return [set_up(hookup, kit, np.random.default_rng(seed)).transmitter for seed in range(DRAWS)]


def test_a_transmitter_in_order():
    """A fraction of a decibel off, drooping less; −50 dBc and better; half of its DC or thereabouts (no source)."""
    made = sent()

    fills([one.error_db for one in made], -0.3, 0.3)
    fills([one.droop_db for one in made], 0.02, 0.1)
    fills([one.efficiency for one in made], 0.45, 0.6)
    assert {(one.step_db, one.wander_db, one.idle_a) for one in made} == {(0.05, 0.005, 0.6)}
    assert made[0].top_w == pytest.approx(165.0)
    for order, below in ((2, -55.0), (3, -50.0)):
        volts = np.array([one.harmonics[order] for one in made])
        assert np.allclose(20.0 * np.log10(np.abs(volts)), below)
        assert np.histogram(np.angle(volts), 4, (-math.pi, math.pi))[0].min() > DRAWS / 6
    assert sent(lambda part: replace(part, properties={}))[0].top_w == math.inf


def test_a_generator_holds_its_level_within_what_is_stated():
    job = sensor_job(ON_GENERATOR)
    source = next(part for part in job.parts.values() if part.kind is PartKind.GENERATOR)
    kit = {**job.parts, source.id: stated(source, DECIBELS)}
    made = [set_up(job.bench, kit, np.random.default_rng(seed)).transmitter for seed in range(DRAWS)]

    fills([one.error_db for one in made], -0.5, 0.5)
    assert {(one.step_db, one.wander_db, one.droop_db) for one in made} == {(0.01, 0.001, 0.0)}
    assert np.allclose([20.0 * np.log10(abs(one.harmonics[n])) for one in made for n in (2, 3)], [-50.0, -60.0] * DRAWS)
    silent = set_up(job.bench, {**job.parts, source.id: replace(source, indicators=())}, np.random.default_rng(1))
    assert silent.transmitter.error_db == 0.0


# parts


def test_what_was_measured_is_drawn_normally_and_a_tolerance_evenly():
    """A rectangle ends at √3 of its standard deviation; a normal goes beyond in 8 % (any table)."""
    tap = generic.resistive_tap("t", "t", 2460.0, 50.0)
    hookup, kit = on_line(tap, shelf.dummy_load("l", "load", 150.0))
    at = next(item.id for item in hookup.elements if item.part == "t")

    def beyond(change):
        part = replace(tap, components=tuple(change(item) for item in tap.components))
        made = [
            draw(hookup, {**kit, "t": part}, np.random.default_rng(n)).truths[at].part.components[0]
            for n in range(DRAWS)
        ]
        off = np.array([one.measured - part.components[0].value for one in made]) / part.components[0].u
        assert off.std() == pytest.approx(1.0, rel=0.12)
        return np.mean(np.abs(off) > math.sqrt(3.0))

    limit = SpecTerm(SpecKind.OF_READING, 0.01)
    assert beyond(lambda item: replace(item, measured=None, tolerance=limit)) == 0.0
    assert 0.03 < beyond(lambda item: replace(item, measured=item.nominal, u_measured=0.01 * item.nominal)) < 0.15
    bell = replace(limit, distribution=Distribution.NORMAL)
    assert 0.03 < beyond(lambda item: replace(item, measured=None, tolerance=bell)) < 0.15


def test_what_is_stated_without_a_limit_is_as_it_is_stated():
    tap = generic.resistive_tap("t", "t", 2460.0, 50.0)
    exact = replace(tap, components=tuple(replace(item, tolerance=None) for item in tap.components))
    hookup, kit = on_line(exact, shelf.dummy_load("l", "load", 150.0))
    at = next(item.id for item in hookup.elements if item.part == "t")
    true = draw(hookup, {**kit, "t": exact}, np.random.default_rng(1)).truths[at].part

    assert [item.value for item in true.components] == [item.nominal for item in tap.components]


def test_every_scale_to_be_read_by_eye_is_divided_as_scales_are():
    """A division is 1, 2, 2.5 or 5 times a power of ten (common practice, no source)."""
    scales = [
        used.scale
        for scene in SCENARIOS for part in scene.parts() for shows in part.indicators for used in shows.ranges
        if used.scale is not None
    ]  # fmt: skip

    assert scales
    for scale in scales:
        for gap, parts in zip(np.diff(scale.marks), scale.divisions, strict=True):
            each = gap / parts
            assert np.isclose(each / 10.0 ** math.floor(math.log10(each)), (1.0, 2.0, 2.5, 5.0)).any()


# faults as strong as they say


def faulty(name, fault, strength=None):
    """A bench before and after."""
    clean = set_up(*scenario(name).bench(), np.random.default_rng(1))
    return clean, plant(clean, fault, strength)


@pytest.mark.parametrize("swr", [1.2, 2.0])
def test_a_tuner_left_in_shows_its_swr_on_a_load_that_has_none_at_7_mhz(swr):
    clean, made = faulty("live", "tuner", swr)
    perfect = replace(clean.true.truths["load"], impedance=lambda _: 50.0 + 0j)
    true = replace(made.true, truths={**made.true.truths, "load": perfect})
    for f, least, most in ((7e6, swr - 1e-6, swr + 1e-6), (1.8e6, 1.0, swr - 0.05), (28e6, swr + 0.3, 100.0)):
        back, out = true.solve(f).waves(made.hookup.mate("load", "in"))
        rho = abs(back / out)
        assert least <= (1.0 + rho) / (1.0 - rho) <= most


def test_a_meter_right_at_one_frequency_errs_with_each_octave_away_from_it():
    clean, made = faulty("live", "one", 0.4)
    was, now = clean.instruments["wattmeter"], made.instruments["wattmeter"]
    for f, decibels in ((7e6, 0.0), (14e6, 0.4), (28e6, 0.8), (3.5e6, -0.4), (7e6 / 64, -2.4), (7e6 * 64, 2.4)):
        put = Put(f, {1: 50.0 + 0j}, {1: -1.0 + 0j})
        shown = [one.watts(one.drives(put)[FORWARD]) for one in (was, now)]
        assert 10.0 * math.log10(shown[1] / shown[0]) == pytest.approx(decibels, abs=0.01)


def test_what_a_fault_changes_it_changes_by_its_strength():
    _, port = faulty("live", "port", 12.0)
    assert (port.instruments["wattmeter"].volts_corner_hz, port.instruments["wattmeter"].amperes_corner_hz) == (
        12e6,
        12e6,
    )
    _, held = faulty("live", "hold", 2.5)
    movement = held.instruments["wattmeter"].movement
    assert (movement.detector, movement.charge_s, movement.decay_s) == (HOLD, 0.02, 2.5)
    clean, arc = faulty("live", "arc", 0.5)
    assert arc.instruments["wattmeter"].error_db - clean.instruments["wattmeter"].error_db == pytest.approx(-3.0103)
    clean, aged = faulty("divider", "resistor", 20.0)
    at = next(item.id for item in clean.hookup.elements if item.part == "garganey")
    first, rest = (item.true.truths[at].part.components for item in (clean, aged))
    assert rest[0].value / first[0].value == pytest.approx(1.2)
    assert rest[1:] == first[1:]
    clean, moved = faulty("steps", "switch", -3.0)
    at = next(item.id for item in clean.hookup.elements if item.part == "sallow")
    lost = [item.true.truths[at].part.properties["loss_db"].value for item in (clean, moved)]
    assert lost[1] - lost[0] == pytest.approx(-3.0)
    _, none = faulty("steps", "switch", -100.0)
    assert none.true.truths[at].part.properties["loss_db"].value == 0.0
    clean, zero = faulty("pad", "zero", 2e-6)
    assert zero.instruments["meter"].zero_w - clean.instruments["meter"].zero_w == pytest.approx(2e-6)
    _, warm = faulty("pad", "hot-pad", 0.7)
    assert list(warm.warms_db.values()) == [0.7]
    _, wet = faulty("live", "wet", 80.0)
    assert wet.true.contacts["load", "in"].siemens == pytest.approx(1.0 / 80.0)
    _, folds = faulty("live", "fold-back", 1.7)
    assert folds.transmitter.folds_above_swr == 1.7


@pytest.mark.parametrize(("name", "at", "per_decade"), [("live", "oscilloscope", 20.0), ("tap", "meter", 10.0)])
def test_two_wrong_alike_are_wrong_by_the_same_decibels_of_power(name, at, per_decade):
    clean, both = faulty(name, "alike", 0.9)

    assert per_decade * math.log10(both.instruments[at].gain / clean.instruments[at].gain) == pytest.approx(0.9)
    assert both.instruments["wattmeter"].error_db - clean.instruments["wattmeter"].error_db == pytest.approx(0.9)


@pytest.mark.parametrize(("ohm", "times"), [(1e6, 4.0), (25.0, (2.0 / 3.0) ** 2)])
def test_a_wrong_end_on_a_tap_takes_other_volts(ohm, times):
    """An open doubles them, 25 Ω on 50 leave two thirds (1 + Γ)."""
    clean, made = faulty("tap", "termination", ohm)

    assert made.instruments["meter"].gain / clean.instruments["meter"].gain == pytest.approx(times, rel=1e-3)
    back, into = made.true.solve(8e6).waves(("meter", "in"))[::-1]
    assert back / into == pytest.approx((ohm - 50.0) / (ohm + 50.0), rel=1e-6)
