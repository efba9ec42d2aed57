"""What happens in the cycle, in order."""

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from true_compass.app.workspaces.watch.cycle.panel import HEAD_ROOM, ROW, SENTENCE, Panel
from true_compass.core.angles import degrees_on
from true_compass.core.words import shown_degrees
from true_compass.drawing.text import RIGHT, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, NOTE, Weight


class EventsPanel(Panel):
    """What happens in the cycle, in order; the list rolls as the crank turns."""

    def events(self) -> list[tuple[float, str, tuple[str, str]]]:
        """Every event on from here: degrees on, its code, and wordings in full."""
        session = self._context.session
        state, valves = session.state, {v.item: v for v in session.state.engine.valves}
        rows = []
        for event in session.valve_events:
            valve = valves[event.valve]
            does = ("open" if event.opens else "close") + ("s" if valve.count == 1 else "")
            wordings = (f"{valve.full_name} {does}", f"{valve.kind.value} {does}")
            rows.append((event.crank_deg, event.words, wordings))
        for cylinder, place in zip(
            state.engine.cylinders, state.shown.true_offsets_deg.tolist(), strict=True
        ):
            wordings = (f"cylinder {cylinder} at compression TDC", "compression TDC")
            rows.append((place, f"{cylinder} fires", wordings))
        here = state.crank_deg
        return sorted((degrees_on(place, here), words, full) for place, words, full in rows)

    def paint(self, p: QPainter) -> None:
        """The next events, as many as there is room for."""
        self.setObjectName("events")
        theme, width = self.look.theme, self.logical_width
        events = self.events()
        self.paint_whole(p, "ground", _nothing)
        here = self._context.session.state.crank_deg
        _, first, _ = events[0]
        head = f"Next: {first}, {_on(events[0][0])}"
        self.head(p, head, "The cycle from here on, and the turn to the event after each")
        y, last = HEAD_ROOM, self.logical_height - SENTENCE - ROW
        for place, (on_deg, words, full) in enumerate(events):
            if y > last:
                break
            fires = words.endswith("fires")
            if place == 0:
                p.fillRect(QRectF(0, y, width, ROW + 2), theme.now_tint)
            weight = Weight.STRONG if fires or place == 0 else Weight.BODY
            angle = f"{shown_degrees(here + on_deg)}°"
            draw_text(p, QRectF(0, y, 60, ROW + 2), angle, BODY - 1, theme.ink, weight, RIGHT)
            draw_text(p, QRectF(76, y, 90, ROW + 2), words, BODY - 1, theme.ink, weight)
            draw_one_of(p, QRectF(170, y, width - 330, ROW + 2), full, NOTE, theme.ink2)
            after = events[place + 1][0] if place + 1 < len(events) else 720.0 + events[0][0]
            gap = f"then {after - on_deg:.1f}°"
            on_box = QRectF(width - 160, y, 76, ROW + 2)
            draw_text(p, on_box, _on(on_deg), BODY - 1, theme.ink, weight, RIGHT)
            gap_box = QRectF(width - 80, y, 80, ROW + 2)
            draw_text(p, gap_box, gap, NOTE, theme.ink2, align=RIGHT)
            y += ROW + 2
        count = len(events) - self._context.session.state.engine.cylinder_count
        firings = self._context.session.state.engine.cylinder_count
        fire = "firing" if firings == 1 else "firings"
        self.sentence(p, f"{count} valve events and {firings} {fire} in 720° of crank.")


def _on(on_deg: float) -> str:
    return f"{on_deg:.1f}° on" if on_deg >= 0.05 else "here"


def _nothing(p: QPainter) -> None:
    """Only the ground."""
