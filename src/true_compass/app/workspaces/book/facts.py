"""The facts of a job: what each is called, how it is shown, and how what was typed is read back."""

import contextlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any, Final

from true_compass.book.brackets import most_mm
from true_compass.book.job import (
    MOST_TEXT,
    BookSource,
    Counted,
    Job,
    Part,
    Target,
    ToDo,
    check_clock,
    check_day,
)
from true_compass.core.limits import EngineError
from true_compass.core.units import (
    GapUnit,
    gap_short,
    parse_length_mm,
    parse_number,
    split_number,
)
from true_compass.core.valves.train import ZeroLash

Show = Callable[[Job], str]
Read = Callable[[Job, str], dict[str, Any]]
YES_NO: Final = {"yes": True, "no": False, "": None}


@dataclass(frozen=True, slots=True)
class Fact:
    """One fact: `field` is its slug, `label` what stands before it, `hint` what it is for."""

    field: str
    label: str
    show: Show
    read: Read
    hint: str = ""
    wide: bool = False


def _text(field: str) -> tuple[Show, Read]:
    def show(job: Job) -> str:
        return str(getattr(job, field))

    def read(_: Job, text: str) -> dict[str, Any]:
        told = " ".join(text.split())
        if len(told) > MOST_TEXT:
            raise EngineError(field, f"must be at most {MOST_TEXT} characters long")
        return {field: told}

    return show, read


def _maybe_number(field: str, least: float, most: float) -> tuple[Show, Read]:
    def show(job: Job) -> str:
        value = getattr(job, field)
        return "" if value is None else f"{value:g}"

    def read(_: Job, text: str) -> dict[str, Any]:
        if not text.strip():
            return {field: None}
        value = parse_number(field, text.strip().removesuffix("C").removesuffix("h"))
        if not least <= value <= most:
            raise EngineError(field, f"must be {least:g} to {most:g}, not {value:g}")
        return {field: value}

    return show, read


def _yes_no(field: str) -> tuple[Show, Read]:
    def show(job: Job) -> str:
        return {True: "yes", False: "no", None: ""}[getattr(job, field)]

    def read(_: Job, text: str) -> dict[str, Any]:
        told = text.strip().casefold()
        if told not in YES_NO:
            raise EngineError(field, "must be yes, no, or empty where nobody said")
        return {field: YES_NO[told]}

    return show, read


def _show_day(job: Job) -> str:
    return job.day.isoformat()


def _read_day(_: Job, text: str) -> dict[str, Any]:
    try:
        return {"day": date.fromisoformat(text.strip())}
    except ValueError:
        raise EngineError("date", f"must be a day such as 2026-11-12, not {text[:20]!r}") from None


def _show_clock(job: Job) -> str:
    if job.clock is None:
        return ""
    return f"{job.clock:g} km" if job.by_distance else f"{job.clock:g}"


def _read_clock(job: Job, text: str) -> dict[str, Any]:
    if not text.strip():
        return {"clock": None}
    value, unit = split_number("hours", text, "hours such as 1840, or 52300 km")
    if unit not in ("", "h", "km"):
        raise EngineError("hours", f"must be hours such as 1840, or 52300 km, not {text[:20]!r}")
    return {"clock": value, "by_distance": unit == "km" or (not unit and job.by_distance)}


def _show_blades(job: Job) -> str:
    step = f"step {job.blade_step_mm:g} mm" if job.blade_step_mm else ""
    return ", ".join(filter(None, (job.blades, job.unit.value, step)))


def _read_blades(job: Job, text: str) -> dict[str, Any]:
    """`set 3, mm, step 0.05`: name, unit of a bare number, step from blade to blade."""
    told: dict[str, Any] = {"blades": "", "unit": job.unit, "blade_step_mm": 0.0}
    for part in (part.strip() for part in text.split(",")):
        word = part.casefold()
        if word in ("mm", "thou"):
            told["unit"] = GapUnit(word)
        elif word.startswith("step"):
            told["blade_step_mm"] = _step_mm(word.removeprefix("step"), told["unit"])
        elif part:
            told["blades"] = f"{told['blades']}, {part}" if told["blades"] else part
    return told


