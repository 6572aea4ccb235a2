"""Radiated power against definitions and tables from outside, by each way, with its notes."""

import math

import numpy as np
import pytest

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.methods.radiated import CURRENT, FIELD, POWER, RadiatedRequest
from fenmist.rf.antenna import (
    base_reactance_ohm,
    effective_height_m,
    eirp_from_field_w,
    short_monopole_resistance_ohm,
    wavelength_m,
)
from fenmist.session.aids import radiated_rows

LOW = {"current": "2 A", "height": "15 m", "frequency": "474 kHz"}


def codes(answer):
    return {note.code for note in answer.notes} - {"radiated.largest", "radiated.law"}


def note(answer, code):
    return next(item for item in answer.notes if item.code == code)


# facts


def test_a_short_wire_of_fifteen_metres_at_474_khz():
    """R_rad 0.222 Ω; 2 A radiate 0.888 W, EIRP 2.66 W (derived)."""
    answer = RadiatedRequest(**LOW)()

    assert answer.resistance_ohm == pytest.approx(0.222, abs=5e-4)
    assert 4.0 * answer.resistance_ohm == pytest.approx(0.888, abs=5e-4)
    assert answer.eirp_w == pytest.approx(2.66, abs=5e-3)
    assert answer.emrp_w == pytest.approx(answer.eirp_w / 3.0)
    assert 10.0 * math.log10(answer.eirp_w / answer.erp_w) == pytest.approx(2.15, abs=5e-3)


@pytest.mark.parametrize(
    ("kilowatt_of", "millivolts"),
    # at 1 km in free space or over perfect ground: ITU Radio Regulations 1.163 (300 mV/m), ITU-R BS.561 (222, 173),
    # from memory
    [("emrp_w", 300.0), ("erp_w", 222.0), ("eirp_w", 173.0)],
)
def test_a_kilowatt_at_a_kilometre(kilowatt_of, millivolts):
    answer = RadiatedRequest(field=f"{millivolts} mV/m", distance="1000 m")()

    assert answer.way.name == FIELD
    assert getattr(answer, kilowatt_of) == pytest.approx(1000.0, rel=0.003)


def test_decibels_over_a_microvolt_are_the_same_field():
    by_db, by_volts = (RadiatedRequest(field=text, distance="5000 m")() for text in ("80 dBµV/m", "10 mV/m"))

    assert by_db.eirp_w == pytest.approx(by_volts.eirp_w)
    assert RadiatedRequest(field="0.01 V/m", distance="5000 m")().eirp_w == pytest.approx(by_volts.eirp_w)
    assert RadiatedRequest(field="10000 uV/m", distance="5000 m")().eirp_w == pytest.approx(by_volts.eirp_w)


def test_a_dipole_on_a_lossless_line_makes_erp_of_its_power():
    answer = RadiatedRequest(power="10 W", gain="0 dBd")()

    assert answer.erp_w == pytest.approx(10.0)


@pytest.mark.parametrize(
    ("texts", "times"),
    # 3 dB halve; an SWR of 3 sends back a quarter (any SWR table); gain multiplies
    [({"line_loss": "3.0103 dB"}, 0.5), ({"swr": "3"}, 0.75), ({"gain": "10 dBi"}, 10.0), ({"gain": "−10"}, 0.1),
     ({"line_loss": "3.0103", "swr": "3", "gain": "10 dB"}, 3.75)],
)  # fmt: skip
def test_what_lies_between_transmitter_and_field(texts, times):
    answer = RadiatedRequest(power="40 W", **{"gain": "0 dBi", **texts})()

    assert answer.eirp_w == pytest.approx(40.0 * times, rel=1e-5)


def test_a_roof_of_wires_doubles_the_effective_height():
    bare, loaded = (RadiatedRequest(**LOW, top_loading=t)() for t in ("", "1"))

    assert loaded.resistance_ohm == pytest.approx(4.0 * bare.resistance_ohm)
    assert effective_height_m(20.0, 0.5) == 15.0
    assert wavelength_m(475e3) == pytest.approx(631.1, abs=0.1)
    assert short_monopole_resistance_ohm(63.11, 475e3) == pytest.approx(160.0 * math.pi**2 / 100.0, rel=1e-3)


