"""Measuring and setting one item: blades or fingers, screw and locknut apart. No undo."""

from dataclasses import replace
from functools import partial
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import (
    QColor,
    QPainter,
    QPolygonF,
    QResizeEvent,
    QShowEvent,
)
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton, TabButton
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.bench.items_view import BladeButton, ItemList
from true_compass.app.workspaces.bench.model import BenchModel, told
from true_compass.bench.feel import BLADE_WORDS, PLAY_WORDS, SPIN_WORDS
from true_compass.bench.setting import Setting, Way, has_rods
from true_compass.core.adjusting.tasks import task_for
from true_compass.core.items import Item
from true_compass.core.units import MM_PER_THOU, GapUnit
from true_compass.core.valves.train import Adjuster
from true_compass.drawing.codes import flat_pen, paint_problem_mark, rounded
from true_compass.drawing.dials import crank_direction
from true_compass.drawing.gap_sketch import HEIGHT, WIDTH, GapSketch
from true_compass.drawing.text import CENTRE, RIGHT, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, READOUT, Weight

LIST: Final = 350.0
BLADES: Final = 6
ROD_STEP_MM: Final = 0.5


class SetView(Painted):
    """The list, the item in hand with its blades, the screw and the nut."""

    def __init__(self, look: Look, model: BenchModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("bench_set")
        self.setAccessibleName("Measure and set")
        self.items = ItemList(look, model, self)
        self.blades = [BladeButton(look, model, self) for _ in range(BLADES)]
        self.thinner = DrawnButton(look, "Thinner", self)
        self.thicker = DrawnButton(look, "Thicker", self)
        self.screws = [DrawnButton(look, "", self) for _ in range(6)]
        self.slacken = DrawnButton(look, "Slacken", self)
        self.hold = TabButton(look, "Hold screw", self)
        self.tighten = DrawnButton(look, "Tighten", self)
        self.torque = DrawnButton(look, "Torque", self)
        self.stripe = DrawnButton(look, "Stripe", self)
        self.feels = {
            slug: DrawnButton(look, word, self)
            for slug, word in (
                ("wiggle", "Wiggle"),
                ("lift", "Lift"),
                ("spin", "Spin the rod"),
                ("bridge", "Press the bridge"),
                ("height", "Height tool"),
                ("wait", "Wait"),
                ("zero", "Mark: no play"),
                ("pair", "Go, no-go"),
                ("swap", "Swap shims"),
                ("longer", "Longer rod"),
                ("shorter", "Shorter rod"),
            )
        }
        self.whole = DrawnButton(look, "Whole engine", self)
        self.whole.setObjectName("whole_engine")
        self.check = StrongButton(look, "Check my work", self)
        self.check.setObjectName("check_work")
        self._shift = 0
        self._turned: dict[tuple[str, int], float] = {}
        self._steps_deg = (-30, -10, -2, 2, 10, 30)
        self._connect()
        look.changed.connect(self._arrange)
        model.changed.connect(self._show_item)

    def _connect(self) -> None:
        self.items.picked.connect(self.open_item)
        for nth, blade in enumerate(self.blades):
            blade.setObjectName(f"blade_{nth}")
            blade.clicked.connect(partial(self._try, nth))
        for nth, button in enumerate(self.screws):
            button.setObjectName(f"screw_{nth}")
            button.clicked.connect(partial(self._screw, nth))
        for slug, button in self.feels.items():
            button.setObjectName(f"feel_{slug}")
            button.clicked.connect(partial(self._feel, slug))
        self.thinner.clicked.connect(partial(self._shift_by, -1))
        self.thicker.clicked.connect(partial(self._shift_by, 1))
        for button, act in (
            (self.slacken, self._slacken),
            (self.tighten, self._tighten),
            (self.torque, self._torque),
            (self.stripe, self._stripe),
        ):
            button.clicked.connect(act)

    # Work ------------------------------------------------------------------------------------

    @property
    def setting(self) -> Setting:
        """The item in hand."""
        work = self._model.begun.run.work
        return work.settings[work.place.get(self._model.item, 0)]

    def open_item(self, name: str) -> None:
        """Take an item in hand."""
        if self._model.swap_from:
            self._model.do("shim", item=self._model.swap_from, **{"with": name})
            self._model.swap_from = ""
        self._model.item, self._shift = name, 0
        self._model.say("")

    def _try(self, nth: int) -> None:
        self._model.do("feeler", item=self.setting.name, blade_mm=self.blades[nth].mm)

    def _screw(self, nth: int) -> None:
        setting = self.setting
        if setting.adjuster is Adjuster.SHIM:
            now = self._model.do("shim", item=setting.name)
            if now is not None:
                new = round(now["mm"] + (-0.20, -0.10, -0.05, 0.05, 0.10, 0.20)[nth], 2)
                self._model.do("shim", item=setting.name, mm=new)
        else:
            self._model.do("screw", item=setting.name, deg=float(self._steps_deg[nth]))

    def _feel(self, slug: str) -> None:
        name = self.setting.name
        if slug == "pair":
            low, high = self.setting.band_mm
            ends = {"go_mm": max(low, 0.02), "no_go_mm": high + 0.03}
            self._model.do("go-no-go", item=name, **ends)
        elif slug == "swap":
            self._model.swap_from = "" if self._model.swap_from else name
            self._model.say("Now press the other item." if self._model.swap_from else "")
        elif slug in ("longer", "shorter"):
            self._model.do("rod", item=name, mm=ROD_STEP_MM if slug == "longer" else -ROD_STEP_MM)
        elif slug == "zero":
            self._mark_no_play()
        elif slug == "wait":
            self._model.do("wait")
        else:
            self._model.do(slug, item=self.setting.name)

    def _shift_by(self, by: int) -> None:
        self._shift += by
        self._show_item()

    def _slacken(self) -> None:
        self._model.do("slacken", item=self.setting.name)

    def _tighten(self) -> None:
        self._model.do("tighten", item=self.setting.name, hold=self.hold.isChecked())

    def _torque(self) -> None:
        nm = self._model.begun.run.work.engine.train.torque_nm or 20.0
        self._model.do("torque", item=self.setting.name, nm=nm)

    def _stripe(self) -> None:
        self._model.do("stripe", item=self.setting.name)

    def _sizes_mm(self) -> list[float]:
        """Six blades about the target, in steps of the engine's own unit."""
        setting = self.setting
        thou = self._model.begun.run.work.engine.gap_unit is GapUnit.THOU
        step = 2 * MM_PER_THOU if thou else 0.05
        first = round(setting.target_mm / step) - 2 + 3 * self._shift
        return [round(max(first + nth, 1) * step, 4) for nth in range(BLADES)]

    def _feel_of(self, mm: float) -> str:
        """What a blade said since the item was changed last."""
        state, name = self._model.begun.run.state, self.setting.name
        place = self._model.begun.run.work.place[name]
        changed_deg = state.items[place].screw_deg
        for one in reversed(state.seen):
            if one.of == name and one.do == "slacken":
                break
            if one.of == name and one.do == "feeler":
                size, _, feel = one.said.partition(" ")
                if abs(float(size) - mm) < 1e-6 and one.crank_deg == state.crank_deg:
                    return feel if self._still(one.nth, changed_deg) else ""
        return ""

    def _still(self, nth: int, screw_deg: float) -> bool:
        """Whether the screw stands as it did at an action."""
        key = (self.setting.name, nth)
        return bool(self._turned.setdefault(key, screw_deg) == screw_deg)

    # Looks -----------------------------------------------------------------------------------

    def _show_item(self) -> None:
        if self._model.bench is None or not self.isVisible():
            return
        setting = self.setting
        blades = setting.way is Way.GAP
        for blade, mm in zip(self.blades, self._sizes_mm(), strict=True):
            blade.setVisible(blades)
            if blades:
                blade.show_blade(mm, self._feel_of(mm))
        self.thinner.setVisible(blades)
        self.thicker.setVisible(blades)
        eighths = setting.way is Way.PLUNGER
        self._steps_deg = (-90, -45, -5, 5, 45, 90) if eighths else (-30, -10, -2, 2, 10, 30)
        shims = setting.adjuster is Adjuster.SHIM
        for nth, button in enumerate(self.screws):
            words = ("−0.20", "−0.10", "−0.05", "+0.05", "+0.10", "+0.20")[nth]
            deg = self._steps_deg[nth]
            button.setText(words if shims else f"{deg:+d}°".replace("-", "−"))
            button.setEnabled(setting.can_be_set)
        nut = (setting.has_locknut or setting.way is Way.BRIDGE) and not shims
        self.slacken.setVisible(not shims)
        self.tighten.setVisible(not shims)
        self.hold.setVisible(nut)
        self.torque.setVisible(not shims)
        nm = self._model.begun.run.work.engine.train.torque_nm
        self.torque.setText(f"{nm:g} N·m" if nm else "Torque")
        rods = has_rods(self._model.begun.run.work.engine) and setting.item.is_valve
        shown = {
            "spin": rods,
            "bridge": setting.way is Way.BRIDGE,
            "height": setting.way is Way.HEIGHT,
            "wait": setting.way is Way.PLUNGER,
            "zero": setting.way is Way.PLUNGER,
            "pair": setting.way is Way.GAP,
            "swap": shims,
            "longer": rods and setting.way is Way.PLUNGER,
            "shorter": rods and setting.way is Way.PLUNGER,
        }
        for slug, button in self.feels.items():
            button.setVisible(shown.get(slug, True))
        self._arrange()

    def showEvent(self, event: QShowEvent | None) -> None:
        """Show what is in hand now."""
        super().showEvent(event)
        self._show_item()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put everything in its place."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        put, width, height = self.look.scaled, self.logical_width, self.logical_height
        if self._model.bench is None:
            return
        side = 210.0 if self.narrow else LIST
        left = side + (14 if self.narrow else 28)
        right = width - left - (8 if self.narrow else 16)
        self._left = left
        top = 40.0 if self.narrow else 62.0
        self.items.setGeometry(put(8 if self.narrow else 16, top, side - 8, height - top - 66))
        self.whole.setGeometry(put(8 if self.narrow else 16, height - 58, side * 0.46, 46))
        self.check.setGeometry(put(8 + side * 0.5, height - 58, side * 0.5, 46))
        low = height - (104 if self.narrow else 126)
        self._low = low
        each = (right - 8 * (BLADES - 1)) / BLADES
        blades = min(max(height * 0.17, 84.0), 116.0)
        self._blades_top = low - blades - (6 if self.narrow else 10)
        for nth, blade in enumerate(self.blades):
            blade.setGeometry(put(left + nth * (each + 8), self._blades_top, each, blades))
        self._name_keys()
        self._arrange_feels(left, right)
        self._arrange_screw(left, right, low)
        self.update()

    @property
    def narrow(self) -> bool:
        """Whether print is large or the window small: plates lose their headings."""
        return self.logical_width < 1000

    def _name_keys(self) -> None:
        self.check.setText("Check" if self.narrow else "Check my work")
        self.whole.setText("Engine" if self.narrow else "Whole engine")

    def _arrange_feels(self, left: float, right: float) -> None:
        """Hands and eyes above the blades, thinner and thicker blades at the right."""
        put, top = self.look.scaled, self._blades_top - (38 if self.narrow else 44)
        high = 32.0 if self.narrow else 36.0
        size = 78.0 if self.narrow else 108.0
        end = left + right
        self.thinner.setGeometry(put(end - 2 * size - 8, top, size, high))
        self.thicker.setGeometry(put(end - size, top, size, high))
        feels = [button for button in self.feels.values() if not button.isHidden()]
        feels.append(self.stripe)
        keep = 2 * size + 24 if not self.thinner.isHidden() else 0.0
        wide = min(150.0, (right - keep) / max(len(feels), 1) - 6)
        for nth, button in enumerate(feels):
            button.setGeometry(put(left + nth * (wide + 6), top, wide, high))

    def _arrange_screw(self, left: float, right: float, low: float) -> None:
        """Screw and nut side by side on plates; in large print one row below the other."""
        put, height = self.look.scaled, self.logical_height
        shown = [
            b for b in (self.slacken, self.hold, self.tighten, self.torque) if not b.isHidden()
        ]
        if self.narrow:
            for nth, button in enumerate(self.screws):
                each = (right - 5 * 6) / 6
                button.setGeometry(put(left + nth * (each + 6), low, each, 44))
            for nth, button in enumerate(shown):
                each = (right - 6 * (len(shown) - 1)) / len(shown)
                button.setGeometry(put(left + nth * (each + 6), low + 50, each, 44))
            self._screw_box = self._nut_box = QRectF()
            return
        half = (right - 12) * 0.5
        screw = (half - 28 - 5 * 6) / 6
        for nth, button in enumerate(self.screws):
            button.setGeometry(put(left + 14 + nth * (screw + 6), low + 52, screw, 50))
        nut = left + half + 12
        room = right - half - 12 - 28
        one = (room - 6 * (len(shown) - 1)) / max(len(shown), 1)
        for nth, button in enumerate(shown):
            button.setGeometry(put(nut + 14 + nth * (one + 6), low + 52, one, 50))
        self._screw_box = QRectF(left, low, half, height - low - 12)
        self._nut_box = QRectF(nut, low, right - half - 12, height - low - 12)

    def paint(self, p: QPainter) -> None:
        """Draw the heading, the item, what was felt, and the plates of screw and nut."""
        bench = self._model.bench
        if bench is None:
            return
        theme, width = self.look.theme, self.logical_width
        hydraulic = bench.run.work.engine.train.hydraulic
        title = "Set the preload" if hydraulic else "Measure and set"
        if self.narrow:
            draw_text(p, QRectF(8, 6, self._left - 16, 30), title, LABEL, theme.ink, Weight.STRONG)
        else:
            draw_text(p, QRectF(16, 6, self._left - 30, 34), title, HEAD, theme.ink, Weight.STRONG)
            hot = "hot" if bench.run.work.engine.lash_hot else "cold"
            draw_text(p, QRectF(16, 40, self._left - 30, 20), hot, NOTE, theme.ink2)
        gap = 8 if self.narrow else 16
        sheet = QRectF(self._left, 6, width - self._left - gap, self._blades_top - 56)
        rounded(p, sheet, 6, theme.sheet, flat_pen(theme.hair, 1.4))
        if self.narrow:
            self._paint_item_narrow(p, sheet)
        else:
            self._paint_item(p, sheet)
        if self.setting.way is Way.PLUNGER:
            self._paint_turns(p)
        if self.narrow:
            return
        for box, head in ((self._screw_box, self._screw_head()), (self._nut_box, self._nut_head())):
            rounded(p, box, 6, theme.sheet, flat_pen(theme.hair, 1.4))
            inner = box.adjusted(14, 8, -12, 0)
            inner.setHeight(24)
            draw_text(p, inner, head[0], LABEL, theme.ink, Weight.STRONG)
            draw_one_of(p, inner.adjusted(80, 0, 0, 0), (head[1],), BODY, theme.ink2, align=RIGHT)

    def _screw_head(self) -> tuple[str, str]:
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

    def _nut_head(self) -> tuple[str, str]:
        setting = self.setting
        item = self._model.begun.run.state.items[self._model.begun.run.work.place[setting.name]]
        if setting.adjuster is Adjuster.SHIM:
            return "Nut", "there is none"
        if not (setting.has_locknut or setting.way is Way.BRIDGE):
            return "Nut", "it holds itself"
        return "Locknut", "tight" if item.tight else "loose"

    def _paint_item_narrow(self, p: QPainter, box: QRectF) -> None:
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
        draw_one_of(p, row, (f"{self._screw_head()[1]}; {self._nut_head()[1]}",), BODY, theme.ink2)
        last = next((one for one in bench.readings if one.action.get("item") == setting.name), None)
        if last is not None and bench.is_live(last) and box.height() > 112:
            answer = QRectF(box.left() + 10, box.top() + 72, box.width() - 20, 38)
            draw_text(p, answer, told(last).answer, HEAD, theme.ink, Weight.STRONG)

    def _paint_item(self, p: QPainter, box: QRectF) -> None:
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
        one = told(last)
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
        GapSketch(self._model.begun.run.work.engine.train, self.look.theme, blade=blade).paint(p)
        p.restore()

    def _paint_turns(self, p: QPainter) -> None:
        """How far a plunger's adjuster was turned since there was no play."""
        theme, name = self.look.theme, self.setting.name
        item = self._model.begun.run.state.items[self._model.begun.run.work.place[name]]
        zero = self._model.no_play_deg.get(name)
        box = QRectF(
            self._left,
            self._blades_top,
            self.logical_width - self._left - 16,
            self._low - self._blades_top - 10,
        )
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

    def _mark_no_play(self) -> None:
        name = self.setting.name
        place = self._model.begun.run.work.place[name]
        self._model.no_play_deg[name] = self._model.begun.run.state.items[place].screw_deg
        self._model.say("")

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

    def ground(self) -> QColor:
        """The window's own ground."""
        return self.look.theme.paper


def _whole(item: Item) -> Item:
    """The item that the book names, for one of several single valves."""
    return replace(item, nth=0)
