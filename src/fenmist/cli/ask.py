"""`fenmist ask`: one question to an instrument, and what it answers."""

from collections.abc import Sequence

from fenmist.cli.command import Parser
from fenmist.cli.terminal import print_json
from fenmist.errors import InstrumentError, OutOfRangeError


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist ask", allow_abbrev=False, description="Send one line to an instrument and show its reply.",
    )  # fmt: skip
    parser.add_argument("address", metavar="ADDRESS", help="host:port, /dev/ttyUSB0@9600, or a VISA resource name")
    parser.add_argument("line", nargs="?", default="*IDN?", metavar="LINE", help="what to send; *IDN?")
    parser.add_argument("--listen", action="store_true", help="send nothing: show the next line that comes")
    parser.add_argument("--timeout", type=float, default=2.0, metavar="S", help="how long to wait; 2 s")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input, InstrumentError without a reply."""
    from fenmist.instruments.address import address
    from fenmist.instruments.trouble import Trouble
    from fenmist.instruments.wire import Speech, Wire
    from fenmist.instruments.wirelog import WireLog, shown

    given = _parser().parse_args(arguments)
    if not 0.0 < given.timeout <= 600.0:
        raise OutOfRangeError(f"It can't be waited for {given.timeout:g} s.", "Give up to 600.")
    wire = Wire(address(given.address), Speech(timeout_s=given.timeout), WireLog())
    try:
        if given.listen:
            found = wire.newest_line()
        elif "?" in given.line:
            found = wire.ask(given.line)
        else:
            told = wire.tell(given.line)
            found = b"" if told is None else told
    finally:
        wire.close()
    if isinstance(found, Trouble):
        raise InstrumentError(found.what, found.remedy)
    if given.json:
        print_json({"address": wire.at.resource, "sent": "" if given.listen else given.line, "reply": shown(found)})
    else:
        print(shown(found))
    return 0
