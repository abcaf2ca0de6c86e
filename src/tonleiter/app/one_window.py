"""A station is open in one window: a second start asks that one to come to the front.

Each window listens on a local socket that is named by its station's folder; whoever starts with
that folder knocks there first. Where no socket can be made, nothing is lost: the lock in the
folder still keeps two windows from working on one station.
"""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject
from PySide6.QtNetwork import QLocalServer, QLocalSocket

KNOCK_MS = 400
RAISE = b"raise"


def _name(folder: Path) -> str:
    whose = f"{os.getuid()}:{folder.resolve()}"
    return f"tonleiter-{hashlib.sha256(whose.encode()).hexdigest()[:20]}"


def raised_elsewhere(folder: Path) -> bool:
    """Whether another window has the station open and was asked to come to the front."""
    socket = QLocalSocket()
    socket.connectToServer(_name(folder))
    if not socket.waitForConnected(KNOCK_MS):
        return False
    socket.write(RAISE)
    socket.waitForBytesWritten(KNOCK_MS)
    # an answer says that somebody is at home, and not a window that hangs
    answered = socket.bytesAvailable() > 0 or socket.waitForReadyRead(KNOCK_MS)
    socket.disconnectFromServer()
    return answered


class Door(QObject):
    """Listens for others who would open the same station."""

    def __init__(self, to_front: Callable[[], object], parent: QObject) -> None:
        super().__init__(parent)
        self._to_front = to_front
        self._server: QLocalServer | None = None
        self._at: Path | None = None

    def stand_at(self, folder: Path) -> None:
        """Listen for this station from now on, and for no other.

        It is asked after every edit: where it stands there already nothing is done.
        """
        if folder == self._at:
            return
        self.close()
        self._at = folder
        server = QLocalServer(self)
        server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        name = _name(folder)
        if not server.listen(name):
            # a program that was killed leaves its socket; one that lives would have answered
            probe = QLocalSocket()
            probe.connectToServer(name)
            if probe.waitForConnected(KNOCK_MS):
                probe.disconnectFromServer()
                return
            QLocalServer.removeServer(name)
            if not server.listen(name):
                return
        server.newConnection.connect(self._answer)
        self._server = server

    def close(self) -> None:
        """Nobody is at home any more."""
        self._at = None
        if self._server is not None:
            self._server.close()
            self._server.deleteLater()
            self._server = None

    def _answer(self) -> None:
        if self._server is None:
            return
        while (socket := self._server.nextPendingConnection()) is not None:
            socket.disconnected.connect(socket.deleteLater)
            socket.write(RAISE)
            socket.waitForBytesWritten(KNOCK_MS)
            self._to_front()
