"""What a hand felt, drawn: thumb, rockers, line, wheel, dial, marks, rotor, blade. No angle known.

Each is drawn from an action and its answer alone, into a box of about 200 × 60.
"""

import math
from collections.abc import Callable, Sequence
from typing import Any, Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.dials import crank_direction
from true_compass.drawing.text import CENTRE, draw_text
from true_compass.drawing.theme import NOTE, Theme, Weight

Answer = dict[str, Any]
LINE_SPAN_MM: Final = 20.0
RIM_SPAN_MM: Final = 24.0
WHEEL_SPAN_DEG: Final = 30.0


class Instruments:
    """Draws instruments in a theme. `posts` are the leads at the cap's posts, in running order."""

    def __init__(self, theme: Theme, posts: Sequence[int] = (), sense: int = 1) -> None:
        self.theme = theme
        self.posts = tuple(posts)
        self.sense = sense

    def paint(self, p: QPainter, box: QRectF, actions: Sequence[tuple[Answer, Answer]]) -> bool:
        """Draw one reading, or both rockers of a cylinder; whether there was a drawing for it."""
        action, answer = actions[0]
        draw = _DRAWN.get(action["do"])
        if action["do"] == "look":
            draw = _LOOKED.get(action["at"])
        if draw is None:
            return False
        if action["do"] == "wiggle":
            self._rockers(p, box, actions)
        else:
            draw(self, p, box, action, answer)
        return True

    def _rockers(self, p: QPainter, box: QRectF, actions: Sequence[tuple[Answer, Answer]]) -> None:
        """A nose for each, with arrows where it clicks and a bar where it does not."""
        theme = self.theme
        each = min(box.width() / max(len(actions), 1), 96.0)
        ordered = sorted(actions, key=lambda pair: pair[0]["item"][0] != "I")
        for nth, (action, answer) in enumerate(ordered):
            left = box.left() + nth * each
            nose = QRectF(left, box.center().y() - 14, min(56.0, each - 18), 28)
            intake = action["item"].startswith("I")
            fill = theme.sheet if intake else theme.ink
            rounded(p, nose, 12 if intake else 2, fill, flat_pen(theme.ink, 2.2))
            colour = theme.ink if intake else theme.on_ink
            draw_text(p, nose, action["item"], NOTE + 1, colour, Weight.STRONG, CENTRE)
            at = QPointF(nose.right() + min(12.0, each - nose.width() - 9), nose.center().y())
            self._play(p, at, str(answer["play"]))

    def _play(self, p: QPainter, at: QPointF, play: str) -> None:
        """Arrows up and down for play, small for little; a bar for none."""
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.ink)
        if play == "tight":
            p.drawRect(QRectF(at.x() - 7, at.y() - 2, 14, 4))
            return
        size = 8.0 if play == "loose" else 4.0
        for sign in (-1.0, 1.0):
            tip = at + QPointF(0, sign * (size + 5))
            p.drawPolygon(
                QPolygonF(
                    [tip, tip + QPointF(-size, -sign * size), tip + QPointF(size, -sign * size)]
                )
            )

    def _thumb(self, p: QPainter, box: QRectF, _action: Answer, answer: Answer) -> None:
        """A hole, and a thumb on it or pushed off it."""
        theme, y = self.theme, box.center().y()
        p.setPen(flat_pen(theme.ink, 1.6))
        p.setBrush(theme.ink)
        p.drawEllipse(QPointF(box.left() + 24, y), 20, 20)
        away = 34.0 if answer["push"] else 8.0
        thumb = QRectF(box.left() + 24 + away, y - 15, 90, 30)
        rounded(p, thumb, 14, theme.metal, flat_pen(theme.ink, 2.0))
        if answer["push"]:
            p.setPen(flat_pen(theme.on_ink, 4))
            p.drawLine(QPointF(box.left() + 14, y), QPointF(box.left() + 32, y))

    def _line(self, p: QPainter, box: QRectF, _action: Answer, answer: Answer) -> None:
        """The tape against a scale whose figures say nothing."""
        theme = self.theme
        scale = QRectF(box.left() + 26, box.top(), 22, box.height())
        rounded(p, scale, 2, theme.sheet, flat_pen(theme.ink2, 1.4))
        p.setPen(flat_pen(theme.ink, 1.2))
        for nth in range(1, 10):
            y = scale.bottom() - nth * scale.height() / 10
            p.drawLine(QPointF(scale.left(), y), QPointF(scale.left() + (14 if nth == 5 else 8), y))
        share = (answer["mm"] % LINE_SPAN_MM) / LINE_SPAN_MM
        y = scale.bottom() - share * scale.height()
        p.setPen(flat_pen(theme.now, 5))
        p.drawLine(QPointF(box.left() + 10, box.bottom()), QPointF(box.left() + 10, y))
        p.drawLine(QPointF(box.left() + 2, y), QPointF(scale.left(), y))

    def _wheel(self, p: QPainter, box: QRectF, _action: Answer, answer: Answer) -> None:
        """The wheel's graduations below its pointer."""
        theme = self.theme
        rim = QRectF(box.left(), box.top() + 20, min(box.width(), 240.0), 34)
        rounded(p, rim, 2, theme.sheet, flat_pen(theme.ink2, 1.4))
        middle = rim.center().x()
        per_deg = rim.width() / WHEEL_SPAN_DEG
        first = math.ceil(answer["deg"] - WHEEL_SPAN_DEG / 2)
        p.setPen(flat_pen(theme.ink, 1.2))
        for deg in range(first, first + int(WHEEL_SPAN_DEG)):
            x = middle + (deg - answer["deg"]) * per_deg
            long = deg % 5 == 0
            p.drawLine(QPointF(x, rim.top()), QPointF(x, rim.top() + (12 if long else 6)))
            if deg % 10 == 0 and rim.left() + 14 < x < rim.right() - 14:
                figure = QRectF(x - 20, rim.top() + 12, 40, 20)
                draw_text(p, figure, str(deg % 360), NOTE, theme.ink, Weight.LABEL, CENTRE)
                p.setPen(flat_pen(theme.ink, 1.2))
        self._pointer(p, QPointF(middle, rim.top()))

    def _pointer(self, p: QPainter, tip: QPointF) -> None:
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.ink)
        p.drawPolygon(QPolygonF([tip, tip + QPointF(-8, -14), tip + QPointF(8, -14)]))

    def _marks(self, p: QPainter, box: QRectF, _action: Answer, answer: Answer) -> None:
        """The rim at the pointer, with each mark where it stands; past is on from the pointer."""
        theme = self.theme
        rim = QRectF(box.left(), box.top() + 20, min(box.width(), 240.0), 34)
        p.setPen(flat_pen(theme.ink2, 1.6))
        p.drawLine(rim.topLeft(), rim.topRight())
        p.drawLine(rim.bottomLeft(), rim.bottomRight())
        middle = rim.center().x()
        labels: dict[int, list[str]] = {}
        for one in answer["in_sight"][:3]:
            x = middle + self.sense * one["mm"] / RIM_SPAN_MM * rim.width() / 2
            x = min(max(x, rim.left() + 4), rim.right() - 4)
            p.setPen(flat_pen(theme.ink, 3.2))
            p.drawLine(QPointF(x, rim.top()), QPointF(x, rim.bottom()))
            # Lines of two wheels that stand at one place share their label.
            labels.setdefault(round(x / 6), []).append(one["stamped"] or one["colour"])
        for place, stamps in labels.items():
            label = QRectF(place * 6 + 6, rim.top() + 7, 90, 20)
            draw_text(p, label, ", ".join(stamps), NOTE, theme.ink, Weight.STRONG)
        self._pointer(p, QPointF(middle, rim.top()))

    def _rotor(self, p: QPainter, box: QRectF, _action: Answer, answer: Answer) -> None:
        """The cap's posts by their leads, and the rotor at one or between two of them."""
        theme, reach = self.theme, min(box.height() / 2, 34.0)
        middle = QPointF(box.left() + reach + 16, box.center().y())
        p.setPen(flat_pen(theme.line, 1.4))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawEllipse(middle, reach, reach)
        posts = self.posts
        if not posts:
            return
        names = [answer["post"]] if answer["post"] else answer["between"]
        places = [posts.index(name) for name in names if name in posts]
        if not places:
            return
        at = places[0] if len(places) == 1 else places[0] + 0.5
        way = crank_direction(self.sense * 360.0 * at / len(posts), 1)
        p.setPen(flat_pen(theme.ink, 6))
        p.drawLine(middle - way * 6, middle + way * (reach * 0.7))
        if len(posts) > 9:
            return
        for nth, name in enumerate(posts):
            spot = middle + crank_direction(self.sense * 360.0 * nth / len(posts), 1) * reach
            plate = QRectF(spot.x() - 8, spot.y() - 8, 16, 16)
            rounded(p, plate, 3, theme.sheet, flat_pen(theme.ink, 1.2))
            draw_text(p, plate, str(name), NOTE - 2, theme.ink, Weight.STRONG, CENTRE)

    def _dial(self, p: QPainter, box: QRectF, _action: Answer, answer: Answer) -> None:
        """A dial whose hand makes one turn a mm, with its turns counted beside it."""
        theme, reach = self.theme, min(box.height() / 2, 32.0)
        middle = QPointF(box.left() + reach + 4, box.center().y())
        p.setPen(flat_pen(theme.ink, 2.0))
        p.setBrush(theme.sheet)
        p.drawEllipse(middle, reach, reach)
        p.setPen(flat_pen(theme.ink2, 1.2))
        for nth in range(20):
            out = crank_direction(18.0 * nth, 1)
            p.drawLine(middle + out * (reach - (7 if nth % 5 == 0 else 4)), middle + out * reach)
        p.setPen(flat_pen(theme.now, 3))
        p.drawLine(middle, middle + crank_direction(360.0 * answer["mm"], 1) * (reach - 6))
        words = QRectF(middle.x() + reach + 10, box.center().y() - 11, 120, 22)
        draw_text(p, words, f"{answer['turns']} whole turns", NOTE, theme.ink2)

    def _blade(self, p: QPainter, box: QRectF, action: Answer, answer: Answer) -> None:
        """A blade between two faces: with room, in touch, or stopped before them."""
        theme, y = self.theme, box.center().y()
        thick = min(4 + action["blade_mm"] * 14, 18.0)
        rooms = {"loose": 7.0, "light drag": 2.0, "firm": 0.0, "will not go": 0.0}
        room = rooms.get(answer["feel"], 0.0)
        gap = thick + room if answer["feel"] != "will not go" else thick * 0.5
        for top in (y - gap / 2 - 12, y + gap / 2):
            rounded(
                p, QRectF(box.left() + 10, top, 60, 12), 1, theme.metal, flat_pen(theme.ink2, 1.2)
            )
        left = box.left() + (4 if answer["feel"] != "will not go" else 74)
        rounded(p, QRectF(left, y - thick / 2, 110, thick), 1, theme.now, None)

    def _spin(self, p: QPainter, box: QRectF, _action: Answer, answer: Answer) -> None:
        """A rod between two fingers: it goes round, or not."""
        theme, y = self.theme, box.center().y()
        x = box.left() + 60
        lean = 5.0 if answer["runs"] != "true" else 0.0
        p.setPen(flat_pen(theme.ink, 9))
        p.drawPolyline(
            QPolygonF([QPointF(x, box.top()), QPointF(x + lean, y), QPointF(x, box.bottom())])
        )
        for side in (-1.0, 1.0):
            finger = QRectF(x + side * 34 - 28, y - 10, 56, 20)
            rounded(p, finger, 10, theme.metal, flat_pen(theme.ink, 1.8))


Draw = Callable[[Instruments, QPainter, QRectF, Answer, Answer], None]
_DRAWN: Final[dict[str, Draw]] = {
    "thumb": Instruments._thumb,
    "wiggle": lambda *_args: None,
    "line": Instruments._line,
    "wheel": Instruments._wheel,
    "read": Instruments._dial,
    "feeler": Instruments._blade,
    "spin": Instruments._spin,
}
_LOOKED: Final[dict[str, Draw]] = {"marks": Instruments._marks, "rotor": Instruments._rotor}
