"""Tables typed, pasted and from files; what holds between their points; the generic network of parts with tables."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenmist.errors import FileFormatError, OutOfRangeError, UnreadableError
from fenmist.kit import generic, shelf
from fenmist.kit.characterisation import Characterisation, Footing
from fenmist.kit.draft import blank_part, draft_from_part, part_from_draft
from fenmist.kit.lookup import look_up
from fenmist.kit.network import computed_coupling_db, level_of, measured_coupling_db, part_network
from fenmist.kit.part import PartKind
from fenmist.kit.tables import (
    QUANTITIES,
    TableFacts,
    quantities_for,
    table_from_texts,
    table_rows,
    tables_from_file,
    with_table,
)

LOSS = QUANTITIES["loss_db"]
PAD = generic.attenuator("pad", "pad", 30.0, 0.5, 100.0)


def test_a_typed_table_is_put_in_order_and_comes_back():
    table = table_from_texts(
        LOSS, [["30 MHz", "30.2 dB", "0.1"], ["2", "30.02", "0.08 dB"], ["", "", ""]], TableFacts()
    )

    assert table.frequency_hz == (2e6, 30e6)
    assert table.u == (0.04, 0.05)
    again = table_from_texts(
        LOSS, [[cell.replace("\u202f", " ") for cell in row] for row in table_rows(table)], TableFacts()
    )
    assert (again.frequency_hz, again.real, again.u) == (table.frequency_hz, table.real, table.u)


@pytest.mark.parametrize(("rows", "said"), [
    ([], "empty"), ([["fast", "30"]], "Row 1"), ([["7 MHz", "30 V"]], "Row 1"), ([["7 MHz", "300"]], "out of reach"),
    ([["7 MHz", "30"], ["7000 kHz", "31"]], "stands twice"), ([["0 MHz", "30"]], "makes no sense"),
    ([["7 MHz", "30", "-1"]], "out of reach"),
], ids=["none", "frequency", "unit", "value", "twice", "zero", "U"])  # fmt: skip
def test_what_a_table_can_not_hold_is_named_with_its_row(rows, said):
    with pytest.raises((UnreadableError, OutOfRangeError), match=said):
        table_from_texts(LOSS, rows, TableFacts())


@pytest.mark.parametrize(("text", "f", "u"), [
    ("f/MHz; loss; U\n2,182; 30,02; 0,1\n8,291; 30,05; 0,1\n", 2.182e6, 0.05),
    ("frequency Hz,loss\n1000000,30.1\n2000000,30.2\n", 1e6, None),
    ("# a remark\n1 MHz\t30.1\t0.2\n2 MHz\t30.2\t0.2\n", 1e6, 0.1),
    ("1,30.1\n2,30.2\n", 1e6, None),
], ids=["semicolon", "comma", "tab", "bare"])  # fmt: skip
def test_csv_files_as_people_have_them(tmp_path, text, f, u):
    path = tmp_path / "pad.csv"
    path.write_text(text, "utf-8")

    (table,) = tables_from_file(PAD, path, LOSS, TableFacts())

    assert table.frequency_hz[0] == f
    assert (table.u[0] if table.u else None) == u


@pytest.mark.parametrize(("name", "data", "said"), [
    ("pad.csv", b"1 MHz,30\nx,31\n", "pad.csv, line 2"), ("pad.csv", b"\0\1", "no text"), ("pad.csv", b"", "empty"),
    ("pad.s1p", b"# MHz S MA R 50\n1 .1 0\n", "1 ports, pad has 2"), ("pad.s2p", b"1 2 3\n", "option line"),
], ids=["row", "binary", "empty", "ports", "touchstone"])  # fmt: skip
def test_files_that_can_not_be_taken_are_named(tmp_path, name, data, said):
    (tmp_path / name).write_bytes(data)

    with pytest.raises(FileFormatError, match=said):
        tables_from_file(PAD, tmp_path / name, LOSS, TableFacts())
    with pytest.raises(FileFormatError, match="can't be read"):
        tables_from_file(PAD, tmp_path / "none.csv", LOSS, TableFacts())


def test_what_can_be_tabled_follows_from_the_ports():
    kinds = {part.id: [item.id for item in quantities_for(part)] for part in generic.starter_shelf()}

    assert kinds["generic-tap"] == ["loss_db", "coupling_db"]
    assert kinds["generic-sensor"] == ["cal_factor"]
    assert kinds["generic-load"] == ["impedance_ohm"]
    assert kinds["generic-scope"] == ["correction"]
    assert kinds["generic-lead"] == ["loss_db"]


# between the points


@given(st.lists(st.floats(0.0, 60.0), min_size=2, max_size=8), st.floats(0.0, 1.0))
def test_the_curve_goes_through_its_points_and_never_beyond_its_neighbours(values, t):
    f = np.arange(1, len(values) + 1) * 1e6
    table = Characterisation("x", "loss_db", tuple(f), tuple(values), unit="dB")
    at = f[0] + t * (f[-1] - f[0])

    found = look_up(table, np.array([at]))
    exact = look_up(table, f)

    place = min(int((at - f[0]) // 1e6), len(values) - 2)
    low, high = sorted(values[place : place + 2])
    assert low - 1e-9 <= found.value[0] <= high + 1e-9
    assert exact.value == pytest.approx(values)
    assert np.max(exact.u) < 1e-9


def test_what_lies_between_is_known_as_well_as_the_table_says():
    """Truths of a smooth curve, tabled coarsely: the stated limit holds everywhere (textbook bound h²/8·|f''|)."""
    f = np.linspace(1e6, 30e6, 7)

    def truth(x):
        return 30.0 + 0.8 * np.sin(x / 9e6) + 0.002 * (x / 1e6) ** 1.5

    table = Characterisation("x", "loss_db", tuple(f), tuple(truth(f)), unit="dB")
    at = np.linspace(1e6, 30e6, 400)
    found = look_up(table, at)

    outside = np.abs(found.value - truth(at)) > np.sqrt(3.0) * found.u * 1.3 + 1e-9
    assert np.mean(outside) < 0.05


def test_a_transmission_keeps_its_level_while_its_phase_turns():
    """A line of 1 m from 100 to 200 MHz in steps of 25 MHz: straight lines in real and imaginary part would dip."""
    f = np.arange(100e6, 201e6, 25e6)
    wave = np.exp(-2j * np.pi * f / 2e8)
    table = Characterisation("s21", "s21", tuple(f), tuple(wave.real), tuple(wave.imag), unit="")

    found = look_up(table, np.array([112.5e6, 137.5e6]))

    assert np.abs(found.value) == pytest.approx(1.0, abs=1e-6)
    assert np.angle(found.value[0]) == pytest.approx(np.angle(np.exp(-2j * np.pi * 112.5e6 / 2e8)), abs=1e-6)


@pytest.mark.parametrize(("f", "footing"), [
    (10e6, Footing.MEASURED), (15e6, Footing.BETWEEN), (25e6, Footing.HELD), (29.9e6, Footing.HELD),
    (31e6, Footing.UNKNOWN), (10e6 * (1 + 5e-7), Footing.MEASURED), (10e6 * (1 + 5e-6), Footing.BETWEEN),
    (20e6 * (1 - 5e-7), Footing.MEASURED), (8e6, Footing.HELD), (6e6, Footing.UNKNOWN),
])  # fmt: skip
def test_past_its_end_a_table_is_held_and_costs_and_then_is_unknown(f, footing):
    table = Characterisation("x", "loss_db", (10e6, 20e6), (3.0, 3.0), unit="dB", u=(0.01, 0.01))
    found = look_up(table, np.array([f]))

    assert found.footing == (footing,)
    assert found.value[0] == pytest.approx(3.0)
    assert bool(found.u[0] > 0.05) is (footing in (Footing.HELD, Footing.UNKNOWN))


# in the network


def test_a_tables_level_counts_in_its_switch_position_only():
    steps = generic.attenuator("s", "steps", 0.0, 0.2, 1.0, positions=(0.0, 10.0))
    table = table_from_texts(LOSS, [["1 MHz", "10.23"], ["30 MHz", "10.23"]], TableFacts(setting="10 dB"))
    part = with_table(steps, table)
    f = np.array([7e6])

    assert level_of(part, "loss_db", {}, f).value[0] == 0.0
    assert level_of(part, "loss_db", {"step": "10 dB"}, f).value[0] == pytest.approx(10.23)


def test_a_measured_coupling_replaces_what_the_resistors_make():
    tap = generic.resistive_tap("t", "tap", 2460.0, 50.0)
    table = table_from_texts(QUANTITIES["coupling_db"], [["1 MHz", "40.5"], ["30 MHz", "40.5"]], TableFacts())
    s = part_network(with_table(tap, table), {}, np.array([7e6])).scattering[0]

    assert 20 * np.log10(abs(s[1, 0] / s[2, 0])) == pytest.approx(40.5)
    assert part_network(tap, {}, np.array([7e6])).scattering[0][2, 0] != s[2, 0]


def test_the_computed_ratio_is_known_as_its_resistors_are():
    """dA = 8.686·dR1/(R1 + Rp): 1 % of 2460 Ω is 0.086 dB (derived)."""
    tap = generic.resistive_tap("t", "tap", 2460.0, 50.0)
    components = (
        replace(tap.components[0], measured=2460.0, u_measured=24.6),
        replace(tap.components[1], measured=50.0),
    )
    made = computed_coupling_db(replace(tap, components=components), np.array([1e6]))

    assert made.value[0] == pytest.approx(39.95, abs=0.005)
    assert made.u[0] == pytest.approx(8.686 * 24.6 / 2485.0, rel=0.02)
    assert computed_coupling_db(PAD, np.array([1e6])) is None
    assert measured_coupling_db(PAD) is None


def test_a_nominal_divider_of_ten_and_one_is_eleven_to_one():
    """10 kΩ + 1 kΩ (handbook 4); with a 100 kΩ meter across it is a little more."""
    divider = generic.divider("d", "divider", 10e3, 1e3, stray_f=1e-15)
    from fenmist.rf.circuit import Branch, BranchKind, solve_circuit

    pieces = [Branch(c.id, c.kind, c.nodes, c.value) for c in divider.components]
    for meter, ratio in ((1e9, 11.0), (1e5, 11.1)):
        solved = solve_circuit([*pieces, Branch("m", BranchKind.RESISTOR, ("b", "0"), meter)], ["a"], 1e3)
        volts = solved.between("a", "0", np.array([[1.0]], complex)) / solved.between(
            "b", "0", np.array([[1.0]], complex)
        )
        assert abs(volts[0]) == pytest.approx(ratio, rel=1e-6)


def test_a_cable_by_kind_and_length_loses_what_its_table_says():
    """10 m of 50 Ω, 5 mm: 4.6 dB per 100 m at 10 MHz (any cable table, from memory; tests/reference/cables.toml)."""
    cable = generic.cable("c", "cable", "50 Ω, 5 mm, solid polyethylene", 10.0)
    s = part_network(cable, {}, np.array([10e6])).scattering[0]

    assert -20 * np.log10(abs(s[1, 0])) == pytest.approx(0.46, rel=0.05)
    assert abs(s[0, 0]) < 1e-9


def test_a_cable_of_ones_own_is_its_two_losses():
    """4.6 and 16.1 dB per 100 m at 10 and 100 MHz (a 5 mm cable, any table, from memory): k1·√f + k2·f between."""
    part = blank_part("x", PartKind.CABLE)
    typed = {"cable": "not said", "length": "10 m", "loss_10": "4.6 dB", "loss_100": "16.1 dB", "line": "50 Ω"}
    made = part_from_draft(part, {**draft_from_part(part), **typed})

    s = part_network(made, {}, np.array([10e6, 40e6, 100e6])).scattering
    loss = -20 * np.log10(np.abs(s[:, 1, 0]))
    assert loss == pytest.approx([0.46, 0.967, 1.61], abs=0.003)


def test_a_lead_that_is_matched_has_a_phase_and_a_jumper_of_stated_loss_has_none():
    assert part_network(shelf.lead("l", "lead", 0.3), {}, np.array([7e6])).has_phase
    assert not part_network(shelf.jumper("j", "jumper", 0.1, 0.1), {}, np.array([7e6])).has_phase


@pytest.mark.parametrize(("rows", "values"), [
    ([["7 MHz", "0"], ["8 MHz", "-1"]], (0.0, -1.0)), ([["7 MHz", "200", "", "more", "cells"]], (200.0,)),
    ([["7 MHz", "0.5", "0.1"], ["", "", ""]], (0.5,)),
])  # fmt: skip
def test_a_loss_may_be_nothing_and_cells_beyond_the_third_are_left(rows, values):
    """A gain of 1 dB is met: measured losses scatter about 0."""
    made = table_from_texts(LOSS, rows, TableFacts())

    assert made.real == values
    assert made.u == ((0.05,) if rows[0][2:3] == ["0.1"] else ())


@pytest.mark.parametrize(("quantity", "text"), [
    ("loss_db", "-1.1"), ("loss_db", "201"), ("coupling_db", "-1.1"), ("cal_factor", "9 %"), ("cal_factor", "121 %"),
])  # fmt: skip
def test_a_value_beyond_its_quantity_is_refused_with_its_row(quantity, text):
    with pytest.raises(OutOfRangeError, match="Row 2"):
        table_from_texts(
            QUANTITIES[quantity], [["7 MHz", "98 %" if "%" in text else "3"], ["8 MHz", text]], TableFacts()
        )
