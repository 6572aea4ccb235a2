"""Where things are drawn on paper: boxes that don't meet, wires that end where they should, charts true to the data."""

import xml.etree.ElementTree as ET
from dataclasses import replace
from itertools import pairwise

import pytest

from fenmist.hookup.templates import TEMPLATES, from_template
from fenmist.kit.generic import starter_shelf
from fenmist.procedures.benchwork import with_new_hookup
from fenmist.procedures.comparison.asked import job_draft, job_from_draft
from fenmist.procedures.page import Chart, ChartSeries
from fenmist.reports.drawing import chart_png, chart_svg, draw_on
from fenmist.reports.fonts import FALLBACK_FONTS, PAPER_FAMILIES, font_file
from fenmist.reports.linedrawing import line_svg
from fenmist.reports.linelayout import Box, Measures, lay_out
from studies.builders import job
from support.paper import TWO, chart, points

SVG = "{http://www.w3.org/2000/svg}"
MEASURES = Measures(680.0, 2.0, 26.0, 26.0, 62.0, 8.0, 680.0, 26.0)
TEMPLATE_JOBS = [
    with_new_hookup(job(), from_template(template, starter_shelf(), template.label)) for template in TEMPLATES
]


def meet(one: Box, other: Box) -> bool:
    return (
        one.x < other.right and other.x < one.right and one.y < other.y + other.height and other.y < one.y + one.height
    )


@pytest.mark.parametrize("made", TEMPLATE_JOBS, ids=[item.label for item in TEMPLATES])
@pytest.mark.parametrize("wide", [40.0, 110.0, 300.0, 500.0])
def test_no_two_boxes_meet_and_all_stay_on_the_paper(made, wide):
    hookup = made.hookups[-1]
    found = lay_out(hookup, made.parts, lambda _: wide, MEASURES)

    assert sorted(box.element for box in found.boxes) == sorted(item.id for item in hookup.elements)
    for number, box in enumerate(found.boxes):
        assert 2.0 - 1e-9 <= box.x < box.right <= 678.0 + 1e-9
        assert box.right == pytest.approx(box.x + box.width) and box.middle == pytest.approx((box.x + box.right) / 2)
        assert box.width <= wide
        assert not any(meet(box, other) for other in found.boxes[number + 1 :]), box
    assert found.height == max(box.y for box in found.boxes) + 26.0
    assert [box.y for box in found.line] == [26.0] * len(found.line)
    assert all(box.y == 26.0 + 62.0 * box.row for box in found.boxes)


def test_a_line_with_room_reaches_from_margin_to_margin_at_most_the_widest_gap_apart():
    made = job()
    found = lay_out(made.hookups[0], made.parts, lambda _: 100.0, MEASURES)
    gaps = [b.x - a.right for a, b in zip(found.line, found.line[1:], strict=False)]

    assert [box.element for box in found.line] == ["source", "meter", "tee", "load"]
    assert (found.line[0].x, found.line[-1].right) == (2.0, pytest.approx(678.0))
    assert gaps == pytest.approx([92.0] * 3)  # (676 − 400)/3
    near = lay_out(made.hookups[0], made.parts, lambda _: 100.0, replace(MEASURES, most_gap=30.0))
    assert near.line[-1].right == pytest.approx(2.0 + 400.0 + 90.0)


def test_boxes_that_are_too_wide_shrink_alike_and_keep_the_least_gap():
    made = job()
    found = lay_out(made.hookups[0], made.parts, lambda _: 400.0, MEASURES)

    assert {round(box.width, 6) for box in found.line} == {round((676.0 - 24.0) / 4, 6)}
    assert found.line[1].x - found.line[0].right == pytest.approx(8.0)


def test_what_hangs_begins_beneath_its_port():
    made = job()
    found = lay_out(made.hookups[0], made.parts, lambda _: 60.0, MEASURES)
    (hanging,) = found.hanging
    tee = found.line[2]

    assert (hanging.element, hanging.port) == ("tee", "side")
    assert hanging.x == pytest.approx(tee.middle)  # its only side port: half-way across
    assert [box.element for box in hanging.boxes] == ["lead", "scope"]
    assert hanging.boxes[0].middle == pytest.approx(hanging.x)
    assert hanging.boxes[1].x - hanging.boxes[0].right == pytest.approx(26.0)
    assert [box.row for box in hanging.boxes] == [1, 1]
    assert found.loose == ()


