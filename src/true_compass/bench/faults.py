"""The catalogue of faults: what each changes, which signs show it, and what a careful person does.

All of it is common practice (no source). A fault is refused only where the part is missing.
"""

from dataclasses import dataclass
from typing import Final

from true_compass.core.adjusting.setting import Way, has_rockers, has_rods, settings_of
from true_compass.core.crank.phasing import companion_of
from true_compass.core.engine import Engine, Shaft
from true_compass.core.ignition.leads import crossing_pairs
from true_compass.core.limits import EngineError


@dataclass(frozen=True, slots=True)
class Fault:
    """One thing that can be wrong.

    `apart` names a group of which an engine can have one only.
    """

    slug: str
    title: str
    changes: str
    shown_by: str
    careful: str
    apart: str = ""

    def missing(self, engine: Engine) -> str:
        """What an engine lacks to carry it, as the end of a sentence; nothing where it can."""
        return _MISSING.get(self.slug, _nothing)(engine)


FAULTS: Final = tuple(
    Fault(*row)
    for row in (
        (
            "other-tdc",
            "It stands at the other TDC",
            "The mark is in line, but the cylinder is in overlap.",
            "its rockers are both tight; the thumb is not pushed on the way up",
            "Wiggle both rockers before anything is touched. Not both loose: turn once more.",
        ),
        (
            "damper-crept",
            "The damper's ring has crept",
            "The mark on the ring is met some degrees off true TDC.",
            "two readings put TDC elsewhere than the mark",
            "Find true TDC by two readings, and hold the mark against it.",
            "damper",
        ),
        (
            "firing-mark",
            "The only line is the ignition point",
            "The line on the damper is met before TDC; it is stamped F.",
            "its stamp; the piston still rises at the line",
            "Read the stamp, and ask the book what it means.",
            "damper",
        ),
        (
            "two-marks",
            "Two marks alike on one rim",
            "A second line with the same stamp stands beside the TDC mark.",
            "two lines pass the pointer in one turn; two readings fit only one",
            "Turn a whole turn and look for a second line. True TDC tells which one it is.",
            "damper",
        ),
        (
            "flywheel-pair",
            "The flywheel is bolted on for another pair",
            "The line stamped for the pair of cylinder 1 comes up at another pair's TDC.",
            "the damper's mark and two readings disagree with the flywheel",
            "Hold the flywheel's line against the damper's mark and the piston.",
        ),
        (
            "rotor-one-turn",
            "The rotor is a crank turn out",
            "At compression TDC the rotor points half a turn of its own away.",
            "the rotor points to the opposite post at compression TDC",
            "Find compression TDC without the rotor first, then look where it points.",
            "rotor",
        ),
        (
            "rotor-teeth",
            "The distributor meshes a tooth or two out",
            "At compression TDC the rotor stands beside the post.",
            "the rotor points between two posts at TDC, always the same way",
            "At compression TDC, turned in the running direction, look at rotor and post.",
            "rotor",
        ),
        (
            "leads-reversed",
            "Leads laid against the rotor",
            "The order is right, but goes round the cap the wrong way.",
            "only post 1 and the one opposite are right",
            "See the rotor turn, then read the leads in that direction.",
            "leads",
        ),
        (
            "leads-swapped",
            "Two leads changed about",
            "Two cylinders have each other's lead.",
            "the cap read round is not the firing order",
            "Read the whole cap, lead by lead, against the order.",
            "leads",
        ),
        (
            "leads-cross",
            "Two leads cross-fire",
            "Leads of neighbours that fire in turn lie side by side: one lights the other.",
            "it knocks under load; two leads lie together over a length",
            "Follow the leads of neighbours that fire one after the other, and part them.",
            "leads",
        ),
        (
            "can-unplugged",
            "The vacuum hose is off",
            "The can gets no depression and adds nothing.",
            "thirsty on a light throttle; the lamp shows no vacuum advance",
            "Lamp at one speed, hose off and on: the mark must move.",
        ),
        (
            "weights-stuck",
            "The weights are stuck",
            "They give half of their advance.",
            "flat at speed; the lamp reads short at full speed with the hose off",
            "Lamp at idle and at full speed, hose off and plugged.",
        ),
        (
            "cam-one-tooth",
            "The camshaft is one tooth out",
            "Every valve event is early or late by the same angle.",
            "the dots miss by a tooth; valves move at the wrong degrees on the wheel",
            "Read opening or full lift on a wheel set to true TDC; look at the dots.",
            "cam gear",
        ),
        (
            "dots-companion",
            "The dots meet when the companion fires",
            "With the dots together cylinder 1 is in overlap.",
            "dots together, and the rockers of 1 are tight",
            "Dots tell the pair. Ask the rockers which one.",
            "cam gear",
        ),
        (
            "valve-leaks",
            "A valve leaks",
            "One cylinder does not hold its pressure.",
            "low compression that oil does not raise; it spits back or chuffs",
            "Gauge every cylinder dry, then the low one with oil.",
        ),
        (
            "rings-leak",
            "Rings leak",
            "One cylinder does not hold its pressure.",
            "low compression that oil raises; blue smoke",
            "Gauge every cylinder dry, then the low one with oil.",
        ),
        (
            "lobe-worn",
            "A lobe is worn",
            "One valve lifts clearly less; its lash on the heel is right.",
            "a dial on each valve",
            "Gap right and still too little air: measure the lift of all.",
        ),
        (
            "rod-bent",
            "A push rod is bent",
            "One rod wobbles as it is spun, and its gap is wider.",
            "spinning the rods",
            "Spin every rod before anything is set.",
            "rods",
        ),
        (
            "rod-length",
            "Push rods of the wrong length",
            "All rods are too long by the same amount: a sister engine's set.",
            "every rocker bears off the middle of its valve tip",
            "Look where the rockers bear, all of them, before blaming one.",
            "rods",
        ),
        (
            "stems-unequal",
            "One valve stands higher",
            "One stem is longer out of its seat than the others.",
            "one rocker or bucket stands higher than its neighbours",
            "Sight along the row; count turns to the seat.",
        ),
        (
            "lifter-collapsed",
            "A hydraulic tappet has collapsed",
            "Its plunger sinks under load, so its valve lifts less.",
            "it stays soft after a run; its valve lifts less; it ticks",
            "Lift its rod after a run: a sound one is hard.",
        ),
        (
            "plunger-bottomed",
            "A hydraulic plunger is bottomed",
            "The preload is past the plunger's travel: the valve hangs open.",
            "that rod will not spin on the heel; low compression",
            "Back off to zero lash and count the turns in again.",
        ),
        (
            "rocker-tight",
            "A rocker binds on its pivot",
            "One rocker does not click anywhere, though its gap is right.",
            "tight on the heel, yet the blade goes; lifted by hand it binds",
            "Not both loose: stop and find out why. Never slacken there.",
        ),
        (
            "cover-struck",
            "A rocker strikes its cover",
            "It ticks with the cover on, with every gap right.",
            "a bright spot inside the cover",
            "Look into the cover before an adjuster is touched.",
        ),
        (
            "locknut-creeps",
            "A locknut does not hold",
            "One gap moves as the engine turns.",
            "its nut is found loose, and its gap has moved after two turns",
            "Feel each nut; measure again after two turns.",
        ),
        (
            "compression-release",
            "The compression release hangs on",
            "It holds the exhaust valve open almost to TDC.",
            "the exhaust valve is still off its seat shortly before TDC",
            "Stop past TDC, and see on the dial where the release lets go.",
        ),
        (
            "probe-slanted",
            "The plug hole leads the probe in at an angle",
            "A stop or dial through it reads before TDC differently than after.",
            "the mean of two readings walks with the depth",
            "Read at two depths. If the means differ, trust the mark.",
        ),
        (
            "overlap-small",
            "A cam with hardly any overlap",
            "At both TDCs both rockers are loose.",
            "all four loose on both companions, with the gaps right",
            "Turn on 20°: the one whose intake goes tight was in overlap. Never slacken there.",
            "loose pairs",
        ),
        (
            "lash-wide-companions",
            "Both companions set far too wide",
            "At both TDCs both rockers are loose.",
            "all four loose on both companions, and blades far above the band go",
            "Measure before believing: the gaps come first.",
            "loose pairs",
        ),
    )
)
BY_SLUG: Final = {fault.slug: fault for fault in FAULTS}


