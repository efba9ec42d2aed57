"""Setting one item: to what, where the blade goes, with which tools, and the steps."""

from dataclasses import dataclass
from typing import Final

from true_compass.core.adjusting.screws import AS_SET_MM, plunger_per_turn_mm, shim_share
from true_compass.core.engine import Engine
from true_compass.core.items import ExtraKind, Item, Kind, Part
from true_compass.core.units import GapUnit, gap_words
from true_compass.core.valves.cam import ExtraLobe, Method
from true_compass.core.valves.train import Adjuster, LashAt, Train


@dataclass(frozen=True, slots=True)
class Task:
    """What to do at one item.

    `target_mm` is None where there is no gap to set; then `measured` says what is measured instead.
    `band_mm` are both ends within which a gap is left as it is.
    """

    item: Item
    full_name: str
    target_mm: float | None
    place: str
    steps: tuple[str, ...]
    tools: str = ""
    words: str = ""
    short_word: str = ""
    measured: str = ""
    band_mm: tuple[float, float] | None = None
    unit: GapUnit = GapUnit.MM

    @property
    def short(self) -> str:
        """The gap in mm, or a word for what is set instead."""
        return self.short_word if self.target_mm is None else f"{self.target_mm:.2f}"

    @property
    def target_words(self) -> str:
        """The gap in both units, or what is done instead."""
        return self.words if self.target_mm is None else gap_words(self.target_mm, self.unit)


_PLACES: Final = {
    LashAt.VALVE: "between rocker and valve tip, never on the spring retainer",
    LashAt.BRIDGE: "between rocker foot and bridge",
    LashAt.ROD_END: "between rocker and push rod",
    LashAt.CAM: "between cam and tappet, the lobe turned away",
}


def task_for(engine: Engine, item: Item) -> Task:
    """What to do at an item of an engine."""
    train, unit = engine.train, engine.gap_unit
    for extra in engine.extra_items:
        if extra.item == item:
            return _extra_task(item, extra.full_name, extra.lobe, unit)
    valve = next(valve for valve in engine.valves if valve.item == item.rocker)
    tools = tools_of(train)
    if item.part is Part.BRIDGE:
        return Task(
            item,
            f"bridge of the {valve.kind.value} valves of cylinder {valve.cylinder}",
            None,
            "at both valve tips",
            _BRIDGE_STEPS,
            tools,
            words="no gap: both valve tips just touch",
            short_word="zero",
            measured="A bridge has no gap: feel whether both valve tips touch.",
        )
    if item.part is Part.VARIABLE:
        return Task(
            item,
            f"variable-intake gap of cylinder {valve.cylinder}",
            train.variable_intake_mm,
            "between lever and intake rocker",
            _LEVER_STEPS,
            tools,
            unit=unit,
        )
    if train.hydraulic:
        return Task(
            item,
            valve.full_name,
            None,
            "at the rocker",
            _preload_steps(train, valve.kind),
            tools,
            words=preload_words(train, valve.kind),
            short_word="preload",
            measured="Hydraulic: there is no gap. Count the turns from zero lash.",
        )
    return Task(
        item,
        valve.full_name,
        engine.cam.timing(valve.kind).lash_mm,
        _PLACES[train.lash_at],
        _gap_steps(train, valve.kind),
        tools,
        band_mm=train.accepted_mm(valve.kind),
        unit=unit,
    )


def _extra_task(item: Item, full_name: str, lobe: ExtraLobe, unit: GapUnit) -> Task:
    """An injector or a brake, by its own method, place and tools."""
    after = "Set it right after the exhaust rocker of the same cylinder, at the same stop."
    first = (after,) if lobe.kind is ExtraKind.BRAKE else ("It comes last at its stop.",)
    tools = tool_words(lobe.key, lobe.spanner, lobe.torque_nm, lobe.tool, lobe.thread)
    place = lobe.place or "at its own rocker"
    last = "Hold the screw, tighten the nut, measure again."
    if lobe.how is Method.BLADE:
        gap_mm = lobe.lash_mm
        steps = (*first, "Blade in; screw to a light drag, equal on both faces.", last)
        return Task(
            item, full_name, gap_mm, place, steps, tools, band_mm=lobe.accepted_mm, unit=unit
        )
    if lobe.how is Method.HEIGHT:
        height = f"{lobe.height_mm:.2f} mm" if lobe.height_mm else "its height"
        words = f"{height}, by the maker's tool"
        step = f"Set {height} with the maker's tool: it just touches as it is swung across."
        measured = "There is no gap here: measure the height with the maker's tool."
        return Task(
            item, full_name, None, place, (*first, step, last), tools, words, "height", measured
        )
    turn = f"{turns_words(lobe.turns)}" if lobe.turns else "the maker's turn"
    step = f"Screw down till it just bottoms without force, then {turn} as the maker says."
    words = f"contact, then {turn}"
    measured = "There is no gap here: count the turns from contact."
    return Task(item, full_name, None, place, (*first, step, last), tools, words, "turn", measured)


def turns_words(turns: float) -> str:
    """A turn of an adjuster in turns and degrees: `0.25 of a turn (90°)`."""
    if turns < 1.0:
        return f"{turns:.2f} of a turn ({turns * 360:.0f}°)"
    return f"{turns:.2f} turns ({turns * 360:.0f}°)"


def preload_words(train: Train, kind: Kind) -> str:
    """Zero lash, then the preload as a range in mm and in turns of this adjuster."""
    return f"no gap: zero lash, then {preload_range_words(train, kind) or 'the preload'}"


