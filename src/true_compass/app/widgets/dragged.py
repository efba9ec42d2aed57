"""A slider for one figure on a plain scale: drag it, turn the wheel on it, or use the arrows."""

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look
from true_compass.app.widgets.slider import Slider


class FigureSlider(Slider):
    """The track begins at its left end; what the figure is, its owner keeps."""

    moved = pyqtSignal(float)

    def __init__(
        self,
        look: Look,
        parent: QWidget,
        label: str,
        reach: tuple[float, float],
        step: float,
        held: Callable[[], float],
        said: Callable[[float], str],
    ) -> None:
        self._held, self._said = held, said
        super().__init__(look, parent, label, reach, step)
        self.setAccessibleName(label)

    @property
    def value(self) -> float:
        """The figure."""
        return self._held()

    def put(self, value: float) -> None:
        """Another figure."""
        if value != self.value:
            self.moved.emit(value)

    def words(self) -> str:
        """The figure with its unit."""
        return self._said(self.value)
