"""What a sheet of readings says on an engine: true TDC, both noses, how far off the card, the ±."""

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Final

from true_compass.core.degreeing.centreline import (
    NORMAL_95,
    Centrelines,
    Disorder,
    Doubt,
    Nose,
    Pair,
    check_pair,
    disorder_of,
    late_words,
    later_deg,
    misread_words,
    nose_of,
    nose_plus_minus_deg,
    top_deviation_deg,
)
from true_compass.core.degreeing.curve import Curve, Station, curve_of
from true_compass.core.degreeing.sheet import (
    Cell,
    NosePair,
    Part,
    Round,
    Setup,
    Sheet,
    TopPair,
    entered,
    last_top,
)
from true_compass.core.degreeing.top import Span, TrueTop, fit_of, span_of, true_top
from true_compass.core.degreeing.wheel import check_figure
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.core.valves.timing import cylinder_times
from true_compass.core.valves.train import TrainKind

UNEQUAL_DEG: Final = 1.2


@dataclass(frozen=True, slots=True)
class TopFound:
    """What one pair about TDC says; `words` name what does not fit the engine.

    `held`: it cannot be the drop that was named, and nobody kept it. `meant` is then the side and
    the figure that would fit, where one was typed as degrees from TDC.
    """

    top: TrueTop
    span: Span
    words: str
    plus_minus_deg: float = 0.0
    held: bool = False
    meant: tuple[str, float] | None = None


@dataclass(frozen=True, slots=True)
class NoseFound:
    """What the pairs of one lobe say, against the card.

    `rows` are the rows of the sheet that the pairs stand in. `card_deg` is the middle of the
    engine's events, `card_nose_deg` its nose; with unlike flanks the two differ. `later_deg` is how
    much later than that the nose stands. All in degrees ATDC or BTDC, as readings of that lobe are.
    """

    nose: Nose
    rows: tuple[int, ...]
    card_deg: float
    card_nose_deg: float
    plus_minus_deg: float

    @property
    def middle_of_events_deg(self) -> float:
        """Where the middle of the events stands: off the nose as on the engine's own lobe."""
        return self.nose.middle_deg + self.card_deg - self.card_nose_deg

    @property
    def later_deg(self) -> float:
        """How much later than the card's the lobe stands; negative is earlier."""
        return later_deg(self.nose.kind, self.nose.middle_deg, self.card_nose_deg)

    @property
    def unlike_flanks(self) -> bool:
        """Whether nose and middle of the events differ enough to be told apart."""
        return abs(self.card_deg - self.card_nose_deg) >= 0.25


@dataclass(frozen=True, slots=True)
class Found:
    """Everything that one round says of one cylinder. None is what is not read yet."""

    cylinder: int
    top: TopFound | None
    correction_deg: float
    noses: dict[Kind, NoseFound]
    kinds: tuple[Kind, ...]
    """The kinds of valve that a lobe drives."""
    disorder: Disorder | None = None
    """Two readings beside a nose that cannot both be, unless they were kept."""

    @property
    def waits(self) -> tuple[str, str] | None:
        """Why nothing may follow from the readings yet, in a sentence and a shorter one; or None.

        What cannot be is read again, or kept on purpose.
        """
        if self.top is not None and self.top.held:
            return self.top.words, "TDC does not fit its drop: read it again."
        if self.disorder is not None:
            side = "After" if self.disorder.after else "Before"
            name = self.disorder.kind.value
            return (
                f"{side} the {name} nose {self.disorder.words} cannot both be: read one again.",
                f"Two readings at the {name} nose contradict each other.",
            )
        return None

    @property
    def lines(self) -> Centrelines:
        """Centrelines by the middles of the events, as a card states them."""
        told = {kind: nose.middle_of_events_deg for kind, nose in self.noses.items()}
        return Centrelines(told.get(Kind.INTAKE), told.get(Kind.EXHAUST))

    @property
    def need_deg(self) -> float | None:
        """Crank degrees by which one camshaft must come earlier (+): the mean of both noses."""
        if not self.noses:
            return None
        return sum(nose.later_deg for nose in self.noses.values()) / len(self.noses)

    def need_of(self, kind: Kind) -> float | None:
        """The same for a camshaft of its own."""
        nose = self.noses.get(kind)
        return None if nose is None else nose.later_deg


def usual_station(rig: Rig) -> Station:
    """Where an indicator stands as a rule, by the kind of valve train."""
    by_train = {TrainKind.PUSH_ROD: Station.TAPPET, TrainKind.BUCKET: Station.BUCKET}
    return by_train.get(rig.engine.train.kind, Station.VALVE)


