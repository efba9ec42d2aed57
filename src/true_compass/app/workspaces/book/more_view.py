"""More: hand test, heat, push rods, witness marks, other readings; and the book out and in."""

import contextlib
from functools import partial
from pathlib import Path
from typing import Final

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QResizeEvent
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton, TabButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.widgets.working import Tell, with_bar
from true_compass.app.workspaces.book.model import BookModel
from true_compass.app.workspaces.book.topics import TOPICS, Entry, Topic
from true_compass.book.targets import targets_of
from true_compass.core.limits import EngineError
from true_compass.drawing.text import draw_paragraph, draw_text, paragraph_height
from true_compass.drawing.theme import BODY, HEAD, LEAD, Weight
from true_compass.files.book_db import SUFFIX, BookError
from true_compass.files.book_exchange import Coming
from true_compass.files.book_file import Book
from true_compass.files.engine_values import values_of_engine
from true_compass.files.problems import EngineFileError, shown_text

MOST_ROW: Final = 46.0
MOST_KEPT: Final = 6
"""How many of what is kept are listed, the newest first."""
DOORS: Final = "Books, tables"
TOP: Final = 50.0
TAKE: Final = "Take them in"
AS_ONE: Final = "Take them in: it is one engine"
AS_TWO: Final = "Take them in as two engines"
LEAVE: Final = "Leave it"

OUT_AND_IN: Final = (
    "A table is CSV or a workbook, for one engine; a whole book is one file, to carry on a stick. "
    "Another book is shown first, and taken in without doubling or losing a job."
)


