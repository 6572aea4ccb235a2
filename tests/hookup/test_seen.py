"""What a plane sees: handbook's lossy lines, an RF library's cascades, open phases, ends nobody measured."""

import itertools
import math
from dataclasses import replace

import numpy as np
import pytest
import skrf

from fenmist.hookup.line import Element, HookUp, Joint
from fenmist.hookup.seen import seen_match
from fenmist.kit import generic, shelf
from fenmist.kit.characterisation import Characterisation
from fenmist.kit.impedance import IMPEDANCE
from fenmist.kit.part import Property
from fenmist.measurand import PlaneRef
from fenmist.units.impedance import Known
from studies.matches import end, swr_meter
from studies.references import pad, with_properties

F = np.array([146e6])


def line(*behind):
    """Transmitter, meter, and parts behind it, one after the other."""
    parts = (shelf.transmitter("tx", "tx", 100.0), swr_meter(), *behind)
    elements = tuple(Element(part.id, part.id) for part in parts)
    joints = tuple(Joint((a.id, a.ends[-1]), (b.id, b.ends[0])) for a, b in itertools.pairwise(parts))
    plane = PlaneRef("h", "meter", "out")
    return HookUp("h", "h", elements, joints, plane), {part.id: part for part in parts}, plane


def gamma(f, *behind):
    hookup, parts, plane = line(*behind)
    seen = seen_match(hookup, parts, f, plane)
    return np.broadcast_to(seen.gamma(seen.estimates), f.shape), seen


def u_of(seen, name):
    return next(item.standard_u for item in seen.influences if item.id == name)


@pytest.mark.parametrize(("ohm", "size"), [(100.0, 1 / 3), (25.0, -1 / 3), (50.0, 0.0), (150.0, 0.5)])
def test_an_end_at_the_plane(ohm, size):
    assert complex(gamma(F, end("e", ohm))[0][0]) == pytest.approx(size, abs=1e-12)


@pytest.mark.parametrize(("db", "swr", "seen"), [(1.0, 3.0, 2.32), (3.0, 3.0, 1.67), (3.0, 5.0, 2.00)])
def test_loss_hides_an_end(db, swr, seen):
    """Handbook 3, derived: SWR 3 behind 1 dB shows as 2.32, behind 3 dB as 1.67; SWR 5 behind 3 dB as 2.00."""
    quiet = with_properties(pad("p", db, 0.0), swr=Property(1.0, ""))
    size = abs(gamma(F, quiet, end("e", 50.0 * swr))[0][0])

    assert (1 + size) / (1 - size) == pytest.approx(seen, abs=5e-3)


def test_a_connector_that_is_not_fifty_ohms():
    """Handbook 15.10, derived: 25 mm of 35 Ω is SWR 1.06 to 1.10 at 144 MHz; and an RF library says the same."""
    made, _ = gamma(F, generic.adapter("a", "a", 0.025, 35.0), end("e", 50.0))
    known = generic.adapter("a", "a", 0.025, 35.0).properties
    speed = known["velocity_factor"].value if "velocity_factor" in known else 0.7
    media = skrf.media.DefinedGammaZ0(
        skrf.Frequency.from_f(F, unit="Hz"), z0=35.0, gamma=2j * np.pi * F / (speed * 299792458.0)
    )
    network = media.line(0.025, "m")
    network.renormalize(50.0)
    size = abs(made[0])

    assert 1.06 <= (1 + size) / (1 - size) <= 1.10
    assert complex(made[0]) == pytest.approx(complex(network.s[0, 0, 0]), abs=1e-9)


def test_a_tuner_network_from_its_measured_scattering():
    """A random passive two-port in front of a random end, against an RF library's cascade (1e-9)."""
    rng = np.random.default_rng(8)
    raw = rng.normal(size=(2, 2)) + 1j * rng.normal(size=(2, 2))
    s = 0.8 * raw / np.linalg.norm(raw, 2)
    s[0, 1] = s[1, 0]
    s = 0.8 * s / np.linalg.norm(s, 2)
    tables = tuple(
        Characterisation(f"s{i + 1}{j + 1}", f"s{i + 1}{j + 1}", (1e6, 500e6), (s[i, j].real,) * 2, (s[i, j].imag,) * 2)
        for i in (0, 1)
        for j in (0, 1)
    )
    tuner = replace(pad("t", 1.0), characterisations=tables)
    z = 30.0 + 40.0j
    both = (Known.COMPLEX,) * 2
    table = Characterisation("z", IMPEDANCE, (1e6, 500e6), (z.real,) * 2, (z.imag,) * 2, known=both)
    made, seen = gamma(F, tuner, replace(end("e", 50.0), characterisations=(table,)))
    frequency = skrf.Frequency.from_f(F, unit="Hz")
    two = skrf.Network(frequency=frequency, s=s[None], z0=50)
    one = skrf.Network(frequency=frequency, s=np.array([[[(z - 50) / (z + 50)]]]), z0=50)

    assert complex(made[0]) == pytest.approx(complex((two**one).s[0, 0, 0]), abs=1e-9)
    assert not seen.open_phase


