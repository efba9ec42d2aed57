"""Which engine is which: another layout, count, numbering or order is another engine; a gap, an
event or a name is not.
"""

import hashlib
from typing import Final

from true_compass.core.engine import Engine

CHANGED: Final = ", changed"
MOST_NAME: Final = 120
"""Longest name that a file takes."""


def identity_of(engine: Engine) -> tuple[object, ...]:
    """What makes an engine itself, as a value: where its cylinders sit, and how they fire."""
    layout = engine.layout
    return (
        layout.form,
        tuple((bank.angle_deg, bank.ahead) for bank in layout.banks),
        layout.throws,
        layout.seats,
        layout.second_crank_against,
        layout.typed_tdc_deg,
        engine.firing_order,
        engine.late,
    )


def is_same_engine(one: Engine, other: Engine) -> bool:
    """Whether two engines are one, whatever was set, named or measured on it."""
    return one is other or identity_of(one) == identity_of(other)


def identity_mark(engine: Engine) -> str:
    """A short mark of an engine's identity, to keep things by."""
    return hashlib.sha256(repr(identity_of(engine)).encode()).hexdigest()[:16]


def changed_name(name: str) -> str:
    """What an engine is called that was made out of another: `Rig Birch, changed`."""
    return f"{name[: MOST_NAME - len(CHANGED)]}{CHANGED}"
