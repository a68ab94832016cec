"""One window for one study, whoever asks: a second program hands over to the one that has it open."""

from __future__ import annotations

from collections.abc import Callable
from hashlib import sha256
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from scutcher.core.errors import InputError
from scutcher.study.storage.state_folder import state_folder

if TYPE_CHECKING:
    from PySide6.QtNetwork import QLocalSocket

PATIENCE = 500
"""Milliseconds that another program may take to answer."""

LONGEST = 65_536
"""Bytes of a question at most."""


def place_of(study: Path) -> str:
    """The name of the socket of a study, in the state folder of this person."""
    name = sha256(str(study.absolute()).encode()).hexdigest()[:16]
    return str(state_folder() / f"{name}.socket")


def hand_over(study: Path) -> bool:
    """Ask whoever has a study open to come to the front; whether somebody has.

    Where there can be no socket (the state folder cannot be written), nobody has.
    """
    try:
        place = place_of(study)
    except InputError:
        return False
    if not Path(place).exists():
        return False
    from PySide6.QtNetwork import QLocalSocket  # which the first frame needs not

    socket = QLocalSocket()
    socket.connectToServer(place)
    if not socket.waitForConnected(PATIENCE):
        return False
    socket.write(b"come\n")
    answered = socket.waitForReadyRead(PATIENCE) and bytes(socket.readLine().data()) == b"here\n"
    socket.disconnectFromServer()
    return answered


class Doorbell(QObject):
    """Answers for one study as long as its window is open."""

    def __init__(self, study: Path, come: Callable[[], object], parent: QObject) -> None:
        from PySide6.QtNetwork import QLocalServer

        super().__init__(parent)
        self._come = come
        self.server = QLocalServer(self)
        self.server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        name = place_of(study)
        QLocalServer.removeServer(name)  # of a program that was killed
        self.server.newConnection.connect(self._on_ring)
        self.rings = self.server.listen(name)

    def _on_ring(self) -> None:
        while (socket := self.server.nextPendingConnection()) is not None:
            socket.readyRead.connect(lambda socket=socket: self._answer(socket))
            socket.disconnected.connect(socket.deleteLater)
            if socket.bytesAvailable():
                self._answer(socket)

    def _answer(self, socket: QLocalSocket) -> None:
        if socket.bytesAvailable() > LONGEST:
            socket.abort()
        elif socket.canReadLine() and bytes(socket.readLine().data()) == b"come\n":
            socket.write(b"here\n")
            socket.flush()
            self._come()

    def close(self) -> None:
        """Nobody is at home any more."""
        self.server.close()
