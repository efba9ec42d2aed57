"""A test run: how it starts, sounds, pulls and smells, with the compression of each cylinder.

What follows from what is common practice (no source); figures are idealised.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any, Final

import numpy as np

from true_compass.bench.consequence import consequence
from true_compass.bench.covered import AMBIENT_KPA, STARTER_FASTER, Covered
from true_compass.bench.feel import GAUGE_STEP_KPA, stepped
from true_compass.bench.gaps import heel_values_mm
from true_compass.bench.scenario import Said, Scenario
from true_compass.bench.state import BenchState, covers, first_state
from true_compass.bench.tasks import Task
from true_compass.core.adjusting.setting import Setting, Way
from true_compass.core.words import counted

LOW_SHARE: Final = 0.75


@dataclass(frozen=True, slots=True)
class Report:
    """What a test run tells."""

    starts: str
    sounds: tuple[str, ...]
    pulls: str
    smells: tuple[str, ...]
    compression_kpa: tuple[float, ...]

    def record(self) -> dict[str, Any]:
        """As JSON has it."""
        return {
            "starts": self.starts,
            "sounds": list(self.sounds),
            "pulls": self.pulls,
            "smells": list(self.smells),
            "compression_kpa": {
                str(nth): kpa for nth, kpa in enumerate(self.compression_kpa, start=1)
            },
        }


def compression_kpa(
    work: Covered, state: BenchState, cylinders: Sequence[int] = ()
) -> tuple[float, ...]:
    """Pressure over ambient that the starter makes in these cylinders, or in all, to 5 kPa."""
    values = heel_values_mm(work, state)
    found = []
    for cylinder in cylinders or work.engine.cylinders:
        tdc_deg = float(work.true_tdc_deg[cylinder - 1])
        way = np.linspace(tdc_deg - 180.0, tdc_deg, 91)
        leak = work.leak_per_deg(cylinder) / STARTER_FASTER
        kpa = work.kpa_along(cylinder, way, way % 720.0, values, state.pumped, leak)
        found.append(stepped(float(kpa.max()) - AMBIENT_KPA, GAUGE_STEP_KPA))
    return tuple(found)


@lru_cache(maxsize=8)
def sound_kpa(scenario: Scenario) -> float:
    """Pressure over ambient that the starter makes in a sound cylinder 1, to 5 kPa."""
    sound = Covered.of(replace(scenario, faults=(), said=Said(), task=Task.FREE))
    return compression_kpa(sound, first_state(sound), (1,))[0]


def report_of(work: Covered, state: BenchState) -> Report:
    """How the engine would run as it is now."""
    values = heel_values_mm(work, state)
    kpa = compression_kpa(work, state)
    least = LOW_SHARE * sound_kpa(work.scenario)
    low = [nth for nth, one in enumerate(kpa, start=1) if one < least]
    ticks, hangs = _ticking(work, state, values)
    sounds, smells = list(ticks), []
    for slug, sound, smell in _LEAKS:
        case = work.condition.case(slug)
        if case is not None:
            sounds.append(sound.format(case.cylinder))
            smells += [smell] if smell else []
    spark, spark_sound = _spark(work)
    sounds += [spark_sound] if spark_sound else []
    of_spark = _of_spark(work)
    sounds += of_spark
    tooth = work.condition.case("cam-one-tooth")
    if tooth is not None:
        early = tooth.amount > 0
        sounds.append("uneven idle" if early else "spits back at low speed")
    smells += ["fuel"] if sum(value > 2 * s.band_mm[1] for s, value in _gaps(work, values)) else []
    starts = "at once"
    if low or tooth is not None or spark == "late":
        starts = "cranks long"
    if spark == "none" or len(low) * 2 > len(kpa):
        starts = "will not start"
    pulls = "well"
    if low or hangs or tooth is not None or spark or of_spark:
        pulls = "weakly"
    if starts == "will not start":
        pulls = "not at all"
    if low:
        sounds.append(f"{counted(len(low), 'cylinder')} beats weakly: {_listed(low)}")
    return Report(starts, tuple(sounds), pulls, tuple(smells), kpa)


_LEAKS: Final = (
    ("valve-leaks", "hisses at the manifold with cylinder {}", ""),
    ("rings-leak", "breathes at the oil filler with cylinder {}", "blue smoke"),
)


def _listed(numbers: list[int]) -> str:
    return ", ".join(map(str, numbers))


def _gaps(work: Covered, values: tuple[float, ...]) -> list[tuple[Setting, float]]:
    pairs = zip(work.settings, values, strict=True)
    return [(setting, value) for setting, value in pairs if setting.way is Way.GAP]


def _ticking(
    work: Covered, state: BenchState, values: tuple[float, ...]
) -> tuple[list[str], list[str]]:
    """Sentences about what ticks, and names of what hangs open."""
    ticks, hangs = [], []
    for setting, value in zip(work.settings, values, strict=True):
        effect = consequence(setting, value).effect
        soft = setting.way is Way.PLUNGER and work.soft(setting, True)
        if effect.ticks or soft:
            ticks.append(setting.name)
        if effect.hangs:
            hangs.append(setting.name)
    sounds = [f"ticks at {', '.join(ticks)}"] if ticks else []
    struck = work.condition.case("cover-struck")
    if struck is not None and set(covers(work)) & state.parts_on:
        sounds.append(f"knocks under the cover near cylinder {struck.cylinder}")
    return sounds, hangs


def _spark(work: Covered) -> tuple[str, str]:
    """Whether the spark comes at all where it should, and what is heard of it."""
    condition = work.condition
    if condition.case("rotor-one-turn"):
        return "none", "pops in both manifolds"
    if condition.case("leads-reversed"):
        return "none", "pops in both manifolds"
    if condition.case("leads-swapped"):
        return "late", "misses evenly on two cylinders, pops"
    teeth = condition.case("rotor-teeth")
    if teeth is not None:
        return ("late", "kicks back") if teeth.amount < 0 else ("late", "soft, runs hot")
    return "", ""


def _of_spark(work: Covered) -> list[str]:
    """What is heard of a spark that comes, but not as it should."""
    condition, told = work.condition, []
    cross = condition.case("leads-cross")
    if cross is not None:
        told.append(f"knocks under load near cylinder {cross.other}")
    if condition.case("can-unplugged"):
        told.append("hisses at the manifold at idle")
    if condition.case("weights-stuck"):
        told.append("goes flat above half speed")
    return told
