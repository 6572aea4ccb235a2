"""Every influence of the method moves the power as a circuit written out in complex numbers says.

The circuit is solved here by chain matrices, term by term, without a function of the product; what an input is known to
then gives its line of the budget by a difference of two such solutions. Two benches hold every influence there is.
"""

import cmath
import math
from dataclasses import replace

import numpy as np
import pytest

from fenmist.kit.impedance import load_state_from_text
from fenmist.kit.loadmodel import Admittance
from fenmist.kit.part import SpecKind, SpecTerm
from fenmist.measurand import PlaneRef
from fenmist.methods.match import match_at_tee
from fenmist.methods.scope_across_load import (
    PartLoss,
    ScopeReadings,
    estimate_power,
    feed_phase_rad,
    power_influences,
    power_model,
)
from fenmist.methods.scope_chain import Lead, Probe, Scope, Tee
from fenmist.rf.cable import Cable
from fenmist.uncertainty.influence import Inputs
from fenmist.waveform.harmonics import harmonics_from_dbc
from fenmist.waveform.response import BandwidthModel

F, LIGHT = 14e6, 299_792_458.0
W = 2 * math.pi * F
R, X, VOLTS = 48.0, 9.0, 36.0


def line(length_m, velocity, z0, f, loss_db=0.0):
    """Chain matrix of a piece of line."""
    gamma = loss_db / (20 * math.log10(math.e)) + 1j * 2 * math.pi * f * length_m / (velocity * LIGHT)
    return np.array(
        [[cmath.cosh(gamma), z0 * cmath.sinh(gamma)], [cmath.sinh(gamma) / z0, cmath.cosh(gamma)]]
    )  # fmt: skip


def lead_db(f=F):
    """2.0 dB per 100 m at 10 MHz, as the square root."""
    return 0.6 * 0.02 * math.sqrt(f / 10e6)


def powers(hanging, x) -> tuple[float, float]:
    """Net power at the load and incident power before 0.3 dB, in W, from the volts on the screen."""
    end = 1j * W * x["tee.capacitance"]
    arm = line(x["tee.arm"], 0.7, 50.0, F)
    z = complex(x["load.resistance"], x["load.reactance"])
    at_tee = (arm[1, 0] * z + arm[1, 1]) / (arm[0, 0] * z + arm[0, 1])  # admittance into the arm
    at_tee += end
    if hanging == "lead":
        cable = line(x["lead.length"], x["lead.velocity_factor"], x["lead.line"], F, lead_db() * x["lead.loss"])
        into = 1j * W * x["scope.capacitance"] + 1e-6
        fall = 1 / (cable[0, 0] + cable[0, 1] * into)  # volts at the scope over volts at the tee
        own = (cable[1, 0] + cable[1, 1] * into) / (cable[0, 0] + cable[0, 1] * into)
        volts = x["scope.reading"] / abs(fall)
    else:
        ground = 1j * W * x["probe.ground"] * 1e-6  # common practice: 1 µH a metre
        tip = 1 / (1j * W * x["probe.capacitance"])
        own = 1 / (ground + tip)
        volts = x["scope.reading"] / abs(tip / (ground + tip)) * x["probe.ratio"] / 10.0
    volts /= x["scope.gain"] * x["scope.gain.2"]
    net = volts**2 * at_tee.real
    whole = at_tee + own
    rho = abs((0.02 - whole) / (0.02 + whole)) ** 2
    return net, volts**2 * whole.real / (1 - rho) * 10 ** ((x["pad.loss"] + x["jumper.loss"]) / 10)


