"""Crank angles: one cycle of 720°, wrapping, and differences on the circle.

Angles are degrees of crank, growing in the running direction. Every function takes a scalar or an
array of any shape and returns the same shape.
"""

from typing import Final, overload

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

CYCLE_DEG: Final = 720.0
"""One four-stroke cycle: two turns of the crank, one turn of the cam."""

TURN_DEG: Final = 360.0

MANY_ANGLES: Final = 100


@overload
def wrap_deg(angle_deg: float) -> float: ...
@overload
def wrap_deg(angle_deg: Floats) -> Floats: ...
def wrap_deg(angle_deg: float | Floats) -> float | Floats:
    """The same place in the cycle, in [0, 720).

    The remainder of a tiny negative number rounds up to exactly 720, so it is taken twice.

    >>> wrap_deg(-30.0), wrap_deg(1450.0), wrap_deg(-1e-146)
    (690.0, 10.0, 0.0)
    """
    if isinstance(angle_deg, np.ndarray) and angle_deg.size >= MANY_ANGLES:
        # Divisions are slow, and many angles lie in the cycle as a rule. Adding 0 ends "-0".
        is_inside = angle_deg.min() >= 0.0 and angle_deg.max() < CYCLE_DEG
        if is_inside:
            return angle_deg + 0.0
    return (angle_deg % CYCLE_DEG) % CYCLE_DEG


def signed_difference_deg(to_deg: Floats, from_deg: Floats) -> Floats:
    """How far `to_deg` lies on from `from_deg` on the 720° circle, in [-360, 360).

    >>> signed_difference_deg(np.array([10.0, 700.0]), np.array([700.0, 10.0])).tolist()
    [30.0, -30.0]
    """
    half = CYCLE_DEG / 2
    return wrap_deg(to_deg - from_deg + half) - half


def apart_deg(one_deg: float, other_deg: float) -> float:
    """How far two angles of a turn are apart, in [0, 180].

    >>> apart_deg(350.0, 10.0)
    20.0
    """
    return abs((one_deg - other_deg + TURN_DEG / 2) % TURN_DEG - TURN_DEG / 2)


def degrees_on(to_deg: float, from_deg: float) -> float:
    """Degrees to turn in the running direction from one place to another, in [0, 720).

    >>> degrees_on(to_deg=20.0, from_deg=700.0)
    40.0
    """
    return wrap_deg(to_deg - from_deg)


_kept: dict[str, Floats] = {}
MOST_KEPT: Final = 500_000

# The GNU allocator gives what it is handed back to the system, and clears every page of it when it
# is asked again, until it has once seen a larger block come back (mallopt(3), M_MMAP_THRESHOLD).
# A state at many angles is a megabyte of results, and a fifth of its time was clearing. So:
np.empty(MOST_KEPT)
# A column under rows of angles is copied out into buffers where several rows would fit in one: the
# sum takes two or three times as long as without. So a buffer holds less than two rows.
np.setbufsize(1024)


def scratch(name: str, shape: tuple[int, ...]) -> Floats:
    """Room for a figure on the way to another, the same room again for the same name and shape.

    New room costs more than the sums that are done in it: the system clears every page. Nothing
    that is handed on may be in it. Its content is whatever was left there.
    """
    kept = _kept.get(name)
    if kept is not None and kept.shape == shape:
        return kept
    made = np.empty(shape)
    if made.size <= MOST_KEPT:
        _kept[name] = made
    return made


def bring_into_cycle(angle_deg: Floats) -> None:
    """In place, angles in (-720, 720) to the same places in [0, 720): a division costs more."""
    add = scratch("add", angle_deg.shape)
    np.multiply(angle_deg < 0.0, CYCLE_DEG, out=add)
    angle_deg += add


def over_angles(per_row: Floats, crank_deg: Floats) -> Floats:
    """One value a row, shaped to combine with a scalar or an array of angles on the last axis."""
    return per_row.reshape(per_row.shape + (1,) * crank_deg.ndim)
