"""The strict check of an engine file's values, whatever its version."""

from typing import Any, Final, get_args

from pydantic import BaseModel, ValidationError

from true_compass.files.model_v1 import EngineFileV1
from true_compass.files.model_v2 import EngineFile
from true_compass.files.problems import Problem, sentence_for
from true_compass.files.toml_lines import Path, nearest_line

MODELS: Final[dict[int, type[BaseModel]]] = {1: EngineFileV1, 2: EngineFile}


def problems_in(values: dict[str, Any], lines: dict[Path, int]) -> tuple[Problem, ...]:
    """Every wrong field of an engine file's values; `lines` tells where each key stands.

    `values["version"]` must be one of `MODELS`.
    """
    model = MODELS[values["version"]]
    try:
        model.model_validate(values)
    except ValidationError as error:
        return tuple(_problem(dict(item), lines, model) for item in error.errors(include_url=False))
    return ()


def _problem(error: dict[str, Any], lines: dict[Path, int], model: type[BaseModel]) -> Problem:
    path: Path = error["loc"]
    sentence = sentence_for(error, _known_keys(path[:-1], model))
    # People count from 1.
    shown = ".".join(str(part + 1 if isinstance(part, int) else part) for part in path)
    return Problem(shown, nearest_line(lines, path), sentence)


def _known_keys(table: Path, model: type[BaseModel]) -> list[str]:
    for name in table:
        if isinstance(name, int):
            continue
        inner = _model_in(model.model_fields[name].annotation)
        if inner is None:
            return []
        model = inner
    return list(model.model_fields)


def _model_in(annotation: object) -> type[BaseModel] | None:
    """The table that a field holds: itself, one of a list, or one that may be left out."""
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return annotation
    return next(filter(None, map(_model_in, get_args(annotation))), None)
