"""Facts of the job's core at the value where each changes."""

import cmath
import math
from dataclasses import fields, replace
from types import SimpleNamespace

import numpy as np
import pytest

from fenmist.calibration.decision import Verdict, decide
from fenmist.calibration.expected import expected_si, power_of
from fenmist.calibration.job import Leg, Rule
from fenmist.calibration.prediction import predicted
from fenmist.calibration.references import references_at, references_planned
from fenmist.calibration.rounds import _read_on, _within_bound, readings_by_point, scatter, u_once
from fenmist.calibration.sent import part_shown, share_at, waveform_typed
from fenmist.kit.part import Range
from fenmist.kit.scale import Scale
from fenmist.measurand import Kind, PlaneRef
from fenmist.methods.modulated import Share, Shares
from fenmist.reading.dial import reading_u
from fenmist.reading.event import Entry, Reading, Slot
from fenmist.units.typed import Censoring
from studies.builders import enter, job, read
from studies.matches import ENDS, match_job, watt_meter
from studies.references import behind_a_pad, three_at_once

TWO_TONE = (2 / math.pi) ** 2


def sending(made, waveform):
    return replace(made, plan=tuple(replace(point, waveform=waveform) for point in made.plan))


# what is sent


def test_what_each_channel_should_show_of_a_waveform_is_its_part():
    plain, sent = job(level_w=100.0), sending(job(level_w=100.0), "two-tone")

    assert expected_si(sent, sent.plan[0], "meter") == pytest.approx(100.0 * TWO_TONE)
    assert expected_si(sent, sent.plan[0], "scope") == pytest.approx(expected_si(plain, plain.plan[0], "scope"))
    assert power_of(sent, sent.plan[0], "meter", Reading(40.0, "W", 0.1)) == pytest.approx(40.0 / TWO_TONE)
    rms = Reading(10.0, "V", 0.1, form="Vrms")
    assert power_of(sent, sent.plan[0], "scope", rms) == pytest.approx(2 * power_of(plain, plain.plan[0], "scope", rms))
    assert part_shown(sent, sent.plan[0], "scope", rms) == pytest.approx(0.5)
    assert (part_shown(plain, plain.plan[0], "scope", rms), share_at(plain, plain.plan[0], "scope").value) == (1.0, 1.0)


def test_reflected_watts_of_a_waveform_are_expected_as_their_part():
    made = match_job(watt_meter(), ENDS[1:2])
    channel = next(item.id for item in made.channels if item.measurand.kind is Kind.REFLECTED)
    point = next(item for item in made.plan if channel in item.sequence)
    sent = sending(made, "two-tone")
    (same,) = (item for item in sent.plan if item.id == point.id)
    assert expected_si(sent, same, channel) == pytest.approx(TWO_TONE * expected_si(made, point, channel))


def test_prediction_takes_a_sensors_part_for_what_it_will_show():
    """A sensor of one range: a tenth of the power on its thermal detector, or ten times as much, off its scale."""
    sent = sending(behind_a_pad(), "dots 20 Hz 10 %")
    found = readings_by_point(_read(sent))
    indication = references_at(sent, found, scatter(sent, found)).indications[0]
    assert indication.read.shares.of({}, "")[0] == pytest.approx(0.1)
    ten = tuple(replace(point, target_w=10.0 * point.target_w) for point in sent.plan)
    assert predicted(replace(sent, plan=ten))[0].expanded_u == pytest.approx(predicted(sent)[0].expanded_u, rel=0.3)


def test_a_needle_is_read_where_it_stands_of_a_waveform():
    """A quarter of a 10 W division, rectangular; of two tones a mean meter shows 0.405 of PEP, each watt worth more."""
    dial = Range("200", 200.0, "W", Scale("s", (0.0, 100.0, 200.0), (10, 10)))
    made = job(level_w=100.0)
    shows = tuple(replace(item, ranges=(dial,)) for item in made.dut_part.indicators)
    made = made.with_part(replace(made.dut_part, indicators=shows))
    plain, sent = predicted(made)[0].expanded_u, predicted(sending(made, "two-tone"))[0].expanded_u

    read = (0.25 * 10.0 / math.sqrt(3.0)) / 100.0
    assert sent**2 - plain**2 == pytest.approx(4.0 * read**2 * (1.0 / TWO_TONE**2 - 1.0), rel=0.05)


def _read(made):
    for position, channel in enumerate(made.plan[0].sequence):
        made = enter(made, Slot("p1", 1, position), "1" if made.is_device(channel) else "10 mW")
    return made


@pytest.mark.parametrize(("text", "kept"), [
    ("carrier", ""), ("Steady carrier", ""), ("", ""), ("unknown", "unknown"), ("Unknown modulation", "unknown"),
    (" two-tone  ±  5 % ", "two-tone ± 5 %"), ("FM", "FM"),
])  # fmt: skip
def test_a_waveform_is_kept_as_it_is_typed(text, kept):
    assert waveform_typed(text) == kept


