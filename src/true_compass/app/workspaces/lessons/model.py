"""What the pages of Lessons share: the lesson in the session, and an engine with its own crank.

A lesson turns its own engine, so that nothing that is open elsewhere is touched.
"""

import secrets
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from true_compass.app.bridge import Bridge
from true_compass.app.desk import Desk
from true_compass.app.turner import Turner
from true_compass.app.workspaces.lessons.remembered import Handed, RememberedLessons
from true_compass.bench.scenario import Scenario
from true_compass.core.engine import Engine
from true_compass.core.words import capital
from true_compass.files.answers_file import AnswersError
from true_compass.files.course import lesson_names, shipped_lesson
from true_compass.files.problems import shown_text
from true_compass.files.rigs import demo_rig
from true_compass.lessons.drill import AskError, Cover, Judged
from true_compass.lessons.drills import DRILLS
from true_compass.lessons.forms import Answer, AnswerError, Choice, Figure, Place, Ticks
from true_compass.lessons.guide import LessonError, Shown
from true_compass.lessons.kinds.covered import Deeds
from true_compass.lessons.lesson import FREE, MOST_SEED, Lesson, set_seed, skills_of
from true_compass.lessons.making import free_drill
from true_compass.lessons.mastery import Mastery, Standing
from true_compass.lessons.result import Person
from true_compass.lessons.skills import BY_SLUG as SKILLS
from true_compass.lessons.work import Given
from true_compass.session.lesson import OnLesson, Station
from true_compass.session.session import Session, Source

FIRST_RIG = "alder"
ROCK_DEG = 5.0
COVERED = "covered"