def _step_mm(text: str, unit: GapUnit) -> float:
    step = parse_length_mm("step of the blades", text, unit.value)
    if not 0 < step <= 0.5:
        raise EngineError("step of the blades", "must be up to 0.5 mm, such as step 0.05")
    return step


def _show_parts(job: Job) -> str:
    return "; ".join(part.words for part in job.parts)


def _read_parts(_: Job, text: str) -> dict[str, Any]:
    """`head: cracked; E5 valve: burnt`."""
    parts = []
    for told in (told.strip() for told in text.split(";")):
        if told:
            what, __, reason = told.partition(":")
            first, __, rest = what.strip().partition(" ")
            at_item = bool(rest) and len(first) < 5 and first[:1] in "IEUB" and first[1:2].isdigit()
            item = first if at_item else ""
            parts.append(Part(rest.strip() if at_item else what.strip(), reason.strip(), item))
    return {"parts": tuple(parts)}


def _show_to_do(job: Job) -> str:
    return "; ".join(one.words for one in job.to_do)


def _read_to_do(_: Job, text: str) -> dict[str, Any]:
    """`E5 again at 2140; oil on 2027-03-07`."""
    found = []
    for told in (told.strip() for told in text.split(";")):
        if not told:
            continue
        words, day, at = told, None, None
        before, on, after = words.rpartition(" on ")
        if on:
            # Words may hold an "on" that begins no day.
            with contextlib.suppress(ValueError):
                day, words = date.fromisoformat(after.strip()), before
        before, mark, after = words.rpartition(" at ")
        number = after.strip().removesuffix("km").removesuffix("h").strip().replace(",", "")
        if mark and number.replace(".", "", 1).isdigit():
            at, words = float(number), before
        found.append(ToDo(words.strip(), at, day))
    return {"to_do": tuple(found)}


def _fact(
    field: str, label: str, made: tuple[Show, Read], hint: str = "", wide: bool = False
) -> Fact:
    return Fact(field, label, *made, hint, wide)


def _read_zero(_: Job, text: str) -> dict[str, Any]:
    """One of the three definitions of zero lash: they are different depths."""
    told = text.strip().casefold()
    if told and told not in {zero.value for zero in ZeroLash}:
        raise EngineError("zero lash", "must be play, spin or plunger, or empty")
    return {"zero_lash": told}


def _show_zero(job: Job) -> str:
    return job.zero_lash


def _show_person(job: Job) -> str:
    return job.person.name


FACTS: Final = (
    Fact("day", "Date", _show_day, _read_day, "2026-11-12"),
    Fact("clock", "Hours or km", _show_clock, _read_clock, "1840, or 52300 km"),
    Fact("person", "Who", _show_person, lambda _, text: {"person": text}, "who measures and sets"),
    _fact("seen_by", "Seen by", _text("seen_by"), "who looked a second time"),
    _fact("temperature_c", "Head, °C", _maybe_number("temperature_c", -50, 400), "18"),
    _fact("rested_h", "Rested, h", _maybe_number("rested_h", 0, 100000), "hours since it ran"),
    Fact("blades", "Blades", _show_blades, _read_blades, "set 3, mm, step 0.05"),
    _fact("school", "Method", _text("school"), "two-stop, firing-order …"),
    _fact("head_first", "Head torqued first", _yes_no("head_first"), "yes or no"),
    _fact("pumped", "Lifters pumped up", _yes_no("pumped"), "yes or no"),
    Fact("zero_lash", "Zero lash by", _show_zero, _read_zero, "play, spin, plunger"),
    _fact("complaint", "Complaint", _text("complaint"), "ticks at idle, warm", wide=True),
    _fact("signs_before", "Signs before", _text("signs_before"), "pulls evenly", wide=True),
    _fact("signs_after", "Signs after", _text("signs_after"), "quiet", wide=True),
    Fact(
        "parts", "Parts changed", _show_parts, _read_parts, "head: cracked; E5 valve: burnt", True
    ),
    Fact(
        "to_do",
        "Still to do",
        _show_to_do,
        _read_to_do,
        "E5 again at 2140; oil on 2027-03-07",
        True,
    ),
    _fact("note", "Note", _text("note"), "", wide=True),
    _fact("signed", "Signed", _text("signed"), "who signs that it was rolled over by hand"),
)


