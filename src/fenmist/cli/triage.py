"""`fenmist triage`: transmitter, line or meter, from what was read, with odds and the next test."""

from collections.abc import Sequence

from fenmist.cli.command import Parser, notes_json, print_rows
from fenmist.cli.terminal import print_json
from fenmist.methods.chain import ANTENNA, FAR_LOAD, LOAD
from fenmist.methods.triage import Answer, TriageRequest, odds_said

_SHOWN = 0.01
"""Odds from which a suspect is printed."""


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist triage", allow_abbrev=False,
        description="Transmitter, line or meter: odds of each suspect from what was read, and the next cheapest test.",
    )  # fmt: skip
    for name, said in (
        ("--own", "what the transmitter's own meter shows, such as “0.9 W”"),
        ("--external", "what a meter behind a jumper shows"), ("--swr", "there, or by the transmitter's own"),
        ("--supply", "volts of its supply while the key is down"),
    ):  # fmt: skip
        parser.add_argument(name, default="", metavar="TEXT", help=said)
    parser.add_argument("--set", default="", metavar="POWER", help="power that is set, such as “15 W”")
    parser.add_argument("--into", choices=(LOAD, ANTENNA, FAR_LOAD), default=LOAD, help="what stands behind the meter")
    parser.add_argument(
        "--then", action="append", default=[], metavar="TEXT",
        help="what was read next: “set 1.5 W, own 1.4 W, swr 1.1, into load, exchanged jumper”; again for more",
    )  # fmt: skip
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    given = _parser().parse_args(arguments)
    answer = TriageRequest(
        given.set, given.own, given.external, given.swr, given.into, given.supply, tuple(given.then)
    )()  # fmt: skip
    if given.json:
        print_json(_values(answer))
    else:
        print(answer.headline)
        shown = [item for item in answer.suspects if item.odds >= _SHOWN]
        print_rows(((odds_said(item.odds), f"{item.what}: {item.why}") for item in shown), answer.notes)
    return 0


def _values(answer: Answer) -> dict[str, object]:
    return {
        "headline": answer.headline,
        "suspects": [
            {"id": item.id, "what": item.what, "odds": item.odds, "why": item.why, "mend": item.mend,
             "explains": list(item.explains), "misses": list(item.misses)}
            for item in answer.suspects
        ],
        "next_test": answer.next_test and answer.next_test.what,
        "notes": notes_json(answer.notes),
    }  # fmt: skip
