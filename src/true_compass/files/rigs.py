"""The demo rigs that ship with the program."""

import tomllib
from functools import cache
from importlib.resources import files
from importlib.resources.abc import Traversable

from true_compass.core.engine import Engine
from true_compass.files.engine_file import SUFFIX
from true_compass.files.engine_values import engine_from_values


@cache
def _rig_files() -> dict[str, Traversable]:
    folder = files("true_compass.rigs")
    found = {
        entry.name.removesuffix(SUFFIX): entry
        for entry in folder.iterdir()
        if entry.name.endswith(SUFFIX)
    }
    return dict(sorted(found.items()))


def rig_names() -> tuple[str, ...]:
    """Short names of the demo rigs, in alphabetical order: `alder`, `birch`, …"""
    return tuple(_rig_files())


def rig_text(name: str) -> str:
    """The engine file of a demo rig, with its comments. Raises `KeyError` for an unknown name."""
    return _rig_files()[name].read_text(encoding="utf-8")


@cache
def demo_rig(name: str) -> Engine:
    """A demo rig by its short name. Raises `KeyError` for an unknown name."""
    # Without the strict reading of other files: the tests have checked these.
    return engine_from_values(tomllib.loads(rig_text(name)))
