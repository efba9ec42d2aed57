"""The lens on the overlap, and what another lash or advance changes."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter

from true_compass.app.workspaces.watch.context import WatchContext
from true_compass.app.workspaces.watch.cycle.model import CycleModel
from true_compass.app.workspaces.watch.cycle.panel import (
    ROW,
    SENTENCE,
    Panel,
)
from true_compass.core.items import Kind
from true_compass.core.valves.timing import CylinderTimes
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.lap import plain_words
from true_compass.drawing.lens import Lens
from true_compass.drawing.text import LEFT, RIGHT, draw_text
from true_compass.drawing.theme import BODY, Weight, font

NO_CHANGE: Final = "–"


class OverlapPanel(Panel):
    """The lens on the overlap, and a table of what the tried lash and advance change."""

    @property
    def _rows(self) -> int:
        return 9 if self.logical_height > 520 else 0

    @property
    def sliders_top(self) -> float:
        """The table stands between sliders and sentence."""
        table = (self._rows + 1) * ROW + 6 if self._rows else 0.0
        return self.logical_height - SENTENCE - table - self.slider_room

    def paint(self, p: QPainter) -> None:
        """Everything but the cursor is a picture."""
        self.setObjectName("overlap")
        self.setAccessibleName("The overlap")
        cycle, theme = self._model.cycle, self.look.theme
        lens = Lens(self.figure, cycle, theme)

        def frame(q: QPainter) -> None:
            lens.paint_ground(q)
            if self._rows:
                self._paint_table_frame(q, cycle.as_set)

        def tried(q: QPainter) -> None:
            self._paint_head(q)
            lens.paint_curves(q)
            if cycle.changed:
                key = ("as set", cycle.cylinder, self.slider_room)
                self.frames.draw(q, key, self.figure, lens.paint_as_set)
            if self._rows:
                self._paint_table(q, cycle.as_set, cycle.times)
            self.sentence(q, overlap_sentence(self._context, self._model))

        self.paint_layers(p, (cycle.cylinder, self.slider_room), frame, tried)
        row = cycle.cylinder - 1
        lens.paint_cursor(p, float(self._context.session.state.now.cycle_deg[row]))

    def _paint_head(self, p: QPainter) -> None:
        cycle = self._model.cycle
        check = self._context.session.state.engine.cam.intake.check
        usual, tried = cycle.as_set.overlap_deg, cycle.times.overlap_deg
        if usual is None:
            head = "No overlap: a valve never opens"
        elif usual <= 0 and not cycle.changed:
            head = f"No overlap: {-usual:.0f}° with both valves shut"
        elif not cycle.changed:
            at = f" at {check.words}" if cycle.whole_deg is not None else ""
            head = f"Overlap{at}: {usual:.0f}°"
        elif tried is None or usual <= 0:
            head = f"Overlap: {_degrees(usual)} as set, {_degrees(tried)} as tried"
        else:
            head = f"Overlap: {_degrees(usual)} as set, {_degrees(tried)} as tried"
        second = f"Angles at {check.words}. "
        if cycle.whole_deg is not None:
            second = f"Overlap from seat to seat: {max(cycle.whole_deg, 0.0):.0f}°. "
        framed = "The lens shows what is framed on the lap."
        second += "Dashed: as set." if cycle.changed else framed
        self.head(p, head, second)

    def _cell(self, p: QPainter, row: int, column: int, words: str, strong: bool) -> None:
        """A word of the table; row 0 is its head, columns are as set, as tried, change."""
        y = self.sliders_top + self.slider_room + row * ROW
        right = self.logical_width * (0.50, 0.80, 1.0)[column]
        # Drawn without measuring: these words are new in every frame, and there is room for them.
        p.setFont(font(BODY - 1, Weight.LABEL if strong and column == 1 else Weight.BODY))
        p.setPen(self.look.theme.ink if strong else self.look.theme.ink2)
        p.drawText(QRectF(right - 190, y, 190, ROW), RIGHT, words)

    def _paint_table_frame(self, p: QPainter, usual: CylinderTimes) -> None:
        theme, width = self.look.theme, self.logical_width
        for column, words in enumerate(("as set", "as tried", "change")):
            self._cell(p, 0, column, words, strong=False)
        for row, (label, (words, _, _)) in enumerate(result_rows(usual, usual, False), start=1):
            y = self.sliders_top + self.slider_room + row * ROW
            p.setPen(flat_pen(theme.hair, 1))
            p.drawLine(QPointF(0, y), QPointF(width, y))
            draw_text(p, QRectF(0, y, 170, ROW), label, BODY - 1, theme.ink, Weight.LABEL, LEFT)
            self._cell(p, row, 0, words, strong=True)

    def _paint_table(self, p: QPainter, usual: CylinderTimes, tried: CylinderTimes) -> None:
        rows = result_rows(usual, tried, self._model.tried)
        for row, (_, (_, now, change)) in enumerate(rows, start=1):
            self._cell(p, row, 1, now, strong=True)
            self._cell(p, row, 2, change, strong=True)


def _degrees(overlap_deg: float | None) -> str:
    """An overlap in words."""
    return "none" if overlap_deg is None or overlap_deg < 0.5 else f"{overlap_deg:.0f}°"


def result_rows(
    usual: CylinderTimes, tried: CylinderTimes, changed: bool
) -> list[tuple[str, tuple[str, str, str]]]:
    """The rows of the table: label; as set, as tried, change."""
    rows: list[tuple[str, tuple[str, str, str]]] = []

    def figures(unit: str, a: float | None, b: float | None, digits: int) -> tuple[str, str]:
        if not changed:
            return NO_CHANGE, NO_CHANGE
        if b is None or a is None:
            return "never", NO_CHANGE
        shown = f"{b:.{digits}f}{unit}"
        difference = round(b - a, digits) + 0.0
        sign = "+" if difference else ""
        return shown, f"{difference:{sign}.{digits}f}{unit}".replace("-", "−")

    for opens in (True, False):
        for before, after in zip(usual.valves, tried.valves, strict=True):
            words = before.opens if opens else before.closes
            label = f"{before.name} opens" if opens else f"{before.name} closes"
            now = plain_words(after.opens if opens else after.closes) if changed else NO_CHANGE
            _, change = figures("°", before.own_deg(opens), after.own_deg(opens), 1)
            rows.append((label, (plain_words(words), now, change)))
    for what, field in (("peak lift", "peak_lift_mm"), ("lift at TDC", "lift_at_overlap_mm")):
        for before, after in zip(usual.valves, tried.valves, strict=True):
            a, b = getattr(before, field), getattr(after, field)
            now, change = figures(" mm", a, b, 2)
            rows.append((f"{before.name} {what}", (f"{a:.2f} mm", now, change)))
    a, b = usual.overlap_area_mm_deg, tried.overlap_area_mm_deg
    now, change = figures(" mm°", a, b, 1)
    rows.append(("Overlap area", (f"{a:.1f} mm°", now, change)))
    return rows


def overlap_sentence(context: WatchContext, model: CycleModel) -> str:
    """What the overlap, or the change that is tried, means."""
    cycle, what_if = model.cycle, context.session.state.shown.what_if
    shut = [valve.name for valve in cycle.times.valves if valve.own_deg(True) is None]
    if shut:
        if len(shut) == 1:
            return f"The lash takes up the whole lobe: {shut[0]} never opens."
        return f"The lash takes up the whole lobe: {' and '.join(shut)} never open."
    lash = [what_if.lash_mm(kind) for kind in Kind]
    advance = [what_if.advance_deg(kind) for kind in Kind]
    if any(lash) and not any(advance):
        if max(lash) > 0 and min(lash) >= 0:
            return "Wider lash opens later, shuts sooner; its lift falls by the same amount."
        if max(lash) <= 0:
            return "Tighter lash opens sooner and shuts later. Too tight: a hot valve stays open."
        return "The wider one opens later and lifts less; the tighter one opens sooner."
    if any(advance) and not any(lash):
        if advance[0] == advance[1]:
            by = f"{abs(advance[0]):g}°"
            if advance[0] > 0:
                return f"All four events come {by} earlier; the overlap only moves."
            return f"All four events come {by} later; the overlap only moves."
        return "Two camshafts move apart: each moves its own two events, and the overlap changes."
    if any(lash):
        return "Lash changes how long a valve is open, advance changes when."
    intake, exhaust = cycle.times.valves
    # At a checking lift it is only part of the time that both are open.
    whole = cycle.times.overlap_deg if cycle.whole_deg is None else cycle.whole_deg
    whole = whole or 0.0
    if whole <= 0:
        return f"{exhaust.name} is shut before {intake.name} opens: the valves never rock together."
    each = (f"{valve.name} {valve.lift_at_overlap_mm:.2f} mm" for valve in (intake, exhaust))
    lifts = ", ".join(each)
    return f"For {whole:.0f}° both valves are open. Lift at overlap TDC: {lifts}."
