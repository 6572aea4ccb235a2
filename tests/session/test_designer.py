"""The design in hand: what is typed, chosen, kept, proved and put on the shelf."""

import math
from dataclasses import replace
from datetime import UTC, datetime

import numpy as np
import pytest

from fenmist.design.proof import ANALYSERS, Explained
from fenmist.design.response import holds, respond
from fenmist.design.shapes import Shape
from fenmist.design.strays import Strays
from fenmist.errors import FenmistError
from fenmist.kit.network import COUPLING
from fenmist.kit.part import PartKind
from fenmist.session.circuits import circuit_of
from fenmist.session.designer import Designer
from fenmist.session.designing import (
    design_from,
    example_of,
    explained_said,
    fields_of,
    headline,
    known_said,
    proof_said,
    rows,
    sensitivity_said,
    strain_rows,
    sweep_of,
    worked,
)
from fenmist.session.designsheet import sheet_of, write_design
from fenmist.session.session import Session

DRAWER = "820 Ω 3 W × 6; 100 Ω 1 W × 6"


@pytest.fixture
def session(tmp_path):
    made = Session(tmp_path / "shop.fenlog", clock=lambda: datetime(2026, 11, 28, 12, 0, tzinfo=UTC))
    yield made
    made.close()


@pytest.fixture
def designer(session):
    made = Designer(session)
    made.type_field("stock", DRAWER)
    made.take(made.best_stacks()())
    return made


def said(text):
    return text.replace("\u202f", " ")


def named(pairs):
    return {name: said(value) for name, value in pairs}


def s2p(truth, f):
    """What an analyser writes: in to side, the line going on into 50 Ω."""
    here = respond(truth, f)
    lost, gamma = 10 ** (-(here.main_db + here.through_db) / 20), (here.swr - 1) / (here.swr + 1)
    lines = [f"{a / 1e6:.6f} {g:.6f} 0 {s:.8f} 0 {s:.8f} 0 0 0" for a, g, s in zip(f, gamma, lost, strict=True)]
    return "# MHz S RI R 50\n" + "\n".join(lines) + "\n"


@pytest.mark.parametrize("shape", list(Shape))
def test_every_shape_begins_with_an_example_that_works(shape):
    made = worked(design_from(shape, example_of(shape)))
    asked = [item.id for item in fields_of(shape)]

    assert asked[0] == ("sensor" if made.design.layout.side else asked[0])
    assert said(headline(made)).startswith(f"The {shape} makes ")
    assert {item.id for item in circuit_of(made.design).valued} == {item.id for item in made.design.present}
    assert len(strain_rows(made)) == len(made.strains) + len(made.ports) > 1
    assert len(rows(made)) >= 3
    assert sweep_of(made.design).lines[0].points[0][0] == pytest.approx(made.design.ask.low_hz / 1.6e6)


@pytest.mark.parametrize(("shape", "more", "aim", "within"), [
    (Shape.RESISTIVE_TAP, {}, 40.0, 0.5),
    (Shape.MISMATCH, {"target": "2", "within": "1 dB"}, 2.0, 2.0 * (10 ** (1 / 20) - 1.0)),
])  # fmt: skip
def test_the_corridor_that_is_asked_for_is_drawn_over_the_band(shape, more, aim, within):
    """Of an end in SWR: a decibel of it is 20·log10."""
    design = design_from(shape, {**example_of(shape), "band": "2 200 MHz", **more})
    sweep = sweep_of(design)

    assert (sweep.aim, sweep.within) == (pytest.approx(aim), pytest.approx(within))
    assert (sweep.low, sweep.high) == (2.0, 200.0)
    assert [sweep.lines[0].points[n][0] for n in (0, -1)] == pytest.approx([2.0 / 1.6, 1.6 * 200.0])
    f, value = sweep.lines[0].points[0]
    found = float(respond(design, f * 1e6).main_db[0])
    assert value == pytest.approx(10 ** (found / 20) if shape is Shape.MISMATCH else found)