class LessonModel(QObject):
    """The lesson of the session, its engine, and what can be done in it."""

    changed = pyqtSignal()
    """Another place, another entry, an answer judged."""
    ticked = pyqtSignal()
    """A second less is left."""
    standing_changed = pyqtSignal()
    """Somebody else, or an answer more on record."""

    def __init__(self, desk: Desk, parent: QObject) -> None:
        super().__init__(parent)
        self.desk = desk
        self.keeper = desk.lessons()
        self.remembered = RememberedLessons(desk.settings)
        engine = demo_rig(FIRST_RIG)
        self.crank = Session(engine, Source(rig=FIRST_RIG))
        self.bridge = Bridge(self.crank, self)
        self.turner = Turner(self.crank, desk.look, self)
        self.trouble = ""
        self._skills: dict[str, Mastery] | None = None
        self._person: Person | None = None
        self._answered: dict[str, int] | None = None
        self.waiting: tuple[Lesson, str] | None = None
        """A lesson that was handed out, with its folder, until somebody has given a name."""
        self.leaving = False
        """Whether it was asked to leave a lesson that is not finished."""
        self._at: tuple[object, int] | None = None
        self._judged = False
        self._shown: tuple[OnLesson, Shown | None] | None = None
        self.clock = QTimer(self)
        self.clock.setInterval(1000)
        self.clock.timeout.connect(self._tick)
        desk.bridge.lesson_changed.connect(self._on_lesson)
        desk.bridge.bench_changed.connect(self._on_bench)

    # Who --------------------------------------------------------------------------------------

    @property
    def person(self) -> Person:
        """Who answers here; made on the record when first asked for."""
        if self._person is None:
            name = str(self.desk.settings.get("person") or "")
            self._person = self._known(name)
        return self._person

    def _known(self, name: str) -> Person:
        answers = self.keeper.answers
        if answers is not None:
            try:
                return answers.person(name, self.keeper.now())
            except AnswersError as error:
                self.desk.say(str(error))
        return Person("00000000-0000-4000-8000-000000000000", name)

    def people(self) -> list[Person]:
        """Everybody who answered here."""
        answers = self.keeper.answers
        return answers.people() if answers is not None else []

    def be(self, name: str) -> None:
        """Somebody else sits here; what was begun is left."""
        self._person = self._known(name)
        self.desk.settings.put("person", self._person.name)
        self._skills = self._answered = None
        self.leave()
        self.standing_changed.emit()

    def erase(self, person: Person) -> None:
        """Take a person out of what is kept on this computer."""
        try:
            self.keeper.erase(person)
        except AnswersError as error:
            self.desk.say(str(error))
            return
        self.leave()
        if person.id == self.person.id:
            self._person = None
            self.desk.settings.put("person", "")
        self._skills = None
        self.desk.say(f"{person.name or 'What had no name'} is erased from this computer.")
        self.standing_changed.emit()

    def forget(self) -> None:
        """Read anew how this person stands: another window may have written."""
        self._skills = None

    # Standing ---------------------------------------------------------------------------------

    @property
    def skills(self) -> dict[str, Mastery]:
        """How this person stands with every skill."""
        if self._skills is None:
            answers = self.keeper.answers
            try:
                self._skills = (
                    answers.skills(self.person.id, self.keeper.now()) if answers is not None else {}
                )
            except AnswersError as error:
                self.desk.say(str(error))
                self._skills = {}
        return self._skills

    def standing(self, lesson: Lesson) -> Standing:
        """How this person stands with what a lesson drills: as with its weakest skill."""
        found = [self.skills[slug].standing for slug in skills_of(lesson) if slug in self.skills]
        if not found or all(one is Standing.UNTRIED for one in found):
            return Standing.UNTRIED
        for weak in (Standing.PRACTICE, Standing.UNTRIED):
            if weak in found:
                return Standing.PRACTICE
        return Standing.SOUND if Standing.SOUND in found else Standing.SECURE

    # Lessons ----------------------------------------------------------------------------------

    def receive(self, lesson: Lesson, path: Path) -> None:
        """A lesson that was handed out: it asks first who works on it."""
        self.remembered.put_handed(lesson, path)
        self.leave()
        self.waiting = (lesson, str(path.parent))
        self.changed.emit()

    def begin_as(self, name: str) -> None:
        """The lesson that was handed out, by somebody of this name; it may be none."""
        waiting, self.waiting = self.waiting, None
        self.be(name)
        if waiting is not None:
            self.begin(waiting[0], folder=waiting[1])

    def handed_state(self, handed: Handed) -> str:
        """How far this person is with a lesson that was handed out."""
        if self._answered is None:
            self._answered = self.keeper.answered_of(self.person)
        return handed.state(self._answered.get(handed.lesson_id, 0))

    def ask_leave(self) -> None:
        """Leave; a lesson that was handed out asks once, since it is not finished."""
        on = self.on
        unfinished = on is not None and bool(on.folder) and not on.over and not on.practice
        if unfinished and not self.leaving:
            self.leaving = True
            self.changed.emit()
            return
        self.waiting = None
        self.leave()

    def lessons(self) -> list[Lesson]:
        """The lessons that ship."""
        return [shipped_lesson(name) for name in lesson_names()]

    @property
    def on(self) -> OnLesson | None:
        """The lesson that is worked through."""
        return self.desk.session.state.lesson

    def begin(
        self,
        lesson: Lesson,
        *,
        practice: bool = False,
        engine: Engine | None = None,
        folder: str = "",
    ) -> bool:
        """Begin a lesson, or go on where this person left it; whether it can be given."""
        self.turner.finish()
        self.trouble = ""
        kept = not (practice or lesson.is_free)
        seed, given = lesson.settings.seed, tuple[Given, ...]()
        if kept:
            seed, given = self.keeper.set_of(lesson, self.person)
        elif not practice:
            seed = set_seed(lesson, self.person.id, self.keeper.today())
        try:
            on = OnLesson.begin(
                lesson, self.person, seed, practice=practice, engine=engine, folder=folder
            )
        except LessonError as error:
            self.trouble = str(error)
            self.desk.say(f"This lesson cannot be given: {error}.")
            return False
        if kept:
            on = self.remembered.left_at(on.going_on(given))
        self._put(on)
        return True

    def _put(self, on: OnLesson) -> None:
        self.desk.session.put_lesson(on.timed(self.keeper.now()))

    def begin_free(
        self, kinds: Sequence[str], title: str, engine: Engine, seed: int | None = None
    ) -> bool:
        """Ten questions of some kinds, and ten more as often as one likes."""
        drawn = secrets.randbelow(MOST_SEED) if seed is None else seed
        return self.begin(free_drill(kinds, title, engine, drawn))

    def begin_skill(self, slug: str) -> bool:
        """Drill one skill on the engine of the window, as far as that engine can show it."""
        rig = self.desk.session.state.rig
        of = [drill for drill in DRILLS if drill.skill == slug and drill.slug != COVERED]
        kinds = [drill.slug for drill in of if not drill.missing(rig)]
        if kinds:
            return self.begin_free(kinds, SKILLS[slug].title, rig.engine)
        self.desk.say(f"{rig.engine.name} {of[0].missing(rig)}. Open another engine first.")
        return False

    def more(self) -> None:
        """At the end: ten more of the same kind, or the result handed in once more."""
        on = self.on
        if on is None or not on.over:
            return
        if on.folder and not on.practice and self.keeper.hand_in_again(on):
            self.desk.say(f"Your result is in {shown_text(on.folder)}.")
        if on.lesson.is_free:
            kinds = on.lesson.id.removeprefix(FREE).split(",")
            engine, seed = on.lesson.engines[0].engine, (on.seed + 1) % MOST_SEED
            self.begin_free(kinds, on.lesson.title, engine, seed)

    def give_on(self, engine: Engine) -> None:
        """Show the guided part on another engine, from the same step on."""
        on = self.on
        if on is None or on.over:
            return
        try:
            other = OnLesson.begin(
                on.lesson,
                on.person,
                on.seed,
                practice=on.practice,
                engine=engine,
                folder=on.folder,
            )
        except LessonError as error:
            self.desk.say(f"This lesson cannot be given: {error}.")
            return
        self._put(replace(other.going_on(on.given).at(on.place), until=on.until))

    def leave(self) -> None:
        """Back to the list of lessons."""
        self.leaving, self._answered = False, None
        self.turner.finish()
        self.desk.session.put_lesson(None)

    # Answering --------------------------------------------------------------------------------

    def enter(self, entry: Answer) -> None:
        """Put something into the answer."""
        if self.on is not None:
            self.desk.session.put_lesson(self.on.entering(entry))

    def tick(self, name: str) -> None:
        """Tick one of some names, or take its tick back."""
        on = self.on
        if on is None or on.question is None or not isinstance(on.form, Ticks):
            return
        if name in on.form.names:
            entry = tuple(on.entry or ())
            ticked = name in entry
            self.enter(tuple(n for n in entry if n != name) if ticked else (*entry, name))

    def choose(self, entry: Answer) -> None:
        """Choose one of some answers; in a guided step that answers it."""
        on = self.on
        if on is None or on.question is None or on.judged is not None:
            return
        self.enter(entry)
        if on.stop.station is Station.STEP and isinstance(on.form, Choice):
            self.answer()

    def answer(self) -> None:
        """Have it judged; where nothing is asked, or it was judged, go on."""
        on = self.on
        if on is None:
            return
        if on.over:
            self.more()
            return
        if on.question is None or on.judged is not None:
            self.go_on()
            return
        if on.left_s(self.keeper.now()) == 0:
            self._tick()
            return
        if isinstance(on.form, Deeds):
            self.to_bench()
            return
        if isinstance(on.form, Place):
            self.turner.finish()
            on = on.entering(self.crank.state.crank_deg)
        if not on.can_answer:
            self.desk.say(what_is_missing(on))
            return
        self._judge(on)

    def _judge(self, on: OnLesson) -> None:
        try:
            done = on.answered(self.keeper.now(), self.keeper.today())
        except (AnswerError, AskError) as error:
            self.desk.say(f"{capital(str(error))}.")
            return
        self._skills = None
        self.desk.session.put_lesson(done)
        self._show(done.judged)
        self.standing_changed.emit()

    def _show(self, judged: Judged | None) -> None:
        """A wrong answer is answered on the engine."""
        if judged is not None and not judged.is_right and judged.show_deg is not None:
            self.turner.jump_to(judged.show_deg)

    def go_on(self) -> None:
        """To the next place."""
        on = self.on
        if on is not None and not on.over:
            self._put(on.at(on.place + 1))

    def go_back(self) -> None:
        """To the place before."""
        on = self.on
        if on is not None and on.place > 0:
            self.desk.session.put_lesson(on.at(on.place - 1))

    def hint(self) -> None:
        """Look at the hint."""
        on = self.on
        if on is None or on.question is None or on.judged is not None:
            return
        if not on.stop.hints:
            self.desk.say("This lesson gives no hints here.")
            return
        self.desk.session.put_lesson(on.hinted())

    def again(self) -> None:
        """The same question once more."""
        if self.on is not None and self.on.judged is not None:
            self.desk.session.put_lesson(self.on.again())

    def rock(self) -> None:
        """5° on, and 5° back the next time."""
        state = self.crank.state
        home = self._home_deg
        here = (state.crank_deg - home + 360.0) % 720.0 - 360.0
        self.turner.turn_by(ROCK_DEG - here if here <= 0 else -ROCK_DEG - here)

    @property
    def _home_deg(self) -> float:
        on = self.on
        at = on.crank_deg if on is not None else None
        return 0.0 if at is None else at

    @property
    def from_home_deg(self) -> float:
        """How far the crank was turned in this step, −360 to 360."""
        return (self.crank.state.crank_deg - self._home_deg + 360.0) % 720.0 - 360.0

    def to_home(self) -> None:
        """Back to where the question stands."""
        self.turner.jump_to(self._home_deg)

    def to_bench(self) -> None:
        """Put the covered engine of this question on the bench, and go there.

        One that stands there half done goes on.
        """
        scenario = self._scenario()
        if scenario is None:
            return
        self.desk.runs()
        bench = self.desk.session.state.bench
        half_done = bench is not None and bench.verdict is None
        if not (half_done and bench is not None and bench.run.work.scenario == scenario):
            self.desk.session.begin_bench(scenario)
        self.desk.go_to("Bench", "")

    def _scenario(self) -> Scenario | None:
        try:
            return self.on.scenario if self.on is not None else None
        except AskError as error:
            self.desk.say(f"{error}.")
            return None

    def _on_bench(self) -> None:
        """A covered engine that was finished on the bench is the answer here."""
        on, bench = self.on, self.desk.session.state.bench
        if on is None or on.judged is not None or bench is None or bench.verdict is None:
            return
        if on.scenario != bench.run.work.scenario:
            return
        on = on.entering(bench.actions)
        hinted = any(action["do"] == "hint" for action in bench.actions)
        self._judge(on.hinted() if hinted else on)

    @property
    def shown(self) -> Shown | None:
        """The guided step here; worked out once, since every frame asks for it often."""
        on = self.on
        if on is None:
            return None
        if self._shown is None or self._shown[0] is not on:
            self._shown = (on, on.shown)
        return self._shown[1]

    # What is covered --------------------------------------------------------------------------

    @property
    def covers(self) -> frozenset[Cover]:
        """What is hidden here now: nothing once it was answered."""
        on = self.on
        if on is None or on.over or on.judged is not None:
            return frozenset()
        shown = self.shown
        if shown is not None:
            return frozenset(shown.step.cover)
        covers = set(on.drill.covers)
        part = on.lesson.parts[on.stop.part]
        if not getattr(part, "strokes", True):
            covers |= {Cover.STROKES, Cover.RING}
        return frozenset(covers)

    # Time -------------------------------------------------------------------------------------

    @property
    def left_words(self) -> str:
        """The time that is left, or nothing.

        Whole minutes; the last two by the second.
        """
        left = self.on.left_s(self.keeper.now()) if self.on is not None else None
        if left is None:
            return ""
        return f"{left // 60} min left" if left >= 120 else f"{left} s left"

    def _tick(self) -> None:
        on = self.on
        left = on.left_s(self.keeper.now()) if on is not None else None
        if on is not None and left == 0:
            self.desk.session.put_lesson(on.ended())
        self.ticked.emit()

    # Listening --------------------------------------------------------------------------------

    def _on_lesson(self) -> None:
        on = self.on
        timed = on is not None and on.until is not None and not on.over
        if timed != self.clock.isActive():
            (self.clock.start if timed else self.clock.stop)()
        self.turner.finish()
        at = None if on is None else (on.lesson, on.place)
        judged = on is not None and on.judged is not None
        # Trying again stands where the question stood.
        self.leaving = self.leaving and at == self._at
        moved = at != self._at or (self._judged and not judged)
        if on is not None and at != self._at:
            self.remembered.keep_place(on)
        self._at, self._judged = at, judged
        if on is not None and not on.over:
            rig = on.rig
            if rig.engine != self.crank.state.engine:
                self.crank.open_engine(rig.engine, Source(), on.crank_deg or 0.0)
            elif moved and on.crank_deg is not None:
                if on.stop.station is Station.STEP:
                    self.turner.jump_to(on.crank_deg)
                else:
                    self.crank.turn_to(on.crank_deg)
        self.changed.emit()


def what_is_missing(on: OnLesson) -> str:
    """What must be done before it can be judged."""
    form = on.form
    if isinstance(form, Choice):
        return "Choose one of the answers first."
    if isinstance(form, Ticks):
        return "Tick what belongs first, or say that none does."
    if isinstance(form, Figure):
        return f"Type a number in {form.unit.strip()} first."
    return "Fill in the answer first."
