"""Every action of the bench: its word, its keys with their limits, and the hand that does it.

`do` is the one way in, for the window, a log and the command line alike. What is unknown or cannot
be done raises `RefusedError` with one sentence, and nothing has changed.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Final

from true_compass.bench.covered import Covered
from true_compass.bench.hands import instruments, looking, starting, telling, turning, valves
from true_compass.bench.state import BenchState, RefusedError

Answer = dict[str, Any]
Hand = Callable[[Covered, BenchState, Answer], tuple[BenchState, Answer]]
MOST_WORDS: Final = 200


@dataclass(frozen=True, slots=True)
class Key:
    """One key of an action: what it may hold. `words` are the only ones allowed, if any."""

    kind: type | tuple[type, ...]
    least: float = -math.inf
    most: float = math.inf
    needed: bool = True
    words: tuple[str, ...] = ()

    def takes(self, value: float) -> bool:
        """Whether a number lies within the limits; a truth value always does."""
        return isinstance(value, bool) or (
            self.least <= value <= self.most and math.isfinite(value)
        )


@dataclass(frozen=True, slots=True)
class Action:
    """An action of the bench."""

    hand: Hand
    about: str
    keys: dict[str, Key]


DEG: Final = Key((int, float), -7200.0, 7200.0)
CYLINDER: Final = Key(int, 1, 18)
ITEM: Final = Key(str)
BLADE: Final = Key((int, float), 0.02, 5.0)
WORDS: Final = Key(str, needed=False)

ACTIONS: Final[dict[str, Action]] = {
    "manual": Action(looking.manual, "what the maker's book says", {}),
    "bar": Action(turning.bar, "bar the crank", {"deg": DEG}),
    "touch": Action(turning.touch, "turn gently until the stop is felt", {"deg": DEG}),
    "rock": Action(
        turning.rock,
        "rock the crank about where it stands",
        {"deg": Key((int, float), 0.1, turning.MOST_ROCK_DEG)},
    ),
    "bump": Action(
        turning.bump,
        "bump the starter, with a gauge in a hole if one is named",
        {"gauge": Key(int, 1, 18, needed=False), "oil": Key(bool, needed=False)},
    ),
    "thumb": Action(
        turning.thumb, "bar with the thumb on a hole", {"cylinder": CYLINDER, "deg": DEG}
    ),
    "chalk": Action(instruments.chalk, "chalk the damper: the count starts again", {}),
    "on": Action(instruments.put_on, "fit a part", {"part": Key(str)}),
    "off": Action(instruments.take_off, "take a part or a tool off", {"part": Key(str)}),
    "line": Action(
        instruments.line, "soft line into a hole, and its height", {"cylinder": CYLINDER}
    ),
    "stop": Action(
        instruments.stop,
        "positive stop into a hole, so deep below the top of the stroke",
        {"cylinder": CYLINDER, "depth_mm": Key((int, float), *instruments.STOP_MM)},
    ),
    "wheel": Action(instruments.wheel, "read the degree wheel", {}),
    "pointer": Action(
        instruments.pointer,
        "bend the pointer so that the wheel reads this now",
        {"deg": Key((int, float), -360.0, 360.0)},
    ),
    "indicator": Action(instruments.indicator, "set the dial up", {"on": Key(str)}),
    "zero": Action(instruments.zero, "turn the dial's face to zero", {}),
    "read": Action(instruments.read, "read the dial", {}),
    "wiggle": Action(valves.wiggle, "wiggle a rocker", {"item": ITEM}),
    "lift": Action(valves.lift, "lift a rod or a rocker's nose", {"item": ITEM}),
    "spin": Action(valves.spin, "spin a push rod", {"item": ITEM}),
    "feeler": Action(valves.feeler, "try a blade", {"item": ITEM, "blade_mm": BLADE}),
    "go-no-go": Action(
        valves.go_no_go,
        "try a pair of blades",
        {"item": ITEM, "go_mm": BLADE, "no_go_mm": BLADE},
    ),
    "slacken": Action(valves.slacken, "slacken a locknut", {"item": ITEM}),
    "screw": Action(
        valves.screw,
        "turn an adjuster, minus towards more gap",
        {"item": ITEM, "deg": Key((int, float), -7200.0, 7200.0)},
    ),
    "tighten": Action(
        valves.tighten, "tighten a locknut", {"item": ITEM, "hold": Key(bool, needed=False)}
    ),
    "torque": Action(
        valves.torque,
        "torque wrench on a nut, or on the head's bolts",
        {
            "item": Key(str, needed=False),
            "nm": Key((int, float), 1.0, 1000.0, needed=False),
            "part": Key(str, needed=False, words=("head",)),
        },
    ),
    "bridge": Action(valves.bridge, "press a bridge", {"item": ITEM}),
    "height": Action(valves.height, "swing the height tool over an injector", {"item": ITEM}),
    "shim": Action(
        valves.shim,
        "measure a shim, fit one of the box, or change two about",
        {
            "item": ITEM,
            "mm": Key((int, float), 0.0, 20.0, needed=False),
            "with": Key(str, needed=False),
        },
    ),
    "rod": Action(
        valves.rod,
        "fit a straight push rod, longer by so much",
        {"item": ITEM, "mm": Key((int, float), -10.0, 10.0)},
    ),
    "stripe": Action(valves.stripe, "paint a stripe across nut and screw", {"item": ITEM}),
    "look": Action(looking.look, "look", {"at": Key(str, words=looking.PLACES)}),
    "declare": Action(
        telling.declare,
        "say one thing that is judged",
        {
            "cylinder": Key(int, 1, 18, needed=False),
            "tdc": Key(str, needed=False),
            "evidence": Key((str, list), needed=False),
            "mark_error_deg": Key((int, float), -180.0, 180.0, needed=False),
            "order": Key((str, list), needed=False),
            "rotor": Key(str, needed=False),
            "fault": Key((str, list), needed=False),
        },
    ),
    "foretell": Action(
        telling.foretell,
        "say what the next look will tell",
        {
            "next": Key(str),
            "says": Key(str),
            "item": WORDS,
            "at": WORDS,
            "cylinder": Key(int, 1, 18, needed=False),
        },
    ),
    "record": Action(
        telling.record,
        "write down which blade goes and which does not",
        {
            "item": ITEM,
            "as": Key(str, needed=False, words=("found", "left", "second")),
            "goes_mm": Key((int, float), 0.0, 50.0, needed=False),
            "not_mm": Key((int, float), 0.0, 50.0, needed=False),
        },
    ),
    "second look": Action(telling.second_look, "three items to measure again, blind", {}),
    "hint": Action(telling.hint, "a hint: where to look, what it means, do it for me", {}),
    "wait": Action(telling.wait, "wait until plungers have settled", {}),
    "hand over": Action(
        telling.hand_over,
        "the other person takes over",
        {"role": Key(str, words=("turns", "feels"))},
    ),
    "test run": Action(starting.trial_run, "start it and listen", {}),
    "lamp": Action(starting.timing_lamp, "the timing lamp: idle, full speed, hose on", {}),
    "finish": Action(telling.finish, "it is done: judge it", {}),
}
MOST_ACTIONS: Final = 100_000


def do(work: Covered, state: BenchState, action: object) -> tuple[BenchState, Answer]:
    """Do one action; the state after it and what it answers. Raises `RefusedError`.

    `finish` answers nothing here: the verdict is judged from the state.
    """
    checked, found = _checked(work, action)
    if state.finished:
        raise RefusedError("The work is finished: start again with the same engine.")
    if state.done >= MOST_ACTIONS:
        raise RefusedError(f"That is more than {MOST_ACTIONS:,} actions: finish, or start again.")
    after, answer = found.hand(work, state, checked)
    kept_level = after.hint_level if checked["do"] == "hint" else 0
    after = after._replace(done=state.done + 1, hint_level=kept_level)
    return after, {"ok": True, **answer}


def _checked(work: Covered, action: object) -> tuple[Answer, Action]:
    """An action with its keys checked; empty ones left out. Raises `RefusedError`."""
    if not isinstance(action, dict):
        raise RefusedError('An action is one object, such as {"do":"bar","deg":30}.')
    word = action.get("do")
    if word is None and "action" in action:
        raise RefusedError('The key is "do", not "action": {"do":"bar","deg":30}.')
    found = ACTIONS.get(word) if isinstance(word, str) else None
    if found is None:
        raise RefusedError(f"There is no action {str(word)[:30]!r}: {', '.join(ACTIONS)}.")
    given = {
        key: value for key, value in action.items() if key != "t_s" and value not in (None, "", [])
    }
    for key in given:
        if key != "do" and key not in found.keys:
            told = ", ".join(found.keys) or "none"
            raise RefusedError(f"{word} has no key {str(key)[:30]!r}; its keys: {told}.")
    for key, rule in found.keys.items():
        if key not in given:
            if rule.needed:
                raise RefusedError(f"{word} needs {key}.")
            continue
        _check(str(word), key, given[key], rule)
    if isinstance(given.get("cylinder"), int) and given["cylinder"] > work.engine.cylinder_count:
        raise RefusedError(f"cylinder must be 1 to {work.engine.cylinder_count} here.")
    if isinstance(given.get("gauge"), int) and given["gauge"] > work.engine.cylinder_count:
        raise RefusedError(f"gauge must be 1 to {work.engine.cylinder_count} here.")
    return given, found


def _check(word: str, key: str, value: object, rule: Key) -> None:
    kinds = rule.kind if isinstance(rule.kind, tuple) else (rule.kind,)
    if (isinstance(value, bool) and bool not in kinds) or not isinstance(value, kinds):
        raise RefusedError(f"{key} of {word} must be {_KIND_WORDS[kinds]}.")
    if isinstance(value, int | float) and not rule.takes(value):
        unit = _UNITS.get(key.rpartition("_")[2], "")
        shown = f"{value:g}" if abs(value) < 1e300 else "that"
        raise RefusedError(
            f"{key} of {word} must be {rule.least:g} to {rule.most:g}{unit}, not {shown}."
        )
    if isinstance(value, str | list) and len(value) > MOST_WORDS:
        raise RefusedError(f"{key} of {word} is too long: {MOST_WORDS} at most.")
    if rule.words and value not in rule.words:
        raise RefusedError(f"{key} of {word} must be one of {', '.join(rule.words)}.")


_UNITS: Final = {"deg": "°", "mm": " mm", "nm": " N·m"}
_KIND_WORDS: Final[dict[tuple[type, ...], str]] = {
    (int, float): "a number",
    (int,): "a whole number",
    (str,): "a text",
    (bool,): "true or false",
    (str, list): "a text or a list of texts",
}
