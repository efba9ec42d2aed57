"""What else is learnt and kept: each topic with its fields, what it answers, and what it keeps.

A topic reads texts and answers lines; it owns no widget.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Final

from true_compass.app.workspaces.book.model import BookModel
from true_compass.book.hand import GAPS, hand_of
from true_compass.book.heat import checked_diff_mm
from true_compass.book.job import General, Witness, new_id
from true_compass.book.pointing import WIDTHS
from true_compass.book.typed import read_measure
from true_compass.book.witness import check_witness, witness_words
from true_compass.core.adjusting.preload import plan_rods, plunger_change_mm, rod_words
from true_compass.core.adjusting.setting import Way
from true_compass.core.items import item_named
from true_compass.core.limits import EngineError
from true_compass.core.units import GapUnit, parse_length_mm, parse_number
from true_compass.files.book_learnt import HandTest, HotCold
from true_compass.session.book import Learnt

Texts = Mapping[str, str]


@dataclass(frozen=True, slots=True)
class Entry:
    """One field of a topic. A `blind` one is hidden once it was typed."""

    slug: str
    label: str
    hint: str = ""
    blind: bool = False


@dataclass(frozen=True, slots=True)
class Topic:
    """`says` gives the lines that the texts lead to, and may raise `EngineError`; `keeps` writes
    them down and answers what is kept, in words (nothing where it could not be written); it is
    called only when `says` raised nothing. `kept` lists what is there, the newest first.
    """

    word: str
    about: str
    fields: tuple[Entry, ...]
    says: Callable[[BookModel, Texts], list[str]]
    keeps: Callable[[BookModel, Texts], str]
    button: str
    kept: Callable[[BookModel], list[str]]


def _mm(field: str, text: str, unit: GapUnit = GapUnit.MM) -> float:
    if not text.strip():
        raise EngineError(field, "is missing: write it in mm")
    return parse_length_mm(field, text, unit.value)


def _gap(field: str, text: str, unit: GapUnit) -> float:
    if not text.strip():
        raise EngineError(field, "is missing: write the gap")
    measure = read_measure(field, text, unit, 0.3)
    if measure.gap is None:
        raise EngineError(field, "must be a gap such as 0.25")
    return measure.gap.middle


# Hand test ---------------------------------------------------------------------------------------


def _pairs(model: BookModel, texts: Texts) -> list[tuple[float, float]]:
    found = []
    for n in range(1, GAPS + 1):
        told, measured = texts[f"set{n}"], texts[f"measured{n}"]
        if told.strip() and measured.strip():
            unit = model.unit
            found.append((_gap(f"gap {n} as set", told, unit), _gap(f"gap {n}", measured, unit)))
    return found


def _step_mm(texts: Texts) -> float:
    return _mm("step of the blades", texts["step"]) if texts["step"].strip() else 0.01


def _hand_says(model: BookModel, texts: Texts) -> list[str]:
    if not texts["who"].strip():
        raise EngineError("who", "is missing: write whose hand it is")
    pairs = _pairs(model, texts)
    found = hand_of(pairs, _step_mm(texts))
    bound = WIDTHS * 2**0.5 * found.scatter_mm
    way = "too wide" if found.bias_mm > 0 else "too narrow"
    bias = f"Measures {abs(found.bias_mm):.3f} mm {way} on average."
    if abs(found.bias_mm) < 0.0005:
        bias = "Measures neither too wide nor too narrow."
    return [
        bias,
        f"Scatter of one reading {found.scatter_mm:.3f} mm, from {found.count} gaps.",
        f"A change must pass {bound:.3f} mm before it points to anything.",
    ]


def _hand_keeps(model: BookModel, texts: Texts) -> str:
    person = model.keeper.person(texts["who"])
    pairs = tuple(_pairs(model, texts))
    test = HandTest(new_id(), person.id, model.today, _step_mm(texts), pairs)
    words = _hand_words(person.name, test)
    kept = model.desk.session.write_learnt(Learnt(test, person), f"hand of {person.name}")
    return words if kept else ""


def _hand_words(name: str, test: HandTest) -> str:
    """`Mina, 0.046 mm narrow, 2026-12-01`."""
    bias = hand_of(test.pairs, test.step_mm).bias_mm
    way = "wide" if bias > 0 else "narrow"
    return f"{name}, {abs(bias):.3f} mm {way}, {test.day.isoformat()}"


def _hands_kept(model: BookModel) -> list[str]:
    book = model.keeper.book
    if book is None:
        return []
    names = {person.id: person.name for person in book.people()}
    tests = book.learnt.hand_tests()[::-1]
    return [_hand_words(names.get(test.person_id, "no name"), test) for test in tests]


# Hot and cold ------------------------------------------------------------------------------------


def _heat(model: BookModel, texts: Texts) -> tuple[str, float, float | None]:
    of = texts["kind"].strip().upper()
    if of not in ("I", "E"):
        raise EngineError("kind", "must be I or E")
    unit = model.unit
    diff = checked_diff_mm(_gap("cold", texts["cold"], unit), _gap("hot", texts["hot"], unit))
    degrees = texts["degrees"].strip()
    return of, diff, parse_number("temperature", degrees) if degrees else None


def _heat_says(model: BookModel, texts: Texts) -> list[str]:
    of, diff, degrees = _heat(model, texts)
    way = "wider" if diff > 0 else "narrower"
    at = "" if degrees is None else f" at {degrees:g} °C"
    return [
        f"{of}: {abs(diff):.2f} mm {way} hot{at}.",
        "Kept with the day, and used for this engine's targets from then on.",
    ]


def _heat_keeps(model: BookModel, texts: Texts) -> str:
    of, diff, degrees = _heat(model, texts)
    found = HotCold(new_id(), model.book_engine.id, of, diff, degrees, model.today)
    job = model.job_with_heat(found)
    kept = model.desk.session.write_learnt(Learnt(found), f"hot and cold of {of}", job)
    return _heat_words(found) if kept else ""


def _heat_words(found: HotCold) -> str:
    """`E, 0.05 mm wider hot at 84 °C, 2026-12-01`."""
    way = "wider" if found.diff_mm > 0 else "narrower"
    at = "" if found.temperature_c is None else f" at {found.temperature_c:g} °C"
    return f"{found.of}, {abs(found.diff_mm):.2f} mm {way} hot{at}, {found.day.isoformat()}"


def _heat_kept(model: BookModel) -> list[str]:
    book = model.keeper.book
    found = book.learnt.hot_cold(model.book_engine.id)[::-1] if book is not None else []
    return [_heat_words(one) for one in found]


# Push rods ---------------------------------------------------------------------------------------


def _rods_says(model: BookModel, texts: Texts) -> list[str]:
    job = model.job
    if not model.engine.train.hydraulic:
        raise EngineError("push rods", "are asked about where lifters are hydraulic")
    plungers, window = {}, None
    for item in model.items:
        setting = model.setting(item)
        target = job.target(item) if job is not None else None
        value = target.value(job.record(item).found) if job is not None and target else None
        if setting.way is Way.PLUNGER and value is not None and target is not None:
            plungers[item], window = value.middle, target.band_mm
    if window is None:
        raise EngineError("turns to the seat", "are missing: count them on Job, such as 1.5 t")
    ratio = model.engine.train.intake_ratio
    rod, cut, stem = (
        parse_length_mm(name, texts[name]) if texts[name].strip() else 0.0
        for name in ("rod", "cut", "stem")
    )
    shift = plunger_change_mm(rod, cut, stem, ratio)
    plan = plan_rods({item: value + shift for item, value in plungers.items()}, window)
    lines = [f"Window {window[0]:.2f} to {window[1]:.2f} mm; {len(plungers)} lifters counted."]
    if shift:
        lines.append(f"With these changes every plunger moves {shift:+.2f} mm.".replace("-", "−"))
    return [*lines, *rod_words(plan), "Test a trial rod on every cylinder, in firing order."]


def _nothing(_model: BookModel, _texts: Texts) -> str:
    """Nothing to keep."""
    return ""


def _none_kept(_model: BookModel) -> list[str]:
    """Nothing of its own is kept: it stands in the job."""
    return []


# Witness marks -----------------------------------------------------------------------------------


def _mark(texts: Texts) -> Witness:
    item = item_named(texts["item"].strip() or "?")
    rod = _mm("rod", texts["rod"]) if texts["rod"].strip() else 0.0
    mark = Witness(
        item.name,
        _mm("centre", texts["centre"]),
        _mm("width", texts["width"]),
        _mm("tip", texts["tip"]),
        rod,
    )
    check_witness(mark)
    return mark


def _witness_says(model: BookModel, texts: Texts) -> list[str]:
    marks = [*(model.job.witness if model.job is not None else ())]
    if any(texts[name].strip() for name in ("item", "centre", "width", "tip")):
        marks.append(_mark(texts))
    return witness_words(marks) if marks else ["Square to the stem, at half lift."]


def _witness_keeps(model: BookModel, texts: Texts) -> str:
    if model.job is None:
        return ""
    mark = _mark(texts)
    model.change("witness mark", witness=(*model.job.witness, mark))
    return f"witness mark of {mark.item}"


# Other readings ----------------------------------------------------------------------------------


def _general(texts: Texts) -> General:
    what, unit = texts["what"].strip(), texts["unit"].strip()
    if not what:
        raise EngineError("what", "is missing: intake centreline, lift at overlap, initial …")
    found, left = (
        parse_number(name, texts[name]) if texts[name].strip() else None
        for name in ("found", "left")
    )
    if found is None:
        raise EngineError("found", "is missing: as found first")
    return General(what, unit, found, left, texts["found"].strip())


def _reading_says(model: BookModel, texts: Texts) -> list[str]:
    lines = []
    for one in model.job.readings if model.job is not None else ():
        left = f", left {one.left:g}" if one.left is not None else ""
        lines.append(f"{one.what}: found {one.found:g}{left} {one.unit}".rstrip())
    if texts["what"].strip():
        _general(texts)
    return lines or ["Centrelines, lift at overlap and spark, found and left."]


def _reading_keeps(model: BookModel, texts: Texts) -> str:
    if model.job is None:
        return ""
    new = _general(texts)
    rest = tuple(one for one in model.job.readings if one.what != new.what)
    model.change(new.what, readings=(*rest, new))
    return new.what


TOPICS: Final = (
    Topic(
        "Hand test",
        "Somebody sets five gaps by micrometer, you measure them blind. It shows how your hand "
        "leans and scatters; claims about your readings rest on that from then on.",
        (
            Entry("who", "Who", "whose hand"),
            Entry("step", "Step of blades, mm", "0.05"),
            *(
                entry
                for n in range(1, GAPS + 1)
                for entry in (
                    Entry(f"set{n}", f"Gap {n}, as set", blind=True),
                    Entry(f"measured{n}", "as measured"),
                )
            ),
        ),
        _hand_says,
        _hand_keeps,
        "Keep this hand",
        _hands_kept,
    ),
    Topic(
        "Hot and cold",
        "Published corrections disagree, for iron even in sign. Measure one kind cold and hot "
        "once: this engine's own difference is kept.",
        (
            Entry("kind", "Kind", "I or E"),
            Entry("degrees", "Head hot, °C", "84"),
            Entry("cold", "Cold"),
            Entry("hot", "Hot"),
        ),
        _heat_says,
        _heat_keeps,
        "Keep this difference",
        _heat_kept,
    ),
    Topic(
        "Push rods",
        "Turns to the seat, counted on Job, as travel of the plungers: which one rod length serves "
        "all of them. Try another rod, a head cut or a stem height.",
        (
            Entry("rod", "Rods longer by, mm", "0.5"),
            Entry("cut", "Head cut by, mm", "0.2"),
            Entry("stem", "Stems higher by, mm", "0.3"),
        ),
        _rods_says,
        _nothing,
        "",
        _none_kept,
    ),
    Topic(
        "Witness marks",
        "Where the rocker marks the valve tip: centre from one edge, width, and the tip's own "
        "width; with the push rod it was made with.",
        (
            Entry("item", "Item", "E1"),
            Entry("rod", "Push rod, mm", "190.5"),
            Entry("centre", "Centre, mm", "4.1"),
            Entry("width", "Width, mm", "1.6"),
            Entry("tip", "Tip, mm", "8"),
        ),
        _witness_says,
        _witness_keeps,
        "Write it down",
        _none_kept,
    ),
    Topic(
        "Other readings",
        "What is no gap, found and left, with its unit.",
        (
            Entry("what", "What", "intake centreline"),
            Entry("unit", "Unit", "° ATDC"),
            Entry("found", "Found"),
            Entry("left", "Left"),
        ),
        _reading_says,
        _reading_keeps,
        "Write it down",
        _none_kept,
    ),
)