def touches(place, piece):
    """Whether a place lies on a piece, which runs straight across or straight down."""
    (x, y), (x1, x2), (y1, y2) = place, sorted((piece.x1, piece.x2)), sorted((piece.y1, piece.y2))
    return x1 <= x <= x2 and y1 <= y <= y2


@pytest.mark.parametrize("shape", list(Shape))
def test_a_drawn_circuit_hangs_together(shape):
    """Each end of a wire or a piece, and each port, touches another: a line that ends in nothing is a fault."""
    drawn = [item for item in circuit_of(design_from(shape, example_of(shape))).pieces if item.kind != "trim"]

    for item in drawn:
        assert item.x1 == item.x2 or item.y1 == item.y2
        for place in {(item.x1, item.y1), (item.x2, item.y2)}:
            assert any(touches(place, other) for other in drawn if other is not item), (item, place)
    assert {item.x1 for item in drawn if item.kind == "port"} <= {8, 12, 92}


def test_texts_make_what_they_say():
    texts = {
        "sensor": "1 MΩ 15 pF", "target": "34 dB", "shunt": "75 Ω", "z0": "75 Ω", "power": "20 dBW", "keydown": "30 s",
        "band": "3.5 30 MHz", "within": "0.3 dB", "block": "100 nF", "across": "0.1 pF", "joint": "0.3 pF",
        "lead": "8 nH", "output": "1 pF", "trim": "0.2 pF",
    }  # fmt: skip
    design = design_from(Shape.RESISTIVE_TAP, texts, {"R1": "2.2 kΩ"})
    ask = design.ask

    assert (ask.target, ask.sensor_ohm, ask.sensor_f, ask.shunt_ohm, ask.z0_ohm) == pytest.approx(
        (34.0, 1e6, 15e-12, 75.0, 75.0)
    )
    assert (ask.power_w, ask.keydown_s, ask.low_hz, ask.high_hz, ask.within_db, ask.block_f) == pytest.approx(
        (100.0, 30.0, 3.5e6, 30e6, 0.3, 1e-7)
    )
    assert list(vars(design.strays).values()) == pytest.approx([1e-13, 3e-13, 8e-9, 1e-12, 2e-13])
    assert design.values["R1"] == pytest.approx(2200.0)
    assert math.isinf(design_from(Shape.RESISTIVE_TAP, {"sensor": "open", "target": "34 dB"}).ask.sensor_ohm)
    assert design_from(Shape.TRANSFORMER_TAP, {"winding": "1.2 µH"}).ask.winding_h == pytest.approx(1.2e-6)
    assert design_from(Shape.L_PAD, {"z0": "75", "far": "50"}).ask.far_ohm == 50.0


@pytest.mark.parametrize(
    ("field", "text", "says"),
    [("target", "three", "coupling"), ("band", "1.8 MHz", "no band"), ("sensor", "a scope", "connected to"),
     ("power", "-5 W", "The power"), ("z0", "0", "Z0"), ("band", "30 3 MHz", "ends below")],
)  # fmt: skip
def test_what_can_not_be_read_names_its_field(field, text, says):
    with pytest.raises(FenmistError) as raised:
        worked(design_from(Shape.RESISTIVE_TAP, {field: text}))
    assert says in str(raised.value)


