"""The certificate of one student: what was shown unaided, where and when, and how to check it.

Black on white, one page. It says what it proves and what not.
"""

import hashlib
from collections.abc import Sequence
from datetime import date
from typing import Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPolygonF

from true_compass.core.strokes import Stroke
from true_compass.drawing.codes import flat_pen, paint_tick, rounded
from true_compass.drawing.documents import Document, Paint, Paper
from true_compass.drawing.sheet_text import BLACK, WHITE, SheetText
from true_compass.drawing.text import CENTRE, RIGHT, draw_paragraph
from true_compass.drawing.theme import Weight
from true_compass.lessons.collect import Student
from true_compass.lessons.mastery import Shown, Standing
from true_compass.lessons.result import groups_of
from true_compass.lessons.skills import BY_SLUG, SKILLS

MARGIN: Final = 44.0
RING: Final = 78.0
ROW: Final = 40.0
BELOW: Final = 18.0 + 88.0 + 18.0 + 190.0
"""Height of the rule and of how to check it."""
RULE: Final = (
    "Three successes without a hint, on two layouts, on two days, the last answer right. Nobody "
    "was judged by time. Every answer was judged from the engine, not from a list."
)
NOT_PROVED: Final = (
    "If they agree, the log was not altered. Who sat there, and that it is no made-up log, only "
    "the signature says."
)


def day_words(day: str) -> str:
    """A day as people write it: `14 Sep`."""
    try:
        told = date.fromisoformat(day)
    except ValueError:
        return day
    return f"{told.day} {told:%b}"


def mark_of_student(student: Student) -> str:
    """One mark of everything that was handed in, whatever its order: SHA-256."""
    marks = sorted(sheet.result.mark for sheet in student.sheets)
    return hashlib.sha256("\n".join(marks).encode()).hexdigest()


def certificate(students: Sequence[Student], today: date, place: str = "") -> Document:
    """A page for each student who can do something."""

    def pages(paper: Paper) -> list[Paint]:
        return [_painted(student, today, place, paper) for student in students]

    names = [student.person.shown for student in students]
    title = f"Certificate: {names[0]}" if len(names) == 1 else "Certificates"
    return Document(title, "certificate", pages)


def _painted(student: Student, today: date, place: str, paper: Paper) -> Paint:
    def paint(p: QPainter) -> None:
        _Page(p, student, today, place, paper).paint()

    return paint


