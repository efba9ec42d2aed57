"""One lobe after the other as it is measured: micrometer at three places, indicator with turns."""

from dataclasses import dataclass, replace
from enum import Enum
from statistics import median

from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.app.workspaces.cam.asking import Question
from true_compass.app.workspaces.cam.model import CamModel
from true_compass.core.degreeing.lobe_size import (
    Among,
    LobeState,
    Place,
    among,
    apart_words,
    indicator_lift_mm,
    lobe_lift_mm,
    lobe_state,
    parse_size_mm,
    slip_words,
    square_reaches_heel,
    step_words,
    two_ways_words,
    valve_lift_mm,
)
from true_compass.core.degreeing.sheet import LobeRows, check_travel
from true_compass.core.items import Item, Kind
from true_compass.core.limits import EngineError
from true_compass.core.units import parse_length_mm
from true_compass.core.valves.train import lash_at_valve_mm
from true_compass.core.words import small

PLACES = ("front", "middle", "rear")


class What(Enum):
    """A figure of a lobe."""

    NOSE = "over the nose"
    HEEL = "square to it"
    DIAL_HEEL = "on the heel"
    DIAL_NOSE = "on the nose, at reversal"


@dataclass(frozen=True, slots=True)
class LobeCell:
    """One figure: what, and at which of the places along the lobe."""

    what: What
    place: int = 0


CELLS = (
    *(LobeCell(what, place) for place in range(3) for what in (What.NOSE, What.HEEL)),
    LobeCell(What.DIAL_HEEL),
    LobeCell(What.DIAL_NOSE),
)


def _cells_at(place: int) -> tuple[LobeCell, ...]:
    """Both figures of a place along the lobe."""
    return LobeCell(What.NOSE, place), LobeCell(What.HEEL, place)


