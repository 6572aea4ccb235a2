"""Long work: a frozen, callable request run in a thread; the newest answer wins.

The only place where threads are made.
"""

import gc
import threading
from collections.abc import Callable
from typing import Any
from weakref import WeakSet

from PySide6.QtCore import QCoreApplication, QEvent, QObject, QRunnable, QThreadPool, QTimer, Signal, Slot
from shiboken6 import isValid

from fenmist.errors import CancelledError, FenmistError

LATE_MS = 500
"""How long work may take before it is shown."""

LOOK_MS = 20
"""Between two looks whether a worker still runs."""


class _Signals(QObject):
    done = Signal(int, object)
    failed = Signal(int, object)


class _Collector(QObject):
    """Python's cyclic collector, paused while a worker runs.

    It runs in whatever thread happens to allocate; in a worker it would take away widgets that lie in cycles there, and
    Qt must lose its widgets in the window's thread only (seen: a crash while another thread imported). So it is paused
    before a worker starts, and goes on once no thread of a pool is at work: a worker that says of itself that it begins
    or ends still allocates before and after it. Whoever started it may be gone by then; pools wait for their threads.
    """

    def __init__(self) -> None:
        super().__init__()
        self._pools: WeakSet[QThreadPool] = WeakSet()
        self._look = QTimer(self)
        self._look.setInterval(LOOK_MS)
        self._look.timeout.connect(self.go_on)

    def pause(self, pool: QThreadPool) -> None:
        """A thread of this pool is about to work."""
        gc.disable()
        self._pools.add(pool)
        self._look.start()

    def go_on(self) -> None:
        """Whoever let it rest is done: it goes on, unless a worker runs."""
        if not any(isValid(pool) and pool.activeThreadCount() for pool in self._pools):
            self._look.stop()
            gc.enable()


COLLECTOR = _Collector()


class _Work(QRunnable):
    def __init__(
        self, number: int, request: Callable[[], Any], then: Callable[[Any], Any] | None, signals: _Signals
    ) -> None:
        super().__init__()
        self._number, self._request, self._then, self._signals = number, request, then, signals
        self.stopped = threading.Event()

    def run(self) -> None:
        try:
            answer = self._request()
            if self._then is not None and not self.stopped.is_set():
                answer = self._then(answer)
        except FenmistError as error:
            self._signals.failed.emit(self._number, error)
        except BaseException:
            self._signals.failed.emit(self._number, None)
            raise
        else:
            self._signals.done.emit(self._number, answer)


class JobRunner(QObject):
    """Runs one request after another; only the newest one's answer is told.

    Signals
    -------
    answered, refused
        With the answer, or with the error.
    late
        True when the newest request takes longer than `LATE_MS`, False when it has ended or was stopped.
    """

    answered = Signal(object)
    refused = Signal(object)
    late = Signal(bool)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._newest = 0
        self._signals = _Signals()
        self._signals.done.connect(self._on_done)
        self._signals.failed.connect(self._on_failed)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._work: _Work | None = None
        self._patience = QTimer(self)
        self._patience.setSingleShot(True)
        self._patience.timeout.connect(lambda: self.late.emit(True))

    def start(self, request: Callable[[], Any], then: Callable[[Any], Any] | None = None) -> None:
        """Run a request, and what is to be done with its answer unless it is stopped; what waited is dropped."""
        self._newest += 1
        self._pool.clear()
        self._work = _Work(self._newest, request, then, self._signals)
        self._patience.start(LATE_MS)
        COLLECTOR.pause(self._pool)
        self._pool.start(self._work)

    def cancel(self) -> None:
        """Stop the newest request: nothing is done with its answer any more."""
        if self._work is not None:
            self._work.stopped.set()
            self._newest += 1
            self._ended()
            self.refused.emit(CancelledError("Stopped.", "Nothing came of it."))

    def _ended(self) -> None:
        self._work = None
        self._patience.stop()
        self.late.emit(False)

    def wait(self) -> None:
        """Wait until nothing runs, and let what was said of it arrive: for closing, and for tests."""
        self._pool.waitForDone()
        COLLECTOR.go_on()
        QCoreApplication.sendPostedEvents(self, QEvent.Type.MetaCall)

    @Slot(int, object)
    def _on_done(self, number: int, answer: object) -> None:
        if number == self._newest:
            self._ended()
            self.answered.emit(answer)

    @Slot(int, object)
    def _on_failed(self, number: int, error: object) -> None:
        if number == self._newest:
            self._ended()
            if error is not None:
                self.refused.emit(error)
