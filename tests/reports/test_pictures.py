"""Drawings against their numbers: each mark stands where its value is, in the ink that says what it means."""

import io
import math
import os
import xml.etree.ElementTree as ET
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import pytest
from pypdf import PdfReader

from fenmist.design.shapes import Shape
from fenmist.design.strays import Strays
from fenmist.procedures.page import (
    Arrival,
    Arrivals,
    Bend,
    Course,
    Gap,
    Gaps,
    Mark,
    Marked,
    Marks,
    Rings,
    Span,
    Spans,
    Spot,
    Stem,
    Stems,
    Tie,
    Tree,
    Twig,
    Voice,
    Voices,
)
from fenmist.reports.answersheet import AnswerSheet
from fenmist.reports.drawing import chart_svg
from fenmist.reports.linedrawing import line_svg
from fenmist.reports.paper import sheet_pdf
from fenmist.reports.pictures import PAPER, height_of, picture_svg
from fenmist.reports.strokes import WIDTH
from fenmist.session.circuits import circuit_of
from fenmist.session.designing import design_from, example_of
from fenmist.waveform.series import Series
from studies.builders import job
from studies.losses import loss_job
from studies.references import three_at_once
from support.designs import SWEEP, tap
from support.paper import TWO

WASH, TEAL, RUST, SECOND, HAIR, INK = PAPER.wash, PAPER.teal, PAPER.rust, PAPER.second, PAPER.hairline, PAPER.ink


def shapes(svg, tag):
    return [item.attrib for item in ET.fromstring(svg).iter(f"{{http://www.w3.org/2000/svg}}{tag}")]


def at(item, *names):
    return [float(item[name]) for name in names]


def letters(svg):
    """Texts with their places."""
    found = ET.fromstring(svg).iter("{http://www.w3.org/2000/svg}text")
    return {(item.text or "").replace("\u202f", " "): item.attrib for item in found}


def linear(pairs, tolerance=0.15):
    """Places lie on one line over their values; returns units a value, and where 0 is."""
    (v0, x0), (v1, x1) = pairs[0], pairs[-1]
    per = (x1 - x0) / (v1 - v0)
    for value, place in pairs:
        assert place == pytest.approx(x0 + per * (value - v0), abs=tolerance)
    return per, x0 - per * v0


# voices


def picture(*voices, low=48.0, value=50.0, high=52.0, ties=()):
    return Voices("at 7 MHz", "W", voices, low, value, high, ties, "said")


GOOD = Voice("Sedge <200>", 50.0, 47.0, 53.0, 0.7, False, True)
FAINT = Voice("Avocet", 51.0, 46.0, 56.0, 0.0, False, False)
ODD = Voice("Snipe", 5.0, 4.5, 5.5, 0.0, True, True)


def test_an_interval_stands_where_its_ends_are_and_the_band_where_the_consensus_is():
    made = picture(GOOD, FAINT)
    svg = picture_svg(made)
    band = shapes(svg, "rect")[0]
    dots = [float(item["cx"]) for item in shapes(svg, "circle")]
    left, right = float(band["x"]), float(band["x"]) + float(band["width"])
    per_watt = (right - left) / 4.0
    assert dots[0] == pytest.approx(left + 2.0 * per_watt, abs=0.1)
    assert dots[1] - dots[0] == pytest.approx(per_watt, abs=0.1)
    assert [item["fill"] for item in shapes(svg, "circle")] == ["#1B2A30", "none"]
    assert "no reference here" in svg
    assert "Sedge &lt;200&gt;" in svg


def test_what_lies_far_off_stands_at_the_edge_and_points_there():
    made = picture(GOOD, ODD)
    svg = picture_svg(made)
    assert made.reach == (47.0, 53.0)
    assert len(shapes(svg, "circle")) == 1
    (arrow,) = [item for item in shapes(svg, "path") if item["fill"] == "#A9480F"]
    axis = next(item for item in shapes(svg, "line") if item["stroke"] == "#C9D3D7")
    assert float(arrow["d"].split()[1]) == pytest.approx(float(axis["x1"]), abs=0.1)
    assert "stands apart" in svg
    near = picture(GOOD, replace(ODD, value=60.0, low=59.0, high=61.0))
    assert near.reach == (47.0, 61.0)
    assert len(shapes(picture_svg(near), "rect")) == 2  # the band, and a square


