"""Worksheets: a lesson's drills on paper, a set a student if wished, the key on its own page.

Black on white. The key repeats the page with its answers, and says what wrong answers point to.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter

from true_compass.core.ideas import BY_SLUG as IDEAS
from true_compass.core.items import item_named
from true_compass.core.words import counted
from true_compass.drawing.cap_face import paint_cap_face
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.documents import Document, Paint, Paper
from true_compass.drawing.sheet_text import BLACK, WHITE, SheetText
from true_compass.drawing.text import CENTRE, RIGHT, draw_paragraph, paragraph_height, text_width
from true_compass.drawing.theme import Weight
from true_compass.lessons.drill import Asked, Drill
from true_compass.lessons.drills import Apart, drill_of, rig_of
from true_compass.lessons.forms import Answer, Choice, Figure, Form, Slots, Ticks, TwoLists
from true_compass.lessons.kinds.sparks import WireCap
from true_compass.lessons.lesson import Lesson, asked_of, set_seed
from true_compass.lessons.paper import FREE, ZERO, lobe_words, order_words

MARGIN: Final = 44.0
HEAD_HIGH: Final = 112.0
FOOT_HIGH: Final = 46.0
FOR_INSTRUCTOR: Final = 86.0
CHIP: Final = (84.0, 56.0)
CHIP_GAP: Final = 10.0
OPTION_HIGH: Final = 32.0
CAP_HIGH: Final = 210.0
POINTER_HIGH: Final = 24.0
FACT: Final = 15.0


@dataclass(frozen=True, slots=True)
class PaperQuestion:
    """A question as paper has it."""

    drill: Drill
    q: Asked
    form: Form
    right: Answer
    of: int

    @property
    def text(self) -> str:
        """Which engine, then what is asked."""
        words = self.drill.paper_text(self.q)
        if not self.drill.shows_engine and not isinstance(self.drill, WireCap):
            return words
        return f"{self.q.engine.name}. {words}"

    @property
    def marks(self) -> int:
        """How many marks it has."""
        return self.form.marks(self.right, self.right).asked


@dataclass(frozen=True, slots=True)
class PaperSet:
    """One student's questions: which set of how many, its seed, and what paper cannot ask."""

    number: int
    of: int
    seed: int
    questions: tuple[PaperQuestion, ...]
    left_out: int

    @property
    def marks(self) -> int:
        """All marks of the set."""
        return sum(question.marks for question in self.questions)

    @property
    def facts(self) -> tuple[str, ...]:
        """What is to be known of its engines: orders, and lobes where answers follow from them."""
        shown = [question for question in self.questions if question.drill.shows_engine]
        if not shown:
            return ()
        rigs = {question.q.engine.name: question.q.rig for question in shown}
        cams = {question.q.engine.name for question in shown if question.drill.reads_cam}
        told = [
            f"{order_words(rig)} {lobe_words(rig) if name in cams else ''}".strip()
            for name, rig in rigs.items()
        ]
        return (f"{ZERO} {FREE if cams else ''}".strip(), *told)


def paper_sets(lesson: Lesson, seed: int, students: int = 1) -> list[PaperSet]:
    """Sets of a lesson. One set is that of the seed; of several each has questions of its own, that
    no other has as long as there are any, unless the lesson gives all the same. Raises
    `LessonError`.
    """
    sets = []
    apart = Apart() if students > 1 and not lesson.settings.same else None
    for number in range(1, students + 1):
        own = seed
        if apart is not None:
            own = set_seed(_seeded(lesson, seed), f"paper {number}", "")
            apart.next_set()
        asked = asked_of(lesson, own, apart)
        found: list[PaperQuestion] = []
        for one in asked:
            drill = drill_of(one.question.kind)
            if drill.on_paper:
                q = Asked(rig_of(lesson.engine(one.question.engine)), one.question)
                form = drill.form(q)
                right = form.read(drill.answer(q))
                found.append(PaperQuestion(drill, q, form, right, len(found) + 1))
        sets.append(PaperSet(number, students, own, tuple(found), len(asked) - len(found)))
    return sets