def fault_named(slug: str) -> Fault:
    """The fault of a word. Raises `EngineError` for one that is not in the catalogue."""
    fault = BY_SLUG.get(slug)
    if fault is None:
        raise EngineError(
            "faults", f"names {slug[:30]!r}, which is none: scenario faults lists them all"
        )
    return fault


def check_faults(engine: Engine, slugs: tuple[str, ...]) -> None:
    """Raise unless an engine can carry these faults, two at most, together."""
    if len(slugs) > 2:
        raise EngineError("faults", f"are {len(slugs)}, and two are the most: take one away")
    found = [fault_named(slug) for slug in slugs]
    if len(set(slugs)) < len(slugs):
        raise EngineError("faults", f"names {slugs[0]} twice: name it once")
    for fault in found:
        missing = fault.missing(engine)
        if missing:
            raise EngineError("faults", f"names {fault.slug}, but this engine {missing}")
    if len(found) == 2 and found[0].apart and found[0].apart == found[1].apart:
        raise EngineError(
            "faults",
            f"names {slugs[0]} and {slugs[1]}, which exclude each other: take one of them away",
        )


def _nothing(_engine: Engine) -> str:
    return ""


def _no_creeping_ring(engine: Engine) -> str:
    marks = [mark for mark in engine.marks if mark.shaft is Shaft.CRANK]
    if marks and not any(mark.can_creep for mark in marks):
        return "has no mark on a ring that can creep"
    return ""


