"""A request to end, by a signal, closes the window as a person would."""

import signal
import socket
from types import FrameType
from typing import Final

from PyQt6 import sip
from PyQt6.QtCore import QObject, QSocketNotifier
from PyQt6.QtWidgets import QApplication, QWidget

SIGNALS: Final = (signal.SIGTERM, signal.SIGINT, signal.SIGHUP)


def _nothing(_number: int, _frame: FrameType | None) -> None:
    """The byte on the socket is what tells."""


class Farewell(QObject):
    """Python hears a signal only between two of its steps; a socket wakes Qt's loop for it."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self._window = window
        self._ours, self._theirs = socket.socketpair()
        for end in (self._ours, self._theirs):
            end.setblocking(False)
        self._before = {number: signal.signal(number, _nothing) for number in SIGNALS}
        signal.set_wakeup_fd(self._theirs.fileno(), warn_on_full_buffer=False)
        self._notifier = QSocketNotifier(QSocketNotifier.Type.Read, self)
        self._notifier.setSocket(sip.voidptr(self._ours.fileno()))
        self._notifier.setEnabled(True)
        self._notifier.activated.connect(self._on_signal)

    def _on_signal(self) -> None:
        self._ours.recv(64)
        self._window.close()
        QApplication.quit()

    def forget(self) -> None:
        """Listen no more."""
        signal.set_wakeup_fd(-1)
        for number, handler in self._before.items():
            signal.signal(number, handler)
        self._notifier.setEnabled(False)
        self._ours.close()
        self._theirs.close()
