"""Sheets that are true to scale: lengths, directions, pieces, tiles, proofs, blades."""

import itertools
import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from true_compass.core.adjusting.schools import BY_WORD, Choice
from true_compass.core.engine import Mark
from true_compass.core.limits import EngineError
from true_compass.core.paper.blades import Blades, crossings, parse_blades, together
from true_compass.core.paper.keyway import Keyway
from true_compass.core.paper.page import parse_page_mm
from true_compass.core.paper.places import (
    Sort,
    damper_marks,
    event_places,
    flywheel_marks,
    mark_places,
    on_paper_deg,
    stop_words,
    tdc_places,
)
from true_compass.core.paper.proof import Proof, parse_bar_mm, parse_proof
from true_compass.core.paper.tape import (
    Ring,
    Tape,
    pieces_of,
    tape_of_diameter,
    tape_of_string,
    tape_of_strip,
)
from true_compass.core.paper.wheel import LAP_MM, Face, PaperWheel, tiles_of
from true_compass.core.state import Rig
from true_compass.core.units import GapUnit
from true_compass.core.valves.cam import SEAT
from true_compass.files.rigs import demo_rig, rig_names


def test_lengths_of_the_trade() -> None:
    """A wheel of 180 mm: 1.57 mm a degree; a damper of 165.0 and 0.1 mm: 518.7 and 1.4408 mm.

    Common practice, no source; the figures are arithmetic.
    """
    assert PaperWheel(180.0).degree_mm == pytest.approx(1.57, abs=0.005)
    tape = tape_of_diameter(165.0, 0.1)
    assert tape.length_mm == pytest.approx(518.7, abs=0.05)
    assert tape.degree_mm == pytest.approx(1.4408, abs=0.00005)
    assert tape_of_strip(tape.length_mm).degree_mm == tape.degree_mm
    # A string of 1 mm lies half its thickness outside: its length is that round D + 1.
    string = math.pi * (165.0 + 1.0)
    assert tape_of_string(string, 1.0, 0.1).length_mm == pytest.approx(tape.length_mm)


def test_a_proof_as_the_trade_has_it() -> None:
    assert Proof(98.7).factors[0] == pytest.approx(1.0132, abs=0.00005)
    assert [Proof(101.5).is_far, Proof(101.6).is_far, Proof(100, 98.4).is_far] == [
        False,
        True,
        True,
    ]
    assert "100 %" in Proof(97.0).sentences[0]
    assert "1.0309" in Proof(97.0).sentences[1]
    assert parse_proof("99.2/100,1") == Proof(99.2, 100.1)
    assert parse_bar_mm("across the page", "3.94 in") == pytest.approx(100.076)


@pytest.mark.parametrize(
    ("text", "way_out"),
    [
        ("89.9/100", "from 90 to 110"),
        ("100/110.1", "along the page"),
        ("3.94/100", "Write 3.94 in"),
        ("9.9/100", "Write 99"),
        ("98.7", "ACROSS/ALONG"),
        ("a/100", "a length"),
    ],
)
def test_a_wrong_proof_is_told_in_a_sentence(text: str, way_out: str) -> None:
    with pytest.raises(EngineError) as told:
        parse_proof(text)
    assert way_out in f"{told.value.field} {told.value}"


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: PaperWheel(0.0), "from 50 to 1500 mm, not 0"),
        (lambda: PaperWheel(7.0), "is that inches? Write 7 in"),
        (lambda: PaperWheel(math.nan), "not nan"),
        (lambda: PaperWheel(60.0, 30.0), "from 0 to 24 mm"),
        (lambda: tape_of_diameter(0.0, 0.1), "from 40"),
        (lambda: tape_of_diameter(165.0, 5.0), "from 0 to 2 mm"),
        (lambda: tape_of_strip(5.0), "round must be"),
        (lambda: tape_of_string(100.0, 1.0, 0.1), "from 40"),
        (lambda: tiles_of(1500.0, 177.0, 257.0), "sheets of this paper"),
        (lambda: parse_page_mm("50x300"), "from 140"),
        (lambda: parse_page_mm("A9"), "such as 200 x 300"),
        (lambda: Ring(0), "count them"),
        (lambda: Keyway(25.0, 20.0), "from 1 to 12.5"),
        (lambda: parse_blades("0.05 5", GapUnit.MM), "from 0.02 to 3 mm thick, not 5"),
        (lambda: parse_blades("0.05 x", GapUnit.MM), "not 'x'"),
        (lambda: mark_places(Rig.of(demo_rig("birch")), 60.0), "up to 45° out"),
    ],
)
def test_a_size_that_cannot_be(make: object, words: str) -> None:
    assert callable(make)
    with pytest.raises(EngineError) as told:
        make()
    assert words in str(told.value)


