"""Arguments, then the desk or a plain command; nothing else."""

import sys
from collections.abc import Sequence
from importlib import import_module

from fenmist import __version__
from fenmist.errors import OutOfRangeError

USAGE = f"""Fenmist {__version__}: calibrates and cross-checks RF wattmeters

  fenmist                    open the logbook in your data folder
  fenmist --demo             open the demonstration
  fenmist LOGBOOK            open a logbook file (.fenlog)
  fenmist power --help       power in a load from an oscilloscope's volts
  fenmist capture --help     what a captured trace says: fit, harmonics, noise, rms
  fenmist agree --help       whether values of one power agree, and what they say together
  fenmist loss --help        what a part loses, from powers in front and behind, without it and with it
  fenmist swr --help         a reading of a match in every form, at both ends of a line, with the meter's window
  fenmist meters --help      what four kinds of meter show on a waveform: carrier, tones, dots, AM, speech, a capture
  fenmist plateau --help     at which gain a transmitter's power stops rising
  fenmist trim --help        how to set a meter's control, from what it showed against a reference
  fenmist constants --help   constants of a home-built meter, from its detector's volts and a reference's watts
  fenmist tap --help         a resistive tap: coupling, stack, heat, how far up it holds
  fenmist pad --help         a matched pad: resistors as pi and tee, heat, stock values
  fenmist shelf --help       what a logbook's equipment can decide, bench by bench
  fenmist bench --help       a simulated bench whose instruments answer on this machine
  fenmist ask --help         one question to an instrument on a wire
  fenmist triage --help      transmitter, line or meter: which one is wrong, and what to try next
  fenmist eirp --help        radiated power with its uncertainty, against a licence's limit
  fenmist due --help         what is due when, and a calendar file of it
  fenmist reduce --help      a job's file worked out; also notes, certificate, runsheet, table, export, import
  fenmist --version          say the version
"""


_JOBS = ("reduce", "notes", "certificate", "runsheet", "table", "export", "import")
_ALONE = (
    "power", "capture", "agree", "loss", "swr", "meters", "plateau", "trim", "constants", "tap", "pad",
    "shelf", "due", "bench", "ask", "eirp", "triage",
)  # fmt: skip
COMMANDS = (*_ALONE, *_JOBS)
"""Plain commands: modules of their own, and what is done with a job's file."""


def _command(name: str, given: Sequence[str]) -> int:
    if name in _JOBS:
        from fenmist.cli import job

        return job.run(name, given)
    made: int = import_module(f"fenmist.cli.{name}").run(given)
    return made


def main(arguments: Sequence[str] | None = None) -> int:
    """Run Fenmist; returns the exit code (cli/terminal.py says what they mean)."""
    from fenmist.cli.terminal import run_plainly

    given = list(sys.argv[1:] if arguments is None else arguments)
    if given and given[0] in COMMANDS:
        return run_plainly(f"fenmist {given[0]}", lambda: _command(given[0], given[1:]))
    return run_plainly("fenmist", lambda: _begin(given))


def _begin(given: list[str]) -> int:
    if given[:1] in (["-h"], ["--help"]):
        print(USAGE, end="")
        return 0
    if given == ["--version"]:
        print(f"Fenmist {__version__}")
        return 0
    demo = "--demo" in given
    files = [item for item in given if item != "--demo"]
    if len(files) > 1 or any(item.startswith("-") for item in files):
        raise OutOfRangeError(f"“{' '.join(given)}” makes no sense here.", "See “fenmist --help”.")
    if files and not files[0].endswith(".fenlog"):
        raise OutOfRangeError(f"“{files[0]}” is no logbook: its name would end in .fenlog.")
    from fenmist.desk import app

    return app.run(demo=demo, logbook=files[0] if files else None)


if __name__ == "__main__":
    raise SystemExit(main())