def test_a_tie_is_a_bracket_with_its_words_below_and_makes_the_drawing_higher():
    bare, tied = picture(GOOD, FAINT), picture(GOOD, FAINT, ties=(Tie(0, 1, 0.42, "Reedmace 150"),))
    assert height_of(tied) > height_of(bare)
    svg = picture_svg(tied)
    assert "share 42\u202f%: Reedmace 150" in svg
    assert len(shapes(svg, "path")) == 1
    assert f'viewBox="0 0 {WIDTH:g}' in svg
    assert 'viewBox="0 0 400 ' in picture_svg(tied, PAPER, 400.0)


def test_the_axis_has_three_ticks_or_more_on_round_values():
    svg = picture_svg(picture(GOOD))
    ticks = [text for text in ET.fromstring(svg).itertext() if text.endswith("\u202fW") and "±" not in text]
    assert len(ticks) >= 3
    fine = letters(
        picture_svg(picture(replace(GOOD, low=50.003, value=50.013, high=50.023), low=50.01, value=50.013, high=50.016))
    )
    assert {"50.005 W", "50.01 W", "50.015 W", "50.02 W"} <= set(fine)


# gaps

GAPS = Gaps(
    "at 14 MHz, 80 W", "dB", ("direct", "through"), (Gap("round 1", 0.02, -0.31), Gap("round 2", -0.05, -0.33)),
    0.31, 0.25, 0.37, 0.06, 0.37, "said",
)  # fmt: skip


def test_both_ticks_of_a_round_stand_at_its_ratios_and_what_lies_between_is_the_loss():
    svg = picture_svg(GAPS)
    ticks = [line for line in shapes(svg, "line") if line["x1"] == line["x2"]][:4]
    values = [0.02, -0.31, -0.05, -0.33]
    per, _ = linear(sorted(zip(values, (at(tick, "x1")[0] for tick in ticks), strict=True)))
    assert per > 0
    assert [tick["stroke"] for tick in ticks] == [SECOND, TEAL, SECOND, TEAL]
    first, second = shapes(svg, "rect")[:2]
    for box, a, b in ((first, ticks[1], ticks[0]), (second, ticks[3], ticks[2])):
        x, wide = at(box, "x", "width")
        assert (x, x + wide) == pytest.approx((at(a, "x1")[0], at(b, "x1")[0]), abs=0.2)
    for (y1, y2), box in zip((at(tick, "y1", "y2") for tick in ticks[::2]), (first, second), strict=True):
        y, high = at(box, "y", "height")
        assert (y1 + y2) / 2 == pytest.approx(y + high / 2, abs=0.1) and y1 < y < y2
    said = letters(svg)
    assert {"0.330 dB", "0.280 dB", "round 1", "round 2", "all rounds", "0.310 dB"} <= set(said)
    assert float(said["round 2"]["y"]) > float(said["round 1"]["y"])


def test_what_came_of_all_rounds_stands_on_an_axis_with_what_can_not_be_seen_as_a_wash():
    svg = picture_svg(GAPS)
    zero = next(line for line in shapes(svg, "line") if line["x1"] == line["x2"] and at(line, "y2")[0] > 125)
    (value,) = shapes(svg, "circle")
    interval = next(line for line in shapes(svg, "line") if line["stroke"] == TEAL and line["y1"] == line["y2"])
    unseen = shapes(svg, "rect")[-1]
    x, wide = at(unseen, "x", "width")
    pairs = [(0.0, at(zero, "x1")[0]), (0.06, x + wide), (0.25, at(interval, "x1")[0]), (0.31, at(value, "cx")[0]),
             (0.37, at(interval, "x2")[0])]  # fmt: skip
    linear(pairs)
    assert x == pytest.approx(at(zero, "x1")[0], abs=0.1)
    assert at(value, "cy")[0] == at(interval, "y1")[0] == pytest.approx(sum(at(zero, "y1", "y2")) / 2)
    assert "less than" not in svg


def test_a_loss_too_small_to_be_seen_is_a_bound():
    svg = picture_svg(replace(GAPS, value=0.03, low=-0.03, high=0.09, unseen=0.06, bound=0.08))
    bound = next(line for line in shapes(svg, "line") if line["stroke"] == RUST)
    zero, value = next(line for line in shapes(svg, "line") if at(line, "y2")[0] > 125), shapes(svg, "circle")[0]
    axis = next(line for line in shapes(svg, "line") if line["stroke"] == TEAL and line["y1"] == line["y2"])
    linear([(-0.03, at(axis, "x1")[0]), (0.03, at(value, "cx")[0]), (0.08, at(bound, "x1")[0]),
            (0.09, at(axis, "x2")[0])])  # fmt: skip
    assert "less than 0.080 dB" in letters(svg) or "less than 0.08 dB" in letters(svg)
    assert zero is not None


