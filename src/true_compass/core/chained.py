"""Lines that are chained: each carries a hash of the line before it and of what it says itself.

A chain shows that a file was altered, not by whom, and cannot show that a whole file was made up.
"""

import hashlib
import json
import math
from typing import Any, Final, NoReturn

MOST_DIGITS: Final = 20


def compact(values: object) -> str:
    """Values as one line of JSON, keys sorted: the same values give the same line.

    >>> compact({"b": 1, "a": "é"})
    '{"a":"é","b":1}'
    """
    return json.dumps(values, sort_keys=True, separators=(",", ":"), ensure_ascii=False)


def plain_json(text: str | bytes) -> Any:
    """What a line of JSON holds. Raises `ValueError` for what is none, or what nothing could be
    done with: brackets too deep, numbers that are none or without end, half characters.

    >>> plain_json('{"deg": 30}')
    {'deg': 30}
    """
    try:
        value = json.loads(text, parse_constant=_no_number, parse_float=_float, parse_int=_int)
        # Half a pair of UTF-16 can be neither hashed, shown nor written.
        compact(value).encode("utf-8")
    except RecursionError:
        raise ValueError("its brackets are too deep") from None
    return value


def _float(text: str) -> float:
    number = float(text)
    if not math.isfinite(number):
        _no_number(text)
    return number


def _int(text: str) -> int:
    if len(text) > MOST_DIGITS:
        _no_number(text)
    return int(text)


def _no_number(text: str) -> NoReturn:
    raise ValueError(f"{text[:20]} is no number here")


def mark_of(before: str, told: object) -> str:
    """The hash that ties what a line tells to the line `before` it: SHA-256, 64 hex digits."""
    return hashlib.sha256(f"{before}\n{compact(told)}".encode()).hexdigest()