def test_radiated_power_and_field_belong_together():
    """E = √(90·P_rad)/d over perfect ground (any antenna handbook, from memory): both ways give the same EIRP."""
    radiated = 0.888
    field = math.sqrt(90.0 * radiated) / 1000.0

    assert eirp_from_field_w(field, 1000.0) == pytest.approx(3.0 * radiated)


def test_a_short_wire_is_a_capacitor_of_five_picofarads_a_metre():
    """A vertical wire far shorter than a wave has some 5 to 6 pF a metre (common practice, no source)."""
    farad = -1.0 / (2.0 * math.pi * 100e3 * base_reactance_ohm(15.0, 100e3))

    assert 5e-12 < farad / 15.0 < 7e-12


# uncertainty


def test_an_interval_holds_the_truth_as_often_as_it_says():
    """Truths drawn anywhere within their limits; a rectangle that dominates is held by k = 2 every time."""
    rng, power, current = np.random.default_rng(3), 50.0, 2.0
    held = {"power": 0, "current": 0}
    for _ in range(1500):
        off = rng.uniform(-1.0, 1.0, 4)
        by_power = RadiatedRequest(power="50 W ± 5 %", gain="-8 dBi ± 0.2 dB", line_loss="1 dB ± 0.2 dB")()
        true = power * math.exp(0.05 * off[0]) * 10.0 ** ((-9.0 + 0.2 * off[1] + 0.2 * off[2]) / 10.0)
        low, high = by_power.interval_w
        held["power"] += low <= true <= high
        by_current = RadiatedRequest(**{**LOW, "current": "2 A ± 5 %", "height": "15 m ± 5 %"})()
        true = 3.0 * current**2 * 0.222 * math.exp(2.0 * 0.05 * (off[0] + off[3]))
        low, high = by_current.interval_w
        held["current"] += low <= true <= high

    assert 0.955 < held["power"] / 1500 <= 1.0
    assert 0.955 < held["current"] / 1500 < 0.995  # two alike: a triangle, 96.6 % within 2u


@pytest.mark.parametrize(
    ("texts", "u_db", "largest"),
    # limits over √3, amplitudes twice, in dB
    [
        ({"power": "50 W ± 10 %", "gain": "0 dBi ± 0 dB"}, 0.4343 / 3**0.5, "transmitter's power"),
        ({"power": "50 W ± 0 %", "gain": "0 dBi"}, 2.0 / 3**0.5, "antenna's gain"),
        ({"power": "50 W ± 5 W", "gain": "0 dBi ± 0 dB"}, 0.4343 / 3**0.5, "transmitter's power"),
        ({"power": "50 W ± 0 W", "gain": "0 ± 0 dB", "line_loss": "5 dB"}, 1.0 / 3**0.5, "line's loss"),
        ({"power": "50 W ± 0 W", "gain": "0 ± 0 dB", "line_loss": "0.1 dB"}, 0.1 / 3**0.5, "line's loss"),
        ({**LOW, "height": "15 m ± 10 %", "current": "2 A ± 0 %"}, 2 * 0.4343 / 3**0.5, "effective height"),
        ({**LOW, "height": "15 m ± 0 m", "current": "2 A ± 0.2 A"}, 2 * 0.4343 / 3**0.5, "antenna's current"),
        ({"field": "1 mV/m ± 2 dB", "distance": "9000 m ± 0 m"}, 2.0 / 3**0.5, "field strength"),
        ({"field": "1 mV/m ± 0 dB", "distance": "9000 m ± 10 %"}, 2 * 0.4343 / 3**0.5, "distance"),
    ],
)
def test_each_line_of_each_way_counts(texts, u_db, largest):
    answer = RadiatedRequest(**texts)()

    assert answer.way.u * 10.0 / math.log(10.0) == pytest.approx(u_db, rel=1e-3)
    assert answer.way.largest.name == largest
    assert note(answer, "radiated.largest").what.startswith(f"Largest line: {largest}, ")
    low, high = answer.interval_w
    assert 10.0 * math.log10(high / answer.eirp_w) == pytest.approx(2.0 * u_db, rel=1e-3)
    assert low * high == pytest.approx(answer.eirp_w**2)


