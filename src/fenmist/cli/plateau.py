"""`fenmist plateau`: at which gain a transmitter's level control begins to limit."""

import math
from collections.abc import Sequence

from fenmist.cli.command import Parser, notes_json, print_rows
from fenmist.cli.terminal import print_json
from fenmist.methods.plateau import PlateauAnswer, PlateauRequest
from fenmist.session.modulation import plateau_rows


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist plateau", allow_abbrev=False,
        description="Where the power stops rising with the gain: the knee, its uncertainty, and what to set.",
    )  # fmt: skip
    parser.add_argument("--gain", required=True, metavar="LIST", help="settings, such as “10 20 30 40 50 60”")
    parser.add_argument("--power", required=True, metavar="LIST", help="shown at each, such as “8 22 41 58 60 60 W”")
    parser.add_argument(
        "--distortion", default="", metavar="LIST", help="beside each, such as “-42 -40 -36 -31 -25 -20 dB”"
    )
    parser.add_argument("--limit", default="-30 dB", metavar="DB", help="that distortion may reach; -30 dB")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    options = _parser().parse_args(arguments)
    answer = PlateauRequest(options.gain, options.power, options.distortion, options.limit)()
    if options.json:
        print_json(_values(answer))
    else:
        print_rows(plateau_rows(answer), answer.notes)
    return 0


def _values(answer: PlateauAnswer) -> dict[str, object]:
    fit = answer.fit if math.isfinite(answer.knee) else None
    return {
        "knee": fit and fit.gain,
        "expanded_u_knee": fit and fit.expanded_u,
        "knee_interval": fit and [fit.low, fit.high],
        "plateau_w": answer.plateau_w,
        "beyond": str(answer.end),
        "setting": answer.setting,
        "distorts_from": answer.clean if answer.clean is not None and math.isfinite(answer.clean) else None,
        "notes": notes_json(answer.notes),
    }
