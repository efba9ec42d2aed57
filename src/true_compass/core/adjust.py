"""Setting one item: to what, where the blade goes, how far the screw turns, and the steps.

The changes per turn of the adjuster are common practice (no source): with pitch p and ratio R, a
screw at the valve end moves the gap there by p, one at the push-rod end by p·R, a nut on the pivot
or a pedestal by p·(1 + R).
"""

from dataclasses import dataclass

from true_compass.core.cam import Kind
from true_compass.core.engine import Engine
from true_compass.core.state import BRIDGE, VARIABLE
from true_compass.core.train import Adjuster, LashAt, Train
from true_compass.core.units import MM_PER_THOU


@dataclass(frozen=True, slots=True)
class Task:
    """What to do at one item. `target_mm` is None where there is no gap to set."""

    name: str
    full_name: str
    target_mm: float | None
    place: str
    steps: tuple[str, ...]
    tools: str = ""

    @property
    def _kind(self) -> str:
        return "b" if self.name.endswith(BRIDGE) else self.name[0]

    @property
    def short(self) -> str:
        """The gap in mm, or a word for what is set instead."""
        if self.target_mm is None:
            return {"U": "height", "b": "zero"}.get(self._kind, "preload")
        return f"{self.target_mm:.2f}"

    @property
    def target_words(self) -> str:
        """The gap in mm and thou, or what is done instead."""
        if self.target_mm is None:
            if self._kind == "U":
                return "its height, by the maker's tool"
            if self._kind == "b":
                return "no gap: both valve tips just touch"
            return "no gap: zero lash, then the preload"
        return f"{self.target_mm:.2f} mm ({self.target_mm / MM_PER_THOU:.0f} thou)"


def gap_per_turn_mm(train: Train, kind: Kind) -> float | None:
    """How much one turn of the adjuster changes the gap, at the valve; None without a thread."""
    pitch, ratio = train.pitch_mm, train.ratio(kind)
    if pitch is None:
        return None
    factors = {
        Adjuster.VALVE_SCREW: 1.0,
        Adjuster.ROD_SCREW: ratio,
        Adjuster.PIVOT_NUT: 1.0 + ratio,
        Adjuster.PEDESTAL: 1.0 + ratio,
    }
    factor = factors.get(train.adjuster)
    return None if factor is None else pitch * factor


def plunger_per_turn_mm(train: Train, kind: Kind) -> float | None:
    """How far one turn of the adjuster moves a hydraulic plunger; None without a thread.

    >>> round(plunger_per_turn_mm(Train(adjuster=Adjuster.PIVOT_NUT, thread="3/8-24",
    ...     intake_ratio=1.5), Kind.INTAKE), 2)
    1.76
    """
    pitch, ratio = train.pitch_mm, train.ratio(kind)
    if pitch is None:
        return None
    factors = {
        Adjuster.VALVE_SCREW: 1.0 / ratio,
        Adjuster.ROD_SCREW: 1.0,
        Adjuster.PIVOT_NUT: 1.0 + 1.0 / ratio,
        Adjuster.PEDESTAL: 1.0 + 1.0 / ratio,
    }
    factor = factors.get(train.adjuster)
    return None if factor is None else pitch * factor


def screw_words(train: Train, kind: Kind, measured_mm: float, target_mm: float) -> str:
    """What to do about a measured gap: degrees of screw, or another shim."""
    off_mm = measured_mm - target_mm
    if abs(off_mm) < 0.005:
        return "As it should be: leave it, and write down that it was good."
    if abs(off_mm) <= train.accepted_mm + 1e-9:
        least, most = max(target_mm - train.accepted_mm, 0.0), target_mm + train.accepted_mm
        return f"In the accepted band, {least:.2f} to {most:.2f} mm: leave it, and write it down."
    wide = off_mm > 0
    if train.adjuster is Adjuster.SHIM:
        times = 1.0 if train.lash_at is LashAt.CAM else 1.0 / train.ratio(kind)
        change = off_mm * times
        return f"Take a shim {abs(change):.2f} mm {'thicker' if change > 0 else 'thinner'}."
    per_turn = gap_per_turn_mm(train, kind)
    if per_turn is None:
        return f"{abs(off_mm):.2f} mm too {'wide' if wide else 'tight'}."
    # The gap is at the valve; where it is measured elsewhere the screw sees it through the ratio.
    if train.lash_at in (LashAt.FOOT, LashAt.CAM):
        off_mm *= train.ratio(kind)
    degrees = abs(off_mm) / per_turn * 360.0
    return (
        f"Turn the adjuster {degrees:.0f}° {'tighter' if wide else 'looser'}, then measure again."
    )


