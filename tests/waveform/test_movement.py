"""Detectors and movements: closed forms of the textbook, and SciPy's integration of the same equations as referee."""

import math

import numpy as np
import pytest
from scipy import integrate, signal

from fenmist.measurand import Detector
from fenmist.waveform.envelope import Envelope
from fenmist.waveform.movement import USUAL, Digits, Meter, Movement, Needle, hold_readings, shown, watched
from fenmist.waveform.shapes import Am, Dots, Droop, Repeating, Steady, TwoTone
from fenmist.waveform.speech import Speech

STEP = 1e-3


def deflections(movement, amplitude, step=STEP):
    """What it shows at the ends of its pieces, and when."""
    place, times = Meter(movement).advance(np.asarray(amplitude, float), step)
    return np.cumsum(times), place


@pytest.mark.parametrize(("waveform", "thermal", "averaging"), [
    (Steady(), 1.0, 1.0), (Steady("FM"), 1.0, 1.0), (TwoTone(), 0.5, (2 / math.pi) ** 2), (Dots(), 0.5, 0.25),
    (Am(1.0), 1.5 / 4, 1 / 4), (Am(0.3), (1 + 0.045) / 1.69, 1 / 1.69),
])  # fmt: skip
def test_what_averages_shows_what_the_handbook_derives(waveform, thermal, averaging):
    """Handbook 5: thermal the mean; a diode's needle the mean of volts, squared: AM's carrier at any depth."""
    assert shown(USUAL["thermal"], waveform).reading == pytest.approx(thermal)
    assert shown(USUAL["averaging"], waveform).reading == pytest.approx(averaging)
    assert shown(USUAL["peak"], waveform).reading == 1.0


@pytest.mark.parametrize("name", list(USUAL))
def test_a_steady_carrier_shows_the_same_on_all(name):
    seen = watched(USUAL[name], Envelope(np.full(20_000, 3.0), STEP))

    assert (seen.reading, seen.low, seen.high) == pytest.approx((1.0, 1.0, 1.0), abs=1e-3)
    assert shown(USUAL[name], Steady()).reading == 1.0


@pytest.mark.parametrize("name", ["thermal", "averaging", "hold"])
@pytest.mark.parametrize("waveform", [Dots(0.5, 10.0), Dots(0.3, 4.0), Am(1.0, 40.0)])
def test_the_closed_form_and_the_steps_agree(name, waveform):
    movement = USUAL[name]
    stepped = watched(movement, waveform.envelope(60.0, 2e-4), 20.0)

    assert shown(movement, waveform).reading == pytest.approx(stepped.reading, rel=4e-3)


@pytest.mark.parametrize("damping", [0.2, 0.7, 1.0, 1.6])
def test_a_needles_step_response(damping):
    """Closed form of a second-order system (any textbook of control) and SciPy's."""
    omega = 2 * math.pi / 0.5
    time, place = deflections(Movement(Detector.PEAK, 10.0, Needle(0.5, damping)), np.ones(3000))
    _, expected = signal.step(([omega**2], [1.0, 2 * damping * omega, omega**2]), T=np.concatenate([[0.0], time]))

    assert place == pytest.approx(expected[1:], abs=1e-9)
    if damping < 1:
        overshoot = math.exp(-math.pi * damping / math.sqrt(1 - damping**2))
        assert place.max() - 1 == pytest.approx(overshoot, abs=0.01)


def test_a_needle_follows_what_scipy_integrates():
    """Averaging detector and needle on AM of 1 Hz, against solve_ivp of the two equations in a row."""
    waveform, movement = Am(0.8, 1.0), Movement(Detector.AVERAGE, 0.05, Needle(0.6, 0.5))
    time, place = deflections(movement, waveform.envelope(10.0, STEP).amplitude)
    omega = 2 * math.pi / 0.6

    def slopes(t, y):
        envelope = (1 + 0.8 * math.cos(2 * math.pi * t)) / 1.8
        return [(envelope - y[0]) / 0.05, y[2], omega**2 * (y[0] - y[1]) - 2 * 0.5 * omega * y[2]]

    made = integrate.solve_ivp(slopes, (0, 10.0), [0, 0, 0], t_eval=time[:-1], rtol=1e-9, atol=1e-9)
    # pieces of a fortieth of the needle's time: half a piece late at most
    assert place[:-1] == pytest.approx(made.y[1], abs=0.015)
    assert place[-67:-1].mean() == pytest.approx(made.y[1][-66:].mean(), abs=2e-3)


