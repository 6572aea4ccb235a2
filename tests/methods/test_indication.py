"""From what an indicator shows to the quantity at its connector: each factor by hand."""

import math
from dataclasses import replace

import numpy as np
import pytest

from fenmist.kit import generic, shelf
from fenmist.kit.characterisation import Characterisation
from fenmist.kit.draft import draft_from_part, part_from_draft
from fenmist.kit.part import Part, Property, SpecKind, SpecTerm
from fenmist.measurand import Detector, Kind
from fenmist.methods.indication import Indication, Read, Source, calibration_factor
from fenmist.simulation.heater import TrueHeater
from fenmist.waveform.harmonics import Harmonics, Responds

F = np.array([5e6, 20e6])
ONES = np.ones(2)


def estimates(made: Indication) -> dict[str, np.ndarray]:
    return {item.id: item.estimate for item in made.influences()}


def known(made: Indication):
    return {item.id: item for item in made.influences()}


def scope(bandwidth_hz=100e6, noise=0.0, model="one-pole", forms=("Vpp", "Vpp"), value=10.0, **more) -> Indication:
    part = shelf.oscilloscope("o", "Sedge", bandwidth_hz, noise=noise, model=model)
    read = Read(part, part.indicators[0], Kind.VOLTAGE, F, value * ONES, 0.1 * ONES, 0.01 * ONES, forms=forms)
    return Indication(read, **more)


def sensor(value=1e-3, **properties) -> Indication:
    part = generic.power_meter("s", "Sallow", noise_w=0.0, accuracy=(SpecTerm(SpecKind.OF_READING, 0.03),))
    part = replace(part, properties={**part.properties, "zero_w": Property(0.0, "W"), **properties})
    return Indication(Read(part, part.indicators[0], Kind.INCIDENT, F, value * ONES, 1e-5 * ONES))


def test_volts_are_squared_and_lifted_by_the_response():
    """One pole of 100 MHz at 5 and 20 MHz: 1 + 1/400 and 1 + 1/25 of power."""
    made = scope()
    assert made.quantity(estimates(made)) == pytest.approx([100.0 * (1 + 1 / 400), 100.0 * (1 + 1 / 25)])
    assert made.corrections()["bandwidth"] == pytest.approx([1 + 1 / 400, 1 + 1 / 25])
    x = estimates(made)
    flat, twice = (made.quantity({**x, "o.response": side * ONES}) for side in (-1.0, 1.0))
    assert flat == pytest.approx([100.0] * 2) and twice == pytest.approx([100.0 * (1 + 1 / 400) ** 2, 100 * 1.04**2])
    assert made.quantity({**x, "o.gain": 1.03 * ONES}) == pytest.approx(made.quantity(x) / 1.03**2)
    assert made.quantity({**x, "o.reading": 11.0 * ONES}) == pytest.approx(1.21 * made.quantity(x))


def test_what_is_uncertain_of_an_oscilloscope():
    found = known(scope(noise=0.01))

    assert list(found) == ["o.reading", "o.gain", "o.response", "o.noise"]
    assert (found["o.reading"].estimate[0], found["o.reading"].standard_u[0], found["o.reading"].unit) == (
        10.0,
        0.1,
        "V",
    )
    assert found["o.gain"].standard_u == pytest.approx([0.03 / 3**0.5] * 2)
    assert found["o.gain"].label == "Sedge, accuracy"
    assert (found["o.response"].estimate[0], found["o.response"].standard_u[0]) == (0.0, pytest.approx(1 / 3**0.5))
    assert (found["o.noise"].estimate[0], found["o.noise"].standard_u[0]) == (1.0, pytest.approx(0.5 / 3**0.5))
    assert len(set(found["o.reading"].sharing)) == len(set(found["o.noise"].sharing)) == 2
    assert len(set(found["o.gain"].sharing)) == 1
    assert {item.source_id for item in found.values()} == {"o"}


def test_noise_lifts_crests_and_nothing_else():
    crests, rms = scope(noise=0.01), scope(noise=0.01, forms=("Vrms", "fit"))
    assert np.all(crests.noise_excess() > 0.01) and np.all(rms.noise_excess() == 0.0)
    lift = 1.0 + crests.noise_excess()
    assert crests.quantity(estimates(crests)) == pytest.approx(scope().quantity(estimates(scope())) / lift**2)
    assert crests.corrections()["noise"] == pytest.approx(lift**-2)
    assert "noise" not in rms.corrections()


def test_a_probe_takes_its_share_of_the_bandwidth():
    """100 and 200 MHz in a row: 1/√(1/100² + 1/200²) = 89.4 MHz."""
    assert scope(bandwidths_hz=(200e6,)).bandwidth_hz == pytest.approx(89.443e6, rel=1e-4)
    assert scope(bandwidth_hz=math.inf).bandwidth_hz == math.inf
    assert "o.response" not in known(scope(bandwidth_hz=math.inf))