def _seeded(lesson: Lesson, seed: int) -> Lesson:
    return replace(lesson, settings=replace(lesson.settings, seed=seed))


def worksheet(lesson: Lesson, seed: int, students: int = 1) -> Document:
    """Every set, then every key, each on pages of its own. Raises `LessonError`."""
    sets = paper_sets(lesson, seed, students)

    def pages(paper: Paper) -> list[Paint]:
        made: list[Paint] = []
        for key in (False, True):
            for one in sets:
                parts = _flow(one, paper, key)
                for nth, questions in enumerate(parts):
                    sheet = _Page(lesson, one, seed, key, nth, len(parts), paper)
                    made.append(_painted(sheet, questions))
        return made

    return Document(f"{lesson.title}: worksheet", f"worksheet-{lesson.id}", pages)


def _painted(sheet: "_Page", questions: Sequence[PaperQuestion]) -> Paint:
    def paint(p: QPainter) -> None:
        sheet.paint(p, questions)

    return paint


def _flow(one: PaperSet, paper: Paper, key: bool) -> list[list[PaperQuestion]]:
    """Questions by page: none is torn apart."""
    room = paper.height - 2 * MARGIN - HEAD_HIGH - FOOT_HIGH
    pages: list[list[PaperQuestion]] = [[]]
    left = room - _facts_high(one, paper.width - 2 * MARGIN)
    for question in one.questions:
        high = _high(question, paper.width - 2 * MARGIN, key)
        last = question is one.questions[-1]
        more = 0.0
        if last:
            more = FOR_INSTRUCTOR if not key else _pointers_high(one)
        if pages[-1] and high + more > left:
            pages.append([])
            left = room
        pages[-1].append(question)
        left -= high
    return pages


def _facts_high(one: PaperSet, wide: float) -> float:
    """How high the facts stand on the first page."""
    high = sum(paragraph_height(words, FACT, wide - 24) + 6 for words in one.facts)
    return high + 22 if one.facts else 0.0


def _pointers_high(one: PaperSet) -> float:
    return 40.0 + POINTER_HIGH * len(pointers_of(one))


def pointers_of(one: PaperSet) -> list[tuple[int, str]]:
    """What wrong answers point to: the number of a question, and the sentence; ten at most."""
    found: list[tuple[int, str]] = []
    told: set[tuple[str, str]] = set()
    for question in one.questions:
        for slip in question.drill.slips(question.q):
            idea = question.drill.idea(question.q, question.form.read(slip))
            key = (question.drill.slug, idea)
            if not idea or key in told or question.form.marks(question.right, slip).is_full:
                continue
            told.add(key)
            words = question.form.words(slip)
            found.append((question.of, f"{words}: “{IDEAS[idea].title}”"))
    return found[:10]


def _high(question: PaperQuestion, wide: float, key: bool) -> float:
    text = paragraph_height(question.text, 18, wide - 130, Weight.STRONG)
    return 22.0 + max(text, 26.0) + 8.0 + _answer_high(question, wide) + (26.0 if key else 0.0)


