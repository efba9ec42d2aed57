"""One way in for every format: bytes → text → format and version → strict model → upgrades.

A format declares itself as a `FileFormat`. What is wrong comes out as `EngineFileError` with plain
sentences, and a refused file costs little: what makes reading slow is refused before it is read.
"""

import os
import re
import stat
import tomllib
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from true_compass.core.limits import EngineError
from true_compass.files.problems import MOST_TOLD, EngineFileError, Problem, sentence_for
from true_compass.files.toml_lines import Path as KeyPath
from true_compass.files.toml_lines import key_lines, nearest_line

if TYPE_CHECKING:
    from pydantic import BaseModel

MOST_BYTES: Final = 1_000_000
MOST_LINES: Final = 25_000
MOST_KEYS: Final = 4_000
MOST_TABLES: Final = 400
MOST_VALUES: Final = 25_000

Values = dict[str, Any]


PACKED: Final = b"PK\x03\x04"
"""How a workbook begins (PKWARE, *APPNOTE*, local file header; from memory)."""
NEWER: Final = "a newer version of the program wrote it, and this one reads"


@dataclass(frozen=True, slots=True)
class FileFormat:
    """A kind of file. `models` are imported when asked for: the library costs a quarter second."""

    word: str
    thing: str
    suffix: str
    newest: int
    models: "Callable[[], Mapping[int, type[BaseModel]]]"
    upgrades: Mapping[int, Callable[[Values], Values]]
    explained_in: str = "docs/engine-file.md"
    plain: Callable[[Values], Values] | None = None
    """Makes numbers of figures that are written as text with their unit."""

    def upgraded(self, values: Values) -> Values:
        """The values of an older file in the newest version, step by step."""
        while values["version"] != self.newest:
            values = self.upgrades[values["version"]](values)
        return values


def one_problem(file_name: str, sentence: str) -> EngineFileError:
    """A file that cannot be used at all."""
    return EngineFileError(file_name, (Problem("", None, f"the file {sentence}"),))


def read_bytes(path: Path, thing: str, most: int = MOST_BYTES) -> bytes:
    """The content of an ordinary file of at most `most` bytes. Never waits for a pipe or a device.

    Raises `EngineFileError` with one sentence.
    """
    data = read_head(path, thing, most + 1)
    if len(data) > most:
        raise one_problem(path.name, f"is larger than {most // 1_000_000} MB: choose {thing}")
    return data


def read_head(path: Path, thing: str, most: int) -> bytes:
    """The first bytes of an ordinary file, or all that it has. Raises `EngineFileError`."""
    name = path.name or str(path)
    try:
        # Not blocking, so that a named pipe which nobody writes to cannot hold the program up.
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        with open(handle, "rb") as file:
            if not stat.S_ISREG(os.fstat(handle).st_mode):
                raise one_problem(name, f"is no ordinary file: choose {thing}")
            return file.read(most)
    except FileNotFoundError:
        raise one_problem(name, "is not there: check the name") from None
    except IsADirectoryError:
        raise one_problem(name, f"is no ordinary file: choose {thing}") from None
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise one_problem(name, f"could not be read ({reason}): choose another file") from None


def column_mark(head: str) -> str:
    """What stands between the columns of a table, by the first line that is not empty.

    >>> column_mark("crank_deg;lift_in"), column_mark("job,date"), column_mark("a")
    (';', ',', ',')
    """
    return max(",;\t", key=head.count)


def read_text(path: Path, thing: str, most: int = MOST_BYTES) -> str:
    """The text of a file in UTF-8, with or without a byte order mark."""
    data = read_bytes(path, thing, most)
    if data.startswith(PACKED):
        raise one_problem(
            path.name, f"is a workbook or another packed file: choose {thing}, or save it as one"
        )
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise one_problem(
            path.name, f"is not UTF-8 text: choose {thing}, or save it as UTF-8"
        ) from None


# Names tied with dots over eight deep. Each starts where no name could have started before, and
# none is given back, so that the search is over in one pass.
_DEEP: Final = re.compile(
    r"""(?:(?<![\w.-])[\w-]++|"[^"\n]*+"|'[^'\n]*+')(?:\s*+\.\s*+(?:[\w-]++|"[^"\n]*+"|'[^'\n]*+')){8}"""
)


