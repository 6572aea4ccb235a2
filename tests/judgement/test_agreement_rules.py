"""What is said of values that agree or don't: sentence, numbers and remedy, for numbers worked out by hand."""

import numpy as np
import pytest

from fenmist.judgement.agreement_rules import agreement_notes, explained
from fenmist.uncertainty.agreement import agreement
from support.texts import spaced

NAMES = ("Sedge", "Sallow", "sensor")


def said(values, covariance, ratios=(1.0, 1.0, 1.0)):
    found = agreement(values, covariance)
    return [
        (note.code, note.severity, spaced(note.what), spaced(note.why), spaced(note.remedy))
        for note in agreement_notes(found, NAMES[: len(values)], ratios, "p1")
    ]


def test_values_that_agree_say_nothing():
    assert said([50.0, 51.0, 50.5], np.eye(3)) == []


def test_the_odd_one_with_what_would_explain_it():
    """100 beside 50 and 51: 49.5 over 2·√1.5 is 20 times; χ² of 2 degrees of freedom."""
    assert said([50.0, 51.0, 100.0], np.eye(3), (0.66, 0.68, 1.98)) == [(
        "agreement.odd", "doubt",
        "The sensor stands apart: +98 % from what the others say, 20 times the expanded uncertainty of that "
        "difference.",
        "The others agree without it; with it χ² is 1630, which never happens where all of them are right. It looks "
        "like 3 dB: volts peak taken for rms, or a way divided by two.",
        "Look at its range, its termination and how it was read; then measure again, or leave it out with the reason.",
    )]  # fmt: skip
    assert "It looks like" not in said([50.0, 51.0, 60.0], np.eye(3), (0.9, 0.9, 1.19))[0][3]


def test_two_that_disagree_can_not_tell_who_is_wrong():
    """3.1 over 2·√1.64 is 1.21; χ² 5.86 of one degree of freedom is met once in 65 times."""
    ((code, severity, what, why, remedy),) = said([22.5, 25.6], np.diag([0.64, 1.0]))

    assert (code, severity) == ("agreement.apart", "doubt")
    assert what == "Sedge and Sallow disagree: their difference is 1.2 times its expanded uncertainty."
    assert why.startswith("χ² is 5.86, which happens once in 65 times where all of them are right.")
    assert why.endswith("Of two nobody knows which one is wrong.")
    assert remedy == "Measure it a third way that shares nothing with them."


def test_several_that_no_single_one_explains():
    found = said([50.0, 55.0, 60.0], np.eye(3))

    assert [item[0] for item in found] == ["agreement.apart"]
    assert found[0][2].startswith("Sedge and sensor disagree: their difference is 3.5 times")
    assert found[0][3].endswith("No single one of them explains it.")
    assert found[0][4] == "Look at what they have in common."


def test_two_that_lean_on_one_thing():
    ((code, severity, what, why, _),) = said([50.0, 50.3], [[1.0, 0.81], [0.81, 1.0]])

    assert (code, severity) == ("agreement.lean", "watch")
    assert what == "Sedge and Sallow agree, but lean on the same thing."
    assert why.startswith("81 % of what each is known to is shared; from 70 % on")


def test_a_negative_weight_is_explained():
    codes = [item[0] for item in said([50.0, 50.5], [[1.0, 1.8], [1.8, 4.0]])]

    assert codes == ["agreement.lean", "agreement.outside"]


@pytest.mark.parametrize(("ratio", "begins"), [
    (2.0, "3 dB"), (0.5, "3 dB"), (4.1, "6 dB"), (8.0, "9 dB"), (0.124, "9 dB"), (10.3, "10 dB"), (100.0, "20 dB"),
    (0.001, "30 dB"), (1.0, ""), (1.3, ""), (3.0, ""), (2.13, ""), (1.89, "3 dB"),
])  # fmt: skip
def test_which_slip_a_ratio_looks_like(ratio, begins):
    """Within 6 % of its factor."""
    assert explained(ratio).startswith(begins) if begins else explained(ratio) == ""
    assert explained(2.13, 0.04).startswith("3 dB")