def found(rig: Rig, sheet: Sheet, round_: Round | None = None) -> Found:
    """What a round (the last, unless said) says of the sheet's cylinder.

    Pairs that cannot be are left out: they were refused when they were typed.
    """
    now, setup = round_ or sheet.now, sheet.setup or Setup()
    row = last_top(now)
    top = None if row is None else top_found(rig, sheet, now.tops[row])
    set_since = row is not None and now.tops[row].pointer_set
    correction = 0.0 if top is None or top.held or set_since else top.top.shift_deg
    noses = {}
    for kind in Kind:
        one = _nose_found(rig, sheet, now, kind, correction, setup, top)
        if one is not None:
            noses[kind] = one
    driven = tuple(kind for kind in Kind if not rig.engine.cam.timing(kind).suction)
    disorder = _disorder(rig, sheet, now, driven, correction)
    return Found(sheet.cylinder, top, correction, noses, driven, disorder)


def _disorder(
    rig: Rig, sheet: Sheet, now: Round, kinds: tuple[Kind, ...], correction: float
) -> Disorder | None:
    """The first two readings that contradict each other, of pairs that are neither void nor kept;
    their places are rows of the sheet."""
    for kind in kinds:
        pairs = [
            (row, pair)
            for row, pair in enumerate(now.pairs(sheet.cylinder, kind))
            if not pair.void and not pair.kept
        ]
        for after in (False, True):
            readings = []
            for _, pair in pairs:
                at = degrees_of(rig, sheet, kind, pair, after, correction)
                readings.append((pair.drop_mm, None if at is None else round(at, 2)))
            told = disorder_of(kind, after, readings)
            if told is not None:
                one, two = (pairs[place][0] for place in told.places)
                return replace(told, places=(one, two))
    return None


def top_found(rig: Rig, sheet: Sheet, pair: TopPair) -> TopFound | None:
    """What a pair about TDC says, or None where it says nothing that can be."""
    wheel = (sheet.setup or Setup()).wheel
    if pair.figures is None:
        return None
    try:
        top = true_top(*pair.figures, wheel)
        span = span_of(rig, sheet.cylinder, pair.drop_mm)
    except EngineError:
        return None
    setup = sheet.setup or Setup()
    doubt = Doubt.of(setup.wheel_mm, setup.wheel_step_deg, setup.gauge.step_mm)
    # Near TDC the fall is a parabola: its slope is twice the drop over the half-span.
    deviation = top_deviation_deg(2 * pair.drop_mm / span.half_deg, doubt)
    fit = fit_of(*pair.figures, wheel, span, pair.drop_mm)
    held = not fit.fits and not pair.kept
    return TopFound(top, span, fit.words, NORMAL_95 * deviation, held, fit.meant)


def curve_for(rig: Rig, sheet: Sheet, kind: Kind) -> Curve:
    """The lobe of the sheet's cylinder as the indicator reads it."""
    station = (sheet.setup or Setup()).gauge.station
    return curve_of(rig, sheet.cylinder, kind, station)


def degrees_of(
    rig: Rig, sheet: Sheet, kind: Kind, pair: NosePair, after: bool, correction_deg: float = 0.0
) -> float | None:
    """A reading beside a nose as degrees ATDC (intake) or BTDC (exhaust), or None.

    Where a figure can mean several places, it is the one nearest to where the lobe stands as set.
    """
    figure = pair.after if after else pair.before
    if figure is None:
        return None
    wheel, curve = (sheet.setup or Setup()).wheel, curve_for(rig, sheet, kind)
    depth = min(pair.drop_mm, curve.peak_mm * 0.9)
    expected = curve.chord_deg(depth)[1 if after else 0]
    after_tdc = wheel.nearest_deg(figure, expected + correction_deg) - correction_deg
    return after_tdc if kind is Kind.INTAKE else -after_tdc


def pair_of(
    rig: Rig, sheet: Sheet, kind: Kind, pair: NosePair, correction_deg: float
) -> Pair | None:
    """A pair in degrees ATDC or BTDC, or None where a reading is missing."""
    before = degrees_of(rig, sheet, kind, pair, False, correction_deg)
    after = degrees_of(rig, sheet, kind, pair, True, correction_deg)
    if before is None or after is None:
        return None
    return Pair(round(before, 6), round(after, 6), pair.drop_mm, pair.kept)


