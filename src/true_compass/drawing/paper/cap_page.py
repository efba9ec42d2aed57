"""The cap with its leads on paper: square is the post, round is the plug."""

import math
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPolygonF

from true_compass.core.cautions import CARE
from true_compass.core.engine import Engine
from true_compass.core.ignition.leads import crossing_pairs
from true_compass.core.ignition.stand import sound
from true_compass.core.rotation import Rotation
from true_compass.core.state import Rig
from true_compass.drawing.book_sheets import paper_theme
from true_compass.drawing.cap import CapPainter
from true_compass.drawing.cap_map import CapMap
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.documents import Document, DocumentError, Paint, Paper
from true_compass.drawing.paper.sheet import (
    LINE,
    SMALL,
    THICK,
    About,
    Draw,
    Sheet,
    Style,
    plain_pages,
)
from true_compass.drawing.sheet_text import BLACK, WHITE
from true_compass.drawing.stills import Stills
from true_compass.drawing.text import CENTRE, RIGHT
from true_compass.drawing.theme import Weight

UNSEEN: Final = (
    "The rotor's direction was assumed, not seen: see which way it turns, and say so in the "
    "engine's file or on Ignition, No book."
)
NO_ROTOR: Final = "This engine has no distributor, so there is no cap to map."
ONE_PAGE: Final = 8
"""With more posts the words have a page of their own."""
HEAD: Final = 30.0
LARGE: Final = 1.45
"""How many times as large as on the screen: it is read standing at the engine."""
FOOT_HIGH: Final = 250.0
OFF: Final = "Engine off, key out, coil lead off before a hand goes near the cap."


def cap_document(rig: Rig, about: About, style: Style) -> Document:
    """The map as a document. Its pages raise `DocumentError` where nobody saw the rotor turn."""

    def pages(paper: Paper) -> list[Paint]:
        engine = rig.engine
        if not engine.has_rotor:
            raise DocumentError(NO_ROTOR)
        if engine.rotor.turns is None:
            raise DocumentError(UNSEEN)
        return plain_pages(paper, style, about, _draws(engine, about))

    return Document(f"{about.name}: cap map", "cap-map", pages)


def _draws(engine: Engine, about: About) -> list[Draw]:
    def all_on_one(sheet: Sheet) -> None:
        y = _head(sheet, engine, about)
        _map(sheet, engine, QRectF(0, y, sheet.wide, sheet.foot - FOOT_HIGH - y))
        _words(sheet, engine, sheet.foot - FOOT_HIGH + 12)

    def the_map(sheet: Sheet) -> None:
        y = _head(sheet, engine, about)
        _map(sheet, engine, QRectF(0, y, sheet.wide, sheet.foot - 16 - y))

    def the_words(sheet: Sheet) -> None:
        y = _head(sheet, engine, about)
        _words(sheet, engine, _posts(sheet, engine, y))

    return [all_on_one] if engine.cylinder_count <= ONE_PAGE else [the_map, the_words]


def _head(sheet: Sheet, engine: Engine, about: About) -> float:
    """Title, layout, how it is seen, the rotor's direction, and the order."""
    turns = engine.rotor_turns
    seen = _map_of(engine, QRectF(0, 0, 600, 600)).seen_words
    where = f"Drawn {seen}, front at the left." if not _is_upright(engine) else f"Drawn {seen}."
    sheet.say(QRectF(0, 0, sheet.wide - 230, 48), f"Cap map: {about.name}", 38.0, Weight.STRONG)
    sheet.say(QRectF(0, 48, sheet.wide - 230, 26), engine.layout_words, 20.0, Weight.LABEL)
    sheet.say(QRectF(0, 76, sheet.wide - 230, 22), f"{where} {about.turns}", 16.0)
    _round_arrow(sheet, QPointF(sheet.wide - 190, 44), 30.0, turns)
    words = QRectF(sheet.wide - 148, 18, 150, 28)
    sheet.say(words, f"Rotor {turns.value}", 18.0, Weight.STRONG)
    sheet.say(words.translated(0, 26), f"seen {seen}", 15.0)
    y = 112.0
    sheet.say(QRectF(0, y, 70, 42), "Fires", 22.0, Weight.STRONG)
    order = engine.firing_order
    each = min((sheet.wide - 84 - 130) / len(order), 64.0)
    for nth, cylinder in enumerate(order):
        box = QRectF(84 + nth * each, y, each - 7, 42)
        _plate(sheet, box, str(cylinder), 22.0 if each > 40 else 16.0, first=cylinder == 1)
    sheet.say(QRectF(84 + len(order) * each + 6, y, 130, 42), "then 1 again", 16.0)
    return y + 62


def _is_upright(engine: Engine) -> bool:
    return _map_of(engine, QRectF(0, 0, 600, 600)).is_upright


def _map_of(engine: Engine, box: QRectF) -> CapMap:
    return CapMap.of(engine, sound(engine), box)


def _plate(sheet: Sheet, box: QRectF, words: str, px: float, *, first: bool) -> None:
    solid = first and not sheet.style.outlines
    pen = flat_pen(BLACK, THICK if first else 1.6)
    rounded(sheet.p, box, 4, BLACK if solid else WHITE, pen)
    sheet.say(box, words, px, Weight.STRONG, CENTRE, WHITE if solid else BLACK)


