"""Drills of which items may be set where, and of ramps and lash."""

from functools import lru_cache
from typing import Any, Final

import numpy as np

from true_compass.core.adjusting.stops import whole_degrees
from true_compass.core.angles import TURN_DEG, Floats, wrap_deg
from true_compass.core.changes import with_order
from true_compass.core.crank.orders import even_orders
from true_compass.core.engine import Engine
from true_compass.core.events import crossings
from true_compass.core.items import Item, Kind, item_named
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.core.strokes import Stroke
from true_compass.core.valves.cam import SEAT
from true_compass.core.valves.timing import main_lift
from true_compass.lessons.drill import Asked, AskError, Cover, Draw, Drill, Line, Question
from true_compass.lessons.forms import (
    YES_NO,
    Answer,
    Choice,
    Form,
    Option,
    Ticks,
    away_deg,
)
from true_compass.lessons.kinds.cycle import overlap_deg, stroke_of, tdc_deg

CLEAR_DEG: Final = 3.0
"""Nobody is asked about an item that stands within this of the end of its free arc."""
CREEP_DEG: Final = 2.0


def margins_deg(rig: Rig, crank_deg: float) -> dict[str, float]:
    """Margin of each item at a crank angle, ramps taken off."""
    margins = rig.item_margins_deg(np.array([wrap_deg(crank_deg)]))[:, 0]
    return dict(zip(rig.item_names, margins.tolist(), strict=True))


def free_names(rig: Rig, crank_deg: float) -> tuple[str, ...]:
    """The items whose margin is above 0."""
    return tuple(name for name, margin in margins_deg(rig, crank_deg).items() if margin > 0)


def lift_mm(rig: Rig, name: str, crank_deg: float) -> float:
    """Lift of the valves of an item; 0 for what is no valve."""
    item = item_named(name).rocker
    if not isinstance(item.kind, Kind):
        return 0.0
    row = rig.engine.valve_row(item.cylinder, item.kind)
    return float(rig.lobes.lift_mm(np.array([wrap_deg(crank_deg)]))[row, 0])


def item_words(rig: Rig, name: str, crank_deg: float, margin_deg: float) -> str:
    """How an item stands: `rests on its base circle, 146° clear`, `is open 3.7 mm: …`."""
    if margin_deg > 0:
        return f"rests on its base circle, {whole_degrees(margin_deg)}° clear"
    lift = lift_mm(rig, name, crank_deg)
    cylinder = item_named(name).cylinder
    stroke = stroke_of(rig, cylinder, crank_deg).word
    if lift >= 0.05:
        return f"is open {lift:.1f} mm: cylinder {cylinder} is on {stroke}"
    off = -whole_degrees(margin_deg)
    if lift > 0 or margin_deg <= -1:
        return f"is {off}° off its base circle: its lobe has begun to press"
    return "stands where its base circle ends"


@lru_cache(maxsize=64)
def other_fours(engine: Engine) -> tuple[Engine, ...]:
    """The same four with every other even order of its crank."""
    if engine.cylinder_count != 4:
        return ()
    table = even_orders(engine.layout)
    orders = [table.order(row) for row in range(len(table))]
    return tuple(
        with_order(engine, tuple((c,) for c in order))
        for order in orders
        if order != engine.firing_order
    )


def of_another_four(engine: Engine, given: Any, told: Any) -> str:
    """The order of the four whose table was given, or nothing. `told` gives that of a rig."""
    for other in other_fours(engine):
        try:
            if told(Rig.of(other)) == given:
                return other.order_text
        except (EngineError, AskError):
            continue
    return ""


