"""From how far a cam stands off to what is moved: the options, what they make, whether it clears.

A camshaft is named by a cylinder of its bank and by a kind of valve; where one shaft has both kinds
it is one camshaft, and both noses speak of it.
"""

from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from true_compass.core.angles import Floats
from true_compass.core.degreeing.clearance import (
    Least,
    Method,
    Touch,
    least_between_mm,
    least_gaps,
    shut_gap_from_mm,
)
from true_compass.core.degreeing.found import Found
from true_compass.core.degreeing.own_card import Events
from true_compass.core.degreeing.sheet import Sheet
from true_compass.core.degreeing.steps import Option, best_options, option_words, steps_of
from true_compass.core.engine import BankAdvance, Engine
from true_compass.core.items import Kind
from true_compass.core.limits import check_number
from true_compass.core.state import Rig
from true_compass.core.valves.chamber import USUAL_LEAST_BETWEEN_MM
from true_compass.core.valves.timing import cylinder_times
from true_compass.core.valves.timing_set import TimingSet


@dataclass(frozen=True, slots=True)
class Shaft:
    """A camshaft: a cylinder of its bank, and the kinds of valve on it."""

    cylinder: int
    kinds: tuple[Kind, ...]

    @property
    def words(self) -> str:
        """`the cam`, `the intake cam`."""
        return "the cam" if len(self.kinds) == 2 else f"the {self.kinds[0].value} cam"


def shafts_of(engine: Engine, cylinder: int) -> tuple[Shaft, ...]:
    """The camshafts that serve a cylinder."""
    driven = tuple(kind for kind in Kind if not engine.cam.timing(kind).suction)
    if engine.two_shafts:
        return tuple(Shaft(cylinder, (kind,)) for kind in driven)
    return (Shaft(cylinder, driven),)


def drive_of(engine: Engine, shaft: Shaft) -> TimingSet:
    """How a camshaft can be moved."""
    return engine.timing_set(shaft.cylinder, shaft.kinds[0])


def stands_later_deg(shaft: Shaft, found: Found) -> float | None:
    """How much later than set a camshaft stands: the mean of its noses, None where none is read."""
    told = [found.noses[kind].later_deg for kind in shaft.kinds if kind in found.noses]
    return sum(told) / len(told) if told else None


def rows_on(engine: Engine, shaft: Shaft) -> list[int]:
    """The valves on a camshaft, as rows of `Engine.valves`.

    One camshaft serves both banks where there is but one; else each bank has its own.
    """
    banks = len(engine.layout.banks_in_use)
    own = engine.layout.seats[shaft.cylinder - 1].bank
    shared = engine.camshafts < banks
    return [
        row
        for row, valve in enumerate(engine.valves)
        if valve.kind in shaft.kinds
        and (shared or engine.layout.seats[valve.cylinder - 1].bank == own)
    ]


def earlier_deg(engine: Engine, shaft: Shaft, by_deg: float) -> Floats:
    """How much earlier each valve comes, `(V,)`, with one camshaft earlier by so much."""
    earlier = np.zeros(len(engine.valves))
    earlier[rows_on(engine, shaft)] = by_deg
    return earlier


@dataclass(frozen=True, slots=True)
class Made:
    """One option with what it makes: words, events, centrelines, the gaps on its camshaft.

    `icl_deg` and `ecl_deg` are None where a kind has no lobe. `worst` are the valves that come
    nearest, one a kind; `between_mm` the gap of the two heads, None where it is not known.
    """

    option: Option
    words: str
    needs: str
    events: Events | None
    icl_deg: float | None
    ecl_deg: float | None
    worst: tuple[Least, ...]
    between_mm: float | None
    between_least_mm: float
    all_known: bool

    @property
    def clears(self) -> bool:
        """Whether every known gap keeps its limit."""
        between = self.between_mm is None or self.between_mm >= self.between_least_mm - 1e-9
        return between and all(least.clears for least in self.worst)

    @property
    def known(self) -> bool:
        """Whether the gap to the piston is known for every kind of valve on the camshaft."""
        return self.all_known


TAKES: Final = (
    ("tooth", "chain, belt or gear off"),
    ("hole", "cam bolts out"),
    ("bush_deg", "cam bolts out"),
    ("key_deg", "pulley off"),
    ("cam_key_deg", "cam gear off"),
    ("slide_deg", "cam bolts loose"),
)


def takes_words(option: Option) -> str:
    """What must come off for it: `pulley off, cam bolt out`."""
    told = [words for part, words in TAKES if getattr(option, part)]
    return ", ".join(dict.fromkeys(told)) or "nothing comes off"


def options_for(rig: Rig, shaft: Shaft, later_deg: float) -> list[Made]:
    """The best five ways, each with what it makes.

    `later_deg` is how much later than set the camshaft stands, so how much earlier it must come.
    Empty where nothing can be moved.
    """
    drive = drive_of(rig.engine, shaft)
    steps = steps_of(drive)
    if steps.fixed:
        return []
    return [
        made_of(rig, shaft, option, option_words(option, drive), later_deg)
        for option in best_options(steps, later_deg)
    ]


