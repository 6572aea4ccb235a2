"""Correction cards: what stands on them, and that they are true to scale."""

import io
import re

import pypdf
import pytest

from fenmist.errors import OutOfRangeError
from fenmist.procedures.comparison.card import card
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.page import BENCH, LID, SIZES
from fenmist.reports.paper import cards_pages, cards_pdf
from studies.builders import job


def read_job(points=3):
    return job([[("102", "25.6"), ("102", "25.6")]] * points, frequencies_hz=[2e6 + 1e6 * n for n in range(points)])


def test_a_card_gives_the_factor_that_brings_a_reading_to_the_reference():
    made = read_job()
    result = reduce(made)

    found = card(made, result, LID, "26-001")

    point = result.points[0]
    assert float(found.rows[0][1]) == pytest.approx(point.reference_w / point.indicated_w, abs=0.005)
    assert len(found.rows) == 3
    assert "26-001" in found.under


def test_what_finds_no_room_is_named_and_nothing_read_is_no_card():
    made = read_job(12)

    found = card(made, reduce(made), LID)

    assert len(found.rows) == 9
    assert "11" in found.left_out and "13" in found.left_out
    with pytest.raises(OutOfRangeError):
        card(job(), reduce(job()), LID)


def test_where_the_scope_was_no_reference_the_card_shows_a_dash():
    made = job([[("102", "25.6")]] * 2, frequencies_hz=(2e6, 28e6), bandwidth_hz=30e6)

    assert [row[1] for row in card(made, reduce(made), BENCH).rows][1] == "—"


def test_both_sizes_are_set_to_scale_on_one_page():
    made = read_job()
    cards = [card(made, reduce(made), size) for size in (LID, BENCH)]

    pdf = pypdf.PdfReader(io.BytesIO(cards_pdf(cards, "2026-11-25")))

    assert len(pdf.pages) == 1
    drawn = pdf.pages[0].get_contents().get_data().decode("latin-1")
    points = [float(x) for x in re.findall(r"[-\d.]+", drawn)]
    for size in (LID, BENCH):
        for millimetres in SIZES[size]:
            wanted = millimetres * 72.0 / 25.4
            assert any(abs(abs(value) - wanted) < 0.05 for value in points), (size, millimetres)
    assert cards_pdf(cards, "2026-11-25") == cards_pdf(cards, "2026-11-25")
    assert cards_pages(cards, "2026-11-25")[0].startswith(b"\x89PNG")
