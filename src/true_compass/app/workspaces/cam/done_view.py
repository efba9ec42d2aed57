"""All is read: what to be sure of, and where to go on. It stands in the place of the keys."""

from dataclasses import replace

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.cam.model import CamModel
from true_compass.app.workspaces.cam.ticks import TickButton
from true_compass.drawing.codes import paint_tick
from true_compass.drawing.text import CENTRE, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, LEAD, Weight


class DoneView(PageView):
    """Two things that the readings show, one that only the person knows, and three ways on."""

    def __init__(self, look: Look, model: CamModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("cam_done")
        self.setAccessibleName("All read")
        self.onward = TickButton(look, "Turned on only, never back", self)
        self.onward.setObjectName("never_back")
        self.onward.clicked.connect(self._tick)
        self.plan = DrawnButton(look, "Plan the correction", self)
        self.plan.setObjectName("plan_correction")
        self.report = DrawnButton(look, "Print report…", self)
        self.report.setObjectName("print_report")
        self.table = DrawnButton(look, "Write readings…", self)
        self.table.setObjectName("write_readings")
        model.changed.connect(self.refresh)
        look.changed.connect(self.refresh)
        self.refresh()

    def _tick(self) -> None:
        sheet = self._model.sheet
        changed = replace(sheet, turned_on_only=not sheet.turned_on_only)
        self._model.write(changed, "a tick")

    def show_state(self) -> None:
        """Put the state of the model into the widgets."""
        self.onward.show_ticked(self._model.sheet.turned_on_only)
        need = self._model.result.need_deg or 0.0
        told = f"{abs(need):.1f}° on, five best ways" if need > 0 else f"{abs(need):.1f}° back"
        if abs(need) < 0.05:
            told = "it stands as the card has it"
        self.plan.set_words("Plan the correction", told)
        self.arrange()
        self.update()

    def arrange(self) -> None:
        """Put every widget in its place."""
        put, wide, high = self.look.scaled, self.logical_width, self.logical_height
        self.onward.setGeometry(put(0, 84, wide, 36))
        half = (wide - 8) / 2
        self.plan.setGeometry(put(0, high - 112, wide, 58))
        self.report.setGeometry(put(0, high - 46, half, 42))
        self.table.setGeometry(put(half + 8, high - 46, half, 42))

    def paint(self, p: QPainter) -> None:
        """What the readings show by themselves."""
        theme, wide, model = self.look.theme, self.logical_width, self._model
        draw_text(p, QRectF(0, 0, wide, 26), "All read", LEAD, theme.ink, Weight.STRONG)
        noses = model.result.noses
        top = model.result.top
        set_ = top is not None and top.top.is_set
        still = bool(noses) and all(nose.nose.stands_still for nose in noses.values())
        for nth, (done, good, bad) in enumerate(
            (
                (set_, "Pointer at true TDC", "Pointer off: taken off every reading"),
                (still, "The middles stand still", "A middle walks: turned back between?"),
            )
        ):
            at = QPointF(9, 40 + 26 * nth)
            words = good if done else bad
            row = QRectF(30, 28 + 26 * nth, wide - 30, 24)
            if done:
                paint_tick(p, at, 13, theme.ink)
            else:
                box = QRectF(at.x() - 8, at.y() - 10, 18, 20)
                draw_text(p, box, "!", BODY, theme.ink, Weight.STRONG, CENTRE)
            draw_one_of(p, row, (words,), BODY, theme.ink)
