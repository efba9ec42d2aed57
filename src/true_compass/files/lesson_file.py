"""Read and write lesson files: `NAME.lesson.toml`, plain words and a full copy of each engine.

A lesson that ships names its demo rigs; one that is handed out carries copies, so that it works
wherever it is opened.
"""

import hashlib
import json
from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from true_compass.core.cautions import Caution
from true_compass.core.limits import EngineError
from true_compass.files.defaults import DEFAULTS, without_defaults
from true_compass.files.engine_values import engine_digest, engine_from_values, values_of_engine
from true_compass.files.kinds import ENDINGS, FileKind
from true_compass.files.problems import EngineFileError, Problem
from true_compass.files.reading import FileFormat, parse_values, read_text
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.files.scenario_file import (
    scenario_digest,
    scenario_from_values,
    scenario_values,
)
from true_compass.files.scenarios import scenario_names, shipped_scenario
from true_compass.files.toml_lines import nearest_line
from true_compass.lessons.drill import Cover
from true_compass.lessons.drills import drill_of
from true_compass.lessons.guide import (
    Guided,
    Notes,
    Picture,
    Pointing,
    Step,
)
from true_compass.lessons.lesson import (
    CoveredPart,
    DrillPart,
    Lesson,
    LessonEngine,
    Part,
    Settings,
    problems_of,
)

if TYPE_CHECKING:
    from pydantic import BaseModel

FORMAT: Final = "true-compass-lesson"
VERSION: Final = 1
SUFFIX: Final = ENDINGS[FileKind.LESSON]


def _models() -> "Mapping[int, type[BaseModel]]":
    from true_compass.files.model_lesson import LessonFile

    return {1: LessonFile}


LESSON_FILE: Final = FileFormat(FORMAT, "a lesson", SUFFIX, VERSION, _models, {}, "docs/lessons.md")


def read_lesson(path: Path) -> Lesson:
    """Read a lesson file. Raises `EngineFileError` with every problem found."""
    return parse_lesson(read_text(path, LESSON_FILE.thing), path.name)


def parse_lesson(text: str, file_name: str) -> Lesson:
    """Read the text of a lesson file; `file_name` is for the messages."""
    values, lines = parse_values(LESSON_FILE, text, file_name)
    try:
        lesson = lesson_from_values(values)
    except EngineError as error:
        line = nearest_line(lines, tuple(error.field.split(".")))
        raise EngineFileError(file_name, (Problem(error.field, line, str(error)),)) from None
    problems = problems_of(lesson, {})
    if problems:
        told = tuple(
            Problem(f"part.{bad.part + 1}", nearest_line(lines, ("part", bad.part)), bad.sentence)
            for bad in problems
        )
        raise EngineFileError(file_name, told, len(told))
    return lesson


def lesson_from_values(values: dict[str, Any]) -> Lesson:
    """The lesson that checked values describe. Raises `EngineError` for what cannot be."""
    engines = tuple(_engine(told) for told in values.get("engine", ()))
    names = [one.name for one in engines]
    for name in names:
        if names.count(name) > 1:
            raise EngineError("engine.name", f"{name} is there twice: call each one differently")
    return Lesson(
        id=values["id"],
        title=values["title"],
        purpose=values.get("purpose", ""),
        engines=engines,
        parts=tuple(_part(nth, told) for nth, told in enumerate(values.get("part", ()))),
        settings=Settings(**values.get("settings", {})),
        note=values.get("note", ""),
    )


def _engine(told: dict[str, Any]) -> LessonEngine:
    rig = told.get("rig", "")
    if "copy" in told:
        return LessonEngine(told["name"], engine_from_values(told["copy"]), rig)
    if rig not in rig_names():
        raise EngineError(
            "engine.rig",
            f"{rig[:30] or told['name']} is not there: name a demo rig ({', '.join(rig_names())}), "
            "or put a copy of the engine into the lesson",
        )
    return LessonEngine(told["name"], demo_rig(rig), rig)


def _part(nth: int, told: dict[str, Any]) -> Part:
    where = f"part.{nth + 1}"
    if told["kind"] == "guided":
        if not told.get("engine") or not told.get("step"):
            raise EngineError(where, "is guided, so it needs an engine and steps")
        steps = tuple(_step(step) for step in told["step"])
        cast = tuple(told.get("cast", ("1",)))
        return Guided(told.get("title", ""), told["engine"], cast, steps)
    if told["kind"] == "covered":
        return _covered(where, told)
    kinds = tuple(told.get("kinds", ()))
    if not kinds or not told.get("engines"):
        raise EngineError(where, "is a drill, so it needs kinds and engines")
    title = told.get("title", "") or drill_title(kinds)
    return DrillPart(
        title,
        kinds,
        tuple(told["engines"]),
        told.get("count", 10),
        told.get("hints", True),
        told.get("strokes", True),
    )


def drill_title(kinds: tuple[str, ...]) -> str:
    """What a drill of these kinds is called."""
    try:
        return drill_of(kinds[0]).title if len(kinds) == 1 else f"{len(kinds)} drills in turn"
    except ValueError:
        return kinds[0]


