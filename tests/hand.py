"""A hand and eyes at the window: it clicks what is seen, and types where the last click left it."""

from pathlib import Path

from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QAbstractButton, QApplication, QLineEdit, QScrollArea, QWidget

from tests.qtest import QTest
from true_compass.app.window.window import MainWindow

Key = Qt.Key
NONE = Qt.KeyboardModifier.NoModifier


class Hand:
    """One window, worked by mouse and keys only."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window

    def click(self, view: QWidget, at: QPointF | None = None) -> None:
        """Press what is seen at the middle of a widget, or at a place on it in its own pixels."""
        spot = view.rect().center() if at is None else at.toPoint()
        assert view.isVisible(), f"{view.accessibleName()} is not to be seen"
        seen = self.window.childAt(view.mapTo(self.window, spot))
        assert seen is view, f"{view.accessibleName()} lies under {seen}"
        assert view.isEnabled(), f"{view.accessibleName()} is off"
        QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=spot)
        QApplication.processEvents()

    def press(self, words: str) -> None:
        """Press the button that says so; its words may go on."""
        found = [
            button
            for button in self.window.findChildren(QAbstractButton)
            if button.isVisible() and button.text().startswith(words)
        ]
        assert len(found) == 1, f"{words}: {[button.text() for button in found]}"
        self.click(found[0])

    def key(
        self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
    ) -> None:
        """A key, wherever the keyboard is."""
        QTest.keyClick(self._holder, key, modifier)
        QApplication.processEvents()

    def type(self, text: str) -> None:
        """Figures and letters, wherever the keyboard is."""
        QTest.keyClicks(self._holder, text)
        QApplication.processEvents()

    def enter(self, *texts: str) -> None:
        """Some texts, each with Return behind it."""
        for text in texts:
            self.type(text)
            self.key(Key.Key_Return)

    def fill(self, name: str, text: str) -> None:
        """Write into the field of that name: click it, take all that stands there, type, Return."""
        found = [
            field
            for field in self.window.findChildren(QLineEdit)
            if field.isVisible() and field.accessibleName() == name
        ]
        assert len(found) == 1, f"{name}: {len(found)} fields"
        self._bring_into_sight(found[0])
        self.write(found[0], text)

    def write(self, field: QLineEdit, text: str) -> None:
        """Write into a field that is seen: click it, take all that stands there, type, Return."""
        self.click(field)
        self.key(Key.Key_A, Qt.KeyboardModifier.ControlModifier)
        self.enter(text)

    def wheel(self, view: QWidget, notches: int) -> None:
        """Turn the wheel over a widget; minus is towards the hand, which scrolls down."""
        from PyQt6.QtGui import QWheelEvent

        at = QPointF(view.rect().center())
        event = QWheelEvent(
            at,
            QPointF(view.mapToGlobal(QPoint(round(at.x()), round(at.y())))),
            QPoint(),
            QPoint(0, 120 * notches),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(view, event)
        QApplication.processEvents()

    def drop(self, *paths: Path) -> bool:
        """Let files fall on the window; whether it takes them."""
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
        action, button = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton
        event = QDropEvent(QPointF(9, 9), action, data, button, NONE)
        event.setAccepted(False)
        self.window.dropEvent(event)
        QApplication.processEvents()
        return event.isAccepted()

    def _bring_into_sight(self, view: QWidget) -> None:
        """Scroll down with the wheel until a widget is seen, where it lies in a longer page."""
        page = view.parentWidget()
        while page is not None and not isinstance(page, QScrollArea):
            page = page.parentWidget()
        for _ in range(60 if page is not None else 0):
            spot = view.mapTo(self.window, view.rect().center())
            if self.window.childAt(spot) is view:
                return
            assert isinstance(page, QScrollArea)
            viewport = page.viewport()
            assert viewport is not None
            self.wheel(viewport, -1)

    @property
    def _holder(self) -> QWidget:
        return self.window.focusWidget() or self.window
