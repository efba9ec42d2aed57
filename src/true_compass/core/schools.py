"""Every school of adjusting: where it stops, what it sets there, what it asks and risks.

Each school is one function from a rig to a plan; it raises `NotApplicableError` with a plain
sentence where an engine has nothing for it. The schools are common practice (no source).
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np

from true_compass.core.angles import CYCLE_DEG, Floats, wrap_deg
from true_compass.core.cam import SEAT, Kind
from true_compass.core.events import crossings
from true_compass.core.phasing import companion_of
from true_compass.core.piercing import MOST_STOPS, FreeArcs
from true_compass.core.state import Rig
from true_compass.core.stops import Plan, plan_at, plan_of, two_stop_plan
from true_compass.core.timing import main_lift

QUARTER_DEG: Final = 90.0
THIN_DEG: Final = 30.0


class NotApplicableError(Exception):
    """An engine has nothing for a school. The message says why, and what works instead."""


Visit = tuple[float, list[str], str]


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


def _items_of(rig: Rig, cylinder: int, kind: Kind | None = None) -> list[str]:
    """What a person sets at the valves of a cylinder, all or of one kind."""
    wanted = [f"{k.letter}{cylinder}" for k in Kind if kind in (None, k)]
    return [name for name in rig.item_names if name.partition(" ")[0] in wanted]


def _left_over(rig: Rig, visits: list[Visit]) -> list[Visit]:
    """Injectors and brakes, and valves that a school has no place for, go where they are free.

    A brake is set right after the exhaust rocker of its cylinder where it is free there; all else
    where it is freest.
    """
    told = {name for _, names, _ in visits for name in names}
    places = np.array([wrap_deg(place) for place, _, _ in visits])
    margins = rig.item_margins_deg(places)
    for row, name in enumerate(rig.item_names):
        if name in told:
            continue
        best = int(np.argmax(margins[row]))
        for at, (_, names, _) in enumerate(visits):
            exhaust = f"E{name[1:]}"
            if name[0] == "B" and exhaust in names and margins[row, at] >= THIN_DEG:
                best = at
        names = visits[best][1]
        after = f"E{name[1:]}"
        names.insert(names.index(after) + 1 if after in names else len(names), name)
    return visits


def _solid(rig: Rig) -> None:
    if rig.engine.train.hydraulic:
        raise NotApplicableError(
            "It sets a gap, and hydraulic tappets have none. Take the quarter-turn sweep, or set "
            "preload at a plan's stops."
        )


def two_stops(rig: Rig, choice: Choice) -> Plan:
    """A TDC mark, then one turn."""
    return two_stop_plan(rig, choice.start_deg)


def loose(rig: Rig, choice: Choice) -> Plan:
    """Two stops without a table: what has play is set, each item where it has most."""
    _solid(rig)
    plan = two_stop_plan(rig, choice.start_deg)
    return Plan("loose", plan.stops)


def firing_order(rig: Rig, choice: Choice) -> Plan:
    """Every cylinder at its own compression TDC, in firing order."""
    del choice
    visits: list[Visit] = []
    for c in rig.engine.firing_order:
        names = _items_of(rig, c)
        tdc_deg = float(rig.true_offsets_deg[c - 1])
        sign = f"{c} at compression TDC"
        if rig.engine.cam.release is not None:
            past_deg = _past_release_deg(rig, names, tdc_deg)
            sign = f"{past_deg:.0f}° past compression TDC of {c}, clear of the release"
            tdc_deg += past_deg
        visits.append((tdc_deg, names, sign))
    return plan_of(rig, "firing-order", _left_over(rig, visits))


def _past_release_deg(rig: Rig, names: list[str], tdc_deg: float) -> float:
    """How far past TDC all items of a cylinder are freest: the release holds on till near TDC."""
    past = np.arange(0.0, 180.5, 0.5)
    rows = [rig.item_names.index(name) for name in names]
    margins = rig.item_margins_deg(wrap_deg(tdc_deg + past))[rows]
    return float(past[int(np.argmax(margins.min(axis=0)))])


def rocking_deg(rig: Rig, cylinder: int) -> float:
    """Crank angle at which the two valves of a cylinder balance around its overlap TDC.

    Where both lift alike; half way between closing and opening where they do not overlap.
    """
    row = 2 * (cylinder - 1)
    lobes = rig.lobes.take([row, row + 1])
    middle = float(rig.offsets_deg[cylinder - 1]) + 360.0
    low, high = middle - 60.0, middle + 60.0
    for step in (1.0, 0.05, 0.0025):
        at = np.arange(low, high + step / 2, step)
        intake, exhaust = lobes.lift_mm(at)
        ahead, behind = np.flatnonzero(intake > exhaust), np.flatnonzero(exhaust > intake)
        if not len(ahead) or not len(behind):
            return wrap_deg(middle)
        # With a gap between closing and opening, both ends of it stay as far as they are.
        low, high = (
            float(at[behind[behind < ahead[-1]][-1]]),
            float(at[ahead[ahead > behind[0]][0]]),
        )
    return wrap_deg((low + high) / 2)


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
        (rocking_deg(rig, pairs[c]), _items_of(rig, c), f"valves of {pairs[c]} rock")
        for c in rig.engine.firing_order
    ]
    return plan_of(rig, "companion", _left_over(rig, visits))


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
        opens, closes = events[2 * c - 1][0], events[2 * c - 2][1]
        visits.append((opens, _items_of(rig, c, Kind.INTAKE), f"E{c} just opens"))
        visits.append((closes, _items_of(rig, c, Kind.EXHAUST), f"I{c} just closes"))
    if not choice.along_heads:
        visits.sort(key=lambda visit: wrap_deg(visit[0]))
    visits = [visit for visit in visits if visit[1]]
    return plan_of(rig, "eo-ic", _left_over(rig, visits))


def _noses(rig: Rig) -> dict[str, float]:
    """Crank angle of full lift of every valve."""
    noses = {}
    for valve, turn in zip(rig.engine.valves, _nose_deg(rig), strict=True):
        noses[valve.name] = wrap_deg(float(turn))
    return noses


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
    visits: list[Visit] = []
    for c in rig.engine.cylinders:
        visits.append((noses[f"E{c}"], _items_of(rig, c, Kind.INTAKE), f"E{c} fully open"))
        visits.append((noses[f"I{c}"], _items_of(rig, c, Kind.EXHAUST), f"I{c} fully open"))
    visits = sorted((v for v in visits if v[1]), key=lambda visit: wrap_deg(visit[0]))
    return plan_of(rig, "partner-open", _left_over(rig, visits))


def opposite_open(rig: Rig, choice: Choice) -> Plan:
    """Each valve while the same valve of the companion stands fully open."""
    del choice
    pairs, noses = _companions(rig), _noses(rig)
    visits: list[Visit] = []
    for c in rig.engine.cylinders:
        for kind in Kind:
            other = f"{kind.letter}{pairs[c]}"
            visits.append((noses[other], _items_of(rig, c, kind), f"{other} fully open"))
    visits = sorted((v for v in visits if v[1]), key=lambda visit: wrap_deg(visit[0]))
    return plan_of(rig, "opposite-open", _left_over(rig, visits))


def quarter_turn(rig: Rig, choice: Choice) -> Plan:
    """Every quarter turn for two turns, taking up what is loose. Hydraulic tappets only."""
    if not rig.engine.train.hydraulic:
        raise NotApplicableError(
            "It needs hydraulic tappets; this engine has solid ones. Two stops are as quick."
        )
    places = [choice.start_deg + QUARTER_DEG * n for n in range(8)]
    return plan_at(rig, places, "quarter-turn", "a quarter turn on")


def running(rig: Rig, choice: Choice) -> Plan:
    """Adjusting at idle has no stops; it is a procedure."""
    del choice
    if not rig.engine.train.hydraulic:
        raise NotApplicableError(
            "It needs hydraulic tappets, and the engine idling; these are solid."
        )
    raise NotApplicableError(
        "It has no stops: idling, each is backed off till it ticks, turned in till it is quiet, "
        "and after a wait given its preload in quarters. Hot oil and moving parts."
    )


def _free_arcs(rig: Rig, choice: Choice) -> FreeArcs:
    arcs = tuple(rig.item_arcs_deg.values())
    places: tuple[float, ...] = ()
    if choice.at_marks:
        angles = {wrap_deg(m.angle_deg + turn) for m in rig.engine.marks for turn in (0.0, 360.0)}
        if not angles:
            raise NotApplicableError(
                "This engine has no marks in its file. Add them in Engine, or stop at any angle."
            )
        places = tuple(sorted(angles))
    elif choice.at_deg is not None:
        steps = int(CYCLE_DEG / choice.at_deg + 1e-9)
        places = tuple(wrap_deg(choice.start_deg + n * choice.at_deg) for n in range(steps))
    return FreeArcs(arcs, places)


def _at_words(choice: Choice) -> str:
    if choice.at_marks:
        return "a mark"
    return f"a multiple of {choice.at_deg:g}°" if choice.at_deg is not None else "a degree scale"


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
        longest = [max(length for _, length in item) / 2 for item in arcs.items]
    else:
        margins = rig.item_margins_deg(np.array(arcs.places_deg))
        longest = [float(row.max()) for row in margins]
    row = int(np.argmin(longest))
    where = "at these places" if arcs.places_deg else "anywhere"
    return (
        f"No stop leaves {margin:g}° on {rig.item_names[row]}: {where} it has at most "
        f"{longest[row]:.1f}°. Ask for {max(np.floor(longest[row]), 0):g}° or less."
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
        "one set too tight hides; one slack off its base circle lies",
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
        "intake from exhaust, no more",
        "many looks: one can be missed",
        eo_ic,
    ),
    School(
        "partner-open",
        "Partner fully open",
        "the other valve of the cylinder",
        "intake from exhaust, no more",
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
        "no position, but the count of quarters",
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
    ),
    School(
        "most-margin",
        "Most margin, solved",
        "for three stops",
        "a degree scale on the crank",
        "a scale set on the wrong TDC: all wrong",
        most_margin,
    ),
)
BY_WORD: Final = {school.word: school for school in SCHOOLS}
