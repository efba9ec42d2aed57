"""Judging: what was found, what was left, what it would do, and what a careful person had done."""

from dataclasses import dataclass
from typing import Any, Final

from true_compass.bench.careful import careful_steps
from true_compass.bench.consequence import Consequence, consequence
from true_compass.bench.covered import Covered
from true_compass.bench.gaps import heel_mm
from true_compass.bench.hands.telling import NOTHING_WRONG, fault_names, said_order
from true_compass.bench.ideas import (
    direction_right,
    error_deg,
    ideas_of,
    last_tdc,
    last_with,
    seen_near,
    tells_stroke,
)
from true_compass.bench.running import Report, report_of
from true_compass.bench.state import BenchState, Zero, first_state
from true_compass.bench.tasks import Task
from true_compass.core.adjusting.setting import Way

WITHIN_DEG: Final = {Task.TDC: 4.0, Task.WHICH_TDC: 180.0, Task.TRUE_TDC: 0.3}
MARK_WITHIN_DEG: Final = 1.0
NO_EVIDENCE: Final = ("slacken", "manual", "second look")


@dataclass(frozen=True, slots=True)
class ItemVerdict:
    """One item: as found, as left, its band, where on its lobe it was set, what follows."""

    name: str
    found_mm: float
    left_mm: float
    band_mm: tuple[float, float]
    in_band: bool
    set_off_base_circle: bool
    set_at_deg: float | None
    set_on_mm: float
    was_set: bool
    zero: Zero | None
    follows: Consequence
    cause: str

    @property
    def passes(self) -> bool:
        """In its band, and set (or, of a plunger, its last zero taken) as it should be."""
        sound = self.zero in (None, Zero.SOUND)
        return self.in_band and not self.set_off_base_circle and sound

    def record(self) -> dict[str, Any]:
        """As JSON has it."""
        return {
            "name": self.name,
            "found_mm": round(self.found_mm, 6),
            "left_mm": round(self.left_mm, 6),
            "band_mm": list(self.band_mm),
            "in_band": self.in_band,
            "set_off_base_circle": self.set_off_base_circle,
            "set_at_deg": self.set_at_deg,
            "was_set": self.was_set,
            "zero": (self.zero.value or "sound") if self.zero is not None else None,
            "follows": self.follows.words,
            "cause": self.cause,
        }


@dataclass(frozen=True, slots=True)
class Verdict:
    """The truth about one run. `passed` is None where nothing is judged."""

    passed: bool | None
    tdc_error_deg: float | None
    items: tuple[ItemVerdict, ...]
    wrong_ideas: tuple[str, ...]
    turned_deg: float
    turned_back_deg: float
    hints: int
    evidence: tuple[tuple[str, str, str, bool], ...]
    could_tell: bool | None
    faults: tuple[str, ...]
    named_faults: tuple[str, ...]
    mark_error_deg: float
    said_mark_error_deg: float | None
    foretold_right: int
    foretold_all: int
    broke: tuple[str, ...]
    before: Report
    after: Report
    careful: tuple[str, ...]
    notes: tuple[str, ...]

    def record(self) -> dict[str, Any]:
        """As JSON has it."""
        return {
            "passed": self.passed,
            "tdc_error_deg": self.tdc_error_deg,
            "items": [item.record() for item in self.items],
            "wrong_ideas": list(self.wrong_ideas),
            "turned_deg": round(self.turned_deg, 6),
            "turned_back_deg": round(self.turned_back_deg, 6),
            "hints": self.hints,
            "evidence": [
                {"do": do, "of": of, "said": said, "tells_which_tdc": tells}
                for do, of, said, tells in self.evidence
            ],
            "could_tell": self.could_tell,
            "faults": list(self.faults),
            "named_faults": list(self.named_faults),
            "mark_error_deg": self.mark_error_deg,
            "said_mark_error_deg": self.said_mark_error_deg,
            "foretold": {"right": self.foretold_right, "all": self.foretold_all},
            "broke": list(self.broke),
            "run_before": self.before.record(),
            "run_after": self.after.record(),
            "careful": list(self.careful),
            "notes": list(self.notes),
        }


