"""Results as a table for other programs: CSV and XLSX, numbers as numbers, safe in a spreadsheet.

Text that a spreadsheet would take for a formula is quoted; every number carries its unit in the heading of its column.
"""

import csv
import io
import math
import re
from collections.abc import Sequence
from datetime import datetime
from typing import TYPE_CHECKING

from fenmist.calibration.job import Job

if TYPE_CHECKING:
    from fenmist.procedures.page import Cell

COMMA, SEMICOLON = "comma", "semicolon and decimal comma"
CSV_KINDS = (COMMA, SEMICOLON)

_FORMULA = re.compile(r"[\t\r\n]|[\s\x00-\x20\u00ad\u200b-\u200f\u2060\ufeff]*[=+\-@＝＋－＠]")
"""Beginnings that a spreadsheet runs, or skips to run what follows: blanks, line ends, signs without width or wide."""


def head_table(job: Job, record: str) -> "list[list[Cell]]":
    """What the results belong to, as names and values."""
    device = job.dut_part
    return [
        ["title", job.title], ["device", device.label], ["serial", device.serial], ["customer", job.customer],
        ["place", job.place], ["technician", job.technician], ["conditions", job.conditions], ["job", job.id],
        ["record", record], ["demonstration", "yes" if job.demo else "no"],
    ]  # fmt: skip


def csv_bytes(table: "Sequence[Sequence[Cell]]", kind: str = COMMA) -> bytes:
    """The table as CSV in UTF-8 with a mark at its beginning, so that spreadsheets know it."""
    out = io.StringIO()
    writer = csv.writer(out, delimiter=";" if kind == SEMICOLON else ",", lineterminator="\r\n")
    for row in table:
        writer.writerow([_csv_cell(cell, kind) for cell in row])
    return b"\xef\xbb\xbf" + out.getvalue().encode()


def _csv_cell(cell: "Cell", kind: str) -> str:
    if isinstance(cell, str):
        return f"'{cell}" if _FORMULA.match(cell) else cell
    if isinstance(cell, float) and not math.isfinite(cell):
        return ""
    text = f"{cell:.9g}" if isinstance(cell, float) else str(cell)
    return text.replace(".", ",") if kind == SEMICOLON else text


def xlsx_bytes(table: "Sequence[Sequence[Cell]]", head: "Sequence[Sequence[Cell]]", created: datetime) -> bytes:
    """The table and what it belongs to as a workbook of two sheets; no text in it is a formula or a link.

    `created` stands in the file, so that the same record gives the same bytes.
    """

    import xlsxwriter  # on first use

    out = io.BytesIO()
    safe = {"strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False, "in_memory": True}
    book = xlsxwriter.Workbook(out, {**safe, "nan_inf_to_errors": False})
    book.set_properties({"author": "Fenmist", "created": created.replace(tzinfo=None)})
    heading = book.add_format({"bold": True, "bottom": 1, "text_wrap": True, "valign": "top"})
    for name, rows, bold in (("results", table, True), ("job", head, False)):
        sheet = book.add_worksheet(name)
        sheet.set_column(0, max((len(row) for row in rows), default=1) - 1, 15)
        for r, row in enumerate(rows):
            for c, cell in enumerate(row):
                style = heading if bold and r == 0 else None
                if isinstance(cell, str):
                    sheet.write_string(r, c, cell, style)
                elif math.isfinite(cell):
                    sheet.write_number(r, c, cell, style)
        if bold:
            sheet.freeze_panes(1, 0)
    book.close()
    return out.getvalue()


def text_table(rows: Sequence[Sequence[str]]) -> str:
    """Rows as text parted by tabs, as a spreadsheet takes it from the clipboard; formulas are quoted."""
    return "\n".join("\t".join(_csv_cell(re.sub(r"[\t\r\n]+", " ", cell), COMMA) for cell in row) for row in rows)
