"""A lobe between the jaws of a micrometer, its wear along it, and its siblings."""

from collections.abc import Callable, Mapping, Sequence
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from true_compass.core.angles import Floats
from true_compass.core.degreeing.curve import Curve
from true_compass.core.degreeing.lobe_size import Among
from true_compass.core.items import Item, Kind
from true_compass.drawing.codes import flat_pen, polygon, rounded
from true_compass.drawing.job_chart import paint_item
from true_compass.drawing.text import CENTRE, RIGHT, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, LABEL, NOTE, Theme, Weight

WEAR_TIMES: Final = 40.0
SIBLING_BAND_MM: Final = 0.05
PLACES: Final = ("front", "middle", "rear")


def lobe_outline(curve: Curve, base_mm: float, share: float = 1.0) -> tuple[Floats, Floats]:
    """Outline of a lobe with its nose up, in mm about the camshaft: base radius and lift.

    For a flat tappet this is the radius to the contact, near enough for a drawing. `share` of the
    lift is drawn, for a worn one.
    """
    cam_deg = np.linspace(-180.0, 180.0, 361)
    at = curve.top_deg + 2 * cam_deg
    span = curve.after_tdc_deg
    at = np.where(at < span[0], at + 720.0, np.where(at > span[-1], at - 720.0, at))
    radius = base_mm / 2 + curve.lift_at_mm(at) * share
    turn = np.radians(cam_deg)
    return radius * np.sin(turn), -radius * np.cos(turn)


def paint_lobe(
    p: QPainter,
    box: QRectF,
    curve: Curve,
    base_mm: float,
    figures: tuple[float | None, float | None],
    worn: float,
    theme: Theme,
) -> None:
    """The lobe with both pairs of jaws, and what each read; siblings dashed where it is worn."""
    xs, ys = lobe_outline(curve, base_mm)
    high = float(ys.max() - ys.min())
    scale = min((box.height() - 86) / high, (box.width() - 170) / float(xs.max() - xs.min()))
    middle = QPointF(box.left() + (box.width() - 84) / 2, box.top() + 34 - float(ys.min()) * scale)
    outline = polygon(middle.x() + xs * scale, middle.y() + ys * scale)
    if worn < 0.995:
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.ink2, 1.6, Qt.PenStyle.DashLine))
        p.drawPolygon(outline)
        xs, ys = lobe_outline(curve, base_mm, worn)
        outline = polygon(middle.x() + xs * scale, middle.y() + ys * scale)
    p.setBrush(theme.sheet)
    p.setPen(flat_pen(theme.ink, 3))
    p.drawPolygon(outline)
    p.setBrush(theme.metal)
    p.setPen(flat_pen(theme.metal_dk, 1.6))
    p.drawEllipse(middle, base_mm * scale * 0.22, base_mm * scale * 0.22)
    top, foot = middle.y() + float(ys.min()) * scale, middle.y() + float(ys.max()) * scale
    side = base_mm / 2 * scale
    p.setPen(flat_pen(theme.ink2, 1.4))
    for jaw in (
        QRectF(middle.x() - 30, top - 16, 60, 15),
        QRectF(middle.x() - 30, foot + 1, 60, 15),
        QRectF(middle.x() - side - 16, middle.y() - 26, 15, 52),
        QRectF(middle.x() + side + 1, middle.y() - 26, 15, 52),
    ):
        p.drawRect(jaw)
    across = middle.x() + side + 56
    _measure(p, QPointF(across, top), QPointF(across, foot), figures[0], "A", theme)
    under = foot + 34
    left, right = QPointF(middle.x() - side, under), QPointF(middle.x() + side, under)
    _measure(p, left, right, figures[1], "B", theme)


def _measure(
    p: QPainter, start: QPointF, end: QPointF, figure: float | None, tag: str, theme: Theme
) -> None:
    """A measuring line with its tag, and the figure in its middle."""
    p.setPen(flat_pen(theme.ink, 1.8))
    p.drawLine(start, end)
    p.setBrush(theme.ink)
    along = end - start
    length = max((along.x() ** 2 + along.y() ** 2) ** 0.5, 1e-6)
    way = along / length
    out = QPointF(-way.y(), way.x())
    for tip, sign in ((start, 1), (end, -1)):
        foot = tip + way * (9 * sign)
        p.drawPolygon(QPolygonF([tip, foot + out * 4, foot - out * 4]))
    middle = (start + end) / 2
    words = "?" if figure is None else f"{figure:.2f}"
    plate = QRectF(middle.x() - 34, middle.y() - 12, 68, 24)
    p.fillRect(plate, theme.paper)
    draw_text(p, plate, words, LABEL, theme.ink, Weight.STRONG, CENTRE)
    at = start - QPointF(0, 26) if abs(way.x()) < 0.5 else start - QPointF(16, 0)
    box = QRectF(at.x() - 12, at.y() - 12, 24, 24)
    rounded(p, box, 3, theme.ink, None)
    draw_text(p, box, tag, BODY, theme.on_ink, Weight.STRONG, CENTRE)