def test_what_is_joined_to_nothing_is_drawn_all_the_same():
    made = job()
    hookup = made.hookups[0]
    apart = replace(hookup, joints=tuple(joint for joint in hookup.joints if "lead" not in (joint.a[0], joint.b[0])))
    found = lay_out(apart, made.parts, lambda _: 60.0, MEASURES)

    assert [box.element for box in found.loose] == ["lead", "scope"]
    assert found.loose[0].x == 2.0
    assert found.height == 26.0 + 62.0 + 26.0


# the line on paper


def drawn(made, hookup=None) -> ET.Element:
    return ET.fromstring(line_svg(made, hookup or made.bench))


def texts(root: ET.Element) -> list[str]:
    return [item.text.replace("\u202f", " ") for item in root.iter(f"{SVG}text")]


def test_the_paper_shows_every_part_with_its_rating_and_the_plane():
    root = drawn(job())

    assert texts(root) == [
        "Plover", "250 W", "Bittern", "200 W", "tee", "Reedmace", "150 W", "lead", "Sedge", "power is stated here",
    ]  # fmt: skip
    assert len(list(root.iter(f"{SVG}rect"))) == 6
    assert root.get("viewBox") == "0 0 680 126"  # 26 + 26 + 62 for the row beneath, and 12


def test_the_mark_stands_behind_the_meters_output_or_before_its_input():
    made = job()
    moved = job_from_draft(made, {**job_draft(made), "stated": "the meter's input"})
    places = []
    for item in (made, moved):
        root = drawn(item)
        mark = next(line for line in root.iter(f"{SVG}line") if line.get("stroke") == "#A9480F")
        box = list(root.iter(f"{SVG}rect"))[1]
        places.append(float(mark.get("x1")) - float(box.get("x")))
        assert mark.get("x1") == mark.get("x2")
        assert (float(mark.get("y1")), float(mark.get("y2"))) == (20.0, 58.0)  # 6 beyond the box either way
    width = float(box.get("width"))

    assert places == [pytest.approx(width + 4.0), pytest.approx(-4.0)]


def test_the_line_runs_through_the_middle_of_its_boxes_and_the_wire_drops_to_what_hangs():
    root = drawn(job())
    line = next(item for item in root.iter(f"{SVG}line") if item.get("stroke") == "#0E5A66")
    boxes = [
        {name: float(item.get(name)) for name in ("x", "y", "width", "height")} for item in root.iter(f"{SVG}rect")
    ]
    wire = [tuple(map(float, pair.split(","))) for pair in root.find(f"{SVG}polyline").get("points").split()]
    lead = boxes[4]

    assert (float(line.get("y1")), float(line.get("y2"))) == (39.0, 39.0)
    assert boxes[0]["x"] == 2.0
    assert float(line.get("x1")) == boxes[0]["x"]
    assert float(line.get("x2")) == pytest.approx(boxes[3]["x"] + boxes[3]["width"], abs=0.01)
    assert wire[0][1] == 39.0
    assert wire[-1][1] == lead["y"]
    assert lead["x"] <= wire[-1][0] <= lead["x"] + lead["width"]
    assert wire[1] == (wire[0][0], lead["y"] - 5.0) and wire[2] == (wire[-1][0], lead["y"] - 5.0)
    assert wire[0][0] == wire[-1][0]  # straight down where the box lies beneath the port
    through = [item for item in root.iter(f"{SVG}line") if float(item.get("y1")) > 58.0]
    assert [float(through[0].get(name)) for name in ("x1", "x2")] == [
        pytest.approx(lead["x"], abs=0.01), pytest.approx(boxes[5]["x"] + boxes[5]["width"], abs=0.01),
    ]  # fmt: skip
    assert float(through[0].get("y1")) == float(through[0].get("y2")) == lead["y"] + lead["height"] / 2.0


@pytest.mark.parametrize(("label", "shown"), [("A" * 200, "A…"), ("湿原" * 30, "湿…"), ("Bittern", "Bittern")])
def test_a_name_that_is_wider_than_its_box_ends_in_a_sign(label, shown):
    """Letters of 5.4 on a box, two each for East Asian signs: no name runs over the edge of its box."""
    made = job()
    made = made.with_part(replace(made.dut_part, label=label))
    root = drawn(made)
    box = list(root.iter(f"{SVG}rect"))[1]
    text = next(item for item in texts(root) if item[0] == label[0] and item not in ("Plover",))
    wide = 2 if label[0] == "湿" else 1

    assert text[0] + text[-1] == shown if "…" in shown else text == shown
    assert 5.4 * wide * len(text.rstrip("…")) <= float(box.get("width"))
    if "…" in shown:  # and as much of it as there is room for
        assert 5.4 * (wide * (len(text) + 1)) + 4.0 > float(box.get("width"))


