"""What each simulated thing does, against what any textbook or the trade says of it."""

import math
from dataclasses import replace

import numpy as np
import pytest

from fenmist.simulation import movements
from fenmist.simulation.envelopes import NAMED, dots, envelope_named, mean_share, modulated, speech, two_tones
from fenmist.simulation.heater import TrueHeater
from fenmist.simulation.matchmeter import TrueMatchMeter, drawn_meter
from fenmist.simulation.needle import AVERAGING, HOLD, PEAK, THERMAL, Needle, TrueMovement
from fenmist.simulation.put import Put
from fenmist.simulation.screens import TrueAmmeter, TrueAnalyser, TrueScope, TrueSensor, TrueVoltmeter
from fenmist.simulation.transmitter import Keyed, TrueTransmitter, drawn_a, folded, given_w
from fenmist.simulation.wattmeter import FORWARD, REFLECTED, TrueWattmeter, disc

RNG = np.random.default_rng(3)
START = RNG.bit_generator.state


@pytest.fixture(autouse=True)
def same_numbers():
    """Whatever runs before, each test draws the same."""
    RNG.bit_generator.state = START


def put(volts=None, ohm=50.0, f=14e6, out=True, **harmonics):
    """A connector of a line that ends in `ohm`; currents run out of the part where it passes the line on."""
    v = {1: volts or 10.0, **{int(key[1:]): value for key, value in harmonics.items()}}
    return Put(f, v, {n: (-one if out else one) / ohm for n, one in v.items()})


def shown(true, at, arm=FORWARD):
    return true.watts(true.drives(at)[arm])


# transmitter


def test_a_transmitter_droops_by_what_it_gives_up_when_warm():
    true, cold = TrueTransmitter(droop_db=0.5, warm_s=60.0), Keyed(100.0, on=True)
    minute = cold.after(true, 60.0, RNG)

    assert given_w(true, cold) == pytest.approx(100.0)
    assert 10 * math.log10(given_w(true, minute) / 100.0) == pytest.approx(-0.5 * (1 - math.exp(-1)))
    assert replace(minute, on=False).after(true, 600.0, RNG).warmth == pytest.approx(0.0, abs=1e-4)
    assert given_w(true, replace(cold, on=False)) == 0.0


def test_its_level_moves_in_steps_and_errs_in_decibels():
    true = TrueTransmitter(error_db=-1.0, step_db=0.5, top_w=60.0)

    assert given_w(true, Keyed(50.3, on=True)) == pytest.approx(10 ** ((47.0 - 1.0) / 10) * 1e-3)
    assert given_w(true, Keyed(500.0, on=True)) == 60.0


def test_its_wandering_has_the_size_and_forgets_in_the_time_that_are_stated():
    true, rng = TrueTransmitter(wander_db=1.0, wander_s=10.0), np.random.default_rng(1)
    keyed, seen = Keyed(1.0, on=True), []
    for _ in range(20_000):
        keyed = keyed.after(true, 5.0, rng)
        seen.append(keyed.wander)

    assert np.std(seen) == pytest.approx(1.0, abs=0.04)
    assert np.corrcoef(seen[1:], seen[:-1])[0, 1] == pytest.approx(math.exp(-0.5), abs=0.03)


@pytest.mark.parametrize(("swr", "left"), [(1.0, 1.0), (2.0, 1.0), (3.0, (1 / 3) ** 2 / 0.5**2), (math.inf, 1 / 9)])
def test_fold_back_keeps_what_comes_back_at_its_threshold(swr, left):
    """ρ is 1/3 at SWR 2, 1/2 at 3, 1 at an open (any SWR table)."""
    assert folded(TrueTransmitter(folds_above_swr=2.0), swr) == pytest.approx(left)


def test_a_stage_of_half_its_dc_draws_what_that_says():
    """100 W at 50 % from 13.8 V: 14.5 A, and what it draws idle."""
    assert drawn_a(TrueTransmitter(idle_a=0.5), 100.0) == pytest.approx(200.0 / 13.8 + 0.5)
    assert drawn_a(TrueTransmitter(), 0.0) == 0.0


