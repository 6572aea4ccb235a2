"""What happens to errors nobody caught: the user's in words in the foot, ours into a log, with a line that says so."""

import sys
import traceback
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from types import TracebackType

from fenmist.errors import FenmistError


def install(say: Callable[[str], None], log: Path) -> None:
    """Show a `FenmistError` through `say`; write anything else to `log` and say so."""

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if isinstance(error, FenmistError):
            say(str(error))
            return
        text = "".join(traceback.format_exception(kind, error, trace))
        print(text, file=sys.stderr)
        try:
            log.parent.mkdir(parents=True, exist_ok=True)
            with log.open("a", encoding="utf-8") as file:
                file.write(f"{datetime.now().astimezone().isoformat()}\n{text}\n")
        except OSError:
            say(f"A fault of Fenmist: {error!r}. Nothing that was kept is lost.")
        else:
            say(f"A fault of Fenmist: {error!r}. It is logged in {log}; nothing that was kept is lost.")

    sys.excepthook = hook
