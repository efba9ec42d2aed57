"""The smaller figures of Watch: headline, dials, and the list of what may be adjusted here."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Painted
from true_compass.app.workspaces.watch.context import WatchContext
from true_compass.core.adjusting.tasks import preload_range_words
from true_compass.core.cautions import IN_SHORT
from true_compass.core.items import Kind
from true_compass.drawing.chips import Chip, chip_figure, low_chip, valve_chip
from true_compass.drawing.dials import RADIUS, Dials, rotor_sense, rotor_title
from true_compass.drawing.ring import sense_of
from true_compass.drawing.text import CENTRE, LEFT, RIGHT, draw_one_of, draw_text, text_width
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight

TITLE_HEIGHT: Final = 22.0
LOW_CHIP: Final = 40.0
CARE_HEIGHT: Final = 22.0
AT_LEFT: Final = 0.27
AT_RIGHT: Final = 0.73
HINT: Final = "Drag the ring to turn"


class Headline(Painted):
    """Who is at compression TDC, or comes to it next; lash or the first hint at the right."""

    def __init__(self, context: WatchContext, parent: QWidget) -> None:
        super().__init__(context.look, parent)
        self._context = context
        self.show_hint = False
        self.setObjectName("headline")
        self.setAccessibleName("What happens now")
        context.bridge.turned.connect(self.update)

    def paint(self, p: QPainter) -> None:
        """Draw the headline; its second part goes below it where the line is too short."""
        theme, width = self.look.theme, self.logical_width
        first, second = self._context.headline()
        two_lines = self.logical_height > 50
        if two_lines:
            draw_text(p, QRectF(0, 0, width, 36), first, HEAD, theme.ink, Weight.STRONG, LEFT)
            draw_text(p, QRectF(0, 38, width, 26), second, LEAD, theme.ink2, Weight.LABEL, LEFT)
            return
        side = text_width(HINT, BODY) + 16 if self.show_hint else 0.0
        room = width - side
        used = draw_text(p, QRectF(0, 0, room, 36), first, HEAD, theme.ink, Weight.STRONG, LEFT)
        rest = QRectF(used + 20, 2, room - used - 20, 36)
        wordings = (second, second.partition(":")[0])
        draw_one_of(p, rest, wordings, LEAD, theme.ink2, Weight.LABEL, LEFT)
        if self.show_hint:
            at_right = QRectF(width - side, 0, side, 36)
            draw_text(p, at_right, HINT, BODY, theme.ink2, Weight.BODY, RIGHT)


class DialsView(Painted):
    """The crank from the front and the rotor from above."""

    covers_ground = True

    def __init__(self, context: WatchContext, parent: QWidget) -> None:
        super().__init__(context.look, parent)
        self._context = context
        self.setObjectName("dials")
        self.setAccessibleName("Crank dial and rotor dial")
        context.bridge.turned.connect(self._on_turned)
        context.bridge.engine_changed.connect(self.repaint_all)
        context.bridge.tried.connect(self.repaint_all)
        context.selection.changed.connect(self.update)

    def paint(self, p: QPainter) -> None:
        """Draw both dials with their titles, and the care line below."""
        state = self._context.session.state
        sense, strong = sense_of(state.engine), self._context.selection.strong
        dials = Dials(self.look.theme, self.stills, sense, strong)
        rotor = Dials(self.look.theme, self.stills, rotor_sense(state.engine), strong)
        firing = tuple(c for c in state.engine.cylinders if state.now.at_compression_tdc[c - 1])

        def faces(q: QPainter) -> None:
            self._paint_words(q)
            with moved(q, self._middle(AT_LEFT)):
                dials.paint_crank_face(q)
            with moved(q, self._middle(AT_RIGHT)):
                rotor.paint_rotor_face(q, state.shown, firing)

        self.paint_whole(p, (firing, strong), faces)
        with moved(p, self._middle(AT_LEFT)):
            dials.paint_crank(p, state.shown, state.now)
        with moved(p, self._middle(AT_RIGHT)):
            rotor.paint_rotor(p, state.now)

    def _on_turned(self) -> None:
        for share in (AT_LEFT, AT_RIGHT):
            corner = self._middle(share) - QPointF(RADIUS, RADIUS)
            self.update(self.look.scaled(corner.x(), corner.y(), 2 * RADIUS, 2 * RADIUS))

    def _middle(self, share: float) -> QPointF:
        room = self.logical_height - CARE_HEIGHT - TITLE_HEIGHT
        return QPointF(round(self.logical_width * share), round(TITLE_HEIGHT + 8 + room / 2))

    def _paint_words(self, p: QPainter) -> None:
        theme, width = self.look.theme, self.logical_width
        rotor = rotor_title(self._context.session.state.engine)
        for share, title in ((AT_LEFT, "Crank, from the front"), (AT_RIGHT, rotor)):
            title_box = QRectF(width * share - 105, 0, 210, TITLE_HEIGHT)
            draw_text(p, title_box, title, NOTE + 1, theme.ink, Weight.LABEL, CENTRE)
        care = QRectF(0, self.logical_height - CARE_HEIGHT, width, 20)
        draw_text(p, care, IN_SHORT, NOTE, theme.ink2, Weight.BODY, LEFT)


@contextmanager
def moved(p: QPainter, to: QPointF) -> Iterator[None]:
    """The painter with its origin at a point, for a while."""
    p.save()
    p.translate(to)
    yield
    p.restore()


class Gutter(Painted):
    """Left of the columns: the lash to set, and how many valves are free here."""

    covers_ground = True

    def __init__(self, context: WatchContext, parent: QWidget) -> None:
        super().__init__(context.look, parent)
        self._context = context
        self.setObjectName("gutter")
        self.setAccessibleName("Lash")
        self._shown = ""
        context.bridge.turned.connect(self._on_turned)
        context.bridge.engine_changed.connect(self.repaint_all)
        context.bridge.tried.connect(self.repaint_all)

    def _count(self) -> str:
        state = self._context.session.state
        return f"{int(state.now.free.sum())} of {int(state.shown.lobes.settable.sum())}"

    def _on_turned(self) -> None:
        if self._count() != self._shown:
            self.update()

    def paint(self, p: QPainter) -> None:
        """Draw the lash in the middle, and the words beside the chips at the foot."""
        self._shown = self._count()
        self.paint_whole(p, self._shown, self._paint_still)

    def _paint_still(self, p: QPainter) -> None:
        self._paint_words(p, self._shown)
        self._paint_lash(p, 94.0)

    def _paint_words(self, p: QPainter, count: str) -> None:
        theme, width = self.look.theme, self.logical_width
        y = self.logical_height - 56
        for i, word in enumerate(("Adjust", "here")):
            draw_text(p, QRectF(0, y + 18 * i, width, 19), word, LABEL, theme.ink, Weight.STRONG)
        draw_text(p, QRectF(0, y + 37, width, 19), count, BODY - 1, theme.ink2, Weight.LABEL)

    def _paint_lash(self, p: QPainter, y: float) -> None:
        theme, width = self.look.theme, self.logical_width
        hot = self._context.session.state.engine.lash_hot
        draw_text(p, QRectF(0, y, width, 20), "Lash", LABEL, theme.ink, Weight.STRONG)
        when = "hot, mm" if hot else "cold, mm"
        if self._context.session.state.engine.train.hydraulic:
            for place, words in enumerate(("none:", "hydraulic,", "preload")):
                line = QRectF(0, y + 22 + 19 * place, width, 18)
                draw_text(p, line, words, NOTE, theme.ink2)
            return
        draw_text(p, QRectF(0, y + 20, width, 18), when, NOTE, theme.ink2)
        for mm, thou in self._context.lash_words():
            y += 46
            draw_text(p, QRectF(0, y, width, 22), mm, LEAD - 1, theme.ink, Weight.STRONG)
            draw_text(p, QRectF(0, y + 21, width, 18), thou, NOTE, theme.ink2)


class AdjustHere(Painted):
    """Which valves are free, in one line, where there is no room for the gutter."""

    def __init__(self, context: WatchContext, parent: QWidget) -> None:
        super().__init__(context.look, parent)
        self._context = context
        self.setObjectName("adjust_here")
        self.setAccessibleName("What may be adjusted here")
        context.bridge.turned.connect(self.update)

    def paint(self, p: QPainter) -> None:
        """Draw the line."""
        chips = self._context.chips()
        free = [chip.name for chip in chips if chip.free]
        told = f"Adjust here: {', '.join(free) or 'nothing'}"
        counted = f"Adjust here: {len(free)} of {len(chips)}, the solid chips above"
        box = QRectF(0, 0, self.logical_width, 30)
        draw_one_of(p, box, (told, counted), LEAD, self.look.theme.ink, Weight.STRONG, LEFT)


class AdjustList(Painted):
    """Every valve that may be adjusted here as a chip, the second-largest thing of an end view."""

    covers_ground = True

    def __init__(self, context: WatchContext, parent: QWidget) -> None:
        super().__init__(context.look, parent)
        self._context = context
        self.setObjectName("adjust_list")
        self.setAccessibleName("What may be adjusted here")
        context.bridge.turned.connect(self.update)
        context.bridge.engine_changed.connect(self.repaint_all)
        context.bridge.tried.connect(self.repaint_all)

    def paint(self, p: QPainter) -> None:
        """Draw the title, the chips, and a line about lash and outlined chips."""
        width, chips = self.logical_width, self._context.chips()
        free = [chip for chip in chips if chip.free]
        self.paint_whole(p, (len(free), len(chips)), self._paint_words)
        # Codes of two digits need wider chips.
        five = 15 if any(len(chip.name) > 2 for chip in free) else 10
        per_row = 5 if len(free) <= five else 6 if len(free) <= 18 else 7
        rows = -(-len(free) // per_row)
        wide = (width - 6 * (per_row - 1)) / per_row
        high = min(46.0, (self.logical_height - 36 - 48) / max(rows, 1) - 6)
        for place, chip in enumerate(free):
            x, y = (place % per_row) * (wide + 6), 38 + (place // per_row) * (high + 6)
            box = QRectF(x, y, wide, high)
            self._paint_chip(p, box, chip)

    def _paint_words(self, p: QPainter) -> None:
        theme, width = self.look.theme, self.logical_width
        state = self._context.session.state
        title = QRectF(0, 0, width, 30)
        draw_text(p, title, "Adjust here", HEAD - 3, theme.ink, Weight.STRONG)
        count = f"{int(state.now.free.sum())} of {int(state.shown.lobes.settable.sum())}"
        draw_text(p, title, count, LEAD, theme.ink2, Weight.LABEL, RIGHT)
        lash = "; ".join(f"{mm} mm ({thou})" for mm, thou in self._context.lash_words())
        when = "hot" if self._context.session.state.engine.lash_hot else "cold"
        y = self.logical_height - 44
        train = self._context.session.state.engine.train
        wordings = [f"Lash {when}: {lash}."]
        if train.hydraulic:
            told = preload_range_words(train, Kind.INTAKE) or "the preload"
            shorter = (told, told.partition(" (")[0], told.partition(",")[0])
            wordings = [f"Zero lash, then {words}." for words in shorter]
        line = QRectF(0, y, width, 20)
        draw_one_of(p, line, wordings, BODY - 1, theme.ink, Weight.LABEL)
        draw_text(p, QRectF(0, y + 22, width, 20), IN_SHORT, NOTE, theme.ink2)

    def _paint_chip(self, p: QPainter, box: QRectF, chip: Chip) -> None:
        theme = self.look.theme
        if box.height() < LOW_CHIP:
            low_chip(p, box, chip, theme, self.stills)
            return
        own = QRectF(0, 0, box.width(), box.height())

        def plate(q: QPainter) -> None:
            valve_chip(q, own, chip, theme)

        key = (chip.name, chip.thin, box.width(), box.height())
        self.stills.draw(p, key, own, plate, at=box.topLeft())
        chip_figure(p, box, chip, theme, self.stills)
