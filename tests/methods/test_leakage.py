"""What leaks past a tap, by the numbers of handbook 15.8."""

import math

import numpy as np
import pytest

from fenmist.errors import FenmistError
from fenmist.methods.leakage import LeakageRequest


@pytest.mark.parametrize(
    ("replaced", "worst", "codes"),
    [("-20 dBm", 0.27, []), ("-30 dBm", 0.09, []), ("-19.9 dBm", 0.27, ["leakage.too_much"]),
     ("-10 dBm", 0.83, ["leakage.too_much"])],
)  # fmt: skip
def test_what_is_left_may_add_that_much(replaced, worst, codes):
    """0.27 dB at 30 dB, 0.09 dB at 40 dB (derived in the handbook)."""
    answer = LeakageRequest("10 dBm", replaced)()

    assert answer.worst_db == pytest.approx(worst, abs=0.005)
    assert answer.lowest_db < -answer.worst_db
    assert [note.code for note in answer.notes] == codes


def test_its_uncertainty_is_that_of_any_phase():
    """1 + r·e^jφ drawn over φ, in dB."""
    phases = np.linspace(0.0, 2 * np.pi, 10_000, endpoint=False)
    off = 20 * np.log10(np.abs(1 + 10 ** (-35 / 20) * np.exp(1j * phases)))

    assert LeakageRequest("10 mW", "-25 dBm")().u_db == pytest.approx(float(np.std(off)), rel=1e-3)


@pytest.mark.parametrize(
    ("moved", "codes"), [("10.05 dBm", []), ("10.15 dBm", ["leakage.moves"]), ("9.8 dBm", ["leakage.moves"])]
)
def test_a_reading_that_moves_with_its_leads_is_no_reading(moved, codes):
    assert [note.code for note in LeakageRequest("10 dBm", "-40 dBm", moved)().notes] == codes


def test_a_bound_is_a_bound_and_more_than_before_is_without_end():
    bound, more = LeakageRequest("10 dBm", "<-50 dBm")(), LeakageRequest("10 dBm", "12 dBm")()

    assert bound.is_bound and bound.drop_db == pytest.approx(60.0)
    assert math.isinf(more.lowest_db)
    with pytest.raises(FenmistError, match="working level"):
        LeakageRequest("", "-28 dBm")()
