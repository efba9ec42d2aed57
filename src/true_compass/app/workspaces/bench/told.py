"""Readings in words: what each action answered, as cards show it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Final

from true_compass.core.units import GapUnit, gap_in, gap_short
from true_compass.session.bench import OnBench, Reading

Answer = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Told:
    """A reading in words: tag, what it was of, the answer large, and how fine it is."""

    letter: str
    of: str
    answer: str
    fine: str


def told(reading: Reading, unit: GapUnit) -> Told:
    """A reading as a card shows it; blades in the unit of the engine's own."""
    action, answer = reading.action, reading.answer
    if action["do"] in _BLADES:
        return _BLADES[action["do"]](action, answer, unit)
    return _TOLD.get(action["do"], _other)(action, answer)


@dataclass(frozen=True, slots=True)
class Card:
    """A card: what it says, whether it is live, and the readings that are drawn on it."""

    told: Told
    live: bool
    drawn: tuple[Reading, ...] = ()


def cards(bench: OnBench, hides: Callable[[str], bool]) -> list[Card]:
    """Readings as cards, newest first.

    Both rockers of a cylinder, felt at one place, are one card: that is the sign.
    """
    found: list[Card] = []
    joined: set[int] = set()
    for nth, reading in enumerate(bench.readings):
        if nth in joined:
            continue
        one = told(reading, bench.run.work.engine.gap_unit)
        if hides(reading.action["do"]):
            found.append(Card(Told(one.letter, one.of, "Ask the other", "their reading"), False))
            continue
        pair = _pair_of(bench, nth)
        together = tuple(bench.readings[at] for at in sorted((nth, *pair), reverse=True))
        if pair:
            joined |= set(pair)
            one = _both(bench, list(together))
        found.append(Card(one, bench.is_live(reading), together))
    return found


def _pair_of(bench: OnBench, nth: int) -> list[int]:
    """Later places of rocker readings of the same cylinder, taken where this one was."""
    reading = bench.readings[nth]
    if reading.action["do"] != "wiggle":
        return []
    work = bench.run.work
    cylinder = work.settings[work.place[reading.action["item"]]].item.cylinder
    return [
        at
        for at, other in enumerate(bench.readings)
        if at > nth
        and other.action["do"] == "wiggle"
        and other.crank_deg == reading.crank_deg
        and work.settings[work.place[other.action["item"]]].item.cylinder == cylinder
    ]


def _both(bench: OnBench, readings: list[Reading]) -> Told:
    work = bench.run.work
    cylinder = work.settings[work.place[readings[0].action["item"]]].item.cylinder
    plays = {str(reading.answer["play"]) for reading in readings}
    answer = ", ".join(f"{r.action['item']} {r.answer['play']}" for r in readings)
    fine = "not both loose: find out why" if len(readings) == 2 else "not all loose: find out why"
    if len(plays) == 1:
        play = plays.pop()
        answer = f"Both {play}" if len(readings) == 2 else f"All {play}"
        fine = "all click up and down" if play == "loose" else fine
    return Told("R", f"Rockers of {cylinder}", answer, fine)


def _other(action: Answer, answer: Answer) -> Told:
    shown = ", ".join(f"{key} {value}" for key, value in answer.items() if key != "ok")
    return Told("", str(action["do"]).capitalize(), shown or "done", "")


def _thumb(action: Answer, answer: Answer) -> Told:
    said = "Pushed off" if answer["push"] else "No push"
    way = "on" if action["deg"] > 0 else "back"
    return Told("T", f"Thumb on hole {action['cylinder']}", said, f"while turning {way}")


def _wiggle(action: Answer, answer: Answer) -> Told:
    fine = {"loose": "clicks up and down", "just free": "a breath of play", "tight": "no click"}
    return Told("R", f"Rocker {action['item']}", answer["play"].capitalize(), fine[answer["play"]])


def _spin(action: Answer, answer: Answer) -> Told:
    runs = "runs true" if answer["runs"] == "true" else "it wobbles"
    return Told("N", f"Push rod of {action['item']}", answer["spin"].capitalize(), runs)


def _pair(action: Answer, answer: Answer, unit: GapUnit) -> Told:
    goes, does_not = action["go_mm"], action["no_go_mm"]
    of = f"{gap_short(goes, unit)} and {gap_in(does_not, unit)} in {action['item']}"
    said = "Good" if answer["good"] else "Not good"
    return Told("F", of, said, f"{answer['go']}; {answer['no_go']}")


def _lift(action: Answer, answer: Answer) -> Told:
    return Told("U", f"Lifted by hand: {action['item']}", answer["lift"].capitalize(), "")


