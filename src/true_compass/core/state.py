"""The whole engine at one crank angle, or at an array of them, through the same code."""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Final

import numpy as np

from true_compass.core.angles import (
    CYCLE_DEG,
    TURN_DEG,
    Bools,
    Floats,
    over_angles,
    scratch,
    wrap_deg,
)
from true_compass.core.crank.mechanism import (
    DeadCentres,
    Linkage,
    Turning,
    dead_centres,
    piston_from_tdc_mm,
    piston_height_mm,
)
from true_compass.core.crank.phasing import at_tdc, crank_pins, cycle_angles_deg, strokes
from true_compass.core.engine import Engine, Mark, Shaft
from true_compass.core.items import Item, Kind, Part
from true_compass.core.strokes import Stroke
from true_compass.core.valves.cam import Valve
from true_compass.core.valves.drive import Drive, Drives
from true_compass.core.valves.lobe import bump_profile, profiles_of
from true_compass.core.valves.train import lash_at_valve_mm

LEAST_DRAWN_MM: Final = 0.1


@dataclass(frozen=True, slots=True)
class WhatIf:
    """A change to try: mm more lash where the engine measures it, crank degrees more advance."""

    intake_lash_mm: float = 0.0
    exhaust_lash_mm: float = 0.0
    intake_advance_deg: float = 0.0
    exhaust_advance_deg: float = 0.0

    def lash_mm(self, kind: Kind) -> float:
        """More lash of one kind of valve."""
        return self.intake_lash_mm if kind is Kind.INTAKE else self.exhaust_lash_mm

    def advance_deg(self, kind: Kind) -> float:
        """More advance of one kind of valve."""
        return self.intake_advance_deg if kind is Kind.INTAKE else self.exhaust_advance_deg


AS_SET: Final = WhatIf()


def tried_words(what_if: WhatIf) -> str:
    """What is being tried, in a few words; empty when nothing is.

    >>> tried_words(WhatIf(intake_lash_mm=0.1, exhaust_lash_mm=0.1))
    'lash +0.10 mm'
    """
    parts = [
        *_tried_pair("lash", what_if.intake_lash_mm, what_if.exhaust_lash_mm, ".2f", " mm"),
        *_tried_pair("cam", what_if.intake_advance_deg, what_if.exhaust_advance_deg, "g", "°"),
    ]
    return ", ".join(parts).replace("-", "−")


def _tried_pair(what: str, intake: float, exhaust: float, form: str, unit: str) -> list[str]:
    if intake == exhaust:
        return [f"{what} {intake:+{form}}{unit}"] if intake else []
    values = zip(Kind, (intake, exhaust), strict=True)
    return [f"{kind.letter} {what} {value:+{form}}{unit}" for kind, value in values if value]


def valve_drives(engine: Engine) -> list[Drive]:
    """What drives each valve, in the order of `engine.valves`."""
    profiles = profiles_of(engine.cam, engine.train)
    drives = []
    for valve in engine.valves:
        kind, timing = valve.kind, engine.cam.timing(valve.kind)
        offset = float(engine.firing_offsets_deg[valve.cylinder - 1])
        if timing.suction:
            drives.append(Drive(profiles[kind], offset, suction=True))
            continue
        advance = timing.advance_deg + engine.bank_advance_deg(valve.cylinder, kind)
        lash_mm = lash_at_valve_mm(engine.train, kind, timing.lash_mm)
        ratio = engine.train.ratio(kind)
        drives.append(Drive(profiles[kind], offset - advance, ratio, lash_mm))
    return drives


def extra_drives(engine: Engine) -> list[Drive]:
    """What drives each item that has a lobe and is no valve, as `engine.driven_extras` has them."""
    return [
        Drive(
            bump_profile(item.lobe.bump, item.lobe.ratio, item.lobe.lash_mm),
            float(engine.firing_offsets_deg[item.cylinder - 1]),
            item.lobe.ratio,
            item.lobe.lash_mm,
        )
        for item in engine.driven_extras
        if item.lobe.bump is not None
    ]


def items_at(engine: Engine, valve: Valve) -> list[Item]:
    """What a person sets at a rocker, in that order: bridge, gap, variable-intake gap, brake gap.

    A bridge joins two valves: there is none over a single one. One without a screw is no item.
    """
    items = [valve.item]
    if engine.train.bridge and engine.train.bridge_screw and valve.count > 1:
        items.insert(0, replace(valve.item, part=Part.BRIDGE))
    if valve.kind is Kind.INTAKE and engine.train.variable_intake_mm > 0:
        items.append(replace(valve.item, part=Part.VARIABLE))
    brakes = (extra.item for extra in engine.extra_items if extra.item.rocker == valve.item)
    return [*items, *brakes]


