"""How a person can know that the crank stands at a place, and what can fool them.

The signs are common practice (no source). Only those that work on this engine are told.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from true_compass.core.adjusting.stops import Stop
from true_compass.core.angles import signed_difference_deg
from true_compass.core.crank.phasing import companion_of
from true_compass.core.engine import Meaning, Shaft
from true_compass.core.state import Rig, engine_state
from true_compass.core.words import capital, fully_open, valves_rock

AT_DEG = 0.5


@dataclass(frozen=True, slots=True)
class Sign:
    """One thing to look at, and what can fool whoever looks."""

    look: str
    fooled_by: str = ""
    short: str = ""
    """The same in the fewest words, as a plan has it."""

    @property
    def what(self) -> str:
        """What it is, in the fewest words."""
        return self.short or self.look


def signs_at(rig: Rig, crank_deg: float) -> list[Sign]:
    """Every sign that this engine gives at a crank angle, the surest first."""
    engine = rig.engine
    state = engine_state(rig, crank_deg)
    signs: list[Sign] = []
    firing = [c for c in engine.cylinders if state.at_compression_tdc[c - 1]]
    rocking = [c for c in engine.cylinders if state.at_overlap_tdc[c - 1]]
    for cylinder in firing:
        other = companion_of(engine, cylinder)
        if other in rocking and other is not None:
            signs.append(
                Sign(
                    f"{valves_rock(other)}: its exhaust closes, its intake opens",
                    "cams with little overlap",
                    valves_rock(other),
                )
            )
    signs += _mark_signs(rig, crank_deg)
    for cylinder in firing:
        loose = f"both rockers of {cylinder} are loose"
        fools = ["a rocker set too tight"]
        if engine.train.hydraulic:
            fools.append("tappets that are pumped up")
        if engine.has_rotor:
            loose = f"both rockers of {cylinder} are loose, and the rotor points to its post"
            fools.append("a distributor one turn out")
        signs.append(Sign(loose, "; ".join(fools)))
        if cylinder == engine.dots_fire:
            signs.append(Sign("the gear dots meet", "a tooth out, or dots that mean another TDC"))
    signs += _nominal_signs(rig, crank_deg)
    if not firing:
        signs += [
            Sign(
                f"{valves_rock(cylinder)}: overlap TDC",
                "cams with little overlap",
                valves_rock(cylinder),
            )
            for cylinder in rocking
        ]
    if not firing and not rocking:
        signs += _moving_signs(rig, crank_deg)
    return signs


_MARKED: Final = {Meaning.TDC: "TDC mark", Meaning.FIRING: "firing mark", Meaning.OTHER: "mark"}


def _mark_signs(rig: Rig, crank_deg: float) -> list[Sign]:
    """The marks that are in line at a crank angle, each by its own words."""
    signs = []
    for mark in rig.engine.marks:
        places = np.array(rig.mark_places_deg(mark))
        if np.min(np.abs(signed_difference_deg(np.array(crank_deg), places))) > AT_DEG:
            continue
        told = ", ".join(filter(None, (mark.colour, mark.stamped)))
        fools = ["a mark passes twice a cycle"]
        if mark.shaft is Shaft.CAM:
            fools = ["another cam than the original, or a tooth out"]
        if mark.can_creep:
            fools.append("this one can creep")
        where = f"{mark.where} ({told})" if told else mark.where
        look = f"the {_MARKED[mark.meaning]} on the {where} is in line"
        signs.append(Sign(look, "; ".join(fools)))
    return signs


def _nominal_signs(rig: Rig, crank_deg: float) -> list[Sign]:
    """Where a cylinder's nominal TDC is not its true one: which the place is, and how far off."""
    signs = []
    for row, offset_deg in enumerate(rig.offsets_deg.tolist()):
        away = abs(float(signed_difference_deg(np.array(crank_deg), np.array(offset_deg))))
        later = float(rig.centres.tdc_deg[row])
        if away <= 1e-6 and abs(later) > AT_DEG:
            words = f"{later:.1f}° on" if later > 0 else f"{-later:.1f}° before"
            signs.append(
                Sign(
                    f"the nominal TDC of {row + 1}, by a degree scale: its true TDC is {words}",
                    "a scale set to the true TDC instead",
                )
            )
    return signs


def _moving_signs(rig: Rig, crank_deg: float) -> list[Sign]:
    """Between dead centres: what just opens or closes, or stands fully open, near by."""
    lobes, names = rig.lobes, [valve.name for valve in rig.engine.valves]
    before, here, after = lobes.lift_mm(np.array([crank_deg - 3.0, crank_deg, crank_deg + 3.0])).T
    signs = []
    for row, name in enumerate(names):
        if before[row] <= 0 < after[row]:
            signs.append(Sign(f"{name} just opens", "slack: turn in the running direction"))
        elif after[row] <= 0 < before[row]:
            signs.append(Sign(f"{name} just closes", "slack: turn in the running direction"))
        elif here[row] >= max(before[row], after[row]) > 0:
            signs.append(Sign(fully_open(name), "the nose is flat: ± 15° by eye"))
    return signs


def there_words(rig: Rig, crank_deg: float, known: str = "") -> str:
    """One line that tells how to know the place; a degree scale where nothing else does.

    What the school itself says of the place (`known`) is not said again.
    """
    signs = [sign.look for sign in signs_at(rig, crank_deg) if known not in (sign.what, sign.look)]
    if signs:
        return f"{capital(signs[0])}."
    return "" if known else f"Only a degree scale shows {crank_deg:g}°: chalk it from TDC."


def looks_at(rig: Rig, stop: Stop, most: int = 1) -> list[str]:
    """How to know a stop: the school's own sign first, then others, none of them twice."""
    signs = signs_at(rig, stop.crank_deg)[: most + 1]
    own = [stop.sign] if stop.sign else []
    return [*own, *[sign.look for sign in signs if not {sign.what, sign.look} & set(own)][:most]]
