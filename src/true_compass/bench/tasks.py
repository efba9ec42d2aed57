"""What a student can be asked at the bench."""

from enum import Enum
from typing import Final

from true_compass.core.adjusting.setting import Way, settings_of
from true_compass.core.engine import Engine


class Task(Enum):
    """A task; its value is the word that files and commands hold."""

    TDC = "tdc"
    WHICH_TDC = "which-tdc"
    TRUE_TDC = "true-tdc"
    MARK = "mark"
    ORDER = "order"
    SET = "set"
    PRELOAD = "preload"
    BRIDGE = "bridge"
    FAULT = "fault"
    FREE = "free"

    @property
    def sets(self) -> bool:
        """Whether items are set and judged."""
        return self in (Task.SET, Task.PRELOAD, Task.BRIDGE)

    def title(self, cylinder: int = 0) -> str:
        """What is asked, with its cylinder where it has one.

        >>> Task.TDC.title(3)
        'Bring cylinder 3 to compression TDC'
        """
        return _TITLES[self].format(f"cylinder {cylinder}" if cylinder else "a cylinder")

    @property
    def passes(self) -> str:
        """When it is passed."""
        return _PASSES[self]


_TITLES: Final = {
    Task.TDC: "Bring {} to compression TDC",
    Task.WHICH_TDC: "Which TDC of {} is this?",
    Task.TRUE_TDC: "Find the true TDC of {} by two readings",
    Task.MARK: "Is the mark on the damper true?",
    Task.ORDER: "Firing order and rotor direction without a book",
    Task.SET: "Set all items",
    Task.PRELOAD: "Set the preload of all tappets",
    Task.BRIDGE: "Set bridges, then their rockers",
    Task.FAULT: "Find the fault",
    Task.FREE: "Free: no task",
}
_PASSES: Final = {
    Task.TDC: "the right stroke, within 4°",
    Task.WHICH_TDC: "the right one of the two",
    Task.TRUE_TDC: "within 0.3°",
    Task.MARK: "its error within 1°",
    Task.ORDER: "order and direction both right",
    Task.SET: "every item in its band on the heel, and none set off it",
    Task.PRELOAD: "every plunger inside its window",
    Task.BRIDGE: "every bridge and rocker in its band on the heel, and none set off it",
    Task.FAULT: "every fault named, and no other",
    Task.FREE: "nothing is judged",
}


def why_not(engine: Engine, task: Task) -> str:
    """Why an engine cannot carry a task, as the end of a sentence; nothing where it can."""
    ways = {setting.way for setting in settings_of(engine) if setting.can_be_set}
    if task is Task.ORDER and engine.cylinder_count == 1:
        return "has one cylinder: there is no order to find"
    if task is Task.PRELOAD and Way.PLUNGER not in ways:
        return "has no hydraulic tappets whose preload can be set"
    if task is Task.BRIDGE and Way.BRIDGE not in ways:
        return "has no bridges"
    if task is Task.SET and not ways:
        return "has nothing that can be set"
    return ""
