"""Worksheets of a class: sets of their own, and every question answered from the paper alone."""

import re
from itertools import combinations

import numpy as np
import pytest

from true_compass.drawing.worksheet import PaperSet, paper_sets
from true_compass.files.course import lesson_names, shipped_lesson
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.lessons.drills import rig_of
from true_compass.lessons.paper import ZERO, lobe_words, order_words

STUDENTS = 20
FIFTH = 0.2


def shared(one: PaperSet, other: PaperSet) -> float:
    """The share of one set's marks that stands in the other too."""
    known = {repr(question.q.question) for question in other.questions}
    marks = sum(q.marks for q in one.questions if repr(q.q.question) in known)
    return marks / one.marks


@pytest.mark.parametrize("name", lesson_names())
def test_two_of_twenty_sets_share_at_most_a_fifth_of_their_marks(name: str) -> None:
    sets = paper_sets(shipped_lesson(name), 7, STUDENTS)
    for one, other in combinations(sets, 2):
        assert max(shared(one, other), shared(other, one)) <= FIFTH + 1e-9


@pytest.mark.parametrize("name", lesson_names())
def test_what_is_judged_stands_on_the_paper(name: str) -> None:
    """Where the crank stands, whose cycle that is; and where lobes begin, wherever that decides."""
    (one,) = paper_sets(shipped_lesson(name), 7)
    facts = " ".join(one.facts)
    for question in one.questions:
        drill, q = question.drill, question.q
        if drill.shows_engine:
            assert ZERO in facts
            assert f"{q.engine.name} fires {q.engine.order_text}" in facts
        if drill.reads_cam:
            assert lobe_words(q.rig) in facts
        if drill.slug in ("fires", "free", "stroke") and "TDC" not in question.text:
            # The others tell it by what moves, or by how far something is.
            assert f"{q.at_deg:.4g}°" in question.text


def test_e4_of_birch_at_tdc_1_follows_from_the_paper() -> None:
    """Reasoned by hand from the printed lobe: 4 fires at 600°, so at 0° it stands 120° into its
    cycle, and its exhaust lobe presses from 110° on: E4 is not free.
    """
    rig = rig_of(demo_rig("birch"))
    assert "4 at 600°" in order_words(rig)
    assert "Exhaust opens 130°, closes 370°; its lobe presses 110° to 390°." in lobe_words(rig)
    margins = dict(zip(rig.item_names, rig.item_margins_deg(np.array([0.0]))[:, 0], strict=True))
    assert margins["E4"] == pytest.approx(-10.0)


@pytest.mark.parametrize("name", rig_names())
def test_the_printed_lobes_tell_what_is_free(name: str) -> None:
    """Read off the paper as a student does: an item is free where its own lobe does not press."""
    rig = rig_of(demo_rig(name))
    words = lobe_words(rig)
    places = np.arange(5.0, 720.0, 35.0)
    margins = rig.item_margins_deg(places)
    names = {"I": "Intake", "E": "Exhaust"}
    for row, item in enumerate(rig.item_arcs_deg):
        title = names.get(item.name[0]) if item.name[1:].isdigit() else None
        found = re.search(rf"{title}[^.]*?its lobe presses ([^.]*(?:\.\d[^.]*)*)\.", words)
        if title is None or found is None:
            continue
        arcs = [tuple(map(float, arc.split("° to "))) for arc in
                found[1].rstrip("°").replace("° and ", "|").split("|")]  # fmt: skip
        own = (places - float(rig.offsets_deg[item.cylinder - 1])) % 720.0
        for nth, at in enumerate(own):
            pressed = any((at - start) % 720.0 < (end - start) % 720.0 for start, end in arcs)
            if abs(margins[row, nth]) > 0.2:
                assert pressed == (margins[row, nth] < 0), (item.name, at, arcs)
