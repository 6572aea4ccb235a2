"""Arguments, then the desk or a plain command; nothing else."""

import sys
from collections.abc import Sequence

from fenmist import __version__

USAGE = f"""Fenmist {__version__}: calibrates and cross-checks RF wattmeters

  fenmist                    open the logbook in your data folder
  fenmist --demo             open the demonstration
  fenmist LOGBOOK            open a logbook file (.fenlog)
  fenmist power --help       power in a load from an oscilloscope's volts
  fenmist capture --help     what a captured trace says: fit, harmonics, noise, rms
  fenmist reduce --help      a job's file worked out; also notes, certificate, runsheet, export, import
  fenmist --version          say the version
"""


def main(arguments: Sequence[str] | None = None) -> int:
    """Run Fenmist; returns the exit code, 2 for arguments that make no sense."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    if given[:1] == ["power"]:
        from fenmist.cli import power

        return power.run(given[1:])
    if given[:1] == ["capture"]:
        from fenmist.cli import capture

        return capture.run(given[1:])
    if given and given[0] in ("reduce", "notes", "certificate", "export", "import"):
        from fenmist.cli import job

        return job.run(given[0], given[1:])
    if given[:1] in (["-h"], ["--help"]):
        print(USAGE, end="")
        return 0
    if given == ["--version"]:
        print(f"Fenmist {__version__}")
        return 0
    demo = "--demo" in given
    files = [item for item in given if item != "--demo"]
    if len(files) > 1 or any(item.startswith("-") for item in files):
        print(f"fenmist: “{' '.join(given)}” makes no sense here. See “fenmist --help”.", file=sys.stderr)
        return 2
    if files and not files[0].endswith(".fenlog"):
        print(f"fenmist: “{files[0]}” is no logbook: its name would end in .fenlog.", file=sys.stderr)
        return 2
    from fenmist.desk import app

    return app.run(demo=demo, logbook=files[0] if files else None)


if __name__ == "__main__":
    raise SystemExit(main())
