"""Two crossing needles: SWR of forward and reflected power, and what both can be read to."""

import math

import pytest

from fenmist.kit.part import Range
from fenmist.kit.scale import Scale
from fenmist.reading.crossing import crossing
from studies.builders import arc

ARC = Range("100", 100.0, "W", Scale("arc", (0.0, 50.0, 100.0), (10, 10), 0.5))  # a division is 5 W
SMALL = Range("20", 20.0, "W", Scale("arc", (0.0, 10.0, 20.0), (10, 10), 0.5))  # and 1 W


@pytest.mark.parametrize(("forward", "reflected", "swr"), [
    (100.0, 4.0, 1.5), (100.0, 11.111111, 2.0), (100.0, 25.0, 3.0), (50.0, 22.2222222, 5.0),
])  # fmt: skip
def test_they_cross_on_the_swr_of_any_table(forward, reflected, swr):
    """Reflected over forward power: 4 %, 11.1 %, 25 %, 44.4 % (any table of SWR, from memory)."""
    assert crossing(forward, reflected, ARC, ARC, 0.25).swr == pytest.approx(swr, rel=1e-6)


def test_what_it_may_be_follows_from_a_quarter_division_of_each():
    """± 1.25 W of 100 W, ± 0.25 W of 4 W: rho from sqrt(3.75/101.25) to sqrt(4.25/98.75)."""
    found = crossing(100.0, 4.0, ARC, SMALL, 0.25)

    assert (found.low, found.high) == (pytest.approx(math.sqrt(3.75 / 101.25)), pytest.approx(math.sqrt(4.25 / 98.75)))
    assert found.swr_range == (pytest.approx(1.4767, abs=1e-3), pytest.approx(1.5231, abs=1e-3))
    assert not found.is_bound


def test_near_its_stop_only_a_bound_is_a_fact():
    found = crossing(100.0, 0.2, ARC, SMALL, 0.25)
    assert found.is_bound and found.swr_range[0] == 1.0
    assert found.swr_range[1] == pytest.approx((1 + math.sqrt(0.45 / 98.75)) / (1 - math.sqrt(0.45 / 98.75)))


def test_all_that_comes_back_and_nothing_that_goes_out():
    assert crossing(50.0, 50.0, ARC, ARC, 0.25).swr == math.inf
    assert crossing(0.0, 0.0, ARC, ARC, 0.25) is None


def test_needles_on_the_lower_range_of_an_arc():
    """8 W of 20 on an arc printed 0 to 200 stand at 80, where a division is 10: a quarter is 2.5, that is 0.25 W."""
    found = crossing(8.0, 2.0, *(Range(str(top), top, "W", arc()) for top in (20.0, 200.0)), 0.25)
    assert found.low == pytest.approx(math.sqrt(0.75 / 8.25))  # 2 W of 200: a division is 5 W
