"""`fenmist trim`: what to turn, from what a meter showed against a reference."""

from collections.abc import Sequence

from fenmist.cli.command import Parser, notes_json, print_rows
from fenmist.cli.terminal import print_json
from fenmist.methods.trim import Control, Measure, Setting, TrimAnswer, TrimRequest
from fenmist.session.trim import advice, trim_rows

_MEASURES = {"percent": Measure.PER_CENT, "db": Measure.DB, "scale": Measure.FULL_SCALE}


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist trim", allow_abbrev=False,
        description="How to set a meter's gain control: exact at a level, least worst case, least squares.",
    )  # fmt: skip
    parser.add_argument(
        "--reading", action="append", default=[], required=True, metavar="TEXT",
        help="reference and indication, such as “50 W: 47.1 W”; give it for each level",
    )  # fmt: skip
    parser.add_argument("--working", default="", metavar="POWER", help="level where it is used most, such as “50 W”")
    parser.add_argument("--full-scale", default="", metavar="POWER", help="then errors are weighed as shares of it")
    parser.add_argument("--u", default="", metavar="SHARE", help="uncertainty of each ratio, k = 2, such as “3 %%”")
    parser.add_argument("--measure", choices=list(_MEASURES), help="how errors are weighed; percent")
    parser.add_argument("--zero", action="store_true", help="there is a control for the zero, too")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    options = _parser().parse_args(arguments)
    measure = _MEASURES[options.measure] if options.measure else None
    control = Control.GAIN_AND_ZERO if options.zero else Control.GAIN
    answer = TrimRequest(options.reading, options.working, options.full_scale, options.u, measure, control)()
    if options.json:
        print_json(_values(answer))
    else:
        print_rows((*trim_rows(answer), ("advice", advice(answer))), answer.notes)
    return 0


def _values(answer: TrimAnswer) -> dict[str, object]:
    return {
        "measure": str(answer.measure),
        "as_found": _setting(answer, answer.as_found),
        "gain_working": _setting(answer, answer.exact),
        "gain_minimax": _setting(answer, answer.minimax),
        "gain_least_squares": _setting(answer, answer.least_squares),
        "working_w": answer.working_w,
        "advice": advice(answer),
        "notes": notes_json(answer.notes),
    }


def _setting(answer: TrimAnswer, setting: Setting) -> dict[str, float]:
    """The worst in per cent, also where it was weighed in dB."""
    errors = setting.errors
    shares = 10.0 ** (errors / 10.0) - 1.0 if answer.measure is Measure.DB else errors
    return {
        "gain": setting.gain, "zero_w": setting.zero_w, "worst_percent": 100.0 * float(max(abs(shares))),
        "worst_at_w": float(answer.reference_w[setting.worst_at]),
        "reads_w": answer.reads(setting),
    }  # fmt: skip
