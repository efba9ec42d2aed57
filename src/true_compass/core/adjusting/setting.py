"""What can be set on an engine: each item with its target, its band, and what a turn changes.

Where the valves of a kind have gaps of their own, each is an item: `I1a`, `I1b`, front first.
Lengths are mm at the place where the item is measured; `share` turns them into mm at the valve.
"""

from dataclasses import dataclass, replace
from enum import Enum
from functools import lru_cache
from typing import Final

from true_compass.core.adjusting.screws import gap_per_turn_mm, plunger_per_turn_mm, shim_share
from true_compass.core.engine import Engine
from true_compass.core.items import ExtraKind, Item, Kind, Part
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig, items_at
from true_compass.core.units import parse_thread_mm, torque_words
from true_compass.core.valves.cam import Method, Valve
from true_compass.core.valves.train import Adjuster, LashAt, Train, TrainKind


class Way(Enum):
    """How an item is measured and set."""

    GAP = "gap"
    PLUNGER = "plunger"
    BRIDGE = "bridge"
    HEIGHT = "height"
    CONTACT = "contact"


LOCKNUT: Final = (Adjuster.VALVE_SCREW, Adjuster.ROD_SCREW, Adjuster.PIVOT_SCREW, Adjuster.STUD_NUT)
BAND_MM: Final = 0.05
NARROW_BAND_MM: Final = 0.03
NARROW_BELOW_MM: Final = 0.12
BRIDGE_BAND_MM: Final = (-0.03, 0.03)
HEIGHT_BAND_MM: Final = 0.10
USUAL_HEIGHT_MM: Final = 60.0
USUAL_TURNS: Final = 0.25
WINDOW_MM: Final = (0.5, 1.5)
ABOUT_PRELOAD_MM: Final = 0.2
USUAL_THREAD: Final = "M8x1"
"""Bands, a lifter's window and a thread where the file has none (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class Tools:
    """What the adjuster of an item is turned with; the file leaves out what it does not know."""

    key: str = ""
    spanner: str = ""
    torque_nm: float = 0.0
    tool: str = ""
    thread: str = ""

    @property
    def words(self) -> str:
        """In one line, the torque in both units.

        >>> Tools(spanner="14 mm ring", torque_nm=25.0).words
        'Spanner: 14 mm ring. Torque: 25 N·m (18 lbf·ft).'
        """
        named = {"Tool": self.tool, "Key": self.key, "Spanner": self.spanner}
        named["Thread"] = self.thread
        named["Torque"] = torque_words(self.torque_nm) if self.torque_nm else ""
        return " ".join(f"{what}: {which}." for what, which in named.items() if which)


@dataclass(frozen=True, slots=True)
class Setting:
    """One item that is set: plan, Do it, card, Book, blanks, shims and bench go by this list.

    `row` is its lobe in the valves' order, or after them among the engine's driven extras. A gap
    grows for a positive `per_turn_mm`; of a plunger and of a contact it is how far they are pushed
    in. 0 where nothing can be turned. `band_assumed` tells that the file has no band of its own,
    `turn_assumed` that it does not name the thread, so that nobody is told degrees.
    """

    item: Item
    way: Way
    row: int
    target_mm: float
    band_mm: tuple[float, float]
    per_turn_mm: float
    lobe_share: float
    adjuster: Adjuster
    shim_per_gap: float = 1.0
    band_assumed: bool = False
    turn_assumed: bool = False
    tools: Tools = Tools()

    @property
    def name(self) -> str:
        """The item's name."""
        return self.item.name

    @property
    def due(self) -> Item:
        """The item of a plan that it belongs to: `I1` for `I1a`."""
        return self.item.whole

    @property
    def has_locknut(self) -> bool:
        """Whether a nut must be slackened before the screw turns, a bridge's too."""
        return self.adjuster in LOCKNUT

    @property
    def nut_in_last_round(self) -> bool:
        """Whether its nut gets the torque wrench when all are set. Pedestal bolts and injectors'
        clamps are torqued at their own stop, on the heel.
        """
        return self.has_locknut and self.way not in (Way.HEIGHT, Way.CONTACT)

    @property
    def seats(self) -> bool:
        """Whether its bolt is turned down to a seat: rods and shims make the preload, not turns."""
        return self.way is Way.PLUNGER and self.adjuster is Adjuster.PEDESTAL

    @property
    def can_be_set(self) -> bool:
        """Whether a person can change it here."""
        return self.per_turn_mm > 0 or self.adjuster is Adjuster.SHIM

    def holds(self, value_mm: float) -> bool:
        """Whether a value lies in the band, both ends in."""
        return self.band_mm[0] - 1e-9 <= value_mm <= self.band_mm[1] + 1e-9


