"""What a person has done on the open engine: the slice of the session that outlasts a close."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType
from typing import Final

from true_compass.core.adjusting.setting import Setting, settings_at
from true_compass.core.engine import Engine
from true_compass.core.items import Item, item_named
from true_compass.core.limits import EngineError

SET, LEFT, SKIPPED, OFF, OFF_HEEL = "set", "left", "skipped", "off", "off-heel"
"""How an item was seen to; `OFF` is found out of its band on a round that only checks, `OFF_HEEL`
noted while its tappet stood off the base circle."""
HOWS: Final = (SET, LEFT, SKIPPED, OFF, OFF_HEEL)

Deed = Item | int
"""What can be ticked: an item, or a quarter of a sweep, counted from 1."""

_NOTHING: Final[Mapping[Deed, str]] = MappingProxyType({})
_QUARTER: Final = re.compile(r"quarter ([1-8])")


def deed_name(deed: Deed) -> str:
    """How a deed is called: `I3`, `quarter 2`."""
    return deed.name if isinstance(deed, Item) else f"quarter {deed}"


def deed_named(name: str) -> Deed | None:
    """The deed of a name, or None for what is no name."""
    match = _QUARTER.fullmatch(name)
    if match:
        return int(match[1])
    try:
        return item_named(name)
    except EngineError:
        return None


@dataclass(frozen=True, slots=True)
class Work:
    """The chosen way of adjusting (empty: nobody chose, and the first that is safe is taken), the
    stop that is worked at (from 0), and what was seen to.
    """

    school: str = ""
    place: int = 0
    checking: bool = False
    done: Mapping[Deed, str] = field(default_factory=lambda: _NOTHING)

    def how(self, item: Item) -> str | None:
        """How an item was seen to; what was ticked for all valves of a kind holds for each."""
        return self.done.get(item) or self.done.get(item.whole)

    def without(self, setting: Setting, engine: Engine) -> dict[Deed, str | None]:
        """The changes that make one item open again; its twins stay as they are."""
        item, whole = setting.item, setting.due
        changes: dict[Deed, str | None] = {item: None}
        if item not in self.done and whole in self.done:
            twins = settings_at(engine, whole)
            changes = {twin.item: self.done[whole] for twin in twins if twin.item != item}
            changes[whole] = None
        return changes

    def has(self, engine: Engine, item: Item) -> bool:
        """Whether an item of a plan is done: all that is set at it was seen to, and not skipped."""
        hows = [self.how(setting.item) for setting in settings_at(engine, item)]
        return all(how is not None and how != SKIPPED for how in hows)

    def with_done(self, changes: Mapping[Deed, str | None]) -> "Work":
        """The same work with other ticks; None takes one away."""
        done = {**self.done, **changes}
        kept = {deed: how for deed, how in done.items() if how is not None}
        return replace(self, done=MappingProxyType(kept))


FRESH: Final = Work()
