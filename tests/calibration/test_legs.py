"""What several hook-ups share: one error of whatever size in each, and what belongs to a single reading."""

import numpy as np
import pytest

from fenmist.calibration.legs import BETWEEN, between_visits, group_units, joined_legs
from fenmist.calibration.rounds import PointReadings
from fenmist.uncertainty.influence import influence
from studies.losses import loss_job


def one(name: str, estimate: float = 1.0, u: object = 0.01, sharing: object = None, ensemble: str = ""):
    return influence(name, name, estimate, u, points=2, sharing=sharing, ensemble=ensemble)


def ids(legs) -> list[str]:
    return [item.id for item in legs.influences]


def test_the_same_in_both_is_one():
    legs = joined_legs((("a", [one("c.coupling")]), ("b", [one("c.coupling")])))

    assert ids(legs) == ["c.coupling"]
    x = {"c.coupling": np.array([1.02, 1.03])}
    assert legs.of(0, x)["c.coupling"] is x["c.coupling"]
    assert legs.of(1, x)["c.coupling"] is x["c.coupling"]


def test_a_share_of_full_scale_is_one_error_of_another_size_in_each():
    """5 W of 100 W and of 50 W: 5 % and 10 %; what is +1 % in the first is +2 % in the second, about its own value."""
    legs = joined_legs((("a", [one("m.gain", 1.0, 0.05)]), ("b", [one("m.gain", 3.0, 0.1)])))

    assert ids(legs) == ["m.gain"]
    assert legs.influences[0].standard_u == pytest.approx([0.05, 0.05])
    x = {"m.gain": np.array([1.01, 1.0])}
    assert legs.of(0, x)["m.gain"] == pytest.approx([1.01, 1.0])
    assert legs.of(1, x)["m.gain"] == pytest.approx([3.02, 3.0])


@pytest.mark.parametrize("scale", [1.0 + 1e-6, 1.25])
def test_a_little_larger_is_larger(scale):
    legs = joined_legs((("a", [one("m.gain")]), ("b", [one("m.gain", u=0.01 * scale)])))
    assert legs.of(1, {"m.gain": np.array([1.01, 1.0])})["m.gain"][0] - 1.0 == pytest.approx(0.01 * scale, rel=1e-9)


@pytest.mark.parametrize("name", ["s.reading", "s.noise", "s.noise_floor", "x.repeat", "x.drift", "s.linearity"])
def test_what_belongs_to_one_reading_is_another_one_in_each(name):
    legs = joined_legs((("a", [one(name, 1.0)]), ("b", [one(name, 2.0, ensemble="rounds")])))

    assert ids(legs) == [name, f"{name}, b"]
    second = legs.influences[1]
    assert (second.label, second.ensemble) == (f"{name}, b", "rounds, b")
    x = {name: np.array([1.0, 1.0]), f"{name}, b": np.array([2.5, 2.0])}
    assert legs.of(1, x)[name] == pytest.approx([2.5, 2.0])


@pytest.mark.parametrize("other", [one("p.loss", u=0.0), one("p.loss", u=[0.01, 0.0]), one("p.loss", sharing=[0, 1])])
def test_what_can_not_be_one_error_is_two(other):
    legs = joined_legs((("a", [one("p.loss", sharing=[0, 0])]), ("b", [other])))
    assert ids(legs) == ["p.loss", "p.loss, b"]


def test_what_a_question_calls_its_own_is_another_one_in_each():
    legs = joined_legs(
        (("a", [one("c~s.mismatch"), one("c.loss")]), ("b", [one("c~s.mismatch"), one("c.loss")])),
        lambda name: "~" in name,
    )
    assert ids(legs) == ["c~s.mismatch", "c.loss", "c~s.mismatch, b"]


def test_what_stands_in_the_second_alone_keeps_its_name():
    legs = joined_legs((("a", [one("c.loss")]), ("b", [one("r.gain"), one("r.reading")])))
    assert ids(legs) == ["c.loss", "r.gain", "r.reading, b"]


def test_what_moved_at_one_point_is_a_limit_there():
    """± 0.02, rectangular, at the second of two points; nothing where nothing moved."""
    assert between_visits(np.zeros(2), "ratio") == ()
    (found,) = between_visits(np.array([0.0, 0.02]), "ratio")

    assert found.id == BETWEEN
    assert found.standard_u == pytest.approx([0.0, 0.02 / 3**0.5])
    assert len(set(found.sharing)) == 2


def test_a_group_is_worked_out_once_both_sides_were_read():
    plan = loss_job("two couplers").plan
    direct, through, again = (PointReadings(point, (object(),), 0, 0, 0, {}, 1) for point in plan)  # type: ignore[arg-type]
    unread = PointReadings(plan[0], (), 0, 0, 0, {}, 1)

    def leads(item):
        return item.point.leg == "through"

    assert group_units((direct, through, again), leads) == ((through, direct, again),)
    assert group_units((unread, through, again), leads) == ((through, again),)
    assert group_units((direct, again), leads) == ()
    assert group_units((unread, through), leads) == ()
