"""A degree wheel: how it is graduated, what stands under its pointer, and what a figure means.

Angles are crank degrees after the TDC at which the wheel was set, negative before it. Three kinds
are sold: 0 to 360; 0 to 180 and back to 0; and 0 to 90 and back, four times round. Which one it is
is asked, never assumed (common practice, no source).
"""

from dataclasses import dataclass
from enum import Enum
from typing import Final

from true_compass.core.angles import TURN_DEG, apart_deg
from true_compass.core.limits import EngineError

HALF_TURN_DEG: Final = 180.0


class Scale(Enum):
    """How a wheel is graduated."""

    FULL = "0-360"
    SPLIT = "0-180-0"
    QUARTERS = "quarters"

    @property
    def words(self) -> str:
        """As a person says it."""
        return _SCALE_WORDS[self]

    @property
    def most_deg(self) -> float:
        """The greatest figure on it."""
        return _SCALE_MOST[self]


_SCALE_WORDS: Final = {
    Scale.FULL: "0 to 360",
    Scale.SPLIT: "0-180-0",
    Scale.QUARTERS: "0-90 four times",
}
_SCALE_MOST: Final = {Scale.FULL: 360.0, Scale.SPLIT: 180.0, Scale.QUARTERS: 90.0}


class Zero(Enum):
    """The dead centre at which a wheel or protractor has its zero."""

    TDC = "tdc"
    BDC = "bdc"

    @property
    def at_deg(self) -> float:
        """Where it stands, crank degrees after TDC."""
        return 0.0 if self is Zero.TDC else HALF_TURN_DEG


@dataclass(frozen=True, slots=True)
class Wheel:
    """A degree wheel on the crank. `against`: the figures of a 0 to 360 fall as the crank turns."""

    scale: Scale = Scale.SPLIT
    zero: Zero = Zero.TDC
    against: bool = False

    def figure_deg(self, after_tdc_deg: float) -> float:
        """What stands under the pointer.

        >>> Wheel().figure_deg(-9.1), Wheel(Scale.FULL).figure_deg(-9.0)
        (9.1, 351.0)
        >>> Wheel(Scale.QUARTERS).figure_deg(110.0), Wheel(zero=Zero.BDC).figure_deg(4.0)
        (70.0, 176.0)
        """
        on_deg = after_tdc_deg - self.zero.at_deg
        if self.scale is Scale.FULL:
            turned = -on_deg if self.against else on_deg
            return round(turned, 9) % TURN_DEG
        split = round(apart_deg(on_deg, 0.0), 9)
        if self.scale is Scale.SPLIT:
            return split
        return min(split, HALF_TURN_DEG - split)

    def places_deg(self, figure_deg: float) -> tuple[float, ...]:
        """Where the crank can stand when a figure is read: [0, 360) after TDC, one to four places.

        Raises `EngineError` for a figure that is not on this wheel.

        >>> Wheel().places_deg(110.0), Wheel(Scale.QUARTERS).places_deg(30.0)
        ((110.0, 250.0), (30.0, 150.0, 210.0, 330.0))
        """
        check_figure(self, figure_deg)
        zero = self.zero.at_deg
        if self.scale is Scale.FULL:
            turned = -figure_deg if self.against else figure_deg
            places = {zero + turned}
        elif self.scale is Scale.SPLIT:
            places = {zero + figure_deg, zero - figure_deg}
        else:
            places = {base + side * figure_deg for base in (0.0, HALF_TURN_DEG) for side in (1, -1)}
        return tuple(sorted({round(place % TURN_DEG, 9) % TURN_DEG for place in places}))

    def nearest_deg(self, figure_deg: float, expected_deg: float) -> float:
        """The place of a figure that lies nearest to where the crank is expected.

        The answer is within half a turn of `expected_deg`.
        """
        around = [
            expected_deg + (place - expected_deg + 180.0) % TURN_DEG - 180.0
            for place in self.places_deg(figure_deg)
        ]
        return min(around, key=lambda place: abs(place - expected_deg))

    def running_deg(self, figure_deg: float, *, before: bool, far_side: bool = False) -> float:
        """The running angle of a figure read near TDC: degrees after where TDC is expected.

        A 0 to 360 tells its side: the angle is the figure, or minus it where figures fall, less 180
        for a zero at BDC. On the others `before` is the side of the piston's way up, and `far_side`
        says that the figure stands beyond zero.

        >>> Wheel().running_deg(9.5, before=True)
        -9.5
        >>> Wheel(Scale.FULL, against=True).running_deg(359.0, before=False)
        -359.0
        """
        check_figure(self, figure_deg)
        if self.scale is Scale.FULL:
            return (-figure_deg if self.against else figure_deg) - self.zero.at_deg
        away = min(apart_deg(place, 0.0) for place in self.places_deg(figure_deg))
        return -away if before is not far_side else away


def check_figure(wheel: Wheel, figure_deg: float) -> None:
    """Raise `EngineError` unless a figure is on a wheel."""
    most = wheel.scale.most_deg
    if not 0 <= figure_deg <= most:
        other = Scale.FULL if figure_deg <= TURN_DEG else None
        way_out = f": is it graduated {other.words}?" if other and figure_deg >= 0 else ""
        raise EngineError(
            "reading", f"must be from 0 to {most:g} on this wheel, not {figure_deg:g}{way_out}"
        )
