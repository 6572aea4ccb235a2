"""Which ratio of a tap or divider is used, and what the others would give."""

from dataclasses import replace

import pytest

from fenmist.judgement.reference_rules import reference_notes
from fenmist.kit.touchstone import characterisations_from, touchstone_from_bytes
from studies.references import BENCHES


def ratio_notes(job):
    return [note for note in reference_notes(job) if note.code == "divider.ratio"]


def divider_bench(measured):
    """22 kΩ + 2.66 kΩ, called 10 to 1 (24 kΩ + 2.667 kΩ nominal)."""
    job = BENCHES["voltmeter behind a divider"]()
    part = job.part("d")
    nominal = {"R1": 24e3, "R2": 2.667e3}
    pieces = tuple(
        replace(item, nominal=nominal[item.id], measured=measured.get(item.id), u_measured=1.0)
        if item.id in nominal else item
        for item in part.components
    )  # fmt: skip
    return job.with_part(replace(part, components=pieces))


def test_measured_pieces_are_used_and_what_nominal_ones_would_give_is_said():
    """((26.667/2.667) / (24.66/2.66))² − 1 = +16.3 %: 110 W would be 128 W (handbook, derived)."""
    (note,) = ratio_notes(divider_bench({"R1": 22e3, "R2": 2.66e3}))
    assert note.what == "The divider is taken by its pieces as measured."
    off = note.evidence["the nominal values of its pieces"]
    assert off == pytest.approx((26.667 / 2.667 * 2.66 / 24.66) ** 2 - 1.0, abs=0.01)
    assert "+16" in note.why


def test_nominal_pieces_alone_leave_nothing_to_say():
    assert ratio_notes(divider_bench({})) == []


def test_a_measured_response_goes_before_the_pieces():
    job = BENCHES["sensor behind a tap"]()
    tap = job.part("tap")
    lines = ["# MHz S RI R 50"]
    for f in (0.1, 100.0):
        lines += [f"{f:g}  -0.01 0  0.99 0  0.011 0", "      0.99 0  -0.01 0  0.011 0", "      0.011 0  0.011 0  0 0"]
    tables = characterisations_from(
        touchstone_from_bytes("\n".join(lines).encode(), "t.s3p"), "t.s3p", "2026-01-01", 0.01
    )
    (note,) = ratio_notes(job.with_part(replace(tap, characterisations=tables)))
    assert "its measured response" in note.what
    assert note.evidence["the nominal values of its pieces"] != 0.0
