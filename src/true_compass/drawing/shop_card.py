"""The shop card: one page to hang beside the engine, black on white, read from two metres."""

from dataclasses import replace
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPolygonF

from true_compass.core.adjusting.schools import BY_WORD
from true_compass.core.adjusting.setting import Setting, settings_at, settings_of
from true_compass.core.adjusting.stops import Plan, Stop, StopItem, whole_degrees
from true_compass.core.adjusting.tasks import (
    FELT_AT_LAST,
    FULL_TAPPETS,
    preload_range_words,
    task_for,
)
from true_compass.core.cautions import CARE
from true_compass.core.crank.layout import Form
from true_compass.core.engine import Meaning
from true_compass.core.evidence.signs import looks_at, signs_at
from true_compass.core.evidence.where import mark_labels
from true_compass.core.items import ExtraKind, Item, Kind, Part
from true_compass.core.state import Rig, engine_state
from true_compass.core.units import band_words, thou_words, torque_words
from true_compass.core.valves.train import Adjuster
from true_compass.core.words import at_degrees, counted
from true_compass.drawing.codes import flat_pen, round_pen, rounded
from true_compass.drawing.dials import crank_direction
from true_compass.drawing.documents import A4, Document, DocumentError, Paint, Paper
from true_compass.drawing.ring import sense_of
from true_compass.drawing.sheet_text import BLACK, WHITE, SheetText
from true_compass.drawing.text import CENTRE, RIGHT, draw_paragraph, text_width
from true_compass.drawing.theme import Weight

MARGIN: Final = 44.0
EMPTY: Final = QColor("#8A8A8A")
WIDEST_STAR: Final = 5
"""Cylinders of a radial that one row can show large."""
MEANINGS: Final = {Meaning.TDC: "TDC", Meaning.FIRING: "firing", Meaning.OTHER: "other"}
PLANS_A_PAGE: Final = 4
LINES_A_PAGE: Final = 8
"""Lines of cells that one page holds large enough to be read."""
FOOT: Final = 262.0
NUT_HIGH: Final = 30.0
LOW: Final = 56.0
"""Cells lower than this have their box beside the words."""


def shop_card(rig: Rig, plan: Plan, name: str = "", origin: str = "") -> Document:
    """The card of a plan.

    `origin` says where the figures come from: engine as set, its digest, the day. `name` is the
    file that is suggested. Its pages raise `DocumentError` for a plan that is not safe.
    """
    title = f"{rig.engine.name}: {BY_WORD[plan.school].name}"
    file_name = name or f"card-{plan.school}"
    return Document(title, file_name, lambda paper: card_pages(rig, plan, paper, origin))


