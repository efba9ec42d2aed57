"""What every attack has: its inputs come from a seed and a number, and a fault is raised."""

from collections.abc import Sequence
from pathlib import Path
from random import Random


class LostError(AssertionError):
    """Something that was done is not on the disk."""


class Attack:
    """One kind of input; `try_one` raises for a fault and says what it did."""

    timed = True

    def __init__(self, folder: Path, seed: int) -> None:
        self.folder = folder
        self.seed = seed

    def random(self, number: int) -> Random:
        """The same numbers for one input in every run."""
        return Random(f"{type(self).__name__} {self.seed} {number}")

    def try_one(self, number: int) -> str:
        """Give the program one input."""
        raise NotImplementedError

    def close(self) -> None:
        """The end of this attack."""


def check_sentences(sentences: Sequence[str]) -> None:
    """A refusal is a few plain lines."""
    assert sentences
    assert all("\n" not in line and "\x1b" not in line for line in sentences), sentences
