"""`fenmist loss`: what a part loses, from powers in front of it and behind it, without it and with it."""

from collections.abc import Sequence

from fenmist.cli.command import Parser, notes_json, print_rows
from fenmist.cli.terminal import print_json
from fenmist.methods.loss_from_pairs import LossAnswer, LossRequest
from fenmist.session.aids import loss_rows


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist loss", allow_abbrev=False,
        description="What a part loses, from pairs of powers in front of it and behind it, without it and with it.",
    )  # fmt: skip
    pairs = "what both show, in front and behind, such as “104 W 103.4 W”; give it for each pair"
    for name, said in (
        ("--direct", "without the part"), ("--through", "with it"),
        ("--swapped-direct", "without the part, both instruments exchanged"),
        ("--swapped-through", "with it, both instruments exchanged"),
    ):  # fmt: skip
        parser.add_argument(name, action="append", default=[], metavar="PAIR", help=f"{said}: {pairs}")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    options = _parser().parse_args(arguments)
    answer = LossRequest(
        tuple(options.direct), tuple(options.through), tuple(options.swapped_direct), tuple(options.swapped_through)
    )()
    if options.json:
        print_json(_values(answer))
    else:
        print_rows(loss_rows(answer), answer.notes)
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
