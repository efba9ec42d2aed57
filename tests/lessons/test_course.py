"""The lessons that ship: each is read strictly, can be given, and is played through."""

from dataclasses import replace
from datetime import UTC, datetime

import pytest

from true_compass.core.engine import Engine
from true_compass.files.course import lesson_names, shipped_lesson, shipped_lesson_text
from true_compass.files.lesson_file import lesson_digest, lesson_text, parse_lesson
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.lessons.drills import rig_of
from true_compass.lessons.forms import Choice
from true_compass.lessons.guide import Guided, LessonError, cast_on, place_deg, why_not
from true_compass.lessons.kinds.covered import Deeds
from true_compass.lessons.lesson import Lesson, asked_of, set_seed, skills_of
from true_compass.lessons.result import Person
from true_compass.lessons.skills import SKILLS
from true_compass.session.lesson import OnLesson, Station

NOW = datetime(2026, 11, 2, 9, 0, tzinfo=UTC)
WHO = Person("6f1de5b0-7a6f-4b0c-9f6e-0d6d8f6b1a11", "")


def guided(lesson: Lesson) -> list[Guided]:
    return [part for part in lesson.parts if isinstance(part, Guided)]


def other_layouts(part: Guided, own: Engine) -> list[Engine]:
    rigs = [demo_rig(name) for name in rig_names()]
    others = [e for e in rigs if e.layout_words != own.layout_words]
    return [engine for engine in others if not why_not(rig_of(engine), part)]


def answered_rightly(on: OnLesson) -> OnLesson:
    right = on.form.read(on.drill.answer(on.asked))
    done = on.entering(right).answered(NOW, "2026-11-02")
    assert done.judged is not None
    assert done.judged.is_right
    return done


def played(lesson: Lesson, engine: Engine | None) -> OnLesson:
    on = OnLesson.begin(lesson, WHO, 7, engine=engine)
    while not on.over:
        if on.shown is not None:
            assert 5 < len(on.shown.sentence) < 130
            assert "{" not in on.shown.sentence + on.shown.then + on.shown.plate
        if on.question is not None and not isinstance(on.form, Deeds):
            on = answered_rightly(on)
        on = on.at(on.place + 1)
    return on


@pytest.mark.parametrize("name", lesson_names())
def test_a_shipped_lesson_is_whole_and_played_on_its_own_engine_and_on_another_layout(
    name: str,
) -> None:
    lesson = parse_lesson(shipped_lesson_text(name), name)
    assert lesson == shipped_lesson(name)
    assert lesson.id == name
    assert lesson.purpose
    assert lesson.note
    (part,) = guided(lesson)
    assert len(part.steps) >= 6
    assert sum(bool(step.asks) for step in part.steps) >= 2
    assert part.steps[0].notes.say
    on = played(lesson, None)
    done = [stop for stop in on.stops if stop.station is Station.QUESTION]
    assert len(done) == lesson.asked_count
    assert all(given.right for given in on.given)
    others = other_layouts(part, lesson.engine(part.engine))
    if name == "preload":
        # The demo rigs have one with hydraulic tappets whose screw is turned: make another.
        hydraulic = demo_rig("cedar")
        others = [replace(demo_rig("birch"), train=hydraulic.train, cam=hydraulic.cam)]
        assert not why_not(rig_of(others[0]), part)
    assert others, name
    played(lesson, others[0])
    played(lesson, others[-1])


def test_there_are_fifteen_lessons_and_they_drill_every_skill() -> None:
    assert len(lesson_names()) >= 15
    drilled = {slug for name in lesson_names() for slug in skills_of(shipped_lesson(name))}
    assert drilled == {skill.slug for skill in SKILLS}


@pytest.mark.parametrize("name", lesson_names())
def test_a_lesson_is_written_as_it_was_read_with_copies_and_without(name: str) -> None:
    lesson = shipped_lesson(name)
    for copies in (True, False):
        again = parse_lesson(lesson_text(lesson, copies=copies), "x")
        assert again == lesson
        assert lesson_digest(again) == lesson_digest(lesson)


