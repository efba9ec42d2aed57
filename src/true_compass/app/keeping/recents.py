"""The engines that were open before, and where one was on each of them."""

import math
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from true_compass.session.session import Source

MOST_TEXT = 4096


@dataclass(frozen=True, slots=True)
class Recent:
    """One engine. `word` and `page` are the workspace; `left` tells in words how far one was."""

    source: Source
    name: str
    layout: str
    crank_deg: float
    word: str
    page: str
    left: str
    at: datetime

    def when_words(self, now: datetime) -> str:
        """When that was, as people say it, in the time zone of `now`."""
        return when_words(self.at.astimezone(now.tzinfo), now)

    @property
    def record(self) -> dict[str, Any]:
        """As plain values."""
        path = self.source.path
        return {
            "rig": self.source.rig,
            "path": str(path) if path else "",
            "digest": self.source.digest,
            "name": self.name,
            "layout": self.layout,
            "crank_deg": self.crank_deg,
            "word": self.word,
            "page": self.page,
            "left": self.left,
            "at": self.at.astimezone(UTC).isoformat(timespec="seconds"),
        }


TEXTS = ("rig", "path", "digest", "name", "layout", "word", "page", "left", "at")


def recents_of(records: list[Any]) -> list[Recent]:
    """Records as they were kept; what makes no sense is left out."""
    found = [_recent_of(record) for record in records]
    return [recent for recent in found if recent is not None]


def _recent_of(record: Any) -> Recent | None:
    if not isinstance(record, dict):
        return None
    texts = [record.get(key) for key in TEXTS]
    at = record.get("crank_deg")
    if not isinstance(at, int | float) or isinstance(at, bool) or not math.isfinite(at):
        return None
    if not all(isinstance(t, str) and len(t) <= MOST_TEXT and "\0" not in t for t in texts):
        return None
    rig, path, digest, name, layout, word, page, left, when = (str(text) for text in texts)
    try:
        then = datetime.fromisoformat(when)
    except ValueError:
        return None
    if then.tzinfo is None or not (rig or path):
        return None
    source = Source(rig, Path(path) if path else None, digest)
    return Recent(source, name, layout, float(at) % 720.0, word, page, left, then)


def when_words(then: datetime, now: datetime) -> str:
    """A time as people say it: `at 15:40`, `yesterday at 15:40`, `on Monday`, `on 3 March`.

    >>> when_words(datetime(2026, 3, 2, 15, 40), datetime(2026, 3, 3, 8, 0))
    'yesterday at 15:40'
    """
    days = (now.date() - then.date()).days
    clock = f"{then:%H:%M}"
    if days <= 0:
        return f"today at {clock}"
    if days == 1:
        return f"yesterday at {clock}"
    if days < 7:
        return f"on {then:%A}"
    if then.year == now.year:
        return f"on {then.day} {then:%B}"
    return f"on {then.day} {then:%B} {then.year}"
