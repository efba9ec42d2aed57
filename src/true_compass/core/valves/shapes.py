"""The two shapes that a lobe is made of, ramp and flank, and the curve that bends the flank."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Final, overload

import numpy as np

from true_compass.core.angles import Floats
from true_compass.core.valves.cam import ValveTiming

# A ramp without length is all but a step, just inside the event.
NO_LENGTH_DEG: Final = 1e-6


@overload
def flank_lift(u: float) -> float: ...
@overload
def flank_lift(u: Floats) -> Floats: ...
def flank_lift(u: float | Floats) -> float | Floats:
    """(1 − u²)³ (1 + u²) = 1 − 2u² + 2u⁶ − u⁸: 1 at the nose, 0 at the events."""
    square = u * u
    rest = 1.0 - square
    return rest * rest * rest * (1.0 + square)


def flank_share(u: Floats) -> Floats:
    """`flank_lift` and its first two derivatives, one a row.

    All three are zero at both ends, so the flank grows out of the ramp without a jerk.
    """
    square = u * u
    rest = 1.0 - square
    return np.array(
        [
            flank_lift(u),
            -4.0 * u * rest * rest * (1.0 + 2.0 * square),
            -4.0 * rest * (1.0 + square - 14.0 * square * square),
        ]
    )


def ramp_share(t: Floats) -> Floats:
    """2t³ − t⁴ and its derivatives: from rest at 0 to 1 at its greatest velocity, which is 2."""
    return np.array([(2.0 - t) * t**3, (6.0 - 4.0 * t) * t * t, 12.0 * t * (1.0 - t)])


@dataclass(frozen=True, slots=True)
class Ramp:
    """One ramp of a lobe. `height_mm` at the event, `inside_mm` more within `inside_deg`."""

    length_deg: float
    height_mm: float
    inside_deg: float
    inside_mm: float

    @staticmethod
    def of(timing: ValveTiming, height_mm: float, half_deg: float) -> "Ramp":
        """The ramp of a timing whose events lie `half_deg` either side of the middle."""
        if height_mm <= 0:
            return Ramp(timing.ramp_deg, 0.0, 0.0, 0.0)
        if timing.ramp_deg <= NO_LENGTH_DEG:
            return Ramp(0.0, height_mm, NO_LENGTH_DEG, 0.0)
        # The inside half keeps the velocity at the event, and takes no more than a quarter of the
        # lift or most of the flank.
        share = min(1.0, timing.peak_lift_mm / (4 * height_mm), 0.8 * half_deg / timing.ramp_deg)
        return Ramp(timing.ramp_deg, height_mm, share * timing.ramp_deg, share * height_mm)

    def motion(self, inwards_deg: Floats) -> Floats:
        """Lift, velocity, acceleration at distances inwards from the event (outside: negative)."""
        total = self.height_mm + self.inside_mm
        result = np.zeros((3, len(inwards_deg)))
        result[0] = np.where(inwards_deg > 0, total, 0.0)
        if self.height_mm <= 0:
            return result
        if self.length_deg > 0:
            rising = (inwards_deg >= -self.length_deg) & (inwards_deg <= 0)
            t = 1.0 + inwards_deg[rising] / self.length_deg
            scale = self.height_mm / self.length_deg ** np.arange(3)
            result[:, rising] = ramp_share(t) * scale[:, None]
        else:
            result[0] = np.where(inwards_deg >= self.inside_deg / 2, total, 0.0)
            return result
        easing = (inwards_deg > 0) & (inwards_deg < self.inside_deg)
        t = 1.0 - inwards_deg[easing] / self.inside_deg
        scale = self.inside_mm / self.inside_deg ** np.arange(3) * np.array([-1.0, 1.0, -1.0])
        result[:, easing] = ramp_share(t) * scale[:, None]
        result[0, easing] += total
        return result

    def lift_at(self, inwards_deg: float) -> float:
        """Lift at one distance inwards from the event, as `motion` has it."""
        return float(self.motion(np.array([inwards_deg]))[0, 0])

    def event_for(self, lift_mm: float) -> float:
        """How far outside the event the ramp stands at a lift up to its height."""
        share = inverse(lambda t: (2.0 - t) * t**3, lift_mm / self.height_mm)
        return self.length_deg * (1.0 - share)


def inverse(function: Callable[[float], float], value: float) -> float:
    """Where a rising function on 0 to 1 has a value, by bisection."""
    low, high = 0.0, 1.0
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if function(middle) < value else (low, middle)
    return (low + high) / 2


@dataclass(frozen=True, slots=True, eq=False)
class Spline:
    """A natural cubic spline through a few points."""

    x: Floats
    y: Floats
    bend: Floats

    @staticmethod
    def through(points: Sequence[tuple[float, float]]) -> "Spline":
        """The spline through points in any order."""
        x, y = np.array(sorted(points), dtype=np.float64).T
        step = np.diff(x)
        matrix = np.zeros((len(x), len(x)))
        right = np.zeros(len(x))
        matrix[0, 0] = matrix[-1, -1] = 1.0
        for i in range(1, len(x) - 1):
            matrix[i, i - 1 : i + 2] = step[i - 1], 2 * (step[i - 1] + step[i]), step[i]
            right[i] = 6 * ((y[i + 1] - y[i]) / step[i] - (y[i] - y[i - 1]) / step[i - 1])
        return Spline(x, y, np.asarray(np.linalg.solve(matrix, right), dtype=np.float64))

    def __call__(self, at: Floats) -> Floats:
        """Value and two derivatives, one a row; straight on beyond the ends."""
        cell = np.clip(np.searchsorted(self.x, at, side="right") - 1, 0, len(self.x) - 2)
        step = (self.x[1:] - self.x[:-1])[cell]
        b = (at - self.x[cell]) / step
        a = 1.0 - b
        low, high = self.bend[cell], self.bend[cell + 1]
        y_low, y_high = self.y[cell], self.y[cell + 1]
        third = step * step / 6
        return np.array(
            [
                a * y_low + b * y_high + ((a**3 - a) * low + (b**3 - b) * high) * third,
                (y_high - y_low) / step
                + ((3 * b * b - 1) * high - (3 * a * a - 1) * low) * step / 6,
                a * low + b * high,
            ]
        )
