"""Power from volts: the trade's check values, limits, and the simulated bench as the truth."""

import math
from dataclasses import replace

import numpy as np
import pytest

from fenmist.kit.impedance import load_state_from_text, resolved
from fenmist.kit.part import SpecKind, SpecTerm
from fenmist.measurand import Kind, PlaneRef
from fenmist.methods.scope_across_load import PartLoss, ScopeReadings, estimate_power, power_influences
from fenmist.methods.scope_chain import Lead, Probe, Scope, Tee
from fenmist.procedures.comparison.reduction import reduce
from fenmist.rf.cable import Cable
from fenmist.simulation.bench import TrueBench, TrueHarmonic, TrueLine, TrueProbe, observe
from fenmist.uncertainty.influence import Inputs
from fenmist.units.impedance import impedance_from_text
from fenmist.waveform.response import BandwidthModel
from studies.builders import job

VRMS = 102 / (2 * math.sqrt(2))
METER, LOAD = PlaneRef("line", "meter", "out"), PlaneRef("line", "load", "in")


def accuracy(share: float) -> tuple[SpecTerm, ...]:
    return (SpecTerm(SpecKind.OF_READING, share),)


def _readings(load="57.7", f=7.125e6, vrms=VRMS, **fields):
    scope = fields.pop("scope", Scope(accuracy(0.03), math.inf, BandwidthModel.ONE_POLE))
    one = np.array([1.0])
    return ScopeReadings(f * one, vrms * one, 0.1 * one, load_state_from_text(load, 0.01), scope, **fields)


def _losses(*losses_db):
    """Parts that take so much, each known to a tenth of it."""
    return tuple(
        PartLoss(f"part-{n}", f"Part {n}", np.array([db]), np.array([db / 10])) for n, db in enumerate(losses_db, 1)
    )


def _power(readings):
    return estimate_power(readings, Inputs(power_influences(readings)), METER, LOAD)


def test_102_volts_across_57_7_ohms_are_22_54_watts_net_and_22_65_incident():
    """Common practice, no source, for the parts; derived for the digits."""
    power = _power(_readings())

    assert power.net_at_load.value[0] == pytest.approx(22.54, abs=0.005)
    assert power.incident_at_load.value[0] == pytest.approx(22.65, abs=0.005)
    assert power.incident_at_meter.value[0] == pytest.approx(22.65, abs=0.005)
    assert power.net_at_load.measurand.kind is Kind.NET
    assert power.incident_at_meter.measurand.plane == METER


def test_a_meter_at_25_6_watts_is_0_531_db_high_against_incident():
    result = reduce(job([[("102 Vpp", "25.6")]])).points[0]

    assert result.error_db == pytest.approx(0.531, abs=0.001)
    assert 10 * math.log10(25.6 / result.net_w) == pytest.approx(0.553, abs=0.001)


def test_magnitude_alone_is_too_high_by_one_over_cosine():
    """52 Ω at −30°: V²/|Z| is 1/cos 30° too high; |Z| with SWR gives the resistance back."""
    full = _power(_readings("52 @ -30")).net_at_load.value[0]
    naive = VRMS**2 / 52
    swr = "|52| swr 1.7327"

    assert naive / full == pytest.approx(1 / math.cos(math.radians(30)), rel=1e-6)
    assert _power(_readings(swr)).net_at_load.value[0] == pytest.approx(full, rel=1e-3)


def test_magnitude_alone_costs_what_the_phase_may_hide():
    known = _power(_readings("52+j0")).net_at_load
    bare = _power(_readings("|52|")).net_at_load

    assert bare.u[0] / bare.value[0] > 1.15 * known.u[0] / known.value[0]
    assert bare.value[0] / known.value[0] == pytest.approx(0.933, abs=0.001)
    assert "load.cos_phi" in [row.influence.id for row in bare.budget()[:2]]


def test_with_the_sign_unknown_both_signs_lie_inside():
    lead = Lead(0.5, 0.0, 0.66, 0.0, 50.0, 0.0, 16e-12, 0.0)
    made = _power(_readings("|57.7| swr 1.4", f=14e6, feed=lead)).incident_at_meter
    z = resolved(impedance_from_text("|57.7| swr 1.4"))
    signed = [
        _power(_readings(f"{z.real}{sign}j{z.imag}", f=14e6, feed=lead)).incident_at_meter.value[0] for sign in "+-"
    ]
    row = next(row for row in made.budget() if row.influence.id == "load.sign")

    assert min(signed) < made.value[0] < max(signed)
    assert row.contribution == pytest.approx((max(signed) - min(signed)) / 2, rel=0.1)


def test_the_bandwidth_correction_carries_itself_as_a_limit():
    scope = Scope((), 30e6, BandwidthModel.ONE_POLE)
    made = _power(_readings(f=6e6, scope=scope))
    row = next(row for row in made.net_at_load.budget() if row.influence.id == "scope.response")

    assert made.corrections["bandwidth"][0] == pytest.approx(1.04)
    assert row.contribution / made.net_at_load.value[0] == pytest.approx(math.log(1.04) / math.sqrt(3), rel=1e-4)