class WhatIsFree(Drill):
    """Tick what may be set here."""

    slug = "free"
    reads_cam = True
    title = "Tick what may be set here"
    skill = "valves-here"
    covers = (Cover.ARCS,)

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """Often at a TDC, where one stops; else anywhere at whole tens."""
        for tries in range(20):
            at = self._place(rig, draw.again(tries))
            least = min(abs(margin) for margin in margins_deg(rig, at).values())
            if least >= CLEAR_DEG:
                break
        return Question(self.slug, engine, {}, at)

    def _place(self, rig: Rig, draw: Draw) -> float:
        if draw.yes("tdc", 0.4):
            cylinder = draw.even("cylinder", list(rig.engine.cylinders))
            return round(tdc_deg(rig, cylinder), 3)
        return float(draw.whole("place", 0, 71) * 10)

    def text(self, q: Asked) -> str:
        """The question names who is at TDC, or the angle."""
        at = q.at_deg
        firing = [c for c in q.engine.cylinders if away_deg(at, tdc_deg(q.rig, c)) <= 0.5]
        if firing:
            names = " and ".join(map(str, firing))
            verb = "is" if len(firing) == 1 else "are"
            return f"{names} {verb} at compression TDC. Tick what may be set here."
        return f"The crank stands at {at:.4g}°. Tick what may be set here."

    def form(self, q: Asked) -> Form:
        """Every item."""
        return Ticks(q.rig.item_names)

    def answer(self, q: Asked) -> Answer:
        """Those with a margin above 0."""
        return free_names(q.rig, q.at_deg)

    def why(self, q: Asked) -> str:
        """Which, and why."""
        free = free_names(q.rig, q.at_deg)
        if not free:
            return "No tappet is on its base circle here."
        return f"On the base circle: {', '.join(free)}."

    def lines(self, q: Asked, given: Answer) -> tuple[Line, ...]:
        """A reason for each item that was ticked or left out."""
        at = q.at_deg
        told = []
        for name, margin in margins_deg(q.rig, at).items():
            free, ticked = margin > 0, name in given
            if free or ticked:
                mark = "right" if free and ticked else "wrong" if ticked else "left out"
                told.append(Line(name, mark, item_words(q.rig, name, at, margin)))
        return tuple(told)

    def idea(self, q: Asked, given: Answer) -> str:
        """Another four's table, the other TDC, or the near-miss with the exhaust."""
        at, said = q.at_deg, set(given)
        if said and said == set(free_names(q.rig, at + TURN_DEG)):
            return "mark-zero-fires"
        if self._another(q.rig, at, said):
            return "one-table-fits-all"
        for name in given:
            item = item_named(name)
            if item.kind is Kind.EXHAUST and self._just_lifts(q.rig, item.cylinder, at):
                return "intake-lifts-so-exhaust"
        wrong = [name for name in given if margins_deg(q.rig, at)[name] <= 0]
        if wrong and all(lift_mm(q.rig, name, at) <= 0 for name in wrong):
            return "blade-goes-so-heel"
        return ""

    def _another(self, rig: Rig, at: float, said: set[str]) -> str:
        first = min(rig.engine.cylinders, key=lambda c: away_deg(at, tdc_deg(rig, c)))

        def told(other: Rig) -> set[str]:
            return set(free_names(other, tdc_deg(other, first)))

        return of_another_four(rig.engine, said, told)

    def slips(self, q: Asked) -> list[Answer]:
        """The other TDC, and the tables of other fours."""
        first = min(q.engine.cylinders, key=lambda c: away_deg(q.at_deg, tdc_deg(q.rig, c)))
        others = (Rig.of(other) for other in other_fours(q.engine))
        tables = [free_names(other, tdc_deg(other, first)) for other in others]
        return [free_names(q.rig, q.at_deg + TURN_DEG), *tables]

    def _just_lifts(self, rig: Rig, cylinder: int, at: float) -> bool:
        """Whether an intake has begun to lift with its exhaust still open."""
        intake = lift_mm(rig, Item(Kind.INTAKE, cylinder).name, at)
        exhaust = lift_mm(rig, Item(Kind.EXHAUST, cylinder).name, at)
        return 0 < intake < 2.0 and stroke_of(rig, cylinder, at) is Stroke.EXHAUST and exhaust > 0

    def wrong_words(self, q: Asked, given: Answer) -> str:
        """Whose table that is."""
        order = self._another(q.rig, q.at_deg, set(given))
        return f"That is the table of {order}." if order else ""

    def shows(self, q: Asked, given: Answer) -> tuple[int, ...]:
        """The cylinders with something wrong or left out."""
        lines = self.lines(q, given)
        return tuple(sorted({item_named(x.name).cylinder for x in lines if x.mark != "right"}))

    def hint(self, q: Asked) -> str:
        """How to reason it out."""
        return (
            "Which stroke is each cylinder on? And how far is each valve from opening or closing?"
        )


