"""One window per logbook: a second start for the same file raises the first and ends."""

import hashlib
import os
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject
from PySide6.QtNetwork import QLocalServer, QLocalSocket

RAISE = b"raise\n"
WAIT_MS = 800


def _name(logbook: Path) -> str:
    """By the file itself, whatever name it is opened by."""
    found = logbook.stat()
    digest = hashlib.sha256(f"{os.geteuid()} {found.st_dev} {found.st_ino}".encode()).hexdigest()[:20]
    return f"fenmist-{digest}"


def raise_other(logbook: Path) -> bool:
    """Ask the window that has this logbook open to come to the front; false where none answers."""
    socket = QLocalSocket()
    socket.connectToServer(_name(logbook))
    if not socket.waitForConnected(WAIT_MS):
        return False
    socket.write(RAISE)
    answered = socket.waitForBytesWritten(WAIT_MS) and socket.waitForReadyRead(WAIT_MS)
    socket.disconnectFromServer()
    return bool(answered)


class Doorbell(QObject):
    """Listens for a second start; only this user's processes can ring."""

    def __init__(self, logbook: Path, on_ring: Callable[[], None], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._on_ring = on_ring
        self._server = QLocalServer(self)
        self._server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        QLocalServer.removeServer(_name(logbook))  # left over from a crash: the lock file says that it is ours
        self._server.newConnection.connect(self._on_connection)
        self._server.listen(_name(logbook))

    def _on_connection(self) -> None:
        socket = self._server.nextPendingConnection()
        socket.readyRead.connect(lambda: self._on_ready(socket))
        socket.disconnected.connect(socket.deleteLater)

    def _on_ready(self, socket: QLocalSocket) -> None:
        if bytes(socket.readLine(64).data()) == RAISE:
            socket.write(b"raised\n")
            socket.flush()
            self._on_ring()

    def close(self) -> None:
        """Stop listening."""
        self._server.close()
