"""What is read while a cam is degreed, as one value: set-up, rounds of readings, what was chosen.

Readings are kept as they stood on the wheel; what they mean follows from the wheel that was named.
A round is one set of readings; after a step another is taken beside it. Nothing that was read is
ever thrown away: readings before the pointer moved are void, and stay to be seen.
"""

from dataclasses import dataclass, replace
from enum import Enum
from typing import Final

from true_compass.core.degreeing.curve import Station
from true_compass.core.degreeing.wheel import Wheel
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.units import MM_PER_INCH

MOST_ROWS: Final = 12
TOP_DROP_MM: Final = 1.0
TOP_DROP_IN_MM: Final = 0.040 * MM_PER_INCH
NOSE_DROPS_MM: Final = (0.10, 0.25, 0.40)
NOSE_DROPS_IN_MM: Final = tuple(round(thou * 0.0254, 6) for thou in (5, 10, 15))


class Ready(Enum):
    """What must be so before the first reading (common practice, no source)."""

    ROD = "rod-bolted"
    FOLLOWER = "right-follower"
    LOBE = "right-lobe"
    GAUGE = "gauge-firm"
    POINTER = "pointer-firm"

    @property
    def words(self) -> str:
        """As a person ticks it."""
        return _READY_WORDS[self]


_READY_WORDS: Final = {
    Ready.ROD: "Rod bolted up with its bearings",
    Ready.FOLLOWER: "The right follower on the lobe",
    Ready.LOBE: "It is the right lobe",
    Ready.GAUGE: "Indicator firm, square, preloaded",
    Ready.POINTER: "Pointer firm, close to the rim",
}


@dataclass(frozen=True, slots=True)
class Gauge:
    """The indicator. `turn_mm` is one turn of a dial's hand; a digital one shows a sign instead.

    `step_mm` is its least step, `travel_mm` how far it goes in all: at its end it stands still and
    lies. In inches readings are typed as inches.
    """

    inches: bool = False
    digital: bool = False
    turn_mm: float = 1.0
    step_mm: float = 0.01
    travel_mm: float = 25.0
    station: Station = Station.TAPPET


def check_travel(gauge: Gauge, lift_mm: float) -> None:
    """Raise `EngineError` for a lift that a gauge cannot follow."""
    if lift_mm > gauge.travel_mm - gauge.step_mm / 2:
        raise EngineError(
            "lift",
            f"of {lift_mm:.2f} mm is the end of this gauge's travel of {gauge.travel_mm:g} mm: it "
            "stood still there. Take one with a longer travel, or preload it less",
        )


USUAL_WHEEL: Final = Wheel()
USUAL_GAUGE: Final = Gauge()


@dataclass(frozen=True, slots=True)
class Setup:
    """The instruments as they were named, and what was ticked. Diameter in mm."""

    wheel: Wheel = USUAL_WHEEL
    wheel_mm: float = 180.0
    wheel_step_deg: float = 0.5
    gauge: Gauge = USUAL_GAUGE
    ready: tuple[Ready, ...] = ()


@dataclass(frozen=True, slots=True)
class TopPair:
    """Two readings about TDC at an equal drop, as they stood on the wheel.

    `before_far` and `after_far` tell that a figure stood beyond zero. `pointer_set`: standing at
    the second, the pointer was set. `kept`: it did not fit its drop and was kept. Void: the pointer
    moved since.
    """

    drop_mm: float = TOP_DROP_MM
    before: float | None = None
    after: float | None = None
    before_far: bool = False
    after_far: bool = False
    pointer_set: bool = False
    void: bool = False
    kept: bool = False

    @property
    def figures(self) -> tuple[float, float] | None:
        """Both, a minus before what stood beyond zero; None while one is missing."""
        if self.before is None or self.after is None:
            return None
        return (
            -self.before if self.before_far else self.before,
            -self.after if self.after_far else self.after,
        )


