"""A reading enters a job: the one way in for the keypad of the Book and for Do it."""

from typing import Final

from true_compass.book.brackets import most_mm
from true_compass.book.job import ItemRecord, Job, Target, check_item
from true_compass.book.typed import other_meanings, read_measure
from true_compass.book.work import AFTER_NUT, FOUND, LEFT
from true_compass.core.adjusting.setting import Setting, Way
from true_compass.core.limits import EngineError
from true_compass.core.units import GapUnit

READINGS: Final = {
    FOUND: "as found",
    LEFT: "as left, nut loose",
    AFTER_NUT: "after the nut",
}
"""How each reading of an item is called."""
TURNS: Final = "1.5 t"
"""How turns are typed."""


def reading_name(setting: Setting, which: str) -> str:
    """How the field of a reading is called in a sentence: `I1, as found,`."""
    return f"{setting.name}, {READINGS[which]},"


def final_reading(setting: Setting) -> str:
    """Which reading says what an item is left with: after its nut, where it has one."""
    return AFTER_NUT if setting.has_locknut else LEFT


def in_turns(setting: Setting) -> bool:
    """Whether a reading of it is turns of its adjuster, and never a gap."""
    return setting.way in (Way.PLUNGER, Way.CONTACT)


def typed_as(setting: Setting, unit: GapUnit) -> str:
    """What an empty field shows of how a reading is typed: the unit of the blades, or `1.5 t`."""
    return TURNS if in_turns(setting) else unit.value


def entered(setting: Setting, job: Job, which: str, text: str, *, sure: bool = False) -> ItemRecord:
    """The record of an item with what was typed for one of its readings.

    Raises `EngineError` that names the field and the way out; for a gap that can hardly be meant
    `ImplausibleGapError`, unless the person is `sure`.
    """
    name = reading_name(setting, which)
    aim = aim_mm(job.target(setting.item))
    # A height is no gap: only its own limits hold.
    sure = sure or setting.way is Way.HEIGHT
    measure = read_measure(name, text, job.unit, aim, sure=sure, most=most_mm(setting.name))
    if in_turns(setting) and measure.gap is not None:
        what = (
            "a hydraulic tappet" if setting.way is Way.PLUNGER else "an injector set from contact"
        )
        raise EngineError(name, f"is of {what}, which has no lash: type turns, such as {TURNS}")
    if not in_turns(setting) and measure.gap is None:
        raise EngineError(name, "must be a gap such as 0.25 or 10 thou, not turns")
    record = job.record(setting.item).with_reading(which, measure)
    check_item(setting.name, record)
    return record


def aim_mm(target: Target | None) -> float:
    """What is aimed at, mm; 0 where nothing is known."""
    return target.target_mm if target is not None else 0.0


def meanings(setting: Setting, job: Job, text: str) -> tuple[tuple[str, float], ...]:
    """What else an unlikely number may have meant, as keys to press, each with its mm."""
    return tuple(other_meanings(text, job.unit, aim_mm(job.target(setting.item))))
