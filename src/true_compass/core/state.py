"""The whole engine at one crank angle, or at an array of them, through the same code."""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Final

import numpy as np

from true_compass.core.angles import Bools, Floats, over_angles, wrap_deg
from true_compass.core.cam import Kind, Valve
from true_compass.core.drive import Drive, Drives
from true_compass.core.engine import Engine
from true_compass.core.lobe import bump_profile, profiles_of
from true_compass.core.mechanism import (
    DeadCentres,
    Linkage,
    dead_centres,
    piston_from_tdc_mm,
    piston_height_mm,
)
from true_compass.core.phasing import (
    Stroke,
    at_tdc,
    crank_pins,
    cycle_angles_deg,
    strokes,
)
from true_compass.core.train import lash_at_valve_mm

LEAST_DRAWN_MM: Final = 0.1
BRIDGE: Final = "bridge"
VARIABLE: Final = "variable"


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
    """What drives each item that is no valve, in the order of `engine.extra_items`."""
    return [
        Drive(
            bump_profile(item.lobe.bump, item.lobe.ratio, item.lobe.lash_mm),
            float(engine.firing_offsets_deg[item.cylinder - 1]),
            item.lobe.ratio,
            item.lobe.lash_mm,
        )
        for item in engine.extra_items
    ]


def names_at(engine: Engine, valve: Valve) -> list[str]:
    """What a person sets at a valve, in that order: its bridge, itself, its variable-intake gap.

    A bridge joins two valves: there is none over a single one.
    """
    before = [f"{valve.name} {BRIDGE}"] if engine.train.bridge and valve.count > 1 else []
    levered = engine.train.variable_intake_mm > 0 and valve.kind is Kind.INTAKE
    return [*before, valve.name, *([f"{valve.name} {VARIABLE}"] if levered else [])]


@dataclass(frozen=True)
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
        for side, kind in enumerate(Kind):
            timing = engine.cam.timing(kind)
            if not timing.suction:
                tried_mm = max(timing.lash_mm + what_if.lash_mm(kind), 0.0)
                lash_mm[side::2] = lash_at_valve_mm(engine.train, kind, tried_mm)
                earlier_deg[side::2] = what_if.advance_deg(kind)
        lobes = usual.lobes.changed(lash_mm, earlier_deg)
        return replace(self, lobes=lobes, what_if=what_if, usual=usual)

    @property
    def as_set(self) -> "Rig":
        """The same engine with lash and advance as they are set."""
        return self.usual or self

    @cached_property
    def _lobe_items(self) -> tuple[tuple[str, int], ...]:
        """Names of what the valves' lobes drive, and the row in `lobes` of each.

        A bridge comes before its rocker, a variable-intake gap after it; both are free with it.
        """
        rows = zip(self.engine.valves, self.lobes.settable, strict=True)
        return tuple(
            (name, row)
            for row, (valve, settable) in enumerate(rows)
            if settable
            for name in names_at(self.engine, valve)
        )

    @cached_property
    def item_names(self) -> tuple[str, ...]:
        """Everything that a person sets, what the valves' lobes drive first."""
        extras = (item.name for item in self.engine.extra_items)
        return (*(name for name, _ in self._lobe_items), *extras)

    @cached_property
    def item_arcs_deg(self) -> dict[str, tuple[tuple[float, float], ...]]:
        """Free arcs of each of `item_names`: where each starts (crank angle), and its length."""
        rows = [(self.lobes, row) for _, row in self._lobe_items]
        if self.extras is not None:
            rows += [(self.extras, row) for row in range(len(self.engine.extra_items))]
        return {
            name: tuple(drives.free_arcs_deg(row))
            for name, (drives, row) in zip(self.item_names, rows, strict=True)
        }

    def item_margins_deg(self, crank_deg: Floats) -> Floats:
        """Margin of each of `item_names` at crank angles `(N,)`, shape `(items, N)`."""
        margins = self.lobes.margin_deg(crank_deg)[[row for _, row in self._lobe_items]]
        if self.extras is None:
            return margins
        return np.concatenate((margins, self.extras.margin_deg(crank_deg)))

    @cached_property
    def extras(self) -> Drives | None:
        """Items that a lobe drives and that are no valves, or None."""
        drives = extra_drives(self.engine)
        return Drives.of(drives) if drives else None

    @property
    def true_offsets_deg(self) -> Floats:
        """Crank angle of each cylinder's true compression TDC in [0, 720), shape `(C,)`."""
        return wrap_deg(self.offsets_deg + self.centres.tdc_deg)


@dataclass(frozen=True, slots=True)
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
        fall = np.maximum(top - piston_height_mm(rig.linkage, cycle), 0.0)
        at_compression, at_overlap = at_tdc(cycle - over_angles(rig.centres.tdc_deg, crank))
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