def test_a_needle_with_friction_stops_short_and_stays():
    free, stuck = (Movement(Detector.PEAK, 10.0, Needle(0.5, 1.0, friction)) for friction in (0.0, 0.02))
    assert deflections(free, np.ones(4000))[1][-1] == pytest.approx(1.0, abs=1e-6)
    assert deflections(stuck, np.ones(4000))[1][-1] == pytest.approx(0.98, abs=1e-3)
    # a change smaller than the friction moves nothing, a larger one to within it
    meter = Meter(stuck)
    meter.advance(np.ones(4000), STEP)
    before = meter.power
    meter.advance(np.full(12_000, 0.985), STEP)
    assert meter.power == pytest.approx(before, abs=1e-3)
    meter.advance(np.full(12_000, 1.1), STEP)
    assert meter.power**0.5 == pytest.approx(1.08, abs=2e-3)


@pytest.mark.parametrize(("attack", "decay", "rate", "duty"), [(0.01, 1.0, 2.0, 0.5), (0.005, 0.4, 5.0, 0.3)])
def test_a_hold_on_dots_is_the_cycle_solved_by_hand(attack, decay, rate, duty):
    """Up towards 1 with 1/τ + 1/T, down with 1/T: where a period closes, and its mean, both exponentials integrated."""
    movement = Movement(Detector.HOLD, attack, Needle(), decay)
    on, off, up = duty / rate, (1 - duty) / rate, 1 / attack + 1 / decay
    # scaled to a carrier: top = 1 - (1 - bottom)·e^(-on·up), bottom = top·e^(-off/T)
    fade, climb = math.exp(-off / decay), math.exp(-on * up)
    top = (1 - climb) / (1 - fade * climb)
    bottom = top * fade
    mean = rate * (on - (1 - bottom) * (1 - climb) / up + top * decay * (1 - fade))

    assert shown(movement, Dots(duty, rate)).reading == pytest.approx(mean**2, rel=2e-3)


def test_a_hold_on_two_tones_is_what_scipy_integrates():
    movement, waveform = USUAL["hold"], TwoTone(1.0, 50.0)
    attack, decay = movement.time_s, movement.decay_s

    def slope(t, v):
        envelope = abs(math.cos(math.pi * 50.0 * t))
        return [max(envelope - v[0], 0.0) / attack - v[0] / decay]

    time = np.linspace(8.0, 9.0, 20_001)
    made = integrate.solve_ivp(slope, (0, 9.0), [0.0], t_eval=time, max_step=1e-3, rtol=1e-7)
    scaled = made.y[0] * (1 + attack / decay)
    assert shown(movement, waveform).reading == pytest.approx(float(scaled.mean()) ** 2, rel=5e-3)


def test_a_fine_record_through_a_hold_is_gathered_without_loss():
    """Steps a thousandth of its charging time, gathered, against ten times coarser ones solved one by one."""
    movement = Movement(Detector.HOLD, 0.01, Needle(), 0.5)
    waveform = Am(1.0, 200.0)
    fine, coarse = (Meter(movement).held(waveform.envelope(0.5, step).amplitude, step)[-1] for step in (1e-6, 1e-5))
    assert fine == pytest.approx(coarse, rel=2e-3)


def test_a_true_peak_keeps_the_highest_of_its_window_and_forgets_it_after():
    pulse = np.zeros(3000)
    pulse[100:110] = 1.0
    time, place = deflections(Movement(Detector.PEAK, 0.5, Digits(0.01)), pulse)
    assert place[(time > 0.13) & (time < 0.58)].min() == 1.0
    assert place[time > 0.64].max() == 0.0


