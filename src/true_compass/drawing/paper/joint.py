"""Where two pieces of a tape meet, enlarged for the screen."""

from typing import Final

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from true_compass.core.paper.places import Place
from true_compass.core.paper.proof import PLAIN
from true_compass.core.paper.tape import Tape, pieces_of
from true_compass.drawing.documents import Paper
from true_compass.drawing.paper.sheet import PX, STRIP_MM, About, Room, Sheet, Style
from true_compass.drawing.paper.tape_page import TapePainter, TapeSheet

JOINT_AT: Final = 0.56
"""Where the joint stands across the room."""
NO_PLACES: Final[tuple[Place, ...]] = ()


def paint_joint(p: QPainter, room: QRectF, tape: Tape, paper: Paper, px_per_mm: float) -> None:
    """The end of piece 1 above the beginning of piece 2, the joint of both at one place."""
    space = Room.of(paper, PLAIN)
    pieces = pieces_of(tape, space.wide_mm - STRIP_MM)
    one, other = pieces[0], pieces[1 % len(pieces)]
    told = TapeSheet(About("", "", "", "", 1), tape, NO_PLACES)
    half = room.height() / 2
    times = px_per_mm / PX
    for piece, at_deg, top in ((one, one.right_deg, 0.0), (other, other.left_deg, half)):
        p.save()
        p.setClipRect(QRectF(room.left(), room.top() + top, room.width(), half - 4))
        p.translate(room.left() + room.width() * JOINT_AT, room.top() + top + 2)
        p.scale(times, times)
        sheet = Sheet(p, space, Style())
        painter = TapePainter(sheet, told, len(pieces))
        p.translate(-painter.x(piece, at_deg), 0)
        painter.paint_piece(piece, 0.0)
        p.restore()