@dataclass(frozen=True, slots=True)
class NosePair:
    """Two readings at an equal drop from a nose, in running order, as they stood on the wheel.

    `falls` is what the piston was seen to do there, None where nobody looked. `kept`: it looked
    misread and was kept.
    """

    drop_mm: float
    before: float | None = None
    after: float | None = None
    falls: bool | None = None
    kept: bool = False
    void: bool = False

    @property
    def complete(self) -> bool:
        """Whether both readings are there."""
        return self.before is not None and self.after is not None


@dataclass(frozen=True, slots=True)
class NoseRows:
    """The pairs of one lobe: a kind of valve of a cylinder."""

    cylinder: int
    kind: Kind
    pairs: tuple[NosePair, ...]


@dataclass(frozen=True, slots=True)
class Round:
    """One set of readings. `after_step` names the step that was made before it."""

    after_step: str = ""
    tops: tuple[TopPair, ...] = ()
    noses: tuple[NoseRows, ...] = ()

    def pairs(self, cylinder: int, kind: Kind) -> tuple[NosePair, ...]:
        """The pairs of a lobe, in the order of their rows."""
        for nose in self.noses:
            if (nose.cylinder, nose.kind) == (cylinder, kind):
                return nose.pairs
        return ()

    def with_pairs(self, cylinder: int, kind: Kind, pairs: tuple[NosePair, ...]) -> "Round":
        """The round with other pairs of a lobe."""
        others = tuple(n for n in self.noses if (n.cylinder, n.kind) != (cylinder, kind))
        return replace(self, noses=(*others, NoseRows(cylinder, kind, pairs)))


@dataclass(frozen=True, slots=True)
class LobeRows:
    """One lobe as it was measured: micrometer at places along it, and an indicator.

    Micrometer figures are mm as read, zero error still in; the three places are front, middle and
    rear, (over the nose, square to it). Indicator figures are mm of one turn. `kept`: it looked
    misread and was kept.
    """

    cylinder: int
    kind: Kind
    places: tuple[tuple[float | None, float | None], ...] = ((None, None),) * 3
    heel: float | None = None
    turns: int = 0
    nose: float | None = None
    kept: bool = False


@dataclass(frozen=True, slots=True)
class GapRow:
    """A gap to the piston that was measured, as `clearance.Touch` reads it."""

    cylinder: int
    kind: Kind
    spring: bool
    gap_mm: float
    after_tdc_deg: float | None = None


@dataclass(frozen=True, slots=True)
class Sheet:
    """Everything of one degreeing. `setup` is None until the instruments were named."""

    setup: Setup | None = None
    cylinder: int = 1
    rounds: tuple[Round, ...] = (Round(),)
    lobes: tuple[LobeRows, ...] = ()
    zero_error_mm: float = 0.0
    gaps: tuple[GapRow, ...] = ()
    texts: tuple[tuple[str, str], ...] = ()
    """What was typed for the other ways of reading a cam, by name, as it was typed."""
    turned_on_only: bool = False
    """Whether the person says that the crank was never turned back; typed readings cannot show."""

    @property
    def now(self) -> Round:
        """The round that is read now: the last."""
        return self.rounds[-1]

    def with_now(self, now: Round) -> "Sheet":
        """The sheet with another state of that round."""
        return replace(self, rounds=(*self.rounds[:-1], now))

    def text(self, name: str) -> str:
        """What was typed under a name, or nothing."""
        return dict(self.texts).get(name, "")

    def with_text(self, name: str, text: str) -> "Sheet":
        """The sheet with something typed under a name; nothing takes it out."""
        others = tuple(pair for pair in self.texts if pair[0] != name)
        return replace(self, texts=(*others, (name, text)) if text.strip() else others)

    @property
    def is_blank(self) -> bool:
        """Whether nothing was read or named."""
        return self == Sheet()


# What is asked -----------------------------------------------------------------------------------


