"""The gas in a cylinder: volume, compression ratios, an idealised pressure; and piston speed."""

import math

import numpy as np

from true_compass.core.angles import Floats, over_angles
from true_compass.core.crank.mechanism import piston_height_mm
from true_compass.core.state import Rig

MM3_PER_CM3 = 1000.0


def swept_cm3(rig: Rig) -> Floats:
    """Volume that each piston sweeps between its true dead centres, `(C,)`, in cm³."""
    return _area_mm2(rig) * rig.centres.stroke_mm / MM3_PER_CM3


def clearance_cm3(rig: Rig) -> Floats:
    """Volume above each piston at its true TDC, `(C,)`: swept volume over (ratio − 1)."""
    return swept_cm3(rig) / (rig.engine.compression.ratio - 1.0)


def volume_cm3(rig: Rig, cycle_deg: Floats) -> Floats:
    """Volume of each cylinder at cycle angles `(C,)` or `(C, N)`.

    The clearance volume and the bore's area times the fall of the piston (J. B. Heywood, *Internal
    Combustion Engine Fundamentals*, 1988, eq. 2.4; from memory).
    """
    top = over_angles(rig.centres.top_mm, cycle_deg[0])
    fall = np.maximum(top - piston_height_mm(rig.linkage, cycle_deg), 0.0)
    return over_angles(clearance_cm3(rig), cycle_deg[0]) + _area_mm2(rig) * fall / MM3_PER_CM3


def _area_mm2(rig: Rig) -> float:
    return math.pi / 4 * rig.engine.bore_mm**2


def compression_from_closing(rig: Rig, closes_cycle_deg: Floats) -> Floats:
    """Compression ratio from where each intake valve closes, `(C,)`: V there over V at TDC."""
    return volume_cm3(rig, closes_cycle_deg) / clearance_cm3(rig)


def pressure_kpa(rig: Rig, cycle_deg: Floats, closes_cycle_deg: Floats) -> Floats:
    """Idealised absolute pressure on the compression stroke, `(C,)` or `(C, N)`, in kPa.

    p Vⁿ is constant from where the intake valve closes (`closes_cycle_deg`, `(C,)`) to TDC, with
    the engine's exponent n and no leaks, heat or flame. Elsewhere it is the starting pressure.
    """
    compression = rig.engine.compression
    begun = over_angles(closes_cycle_deg, cycle_deg[0])
    at_closing = over_angles(volume_cm3(rig, closes_cycle_deg), cycle_deg[0])
    squeezed = compression.start_kpa * (at_closing / volume_cm3(rig, cycle_deg)) ** (
        compression.exponent
    )
    compressed = (cycle_deg >= begun) & (squeezed > compression.start_kpa)
    return np.where(compressed, squeezed, compression.start_kpa)


def piston_speed_mm_per_deg(rig: Rig, cycle_deg: Floats) -> Floats:
    """How fast each piston falls, mm per crank degree, negative while it rises."""
    half_deg = 1e-3
    heights = [piston_height_mm(rig.linkage, cycle_deg + side) for side in (half_deg, -half_deg)]
    return np.asarray((heights[1] - heights[0]) / (2 * half_deg))
