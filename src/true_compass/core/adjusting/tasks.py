"""Setting one item: to what, where the blade goes, with which tools, and the steps."""

from dataclasses import dataclass
from typing import Final

from true_compass.core.adjusting.screws import AS_SET_MM, plunger_per_turn_mm, shim_share
from true_compass.core.adjusting.setting import Setting, setting_of, settings_at
from true_compass.core.engine import Engine
from true_compass.core.items import ExtraKind, Item, Kind, Part
from true_compass.core.units import GapUnit, band_words, gap_short, gap_words
from true_compass.core.valves.cam import ExtraLobe, Method, Valve
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
    band_assumed: bool = False
    unit: GapUnit = GapUnit.MM

    @property
    def short(self) -> str:
        """The gap in the unit of the blades, or a word for what is set instead."""
        return self.short_word if self.target_mm is None else gap_short(self.target_mm, self.unit)

    @property
    def band_words(self) -> str:
        """Both ends within which it is left: `0.20 to 0.30 mm`; nothing where there is no gap."""
        if self.band_mm is None:
            return ""
        words = band_words(self.band_mm, self.unit)
        return f"{words}, assumed" if self.band_assumed else words

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
    """What to do at an item of an engine: one of a plan, or one of its single valves."""
    setting = (settings_at(engine, item) or (setting_of(engine, item),))[0]
    train = engine.train
    for extra in engine.extra_items:
        if extra.item == item:
            return _extra_task(setting, item, extra.full_name, extra.lobe, engine.gap_unit)
    valve = next(valve for valve in engine.valves if valve.item == item.rocker)
    if item.part is Part.BRIDGE:
        return Task(
            item,
            f"bridge of the {valve.kind.value} valves of cylinder {valve.cylinder}",
            None,
            "at both valve tips",
            _BRIDGE_STEPS,
            setting.tools.words,
            words="no gap: both valve tips just touch",
            short_word="zero",
            measured="A bridge has no gap: feel whether both valve tips touch.",
        )
    if item.part is Part.VARIABLE:
        return Task(
            item,
            f"variable-intake gap of cylinder {valve.cylinder}",
            setting.target_mm,
            "between lever and intake rocker",
            _LEVER_STEPS,
            setting.tools.words,
            band_mm=setting.band_mm,
            unit=engine.gap_unit,
        )
    if train.hydraulic:
        return Task(
            item,
            full_name(valve, item),
            None,
            "at the rocker",
            _preload_steps(train, valve.kind),
            setting.tools.words,
            words=preload_words(train, valve.kind),
            short_word="preload",
            measured="Hydraulic: there is no gap. Count the turns from zero lash.",
        )
    return Task(
        item,
        full_name(valve, item),
        setting.target_mm,
        _PLACES[train.lash_at],
        _gap_steps(train, valve.kind),
        setting.tools.words,
        band_mm=setting.band_mm,
        band_assumed=setting.band_assumed,
        unit=engine.gap_unit,
    )


def full_name(valve: Valve, item: Item) -> str:
    """The item in words; of several valves of a kind which one, counted from the front."""
    if not item.nth:
        return valve.full_name
    which = f"{valve.kind.value} valve of cylinder {valve.cylinder}"
    if valve.count == 2:
        return f"front {which}" if item.nth == 1 else f"rear {which}"
    return f"{which}, {item.nth} of {valve.count} from the front"


def _extra_task(
    setting: Setting, item: Item, full_name: str, lobe: ExtraLobe, unit: GapUnit
) -> Task:
    """An injector or a brake, by its own method, place and tools."""
    after = "Set it right after the exhaust rocker of the same cylinder, at the same stop."
    first = (after,) if lobe.kind is ExtraKind.BRAKE else ("It comes last at its stop.",)
    tools = setting.tools.words
    place = lobe.place or "at its own rocker"
    to_torque = " to its torque" if setting.tools.torque_nm else ""
    last = f"Hold the screw, tighten the nut{to_torque}, measure again."
    if lobe.how is Method.BLADE:
        steps = (*first, "Blade in; screw to a light drag, equal on both faces.", last)
        return Task(
            item,
            full_name,
            setting.target_mm,
            place,
            steps,
            tools,
            band_mm=setting.band_mm,
            band_assumed=setting.band_assumed,
            unit=unit,
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


FIRST_OF_SWEEP: Final = (
    "First slacken every adjuster until it clacks, and give the plungers time to rise.",
    "Begin anywhere; chalk the damper.",
)
EACH_QUARTER: Final = (
    "Take up to zero lash whatever is loose now, and nothing else.",
    "Where it is still tight, leave it: its turn comes.",
)
FULL_TAPPETS: Final = (
    "A full tappet holds its valve open while turns are added: add slowly, wait until it has bled "
    "down, then bar."
)
FELT_AT_LAST: Final = "At the end feel each item once on its own base circle."
"""The quarter-turn sweep (common practice, no source): only the last zero counts."""


def last_of_sweep(engine: Engine, setting: Setting) -> tuple[str, ...]:
    """The last phase of a sweep, at one item: so much tighter, wherever the crank stands."""
    kind = setting.item.kind
    assert isinstance(kind, Kind)
    told = preload_range_words(engine.train, kind) or "the maker's preload"
    return (
        f"Only so much tighter on all: {told}.",
        "Do not look for zero again; wherever the crank stands.",
        FULL_TAPPETS,
        FELT_AT_LAST,
    )


TORQUE_ROUND: Final = "Torque wrench on every nut in the list, and a paint stripe across it."
MOVED_ROUND: Final = "A screw that moved is measured again, on its own base circle."
LAST_ROUND: Final = (
    "Bar two full turns, by hand: nothing may bind.",
    "Measure all once more, and see that none was missed.",
)
"""After the last item (common practice, no source)."""


def last_round(set_any: bool) -> tuple[str, ...]:
    """What comes after the last item; no torque where a round only checked."""
    return (TORQUE_ROUND, MOVED_ROUND, *LAST_ROUND) if set_any else LAST_ROUND[:1]
