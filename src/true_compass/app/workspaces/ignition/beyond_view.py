"""Beyond the distributor: coils and pairs, injection, a cam sensor, an igniter, on one ring."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.ignition.model import IgnitionModel
from true_compass.core.crank.phasing import companion_of
from true_compass.core.ignition.beyond import (
    coils,
    edge_words,
    igniter_words,
    injections_deg,
    kind_words,
    sparks,
    sparks_deg,
)
from true_compass.core.spark import Ignition
from true_compass.core.words import at_degrees
from true_compass.drawing.codes import flat_pen, round_pen, rounded
from true_compass.drawing.ring import lap_direction, sense_of
from true_compass.drawing.text import CENTRE, draw_one_of, draw_paragraph, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight

LEFT_WIDE: Final = 360.0
GAP: Final = 28.0
ROW: Final = 34.0


class RingView(PageView):
    """One lap is 720°: plugs at their compression TDC, coils, injectors, edges of the sensor."""

    covers_ground = True

    def __init__(self, look: Look, model: IgnitionModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("spark_ring")
        self.setAccessibleName("Sparks and injections on one lap")
        model.changed.connect(self.show_state)
        model.desk.bridge.turned.connect(self._on_turned)

    def _on_turned(self) -> None:
        if self.isVisible():
            self.update()

    def show_state(self) -> None:
        """Another engine."""
        self.stills.forget()
        self.update()

    @property
    def _radius(self) -> float:
        return min(self.logical_width, self.logical_height) / 2 - 52

    @property
    def _centre(self) -> QPointF:
        return QPointF(self.logical_width / 2, self.logical_height / 2)

    def _at(self, crank_deg: float, reach: float) -> QPointF:
        sense = sense_of(self._model.engine)
        return self._centre + lap_direction(crank_deg, sense) * reach

    def paint(self, p: QPainter) -> None:
        """The ring, then a hand where the crank stands."""
        self.paint_whole(p, "ring", self._paint_still)
        theme, radius = self.look.theme, self._radius
        crank = self._model.desk.session.state.crank_deg
        p.setPen(flat_pen(theme.now, 5))
        p.drawLine(self._centre, self._at(crank, radius - 30))
        p.setPen(round_pen(theme.ink, 18))
        p.drawPoint(self._centre)
        self._paint_coils(p)

    def _paint_still(self, p: QPainter) -> None:
        theme, engine, radius = self.look.theme, self._model.engine, self._radius
        p.setBrush(theme.sheet)
        p.setPen(flat_pen(theme.ink, 2.2))
        p.drawEllipse(self._centre, radius, radius)
        for crank in range(0, 720, 30):
            strong = crank % 180 == 0
            p.setPen(flat_pen(theme.line, 2.0 if strong else 1.2))
            p.drawLine(self._at(crank, radius - (12 if strong else 6)), self._at(crank, radius))
            if strong:
                at = self._at(crank, radius + 36)
                box = QRectF(at.x() - 30, at.y() - 10, 60, 20)
                draw_text(p, box, at_degrees(crank), NOTE, theme.ink2, align=CENTRE)
        self._paint_pairs(p)
        self._paint_injections(p)
        self._paint_edges(p)
        self._paint_trip(p)
        for cylinder in engine.cylinders:
            at = self._at(float(engine.firing_offsets_deg[cylinder - 1]), radius)
            p.setBrush(theme.sheet)
            p.setPen(flat_pen(theme.ink, 2.4))
            half = 17.0 if engine.cylinder_count <= 12 else 13.0
            p.drawEllipse(at, half, half)
            box = QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half)
            draw_text(p, box, str(cylinder), BODY, theme.ink, Weight.STRONG, CENTRE)

    def _paint_pairs(self, p: QPainter) -> None:
        """A chord from plug to plug where a coil fires both."""
        engine, reach = self._model.engine, self._radius - 18
        p.setPen(flat_pen(self.look.theme.metal_dk, 4))
        for coil in coils(engine):
            places = [float(engine.firing_offsets_deg[one - 1]) for one in coil.cylinders]
            if engine.ignition is Ignition.COILS and len(places) == 2:
                p.drawLine(self._at(places[0], reach), self._at(places[1], reach))

    def _paint_coils(self, p: QPainter) -> None:
        """A coil's letter near its first plug, over the hand."""
        theme, engine = self.look.theme, self._model.engine
        if engine.ignition is not Ignition.COILS:
            return
        for coil in coils(engine):
            offset = float(engine.firing_offsets_deg[coil.cylinders[0] - 1])
            at = self._at(offset, self._radius * 0.62)
            box = QRectF(at.x() - 15, at.y() - 15, 30, 30)
            rounded(p, box, 4, theme.ink, None)
            draw_text(p, box, coil.name, BODY, theme.on_ink, Weight.STRONG, CENTRE)

    def _paint_injections(self, p: QPainter) -> None:
        """Hollow drops inside the ring, aimed at it, with the cylinder's number."""
        theme, radius = self.look.theme, self._radius
        for cylinder, crank in enumerate(injections_deg(self._model.engine), start=1):
            tip, foot = self._at(crank, radius - 4), self._at(crank, radius - 26)
            away = tip - foot
            side = QPointF(-away.y(), away.x()) * 0.35
            p.setBrush(theme.paper)
            p.setPen(flat_pen(theme.ink, 1.8))
            p.drawPolygon(QPolygonF([tip, foot - side, foot + side]))
            at = self._at(crank, radius - 40)
            box = QRectF(at.x() - 16, at.y() - 10, 32, 20)
            draw_text(p, box, str(cylinder), NOTE, theme.ink, Weight.LABEL, CENTRE)

    def _paint_edges(self, p: QPainter) -> None:
        """Where the cam sensor's edges are met: dashed lines across the ring."""
        theme, radius = self.look.theme, self._radius
        for edge in self._model.engine.spark.beyond.sensor_deg:
            p.setPen(QPen(theme.ink, 2.4, Qt.PenStyle.DashLine))
            p.drawLine(self._at(edge, radius * 0.3), self._at(edge, radius + 14))
            # At the side a name is wider than high.
            aside = abs(lap_direction(edge, sense_of(self._model.engine)).x())
            at = self._at(edge, radius + 28 + 24 * aside)
            box = QRectF(at.x() - 34, at.y() - 10, 68, 20)
            draw_text(p, box, f"edge {edge:g}°", NOTE, theme.ink, Weight.LABEL, CENTRE)

    def _paint_trip(self, p: QPainter) -> None:
        """Where an igniter trips, before compression TDC."""
        trip = self._model.engine.spark.beyond.trip_deg
        if trip is None:
            return
        theme, radius = self.look.theme, self._radius
        p.setPen(flat_pen(theme.ink, 4))
        p.drawLine(self._at(-trip, radius - 44), self._at(-trip, radius - 20))
        at = self._at(-trip, radius - 58) - QPointF(34, 0)
        box = QRectF(at.x() - 50, at.y() - 10, 100, 20)
        draw_text(p, box, f"trips, {trip:g}° before", NOTE, theme.ink, Weight.LABEL, CENTRE)