def _nose_found(
    rig: Rig,
    sheet: Sheet,
    now: Round,
    kind: Kind,
    correction: float,
    setup: Setup,
    top: TopFound | None,
) -> NoseFound | None:
    if rig.engine.cam.timing(kind).suction:
        return None
    rows, pairs = [], []
    for row, pair in enumerate(now.pairs(sheet.cylinder, kind)):
        if pair.void or not pair.complete:
            continue
        told = pair_of(rig, sheet, kind, pair, correction)
        if told is None:
            continue
        try:
            check_pair(kind, told, pair.falls)
        except EngineError:
            continue
        rows.append(row)
        pairs.append(told)
    if not pairs:
        return None
    curve = curve_for(rig, sheet, kind)
    middle_deg, nose_deg = card_of(rig, sheet, kind)
    doubt = Doubt.of(setup.wheel_mm, setup.wheel_step_deg, setup.gauge.step_mm)
    slopes = []
    for told in pairs:
        drop = min(told.drop_mm or 0.25, curve.peak_mm * 0.9)
        ends = curve.chord_deg(drop)
        slopes.append((curve.slope_mm_per_deg(ends[0]), curve.slope_mm_per_deg(ends[1])))
    top_deg = 0.0 if top is None else top.plus_minus_deg / NORMAL_95
    return NoseFound(
        nose_of(kind, pairs),
        tuple(rows),
        middle_deg,
        nose_deg,
        nose_plus_minus_deg(slopes, doubt, top_deg),
    )


def card_of(rig: Rig, sheet: Sheet, kind: Kind) -> tuple[float, float]:
    """The engine's own figures: the middle of its events, and its nose by equal drops.

    Degrees ATDC or BTDC.
    """
    return _card_of(rig, sheet.cylinder, kind, (sheet.setup or Setup()).gauge.station)


@lru_cache(maxsize=64)
def _card_of(rig: Rig, cylinder: int, kind: Kind, station: Station) -> tuple[float, float]:
    nose = curve_of(rig, cylinder, kind, station).nose_deg()
    sign = 1.0 if kind is Kind.INTAKE else -1.0
    check = rig.engine.cam.timing(kind).check
    times = cylinder_times(rig, cylinder, check)
    middle = times.valves[0 if kind is Kind.INTAKE else 1].centreline_deg
    return (sign * nose if middle is None else middle), sign * nose


def odd_words(rig: Rig, sheet: Sheet, told: NoseFound) -> str:
    """What may be wrong with the pair that lies apart: its drops were unequal, or it is misread.

    Unequal drops show: one reading is where its own drop puts it, the other where another row's
    drop would. Empty where no pair lies apart.
    """
    nose = told.nose
    if not nose.odd:
        return ""
    odd = nose.pairs[nose.odd[-1]]
    curve = curve_for(rig, sheet, nose.kind)
    own = odd.drop_mm or 0.0
    for other in nose.pairs:
        drop = other.drop_mm or 0.0
        if drop in (0.0, own):
            continue
        for first, second in ((own, drop), (drop, own)):
            before, after = (
                (ends[1] - ends[0]) / 2
                for ends in (curve.chord_deg(min(d, curve.peak_mm * 0.9)) for d in (first, second))
            )
            reads = abs(odd.before_deg - nose.middle_deg), abs(odd.after_deg - nose.middle_deg)
            if max(abs(reads[0] - before), abs(reads[1] - after)) <= UNEQUAL_DEG:
                return (
                    f"Middle {odd.middle_deg:.1f}, the others {nose.middle_deg:.1f}: unequal "
                    f"drops, {first:.2f} mm before and {second:.2f} after?"
                )
    return misread_words(nose)


def check_entry(rig: Rig, sheet: Sheet, cell: Cell, figure: float) -> None:
    """Raise `EngineError` for a reading that cannot be, beside what is there already."""
    wheel = (sheet.setup or Setup()).wheel
    check_figure(wheel, figure)
    after = entered(sheet, cell, figure)
    if cell.part is Part.TOP:
        return
    kind = cell.part.kind
    pair = after.now.pairs(after.cylinder, kind)[cell.row]
    correction = found(rig, sheet).correction_deg
    told = pair_of(rig, after, kind, pair, correction)
    if told is not None:
        check_pair(kind, told, pair.falls)


def check_drop(rig: Rig, sheet: Sheet, part: Part, drop_mm: float) -> None:
    """Raise `EngineError` for a drop that the piston or the lobe of this cylinder does not make."""
    if part is Part.TOP:
        span_of(rig, sheet.cylinder, drop_mm)
        return
    most_mm = curve_for(rig, sheet, part.kind).peak_mm * 0.9
    if not 0.01 <= drop_mm <= most_mm:
        raise EngineError(
            "drop", f"must be from 0.01 to {most_mm:.1f} mm on this lobe, not {drop_mm:g}"
        )


