"""Drills of finding where the crank stands: signs, the flat of the piston, two readings."""

from functools import lru_cache
from typing import Final

import numpy as np

from true_compass.core.angles import TURN_DEG, wrap_deg
from true_compass.core.crank.phasing import companion_of
from true_compass.core.degreeing.top import TrueTop, true_top
from true_compass.core.engine import Engine, Shaft
from true_compass.core.evidence.where import Look, Places, Seen, mark_labels
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.lessons.drill import NEVER, Asked, AskError, Cover, Draw, Drill, Question
from true_compass.lessons.forms import Answer, Choice, Figure, Form, Option
from true_compass.lessons.kinds.cycle import overlap_deg, tdc_deg

EYE_MM: Final = 0.1
"""What an eye sees of a piston (common practice, no source)."""
MOST_ELSEWHERE: Final = 6
"""How many cylinders are tried for a look that tells nothing."""


@lru_cache(maxsize=16)
def _places(engine: Engine) -> Places:
    return Places(Rig.of(engine))


def _sign_words(seen: Seen) -> str:
    return {
        Look.PRESSURE: f"A thumb over the plug hole of {seen.name}, coming up to here",
        Look.ROCKING: f"Rock the crank, and watch the valves of {seen.name}",
        Look.ROTOR: "Which post the rotor points to",
        Look.MARK: f"The mark on the crank once more ({seen.name})",
        Look.STILL: f"A straw in the plug hole of {seen.name}",
    }[seen.look]


def _crank_marks(rig: Rig) -> list[Seen]:
    marks = zip(mark_labels(rig), rig.engine.marks, strict=True)
    return [Seen(Look.MARK, label) for label, mark in marks if mark.shaft is Shaft.CRANK]