def judge(work: Covered, state: BenchState) -> Verdict:
    """The truth about what was done to a covered engine."""
    items = tuple(_item(work, state, row) for row in range(len(work.settings)))
    told = last_tdc(state)
    error = None if told is None else round(error_deg(work, told), 6)
    evidence: tuple[tuple[str, str, str, bool], ...] = ()
    could_tell = None
    if told is not None:
        cylinder = int(told.said["cylinder"])
        seen = seen_near(state, told.crank_deg, told.nth)
        evidence = tuple(
            (one.do, one.of, one.said, tells_stroke([one], cylinder, work))
            for one in seen
            if one.do not in NO_EVIDENCE
        )
        could_tell = tells_stroke(seen, cylinder, work)
    mark = last_with(state, "mark_error_deg")
    fault = last_with(state, "fault")
    return Verdict(
        passed=_passed(work, state, items),
        tdc_error_deg=error,
        items=items,
        wrong_ideas=ideas_of(work, state),
        turned_deg=state.turned_deg,
        turned_back_deg=state.back_deg,
        hints=state.hints,
        evidence=evidence,
        could_tell=could_tell,
        faults=work.scenario.faults,
        named_faults=tuple(fault_names(fault.said)) if fault is not None else (),
        mark_error_deg=work.condition.mark_error_deg,
        said_mark_error_deg=None if mark is None else float(mark.said["mark_error_deg"]),
        foretold_right=state.foretold_right,
        foretold_all=state.foretold_all,
        broke=state.broke,
        before=report_of(work, first_state(work)),
        after=report_of(work, state),
        careful=careful_words(work),
        notes=_notes(work, state),
    )


def _item(work: Covered, state: BenchState, row: int) -> ItemVerdict:
    setting, item = work.settings[row], state.items[row]
    found = heel_mm(work, first_state(work), row)
    left = heel_mm(work, state, row)
    if setting.way is Way.GAP and not state.head_torqued:
        left -= work.condition.head_settles_mm
    was_set = item.set_at_deg is not None
    off = was_set and item.off_heel
    return ItemVerdict(
        name=setting.name,
        found_mm=found,
        left_mm=left,
        band_mm=setting.band_mm,
        in_band=setting.holds(left),
        set_off_base_circle=off,
        set_at_deg=item.set_at_deg,
        set_on_mm=item.set_on_mm if was_set else 0.0,
        was_set=was_set,
        zero=item.zero,
        follows=consequence(setting, left),
        cause=_cause(work, state, row, off, setting.holds(left)),
    )


def _cause(work: Covered, state: BenchState, row: int, off: bool, good: bool) -> str:
    item = state.items[row]
    if off:
        return "set off its base circle" if item.zero is None else "its zero was taken on a lobe"
    if item.zero is not None and item.zero is not Zero.SOUND:
        return str(item.zero.value)
    if good:
        return ""
    if item.set_at_deg is not None and not item.held:
        return "the nut turned the screw"
    if not state.head_torqued and work.condition.head_settles_mm:
        return "the head was not torqued first"
    case = work.condition.case("locknut-creeps")
    if case is not None and case.item == work.settings[row].name:
        return "its nut does not hold"
    return "set wrong" if item.set_at_deg is not None else "left as found"


def _passed(work: Covered, state: BenchState, items: tuple[ItemVerdict, ...]) -> bool | None:
    task = work.scenario.task
    if task is Task.FREE:
        return None
    if task in WITHIN_DEG:
        return _tdc_passed(work, state)
    if task is Task.MARK:
        told = last_with(state, "mark_error_deg")
        if told is None:
            return False
        off = float(told.said["mark_error_deg"]) - work.condition.mark_error_deg
        return abs((off + 180.0) % 360.0 - 180.0) <= MARK_WITHIN_DEG + 1e-9
    if task is Task.ORDER:
        return _order_passed(work, state)
    if task is Task.FAULT:
        told = last_with(state, "fault")
        named = set(fault_names(told.said)) - {NOTHING_WRONG} if told is not None else set()
        return named == set(work.scenario.faults) and told is not None
    judged = [
        item
        for item, setting in zip(items, work.settings, strict=True)
        if setting.can_be_set and _counts(task, setting.way)
    ]
    return all(item.passes for item in judged) and not _loose_nuts(work, state)


