"""When each cylinder fires, and what it is doing at a crank angle.

Shapes: a result for every cylinder has the cylinders on its first axis and the angles, if an array
was given, on its last: `(C,)` or `(C, N)`.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from true_compass.core.angles import (
    CYCLE_DEG,
    TURN_DEG,
    Bools,
    Floats,
    bring_into_cycle,
    degrees_on,
    over_angles,
    scratch,
    signed_difference_deg,
    wrap_deg,
)
from true_compass.core.crank.firing import SAME_DEG
from true_compass.core.engine import Engine

AT_TDC_DEG: Final = 0.5
""""At TDC" means within this many crank degrees of it."""


def cycle_angles_deg(offsets_deg: Floats, crank_deg: float | Floats) -> Floats:
    """Cycle angle of each row at the crank angle: degrees on from its own compression TDC.

    `offsets_deg` are in [0, 720).

    >>> cycle_angles_deg(np.array([0.0, 540.0]), 180.0).tolist()
    [180.0, 360.0]
    """
    crank = wrap_deg(np.asarray(crank_deg, dtype=float))
    cycle = np.asarray(crank - over_angles(offsets_deg, crank))
    if not crank.ndim:
        return wrap_deg(cycle)
    # Both lie in one cycle, so one cycle more brings what is negative back: no division.
    bring_into_cycle(cycle)
    cycle[cycle >= CYCLE_DEG] = 0.0  # a hair below nothing, rounded up
    return cycle


def strokes(cycle_deg: Floats) -> np.ndarray[tuple[int, ...], np.dtype[np.intp]]:
    """`Stroke` numbers of cycle angles in [0, 720); any shape."""
    if cycle_deg.ndim < 2:
        return (cycle_deg // 180.0).astype(np.intp)
    # For many angles comparing is quicker than dividing.
    number = (cycle_deg >= 180.0).astype(np.int8)
    for begins_deg in (360.0, 540.0):
        number += cycle_deg >= begins_deg
    return number.astype(np.intp)


def at_tdc(cycle_deg: Floats) -> tuple[Bools, Bools]:
    """Whether each cycle angle is within 0.5° of compression TDC, and of overlap TDC; any shape.

    Angles may lie half a cycle outside [0, 720), as a true dead centre's do.
    """
    # From the nearer overlap TDC: 360 is compression TDC, 0 and 720 are overlap TDCs.
    from_overlap_deg = np.abs(cycle_deg, out=scratch("at_tdc", np.shape(cycle_deg)))
    from_overlap_deg -= TURN_DEG
    np.abs(from_overlap_deg, out=from_overlap_deg)
    overlap = (from_overlap_deg <= AT_TDC_DEG) | (from_overlap_deg >= CYCLE_DEG - AT_TDC_DEG)
    from_overlap_deg -= TURN_DEG
    np.abs(from_overlap_deg, out=from_overlap_deg)
    return np.asarray(from_overlap_deg <= AT_TDC_DEG), np.asarray(overlap)


def companion_of(engine: Engine, cylinder: int) -> int | None:
    """The cylinder that rises with this one and is in overlap when this one fires, if any.

    Companions follow from the nominal angles. Of several the lowest number is given.

    >>> from true_compass.core.engine import even_inline
    >>> companion_of(even_inline((1, 3, 4, 2)), 1), companion_of(even_inline((1, 3, 2)), 1)
    (4, None)
    """
    offsets = engine.firing_offsets_deg
    apart = np.abs(signed_difference_deg(offsets, offsets[cylinder - 1]))
    rows = np.flatnonzero(apart > TURN_DEG - SAME_DEG)
    return int(rows[0]) + 1 if len(rows) else None


def crank_pins(engine: Engine) -> tuple[tuple[float, tuple[int, ...]], ...]:
    """Crank pin angles with the cylinders on them, as `(degrees, cylinders)`, from cylinder 1 on.

    The angle is that by which the pin follows the pin of cylinder 1 in the running direction, 0 to
    360. Without pins (typed angles) it is where a pin would stand on an inline.
    """
    layout = engine.layout
    angles = -layout.tdc_deg if layout.typed_tdc_deg else layout.pin_deg - layout.pin_deg[0]
    by_angle: dict[float, list[int]] = {}
    for cylinder, angle in zip(engine.cylinders, angles.tolist(), strict=True):
        by_angle.setdefault(round(angle % TURN_DEG, 6) % TURN_DEG, []).append(cylinder)
    return tuple((angle, tuple(by_angle[angle])) for angle in sorted(by_angle))


@dataclass(frozen=True, slots=True)
class DueToFire:
    """The cylinder due, degrees before its compression TDC (0 when at it), companion or None.

    `together` are the other cylinders that fire at the same angle.
    """

    cylinder: int
    before_deg: float
    companion: int | None
    together: tuple[int, ...] = ()


def due_to_fire(engine: Engine, offsets_deg: Floats, crank_deg: float) -> DueToFire:
    """The cylinder at compression TDC, or the one that comes to it next.

    >>> from true_compass.core.engine import even_inline
    >>> four = even_inline((1, 3, 4, 2))
    >>> due_to_fire(four, four.firing_offsets_deg, 170.0)
    DueToFire(cylinder=3, before_deg=10.0, companion=2, together=())
    """
    on_deg = [degrees_on(float(offset), crank_deg) for offset in offsets_deg]
    row = min(range(len(on_deg)), key=lambda i: (on_deg[i] + AT_TDC_DEG) % CYCLE_DEG)
    at_it = min(on_deg[row], CYCLE_DEG - on_deg[row]) <= AT_TDC_DEG
    together = tuple(
        other + 1
        for other, on in enumerate(on_deg)
        if other != row and abs(on - on_deg[row]) < 0.01
    )
    before_deg = 0.0 if at_it else on_deg[row]
    return DueToFire(row + 1, before_deg, companion_of(engine, row + 1), together)