@lru_cache(maxsize=8)
def settings_of(engine: Engine) -> tuple[Setting, ...]:
    """Every item of an engine, at each rocker in the order in which it is set."""
    own = {extra.item: row for row, extra in enumerate(engine.driven_extras, len(engine.valves))}
    found: list[Setting] = []
    for row, valve in enumerate(engine.valves):
        if engine.cam.timing(valve.kind).suction:
            continue
        for item in items_at(engine, valve):
            if isinstance(item.kind, ExtraKind):
                found.append(_extra(engine, item, own.get(item, row)))
            else:
                found += [_of_valve(engine, one, row) for one in _singles(engine, valve, item)]
    told = {setting.item for setting in found}
    rest = [(extra, own[extra.item]) for extra in engine.driven_extras if extra.item not in told]
    return (*found, *(_extra(engine, extra.item, row) for extra, row in rest))


def settings_at(engine: Engine, item: Item) -> tuple[Setting, ...]:
    """What is set at an item of a plan, front first: itself, or each of its valves."""
    return tuple(setting for setting in settings_of(engine) if setting.due == item)


def setting_of(engine: Engine, item: Item) -> Setting:
    """What is set at one item. Raises `EngineError` for one that this engine does not have."""
    for setting in settings_of(engine):
        if setting.item == item:
            return setting
    raise EngineError("item", f"is {item.name}, and this engine has none such")


def _singles(engine: Engine, valve: Valve, item: Item) -> tuple[Item, ...]:
    """The item, or each of its valves where every one has a gap of its own."""
    if item.part is not Part.WHOLE or valve.count == 1 or engine.train.bridge:
        return (item,)
    return item.singles(valve.count)


def _of_valve(engine: Engine, item: Item, row: int) -> Setting:
    assert isinstance(item.kind, Kind)
    if item.part is Part.BRIDGE:
        return _bridge(engine.train, item, row)
    if item.part is Part.VARIABLE:
        return _lever(engine.train, item, row, item.kind)
    if engine.train.hydraulic:
        return _plunger(engine.train, item, row, item.kind)
    return _gap(engine, item, row, item.kind)


def _with_thread(train: Train) -> Train:
    """The same with the usual thread where the file names none."""
    return replace(train, thread=train.thread or USUAL_THREAD)


def _own_tools(train: Train) -> Tools:
    return Tools(train.key, train.spanner, train.torque_nm)


def _bridge(train: Train, item: Item, row: int) -> Setting:
    """A bridge is set till both valve tips touch: it has no gap."""
    return Setting(
        item,
        Way.BRIDGE,
        row,
        target_mm=0.0,
        band_mm=BRIDGE_BAND_MM,
        per_turn_mm=parse_thread_mm(_with_thread(train).thread),
        lobe_share=0.0,
        adjuster=Adjuster.VALVE_SCREW,
        band_assumed=True,
        turn_assumed=True,
        tools=Tools(train.bridge_key, train.bridge_spanner, train.bridge_torque_nm),
    )


def _lever(train: Train, item: Item, row: int, kind: Kind) -> Setting:
    """The gap between the lever of a variable intake and its rocker."""
    return Setting(
        item,
        Way.GAP,
        row,
        target_mm=train.variable_intake_mm,
        band_mm=_band_about(train.variable_intake_mm),
        per_turn_mm=parse_thread_mm(_with_thread(train).thread),
        lobe_share=train.ratio(kind),
        adjuster=Adjuster.VALVE_SCREW,
        band_assumed=True,
        turn_assumed=True,
        tools=_own_tools(train),
    )


