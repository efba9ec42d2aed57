"""The covered engine on the screen: press what you want to reach."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.bench.model import BenchModel
from true_compass.bench.covered import Covered
from true_compass.core.crank.layout import Form
from true_compass.drawing.covered import EnginePainter, paint_dashes, paint_tag
from true_compass.drawing.scene import Place, Scene, other_row, scene_of
from true_compass.drawing.text import CENTRE, draw_one_of
from true_compass.drawing.theme import BODY, Weight

FOOT = 34.0


class SceneView(Painted):
    """The engine from outside, its places, and where tools are."""

    def __init__(self, look: Look, model: BenchModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self._at = -1
        self._laid: tuple[object, Scene, Covered] | None = None
        self.setObjectName("covered_engine")
        self.setAccessibleName("The covered engine")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.walk = DrawnButton(look, "", self)
        self.walk.setObjectName("other_row")
        self.walk.clicked.connect(self.other_side)
        self.walk.hide()
        look.changed.connect(self._arrange)
        model.changed.connect(self._arrange)

    covers_ground = True

    def ground(self) -> QColor:
        """A sheet."""
        return self.look.theme.sheet

    def scene(self) -> Scene:
        """The geometry, at this size."""
        work, row = self._model.begun.run.work, self._model.row_shown
        key = (id(work), self.logical_width, self.logical_height, row)
        if self._laid is None or self._laid[0] != key:
            box = self._room()
            # The engine is kept as well, so that no other can come to have its number.
            self._laid = (key, scene_of(work, box, row), work)
        return self._laid[1]

    def _room(self) -> QRectF:
        return QRectF(0, 0, self.logical_width, self.logical_height - FOOT)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put the button in its place."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        words = other_row(self._model.begun.run.work, self._room()) if self._model.bench else ""
        if bool(words) != self.walk.isVisibleTo(self) or self.walk.text() != f"{words} (V)":
            self.walk.setVisible(bool(words))
            self.walk.setText(f"{words} (V)")
        place = self.look.scaled(self.logical_width - 152, 2, 146, 26)
        if place != self.walk.geometry():
            self.walk.setGeometry(place)
        self.update()

    def paint(self, p: QPainter) -> None:
        """Draw the engine, the places that take the tool, and the sentence at the foot."""
        theme = self.look.theme
        if self._model.bench is None:
            return
        scene, bench = self.scene(), self._model.begun
        painter = EnginePainter(scene, bench.run.work, theme, self.stills)
        state = bench.run.state
        key = ("engine", id(bench.run.work), self._model.row_shown, painter.still_key(state))

        def still(q: QPainter) -> None:
            painter.paint_still(q, state)

        self.paint_whole(p, key, still)
        painter.paint_moving(p, state)
        for place in scene.places:
            if self._model.accepts(place):
                paint_dashes(p, place.box.adjusted(2, 2, -2, -2), theme.now)
        self._tags(p, scene)
        if self._shows_focus and self.hasFocus():
            places = self._reachable()
            if 0 <= self._at < len(places):
                paint_dashes(p, places[self._at].box, theme.ink)
        foot = QRectF(14, self.logical_height - FOOT, self.logical_width - 28, FOOT - 4)
        draw_one_of(p, foot, self._words(), BODY, theme.ink, Weight.LABEL, CENTRE)

    def _words(self) -> tuple[str, ...]:
        model = self._model
        layout = model.begun.run.work.engine.layout
        if layout.form is Form.FLAT and not model.sentence:
            bank = layout.banks[model.stands_at()].name
            return (f"You stand at bank {bank}. V walks round to the other side.",)
        if model.sentence:
            return model.sentence, model.sentence.partition(":")[0]
        state = model.begun.run.state
        if any(part.startswith("cover") for part in state.parts_on):
            return ("The inside is covered. Press a cover, a plug or the cap to take it off.",)
        return ("Take a tool, then press where it goes. Press a valve to measure it.",)

    def _tags(self, p: QPainter, scene: Scene) -> None:
        model, state = self._model, self._model.begun.run.state
        theme = self.look.theme
        spots = []
        if model.thumb:
            spots.append(("T", scene.place("hole", model.thumb), "now"))
        if state.line:
            spots.append(("L", scene.place("hole", state.line), "ink"))
        if state.stop is not None:
            spots.append(("O", scene.place("hole", state.stop[0]), "ink"))
        if state.dial is not None:
            kind = "rocker" if state.dial.item else "hole"
            spots.append(("A", scene.place(kind, state.dial.cylinder, state.dial.item), "ink"))
        for letter, place, how in spots:
            if place is not None:
                at = place.box.center() + QPointF(14, -12)
                paint_tag(p, QRectF(at.x(), at.y(), 24, 24), letter, theme, how)

    # Hands -----------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Use the hand at the place under the pointer."""
        if event is None or self._model.bench is None:
            return
        at = event.position() / self.look.scale
        place = self._pick(at)
        if place is not None:
            self._model.press(place)

    def _pick(self, at: QPointF) -> Place | None:
        """The place under a point: what the tool goes to first, a cover before what it hides."""
        scene, state = self.scene(), self._model.begun.run.state
        under = [place for place in scene.places if place.box.contains(at)]
        covered = [
            place
            for place in under
            if place.kind == "cover" and self._model.part_of(place) in state.parts_on
        ]
        wanted = [place for place in under if self._model.accepts(place)]
        if covered and not wanted:
            return covered[0]
        under = wanted or [place for place in under if place.kind != "cover"] or under
        return min(under, key=lambda p: p.box.width() * p.box.height(), default=None)

    def _reachable(self) -> list[Place]:
        """What the keys walk through: the places of the tool in the hand, or all."""
        places = list(self.scene().places)
        return [place for place in places if self._model.accepts(place)] or places

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and Down walk from place to place, Return uses the hand there."""
        if event is None or self._model.bench is None:
            return
        places = self._reachable()
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            self._at = (self._at + step) % len(places)
            self._shows_focus = True
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and 0 <= self._at < len(places):
            self._model.press(places[self._at])
        else:
            event.ignore()

    def press_cylinder(self, cylinder: int) -> None:
        """Move the hand to a cylinder: the first place of it that takes the tool."""
        for nth, place in enumerate(self._reachable()):
            if place.cylinder == cylinder:
                self._at = nth
                break
        self._model.cylinder = cylinder
        self.setFocus()
        self._shows_focus = True
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """The wheel bars the engine, 5° a notch."""
        if event is not None and event.angleDelta().y():
            step = 1.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 5.0
            self._model.bar(step if event.angleDelta().y() < 0 else -step)

    def other_side(self) -> None:
        """V: the other row of a radial, or the other bank where only one has room."""
        self._model.row_shown += 1
        self._model.changed.emit()
