"""A folder of small JSON files that must never stop the lesson.

What cannot be written is told once, and the program goes on. What cannot be read is set aside under
another name, so that nothing is overwritten, and told in one sentence.
"""

import contextlib
import hashlib
import json
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any, Final

from true_compass.files.atomic import write_atomic
from true_compass.files.problems import EngineFileError
from true_compass.files.reading import read_bytes

MOST_FILES: Final = 60
WRITTEN: Final = "What had to wait is on the disk now: nothing was lost."


class Troubles:
    """What went wrong with the folders, each sentence once, for whoever listens."""

    def __init__(self) -> None:
        self._told: list[str] = []
        self._again: dict[str, Callable[[], bool]] = {}
        self._listener: Callable[[str], None] | None = None

    def tell(self, sentence: str, again: Callable[[], bool] | None = None) -> None:
        """Say a sentence, unless it was said before. `again` tries once more what had to wait, and
        tells whether nothing waits any longer.
        """
        if again is not None:
            self._again[sentence] = again
        if sentence not in self._told:
            self._told.append(sentence)
            if self._listener is not None:
                self._listener(sentence)

    def put_off(self, sentence: str, again: Callable[[], bool]) -> None:
        """Something waits; the sentence is said if it still does when it is tried again."""
        self._again[sentence] = again

    @property
    def wait(self) -> bool:
        """Whether something waits to be tried again."""
        return bool(self._again)

    def try_again(self) -> None:
        """Try what waits. What is over may be told anew if it comes back; that all is over is said
        where it was told that something waits.
        """
        over = []
        for sentence, again in list(self._again.items()):
            if not again():
                self.tell(sentence)
                continue
            del self._again[sentence]
            if sentence in self._told:
                self._told.remove(sentence)
                over.append(sentence)
        if over and not self._again:
            self.tell(WRITTEN)
            self._told.remove(WRITTEN)

    def listen(self, listener: Callable[[str], None]) -> None:
        """Hear every sentence from now on, and the last one that was said before."""
        self._listener = listener
        if self._told:
            listener(self._told[-1])


class Store:
    """Reads and writes JSON values by name."""

    def __init__(self, folder: Path, troubles: Troubles) -> None:
        self.folder = folder
        self.troubles = troubles

    def read(self, name: str) -> Any:
        """The value of a file, or None where there is none that can be read."""
        path = self.folder / name
        if not path.exists():
            return None
        try:
            return json.loads(read_bytes(path, "another"))
        except (EngineFileError, ValueError, RecursionError):
            self.set_aside(name)
            return None

    def set_aside(self, name: str) -> None:
        """Give a file that makes no sense another name."""
        path = self.folder / name
        for number in range(1, 100):
            aside = path.with_name(f"{name}.broken-{number}")
            if not aside.exists():
                with contextlib.suppress(OSError):
                    path.rename(aside)
                self.troubles.tell(f"{name} made no sense and was set aside as {aside.name}.")
                return

    def write(self, name: str, value: Any) -> bool:
        """Replace a file in one step; whether that could be done."""
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            write_atomic(self.folder / name, json.dumps(value, indent=1))
        except OSError as error:
            self.troubles.tell(
                f"What you do cannot be kept in {self.folder} ({error.strerror}): it is lost when "
                "the program closes."
            )
            return False
        return True

    def names(self, beginning: str) -> list[str]:
        """Files whose names begin like this, the newest first."""
        with contextlib.suppress(OSError):
            found = [p for p in self.folder.iterdir() if p.name.startswith(beginning)]
            found = [p for p in found if p.name.endswith(".json")]
            found.sort(key=lambda path: path.stat().st_mtime, reverse=True)
            return [path.name for path in found]
        return []

    def drop(self, name: str) -> None:
        """Take a file away."""
        with contextlib.suppress(OSError):
            (self.folder / name).unlink(missing_ok=True)

    def forget_the_oldest(self) -> None:
        """Keep the newest files only."""
        for name in self.names("")[MOST_FILES:]:
            self.drop(name)


def own_name(key: str) -> str:
    """A new file name for a key, that also says which process writes it."""
    return f"{short_name(key)}-{os.getpid()}-{os.urandom(4).hex()}.json"


def is_held_elsewhere(name: str) -> bool:
    """Whether the process that writes a file is another one, and still runs."""
    writer = name.split("-")[1] if "-" in name else ""
    if not (writer.isdecimal() and len(writer) < 12) or int(writer) in (0, os.getpid()):
        return False
    with contextlib.suppress(OSError):
        os.kill(int(writer), 0)
        return True
    return False


def short_name(key: str) -> str:
    """A file name for a key of any length and spelling."""
    return hashlib.sha256(key.encode("utf-8", "surrogatepass")).hexdigest()[:24]
