"""On which line of a TOML text each key stands, so that a message can point at it.

The standard reader gives values without places. This scan only has to place keys of texts that the
standard reader has accepted; a key it cannot place is reported without a line.
"""

import re
from collections import defaultdict
from collections.abc import Mapping

Path = tuple[str | int, ...]

_PART = r'(?:[A-Za-z0-9_-]+|"(?:[^"\\]|\\.)*"|\'[^\']*\')'
_KEY = rf"{_PART}(?:\s*\.\s*{_PART})*"
_TABLE = re.compile(rf"\s*\[\s*({_KEY})\s*\]")
_TABLE_ROW = re.compile(rf"\s*\[\[\s*({_KEY})\s*\]\]")
_ASSIGNMENT = re.compile(rf"\s*({_KEY})\s*=\s*(.*)")


def key_lines(text: str) -> dict[Path, int]:
    """Line number (from 1) of every table and key, by its path."""
    lines: dict[Path, int] = {}
    rows: defaultdict[Path, int] = defaultdict(int)
    table: Path = ()
    closing = ""
    for number, line in enumerate(text.splitlines(), start=1):
        if closing:
            closing = "" if closing in line else closing
        elif match := _TABLE_ROW.match(line):
            parts = _parts(match[1])
            table = (*parts, rows[parts])
            rows[parts] += 1
            lines[table] = number
        elif match := _TABLE.match(line):
            table = _parts(match[1])
            lines.setdefault(table, number)
        elif match := _ASSIGNMENT.match(line):
            lines.setdefault((*table, *_parts(match[1])), number)
            closing = _opened_text(match[2])
    return lines


def nearest_line(lines: Mapping[Path, int], path: Path) -> int | None:
    """Line of the key, or else of the nearest table around it."""
    while path:
        if path in lines:
            return lines[path]
        path = path[:-1]
    return None


def _parts(key: str) -> Path:
    return tuple(part.strip("\"'") for part in re.findall(_PART, key))


def _opened_text(value: str) -> str:
    """The quotes that end a text which goes on over several lines, or nothing."""
    for quotes in ('"""', "'''"):
        if value.startswith(quotes) and quotes not in value[3:]:
            return quotes
    return ""