def test_names_are_escaped_and_without_power_there_is_no_rating():
    made = job()
    made = made.with_part(replace(made.part("tee"), label="<tee & co>"))

    assert "<tee & co>" in texts(drawn(made))


def test_every_font_named_on_paper_ships():
    for name in FALLBACK_FONTS:
        assert font_file(name).is_file(), name
    assert PAPER_FAMILIES[:2] == ("Inter", "Noto Sans CJK JP")
    assert (PAPER_FAMILIES[-1], len(PAPER_FAMILIES)) == ("Noto Emoji", len(FALLBACK_FONTS) + 1)


# the chart on paper


class Axes:
    """The drawing's axes, looked at by the drawing library itself."""

    def __init__(self, made: Chart) -> None:
        from matplotlib.figure import Figure
        from matplotlib.font_manager import FontProperties

        self.axes = Figure().add_subplot()
        draw_on(self.axes, made, FontProperties(size=7.5))

    @property
    def bars(self) -> list:
        return self.axes.containers

    def ends(self, number: int) -> list[tuple[float, float]]:
        (segments,) = self.bars[number].lines[2]
        return [(segment[0][1], segment[1][1]) for segment in segments.get_segments()]


def test_points_stand_at_their_errors_with_their_bars():
    axes = Axes(TWO)
    first, second = (bar.lines[0] for bar in axes.bars)

    assert list(first.get_ydata()) == [-2.0, 5.0]
    assert list(second.get_ydata()) == [40.0, 30.0]
    assert axes.ends(0) == [(-4.0, 0.0), (3.0, 7.0)]
    # 0.9 % of the span to the left and to the right of their place, so that bars don't cover each other
    assert list(first.get_xdata()) == pytest.approx([7.0 - 0.063, 14.0 - 0.063])
    assert list(second.get_xdata()) == pytest.approx([7.0 + 0.063, 14.0 + 0.063])
    assert (first.get_marker(), second.get_marker()) == ("o", "s")
    assert axes.axes.get_ylim() == (-1.1 * TWO.reach, 1.1 * TWO.reach)
    assert list(axes.axes.get_xticks()) == [7.0, 14.0]
    assert [label.get_text() for label in axes.axes.get_xticklabels()] == ["7", "14"]
    for label in (*axes.axes.get_xticklabels(), *axes.axes.get_yticklabels()):
        assert (label.get_color(), label.get_fontsize()) == ("#50626B", 7.5)
    assert (axes.axes.get_xlabel(), axes.axes.get_ylabel()) == ("frequency in MHz", "error in per cent")


def test_the_curve_between_is_solid_and_the_first_corridor_a_wash():
    axes = Axes(TWO)
    (wash,) = axes.axes.collections[:1]
    curve = next(line for line in axes.axes.lines if len(line.get_xdata()) == 3)
    edges = [line for line in axes.axes.lines if line.get_linestyle() == "--" and len(line.get_xdata()) == 2]

    assert wash.get_linewidth()[0] == 0.0
    assert {line.get_linewidth() for line in edges} == {0.7}
    low, high = wash.get_paths()[0].vertices[:, 1].min(), wash.get_paths()[0].vertices[:, 1].max()
    assert (low, high) == (-20.0, 20.0)
    assert list(curve.get_ydata()) == [-2.0, 1.0, 5.0] and curve.get_linestyle() == "-"
    assert list(curve.get_xdata()) == pytest.approx([6.937, 9.937, 13.937])
    assert sorted(tuple(line.get_ydata()) for line in edges) == [(-4.0, -4.0), (4.0, 4.0)]


def test_a_single_point_has_a_corridor_about_it():
    axes = Axes(chart(ChartSeries("20 W", points((10.0, 1.0, 0.0, 2.0, 5.0)))))
    vertices = axes.axes.collections[0].get_paths()[0].vertices

    assert (vertices[:, 0].min(), vertices[:, 0].max()) == pytest.approx((9.7, 10.3))
    assert (vertices[:, 1].min(), vertices[:, 1].max()) == (-5.0, 5.0)
    assert axes.axes.get_legend() is None


