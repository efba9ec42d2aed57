"""A careful mechanic, and a careless one: processes of their own that speak to the bench in lines.

    .venv/bin/python tools/mechanic.py FILE.scenario.toml …         work on these, one by one
    .venv/bin/python tools/mechanic.py --seeds 200 [--fault NAME]   make scenarios, work on all

It imports nothing of the program. All it knows is what it asks: the maker's book, and what its
hands, eyes and instruments answer. Prints one JSON line a scenario.
"""

import argparse
import json
import math
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from itertools import pairwise
from pathlib import Path
from typing import Any

PROGRAM = [sys.executable, "-m", "true_compass"]
STEP_DEG = 4.0
ALIKE_DEG = 4.0
RELEASE_PAST_DEG = 60.0
LOOSE_LOBE_PAST_DEG = 480.0
BLADE_STEP_MM = 0.01
Answer = dict[str, Any]


class Line:
    """One covered engine at the other end of a pipe."""

    def __init__(self, path: Path) -> None:
        self._process = subprocess.Popen(
            [*PROGRAM, "bench", str(path), "--stdin"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
            encoding="utf-8",
        )

    def ask(self, do: str, **keys: Any) -> Answer:
        """One action and its answer; a refusal is a mistake of the mechanic."""
        answer = self.try_to(do, **keys)
        if "error" in answer:
            raise RuntimeError(f"{do} {keys}: {answer['error']}")
        return answer

    def try_to(self, do: str, **keys: Any) -> Answer:
        """One action and its answer, which may be a refusal."""
        assert self._process.stdin is not None
        assert self._process.stdout is not None
        self._process.stdin.write(json.dumps({"do": do, **keys}) + "\n")
        self._process.stdin.flush()
        line = self._process.stdout.readline()
        answer: Answer = json.loads(line)
        return answer

    def close(self) -> None:
        """Hang up."""
        assert self._process.stdin is not None
        self._process.stdin.close()
        self._process.wait()
        if self._process.stdout is not None:
            self._process.stdout.close()


class Mechanic:
    """Whoever works on one engine, and what is known of it so far.

    `at_deg` is the crank angle since true compression TDC of the cylinder in hand, once that was
    found; before, since the engine was first touched.
    """

    def __init__(self, line: Line) -> None:
        self.line = line
        self.book = line.ask("manual")
        self.cylinder: int = self.book["cylinder"]
        self.at_deg = 0.0

    def bar(self, by_deg: float) -> None:
        """Turn, and count."""
        self.line.ask("bar", deg=by_deg)
        self.at_deg += by_deg

    def go_on_to(self, place_deg: float) -> None:
        """Turn on to a place in the cycle, at least 30°, so that no slack is left open."""
        way = (place_deg - self.at_deg) % 720.0
        self.bar(way if way >= 30.0 else way + 720.0)

    def tdc_deg(self, cylinder: int) -> float:
        """True compression TDC of a cylinder as the book has it, from where `at_deg` counts."""
        true = self.book["true_tdc_deg"]
        return float(true[cylinder - 1] - true[self.cylinder - 1]) % 720.0

    def nominal_deg(self, cylinder: int) -> float:
        """The same by the nominal phasing."""
        fires = self.book["fires_at_deg"][cylinder - 1]
        return float(fires - self.book["true_tdc_deg"][self.cylinder - 1]) % 720.0

    def dial(self, on: str) -> None:
        """Set the dial up and zero it."""
        self.line.ask("indicator", on=on)
        self.line.ask("zero")

    def read_mm(self, times: int = 1) -> float:
        """The mean of some readings of the dial."""
        return sum(float(self.line.ask("read")["mm"]) for _ in range(times)) / times

    def valves(self) -> list[Answer]:
        """The book's entries of single valves and of valves that move together."""
        return [one for one in self.book["items"] if one["kind"] in KINDS and not one["part"]]


KINDS = ("intake", "exhaust")


def curve(me: Mechanic, reach_deg: float) -> list[tuple[float, float]]:
    """Readings of the dial on the piston at angles around where the crank stands."""
    me.bar(-reach_deg - 10.0)
    me.bar(10.0)
    points = []
    steps = int(2 * reach_deg)
    for _ in range(steps + 1):
        points.append((me.at_deg, me.read_mm(2)))
        me.bar(1.0)
    return points


def mean_at_drop(points: list[tuple[float, float]], drop_mm: float) -> float | None:
    """The middle between the two angles at which the piston stands so far below its top."""
    top = max(mm for _, mm in points)
    peak = next(nth for nth, (_, mm) in enumerate(points) if mm == top)
    level = top - drop_mm
    before = _crossing(points[peak::-1], level)
    after = _crossing(points[peak:], level)
    return None if before is None or after is None else (before + after) / 2


def _crossing(points: list[tuple[float, float]], level: float) -> float | None:
    for (a, high), (b, low) in pairwise(points):
        if high >= level > low:
            return a + (b - a) * (high - level) / (high - low)
    return None


def find_top(me: Mechanic) -> None:
    """Turn until the piston has just begun to fall, by the dial."""
    me.dial(f"piston {me.cylinder}")
    last = me.read_mm()
    rising = False
    for _ in range(80):
        me.bar(5.0)
        now = me.read_mm()
        if rising and now < last:
            me.bar(-5.0)
            return
        rising = rising or now > last + 0.02
        last = now
    raise RuntimeError("no top was found in a whole turn")


def stands_at_tdc(me: Mechanic) -> bool:
    """Whether the engine was found with the piston at its top: it falls to either side."""
    me.dial(f"piston {me.cylinder}")
    me.bar(10.0)
    on = me.read_mm()
    me.bar(-20.0)
    back = me.read_mm()
    me.bar(10.0)
    return on < -0.05 and back < -0.05


def is_compression(me: Mechanic) -> bool:
    """Which TDC this is: the exhaust valve is open on the way up to overlap, shut on the other."""
    name = next(
        one["name"]
        for one in me.valves()
        if one["cylinder"] == me.cylinder and one["kind"] == "exhaust"
    )
    me.line.ask("off", part="indicator")
    me.bar(-150.0)
    me.bar(30.0)
    me.dial(f"valve {name}")
    here = me.read_mm()
    me.bar(120.0)
    # Shut at the TDC of compression: no movement from 120° before. In overlap it has closed.
    moved = abs(me.read_mm() - here)
    me.line.ask("off", part="indicator")
    return moved < 0.3 * float(me.book["exhaust_lift_mm"])


def find_tdc(me: Mechanic) -> list[str]:
    """True TDC by two readings at two depths; from then on `at_deg` counts from it."""
    found = []
    at_first = stands_at_tdc(me)
    if not at_first:
        find_top(me)
    points = curve(me, 34.0)
    shallow, deep = mean_at_drop(points, 0.3), mean_at_drop(points, 2.0)
    assert shallow is not None
    assert deep is not None
    slanted = abs(shallow - deep) > 0.2
    # A probe at a slant is trusted the less the nearer to the top it is read: then the mark.
    me.at_deg -= deep if slanted else mean_at_drop(points, 0.8) or shallow
    me.bar(-me.at_deg - 30.0)
    me.bar(30.0)
    compression = is_compression(me)
    if not compression:
        me.at_deg += 360.0
    if slanted:
        found.append("probe-slanted")
    elif at_first and not compression:
        found.append("other-tdc")
    return found


def seen_marks(me: Mechanic) -> list[tuple[str, str, float]]:
    """Every line that passes a pointer in one turn: where, stamp, and its crank angle."""
    per_mm = 360.0 / (math.pi * me.book["damper_mm"])
    sums: dict[tuple[str, str], list[float]] = {}
    me.bar(10.0)
    for _ in range(int(364 / STEP_DEG)):
        for one in me.line.ask("look", at="marks")["in_sight"]:
            key = (one["where"], f"{one['colour']} {one['stamped']}".strip())
            sums.setdefault(key, []).append(me.at_deg - one["mm"] * per_mm)
        me.bar(STEP_DEG)
    return [(*key, mean % 360.0) for key, angles in sums.items() for mean in _clusters(angles)]


def _clusters(angles: list[float]) -> Iterator[float]:
    """The means of angles that lie close together on the circle of one turn."""
    groups: list[list[float]] = []
    for angle in angles:
        near = next((g for g in groups if abs(_apart(angle, g[0])) < ALIKE_DEG), None)
        if near is None:
            groups.append([angle])
        else:
            near.append(near[0] + _apart(angle, near[0]))
    for group in groups:
        yield sum(group) / len(group)


def _apart(one: float, other: float) -> float:
    return (one - other + 180.0) % 360.0 - 180.0


def check_marks(me: Mechanic) -> list[str]:
    """The marks against true TDC."""
    zero = float(me.book["true_tdc_deg"][me.cylinder - 1])
    seen = [(where, stamp, (at + zero) % 360.0) for where, stamp, at in seen_marks(me)]
    for told in me.book["marks"]:
        stamp = f"{told['colour']} {told['stamped']}".strip()
        alike = [at for where, name, at in seen if (where, name) == (told["where"], stamp)]
        off = [_apart(at, told["at_deg"]) for at in alike]
        if len(alike) > 1:
            return ["two-marks"]
        if not alike:
            strange = [name for where, name, _ in seen if where == told["where"]]
            return ["firing-mark"] if "F" in strange else []
        if told["where"] == "flywheel" and abs(off[0]) > 20.0:
            return ["flywheel-pair"]
        if abs(off[0]) > 1.5:
            return ["damper-crept"]
    return []


def check_spark(me: Mechanic) -> list[str]:
    """Leads by the order, then where the rotor points while it turns in its running direction."""
    if not me.book["rotor"]:
        return []
    order = me.book["firing_order"]
    right = order if me.book["rotor_turns"] == "clockwise" else [order[0], *order[:0:-1]]
    cap = me.line.ask("look", at="cap")
    leads = cap["leads_clockwise"]
    if leads != right:
        backwards = [right[0], *right[:0:-1]]
        return ["leads-reversed" if leads == backwards else "leads-swapped"]
    if cap["side_by_side"]:
        return ["leads-cross"]
    me.go_on_to(me.nominal_deg(1))
    at_post = []
    for _ in range(int(720 / STEP_DEG)):
        if me.line.ask("look", at="rotor")["post"] == 1:
            at_post.append((me.at_deg - me.nominal_deg(1)) / 2)
        me.bar(STEP_DEG)
    middle = at_post[0] + sum(_apart(one, at_post[0]) for one in at_post) / len(at_post)
    off = abs(_apart(middle, 0.0))
    if off > 175.0:
        return ["rotor-one-turn"]
    return ["rotor-teeth"] if off > 8.0 else []


def check_dots(me: Mechanic) -> list[str]:
    """The dots where the book says that they meet."""
    me.go_on_to(me.nominal_deg(me.book["dots_fire"]))
    dots = me.line.ask("look", at="cam marks")["dots"]
    if dots == "miss":
        return ["cam-one-tooth"]
    return ["dots-companion"] if dots == "apart" else []


def look_over(me: Mechanic) -> list[str]:
    """What shows on the rockers and inside the covers."""
    if me.line.ask("look", at="cover")["bright_spots"]:
        return ["cover-struck"]
    rows = me.line.ask("look", at="rockers")["items"]
    if any(row["stands"] == "higher" for row in rows):
        return ["stems-unequal"]
    if any(row["bears"] != "middle" for row in rows):
        return ["rod-length"]
    return []


def free_deg(me: Mechanic, item: Answer) -> float:
    """A place where an item is on its heel: compression TDC, or past it."""
    tdc = me.tdc_deg(item["cylinder"])
    if item["kind"] in ("injector", "brake"):
        return tdc + LOOSE_LOBE_PAST_DEG
    return tdc + (RELEASE_PAST_DEG if me.book["release_closes_deg"] is not None else 0.0)


def gap_mm(me: Mechanic, name: str) -> float:
    """The largest blade that goes with a light drag or looser, by halving."""
    low, high = 0.02, 3.0
    while high - low > BLADE_STEP_MM:
        middle = round((low + high) / 2, 3)
        feel = me.line.ask("feeler", item=name, blade_mm=middle)["feel"]
        low, high = (middle, high) if feel in ("loose", "light drag") else (low, middle)
    return low


def feel_round(me: Mechanic) -> list[str]:
    """Lift, spin, wiggle and measure every item on its heel."""
    wide = []
    items = sorted(me.book["items"], key=lambda item: free_deg(me, item) % 720.0)
    for item in items:
        place = free_deg(me, item) % 720.0
        if abs((me.at_deg - place + 360.0) % 720.0 - 360.0) > 1.0:
            me.go_on_to(place)
        found, out = feel_one(me, item)
        if found:
            return [found]
        if out:
            wide.append(item)
    return _why_out(me, wide)


def feel_one(me: Mechanic, item: Answer) -> tuple[str, bool]:
    """A fault that one item shows by feel, and whether it is out of its band."""
    name, way = item["name"], item["way"]
    low, high = item["band_mm"]
    is_valve = item["kind"] in KINDS and not item["part"]
    if me.line.ask("lift", item=name)["lift"] == "binds":
        return "rocker-tight", False
    if is_valve and me.book["valve_train"] == "push-rod":
        spun = me.line.ask("spin", item=name)
        if spun["runs"] == "wobbles":
            return "rod-bent", False
        if way == "plunger" and spun["spin"] == "will not spin":
            return "plunger-bottomed", True
    if way == "plunger":
        return (
            "lifter-collapsed" if me.line.ask("lift", item=name)["lift"] == "springy" else "",
            False,
        )
    if way == "bridge":
        return "", me.line.ask("bridge", item=name)["feel"] != "level"
    if way == "height":
        return "", me.line.ask("height", item=name)["feel"] != "just touches"
    if way == "gap":
        return "", not low - 0.03 <= gap_mm(me, name) <= high + 0.03
    return "", False


def _why_out(me: Mechanic, wide: list[Answer]) -> list[str]:
    """Why items are out of their band: a nut that does not hold, or both companions set wide."""
    if len({item["cylinder"] for item in wide}) == 2 and len(wide) > 2:
        return ["lash-wide-companions"]
    for item in wide:
        me.go_on_to(free_deg(me, item) % 720.0)
        if me.line.ask("slacken", item=item["name"])["nut"] == "loose":
            return ["locknut-creeps"]
    return ["lash-wide-companions"] if wide else []


def lift_curve(me: Mechanic, item: Answer, step_deg: float = 10.0) -> list[tuple[float, float]]:
    """Lift of a valve by the dial over one cycle: degrees past its compression TDC, and mm."""
    start = me.tdc_deg(item["cylinder"]) + (20.0 if item["kind"] == "intake" else 400.0)
    me.go_on_to(start % 720.0)
    me.dial(f"valve {item['name']}")
    points = []
    for nth in range(int(690.0 / step_deg)):
        points.append((start + nth * step_deg - me.tdc_deg(item["cylinder"]), me.read_mm()))
        me.bar(step_deg)
    me.line.ask("off", part="indicator")
    return points


def check_lifts(me: Mechanic) -> list[str]:
    """Every valve's lift by the dial: how high, when, and what the release does."""
    noses = {}
    for item in me.valves():
        points = lift_curve(me, item)
        peak = max(mm for _, mm in points)
        if peak < 0.87 * me.book[f"{item['kind']}_lift_mm"]:
            return ["lobe-worn"]
        if item["cylinder"] == me.cylinder:
            middles = [at % 720.0 for at, mm in points if mm > 0.9 * peak]
            noses[item["kind"]] = sum(middles) / len(middles)
            if item["kind"] == "exhaust" and me.book["release_closes_deg"] is not None:
                late = [mm for at, mm in points if 695.0 <= at % 720.0 <= 705.0]
                if max(late) > 0.1:
                    return ["compression-release"]
    moved = {kind: noses[kind] - me.book["noses_deg"][kind] for kind in noses}
    if moved.get("intake", 0.0) > 10.0 and moved.get("exhaust", 0.0) < -10.0:
        return ["overlap-small"]
    return []


def gauged(me: Mechanic, cylinder: int, *, oil: bool) -> float:
    """The mean of some readings of the gauge: each ends on another step."""
    reads = [me.line.ask("bump", gauge=cylinder, oil=oil)["kpa"] for _ in range(5)]
    return float(sum(reads)) / len(reads)


def check_gas(me: Mechanic) -> list[str]:
    """Every cylinder by the gauge, and the low one with oil. After this the place is lost."""
    me.line.ask("off", part="coil")
    sound = me.book["compression_kpa"]
    for cylinder in range(1, me.book["cylinders"] + 1):
        dry = me.line.ask("bump", gauge=cylinder)["kpa"]
        # A release lets most of it go: what is left of a leak is a smaller share.
        if dry > (0.87 if sound > 300.0 else 0.93) * sound:
            continue
        if dry < 0.05 * sound:
            return ["plunger-bottomed"]
        dry = gauged(me, cylinder, oil=False)
        return ["rings-leak" if gauged(me, cylinder, oil=True) > 1.03 * dry else "valve-leaks"]
    return []


def check_lamp(me: Mechanic) -> list[str]:
    """Everything back on; the mark under the lamp against the book, hose off and on."""
    if me.book["advance"] is None:
        return []
    told = me.line.try_to("lamp")
    while "error" in told:
        head, _, parts = told["error"].rstrip(".").partition(": ")
        if head == "Put back first":
            for part in parts.split(", "):
                me.line.ask("on", part=part)
        elif head == "Take off first":
            me.line.ask("off", part=parts.removeprefix("the "))
        elif told["error"].endswith("put it on first."):
            me.line.ask("on", part="coil")
        else:
            return []
        told = me.line.try_to("lamp")
    rows = zip(me.book["advance"], told["readings"], strict=True)
    short = {(row["hose"], row["rpm"]): row["mark_deg"] - read["mark_deg"] for row, read in rows}
    slow = short[me.book["advance"][0]["hose"], me.book["advance"][0]["rpm"]]
    full = [by for (hose, rpm), by in short.items() if hose == "off"][-1]
    pulled = [by for (hose, _), by in short.items() if hose == "on"]
    if abs(slow) < 3.0 and full > 3.0:
        return ["weights-stuck"]
    return ["can-unplugged"] if pulled and abs(full) < 3.0 and pulled[0] > 3.0 else []


CHECKS: tuple[Callable[[Mechanic], list[str]], ...] = (
    find_tdc,
    look_over,
    check_marks,
    check_spark,
    check_dots,
    feel_round,
    check_lifts,
    check_gas,
    check_lamp,
)


def find_fault(me: Mechanic) -> str:
    """The first fault that a check shows; empty where none does."""
    for check in CHECKS:
        found = check(me)
        if found:
            return found[0]
    return ""


def set_gap(me: Mechanic, item: Answer) -> None:
    """Set one gap on its heel: slacken, screw, hold, tighten, measure again."""
    name, per_turn = item["name"], item["per_turn_mm"]
    me.go_on_to(free_deg(me, item) % 720.0)
    aim = sum(item["band_mm"]) / 2
    if item["adjuster"] == "shim":
        now = me.line.ask("shim", item=name)["mm"]
        new = now + item["shim_per_gap"] * (gap_mm(me, name) - aim)
        me.line.ask("shim", item=name, mm=round(round(new / 0.05) * 0.05, 2))
    if not per_turn:
        return
    for _ in range(6):
        off = gap_mm(me, name) - aim
        if abs(off) < 0.015:
            break
        me.line.ask("slacken", item=name)
        me.line.ask("screw", item=name, deg=off / per_turn * 360.0)
        me.line.ask("tighten", item=name, hold=True)


def set_preload(me: Mechanic, item: Answer) -> None:
    """Set one plunger: out to play, in to zero, then the middle of the window."""
    name, per_turn = item["name"], item["per_turn_mm"]
    if not per_turn:
        return
    me.go_on_to(free_deg(me, item) % 720.0)
    if item["adjuster"] == "pedestal":
        set_by_rod(me, item)
        return
    me.line.ask("slacken", item=name)
    while me.line.ask("wiggle", item=name)["play"] != "loose":
        me.line.ask("screw", item=name, deg=-20.0)
    while me.line.ask("lift", item=name)["lift"] == "moves":
        me.line.ask("screw", item=name, deg=2.0)
    me.line.ask("screw", item=name, deg=sum(item["band_mm"]) / 2 / per_turn * 360.0)
    me.line.ask("wait")
    me.line.ask("tighten", item=name, hold=True)


def set_by_rod(me: Mechanic, item: Answer) -> None:
    """A pedestal's bolt goes down to its seat: count the way, and fit a rod that makes it right."""
    name, per_turn = item["name"], item["per_turn_mm"]
    counted_deg = 0.0
    while me.line.ask("wiggle", item=name)["play"] != "loose":
        counted_deg -= me.line.ask("screw", item=name, deg=-10.0)["turned_deg"]
    while me.line.ask("lift", item=name)["lift"] == "moves":
        counted_deg -= me.line.ask("screw", item=name, deg=2.0)["turned_deg"]
    pushed = counted_deg / 360.0 * per_turn
    me.line.ask("rod", item=name, mm=round(sum(item["band_mm"]) / 2 - pushed, 2))
    me.line.ask("screw", item=name, deg=counted_deg)
    me.line.ask("wait")


SETTABLE = ("lash-wide-companions", "rod-bent", "plunger-bottomed")


def set_right(me: Mechanic, fault: str) -> None:
    """Set what a fault left out of its band, as far as a screw can."""
    if fault not in SETTABLE:
        return
    if fault == "plunger-bottomed" and me.book["valve_train"] != "push-rod":
        return
    for item in me.book["items"]:
        if item["way"] == "plunger" and fault == "plunger-bottomed":
            me.go_on_to(free_deg(me, item) % 720.0)
            if me.line.ask("spin", item=item["name"])["spin"] == "will not spin":
                set_preload(me, item)
        elif item["way"] == "gap":
            me.go_on_to(free_deg(me, item) % 720.0)
            low, high = item["band_mm"]
            if not low <= gap_mm(me, item["name"]) <= high:
                set_gap(me, item)


def work_carefully(path: Path) -> Answer:
    """Find the fault of a scenario, set what can be set, and hear the verdict."""
    line = Line(path)
    try:
        me = Mechanic(line)
        fault = find_fault(me)
        set_right(me, fault)
        if fault:
            line.ask("declare", fault=[fault])
        verdict = line.ask("finish")
    finally:
        line.close()
    return {"named": fault, **verdict}


def work_carelessly(path: Path) -> Answer:
    """The table by heart, at the first mark that comes by: it is at zero, so it fires.

    Whatever is tight there was set too tight by somebody, and is slackened till the blade goes.
    """
    line = Line(path)
    try:
        book = line.ask("manual")
        for _ in range(800):
            seen = line.ask("look", at="marks")["in_sight"]
            if any(one["at"] == "in line" and one["where"] != "flywheel" for one in seen):
                break
            line.ask("bar", deg=1.0)
        line.ask("declare", cylinder=1, tdc="compression")
        for item in book["items"]:
            if item["cylinder"] != 1 or item["way"] != "gap" or item["part"]:
                continue
            low, _ = item["band_mm"]
            line.try_to("slacken", item=item["name"])
            for _ in range(400):
                feel = line.try_to("feeler", item=item["name"], blade_mm=max(low, 0.05)).get("feel")
                if feel in ("loose", "light drag", None):
                    break
                line.try_to("screw", item=item["name"], deg=-10.0)
            line.try_to("tighten", item=item["name"])
        return line.ask("finish")
    finally:
        line.close()


def made(fault: str, rig: str, seed: int, folder: Path) -> Path:
    """A scenario made by the program's own command."""
    path = folder / f"{fault}-{rig}-{seed}.scenario.toml"
    words = ["scenario", "new", "--engine", rig, "--fault", fault, "--seed", str(seed)]
    subprocess.run(
        [*PROGRAM, *words, "--task", "fault", "-o", str(path)], check=True, capture_output=True
    )
    return path


def campaign(seeds: int, only: str | None, jobs: int) -> int:
    """Every fault on every rig that can carry it, over at least so many seeds a fault."""
    told = subprocess.run(
        [*PROGRAM, "scenario", "faults", "--json"], check=True, capture_output=True, text=True
    )
    missed = 0
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(jobs) as pool:
        for fault in json.loads(told.stdout)["faults"]:
            if only and fault["name"] != only:
                continue
            rigs = fault["layouts"]
            each = [(rigs[nth % len(rigs)], nth + 1) for nth in range(max(seeds, len(rigs)))]

            def one(case: tuple[str, int], slug: str = fault["name"]) -> tuple[str, int, Answer]:
                path = made(slug, *case, Path(folder))
                try:
                    return (*case, work_carefully(path))
                except (RuntimeError, ValueError) as error:
                    return (*case, {"named": f"gave up: {error}", "items": []})

            wrong = []
            for rig, seed, verdict in pool.map(one, each):
                if not verdict.get("passed"):
                    wrong.append(f"{rig} {seed}: {verdict['named']}")
            missed += len(wrong)
            print(f"{fault['name']}: {len(each) - len(wrong)} of {len(each)} found", flush=True)
            for line in wrong[:12]:
                print(f"    {line}", flush=True)
    return missed


def main() -> int:
    """Run the command line; the exit code."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("files", nargs="*", type=Path, help="scenario files")
    parser.add_argument("--careless", action="store_true", help="work as nobody should")
    parser.add_argument("--seeds", type=int, default=0, help="make so many scenarios a fault")
    parser.add_argument("--fault", help="only this one")
    parser.add_argument("--jobs", type=int, default=2, help="engines at a time")
    options = parser.parse_args()
    if options.seeds:
        return 1 if campaign(options.seeds, options.fault, options.jobs) else 0
    work = work_carelessly if options.careless else work_carefully
    for path in options.files:
        print(json.dumps({"file": path.name, **work(path)}, ensure_ascii=False), flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
