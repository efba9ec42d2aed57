"""Lessons: learn and be drilled, make a lesson, see what a class can do, show it to the room."""

from collections.abc import Mapping, Sequence
from datetime import date
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar, Final

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.desk import Desk
from true_compass.app.keeping.settings import Remembered
from true_compass.app.keys import NONE, SHIFT, Action, Chord, Key, KeyLine, turning_keys
from true_compass.app.tabbed import TabbedWorkspace
from true_compass.app.turn_bar import HEIGHT as BAR_HIGH
from true_compass.app.turn_bar import TurnBar
from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.search_list import SearchList
from true_compass.app.workspaces.lessons.choices import Choices
from true_compass.app.workspaces.lessons.class_model import ClassModel
from true_compass.app.workspaces.lessons.class_view import ClassView
from true_compass.app.workspaces.lessons.learn_view import LearnView
from true_compass.app.workspaces.lessons.list_view import LessonList
from true_compass.app.workspaces.lessons.make_model import MakeModel
from true_compass.app.workspaces.lessons.make_view import MakeView
from true_compass.app.workspaces.lessons.model import LessonModel
from true_compass.app.workspaces.lessons.notes_window import NotesWindow
from true_compass.app.workspaces.lessons.remembered import (
    HANDED,
    OWN,
    PLACES,
    is_handed,
    is_own,
    is_places,
)
from true_compass.app.workspaces.lessons.show_view import ShowView
from true_compass.files.lesson_file import SUFFIX, read_lesson
from true_compass.files.problems import EngineFileError
from true_compass.lessons.drill import Cover
from true_compass.lessons.forms import Ticks, TwoLists
from true_compass.lessons.guide import LessonError
from true_compass.lessons.lesson import Lesson
from true_compass.lessons.result import MOST_NAME

if TYPE_CHECKING:
    from true_compass.drawing.documents import Document

LEARN, MAKE, CLASS, SHOW = "Learn", "Make", "Class", "Show"
SIDE: Final = 292.0
MOST_PATH: Final = 4096


def _is_name(value: object) -> bool:
    return isinstance(value, str) and len(value) <= MOST_NAME


def _is_path(value: object) -> bool:
    return isinstance(value, str) and len(value) <= MOST_PATH and "\0" not in value


