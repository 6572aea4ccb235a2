"""Long work: a frozen, callable request run in a thread; the newest answer wins.

The only place where threads are made.
"""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal, Slot

from fenmist.errors import FenmistError


class _Signals(QObject):
    done = Signal(int, object)
    failed = Signal(int, object)


class _Work(QRunnable):
    def __init__(self, number: int, request: Callable[[], Any], signals: _Signals) -> None:
        super().__init__()
        self._number, self._request, self._signals = number, request, signals

    def run(self) -> None:
        try:
            answer = self._request()
        except FenmistError as error:
            self._signals.failed.emit(self._number, error)
        else:
            self._signals.done.emit(self._number, answer)


class JobRunner(QObject):
    """Runs one request after another; only the newest one's answer is told."""

    answered = Signal(object)
    refused = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._newest = 0
        self._signals = _Signals()
        self._signals.done.connect(self._on_done)
        self._signals.failed.connect(self._on_failed)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)

    def start(self, request: Callable[[], Any]) -> None:
        """Run a request; what waited before it is dropped."""
        self._newest += 1
        self._pool.clear()
        self._pool.start(_Work(self._newest, request, self._signals))

    def wait(self) -> None:
        """Wait until nothing runs: for closing, and for tests."""
        self._pool.waitForDone()

    @Slot(int, object)
    def _on_done(self, number: int, answer: object) -> None:
        if number == self._newest:
            self.answered.emit(answer)

    @Slot(int, object)
    def _on_failed(self, number: int, error: object) -> None:
        if number == self._newest:
            self.refused.emit(error)
