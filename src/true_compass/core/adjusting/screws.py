"""How far a gap or a plunger moves for each turn of its adjuster, and for each mm of shim.

The changes per turn are common practice (no source): with pitch p and ratio R the gap at the valve
changes by p for a screw at the valve end, p·R for one at the push-rod end, p·(1 + R) for a nut on
the pivot or a pedestal, p·(R − 1) for a screw at a finger's pivot.
"""

from dataclasses import dataclass
from typing import Final

from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
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
        # With the valve between pivot and cam (a ratio below 1) the screw works the other way.
        Adjuster.PIVOT_SCREW: abs(ratio - 1.0),
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


@dataclass(frozen=True, slots=True)
class ScrewTurn:
    """How far an adjuster is turned (degrees, ≥ 0), which way, and the gap after that in mm.

    `direction` is `tighter`, `looser` or `none`, and speaks of the gap, not of clockwise.
    """

    turn_deg: float
    direction: str
    new_mm: float


def turn_to(train: Train, kind: Kind, measured_mm: float, target_mm: float) -> ScrewTurn:
    """The turn that brings a gap at the valve from `measured_mm` to `target_mm`, both in mm.

    Raises `EngineError` where no turn of this adjuster changes the gap.

    >>> turn_to(Train(adjuster=Adjuster.VALVE_SCREW, thread="M10x1"), Kind.INTAKE, 0.5, 0.25)
    ScrewTurn(turn_deg=90.0, direction='tighter', new_mm=0.25)
    """
    per_turn = gap_per_turn_mm(train, kind)
    if per_turn is None:
        raise EngineError("adjuster", no_turn_words(train, kind))
    off_mm = measured_mm - target_mm
    if abs(off_mm) < 1e-9:
        return ScrewTurn(0.0, "none", measured_mm)
    direction = "tighter" if off_mm > 0 else "looser"
    return ScrewTurn(abs(off_mm) / per_turn * 360.0, direction, target_mm)


def preload_turns(train: Train, kind: Kind, preload_mm: float) -> float:
    """Turns past zero lash that push a hydraulic plunger in by `preload_mm`.

    Raises `EngineError` where no turn of this adjuster moves the plunger.
    """
    per_turn = plunger_per_turn_mm(train, kind)
    if per_turn is None:
        raise EngineError("adjuster", no_turn_words(train, kind))
    return preload_mm / per_turn


def no_turn_words(train: Train, kind: Kind) -> str:
    """Why a turn of this adjuster changes nothing, and the way out."""
    if train.adjuster in (Adjuster.SHIM, Adjuster.NONE):
        return f"has nothing to turn ({train.adjuster.words}): plan shims, or see the maker's list"
    if train.pitch_mm is None:
        return "needs the thread of its screw, such as M10x1"
    return f"at a finger's pivot needs a ratio other than {train.ratio(kind):g}: measure the finger"