class Lobing(QObject):
    """The page of lobes; it owns no reading."""

    changed = pyqtSignal()

    def __init__(self, model: CamModel, parent: QObject) -> None:
        super().__init__(parent)
        self.model = model
        self.kind = Kind.INTAKE
        self.cylinder = 1
        self.picked: LobeCell | None = None
        self._again: tuple[LobeCell, ...] = ()
        """What is read again after the figure that is asked."""
        self.refused = ""
        model.changed.connect(self._on_change)

    def _on_change(self) -> None:
        self.cylinder = min(self.cylinder, self.model.engine.cylinder_count)
        if self.kind not in self.model.kinds and self.model.kinds:
            self.kind = self.model.kinds[0]
        self.refused = ""
        self.changed.emit()

    # What is measured -------------------------------------------------------------------------

    @property
    def item(self) -> Item:
        """The valve of the lobe."""
        return Item(self.kind, self.cylinder)

    @property
    def rows(self) -> LobeRows:
        """What was measured of it."""
        return self.rows_of(self.item)

    def rows_of(self, item: Item) -> LobeRows:
        """What was measured of a lobe."""
        for rows in self.model.sheet.lobes:
            if (rows.kind, rows.cylinder) == (item.kind, item.cylinder):
                return rows
        assert isinstance(item.kind, Kind)
        return LobeRows(item.cylinder, item.kind)

    def places(self, item: Item) -> dict[int, Place]:
        """The places along a lobe where both figures are there, zero error taken off."""
        zero, found = self.model.sheet.zero_error_mm, {}
        for nth, (nose, heel) in enumerate(self.rows_of(item).places):
            if nose is not None and heel is not None and nose > heel:
                found[nth] = Place(heel - zero, nose - zero)
        return found

    def state_of(self, item: Item) -> LobeState | None:
        """What the places along a lobe say, or None."""
        places = self.places(item)
        return lobe_state(list(places.values())) if places else None

    def dial_lift_mm(self, item: Item) -> float | None:
        """Lift by the indicator, or None."""
        rows = self.rows_of(item)
        if rows.heel is None or rows.nose is None:
            return None
        try:
            turn_mm = self.model.setup.gauge.turn_mm
            return indicator_lift_mm(rows.heel, rows.turns, rows.nose, turn_mm)
        except EngineError:
            return None

    def lift_of(self, item: Item) -> float | None:
        """The lowest lift of a lobe as it is known: by micrometer, else by indicator."""
        state = self.state_of(item)
        return state.lowest_mm if state is not None else self.dial_lift_mm(item)

    def lifts(self, kind: Kind) -> dict[Item, float]:
        """The lowest lift of every lobe of a kind that was measured."""
        found = {}
        for cylinder in self.model.engine.cylinders:
            lift = self.lift_of(Item(kind, cylinder))
            if lift is not None:
                found[Item(kind, cylinder)] = lift
        return found

    def among(self, kind: Kind) -> Among | None:
        """The lowest lobe of a kind against the others."""
        return among(self.lifts(kind), self.model.setup.gauge.step_mm)

    def at_valve_mm(self, item: Item) -> float | None:
        """Lift at the valve: by ratio, less the lash as set."""
        lift = self.lift_of(item)
        if lift is None:
            return None
        assert isinstance(item.kind, Kind)
        train, timing = self.model.engine.train, self.model.engine.cam.timing(item.kind)
        lash = lash_at_valve_mm(train, item.kind, timing.lash_mm)
        return valve_lift_mm(lift, train.ratio(item.kind), lash)

    def waits(self, item: Item) -> str:
        """Why nothing may follow from a lobe as it was read, unless it was kept; or nothing."""
        return self._doubt(item)[0]

    def _doubt(self, item: Item) -> tuple[str, tuple[LobeCell, ...]]:
        """Why a lobe cannot be as it was read, and the figures to read again."""
        rows, places = self.rows_of(item), self.places(item)
        if rows.kept:
            return "", ()
        for nth, place in places.items():
            inches = self.model.setup.gauge.inches
            words = slip_words(place.base_mm, place.nose_mm, inches=inches)
            if words:
                told = f"{PLACES[nth].capitalize()}: {small(words)}"
                return told, _cells_at(nth)
        lifts = {nth: place.lift_mm for nth, place in places.items()}
        words = apart_words({PLACES[nth]: lift for nth, lift in lifts.items()})
        if words:
            middle = median(lifts.values())
            return words, _cells_at(max(lifts, key=lambda nth: abs(lifts[nth] - middle)))
        lift = self.lift_of(item)
        if lift is None:
            return "", ()
        assert isinstance(item.kind, Kind)
        others = [mm for other, mm in self.lifts(item.kind).items() if other != item]
        turn_mm = None if places else self.model.setup.gauge.turn_mm
        by_dial = (LobeCell(What.DIAL_HEEL), LobeCell(What.DIAL_NOSE))
        return step_words(lift, others, turn_mm), _cells_at(min(places)) if places else by_dial

    @property
    def two_ways(self) -> str:
        """Where micrometer and indicator lie apart on this lobe: what may be wrong."""
        state, dial = self.state_of(self.item), self.dial_lift_mm(self.item)
        if state is None or dial is None:
            return ""
        middle = self.places(self.item).get(1)
        lift = middle.lift_mm if middle is not None else state.lifts_mm[0]
        return two_ways_words(lift, dial, self.model.setup.gauge.turn_mm)

    @property
    def square_is_heel(self) -> bool:
        """Whether the base circle can be measured square to the nose on this cam."""
        return square_reaches_heel(self.model.rig, self.kind)

    @property
    def headline(self) -> str:
        """The result in one sentence."""
        waits = self.waits(self.item)
        if waits:
            return f"{self.item.name}: {small(waits)}"
        for kind in self.model.kinds:
            told = self.among(kind)
            if told is not None and told.points_to_wear and not self.waits(told.lowest):
                where = self._where(told.lowest)
                return (
                    f"{told.lowest.name} points to a worn lobe: {told.low_by_mm:.2f} mm low{where}"
                )
        lift = self.lift_of(self.item)
        if lift is None:
            return f"Measure {self.item.name}: over the nose, then square to it."
        return f"{self.item.name} lifts {lift:.2f} mm."

    def _where(self, item: Item) -> str:
        state = self.state_of(item)
        if state is None or len(state.lifts_mm) < 2:
            return ""
        place = list(self.places(item))[state.lowest_at]
        return f" at its {PLACES[place]} edge" if place != 1 else ""

    @property
    def second_line(self) -> str:
        """One line of why."""
        if self.two_ways:
            return self.two_ways
        told = self.among(self.kind)
        lift, valve = self.lift_of(self.item), self.at_valve_mm(self.item)
        if lift is None or valve is None:
            return "Zero error is taken off every figure; 11.02+25 is a figure too."
        if told is None or (told.lowest == self.item and not told.points_to_wear):
            return f"At the valve {valve:.2f} mm, with ratio and lash as set."
        words = f"The other {self.kind.value} lobes lift {told.others_mm:.2f} mm. "
        state = self.state_of(self.item)
        along = ""
        if state is not None and len(state.lifts_mm) > 1:
            along = f" Taper {state.taper_mm:.2f}, heel out of round by {state.run_out_mm:.2f}."
        return f"{words}At the valve {valve:.2f} mm.{along}"

    # What is asked ----------------------------------------------------------------------------

    def figure(self, cell: LobeCell) -> float | None:
        """What was read there, or None."""
        rows = self.rows
        if cell.what is What.DIAL_HEEL:
            return rows.heel
        if cell.what is What.DIAL_NOSE:
            return rows.nose
        nose, heel = rows.places[cell.place]
        return nose if cell.what is What.NOSE else heel

    @property
    def asked(self) -> LobeCell | None:
        """The figure that is due, or was chosen; by the indicator alone where square is no heel."""
        if self.picked is not None:
            return self.picked
        cells = CELLS if self.square_is_heel else CELLS[-2:]
        return next((cell for cell in cells if self.figure(cell) is None), None)

    @property
    def asks(self) -> bool:
        """Whether a figure is asked."""
        return self.asked is not None

    @property
    def has_far_side(self) -> bool:
        """No figure of a lobe has a far side."""
        return False

    @property
    def question(self) -> Question | None:
        """Whether a lobe that cannot be was misread."""
        waits = self.waits(self.item)
        if not waits or self.picked is not None:
            return None
        return Question("Misread?", waits, (("Read again", "again"), ("Keep it", "keep")))

    def answer(self, word: str) -> None:
        """Read the figures again, or keep them on purpose."""
        if word == "keep":
            self._write(replace(self.rows, kept=True), f"{self.item.name} kept")
        elif word == "again":
            cells = self._doubt(self.item)[1]
            self.pick(cells[0])
            self._again = cells[1:]

    @property
    def asked_words(self) -> tuple[str, str]:
        """What comes next, and how."""
        cell = self.asked
        if cell is None:
            return f"{self.item.name}: all read", "Go on with + to the next lobe."
        if cell.what in (What.NOSE, What.HEEL):
            place = PLACES[cell.place].capitalize()
            if cell.what is What.NOSE:
                return f"{place}, over the nose", "Jaws A over nose and heel; the most it reads."
            return f"{place}, square to it", "Jaws B across the base circle, square to the nose."
        if cell.what is What.DIAL_HEEL:
            return "Indicator, on the heel", "Preloaded; what the hand reads on the base circle."
        return "Indicator, on the nose", "Count whole turns; where the hand turns back."

    @property
    def side_words(self) -> str:
        """The unit."""
        return "in" if self.model.setup.gauge.inches else "mm"

    @property
    def then_words(self) -> str:
        """What Enter leads to."""
        missing = [c for c in CELLS if self.figure(c) is None and c != self.asked]
        if not missing:
            return "then all are read"
        return f"then {missing[0].what.value}"

    # Entries ----------------------------------------------------------------------------------

    def pick(self, cell: LobeCell) -> None:
        """Ask for a figure out of turn."""
        self.picked, self.refused, self._again = cell, "", ()
        self.changed.emit()

    def choose(self, kind: Kind, cylinder: int) -> None:
        """Measure another lobe."""
        self.kind, self.cylinder, self.picked, self.refused = kind, cylinder, None, ""
        self._again = ()
        self.changed.emit()

    def next_lobe(self, by: int) -> None:
        """The next lobe along the camshaft, intake and exhaust in turn."""
        items = [
            (kind, cylinder)
            for cylinder in self.model.engine.cylinders
            for kind in self.model.kinds
        ]
        at = items.index((self.kind, self.cylinder))
        self.choose(*items[(at + by) % len(items)])

    def step(self, by: int) -> None:
        """Another figure: up or down."""
        at = CELLS.index(self.asked) if self.asked is not None else len(CELLS) - (by > 0)
        self.pick(CELLS[(at + by) % len(CELLS)])

    def enter(self, text: str) -> bool:
        """Put a figure in; whether it was taken."""
        cell = self.asked
        if cell is None:
            return False
        try:
            rows = self._with(cell, self._read(cell, text))
        except EngineError as error:
            self.refused = error.in_words
            self.changed.emit()
            return False
        self.picked = self._again[0] if self._again else None
        self._again = self._again[1:]
        self._write(rows, f"{self.item.name}, {text.strip()}")
        return True

    def _read(self, cell: LobeCell, text: str) -> float:
        unit = "in" if self.model.setup.gauge.inches else "mm"
        if cell.what in (What.NOSE, What.HEEL):
            if cell.what is What.HEEL and not self.square_is_heel:
                raise EngineError(
                    "square",
                    "to the nose is no base circle on this cam, its ramps reach there: use the "
                    "indicator",
                )
            return parse_size_mm(cell.what.value, text, unit)
        value = parse_length_mm(cell.what.value, text, unit)
        turn = self.model.setup.gauge.turn_mm
        if not 0 <= value <= turn:
            raise EngineError(
                cell.what.value,
                f"must be from 0 to {turn:g} mm, one turn of this dial: count turns",
            )
        return value

    def _with(self, cell: LobeCell, value: float | None) -> LobeRows:
        rows = replace(self.rows, kept=False)
        if cell.what is What.DIAL_HEEL:
            return replace(rows, heel=value)
        if cell.what is What.DIAL_NOSE:
            if value is not None and rows.heel is not None:
                gauge = self.model.setup.gauge
                check_travel(gauge, rows.turns * gauge.turn_mm + value)
            return replace(rows, nose=value)
        nose, heel = rows.places[cell.place]
        pair = (value, heel) if cell.what is What.NOSE else (nose, value)
        if pair[0] is not None and pair[1] is not None:
            # Says where the two were changed about.
            lobe_lift_mm(pair[1], pair[0], inches=self.model.setup.gauge.inches)
        places = list(rows.places)
        places[cell.place] = pair
        return replace(rows, places=tuple(places))

    def turn_count(self, by: int) -> None:
        """One turn more or less of the indicator's hand."""
        rows = self.rows
        turns = min(max(rows.turns + by, 0), 99)
        if turns != rows.turns:
            self._write(replace(rows, turns=turns), f"{self.item.name}, turns")

    def set_zero(self, text: str) -> None:
        """What the shut micrometer reads."""
        unit = "in" if self.model.setup.gauge.inches else "mm"
        try:
            zero = parse_length_mm("zero error", text or "0", unit)
            if abs(zero) > 1.0:
                raise EngineError("zero error", f"must be within 1 mm, not {zero:g}")
        except EngineError as error:
            self.refused = error.in_words
            self.changed.emit()
            return
        sheet = self.model.sheet
        self.model.write(replace(sheet, zero_error_mm=zero), "the zero error")

    def rub_out(self) -> None:
        """Take the asked figure out again."""
        cell = self.asked
        if cell is not None and self.figure(cell) is not None:
            self._write(self._with(cell, None), "a figure")

    def _write(self, rows: LobeRows, words: str) -> None:
        sheet = self.model.sheet
        others = tuple(
            row for row in sheet.lobes if (row.kind, row.cylinder) != (rows.kind, rows.cylinder)
        )
        self.model.write(replace(sheet, lobes=(*others, rows)), words)
