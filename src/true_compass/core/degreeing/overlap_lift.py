"""Setting a cam by the lift at overlap TDC: from the lift read to the turn that gives the target.

A valve's lift there is a slope of the lobe, so a lift is an angle: the turn is solved on the true
curve, not by one slope. The checking lash is set first, the gauge zeroed with that valve shut one
turn earlier; each bank is read at its own cylinder's overlap (common practice, no source).
"""

from dataclasses import dataclass

from true_compass.core.angles import wrap_deg
from true_compass.core.degreeing.curve import Curve
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig


def turn_for_lift_deg(curve: Curve, read_mm: float, target_mm: float) -> float:
    """Crank degrees by which the cam must come earlier (+) or later (−).

    `read_mm` and `target_mm` are lifts at overlap TDC on that curve: an intake valve is rising
    there, an exhaust valve falling. Raises `EngineError` for a lift that the lobe does not reach.
    """
    places = []
    side = 0 if curve.kind is Kind.INTAKE else 1
    for name, lift_mm in (("read", read_mm), ("target", target_mm)):
        if not 0 < lift_mm < curve.peak_mm:
            raise EngineError(
                name,
                f"must be above 0 and below this valve's full lift of {curve.peak_mm:.2f} mm, "
                f"not {lift_mm:g} mm",
            )
        places.append(curve.at_lift_deg(lift_mm)[side])
    return places[1] - places[0]


def lash_error_deg(curve: Curve, read_mm: float, target_mm: float, lash_mm: float) -> float:
    """Crank degrees by which the turn is out where the checking lash was too wide by `lash_mm`.

    A gap wider by 0.10 reads 0.10 less, so the turn comes out too far.
    """
    right = turn_for_lift_deg(curve, read_mm + lash_mm, target_mm)
    return turn_for_lift_deg(curve, read_mm, target_mm) - right


@dataclass(frozen=True, slots=True)
class OverlapStart:
    """Where a bank is read: its front cylinder's overlap TDC, at a crank angle in [0, 720)."""

    bank: str
    cylinder: int
    crank_deg: float


def overlap_starts(rig: Rig) -> tuple[OverlapStart, ...]:
    """The place for each bank, that of cylinder 1 first, the others in running order after it."""
    layout = rig.engine.layout
    found = []
    for bank in layout.banks_in_use:
        row = layout.on_bank(bank)
        cylinder = 1 if 1 in row else row[0]
        at = wrap_deg(float(rig.true_offsets_deg[cylinder - 1]) + 360.0)
        found.append(OverlapStart(layout.banks[bank].name, cylinder, at))
    first = next(start.crank_deg for start in found if start.cylinder == 1)
    return tuple(sorted(found, key=lambda start: wrap_deg(start.crank_deg - first)))
