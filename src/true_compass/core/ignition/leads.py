"""Leads as they are wired, judged: which are wrong, what the pattern means, and what to move.

A wiring is one cylinder a post, in the rotor's direction from post 1; 0 where no lead is on.
"""

from dataclasses import dataclass
from enum import Enum
from itertools import pairwise

from true_compass.core.angles import wrap_deg
from true_compass.core.crank.firing import SAME_DEG, backwards, cannot_follow, groups_text
from true_compass.core.crank.phasing import companion_of
from true_compass.core.engine import Engine
from true_compass.core.ignition.stand import Lit, apart_in_firing_deg, lit
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.core.words import counted

Wiring = tuple[int, ...]
NEAR_IN_FIRING_DEG = 150.0


class Pattern(Enum):
    """What is behind leads that are wrong."""

    RIGHT = "right"
    REVERSED = "reversed"
    ROUND = "round-by"
    SWAPPED = "swapped"
    OTHER = "other"


@dataclass(frozen=True, slots=True)
class Meaning:
    """A pattern, by how many posts, or which two leads."""

    pattern: Pattern
    by: int = 0
    pair: tuple[int, int] = (0, 0)

    @property
    def slug(self) -> str:
        """`right`, `reversed`, `round-by-2`, `swapped-5-6`, `other`."""
        if self.pattern is Pattern.ROUND:
            return f"round-by-{self.by}"
        if self.pattern is Pattern.SWAPPED:
            return f"swapped-{self.pair[0]}-{self.pair[1]}"
        return str(self.pattern.value)


def parse_wiring(engine: Engine, text: str) -> Wiring:
    """Read leads such as `1-2-4-6-3-5`. Raises `EngineError` unless each cylinder is named once."""
    names = [part.strip() for part in text.split("-")]
    if not all(name.isascii() and name.isdigit() and len(name) < 4 for name in names):
        example = "-".join(map(str, engine.firing_order))
        raise EngineError("wired", f"must be cylinders such as {example}, not {text[:60]!r}")
    wired = tuple(map(int, names))
    check_wiring(engine, wired)
    if 0 in wired:
        raise EngineError("wired", "has a post without a lead: name the cylinder of each")
    return wired


def check_wiring(engine: Engine, wired: Wiring) -> None:
    """Raise unless it has a post a cylinder, and each lead goes to a cylinder of its own."""
    count = engine.cylinder_count
    if len(wired) != count:
        raise EngineError(
            "wired",
            f"names {len(wired)} leads, but the engine has {count} cylinders: write one a post, "
            "in the rotor's direction from post 1",
        )
    on = [cylinder for cylinder in wired if cylinder]
    for cylinder in on:
        if not 1 <= cylinder <= count:
            raise EngineError("wired", f"names cylinder {cylinder}, which there is not")
        if on.count(cylinder) > 1:
            raise EngineError("wired", f"has two leads to plug {cylinder}: take one of them off")


def is_wiring(wired: Wiring) -> bool:
    """Whether these could be leads of some engine: each plug once, 0 for a lead that is off."""
    on = [cylinder for cylinder in wired if cylinder]
    return len(on) == len(set(on)) and all(0 <= each <= len(wired) for each in wired)


def meaning_of(order: Wiring, wired: Wiring) -> Meaning:
    """The pattern of a wiring; where several fit, the one that is earliest in `Pattern`.

    >>> meaning_of((1, 5, 3, 6, 2, 4), (1, 4, 2, 6, 3, 5)).slug
    'reversed'
    >>> meaning_of((1, 5, 3, 6, 2, 4), (4, 1, 5, 3, 6, 2)).slug
    'round-by-1'
    >>> meaning_of((1, 5, 3, 6, 2, 4), (1, 3, 5, 6, 2, 4)).slug
    'swapped-3-5'
    """
    if wired == order:
        return Meaning(Pattern.RIGHT)
    if wired == backwards(order):
        return Meaning(Pattern.REVERSED)
    for by in range(1, len(order)):
        if wired == gone_round(order, by):
            return Meaning(Pattern.ROUND, by=by)
    wrong = [nth for nth in range(len(order)) if wired[nth] != order[nth]]
    if len(wrong) == 2 and all(wired[nth] for nth in wrong):
        one, other = sorted(order[nth] for nth in wrong)
        return Meaning(Pattern.SWAPPED, pair=(one, other))
    return Meaning(Pattern.OTHER)


@dataclass(frozen=True, slots=True)
class WrongLead:
    """A lead on a wrong plug. `at_cycle_deg` is where the cylinder that gets the spark stands, 0 at
    its compression TDC, when the post's own cylinder is at nominal TDC; `spark` is a usual one.
    """

    post: int
    own: int
    lead_to: int
    at_cycle_deg: float
    spark: Lit

    @property
    def words(self) -> str:
        """Which cylinder gets the spark, on which stroke, and what one hears."""
        stroke = self.spark.stroke.word
        return f"{self.lead_to} gets it on its {stroke} stroke. {self.spark.heard.sentence}"


@dataclass(frozen=True, slots=True)
class Judged:
    """A wiring, judged: the wrong leads in the order of the posts, those that are off, and why."""

    wired: Wiring
    wrong: tuple[WrongLead, ...]
    off: tuple[int, ...]
    meaning: Meaning
    right: int
    sparks: tuple[Lit, ...]
    """What every lead that is on lights, with a usual spark."""

    @property
    def moves(self) -> int:
        """Fewest leads to move or to put on: each that is wrong must come off its plug once."""
        return len(self.wrong) + len(self.off)