# stems

STEMS = Stems(
    "at 7 MHz", "dB", (
        Stem("0 dB", 0.0, 0.0, 0.0, 0.0), Stem("10 dB", -10.0, -0.21, -0.3, -0.12, True),
        Stem("20 dB", -20.0, 0.5, 0.35, 0.65),
    ), 0.3, -20.0, None, "said",
)  # fmt: skip


def test_a_stem_stands_at_its_step_and_as_high_as_it_departs():
    svg = picture_svg(STEMS)
    dots = shapes(svg, "circle")
    linear(sorted(zip((0.0, -10.0, -20.0), (at(dot, "cx")[0] for dot in dots), strict=True)))
    per, zero = linear(sorted(zip((0.0, -0.21, 0.5), (at(dot, "cy")[0] for dot in dots), strict=True)))
    assert per < 0  # up is more
    corridor = shapes(svg, "rect")[0]
    y, high = at(corridor, "y", "height")
    assert (y, y + high) == pytest.approx((zero + per * 0.3, zero - per * 0.3), abs=0.2)
    assert [dot["fill"] for dot in dots] == [TEAL, TEAL, RUST]  # beyond the corridor
    assert [dot["r"] for dot in dots] == ["3.5", "5", "3.5"]  # the one in hand is larger
    bars = [line for line in shapes(svg, "line") if line["x1"] == line["x2"] and line["stroke"] == SECOND]
    for bar, item in zip(bars, STEMS.stems, strict=True):
        assert at(bar, "y1", "y2") == pytest.approx([zero + per * item.low, zero + per * item.high], abs=0.2)
    stems = [line for line in shapes(svg, "line") if line["stroke-width"] == "2.5"]
    assert [at(stem, "y1")[0] for stem in stems] == pytest.approx([zero] * 3, abs=0.1)


def test_where_a_ladder_leaves_its_law_it_is_shaded_to_its_end():
    svg = picture_svg(STEMS)
    shade, dots = shapes(svg, "rect")[1], shapes(svg, "circle")
    left, wide = at(shade, "x", "width")
    assert shade["fill"] == RUST and "floor" in letters(svg) and "ceiling" not in letters(svg)
    assert left + wide == pytest.approx(at(dots[2], "cx")[0], abs=0.2)
    assert float(letters(svg)["floor"]["x"]) == pytest.approx(left + wide / 2, abs=0.2)
    upper = picture_svg(replace(STEMS, floor=None, ceiling=-10.0))
    shade = shapes(upper, "rect")[1]
    left, wide = at(shade, "x", "width")
    assert left == pytest.approx(at(shapes(upper, "circle")[1], "cx")[0], abs=0.2)
    assert left + wide == pytest.approx(WIDTH - 18.0, abs=0.2)


def test_a_wide_bar_ends_at_the_edge_and_a_ladder_that_does_not_depart_is_drawn():
    wide = replace(STEMS, stems=(Stem("0 dB", 0.0, 0.0, -9.0, 9.0),), tolerance=0.3)
    bar = next(
        line for line in shapes(picture_svg(wide), "line") if line["x1"] == line["x2"] and "2.5" not in line.values()
    )
    assert at(bar, "y1")[0] > 0 and at(bar, "y2")[0] < height_of(wide)
    flat = replace(STEMS, stems=(Stem("0 dB", 0.0, 0.0, 0.0, 0.0),), tolerance=0.0, floor=None)
    assert len(shapes(picture_svg(flat), "circle")) == 1


# rings

RINGS = Rings(
    "at 14 MHz", 0.15, 0.2, 0.25, (Spot("25 ohm", -0.3, 0.1, 0.02, 0.01), Spot("other", 0.3, 0.0, 0.0, 0.0, False)),
    True, (0.27, 0.37), ((0.25, "SWR 1.67"), (0.15, "SWR 1.35")), ("ring: read", "spot: known"), False, "said",
    (0.1, 0.12),
)  # fmt: skip


