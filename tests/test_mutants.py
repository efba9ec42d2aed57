"""An engine that is accepted can be worked with: rigs with a few values changed.

Whatever the reader lets in must come back from a file, turn over, have plans, and be drawn.
"""

import re
from random import Random

import numpy as np
import pytest
from PyQt6.QtGui import QImage, QPainter

from true_compass.core.adjust import task_for
from true_compass.core.comparison import compare, verdict
from true_compass.core.engine import Engine
from true_compass.core.events import valve_events
from true_compass.core.evidence import signs_at, there_words
from true_compass.core.state import Rig, engine_state
from true_compass.core.where import Places
from true_compass.drawing.card import UnsafePlanError, card_pages
from true_compass.drawing.sheets import chart_sheet, diagram_sheet, ring_sheet
from true_compass.files.engine_file import engine_text, parse_engine
from true_compass.files.problems import EngineFileError
from true_compass.files.rigs import rig_names, rig_text

ENGINES = 2
"""How many accepted ones of each rig are worked through."""
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
    for _, paint in (ring_sheet(rig, 99.0), diagram_sheet(rig, last, 1.0), chart_sheet(rig, 5.0)):
        paint(p)
    for plan in plans[:2]:
        try:
            pages = card_pages(rig, plan)
        except UnsafePlanError:
            assert plan.least_margin_deg < 0
            continue
        for paint in pages:
            paint(p)
    p.end()
    assert not image.isNull()


@pytest.mark.usefixtures("qapp")
@pytest.mark.parametrize("name", rig_names())
def test_what_is_accepted_can_be_worked_with(name: str) -> None:
    random = Random(name)
    accepted: list[Engine] = []
    refused: list[EngineFileError] = []
    while len(accepted) < ENGINES:
        text = mutant(rig_text(name), random)
        with np.errstate(all="raise", under="ignore"):
            try:
                accepted.append(parse_engine(text, "mutant"))
            except EngineFileError as error:
                refused.append(error)
                continue
            work_through(accepted[-1], random)
    sentences = [str(problem) for error in refused for problem in error.problems]
    assert all(sentence.endswith(".") and "\n" not in sentence for sentence in sentences)