class WhichSign(Drill):
    """Which look would tell which of the two TDCs this is?"""

    slug = "sign"
    title = "Which sign would tell"
    skill = "find-tdc"
    covers = (
        Cover.RING,
        Cover.STROKES,
        Cover.ANGLE,
        Cover.VALVES,
    )

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """One look that tells, and others that do not."""
        cylinder = draw.one("cylinder", list(rig.engine.cylinders))
        at = tdc_deg(rig, cylinder) if draw.yes("tdc") else overlap_deg(rig, cylinder)
        other = companion_of(rig.engine, cylinder)
        telling = [seen for seen in self._telling(rig, cylinder) if self._tells(rig, seen, at)]
        idle = [Seen(Look.STILL, str(cylinder)), *_crank_marks(rig)[:1]]
        idle += [Seen(Look.STILL, str(other))] if other and len(idle) < 2 else []
        # The same looks at cylinders where they tell nothing: the words alone do not give it away.
        elsewhere = [
            seen
            for look in (Look.PRESSURE, Look.ROCKING)
            for seen in draw.some(
                look.value, [Seen(look, str(c)) for c in rig.engine.cylinders], MOST_ELSEWHERE
            )
            if not self._tells(rig, seen, at)
        ][:2]
        shown = [draw.even("telling", [*telling[:2], *telling], keeps=True), *idle, *elsewhere]
        shown = list(draw.some("turn", shown, len(shown)))
        ask = {"cylinder": cylinder, "looks": [[seen.look.value, seen.name] for seen in shown]}
        return Question(self.slug, engine, ask, round(at, 3))

    def choices(self, q: Asked) -> int:
        """Where a thumb or a rocker stands among straws and marks only, its words tell it."""
        looks = [seen.look for seen in self._looks(q)]
        words = sum(look not in (Look.STILL, Look.MARK) for look in looks)
        return len(looks) if words > 1 else NEVER

    def _telling(self, rig: Rig, cylinder: int) -> list[Seen]:
        """Looks that tell on most engines."""
        other = companion_of(rig.engine, cylinder) or cylinder
        found = [Seen(Look.PRESSURE, str(cylinder)), Seen(Look.ROCKING, str(other))]
        return [*found, Seen(Look.ROTOR, str(cylinder))] if rig.engine.has_rotor else found

    def missing(self, rig: Rig) -> str:
        """One look must tell at every cylinder."""
        for cylinder in rig.engine.cylinders:
            looks = self._telling(rig, cylinder)
            for at in (tdc_deg(rig, cylinder), overlap_deg(rig, cylinder)):
                if not any(self._tells(rig, seen, at) for seen in looks):
                    return "gives no sign from outside that tells its two TDCs apart"
        return ""

    def _looks(self, q: Asked) -> list[Seen]:
        looks = q.ask.get("looks")
        if not isinstance(looks, list | tuple) or not looks:
            raise AskError("ask.looks must be a list of [look, name]")
        known = {
            look.value: look
            for look in (Look.PRESSURE, Look.ROCKING, Look.ROTOR, Look.MARK, Look.STILL)
        }
        names = {str(c) for c in q.engine.cylinders}
        marks = {seen.name for seen in _crank_marks(q.rig)}
        found = []
        for pair in looks:
            if not isinstance(pair, list | tuple) or len(pair) != 2 or pair[0] not in known:
                raise AskError(f"ask.looks must be pairs of {', '.join(known)} and a name")
            seen = Seen(known[str(pair[0])], str(pair[1]))
            if seen.name not in (marks if seen.look is Look.MARK else names):
                raise AskError(f"ask.looks names {seen.name[:20]!r}, which this engine has not")
            found.append(seen)
        return found

    def _tells(self, rig: Rig, seen: Seen, at: float) -> bool:
        """Whether what is seen differs from what is seen one turn on."""
        if seen.look is Look.PRESSURE:
            # Felt on the way up, not at the top.
            at -= 20.0
        places = _places(rig.engine)
        holds = places.holds(seen)
        here, there = (round(wrap_deg(place) * 2) % len(holds) for place in (at, at + TURN_DEG))
        return bool(holds[here] != holds[there])

    def text(self, q: Asked) -> str:
        """The question."""
        cylinder = q.cylinder
        return f"Covered. The piston of {cylinder} is at TDC. Which look tells which of the two?"

    def form(self, q: Asked) -> Form:
        """One of the looks."""
        looks = self._looks(q)
        return Choice(
            tuple(Option(f"{seen.look.value} {seen.name}", _sign_words(seen)) for seen in looks)
        )

    def answer(self, q: Asked) -> Answer:
        """The first that tells."""
        at = q.at_deg
        for seen in self._looks(q):
            if self._tells(q.rig, seen, at):
                return f"{seen.look.value} {seen.name}"
        raise AskError("ask.looks has no look that tells the two TDCs apart")

    def why(self, q: Asked) -> str:
        """Why this one, and not the others."""
        right = self.answer(q)
        seen = next(s for s in self._looks(q) if f"{s.look.value} {s.name}" == right)
        reason = {
            Look.PRESSURE: "There is pressure on the way up on compression only.",
            Look.ROCKING: "They rock at one of the two places only.",
            Look.ROTOR: "It turns once a cycle, if the distributor is right.",
        }.get(seen.look, "It differs between the two.")
        return f"{_sign_words(seen)}. {reason}"

    def idea(self, q: Asked, given: Answer) -> str:
        """By the look that was believed."""
        look, _, name = str(given).partition(" ")
        if look == Look.MARK.value:
            return "mark-zero-fires"
        if look == Look.STILL.value:
            own = name == str(q.cylinder)
            return "both-shut-at-tdc" if own else "together-fire-together"
        return ""

    def wrong_words(self, q: Asked, given: Answer) -> str:
        """What the named look says."""
        if str(given).partition(" ")[0] in (Look.STILL.value, Look.MARK.value):
            return "That looks the same at both: it is met every turn."
        return "There that cylinder shows the same at both."


@lru_cache(maxsize=64)
def flat_deg(engine: Engine, sees_mm: float) -> float:
    """How far either side of TDC a piston has fallen by no more than an eye sees, to 0.1°."""
    from true_compass.core.state import engine_state

    rig = Rig.of(engine)
    beside = np.arange(0.0, 60.0, 0.01)
    fall = engine_state(rig, tdc_deg(rig, 1) + beside).piston_from_tdc_mm[0]
    return round(float(beside[np.searchsorted(fall, sees_mm)]), 1)


