"""The timing case from the front, and what each of its parts can do."""

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.cam.correcting import Correcting
from true_compass.core.crank.layout import Form
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.text import RIGHT, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, LABEL, NOTE, Weight
from true_compass.drawing.timing_case import TimingCase, moves_worth, paint_letter


class CaseView(Painted):
    """The timing case, and what each part can do."""

    def __init__(self, look: Look, correcting: Correcting, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = correcting
        self.setObjectName("cam_case")
        self.setAccessibleName("Timing case, from the front")
        correcting.changed.connect(self.update)

    def paint(self, p: QPainter) -> None:
        """The case above, the list below."""
        theme, wide, high = self.look.theme, self.logical_width, self.logical_height
        model = self._model
        rows = moves_worth(model.drive)
        list_high = 34 + 38 * len(rows) if rows else 0
        head = QRectF(0, 0, wide, 20)
        draw_one_of(p, head, ("Timing case, seen from the front",), BODY, theme.ink2, Weight.LABEL)
        box = QRectF(4, 24, wide - 8, high - list_high - 56)
        engine = model.model.engine
        if engine.layout.form is Form.RADIAL:
            # Its cam ring has lobes of its own and turns at another speed: no gear like these.
            words = "A radial's cam ring is not drawn here."
            draw_one_of(p, QRectF(0, 30, wide, 22), (words,), NOTE, theme.ink2)
        elif box.height() > 150:
            TimingCase(box, engine, model.drive, model.which, theme).paint(p)
            row = QRectF(0, box.bottom() + 6, wide, 22)
            draw_one_of(p, row, (dots_words(model),), NOTE, theme.ink2)
        if not rows:
            return
        top = high - list_high
        draw_text(p, QRectF(0, top, wide, 26), "What each can do", LABEL, theme.ink, Weight.STRONG)
        row = QRectF(0, top, wide, 26)
        draw_text(p, row, "in crank degrees", NOTE, theme.ink2, align=RIGHT)
        for nth, (tag, words, worth) in enumerate(rows):
            y = top + 32 + 38 * nth
            p.setPen(flat_pen(theme.hair, 1.2))
            p.drawLine(QPointF(0, y - 2), QPointF(wide, y - 2))
            paint_letter(p, QRectF(2, y + 4, 24, 24), tag, theme)
            used = draw_text(p, QRectF(38, y, wide * 0.62, 34), words, BODY, theme.ink)
            cell = QRectF(44 + used, y, wide - 46 - used, 34)
            draw_one_of(p, cell, (worth,), BODY, theme.ink, Weight.STRONG, RIGHT)


def dots_words(correcting: Correcting) -> str:
    """Where the dots on the wheels meet, as far as the file says."""
    engine = correcting.model.engine
    if not engine.dots_fire:
        return "Where the dots meet is not in the file."
    at = float(engine.firing_offsets_deg[engine.dots_fire - 1])
    return f"Dots meet at {at:g}°, where {engine.dots_fire} fires."