@pytest.mark.parametrize(
    ("line_loss", "remedy"), [("9 dB", "Type what it is known to behind ±, if better is known."),
                              ("9 dB ± 3 dB", "Type what it is known to behind ±.")],
)  # fmt: skip
def test_what_was_typed_is_not_said_to_be_assumed(line_loss, remedy):
    said = note(RadiatedRequest(power="50 W", gain="0 ± 0 dB", line_loss=line_loss)(), "radiated.largest")

    assert said.what.startswith("Largest line: line's loss")
    assert said.remedy == remedy
    gain = note(RadiatedRequest(power="50 W ± 0 %", gain=line_loss.replace("9 dB", "0 dBi", 1))(), "radiated.largest")
    assert (gain.what.startswith("Largest line: antenna's gain"), gain.remedy) == (True, remedy)


def test_two_lines_that_are_known_alike_are_half_of_the_variance_each():
    """±2 dB of gain are ±46 % of power, near enough: 2/4.343."""
    answer = RadiatedRequest(power="50 W ± 46.05 %", gain="0 dBi ± 2 dB")()

    assert answer.way.share == pytest.approx(0.5, rel=1e-3)
    assert "50\u202f% of the variance" in note(answer, "radiated.largest").what


def test_of_several_ways_the_two_that_lie_farthest_apart_are_named():
    """1 mV/m at 9 km are 2.7 W (E·d)²/30; 50 W and 20 dBi are 5 kW; an ampere or so between."""
    texts = {"power": "50 W", "gain": "20 dBi ± 1 dB", "field": "1 mV/m ± 1 dB", "distance": "9000 m ± 1 %", **LOW}
    answer = RadiatedRequest(**texts, top_loading="1")()
    far = {
        (a.name, b.name): abs(math.log(a.eirp_w / b.eirp_w)) / 2.0 / math.hypot(a.u, b.u)
        for n, a in enumerate(answer.ways) for b in answer.ways[n + 1 :]
    }  # fmt: skip
    most = max(far, key=far.get)
    said = note(answer, "radiated.apart")

    assert len(far) == 3 and min(far.values()) < 0.9 * far[most]
    assert said.evidence["ratio"] == pytest.approx(far[most])
    assert all(name in said.what for name in most)


@pytest.mark.parametrize(
    ("texts", "share"),
    [({"power": "9 W"}, "5\u202f%"), ({"power": "9 W", "gain": "1 dBi"}, "2\u202fdB"), (LOW, "20\u202f%"),
     ({"field": "1 mV/m", "distance": "9000 m"}, "3\u202fdB")],
)  # fmt: skip
def test_what_is_assumed_is_said(texts, share):
    said = note(RadiatedRequest(**texts)(), "radiated.largest")

    assert f"±{share} assumed" in said.why


def test_of_several_ways_the_surest_is_stated_and_power_serves_the_limit():
    both = RadiatedRequest(power="50 W", gain="-12 dBi ± 6 dB", **LOW)()
    without = RadiatedRequest(power="50 W", **LOW, limit="5 W")()

    assert [way.name for way in both.ways] == [CURRENT, POWER]
    assert both.way.name == CURRENT
    assert [way.name for way in without.ways] == [CURRENT]
    assert (RadiatedRequest(**LOW)().base_ohm, RadiatedRequest(**LOW)().u_base) == (None, 0.0)  # no power, no quotient
    assert without.base_ohm == pytest.approx(12.5)
    assert without.gain_dbi == pytest.approx(10.0 * math.log10(3.0 * 0.2219 / 12.5), abs=0.01)
    assert without.power_at_limit_w == pytest.approx(50.0 * 5.0 / 2.66, rel=2e-3)
    assert without.current_at_limit_a == pytest.approx(2.0 * math.sqrt(5.0 / 2.66), rel=2e-3)