@pytest.mark.parametrize("sense", [1, -1])
@pytest.mark.parametrize("turned_deg", [0.0, 10.0, 95.0, 180.0, 350.0])
def test_what_stands_under_a_fixed_pointer_is_degrees_after_tdc(
    sense: int, turned_deg: float
) -> None:
    """A rim followed by hand: a point that lay `right` degrees clockwise of the pointer, seen from
    the front, is carried `sense` × the crank's turn further clockwise."""
    tape = Tape(500.0, "", sense)
    under = [right for right in range(-179, 181) if (right + sense * turned_deg) % 360 == 0]
    assert [tape.after_deg(right) % 360 for right in under] == [turned_deg % 360]
    assert tape.right_deg(turned_deg) % 360 == under[0] % 360


def test_clockwise_has_before_tdc_at_the_right() -> None:
    assert Tape(500.0, "").after_deg(10.0) == -10.0
    assert Tape(500.0, "", -1).after_deg(10.0) == 10.0


@given(st.floats(41.0, 1200.0), st.floats(150.0, 400.0))
def test_pieces_make_one_turn_and_fit(diameter_mm: float, room_mm: float) -> None:
    tape = tape_of_diameter(diameter_mm, 0.1)
    pieces = pieces_of(tape, room_mm)
    assert sum(piece.span_deg for piece in pieces) == 360.0
    assert all(one.right_deg == other.left_deg for one, other in itertools.pairwise(pieces))
    assert pieces[0].left_deg < 0 < pieces[0].right_deg
    for piece in pieces:
        assert (piece.span_deg + piece.lap_deg) * tape.degree_mm <= room_mm + 1e-6
        assert piece.lap_deg * tape.degree_mm >= 8.0 - 1e-9


@given(st.floats(50.0, 900.0), st.floats(150.0, 300.0), st.floats(150.0, 400.0))
def test_tiles_cover_the_whole_wheel(diameter_mm: float, wide_mm: float, high_mm: float) -> None:
    try:
        tiles = tiles_of(diameter_mm, wide_mm, high_mm)
    except EngineError:
        return
    radius = diameter_mm / 2
    for turn in range(0, 360, 5):
        x, y = radius * math.cos(math.radians(turn)), radius * math.sin(math.radians(turn))
        assert any(
            tile.left_mm <= x <= tile.left_mm + wide_mm
            and tile.top_mm <= y <= tile.top_mm + high_mm
            for tile in tiles.sheets
        )
    lefts = sorted({tile.left_mm for tile in tiles.sheets})
    assert all(
        other - one == pytest.approx(wide_mm - LAP_MM) for one, other in itertools.pairwise(lefts)
    )


def test_figures_of_each_kind_of_scale() -> None:
    """Common practice, no source: 0 to 360, 0-180-0, four quarters, and a row for upside down."""
    at = (0.0, 30.0, 110.0, 190.0, 350.0)
    rows = {
        Face.FULL: ["0", "30", "110", "190", "350"],
        Face.SPLIT: ["0", "30", "110", "170", "10"],
        Face.QUARTERS: ["0", "30", "70", "10", "10"],
        Face.PROTRACTOR: ["0", "30", "110", "170", "10"],
    }
    for face, figures in rows.items():
        assert [face.figure(mark) for mark in at] == figures
    assert [Face.PROTRACTOR.second_figure(mark) for mark in at] == ["180", "150", "70", "10", "170"]
    assert Face.SPLIT.second_figure(30.0) == ""