def _line(action: Answer, answer: Answer) -> Told:
    return Told("L", f"Line in hole {action['cylinder']}", f"{answer['mm']:.1f} mm", "to 0.5 mm")


def _wheel(_action: Answer, answer: Answer) -> Told:
    return Told("G", "Wheel at its pointer", f"{answer['deg']:g}°", "to a quarter of a degree")


def _read(_action: Answer, answer: Answer) -> Told:
    mm, thou = (f"{answer[key]:+.{n}f}".replace("-", "−") for key, n in (("mm", 2), ("thou", 1)))
    return Told("A", "Dial", f"{mm} mm", f"{thou} thou; more is pressed in")


def _feeler(action: Answer, answer: Answer, unit: GapUnit) -> Told:
    blade = f"{gap_in(action['blade_mm'], unit)} in {action['item']}"
    return Told("F", f"Blade {blade}", answer["feel"].capitalize(), "a light drag is the gap")


def _rock(_action: Answer, answer: Answer) -> Told:
    moving = ", ".join(answer["moving"]) or "none"
    return Told("", "Rocked 5° on, 5° back", moving, "valves seen to move")


def _bump(action: Answer, answer: Answer) -> Told:
    if answer["broke"]:
        return Told("", "Starter", f"Broke {answer['broke']}", "out of the way before it is bumped")
    kpa = "–" if answer["kpa"] is None else f"{answer['kpa'] / 100:.1f} bar"
    gauge = action.get("gauge")
    return Told("", f"Gauge in hole {gauge}" if gauge else "Starter bumped", kpa, "over the air")


def _look(action: Answer, answer: Answer) -> Told:
    at = action["at"]
    if at == "marks":
        lines = [f"{one['stamped'] or one['where']} {one['at']}" for one in answer["in_sight"]]
        wheres = sorted({one["where"] for one in answer["in_sight"]})
        return Told(
            "M",
            "Marks at the pointer",
            "; ".join(lines) or "None in sight",
            f"on the {', '.join(wheres)}" if wheres else "within 15° of the pointer",
        )
    if at == "rotor":
        said = (
            f"At post {answer['post']}"
            if answer["post"]
            else "Between " + " and ".join(map(str, answer["between"]))
        )
        turns = f"it turned {answer['turns']}" if answer["turns"] else "from above, by eye"
        return Told("M", "Rotor", said, turns)
    if at == "cam marks":
        return Told("M", "Dots on the gears", answer["dots"].capitalize(), "by eye, in teeth")
    if at == "cap":
        beside = answer.get("side_by_side") or ()
        together = " and ".join(map(str, beside))
        return Told(
            "M",
            "Leads, clockwise",
            "-".join(map(str, answer["leads_clockwise"])),
            f"{together} lie side by side" if beside else "from the notch, seen from above",
        )
    if at == "cover":
        spots = ", ".join(answer["bright_spots"])
        return Told("M", "Inside the cover", spots or "Clean", "bright spots")
    down = [one["name"] for one in answer["items"] if one["down"]]
    return Told("M", "Rockers", f"Down: {', '.join(down) or 'none'}", "seen from the side")


def _height(action: Answer, answer: Answer) -> Told:
    return Told("", f"Height tool: {action['item']}", answer["feel"].capitalize(), "")


def _bridge(action: Answer, answer: Answer) -> Told:
    return Told(
        "", f"{action['item']} pressed", answer["feel"].capitalize(), "over its fixed valve"
    )


def _run(_action: Answer, answer: Answer) -> Told:
    sounds = "; ".join(answer["sounds"]) or "sounds even"
    return Told("", "Test run", f"Starts: {answer['starts']}", f"pulls {answer['pulls']}; {sounds}")


def _lamp(_action: Answer, answer: Answer) -> Told:
    rows = [
        f"{one['rpm']:,.0f} rpm, hose {one['hose']}: {one['mark_deg']:g}° of {one['book_deg']:.0f}°"
        for one in answer["readings"]
    ]
    return Told("", "Timing lamp", "; ".join(rows), "by the mark, of what the book says")


def _shim(action: Answer, answer: Answer) -> Told:
    return Told("", f"Shim of {action['item']}", f"{answer['mm']:.2f} mm", "by micrometer")


_BLADES: Final = {"feeler": _feeler, "go-no-go": _pair}
_TOLD: Final = {
    "thumb": _thumb,
    "wiggle": _wiggle,
    "spin": _spin,
    "lift": _lift,
    "line": _line,
    "wheel": _wheel,
    "read": _read,
    "rock": _rock,
    "bump": _bump,
    "look": _look,
    "height": _height,
    "bridge": _bridge,
    "test run": _run,
    "lamp": _lamp,
    "shim": _shim,
}
