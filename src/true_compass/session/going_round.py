"""A plan as it is gone round: what is to be seen to at each of its stops, and how far that is."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from true_compass.core.adjusting.setting import Setting, settings_of
from true_compass.core.adjusting.stops import Plan, Stop, StopItem
from true_compass.core.engine import Engine
from true_compass.core.items import Item
from true_compass.session.work import OFF, SET, Deed, Work


@dataclass(frozen=True, slots=True)
class Round:
    """One round by a plan that is safe to follow, with the work as it stands.

    `under` has what is set at each item of a plan, front first; `deeds_at` what is to be ticked at
    each of the `stops`: what is set there, or the quarter of a sweep, which ends with the preload
    on all. Without a plan there is no stop.
    """

    stops: tuple[Stop, ...]
    under: Mapping[Item, tuple[Setting, ...]]
    deeds_at: tuple[tuple[Deed, ...], ...]
    work: Work

    @staticmethod
    def of(engine: Engine, plan: Plan | None, work: Work) -> "Round":
        """The round by a plan, or by none."""
        under: dict[Item, tuple[Setting, ...]] = {}
        for setting in settings_of(engine):
            under[setting.due] = (*under.get(setting.due, ()), setting)
        stops = plan.stops if plan is not None else ()
        if plan is not None and plan.swept:
            stops = (*stops, Stop(stops[-1].crank_deg, plan.swept, 0.0, "the preload on all"))
        deeds: list[tuple[Deed, ...]] = []
        for place, stop in enumerate(stops, start=1):
            own = tuple(one.item for due in stop.items for one in under.get(due.item, ()))
            deeds.append(own or (place,))
        return Round(stops, under, tuple(deeds), work)

    def having(self, work: Work) -> "Round":
        """The same round with other work done."""
        return replace(self, work=work)

    @property
    def stop(self) -> Stop | None:
        """The stop that is worked at."""
        return self.stops[min(self.work.place, len(self.stops) - 1)] if self.stops else None

    @property
    def settings(self) -> list[Setting]:
        """Everything that is set at the stop that is worked at, in the order of the plan."""
        stop = self.stop
        return [one for due in stop.items for one in self.settings_at(due.item)] if stop else []

    def settings_at(self, item: Item) -> tuple[Setting, ...]:
        """What is set at an item of the plan, front first."""
        return self.under.get(item, ())

    @property
    def next_setting(self) -> Setting | None:
        """What is to be set next at this stop: adjuster by adjuster under each item of the plan."""
        return next((one for one in self.settings if self.work.how(one.item) is None), None)

    @property
    def next_item(self) -> StopItem | None:
        """The item of the plan that is due at this stop."""
        stop, setting = self.stop, self.next_setting
        if stop is None or setting is None:
            return None
        return next(due for due in stop.items if due.item == setting.due)

    def is_done(self, deed: Deed) -> bool:
        """Whether an item, or a quarter of a sweep, was ticked."""
        done = self.work.done
        return deed in done if isinstance(deed, int) else self.work.how(deed) is not None

    @property
    def deeds(self) -> list[Deed]:
        """Everything that is to be ticked, in the order of the plan."""
        return [deed for own in self.deeds_at for deed in own]

    @property
    def seen_to(self) -> int:
        """How much of it has been ticked."""
        return sum(self.is_done(deed) for deed in self.deeds)

    @property
    def finished(self) -> bool:
        """Whether everything has been seen to."""
        return bool(self.deeds) and self.seen_to == len(self.deeds)

    @property
    def set_any(self) -> bool:
        """Whether anything was set on this round, so that nuts were touched."""
        return any(self.work.how(deed) == SET for deed in self.deeds if isinstance(deed, Item))

    @property
    def to_set(self) -> list[Item]:
        """Items that a round of checking found out of their band, in the order of the plan."""
        return [d for d in self.deeds if isinstance(d, Item) and self.work.how(d) == OFF]

    @property
    def next_place(self) -> int | None:
        """The next stop at which something is open, the ones before this last; or None."""
        open_ones = [
            place
            for place, own in enumerate(self.deeds_at)
            if any(not self.is_done(deed) for deed in own)
        ]
        later = [place for place in open_ones if place > self.work.place]
        return next(iter([*later, *open_ones]), None)
