"""Lines that are chained: each carries a hash of the line before it and of what it says itself.

A chain shows that a file was altered, not by whom, and cannot show that a whole file was made up.
"""

import hashlib
import json


def compact(values: object) -> str:
    """Values as one line of JSON, keys sorted: the same values give the same line.

    >>> compact({"b": 1, "a": "é"})
    '{"a":"é","b":1}'
    """
    return json.dumps(values, sort_keys=True, separators=(",", ":"), ensure_ascii=False)


def mark_of(before: str, told: object) -> str:
    """The hash that ties what a line tells to the line `before` it: SHA-256, 64 hex digits."""
    return hashlib.sha256(f"{before}\n{compact(told)}".encode()).hexdigest()
