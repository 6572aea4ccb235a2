"""`fenmist shelf`: what a logbook's equipment can decide, bench by bench."""

import math
from collections.abc import Sequence
from pathlib import Path

from fenmist.calibration.prediction import reached
from fenmist.cli.command import Parser
from fenmist.cli.terminal import print_json
from fenmist.errors import OutOfRangeError
from fenmist.files.whole import with_ending
from fenmist.kit.part import Part
from fenmist.procedures.shelf import Ranked, devices, in_order
from fenmist.procedures.table import room_of, rooms
from fenmist.units.display import frequency, plain
from fenmist.units.typed import value_from_text, values_from_text
from fenmist.units.unit import UNITS

_SHORT = {room.id: room for room in rooms()}


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist shelf", description="The benches that a logbook's equipment allows, ranked by what they reach.",
        allow_abbrev=False,
    )  # fmt: skip
    parser.add_argument("logbook", type=Path, metavar="LOGBOOK.fenlog", help="the logbook that is read")
    parser.add_argument("--frequency", required=True, metavar="TEXT", help="such as “3.6 7.1 14.2 MHz”")
    parser.add_argument("--power", required=True, metavar="TEXT", help="at the stated plane, such as “50 W”")
    parser.add_argument("--device", default="", metavar="NAME", help="the part in question; else the first that fits")
    parser.add_argument(
        "--question",
        default="",
        choices=["", *_SHORT],
        metavar="NAME",
        help=f"one of {', '.join(_SHORT)}; what is asked of the device's kind if none",
    )
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    from fenmist.session.session import Session

    given = _parser().parse_args(arguments)
    frequencies = values_from_text(given.frequency, "MHz", "frequency", "3.6 7.1 14.2 MHz")
    power = value_from_text(given.power, UNITS["W"], "power", "50 W")
    if min(frequencies) <= 0 or power <= 0:
        raise OutOfRangeError("Frequencies and power lie above 0.", "Type for example 7.1 MHz and 50 W.")
    if not given.logbook.exists():
        raise OutOfRangeError(f"There is no logbook {given.logbook}.", "Name one that ends in .fenlog.")
    session = Session(with_ending(given.logbook, ".fenlog"))
    try:
        question, device = _asked(session.kit, given.question, given.device)
        found = in_order(session.shelf(question, device, frequencies, power))
    finally:
        session.close()
    if given.json:
        print_json(_values(device, found))
    else:
        print(_text(device, found, power))
    return 0


def _asked(kit: Sequence[Part], question: str, name: str) -> tuple[str, Part]:
    """The question and the part that it is asked of."""
    for room in [room_of(question)] if question else rooms():
        fitting = [part for part in devices(room, kit) if name.lower() in part.label.lower()]
        if fitting:
            return room.id, fitting[0]
    raise OutOfRangeError(
        f"The logbook's kit has no device “{name}” for that." if name else "The logbook's kit has no device for that.",
        "Name one of its wattmeters, transmitters or generators.",
    )


def _percent(share: float) -> float | None:
    return 100.0 * share if math.isfinite(share) else None


def _values(device: Part, found: Sequence[Ranked]) -> dict[str, object]:
    return {
        "device": device.label,
        "frequency_hz": [point.point.frequency_hz for point in found[0].points] if found else [],
        "benches": [
            {
                "name": item.name,
                "parts": [part.label for part in item.bench.parts],
                "expanded_u_percent": [_percent(point.expanded_u) for point in item.points],
                "tolerance_percent": [_percent(point.tolerance) for point in item.points],
                "blocked": [point.blocked or None for point in item.points],
                "overdue": list(item.overdue),
            }
            for item in found
        ],
    }


def _text(device: Part, found: Sequence[Ranked], power_w: float) -> str:
    lines = [f"{device.label} at {plain(power_w, 'W')}: {len(found)} bench{'' if len(found) == 1 else 'es'}", ""]
    for number, item in enumerate(found, start=1):
        lines.append(f"{number}  {item.name}")
        for point in item.points:
            said = point.blocked or f"U {reached(point.expanded_u, point.unit)}"
            if not point.blocked and point.tolerance:
                decides = "decides" if point.decides else "cannot decide"
                said = f"{said}, {decides} ±{reached(point.tolerance, point.unit)}"
            lines.append(f"   {frequency(point.point.frequency_hz)}: {said}")
        if item.overdue:
            lines.append(f"   overdue: {', '.join(item.overdue)}")
    return "\n".join(lines)
