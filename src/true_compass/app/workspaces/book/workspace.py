"""The Book: jobs on this engine, their facts, histories, shims, and what else is learnt."""

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path
from types import MappingProxyType
from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.desk import Desk
from true_compass.app.keeping.settings import Remembered
from true_compass.app.keys import NONE, Key, KeyLine
from true_compass.app.tabbed import TabbedWorkspace
from true_compass.app.undo import UndoButton
from true_compass.app.widgets.controls import DrawnButton, StrongButton
from true_compass.app.workspaces.book.facts_view import FactsView
from true_compass.app.workspaces.book.history_view import HistoryView
from true_compass.app.workspaces.book.items_view import HeadItems
from true_compass.app.workspaces.book.job_view import JobView
from true_compass.app.workspaces.book.lines_view import LinesView
from true_compass.app.workspaces.book.model import BookModel
from true_compass.app.workspaces.book.more_view import MoreView
from true_compass.app.workspaces.book.pad import HEIGHT as PAD
from true_compass.app.workspaces.book.pad import Pad
from true_compass.app.workspaces.book.shims import USUAL_STOCK, ShimsModel, is_stock
from true_compass.app.workspaces.book.shims_view import ShimsView
from true_compass.book.job import new_id
from true_compass.book.putting_back import PUT_BACK
from true_compass.book.targets import targets_of
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.text import draw_text
from true_compass.drawing.theme import BODY, LABEL, Weight

if TYPE_CHECKING:
    from true_compass.drawing.documents import Document

JOB, FACTS, HISTORY, SHIMS, MORE = PAGES = ("Job", "Facts", "History", "Shims", "More")
TAB_WIDE: Final = {JOB: 44.0, FACTS: 54.0, HISTORY: 68.0, SHIMS: 58.0, MORE: 52.0}
SIDE: Final = 288.0
EDGE: Final = 16.0