# needles


def settled(kind, envelope, **more):
    """Where a needle stands over a second once nothing of its beginning is left."""
    needle = Needle(TrueMovement(kind, **{"charge_s": 0.2, "period_s": 0.5, **more}))
    needle.run(envelope, 1.0, 0.0, 4.0, 1 / 4000)
    return np.mean([needle.run(envelope, 1.0, 4.0 + n * 0.01, 0.01, 1 / 4000) for n in range(100)])


@pytest.mark.parametrize(
    ("envelope", "averaging", "thermal"),
    [
        (two_tones(700.0), (2 / math.pi) ** 2, 0.5),
        (dots(10.0, rise_s=1e-4), 0.25, 0.5),
        (modulated(0.8, 390.0), 1 / 1.8**2, (1 + 0.32) / 1.8**2),
    ],
    ids=["two tones", "dots", "AM"],
)
def test_meters_show_their_share_of_peak_envelope_power(envelope, averaging, thermal):
    """Two tones 0.405 and 0.5, dots 0.25 and 0.5, AM the carrier and 1 + m²/2 (handbook 5, derived; ITU-R SM.326)."""
    assert settled(AVERAGING, envelope) ** 2 == pytest.approx(averaging, rel=0.02)
    assert settled(THERMAL, envelope) == pytest.approx(thermal, rel=0.02)
    assert settled(PEAK, envelope) ** 2 == pytest.approx(1.0, rel=0.01)


def test_a_heater_stands_where_the_power_is_and_what_was_named_is_sent():
    """Half of the volts are a quarter of the heat; two tones that nobody spaced are 1.2 kHz apart."""
    assert Needle(TrueMovement(THERMAL)).steady(0.5, 0.0, 60.0) == 0.25
    assert envelope_named("two-tone")(1.0 / 2400.0) == pytest.approx(0.0, abs=1e-9)
    assert envelope_named("am")(0.75e-3) == pytest.approx(0.0, abs=1e-9)  # all of it, by 1 kHz
    named, compressed = NAMED["speech"](), envelope_named("compressed")
    assert [named(n / 100.0) for n in range(300)] == [compressed(n / 100.0) for n in range(300)]


def test_a_hold_lies_between_average_and_peak_on_speech():
    held = settled(HOLD, speech(1), charge_s=0.02, decay_s=1.0)
    averaged, peak = (settled(kind, speech(1)) for kind in (AVERAGING, PEAK))

    assert averaged < held < peak


def test_a_peak_that_is_gone_is_forgotten_after_its_window():
    needle = Needle(TrueMovement(PEAK, window_s=3.0, period_s=0.2))
    needle.steady(1.0, 0.0, 2.0)

    assert needle.steady(0.5, 2.0, 2.0) == pytest.approx(1.0, abs=0.01)
    assert needle.steady(0.5, 4.0, 3.0) == pytest.approx(0.5, abs=0.01)


@pytest.mark.parametrize("damping", [0.4, 0.7])
def test_a_needle_overshoots_as_its_damping_says(damping):
    """exp(−πζ/√(1−ζ²)) of the step: any textbook on second-order systems, from memory."""
    needle = Needle(TrueMovement(charge_s=1e-4, period_s=0.5, damping=damping))
    highest = max(needle.run(lambda _: 1.0, 1.0, n * 0.002, 0.002, 1 / 20_000) for n in range(400))

    assert highest - 1.0 == pytest.approx(math.exp(-math.pi * damping / math.sqrt(1 - damping**2)), rel=0.02)


def test_a_bearing_holds_the_needle_back_by_its_friction():
    needle = Needle(TrueMovement(friction=0.02))
    low = needle.steady(0.5, 0.0, 60.0)
    needle.steady(1.0, 60.0, 60.0)
    high = needle.steady(0.5, 120.0, 60.0)

    assert (low, high) == pytest.approx((0.48, 0.52), abs=0.005)
    assert needle.steady(0.51, 180.0, 60.0) == high


