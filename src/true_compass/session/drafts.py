"""Edits that nobody has saved yet, one small file for each source, so that none is lost."""

import contextlib
import hashlib
from pathlib import Path
from typing import Final

from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError
from true_compass.files.atomic import write_atomic
from true_compass.files.engine_file import SUFFIX, engine_text, read_engine
from true_compass.files.problems import EngineFileError
from true_compass.session.session import Source

MOST_DRAFTS: Final = 40


class Drafts:
    """A folder of edited engines. A full disk or a broken draft must never stop the lesson."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def of(self, source: Source) -> Engine | None:
        """The unsaved engine of a source, if there is one that can be read."""
        path = self._path(source)
        if path.exists():
            with contextlib.suppress(EngineFileError):
                return read_engine(path)
        return None

    def keep(self, source: Source, engine: Engine) -> None:
        """Keep an edited engine until its source is saved, or the edit undone."""
        path = self._path(source)
        with contextlib.suppress(OSError, EngineError):
            self._folder.mkdir(parents=True, exist_ok=True)
            write_atomic(path, engine_text(engine))
            self._forget_the_oldest()

    def drop(self, source: Source) -> None:
        """There is nothing unsaved."""
        with contextlib.suppress(OSError):
            self._path(source).unlink(missing_ok=True)

    def _path(self, source: Source) -> Path:
        name = source.rig
        if source.path is not None:
            name = hashlib.sha256(str(source.path).encode()).hexdigest()[:24]
        return self._folder / f"{name or 'nowhere'}{SUFFIX}"

    def _forget_the_oldest(self) -> None:
        kept = sorted(self._folder.glob(f"*{SUFFIX}"), key=lambda path: path.stat().st_mtime)
        for path in kept[:-MOST_DRAFTS]:
            path.unlink(missing_ok=True)