def _round_arrow(sheet: Sheet, at: QPointF, radius: float, turns: Rotation) -> None:
    """Three quarters of a turn with its tip."""
    sense = turns.sense
    points = []
    for step in range(-130, 131, 10):
        turn = math.radians(sense * step)
        points.append(at + QPointF(math.sin(turn), -math.cos(turn)) * radius)
    p = sheet.p
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(flat_pen(BLACK, 4.0))
    p.drawPolyline(QPolygonF(points))
    out = (points[-1] - at) / radius
    along = QPointF(-out.y(), out.x()) * sense
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(BLACK)
    tip = points[-1]
    p.drawPolygon(QPolygonF([tip + along * 15, tip + out * 9, tip - out * 9]))
    p.setBrush(Qt.BrushStyle.NoBrush)


def _map(sheet: Sheet, engine: Engine, box: QRectF) -> None:
    """Plugs, leads and posts. Lead 1 is thick, its post and its plug are reversed."""
    p = sheet.p
    p.save()
    p.translate(box.left() + 34, box.top())
    p.scale(LARGE, LARGE)
    room = QRectF(0, 0, (box.width() - 34) / LARGE, box.height() / LARGE)
    place = _map_of(engine, room)
    painter = CapPainter(paper_theme(), place, Stills(kept=False))
    painter.paint_heads(p)
    order = engine.firing_order
    for post, path in sorted(place.leads(order).items(), reverse=True):
        painter.paint_lead(p, path, BLACK, 5.0 if order[post - 1] == 1 else 2.4)
    painter.paint_body(p)
    painter.paint_plugs(p)
    painter.paint_posts(p, order)
    half = place.post_half
    one = place.post(order.index(1) + 1)
    plate = QRectF(one.x() - half, one.y() - half, 2 * half, 2 * half)
    _plate(sheet, plate, "1", half * 1.15, first=True)
    plug, radius = place.plugs[1], place.plug_radius
    solid = not sheet.style.outlines
    p.setBrush(BLACK if solid else WHITE)
    p.setPen(flat_pen(BLACK, 2.4))
    p.drawEllipse(plug, radius, radius)
    p.setBrush(Qt.BrushStyle.NoBrush)
    round_box = QRectF(plug.x() - radius, plug.y() - radius, 2 * radius, 2 * radius)
    sheet.say(round_box, "1", radius, Weight.STRONG, CENTRE, WHITE if solid else BLACK)
    p.restore()
    if not place.is_upright:
        _front(sheet, QPointF(0, box.top() + place.centre.y() * LARGE))


def _front(sheet: Sheet, at: QPointF) -> None:
    """A triangle that points at the engine's front."""
    p = sheet.p
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(BLACK)
    corners = [at, at + QPointF(16, -11), at + QPointF(16, 11)]
    p.drawPolygon(QPolygonF(corners))
    p.setBrush(Qt.BrushStyle.NoBrush)
    sheet.say(QRectF(at.x() + 22, at.y() - 12, 70, 24), "Front", 17.0, Weight.STRONG)


def _words(sheet: Sheet, engine: Engine, y: float) -> None:
    """What the shapes are, what post 1 is, which leads to keep apart, who wired it."""
    half = sheet.wide / 2 - 14
    other = engine.firing_order[engine.cylinder_count // 2]
    columns = (
        (
            "Square is the post, round is the plug",
            "Both ends of a lead carry one number.",
            "Off to put back? Number both ends first.",
        ),
        (
            "Post 1",
            "The rotor is here when 1 fires: its intake has shut, the mark is at 0.",
            f"Rotor at {other}: one crank turn out.",
        ),
    )
    foot = y
    for nth, (head, *lines) in enumerate(columns):
        x, at = nth * (half + 28), y
        sheet.say(QRectF(x, at, half, 28), head, 18.0, Weight.STRONG)
        at += 32
        for line in lines:
            sheet.p.fillRect(QRectF(x, at + 8, 8, 8), BLACK)
            at = sheet.paragraph(x + 18, at, half - 18, line, 16.0)
        foot = max(foot, at)
    y = foot + 8
    sheet.line(QPointF(0, y), QPointF(sheet.wide, y), LINE)
    pairs = ", ".join(f"{one} and {then}" for one, then in crossing_pairs(engine)[:4])
    y += 8
    if pairs:
        apart = f"Keep leads {pairs} apart: neighbours that fire soon after one another cross-fire."
        y = sheet.paragraph(0, y, sheet.wide, apart, 16.0, bold=True)
    y = sheet.paragraph(0, y, sheet.wide, OFF, 16.0)
    y = sheet.paragraph(0, y, sheet.wide, CARE[0], SMALL)
    say = QRectF(0, y + 4, sheet.wide, 24)
    sheet.say(say, "Rotor direction was seen, not assumed. Wired by ______________", 15.0)
    sheet.say(say, "Date ___________", 15.0, Weight.BODY, RIGHT)


def _posts(sheet: Sheet, engine: Engine, y: float) -> float:
    """Every post in the rotor's direction with the cylinder that its lead goes to."""
    words = "From post 1 on, in the rotor's direction"
    sheet.say(QRectF(0, y, sheet.wide, 28), words, 18.0, Weight.STRONG)
    y += 34
    order, columns = engine.firing_order, 3
    rows = -(-len(order) // columns)
    each = sheet.wide / columns
    for nth, cylinder in enumerate(order):
        column, down = divmod(nth, rows)
        box = QRectF(column * each, y + down * HEAD, each - 20, HEAD)
        sheet.say(box, f"post {nth + 1}: cylinder {cylinder}", 18.0)
    return y + rows * HEAD + 16
