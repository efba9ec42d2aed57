"""Other ways to read a cam: its events, its lift at overlap TDC, its whole curve, its igniter.

Each is a few figures with a name, kept as they were typed, and a function from them to sentences.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Final

from true_compass.core.degreeing.centreline import Doubt, late_words, later_deg
from true_compass.core.degreeing.curve import Station, curve_of
from true_compass.core.degreeing.igniter import (
    LONG_DEG,
    SCATTER_DEG,
    First,
    Judged,
    Set,
    Wanted,
    judged,
)
from true_compass.core.degreeing.overlap_lift import (
    lash_error_deg,
    overlap_starts,
    turn_for_lift_deg,
)
from true_compass.core.degreeing.own_card import (
    HEEL_MM,
    Row,
    centreline_of,
    contradictions,
    measured_engine,
    table_of,
)
from true_compass.core.degreeing.sheet import Setup, Sheet, check_travel
from true_compass.core.degreeing.steps import tooth_deg
from true_compass.core.engine import Engine
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError, check_number
from true_compass.core.state import Rig
from true_compass.core.units import parse_beside, parse_length_mm, parse_number
from true_compass.core.valves.cam import SEAT, CheckLift, Place
from true_compass.core.valves.timing import cylinder_times, event_words
from true_compass.core.words import before_tdc, counted

EVENTS: Final = (
    ("io", "Intake opens", "° BTDC"),
    ("ic", "Intake closes", "° ABDC"),
    ("eo", "Exhaust opens", "° BBDC"),
    ("ec", "Exhaust closes", "° ATDC"),
)
MOST_EVENT_DEG: Final = 200.0
MOST_ROWS: Final = 800


@dataclass(frozen=True, slots=True)
class Ask:
    """One figure: its name in the sheet, what it is, its unit; `rows` asks for a whole table."""

    key: str
    label: str
    unit: str = ""
    rows: bool = False


@dataclass(frozen=True, slots=True)
class Told:
    """What the figures say. `wrong` is the key of the one that cannot be."""

    headline: str
    lines: tuple[str, ...] = ()
    wrong: str = ""


@dataclass(frozen=True, slots=True)
class Way:
    """One way to read a cam."""

    slug: str
    word: str
    about: str
    asks: Callable[[Engine], tuple[Ask, ...]]
    tell: Callable[[Rig, Sheet], Told]


def _texts(sheet: Sheet, asks: tuple[Ask, ...]) -> dict[str, str]:
    return {ask.key: sheet.text(ask.key).strip() for ask in asks}


# Events ------------------------------------------------------------------------------------------


def _event_asks(slug: str, *, lift: bool) -> Callable[[Engine], tuple[Ask, ...]]:
    first = (Ask(f"{slug}.lift", "Checking lift", "mm or in"),) if lift else ()

    def asks(_engine: Engine) -> tuple[Ask, ...]:
        return (*first, *(Ask(f"{slug}.{key}", label, unit) for key, label, unit in EVENTS))

    return asks


def _tell_events(slug: str, check_of: Callable[[Sheet], CheckLift]) -> Callable[[Rig, Sheet], Told]:
    def tell(rig: Rig, sheet: Sheet) -> Told:
        try:
            check = check_of(sheet)
        except EngineError as error:
            return Told(f"{error.field.capitalize()} {error}", wrong=f"{slug}.lift")
        values: dict[str, float] = {}
        for key, label, unit in EVENTS:
            text = sheet.text(f"{slug}.{key}").strip()
            if not text:
                continue
            try:
                value = parse_beside(label, text, before="B" in unit[:3])
                if abs(value) > MOST_EVENT_DEG:
                    raise EngineError(label, f"must be within {MOST_EVENT_DEG:g}°, not {value:g}")
            except EngineError as error:
                return Told(f"{label} {error}", wrong=f"{slug}.{key}")
            values[key] = value
        told = _told_of_events(rig, sheet.cylinder, check, values)
        if not values:
            return told
        setup = sheet.setup or Setup()
        doubt = Doubt.of(setup.wheel_mm, setup.wheel_step_deg, setup.gauge.step_mm)
        # Two events make a middle: its ± is that of one, by the root of two.
        words = f"By the wheel each event stands ± {doubt.wheel_deg:.1f}°, a middle ± "
        line = f"{words}{doubt.wheel_deg / math.sqrt(2):.1f}°."
        return replace(told, lines=(*told.lines, line))

    return tell


def _told_of_events(rig: Rig, cylinder: int, check: CheckLift, values: Mapping[str, float]) -> Told:
    times = cylinder_times(rig, cylinder, check)
    lines, heads = [], []
    for kind, opens, closes in ((Kind.INTAKE, "io", "ic"), (Kind.EXHAUST, "eo", "ec")):
        usual = times.valves[0 if kind is Kind.INTAKE else 1]
        if usual.own_opens_deg is None or usual.own_closes_deg is None:
            continue
        name = kind.value.capitalize()
        set_words = f"as set {usual.opens}, {usual.closes}"
        if opens in values and closes in values:
            duration, middle = centreline_of(kind, values[opens], values[closes])
            side = "ATDC" if kind is Kind.INTAKE else "BTDC"
            card = usual.centreline_deg
            assert card is not None
            late = late_words(later_deg(kind, middle, card))
            heads.append(f"{name} {late}")
            lines.append(
                f"{name}: {duration:g}° long, its middle at {middle:.1f}° {side}; the card has "
                f"{card:.1f}: {late}."
            )
            assert usual.duration_deg is not None
            if abs(duration - usual.duration_deg) > LONG_DEG:
                lines.append(
                    f"As set it is {usual.duration_deg:.0f}° long at {check.words}: another lift, "
                    "another lash, or another cam."
                )
        elif opens in values or closes in values:
            which = opens if opens in values else closes
            own = _own_deg(kind, which == opens, values[which])
            told = event_words(kind, which == opens, own)
            lines.append(f"{name}: {told} read, {set_words}. The other event gives the middle.")
    if not lines:
        told_set = "; ".join(f"{v.name} {v.opens}, {v.closes}" for v in times.valves)
        return Told(f"Type what is read at {check.words}.", (f"As set: {told_set}.",))
    head = "; ".join(heads) if heads else "One event of a valve says half."
    return Told(f"{head}.".replace("..", "."), tuple(lines))


def _own_deg(kind: Kind, opens: bool, outside_deg: float) -> float:
    start = kind.stroke_starts_deg
    return start - outside_deg if opens else start + 180.0 + outside_deg


def _stated_lift(sheet: Sheet) -> CheckLift:
    setup = sheet.setup or Setup()
    text = sheet.text("lift.lift").strip()
    unit = "in" if setup.gauge.inches else "mm"
    lift_mm = 1.0 if not text else parse_length_mm("checking lift", text, unit)
    check_number("check_lift_mm", lift_mm)
    place = Place.VALVE if setup.gauge.station.sees_lash else Place.TAPPET
    return CheckLift(round(lift_mm, 6), place, setup.gauge.inches)


def _first_step(sheet: Sheet) -> CheckLift:
    """The needle just moves when the lift is a step of the indicator."""
    setup = sheet.setup or Setup()
    place = Place.VALVE if setup.gauge.station.sees_lash else Place.TAPPET
    return CheckLift(max(setup.gauge.step_mm, 0.01), place, setup.gauge.inches)


# Lift at overlap ---------------------------------------------------------------------------------


def _overlap_asks(engine: Engine) -> tuple[Ask, ...]:
    banks = engine.layout.banks_in_use
    names = [engine.layout.banks[bank].name for bank in banks]
    asks: list[Ask] = []
    for name in names:
        for part, what in (("read", "lift read"), ("target", "lift wanted")):
            label = f"Bank {name}, {what}" if len(names) > 1 else what.capitalize()
            asks.append(Ask(f"overlap.{name}.{part}", label, "mm"))
        zero = f"Bank {name}, zero after 720°" if len(names) > 1 else "Zero after 720°"
        asks.append(Ask(f"overlap.{name}.zero", zero, "mm"))
    return (*asks, Ask("overlap.lash", "Checking lash out by", "mm"))


OVERLAP_STEPS: Final = (
    "Set the checking lash first. Preload the gauge on the valve, zero it with that valve shut, "
    "one turn earlier; hold it at two points. Then turn on to overlap TDC and read.",
    "Cam marks up or down as the book says: each bank at its own cylinder.",
)


def _tell_overlap(rig: Rig, sheet: Sheet) -> Told:
    lines, heads = [], []
    engine = rig.engine
    kind = Kind.INTAKE if not engine.cam.intake.suction else Kind.EXHAUST
    starts = overlap_starts(rig)
    lash = 0.0
    try:
        text = sheet.text("overlap.lash").strip()
        lash = parse_length_mm("lash", text) if text else 0.0
    except EngineError as error:
        return Told(f"Lash {error}", wrong="overlap.lash")
    for start in starts:
        valve = f"{kind.letter}{start.cylinder}"
        lines.append(
            f"{valve}: zero the gauge at {(start.crank_deg - 360.0) % 720:g}°, read at "
            f"{start.crank_deg:g}°."
        )
        texts = [sheet.text(f"overlap.{start.bank}.{part}").strip() for part in ("read", "target")]
        if not all(texts):
            continue
        curve = curve_of(rig, start.cylinder, kind, Station.VALVE)
        try:
            read, target = (parse_length_mm("lift", text) for text in texts)
            check_travel((sheet.setup or Setup()).gauge, read)
            turn = turn_for_lift_deg(curve, read, target)
        except EngineError as error:
            part = "target" if error.field == "target" else "read"
            return Told(f"{valve} {error}", tuple(lines), f"overlap.{start.bank}.{part}")
        way = "earlier" if turn > 0 else "later"
        heads.append(f"{valve}: {abs(turn):.1f}° {way}")
        slope = abs(curve.slope_mm_per_deg(curve.at_lift_deg(read)[kind is Kind.EXHAUST]))
        lines.append(
            f"{read:g} read, {target:g} wanted: the cam {abs(turn):.1f}° {way}, by the true curve "
            f"({slope:.3f} mm a degree there)."
        )
        step_mm = (sheet.setup or Setup()).gauge.step_mm
        lines[-1] = f"{lines[-1]} A step of the gauge is {step_mm / slope:.1f}°."
        lines += _zero_lines(sheet, start.bank, valve)
        if lash:
            out = lash_error_deg(curve, read, target, lash)
            lines.append(f"{lash:g} mm of lash is {lash:g} of reading: {abs(out):.1f}° here.")
    if not heads:
        return Told("Lift at overlap TDC: read and wanted.", (*OVERLAP_STEPS, *lines))
    return Told("; ".join(heads) + ".", tuple(lines))


def _zero_lines(sheet: Sheet, bank: str, valve: str) -> list[str]:
    """Whether the gauge came back to zero after two turns; each bank has a gauge of its own."""
    text = sheet.text(f"overlap.{bank}.zero").strip()
    if not text:
        return []
    try:
        zero = parse_length_mm("zero", text)
    except EngineError:
        return [f"{valve}: its zero after 720° is no length, so it is left out."]
    if abs(zero) <= HEEL_MM:
        return [f"{valve}: its gauge is back at zero."]
    return [f"{valve}: its gauge came back to {zero:g} mm: it has slipped, read again."]


# Own card ----------------------------------------------------------------------------------------


def _card_asks(_engine: Engine) -> tuple[Ask, ...]:
    return (
        Ask("card.lift", "Events at a lift of", "mm or in"),
        Ask("card.intake", "Intake: degrees after overlap TDC, lift", rows=True),
        Ask("card.exhaust", "Exhaust: degrees after overlap TDC, lift", rows=True),
    )


def rows_of(text: str, unit: str = "mm") -> list[Row]:
    """Lines of an angle and a lift, as they are typed or pasted. Raises `EngineError`."""
    rows = []
    for nth, line in enumerate(filter(str.strip, text.replace("\t", " ").splitlines()), start=1):
        parts = line.replace(";", " ").replace(", ", " ").split()
        if len(parts) != 2:
            raise EngineError(
                "line", f"{nth} must be an angle and a lift, not {line.strip()[:20]!r}"
            )
        after = parse_number(f"line {nth}", parts[0])
        lift = parse_length_mm(f"line {nth}", parts[1], unit)
        if not -720.0 <= after <= 720.0:
            raise EngineError(f"line {nth}", f"must be an angle within 720°, not {after:g}")
        rows.append(Row(after, lift))
    if len(rows) > MOST_ROWS:
        raise EngineError("table", f"has {len(rows)} lines: at most {MOST_ROWS} are taken")
    return rows


def measured_rig(rig: Rig, sheet: Sheet) -> Rig | None:
    """The engine with the lobes that were read whole, or None. Raises `EngineError`."""
    setup = sheet.setup or Setup()
    engine, unit = rig.engine, "in" if setup.gauge.inches else "mm"
    for kind in Kind:
        text = sheet.text(f"card.{kind.value}")
        if not text.strip():
            continue
        try:
            rows = rows_of(text, unit)
            check_travel(setup.gauge, max(row.lift_mm for row in rows))
            of_lobe = not setup.gauge.station.sees_lash
            table = table_of(rows, of_lobe, max(setup.gauge.step_mm, 0.001))
            engine = measured_engine(engine, kind, table)
        except EngineError as error:
            raise EngineError(f"card.{kind.value}", f"{error.field} {error}") from None
    return None if engine is rig.engine else Rig.of(engine)


def _tell_card(rig: Rig, sheet: Sheet) -> Told:
    setup = sheet.setup or Setup()
    unit = "in" if setup.gauge.inches else "mm"
    try:
        text = sheet.text("card.lift").strip()
        lift_mm = 1.0 if not text else parse_length_mm("lift", text, unit)
        check_number("check_lift_mm", lift_mm)
    except EngineError as error:
        return Told(f"Lift {error}", wrong="card.lift")
    wrong = _contradictions(sheet, unit, setup.gauge.step_mm)
    if wrong is not None:
        return wrong
    try:
        measured = measured_rig(rig, sheet)
    except EngineError as error:
        key = error.field if error.field.startswith("card.") else ""
        return Told(str(error).capitalize(), wrong=key)
    if measured is None:
        return Told(
            "Read the whole lift from the heel.",
            (
                "Zero the gauge on the base circle: then all four events follow at any lift. "
                "A line a reading: degrees after overlap TDC (before it with a minus), lift.",
            ),
        )
    place = Place.VALVE if setup.gauge.station.sees_lash else Place.TAPPET
    check = CheckLift(lift_mm, place, setup.gauge.inches)
    return _told_of_card(measured, sheet, check)


def _contradictions(sheet: Sheet, unit: str, step_mm: float) -> Told | None:
    for kind in Kind:
        key = f"card.{kind.value}"
        try:
            found = contradictions(rows_of(sheet.text(key), unit), step_mm)
        except EngineError as error:
            return Told(f"{error.field.capitalize()} {error}", wrong=key)
        if found:
            return Told(f"The {kind.value} table contradicts itself.", tuple(found[:6]), key)
    return None


def _told_of_card(measured: Rig, sheet: Sheet, check: CheckLift) -> Told:
    times = cylinder_times(measured, sheet.cylinder, check)
    lines = []
    for valve in times.valves:
        if not sheet.text(f"card.{valve.kind.value}").strip() or valve.duration_deg is None:
            continue
        side = "ATDC" if valve.kind is Kind.INTAKE else "BTDC"
        lines.append(
            f"{valve.name} opens {valve.opens}, closes {valve.closes}: {valve.duration_deg:.1f}°, "
            f"its middle at {valve.centreline_deg:.1f}° {side}, full lift "
            f"{valve.peak_lift_mm:.2f} mm."
        )
    if times.overlap_deg is not None and len(lines) == 2:
        told = (
            f"Overlap {times.overlap_deg:.1f}°, {times.overlap_area_mm_deg:.1f} mm·°; separation "
            f"{times.lobe_separation_cam_deg:.1f} cam °, advance {times.advance_deg:+.1f}°."
        )
        lines.append(told.replace("-", "−"))
    return Told(f"Own card at {check.words}.", tuple(lines))


# Gear and igniter --------------------------------------------------------------------------------


def _igniter_asks(_engine: Engine) -> tuple[Ask, ...]:
    return (
        Ask("igniter.trip", "Igniter trips", "° BTDC"),
        Ask("igniter.opens", "Exhaust opens", "° BBDC"),
        Ask("igniter.closes", "Exhaust closes", "° ATDC, − before"),
    )


def _tell_igniter(rig: Rig, sheet: Sheet) -> Told:
    values = []
    for ask, before in zip(_igniter_asks(rig.engine), (True, True, False), strict=True):
        text = sheet.text(ask.key).strip()
        if not text:
            return Told(
                "Trip and cam move together on one gear: read all three by protractor.",
                (
                    "The exhaust gap first. A trip of 8 to 12° before TDC is usual where the file "
                    "has none.",
                ),
            )
        try:
            value = parse_beside(ask.label, text, before=before)
            if abs(value) > 90.0:
                raise EngineError(ask.label, f"must be within 90°, not {value:g}")
        except EngineError as error:
            return Told(f"{ask.label} {error}", wrong=ask.key)
        values.append(value)
    exhaust = cylinder_times(rig, sheet.cylinder, SEAT).valves[1]
    if exhaust.own_opens_deg is None or exhaust.own_closes_deg is None:
        return Told("The exhaust valve has no lobe in this engine's file.")
    start = Kind.EXHAUST.stroke_starts_deg
    wanted = Wanted.of(
        rig.engine.spark.beyond.trip_deg,
        start - exhaust.own_opens_deg,
        exhaust.own_closes_deg - start - 180.0,
    )
    teeth = rig.engine.timing_set(1, Kind.EXHAUST).teeth or rig.engine.cam_teeth
    read = Set(*values)
    told = judged(read, teeth, wanted)
    lines = [
        f"Exhaust {_signed_words(told.earlier_deg, 'early', 'late')} against this engine's file, "
        f"and {_signed_words(told.longer_deg, 'longer', 'shorter')}. By protractor "
        f"± {SCATTER_DEG:g}°."
    ]
    if told.first is not First.GAP:
        lines.append(_set_line("Now" if not told.teeth else "Then", told.then))
    return Told(_igniter_head(told, tooth_deg(teeth)), tuple(lines))


def _igniter_head(told: Judged, step_deg: float) -> str:
    if told.first is First.GAP:
        gap, long = ("tight", "longer") if told.longer_deg > 0 else ("wide", "shorter")
        return (
            f"Set the exhaust gap first: it is too {gap}, or the lobe is another one. The valve "
            f"is open {abs(told.longer_deg):.0f}° {long} than the file has."
        )
    if told.first is First.ZERO:
        return (
            f"{_signed_words(told.earlier_deg, 'early', 'late')} is no whole tooth "
            f"({step_deg:g}° each): check the wheel's zero, then look for wear."
        )
    if told.first is First.LEAVE:
        return "Leave the gear, and leave the trip."
    head = "Leave the gear"
    if told.teeth:
        way = "on" if told.teeth > 0 else "back"
        head = f"{counted(abs(told.teeth), 'tooth', 'teeth')} {way}"
    if not told.trim_deg:
        return f"{head}; the trip is right then."
    way = "earlier" if told.trim_deg > 0 else "later"
    return f"{head}; then trim the trip {abs(told.trim_deg):.1f}° {way}."


def _signed_words(by_deg: float, more: str, less: str) -> str:
    """`16.0° early`, or `0.0° late`."""
    return f"{abs(by_deg):.1f}° {more if by_deg >= 0 else less}"


def _set_line(when: str, at: Set) -> str:
    opens = event_words(Kind.EXHAUST, True, Kind.EXHAUST.stroke_starts_deg - at.opens_deg)
    closes = 180.0 + Kind.EXHAUST.stroke_starts_deg + at.closes_deg
    return (
        f"{when}: trips {before_tdc(at.trip_deg)}, exhaust opens {opens}, closes "
        f"{event_words(Kind.EXHAUST, False, closes)}."
    )


WAYS: Final = (
    Way(
        "lift",
        "At a lift",
        "Opening and closing at a stated lift, as cam cards state them.",
        _event_asks("lift", lift=True),
        _tell_events("lift", _stated_lift),
    ),
    Way(
        "needle",
        "Needle just moves",
        "Opening and closing where the needle just moves, as on factory cams.",
        _event_asks("needle", lift=False),
        _tell_events("needle", _first_step),
    ),
    Way(
        "play",
        "Play gone, back",
        "No gauge: where the play of the rocker is just gone, and where it is back.",
        _event_asks("play", lift=False),
        _tell_events("play", lambda _sheet: SEAT),
    ),
    Way(
        "overlap",
        "Lift at overlap",
        "A valve's lift at overlap TDC, solved on the true curve.",
        _overlap_asks,
        _tell_overlap,
    ),
    Way("card", "Own card", "The whole lift, read from the heel.", _card_asks, _tell_card),
    Way(
        "igniter",
        "Gear and igniter",
        "A make-and-break igniter and the cam on one gear.",
        _igniter_asks,
        _tell_igniter,
    ),
)
