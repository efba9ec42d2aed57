"""Measuring and setting one item: blades or fingers, screw and locknut apart. No undo."""

from functools import partial
from typing import Final

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import (
    QColor,
    QPainter,
    QResizeEvent,
    QShowEvent,
)
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton, TabButton
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.bench.item_sheet import ItemSheet
from true_compass.app.workspaces.bench.items_view import BladeButton, ItemList
from true_compass.app.workspaces.bench.model import BenchModel
from true_compass.bench.hands.valves import USUAL_NM
from true_compass.bench.state import Blade
from true_compass.core.adjusting.setting import Setting, Way, has_rods
from true_compass.core.units import MM_PER_THOU, GapUnit, torque_words
from true_compass.core.valves.train import Adjuster
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.text import RIGHT, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Weight

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
        self.sheet = ItemSheet(look, model)
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
        return self._model.setting

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
        nm = self.setting.tools.torque_nm or USUAL_NM
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
                blade: Blade = one.fact
                if abs(blade.mm - mm) < 1e-6 and one.crank_deg == state.crank_deg:
                    return blade.feel if self._still(one.nth, changed_deg) else ""
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
        nut = setting.has_locknut and not shims
        self.slacken.setVisible(not shims)
        self.tighten.setVisible(not shims)
        self.hold.setVisible(nut)
        self.torque.setVisible(not shims)
        nm = setting.tools.torque_nm
        self.torque.setText(f"{nm:g} N·m" if nm else "Torque")
        self.torque.setAccessibleName(f"Torque wrench: {torque_words(nm)}" if nm else "Torque")
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
            scenario = bench.run.work.scenario
            asked = (f"{scenario.task.title(scenario.cylinder)}, {hot}", hot)
            draw_one_of(p, QRectF(16, 40, self._left - 30, 20), asked, NOTE, theme.ink2)
        gap = 8 if self.narrow else 16
        sheet = QRectF(self._left, 6, width - self._left - gap, self._blades_top - 56)
        rounded(p, sheet, 6, theme.sheet, flat_pen(theme.hair, 1.4))
        if self.narrow:
            self.sheet.paint_narrow(p, sheet)
        else:
            self.sheet.paint(p, sheet)
        if self.setting.way is Way.PLUNGER:
            wide = width - self._left - gap
            turns = QRectF(self._left, self._blades_top, wide, self._low - self._blades_top - 10)
            self.sheet.paint_turns(p, turns)
        if self.narrow:
            return
        for box, head in (
            (self._screw_box, self.sheet.screw_head()),
            (self._nut_box, self.sheet.nut_head()),
        ):
            rounded(p, box, 6, theme.sheet, flat_pen(theme.hair, 1.4))
            inner = box.adjusted(14, 8, -12, 0)
            inner.setHeight(24)
            draw_text(p, inner, head[0], LABEL, theme.ink, Weight.STRONG)
            draw_one_of(p, inner.adjusted(80, 0, 0, 0), (head[1],), BODY, theme.ink2, align=RIGHT)

    def _mark_no_play(self) -> None:
        name = self.setting.name
        place = self._model.begun.run.work.place[name]
        self._model.no_play_deg[name] = self._model.begun.run.state.items[place].screw_deg
        self._model.say("")

    def ground(self) -> QColor:
        """The window's own ground."""
        return self.look.theme.paper
