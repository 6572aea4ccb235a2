"""Plain commands on a job's file: reduce, notes, certificate, export, import. The same core as the window's."""

from argparse import Namespace
from collections.abc import Callable, Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

from fenmist.cli.command import Parser, note_lines, notes_json
from fenmist.cli.terminal import print_json
from fenmist.errors import OutOfRangeError
from fenmist.files.whole import with_ending, write_whole
from fenmist.procedures.procedure import Seen
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.records.codec import record_hash
from fenmist.reports.resultfile import CSV_KINDS, csv_bytes, head_table, xlsx_bytes
from fenmist.session.trial import read_tried
from fenmist.session.view import View

NAMES = ("reduce", "notes", "certificate", "runsheet", "table", "export", "import")


def run(name: str, arguments: Sequence[str]) -> int:
    """Run one of `NAMES`; returns the exit code. Raises FenmistError where it can't be done."""
    return _COMMANDS[name](_parsers()[name].parse_args(arguments))


def _parsers() -> dict[str, Parser]:
    said = {
        "reduce": "Works a job out: errors with their uncertainty at each point.",
        "notes": "What a good colleague would remark on a job.",
        "certificate": "Writes the certificate of a job as PDF: a draft, since issuing belongs to a logbook.",
        "runsheet": "Writes what is to be set and read: a page to write on (.pdf), or a form to fill in (.csv).",
        "table": "Writes what each instrument's readings stand for in watts: large (.pdf), or for programs (.csv).",
        "export": "Writes a job's results as .csv or .xlsx, or a logbook's job as one file (.json).",
        "import": "Takes a job's file into a logbook.",
    }
    parsers = {
        name: Parser(prog=f"fenmist {name}", description=text, allow_abbrev=False) for name, text in said.items()
    }
    for name in ("reduce", "notes", "certificate", "runsheet", "table", "import"):
        parsers[name].add_argument("job", type=Path, metavar="JOB.json", help="a job that was handed over")
    for name in ("reduce", "notes"):
        parsers[name].add_argument("--json", action="store_true", help="as JSON")
    for name in ("reduce", "notes", "certificate", "runsheet", "table"):
        parsers[name].add_argument("--as-of", default="", metavar="DAY", help="the day it is looked at; today")
    files = {"certificate": "FILE.pdf", "runsheet": "FILE.pdf|FILE.csv", "table": "FILE.pdf|FILE.csv", "export": "FILE"}
    for name, file in files.items():
        parsers[name].add_argument("-o", "--output", type=Path, required=True, metavar=file, help="where it is written")
    for name in ("certificate", "runsheet", "table"):
        parsers[name].add_argument("--paper", choices=("a4", "us-letter"), default="a4", help="its size; a4")
    for name in ("runsheet", "table", "export"):
        parsers[name].add_argument("--csv", choices=CSV_KINDS, default=CSV_KINDS[0], help="what parts the cells")
    parsers["export"].add_argument(
        "source", type=Path, metavar="JOB.json|LOGBOOK.fenlog", help="a job that was handed over, or a whole logbook"
    )
    parsers["export"].add_argument("--job", default="", metavar="ID", help="of a logbook; the newest unless said")
    parsers["import"].add_argument("logbook", type=Path, metavar="LOGBOOK.fenlog", help="the logbook that takes it in")
    return parsers


def _view(path: Path, as_of: str) -> View:
    """The job of a file as the window would show it: as left, where it was adjusted."""
    try:
        day = datetime.fromisoformat(as_of) if as_of else datetime.now()
    except ValueError as error:
        raise OutOfRangeError(f"“{as_of}” is no day.", "Write year-month-day: 2026-11-25.") from error
    job = read_tried(path).job
    return View(job, day.astimezone(), AS_LEFT if job.is_adjusted else AS_FOUND)


def _reduce(given: Namespace) -> int:
    view = _view(given.job, given.as_of)
    if given.json:
        print_json(_results_json(view))
        return 0
    print(view.page.headline)
    for phase, result in ((AS_FOUND, view.found), (AS_LEFT, view.left)):
        if result is not None and result.stated:
            page = view.procedure.page(Seen(view.job, phase, view.found, view.left))
            print(f"\n{phase}")
            print(_aligned([list(page.headings), *(list(row) for row in page.rows)]))
    return 0