class BookWorkspace(TabbedWorkspace):
    """One page at a time beside the list of jobs."""

    wants_crank = False
    least_size = (780.0, 420.0)
    pages = PAGES
    tab_wide = TAB_WIDE
    tab_gap = 3.0
    remembers = MappingProxyType({"stock": Remembered(USUAL_STOCK, is_stock)})

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        look = desk.look
        self.setObjectName("book")
        self.setAccessibleName("Book")
        self.model = BookModel(desk, self)
        self._page = JOB
        self._doubted = ""
        self._facts_box = QRectF()
        self.lines = LinesView(look, self.model, self)
        self.begin = StrongButton(look, "New job on this engine", self)
        self.pad = Pad(look, self.model, self)
        self.job = JobView(look, self.model, self)
        self.facts = FactsView(look, self.model, self)
        self.history = HistoryView(look, self.model, self)
        self.shims_model = ShimsModel(self.model, desk.settings.get("stock"))
        self.shims = ShimsView(look, self.model, self.shims_model, self)
        self.more = MoreView(look, self.model, self)
        self.head = HeadItems(look, self.model, self)
        self.print_button = DrawnButton(look, "Print sheet…", self)
        self.print_button.clicked.connect(self._print)
        self.undo = UndoButton(desk, self)
        self.lines.picked.connect(self.model.open_job)
        self.begin.clicked.connect(self._begin)
        self.job.history_wanted.connect(partial(self.show_page, HISTORY))
        self.facts.number_typed.connect(self._number)
        self.model.changed.connect(self.arrange)
        look.changed.connect(self.arrange)
        self.arrange()

    # Pages ------------------------------------------------------------------------------------

    def turned_to(self, page: str) -> None:
        """A shim plan asks for shims; everything else for gaps."""
        self.model.ask_for_shims(page == SHIMS and self.shims_model.applies)
        self.arrange()

    def focus_first(self) -> QWidget:
        """The field for readings while one is asked, else the chart."""
        if self._page == FACTS:
            return self.facts.number
        if self._page == HISTORY:
            return self.head
        if self._page == MORE:
            return self.more.tabs[0]
        if self._page == SHIMS and self.model.asked is None:
            return self.shims
        return self.pad.field if self.model.asked is not None else self.job

    def came_to_front(self) -> None:
        """What another window wrote is read now."""
        if self.model.keeper.changed_elsewhere():
            on = self.model.on
            fresh = self.model.keeper.job(on.job.id) if on.job is not None else None
            if fresh is not None and fresh != on.job:
                self.desk.session.put_book(on.with_job(fresh))
        self.arrange()

    def _begin(self) -> None:
        self.model.new_job()
        self.show_page(JOB)

    def _number(self, text: str) -> None:
        """The engine's own number: it finds its history, or becomes that of a new one."""
        model, told = self.model, " ".join(text.split())
        on, book = model.on, model.keeper.book
        if book is None:
            return
        same = book.same_number(told, on.engine.id)
        mine = [one for one in same if one.source == on.engine.source]
        if mine:
            self.desk.session.put_book(replace(on, engine=mine[0], job=None))
            self.desk.say(f"{mine[0].title}: its jobs are shown.")
            return
        if same and self._doubted != told:
            self._doubted = told
            self.desk.say(
                f"{same[0].title} has that number too. Press Enter once more if this is another "
                "engine."
            )
            return
        self._doubted = ""
        if on.engine.serial and model.keeper.lines(on.engine.id):
            engine = replace(on.engine, id=new_id(), serial=told)
            self.desk.session.put_book(replace(on, engine=engine, job=None))
            self.desk.say(f"{engine.title} is new in the book.")
            return
        model.keeper.rename(replace(on.engine, serial=told))

    def remember(self) -> None:
        """What can be bought outlasts the program."""
        self.desk.settings.put("stock", self.shims_model.stock_text)

    def take_file(self, path: Path) -> None:
        """Take in another book."""
        self.show_page(MORE)
        self.more.take(path)

    def document(self) -> "Document | None":
        """The history or the plan that is shown; else the sheet: as filled, or to fill in where no
        job is open or it says nothing yet.
        """
        own = None
        if self._page == HISTORY:
            own = self.history.document()
        elif self._page == SHIMS:
            own = self.shims.document()
        if own is not None:
            return own
        from true_compass.drawing.job_sheet import job_sheet  # opening the page need not wait

        model = self.model
        job = model.job if model.job is not None and model.job.items else None
        targets = job.targets if job is not None else targets_of(model.engine)
        meaning = []
        if job is not None:
            points = model.changes(job)
            told = model.points_to(job, points)
            for item, one in told.items():
                if one.causes:
                    change = f"{one.change.middle:+.2f}".replace("-", "−")
                    causes = " or ".join(cause.words for cause in one.causes)
                    meaning.append(
                        f"{item.name}   {change} mm since last left: points to {causes}."
                    )
        return job_sheet(model.engine, model.book_engine.title, targets, job, meaning)

    def _print(self) -> None:
        document = self.document()
        if document is not None:
            self.desk.documents.show(document)

    # Placing ----------------------------------------------------------------------------------

    def arrange(self) -> None:
        """Put everything in its place."""
        put, height = self.look.scaled, self.logical_height
        self.arrange_tabs(EDGE, 10, 34)
        foot = height - 50
        typing = self._page in (JOB, SHIMS) and self.model.asked is not None
        self.pad.setVisible(typing)
        pad_top = foot - PAD - 8
        count = max(len(self.model.lines), 1)
        lines_foot = (pad_top if typing else foot) - 54
        if not typing and len(self._facts()) > 0:
            # The list takes what it needs, so that the facts have the rest.
            lines_foot = min(lines_foot, max(84 + 58 * min(count, 5) + 6, lines_foot - 330))
        self._facts_box = QRectF(EDGE, lines_foot + 54, SIDE - 8, foot - lines_foot - 60)
        self.lines.setGeometry(put(EDGE - 4, 84, SIDE - 4, max(lines_foot - 84, 58)))
        self.begin.setGeometry(put(EDGE, lines_foot + 4, SIDE - 8, 40))
        self.pad.setGeometry(put(EDGE, pad_top, SIDE - 8, PAD))
        words = {HISTORY: "Print history…", SHIMS: "Print plan…"}.get(self._page, "Print sheet…")
        if self.print_button.text() != words:
            self.print_button.setText(words)
        self.print_button.setGeometry(put(EDGE, foot, 136, 40))
        self.undo.setGeometry(put(EDGE + 144, foot, SIDE - 152, 40))
        picking = self._page == HISTORY
        self.head.setVisible(picking)
        self.head.setGeometry(put(EDGE, 84, SIDE - 8, foot - 92))
        alone = self._stands_alone
        for view in (self.lines, self.begin):
            view.setVisible(not alone and not picking)
        for button in (self.print_button, self.undo):
            button.setVisible(not alone)
        self._arrange_page()
        self.update()

    def _arrange_page(self) -> None:
        """The page that is shown, beside the list of jobs, or in the place of it."""
        left, top = SIDE + EDGE + 12, 10.0
        if self._stands_alone:
            left, top = EDGE, 50.0
        wide, high = self.logical_width - left - EDGE, self.logical_height - top - 10
        pages: dict[str, QWidget] = {
            JOB: self.job,
            FACTS: self.facts,
            HISTORY: self.history,
            SHIMS: self.shims,
            MORE: self.more,
        }
        for word, page in pages.items():
            page.setVisible(self._page == word)
            page.setGeometry(self.look.scaled(left, top, wide, high))

    @property
    def _stands_alone(self) -> bool:
        """Whether a form takes the room of the list as well: large print, or a small window."""
        return self._page in (FACTS, MORE) and self.logical_width < 1000

    def paint(self, p: QPainter) -> None:
        """The engine's name and number above its jobs."""
        theme = self.look.theme
        p.fillRect(QRectF(0, 0, self.logical_width, self.logical_height), theme.paper)
        if self._stands_alone:
            return
        title = QRectF(EDGE, 52, SIDE - 8, 26)
        draw_text(p, title, self.model.book_engine.title, LABEL, theme.ink, Weight.STRONG)
        self._paint_facts(p)

    def _facts(self) -> list[tuple[str, str]]:
        """What the job says beside its readings, in a few words each; what is empty is left out."""
        job = self.model.job
        if job is None:
            return []
        head = "" if job.temperature_c is None else f"{job.temperature_c:g} °C"
        if job.rested_h is not None:
            head = f"{head}, {job.rested_h:g} h at rest".lstrip(", ")
        due = "; ".join(one.words for one in job.to_do)
        back = f"{len(job.put_back)} of {len(PUT_BACK)} ticked" if job.items else ""
        told = (
            ("Complaint", job.complaint),
            ("After", job.signs_after),
            ("Head", head),
            ("Blades", job.blades),
            ("Seen by", job.seen_by),
            ("Parts", "; ".join(part.what for part in job.parts)),
            ("To do", due),
            ("Put back", back),
            ("Signed", job.signed),
        )
        return [(label, words) for label, words in told if words]

    def _paint_facts(self, p: QPainter) -> None:
        """Between the list of jobs and the buttons, as far as there is room."""
        if self.pad.isVisible() or self._page == HISTORY:
            return
        theme, box = self.look.theme, self._facts_box
        facts = self._facts()
        rows = int((box.height() - 30) // 30)
        if rows < 1 or not facts:
            return
        head = QRectF(box.left(), box.top(), box.width(), 26)
        wide = draw_text(p, head, "This job", LABEL, theme.ink, Weight.STRONG)
        p.setPen(flat_pen(theme.line, 1.4))
        p.drawLine(
            QPointF(head.left() + wide + 10, head.center().y()),
            QPointF(head.right(), head.center().y()),
        )
        for nth, (label, words) in enumerate(facts[:rows]):
            row = QRectF(box.left(), box.top() + 30 + 30 * nth, box.width(), 30)
            draw_text(p, row, label, BODY, theme.ink2)
            draw_text(p, row.adjusted(88, 0, 0, 0), words, BODY, theme.ink, Weight.LABEL)

    # Keys -------------------------------------------------------------------------------------

    def keys(self) -> Sequence[KeyLine]:
        """N begins a job; Left and Right go along the head."""
        return (
            KeyLine("N", "a new job on this engine", {(Key.Key_N, NONE): self._begin}),
            KeyLine(
                "Left, Right, Up, Down",
                "along the head, another reading",
                in_view=(
                    (Key.Key_Left, NONE),
                    (Key.Key_Right, NONE),
                    (Key.Key_Up, NONE),
                    (Key.Key_Down, NONE),
                ),
            ),
        )