@pytest.mark.parametrize(("window", "expected"), [(0.5, 1.0), (0.1, (0.5 * 1.0 + 0.2 * 1.0) / 1.0)])
def test_a_window_shorter_than_a_space_loses_the_peak(window, expected):
    """Dots of 2 s⁻¹, 70 % on, 0.15 s off: a window of 0.1 s sees nothing for 0.05 s of each half second."""
    seen = shown(Movement(Detector.PEAK, window, Digits(0.1)), Dots(0.7, 2.0))
    assert seen.reading == pytest.approx(1.0 if window == 0.5 else 0.9**2, rel=0.05)


def test_digits_are_the_mean_since_the_last():
    movement = Movement(Detector.THERMAL, 1e-6, Digits(0.2))
    time, place = deflections(movement, np.concatenate([np.ones(200), np.zeros(100), np.full(100, 2.0), np.ones(200)]))
    assert place[time < 0.199].max() == 0.0  # nothing is said before the first
    assert np.unique(np.round(place, 3)).tolist() == [0.0, 1.0, 2.0]
    assert place[(time > 0.401) & (time < 0.599)] == pytest.approx(2.0, rel=1e-4)  # 0.1 s at 0, 0.1 s at 2² = 4


def test_pieces_move_it_on_as_the_whole_does():
    record = Speech(seed=3).envelope(4.0, 1e-4).amplitude
    for movement in USUAL.values():
        whole, parts = Meter(movement), Meter(movement)
        whole.advance(record, 1e-4)
        for begin in range(0, record.size, 1500):
            parts.advance(record[begin : begin + 1500], 1e-4)
        assert parts.power == pytest.approx(whole.power, rel=0.03, abs=1e-3)


def test_how_far_a_display_moves():
    """A needle on slow dots swings nearly all the way; digits that average power change about a half."""
    slow, quick = (shown(USUAL["averaging"], Dots(0.5, rate)) for rate in (0.5, 40.0))
    assert slow.low < 0.01 and slow.high > 0.95
    assert quick.high - quick.low < 0.01
    assert shown(USUAL["averaging"], TwoTone()).low == shown(USUAL["averaging"], TwoTone()).high


def test_what_never_repeats_is_watched():
    seen = shown(USUAL["thermal"], Droop(0.5, 3.0))
    assert 0.5 < seen.low < seen.reading < seen.high < 1.0
    speech = {name: shown(movement, Speech(0.4)).reading for name, movement in USUAL.items()}
    # handbook 5: thermal about the mean, needle lower, a hold between it and PEP
    assert speech["averaging"] < speech["thermal"] == pytest.approx(0.4, abs=0.04)
    assert 0.5 < speech["hold"] < 0.95 <= speech["peak"] <= 1.0


def test_a_short_record_is_taken_to_go_on():
    beat = TwoTone(1.0, 1000.0)
    record = Repeating("capture", beat.envelope(0.02, 1e-5))
    for name, movement in USUAL.items():
        assert shown(movement, record).reading == pytest.approx(shown(movement, beat).reading, rel=5e-3), name


@pytest.mark.parametrize("waveform", [TwoTone(0.8, 200.0), Dots(0.5, 20.0), Dots(0.3, 2.0), Am(0.9, 50.0)])
def test_many_holds_at_once_are_each_by_itself(waveform):
    times = [(0.002, 0.3), (0.01, 1.0), (0.05, 2.0)]
    many = hold_readings(waveform, *(np.array(column) for column in zip(*times, strict=True)))
    each = [shown(Movement(Detector.HOLD, attack, Needle(), decay), waveform).reading for attack, decay in times]
    assert many == pytest.approx(each, rel=2e-3)


def test_of_slow_dots_a_quick_needle_shows_all_and_nothing():
    """Five seconds on, five off: each is seen, however short the look (common practice, no source)."""
    found = shown(Movement(Detector.AVERAGE, 0.02, Needle(0.2, 0.7)), Dots(0.5, 0.1))
    assert (found.low, found.high) == pytest.approx((0.0, 1.0), abs=0.05)
