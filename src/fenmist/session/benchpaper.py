"""Paper for the bench, before a run: the sheet to write on, and what readings stand for."""

from collections.abc import Callable
from pathlib import Path

from fenmist.files.whole import write_whole
from fenmist.reports.readingtable import ReadingTables, reading_tables, tables_csv
from fenmist.reports.resultfile import COMMA
from fenmist.reports.runsheet import RunSheet, form_csv, run_sheet
from fenmist.session.sheets import sheet_pdf, write_sheet
from fenmist.session.view import View
from fenmist.units.moment import day_of


def run_sheet_of(view: View) -> RunSheet:
    """The run sheet of a job's plan; raises UnknownIdError where nothing is planned."""
    wanted, first = view.procedure.order, next(iter(view.job.to_read), None)
    order = wanted(view.result, first.id) if wanted is not None and first is not None else ()
    return run_sheet(view.job, view.notes, day_of(view.as_of), order)


def run_sheet_contents(view: View, paper: str = "a4", kind: str = COMMA) -> dict[str, Callable[[], bytes]]:
    """The run sheet by the ending of its file: a page to write on, a form to fill in."""
    return {
        ".pdf": lambda: sheet_pdf(run_sheet_of(view), paper),
        ".csv": lambda: form_csv(view.job, view.phase, kind),
    }


def tables_of(view: View) -> ReadingTables:
    """What readings stand for on a job's bench; raises UnknownIdError where there is no table to make."""
    return reading_tables(view.job, view.notes, day_of(view.as_of))


def write_tables(view: View, path: Path, paper: str = "a4", kind: str = COMMA) -> Path:
    """The same as pages or for other programs, by the ending; raises ReportError, UnknownIdError."""
    tables = tables_of(view)
    if path.suffix.lower() == ".csv":
        return write_whole(path, lambda: tables_csv(tables, kind))
    return write_sheet(tables, path, paper)
