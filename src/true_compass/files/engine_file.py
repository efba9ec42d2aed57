"""Read and write engine files: `NAME.engine.toml`.

Reading is strict and reports every wrong field at once. Writing keeps the comments of the file it
replaces and is atomic.
"""

import contextlib
import hashlib
import tomllib
from collections.abc import MutableMapping
from pathlib import Path
from typing import Any, Final

from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError
from true_compass.files.atomic import write_atomic
from true_compass.files.defaults import DEFAULTS, ROW_DEFAULTS
from true_compass.files.engine_values import (
    ENGINE_FILE,
    FORMAT,
    PATHS,
    VERSION,
    engine_from_values,
    values_of_engine,
)
from true_compass.files.problems import EngineFileError, Problem
from true_compass.files.reading import parse_toml, parse_values, problems_in, read_text
from true_compass.files.toml_lines import nearest_line
from true_compass.files.written_units import plain_values

SUFFIX: Final = ENGINE_FILE.suffix


def read_engine(path: Path) -> Engine:
    """Read an engine file. Raises `EngineFileError` with every problem found."""
    return read_checked(path)[0]


def read_checked(path: Path, checked: str = "") -> tuple[Engine, str]:
    """Read an engine file; the engine and the `text_digest` of its text.

    `checked` is the digest of a text that was read without problems before: the strict check of the
    same text is not made a second time, which makes a start with the last engine quicker. Raises
    `EngineFileError` with every problem found.
    """
    text = read_engine_text(path)
    mark = text_digest(text)
    if checked == mark:
        values = parse_toml(text, path.name)
        # Whatever the core still refuses comes out of the whole check, with its line.
        with contextlib.suppress(EngineError, KeyError, TypeError, ValueError):
            return engine_from_values(values), mark
    return parse_engine(text, path.name), mark


def text_digest(text: str) -> str:
    """A mark of an engine file's text, as this version of the program reads it."""
    return hashlib.sha256(f"{FORMAT} {VERSION} {text}".encode()).hexdigest()


def parse_engine(text: str, file_name: str) -> Engine:
    """Read the text of an engine file; `file_name` is for the messages."""
    values, lines = parse_values(ENGINE_FILE, text, file_name)
    try:
        return engine_from_values(values)
    except EngineError as error:
        field = PATHS.get(error.field, error.field)
        line = nearest_line(lines, tuple(field.split(".")))
        raise EngineFileError(file_name, (Problem(field, line, str(error)),)) from None


def read_engine_text(path: Path) -> str:
    """The text of an engine file, whatever it says. Raises `EngineFileError` if unreadable."""
    return read_text(path, ENGINE_FILE.thing)


def is_engine_file(path: Path) -> bool:
    """Whether a file says that it is an engine file, right or wrong."""
    try:
        return f'"{FORMAT}"' in read_engine_text(path)
    except EngineFileError:
        return False


TEMPLATE: Final = f"""\
# An engine for True Compass. docs/engine-file.md explains each key.
format = "{FORMAT}"
version = {VERSION}

[layout]

[crank]
# Angles in the running direction, from the front.

[dimensions]

[cam]
# Crank degrees at the valve seat, with the lash as set.

[lash]
# Where [train] lash_at says: at the valve.
"""


def engine_text(engine: Engine, base: str | None = None) -> str:
    """The text of an engine file. With the text of an older one as `base`, its comments stay.

    Only values that changed are touched. Where the old text cannot be edited in place, such as one
    with dotted keys, it is written anew below its comments. Raises `EngineError` for what the
    format cannot say.
    """
    values = sayable_values(engine)
    if base is not None:
        base = base.removeprefix("\ufeff")
        edited = _edited(base, values)
        if edited is not None and _says(edited, engine):
            return edited
        return _comments(base) + _written(TEMPLATE, values)
    return _written(TEMPLATE, values)


def _written(base: str, values: dict[str, Any]) -> str:
    # tomlkit costs 60 ms to import, and opening a file does not need it.
    import tomlkit

    document = tomlkit.parse(base)
    # What was typed as text with its unit stays so for as long as it says the same.
    _put(document, plain_values(document.unwrap()), values, DEFAULTS)
    return document.as_string()


def _edited(base: str, values: dict[str, Any]) -> str | None:
    """The old text with the new values in place, or None where the library cannot do that."""
    try:
        return _written(base, values)
    except Exception:  # the library fails in many ways on dotted keys and parted tables
        return None


def _says(text: str, engine: Engine) -> bool:
    try:
        return engine_from_values(tomllib.loads(text)) == engine
    except (EngineError, ValueError, KeyError, TypeError):
        return False


def _comments(base: str) -> str:
    """Whole lines of comment of a text that is written anew, so that none is lost."""
    known = {line.strip() for line in TEMPLATE.splitlines()}
    lines = [line.strip() for line in base.splitlines()]
    kept = [line for line in lines if line.startswith("#") and line not in known]
    return "".join(f"{line}\n" for line in kept)


def sayable_values(engine: Engine) -> dict[str, Any]:
    """The values that a file will hold. Raises `EngineError` for what reading would refuse."""
    values = values_of_engine(engine)
    for problem in problems_in(ENGINE_FILE, values, {})[0]:
        raise EngineError(problem.field, problem.sentence)
    return values


def _put(
    table: MutableMapping[str, Any],
    held: dict[str, Any],
    values: dict[str, Any],
    defaults: dict[str, Any],
) -> None:
    """Write values into a table of a document that says `held` now, as plain numbers."""
    import tomlkit

    for key in [key for key in table if key not in values]:
        del table[key]
    for key, value in values.items():
        default = defaults.get(key)
        if isinstance(value, dict):
            if key not in table and any(value[k] != (default or {}).get(k) for k in value):
                table[key] = tomlkit.table()
            if key in table:
                _put(table[key], held.get(key, {}), value, default or {})
        elif key in table:
            if not _same(held[key], value):
                table[key] = _item(value)
        elif default != value:
            table[key] = _item(value)


def _same(held: Any, value: Any) -> bool:
    """Whether a file says this already; tables in a list may leave out what is usual."""
    if not (isinstance(value, list) and value and isinstance(value[0], dict)):
        return bool(held == value)
    return len(held) == len(value) and all(
        ROW_DEFAULTS | row == ROW_DEFAULTS | new for row, new in zip(held, value, strict=True)
    )


def _item(value: Any) -> Any:
    """A value as the library wants it: a list of tables becomes `[[name]]`."""
    import tomlkit

    if not (isinstance(value, list) and value and isinstance(value[0], dict)):
        return value
    tables = tomlkit.aot()
    for row in value:
        tables.append(tomlkit.item(row))
    return tables


def save_engine(engine: Engine, path: Path) -> None:
    """Write the engine to a file. Raises `OSError`, `EngineError` or `EngineFileError`.

    Comments of an existing engine file stay. A file that is no engine file is not overwritten.
    """
    base = None
    if path.is_symlink() or path.exists():
        base = read_engine_text(path)
        parse_engine(base, path.name)
    write_atomic(path, engine_text(engine, base))