def headlines(rig: Rig, result: Found) -> tuple[str, str]:
    """The result in one sentence, and a shorter one; it grows as readings come in."""
    if result.waits is not None:
        return result.waits
    noses = result.noses
    if not noses:
        return _top_headlines(result)
    if len(noses) == 1:
        ((kind, nose),) = noses.items()
        name, at = kind.value.capitalize(), f"{nose.middle_of_events_deg:.1f}°"
        card, words = f"{nose.card_deg:.1f}°", late_words(nose.later_deg)
        return (
            f"{name} stands at {at}. The card has its events at {card}: {words}.",
            f"{name} at {at}, card {card}: {words}.",
        )
    intake, exhaust = noses[Kind.INTAKE], noses[Kind.EXHAUST]
    lines = f"ICL {intake.middle_of_events_deg:.1f}°, ECL {exhaust.middle_of_events_deg:.1f}°"
    if not rig.engine.two_shafts:
        need = result.need_deg
        assert need is not None
        return f"{lines}: the cam stands {late_words(need)}.", f"The cam stands {late_words(need)}."
    words, other = late_words(intake.later_deg), late_words(exhaust.later_deg)
    return (
        f"{lines}: intake cam {words}, exhaust cam {other}.",
        f"Intake cam {words}, exhaust {other}.",
    )


def _top_headlines(result: Found) -> tuple[str, str]:
    if result.top is None:
        words = "Find true TDC first"
        return f"{words}: the same drop before and after it.", f"{words}."
    top = result.top.top
    if top.is_set:
        return "The pointer reads true TDC.", "The pointer reads true TDC."
    if result.correction_deg == 0.0:
        words = "The pointer is set to true TDC"
        return f"{words}: read both sides once more.", f"{words}. Read again."
    figure = f"the pointer to {top.set_to_deg:g}°"
    return f"Standing at the second reading, set {figure}.", f"At the second reading, {figure}."


def second_lines(result: Found) -> tuple[str, ...]:
    """One line of why, below the headline, in wordings that grow shorter."""
    if result.top is not None and result.top.words and not result.top.held:
        return result.top.words, result.top.words.partition(":")[0]
    noses, lines = result.noses, result.lines
    unlike = [nose for nose in noses.values() if nose.unlike_flanks]
    if unlike:
        told = [
            f"{nose.nose.kind.value} nose at {nose.nose.middle_deg:.1f}°, the middle of its events "
            f"at {nose.middle_of_events_deg:.1f}°"
            for nose in unlike
        ]
        words = "; ".join(told)
        return f"Unlike flanks: {words}.", f"Unlike flanks: {told[0]}."
    if lines.separation_cam_deg is not None and lines.advance_deg is not None:
        card = Centrelines(noses[Kind.INTAKE].card_deg, noses[Kind.EXHAUST].card_deg)
        assert card.separation_cam_deg is not None
        assert card.advance_deg is not None
        plus_minus = max(nose.plus_minus_deg for nose in noses.values())
        own = f"Separation {lines.separation_cam_deg:.1f} cam °"
        advance = _signed(lines.advance_deg)
        return (
            f"{own}, the card has {card.separation_cam_deg:.1f}. Advance {advance}°, the card has "
            f"{_signed(card.advance_deg)}°. Each ± {plus_minus:.1f}°.",
            f"{own}, advance {advance}°, each ± {plus_minus:.1f}°.",
            f"{own}, advance {advance}°.",
        )
    if noses:
        ((kind, nose),) = noses.items()
        other = "ECL" if kind is Kind.INTAKE else "ICL"
        plus_minus = nose.plus_minus_deg
        if kind.other not in result.kinds:
            return (f"± {plus_minus:.1f}°. The {kind.other.value} valve has no lobe here.",)
        return (
            f"± {plus_minus:.1f}°. Advance rests on the card's separation until the {other} is "
            "read.",
            f"± {plus_minus:.1f}°. The {other} is not read yet.",
        )
    if result.top is not None:
        half, need = result.top.top.half_span_deg, result.top.span.half_deg
        half_words = f"Half the span is {half:.1f}°; this drop needs {need:.1f}°."
        return f"{half_words} True TDC ± {result.top.plus_minus_deg:.1f}°.", half_words
    return (
        "Piston up to the drop, read the wheel; over the top, down to the same drop, read again.",
        "The same drop before and after the top.",
    )


def _signed(value: float) -> str:
    return f"{value:+.1f}".replace("-", "−")