# rounds


def test_forms_of_volts_are_kept_and_what_is_read_once_is_known_to_its_dial_its_digit_or_as_said():
    rms = read(job([]), ("36.1 Vrms", "25.6"))
    assert scatter(rms, readings_by_point(rms)).references[0].forms == ("Vrms",)
    peak = read(job([]), ("102", "25.6"))
    assert scatter(peak, readings_by_point(peak)).references[0].forms == ("Vpp",)
    dial = Range("200", 200.0, "W", Scale("s", (0.0, 100.0, 200.0), (4, 4)))
    assert u_once(Reading(100.0, "W", 1.0), dial, 0.25) == pytest.approx(
        reading_u(Reading(100.0, "W", 1.0), dial, 0.25)
    )
    assert u_once(Reading(100.0, "W", 1.0), Range("200", 200.0, "W"), 0.25) == pytest.approx(1 / math.sqrt(12))
    assert u_once(Reading(100.0, "W", 1.0), None, 0.25) == pytest.approx(1 / math.sqrt(12))
    assert u_once(Reading(100.0, "Vpp", 1.0, u=0.3), dial, 0.25) == pytest.approx(0.3 / math.sqrt(8))


def test_half_a_watt_is_not_near_nothing():
    made = read(behind_a_pad(), ("0.5 mW", "0.5"), ("-0.5 mW", "0.5"), ("9 mW", "0.5"))
    (found,) = readings_by_point(made)
    assert not any(one.at_floor for one in found.rounds)
    assert all(one.references[0].about > 0.0 for one in found.rounds)
    plain = read(behind_a_pad(), ("0.5 mW", "0.5"), ("0.6 mW", "0.5"))
    assert all(one.references[0].about == 0.0 for one in readings_by_point(plain)[0].rounds)
    device = behind_a_pad().dut_part
    below = replace(device, indicators=tuple(replace(item, can_be_negative=True) for item in device.indicators))
    floor = read(behind_a_pad().with_part(below), ("5 mW", "0.5"), ("5 mW", "-0.1"))
    assert all(one.at_floor for one in readings_by_point(floor)[0].rounds)


def test_a_bound_on_a_match_is_anything_between_it_and_the_end():
    """Rectangular: SWR below 1.5 is 1.25 ± 0.25/√3; ρ above 0.8 is 0.9 ± 0.1/√3; above 9 halves 1 − ρ = 0.2."""
    made = match_job(watt_meter(with_swr=True), ENDS[1:2])
    swr = next(item for item in made.channels if item.measurand.kind is Kind.SWR)
    point = next(item for item in made.plan if swr.id in item.sequence)
    held = enter(made, Slot(point.id, 1, point.sequence.index(swr.id)), "<1.5")
    entry = held.events[-1].entry
    below = _within_bound(held, entry, Reading(1.5, "", 0.1, censoring=Censoring.BELOW))
    assert (below.value, below.u, below.censoring) == (
        pytest.approx(1.25), pytest.approx(0.25 / math.sqrt(3)), Censoring.NONE,
    )  # fmt: skip
    above = _within_bound(held, entry, Reading(9.0, "", 0.1, censoring=Censoring.ABOVE))
    assert above.value == pytest.approx(1.9 / 0.1)
    assert _within_bound(held, entry, Reading(1.0, "", 0.1, censoring=Censoring.BELOW)) is None


@pytest.mark.parametrize(("censoring", "value"), [(Censoring.ABOVE, 0.9), (Censoring.BELOW, 0.4)])
def test_a_bound_on_a_reflection_is_anything_between_it_and_all_or_nothing(censoring, value):
    """Rectangular: above 0.8 is 0.9 ± 0.1/√3, below it 0.4 ± 0.4/√3; of all of it nothing lies above."""
    rho = SimpleNamespace(channel=lambda _: SimpleNamespace(measurand=SimpleNamespace(kind=Kind.REFLECTION)))
    entry, shown = Entry(Slot("p1", 1, 0), "rho", "e", "i", "", "", None), Reading(0.8, "", 0.1, censoring=censoring)
    found = _within_bound(rho, entry, shown)

    assert (found.value, found.u) == (pytest.approx(value), pytest.approx(abs(value - 0.8) / math.sqrt(3)))
    assert found.censoring is Censoring.NONE
    assert _within_bound(rho, entry, Reading(1.0, "", 0.1, censoring=Censoring.ABOVE)) is None
    forward = SimpleNamespace(channel=lambda _: SimpleNamespace(measurand=SimpleNamespace(kind=Kind.REFLECTED)))
    assert _within_bound(forward, entry, Reading(0.8, "W", 0.1, censoring=Censoring.ABOVE)) is None


