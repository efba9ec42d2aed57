"""The bar at the foot of the bench: steps, degrees since the chalk, chalk and rock. No angle."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QResizeEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.widgets.steps import FULL_WIDTH, arrange_steps, step_buttons
from true_compass.app.workspaces.bench.model import BenchModel, counted_words
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.text import CENTRE, LEFT, draw_text
from true_compass.drawing.theme import HEAD, LABEL, NOTE, Weight

HEIGHT = 74.0
READOUT = 150.0


class CountPlate(Painted):
    """Degrees since the chalk: hollow, because they are counted and not known."""

    def __init__(self, look: Look, model: BenchModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("count")
        self.setAccessibleName("Degrees since the chalk")
        model.changed.connect(self.update)

    def ground(self) -> QColor:
        """The bar shows at the corners."""
        return self.look.theme.well

    def paint(self, p: QPainter) -> None:
        """Draw the count."""
        theme, width = self.look.theme, self.logical_width
        head, foot = counted_words(self._model.bench)
        if self._model.role == "feels":
            head, foot = "–", "the other person turns"
        box = QRectF(0, 0, width, self.logical_height)
        rounded(p, box, 4, theme.sheet, flat_pen(theme.ink, 2))
        top = QRectF(4, 5, width - 8, 30)
        draw_text(p, top, head, HEAD, theme.ink, Weight.STRONG, CENTRE)
        draw_text(p, QRectF(4, 35, width - 8, 18), foot, NOTE, theme.ink, Weight.LABEL, CENTRE)


class BenchBar(Painted):
    """Bars the engine on the bench."""

    def __init__(self, look: Look, model: BenchModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("bench_bar")
        self.setAccessibleName("Turning the covered engine")
        self.steps = step_buttons(look, "Bar", model.bar, self)
        self.count = CountPlate(look, model, self)
        self.chalk = DrawnButton(look, "Chalk it here", self)
        self.rock = DrawnButton(look, "Rock it", self)
        self.chalk.clicked.connect(model.chalk)
        self.rock.clicked.connect(model.rock)
        look.changed.connect(self._arrange)
        model.changed.connect(self.update)

    def ground(self) -> QColor:
        """The bar lies in a well."""
        return self.look.theme.well

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put the buttons in their places."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        width, middle = self.logical_width, HEIGHT / 2
        x = arrange_steps(self.look, self.steps, self.count, READOUT, width, middle)
        left = x + 13
        each = (width - left - 16 - 9) / 2
        self.chalk.setGeometry(self.look.scaled(left, middle - 28, each, 56))
        self.rock.setGeometry(self.look.scaled(left + each + 9, middle - 28, each, 56))
        self.update()

    def paint(self, p: QPainter) -> None:
        """Draw the direction; the rest draws itself."""
        theme = self.look.theme
        p.setPen(QPen(theme.line, 1.4))
        p.drawLine(QPointF(0, 0.7), QPointF(self.logical_width, 0.7))
        if self.logical_width < FULL_WIDTH or self._model.bench is None:
            return
        engine = self._model.begun.run.work.engine
        p.setBrush(Qt.BrushStyle.NoBrush)
        word = engine.rotation.value.capitalize()
        draw_text(p, QRectF(24, 14, 176, 24), word, LABEL, theme.ink, Weight.STRONG, LEFT)
        seen = f"seen from the {engine.seen_from.value}"
        draw_text(p, QRectF(24, 37, 176, 20), seen, NOTE, theme.ink2, Weight.BODY, LEFT)
