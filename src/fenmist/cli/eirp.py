"""`fenmist eirp`: radiated power from what is known of transmitter, antenna or field, against a limit."""

from collections.abc import Sequence

from fenmist.cli.command import Parser, notes_json, print_rows
from fenmist.cli.terminal import print_json
from fenmist.methods.radiated import Radiated, RadiatedRequest
from fenmist.session.aids import radiated_headline, radiated_rows

_OPTIONS = (
    ("--power", "forward power at the transmitter, such as “50 W”"), ("--line-loss", "matched loss of the line, dB"),
    ("--swr", "at the antenna"), ("--gain", "of the antenna, such as “-12 dBi”"),
    ("--current", "at the base of a vertical, such as “2 A”"), ("--height", "of that vertical, such as “15 m”"),
    ("--top-loading", "current at its top over that at its base, 0 to 1"), ("--frequency", "such as “474 kHz”"),
    ("--above", "current above its loading coil"), ("--coil-height", "of that coil; at the base unless said"),
    ("--field", "field strength far away, such as “10 mV/m”"), ("--distance", "at which that was read"),
    ("--limit", "of the licence, such as “5 W” EIRP, or “1 W ERP”"),
    ("--people", "distance of the nearest people, such as “30 m”"),
)  # fmt: skip


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist eirp", allow_abbrev=False,
        description="Radiated power with its uncertainty; what a value is known to stands behind ±: “50 W ± 5 %”.",
    )  # fmt: skip
    for name, said in _OPTIONS:
        parser.add_argument(name, default="", metavar="TEXT", help=said)
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    given = vars(_parser().parse_args(arguments))
    as_json = given.pop("json")
    answer = RadiatedRequest(**given)()
    if as_json:
        print_json(_values(answer))
    else:
        print(radiated_headline(answer))
        print_rows(radiated_rows(answer), answer.notes)
    return 0


def _values(answer: Radiated) -> dict[str, object]:
    return {
        "eirp_w": answer.eirp_w, "erp_w": answer.erp_w, "emrp_w": answer.emrp_w,
        "interval_w": list(answer.interval_w), "way": answer.way.name,
        "ways": {way.name: {"eirp_w": way.eirp_w, "interval_w": list(way.interval_w)} for way in answer.ways},
        "limit_eirp_w": answer.limit_w, "power_at_limit_w": answer.power_at_limit_w,
        "current_at_limit_a": answer.current_at_limit_a, "radiation_resistance_ohm": answer.resistance_ohm,
        "base_resistance_ohm": answer.base_ohm,
        "base_interval_ohm": list(answer.base_interval_ohm) if answer.base_ohm is not None else None,
        "gain_dbi": answer.gain_dbi, "heat_w": answer.heat_w,
        "field_v_per_m": answer.field_v_per_m and list(answer.field_v_per_m),
        "largest": answer.way.largest.name, "notes": notes_json(answer.notes),
    }  # fmt: skip
