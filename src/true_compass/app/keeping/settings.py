"""What the program remembers between two starts: one JSON file that holds data only.

Every value is checked on its own; what makes no sense counts as not there, and is told. Only what
this window changed is written, so that two windows do not overwrite each other.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

from true_compass.app.keeping.recents import Recent, recents_of
from true_compass.app.widgets.look import TEXT_SIZES, Look
from true_compass.files.problems import EngineFileError
from true_compass.files.reading import read_text
from true_compass.session.session import Source
from true_compass.session.store import Store

FILE: Final = "settings.json"
MOST_PATH: Final = 4096
MOST_RECENT: Final = 24


@dataclass(frozen=True, slots=True)
class LastEngine:
    """The engine that was open last, and the crank angle at the last close."""

    source: Source
    crank_deg: float


def _is_text(value: Any) -> bool:
    return isinstance(value, str) and len(value) <= MOST_PATH and "\0" not in value


def _is_yes_or_no(value: Any) -> bool:
    return isinstance(value, bool)


def _is_number(value: Any) -> bool:
    plain = isinstance(value, int | float) and not isinstance(value, bool)
    return plain and abs(value) < 1e6 and math.isfinite(value)


def _is_list(value: Any) -> bool:
    return isinstance(value, list) and len(value) <= MOST_RECENT


def _is_size(value: Any) -> bool:
    return _is_number(value) and value in TEXT_SIZES


def _is_bytes(value: Any) -> bool:
    return _is_text(value) and all(char in "0123456789abcdef" for char in value)


@dataclass(frozen=True, slots=True)
class Remembered:
    """One value that outlasts the program: what it is at first, and what it must be."""

    usual: Any
    fits: Callable[[Any], bool] = _is_number


CHECKS: Final[dict[str, Remembered]] = {
    "engine.rig": Remembered("", _is_text),
    "engine.path": Remembered("", _is_text),
    "engine.digest": Remembered("", _is_text),
    "engine.crank_deg": Remembered(0.0),
    "look.dark": Remembered(False, _is_yes_or_no),
    "look.chosen": Remembered(False, _is_yes_or_no),
    "look.text_percent": Remembered(100, _is_size),
    "look.still": Remembered(False, _is_yes_or_no),
    "window.geometry": Remembered("", _is_bytes),
    "recent": Remembered([], _is_list),
}
"""Every key with its usual value and what a value must be."""


class Settings:
    """Reads and writes the file."""

    def __init__(self, store: Store) -> None:
        self._store = store
        self._values = {key: of.usual for key, of in CHECKS.items()}
        self._changed: dict[str, Any] = {}
        self._held: dict[str, Any] = {}
        held = store.read(FILE)
        if held is not None:
            self._take(held)

    def _take(self, held: Any) -> None:
        if not isinstance(held, dict):
            self._store.set_aside(FILE)
            return
        odd = [key for key, of in CHECKS.items() if key in held and not of.fits(held[key])]
        if odd:
            self._store.set_aside(FILE)
            names = ", ".join(odd)
            self._store.troubles.tell(f"Settings that made no sense were set aside: {names}.")
        self._held = held
        self._values |= {key: held[key] for key in CHECKS if key in held and key not in odd}

    def take_over(self, old: Path) -> None:
        """Read the settings of an earlier version, an INI file: plain values, and no variants."""
        if (self._store.folder / FILE).exists() or not old.is_file():
            return
        told = plain_values(old)
        for key in ("engine.rig", "engine.path"):
            if key in told:
                self._put(key, told[key])
        for key in ("look.dark", "look.still"):
            self._put(key, told.get(key, "").lower() == "true")
        percent = told.get("look.text_percent", "")
        self._put("look.text_percent", int(percent) if percent in map(str, TEXT_SIZES) else 100)

    def section(self, name: str, keys: Mapping[str, Remembered]) -> "Section":
        """The part of the settings that belongs to one workspace."""
        for key, of in keys.items():
            held = self._held.get(f"{name}.{key}", of.usual)
            self._values[f"{name}.{key}"] = held if of.fits(held) else of.usual
        return Section(name, self._values, self._put)

    def _put(self, key: str, value: Any) -> None:
        if self._values[key] != value:
            self._values[key] = self._changed[key] = value

    def write(self) -> None:
        """Put what this window changed on the disk now."""
        if not self._changed:
            return
        held = self._store.read(FILE)
        held = held if isinstance(held, dict) else {}
        if self._store.write(FILE, held | self._changed):
            self._changed.clear()

    def last_engine(self) -> LastEngine | None:
        """The engine that was open, if any."""
        rig, path = self._values["engine.rig"], self._values["engine.path"]
        if not (rig or path):
            return None
        source = Source(rig, Path(path) if path else None, self._values["engine.digest"])
        return LastEngine(source, float(self._values["engine.crank_deg"]))

    def remember_engine(self, source: Source, crank_deg: float) -> None:
        """Keep the open engine and its crank angle."""
        self._put("engine.rig", source.rig)
        self._put("engine.path", str(source.path) if source.path else "")
        self._put("engine.digest", source.digest)
        self._put("engine.crank_deg", crank_deg)

    def restore_look(self, look: Look) -> None:
        """Set theme, text size and motion as they were left."""
        if self._values["look.chosen"] or self._values["look.dark"]:
            look.set_dark(self._values["look.dark"])
        look.set_text_percent(round(self._values["look.text_percent"]))
        look.set_still(self._values["look.still"])

    def remember_look(self, look: Look) -> None:
        """Keep theme, text size and motion; the projector is for one lesson only."""
        self._put("look.dark", look.dark and not look.follows_system)
        self._put("look.chosen", not look.follows_system)
        self._put("look.text_percent", look.text_percent)
        self._put("look.still", look.still)

    def geometry(self) -> bytes:
        """Place and size of the window; empty at the first start."""
        text = self._values["window.geometry"]
        return bytes.fromhex(text) if len(text) % 2 == 0 else b""

    def remember_geometry(self, geometry: bytes) -> None:
        """Keep place and size of the window."""
        self._put("window.geometry", geometry.hex())

    def recent(self) -> list[Recent]:
        """The engines that were open, the last first."""
        return recents_of(self._values["recent"])

    def remember_recent(self, recent: Recent) -> None:
        """Keep where one was on an engine; what other windows have kept since stays."""
        held = self._store.read(FILE)
        others = held.get("recent", []) if isinstance(held, dict) else []
        found = recents_of(others if _is_list(others) else []) + self.recent()
        kept = {recent.source.key: recent}
        for other in sorted(found, key=lambda one: one.at, reverse=True):
            kept.setdefault(other.source.key, other)
        self._put("recent", [one.record for one in list(kept.values())[:MOST_RECENT]])


class Section:
    """Values of one workspace, by keys that it has declared."""

    def __init__(
        self, name: str, values: Mapping[str, Any], put: Callable[[str, Any], None]
    ) -> None:
        self._name = name
        self._values = values
        self._put = put

    def get(self, key: str) -> Any:
        """What was kept, or what is usual."""
        return self._values[f"{self._name}.{key}"]

    def put(self, key: str, value: Any) -> None:
        """Keep a value; it is on the disk when the settings are written next."""
        self._put(f"{self._name}.{key}", value)


def plain_values(path: Path) -> dict[str, str]:
    """The plain texts of an INI file, as `section.key`; a value that begins with @ is left out.

    Such a value can hold a pickled object, and reading it as one would run what it says.
    """
    import configparser  # only the first start after an update has a use for it

    parser = configparser.RawConfigParser(strict=False)
    try:
        parser.read_string(read_text(path, "settings"))
        return {
            f"{section}.{key}".lower(): value.strip().strip('"')
            for section in parser.sections()
            for key, value in parser.items(section)
            if value and not value.lstrip(' "').startswith("@")
        }
    except (EngineFileError, configparser.Error, ValueError):
        return {}
