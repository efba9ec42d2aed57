"""Signs: what it does, before anything is taken apart; and what a class can have made wrong."""

import random
from dataclasses import replace
from functools import partial
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton, TabButton
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.ignition.model import IgnitionModel
from true_compass.core.cautions import RUNNING
from true_compass.core.ignition.bay import (
    BLANK,
    Wrong,
    can_be_wrong,
    made_wrong,
    signs,
    what_is_wrong,
    wrongs_now,
)
from true_compass.drawing.codes import flat_pen, paint_tick
from true_compass.drawing.text import draw_one_of, draw_paragraph, draw_text, paragraph_height
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight

LEFT_WIDE: Final = 330.0
GAP: Final = 28.0
RIGHT_WIDE: Final = 300.0
WHERE: Final = (
    ("Leads", "Cap and plugs", "which lead is on which plug"),
    ("Fit", "Rotor and body", "where it points at the mark"),
    ("Lamp", "The timing lamp", "what the mark reads, hose off and on"),
)


class SignsView(PageView):
    """A list of what can be wrong at the left, the signs, and where to look."""

    to_page = pyqtSignal(str)

    def __init__(self, look: Look, model: IgnitionModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setAccessibleName("Signs")
        self.wrongs: dict[str, TabButton] = {}
        self.sound = DrawnButton(look, "All as it should be", self)
        self.sound.setObjectName("all_sound")
        self.sound.clicked.connect(self._all_sound)
        self.draw_one = DrawnButton(look, "Draw one", self)
        self.draw_two = DrawnButton(look, "Draw two", self)
        for button, count in ((self.draw_one, 1), (self.draw_two, 2)):
            button.setObjectName(f"draw_{count}")
            button.clicked.connect(partial(self.draw, count))
        self.show_wrong = DrawnButton(look, "Show what is wrong", self)
        self.show_wrong.setObjectName("show_wrong")
        self.show_wrong.clicked.connect(self._show_or_hide)
        self.say_it = StrongButton(look, "That is wrong", self)
        self.say_it.setObjectName("say_it")
        self.say_it.clicked.connect(self._say)
        self._said: tuple[str, ...] = ()
        self._answer = ""
        self.where = [DrawnButton(look, title, self) for _, title, _ in WHERE]
        for button, (page, title, note) in zip(self.where, WHERE, strict=True):
            button.setObjectName(f"look_{page.lower()}")
            button.set_words(title, note)
            button.clicked.connect(partial(self.to_page.emit, page))
        model.changed.connect(self.refresh)

    @property
    def _can(self) -> tuple[Wrong, ...]:
        return can_be_wrong(self._model.engine)

    # Making it wrong --------------------------------------------------------------------------

    def make(self, slugs: tuple[str, ...], turn: int, *, hidden: bool) -> None:
        """Another bay with these things wrong."""
        self._said, self._answer = (), ""
        bay = made_wrong(self._model.engine, slugs, turn)
        seen = self._model.bay.seen_turns
        self._model.begin_anew(replace(bay, hidden=hidden, seen_turns=seen), "making it wrong")

    def draw(self, count: int) -> None:
        """Something nobody in the room knows."""
        slugs = [wrong.slug for wrong in self._can]
        dice = random.Random()
        picked = tuple(dice.sample(slugs, min(count, len(slugs))))
        self.make(picked, dice.randrange(1000), hidden=True)

    def _choose(self, slug: str) -> None:
        """Make it wrong beside what is wrong already, or right again; or say that it is."""
        if self._model.standing.hides:
            said = set(self._said) ^ {slug}
            self._said = tuple(one.slug for one in self._can if one.slug in said)
            self.refresh()
            return
        wanted = set(wrongs_now(self._model.standing)) ^ {slug}
        slugs = tuple(one.slug for one in self._can if one.slug in wanted)
        self.make(slugs, random.Random().randrange(1000), hidden=False)

    def _say(self) -> None:
        """What the student found: right shows everything, wrong leaves it hidden."""
        if set(self._said) == set(wrongs_now(self._model.standing)):
            self._answer = "Right."
            self._model.write("saying what is wrong", hidden=False)
        else:
            self._answer = "Not that, or not that alone. Look again."
            self.refresh()

    def _all_sound(self) -> None:
        sound = replace(BLANK, seen_turns=self._model.bay.seen_turns)
        self._model.begin_anew(sound, "a sound engine")

    def _show_or_hide(self) -> None:
        self._model.write("showing what is wrong", hidden=not self._model.bay.hidden)

    # Showing ----------------------------------------------------------------------------------

    def show_state(self) -> None:
        """One button for everything that can be wrong on this engine."""
        wanted = {wrong.slug: wrong for wrong in self._can}
        if set(self.wrongs) != set(wanted):
            for button in self.wrongs.values():
                button.deleteLater()
            self.wrongs = {}
            for slug, wrong in wanted.items():
                button = TabButton(self.look, wrong.said.rstrip("."), self)
                button.setObjectName(f"wrong_{slug}")
                button.clicked.connect(partial(self._choose, slug))
                button.show()
                self.wrongs[slug] = button
        hides = self._model.standing.hides
        if not hides:
            self._said = ()
        checked = self._said if hides else wrongs_now(self._model.standing)
        for slug, button in self.wrongs.items():
            button.setChecked(slug in checked)
        self.show_wrong.setText("Show what is wrong" if hides else "Hide what is wrong")
        self.show_wrong.setEnabled(bool(what_is_wrong(self._model.standing)))
        self.say_it.setVisible(hides)
        self.say_it.setEnabled(bool(self._said))
        self.sound.setVisible(not hides)
        self.arrange()
        self.update()

    def arrange(self) -> None:
        """Three columns; the right one goes where there is no room."""
        put, wide, high = self.look.scaled, self.logical_width, self.logical_height
        count = max(len(self.wrongs), 1)
        room = high - 40 - 150
        low = room / count < 32.0
        rows, columns = (-(-count // 2), 2) if low else (count, 1)
        each, across = min(room / rows, 46.0), LEFT_WIDE / columns
        # Another engine may be open by now; its own list is made when the page is looked at.
        known = {wrong.slug: wrong for wrong in self._can}
        for nth, (slug, button) in enumerate(self.wrongs.items()):
            if slug not in known:
                continue
            wrong = known[slug]
            words = wrong.short if low else wrong.said.rstrip(".")
            button.setText(words)
            x, top = (nth % columns) * across, 40 + (nth // columns) * each
            button.setGeometry(put(x, top, across - (6 if low else 0), each - 6))
        y = 40 + rows * each
        half = (LEFT_WIDE - 8) / 2
        foot = min(y + 12, high - 138)
        self.draw_one.setGeometry(put(0, foot + 26, half, 42))
        self.draw_two.setGeometry(put(half + 8, foot + 26, half, 42))
        for key in (self.sound, self.say_it):
            key.setGeometry(put(0, foot + 76, half, 42))
        self.show_wrong.setGeometry(put(half + 8, foot + 76, half, 42))
        roomy = wide >= 1060
        y = 50.0
        for key, (page, _, _) in zip(self.where, WHERE, strict=True):
            # Where there is no room the words above lead there too.
            key.setVisible(roomy and (page != "Fit" or self._model.engine.has_rotor))
            if not key.isHidden():
                key.setGeometry(put(wide - RIGHT_WIDE, y, RIGHT_WIDE, 54))
                y += 62

    def paint(self, p: QPainter) -> None:
        """Titles, the signs in large type, what is left to do."""
        model, theme, wide = self._model, self.look.theme, self.logical_width
        hides = model.standing.hides
        heading = "What is wrong? Press it" if hides else "Make it wrong"
        draw_text(p, QRectF(0, 0, LEFT_WIDE, 30), heading, LEAD, theme.ink, Weight.STRONG)
        y = self.draw_one.geometry().top() / self.look.scale - 26
        words = "Or draw what nobody in the room knows:"
        draw_one_of(p, QRectF(0, y, LEFT_WIDE, 22), (words,), NOTE + 1, theme.ink2)
        left = LEFT_WIDE + GAP
        roomy = wide >= 1060
        right = wide - (RIGHT_WIDE + GAP if roomy else 0)
        standing = model.standing
        wrong = what_is_wrong(standing)
        head = "What does it do?" if wrong else "Everything is right"
        draw_text(p, QRectF(left, 0, right - left, 36), head, HEAD, theme.ink, Weight.STRONG)
        below = RUNNING if wrong else "It starts at once and runs evenly."
        draw_one_of(p, QRectF(left, 36, right - left, 24), (below,), BODY, theme.ink2)
        y = 84.0
        for sign in signs(standing):
            y = self._paint_sign(p, QRectF(left, y, right - left, 60), sign.where, sign.said)
        if self._answer and wrong:
            y += 16
            line = QRectF(left, y, right - left, 28)
            draw_text(p, line, self._answer, LEAD, theme.ink, Weight.STRONG)
            y += 22
        if not wrong:
            paint_tick(p, QPointF(left + 24, y + 40), 40, theme.ink)
        elif not hides:
            y += 16
            line = QRectF(left, y, right - left, 26)
            draw_text(p, line, "What is wrong", LABEL, theme.ink, Weight.STRONG)
            for sentence in wrong:
                y += 28
                draw_text(p, QRectF(left, y, right - left, 26), sentence, LABEL, theme.ink)
        if roomy:
            x = wide - RIGHT_WIDE
            title = QRectF(x, 0, RIGHT_WIDE, 30)
            draw_text(p, title, "Where to look", LEAD, theme.ink, Weight.STRONG)
            foot = QRectF(x, 50 + 62 * 3 + 10, RIGHT_WIDE, 160)
            draw_paragraph(p, foot, ORDER, BODY, theme.ink2)

    def _paint_sign(self, p: QPainter, box: QRectF, where: str, said: str) -> float:
        """A sign in type for the back row. Returns where the next begins."""
        theme = self.look.theme
        draw_text(p, QRectF(box.left(), box.top() + 4, 96, 28), where, BODY, theme.ink2)
        words = QRectF(box.left() + 100, box.top(), box.width() - 100, 120)
        high = paragraph_height(said, LEAD + 2, words.width())
        draw_paragraph(p, words, said, LEAD + 2, theme.ink, Weight.LABEL)
        y = box.top() + max(high, 30) + 12
        p.setPen(flat_pen(theme.hair, 1.2))
        p.drawLine(QPointF(box.left(), y - 4), QPointF(box.right(), y - 4))
        return y + 4


ORDER: Final = (
    "Leads first: they are seen without a tool. Then the rotor at the mark, with cylinder 1 on "
    "compression. The lamp last, once it runs."
)