@dataclass(frozen=True, eq=False)
class Rig:
    """An engine with everything that does not change while it turns, worked out once.

    `offsets_deg` are the nominal firing offsets, shape `(C,)`. `lobes` has one row a valve, in the
    order of `engine.valves`; `full_lift_mm` is the greatest lift of each with everything as set.
    `pins` are the crank pins as `crank_pins` gives them. `centres` are the true dead centres.
    """

    engine: Engine
    offsets_deg: Floats
    lobes: Drives
    full_lift_mm: Floats
    what_if: WhatIf
    pins: tuple[tuple[float, tuple[int, ...]], ...]
    linkage: Linkage
    centres: DeadCentres
    plain: bool
    usual: "Rig | None" = None
    """The rig as set, where this one tries something else."""

    @staticmethod
    def of(engine: Engine) -> "Rig":
        """Work out the phasing, the lobes and the dead centres of an engine."""
        linkage = Linkage.of(engine)
        lobes = Drives.of(valve_drives(engine))
        return Rig(
            engine,
            engine.firing_offsets_deg,
            lobes,
            np.maximum(lobes.peak_lift_mm, LEAST_DRAWN_MM),
            AS_SET,
            crank_pins(engine),
            linkage,
            dead_centres(linkage),
            linkage.plain,
        )

    def trying(self, what_if: WhatIf) -> "Rig":
        """The same engine with another lash or advance. Quick: only the valves change."""
        usual, engine = self.as_set, self.engine
        lash_mm, earlier_deg = usual.lobes.lash_mm.copy(), np.zeros(len(engine.valves))
        for kind in Kind:
            timing, rows = engine.cam.timing(kind), engine.rows_of(kind)
            if not timing.suction:
                tried_mm = max(timing.lash_mm + what_if.lash_mm(kind), 0.0)
                lash_mm[rows] = lash_at_valve_mm(engine.train, kind, tried_mm)
                earlier_deg[rows] = what_if.advance_deg(kind)
        lobes = usual.lobes.changed(lash_mm, earlier_deg)
        return replace(self, lobes=lobes, what_if=what_if, usual=usual)

    @property
    def as_set(self) -> "Rig":
        """The same engine with lash and advance as they are set."""
        return self.usual or self

    @cached_property
    def _item_rows(self) -> tuple[tuple[Item, int], ...]:
        """Each item with the row that drives it: valves first, then `extras`.

        Injectors come last at a stop. A brake without a lobe rides on its exhaust rocker.
        """
        engine, count = self.engine, len(self.engine.valves)
        own = {extra.item: count + row for row, extra in enumerate(engine.driven_extras)}
        rows = [
            (item, own.get(item, row))
            for row, (valve, settable) in enumerate(
                zip(engine.valves, self.lobes.settable, strict=True)
            )
            if settable
            for item in items_at(engine, valve)
        ]
        told = {item for item, _ in rows}
        return (*rows, *((item, row) for item, row in own.items() if item not in told))

    @cached_property
    def turning(self) -> Turning:
        """The linkage made ready to be turned."""
        return Turning.of(self.linkage, self.offsets_deg)

    @cached_property
    def items(self) -> tuple[Item, ...]:
        """Everything that a person sets, in the order in which it is set at one place."""
        return tuple(item for item, _ in self._item_rows)

    @cached_property
    def row_of(self) -> dict[Item, int]:
        """The row in `items` of each of them."""
        return {item: row for row, item in enumerate(self.items)}

    @cached_property
    def item_names(self) -> tuple[str, ...]:
        """The names of `items`."""
        return tuple(item.name for item in self.items)

    @cached_property
    def item_arcs_deg(self) -> dict[Item, tuple[tuple[float, float], ...]]:
        """Free arcs of each item: where each starts (crank angle), and its length."""
        count = len(self.engine.valves)
        arcs = {}
        for item, row in self._item_rows:
            drives = self.lobes if row < count else self.extras
            assert drives is not None
            arcs[item] = tuple(drives.free_arcs_deg(row if row < count else row - count))
        return arcs

    def item_margins_deg(self, crank_deg: Floats) -> Floats:
        """Margin of each of `items` at crank angles `(N,)`, shape `(items, N)`."""
        margins = self.lobes.margin_deg(crank_deg)
        if self.extras is not None:
            margins = np.concatenate((margins, self.extras.margin_deg(crank_deg)))
        return margins[[row for _, row in self._item_rows]]

    @cached_property
    def rockers(self) -> dict[Item, tuple[int, ...]]:
        """Rows in `items` of what is set at one rocker, at one stop: a brake with its exhaust."""
        together: dict[Item, tuple[int, ...]] = {}
        for item, row in self.row_of.items():
            together[item.rocker] = (*together.get(item.rocker, ()), row)
        return together

    def rocker_margins_deg(self, crank_deg: Floats) -> Floats:
        """Least margin of what is set at each of `rockers`, `(rockers, N)`."""
        margins = self.item_margins_deg(crank_deg)
        return np.array([margins[list(rows)].min(axis=0) for rows in self.rockers.values()])

    @cached_property
    def extras(self) -> Drives | None:
        """Items that a lobe of their own drives and that are no valves, or None."""
        drives = extra_drives(self.engine)
        return Drives.of(drives) if drives else None

    def mark_deg(self, mark: Mark) -> float:
        """Crank angle at which a mark is met: [0, 360) on the crank, [0, 720) on a cam."""
        turn = TURN_DEG if mark.shaft is Shaft.CRANK else CYCLE_DEG
        if mark.angle_deg is None:
            return float(self.true_offsets_deg[mark.cylinder - 1]) % turn
        return mark.angle_deg

    def mark_places_deg(self, mark: Mark) -> tuple[float, ...]:
        """Every crank angle of a cycle at which a mark is met: two, or one for a cam mark."""
        at_deg = self.mark_deg(mark)
        return (at_deg, at_deg + TURN_DEG) if mark.shaft is Shaft.CRANK else (at_deg,)

    @property
    def true_offsets_deg(self) -> Floats:
        """Crank angle of each cylinder's true compression TDC in [0, 720), shape `(C,)`."""
        return wrap_deg(self.offsets_deg + self.centres.tdc_deg)


