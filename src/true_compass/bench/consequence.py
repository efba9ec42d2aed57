"""What one item as it is left would do to the engine: a kind and an amount, which have words.

Common practice (no source); what follows from a gap is idealised.
"""

from dataclasses import dataclass
from enum import Enum
from typing import Final

from true_compass.bench.condition import travel_mm
from true_compass.core.adjusting.setting import Setting, Way

TICKS_OVER_MM: Final = 0.08
HOT_SHARE: Final = 0.4


class Effect(Enum):
    """What a wrong item does; the value is how that is said, `{}` an amount in mm."""

    NOTHING = ""
    SOLID = "solid: the valve hangs open"
    HAS_PLAY = "ticks"
    OUTSIDE = "outside its window"
    ONE_OPENS_LATE = "one valve opens late"
    ONE_HANGS = "one valve hangs open"
    DOSES_WRONG = "injects too much or too little"
    HELD_OPEN = "held open: it will not start well"
    HANGS_HOT = "hangs open hot"
    TICKS = "ticks; {:.2f} mm less lift"
    WIDE = "too wide"
    TIGHT = "too tight"

    @property
    def ticks(self) -> bool:
        """Whether it is heard."""
        return self in (Effect.HAS_PLAY, Effect.TICKS)

    @property
    def hangs(self) -> bool:
        """Whether a valve does not shut, so that the engine pulls weakly."""
        return self in (Effect.SOLID, Effect.ONE_HANGS, Effect.HELD_OPEN, Effect.HANGS_HOT)


@dataclass(frozen=True, slots=True)
class Consequence:
    """What an item does; `amount_mm` is the lift at the valve that is lost, where it is told."""

    effect: Effect = Effect.NOTHING
    amount_mm: float = 0.0

    @property
    def words(self) -> str:
        """In a few words; nothing where the item is within its limits."""
        return self.effect.value.format(self.amount_mm)


def consequence(setting: Setting, value_mm: float) -> Consequence:
    """What one item as it is left would do. `value_mm` is on the heel, as `Setting` measures it."""
    wide_mm = value_mm - setting.target_mm
    effect = Effect.NOTHING if setting.holds(value_mm) else _effect(setting, value_mm, wide_mm)
    # What one mm at the place of the gap is at the valve, near enough to tell a lift lost.
    lost_mm = wide_mm * setting.shim_per_gap if effect is Effect.TICKS else 0.0
    return Consequence(effect, lost_mm)


def _effect(setting: Setting, value_mm: float, wide_mm: float) -> Effect:
    if setting.way is Way.PLUNGER:
        if value_mm >= travel_mm(setting):
            return Effect.SOLID
        return Effect.HAS_PLAY if value_mm < 0 else Effect.OUTSIDE
    if setting.way is Way.BRIDGE:
        return Effect.ONE_OPENS_LATE if value_mm > 0 else Effect.ONE_HANGS
    if setting.way in (Way.HEIGHT, Way.CONTACT):
        return Effect.DOSES_WRONG
    if value_mm <= 0:
        return Effect.HELD_OPEN
    if value_mm < HOT_SHARE * setting.target_mm:
        return Effect.HANGS_HOT
    if wide_mm > TICKS_OVER_MM:
        return Effect.TICKS
    return Effect.WIDE if wide_mm > 0 else Effect.TIGHT