_PLACES = {
    LashAt.VALVE: "between rocker and valve tip, never on the spring retainer",
    LashAt.BRIDGE: "between rocker foot and bridge",
    LashAt.FOOT: "under the rocker foot",
    LashAt.CAM: "between cam and tappet, the lobe turned away",
}


def task_for(engine: Engine, name: str) -> Task:
    """What to do at an item of an engine."""
    train = engine.train
    for extra in engine.extra_items:
        if extra.name == name:
            steps: tuple[str, ...] = (
                "Set it right after the exhaust rocker of the same cylinder."
                if name[0] == "B"
                else "Set its height with the maker's tool, or contact plus the stated turn.",
                "Hold the screw, tighten the nut, measure again.",
            )
            gap = extra.lobe.lash_mm if extra.lobe.lash_mm > 0 else None
            return Task(name, extra.full_name, gap, "at its own rocker", steps)
    of, _, part = name.partition(" ")
    valve = next(valve for valve in engine.valves if valve.name == of)
    tools = tools_of(train)
    if part == BRIDGE:
        full_name = f"bridge of the {valve.kind.value} valves of cylinder {valve.cylinder}"
        return Task(name, full_name, None, "at both valve tips", _BRIDGE_STEPS, tools)
    if part == VARIABLE:
        full_name = f"variable-intake gap of cylinder {valve.cylinder}"
        gap = train.variable_intake_mm
        return Task(name, full_name, gap, "between lever and intake rocker", _LEVER_STEPS, tools)
    if train.hydraulic:
        steps = _preload_steps(train, valve.kind)
        return Task(name, valve.full_name, None, "at the rocker", steps, tools)
    steps = _gap_steps(train)
    target = engine.cam.timing(valve.kind).lash_mm
    return Task(name, valve.full_name, target, _PLACES[train.lash_at], steps, tools)


def tools_of(train: Train) -> str:
    """Key, spanner and torque of the adjuster in one line; what the file does not say is left out.

    >>> tools_of(Train(spanner="14 mm ring", torque_nm=25.0))
    'Spanner: 14 mm ring. Torque: 25 N·m.'
    """
    parts = [
        f"Key: {train.key}." if train.key else "",
        f"Spanner: {train.spanner}." if train.spanner else "",
        f"Torque: {train.torque_nm:g} N·m." if train.torque_nm else "",
    ]
    return " ".join(part for part in parts if part)


_BRIDGE_STEPS = (
    "Rocker slack; bridge screw in till it just touches its valve tip.",
    "Hold the screw, lock the nut. Then set its rocker.",
)
_LEVER_STEPS = (
    "Set it right after the intake rocker of the same cylinder.",
    "Hold the screw, tighten the nut, measure again.",
)


def _gap_steps(train: Train) -> tuple[str, ...]:
    if train.adjuster is Adjuster.SHIM:
        return (
            "Measure the gap with the lobe turned away; write it down.",
            "New shim = old + measured − target.",
            "Fit it, turn two full turns, measure again.",
        )
    return (
        "Measure and write down first; in the accepted band leave it.",
        "Nut just loose, screw held; blade in to a light drag.",
        "Hold the screw, tighten to torque, measure again: the nut moves it.",
    )


def _preload_steps(train: Train, kind: Kind) -> tuple[str, ...]:
    if train.adjuster is Adjuster.NONE:
        return ("There is nothing to adjust; listen for a tappet that bleeds down.",)
    per_turn = plunger_per_turn_mm(train, kind)
    turn = f" One turn is {per_turn:.2f} mm of plunger." if per_turn else ""
    if per_turn and train.preload_mm:
        turns = train.preload_mm / per_turn
        turn = f" {train.preload_mm:.2f} mm is {turns:.2f} of a turn ({turns * 360:.0f}°)."
    return (
        "Up-and-down play gone is zero lash; a rod that spins stiffly is already too far.",
        f"Then the maker's preload, the same on all.{turn}",
        "Wait until the plunger has settled before the next.",
    )


LAST_ROUND = (
    "Torque wrench on every nut.",
    "Bar two full turns, by hand: nothing may bind.",
    "Measure all once more, and see that none was missed.",
)
"""After the last item (common practice, no source)."""