class LessonsWorkspace(TabbedWorkspace):
    """The list at the left and the lesson at the right; a guided part, a class and the room have
    all of the width.
    """

    wants_crank = False
    pages: ClassVar[tuple[str, ...]] = (LEARN, MAKE, CLASS, SHOW)
    tab_wide: ClassVar[Mapping[str, float]] = {LEARN: 70.0, MAKE: 66.0, CLASS: 68.0, SHOW: 66.0}
    remembers: ClassVar[Mapping[str, Remembered]] = {
        "person": Remembered("", _is_name),
        "folder": Remembered("", _is_path),
        HANDED: Remembered([], is_handed),
        PLACES: Remembered({}, is_places),
        OWN: Remembered([], is_own),
    }

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        self.setObjectName("lessons")
        self.setAccessibleName("Lessons")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.model = model = LessonModel(desk, self)
        self.room = ClassModel(desk, self)
        self.room.collector.own = self.model.remembered.own
        self.making = MakeModel(desk, model.keeper.folder.parent / "lessons", self)
        self.list = LessonList(model, self)
        self.learn = LearnView(model, self)
        self.make = MakeView(self.making, self)
        self.class_page = ClassView(self.room, self)
        self.show_page_view = ShowView(model, self)
        self.bar = TurnBar(model.crank, model.bridge, model.turner, desk.look, self)
        self.who = DrawnButton(desk.look, "", self)
        self.who.setObjectName("who")
        self.name = QLineEdit(self)
        self.name.setObjectName("name")
        self.name.setAccessibleName("Your name; it may be empty")
        self.name.setPlaceholderText("Your name, or nothing")
        self.name.setMaxLength(MOST_NAME)
        self.name.hide()
        self.chooser = SearchList(desk.look, self)
        self.choices = Choices(model, self.making, self.chooser)
        self.notes = NotesWindow(model, self.show_page_view, self)
        self._connect()
        self._show_who()
        self.turned_to(self._page)

    def _connect(self) -> None:
        self.list.chosen.connect(self._choose)
        self.model.changed.connect(self._on_changed)
        self.model.standing_changed.connect(self._show_who)
        self.desk.look.changed.connect(self.arrange)
        self.who.clicked.connect(self._ask_name)
        self.name.editingFinished.connect(self._take_name)
        room, make = self.class_page, self.make
        room.collect.clicked.connect(self._collect)
        room.table.clicked.connect(self._write_table)
        room.certificates.clicked.connect(self._show_certificates)
        room.worksheets.clicked.connect(self._choose_worksheet)
        room.quiz.clicked.connect(self._choose_quiz)
        room.hand_out.clicked.connect(self._choose_to_hand_out)
        room.files.clicked.connect(self._show_files)
        room.show_it.clicked.connect(self._show_misled)
        make.choose_drill.connect(self.choices.drill)
        make.choose_guided.connect(self.choices.guided)
        make.choose_covered.connect(self.choices.covered)
        make.choose_engine.connect(self.choices.engine)
        make.choose_lesson.connect(self.choices.copy)
        learn = self.learn
        learn.drill.clicked.connect(self.choices.free_drill)
        learn.record.clicked.connect(self.choices.record)
        learn.elsewhere.clicked.connect(self.choices.other_engine)
        make.hand_out.clicked.connect(self._hand_out)
        make.try_it.clicked.connect(self._try_it)

    # Pages ------------------------------------------------------------------------------------

    def turned_to(self, page: str) -> None:
        """Show the parts of a page."""
        guided = self._has_all_width() and page == LEARN
        self.list.setVisible(page == LEARN and not guided)
        self.who.setVisible(page == LEARN and not guided and self.name.isHidden())
        if page != LEARN:
            self.name.hide()
        self.learn.setVisible(page == LEARN)
        self.make.setVisible(page == MAKE)
        self.class_page.setVisible(page == CLASS)
        self.show_page_view.setVisible(page == SHOW)
        self.bar.setVisible(page == LEARN and self.learn.shows_bar)
        for tab in self.tabs:
            tab.setVisible(not guided)
        if page == CLASS:
            self.room.open_last()
        if page == SHOW and not self.show_page_view.questions:
            self.begin_show(self._shown_lesson())
        self.arrange()

    def _has_all_width(self) -> bool:
        """Whether a lesson is worked through: it takes the place of the list and of the tabs."""
        on = self.model.on
        return self.model.waiting is not None or (on is not None and not on.over)

    def _on_changed(self) -> None:
        focus = self.focus_widget()
        if focus is not None and self.isAncestorOf(focus) and self._page == LEARN:
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

    def focus_first(self) -> QWidget:
        """The list, or what is answered."""
        first: dict[str, QWidget] = {
            MAKE: self.make.parts,
            CLASS: self.class_page,
            SHOW: self.show_page_view,
        }
        if self._page in first:
            return first[self._page]
        if self.learn.asks.isVisible():
            return self.learn.asks
        if self.learn.answer.field.isVisible():
            return self.learn.answer.field
        parts = (self.list, self.learn.step, self.learn.stage)
        return next((part for part in parts if part.isVisible()), self)

    def take_file(self, path: Path) -> None:
        """Open a lesson that was handed out; its result is left beside it."""
        try:
            lesson = read_lesson(path)
        except EngineFileError as error:
            self.desk.say(str(error))
            return
        self.show_page(LEARN)
        self.model.receive(lesson, path)
        self.learn.asks.setText(self.model.person.name)
        self.learn.asks.selectAll()
        self.learn.asks.setFocus()

    def _choose(self, row: int) -> None:
        handed = self.model.remembered.handed()
        if row < len(handed):
            self.take_file(Path(handed[row].path))
        else:
            self.model.begin(self.model.lessons()[row - len(handed)])

    # Who --------------------------------------------------------------------------------------

    def _show_who(self) -> None:
        name = self.model.person.name
        self.who.setText(name or "Type your name")

    def _ask_name(self) -> None:
        self.who.hide()
        self.name.setText(self.model.person.name)
        self.name.show()
        self.name.setFocus()
        self.name.selectAll()
        self.arrange()

    def _take_name(self) -> None:
        if self.name.isHidden():
            return
        self.name.hide()
        self.who.setVisible(self._page == LEARN and not self._has_all_width())
        if self.name.text().strip() != self.model.person.name:
            self.model.be(self.name.text())
        self._show_who()
        self.focus_first().setFocus()

    # Choosing ---------------------------------------------------------------------------------

    def _choose_to_hand_out(self) -> None:
        self.choices.lesson("Hand out which lesson?", self._hand_out_lesson)

    def _choose_worksheet(self) -> None:
        self.choices.lesson("A worksheet of which lesson?", self._show_worksheet)

    def _choose_quiz(self) -> None:
        self.choices.lesson("A quiz package of which lesson?", self._write_quiz)

    def _write_quiz(self, lesson: Lesson) -> None:
        path = self.desk.files.ask_lesson(f"{lesson.title}.zip".replace("/", "-"))
        package = self.making.write_quiz(path, lesson) if path is not None else None
        if package is not None and package.left_out:
            rows = [(f"{one.nth}. {one.title}", one.why) for one in package.left_out]
            self.desk.show_rows("Left out of the quiz package", rows)

    # Handing out, collecting ------------------------------------------------------------------

    def _hand_out(self) -> None:
        self._hand_out_lesson(self.making.lesson)

    def _hand_out_lesson(self, lesson: Lesson) -> None:
        path = self.desk.files.ask_lesson(f"{lesson.title}{SUFFIX}".replace("/", "-"))
        if path is not None and self.making.write(path, lesson):
            self.model.remembered.put_own(lesson)
            self.room.collect_from(path.parent)

    def _try_it(self) -> None:
        self.show_page(LEARN)
        self.model.begin(self.making.lesson, practice=True)

    def _collect(self) -> None:
        folder = self.desk.files.ask_folder("Collect results from")
        if folder is not None:
            self.room.collect_from(folder)

    def _write_table(self) -> None:
        path = self.desk.files.ask_class("class.xlsx")
        if path is not None:
            self.room.write_table(path)

    def _show_files(self) -> None:
        self.desk.show_rows("Files to look at", self.room.troubles())

    def _show_certificates(self) -> None:
        from true_compass.drawing.certificate import certificate

        students = [student for student in self.room.room.students if student.secure]
        picked = self.room.person
        if 0 <= picked < len(self.room.room.students) and self.room.room.students[picked].secure:
            students = [self.room.room.students[picked]]
        lesson = self.room.room.lesson
        place = (
            next((e.engine.place for e in lesson.engines if e.engine.place), "") if lesson else ""
        )
        today = date.fromisoformat(self.model.keeper.today())
        self.desk.documents.show(certificate(students, today, place))

    def _show_worksheet(self, lesson: Lesson) -> None:
        from true_compass.drawing.worksheet import worksheet

        people = max(len(self.room.room.students), 1)
        try:
            self.desk.documents.show(worksheet(lesson, lesson.settings.seed, people))
        except LessonError as error:
            self.desk.say(f"{lesson.title}: {error}.")

    def document(self) -> "Document | None":
        """A worksheet of the lesson that is worked through, or made."""
        from true_compass.drawing.worksheet import worksheet

        on = self.model.on
        lesson = self.making.lesson if self._page == MAKE else on.lesson if on is not None else None
        if lesson is None or not lesson.asked_count:
            return None
        return worksheet(lesson, lesson.settings.seed)

    # The room ---------------------------------------------------------------------------------

    def _shown_lesson(self) -> Lesson:
        on = self.model.on
        if on is not None:
            return on.lesson
        return self.room.room.lesson or self.model.lessons()[7]

    def begin_show(self, lesson: Lesson, part: int = -1, nth: int = -1) -> None:
        """Show a lesson's questions to the room."""
        if not self.show_page_view.begin(lesson, lesson.settings.seed, part, nth):
            self.desk.say(f"{lesson.title} has no question for a room.")

    def _show_misled(self) -> None:
        misled, lesson = self.room.misled, self.room.room.lesson
        if misled and lesson is not None:
            self.begin_show(lesson, misled[0].part, misled[0].nth)
            self.show_page(SHOW)

    # Keys -------------------------------------------------------------------------------------

    def keys(self) -> Sequence[KeyLine]:
        """Enter answers and goes on; H hints, A tries again, R rocks, N is next or the notes."""
        model = self.model
        answer: dict[Chord, Action] = {
            (Key.Key_Return, NONE): self._enter,
            (Key.Key_Enter, NONE): self._enter,
        }
        return (
            KeyLine("Enter", "answer, then go on", answer),
            KeyLine("H", "hint; in Show: angle", {(Key.Key_H, NONE): self._hint}),
            KeyLine("A", "try again", {(Key.Key_A, NONE): model.again}),
            KeyLine("R", "rock the crank 5° either way", {(Key.Key_R, NONE): model.rock}),
            KeyLine(
                "Up, Down, T",
                "on the engine: from item to item, tick it",
                in_view=((Key.Key_Up, NONE), (Key.Key_Down, NONE), (Key.Key_T, NONE)),
            ),
            KeyLine("N", "notes window; in Show: next", {(Key.Key_N, NONE): self._notes}),
        )

    def _enter(self) -> None:
        if self._page == SHOW:
            self.show_page_view.answer()
        elif self._page == LEARN:
            self.model.answer()

    def _hint(self) -> None:
        if self._page == SHOW:
            self.show_page_view.toggle_angle()
        elif self._page == LEARN:
            self.model.hint()

    def _notes(self) -> None:
        if self._page == SHOW:
            self.show_page_view.next()
        elif self.notes.isVisible():
            self.notes.hide()
        else:
            self.notes.open_beside()

    def instead(self) -> Sequence[KeyLine]:
        """Everything that turns turns the engine of the lesson; digits answer, or count hands."""
        turns = {
            **turning_keys(self._turn),
            (Key.Key_Space, NONE): self.bar.to_next_tdc,
            (Key.Key_Space, SHIFT): self._tdc_before,
            (Key.Key_Period, NONE): self.bar.to_next_event,
            (Key.Key_Comma, NONE): self._event_before,
        }
        digits = {
            (Key(Key.Key_0.value + digit), NONE): partial(self._digit, digit) for digit in range(10)
        }
        return (
            KeyLine("Arrows, Page keys, Space", "turn the engine of the lesson", turns),
            KeyLine("1, 2, 3 …", "choose an answer or cylinder; in Show: hands", digits),
            KeyLine("Esc", "leave the lesson", {(Key.Key_Escape, NONE): self._escape}),
        )

    def _turn(self, by_deg: float) -> None:
        if self._page == SHOW:
            self.show_page_view.step(1 if by_deg > 0 else -1)
        elif self._page == LEARN:
            self.model.turner.turn_by(by_deg)

    def _digit(self, digit: int) -> None:
        if self._page == SHOW:
            self.show_page_view.count(digit)
        elif self._page == LEARN:
            self.learn.answer.digit(digit)

    def _escape(self) -> None:
        if self._page == SHOW:
            self.show_page(CLASS if self.room.room.students else LEARN)
        elif self._page == LEARN:
            self.model.ask_leave()

    def _tdc_before(self) -> None:
        self.bar.to_next_tdc(back=True)

    def _event_before(self) -> None:
        self.bar.to_next_event(back=True)

    def go_back(self) -> bool:
        """Backspace takes the last cylinder back, else goes to where the question stood."""
        if self._page == SHOW:
            self.show_page_view.clear()
            return True
        on = self.model.on
        if on is None or on.over or self._page != LEARN:
            return self._page != LEARN
        if self.learn.answer.take_back():
            return True
        if on.question is not None and isinstance(on.form, Ticks | TwoLists):
            self.model.to_home()
        return True

    # Places -----------------------------------------------------------------------------------

    def arrange(self) -> None:
        """Tabs above, the page below them; the turn bar along the foot."""
        width, height, put = self.logical_width, self.logical_height, self.look.scaled
        wide = self._has_all_width() and self._page == LEARN
        self.list.setVisible(self._page == LEARN and not wide)
        for tab in self.tabs:
            tab.setVisible(not wide)
        if not self.bar.isHidden():
            height -= BAR_HIGH
            self.bar.setGeometry(put(0, height, width, BAR_HIGH))
        if wide:
            self.learn.setGeometry(put(16, 8, width - 28, height - 8))
            return
        self.arrange_tabs(12, 10, 34)
        top, foot = 54.0, 56.0
        self.list.setGeometry(put(12, top, SIDE, height - top - foot))
        self.who.setGeometry(put(12, height - 48, SIDE, 38))
        self.name.setGeometry(put(12, height - 48, SIDE, 38))
        self.name.setStyleSheet(field_style(self.look.theme, self.look.scale, wrong=False))
        left = SIDE + 36
        self.learn.setGeometry(put(left, 10, width - left - 12, height - 10))
        whole = put(14, 54, width - 26, height - 60)
        for view in (self.make, self.class_page, self.show_page_view):
            view.setGeometry(whole)
        self.update()
