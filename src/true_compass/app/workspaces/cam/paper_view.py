"""The page of paper: sizes at the left, the sheets as they will be, a tape's joint enlarged."""

from typing import Final

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.paper.documents import Documents
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.cam.paper_form import FULL, PaperForm
from true_compass.app.workspaces.cam.papering import Group, Papering
from true_compass.core.limits import EngineError
from true_compass.core.paper.tape import MEET_MM
from true_compass.core.words import capital
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.documents import Document, DocumentError, Paint, Paper
from true_compass.drawing.text import RIGHT, draw_one_of, draw_paragraph, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Weight

SIDE: Final = 372.0
GAP: Final = 18.0
HEAD_HIGH: Final = 44.0
JOINT_HIGH: Final = 274.0
TIMES: Final = 2.0
PX_PER_MM: Final = 96 / 25.4
MOST_PAGES: Final = 6
NO_TAPE: Final = (
    "No damper tape yet",
    "Type how large the damper is; or wrap a strip of this paper round it, prick both layers, and "
    "type that length.",
)


class PaperView(PageView):
    """The whole page."""

    def __init__(self, look: Look, model: Papering, documents: Documents, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self._documents = documents
        self._pages: list[tuple[Paper, Paint]] = []
        self._refused = ""
        self._count = 0
        self.setObjectName("cam_paper")
        self.setAccessibleName("Paper")
        self.form = PaperForm(look, model, self)
        self.form.shown.connect(self._show)
        model.changed.connect(self.refresh)
        look.changed.connect(self.refresh)

    # What is asked for --------------------------------------------------------------------------

    def _show(self, what: str) -> None:
        """Let a person look at a sheet, or save all sheets of the page."""
        try:
            document = self._document(what)
            if document is None:
                return
            if what == "save":
                self._documents.save(document, document.papers[0])
            else:
                self._documents.show(document)
        except (DocumentError, EngineError) as error:
            self._model.model.desk.say(_sentence(error))

    def _document(self, what: str) -> Document | None:
        if what == "proof":
            return self._model.proof()
        if what in ("sheets", "save"):
            return self._model.together()
        return self._model.card(what)

    def document(self) -> Document | None:
        """What Print in the menu prints here."""
        try:
            return self._model.together() or self._model.card("cam-card")
        except (DocumentError, EngineError):
            return None

    # Showing ------------------------------------------------------------------------------------

    def show_state(self) -> None:
        """Make the sheets anew."""
        self._pages, self._refused = [], ""
        try:
            for document in self._shown():
                paper = document.papers[0]
                self._pages += [(paper, paint) for paint in document.pages(paper)]
        except (DocumentError, EngineError) as error:
            self._refused = _sentence(error)
        self._count += 1
        self.stills.forget()
        self.arrange()
        self.update()

    def _shown(self) -> tuple[Document, ...]:
        if self._model.group is Group.CARDS:
            return tuple(self._model.card(word) for word in ("cam-card", "lap", "pocket"))
        return self._model.documents()

    @property
    def _roomy(self) -> bool:
        return self.logical_height >= FULL + 4 and self.logical_width >= SIDE + 380

    def arrange(self) -> None:
        """The form at the left, or over the whole page where there is room for nothing else."""
        put, wide, high = self.look.scaled, self.logical_width, self.logical_height
        if self._roomy:
            self.form.setGeometry(put(0, 0, SIDE, high))
        else:
            self.form.setGeometry(put(0, HEAD_HIGH - 6, wide, high - HEAD_HIGH + 6))

    def paint(self, p: QPainter) -> None:
        """The headline, and the sheets where there is room."""
        theme = self.look.theme
        left = SIDE + 32 if self._roomy else 0.0
        head = QRectF(left, 0, self.logical_width - left, 36)
        draw_one_of(p, head, (self._model.headline,), HEAD, theme.ink, Weight.STRONG)
        if not self._roomy:
            return
        room = QRectF(left, HEAD_HIGH, self.logical_width - left, self.logical_height - HEAD_HIGH)
        if self._refused or not self._pages:
            words = self._refused or "Type what is still missing at the left."
            draw_paragraph(p, room.adjusted(0, 8, 0, 0), words, LABEL, theme.ink)
            return
        self._paint_sheets(p, room)

    def _paint_sheets(self, p: QPainter, room: QRectF) -> None:
        """The first sheet large, the others beside it; below them the joint of a tape."""
        first = self._page_box(room, self._pages[0][0])
        with_joint = self._model.group is Group.WHEEL and self._model.sizes.tape is not None
        rest = self._pages[1 : 1 + MOST_PAGES]
        self._paint_page(p, 0, first)
        left = first.right() + GAP
        beside = QRectF(left, room.top(), room.right() - left, room.height())
        if beside.width() < 120:
            return
        if self._model.group is Group.WHEEL and not with_joint and not rest:
            theme = self.look.theme
            head = QRectF(beside.left(), beside.top(), beside.width(), 26)
            draw_text(p, head, NO_TAPE[0], LABEL, theme.ink, Weight.STRONG)
            room = QRectF(beside.left(), beside.top() + 30, beside.width(), 120)
            draw_paragraph(p, room, NO_TAPE[1], BODY, theme.ink2)
        if with_joint and beside.height() > JOINT_HIGH + 180:
            joint = QRectF(beside)
            joint.setTop(beside.bottom() - JOINT_HIGH)
            beside.setBottom(joint.top() - 12)
            self._paint_joint(p, joint)
        boxes = self._boxes(beside, len(rest))
        for nth, box in enumerate(boxes[: len(rest)]):
            self._paint_page(p, nth + 1, box)
        more = len(self._pages) - 1 - len(rest)
        if more > 0:
            words = f"and {more} more"
            foot = QRectF(beside.left(), beside.bottom() - 22, beside.width(), 22)
            ink = self.look.theme.ink2
            draw_text(p, foot, words, NOTE + 1, ink, Weight.BODY, RIGHT)

    def _page_box(self, room: QRectF, paper: Paper) -> QRectF:
        """A page as large as the room allows, at its left."""
        scale = min(room.width() / paper.width, room.height() / paper.height)
        return QRectF(room.left(), room.top(), paper.width * scale, paper.height * scale)

    def _boxes(self, room: QRectF, count: int) -> list[QRectF]:
        """Places of pages in a grid that leaves them largest."""
        if not count:
            return []
        paper = self._pages[0][0]
        best: list[QRectF] = []
        for columns in range(1, count + 1):
            rows = -(-count // columns)
            wide = (room.width() - GAP * (columns - 1)) / columns
            high = (room.height() - GAP * (rows - 1)) / rows
            scale = min(wide / paper.width, high / paper.height)
            if not best or scale * paper.width > best[0].width():
                best = [
                    QRectF(
                        room.left() + nth % columns * (paper.width * scale + GAP),
                        room.top() + nth // columns * (paper.height * scale + GAP),
                        paper.width * scale,
                        paper.height * scale,
                    )
                    for nth in range(count)
                ]
        return best

    def _paint_page(self, p: QPainter, number: int, box: QRectF) -> None:
        paper, paint = self._pages[number]

        def page(q: QPainter) -> None:
            q.fillRect(box, Qt.GlobalColor.white)
            q.translate(box.topLeft())
            q.scale(box.width() / paper.width, box.width() / paper.width)
            paint(q)

        self.stills.draw(p, ("page", self._count, number), box, page, QColor("white"))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(self.look.theme.line, 1.6))
        p.drawRect(box)

    def _paint_joint(self, p: QPainter, box: QRectF) -> None:
        """Where piece 1 lies on piece 2, at twice its size."""
        from true_compass.drawing.paper.joint import paint_joint

        theme, tape = self.look.theme, self._model.sizes.tape
        assert tape is not None
        title = QRectF(box.left(), box.top(), box.width(), 26)
        draw_text(
            p, title, "Where two pieces meet, twice the size", LABEL, theme.ink, Weight.STRONG
        )
        plate = box.adjusted(1, 30, -1, -1)
        rounded(p, plate, 6, theme.sheet, flat_pen(theme.line, 1.6))
        strips = QRectF(plate.left() + 8, plate.top() + 8, plate.width() - 16, 182)

        def joint(q: QPainter) -> None:
            q.fillRect(strips, Qt.GlobalColor.white)
            paint_joint(q, strips, tape, self._model.paper, TIMES * PX_PER_MM)

        self.stills.draw(p, ("joint", self._count), strips, joint, QColor("white"))
        y = strips.bottom() + 6
        words = QRectF(plate.left() + 12, y, plate.width() - 24, 22)
        lay = "Lay figure on figure; every tick of the lap must meet."
        draw_one_of(p, words, (lay, "Lay figure on figure."), BODY, theme.ink, Weight.LABEL)
        told = f"Round the damper the ends meet within {MEET_MM:g} mm ({tape.meet_deg:.1f}°)."
        draw_one_of(p, words.translated(0, 21), (told,), NOTE + 1, theme.ink2)


def _sentence(error: Exception) -> str:
    """An error as a sentence that begins with a capital."""
    words = error.in_words if isinstance(error, EngineError) else str(error)
    ended = words if words.endswith(".") else f"{words}."
    return capital(ended)
