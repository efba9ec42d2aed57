"""A square that holds a crank's keyway at a right angle to the split of its case."""

from dataclasses import dataclass
from typing import Final

from true_compass.core.limits import EngineError
from true_compass.core.paper.wheel import check_size

LEAST_SHAFT_MM, MOST_SHAFT_MM = 8.0, 120.0
SWING_DEG: Final = 20
"""How far beside the square its ticks go, each way."""


@dataclass(frozen=True, slots=True)
class Keyway:
    """A shaft and its key, mm. Raises `EngineError` for sizes that no shaft has."""

    shaft_mm: float = 25.0
    key_mm: float = 5.0

    def __post_init__(self) -> None:
        check_size("shaft", self.shaft_mm, LEAST_SHAFT_MM, MOST_SHAFT_MM)
        most = self.shaft_mm / 2
        if not 1.0 <= self.key_mm <= most:
            raise EngineError(
                "key",
                f"must be from 1 to {most:g} mm wide in a shaft of {self.shaft_mm:g} mm, "
                f"not {self.key_mm:g}",
            )