def paint_along(p: QPainter, box: QRectF, low_by_mm: Mapping[int, float], theme: Theme) -> None:
    """The lobe from front to rear, wear drawn 40 times: below the dashed line of its siblings."""
    head = QRectF(box.left(), box.top(), box.width(), 22)
    told = f"Along the lobe, wear {WEAR_TIMES:g} times"
    draw_one_of(p, head, (told,), NOTE + 1, theme.ink2, Weight.LABEL)
    plot = box.adjusted(26, 56, -26, -26)
    places = sorted(low_by_mm)
    most = max((abs(low) for low in low_by_mm.values()), default=0.0)
    per_mm = min(WEAR_TIMES, (plot.height() - 26) / most) if most > 0 else WEAR_TIMES
    xs = [plot.left() + plot.width() * (0.1 + 0.4 * place) for place in places]
    ys = [plot.top() + max(low_by_mm[place], 0.0) * per_mm for place in places]
    left, right = QPointF(plot.left(), ys[0]), QPointF(plot.right(), ys[-1])
    tops = [left, *(QPointF(x, y) for x, y in zip(xs, ys, strict=True)), right]
    p.setBrush(theme.metal)
    p.setPen(Qt.PenStyle.NoPen)
    p.drawPolygon(QPolygonF([*tops, plot.bottomRight(), plot.bottomLeft()]))
    p.setPen(flat_pen(theme.ink, 2.6))
    p.drawPolyline(QPolygonF(tops))
    p.setPen(QPen(theme.ink, 1.8, Qt.PenStyle.DashLine))
    p.drawLine(plot.topLeft() - QPointF(14, 0), plot.topRight() + QPointF(14, 0))
    for place, x, y in zip(places, xs, ys, strict=True):
        p.setPen(flat_pen(theme.ink, 1.8))
        p.drawLine(QPointF(x, plot.top()), QPointF(x, y))
        words = f"{-low_by_mm[place]:+.2f}".replace("-", "−")
        above = QRectF(x - 40, plot.top() - 26, 80, 22)
        draw_text(p, above, words, BODY, theme.ink, Weight.LABEL, CENTRE)
        below = QRectF(x - 40, plot.bottom() + 3, 80, 22)
        draw_text(p, below, PLACES[place], NOTE, theme.ink, align=CENTRE)


def paint_siblings(
    p: QPainter,
    box: QRectF,
    kind: Kind,
    lifts: Mapping[Item, Sequence[float]],
    told: Among | None,
    shown: Item,
    theme: Theme,
) -> None:
    """Lobes of a kind beside each other: three dots a lobe, the others' median with its band."""
    name = kind.value.capitalize()
    title = f"{name}: not measured"
    if lifts:
        lows = [min(values) for values in lifts.values()]
        title = f"{name}: alike to {max(lows) - min(lows):.2f}"
        if told is not None and told.points_to_wear:
            title = f"{name}: lowest {told.lowest.name}"
    head = QRectF(box.left(), box.top(), box.width(), 26)
    used = draw_text(p, head, title, LABEL, theme.ink, Weight.STRONG)
    rest = head.adjusted(used + 10, 0, 0, 0)
    draw_one_of(p, rest, ("lift at the lobe, mm",), NOTE, theme.ink2, align=RIGHT)
    frame = box.adjusted(1, 30, -1, -1)
    rounded(p, frame, 6, theme.sheet, flat_pen(theme.line, 1.8))
    if not lifts:
        return
    plot = frame.adjusted(52, 12, -12, -58)
    values = [value for lobe in lifts.values() for value in lobe]
    middle = told.others_mm if told is not None else float(np.median(values))
    low = min(*values, middle - 0.08) - 0.02
    high = max(*values, middle + 0.08) + 0.02

    def y(lift: float) -> float:
        return plot.bottom() - (lift - low) / (high - low) * plot.height()

    band = QRectF(plot.left(), y(middle + SIBLING_BAND_MM), plot.width(), 0)
    band.setBottom(y(middle - SIBLING_BAND_MM))
    p.fillRect(band, theme.well)
    step = next((s for s in (0.05, 0.1, 0.2, 0.5, 1.0) if (high - low) / s <= 5), 2.0)
    mark = np.ceil(low / step) * step
    while mark <= high:
        p.setPen(flat_pen(theme.hair, 1.2))
        p.drawLine(QPointF(plot.left(), y(mark)), QPointF(plot.right(), y(mark)))
        label = QRectF(frame.left() + 4, y(mark) - 10, 42, 20)
        words = f"{mark:.2f}" if step < 0.1 else f"{mark:.1f}"
        draw_text(p, label, words, NOTE, theme.ink2, align=RIGHT)
        mark += step
    p.setPen(flat_pen(theme.line, 1.8))
    p.drawLine(QPointF(plot.left(), y(middle)), QPointF(plot.right(), y(middle)))
    _paint_lobes(p, plot, frame, y, lifts, told, shown, theme)


def _paint_lobes(
    p: QPainter,
    plot: QRectF,
    frame: QRectF,
    y: Callable[[float], float],
    lifts: Mapping[Item, Sequence[float]],
    told: Among | None,
    shown: Item,
    theme: Theme,
) -> None:
    each = plot.width() / len(lifts)
    few = len(lifts) <= 8
    for nth, (item, values) in enumerate(lifts.items()):
        left = plot.left() + nth * each
        lowest = told is not None and told.points_to_wear and item == told.lowest
        if lowest:
            tint = QRectF(left, frame.top() + 2, each, frame.height() - 4)
            p.fillRect(tint, theme.now_tint)
        spots = [
            QPointF(left + each * (place + 1) / (len(values) + 1), y(value))
            for place, value in enumerate(values)
        ]
        p.setPen(flat_pen(theme.ink, 2))
        p.drawPolyline(QPolygonF(spots))
        p.setBrush(theme.sheet if item.kind is Kind.INTAKE else theme.ink)
        for spot in spots:
            p.drawEllipse(spot, 5, 5)
        plate = QRectF(left + 4, plot.bottom() + 10, min(each - 8, 40), 36)
        paint_item(p, plate, item, theme, fill=item == shown)
        if few or lowest:
            room = QRectF(plate.right() + 6, plate.top(), each - plate.width() - 12, 36)
            weight = Weight.STRONG if lowest else Weight.LABEL
            draw_one_of(p, room, (f"{min(values):.2f}",), BODY, theme.ink, weight)
