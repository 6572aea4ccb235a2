"""The simulated bench against what any textbook says, and the eye in front of it."""

import math

import numpy as np
import pytest

from fenmist.errors import OutOfRangeError
from fenmist.simulation.bench import TrueBench, TrueLine, observe, sample
from fenmist.simulation.nodes import Equations
from fenmist.simulation.reader import read_needle, read_screen

NOTHING = TrueLine(50.0, 0.0, 1.0)


def _bench(load=50 + 0j, **fields):
    return TrueBench(lambda _: load, lambda _: 0.0, fields.pop("lead", NOTHING), 0.0, jumper=NOTHING, **fields)


def test_a_hundred_watts_into_fifty_ohms_are_two_hundred_volts_peak_to_peak():
    """Common practice, no source."""
    shown = observe(_bench(), 7e6, 100.0)

    assert shown.volts_peak_to_peak == pytest.approx(200.0)
    assert shown.true_net_w == pytest.approx(100.0)
    assert shown.meter_w == pytest.approx(100.0)


@pytest.mark.parametrize("source", [50 + 0j, 20 + 30j, 100 - 40j])
def test_the_sources_impedance_drops_out(source):
    shown = observe(_bench(load=75 + 0j, source_ohm=source), 7e6, 10.0)

    assert shown.true_net_w == pytest.approx(10.0 * (1 - 0.2**2))


def ended(line, load_ohm, frequency_hz):
    """Impedance into a line, and volts in over volts out."""
    circuit = Equations(frequency_hz)
    line.between(circuit, ("v1", "i1"), ("v2", "i2"))
    circuit.row({"v2": 1.0, "i2": load_ohm})
    circuit.row({"v1": 1.0}, 1.0)
    found = circuit.solved()
    return found["v1"] / found["i1"], found["v1"] / found["v2"]


def test_a_quarter_wave_turns_a_hundred_ohms_into_twenty_five():
    """Z = Z0²/Z_L: any textbook of lines, from memory."""
    f = 10e6
    seen, _ = ended(TrueLine(50.0, 299_792_458.0 / f / 4, 1.0), 100.0, f)

    assert seen == pytest.approx(25.0)


def test_a_lossy_line_loses_what_it_says():
    seen, ratio = ended(TrueLine(50.0, 3.0, 0.66, 3.0), 50.0, 10e6)

    assert 20 * math.log10(abs(ratio)) == pytest.approx(3.0)
    assert seen == pytest.approx(50.0)


def test_a_circuit_at_no_frequency_is_refused():
    with pytest.raises(OutOfRangeError, match="0 Hz"):
        Equations(0.0)


def test_imperfections_distort_what_is_shown():
    bench = TrueBench(lambda _: 50 + 0j, lambda _: -1.0, NOTHING, 0.0, 0.98, 7e6, NOTHING)
    shown = observe(bench, 7e6, 100.0)

    assert shown.volts_peak_to_peak == pytest.approx(200.0 * 0.98 / math.sqrt(2))
    assert shown.meter_w == pytest.approx(100.0 * 10**-0.1)
    assert shown.true_incident_w == 100.0


def test_a_needle_is_noted_to_parts_of_its_division():
    rng = np.random.default_rng(1)
    read = [read_needle(37.3, 5.0, 0.25, rng) for _ in range(200)]

    assert {round(value / 1.25, 9) % 1 for value in read} == {0.0}
    assert max(abs(value - 37.3) for value in read) <= 1.25


def test_a_screen_shows_so_many_digits():
    rng = np.random.default_rng(1)

    assert read_screen(215.34, 4, 0.0, rng) == "215.3"
    assert read_screen(0.0123456, 3, 0.0, rng) == "0.0123"


def test_a_record_of_samples_is_of_the_level_and_lies_on_its_steps():
    """100 W into 50 Ω: 70.7 V rms, also where the line's meter sees a mismatch (|1 + Γ| of √(P·Z0))."""
    for load, volts in ((50 + 0j, 70.711), (100 + 0j, 70.711 * 4 / 3), (25 + 0j, 70.711 * 2 / 3)):
        bench = _bench(load=load)
        found = sample(bench, 7e6, 100.0, 1 / (7e6 * 40), 4000, 0.5, np.random.default_rng(2))
        assert np.std(found) == pytest.approx(volts, rel=2e-3)
        assert np.allclose(found / 0.5, np.round(found / 0.5))
    noisy = sample(_bench(noise_ratio=0.1), 7e6, 100.0, 1 / (7e6 * 40), 4000, 0.01, np.random.default_rng(2))
    clean = sample(_bench(), 7e6, 100.0, 1 / (7e6 * 40), 4000, 0.01, np.random.default_rng(2))
    assert np.std(noisy - clean) == pytest.approx(10.0, rel=0.05)
