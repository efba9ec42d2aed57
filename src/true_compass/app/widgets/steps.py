"""The step buttons of a bar that turns the crank: five back, a plate, five on."""

from collections.abc import Callable
from typing import Final

from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import Look

STEPS_DEG: Final = (180, 90, 30, 5, 1)
SIZES: Final = {1: (42, 34), 5: (42, 38), 30: (50, 44), 90: (54, 50), 180: (58, 54)}
FULL_WIDTH: Final = 1180
"""Below this width a bar leaves out its largest steps and the words at its left."""
MINUS: Final = "\u2212"


class StepButton(DrawnButton):
    """A button that turns the crank by a fixed step, on or back."""

    def __init__(
        self, look: Look, step_deg: int, verb: str, turn: Callable[[float], object], parent: QWidget
    ) -> None:
        super().__init__(look, f"{'+' if step_deg > 0 else MINUS}{abs(step_deg)}°", parent)
        way = "on" if step_deg > 0 else "back"
        self.setAccessibleName(f"{verb} {abs(step_deg)} degrees {way}")
        self.setObjectName(f"{verb.lower()}_{step_deg}")
        self.step_deg = step_deg
        self._turn = turn
        self.clicked.connect(self._press)

    def _press(self) -> None:
        self._turn(float(self.step_deg))


def step_buttons(
    look: Look, verb: str, turn: Callable[[float], object], parent: QWidget
) -> list[StepButton]:
    """The ten of a bar, from the largest step back to the largest on."""
    steps = (*(-step for step in STEPS_DEG), *reversed(STEPS_DEG))
    return [StepButton(look, step, verb, turn, parent) for step in steps]


def arrange_steps(
    look: Look,
    buttons: list[StepButton],
    plate: QWidget,
    plate_width: float,
    width: float,
    middle: float,
) -> float:
    """Put the buttons and the plate between them in a bar so wide; where they end (unscaled)."""
    compact = width < FULL_WIDTH
    x = 20.0 if compact else 204.0
    for button in buttons:
        if button.step_deg == 1:
            plate.setGeometry(look.scaled(x + 2, middle - 29, plate_width, 58))
            x += plate_width + 4
        w, h = SIZES[abs(button.step_deg)]
        shown = not (compact and abs(button.step_deg) == 180)
        button.setVisible(shown)
        if shown:
            button.setGeometry(look.scaled(x, middle - h / 2, w, h))
            x += w + 3
    return x
