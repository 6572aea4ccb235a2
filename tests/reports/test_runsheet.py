"""The run sheet: laid out in time, on paper, and back from a filled form with times unknown."""

import io
from dataclasses import replace
from datetime import date

import pytest
from pypdf import PdfReader

from fenmist.calibration.planning import BY_FREQUENCY, with_points
from fenmist.calibration.schedule import BAND_S, HOOKUP_S, READING_S, schedule
from fenmist.errors import FileFormatError, UnknownIdError
from fenmist.hookup.heat import heat_model
from fenmist.hookup.templates import TEMPLATES, from_template
from fenmist.kit.generic import starter_shelf
from fenmist.procedures.benchwork import with_new_hookup
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from fenmist.reading.event import PAPER, Slot
from fenmist.reports.paper import sheet_pdf
from fenmist.reports.runsheet import form_csv, headings, minutes, read_form, run_sheet
from fenmist.session.session import Session
from studies.builders import job

TWO = {"frequencies_hz": (7e6, 14e6), "level_w": 100.0, "repeats": 2}


def test_the_run_is_laid_out_in_time():
    made = schedule(job(**TWO))

    assert [(item.point.frequency_hz, item.round) for item in made.stints] == [(7e6, 1), (7e6, 2), (14e6, 1), (14e6, 2)]
    assert made.carrier_s == 8 * READING_S
    assert made.change_s == BAND_S
    assert made.total_s == made.carrier_s + made.rest_s + made.change_s


def test_a_small_load_rests_so_that_no_round_is_beyond_its_rating():
    """The first-order model itself is the referee: replay every stint."""
    plain = job(frequencies_hz=(7e6,), level_w=140.0, repeats=9)
    made = schedule(plain)
    model = heat_model(plain.part("load"))

    assert made.rest_s > 0
    rise = 0.0
    for item in made.stints:
        rise = model.after(model.after(rise, 0.0, item.rest_s), 140.0, item.key_down_s)
        assert rise <= 1.0 + 1e-9
        assert rise == pytest.approx(item.rise_after)


def test_a_round_that_the_load_could_never_bear_is_told():
    made = schedule(job(frequencies_hz=(7e6,), level_w=20_000.0))

    assert made.too_much is not None
    assert minutes(made.rest_s) == "no limit"


def test_points_are_ordered_by_hook_up_first_then_band_then_level():
    plain = with_new_hookup(job(**TWO), from_template(TEMPLATES[0], starter_shelf(), "x"))
    other = replace(plain.plan[0], id="p9", hookup="line 2", frequency_hz=1.8e6)
    made = with_points(plain, [other], BY_FREQUENCY)

    assert [point.id for point in made.plan] == ["p1", "p2", "p9"]
    assert schedule(made).change_s == BAND_S + HOOKUP_S
    assert [point.id for point in made.to_read] == ["p1", "p2"]


def test_the_sheet_says_what_to_set_and_leaves_room():
    made = job(**TWO)
    sheet = run_sheet(made, judge(made, reduce(made), date(2026, 11, 25)), "2026-11-25")
    text = "\n".join(page.extract_text() for page in PdfReader(io.BytesIO(sheet_pdf(sheet))).pages)

    assert len(sheet.rows) == 4
    assert headings(made) == ("1. Sedge, Vpp", "2. Bittern, W")
    for said in ("Run sheet: Bittern", "14", "100", "Carrier off before touching", "1. Sedge, Vpp", "page 1 of"):
        assert said in text
    assert sheet_pdf(sheet) == sheet_pdf(sheet)


@pytest.mark.parametrize("plan", [(), tuple(replace(point, blocked="why") for point in job().plan)])
def test_with_nothing_to_read_there_is_no_sheet(plan):
    made = replace(job(), plan=plan)

    with pytest.raises(UnknownIdError, match=r"Nothing is planned to be read.*take away why a point is left out"):
        run_sheet(made, (), "2026-11-25")


def test_a_filled_form_comes_back():
    made = job(**TWO)
    lines = form_csv(made).decode("utf-8-sig").splitlines()
    filled = [lines[0], lines[1][:-1] + "200 Vpp,98", lines[2][:-1] + "201,", *lines[3:]]

    found = read_form(made, "\n".join(filled).encode(), "sheet.csv")

    assert [(item.slot, item.text, item.line) for item in found] == [
        (Slot("p1", 1, 0), "200 Vpp", 2), (Slot("p1", 1, 1), "98", 2),
        (Slot("p1", 2, 0), "201", 3),
    ]  # fmt: skip


@pytest.mark.parametrize(("change", "said"), [
    (lambda t: t.replace("point", "dot", 1), "line 1: the columns"),
    (lambda t: t.replace("p1,1", "p7,1", 1), "line 2: the plan has no"),
    (lambda t: t.replace("p1,1", "p1,8", 1), "line 2: there is no round"),
    (lambda t: t.replace("as found", "as lost", 1), "line 2: there is no phase"),
    (lambda t: t.replace("200,98", "200,98,7", 1), "line 2: more readings"),
    (lambda _: "", "line 1"),
    (lambda _: "\0", "no text"),
], ids=["headings", "point", "round", "phase", "columns", "empty", "binary"])  # fmt: skip
def test_a_form_of_something_else_is_refused_with_its_line(change, said):
    made = job(**TWO)
    lines = form_csv(made).decode("utf-8-sig").splitlines()
    text = "\n".join([lines[0], lines[1][:-1] + "200,98"])

    with pytest.raises(FileFormatError, match=said):
        read_form(made, change(text).encode(), "sheet.csv")


def test_forms_of_both_kinds_are_read():
    made = job(**TWO)
    for kind, separator in (("comma", ","), ("semicolon and decimal comma", ";")):
        lines = form_csv(made, kind=kind).decode("utf-8-sig").splitlines()
        text = "\n".join([lines[0], f"{lines[1][:-1]}200{separator}98"])
        assert len(read_form(made, text.encode(), "sheet.csv")) == 2


def test_readings_from_paper_have_no_time_count_and_are_undone_as_one(tmp_path):
    session = Session(tmp_path / "book.fenlog")
    session.logbook.add_job(job(**TWO))
    opened = session.open(job(**TWO).id)
    lines = form_csv(opened.job).decode("utf-8-sig").splitlines()
    text = "\n".join([lines[0], *(f"{line[:-1]}200,98" for line in lines[1:])])

    assert opened.take_form(text.encode(), "sheet.csv") == 8
    assert opened.take_form(text.encode(), "sheet.csv") == 0  # it stands already

    entries = [event.entry for event in opened.view.standing.values()]
    assert {(entry.origin, entry.observed_at) for entry in entries} == {(PAPER, None)}
    assert len(opened.view.result.points) == 2
    assert "drift.no_times" in {note.code for note in opened.view.notes} or opened.view.result.complete
    assert not opened.carrier.keyings
    opened.commands.undo()
    assert not opened.view.standing
    opened.commands.redo()
    assert len(opened.view.standing) == 8
    session.close()
