"""What an indicator would read on an engine as set: a lobe's curve, its chords and its nose.

A chord joins the two places at which the indicator stands a drop below the nose. Its middle is what
equal drops find: the nose, which need not be the middle of the events where flanks are unlike.
"""

from dataclasses import dataclass
from enum import Enum
from functools import lru_cache
from typing import Final

import numpy as np

from true_compass.core.angles import Floats
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig

STEP_DEG: Final = 0.05


class Station(Enum):
    """Where an indicator stands."""

    TAPPET = "tappet"
    VALVE = "valve"
    BUCKET = "bucket"

    @property
    def words(self) -> str:
        """As it is said: `at the tappet`."""
        return "on the bucket" if self is Station.BUCKET else f"at the {self.value}"

    @property
    def sees_lash(self) -> bool:
        """Whether the lash is taken up before it moves: a bucket goes with its valve."""
        return self is not Station.TAPPET


@dataclass(frozen=True, slots=True, eq=False)
class Curve:
    """One lobe as an indicator reads it: lift in mm at crank degrees after overlap TDC, both (N,).

    The TDC is the cylinder's true one, since that is what a wheel is set by.
    """

    kind: Kind
    after_tdc_deg: Floats
    lift_mm: Floats

    @property
    def peak_mm(self) -> float:
        """Greatest lift."""
        return float(self.lift_mm.max())

    @property
    def top_deg(self) -> float:
        """Where the lift is greatest: the middle of the flat of the nose."""
        top = np.flatnonzero(self.lift_mm >= self.peak_mm - 1e-9)
        return float(self.after_tdc_deg[top].mean())

    def chord_deg(self, drop_mm: float) -> tuple[float, float]:
        """The two places at which the indicator stands `drop_mm` below the nose, in running order.

        Raises `EngineError` for a drop that reaches the heel.
        """
        return _chord_deg(self, drop_mm)

    def _chord_deg(self, drop_mm: float) -> tuple[float, float]:
        if not 0 < drop_mm < self.peak_mm - 1e-6:
            raise EngineError(
                "drop",
                f"must be above 0 and below the lift of {self.peak_mm:.2f} mm, not {drop_mm:g} mm",
            )
        return self.at_lift_deg(self.peak_mm - drop_mm)

    def at_lift_deg(self, lift_mm: float) -> tuple[float, float]:
        """Where the main lobe rises through a lift and falls through it again.

        Raises `EngineError` for a lift that the lobe does not reach.
        """
        top = int(self.lift_mm.argmax())
        if not 0 <= lift_mm < self.peak_mm:
            raise EngineError(
                "lift", f"must be from 0 to less than {self.peak_mm:.2f} mm, not {lift_mm:g} mm"
            )
        lifted = self.lift_mm > lift_mm
        first = top - int(np.argmin(lifted[: top + 1][::-1]))
        last = top + int(np.argmin(lifted[top:])) - 1
        return self._between(first, lift_mm), self._between(last, lift_mm)

    def _between(self, row: int, lift_mm: float) -> float:
        low, high = self.lift_mm[row], self.lift_mm[row + 1]
        share = (lift_mm - low) / (high - low)
        at = self.after_tdc_deg
        return float(at[row] + share * (at[row + 1] - at[row]))

    def nose_deg(self, drop_mm: float = 0.25) -> float:
        """The middle of a chord: the nose as equal drops find it."""
        return sum(self.chord_deg(min(drop_mm, self.peak_mm / 2))) / 2

    def lift_at_mm(self, after_tdc_deg: float | Floats) -> Floats:
        """Lift at crank degrees after overlap TDC, any shape."""
        return np.asarray(np.interp(after_tdc_deg, self.after_tdc_deg, self.lift_mm))

    def slope_mm_per_deg(self, after_tdc_deg: float) -> float:
        """How fast the lift grows there, mm per crank degree."""
        ends = self.lift_at_mm(np.array([after_tdc_deg - 0.5, after_tdc_deg + 0.5]))
        return float(ends[1] - ends[0])


@lru_cache(maxsize=512)
def _chord_deg(curve: Curve, drop_mm: float) -> tuple[float, float]:
    """Chords are asked for again and again while their curve is drawn."""
    return curve._chord_deg(drop_mm)


@lru_cache(maxsize=64)
def curve_of(rig: Rig, cylinder: int, kind: Kind, station: Station = Station.VALVE) -> Curve:
    """The curve of one valve's lobe, or of its tappet.

    An intake lobe is followed from 360° before overlap TDC, so is an exhaust lobe.
    """
    lobes = rig.lobes.take([rig.engine.valve_row(cylinder, kind)])
    # An intake lobe can reach past BDC by 150° and its ramp; an exhaust lobe as far before.
    first = -300.0 if kind is Kind.INTAKE else -420.0
    at = np.arange(first, first + 720.0 + STEP_DEG / 2, STEP_DEG)
    crank = float(rig.true_offsets_deg[cylinder - 1]) + 360.0 + at
    lift = lobes.lift_mm(crank) if station.sees_lash else lobes.lobe_mm(crank)
    return Curve(kind, at, lift[0])


def events_middle_deg(curve: Curve, lift_mm: float) -> float:
    """The middle of opening and closing at a lift, crank degrees after overlap TDC."""
    return sum(curve.at_lift_deg(lift_mm)) / 2
