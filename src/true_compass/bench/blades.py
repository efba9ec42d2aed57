"""What blades said of an item: the largest that went and the smallest that did not."""

from typing import Final

from true_compass.bench.feel import BLADE_WORDS
from true_compass.bench.state import BenchState

GOES: Final = (BLADE_WORDS[0], BLADE_WORDS[1])


def second_look_at(state: BenchState) -> int:
    """The action at which the second look was asked for, or one that never comes."""
    return next((one.nth for one in state.seen if one.do == "second look"), 10**9)


def bracket(
    state: BenchState, name: str, *, left: bool, second: bool = False
) -> tuple[float | None, float | None]:
    """The largest blade that went and the smallest that did not: as found, or as left.

    Readings before the first slackening are as found, those after the last change as left, and
    those after the second look was asked for belong to it alone.
    """
    again = second_look_at(state)
    goes: float | None = None
    stops: float | None = None
    slackened = False
    for one in state.seen:
        if one.of != name or (one.nth >= again) != second:
            continue
        if one.do == "slacken":
            slackened = True
            if left:
                goes = stops = None
        elif one.do == "feeler" and (second or slackened == left):
            mm, feel = one.fact
            if feel in GOES:
                goes = mm if goes is None else max(goes, mm)
            else:
                stops = mm if stops is None else min(stops, mm)
    return goes, stops


def bracket_words(ends: tuple[float | None, float | None]) -> str:
    """A bracket in a few words: `0.25–0.30`, `over 0.25`, or nothing."""
    goes, stops = ends
    if goes is not None and stops is not None:
        return f"{goes:.2f}–{stops:.2f}"
    if goes is not None:
        return f"over {goes:.2f}"
    return f"under {stops:.2f}" if stops is not None else ""
