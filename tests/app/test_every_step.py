"""Every step of every lesson that asks is answered rightly and wrongly, by mouse alone and by keys
alone, on three layouts."""

from collections.abc import Callable

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QAbstractButton

from tests.conftest import MakeWindow
from tests.hand import Hand
from tests.painted import Painted
from tests.qtest import QTest
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.lessons.workspace import LessonsWorkspace
from true_compass.core.engine import Engine
from true_compass.files.course import lesson_names, shipped_lesson
from true_compass.files.rigs import demo_rig
from true_compass.lessons.drills import rig_of
from true_compass.lessons.forms import Choice, Figure, Place, Ticks
from true_compass.lessons.guide import Guided, why_not
from true_compass.session.lesson import OnLesson, Station

Key = Qt.Key
LAYOUTS = ("birch", "cedar", "acacia", "willow", "alder")
"""A six, a V8, a radial; and two more for lessons that those cannot show."""
TURNS = (180, 90, 30, 5, 1)


class Student:
    """Works through a lesson with one kind of hand at a time."""

    def __init__(self, window: MainWindow) -> None:
        window.go_to("Lessons")
        assert isinstance(window.workspace, LessonsWorkspace)
        self.page, self.hand = window.workspace, Hand(window)

    @property
    def on(self) -> OnLesson:
        on = self.page.model.on
        assert on is not None
        return on

    def right(self) -> object:
        return self.on.form.read(self.on.drill.answer(self.on.asked))

    def wrong(self) -> object:
        form, right = self.on.form, self.right()
        if isinstance(form, Choice):
            return next(o.value for o in form.options if form.read(o.value) != right)
        if isinstance(form, Ticks):
            return () if right else form.names[:1]
        if isinstance(form, Figure):
            return round(right + 3 * form.within + 5)  # type: ignore[operator]
        return (right + 90.0) % 720.0  # type: ignore[operator]

    # By mouse ---------------------------------------------------------------------------------

    def by_mouse(self, answer: object) -> None:
        form = self.on.form
        if isinstance(form, Choice):
            self.click(f"option_{answer}")
            return
        if isinstance(form, Ticks):
            for name in answer or ("none",):  # type: ignore[attr-defined]
                self.click(f"option_{name}")
        elif isinstance(form, Figure):
            names = {".": "point", "-": "minus"}
            text = f"{answer:.4g}"
            for sign in [*text.lstrip("-"), *(["-"] if text.startswith("-") else [])]:
                self.click(f"pad_{names.get(sign, sign)}")
        elif isinstance(form, Place):
            self.turn_to(answer, self.turn_by_mouse)
        self.hand.press("Answer: Enter")

    def turn_by_mouse(self, by: int) -> None:
        """A press of the turn bar; a narrow one has no half turn, and is pressed twice."""
        words = f"{'+' if by > 0 else '−'}{abs(by)}°"
        buttons = self.hand.window.findChildren(QAbstractButton)
        shown = {button.text() for button in buttons if button.isVisible()}
        if words in shown:
            self.hand.press(words)
        else:
            assert abs(by) == 180
            self.turn_by_mouse(by // 2)
            self.turn_by_mouse(by // 2)

    def click(self, name: str) -> None:
        button = self.page.learn.answer.findChild(QAbstractButton, name)
        found = [
            b
            for b in self.page.learn.answer.findChildren(QAbstractButton)
            if b.objectName() == name and b.isVisible()
        ]
        assert len(found) == 1, (name, button)
        self.hand.click(found[0])

    def turn_to(self, goal: object, turn: Callable[[int], None]) -> None:
        assert isinstance(goal, float)
        for step in TURNS:
            while True:
                here = self.page.model.crank.state.crank_deg
                away = (goal - here + 360.0) % 720.0 - 360.0
                if abs(away) < step:
                    break
                turn(step if away > 0 else -step)

    # By keys ----------------------------------------------------------------------------------

    def by_keys(self, answer: object) -> None:
        form, view = self.on.form, self.page.learn.answer
        if isinstance(form, Choice):
            button = next(b for b in view.options if b.option.value == answer)
            self.hand.type(button.key or str(answer))
            if self.on.judged is None:
                QTest.qWait(700)  # a second digit could have followed
            return
        if isinstance(form, Ticks):
            for name in answer or ("",):  # type: ignore[attr-defined]
                self.hand.type(str(form.names.index(name) + 1) if name else "0")
        elif isinstance(form, Figure):
            self.hand.type(f"{answer:.4g}")
        elif isinstance(form, Place):
            self.turn_to(answer, self.turn_by_key)
        self.hand.key(Key.Key_Return)

    def turn_by_key(self, by: int) -> None:
        on, back, how = TURN_KEYS[abs(by)]
        self.hand.key(on if by > 0 else back, how)


NONE, SHIFT, CTRL = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
)
TURN_KEYS = {
    1: (Key.Key_Right, Key.Key_Left, NONE),
    5: (Key.Key_Right, Key.Key_Left, SHIFT),
    30: (Key.Key_Right, Key.Key_Left, CTRL),
    90: (Key.Key_PageDown, Key.Key_PageUp, NONE),
    180: (Key.Key_PageDown, Key.Key_PageUp, CTRL),
}


def layouts_for(part: Guided) -> list[Engine]:
    """Three layouts on which a guided part can be given."""
    engines = [demo_rig(name) for name in LAYOUTS]
    return [engine for engine in engines if not why_not(rig_of(engine), part)][:3]


WAYS = (
    ((Student.by_mouse, True), (Student.by_keys, False)),
    ((Student.by_keys, True), (Student.by_mouse, False)),
    ((Student.by_mouse, False), (Student.by_keys, True)),
)


@pytest.mark.parametrize("name", lesson_names())
def test_every_step_can_be_answered(open_window: MakeWindow, name: str) -> None:
    student = Student(open_window("birch"))
    lesson = shipped_lesson(name)
    guided = next((part for part in lesson.parts if isinstance(part, Guided)), None)
    if guided is None:
        return
    for engine, ways in zip(layouts_for(guided), WAYS, strict=False):
        assert student.page.model.begin(lesson, practice=True, engine=engine)
        while not student.on.over and student.on.stop.station is Station.STEP:
            place = student.on.place
            if student.on.question is not None:
                for by, well in ways:
                    # As it stands when one comes here.
                    student.page.model.desk.session.put_lesson(student.on.at(place))
                    by(student, student.right() if well else student.wrong())
                    judged, at = student.on.judged, (engine.name, place, by.__name__, well)
                    assert judged is not None, at
                    assert judged.is_right is well, at
            student.hand.press("Go on: Enter")
            assert student.page.model.on is not None
            assert student.on.place == place + 1


@pytest.mark.parametrize("percent", [100, 150])
@pytest.mark.parametrize("projector", [False, True])
def test_nothing_lies_on_an_answer_in_any_size(
    open_window: MakeWindow, percent: int, projector: bool
) -> None:
    """Choices, ticks, figures and places, by mouse, on the desk, larger and on the projector."""
    window = open_window("birch")
    window.look.set_text_percent(percent)
    student = Student(window)
    if projector:
        student.hand.key(Key.Key_P)
    for name in ("two-tdcs", "set-one", "no-table"):
        assert student.page.model.begin(shipped_lesson(name), practice=True)
        while not student.on.over and student.on.stop.station is Station.STEP:
            if student.on.question is not None:
                student.by_mouse(student.right())
                assert student.on.judged is not None
                assert student.on.judged.is_right
            student.hand.press("Go on: Enter")


def test_what_is_said_of_an_answer_is_never_cut(
    open_window: MakeWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    for size in ((1280, 800), (900, 640)):
        student = Student(open_window("birch", size=size))
        view = student.page.learn.answer
        for name in ("two-tdcs", "find-fault", "set-one"):
            assert student.page.model.begin(shipped_lesson(name), practice=True)
            while not student.on.over and student.on.stop.station is Station.STEP:
                if student.on.question is not None:
                    student.page.model.enter(student.wrong())
                    student.page.model.answer()
                    painted = Painted(monkeypatch)
                    view.grab()
                    foot = max(box.bottom() for _, box in painted.seen)
                    assert foot <= view.logical_height, (name, student.on.place, painted.seen)
                student.page.model.go_on()
