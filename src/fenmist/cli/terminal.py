"""Plain commands among others: pipes that close, disks that are full, terminals that know only ASCII, Ctrl+C.

Exit codes: 0 done, 1 something could not be opened or written (the output, a file, a logbook, a display), an instrument
doesn't answer or no reading may be taken, 2 arguments or input that can't be used, 3 a fault of Fenmist, 130 stopped by
Ctrl+C.
"""

import codecs
import json
import os
import sys
import traceback
from collections.abc import Callable
from contextlib import suppress
from datetime import datetime
from pathlib import Path
from typing import Any, TextIO

from fenmist.errors import FenmistError, InstrumentError, RecordError, UnwritableError

NOT_WRITTEN, BAD_INPUT, FAULT, STOPPED = 1, 2, 3, 130

_PLAIN = {
    "Ω": "ohm", "µ": "u", "μ": "u", "±": "+/-", "×": "x", "−": "-", "–": "-", "—": "-", "…": "...", "√": "sqrt",
    "“": '"', "”": '"', "’": "'", "·": "-", "°": " deg", "²": "^2", "\u2009": " ", "\u202f": " ", "\u00a0": " ",
    "≤": "<=", "≥": ">=", "ρ": "rho", "Γ": "Gamma", "✕": "x", "▲": "!", "●": "*", "○": "o", "→": "->", "η": "eta",
}  # fmt: skip
_HANDLER = "fenmist.plain"


def _plain(error: UnicodeError) -> tuple[str, int]:
    """What a terminal can't show, in what it can."""
    if not isinstance(error, UnicodeEncodeError):
        raise error
    return "".join(_PLAIN.get(letter, "?") for letter in error.object[error.start : error.end]), error.end


def run_plainly(name: str, work: Callable[[], int]) -> int:
    """Run a command; returns its exit code. Whatever goes wrong is one line, and never a traceback."""
    codecs.register_error(_HANDLER, _plain)
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors=_HANDLER)
    try:
        try:
            code = work()
        except SystemExit as end:  # argparse has said its word
            code = int(end.code or 0)
        if sys.stdout is not None:
            sys.stdout.flush()
        return code
    except FenmistError as error:
        _say(f"{name}: {error}")
        return NOT_WRITTEN if isinstance(error, RecordError | UnwritableError | InstrumentError) else BAD_INPUT
    except BrokenPipeError:
        _forget_output()
        return 0  # whoever read it has had enough
    except OSError as error:
        _forget_output()
        _say(f"{name}: the output could not be written: {error.strerror or error}.")
        return NOT_WRITTEN
    except KeyboardInterrupt:
        _forget_output()
        return STOPPED
    except Exception as error:  # noqa: BLE001  the last border before the shell
        return _fault(name, error)


def print_json(value: Any) -> None:
    """Print a value as JSON; a terminal that isn't UTF-8 gets the same value in ASCII."""
    encoding = (getattr(sys.stdout, "encoding", None) or "ascii").lower().replace("-", "")
    print(json.dumps(value, ensure_ascii=not encoding.startswith("utf"), indent=2, allow_nan=False))


def _say(text: str) -> None:
    try:
        if sys.stderr is not None:
            print(text, file=sys.stderr, flush=True)
    except OSError:
        _forget(sys.stderr)


def _forget_output() -> None:
    """What is still in the buffer goes nowhere: else Python would try once more when it ends, and complain."""
    _forget(sys.stdout)


def _forget(stream: TextIO | None) -> None:
    if stream is None:
        return
    nowhere = os.open(os.devnull, os.O_WRONLY)
    with suppress(OSError, ValueError):  # it may be no file at all
        os.dup2(nowhere, stream.fileno())
    os.close(nowhere)


def _fault(name: str, error: Exception) -> int:
    from platformdirs import user_state_path

    log = user_state_path("fenmist", appauthor=False) / "faults.log"
    text = "".join(traceback.format_exception(error))
    try:
        log.parent.mkdir(parents=True, exist_ok=True)
        with log.open("a", encoding="utf-8", errors="replace") as file:
            file.write(f"{datetime.now().astimezone().isoformat()}\n{text}\n")
    except OSError:
        log = Path()
    where = f" It is logged in {log}." if log.name else ""
    _say(f"{name}: a fault of Fenmist: {type(error).__name__}.{where} Please report it.")
    return FAULT