@pytest.mark.parametrize(("form", "detector", "responds"), [
    ("Vpp", Detector.TRACE, Responds.PEAK_TO_PEAK), ("Vpk", Detector.TRACE, Responds.PEAK),
    ("Vrms", Detector.TRACE, Responds.RMS), ("fit", Detector.TRACE, Responds.FUNDAMENTAL),
    ("", Detector.TRACE, Responds.RMS),
    ("Vrms", Detector.AVERAGE, Responds.AVERAGE), ("Vrms", Detector.HOLD, Responds.PEAK),
    ("W", Detector.THERMAL, Responds.RMS),
    ("fit", Detector.AVERAGE, Responds.FUNDAMENTAL),
])  # fmt: skip
def test_what_a_reading_answers_to(form, detector, responds):
    part = shelf.oscilloscope("o", "Sedge", 1e8)
    indicator = replace(part.indicators[0], detector=detector)

    assert Read(part, indicator, Kind.VOLTAGE, F, ONES, ONES, forms=(form, form)).responds == (responds,) * 2


def source(measured=False, gain=2.0) -> Source:
    return Source("tx", Harmonics({2: 0.01, 3: 0.02}, measured), {2: gain * ONES, 3: gain * ONES})


def test_harmonics_lift_by_what_arrives_of_them():
    """Peak to peak: the third alone, 2 % twice by the lead, less by the pole at three times the carrier."""
    made = scope(source=source())
    own = [math.sqrt((1 + (f / 100e6) ** 2) / (1 + (3 * f / 100e6) ** 2)) for f in F]
    assert made.harmonic_weights()[3] == pytest.approx([0.04 * item for item in own])
    assert list(made.harmonic_weights()) == [3]
    x = estimates(made)
    assert made.quantity({**x, "tx.harmonic_3": ONES}) == pytest.approx(
        made.quantity(x) / (1.0 + made.harmonic_weights()[3]) ** 2
    )
    found = known(made)["tx.harmonic_3"]
    assert (found.distribution, found.standard_u[0], found.source_id) == ("anywhere in a disc", 0.5, "tx")
    assert "at most −34 dBc" in found.basis
    assert known(scope(source=source(True)))["tx.harmonic_3"].standard_u[0] == pytest.approx(1 / 2**0.5)
    assert scope(source=source(gain=1e6)).harmonic_weights()[3] == pytest.approx([0.2] * 2)  # at most ten times


def test_rms_takes_half_the_squares():
    """(1 + 4)·1e-4/2 of volts, known to be between nothing and all of it where only a ceiling is."""
    made = scope(source=source(), forms=("Vrms", "Vrms"))
    assert made.rms_excess() == pytest.approx([2.5e-4] * 2) and made.harmonic_weights() == {}
    x = estimates(made)
    assert x["tx.harmonics_rms"][0] == 0.5
    assert made.quantity({**x, "tx.harmonics_rms": ONES}) == pytest.approx(
        scope().quantity(estimates(scope())) / (1 + 2.5e-4) ** 2
    )
    assert known(made)["tx.harmonics_rms"].standard_u[0] == pytest.approx(0.5 / 3**0.5)
    exact = known(scope(source=source(True), forms=("Vrms", "Vrms")))["tx.harmonics_rms"]
    assert (exact.estimate[0], exact.standard_u[0]) == (1.0, 0.0)
    assert np.all(scope().rms_excess() == 0.0) and scope().harmonic_weights() == {}


def test_watts_less_zero_and_noise_over_the_calibration_factor():
    made = sensor(zero_w=Property(1e-5, "W", SpecTerm(SpecKind.ABSOLUTE, 2e-5, "W")), noise_floor_w=Property(4e-6, "W"),
                  cal_factor=Property(0.95, "", SpecTerm(SpecKind.OF_READING, 0.01)))  # fmt: skip
    found, x = known(made), estimates(made)

    assert made.quantity(x) == pytest.approx([(1e-3 - 1e-5) / 0.95] * 2)
    assert made.quantity({**x, "s.noise_floor": 1e-5 * ONES}) == pytest.approx([(1e-3 - 2e-5) / 0.95] * 2)
    assert made.quantity({**x, "s.gain": 1.03 * ONES}) == pytest.approx([(1e-3 / 1.03 - 1e-5) / 0.95] * 2)
    assert found["s.zero"].standard_u[0] == pytest.approx(2e-5 / 3**0.5)
    assert found["s.noise_floor"].standard_u[0] == pytest.approx(2e-6)
    assert (found["s.cal_factor"].estimate[0], found["s.cal_factor"].standard_u[0]) == (
        0.95, pytest.approx(0.0095 / 3**0.5),
    )  # fmt: skip
    assert {found[name].unit for name in ("s.zero", "s.noise_floor", "s.reading")} == {"W"}


