"""Fitting a distributor: the steps in order, tooth and post, and three ways to have it wrong."""

from dataclasses import dataclass, replace
from typing import Final

from true_compass.core.angles import TURN_DEG
from true_compass.core.crank.firing import backwards
from true_compass.core.crank.phasing import companion_of
from true_compass.core.engine import Engine
from true_compass.core.ignition.bay import Standing, Step
from true_compass.core.ignition.cap import body_turn_words, is_in_swing
from true_compass.core.ignition.leads import Wiring, gone_round, joined, judged
from true_compass.core.ignition.stand import Fitted
from true_compass.core.words import before_tdc, small

MOST_NAMED: Final = 8
RIGHT_DEG: Final = 0.05
"""A body that stands so near needs no turning."""


@dataclass(frozen=True, slots=True)
class StepWords:
    """One step: what to do, and one small line of how or why."""

    step: Step
    title: str
    note: str


def steps(standing: Standing) -> tuple[StepWords, ...]:
    """The steps on this engine, in order."""
    engine, fitted = standing.engine, standing.fitted
    return (
        _turns(engine),
        StepWords(Step.MARK, f"{_crank_words(standing)}, 1 compressing", "its intake has shut"),
        _goal(engine),
        _slot(engine, fitted),
        _back(engine),
        StepWords(
            Step.DROP,
            "Gasket on, then down on its seat",
            "if not: nudge the crank, come back to the mark, look",
        ),
        _body(standing),
        StepWords(Step.CLAMP, "Clamp, then the lamp", "hose off and plugged"),
    )


HOW: Final = {
    Step.TURNS: "Cap off. Bar the engine on and watch the rotor: each has a direction of its own.",
    Step.MARK: "Watch the intake of 1 close, then go on to the mark: the other TDC looks the same.",
    Step.GOAL: "Choose a direction that is clear of everything, and from which the body can swing "
    "both ways.",
    Step.SLOT: "Look down the hole. Turn the pump's slot with a long blade; sight it against the "
    "rotor.",
    Step.BACK: "A helical gear turns the rotor as it meshes. Start so much back, slot to the goal.",
    Step.DROP: "Will it not go down? Nudge the crank, press; then come back to the mark and look "
    "again. Wrong tooth: pull it, slot further, again, the crank untouched.",
    Step.BODY: "Against the rotor is earlier. A degree of the body is two of the crank.",
    Step.CLAMP: "Cap on: it is keyed one way. Hose off and plugged, then the lamp.",
}
"""How each step is done, and what to do when it does not go (common practice, no source)."""


def _turns(engine: Engine) -> StepWords:
    if engine.rotor.turns is None:
        return StepWords(
            Step.TURNS, "How does the rotor turn?", "bar the engine round and look: never assumed"
        )
    seen = engine.rotor.seen_from.words
    return StepWords(
        Step.TURNS, f"Rotor turns {engine.rotor.turns.value}, {seen}", "barred round and looked at"
    )


def _crank_words(standing: Standing) -> str:
    wanted = standing.wanted_deg
    return f"Crank {before_tdc(wanted)}" if wanted else "Crank at TDC"


def _goal(engine: Engine) -> StepWords:
    if engine.posts != engine.cylinder_count:
        note = f"the file says {engine.posts} posts for {engine.cylinder_count} cylinders: count"
        return StepWords(Step.GOAL, "Lead 1 on the post towards 1", note)
    swing = engine.distributor.swing_deg
    note = "the body must be free both ways there"
    if swing is not None:
        back, on = engine.distributor.swing_meets
        if back and on:
            note = f"free between {back} and {on}"
    return StepWords(Step.GOAL, "Lead 1 on the post towards 1", note)


def slot_deg(engine: Engine, fitted: Fitted) -> float:
    """Where the pump slot must point for the distributor to go down, clockwise from the front."""
    return (fitted.rotor_deg(engine) + engine.distributor.slot_deg) % TURN_DEG


def _slot(engine: Engine, fitted: Fitted) -> StepWords:
    ways = engine.distributor.slot_ways
    if not ways:
        return StepWords(Step.SLOT, "Pump slot, if there is one", "sight it against the rotor")
    at = slot_deg(engine, fitted) % (180.0 if ways == 2 else TURN_DEG)
    note = "two ways fit, both are right" if ways == 2 else "it fits one way only"
    return StepWords(Step.SLOT, f"Pump slot to {at:.0f}° from the front", note)


def _back(engine: Engine) -> StepWords:
    twist = engine.distributor.twist_deg
    if twist is None:
        return StepWords(
            Step.BACK, "Start a little back: the gear twists it", "how far, one try shows"
        )
    if not twist:
        return StepWords(Step.BACK, "Straight down: this gear does not twist", "no start back")
    title = f"Start {abs(twist):g}° back; the gear twists it on"
    way = "anticlockwise" if twist > 0 else "clockwise"
    return StepWords(Step.BACK, title, f"{way}, {engine.rotor.seen_from.words}")


