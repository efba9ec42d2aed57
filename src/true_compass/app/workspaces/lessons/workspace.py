"""Lessons: learn and be drilled, make a lesson, see what a class can do."""

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import ClassVar, Final

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from true_compass.app.desk import Desk
from true_compass.app.keeping.settings import Remembered
from true_compass.app.keys import NONE, SHIFT, DigitKeys, Key, KeyLine, turning_keys
from true_compass.app.tabbed import TabbedWorkspace
from true_compass.app.turn_bar import HEIGHT as BAR_HIGH
from true_compass.app.turn_bar import TurnBar
from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.workspaces.lessons.learn_view import LearnView
from true_compass.app.workspaces.lessons.list_view import LessonList
from true_compass.app.workspaces.lessons.model import LessonModel
from true_compass.files.lesson_file import read_lesson
from true_compass.files.problems import EngineFileError
from true_compass.lessons.drill import Cover
from true_compass.lessons.forms import Ticks, TwoLists
from true_compass.lessons.result import MOST_NAME
from true_compass.session.lesson import Station

LEARN: Final = "Learn"
SIDE: Final = 292.0


def _is_name(value: object) -> bool:
    return isinstance(value, str) and len(value) <= MOST_NAME


class LessonsWorkspace(TabbedWorkspace):
    """The list at the left; the lesson at the right, or all of the width in a guided part."""

    wants_crank = False
    pages: ClassVar[tuple[str, ...]] = (LEARN,)
    tab_wide: ClassVar[Mapping[str, float]] = {LEARN: 80.0}
    remembers: ClassVar[Mapping[str, Remembered]] = {"person": Remembered("", _is_name)}

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        self.setObjectName("lessons")
        self.setAccessibleName("Lessons")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.model = LessonModel(desk, self)
        self.list = LessonList(self.model, self)
        self.learn = LearnView(self.model, self)
        model = self.model
        self.bar = TurnBar(model.crank, model.bridge, model.turner, desk.look, self)
        self.who = DrawnButton(desk.look, "", self)
        self.who.setObjectName("who")
        self.list.chosen.connect(self._choose)
        self.model.changed.connect(self._on_changed)
        self.model.standing_changed.connect(self._on_changed)
        desk.look.changed.connect(self.arrange)
        self._digits = DigitKeys(self.learn.answer.digit, self.learn.answer.most_digit, self)
        self._show_who()
        self.turned_to(self._page)

    # Pages ------------------------------------------------------------------------------------

    def turned_to(self, page: str) -> None:
        """Show the parts of a page."""
        guided = self._guided()
        self.list.setVisible(page == LEARN and not guided)
        self.who.setVisible(page == LEARN and not guided)
        self.learn.setVisible(page == LEARN)
        self.bar.setVisible(page == LEARN and self.learn.shows_bar)
        for tab in self.tabs:
            tab.setVisible(not guided)
        self.arrange()

    def _guided(self) -> bool:
        on = self.model.on
        return on is not None and not on.over and on.stop.station is Station.STEP

    def _on_changed(self) -> None:
        focus = self.focus_widget()
        if focus is not None and self.isAncestorOf(focus):
            # What is hidden with the keyboard would hand it on as if by Tab.
            self.setFocus()
        self._show_who()
        self.turned_to(self._page)
        self._cover_bar()
        if self.hasFocus():
            self.focus_first().setFocus()

    def _cover_bar(self) -> None:
        covers, on = self.model.covers, self.model.on
        places = bool(covers & {Cover.RING, Cover.STROKES, Cover.ANGLE})
        home = on.crank_deg if on is not None and not on.over else None
        self.bar.cover(places=places, from_deg=home if Cover.ANGLE in covers else None)

    def _show_who(self) -> None:
        self.who.setText(self.model.person.name or "No name: type one")

    def focus_first(self) -> QWidget:
        """The list, or what is answered."""
        if self.learn.answer.field.isVisible():
            return self.learn.answer.field
        return self.list if self.list.isVisible() else self.learn.step

    def take_file(self, path: Path) -> None:
        """Open a lesson that was handed out; its result is left beside it."""
        try:
            lesson = read_lesson(path)
        except EngineFileError as error:
            self.desk.say(str(error))
            return
        self.show_page(LEARN)
        self.model.begin(lesson, folder=str(path.parent))

    def _choose(self, row: int) -> None:
        self.model.begin(self.model.lessons()[row])

    # Keys -------------------------------------------------------------------------------------

    def keys(self) -> Sequence[KeyLine]:
        """Enter answers and goes on; H hints, A tries again, R rocks."""
        model = self.model
        answer = {(Key.Key_Return, NONE): model.answer, (Key.Key_Enter, NONE): model.answer}
        return (
            KeyLine("Enter", "answer, then go on", answer),
            KeyLine("H", "hint", {(Key.Key_H, NONE): model.hint}),
            KeyLine("A", "try again", {(Key.Key_A, NONE): model.again}),
            KeyLine("R", "rock the crank 5° either way", {(Key.Key_R, NONE): model.rock}),
        )

    def instead(self) -> Sequence[KeyLine]:
        """Everything that turns turns the engine of the lesson; digits answer."""
        bar = self.bar
        turns = {
            **turning_keys(self.model.turner.turn_by),
            (Key.Key_Space, NONE): bar.to_next_tdc,
            (Key.Key_Space, SHIFT): self._tdc_before,
            (Key.Key_Period, NONE): bar.to_next_event,
            (Key.Key_Comma, NONE): self._event_before,
        }
        return (
            KeyLine("Arrows, Page keys, Space", "turn the engine of the lesson", turns),
            KeyLine("1, 2, 3 …", "choose that answer or cylinder", self._digits.keys()),
            KeyLine("Esc", "leave the lesson", {(Key.Key_Escape, NONE): self.model.leave}),
        )

    def _tdc_before(self) -> None:
        self.bar.to_next_tdc(back=True)

    def _event_before(self) -> None:
        self.bar.to_next_event(back=True)

    def go_back(self) -> bool:
        """Backspace takes the last cylinder back, else goes to where the question stood."""
        on = self.model.on
        if on is None or on.over:
            return False
        if self.learn.answer.take_back():
            return True
        if on.question is not None and isinstance(on.form, Ticks | TwoLists):
            self.model.to_home()
        return True

    # Places -----------------------------------------------------------------------------------

    def arrange(self) -> None:
        """The list at the left, the lesson at the right."""
        width, height, put = self.logical_width, self.logical_height, self.look.scaled
        if not self.bar.isHidden():
            height -= BAR_HIGH
            self.bar.setGeometry(put(0, height, width, BAR_HIGH))
        top = 12.0
        if not self._guided():
            self.arrange_tabs(12, 10, 34)
            top = 54.0
        if self._guided():
            self.learn.setGeometry(put(16, 8, width - 28, height - 8))
            return
        self.list.setGeometry(put(12, top, SIDE, height - top - 56))
        self.who.setGeometry(put(12, height - 48, SIDE, 38))
        left = SIDE + 36
        self.learn.setGeometry(put(left, 10, width - left - 12, height - 10))
        self.update()
