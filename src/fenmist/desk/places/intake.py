"""Jobs taken in from files: each is tried in a worker, one after the other, with its progress, and can be cancelled."""

from collections import deque
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from fenmist.desk.runner import JobRunner
from fenmist.errors import CancelledError, FenmistError
from fenmist.session.session import Session
from fenmist.session.trial import Tried, read_tried

LOOK_MS = 120


class _Trial:
    """One file being tried; called in the worker."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.done = 0.0  # part of it
        self.cancelled = False

    def __call__(self) -> Tried:
        """Read and try it."""
        return read_tried(self.path, self._on_progress)

    def _on_progress(self, done: float) -> None:
        self.done = done
        if self.cancelled:
            raise CancelledError(f"{self.path.name} was not taken in: it was cancelled.", "Nothing of it was kept.")


class Intake(QObject):
    """A queue of files."""

    said = Signal(str)
    taken = Signal(str)  # id of the job
    ended = Signal()  # nothing is left to do

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._waiting: deque[Path] = deque()
        self._trial: _Trial | None = None
        self._runner = JobRunner(self)
        self._runner.answered.connect(self._on_tried)
        self._runner.refused.connect(self._on_refused)
        self._look = QTimer(self)
        self._look.setInterval(LOOK_MS)
        self._look.timeout.connect(self._say_progress)

    @property
    def is_busy(self) -> bool:
        """True while a file is being tried."""
        return self._trial is not None

    def add(self, path: Path) -> None:
        """Take in a file when those before it are done."""
        self._waiting.append(path)
        if not self.is_busy:
            self._next()

    def cancel(self) -> None:
        """Stop what is being tried, and forget what waits."""
        self._waiting.clear()
        if self._trial is not None:
            self._trial.cancelled = True

    def closing(self) -> None:
        """Stop and wait."""
        self.cancel()
        self._runner.wait()

    def _next(self) -> None:
        if not self._waiting:
            self._look.stop()
            self._trial = None
            self.ended.emit()
            return
        self._trial = _Trial(self._waiting.popleft())
        self._look.start()
        self._runner.start(self._trial)

    def _say_progress(self) -> None:
        if self._trial is not None:
            more = f", {len(self._waiting)} more to come" if self._waiting else ""
            self.said.emit(f"Checking {self._trial.path.name}: {100 * self._trial.done:.0f}\u2009%{more}. Esc cancels.")

    def _on_tried(self, tried: Tried) -> None:
        try:
            job_id = self._session.keep(tried)
        except FenmistError as error:
            self._on_refused(error)
            return
        self.taken.emit(job_id)
        self._next()

    def _on_refused(self, error: FenmistError) -> None:
        self.said.emit(str(error))
        self._next()
