"""Stops: which items to adjust where, by every school; where the crank stands; doing the work."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import date
from typing import Final

from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.desk import Desk
from true_compass.app.keys import NONE, Key, KeyLine
from true_compass.app.undo import UndoButton
from true_compass.app.widgets.controls import DrawnButton, StrongButton, TabButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.workspace import Workspace
from true_compass.app.workspaces.stops.compare_view import CompareView
from true_compass.app.workspaces.stops.doing import Act, Doing, Typed
from true_compass.app.workspaces.stops.model import StopsModel
from true_compass.app.workspaces.stops.round_view import RoundView
from true_compass.app.workspaces.stops.sheets import SheetsView
from true_compass.app.workspaces.stops.side import NextItem, SchoolList
from true_compass.app.workspaces.stops.where_view import KNOWN_DEG, WhereView
from true_compass.book.entering import READINGS
from true_compass.book.job import Job
from true_compass.core.angles import degrees_on
from true_compass.core.changes import can_be_longer
from true_compass.core.evidence.rim import rim_words
from true_compass.core.state import AS_SET
from true_compass.core.words import at_degrees
from true_compass.drawing.documents import Document
from true_compass.drawing.shop_card import shop_card
from true_compass.files.engine_values import origin_words
from true_compass.session.work import LEFT, OFF, SET, SKIPPED

SIDE: Final = 330.0
TABS: Final = ("Plan", "Do it", "Compare", "Where am I?")
PLAN, DO, COMPARE, WHERE = TABS
TAB_WIDE: Final = (76.0, 76.0, 100.0, 124.0)
TAB_HEIGHT: Final = 34.0
AT_STOP_DEG: Final = 0.5
OVERSHOT_DEG: Final = 45.0
SHARES: Final = (0.22, 0.30, 0.20, 0.28)
"""How the buttons below the lines share their row."""
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
        self.model.job_now = self._job_now
        self.model.today = self._today
        self.doing = Doing(self.model)
        self._page = PLAN
        self._lent = False
        """Whether the dark button has the keyboard only until the field can be typed in again."""
        self._asked_back = ("", "")
        """The item and the text that were asked back: given again, it is taken."""
        self.tabs = [TabButton(look, words, self) for words in TABS]
        for button in self.tabs:
            button.clicked.connect(self._on_tab)
        self.schools = SchoolList(self.model, bridge, look, self, self._today)
        self.next_item = NextItem(self.model, self.doing, bridge, look, self)
        self.round_view = RoundView(self.doing, look, self)
        self.round_view.ticked.connect(self._tick_nut)
        self.sheets = SheetsView(self.model, bridge, look, self)
        self.compare = CompareView(self.model, bridge, look, self)
        self.where = WhereView(session, bridge, look, self)
        self.set_button = self._button("Set", self._set)
        self.leave_button = self._button("In band", self._leave)
        self.skip_button = self._button("Skip", self._skip)
        self.back_button = UndoButton(desk, self)
        self.turn_button = self._button("", self._turn_on)
        self.next_button = StrongButton(look, "", self)
        self.next_button.setObjectName("next_step")
        self.next_button.clicked.connect(self._next)
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
        self.measured.returnPressed.connect(self._next)
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

    def _job_now(self, school: str) -> Job:
        """The job of today: it grows as the work is done."""
        return self.desk.book().job_now("stops", school)

    def _forget_measured(self) -> None:
        self.measured.clear()
        self.next_item.typed = Typed()

    def focus_first(self) -> QWidget:
        """The main view of the page."""
        work = self.sheets if self.sheets.isVisibleTo(self) else self.next_button
        pages = (self.sheets, work, self.compare, self.where)
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
        """Go on to the work; from an unsafe plan to one that can be followed."""
        if self.model.usable is None:
            self.model.use_instead()
        else:
            self.show_page(DO)

    def _again(self) -> None:
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
        self._note(OFF if self.model.checking else SET)

    def _leave(self) -> None:
        setting = self.doing.setting
        if self.measured.text().strip() and not self._take():
            return
        if setting is None or setting != self.doing.setting:
            return  # the reading itself has settled it
        why = self.doing.why_not_left(setting)
        if why:
            self.desk.say(why)
        else:
            self._note(LEFT)

    def _note(self, how: str) -> None:
        """Note what is due, with the reading that stands in the field."""
        setting = self.doing.setting
        if setting is None:
            self.model.see_to_next(how)
            return
        if self.measured.text().strip() and not self._take():
            return
        if setting == self.doing.setting:
            self.model.tick(setting.item, how)

    def _next(self) -> None:
        """Do what the dark button says; Return in the field does the same."""
        after = self.doing.next(self.measured.text(), self._turn_words_now())
        if after.act is Act.TAKE:
            self._take()
        elif after.act is Act.SET:
            self._set()
        elif after.act is Act.LEAVE:
            self._leave()
        elif after.act is Act.TURN:
            self._turn_on()
        elif after.act is Act.USE:
            self.model.use_instead()
        elif after.act is Act.SET_THOSE:
            self.model.set_those()
        elif after.act is Act.NUT:
            nut = self.doing.next_nut
            if nut is not None:
                self._tick_nut(nut.name, torqued=True, stripe=True)

    def _take(self) -> bool:
        """Take the reading that was typed into the job of today; whether it was taken.

        One that can hardly be meant, or was read off the base circle, is asked back: the second
        time it is taken.
        """
        setting, text = self.doing.setting, self.measured.text().strip()
        if setting is None:
            return False
        typed = self.doing.read(text, sure=self._asked_back == (setting.name, text))
        if typed.job is None or typed.asked_back:
            self.next_item.typed = typed
            self._asked_back = (setting.name, text) if typed.asked_back else ("", "")
            if typed.job is not None:
                self.model.doubt(setting.item)
            self.next_item.update()
            return False
        own = self._job_now(self.model.word)
        which = self.doing.which(setting)
        record = typed.job.record(setting.item)
        words = f"{setting.name} {READINGS[which]}"
        self._session.write_job(own.with_item(setting.item, record), words)
        self._asked_back = ("", "")
        how = self.doing.how_after(setting)
        if how is not None:
            self.model.tick(setting.item, how)
        return True

    def _tick_nut(self, name: str, torqued: bool, stripe: bool) -> None:
        setting = next(one for one in self.doing.nuts if one.name == name)
        job = self._job_now(self.model.word)
        job = self.doing.with_nut(setting, job, torqued=torqued, stripe=stripe)
        self._session.write_job(job, f"nut of {name}")

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
        stop, plan = self.model.round.stop, self.model.usable
        if stop is None or plan is None:
            return
        here = self._session.state.crank_deg
        if plan.swept:
            last = self.model.place == len(self.model.round.stops) - 2
            self.model.go_to(self.model.place + 1)
            if not last:
                self._turner.turn_by(90.0)
            return
        away = degrees_on(stop.crank_deg, here)
        at_stop = min(away, 720.0 - away) < AT_STOP_DEG
        after = self.model.round.next_place
        if at_stop and self.model.round.next_item is None and after is not None:
            self.model.go_to(after)
            stop = self.model.round.stops[after]
        if overshot_deg(away):
            self._turner.come_up_to(stop.crank_deg)
        else:
            self._turner.jump_to(stop.crank_deg)

    def _on_measured(self) -> None:
        self._asked_back = ("", "")
        self.next_item.typed = self.doing.read(self.measured.text())
        self._show_next()
        self.next_item.update()

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
        stop, plan = self.model.round.stop, self.model.usable
        if stop is None or plan is None:
            self.turn_button.hide()
        else:
            words = self._turn_words_now()
            self.turn_button.setText(words or self._standing_words(swept=bool(plan.swept)))
            self.turn_button.setEnabled(bool(words))
        self._show_next()

    def _show_next(self) -> None:
        """What the dark button does now."""
        after = self.doing.next(self.measured.text(), self._turn_words_now())
        self.next_button.setText(after.words)
        self.next_button.setEnabled(after.act is not Act.NOTHING)
        self.next_button.repaint_all()
        self.measured.setPlaceholderText(self.doing.asked_words(self.doing.setting))

    def _standing_words(self, *, swept: bool) -> str:
        if not swept:
            return "The crank stands at this stop"
        if self.model.place >= len(self.model.round.stops) - 1:
            return "The preload on all"
        return "Begin anywhere" if self.model.place == 0 else "Take up what is loose, then tick"

    def _turn_words_now(self) -> str:
        """The turn that is due: to this stop, or from it to the next; nothing where none is."""
        stop, plan, model = self.model.round.stop, self.model.usable, self.model
        if stop is None or plan is None or model.round.finished:
            return ""
        if plan.swept:
            # A sweep counts quarters from wherever it was begun.
            last = model.place >= len(model.round.stops) - 1
            done = model.round.next_setting is None and model.place + 1 in model.done
            if last or not done:
                return ""
            if model.place == len(model.round.stops) - 2:
                return "Go on to the preload, here"
            return f"Turn a quarter on: {rim_words(model.rig, 90.0) or '90°'}"
        away = degrees_on(stop.crank_deg, self._session.state.crank_deg)
        if overshot_deg(away):
            past = f"{overshot_deg(away):.3g}° past {at_degrees(stop.crank_deg)}"
            return f"{past}: go back well past, come up again"
        if min(away, 720.0 - away) >= AT_STOP_DEG:
            return self._turn_words(away, model.place)
        if model.round.next_setting is None and model.round.next_place is not None:
            after = model.round.stops[model.round.next_place]
            by_deg = degrees_on(after.crank_deg, stop.crank_deg)
            return self._turn_words(by_deg, model.round.next_place)
        return ""

    def _turn_words(self, by_deg: float, place: int) -> str:
        rim = rim_words(self.model.rig, by_deg)
        at = at_degrees(self.model.round.stops[place].crank_deg)
        words = f"Turn {by_deg:.4g}° on to stop {place + 1}, {at}"
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
        top = self.window()
        held = top.focusWidget() if top is not None else None
        held = held if held is not None and self.isAncestorOf(held) else None
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
        gone = held is not None and not (held.isVisible() and held.isEnabled())
        if gone and self.page == DO:
            # Who had the keyboard is gone: Qt would pass it on to Undo, and Return would undo.
            self._lent = held is self.measured
            self.next_button.setFocus()
        elif self._lent and self.measured.isEnabled() and self.next_button.hasFocus():
            # The field had it until its stop was done: figures go on where they went before.
            self._lent = False
            self.measured.setFocus()
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
        usable = self.model.usable is not None
        self.here_button.setEnabled(usable)
        other = self.model.instead
        self.do_button.setText("Set the items" if usable else f"Use: {other}")
        self.do_button.setEnabled(usable or bool(other))
        self._arrange_sheets(side + 30, width, height)

    def _arrange_work(self, width: float, height: float) -> None:
        """What is due next, large, with its buttons; one sheet beside it, where there is room."""
        side = max(min(width * 0.42, 540.0), 300.0)
        foot, usable = height - 54, self.model.usable is not None
        high = foot - 52 - 58 - 6
        # No step, direction or caution is left out for want of room: the sheet goes first.
        alone = not self.next_item.fits(side - 14, high)
        if alone:
            side = width - 22
        self._put(self.next_item, 20, 58, side - 14, high)
        quarter = self.model.round.stop is not None and bool(self.model.round.stop.loose_now)
        due, unfinished = self.model.round.next_setting is not None, not self.model.round.finished
        checking = self.model.checking
        self.set_button.setText("Out of band" if checking else "Set")
        field = min(max((side - 14) * 0.3, 120.0), 190.0)
        self._put(self.measured, 20, foot - 50, field, 42)
        self.measured.setStyleSheet(field_style(self.look.theme, self.look.scale, wrong=False))
        self.measured.setEnabled(usable and due and not quarter)
        buttons = (self.set_button, self.leave_button, self.skip_button, self.back_button)
        room, x = (side - 14 - field - 24), 26.0 + field
        for button, share in zip(buttons, SHARES, strict=True):
            self._put(button, x, foot - 50, room * share, 42)
            if button is not self.back_button:
                button.setEnabled(usable and due and not quarter)
            x += room * share + 6
        self._put(self.next_button, 20, foot, side - 14, 46)
        self._show_next()
        begins = 20 + sum(TAB_WIDE) + 6 * len(TAB_WIDE) + 6
        self.check_button.setChecked(checking)
        self.check_button.repaint_all()
        room = (width - begins - 160) / 2
        self._put(self.check_button, begins, 10, min(room, 130.0), TAB_HEIGHT)
        again = begins + min(room, 130.0) + 6
        self._put(self.again_button, again, 10, min(room, 130.0), TAB_HEIGHT)
        self.again_button.setEnabled(bool(self.model.done))
        self.check_button.setEnabled(usable and unfinished)
        self._put(self.card_button, width - 146, 10, 130, TAB_HEIGHT)
        self.card_button.setEnabled(usable)
        if alone:
            return
        view = self.round_view if self.model.round.finished and self.doing.nuts else self.sheets
        self.sheets.only_one = True
        self._put(view, side + 24, 54, width - side - 40, height - 62)

    def _arrange_sheets(self, left: float, width: float, height: float) -> None:
        self.sheets.only_one = False
        self._put(self.card_button, width - 146, 10, 130, TAB_HEIGHT)
        self.card_button.setEnabled(self.model.usable is not None)
        self._put(self.sheets, left, 54, width - left - 16, height - 62)
        if self.model.usable is not None:
            begins = max(left, 20 + sum(TAB_WIDE) + 6 * len(TAB_WIDE) + 6)
            self._put(self.turn_button, begins, 10, width - begins - 160, TAB_HEIGHT)