def _results_json(view: View) -> dict[str, Any]:
    table = view.procedure.table(view.seen)
    keys = [str(name) for name in table[0]]
    return {
        "job": view.job.id, "title": view.job.title, "record_sha256": record_hash(view.job),
        "headline": view.page.headline,
        "points": [dict(zip(keys, row, strict=True)) for row in table[1:]],
        "rounds_missing": view.result.missing,
    }  # fmt: skip


def _aligned(rows: list[list[str]]) -> str:
    widths = [max(len(row[column]) for row in rows) for column in range(len(rows[0]))]
    lines = ("  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip() for row in rows)
    return "\n".join(lines)


def _notes(given: Namespace) -> int:
    view = _view(given.job, given.as_of)
    answers = {note.key: a.text for note in view.notes if (a := view.job.answers.get(note.key)) and a.holds_for(note)}
    if given.json:
        said = [{**notes_json([note])[0], "answer": answers.get(note.key, "")} for note in view.notes]
        print_json(said)
        return 0
    print("\n".join(note_lines(view.notes)).strip() or "No remarks.")
    for note in view.notes:
        if note.key in answers:
            print(f"\nanswered: {note.what} “{answers[note.key]}”")
    return 0


def _certificate(given: Namespace) -> int:
    from fenmist.session.paper import write_certificate  # typesetting is imported on first use

    print(f"written: {write_certificate(_view(given.job, given.as_of), given.output, given.paper)}")
    return 0


def _runsheet(given: Namespace) -> int:
    from fenmist.session.benchpaper import run_sheet_contents

    contents = run_sheet_contents(_view(given.job, given.as_of), given.paper, given.csv)
    content = contents.get(given.output.suffix.lower())
    if content is None:
        raise OutOfRangeError(f"“{given.output}” is neither .pdf nor .csv.", "Name the file for what it is.")
    print(f"written: {write_whole(given.output, content)}")
    return 0


def _table(given: Namespace) -> int:
    from fenmist.session.benchpaper import write_tables

    if given.output.suffix.lower() not in (".pdf", ".csv"):
        raise OutOfRangeError(f"“{given.output}” is neither .pdf nor .csv.", "Name the file for what it is.")
    print(f"written: {write_tables(_view(given.job, given.as_of), given.output, given.paper, given.csv)}")
    return 0


def _export(given: Namespace) -> int:
    suffix = given.output.suffix.lower()
    if suffix == ".json":
        return _hand_over(given)
    if suffix not in (".csv", ".xlsx"):
        raise OutOfRangeError(f"“{given.output}” is neither .csv, .xlsx nor .json.", "Name the file for what it is.")
    view = _view(given.source, "")
    table = view.procedure.table(view.seen)

    def content() -> bytes:
        if suffix == ".csv":
            return csv_bytes(table, given.csv)
        return xlsx_bytes(table, head_table(view.job, record_hash(view.job)), view.job.last_at)

    print(f"written: {write_whole(given.output, content)}")
    return 0


def _hand_over(given: Namespace) -> int:
    from fenmist.session.session import Session

    if not given.source.exists():
        raise OutOfRangeError(f"There is no logbook {given.source}.", "Name one that ends in .fenlog.")
    session = Session(with_ending(given.source, ".fenlog"))
    try:
        lines = session.summaries()
        chosen = given.job or (lines[0].id if lines else "")
        print(f"written: {session.hand_over(chosen, given.output)}")
    finally:
        session.close()
    return 0


def _import(given: Namespace) -> int:
    from fenmist.session.session import Session

    tried = read_tried(given.job)  # before a logbook is made for it
    session = Session(with_ending(given.logbook, ".fenlog"))
    try:
        session.back_up()
        job_id = session.keep(tried)
        print(f"taken in: {session.logbook.job(job_id).title} as {job_id}")
    finally:
        session.close()
    return 0


_COMMANDS: dict[str, Callable[[Namespace], int]] = {
    "reduce": _reduce, "notes": _notes, "certificate": _certificate, "runsheet": _runsheet,
    "table": _table, "export": _export, "import": _import,
}  # fmt: skip
