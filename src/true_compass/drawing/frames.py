"""What each cylinder shows at one crank angle: its place, its section, its valves' chips."""

from dataclasses import dataclass
from typing import Final

from true_compass.core.state import EngineState, Rig
from true_compass.core.strokes import Stroke
from true_compass.drawing.chips import Chip
from true_compass.drawing.codes import Place
from true_compass.drawing.ring import place_of
from true_compass.drawing.section import SectionPose

STROKES: Final = tuple(Stroke)


@dataclass(frozen=True, slots=True)
class CylinderFrame:
    """What one column shows at one crank angle."""

    place: Place
    pose: SectionPose
    chips: tuple[Chip, ...]


def cylinder_frames(rig: Rig, now: EngineState) -> list[CylinderFrame]:
    """Every cylinder of an engine at one crank angle, worked out in one go."""
    engine = rig.engine
    fractions = (now.lift_mm / rig.full_lift_mm).tolist()
    chips = [
        Chip(valve.kind, valve.name, margin, lift, valve.cylinder, valve.count)
        for valve, margin, lift in zip(
            engine.valves, now.margin_deg.tolist(), now.lift_mm.tolist(), strict=True
        )
    ]
    rows = zip(
        now.cycle_deg.tolist(), now.stroke.tolist(), now.piston_from_tdc_mm.tolist(), strict=True
    )
    return [
        CylinderFrame(
            place_of(now, row),
            SectionPose(cycle, STROKES[stroke], piston, *(fractions[at] for at in pair)),
            tuple(chips[at] for at in pair),
        )
        for row, (cycle, stroke, piston) in enumerate(rows)
        for pair in (engine.valve_rows(row + 1),)
    ]