def bench(hanging, form, columns=(0,)):
    one, forms = np.ones(len(columns)), tuple(form.split("/") * len(columns))[: len(columns)]
    cable = Cable("cable", 52.0, 0.66, 0.02 / math.sqrt(10e6)) if hanging == "lead" else None
    feeds = {
        "lead": Lead(0.6, 0.01, 0.66, 0.01, 52.0, 1.0, 16e-12, 2e-12, cable),
        "probe": Probe(10.1, 0.05, 12e-12, 1e-12, 0.09, 0.01, math.inf, 10.0),
    }
    terms = (SpecTerm(SpecKind.OF_READING, 0.03), SpecTerm(SpecKind.ABSOLUTE, 0.36))
    scope = Scope(terms, math.inf, BandwidthModel.ONE_POLE, noise_ratio=0.004 if "Vpp" in form else 0.0)
    state = load_state_from_text(f"{R}+j{X}", 0.01).take(np.array(columns))
    made = ScopeReadings(
        F * one, VOLTS * one, 0.1 * one, state, scope, feeds[hanging], Tee(0.02, 0.004, 1.5e-12, 0.3e-12),
        (PartLoss("pad", "Pad", 0.2 * one, 0.02 * one), PartLoss("jumper", "Jumper", 0.1 * one, 0.03 * one)),
        forms=forms, harmonics=harmonics_from_dbc({2: -40.0, 3: -46.0}, False), u_mismatch=0.004,
    )  # fmt: skip
    plane = PlaneRef("line", "meter", "out")
    return estimate_power(made, Inputs(power_influences(made)), plane, plane), made


def expected_u(name, hanging, made):
    """Standard uncertainty of ln P, net and incident, from one influence."""
    influences = {item.id: item for item in power_influences(made)}
    values = {key: float(item.estimate[0]) for key, item in influences.items()}
    u = float(influences[name].standard_u[0])
    up, down = ({**values, name: values[name] + sign * u / 2} for sign in (1, -1))
    return [abs(math.log(a / b)) for a, b in zip(powers(hanging, up), powers(hanging, down), strict=True)]


def lead_gain(f):
    """Volts at the scope over volts at the tee."""
    cable = line(0.6, 0.66, 52.0, f, lead_db(f))
    return abs(1 / (cable[0, 0] + cable[0, 1] * (2j * math.pi * f * 16e-12 + 1e-6)))


def noise_excess():
    """What 0.4 % of noise adds to the highest of a thousand samples of a sine, by drawing it."""
    draws = np.random.default_rng(2).normal(0.0, 0.004, (4000, 1000))
    phases = np.cos(2 * math.pi * np.arange(1000) / 1000)
    return float((phases + draws).max(axis=1).mean()) - 1.0


BY_CIRCUIT = (
    "scope.reading", "scope.gain", "scope.gain.2", "tee.arm", "tee.capacitance", "load.resistance", "load.reactance",
    "pad.loss", "jumper.loss",
)  # fmt: skip
OF = {
    "lead": ("lead.length", "lead.velocity_factor", "lead.line", "lead.loss", "scope.capacitance"),
    "probe": ("probe.ratio", "probe.capacitance", "probe.ground"),
}
SECOND, THIRD = 10 ** (-40 / 20), 10 ** (-46 / 20)
RMS = (SECOND**2 + THIRD**2) / 2
"""Harmonics lift rms by half the sum of their squares: by half of that on average, ±half of it."""