class MaySet(Drill):
    """One valve moves: may another one be set here?"""

    slug = "may-set"
    reads_cam = True
    title = "One valve moves: may the other be set?"
    skill = "valves-here"
    covers = (Cover.ARCS,)

    CASES: Final = (
        (Kind.INTAKE, True, Kind.EXHAUST),
        (Kind.EXHAUST, True, Kind.INTAKE),
        (Kind.INTAKE, False, Kind.EXHAUST),
        (Kind.EXHAUST, False, Kind.INTAKE),
    )
    """What moves, whether it begins to open (else it is nearly closed), and what is to be set."""

    def missing(self, rig: Rig) -> str:
        """Both valves must be driven and open."""
        if not all(rig.lobes.settable):
            return "has valves that no cam drives"
        return ""

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """Each case as often as any other."""
        cylinder = draw.one("cylinder", list(rig.engine.cylinders))
        moves, opens, sets = draw.even("case", self.CASES, keeps=True)
        at = _moving_deg(rig, cylinder, moves, opens)
        ask = {
            "item": Item(sets, cylinder).name,
            "moves": Item(moves, cylinder).name,
            "begins": opens,
        }
        return Question(self.slug, engine, ask, at)

    def text(self, q: Asked) -> str:
        """The question."""
        moves, item = q.item("moves").name, q.item("item").name
        does = "just begins to lift" if q.ask.get("begins") else "is nearly closed"
        return f"{moves} {does}. May {item} be set here?"

    def form(self, q: Asked) -> Form:
        """Yes or no."""
        return YES_NO

    def answer(self, q: Asked) -> Answer:
        """By its margin."""
        return margins_deg(q.rig, q.at_deg)[q.item("item").name] > 0

    def why(self, q: Asked) -> str:
        """How it stands there."""
        item, at = q.item("item").name, q.at_deg
        return f"{item} {item_words(q.rig, item, at, margins_deg(q.rig, at)[item])}."

    def idea(self, q: Asked, given: Answer) -> str:
        """The near-miss of the way that goes by opening and closing valves."""
        item = q.item("item")
        moves = q.item("moves")
        near = item.kind is Kind.EXHAUST and moves.kind is Kind.INTAKE
        return "intake-lifts-so-exhaust" if given and near and q.ask.get("begins") else ""

    def shows(self, q: Asked, given: Answer) -> tuple[int, ...]:
        """The cylinder."""
        return (q.item("item").cylinder,)


def _moving_deg(rig: Rig, cylinder: int, kind: Kind, opens: bool) -> float:
    """Where a valve has just begun to lift, or has a little way to go until it closes."""
    seat = main_lift(crossings(rig.lobes, SEAT)[rig.engine.valve_row(cylinder, kind)])
    if seat is None:
        return tdc_deg(rig, cylinder)
    return round(wrap_deg(seat[0] + 3.0 if opens else seat[1] - 3.0), 1)


