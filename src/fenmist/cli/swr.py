"""`fenmist swr`: one reading of a match in every form, at both ends of a line, with the meter's window."""

import math
from collections.abc import Sequence

from fenmist.cli.command import Parser, notes_json, print_rows
from fenmist.cli.terminal import print_json
from fenmist.methods.swr_seen import LOAD, TRANSMITTER, SwrAnswer, SwrRequest, swr_of
from fenmist.session.aids import swr_rows


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist swr", allow_abbrev=False,
        description="What a reading of a match means: SWR, reflection, return loss, at both ends of a line.",
    )  # fmt: skip
    for name, said in (
        ("--forward", "forward power, such as “100 W”"), ("--reflected", "reflected power, such as “4 W”"),
        ("--swr", "an SWR as read"), ("--load", "a known load, such as “75” or “45+j12”, alone or beside a reading"),
        ("--line-loss", "matched loss of the line, one way, dB"),
        ("--directivity", "of the meter, dB"), ("--set-error", "of its set control, ± per cent"),
        ("--other-swr", "an SWR as another such meter reads it at the other end of the line"),
    ):  # fmt: skip
        parser.add_argument(name, default="", metavar="TEXT", help=said)
    parser.add_argument("--at", choices=(LOAD, TRANSMITTER), default=LOAD, help="where that was seen")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    options = _parser().parse_args(arguments)
    answer = SwrRequest(
        options.forward, options.reflected, options.swr, options.load, options.at, options.line_loss,
        options.directivity, options.set_error, options.other_swr,
    )()  # fmt: skip
    if options.json:
        print_json(_values(answer))
    else:
        print_rows(swr_rows(answer), answer.notes)
    return 0


def _finite(value: float | None) -> float | None:
    """JSON has no infinity."""
    return value if value is not None and math.isfinite(value) else None


def _values(answer: SwrAnswer) -> dict[str, object]:
    return {
        "swr": _finite(answer.swr),
        "rho": answer.rho,
        "return_loss_db": _finite(answer.return_loss_db),
        "reflected_percent": 100.0 * answer.rho**2,
        "net_w": answer.net_w,
        "swr_window": [_finite(end) for end in answer.swr_window],
        "swr_other_end": _finite(answer.swr_other_end),
        "line_total_loss_db": _finite(answer.line_total_loss_db),
        "expected_swr": None if answer.expected is None else _finite(swr_of(abs(answer.expected))),
        "swr_shows": answer.shows and [_finite(swr_of(end)) for end in answer.shows],
        "swr_other_meter": answer.other and [_finite(swr_of(end)) for end in answer.other],
        "notes": notes_json(answer.notes),
    }
