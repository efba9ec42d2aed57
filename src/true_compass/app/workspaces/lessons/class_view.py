"""Class: skills down, people across, and which question misled most."""

from functools import partial
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QWheelEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton, TabButton
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.lessons.class_model import PEOPLE_A_PAGE, ClassModel
from true_compass.app.workspaces.lessons.standing import paint_standing
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.text import (
    CENTRE,
    draw_one_of,
    draw_paragraph,
    draw_text,
    text_width,
)
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight
from true_compass.lessons.collect import Item
from true_compass.lessons.mastery import RULE, SHORT_RULE, Standing
from true_compass.lessons.skills import SKILLS, Skill

SIDE: Final = 320.0
NAMES: Final = 190.0
COUNTS: Final = 112.0
HEADS: Final = 46.0
FOOT: Final = 128.0
TOP: Final = 78.0
NARROW: Final = 980.0
LOW: Final = 520.0
LOW_HEADS: Final = 32.0
LOW_FOOT: Final = 88.0
LOW_TOP: Final = 42.0
MARK_ROW: Final = 32.0


class ClassView(PageView):
    """Shows the class of its model. Arrows go from skill to skill and from person to person."""

    def __init__(self, model: ClassModel, parent: QWidget) -> None:
        super().__init__(model.desk.look, parent)
        self.model = model
        look = self.look
        self.setObjectName("class")
        self.setAccessibleName("What the class can do")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.hand_out = DrawnButton(look, "Hand out…", self)
        self.collect = DrawnButton(look, "Collect results…", self)
        self.table = DrawnButton(look, "Table…", self)
        self.certificates = DrawnButton(look, "Certificates…", self)
        self.worksheets = DrawnButton(look, "Worksheet…", self)
        self.quiz = DrawnButton(look, "Quiz package…", self)
        self.quiz.setObjectName("quiz")
        self.files = DrawnButton(look, "Files to look at", self)
        self.cancel = DrawnButton(look, "Stop reading", self)
        self.before = DrawnButton(look, "Back", self)
        self.after = DrawnButton(look, "More people", self)
        self.show_it = StrongButton(look, "", self)
        self.marks = TabButton(look, "Marks", self)
        self.skills = TabButton(look, "Skills", self)
        self.marks.clicked.connect(partial(model.show_marks, True))
        self.skills.clicked.connect(partial(model.show_marks, False))
        self.cancel.clicked.connect(model.collector.cancel)
        self.before.clicked.connect(partial(model.turn_page, -1))
        self.after.clicked.connect(partial(model.turn_page, 1))
        model.changed.connect(self.refresh)
        look.changed.connect(self.show_state)

    # State ------------------------------------------------------------------------------------

    def show_state(self) -> None:
        """Which buttons there are."""
        room = self.model.room
        people = bool(room.students)
        self.table.setEnabled(people)
        self.certificates.setEnabled(any(student.secure for student in room.students))
        self.files.setVisible(bool(self.model.troubles()))
        self.cancel.setVisible(self.model.collector.reading is not None)
        for tab in (self.marks, self.skills):
            tab.setVisible(people)
            tab.setChecked(self.model.shows_marks is (tab is self.marks))
        more = len(room.students) > PEOPLE_A_PAGE and not self.model.shows_marks
        self.before.setVisible(more)
        self.after.setVisible(more)
        misled = self.model.misled
        self.show_it.setVisible(bool(misled))
        if misled:
            whom = " to the room" if self.logical_width > NARROW else ""
            self.show_it.setText(f"Show question {misled[0].nth + 1}{whom}")
        self.arrange()
        self.update()

    # Places -----------------------------------------------------------------------------------

    @property
    def _low(self) -> bool:
        return self.logical_height < LOW

    @property
    def rows(self) -> tuple[Skill, ...]:
        """The skills that are shown: on a low screen those that somebody tried."""
        students = self.model.room.students
        if not self._low:
            return SKILLS
        tried = (s for s in SKILLS if any(x.skills[s.slug].tried for x in students))
        return tuple(tried) or SKILLS

    @property
    def _table_box(self) -> QRectF:
        side = SIDE if self.logical_width > NARROW else 0.0
        top, foot = (LOW_TOP, LOW_FOOT) if self._low else (TOP, FOOT)
        return QRectF(0, top, self.logical_width - side - 16, self.logical_height - top - foot)

    def cell(self, skill: int, person: int) -> QRectF:
        """Where one person stands with one row; both count in what is shown."""
        box, rows = self._table_box, len(self.rows)
        heads, foot = (LOW_HEADS, 4.0) if self._low else (HEADS, 34.0)
        people = max(len(self.model.shown), 1)
        wide = min((box.width() - NAMES - COUNTS) / people, 64.0)
        high = (box.height() - heads - foot) / rows
        left = box.left() + NAMES + person * wide
        return QRectF(left, box.top() + heads + skill * high, wide, high)

    def arrange(self) -> None:
        """Buttons along the foot."""
        put, y, x = self.look.scaled, self.logical_height - 50, 0.0
        narrow = self.logical_width <= NARROW
        self.collect.setText("Collect…" if narrow else "Collect results…")
        self.quiz.setText("Quiz…" if narrow else "Quiz package…")
        for button, wide in (
            (self.hand_out, 102.0 if narrow else 110.0),
            (self.collect, 92.0 if narrow else 150.0),
            (self.table, 78.0 if narrow else 84.0),
            (self.certificates, 126.0),
            (self.worksheets, 116.0),
            (self.quiz, 74.0 if narrow else 136.0),
        ):
            button.setGeometry(put(x, y, wide, 40))
            x += wide + 8
        table = self._table_box
        top = 0.0 if self._low else 38.0
        self.marks.setGeometry(put(table.right() - 166, top, 80, 34))
        self.skills.setGeometry(put(table.right() - 82, top, 82, 34))
        # In a narrow window what is to be looked at stands above the keys.
        at = (table.right() - 150, table.bottom() + 2) if narrow else (x, y)
        high = 34 if narrow else 40
        self.files.setGeometry(put(*at, 150, high))
        self.cancel.setGeometry(put(*at, 150, high))
        right = x + 4 if narrow else self.logical_width - SIDE + 4
        self.show_it.setGeometry(put(right, y, self.logical_width - right - 8, 42))
        self.before.setGeometry(put(table.right() - 220, table.bottom() + 40, 90, 32))
        self.after.setGeometry(put(table.right() - 124, table.bottom() + 40, 124, 32))

    # Painting ---------------------------------------------------------------------------------

    def paint(self, p: QPainter) -> None:
        """Headline, table, legend, and what misled."""
        theme, model = self.look.theme, self.model
        wide = self.logical_width - 8
        head = QRectF(0, 0, wide, 40)
        if self._low and model.room.students:
            head.setRight(self.marks.geometry().left() / self.look.scale - 12)
        told = model.headline
        draw_one_of(p, head, (told, told.partition(". ")[0]), HEAD, theme.ink, Weight.STRONG)
        if not self._low or not model.room.students:
            draw_text(p, QRectF(0, 42, wide, 26), model.line, BODY, theme.ink2)
        if not model.room.students:
            self._paint_empty(p)
            return
        if model.shows_marks:
            self._paint_marks(p)
        else:
            self._paint_table(p)
            self._paint_legend(p)
        if self.logical_width > NARROW:
            self._paint_misled(p)

    def _paint_empty(self, p: QPainter) -> None:
        theme = self.look.theme
        lines = (
            "1  Hand a lesson out: a file in a folder that all can reach, or on a stick.",
            "2  Each student opens it, works, and leaves a result file beside it.",
            "3  Collect from that folder. What comes in later is shown as it comes.",
        )
        for nth, line in enumerate(lines):
            box = QRectF(0, TOP + 30 + nth * 40, self.logical_width, 34)
            draw_text(p, box, line, LEAD, theme.ink)

    @property
    def _visible(self) -> int:
        """How many results the table of marks has room for."""
        return max(1, int((self._table_box.height() - 40) // MARK_ROW))

    def _paint_marks(self, p: QPainter) -> None:
        """A row a result: who, which lesson, how many answers, marks, passed or not, when."""
        theme, model, box = self.look.theme, self.model, self._table_box
        rounded(p, box, 6, theme.sheet, flat_pen(theme.hair, 2))
        shares = (0.0, 0.19, 0.45, 0.66, 0.82)
        ends = (*shares[1:], 1.0)

        def cell(nth: int, y: float) -> QRectF:
            left = box.left() + 12 + shares[nth] * (box.width() - 20)
            wide = (ends[nth] - shares[nth]) * (box.width() - 20) - 8
            return QRectF(left, y, wide, MARK_ROW)

        for nth, word in enumerate(("Who", "Lesson", "Marks", "", "Last answer")):
            draw_text(p, cell(nth, box.top() + 4), word, NOTE, theme.ink2, Weight.STRONG)
        rows = model.room.handed_in
        shown = rows[model.first_row : model.first_row + self._visible]
        for place, (student, sheet) in enumerate(shown):
            y = box.top() + 36 + place * MARK_ROW
            p.fillRect(QRectF(box.left() + 4, y, box.width() - 8, 1.4), theme.hair)
            marks = f"{sheet.marks:.4g} of {sheet.lesson.asked_count}"
            if not sheet.finished:
                marks = f"{sheet.answered} of {sheet.lesson.asked_count} answered"
            when = sheet.at.astimezone() if sheet.at is not None else None
            told = f"{when:%d %b %H:%M}" if when is not None else "none"
            bold = Weight.STRONG if sheet.passed else Weight.BODY
            for nth, (word, weight) in enumerate(
                (
                    (student.label, Weight.STRONG),
                    (sheet.lesson.title, Weight.BODY),
                    (marks, Weight.LABEL),
                    (sheet.state, bold),
                    (told, Weight.BODY),
                )
            ):
                short = word.removesuffix(" answered")
                if not draw_one_of(p, cell(nth, y), (word, short), BODY, theme.ink, weight):
                    # A name that is too long is cut: nobody's row is without one.
                    draw_text(p, cell(nth, y), short, BODY, theme.ink, weight)
        if len(rows) > len(shown):
            last = model.first_row + len(shown)
            words = f"{model.first_row + 1} to {last} of {len(rows)} results: Page keys or wheel"
            foot = QRectF(8, box.bottom() + 6, box.width(), 24)
            draw_text(p, foot, words, NOTE, theme.ink2)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Scroll the results."""
        if event is not None and self.model.shows_marks:
            self.model.scroll(-1 if event.angleDelta().y() > 0 else 1, self._visible)
            event.accept()

    def _paint_table(self, p: QPainter) -> None:
        theme, model, box = self.look.theme, self.model, self._table_box
        rounded(p, box, 6, theme.sheet, flat_pen(theme.hair, 2))
        people = model.shown
        row = self.cell(self._row_of_picked, 0)
        p.fillRect(QRectF(box.left() + 2, row.top(), box.width() - 4, row.height()), theme.now_tint)
        p.fillRect(QRectF(box.left(), row.top(), 5, row.height()), theme.now)
        picked = model.person - model.first
        if 0 <= picked < len(people):
            column = self.cell(0, picked)
            tall = QRectF(column.left(), box.top() + 3, column.width(), box.height() - 6)
            p.fillRect(tall, theme.now_tint)
        for nth, student in enumerate(people):
            cell = self.cell(0, nth)
            name = QRectF(cell.left() + 1, cell.top() - 34, cell.width() - 2, 30)
            short = student.label.split()[0]
            names = (student.label, short, short[:4], short[:2])
            draw_one_of(p, name, names, NOTE, theme.ink, Weight.STRONG, CENTRE)
        counts = QRectF(box.right() - COUNTS, self.cell(0, 0).top() - 34, COUNTS - 8, 30)
        draw_text(p, counts, "secure, sound", NOTE, theme.ink2, Weight.BODY, CENTRE)
        for nth, skill in enumerate(self.rows):
            self._paint_row(p, nth, skill)
        if not self._low:
            self._paint_sums(p)

    def _paint_sums(self, p: QPainter) -> None:
        """How many skills each person has."""
        theme, box = self.look.theme, self._table_box
        foot = self.cell(len(SKILLS), 0)
        p.fillRect(QRectF(box.left() + 4, foot.top(), box.width() - 8, 2), theme.line)
        name = QRectF(box.left() + 12, foot.top() + 2, NAMES, 30)
        draw_text(p, name, f"secure, of {len(SKILLS)}", BODY, theme.ink, Weight.STRONG)
        for nth, student in enumerate(self.model.shown):
            cell = self.cell(len(SKILLS), nth)
            spot = QRectF(cell.left(), cell.top() + 2, cell.width(), 30)
            words = str(len(student.secure))
            draw_text(p, spot, words, LABEL, theme.ink, Weight.STRONG, CENTRE)

    @property
    def _row_of_picked(self) -> int:
        rows, picked = self.rows, SKILLS[self.model.skill]
        return rows.index(picked) if picked in rows else 0

    def _paint_row(self, p: QPainter, nth: int, skill: Skill) -> None:
        theme, model, box = self.look.theme, self.model, self._table_box
        first = self.cell(nth, 0)
        p.fillRect(QRectF(box.left() + 4, first.top(), box.width() - 8, 1.4), theme.hair)
        weight = Weight.STRONG if nth == self._row_of_picked else Weight.BODY
        name = QRectF(box.left() + 12, first.top(), NAMES - 14, first.height())
        draw_text(p, name, skill.title, BODY, theme.ink, weight)
        for place, student in enumerate(model.shown):
            cell = self.cell(nth, place)
            half = min(9.0, cell.width() / 2 - 3, cell.height() / 2 - 3)
            standing = student.skills[skill.slug].standing
            paint_standing(p, cell.center(), half, standing, theme)
        secure = model.room.count(skill.slug, Standing.SECURE)
        sound = secure + model.room.count(skill.slug, Standing.SOUND)
        right = QRectF(box.right() - COUNTS, first.top(), COUNTS / 2, first.height())
        draw_text(p, right, str(secure), LABEL, theme.ink, Weight.STRONG, CENTRE)
        right.translate(COUNTS / 2 - 6, 0)
        draw_text(p, right, str(sound), LABEL, theme.ink2, Weight.BODY, CENTRE)

    def _paint_legend(self, p: QPainter) -> None:
        theme, box = self.look.theme, self._table_box
        y, x = box.bottom() + (18 if self._low else 22), 8.0
        for standing in Standing:
            paint_standing(p, QPointF(x + 8, y), 8, standing, theme)
            spot = QRectF(x + 22, y - 13, 120, 26)
            x += 22 + draw_text(p, spot, standing.words, NOTE, theme.ink2) + 20
        room = box.right() - x - (160 if self._low and self.files.isVisibleTo(self) else 0)
        rule = QRectF(x, y - 13, room, 26)
        draw_one_of(p, rule, (RULE, SHORT_RULE, ""), NOTE, theme.ink, Weight.LABEL)
        if self._low:
            return
        words = QRectF(8, y + 14, box.width() - 240, 26)
        draw_text(p, words, self.model.words, BODY, theme.ink2)

    def _paint_misled(self, p: QPainter) -> None:
        theme, left = self.look.theme, self.logical_width - SIDE + 4
        wide = SIDE - 12
        draw_text(
            p,
            QRectF(left, TOP - 4, wide, 30),
            "What misled most",
            LABEL + 2,
            theme.ink,
            Weight.STRONG,
        )
        y = TOP + 30
        items = self.model.misled
        if not items:
            draw_paragraph(
                p,
                QRectF(left, y + 8, wide, 60),
                "No wrong idea in these answers.",
                BODY,
                theme.ink2,
            )
        step = min(112.0, (self.logical_height - y - 96) / 5)
        for item in items:
            self._paint_item(p, QRectF(left, y, wide, step - 4), item)
            y += step
        self._paint_bar_legend(p, left, self.logical_height - 82)

    def _paint_item(self, p: QPainter, box: QRectF, item: Item) -> None:
        theme = self.look.theme
        p.fillRect(QRectF(box.left(), box.top(), box.width(), 1.4), theme.line)
        number = QRectF(box.left(), box.top() + 6, 34, 24)
        draw_text(p, number, str(item.nth + 1), LABEL, theme.ink, Weight.STRONG)
        title = QRectF(box.left() + 34, box.top() + 6, box.width() - 34, 24)
        draw_text(p, title, item.title, BODY, theme.ink, Weight.LABEL)
        total = max(item.right + item.misled + item.other, 1)
        x, y, high = box.left(), box.top() + 34, min(26.0, box.height() - 62)
        for count, fill, colour in (
            (item.right, theme.ink, theme.on_ink),
            (item.misled, theme.metal, theme.ink),
            (item.other, theme.sheet, theme.ink),
        ):
            wide = box.width() * count / total
            if not count:
                continue
            bar = QRectF(x, y, wide, high)
            rounded(p, bar, 1, fill, flat_pen(theme.ink, 1.6))
            draw_text(p, bar, str(count), BODY, colour, Weight.STRONG, CENTRE)
            x += wide
        if item.misled:
            words = QRectF(box.left(), y + high + 2, box.width(), 24)
            draw_text(p, words, f"{item.misled} said: {item.said}", NOTE, theme.ink)

    def _paint_bar_legend(self, p: QPainter, left: float, y: float) -> None:
        theme, x = self.look.theme, left
        for words, fill in (
            ("right", theme.ink),
            ("one wrong idea", theme.metal),
            ("other", theme.sheet),
        ):
            rounded(p, QRectF(x, y + 4, 15, 15), 1, fill, flat_pen(theme.ink, 1.4))
            draw_text(p, QRectF(x + 20, y, 120, 24), words, NOTE, theme.ink2)
            x += 32 + text_width(words, NOTE)

    def text_twin(self) -> str:
        """The headline, who was picked, and what misled most."""
        told = [self.model.headline, self.model.line, self.model.words]
        if self.model.shows_marks:
            told += [
                f"{student.label}, {sheet.lesson.title}: {sheet.marks:.4g} of "
                f"{sheet.lesson.asked_count}, {sheet.state}."
                for student, sheet in self.model.room.handed_in
            ]
        told += [
            f"question {item.nth + 1}: {item.misled} said {item.said}" for item in self.model.misled
        ]
        return " ".join(filter(None, told))

    # Hands ------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Pick a skill and a person."""
        if event is None or not self.model.room.students or self.model.shows_marks:
            return
        spot, box = event.position() / self.look.scale, self._table_box
        first = self.cell(0, 0)
        if not box.contains(spot):
            return
        skill = int((spot.y() - first.top()) // first.height())
        person = int((spot.x() - first.left()) // first.width())
        inside = 0 <= person < len(self.model.shown)
        rows = self.rows
        self.model.pick(
            SKILLS.index(rows[skill]) if 0 <= skill < len(rows) else self.model.skill,
            self.model.first + person if inside else -1,
        )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows pick; Page keys turn to other people."""
        if event is None:
            return
        moves = {
            Qt.Key.Key_Up: (-1, 0),
            Qt.Key.Key_Down: (1, 0),
            Qt.Key.Key_Left: (0, -1),
            Qt.Key.Key_Right: (0, 1),
        }
        move = moves.get(Qt.Key(event.key()))
        pages = {Qt.Key.Key_PageUp: -1, Qt.Key.Key_PageDown: 1}
        if move is not None:
            rows = self.rows
            row = min(max(self._row_of_picked + move[0], 0), len(rows) - 1)
            self.model.pick(SKILLS.index(rows[row]), self.model.person + move[1])
        elif Qt.Key(event.key()) in pages and self.model.shows_marks:
            by = pages[Qt.Key(event.key())]
            self.model.scroll(by * self._visible, self._visible)
        elif Qt.Key(event.key()) in pages:
            self.model.turn_page(pages[Qt.Key(event.key())])
        else:
            event.ignore()
