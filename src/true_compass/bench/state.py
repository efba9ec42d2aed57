"""What has been done to a covered engine so far: one immutable value that actions make anew."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import Enum
from types import MappingProxyType
from typing import Any, Final, NamedTuple

from true_compass.bench.covered import Covered
from true_compass.core.adjusting.setting import Way
from true_compass.core.chance import scatter

MOST_EVIDENCE: Final = 400


class RefusedError(Exception):
    """An action that cannot be done, as one sentence. It changes nothing."""


class Zero(Enum):
    """How the last zero lash of a plunger was taken; the value says what is wrong with it."""

    SOUND = ""
    DRAG = "its zero was a drag on a soft plunger"
    RUSHED = "its plunger had no time to rise before the zero was taken"


@dataclass(frozen=True, slots=True)
class ItemState:
    """One item as it is now.

    `value_mm` is measured as `Setting` says, on the heel. `screw_deg` is the net turn of the
    adjuster since it was found, minus towards more gap. `set_at_deg` is the crank angle in [0, 720)
    at which it was last changed, `set_on_mm` how high its lobe stood there (at the place of the
    gap), `off_heel` whether that was off the base circle. Of a plunger these three tell of its last
    `zero`: where turns were added after it does not matter. `play_nth` is the action that gave it
    play, −1 where it was found so.
    """

    value_mm: float
    shim_mm: float = 0.0
    tight: bool = True
    screw_deg: float = 0.0
    set_at_deg: float | None = None
    set_on_mm: float = 0.0
    off_heel: bool = False
    torque_nm: float = 0.0
    striped: bool = False
    held: bool = True
    rod_mm: float = 0.0
    settled: bool = True
    zero: "Zero | None" = None
    play_nth: int = -1


@dataclass(frozen=True, slots=True)
class Seen:
    """One reading: the action, what it was of, what it said, and where the crank really stood.

    `said` is for people; `fact` is the same as a value, and all that is judged goes by it.
    """

    do: str
    of: str
    said: str
    crank_deg: float
    lag_deg: float = 0.0
    nth: int = 0
    fact: Any = None


@dataclass(frozen=True, slots=True)
class Dial:
    """A dial indicator: on a piston or on the valve of an item. `zero_mm` is what it reads as 0."""

    on: str
    cylinder: int = 0
    item: str = ""
    zero_mm: float = 0.0
    knocked: bool = False


@dataclass(frozen=True, slots=True)
class Told:
    """One declaration, and where the crank really stood."""

    crank_deg: float
    said: Mapping[str, Any]
    nth: int


class BenchState(NamedTuple):
    """Everything that changes. Angles are crank degrees; `crank_deg` is not wrapped.

    A tuple, because a copy with one value changed is made for every action, some of them for
    several, and costs a tenth of a data class's.
    """

    crank_deg: float
    cam_lag_deg: float
    rotor_lag_deg: float
    items: tuple[ItemState, ...]
    parts_on: frozenset[str]
    wheel_deg: float
    pumped: bool
    head_torqued: bool
    line: int = 0
    stop: tuple[int, float] | None = None
    dial: Dial | None = None
    chalk_deg: float | None = None
    turned_deg: float = 0.0
    back_deg: float = 0.0
    done: int = 0
    hints: int = 0
    hint_level: int = 0
    foretold: tuple[str, str, str] | None = None
    foretold_right: int = 0
    foretold_all: int = 0
    counts: Mapping[str, int] = MappingProxyType({})
    seen: tuple[Seen, ...] = ()
    told: tuple[Told, ...] = ()
    broke: tuple[str, ...] = ()
    records: Mapping[tuple[str, str], tuple[float | None, float | None]] = MappingProxyType({})
    """What was written down of an item: by its name and when (`found`, `left`, `second`)."""
    slackened_first: tuple[str, ...] = ()
    second_look: tuple[str, ...] = ()
    runs: int = 0
    finished: bool = False

    @property
    def place_deg(self) -> float:
        """The crank angle in the cycle, [0, 720)."""
        return (self.crank_deg % 720.0) % 720.0

    @property
    def cam_deg(self) -> float:
        """Where the camshaft stands, as the crank angle that would put it there, [0, 720)."""
        return ((self.crank_deg + self.cam_lag_deg) % 720.0) % 720.0

    @property
    def values_mm(self) -> tuple[float, ...]:
        """The value of each item."""
        return tuple(item.value_mm for item in self.items)

    def with_item(self, place: int, item: ItemState) -> "BenchState":
        """The same with one item changed."""
        return self._replace(items=(*self.items[:place], item, *self.items[place + 1 :]))


def first_state(work: Covered, closed: bool = False) -> BenchState:
    """The state in which an engine is found. Covers, caps and plugs are off, unless `closed`."""
    condition = work.condition
    slack = condition.slack_open
    on = set(PARTS_AT_START)
    if closed:
        on |= set(coverings(work))
    return BenchState(
        crank_deg=condition.start_deg,
        cam_lag_deg=condition.cam_slack_deg if slack else 0.0,
        rotor_lag_deg=condition.rotor_slack_deg if slack else 0.0,
        items=tuple(ItemState(item.value_mm, item.shim_mm) for item in condition.items),
        parts_on=frozenset(on),
        wheel_deg=condition.wheel_deg,
        pumped=condition.pumped,
        head_torqued=not condition.head_settles_mm,
    )


PARTS_AT_START: Final = ("coil",)
"""What is on as the engine is found, whatever is open."""


def covers(work: Covered) -> tuple[str, ...]:
    """The names of the covers over the valves: one a bank, or one a cylinder on a radial."""
    layout = work.engine.layout
    if layout.form.value == "radial":
        return tuple(f"cover {cylinder}" for cylinder in work.engine.cylinders)
    banks = layout.banks_in_use
    if len(banks) == 1:
        return ("cover",)
    return tuple(f"cover {layout.banks[bank].name}" for bank in banks)


def cover_of(work: Covered, cylinder: int) -> str:
    """The cover that is over the valves of a cylinder."""
    layout = work.engine.layout
    if layout.form.value == "radial":
        return f"cover {cylinder}"
    if len(layout.banks_in_use) == 1:
        return "cover"
    return f"cover {layout.banks[layout.seats[cylinder - 1].bank].name}"


def plug(cylinder: int) -> str:
    """The name of a plug."""
    return f"plug {cylinder}"


def coverings(work: Covered) -> tuple[str, ...]:
    """Everything that hides something: covers, front cover, plugs, a cap where there is one."""
    plugs = tuple(plug(cylinder) for cylinder in work.engine.cylinders)
    cap = ("cap",) if work.engine.has_rotor else ()
    return (*covers(work), "front cover", *plugs, *cap)


def drawn(work: Covered, state: BenchState, thing: str, size: float) -> tuple[BenchState, float]:
    """The scatter of the next reading of a thing: `size` is its usual standard deviation."""
    nth = state.counts.get(thing, 0)
    scenario = work.scenario
    off = size * scenario.hand.scatter * scatter(scenario.seed, thing, nth)
    return state._replace(counts={**state.counts, thing: nth + 1}), off


class Blade(NamedTuple):
    """What a blade said: its size, and how it went (a word of `feel.BLADE_WORDS`)."""

    mm: float
    feel: str


def noted(state: BenchState, do: str, of: str, said: str, fact: Any = None) -> BenchState:
    """The same with one more reading seen, and a foretelling of it settled.

    A `fact` of None is what was said itself, where that is one word of a list.
    """
    fact = said if fact is None else fact
    here = Seen(do, of, said, state.crank_deg, state.cam_lag_deg, state.done, fact)
    state = state._replace(seen=(*state.seen[-MOST_EVIDENCE + 1 :], here))
    if state.foretold is None or state.foretold[:2] != (do, of):
        return state
    right = state.foretold[2] == said
    return state._replace(
        foretold=None,
        foretold_all=state.foretold_all + 1,
        foretold_right=state.foretold_right + right,
    )


def lag_after(lag_deg: float, slack_deg: float, by_deg: float) -> float:
    """How far a driven shaft stands on after its driver has turned.

    >>> lag_after(0.0, 3.0, -10.0), lag_after(3.0, 3.0, 1.0), lag_after(3.0, 3.0, 5.0)
    (3.0, 2.0, 0.0)
    """
    return min(max(lag_deg - by_deg, 0.0), slack_deg)


def turned(work: Covered, state: BenchState, by_deg: float) -> BenchState:
    """The crank turned without a stop, with the slack taken up on the way."""
    condition = work.condition
    cam = lag_after(state.cam_lag_deg, condition.cam_slack_deg, by_deg)
    own = state.rotor_lag_deg - state.cam_lag_deg
    driven_deg = by_deg + cam - state.cam_lag_deg
    rotor = cam + lag_after(own, condition.rotor_slack_deg, driven_deg)
    state = state._replace(crank_deg=state.crank_deg + by_deg, cam_lag_deg=cam, rotor_lag_deg=rotor)
    return _crept(work, state, by_deg)


def _crept(work: Covered, state: BenchState, by_deg: float) -> BenchState:
    """The gap of a locknut that does not hold moves by 0.03 mm for each two turns."""
    case = work.condition.case("locknut-creeps")
    if case is None:
        return state
    place = work.place[case.item]
    item, setting = state.items[place], work.settings[place]
    inward = setting.way in (Way.PLUNGER, Way.CONTACT)
    step_mm = 0.03 * abs(by_deg) / 720.0
    return state.with_item(
        place,
        replace(item, value_mm=item.value_mm - step_mm if inward else item.value_mm + step_mm),
    )
