"""What of lessons outlasts the program beside the answers: lessons that were handed out and opened
here or handed out from here, and where each lesson was left."""

from dataclasses import astuple, dataclass
from pathlib import Path
from typing import Final

from true_compass.app.keeping.settings import Section
from true_compass.files.lesson_file import lesson_digest
from true_compass.lessons.lesson import Lesson
from true_compass.session.lesson import OnLesson

MOST_HANDED: Final = 12
MOST_PLACES: Final = 60
HANDED: Final = "handed"
PLACES: Final = "places"
OWN: Final = "own"
MOST_OWN: Final = 100


@dataclass(frozen=True, slots=True)
class Handed:
    """A lesson file that was handed out. `asked` is how many questions it has, as text."""

    path: str
    title: str
    lesson_id: str
    asked: str

    def state(self, answered: int) -> str:
        """How far somebody is with it: `new`, `3 of 5` or `all answered`."""
        if not answered:
            return "new"
        asked = int(self.asked) if self.asked.isdecimal() else 0
        return "all answered" if answered >= asked else f"{answered} of {asked}"


def is_handed(value: object) -> bool:
    """Whether kept settings are such a list."""
    return isinstance(value, list) and all(
        isinstance(row, list) and len(row) == 4 and all(isinstance(word, str) for word in row)
        for row in value
    )


def is_own(value: object) -> bool:
    """Whether kept settings are pairs of words."""
    return isinstance(value, list) and all(
        isinstance(row, list) and len(row) == 2 and all(isinstance(word, str) for word in row)
        for row in value
    )


def is_places(value: object) -> bool:
    """Whether kept settings are places by name."""
    return isinstance(value, dict) and all(
        isinstance(key, str) and type(place) is int and place >= 0 for key, place in value.items()
    )


class RememberedLessons:
    """Reads and writes both in the section of the settings that Lessons have."""

    def __init__(self, settings: Section) -> None:
        self._settings = settings

    def handed(self) -> list[Handed]:
        """Lessons that were handed out and opened here, the latest first."""
        kept = self._settings.get(HANDED)
        return [Handed(*map(str, row)) for row in kept] if isinstance(kept, list) else []

    def put_handed(self, lesson: Lesson, path: Path) -> None:
        """A lesson was handed out: it stands first."""
        one = Handed(str(path), lesson.title, lesson.id, str(lesson.asked_count))
        others = [each for each in self.handed() if each.lesson_id != lesson.id]
        rows = [list(astuple(each)) for each in (one, *others)]
        self._settings.put(HANDED, rows[:MOST_HANDED])

    def own(self) -> dict[str, frozenset[str]]:
        """The digests of lessons that were handed out from here, by id."""
        found: dict[str, set[str]] = {}
        for lesson_id, digest in self._own():
            found.setdefault(lesson_id, set()).add(digest)
        return {key: frozenset(digests) for key, digests in found.items()}

    def _own(self) -> list[list[str]]:
        kept = self._settings.get(OWN)
        return [[str(word) for word in row] for row in kept] if isinstance(kept, list) else []

    def put_own(self, lesson: Lesson) -> None:
        """A lesson was handed out from here: what comes back is held against it."""
        row = [lesson.id, lesson_digest(lesson)]
        others = [each for each in self._own() if each != row]
        self._settings.put(OWN, [row, *others][:MOST_OWN])

    def _places(self) -> dict[str, int]:
        kept = self._settings.get(PLACES)
        return dict(kept) if isinstance(kept, dict) else {}

    def left_at(self, on: OnLesson) -> OnLesson:
        """A lesson at the place where this person left it, where that lies further on."""
        place = self._places().get(_key(on), 0)
        return on.at(place) if on.place < place < len(on.stops) else on

    def keep_place(self, on: OnLesson) -> None:
        """Remember where a lesson stands, so that coming back goes on there."""
        if on.practice or on.lesson.is_free:
            return
        places, key = self._places(), _key(on)
        places.pop(key, None)
        if not on.over and on.place:
            places[key] = on.place
        self._settings.put(PLACES, dict(list(places.items())[-MOST_PLACES:]))


def _key(on: OnLesson) -> str:
    return f"{on.person.id} {on.lesson.id}"
