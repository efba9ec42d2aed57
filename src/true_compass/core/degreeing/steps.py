"""Moving a cam by what the drive allows: teeth, holes, keys, bushes; the best combinations.

Crank degrees, + = earlier. One tooth of N is 720/N; two circles of p and q holes give steps of
720/lcm(p, q), which is as finely as one can be set against the other all round; an offset key of e
at the radius R turns its shaft by asin(e/R), on the cam twice that; an offset bush ±2·asin(e/R)
(common practice, no source).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from true_compass.core.angles import CYCLE_DEG, Floats
from true_compass.core.limits import EngineError
from true_compass.core.valves.timing_set import TimingSet
from true_compass.core.words import counted

MOST_TEETH: Final = 3
BEST: Final = 5
A_PART_DEG: Final = 0.2
"""What one more kind of part moved weighs in the order of the options."""
EVEN_DEG: Final = 1e-9
NEAREST_HOLES: Final = BEST + 2
FAR_DEG: Final = 1e6
"""Stands for a combination that is none."""


@dataclass(frozen=True, slots=True)
class Steps:
    """What can be combined on one camshaft, crank degrees.

    `tooth_deg` and `hole_deg` are one step, 0 where there is none, and `hole_steps` how many lie
    all round. `keys_deg` and `bushes_deg` are what each can add, either way; those for the crank
    and for the cam sit in keyways of their own.
    """

    tooth_deg: float = 0.0
    hole_deg: float = 0.0
    hole_steps: int = 0
    keys_deg: tuple[float, ...] = ()
    cam_keys_deg: tuple[float, ...] = ()
    bushes_deg: tuple[float, ...] = ()
    reach_deg: float = 0.0
    """How far slots or a vernier let it go either way without steps; 0 where there are none."""

    @property
    def fixed(self) -> bool:
        """Whether nothing can be moved."""
        return not (
            self.tooth_deg
            or self.hole_deg
            or self.keys_deg
            or self.cam_keys_deg
            or self.bushes_deg
            or self.reach_deg
        )


def steps_of(drive: TimingSet) -> Steps:
    """The steps that a timing set allows."""
    return Steps(
        tooth_deg=tooth_deg(drive.teeth) if drive.teeth else 0.0,
        hole_deg=drive.hole_step_deg,
        hole_steps=drive.hole_steps,
        keys_deg=tuple(key.crank_deg for key in drive.keys if not key.on_cam),
        cam_keys_deg=tuple(key.crank_deg for key in drive.keys if key.on_cam),
        bushes_deg=tuple(2 * math.degrees(bush.shaft_rad) for bush in drive.bushes),
        reach_deg=drive.reach_deg,
    )


def tooth_deg(teeth: int) -> float:
    """Crank degrees of one tooth of the cam's gear.

    >>> round(tooth_deg(42), 2)
    17.14
    """
    return CYCLE_DEG / teeth


@dataclass(frozen=True, slots=True)
class Option:
    """One combination. `tooth` and `hole` are whole steps; the others crank degrees, + earlier."""

    tooth: int
    hole: int
    key_deg: float
    cam_key_deg: float
    bush_deg: float
    slide_deg: float
    gives_deg: float
    error_deg: float

    @property
    def moved(self) -> int:
        """How many kinds of part are moved."""
        keys = self.key_deg != 0 or self.cam_key_deg != 0
        parts = (self.tooth, self.hole, keys, self.bush_deg, self.slide_deg)
        return sum(bool(part) for part in parts)

    @property
    def rank_deg(self) -> float:
        """Error left and 0.2° a kind of part: the smaller the better."""
        return abs(self.error_deg) + A_PART_DEG * self.moved


def best_options(steps: Steps, need_deg: float, count: int = BEST) -> list[Option]:
    """The best few ways to move a cam by `need_deg`, the best first.

    The least error is always among them. Raises `EngineError` for a need beyond half a cycle.

    >>> steps = Steps(tooth_deg=16.0, hole_deg=3.0, hole_steps=240)
    >>> [(o.tooth, o.hole, o.gives_deg) for o in best_options(steps, 4.8, count=2)]
    [(-1, 7, 5.0), (2, -9, 5.0)]
    """
    if not abs(need_deg) <= CYCLE_DEG / 2:
        raise EngineError("need", f"must be from -360 to 360 crank degrees, not {need_deg:g}")
    made = _combinations(steps, need_deg)
    given = made.sum(axis=1, where=np.array([True, False, True, True, True, True]))
    slide = np.clip(need_deg - given, -steps.reach_deg, steps.reach_deg)
    slide[np.abs(slide) <= EVEN_DEG] = 0.0
    error = given + slide - need_deg
    moved = _kinds_moved(made, slide)
    rank = np.abs(error) + A_PART_DEG * moved
    return [
        _option(steps, made[row], float(slide[row]), need_deg)
        for row in _first(rank, error, moved, count)
    ]


def _combinations(steps: Steps, need_deg: float) -> Floats:
    """Combinations worth a look, `(N, 6)`: tooth, its steps, hole, key, cam key and bush.

    All but the second are crank degrees. Of the holes only those nearest to what is left can be
    among the best few, and none at all.
    """
    teeth = np.arange(-MOST_TEETH, MOST_TEETH + 1.0) if steps.tooth_deg else np.zeros(1)
    offsets = [
        np.array([0.0, *(side * offset for offset in given for side in (1.0, -1.0))])
        for given in (steps.keys_deg, steps.cam_keys_deg, steps.bushes_deg)
    ]
    mesh = np.meshgrid(teeth, *offsets, indexing="ij")
    tooth, key, cam_key, bush = (axis.ravel() for axis in mesh)
    others = tooth * steps.tooth_deg + key + cam_key + bush
    holes = _holes(steps, need_deg - others)
    count = holes.shape[1]

    def repeated(values: Floats) -> Floats:
        return np.repeat(values, count)

    return np.column_stack(
        (
            repeated(tooth * steps.tooth_deg),
            repeated(tooth),
            holes.ravel(),
            repeated(key),
            repeated(cam_key),
            repeated(bush),
        )
    )


def _holes(steps: Steps, left_deg: Floats) -> Floats:
    """What holes can add for each of what is left `(N,)`: `(N, K)` crank degrees, 0 first."""
    if not steps.hole_deg:
        return np.zeros((len(left_deg), 1))
    least = -((steps.hole_steps - 1) // 2)
    most = steps.hole_steps + least - 1
    reach = min(NEAREST_HOLES, steps.hole_steps)
    first = np.round(left_deg / steps.hole_deg) - reach // 2
    first = np.clip(first, least, max(most - reach + 1, least))
    near = first[:, None] + np.arange(reach)
    # A step of nothing stands first; where it is also among the nearest it must not stand twice.
    near[near == 0] = np.nan
    holes = np.column_stack((np.zeros(len(left_deg)), near)) * steps.hole_deg
    return np.asarray(np.where(np.isnan(holes), FAR_DEG, holes))


def _kinds_moved(made: Floats, slide_deg: Floats) -> Floats:
    """How many kinds of part each combination moves: keys on crank and cam are one kind."""
    tooth, _, hole, key, cam_key, bush = made.T != 0
    kinds = (tooth, hole, key | cam_key, bush, slide_deg != 0)
    return np.asarray(np.sum(kinds, axis=0, dtype=float))


def _first(rank: Floats, error: Floats, moved: Floats, count: int) -> list[int]:
    """The rows of the best few: ties to the smaller error, to fewer parts, to the earlier row."""
    off = np.round(np.abs(error), 9)
    order = np.lexsort((moved, off, np.round(rank, 9)))
    best = [int(row) for row in order[:count] if off[row] < FAR_DEG / 2]
    least_error = np.flatnonzero(off == off.min())
    if not set(best) & set(least_error.tolist()):
        best[-1] = int(least_error[np.argmin(rank[least_error])])
    return best


def _option(steps: Steps, made: Floats, slide_deg: float, need_deg: float) -> Option:
    tooth, count, hole, key, cam_key, bush = made.tolist()
    hole_count = round(hole / steps.hole_deg) if steps.hole_deg else 0
    gives = tooth + hole + key + cam_key + bush + slide_deg
    return Option(int(count), hole_count, key, cam_key, bush, slide_deg, gives, gives - need_deg)


NEAR_ENOUGH_DEG: Final = 1.0


def reach_words(options: Sequence[Option], need_deg: float) -> str:
    """Empty where an option comes within a degree; else that nothing does, and the nearest."""
    least = min(options, key=lambda option: abs(option.error_deg))
    if abs(least.error_deg) <= NEAR_ENOUGH_DEG:
        return ""
    return (
        f"Nothing comes near {need_deg:+.1f}°: the nearest gives {least.gives_deg:+.1f}°, "
        f"{abs(least.error_deg):.1f}° off."
    )


def way(value: float) -> str:
    """`on` is the part's own running direction, `back` against it."""
    return "on" if value > 0 else "back"


