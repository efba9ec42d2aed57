"""What a pad asks figures for, and what is asked beside a figure."""

from dataclasses import dataclass
from typing import Protocol

from PyQt6.QtCore import pyqtBoundSignal


class Asker(Protocol):
    """What a pad asks figures for: the readings at the wheel, or those of a lobe."""

    refused: str

    @property
    def changed(self) -> pyqtBoundSignal:
        """Anything of it has changed."""

    @property
    def asks(self) -> bool:
        """Whether a figure is asked."""

    @property
    def has_far_side(self) -> bool:
        """Whether it can stand beyond zero."""

    @property
    def asked_words(self) -> tuple[str, str]:
        """What comes next, and how to get there."""

    @property
    def side_words(self) -> str:
        """The unit or side of the figure."""

    @property
    def then_words(self) -> str:
        """What Enter leads to."""

    @property
    def question(self) -> "Question | None":
        """What is asked beside a figure."""

    def enter(self, text: str) -> bool:
        """Put a figure in; whether it was taken."""

    def answer(self, word: str) -> None:
        """Take an answer."""

    def step(self, by: int) -> None:
        """Another reading."""

    def rub_out(self) -> None:
        """Take the asked reading out."""


@dataclass(frozen=True, slots=True)
class Question:
    """Something that a person is asked beside a figure: a sentence, and answers to press.

    Each answer is its words and what it does; Enter on an empty field gives the usual one.
    """

    head: str
    sentence: str
    answers: tuple[tuple[str, str], ...]
    usual: int = 0
