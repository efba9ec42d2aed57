"""What stands between lobe and valve: tappet, ratio, adjuster, and where lash is measured."""

import re
from dataclasses import dataclass
from enum import Enum
from typing import Final

from true_compass.core.cam import Kind
from true_compass.core.limits import EngineError, check_number
from true_compass.core.units import MM_PER_INCH


class TrainKind(Enum):
    """How the lobe reaches the valve."""

    PUSH_ROD = "push-rod"
    ROCKER = "rocker"
    FINGER = "finger"
    BUCKET = "bucket"
    SIDE_VALVE = "side-valve"

    @property
    def words(self) -> str:
        """A few words for people."""
        return _TRAIN_WORDS[self]

    @property
    def short(self) -> str:
        """Fewer words, where the place is narrow."""
        return _TRAIN_SHORT[self]


_TRAIN_WORDS: Final = {
    TrainKind.PUSH_ROD: "push rods and rockers",
    TrainKind.ROCKER: "overhead camshaft with rockers",
    TrainKind.FINGER: "overhead camshaft with finger followers",
    TrainKind.BUCKET: "overhead camshaft with buckets",
    TrainKind.SIDE_VALVE: "side valves",
}
_TRAIN_SHORT: Final = {
    TrainKind.PUSH_ROD: "push rods",
    TrainKind.ROCKER: "OHC, rockers",
    TrainKind.FINGER: "OHC, fingers",
    TrainKind.BUCKET: "OHC, buckets",
    TrainKind.SIDE_VALVE: "side valves",
}
NO_RATIO: Final = (TrainKind.BUCKET, TrainKind.SIDE_VALVE)


class Tappet(Enum):
    """What runs on the lobe."""

    FLAT = "flat"
    ROLLER = "roller"


class LashAt(Enum):
    """Where this engine measures its lash."""

    VALVE = "valve"
    BRIDGE = "bridge"
    FOOT = "foot"
    CAM = "cam"

    @property
    def words(self) -> str:
        """A few words for people."""
        return _LASH_WORDS[self]


_LASH_WORDS: Final = {
    LashAt.VALVE: "at the valve tip",
    LashAt.BRIDGE: "at the bridge",
    LashAt.FOOT: "under the rocker foot",
    LashAt.CAM: "at the cam",
}


class Adjuster(Enum):
    """What is turned or changed to set the lash."""

    VALVE_SCREW = "valve-screw"
    ROD_SCREW = "rod-screw"
    PIVOT_NUT = "pivot-nut"
    PEDESTAL = "pedestal"
    SHIM = "shim"
    NONE = "none"

    @property
    def words(self) -> str:
        """A few words for people."""
        return _ADJUSTER_WORDS[self]


_ADJUSTER_WORDS: Final = {
    Adjuster.VALVE_SCREW: "valve-end screw",
    Adjuster.ROD_SCREW: "push-rod screw",
    Adjuster.PIVOT_NUT: "pivot nut",
    Adjuster.PEDESTAL: "pedestal bolt",
    Adjuster.SHIM: "shims",
    Adjuster.NONE: "nothing to adjust",
}
THREADED: Final = (
    Adjuster.VALVE_SCREW,
    Adjuster.ROD_SCREW,
    Adjuster.PIVOT_NUT,
    Adjuster.PEDESTAL,
)


