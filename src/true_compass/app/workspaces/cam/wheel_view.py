"""The wheel as it stands under its pointer, its rim enlarged, and the indicator: live."""

from collections.abc import Callable
from typing import Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.cam.model import CamModel
from true_compass.core.degreeing.found import curve_for
from true_compass.core.degreeing.sheet import Part
from true_compass.core.items import Kind
from true_compass.drawing.degree_wheel import WheelFace, paint_indicator
from true_compass.drawing.ring import sense_of
from true_compass.drawing.text import draw_one_of, draw_text
from true_compass.drawing.theme import LABEL, LEAD, NOTE, Weight

RIM_HIGH: Final = 66.0
DIAL: Final = 54.0


class WheelView(Painted):
    """Wheel, rim and indicator; where the room is low the wheel goes and the rim stays.

    `dial` tells of an indicator that is read somewhere: what it is on, its figure, and mm.
    """

    def __init__(
        self,
        look: Look,
        model: CamModel,
        parent: QWidget,
        dial: Callable[[], tuple[str, str, float | None]] | None = None,
    ) -> None:
        super().__init__(look, parent)
        self._dial = dial
        self._model = model
        self.setObjectName("cam_wheel")
        self.setAccessibleName("Wheel and indicator")
        self._shown: tuple[object, ...] | None = None
        model.changed.connect(self._on_change)
        model.desk.bridge.turned.connect(self.update)
        model.line_moved.connect(self.update)

    def _on_change(self) -> None:
        """A reading alone moves no wheel."""
        model = self._model
        shown = (model.rig, model.cylinder, model.setup, self._kind())
        if shown != self._shown:
            self._shown = shown
            self.update()

    @property
    def face(self) -> WheelFace:
        """The wheel that was named."""
        model = self._model
        return WheelFace(model.setup.wheel, self.look.theme, sense_of(model.engine))

    def paint(self, p: QPainter) -> None:
        """From the top: wheel, rim, indicator, as far as there is room."""
        wide, high = self.logical_width, self.logical_height
        at = self._model.after_tdc_deg
        room = high - (RIM_HIGH + 30) - (2 * DIAL + 14)
        top = 0.0
        if room >= 200:
            caption = QRectF(0, 0, wide / 2 - 14, 18)
            told = ("Wheel, from the front", "From the front")
            draw_one_of(p, caption, told, NOTE, self.look.theme.ink2)
            radius = min(wide / 2 - 13, (room - 36) / 2)
            middle = QPointF(wide / 2, 30 + radius)
            self.face.paint(p, middle, radius, at, self.stills)
            top = room
        words = QRectF(0, top, wide, 18)
        draw_text(p, words, "The rim at the pointer", NOTE, self.look.theme.ink2)
        rim = QRectF(1.5, top + 18, wide - 3, RIM_HIGH - 4)
        self.face.paint_rim(p, rim, at)
        self._paint_dial(p, top + RIM_HIGH + 28)

    def _paint_dial(self, p: QPainter, top: float) -> None:
        """The indicator: the one that is read, or one on the valve that is asked, counting down
        from its nose."""
        model, theme = self._model, self.look.theme
        if self._dial is not None:
            self._paint_read_dial(p, top)
            return
        kind = self._kind()
        if kind is None or self.logical_height - top < 2 * DIAL:
            return
        curve = curve_for(model.rig, model.sheet, kind)
        at = model.after_tdc_deg
        span = curve.after_tdc_deg
        at += 720.0 * (at < span[0]) - 720.0 * (at > span[-1])
        down = curve.peak_mm - float(curve.lift_at_mm(at))
        gauge = model.setup.gauge
        middle = QPointF(DIAL + 2, top + DIAL)
        paint_indicator(p, middle, DIAL, down, gauge.turn_mm, theme)
        left = 2 * DIAL + 18
        room = self.logical_width - left
        station = gauge.station.value
        past = "past the nose" if at > curve.top_deg else "before the nose"
        heel = curve.peak_mm - down < 1e-6
        turns = int(down / gauge.turn_mm)
        where = f"on the heel, {turns} turns" if heel else past
        for nth, (words, px, weight) in enumerate(
            (
                ("Indicator", LABEL, Weight.STRONG),
                (f"{kind.value} {station} of {model.cylinder}", NOTE + 1, Weight.BODY),
                (f"{model.mm_words(down)} down", LEAD, Weight.STRONG),
                (where, NOTE + 1, Weight.BODY),
            )
        ):
            colour = theme.ink if weight is Weight.STRONG else theme.ink2
            row = QRectF(left, top + 4 + 26 * nth, room, 24)
            draw_one_of(p, row, (words,), px, colour, weight)

    def _paint_read_dial(self, p: QPainter, top: float) -> None:
        assert self._dial is not None
        on, words, mm = self._dial()
        if self.logical_height - top < 2 * DIAL:
            return
        theme, turn_mm = self.look.theme, self._model.setup.gauge.turn_mm
        paint_indicator(p, QPointF(DIAL + 2, top + DIAL), DIAL, mm or 0.0, turn_mm, theme)
        left = 2 * DIAL + 18
        for nth, (line, px, weight) in enumerate(
            (
                ("Indicator", LABEL, Weight.STRONG),
                (on, NOTE + 1, Weight.BODY),
                (words, LEAD, Weight.STRONG),
            )
        ):
            row = QRectF(left, top + 4 + 26 * nth, self.logical_width - left, 24)
            colour = theme.ink if weight is Weight.STRONG else theme.ink2
            draw_one_of(p, row, (line,), px, colour, weight)

    def _kind(self) -> Kind | None:
        """The nose that is read, or that was read last."""
        cell = self._model.asked
        if cell is not None and cell.part is not Part.TOP:
            return cell.part.kind
        kinds = self._model.kinds
        if not kinds:
            return None
        return kinds[0] if cell is not None else kinds[-1]

    def words(self) -> str:
        """What the wheel reads, for the test and the twin."""
        return self.face.figure_words(self._model.after_tdc_deg)


class MapView(Painted):
    """Both lobes over the strokes about overlap TDC, with the crank: where one is."""

    covers_ground = True

    def __init__(self, look: Look, model: CamModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("cam_map")
        self.setAccessibleName("Lift about overlap TDC")
        self._drawn: tuple[object, int, object] | None = None
        model.changed.connect(self._on_change)
        model.desk.bridge.turned.connect(self.update)
        model.line_moved.connect(self.update)

    def _on_change(self) -> None:
        """Another engine, cylinder or gauge is another map; a reading is not."""
        model = self._model
        drawn = (model.rig, model.cylinder, model.setup.gauge.station)
        if drawn != self._drawn:
            self._drawn = drawn
            self.repaint_all()

    def paint(self, p: QPainter) -> None:
        """The map from its picture, then the crank."""
        from true_compass.drawing.cam_map import CamMap

        box = QRectF(0, 0, self.logical_width, self.logical_height)
        model = self._model
        drawn = CamMap(box, model.rig, model.sheet, self.look.theme)
        self.paint_whole(p, "map", drawn.paint)
        drawn.paint_cursor(p, model.after_tdc_deg)

    def text_twin(self) -> str:
        """Where the crank stands against this cylinder's overlap TDC."""
        at = self._model.after_tdc_deg
        side = "after" if at >= 0 else "before"
        return f"{abs(at):.1f}° {side} overlap TDC of cylinder {self._model.cylinder}"
