"""Chance that repeats: the n-th draw of one thing is fixed by the seed, and the next one differs.

Nothing is kept between draws, so a log replays to the same readings in any order of asking.
"""

import hashlib
import math
from collections.abc import Sequence
from typing import TypeVar

Thing = TypeVar("Thing")
_HALF_BITS = 2**32


def _halves(seed: int, what: str, nth: int) -> tuple[float, float]:
    """Two numbers in (0, 1)."""
    digest = hashlib.blake2b(f"{seed}/{what}/{nth}".encode(), digest_size=8).digest()
    both = int.from_bytes(digest, "big")
    return (both // _HALF_BITS + 0.5) / _HALF_BITS, (both % _HALF_BITS + 0.5) / _HALF_BITS


def share(seed: int, what: str, nth: int = 0) -> float:
    """A number in (0, 1), all alike likely.

    >>> share(7, "start") == share(7, "start"), share(7, "start") == share(7, "start", 1)
    (True, False)
    """
    return _halves(seed, what, nth)[0]


def between(seed: int, what: str, low: float, high: float, nth: int = 0) -> float:
    """A number from `low` to `high`, all alike likely."""
    return low + (high - low) * share(seed, what, nth)


def scatter(seed: int, what: str, nth: int = 0) -> float:
    """A number around 0 with a standard deviation of 1, at most 3 away from it.

    Two even numbers make a normal one (G. E. P. Box and M. E. Muller, *A Note on the Generation of
    Random Normal Deviates*, 1958; from memory).
    """
    first, second = _halves(seed, what, nth)
    normal = math.sqrt(-2.0 * math.log(first)) * math.cos(2.0 * math.pi * second)
    return max(-3.0, min(3.0, normal))


def one_of(seed: int, what: str, things: Sequence[Thing], nth: int = 0) -> Thing:
    """One of some things."""
    return things[int(share(seed, what, nth) * len(things))]


def some_of(seed: int, what: str, things: Sequence[Thing], count: int) -> tuple[Thing, ...]:
    """Several different things, in an order of their own."""
    drawn = sorted(range(len(things)), key=lambda nth: share(seed, what, nth))
    return tuple(things[nth] for nth in drawn[:count])
