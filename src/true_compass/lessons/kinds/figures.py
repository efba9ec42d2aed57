"""Drills with figures of a blade, a dial and a screw."""

from typing import Final

from true_compass.core.adjusting.screws import gap_per_turn_mm
from true_compass.core.adjusting.setting import Setting, Way, settings_of
from true_compass.core.items import Kind
from true_compass.core.state import Rig
from true_compass.core.units import MM_PER_THOU, GapUnit, gap_words
from true_compass.core.valves.train import Adjuster, Train
from true_compass.core.words import counted
from true_compass.lessons.drill import MANY, NEVER, Asked, AskError, Draw, Drill, Question
from true_compass.lessons.forms import Answer, Figure, Form

MM: Final = Figure("mm", 0.005, 2)
THOU: Final = Figure("thou", 0.05, 1)
SCREW_WITHIN_DEG: Final = 5.0
TURN_OF_DIAL: Final = {"mm": 1.0, "thou": 100.0}
"""What one turn of an indicator's hand is, by the unit of its dial (common practice, no source)."""


class ThouToMm(Drill):
    """So many thou: how many mm?"""

    slug = "thou"
    title = "Thou to mm"
    skill = "figures"
    shows_engine = False
    stands = False

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """Blades from 4 to 40 thou."""
        return Question(self.slug, engine, {"thou": draw.whole("thou", 4, 40)})

    def _thou(self, q: Asked) -> float:
        return q.number("thou", 0.1, 1000.0)

    def text(self, q: Asked) -> str:
        """The question."""
        return f"A blade of {self._thou(q):g} thou: how many mm, to 0.01?"

    def form(self, q: Asked) -> Form:
        """To a hundredth."""
        return MM

    def answer(self, q: Asked) -> Answer:
        """25.4 mm to the inch."""
        return round(self._thou(q) * MM_PER_THOU, 6)

    def why(self, q: Asked) -> str:
        """The sum."""
        thou = self._thou(q)
        return f"{thou:g} × 0.0254 = {thou * MM_PER_THOU:.3f} mm."

    def idea(self, q: Asked, given: Answer) -> str:
        """The number taken as mm, or as hundredths of them."""
        thou = self._thou(q)
        as_mm = (thou, thou / 10.0, thou / 100.0)
        return "bare-25-is-mm" if any(abs(given - mm) <= 0.0051 for mm in as_mm) else ""

    def hint(self, q: Asked) -> str:
        """What a thou is."""
        return "One thou is 0.0254 mm: four thou are a tenth of a mm, nearly."

    def slips(self, q: Asked) -> list[Answer]:
        """The number as hundredths of a mm, and as mm."""
        return [self._thou(q) / 100.0, self._thou(q)]


class MmToThou(Drill):
    """So many mm: how many thou?"""

    slug = "mm"
    title = "mm to thou"
    skill = "figures"
    shows_engine = False
    stands = False

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """Gaps from 0.10 to 0.80 mm."""
        return Question(self.slug, engine, {"mm": draw.whole("mm", 10, 80) / 100.0})

    def _mm(self, q: Asked) -> float:
        return q.number("mm", 0.001, 25.4)

    def text(self, q: Asked) -> str:
        """The question."""
        return f"A gap of {self._mm(q):.2f} mm: how many thou, to 0.1?"

    def form(self, q: Asked) -> Form:
        """To a tenth."""
        return THOU

    def answer(self, q: Asked) -> Answer:
        """25.4 mm to the inch."""
        return round(self._mm(q) / MM_PER_THOU, 6)

    def why(self, q: Asked) -> str:
        """The sum."""
        mm = self._mm(q)
        return f"{mm:.2f} ÷ 0.0254 = {mm / MM_PER_THOU:.1f} thou."

    def idea(self, q: Asked, given: Answer) -> str:
        """Hundredths of a mm taken for thou."""
        return "bare-25-is-mm" if abs(given - self._mm(q) * 100.0) <= 0.051 else ""

    def hint(self, q: Asked) -> str:
        """A tenth."""
        return "A tenth of a mm is nearly four thou."

    def slips(self, q: Asked) -> list[Answer]:
        """Hundredths of a mm as thou."""
        return [self._mm(q) * 100.0]


