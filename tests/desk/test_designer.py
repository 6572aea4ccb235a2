"""The designer by keyboard: typed, chosen, trimmed, held against a file, put on the shelf, on paper."""

import numpy as np
import pytest
from PySide6.QtWidgets import QApplication

from fenmist.design.response import respond
from fenmist.design.shapes import Shape
from fenmist.desk.tools.designer import FIGURES, HEAT, PROOF, RESPONSE, STACKS
from fenmist.procedures.page import Circuit, Sweep
from support.journeys import to_tool


@pytest.fixture
def designer(hands):
    hands.tool = to_tool(hands, "Designer")
    return hands


def typed(hands, **texts):
    for name, text in texts.items():
        hands.tool.form.inputs[name].setFocus()
        hands.press("ctrl+a")
        hands.type(text)
    hands.settle(0.15)  # worked out soon after the last key


def said(text):
    return text.replace("\u202f", " ")


def press(hands, made):
    made.setFocus()
    hands.press("enter")


def test_a_tap_is_designed_from_a_drawer_and_flattened(designer):
    """An empty logbook: 40 dB from 820 and 100 Ω, a wire up to 480 MHz, on the shelf, kept for the next start."""
    tool = designer.tool
    typed(designer, stock="820 ohm 3 W; 100 ohm 1 W", band="1.8 480 MHz")
    press(designer, tool.best)
    designer.until(lambda: bool(tool.designer.draft.chosen))
    assert said(tool.headline.text()) == "The resistive tap makes 39.95 dB and holds it within 0.5 dB to 283 MHz."
    circuit = tool.circuit.picture
    assert isinstance(circuit, Circuit)
    assert [said(item.more) for item in circuit.valued] == ["3 × 820 Ω in series", "2 × 100 Ω in parallel"]

    press(designer, tool.trim)
    designer.until(lambda: tool.form.inputs["trim"].text() == "0.148 pF")
    assert said(tool.headline.text()).endswith("to 507 MHz.")
    assert isinstance(tool.sweep.picture, Sweep) and len(tool.sweep.picture.lines) == 3
    assert "C of the trim wire" in tool.sensitive.text()

    press(designer, tool.shelf)
    assert "is needed" in tool.said.text()
    tool.label.setFocus()
    designer.type("Tap 40 dB")
    designer.press("enter")
    assert "Tap 40 dB" in [part.label for part in designer.shell.session.kit]


def test_values_are_typed_in_place_and_given_back(designer):
    tool = designer.tool
    field = tool.circuit.fields["R1"]
    field.setFocus()
    designer.press("ctrl+a")
    designer.type("2460")
    designer.press("enter")
    assert said(tool.headline.text()).startswith("The resistive tap makes 39.95 dB")
    assert said(field.text()) == "2460 Ω"

    designer.press("ctrl+a", "del", "enter")
    assert said(field.text()) == "2475 Ω"
    field.setFocus()
    designer.press("ctrl+a")
    designer.type("nonsense")
    designer.press("enter")
    assert "R1" in tool.said.text()


def test_views_are_turned_by_key_and_stacks_are_taken_from_the_list(designer):
    tool = designer.tool
    typed(designer, stock="E24 5 % 2 W")
    seen = [tool.views.currentIndex()]
    for _ in range(5):
        designer.press("f5")
        seen.append(tool.views.currentIndex())
    assert seen == [RESPONSE, FIGURES, HEAT, STACKS, PROOF, RESPONSE]
    assert [made.isChecked() for made in tool.names] == [True, False, False, False, False]

    tool.show_view(STACKS)
    tool.circuit.fields["R2"].setFocus()
    designer.settle()
    assert tool.of_piece.text().startswith("R2: ")
    tool.stacks.setFocus()
    designer.press("down", "enter")
    assert tool.designer.draft.chosen["R2"].said == tool.offered[1].stack.said()
    tool.show_view(FIGURES)
    assert "Coupling" in [tool.figures.itemAtPosition(n, 0).widget().text() for n in range(tool.figures.rowCount())]
    tool.show_view(HEAT)
    assert tool.heat.texts(0)[0] == "R1.1"
    press(designer, tool.bare)
    assert tool.designer.draft.chosen == {}


