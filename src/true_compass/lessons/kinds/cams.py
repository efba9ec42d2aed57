"""Drills of cam timing: centrelines, advance, teeth and dots."""

from typing import Final

from true_compass.core.angles import CYCLE_DEG
from true_compass.core.crank.phasing import companion_of
from true_compass.core.items import Kind
from true_compass.core.limits import MOST_ANGLE_DEG
from true_compass.core.state import Rig
from true_compass.lessons.drill import NEVER, Asked, AskError, Cover, Draw, Drill, Question
from true_compass.lessons.forms import YES_NO, Answer, Figure, Form, one_cylinder
from true_compass.lessons.kinds.cycle import needs_companions

WITHIN_DEG: Final = 0.25
TIMED_WITHIN_DEG: Final = 1.0
USUAL_CENTRELINE_DEG: Final = 108.0
MISTIMED_DEG: Final = (-6.0, -4.5, -3.0, -2.0, 2.0, 3.0, 4.0, 5.5)


def _centreline_deg(rig: Rig, kind: Kind) -> float:
    """Centreline of a kind of valve as the engine has it, to half a degree."""
    timing = rig.engine.cam.timing(kind)
    if timing.suction:
        return USUAL_CENTRELINE_DEG
    nose = timing.nose_cycle_deg(kind)
    away = nose - 360.0 if kind is Kind.INTAKE else 360.0 - nose
    return (
        round((away + (timing.advance_deg if kind is Kind.EXHAUST else -timing.advance_deg)) * 2)
        / 2
    )


class Centreline(Drill):
    """Two readings at equal drops: where is the nose?"""

    slug = "centreline"
    title = "Centreline from two readings"
    skill = "degree-cam"
    shows_engine = False
    stands = False

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """Around the engine's own centreline, a little off it."""
        kind = draw.one("kind", tuple(Kind))
        middle = _centreline_deg(rig, kind) + draw.whole("off", -8, 8) / 2.0
        half = draw.whole("half", 24, 70) / 2.0
        before, after = middle - half, middle + half
        readings = [before, after] if kind is Kind.INTAKE else [after, before]
        return Question(self.slug, engine, {"valve": kind.value, "readings_deg": readings})

    def _asked(self, q: Asked) -> tuple[Kind, float, float]:
        kind = Kind(q.word("valve", [kind.value for kind in Kind]))
        readings = q.ask.get("readings_deg")
        if not isinstance(readings, list | tuple) or len(readings) != 2:
            raise AskError("ask.readings_deg must be two readings in degrees")
        for reading in readings:
            if isinstance(reading, bool) or not isinstance(reading, int | float):
                raise AskError("ask.readings_deg must be two readings in degrees")
            if not abs(reading) <= MOST_ANGLE_DEG:
                raise AskError("ask.readings_deg must be two plain readings in degrees")
        return kind, float(readings[0]), float(readings[1])

    def text(self, q: Asked) -> str:
        """The question."""
        kind, one, other = self._asked(q)
        side = "after" if kind is Kind.INTAKE else "before"
        return (
            f"At one drop from the nose of {kind.letter}1 the wheel read {one:g}° and {other:g}° "
            f"{side} TDC. Where is its centreline?"
        )

    def form(self, q: Asked) -> Form:
        """Crank degrees."""
        kind = self._asked(q)[0]
        unit = "° after TDC" if kind is Kind.INTAKE else "° before TDC"
        return Figure(unit, WITHIN_DEG, 1)

    def answer(self, q: Asked) -> Answer:
        """The middle."""
        _, one, other = self._asked(q)
        return round((one + other) / 2.0, 6)

    def why(self, q: Asked) -> str:
        """The sum."""
        _, one, other = self._asked(q)
        return f"The nose is half-way: ({one:g} + {other:g}) ÷ 2 = {(one + other) / 2:g}°."

    def idea(self, q: Asked, given: Answer) -> str:
        """Half of it, or twice."""
        return half_or_double(given, float(self.answer(q)))


def half_or_double(given: float, right: float) -> str:
    """Cam degrees for crank degrees, or the other way round."""
    wrong = any(abs(given - right * factor) <= 0.5 for factor in (0.5, 2.0))
    return "cam-for-crank" if wrong and right else ""


