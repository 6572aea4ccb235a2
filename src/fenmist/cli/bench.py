"""`fenmist bench`: a simulated bench whose instruments answer on loopback, until its time is over."""

import asyncio
import json
import os
import sys
import time
from collections.abc import Mapping, Sequence
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

from fenmist.cli.command import Parser
from fenmist.cli.terminal import print_json
from fenmist.errors import FenmistError, OutOfRangeError, UnreadableError, UnwritableError

if TYPE_CHECKING:
    from fenmist.simulation.live import LiveBench

_WATCH_S = 0.5
"""Between two looks at the clock, and at whoever started it."""

_DIALS_S = 0.1
"""Between two looks at dials."""


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist bench", allow_abbrev=False,
        description="A simulated bench: its instruments answer on this machine alone, each on a port of its own.",
    )  # fmt: skip
    parser.add_argument("--list", action="store_true", help="say which benches and faults there are")
    parser.add_argument("--scenario", default="", metavar="NAME", help="which bench")
    parser.add_argument(
        "--job", type=Path, default=None, metavar="FILE.fenjob", help="the bench of a job's file instead"
    )
    parser.add_argument("--seed", type=int, default=1, metavar="N", help="number that all hidden truths come from; 1")
    parser.add_argument("--fault", action="append", default=[], metavar="NAME[=N]", help="plant a fault, so strong")
    parser.add_argument("--trouble", type=float, default=0.0, metavar="PART", help="part of replies that go wrong; 0")
    parser.add_argument("--minutes", type=float, default=60.0, metavar="N", help="after which it ends by itself; 60")
    parser.add_argument("--first-port", type=int, default=0, metavar="N", help="ports from N on; whichever are free")
    parser.add_argument("--attached", action="store_true", help="end with whoever started it; tell where needles are")
    parser.add_argument("--json", action="store_true", help="print one line of JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    given = _parser().parse_args(arguments)
    if given.list:
        return _list(given.json)
    if bool(given.scenario) == bool(given.job):
        raise OutOfRangeError("A bench is named by --scenario or by --job.", "See “fenmist bench --list”.")
    if not 0.0 <= given.trouble <= 1.0:
        raise OutOfRangeError(f"--trouble {given.trouble:g} is no part of all replies.", "Give 0 to 1.")
    if not 0.0 < given.minutes <= 1440.0:
        raise OutOfRangeError(f"It can't run for {given.minutes:g} minutes.", "Give up to 1440.")
    if given.first_port and not 1024 <= given.first_port <= 65000:
        raise OutOfRangeError(f"--first-port {given.first_port} can't be used.", "Give 1024 to 65000.")
    if given.seed < 0:
        raise OutOfRangeError(f"--seed {given.seed} can't be used.", "Give 0 or more.")
    faults = dict(_fault(text) for text in given.fault)
    return asyncio.run(_serve(given, faults))


def _list(as_json: bool) -> int:
    from fenmist.simulation.faults import FAULTS
    from fenmist.simulation.scenarios import SCENARIOS

    if as_json:
        print_json({
            "scenarios": [{"name": item.name, "title": item.title} for item in SCENARIOS],
            "faults": [
                {"name": item.id, "title": item.title, "seen": item.seen, "usual": item.usual, "unit": item.unit}
                for item in FAULTS
            ],
        })  # fmt: skip
        return 0
    wide = max(len(item.id) for item in FAULTS)
    print("Benches")
    for scene in SCENARIOS:
        print(f"  {scene.name:{wide}}  {scene.title}")
    print("Faults that can be planted")
    for fault in FAULTS:
        strength = f" ({fault.usual:g} {fault.unit})" if fault.unit else ""
        print(f"  {fault.id:{wide}}  {fault.title}{strength}: {fault.seen}")
    return 0


def _fault(text: str) -> tuple[str, float | None]:
    name, has, strength = text.partition("=")
    try:
        return name, float(strength) if has else None
    except ValueError as error:
        raise UnreadableError(f"--fault {text}: “{strength}” is no number.", "Write --fault wet=150.") from error


async def _serve(given: "object", faults: Mapping[str, float | None]) -> int:
    from fenmist.simulation.scenarios import job_bench, live_bench, scenario
    from fenmist.simulation.serving import Mischief, Serving
    from fenmist.simulation.standins import dials

    asked = vars(given)
    if asked["job"] is not None:
        from fenmist.session.trial import read_tried

        job = read_tried(asked["job"]).job
        others = [item for item in job.hookups if item.id != job.bench.id]
        bench = job_bench(job.bench, job.parts, asked["seed"], faults, others)
        name = asked["job"].name
    else:
        bench, name = live_bench(scenario(asked["scenario"]), asked["seed"], faults), asked["scenario"]
    serving = Serving(bench, mischief=Mischief(asked["trouble"], asked["seed"]))
    try:
        served = await serving.start(asked["first_port"])
    except OSError as error:
        raise UnwritableError(f"Those ports can't be listened on: {error.strerror}.", "Take others.") from error
    lines = [
        {
            "id": item.stand_in.id, "kind": item.stand_in.kind, "label": item.stand_in.label,
            "part": item.stand_in.part, "address": item.address,
        }
        for item in served
    ]  # fmt: skip
    arranged = {"plug": bench.setup.hookup.id, "send": ""} if asked["job"] is not None else {}
    if asked["json"]:
        print(
            json.dumps({"bench": name, "seed": asked["seed"], "arranged": arranged, "instruments": lines}), flush=True
        )
    else:
        for line in lines:
            print(f"{line['address']}  {line['label']} ({line['kind']})", flush=True)
        if len(bench.setups) > 1:
            print(f"“plug” and one of {', '.join(bench.setups)} plugs it together anew.", flush=True)
        print("“send” and a waveform has another one sent.", flush=True)
        print(f"Ends by itself after {asked['minutes']:g} minutes, or with Ctrl+C.", flush=True)
    with suppress(OSError, ValueError):  # nobody types into a file, or nothing
        asyncio.get_running_loop().add_reader(sys.stdin.fileno(), _on_typed, bench, asked["json"], arranged)
    until, parent = time.monotonic() + 60.0 * asked["minutes"], os.getppid()
    shows_dials = asked["attached"] and bool(dials(bench))
    while time.monotonic() < until and not (asked["attached"] and os.getppid() != parent):
        await asyncio.sleep(_DIALS_S if shows_dials else _WATCH_S)
        if shows_dials:
            serving.run_clock()
            print(json.dumps({"dials": dials(bench)}), flush=True)
    await serving.stop()
    return 0


def _on_typed(bench: "LiveBench", as_json: bool, arranged: dict[str, str]) -> None:
    """Somebody typed lines: what is to be plugged together, or sent."""
    data = os.read(sys.stdin.fileno(), 4096)
    if not data:
        asyncio.get_running_loop().remove_reader(sys.stdin.fileno())
    for line in data.decode("utf-8", "replace").splitlines():
        verb, _, of = line.strip().partition(" ")
        try:
            if verb == "plug":
                bench.plug(of)
            elif verb == "send":
                bench.set(envelope=of or "carrier")
            else:
                raise UnreadableError(f"“{line}” says nothing to a bench.", "Type “plug” or “send”, and what.")
        except FenmistError as error:
            print(error, file=sys.stderr, flush=True)
            continue
        arranged[verb] = of
        print(json.dumps({"arranged": arranged}) if as_json else f"Done: {line.strip()}.", flush=True)