class BeyondView(PageView):
    """What fires what, in words at the left, on the ring at the right."""

    def __init__(self, look: Look, model: IgnitionModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setAccessibleName("Coils, injection, sensor")
        self.ring = RingView(look, model, self)
        model.changed.connect(self.refresh)

    def arrange(self) -> None:
        """The ring takes what the words leave."""
        put, wide, high = self.look.scaled, self.logical_width, self.logical_height
        left = LEFT_WIDE + GAP
        self.ring.setGeometry(put(left, 66, wide - left, high - 70))

    def show_state(self) -> None:
        """Another engine."""
        self.arrange()
        self.update()

    def _rows(self) -> list[tuple[str, str]]:
        """What is told, as pairs of words."""
        engine = self._model.engine
        rows = []
        if engine.ignition is Ignition.COILS:
            for coil in coils(engine):
                names = " and ".join(map(str, coil.cylinders))
                at = " and ".join(at_degrees(one) for one in sparks_deg(engine, coil))
                rows.append((f"Coil {coil.name}", f"fires {names} at {at}"))
        elif not sparks(engine):
            for nth, cylinder in enumerate(engine.firing_order, start=1):
                at = at_degrees(float(engine.firing_offsets_deg[cylinder - 1]))
                rows.append((f"{nth}. injects {cylinder}", f"TDC at {at}"))
        else:
            for cylinder in engine.firing_order:
                other = companion_of(engine, cylinder)
                if other is not None and cylinder < other:
                    rows.append((f"{cylinder} and {other}", "one coil could fire both"))
        for cylinder, crank in enumerate(injections_deg(engine), start=1):
            rows.append((f"Injector {cylinder}", f"opens at {at_degrees(crank)}"))
        for edge in engine.spark.beyond.sensor_deg:
            rows.append((f"Sensor edge {edge:g}°", edge_words(engine, edge)))
        return rows

    def _words(self) -> tuple[str, ...]:
        engine = self._model.engine
        if engine.ignition is Ignition.IGNITER:
            return igniter_words(engine)
        if not sparks(engine):
            return ("Each injector opens shortly before its own compression TDC.",)
        if engine.spark.beyond.waste_spark:
            return (
                "Companions rise together: one is compressed, the other in overlap. The spark "
                "there is wasted and does no harm.",
            )
        return ("Where the file says coils, they stand on this ring.",) if not self._rows() else ()

    def paint(self, p: QPainter) -> None:
        """Headline, rows, a word of why."""
        theme, wide, engine = self.look.theme, self.logical_width, self._model.engine
        left = LEFT_WIDE + GAP
        head = QRectF(left, 0, wide - left, 36)
        draw_text(p, head, kind_words(engine), HEAD, theme.ink, Weight.STRONG)
        below = f"It fires {engine.order_text}. One lap is 720° of crank, 0° at the top."
        draw_one_of(p, QRectF(left, 36, wide - left, 24), (below,), BODY, theme.ink2)
        title = QRectF(0, 0, LEFT_WIDE, 30)
        draw_text(p, title, "Which fires what", LEAD, theme.ink, Weight.STRONG)
        y = 42.0
        for name, said in self._rows():
            if y + ROW > self.logical_height - 90:
                break
            draw_text(p, QRectF(0, y, 150, ROW), name, LABEL, theme.ink, Weight.STRONG)
            draw_one_of(p, QRectF(154, y, LEFT_WIDE - 154, ROW), (said,), BODY, theme.ink)
            y += ROW
            p.setPen(flat_pen(theme.hair, 1.2))
            p.drawLine(QPointF(0, y), QPointF(LEFT_WIDE, y))
        y += 14
        for sentence in self._words():
            y = draw_paragraph(p, QRectF(0, y, LEFT_WIDE, 100), sentence, BODY, theme.ink2) + 8
