"""Records as plain values for a JSON file, and back by their own strict shape."""

import json
from dataclasses import fields, is_dataclass
from enum import Enum
from typing import Any, TypeVar

T = TypeVar("T")


def plain(value: Any) -> Any:
    """Records as tables, words of lists as their slugs, everything else as it is."""
    if is_dataclass(value):
        return {field.name: plain(getattr(value, field.name)) for field in fields(value)}
    if isinstance(value, Enum):
        return value.value
    if isinstance(value, (tuple, list)):
        return [plain(inner) for inner in value]
    return value


def value_from(shape: type[T], values: Any) -> T | None:
    """The record of such values, or None for what is none."""
    from pydantic import TypeAdapter, ValidationError  # most of a second, and only here

    try:
        text = json.dumps(values, allow_nan=False)
        told: T = TypeAdapter(shape).validate_json(text, strict=True)
    except (ValidationError, ValueError):
        return None
    return told
