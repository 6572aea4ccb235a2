"""Arcs: marks, divisions, the law of the movement."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenmist.errors import OutOfRangeError
from fenmist.kit.scale import Scale
from studies.builders import arc


@pytest.mark.parametrize(
    ("mark", "divisions", "value"), [(20, 3.5, 37.5), (0, 1, 5.0), (60, 0, 60.0), (140, 6, 200.0), (200, 0, 200.0)]
)
def test_mark_and_divisions_give_the_printed_value(mark, divisions, value):
    assert arc().value_of_pointer(mark, divisions) == pytest.approx(value)


@pytest.mark.parametrize(("mark", "divisions"), [(30, 1), (20, 5), (200, 1), (20, -1)])
def test_a_pointer_that_is_nowhere_on_the_arc_is_refused(mark, divisions):
    with pytest.raises(OutOfRangeError) as caught:
        arc().value_of_pointer(mark, divisions)

    assert caught.value.hint


@pytest.mark.parametrize(("value", "size"), [(10, 5.0), (20, 5.0), (50, 5.0), (70, 10.0), (60, 10.0), (199, 10.0)])
def test_the_local_division_is_where_the_needle_is(value, size):
    """At a mark between two spacings the coarser one counts."""
    assert arc().division_at(value) == pytest.approx(size)


@given(st.floats(0.0, 200.0))
def test_deflection_and_value_undo_each_other(value):
    scale = arc()

    assert scale.value_at(scale.deflection(value)) == pytest.approx(value, abs=1e-9)


def test_a_volts_linear_movement_shows_a_quarter_of_the_power_at_half_scale():
    assert arc().deflection(50.0) == pytest.approx(0.5)


def test_minor_marks_lie_between_the_labelled_ones():
    minor = arc().minor_marks()

    assert minor[:4] == pytest.approx((5.0, 10.0, 15.0, 25.0))
    assert not set(minor) & set(arc().marks)


@pytest.mark.parametrize(("marks", "divisions", "law"), [
    ((0, 10), (2, 2), 1), ((10, 5), (2,), 1), ((0,), (), 1), ((0, 10), (0,), 1), ((-5, 5), (2,), 1),
    ((0, 10), (2,), 9),
])  # fmt: skip
def test_a_scale_that_can_not_be_is_refused(marks, divisions, law):
    with pytest.raises(OutOfRangeError):
        Scale("bad", marks, divisions, law)