def test_a_level_in_two_phases_is_named_once_and_has_one_corridor():
    found = ChartSeries("20 W", points((7.0, -9.0, -11.0, -7.0, 5.0), (8.0, 0, -1, 1, 5.0)), 0, False, ((7.0, -9.0),))
    left = replace(found, solid=True)
    axes = Axes(chart(found, left))
    first, second = (bar.lines[0] for bar in axes.bars)

    assert [text.get_text() for text in axes.axes.get_legend().get_texts()] == ["20 W"]
    assert (
        len([item for item in axes.axes.collections if item.get_paths() and len(item.get_paths()[0].vertices) > 4]) == 1
    )
    assert (first.get_markerfacecolor(), second.get_markerfacecolor()) == ("white", "#0E5A66")
    assert [line.get_linestyle() for line in axes.axes.lines if len(line.get_xdata()) == 1][:1] == [":"]


def test_what_lies_beyond_the_reach_stands_at_its_edge():
    axes = Axes(chart(ChartSeries("20 W", points((7.0, 900.0, 800.0, 1000.0, 5.0), (8.0, -900.0, -950, -850, 5.0)))))

    assert list(axes.bars[0].lines[0].get_ydata()) == pytest.approx([79.5, -79.5])  # 1.06 · 75 %


def test_years_are_not_spread():
    series = [ChartSeries(name, points((2024.5, 1.0, 0.0, 2.0, 5.0)), n) for n, name in enumerate(("a", "b"))]
    axes = Axes(chart(*series, over="years"))

    assert [list(bar.lines[0].get_xdata()) for bar in axes.bars] == [[2024.5], [2024.5]]
    assert [label.get_text() for label in axes.axes.get_xticklabels()] == ["2024-07"]


@pytest.mark.parametrize(("x", "said"), [(2024.0, "2024-01"), (2024.49, "2024-06"), (2024.999, "2024-12")])
def test_a_place_in_the_years_is_said_by_its_month(x, said):
    assert chart(over="years").tick(x) == said


def test_the_files_have_the_size_asked_for_and_text_as_text():
    svg = ET.fromstring(chart_svg(TWO, 170.0, 62.0))
    data = chart_png(TWO, 100.0)
    width, height = (int.from_bytes(data[at : at + 4], "big") for at in (16, 20))

    assert float(svg.get("width").removesuffix("pt")) == pytest.approx(170.0 * 72.0 / 25.4, abs=0.01)
    assert float(svg.get("height").removesuffix("pt")) == pytest.approx(62.0 * 72.0 / 25.4, abs=0.01)
    assert (width, height) == (round(170 / 25.4 * 100 - 0.5), round(62 / 25.4 * 100 - 0.5))
    assert "frequency in MHz" in [item.text for item in svg.iter(f"{SVG}text")]
    assert chart_svg(TWO) == chart_svg(TWO)
    styles = {item.get("style") for item in svg.iter(f"{SVG}text")}
    assert styles and all(style.startswith("font-size: 7.5px; font-family: 'Inter'") for style in styles)
    room = svg.find(f".//{SVG}clipPath/{SVG}rect")  # of the axes: margins for the figures at the left and below
    across, down = 170.0 * 72.0 / 25.4, 62.0 * 72.0 / 25.4
    assert [float(room.get(name)) for name in ("x", "width", "y", "height")] == pytest.approx(
        [0.075 * across, 0.855 * across, 0.1 * down, 0.74 * down], abs=0.01
    )


@pytest.mark.parametrize(("name", "boxes"), [("line", 34.0), ("a name", 34.0), ("a longer name", None)])
def test_a_box_is_as_wide_as_its_name_and_no_narrower_than_a_plug(name, boxes):
    made = job()
    made = made.with_part(replace(made.part("load"), label=name))
    rect = list(drawn(made).iter(f"{SVG}rect"))
    found = max(float(item.get("width")) for item in rect if item.get("width"))
    assert found >= 34.0
    assert boxes is None or any(float(item.get("width")) == boxes for item in rect)


def test_of_many_places_across_those_nearest_to_even_steps_are_named():
    """As many as there is room for, the first and the last among them; few are all named."""
    few, many = (
        chart(ChartSeries("20 W", points(*((x, 0.0, -1.0, 1.0, 2.0) for x in places))))
        for places in ([2.0, 7.0, 30.0], [2.0 + n * 0.09375 for n in range(300)])
    )
    named = [x for x, _ in many.ticks]

    assert few.ticks == ((2.0, "2"), (7.0, "7"), (30.0, "30"))
    assert (named[0], named[-1]) == (2.0, many.places[-1])
    assert 10 <= len(named) <= 24
    assert max(b - a for a, b in pairwise(named)) < 1.3 * min(b - a for a, b in pairwise(named))
    assert sum(len(text) + 2 for _, text in many.ticks) <= 110