class DialTotal(Drill):
    """What does this dial read in all?"""

    slug = "dial"
    title = "What the dial reads in all"
    skill = "figures"
    shows_engine = False
    stands = False

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """In the unit of the engine's blades, some turns and a rest."""
        unit = rig.engine.gap_unit.value
        rest = draw.whole("rest", 5, 95)
        hand = rest / 100.0 if unit == "mm" else float(rest)
        turns = draw.whole("turns", 1, 8 if unit == "mm" else 3)
        return Question(self.slug, engine, {"unit": unit, "turns": turns, "hand": hand})

    def _asked(self, q: Asked) -> tuple[str, int, float]:
        unit = q.word("unit", tuple(TURN_OF_DIAL))
        turns = q.number("turns", 0, 99)
        return unit, int(turns), q.number("hand", 0, TURN_OF_DIAL[unit])

    def text(self, q: Asked) -> str:
        """The question."""
        unit, turns, hand = self._asked(q)
        one = f"{TURN_OF_DIAL[unit]:g} {unit}"
        told = f"{hand:.2f}" if unit == "mm" else f"{hand:g}"
        return (
            f"One turn of the hand is {one}. From zero it went round {counted(turns, 'time')} and "
            f"stands at {told}. What is read in all?"
        )

    def form(self, q: Asked) -> Form:
        """In the unit of the dial."""
        return MM if self._asked(q)[0] == "mm" else THOU

    def answer(self, q: Asked) -> Answer:
        """Turns and rest."""
        unit, turns, hand = self._asked(q)
        return round(turns * TURN_OF_DIAL[unit] + hand, 6)

    def why(self, q: Asked) -> str:
        """The sum."""
        unit, turns, hand = self._asked(q)
        total = self.form(q).words(self.answer(q))
        told = f"{turns} × {TURN_OF_DIAL[unit]:g} + {hand:g} = {total}"
        return f"{told}. A turn forgotten is the usual slip."


def _turned(rig: Rig) -> list[Setting]:
    """Items whose gap or plunger a turn changes."""
    return [
        setting
        for setting in settings_of(rig.engine)
        if setting.per_turn_mm > 0 and setting.way in (Way.GAP, Way.PLUNGER) and not setting.seats
    ]


