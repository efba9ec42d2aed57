"""An engine's own card: a lift table read from base-circle zero, and what follows from it.

With the gauge at zero on the heel the whole curve can be read, so all four events follow at any
lift: IVO = D/2 − ICL, IVC = D/2 + ICL − 180, EVO = D/2 + ECL − 180, EVC = D/2 − ECL (common
practice, no source). Zeroed at the nose only the centreline can.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

from true_compass.core.engine import Engine
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.valves.cam import LiftTable
from true_compass.core.valves.readings import timing_of_table

HEEL_MM: Final = 0.02
"""What the gauge may be off zero on the heel (run-out)."""


@dataclass(frozen=True, slots=True)
class Events:
    """Four events in crank degrees: IVO BTDC, IVC ABDC, EVO BBDC, EVC ATDC."""

    ivo_deg: float
    ivc_deg: float
    evo_deg: float
    evc_deg: float

    @property
    def overlap_deg(self) -> float:
        """Both valves off their seats about overlap TDC; negative where one shuts first."""
        return self.ivo_deg + self.evc_deg

    def earlier(self, intake_deg: float, exhaust_deg: float) -> "Events":
        """The events with each camshaft earlier by some crank degrees."""
        return Events(
            self.ivo_deg + intake_deg,
            self.ivc_deg - intake_deg,
            self.evo_deg + exhaust_deg,
            self.evc_deg - exhaust_deg,
        )


def events_of(intake_deg: float, exhaust_deg: float, icl_deg: float, ecl_deg: float) -> Events:
    """The four events from durations and centrelines, at the lift at which the durations are.

    >>> events_of(228.0, 236.0, 108.0, 112.0)
    Events(ivo_deg=6.0, ivc_deg=42.0, evo_deg=50.0, evc_deg=6.0)
    """
    return Events(
        intake_deg / 2 - icl_deg,
        intake_deg / 2 + icl_deg - 180.0,
        exhaust_deg / 2 + ecl_deg - 180.0,
        exhaust_deg / 2 - ecl_deg,
    )


def centreline_of(kind: Kind, opens_deg: float, closes_deg: float) -> tuple[float, float]:
    """Duration and centreline from an opening and a closing, each outside its stroke.

    >>> centreline_of(Kind.INTAKE, 6.0, 42.0), centreline_of(Kind.EXHAUST, 50.0, 6.0)
    ((228.0, 108.0), (236.0, 112.0))
    """
    duration = opens_deg + 180.0 + closes_deg
    return duration, duration / 2 - (opens_deg if kind is Kind.INTAKE else closes_deg)


@dataclass(frozen=True, slots=True)
class Row:
    """A lift read at a crank angle after overlap TDC, both as one number."""

    after_tdc_deg: float
    lift_mm: float


def contradictions(rows: Sequence[Row], step_mm: float) -> list[str]:
    """What rows say against each other, a sentence each; empty where they agree.

    `step_mm` is a step of the gauge: that much is no contradiction.
    """
    found = []
    at: dict[float, float] = {}
    for row in rows:
        told = at.setdefault(row.after_tdc_deg, row.lift_mm)
        if abs(told - row.lift_mm) > step_mm + 1e-9:
            found.append(
                f"At {row.after_tdc_deg:g}° there are two lifts, {told:g} and {row.lift_mm:g} mm: "
                "read it again."
            )
    ordered = sorted(rows, key=lambda row: row.after_tdc_deg)
    top = max(range(len(ordered)), key=lambda place: ordered[place].lift_mm, default=0)
    for place in range(1, len(ordered)):
        low, high = ordered[place - 1], ordered[place]
        if low.after_tdc_deg == high.after_tdc_deg:
            continue
        wrong_mm = low.lift_mm - high.lift_mm if place <= top else high.lift_mm - low.lift_mm
        if wrong_mm > step_mm + 1e-9:
            way = "falls on its way up" if place <= top else "rises on its way down"
            found.append(
                f"From {low.after_tdc_deg:g}° to {high.after_tdc_deg:g}° the lift {way}, "
                f"{low.lift_mm:g} to {high.lift_mm:g} mm: read both again."
            )
    if ordered and abs(ordered[0].lift_mm - ordered[-1].lift_mm) > HEEL_MM + 1e-9:
        found.append(
            f"The gauge came back to {ordered[-1].lift_mm:g} mm after {ordered[0].lift_mm:g} on "
            "the heel: it has slipped, or the table ends on the lobe."
        )
    return found


def table_of(rows: Sequence[Row], of_lobe: bool, step_mm: float) -> LiftTable:
    """The lift table that rows make, from heel to heel.

    What the heel reads within its run-out is zero. Raises `EngineError` for rows that contradict
    each other.
    """
    wrong = contradictions(rows, step_mm)
    if wrong:
        raise EngineError("lift table", f"contradicts itself. {wrong[0]}")
    by_angle = {row.after_tdc_deg: row.lift_mm for row in rows}
    ordered = sorted(by_angle.items())
    lifts = [max(lift, 0.0) for _, lift in ordered]
    for end in (0, -1):
        if lifts and lifts[end] <= HEEL_MM:
            lifts[end] = 0.0
    return LiftTable(tuple(360.0 + angle for angle, _ in ordered), tuple(lifts), of_lobe, step_mm)


def measured_engine(engine: Engine, kind: Kind, table: LiftTable) -> Engine:
    """The engine with one kind of valve as it was measured: the table says where its nose stands.

    An advance of its own is in the table already.
    """
    old = engine.cam.timing(kind)
    timing = timing_of_table(kind, table, engine.train, old.lash_mm, None, 0.0, old.ramp_deg)
    banks = () if engine.two_shafts else engine.bank_advances
    return replace(engine, card=None, cam=engine.cam.with_timing(kind, timing), bank_advances=banks)