def test_ring_and_spot_stand_in_one_plane_at_one_scale():
    svg = picture_svg(RINGS)
    circles = shapes(svg, "circle")
    across = min(290.0, 0.56 * WIDTH)
    middle, unit = across / 2, (across / 2 - 14.0) / RINGS.reach
    around = [c for c in circles if at(c, "cx", "cy") == pytest.approx([middle, middle], abs=0.1)]
    radii = [at(c, "r")[0] / unit for c in around]
    assert radii == pytest.approx([0.25, 0.15, 0.2, 0.1, 0.12], abs=2e-3)
    assert [c["stroke"] for c in around] == [RUST, RUST, RUST, SECOND, SECOND]  # they stand apart
    (spot,) = shapes(svg, "ellipse")
    assert at(spot, "cx", "cy") == pytest.approx([middle - 0.3 * unit, middle - 0.1 * unit], abs=0.1)
    assert at(spot, "rx", "ry") == pytest.approx([0.02 * unit, max(0.01 * unit, 1.0)], abs=0.1)
    other = next(c for c in circles if at(c, "r") == [3.0])
    assert at(other, "cx", "cy") == pytest.approx([middle + 0.3 * unit, middle], abs=0.1)
    # what it may show, along the way from the centre to the spot
    bar = shapes(svg, "line")[0]
    ends = [math.hypot(x - middle, y - middle) / unit for x, y in (at(bar, "x1", "y1"), at(bar, "x2", "y2"))]
    assert ends == pytest.approx([0.27, 0.37], abs=2e-3)
    x, y = at(bar, "x1", "y1")
    assert (y - middle) / (x - middle) == pytest.approx(0.1 / 0.3, rel=0.02)
    for cross in shapes(svg, "line")[1:3]:  # ends across that way
        a, b = (complex(*at(cross, "x2", "y2")) - complex(*at(cross, "x1", "y1"))), complex(x - middle, y - middle)
        assert (a * b.conjugate()).real / abs(a) / abs(b) == pytest.approx(0.0, abs=0.03)
    said = letters(svg)
    assert float(said["SWR 1.67"]["y"]) < middle - 0.25 * unit < float(said["SWR 1.35"]["y"])
    assert any("stand apart" in text for text in said) and "small circles: the other ends" in said
    assert "as far out" in " ".join(said)


def test_a_spot_of_open_phase_may_lie_all_around_and_the_rim_is_drawn_where_it_fits():
    svg = picture_svg(replace(RINGS, has_phase=False, agrees=True, other=None))
    dotted = [c for c in shapes(svg, "circle") if c.get("stroke-dasharray") == "1 3"]
    unit = (min(290.0, 0.56 * WIDTH) / 2 - 14.0) / RINGS.reach
    assert at(dotted[0], "r")[0] / unit == pytest.approx(math.hypot(0.3, 0.1), abs=2e-3)
    assert any("ring and spot touch" in text for text in letters(svg))
    whole = replace(RINGS, high=0.9, shown=0.8, low=0.7)
    svg = picture_svg(whole)
    rim = next(c for c in shapes(svg, "circle") if c["stroke"] == HAIR)
    assert at(rim, "r")[0] == pytest.approx((min(290.0, 0.56 * WIDTH) / 2 - 14.0) / 1.05, abs=0.1)
    assert "as far out" not in " ".join(letters(svg))


def test_words_beside_the_plane_are_broken_and_follow_each_other():
    svg = picture_svg(
        replace(RINGS, lines=("a line that is so long that it can not stand beside the plane in one row",)), width=420.0
    )
    beside = [item for text, item in letters(svg).items() if not text.startswith("SWR")]
    places = [at(item, "y")[0] for item in beside]
    assert all(b - a in (pytest.approx(15.0), pytest.approx(22.0)) for a, b in pairwise(places))
    assert len({item["x"] for item in beside}) == 1


# marks and bends

MARKS = Marks(
    "at 7 MHz, 100 W PEP",
    (
        Marked("two-tone", 0.41, 0.39, 0.43, (Mark("thermal", 0.5), Mark("averaging", 0.405), Mark("true peak", 1.0))),
        Marked("dots 1 Hz", 0.25, 0.23, 0.27,
               (Mark("thermal", 0.5), Mark("averaging", 0.25), Mark("true peak", 1.0)), True),
    ), "averaging", "said",
)  # fmt: skip


def test_what_was_shown_reaches_the_mark_of_its_detector():
    svg = picture_svg(MARKS)
    ticks = [line for line in shapes(svg, "line") if line["stroke"] == HAIR]
    per, zero = linear([(tenth / 10, at(tick, "x1")[0]) for tenth, tick in zip(range(0, 11, 2), ticks, strict=True)])
    bars = [line for line in shapes(svg, "line") if line["stroke"] == TEAL and line["y1"] == line["y2"]]
    for bar, row in zip(bars, MARKS.rows, strict=True):
        assert at(bar, "x1", "x2") == pytest.approx([zero + per * row.low, zero + per * row.high], abs=0.2)
    fills = [at(box, "x", "width") for box in shapes(svg, "rect")]
    assert [x + wide for x, wide in fills] == pytest.approx([zero + per * 0.41, zero + per * 0.25], abs=0.2)
    found = [line for line in shapes(svg, "line") if line["stroke"] == RUST]
    assert [at(line, "x1")[0] for line in found] == pytest.approx([zero + per * 0.405, zero + per * 0.25], abs=0.2)
    said = letters(svg)
    assert said["dots 1 Hz"]["fill"] == INK and said["two-tone"]["fill"] == SECOND
    assert height_of(MARKS) > height_of(replace(MARKS, rows=MARKS.rows[:1]))
    # names that are too near stand one line lower
    assert float(said["thermal"]["y"]) >= float(said["averaging"]["y"])