def test_of_several_ranges_the_highest_counts_and_every_number_makes_another_key():
    """What is remembered by it holds for that alone: whatever differs, nothing is taken over."""
    made = read(job([]), ("102", "25.6"), ("103", "25.8"))
    whole = scatter(made, readings_by_point(made))
    low, high = (Range(name, full, "V") for name, full in (("low", 50.0), ("high", 500.0)))
    indicator = replace(made.indicator("scope"), ranges=(low, high))
    entries = [
        replace(item.entry, range_id=name)
        for name, one in zip(("high", "low"), readings_by_point(made)[0].rounds, strict=True)
        for item in one.references
    ]
    taken = tuple(
        replace(one, references=(replace(one.references[0], entry=entry),))
        for one, entry in zip(readings_by_point(made)[0].rounds, entries, strict=True)
    )
    assert _read_on(indicator, replace(readings_by_point(made)[0], rounds=taken), "scope") is high

    def others(item):
        for field in fields(item):
            known = getattr(item, field.name)
            if isinstance(known, np.ndarray):
                yield replace(
                    item, **{field.name: ~known if known.dtype == bool else np.where(np.isfinite(known), known, 0) + 1}
                )
            elif field.name == "channel":
                yield replace(item, channel="other")
            elif field.name in ("forms", "ranges"):
                yield replace(item, **{field.name: ("other",)})
            elif field.name == "shares":
                yield replace(item, shares=Shares(("two-tone",), known.each))
                yield replace(item, shares=Shares(known.waveforms, (Share(0.5),)))

    different = [*others(whole)]
    for name in ("references", "device"):
        different += [replace(whole, **{name: (one,)}) for one in others(getattr(whole, name)[0])]
    keys = {item.key for item in (whole, *different)}
    assert len(keys) == 1 + len(different) > 20


# references


@pytest.mark.parametrize("f", [7e6, 30e6])
def test_harmonics_arrive_over_a_lead_as_an_open_line_lifts_them(f):
    """Volts at the end of 0.3 m over those in front of it, at 2f and 3f against f: 1/|cos θ + j·Z₀·Y·sin θ|."""
    made = three_at_once()
    point = made.plan[0]
    found = references_planned(made, point.hookup, np.array([f]), made.references_of(point))
    lead, scope = (next(p for p in made.kit if p.id == name).properties for name in ("wire", "o"))

    def lift(at):
        y = 2j * math.pi * at * scope["capacitance_f"].value + 1e-6
        theta = 2 * math.pi * at * lead["length_m"].value / (lead["velocity_factor"].value * 299_792_458.0)
        return 1.0 / abs(cmath.cos(theta) + 50j * y * cmath.sin(theta))

    (own,) = (item for item in found.indications if item.read.part.id == "o")
    for order in (2, 3):
        assert float(own.source.gains[order][0]) == pytest.approx(lift(order * f) / lift(f), rel=2e-3)


def test_one_bench_is_remembered_for_its_frequencies_and_its_planes_by_themselves():
    made = three_at_once()
    point, channels = made.plan[0], made.references_of(made.plan[0])
    one, two = (references_planned(made, point.hookup, np.array([f]), channels) for f in (7e6, 21e6))
    assert (one.bench.frequency_hz[0], two.bench.frequency_hz[0]) == (7e6, 21e6)
    again = references_planned(made, point.hookup, np.array([7e6]), channels)
    assert again.bench is one.bench
    for position, channel in enumerate(point.sequence):
        text = "1" if made.is_device(channel) else "10 mW" if channel in ("e", "s") else "100 Vpp"
        made = enter(made, Slot("p1", 1, position), text)
    found = readings_by_point(made)
    plain = references_at(made, found, scatter(made, found))
    more = references_at(made, found, scatter(made, found), ((Kind.INCIDENT, PlaneRef(point.hookup, "load", "in")),))
    assert more.bench is not plain.bench


# answers


def test_groups_hold_all_of_their_points_and_answers_are_counted_by_them():
    made = job(frequencies_hz=(7e6, 14e6))
    alike = replace(made, plan=tuple(replace(point, group="g") for point in made.plan))
    assert [point.id for point in alike.group_of("p1")] == ["p1", "p2"]
    assert (made.answers_wanted, alike.answers_wanted) == (2, 1)
    legs = (Leg("a", "line", by_itself=True), Leg("b", "line"))
    mixed = replace(
        made, legs=legs, plan=(replace(made.plan[0], leg="a", group="g"), replace(made.plan[1], leg="b", group="g"))
    )
    assert mixed.answers_wanted == 1


def test_a_decision_says_how_often_u_fits_into_the_tolerance():
    made = decide(1.0, 0.5, 1.0, 4.0, Rule.SIMPLE, True)
    assert (made.verdict, made.tur) == (Verdict.ACCEPT, 4.0)