def test_each_student_has_a_set_of_their_own_each_day() -> None:
    lesson, day, next_day = shipped_lesson("valves-here"), "2026-09-14", "2026-09-15"
    one, other = set_seed(lesson, "a", day), set_seed(lesson, "b", day)
    assert len({one, other, set_seed(lesson, "a", next_day)}) == 3
    assert set_seed(lesson, "a", day) == one
    assert asked_of(lesson, one) == asked_of(lesson, one) != asked_of(lesson, other)


@pytest.mark.parametrize(
    ("words", "stands", "deg"),
    [
        ("", 33.0, 33.0),
        ("+90", 700.0, 70.0),
        ("-30", 10.0, 700.0),
        ("compression b", 0.0, 360.0),
        ("overlap a + 30", 0.0, 390.0),
        ("540", 0.0, 540.0),
    ],
)
def test_places_of_a_step_are_words(words: str, stands: float, deg: float) -> None:
    rig = rig_of(demo_rig("alder"))
    cast = cast_on(rig, ("1", "companion a"))
    assert place_deg(rig, words, cast, stands) == pytest.approx(deg)


BAD = [
    ('cast = ["1"', 'cast = ["9"', "has no cylinder 9"),
    ('cast = ["1", "companion a"]', 'cast = ["1", "friend a"]', "friend a"),
    ('at = "overlap a"', 'at = "half past"', "half past"),
    ('asks = "fires"', 'asks = "guess"', "kind must be one of"),
    ('asks = "fires"', 'asks = "two-stop"', "no keys"),
    ('look = "ab"', 'look = "d"', "nobody of that letter"),
    ('rig = "alder"', 'rig = "baobab"', "baobab is not there"),
    ("{b} fires", "{c} fires", "no such letter"),
    ('engine = "Alder"', 'engine = "Nobody"', "Nobody"),
    ('kinds = ["open-at-tdc"', 'kinds = ["pressing"', "kind must be one of"),
    ("version = 1", "version = 2", "newer version of the program"),
    ('format = "true-compass-lesson"', 'format = "true-compass-engine"', "Is this a lesson"),
    ("count = 12", "count = 0", "must be 1 or more"),
    ('id = "two-tdcs"', 'id = "Two TDCs"', "id"),
]


@pytest.mark.parametrize(("old", "new", "sentence"), BAD)
def test_a_wrong_lesson_is_explained(old: str, new: str, sentence: str) -> None:
    from true_compass.files.problems import EngineFileError

    text = shipped_lesson_text("two-tdcs")
    assert old in text
    with pytest.raises((EngineFileError, LessonError)) as refused:
        parse_lesson(text.replace(old, new), "mine.lesson.toml")
    assert sentence in str(refused.value)


def test_a_wrong_answer_in_a_lesson_stays_the_first_and_trying_again_counts_as_aided() -> None:
    lesson = shipped_lesson("four-strokes")
    on = OnLesson.begin(lesson, WHO, 7)
    on = on.at(next(n for n, s in enumerate(on.stops) if s.station is Station.QUESTION))
    form = on.form
    assert isinstance(form, Choice)
    right = on.drill.answer(on.asked)
    wrong = next(option.value for option in form.options if option.value != right)
    assert not on.can_answer
    done = on.entering(wrong).answered(NOW, "2026-11-02")
    assert (done.marks, len(done.given)) == (0.0, 1)
    assert done.entering(right) is done
    better = done.again().entering(right).answered(NOW, "2026-11-02")
    assert (better.marks, len(better.given)) == (0.0, 2)
    assert better.given[-1].aided
    hinted = on.hinted().entering(right).answered(NOW, "2026-11-02")
    assert (hinted.marks, hinted.aided_so_far) == (1.0, 1)
    later = OnLesson.begin(lesson, WHO, 7).going_on(hinted.given)
    assert later.place == on.place + 1