def _plunger(train: Train, item: Item, row: int, kind: Kind) -> Setting:
    """How far the plunger of a hydraulic tappet is pushed in."""
    window = _window(train)
    return Setting(
        item,
        Way.PLUNGER,
        row,
        target_mm=sum(window) / 2,
        band_mm=window,
        per_turn_mm=plunger_per_turn_mm(_with_thread(train), kind) or 0.0,
        lobe_share=1.0,
        adjuster=train.adjuster,
        band_assumed=window != train.preload_mm,
        turn_assumed=not train.thread,
        tools=_own_tools(train),
    )


def _gap(engine: Engine, item: Item, row: int, kind: Kind) -> Setting:
    """The gap of valves, where the file measures it: at the valve, or inside the rocker."""
    train, target = engine.train, engine.cam.timing(kind).lash_mm
    turn, ratio = gap_per_turn_mm(_with_thread(train), kind) or 0.0, train.ratio(kind)
    inside = train.lash_at in (LashAt.ROD_END, LashAt.CAM)
    return Setting(
        item,
        Way.GAP,
        row,
        target_mm=target,
        band_mm=train.accepted_mm(kind) or _band_about(target),
        per_turn_mm=turn / ratio if inside else turn,
        lobe_share=1.0 if inside else ratio,
        adjuster=train.adjuster,
        shim_per_gap=shim_share(_with_thread(train), kind),
        band_assumed=train.accepted_mm(kind) is None,
        turn_assumed=not train.thread,
        tools=_own_tools(train),
    )


def _window(train: Train) -> tuple[float, float]:
    """How far a plunger may be pushed in; one figure, or what no hand can keep between, is taken
    with `ABOUT_PRELOAD_MM` to either side.
    """
    low, high = train.preload_mm or WINDOW_MM
    if high - low >= ABOUT_PRELOAD_MM - 1e-9:
        return low, high
    return round(max(low - ABOUT_PRELOAD_MM, 0.0), 6), round(high + ABOUT_PRELOAD_MM, 6)


def _extra(engine: Engine, item: Item, row: int) -> Setting:
    lobe = next(extra.lobe for extra in engine.extra_items if extra.item == item)
    pitch_mm = parse_thread_mm(lobe.thread or engine.train.thread or USUAL_THREAD)
    share = engine.train.exhaust_ratio if row < len(engine.valves) else lobe.ratio
    way, target = Way.GAP, lobe.lash_mm
    band = lobe.accepted_mm or _band_about(target)
    if lobe.how is Method.HEIGHT:
        way, target = Way.HEIGHT, lobe.height_mm or USUAL_HEIGHT_MM
        band = (target - HEIGHT_BAND_MM, target + HEIGHT_BAND_MM)
    elif lobe.how is Method.CONTACT:
        way, target = Way.CONTACT, (lobe.turns or USUAL_TURNS) * pitch_mm
        band = (target * 0.85, target * 1.15)
    return Setting(
        item,
        way,
        row,
        target,
        band,
        pitch_mm,
        share,
        Adjuster.VALVE_SCREW,
        band_assumed=way is not Way.GAP or lobe.accepted_mm is None,
        turn_assumed=not lobe.thread,
        tools=Tools(lobe.key, lobe.spanner, lobe.torque_nm, lobe.tool, lobe.thread),
    )


def _band_about(target_mm: float) -> tuple[float, float]:
    half = BAND_MM if target_mm >= NARROW_BELOW_MM else NARROW_BAND_MM
    return round(max(target_mm - half, 0.0), 6), round(target_mm + half, 6)


def has_rods(engine: Engine) -> bool:
    """Whether push rods stand between lobe and rocker."""
    return engine.train.kind is TrainKind.PUSH_ROD


def has_rockers(engine: Engine) -> bool:
    """Whether something rocks under a cover: not with buckets or side valves."""
    return engine.train.kind in (TrainKind.PUSH_ROD, TrainKind.ROCKER, TrainKind.FINGER)


@lru_cache(maxsize=8)
def book_rig(engine: Engine) -> Rig:
    """An engine as the book has it, worked out once: many scenarios share one."""
    return Rig.of(engine)