class Part(Enum):
    """A block of rows on the page of readings."""

    TOP = "tdc"
    INTAKE = "intake"
    EXHAUST = "exhaust"

    @property
    def kind(self) -> Kind:
        """The kind of valve of a nose."""
        return Kind.INTAKE if self is Part.INTAKE else Kind.EXHAUST

    @staticmethod
    def of(kind: Kind) -> "Part":
        """The block of a nose."""
        return Part.INTAKE if kind is Kind.INTAKE else Part.EXHAUST


@dataclass(frozen=True, slots=True)
class Cell:
    """One reading: its block, its row, and whether it is the second of its pair."""

    part: Part
    row: int
    after: bool


def begun(sheet: Sheet, kinds: tuple[Kind, ...] = tuple(Kind)) -> Sheet:
    """The sheet with the usual empty rows for its cylinder, where it has none."""
    setup, now = sheet.setup or Setup(), sheet.now
    inches = setup.gauge.inches
    if not any(not top.void for top in now.tops):
        drop = TOP_DROP_IN_MM if inches else TOP_DROP_MM
        now = replace(now, tops=(*now.tops, TopPair(drop)))
    for kind in kinds:
        pairs = now.pairs(sheet.cylinder, kind)
        if not any(not pair.void for pair in pairs):
            drops = NOSE_DROPS_IN_MM if inches else NOSE_DROPS_MM
            fresh = tuple(NosePair(drop) for drop in drops)
            now = now.with_pairs(sheet.cylinder, kind, (*pairs, *fresh))
    return sheet.with_now(now)


def order_of_reading(sheet: Sheet, kinds: tuple[Kind, ...] = tuple(Kind)) -> list[Cell]:
    """Every reading of the round that is not void, in the order in which one turn meets them.

    A nose is read outside in on its way up and inside out on its way down, since the crank turns
    in its running direction only.
    """
    cells = [
        Cell(Part.TOP, row, after)
        for row, top in enumerate(sheet.now.tops)
        if not top.void
        for after in (False, True)
    ]
    for kind in kinds:
        pairs = sheet.now.pairs(sheet.cylinder, kind)
        rows = [row for row, pair in enumerate(pairs) if not pair.void]
        deep_first = sorted(rows, key=lambda row: -pairs[row].drop_mm)
        cells += [Cell(Part.of(kind), row, after=False) for row in deep_first]
        cells += [Cell(Part.of(kind), row, after=True) for row in reversed(deep_first)]
    return cells


def figure_at(sheet: Sheet, cell: Cell) -> float | None:
    """What was read there, or None."""
    pair: TopPair | NosePair
    if cell.part is Part.TOP:
        pair = sheet.now.tops[cell.row]
    else:
        pair = sheet.now.pairs(sheet.cylinder, cell.part.kind)[cell.row]
    return pair.after if cell.after else pair.before


def next_cell(sheet: Sheet, kinds: tuple[Kind, ...] = tuple(Kind)) -> Cell | None:
    """The first reading that is missing, or None when all are there."""
    cells = order_of_reading(sheet, kinds)
    return next((cell for cell in cells if figure_at(sheet, cell) is None), None)


def entered(sheet: Sheet, cell: Cell, figure: float | None, far_side: bool = False) -> Sheet:
    """The sheet with a reading put in, or taken out (None)."""
    name = "after" if cell.after else "before"
    if cell.part is Part.TOP:
        tops = list(sheet.now.tops)
        told: dict[str, object] = {name: figure, f"{name}_far": far_side, "kept": False}
        tops[cell.row] = replace(tops[cell.row], **told)  # type: ignore[arg-type]
        return sheet.with_now(replace(sheet.now, tops=tuple(tops)))
    pairs = list(sheet.now.pairs(sheet.cylinder, cell.part.kind))
    pair = {name: figure, "kept": False}
    pairs[cell.row] = replace(pairs[cell.row], **pair)  # type: ignore[arg-type]
    return _with_pairs(sheet, cell.part.kind, pairs)