class _Page:
    """Paints one page from the top."""

    def __init__(
        self, p: QPainter, student: Student, today: date, place: str, paper: Paper
    ) -> None:
        self.p, self.text = p, SheetText(p)
        self.student, self.today, self.place = student, today, place
        self.width, self.height = paper.width, paper.height
        self.wide = paper.width - 2 * MARGIN

    def paint(self) -> None:
        """Ring, name, skills, rule, check, signatures."""
        y = self._head()
        y = self._skills(y)
        y = self._rule(y + 18)
        self._check(y + 18)
        self._signatures()

    def _head(self) -> float:
        centre = QPointF(self.width / 2, MARGIN + RING + 14)
        self._ring(centre)
        y = centre.y() + RING + 26
        if self.place:
            self.text(QRectF(MARGIN, y, self.wide, 30), self.place, 21, align=CENTRE)
            y += 34
        name = QRectF(MARGIN, y, self.wide, 60)
        self.text(name, self.student.person.shown, 46, Weight.STRONG, CENTRE)
        count = len(self.student.can)
        told = (
            f"has shown these {count} skills, unaided"
            if count != 1
            else "has shown this skill, unaided"
        )
        self.text(QRectF(MARGIN, y + 62, self.wide, 34), told, 22, align=CENTRE)
        return y + 110

    def _ring(self, centre: QPointF) -> None:
        """The ring of the four strokes, in black."""
        p, inner = self.p, RING * 0.72
        for stroke in Stroke:
            path = QPainterPath()
            outer_box = QRectF(centre.x() - RING, centre.y() - RING, 2 * RING, 2 * RING)
            inner_box = QRectF(centre.x() - inner, centre.y() - inner, 2 * inner, 2 * inner)
            begin = 90.0 - 90.0 * int(stroke)
            path.arcMoveTo(outer_box, begin)
            path.arcTo(outer_box, begin, -90.0)
            path.arcTo(inner_box, begin - 90.0, 90.0)
            path.closeSubpath()
            p.setPen(flat_pen(BLACK, 2.0))
            p.setBrush(QColor(BLACK) if stroke is Stroke.POWER else QColor(WHITE))
            p.drawPath(path)
            self._texture(stroke, path, outer_box)
        for points, solid in (
            (((-13, -26), (13, -26), (0, -3)), True),
            (((-13, 26), (13, 26), (0, 3)), False),
        ):
            side = -RING if solid else RING
            shape = QPolygonF([centre + QPointF(x, y + side) for x, y in points])
            p.setBrush(QColor(BLACK) if solid else QColor(WHITE))
            p.drawPolygon(shape)
        for row, word in enumerate(("True", "Compass")):
            box = QRectF(centre.x() - 60, centre.y() - 25 + 25 * row, 120, 26)
            self.text(box, word, 20, Weight.STRONG, CENTRE)

    def _texture(self, stroke: Stroke, path: QPainterPath, box: QRectF) -> None:
        """What tells a stroke without colour, drawn as lines: level bars, slant bars, dots."""
        p = self.p
        p.save()
        p.setClipPath(path)
        p.setPen(flat_pen(BLACK, 2.4))
        side, step = box.width(), 9.0
        for nth in range(int(2 * side / step)):
            at = box.top() + nth * step
            if stroke is Stroke.COMPRESSION:
                p.drawLine(QPointF(box.left(), at), QPointF(box.right(), at))
            elif stroke is Stroke.EXHAUST:
                p.drawLine(QPointF(box.left(), at), QPointF(box.left() + side, at - side))
            elif stroke is Stroke.INTAKE:
                p.setBrush(QColor(BLACK))
                for column in range(int(side / step)):
                    x = box.left() + column * step + (step / 2 if nth % 2 else 0.0)
                    p.drawEllipse(QPointF(x, at), 1.0, 1.0)
        p.restore()

    def _skills(self, y: float) -> float:
        columns = (0.0, 0.43, 0.625, 0.82)
        heads = ("skill", "first success", "second success", "third success")
        for share, head in zip(columns, heads, strict=True):
            left = MARGIN + share * self.wide + (44 if not share else 0)
            self.text(QRectF(left, y, self.wide * 0.2, 22), head, 14)
        y += 28
        # What stands below takes its place; the rows share what is left.
        room = self.height - MARGIN - 76 - 40 - BELOW - y
        row_high = min(ROW, room / max(len(self.student.can), 1))
        self._line(y)
        for slug in self.student.can:
            box = QRectF(MARGIN + 4, y + row_high / 2 - 12, 24, 24)
            rounded(self.p, box, 2, BLACK, None)
            paint_tick(self.p, box.center(), 14, WHITE)
            title = QRectF(MARGIN + 44, y, self.wide * 0.38, row_high)
            self.text(title, BY_SLUG[slug].title, 18, Weight.STRONG)
            for share, shown in zip(columns[1:], self.student.skills[slug].proof, strict=False):
                cell = QRectF(MARGIN + share * self.wide, y, self.wide * 0.185, row_high)
                self.text(cell, self._success(shown), 16)
            y += row_high
            self._line(y)
        return y

    def _success(self, shown: Shown) -> str:
        return f"{shown.engine.removeprefix('Rig ')} {day_words(shown.day)}"

    def _line(self, y: float) -> None:
        self.p.setPen(flat_pen(BLACK, 1.6))
        self.p.drawLine(QPointF(MARGIN, y), QPointF(MARGIN + self.wide, y))

    def _rule(self, y: float) -> float:
        box = QRectF(MARGIN, y, self.wide, 88)
        rounded(self.p, box, 5, None, flat_pen(BLACK, 2.4))
        self.text(QRectF(box.left() + 18, y + 10, 300, 26), "The rule", 17, Weight.STRONG)
        words = QRectF(box.left() + 18, y + 36, self.wide - 36, 50)
        draw_paragraph(self.p, words, RULE, 16, BLACK)
        return y + 88

    def _check(self, y: float) -> None:
        student, half = self.student, self.wide * 0.5
        self.text(QRectF(MARGIN, y, half, 26), "How to check it", 17, Weight.STRONG)
        names = ", ".join(sheet.name for sheet in student.sheets[:2])
        if len(student.sheets) > 2:
            names += f" and {len(student.sheets) - 2} more"
        words = (
            f"Open Lessons, Class, and collect {names}. All {student.answers} answers are replayed "
            "and judged again. The eight groups must agree."
        )
        draw_paragraph(self.p, QRectF(MARGIN, y + 30, half - 24, 110), words, 15, BLACK)
        box = QRectF(MARGIN + half, y, half, 132)
        rounded(self.p, box, 5, None, flat_pen(BLACK, 1.8))
        for nth, group in enumerate(groups_of(mark_of_student(student))):
            row, column = divmod(nth, 4)
            cell = QRectF(
                box.left() + 8 + column * (half - 16) / 4, y + 10 + row * 42, (half - 16) / 4, 40
            )
            self.text(cell, group, 24, Weight.STRONG, CENTRE)
        self.text(QRectF(box.left(), y + 100, half, 24), self._span(), 14, align=CENTRE)
        proves = QRectF(MARGIN, y + 146, self.wide, 44)
        draw_paragraph(self.p, proves, NOT_PROVED, 15, BLACK, Weight.STRONG)

    def _span(self) -> str:
        days = sorted(given.day for sheet in self.student.sheets for given in sheet.given)
        if not days:
            return "of an empty log"
        span = f"{day_words(days[0])} to {day_words(days[-1])}"
        return f"of the log, {self.student.answers} answers, {span}"

    def _signatures(self) -> None:
        y = self.height - MARGIN - 76
        thirds = (
            (0.0, 0.36, "Instructor", ""),
            (0.405, 0.205, "Date", self._today()),
            (0.65, 0.35, "Student", ""),
        )
        for share, wide, name, filled in thirds:
            left = MARGIN + share * self.wide
            self.p.setPen(flat_pen(BLACK, 1.6))
            self.p.drawLine(QPointF(left, y), QPointF(left + wide * self.wide, y))
            self.text(QRectF(left, y - 32, wide * self.wide, 28), filled, 17, Weight.STRONG)
            self.text(QRectF(left, y + 4, wide * self.wide, 22), name, 14)
        foot = self.height - MARGIN - 24
        self._line(foot - 6)
        missing = [
            skill.title
            for skill in SKILLS
            if self.student.skills[skill.slug].standing is not Standing.CAN
        ]
        told = f"Not shown yet: {'; '.join(missing)}." if missing else "All skills are shown."
        self.text(QRectF(MARGIN, foot, self.wide - 90, 22), told, 14)
        count = f"{len(self.student.can)} of {len(SKILLS)}"
        self.text(QRectF(MARGIN + self.wide - 90, foot, 90, 22), count, 14, align=RIGHT)

    def _today(self) -> str:
        return f"{self.today.day} {self.today:%b %Y}"
