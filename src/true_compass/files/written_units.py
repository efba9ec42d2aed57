"""Figures that a file has as text with their unit: `"23 thou"`, `"25 ft·lb"`, `"0.75 turn"`.

A key that ends in `_mm` takes a length as text, one that ends in `_nm` a torque; preload takes
turns of the adjuster too. A number without quotes is what the key's own name says.
"""

import re
from typing import Any, Final

from true_compass.core.adjusting.screws import plunger_per_turn_mm
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.units import parse_length_mm, parse_torque_nm, parse_turns
from true_compass.files.defaults import DEFAULTS
from true_compass.files.train_values import train_from

Values = dict[str, Any]
DIGITS: Final = 6
"""Millimetres are kept to a nanometre: 23 thou is 0.5842 mm, and no more."""
PRELOAD: Final = "preload_mm"
_UNIT: Final = re.compile(r"[^\W\d_]|[\"″%]")


def plain_values(values: Values) -> Values:
    """The same values with every text that has a unit as the number that its key holds.

    Raises `EngineError` that names the key, for a text that is no such figure, and for turns of an
    adjuster whose thread is not known.

    >>> plain_values({"lash": {"intake_mm": "10 thou"}, "train": {"torque_nm": "20 lbf·ft"}})
    {'lash': {'intake_mm': 0.254}, 'train': {'torque_nm': 27.116359}}
    """
    return {key: _plain(key, key, value, values) for key, value in values.items()}


def _plain(path: str, key: str, value: Any, whole: Values) -> Any:
    if isinstance(value, dict):
        return {k: _plain(f"{path}.{k}", k, one, whole) for k, one in value.items()}
    if isinstance(value, list):
        # Rows of tables keep their own keys; figures of a band are all of one key.
        return [_plain(_row(path, nth, one), key, one, whole) for nth, one in enumerate(value, 1)]
    if not isinstance(value, str) or not _UNIT.search(value):
        # A quoted number without a unit is a slip: the strict check says so.
        return value
    if key.endswith("_mm"):
        if key == PRELOAD and (turns := parse_turns(path, value)) is not None:
            return round(turns * _per_turn_mm(path, whole), DIGITS)
        return round(parse_length_mm(path, value), DIGITS)
    if key.endswith("_nm"):
        return round(parse_torque_nm(path, value), DIGITS)
    return value


def _row(path: str, nth: int, value: Any) -> str:
    return f"{path}.{nth}" if isinstance(value, dict) else path


def _per_turn_mm(path: str, whole: Values) -> float:
    """How far a turn of this engine's adjuster moves its plungers."""
    told = whole.get("train")
    known = {
        key: value
        for key, value in (told if isinstance(told, dict) else {}).items()
        if key in ("adjuster", "thread", "intake_ratio", "exhaust_ratio")
    }
    try:
        per_turn = plunger_per_turn_mm(train_from({**DEFAULTS["train"], **known}), Kind.INTAKE)
    except (EngineError, TypeError, ValueError):
        per_turn = None
    if per_turn is None:
        raise EngineError(
            path, "is in turns, which needs train.adjuster and train.thread: name both, or give mm"
        )
    return per_turn


def with_text(schema: Values) -> Values:
    """A JSON Schema in which every length and torque may be text with its unit as well."""
    return {key: _grown(key, value) for key, value in schema.items()}


def _grown(key: str, value: Any) -> Any:
    if isinstance(value, list):
        return [_grown("", one) for one in value]
    if not isinstance(value, dict):
        return value
    if key in ("properties", "$defs"):
        return {name: _property(name, one) for name, one in value.items()}
    return {name: _grown(name, one) for name, one in value.items()}


def _property(name: str, value: Values) -> Values:
    if not name.endswith(("_mm", "_nm")):
        return with_text(value)
    if value.get("type") == "array":
        return {**value, "items": _number_or_text(value["items"])}
    return _number_or_text(value)


def _number_or_text(value: Values) -> Values:
    """The type and limits of a number, or any text: reading a file judges what it says."""
    text = {"type": "string"}
    if "anyOf" in value:
        return {**value, "anyOf": [*value["anyOf"], text]}
    about = {key: one for key, one in value.items() if key in ("title", "description", "default")}
    number = {key: one for key, one in value.items() if key not in about}
    return {"anyOf": [number, text], **about}
