"""The page: content from the record alone, real text, the same bytes anywhere."""

import hashlib
import io
import os
import subprocess
import sys
import textwrap
from dataclasses import replace
from datetime import date
from pathlib import Path

import pypdf
import pytest

from fenmist.errors import ReportError
from fenmist.findings.note import Answer
from fenmist.procedures.comparison.card import card
from fenmist.procedures.comparison.chart import error_chart
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from fenmist.procedures.page import LID
from fenmist.reading.event import Event, EventKind, Slot
from fenmist.records.codec import record_hash
from fenmist.reports.certificate import hookup_in_words
from fenmist.reports.drawing import chart_svg
from fenmist.reports.paper import cards_pdf, certificate_pages, certificate_pdf, sheet_pdf
from fenmist.reports.runsheet import run_sheet
from studies.builders import WHEN, enter, job
from support.paper import page_of

READ = [[("102 Vpp", "25.6"), ("101 Vpp", "25")], [("120 Vpp", "35")]]


def _job():
    made = job(READ, frequencies_hz=(7.125e6, 14.2e6), level_w=28.0)
    return replace(made, customer="Pilot boat Curlew", technician="workshop", demo=True)


def _content(made):
    result = reduce(made)
    return page_of(made, result, judge(made, result, date(2026, 11, 24)), record_hash(made))


@pytest.fixture(scope="module")
def pdf() -> pypdf.PdfReader:
    return pypdf.PdfReader(io.BytesIO(certificate_pdf(_content(_job()))))


def _text(reader: pypdf.PdfReader) -> str:
    return " ".join("\n".join(page.extract_text() for page in reader.pages).replace("\u202f", " ").split())


@pytest.mark.parametrize(
    "said",
    [
        "Bittern", "Pilot boat Curlew", "7.125 MHz", "14.2 MHz", "Sedge, accuracy", "By simple acceptance",
        "±5 % of full scale", "not traceable", "claims no accreditation", "page 1 of", "DEMO",
        "frequency in MHz", "error in per cent",
    ],
)  # fmt: skip
def test_table_chart_budget_and_statements_are_real_text(pdf, said):
    assert said in _text(pdf)


def test_it_is_pdf_a_2b_with_embedded_fonts_and_an_output_intent(pdf):
    meta = pdf.trailer["/Root"]["/Metadata"].get_data().decode()

    assert "<pdfaid:part>2</pdfaid:part>" in meta
    assert "<pdfaid:conformance>B</pdfaid:conformance>" in meta
    assert pdf.trailer["/Root"]["/OutputIntents"]
    fonts = [font.get_object() for page in pdf.pages for font in page["/Resources"]["/Font"].values()]
    assert fonts
    for font in fonts:
        descriptor = font["/DescendantFonts"][0].get_object()["/FontDescriptor"]
        assert {"/FontFile2", "/FontFile3"} & set(descriptor)


_SCRIPT = """
import hashlib, sys
sys.path.insert(0, {tests!r})
from reports_probe import content
from fenmist.reports.paper import certificate_pdf
print(hashlib.sha256(certificate_pdf(content())).hexdigest())
"""


def test_identical_records_give_identical_bytes_whatever_the_surroundings(tmp_path):
    """Two processes with different TZ, LANG, working folder and hash seed."""
    here = Path(__file__)
    probe = tmp_path / "reports_probe.py"
    probe.write_text(
        f"import importlib.util, sys\nsys.path[:0] = {[str(here.parents[1]), str(here.parents[2])]!r}\n"
        f"spec = importlib.util.spec_from_file_location('probed', {str(here)!r})\n"
        "module = importlib.util.module_from_spec(spec)\nspec.loader.exec_module(module)\n"
        "def content():\n    return module._content(module._job())\n"
    )
    digests = []
    for number, (zone, language) in enumerate((("UTC", "C"), ("Pacific/Kiritimati", "de_DE.UTF-8"))):
        folder = tmp_path / f"folder{number}"
        folder.mkdir()
        env = {**os.environ, "TZ": zone, "LANG": language, "LC_ALL": language, "PYTHONHASHSEED": str(number)}
        code = textwrap.dedent(_SCRIPT.format(tests=str(tmp_path)))
        done = subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, env=env, cwd=folder, check=True
        )
        digests.append(done.stdout.strip())

    assert digests[0] == digests[1]
    assert digests[0] == hashlib.sha256(certificate_pdf(_content(_job()))).hexdigest()


