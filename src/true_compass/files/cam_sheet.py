"""Sheets of cam readings as plain values: what is kept while a cam is degreed.

What comes back is checked by the strict shape of the sheet itself; what makes no sense is None.
"""

import json
from dataclasses import fields, is_dataclass
from enum import Enum
from typing import Any, Final

from true_compass.core.degreeing.sheet import Sheet

VERSION: Final = 1


def plain(value: Any) -> Any:
    """Records as tables, words of lists as their slugs, everything else as it is."""
    if is_dataclass(value):
        return {field.name: plain(getattr(value, field.name)) for field in fields(value)}
    if isinstance(value, Enum):
        return value.value
    if isinstance(value, (tuple, list)):
        return [plain(inner) for inner in value]
    return value


def sheet_values(sheet: Sheet) -> dict[str, Any]:
    """A sheet as values for a JSON file."""
    return {"version": VERSION, "sheet": plain(sheet)}


def sheet_from(values: Any) -> Sheet | None:
    """The sheet of such values, or None for what is none."""
    from pydantic import TypeAdapter, ValidationError  # most of a second, and only here

    if not isinstance(values, dict) or values.get("version") != VERSION:
        return None
    try:
        text = json.dumps(values.get("sheet"), allow_nan=False)
        told: Sheet = TypeAdapter(Sheet).validate_json(text, strict=True)
    except (ValidationError, ValueError):
        return None
    return told if told.rounds else None