def _covered(where: str, told: dict[str, Any]) -> CoveredPart:
    if "scenario" in told:
        scenario = scenario_from_values(told["scenario"])
    elif told.get("shipped") in scenario_names():
        scenario = shipped_scenario(told["shipped"])
    else:
        names = ", ".join(scenario_names())
        raise EngineError(f"{where}.shipped", f"must be a scenario that ships ({names})")
    title = told.get("title", "") or scenario.shown_title
    return CoveredPart(title, scenario, told.get("hints", True))


def _step(told: dict[str, Any]) -> Step:
    return Step(
        say=told["say"],
        at=told.get("at", ""),
        look=told.get("look", "a"),
        point=Pointing(told.get("point", "")),
        plate=told.get("plate", ""),
        cover=tuple(Cover(word) for word in told.get("cover", ())),
        picture=Picture(told.get("picture", "crank")),
        asks=told.get("asks", ""),
        ask=dict(told.get("ask", {})),
        then=told.get("then", ""),
        care=tuple(map(_caution, told.get("care", ()))),
        holds=tuple(told.get("holds", ())),
        notes=Notes(**told.get("notes", {})),
    )


def _caution(slug: str) -> Caution:
    try:
        return Caution(slug)
    except ValueError:
        known = ", ".join(caution.value for caution in Caution)
        raise EngineError("part.step.care", f"must be one of {known}, not {slug[:30]!r}") from None


SETTINGS: Final = ("passed", "minutes", "same", "seed", "mixed")


def lesson_values(lesson: Lesson, *, copies: bool = True) -> dict[str, Any]:
    """A lesson as plain values; with full copies of its engines, as it is handed out."""
    settings = {key: getattr(lesson.settings, key) for key in SETTINGS}
    told: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "id": lesson.id,
        "title": lesson.title,
        "purpose": lesson.purpose,
        "note": lesson.note,
        "settings": settings,
        "engine": [_engine_values(one, copies) for one in lesson.engines],
        "part": [_part_values(part) for part in lesson.parts],
    }
    return {key: value for key, value in told.items() if value not in ("", [])}


def _engine_values(one: LessonEngine, copies: bool) -> dict[str, Any]:
    told: dict[str, Any] = {"name": one.name}
    if one.rig:
        told["rig"] = one.rig
    is_rig = one.rig in rig_names() and demo_rig(one.rig) == one.engine
    if copies or not is_rig:
        told["copy"] = copied_engine(one)
    return told


def copied_engine(one: LessonEngine) -> dict[str, Any]:
    """A full copy of an engine as plain values, what is usual left out."""
    values = values_of_engine(one.engine)
    layout = {"firing_order": one.engine.order_text, "form": values["layout"]["form"]}
    told = without_defaults(values, DEFAULTS)
    return {**told, "layout": layout | told.get("layout", {})}


def _part_values(part: Part) -> dict[str, Any]:
    if isinstance(part, Guided):
        return {
            "kind": "guided",
            "title": part.title,
            "engine": part.engine,
            "cast": list(part.cast),
            "step": [_step_values(step) for step in part.steps],
        }
    if isinstance(part, CoveredPart):
        scenario = scenario_values(part.scenario)
        return {"kind": "covered", "title": part.title, "hints": part.hints, "scenario": scenario}
    return {
        "kind": "drill",
        "title": part.title,
        "kinds": list(part.kinds),
        "engines": list(part.engines),
        "count": part.count,
        "hints": part.hints,
        "strokes": part.strokes,
    }


def _step_values(step: Step) -> dict[str, Any]:
    notes = {key: getattr(step.notes, key) for key in ("say", "wait", "answer", "wrong")}
    told: dict[str, Any] = {
        "say": step.say,
        "at": step.at,
        "look": step.look,
        "point": step.point.value,
        "plate": step.plate,
        "cover": [cover.value for cover in step.cover],
        "picture": step.picture.value,
        "asks": step.asks,
        "ask": dict(step.ask),
        "then": step.then,
        "care": [caution.value for caution in step.care],
        "holds": list(step.holds),
        "notes": {key: words for key, words in notes.items() if words},
    }
    usual = {"look": "a", "picture": "crank"}
    # Its sentence must be there, even if it says nothing.
    return {
        k: v for k, v in told.items() if k == "say" or (v not in ("", [], {}) and usual.get(k) != v)
    }


def lesson_text(lesson: Lesson, *, copies: bool = True) -> str:
    """The text of a lesson file."""
    import tomlkit

    head = "# A lesson for True Compass. docs/lessons.md explains each key.\n"
    return head + tomlkit.dumps(lesson_values(lesson, copies=copies))


def lesson_digest(lesson: Lesson) -> str:
    """SHA-256 of everything that makes a lesson what it is; titles, notes and remarks left out."""
    values = lesson_values(lesson, copies=False)
    told = {
        "id": lesson.id,
        "settings": values["settings"],
        "engines": [[one.name, engine_digest(one.engine)] for one in lesson.engines],
        "parts": [_digested(part) for part in lesson.parts],
    }
    text = json.dumps(told, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return hashlib.sha256(f"{FORMAT} {text}".encode()).hexdigest()


def _digested(part: Part) -> Any:
    if isinstance(part, DrillPart):
        return [list(part.kinds), list(part.engines), part.count, part.hints, part.strokes]
    if isinstance(part, CoveredPart):
        return scenario_digest(part.scenario)
    return "guided"
