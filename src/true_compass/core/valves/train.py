"""What stands between lobe and valve: tappet, ratio, adjuster, and where lash is measured."""

from dataclasses import dataclass
from enum import Enum
from typing import Final

from true_compass.core.items import Kind
from true_compass.core.limits import EngineError, check_number
from true_compass.core.units import parse_thread_mm
from true_compass.core.valves.cam import check_band


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
    ROD_END = "rod-end"
    CAM = "cam"

    @property
    def words(self) -> str:
        """A few words for people."""
        return _LASH_WORDS[self]


_LASH_WORDS: Final = {
    LashAt.VALVE: "at the valve tip",
    LashAt.BRIDGE: "at the bridge",
    LashAt.ROD_END: "at the push-rod end",
    LashAt.CAM: "at the cam",
}


class Adjuster(Enum):
    """What is turned or changed to set the lash."""

    VALVE_SCREW = "valve-screw"
    ROD_SCREW = "rod-screw"
    PIVOT_NUT = "pivot-nut"
    STUD_NUT = "stud-nut"
    PIVOT_SCREW = "pivot-screw"
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
    Adjuster.STUD_NUT: "stud nut with an inner lock screw",
    Adjuster.PIVOT_SCREW: "screw at the finger's pivot",
    Adjuster.PEDESTAL: "pedestal bolt",
    Adjuster.SHIM: "shims",
    Adjuster.NONE: "nothing to adjust",
}
THREADED: Final = (
    Adjuster.VALVE_SCREW,
    Adjuster.ROD_SCREW,
    Adjuster.PIVOT_NUT,
    Adjuster.STUD_NUT,
    Adjuster.PIVOT_SCREW,
    Adjuster.PEDESTAL,
)


class ZeroLash(Enum):
    """What counts as zero lash of a hydraulic tappet. Three depths, not one: the one used is named.

    Common practice, no source.
    """

    PLAY = "play"
    SPIN = "spin"
    PLUNGER = "plunger"

    @property
    def words(self) -> str:
        """How it is found."""
        return _ZERO_WORDS[self]


_ZERO_WORDS: Final = {
    ZeroLash.PLAY: "up-and-down play is just gone",
    ZeroLash.SPIN: "the push rod, spun between the fingers, meets slight resistance "
    "(unpumped tappets only)",
    ZeroLash.PLUNGER: "the plunger, seen through the side cover, just starts to move",
}


@dataclass(frozen=True, slots=True)
class Train:
    """The valve train of an engine; the same for every cylinder.

    Ratios are valve lift over lobe lift. `thread` is the adjuster's, such as `M8x1.25` or
    `3/8-24`. `leak_down_mm` is how far a hydraulic plunger gives way under load; 0 is off.
    An accepted band has two ends, both in: a gap between them is left. `variable_intake_mm` is the
    gap of a variable-intake lever over each intake rocker, 0 where there is none. `spanner`, `key`
    and `torque_nm` (0: not known) are those of the adjuster and its nut; `preload_mm` is how far a
    hydraulic plunger is pushed in past `zero_lash`, least and most. `bridge_screw` tells whether a
    bridge has anything to set; its key, spanner and torque are its own, never the rocker's.
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
    preload_mm: tuple[float, float] | None = None
    zero_lash: ZeroLash = ZeroLash.PLAY
    intake_accepted_mm: tuple[float, float] | None = None
    exhaust_accepted_mm: tuple[float, float] | None = None
    variable_intake_mm: float = 0.0
    spanner: str = ""
    key: str = ""
    torque_nm: float = 0.0
    bridge_screw: bool = True
    bridge_spanner: str = ""
    bridge_key: str = ""
    bridge_torque_nm: float = 0.0

    def ratio(self, kind: Kind) -> float:
        """Valve lift over lobe lift."""
        return self.intake_ratio if kind is Kind.INTAKE else self.exhaust_ratio

    def accepted_mm(self, kind: Kind) -> tuple[float, float] | None:
        """Both ends of the band in which a gap is left as it is; None where none is known."""
        return self.intake_accepted_mm if kind is Kind.INTAKE else self.exhaust_accepted_mm

    @property
    def pitch_mm(self) -> float | None:
        """Pitch of the adjuster's thread."""
        return parse_thread_mm(self.thread) if self.thread else None


DEFAULT_TRAIN: Final = Train()


def lash_at_valve_mm(train: Train, kind: Kind, lash_mm: float) -> float:
    """The gap at the valve that a lash makes which is measured where this engine measures it.

    At the push-rod end and at the cam the gap grows by the ratio on its way to the valve. With
    hydraulic tappets it is what the plungers give way under load, `lash_mm` more than usual.
    """
    if train.hydraulic:
        return (train.leak_down_mm + lash_mm) * train.ratio(kind)
    return stated_lash_mm(train, kind, lash_mm)


def stated_lash_mm(train: Train, kind: Kind, lash_mm: float) -> float:
    """The gap at the valve with which a card or a file states its lobes: no plunger gives way."""
    if train.lash_at in (LashAt.ROD_END, LashAt.CAM):
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
    check_number("leak_down_mm", train.leak_down_mm)
    for end in train.preload_mm or ():
        check_number("preload_mm", end)
    for field in ("leak_down_mm", "preload_mm"):
        if getattr(train, field) and not train.hydraulic:
            raise EngineError(field, "is for hydraulic tappets only: leave it out")
    for field in ("preload_mm", "intake_accepted_mm", "exhaust_accepted_mm"):
        check_band(field, getattr(train, field))
    for field in ("variable_intake_mm", "torque_nm"):
        check_number(field, getattr(train, field))
    check_number("bridge_torque_nm", train.bridge_torque_nm, "torque_nm")
    if train.thread:
        parse_thread_mm(train.thread)
    if train.adjuster is Adjuster.PIVOT_SCREW and train.kind is not TrainKind.FINGER:
        raise EngineError("adjuster", "is at a finger's pivot, but there are no finger followers")
    if train.lash_at is LashAt.ROD_END and train.kind in NO_RATIO:
        raise EngineError("lash_at", f"names a rocker, but {train.kind.words} have none")