MEASURES: Final = ("feeler", "go-no-go", "height", "wiggle", "spin", "lift", "bridge")
"""What tells of a gap, a plunger or a bridge: a blade, a tool or a finger put to it."""


def unmeasured(work: Covered, state: BenchState) -> list[str]:
    """Items that are judged and that nobody measured, neither as found nor as left."""
    if not work.scenario.task.sets:
        return []
    measured = {one.of for one in state.seen if one.do in MEASURES}
    return [setting.name for setting in work.settings if setting.name not in measured]


def guessed(state: BenchState) -> bool:
    """Whether something was declared with the crank untouched and nothing to go by."""
    looked = any(one.do != "manual" for one in state.seen)
    return bool(state.told) and not (state.turned_deg or state.back_deg or looked)


def _loose_nuts(work: Covered, state: BenchState) -> list[str]:
    """Locknuts that were left loose: the next start moves their screws."""
    pairs = zip(work.settings, state.items, strict=True)
    return [setting.name for setting, item in pairs if setting.has_locknut and not item.tight]


def _counts(task: Task, way: Way) -> bool:
    if task is Task.PRELOAD:
        return way is Way.PLUNGER
    return task is Task.SET or way in (Way.BRIDGE, Way.GAP)


def _tdc_passed(work: Covered, state: BenchState) -> bool:
    """The cylinder asked for, at the stroke that was said, near enough.

    True TDC is a matter of the piston alone: there either stroke is as good.
    """
    task, told = work.scenario.task, last_tdc(state)
    if told is None or told.said["cylinder"] != work.scenario.cylinder:
        return False
    if task is Task.TDC and told.said["tdc"] != "compression":
        return False
    error = abs(error_deg(work, told))
    if task is Task.TRUE_TDC:
        error = min(error, abs(error - 360.0))
    return error <= WITHIN_DEG[task] + 1e-9


def _order_passed(work: Covered, state: BenchState) -> bool:
    told = last_with(state, "order")
    if told is None:
        return False
    order = said_order(told.said)
    start = order.index(1)
    right = order[start:] + order[:start] == list(work.engine.firing_order)
    rotor = str(told.said.get("rotor", ""))
    return right and (not work.engine.has_rotor or direction_right(work, rotor))


def careful_words(work: Covered) -> tuple[str, ...]:
    """What a careful person would have done here, sentence by sentence."""
    return tuple(step.words for step in careful_steps(work))


def _notes(work: Covered, state: BenchState) -> tuple[str, ...]:
    """What was not wrong, but is worth a word."""
    notes = []
    if guessed(state):
        notes.append("A guess: it was said with nothing turned, looked at or measured.")
    found = {name for name, when in state.records if when == "found"}
    early = [name for name in state.slackened_first if name not in found]
    if early and work.scenario.task.sets:
        notes.append(f"Not written down as found before slackening: {', '.join(early)}.")
    loose = _loose_nuts(work, state)
    if loose:
        told = f"Left with a loose nut: {', '.join(loose)}."
        notes.append(f"{told} The next start moves it." if work.scenario.task.sets else told)
    if not state.head_torqued and work.condition.head_settles_mm:
        notes.append("The head was not torqued: its gaps moved when it settled.")
    unsettled = [
        setting.name
        for setting, item in zip(work.settings, state.items, strict=True)
        if not item.settled
    ]
    if unsettled:
        notes.append(f"Plungers had not settled: {', '.join(unsettled)}.")
    return (*notes, *_repeats(state))


def _repeats(state: BenchState) -> list[str]:
    """How well the second look agrees with what was left."""
    told = []
    for name in state.second_look:
        first, second = state.records.get((name, "left")), state.records.get((name, "second"))
        if first is None or second is None or first[0] is None or second[0] is None:
            continue
        off = second[0] - first[0]
        same = "the same" if abs(off) < 0.005 else f"{off:+.2f} mm".replace("-", "−")
        told.append(f"Second look at {name}: {same}.")
    return told