class Advance(Drill):
    """Two centrelines: how far is the cam advanced?"""

    slug = "advance"
    title = "Advance from two centrelines"
    skill = "degree-cam"
    shows_engine = False
    stands = False

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """Around the engine's own, moved on both."""
        moved = draw.one("moved", [half / 2.0 for half in range(-10, 11) if half])
        icl = _centreline_deg(rig, Kind.INTAKE) - moved
        return Question(
            self.slug,
            engine,
            {"icl_deg": icl, "ecl_deg": _centreline_deg(rig, Kind.EXHAUST) + moved},
        )

    def _asked(self, q: Asked) -> tuple[float, float]:
        return (
            q.number("icl_deg", 0.0, 200.0),
            q.number("ecl_deg", 0.0, 200.0),
        )

    def text(self, q: Asked) -> str:
        """The question."""
        icl, ecl = self._asked(q)
        return (
            f"The dots are in line. Read at the lobes, the intake centreline is {icl:g}° after TDC "
            f"and the exhaust's {ecl:g}° before. How far is the cam advanced? (late: minus)"
        )

    def form(self, q: Asked) -> Form:
        """Crank degrees."""
        return Figure("°", WITHIN_DEG, 1)

    def answer(self, q: Asked) -> Answer:
        """(ECL − ICL) / 2."""
        icl, ecl = self._asked(q)
        return round((ecl - icl) / 2.0, 6)

    def why(self, q: Asked) -> str:
        """The sum, and what zero means."""
        icl, ecl = self._asked(q)
        return f"({ecl:g} − {icl:g}) ÷ 2 = {(ecl - icl) / 2:+g}°. Straight up would be 0."

    def idea(self, q: Asked, given: Answer) -> str:
        """Straight up, since the dots are in line; or cam degrees."""
        right = float(self.answer(q))
        if abs(given) <= WITHIN_DEG and abs(right) > WITHIN_DEG:
            return "dots-prove-timing"
        return half_or_double(given, right)


class Tooth(Drill):
    """One tooth out: how many crank degrees?"""

    slug = "tooth"
    title = "One tooth of the cam gear"
    skill = "degree-cam"
    shows_engine = False
    stands = False

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """The engine's own gear, or another."""
        teeth = rig.engine.cam_teeth if draw.yes("own", 0.1) else draw.whole("teeth", 30, 60)
        return Question(self.slug, engine, {"teeth": teeth})

    def _teeth(self, q: Asked) -> float:
        return q.number("teeth", 8, 400)

    def text(self, q: Asked) -> str:
        """The question."""
        return (
            f"The cam gear has {self._teeth(q):g} teeth and is one tooth out. How many crank "
            "degrees is that?"
        )

    def form(self, q: Asked) -> Form:
        """Crank degrees."""
        return Figure("°", WITHIN_DEG, 1)

    def answer(self, q: Asked) -> Answer:
        """720 by the teeth."""
        return round(CYCLE_DEG / self._teeth(q), 6)

    def why(self, q: Asked) -> str:
        """Cam and crank beside each other."""
        teeth = self._teeth(q)
        of = f"{360 / teeth:.1f} cam °, and {720 / teeth:.1f}° of crank"
        return f"{of}: the cam turns half as fast."

    def idea(self, q: Asked, given: Answer) -> str:
        """Cam degrees."""
        half = abs(given - float(self.answer(q)) / 2) <= 0.5
        return "cam-for-crank" if half else ""


_SIGNS: Final = ("rocks", "still", "thumb")
"""What settles which of two cylinders fires."""


