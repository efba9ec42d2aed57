"""Items: what a lobe drives and a person sets. They are values; here their names are made and read.

`I1` is every intake valve of cylinder 1, `E1` every exhaust valve; `I1 bridge` the bridge on them,
`I1 variable` the gap of a variable-intake lever, `U1` a unit injector, `B1` an engine-brake gap.
Where the valves of a kind have gaps of their own, `I1a` and `I1b` are those, front first.
"""

import re
from dataclasses import dataclass, replace
from enum import Enum
from typing import Final

from true_compass.core.limits import EngineError


class Kind(Enum):
    """What a valve lets through."""

    INTAKE = "intake"
    EXHAUST = "exhaust"

    @property
    def letter(self) -> str:
        """`I` or `E`, as in the name of a valve."""
        return "I" if self is Kind.INTAKE else "E"

    @property
    def stroke_starts_deg(self) -> float:
        """Cycle angle at which the stroke that the valve serves begins."""
        return 360.0 if self is Kind.INTAKE else 180.0

    @property
    def other(self) -> "Kind":
        """The other kind of valve."""
        return Kind.EXHAUST if self is Kind.INTAKE else Kind.INTAKE


class ExtraKind(Enum):
    """What else a lobe can drive."""

    INJECTOR = "injector"
    BRAKE = "brake"

    @property
    def letter(self) -> str:
        """`U` for a unit injector, `B` for an engine brake."""
        return "U" if self is ExtraKind.INJECTOR else "B"


class Part(Enum):
    """Which part of a rocker is set, where it is not the gap of its valves."""

    WHOLE = ""
    BRIDGE = "bridge"
    VARIABLE = "variable"


@dataclass(frozen=True, slots=True)
class Item:
    """One thing to set. `nth` counts single valves of a kind from the front; 0 means all of them.

    >>> Item(Kind.INTAKE, 3, Part.BRIDGE).name, Item(ExtraKind.BRAKE, 2).rocker.name
    ('I3 bridge', 'E2')
    """

    kind: Kind | ExtraKind
    cylinder: int
    part: Part = Part.WHOLE
    nth: int = 0

    def __hash__(self) -> int:
        # Kinds and parts are single objects; asking them for their own hash costs ten times this.
        return hash((id(self.kind), self.cylinder, id(self.part), self.nth))

    @property
    def code(self) -> str:
        """The name without its part: `I1`."""
        return f"{self.kind.letter}{self.cylinder}{self.single}"

    @property
    def name(self) -> str:
        """The name as plans, cards and records have it: `I1`, `I1 bridge`."""
        return f"{self.code} {self.part.value}" if self.part is not Part.WHOLE else self.code

    @property
    def is_valve(self) -> bool:
        """Whether it is the gap of valves, not a bridge, a lever, an injector or a brake."""
        return isinstance(self.kind, Kind) and self.part is Part.WHOLE

    @property
    def rounded(self) -> bool:
        """Whether its code has round ends: intake valves and injectors."""
        return self.kind in (Kind.INTAKE, ExtraKind.INJECTOR)

    @property
    def rocker(self) -> "Item":
        """The item at whose stop it is set: a bridge, a lever and a brake go with their rocker."""
        if self.kind is ExtraKind.BRAKE:
            return Item(Kind.EXHAUST, self.cylinder)
        if self.part is Part.WHOLE and not self.nth:
            return self
        return Item(self.kind, self.cylinder)

    @property
    def single(self) -> str:
        """Which of several valves of a kind it is: `a` at the front; nothing for all of them."""
        return chr(96 + self.nth) if self.nth else ""

    @property
    def whole(self) -> "Item":
        """The item of a plan that it belongs to: all valves of its kind in the cylinder."""
        return replace(self, nth=0) if self.nth else self

    def singles(self, count: int) -> tuple["Item", ...]:
        """The single valves of an item with gaps of their own: `I1a`, `I1b`."""
        return tuple(replace(self, nth=nth) for nth in range(1, count + 1))


_KINDS: Final = {kind.letter: kind for kind in (*Kind, *ExtraKind)}
_NAME: Final = re.compile(r"([IEUB])([1-9]\d?)([a-d])?(?: (bridge|variable))?")


def item_named(name: str) -> Item:
    """The item of a name. Raises `EngineError` for what is no name.

    >>> item_named("I12b").nth, item_named("E1 bridge").part
    (2, <Part.BRIDGE: 'bridge'>)
    """
    match = _NAME.fullmatch(name)
    if match is None:
        raise EngineError("item", f"must be a name such as I1, E1 bridge or U1, not {name[:20]!r}")
    nth = ord(match[3]) - 96 if match[3] else 0
    return Item(_KINDS[match[1]], int(match[2]), Part(match[4] or ""), nth)
