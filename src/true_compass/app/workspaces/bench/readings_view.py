"""What was felt and seen, one card a reading, the newest first; an old one says so."""

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.bench.model import BenchModel
from true_compass.app.workspaces.bench.told import Card, cards
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.covered import paint_tag
from true_compass.drawing.instruments import Instruments
from true_compass.drawing.text import draw_one_of, draw_paragraph_that_fits, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Weight

GAP = 9.0
LEAST = 190.0


class ReadingsView(Painted):
    """Up to four cards side by side, or one below the other where the view is tall."""

    def __init__(self, look: Look, model: BenchModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("readings")
        self.setAccessibleName("What you felt and saw")
        model.changed.connect(self.update)

    def _boxes(self) -> list[QRectF]:
        width, height = self.logical_width, self.logical_height
        if height > width:
            count = max(min(int(height / 190), 4), 1)
            each = (height - GAP * (count - 1)) / count
            return [QRectF(0, n * (each + GAP), width, each) for n in range(count)]
        count = max(min(int(width / LEAST), 4), 1)
        each = (width - GAP * (count - 1)) / count
        return [QRectF(n * (each + GAP), 0, each, height) for n in range(count)]

    def paint(self, p: QPainter) -> None:
        """Draw the cards; before the first reading, what to do."""
        bench = self._model.bench
        if bench is None:
            return
        boxes = self._boxes()
        if not bench.readings:
            self._paint_first(p, boxes)
            return
        for box, card in zip(boxes, cards(bench, self._model.hides), strict=False):
            self._paint_card(p, box, card)

    def _paint_card(self, p: QPainter, box: QRectF, card: Card) -> None:
        theme, one, live = self.look.theme, card.told, card.live
        edge = flat_pen(theme.now, 2.2) if live else flat_pen(theme.hair, 1.6)
        rounded(p, box, 6, theme.now_tint if live else theme.sheet, edge)
        left = box.left() + 14
        if one.letter:
            tag = QRectF(left, box.top() + 10, 24, 24)
            paint_tag(p, tag, one.letter, theme, "now" if live else "")
            left += 34
        head = QRectF(left, box.top() + 10, box.right() - left - 8, 24)
        draw_text(p, head, one.of, LABEL, theme.ink2, Weight.BODY)
        low = box.height() < 110
        room = box.adjusted(14, 36, -10, -4) if low else box.adjusted(14, 42, -10, -34)
        drawn = not low and self._paint_drawn(p, room, card)
        if drawn:
            room = QRectF(room.left(), room.bottom() - 40, room.width(), 38)
        if len(one.answer) < 22 or drawn:
            draw_text(p, room, one.answer, HEAD, theme.ink, Weight.STRONG)
        else:
            draw_paragraph_that_fits(p, room, one.answer, LABEL + 2, theme.ink)
        if low:
            return
        foot = QRectF(box.left() + 14, box.bottom() - 30, box.width() - 24, 22)
        fine = (one.fine,) if live else (f"felt earlier; {one.fine}", "felt earlier")
        draw_one_of(p, foot, fine, NOTE, theme.ink2)

    def _paint_drawn(self, p: QPainter, room: QRectF, card: Card) -> bool:
        """What was felt, drawn above the words, where there is room; whether there is a drawing."""
        high = room.height() - 44
        if high < 44 or not card.drawn:
            return False
        work = self._model.begun.run.work
        posts = work.leads() if work.engine.has_rotor else ()
        rotor = work.engine.rotor_turns.sense
        crank = 1 if work.engine.clockwise_from_front else -1
        sense = crank if card.drawn[0].action.get("at") == "marks" else rotor
        box = QRectF(room.left(), room.top(), room.width(), min(high, 72.0))
        actions = [(reading.action, reading.answer) for reading in card.drawn]
        return Instruments(self.look.theme, posts, sense).paint(p, box, actions)

    def _paint_first(self, p: QPainter, boxes: list[QRectF]) -> None:
        theme = self.look.theme
        for box, (head, body) in zip(boxes, _FIRST, strict=False):
            rounded(p, box, 6, theme.sheet, flat_pen(theme.hair, 1.6))
            title = QRectF(box.left() + 14, box.top() + 10, box.width() - 24, 28)
            draw_text(p, title, head, LABEL + 2, theme.ink, Weight.STRONG)
            if box.height() < 110:
                continue
            room = box.adjusted(14, 44, -12, -8)
            draw_paragraph_that_fits(p, room, body, BODY, theme.ink2)


_FIRST = (
    ("1  Open it up", "Take off what hides what you want to see: cover, cap, plugs."),
    ("2  Take a tool", "Then press where it goes. Its letter shows where it is."),
    ("3  Turn and read", "What you see and feel stands here, in words. Nothing else tells."),
    ("4  Say it", "When you are sure, say what you found. Then the engine is uncovered."),
)