def test_the_whole_antenna_is_known_as_its_power_and_twice_its_current_are():
    """50 W ± 6 % and 2 A ± 4 %: u² = (0.06² + 0.08²)/3."""
    answer = RadiatedRequest(power="50 W ± 6 %", **{**LOW, "current": "2 A ± 4 %"})()
    low, high = answer.base_interval_ohm

    assert math.log(high / low) == pytest.approx(4.0 * 0.1 / 3**0.5)
    assert math.sqrt(low * high) == pytest.approx(12.5)
    with_line = RadiatedRequest(power="50 W ± 6 %", line_loss="0 dB ± 0.5 dB", **{**LOW, "current": "2 A ± 4 %"})()
    assert RadiatedRequest(power="50 W", gain="-8 dBi")().u_base == 0.0  # no current, no base
    assert with_line.u_base**2 - answer.u_base**2 == pytest.approx((0.5 / 4.3429) ** 2 / 3.0, rel=1e-3)


def test_what_the_line_takes_is_not_at_the_base():
    answer = RadiatedRequest(power="50 W", line_loss="3.0103 dB", **LOW)()

    assert answer.base_ohm == pytest.approx(6.25)


# notes


@pytest.mark.parametrize(
    ("limit", "severity"), [("1 W", "doubt"), ("4 W", "watch"), ("2 W", "watch"), ("5 W", None), ("4 W ERP", None)]
)
def test_a_limit_is_passed_surely_perhaps_or_not(limit, severity):
    """2.66 W, between 1.7 and 4.2."""
    answer = RadiatedRequest(**LOW, limit=limit)()
    found = [item.severity for item in answer.notes if item.code == "radiated.limit"]

    assert found == ([severity] if severity else [])


@pytest.mark.parametrize(("limit", "eirp"), [("5 W", 5.0), ("5 W EIRP", 5.0), ("1 W ERP", 1.641), ("1 W EMRP", 3.0),
                                             ("1 W e.m.r.p.", 3.0), ("0.5 kW erp", 820.5)])  # fmt: skip
def test_a_limit_is_of_what_the_licence_says(limit, eirp):
    assert RadiatedRequest(**LOW, limit=limit)().limit_w == pytest.approx(eirp)


@pytest.mark.parametrize(
    ("texts", "code"),
    [
        ({"field": "1 mV/m", "distance": "600 m", "frequency": "474 kHz"}, "radiated.near"),
        ({"field": "1 mV/m", "distance": "640 m", "frequency": "474 kHz"}, ""),
        ({"field": "1 mV/m", "distance": "600 m"}, ""),
        ({"current": "1 A", "height": "15 m", "frequency": "5 MHz", "top_loading": "0"}, "radiated.not_short"),
        ({"current": "10 mA", "height": "15 m", "frequency": "3.9 MHz", "top_loading": "0"}, ""),
        ({"power": "1 W", **LOW, "top_loading": "1"}, "radiated.more_than_all"),
        ({"power": "4 W", **LOW, "top_loading": "1"}, ""),
        ({"power": "50 W", "gain": "10 dBi ± 1 dB", **LOW, "top_loading": "1"}, "radiated.apart"),
        ({"power": "50 W", "gain": "-6.6 dBi ± 1 dB", **LOW, "top_loading": "1"}, ""),
        ({"power": "50 W"}, "radiated.no_gain"),
        (LOW, "radiated.volts"),
        ({**LOW, "current": "10 mA"}, ""),
    ],
)
def test_what_doesnt_fit_is_noted(texts, code):
    answer = RadiatedRequest(**texts)()

    assert codes(answer) - {"radiated.volts"} == ({code} if code not in ("", "radiated.volts") else set())
    if code in ("", "radiated.volts"):
        assert ("radiated.volts" in codes(answer)) == (code == "radiated.volts")


