"""Where am I? Tick what is seen, and read where the crank can stand, and what to look at next."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QWidget

from true_compass.app.bridge import Bridge
from true_compass.app.widgets.look import Look, Painted
from true_compass.core.evidence.where import Look as Sign
from true_compass.core.evidence.where import Places, Seen
from true_compass.core.state import Rig
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.ring import OUTER, free_arcs, lap_direction, paint_frame, sense_of
from true_compass.drawing.text import CENTRE, RIGHT, draw_centred, draw_paragraph, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight
from true_compass.session.session import Session

HEADS: Final = {
    Sign.LOOSE: "loose",
    Sign.TIGHT: "tight",
    Sign.OPENING: "opens",
    Sign.CLOSING: "closes",
}
TITLES: Final = {
    Sign.MARK: "mark in line",
    Sign.DOTS: "gear dots",
    Sign.ROCKING: "valves rock",
    Sign.STILL: "piston at its top",
    Sign.PRESSURE: "thumb: pressure",
    Sign.ROTOR: "rotor at post",
}
EXCLUDED: Final = {
    Sign.LOOSE: (Sign.TIGHT, Sign.OPENING, Sign.CLOSING),
    Sign.TIGHT: (Sign.LOOSE,),
    Sign.OPENING: (Sign.LOOSE, Sign.CLOSING),
    Sign.CLOSING: (Sign.LOOSE, Sign.OPENING),
}
"""What one sign of a valve takes back: a person sees only one of them."""
_WAYS: Final = {
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Down: (0, 1),
    Qt.Key.Key_Up: (0, -1),
}
KNOWN_DEG: Final = 20.0
"""A longer stretch is no place to begin a plan from."""
NARROW_HEAD: Final = 52.0
LOW: Final = 480.0
LEAST_ROW: Final = 23.0
LEAST_CELL: Final = 38.0
LONGEST: Final = max(map(len, HEADS.values()))
LEFT_SIDE: Final = 440.0


class WhereView(Painted):
    """A ring of what is left at the left, everything that can be seen at the right."""

    changed = pyqtSignal()
    """Something else is seen."""

    def __init__(self, session: Session, bridge: Bridge, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._session = session
        self.seen: list[Seen] = []
        self._rig: Rig | None = None
        self._places: Places | None = None
        self._boxes: list[tuple[QRectF, Seen]] = []
        self._cursor: Seen | None = None
        self._below = 118.0
        self.setObjectName("where")
        self.setAccessibleName("Where am I?")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        bridge.engine_changed.connect(self.clear)
        bridge.tried.connect(self.update)

    def clear(self) -> None:
        """Nothing has been seen."""
        self.seen.clear()
        self._on_seen()

    def _on_seen(self) -> None:
        self.update()
        self.changed.emit()

    def only_place_deg(self) -> tuple[float, float] | None:
        """The middle and half the length of what is left, if that is one place and known well."""
        # Without signs the places are not worked out: this is asked at every edit of the engine.
        arcs = self._arcs() if self.seen else []
        if len(arcs) != 1 or arcs[0][1] > KNOWN_DEG:
            return None
        start, length = arcs[0]
        return round(start + length / 2) % 720.0, length / 2

    def _arcs(self) -> list[tuple[float, float]]:
        """The stretches that are left by what is seen."""
        left = self.places.left_by(self.seen)
        return self.places.arcs(left) if left.any() else []

    @property
    def places(self) -> Places:
        """Where each sign holds on the open engine."""
        rig = self._session.state.rig
        if self._places is None or self._rig is not rig:
            self._rig, self._places = rig, Places(rig)
        return self._places

    def toggle(self, sign: Seen) -> None:
        """Something is seen, or is not seen after all. A valve is only one of its three."""
        if sign in self.seen:
            self.seen.remove(sign)
        else:
            out = EXCLUDED.get(sign.look, ())
            self.seen = [s for s in self.seen if not (s.look in out and s.name == sign.name)]
            self.seen.append(sign)
        self._on_seen()

    def answer(self) -> tuple[str, str]:
        """What is left, and what to look at next or who the likely fool is."""
        arcs = self._arcs()
        doubt = self.places.doubt(self.seen)
        if doubt is not None:
            return "These signs contradict each other", doubt.words
        pair = self.places.four_loose(self.seen)
        if pair is not None and self.places.proves_nothing(self.seen):
            told = "Wide gaps or a small overlap do this: it need be no mistake. "
            return "All four loose proves nothing yet", told + self.places.four_loose_words(pair)
        total = sum(length for _, length in arcs)
        if not self.seen:
            first = "Tick what you see"
        elif len(arcs) == 1:
            start, length = arcs[0]
            first = f"{start:g}° to {(start + length) % 720:g}°"
        else:
            first = f"{len(arcs)} places left, {total:g}° in all"
        look = self.places.next_look(self.seen)
        if look is None:
            return first, "No look at a valve tells more. Go on to the next mark or dead centre."
        return first, f"Look next: {look[0]} It narrows it to about {look[1]:.0f}°."

    def paint(self, p: QPainter) -> None:
        """Draw ring, answer, and the table of signs."""
        theme = self.look.theme
        left = LEFT_SIDE if self.logical_width > 900 else self.logical_width * 0.42
        first, second = self.answer()
        draw_text(p, QRectF(0, 0, left - 16, 36), first, HEAD, theme.ink, Weight.STRONG)
        # What is asked is never cut: the ring below gives way.
        foot = draw_paragraph(p, QRectF(0, 40, left - 24, 220), second, LABEL, theme.ink)
        self._below = max(foot + 8, 118.0)
        self._ring(p, QPointF(left / 2 - 10, (self._below + self.logical_height - 12) / 2))
        self._table(p, left + 10)

    def _ring(self, p: QPainter, middle: QPointF) -> None:
        theme, rig = self.look.theme, self._session.state.rig
        sense = sense_of(rig.engine)
        room = self.logical_height - self._below - 32
        scale = min(max(room, 60.0) / (2 * OUTER + 40), 1.0)
        p.save()
        p.translate(middle)
        p.scale(scale, scale)
        paint_frame(p, free_arcs(rig), theme, sense)
        pen = QPen(theme.now, 20, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap)
        for start, length in self._arcs() if self.seen else []:
            p.setPen(pen)
            box = QRectF(-124, -124, 248, 248)
            # The ring turns against the frame: what stands at the top is the crank's own angle.
            p.drawArc(
                box,
                round((90 - sense * start / 2) * 16),
                round(-sense * max(length, 2.0) / 2 * 16),
            )
            out = lap_direction(start + length / 2, sense) * 92
            draw_centred(
                p, out, f"{(start + length / 2) % 720:.0f}°", LEAD, theme.ink, Weight.STRONG
            )
        words = "the crank stands here" if self.seen else "anywhere"
        draw_centred(p, QPointF(0, 0), words, BODY, theme.ink2, Weight.LABEL)
        draw_centred(p, QPointF(0, 24), "strokes of cylinder 1", NOTE, theme.ink2)
        p.restore()

    def _table(self, p: QPainter, left: float) -> None:
        """Valves with a box for each thing that can be seen at them; marks and cylinders below."""
        self._boxes = []
        signs = self.places.looks()
        valves = list(self._session.state.engine.valves)
        below = [look for look in TITLES if any(sign.look is look for sign in signs)]
        pitch = 33.0 if self.logical_height > LOW else 27.0
        foot = pitch * len(below) + 14.0
        columns = self._columns(len(valves), self.logical_width - left, foot)
        wide = (self.logical_width - left) / columns
        rows = -(-len(valves) // columns)
        high = min((self.logical_height - 30 - foot) / rows, 40.0)
        each = (wide - 70) / len(HEADS)
        for column in range(columns):
            for place, words in enumerate(HEADS.values()):
                head = QRectF(left + column * wide + 61 + place * each, 2, each, 22)
                ink2 = self.look.theme.ink2
                px = NOTE + 1 if each > NARROW_HEAD else NOTE - 3
                draw_text(p, head, words, px, ink2, Weight.LABEL, CENTRE)
        for number, valve in enumerate(valves):
            x, y = left + (number // rows) * wide, 26 + (number % rows) * high
            name = QRectF(x, y, 54, high)
            draw_text(
                p,
                name,
                valve.name,
                min(LABEL, high * 0.72),
                self.look.theme.ink,
                Weight.STRONG,
                RIGHT,
            )
            for place, look in enumerate(HEADS):
                sign = Seen(look, valve.name)
                if sign in signs:
                    cell = QRectF(x + 64 + place * each, y + 2, each - 6, high - 4)
                    self._box(p, cell, sign, HEADS[look])
        top = self.logical_height - foot + 8
        for line, look in enumerate(below):
            some = [sign for sign in signs if sign.look is look]
            self._line(p, left, top + pitch * line, pitch - 5, TITLES[look], some)

    def _columns(self, valves: int, wide: float, foot: float) -> int:
        """How many columns of valves: more where rows would be too low to read."""
        for columns in (1, 2, 3):
            high = (self.logical_height - 30 - foot) / -(-valves // columns)
            if high >= LEAST_ROW:
                break
        most = max(int(wide // (70 + len(HEADS) * LEAST_CELL)), 1)
        return min(columns, most)

    def _line(
        self, p: QPainter, left: float, y: float, high: float, title: str, signs: list[Seen]
    ) -> None:
        words = QRectF(left, y, 118, high)
        draw_text(p, words, title, NOTE + 1, self.look.theme.ink2, Weight.LABEL)
        each = (self.logical_width - left - 126) / len(signs)
        for place, sign in enumerate(signs):
            cell = QRectF(left + 126 + place * each, y + 1, min(each - 4, 150), high)
            self._box(p, cell, sign, sign.name)

    def _box(self, p: QPainter, cell: QRectF, sign: Seen, words: str) -> None:
        theme, ticked = self.look.theme, sign in self.seen
        fill = theme.ink if ticked else theme.sheet
        rounded(p, cell, 4, fill, flat_pen(theme.line, 1.4))
        colour = theme.on_ink if ticked else theme.ink
        weight = Weight.STRONG if ticked else Weight.BODY
        longest = max(len(words), LONGEST if sign.look in HEADS else 2)
        px = min(NOTE + 1, cell.height() * 0.66, cell.width() / (0.62 * longest))
        draw_text(p, cell, words, max(px, 9.0), colour, weight, CENTRE)
        if sign == self._cursor and self.hasFocus():
            rounded(p, cell.adjusted(-2, -2, 2, 2), 5, None, QPen(theme.now, 3))
        self._boxes.append((cell, sign))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows go from box to box; return and space tick."""
        if event is None:
            return
        key = Qt.Key(event.key())
        if key in _WAYS:
            self._cursor = self._next_box(*_WAYS[key])
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self._cursor:
            self.toggle(self._cursor)
        else:
            event.ignore()

    def _next_box(self, right: int, down: int) -> Seen | None:
        """The box that lies nearest in a direction, or the same one where there is none."""
        here = next((box.center() for box, sign in self._boxes if sign == self._cursor), None)
        if here is None:
            return self._boxes[0][1] if self._boxes else None
        best, least = self._cursor, float("inf")
        for box, sign in self._boxes:
            way = box.center() - here
            along = way.x() * right + way.y() * down
            across = abs(way.x() * down) + abs(way.y() * right)
            if right and across > box.height() / 2:
                continue  # sideways keeps to its row
            if along > 1 and along + 3 * across < least:
                best, least = sign, along + 3 * across
        return best

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Tick what is under the pointer."""
        if event is not None:
            spot = event.position() / self.look.scale
            for cell, sign in self._boxes:
                if cell.contains(spot):
                    self.toggle(sign)
                    return