def test_every_part_between_raises_what_is_incident_before_it_under_its_own_name():
    """Two jumpers and an adapter: 0.35 dB together, and each one's share is that of its own u."""
    made = _power(_readings("50+j0", losses=_losses(0.2, 0.1, 0.05)))
    rows = {row.influence.id: row for row in made.incident_at_meter.budget()}

    ratio = made.incident_at_meter.value[0] / made.incident_at_load.value[0]
    assert 10 * math.log10(ratio) == pytest.approx(0.35)
    for number, u in enumerate((0.02, 0.01, 0.005), 1):
        row = rows[f"part-{number}.loss"]
        assert row.influence.label == f"Part {number}, loss"
        assert row.contribution == pytest.approx(made.incident_at_meter.value[0] * u * math.log(10) / 10, rel=1e-4)


def test_power_that_comes_back_is_what_left_less_the_loss_both_ways():
    """Behind 3.0103 dB, 2:1 (ρ² = 1/9) is seen as ρ² = 1/36: 35/36 of the incident power stay."""
    made = _power(_readings("100+j0", losses=_losses(10 * math.log10(2))))

    assert made.net_at_meter.value[0] / made.incident_at_meter.value[0] == pytest.approx(35 / 36)


def _truth(feed, made_of, f, load, harmonics=(), form="Vpp"):
    """What the method makes of a bench whose every part is known exactly, and the truth."""
    bench = TrueBench(
        lambda _: load, lambda _: 0.0, made_of, 16e-12, 10.0 if isinstance(feed, Probe) else 1.0, 150e6,
        TrueLine(50, 0.4, 0.66, 0.0), arm=TrueLine(50, 0.03, 0.7), tee_capacitance_f=1.5e-12, harmonics=harmonics,
    )  # fmt: skip
    shown = observe(bench, f, 25.0)
    vrms = shown.volts_rms if form == "Vrms" else shown.volts_peak_to_peak / (2 * math.sqrt(2))
    text = f"{load.real}{'+' if load.imag >= 0 else '-'}j{abs(load.imag)}"
    scope = Scope((), 150e6, BandwidthModel.ONE_POLE)
    readings = _readings(text, f=f, vrms=vrms, scope=scope, feed=feed, tee=Tee(0.03, 0.0, 1.5e-12, 0.0), forms=(form,))
    return _power(readings), shown


CABLE = Cable("exact", 50.0, 0.66, 2e-5)
LOSSY = Lead(0.8, 0.0, 0.66, 0.0, 50.0, 0.0, 16e-12, 0.0, CABLE)
PROBE = Probe(10.0, 0.0, 12e-12, 0.0, 0.1, 0.0, math.inf, 10.0)


@pytest.mark.parametrize("mhz", [1.8, 7.0, 14.0, 28.0])
@pytest.mark.parametrize("load", [50 + 0j, 61 - 17j, 45 + 12j])
@pytest.mark.parametrize("kind", ["lossy lead", "probe"])
def test_the_truth_comes_back_through_tee_and_lossy_lead_or_probe(kind, mhz, load):
    f = mhz * 1e6
    lead = TrueLine(50, 0.8, 0.66, 0.8 * float(CABLE.loss_db_per_m(f)))
    feed, made_of = (LOSSY, lead) if kind == "lossy lead" else (PROBE, TrueProbe(10.0, 12e-12, 100e-9))
    made, shown = _truth(feed, made_of, f, load)

    assert made.net_at_load.value[0] == pytest.approx(shown.true_net_w, rel=2e-5)  # the 1 MΩ is not in the bench
    assert made.incident_at_meter.value[0] == pytest.approx(25.0, rel=2e-4)


@pytest.mark.parametrize("phase", [0.0, 1.5, 3.1])
def test_harmonics_move_peaks_by_no_more_than_is_stated_and_rms_hardly(phase):
    """−40 dBc of third harmonic: up to 2 % of power by Vpp, 0.01 % by rms; scope and lead change its size."""
    third = (TrueHarmonic(3, 0.01, phase),)
    made_of = TrueLine(50, 0.1, 0.66)
    lead = Lead(0.1, 0.0, 0.66, 0.0, 50.0, 0.0, 16e-12, 0.0)
    by_peaks, shown = _truth(lead, made_of, 7e6, 50 + 0j, third)
    by_rms, _ = _truth(lead, made_of, 7e6, 50 + 0j, third, "Vrms")

    assert abs(by_peaks.net_at_load.value[0] / shown.true_net_w - 1) <= 0.0205
    assert by_rms.net_at_load.value[0] == pytest.approx(shown.true_net_w, rel=2e-4)


def test_a_probe_set_wrong_is_a_factor_of_a_hundred_and_is_undone():
    set_to_one = replace(PROBE, setting=1.0)
    ratio = _power(_readings(feed=set_to_one)).net_at_load.value[0] / _power(_readings(feed=PROBE)).net_at_load.value[0]

    assert ratio == pytest.approx(100.0)