@dataclass(frozen=True, slots=True)
class Train:
    """The valve train of an engine; the same for every cylinder.

    Ratios are valve lift over lobe lift. `thread` is the adjuster's, such as `M8x1.25` or
    `3/8-24`. `leak_down_mm` is how far a hydraulic plunger gives way under load; 0 is off.
    `accepted_mm` is how far a gap may be off and still be left; `variable_intake_mm` the gap of a
    variable-intake lever over each intake rocker, 0 where there is none. `spanner`, `key` and
    `torque_nm` (0: not known) are those of the adjuster and its nut; `preload_mm` is how far a
    hydraulic plunger is pushed in past zero lash.
    """

    kind: TrainKind = TrainKind.PUSH_ROD
    tappet: Tappet = Tappet.FLAT
    hydraulic: bool = False
    intake_ratio: float = 1.0
    exhaust_ratio: float = 1.0
    adjuster: Adjuster = Adjuster.VALVE_SCREW
    thread: str = ""
    bridge: bool = False
    lash_at: LashAt = LashAt.VALVE
    leak_down_mm: float = 0.0
    preload_mm: float = 0.0
    accepted_mm: float = 0.0
    variable_intake_mm: float = 0.0
    spanner: str = ""
    key: str = ""
    torque_nm: float = 0.0

    def ratio(self, kind: Kind) -> float:
        """Valve lift over lobe lift."""
        return self.intake_ratio if kind is Kind.INTAKE else self.exhaust_ratio

    @property
    def pitch_mm(self) -> float | None:
        """Pitch of the adjuster's thread."""
        return parse_thread_mm(self.thread) if self.thread else None


DEFAULT_TRAIN: Final = Train()
_METRIC: Final = re.compile(r"M(\d+\.?\d*)\s*[xX×]\s*(\d+\.?\d*)")
_INCH: Final = re.compile(r"(?:#?\d+|\d+/\d+)\s*-\s*(\d+)")


def parse_thread_mm(text: str) -> float:
    """The pitch of a thread in mm.

    >>> parse_thread_mm("M8x1.25"), round(parse_thread_mm("3/8-24"), 4)
    (1.25, 1.0583)
    """
    metric, inch = _METRIC.fullmatch(text.strip()), _INCH.fullmatch(text.strip())
    pitch = 0.0
    if metric:
        pitch = float(metric[2])
    elif inch and int(inch[1]):
        pitch = MM_PER_INCH / int(inch[1])
    if not 0.2 <= pitch <= 6.0:
        raise EngineError("thread", f"must be a thread such as M8x1 or 3/8-24, not {text[:20]!r}")
    return pitch


def lash_at_valve_mm(train: Train, kind: Kind, lash_mm: float) -> float:
    """The gap at the valve that a lash makes which is measured where this engine measures it.

    Under the rocker foot and at the cam the gap grows by the ratio on its way to the valve. With
    hydraulic tappets it is what the plungers give way under load, `lash_mm` more than usual.
    """
    if train.hydraulic:
        return (train.leak_down_mm + lash_mm) * train.ratio(kind)
    return stated_lash_mm(train, kind, lash_mm)


def stated_lash_mm(train: Train, kind: Kind, lash_mm: float) -> float:
    """The gap at the valve with which a card or a file states its lobes: no plunger gives way."""
    if train.lash_at in (LashAt.FOOT, LashAt.CAM):
        return lash_mm * train.ratio(kind)
    return lash_mm


def check_train(train: Train) -> None:
    """Raise `EngineError` for the first field of the train that does not fit."""
    for kind in Kind:
        check_number(f"{kind.value}_ratio", train.ratio(kind), "ratio")
        if train.kind in NO_RATIO and train.ratio(kind) != 1.0:
            raise EngineError(
                f"{kind.value}_ratio",
                f"must be 1 with {train.kind.words}",
            )
    for field in ("leak_down_mm", "preload_mm"):
        check_number(field, getattr(train, field))
        if getattr(train, field) and not train.hydraulic:
            raise EngineError(field, "is for hydraulic tappets only: set it to 0")
    for field in ("accepted_mm", "variable_intake_mm", "torque_nm"):
        check_number(field, getattr(train, field))
    if train.thread:
        parse_thread_mm(train.thread)
    if train.lash_at is LashAt.FOOT and train.kind in NO_RATIO:
        raise EngineError("lash_at", f"names a rocker foot, but {train.kind.words} have no rocker")