class FlatOfTdc(Drill):
    """How far may the piston seem to stand still?"""

    slug = "flat"
    title = "How flat is TDC"
    skill = "find-tdc"
    shows_engine = False
    stands = False

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """What an eye sees, in steps; the right width at any place among the four."""
        sees = draw.one("sees", (0.03, 0.05, 0.08, 0.1, 0.15, 0.2))
        place = draw.even("place", range(4), keeps=True)
        return Question(self.slug, engine, {"sees_mm": sees, "place": place})

    def _widths(self, q: Asked) -> list[float]:
        flat = self._flat(q)
        if "place" not in q.ask:
            return sorted({0.0, round(flat / 4, 1), flat, round(flat * 3, 1)})
        place = int(q.number("place", 0, 3))
        return sorted({round(flat * 2.0 ** (nth - place), 1) for nth in range(4)})

    def choices(self, q: Asked) -> int:
        """Without a place it is always the third."""
        return len(self._widths(q)) if "place" in q.ask else NEVER

    def given(self, q: Asked) -> str:
        """Stroke and rod."""
        return f"stroke {q.engine.stroke_mm:g}, rod {q.engine.rod_mm:g} mm"

    def _flat(self, q: Asked) -> float:
        return flat_deg(q.engine, q.number("sees_mm", 0.01, 1.0))

    def text(self, q: Asked) -> str:
        """The question."""
        engine, sees = q.engine, q.number("sees_mm", 0.01, 1.0)
        return (
            f"Stroke {engine.stroke_mm:g}, rod {engine.rod_mm:g} mm. An eye sees {sees:g} mm of a "
            "piston. How far from TDC may the crank stand at the highest point seen?"
        )

    def form(self, q: Asked) -> Form:
        """Four widths."""
        widths = self._widths(q)
        return Choice(tuple(Option(f"{w:g}", f"up to {w:g}° either side") for w in widths))

    def answer(self, q: Asked) -> Answer:
        """From the crank and rod."""
        return f"{self._flat(q):g}"

    def why(self, q: Asked) -> str:
        """What to do instead."""
        flat = self._flat(q)
        return (
            f"Within {flat:g}° of TDC the piston has moved no more than that. Take two readings at "
            "one height, before and after: TDC is half-way."
        )

    def idea(self, q: Asked, given: Answer) -> str:
        """The highest point was taken for TDC."""
        return "highest-is-tdc" if float(given) < self._flat(q) else ""


class TwoReadings(Drill):
    """Two readings at one height: where is TDC?"""

    slug = "two-readings"
    title = "TDC from two readings"
    skill = "find-tdc"
    shows_engine = False
    stands = False

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """A pointer out by some degrees."""
        half, shift = draw.whole("half", 8, 60) / 2.0, draw.whole("shift", -9, 9) / 2.0
        before, after = half - shift, half + shift
        if min(before, after) < 0.5 or not shift:
            before, after = half + 1.0, half + 4.0
        return Question(self.slug, engine, {"before_deg": before, "after_deg": after})

    def _top(self, q: Asked) -> TrueTop:
        before, after = self._asked(q)
        try:
            return true_top(before, after)
        except EngineError as error:
            raise AskError(f"ask.after_deg {error}") from None

    def _asked(self, q: Asked) -> tuple[float, float]:
        return q.number("before_deg", -60.0, 179.0), q.number("after_deg", -60.0, 179.0)

    def text(self, q: Asked) -> str:
        """The question."""
        (before, after), _ = self._asked(q), self._top(q)
        return (
            f"At one height of the piston the wheel read {before:g}° before and {after:g}° after "
            "its zero. How far after that zero is true TDC? (before it: minus)"
        )

    def form(self, q: Asked) -> Form:
        """Crank degrees."""
        return Figure("°", 0.1, 1)

    def answer(self, q: Asked) -> Answer:
        """Half the difference."""
        return round(self._top(q).shift_deg, 6)

    def why(self, q: Asked) -> str:
        """The sum."""
        before, after = self._asked(q)
        top = self._top(q)
        told = f"({after:g} − {before:g}) ÷ 2 = {top.shift_deg:g}°"
        if top.is_set:
            return f"{told}: the zero is met at true TDC."
        lies = "before" if top.late else "after"
        return f"{told}: the zero is met {top.words}, and TDC lies {lies} it."

    def idea(self, q: Asked, given: Answer) -> str:
        """The zero of the wheel was believed."""
        return "highest-is-tdc" if abs(given) <= 0.1 else ""


DRILLS: Final = (WhichSign(), FlatOfTdc(), TwoReadings())