def test_a_large_stock_is_looked_through_beside_the_window(designer):
    tool = designer.tool
    typed(designer, stock="E96 1 % 1 W")
    tool.show_view(STACKS)
    designer.until(lambda: bool(tool.offered) and tool.offered[0].stack.tolerance == pytest.approx(0.01))

    assert not tool.designer.is_quick
    assert abs(tool.offered[0].error) < 1e-3


def test_a_search_that_is_overtaken_changes_nothing(designer):
    """A slow search, and another shape before it ends: neither has got its stacks, and nothing is said of a fault."""
    tool = designer.tool
    typed(designer, stock="E96 1 % 1 W")
    press(designer, tool.best)
    designer.pick(tool.shape.inputs["shape"], str(Shape.TRANSFORMER_TAP))
    designer.settle(2.5)

    assert tool.designer.draft.chosen == {}
    assert said(tool.headline.text()).startswith("The transformer tap makes ")
    designer.pick(tool.shape.inputs["shape"], str(Shape.RESISTIVE_TAP))
    assert tool.designer.draft.chosen == {}


def test_every_shape_can_be_turned_to(designer):
    tool = designer.tool
    for shape in Shape:
        designer.pick(tool.shape.inputs["shape"], str(shape))
        designer.settle(0.1)
        assert said(tool.headline.text()).startswith(f"The {shape} makes "), tool.said.text()
        assert set(tool.circuit.fields) == {item.id for item in tool.made.design.present}
        assert all(field.isVisible() for field in tool.circuit.fields.values())


def test_a_file_lies_over_the_design(designer, tmp_path):
    tool = designer.tool
    f, path = np.linspace(1e6, 50e6, 40), tmp_path / "tap.s2p"
    here = respond(tool.designer.design, f)
    lines = [f"{a / 1e6:.4f} 0.01 0 {s:.7f} 0 {s:.7f} 0 0 0"
             for a, s in zip(f, 10 ** (-(here.main_db + here.through_db - 4.0) / 20), strict=True)]  # fmt: skip
    path.write_text("# MHz S RI R 50\n" + "\n".join(lines))
    designer.press("ctrl+o")
    designer.choose_file(path)
    assert [item.role for item in tool.sweep.picture.lines] == ["design", "measured"]
    assert "differs from the design" in tool.opened.text()

    tool.show_view(PROOF)
    press(designer, tool.explain)
    assert "dB on all of it" in tool.explained.text()
    designer.pick(tool.analyser.inputs["analyser"], "bench")
    assert tool.designer.analyser.label == "bench"
    (tmp_path / "bad.s2p").write_text("nothing")
    designer.press("ctrl+o")
    designer.choose_file(tmp_path / "bad.s2p")
    assert "bad.s2p" in tool.said.text()
    assert tool.designer.measured.name == "tap.s2p"


def test_the_sheet_is_saved_and_printed_as_it_stands(designer, tmp_path):
    tool = designer.tool
    designer.press("ctrl+s")
    designer.choose_file(tmp_path / "tap.pdf")
    designer.until((tmp_path / "tap.pdf").exists)

    assert (tmp_path / "tap.pdf").read_bytes().startswith(b"%PDF")
    assert tool.printing.paper == "a4"
    assert tool.printing.pages(40.0)[0].startswith(b"\x89PNG")


def test_a_list_is_pasted_with_its_lines(designer):
    tool = designer.tool
    QApplication.clipboard().setText("820 Ω 3 W × 6\n100 Ω 1 W × 6\n")
    field = tool.form.inputs["stock"]
    field.setFocus()
    designer.press("ctrl+a", "ctrl+v")
    press(designer, tool.best)
    designer.until(lambda: len(tool.designer.draft.chosen) == 2)

    assert said(tool.designer.draft.chosen["R1"].said) == "3 × 820 Ω in series"


def test_foolish_fields_leave_what_was_typed_and_say_why(designer):
    tool = designer.tool
    typed(designer, target="three bananas")
    assert "coupling" in tool.said.text()
    assert tool.headline.text() == "The design appears once the fields can be read."
    press(designer, tool.best)
    assert "coupling" in tool.said.text()
    typed(designer, target="40 dB", stock="E7")
    press(designer, tool.best)
    designer.until(lambda: "E7" in tool.said.text())
    assert tool.form.inputs["stock"].text() == "E7"
