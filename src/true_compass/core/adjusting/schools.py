"""Every school of adjusting: where it stops, what it sets there, what it asks and risks.

Each school is one function from a rig to a plan; it raises `NotApplicableError` with a plain
sentence where an engine has nothing for it. The schools are common practice (no source).
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from true_compass.core.adjusting.piercing import MOST_STOPS, FreeArcs, shared_arcs
from true_compass.core.adjusting.stops import (
    Plan,
    Stop,
    StopItem,
    Visit,
    plan_at,
    plan_of,
    two_stop_plan,
)
from true_compass.core.angles import (
    CYCLE_DEG,
    TURN_DEG,
    Floats,
    signed_difference_deg,
    wrap_deg,
)
from true_compass.core.cautions import RUNNING
from true_compass.core.crank.phasing import companion_of
from true_compass.core.events import crossings
from true_compass.core.items import Item, Kind
from true_compass.core.state import Rig
from true_compass.core.valves.cam import SEAT
from true_compass.core.valves.timing import main_lift
from true_compass.core.valves.train import Adjuster, TrainKind
from true_compass.core.words import fully_open, valves_rock

_SEATED: Final = "a pedestal bolt that is torqued down to its seat"
QUARTER_DEG: Final = 90.0
THIN_DEG: Final = 30.0
BALANCE_PARTS: Final = 64
STRAIGHT_DEG: Final = 1e-3


class NotApplicableError(Exception):
    """An engine has nothing for a school. The message says why, and what works instead."""


class NoStopsError(NotApplicableError):
    """A school suits the engine, and has no stops. The message says how it is done."""


@dataclass(frozen=True, slots=True)
class Choice:
    """What may be asked of a plan: where to start, how many stops, what margin, where to stand.

    `at_deg` restricts stops to multiples of it; `at_marks` to the marks of the engine.
    """

    start_deg: float = 0.0
    stops: int | None = None
    margin_deg: float | None = None
    at_deg: float | None = None
    at_marks: bool = False
    along_heads: bool = False


USUAL: Final = Choice()


def _items_of(rig: Rig, cylinder: int, *kinds: Kind) -> list[Item]:
    """What a person sets at the rockers of a cylinder, of both kinds or one."""
    rockers = (rig.rockers.get(Item(kind, cylinder), ()) for kind in kinds or Kind)
    return [rig.items[row] for row in sorted(row for rows in rockers for row in rows)]


def _with_the_rest(rig: Rig, visits: list[Visit]) -> list[Visit]:
    """What a school has no place for, such as injectors, goes where it is freest."""
    due = {item for _, items, _ in visits for item in items}
    places = np.array([wrap_deg(place) for place, _, _ in visits])
    margins = rig.rocker_margins_deg(places)
    more: list[list[Item]] = [[] for _ in visits]
    for rows, at in zip(rig.rockers.values(), np.argmax(margins, axis=1).tolist(), strict=True):
        more[at] += [rig.items[row] for row in rows if rig.items[row] not in due]
    return [
        (place, [*items, *added], sign)
        for (place, items, sign), added in zip(visits, more, strict=True)
    ]


def _solid(rig: Rig) -> None:
    if rig.engine.train.hydraulic:
        raise NotApplicableError(
            "It sets a gap, and hydraulic tappets have none. Take the quarter-turn sweep, or set "
            "preload at a plan's stops."
        )


def two_stops(rig: Rig, choice: Choice) -> Plan:
    """A TDC, then one turn."""
    return two_stop_plan(rig, choice.start_deg)


def loose(rig: Rig, choice: Choice) -> Plan:
    """Two stops without a table: what has play is set, each item where it has most."""
    _solid(rig)
    return replace(two_stop_plan(rig, choice.start_deg), school="loose")


def firing_order(rig: Rig, choice: Choice) -> Plan:
    """Every cylinder at its own compression TDC, in firing order.

    Of cylinders that fire together the one whose true TDC comes first is first.
    """
    del choice
    visits: list[Visit] = []
    true_deg, first = rig.true_offsets_deg, rig.engine.firing_order[0] - 1
    reach = min(rig.engine.intervals_deg) / 2
    on_deg = wrap_deg(true_deg - true_deg[first] + reach)
    for c in (np.argsort(on_deg, kind="stable") + 1).tolist():
        items, tdc_deg = _items_of(rig, c), float(true_deg[c - 1])
        sign = f"{c} at compression TDC"
        clear_of = _holds_at_tdc(rig, items)
        if clear_of:
            past_deg = _freest_past_deg(rig, items, tdc_deg)
            sign = f"{past_deg:g}° past compression TDC of {c}, clear of {clear_of}"
            tdc_deg += past_deg
        visits.append((tdc_deg, items, sign))
    visits.sort(key=lambda visit: wrap_deg(visit[0] - true_deg[first] + reach))
    return plan_of(rig, "firing-order", _with_the_rest(rig, visits))


def _holds_at_tdc(rig: Rig, items: list[Item]) -> str:
    """What holds a valve open around compression TDC, so that one sets it past that; or nothing."""
    if rig.engine.cam.release is not None:
        return "the release"
    own = {extra.item for extra in rig.engine.driven_extras}
    return "the brake lobe" if any(item in own for item in items) else ""


def _freest_past_deg(rig: Rig, items: list[Item], tdc_deg: float) -> float:
    """How far past TDC all items of a cylinder are freest."""
    past = np.arange(0.0, 180.5, 0.5)
    rows = [rig.row_of[item] for item in items]
    margins = rig.item_margins_deg(wrap_deg(tdc_deg + past))[rows]
    return float(past[int(np.argmax(margins.min(axis=0)))])


def rocking_deg(rig: Rig, cylinder: int) -> float:
    """Crank angle at which the two valves of a cylinder balance around its overlap TDC.

    Where both lift alike; half way between closing and opening where they do not overlap.
    """
    overlap_tdc = wrap_deg(float(rig.offsets_deg[cylinder - 1]) + TURN_DEG)
    rows = rig.engine.valve_rows(cylinder)
    seats = crossings(rig.lobes, SEAT)
    intake, exhaust = (main_lift(seats[row]) for row in rows)
    if intake is None or exhaust is None:
        return overlap_tdc
    opens, closes = (
        float(signed_difference_deg(np.array(place), np.array(overlap_tdc)))
        for place in (intake[0], exhaust[1])
    )
    if opens + STRAIGHT_DEG < closes:
        lobes = rig.lobes.take(rows)

        # The intake rises while the exhaust falls: one place, between opening and closing. Many
        # places at once cost little more than one, and the last part is as good as straight.
        while closes - opens > STRAIGHT_DEG:
            places = np.linspace(opens, closes, BALANCE_PARTS + 1)
            intake_mm, exhaust_mm = lobes.lift_mm(overlap_tdc + places)
            ahead_mm = intake_mm - exhaust_mm
            at = int(np.argmax(ahead_mm[1:] > 0.0))
            opens, closes = float(places[at]), float(places[at + 1])
        before_mm, after_mm = float(ahead_mm[at]), float(ahead_mm[at + 1])
        opens = closes = opens + (closes - opens) * before_mm / (before_mm - after_mm)
    return wrap_deg(overlap_tdc + (opens + closes) / 2)


def _companions(rig: Rig) -> dict[int, int]:
    pairs = {c: companion_of(rig.engine, c) for c in rig.engine.cylinders}
    missing = [c for c, other in pairs.items() if other is None]
    if missing:
        raise NotApplicableError(
            f"It needs companions, and cylinder {missing[0]} has none. Its own compression TDC, in "
            "firing order, works on every engine."
        )
    return {c: other for c, other in pairs.items() if other is not None}


def companion(rig: Rig, choice: Choice) -> Plan:
    """Each cylinder while its companion's valves rock."""
    del choice
    pairs = _companions(rig)
    visits: list[Visit] = [
        (rocking_deg(rig, pairs[c]), _items_of(rig, c), valves_rock(pairs[c]))
        for c in rig.engine.firing_order
    ]
    return plan_of(rig, "companion", _with_the_rest(rig, visits))


