"""A design's drawings against their numbers: curves, corridor, pieces, values."""

import io
import math
import xml.etree.ElementTree as ET
from dataclasses import replace

import pypdf
import pytest

from fenmist.design.shapes import Shape
from fenmist.procedures.page import Circuit, CircuitPiece
from fenmist.reports.circuitdrawing import HEIGHT, value_place
from fenmist.reports.designsheet import DesignSheet
from fenmist.reports.paper import sheet_pages, sheet_pdf
from fenmist.reports.pictures import PAPER, height_of, picture_svg
from fenmist.reports.sweepdrawing import BOTTOM, LEFT, RIGHT, TOP
from fenmist.session.circuits import circuit_of
from fenmist.session.designing import design_from, example_of
from support.designs import SWEEP, tap


def shapes(svg, tag):
    return [item.attrib for item in ET.fromstring(svg).iter(f"{{http://www.w3.org/2000/svg}}{tag}")]


def texts(svg):
    return [(item.text or "").replace("\u202f", " ") for item in ET.fromstring(svg).iter() if item.tag.endswith("text")]


def test_curves_stand_over_the_logarithm_of_the_frequency_and_less_coupling_lies_lower():
    """1, 10, 100 MHz at equal distances; ±1.5 dB from top to bottom: 41 dB lies two thirds of the half below."""
    svg, width = picture_svg(SWEEP, PAPER, 600.0), 600.0
    ways = [[tuple(map(float, place.split())) for place in item["d"][1:].split(" L")] for item in shapes(svg, "path")]
    bottom = height_of(SWEEP) - BOTTOM
    middle, half = (TOP + bottom) / 2, (bottom - TOP) / 2

    assert SWEEP.reach == 1.5
    assert [x for x, _ in ways[0]] == pytest.approx([LEFT, (LEFT + width - RIGHT) / 2, width - RIGHT], abs=0.1)
    assert [y for _, y in ways[0]] == pytest.approx([middle, middle, middle + half / 1.5], abs=0.1)
    assert ways[1][2][1] == pytest.approx(TOP, abs=0.1)  # 3 dB away: at the edge
    assert [item["stroke"] for item in shapes(svg, "path")] == [PAPER.teal, PAPER.second, PAPER.rust]
    band, *around = shapes(svg, "rect")
    assert float(band["x"]) == pytest.approx(LEFT + (width - LEFT - RIGHT) * math.log10(2.0) / 2.0, abs=0.1)
    assert [float(item["height"]) for item in around] == pytest.approx([half * 0.4 / 1.5] * 2, abs=0.1)
    assert {"38.5", "40", "41.5", "coupling in dB, over MHz", "1", "100", "designed", "measured"} <= set(texts(svg))
    dotted = sorted({float(item["y1"]) for item in shapes(svg, "line") if item.get("stroke-dasharray") == "2 3"})
    assert dotted == pytest.approx([middle - half / 3, middle + half / 3], abs=0.1)


@pytest.mark.parametrize("shape", list(Shape))
def test_every_piece_is_drawn_with_its_value_and_ports_are_named(shape):
    design = design_from(shape, example_of(shape))
    circuit = circuit_of(design)
    svg = picture_svg(circuit, PAPER, 600.0)

    for piece in circuit.valued:
        assert piece.value.replace("\u202f", " ") in texts(svg)
        x, y = value_place(piece, 600.0)
        assert 0.0 <= x <= 600.0 - 88.0 and 12.0 <= y <= HEIGHT - 12.0
    assert {item.name for item in circuit.pieces if item.kind == "port"} <= set(texts(svg))
    assert len(shapes(svg, "rect")) == len(design.resistors)
    bare = picture_svg(circuit, PAPER, 600.0, with_values=False)
    assert bare.count("<text") == svg.count("<text") - len(circuit.valued)
    places = [value_place(item, 600.0) for item in circuit.valued]
    assert all(math.hypot(a - c, b - d) > 24.0 for n, (a, b) in enumerate(places) for c, d in places[:n])


def test_a_stack_and_a_wire_are_drawn():
    made = tap()
    svg = picture_svg(circuit_of(replace(made, strays=replace(made.strays, trim_f=0.15e-12))), PAPER, 600.0)

    assert {"3 × 820 Ω in series", "2 × 100 Ω in parallel", "trim wire 0.15 pF"} <= set(texts(svg))
    dashed = [item for item in shapes(svg, "line") if item.get("stroke-dasharray") == "4 3"]
    assert len(dashed) == 2 and {item["stroke"] for item in dashed} == {PAPER.rust}


def test_a_resistors_body_stands_in_the_middle_of_its_way():
    flat = CircuitPiece("R", "resistor", 10.0, 30.0, 60.0, 30.0, "R", "50 Ω")
    (body,) = shapes(picture_svg(Circuit((flat,), "said"), PAPER, 1000.0), "rect")

    assert float(body["x"]) + float(body["width"]) / 2 == pytest.approx(350.0)
    assert float(body["y"]) + float(body["height"]) / 2 == pytest.approx(HEIGHT / 2)


def test_the_sheet_is_set_with_all_its_texts():
    sheet = DesignSheet(
        "Tap 40 dB", "2026-11-28", True, "The resistive tap makes 39.95 dB.", circuit_of(tap()), SWEEP,
        (("Power", "100 W on the line"), ("Coupling", "39.95 dB")), ("piece", "takes"), (("R1.1", "664 mW"),),
        "A little more moves it.", "The file agrees.", (("watch", "It burns.", "70 V.", "Carrier off."),),
        ("Calculated.",),
    )  # fmt: skip
    pages = pypdf.PdfReader(io.BytesIO(sheet_pdf(sheet))).pages
    text = " ".join(" ".join(page.extract_text() for page in pages).split())

    for said in ("Tap 40 dB", "DEMO", "2026-11-28", "39.95 dB.", "100 W on the line", "Coupling", "R1.1", "664 mW",
                 "A little more moves it.", "The file agrees.", "watch: It burns. 70 V. Carrier off.", "Calculated.",
                 "3 × 820", "designed"):  # fmt: skip
        assert said in text, said
    assert sheet_pages(sheet, "us-letter", 40.0)[0].startswith(b"\x89PNG")