def _body(standing: Standing) -> StepWords:
    engine, fitted = standing.engine, standing.fitted
    turn = fitted.body_turn_deg(engine)
    title = "Body stands right, nip it up"
    if standing.bay.hidden:
        title = "Turn the body, then nip it up"
    elif fitted.is_turn_out(engine):
        title = "Not the body: lift it, one crank turn"
    elif not is_in_swing(engine, fitted.body_deg + turn):
        title = "No room for the body: another tooth"
    elif not stands_right(engine, fitted):
        title = f"Body {body_turn_words(turn)}, then nip up"
    return StepWords(Step.BODY, title, "rotor on the line of post 1")


def stands_right(engine: Engine, fitted: Fitted) -> bool:
    """Whether the rotor meets the post of lead 1 at the firing point."""
    return abs(fitted.body_turn_deg(engine)) < RIGHT_DEG


def turned_right(engine: Engine, fitted: Fitted) -> Fitted:
    """The body turned to where it belongs, as far as its swing goes; not for a crank turn out."""
    if fitted.is_turn_out(engine):
        return fitted
    goal = fitted.body_deg + fitted.body_turn_deg(engine)
    swing = engine.distributor.swing_deg
    if swing is not None:
        goal = min(max(goal, -swing[0]), swing[1])
    return replace(fitted, body_deg=goal)


@dataclass(frozen=True, slots=True)
class Way:
    """A tooth and a post: what they are called, and the body's place from mid-swing."""

    name: str
    fitted: Fitted
    body_deg: float
    reached: bool


def _relative(by: int, what: str) -> str:
    return {0: f"this {what}", 1: f"{what} on", -1: f"{what} back"}[by]


def ways(standing: Standing, most: int = 4) -> tuple[Way, ...]:
    """The way it stands, then the nearest others a tooth and a post away.

    On is the rotor's own running direction.
    """
    engine, now = standing.engine, standing.fitted
    count, sense = engine.cylinder_count, engine.rotor_turns.sense
    mid = replace(now, body_deg=0.0)
    found = []
    for tooth in (0, 1, -1):
        for post in (0, 1, -1) if count > 2 else (0,):
            fitted = replace(
                mid, tooth=mid.tooth + sense * tooth, post_1=(mid.post_1 - 1 + post) % count + 1
            )
            turn = fitted.body_turn_deg(engine)
            name = f"{_relative(tooth, 'tooth')}, {_relative(post, 'post')}"
            found.append(Way(name, fitted, turn, is_in_swing(engine, turn)))
    first, *others = found
    others.sort(key=lambda way: round(abs(way.body_deg), 9))
    return (first, *others[: most - 1])


def by_name(standing: Standing) -> tuple[Way, ...]:
    """As it stands, a tooth either way, in an order that tells nothing."""
    first, *others = ways(standing, 9)
    same_post = [way for way in others if way.fitted.post_1 == standing.fitted.post_1]
    return (first, *sorted(same_post, key=lambda way: way.name))


def dropped(standing: Standing, way: Way) -> tuple[Fitted, Wiring]:
    """Lifted and dropped that way, the body left where it is: how it stands and is wired then.

    The leads go round with the post of lead 1, as wrong or right as they were.
    """
    was = standing.fitted
    wired = gone_round(standing.wired, way.fitted.post_1 - was.post_1)
    return replace(way.fitted, body_deg=was.body_deg), wired


def progress(standing: Standing) -> str:
    """How far the fitting is: `Not fitted yet`, `Step 3 of 8`, or `Fitted. Now the lamp`."""
    bay = standing.bay
    due = bay.next_step
    if due is None:
        return "Fitted. Now the lamp"
    if not bay.done:
        return "Not fitted yet"
    return f"Step {tuple(Step).index(due) + 1} of {len(Step)}"


def fit_headline(standing: Standing) -> tuple[str, str]:
    """How far the fitting is and what is due; what is wrong only where nobody hides it."""
    engine, bay = standing.engine, standing.bay
    if engine.rotor.turns is None or not (bay.hidden or stands_right(engine, standing.fitted)):
        head, below = headline(standing)
        return head, f"{progress(standing)}. {below}" if bay.done else below
    due = bay.next_step
    if due is None:
        sparks = "" if bay.hidden else f"Cylinder 1 fires {before_tdc(standing.wanted_deg)}."
        return progress(standing), sparks or "The lamp shows whether it stands right."
    words = next(one for one in steps(standing) if one.step is due)
    return f"{progress(standing)}: {small(words.title)}", HOW[due]