def test_another_record_gives_another_page():
    made = _job()
    other = enter(made, Slot("p1", 1, 1), "25.7")

    assert _content(other).record != _content(made).record


def test_an_answer_stands_on_the_page_with_its_note():
    made = _job()
    note = next(note for note in judge(made, reduce(made), date(2026, 11, 24)) if note.code == "load.not_nominal")
    answer = Answer(note.key, note.fingerprint, "measured twice", "workshop", WHEN)
    answered = made.with_event(Event("a", EventKind.ANSWER, WHEN, answer=answer))

    said = {what: said for _, what, _, said in _content(answered).notes}

    assert said[note.what] == "answered 2026-11-24: measured twice"


def test_a_job_without_readings_says_so_and_still_makes_a_page():
    content = _content(job())

    assert content.rows == ()
    assert content.verdict == "Nothing has been read, so there is no verdict."
    assert certificate_pdf(content).startswith(b"%PDF")


def test_the_hookup_is_told_in_words():
    assert hookup_in_words(_job()) == "Plover – Bittern – tee – Reedmace; on the tee: lead – Sedge"


def test_the_chart_has_a_series_per_level_rising_in_frequency():
    chart = error_chart(_job(), reduce(_job()))

    assert [line.label.replace("\u202f", " ") for line in chart.series] == ["28 W"]
    assert chart.places == (7.125, 14.2)
    assert chart.reach >= max(point.tolerance for line in chart.series for point in line.points)


def test_the_chart_is_the_same_svg_each_time_with_text_as_text():
    chart = error_chart(_job(), reduce(_job()))
    svg = chart_svg(chart)

    assert svg == chart_svg(chart)
    assert b"frequency in MHz</text>" in svg


def test_pages_can_be_looked_at():
    pages = certificate_pages(_content(_job()), dots_per_inch=40)

    assert all(page.startswith(b"\x89PNG") for page in pages)


NAMES = {"customer": "株式会社 鷺沢", "place": "สวัสดี", "technician": "김철수 😀", "conditions": "שלום Հայերեն"}


def test_people_and_places_are_printed_as_they_are_called():
    page = pypdf.PdfReader(io.BytesIO(certificate_pdf(_content(replace(_job(), **NAMES)))))
    text = _text(page)
    faces = " ".join(str(font.get_object()["/BaseFont"]) for font in page.pages[0]["/Resources"]["/Font"].values())

    for name in ("株式会社 鷺沢", "김철수 😀", "Հայերեն"):
        assert name in text
    assert "[U+" not in text
    for face in ("NotoSansCJK", "NotoSansThai", "NotoEmoji", "NotoSansHebrew", "NotoSansArmenian"):
        assert face in faces


@pytest.mark.parametrize(
    ("sign", "shown"), [("\u0007", "[U+0007]"), ("\ue000", "[U+E000]"), ("\u202e", "[U+202E]"), ("\x1b", "[U+001B]"),
                        ("\U00020bb7", "[U+20BB7]"), ("\U0010ffff", "[U+10FFFF]")], ids=ascii,
)  # fmt: skip
def test_what_has_no_shape_is_printed_as_its_code_everywhere(sign, shown):
    """Page, drawing, cards and run sheet are set; a fault of Fenmist was said instead."""
    made = replace(_job(), customer=f"Lock{sign}keeper")
    made = made.with_part(replace(made.dut_part, label=f"Bittern{sign}", serial=sign))
    result = reduce(made)
    content = _content(made)

    text = _text(pypdf.PdfReader(io.BytesIO(certificate_pdf(content))))
    cards = _text(pypdf.PdfReader(io.BytesIO(cards_pdf([card(made, result, LID)], "2026-11-24"))))
    sheet = _text(pypdf.PdfReader(io.BytesIO(sheet_pdf(run_sheet(made, (), "2026-11-24")))))

    assert f"Lock{shown}keeper" in text
    assert f"Bittern{shown}" in text
    assert f"Bittern{shown}" in cards
    assert f"Bittern{shown}" in sheet
    assert sign not in content.hookup_svg


def test_a_long_name_in_wide_signs_is_cut_to_its_box():
    made = _job().with_part(replace(_job().dut_part, label="鷺" * 60))

    assert "鷺…" in _content(made).hookup_svg
    assert "鷺" * 59 not in _content(made).hookup_svg


def test_an_unknown_paper_is_refused():
    with pytest.raises(ReportError, match="napkin"):
        certificate_pdf(_content(job()), paper="napkin")
