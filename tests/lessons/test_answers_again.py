"""Every official answer, worked out a second time, of every kind on every rig.

What is expected comes from an engine's order and gaps, from its lobes and pistons looked at every
tenth of a degree, and from pencil arithmetic; the program's own margins, plans, phasing and figures
are not asked. Covered engines have no answer: the bench judges them by what is done.
"""

import re
from collections.abc import Callable, Iterator
from functools import cached_property

import numpy as np
import pytest

from true_compass.core.items import Kind, item_named
from true_compass.core.state import engine_state
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.lessons.drill import Asked
from true_compass.lessons.drills import DRILLS, judge, questions, rig_of
from true_compass.lessons.forms import Answer

STEP_DEG = 0.1
GRID = np.arange(0.0, 720.0, STEP_DEG)
STROKES = ("power", "exhaust", "intake", "compression")
EACH = 4
BORDER_DEG = 0.5
"""Nearer than this to the end of a lobe a tenth of a degree settles nothing."""
DRILL = {drill.slug: drill for drill in DRILLS}


class Looked:
    """An engine as a patient person with a torch sees it."""

    def __init__(self, name: str) -> None:
        self.engine = demo_rig(name)
        self.rig = rig_of(self.engine)
        groups, gaps = self.engine.firing_groups, self.engine.intervals_deg
        begins = np.concatenate([[0.0], np.cumsum(gaps)[:-1]])
        told = {c: float(at) for group, at in zip(groups, begins, strict=True) for c in group}
        self.fires_deg = {c: (at - told[1]) % 720.0 for c, at in told.items()}
        self.order = [c for group in groups for c in group]

    @cached_property
    def lobe_mm(self) -> np.ndarray:
        return self.rig.lobes.lobe_mm(GRID)

    @cached_property
    def fall_mm(self) -> np.ndarray:
        return engine_state(self.rig, GRID).piston_from_tdc_mm

    def stroke(self, cylinder: int, at_deg: float) -> str:
        return STROKES[int((at_deg - self.fires_deg[cylinder]) % 720.0 // 180.0)]

    def top_deg(self, cylinder: int, of_deg: float) -> float:
        """Where the piston is highest, within 60° of a place."""
        near = (of_deg + np.arange(-60.0, 60.0, STEP_DEG)) % 720.0
        rows = np.rint(near / STEP_DEG).astype(int) % len(GRID)
        return float(near[int(np.argmin(self.fall_mm[cylinder - 1, rows]))])

    def freedom_deg(self, name: str, at_deg: float) -> float:
        """How far the crank turns, the nearer way, until its lobe begins; below 0: until it ends.

        An item stands on the lobe of its rocker; an injector or a brake on its own.
        """
        item = item_named(name)
        extras = [extra.item for extra in self.engine.driven_extras]
        if item in extras:
            assert self.rig.extras is not None
            presses = self.rig.extras.lobe_mm(GRID)[extras.index(item)] > 0
        else:
            kind = item.rocker.kind
            assert isinstance(kind, Kind)
            presses = self.lobe_mm[self.engine.valve_row(item.cylinder, kind)] > 0
        away = np.abs((GRID - at_deg + 360.0) % 720.0 - 360.0)
        here = presses[round(at_deg / STEP_DEG) % len(GRID)]
        if presses.all() or not presses.any():
            return -360.0 if here else 360.0
        return float(-away[~presses].min() if here else away[presses].min())

    def follows(self, before: int, cylinder: int) -> bool:
        """Whether a cylinder fires at the very next firing, or at the same one."""
        on = sorted({(at - self.fires_deg[before]) % 720.0 for at in self.fires_deg.values()})
        return (self.fires_deg[cylinder] - self.fires_deg[before]) % 720.0 <= on[1]

    def squeezes(self, cylinder: int, at_deg: float) -> bool:
        """Whether a piston rises on what came in; a release lets some out, and a thumb feels it."""
        row = round(at_deg / STEP_DEG) % len(GRID)
        shut = self.lobe_mm[self.engine.valve_row(cylinder, Kind.INTAKE), row] <= 0
        return bool(shut) and self.stroke(cylinder, at_deg % 720.0) == "compression"

    def companion(self, cylinder: int) -> int | None:
        mates = [c for c, at in self.fires_deg.items()
                 if abs((at - self.fires_deg[cylinder]) % 720.0 - 360.0) < 0.01]  # fmt: skip
        return mates[0] if mates else None


Second = Callable[[Looked, Asked], Answer]


def the_order(look: Looked, q: Asked) -> Answer:
    """By where each piston is up and fires, from cylinder 1 on; or the only way to fill the gaps so
    that each cylinder is up in its turn.
    """
    if q.ask.get("of_crank"):
        told = [0 if part == "?" else int(part) for part in q.ask["order"].split("-")]
        ways = list(filled(look, told, 0))
        assert len(ways) == 1, ways
        return ways[0]
    return sorted(look.engine.cylinders, key=lambda c: (look.fires_deg[c], look.order.index(c)))


def filled(look: Looked, told: list[int], nth: int) -> Iterator[list[int]]:
    """Every even order of a crank with some of it told, turn by turn."""
    if nth == len(told):
        yield told
        return
    turn = nth * 720.0 / len(told)
    for cylinder in [told[nth]] if told[nth] else set(look.order) - set(told):
        up = (look.fires_deg[cylinder] - look.fires_deg[told[0]] - turn + 180.0) % 360.0 - 180.0
        if abs(up) < 0.5:
            yield from filled(look, [*told[:nth], cylinder, *told[nth + 1 :]], nth + 1)


def out_of_turn(q: Asked) -> int | None:
    """The first along an order whose pin is not up in its turn."""
    pins, order = q.ask["pins"], [int(c) for c in str(q.ask["order"]).split("-")]
    for nth, cylinder in enumerate(order):
        up = pins[order[0] - 1] - pins[cylinder - 1] - nth * 720.0 / len(order)
        if abs((up + 180.0) % 360.0 - 180.0) > 0.5:
            return cylinder
    return None


def told_crank(q: Asked) -> int | None:
    """The first cylinder along an order that has no place left; its TDCs are where its pin is up.

    Each fires as soon after the one before as its crank lets it, and all within 720°.
    """
    pins, order = q.ask["pins"], [int(c) for c in str(q.ask["order"]).split("-")]
    ups = {c: (pins[order[0] - 1] - pins[c - 1]) % 360.0 for c in order}
    here = 0.0
    for cylinder in order[1:]:
        later = [up for up in (ups[cylinder], ups[cylinder] + 360.0) if here + 0.01 < up < 719.99]
        if not later:
            return cylinder
        here = later[0]
    return None


def leads_right(look: Looked, q: Asked) -> Answer:
    """Post by post in the rotor's direction, while the leads go the other way."""
    count = len(look.order)
    if "cylinder" in q.ask:
        return look.order[-look.order.index(q.ask["cylinder"]) % count]
    return sum(look.order[post] == look.order[-post % count] for post in range(count))


def two_lists(look: Looked, q: Asked) -> Answer:
    start = q.at_deg
    lists: tuple[list[str], list[str]] = ([], [])
    for name in q.rig.item_names:
        here, there = (look.freedom_deg(name, (start + on) % 720.0) for on in (0.0, 360.0))
        lists[int(there > here + 0.3)].append(name)
        assert max(here, there) > 0, "nobody is asked for a table that is unsafe"
    return lists


def wrong_line(look: Looked, q: Asked) -> Answer:
    for nth, row in enumerate(q.ask["lines"], start=1):
        if any(look.freedom_deg(name, 360.0 * (stop - 1)) <= 0 for name, stop in row):
            return nth
    return None


def screw_deg(look: Looked, q: Asked) -> Answer:
    """Pitch and lever by the words of the question alone; the rest is sums of levers."""
    text = DRILL["screw"].text(q)
    inches = re.search(r"\d+/\d+-(\d+)", text)
    metric = re.search(r"M[\d.]+[x×]([\d.]+)|pitch ([\d.]+) mm", text)
    if inches:
        pitch = 25.4 / int(inches[1])
    else:
        assert metric, text
        pitch = float(metric[1] or metric[2])
    found = re.search(r"ratio ([\d.]+)", text)
    ratio = float(found[1]) if found else 1.0
    at_valve = {"valve-screw": pitch, "rod-screw": pitch * ratio}.get(
        q.engine.train.adjuster.value, pitch * (1.0 + ratio)
    )
    by_rod = (
        "zero lash" in text
        or "plunger" in text
        or not re.search("measured at the (valve|bridge)", text)
    )
    target = re.search(r"(?:be|plunger) in by ([\d.]+) mm|should have ([\d.]+) (mm|thou)", text)
    assert target, text
    wanted = float(target[1] or target[2]) * (0.0254 if target[3] == "thou" else 1.0)
    change = wanted - q.ask["measured_mm"]
    turn = abs(change) / (at_valve / ratio if by_rod else at_valve) * 360.0
    closes = (change > 0) == ("plunger" in text)
    return -turn if "minus" in text and not closes else turn


def flat(look: Looked, q: Asked) -> Answer:
    """Crank and rod: r(1 − cos a) + l − √(l² − r² sin² a), the first angle where an eye sees it."""
    radius, rod = look.engine.stroke_mm / 2.0, look.engine.rod_mm
    at = np.radians(np.arange(0.0, 60.0, 0.001))
    fall = radius * (1 - np.cos(at)) + rod - np.sqrt(rod**2 - (radius * np.sin(at)) ** 2)
    return f"{round(float(np.degrees(at[np.argmax(fall >= q.ask['sees_mm'])])), 1):g}"


def sign(look: Looked, q: Asked) -> Answer:
    """What differs a turn on: pressure, the post of the rotor, and valves that rock at one only."""
    for kind, name in q.ask["looks"]:
        if kind in ("mark", "still"):
            continue
        if kind == "rotor":
            return f"{kind} {name}"
        if kind == "pressure":
            felt = [look.squeezes(int(name), q.at_deg - 20.0 + on) for on in (0.0, 360.0)]
            if felt[0] != felt[1]:
                return f"{kind} {name}"
            continue
        rows = look.engine.valve_rows(int(name))
        near = [np.rint((q.at_deg + on + np.arange(-8, 8, 0.5)) % 720 / STEP_DEG).astype(int)
                % len(GRID) for on in (0.0, 360.0)]  # fmt: skip
        moves = [bool(np.ptp(look.lobe_mm[list(rows)][:, at], axis=1).min() > 0) for at in near]
        if moves[0] != moves[1]:
            return f"{kind} {name}"
    return None


SECOND: dict[str, Second] = {
    "stroke": lambda look, q: look.stroke(q.cylinder, q.at_deg),
    "turns": lambda look, q: {
        "begins": {"power": 720, "exhaust": 180, "intake": 360, "compression": 540},
        "middle": {"power": 90, "exhaust": 270, "intake": 450, "compression": 630},
    }[q.ask["part"]][q.ask["stroke"]],
    "fires": lambda look, q: next(
        c for c in (q.cylinder, look.companion(q.cylinder))
        if c and abs((look.fires_deg[c] - q.at_deg + 360.0) % 720.0 - 360.0) < 90.0
    ),
    "turn-to": lambda look, q: look.top_deg(q.cylinder, look.fires_deg[q.cylinder]),
    "open-at-tdc": lambda look, q: [
        f"{letter}{q.cylinder}" for letter, row in zip("IE", look.engine.valve_rows(q.cylinder),
                                                       strict=True)
        if q.rig.lobes.ratio[row] * look.lobe_mm[row, round(q.at_deg / STEP_DEG) % len(GRID)]
        > q.rig.lobes.lash_mm[row]
    ],
    "mark-zero": lambda look, q: (
        "unknown" if q.ask["sign"] in ("", "straw", "pair")
        else "yes" if look.stroke(q.cylinder, (q.at_deg + 8.0) % 720.0) == "power" else "no"
    ),
    "together": lambda look, q: look.stroke(look.companion(q.cylinder) or 0, q.at_deg),
    "companion": lambda look, q: look.companion(q.cylinder),
    "fires-next": lambda look, q: min(
        look.engine.cylinders,
        key=lambda c: (
            (look.fires_deg[c] - look.fires_deg[q.cylinder] - 0.01) % 720.0
            + (720.0 if q.ask.get("steps") and look.follows(q.cylinder, c) else 0.0),
            c,
        ),
    ),
    "order": the_order,
    "order-possible": lambda look, q: told_crank(q) is None,
    "order-why": lambda look, q: out_of_turn(q),
    "backwards": leads_right,
    "free": lambda look, q: [
        name for name in q.rig.item_names if look.freedom_deg(name, q.at_deg) > 0
    ],
    "may-set": lambda look, q: look.freedom_deg(q.ask["item"], q.at_deg) > 0,
    "ramp": lambda look, q: look.freedom_deg(q.ask["item"], q.at_deg) > 0,
    "tight": lambda look, q: (
        "turn"
        if any(look.freedom_deg(f"{letter}{q.cylinder}", q.at_deg) <= 0 for letter in "IE")
        else {"tight": "find-out", "loose": "set"}[q.ask["felt"]]
    ),
    "two-stop": two_lists,
    "table-line": wrong_line,
    "thou": lambda look, q: q.ask["thou"] * 0.0254,
    "mm": lambda look, q: q.ask["mm"] / 0.0254,
    "dial": lambda look, q: q.ask["turns"] * {"mm": 1, "thou": 100}[q.ask["unit"]] + q.ask["hand"],
    "flat": flat,
    "screw": screw_deg,
    "sign": sign,
    "two-readings": lambda look, q: (q.ask["after_deg"] - q.ask["before_deg"]) / 2.0,
    "dots": lambda look, q: min(
        look.order, key=lambda c: abs((look.fires_deg[c] - q.at_deg + 360.0) % 720.0 - 360.0)
    ),
    "tooth": lambda look, q: 720.0 / q.ask["teeth"],
    "centreline": lambda look, q: sum(q.ask["readings_deg"]) / 2.0,
    "advance": lambda look, q: (q.ask["ecl_deg"] - q.ask["icl_deg"]) / 2.0,
    "dots-prove": lambda look, q: abs(q.ask["card_icl_deg"] - q.ask["read_icl_deg"]) <= 1.0,
    "cap": lambda look, q: [
        look.order[(look.order.index(q.ask["first"]) + way * post) % len(look.order)]
        for way in [1 if q.ask["rotor"] == "clockwise" else -1] for post in range(len(look.order))
    ],
    "body": lambda look, q: q.ask["late_deg"] / 2.0,
    "half-post": lambda look, q: 2.0 * 360.0 / q.ask["posts"] / q.ask["part"],
    "total": lambda look, q: q.ask["initial_deg"] + sum(
        np.interp(q.ask[at], *np.transpose(q.ask[part]))
        for part, at in (("weights", "rpm"), ("can", "mbar"))
    ),
}  # fmt: skip


def same(one: Answer, other: Answer, kind: str) -> bool:
    """Whether two answers are one; a place within a tenth or two, a figure within its rounding."""
    if isinstance(one, list | tuple):
        ordered = kind in ("order", "cap")
        return list(one) == list(other) if ordered else sorted(one) == sorted(other)
    if kind == "flat":
        return abs(float(one) - float(other)) < 0.15
    if isinstance(one, float) and isinstance(other, float | int):
        away = (one - other + 360.0) % 720.0 - 360.0 if kind == "turn-to" else one - other
        return abs(away) <= (0.25 if kind == "turn-to" else 0.01)
    return bool(one == other)


def test_every_kind_has_a_second_way() -> None:
    assert set(SECOND) == {drill.slug for drill in DRILLS if not drill.slug.startswith("covered")}


@pytest.mark.parametrize("name", rig_names())
def test_every_official_answer_is_found_a_second_way(name: str) -> None:
    look = Looked(name)
    wrong = []
    for kind, second in SECOND.items():
        drill = DRILL[kind]
        if drill.missing(look.rig):
            continue
        for question in questions([kind], {name: look.engine}, 29, EACH):
            q = Asked(look.rig, question)
            told, again = drill.answer(q), second(look, q)
            alike = (
                judge(look.engine, question, again).is_right
                if kind == "two-stop"
                else (same(told, again, kind))
            )
            if not alike:
                wrong.append((kind, question.ask, question.at_deg, told, again))
    assert not wrong
