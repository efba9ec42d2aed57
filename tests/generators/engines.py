"""Engine files and lift tables with something changed, and all that is done with an engine."""

import re
from random import Random

import numpy as np
from PyQt6.QtGui import QImage, QPainter

from true_compass.core.adjusting.comparison import compare, verdict
from true_compass.core.adjusting.tasks import task_for
from true_compass.core.engine import Engine
from true_compass.core.events import valve_events
from true_compass.core.evidence.signs import signs_at, there_words
from true_compass.core.evidence.where import Places
from true_compass.core.state import Rig, engine_state
from true_compass.drawing.documents import DocumentError
from true_compass.drawing.figure_sheets import chart_sheet, diagram_sheet, ring_sheet
from true_compass.drawing.shop_card import card_pages
from true_compass.files.engine_file import engine_text, parse_engine

NUMBER = re.compile(r"-?\d+(\.\d+)?")
VALUES = (
    *("0", "-1", "1", "2", "3", "0.5", "5", "10", "20", "45", "89.9", "120", "180", "359.99"),
    *("360", "719", "1e-9", "1e9", "true", '""', '"zero"', "[]", "[0, 180]", '"1-2"', "nan", "inf"),
)
TIMES = (0.0, 0.1, 0.5, 0.9, 1.01, 1.5, 2.0, 3.0, -1.0)


def mutant(text: str, random: Random) -> str:
    """The text of a rig with one to three lines changed."""
    lines = text.split("\n")
    said = [i for i, line in enumerate(lines) if "=" in line and not line.startswith(("#", "vers"))]
    for i in random.sample(said, random.choice((1, 1, 2, 3))):
        key, _, value = lines[i].partition("=")
        numbers = list(NUMBER.finditer(value))
        if not numbers or random.random() < 0.4:
            lines[i] = f"{key}= {random.choice(VALUES)}"
            continue
        number = random.choice(numbers)
        changed = float(number.group()) * random.choice(TIMES) + random.choice((0, 0, 1, 10))
        whole = "." not in number.group()
        told = str(int(changed)) if whole else f"{changed:.4f}"
        lines[i] = f"{key}={value[: number.start()]}{told}{value[number.end() :]}"
    return "\n".join(lines)


def work_through(engine: Engine, random: Random) -> None:
    """Everything that the program does with an open engine."""
    assert parse_engine(engine_text(engine), "again") == engine
    rig = Rig.of(engine)
    for at in (0.0, 359.9, random.uniform(0.0, 720.0)):
        state = engine_state(rig, at)
        assert np.all(np.isfinite(state.piston_from_tdc_mm))
        assert np.all(np.asarray(state.lift_mm) >= 0)
    places = [event.crank_deg for event in valve_events(rig)]
    assert places == sorted(places)
    Places(rig).next_look([])
    for item in rig.items:
        task_for(engine, item)
    rows = compare(rig)
    assert verdict(rows)
    plans = [row.plan for row in rows if row.plan is not None and row.plan.stops]
    for plan in plans:
        due = [item.name for item in plan.items]
        assert sorted(due) == sorted(rig.item_names), plan.school
        for stop in plan.stops[:2]:
            signs_at(rig, stop.crank_deg)
            there_words(rig, stop.crank_deg)
    p = QPainter(image := QImage(840, 1300, QImage.Format.Format_RGB32))
    last = engine.cylinder_count
    for sheet in (ring_sheet(rig, 99.0), diagram_sheet(rig, last, 1.0), chart_sheet(rig, 5.0)):
        for paint in sheet.pages(sheet.papers[0]):
            paint(p)
    for plan in plans[:2]:
        try:
            pages = card_pages(rig, plan)
        except DocumentError:
            assert plan.least_margin_deg < 0
            continue
        for paint in pages:
            paint(p)
    p.end()
    assert not image.isNull()


ODD = (
    "\0",
    "\x1b[2J",
    "\u202e",
    "\ufeff",
    "é",
    "½",
    "'",
    '"',
    "[",
    "{",
    "=",
    "#",
    "\r",
    "\\",
    "<b>",
)


def broken(text: str, random: Random) -> bytes:
    """A text with something wrong anywhere: cut, doubled, nested, or with a character too many."""
    for _ in range(random.choice((1, 1, 2, 4))):
        lines = text.split("\n")
        at = random.randrange(len(lines))
        place = random.randrange(len(text) + 1)
        match random.randrange(8):
            case 0:
                text = text[:place]
            case 1:
                text = "\n".join(lines[:at] + lines[at + 1 :])
            case 2:
                text = "\n".join(
                    [*lines[:at], *[lines[at]] * random.choice((2, 3, 500)), *lines[at:]]
                )
            case 3:
                lines[at], lines[-1 - at] = lines[-1 - at], lines[at]
                text = "\n".join(lines)
            case 4:
                depth = random.choice((3, 30, 3000))
                nested = random.choice(
                    ("a." * depth + "a = 1", "x = " + "[" * depth, "{a=" * depth)
                )
                text = "\n".join([*lines[:at], nested, *lines[at:]])
            case 5:
                text = text[:place] + random.choice(ODD) * random.choice((1, 2, 300)) + text[place:]
            case 6:
                text = text.replace("\n", random.choice(("\r\n", "\r", "\n\n")))
            case 7:
                key = lines[at].partition("=")[0].strip() or "name"
                lines[at] = f"{key} = {random.choice(VALUES)}"
                text = "\n".join(lines)
    content = text.encode("utf-8", "surrogatepass")
    if random.random() < 0.1:
        place = random.randrange(len(content) + 1)
        content = content[:place] + random.randbytes(3) + content[place:]
    return content