BEND = Bend(
    "gain", "power shown", "W", ((10.0, 8.0), (20.0, 22.0), (40.0, 58.0), (60.0, 60.0)), 41.4, 38.0, 44.4, 60.0,
    ((10.0, 6.9), (41.4, 60.0), (60.0, 60.0)), 40.0, "said",
)  # fmt: skip


def test_two_lines_meet_at_the_knee_and_the_setting_stands_before_it():
    svg = picture_svg(BEND)
    dots = shapes(svg, "circle")
    per_x, x0 = linear([(gain, at(dot, "cx")[0]) for (gain, _), dot in zip(BEND.points, dots, strict=True)])
    per_y, y0 = linear([(power, at(dot, "cy")[0]) for (_, power), dot in zip(BEND.points, dots, strict=True)])
    assert per_x > 0 > per_y
    rising, standing = (line for line in shapes(svg, "line") if line["stroke"] == TEAL)
    assert (
        at(rising, "x2", "y2")
        == at(standing, "x1", "y1")
        == pytest.approx([x0 + per_x * 41.4, y0 + per_y * 60.0], abs=0.2)
    )
    assert at(rising, "y1")[0] == pytest.approx(y0 + per_y * (60.0 - 1.69 * 31.4), abs=0.2)
    x, wide = at(shapes(svg, "rect")[0], "x", "width")
    assert (x, x + wide) == pytest.approx((x0 + per_x * 38.0, x0 + per_x * 44.4), abs=0.2)
    setting = next(line for line in shapes(svg, "line") if line["stroke"] == RUST)
    assert at(setting, "x1")[0] == pytest.approx(x0 + per_x * 40.0, abs=0.1)
    assert {"set 40", "knee", "60", "0", "10", "20"} <= set(letters(svg))
    bare = picture_svg(replace(BEND, knee=None, setting=None))
    assert shapes(bare, "rect") == [] and "58" not in letters(bare) and "60" in letters(bare)


def test_a_course_is_shaded_while_it_is_above_its_level():
    points = ((0.0, 12.0), (0.5, 4.0), (1.0, 9.0), (2.0, 30.0), (4.0, 30.0))
    series = Series("", False, *(tuple(column) for column in zip(*points, strict=True)))
    svg = picture_svg(Course("power", "W", points, 10.0, series.times_above(10.0), "said"))
    dots = shapes(svg, "circle")
    per_x, x0 = linear([(time, at(dot, "cx")[0]) for (time, _), dot in zip(points, dots, strict=True)])
    per_y, y0 = linear(sorted((power, at(dot, "cy")[0]) for (_, power), dot in zip(points, dots, strict=True)))
    assert per_x > 0 > per_y
    limit = next(item for item in shapes(svg, "line") if item["stroke"] == RUST)
    assert at(limit, "y1", "y2") == pytest.approx([y0 + per_y * 10.0] * 2, abs=0.1)
    spans = [(x, x + wide) for x, wide in (at(box, "x", "width") for box in shapes(svg, "rect"))]
    times = [(0.0, 0.125), (1.0 + 1.0 / 21.0, 4.0)]
    for (begin, end), (first, last) in zip(spans, times, strict=True):
        assert (begin, end) == pytest.approx((x0 + per_x * first, x0 + per_x * last), abs=0.2)
    assert {"0", "10", "30", "2", "4"} <= set(letters(svg))


