"""Elimination of what isn't zero, against NumPy's solver."""

import numpy as np
import pytest

from fenmist.rf.sparse import eliminated


@pytest.mark.parametrize("scale", [1e-4, 1.0, 1e4])
@pytest.mark.parametrize(("pivot", "is_solved"), [(1.0, True), (1e-5, True), (1e-7, False), (0.0, False)])
def test_a_pivot_that_is_small_beside_its_row_at_one_frequency_is_refused(scale, pivot, is_solved):
    """Whatever the unit: admittances are as small as 1e-4 S, or large."""
    first = scale * np.array([1.0, pivot, 2.0j])
    beside, below, last = scale * np.ones(3), scale * np.array([0.5, 0.5, 0.5j]), scale * np.array([3.0, 2.0, 1.0])
    rows = {0: {0: first, 1: beside}, 1: {0: below, 1: last}}
    right = np.array([[[1.0] * 3, [0.0] * 3], [[0.0] * 3, [1.0] * 3]], complex)
    found = eliminated(rows, right)
    assert (found is not None) == is_solved
    if found is not None:
        matrix = np.array([[first, beside], [below, last]], complex).transpose(2, 0, 1)
        assert found.transpose(2, 0, 1) == pytest.approx(np.linalg.inv(matrix), rel=1e-9)


def test_an_unknown_that_stands_in_no_equation_of_its_own_is_refused():
    assert eliminated({0: {1: np.ones(2, complex)}, 1: {0: np.ones(2, complex)}}, np.ones((2, 1, 2), complex)) is None
    alone = eliminated({0: {0: np.full(2, 4.0 + 0j)}}, np.ones((1, 1, 2), complex))
    assert alone is not None and alone.tolist() == [[[0.25, 0.25]]]
    assert eliminated({0: {0: np.array([1.0, 0.0], complex)}}, np.ones((1, 1, 2), complex)) is None
