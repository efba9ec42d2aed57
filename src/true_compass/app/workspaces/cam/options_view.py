"""The five best ways to move a camshaft: what each moves, what is left, what it makes."""

from itertools import pairwise
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look
from true_compass.app.widgets.stepping import SteppingView
from true_compass.app.workspaces.cam.correcting import Correcting
from true_compass.core.degreeing.moving import (
    Made,
    cam_runs_clockwise,
    does_words,
    turn_words,
)
from true_compass.core.degreeing.own_card import Events
from true_compass.core.degreeing.steps import reach_words
from true_compass.core.words import capital
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.text import (
    CENTRE,
    RIGHT,
    draw_one_of,
    draw_paragraph,
    draw_paragraph_that_fits,
    draw_text,
)
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight

ROW_HIGH: Final = 53.0


class OptionsView(SteppingView):
    """The headline and five rows; a press or Up and Down pick one."""

    def __init__(self, look: Look, correcting: Correcting, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = correcting
        self.setObjectName("cam_options")
        self.setAccessibleName("Ways to move the cam")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        correcting.changed.connect(self.update)

    @property
    def row_high(self) -> float:
        """Height of one row."""
        return min(ROW_HIGH, (self.logical_height - 84) / 5)

    def paint(self, p: QPainter) -> None:
        """Headline, heads of columns, rows."""
        theme, wide, model = self.look.theme, self.logical_width, self._model
        self._paint_head(p)
        made = model.made
        if not made:
            told = (
                f"The file does not say how {model.shaft.words} can be moved. Add it in Engine, "
                "All figures, under Moving the cam."
            )
            draw_paragraph(p, QRectF(0, 90, wide - 8, 60), told, LABEL, theme.ink)
            return
        top = 78.0
        clockwise = cam_runs_clockwise(model.model.engine)
        here = "clockwise" if clockwise else "anticlockwise"
        heads = (
            f"On is as the cam runs, here {here}",
            "moves",
            "off the card",
            "ICL, ECL",
            "new events",
        )
        for words, (left, right), align in zip(
            heads, self._columns(), (0, 1, 2, 1, 1), strict=True
        ):
            box = QRectF(left, top - 22, right - left, 20)
            flags = {0: None, 1: RIGHT, 2: CENTRE}[align]
            if flags is None:
                draw_one_of(p, box.adjusted(42, 0, 0, 0), (words,), NOTE, theme.ink2)
            else:
                draw_one_of(p, box, (words,), NOTE, theme.ink2, align=flags)
        frame = QRectF(1, top, wide - 2, self.row_high * len(made))
        rounded(p, frame, 6, theme.sheet, flat_pen(theme.line, 1.8))
        for nth, one in enumerate(made):
            self._paint_row(
                p, QRectF(1, top + nth * self.row_high, wide - 2, self.row_high), nth, one
            )

    def _paint_head(self, p: QPainter) -> None:
        theme, model, wide = self.look.theme, self._model, self.logical_width
        need = model.later_deg
        if model.refused:
            draw_paragraph_that_fits(p, QRectF(0, 0, wide, 54), model.refused, LEAD, theme.ink)
            return
        name = model.shaft.words
        if not model.is_known:
            head, why = f"Read where {name} stands first, or type how far it must go.", ""
        elif abs(need) < 0.05:
            head, why = f"{name.capitalize()} stands as set: leave it.", ""
        else:
            verb = "Advance" if need > 0 else "Retard"
            head = f"{verb} {name} by {abs(need):.1f}°"
            why = f"{turn_words(model.model.engine, need)} {does_words(model.shaft, need)}"
            far = reach_words([one.option for one in model.made], need) if model.made else ""
            why = far or why
        used = draw_text(p, QRectF(0, 0, wide, 34), head, HEAD, theme.ink, Weight.STRONG)
        if used + 40 < wide and why:
            beside = QRectF(used + 18, 4, wide - used - 18, 28)
            if draw_one_of(p, beside, (why,), BODY, theme.ink2):
                return
        draw_one_of(p, QRectF(0, 32, wide, 22), (why, why.split(". ")[0]), BODY, theme.ink2)

    def _columns(self) -> list[tuple[float, float]]:
        """Left and right of words, move, bar, centrelines, events; few where it is narrow."""
        wide = self.logical_width
        edges = [0.0, wide - 470, wide - 374, wide - 214, wide - 148, wide - 12]
        if wide < 700:
            edges = [0.0, wide - 250, wide - 160, wide - 10, wide - 10, wide - 10]
        return list(pairwise(edges))

    def _paint_row(self, p: QPainter, box: QRectF, nth: int, made: Made) -> None:
        theme = self.look.theme
        picked = nth == self._model.row
        if picked:
            p.fillRect(box.adjusted(1, 1, -1, -1), theme.now_tint)
        if nth:
            p.setPen(flat_pen(theme.hair, 1.4))
            p.drawLine(box.topLeft(), box.topRight())
        at = QPointF(box.left() + 20, box.center().y())
        p.setPen(flat_pen(theme.ink, 2))
        p.setBrush(theme.sheet)
        p.drawEllipse(at, 9, 9)
        if picked:
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.ink)
            p.drawEllipse(at, 5, 5)
        words, move, bar, lines, events = self._columns()
        half = box.height() / 2
        told = QRectF(42, box.top() + 4, words[1] - 50, half)
        title = capital(made.words)
        draw_text(p, told, title, LABEL, theme.ink, Weight.STRONG)
        draw_one_of(p, told.translated(0, half - 4), (made.needs,), NOTE, theme.ink2)
        cell = QRectF(move[0], box.top(), move[1] - move[0], box.height())
        gives = f"{made.option.gives_deg:+.2f}°".replace("-", "−")
        draw_text(p, cell, gives, LABEL + 1, theme.ink, Weight.STRONG, RIGHT)
        self._paint_bar(p, QRectF(bar[0] + 12, box.top(), bar[1] - bar[0] - 24, box.height()), made)
        if lines[1] > lines[0]:
            self._paint_made(p, box, lines, events, made)

    def _paint_bar(self, p: QPainter, box: QRectF, made: Made) -> None:
        """The error left, from the card's place in the middle."""
        theme, error = self.look.theme, made.option.error_deg
        middle = QPointF(box.center().x(), box.center().y() + 6)
        p.setPen(flat_pen(theme.hair, 2))
        p.drawLine(QPointF(box.left(), middle.y()), QPointF(box.right(), middle.y()))
        reach = max(-1.0, min(error, 1.0)) * box.width() / 2
        bar = QRectF(middle.x(), middle.y() - 6, reach, 12).normalized()
        p.fillRect(bar, theme.ink)
        p.setPen(flat_pen(theme.ink, 2))
        p.drawLine(middle - QPointF(0, 11), middle + QPointF(0, 11))
        words = f"{error:+.2f}".replace("-", "−")
        side = QRectF(middle.x() - 64, box.top() + 2, 60, 20)
        if error < 0:
            side = QRectF(middle.x() + 6, box.top() + 2, 60, 20)
            draw_text(p, side, words, NOTE, theme.ink, Weight.LABEL)
        else:
            draw_text(p, side, words, NOTE, theme.ink, Weight.LABEL, RIGHT)

    def _paint_made(
        self,
        p: QPainter,
        box: QRectF,
        lines: tuple[float, float],
        events: tuple[float, float],
        made: Made,
    ) -> None:
        theme = self.look.theme
        half = box.height() / 2 - 4
        for nth, value in enumerate((made.icl_deg, made.ecl_deg)):
            if value is not None:
                cell = QRectF(lines[0], box.top() + 4 + nth * half, lines[1] - lines[0], half)
                draw_text(p, cell, f"{value:.1f}", NOTE + 1, theme.ink, Weight.LABEL, RIGHT)
        if made.events is not None:
            for nth, words in enumerate(event_words(made.events)):
                cell = QRectF(events[0], box.top() + 4 + nth * half, events[1] - events[0], half)
                draw_text(p, cell, words, NOTE + 1, theme.ink, Weight.BODY, RIGHT)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Pick the row that was pressed."""
        if event is not None:
            y = event.position().y() / self.look.scale - 78
            if y >= 0:
                self._model.choose(int(y // self.row_high))

    def step(self, by: int) -> None:
        """Pick another row."""
        self._model.choose(self._model.row + by)


def event_words(events: Events) -> tuple[str, str]:
    """`I 11.7 / 46.3` and `E 49.8 / 10.2`."""
    told = (
        f"I {events.ivo_deg:.1f} / {events.ivc_deg:.1f}",
        f"E {events.evo_deg:.1f} / {events.evc_deg:.1f}",
    )
    return told[0].replace("-", "−"), told[1].replace("-", "−")
