"""What a class can do, from the results of a folder."""

from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.app.desk import Desk
from true_compass.app.workspaces.lessons.collecting import Collector
from true_compass.core.words import counted
from true_compass.files.problems import saved_words, shown_text
from true_compass.lessons.collect import ClassSheet, Item, Student, class_of
from true_compass.lessons.mastery import Standing, still_needed
from true_compass.lessons.result import PROVES
from true_compass.lessons.skills import BY_SLUG, SKILLS

PEOPLE_A_PAGE = 24


class ClassModel(QObject):
    """The class that was collected, and what is picked of it."""

    changed = pyqtSignal()

    def __init__(self, desk: Desk, parent: QObject) -> None:
        super().__init__(parent)
        self.desk = desk
        self.collector = Collector(self)
        self.room = ClassSheet((), (), None)
        self.skill = 0
        self.person = -1
        self.first = 0
        self.first_row = 0
        self.shows_marks = True
        """Marks of every result, or how each person stands with each skill."""
        self.collector.changed.connect(self._on_collected)
        self.collector.progress.connect(self.changed)
        self._clock = desk.lessons().now

    @property
    def now(self) -> datetime:
        """The time, UTC."""
        return self._clock()

    def open_last(self) -> None:
        """Collect from the folder of the last time, if it is still there."""
        kept = str(self.desk.settings.get("folder") or "")
        if self.collector.folder is None and kept and Path(kept).is_dir():
            self.collector.open(Path(kept))

    def collect_from(self, folder: Path) -> None:
        """Collect from a folder, and do so the next time."""
        self.desk.settings.put("folder", str(folder))
        self.skill, self.person, self.first = 0, -1, 0
        self.collector.open(folder)

    def _on_collected(self) -> None:
        self.room = class_of(self.collector.sheets, self.now)
        self.person = min(self.person, len(self.room.students) - 1)
        taught = self.room.teach_next
        self.skill = next((n for n, s in enumerate(SKILLS) if s.slug == taught), self.skill)
        self.changed.emit()

    # What is said -----------------------------------------------------------------------------

    @property
    def headline(self) -> str:
        """What to teach next."""
        if self.collector.folder is None:
            return "No results collected yet"
        reading = self.collector.reading
        if reading is not None:
            return f"Reading {reading[0]} of {reading[1]} results"
        if not self.room.students:
            return "No results in this folder yet"
        taught = self.room.teach_next
        if not taught:
            return "No weak skill in these answers"
        weak, people = self.room.count(taught, Standing.PRACTICE), len(self.room.students)
        need = "needs" if weak == 1 else "need"
        title = BY_SLUG[taught].title
        named = f"{title[0].lower()}{title[1:]}"
        return f"Teach next: {named}. {weak} of {people} {need} practice."

    @property
    def line(self) -> str:
        """Where it comes from, and what is to be said of the files."""
        if self.collector.trouble:
            return self.collector.trouble
        if self.collector.folder is None:
            return "Hand a lesson out, and collect what comes back into one folder."
        sheets, left = self.collector.sheets, self.collector.left_out
        odd = [sheet for sheet in sheets if sheet.trouble]
        told = f"{counted(len(sheets), 'result')} collected"
        unfinished = sum(not sheet.finished for sheet in sheets)
        if unfinished:
            told += f", {unfinished} not finished"
        elif sheets and not odd and not left:
            told += ", all finished"
        if odd:
            told += f"; {counted(len(odd), 'file')} to look at"
        if left:
            told += f"; {counted(len(left), 'file')} left out"
        if self.room.lesson is not None:
            told += f". Questions: {self.room.lesson.title}"
        return f"{told}."

    def troubles(self) -> list[tuple[str, str]]:
        """What is to be said of each file that is not whole, and what that proves."""
        rows = [(s.name, s.trouble) for s in self.collector.sheets if s.trouble]
        rows += [("left out", words) for words in self.collector.left_out]
        return [*rows, ("what it proves", PROVES)] if rows else []

    @property
    def shown(self) -> tuple[Student, ...]:
        """The people of the page that is shown."""
        return self.room.students[self.first : self.first + PEOPLE_A_PAGE]

    def show_marks(self, shown: bool) -> None:
        """Marks, or skills."""
        self.shows_marks = shown
        self.changed.emit()

    def scroll(self, by: int, visible: int) -> None:
        """Other rows of the marks, where there are more than fit."""
        last = max(0, len(self.room.handed_in) - visible)
        self.first_row = min(max(self.first_row + by, 0), last)
        self.changed.emit()

    def turn_page(self, by: int) -> None:
        """Other people, where there are more than a page holds."""
        last = max(0, (len(self.room.students) - 1) // PEOPLE_A_PAGE * PEOPLE_A_PAGE)
        self.first = min(max(self.first + by * PEOPLE_A_PAGE, 0), last)
        self.changed.emit()

    @property
    def misled(self) -> tuple[Item, ...]:
        """The questions that misled most."""
        return tuple(item for item in self.room.items if item.misled or item.other)[:5]

    def pick(self, skill: int, person: int) -> None:
        """Pick a skill and a person (−1: nobody)."""
        self.skill = min(max(skill, 0), len(SKILLS) - 1)
        self.person = min(max(person, -1), len(self.room.students) - 1)
        self.changed.emit()

    @property
    def words(self) -> str:
        """One sentence about who was picked, or about who is secure in most."""
        if not self.room.students:
            return ""
        if 0 <= self.person < len(self.room.students):
            student = self.room.students[self.person]
            told = f"{len(student.secure)} of {len(SKILLS)} skills secure"
            skill = SKILLS[self.skill]
            needs = still_needed(student.skills[skill.slug])
            return f"{student.label}: {told}. {skill.title}: {needs}."
        best = max(self.room.students, key=lambda student: len(student.secure))
        if not best.secure:
            return "No skill is secure yet. That takes right answers on two days and two layouts."
        return f"{best.label} is ready for the certificate in {len(best.secure)}."

    # Out --------------------------------------------------------------------------------------

    def write_table(self, path: Path) -> None:
        """Write the class as CSV or XLSX, by the ending of the name."""
        from true_compass.files.class_table import write_class_csv, write_class_xlsx

        suffix = path.suffix.lower()
        if suffix not in (".csv", ".xlsx"):
            path = path.with_name(f"{path.name}.xlsx")
        try:
            if path.suffix.lower() == ".csv":
                write_class_csv(path, self.room)
            else:
                write_class_xlsx(path, self.room)
        except OSError as error:
            self.desk.say(f"{shown_text(path.name)} could not be written ({error.strerror}).")
        else:
            self.desk.say(saved_words(path))
