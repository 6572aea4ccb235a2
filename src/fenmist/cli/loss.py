"""`fenmist loss`: what a part loses, from powers in front of it and behind it, without it and with it."""

from collections.abc import Sequence

from fenmist.cli.command import Parser, note_lines, notes_json
from fenmist.cli.terminal import print_json
from fenmist.methods.loss_from_pairs import LossAnswer, LossRequest
from fenmist.units.display import percent, plain, with_uncertainty


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist loss", allow_abbrev=False,
        description="What a part loses, from pairs of powers in front of it and behind it, without it and with it.",
    )  # fmt: skip
    pairs = "what both show, in front and behind, such as “104 W 103.4 W”; give it for each pair"
    for name, said in (("--direct", "without the part"), ("--through", "with it")):
        parser.add_argument(name, action="append", default=[], metavar="PAIR", help=f"{said}: {pairs}")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    options = _parser().parse_args(arguments)
    answer = LossRequest(tuple(options.direct), tuple(options.through))()
    if options.json:
        print_json(_values(answer))
    else:
        print(_text(answer))
    return 0


def _values(answer: LossAnswer) -> dict[str, object]:
    return {
        "loss_db": answer.loss_db,
        "expanded_u_db": answer.expanded_u_db,
        "bound_db": answer.bound_db,
        "coupler_ratio": answer.coupler_ratio,
        "efficiency_percent": 100.0 * answer.efficiency,
        "notes": notes_json(answer.notes),
    }


def _text(answer: LossAnswer) -> str:
    said = with_uncertainty(answer.loss_db, answer.expanded_u_db, "dB")
    return "\n".join(
        (
            f"Loss         {said}" if answer.is_seen else f"Loss         less than {answer.bound_db:.2g} dB",
            *(() if answer.is_seen else (f"Came out     {said}",)),
            f"Through      {percent(answer.efficiency)}",
            f"Ratio        {plain(answer.coupler_ratio, '', 5)} without the part",
            *note_lines(answer.notes),
        )
    )
