"""What is remarked of a design: each just inside, just outside, and where it stays silent."""

from dataclasses import replace

import pytest

from fenmist.design.design import Ask, Design
from fenmist.design.rules import judge
from fenmist.design.shapes import Shape
from fenmist.design.spread import spread
from fenmist.design.stack import one
from fenmist.design.stock import Piece
from fenmist.design.strays import NONE
from fenmist.design.stress import port_strains, strains
from fenmist.findings.note import Severity
from support.designs import TAP_2460, of_pieces, tap


def notes(design, code):
    return [item for item in judge(design, strains(design), port_strains(design), spread(design)) if item.code == code]


def _rated(power_w, volts=None, seconds=60.0, line_w=100.0):
    """R1 as one resistor, which takes 1.99 W of 100 W."""
    stacks = {"R1": one(Piece(2460.0, 0.01, power_w, volts)), "R2": one(Piece(50.0, 0.01, 5.0))}
    return replace(of_pieces(TAP_2460, keydown_s=seconds, power_w=line_w), stacks=stacks)


@pytest.mark.parametrize(
    ("power_w", "seconds", "severity"),
    [(4.1, 60.0, None), (3.9, 60.0, Severity.WATCH), (1.9, 600.0, Severity.STOP), (1.9, 5.0, Severity.DOUBT)],
    ids=["half used", "more than half", "over it", "over it, but cool in time"],
)  # fmt: skip
def test_heat_is_graded_by_rating_and_time(power_w, seconds, severity):
    """1.99 W; 1.9 W rated would be at 105 % for ever, at 23 % after 5 s."""
    found = notes(_rated(power_w, seconds=seconds), "design.heat")

    assert [item.severity for item in found] == ([severity] if severity else [])
    if severity:
        assert found[0].evidence["used"] == pytest.approx(1.99 / power_w, rel=0.01)


@pytest.mark.parametrize(("power_w", "count"), [(8.2, 0), (7.4, 1)])
def test_an_open_line_puts_four_times_the_power_into_r1(power_w, count):
    """7.8 W: volts nearly double."""
    assert len(notes(_rated(power_w), "design.fault")) == count


@pytest.mark.parametrize(("volts", "count"), [(72.0, 0), (69.0, 1)])
def test_volts_across_a_resistor(volts, count):
    """70.0 V of the line's 70.7 lie across R1."""
    found = notes(_rated(5.0, volts), "design.volts")

    assert len(found) == count
    assert all(item.severity is Severity.STOP for item in found)


def test_what_nobody_rated_is_said_with_what_it_needs():
    (note,) = notes(TAP_2460, "design.rating_unknown")

    assert "4\u202fW or more" in note.remedy
    assert notes(_rated(5.0), "design.rating_unknown") == []


def test_what_the_sensor_gets_and_what_a_scope_sees():
    """100 W less 39.95 dB: 10.1 mW, +10.1 dBm, 6 dB more at most; a scope sees 2·√2·70.7/50.2 V."""
    (note,), (scope,) = (notes(item, "design.sensor") for item in (TAP_2460, of_pieces(TAP_2460, sensor_ohm=1e6)))

    assert "+10.1\u202fdBm; +16.0\u202fdBm" in note.what
    assert "3.98\u202fVpp" in scope.what
    assert notes(Design(Shape.PI_PAD, Ask(10.0)), "design.sensor") == []


def test_where_a_band_is_wider_than_what_holds():
    short, long = tap(high_hz=280e6), tap(high_hz=290e6)
    winding = Design(Shape.TRANSFORMER_TAP, Ask(26.0, low_hz=190e3))
    wider = Design(Shape.TRANSFORMER_TAP, Ask(26.0, low_hz=200e3))

    assert notes(short, "design.high_end") == []
    (note,) = notes(long, "design.high_end")
    assert "283\u202fMHz" in note.what
    (note,) = notes(winding, "design.low_end")
    assert "66.3\u202fkHz" in note.why and "third" in note.why
    assert notes(wider, "design.low_end") == []
    assert [len(notes(of_pieces(TAP_2460, target=target), "design.misses")) for target in (40.4, 40.5)] == [0, 1]
    assert notes(Design(Shape.GAP_TAP), "design.high_end") == []


@pytest.mark.parametrize(("coupling", "count"), [(26.5, 0), (25.5, 1)])
def test_a_tap_that_couples_much_disturbs_the_line(coupling, count):
    """Shunt of R1 + Rp: SWR 1.1 from 525 Ω down, 26.4 dB."""
    assert len(notes(Design(Shape.RESISTIVE_TAP, Ask(coupling), strays=NONE), "design.disturbs")) == count


def test_how_many_of_those_built_hold():
    (note,) = notes(of_pieces(tap(), within_db=0.2), "design.tolerance")

    assert note.evidence["share"] == pytest.approx(spread(of_pieces(tap(), within_db=0.2)).share)
    assert notes(tap(), "design.tolerance") == []


def test_what_belongs_to_one_shape():
    of_tap = [len(notes(TAP_2460, f"design.{name}")) for name in ("shortcut", "rf_burn", "turned", "exchange")]
    assert of_tap == [1, 1, 0, 0]
    (gap,) = notes(Design(Shape.GAP_TAP, Ask(60.0), strays=NONE), "design.harmonics")
    assert "second by 6.0\u202fdB, the third by 9.5\u202fdB" in gap.what
    assert len(notes(Design(Shape.PI_PAD, Ask(10.0)), "design.turned")) == 1
    assert len(notes(Design(Shape.PAIR), "design.exchange")) == 1
    assert len(notes(of_pieces(TAP_2460, block_f=1e-7), "design.capacitor")) == 1
    assert notes(of_pieces(TAP_2460, power_w=17.0), "design.rf_burn") == []  # 29 V
    assert len(notes(of_pieces(TAP_2460, power_w=19.0), "design.rf_burn")) == 1  # 31 V


def test_the_most_severe_comes_first():
    found = judge(_rated(1.0), strains(_rated(1.0)), port_strains(_rated(1.0)), spread(_rated(1.0)))

    assert [item.severity.rank for item in found] == sorted(item.severity.rank for item in found)
    assert found[0].code == "design.heat"
