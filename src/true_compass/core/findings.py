"""What is worth saying about an engine: wrong, worth a look, or just so.

Each `check_…` gives findings about one thing. A new one is one small function in `CHECKS`.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import Enum
from typing import Final

import numpy as np

from true_compass.core.adjusting.stops import two_stop_plan, whole_degrees
from true_compass.core.angles import CYCLE_DEG, TURN_DEG, Floats
from true_compass.core.crank.firing import SAME_DEG
from true_compass.core.crank.layout import Form
from true_compass.core.crank.phasing import AT_TDC_DEG, companion_of
from true_compass.core.engine import Engine, Meaning, Shaft
from true_compass.core.ignition.advance import check_total
from true_compass.core.items import Kind
from true_compass.core.spark import Ignition
from true_compass.core.state import Rig


class Severity(Enum):
    """How much a finding matters."""

    WRONG = "wrong"
    LOOK = "look"
    NOTE = "note"


@dataclass(frozen=True, slots=True)
class Finding:
    """Severity, the field it concerns, and one plain sentence."""

    severity: Severity
    field: str
    sentence: str


THIN_DEG: Final = 30.0
MOST_OF_EVEN: Final = 2.5
LEAST_OF_EVEN: Final = 1 / 3


def check_intervals(rig: Rig) -> Iterator[Finding]:
    """Uneven firing, and cylinders that fire together."""
    engine = rig.engine
    together = [group for group in engine.firing_groups if len(group) > 1]
    if together:
        words = " and ".join("+".join(map(str, group)) for group in together)
        yield Finding(Severity.NOTE, "firing_order", f"Cylinders {words} fire together.")
    if not engine.fires_evenly:
        gaps = ", ".join(f"{gap:g}°" for gap in sorted({round(g, 2) for g in engine.intervals_deg}))
        severity = Severity.LOOK if is_very_uneven(engine) else Severity.NOTE
        yield Finding(severity, "firing_order", f"Firing is uneven: gaps of {gaps}.")


def is_very_uneven(engine: Engine) -> bool:
    """Whether gaps are so unlike that somebody has hardly meant it: one over two and a half times
    that of an even engine, or one below a third. A V six of 90° on three pins is none, and two
    cylinders are never asked."""
    even_deg, gaps = CYCLE_DEG / len(engine.firing_groups), engine.intervals_deg
    uneven = max(gaps) > MOST_OF_EVEN * even_deg or min(gaps) < LEAST_OF_EVEN * even_deg
    return engine.cylinder_count > 2 and uneven


def check_companions(rig: Rig) -> Iterator[Finding]:
    """Companions: none, or not those that a rule of thumb would give."""
    engine = rig.engine
    companions = {cylinder: companion_of(engine, cylinder) for cylinder in engine.cylinders}
    count = engine.cylinder_count
    if count > 1 and not any(companions.values()):
        yield Finding(Severity.NOTE, "firing_order", "No cylinder has a companion.")
    elif any(c is not None and c != count + 1 - cylinder for cylinder, c in companions.items()):
        sentence = f"Companion numbers do not add up to {count + 1} here."
        yield Finding(Severity.NOTE, "firing_order", sentence)


def check_dead_centres(rig: Rig) -> Iterator[Finding]:
    """How far true dead centres lie from the nominal ones."""
    engine = rig.engine
    away = float(np.max(np.abs(rig.centres.tdc_deg)))
    if away > SAME_DEG:
        cause = "Link rods" if engine.layout.articulated else "Offsets"
        sentence = f"{cause} move TDC by up to {away:.2f}° from its nominal angle."
        yield Finding(
            Severity.NOTE, "rods" if engine.layout.articulated else "pin_offset", sentence
        )


def check_two_stops(rig: Rig) -> Iterator[Finding]:
    """Whether two stops are enough for this cam."""
    least = two_stop_plan(rig).least_margin_deg
    if least < 0:
        off = -whole_degrees(least)
        sentence = f"Two stops are unsafe: one valve would be {off}° off its base circle."
        yield Finding(Severity.LOOK, "cam", sentence)
    elif least < THIN_DEG:
        sentence = f"Two stops are thin: the least margin is {whole_degrees(least)}°."
        yield Finding(Severity.LOOK, "cam", sentence)


def check_proportions(rig: Rig) -> Iterator[Finding]:
    """Figures that look like a slip of the pen."""
    engine = rig.engine
    ratio = engine.rod_mm / engine.stroke_mm
    if not 1.2 <= ratio <= 3.0:
        sentence = f"Rod over stroke is {ratio:.2f}; most engines lie between 1.2 and 3."
        yield Finding(Severity.LOOK, "rod_mm", sentence)
    for kind in Kind:
        timing = engine.cam.timing(kind)
        if timing.peak_lift_mm > engine.bore_mm / 3:
            sentence = f"The {kind.value} lift of {timing.peak_lift_mm:g} mm is large for the bore."
            yield Finding(Severity.LOOK, f"{kind.value}_lift_mm", sentence)
        if timing.lash_mm > 1.0:
            sentence = (
                f"The {kind.value} lash of {timing.lash_mm:g} mm is large: is a decimal point lost?"
            )
            yield Finding(Severity.LOOK, f"{kind.value}_mm", sentence)


def check_valve_train(rig: Rig) -> Iterator[Finding]:
    """Valves that lash keeps shut, a compression release, and items that are no valves."""
    engine = rig.engine
    for valve in engine.valves[:2]:
        if rig.lobes.peak_lift_mm[engine.valve_row(valve.cylinder, valve.kind)] <= 0:
            sentence = f"The lash takes up the whole {valve.kind.value} lobe: it never opens."
            yield Finding(Severity.WRONG, f"{valve.kind.value}_mm", sentence)
    if engine.cam.release is not None:
        yield Finding(
            Severity.NOTE,
            "release",
            "A compression release holds the exhaust valve open: adjust it past TDC.",
        )
    if engine.cam.intake.suction:
        sentence = "The intake valves have no lobe: there is nothing to set on them."
        yield Finding(Severity.NOTE, "intake_lobe", sentence)


def check_marks(rig: Rig) -> Iterator[Finding]:
    """Marks that can creep, and TDC marks that stand off the TDC they name."""
    engine = rig.engine
    for mark in engine.marks:
        if mark.can_creep:
            sentence = f"The mark on the {mark.where} can creep."
            yield Finding(Severity.LOOK, "mark", sentence)
        if mark.angle_deg is None:
            continue
        turn = TURN_DEG if mark.shaft is Shaft.CRANK else CYCLE_DEG
        off_deg = _off_deg(rig.offsets_deg, mark.angle_deg, turn)
        if mark.meaning is Meaning.TDC and abs(off_deg) > AT_TDC_DEG:
            sentence = (
                f"The TDC mark on the {mark.where} at {mark.angle_deg:g}° is at no cylinder's TDC."
            )
            yield Finding(Severity.LOOK, "mark", sentence)
        elif mark.meaning is Meaning.TDC:
            late_deg = _off_deg(rig.true_offsets_deg, mark.angle_deg, turn)
            if abs(late_deg) > AT_TDC_DEG:
                when = "before" if late_deg < 0 else "after"
                sentence = (
                    f"The TDC mark on the {mark.where} stands at the nominal angle: it is met "
                    f"{abs(late_deg):.1f}° {when} the true TDC."
                )
                yield Finding(Severity.NOTE, "mark", sentence)
        elif mark.meaning is Meaning.FIRING:
            sentence = f"The mark on the {mark.where} is a firing point, not a TDC."
            yield Finding(Severity.NOTE, "mark", sentence)


def _off_deg(tdc_deg: Floats, mark_deg: float, turn_deg: float) -> float:
    """How far a mark is met after the nearest TDC, negative before it."""
    away = (mark_deg - tdc_deg + turn_deg / 2) % turn_deg - turn_deg / 2
    return float(away[int(np.argmin(np.abs(away)))])


def check_valve_tables(rig: Rig) -> Iterator[Finding]:
    """Lift tables that were read at the valve, and so cannot hold the ramp below the lash."""
    engine = rig.engine
    for kind in Kind:
        timing = engine.cam.timing(kind)
        if timing.table is not None and not timing.table.of_lobe:
            sentence = (
                f"The {kind.value} table was read at the valve, where lash hides the ramp: "
                f"{timing.ramp_deg:g}° of ramp is assumed on either side."
            )
            yield Finding(Severity.LOOK, "cam", sentence)


def check_rotor(rig: Rig) -> Iterator[Finding]:
    """A rotor whose direction nobody has looked at."""
    engine = rig.engine
    if engine.ignition in (Ignition.DISTRIBUTOR, Ignition.MAGNETO) and engine.rotor.turns is None:
        sentence = "The rotor's direction is assumed, not seen: bar the engine and look."
        yield Finding(Severity.LOOK, "ignition", sentence)


def check_cap(rig: Rig) -> Iterator[Finding]:
    """Posts that do not match the cylinders, and a total that the engine does not bear."""
    engine = rig.engine
    if engine.has_rotor and engine.posts != engine.cylinder_count:
        sentence = (
            f"The cap has {engine.posts} posts for {engine.cylinder_count} cylinders: count them "
            "again, without the one in the middle."
        )
        yield Finding(Severity.LOOK, "ignition", sentence)
    total = check_total(engine.spark.advance)
    if total is not None and not total.fine:
        yield Finding(Severity.LOOK, "ignition", f"{total.said}. {total.why}")


def check_radial_order(rig: Rig) -> Iterator[Finding]:
    """A one-row radial of an odd number fires every other cylinder."""
    engine = rig.engine
    count = engine.cylinder_count
    if engine.layout.form is Form.RADIAL and len(engine.layout.throws) == 1 and count % 2:
        every_other = tuple(2 * step % count + 1 for step in range(count))
        if engine.firing_order != every_other and engine.fires_evenly:
            yield Finding(
                Severity.LOOK, "firing_order", "A one-row radial fires every other cylinder."
            )


def check_gear_dots(rig: Rig) -> Iterator[Finding]:
    """Dots on the gears that mean another cylinder than 1."""
    engine = rig.engine
    if engine.dots_fire > 1:
        sentence = f"When the gear dots meet, cylinder {engine.dots_fire} fires, not 1."
        yield Finding(Severity.NOTE, "dots_fire", sentence)


CHECKS: Final[tuple[Callable[[Rig], Iterator[Finding]], ...]] = (
    check_intervals,
    check_companions,
    check_dead_centres,
    check_two_stops,
    check_proportions,
    check_valve_train,
    check_marks,
    check_valve_tables,
    check_rotor,
    check_cap,
    check_radial_order,
    check_gear_dots,
)
_ORDER: Final = tuple(Severity)


def findings(engine: Engine, rig: Rig | None = None) -> list[Finding]:
    """Everything worth saying about an engine, the worst first; `rig` where it is known already."""
    known = rig or Rig.of(engine)
    found = [finding for check in CHECKS for finding in check(known)]
    return sorted(found, key=lambda finding: _ORDER.index(finding.severity))