def judged(rig: Rig, wired: Wiring, post_1: int = 1) -> Judged:
    """Judge a wiring. Leads of cylinders that fire together may change places.

    With lead 1 meant to be on another post, the order begins there.
    """
    engine = rig.engine
    order = order_from(engine, post_1)
    offsets = engine.firing_offsets_deg
    wrong, sparks = [], lit(rig, wired, post_1=post_1)
    for spark in sparks:
        at = float(wrap_deg(offsets[spark.own - 1] - offsets[spark.cylinder - 1]))
        if SAME_DEG < at < 720.0 - SAME_DEG:
            wrong.append(WrongLead(spark.post, spark.own, spark.cylinder, at, spark))
    off = tuple(nth + 1 for nth, cylinder in enumerate(wired) if not cylinder)
    meaning = meaning_of(order, wired) if wrong or off else Meaning(Pattern.RIGHT)
    right = len(wired) - len(wrong) - len(off)
    return Judged(wired, tuple(wrong), off, meaning, right, sparks)


def backwards_words(rig: Rig) -> tuple[str, str]:
    """An engine's order read in the wrong direction: how it is spelt, and what happens then.

    What a spark does is asked of the valves that are open when it comes, as it is for every lead.
    """
    groups = rig.engine.firing_groups
    turned = backwards(groups)
    text = groups_text(turned)
    result = judged(rig, tuple(cylinder for group in turned for cylinder in group))
    if not result.wrong:
        return f"Backwards it is {text}", "Read either way it is the same order."
    first = result.wrong[0]
    body = (
        f"Leads fitted round the cap the wrong way: {first.words} "
        f"{counted(result.right, 'cylinder gets', 'cylinders get')} a spark on compression."
    )
    if cannot_follow(rig.engine.layout.tdc_deg, turned) is None:
        body = f"{body} ({text} fits this crank, but not this cam.)"
    return f"Backwards it is {text}", body


def order_from(engine: Engine, post_1: int) -> Wiring:
    """The cylinder of each post, with cylinder 1 on post `post_1`."""
    return gone_round(engine.firing_order, post_1 - 1)


def gone_round(wired: Wiring, by: int) -> Wiring:
    """Every lead so many posts on in the rotor's direction.

    >>> gone_round((1, 3, 4, 2), 1)
    (2, 1, 3, 4)
    """
    by %= len(wired)
    return wired[-by:] + wired[:-by] if by else wired


def joined(names: "tuple[int, ...] | list[int]") -> str:
    """Numbers in a sentence: `4, 5 and 6`."""
    texts = [str(name) for name in names]
    return texts[0] if len(texts) == 1 else f"{', '.join(texts[:-1])} and {texts[-1]}"


def headline(result: Judged) -> str:
    """What is behind it, in one sentence."""
    meaning = result.meaning
    if result.off and len(result.off) == len(result.wired):
        return "No lead is on"
    if not result.wrong:
        if result.off:
            return f"{counted(len(result.off), 'lead is', 'leads are')} off; the others are right"
        return "Every lead is right"
    if meaning.pattern is Pattern.REVERSED:
        return "The order is right, the direction is wrong"
    if meaning.pattern is Pattern.ROUND:
        by, count = meaning.by, len(result.wired)
        if by * 2 <= count:
            return f"All leads sit {counted(by, 'post')} on"
        return f"All leads sit {counted(count - by, 'post')} back"
    if meaning.pattern is Pattern.SWAPPED:
        return f"{meaning.pair[0]} and {meaning.pair[1]} are swapped at the cap"
    cylinders = sorted(lead.lead_to for lead in result.wrong)
    if len(cylinders) == 3 and not result.off:
        return f"{joined(cylinders)} have gone round by one plug"
    return f"{counted(len(cylinders), 'lead is', 'leads are')} on a wrong plug"


def below_headline(engine: Engine, result: Judged) -> str:
    """One line of why."""
    meaning = result.meaning
    if meaning.pattern is Pattern.REVERSED:
        other = companion_of(engine, 1)
        kept = f"Only 1 and its companion {other} get" if other else "Only 1 gets"
        return f"Read against the rotor. {kept} a spark on compression."
    if meaning.pattern is Pattern.ROUND:
        return "Nothing is swapped: move all leads round together, or lift and drop it again."
    return "Square is the post, round is the plug: one lead, one number."


def move_words(lead: WrongLead) -> str:
    """What to do with a wrong lead: off one plug, on another."""
    return f"Off plug {lead.lead_to}, on plug {lead.own}"


def exchanged(wired: Wiring, post: int, cylinder: int) -> Wiring:
    """The wiring with a post's lead put on a plug; the lead that was there takes the old plug.

    >>> exchanged((1, 3, 4, 2), 2, 4)
    (1, 4, 3, 2)
    >>> exchanged((1, 0, 4, 2), 2, 4)
    (1, 4, 0, 2)
    """
    nth, was = post - 1, wired[post - 1]
    return tuple(
        cylinder if place == nth else was if on == cylinder and cylinder else on
        for place, on in enumerate(wired)
    )


def crossing_pairs(engine: Engine) -> tuple[tuple[int, int], ...]:
    """Neighbours on a bank of which one fires soon after the other: keep their leads apart.

    Side by side over a length, one lead induces a spark in the other, and the next cylinder is
    lit while it still compresses (common practice, no source).
    """
    layout, pairs = engine.layout, []
    for bank in layout.banks_in_use:
        row = layout.on_bank(bank)
        for one, other in pairwise(row):
            if 0.0 < apart_in_firing_deg(engine, one, other) < NEAR_IN_FIRING_DEG:
                offsets = engine.firing_offsets_deg
                after = float(wrap_deg(offsets[other - 1] - offsets[one - 1]))
                pairs.append((one, other) if after < NEAR_IN_FIRING_DEG else (other, one))
    return tuple(pairs)