def test_courses_of_other_bands_share_its_axes_and_are_named():
    other = ((0.0, 5.0), (8.0, 60.0))
    made = replace(COURSE, label="1.8 MHz", others=(("3.6 MHz", other),), most=20.0)
    svg, alone = picture_svg(made), picture_svg(COURSE)
    dashed = [item for item in shapes(svg, "line") if item.get("stroke-dasharray") == "6 3"]
    course, sample = sorted(dashed, key=lambda item: -abs(at(item, "y1")[0] - at(item, "y2")[0]))
    most, limit = sorted(
        (item for item in shapes(svg, "line") if item["stroke"] == RUST), key=lambda one: at(one, "y1")
    )

    assert {"1.8 MHz", "3.6 MHz", "8", "20", "60", "10"} <= set(letters(svg))
    assert not {"1.8 MHz", "3.6 MHz", "20"} & set(letters(alone))
    assert "30" in letters(alone) and "30" not in letters(svg)  # 60 is the highest there
    assert at(course, "y2")[0] < min(at(dot, "cy")[0] for dot in shapes(svg, "circle"))  # 60 W lies above 30 W
    assert at(course, "x2")[0] == pytest.approx(at(limit, "x2")[0], abs=0.1)  # to its end, the latest of all
    assert at(sample, "y1")[0] < at(course, "y2")[0]
    zero = next(at(item, "y1")[0] for item in shapes(svg, "line") if at(item, "y1") == at(item, "y2")
                and item["stroke"] not in (RUST, PAPER.teal) and not item.get("stroke-dasharray"))  # fmt: skip
    assert zero - at(most, "y1")[0] == pytest.approx(2.0 * (zero - at(limit, "y1")[0]), abs=0.2)  # 20 and 10 W


def test_names_of_courses_stand_beside_each_other_and_end_before_the_edge():
    """A letter of 12 units is about half as wide."""
    made = replace(COURSE, label="at 1.8 MHz", others=(("at 144 MHz", ((0.0, 5.0), (8.0, 9.0))),))
    named = letters(picture_svg(made))
    samples = [at(item, "x1", "x2") for item in shapes(picture_svg(made), "line") if at(item, "y1", "y2") == [12, 12]]
    first, other = (at(named[name], "x")[0] for name in ("at 1.8 MHz", "at 144 MHz"))

    assert first + 6.0 * 10 < min(begin for begin, _ in samples if begin > first)
    assert other + 6.0 * 10 < WIDTH
    assert sorted(end for _, end in samples) == pytest.approx([first - 5.0, other - 5.0])


def test_a_page_tells_what_its_picture_shows_to_those_who_cant_see_it_and_can_be_without_one():
    sheet = AnswerSheet("Gain", "2026-11-24", False, "as asked", (), (), COURSE, (), ())

    def told(made):
        left, found = [PdfReader(io.BytesIO(sheet_pdf(made))).trailer["/Root"]["/StructTreeRoot"]], []
        while left:
            item = left.pop()
            item = item.get_object() if hasattr(item, "get_object") else item
            if isinstance(item, list):
                left += item
            elif isinstance(item, dict):
                found += [item["/Alt"]] if "/Alt" in item else []
                left += [item["/K"]] if "/K" in item else []
        return found

    assert told(sheet) == [COURSE.said]
    assert told(replace(sheet, picture=None)) == []


# as they were looked at and found good

