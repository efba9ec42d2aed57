"""Advance: initial, weights and vacuum added up, in crank degrees before TDC.

Each curve is straight from point to point and level outside them. What stands at the distributor
counts double at the crank: it turns half as fast.
"""

import math
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from true_compass.core.angles import TURN_DEG, Floats
from true_compass.core.spark import Advance, Points, Port

ASSUMED_IDLE: Final = (750.0, 500.0)
ASSUMED_CRUISE: Final = (2400.0, 330.0)
"""Speed in rpm and depression in mbar where the file gives none (common practice, no source)."""
MOST_STARTER_DEG: Final = 16.0
"""What a starter bears where the file gives nothing (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class Parts:
    """What an advance is made of, crank degrees."""

    initial_deg: float
    mechanical_deg: float
    vacuum_deg: float

    @property
    def total_deg(self) -> float:
        """All three together: what a timing lamp shows."""
        return self.initial_deg + self.mechanical_deg + self.vacuum_deg


DEEPEST_MBAR: Final = 700.0
"""As deep as a manifold pulls, and where scales end (common practice, no source)."""


def told_at(advance: Advance, *, distributor: bool) -> Advance:
    """The same advance, its points told at the distributor or at the crank."""
    if distributor is advance.at_distributor:
        return advance
    by = 0.5 if distributor else 2.0
    return replace(
        advance,
        weights=tuple((by * at, by * deg) for at, deg in advance.weights),
        can=tuple((at, by * deg) for at, deg in advance.can),
        at_distributor=distributor,
    )


def at_crank(advance: Advance) -> tuple[Points, Points]:
    """Weights and can in rpm and degrees of the crank."""
    told = told_at(advance, distributor=False)
    return told.weights, told.can


def _along(points: Points, at: float | Floats) -> Floats:
    if not points:
        return np.zeros_like(np.asarray(at, dtype=float))
    x, y = zip(*points, strict=True)
    return np.asarray(np.interp(at, x, y))


def mechanical_deg(advance: Advance, speed_rpm: float | Floats) -> Floats:
    """What the weights add at crank speeds of any shape."""
    return _along(at_crank(advance)[0], speed_rpm)


def vacuum_deg(advance: Advance, depression_mbar: float | Floats) -> Floats:
    """What the can adds at depressions of any shape."""
    return _along(at_crank(advance)[1], depression_mbar)


def parts_at(advance: Advance, speed_rpm: float, depression_mbar: float = 0.0) -> Parts:
    """The advance at a crank speed and a depression at the can; 0 is wide open, or the hose off.

    >>> book = Advance(8.0, ((900.0, 0.0), (3200.0, 24.0)), ((100.0, 0.0), (400.0, 14.0)))
    >>> round(parts_at(book, 2000.0, 250.0).total_deg, 1)
    26.5
    """
    return Parts(
        advance.initial_deg or 0.0,
        float(mechanical_deg(advance, speed_rpm)),
        float(vacuum_deg(advance, depression_mbar)),
    )


def total_deg(advance: Advance, speed_rpm: Floats, depression_mbar: Floats) -> Floats:
    """Totals over speeds `(N,)` and depressions `(M,)`, shape `(N, M)`."""
    level = (advance.initial_deg or 0.0) + mechanical_deg(advance, speed_rpm)
    return np.asarray(level[:, None] + vacuum_deg(advance, depression_mbar)[None, :])


@dataclass(frozen=True, slots=True)
class Place:
    """A place that matters: its name, speed, depression at the can, and the advance there."""

    name: str
    speed_rpm: float
    depression_mbar: float
    parts: Parts
    assumed: bool


def full_at_rpm(advance: Advance) -> float:
    """Crank speed from which the weights are all out; 0 without any."""
    weights, _ = at_crank(advance)
    return weights[-1][0] if weights else 0.0


def begins_at_rpm(advance: Advance) -> float:
    """Crank speed up to which the weights stay in; 0 without any."""
    weights, _ = at_crank(advance)
    return weights[0][0] if weights else 0.0


def three_places(advance: Advance) -> tuple[Place, Place, Place]:
    """Idle, cruise and wide open. A ported hose gives nothing at idle."""
    idle_rpm = advance.idle_rpm or ASSUMED_IDLE[0]
    idle_mbar = advance.idle_mbar or ASSUMED_IDLE[1]
    at_idle = 0.0 if advance.port is Port.PORTED else idle_mbar
    cruise_rpm = advance.cruise_rpm or ASSUMED_CRUISE[0]
    cruise_mbar = advance.cruise_mbar or ASSUMED_CRUISE[1]
    full_rpm = full_at_rpm(advance) or ASSUMED_CRUISE[0]
    idle_known = bool(advance.idle_rpm and (advance.idle_mbar or advance.port is Port.PORTED))
    cruise_known = bool(advance.cruise_rpm and advance.cruise_mbar)
    return (
        _place(advance, "Idle", idle_rpm, at_idle, assumed=not idle_known),
        _place(advance, "Cruise", cruise_rpm, cruise_mbar, assumed=not cruise_known),
        _place(advance, "Wide open", full_rpm, 0.0, assumed=False),
    )


def _place(advance: Advance, name: str, rpm: float, mbar: float, *, assumed: bool) -> Place:
    return Place(name, rpm, mbar, parts_at(advance, rpm, mbar), assumed)


@dataclass(frozen=True, slots=True)
class Check:
    """Something to know before the body is turned: fine or not, what, and why."""

    fine: bool
    said: str
    why: str = ""


def check_total(advance: Advance) -> Check | None:
    """Whether the engine bears its total wide open; None where no limit is known."""
    most = advance.most_wide_open_deg
    if most is None:
        return None
    total = three_places(advance)[2].parts.total_deg
    if total <= most:
        return Check(True, f"Wide open {total:.1f}°, {most - total:.1f}° under the limit")
    said = f"Wide open {total:.1f}°, {total - most:.1f}° over the limit"
    return Check(False, said, "It knocks: less initial, or weights that stop sooner.")


def limit_checks(advance: Advance) -> tuple[Check, ...]:
    """Limits that hold or are passed: the total wide open, and the initial for the starter."""
    total = check_total(advance)
    found = [] if total is None else [total]
    starter = advance.most_starter_deg
    limit = MOST_STARTER_DEG if starter is None else starter
    initial = advance.initial_deg
    if initial is not None and initial > limit:
        found.append(
            Check(False, f"{initial:g}° is too much for the starter", f"Most {limit:g}°: it kicks.")
        )
    return tuple(found)


def checks(advance: Advance) -> tuple[Check, ...]:
    """Limits that hold or are passed, and what to do first."""
    idle, initial = three_places(advance)[0], advance.initial_deg
    found = list(limit_checks(advance))
    begins = begins_at_rpm(advance)
    if advance.weights:
        low = idle.speed_rpm < begins
        why = "" if low else f"They begin at {begins:,.0f} rpm: set it more slowly."
        state = "below the weights" if low else "already in the weights"
        found.append(Check(low, f"Idle, {idle.speed_rpm:,.0f} rpm, is {state}", why))
    if advance.can and initial is not None:
        found.append(Check(False, "Pull and plug the hose first", hose_words(advance, initial)))
    return tuple(found)


def hose_words(advance: Advance, initial_deg: float) -> str:
    """What is left of an initial that was set with the hose on."""
    idle = three_places(advance)[0]
    vacuum = idle.parts.vacuum_deg
    if not vacuum:
        return "A ported hose gives nothing at idle; a mixed-up one does."
    left = f"{initial_deg - vacuum:g}".replace("-", "−")
    return f"Set to {initial_deg:g}° with it on, and {left}° is left without: slow, hot."


def rim_mm(diameter_mm: float, angle_deg: float) -> float:
    """Millimetres along a damper's rim: πD/360 a degree (arithmetic).

    >>> round(rim_mm(160.0, 32.0), 2)
    44.68
    """
    return math.pi * diameter_mm * angle_deg / TURN_DEG