def test_long_and_short_steps_end_at_the_same_place():
    one, many = Needle(TrueMovement()), Needle(TrueMovement())
    one.steady(0.7, 0.0, 30.0)
    for n in range(300):
        many.steady(0.7, n * 0.1, 0.1)

    assert one.angle == pytest.approx(many.angle, abs=1e-6)


def test_envelopes_stay_within_their_crest_and_reach_it():
    for make in NAMED.values():
        envelope = make()
        values = [envelope(n / 8000.0) for n in range(128_000)]
        assert (min(values) >= 0.0, max(values)) == (True, pytest.approx(1.0, abs=0.01))


def test_speech_has_the_mean_that_is_met_and_more_with_compression():
    """Around 20 % of its peak envelope power, around 40 % with compression (common practice, no source)."""
    plain, dense = mean_share(NAMED["speech"]()), mean_share(speech(1, 4.0))

    assert 0.1 < plain < 0.25
    assert 0.3 < dense < 0.5
    assert mean_share(two_tones(700.0)) == pytest.approx(0.5, abs=1e-3)


# meters in line


def test_a_meter_in_order_shows_what_goes_and_what_comes_back():
    """SWR 2: 11.1 % comes back (any SWR table)."""
    true = TrueWattmeter()
    volts = 30.0
    at = put(volts, 100.0)
    net = volts**2 / 100.0

    assert shown(true, at) == pytest.approx(net / (1 - 1 / 9))
    assert shown(true, at, REFLECTED) / shown(true, at) == pytest.approx(1 / 9)
    assert true.reflection(*(true.drives(at)[arm] for arm in (FORWARD, REFLECTED))) == pytest.approx(1 / 3)


@pytest.mark.parametrize(
    ("arms", "corner", "forward", "reflected"),
    [
        (("volts_corner_hz", "amperes_corner_hz"), math.sqrt(2), 1 / 3, 0.0),
        (("amperes_corner_hz",), math.sqrt(2), 1 / 2, 1 / 6),
        (("amperes_corner_hz",), math.sqrt(8), 1 / 3, None),
    ],
    ids=["whole coupler", "current arm", "current arm lower"],
)
def test_a_coupler_below_its_corner_reads_the_fraction_that_is_known(arms, corner, forward, reflected):
    """Handbook 4 and 14 (derived): 1/3 where all rolls off at f·√2; 1/2 and 1/6 where one arm does; 1/3 at 2.83."""
    at = put(f=1e6)
    true = TrueWattmeter(**dict.fromkeys(arms, corner * 1e6))
    whole = shown(TrueWattmeter(), at)

    assert shown(true, at) / whole == pytest.approx(forward, rel=1e-3)
    if reflected is not None:
        assert shown(true, at, REFLECTED) / whole == pytest.approx(reflected, abs=1e-9)


def test_a_leak_of_25_db_shows_a_perfect_load_as_1_12():
    true = TrueWattmeter(leak=10 ** (-25 / 20))
    rho = true.reflection(*(true.drives(put())[arm] for arm in (FORWARD, REFLECTED)))

    assert (1 + rho) / (1 - rho) == pytest.approx(1.119, abs=0.001)
    forward = TrueWattmeter(forward_leak=10 ** (-25 / 20))
    swr_1_5 = put(ohm=75.0)
    assert shown(forward, swr_1_5) / shown(TrueWattmeter(), swr_1_5) == pytest.approx((1 + 10 ** (-25 / 20) * 0.2) ** 2)


def test_a_diode_is_square_law_below_its_knee_and_reads_low_there():
    true = TrueWattmeter(knee_v=0.5, full_w=100.0, full_v=3.0)
    volts = [math.sqrt(50.0 * watts) for watts in (0.01, 0.04, 25.0, 100.0)]
    drives = [true.drives(put(v))[FORWARD] for v in volts]

    assert drives[1] / drives[0] == pytest.approx(4.0, rel=0.02)
    assert drives[3] / drives[2] == pytest.approx(2.0, rel=0.2)
    drawn = replace(true, scale_knee_v=0.5)
    assert shown(drawn, put(volts[0])) == pytest.approx(0.01)
    assert shown(true, put(volts[0])) < 0.002


