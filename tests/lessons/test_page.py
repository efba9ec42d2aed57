"""The page about lessons names every key of a lesson file and every word that a step takes."""

from pathlib import Path

from true_compass.files.model_lesson import (
    LessonEnginePart,
    LessonFile,
    LessonPart,
    NotesPart,
    SettingsPart,
    StepPart,
)
from true_compass.lessons.drill import Cover
from true_compass.lessons.guide import Picture, Pointing

PAGE = (Path(__file__).parents[2] / "docs" / "lessons.md").read_text(encoding="utf-8")
TABLES = {"engine", "part", "step", "settings"}


def test_the_page_names_every_key_and_word() -> None:
    models = (LessonFile, LessonPart, StepPart, NotesPart, SettingsPart, LessonEnginePart)
    words = {field.alias or name for model in models for name, field in model.model_fields.items()}
    words |= {one.value for kind in (Cover, Pointing, Picture) for one in kind if one.value}
    missing = [word for word in sorted(words - TABLES) if f"`{word}`" not in PAGE]
    assert missing == []
    assert all(f"[{table}]" in PAGE or f".{table}]" in PAGE for table in TABLES)
