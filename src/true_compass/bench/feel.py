"""What a hand feels, in words: every threshold stands here once (common practice, assumed)."""

from typing import Final

LOOSE_MM: Final = 0.02
DRAG_MM: Final = -0.01
FIRM_MM: Final = -0.03
JUST_FREE_MM: Final = 0.06

BLADE_SCATTER_MM: Final = 0.004
PLAY_SCATTER_MM: Final = 0.006
LINE_SCATTER_MM: Final = 0.15
LINE_STEP_MM: Final = 0.5
WHEEL_SCATTER_DEG: Final = 0.08
WHEEL_STEP_DEG: Final = 0.25
DIAL_SCATTER_MM: Final = 0.003
DIAL_STEP_MM: Final = 0.01
RIM_SCATTER_MM: Final = 0.2
RIM_STEP_MM: Final = 0.5
HEIGHT_SCATTER_MM: Final = 0.01
ROTOR_SCATTER_DEG: Final = 1.5
GAUGE_STEP_KPA: Final = 5.0
PUSH_KPA: Final = 10.0
SEEN_MOVING_MM: Final = 0.05
SEEN_DOWN_MM: Final = 1.0
"""What an eye calls moving, and what it calls open."""

BLADE_WORDS: Final = ("loose", "light drag", "firm", "will not go")
PLAY_WORDS: Final = ("loose", "just free", "tight")
LIFT_WORDS: Final = ("moves", "springy", "solid", "binds")
STIFF: Final = "stiff"
SPIN_WORDS: Final = ("up-and-down play", "spins", STIFF, "will not spin")


def blade_feel(room_mm: float) -> str:
    """How a blade goes that leaves so much room in its gap.

    >>> [blade_feel(room) for room in (0.05, 0.0, -0.02, -0.1)]
    ['loose', 'light drag', 'firm', 'will not go']
    """
    for least, word in zip((LOOSE_MM, DRAG_MM, FIRM_MM), BLADE_WORDS, strict=False):
        if room_mm > least:
            return word
    return BLADE_WORDS[-1]


def play_feel(gap_mm: float) -> str:
    """How a rocker with so much gap feels.

    >>> play_feel(0.2), play_feel(0.03), play_feel(-0.1)
    ('loose', 'just free', 'tight')
    """
    if gap_mm > JUST_FREE_MM:
        return "loose"
    return "just free" if gap_mm > 0 else "tight"


SINKS_MM: Final = 0.3
HARD_MM: Final = 0.03
SOLID_MM: Final = 0.5


def spin_feel(pushed_mm: float, travel_mm: float, soft: bool, settled: bool = True) -> str:
    """How a push rod spins between two fingers with its plunger pushed in so far.

    A soft plunger sinks under it: resistance comes later than on one that is pumped. One that is
    pumped and has just been pressed in stands hard until it has settled.

    >>> spin_feel(-0.1, 3.0, False), spin_feel(0.2, 3.0, True), spin_feel(0.2, 3.0, False)
    ('up-and-down play', 'spins', 'stiff')
    """
    if pushed_mm < 0:
        return "up-and-down play"
    if pushed_mm >= travel_mm:
        return "will not spin"
    if soft:
        return "spins" if pushed_mm < SINKS_MM else "stiff"
    if pushed_mm < HARD_MM:
        return "spins"
    return "stiff" if settled or pushed_mm < SOLID_MM else "will not spin"


def stepped(value: float, step: float) -> float:
    """A value as an instrument with such a step shows it.

    >>> stepped(11.37, 0.25)
    11.25
    """
    return round(round(value / step) * step, 6) + 0.0