def _seat_events(rig: Rig) -> list[tuple[float, float]]:
    """Crank angles at which each valve opens and closes at the seat."""
    found = []
    for valve, places in zip(rig.engine.valves, crossings(rig.lobes, SEAT), strict=True):
        pair = main_lift(places)
        if pair is None:
            raise NotApplicableError(f"{valve.name} never opens: correct the lash first.")
        found.append(pair)
    return found


def eo_ic(rig: Rig, choice: Choice) -> Plan:
    """Exhaust opens: set the intake. Intake closes: set the exhaust. Two stops a cylinder."""
    visits: list[Visit] = []
    events = _seat_events(rig)
    seats = rig.engine.layout.seats
    along = sorted(rig.engine.cylinders, key=lambda c: (seats[c - 1].bank, seats[c - 1].throw))
    for c in along:
        intake, exhaust = rig.engine.valve_rows(c)
        opens, closes = events[exhaust][0], events[intake][1]
        visits.append((opens, _items_of(rig, c, Kind.INTAKE), f"E{c} just opens"))
        visits.append((closes, _items_of(rig, c, Kind.EXHAUST), f"I{c} just closes"))
    if not choice.along_heads:
        visits.sort(key=lambda visit: wrap_deg(visit[0]))
    return plan_of(rig, "eo-ic", _with_the_rest(rig, visits))


