"""A scenario: an engine, a task, faults, and the chance that fixes the rest.

It holds a full copy of the engine, so that a whole class can have the same one.
"""

from dataclasses import dataclass, field
from enum import Enum
from typing import Final

from true_compass.bench.faults import check_faults
from true_compass.bench.seal import Seal
from true_compass.bench.tasks import Task, why_not
from true_compass.core.adjusting.schools import BY_WORD
from true_compass.core.adjusting.setting import settings_of
from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError

MOST_SEED: Final = 999_999_999
MOST_HARDNESS: Final = 5


class Hand(Enum):
    """How far the readings of a hand scatter. A setting: nobody is measured by it."""

    STEADY = "steady"
    USUAL = "usual"
    CLUMSY = "clumsy"

    @property
    def scatter(self) -> float:
        """Its scatter as a share of the usual one."""
        return {Hand.STEADY: 0.4, Hand.USUAL: 1.0, Hand.CLUMSY: 2.5}[self]


@dataclass(frozen=True, slots=True)
class ItemSaid:
    """How one item is found, written by hand; None is left to the seed."""

    name: str
    found_mm: float | None = None
    nut_moves_mm: float | None = None


@dataclass(frozen=True, slots=True)
class Said:
    """Parts of the hidden condition that a scenario's writer fixes; None is left to the seed.

    `start_deg` is the crank angle at which the engine is found, [0, 720).
    """

    start_deg: float | None = None
    cam_slack_deg: float | None = None
    rotor_slack_deg: float | None = None
    slack_open: bool | None = None
    mark_error_deg: float | None = None
    head_torqued: bool | None = None
    pumped: bool | None = None
    items: tuple[ItemSaid, ...] = ()


@dataclass(frozen=True, slots=True)
class Scenario:
    """One covered engine to work on. `hardness` is 1 to 5; `method` a way of adjusting."""

    engine: Engine
    task: Task = Task.FREE
    cylinder: int = 1
    seed: int = 1
    hardness: int = 2
    hand: Hand = Hand.USUAL
    faults: tuple[str, ...] = ()
    method: str = "two-stop"
    said: Said = Said()
    rig: str = ""
    title: str = ""
    note: str = ""
    seal: Seal | None = field(default=None, compare=False, repr=False)
    """Under which it was opened, if it was sealed."""

    def __post_init__(self) -> None:
        engine = self.engine
        if not 1 <= self.cylinder <= engine.cylinder_count:
            raise EngineError(
                "cylinder", f"must be 1 to {engine.cylinder_count} here, not {self.cylinder}"
            )
        if not 0 <= self.seed <= MOST_SEED:
            raise EngineError("seed", f"must be 0 to {MOST_SEED}, not {self.seed}")
        if not 1 <= self.hardness <= MOST_HARDNESS:
            raise EngineError("hardness", f"must be 1 to {MOST_HARDNESS}, not {self.hardness}")
        if self.method not in BY_WORD:
            raise EngineError("method", f"must be one of {', '.join(BY_WORD)}, not {self.method}")
        reason = why_not(engine, self.task)
        if reason:
            raise EngineError("task", f"is {self.task.value}, but this engine {reason}")
        check_faults(engine, self.faults)
        check_said(engine, self.said)

    @property
    def shown_title(self) -> str:
        """Its title, or what is asked."""
        return self.title or self.task.title(self.cylinder)

    @property
    def number_words(self) -> str:
        """Which covered engine it is. The number tells all that is hidden, so a sealed one has
        none.
        """
        return "Sealed engine" if self.seal is not None else f"Covered engine {self.seed}"


_SAID_LIMITS: Final = {
    "start_deg": (0.0, 720.0),
    "cam_slack_deg": (0.0, 20.0),
    "rotor_slack_deg": (0.0, 20.0),
    "mark_error_deg": (-60.0, 60.0),
}


def check_said(engine: Engine, said: Said) -> None:
    """Raise unless what a writer fixed can be on this engine."""
    for key, (least, most) in _SAID_LIMITS.items():
        value = getattr(said, key)
        if value is not None and not least <= value <= most:
            raise EngineError(f"condition.{key}", f"must be {least:g} to {most:g}, not {value:g}")
    names = [setting.name for setting in settings_of(engine)]
    for item in said.items:
        if item.name not in names:
            raise EngineError(
                "item.name", f"is {item.name[:20]!r}, but this engine has {names[0]} to {names[-1]}"
            )
        for value in (item.found_mm, item.nut_moves_mm):
            if value is not None and not -5.0 <= value <= 500.0:
                raise EngineError("item", f"{item.name} must be -5 to 500 mm, not {value:g}")
