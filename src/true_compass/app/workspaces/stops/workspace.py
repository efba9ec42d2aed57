"""Stops: which items to adjust where, by every school; where the crank stands; doing the work."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import date
from typing import Final

from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.desk import Desk
from true_compass.app.keys import NONE, Key, KeyLine
from true_compass.app.undo import UndoButton
from true_compass.app.widgets.controls import DrawnButton, TabButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.workspace import Workspace
from true_compass.app.workspaces.stops.compare_view import CompareView
from true_compass.app.workspaces.stops.model import StopsModel
from true_compass.app.workspaces.stops.sheets import SheetsView
from true_compass.app.workspaces.stops.side import NextItem, SchoolList
from true_compass.app.workspaces.stops.where_view import KNOWN_DEG, WhereView
from true_compass.book.brackets import Bracket
from true_compass.book.job import Job, Measure
from true_compass.core.adjusting.advice import gap_advice
from true_compass.core.adjusting.setting import settings_of
from true_compass.core.adjusting.stops import Stop
from true_compass.core.adjusting.tasks import task_for
from true_compass.core.angles import degrees_on
from true_compass.core.changes import can_be_longer
from true_compass.core.evidence.rim import rim_words
from true_compass.core.items import Item
from true_compass.core.limits import EngineError
from true_compass.core.state import AS_SET
from true_compass.core.units import ImplausibleGapError, parse_gap_mm
from true_compass.core.words import at_degrees
from true_compass.drawing.documents import Document
from true_compass.drawing.shop_card import shop_card
from true_compass.files.engine_values import origin_words
from true_compass.session.book import landed
from true_compass.session.work import LEFT, SKIPPED

SIDE: Final = 330.0
TABS: Final = ("Plan", "Do it", "Compare", "Where am I?")
PLAN, DO, COMPARE, WHERE = TABS
TAB_WIDE: Final = (76.0, 76.0, 100.0, 124.0)
TAB_HEIGHT: Final = 34.0
AT_STOP_DEG: Final = 0.5
OVERSHOT_DEG: Final = 45.0
ASKED: Final = {
    "two-stop": "Begin at another TDC mark",
    "loose": "Begin at another TDC mark",
    "fewest": "More or less margin",
    "most-margin": "More or fewer stops",
}
"""Schools of which something can be asked with − and +."""


def overshot_deg(away_deg: float) -> float:
    """How far past a stop the crank stands that is `away_deg` on, or 0 if it comes up to it."""
    past = 720.0 - away_deg
    return past if AT_STOP_DEG <= past <= OVERSHOT_DEG else 0.0


class StopsWorkspace(Workspace):
    """Four pages under one row of tabs."""

    pages = TABS

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        session, bridge, look = desk.session, desk.bridge, desk.look
        self.setObjectName("stops")
        self.setAccessibleName("Stops")
        self._session = session
        self._turner = desk.turner
        self.model = StopsModel(session, self)
        self.model.doubted.connect(desk.say)
        self.model.land = self._land
        self._page = PLAN
        self.tabs = [TabButton(look, words, self) for words in TABS]
        for button in self.tabs:
            button.clicked.connect(self._on_tab)
        self.schools = SchoolList(self.model, bridge, look, self, self._today)
        self.next_item = NextItem(self.model, bridge, look, self)
        self.sheets = SheetsView(self.model, bridge, look, self)
        self.compare = CompareView(self.model, bridge, look, self)
        self.where = WhereView(session, bridge, look, self)
        self.set_button = self._button("Set", self._set)
        self.leave_button = self._button("In band", self._leave)
        self.skip_button = self._button("Skip", self._skip)
        self.back_button = UndoButton(desk, self)
        self.turn_button = self._button("", self._turn_on)
        self.again_button = self._button("Start again", self._again)
        self.do_button = self._button("Set the items", self._do)
        self.check_button = TabButton(look, "Check only", self)
        self.check_button.setToolTip("One round that measures and changes nothing")
        self.check_button.clicked.connect(self._check_only)
        self.here_button = self._button("From here", self.model.start_from_here)
        self.here_button.setToolTip("Begin at the stop that the crank comes to next")
        self.card_button = self._button("Shop card…", self._want_card)
        self.fewer = self._button("−", self._fewer)
        self.more = self._button("+", self._more)
        self.use_button = self._button("Use this plan", self._use)
        self.clear_button = self._button("Clear", self.where.clear)
        self.there_button = self._button("", self._put_there)
        self.there_button.setToolTip("Puts the crank on the screen where the engine's stands")
        self.where.changed.connect(self._show_there)
        self.measured = QLineEdit(self)
        self.measured.setObjectName("measured")
        self.measured.setAccessibleName("Measured gap in mm or thou")
        self.measured.textEdited.connect(self._on_measured)
        self.measured.returnPressed.connect(self._measured_twice)
        self.compare.changed.connect(self._show_use)
        self.model.changed.connect(self._show)
        self.model.changed.connect(self._forget_measured)
        bridge.turned.connect(self._show_turn)
        look.changed.connect(self.arrange)
        self._show()

    def _button(self, words: str, act: Callable[[], object]) -> DrawnButton:
        button = DrawnButton(self.look, words, self)
        button.clicked.connect(act)
        return button

    def _land(self, item: Item, how: str, measured: Measure | None, school: str) -> Job:
        """The job of today with what was seen to: it grows as the work is done."""
        job = self.desk.book().job_now("stops", school)
        own = [one.item for one in settings_of(self.model.rig.engine)]
        if item in own:
            return landed(job, item, how, measured)
        # A gap typed for all valves of a kind is not known of either.
        for single in (one for one in own if replace(one, nth=0) == item):
            job = landed(job, single, how, None)
        return job

    def _forget_measured(self) -> None:
        self.measured.clear()
        self.model.measured = None
        self.next_item.measured = ""

    def focus_first(self) -> QWidget:
        """The main view of the page."""
        pages = (self.sheets, self.sheets, self.compare, self.where)
        return dict(zip(TABS, pages, strict=True))[self.page]

    def keys(self) -> Sequence[KeyLine]:
        """Keys of its lists."""
        arrows = tuple((key, NONE) for key in (Key.Key_Up, Key.Key_Down, Key.Key_Home, Key.Key_End))
        done = ((Key.Key_Return, NONE), (Key.Key_Enter, NONE))
        return (
            KeyLine("Up, Down", "another method or another stop", in_view=arrows),
            KeyLine("Return", "set the item that is due", in_view=done),
        )

    def _today(self) -> date:
        return self.desk.files.now().date()

    def document(self) -> Document | None:
        """The shop card of the plan."""
        plan, state = self.model.usable, self._session.state
        if plan is None:
            return None
        origin = origin_words(state.engine, self._today())
        name = f"{state.source.rig or 'engine'}-{plan.school}"
        return shop_card(state.rig, plan, name, origin)

    # Pages ---------------------------------------------------------------------------------

    def _on_tab(self) -> None:
        for words, button in zip(TABS, self.tabs, strict=True):
            if button is self.sender():
                self.show_page(words)

    @property
    def page(self) -> str:
        """The page that is shown."""
        return self._page

    def show_page(self, page: str) -> None:
        """Show one of the pages."""
        if page not in TABS:
            return
        self._page = page
        self.arrange()
        # What hides passes the keyboard on as if by Tab; it is not shown that way.
        first = self.focus_first()
        first.clearFocus()
        first.setFocus()

    def _do(self) -> None:
        self.show_page(DO)

    def _again(self) -> None:
        if self.model.finished and self.model.to_set:
            self.model.set_those()
        else:
            self.model.begin_again()

    def _check_only(self) -> None:
        self.model.check_only(self.check_button.isChecked())

    def _use(self) -> None:
        if self.compare.tried_engine is not None:
            self._session.edit(self.compare.tried_engine, "cam")
        self.show_page(PLAN)

    def _want_card(self) -> None:
        card = self.document()
        if card is not None:
            self.desk.documents.show(card)

    # The work ------------------------------------------------------------------------------

    def _set(self) -> None:
        self.model.see_to_next()

    def _leave(self) -> None:
        self.model.see_to_next(LEFT)

    def _skip(self) -> None:
        self.model.see_to_next(SKIPPED)

    def _fewer(self) -> None:
        self._ask(-1)

    def _more(self) -> None:
        self._ask(1)

    def _ask(self, by: int) -> None:
        """One stop more or fewer, or 5° more or less, for the solved plans."""
        choice = self.model.choice
        if self.model.word in ("two-stop", "loose"):
            offsets = sorted(
                {round(d % 360.0, 6) for d in self.model.rig.true_offsets_deg.tolist()}
            )
            here = min(range(len(offsets)), key=lambda i: abs(offsets[i] - choice.start_deg))
            start = offsets[(here + by) % len(offsets)]
            self.model.ask(replace(choice, start_deg=start))
        elif self.model.word == "fewest":
            margin = 30.0 if choice.margin_deg is None else choice.margin_deg
            self.model.ask(replace(choice, margin_deg=max(margin + 5.0 * by, 0.0)))
        else:
            count = 3 if choice.stops is None else choice.stops
            self.model.ask(replace(choice, stops=max(count + by, 1)))

    def _turn_on(self) -> None:
        stop, plan = self.model.stop, self.model.usable
        if stop is None or plan is None:
            return
        here = self._session.state.crank_deg
        if plan.swept:
            self.model.go_to(self.model.place + 1)
            self._turner.turn_by(90.0)
            return
        away = degrees_on(stop.crank_deg, here)
        at_stop = min(away, 720.0 - away) < AT_STOP_DEG
        after = self.model.next_place
        if at_stop and self.model.next_item is None and after is not None:
            self.model.go_to(after)
            stop = self.model.stops[after]
        if overshot_deg(away):
            self._turner.come_up_to(stop.crank_deg)
        else:
            self._turner.jump_to(stop.crank_deg)

    def _on_measured(self) -> None:
        self._show_measured(sure=False)

    def _measured_twice(self) -> None:
        """Return takes a gap that was asked back for what it is."""
        self._show_measured(sure=True)

    def _show_measured(self, sure: bool) -> None:
        due, text = self.model.next_item, self.measured.text()
        self.next_item.measured, self.model.measured = "", None
        if due is not None and text.strip():
            self.next_item.measured = self._measured_words(due.item, text, sure)
        self.next_item.update()

    def _measured_words(self, item: Item, text: str, sure: bool) -> str:
        """What a measured gap asks for, or the question back."""
        engine = self._session.state.engine
        task = task_for(engine, item)
        if task.target_mm is None:
            return task.measured
        try:
            gap_mm = parse_gap_mm(text, engine.gap_unit, task.target_mm)
        except ImplausibleGapError as error:
            if not sure:
                return f"The measured gap {error}. Return takes it as it is."
            gap_mm = error.gap_mm
        except EngineError as error:
            return f"The measured gap {error}."
        self.model.measured = Measure(Bracket.of(gap_mm), None, text.strip(), engine.gap_unit)
        return gap_advice(self.model.rig, item, self._session.state.crank_deg, gap_mm)

    def came_to_front(self) -> None:
        """Work out what changed while nobody looked."""
        self._show()

    def _show(self) -> None:
        # All schools take some milliseconds; a lash dragged in Watch must not wait for them.
        if not self.isVisible():
            return
        self._show_turn()
        self.arrange()

    def _show_turn(self) -> None:
        if not self.isVisible():
            return
        stop, plan = self.model.stop, self.model.usable
        if stop is None or plan is None:
            self.turn_button.hide()
            return
        if plan.swept:
            self._show_sweep_turn(stop)
            return
        here = self._session.state.crank_deg
        away = degrees_on(stop.crank_deg, here)
        if overshot_deg(away):
            past = f"{overshot_deg(away):.3g}° past {at_degrees(stop.crank_deg)}"
            words = f"{past}: go back well past, come up again"
        elif min(away, 720.0 - away) >= AT_STOP_DEG:
            words = self._turn_words(away, stop.crank_deg)
        elif self.model.next_item is None and self.model.next_place is not None:
            after = self.model.stops[self.model.next_place]
            words = self._turn_words(degrees_on(after.crank_deg, stop.crank_deg), after.crank_deg)
        else:
            words = ""
        self.turn_button.setText(words or "The crank stands at this stop")
        self.turn_button.setEnabled(bool(words))

    def _show_sweep_turn(self, stop: Stop) -> None:
        """A sweep counts quarters from wherever it was begun."""
        last = self.model.place >= len(self.model.stops) - 1
        done = self.model.next_item is None and self.model.place + 1 in self.model.done
        words = f"Turn a quarter on: {rim_words(self.model.rig, 90.0) or '90°'}" if done else ""
        first = "Begin anywhere" if self.model.place == 0 else "Take up what is loose, then tick"
        self.turn_button.setText("The preload on all" if last else words or first)
        self.turn_button.setEnabled(bool(words) and not last)

    def _turn_words(self, by_deg: float, to_deg: float) -> str:
        rim = rim_words(self.model.rig, by_deg)
        words = f"Turn {by_deg:.4g}° on to {at_degrees(to_deg)}"
        return f"{words}: {rim}" if rim else words

    def go_back(self) -> bool:
        """Put back the duration or the lash that is tried; whether there was one."""
        if self.compare.tried is not None:
            self.compare.go_back()
            return True
        if self._session.state.shown.what_if != AS_SET:
            self._session.try_out(AS_SET)
            return True
        return False

    def _show_there(self) -> None:
        place = self.where.only_place_deg()
        self.there_button.setEnabled(place is not None)
        words = f"Narrow it to {KNOWN_DEG:g}° or less first"
        if place is not None:
            words = f"Put the crank at {place[0]:g}° ± {place[1]:.0f}°: begin from there"
        self.there_button.setText(words)

    def _put_there(self) -> None:
        """The engine's place is known: the plan begins at the stop that comes next."""
        place = self.where.only_place_deg()
        if place is not None:
            self._turner.jump_to(place[0])
            self._turner.finish()
            self.model.start_from_here()
            self.show_page(PLAN)

    def _show_use(self) -> None:
        tried = self.compare.tried_engine is not None
        self.use_button.setText("Keep this cam, use it" if tried else "Use this plan")

    def _put(self, view: QWidget, x: float, y: float, width: float, height: float) -> None:
        view.setGeometry(self.look.scaled(x, y, max(width, 1), max(height, 1)))
        view.setVisible(True)
        self._placed.add(view)

    def arrange(self) -> None:
        """Put everything in its place."""
        self._placed: set[QWidget] = set()
        width, height = self.logical_width, self.logical_height
        for place, button in enumerate(self.tabs):
            button.setChecked(button.text() == self.page)
            button.repaint_all()
            x = 20 + sum(TAB_WIDE[:place]) + 6 * place
            self._put(button, x, 10, TAB_WIDE[place], TAB_HEIGHT)
        if self.page == PLAN:
            self._arrange_plan(width, height)
        elif self.page == DO:
            self._arrange_work(width, height)
        elif self.page == COMPARE:
            self._put(self.compare, 20, 52, width - 36, height - 58)
            if can_be_longer(self._session.state.engine):
                self.compare.slider.setGeometry(self.look.scaled(0, 0, 480, 46))
                self.compare.slider.show()
            else:
                self.compare.slider.hide()
            self._show_use()
            self._put(self.use_button, width - 236, 10, 220, TAB_HEIGHT)
        else:
            self._put(self.where, 20, 56, width - 36, height - 64)
            self._put(self.clear_button, width - 116, 10, 100, TAB_HEIGHT)
            begins = 20 + sum(TAB_WIDE) + 6 * len(TAB_WIDE) + 6
            self._put(self.there_button, begins, 10, width - begins - 122, TAB_HEIGHT)
            self._show_there()
        for view in self.findChildren(QWidget):
            if view.parentWidget() is self and view not in self._placed:
                view.hide()
        self.update()

    def _arrange_plan(self, width: float, height: float) -> None:
        side = min(SIDE, width * 0.4)
        foot = height - 50
        self._put(self.schools, 20, 54, side - 10, foot - 54 - 8)
        if self.model.word in ASKED:
            self.more.setToolTip(ASKED[self.model.word])
            for place, button in enumerate((self.fewer, self.more)):
                self._put(button, 20 + side - 88 + 40 * place, 54, 36, 34)
                button.raise_()
        half = (side - 16) / 2
        self._put(self.do_button, 20, foot, half, 40)
        self._put(self.here_button, 26 + half, foot, half, 40)
        for button in (self.do_button, self.here_button):
            button.setEnabled(self.model.usable is not None)
        self._arrange_sheets(side + 30, width, height)

    def _arrange_work(self, width: float, height: float) -> None:
        """What is due next, large, with its buttons; one sheet beside it."""
        side = max(min(width * 0.42, 540.0), 300.0)
        buttons, usable = height - 54, self.model.usable is not None
        self._put(self.next_item, 20, 58, side - 14, buttons - 58 - 54)
        self._put(self.measured, 20, buttons - 46, 130, 38)
        self.measured.setPlaceholderText(f"measured, {self._session.state.engine.gap_unit.value}")
        self.measured.setStyleSheet(field_style(self.look.theme, self.look.scale, wrong=False))
        rest = (side - 14 - 130 - 12) / 2
        self.check_button.setChecked(self.model.checking)
        self.check_button.repaint_all()
        self._put(self.check_button, 156, buttons - 46, rest, 38)
        again = "Set those" if self.model.finished and self.model.to_set else "Start again"
        self.again_button.setText(again)
        self._put(self.again_button, 162 + rest, buttons - 46, rest, 38)
        quarter = self.model.stop is not None and bool(self.model.stop.loose_now)
        self.set_button.setText(
            "Taken up" if quarter else "Out of band" if self.model.checking else "Set"
        )
        each, x = (side - 14 - 18) / 4, 20.0
        for button in (self.set_button, self.leave_button, self.skip_button, self.back_button):
            self._put(button, x, buttons, each, 46)
            if button is not self.back_button:
                button.setEnabled(usable)
            x += each + 6
        for button in (self.leave_button, self.skip_button):
            button.setEnabled(usable and not quarter)
        self.measured.setEnabled(not quarter)
        self._arrange_sheets(side + 24, width, height)

    def _arrange_sheets(self, left: float, width: float, height: float) -> None:
        self.sheets.only_one = self.page == DO
        self._put(self.card_button, width - 146, 10, 130, TAB_HEIGHT)
        self.card_button.setEnabled(self.model.usable is not None)
        self._put(self.sheets, left, 54, width - left - 16, height - 62)
        if self.model.usable is not None:
            begins = max(left, 20 + sum(TAB_WIDE) + 6 * len(TAB_WIDE) + 6)
            self._put(self.turn_button, begins, 10, width - begins - 160, TAB_HEIGHT)