@pytest.mark.parametrize(("hanging", "form"), [("lead", "Vpp"), ("probe", "Vrms")])
def test_every_line_of_the_budget_is_what_the_circuit_says(hanging, form):
    power, made = bench(hanging, form)
    incident, net = power.incident_at_meter, power.net_at_load
    shown = {row.influence.id: row.contribution / incident.value[0] for row in incident.budget()}
    of_net = {row.influence.id: row.contribution / net.value[0] for row in net.budget()}
    expected = {name: expected_u(name, hanging, made) for name in (*BY_CIRCUIT, *OF[hanging])}

    for name, (net_u, incident_u) in expected.items():
        assert shown.pop(name) == pytest.approx(incident_u, rel=3e-4, abs=1e-9), name
        assert of_net[name] == pytest.approx(net_u, rel=3e-4, abs=1e-9), name
    excess = noise_excess() if form == "Vpp" else 0.0
    lifted = 1 + excess if form == "Vpp" else 1 + RMS / 2
    at_nominal = powers(hanging, {item.id: float(item.estimate[0]) for item in power_influences(made)})
    assert net.value[0] == pytest.approx(at_nominal[0] / lifted**2, rel=1e-4)
    assert incident.value[0] == pytest.approx(at_nominal[1] / lifted**2, rel=1e-4)

    assert shown.pop("line.mismatch") == pytest.approx(0.004, rel=1e-6)  # as stated, of power
    assert shown.pop("source.harmonic_2") == 0.0  # both crests move alike, and rms doesn't see the phase
    assert shown.pop("scope.response") == 0.0  # no bandwidth is stated
    if form == "Vpp":
        # peak to peak takes the third whole, cos φ of open phase and size is 1/2 (a disc)
        gain = lead_gain(3 * F) / lead_gain(F)
        assert shown.pop("source.harmonic_3") == pytest.approx(2 * THIRD * gain / 2 / lifted, rel=1e-3)
        assert shown.pop("scope.noise") == pytest.approx(2 * excess * 0.5 / math.sqrt(3) / lifted, rel=0.02)
    else:
        assert shown.pop("source.harmonic_3") == 0.0
        assert shown.pop("source.harmonics_rms") == pytest.approx(2 * RMS / 2 / math.sqrt(3), rel=1e-3)
    assert not any(shown.values()), shown  # phase and sign of the load are known


AS_STATED = ("rectangular", "shared", "as stated")
WHAT_IS_KNOWN = {
    "scope.reading": ("oscilloscope, reading the screen", "V", "rectangular", "own", "half the last digit"),
    "scope.gain": ("oscilloscope, vertical gain", "", "rectangular", "shared", "±3 % of reading, rectangular"),
    "scope.gain.2": ("oscilloscope, vertical gain, term 2", "", "rectangular", "shared", "±0.36, rectangular"),
    "scope.response": ("oscilloscope, response near its bandwidth", "", "rectangular", "shared", "from flat to twice"),
    "scope.noise": ("oscilloscope, noise on peak to peak", "", "rectangular", "own", "half of its correction"),
    "scope.capacitance": ("oscilloscope, input capacitance", "F", *AS_STATED),
    "source.harmonic_2": ("source, harmonic 2", "", "disc", "own", "at most −40 dBc, phase unknown"),
    "source.harmonic_3": ("source, harmonic 3", "", "disc", "own", "at most −46 dBc, phase unknown"),
    "source.harmonics_rms": ("source, harmonics in rms", "", "rectangular", "shared", "half the sum of their squares"),
    "lead.length": ("lead, length", "m", *AS_STATED),
    "lead.velocity_factor": ("lead, velocity factor", "", *AS_STATED),
    "lead.line": ("lead, line impedance", "Ω", *AS_STATED),
    "lead.loss": ("lead, loss", "", *AS_STATED),
    "probe.ratio": ("probe, ratio", "", *AS_STATED),
    "probe.capacitance": ("probe, tip capacitance", "F", *AS_STATED),
    "probe.ground": ("probe, ground lead", "m", *AS_STATED),
    "tee.arm": ("tee, from its middle to the load", "m", *AS_STATED),
    "tee.capacitance": ("tee, capacitance of its body", "F", *AS_STATED),
    "load.resistance": ("load, resistance", "Ω", "normal", "shared", "measured"),
    "load.reactance": ("load, reactance", "Ω", "normal", "shared", "measured"),
    "load.cos_phi": ("load, phase angle", "", "rectangular", "shared", "phase within ±30°"),
    "load.sign": ("load, sign of the reactance", "", "two-point", "shared", "not measured"),
    "pad.loss": ("Pad, loss", "dB", *AS_STATED),
    "jumper.loss": ("Jumper, loss", "dB", *AS_STATED),
    "line.mismatch": ("mismatch between meter and tee", "", "u-shaped", "shared", "phases not known"),
}
"""Label, unit, distribution, whether two points have one error in common, and how the basis begins or what it holds."""


