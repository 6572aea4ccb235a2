"""`fenmist meters`: what a waveform comes to, and what four kinds of meter show on it."""

from collections.abc import Mapping, Sequence

from fenmist.cli.command import Parser, notes_json, print_rows
from fenmist.cli.terminal import print_json
from fenmist.methods.on_waveform import MetersAnswer, MetersRequest
from fenmist.session.modulation import meters_rows
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS
from fenmist.waveform.named import KINDS

_SETTINGS = (
    ("--depth", "depth", "", "1", "of AM, 0 to 1"),
    ("--duty", "duty", "", "0.5", "of dots, 0 to 1"),
    ("--rate", "rate_hz", "Hz", "10 Hz", "of dots"),
    ("--rise", "rise_s", "s", "5 ms", "whole edge of a dot"),
    ("--tone-ratio", "ratio", "", "1", "volts of the weaker tone over the stronger"),
)


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist meters", allow_abbrev=False,
        description="What a waveform comes to, and what four kinds of meter show on it once calibrated on a carrier.",
    )  # fmt: skip
    parser.add_argument(
        "--waveform", required=True, metavar="NAME",
        help=f"{', '.join(KINDS)}, with settings such as “dots 20 Hz 40 %%”; or a captured trace's file",
    )  # fmt: skip
    parser.add_argument("--pep", default="100 W", metavar="TEXT", help="peak envelope power; 100 W unless given")
    for flag, _, _, example, said in _SETTINGS:
        parser.add_argument(flag, default="", metavar="TEXT", help=f"{said}, such as “{example}”")
    parser.add_argument("--step", default="", metavar="TEXT", help="time between a file's samples, such as “4 ns”")
    parser.add_argument("--channel", default="", metavar="NAME", help="of a file; the first unless named")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    options = _parser().parse_args(arguments)
    given: Mapping[str, str] = vars(options)
    settings = {
        name: value_from_text(text, UNITS[unit], flag, example)
        for flag, name, unit, example, _ in _SETTINGS
        if (text := given[flag[2:].replace("-", "_")])
    }
    answer = MetersRequest(options.waveform, options.pep, settings, options.step, options.channel)()
    if options.json:
        print_json(_values(answer))
    else:
        print_rows(meters_rows(answer), answer.notes)
    return 0


def _values(answer: MetersAnswer) -> dict[str, object]:
    return {
        "waveform": answer.waveform.name,
        "pep_w": answer.pep_w,
        "mean_w": answer.mean_w,
        "papr_db": answer.moments.papr_db,
        "shows": {f"{name}_w": item.reading for name, item in answer.shows.items()},
        "moves_w": {name: [item.low, item.high] for name, item in answer.shows.items()},
        "crest_share": answer.moments.crest_share,
        "notes": notes_json(answer.notes),
    }
