"""Cylinders from above: tap them to number them, to swap valves, or as they fire.

A radial is seen from the front, as a star.
"""

from collections.abc import Hashable
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from true_compass.app.workspaces.engine.hand.grips import Grip, GripView, Modifier, box_of
from true_compass.app.workspaces.engine.hand.model import Tab
from true_compass.core.crank.layout import Form, Seat
from true_compass.core.crank.shaping import NextFiring
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.dials import crank_direction
from true_compass.drawing.plan import (
    HeadBox,
    head_boxes,
    paint_block,
    paint_bore,
    paint_valve,
    valve_boxes,
)
from true_compass.drawing.ring import sense_of
from true_compass.drawing.text import CENTRE, draw_text
from true_compass.drawing.theme import BODY, LABEL, NOTE, Weight

SEATS: Final = "seat"
VALVES: Final = "valves"


class HeadsView(GripView):
    """Heads one above the other with the front at the left; or the star of a radial."""

    tab = Tab.NUMBERS

    @property
    def _star(self) -> bool:
        return self.model.layout.form is Form.RADIAL or len(self.model.layout.banks_in_use) > 4

    def _heads(self) -> list[HeadBox]:
        box = QRectF(0, 20, self.logical_width, self.logical_height - 62)
        return head_boxes(self.model.layout, box)

    # Grips -------------------------------------------------------------------------------------

    def grips(self) -> list[Grip]:
        """A disc for each cylinder; in Valves the pair of each cylinder instead."""
        if self._star:
            return self._star_grips()
        found = []
        for head in self._heads():
            for seat, spot in head.spots:
                if self.model.tab is Tab.VALVES:
                    radius = spot.width() * 0.34
                    found.append(
                        Grip((VALVES, seat), spot.center(), radius, self._valve_words(seat))
                    )
                else:
                    middle, radius = head.disc(spot)
                    found.append(
                        Grip((SEATS, seat), middle, max(radius, 12.0), self._seat_words(seat))
                    )
        return found

    def _star_grips(self) -> list[Grip]:
        layout, sense = self.model.layout, sense_of(self.model.engine)
        middle = QPointF(self.logical_width / 2, self.logical_height / 2)
        reach = min(self.logical_width, self.logical_height) / 2 - 34
        found = []
        for seat in layout.seats:
            out = crank_direction(layout.banks[seat.bank].angle_deg, sense)
            row = reach - 44.0 * seat.throw
            radius = 18.0 if layout.cylinder_count <= 12 else 14.0
            found.append(Grip((SEATS, seat), middle + out * row, radius, self._seat_words(seat)))
        return found

    def _cylinder(self, seat: Seat) -> int:
        return self.model.layout.seats.index(seat) + 1

    def _place_words(self, seat: Seat) -> str:
        layout = self.model.layout
        row = layout.on_bank(seat.bank)
        if self._star:
            return f"at {layout.banks[seat.bank].angle_deg:.4g}°"
        at = row.index(self._cylinder(seat)) + 1
        place = f"place {at} from the front"
        if len(layout.banks_in_use) == 1:
            return place
        return f"bank {layout.banks[seat.bank].name}, {place}"

    def _seat_words(self, seat: Seat) -> str:
        number = self.model.number_of(seat)
        words = f"cylinder {number}" if number else "no number yet"
        if self.model.tab is Tab.ORDER:
            cylinder = self._cylinder(seat)
            order = self.model.ordering
            fires = f", fires as number {order.index(cylinder) + 1}" if cylinder in order else ""
            words = f"cylinder {cylinder}{fires}"
        return f"{words}, {self._place_words(seat)}"

    def _valve_words(self, seat: Seat) -> str:
        layout, cylinder = self.model.layout, self._cylinder(seat)
        at = layout.on_bank(seat.bank).index(cylinder)
        letters = self.model.engine.valves_along(seat.bank)[2 * at : 2 * at + 2]
        first = "intake" if letters[:1] == "I" else "exhaust"
        return f"cylinder {cylinder}: {first} nearer to the front"

    # Presses -----------------------------------------------------------------------------------

    def pressed(self, key: Hashable, how: Modifier) -> None:
        """Number it, let it fire next, or swap its valves."""
        assert isinstance(key, tuple)
        _, seat = key
        if self.model.tab is Tab.VALVES and self._star:
            return
        if self.model.tab is Tab.VALVES:
            head = bool(how & Modifier.ShiftModifier)
            self.model.swap_valves(self._cylinder(seat), head=head)
        elif self.model.tab is Tab.ORDER:
            self.model.fire(self._cylinder(seat))
        elif self.model.tab is Tab.NUMBERS:
            self.model.number(seat)
        else:
            self.model.show_tab(Tab.NUMBERS)

    def pressed_beside(self, at: QPointF, how: Modifier) -> None:
        """A valve can be swapped on every page."""
        if self._star or self.model.clash is not None:
            return
        for head in self._heads():
            for seat, spot in head.spots:
                if any(box.contains(at) for box in valve_boxes(spot)):
                    whole = bool(how & Modifier.ShiftModifier)
                    self.model.swap_valves(self._cylinder(seat), head=whole)
                    return

    # Painting ----------------------------------------------------------------------------------

    def paint(self, p: QPainter) -> None:
        """Draw what there is, and what may be pressed next in dashes."""
        theme, model = self.look.theme, self.model
        waits = self._waiting()
        if self._star:
            self._paint_star(p)
        else:
            heads = self._heads()
            box = QRectF(0, 20, self.logical_width, self.logical_height - 62)
            paint_block(p, box, model.layout, heads, theme)
            for head in heads:
                self._paint_head(p, head)
            below = heads[-1].box.bottom() + (20 if heads[-1].below else 6)
            foot = QRectF(92, below, self.logical_width - 92, 22)
            words = "From above. Click a valve to change intake and exhaust, Shift+click its head."
            draw_text(p, foot, words, NOTE, theme.ink2)
        for grip in self.grips():
            self._paint_disc(p, grip, waits)
        self.paint_chosen(p)

    def _paint_head(self, p: QPainter, head: HeadBox) -> None:
        letters = self.model.engine.valves_along(head.bank)
        for at, (seat, spot) in enumerate(head.spots):
            paint_bore(p, spot, self.look.theme)
            pair = letters[2 * at : 2 * at + 2]
            number = self.model.number_of(seat)
            for valve, letter in zip(valve_boxes(spot), pair, strict=True):
                paint_valve(p, valve, letter, number, self.look.theme)
            if self.model.tab is Tab.VALVES:
                middle, radius = head.disc(spot)
                self._paint_number(p, Grip((SEATS, seat), middle, radius, ""), number, False)

    def _paint_star(self, p: QPainter) -> None:
        theme = self.look.theme
        middle = QPointF(self.logical_width / 2, self.logical_height / 2)
        p.setPen(flat_pen(theme.metal_dk, 5))
        for grip in self.grips():
            p.drawLine(middle, grip.at)
        p.setBrush(theme.sheet)
        p.setPen(flat_pen(theme.ink, 2))
        p.drawEllipse(middle, 26, 26)
        foot = QRectF(0, self.logical_height - 24, self.logical_width, 22)
        seen = self.model.engine.seen_from.value
        draw_text(
            p, foot, f"From the front; running direction seen from the {seen}.", NOTE, theme.ink2
        )

    def _waiting(self) -> dict[int, NextFiring]:
        """In Order: what each cylinder that has not fired yet may do."""
        if self.model.tab is not Tab.ORDER:
            return {}
        return {found.cylinder: found for found in self.model.next_firings()}

    def _paint_disc(self, p: QPainter, grip: Grip, waits: dict[int, NextFiring]) -> None:
        assert isinstance(grip.key, tuple)
        kind, seat = grip.key
        if kind == VALVES:
            return
        cylinder = self._cylinder(seat)
        if self.model.tab is Tab.ORDER:
            found = waits.get(cylinder)
            begun = bool(self.model.ordering)
            dashed = begun and found is not None
            self._paint_number(
                p, grip, str(cylinder), dashed, possible=found is None or found.possible
            )
            if not dashed and begun:
                order = self.model.ordering.index(cylinder) + 1
                note = box_of(grip).translated(grip.radius * 1.7, 0)
                draw_text(p, note, f"{order}.", NOTE, self.look.theme.now, Weight.STRONG, CENTRE)
            return
        number = self.model.number_of(seat)
        self._paint_number(p, grip, number, not number)

    def _paint_number(
        self, p: QPainter, grip: Grip, text: str, dashed: bool, possible: bool = True
    ) -> None:
        """A disc: dashed where a press is waited for, pale where it would be refused."""
        theme = self.look.theme
        last = self.model.numbering and grip.key == (SEATS, self.model.numbering[-1])
        edge = theme.now if last else theme.ink if possible else theme.line
        pen = QPen(edge, 2.4, Qt.PenStyle.DashLine) if dashed else flat_pen(edge, 2.4)
        p.setBrush(theme.now if last else theme.sheet)
        p.setPen(pen)
        p.drawEllipse(grip.at, grip.radius, grip.radius)
        colour = theme.on_now if last else theme.ink if possible else theme.ink3
        px = LABEL if grip.radius > 13 else BODY
        draw_text(p, box_of(grip), text, px, colour, Weight.STRONG, CENTRE)
