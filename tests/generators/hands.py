"""Hands that do anything: keys, clicks, drags, wheel and nonsense typed, in the real window."""

from collections.abc import Callable
from random import Random

from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QApplication, QComboBox, QLineEdit, QWidget

from tests.qtest import QTest
from true_compass.app.keys import ALT, CTRL, NONE, SHIFT
from true_compass.app.registry import WORKSPACES
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.engine.hand.grips import GripView
from true_compass.files.rigs import rig_names

Key = Qt.Key
LEFT = Qt.MouseButton.LeftButton
KEYS = (
    *(Key(Key.Key_0.value + digit) for digit in range(10)),
    *(entry.key for entry in WORKSPACES),
    *(Key.Key_Space, Key.Key_Period, Key.Key_Comma, Key.Key_V, Key.Key_T, Key.Key_Z, Key.Key_D),
    *(Key.Key_P, Key.Key_F1, Key.Key_F5, Key.Key_Escape, Key.Key_Backspace, Key.Key_Tab),
    *(Key.Key_Left, Key.Key_Right, Key.Key_Up, Key.Key_Down, Key.Key_Home, Key.Key_End),
    *(Key.Key_PageUp, Key.Key_PageDown, Key.Key_Return, Key.Key_Backtab, Key.Key_F4, Key.Key_F10),
)
NONSENSE = (
    *("", " ", "0", "-1", "1e309", "nan", "9999999999", "½", "Ω 12", "0,25", "3.5 in", "10 thou"),
    *("A -45 ahead, B 45", "1-3-4-2", "1 2 3", "0 120 240 240 120 0", "EIIE", "M8x1", "x" * 300),
    *("0.35", "12", "90", "pulley 0 creeps = TC", "248 at seat, 210 at 1", "1 0 0", "'\"\\\n"),
)
SIZES = ((700, 460), (1024, 600), (1280, 800), (1700, 1000))


class Hands:
    """Does one thing after another to a window, always the same for one seed."""

    def __init__(self, window: MainWindow, seed: int) -> None:
        self.window, self.random = window, Random(seed)
        self.done: list[str] = []
        self.actions: list[tuple[int, Callable[[], str]]] = [
            (8, self.press_a_key),
            (8, self.click),
            (4, self.drag),
            (3, self.turn_the_wheel),
            (5, self.type_nonsense),
            (2, self.pick_from_a_list),
            (1, self.open_a_rig),
            (1, self.change_the_look),
            (1, self.undo_or_redo),
            (6, self.take_a_grip),
            (1, self.lock),
        ]

    def act(self) -> None:
        chances, acts = zip(*self.actions, strict=True)
        act = self.random.choices(acts, chances)[0]
        self.done.append(f"{act.__name__}: {act()}")
        QApplication.processEvents()
        if self.window.lists.menu.isVisible():
            self.window.lists.menu.close()

    def some(self, kind: type[QWidget]) -> QWidget | None:
        views = [view for view in self.window.findChildren(kind) if view.isVisible()]
        return self.random.choice(views) if views else None

    def spot(self, view: QWidget) -> QPoint:
        return QPoint(
            self.random.randrange(max(view.width(), 1)),
            self.random.randrange(max(view.height(), 1)),
        )

    def press_a_key(self) -> str:
        key, how = (
            self.random.choice(KEYS),
            self.random.choice((NONE, NONE, NONE, SHIFT, CTRL, ALT)),
        )
        focus = self.window.focusWidget()
        QTest.keyClick(focus if focus is not None else self.window, key, how)
        return f"{key.name} {how}"

    def click(self) -> str:
        view = self.some(QWidget)
        if view is None:
            return "nothing"
        at = self.spot(view)
        QTest.mouseClick(view, LEFT, pos=at)
        return f"{view} {at}"

    def drag(self) -> str:
        view = self.some(QWidget)
        if view is None:
            return "nothing"
        QTest.mousePress(view, LEFT, pos=self.spot(view))
        for _ in range(4):
            QTest.mouseMove(view, self.spot(view))
        QTest.mouseRelease(view, LEFT, pos=self.spot(view))
        return str(view)

    def turn_the_wheel(self) -> str:
        view = self.some(QWidget)
        if view is None:
            return "nothing"
        at, turned = QPointF(self.spot(view)), self.random.choice((-360, -120, -15, 40, 120))
        event = QWheelEvent(
            at,
            QPointF(view.mapToGlobal(at)),
            QPoint(),
            QPoint(0, turned),
            Qt.MouseButton.NoButton,
            self.random.choice((NONE, SHIFT, CTRL)),
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(view, event)
        return f"{view} {turned}"

    def type_nonsense(self) -> str:
        field = self.some(QLineEdit)
        if not isinstance(field, QLineEdit):
            return "nothing"
        words = self.random.choice(NONSENSE)
        field.setFocus()
        field.selectAll()
        QTest.keyClick(field, Key.Key_Delete)
        clipboard = QApplication.clipboard()
        assert clipboard is not None
        clipboard.setText(words)
        field.paste()
        return f"{field.objectName()} {words[:20]!r}"

    def pick_from_a_list(self) -> str:
        box = self.some(QComboBox)
        if not isinstance(box, QComboBox):
            return "nothing"
        box.setCurrentIndex(self.random.randrange(box.count()))
        return f"{box.objectName()} {box.currentText()}"

    def open_a_rig(self) -> str:
        name = self.random.choice(rig_names())
        self.window.opener.open_rig(name)
        return name

    def change_the_look(self) -> str:
        size = self.random.choice(SIZES)
        self.window.resize(*size)
        self.window.look.set_text_percent(self.random.choice((100, 125, 150)))
        return str(size)

    def take_a_grip(self) -> str:
        """On the page of the engine by hand: press a grip, or drag it anywhere."""
        view = self.some(GripView)
        grips = view.grips() if isinstance(view, GripView) else []
        if not isinstance(view, GripView) or not grips:
            return "nothing"
        grip, how = self.random.choice(grips), self.random.choice((NONE, SHIFT, ALT))
        begun = (grip.at * view.look.scale).toPoint()
        QTest.mousePress(view, LEFT, how, begun)
        for _ in range(self.random.randrange(3)):
            QTest.mouseMove(view, self.spot(view))
        QTest.mouseRelease(view, LEFT, how, self.random.choice((begun, self.spot(view))))
        return f"{type(view).__name__} {grip.words}"

    def lock(self) -> str:
        self.window.teller.toggle_lock()
        return str(self.window.session.state.locked)

    def undo_or_redo(self) -> str:
        how = self.random.choice((CTRL, CTRL | SHIFT))
        QTest.keyClick(self.window, Key.Key_Z, how)
        return str(how)
