"""What stands between valves and piston at TDC: deck, gasket, pockets, and how the valves lean."""

from dataclasses import dataclass, fields
from typing import Final

from true_compass.core.items import Kind
from true_compass.core.limits import EngineError, check_number

USUAL_LEAST_MM: Final = {Kind.INTAKE: 1.8, Kind.EXHAUST: 2.2}
"""Least gaps to the piston where the file names none; the exhaust valve grows hot (common practice,
from memory)."""
USUAL_LEAST_BETWEEN_MM: Final = 1.0


@dataclass(frozen=True, slots=True)
class ValveRoom:
    """One kind of valve in its chamber. None is what nobody has measured; lengths are mm.

    `pocket_mm` is the depth of its pocket in the piston, `recess_mm` how far the shut valve stands
    back from the head's face (negative: proud of it), `angle_deg` the lean of its stem from the
    cylinder, `head_mm` the diameter of its head. `drop_mm` is the gap along its stem at TDC with
    the valve shut, where that was measured; it comes before what the others make. `least_mm` is the
    gap that must be left.
    """

    pocket_mm: float | None = None
    recess_mm: float = 0.0
    angle_deg: float = 0.0
    head_mm: float | None = None
    drop_mm: float | None = None
    least_mm: float | None = None


@dataclass(frozen=True, slots=True)
class Chamber:
    """What leads from piston to valves. `deck_mm` is how far the crown stands below the block's
    face at TDC (negative: above it), `gasket_mm` the head gasket pressed down, `between_mm` the
    distance of the two heads' centres with both valves shut."""

    deck_mm: float | None = None
    gasket_mm: float | None = None
    intake: ValveRoom = ValveRoom()
    exhaust: ValveRoom = ValveRoom()
    between_mm: float | None = None
    least_between_mm: float | None = None

    def room(self, kind: Kind) -> ValveRoom:
        """That of one kind of valve."""
        return self.intake if kind is Kind.INTAKE else self.exhaust

    def least_mm(self, kind: Kind) -> float:
        """The gap to the piston that must be left: as the file says, or as usual."""
        own = self.room(kind).least_mm
        return USUAL_LEAST_MM[kind] if own is None else own


UNKNOWN_CHAMBER: Final = Chamber()


def check_chamber(chamber: Chamber) -> None:
    """Raise `EngineError` for the first dimension that cannot be."""
    for field in ("deck_mm", "gasket_mm", "between_mm", "least_between_mm"):
        _check(f"chamber.{field}", getattr(chamber, field), field)
    for kind in Kind:
        room = chamber.room(kind)
        for part in fields(room):
            _check(f"chamber.{kind.value}_{part.name}", getattr(room, part.name), part.name)


def _check(field: str, value: float | None, limits_of: str) -> None:
    if value is None:
        return
    try:
        check_number(limits_of, value, f"chamber_{limits_of}")
    except EngineError as error:
        raise EngineError(field, str(error)) from None
