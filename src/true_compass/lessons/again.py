"""When to ask again: a spaced-review scheduler decides, from how the answers went.

Wrong counts as forgotten, right with a hint as hard, right and unaided as good. A clock that went
back changes nothing: an answer dated before the last one counts at the last one's time.
"""

from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from fsrs import Scheduler


@dataclass(frozen=True, slots=True)
class Due:
    """What is known of one skill of one person: how many days it holds, how hard it is (1 to 10),
    when it was asked last, and when it is due again. Times are UTC.
    """

    holds_days: float
    hard: float
    last_at: datetime
    due_at: datetime


@lru_cache(maxsize=1)
def _scheduler() -> "Scheduler":
    # Only whoever answers something pays for it.
    from fsrs import Scheduler

    return Scheduler(learning_steps=(), relearning_steps=(), enable_fuzzing=False)


def after(due: Due | None, at: datetime, *, right: bool, aided: bool) -> Due:
    """What is known after one more answer. `at` is UTC, or taken as such."""
    from fsrs import Rating

    rated = Rating.Again if not right else Rating.Hard if aided else Rating.Good
    at = at.astimezone(UTC)
    if due is not None:
        at = max(at, due.last_at)
    card, _ = _scheduler().review_card(_card(due, at), rated, at)
    assert card.stability is not None
    assert card.difficulty is not None
    return Due(card.stability, card.difficulty, at, card.due)


def _card(due: Due | None, at: datetime) -> Any:
    from fsrs import Card, State

    if due is None:
        return Card(card_id=0, due=at)
    return Card(0, State.Review, None, due.holds_days, due.hard, due.due_at, due.last_at)
