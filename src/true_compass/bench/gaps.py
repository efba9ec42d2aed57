"""The gap of each item: on the heel, and where its lobe stands now; and what changing it does."""

from dataclasses import replace

from true_compass.bench.condition import travel_mm
from true_compass.bench.covered import RAMP_MM, Covered
from true_compass.bench.state import BenchState, ItemState
from true_compass.core.adjusting.setting import Setting, Way
from true_compass.core.items import Item, Part


def bridge_place(work: Covered, setting: Setting) -> int | None:
    """The place of the bridge that the rocker of an item bears on, if there is one."""
    if not work.engine.train.bridge or not setting.item.is_valve:
        return None
    return work.place.get(replace(setting.item, part=Part.BRIDGE).name)


def heel_mm(work: Covered, state: BenchState, place: int) -> float:
    """The value of an item on the heel. A bridge that hangs down on one side widens the gap."""
    setting, value = work.settings[place], state.items[place].value_mm
    bridge = bridge_place(work, setting)
    return value if bridge is None else value + state.items[bridge].value_mm / 2


def heel_values_mm(work: Covered, state: BenchState) -> tuple[float, ...]:
    """The value of every item on the heel."""
    if not work.engine.train.bridge:
        return state.values_mm
    return tuple(heel_mm(work, state, place) for place in range(len(work.settings)))


def on_lobe_mm(work: Covered, setting: Setting, cam_deg: float) -> float:
    """How high the lobe of an item stands, at the place where the item is measured."""
    return float(work.lobes_at_mm(cam_deg)[setting.row]) * setting.lobe_share


def gap_now_mm(work: Covered, state: BenchState, place: int) -> float:
    """The gap of an item where the engine stands; negative where its lobe presses.

    A plunger has a gap only while there is play.
    """
    setting = work.settings[place]
    value, lobe = heel_mm(work, state, place), on_lobe_mm(work, setting, state.cam_deg)
    if setting.way in (Way.PLUNGER, Way.CONTACT):
        return -(value + lobe)
    if setting.way is Way.BRIDGE:
        return value
    return value - lobe


def pushed_mm(work: Covered, state: BenchState, place: int) -> float:
    """How far a plunger is pushed in where the engine stands."""
    return -gap_now_mm(work, state, place)


def is_off_heel(work: Covered, state: BenchState, setting: Setting) -> bool:
    """Whether the tappet of an item stands off its base circle."""
    return work.margin_deg(setting, state.cam_deg) < 0


def changed(
    work: Covered, state: BenchState, place: int, by_mm: float, **more: object
) -> BenchState:
    """An item whose gap was made wider by so much, and where that was done."""
    setting, item = work.settings[place], state.items[place]
    inward = setting.way in (Way.PLUNGER, Way.CONTACT)
    on_mm = on_lobe_mm(work, setting, state.cam_deg)
    new = replace(
        item,
        value_mm=item.value_mm - by_mm if inward else item.value_mm + by_mm,
        set_at_deg=state.place_deg,
        set_on_mm=on_mm if on_mm > RAMP_MM else 0.0,
        off_heel=is_off_heel(work, state, setting),
        **more,  # type: ignore[arg-type]
    )
    return state.with_item(place, new)


def presses(work: Covered, state: BenchState, place: int) -> bool:
    """Whether a plunger is solid where the engine stands."""
    return pushed_mm(work, state, place) >= travel_mm(work.settings[place])


def has_rocker_slack(work: Covered, state: BenchState, item: Item) -> bool:
    """Whether the rocker over a bridge leaves it free."""
    rocker = work.place.get(item.rocker.name)
    return rocker is None or gap_now_mm(work, state, rocker) > 0.02


def item_of(work: Covered, state: BenchState, place: int) -> tuple[Setting, ItemState]:
    """An item's setting and state."""
    return work.settings[place], state.items[place]


def open_shares(work: Covered, state: BenchState) -> list[float]:
    """How far the lobe of each setting has opened what it drives, 0 shut to about 1, as they stand.

    A valve's is its lift of the most it has; what is no valve goes by its lobe alone, of 8 mm.
    """
    lobes = work.lobes_at_mm(state.cam_deg)
    most = work.rig.lobes.peak_lift_mm
    shares = []
    for setting, value in zip(work.settings, heel_values_mm(work, state), strict=True):
        lobe = lobes[setting.row]
        if setting.item.is_valve:
            lift = float(work.valve_lift_mm(setting, lobe, value, state.pumped))
            shares.append(lift / max(float(most[setting.row]), 1.0))
        else:
            shares.append(max(float(lobe) - RAMP_MM, 0.0) / 8.0)
    return shares