def headline(standing: Standing) -> tuple[str, str]:
    """What to do with it as it stands, and why."""
    engine, fitted = standing.engine, standing.fitted
    turn = fitted.body_turn_deg(engine)
    at, wanted = standing.fires_at_deg, standing.wanted_deg
    seen = engine.rotor.seen_from.words
    if engine.rotor.turns is None:
        return (
            "How does the rotor turn?",
            "What does it do when you bar the engine on? Look, and say it below.",
        )
    if fitted.is_turn_out(engine):
        return (
            "One crank turn out",
            "Lift it out, turn the crank once to the mark again, and drop it.",
        )
    if stands_right(engine, fitted):
        return "The distributor stands right", f"Cylinder 1 fires {before_tdc(wanted)}."
    there = fitted.body_deg + turn
    if not is_in_swing(engine, there) and not any(way.reached for way in ways(standing, 9)):
        return (
            "The swing is too small for every tooth near",
            f"{body_turn_words(there)} is asked. Choose another direction for post 1.",
        )
    if not is_in_swing(engine, there):
        back, on = engine.distributor.swing_deg or (0.0, 0.0)
        room = on if there > 0 else back
        return (
            f"The body has no room: {body_turn_words(there)} is asked",
            f"It goes {room:g}° that way. It fires {before_tdc(at)}: lift it, take another tooth.",
        )
    return (
        f"Turn the body {body_turn_words(turn)}",
        f"Seen {seen}. As it stands it fires {before_tdc(at)}; you want {wanted:g}°.",
    )


@dataclass(frozen=True, slots=True)
class WrongState:
    """A wrong way to have it: the rotor and the posts as they would stand, and what to do."""

    title: str
    short: str
    more: str
    fitted: Fitted
    posts: tuple[int, ...]
    right: tuple[int, ...]
    is_now: bool


def wrong_states(standing: Standing) -> tuple[WrongState, ...]:
    """A crank turn out, the leads read backwards, one tooth out."""
    engine, fitted, order = standing.engine, standing.fitted, standing.engine.firing_order
    is_turn_out = fitted.is_turn_out(engine)
    turned = replace(fitted, turn_out=not fitted.turn_out)
    # The other two are drawn as they would be with the crank turn put right.
    due = turned if is_turn_out else fitted
    other = companion_of(engine, 1)
    at = f"the rotor is at {other}" if other else "the rotor is half a turn away"
    out = WrongState(
        "180° out",
        f"One crank turn: {at} while 1 is due.",
        "Sparks in overlap, not on compression. Lift it out, turn the crank once.",
        fitted if is_turn_out else turned,
        order,
        (),
        is_turn_out,
    )
    states = [out]
    if engine.cylinder_count > 2:
        states.append(_backwards(standing, due))
    pitch = TURN_DEG / engine.distributor_teeth
    is_out = not is_turn_out and abs(fitted.body_turn_deg(engine)) > pitch / 2
    back = replace(due, tooth=due.tooth - engine.rotor_turns.sense)
    tooth_out = fitted if is_out else back
    states.append(
        WrongState(
            "One tooth out",
            f"{pitch:.1f}° of rotor, {2 * pitch:.1f}° of crank.",
            _tooth_words(engine, tooth_out),
            tooth_out,
            order,
            order,
            is_out,
        )
    )
    return tuple(states)


def _tooth_words(engine: Engine, out: Fitted) -> str:
    asked = out.body_deg + out.body_turn_deg(engine)
    swing = engine.distributor.swing_deg
    if swing is None:
        return "Lift it, one tooth on. A body turned so far may meet something."
    if is_in_swing(engine, asked):
        return f"The body still reaches it: {body_turn_words(asked)} from mid-swing."
    room = swing[1] if asked > 0 else swing[0]
    return f"No swing reaches it: {abs(asked):.1f}° asked, {room:g}° there. Lift it, one tooth on."


def _backwards(standing: Standing, due: Fitted) -> WrongState:
    """The leads laid against the rotor, and what each wrong one meets."""
    engine = standing.engine
    order = engine.firing_order
    wired = backwards(order)
    result = judged(standing.rig, wired)
    wrong = {lead.lead_to for lead in result.wrong}
    right = tuple(cylinder for cylinder in order if cylinder not in wrong)
    met: dict[str, list[int]] = {}
    for lead in sorted(result.wrong, key=lambda lead: lead.lead_to):
        met.setdefault(lead.spark.heard.short, []).append(lead.lead_to)
    # Of many cylinders only the counts have room.
    few = engine.cylinder_count <= MOST_NAMED
    parts = [
        f"{joined(cylinders) if few else len(cylinders)}: {heard}"
        for heard, cylinders in met.items()
    ]
    only = (
        f"Only {joined(right)} is right."
        if len(right) == 1
        else (f"Only {joined(right)} are right.")
    )
    return WrongState(
        "Read backwards",
        only,
        "; ".join(parts) + ".",
        due,
        wired,
        right,
        standing.judged.meaning.slug == "reversed",
    )
