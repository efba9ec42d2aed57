"""Saying what one knows: declare, foretell, record; hints, the second person, waiting, a run."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any, Final

from true_compass.bench.covered import Covered
from true_compass.bench.faults import BY_SLUG
from true_compass.bench.hands.turning import check_free
from true_compass.bench.hints import next_hint
from true_compass.bench.state import BenchState, RefusedError, Told, noted, turned
from true_compass.core.adjusting.setting import Way
from true_compass.core.chance import some_of
from true_compass.core.rotation import Rotation

Answer = dict[str, Any]
SECOND_LOOKS: Final = 3
NOTHING_WRONG: Final = "nothing"
"""What is declared of an engine that has no fault."""
FORETELLS: Final = ("wiggle", "lift", "spin", "feeler", "thumb", "look", "bridge", "height")


def fault_title(slug: str) -> str:
    """A fault in words, or that nothing is wrong."""
    return "nothing is wrong" if slug == NOTHING_WRONG else BY_SLUG[slug].title


def declare(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Say one thing that is judged at the end. The last one of its kind counts."""
    said = {key: value for key, value in action.items() if value not in (None, [], "", "declare")}
    said.pop("do", None)
    said.pop("t_s", None)
    kinds = [
        name
        for name, keys in (
            ("a TDC", {"cylinder", "tdc"}),
            ("a mark's error", {"mark_error_deg"}),
            ("an order", {"order", "rotor"}),
            ("a fault", {"fault"}),
        )
        if keys & set(said)
    ]
    if len(kinds) != 1:
        raise RefusedError(
            "Declare one thing: cylinder and tdc, or mark_error_deg, or order and rotor, or fault."
        )
    _check_said(work, said)
    told = Told(state.crank_deg, said, state.done)
    return state._replace(told=(*state.told, told)), {"ok": True}


def _check_said(work: Covered, said: Mapping[str, Any]) -> None:
    count = work.engine.cylinder_count
    if "tdc" in said or "cylinder" in said:
        if not ("tdc" in said and "cylinder" in said):
            raise RefusedError("Say both cylinder and tdc.")
        if said["tdc"] not in ("compression", "overlap"):
            raise RefusedError(f"A TDC is compression or overlap, not {str(said['tdc'])[:20]!r}.")
        if not 1 <= said["cylinder"] <= count:
            raise RefusedError(f"cylinder must be 1 to {count}, not {said['cylinder']}.")
    if "order" in said and sorted(_numbers(said["order"])) != list(range(1, count + 1)):
        raise RefusedError(f"An order names each of the {count} cylinders once, such as 1-3-4-2.")
    if "rotor" in said and said["rotor"] not in [turn.value for turn in Rotation]:
        raise RefusedError("A rotor turns clockwise or anticlockwise, seen from above.")
    for name in fault_names(said):
        if name not in BY_SLUG and name != NOTHING_WRONG:
            raise RefusedError(f"There is no fault {name[:30]!r}: scenario faults lists them.")


def _numbers(order: object) -> list[int]:
    """The cylinders of an order given as text or as a list; what is none reads as 0."""
    parts = order if isinstance(order, list) else str(order).replace("+", "-").split("-")
    return [int(part) if str(part).strip().isdigit() else 0 for part in parts]


def said_order(said: Mapping[str, Any]) -> list[int]:
    """The order that was declared."""
    return _numbers(said.get("order", []))


def fault_names(said: Mapping[str, Any]) -> list[str]:
    """The faults that were declared: one word, or a list."""
    fault = said.get("fault", [])
    return [str(one) for one in fault] if isinstance(fault, list) else [str(fault)]


def foretell(_work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Say what the next look will tell, before it is taken."""
    if action["next"] not in FORETELLS:
        raise RefusedError(f"What is foretold is one of {', '.join(FORETELLS)}.")
    of = action.get("item") or action.get("at") or f"cylinder {action.get('cylinder')}"
    return state._replace(foretold=(action["next"], of, action["says"])), {"ok": True}


def record(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Write an item down: the blade that goes and the one that does not."""
    if action["item"] not in work.place:
        raise RefusedError(f"{action['item'][:20]} is no item of this engine.")
    when = action.get("as") or "left"
    if when == "second" and action["item"] not in state.second_look:
        raise RefusedError("Ask for the second look first: it names three items.")
    entry = (action.get("goes_mm"), action.get("not_mm"))
    if when == "found" and action["item"] in state.slackened_first:
        raise RefusedError(f"{action['item']} was slackened already: as found is lost.")
    return state._replace(records={**state.records, (action["item"], when): entry}), {"ok": True}


def second_look(work: Covered, state: BenchState, _action: Answer) -> tuple[BenchState, Answer]:
    """Three items to measure once more, blind: what was read before is not shown."""
    names = [setting.name for setting in work.settings if setting.way is Way.GAP]
    if not names:
        raise RefusedError("This engine has no gaps to measure twice.")
    chosen = some_of(work.scenario.seed, "second look", names, SECOND_LOOKS)
    state = noted(
        state._replace(second_look=chosen), "second look", "engine", ", ".join(chosen), chosen
    )
    return state, {"items": list(chosen)}


def hint(work: Covered, state: BenchState, _action: Answer) -> tuple[BenchState, Answer]:
    """One step up the ladder: where to look, what it means, do it for me. Counted."""
    told = next_hint(work, state)
    level = state.hint_level % 3 + 1
    state = state._replace(hints=state.hints + 1, hint_level=level)
    if level == 3 and told.turn_deg:
        check_free(state)
        if state.stop is not None:
            raise RefusedError("The stop is in a hole: take it out, then I can turn it for you.")
        state = turned(work, state, told.turn_deg)
        forward = state.turned_deg + max(told.turn_deg, 0.0)
        state = state._replace(turned_deg=forward)
    words = (told.look, told.means, told.done)[level - 1]
    return state, {"hint": words, "level": level}


def wait(_work: Covered, state: BenchState, _action: Answer) -> tuple[BenchState, Answer]:
    """Wait until plungers have settled. No clock runs."""
    items = tuple(replace(item, settled=True) for item in state.items)
    return state._replace(items=items), {"ok": True}


def hand_over(_work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """The other person takes over: one turns, one feels."""
    return state, {"ok": True, "role": action["role"]}


def finish(_work: Covered, state: BenchState, _action: Answer) -> tuple[BenchState, Answer]:
    """It is done: judge it."""
    return state._replace(finished=True), {}
