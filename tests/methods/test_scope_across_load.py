"""Power from volts: the trade's check values, limits, and the simulated bench as the truth."""

import math

import numpy as np
import pytest

from fenmist.calibration.reduction import reduce
from fenmist.kit.impedance import load_state_from_text, resolved
from fenmist.measurand import Kind, PlaneRef
from fenmist.methods.scope_across_load import ScopeReadings, estimate_power
from fenmist.methods.scope_chain import Lead, Scope
from fenmist.simulation.bench import TrueBench, TrueLine, observe
from fenmist.units.impedance import impedance_from_text
from fenmist.waveform.response import BandwidthModel
from support.builders import job

VRMS = 102 / (2 * math.sqrt(2))
METER, LOAD = PlaneRef("line", "meter", "out"), PlaneRef("line", "load", "in")


def _readings(load="57.7", f=7.125e6, vrms=VRMS, **fields):
    scope = fields.pop("scope", Scope(0.03, math.inf, BandwidthModel.ONE_POLE))
    one = np.array([1.0])
    return ScopeReadings(f * one, vrms * one, 0.1 * one, load_state_from_text(load, 0.01), scope, **fields)


def test_102_volts_across_57_7_ohms_are_22_54_watts_net_and_22_65_incident():
    """Common practice, no source, for the parts; derived for the digits."""
    power = estimate_power(_readings(), METER, LOAD)

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
    full = estimate_power(_readings("52 @ -30"), METER, LOAD).net_at_load.value[0]
    naive = VRMS**2 / 52
    swr = "|52| swr 1.7327"

    assert naive / full == pytest.approx(1 / math.cos(math.radians(30)), rel=1e-6)
    assert estimate_power(_readings(swr), METER, LOAD).net_at_load.value[0] == pytest.approx(full, rel=1e-3)


def test_magnitude_alone_costs_what_the_phase_may_hide():
    known = estimate_power(_readings("52+j0"), METER, LOAD).net_at_load
    bare = estimate_power(_readings("|52|"), METER, LOAD).net_at_load

    assert bare.u[0] / bare.value[0] > 1.15 * known.u[0] / known.value[0]
    assert bare.value[0] / known.value[0] == pytest.approx(0.933, abs=0.001)
    assert "load.cos_phi" in [row.influence.id for row in bare.budget()[:2]]


def test_with_the_sign_unknown_both_signs_lie_inside():
    lead = Lead(0.5, 0.0, 0.66, 0.0, 50.0, 0.0, 16e-12, 0.0)
    made = estimate_power(_readings("|57.7| swr 1.4", f=14e6, feed=lead), METER, LOAD).incident_at_meter
    z = resolved(impedance_from_text("|57.7| swr 1.4"))
    signed = [
        estimate_power(_readings(f"{z.real}{sign}j{z.imag}", f=14e6, feed=lead), METER, LOAD).incident_at_meter.value[0]
        for sign in "+-"
    ]
    row = next(row for row in made.budget() if row.influence.id == "load.sign")

    assert min(signed) < made.value[0] < max(signed)
    assert row.contribution == pytest.approx((max(signed) - min(signed)) / 2, rel=0.1)


def test_the_bandwidth_correction_carries_itself_as_a_limit():
    scope = Scope(0.0, 30e6, BandwidthModel.ONE_POLE)
    made = estimate_power(_readings(f=6e6, scope=scope), METER, LOAD)
    row = next(row for row in made.net_at_load.budget() if row.influence.id == "scope.response")

    assert made.corrections["bandwidth"][0] == pytest.approx(1.04)
    assert row.contribution / made.net_at_load.value[0] == pytest.approx(math.log(1.04) / math.sqrt(3), rel=1e-4)


def test_losses_of_a_jumper_raise_what_is_incident_before_it():
    made = estimate_power(_readings("50+j0", jumper_loss_db=0.2, u_jumper_loss_db=0.01), METER, LOAD)

    ratio = made.incident_at_meter.value[0] / made.incident_at_load.value[0]
    assert 10 * math.log10(ratio) == pytest.approx(0.2)


@pytest.mark.parametrize("mhz", [1.8, 7.0, 14.0, 28.0])
@pytest.mark.parametrize("load", [50 + 0j, 57.7 + 0j, 45 + 12j, 61 - 17j])
def test_the_simulated_bench_gives_back_its_truth(mhz, load):
    """The bench solves the circuit by nodes and shares no formula with the method."""
    f = mhz * 1e6
    bench = TrueBench(
        lambda _: load, lambda _: 0.0, TrueLine(50, 0.3, 0.66), 16e-12, 1.0, 100e6, TrueLine(50, 0.4, 0.66, 0.15)
    )
    shown = observe(bench, f, 25.0)
    text = f"{load.real}{'+' if load.imag >= 0 else '-'}j{abs(load.imag)}"
    made = estimate_power(
        _readings(
            text, f=f, vrms=shown.volts_peak_to_peak / (2 * math.sqrt(2)),
            scope=Scope(0.0, 100e6, BandwidthModel.ONE_POLE),
            feed=Lead(0.3, 0.0, 0.66, 0.0, 50.0, 0.0, 16e-12, 0.0), jumper_loss_db=0.15,
        ), METER, LOAD,
    )  # fmt: skip

    assert made.net_at_load.value[0] == pytest.approx(shown.true_net_w, rel=1e-9)
    # a line's loss seen with reflection differs from matched loss by second-order terms of the loss
    assert made.incident_at_meter.value[0] == pytest.approx(25.0, rel=2e-4)
