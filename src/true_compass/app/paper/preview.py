"""A document as it will be on paper, with what can be done with it."""

from typing import Final

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.paper.documents import Documents
from true_compass.app.widgets.controls import DrawnButton, StrongButton, TabButton
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.over import Over
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.documents import PAPERS, Document, Paint, Paper
from true_compass.drawing.text import draw_paragraph, draw_text
from true_compass.drawing.theme import BODY, HEAD, NOTE, Weight

SIDE: Final = 300.0
EDGE: Final = 20.0
FORMATS: Final = "PDF holds all pages. PNG and SVG hold one page each."
FORMATS_FOOT: Final = 444.0
"""Where there is no room for these words, they are read at the button."""


class Preview(Over):
    """One page at the right, as large as there is room; title and buttons at the left."""

    tells_itself = True

    def __init__(self, documents: Documents, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._documents = documents
        self._document: Document | None = None
        self._paper: Paper = PAPERS[0]
        self._pages: list[Paint] = []
        self.page = 0
        self.setObjectName("preview")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.save_button = StrongButton(look, "Save as…", self)
        self.save_button.setToolTip(FORMATS)
        self.print_button = DrawnButton(look, "Print…", self)
        self.close_button = DrawnButton(look, "Close", self)
        self.before = DrawnButton(look, "Page before", self)
        self.after = DrawnButton(look, "Next page", self)
        self.papers = [TabButton(look, paper.word, self) for paper in PAPERS]
        self.save_button.clicked.connect(self._save)
        self.print_button.clicked.connect(self._print)
        self.close_button.clicked.connect(self.hide)
        self.before.clicked.connect(self._go_before)
        self.after.clicked.connect(self._go_after)
        for button in self.papers:
            button.clicked.connect(self._on_paper)
        look.changed.connect(self.arrange)
        self.hide()

    def show_document(self, document: Document) -> None:
        """Show the first page. Raises `DocumentError` for what is not printed."""
        paper = self._paper if self._paper in document.papers else document.papers[0]
        self._pages = document.pages(paper)
        self._document, self._paper, self.page = document, paper, 0
        self.setAccessibleName(f"Preview of {document.title}")
        self._tell()
        self.show()
        self.raise_()
        self.setFocus()
        self.arrange()

    def _tell(self) -> None:
        self.setAccessibleDescription(self._page_words())
        self.repaint_all()

    def _page_words(self) -> str:
        return f"Page {self.page + 1} of {len(self._pages)}, {self._paper.word}"

    def _save(self) -> None:
        if self._document is not None:
            self._documents.save(self._document, self._paper)

    def _print(self) -> None:
        if self._document is not None:
            self._documents.print(self._document, self._paper)

    def _on_paper(self) -> None:
        for paper, button in zip(PAPERS, self.papers, strict=True):
            if button is self.sender() and self._document is not None:
                self._paper = paper
                self._pages = self._document.pages(paper)
                self.page = min(self.page, len(self._pages) - 1)
        self._tell()
        self.arrange()

    def _go_before(self) -> None:
        self.go_to(self.page - 1)

    def _go_after(self) -> None:
        self.go_to(self.page + 1)

    def go_to(self, page: int) -> None:
        """Show another page, counted from 0."""
        if 0 <= page < len(self._pages):
            self.page = page
            self._tell()
            self.arrange()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Escape closes, Return does what the dark button says, arrows and page keys leaf; nothing
        turns the crank below the page.
        """
        if event is None:
            return
        on = (Qt.Key.Key_Right, Qt.Key.Key_Down, Qt.Key.Key_PageDown)
        back = (Qt.Key.Key_Left, Qt.Key.Key_Up, Qt.Key.Key_PageUp)
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.save_button.click()
        elif event.key() in on:
            self._go_after()
        elif event.key() in back:
            self._go_before()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Nothing below the page can be pressed."""

    def ground(self) -> QColor:
        """The colour about a sheet."""
        return self.look.theme.well

    def paint_focus(self, p: QPainter) -> None:
        """It covers the workspace; there is nothing else that could have the keyboard."""

    def arrange(self) -> None:
        """Place the buttons."""
        if self._document is None:
            return
        put, wide = self.look.scaled, SIDE - EDGE
        self.save_button.setGeometry(put(EDGE, 132, wide, 44))
        self.print_button.setGeometry(put(EDGE, 184, wide, 44))
        several = len(self._document.papers) > 1
        each = (wide + 8) / len(PAPERS)
        for place, (paper, button) in enumerate(zip(PAPERS, self.papers, strict=True)):
            button.setVisible(several)
            button.setChecked(paper == self._paper)
            button.repaint_all()
            button.setGeometry(put(EDGE + place * each, 272, each - 8, 36))
        pages = len(self._pages)
        leaves = ((self.before, -1), (self.after, 1))
        for place, (leaf, page) in enumerate(leaves):
            leaf.setVisible(pages > 1)
            leaf.setEnabled(0 <= self.page + page < pages)
            leaf.setGeometry(put(EDGE + place * (wide + 8) / 2, 352, (wide - 8) / 2, 36))
        self.close_button.setGeometry(put(EDGE, self._foot, wide, 44))
        self.update()

    @property
    def _foot(self) -> float:
        """Where the lowest button begins."""
        return max(self.logical_height - 64, 400)

    def page_box(self) -> QRectF:
        """Where the page lies, in pixels of the design."""
        room = QRectF(SIDE + 2 * EDGE, 16, 0, 0)
        room.setRight(self.logical_width - EDGE)
        room.setBottom(self.logical_height - 16)
        scale = min(room.width() / self._paper.width, room.height() / self._paper.height)
        width, height = self._paper.width * scale, self._paper.height * scale
        return QRectF(room.left() + (room.width() - width) / 2, room.top(), width, height)

    def paint(self, p: QPainter) -> None:
        """Draw title, page and edge."""
        if self._document is None:
            return
        theme, wide = self.look.theme, SIDE - EDGE
        title = QRectF(EDGE, 14, wide, 80)
        draw_paragraph(p, title, self._document.title, HEAD - 5, theme.ink, Weight.STRONG)
        if len(self._document.papers) > 1:
            label = QRectF(EDGE, 246, wide, 24)
            draw_text(p, label, "Paper", NOTE, theme.ink2)
        draw_text(p, QRectF(EDGE, 322, wide, 24), self._page_words(), BODY, theme.ink)
        if self._foot >= FORMATS_FOOT:
            draw_paragraph(p, QRectF(EDGE, 400, wide, 60), FORMATS, NOTE, theme.ink2)
        box = self.page_box()

        def page(q: QPainter) -> None:
            q.fillRect(box, Qt.GlobalColor.white)
            q.translate(box.topLeft())
            q.scale(box.width() / self._paper.width, box.width() / self._paper.width)
            self._pages[self.page](q)

        self.stills.draw(p, (self.page, self._paper.word), box, page, QColor("white"))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(theme.line, 1.4))
        p.drawRect(box)
