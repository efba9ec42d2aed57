"""The lobe of a valve: how its lift rises and falls over the cycle, as pieces of quintics.

Seen at the valve, a lobe is a ramp and a flank added together:

    ramp    an S, from the base circle to `ramp_mm` at the named event and a little on inside it
    flank   (1 − u²)³ (1 + u²) of the rest, u from −1 at one event over 0 at the nose to 1

The ramp meets the event with its greatest velocity, so that a change of lash moves the event as
little as it does on an engine. `u` runs evenly, or along a smooth curve through the checking
lifts and the nose where those are given. A piece is a quintic through lift, velocity and
acceleration at both ends; so all three are continuous, whatever the lobe was made from.
"""

from collections.abc import Sequence
from functools import lru_cache
from itertools import pairwise
from typing import Final

import numpy as np

from true_compass.core.angles import Floats
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.valves.cam import Bump, Cam, CheckLift, Place, ValveTiming
from true_compass.core.valves.profile import Profile, joined
from true_compass.core.valves.readings import table_profile
from true_compass.core.valves.shapes import Ramp, Spline, flank_lift, flank_share, inverse
from true_compass.core.valves.train import Train, stated_lash_mm

STEP_DEG: Final = 3.0
LEAST_MM: Final = 1e-12
FARTHEST_DEG: Final = 4096.0
SETTLED_DEG: Final = 1e-10


def checked_height_mm(check: CheckLift, ratio: float, ramp_mm: float, lash_mm: float) -> float:
    """Height of a lobe, seen at the valve, at which a checking lift is read.

    Events at the seat hold where the ramp ends; a lift at the valve is read with the lash as set.
    """
    if check.place is Place.SEAT:
        return ramp_mm
    return check.lift_mm * ratio if check.place is Place.TAPPET else check.lift_mm + lash_mm


def _outer_event(
    event_deg: float, nose_deg: float, height_mm: float, ramp: Ramp, flank_mm: float
) -> float:
    """The event at the seat that belongs to one at a checking height, on one side of the nose."""
    sign = 1.0 if event_deg > nose_deg else -1.0
    if height_mm <= ramp.height_mm:
        if ramp.height_mm <= 0:
            return event_deg
        return event_deg - sign * ramp.event_for(height_mm)
    # Further out the ramp is higher at the event, and so is the flank: the place is bracketed.
    reach = abs(event_deg - nose_deg)

    def short_by(out_deg: float) -> float:
        flank = flank_lift(reach / (reach + out_deg)) * flank_mm
        return height_mm - ramp.lift_at(out_deg) - flank

    low, high = 0.0, 1.0
    while short_by(high) > 0:
        if high > FARTHEST_DEG:
            break
        low, high = high, 2.0 * high
    while high - low > SETTLED_DEG:
        middle = (low + high) / 2
        low, high = (middle, high) if short_by(middle) > 0 else (low, middle)
    return event_deg + sign * (low + high) / 2


def _flank_place(share: float) -> float:
    """How far out from the nose, 0 to 1, the flank has a share of its lift."""
    return 1.0 - inverse(lambda v: flank_lift(1.0 - v), share)


def _too_high(check: CheckLift, peak_mm: float) -> EngineError:
    return EngineError(
        "events_at",
        f"names {check.words}, but the lobe lifts only {peak_mm:.2f} mm: take a lower lift",
    )


def _checks(kind: Kind, timing: ValveTiming) -> list[tuple[CheckLift, float, float]]:
    """Every checking lift with its two cycle angles, the lowest first as the card has them."""
    nose = timing.nose_cycle_deg(kind)
    first = (timing.check, *timing.event_cycle_deg(kind))
    return [first, *((c, nose - d / 2, nose + d / 2) for c, d in timing.durations_deg)]


def profiles_of(cam: Cam, train: Train) -> dict[Kind, Profile]:
    """The lobe of each kind of valve, a compression release included."""
    found = {}
    for kind in Kind:
        timing, ratio = cam.timing(kind), train.ratio(kind)
        lash_mm = stated_lash_mm(train, kind, timing.lash_mm)
        found[kind] = profile_of(kind, timing, ratio, lash_mm)
        if kind is Kind.EXHAUST and cam.release is not None:
            found[kind] = _with_bump(found[kind], cam.release, ratio, lash_mm)
    return found