def made_of(rig: Rig, shaft: Shaft, option: Option, words: str, later_deg: float) -> Made:
    """What one option makes of a camshaft that stands `later_deg` later than set."""
    engine, chamber = rig.engine, rig.engine.chamber
    by = option.gives_deg - later_deg
    earlier = earlier_deg(engine, shaft, by)
    rows = set(rows_on(engine, shaft))
    nearest = least_gaps(rig, chamber, earlier)
    on_it = [each for each in nearest if engine.valve_row(each.item.cylinder, _kind(each)) in rows]
    worst = []
    for kind in shaft.kinds:
        own = [each for each in on_it if each.item.kind is kind]
        if own:
            worst.append(min(own, key=lambda each: each.gap_mm - each.limit_mm))
    between = least_between_mm(rig, chamber, shaft.cylinder, earlier)
    told = chamber.least_between_mm
    times = cylinder_times(rig, shaft.cylinder, engine.cam.intake.check)
    icl, ecl = (valve.centreline_deg for valve in times.valves)
    moved = {kind: by if kind in shaft.kinds else 0.0 for kind in Kind}
    return Made(
        option,
        words,
        takes_words(option),
        events_made(rig, shaft.cylinder, moved[Kind.INTAKE], moved[Kind.EXHAUST]),
        None if icl is None else icl - moved[Kind.INTAKE],
        None if ecl is None else ecl + moved[Kind.EXHAUST],
        tuple(worst),
        None if between is None else between[0],
        USUAL_LEAST_BETWEEN_MM if told is None else told,
        len(worst) == len(shaft.kinds),
    )


def _kind(least: Least) -> Kind:
    kind = least.item.kind
    assert isinstance(kind, Kind)
    return kind


def events_made(
    rig: Rig, cylinder: int, intake_deg: float = 0.0, exhaust_deg: float = 0.0
) -> Events | None:
    """The four events of a cylinder at the engine's own checking lift, its cams earlier by so much.

    None where a valve has none.
    """
    times = cylinder_times(rig, cylinder, rig.engine.cam.intake.check)
    ends = [(valve.own_opens_deg, valve.own_closes_deg) for valve in times.valves]
    (ivo, ivc), (evo, evc) = ends
    if ivo is None or ivc is None or evo is None or evc is None:
        return None
    events = Events(360.0 - ivo, ivc - 540.0, 180.0 - evo, evc - 360.0)
    return events.earlier(intake_deg, exhaust_deg)


def with_found(engine: Engine, shaft: Shaft, later_deg: float) -> Engine:
    """The engine with a camshaft where it was found: `later_deg` later than it is set.

    A bank's own camshaft is told by the bank's advance, else the advance of its kinds is. Raises
    `EngineError` for an advance that no engine has.
    """
    seat = engine.layout.seats[shaft.cylinder - 1]
    banks = engine.layout.banks_in_use
    if len(banks) > 1 and engine.camshafts >= len(banks):
        return _with_bank(engine, engine.layout.banks[seat.bank].name, shaft, later_deg)
    cam = engine.cam
    for kind in shaft.kinds:
        timing = cam.timing(kind)
        advance = round(timing.advance_deg - later_deg, 6)
        check_number("advance_deg", advance)
        cam = cam.with_timing(kind, replace(timing, advance_deg=advance))
    return replace(engine, cam=cam)


def _with_bank(engine: Engine, name: str, shaft: Shaft, later_deg: float) -> Engine:
    old = next((one for one in engine.bank_advances if one.bank == name), BankAdvance(name))
    told = {
        kind: value - (later_deg if kind in shaft.kinds else 0.0)
        for kind, value in ((Kind.INTAKE, old.intake_deg), (Kind.EXHAUST, old.exhaust_deg))
    }
    new = BankAdvance(name, round(told[Kind.INTAKE], 6), round(told[Kind.EXHAUST], 6))
    others = tuple(one for one in engine.bank_advances if one.bank != name)
    return replace(engine, bank_advances=(*others, new))


def with_measured_gaps(rig: Rig, sheet: Sheet, later: dict[Kind, float]) -> Rig:
    """The rig with the gaps to the piston that were measured by clay or a soft spring.

    `later` is how much later than set each kind of valve stood when they were. The last reading of
    a kind holds.
    """
    chamber = rig.engine.chamber
    for row in sheet.gaps:
        earlier = np.zeros(len(rig.engine.valves))
        for kind, by in later.items():
            earlier[rig.engine.rows_of(kind)] = -by
        method = Method.SPRING if row.spring else Method.CLAY
        touch = Touch(row.kind, method, row.gap_mm, row.after_tdc_deg)
        shut = shut_gap_from_mm(rig, chamber, row.cylinder, touch, earlier)
        room = replace(chamber.room(row.kind), drop_mm=max(shut, 0.0))
        intake = row.kind is Kind.INTAKE
        chamber = replace(chamber, intake=room) if intake else replace(chamber, exhaust=room)
    if chamber == rig.engine.chamber:
        return rig
    return Rig.of(replace(rig.engine, chamber=chamber))


def cam_runs_clockwise(engine: Engine) -> bool:
    """Whether the camshafts turn clockwise seen from the front."""
    return engine.clockwise_from_front == (engine.cam_drive.value == "with")


def turn_words(engine: Engine, need_deg: float) -> str:
    """Which way, seen from where, and what it does: `1.2 cam °, clockwise seen from the front.`"""
    on = need_deg > 0
    clockwise = cam_runs_clockwise(engine) == on
    way = "clockwise" if clockwise else "anticlockwise"
    return f"{abs(need_deg) / 2:.1f} cam °, {way} seen from the front."


def does_words(shaft: Shaft, need_deg: float) -> str:
    """What moving it does, in one plain sentence (common practice, no source)."""
    both = len(shaft.kinds) == 2
    if both and need_deg > 0:
        return "All four events come earlier: more torque low down."
    if both:
        return "All four events come later: more power high up, less torque low down."
    intake = shaft.kinds[0] is Kind.INTAKE
    if intake:
        return (
            "The intake opens and closes earlier: more overlap, more torque low down."
            if need_deg > 0
            else "The intake opens and closes later: less overlap, more power high up."
        )
    return (
        "The exhaust opens and closes earlier: less overlap, a shorter power stroke."
        if need_deg > 0
        else "The exhaust opens and closes later: more overlap, a longer power stroke."
    )
