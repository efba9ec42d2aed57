"""How a margin came about, step by step, for any item of a plan."""

from true_compass.core.adjusting.stops import Plan
from true_compass.core.angles import CYCLE_DEG, wrap_deg
from true_compass.core.engine import Engine
from true_compass.core.items import Item, Kind
from true_compass.core.state import Rig
from true_compass.core.valves.cam import Bump


def explained(rig: Rig, plan: Plan, item: Item) -> list[str]:
    """Lines that lead from the cam's events to the margin of one item in a plan.

    Every angle is a crank angle, 0 at compression TDC of cylinder 1.
    """
    lines = [_where_it_fires(rig, item), *_lobe_lines(rig, item)]
    arcs = rig.item_arcs_deg[item]
    for start, length in arcs:
        end = wrap_deg(start + length)
        lines.append(f"It is free from {start:.1f}° on to {end:.1f}°: {length:.1f}°.")
    if plan.swept:
        due = next(due for due in plan.swept if due.item == item)
        longest = max(length for _, length in arcs)
        lines.append(
            "A quarter comes within 45° of the middle, wherever one starts: "
            f"{longest:.1f}° / 2 − 45° leaves {due.margin_deg:.1f}°."
        )
        return lines
    number, stop, due = next(
        (number, stop, due)
        for number, stop in enumerate(plan.stops, start=1)
        for due in stop.items
        if due.item == item
    )
    if due.margin_deg < 0:
        lines.append(
            f"Stop {number} stands at {stop.crank_deg:.1f}°, {-due.margin_deg:.1f}° off its base "
            "circle: unsafe."
        )
    else:
        lines.append(
            f"Stop {number} stands at {stop.crank_deg:.1f}°: {due.back_deg:.1f}° back to where "
            f"that begins, {due.on_deg:.1f}° on to where it ends. The nearer is the margin: "
            f"{due.margin_deg:.1f}°."
        )
    return lines


def _where_it_fires(rig: Rig, item: Item) -> str:
    fires = float(rig.offsets_deg[item.cylinder - 1])
    return f"{item.name}: cylinder {item.cylinder} is at compression TDC at {fires:.4g}° (nominal)."


def _lobe_lines(rig: Rig, item: Item) -> list[str]:
    """Where the lobe is off its base circle, ramps included, and what the cam's figures say."""
    lifted = _gaps_between(rig.item_arcs_deg[item])
    lines = [
        f"Its tappet is off the base circle from {start:.1f}° on to "
        f"{wrap_deg(start + length):.1f}°, ramps included."
        for start, length in lifted
    ]
    return [*_told_of_lobe(rig.engine, item), *lines]


def _told_of_lobe(engine: Engine, item: Item) -> list[str]:
    """What the engine's figures say of the lobe that drives an item."""
    own = next((extra.lobe for extra in engine.driven_extras if extra.item == item), None)
    if own is not None and own.bump is not None:
        return [_bump_words("Its lobe", own.bump)]
    kind = item.rocker.kind
    assert isinstance(kind, Kind)
    timing = engine.cam.timing(kind)
    advance = timing.advance_deg + engine.bank_advance_deg(item.cylinder, kind)
    opens, closes = timing.event_cycle_deg(kind)
    told = (
        f"Its lobe opens {opens:.4g}° and closes {closes:.4g}° after that, at {timing.check.words}"
    )
    told += f"; the ramps are {timing.ramp_deg:.4g}° long" if timing.ramp_deg else ""
    told += f"; the cam stands {advance:.4g}° early" if advance else ""
    release = engine.cam.release if kind is Kind.EXHAUST else None
    return [f"{told}.", *([_bump_words("The compression release", release)] if release else [])]


def _bump_words(what: str, bump: Bump) -> str:
    words = f"{what} lifts from {bump.opens_deg:.4g}° to {bump.closes_deg:.4g}° after that"
    return f"{words}; the ramps are {bump.ramp_deg:.4g}° long."


def _gaps_between(arcs: tuple[tuple[float, float], ...]) -> list[tuple[float, float]]:
    """What lies between free arcs on the circle: start and length."""
    arcs = tuple(sorted(arcs))
    following = [start for start, _ in arcs[1:]] + [arcs[0][0] + CYCLE_DEG]
    return [
        (wrap_deg(start + length), after - start - length)
        for (start, length), after in zip(arcs, following, strict=True)
    ]