def read_fact(
    fact: Fact, job: Job, text: str, others: Sequence[Counted], today: date
) -> dict[str, Any]:
    """What a job becomes with another text in one fact. Raises `EngineError`."""
    told = fact.read(job, text)
    after = replace(job, **{k: v for k, v in told.items() if k != "person"})
    check_day(after.day, today)
    if fact.field in ("day", "clock", "parts"):
        check_clock(others, after)
    return told


def target_text(target: Target | None, unit: GapUnit) -> str:
    """Both ends of a band, and the target where it is not half-way: `0.35..0.45 = 0.38 mm`.

    In the unit of the blades, which is written behind it.
    """
    if target is None:
        return ""
    aim = gap_short(target.target_mm, unit)
    if target.band_mm is None:
        return f"{aim} {unit.value}"
    low, high = target.band_mm
    words = "..".join(gap_short(end, unit) for end in (low, high))
    half_way = abs(target.target_mm - (low + high) / 2) < 1e-6
    return f"{words} {unit.value}" if half_way else f"{words} = {aim} {unit.value}"


def _with_unit(text: str, unit: GapUnit) -> tuple[str, str]:
    """A text without the unit at its end, and that unit; the blades' own where there is none."""
    for word in (one.value for one in GapUnit):
        if text.strip().endswith(word) and text.count(word) == 1:
            return text.strip().removesuffix(word), word
    return text, unit.value


def source_text(target: Target | None) -> str:
    """`Bench book / 2 / 41 / turbo`: book, edition, page, variant."""
    if target is None:
        return ""
    told = target.source
    return " / ".join((told.book, told.edition, told.page, told.variant)).rstrip(" /")


def read_target(of: str, hot: bool, text: str, source: str, job: Job) -> Target | None:
    """A target as it is typed; None for an empty one. Raises `EngineError`."""
    field = f"target of {of}"
    if not text.strip():
        return None
    # A unit that is written once, behind it all, holds for every figure.
    text, unit = _with_unit(text, job.unit)
    ends, _, aim = text.partition("=")
    low, between, high = ends.partition("..")
    band = [parse_length_mm(field, end, unit) for end in ((low, high) if between else (low,))]
    if any(not 0 <= end <= most_mm(of) for end in band):
        raise EngineError(field, f"must be 0 to {most_mm(of):g} mm, such as 0.35..0.45")
    if band[0] > band[-1]:
        raise EngineError(field, f"has its wider end first: write {high.strip()}..{low.strip()}")
    target = parse_length_mm(field, aim, unit) if aim.strip() else sum(band) / len(band)
    if between and not band[0] - 1e-9 <= target <= band[1] + 1e-9:
        raise EngineError(field, "lies outside its own band: correct one of them")
    parts = [part.strip() for part in source.split("/")]
    if len(parts) > 4:
        raise EngineError(f"source of {of}", "must be book / edition / page / variant")
    old = next((t for t in job.targets if t.of == of), None)
    per_turn = old.per_turn_mm if old is not None else 0.0
    both = (band[0], band[1]) if between else None
    return Target(of, hot, round(target, 6), both, BookSource(*parts), per_turn_mm=per_turn)
