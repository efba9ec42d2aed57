"""The page of the cam as its views see it: the sheet of readings, what is asked, what it says.

It owns no reading: every entry goes through the session, which keeps it and can undo it.
"""

from dataclasses import replace
from typing import Any, Final

from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.app.desk import Desk
from true_compass.app.workspaces.cam.asking import Question
from true_compass.core.degreeing.centreline import SIDE
from true_compass.core.degreeing.found import (
    Found,
    check_drop,
    check_entry,
    found,
    odd_words,
    usual_station,
)
from true_compass.core.degreeing.sheet import (
    Cell,
    Gauge,
    NosePair,
    Part,
    Setup,
    Sheet,
    begun,
    entered,
    figure_at,
    last_top,
    next_cell,
    order_of_reading,
    pair_changed,
    pointer_moved,
    pointer_set,
    top_kept,
    with_depth,
    with_drop,
)
from true_compass.core.degreeing.top import true_top
from true_compass.core.degreeing.wheel import Scale
from true_compass.core.engine import Engine
from true_compass.core.items import Item, Kind
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.core.units import GapUnit, parse_length_mm, parse_number

THOU_MM: Final = 0.0254


class CamModel(QObject):
    """One degreeing of the open engine."""

    changed = pyqtSignal()
    line_moved = pyqtSignal()
    """The encoder on the line told another angle."""

    def __init__(self, desk: Desk, parent: QObject) -> None:
        super().__init__(parent)
        self.desk = desk
        self.keeper = desk.cam()
        self.picked: Cell | None = None
        self.refused = ""
        self._left_pointer = False
        self._piston: tuple[Kind, int] | None = None
        self._known: tuple[Rig, Sheet, Found] | None = None
        self.depth: tuple[Part, int | None] | None = None
        """The row whose drop is asked for, or one more row of a nose (None)."""
        self._next: tuple[Sheet, Cell | None] | None = None
        self.line_crank_deg: float | None = None
        """Where an encoder on the line says that the crank stands, from its own zero; or None."""
        desk.bridge.cam_changed.connect(self._on_change)
        desk.bridge.engine_changed.connect(self._on_engine)
        desk.bridge.bench_changed.connect(self.changed)

    def _on_change(self) -> None:
        # Undo or another engine may have taken the row away that was asked for.
        self.refused, self.picked, self.depth = "", None, None
        if self._piston is not None:
            kind, row = self._piston
            pairs = self.sheet.now.pairs(self.cylinder, kind)
            if row >= len(pairs) or not pairs[row].complete:
                self._piston = None
        self.changed.emit()

    def _on_engine(self) -> None:
        self._piston, self._left_pointer = None, False
        self._on_change()

    # What is open -----------------------------------------------------------------------------

    @property
    def rig(self) -> Rig:
        """The engine as set."""
        return self.desk.session.state.rig

    @property
    def engine(self) -> Engine:
        """The engine that is open."""
        return self.rig.engine

    @property
    def sheet(self) -> Sheet:
        """The readings."""
        sheet = self.keeper.attach()
        if sheet.cylinder > self.engine.cylinder_count:
            sheet = replace(sheet, cylinder=1)
        return sheet

    @property
    def setup(self) -> Setup:
        """The instruments as they were named, or the usual ones."""
        return self.sheet.setup or self.usual_setup

    @property
    def usual_setup(self) -> Setup:
        """What is offered first on this engine."""
        inches = self.engine.gap_unit is GapUnit.THOU
        gauge = Gauge(inches=inches, station=usual_station(self.rig))
        if inches:
            gauge = replace(gauge, turn_mm=2.54, step_mm=THOU_MM)
        return Setup(gauge=gauge)

    @property
    def kinds(self) -> tuple[Kind, ...]:
        """The kinds of valve that a lobe drives."""
        return tuple(kind for kind in Kind if not self.engine.cam.timing(kind).suction)

    @property
    def result(self) -> Found:
        """What the last round says."""
        rig, sheet = self.rig, self.sheet
        if self._known is None or self._known[0] is not rig or self._known[1] is not sheet:
            self._known = (rig, sheet, found(rig, sheet))
        return self._known[2]

    @property
    def cylinder(self) -> int:
        """The cylinder that is read."""
        return self.sheet.cylinder

    def item(self, kind: Kind) -> Item:
        """The valve of that cylinder."""
        return Item(kind, self.cylinder)

    @property
    def after_tdc_deg(self) -> float:
        """Where the crank stands, crank degrees after that cylinder's overlap TDC, ±360."""
        if self.line_crank_deg is not None:
            return (self.line_crank_deg + 180.0) % 360.0 - 180.0
        state = self.desk.session.state
        overlap = float(self.rig.true_offsets_deg[self.cylinder - 1]) + 360.0
        return (state.crank_deg - overlap + 360.0) % 720.0 - 360.0

    # What is asked ----------------------------------------------------------------------------

    @property
    def asked(self) -> Cell | None:
        """The reading that is due: the one that was chosen, or the next in running order."""
        if self.sheet.setup is None or self.depth is not None:
            return None
        if self.picked is not None:
            return self.picked
        sheet = self.sheet
        if self._next is None or self._next[0] is not sheet:
            self._next = (sheet, next_cell(sheet, self.kinds))
        return self._next[1]

    @property
    def asked_pair(self) -> NosePair | None:
        """The pair at a nose that is asked for, or None."""
        cell = self.asked
        if cell is None or cell.part is Part.TOP:
            return None
        return self.sheet.now.pairs(self.cylinder, cell.part.kind)[cell.row]

    @property
    def question(self) -> Question | None:
        """What is asked beside a figure, or None."""
        if self.picked is not None or self.depth is not None:
            return None
        if self._piston is not None:
            return Question(
                "Look at the piston",
                "What does the piston do there?",
                (("It falls", "falls"), ("It rises", "rises"), ("Not looked at", "unseen")),
                usual=2,
            )
        if self.result.waits is not None:
            return self._waiting_question(self.result.waits[0])
        odd = self.misread
        if odd is not None:
            nose = self.result.noses[odd[0]].nose
            walk = max(p.middle_deg for p in nose.pairs) - min(p.middle_deg for p in nose.pairs)
            keep = f"Keep it: walk {walk:.1f}°"
            told = odd_words(self.rig, self.sheet, self.result.noses[odd[0]])
            return Question("Misread?", told, (("Read again", "again"), (keep, "keep")))
        if self._pointer_is_off:
            top = self.result.top
            assert top is not None
            return Question(
                "Set the pointer",
                f"Standing at the second reading, set the pointer to {top.top.set_to_deg:g}°.",
                (
                    ("Pointer is set", "set"),
                    (f"Leave it: take off {abs(top.top.shift_deg):g}°", "leave"),
                ),
            )
        return None

    def _waiting_question(self, sentence: str) -> Question:
        """Readings that cannot be: read one of them again, or keep them on purpose."""
        top, disorder = self.result.top, self.result.disorder
        if top is not None and top.held:
            mend = () if top.meant is None else ((f"It read {top.meant[1]:g}", "meant"),)
            return Question(
                "Does it fit its drop?",
                sentence,
                (*mend, ("Read again", "again"), ("Keep it", "keep")),
                usual=len(mend),
            )
        assert disorder is not None
        drops = [
            self.mm_words(self.sheet.now.pairs(self.cylinder, disorder.kind)[place].drop_mm)
            for place in disorder.places
        ]
        return Question(
            "Misread?",
            sentence,
            (
                (f"Read {drops[0]} again", "first"),
                (f"Read {drops[1]} again", "second"),
                ("Keep both", "keep"),
            ),
        )

    def _answer_waiting(self, word: str) -> None:
        """Act on an answer to the question about readings that cannot be."""
        sheet, top, disorder = self.sheet, self.result.top, self.result.disorder
        row = last_top(sheet.now)
        if top is not None and top.held and row is not None:
            if word == "keep":
                self.write(top_kept(sheet), "a kept pair about TDC")
            elif word == "meant" and top.meant is not None:
                side, figure = top.meant
                cell = Cell(Part.TOP, row, after=side == "after")
                self.write(entered(sheet, cell, figure), f"reading {figure:g}")
            else:
                self.pick(Cell(Part.TOP, row, after=False))
        elif disorder is not None and word == "keep":
            for place in disorder.places:
                sheet = pair_changed(sheet, disorder.kind, place, kept=True)
            self.write(sheet, "kept readings")
        elif disorder is not None:
            place = disorder.places[word == "second"]
            self.pick(Cell(Part.of(disorder.kind), place, disorder.after))

    @property
    def after_piston_kind(self) -> Kind | None:
        """The kind of nose whose piston is asked about, or None."""
        return None if self._piston is None else self._piston[0]

    @property
    def _pointer_is_off(self) -> bool:
        cell, top = self.asked, self.result.top
        if top is None or top.top.is_set or self._left_pointer:
            return False
        if self.result.correction_deg == 0.0 or (cell is not None and cell.part is Part.TOP):
            return False
        rows = (pair for nose in self.sheet.now.noses for pair in nose.pairs if not pair.void)
        return all(pair.before is None and pair.after is None for pair in rows)

    @property
    def misread(self) -> tuple[Kind, int] | None:
        """Kind and row of the pair that looks misread, or None."""
        for kind, nose in self.result.noses.items():
            if nose.nose.odd:
                return kind, nose.rows[nose.nose.odd[-1]]
        return None

    def answer(self, word: str) -> None:
        """Take an answer to the question."""
        sheet = self.sheet
        if word in ("falls", "rises", "unseen") and self._piston is not None:
            self._answer_piston(word)
        elif self.result.waits is not None:
            self._answer_waiting(word)
        elif word == "again" and self.misread is not None:
            kind, row = self.misread
            self.pick(Cell(Part.of(kind), row, after=True))
        elif word == "keep" and self.misread is not None:
            kind, row = self.misread
            self.write(pair_changed(sheet, kind, row, kept=True), "a kept reading")
        elif word == "set":
            self.write(pointer_set(sheet), "the pointer set")
        elif word == "leave":
            self._left_pointer = True
            self.changed.emit()

    def _answer_piston(self, word: str) -> None:
        assert self._piston is not None
        kind, row = self._piston
        self._piston = None
        if word == "unseen":
            self.changed.emit()
            return
        falls = word == "falls"
        self.write(pair_changed(self.sheet, kind, row, falls=falls), f"the piston {word}")
        if falls is not (kind is Kind.INTAKE):
            of, own = ("intake", "exhaust") if falls else ("exhaust", "intake")
            self.refused = (
                f"The piston {word} there, so this is an {of} nose, or the side of TDC was changed "
                f"about: the pair does not count as {own}. Read it again."
            )
            self.picked = Cell(Part.of(kind), row, after=False)
            self.changed.emit()

    # Entries ----------------------------------------------------------------------------------

    def write(self, sheet: Sheet, words: str) -> None:
        """Put another state of the sheet, as one step of undo."""
        if sheet == self.sheet:
            self._on_change()
        else:
            self.desk.session.write_cam(sheet, words)

    def name_setup(self, setup: Setup) -> None:
        """The instruments are these. Rows for the first readings stand ready from now on."""
        self.write(begun(replace(self.sheet, setup=setup), self.kinds), "the set-up")

    def choose_cylinder(self, cylinder: int) -> None:
        """Read another cylinder."""
        self._piston = None
        self.write(begun(replace(self.sheet, cylinder=cylinder), self.kinds), "another cylinder")

    def pick(self, cell: Cell) -> None:
        """Ask for a reading out of turn, or once more."""
        self.picked, self.refused, self._piston, self.depth = cell, "", None, None
        self.changed.emit()

    def ask_depth(self, part: Part, row: int | None) -> None:
        """Ask for the drop of a row, or of one more (None)."""
        self.refused, self._piston = "", None
        self.depth = (part, row)
        self.changed.emit()

    def ask_depth_here(self, *, one_more: bool) -> None:
        """Ask for the drop of the row that is due, or for one more at its nose."""
        cell = self.asked
        if cell is not None and not one_more:
            self.ask_depth(cell.part, cell.row)
        elif one_more and (cell is None or cell.part is Part.TOP):
            self.ask_depth(Part.of(self.kinds[0]), None)
        elif cell is not None:
            self.ask_depth(cell.part, None)

    def _enter_depth(self, text: str) -> bool:
        assert self.depth is not None
        part, row = self.depth
        try:
            drop = parse_length_mm("drop", text, "in" if self.setup.gauge.inches else "mm")
            check_drop(self.rig, self.sheet, part, drop)
            if row is None:
                sheet = with_depth(self.sheet, part.kind, drop)
            else:
                sheet = with_drop(self.sheet, part, row, drop)
        except EngineError as error:
            self.refuse(str(error), error.field)
            return False
        self.write(sheet, "a drop")
        return True

    def step(self, by: int) -> None:
        """Another row: up or down in the order of reading. It gives up asking for a drop."""
        if self.depth is not None:
            self.depth, self.refused = None, ""
            self.changed.emit()
            return
        cells = order_of_reading(self.sheet, self.kinds)
        if not cells:
            return
        at = cells.index(self.asked) if self.asked in cells else len(cells) - (by > 0)
        self.pick(cells[(at + by) % len(cells)])

    def enter(self, text: str) -> bool:
        """Put a figure in; whether it was taken. What cannot be says why, and the text stays."""
        cell = self.asked
        if self.depth is not None:
            return self._enter_depth(text)
        if cell is None:
            return False
        try:
            figure = parse_number("reading", text)
            far = figure < 0
            if far and (cell.part is not Part.TOP or self.setup.wheel.scale is Scale.FULL):
                raise EngineError("reading", "has no sign on this wheel: type it as it stands")
            check_entry(self.rig, self.sheet, cell, abs(figure))
        except EngineError as error:
            self.refuse(str(error), error.field)
            return False
        sheet = entered(self.sheet, cell, abs(figure), far)
        if not self._top_can_be(sheet, cell):
            return False
        self.write(sheet, f"reading {text.strip()}")
        self._ask_about_piston(cell)
        return True

    def refuse(self, sentence: str, field: str = "reading") -> None:
        """Say why a figure cannot be."""
        self.refused = f"{field.capitalize()} {sentence}"
        self.changed.emit()

    def _top_can_be(self, sheet: Sheet, cell: Cell) -> bool:
        """Whether both readings about TDC can belong together; says why not."""
        if cell.part is not Part.TOP:
            return True
        figures = sheet.now.tops[cell.row].figures
        if figures is None:
            return True
        try:
            true_top(*figures, self.setup.wheel)
        except EngineError as error:
            self.refuse(str(error), error.field)
            return False
        return True

    def _ask_about_piston(self, cell: Cell) -> None:
        if cell.part is Part.TOP:
            return
        pair = self.sheet.now.pairs(self.cylinder, cell.part.kind)[cell.row]
        if pair.complete and pair.falls is None:
            self._piston = (cell.part.kind, cell.row)
            self.changed.emit()

    def rub_out(self) -> None:
        """Take the asked reading out again."""
        cell = self.asked
        if cell is not None and figure_at(self.sheet, cell) is not None:
            self.write(entered(self.sheet, cell, None), "a reading")

    def pointer_has_moved(self) -> None:
        """Everything that was read in this round is void."""
        self._piston, self._left_pointer = None, False
        self.write(pointer_moved(self.sheet), "the pointer moved")

    def change_pair(self, kind: Kind, row: int, **changes: Any) -> None:
        """Say something else of a pair."""
        self.write(pair_changed(self.sheet, kind, row, **changes), "a pair")

    # Words ------------------------------------------------------------------------------------

    @property
    def asks(self) -> bool:
        """Whether a figure is asked."""
        return self.asked is not None or self.depth is not None

    @property
    def has_far_side(self) -> bool:
        """Whether the asked figure can stand beyond zero without the wheel saying so."""
        cell = self.asked
        two_sided = self.setup.wheel.scale is not Scale.FULL
        return cell is not None and cell.part is Part.TOP and two_sided

    def mm_words(self, mm: float) -> str:
        """A drop in the indicator's unit: `0.25 mm`, `0.010 in`."""
        if self.setup.gauge.inches:
            return f"{mm / 25.4:.3f} in"
        return f"{mm:.2f} mm"

    @property
    def asked_words(self) -> tuple[str, str]:
        """What comes next, and how to get there."""
        if self.depth is not None:
            part, row = self.depth
            below = "below the top" if part is Part.TOP else "below the nose"
            return "Another drop" if row is None else "Drop of this row", f"How far {below}."
        cell = self.asked
        if cell is None:
            return "All read", "Now plan the correction, or read another cylinder."
        if cell.part is Part.TOP:
            drop = self.mm_words(self.sheet.now.tops[cell.row].drop_mm)
            if not cell.after:
                return "Next: before TDC", f"Piston on its way up, {drop} below the top."
            return "Next: after TDC", f"On over the top, to {drop} down again."
        pair = self.asked_pair
        assert pair is not None
        drop = self.mm_words(pair.drop_mm)
        name = cell.part.kind.value
        if not cell.after:
            return f"Next: {name}, before the nose", f"Turn on until it is {drop} below the nose."
        return f"Next: {name}, after the nose", f"Turn on, never back, to {drop} down again."

    @property
    def side_words(self) -> str:
        """On which side of TDC the asked figure is read, where the wheel does not say."""
        cell = self.asked
        if self.depth is not None:
            return "in" if self.setup.gauge.inches else "mm"
        if cell is None or self.setup.wheel.scale is Scale.FULL:
            return "°"
        if cell.part is Part.TOP:
            return "ATDC" if cell.after else "BTDC"
        return SIDE[cell.part.kind]

    @property
    def then_words(self) -> str:
        """What Enter leads to."""
        if self.depth is not None:
            return "then read on"
        cells = order_of_reading(self.sheet, self.kinds)
        missing = [c for c in cells if figure_at(self.sheet, c) is None and c != self.asked]
        if not missing:
            return "then done"
        cell = missing[0]
        asked = self.asked
        if asked is not None and asked.part is not cell.part:
            return f"then {cell.part.value}"
        return "then after it" if cell.after else "then before it"
