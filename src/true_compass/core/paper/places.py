"""What is written at which place of the crank, on a wheel, a tape or a strip of teeth.

Places are crank degrees after the true TDC of cylinder 1, in [0, 360): on paper every turn of the
crank is the same turn, so each place stands for two places of the cycle.
"""

from dataclasses import dataclass
from enum import Enum
from typing import Final

from true_compass.core.adjusting.stops import Plan, Stop
from true_compass.core.angles import TURN_DEG, apart_deg
from true_compass.core.crank.phasing import AT_TDC_DEG
from true_compass.core.engine import Shaft
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.core.valves.cam import CheckLift
from true_compass.core.valves.timing import cylinder_times

MOST_LATE_DEG: Final = 45.0


class Sort(Enum):
    """What stands at a place."""

    TDC = "tdc"
    STOP = "stop"
    EVENT = "event"
    MARK = "mark"


@dataclass(frozen=True, slots=True)
class Place:
    """A place with its few words. `is_stop`: work is done there."""

    at_deg: float
    words: str
    sort: Sort
    is_stop: bool = False

    @property
    def after_deg(self) -> float:
        """Degrees after TDC, in (-180, 180]; negative before it."""
        return self.at_deg if self.at_deg <= TURN_DEG / 2 else self.at_deg - TURN_DEG


@dataclass(frozen=True, slots=True)
class StopWords:
    """A stop as it is listed below a wheel: its number, its place, what is known of it, its work.

    `sign` tells which of the two passes of the place is meant.
    """

    number: int
    at_deg: float
    sign: str
    items: str


def on_paper_deg(rig: Rig, crank_deg: float) -> float:
    """A crank angle as its place on paper."""
    turned = round((crank_deg - float(rig.true_offsets_deg[0])) % TURN_DEG, 6)
    return turned % TURN_DEG


def tdc_places(rig: Rig, plan: Plan | None = None) -> list[Place]:
    """Where cylinders are at true TDC, those of one place together: `1·6`, and the other stops."""
    groups: list[tuple[float, list[int]]] = []
    for cylinder in rig.engine.cylinders:
        at = on_paper_deg(rig, float(rig.true_offsets_deg[cylinder - 1]))
        group = next((held for held in groups if apart_deg(held[0], at) <= AT_TDC_DEG), None)
        if group is None:
            groups.append((at, [cylinder]))
        else:
            group[1].append(cylinder)
    # A sweep has no place of its own: it begins anywhere.
    due = () if plan is None or plan.swept else plan.stops
    stops = [on_paper_deg(rig, stop.crank_deg) for stop in due]

    def has_stop(at: float) -> bool:
        return any(apart_deg(stop, at) <= AT_TDC_DEG for stop in stops)

    places = [Place(at, "·".join(map(str, names)), Sort.TDC, has_stop(at)) for at, names in groups]
    free: dict[float, list[int]] = {}
    for number, at in enumerate(stops, start=1):
        if all(apart_deg(place.at_deg, at) > AT_TDC_DEG for place in places):
            free.setdefault(at, []).append(number)
    named = [
        Place(at, f"stop {' and '.join(map(str, numbers))}", Sort.STOP, True)
        for at, numbers in free.items()
    ]
    return sorted((*places, *named), key=lambda place: place.at_deg)


def event_places(rig: Rig, cylinder: int, check: CheckLift) -> list[Place]:
    """Where the valves of a cylinder open and shut, as a card says it: `E opens 50 BBDC`.

    A valve that never reaches the checking lift has no place.
    """
    places = []
    for valve in cylinder_times(rig, cylinder, check).valves:
        events = (
            (valve.opens_deg, f"opens {valve.opens}"),
            (valve.closes_deg, f"closes {valve.closes}"),
        )
        for crank_deg, words in events:
            if crank_deg is not None:
                at = on_paper_deg(rig, crank_deg)
                places.append(Place(at, f"{valve.kind.letter} {words}", Sort.EVENT))
    return sorted(places, key=lambda place: place.at_deg)


def check_late(late_deg: float) -> None:
    """Raise `EngineError` for a cast mark that is out by more than 45°."""
    if abs(late_deg) > MOST_LATE_DEG:
        raise EngineError(
            "cast mark", f"is up to {MOST_LATE_DEG:g}° out, not {late_deg:g}: read TDC once more"
        )


def mark_places(rig: Rig, late_deg: float = 0.0) -> list[Place]:
    """The crank's own marks; one of TDC, cast where `late_deg` says, first.

    `late_deg` is how far after true TDC the cast mark is met. Raises `EngineError` beyond 45°.
    """
    check_late(late_deg)
    cast = Place(late_deg % TURN_DEG, late_words(late_deg), Sort.MARK)
    return [cast, *_own_marks(rig, on_flywheel=False), *flywheel_marks(rig)]


def damper_marks(rig: Rig, late_deg: float = 0.0) -> list[Place]:
    """The same without what is stamped on the flywheel."""
    return [place for place in mark_places(rig, late_deg) if place not in flywheel_marks(rig)]


def flywheel_marks(rig: Rig) -> list[Place]:
    """What is stamped on the flywheel, beside true TDC of cylinder 1."""
    return _own_marks(rig, on_flywheel=True)


def _own_marks(rig: Rig, *, on_flywheel: bool) -> list[Place]:
    """The marks of the file on the flywheel, or elsewhere on the crank; those of TDC left out."""
    places = []
    for mark in rig.engine.marks:
        here = ("flywheel" in mark.where.lower()) == on_flywheel
        at = on_paper_deg(rig, rig.mark_deg(mark)) if mark.shaft is Shaft.CRANK else 0.0
        if here and apart_deg(at, 0.0) > AT_TDC_DEG:
            places.append(Place(at, mark.label, Sort.MARK))
    return places


def late_words(late_deg: float) -> str:
    """The cast mark with its error: `cast mark, 2.0 late`."""
    if abs(late_deg) < 0.05:
        return "cast mark"
    if late_deg > 0:
        return f"cast mark, {late_deg:.1f} late"
    return f"cast mark, {-late_deg:.1f} early"


def stop_words(rig: Rig, plan: Plan) -> list[StopWords]:
    """Every stop of a plan in words, in running order.

    A sweep names no item at its quarters, so it has no stop to be written at a place.
    """
    if plan.swept:
        return []
    return [
        StopWords(number, on_paper_deg(rig, stop.crank_deg), _pass_words(rig, stop), _items(stop))
        for number, stop in enumerate(plan.stops, start=1)
    ]


def _items(stop: Stop) -> str:
    return " ".join(due.name for due in stop.items)


def _pass_words(rig: Rig, stop: Stop) -> str:
    """Which pass it is, by the cylinder that is at compression TDC there, else by the angle."""
    for cylinder in rig.engine.cylinders:
        off = float(rig.true_offsets_deg[cylinder - 1]) - stop.crank_deg
        if abs((off + TURN_DEG) % (2 * TURN_DEG) - TURN_DEG) <= AT_TDC_DEG:
            return f"{cylinder} fires"
    return f"{stop.crank_deg:.4g}° after 1 fires" if stop.crank_deg else "1 fires"
