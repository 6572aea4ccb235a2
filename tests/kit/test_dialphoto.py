"""A scale from clicks on a photo: circles and angles chosen, clicks made of them, and what makes no arc."""

import math

import pytest

from fenmist.errors import OutOfRangeError
from fenmist.kit.dialphoto import OFF_CIRCLE, arc_through, scale_from_clicks


def on_circle(*degrees: float, radius: float = 250.0, x: float = 320.0, y: float = 400.0):
    """Clicks in pixels: y goes down; angles from the right, against the clock."""
    return [(x + radius * math.cos(math.radians(a)), y - radius * math.sin(math.radians(a))) for a in degrees]


@pytest.mark.parametrize("angles", [(150, 90, 30), (150, 120, 90, 60, 30), (170, 160, 155)])
def test_a_circle_is_found_from_three_clicks_on(angles):
    arc = arc_through(on_circle(*angles))

    assert (arc.x, arc.y, arc.radius) == pytest.approx((320.0, 400.0, 250.0), rel=1e-6)


@pytest.mark.parametrize(
    ("clicks", "said"),
    [
        (on_circle(150, 30), "three marks or more"), ([(0, 0), (10, 10), (20, 20)], "in a line"),
        ([(5, 5)] * 4, "on one spot"), ([(0, 0), (1000, 1000), (3000, 3000.0001)], "in a line"),
        ([*on_circle(150, 120, 60, 30), (320.0, 250.0)], "lies off the circle"),
    ],
    ids=["two", "line", "spot", "long line", "off"],
)  # fmt: skip
def test_clicks_that_make_no_circle_are_refused(clicks, said):
    with pytest.raises(OutOfRangeError, match=said):
        arc_through(clicks)


@pytest.mark.parametrize(("off", "fits"), [(1.0, True), (3.0, False)])
def test_a_click_may_lie_a_little_off(off, fits):
    """The top of five clicks moved out by so many times what is allowed of the radius; the fit shares it out."""
    clicks = on_circle(150, 120, 90, 60, 30)
    clicks[2] = (clicks[2][0], clicks[2][1] - off * OFF_CIRCLE * 250.0)
    if fits:
        assert arc_through(clicks).radius == pytest.approx(250.0, rel=0.1)
    else:
        with pytest.raises(OutOfRangeError, match="lies off the circle"):
            arc_through(clicks)


@pytest.mark.parametrize("turn", [1, -1], ids=["left to right", "right to left"])
def test_marks_lie_where_their_angles_are(turn):
    """0 at the left end, then a quarter and the whole of 120°; either way round, also across the jump at 180°."""
    start = 150 if turn == 1 else 30
    for shift in (0, 100):
        clicks = on_circle(*(start + shift - turn * a for a in (0, 30, 60, 120)))
        scale = scale_from_clicks(clicks, (0.0, 10.0, 20.0, 40.0), (5, 5, 4))
        assert scale.places == pytest.approx((0.0, 0.25, 0.5, 1.0))
        assert (scale.marks, scale.divisions) == ((0.0, 10.0, 20.0, 40.0), (5, 5, 4))


def test_a_dial_that_begins_above_nothing_has_its_stop_below_its_first_mark():
    """Marks 10, 20, 40 at 0, 30 and 90°: the first gap of 10 is a third, so the stop lies a third before it."""
    scale = scale_from_clicks(on_circle(150, 120, 60), (10.0, 20.0, 40.0), (5, 4))

    assert scale.places == pytest.approx((0.25, 0.5, 1.0))


def test_clicks_and_figures_have_to_match_and_to_follow_each_other():
    with pytest.raises(OutOfRangeError, match="3 marks were clicked, 4 figures are typed"):
        scale_from_clicks(on_circle(150, 90, 30), (0.0, 1.0, 2.0, 3.0), (5, 5, 5))
    for angles in ((150, 60, 90, 30), (150, 90, 90, 30)):
        with pytest.raises(OutOfRangeError, match="don't follow each other"):
            scale_from_clicks(on_circle(*angles), (0.0, 1.0, 2.0, 3.0), (5, 5, 5))