class OnTheRamp(Drill):
    """The blade goes. Is it on the base circle? Told by how far it is from its event."""

    slug = "ramp"
    title = "The blade goes: on the base circle?"
    skill = "lash-ramps"
    covers = (
        Cover.ARCS,
        Cover.VALVES,
    )

    def missing(self, rig: Rig) -> str:
        """It needs a gap and a ramp to stand on."""
        if rig.engine.train.hydraulic:
            return "has hydraulic tappets: no blade goes anywhere"
        if not _ramps(rig):
            return "has no ramps that a blade could go on"
        return ""

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """On the ramp as often as before it, at whole degrees from where the valve opens."""
        item, kind, starts = draw.one("item", _ramps(rig))
        row = rig.engine.valve_row(item.cylinder, kind)
        ramp = rig.engine.cam.timing(kind).ramp_deg
        if draw.even("answer", (True, False), keeps=True):
            before = draw.whole("heel", int(ramp + CLEAR_DEG) + 1, int(2.0 * ramp + CLEAR_DEG) + 2)
        else:
            before = draw.whole("ramp", max(1, round(0.25 * ramp)), int(ramp - CLEAR_DEG))
        at = round(wrap_deg(starts + ramp - before), 3)
        gap = _gap_mm(rig, row, np.array([at]))[0]
        blade = max(0.05, float(np.floor(gap * 0.9 / 0.05)) * 0.05)
        return Question(self.slug, engine, {"item": item.name, "blade_mm": round(blade, 2)}, at)

    def _item(self, q: Asked) -> Item:
        name = q.ask.get("item")
        if name not in q.rig.item_names or not isinstance(item_named(str(name)).kind, Kind):
            raise AskError("ask.item must be a valve of this engine, such as I1")
        return item_named(str(name))

    def _creep_mm(self, q: Asked) -> float:
        item, at = self._item(q), q.at_deg
        assert isinstance(item.kind, Kind)
        row = q.engine.valve_row(item.cylinder, item.kind)
        gaps = _gap_mm(q.rig, row, np.array([at - CREEP_DEG, at + CREEP_DEG]))
        return abs(float(gaps[1] - gaps[0]))

    def _before_deg(self, q: Asked) -> float:
        """How far before its event the crank stands; negative after it."""
        item, margin = self._item(q), margins_deg(q.rig, q.at_deg)[self._item(q).name]
        assert isinstance(item.kind, Kind)
        return margin + q.engine.cam.timing(item.kind).ramp_deg

    def text(self, q: Asked) -> str:
        """The question, with the ramp and how far away the event is."""
        item = self._item(q)
        assert isinstance(item.kind, Kind)
        blade = q.number("blade_mm", 0.01, 5.0)
        ramp = q.engine.cam.timing(item.kind).ramp_deg
        return (
            f"The ramp of {item.name} is {ramp:.4g}° long. Its valve opens "
            f"{self._before_deg(q):.4g}° on from here, and a blade of {blade:.2f} mm goes. "
            "Is it on its base circle?"
        )

    def form(self, q: Asked) -> Form:
        """Yes or no."""
        return YES_NO

    def answer(self, q: Asked) -> Answer:
        """By its margin."""
        return margins_deg(q.rig, q.at_deg)[self._item(q).name] > 0

    def why(self, q: Asked) -> str:
        """What a dial on its rocker would tell."""
        item, at = self._item(q).name, q.at_deg
        margin = margins_deg(q.rig, at)[item]
        if margin > 0:
            words = item_words(q.rig, item, at, margin)
            return f"A dial on its rocker stands still: {item} {words}."
        off, creep = -whole_degrees(margin), self._creep_mm(q)
        told = f" {creep:.2f} mm" if creep >= 0.005 else ""
        return (
            f"Rocked {CREEP_DEG:.4g}° either way, a dial on its rocker creeps{told}: {item} is on "
            f"its quiet ramp, {off}° off its base circle."
        )

    def idea(self, q: Asked, given: Answer) -> str:
        """The blade was believed."""
        return "blade-goes-so-heel" if given else ""

    def shows(self, q: Asked, given: Answer) -> tuple[int, ...]:
        """The cylinder."""
        return (self._item(q).cylinder,)


def _gap_mm(rig: Rig, row: int, crank_deg: Floats) -> Floats:
    """The gap at a valve at crank angles, 0 where its lobe presses."""
    lobes = rig.lobes
    lobe = lobes.lobe_mm(wrap_deg(crank_deg))[row]
    return np.asarray(np.maximum(lobes.lash_mm[row] - lobes.ratio[row] * lobe, 0.0))


