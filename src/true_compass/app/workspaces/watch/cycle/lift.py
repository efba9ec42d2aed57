"""Lift against crank angle."""

from PyQt6.QtGui import QPainter

from true_compass.app.workspaces.watch.cycle.panel import Panel, valve_words
from true_compass.core.words import shown_degrees
from true_compass.drawing.lift_chart import LiftChart


class LiftPanel(Panel):
    """Lift against crank angle, the other cylinders behind."""

    def paint(self, p: QPainter) -> None:
        """The curves are a picture; cursor and sentence follow the crank."""
        self.setObjectName("lift")
        state, cylinder = self._context.session.state, self._model.cylinder
        chart = LiftChart(self.figure, state.shown, cylinder, self.look.theme)

        def still(q: QPainter) -> None:
            dashed = "; dashed: as set" if self._model.tried else ""
            others = ", the others behind it" if state.engine.cylinder_count > 1 else ""
            self.head(q, "Lift against crank angle", f"Cylinder {cylinder}{others}{dashed}")
            chart.paint(q)

        self.paint_whole(p, cylinder, still)
        chart.paint_cursor(p, state.crank_deg)
        rows = (2 * cylinder - 2, 2 * cylinder - 1)
        words = "; ".join(
            valve_words(
                state.engine.valves[row].name,
                float(state.now.lift_mm[row]),
                float(state.now.margin_deg[row]),
            )
            for row in rows
        )
        self.sentence(p, f"At {shown_degrees(state.crank_deg)}°: {words}.")
