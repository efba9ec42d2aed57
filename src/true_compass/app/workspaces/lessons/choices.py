"""The lists of Lessons that are searched by typing: drills, lessons, engines, people on record."""

from collections.abc import Callable, Sequence
from functools import partial

from true_compass.app.widgets.search_list import Line, SearchList
from true_compass.app.workspaces.lessons.make_model import MakeModel
from true_compass.app.workspaces.lessons.model import COVERED, LessonModel
from true_compass.core.words import counted
from true_compass.files.answers_file import AnswersError
from true_compass.files.problems import shown_text
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.files.scenarios import scenario_names, shipped_scenario
from true_compass.lessons.drills import DRILLS, rig_of
from true_compass.lessons.guide import Guided, why_not
from true_compass.lessons.lesson import Lesson
from true_compass.lessons.result import Person
from true_compass.lessons.skills import BY_SLUG as SKILLS

NAMELESS = "the answers without a name"


class Choices:
    """Fills the list; what is chosen is done at once."""

    def __init__(self, model: LessonModel, making: MakeModel, chooser: SearchList) -> None:
        self._model = model
        self._making = making
        self._chooser = chooser

    def offer(self, title: str, lines: Sequence[Line]) -> None:
        """Show lines to choose from."""
        look, page = self._model.desk.look, self._chooser.parentWidget()
        assert page is not None
        wide, high = page.width() / look.scale, page.height() / look.scale
        self._chooser.show_lines(title, lines, title)
        high = self._chooser.wanted_height(min(high - 40, 560.0))
        self._chooser.setGeometry(look.scaled(40, 20, min(620.0, wide - 80), high))
        self._chooser.arrange()

    # Making -----------------------------------------------------------------------------------

    def drill(self) -> None:
        """A drill for the lesson that is made."""
        lines = [
            Line(d.title, SKILLS[d.skill].title, d.slug, partial(self._making.add_drill, d.slug))
            for d in DRILLS
            if d.slug != COVERED
        ]
        self.offer("Which drill?", lines)

    def guided(self) -> None:
        """A guided part for it."""
        add = self._making.add_guided
        self.offer("Which guided part?", self._lessons(add))

    def covered(self) -> None:
        """A covered engine for it."""
        below = "A scenario that somebody made or saved at the bench"
        lines = [Line("From a scenario file…", "", below, self._making.add_covered_file)]
        for name in scenario_names():
            scenario = shipped_scenario(name)
            act = partial(self._making.add_covered, name)
            lines.append(Line(scenario.shown_title, scenario.engine.name, scenario.note, act))
        self.offer("Which covered engine?", lines)

    def engine(self) -> None:
        """An engine more, or less, for a drill of it."""
        lines = []
        for name in rig_names():
            engine = demo_rig(name)
            act = partial(self._making.toggle_engine, name.capitalize())
            lines.append(Line(engine.name, engine.order_text, engine.layout_words, act))
        self.offer("Which engine?", lines)

    def copy(self) -> None:
        """A lesson to begin with."""
        self.offer("A copy of which lesson?", self._lessons(self._making.open))

    def _lessons(self, act: Callable[[Lesson], object]) -> list[Line]:
        lessons = self._model.lessons()
        return [Line(x.title, "", x.purpose, partial(act, x)) for x in lessons]

    def lesson(self, title: str, act: Callable[[Lesson], object]) -> None:
        """Any lesson, one's own first."""
        own = self._making.lesson
        mine = [Line(own.title, "", own.purpose, partial(act, own))]
        can = self._making.checked.can_go_out
        self.offer(title, [*(mine if can else []), *self._lessons(act)])

    # Learning ---------------------------------------------------------------------------------

    def free_drill(self) -> None:
        """A drill without end on the engine of the window."""
        state = self._model.desk.session.state
        lines = []
        for drill in DRILLS:
            if drill.slug == COVERED or drill.missing(state.rig):
                continue
            act = partial(self._model.begin_free, (drill.slug,), drill.title, state.engine)
            lines.append(Line(drill.title, SKILLS[drill.skill].title, drill.slug, act))
        self.offer(f"Drill what on {state.engine.name}?", lines)

    def other_engine(self) -> None:
        """The guided part on another engine: that of the window first, then the demo rigs."""
        on = self._model.on
        part = on.lesson.parts[on.stop.part] if on is not None and not on.over else None
        if not isinstance(part, Guided):
            return
        here = self._model.desk.session.state.engine
        engines = [here, *(demo_rig(name) for name in rig_names())]
        lines = []
        for nth, engine in enumerate(engines):
            if (nth and engine == here) or why_not(rig_of(engine), part):
                continue
            act = partial(self._model.give_on, engine)
            below = engine.layout_words if nth else f"{engine.layout_words}, in the window now"
            lines.append(Line(engine.name, engine.order_text, below, act))
        self.offer("Show it on which engine?", lines)

    # The record -------------------------------------------------------------------------------

    def record(self) -> None:
        """What is kept on this computer: all of it into a file, or one person out of it."""
        answers = self._model.keeper.answers
        if answers is None:
            return
        try:
            people, count = answers.people(), answers.count()
        except AnswersError as error:
            self._model.desk.say(str(error))
            return
        below = "CSV: who, what was asked, what was answered, and what that was worth"
        lines = [Line("Write every answer into a file", f"{count} answers", below, self._write)]
        below = "Answers and result files on this computer"
        for person in people:
            act = partial(self._ask_erase, person)
            lines.append(Line(f"Erase {person.name or NAMELESS}", "", below, act))
        self.offer("Kept on this computer", lines)

    def _write(self) -> None:
        from true_compass.files.answers_table import write_answers_csv

        path = self._model.desk.files.ask_class("answers.csv")
        answers = self._model.keeper.answers
        if path is None or answers is None:
            return
        if path.suffix.lower() != ".csv":
            path = path.with_name(f"{path.name}.csv")
        name = shown_text(path.name)
        try:
            written = write_answers_csv(path, answers.everything())
        except AnswersError as error:
            self._model.desk.say(str(error))
        except OSError as error:
            self._model.desk.say(
                f"{name} could not be written ({error.strerror}). Choose another folder."
            )
        else:
            self._model.desk.say(f"{counted(written, 'answer')} saved as {name}.")

    def _ask_erase(self, person: Person) -> None:
        name = person.name or NAMELESS
        self.offer(
            f"Erase {name} from this computer?",
            [
                Line("Keep everything", "", "Nothing changes", self.record),
                Line(
                    f"Erase {name}",
                    "",
                    "Every answer and result file here goes; this cannot be undone",
                    partial(self._model.erase, person),
                ),
            ],
        )
