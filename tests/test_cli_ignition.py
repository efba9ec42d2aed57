"""`ignition` as it is typed: worked figures, what is refused, and what is asked."""

import pytest

from tests.test_cli_book import record, run
from true_compass.entry import main

POINTS = "--initial 8 --weights 900:0,3200:24 --can 100:0,400:14"
AT_CAP = "--initial 8 --weights 450:0,1600:12 --can 100:0,400:7 --at distributor"


def lead(post: int, to: int, at: float, stroke: str) -> dict[str, object]:
    """A wrong lead whose spark meets shut valves."""
    return {"post": post, "lead_to": to, "at_cycle_deg": at, "stroke": stroke, "open": []}


# Common practice, no source; the rim by πD/360.
WORKED = [
    (f"total --speed 2000 --vacuum 250mbar {POINTS}", {"total_deg": 26.47826087}),
    (f"total --speed 2000 --vacuum 250mbar {AT_CAP}", {"total_deg": 26.47826087}),
    (f"total --speed 3200 {POINTS}", {"total_deg": 32.0, "vacuum_deg": 0.0}),
    (f"total --speed 3200 --vacuum 60kPa {POINTS}", {"total_deg": 46.0}),
    (f"total --speed 800 --vacuum 14inHg {POINTS}", {"mechanical_deg": 0.0, "vacuum_deg": 14.0}),
    # Sycamore's file is at the distributor; what is typed is at the crank unless said.
    (f"total sycamore --speed 2000 --vacuum 250mbar {POINTS}", {"total_deg": 26.47826087}),
    (f"total sycamore --speed 2000 --vacuum 250mbar {AT_CAP}", {"total_deg": 26.47826087}),
    (
        "total sycamore --speed 2000 --vacuum 400mbar --weights 900:0,3200:24",
        {"mechanical_deg": 11.47826087, "vacuum_deg": 12.0},
    ),
    ("total sycamore --speed 2000 --vacuum 400mbar --at crank", {"vacuum_deg": 6.0}),
    (
        "total birch --speed 3000 --initial 18",
        {
            "total_deg": 40.0,
            "warnings": [
                "Wide open 40.0°, 7.0° over the limit. It knocks: less initial, or weights that "
                "stop sooner.",
                "18° is too much for the starter. Most 16°: it kicks.",
            ],
        },
    ),
    ("total birch --speed 1000 --initial -4", {"initial_deg": -4.0, "total_deg": -4.0}),
    (
        "fit cedar --goal 315 --gear 14 --seat 13 --post1 315",
        {"post": 1, "tooth": 12, "rotor_deg": 321.571428571, "body_turn_deg": 6.571428571},
    ),
    ("fit sycamore --goal 0 --gear 13 --posts 8 --seat 0 --post1 0", {"post": 1, "tooth": 0}),
    # Anticlockwise: post 2 stands 45° before post 1 as clockwise counts.
    ("fit sycamore --goal 315 --gear 16 --seat 0 --post1 0", {"post": 2, "tooth": 14}),
    # The file's own: 13 seats from 12°, posts from 60°. A gear that is typed has seats of its own.
    ("fit birch --goal 60", {"post": 1, "tooth": 2, "rotor_deg": 67.384615385}),
    ("fit birch --goal 60 --gear 13", {"post": 2, "tooth": 2, "rotor_deg": 55.384615385}),
    ("leads birch --wired 1-5-3-6-2-4", {"wrong": [], "meaning": "right"}),
    (
        "leads birch --wired 1-5-3-2-6-4",
        {
            "meaning": "swapped-2-6",
            "wrong": [
                lead(post=4, to=2, at=600.0, stroke="compression"),
                lead(post=5, to=6, at=120.0, stroke="power"),
            ],
        },
    ),
    ("mark birch --total 32 --diameter 160", {"rim_mm": 44.680428851}),
    ("mark birch --total 1", {"rim_mm": 1.623156205}),
]


@pytest.mark.parametrize(("words", "expected"), WORKED)
def test_worked_figures(
    words: str, expected: dict[str, object], capsys: pytest.CaptureFixture[str]
) -> None:
    told = record(f"ignition {words}", capsys)
    for key, value in expected.items():
        assert told[key] == (pytest.approx(value) if isinstance(value, float) else value), key


def test_the_direction_that_nobody_saw_is_asked_for(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["ignition", "fit", "alder", "--goal", "90"]) == 0
    assert "what does it do when you bar the engine?" in capsys.readouterr().err
    assert main(["ignition", "fit", "alder", "--goal", "90", "--rotor", "anticlockwise"]) == 0
    assert capsys.readouterr().err == ""


def test_a_body_without_room_is_impossible(capsys: pytest.CaptureFixture[str]) -> None:
    words = "ignition fit birch --goal 30 --gear 5 --seat 28 --post1 0 --json"
    assert main(words.split()) == 1
    told = capsys.readouterr()
    assert '"body_turn_deg": -20.0' in told.out
    assert "16° anticlockwise and 20° clockwise" in told.err


@pytest.mark.parametrize(
    ("words", "says"),
    [
        ("total --speed 2000", "--initial is not known"),
        ("total --speed 2000 --initial 8 --vacuum 250", "250 mbar, 250 kPa or 250 inHg"),
        ("total --speed 2000 --initial 8 --vacuum=-5mbar", "--vacuum is how far below"),
        ("total --speed 2000 --initial 30", "more kicks the starter"),
        ("total --speed 2000 --initial 8 --weights 900:20,3200:4", "--weights must not fall"),
        ("total --speed 2000 --initial 8 --can 4:0,14:12", "14 inHg are 474 mbar"),
        ("fit birch --goal 0 --posts 8", "count the posts"),
        ("fit hickory --goal 0", "has no distributor to fit: its file says diesel"),
        ("leads birch --wired 1-3-4-2", "names 4 leads, but the engine has 6 cylinders"),
        ("leads hickory --wired 1-5-3-6-2-4", "is a diesel: no leads. It injects 1-5-3-6-2-4"),
        ("mark alder --total 10", "--diameter is needed"),
    ],
)
def test_what_is_wrong_is_said(words: str, says: str, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["ignition", *words.split()]) == 2
    told = capsys.readouterr()
    assert says in told.err
    assert told.out == ""


def test_in_words(capsys: pytest.CaptureFixture[str]) -> None:
    assert "swapped at the cap" in run("ignition leads cedar --wired 1-6-4-8-5-3-7-2", capsys)
    assert "chalk it clockwise" in run("ignition mark birch --total 10", capsys)
    assert "before TDC at the crank" in run("ignition total birch --speed 900", capsys)