def test_places_of_an_inline_six() -> None:
    rig = Rig.of(demo_rig("birch"))
    plan = BY_WORD["firing-order"].plan(rig, Choice())
    tdcs = tdc_places(rig, plan)
    # 1-5-3-6-2-4: 5 (with 2) is 120° after 1, 3 (with 4) after 5 (common practice, no source).
    assert [(place.at_deg, place.words) for place in tdcs] == [
        (0.0, "1·6"),
        (120.0, "2·5"),
        (240.0, "3·4"),
    ]
    assert all(place.is_stop for place in tdcs)
    cast, *_ = mark_places(rig, 2.0)
    assert (cast.at_deg, cast.words, cast.sort) == (2.0, "cast mark, 2.0 late", Sort.MARK)
    assert mark_places(rig, -2.0)[0].at_deg == 358.0
    marked = replace(
        rig.engine,
        marks=(Mark("flywheel", 120.0, "2/5"), Mark("damper", 10.0, "F"), Mark("damper", 0.0)),
    )
    other = Rig.of(marked)
    assert [place.words for place in flywheel_marks(other)] == ["flywheel, 2/5"]
    assert [place.words for place in damper_marks(other)] == ["cast mark", "damper, F"]
    assert len(mark_places(other)) == 3
    words = stop_words(rig, plan)
    assert [(one.sign, one.items) for one in words[:2]] == [
        ("1 fires", "I1 E1"),
        ("5 fires", "I5 E5"),
    ]


@pytest.mark.parametrize("name", rig_names())
def test_every_item_is_at_one_place_and_each_event_where_it_is(name: str) -> None:
    rig = Rig.of(demo_rig(name))
    for school in ("firing-order", "two-stop"):
        plan = BY_WORD[school].plan(rig, Choice())
        told = [item for stop in stop_words(rig, plan) for item in _names(stop.items)]
        assert sorted(told) == sorted(item.name for item in rig.items)
        stops = {round(on_paper_deg(rig, stop.crank_deg), 3) for stop in plan.stops}
        drawn = {round(place.at_deg, 3) for place in tdc_places(rig, plan) if place.is_stop}
        assert all(any(abs(stop - place) % 360 <= 0.5 for place in drawn) for stop in stops)
    # A valve is at its seat just outside its events, and off it just inside (the lobe itself).
    opens = [place for place in event_places(rig, 1, SEAT) if " opens " in place.words]
    first_tdc = float(rig.true_offsets_deg[0])
    for place in opens:
        row = 0 if place.words.startswith("I") else 1
        assert any(
            _lift(rig, row, first_tdc + place.at_deg + turn - 0.05) == 0.0
            and _lift(rig, row, first_tdc + place.at_deg + turn + 1.0) > 0.0
            for turn in (0.0, 360.0)
        ), place


def _lift(rig: Rig, row: int, crank_deg: float) -> float:
    """Lift of a valve as the lobe itself has it, mm."""
    return float(rig.lobes.lift_mm(np.array([crank_deg % 720.0]))[row, 0])


def _names(items: str) -> list[str]:
    """Item names out of a line of them: `I1 bridge` is one."""
    words: list[str] = []
    for word in items.split(" "):
        if word in ("bridge", "variable", "brake"):
            words[-1] += f" {word}"
        else:
            words.append(word)
    return words


def test_blades_that_make_a_gap_are_the_nearest_that_there_are() -> None:
    usual = parse_blades("", GapUnit.MM)
    for gap in range(5, 101):
        target = gap / 100
        best = min(
            abs(sum(held) - target)
            for count in (1, 2, 3)
            for held in itertools.combinations(usual.sizes_mm, count)
        )
        told = together(target, usual)
        assert abs(told.over_mm) == pytest.approx(best, abs=1e-6)
        assert sum(told.sizes_mm) == pytest.approx(target + told.over_mm, abs=1e-6)
    two = Blades((0.05, 0.08, 0.13, 0.15, 0.2, 0.28, 0.3))
    assert together(0.43, two).sizes_mm == (0.28, 0.15)


def test_thou_and_mm_that_are_not_equal() -> None:
    """8 thou is 0.2032 and 10 thou 0.254 mm (25.4 mm an inch, exact)."""
    told = {crossing.size_mm: crossing for crossing in crossings()}
    assert told[0.2].over_mm == pytest.approx(0.0032)
    assert told[0.25].over_mm == pytest.approx(0.004)
    assert all(abs(crossing.over_mm) > 1e-4 for crossing in told.values())
