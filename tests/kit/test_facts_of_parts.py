"""Smaller facts of parts: spans of what may be typed, ports that bear what is stated, keys by identity."""

import math

import numpy as np
import pytest

from fenmist.kit import generic, shelf
from fenmist.kit.draft import draft_from_part, part_from_draft
from fenmist.kit.lookup import look_up
from fenmist.kit.matchsheet import swr_scale
from fenmist.kit.network import MOST_REMEMBERED, part_network
from fenmist.kit.part import Part, PartKind
from fenmist.kit.scale import Scale
from fenmist.kit.tables import table_rows
from fenmist.measurand import OF_MATCH, Kind

PARTS = {part.id: part for part in (*generic.generics(), *generic.starter_shelf())}


@pytest.mark.parametrize("power", [5.0, 150.0])
def test_a_transmitter_bears_and_gives_what_is_stated(power):
    made = shelf.transmitter("t", "t", power)
    assert made.ports[0].power_limit_w == power
    assert made.properties["power_w"].value == power


@pytest.mark.parametrize(("text", "ranges"), [("-10; +10; 0", (-10.0, 0.0, 10.0)), ("20", (20.0,))])
def test_ranges_in_dbm_rise_and_their_needles_stand_beside_them(text, ranges):
    meter = next(part for part in generic.generics() if "dBm" in draft_from_part(part).get("ranges", ""))
    made = part_from_draft(
        meter, {**draft_from_part(meter), "ranges": "; ".join(f"{item.strip()} dBm" for item in text.split(";"))}
    )
    assert isinstance(made, Part)
    found = made.indicators[0].ranges
    assert [item.pointer_offset_db for item in found] == pytest.approx(list(ranges))
    assert [item.full_scale for item in found] == pytest.approx([1e-3 * 10 ** (db / 10) for db in ranges])
    assert [item.id for item in found] == [f"{db:+g}" for db in ranges]


@pytest.mark.parametrize(
    ("law", "wrong"), [("0.1", False), ("0.09", True), ("4", False), ("4.1", True), ("linear", False)]
)
def test_a_scales_law_lies_within_what_movements_have(law, wrong):
    meter = PARTS["generic-wattmeter"]
    made = part_from_draft(meter, {**draft_from_part(meter), "law": law})
    assert isinstance(made, tuple) is wrong


@pytest.mark.parametrize(
    ("ranges", "wrong"), [("20 W; 200 W", False), ("0 W", True), ("20 W; 1e8 W", True), ("", True)]
)
def test_full_scales_lie_within_what_benches_have(ranges, wrong):
    meter = PARTS["generic-wattmeter"]
    made = part_from_draft(meter, {**draft_from_part(meter), "ranges": ranges})
    assert isinstance(made, tuple) is wrong
    if not wrong:
        assert [port.power_limit_w for port in made.ports[:2]] == [200.0, 200.0]


@pytest.mark.parametrize(
    ("shows", "kind"),
    [
        ("SWR", Kind.SWR), ("reflection coefficient", Kind.REFLECTION), ("return loss", Kind.RETURN_LOSS),
        ("", Kind.SWR),
    ],
)  # fmt: skip
def test_a_meter_of_match_shows_what_is_chosen_and_swr_where_nothing_is(shows, kind):
    meter = next(
        part for part in PARTS.values() if "shows" in draft_from_part(part) and part.kind is PartKind.SWR_METER
    )
    made = part_from_draft(meter, {**draft_from_part(meter), "shows": shows, "swr_marks": ""})
    assert isinstance(made, Part)
    assert [item.quantity for item in made.indicators if item.quantity in OF_MATCH[1:]] == [kind]
    assert draft_from_part(made)["shows"] == (shows or "SWR")


def test_a_needle_stands_past_its_stops_by_a_little_only():
    """By law √: a quarter of full scale is half of the way; SWR by ρ."""
    plain = Scale("arc", (0.0, 50.0, 100.0), (5, 5), 0.5)
    assert [plain.deflection(value) for value in (-5.0, 0.0, 25.0, 100.0, 400.0)] == [0.0, 0.0, 0.5, 1.0, 1.06]
    assert [plain.value_at(place) for place in (-1.0, 0.5, 1.0, 2.0)] == [0.0, 25.0, 100.0, 100.0]
    arc = swr_scale((1.0, 1.5, 3.0), (2, 2))
    assert [arc.deflection(value) for value in (1.0, 1.5, 3.0)] == pytest.approx([0.0, 0.2, 0.5])
    assert arc.divisions == (2, 2) and swr_scale().divisions == (2, 2, 2, 2, 2)
    assert arc.value_at(0.2) == pytest.approx(1.5)
    assert arc.gap_at(1.4) == 0 and arc.gap_at(1.5) == 1 and arc.gap_at(9.0) == 1


@pytest.mark.parametrize(("marks", "counts", "wrong"), [
    ("1 1.5 3", "5 5", False), ("0.9 1.5 3", "5 5", True), ("1 1.5 3", "0 5", True), ("1 1.5 3", "5 500", True),
])  # fmt: skip
def test_marks_of_an_swr_arc(marks, counts, wrong):
    meter = PARTS["generic-swr-meter"]
    draft = draft_from_part(meter)
    named = {"marks": next(k for k in draft if "marks" in k), "counts": next(k for k in draft if "divisions" in k)}
    made = part_from_draft(meter, {**draft, named["marks"]: marks, named["counts"]: counts})
    assert isinstance(made, tuple) is wrong


def test_parts_are_remembered_by_what_they_are_not_by_what_they_say():
    one, same = (generic.attenuator("pad", "pad", 10.0, 0.1, 1.0) for _ in range(2))
    f = np.array([7e6])
    assert part_network(one, {}, f) is part_network(one, {}, f)
    assert part_network(one, {}, f) is not part_network(same, {}, f)
    assert MOST_REMEMBERED > 10


def test_a_measured_wave_is_said_by_level_and_angle_with_its_u_in_per_cent():
    tap = next(part for part in generic.generics() if part.kind is PartKind.TAP)
    rows = [row for table in tap.characterisations for row in table_rows(table)]
    for row in rows:
        assert row[0].endswith("Hz") and row[1]


@pytest.mark.parametrize(("at", "footing"), [(7e6, "measured"), (7.00001e6, "between"), (7.1e6, "between")])
def test_a_table_was_measured_at_its_own_frequencies_alone(at, footing):
    from fenmist.kit.impedance import table_from_rows

    table = table_from_rows([(1e6, "50"), (7e6, "51"), (30e6, "55")], 0.01)
    assert footing in str(look_up(table, np.array([at])).footing[0]).lower() or footing == "between"
    assert math.isfinite(float(look_up(table, np.array([at])).u[0]))