def test_a_sensor_is_linear_within_what_its_sheet_says():
    """0.05 dB of power is 1.158 %, of each level its own; the sheet's own words come back."""
    part = part_from_draft(sensor().read.part, {**draft_from_part(sensor().read.part), "zero": "2 nW",
                                                "linearity": "0.05 dB; normal k=2"})  # fmt: skip
    assert isinstance(part, Part)
    made = Indication(replace(sensor().read, part=part))
    found, x = known(made), estimates(made)

    assert found["s.linearity"].standard_u[0] == pytest.approx((10**0.005 - 1) / 2)
    assert len(set(found["s.linearity"].sharing)) == 2
    assert found["s.zero"].standard_u[0] == pytest.approx(2e-9 / 3**0.5)
    assert made.quantity({**x, "s.linearity": 1.01 * ONES}) == pytest.approx(made.quantity(x) / 1.01)
    again = draft_from_part(part)
    assert (again["zero"], again["linearity"]) == ("2 nW", "1.15795 %; normal k=2")
    without = part_from_draft(part, {**again, "linearity": ""})
    assert isinstance(without, Part) and "linearity" not in without.properties


def test_a_calibration_factor_from_its_table():
    table = Characterisation("k", "cal_factor", (5e6, 20e6), (0.9, 0.8), unit="", u=(0.01, 0.02))
    part = replace(generic.power_meter("s", "s"), characterisations=(table,))
    value, u = calibration_factor(part, F)
    assert value == pytest.approx([0.9, 0.8]) and u == pytest.approx([0.01, 0.02])
    bare = replace(part, characterisations=(), properties={})
    assert [item.tolist() for item in calibration_factor(bare, F)] == [[1.0, 1.0], [0.0, 0.0]]


def test_a_correction_curve_takes_the_place_of_the_accuracy():
    curve = Characterisation("c", "correction", (5e6, 20e6), (1.02, 1.05), unit="", u=(0.01, 0.021))
    part = replace(shelf.inline_meter("m", "Teal", (200.0,), None, 0.05), characterisations=(curve,))
    made = Indication(Read(part, part.indicators[0], Kind.INCIDENT, F, 50.0 * ONES, ONES))
    found, x = known(made), estimates(made)

    assert "m.gain" not in found
    assert found["m.correction"].standard_u == pytest.approx([0.01 / 1.02, 0.02])
    assert made.quantity(x) == pytest.approx([51.0, 52.5])
    assert made.quantity({**x, "m.correction": 1.1 * ONES}) == pytest.approx([56.1, 57.75])


def test_the_range_it_was_read_on_says_how_well_it_is_known():
    """5 % of 3 V for 2 V are 7.5 %; 5 % of 30 V are 75 %; each term by its own name."""
    part = next(item for item in generic.generics() if item.id == "generic-voltmeter")
    spec = (SpecTerm(SpecKind.OF_RANGE, 0.05), SpecTerm(SpecKind.DIGITS, 1.0))
    indicator = replace(part.indicators[0], spec=spec)

    def read(full, name):
        return Indication(
            Read(part, indicator, Kind.VOLTAGE, F, 2.0 * ONES, ONES, 0.02 * ONES, full * ONES, (name, name))
        )

    first, second = known(read(3.0, "3")), known(read(30.0, "30"))
    assert first["generic-voltmeter.gain"].standard_u[0] == pytest.approx(0.075 / 3**0.5)
    assert second["generic-voltmeter.gain"].standard_u[0] == pytest.approx(0.75 / 3**0.5)
    assert first["generic-voltmeter.gain.2"].standard_u[0] == pytest.approx(0.01 / 3**0.5)
    made = read(3.0, "3")
    x = estimates(made)
    both = made.quantity({**x, "generic-voltmeter.gain": 1.02 * ONES, "generic-voltmeter.gain.2": 1.01 * ONES})
    assert both == pytest.approx(made.quantity(x) / (1.02 * 1.01) ** 2)


def test_amperes_are_squared_too_and_a_second_place_has_its_own_name():
    part = generic.ammeter("a", "ammeter", 2.0)
    made = Indication(Read(part, part.indicators[0], Kind.CURRENT, F, 1.5 * ONES, 0.01 * ONES, name="a@ammeter 2"))

    assert made.quantity(estimates(made)) == pytest.approx([2.25] * 2)
    assert known(made)["a@ammeter 2.reading"].unit == "A"
    absolute = replace(part.indicators[0], spec=(SpecTerm(SpecKind.ABSOLUTE, 0.03, "A"),))
    gain = known(Indication(Read(part, absolute, Kind.CURRENT, F, 1.5 * ONES, 0.01 * ONES, forms=("A", "A"))))["a.gain"]
    assert gain.standard_u == pytest.approx([0.03 / 1.5 / 3.0**0.5] * 2)
    assert made.corrections() == {}


