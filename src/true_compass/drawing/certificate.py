"""The certificate of one student: what was shown on screen, what was seen by hand, how to check it.

Black on white, one page. It says what it proves and what not, and claims no more than was answered.
"""

import hashlib
from collections.abc import Sequence
from datetime import date
from typing import Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QColor, QPainter, QPainterPath

from true_compass.core.strokes import Stroke
from true_compass.core.words import counted
from true_compass.drawing.codes import flat_pen, paint_tick, rounded
from true_compass.drawing.documents import Document, Paint, Paper
from true_compass.drawing.sheet_text import BLACK, WHITE, SheetText
from true_compass.drawing.text import CENTRE, RIGHT, draw_paragraph, text_width
from true_compass.drawing.theme import Weight
from true_compass.lessons.collect import Student
from true_compass.lessons.drills import drill_of
from true_compass.lessons.mastery import RULE, Standing
from true_compass.lessons.result import groups_of
from true_compass.lessons.skills import BY_SLUG, SKILLS

MARGIN: Final = 44.0
RING: Final = 46.0
ROW: Final = 62.0
TWO_LINES: Final = 56.0
"""A row of this height has two lines for the kinds of question."""
LEAST_ROW: Final = 30.0
BELOW: Final = 350.0
"""Height of the rule, of what it is made from, and of how to check it."""
FIELD: Final = 40.0
FOOT: Final = 126.0
NOT_PROVED: Final = (
    "If they agree, the log was not altered. Who sat there, and that it is no made-up log, only "
    "the signatures say."
)
CLAIM: Final = (
    "Shown on screen: answers to questions, each judged from the engine. Work at a real engine is "
    "another thing: whoever saw it writes it into the right-hand column."
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
    """A page for each student who is secure in something. `place` is the centre, if it is known."""

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
        """Ring, candidate, skills in two columns, rule, what it is made from, signatures."""
        y = self._head()
        y = self._fields(y)
        y = self._skills(y + 14)
        y = self._rule(y + 14)
        y = self._made_from(y + 12)
        self._check(y + 10)
        self._signatures()

    def _head(self) -> float:
        centre = QPointF(MARGIN + RING + 2, MARGIN + RING + 4)
        self._ring(centre)
        left, wide = MARGIN + 2 * RING + 26, self.wide - 2 * RING - 26
        self.text(QRectF(left, MARGIN, wide, 26), "Record of skills shown, True Compass", 18)
        name = QRectF(left, MARGIN + 26, wide, 50)
        self.text(name, self.student.person.shown, 40, Weight.STRONG)
        count = len(self.student.secure)
        told = f"Secure in {counted(count, 'skill')}, unaided, on screen"
        self.text(QRectF(left, MARGIN + 76, wide, 26), told, 18)
        return MARGIN + 2 * RING + 20

    def _ring(self, centre: QPointF) -> None:
        """The ring of the four strokes, in black."""
        p, inner = self.p, RING * 0.66
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

    def _texture(self, stroke: Stroke, path: QPainterPath, box: QRectF) -> None:
        """What tells a stroke without colour, drawn as lines: level bars, slant bars, dots."""
        p = self.p
        p.save()
        p.setClipPath(path)
        p.setPen(flat_pen(BLACK, 2.0))
        side, step = box.width(), 7.0
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
                    p.drawEllipse(QPointF(x, at), 0.8, 0.8)
        p.restore()

    def _fields(self, y: float) -> float:
        """Who it is of, where, and who saw it: what is known is filled in, the rest by hand."""
        third = (self.wide - 24) / 3
        cells = (
            ("Candidate", self.student.person.name),
            ("Centre", self.place),
            ("Assessor", ""),
        )
        for nth, (name, filled) in enumerate(cells):
            self._field(QRectF(MARGIN + nth * (third + 12), y, third, FIELD), name, filled)
        y += FIELD + 24
        left = MARGIN
        for name in ("Supervised throughout", "Supervised in part", "Not supervised"):
            rounded(self.p, QRectF(left, y, 18, 18), 2, None, flat_pen(BLACK, 1.6))
            left += 26 + self.text(QRectF(left + 26, y - 3, 220, 24), name, 15) + 22
        right = QRectF(left, y - 10, MARGIN + self.wide - left, 28)
        self._line_for(right, "Adjustments made")
        return y + 24

    def _field(self, box: QRectF, name: str, filled: str) -> None:
        self.text(QRectF(box.left(), box.top(), box.width(), 26), filled, 17, Weight.STRONG)
        self.p.setPen(flat_pen(BLACK, 1.6))
        self.p.drawLine(QPointF(box.left(), box.top() + 28), QPointF(box.right(), box.top() + 28))
        self.text(QRectF(box.left(), box.top() + 30, box.width(), 20), name, 13)

    def _line_for(self, box: QRectF, name: str) -> None:
        """A name, and a line to write on after it."""
        used = self.text(QRectF(box.left(), box.top() + 6, 160, 24), name, 15)
        self.p.setPen(flat_pen(BLACK, 1.6))
        y = box.top() + 28
        self.p.drawLine(QPointF(box.left() + used + 8, y), QPointF(box.right(), y))

    def _skills(self, y: float) -> float:
        """A row a skill: what was answered, when and on which engines; and a place for the eye."""
        shares = (0.0, 0.44, 0.74)
        heads = ("skill, and the questions answered", "shown on screen", "seen by hand")
        for share, head in zip(shares, heads, strict=True):
            left = MARGIN + share * self.wide + (40 if not share else 0)
            self.text(QRectF(left, y, self.wide * 0.36, 22), head, 14, Weight.STRONG)
        self.text(QRectF(MARGIN + 0.87 * self.wide, y, self.wide * 0.13, 22), "initials, date", 13)
        y += 26
        # What stands below takes its place; the rows share what is left.
        room = self.height - MARGIN - FOOT - BELOW - y
        high = max(min(ROW, room / max(len(self.student.secure), 1)), LEAST_ROW)
        self._line(y)
        for slug in self.student.secure:
            self._skill(slug, y, high, shares)
            y += high
            self._line(y)
        return y

    def _skill(self, slug: str, y: float, high: float, shares: Sequence[float]) -> None:
        evidence, half = self.student.skills[slug].evidence, high / 2
        box = QRectF(MARGIN + 4, y + half - 12, 24, 24)
        rounded(self.p, box, 2, BLACK, None)
        paint_tick(self.p, box.center(), 14, WHITE)
        left, wide = MARGIN + 40, self.wide * shares[1] - 48
        kinds = "; ".join(drill_of(kind).title for kind in evidence.kinds)
        below = QRectF(left, y + half - 2, wide, half)
        if high >= TWO_LINES:
            self.text(QRectF(left, y + 3, wide, 24), BY_SLUG[slug].title, 17, Weight.STRONG)
            draw_paragraph(self.p, QRectF(left, y + 27, wide, high - 28), kinds, 13, BLACK)
        else:
            self.text(QRectF(left, y + 1, wide, half), BY_SLUG[slug].title, 16, Weight.STRONG)
            self.text(below, kinds, fitting(kinds, 12.0, wide))
        left, wide = MARGIN + shares[1] * self.wide, self.wide * (shares[2] - shares[1]) - 12
        days = sorted({shown.day for shown in evidence.good})
        when = f"{day_words(days[0])} to {day_words(days[-1])}"
        first = f"{counted(len(evidence.good), 'answer')}, {when}"
        second = min(half, 24.0)
        self.text(QRectF(left, y + 3, wide, second), first, 15)
        engines = dict.fromkeys(shown.engine.removeprefix("Rig ") for shown in evidence.good)
        told = ", ".join(engines)
        below = QRectF(left, y + second + 1, wide, second)
        self.text(below, told, fitting(told, 13.0, wide))
        seen = QRectF(MARGIN + shares[2] * self.wide, y + half - 9, 18, 18)
        rounded(self.p, seen, 2, None, flat_pen(BLACK, 1.6))
        self._blank(QRectF(seen.right() + 10, y, MARGIN + self.wide - seen.right() - 12, high))

    def _blank(self, box: QRectF) -> None:
        self.p.setPen(flat_pen(BLACK, 1.0))
        y = box.bottom() - 8
        self.p.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))

    def _line(self, y: float) -> None:
        self.p.setPen(flat_pen(BLACK, 1.6))
        self.p.drawLine(QPointF(MARGIN, y), QPointF(MARGIN + self.wide, y))

    def _rule(self, y: float) -> float:
        box = QRectF(MARGIN, y, self.wide, 122)
        rounded(self.p, box, 5, None, flat_pen(BLACK, 2.4))
        head = QRectF(box.left() + 16, y + 6, 300, 24)
        self.text(head, "What it says", 16, Weight.STRONG)
        words = QRectF(box.left() + 16, y + 30, self.wide - 32, 44)
        draw_paragraph(self.p, words, f"{RULE} Nobody was judged by time.", 14, BLACK)
        words = QRectF(box.left() + 16, y + 80, self.wide - 32, 40)
        draw_paragraph(self.p, words, CLAIM, 14, BLACK, Weight.STRONG)
        return y + 122

    def _made_from(self, y: float) -> float:
        """Attempts and hints, and of which lessons and programs."""
        student = self.student
        hints = sum(given.aided for sheet in student.sheets for given in sheet.given)
        told = (
            f"{counted(len(student.sheets), 'attempt')}, {counted(student.answers, 'answer')}, "
            f"{counted(hints, 'answer')} with a hint or tried again."
        )
        lessons = dict.fromkeys(
            f"{sheet.lesson.title} ({sheet.result.header.lesson_digest[:8]})"
            for sheet in student.sheets
        )
        programs = ", ".join(sorted({sheet.result.header.program for sheet in student.sheets}))
        told = f"{told} Lessons: {', '.join(lessons)}. True Compass {programs}."
        draw_paragraph(self.p, QRectF(MARGIN, y, self.wide, 58), told, 13, BLACK)
        return y + 58

    def _check(self, y: float) -> None:
        student, half = self.student, self.wide * 0.5
        self.text(QRectF(MARGIN, y, half, 24), "How to check it", 16, Weight.STRONG)
        names = ", ".join(sheet.name for sheet in student.sheets[:2])
        if len(student.sheets) > 2:
            names += f" and {len(student.sheets) - 2} more"
        words = (
            f"Open Lessons, Class, and collect {names}. All {student.answers} answers are replayed "
            f"and judged again. The eight groups must agree. {NOT_PROVED}"
        )
        draw_paragraph(self.p, QRectF(MARGIN, y + 26, half - 20, 110), words, 13, BLACK)
        box = QRectF(MARGIN + half, y, half, 118)
        rounded(self.p, box, 5, None, flat_pen(BLACK, 1.8))
        for nth, group in enumerate(groups_of(mark_of_student(student))):
            row, column = divmod(nth, 4)
            cell = QRectF(
                box.left() + 8 + column * (half - 16) / 4, y + 6 + row * 38, (half - 16) / 4, 36
            )
            self.text(cell, group, 22, Weight.STRONG, CENTRE)
        self.text(QRectF(box.left(), y + 90, half, 22), self._span(), 13, align=CENTRE)

    def _span(self) -> str:
        days = sorted(given.day for sheet in self.student.sheets for given in sheet.given)
        if not days:
            return "of an empty log"
        span = f"{day_words(days[0])} to {day_words(days[-1])}"
        return f"of the log, {self.student.answers} answers, {span}"

    def _signatures(self) -> None:
        y = self.height - MARGIN - 86
        for share, wide, name, filled in (
            (0.0, 0.26, "Assessor", ""),
            (0.29, 0.26, "Second signature", ""),
            (0.58, 0.24, "Candidate", ""),
            (0.85, 0.15, "Date", self._today()),
        ):
            left = MARGIN + share * self.wide
            self._field(QRectF(left, y - 30, wide * self.wide, FIELD), name, filled)
        foot = self.height - MARGIN - 38
        self._line(foot - 6)
        missing = [
            skill.title
            for skill in SKILLS
            if self.student.skills[skill.slug].standing is not Standing.SECURE
        ]
        told = f"Not shown yet: {'; '.join(missing)}." if missing else "All skills are shown."
        draw_paragraph(self.p, QRectF(MARGIN, foot, self.wide - 90, 40), told, 13, BLACK)
        count = f"{len(self.student.secure)} of {len(SKILLS)}"
        self.text(QRectF(MARGIN + self.wide - 90, foot, 90, 22), count, 14, align=RIGHT)

    def _today(self) -> str:
        return f"{self.today.day} {self.today:%b %Y}"


def fitting(words: str, px: float, wide: float) -> float:
    """The largest size up to `px` at which words fit a width; not below 9."""
    while px > 9.0 and text_width(words, px) > wide:
        px -= 0.5
    return px
