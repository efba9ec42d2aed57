"""Leads: a row a post, the map, and what each wrong one sparks into."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.ignition.leads_map import LeadsMap
from true_compass.app.workspaces.ignition.model import IgnitionModel
from true_compass.app.workspaces.ignition.picked_rows import PickedRows
from true_compass.app.workspaces.ignition.sparks_view import SparksView
from true_compass.core.ignition.leads import Pattern, below_headline, headline, move_words
from true_compass.drawing.codes import flat_pen, paint_cross, paint_tick, rounded
from true_compass.drawing.text import CENTRE, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight

LEFT_WIDE: Final = 330.0
RIGHT_WIDE: Final = 290.0
GAP: Final = 24.0
MOST_ROW: Final = 42.0


class RowsView(PickedRows):
    """A row a post: the cylinder it is for, the plug its lead is on, right or wrong."""

    head_high = 24.0
    called = ("lead_rows", "Posts and their leads")

    @property
    def row_count(self) -> int:
        """One row a post."""
        return self._model.engine.cylinder_count

    @property
    def row_high(self) -> float:
        """As high as there is room."""
        return min((self.logical_height - self.head_high) / self.row_count, MOST_ROW)

    def act(self, nth: int) -> None:
        """Pick the post of a row."""
        self._model.pick(nth + 1)

    def paint(self, p: QPainter) -> None:
        """Headings, then the rows."""
        theme = self.look.theme
        for x, width, words in (
            (0.0, 60.0, "post"),
            (84.0, 60.0, "due"),
            (172.0, 110.0, "lead goes to"),
        ):
            draw_text(p, QRectF(x, 0, width, 20), words, NOTE, theme.ink2, align=CENTRE)
        for nth in range(self.row_count):
            self._paint_row(p, self.row_box(nth), nth + 1)
        self.paint_picked(p)

    def _paint_row(self, p: QPainter, box: QRectF, post: int) -> None:
        model, theme = self._model, self.look.theme
        hidden = model.unaided
        own, on = model.order[post - 1], model.standing.wired[post - 1]
        wrong = model.wrong_at(post) is not None and not hidden
        picked = post == model.post
        if picked:
            p.fillRect(box, theme.now_tint)
            p.fillRect(QRectF(box.left(), box.top(), 4, box.height()), theme.now)
        middle, half = box.center().y(), min(box.height() * 0.42, 15.0)
        draw_text(
            p, QRectF(0, box.top(), 60, box.height()), str(post), BODY, theme.ink2, align=CENTRE
        )
        square = QRectF(114 - half, middle - half, 2 * half, 2 * half)
        disc = QPointF(226, middle)
        colour = theme.now if picked else theme.ink if wrong else theme.metal_dk
        if on:
            p.setPen(flat_pen(colour, 4.0 if wrong or picked else 1.8))
            p.drawLine(QPointF(square.right() + 4, middle), QPointF(disc.x() - half - 4, middle))
        edge = flat_pen(theme.ink if wrong else theme.line, 3.2 if wrong else 1.6)
        rounded(p, square, 4, theme.sheet, edge)
        size = min(BODY, half * 1.25)
        name = str(own) if not hidden or own == 1 else "?"
        draw_text(p, square, name, size, theme.ink, Weight.STRONG, CENTRE)
        p.setBrush(theme.sheet)
        p.setPen(flat_pen(theme.ink if on else theme.line, 3.2 if wrong else 1.8))
        p.drawEllipse(disc, half, half)
        circle = QRectF(disc.x() - half, middle - half, 2 * half, 2 * half)
        draw_text(p, circle, str(on) if on else "–", size, theme.ink, Weight.STRONG, CENTRE)
        if not hidden:
            self._paint_verdict(p, QPointF(292, middle), wrong=wrong, off=not on)
        p.setPen(flat_pen(theme.hair, 1))
        p.drawLine(box.bottomLeft(), box.bottomRight())

    def _paint_verdict(self, p: QPainter, at: QPointF, *, wrong: bool, off: bool) -> None:
        theme = self.look.theme
        if wrong:
            paint_cross(p, at, 7, flat_pen(theme.ink, 3))
        elif off:
            draw_text(
                p, QRectF(at.x() - 20, at.y() - 10, 40, 20), "off", NOTE, theme.ink2, align=CENTRE
            )
        else:
            paint_tick(p, at, 14, theme.ink)


class LeadsView(PageView):
    """The whole page."""

    def __init__(self, look: Look, model: IgnitionModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setAccessibleName("Leads from cap to plugs")
        self.rows = RowsView(look, model, self)
        self.map = LeadsMap(look, model, self)
        self.sparks = SparksView(look, model, self)
        self.move_it = DrawnButton(look, "Move it", self)
        self.move_it.setObjectName("move_lead")
        self.move_it.clicked.connect(model.move_next)
        self.off = DrawnButton(look, "Take all off", self)
        self.off.setObjectName("take_all_off")
        self.off.clicked.connect(self._off_or_on)
        self.hide_answer = DrawnButton(look, "Hide the answer", self)
        self.hide_answer.setObjectName("hide_answer")
        self.hide_answer.clicked.connect(self._hide)
        model.changed.connect(self.refresh)

    def _off_or_on(self) -> None:
        if any(self._model.standing.wired):
            self._model.take_all_off()
        else:
            self._model.wire_all()

    def _hide(self) -> None:
        self._model.answer_hidden = not self._model.answer_hidden
        self._model.changed.emit()

    def show_state(self) -> None:
        """What the buttons do now."""
        model = self._model
        result = model.standing.judged
        move = model.next_move()
        self.move_it.setVisible(move is not None and not model.unaided)
        if move is not None:
            pair = result.meaning.pair
            if result.meaning.pattern is Pattern.SWAPPED:
                words = f"Change {pair[0]} and {pair[1]} over"
            else:
                words = f"Put the lead of post {move[0]} on plug {move[1]}"
            self.move_it.set_words(
                words, "Return: one drag does both" if len(result.wrong) > 1 else "Return"
            )
        self.off.setText("Take all off" if any(model.standing.wired) else "Wire all")
        hides = model.standing.hides
        shown = "Show the answer" if model.unaided else "Hide the answer"
        self.hide_answer.setText("Say it on Signs" if hides else shown)
        self.hide_answer.setEnabled(not hides)
        self.arrange()
        self.update()

    def arrange(self) -> None:
        """Rows and keys at the left, the map, the sparks at the right."""
        put, wide, high = self.look.scaled, self.logical_width, self.logical_height
        roomy = wide >= 1060
        right = RIGHT_WIDE if roomy else 0.0
        lines = self._lines()
        foot = 40.0 + 52.0 + 18.0 + (34.0 + 24.0 * len(lines))
        count = self._model.engine.cylinder_count
        rows = min(high - foot - 12, 24 + MOST_ROW * count)
        self.rows.setGeometry(put(0, 0, LEFT_WIDE, rows))
        y = high - 42
        half = (LEFT_WIDE - 8) / 2
        self.off.setGeometry(put(0, y, half, 40))
        self.hide_answer.setGeometry(put(half + 8, y, half, 40))
        self.move_it.setGeometry(put(0, y - 58, LEFT_WIDE, 52))
        left = LEFT_WIDE + GAP
        middle = wide - left - (right + GAP if right else 0)
        self.map.setGeometry(put(left, 66, middle, high - 70))
        self.sparks.setVisible(bool(right))
        self.sparks.setGeometry(put(wide - right, 0, right, high))

    def _lines(self) -> list[str]:
        """The fewest moves, in words; more than three are a pattern."""
        result = self._model.standing.judged
        if self._model.unaided or not result.wrong or len(result.wrong) > 3:
            return []
        return [move_words(lead) for lead in result.wrong]

    def paint(self, p: QPainter) -> None:
        """Headline over the map, the moves below the rows."""
        model, theme, wide = self._model, self.look.theme, self.logical_width
        result = model.standing.judged
        left = LEFT_WIDE + GAP
        right = wide - (RIGHT_WIDE + GAP if self.sparks.isVisible() else 0)
        hidden = model.unaided
        head = "Wire the cap: which plug goes on which post?" if hidden else headline(result)
        if model.standing.hides:
            head = "Which plug is on which post?"
        below = below_headline(model.engine, result)
        if hidden:
            below = "Only the post of 1 is named. Up and Down pick a post, digits its plug."
        drag = "Drag a plug end onto another plug: both leads change."
        draw_text(p, QRectF(left, 0, right - left, 36), head, HEAD, theme.ink, Weight.STRONG)
        lines_below = (f"{below} {drag}", drag)
        draw_one_of(p, QRectF(left, 36, right - left, 24), lines_below, BODY, theme.ink2)
        lines = self._lines()
        top = self.rows.geometry().bottom() / self.look.scale + 12
        if not hidden and result.moves:
            count = model.engine.cylinder_count
            words = f"Fewest to move: {result.moves} of {count}"
            draw_text(p, QRectF(0, top, LEFT_WIDE, 26), words, LEAD, theme.ink, Weight.STRONG)
            for nth, line in enumerate(lines):
                box = QRectF(0, top + 30 + 24 * nth, LEFT_WIDE, 24)
                draw_text(p, box, line, LABEL, theme.ink)