def top_kept(sheet: Sheet) -> Sheet:
    """The sheet with its last complete pair about TDC kept, although it does not fit its drop."""
    tops = list(sheet.now.tops)
    row = last_top(sheet.now)
    if row is not None:
        tops[row] = replace(tops[row], kept=True)
    return sheet.with_now(replace(sheet.now, tops=tuple(tops)))


def last_top(now: Round) -> int | None:
    """The row of the last pair about TDC that is complete and not void, or None."""
    rows = [row for row, top in enumerate(now.tops) if not top.void and top.figures is not None]
    return rows[-1] if rows else None


def pair_changed(sheet: Sheet, kind: Kind, row: int, **changes: object) -> Sheet:
    """The sheet with something else said of one pair: `falls`, `kept`, `drop_mm`."""
    pairs = list(sheet.now.pairs(sheet.cylinder, kind))
    pairs[row] = replace(pairs[row], **changes)  # type: ignore[arg-type]
    return _with_pairs(sheet, kind, pairs)


def _with_pairs(sheet: Sheet, kind: Kind, pairs: list[NosePair]) -> Sheet:
    return sheet.with_now(sheet.now.with_pairs(sheet.cylinder, kind, tuple(pairs)))


def with_depth(sheet: Sheet, kind: Kind, drop_mm: float) -> Sheet:
    """Another pair at a depth of its own.

    Raises `EngineError` for one that is there, out of limits, or one too many.
    """
    pairs = sheet.now.pairs(sheet.cylinder, kind)
    if len(pairs) >= MOST_ROWS:
        raise EngineError("depth", f"cannot be added: there are {MOST_ROWS} already")
    if any(abs(pair.drop_mm - drop_mm) < 1e-9 and not pair.void for pair in pairs):
        raise EngineError("depth", f"of {drop_mm:g} mm is there already: choose another")
    if not 0.01 <= drop_mm <= 20.0:
        raise EngineError("depth", f"must be from 0.01 to 20 mm, not {drop_mm:g}")
    return _with_pairs(sheet, kind, [*pairs, NosePair(drop_mm)])


def with_drop(sheet: Sheet, part: Part, row: int, drop_mm: float) -> Sheet:
    """The sheet with another drop of one row; what was read there stays."""
    if part is Part.TOP:
        tops = list(sheet.now.tops)
        tops[row] = replace(tops[row], drop_mm=drop_mm)
        return sheet.with_now(replace(sheet.now, tops=tuple(tops)))
    return pair_changed(sheet, part.kind, row, drop_mm=drop_mm)


def pointer_set(sheet: Sheet) -> Sheet:
    """The pointer was set to true TDC, standing at the second reading: it is read once more."""
    tops = list(sheet.now.tops)
    tops[-1] = replace(tops[-1], pointer_set=True)
    tops.append(TopPair(tops[-1].drop_mm))
    return sheet.with_now(replace(sheet.now, tops=tuple(tops)))


def pointer_moved(sheet: Sheet) -> Sheet:
    """What was read in this round is void, and fresh rows stand below it."""
    now = sheet.now
    tops = tuple(replace(top, void=True) for top in now.tops if _said(top))
    noses = tuple(
        replace(
            nose,
            pairs=tuple(replace(pair, void=True) for pair in nose.pairs if _said(pair)),
        )
        for nose in now.noses
    )
    return begun(sheet.with_now(replace(now, tops=tops, noses=noses)))


def _said(pair: TopPair | NosePair) -> bool:
    return pair.before is not None or pair.after is not None


def next_round(sheet: Sheet, after_step: str) -> Sheet:
    """A second set of readings after a step, beside the first. The wheel stays as it is set."""
    tops = tuple(top for top in sheet.now.tops if not top.void)[-1:]
    return begun(replace(sheet, rounds=(*sheet.rounds, Round(after_step, tops))))
