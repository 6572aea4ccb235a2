"""Loss of cables against a table, and fitting it."""

import numpy as np
import pytest

from fenmist.errors import OutOfRangeError
from fenmist.rf.cable import CABLES, cable_named, fit_cable
from support.published import published

TABLE = published("cables")["db_per_100m"]


@pytest.mark.parametrize(("label", "row"), list(TABLE.items()))
def test_losses_are_those_of_a_cable_table(label, row):
    for frequency, loss in row.items():
        made = 100 * float(cable_named(label).loss_db_per_m(float(frequency)))

        assert made == pytest.approx(loss, rel=0.02)


def test_a_fit_to_two_points_goes_through_them():
    made = fit_cable("own", 50.0, 0.66, [10e6, 100e6], [0.046, 0.161])

    assert made.loss_db_per_m([10e6, 100e6]) == pytest.approx([0.046, 0.161], rel=1e-6)


def test_a_fit_to_many_points_finds_what_made_them():
    f = np.geomspace(1e6, 500e6, 9)
    made = fit_cable("own", 50.0, 0.66, f, 1e-5 * np.sqrt(f) + 2e-10 * f)

    assert (made.k1, made.k2) == pytest.approx((1e-5, 2e-10), rel=1e-6)


def test_constants_never_become_negative():
    """Loss that rises slower than √f would ask for a negative dielectric part."""
    made = fit_cable("odd", 50.0, 0.66, [10e6, 100e6], [0.05, 0.12])

    assert made.k2 == 0.0 and made.k1 > 0.0


@pytest.mark.parametrize(("f", "loss"), [([1e6], [0.1]), ([1e6, 2e6], [0.1, 0.0]), ([0.0, 1e6], [0.1, 0.2])])
def test_too_little_to_fit_is_said(f, loss):
    with pytest.raises(OutOfRangeError, match="two points"):
        fit_cable("own", 50.0, 0.66, f, loss)


def test_an_unknown_kind_names_the_known_ones():
    with pytest.raises(OutOfRangeError, match="no kind of cable") as raised:
        cable_named("string")

    assert CABLES[0].label in raised.value.hint


@pytest.mark.parametrize("cable", CABLES, ids=lambda cable: cable.label)
def test_a_cable_is_as_fast_as_its_dielectric_lets_it_and_has_the_ohms_it_is_named_by(cable):
    """1/√ε: solid polyethylene 2.25 to 2.3, PTFE 2.0 to 2.1, foams of polyethylene 1.3 to 1.6 (common practice)."""
    ranges = {"PTFE": (0.69, 0.71), "foam polyethylene": (0.79, 0.88)}
    low, high = next((ends for name, ends in ranges.items() if name in cable.label), (0.659, 0.667))

    assert cable.line_ohm == float(cable.label.split("\u202f")[0].split()[0])
    assert low <= cable.velocity_factor <= high