class MoreView(Painted):
    """Topics in one row, the fields of the chosen one, what they lead to, and the book's doors."""

    def __init__(self, look: Look, model: BookModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self._topic: Topic = TOPICS[0]
        self.coming: Coming | None = None
        """Another book that was opened, and what would come in from it."""
        self.setObjectName("book_more")
        self.setAccessibleName("Learnt and kept")
        self._at_doors = False
        named = (*(topic.word for topic in TOPICS), DOORS)
        self.tabs = [TabButton(look, word, self) for word in named]
        for tab, word in zip(self.tabs, named, strict=True):
            tab.clicked.connect(partial(self.show_topic, word))
        self.fields: dict[str, QLineEdit] = {}
        for topic in TOPICS:
            for entry in topic.fields:
                field = QLineEdit(self)
                name = f"{topic.word} {entry.slug}"
                field.setObjectName(f"more_{entry.slug}")
                field.setAccessibleName(entry.label)
                field.setPlaceholderText(entry.hint)
                field.setMaxLength(60)
                field.textEdited.connect(self._show)
                if entry.blind:
                    field.editingFinished.connect(partial(self._hide, field))
                self.fields[name] = field
        self.keep = StrongButton(look, "Keep it", self)
        self.keep.clicked.connect(self._keep)
        self.doors = {}
        for slug, words, act in (
            ("take", "Take in a table or a book…", self.take_in),
            ("write", "Write this engine's jobs…", partial(self.write, whole=False)),
            ("whole", "Write the whole book…", partial(self.write, whole=True)),
        ):
            door = DrawnButton(look, words, self)
            door.setObjectName(f"door_{slug}")
            door.clicked.connect(act)
            self.doors[slug] = door
        self.put_back = DrawnButton(look, "", self)
        self.put_back.setObjectName("door_put_back")
        self.put_back.clicked.connect(self._ask_put_back)
        take = StrongButton(look, TAKE, self)
        two, leave = (DrawnButton(look, words, self) for words in (AS_TWO, LEAVE))
        self.choices = (take, two, leave)
        take.clicked.connect(partial(self._merge, as_one=True))
        two.clicked.connect(partial(self._merge, as_one=False))
        leave.clicked.connect(self._leave_it)
        model.changed.connect(self._show)
        look.changed.connect(self._arrange)
        self._show()

    # Topics -----------------------------------------------------------------------------------

    def show_topic(self, word: str) -> None:
        """Show a topic by its word, or the book's doors."""
        self._at_doors = word == DOORS
        self._topic = next((topic for topic in TOPICS if topic.word == word), self._topic)
        self._show()

    def texts(self) -> dict[str, str]:
        """What stands in the fields of the topic."""
        word = self._topic.word
        return {e.slug: self.fields[f"{word} {e.slug}"].text() for e in self._topic.fields}

    def lines(self) -> tuple[list[str], bool]:
        """What the fields lead to; whether it can be kept."""
        texts = self.texts()
        typed = any(text.strip() for text in texts.values())
        try:
            lines = self._topic.says(self._model, texts)
        except EngineError as error:
            # Before anything is typed nothing is wrong; only what a job lacks is told.
            silent = not typed and bool(self._topic.button)
            words = f"{error.in_words}."
            return [] if silent else [words], False
        return lines, bool(self._topic.button) and typed

    def _hide(self, field: QLineEdit) -> None:
        """What was set is hidden, so that the other person measures blind."""
        if field.text().strip():
            field.setEchoMode(QLineEdit.EchoMode.Password)

    def _keep(self) -> None:
        _, can = self.lines()
        if not can:
            return
        kept = self._topic.keeps(self._model, self.texts())
        if not kept:
            return  # it could not be written, and what was typed is still here
        self._model.desk.say(f"Kept: {kept}. Undo takes it back.")
        for entry in self._topic.fields:
            field = self.fields[f"{self._topic.word} {entry.slug}"]
            field.clear()
            field.setEchoMode(QLineEdit.EchoMode.Normal)
        self._show()

    def _show(self) -> None:
        _, can = self.lines()
        self.keep.setVisible(bool(self._topic.button) and not self._at_doors)
        self.keep.setEnabled(can)
        if self._topic.button and self.keep.text() != self._topic.button:
            self.keep.setText(self._topic.button)
        self._arrange()

    # Placing ----------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put everything in its place."""
        super().resizeEvent(event)
        self._arrange()

    @property
    def _row(self) -> float:
        """Height of a row of fields in the room that there is."""
        rows = -(-len(self._topic.fields) // 2)
        room = self.logical_height - TOP - self._about_high - 44 - 50
        return min(max(room / rows, 34.0), MOST_ROW)

    @property
    def _about_high(self) -> float:
        width = min(self.logical_width, 900.0)
        return paragraph_height(self._topic.about, BODY, width) + 50

    def _arrange(self) -> None:
        put, wide = self.look.scaled, self.logical_width
        each = (wide - 6 * (len(self.tabs) - 1)) / len(self.tabs)
        chosen = DOORS if self._at_doors else self._topic.word
        for nth, tab in enumerate(self.tabs):
            tab.setGeometry(put(nth * (each + 6), 0, each, 34))
            tab.setChecked(tab.text() == chosen)
        style = field_style(self.look.theme, self.look.scale, wrong=False)
        shown = {f"{self._topic.word} {entry.slug}" for entry in self._topic.fields}
        for name, field in self.fields.items():
            field.setVisible(name in shown and not self._at_doors)
            if name in shown and field.styleSheet() != style:
                field.setStyleSheet(style)
        for entry, box in self._boxes().items():
            field = self.fields[f"{self._topic.word} {entry.slug}"]
            field.setGeometry(put(box.left() + 160, box.top(), box.width() - 160, box.height()))
        self.keep.setGeometry(put(0, self._fields_foot + 4, 240, 40))
        copy = self._model.keeper.copy
        if copy is not None:
            self.put_back.setText(f"Put {shown_text(copy.name)} in its place…")
        doors = [*self.doors.values(), *([self.put_back] if copy is not None else [])]
        for nth, door in enumerate((*self.doors.values(), self.put_back)):
            door.setVisible(self._at_doors and self.coming is None and door in doors)
            door.setGeometry(put(0, TOP + 110 + 56 * nth, min(wide, 420.0), 46))
        self._arrange_coming()
        self.update()

    def _arrange_coming(self) -> None:
        """What may be done with another book that was opened."""
        coming = self.coming if self._at_doors else None
        take, two, leave = self.choices
        shown = []
        if coming is not None:
            shown = [take, *([two] if coming.pairs else []), leave]
            words = AS_ONE if coming.pairs else TAKE
            if take.text() != words:
                take.setText(words)
            take.setEnabled(coming.adds)
            two.setEnabled(coming.adds)
        wide = min(self.logical_width, 420.0)
        for button in self.choices:
            button.setVisible(button in shown)
        for nth, button in enumerate(shown):
            button.setGeometry(self.look.scaled(0, self._coming_foot + 56 * nth, wide, 46))

    @property
    def _coming_foot(self) -> float:
        told = self.coming.words if self.coming is not None else ""
        return TOP + 54 + paragraph_height(told, BODY, min(self.logical_width, 760.0))

    def _boxes(self) -> dict[Entry, QRectF]:
        """Where each field goes with its label."""
        half, top, row = (
            min((self.logical_width - 24) / 2, 440.0),
            TOP + self._about_high,
            self._row,
        )
        return {
            entry: QRectF(nth % 2 * (half + 16), top + nth // 2 * row, half, min(row - 6, 36.0))
            for nth, entry in enumerate(self._topic.fields)
        }

    @property
    def _fields_foot(self) -> float:
        rows = -(-len(self._topic.fields) // 2)
        return TOP + self._about_high + rows * self._row

    def paint(self, p: QPainter) -> None:
        """What the topic is about, labels, and what the fields lead to."""
        theme, wide = self.look.theme, self.logical_width
        word = "The book, out and in" if self._at_doors else self._topic.word
        about = OUT_AND_IN if self._at_doors else self._topic.about
        if self._at_doors and self.coming is not None:
            word, about = f"Opened: {self.coming.name}", self.coming.words
        elif self._at_doors and self._model.keeper.damage:
            about = self._model.keeper.damage
        draw_text(p, QRectF(0, TOP, wide, 34), word, HEAD, theme.ink, Weight.STRONG)
        box = QRectF(0, TOP + 38, min(wide, 760 if self.coming is not None else 900), 400)
        draw_paragraph(p, box, about, BODY, theme.ink if self.coming is not None else theme.ink2)
        if self._at_doors:
            return
        for entry, at in self._boxes().items():
            draw_text(p, at.adjusted(0, 0, 154 - at.width(), 0), entry.label, BODY, theme.ink2)
        # Beside the button where there is no room below it.
        y, left = self._fields_foot + (54 if self._topic.button else 4), 0.0
        lines, _ = self.lines()
        there = self._topic.kept(self._model)
        lines = [*lines, *([f"Kept here: {len(there)}", *there[:MOST_KEPT]] if there else [])]
        if self._topic.button and self.logical_height - y < 80:
            y, left = self._fields_foot + 2, 256.0
        for nth, line in enumerate(lines):
            if y > self.logical_height - 18:
                break
            px = LEAD if nth == 0 and not left else BODY
            room = QRectF(left, y, min(wide, 900) - left, 60)
            y = draw_paragraph(p, room, line, px, theme.ink) + 3

    # The doors of the book --------------------------------------------------------------------

    def write(self, *, whole: bool) -> None:
        """Ask where to, and write jobs there."""
        model, book = self._model, self._model.keeper.book
        if book is None:
            model.desk.say(model.keeper.refusal)
            return
        suggested = f"book{SUFFIX}" if whole else "jobs.csv"
        path = model.desk.files.ask_book_copy(suggested)
        if path is None:
            return
        from true_compass.files.book_exchange import write_out  # opening the page need not wait

        engine = None if whole else model.book_engine
        try:
            words = with_bar(self, "Writing", lambda tell: write_out(book, path, engine, tell))
        except BookError as error:
            words = str(error)
        model.desk.say(words)

    def take_in(self) -> None:
        """Ask for a table or another book, and take its jobs."""
        path = self._model.desk.files.ask_book()
        if path is not None:
            self.take(path)

    def take(self, path: Path) -> None:
        """Take the jobs of a table, or show what would come in from another book."""
        if path.suffix == SUFFIX:
            self._show_coming(path)
            return
        model = self._model
        engine = model.engine
        from true_compass.files.book_exchange import take_table

        def work(tell: Tell) -> str:
            # A connection of its own: what is entered meanwhile waits, and is not part of this.
            with contextlib.closing(Book(model.keeper.path)) as book:
                return take_table(
                    book,
                    path,
                    model.book_engine,
                    values_of_engine(engine),
                    targets_of(engine),
                    model.keeper.clock,
                    hydraulic=engine.train.hydraulic,
                    tell=tell,
                )

        try:
            words = with_bar(self, "Taking in jobs", work)
        except BookError as error:
            words = str(error)
        except EngineFileError as error:
            model.desk.files.refused.emit(error)
            return
        self._read_anew(words)

    def _read_anew(self, words: str) -> None:
        model = self._model
        model.desk.say(words)
        model.keeper.forget()
        model.keeper.attach()
        model.changed.emit()

    def _show_coming(self, path: Path) -> None:
        """What would come in from another book; nothing does before a press."""
        from true_compass.files.book_exchange import coming_from

        ours = self._model.keeper.path
        try:
            self.coming = with_bar(
                self, "Looking at the book", lambda tell: coming_from(ours, path, tell)
            )
        except BookError as error:
            self._model.desk.say(str(error))
            return
        self.show_topic(DOORS)
        self.choices[0].setFocus()

    def _leave_it(self) -> None:
        self.coming = None
        self._show()
        self.doors["take"].setFocus()

    def _merge(self, *, as_one: bool) -> None:
        """Take the jobs of the book that was opened; engines of one number are one, or two."""
        coming, keeper = self.coming, self._model.keeper
        if coming is None:
            return
        from true_compass.files.book_exchange import joined, merge_in

        join = joined(coming.pairs) if as_one else {}

        def work(tell: Tell) -> str:
            with contextlib.closing(Book(keeper.path)) as book:
                book.db.back_up_before_merge(keeper.clock().astimezone())
                return merge_in(book, coming.path, join, tell)

        try:
            words = with_bar(self, "Taking in the other book", work)
        except BookError as error:
            self._model.desk.say(str(error))
            return
        self.coming = None
        self._read_anew(words)

    def _ask_put_back(self) -> None:
        """What was written since the copy was made is only in the damaged book: that is said."""
        copy = self._model.keeper.copy
        if copy is not None:
            self._model.desk.files.asks.emit(
                f"{shown_text(copy.name)} in the place of your book?",
                [
                    "What was written since then is not in it. The damaged book is kept beside it "
                    "under another name. Close other windows first."
                ],
                [("Put it in its place", self._put_back)],
            )

    def _put_back(self) -> None:
        """Put the newest whole copy in the place of a damaged book."""
        from true_compass.files.book_exchange import put_back_copy

        keeper = self._model.keeper
        keeper.close()
        try:
            words = put_back_copy(keeper.path, self._model.today)
        except BookError as error:
            words = str(error)
        keeper.begin_anew()
        self._read_anew(words)
