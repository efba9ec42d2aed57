"""Valve chips: a plate for a valve that is free, with its margin; a lift for one that is not."""

import math
from dataclasses import dataclass

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor, QPainter

from true_compass.core.adjusting.stops import whole_degrees
from true_compass.core.items import Kind
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.stills import Paint, Stills
from true_compass.drawing.text import CENTRE, LEFT, RIGHT, draw_text, text_width
from true_compass.drawing.theme import BODY, LABEL, NOTE, Theme, Weight

THIN_DEG = 30.0
LEAST_PX = 7


@dataclass(frozen=True, slots=True)
class Chip:
    """What a valve chip says. `margin_deg` is negative off the base circle, NaN without a lobe."""

    kind: Kind
    name: str
    margin_deg: float
    lift_mm: float
    cylinder: int = 0
    count: int = 1
    """How many valves of this kind the cylinder has; they move together."""

    @property
    def free(self) -> bool:
        """Whether the valve may be adjusted here."""
        return self.margin_deg >= 0

    @property
    def has_lobe(self) -> bool:
        """Whether a lobe drives the valve; an atmospheric one has nothing to adjust."""
        return not math.isnan(self.margin_deg)

    @property
    def thin(self) -> bool:
        """Whether the valve is free, but with little margin."""
        return 0 <= self.margin_deg < THIN_DEG

    @property
    def figure(self) -> str:
        """Margin in degrees when free; otherwise the lift, or `ramp`."""
        if self.free:
            return f"{whole_degrees(self.margin_deg)}°"
        if self.lift_mm > 0.0:
            return lift_words(self.lift_mm)
        return "ramp" if self.has_lobe else "suction"

    @property
    def sentence(self) -> str:
        """The whole chip in words, for hover and for a screen reader."""
        many = (
            f"{self.count} {self.kind.value} valves"
            if self.count > 1
            else f"{self.kind.value} valve"
        )
        head = f"{self.name}, {many} of cylinder {self.cylinder}"
        if not self.has_lobe:
            lift = f"open {self.lift_mm:.2f} mm" if self.lift_mm > 0 else "shut"
            return f"{head}: {lift}; suction opens it, there is nothing to set"
        if self.free:
            return f"{head}: free, margin {self.figure}"
        if self.lift_mm > 0:
            return f"{head}: not free, open {self.lift_mm:.2f} mm"
        return f"{head}: not free, on its ramp"


def lift_words(lift_mm: float) -> str:
    """A lift in few characters; one that is there is never shown as zero.

    >>> lift_words(0.01), lift_words(0.13), lift_words(10.24)
    ('<0.1 mm', '0.1 mm', '10 mm')
    """
    if lift_mm < 0.05:
        return "<0.1 mm"
    return f"{lift_mm:.1f} mm" if lift_mm < 9.95 else f"{lift_mm:.0f} mm"


def chip_colour(chip: Chip, theme: Theme) -> QColor:
    """The colour of a chip's words."""
    if not chip.free:
        return theme.ink3
    return theme.ink if chip.thin else theme.on_ink


def _chip_plate(p: QPainter, box: QRectF, chip: Chip, theme: Theme) -> None:
    radius = box.height() * 0.3 if chip.kind is Kind.INTAKE else 2.0
    if not chip.free:
        rounded(p, box, radius, None, flat_pen(theme.hair, 1.6))
    elif chip.thin:
        rounded(p, box, radius, theme.sheet, flat_pen(theme.ink, 2.5))
    else:
        rounded(p, box, radius, theme.ink, None)


def low_chip(p: QPainter, box: QRectF, chip: Chip, theme: Theme, stills: Stills) -> None:
    """A whole chip in one line, where many stand in a small place."""
    size = (box.width(), box.height())
    colour = chip_colour(chip, theme)
    own = QRectF(0, 0, *size)
    # For the widest figure, so that the name does not grow and shrink as the crank turns.
    wanted = text_width(f"{chip.name} 200°", NOTE, Weight.STRONG) + 9
    px = NOTE * min(1.0, size[0] / wanted)

    def plate(q: QPainter) -> None:
        _chip_plate(q, own, chip, theme)
        draw_text(q, own.adjusted(5, 0, 0, 0), chip.name, px, colour, Weight.STRONG, LEFT)

    def figure(q: QPainter) -> None:
        draw_text(q, own.adjusted(26, 0, -4, 0), chip.figure, px, colour, Weight.LABEL, RIGHT)

    look = (chip.free, chip.thin, size, px)
    stills.draw_made(p, ("low", chip.name, look), lambda: (own, plate), box.topLeft())
    stills.draw_made(p, ("figure", chip.figure, look), lambda: (own, figure), box.topLeft())


def valve_chip(p: QPainter, box: QRectF, chip: Chip, theme: Theme) -> None:
    """A chip without its figure: side and corner say the kind, the fill whether it is free."""
    _chip_plate(p, box, chip, theme)
    height = box.height()
    top = QRectF(box.left() + 3, box.top() + height * 0.08, box.width() - 6, height * 0.46)
    colour = chip_colour(chip, theme)
    px = min(LABEL + 1, top.width() / (0.64 * len(chip.name)))
    draw_text(p, top, chip.name, px, colour, Weight.STRONG, CENTRE)
    if chip.count > 1:
        _count_bars(p, box, chip, colour)


def _count_bars(p: QPainter, box: QRectF, chip: Chip, colour: QColor) -> None:
    """One small bar a valve at the foot of a chip: hollow for intake, solid for exhaust."""
    wide, gap = min(10.0, box.width() / 6), 3.0
    x = box.center().x() - (chip.count * (wide + gap) - gap) / 2
    for i in range(chip.count):
        bar = QRectF(x + i * (wide + gap), box.bottom() - 5.5, wide, 3.4)
        if chip.kind is Kind.INTAKE:
            rounded(p, bar, 1.7, None, flat_pen(colour, 1.0))
        else:
            p.fillRect(bar, colour)


def chip_figure(p: QPainter, box: QRectF, chip: Chip, theme: Theme, stills: Stills) -> None:
    """The figure of a chip, which changes with every degree."""
    wide, high = box.width(), box.height()

    def make() -> tuple[QRectF, Paint]:
        foot = QRectF(1, high / 2, wide - 2, high * 0.42)

        def figure(q: QPainter) -> None:
            words, px, weight = figure_within(chip, foot.width())
            draw_text(q, foot, words, px, chip_colour(chip, theme), weight, CENTRE)

        return foot, figure

    stills.draw_made(p, (chip.figure, chip.thin, wide, high), make, box.topLeft())


def figure_within(chip: Chip, width: float) -> tuple[str, float, Weight]:
    """A chip's figure, its size and weight: smaller where it is narrow, at last without its unit.

    A chip that is blank, or cut, would say nothing or something else.
    """
    px, weight = (BODY, Weight.LABEL) if chip.free else (NOTE, Weight.BODY)
    wanted = text_width(chip.figure, px, weight)
    if wanted > width:
        px = max(math.floor(px * width / wanted), LEAST_PX)
    figure = chip.figure
    if text_width(figure, px, weight) > width:
        figure = figure.removesuffix(" mm").removesuffix("°")
    return figure, px, weight
