"""The chain behind a result, and its weakest link, from what is on record."""

from dataclasses import replace
from datetime import date, timedelta

import numpy as np
import pytest

from fenmist.calibration.chain import chain_statements, leaned_on, links, weakest
from fenmist.kit.characterisation import ChainLink, Characterisation
from fenmist.kit.part import CalibrationRecord
from fenmist.kit.tables import CORRECTION, Corrected, with_certificate
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.leaning import tree
from studies.builders import job

ROUND = [("102", "24.6")]


def recorded(made, **days):
    """Parts with a calibration on a day, due a year later."""
    for name, on in days.items():
        due = f"{int(on[:4]) + 1}{on[4:]}"
        made = made.with_part(replace(made.part(name), history=(CalibrationRecord(on, "a room", due, "N-7"),)))
    return made


def statements(made):
    return [text.replace("\u202f", " ") for text in chain_statements(made, reduce(made))]


def test_what_has_no_calibration_is_the_weakest_and_then_what_was_overdue():
    made = job([ROUND], level_w=25.0)
    assert [part.id for part in leaned_on(made)] == ["load", "scope"]
    assert statements(made) == []  # that nothing is calibrated is said of the chain as a whole
    assert weakest(made, reduce(made)) == "Reedmace: no calibration of it is on record"
    late = recorded(made, load="2025-11-01", scope="2024-11-01")
    assert statements(late) == ["The weakest link is Sedge: it was due on 2025-11-01."]
    fine = recorded(made, load="2026-10-01", scope="2026-11-01")
    (said,) = statements(fine)
    assert said.startswith("The weakest link is Sedge: ") and said.endswith(" % of the variance is from there.")
    share = float(said.split(": ")[1].split(" %")[0])
    rows = reduce(fine).budget("p1")
    assert share == pytest.approx(100 * sum(row.share for row in rows if row.influence.source_id == "scope"), abs=0.5)


CHAIN = (ChainLink("Avocet (A-7)", "2025-06-30", "a laboratory", "L-12", "2026-06-30"), ChainLink("Brent", depth=2))
TABLE = Characterisation(
    "", CORRECTION, (1e6, 30e6), (1.1, 1.2), source="certificate 25-014", measured_on="2025-11-24", unit="",
    u=(0.011, 0.018), coverage=2.0, drift_per_year=0.02, leans_on=CHAIN,
)  # fmt: skip


def corrected():
    """A reference that is taken with a correction of a year ago, and read."""
    made = job([ROUND], level_w=25.0)
    record = CalibrationRecord("2025-11-24", "the workshop", "", "25-014")
    return made.with_part(with_certificate(made.part("scope"), Corrected(TABLE, record))), "scope"


def test_a_corrected_reference_tells_what_it_leans_on_its_u_its_age_and_how_it_moves():
    made, name = corrected()
    label = made.part(name).label
    found = [link for link in links(made) if link.depth > 0]

    assert [(link.label, link.depth) for link in links(made) if link.label in ("Avocet (A-7)", "Brent")] == [
        ("Avocet (A-7)", 2), ("Brent", 3)
    ]  # fmt: skip
    assert len(found) == len(links(made))
    age = next(row for row in reduce(made).budget(made.plan[0].id) if row.influence.id.endswith(".age"))
    years = (made.created_at.date() - date(2025, 11, 24)).days / 365.25
    assert float(np.max(age.influence.standard_u)) == pytest.approx(0.02 * years)  # 2 % a year
    said = " ".join(statements(made))
    assert f"{label} is taken with its correction, certificate 25-014: U up to 3.0 %, {years:.1f} years old" in said
    assert ", moving by 2.0 % a year. It leans on Avocet (A-7) (calibrated 2025-06-30 by a laboratory, L-12)" in said
    assert "; that on Brent (no calibration on record)." in said
    assert weakest(made, reduce(made)).endswith("no calibration of it is on record")


def test_the_same_reading_of_a_later_job_is_less_well_known():
    """Whatever is remembered of the first: 2 % a year moved in one year, in three 6 %."""
    made, _ = corrected()
    later = replace(made, created_at=made.created_at + timedelta(days=730.5))
    now, then = (
        next(row for row in reduce(one).budget("p1") if row.influence.id.endswith(".age")) for one in (made, later)
    )

    assert then.influence.standard_u[0] - now.influence.standard_u[0] == pytest.approx(0.04, rel=1e-2)


def test_a_day_that_is_none_makes_no_job_unworkable():
    """A table's day is typed as one likes: “last spring” says nothing of its age, and the job is worked out."""
    made, name = corrected()
    vague = replace(TABLE, measured_on="last spring")
    part = made.part(name)
    made = made.with_part(replace(part, characterisations=(vague,)))

    assert not [row for row in reduce(made).budget(made.plan[0].id) if row.influence.id.endswith(".age")]
    assert "certificate 25-014: U up to 3.0 %, of unknown age, moving by" in " ".join(statements(made))


def test_a_certificate_is_in_the_history_once():
    made, name = corrected()
    part = made.part(name)
    again = with_certificate(part, Corrected(TABLE, part.history[-1]))

    assert [record.reference for record in again.history].count("25-014") == 1
    assert [table.quantity for table in again.characterisations].count(CORRECTION) == 1


def test_the_chain_is_a_tree_with_its_weakest_link():
    """The corrected oscilloscope, what it leaned on, and what that did, each a step deeper."""
    made, _ = corrected()
    made = recorded(made, load="2025-11-01")
    drawn = tree(made, reduce(made))

    assert [(twig.depth, twig.label, twig.under, twig.until) for twig in drawn.twigs] == [
        (1, "Reedmace", "calibrated 2025-11-01 by a room, N-7", "was due 2026-11-01"),
        (1, "Sedge", "calibrated 2025-11-24 by the workshop, 25-014", ""),
        (2, "Avocet (A-7)", "calibrated 2025-06-30 by a laboratory, L-12", "was due 2026-06-30"),
        (3, "Brent", "no calibration on record", ""),
    ]
    assert [twig.is_loose for twig in drawn.twigs] == [True, False, True, True]
    assert [twig.is_weakest for twig in drawn.twigs] == [False, False, False, True]
    assert drawn.said == "The weakest link is Brent: no calibration of it is on record."
    assert drawn.root == "Bittern"


def test_what_leans_on_nothing_has_no_tree():
    made = job([ROUND], level_w=25.0)
    bare = replace(made, channels=made.channels[1:], hookups=(replace(
        made.bench, elements=tuple(item for item in made.bench.elements if item.part != "load"),
        joints=tuple(item for item in made.bench.joints if "load" not in (item.a[0], item.b[0])),
    ),))  # fmt: skip

    assert [part.id for part in leaned_on(bare)] == []
    assert tree(bare, reduce(made)) is None
