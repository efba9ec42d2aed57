"""What a program keeps between two starts, with something wrong in it."""

import json
from random import Random
from typing import Any

VALUES: tuple[Any, ...] = (
    *(None, True, False, 0, -1, 1, 99, 1e300, -0.5, "", "I1", "set", "two-stop", "/dev/zero"),
    *("a\0b", "x" * 5000, "\ud800", "\u202e", [], {}, [[]], {"": {}}, {"how": "set"}, ["I1"]),
)
KEYS = ("items", "how", "stop", "school", "values", "format", "engine", "", "I1", "Z9", "made_from")


def odd_value(value: Any, random: Random) -> Any:
    """A JSON value with something in it put in the place of something else."""
    if isinstance(value, dict) and value and random.random() < 0.85:
        key = random.choice(list(value))
        match random.randrange(6):
            case 0:
                return {k: v for k, v in value.items() if k != key}
            case 1:
                return {**value, random.choice(KEYS): random.choice(VALUES)}
            case 2:
                return {random.choice(KEYS) if k == key else k: v for k, v in value.items()}
        return {**value, key: odd_value(value[key], random)}
    if isinstance(value, list) and value and random.random() < 0.85:
        at = random.randrange(len(value))
        return [*value[:at], odd_value(value[at], random), *value[at + 1 :]]
    if isinstance(value, int | float) and random.random() < 0.5:
        return value * random.choice((-1, 0, 0.5, 2, 10, 1e6))
    return random.choice(VALUES)


def odd_file(content: bytes, random: Random) -> bytes:
    """A kept file with odd values, or one that is no JSON at all."""
    if random.random() < 0.2:
        at = random.randrange(len(content) + 1)
        return random.choice(
            (content[:at], content[:at] + random.randbytes(4) + content[at:], b"", b"[" * 90_000)
        )
    value = json.loads(content)
    for _ in range(random.choice((1, 1, 2, 3))):
        value = odd_value(value, random)
    return json.dumps(value, ensure_ascii=random.random() < 0.9).encode("utf-8", "surrogatepass")
