"""The first window of a user listens for later starts, and opens what they were asked to open."""

import contextlib
from pathlib import Path

from PyQt6.QtCore import QObject, Qt
from PyQt6.QtNetwork import QLocalServer, QLocalSocket

from true_compass.app.window.window import MainWindow
from true_compass.cli.handing_over import MOST_BYTES, TAKEN, read_asked
from true_compass.files.rigs import rig_names


class FirstWindow(QObject):
    """Answers on a socket as long as its window lives."""

    def __init__(self, window: MainWindow, path: Path) -> None:
        super().__init__(window)
        self._window = window
        self._server = QLocalServer(self)
        self._server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        # A window that was killed leaves its socket behind; nobody answered on it a moment ago.
        with contextlib.suppress(OSError):
            path.unlink(missing_ok=True)
        self.listens = self._server.listen(str(path))
        self._server.newConnection.connect(self._on_connection)

    def _on_connection(self) -> None:
        line = self._server.nextPendingConnection()
        if line is not None:
            line.readyRead.connect(self._on_data)
            line.disconnected.connect(line.deleteLater)

    def _on_data(self) -> None:
        line = self.sender()
        assert isinstance(line, QLocalSocket)
        if not line.canReadLine():
            if line.bytesAvailable() > MOST_BYTES:
                line.abort()
            return
        asked = read_asked(bytes(line.readLine(MOST_BYTES)))
        if asked is None:
            line.abort()
            return
        line.write(TAKEN)
        line.flush()
        line.disconnectFromServer()
        self.take(asked)

    def take(self, asked: dict[str, str]) -> None:
        """Open what was asked for, and come to the front."""
        window = self._window
        if asked.get("rig") in rig_names():
            window.opener.open_rig(asked["rig"])
        elif asked.get("path"):
            window.opener.open_path(Path(asked["path"]))
        window.setWindowState(window.windowState() & ~Qt.WindowState.WindowMinimized)
        window.show()
        window.raise_()
        window.activateWindow()

    def forget(self) -> None:
        """Listen no more."""
        self._server.close()