def option_words(option: Option, drive: TimingSet | None = None) -> str:
    """An option in a few words: `1 tooth on, 2 holes back, key 0.7 on`; `leave it` for none.

    Keys and bushes are named by their mm where the timing set knows them, else by their degrees.
    """
    parts = []
    for count, one, more in ((option.tooth, "tooth", "teeth"), (option.hole, "hole", "holes")):
        if count:
            parts.append(f"{counted(abs(count), one, more)} {way(count)}")
    drive = drive or TimingSet()
    sizes = {
        "key": {key.crank_deg: key.by_mm for key in drive.keys if not key.on_cam},
        "cam key": {key.crank_deg: key.by_mm for key in drive.keys if key.on_cam},
        "bush": {2 * math.degrees(bush.shaft_rad): bush.by_mm for bush in drive.bushes},
    }
    given = {"key": option.key_deg, "cam key": option.cam_key_deg, "bush": option.bush_deg}
    for name, deg in given.items():
        if deg:
            size = sizes[name].get(abs(deg))
            told = f"{abs(deg):.2f}°" if size is None else f"{size:g}"
            parts.append(f"{name} {told} {way(deg)}")
    if option.slide_deg:
        slider = "vernier" if drive.vernier else "slots"
        parts.append(f"{slider} {abs(option.slide_deg):.1f}° {way(option.slide_deg)}")
    return ", ".join(parts) or "leave it"
