"""All schools side by side on one engine, and what the numbers say."""

from dataclasses import dataclass

from true_compass.core.adjusting.schools import SCHOOLS, USUAL, Choice, NotApplicableError, School
from true_compass.core.adjusting.stops import Plan, whole_degrees
from true_compass.core.state import Rig


@dataclass(frozen=True, slots=True)
class Row:
    """A school on one engine: its plan, or the sentence that says why there is none."""

    school: School
    plan: Plan | None
    reason: str = ""


def compare(rig: Rig, choice: Choice = USUAL) -> list[Row]:
    """All schools side by side."""
    rows = []
    for school in SCHOOLS:
        try:
            rows.append(Row(school, school.plan(rig, choice)))
        except NotApplicableError as error:
            rows.append(Row(school, None, str(error)))
    return rows


def verdict(rows: list[Row]) -> str:
    """What the numbers say, without a winner: two stops, its own TDC, and the widest margin."""
    plans = {row.school.word: row for row in rows if row.plan is not None}
    wide = max(plans.values(), key=_least_deg)
    parts = []
    for word, leave, put in (
        ("two-stop", "Two stops leave", "Two stops set"),
        ("firing-order", "each at its own TDC leaves", "each at its own TDC sets"),
    ):
        plan = plans[word].plan if word in plans else None
        if plan is not None:
            least, margin = plan.least_item, plan.least_margin_deg
            told = f"{leave} {whole_degrees(margin)}° on {least.name}"
            unsafe = f"{put} {least.name} {-whole_degrees(margin)}° off its base circle"
            parts.append(told if plan.safe else unsafe)
    first = f"{'; '.join(parts)}."
    assert wide.plan is not None
    count = len(wide.plan.stops)
    stops = "stop" if count == 1 else "stops"
    return f"{first} {wide.school.name}: {whole_degrees(_least_deg(wide))}°, at {count} {stops}."


def _least_deg(row: Row) -> float:
    assert row.plan is not None
    return row.plan.least_margin_deg