@lru_cache(maxsize=64)
def profile_of(kind: Kind, timing: ValveTiming, ratio: float, lash_mm: float) -> Profile:
    """The lobe that a timing describes. `lash_mm` is the lash as set, at the valve.

    Raises `EngineError` when no smooth lobe passes through the numbers.

    >>> from true_compass.core.valves.cam import DEFAULT_CAM
    >>> profile_of(Kind.INTAKE, DEFAULT_CAM.intake, 1.0, 0.25).arcs_deg
    ((325.0, 610.0),)
    """
    ramp_mm = lash_mm if timing.ramp_mm is None else timing.ramp_mm
    if timing.table is not None:
        return table_profile(kind, timing, timing.table, ratio, ramp_mm)
    nose = timing.nose_cycle_deg(kind)
    heights = sorted(
        (
            (checked_height_mm(check, ratio, ramp_mm, lash_mm), opens, closes, check)
            for check, opens, closes in _checks(kind, timing)
        ),
        key=lambda row: row[0],
    )
    lowest, opens, closes, _ = heights[0]
    if not opens < nose < closes:
        raise EngineError(
            f"{kind.value}_centreline_deg", "must lie between the opening and the closing"
        )
    ramp = Ramp.of(timing, ramp_mm, (closes - opens) / 2)
    peak_mm = timing.peak_lift_mm + lash_mm
    flank_mm = peak_mm - ramp.height_mm - ramp.inside_mm
    if flank_mm <= 0:
        raise EngineError("ramp_mm", f"must be well below the lobe's {peak_mm:.2f} mm")
    for height, _, _, check in heights:
        if height >= 0.98 * peak_mm:
            raise _too_high(check, peak_mm)
    seats = [_outer_event(side, nose, lowest, ramp, flank_mm) for side in (opens, closes)]
    points = [(seats[0], -1.0), (nose, 0.0), (seats[1], 1.0)]
    for height, *sides, _ in heights:
        if height <= ramp_mm:
            continue
        for side, seat, sign in zip(sides, seats, (-1.0, 1.0), strict=True):
            share = (height - ramp.lift_at(abs(side - seat))) / flank_mm
            if not 0 < share < 1:
                raise _not_smooth(kind)
            points.append((side, sign * _flank_place(share)))
    return _lobe(kind, points, seats, ramp, flank_mm, ratio)


def _not_smooth(kind: Kind) -> EngineError:
    return EngineError(
        f"{kind.value}_durations",
        "make no smooth lobe: higher checking lifts must have clearly shorter durations, and the "
        "nose must stand near the middle",
    )


def _lobe(
    kind: Kind,
    points: list[tuple[float, float]],
    seats: Sequence[float],
    ramp: Ramp,
    flank_mm: float,
    ratio: float,
) -> Profile:
    distinct = sorted({round(x, 7): (x, y) for x, y in points}.values())
    if any(b[1] <= a[1] for a, b in pairwise(distinct)):
        raise _not_smooth(kind)
    warp = Spline.through(distinct)
    start, end = seats[0] - ramp.length_deg, seats[1] + ramp.length_deg
    knots = [start, end, *seats, seats[0] + ramp.inside_deg, seats[1] - ramp.inside_deg]
    at = _spread([*knots, *(x for x, _ in distinct)])
    u, velocity, bend = warp(at)
    if np.any(velocity[(at >= seats[0]) & (at <= seats[1])] <= 0):
        raise _not_smooth(kind)
    inside = (at >= seats[0]) & (at <= seats[1])
    share = flank_share(np.where(inside, np.clip(u, -1.0, 1.0), 1.0)) * flank_mm
    flank = np.array([share[0], share[1] * velocity, share[2] * velocity**2 + share[1] * bend])
    middle = sum(seats) / 2
    opening = ramp.motion(at - seats[0])
    closing = ramp.motion(seats[1] - at) * np.array([[1.0], [-1.0], [1.0]])
    motion = flank + np.where(at <= middle, opening, closing)
    motion[:, motion[0] < LEAST_MM] = 0.0  # an end that rounding has moved by a hair
    return Profile(at, motion / ratio, ((start, end),))


def _spread(knots: Sequence[float]) -> Floats:
    """The knots, with more angles between them so that none is far from the next."""
    points = np.unique(np.round(knots, 9))
    pieces = [
        np.linspace(a, b, max(int(np.ceil((b - a) / STEP_DEG)), 1), endpoint=False)
        for a, b in pairwise(points)
    ]
    return np.concatenate([*pieces, points[-1:]])


@lru_cache(maxsize=64)
def bump_profile(bump: Bump, ratio: float, lash_mm: float) -> Profile:
    """A small lobe that holds its valve off the seat between two cycle angles."""
    timing = ValveTiming(
        opens_before_deg=360.0 - bump.opens_deg,
        closes_after_deg=bump.closes_deg - 540.0,
        peak_lift_mm=bump.lift_mm,
        lash_mm=lash_mm,
        ramp_deg=bump.ramp_deg,
    )
    return profile_of(Kind.INTAKE, timing, ratio, lash_mm)


@lru_cache(maxsize=64)
def _with_bump(lobe: Profile, bump: Bump, ratio: float, lash_mm: float) -> Profile:
    """The lobe and a bump on one base circle."""
    return joined(lobe, bump_profile(bump, ratio, lash_mm))