APPROVED = Path(__file__).parent / "approved"
COURSE = Course(
    "power", "W", ((0.0, 12.0), (0.5, 4.0), (1.0, 9.0), (2.0, 30.0), (4.0, 30.0)), 10.0, ((0.0, 0.125), (1.05, 4.0)),
    "said",
)  # fmt: skip
BY = (Span("by current", 1.7, 2.7, 4.3, True), Span("by power", 2.9, 5.0, 8.5, False))
WAYS = Spans("EIRP", "W", BY, 5.0, "limit 5 W", "said")
ARRIVALS = Arrivals(
    ("set", "own meter", "external meter"),
    (Arrival("100 W, antenna, SWR 4.00", (1.0, 0.6, 0.55)), Arrival("100 W, load, SWR 1.05", (1.0, 1.01, 0.98))),
    (("the antenna", 0.65), ("the line", 0.35)), "said",
)  # fmt: skip
TREE = Tree(
    "Bittern", (
        Twig(1, "Sedge", "calibrated 2025", "due 2027", False, False),
        Twig(2, "Avocet", "no calibration on record", "", True, True),
        Twig(1, "Reedmace", "calibrated 2026", "", False, False),
    ), "said",
)  # fmt: skip
PICTURES = {
    "ways": WAYS,
    "ways-wide": replace(WAYS, spans=(Span("by field", 0.01, 1.0, 100.0, True),), limit=None),
    "arrivals": ARRIVALS,
    "arrivals-little": replace(ARRIVALS, sightings=(Arrival("dead", (1.0, 0.0, 1e-5)),)),
    "tree": TREE,
    "gaps": GAPS,
    "gaps-bound": replace(GAPS, value=0.03, low=-0.03, high=0.09, unseen=0.06, bound=0.08),
    "stems": STEMS,
    "stems-ceiling": replace(STEMS, floor=None, ceiling=-10.0),
    "rings": RINGS,
    "rings-rim": replace(RINGS, high=0.9, shown=0.8, low=0.7, has_phase=False, agrees=True),
    "marks": MARKS,
    "bend": BEND,
    "bend-none": replace(BEND, knee=None, setting=None),
    "course": COURSE,
    "sweep": SWEEP,
    "sweep-alone": replace(SWEEP, lines=SWEEP.lines[:1], measured_u=(), unit=""),
    "circuit-tap": circuit_of(tap(Strays(trim_f=0.15e-12), block_f=1e-7)),
    "circuit-winding": circuit_of(design_from(Shape.TRANSFORMER_TAP, example_of(Shape.TRANSFORMER_TAP))),
    "circuit-tee": circuit_of(design_from(Shape.TEE_PAD, example_of(Shape.TEE_PAD))),
    "circuit-star": circuit_of(design_from(Shape.STAR, example_of(Shape.STAR))),
    "voices": picture(GOOD, FAINT, ODD, ties=(Tie(0, 1, 0.42, "Reedmace 150"),)),
    "voices-above": picture(
        replace(GOOD, name="A name that doesn't fit here"), replace(ODD, value=500.0, low=450.0, high=550.0)
    ),
    "voices-fine": picture(replace(GOOD, value=50.013, low=50.003, high=50.023), low=50.01, value=50.013, high=50.016),
    "rings-far": replace(
        RINGS, low=0.6, shown=0.7, high=0.8, spots=(*RINGS.spots, Spot("far", 1.2, 0.0, 0.0, 0.0, False))
    ),
    "voices-near": picture(GOOD, replace(ODD, value=60.0, low=59.0, high=61.0)),
    "voices-edge": picture(replace(GOOD, low=10.0), low=51.9, value=52.5, high=53.0),
    "voices-half": picture(replace(GOOD, value=47.6, low=47.0, high=48.3), low=47.4, value=47.6, high=47.8),
    "stems-edge": replace(STEMS, floor=None, ceiling=-0.01),
    "rings-alone": replace(RINGS, spots=RINGS.spots[:1], other=None, low=0.5),
}
WIDE = {"voices-above": 320.0, "voices-edge": 320.0, "rings-far": 320.0}  # fmt: skip


@pytest.mark.parametrize("name", list(PICTURES))
def test_a_drawing_is_as_it_was_approved(name):
    approved(name, picture_svg(PICTURES[name], PAPER, WIDE.get(name, WIDTH)))


def approved(name, svg):
    """Margins, sizes and inks are matters of the eye: what changes here is looked at, then kept (FENMIST_APPROVE=1)."""
    svg, kept = svg.replace("><", ">\n<"), APPROVED / f"{name}.svg"
    if os.environ.get("FENMIST_APPROVE"):
        kept.write_text(svg, "utf-8")
    assert svg == kept.read_text("utf-8"), f"look at {name}.svg, and keep it if it is good"


CHARTS = {"chart": TWO, "chart-level": replace(TWO, over="level"), "chart-of-one": replace(TWO, series=TWO.series[:1])}


@pytest.mark.parametrize("name", list(CHARTS))
def test_a_chart_is_as_it_was_approved(name):
    approved(name, chart_svg(CHARTS[name]).decode())


LINES = {"line": job(), "line-three": three_at_once(), "line-loss": loss_job("two couplers")}


@pytest.mark.parametrize("name", list(LINES))
def test_a_line_is_as_it_was_approved(name):
    approved(name, line_svg(LINES[name], LINES[name].bench))


# ways


def test_ways_stand_on_an_axis_of_ratios_with_the_limit_across():
    """Equal ratios are equal lengths: 1 to 4 as long as 4 to 16; the stated one has the wash."""
    spans = (Span("by current", 1.0, 4.0, 16.0, True), Span("by power", 2.0, 8.0, 32.0, False))
    svg = picture_svg(Spans("EIRP", "W", spans, 8.0, "limit 8 W", "said"))
    first, second = (float(item["cx"]) for item in shapes(svg, "circle"))
    (band,) = [item for item in shapes(svg, "rect") if item["fill"] == PAPER.wash]
    left, right = float(band["x"]), float(band["x"]) + float(band["width"])
    assert first - left == pytest.approx(right - first, abs=0.2)
    assert second - first == pytest.approx((right - left) / 4.0, abs=0.2)  # twice, of sixteen times
    (limit,) = [item for item in shapes(svg, "line") if item["stroke"] == PAPER.rust]
    assert float(limit["x1"]) == float(limit["x2"]) == pytest.approx(second, abs=0.1)
    said = letters(svg)
    assert {"by current", "by power", "limit 8 W", "EIRP in W", "1", "2", "5", "10", "20"} <= set(said)
    assert [item["stroke"] for item in shapes(svg, "line") if item["y1"] == item["y2"]][1:] == [
        PAPER.teal,
        PAPER.second,
    ]
    bare = picture_svg(Spans("EIRP", "W", spans[:1], None, "", "said"))
    assert not [item for item in shapes(bare, "line") if item["stroke"] == PAPER.rust]
    assert height_of(Spans("", "", spans, None, "", "")) - height_of(Spans("", "", spans[:1], None, "", "")) == 44.0