class Dots(Drill):
    """The dots are together. Who fires?"""

    slug = "dots"
    title = "Dots together: who fires?"
    skill = "companions"
    covers = (
        Cover.RING,
        Cover.STROKES,
    )

    def missing(self, rig: Rig) -> str:
        """It needs companions."""
        if companion_of(rig.engine, 1) is None:
            return needs_companions(rig) or "has no companion of 1"
        return ""

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """Where the book says it, else at either of the two."""
        other = companion_of(rig.engine, 1) or 1
        fires = rig.engine.dots_fire or draw.even("fires", (1, other), keeps=True)
        ask = {"sign": draw.one("sign", _SIGNS)}
        return Question(self.slug, engine, ask, float(rig.offsets_deg[fires - 1]))

    def choices(self, q: Asked) -> int:
        """One of the pair; where the book names it, always the same."""
        return NEVER if q.engine.dots_fire else 2

    def _fires(self, q: Asked) -> tuple[int, int]:
        at = q.at_deg
        one, other = 1, companion_of(q.engine, 1)
        pairs = [one] if other is None else [one, other]
        if q.engine.dots_fire:
            fires = q.engine.dots_fire
            pairs = [c for c in (fires, companion_of(q.engine, fires)) if c is not None]

        def away(cylinder: int) -> float:
            return abs((at - float(q.rig.offsets_deg[cylinder - 1]) + 360.0) % 720.0 - 360.0)

        fires = min(pairs, key=away)
        return fires, next((c for c in pairs if c != fires), fires)

    def text(self, q: Asked) -> str:
        """The question, with the sign that settles it."""
        fires, rocks = self._fires(q)
        seen = {
            "rocks": f"The valves of {rocks} rock",
            "still": f"Those of {fires} stand still when the crank is rocked",
            "thumb": f"A thumb over the plug hole of {rocks} felt no pressure on the way up",
        }[q.word("sign", _SIGNS) if "sign" in q.ask else "rocks"]
        return f"The dots of the timing gears are together. {seen}. Which cylinder fires?"

    def form(self, q: Asked) -> Form:
        """Any cylinder."""
        return one_cylinder(q.engine.cylinders)

    def answer(self, q: Asked) -> Answer:
        """The one whose companion rocks."""
        return self._fires(q)[0]

    def why(self, q: Asked) -> str:
        """What the dots tell."""
        fires, rocks = self._fires(q)
        told = f"{rocks} is in overlap, so {fires} fires."
        return f"{told} Dots say how the gears mesh; the valves tell the stroke."

    def idea(self, q: Asked, given: Answer) -> str:
        """Always 1."""
        return "dots-mean-1" if given == 1 else ""

    def shows(self, q: Asked, given: Answer) -> tuple[int, ...]:
        """Both."""
        return tuple(sorted(set(self._fires(q))))


class DotsProve(Drill):
    """Dots in line and a centreline read: is it timed as the card says?"""

    slug = "dots-prove"
    title = "Do the dots prove the timing?"
    skill = "degree-cam"
    shows_engine = False
    stands = False

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """Late or early by some degrees, or right."""
        card = _centreline_deg(rig, Kind.INTAKE)
        timed = draw.even("timed", (True, False), keeps=True)
        off = draw.one("off", (-1.0, -0.5, 0.0, 0.5, 1.0) if timed else MISTIMED_DEG)
        return Question(self.slug, engine, {"card_icl_deg": card, "read_icl_deg": card + off})

    def _asked(self, q: Asked) -> tuple[float, float]:
        return (
            q.number("card_icl_deg", 0.0, 200.0),
            q.number("read_icl_deg", 0.0, 200.0),
        )

    def text(self, q: Asked) -> str:
        """The question."""
        card, read = self._asked(q)
        return (
            f"The dots are in line. The card has the intake centreline at {card:g}° after TDC; "
            f"read at the lobe it is {read:g}°. Is the cam timed as the card says, within 1°?"
        )

    def form(self, q: Asked) -> Form:
        """Yes or no."""
        return YES_NO

    def answer(self, q: Asked) -> Answer:
        """By the reading."""
        card, read = self._asked(q)
        return abs(read - card) <= TIMED_WITHIN_DEG

    def why(self, q: Asked) -> str:
        """By how much, and which way."""
        card, read = self._asked(q)
        if read == card:
            return "The reading says what the card says. That the dots agree is no proof."
        way = "late" if read > card else "early"
        return f"Read at the lobe it stands {abs(read - card):g}° {way}, whatever the dots say."

    def idea(self, q: Asked, given: Answer) -> str:
        """The dots were believed."""
        return "dots-prove-timing" if given else ""


DRILLS: Final = (Dots(), Tooth(), Centreline(), Advance(), DotsProve())
