"""`fenmist pad`: a matched pad, its resistors as pi and as tee, what they take, and what stock makes of them."""

from collections.abc import Sequence

from fenmist.cli.command import Parser, notes_json, print_rows
from fenmist.cli.terminal import print_json
from fenmist.design.design import Design
from fenmist.design.response import respond
from fenmist.design.shapes import Shape
from fenmist.design.stress import strains
from fenmist.rf.reflection import return_loss_db
from fenmist.session.designing import Worked, design_from, rows, with_stacks, worked

_SHAPES = {"pi": Shape.PI_PAD, "tee": Shape.TEE_PAD}


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist pad", allow_abbrev=False,
        description="A matched pad: resistors as pi and as tee, power in each, and what stock values make of it.",
    )  # fmt: skip
    parser.add_argument("--loss", required=True, metavar="DB", help="attenuation, such as “10 dB”")
    parser.add_argument("--z0", default="50", metavar="OHM", help="impedance at both ends; 50 Ω")
    parser.add_argument("--power", default="1 W", metavar="W", help="that goes in; 1 W")
    parser.add_argument("--series", default="E24", metavar="STOCK", help="E6 to E192, or what lies in the drawer; E24")
    parser.add_argument("--shape", choices=tuple(_SHAPES), default="pi", help="which of the two is built; pi")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    given = _parser().parse_args(arguments)
    texts = {
        "target": given.loss, "z0": given.z0, "far": given.z0, "power": given.power, "stock": given.series,
    }  # fmt: skip
    exact = {name: design_from(shape, texts) for name, shape in _SHAPES.items()}
    made = worked(with_stacks(exact[given.shape], texts))
    if given.json:
        print_json(_values(made, exact))
    else:
        print_rows(rows(made), made.notes)
    return 0


def _values(made: Worked, exact: dict[str, Design]) -> dict[str, object]:
    low = respond(made.design.as_drawn, made.design.ask.low_hz)
    rho = (float(low.swr[0]) - 1.0) / (float(low.swr[0]) + 1.0)
    pi, tee = exact["pi"].wanted, exact["tee"].wanted
    return {
        "pi": {"shunt_ohm": pi["shunt in"], "series_ohm": pi["series"]},
        "tee": {"series_ohm": tee["series in"], "shunt_ohm": tee["shunt"]},
        "power_w": {name: {item.spot: item.power_w for item in strains(of.as_drawn)} for name, of in exact.items()},
        "stock": {name: stack.said() for name, stack in made.design.stacks.items()},
        "loss_db": float(low.main_db[0]),
        "return_loss_db": float(return_loss_db(rho)) if rho > 0.0 else None,
        "notes": notes_json(made.notes),
    }