# what arrives


def test_what_arrives_falls_from_station_to_station_and_odds_are_as_long_as_they_are_large():
    sightings = (Arrival("first", (1.0, 0.5, 0.5)), Arrival("second", (1.0, None, 0.25)))
    made = Arrivals(("set", "own", "external"), sightings, (("the line", 0.75), ("the antenna", 0.25)), "said")
    svg = picture_svg(made)
    places = [(float(item["cx"]), float(item["cy"])) for item in shapes(svg, "circle")]
    top, half, quarter = places[0][1], places[1][1], places[4][1]
    assert half - top == pytest.approx(quarter - half, abs=0.2)  # a half, and a half of that
    assert [x for x, _ in places[:3]] == pytest.approx(
        [places[0][0] + n * (places[1][0] - places[0][0]) for n in range(3)]
    )
    assert places[4][0] == pytest.approx(places[2][0], abs=0.1)  # nothing was read in between
    sloped = [item for item in shapes(svg, "line") if item["stroke"] in (PAPER.rust, PAPER.teal)]
    assert [item["stroke"] for item in sloped] == [PAPER.rust, PAPER.teal, PAPER.rust]
    first, second = [item for item in shapes(svg, "rect") if item["fill"] in (PAPER.teal, PAPER.wash)]
    assert float(first["width"]) == pytest.approx(3.0 * float(second["width"]), abs=0.1)
    assert {"set", "own", "external", "1: first", "2: second", "the line", "75 %", "100 %", "50 %"} <= set(letters(svg))
    assert height_of(made) == height_of(replace(made, odds=made.odds[:1])) + 24.0


@pytest.mark.parametrize("part", [0.9, 1e-4])
def test_letters_of_sightings_that_end_alike_stand_apart_and_above_the_stations(part):
    alike = tuple(Arrival(f"s{n}", (1.0, part)) for n in range(4))
    svg = picture_svg(Arrivals(("set", "own"), alike, (), "said"))
    texts = [(node.text or "", float(node.get("y"))) for node in ET.fromstring(svg).iter() if node.get("y")]
    lines = sorted(y for text, y in texts if text[3:] in ("s0", "s1", "s2", "s3"))

    assert [b - a for a, b in pairwise(lines)] == pytest.approx([13.0] * 3)
    assert lines[-1] < next(y for text, y in texts if text == "own") - 10.0


# the chain


def test_each_link_stands_deeper_than_what_leans_on_it_and_the_weakest_is_marked():
    twigs = (
        Twig(1, "Sedge", "calibrated 2025", "", False, False),
        Twig(2, "Avocet", "calibrated 2024", "due 2027", False, False),
        Twig(3, "Brent", "no calibration on record", "", True, True),
        Twig(1, "Reedmace", "calibrated 2025", "", False, False),
    )
    svg = picture_svg(Tree("Bittern", twigs, "said"))
    root, *dots = shapes(svg, "circle")
    xs = [float(item["cx"]) for item in dots]
    assert xs[1] - xs[0] == pytest.approx(xs[2] - xs[1]) == pytest.approx(xs[0] - float(root["cx"]))
    assert xs[3] == xs[0]
    assert [item["fill"] for item in dots] == [PAPER.teal, PAPER.teal, PAPER.rust, PAPER.teal]
    ups = [item for item in shapes(svg, "line") if item["x1"] == item["x2"]]
    assert float(ups[3]["y1"]) == float(ups[0]["y1"]) < float(ups[1]["y1"])  # Reedmace hangs on the root
    assert {"Brent: the weakest link", "Avocet, due 2027", "Sedge", "calibrated 2024"} <= set(letters(svg))
    assert height_of(Tree("", twigs, "")) - height_of(Tree("", twigs[:1], "")) == 120.0
