"""Results for other programs: read back by the standard library and by a general-purpose spreadsheet library."""

import csv
import io
from dataclasses import replace

import openpyxl
import pytest

from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.tables import COLUMNS, result_table
from fenmist.reports.resultfile import SEMICOLON, csv_bytes, head_table, text_table, xlsx_bytes
from studies.builders import WHEN, job

EVIL = ("=1+1", "+cmd|' /C calc'!A0", "-2", "@sum", "\t=1", "http://example.invalid/")


def made():
    return replace(job([[("102", "25.6")]]), title=EVIL[0], customer=EVIL[1], place=EVIL[5])


def test_csv_gives_every_number_back_under_its_heading():
    result = reduce(made())

    rows = list(csv.reader(io.StringIO(csv_bytes(result_table(result)).decode("utf-8-sig"))))

    found = dict(zip(rows[0], rows[1], strict=True))
    assert rows[0] == [*COLUMNS, "waveform", "statistic"]
    assert float(found["error / W"]) == pytest.approx(result.points[0].error_w, rel=1e-8)
    assert float(found["U(error) / W"]) == pytest.approx(result.points[0].expanded_u_w, rel=1e-8)


def test_semicolons_come_with_decimal_commas():
    text = csv_bytes(result_table(reduce(made())), SEMICOLON).decode("utf-8-sig")
    row = text.splitlines()[1].split(";")

    assert len(row) == len(COLUMNS) + 2  # what is sent
    assert row[1] == "7125000"
    assert "," in row[5] and "." not in row[5]


def test_no_text_is_a_formula_in_csv_or_on_the_clipboard():
    rows = list(csv.reader(io.StringIO(csv_bytes([list(EVIL)]).decode("utf-8-sig"))))

    assert all(not cell.startswith(("=", "+", "-", "@", "\t")) for cell in rows[0])
    assert text_table([["=1", "b\tc"]]) == "'=1\tb c"


STARTS = (
    "=", " =", "\n=", "\r\n=", "\u00a0=", "\u3000=", "\u200b=", "\ufeff=", "＝", "＋", "－", "＠", " ＝", "\x00=", "\t",
    "\r", "\n", "@", "+", "-", "\u00ad-",
)  # fmt: skip


@pytest.mark.parametrize("start", STARTS, ids=ascii)
def test_every_beginning_that_a_spreadsheet_runs_is_quoted(start):
    (row,) = csv.reader(io.StringIO(csv_bytes([[f"{start}1+1", "Bittern", "a=1"]]).decode("utf-8-sig"), newline=""))

    assert row == [f"'{start}1+1", "Bittern", "a=1"]
    assert text_table([[f"{start}1+1"]]).startswith("'") or start in "\t\r\n"


def test_a_cell_on_the_clipboard_stays_in_its_row():
    assert text_table([["a\r\nb\tc", "d"]]) == "a b c\td"


def test_xlsx_holds_numbers_as_numbers_and_texts_as_texts():
    job_made = made()
    result = reduce(job_made)

    data = xlsx_bytes(result_table(result), head_table(job_made, "r"), WHEN)
    book = openpyxl.load_workbook(io.BytesIO(data))

    sheet = book["results"]
    heading = [cell.value for cell in sheet[1]]
    assert heading == [*COLUMNS, "waveform", "statistic"]
    assert sheet.cell(2, heading.index("error / W") + 1).value == pytest.approx(result.points[0].error_w, rel=1e-12)
    kinds = {cell.data_type for row in book["job"].iter_rows() for cell in row}
    assert kinds == {"s"}
    assert book["job"]["B1"].value == EVIL[0]
    assert all(cell.hyperlink is None for row in book["job"].iter_rows() for cell in row)


def test_the_same_record_gives_the_same_bytes():
    job_made = made()
    table, head = result_table(reduce(job_made)), head_table(job_made, "r")

    assert xlsx_bytes(table, head, WHEN) == xlsx_bytes(table, head, WHEN)


def test_figures_that_are_texts_stay_texts_and_nothing_becomes_a_link():
    data = xlsx_bytes([["12", "=1+1", "http://a.example", float("nan")]], [["x", "007"]], WHEN)
    sheet = openpyxl.load_workbook(io.BytesIO(data))["results"]
    assert [cell.data_type for cell in sheet[1]][:3] == ["s", "s", "s"]
    assert [cell.hyperlink for cell in sheet[1]] == [None] * 3
    assert openpyxl.load_workbook(io.BytesIO(data))["job"]["B1"].value == "007"