@pytest.mark.parametrize("seed", range(4))
def test_a_coupler_from_its_measured_scattering(seed):
    """A random passive reciprocal four-port, its side ports open, in front of a random end, against an RF library's
    connections (1e-9).
    """
    rng = np.random.default_rng(seed)
    raw = rng.normal(size=(4, 4)) + 1j * rng.normal(size=(4, 4))
    raw = raw + raw.T
    s = 0.7 * raw / np.linalg.norm(raw, 2)
    tables = tuple(
        Characterisation(f"s{i + 1}{j + 1}", f"s{i + 1}{j + 1}", (1e6, 500e6), (s[i, j].real,) * 2, (s[i, j].imag,) * 2)
        for i in range(4)
        for j in range(4)
    )
    coupler = replace(generic.coupler("c", "c", 20.0, 25.0, 0.1, 200.0), characterisations=tables)
    z = complex(rng.uniform(10.0, 200.0), rng.uniform(-80.0, 80.0))
    both = (Known.COMPLEX,) * 2
    table = Characterisation("z", IMPEDANCE, (1e6, 500e6), (z.real,) * 2, (z.imag,) * 2, known=both)
    made, _ = gamma(F, coupler, replace(end("e", 50.0), characterisations=(table,)))
    frequency = skrf.Frequency.from_f(F, unit="Hz")

    def one_port(value):
        return skrf.Network(frequency=frequency, s=np.array([[[value]]]), z0=50)

    whole = skrf.Network(frequency=frequency, s=s[None], z0=50)
    for port, value in ((3, 1.0), (2, 1.0), (1, (z - 50) / (z + 50))):
        whole = skrf.network.connect(whole, port, one_port(value), 0)

    assert complex(made[0]) == pytest.approx(complex(whole.s[0, 0, 0]), abs=1e-9)


@pytest.mark.parametrize(("measured", "root"), [(True, math.sqrt(2.0)), (False, 2.0)])
def test_a_part_of_open_phase_adds_its_own_match(measured, root):
    """SWR 1.2 is ρ 0.0909 in any phase: each half of it has a standard deviation of ρ/√2; of a ceiling ρ/2."""
    part = with_properties(pad("p", 3.0, 0.0), swr=Property(1.2, "", measured=measured))
    _, seen = gamma(F, part, end("e", 100.0))
    rho = 0.2 / 2.2

    assert len(seen.open_phase) == 2
    for half in ("real", "imaginary"):
        assert u_of(seen, f"p.in.match.{half}") == pytest.approx(rho / root)
        # the far port: there and back through 3 dB, twice the 100 Ω's third
        assert u_of(seen, f"p.out.match.{half}") == pytest.approx(rho * 10**-0.3 / 9.0 / root, rel=1e-6)


def test_what_lies_in_front_of_the_meter_is_no_part_of_it():
    _, seen = gamma(F, end("e", 100.0))
    assert {item.id.split(".")[0] for item in seen.influences} == {"e"}


def test_a_reactance_that_nobody_measured_is_known_as_its_resistance_is():
    """±2 % of 100 Ω, rectangular: 2/√3 Ω of resistance, and as much of reactance."""
    _, seen = gamma(F, end("e", 100.0, 0.02))

    assert u_of(seen, "e.resistance") == pytest.approx(2.0 / math.sqrt(3.0))
    assert u_of(seen, "e.reactance") == pytest.approx(2.0 / math.sqrt(3.0))


def test_of_a_size_and_an_swr_the_reflection_is_known_without_its_sign():
    """|Z| and SWR noted: |Γ| = (S − 1)/(S + 1) whichever sign the reactance has."""
    r = 45.0
    x = math.sqrt(60.0**2 - r**2)
    size = abs((complex(r, x) - 50) / (complex(r, x) + 50))
    table = Characterisation("z", IMPEDANCE, (1e6, 500e6), (r, r), (x, x), known=(Known.MAGNITUDE_SWR,) * 2)
    made, seen = gamma(F, replace(end("e", 50.0), characterisations=(table,)))

    assert abs(made[0]) == pytest.approx(size, rel=1e-9)
    assert u_of(seen, "e.sign") == 0.0
