"""Make a lesson: its parts in order, the picked part, the whole; and beside them the student's own
screen, and what is checked before it goes out.
"""

from collections.abc import Callable
from functools import partial
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.bridge import Bridge
from true_compass.app.turner import Turner
from true_compass.app.widgets.controls import DrawnButton, StrongButton, TabButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.lessons.make_model import MakeModel
from true_compass.app.workspaces.lessons.stage import Showing, Stage, Ticking
from true_compass.core.words import counted
from true_compass.drawing.codes import flat_pen, paint_problem_mark, paint_tick, rounded
from true_compass.drawing.text import (
    CENTRE,
    RIGHT,
    draw_one_of,
    draw_paragraph,
    draw_paragraph_that_fits,
    draw_text,
    paragraph_height,
)
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight
from true_compass.files.rigs import demo_rig
from true_compass.lessons.forms import Choice, Figure, Slots, Ticks, TwoLists
from true_compass.lessons.guide import Guided
from true_compass.lessons.lesson import CoveredPart, DrillPart, Part
from true_compass.session.lesson import OnLesson, Station
from true_compass.session.session import Session, Source

LEFT_WIDE: Final = 548.0
ROW: Final = 52.0
TOP: Final = 76.0
NARROW_TOP: Final = 46.0
REASON: Final = 46.0
"""How high the two lines are, in a narrow window, that say what keeps a lesson from going out."""
MOST_ROWS: Final = 6


class PartList(PageView):
    """The parts in order. Drag a row, or Alt+Up and Alt+Down, to move it."""

    def __init__(self, model: MakeModel, parent: QWidget) -> None:
        super().__init__(model.desk.look, parent)
        self._model = model
        self._held: int | None = None
        self._first = 0
        self.setObjectName("parts")
        self.setAccessibleName("Parts of the lesson, in order")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        model.changed.connect(self.refresh)

    def arrange(self) -> None:
        """Another size: the picked part stays in view."""
        self.show_state()

    def row_box(self, place: int) -> QRectF:
        """Where a part stands."""
        return QRectF(2, 2 + (place - self._first) * ROW, self.logical_width - 4, ROW)

    def show_state(self) -> None:
        """The picked part is in view."""
        visible = max(1, int((self.logical_height - 4) // ROW))
        if self._model.part < self._first:
            self._first = self._model.part
        elif self._model.part >= self._first + visible:
            self._first = self._model.part - visible + 1
        # No row is left empty while parts stand above.
        self._first = min(self._first, max(0, len(self._model.lesson.parts) - visible))
        self.update()

    def paint(self, p: QPainter) -> None:
        """A row a part: number, title, engines, count, help."""
        theme, parts = self.look.theme, self._model.lesson.parts
        whole = QRectF(0, 0, self.logical_width, self.logical_height)
        rounded(p, whole, 6, theme.sheet, flat_pen(theme.hair, 2))
        if not parts:
            words = "No part yet. Begin with what the lesson is for: a guided part, or a drill."
            draw_paragraph(p, whole.adjusted(18, 18, -18, -18), words, BODY, theme.ink2)
        bad = {problem.part for problem in self._model.checked.bad} if parts else set()
        for place, part in enumerate(parts):
            box = self.row_box(place)
            if box.bottom() > whole.bottom() or box.top() < 0:
                continue
            self._paint_row(p, box, place, part, place in bad)

    def _paint_row(self, p: QPainter, box: QRectF, place: int, part: Part, bad: bool) -> None:
        theme = self.look.theme
        if place == self._model.part:
            p.fillRect(box.adjusted(0, 0, 0, -1), theme.now_tint)
            p.fillRect(QRectF(box.left(), box.top(), 5, box.height() - 1), theme.now)
        p.fillRect(QRectF(box.left() + 6, box.bottom() - 1, box.width() - 12, 1.4), theme.hair)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.metal_dk)
        for dot in (-6, 6):
            p.drawEllipse(QPointF(box.left() + 17, box.center().y() + dot), 3, 3)
        number = QRectF(box.left() + 26, box.top(), 26, box.height())
        draw_text(p, number, str(place + 1), LABEL, theme.ink, Weight.STRONG, CENTRE)
        title = QRectF(box.left() + 58, box.top() + 4, box.width() - 240, 24)
        draw_text(p, title, part.title, LABEL, theme.ink, Weight.STRONG)
        below = QRectF(box.left() + 58, box.top() + 27, box.width() - 240, 20)
        draw_text(p, below, kind_words(part), NOTE, theme.ink2)
        if bad:
            mark = QRectF(box.right() - 170, box.center().y() - 11, 22, 22)
            paint_problem_mark(p, mark, theme.ink, theme.on_ink)
        count = QRectF(box.right() - 140, box.top(), 50, box.height())
        if not isinstance(part, Guided):
            words = str(part.count) if isinstance(part, DrillPart) else "1"
            draw_text(p, count, words, LEAD, theme.ink, Weight.STRONG, CENTRE)
        help_box = QRectF(box.right() - 86, box.top(), 78, box.height())
        helps = "notes" if isinstance(part, Guided) else "hints" if part.hints else "no hints"
        draw_text(p, help_box, helps, NOTE, theme.ink2, Weight.BODY, CENTRE)

    def _at(self, y: float) -> int | None:
        place = self._first + int((y / self.look.scale - 2) // ROW)
        return place if 0 <= place < len(self._model.lesson.parts) else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Pick a part, and take hold of it."""
        place = self._at(event.position().y()) if event is not None else None
        if place is not None:
            self._held = place
            self._model.pick(place)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Carry it to another place."""
        if event is None or self._held is None:
            return
        place = self._at(event.position().y())
        if place is not None and place != self._held:
            self._model.move(place - self._held)
            self._held = place

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let go."""
        self._held = None

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and Down pick, with Alt they move; Delete takes out."""
        if event is None:
            return
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()), 0)
        if step and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self._model.move(step)
        elif step:
            self._model.pick(self._model.part + step)
        elif event.key() == Qt.Key.Key_Delete:
            self._model.drop()
        else:
            event.ignore()