def _answer_high(question: PaperQuestion, wide: float) -> float:
    form = question.form
    if isinstance(form, Choice):
        return OPTION_HIGH * len(_option_rows(form, wide - 44)) + 6
    if isinstance(form, Ticks | TwoLists):
        a_row = max(1, int((wide - 44 + CHIP_GAP) // (CHIP[0] + CHIP_GAP)))
        return (CHIP[1] + CHIP_GAP) * -(-len(form.names) // a_row) + 4
    if isinstance(question.drill, WireCap):
        return CAP_HIGH
    return 52.0


def _option_rows(form: Choice, wide: float) -> list[list[int]]:
    """Which options stand in which row."""
    rows: list[list[int]] = [[]]
    x = 0.0
    for nth, option in enumerate(form.options):
        need = text_width(option.words, 16) + 56
        if rows[-1] and x + need > wide:
            rows.append([])
            x = 0.0
        rows[-1].append(nth)
        x += need
    return rows


@dataclass(frozen=True, slots=True)
class _Page:
    """Paints one page."""

    lesson: Lesson
    set: PaperSet
    seed: int
    key: bool
    nth: int
    count: int
    paper: Paper

    @property
    def wide(self) -> float:
        return self.paper.width - 2 * MARGIN

    def paint(self, p: QPainter, questions: Sequence[PaperQuestion]) -> None:
        """Head, questions, foot."""
        text = SheetText(p)
        self._head(p, text)
        y = MARGIN + HEAD_HIGH
        if self.nth == 0:
            y = self._facts(p, y)
        for question in questions:
            y = self._question(p, text, question, y)
        if self.nth == self.count - 1:
            if self.key:
                self._pointers(text, y + 8)
            else:
                self._instructor(p, text)
        self._foot(p, text)

    def _head(self, p: QPainter, text: SheetText) -> None:
        title = "Answer key" if self.key else self.lesson.title
        text(QRectF(MARGIN, MARGIN, self.wide * 0.56, 44), title, 36, Weight.STRONG)
        of = f", set {self.set.number} of {self.set.of}" if self.set.of > 1 else ""
        line = f"Worksheet{of}. {counted(self.set.marks, 'mark')}{self._passed()}."
        if self.key:
            line = f"{self.lesson.title}{of}"
        text(QRectF(MARGIN, MARGIN + 48, self.wide * 0.56, 24), line, 17, Weight.STRONG)
        note = "Angles are crank degrees. A mark for each right, one off for each wrong."
        if self.key:
            note = "For the instructor: keep this page. Right less wrong, never below 0."
        text(QRectF(MARGIN, MARGIN + 74, self.wide, 24), note, 15)
        if not self.key:
            for row, words in enumerate(("Name", "Date")):
                y = MARGIN + 6 + row * 36
                text(QRectF(MARGIN + self.wide * 0.6, y, 60, 24), words, 15)
                p.setPen(flat_pen(BLACK, 1.6))
                x = MARGIN + self.wide * 0.6 + 54
                p.drawLine(QPointF(x, y + 24), QPointF(MARGIN + self.wide, y + 24))

    def _facts(self, p: QPainter, y: float) -> float:
        """What the answers follow from, in a frame above the first question."""
        high = _facts_high(self.set, self.wide)
        if not high:
            return y
        frame = QRectF(MARGIN, y, self.wide, high - 12)
        rounded(p, frame, 4, None, flat_pen(BLACK, 1.4))
        at = y + 5
        for words in self.set.facts:
            tall = paragraph_height(words, FACT, self.wide - 24) + 6
            draw_paragraph(p, QRectF(MARGIN + 12, at, self.wide - 24, tall), words, FACT, BLACK)
            at += tall
        return y + high

    def _passed(self) -> str:
        passed, asked = self.lesson.settings.passed, self.lesson.asked_count
        if not passed or not asked:
            return ""
        return f", {-(-passed * self.set.marks // asked)} to pass"

    def _question(self, p: QPainter, text: SheetText, question: PaperQuestion, y: float) -> float:
        p.setPen(flat_pen(BLACK, 1.6))
        p.drawLine(QPointF(MARGIN, y), QPointF(MARGIN + self.wide, y))
        y += 12
        number = QRectF(MARGIN, y, 30, 30)
        rounded(p, number, 2, BLACK, None)
        text(number, str(question.of), 17, Weight.STRONG, CENTRE, WHITE)
        high = max(paragraph_height(question.text, 18, self.wide - 130, Weight.STRONG), 26.0)
        box = QRectF(MARGIN + 42, y + 2, self.wide - 130, high + 6)
        draw_paragraph(p, box, question.text, 18, BLACK, Weight.STRONG)
        marks = QRectF(MARGIN + self.wide - 84, y + 2, 84, 26)
        text(marks, counted(question.marks, "mark"), 15, Weight.BODY, RIGHT)
        y += high + 10
        self._answer(p, text, question, QRectF(MARGIN + 42, y, self.wide - 44, 0))
        y += _answer_high(question, self.wide)
        if self.key:
            why = QRectF(MARGIN + 42, y, self.wide - 44, 24)
            text(why, question.drill.why(question.q), 15)
            y += 26
        return y

    def _answer(self, p: QPainter, text: SheetText, question: PaperQuestion, at: QRectF) -> None:
        form, right = question.form, question.right if self.key else None
        if isinstance(form, Choice):
            self._options(p, text, form, right, at)
        elif isinstance(form, Ticks):
            ticked = dict.fromkeys(right or (), 1)
            self._chips(p, text, form.names, ticked, at, two=False)
        elif isinstance(form, TwoLists):
            lists = right or ((), ())
            ticked = {name: nth for nth, names in enumerate(lists, start=1) for name in names}
            self._chips(p, text, form.names, ticked, at, two=True)
        elif isinstance(form, Slots):
            if isinstance(question.drill, WireCap):
                self._cap(p, text, question, at)
            else:
                self._slots(p, text, form, right, at)
        elif isinstance(form, Figure):
            box = QRectF(at.left(), at.top() + 2, 120, 40)
            rounded(p, box, 3, None, flat_pen(BLACK, 1.8))
            if self.key:
                words = f"{question.right:.{form.digits}f}".replace("-", "−")
                text(box, words, 18, Weight.STRONG, CENTRE)
            unit = QRectF(at.left() + 132, at.top() + 2, 300, 40)
            text(unit, form.unit.strip(), 16)

    def _options(
        self, p: QPainter, text: SheetText, form: Choice, right: Answer, at: QRectF
    ) -> None:
        y = at.top()
        for row in _option_rows(form, at.width()):
            x = at.left()
            for nth in row:
                option = form.options[nth]
                box = QRectF(x, y + 4, 20, 20)
                hit = self.key and option.value == right and type(option.value) is type(right)
                rounded(p, box, 2, BLACK if hit else None, flat_pen(BLACK, 1.8))
                weight = Weight.STRONG if hit else Weight.BODY
                used = text(QRectF(x + 28, y, at.width(), 28), option.words, 16, weight)
                x += used + 56
            y += OPTION_HIGH

    def _chips(
        self,
        p: QPainter,
        text: SheetText,
        names: Sequence[str],
        ticked: dict[str, int],
        at: QRectF,
        *,
        two: bool,
    ) -> None:
        """Chips with one box, or with a box for each stop; on the key the right ones are solid."""
        a_row = max(1, int((at.width() + CHIP_GAP) // (CHIP[0] + CHIP_GAP)))
        for nth, name in enumerate(names):
            row, column = divmod(nth, a_row)
            x = at.left() + column * (CHIP[0] + CHIP_GAP)
            box = QRectF(x, at.top() + row * (CHIP[1] + CHIP_GAP), *CHIP)
            stop = ticked.get(name, 0)
            radius = 16.0 if item_named(name).rounded else 2.0
            solid = bool(stop) and not two
            rounded(p, box, radius, BLACK if solid else None, flat_pen(BLACK, 1.8))
            colour = WHITE if solid else BLACK
            if not two:
                words = QRectF(box.left() + 8, box.top(), 44, box.height())
                text(words, name, 17, Weight.STRONG, colour=colour)
                small = QRectF(box.right() - 30, box.center().y() - 10, 20, 20)
                rounded(p, small, 3, WHITE if solid else None, flat_pen(colour, 1.6))
                continue
            text(
                QRectF(box.left(), box.top() + 2, box.width(), 24), name, 16, Weight.STRONG, CENTRE
            )
            for which in (1, 2):
                side = QRectF(box.left() + (10 if which == 1 else 46), box.bottom() - 26, 28, 22)
                hit = stop == which
                rounded(p, side, 3, BLACK if hit else None, flat_pen(BLACK, 1.4))
                text(side, str(which), 14, Weight.STRONG, CENTRE, WHITE if hit else BLACK)

    def _slots(self, p: QPainter, text: SheetText, form: Slots, right: Answer, at: QRectF) -> None:
        wide = min(54.0, at.width() / len(form.given) - 6)
        for nth, given in enumerate(form.given):
            box = QRectF(at.left() + nth * (wide + 6), at.top() + 2, wide, 42)
            rounded(p, box, 3, BLACK if given else None, flat_pen(BLACK, 1.8))
            shown = given or (right[nth] if right else 0)
            if shown:
                colour = WHITE if given else BLACK
                text(box, str(shown), 18, Weight.STRONG, CENTRE, colour)

    def _cap(self, p: QPainter, text: SheetText, question: PaperQuestion, at: QRectF) -> None:
        """The cap from above, its posts clockwise, and the rotor's arrow."""
        form = question.form
        assert isinstance(form, Slots)
        centre, radius = QPointF(at.left() + 110, at.top() + CAP_HIGH / 2 - 12), 92.0
        numbers = question.right if self.key else form.given
        paint_cap_face(
            p,
            centre,
            radius,
            numbers,
            [bool(given) for given in form.given],
            clockwise=question.q.ask.get("rotor") == "clockwise",
            ink=BLACK,
            ground=WHITE,
        )
        words = QRectF(at.left() + 230, at.top() + 20, at.width() - 240, 26)
        told = f"Lead {form.given[0]} is on. Write the others into the boxes."
        text(words, told, 16)
        text(words.translated(0, 30), "Seen on the cap; the rotor turns as the arrow.", 15)

    def _pointers(self, text: SheetText, y: float) -> None:
        told = pointers_of(self.set)
        if not told:
            return
        head = QRectF(MARGIN, y, self.wide, 28)
        text(head, "What a wrong answer points to", 17, Weight.STRONG)
        for row, (number, words) in enumerate(told):
            line_y = y + 32 + row * POINTER_HIGH
            text(QRectF(MARGIN, line_y, 30, 22), str(number), 15, Weight.STRONG)
            text(QRectF(MARGIN + 34, line_y, self.wide - 34, 22), words, 15)

    def _instructor(self, p: QPainter, text: SheetText) -> None:
        y = self.paper.height - MARGIN - FOOT_HIGH - FOR_INSTRUCTOR + 10
        text(QRectF(MARGIN, y, 300, 22), "For the instructor", 15)
        names = (f"marks of {self.set.marks}", "unaided", "hints", "seen by")
        wide = (self.wide - 30) / 4
        for nth, name in enumerate(names):
            box = QRectF(MARGIN + nth * (wide + 10), y + 24, wide, 48)
            rounded(p, box, 3, None, flat_pen(BLACK, 1.6))
            text(QRectF(box.left() + 8, box.top() + 3, wide - 16, 18), name, 13)

    def _foot(self, p: QPainter, text: SheetText) -> None:
        y = self.paper.height - MARGIN - 24
        p.setPen(flat_pen(BLACK, 1.6))
        p.drawLine(QPointF(MARGIN, y), QPointF(MARGIN + self.wide, y))
        more = self.set.left_out
        left = f" {counted(more, 'more is', 'more are')} asked on the engine only." if more else ""
        words = f"Seed {self.seed}: the same seed gives the same set.{left}"
        text(QRectF(MARGIN, y + 4, self.wide - 110, 22), words, 14)
        page = f"{self.nth + 1} of {self.count}"
        page = f"key, {page}" if self.key else page
        text(QRectF(MARGIN + self.wide - 110, y + 4, 110, 22), page, 14, Weight.BODY, RIGHT)
