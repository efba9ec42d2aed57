"""Drills of the four strokes and the two TDCs."""

from enum import Enum
from typing import Final

from true_compass.core.angles import CYCLE_DEG, TURN_DEG, wrap_deg
from true_compass.core.crank.phasing import companion_of
from true_compass.core.items import Item, Kind
from true_compass.core.state import Rig, engine_state
from true_compass.core.strokes import Stroke
from true_compass.lessons.drill import NEVER, Asked, Cover, Draw, Drill, Question
from true_compass.lessons.forms import (
    Answer,
    Choice,
    Form,
    Option,
    Place,
    Ticks,
    away_deg,
)

CLEAR_DEG: Final = 15.0
"""How far from a dead centre a stroke is asked: nobody is asked about a border."""
TURN_WITHIN_DEG: Final = 4.0
"""A compression TDC that was turned to is taken within this, as at the bench."""

STROKES: Final = Choice(tuple(Option(stroke.word, stroke.word.capitalize()) for stroke in Stroke))
_DOES: Final = {
    Stroke.POWER: "its piston is pushed down",
    Stroke.EXHAUST: "its piston rises",
    Stroke.INTAKE: "its piston falls",
    Stroke.COMPRESSION: "its piston rises",
}


def cycle_deg(rig: Rig, cylinder: int, crank_deg: float) -> float:
    """Cycle angle of a cylinder by its nominal phasing, [0, 720)."""
    return wrap_deg(crank_deg - float(rig.offsets_deg[cylinder - 1]))