def _noses(rig: Rig) -> dict[Item, float]:
    """Crank angle of full lift of every kind of valve."""
    noses = _nose_deg(rig).tolist()
    return {v.item: wrap_deg(turn) for v, turn in zip(rig.engine.valves, noses, strict=True)}


def _nose_deg(rig: Rig) -> Floats:
    found = np.zeros(len(rig.engine.valves))
    at = np.arange(0.0, CYCLE_DEG, 0.25)
    for rows in rig.lobes.alike():
        lobe = rig.lobes.take(rows[:1])
        lift = lobe.lobe_mm(at)[0]
        # The middle of what is within a hair of the top: a nose may be flat.
        top = np.flatnonzero(lift >= lift.max() - 1e-4)
        first = at[top[0]]
        middle = first + np.mean((at[top] - first + 360.0) % CYCLE_DEG - 360.0)
        for row in rows:
            found[row] = middle + rig.lobes.turn_deg[row] - rig.lobes.turn_deg[rows[0]]
    return found


def partner_open(rig: Rig, choice: Choice) -> Plan:
    """Each valve while the other one of its cylinder stands fully open."""
    del choice
    noses = _noses(rig)
    visits: list[Visit] = [
        (noses[shown], _items_of(rig, c, kind), fully_open(shown.name))
        for c in rig.engine.cylinders
        for kind in Kind
        for shown in (Item(kind.other, c),)
    ]
    visits.sort(key=lambda visit: wrap_deg(visit[0]))
    return plan_of(rig, "partner-open", _with_the_rest(rig, visits))


def opposite_open(rig: Rig, choice: Choice) -> Plan:
    """Each valve while the same valve of the companion stands fully open."""
    del choice
    pairs, noses = _companions(rig), _noses(rig)
    visits: list[Visit] = [
        (noses[shown], _items_of(rig, c, kind), fully_open(shown.name))
        for c in rig.engine.cylinders
        for kind in Kind
        for shown in (Item(kind, pairs[c]),)
    ]
    visits.sort(key=lambda visit: wrap_deg(visit[0]))
    return plan_of(rig, "opposite-open", _with_the_rest(rig, visits))