@dataclass(frozen=True, slots=True, eq=False)
class EngineState:
    """Every cylinder and valve at the crank angles `crank_deg`, shape `()` or `(N,)`.

    Cycle angles and strokes follow the nominal phasing; pistons and "at TDC" the true one.

    Cylinder fields are `(C,)` or `(C, N)`; valve fields `(V,)` or `(V, N)` in the order of
    `Engine.valves`. `margin_deg` is negative off the base circle.
    """

    crank_deg: Floats
    cycle_deg: Floats
    stroke: np.ndarray[tuple[int, ...], np.dtype[np.intp]]
    piston_from_tdc_mm: Floats
    at_compression_tdc: Bools
    at_overlap_tdc: Bools
    lift_mm: Floats
    margin_deg: Floats

    @property
    def free(self) -> Bools:
        """Whether each valve's tappet is on the base circle: it may be adjusted."""
        return np.asarray(self.margin_deg >= 0.0)

    def stroke_of(self, row: int) -> Stroke:
        """Stroke of one cylinder row; for a state at a single angle."""
        return Stroke(int(self.stroke[row]))


def engine_state(rig: Rig, crank_deg: float | Floats) -> EngineState:
    """State of a rig at one crank angle or at an array of angles of shape `(N,)`.

    >>> from true_compass.core.engine import even_inline
    >>> state = engine_state(Rig.of(even_inline((1, 5, 3, 6, 2, 4))), 240.0)
    >>> [int(row) + 1 for row in np.flatnonzero(state.at_compression_tdc)]
    [3]
    """
    crank = wrap_deg(np.asarray(crank_deg, dtype=float))
    cycle = cycle_angles_deg(rig.offsets_deg, crank)
    if rig.plain:
        fall = piston_from_tdc_mm(cycle, rig.engine.stroke_mm, rig.engine.rod_mm)
        at_compression, at_overlap = at_tdc(cycle)
    else:
        top = over_angles(rig.centres.top_mm, crank)
        one = not crank.ndim
        fall = piston_height_mm(rig.linkage, cycle) if one else rig.turning.heights_mm(crank)
        np.subtract(top, fall, out=fall)
        np.maximum(fall, 0.0, out=fall)
        true_cycle = scratch("true_cycle", cycle.shape)
        np.subtract(cycle, over_angles(rig.centres.tdc_deg, crank), out=true_cycle)
        at_compression, at_overlap = at_tdc(true_cycle)
    return EngineState(
        crank_deg=crank,
        cycle_deg=cycle,
        stroke=strokes(cycle),
        piston_from_tdc_mm=fall,
        at_compression_tdc=at_compression,
        at_overlap_tdc=at_overlap,
        lift_mm=rig.lobes.lift_mm(crank),
        margin_deg=rig.lobes.margin_deg(crank),
    )