def test_a_converter_shows_steps_and_a_needle_that_stands_off_shows_it_on_every_range():
    true = TrueWattmeter(bits=8, full_w=100.0)
    values = {shown(true, put(math.sqrt(50.0 * watts))) for watts in np.linspace(49.0, 51.0, 200)}
    off = TrueWattmeter(off_full=0.02, ranges_w=(10.0, 100.0), full_w=100.0)

    assert len(values) in (3, 4)  # 1.2/256 of full deflection a step: 0.66 W at 50 W
    assert shown(off, put(math.sqrt(50.0 * 5.0))) == pytest.approx(5.2)
    assert shown(off, put(math.sqrt(50.0 * 50.0))) == pytest.approx(52.0)


@pytest.mark.parametrize(("detector", "most"), [(AVERAGING, 2e-3 / 3), (THERMAL, 1e-6), (PEAK, 2e-3)])
def test_a_third_harmonic_moves_each_detector_by_what_is_known(detector, most):
    """h = −60 dBc: an average by ±2h/3, a peak by 2h, a thermal one by h² (handbook 15.6, derived)."""
    true = TrueWattmeter(movement=TrueMovement(detector))
    shift = [shown(true, put(h3=sign * 0.01)) / shown(true, put()) - 1.0 for sign in (1, -1)]

    assert max(map(abs, shift)) == pytest.approx(most, rel=0.05)


def test_anything_within_so_many_decibels_lies_in_that_disc_and_fills_it():
    sizes = [abs(disc(40.0, RNG)) for _ in range(500)]

    assert max(sizes) == pytest.approx(0.01, rel=0.02)
    assert np.median(sizes) == pytest.approx(0.01 / math.sqrt(2), rel=0.06)


# screens


def test_a_one_pole_scope_loses_half_a_decibel_at_a_third_of_its_bandwidth():
    """0.46 dB at fB/3, 0.04 dB at fB/10 (handbook 2, derived)."""
    for part, lost in ((3, 0.458), (10, 0.043)):
        trace = TrueScope(bandwidth_hz=part * 14e6).trace(put(50.0, out=False), 1024, RNG)
        assert -20 * math.log10(np.std(trace) / 50.0) == pytest.approx(lost, abs=0.002)


def test_noise_makes_volts_peak_to_peak_too_big_and_hardly_moves_rms():
    trace = TrueScope(noise_v=1.0).trace(put(50.0, out=False), 1024, RNG)

    assert np.ptp(trace) > math.sqrt(8) * 50.0 + 3.0
    assert np.std(trace) == pytest.approx(50.0, rel=0.01)


def test_a_screen_has_steps_and_edges():
    trace = TrueScope(bits=8, full_v=100.0).trace(put(50.0, out=False), 1024, RNG)

    assert np.ptp(trace) <= 100.0
    assert np.unique(trace).size <= 256
    assert np.allclose(trace / (100.0 / 256), np.round(trace / (100.0 / 256)))


def test_a_probe_told_wrong_is_a_factor():
    right, wrong = (np.std(TrueScope(multiplied_by=m).trace(put(out=False), 1024, RNG)) for m in (1.0, 10.0))

    assert wrong / right == pytest.approx(10.0)


def test_a_sensor_shows_its_factor_its_zero_and_nothing_beyond_its_span():
    true = TrueSensor(factor=0.95, zero_w=0.1, top_w=3.0)

    assert true.watts(put(10.0, out=False), 1.0, 0.2, RNG) == pytest.approx(2.0 * 0.95 + 0.3)
    assert true.watts(put(10.0, out=False), 0.5, 0.0, RNG) == pytest.approx(1.0 * 0.95 + 0.1)
    assert math.isinf(true.watts(put(20.0, out=False), 1.0, 0.0, RNG))