def kind_words(part: Part) -> str:
    """What kind of part, and on which engines."""
    if isinstance(part, Guided):
        return f"Guided · {part.engine}"
    if isinstance(part, CoveredPart):
        engine = part.scenario.engine.name.removeprefix("Rig ")
        return f"Covered · {engine}, seed {part.scenario.seed}"
    return f"Drill · {', '.join(part.engines)}"


class MakeView(PageView):
    """Works on the lesson of its model."""

    choose_drill = pyqtSignal()
    choose_guided = pyqtSignal()
    choose_covered = pyqtSignal()
    choose_engine = pyqtSignal()
    choose_lesson = pyqtSignal()

    def __init__(self, model: MakeModel, parent: QWidget) -> None:
        super().__init__(model.desk.look, parent)
        self.model = model
        look = self.look
        self.setObjectName("make")
        self.setAccessibleName("Make a lesson")
        self.title = QLineEdit(self)
        self.title.setObjectName("lesson_title")
        self.title.setAccessibleName("Title of the lesson")
        self.title.setMaxLength(120)
        self.title.editingFinished.connect(self._rename)
        self.parts = PartList(model, self)
        self.add_guided = self._button("Add a guided part", self.choose_guided.emit)
        self.add_drill = self._button("Add a drill", self.choose_drill.emit)
        self.add_covered = self._button("Add a covered engine", self.choose_covered.emit)
        self.anew = self._button("New", model.begin_anew)
        self.of_copy = self._button("Copy of…", self.choose_lesson.emit)
        self.engines: list[TabButton] = []
        self.more_engines = self._button("more…", self.choose_engine.emit)
        self.fewer = self._button("−1", partial(model.count, -1))
        self.more = self._button("+1", partial(model.count, 1))
        self.hints = self._tab("hints", model.toggle_hints)
        self.strokes = self._tab("strokes shown", model.toggle_strokes)
        self.drop = self._button("Take it out", model.drop)
        self.count = self._number("Count: questions of this part", self._set_count)
        self.passed = self._number("To pass: marks", self._set_passed)
        self.minutes = self._number("Minutes", self._set_minutes)
        self.less_pass = self._button("−1", partial(self._pass, -1))
        self.more_pass = self._button("+1", partial(self._pass, 1))
        whole = model.set_whole
        self.own = self._tab("own questions", partial(whole, same=False, mixed=False))
        self.mixed = self._tab("own engines too", partial(whole, same=False, mixed=True))
        self.same = self._tab("all the same", partial(whole, same=True, mixed=False))
        self.less_time = self._button("−5", partial(self._time, -5))
        self.more_time = self._button("+5", partial(self._time, 5))
        self.back = self._button("Back", partial(model.page, -1))
        self.on = self._button("Next", partial(model.page, 1))
        self.ways: list[DrawnButton] = []
        self.try_it = DrawnButton(look, "Work through it as a student", self)
        self.hand_out = StrongButton(look, "Hand out…", self)
        engine = demo_rig("alder")
        self._session = Session(engine, Source(rig="alder"))
        self._bridge = Bridge(self._session, self)
        self._turner = Turner(self._session, look, self)
        self.stage = Stage(look, self._session, self._turner, self)
        self.stage.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        model.changed.connect(self.refresh)
        look.changed.connect(self.show_state)

    def _button(self, words: str, act: Callable[[], object]) -> DrawnButton:
        button = DrawnButton(self.look, words, self)
        button.clicked.connect(act)
        return button

    def _number(self, name: str, take: Callable[[int], object]) -> QLineEdit:
        """A field for a whole number, between the keys that make it more or less."""
        field = QLineEdit(self)
        field.setObjectName(name.partition(":")[0].lower().replace(" ", "_"))
        field.setAccessibleName(name)
        field.setMaxLength(4)
        field.setAlignment(Qt.AlignmentFlag.AlignCenter)
        field.editingFinished.connect(partial(self._typed, field, take))
        return field

    def _typed(self, field: QLineEdit, take: Callable[[int], object]) -> None:
        """A number was typed; what is none is told, and the last good one stands again."""
        text = field.text().strip()
        if text in ("", "–"):
            take(0)
        elif text.isascii() and text.isdigit():
            take(int(text))
        else:
            name = field.accessibleName().partition(":")[0]
            self.model.desk.say(f"{name} must be a whole number, not {text!r}.")
        self.refresh()

    def _set_count(self, count: int) -> None:
        part = self.model.picked
        if isinstance(part, DrillPart):
            self.model.count(max(count, 1) - part.count)

    def _set_passed(self, marks: int) -> None:
        self._pass(marks - self.model.lesson.settings.passed)

    def _set_minutes(self, minutes: int) -> None:
        self._time(minutes - self.model.lesson.settings.minutes)

    def _tab(self, words: str, act: Callable[[], object]) -> TabButton:
        button = TabButton(self.look, words, self)
        button.clicked.connect(act)
        return button

    def _rename(self) -> None:
        self.model.rename(self.title.text())

    def _pass(self, by: int) -> None:
        settings, count = self.model.lesson.settings, self.model.lesson.asked_count
        self.model.set_whole(passed=min(max(settings.passed + by, 0), count))

    def _time(self, by: int) -> None:
        minutes = self.model.lesson.settings.minutes
        self.model.set_whole(minutes=min(max(minutes + by, 0), 600))

    # State ------------------------------------------------------------------------------------

    def show_state(self) -> None:
        """Show what the model has."""
        model, lesson = self.model, self.model.lesson
        if self.title.text() != lesson.title and not self.title.hasFocus():
            self.title.setText(lesson.title)
        self.title.setStyleSheet(field_style(self.look.theme, self.look.scale, wrong=False))
        part = model.picked
        drill = isinstance(part, DrillPart)
        self._remake_engines(part)
        for widget in (self.fewer, self.more, self.strokes, self.more_engines, self.count):
            widget.setVisible(drill)
        numbers = [(self.passed, lesson.settings.passed), (self.minutes, lesson.settings.minutes)]
        numbers += [(self.count, part.count)] if isinstance(part, DrillPart) else []
        style = field_style(self.look.theme, self.look.scale, wrong=False)
        for field, number in numbers:
            text = str(number or "–")
            if not field.hasFocus() and field.text() != text:
                field.setText(text)
            if field.styleSheet() != style:
                field.setStyleSheet(style)
        self.hints.setVisible(isinstance(part, DrillPart | CoveredPart))
        self.drop.setVisible(part is not None)
        if isinstance(part, DrillPart | CoveredPart):
            self.hints.setChecked(part.hints)
        if isinstance(part, DrillPart):
            self.strokes.setChecked(part.strokes)
        settings = lesson.settings
        self.own.setChecked(not (settings.same or settings.mixed))
        self.mixed.setChecked(settings.mixed and not settings.same)
        self.same.setChecked(settings.same)
        good = model.checked.can_go_out
        self.hand_out.setEnabled(good)
        self.hand_out.setText("Hand out…" if good else f"Hand out: part {self._first_bad()} first")
        self.try_it.setEnabled(good)
        self._remake_ways()
        self._show_preview()
        self.parts.refresh()
        self.arrange()
        self.update()

    def _first_bad(self) -> int:
        return self.model.checked.bad[0].part + 1

    def _remake_engines(self, part: Part | None) -> None:
        named = part.engines if isinstance(part, DrillPart) else ()
        told = (*named, *(e.name for e in self.model.lesson.engines if e.name not in named))[:4]
        for button in self.engines:
            button.hide()
            button.deleteLater()
        self.engines = []
        for name in told if isinstance(part, DrillPart) else ():
            tab = self._tab(name, partial(self.model.toggle_engine, name))
            tab.setChecked(name in named)
            tab.show()
            self.engines.append(tab)

    def _remake_ways(self) -> None:
        for button in self.ways:
            button.hide()
            button.deleteLater()
        self.ways = []
        bad = self.model.checked.bad
        if not bad or not self.model.lesson.parts:
            return
        problem = bad[0]
        for name in problem.could[:2]:
            act = partial(self.model.use_instead, problem.part, name)
            self.ways.append(self._button(f"Use {name}", act))
        self.ways.append(
            self._button(f"Drop part {problem.part + 1}", partial(self.model.drop, problem.part))
        )
        for way in self.ways:
            way.show()

    def _show_preview(self) -> None:
        on = self.model.preview()
        shows = on is not None and on.question is not None and on.drill.shows_engine
        step = on is not None and on.stop.station is Station.STEP
        self.stage.setVisible(shows or step)
        self.back.setVisible(on is not None)
        self.on.setVisible(on is not None)
        if on is None or not (shows or step):
            return
        if on.rig.engine != self._session.state.engine:
            self._session.open_engine(on.rig.engine, Source(), on.crank_deg or 0.0)
        else:
            self._session.turn_to(on.crank_deg or 0.0)
        chips = on.question is not None and isinstance(on.form, Ticks | TwoLists)
        covers = frozenset(on.shown.step.cover if on.shown is not None else on.drill.covers)
        self.stage.show_this(Showing(covers=covers, ticking=Ticking.NOTHING, chips=chips))
        self.stage.update()

    # Places -----------------------------------------------------------------------------------

    def arrange(self) -> None:
        """Parts at the left, the student's screen at the right."""
        put, width, height = self.look.scaled, self.logical_width, self.logical_height
        left = self._left
        self.title.setGeometry(put(0, 0, left - 176, 40))
        self.anew.setGeometry(put(left - 168, 0, 64, 40))
        self.of_copy.setGeometry(put(left - 98, 0, 98, 40))
        below = 262 + REASON * bool(self.ways)
        top, below = (NARROW_TOP, below) if self._narrow else (TOP, 306)
        list_high = min(max(len(self.model.lesson.parts), 2), MOST_ROWS) * ROW + 4
        list_high = max(min(list_high, height - top - below), ROW + 4)
        self.parts.setGeometry(put(0, top, left, list_high))
        y, third = top + list_high + 8, (left - 16) / 3
        for nth, button in enumerate((self.add_guided, self.add_drill, self.add_covered)):
            button.setGeometry(put(nth * (third + 8), y, third, 38))
        y += 38 + self._to_part
        x = 88.0
        for tab in self.engines:
            tab.setGeometry(put(x, y, 84, 34))
            x += 90
        self.more_engines.setGeometry(put(x, y, 78, 34))
        y += 40
        self.fewer.setGeometry(put(88, y, 44, 34))
        self.count.setGeometry(put(134, y, 50, 34))
        self.more.setGeometry(put(186, y, 44, 34))
        self.hints.setGeometry(put(244, y, 76, 34))
        self.strokes.setGeometry(put(326, y, 122, 34))
        self.drop.setGeometry(put(left - 94, y, 94, 34))
        y += self._to_whole - 40
        self.less_pass.setGeometry(put(88, y, 44, 34))
        self.passed.setGeometry(put(136, y, 56, 34))
        self.minutes.setGeometry(put(392, y, 56, 34))
        self.more_pass.setGeometry(put(196, y, 44, 34))
        self.less_time.setGeometry(put(344, y, 44, 34))
        self.more_time.setGeometry(put(452, y, 44, 34))
        beside = self._narrow
        for nth, tab in enumerate((self.own, self.mixed, self.same)):
            tab.setGeometry(put(88.0 + nth * 144, y + 40, 138, 34))
        for widget in (self.back, self.on):
            widget.setVisible(not beside and self.model.preview() is not None)
        if beside:
            self.stage.hide()
        right = 0.0 if beside else left + 24
        self._arrange_right(right, width, height)

    def _arrange_right(self, left: float, width: float, height: float) -> None:
        put, wide = self.look.scaled, width - left - 4
        self.back.setGeometry(put(left + wide - 150, 40, 70, 32))
        self.on.setGeometry(put(left + wide - 74, 40, 70, 32))
        screen = self._screen
        self.stage.setGeometry(
            put(screen.left() + 10, screen.top() + 64, screen.width() - 20, screen.height() - 72)
        )
        half, foot = (wide - 12) / 2, height - 54
        self.try_it.setGeometry(put(left, foot, half, 46))
        self.hand_out.setGeometry(put(left + half + 12, foot, half, 46))
        # Where there is little room the ways out stand where the lesson would be worked through.
        in_place = self._narrow and bool(self.ways)
        self.try_it.setVisible(not in_place)
        x, y, high = (left, foot, 46) if in_place else (left + 34, height - 104, 38)
        for way in self.ways:
            way.setGeometry(put(x, y, 150, high))
            x += 158
        if in_place:
            self.hand_out.setGeometry(put(x + 4, foot, left + wide - x - 4, 46))

    @property
    def _narrow(self) -> bool:
        """Whether there is no room for the student's screen beside the parts."""
        return self.logical_width < 1000.0

    @property
    def _to_part(self) -> float:
        """From the keys that add to what is set of the picked part; its heading needs room."""
        return 8.0 if self._narrow else 36.0

    @property
    def _to_whole(self) -> float:
        """From there to what is set of the whole lesson."""
        return 80.0 if self._narrow else 112.0

    @property
    def _left(self) -> float:
        """How wide the parts are."""
        return self.logical_width - 4 if self._narrow else LEFT_WIDE

    @property
    def _screen(self) -> QRectF:
        left = self._left + 24
        high = min(self.logical_height - 320, 340.0)
        return QRectF(left, 78, self.logical_width - left - 4, high)

    # Painting ---------------------------------------------------------------------------------

    def paint(self, p: QPainter) -> None:
        """Headings, the whole lesson, the student's screen, what was checked."""
        theme, model = self.look.theme, self.model
        left = self._left
        y = self.add_drill.geometry().bottom() / self.look.scale + self._to_part
        if not self._narrow:
            line = QRectF(0, 46, left, 24)
            draw_text(p, line, "Parts, in order: drag, or Alt+Up, Down", NOTE, theme.ink2)
            counts = QRectF(left - 220, 46, 212, 24)
            draw_text(p, counts, model.count_words, NOTE, theme.ink2, Weight.BODY, RIGHT)
            told = f"Part {model.part + 1}" if model.picked else "No part yet"
            self._heading(p, y - 28, left, told)
            self._heading(p, y + self._to_whole - 30, left, "The whole lesson")
        part = model.picked
        if isinstance(part, DrillPart):
            draw_text(p, QRectF(0, y, 84, 34), "Engines", BODY, theme.ink)
            draw_text(p, QRectF(0, y + 40, 84, 34), "Count", BODY, theme.ink)
        elif part is not None:
            draw_text(p, QRectF(0, y, left, 34), kind_words(part), BODY, theme.ink)
        y += self._to_whole
        draw_text(p, QRectF(0, y, 84, 34), "To pass", BODY, theme.ink)
        draw_text(p, QRectF(256, y, 84, 34), "Minutes", BODY, theme.ink)
        draw_text(p, QRectF(0, y + 40, 84, 34), "Each has", BODY, theme.ink)
        if self._narrow:
            self._paint_narrow(p)
            return
        self._paint_screen(p)
        self._paint_checked(p)

    @property
    def _reason(self) -> str:
        """What keeps it from going out."""
        bad = self.model.checked.bad
        if not self.model.lesson.parts:
            return f"{bad[0].sentence}."
        more = f" ({counted(len(bad) - 1, 'more', 'more')})" if len(bad) > 1 else ""
        return f"Part {bad[0].part + 1}: {bad[0].sentence}.{more}"

    def _paint_narrow(self, p: QPainter) -> None:
        """The reason above the ways out; that a lesson has no part is seen."""
        if self.ways:
            theme, y = self.look.theme, self.logical_height - 54 - REASON
            paint_problem_mark(p, QRectF(0, y + 7, 20, 20), theme.ink, theme.on_ink)
            box = QRectF(30, y + 6, self.logical_width - 34, REASON - 6)
            draw_paragraph_that_fits(p, box, self._reason, BODY, theme.ink)

    def _heading(self, p: QPainter, y: float, wide: float, words: str) -> None:
        theme = self.look.theme
        used = draw_text(p, QRectF(0, y, wide, 24), words, LABEL, theme.ink, Weight.STRONG)
        p.fillRect(QRectF(used + 10, y + 12, wide - used - 10, 1.4), theme.line)

    def _paint_screen(self, p: QPainter) -> None:
        theme, box, on = self.look.theme, self._screen, self.model.preview()
        head = QRectF(box.left(), 2, box.width(), 30)
        draw_text(p, head, "What a student sees", LABEL + 2, theme.ink, Weight.STRONG)
        rounded(p, box, 6, theme.paper, flat_pen(theme.ink, 2))
        if on is None:
            words = (
                "Add a part to see it here."
                if not self.model.lesson.parts
                else "Put the marked part right first."
            )
            draw_text(p, box, words, BODY, theme.ink2, Weight.BODY, CENTRE)
            return
        where = QRectF(box.left(), 42, box.width() - 160, 28)
        engine = on.rig.engine
        told = f"{engine.name}, {engine.layout_words}, {engine.order_text}"
        draw_text(p, where, told, BODY, theme.ink, Weight.LABEL)
        nth = QRectF(box.left() + box.width() - 320, 2, 316, 30)
        place = f"{on.nth_in_part + 1} of {len(on.in_part)}"
        which = f"part {self.model.part + 1}, {place}, set {self.model.set}"
        draw_text(p, nth, which, NOTE, theme.ink2, Weight.BODY, RIGHT)
        question = box.adjusted(14, 8, -14, 0)
        words, px = preview_words(on), float(HEAD - 4)
        while px > BODY and paragraph_height(words, px, question.width()) > 58:
            px -= 1
        draw_paragraph(p, question, words, px, theme.ink, Weight.STRONG)
        if not self.stage.isVisible():
            answer = QRectF(box.left() + 14, box.top() + 80, box.width() - 28, box.height() - 90)
            draw_paragraph(p, answer, answer_words(on), LEAD, theme.ink2)

    def _paint_checked(self, p: QPainter) -> None:
        theme, box = self.look.theme, self._screen
        y = box.bottom() + 12
        head = QRectF(box.left(), y, box.width(), 28)
        draw_text(p, head, "Checked before it goes out", LABEL + 2, theme.ink, Weight.STRONG)
        y += 36
        for line in self.model.checked.good:
            paint_tick(p, QPointF(box.left() + 14, y + 12), 15, theme.ink)
            draw_one_of(
                p, QRectF(box.left() + 34, y, box.width() - 36, 26), (line,), BODY, theme.ink
            )
            y += 32
        if self.model.checked.can_go_out:
            return
        tint = QRectF(box.left() - 4, y - 2, box.width() + 8, self.logical_height - 62 - y)
        p.fillRect(tint, theme.now_tint)
        paint_problem_mark(p, QRectF(box.left() + 4, y + 4, 20, 20), theme.ink, theme.on_ink)
        room = QRectF(box.left() + 34, y + 2, box.width() - 40, 44)
        draw_paragraph(p, room, self._reason, BODY, theme.ink, Weight.LABEL)


def preview_words(on: OnLesson) -> str:
    """The question or the step as a student reads it."""
    shown = on.shown
    return shown.sentence if shown is not None else on.drill.text(on.asked)


def answer_words(on: OnLesson) -> str:
    """How it is answered, where no engine is shown."""
    if on.question is None:
        return "Enter goes on."
    form = on.form
    if isinstance(form, Choice):
        return "    ".join(option.words for option in form.options[:12])
    if isinstance(form, Figure):
        return f"A number in {form.unit.strip()}"
    if isinstance(form, Slots):
        return form.words(form.given)
    return "Done on the bench."