def test_figures_stand_beside_what_makes_them(designer):
    made = designer.worked()
    found = named(rows(made))

    assert found["R1"] == "3 × 820 Ω in series: 2460 Ω for 2475 Ω, from the line"
    assert found["R2"] == "2 × 100 Ω in parallel: 50 Ω for 50 Ω, across the output"
    assert (found["Coupling"], found["Through"]) == ("39.95 dB", "0.087 dB, SWR 1.02")
    assert found["Shortcut"] == "20·log10(R1/Rp): −0.09 dB off"
    assert found["Tolerance"].startswith("−0.70 to +0.59 dB at worst, ")
    first = [said(text) for text in strain_rows(made)[0]]
    assert first[:2] == ["R1.1", "820 Ω"] and first[4] == "23 %"
    *_, way_in, out = [[said(text) for text in row] for row in strain_rows(made)]
    assert way_in == ["“in”", "connector", "100 W", "—", "—", "—", "70.7 V, 140 V"]
    assert out[:3] == ["“side”", "connector", "10.1 mW"] and out[-1] == "0.711 V, 1.41 V"
    assert said(headline(made)) == "The resistive tap makes 39.95 dB and holds it within 0.5 dB to 283 MHz."
    assert "0.1 pF of C from each joint to the box" in said(sensitivity_said(replace(
        made.design, ask=replace(made.design.ask, high_hz=440e6))))  # fmt: skip


def test_a_stack_stands_until_what_it_is_for_moves(designer):
    assert designer.design.stacks["R1"].ohm == 2460.0
    designer.type_field("target", "30 dB")
    assert "R1" not in designer.design.stacks and "R2" in designer.design.stacks
    designer.type_field("target", "40 dB")
    assert designer.design.stacks["R1"].ohm == 2460.0
    designer.type_value("R2", "51")
    assert designer.design.values["R2"] == 51.0
    designer.type_value("R2", "")
    assert designer.design.values["R2"] == 50.0
    designer.as_drawn()
    assert designer.design.stacks == {}


def test_what_is_typed_and_chosen_is_there_again(session, designer):
    second = designer.offers("R1")()[1]
    designer.choose("R1", second)
    designer.turn_to(Shape.PI_PAD)
    designer.type_field("target", "6 dB")
    again = Designer(session)

    assert (again.shape, again.design.ask.target) == (Shape.PI_PAD, 6.0)
    again.turn_to(Shape.RESISTIVE_TAP)
    assert again.design.stacks["R1"].said() == second.stack.said()
    session.keep_design("{not ours")
    assert Designer(session).shape is Shape.RESISTIVE_TAP


def test_a_trim_wire_is_solved_and_drawn_with_less_and_more(designer):
    designer.type_field("band", "1.8 480 MHz")
    farad = designer.best_trim()()
    designer.take_trim(farad)

    assert designer.design.strays.trim_f == pytest.approx(farad, rel=0.01)
    assert holds(designer.design).high_hz > 450e6
    lines = {item.name: item for item in sweep_of(designer.design).lines}
    assert [item.role for item in lines.values()] == ["design", "beside", "beside"]
    f, value = lines["more wire"].points[-30]
    more = replace(designer.design, strays=replace(designer.design.strays, trim_f=1.3 * designer.design.strays.trim_f))
    assert respond(more, f * 1e6).main_db[0] == pytest.approx(value)
    assert [item.value for item in circuit_of(designer.design).pieces if item.kind == "trim"] == ["0.15\u202fpF"]


def test_a_file_lies_over_the_design_and_goes_to_the_shelf_with_it(designer, session, tmp_path):
    f = np.linspace(1e6, 80e6, 80)
    truth = replace(designer.design, strays=replace(designer.design.strays, joint_f=0.6e-12))
    path = tmp_path / "tap.s2p"
    path.write_text(s2p(truth, f))
    with pytest.raises(FenmistError, match="No file"):
        designer.explain()
    proof = designer.open_file(path)
    found = designer.explain()
    sweep = sweep_of(designer.design, proof)
    part = designer.put_on_shelf("Tap 40 dB")
    kept = next(item for item in session.kit if item.label == "Tap 40 dB")
    table = kept.characterisation(COUPLING)

    assert said(proof_said(proof)).startswith("The file agrees with the design within what the analyser knows: at most")
    assert said(proof_said(proof)).endswith("At “in” it shows SWR 1.02 at most, where the design has 1.02.")
    assert said(explained_said(found, designer.design.strays)) == (  # a hand-held one can't tell where it comes from
        "resistors that put +0.06 dB on all of it would explain it: 0.14 to 0.1 dB."
    )
    assert (sweep.lines[-1].role, len(sweep.measured_u)) == ("measured", 79)  # 1 MHz lies below the drawing
    assert sweep.lines[-1].points[0][0] == sweep.measured_u[0][0] == pytest.approx(2.0)
    low, high = sweep.measured_u[0][1:]
    assert (high - low) / 2 == pytest.approx(proof.expanded_u_db[1])
    assert (kept.kind, kept.id, table.source, table.measured_on) == (PartKind.TAP, part.id, "tap.s2p", "2026-11-28")
    assert "the calculation is the better one" in known_said(designer.worked(), proof)
    designer.close_file()
    assert designer.part("Tap").characterisations == ()
    with pytest.raises(FenmistError, match="called"):
        designer.put_on_shelf("  ")