class ScrewTurn(Drill):
    """How far does the screw turn?"""

    slug = "screw"
    title = "How far to turn the screw"
    skill = "figures"
    shows_engine = False
    stands = False

    def missing(self, rig: Rig) -> str:
        """It needs something to turn."""
        return "" if _turned(rig) else "has no adjuster that a turn changes"

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """A gap or a plunger found so far off, either way; a plunger also at zero lash."""
        setting = draw.one("item", _turned(rig))
        off, way = draw.whole("off", 4, 20) / 100.0, draw.even("way", (1, -1), keeps=True)
        target = setting.target_mm
        if setting.way is Way.PLUNGER:
            # So deep that the window of most lifters holds both.
            target, off = round(target + draw.whole("target", -5, 5) / 20.0, 2), off * 3.0
            target = max(target, 0.2)
            off = off if way > 0 else min(off, target)
        else:
            off = off if way > 0 else min(off, target - 0.02)
        ask = {"item": setting.name, "measured_mm": round(target + way * off, 3), "signed": True}
        return Question(self.slug, engine, {**ask, "target_mm": round(target, 3)})

    def choices(self, q: Asked) -> int:
        """From zero lash to one depth it is the same angle on one engine, always."""
        return MANY if "signed" in q.ask or q.number("measured_mm", 0.0, 20.0) else NEVER

    def _setting(self, q: Asked) -> Setting:
        found = {setting.name: setting for setting in _turned(q.rig)}
        setting = found.get(str(q.ask.get("item")))
        if setting is None:
            names = ", ".join(list(found)[:4]) or "none: no adjuster here is turned"
            raise AskError(f"ask.item must be an item that is turned, such as {names}")
        return setting

    def _asked(self, q: Asked) -> tuple[Setting, float, float]:
        """The item, what was measured and what it should be, mm where it is measured."""
        setting = self._setting(q)
        measured = q.number("measured_mm", 0.0, 20.0)
        target = setting.target_mm
        if "target_mm" in q.ask:
            target = q.number("target_mm", 0.0, 20.0)
        return setting, measured, target

    def _signed(self, q: Asked) -> bool:
        return q.ask.get("signed") is True

    def given(self, q: Asked) -> str:
        """The depth of a plunger, then the adjuster with its thread and lever."""
        setting, _, target = self._asked(q)
        depth = f"{target:.2f} mm in, " if setting.way is Way.PLUNGER else ""
        return f"{depth}{self._part_words(q)}"

    def _part_words(self, q: Asked) -> str:
        train = self._train(q)
        thread = f" {train.thread}" if train.thread else f" {_pitch_words(q.rig)}"
        if "pitch_mm" in q.ask:
            thread = f" pitch {train.pitch_mm:g} mm"
        ratio = train.ratio(self._kind(q))
        lever = f", ratio {ratio:g}" if ratio != 1.0 else ""
        return f"{train.adjuster.words},{thread}{lever}"

    def _kind(self, q: Asked) -> Kind:
        kind = self._setting(q).item.rocker.kind
        assert isinstance(kind, Kind)
        return kind

    def _train(self, q: Asked) -> Train:
        """The engine's own; or another, where a question brings its own thread and ratio."""
        if "pitch_mm" not in q.ask:
            return q.engine.train
        if self._setting(q).way is not Way.GAP:
            raise AskError("ask.pitch_mm is for a gap, and this item has none")
        screws = [adjuster.value for adjuster in (Adjuster.VALVE_SCREW, Adjuster.ROD_SCREW)]
        adjuster = Adjuster(q.word("adjuster", screws))
        ratio, pitch = q.number("ratio", 0.5, 3.0), q.number("pitch_mm", 0.1, 5.0)
        return Train(
            adjuster=adjuster, thread=f"M8x{pitch:g}", intake_ratio=ratio, exhaust_ratio=ratio
        )

    def text(self, q: Asked) -> str:
        """The question, with what a turn does not say."""
        setting, measured, target = self._asked(q)
        unit, given = q.engine.gap_unit, self._part_words(q)
        ask = "How many degrees of its adjuster?"
        if self._signed(q):
            ask = "How many degrees of its adjuster? (looser: minus)"
        if setting.way is Way.PLUNGER and not measured and not self._signed(q):
            return (
                f"{setting.name} is at zero lash ({given}). How many degrees of its adjuster "
                f"push the plunger in by {target:.2f} mm?"
            )
        if setting.way is Way.PLUNGER:
            return (
                f"The plunger of {setting.name} is in by {measured:.2f} mm and should be in by "
                f"{target:.2f} mm ({given}). {ask}"
            )
        return (
            f"{setting.name} has {gap_words(measured, unit)} and should have "
            f"{gap_words(target, unit)} ({given}; measured {q.engine.train.lash_at.words}). {ask}"
        )

    def form(self, q: Asked) -> Form:
        """Degrees of the adjuster."""
        return Figure("°", SCREW_WITHIN_DEG)

    def answer(self, q: Asked) -> Answer:
        """The change by what a turn changes."""
        _, measured, target = self._asked(q)
        turn = abs(measured - target) / self._per_turn_mm(q) * 360.0
        return round(turn if self._tighter(q) or not self._signed(q) else -turn, 3)

    def _tighter(self, q: Asked) -> bool:
        """Tighter closes a gap and pushes a plunger in."""
        setting, measured, target = self._asked(q)
        return measured < target if setting.way is Way.PLUNGER else measured > target

    def _per_turn_mm(self, q: Asked) -> float:
        """What a turn changes."""
        if "pitch_mm" not in q.ask:
            return self._setting(q).per_turn_mm
        return gap_per_turn_mm(self._train(q), self._kind(q)) or 1.0

    def why(self, q: Asked) -> str:
        """What a turn changes, and which way."""
        _, measured, target = self._asked(q)
        way = "tighter" if self._tighter(q) else "looser"
        return (
            f"One turn changes {self._per_turn_mm(q):.2f} mm there: "
            f"{abs(measured - target):.2f} mm are {abs(self.answer(q)):.0f}° {way}."
        )

    def slips(self, q: Asked) -> list[Answer]:
        """The other way, half and twice."""
        right = float(self.answer(q))
        return [-right, right / 2.0, right * 2.0] if self._signed(q) else super().slips(q)

    def hint(self, q: Asked) -> str:
        """Where to begin."""
        return "First: by how much does one whole turn change it? Pitch, and the lever between."


def _pitch_words(rig: Rig) -> str:
    return "M8x1" if rig.engine.gap_unit is GapUnit.MM else "pitch 1 mm"


DRILLS: Final = (ThouToMm(), MmToThou(), DialTotal(), ScrewTurn())
