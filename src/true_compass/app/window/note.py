"""What the program says by itself: a strip for one sentence, and a sheet for more."""

from collections.abc import Callable, Sequence
from typing import Final

from PyQt6.QtCore import QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QHideEvent, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.widgets.over import Over
from true_compass.drawing.codes import paint_problem_mark, rounded
from true_compass.drawing.text import LEFT, draw_paragraph_that_fits, draw_text, text_width
from true_compass.drawing.theme import BODY, HEAD, LABEL, Weight, font

NOTE_MS: Final = 6000
PROBLEM_MS: Final = 20000
HEIGHT: Final = 40
MOST_CHOICES: Final = 2

Choice = tuple[str, Callable[[], object]]


class NoteStrip(Painted):
    """One sentence at the foot of the page, for some seconds."""

    coming = pyqtSignal()
    """It is about to be shown: whoever places it does that now."""

    def __init__(self, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self.text = ""
        self.problem = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self._fresh = False
        # A press meant for what lies below goes there; only the button beside the words takes one.
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.more = DrawnButton(look, "Show all", parent)
        self.more.setObjectName("note_more")
        self.setObjectName("note")
        self.hide()

    def say(self, text: str, *, problem: bool = False, more: str = "") -> None:
        """Show a sentence; a problem stays longer and carries a mark. `more` labels a button."""
        self.text, self.problem = text, problem
        self.more.setText(more)
        self.more.setAccessibleName(more)
        self.more.setVisible(bool(more))
        self.setAccessibleName(text)
        self._timer.start(PROBLEM_MS if problem else NOTE_MS)
        self._fresh = True
        QTimer.singleShot(0, self._has_been_said)
        self.coming.emit()
        self.show()
        self.raise_()
        self.more.raise_()
        self.place_more()
        self.update()

    def _has_been_said(self) -> None:
        self._fresh = False

    def pass_by(self) -> None:
        """Something else was done: what was said of the thing before holds no longer."""
        if not self._fresh:
            self.hide()

    def hideEvent(self, event: QHideEvent | None) -> None:
        """The button goes with the words."""
        super().hideEvent(event)
        self.more.hide()

    @property
    def widths(self) -> tuple[int, int]:
        """Pixels in which the sentence is read whole: in one line, or in two of smaller print."""
        words, edges = text_width(self.text, BODY, Weight.LABEL), self._left + self._right
        one, two = edges + words, edges + 0.56 * words
        return round(one * self.look.scale), round(two * self.look.scale)

    @property
    def _left(self) -> float:
        return 44.0 if self.problem else 20.0

    @property
    def _right(self) -> float:
        return 146.0 if self.more.text() else 16.0

    def place_more(self) -> None:
        """Put the button at the right end."""
        box = self.look.scaled(self.logical_width - 132, 2, 124, HEIGHT - 4)
        self.more.setGeometry(box.translated(self.pos()))

    def ground(self) -> QColor:
        """The tint of what is next."""
        return self.look.theme.now_tint

    def paint(self, p: QPainter) -> None:
        """Draw the sentence, with the mark when it is a problem."""
        theme = self.look.theme
        edge = QRectF(0, 0, self.logical_width, self.logical_height).adjusted(1, 1, -1, -1)
        rounded(p, edge, 0, None, QPen(theme.line, 1.4))
        if self.problem:
            paint_problem_mark(p, QRectF(16, 11, 18, 18), theme.ink, theme.on_ink)
        room = QRectF(self._left, 0, self.logical_width - self._left - self._right, HEIGHT)
        if text_width(self.text, BODY, Weight.LABEL) <= room.width():
            draw_text(p, room, self.text, BODY, theme.ink, Weight.LABEL, LEFT)
        else:
            draw_paragraph_that_fits(p, room.adjusted(0, 1, 0, -1), self.text, BODY, theme.ink)


class Sheet(Over):
    """A sheet over the workspace: a title, pairs of words, and a way to close it."""

    tells_itself = True

    def __init__(self, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._title = ""
        self._rows: list[tuple[str, str]] = []
        self._problem = True
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.close_button = DrawnButton(look, "Close", self)
        self.close_button.clicked.connect(self.hide)
        self.choice_buttons = [DrawnButton(look, "", self) for _ in range(MOST_CHOICES)]
        self._acts: list[Callable[[], object]] = []
        for button in self.choice_buttons:
            button.clicked.connect(self._choose)
        self.setObjectName("sheet")
        self.hide()

    def show_rows(
        self,
        title: str,
        rows: list[tuple[str, str]],
        choices: Sequence[Choice] = (),
        *,
        problem: bool = True,
    ) -> None:
        """Show rows of `(left, right)`; a row with an empty left uses the whole width, and is
        marked where it is a `problem`.

        `choices` are buttons: each closes the sheet and acts.
        """
        self._title, self._rows, self._problem = title, rows, problem
        self._acts = [act for _, act in choices]
        for place, button in enumerate(self.choice_buttons):
            button.setVisible(place < len(choices))
            if place < len(choices):
                button.setText(choices[place][0])
        self.setAccessibleName(title)
        self.setAccessibleDescription("; ".join(f"{left} {right}".strip() for left, right in rows))
        self.show()
        self.raise_()
        self.setFocus()
        self.place_close()
        self.update()

    @property
    def rows(self) -> list[tuple[str, str]]:
        """What is shown."""
        return self._rows

    def place_close(self) -> None:
        """Put the button at the upper right."""
        x = self.logical_width - 108
        self.close_button.setGeometry(self.look.scaled(x, 16, 92, 36))
        for button in reversed(self.choice_buttons[: len(self._acts)]):
            x -= 148
            button.setGeometry(self.look.scaled(x, 16, 142, 36))

    def _choose(self) -> None:
        place = [button is self.sender() for button in self.choice_buttons].index(True)
        self.hide()
        self._acts[place]()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Escape closes; everything else is for the window."""
        if event is None:
            return
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
        else:
            event.ignore()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Nothing below the sheet can be pressed."""

    def ground(self) -> QColor:
        """The colour of a sheet."""
        return self.look.theme.sheet

    def paint_focus(self, p: QPainter) -> None:
        """The edge says enough."""

    def paint(self, p: QPainter) -> None:
        """Draw the title and the rows, in two columns when there are many short ones."""
        theme, width = self.look.theme, self.logical_width
        edge = QRectF(0, 0, width, self.logical_height)
        rounded(p, edge, 0, None, QPen(theme.line, 2))
        draw_text(
            p,
            QRectF(24, 14, width - 150 - 148 * len(self._acts), 40),
            self._title,
            HEAD,
            theme.ink,
            Weight.STRONG,
        )
        if any(left for left, _ in self._rows):
            self._paint_pairs(p)
        else:
            self._paint_sentences(p)

    def _paint_pairs(self, p: QPainter) -> None:
        theme = self.look.theme
        most = max(1, int((self.logical_height - 76) // 27))
        columns = max(-(-len(self._rows) // most), 2 if len(self._rows) > 12 else 1)
        per_column = -(-len(self._rows) // columns)
        width = (self.logical_width - 48) / max(1, columns)
        key_width = min(width * 0.42, 210.0)
        row = min((self.logical_height - 76) / per_column, 38.0)
        px = LABEL if row > 32 else BODY
        for i, (left, right) in enumerate(self._rows):
            x, y = 24 + (i // per_column) * width, 64 + (i % per_column) * row
            draw_text(p, QRectF(x, y, key_width - 8, row), left, px, theme.ink, Weight.STRONG)
            box = QRectF(x + key_width, y, width - key_width - 16, row)
            draw_text(p, box, right, px, theme.ink2, Weight.BODY)

    def _paint_sentences(self, p: QPainter) -> None:
        theme, px = self.look.theme, BODY if self._problem else LABEL
        y = 66.0
        for _, sentence in self._rows:
            left = 54 if self._problem else 24
            box = QRectF(left, y, self.logical_width - left - 30, 400)
            p.setFont(font(px))
            flags = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop) | int(
                Qt.TextFlag.TextWordWrap
            )
            used = p.boundingRect(box, flags, sentence)
            if used.bottom() > self.logical_height - 12:
                draw_text(p, QRectF(54, y, 300, 24), "and more", BODY, theme.ink2)
                return
            if self._problem:
                paint_problem_mark(p, QRectF(24, y + 1, 18, 18), theme.ink, theme.on_ink)
            p.setFont(font(px))
            p.setPen(theme.ink)
            p.drawText(box, flags, sentence)
            y = used.bottom() + 12