def stroke_of(rig: Rig, cylinder: int, crank_deg: float) -> Stroke:
    """The stroke that a cylinder is on."""
    return Stroke(int(cycle_deg(rig, cylinder, crank_deg) // 180.0))


def stroke_words(rig: Rig, cylinder: int, crank_deg: float) -> str:
    """What a cylinder does at a place, as a sentence: its piston, and which valves are open."""
    stroke, valves = stroke_of(rig, cylinder, crank_deg), valve_words(rig, cylinder, crank_deg)
    return f"Cylinder {cylinder} is on {stroke.word}: {_DOES[stroke]}, {valves}."


def valve_words(rig: Rig, cylinder: int, crank_deg: float) -> str:
    """Which valves of a cylinder are open: `both valves shut`, `E3 open`, `I3 and E3 open`."""
    lift = engine_state(rig, crank_deg).lift_mm
    rows = zip(Kind, rig.engine.valve_rows(cylinder), strict=True)
    names = [Item(kind, cylinder).name for kind, row in rows if lift[row] > 0]
    return f"{' and '.join(names)} open" if names else "both valves shut"


def border_deg(rig: Rig, cylinder: int, crank_deg: float) -> float:
    """How far a place is from the nearest dead centre of a cylinder, nominal or true, 0 to 90."""
    starts = (float(rig.offsets_deg[cylinder - 1]), tdc_deg(rig, cylinder))
    return min(abs((crank_deg - start + 90.0) % 180.0 - 90.0) for start in starts)


def tdc_deg(rig: Rig, cylinder: int) -> float:
    """Crank angle of a cylinder's true compression TDC, [0, 720)."""
    return float(rig.true_offsets_deg[cylinder - 1])


def overlap_deg(rig: Rig, cylinder: int) -> float:
    """Crank angle of a cylinder's true overlap TDC, [0, 720)."""
    return wrap_deg(tdc_deg(rig, cylinder) + TURN_DEG)


class NameStroke(Drill):
    """Which stroke is a cylinder on?"""

    slug = "stroke"
    title = "Name the stroke"
    skill = "name-stroke"
    covers = (
        Cover.RING,
        Cover.STROKES,
    )

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """Any cylinder, away from its dead centres, at whole fives of degrees."""
        cylinder = draw.one("cylinder", list(rig.engine.cylinders))
        stroke = draw.even("stroke", tuple(Stroke), keeps=True)
        places = [
            float(at)
            for at in range(0, int(CYCLE_DEG), 5)
            if stroke_of(rig, cylinder, at) is stroke and border_deg(rig, cylinder, at) >= CLEAR_DEG
        ]
        return Question(self.slug, engine, {"cylinder": cylinder}, draw.one("place", places))

    def unfair(self, q: Asked) -> str:
        """Beside a dead centre two strokes meet."""
        return near_border(q, q.cylinder)

    def text(self, q: Asked) -> str:
        """The question."""
        cylinder = q.cylinder
        return f"The crank stands at {q.at_deg:.4g}°. Which stroke is {cylinder} on?"

    def form(self, q: Asked) -> Form:
        """One of four."""
        return STROKES

    def answer(self, q: Asked) -> Answer:
        """The stroke, by nominal phasing."""
        return stroke_of(q.rig, q.cylinder, q.at_deg).word

    def why(self, q: Asked) -> str:
        """What the piston and the valves do."""
        return stroke_words(q.rig, q.cylinder, q.at_deg)

    def idea(self, q: Asked, given: Answer) -> str:
        """The stroke of the companion is that of whoever goes by the height of the piston."""
        cylinder = q.cylinder
        other = companion_of(q.engine, cylinder)
        if other is not None and stroke_of(q.rig, other, q.at_deg).word == given:
            return "together-fire-together"
        return ""

    def hint(self, q: Asked) -> str:
        """Two looks that settle it."""
        return "Does its piston rise or fall when you turn on? And which of its valves is open?"


def near_border(q: Asked, cylinder: int) -> str:
    """Why nobody is asked for a stroke here, as the end of a sentence; nothing where one may be."""
    away = border_deg(q.rig, cylinder, q.at_deg)
    if away >= CLEAR_DEG - 1e-9:
        return ""
    return f"has cylinder {cylinder} {away:.3g}° from a dead centre there, where two strokes meet"


class TurnTo(Drill):
    """Turn to compression TDC of a cylinder: answered by turning."""

    slug = "turn-to"
    title = "Turn to compression TDC"
    skill = "two-tdcs"
    covers = (
        Cover.RING,
        Cover.STROKES,
    )
    on_paper = False

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """From somewhere well away from both of its TDCs."""
        cylinder = draw.even("cylinder", list(rig.engine.cylinders))
        way = draw.one("way", (40, 80, 110, 140, 220, 260, 310, 400, 450, 500, 570, 620))
        at = wrap_deg(round((tdc_deg(rig, cylinder) - way) / 5.0) * 5.0)
        return Question(self.slug, engine, {"cylinder": cylinder}, at)

    def text(self, q: Asked) -> str:
        """The question."""
        return f"Bring cylinder {q.cylinder} to compression TDC."

    def form(self, q: Asked) -> Form:
        """A place."""
        return Place(TURN_WITHIN_DEG)

    def choices(self, q: Asked) -> int:
        """Whoever sees the piston chooses between its two TDCs."""
        return 2

    def answer(self, q: Asked) -> Answer:
        """Its true compression TDC."""
        return tdc_deg(q.rig, q.cylinder)

    def why(self, q: Asked) -> str:
        """Where it is, and what one sees there."""
        cylinder = q.cylinder
        at = tdc_deg(q.rig, cylinder)
        valves = valve_words(q.rig, cylinder, at)
        return f"Its compression TDC is at {at:.4g}°: the piston is up, {valves}."

    def idea(self, q: Asked, given: Answer) -> str:
        """The other TDC: the piston was looked at, or its companion."""
        cylinder = q.cylinder
        if away_deg(given, overlap_deg(q.rig, cylinder)) <= TURN_WITHIN_DEG:
            return "both-shut-at-tdc"
        other = companion_of(q.engine, cylinder)
        if other is not None and away_deg(given, tdc_deg(q.rig, other)) <= TURN_WITHIN_DEG:
            return "together-fire-together"
        return ""

    def wrong_words(self, q: Asked, given: Answer) -> str:
        """What was found there."""
        cylinder = q.cylinder
        if away_deg(given, overlap_deg(q.rig, cylinder)) <= TURN_WITHIN_DEG:
            return f"That is the other TDC of {cylinder}: its exhaust closes, its intake opens."
        return stroke_words(q.rig, cylinder, given)

    def show_deg(self, q: Asked, given: Answer) -> float | None:
        """Where it was left."""
        return float(given)

    def hint(self, q: Asked) -> str:
        """The surest sign."""
        return "Watch its intake close, then go on until the piston is up."


class Together(Drill):
    """The stroke of the companion."""

    slug = "together"
    title = "What its companion does"
    skill = "companions"
    covers = (
        Cover.RING,
        Cover.STROKES,
    )

    def missing(self, rig: Rig) -> str:
        """It needs companions."""
        return needs_companions(rig)

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """A cylinder with a companion, in the middle of a stroke."""
        pairs = [c for c in rig.engine.cylinders if companion_of(rig.engine, c) is not None]
        cylinder = draw.one("cylinder", pairs)
        quarter = draw.even("stroke", (0, 1, 2, 3), keeps=True)
        within = draw.whole("within", 4, 14) * 10.0 + 180.0 * quarter
        at = wrap_deg(round((float(rig.offsets_deg[cylinder - 1]) + within) / 5.0) * 5.0)
        return Question(self.slug, engine, {"cylinder": cylinder}, at)

    def _companion(self, q: Asked) -> int:
        cylinder = q.cylinder
        return companion_of(q.engine, cylinder) or cylinder

    def text(self, q: Asked) -> str:
        """The question names both, and the stroke of one."""
        cylinder = q.cylinder
        other, at = self._companion(q), q.at_deg
        stroke = stroke_of(q.rig, cylinder, at)
        move = "rise" if stroke in (Stroke.EXHAUST, Stroke.COMPRESSION) else "fall"
        return (
            f"{cylinder} and {other} {move} together. {cylinder} is on {stroke.word}: and {other}?"
        )

    def form(self, q: Asked) -> Form:
        """One of four strokes."""
        return STROKES

    def answer(self, q: Asked) -> Answer:
        """The stroke one turn away."""
        return stroke_of(q.rig, self._companion(q), q.at_deg).word

    def why(self, q: Asked) -> str:
        """What the companion does."""
        return stroke_words(q.rig, self._companion(q), q.at_deg)

    def idea(self, q: Asked, given: Answer) -> str:
        """The same stroke for both."""
        same = stroke_of(q.rig, q.cylinder, q.at_deg).word == given
        return "together-fire-together" if same else ""

    def shows(self, q: Asked, given: Answer) -> tuple[int, ...]:
        """Both."""
        return q.cylinder, self._companion(q)


def needs_companions(rig: Rig) -> str:
    """Why a drill of companions cannot be asked."""
    engine = rig.engine
    if any(companion_of(engine, c) is not None for c in engine.cylinders):
        return ""
    if engine.cylinder_count == 1:
        return "has one cylinder, so there is no companion to ask for"
    return "has no companions: no two cylinders rise together and fire one turn apart"


SEEN_OPEN_MM: Final = 0.3
"""A valve that is open less than this at a dead centre is not asked about."""
_BOTTOMS: Final = {
    Stroke.EXHAUST: "at the bottom between power and exhaust",
    Stroke.COMPRESSION: "at the bottom between intake and compression",
}


class BothValves(Drill):
    """Which valves are open at a dead centre?"""

    slug = "open-at-tdc"
    reads_cam = True
    title = "Which valves are open at a dead centre"
    skill = "two-tdcs"
    covers = (
        Cover.RING,
        Cover.VALVES,
    )

    def missing(self, rig: Rig) -> str:
        """Both valves must be driven."""
        return "" if all(rig.lobes.settable) else "has valves that no cam drives"

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """A cylinder at one of its four dead centres, where its valves are shut or seen open."""
        cylinder = draw.one("cylinder", list(rig.engine.cylinders))
        stroke = draw.even("centre", tuple(Stroke), keeps=True)
        at = round(_centre_deg(rig, cylinder, stroke), 3)
        if not self._is_clear(rig, cylinder, at):
            both = (Stroke.POWER, Stroke.INTAKE)
            at = round(_centre_deg(rig, cylinder, draw.even("top", both)), 3)
        return Question(self.slug, engine, {"cylinder": cylinder}, at)

    def _is_clear(self, rig: Rig, cylinder: int, at: float) -> bool:
        lifts = engine_state(rig, at).lift_mm[list(rig.engine.valve_rows(cylinder))]
        return all(lift <= 0 or lift >= SEEN_OPEN_MM for lift in lifts)

    def text(self, q: Asked) -> str:
        """The question names which of the four it is."""
        cylinder, rig = q.cylinder, q.rig
        where = min(Stroke, key=lambda s: away_deg(q.at_deg, _centre_deg(rig, cylinder, s)))
        told = {Stroke.POWER: "at compression TDC", Stroke.INTAKE: "at overlap TDC"} | _BOTTOMS
        return f"{cylinder} is {told[where]}. Which of its valves are open?"

    def form(self, q: Asked) -> Form:
        """Both of its valves."""
        cylinder = q.cylinder
        return Ticks(tuple(Item(kind, cylinder).name for kind in Kind))

    def answer(self, q: Asked) -> Answer:
        """Those with lift."""
        cylinder = q.cylinder
        lift = engine_state(q.rig, q.at_deg).lift_mm
        rows = zip(Kind, q.engine.valve_rows(cylinder), strict=True)
        return tuple(Item(kind, cylinder).name for kind, row in rows if lift[row] > 0)

    def why(self, q: Asked) -> str:
        """The lifts."""
        cylinder = q.cylinder
        lift = engine_state(q.rig, q.at_deg).lift_mm
        told = [
            f"{Item(kind, cylinder).name} {_open_words(float(lift[row]))}"
            for kind, row in zip(Kind, q.engine.valve_rows(cylinder), strict=True)
        ]
        return f"{' and '.join(told)}."

    def idea(self, q: Asked, given: Answer) -> str:
        """Nothing open at overlap."""
        return "both-shut-at-tdc" if not given and self.answer(q) else ""

    def slips(self, q: Asked) -> list[Answer]:
        """None, and both."""
        form = self.form(q)
        assert isinstance(form, Ticks)
        return [(), form.names]


def _centre_deg(rig: Rig, cylinder: int, stroke: Stroke) -> float:
    """The dead centre at which a stroke of a cylinder begins; the tops are the true ones."""
    if stroke is Stroke.POWER:
        return tdc_deg(rig, cylinder)
    if stroke is Stroke.INTAKE:
        return overlap_deg(rig, cylinder)
    return wrap_deg(float(rig.offsets_deg[cylinder - 1]) + 180.0 * int(stroke))


def _open_words(lift_mm: float) -> str:
    if lift_mm >= 0.05:
        return f"is open {lift_mm:.1f} mm"
    return "has just left its seat" if lift_mm > 0 else "is shut"


class MarkSign(Enum):
    """What else is looked at where the mark is in line."""

    NOTHING = ""
    STRAW = "straw"
    PAIR = "pair"
    THUMB = "thumb"
    VALVES = "valves"
    THEIRS = "companion valves"


_IDLE: Final = (MarkSign.NOTHING, MarkSign.STRAW, MarkSign.PAIR)
"""What is the same at both TDCs."""
_TELLING: Final = (MarkSign.THUMB, MarkSign.VALVES, MarkSign.THEIRS)


ROCKED_DEG: Final = 5.0
SEEN_TO_MOVE_MM: Final = 0.05


def _rocks(rig: Rig, cylinder: int) -> bool:
    """Whether rocking is seen at the valves of a cylinder, and of its companion, at overlap and
    nowhere near compression TDC: little overlap shows nothing, a compression release shows both.
    """
    of = {cylinder, companion_of(rig.engine, cylinder) or cylinder}
    return all(
        _moves_mm(rig, c, overlap_deg(rig, c)) >= SEEN_TO_MOVE_MM
        and _moves_mm(rig, c, tdc_deg(rig, c)) <= 0
        for c in of
    )


def _moves_mm(rig: Rig, cylinder: int, at: float) -> float:
    """How far a valve of a cylinder moves when the crank is rocked either way."""
    rows = list(rig.engine.valve_rows(cylinder))
    there, back = (engine_state(rig, at + by).lift_mm[rows] for by in (ROCKED_DEG, -ROCKED_DEG))
    return float(abs(there - back).max())


class MarkAtZero(Drill):
    """The mark is in line, and perhaps something else is seen. What does that tell?"""

    slug = "mark-zero"
    title = "What a mark in line tells"
    skill = "two-tdcs"
    covers = (
        Cover.RING,
        Cover.STROKES,
        Cover.ANGLE,
        Cover.VALVES,
    )

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """A cylinder at either of its TDCs, with a sign that tells or with one that does not."""
        answer = draw.even("answer", ("yes", "no", "unknown"), keeps=True)
        cylinder = draw.one("cylinder", list(rig.engine.cylinders))
        paired = companion_of(rig.engine, cylinder) is not None
        signs = _IDLE if answer == "unknown" else _TELLING
        known = [s for s in signs if paired or s not in (MarkSign.PAIR, MarkSign.THEIRS)]
        if answer != "unknown" and not _rocks(rig, cylinder):
            known = [MarkSign.THUMB]
        overlap = answer == "no" or (answer == "unknown" and draw.yes("overlap"))
        at = overlap_deg(rig, cylinder) if overlap else tdc_deg(rig, cylinder)
        ask = {"cylinder": cylinder, "sign": draw.one("sign", known).value}
        return Question(self.slug, engine, ask, round(at, 3))

    def _sign(self, q: Asked) -> MarkSign:
        word = q.word("sign", [s.value for s in MarkSign]) if "sign" in q.ask else ""
        return MarkSign(word)

    def _fires(self, q: Asked) -> bool:
        return away_deg(q.at_deg, tdc_deg(q.rig, q.cylinder)) < 90.0

    def choices(self, q: Asked) -> int:
        """A mark alone can never be known: such a question is as easy by heart."""
        return 3 if "sign" in q.ask else NEVER

    def text(self, q: Asked) -> str:
        """The question, with what else was seen."""
        cylinder, fires = q.cylinder, self._fires(q)
        other = companion_of(q.engine, cylinder)
        felt = "felt pressure" if fires else "felt no pressure"
        own, theirs = ("stand still", "tilt") if fires else ("tilt", "stand still")
        seen = {
            MarkSign.NOTHING: "nothing else was looked at",
            MarkSign.STRAW: f"a straw in the plug hole of {cylinder} stands at its highest",
            MarkSign.PAIR: f"the piston of {other} is up too",
            MarkSign.THUMB: f"a thumb over the plug hole of {cylinder} {felt} on the way up to it",
            MarkSign.VALVES: f"the valves of {cylinder} {own} when the crank is rocked",
            MarkSign.THEIRS: f"the valves of {other} {theirs} when the crank is rocked",
        }[self._sign(q)]
        return (
            f"Covered. The crank's TDC mark of {cylinder} is in line, and {seen}. Does {cylinder} "
            "fire here?"
        )

    def form(self, q: Asked) -> Form:
        """Yes, no, or that it cannot be known."""
        return Choice(
            (
                Option("yes", "Yes, it fires here"),
                Option("no", "No, its valves overlap"),
                Option("unknown", "It cannot be known yet"),
            )
        )

    def answer(self, q: Asked) -> Answer:
        """A crank mark is met at both TDCs; the sign settles which, or it does not."""
        if self._sign(q) in _IDLE:
            return "unknown"
        return "yes" if self._fires(q) else "no"

    def why(self, q: Asked) -> str:
        """What stood there, and one turn on."""
        here = "compression" if self._fires(q) else "overlap"
        told = f"Uncovered, this was {here} TDC"
        if self._sign(q) in _IDLE:
            return (
                "A mark on the crank passes twice a cycle, and a piston is twice at its top. "
                f"{told}; one turn on the mark is in line again, at the other."
            )
        return f"The mark passes twice a cycle; the other sign tells which time. {told}."

    def idea(self, q: Asked, given: Answer) -> str:
        """The mark was taken for the stroke."""
        return "mark-zero-fires" if given == "yes" else ""


_PARTS: Final = ("begins", "middle")


class TurnsOfCycle(Drill):
    """How far a stroke is from another, in crank degrees."""

    slug = "turns"
    title = "Two turns make one cycle"
    skill = "name-stroke"

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """A cylinder at compression TDC, and a stroke that begins later, or its middle."""
        cylinder = draw.one("cylinder", list(rig.engine.cylinders))
        places = [(stroke, part) for stroke in Stroke for part in _PARTS]
        stroke, part = draw.even("stroke", places)
        ask = {"cylinder": cylinder, "stroke": stroke.word, "part": part}
        return Question(self.slug, engine, ask, round(float(rig.offsets_deg[cylinder - 1]), 3))

    def _middle(self, q: Asked) -> bool:
        return q.word("part", _PARTS) == _PARTS[1] if "part" in q.ask else False

    def _stroke(self, q: Asked) -> Stroke:
        word = q.word("stroke", [stroke.word for stroke in Stroke])
        return next(stroke for stroke in Stroke if stroke.word == word)

    def text(self, q: Asked) -> str:
        """The question."""
        cylinder, stroke = q.cylinder, self._stroke(q)
        begins = f"does its {stroke.word} stroke begin"
        if stroke is Stroke.POWER:
            begins = "does it begin power again"
        what = f"is the middle of its {stroke.word} stroke" if self._middle(q) else begins
        return f"{cylinder} is at compression TDC. How many crank degrees on {what}?"

    def form(self, q: Asked) -> Form:
        """Quarters of a turn, up to a whole cycle."""
        return Choice(tuple(Option(at, f"{at}°") for at in range(90, 721, 90)))

    def answer(self, q: Asked) -> Answer:
        """180° a stroke."""
        if self._middle(q):
            return int(self._stroke(q)) * 180 + 90
        return int(self._stroke(q)) * 180 or int(CYCLE_DEG)

    def why(self, q: Asked) -> str:
        """Each stroke is half a turn."""
        stroke = self._stroke(q)
        told = "is half-way" if self._middle(q) else "begins"
        return f"A stroke is 180° of crank: {stroke.word} {told} {self.answer(q)}° on."

    def idea(self, q: Asked, given: Answer) -> str:
        """Half of it: cam degrees."""
        return "cam-for-crank" if given * 2 == self.answer(q) else ""


BESIDE_DEG: Final = (0.0, 0.0, 2.0, -2.0, 4.0, -4.0)
"""How far beside their TDC two pistons that are up may stand."""


class Fires(Drill):
    """Both pistons are up: which of them fires?"""

    slug = "fires"
    title = "Which of the two fires"
    skill = "two-tdcs"
    covers = (
        Cover.RING,
        Cover.STROKES,
        Cover.ANGLE,
    )

    def missing(self, rig: Rig) -> str:
        """It needs companions."""
        return needs_companions(rig)

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """A cylinder at compression TDC, and its companion."""
        pairs = [c for c in rig.engine.cylinders if companion_of(rig.engine, c) is not None]
        cylinder = draw.even("cylinder", pairs)
        at = wrap_deg(float(rig.offsets_deg[cylinder - 1]) + draw.one("beside", BESIDE_DEG))
        lower = min(cylinder, companion_of(rig.engine, cylinder) or 99)
        return Question(self.slug, engine, {"cylinder": lower}, at)

    def _pair(self, q: Asked) -> tuple[int, int]:
        cylinder = q.cylinder
        return cylinder, companion_of(q.engine, cylinder) or cylinder

    def text(self, q: Asked) -> str:
        """The question."""
        one, other = self._pair(q)
        return f"{one} and {other} are both up. Which of them fires?"

    def paper_text(self, q: Asked) -> str:
        """With where the crank stands, since no valve is seen."""
        return f"The crank stands at {q.at_deg:.4g}°. {self.text(q)}"

    def form(self, q: Asked) -> Form:
        """Either, or both."""
        one, other = self._pair(q)
        return Choice(
            (
                Option(one, f"{one} fires"),
                Option(other, f"{other} fires"),
                Option("both", "Both fire"),
            )
        )

    def choices(self, q: Asked) -> int:
        """Both never fire: one of two it is."""
        return 2

    def answer(self, q: Asked) -> Answer:
        """The one at compression TDC."""
        one, other = self._pair(q)
        at = q.at_deg
        here = away_deg(at, float(q.rig.offsets_deg[one - 1])) <= away_deg(
            at, float(q.rig.offsets_deg[other - 1])
        )
        return one if here else other

    def why(self, q: Asked) -> str:
        """Shut valves against rocking ones."""
        fires = self.answer(q)
        other = next(c for c in self._pair(q) if c != fires or len(set(self._pair(q))) == 1)
        told = f"{fires} is at compression TDC, {valve_words(q.rig, fires, q.at_deg)}."
        if not _rocks(q.rig, other):
            return f"{told} {other} is at its other TDC, between exhaust and intake."
        return f"{told} The valves of {other} rock: overlap."

    def idea(self, q: Asked, given: Answer) -> str:
        """Any wrong answer went by the pistons."""
        return "together-fire-together"

    def shows(self, q: Asked, given: Answer) -> tuple[int, ...]:
        """Both."""
        return self._pair(q)

    def hint(self, q: Asked) -> str:
        """Rock it."""
        return "Rock the crank 5° either way. Whose valves move?"


DRILLS: Final = (
    NameStroke(),
    TurnsOfCycle(),
    Fires(),
    TurnTo(),
    BothValves(),
    MarkAtZero(),
    Together(),
)