def preload_range_words(train: Train, kind: Kind) -> str:
    """The preload as a range in mm and in turns of this adjuster; nothing where it is not known."""
    if train.preload_mm is None:
        return ""
    low, high = train.preload_mm
    one = abs(high - low) < AS_SET_MM
    words = f"{low:.2f} mm" if one else f"{low:.2f} to {high:.2f} mm"
    per_turn = plunger_per_turn_mm(train, kind)
    if per_turn:
        turns = turns_words(low / per_turn)
        if not one:
            low_deg, high_deg = (end / per_turn * 360 for end in (low, high))
            turns = f"{low / per_turn:.2f} to {high / per_turn:.2f} turns"
            turns += f" ({low_deg:.0f}° to {high_deg:.0f}°)"
        words += f", {turns}"
    return words


def tools_of(train: Train) -> str:
    """Key, spanner and torque of the adjuster in one line; what the file does not say is left out.

    >>> tools_of(Train(spanner="14 mm ring", torque_nm=25.0))
    'Spanner: 14 mm ring. Torque: 25 N·m.'
    """
    return tool_words(train.key, train.spanner, train.torque_nm)


def tool_words(key: str, spanner: str, torque_nm: float, tool: str = "", thread: str = "") -> str:
    """Tools of one adjuster in one line."""
    named = {"Tool": tool, "Key": key, "Spanner": spanner, "Thread": thread}
    named["Torque"] = f"{torque_nm:g} N·m" if torque_nm else ""
    return " ".join(f"{what}: {which}." for what, which in named.items() if which)


_BRIDGE_STEPS: Final = (
    "Rocker slack; bridge screw in till it just touches its valve tip.",
    "Hold the screw, lock the nut. Then set its rocker.",
)
_LEVER_STEPS: Final = (
    "Set it right after the intake rocker of the same cylinder.",
    "Hold the screw, tighten the nut, measure again.",
)
_MEASURE_FIRST: Final = "Measure and write down first; in the accepted band leave it."


def _gap_steps(train: Train, kind: Kind) -> tuple[str, ...]:
    if train.adjuster is Adjuster.SHIM:
        share = shim_share(train, kind)
        change = "measured − target"
        if share != 1.0:
            change = f"{share:g} × (measured − target)"
        return (
            "Measure the gap with the lobe turned away; write it down.",
            f"New shim = old + {change}.",
            "Fit it, turn two full turns, measure again.",
        )
    if train.adjuster is Adjuster.STUD_NUT:
        return (
            _MEASURE_FIRST,
            "Slacken the inner lock screw; blade in, turn the nut to a light drag.",
            "Pinch the inner screw, nudge nut and screw on together, measure again.",
        )
    if train.adjuster is Adjuster.PIVOT_NUT:
        return (
            _MEASURE_FIRST,
            "Blade in; turn the pivot nut to a light drag. It holds itself: there is no locknut.",
            "A nut that turns easily no longer holds: renew it. Measure again.",
        )
    if train.adjuster is Adjuster.PEDESTAL:
        return (
            _MEASURE_FIRST,
            "Blade in; turn the pedestal bolt to a light drag.",
            "Lock it as the maker says, measure again.",
        )
    if train.adjuster is Adjuster.NONE:
        return (
            _MEASURE_FIRST,
            "There is nothing to turn: out of band is for the maker's manual.",
        )
    return (
        _MEASURE_FIRST,
        "Nut just loose, screw held; blade in to a light drag.",
        "Hold the screw, tighten to torque, measure again: the nut moves it.",
    )


def _preload_steps(train: Train, kind: Kind) -> tuple[str, ...]:
    zero = f"Zero lash first: {train.zero_lash.words}."
    told = preload_range_words(train, kind)
    per_turn = plunger_per_turn_mm(train, kind)
    if not told and per_turn:
        told = f"the maker's; one turn is {per_turn:.2f} mm of plunger"
    told = told or "the maker's"
    wait = "Wait until the plunger has settled before the next."
    if train.adjuster is Adjuster.NONE:
        return (
            "There is nothing to turn. Press the plunger down and measure the play there.",
            f"It should be {told}. Out of that: another push rod or shim, by the maker's list.",
        )
    if train.adjuster is Adjuster.PEDESTAL:
        return (
            zero,
            f"Then count the turns of the bolt to its seat. Preload: {told}.",
            "Torque the bolt. Too few or too many turns: another push rod or a shim.",
        )
    then = f"Then the preload, the same on all: {told}."
    if train.adjuster is Adjuster.STUD_NUT:
        return (
            f"Slacken the inner lock screw. {zero}",
            then,
            f"Pinch the inner screw, nudge nut and screw on together. {wait}",
        )
    if train.adjuster is Adjuster.PIVOT_NUT:
        return (zero, then, f"The nut holds itself: there is no locknut. {wait}")
    return (f"Nut just loose, screw held. {zero}", then, f"Hold the screw, tighten. {wait}")


TORQUE_ROUND: Final = "Torque wrench on every nut."
LAST_ROUND: Final = (
    "Bar two full turns, by hand: nothing may bind.",
    "Measure all once more, and see that none was missed.",
)
"""After the last item (common practice, no source)."""


def last_round(set_any: bool) -> tuple[str, ...]:
    """What comes after the last item; no torque where a round only checked."""
    return (TORQUE_ROUND, *LAST_ROUND) if set_any else LAST_ROUND[:1]
