"""The plan: one sheet a stop, a row an item with its margin to either side, and a box to tick."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.bridge import Bridge
from true_compass.app.widgets.hints import show_hint
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.stops.model import StopsModel
from true_compass.core.adjusting.stops import Stop, StopItem, whole_degrees
from true_compass.core.adjusting.tasks import task_for
from true_compass.core.evidence.signs import signs_at, there_words
from true_compass.core.items import Item, Part
from true_compass.core.state import engine_state
from true_compass.core.words import at_degrees
from true_compass.drawing.codes import Place, flat_pen, number_disc, paint_tick, rounded
from true_compass.drawing.text import (
    CENTRE,
    RIGHT,
    draw_one_of,
    draw_paragraph,
    draw_text,
    paragraph_height,
)
from true_compass.drawing.text import LEFT as AT_LEFT
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight
from true_compass.session.work import LEFT, OFF, OFF_HEEL, SET, SKIPPED

GAP: Final = 18.0
TWO: Final = 560.0
TWO_WITH_PARTS: Final = 760.0
"""Least width for two sheets side by side."""
HEAD_ROOM: Final = 118.0
ROW_MOST: Final = 72.0
ROW_LEAST: Final = 26.0
BAR_LEAST: Final = 42.0
"""Least height of a row for a bar below its figures."""
REACH_DEG: Final = 360.0
THIN_DEG: Final = 30.0


class SheetsView(Painted):
    """Two sheets side by side: the stop that is worked at, and the one after it."""

    def __init__(self, model: StopsModel, bridge: Bridge, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self._boxes: list[tuple[QRectF, int, StopItem | None]] = []
        """Row, stop and item of what can be ticked; None is the quarter of a sweep."""
        self._ticks: list[tuple[QRectF, int, Item]] = []
        """Box, stop and adjuster: one box each where an item has several."""
        self._cards: list[tuple[QRectF, int]] = []
        """The sheets themselves: a press on one goes to its stop."""
        self._number = 0
        self._first: dict[int, int] = {}
        """The first row in sight of a stop with more items than there is room for."""
        self.only_one = False
        """Whether only the stop that is worked at is shown."""
        self.setObjectName("sheets")
        self.setAccessibleName("Stops and the items due at each")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        model.changed.connect(self._follow)
        bridge.turned.connect(self.update)

    def _follow(self) -> None:
        self._first.clear()
        self.update()

    def shown(self) -> list[tuple[int, Stop]]:
        """Number and stop of the sheets that are shown."""
        plan = self._model.plan
        if plan is None:
            return []
        # A row that says which part of a rocker it is needs more room.
        parts = any(due.item.part is not Part.WHOLE for due in plan.items)
        two = self.logical_width > (TWO_WITH_PARTS if parts else TWO)
        count = 2 if two and not self.only_one else 1
        stops = self._model.round.stops or plan.stops
        first = min(self._model.place, max(len(stops) - count, 0))
        return list(enumerate(stops))[first : first + count]

    def paint(self, p: QPainter) -> None:
        """Draw the sheets, or why there are none."""
        theme, width = self.look.theme, self.logical_width
        self._boxes, self._ticks, self._cards = [], [], []
        row = self._model.row
        if row.plan is None:
            high = 64 + paragraph_height(row.reason, LABEL, width - 40)
            box = QRectF(0, 0, width, max(high, 120.0))
            rounded(p, box, 6, theme.sheet, flat_pen(theme.line, 1.6))
            head = QRectF(20, 12, width - 40, 34)
            words = "Engine running, no stops" if row.without_stops else "Not for this engine"
            draw_text(p, head, words, HEAD, theme.ink, Weight.STRONG)
            told = QRectF(20, 52, width - 40, box.height())
            draw_paragraph(p, told, row.reason, LABEL, theme.ink)
            return
        shown = self.shown()
        wide = (width - GAP * (len(shown) - 1)) / max(len(shown), 1)
        for place, (number, stop) in enumerate(shown):
            card = QRectF(place * (wide + GAP), 0, wide, self.logical_height)
            self._cards.append((card, number))
            self._sheet(p, card, number, stop)

    def _sheet(self, p: QPainter, box: QRectF, number: int, stop: Stop) -> None:
        theme, here = self.look.theme, number == self._model.place
        self._number = number
        edge = flat_pen(theme.ink, 2.4) if here else flat_pen(theme.hair, 1.6)
        rounded(p, box.adjusted(1, 1, -1, -1), 6, theme.sheet, edge)
        plan = self._model.plan
        total = len(plan.stops) if plan else 0
        title = QRectF(box.left() + 18, box.top() + 8, box.width() - 36, 36)
        if plan is not None and plan.swept:
            self._sweep_sheet(p, box, title, number, stop)
            return
        thing = self._model.thing
        used = draw_text(p, title, f"{thing} {number + 1}", HEAD, theme.ink, Weight.STRONG)
        of = QRectF(title.left() + used + 8, title.top() + 4, 60, 30)
        draw_text(p, of, f"of {total}", BODY, theme.ink2)
        at = f"at {at_degrees(stop.crank_deg)}"
        draw_text(p, title, at, HEAD, theme.ink, Weight.STRONG, RIGHT)
        self._signs(p, box, stop)
        top = box.top() + HEAD_ROOM
        names = QRectF(box.left() + 18, top - 22, box.width() - 36, 20)
        middle = self._middle(box)
        back = QRectF(middle - 110, names.top(), 96, 20)
        draw_text(p, back, "free back", NOTE, theme.ink2, align=RIGHT)
        draw_text(p, QRectF(middle + 14, names.top(), 96, 20), "free on", NOTE, theme.ink2)
        unit = self._model.rig.engine.gap_unit.value
        words = "set to" if self._model.rig.engine.train.hydraulic else f"set to, {unit}"
        draw_text(p, names.adjusted(0, 0, -46, 0), words, NOTE, theme.ink2, align=RIGHT)
        room = box.bottom() - 12 - top
        items = self._in_sight(number, stop, room)
        in_all, first = len(stop.items), stop.items.index(items[0]) + 1 if items else 0
        hidden = f"{first}–{first + len(items) - 1} of {in_all}"
        draw_text(p, names, hidden if len(items) < in_all else "item", NOTE, theme.ink2)
        high = min(room / max(len(items), 1), ROW_MOST)
        colour = theme.now if here else theme.metal_dk
        for place, item in enumerate(items):
            row = QRectF(box.left() + 4, top + place * high, box.width() - 8, high)
            self._row(p, row, item, middle, here)
            self._boxes.append((row, number, item))
        self._scroll_bar(p, box, top, in_all, first, len(items))
        p.setPen(flat_pen(colour, 3))
        for place, item in enumerate(items):
            if item.margin_deg >= 0:  # words stand there where it is not free
                y = top + place * high
                p.drawLine(QPointF(middle, y), QPointF(middle, y + high))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour)
        tip = QPointF(middle, top + 4)
        p.drawPolygon(QPolygonF([tip, tip + QPointF(-9, -15), tip + QPointF(9, -15)]))

    def _sweep_sheet(
        self, p: QPainter, box: QRectF, title: QRectF, number: int, stop: Stop
    ) -> None:
        """A quarter of a sweep with what is loose there, or the preload on all at its end."""
        theme, here = self.look.theme, number == self._model.place
        count = len(self._model.plan.stops) if self._model.plan else 0
        last = number == count
        head = "Preload on all" if last else f"Quarter {number + 1}"
        used = draw_text(p, title, head, HEAD, theme.ink, Weight.STRONG)
        if not last:
            of = QRectF(title.left() + used + 8, title.top() + 4, 60, 30)
            draw_text(p, of, f"of {count}", BODY, theme.ink2)
        lines = [
            "First slacken every adjuster until it clacks; begin anywhere."
            if number == 0
            else "Only so much tighter on all; do not look for zero again."
            if last
            else "A quarter turn on.",
            "Wherever the crank stands." if last else "Take up to zero lash whatever is loose now:",
        ]
        y = box.top() + 48
        for line in filter(None, lines):
            words = QRectF(box.left() + 18, y, box.width() - 36, 24)
            draw_text(p, words, line, BODY, theme.ink, Weight.LABEL)
            y += 26
        top = y + 8
        if last:
            items = self._in_sight(number, stop, box.bottom() - 12 - top)
            high = min((box.bottom() - 12 - top) / max(len(items), 1), ROW_MOST)
            for place, item in enumerate(items):
                row = QRectF(box.left() + 4, top + place * high, box.width() - 8, high)
                self._row(p, row, item, self._middle(box), here)
                self._boxes.append((row, number, item))
            return
        room = QRectF(box.left() + 18, top, box.width() - 36, box.bottom() - 76 - top)
        self._loose_chips(p, room, self._model.loose_at(number))
        foot = QRectF(box.left() + 4, box.bottom() - 64, box.width() - 8, 56)
        if here and number + 1 not in self._model.done:
            p.fillRect(foot.adjusted(1, 1, -1, -1), theme.now_tint)
        words = foot.adjusted(14, 0, -60, 0)
        draw_text(p, words, "Taken up in this quarter", LEAD, theme.ink, Weight.STRONG)
        tick = QRectF(foot.right() - 46, foot.center().y() - 17, 34, 34)
        self._tick_box(p, tick, self._model.done.get(number + 1))
        self._boxes.append((foot, number, None))

    def _loose_chips(self, p: QPainter, box: QRectF, loose: list[Item]) -> None:
        """What is free in a quarter, as chips without a figure: nothing is named to be set."""
        theme = self.look.theme
        for wide in (110.0, 92.0, 74.0, 58.0, 46.0):
            high = wide * 0.58
            per_row = max(int((box.width() + 10) // (wide + 10)), 1)
            if -(-len(loose) // per_row) * (high + 10) <= box.height():
                break
        for place, item in enumerate(loose):
            x = box.left() + (place % per_row) * (wide + 10)
            y = box.top() + (place // per_row) * (high + 10)
            chip = QRectF(x, y, wide, high)
            rounded(p, chip, high * 0.3 if item.rounded else 2.0, theme.ink, None)
            draw_text(p, chip, item.code, high * 0.6, theme.on_ink, Weight.STRONG, CENTRE)

    def _in_sight(self, number: int, stop: Stop, room: float) -> list[StopItem]:
        """The items that there is room for: where they were scrolled to, or the next one."""
        count = max(int(room // ROW_LEAST), 1)
        if len(stop.items) <= count:
            self._first.pop(number, None)
            return list(stop.items)
        due = self._model.round.next_item
        at = stop.items.index(due) if due is not None and due in stop.items else 0
        first = self._first.get(number, max(at - 1, 0))
        first = self._first[number] = min(max(first, 0), len(stop.items) - count)
        return list(stop.items[first : first + count])

    def _scroll_bar(
        self, p: QPainter, box: QRectF, top: float, in_all: int, first: int, count: int
    ) -> None:
        """How much of the list is in sight: the wheel and the Page keys move it."""
        if count >= in_all:
            return
        high = box.bottom() - 12 - top
        bar = QRectF(box.right() - 7, top + high * (first - 1) / in_all, 4, high * count / in_all)
        p.fillRect(QRectF(bar.left(), top, bar.width(), high), self.look.theme.hair)
        p.fillRect(bar, self.look.theme.ink)

    @staticmethod
    def _middle(box: QRectF) -> float:
        return box.left() + 78 + (box.width() - 78 - 132) / 2

    def _signs(self, p: QPainter, box: QRectF, stop: Stop) -> None:
        """Who stands where, and how one can know."""
        theme, rig = self.look.theme, self._model.rig
        state = engine_state(rig, stop.crank_deg)
        x, y = box.left() + 32, box.top() + 62
        for flags, place, words in (
            (state.at_compression_tdc, Place.COMPRESSION_TDC, "compression TDC"),
            (state.at_overlap_tdc, Place.OVERLAP_TDC, "overlap TDC"),
        ):
            for row in [row for row in range(len(flags)) if flags[row]][:2]:
                number_disc(p, QPointF(x, y), 14, row + 1, place, theme, strong=False)
                label = QRectF(x + 20, y - 12, 140, 24)
                used = draw_text(p, label, words, BODY, theme.ink, Weight.LABEL)
                x += used + 48
        words = stop.sign if x == box.left() + 32 and stop.sign else ""
        if words:
            draw_text(
                p,
                QRectF(box.left() + 18, y - 12, box.width() - 36, 24),
                words,
                BODY,
                theme.ink,
                Weight.LABEL,
            )
        tip = QRectF(box.left() + 18, y + 14, box.width() - 36, 20)
        line = there_words(rig, round(stop.crank_deg, 3), words)
        draw_one_of(p, tip, (line, f"{line.partition(':')[0]}."), NOTE, theme.ink2)

    def _row(self, p: QPainter, row: QRectF, item: StopItem, middle: float, here: bool) -> None:
        theme = self.look.theme
        due = self._model.round.next_item
        if here and due is not None and due.name == item.name:
            p.fillRect(row.adjusted(1, 1, -1, -1), theme.now_tint)
        p.setPen(flat_pen(theme.hair, 1.2))
        p.drawLine(row.topLeft(), row.topRight())
        self._chip(
            p,
            QRectF(row.left() + 8, row.center().y() - 19, 64, 38).intersected(
                row.adjusted(8, 2, -12, -2)
            ),
            item,
        )
        settings = self._model.round.settings_at(item.item)
        hows = [self._model.work.how(setting.item) for setting in settings]
        if OFF_HEEL in hows:
            self._noted_off(p, row, middle)
        else:
            self._bar(p, row, item, middle)
        side = min(row.height() - 8, 34.0 if len(settings) < 2 else 26.0)
        wide = side * len(settings) + 4 * (len(settings) - 1)
        task = task_for(self._model.rig.engine, item.item)
        where = QRectF(row.right() - 94 - max(wide, 34.0), row.top(), 76, row.height())
        draw_text(p, where, task.short, LABEL, theme.ink, Weight.STRONG, RIGHT)
        for nth, (setting, how) in enumerate(zip(settings, hows, strict=True)):
            left = row.right() - 12 - wide + nth * (side + 4)
            box = QRectF(left, row.center().y() - side / 2, side, side)
            self._tick_box(p, box, how, setting.item.single)
            self._ticks.append((box.adjusted(-2, -4, 2, 4), self._number, setting.item))

    def _noted_off(self, p: QPainter, row: QRectF, middle: float) -> None:
        half = middle - row.left() - 84
        where = QRectF(row.left() + 84, row.top(), 2 * half, row.height())
        words = ("noted off its base circle", "off its base circle", "off base")
        draw_one_of(p, where, words, BODY, self.look.theme.ink, Weight.STRONG, CENTRE)

    def _tick_box(self, p: QPainter, box: QRectF, done: str | None, single: str = "") -> None:
        """A box that says how something was seen to; `single` names one of several adjusters."""
        theme = self.look.theme
        fill = theme.ink if done and done not in (SKIPPED, OFF_HEEL) else theme.sheet
        rounded(p, box, 4, fill, flat_pen(theme.ink, 2))
        if done in (SKIPPED, OFF_HEEL):
            words = "–" if done == SKIPPED else "!"
            draw_text(p, box, words, LEAD, theme.ink, Weight.STRONG, CENTRE)
        elif done in (LEFT, OFF):
            words = "ok" if done == LEFT else "out"
            draw_text(p, box, words, NOTE, theme.on_ink, Weight.STRONG, CENTRE)
        elif not done and single:
            draw_text(p, box, single, NOTE, theme.ink2, Weight.BODY, CENTRE)
        elif done:
            paint_tick(p, box.center(), box.width() * 0.56, theme.on_ink)

    def _chip(self, p: QPainter, box: QRectF, item: StopItem) -> None:
        theme = self.look.theme
        radius = box.height() * 0.3 if item.item.rounded else 2.0
        if item.margin_deg < 0:
            rounded(p, box, radius, None, flat_pen(theme.hair, 1.6))
            colour = theme.ink3
        elif item.margin_deg < THIN_DEG:
            rounded(p, box, radius, theme.sheet, flat_pen(theme.ink, 2.4))
            colour = theme.ink
        else:
            rounded(p, box, radius, theme.ink, None)
            colour = theme.on_ink
        of, part = item.item.code, item.item.part.value
        if not part:
            draw_text(p, box, of, LEAD, colour, Weight.STRONG, CENTRE)
        elif box.height() < 34:  # rows this low have no bar: the word stands beside the chip
            draw_text(p, box, of, LEAD, colour, Weight.STRONG, CENTRE)
            beside = QRectF(box.right() + 6, box.top(), 64, box.height())
            draw_text(p, beside, part, NOTE, theme.ink2)
        else:
            upper = box.adjusted(0, 1, 0, -box.height() * 0.42)
            draw_text(p, upper, of, BODY, colour, Weight.STRONG, CENTRE)
            lower = box.adjusted(0, box.height() * 0.5, 0, -1)
            draw_text(p, lower, part, 13, colour, Weight.LABEL, CENTRE)

    def _bar(self, p: QPainter, row: QRectF, item: StopItem, middle: float) -> None:
        """How far the item stays free back and on; under 30° the bar is only an outline."""
        theme, half = self.look.theme, middle - row.left() - 84
        if item.margin_deg < 0:
            off = f"{-whole_degrees(item.margin_deg)}° off"
            words = (f"not free: {off} its base circle", f"not free: {off}", off)
            # In a low row the word for a part stands beside the chip.
            aside = 62.0 if item.item.part is not Part.WHOLE and row.height() < BAR_LEAST else 0.0
            left = row.left() + 84 + aside
            where = QRectF(left, row.top(), 2 * half - aside, row.height())
            draw_one_of(p, where, words, BODY, theme.ink, Weight.STRONG, CENTRE)
            return
        low = row.height() < BAR_LEAST
        y = row.center().y() + (0 if low else min(row.height() * 0.16, 11))
        scale = half / REACH_DEG
        bar = QRectF(
            middle - min(item.back_deg, REACH_DEG) * scale,
            y - 1,
            (min(item.back_deg, REACH_DEG) + min(item.on_deg, REACH_DEG)) * scale,
            min(row.height() * 0.22, 13),
        )
        if low:
            y += 14
        elif not item.item.rounded:
            p.fillRect(bar, theme.ink)
        else:
            rounded(p, bar, 0, theme.sheet, flat_pen(theme.ink, 2))
        for value, left, align in (
            (item.back_deg, middle - 84, RIGHT),
            (item.on_deg, middle + 12, AT_LEFT),
        ):
            near = value == min(item.back_deg, item.on_deg)
            where = QRectF(left, y - 26, 72, 24)
            weight, px = (Weight.STRONG, LABEL + 1) if near else (Weight.BODY, NOTE + 1)
            colour = theme.ink if near else theme.ink2
            draw_text(p, where, f"{whole_degrees(value)}°", px, colour, weight, align)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Tick an item of a safe plan; anywhere else on a sheet, go to its stop."""
        if event is None or self._model.usable is None:
            return
        model, spot = self._model, event.position() / self.look.scale
        # On a round that only checks nothing is set: a tick says that it was good.
        how = LEFT if model.checking else SET
        for box, number, adjuster in self._ticks:
            if box.contains(spot):
                model.go_to(number)
                model.tick(adjuster, how)
                return
        for row, number, item in self._boxes:
            if row.contains(spot):
                model.go_to(number)
                if item is None:
                    model.tick_quarter(number)
                    return
                own = [setting.item for setting in model.round.settings_at(item.item)]
                model.tick(next((one for one in own if not model.round.is_done(one)), own[0]), how)
                return
        for card, number in self._cards:
            if card.contains(spot):
                model.go_to(number)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and down go to another stop; return sets the item that is due."""
        if event is None:
            return
        key, model = Qt.Key(event.key()), self._model
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            model.go_to(model.place + (1 if key == Qt.Key.Key_Down else -1))
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            self._scroll(model.place, 4 if key == Qt.Key.Key_PageDown else -4)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            model.see_to_next()
        else:
            event.ignore()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """A list that is longer than its sheet scrolls; other sheets go by, one a notch."""
        if event is None:
            return
        event.accept()
        by, spot = (-1 if event.angleDelta().y() > 0 else 1), event.position() / self.look.scale
        long = [number for card, number in self._cards if card.contains(spot)]
        if not (long and self._scroll(long[0], by)):
            self._model.go_to(self._model.place + by)

    def _scroll(self, number: int, by: int) -> bool:
        """Move the list of a stop that has more items than there is room for; whether it has."""
        if number not in self._first:
            return False
        self._first[number] += by
        self.update()
        return True

    def _tell_signs(self, event: QHelpEvent, spot: QPointF) -> None:
        """Over the head of a sheet: every sign of the place, and what fools it."""
        shown = self.shown()
        if not shown or spot.y() > HEAD_ROOM:
            return
        wide = (self.logical_width + GAP) / len(shown)
        _, stop = shown[min(int(spot.x() / wide), len(shown) - 1)]
        lines = [
            f"{sign.look} ({sign.fooled_by} can mislead)" if sign.fooled_by else sign.look
            for sign in signs_at(self._model.rig, stop.crank_deg)
        ]
        show_hint(event.globalPos(), "\n".join(lines) or stop.sign, self)

    def event(self, event: object) -> bool:
        """Say on hover what an item is and where the blade goes."""
        if isinstance(event, QHelpEvent):
            spot = QPointF(event.pos()) / self.look.scale
            for box, _, item in self._boxes:
                if item is not None and box.contains(spot):
                    task = task_for(self._model.rig.engine, item.item)
                    words = f"{item.name}: {task.full_name}\n{task.target_words}, {task.place}"
                    show_hint(event.globalPos(), words, self)
                    return True
            self._tell_signs(event, spot)
            return True
        return super().event(event)  # type: ignore[arg-type]
