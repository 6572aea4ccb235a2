"""Small facts of what stands on a bench: what an open reflection meets, what every influence says of itself."""

import cmath
import math

import numpy as np
import pytest

from fenmist.calibration.references import references_planned
from fenmist.hookup.waves import _solved
from studies.references import BENCHES, three_at_once

C_M_S = 299_792_458.0


def planned(made, *frequencies_hz):
    point = made.plan[0]
    return references_planned(made, point.hookup, np.array(frequencies_hz), made.references_of(point))


@pytest.mark.parametrize("name", list(BENCHES))
def test_every_influence_says_where_it_comes_from(name):
    made = BENCHES[name]()
    for item in planned(made, 7e6).influences:
        assert item.label and item.basis, item.id
        assert not item.source_id or item.source_id in made.parts, item.id
        assert item.kind == "B"


@pytest.mark.parametrize("f", [7.1e6, 21e6, 50e6])
def test_an_open_reflection_meets_what_hangs_on_a_tee_as_it_is(f):
    """|Γ| behind the tee's far port: a lead's end as a shunt, −y/(2 + y), with a pad's |Γ| that is at most so large.

    As a limit 2·|Γ|·|Γ| of any phase: over √2, and once more over √2 for a ceiling.
    """
    made = three_at_once()
    parts = {part.id: part for part in made.kit}
    lead, scope = (parts[name].properties for name in ("wire", "o"))
    farads = scope["capacitance_f"].value
    end = 1.0 / (1j * 2 * math.pi * f * farads + 1e-6)
    at = 2 * math.pi * f * lead["length_m"].value / (lead["velocity_factor"].value * C_M_S)
    line = lead["line_ohm"].value if "line_ohm" in lead else 50.0
    seen = line * (end + 1j * line * cmath.tan(at)) / (line + 1j * end * cmath.tan(at))
    y = 50.0 / seen + 50.0 * 2j * math.pi * f * parts["t"].properties["capacitance_f"].value
    tee = abs(y / (2 + y))
    found = {item.id: item.standard_u for item in planned(made, f).influences}
    swr = parts["shared"].properties["swr"].value
    pad = (swr - 1) / (swr + 1)
    assert float(found["tee.b~attenuator.in.mismatch"][0]) == pytest.approx(2 * tee * pad / 2, rel=0.01)


def test_every_pair_of_open_reflections_stands_once_and_each_standing_wave_behind_a_tee():
    """Each port that faces the other way meets each behind it; volts on the line stand as all behind them reflects."""
    found = {item.id: float(item.standard_u[0]) for item in planned(three_at_once(), 50e6).influences}
    behind = ("attenuator", "coupler", "attenuator 2", "meter")
    wanted = {f"tee.b~{name}.in" for name in behind} | {f"attenuator.out~{name}.in" for name in behind[1:]}
    wanted |= {f"coupler.out~{name}.in" for name in behind[2:]} | {"attenuator 2.out~meter.in"}
    wanted |= {"tee.b~meter 2.in", "coupler.forward~meter 2.in"}
    assert {name.removesuffix(".mismatch") for name in found if "~" in name} == wanted
    standing = {name.split(".")[0]: u for name, u in found.items() if name.endswith(".standing")}
    assert set(standing) == set(behind)
    rho = {"attenuator": 0.2 / 2.2, "coupler": 0.15 / 2.15, "attenuator 2": 0.2 / 2.2, "meter": 0.2 / 2.2}
    loss = {
        "attenuator": 0.0,
        "coupler": 1.0,
        "attenuator 2": 1.1,
        "meter": 21.1,
    }  # dB in front of each, there and back
    for name, u in standing.items():  # 2ρ of any phase, at most so large: over 2
        assert u == pytest.approx(rho[name] * 10.0 ** (-2.0 * loss[name] / 20.0), rel=0.01), name


@pytest.mark.parametrize("ports", [1, 2, 3, 4, 5])
def test_waves_out_of_all_ports_but_one_are_those_of_the_whole_equations(ports):
    """b = S·a, where a = Γ·b at every port but the entry, into which 1 goes; all of it solved at once."""
    random = np.random.default_rng(ports)
    s = (random.normal(size=(7, 6, ports, ports)) + 1j * random.normal(size=(7, 6, ports, ports))) * 0.4 / ports
    entry, others = ports // 2, [number for number in range(ports) if number != ports // 2]
    gammas = [random.uniform(-0.9, 0.9, 6) * np.exp(1j * random.uniform(0, 6, 6)) for _ in others]
    gamma = np.zeros((6, ports), complex)
    gamma[:, others] = np.array(gammas).reshape(len(others), 6).T
    whole = np.linalg.solve(np.eye(ports) - s * gamma[:, None, :], s[..., entry, None])[..., 0]

    found = _solved(s, entry, others, gammas)
    assert len(found) == len(others)
    assert all(np.allclose(one, whole[..., port], rtol=1e-12) for one, port in zip(found, others, strict=True))
