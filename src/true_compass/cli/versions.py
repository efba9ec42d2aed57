"""What runs here: the program, Python, and every library with its licence."""

import json
import platform
from dataclasses import dataclass
from importlib.metadata import PackageNotFoundError, version
from importlib.resources import files
from typing import Final

from true_compass.version import VERSION

NAME: Final = "True Compass"
LICENCE: Final = "GPL-3.0-or-later"
TOLD: Final = ("PyQt6", "PyQt6-Qt6", "numpy", "scipy", "pydantic", "tomlkit")
"""Libraries that a report of a fault needs; About names all."""


@dataclass(frozen=True, slots=True)
class ShippedPart:
    """A part that ships with the program: its name, the version that runs, its licence."""

    name: str
    version: str
    licence: str
    home: str

    @property
    def short_licence(self) -> str:
        """The first of its licences, where there are several."""
        for mark in (" AND ", ", "):
            first, several, _ = self.licence.partition(mark)
            if several:
                return f"{first} and more"
        return self.licence


def shipped_parts() -> tuple[ShippedPart, ...]:
    """Every part that ships, by name; `make licences` writes the list."""
    told = json.loads(files("true_compass.look").joinpath("parts.json").read_text("utf-8"))
    return tuple(
        ShippedPart(one["name"], _version(one["name"], one["version"]), one["licence"], one["home"])
        for one in told
    )


def _version(name: str, known: str) -> str:
    """The version that is installed here; that of the list for what is no Python package."""
    try:
        return version(name)
    except PackageNotFoundError:
        return known


def version_text() -> str:
    """What `--version` prints."""
    told = [f"Python {platform.python_version()}"]
    told += [f"{name} {_version(name, '?')}" for name in TOLD]
    return f"{NAME} {VERSION}\n{', '.join(told)}"