def test_an_ammeter_reads_high_with_skin_effect_and_burns_above_its_scale():
    at = put(50.0, out=False)

    thick = TrueHeater(1e-3, 1.5)  # its resistance rises half as much again as that wire's
    assert TrueAmmeter().amperes(at) == pytest.approx(1.0, rel=1e-4)
    assert thick.rise(at.frequency_hz) - 1.0 == pytest.approx(1.5 * (TrueHeater(1e-3).rise(at.frequency_hz) - 1.0))
    assert TrueAmmeter(heater=thick).amperes(at) == pytest.approx(thick.rise(at.frequency_hz) ** 0.5)
    assert math.isinf(TrueAmmeter(ranges_a=(0.5,)).amperes(at))


def test_a_voltmeter_takes_the_heat_of_all_harmonics():
    assert TrueVoltmeter().volts(put(10.0, h2=1.0)) == pytest.approx(math.hypot(10.0, 1.0))
    assert TrueVoltmeter(bandwidth_hz=14e6).volts(put(10.0)) == pytest.approx(10.0 / math.sqrt(2))


def test_an_analyser_shows_its_leak_on_a_perfect_load():
    assert TrueAnalyser(leak=0.01j, tracking=0.9).reflection(0.5, RNG) == pytest.approx(0.45 + 0.01j)


# circuits stepped through time


def test_circuits_on_two_tones_show_what_their_kinds_do():
    """|cos| of a slow beat: its mean is 2/π, of its square a half; a hold and a peak keep the crest (derived)."""
    kinds, capacitor = np.array(movements.KINDS), movements.CAPACITOR_F
    one = np.ones(kinds.size)
    circuits = movements.Circuits(
        kinds, 0.01 * one / capacitor, np.where(kinds == "hold", 50.0, np.inf) / capacitor,
        0.3 * one, 0.7 * one, one, 1.0,
    )  # fmt: skip
    found = dict(zip(movements.KINDS, movements.shown(circuits, two_tones(5.0), 6.0, 5e-4, 4.0), strict=True))

    assert found["averaging"] == pytest.approx((2.0 / math.pi) ** 2, rel=0.02)
    assert found["thermal"] == pytest.approx(0.5, rel=0.02)
    assert 0.9 < found["hold"] < 1.0
    assert found["peak"] == pytest.approx(1.0, rel=0.01)


def test_a_tone_makes_a_period_of_its_own():
    """80 % by 400 Hz: its crest after a quarter of 2.5 ms, a ninth of it after three quarters."""
    envelope = modulated(0.8, 400.0)

    assert (envelope(0.625e-3), envelope(1.875e-3)) == pytest.approx((1.0, 0.2 / 1.8))


def test_a_meter_of_match_shows_waves_less_what_its_diodes_swallow():
    """10 W and 0.4 W (ρ 0.2) less 0.1 W each; 0.05 W coming back move nothing."""
    meter = TrueMatchMeter(reflected_gain=1.1, floor_w=0.1)

    assert meter.watts(math.sqrt(10.0), math.sqrt(0.4)) == pytest.approx((9.9, 0.3 * 1.21))
    assert meter.watts(math.sqrt(10.0), math.sqrt(0.05))[1] == 0.0
    assert meter.reflection(math.sqrt(10.0), math.sqrt(0.4)) == pytest.approx(1.1 * math.sqrt(0.3 / 9.9))
    assert TrueMatchMeter(leak=0.1).watts(math.sqrt(10.0), 0.0) == pytest.approx((10.0, 0.1))
    assert TrueMatchMeter(forward_leak=0.1).watts(1.0, 0.2)[0] == pytest.approx(1.02**2)


def test_a_meter_of_match_is_drawn_within_its_directivity_and_its_floor():
    made = [drawn_meter(30.0, RNG, 1e-3) for _ in range(300)]

    for leaks in ([one.leak for one in made], [one.forward_leak for one in made]):
        assert 0.95 * 10**-1.5 < max(map(abs, leaks)) <= 10**-1.5
    assert 0.9e-3 < max(one.floor_w for one in made) <= 1e-3
    assert min(one.floor_w for one in made) < 1e-4