def test_notes_say_the_numbers():
    near = note(RadiatedRequest(field="1 mV/m", distance="300 m", frequency="474 kHz")(), "radiated.near")
    volts = note(RadiatedRequest(**LOW)(), "radiated.volts")
    apart = note(RadiatedRequest(power="50 W", gain="10 dBi ± 1 dB", **LOW)(), "radiated.apart")
    limit = note(RadiatedRequest(**LOW, limit="1 W")(), "radiated.limit")

    assert near.what == "300\u202fm is 0.47 of a wavelength: that isn't far enough."
    assert volts.what == "About 7000\u202fV stand at the base of that wire."  # 2 A through 3.7 kΩ
    assert apart.what == "From the current follow 2.7\u202fW, from the power 500\u202fW: they don't agree."
    assert "They differ by 22.7\u202fdB" in apart.why
    assert limit.what == "2.7\u202fW EIRP is above 1\u202fW by more than can be mistaken."
    assert limit.why == "It lies between 1.7\u202fW and 4.3\u202fW."
    assert note(RadiatedRequest(**LOW)(), "radiated.law").what == "Fenmist calculates; the licence decides."


# nonsense


@pytest.mark.parametrize(
    ("texts", "says"),
    [
        ({}, "Nothing is known"),
        ({"current": "2 A"}, "height and frequency"),
        ({"current": "2 A", "height": "15 m"}, "height and frequency"),
        ({"field": "1 mV/m"}, "distance"),
        ({"field": "1 mV", "distance": "1 m"}, "no field strength"),
        ({"power": "0 W"}, "power of 0"),
        ({"power": "-3 W"}, "power of -3"),
        ({"power": "x"}, "x"),
        ({"power": "9 W", "gain": "99 dBi"}, "99"),
        ({"power": "9 W", "line_loss": "-1 dB"}, "-1"),
        ({"power": "9 W", "swr": "0.5"}, "0.5"),
        ({"power": "9 W ± 9 W"}, "itself"),
        ({"power": "9 W", "gain": "0 ± 50 dB"}, "no limit of a gain"),
        ({**LOW, "top_loading": "1.1"}, "top loading"),
        ({**LOW, "top_loading": "-0.1"}, "top loading"),
        ({"power": "9 W", "gain": "61 dBi"}, "61"),
        ({"power": "9 W", "gain": "0 ± 31 dB"}, "no limit of a gain"),
        ({**LOW, "frequency": "0 Hz"}, "frequency of 0"),
        ({**LOW, "limit": "0 W"}, "limit of 0"),
        ({**LOW, "limit": "W"}, "W"),
        ({"field": "0 mV/m", "distance": "1 m"}, "field of 0"),
        ({"field": "1 mV/m", "distance": "0 m"}, "distance of 0"),
        ({**LOW, "height": "0 m"}, "height of 0"),
    ],
)
def test_nonsense_is_said(texts, says):
    with pytest.raises((OutOfRangeError, UnreadableError)) as raised:
        RadiatedRequest(**texts)()
    assert says in str(raised.value)


# a loading coil


def test_a_coil_at_the_base_leaves_what_comes_out_of_it_to_radiate():
    with_coil, as_above = (RadiatedRequest(**LOW, above="1.6 A")(), RadiatedRequest(**{**LOW, "current": "1.6 A"})())

    assert with_coil.eirp_w == pytest.approx(as_above.eirp_w)
    assert with_coil.way.lines[-1].name == "current above the coil"
    assert [line.name for line in with_coil.way.lines] == ["effective height", "current above the coil"]
    assert "20\u202f% of the current doesn't come out" in note(with_coil, "radiated.coil_leaks").what