def quarter_turn(rig: Rig, choice: Choice) -> Plan:
    """Every quarter turn for two turns, taking up what is loose. Hydraulic tappets only.

    It begins with every item slackened, anywhere, and names no item at its quarters. The margin of
    an item is that of the worst place to start: half its longest free arc less half a quarter.
    """
    if not rig.engine.train.hydraulic:
        raise NotApplicableError(
            "It needs hydraulic tappets; this engine has solid ones. Two stops are as quick."
        )
    if rig.engine.train.adjuster in (Adjuster.PEDESTAL, Adjuster.SHIM, Adjuster.NONE):
        raise NotApplicableError(
            f"It turns an adjuster a little at each quarter, and here there is {_SEATED}. Take a "
            "plan with stops."
            if rig.engine.train.adjuster is Adjuster.PEDESTAL
            else "It turns an adjuster a little at each quarter, and here there is none to turn: "
            "check the play at a plan's stops."
        )
    places = wrap_deg(choice.start_deg + QUARTER_DEG * np.arange(8.0))
    free = rig.item_margins_deg(places) >= 0
    stops = tuple(
        Stop(
            float(place),
            (),
            QUARTER_DEG if column else 0.0,
            "a quarter turn on" if column else "anywhere",
            tuple(
                item for item, is_free in zip(rig.items, free[:, column], strict=True) if is_free
            ),
        )
        for column, place in enumerate(places)
    )
    swept = []
    for item, arcs in rig.item_arcs_deg.items():
        margin = max(length for _, length in arcs) / 2 - QUARTER_DEG / 2
        swept.append(
            StopItem(item, margin, margin, margin) if margin >= 0 else StopItem(item, margin)
        )
    return Plan("quarter-turn", stops, tuple(swept))


REACHED_RUNNING: Final = (Adjuster.PIVOT_NUT, Adjuster.VALVE_SCREW, Adjuster.ROD_SCREW)
"""What can be turned while it runs: a nut on a stud that holds itself, a screw with its nut."""


def running(rig: Rig, choice: Choice) -> Plan:
    """Adjusting at idle has no stops; it is a procedure (common practice, no source)."""
    del choice
    train = rig.engine.train
    if not train.hydraulic:
        raise NotApplicableError(
            "It needs hydraulic tappets, and the engine idling; these are solid."
        )
    rockers = train.kind in (TrainKind.PUSH_ROD, TrainKind.ROCKER)
    if not rockers or train.adjuster not in REACHED_RUNNING:
        raise NotApplicableError(
            "It needs a nut on a stud that holds itself, or a screw whose nut is reached while the "
            f"engine runs. Here: {train.kind.words}, {train.adjuster.words}."
        )
    raise NoStopsError(
        "Suits; done with the engine running, not at stops. Warm, at the lowest steady idle: back "
        "each off until it just clacks, wait, turn in until it is quiet, then the preload in "
        f"quarter turns with waits. {RUNNING} Eye protection, oil clips on."
    )


def _free_arcs(rig: Rig, choice: Choice) -> FreeArcs:
    """The arcs in which everything at a rocker is free, and where stops may be."""
    arcs = tuple(
        shared_arcs([rig.item_arcs_deg[rig.items[row]] for row in rows])
        for rows in rig.rockers.values()
    )
    places: tuple[float, ...] = ()
    if choice.at_marks:
        places = tuple(
            sorted({wrap_deg(at) for mark in rig.engine.marks for at in rig.mark_places_deg(mark)})
        )
        if not places:
            raise NotApplicableError(
                "This engine has no marks in its file. Add them in Engine, or stop at any angle."
            )
    elif choice.at_deg is not None:
        steps = int(CYCLE_DEG / choice.at_deg + 1e-9)
        places = tuple(wrap_deg(choice.start_deg + n * choice.at_deg) for n in range(steps))
    return FreeArcs(arcs, places)


def _at_words(choice: Choice) -> str:
    if choice.at_marks:
        return "a mark"
    if choice.at_deg is None:
        return "a degree scale"
    first = choice.start_deg % choice.at_deg
    if min(first, choice.at_deg - first) > 1e-9:
        return f"{first:g}° and every {choice.at_deg:g}° on"
    return f"a multiple of {choice.at_deg:g}°"


def fewest(rig: Rig, choice: Choice) -> Plan:
    """The fewest stops that leave a margin (30° unless another is asked)."""
    margin = THIN_DEG if choice.margin_deg is None else choice.margin_deg
    arcs = _free_arcs(rig, choice)
    found = arcs.fewest(margin)
    if found is None:
        raise NotApplicableError(_too_much(rig, arcs, margin))
    return plan_at(rig, found.stops_deg, "fewest", _at_words(choice))


