"""Stops on the front page: the first items of the plan, ticked where they are done."""

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from true_compass.app.tile import GoOn, Tile
from true_compass.core.items import Item
from true_compass.core.words import at_degrees
from true_compass.drawing.codes import rounded, tick_box
from true_compass.drawing.text import CENTRE, draw_text
from true_compass.drawing.theme import NOTE, Theme, Weight
from true_compass.session.session import SessionState

ROWS = 3


def _done(state: SessionState) -> int:
    return sum(state.work.has(state.engine, item) for item in state.rig.items)


def paint(p: QPainter, box: QRectF, state: SessionState, theme: Theme) -> None:
    """Chips with a box each."""
    items = state.rig.items
    work, engine = state.work, state.engine
    first = next((n for n, item in enumerate(items) if not work.has(engine, item)), 0)
    start = max(min(first - 2, len(items) - ROWS), 0)
    for place, item in enumerate(items[start : start + ROWS]):
        y = box.center().y() - 42 + 28 * place
        chip = QRectF(box.left(), y, 40, 24)
        radius = 8.0 if item.rounded else 2.0
        rounded(p, chip, radius, theme.ink, None)
        draw_text(p, chip, item.name.split()[0], NOTE, theme.on_ink, Weight.STRONG, CENTRE)
        box_at = QRectF(box.left() + 54, y + 1, 22, 22)
        tick_box(p, box_at, theme, ticked=work.has(engine, item))


def words(state: SessionState) -> str:
    """How many items are done."""
    done, of = _done(state), len(state.rig.items)
    return f"{done} of {of}" if done else f"{of} items"


def go_on(state: SessionState) -> GoOn | None:
    """The item that is due next in a plan that was begun."""
    done, of = _done(state), len(state.rig.items)
    if not done or done >= of:
        return None
    # Only work that was begun pays for a plan.
    from true_compass.core.adjusting.comparison import first_safe, rows_of
    from true_compass.core.adjusting.tasks import task_for

    sentence = f"Setting the valves of {state.engine.name}: {done} of {of} done"
    row = first_safe(rows_of(state.rig, first=state.work.school))
    stops = row.plan.stops if row is not None and row.plan is not None else ()
    for number, stop in enumerate(stops, start=1):
        due = [row.item for row in stop.items if not state.work.has(state.engine, row.item)]
        if due and number - 1 >= state.work.place:
            item: Item = due[0]
            head = f"Set to {task_for(state.engine, item).target_words}"
            line = f"Stop {number} of {len(stops)}, crank at {at_degrees(stop.crank_deg)}"
            return GoOn(item, head, line, sentence, f"Go on with {item.name}", "Do it", done, of)
    return GoOn(None, "Go on setting", "", sentence, "Go on", "Do it", done, of)


TILE = Tile(
    "Set the valves",
    "Which valves may be set here, step by step.",
    paint,
    words,
    go_on,
)