def card_pages(rig: Rig, plan: Plan, paper: Paper = A4, origin: str = "") -> list[Paint]:
    """Painters of the pages of a card. Raises `DocumentError` for a plan that is not safe."""
    if not plan.safe:
        raise DocumentError(f"{plan.least_item.off_words} at its stop: choose another method.")
    # The stops of a plan are those with work: number and turns are told as the plan has them.
    due = list(enumerate(plan.stops, start=1))
    if plan.swept:
        return [lambda p: Card(p, rig, plan, paper, origin).paint_sweep()]
    each = max(min(PLANS_A_PAGE, LINES_A_PAGE // len(_head_lines(rig))), 1)
    pages = [due[i : i + each] for i in range(0, len(due), each)]

    def page(number: int) -> Paint:
        def paint(p: QPainter) -> None:
            Card(p, rig, plan, paper, origin).paint(pages[number], number, len(pages))

        return paint

    return [page(number) for number in range(len(pages))]


def _is_star(rig: Rig) -> bool:
    layout = rig.engine.layout
    return layout.form is Form.RADIAL or len({seat.bank for seat in layout.seats}) > 4


def _head_lines(rig: Rig) -> list[tuple[str, list[Item]]]:
    """What stands along the heads, line by line, each with the name of its bank."""
    rows = _star_rows(rig) if _is_star(rig) else _bank_rows(rig)
    return [
        (name, line)
        for name, cylinders, pattern in rows
        for line in _along(rig, cylinders, pattern)
        if line
    ]


def _bank_rows(rig: Rig) -> list[tuple[str, list[int], str]]:
    """Name, cylinders and valve pattern of each head."""
    engine, layout = rig.engine, rig.engine.layout
    banks = sorted({seat.bank for seat in layout.seats})
    names = [layout.banks[bank].name if len(banks) > 1 else "" for bank in banks]
    return [
        (name, list(layout.on_bank(bank)), engine.valves_along(bank))
        for name, bank in zip(names, banks, strict=True)
    ]


def _star_rows(rig: Rig) -> list[tuple[str, list[int], str]]:
    """A radial in cylinder order: row by row, or one row in two lines if it is long."""
    layout = rig.engine.layout
    rows = [list(layout.on_throw(throw)) for throw in range(len(layout.throws))]
    names = ["front", "rear"] if len(rows) == 2 else [""] * len(rows)
    if len(rows) == 1 and len(rows[0]) > WIDEST_STAR:
        half = (len(rows[0]) + 1) // 2
        rows, names = [rows[0][:half], rows[0][half:]], ["", ""]
    return [(name, row, "IE" * len(row)) for name, row in zip(names, rows, strict=True)]


def _along(rig: Rig, cylinders: list[int], pattern: str) -> list[list[Item]]:
    """Bridges, valves, levers, brakes and injectors along a head, from the front."""
    settable = set(rig.items)
    valves: list[Item] = []
    extras: list[Item] = []
    for place, cylinder in enumerate(cylinders):
        pair = pattern[2 * place : 2 * place + 2]
        letters = pair if sorted(pair) == ["E", "I"] else "IE"
        kinds = {kind.letter: kind for kind in Kind}
        valves += [Item(kinds[letter], cylinder) for letter in letters]
        extras += [Item(ExtraKind.BRAKE, cylinder), Item(ExtraKind.INJECTOR, cylinder)]
    bridges = [replace(item, part=Part.BRIDGE) for item in valves]
    levers = [replace(item, part=Part.VARIABLE) for item in valves]
    lines = (bridges, valves, levers, extras)
    return [[item for item in line if item in settable] for line in lines]


class Card:
    """Paints one page."""

    def __init__(self, p: QPainter, rig: Rig, plan: Plan, paper: Paper, origin: str) -> None:
        self.p, self.text = p, SheetText(p)
        self.rig = rig
        self.plan = plan
        self.origin = origin
        self.width, self.height = paper.width, paper.height

    def paint(self, stops: list[tuple[int, Stop]], page: int, pages: int) -> None:
        """The whole page, from the top."""
        y = self._head(page, pages)
        y = self._lash(y)
        foot = self.height - FOOT
        if page == pages - 1:
            high = self._round_high()
            self._last_round(QRectF(MARGIN, foot - high, self.width - 2 * MARGIN, high))
            foot -= high
        room = (foot - y) / len(stops)
        for place, (number, stop) in enumerate(stops):
            box = QRectF(MARGIN, y + place * room, self.width - 2 * MARGIN, room - 34)
            self._stop(box, number, stop)
            following = self._after(number)
            if following:
                self._turn(QRectF(MARGIN, box.bottom(), box.width(), 34), following)
        foot = self.height - FOOT
        self._foot(QRectF(MARGIN, foot + 6, self.width - 2 * MARGIN, self.height - foot - 6))

    def paint_sweep(self) -> None:
        """A sweep on one page: slacken, eight quarters to tick, then the preload on all."""
        y = self._lash(self._head(0, 1))
        foot, wide = self.height - FOOT, self.width - 2 * MARGIN
        steps = (
            "1   Slacken every adjuster until it clacks. Begin anywhere; chalk the damper there.",
            "2   Take up to zero lash whatever is loose, and nothing else. Turn a quarter on. "
            "Eight quarters, two full turns:",
        )
        for line in steps:
            y = draw_paragraph(self.p, QRectF(MARGIN, y, wide, 80), line, 22, BLACK) + 8
        each = (wide - 7 * 10) / 8
        for number in range(8):
            box = QRectF(MARGIN + number * (each + 10), y + 4, each, 74)
            rounded(self.p, box, 6, None, flat_pen(BLACK, 3))
            self.text(box.adjusted(14, 0, 0, 0), str(number + 1), 30, Weight.STRONG)
            tick = QRectF(box.right() - 40, box.center().y() - 14, 28, 28)
            rounded(self.p, tick, 3, None, flat_pen(BLACK, 2.4))
        y += 96
        train, kind = self.rig.engine.train, self.rig.engine.valves[0].kind
        told = preload_range_words(train, kind) or "as the maker says"
        last = (
            f"3   Then only so much tighter on all, wherever the crank stands: {told}. Do not look "
            "for zero again."
        )
        y = draw_paragraph(self.p, QRectF(MARGIN, y, wide, 80), last, 22, BLACK) + 4
        after = f"{FULL_TAPPETS} {FELT_AT_LAST}"
        y = draw_paragraph(self.p, QRectF(MARGIN + 34, y, wide - 34, 80), after, 19, BLACK) + 8
        box = QRectF(MARGIN, y, wide, foot - y - 14)
        rounded(self.p, box, 6, None, flat_pen(BLACK, 3.4))
        stop = Stop(self.plan.stops[-1].crank_deg, self.plan.swept)
        self._heads(box.adjusted(16, 10, -16, -10), stop)
        self._foot(QRectF(MARGIN, foot + 6, wide, self.height - foot - 6))

    def _after(self, number: int) -> str:
        if number >= len(self.plan.stops):
            return ""
        turn = self.plan.stops[number].turn_deg
        if abs(turn - 360.0) < 0.05:
            return "then one full turn, 360° on"
        return f"then turn {turn:.4g}° on"

    def _head(self, page: int, pages: int) -> float:
        engine = self.rig.engine
        wide = self.width - 2 * MARGIN
        name = engine.name if pages == 1 else f"{engine.name} ({page + 1} of {pages})"
        self.text(QRectF(MARGIN, 36, wide - 250, 60), name, 50, Weight.STRONG)
        count = sum(valve.count for valve in engine.valves)
        kind = "hydraulic" if engine.train.hydraulic else "solid"
        line = f"{engine.layout_words}, {count} valves, {kind} tappets, {engine.train.kind.short}"
        self.text(QRectF(MARGIN, 98, wide - 250, 30), line, 20)
        school, cam = BY_WORD[self.plan.school], engine.cam
        solved = school.word in ("fewest", "most-margin")
        how = f"{len(self.plan.stops)} stops" if solved else school.how
        durations = f"I {cam.intake.duration_deg:.4g}°, E {cam.exhaust.duration_deg:.4g}°"
        line = f"{school.name}: {how}. Cam {durations}, ramps left out."
        self.text(QRectF(MARGIN, 126, wide - 250, 28), line, 17)
        self._rotation(QPointF(self.width - MARGIN - 206, 78))
        y = 162.0
        self.text(QRectF(MARGIN, y, 80, 48), "Fires", 26, Weight.STRONG)
        groups = engine.firing_groups
        each = min(62.0, (wide - 96) / len(groups) - 6)
        for place, group in enumerate(groups):
            box = QRectF(MARGIN + 90 + place * (each + 6), y, each, 46)
            first = place == 0
            rounded(self.p, box, 4, BLACK if first else None, flat_pen(BLACK, 2.4))
            words = "+".join(map(str, group))
            colour = WHITE if first else BLACK
            self.text(box, words, min(28, each * 0.55), Weight.STRONG, CENTRE, colour)
        return y + 58

    def _rotation(self, middle: QPointF) -> None:
        p, engine = self.p, self.rig.engine
        sense = sense_of(engine)
        arc = [crank_direction(a, sense) * 34 for a in range(-140, 131, 6)]
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(round_pen(BLACK, 6))
        p.drawPolyline(QPolygonF([middle + at for at in arc]))
        tip, out = crank_direction(152, sense), crank_direction(130, sense)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(BLACK)
        head = [out * 46, out * 22, tip * 34]
        p.drawPolygon(QPolygonF([middle + at for at in head]))
        words = QRectF(middle.x() + 50, middle.y() - 32, 170, 32)
        self.text(words, engine.rotation.value.capitalize(), 24, Weight.STRONG)
        self.text(words.translated(0, 32), f"seen from the {engine.seen_from.value}", 18)

    def _lash(self, y: float) -> float:
        engine = self.rig.engine
        first = ";  ".join(filter(None, (self._bands(), self._marks())))
        others = [line for line in (first, self._other_gaps(), self._singles()) if line]
        box = QRectF(MARGIN, y, self.width - 2 * MARGIN, 58)
        below = box.bottom() + 28 * len(others)
        self.p.fillRect(box.adjusted(0, 0, 0, below - box.bottom()), BLACK)
        for place, words in enumerate(others):
            line = QRectF(box.left() + 18, box.bottom() - 4 + 28 * place, box.width() - 36, 28)
            self.text(line, words, 19, Weight.LABEL, colour=WHITE)
        if engine.train.hydraulic:
            told = preload_range_words(engine.train, engine.valves[0].kind)
            words = f"Zero lash, then {told or 'the maker’s preload'}"
            self.text(box.adjusted(18, 0, -18, 0), words, 26, Weight.STRONG, colour=WHITE)
            return below + 12
        used = box.left() + 18
        head = "Lash, hot" if engine.lash_hot else "Lash, cold"
        where = engine.train.lash_at.words
        self.text(QRectF(used, y + 34, 170, 22), where, 15, Weight.BODY, colour=WHITE)
        self.text(QRectF(used, y + 3, 170, 36), head, 25, Weight.LABEL, colour=WHITE)
        used += 176
        for valve in engine.valves[:2]:
            timing = engine.cam.timing(valve.kind)
            if timing.suction:
                continue
            mm = f"{valve.kind.letter} {timing.lash_mm:.2f} mm"
            used += self.text(QRectF(used, y, 220, 58), mm, 34, Weight.STRONG, colour=WHITE) + 12
            thou = thou_words(timing.lash_mm)
            used += self.text(QRectF(used, y, 110, 58), thou, 22, Weight.BODY, colour=WHITE) + 26
        return below + 12

    def _other_gaps(self) -> str:
        """What else is set: levers, brakes, injectors; one figure serves each kind of them."""
        told: dict[tuple[Kind | ExtraKind, Part], str] = {}
        for item in self.rig.items:
            kind = item.kind, item.part
            if item.part is Part.BRIDGE or item.is_valve or kind in told:
                continue
            task = task_for(self.rig.engine, item)
            word = item.kind.value if isinstance(item.kind, ExtraKind) else item.part.value
            told[kind] = f"{word} {item.kind.letter} {task.target_words}"
        return ";  ".join(told.values())

    def _singles(self) -> str:
        """Items of this plan that have an adjuster or a shim for each of their valves."""
        engine = self.rig.engine
        due = {item.item for stop in self.plan.stops for item in stop.items}
        counts: dict[str, int] = {}
        for item in due:
            count = len(settings_at(engine, item))
            if count > 1:
                counts[item.kind.letter] = count
        what = "shim" if engine.train.adjuster is Adjuster.SHIM else "adjuster"
        told = [f"every {letter}: {counted(count, what)}" for letter, count in counts.items()]
        return f"{', '.join(sorted(told, reverse=True))}; the front one is a" if told else ""

    # The last round ---------------------------------------------------------------------------

    @property
    def _nuts(self) -> list[Setting]:
        """What gets the torque wrench when all are set, front first."""
        due = {item.item for stop in self.plan.stops for item in stop.items}
        own = settings_of(self.rig.engine)
        return [one for one in own if one.nut_in_last_round and one.due in due]

    def _by_torque(self) -> list[tuple[str, list[str]]]:
        """The nuts of each torque, and what the torque is."""
        found: dict[float, list[str]] = {}
        for one in self._nuts:
            found.setdefault(one.tools.torque_nm, []).append(one.name)
        return [
            (torque_words(nm) if nm else "the maker's torque", names) for nm, names in found.items()
        ]

    @property
    def _nut_wide(self) -> float:
        """Room for the longest name, which is never cut."""
        return 30.0 + max(text_width(one.name, 17, Weight.LABEL) for one in self._nuts) + 14

    def _per_row(self) -> int:
        return int((self.width - 2 * MARGIN) // self._nut_wide)

    def _round_high(self) -> float:
        rows = sum(-(-len(names) // self._per_row()) for _, names in self._by_torque())
        return 30.0 * len(self._by_torque()) + NUT_HIGH * rows + 6 if rows else 0.0

    def _last_round(self, box: QRectF) -> None:
        """Every nut with a box for wrench and stripe: torque is put on when all are set."""
        y = box.top()
        for told, names in self._by_torque():
            words = f"Last round: {told} on every nut, and a paint stripe across it"
            self.text(QRectF(box.left(), y, box.width(), 28), words, 20, Weight.STRONG)
            y += 30
            for place, name in enumerate(names):
                x = box.left() + (place % self._per_row()) * self._nut_wide
                row = y + place // self._per_row() * NUT_HIGH
                tick = QRectF(x, row + 3, 20, 20)
                rounded(self.p, tick, 3, None, flat_pen(BLACK, 2.0))
                at = QRectF(x + 25, row, self._nut_wide - 28, 26)
                self.text(at, name, 17, Weight.LABEL)
            y += NUT_HIGH * -(-len(names) // self._per_row())

    def _bands(self) -> str:
        """Both ends between which a gap is left as it is."""
        engine = self.rig.engine
        told = [
            f"{kind.letter} {band_words(band, engine.gap_unit)}"
            for kind in Kind
            if (band := engine.train.accepted_mm(kind)) is not None
        ]
        return f"accepted {', '.join(told)}" if told and not engine.train.hydraulic else ""

    def _marks(self) -> str:
        """The marks of this engine and what they mean."""
        told = [
            f"{label} at {self.rig.mark_deg(mark):.4g}° ({MEANINGS[mark.meaning]})"
            for label, mark in zip(mark_labels(self.rig), self.rig.engine.marks, strict=True)
        ]
        return f"marks: {', '.join(told)}" if told else ""

    def _stop(self, box: QRectF, number: int, stop: Stop) -> None:
        rounded(self.p, box, 6, None, flat_pen(BLACK, 3.4))
        head = QRectF(box.left() + 18, box.top() + 4, 150, 44)
        self.text(head, f"Stop {number}", 32, Weight.STRONG)
        state = engine_state(self.rig, stop.crank_deg)
        words = []
        for cylinder in self.rig.engine.cylinders:
            if state.at_compression_tdc[cylinder - 1]:
                words.append(f"{cylinder} compression TDC")
        for cylinder in self.rig.engine.cylinders:
            if state.at_overlap_tdc[cylinder - 1]:
                words.append(f"{cylinder} rocking (overlap)")
        line = "; ".join(words) or stop.sign or f"at {stop.crank_deg:.4g}°"
        right = QRectF(box.left() + 170, box.top() + 4, box.width() - 188, 44)
        at = f"{at_degrees(stop.crank_deg)}"
        self.text(right, at, 24, Weight.STRONG, RIGHT)
        self.text(right.adjusted(0, 0, -90, 0), line, 23, Weight.LABEL)
        self._heads(box.adjusted(16, 50, -16, -10), stop)

    def _heads(self, box: QRectF, stop: Stop) -> None:
        """The valves of each head in their places; what is not due is an empty outline."""
        star = _is_star(self.rig)
        due = {item.item: item for item in stop.items}
        lines = _head_lines(self.rig)
        # The halves of a star have cells of one width; heads of a bank fill their row.
        widest = max(len(items) for _, items in lines)
        high = min(box.height() / len(lines), 132.0)
        top = box.top() + (box.height() - high * len(lines)) / 2
        for place, (name, items) in enumerate(lines):
            row = QRectF(box.left() + 62, top + place * high, box.width() - 62, high - 6)
            words = QRectF(box.left(), row.top(), 56, row.height() * 0.5)
            self.text(words, name, min(30.0, row.height() * 0.5), Weight.STRONG)
            if place == 0 and not star:
                self._front(QPointF(box.left(), row.bottom() - min(12.0, row.height() * 0.22)))
            each = row.width() / (widest if star else len(items))
            for number, item in enumerate(items):
                cell = QRectF(row.left() + number * each, row.top(), each - 4, row.height())
                self._item(cell, item, due.get(item))

    def _front(self, at: QPointF) -> None:
        """Which end of the heads is the front."""
        self.p.setPen(Qt.PenStyle.NoPen)
        self.p.setBrush(BLACK)
        corners = [QPointF(0, 0), QPointF(11, -8), QPointF(11, 8)]
        self.p.drawPolygon(QPolygonF([at + corner for corner in corners]))
        self.text(QRectF(at.x() + 14, at.y() - 11, 46, 22), "front", 15)

    def _item(self, cell: QRectF, item: Item, due: StopItem | None) -> None:
        radius = min(cell.width(), cell.height()) * 0.28 if item.rounded else 2.0
        cell = cell.adjusted(0, 2, 0, -2)
        px = min(34.0, cell.width() * 0.42, cell.height() * 0.5)
        name = item.code
        if item.part is not Part.WHOLE:
            self._part(cell, radius, name, item.part.value, due)
            return
        if due is None:
            rounded(self.p, cell, radius, None, flat_pen(EMPTY, 1.6))
            self.text(cell, name, px * 0.7, Weight.BODY, CENTRE, EMPTY)
            return
        rounded(self.p, cell, radius, BLACK, None)
        figure, wide = f"{whole_degrees(due.margin_deg)}°", cell.width() >= 84
        if cell.height() < LOW:
            self._low_item(cell, name, figure)
            return
        if not wide:
            px = min(px, cell.height() * 0.36)
        share = 0.52 if wide else 0.42
        top = QRectF(cell.left(), cell.top() + 2, cell.width(), cell.height() * share)
        self.text(top, name, px, Weight.STRONG, CENTRE, WHITE)
        side = min(22.0, cell.width() * 0.4, cell.height() * 0.24)
        if wide:
            y = cell.top() + cell.height() * 0.72
            margin = QRectF(cell.left() + 4, y - 13, cell.width() - side - 12, 26)
            box = QRectF(cell.right() - side - 8, y - side / 2, side, side)
        else:  # one below the other
            high = cell.height() * 0.26
            margin = QRectF(cell.left(), cell.top() + cell.height() * 0.41, cell.width(), high)
            y = cell.bottom() - side - cell.height() * 0.07
            box = QRectF(cell.center().x() - side / 2, y, side, side)
        self.text(margin, figure, max(min(19.0, px * 0.68), 14.0), Weight.LABEL, CENTRE, WHITE)
        rounded(self.p, box, 3, WHITE, None)

    def _low_item(self, cell: QRectF, name: str, figure: str) -> None:
        """A cell without the height for a box of its own line: it stands beside the words."""
        wide = cell.width() >= 84
        side = min(20.0, cell.height() * (0.46 if wide else 0.3))
        aside = side + 6
        words = cell.adjusted(4, 1, -4, -1)
        upper = words.adjusted(0, 0, -aside if wide else 0, -words.height() * 0.48)
        px = min(26.0, upper.height(), upper.width() * 0.42)
        self.text(upper, name, px, Weight.STRONG, CENTRE, WHITE)
        lower = words.adjusted(0, words.height() * 0.5, -aside, 0)
        px = min(18.0, lower.height() * 0.94, lower.width() / (0.6 * len(figure)))
        self.text(lower, figure, px, Weight.LABEL, CENTRE, WHITE)
        y = (cell if wide else lower).center().y()
        box = QRectF(cell.right() - side - 6, y - side / 2, side, side)
        rounded(self.p, box, 3, WHITE, None)

    def _part(
        self, cell: QRectF, radius: float, name: str, part: str, due: StopItem | None
    ) -> None:
        """What belongs to a rocker and is free with it: its name, what it is, a box."""
        ink, fill = (EMPTY, None) if due is None else (WHITE, BLACK)
        rounded(self.p, cell, radius, fill, flat_pen(EMPTY, 1.6) if due is None else None)
        wide = cell.width() > cell.height() * 1.3
        side = min(20.0, cell.height() * 0.26, cell.width() * 0.4)
        # Wide cells have the box at the right, narrow ones below.
        words = cell.adjusted(2, 2, -side - 10, -2) if wide else cell.adjusted(2, 2, -2, -side - 6)
        px = min(26.0, words.height() * 0.46, words.width() * 0.42)
        small = min(15.0, px, words.width() / (0.56 * len(part)))
        upper = QRectF(words.left(), words.top(), words.width(), words.height() * 0.52)
        self.text(upper, name, px, Weight.STRONG, CENTRE, ink)
        lower = QRectF(words.left(), upper.bottom(), words.width(), words.height() * 0.44)
        self.text(lower, part, small, Weight.BODY, CENTRE, ink)
        if due is not None:
            at = QPointF(cell.right() - side / 2 - 8, cell.center().y())
            if not wide:
                at = QPointF(cell.center().x(), cell.bottom() - side / 2 - 4)
            rounded(
                self.p, QRectF(at.x() - side / 2, at.y() - side / 2, side, side), 3, WHITE, None
            )

    def _turn(self, box: QRectF, words: str) -> None:
        self.text(box, words, 23, Weight.STRONG, CENTRE)
        self.p.setPen(Qt.PenStyle.NoPen)
        self.p.setBrush(BLACK)
        for x in (box.left() + 130, box.right() - 130):
            tip = QPointF(x, box.center().y() + 9)
            corners = [tip, tip + QPointF(-15, -18), tip + QPointF(15, -18)]
            self.p.drawPolygon(QPolygonF(corners))

    def _foot(self, box: QRectF) -> None:
        p, half = self.p, (box.width() - 30) / 2
        self.text(
            QRectF(box.left(), box.top(), half, 28), "How to know you are there", 21, Weight.STRONG
        )
        y = box.top() + 30
        for line in self._evidence():
            y = self._bullet(box.left(), y, half, line)
        right = box.left() + half + 30
        self.text(QRectF(right, box.top(), half, 28), "Care", 21, Weight.STRONG)
        y = box.top() + 30
        # A sweep finds the base circle by its quarters; its preload asks for none.
        for line in CARE if not self.plan.swept else (*CARE[:2], *CARE[3:]):
            y = self._bullet(right, y, half, line)
        foot = self.height - 46
        p.setPen(flat_pen(BLACK, 1.4))
        p.drawLine(QPointF(box.left(), foot - 4), QPointF(box.right(), foot - 4))
        least = self.plan.least_item
        figure = f"{whole_degrees(least.margin_deg)}° ({least.name})"
        words = f"A figure is how far the crank may be off. Least: {figure}."
        self.text(QRectF(box.left(), foot, box.width() - 300, 20), words, 14)
        self.text(QRectF(box.left(), foot + 18, box.width() - 300, 20), self.origin, 13)
        signed = "Set by ______________  Date __________"
        self.text(QRectF(box.right() - 290, foot, 290, 24), signed, 14, Weight.BODY, RIGHT)

    def _bullet(self, x: float, y: float, width: float, words: str) -> float:
        self.p.fillRect(QRectF(x, y + 7, 8, 8), BLACK)
        box = QRectF(x + 18, y, width - 18, 90)
        return draw_paragraph(self.p, box, words, 17, BLACK) + 3

    def _evidence(self) -> list[str]:
        lines = []
        if self.plan.swept:
            return [
                "No place is needed, only the count of quarters.",
                "Can mislead: a tappet that is pumped up; a quarter lost in counting.",
            ]
        for number, stop in list(enumerate(self.plan.stops, start=1))[:2]:
            looks = looks_at(self.rig, stop)[:1]
            lines.append(f"Stop {number}: {'; '.join(looks) or 'a degree scale from TDC'}.")
        fools = [
            s.fooled_by for s in signs_at(self.rig, self.plan.stops[0].crank_deg) if s.fooled_by
        ]
        if fools:
            lines.append(f"Can mislead: {fools[0]}.")
        return lines
