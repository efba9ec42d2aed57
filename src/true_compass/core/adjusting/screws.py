"""How far a gap or a plunger moves for each turn of its adjuster, and for each mm of shim.

The changes per turn are common practice (no source): with pitch p and ratio R the gap at the valve
changes by p for a screw at the valve end, p·R for one at the push-rod end, p·(1 + R) for a nut on
the pivot or a pedestal, p·(R − 1) for a screw at a finger's pivot.
"""

from typing import Final

from true_compass.core.items import Kind
from true_compass.core.valves.train import Adjuster, LashAt, Train

AS_SET_MM: Final = 0.005
"""Gaps nearer to each other than this are the same: half the least step of a blade."""


def gap_per_turn_mm(train: Train, kind: Kind) -> float | None:
    """How much one turn of the adjuster changes the gap at the valve; None where none does.

    >>> gap_per_turn_mm(Train(thread="M8x1"), Kind.INTAKE)
    1.0
    """
    return _per_turn_mm(train, kind, plunger=False)


def plunger_per_turn_mm(train: Train, kind: Kind) -> float | None:
    """How far one turn of the adjuster moves a hydraulic plunger; None where none does.

    >>> round(plunger_per_turn_mm(Train(adjuster=Adjuster.PIVOT_NUT, thread="3/8-24",
    ...     intake_ratio=1.5), Kind.INTAKE), 2)
    1.76
    """
    return _per_turn_mm(train, kind, plunger=True)


def _per_turn_mm(train: Train, kind: Kind, plunger: bool) -> float | None:
    pitch, ratio = train.pitch_mm, train.ratio(kind)
    at_valve = {
        Adjuster.VALVE_SCREW: 1.0,
        Adjuster.ROD_SCREW: ratio,
        Adjuster.PIVOT_NUT: 1.0 + ratio,
        Adjuster.STUD_NUT: 1.0 + ratio,
        Adjuster.PEDESTAL: 1.0 + ratio,
        Adjuster.PIVOT_SCREW: ratio - 1.0,
    }.get(train.adjuster, 0.0)
    if pitch is None or at_valve <= 0:
        return None
    return pitch * at_valve / (ratio if plunger else 1.0)


def shim_share(train: Train, kind: Kind) -> float:
    """How much thicker a shim must be for each mm that the measured gap is too wide.

    Gap and shim are at one place, or the gap is at the other end of a lever and the shim at the
    valve: then it is the ratio.
    """
    return train.ratio(kind) if train.lash_at in (LashAt.CAM, LashAt.ROD_END) else 1.0