def _check_size(text: str, file_name: str) -> None:
    """Refuse what would be slow to read: too many lines, keys, tables or values, keys too deep."""
    for mark, most, things in (
        ("\n", MOST_LINES, "lines"),
        ("=", MOST_KEYS, "keys"),
        ("\n[", MOST_TABLES, "tables"),
        (",", MOST_VALUES, "values"),
    ):
        if text.count(mark) > most:
            raise one_problem(file_name, f"has more than {most} {things}: shorten it")
    deep = _DEEP.search(text)
    if deep is not None:
        line = text.count("\n", 0, deep.start()) + 1
        raise one_problem(file_name, f"has a key in line {line} that is too deep: shorten it")


def parse_toml(text: str, file_name: str) -> Values:
    """The values of a TOML text, or `EngineFileError` with one sentence."""
    _check_size(text, file_name)
    try:
        return tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        sentence = f"is not readable as TOML: {error}. Check that place"
        raise one_problem(file_name, sentence) from None
    except (ValueError, RecursionError):
        raise one_problem(
            file_name, "has a number too long or brackets too deep to read: shorten it"
        ) from None


def parse_values(form: FileFormat, text: str, file_name: str) -> tuple[Values, dict[KeyPath, int]]:
    """Checked values of a text in its own version, and the line of each key."""
    values = parse_toml(text, file_name)
    lines = key_lines(text)
    _check_format(form, values, lines, file_name)
    if form.plain is not None:
        try:
            values = form.plain(values)
        except EngineError as error:
            line = nearest_line(lines, tuple(error.field.split(".")))
            raise EngineFileError(file_name, (Problem(error.field, line, str(error)),)) from None
    problems, count = problems_in(form, values, lines)
    if problems:
        raise EngineFileError(file_name, problems, count)
    return values, lines


def _check_format(
    form: FileFormat, values: Values, lines: Mapping[KeyPath, int], name: str
) -> None:
    """Stop before the other keys when this is another kind of file or a version not known here."""
    if values.get("format") != form.word:
        sentence = f'must be "{form.word}". Is this {form.thing}?'
        raise EngineFileError(name, (Problem("format", lines.get(("format",)), sentence),))
    version = values.get("version")
    if isinstance(version, bool) or version not in range(1, form.newest + 1):
        known = "1" if form.newest == 1 else f"1 to {form.newest}"
        sentence = f"must be {known}, as far as this program knows"
        if isinstance(version, int) and not isinstance(version, bool) and version > form.newest:
            sentence = f"is {str(version)[:10]}, but {NEWER} {known}. Open it with the newer one"
        raise EngineFileError(name, (Problem("version", lines.get(("version",)), sentence),))


def problems_in(
    form: FileFormat, values: Values, lines: Mapping[KeyPath, int]
) -> tuple[tuple[Problem, ...], int]:
    """The first ten wrong fields of a file's values, and how many there are in all."""
    from pydantic import ValidationError

    model = form.models()[values["version"]]
    try:
        model.model_validate(values)
    except ValidationError as error:
        found = error.errors(include_url=False)
        told = tuple(_problem(form, dict(item), lines, model) for item in found[:MOST_TOLD])
        return told, len(found)
    return (), 0


def _problem(
    form: FileFormat,
    error: dict[str, Any],
    lines: Mapping[KeyPath, int],
    model: "type[BaseModel]",
) -> Problem:
    path: KeyPath = error["loc"]
    sentence = sentence_for(error, _known_keys(path[:-1], model), form.thing, form.explained_in)
    # People count from 1.
    shown = ".".join(str(part + 1 if isinstance(part, int) else part)[:60] for part in path)
    return Problem(shown, nearest_line(lines, path), sentence)


def _known_keys(table: KeyPath, model: "type[BaseModel]") -> list[str]:
    for name in table:
        if isinstance(name, int):
            continue
        fields = {field.alias or key: field for key, field in model.model_fields.items()}
        inner = _model_in(fields[name].annotation) if name in fields else None
        if inner is None:
            return []
        model = inner
    return [field.alias or key for key, field in model.model_fields.items()]


def _model_in(annotation: object) -> "type[BaseModel] | None":
    """The table that a field holds: itself, one of a list, or one that may be left out."""
    from typing import get_args

    from pydantic import BaseModel

    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return annotation
    return next(filter(None, map(_model_in, get_args(annotation))), None)