def test_a_bench_analyser_sees_what_a_hand_held_one_does_not(designer, tmp_path):
    f = np.linspace(1e6, 200e6, 80)
    truth = replace(designer.design, strays=replace(designer.design.strays, joint_f=0.6e-12))
    path = tmp_path / "tap.s2p"
    path.write_text(s2p(truth, f))
    designer.analyser = ANALYSERS[1]
    proof = designer.open_file(path)
    found = designer.explain()

    assert said(proof_said(proof)).startswith("The file differs from the design: +")
    assert "C from each joint to the box 0.6" in said(explained_said(found, designer.design.strays))
    designer.take_strays(found)
    assert designer.design.strays.joint_f == pytest.approx(0.6e-12, rel=0.05)


@pytest.mark.parametrize(("text", "fits"), [("0", False), ("1e-9", False), ("1e-3", True), ("1e13", False)])
def test_a_short_is_no_resistor(text, fits):
    example = example_of(Shape.RESISTIVE_TAP)
    if fits:
        assert design_from(Shape.RESISTIVE_TAP, example, {"R1": text}).values["R1"] == float(text)
    else:
        with pytest.raises(FenmistError, match=r"R1: .* no short"):
            design_from(Shape.RESISTIVE_TAP, example, {"R1": text})


def test_strays_that_were_fitted_are_typed_for_the_design_to_three_figures(designer):
    strays = Strays(0.0612e-12, 0.618e-12, 4.9e-9, 1.25e-12, 0.0312e-12)
    designer.take_strays(Explained(strays, 0.06, 0.1, 0.14))

    assert vars(designer.design.strays) == pytest.approx(vars(strays), rel=5e-3)
    assert designer.draft.texts["stock"] == DRAWER


def test_a_broken_file_keeps_the_former_one(designer, tmp_path):
    good, bad = tmp_path / "good.s2p", tmp_path / "bad.s2p"
    good.write_text(s2p(designer.design, np.linspace(1e6, 80e6, 9)))
    bad.write_text("no option line")
    designer.open_file(good)

    with pytest.raises(FenmistError, match=r"bad\.s2p"):
        designer.open_file(bad)
    assert designer.measured.name == "good.s2p"


def test_the_sheet_says_what_the_screen_says(designer, tmp_path):
    made = designer.worked()
    sheet = sheet_of(designer, made, "Tap 40 dB", "2026-11-28", demo=True)

    assert (sheet.title, sheet.demo, sheet.headline) == ("Tap 40 dB", True, headline(made))
    assert sheet.facts[0] == ("Power", "100\u202fW on the line, 60\u202fs at a time")
    assert sheet.facts[2:] == rows(made) and sheet.strains == strain_rows(made)
    assert len(sheet.notes) == len(made.notes)
    assert sheet.proof == ""
    assert write_design(sheet, tmp_path / "tap.pdf", "a4").read_bytes().startswith(b"%PDF")
    assert "3 × 820" in write_design(sheet, tmp_path / "tap.svg", "a4").read_text("utf-8")