@pytest.mark.parametrize(("hanging", "form"), [("lead", "Vpp"), ("probe", "Vrms")])
def test_what_is_said_of_every_influence(hanging, form):
    _, made = bench(hanging, form, (0, 0))
    found = {item.id: item for item in power_influences(made)}

    absent = {"probe.", "source.harmonics_rms"} if hanging == "lead" else {"lead.", "scope.noise", "scope.capacitance"}
    assert set(found) == {name for name in WHAT_IS_KNOWN if not any(name.startswith(out) for out in absent)}
    for name, item in found.items():
        label, unit, shape, sharing, basis = WHAT_IS_KNOWN[name]
        assert (item.label, item.unit, item.distribution.name.lower().replace("_", "-")) == (label, unit, shape), name
        assert len(set(item.sharing)) == (1 if sharing == "shared" else 2), name
        assert basis in item.basis.replace("\u202f", " ").replace("\u2009", " "), name
        assert item.source_id == (name if name == "line.mismatch" else name.partition(".")[0]), name
        assert np.all(np.isinf(item.dof)), name


def test_each_point_is_corrected_for_the_form_in_which_its_volts_were_taken():
    """Peak to peak for its noise, rms for its harmonics; one after the other in one run."""
    power, made = bench("lead", "Vpp/Vrms", (0, 0))
    names = {item.id for item in power_influences(made)}
    noise, own = power.corrections["noise"], power.net_at_load.value

    assert {"scope.noise", "source.harmonics_rms"} <= names
    assert noise[0] == pytest.approx((1 + noise_excess()) ** -2, rel=1e-4) and noise[1] == 1.0
    assert own[0] / own[1] == pytest.approx(noise[0] * (1 + RMS / 2) ** 2, rel=1e-6)


@pytest.mark.parametrize("theta", [0.1, 0.7, -0.4])
@pytest.mark.parametrize("sign", [1.0, -1.0])
def test_a_load_seen_through_a_line_by_its_chain_matrix(theta, sign):
    """Y = (Y_L + jY0·t)/(1 + jY_L·t/Y0), a line of Y0 = 1/75 S."""
    load = Admittance(np.array([0.017]), np.array([-0.006]), np.array([0.0]), np.array([sign]))
    seen = load.behind_line(np.array([theta]), 75.0)
    y, t = 0.017 - sign * 0.006j, math.tan(theta)

    assert seen.conductance_s + 1j * (sign * seen.turning_s + seen.fixed_s) == pytest.approx(
        [(y + 1j * t / 75) / (1 + 75j * y * t)]
    )
    assert seen.sign == sign


def test_losses_at_some_of_the_points_go_with_what_they_are_known_to():
    loss = PartLoss("pad", "Pad", np.array([0.1, 0.2, 0.3]), np.array([0.01, 0.02, 0.03]))
    some = loss.take(np.array([2, 0]))

    assert (some.loss_db.tolist(), some.u_db.tolist()) == ([0.3, 0.1], [0.03, 0.01])


@pytest.mark.parametrize(("hanging", "form"), [("lead", "Vpp"), ("probe", "Vrms")])
def test_the_power_moves_the_way_the_circuit_says(hanging, form):
    """Each input up by its u alone, with its sign; noise and harmonics lift what is read, so that less is meant."""
    _, made = bench(hanging, form)
    model, influences = power_model(made), {item.id: item for item in power_influences(made)}
    nominal = {name: item.estimate for name, item in influences.items()}

    def moved(name):
        up = model({**nominal, name: nominal[name] + influences[name].standard_u})
        return [math.log(float(up[key][0] / model(nominal)[key][0])) for key in ("net_at_load", "incident_at_meter")]

    plain = {name: float(value[0]) for name, value in nominal.items()}
    for name in (*BY_CIRCUIT, *OF[hanging]):
        up = powers(hanging, {**plain, name: plain[name] + float(influences[name].standard_u[0])})
        wanted = [math.log(a / b) for a, b in zip(up, powers(hanging, plain), strict=True)]
        assert moved(name) == pytest.approx(wanted, rel=0.02, abs=1e-9), name
    lifting = ("scope.noise", "source.harmonic_3") if form == "Vpp" else ("source.harmonics_rms",)
    assert all(value < 0 for name in lifting for value in moved(name))


