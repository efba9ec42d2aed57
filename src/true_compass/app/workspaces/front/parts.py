"""The buttons of the front page: a tile, what was begun, and an engine that was open before."""

from datetime import datetime
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, QSize
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.desk import Desk, Page
from true_compass.app.keeping.recents import Recent
from true_compass.app.tile import GoOn
from true_compass.app.widgets.controls import DrawnButton, paint_arrow, underline_letter
from true_compass.app.widgets.look import Look
from true_compass.drawing.codes import flat_pen, rounded, tick_box
from true_compass.drawing.text import (
    CENTRE,
    LEFT,
    RIGHT,
    draw_one_of,
    draw_paragraph_that_fits,
    draw_text,
    text_width,
)
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Theme, Weight
from true_compass.session.session import SessionState

LOW: Final = 200.0
"""A tile lower than this has its figure at the left of its words."""
CRAMPED: Final = 112.0
"""Words lower than this (nine tiles, large text) leave room for a smaller figure only."""
MOST_BOXES: Final = 12


class PlateButton(DrawnButton):
    """A sheet that can be pressed. Subclasses paint what stands on it."""

    def sizeHint(self) -> QSize:
        """The page places it."""
        return QSize(40, 40)

    def _paint_still(self, p: QPainter, box: QRectF, active: bool, focus: bool) -> None:
        theme = self.look.theme
        rounded(p, box, 6, theme.now_tint if active else theme.sheet, flat_pen(theme.line, 1.6))
        self.paint_on(p, box.adjusted(14, 8, -14, -8), theme)
        if focus:
            rounded(p, box.adjusted(1, 1, -1, -1), 6, None, flat_pen(theme.now, 3))

    def paint_on(self, p: QPainter, box: QRectF, theme: Theme) -> None:
        """Paint into the plate."""
        raise NotImplementedError


class TileButton(PlateButton):
    """One workspace: its figure, what one does there, and where this engine stands."""

    def __init__(self, desk: Desk, entry: Page, parent: QWidget) -> None:
        super().__init__(desk.look, entry.word, parent)
        self.entry = entry
        self._tile = entry.tile()
        self._state = desk.session.state
        self._words = ""
        self._first = False
        self.setObjectName(f"tile_{entry.word.lower()}")

    def show_state(self, state: SessionState, *, first: bool) -> None:
        """Show the open engine; `first` is where a newcomer starts."""
        self._state, self._first = state, first
        self._words = self._tile.words(state)
        self.setAccessibleName(f"{self._tile.title} ({self.entry.word}), {self._words}")
        self.setAccessibleDescription(self._tile.sentence)
        self.repaint_all()

    def paint_on(self, p: QPainter, box: QRectF, theme: Theme) -> None:
        """Figure, word with its key letter, title, sentence."""
        low = box.height() < LOW - 16
        cramped = box.height() < CRAMPED
        times = 0.76 if cramped else min(max(box.height() / 200, 1.0), 1.9)
        grown = min(max(times, 1.0), 1.2)
        side = (94.0 if low else 110.0) * times
        drop = (box.height() - side) / 2 if cramped else 5.0
        figure = QRectF(box.left(), box.top() + drop, side + 10, min(side, box.height()))
        p.save()
        p.translate(figure.topLeft())
        p.scale(times, times)
        of = QRectF(0, 0, figure.width() / times, figure.height() / times)
        self._tile.paint(p, of, self._state, theme)
        p.restore()
        self._paint_word(p, QRectF(box.left(), box.top(), box.width(), 24), theme)
        left = box.left() + side + 18 if low else box.left()
        y = box.top() + (20 if cramped else 26) if low else box.top() + side + 14
        words = "Start here" if self._first else self._words
        if not low:
            told = QRectF(box.left(), y - 34, box.width(), 24)
            draw_text(p, told, words, BODY, theme.ink, Weight.LABEL, RIGHT)
        elif box.height() > side + 26:
            # Below the figure: the sentence beside it may come as far down.
            told = QRectF(box.left(), box.bottom() - 24, left - box.left() - 4, 24)
            draw_one_of(p, told, (words,), BODY, theme.ink, Weight.LABEL, LEFT)
        else:
            told = QRectF(left, box.top(), box.right() - left - 80, 24)
            draw_one_of(p, told, (words,), BODY, theme.ink, Weight.LABEL, LEFT)
        title = QRectF(left, y, box.right() - left, 30 if cramped else 34 * grown)
        draw_text(p, title, self._tile.title, (HEAD - 4) * grown, theme.ink, Weight.STRONG)
        top = y + (27 if cramped else 36 * grown)
        rest = QRectF(left, top, box.right() - left, max(box.bottom() + 6 - top, 20))
        draw_paragraph_that_fits(p, rest, self._tile.sentence, BODY * grown, theme.ink2)

    def _paint_word(self, p: QPainter, box: QRectF, theme: Theme) -> None:
        word = self.entry.word
        draw_text(p, box, word, NOTE + 1, theme.ink2, Weight.LABEL, RIGHT)
        box.setLeft(box.right() - text_width(word, NOTE + 1, Weight.LABEL))
        underline_letter(p, box, word, self.entry.letter, NOTE + 1, theme.ink2)


