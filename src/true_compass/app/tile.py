"""What stands for a workspace on the front page."""

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from true_compass.core.items import Item
from true_compass.drawing.theme import Theme
from true_compass.session.session import SessionState


@dataclass(frozen=True, slots=True)
class GoOn:
    """Work that was begun: what is due next, where, and how far it has come.

    `page` is where it goes on; `done` of `of` steps are behind; `button` says what a press does.
    """

    item: Item | None
    head: str
    line: str
    sentence: str
    button: str
    page: str
    done: int = 0
    of: int = 0


def _nothing(_state: SessionState) -> None:
    return None


@dataclass(frozen=True, slots=True)
class Tile:
    """One tile. `paint` draws its figure into a box; `words` tells where this engine stands."""

    title: str
    sentence: str
    paint: Callable[[QPainter, QRectF, SessionState, Theme], None]
    words: Callable[[SessionState], str]
    go_on: Callable[[SessionState], GoOn | None] = _nothing
