"""At a rocker: wiggle, lift, spin, blades, screw, nut, bridge, height tool, shims, rods, stripe."""

from dataclasses import replace
from typing import Any, Final

from true_compass.bench.condition import travel_mm
from true_compass.bench.covered import RAMP_MM, Covered
from true_compass.bench.feel import (
    BLADE_SCATTER_MM,
    HEIGHT_SCATTER_MM,
    PLAY_SCATTER_MM,
    STIFF,
    blade_feel,
    play_feel,
    spin_feel,
)
from true_compass.bench.gaps import changed, gap_now_mm, has_rocker_slack, on_lobe_mm, pushed_mm
from true_compass.bench.hands.instruments import check_cover
from true_compass.bench.state import BenchState, Blade, RefusedError, Zero, drawn, noted
from true_compass.core.adjusting.setting import Setting, Way, has_rods
from true_compass.core.valves.train import Adjuster

Answer = dict[str, Any]
MOST_TURNS: Final = 10.0
HELD_SHARE: Final = 0.15
TORQUE_SHARE: Final = 0.1
USUAL_NM: Final = 20.0
"""What the wrench is set to where the file names no torque (assumed)."""
"""How much of its own movement a nut still makes with the screw held, and under the wrench."""
STOCK_MM: Final = (1.5, 5.0)
STOCK_STEP_MM: Final = 0.05


def place_of(work: Covered, state: BenchState, action: Answer) -> int:
    """The row of the item that an action names, with its cover off."""
    name = action["item"]
    place = work.place.get(name)
    if place is None:
        names = list(work.place)
        singles = [one for one in names if one[:-1] == name]
        told = " or ".join(singles) if singles else f"{names[0]} to {names[-1]}"
        raise RefusedError(f"{name[:20]} is no item of this engine: say {told}.")
    check_cover(work, state, work.settings[place].item.cylinder)
    return place


def _binds(work: Covered, setting: Setting) -> bool:
    case = work.condition.case("rocker-tight")
    return case is not None and case.item == setting.name