def _too_much(rig: Rig, arcs: FreeArcs, margin: float) -> str:
    """Why no stops reach a margin: which item, and how much it can have."""
    if not arcs.places_deg:
        longest = [max((length for _, length in item), default=0.0) / 2 for item in arcs.items]
    else:
        margins = rig.rocker_margins_deg(np.array(arcs.places_deg))
        longest = [float(row.max()) for row in margins]
    row = int(np.argmin(longest))
    name = list(rig.rockers)[row].name
    where = "at these places" if arcs.places_deg else "anywhere"
    most = longest[row]
    if most < 0 or not arcs.items[row]:
        return f"No stop serves {name} {where}: nowhere is all that is set with it free."
    return (
        f"No stop leaves {margin:g}° on {name}: {where} it has at most {most:.1f}°. "
        f"Ask for {np.floor(most):g}° or less."
    )


def most_margin(rig: Rig, choice: Choice) -> Plan:
    """The most margin for a number of stops (3 unless another is asked)."""
    count = 3 if choice.stops is None else choice.stops
    if not 1 <= count <= MOST_STOPS:
        raise NotApplicableError(f"Ask for 1 to {MOST_STOPS} stops, not {count}.")
    arcs = _free_arcs(rig, choice)
    found = arcs.most_margin(count)
    if found is None:
        fewest_count = next(
            (n for n in range(count, MOST_STOPS + 1) if arcs.most_margin(n) is not None), None
        )
        if fewest_count is None:
            raise NotApplicableError(_too_much(rig, arcs, 0.0))
        raise NotApplicableError(
            f"{count} cannot reach every item, {fewest_count} stops can: ask for those."
        )
    return plan_at(rig, found.stops_deg, "most-margin", _at_words(choice))


@dataclass(frozen=True, slots=True)
class School:
    """A school: its word on the command line, its name, and what is said of it."""

    word: str
    name: str
    how: str
    needs: str
    risks: str
    plan: Callable[[Rig, Choice], Plan]
    short: str = ""

    @property
    def short_name(self) -> str:
        """The name without how it was found: `Fewest stops`."""
        return self.short or self.name


SCHOOLS: Final = (
    School(
        "two-stop",
        "Two stops",
        "1 at TDC, then one turn",
        "which TDC it is, and this engine's table",
        "on the wrong TDC all are set off the base circle",
        two_stops,
    ),
    School(
        "loose",
        "What is loose here",
        "two stops, no table",
        "the feel of a loose rocker",
        "a tight valve goes unnoticed; a slack one misleads",
        loose,
    ),
    School(
        "firing-order",
        "In firing order",
        "each cylinder at its own TDC",
        "a mark or tape for each cylinder",
        "losing count of the marks",
        firing_order,
    ),
    School(
        "companion",
        "Companion rocking",
        "each while its companion is in overlap",
        "which cylinders are companions",
        "a small overlap is hard to see",
        companion,
    ),
    School(
        "eo-ic",
        "Opens and closes",
        "E just opens: set I; I just closes: set E",
        "only which valve is the intake",
        "many looks: one can be missed",
        eo_ic,
    ),
    School(
        "partner-open",
        "Partner fully open",
        "the other valve of the cylinder",
        "only which valve is the intake",
        "easy to see, but little margin",
        partner_open,
    ),
    School(
        "opposite-open",
        "Companion's valve open",
        "the same valve of the companion",
        "which cylinders are companions",
        "the nose is flat: ± 15° by eye, and safe",
        opposite_open,
    ),
    School(
        "quarter-turn",
        "Quarter-turn sweep",
        "every 90° for two turns",
        "only the count of quarter turns",
        "tappets that are pumped up",
        quarter_turn,
    ),
    School(
        "running",
        "Running adjustment",
        "idling, by ear",
        "hydraulic tappets, a steady idle",
        "hot oil and moving parts",
        running,
    ),
    School(
        "fewest",
        "Fewest stops, solved",
        "as few as leave 30°",
        "a degree scale on the crank",
        "a scale set on the wrong TDC: all wrong",
        fewest,
        "Fewest stops",
    ),
    School(
        "most-margin",
        "Most margin, solved",
        "for three stops",
        "a degree scale on the crank",
        "a scale set on the wrong TDC: all wrong",
        most_margin,
        "Most margin",
    ),
)
BY_WORD: Final = {school.word: school for school in SCHOOLS}
