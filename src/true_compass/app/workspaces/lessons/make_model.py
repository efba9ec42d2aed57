"""The lesson that an instructor makes: saved as one works, checked before it goes out."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING
from uuid import uuid4

from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.app.desk import Desk
from true_compass.core.engine import Engine
from true_compass.core.words import counted
from true_compass.files.atomic import write_atomic
from true_compass.files.lesson_file import SUFFIX, lesson_text, parse_lesson
from true_compass.files.problems import EngineFileError, shown_text
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.files.scenario_file import read_scenario
from true_compass.files.scenarios import shipped_scenario
from true_compass.lessons.guide import LessonError
from true_compass.lessons.lesson import CoveredPart, DrillPart, Lesson, Part, asked_of
from true_compass.lessons.making import (
    Checked,
    blank,
    changed,
    checked,
    counted_part,
    covered_part,
    drill_part,
    dropped,
    guided_of,
    moved,
    tidied,
    with_engine,
    with_engine_toggled,
    with_part,
)
from true_compass.lessons.result import Person
from true_compass.session.lesson import OnLesson

DRAFT = f"draft{SUFFIX}"
NOBODY = Person("00000000-0000-4000-8000-000000000000")

if TYPE_CHECKING:
    from true_compass.files.qti import Package


class MakeModel(QObject):
    """One lesson, the part that is picked, and the student's screen of it."""

    changed = pyqtSignal()

    def __init__(self, desk: Desk, folder: Path, parent: QObject) -> None:
        super().__init__(parent)
        self.desk = desk
        self._folder = folder
        self.lesson = self._draft() or blank(str(uuid4()))
        self.part = 0
        self.shown = 0
        self.set = 1
        self._checked: tuple[Lesson, Checked] | None = None

    @property
    def checked(self) -> Checked:
        """What keeps the lesson from going out; worked out when it is first asked for."""
        if self._checked is None or self._checked[0] is not self.lesson:
            self._checked = (self.lesson, checked(self.lesson, self.engines()))
        return self._checked[1]

    # Engines ----------------------------------------------------------------------------------

    def engines(self) -> dict[str, Engine]:
        """Engines that can be added: the one that is open, and the demo rigs."""
        state = self.desk.session.state
        own = {} if state.source.rig else {state.engine.name: state.engine}
        return {**own, **{name.capitalize(): demo_rig(name) for name in rig_names()}}

    @property
    def first_engine(self) -> str:
        """The engine that is open, by its name in a lesson."""
        state = self.desk.session.state
        return state.source.rig.capitalize() if state.source.rig else state.engine.name

    # The draft --------------------------------------------------------------------------------

    def _draft(self) -> Lesson | None:
        path = self._folder / DRAFT
        try:
            return parse_lesson(path.read_text(encoding="utf-8"), DRAFT)
        except (OSError, ValueError, EngineFileError):
            return None

    def _put(self, lesson: Lesson) -> None:
        if lesson == self.lesson:
            return
        self.lesson = tidied(lesson)
        self.part = min(self.part, max(len(self.lesson.parts) - 1, 0))
        self.shown = 0
        self._keep()
        self.changed.emit()

    def _keep(self) -> None:
        """Saved as one works."""
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            write_atomic(self._folder / DRAFT, lesson_text(self.lesson))
        except OSError as error:
            self.desk.say(f"The lesson cannot be kept here ({error.strerror}): save it elsewhere.")

    def begin_anew(self) -> None:
        """An empty lesson."""
        self._put(blank(str(uuid4())))

    def open(self, lesson: Lesson) -> None:
        """Change a copy of a lesson."""
        self._put(replace(lesson, id=str(uuid4())))

    # Parts ------------------------------------------------------------------------------------

    @property
    def picked(self) -> Part | None:
        """The part that is picked."""
        return self.lesson.parts[self.part] if self.lesson.parts else None

    def pick(self, place: int) -> None:
        """Pick a part."""
        self.part = min(max(place, 0), max(len(self.lesson.parts) - 1, 0))
        self.shown = 0
        self.changed.emit()

    def add_drill(self, kind: str) -> None:
        """A drill on the engine that is open, or on another that can be asked."""
        self._add(self._drill(kind), self.first_engine)

    def _drill(self, kind: str) -> DrillPart:
        return drill_part(kind, self.first_engine)

    def _add(self, part: Part, engine: str = "") -> None:
        try:
            lesson = self.lesson
            if engine:
                rig = engine.lower() if engine.lower() in rig_names() else ""
                lesson = with_engine(lesson, engine, self.engines()[engine], rig)
            lesson = with_part(lesson, part)
        except LessonError as error:
            self.desk.say(f"The lesson {error}.")
            return
        self.part = len(lesson.parts) - 1
        self._put(lesson)

    def add_guided(self, source: Lesson) -> None:
        """The guided part of a lesson that ships, on its own engine."""
        part = guided_of(source)
        if part is not None:
            one = next(e for e in source.engines if e.name == part.engine)
            self.lesson = with_engine(self.lesson, one.name, one.engine, one.rig)
            self._add(part)

    def add_covered(self, name: str) -> None:
        """A covered engine from a scenario that ships."""
        self._add(covered_part(shipped_scenario(name)))

    def add_covered_file(self) -> None:
        """A covered engine from a file."""
        path = self.desk.files.ask_scenario()
        if path is None:
            return
        try:
            self._add(covered_part(read_scenario(path)))
        except EngineFileError as error:
            self.desk.say(str(error))

    def move(self, by: int) -> None:
        """The picked part up or down."""
        if self.lesson.parts:
            lesson, self.part = moved(self.lesson, self.part, by)
            place = self.part
            self._put(lesson)
            self.part = place

    def drop(self, place: int | None = None) -> None:
        """Take a part out."""
        if self.lesson.parts:
            self._put(dropped(self.lesson, self.part if place is None else place))

    def change(self, make: Callable[[DrillPart], DrillPart]) -> None:
        """Change the picked drill."""
        part = self.picked
        if isinstance(part, DrillPart):
            self._put(changed(self.lesson, self.part, make(part)))

    def count(self, by: int) -> None:
        """More or fewer questions."""
        self.change(lambda part: counted_part(part, by))

    def toggle_engine(self, name: str) -> None:
        """Ask about an engine as well, or no more."""
        part = self.picked
        if isinstance(part, DrillPart):
            rig = name.lower() if name.lower() in rig_names() else ""
            lesson = with_engine(self.lesson, name, self.engines()[name], rig)
            self._put(changed(lesson, self.part, with_engine_toggled(part, name)))

    def toggle_hints(self) -> None:
        """Hints for the picked part, or none."""
        part = self.picked
        if isinstance(part, DrillPart | CoveredPart):
            self._put(changed(self.lesson, self.part, replace(part, hints=not part.hints)))

    def toggle_strokes(self) -> None:
        """Strokes shown on the engine, or hidden."""
        self.change(lambda part: replace(part, strokes=not part.strokes))

    def use_instead(self, place: int, name: str) -> None:
        """Another engine for a part that its own cannot carry."""
        part = self.lesson.parts[place]
        rig = name.lower() if name.lower() in rig_names() else ""
        lesson = with_engine(self.lesson, name, self.engines()[name], rig)
        if isinstance(part, DrillPart):
            self._put(changed(lesson, place, replace(part, engines=(name,))))
        elif not isinstance(part, CoveredPart):
            self._put(changed(lesson, place, replace(part, engine=name)))

    # The whole --------------------------------------------------------------------------------

    def rename(self, title: str) -> None:
        """Another title."""
        if title.strip():
            self._put(replace(self.lesson, title=" ".join(title.split())[:120]))

    def set_whole(self, **changes: int | bool) -> None:
        """Other settings of the whole lesson."""
        self._put(replace(self.lesson, settings=replace(self.lesson.settings, **changes)))  # type: ignore[arg-type]

    # The student's screen ---------------------------------------------------------------------

    def preview(self) -> OnLesson | None:
        """What a student sees of the picked part, in the set that is shown."""
        part = self.picked
        if part is None or not self.checked.can_go_out:
            return None
        try:
            on = OnLesson.begin(self.lesson, NOBODY, self.set, practice=True)
        except LessonError:
            return None
        places = [n for n, stop in enumerate(on.stops) if stop.part == self.part]
        return on.at(places[self.shown % len(places)]) if places else None

    def page(self, by: int) -> None:
        """Another question of the part; behind the last one the next set begins."""
        on = self.preview()
        if on is None:
            return
        count = len(on.in_part)
        self.shown += by
        if self.shown >= count:
            self.shown, self.set = 0, self.set + 1
        elif self.shown < 0:
            self.shown, self.set = count - 1, max(self.set - 1, 1)
        self.changed.emit()

    # Out --------------------------------------------------------------------------------------

    def write(self, path: Path, lesson: Lesson) -> bool:
        """Write a lesson; whether that could be done."""
        if not path.name.endswith(SUFFIX):
            path = path.with_name(path.name + SUFFIX)
        name = shown_text(path.name)
        try:
            write_atomic(path, lesson_text(lesson))
        except OSError as error:
            self._refuse(name, error)
            return False
        self.desk.say(f"Handed out as {name}. Students open it there; results are left beside it.")
        return True

    def write_quiz(self, path: Path, lesson: Lesson) -> "Package | None":
        """Write a package of the questions of a lesson; None where that could not be done."""
        from true_compass.files.qti import write_qti

        if path.suffix.lower() != ".zip":
            path = path.with_name(f"{path.name}.zip")
        name = shown_text(path.name)
        try:
            package = write_qti(path, lesson, lesson.settings.seed)
        except (OSError, LessonError) as error:
            self._refuse(name, error)
            return None
        told = f"{name}: {counted(package.count, 'question')}"
        left = f", {len(package.left_out)} left out" if package.left_out else ""
        self.desk.say(f"{told}{left}.")
        return package

    def _refuse(self, name: str, error: OSError | LessonError) -> None:
        reason = getattr(error, "strerror", None) or str(error)
        self.desk.say(f"{name} could not be written ({reason}). Choose another folder.")

    @property
    def count_words(self) -> str:
        """How many questions, and how many engines."""
        try:
            count = len(asked_of(self.lesson, 1))
        except (LessonError, ValueError):
            count = self.lesson.asked_count
        engines = counted(len(self.lesson.engines), "engine")
        return f"{counted(count, 'question')}, {engines}"
