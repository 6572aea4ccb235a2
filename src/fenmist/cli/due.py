"""`fenmist due`: what is due when, and a calendar file of it."""

from collections.abc import Sequence
from pathlib import Path

from fenmist.cli.command import Parser
from fenmist.cli.terminal import print_json
from fenmist.errors import OutOfRangeError
from fenmist.files.whole import with_ending, write_whole


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist due", allow_abbrev=False,
        description="What is due when: as stated, as put on a page, and by the drift that was seen.",
    )  # fmt: skip
    parser.add_argument("logbook", type=Path, metavar="LOGBOOK.fenlog", help="the logbook that is read")
    parser.add_argument("--ics", type=Path, metavar="FILE", help="write a calendar file, too")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    from fenmist.reports.calendar import calendar_bytes
    from fenmist.session.duedates import due_dates
    from fenmist.session.session import Session

    given = _parser().parse_args(arguments)
    if not given.logbook.exists():
        raise OutOfRangeError(f"There is no logbook {given.logbook}.", "Name one that ends in .fenlog.")
    session = Session(with_ending(given.logbook, ".fenlog"))
    try:
        found = due_dates(session)
        if given.ics is not None:
            write_whole(with_ending(given.ics, ".ics"), lambda: calendar_bytes(found, session.now()))
    finally:
        session.close()
    if given.json:
        print_json([{"what": item.what, "due": item.on, "why": item.why} for item in found])
    else:
        print("\n".join(f"{item.on}  {item.what}: {item.why}" for item in found) or "Nothing is due.")
    return 0
