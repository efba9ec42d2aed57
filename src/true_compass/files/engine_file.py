"""Read and write engine files: `NAME.engine.toml`.

Reading is strict and reports every wrong field at once. Writing keeps the comments of the file it
replaces and is atomic.
"""

import hashlib
import stat
import tomllib
from collections.abc import MutableMapping
from pathlib import Path
from typing import Any, Final

from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError
from true_compass.files.atomic import write_atomic
from true_compass.files.engine_values import (
    DEFAULTS,
    FORMAT,
    PATHS,
    ROW_DEFAULTS,
    VERSION,
    engine_from_values,
    values_of_engine,
)
from true_compass.files.problems import EngineFileError, Problem
from true_compass.files.toml_lines import Path as KeyPath
from true_compass.files.toml_lines import key_lines, nearest_line

SUFFIX: Final = ".engine.toml"
MOST_BYTES: Final = 1_000_000


def read_engine(path: Path) -> Engine:
    """Read an engine file. Raises `EngineFileError` with every problem found."""
    return read_checked(path)[0]


def read_checked(path: Path, checked: str = "") -> tuple[Engine, str]:
    """Read an engine file; the engine and the `digest` of its text.

    `checked` is the digest of a text that was read without problems before: the same text is not
    checked a second time, which makes a start with the last engine quicker. Raises
    `EngineFileError` with every problem found.
    """
    text = read_engine_text(path)
    mark = digest(text)
    if checked == mark:
        return engine_from_values(tomllib.loads(text)), mark
    return parse_engine(text, path.name), mark


def digest(text: str) -> str:
    """A short mark of an engine file's text, as this version of the program reads it."""
    return hashlib.sha256(f"{FORMAT} {VERSION} {text}".encode()).hexdigest()


def parse_engine(text: str, file_name: str) -> Engine:
    """Read the text of an engine file; `file_name` is for the messages."""
    try:
        values = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise _one(file_name, f"is not readable as TOML: {error}. Check that place") from None
    except (ValueError, RecursionError):
        raise _one(
            file_name, "has a number too long or brackets too deep to read: shorten it"
        ) from None
    lines = key_lines(text)
    _check_format(values, lines, file_name)
    # The strict model costs a quarter of a second to import, and the shipped rigs do not need it.
    from true_compass.files.checking import problems_in

    problems = problems_in(values, lines)
    if problems:
        raise EngineFileError(file_name, problems)
    try:
        return engine_from_values(values)
    except EngineError as error:
        field = PATHS.get(error.field, error.field)
        line = nearest_line(lines, tuple(field.split(".")))
        raise EngineFileError(file_name, (Problem(field, line, str(error)),)) from None


def read_engine_text(path: Path) -> str:
    """The text of an engine file, whatever it says. Raises `EngineFileError` if unreadable."""
    try:
        status = path.stat()
        if not stat.S_ISREG(status.st_mode):
            raise _one(path.name, "is not a file: choose an engine file")
        with path.open("rb") as file:
            data = file.read(MOST_BYTES + 1)
    except FileNotFoundError:
        raise _one(path.name, "is not there: check the name") from None
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise _one(path.name, f"could not be read ({reason}): choose another file") from None
    if len(data) > MOST_BYTES:
        raise _one(path.name, "is larger than 1 MB: it is no engine file, choose another")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise _one(
            path.name, "is not UTF-8 text: choose an engine file, or save it as UTF-8"
        ) from None


def is_engine_file(path: Path) -> bool:
    """Whether a file says that it is an engine file, right or wrong."""
    try:
        return f'"{FORMAT}"' in read_engine_text(path)
    except EngineFileError:
        return False


def _one(file_name: str, sentence: str) -> EngineFileError:
    return EngineFileError(file_name, (Problem("", None, f"the file {sentence}"),))


def _check_format(values: dict[str, Any], lines: dict[KeyPath, int], name: str) -> None:
    """Stop before the other keys when this is another kind of file or a version not known here."""
    if values.get("format") != FORMAT:
        sentence = f'must be "{FORMAT}": is this an engine file'
        raise EngineFileError(name, (Problem("format", lines.get(("format",)), sentence),))
    version = values.get("version")
    if isinstance(version, bool) or version not in range(1, VERSION + 1):
        sentence = f"must be 1 to {VERSION}, the versions that this program reads"
        raise EngineFileError(name, (Problem("version", lines.get(("version",)), sentence),))


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
# At the valve.
"""


def engine_text(engine: Engine, base: str | None = None) -> str:
    """The text of an engine file. With the text of an older one as `base`, its comments stay.

    Only values that changed are touched. Raises `EngineError` for what the format cannot say.
    """
    # tomlkit costs 60 ms to import, and opening a file does not need it.
    import tomlkit

    values = sayable_values(engine)
    document = tomlkit.parse(TEMPLATE if base is None else base.removeprefix("\ufeff"))
    _put(document, values, DEFAULTS)
    return document.as_string()


def sayable_values(engine: Engine) -> dict[str, Any]:
    """The values that a file will hold. Raises `EngineError` for what reading would refuse."""
    from true_compass.files.checking import problems_in

    values = values_of_engine(engine)
    for problem in problems_in(values, {}):
        raise EngineError(problem.field, problem.sentence)
    return values


def _put(table: MutableMapping[str, Any], values: dict[str, Any], defaults: dict[str, Any]) -> None:
    import tomlkit

    for key in [key for key in table if key not in values]:
        del table[key]
    for key, value in values.items():
        default = defaults.get(key)
        if isinstance(value, dict):
            if key not in table and any(value[k] != (default or {}).get(k) for k in value):
                table[key] = tomlkit.table()
            if key in table:
                _put(table[key], value, default or {})
        elif key in table:
            if not _same(table[key], value):
                table[key] = _item(value)
        elif default != value:
            table[key] = _item(value)


def _same(held: Any, value: Any) -> bool:
    """Whether a file says this already; tables in a list may leave out what is usual."""
    if not (isinstance(value, list) and value and isinstance(value[0], dict)):
        return bool(held == value)
    return len(held) == len(value) and all(
        {key: row.get(key, ROW_DEFAULTS.get(key)) for key in new} == new
        for row, new in zip(held, value, strict=True)
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
    if path.exists():
        base = read_engine_text(path)
        parse_engine(base, path.name)
    write_atomic(path, engine_text(engine, base))