@pytest.mark.parametrize("top", ["0", "0.4"])
def test_a_coil_half_way_up_against_the_current_summed_along_the_wire(top):
    """Moment of the current, ∫ I dz, added up in a thousand pieces: 2 A to 6 m, then 1.8 A falling to its part."""
    request = RadiatedRequest(**LOW, above="1.8 A", coil_height="6 m", top_loading=top)
    z = (np.arange(3000) + 0.5) * 15.0 / 3000.0
    amperes = np.where(z < 6.0, 2.0, 1.8 * (1.0 - (1.0 - float(top)) * (z - 6.0) / 9.0))
    moment = float(np.sum(amperes) * 15.0 / 3000.0)

    answer = request()

    assert answer.eirp_w == pytest.approx(3.0 * short_monopole_resistance_ohm(moment, 474e3), rel=1e-4)
    shares = {line.name: line.u for line in answer.way.lines}
    assert shares["antenna's current"] / shares["current above the coil"] == pytest.approx(
        12.0 / (moment - 12.0), rel=1e-3
    )


def test_what_isn_t_radiated_is_heat_and_an_ammeter_that_is_off_is_told():
    answer = RadiatedRequest(power="50 W", **LOW, above="2.2 A")()

    assert answer.heat_w == pytest.approx(50.0 - answer.eirp_w / 3.0)
    assert "Exchange the two ammeters" in note(answer, "radiated.coil_above").remedy
    assert RadiatedRequest(**LOW)().heat_w is None
    assert not {"radiated.coil_above", "radiated.coil_leaks"} & codes(RadiatedRequest(**LOW, above="1.9 A")())


@pytest.mark.parametrize(
    ("texts", "said"),
    [({"above": "1.8 A"}, "without the one below"), ({"current": "2 A", "coil_height": "3 m"}, "What flows above"),
     ({"current": "2 A", "above": "1 A", "coil_height": "15 m"}, "isn't on that vertical"),
     ({"current": "2 A", "above": "0 A"}, "makes no sense")],
)  # fmt: skip
def test_half_of_what_belongs_to_a_coil_is_asked_for(texts, said):
    with pytest.raises((UnreadableError, OutOfRangeError), match=said):
        RadiatedRequest(height="15 m", frequency="474 kHz", power="50 W", **texts)()


# people near it


def test_what_people_are_exposed_to_is_the_field_that_the_eirp_makes_there():
    """1 kW of e.m.r.p. makes 300 mV/m at 1 km (ITU Radio Regulations 1.163, from memory): 3 V/m at 100 m."""
    answer = RadiatedRequest(power="3000 W ± 5 %", gain="0 dBi ± 1 dB", frequency="7 MHz", people="100 m")()
    field, most = answer.field_v_per_m

    assert field == pytest.approx(3.0)
    assert most == pytest.approx(2.0 * 3.0 * math.sqrt(answer.interval_w[1] / 3000.0))
    assert note(answer, "radiated.exposure").what.replace("\u202f", " ").startswith("About 3 V/m 100 m away, at most ")
    assert "local law" in note(answer, "radiated.exposure").remedy
    assert eirp_from_field_w(field, 100.0) == pytest.approx(3000.0)


@pytest.mark.parametrize(("metres", "code"), [("100.5 m", "radiated.exposure_near"), ("100.8 m", "radiated.exposure")])
def test_within_a_wavelength_over_two_pi_no_field_follows(metres, code):
    """474 kHz: λ/2π is 632.47/6.2832 = 100.66 m."""
    answer = RadiatedRequest(**LOW, people=metres)()

    assert {"radiated.exposure", "radiated.exposure_near"} & codes(answer) == {code}
    assert ("Field where people are" in dict(radiated_rows(answer))) is (code == "radiated.exposure")


def test_without_people_or_a_frequency_that_is_said():
    assert not {"radiated.exposure", "radiated.exposure_near"} & codes(RadiatedRequest(**LOW)())
    unknown = RadiatedRequest(power="10 W", gain="0 dBd", people="10 m")()
    assert "Without a frequency" in note(unknown, "radiated.exposure").why
    with pytest.raises(OutOfRangeError):
        RadiatedRequest(power="10 W", people="0 m")()
