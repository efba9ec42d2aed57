"""What the program remembers between two starts, in one small file."""

import math
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QByteArray, QSettings

from true_compass.app.look import Look
from true_compass.session.session import Source


@dataclass(frozen=True, slots=True)
class LastEngine:
    """The engine and the crank angle at the last close."""

    source: Source
    crank_deg: float


class Settings:
    """Reads and writes the file. A value that makes no sense counts as not there."""

    def __init__(self, path: Path) -> None:
        self._store = QSettings(str(path), QSettings.Format.IniFormat)

    def last_engine(self) -> LastEngine | None:
        """The engine that was open, if any."""
        rig, path = self._text("engine/rig"), self._text("engine/path")
        if not (rig or path):
            return None
        source = Source(rig, Path(path) if path else None, self._text("engine/digest"))
        return LastEngine(source, self._number("engine/crank_deg", 0.0))

    def remember_engine(self, source: Source, crank_deg: float) -> None:
        """Keep the open engine and its crank angle."""
        self._store.setValue("engine/rig", source.rig)
        self._store.setValue("engine/path", str(source.path) if source.path else "")
        self._store.setValue("engine/digest", source.digest)
        self._store.setValue("engine/crank_deg", repr(crank_deg))

    def restore_look(self, look: Look) -> None:
        """Set theme, text size and motion as they were left."""
        look.set_dark(self._text("look/dark") == "true")
        look.set_text_percent(round(self._number("look/text_percent", 100.0)))
        look.set_still(self._text("look/still") == "true")

    def remember_look(self, look: Look) -> None:
        """Keep theme, text size and motion; the projector is for one lesson only."""
        self._store.setValue("look/dark", look.dark)
        self._store.setValue("look/text_percent", look.text_percent)
        self._store.setValue("look/still", look.still)

    def geometry(self) -> QByteArray:
        """Place and size of the window; empty at the first start."""
        value: Any = self._store.value("window/geometry")
        return value if isinstance(value, QByteArray) else QByteArray()

    def remember_geometry(self, geometry: QByteArray) -> None:
        """Keep place and size of the window."""
        self._store.setValue("window/geometry", geometry)

    def drags(self) -> int:
        """How often the ring has been dragged; the first hint goes after three."""
        return round(self._number("hints/drags", 0.0))

    def remember_drags(self, drags: int) -> None:
        """Keep how often the ring has been dragged."""
        self._store.setValue("hints/drags", drags)

    def progress(self) -> str:
        """What has been set on which engine, as the Stops workspace wrote it."""
        return self._plain("stops/progress")

    def remember_progress(self, text: str) -> None:
        """Keep what has been set."""
        self._store.setValue("stops/progress", text)

    def write(self) -> None:
        """Put everything on the disk now."""
        self._store.sync()

    def _text(self, key: str) -> str:
        value: Any = self._store.value(key, "")
        return value if isinstance(value, str) else str(value).lower()

    def _plain(self, key: str) -> str:
        value: Any = self._store.value(key, "")
        return value if isinstance(value, str) else ""

    def _number(self, key: str, otherwise: float) -> float:
        try:
            value = float(self._text(key))
        except ValueError:
            return otherwise
        return value if math.isfinite(value) and abs(value) < 1e6 else otherwise
