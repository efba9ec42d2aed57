"""The sheet of one item at the bench: what it is, what was felt, where the blade goes, its nut."""

from dataclasses import replace

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from true_compass.app.widgets.look import Look
from true_compass.app.workspaces.bench.model import BenchModel
from true_compass.app.workspaces.bench.told import told
from true_compass.bench.feel import BLADE_WORDS, PLAY_WORDS, SPIN_WORDS
from true_compass.bench.gaps import open_shares
from true_compass.core.adjusting.setting import Setting, Way
from true_compass.core.adjusting.tasks import task_for
from true_compass.core.items import Item
from true_compass.core.units import torque_words
from true_compass.core.valves.train import Adjuster
from true_compass.drawing.codes import flat_pen, paint_problem_mark, rounded
from true_compass.drawing.dials import crank_direction
from true_compass.drawing.gap_sketch import HEIGHT, WIDTH, GapSketch
from true_compass.drawing.text import CENTRE, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, READOUT, Weight


class ItemSheet:
    """Paints the item in hand; it owns no fact."""

    def __init__(self, look: Look, model: BenchModel) -> None:
        self.look = look
        self._model = model

    @property
    def setting(self) -> Setting:
        """The item in hand."""
        return self._model.setting

    def screw_head(self) -> tuple[str, str]:
        """What the plate of the screw says."""
        setting = self.setting
        item = self._model.begun.run.state.items[self._model.begun.run.work.place[setting.name]]
        if setting.adjuster is Adjuster.SHIM:
            return "Shim", "thinner is wider"
        if not setting.can_be_set:
            return "Screw", setting.adjuster.words
        turned = f"{abs(item.screw_deg):.0f}°"
        way = "tighter" if item.screw_deg > 0 else "looser"
        words = "as found" if item.screw_deg == 0 else f"{turned} {way} since as found"
        return "Screw", words

    def nut_head(self) -> tuple[str, str]:
        """What the plate of the nut says."""
        setting = self.setting
        item = self._model.begun.run.state.items[self._model.begun.run.work.place[setting.name]]
        if setting.adjuster is Adjuster.SHIM:
            return "Nut", "there is none"
        if not setting.has_locknut:
            return "Nut", "it holds itself"
        stands, nm = "tight" if item.tight else "loose", setting.tools.torque_nm
        return "Locknut", f"{stands}; wrench {torque_words(nm)}" if nm else stands

    def paint_narrow(self, p: QPainter, box: QRectF) -> None:
        """The item and what was felt, in two lines."""
        theme, setting, bench = self.look.theme, self.setting, self._model.begun
        code = QRectF(box.left() + 10, box.top() + 8, 110, 34)
        rounded(p, code, 12 if setting.item.rounded else 2, theme.sheet, flat_pen(theme.ink, 2.4))
        name = code.adjusted(4, 0, -4, 0)
        draw_text(p, name, setting.name, HEAD - 6, theme.ink, Weight.STRONG, CENTRE)
        task = task_for(bench.run.work.engine, _whole(setting.item))
        right = QRectF(box.left() + 132, box.top() + 8, box.width() - 142, 34)
        draw_one_of(p, right, (task.target_words, task.short), LABEL, theme.ink, Weight.LABEL)
        row = QRectF(box.left() + 10, box.top() + 48, box.width() - 20, 24)
        if self._model.refused:
            draw_one_of(p, row, (self._model.refused,), LABEL, theme.ink, Weight.LABEL)
            return
        draw_one_of(p, row, (f"{self.screw_head()[1]}; {self.nut_head()[1]}",), BODY, theme.ink2)
        last = next((one for one in bench.readings if one.action.get("item") == setting.name), None)
        if last is not None and bench.is_live(last) and box.height() > 112:
            answer = QRectF(box.left() + 10, box.top() + 72, box.width() - 20, 38)
            felt = told(last, bench.run.work.engine.gap_unit).answer
            draw_text(p, answer, felt, HEAD, theme.ink, Weight.STRONG)

    def paint(self, p: QPainter, box: QRectF) -> None:
        """The item, its place and gap; what was felt; screw and nut; where the blade goes."""
        theme, setting, bench = self.look.theme, self.setting, self._model.begun
        code = QRectF(box.left() + 16, box.top() + 14, 130, 44)
        rounded(p, code, 14 if setting.item.rounded else 2, theme.sheet, flat_pen(theme.ink, 2.4))
        inner = code.adjusted(6, 0, -6, 0)
        draw_text(p, inner, setting.name, HEAD, theme.ink, Weight.STRONG, CENTRE)
        task = task_for(bench.run.work.engine, _whole(setting.item))
        words = QRectF(box.left() + 164, box.top() + 12, box.width() - 330, 24)
        draw_text(p, words, task.full_name, LABEL, theme.ink, Weight.LABEL)
        draw_text(p, words.translated(0, 24), task.place, BODY, theme.ink2)
        target = QRectF(box.left() + 164, box.top() + 60, box.width() - 330, 24)
        draw_one_of(p, target, (task.target_words, task.short), BODY, theme.ink, Weight.LABEL)
        if setting.per_turn_mm:
            self._paint_nut(p, QPointF(box.right() - 70, box.top() + 64))
        last = next((one for one in bench.readings if one.action.get("item") == setting.name), None)
        row = QRectF(box.left() + 16, box.top() + 100, box.width() - 190, 26)
        if self._model.refused:
            mark = QRectF(row.left(), row.top() + 2, 20, 20)
            paint_problem_mark(p, mark, theme.ink, theme.on_ink)
            words = row.adjusted(28, 0, 0, 0)
            draw_one_of(p, words, (self._model.refused,), LABEL, theme.ink, Weight.LABEL)
        self._paint_sketch(p, box)
        if last is None or not bench.is_live(last):
            return
        one = told(last, bench.run.work.engine.gap_unit)
        at = QRectF(box.left() + 16, box.top() + 130, box.width() - 190, 24)
        draw_text(p, at, one.of, BODY, theme.ink2)
        answer = at.translated(0, 24)
        answer.setHeight(40)
        draw_text(p, answer, one.answer, READOUT, theme.ink, Weight.STRONG)
        row = QRectF(box.left() + 16, answer.bottom() + 6, min(box.width() - 32, 430.0), 32)
        self._paint_words(p, row, one.answer)

    def _paint_sketch(self, p: QPainter, box: QRectF) -> None:
        """Where the blade goes, at the foot of the sheet."""
        room = box.height() - 160
        if room < 90 or box.width() < 760 or self.setting.way not in (Way.GAP, Way.PLUNGER):
            return
        blade = any(
            one.action.get("item") == self.setting.name
            and one.action["do"] == "feeler"
            and self._model.begun.is_live(one)
            for one in self._model.begun.readings[:1]
        )
        factor = min(room / HEIGHT, 1.0)
        p.save()
        p.translate(box.right() - WIDTH * factor - 14, box.bottom() - HEIGHT * factor - 1)
        p.scale(factor, factor)
        run = self._model.begun.run
        lift = open_shares(run.work, run.state)[run.work.place[self.setting.name]]
        GapSketch(run.work.engine.train, self.look.theme, blade=blade, lift=lift).paint(p)
        p.restore()

    def paint_turns(self, p: QPainter, box: QRectF) -> None:
        """How far a plunger's adjuster was turned since there was no play."""
        theme, name = self.look.theme, self.setting.name
        item = self._model.begun.run.state.items[self._model.begun.run.work.place[name]]
        zero = self._model.no_play_deg.get(name)
        rounded(p, box, 6, theme.sheet, flat_pen(theme.hair, 1.4))
        words = "Turned since no play" if zero is not None else "Turned since as found"
        turned = item.screw_deg - (zero or 0.0)
        draw_text(p, QRectF(box.left() + 14, box.top() + 6, 240, 24), words, BODY, theme.ink2)
        shown = f"{turned:+.0f}°".replace("-", "−")
        at = QRectF(box.left() + 14, box.top() + 32, 160, 40)
        draw_text(p, at, shown, READOUT, theme.ink, Weight.STRONG)
        left, wide = box.left() + 270, box.width() - 310
        y = box.center().y() + 6
        p.setPen(flat_pen(theme.ink, 2.0))
        p.drawLine(QPointF(left, y), QPointF(left + wide, y))
        for nth, label in enumerate(("0", "1/4", "1/2", "3/4", "1 turn")):
            x = left + wide * nth / 4
            p.drawLine(QPointF(x, y - 8), QPointF(x, y + 8))
            draw_text(p, QRectF(x - 40, y + 10, 80, 20), label, NOTE, theme.ink2, align=CENTRE)
        x = left + wide * min(max(turned / 360.0, 0.0), 1.0)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.now)
        p.drawPolygon(
            QPolygonF([QPointF(x - 9, y - 24), QPointF(x + 9, y - 24), QPointF(x, y - 8)])
        )

    def _paint_words(self, p: QPainter, row: QRectF, said: str) -> None:
        """The words of a scale, the one that was felt filled."""
        theme = self.look.theme
        scale = next((s for s in (BLADE_WORDS, PLAY_WORDS, SPIN_WORDS) if said.lower() in s), ())
        x = row.left()
        for word in scale:
            box = QRectF(x, row.top(), row.width() / len(scale) - 6, row.height())
            felt = word == said.lower()
            rounded(p, box, 4, theme.now if felt else theme.sheet, flat_pen(theme.line, 1.4))
            colour = theme.on_now if felt else theme.ink2
            draw_text(p, box.adjusted(3, 0, -3, 0), word, BODY, colour, Weight.LABEL, CENTRE)
            x += box.width() + 6

    def _paint_nut(self, p: QPainter, at: QPointF) -> None:
        """Screw and nut from above: the slot has gone round as the screw was turned."""
        theme = self.look.theme
        item = self._model.begun.run.state.items[
            self._model.begun.run.work.place[self.setting.name]
        ]
        turn = 0.0 if item.tight else 20.0
        corners = [at + crank_direction(60.0 * nth + turn, 1) * 46 for nth in range(6)]
        p.setPen(flat_pen(theme.ink2, 1.8))
        p.setBrush(theme.metal)
        p.drawPolygon(QPolygonF(corners))
        p.setBrush(theme.sheet)
        p.drawEllipse(at, 26, 26)
        slot = crank_direction(item.screw_deg, 1) * 20
        p.setPen(flat_pen(theme.now, 6))
        p.drawLine(at - slot, at + slot)


def _whole(item: Item) -> Item:
    """The item that the book names, for one of several single valves."""
    return replace(item, nth=0)
