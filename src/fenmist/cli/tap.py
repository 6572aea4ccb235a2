"""`fenmist tap`: a resistive tap on a line, from its coupling or from its resistors."""

import math
from collections.abc import Sequence

from fenmist.cli.command import Parser, notes_json, print_rows
from fenmist.cli.terminal import print_json
from fenmist.design.design import Design
from fenmist.design.part import made_of
from fenmist.design.response import holds, respond, trimmed
from fenmist.design.shapes import Shape
from fenmist.design.shortcut import shortcut_db
from fenmist.errors import OutOfRangeError
from fenmist.session.designing import Worked, design_from, rows, with_stacks, worked
from fenmist.units.display import plain
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS

_TOP = "54 MHz"
"""Of the band that is looked at where none is said."""


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist tap", allow_abbrev=False,
        description="A resistive tap: what it couples with what is plugged in, what it bears, how far up it holds.",
    )  # fmt: skip
    parser.add_argument("--couple", default="", metavar="DB", help="line power over sensor power: “40 dB”")
    parser.add_argument("--r1", default="", metavar="OHM", help="from the line to the output, instead: 2460")
    parser.add_argument("--r2", default="", metavar="OHM", help="across the output; 50 Ω")
    parser.add_argument("--sensor", default="50", metavar="OHM", help="plugged in: 50, “1 MΩ 15 pF”, open; 50 Ω")
    parser.add_argument("--power", default="100 W", metavar="W", help="on the line; 100 W")
    parser.add_argument("--series", default="E24", metavar="STOCK", help="E6 to E192, or what lies in the drawer; E24")
    parser.add_argument("--stray", default="0.2 pF", metavar="F", help="from each joint to the box; 0.2 pF")
    parser.add_argument("--to", default="", metavar="HZ", help="up to where a trim wire is to flatten it: “500 MHz”")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    given = _parser().parse_args(arguments)
    if bool(given.couple) == bool(given.r1):
        raise OutOfRangeError("A tap is asked for by its coupling, or by its resistors.", "Type --couple, or --r1.")
    top = value_from_text(given.to or _TOP, UNITS["MHz"], "--to", "500 MHz")
    texts = {
        "target": given.couple, "shunt": given.r2, "sensor": given.sensor, "power": given.power,
        "stock": given.series, "joint": given.stray, "band": f"1.8 {top / 1e6:g} MHz",
    }  # fmt: skip
    design = design_from(Shape.RESISTIVE_TAP, texts, {"R1": given.r1, "R2": given.r2} if given.r1 else {})
    built = with_stacks(design, texts)  # strays sit at the joints of what is really built
    made = worked(design if given.r1 else built)
    wire = trimmed(built) if given.to else None
    if given.json:
        print_json(_values(made, built, wire))
        return 0
    more = [("Made of", made_of(built)), ("Holds to", _hertz(_holds_to(built)))]
    if wire is not None:
        at = f"{plain(wire.strays.trim_f, 'F', 2)} from line to output"
        more.append(("With a wire", f"{_hertz(_holds_to(wire))}, {at}"))
    print_rows((*rows(made), *more), made.notes)
    return 0


def _holds_to(design: Design) -> float | None:
    """Where the coupling leaves what is asked, Hz; infinite where it never does, none where it is never inside."""
    span = holds(design)
    return None if span is None else span.high_hz


def _hertz(value: float | None) -> str:
    return "nowhere" if value is None else "as far as is looked" if math.isinf(value) else plain(value, "Hz", 3)


def _values(made: Worked, built: Design, wire: Design | None) -> dict[str, object]:
    low, off = respond(made.design.as_drawn, made.design.ask.low_hz), shortcut_db(made.design)
    powers = {name: sum(item.power_w for item in made.strains if item.spot == name) for name in ("R1", "R2")}
    top, wired = _holds_to(built), _holds_to(wire) if wire else None
    return {
        "r1_ohm": made.design.values["R1"],
        "r2_ohm": made.design.values["R2"],
        "stack": {name: stack.said() for name, stack in built.stacks.items()},
        "coupling_db": float(low.main_db[0]),
        "shortcut_db": off.says_db if off else None,
        "r1_power_w": powers["R1"],
        "r2_power_w": powers["R2"],
        "through_loss_db": float(low.through_db[0]) if low.through_db is not None else None,
        "through_swr": float(low.swr[0]),
        "holds_to_hz": top if top is None or math.isfinite(top) else None,
        "trim_pf": wire.strays.trim_f * 1e12 if wire else None,
        "trimmed_holds_to_hz": wired if wired is None or math.isfinite(wired) else None,
        "notes": notes_json(made.notes),
    }