def test_skin_effect_in_a_heater_is_taken_out_with_half_of_it_in_the_budget():
    """A wire whose resistance is up by r heats as if I²·(1 + r) flowed."""
    part = generic.ammeter("a", "ammeter", 2.0)
    part = replace(part, properties={**part.properties, "wire_m": Property(4e-4, "m")})
    f = np.array([4.7e5, 28e6])
    made = Indication(Read(part, part.indicators[0], Kind.CURRENT, f, 1.5 * ONES, 0.01 * ONES))
    rise = np.array([TrueHeater(4e-4).rise(hertz) for hertz in f])  # by shells
    x = estimates(made)

    assert rise[1] > 1.15 and rise[0] < 1.001
    assert made.quantity(x) == pytest.approx(2.25 / rise, rel=6e-3)
    assert made.corrections()["skin"] == pytest.approx(1.0 / rise, rel=6e-3)
    skin = known(made)["a.skin"]
    assert skin.standard_u[0] == pytest.approx(0.5 / 3**0.5)
    half = made.quantity({**x, "a.skin": 0.5 * ONES})
    assert half == pytest.approx(2.25 / (1.0 + 0.5 * (rise - 1.0)), rel=6e-3)
    bare = Indication(Read(generic.ammeter("a", "a", 2.0), part.indicators[0], Kind.CURRENT, f, ONES, 0.01 * ONES))
    assert "a.skin" not in known(bare) and bare.corrections() == {}


def test_noise_counts_where_one_form_of_two_is_lifted_by_it():
    """Peak to peak is; rms isn't, but for the noise's own power."""
    made = scope(noise=0.01, forms=("Vpp", "Vrms"))
    assert "o.noise" in known(made)
    assert made.corrections()["noise"][0] < 1.0


def test_a_response_that_matters_at_one_frequency_of_two_is_said():
    read = scope().read
    made = Indication(replace(read, frequency_hz=np.array([0.0, 20e6])))
    assert made.corrections()["bandwidth"] == pytest.approx([1.0, 1.04])
    assert "o.response" in known(made)


@pytest.mark.parametrize(("measured", "u"), [(False, 1.0 / 2.0), (True, 1.0 / 2.0**0.5)])
def test_what_comes_back_leaks_into_a_forward_arm(measured, u):
    """30 dB and ρ of 0.2 and 0: 2·0.0316·0.2 of power, anywhere in a disc where stated, on its rim where measured."""
    part = generic.power_meter("m", "Mallow", noise_w=0.0, accuracy=(SpecTerm(SpecKind.OF_READING, 0.03),))
    part = replace(part, properties={**part.properties, "directivity_db": Property(30.0, "dB", measured=measured)})
    read = Read(part, part.indicators[0], Kind.INCIDENT, F, ONES, 0.01 * ONES, reflection=np.array([0.2, 0.0]))
    made = Indication(read)
    leak = 2.0 * 10**-1.5 * 0.2
    name = next(item.id for item in made.influences() if "directivity" in item.label)

    assert known(made)[name].standard_u == pytest.approx([leak * u, 0.0])
    assert len(set(known(made)[name].sharing)) == 2
    assert "no directivity is stated" not in known(made)[name].basis
    usual = known(Indication(replace(read, part=replace(part, properties={}))))[name]
    assert usual.standard_u == pytest.approx([10**-1.25 * 0.2, 0.0])  # half of 2·10^(−25/20)·0.2
    assert "no directivity is stated: 25 dB" in usual.basis
    x = estimates(made)
    assert made.quantity({**x, name: np.array([leak, 0.0])}) == pytest.approx(made.quantity(x) / [1.0 + leak, 1.0])
    # what comes back can't be more than all
    assert Indication(replace(read, reflection=np.array([1.5, 1.0]))).leak() == pytest.approx([2.0 * 10**-1.5] * 2)
    assert not Indication(replace(read, kind=Kind.REFLECTED)).leak().any()


@pytest.mark.parametrize(("form", "volts"), [("Vpp", 10.0 * 2.0**1.5), ("Vrms", 10.0)])
def test_volts_that_are_stated_are_of_the_form_that_was_read(form, volts):
    """0.5 V of so many as the screen shows them, rectangular."""
    made = scope(forms=(form, form))
    part = replace(made.read.part, indicators=(replace(made.read.indicator, spec=(SpecTerm(SpecKind.ABSOLUTE, 0.5),)),))
    found = known(replace(made, read=replace(made.read, part=part, indicator=part.indicators[0])))

    assert found["o.gain"].standard_u[0] == pytest.approx(0.5 / volts / 3**0.5)