def _ramps(rig: Rig) -> list[tuple[Item, Kind, float]]:
    """Valves whose opening ramp is long enough to stand on, and where it begins."""
    found = []
    for valve in rig.engine.valves:
        ramp = rig.engine.cam.timing(valve.kind).ramp_deg
        arcs = rig.item_arcs_deg.get(valve.item, ())
        if ramp >= 8.0 and arcs:
            start, length = arcs[-1]
            found.append((valve.item, valve.kind, wrap_deg(start + length)))
    return found


class TightRockers(Drill):
    """Both rockers of a cylinder are tight. What now?"""

    slug = "tight"
    title = "Both rockers are felt: what now?"
    skill = "lash-ramps"
    covers = (
        Cover.RING,
        Cover.STROKES,
    )

    def missing(self, rig: Rig) -> str:
        """It needs two rockers with a gap."""
        if rig.engine.train.hydraulic:
            return "has hydraulic tappets: no rocker has play"
        return "" if all(rig.lobes.settable) else "has valves that no cam drives"

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """At overlap; at compression with both pinched; or at compression with both loose."""
        answer = draw.even("answer", ("turn", "find-out", "set"), keeps=True)
        cylinder = draw.one("cylinder", list(rig.engine.cylinders))
        at = overlap_deg(rig, cylinder) if answer == "turn" else tdc_deg(rig, cylinder)
        ask = {"cylinder": cylinder, "felt": "loose" if answer == "set" else "tight"}
        return Question(self.slug, engine, ask, round(at, 3))

    def _loose(self, q: Asked) -> bool:
        return q.word("felt", ("tight", "loose")) == "loose" if "felt" in q.ask else False

    def choices(self, q: Asked) -> int:
        """Nobody slackens: three are right somewhere."""
        return 3 if "felt" in q.ask else 2

    def text(self, q: Asked) -> str:
        """The question tells the sign that settles it."""
        cylinder, at = q.cylinder, q.at_deg
        rocks = away_deg(at, overlap_deg(q.rig, cylinder)) < 90.0
        sign = "both move when the crank is rocked" if rocks else "neither moves when it is rocked"
        felt = "loose, with about their usual gap" if self._loose(q) else "tight"
        return (
            f"The mark of {cylinder} is in line. Both its rockers are {felt}, and {sign}. What now?"
        )

    def form(self, q: Asked) -> Form:
        """Four ways to go on."""
        return Choice(
            (
                Option("slacken", "Slacken both until the blade goes"),
                Option("turn", "One turn on, and feel again"),
                Option("find-out", "Find out what pinches them, then set them"),
                Option("set", "Measure and set them here"),
            )
        )

    def answer(self, q: Asked) -> Answer:
        """By where they stand, and how they feel."""
        cylinder = q.cylinder
        margins = margins_deg(q.rig, q.at_deg)
        free = all(margins[Item(kind, cylinder).name] > 0 for kind in Kind)
        if not free:
            return "turn"
        return "set" if self._loose(q) else "find-out"

    def why(self, q: Asked) -> str:
        """What slackening there would leave."""
        cylinder, at = q.cylinder, q.at_deg
        if self.answer(q) == "set":
            return "Both are on the base circle: shut valves, still rockers, a gap at both."
        if self.answer(q) == "find-out":
            return "Both are on the base circle and should be loose: set too tight, or pinched."
        told = []
        for kind in Kind:
            lash = q.engine.cam.timing(kind).lash_mm
            row = q.engine.valve_row(cylinder, kind)
            lobe = float(q.rig.lobes.lobe_mm(np.array([at]))[row, 0])
            left = lash + lobe * q.rig.lobes.ratio[row]
            told.append(f"{Item(kind, cylinder).name} {left:.2f} mm for {lash:.2f}")
        words = " and ".join(told)
        return f"It is overlap TDC: the lobes press. Slackened here, one turn on: {words}."

    def idea(self, q: Asked, given: Answer) -> str:
        """They were taken for set too tight."""
        return "tight-is-too-tight" if given == "slacken" and self.answer(q) == "turn" else ""


DRILLS: Final = (WhatIsFree(), MaySet(), OnTheRamp(), TightRockers())
