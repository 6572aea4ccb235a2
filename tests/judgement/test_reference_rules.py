"""What an ammeter's heater will do at the planned points, before anything is read."""

from dataclasses import replace

import pytest

from fenmist.findings.note import Severity
from fenmist.judgement.reference_rules import reference_notes
from fenmist.kit.part import Part, Property
from fenmist.simulation.heater import TrueHeater
from studies.references import BENCHES


def told(hertz: float, wire_m: float | None = None, span: bool = False):
    made = BENCHES["ammeter in the line"]()
    made = replace(made, plan=tuple(replace(point, frequency_hz=hertz) for point in made.plan))
    part: Part = made.part("a")
    if wire_m is not None:
        part = replace(part, properties={**part.properties, "wire_m": Property(wire_m, "m")})
    if span:
        ports = (replace(port, frequency_min_hz=1e5, frequency_max_hz=50e6) for port in part.ports)
        part = replace(part, ports=tuple(ports))
    return {note.code: note for note in reference_notes(made.with_part(part)) if note.code.startswith("ammeter")}


@pytest.mark.parametrize(
    ("hertz", "wire", "severity"),
    # by shells 0.3 mm rises by 0.9 % at 3.5 MHz, 1.2 % at 4 MHz, 5.3 % at 9 MHz
    [(3.5e6, 3e-4, None), (4.2e6, 3e-4, Severity.WATCH), (9.5e6, 3e-4, Severity.DOUBT), (4.7e5, 3e-4, None)],
)
def test_skin_effect_that_counts_is_told_with_how_much(hertz, wire, severity):
    found = told(hertz, wire)
    rise = TrueHeater(wire).rise(hertz) - 1.0

    assert [note.severity for note in found.values()] == ([severity] if severity else [])
    for note in found.values():
        assert note.evidence["share"] == pytest.approx(rise, rel=0.05)
        assert "MHz" in note.what


@pytest.mark.parametrize(("hertz", "wire", "span", "says"), [
    (9.9e6, None, False, False), (10.1e6, None, False, True), (10.1e6, 5e-5, False, False), (10.1e6, None, True, False),
])  # fmt: skip
def test_an_ammeter_of_which_nobody_says_how_high_it_goes_is_watched(hertz, wire, span, says):
    assert ("ammeter.frequency" in told(hertz, wire, span)) is says
