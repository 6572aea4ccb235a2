"""`fenmist swr`: one reading of a match in every form, at both ends of a line, with the meter's window."""

import math
from collections.abc import Sequence

from fenmist.cli.command import Parser, note_lines, notes_json
from fenmist.cli.terminal import print_json
from fenmist.methods.swr_seen import LOAD, TRANSMITTER, SwrAnswer, SwrRequest
from fenmist.units.display import plain


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist swr", allow_abbrev=False,
        description="What a reading of a match means: SWR, reflection, return loss, at both ends of a line.",
    )  # fmt: skip
    for name, said in (
        ("--forward", "forward power, such as “100 W”"), ("--reflected", "reflected power, such as “4 W”"),
        ("--swr", "an SWR as read"), ("--load", "a known load, such as “75” or “45+j12”"),
        ("--line-loss", "matched loss of the line, one way, dB"),
        ("--directivity", "of the meter, dB"), ("--set-error", "of its set control, ± per cent"),
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
        options.directivity, options.set_error,
    )()  # fmt: skip
    if options.json:
        print_json(_values(answer))
    else:
        print(_text(answer))
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
        "notes": notes_json(answer.notes),
    }


def _text(answer: SwrAnswer) -> str:
    low, high = answer.swr_window
    lines = [
        f"SWR          {_shown(answer.swr)}",
        f"Reflection   {plain(answer.rho, '', 3)}, {plain(100.0 * answer.rho**2, '', 3)} % of the power",
        f"Return loss  {_shown(answer.return_loss_db)} dB",
    ]
    if answer.net_w is not None:
        lines.append(f"Delivered    {plain(answer.net_w, 'W')}")
    if high > low:
        lines.append(f"Window       {_shown(low)} to {_shown(high)}")
    if answer.swr_other_end is not None:
        lines.append(f"At the {answer.other_end:<12} {_shown(answer.swr_other_end)}".rstrip())
        lines.append(f"Line loses   {_shown(answer.line_total_loss_db or 0.0)} dB in all")
    return "\n".join((*lines, *note_lines(answer.notes)))


def _shown(value: float) -> str:
    return "without end" if math.isinf(value) else plain(value, "", 3)
