"""What the person has told the system: a dark theme, less motion, a comma in numbers."""

from collections.abc import Callable
from typing import Final

from PyQt6.QtCore import QLocale, QObject, Qt
from PyQt6.QtGui import QGuiApplication

from true_compass.app.widgets.look import Look
from true_compass.drawing.text import set_decimal_point

PORTAL: Final = ("org.freedesktop.portal.Desktop", "/org/freedesktop/portal/desktop")
SETTINGS: Final = "org.freedesktop.portal.Settings"
MOTION: Final = (
    ("org.freedesktop.appearance", "reduced-motion", 1),
    ("org.gnome.desktop.interface", "enable-animations", False),
)
"""Where desktops keep it, and the value that asks for less motion."""
PATIENCE_MS: Final = 300


def use_system_numbers() -> None:
    """Show numbers as the system's locale writes them."""
    set_decimal_point(QLocale.system().decimalPoint())


def wants_less_motion() -> bool:
    """Whether the desktop asks for less motion; no where nobody answers in time."""
    from PyQt6.QtDBus import QDBus, QDBusConnection, QDBusInterface, QDBusMessage

    bus = QDBusConnection.sessionBus()
    if not bus.isConnected():
        return False
    portal = QDBusInterface(*PORTAL, SETTINGS, bus)
    portal.setTimeout(PATIENCE_MS)
    for space, key, asks in MOTION:
        answer = portal.call(QDBus.CallMode.Block, "ReadOne", space, key)
        told = answer.arguments()
        if answer.type() == QDBusMessage.MessageType.ReplyMessage and told and told[0] == asks:
            return True
    return False


class System(QObject):
    """Lets the look follow the system until the person chooses otherwise here.

    `less_motion` asks the desktop; it is asked once, after the first frame.
    """

    def __init__(
        self, look: Look, parent: QObject, less_motion: Callable[[], bool] = wants_less_motion
    ) -> None:
        super().__init__(parent)
        self._look = look
        self._less_motion = less_motion
        hints = QGuiApplication.styleHints()
        if hints is not None:
            hints.colorSchemeChanged.connect(self.follow_scheme)
            self.follow_scheme(hints.colorScheme())

    def follow_scheme(self, scheme: Qt.ColorScheme) -> None:
        """Dark or light as the system is, unless a theme was chosen here."""
        if self._look.follows_system and scheme is not Qt.ColorScheme.Unknown:
            self._look.set_dark(scheme is Qt.ColorScheme.Dark, chosen=False)

    def follow_motion(self) -> None:
        """Turn without sweeping where the system asks for less motion."""
        if not self._look.still and self._less_motion():
            self._look.set_still(True)