class GoOnCard(PlateButton):
    """Where one was: the item that is due, or the page that was open. Return goes on."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk.look, "Go on", parent)
        self._session = desk.session
        self.go_on: GoOn | None = None
        self.word = ""
        self._left = ""
        self._place = ""
        self.setObjectName("go_on")

    @property
    def wanted_height(self) -> float:
        """How high it is in the left column."""
        return 230.0 if self.go_on is not None else 138.0

    def show_work(self, word: str, go_on: GoOn, left: str) -> None:
        """Show work that was begun."""
        self.word, self.go_on = word, go_on
        self._left = f"{word}, left {left}" if left else word
        self.setText(go_on.button)
        self.setAccessibleName(f"{go_on.button}. {go_on.head}. {go_on.line}. {go_on.sentence}")
        self.repaint_all()

    def show_place(self, recent: Recent | None, left: str) -> None:
        """Show the page that was open last."""
        engine = self._session.state.engine
        self.go_on, self.word = None, recent.word if recent else ""
        self._place = f"{engine.name}, {engine.layout_words}"
        self._left = f"{recent.left}, left {left}" if recent else ""
        self.setText(f"Go on in {self.word}" if self.word else "Go on")
        self.setAccessibleName(f"{self.text()}: {self._place}. {self._left}")
        self.repaint_all()

    def paint_on(self, p: QPainter, box: QRectF, theme: Theme) -> None:
        """Item, words, a box for each step, and what a press does."""
        if box.height() < 60:
            line = box.adjusted(0, -6, -20, 6)
            words = (f"{self.text()}: {self._place or self._left}", self.text())
            draw_one_of(p, line, words, BODY, theme.ink, Weight.STRONG, LEFT)
            paint_arrow(p, QPointF(box.right() - 4, box.center().y()), theme.ink)
            return
        if self.go_on is not None:
            self._paint_work(p, box, self.go_on, theme)
        else:
            title = QRectF(box.left(), box.top(), box.width(), 28)
            draw_text(p, title, self._place, LABEL, theme.ink, Weight.STRONG)
            below = QRectF(box.left(), box.top() + 28, box.width(), 24)
            draw_text(p, below, self._left, NOTE + 1, theme.ink2)
        foot = QRectF(box.left(), box.bottom() - 44, box.width(), 42)
        rounded(p, foot, 4, theme.ink, None)
        draw_text(p, foot, f"{self.text()}   (Return)", BODY, theme.on_ink, Weight.STRONG, CENTRE)

    def _paint_work(self, p: QPainter, box: QRectF, work: GoOn, theme: Theme) -> None:
        left = box.left()
        if work.item is not None:
            chip = QRectF(box.left(), box.top() + 2, 84, 46)
            radius = 16.0 if work.item.rounded else 3.0
            rounded(p, chip, radius, theme.sheet, flat_pen(theme.ink, 2.0))
            draw_text(p, chip, work.item.name, HEAD - 3, theme.ink, Weight.STRONG, CENTRE)
            left = chip.right() + 14
        head = QRectF(left, box.top() + 2, box.right() - left, 26)
        draw_text(p, head, work.head, LABEL, theme.ink, Weight.STRONG)
        line = QRectF(left, box.top() + 28, box.right() - left, 22)
        draw_text(p, line, work.line, NOTE + 1, theme.ink2)
        self._paint_boxes(p, QRectF(box.left(), box.top() + 64, box.width(), 24), work, theme)
        sentence = QRectF(box.left(), box.top() + 100, box.width(), 24)
        draw_text(p, sentence, work.sentence, BODY, theme.ink, Weight.LABEL)
        when = QRectF(box.left(), box.top() + 124, box.width(), 22)
        draw_text(p, when, self._left, NOTE, theme.ink2)

    def _paint_boxes(self, p: QPainter, box: QRectF, work: GoOn, theme: Theme) -> None:
        """One box a step; over twelve they stand for shares of the work."""
        shown = min(work.of, MOST_BOXES)
        done = work.done if work.of <= MOST_BOXES else work.done * shown // work.of
        for place in range(shown):
            at = QRectF(box.left() + 29 * place, box.top(), 24, 24)
            tick_box(p, at, theme, ticked=place < done, due=place == done)


class RecentButton(PlateButton):
    """One engine that was open before, and where one was on it."""

    def __init__(self, look: Look, parent: QWidget) -> None:
        super().__init__(look, "Recent", parent)
        self._recent: Recent | None = None
        self._when = ""

    def show_recent(self, recent: Recent, now: datetime) -> None:
        """Show an engine."""
        self._recent, self._when = recent, recent.when_words(now)
        self.setText(f"{recent.name}, {recent.layout}: {recent.left}, {self._when}")
        self.repaint_all()

    def paint_on(self, p: QPainter, box: QRectF, theme: Theme) -> None:
        """Name and layout at the left, where one was and when at the right."""
        if self._recent is None:
            return
        half = box.width() * 0.42
        columns = (
            (box.left(), half - 8, self._recent.name, self._recent.layout),
            (box.left() + half, box.width() - half - 20, self._recent.left, self._when),
        )
        for x, width, head, below in columns:
            top = QRectF(x, box.top() - 2, width, 24)
            draw_text(p, top, head, BODY, theme.ink, Weight.LABEL)
            draw_text(p, QRectF(x, box.top() + 22, width, 22), below, NOTE, theme.ink2)
        paint_arrow(p, QPointF(box.right() - 4, box.center().y()), theme.ink)