def wiggle(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Wiggle the rocker of an item up and down."""
    place = place_of(work, state, action)
    setting = work.settings[place]
    state, off = drawn(work, state, f"wiggle {setting.name}", PLAY_SCATTER_MM)
    gap = gap_now_mm(work, state, place)
    play = play_feel(gap + off)
    if setting.way is Way.PLUNGER and gap <= 0 and work.soft(setting, state.pumped):
        # A soft plunger gives a little before it is solid.
        play = "just free" if -gap < travel_mm(setting) else "tight"
    if setting.way is Way.HEIGHT:
        play = "just free"
    if _binds(work, setting):
        play = "tight"
    return noted(state, "wiggle", setting.name, play), {"play": play}


def lift(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Lift the push rod, or the rocker at its nose, by hand."""
    place = place_of(work, state, action)
    setting = work.settings[place]
    gap = gap_now_mm(work, state, place)
    felt = "moves" if gap > 0 else "solid"
    if setting.way is Way.PLUNGER and gap <= 0 and work.soft(setting, state.pumped):
        felt = "springy" if -gap < travel_mm(setting) else "solid"
    if _binds(work, setting):
        felt = "binds"
    return noted(state, "lift", setting.name, felt), {"lift": felt}


def _rod_place(work: Covered, state: BenchState, action: Answer) -> int:
    """The place of an item with a push rod of its own."""
    if not has_rods(work.engine):
        raise RefusedError("This engine has no push rods.")
    place = place_of(work, state, action)
    if not work.settings[place].item.is_valve:
        raise RefusedError(f"{work.settings[place].name} has no push rod of its own.")
    return place


def spin(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Spin a push rod between two fingers."""
    place = _rod_place(work, state, action)
    setting, item = work.settings[place], state.items[place]
    state, off = drawn(work, state, f"spin {setting.name}", PLAY_SCATTER_MM)
    pushed = pushed_mm(work, state, place) + off
    if setting.way is Way.PLUNGER:
        soft = work.soft(setting, state.pumped)
        felt = spin_feel(pushed, travel_mm(setting), soft, item.settled)
    else:
        felt = "up-and-down play" if pushed < 0 else "will not spin"
    bent = work.condition.case("rod-bent")
    wobbles = bent is not None and bent.item == setting.name and not item.rod_mm
    runs = "wobbles" if wobbles and felt != "will not spin" else "true"
    said = f"{felt}, {runs}"
    return noted(state, "spin", setting.name, said, felt), {"spin": felt, "runs": runs}


def _blade(work: Covered, state: BenchState, place: int, blade_mm: float) -> tuple[BenchState, str]:
    setting = work.settings[place]
    if setting.way is Way.HEIGHT:
        raise RefusedError(f"{setting.name} has no gap: use the height tool.")
    if setting.way is Way.CONTACT:
        raise RefusedError(f"{setting.name} has no gap: count its turns from contact.")
    if setting.way is Way.BRIDGE:
        raise RefusedError("A bridge has no gap: press it, and feel both valve tips.")
    state, off = drawn(work, state, f"feeler {setting.name} {blade_mm:g}", BLADE_SCATTER_MM)
    gap = gap_now_mm(work, state, place)
    feel = blade_feel(max(gap, 0.0) - blade_mm + off)
    said = f"{blade_mm:g} {feel}"
    return noted(state, "feeler", setting.name, said, Blade(blade_mm, feel)), feel


def feeler(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Try a blade."""
    place = place_of(work, state, action)
    state, feel = _blade(work, state, place, float(action["blade_mm"]))
    return state, {"feel": feel}


def go_no_go(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Try a pair of blades: the one that must go and the one that must not."""
    place = place_of(work, state, action)
    state, goes = _blade(work, state, place, float(action["go_mm"]))
    state, stops = _blade(work, state, place, float(action["no_go_mm"]))
    good = goes != "will not go" and stops == "will not go"
    return state, {"go": goes, "no_go": stops, "good": good}


def slacken(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Slacken the locknut of an item."""
    place = place_of(work, state, action)
    setting, item = work.settings[place], state.items[place]
    if not setting.can_be_set or setting.adjuster is Adjuster.SHIM:
        raise RefusedError(f"{setting.name} has no nut: {setting.adjuster.words}.")
    case = work.condition.case("locknut-creeps")
    loose = case is not None and case.item == setting.name
    nut = "loose" if loose or not item.tight else "tight"
    if not setting.has_locknut:
        nut = "none"
    if setting.name not in state.slackened_first:
        # What was written down before this is a record of how it was found.
        state = state._replace(slackened_first=(*state.slackened_first, setting.name))
    state = noted(state, "slacken", setting.name, nut)
    return state.with_item(place, replace(item, tight=False)), {"ok": True, "nut": nut}


def screw(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Turn the adjuster of an item by degrees, minus towards more gap."""
    place = place_of(work, state, action)
    setting, item = work.settings[place], state.items[place]
    deg = float(action["deg"])
    if setting.adjuster is Adjuster.SHIM:
        raise RefusedError(f"{setting.name} has no screw: its gap is set with shims.")
    if not setting.can_be_set:
        raise RefusedError(f"{setting.name} has nothing to turn.")
    if setting.has_locknut and item.tight:
        raise RefusedError(f"The nut of {setting.name} is tight: slacken it first.")
    if setting.way is Way.BRIDGE and not has_rocker_slack(work, state, setting.item):
        raise RefusedError(
            f"The rocker holds {setting.name} down: slacken the rocker first, on its base circle."
        )
    total = item.screw_deg + deg
    if setting.seats and total > 0:
        deg, total = deg - total, 0.0
    if abs(total) > 360.0 * MOST_TURNS:
        raise RefusedError(
            f"The screw of {setting.name} has {MOST_TURNS:g} turns of thread either way: "
            "turn it back."
        )
    by_mm = -setting.per_turn_mm * deg / 360.0
    settled = not (setting.way is Way.PLUNGER and deg > 0 and state.pumped)
    before = state
    state = changed(work, state, place, by_mm, screw_deg=total, settled=settled)
    if setting.way is Way.PLUNGER and not setting.seats:
        state = _with_zero(work, before, state, place)
    seats = setting.seats and total == 0.0
    return state, {"ok": True, "turned_deg": deg, "seats": seats}


def _with_zero(work: Covered, before: BenchState, after: BenchState, place: int) -> BenchState:
    """A plunger after its screw was turned: was play gained, was zero taken, were turns added?

    Zero is judged where the play went, with the plunger up against its clip; turns that are added
    to it may be added anywhere (common practice, no source).
    """
    had_play = gap_now_mm(work, before, place) > 0
    item = after.items[place]
    if gap_now_mm(work, after, place) > 0:
        play_nth = item.play_nth if had_play else before.done
        return after.with_item(place, replace(item, zero=None, play_nth=play_nth))
    if had_play:
        rushed = 0 <= item.play_nth >= before.done - 1
        return after.with_item(place, replace(item, zero=Zero.RUSHED if rushed else Zero.SOUND))
    was = before.items[place]
    if was.zero is None:
        return after  # it was never slackened: judged where it was changed, as a gap is
    # Turns are added: where that is done does not matter, but what was taken for zero does.
    drag = item.screw_deg > was.screw_deg and _felt_drag(work, before, place)
    kept = replace(
        item,
        set_at_deg=was.set_at_deg,
        set_on_mm=was.set_on_mm,
        off_heel=was.off_heel,
        zero=Zero.DRAG if drag else was.zero,
    )
    return after.with_item(place, kept)


def _felt_drag(work: Covered, state: BenchState, place: int) -> bool:
    """Whether the last thing felt at a soft plunger was the drag of its spun rod: it sinks under
    the hand, so that drag comes too deep.
    """
    setting = work.settings[place]
    if not work.soft(setting, state.pumped):
        return False
    felt = next((one for one in reversed(state.seen) if one.of == setting.name), None)
    return felt is not None and felt.do == "spin" and felt.fact == STIFF


def tighten(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Tighten the locknut; without holding the screw it turns along."""
    place = place_of(work, state, action)
    setting, item = work.settings[place], state.items[place]
    held = bool(action.get("hold"))
    if not setting.can_be_set or setting.adjuster is Adjuster.SHIM:
        raise RefusedError(f"{setting.name} has no nut: {setting.adjuster.words}.")
    if item.tight:
        return state, {"ok": True}
    share = HELD_SHARE if held else 1.0
    moves = work.condition.items[place].nut_moves_mm * share
    inward = setting.way in (Way.PLUNGER, Way.CONTACT)
    value = item.value_mm - moves if inward else item.value_mm + moves
    item = replace(item, value_mm=value, tight=True, held=held)
    return state.with_item(place, item), {"ok": True}


def torque(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Put the torque wrench on the nut of an item, or on the bolts of the head."""
    if action.get("part") == "head":
        return _torque_head(work, state)
    if not action.get("item") or not action.get("nm"):
        raise RefusedError("Say item and nm, or the part head.")
    place = place_of(work, state, action)
    setting, item = work.settings[place], state.items[place]
    if not item.tight:
        raise RefusedError(f"The nut of {setting.name} is loose: tighten it first.")
    book_nm, nm = work.engine.train.torque_nm, float(action["nm"])
    if book_nm and nm > 2 * book_nm:
        broke = f"the thread of {setting.name}, at {nm:g} N·m"
        return state._replace(broke=(*state.broke, broke)), {"ok": True, "broke": broke}
    moves = 0.0
    if not item.torque_nm and item.set_at_deg is not None:
        moves = work.condition.items[place].nut_moves_mm * TORQUE_SHARE
    inward = setting.way in (Way.PLUNGER, Way.CONTACT)
    value = item.value_mm - moves if inward else item.value_mm + moves
    return state.with_item(place, replace(item, value_mm=value, torque_nm=nm)), {
        "ok": True,
        "broke": None,
    }


def _torque_head(work: Covered, state: BenchState) -> tuple[BenchState, Answer]:
    if state.head_torqued:
        return state, {"ok": True, "bolts": "were tight"}
    settles = work.condition.head_settles_mm
    items = tuple(
        replace(item, value_mm=item.value_mm - settles) if setting.way is Way.GAP else item
        for setting, item in zip(work.settings, state.items, strict=True)
    )
    return state._replace(head_torqued=True, items=items), {"ok": True, "bolts": "turned"}


def bridge(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Press a bridge down over its fixed valve: does it rock, lie level, or stand on its screw?"""
    place = place_of(work, state, action)
    setting = work.settings[place]
    if setting.way is not Way.BRIDGE:
        raise RefusedError(f"{setting.name} is no bridge: say its bridge, such as I1 bridge.")
    if not has_rocker_slack(work, state, setting.item):
        raise RefusedError(
            f"The rocker holds {setting.name} down: slacken the rocker first, on its base circle."
        )
    state, off = drawn(work, state, f"bridge {setting.name}", BLADE_SCATTER_MM)
    value = state.items[place].value_mm + off
    felt = "level"
    if value > setting.band_mm[1]:
        felt = "rocks"
    elif value < setting.band_mm[0]:
        felt = "stands on its screw"
    return noted(state, "bridge", setting.name, felt), {"feel": felt}


def height(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Swing the maker's height tool over an injector."""
    place = place_of(work, state, action)
    setting = work.settings[place]
    if setting.way is not Way.HEIGHT:
        raise RefusedError(f"{setting.name} has no height to measure: try a blade.")
    state, off = drawn(work, state, f"height {setting.name}", HEIGHT_SCATTER_MM)
    over = gap_now_mm(work, state, place) + off - setting.target_mm
    felt = "just touches"
    if over > setting.band_mm[1] - setting.target_mm:
        felt = "too high: the tool will not swing"
    elif over < setting.band_mm[0] - setting.target_mm:
        felt = "too low: the tool swings free"
    return noted(state, "height", setting.name, felt), {"feel": felt}


def shim(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Measure the shim of an item, fit one from the box, or change it about with another's."""
    place = place_of(work, state, action)
    setting, item = work.settings[place], state.items[place]
    if setting.adjuster is not Adjuster.SHIM:
        raise RefusedError(f"{setting.name} has no shim: {setting.adjuster.words}.")
    other = action.get("with")
    if action.get("mm") is None and not other:
        return noted(state, "shim", setting.name, f"{item.shim_mm:g}"), {"mm": item.shim_mm}
    _check_drawn(work, state, place)
    if other:
        there = place_of(work, state, {"item": other})
        _check_drawn(work, state, there)
        theirs_mm = state.items[there].shim_mm
        state = _with_shim(work, _with_shim(work, state, there, item.shim_mm), place, theirs_mm)
        return state, {"ok": True, "mm": theirs_mm}
    mm = float(action["mm"])
    if not STOCK_MM[0] <= mm <= STOCK_MM[1] or _is_between(mm):
        raise RefusedError(
            f"The box has shims from {STOCK_MM[0]:g} to {STOCK_MM[1]:g} mm in steps of "
            f"{STOCK_STEP_MM:g} mm, none of {mm:g}."
        )
    return _with_shim(work, state, place, mm), {"ok": True, "mm": mm}


def _is_between(mm: float) -> bool:
    """Whether a thickness lies between two steps of the box."""
    return abs(mm - round(mm / STOCK_STEP_MM) * STOCK_STEP_MM) > 1e-6


def _check_drawn(work: Covered, state: BenchState, place: int) -> None:
    setting = work.settings[place]
    # A valve that is held open on its heel is pressed down by the tool like any other.
    if gap_now_mm(work, state, place) <= 0 and on_lobe_mm(work, setting, state.cam_deg) > RAMP_MM:
        raise _lobe_presses(setting)


def _lobe_presses(setting: Setting) -> RefusedError:
    return RefusedError(f"The lobe presses on {setting.name}: turn its lobe away first.")


def _with_shim(work: Covered, state: BenchState, place: int, mm: float) -> BenchState:
    setting, item = work.settings[place], state.items[place]
    wider = -(mm - item.shim_mm) / setting.shim_per_gap
    return changed(work, state, place, wider, shim_mm=mm)


def rod(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Fit a straight push rod, longer or shorter by so much than the one that is in."""
    place = _rod_place(work, state, action)
    setting, item = work.settings[place], state.items[place]
    gap_mm = gap_now_mm(work, state, place)
    pressed = setting.way is Way.PLUNGER and gap_mm < -travel_mm(setting)
    if pressed or (setting.way is Way.GAP and gap_mm <= 0):
        raise _lobe_presses(setting)
    longer = float(action["mm"])
    bent = work.condition.case("rod-bent")
    found = work.condition.items[place].value_mm
    if bent is not None and bent.item == setting.name and not item.rod_mm:
        middle = sum(setting.band_mm) / 2
        longer += abs(found - middle) / (1.0 if setting.way is Way.PLUNGER else setting.lobe_share)
    by_mm = -longer * (1.0 if setting.way is Way.PLUNGER else setting.lobe_share)
    fitted = float(action["mm"]) or 1e-9
    state = changed(work, state, place, by_mm, rod_mm=item.rod_mm + fitted, zero=None)
    return state, {"ok": True}


def stripe(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Paint a stripe across nut and screw."""
    place = place_of(work, state, action)
    return state.with_item(place, replace(state.items[place], striped=True)), {"ok": True}