def _no_other_pair(engine: Engine) -> str:
    pairs = pairs_of(engine)
    joined = any(len(cylinders) > 1 for _, cylinders in pairs)
    return "" if joined and len(pairs) > 1 else "has no second pair of cylinders"


def pairs_of(engine: Engine) -> tuple[tuple[float, tuple[int, ...]], ...]:
    """Nominal crank angle in [0, 360) of every TDC, with the cylinders that come up there."""
    found: dict[float, list[int]] = {}
    for cylinder, at_deg in zip(engine.cylinders, engine.firing_offsets_deg.tolist(), strict=True):
        found.setdefault(round(at_deg % 360.0, 6) % 360.0, []).append(cylinder)
    return tuple((at_deg, tuple(found[at_deg])) for at_deg in sorted(found))


def _no_rotor(engine: Engine) -> str:
    return "" if engine.has_rotor else "has no distributor"


def _no_leads(engine: Engine, least: int) -> str:
    if not engine.has_rotor:
        return "has no distributor"
    few = engine.cylinder_count < least
    return f"has fewer than {least} leads" if few else ""


def _no_crossing(engine: Engine) -> str:
    missing = _no_leads(engine, 2)
    return missing or ("" if crossing_pairs(engine) else "has no neighbours that fire in turn")


def _no_can(engine: Engine) -> str:
    return "" if is_timed(engine) and engine.spark.advance.can else "has no vacuum can"


def _no_weights(engine: Engine) -> str:
    return "" if is_timed(engine) and engine.spark.advance.weights else "has no weights"


def is_timed(engine: Engine) -> bool:
    """Whether its book says where it fires."""
    return engine.has_rotor and engine.spark.advance.initial_deg is not None


def _no_companion(engine: Engine) -> str:
    return "" if companion_of(engine, 1) else "has no companion of cylinder 1"


def _no_gaps_on_companion(engine: Engine) -> str:
    return _no_companion(engine) or _no_gaps(engine)


def _no_gaps(engine: Engine) -> str:
    gaps = any(setting.way is Way.GAP for setting in settings_of(engine))
    return "" if gaps and not engine.train.hydraulic else "has no valve gaps"


def _no_rods(engine: Engine) -> str:
    return "" if has_rods(engine) else "has no push rods"


def _no_rockers(engine: Engine) -> str:
    return "" if has_rockers(engine) else "has no rockers"


def _not_hydraulic(engine: Engine) -> str:
    return "" if engine.train.hydraulic else "has no hydraulic tappets"


def _no_locknut(engine: Engine) -> str:
    nuts = any(setting.has_locknut for setting in settings_of(engine))
    return "" if nuts else "has no locknuts"


def _no_release(engine: Engine) -> str:
    return "" if engine.cam.release is not None else "has no compression release"


def _suction(engine: Engine) -> str:
    return "opens its intake by suction" if engine.cam.intake.suction else ""


_MISSING: Final = {
    "damper-crept": _no_creeping_ring,
    "flywheel-pair": _no_other_pair,
    "rotor-one-turn": _no_rotor,
    "rotor-teeth": _no_rotor,
    "leads-reversed": lambda engine: _no_leads(engine, 3),
    "leads-swapped": lambda engine: _no_leads(engine, 2),
    "leads-cross": _no_crossing,
    "can-unplugged": _no_can,
    "weights-stuck": _no_weights,
    "dots-companion": _no_companion,
    "rod-bent": _no_rods,
    "rod-length": _no_rods,
    "lifter-collapsed": _not_hydraulic,
    "plunger-bottomed": _not_hydraulic,
    "rocker-tight": _no_rockers,
    "cover-struck": _no_rockers,
    "locknut-creeps": _no_locknut,
    "compression-release": _no_release,
    "overlap-small": _suction,
    "lash-wide-companions": _no_gaps_on_companion,
}