def test_corrections_are_what_the_circuit_says():
    """Of the lead, the ground lead and the probe; the bandwidth's is 1 where none is stated."""
    lead, probe = (power.corrections for power, _ in (bench("lead", "Vrms"), bench("probe", "Vrms")))

    assert list(lead) == ["bandwidth", "lead"] and list(probe) == ["bandwidth", "probe", "ground lead"]
    assert lead["bandwidth"][0] == probe["bandwidth"][0] == 1.0
    assert lead["lead"][0] == pytest.approx(lead_gain(F) ** -2)
    assert probe["probe"][0] == pytest.approx(1.01**2)
    assert probe["ground lead"][0] == pytest.approx((1 - W**2 * 0.09e-6 * 12e-12) ** 2)


def test_how_near_what_hangs_on_the_tee_is_to_resonance():
    """A lead by its length and end, θ + atan(ωCZ); a tip by f over 1/(2π√(LC)); π/2 is resonance."""
    _, lead = bench("lead", "Vrms")
    _, probe = bench("probe", "Vrms")
    resonance = 1 / (2 * math.pi * math.sqrt(0.09e-6 * 12e-12))

    theta = W * 0.6 / (0.66 * LIGHT)
    assert feed_phase_rad(lead)[0] == pytest.approx(theta + math.atan(W * 16e-12 * 52.0))
    assert feed_phase_rad(probe)[0] == pytest.approx(math.pi / 2 * F / resonance)
    assert feed_phase_rad(replace(probe, feed=None))[0] == 0.0


def test_some_of_the_points_are_those_points():
    _, made = bench("lead", "Vpp/Vrms", (0, 0, 0))
    made = replace(made, frequency_hz=np.array([7e6, 14e6, 21e6]), volts_rms=np.array([30.0, 36.0, 40.0]),
                   digit_rms=np.array([0.1, 0.2, 0.3]), u_mismatch=np.array([0.1, 0.2, 0.3]))  # fmt: skip
    some = made.take(np.array([2, 0]))

    assert (some.frequency_hz.tolist(), some.volts_rms.tolist()) == ([21e6, 7e6], [40.0, 30.0])
    assert (some.digit_rms.tolist(), list(some.u_mismatch), some.forms) == ([0.3, 0.1], [0.3, 0.1], ("Vpp", "Vpp"))
    chain = made.chain.take(np.array([1]))
    assert (chain.forms, chain.volts_rms.tolist(), chain.digit_rms.tolist()) == (("Vrms",), [36.0], [0.2])


def test_the_match_at_the_tee_is_that_of_the_circuit():
    """SWR of 120 + j30 Ω with all that hangs on it from the admittance written out; its window is even."""
    _, made = bench("lead", "Vrms")
    found = match_at_tee(replace(made, load=load_state_from_text("120+j30", 0.01)))
    z, into = 120 + 30j, 1j * W * 16e-12 + 1e-6
    arm, cable = line(0.02, 0.7, 50.0, F), line(0.6, 0.66, 52.0, F, lead_db())
    y = (arm[1, 0] * z + arm[1, 1]) / (arm[0, 0] * z + arm[0, 1]) + 1j * W * 1.5e-12
    y += (cable[1, 0] + cable[1, 1] * into) / (cable[0, 0] + cable[0, 1] * into)
    rho = abs((0.02 - y) / (0.02 + y))
    low, high = found.swr_interval

    assert found.swr == pytest.approx((1 + rho) / (1 - rho), rel=1e-6)
    assert found.engine == "linear" and 1.0 < low == found.linear_low
    assert high - found.swr == pytest.approx(found.swr - low)


def test_a_match_near_one_is_drawn_and_never_below_it():
    _, made = bench("lead", "Vrms")
    found = match_at_tee(replace(made, load=load_state_from_text("50.2+j0", 0.01), feed=None, tee=None))

    assert found.engine == "Monte Carlo"
    assert found.linear_low < 1.0 <= found.swr_interval[0] < found.swr_interval[1] < 1.05
    assert found.swr == pytest.approx(1.004)
