"""`cam` as it is typed: the worked figures of the trade, and what is refused."""

import pytest

from tests.test_cli_book import record, run

# Common practice, no source.
WORKED = [
    (
        "tdc --before 9.1 --after 13.5",
        {
            "set_to_deg": 11.3,
            "shift_deg": 2.2,
            "mark_error_deg": -2.2,
            "late": False,
            "held": False,
            "expected_span_deg": None,
        },
    ),
    ("tdc --before -1 --after 9", {"set_to_deg": 4.0, "shift_deg": 5.0}),
    ("tdc --wheel 0-360 --before 1 --after 9", {"half_span_deg": 4.0, "mark_error_deg": -5.0}),
    ("tdc --wheel 0-360 --before 351 --after 9", {"half_span_deg": 9.0, "mark_error_deg": 0.0}),
    (
        "tdc --wheel 0-360 --against --before 9 --after 359",
        {"half_span_deg": 5.0, "mark_error_deg": 4.0, "late": True, "set_to_deg": 355.0},
    ),
    ("tdc --before 350.9 --after 13.5 --wheel 0-360", {"set_to_deg": 11.3}),
    ("tdc --before 9.1 --after 346.5 --wheel 0-360 --against", {"set_to_deg": 348.7}),
    ("tdc --before 9.1 --after 13.5 --zero bdc", {"set_to_deg": 168.7}),
    ("tdc --before 170.9 --after 166.5 --zero bdc", {"set_to_deg": 168.7, "shift_deg": 2.2}),
    ("tdc --before 170.9 --after 193.5 --wheel 0-360 --zero bdc", {"set_to_deg": 191.3}),
    ("tdc --before 13.5 --after 9.1 --wheel quarters", {"set_to_deg": 11.3, "late": True}),
    (
        "centreline --intake 92/124,84.5/131,78/138.5 --exhaust 128/96,135.5/88.5,142/82",
        {
            "icl_deg": 108.0,
            "ecl_deg": 112.0,
            "separation_cam_deg": 110.0,
            "advance_deg": 2.0,
            "walk_deg": {"intake": 0.5, "exhaust": 0.0},
        },
    ),
    ("centreline --intake 92/124", {"icl_deg": 108.0, "ecl_deg": None, "advance_deg": None}),
    ("centreline --intake 92/124 --card-icl 106", {"late_deg": {"intake": 2.0}}),
    # Nobody can be asked here: every middle counts, and the odd one is only named.
    (
        "centreline --intake 92/124,84.5/131.5,84/144",
        {"misread": {"intake": [3]}, "icl_deg": 110.0},
    ),
    (
        "card --duration-intake 228 --duration-exhaust 236 --icl 108 --ecl 112",
        {"ivo": 6.0, "ivc": 42.0, "evo": 50.0, "evc": 6.0, "overlap_deg": 12.0},
    ),
    ("lobe --base 36.02 --nose 44.86 --zero 0.01", {"lobe_lift_mm": 8.84, "valve_lift_mm": None}),
    ("lobe --base 11.02+25 --nose 44.86 --ratio 1.6 --lash 0.3", {"valve_lift_mm": 13.844}),
]


@pytest.mark.parametrize(("words", "expected"), WORKED)
def test_worked_figures(
    words: str, expected: dict[str, object], capsys: pytest.CaptureFixture[str]
) -> None:
    told = record(f"cam {words}", capsys)
    assert {key: told[key] for key in expected} == expected
    assert run(f"cam {words}", capsys)


def test_the_span_is_held_against_the_engine(capsys: pytest.CaptureFixture[str]) -> None:
    words = "cam tdc --before 9.1 --after 13.5 --drop 1.0 --rig birch"
    told = record(words, capsys, code=1)
    assert told["held"] is True
    assert told["expected_span_deg"] == pytest.approx(9.93, abs=0.01)
    assert told["bias_deg"] == pytest.approx(0.0, abs=1e-6)
    assert "you have ±11.3°" in run(words, capsys, code=1)
    assert "set the pointer" not in run(words, capsys, code=1)
    assert record(f"{words} --keep", capsys)["held"] is False
    thou = "cam tdc --before 84 --after 88 --drop 5thou --rig cedar"
    assert "wrong drop" in run(thou, capsys, code=1)
    # A true wide pair passes, and so do inches.
    assert record("cam tdc --before 40 --after 40 --drop 15.3 --rig birch", capsys)["held"] is False
    assert record("cam tdc --before 6 --after 6 --drop 0.0144in --rig birch", capsys)["set_to_deg"]
    # Degrees from TDC, typed where the wheel counts all round.
    meant = run("cam tdc --wheel 0-360 --before 8.4 --after 11.4 --drop 1 --rig birch", capsys, 1)
    assert "did the wheel read 351.6 before TDC, and not 8.4?" in meant
    assert "note" not in record("cam tdc --before 9.5 --after 10.4 --drop 1 --rig birch", capsys)
    # A link rod's mean comes off true TDC, and more so from a deep drop.
    deep = "cam tdc --before 41.8 --after 41.8 --drop 20 --rig acacia --cylinder 3"
    bias = record(deep, capsys)
    assert abs(bias["bias_deg"]) > 0.05


def test_pairs_that_contradict_each_other_are_held(capsys: pytest.CaptureFixture[str]) -> None:
    words = "cam centreline --intake 92/124,84.5/121,78/138.5"
    assert record(words, capsys, code=1)["held"] is True
    assert "92/124 and 84.5/121" in run(words, capsys, code=1)


HELD_LOBES = [
    ("--base 10.5 --nose 41.2", "25 forgotten at the base circle?"),
    ("--base 36.02 --nose 69.86", "25 too many over the nose?"),
    ("--base 10.62 --nose 44.86", "25 forgotten at the base circle?"),
]


@pytest.mark.parametrize(("words", "said"), HELD_LOBES)
def test_a_lobe_that_cannot_be_is_held(
    words: str, said: str, capsys: pytest.CaptureFixture[str]
) -> None:
    assert said in run(f"cam lobe {words}", capsys, code=1)
    assert record(f"cam lobe {words}", capsys, code=1)["held"] is True
    assert "lifts" in run(f"cam lobe {words} --keep", capsys)


def test_a_true_long_lobe_passes(capsys: pytest.CaptureFixture[str]) -> None:
    assert record("cam lobe --base 30.0 --nose 44.5", capsys)["lobe_lift_mm"] == 14.5
    assert record("cam lobe --base 1.4in --nose 1.75in", capsys)["held"] is False


def test_steps(capsys: pytest.CaptureFixture[str]) -> None:
    words = "cam steps --need 4.8 --teeth 42 --holes 15/16 --key 1.0@24 --bush 0.8@22"
    options = record(words, capsys)["options"]
    assert len(options) == 5
    assert list(options[0]) == ["tooth", "hole", "key", "bush", "gives_deg", "error_deg"]
    for option in options:
        gives = option["tooth"] * 720 / 42 + option["hole"] * 3 + option["key"] + option["bush"]
        assert option["gives_deg"] == pytest.approx(gives, abs=1e-6)
        assert abs(option["key"]) in (0.0, pytest.approx(2.388, abs=1e-3))
        assert abs(option["bush"]) in (0.0, pytest.approx(4.168, abs=1e-3))
    assert "3 holes on, bush 0.8 back" in run(words, capsys)
    assert "Nothing comes near" in run("cam steps --need 6 --teeth 42", capsys)
    assert len(record("cam steps birch --need -4.8", capsys)["options"]) == 5


@pytest.mark.parametrize(("hole", "gives"), [("4deg", 4.0), ("4", 4.0), ("4cam", 8.0)])
def test_degrees_a_hole(hole: str, gives: float, capsys: pytest.CaptureFixture[str]) -> None:
    told = record(f"cam steps --need {gives} --hole {hole}", capsys)["options"][0]
    assert (told["hole"], told["gives_deg"]) == (1, gives)


@pytest.mark.parametrize("valve", ["intake", "exhaust"])
def test_lift_at_overlap(valve: str, capsys: pytest.CaptureFixture[str]) -> None:
    words = f"cam lift-at-overlap cedar --bank B --read 0.30 --target 0.50 --valve {valve}"
    turn = record(words, capsys)["turn_deg"]
    assert (turn > 0) is (valve == "intake")
    assert "crank degrees" in run(words, capsys)


def test_gaps(capsys: pytest.CaptureFixture[str]) -> None:
    told = record("cam gaps maple", capsys)
    assert len(told["valves"]) == 8
    assert told["valve_to_valve_mm"] > 1.0
    assert all(valve["clears"] for valve in told["valves"])
    assert "do not turn it" in run("cam gaps birch --earlier 16.36", capsys)
    assert record("cam gaps birch --earlier -5", capsys)["valve_to_valve_mm"] is None


REFUSED = [
    ("tdc --before 3 --after -9", "--after must follow"),
    ("tdc --before x --after 9", "--before must be"),
    ("tdc --before 9 --after 9 --against", "--against is for"),
    ("tdc --before 9 --after 9 --drop 1", "belong together"),
    ("tdc --before 9 --after 9 --drop 900 --rig birch", "--drop must be above 0"),
    ("tdc --before 9 --after 200", "on this wheel"),
    ("centreline", "give --intake or --exhaust"),
    ("centreline --intake 124/92", "must follow"),
    ("centreline --intake 20/60", "no intake nose"),
    ("centreline --exhaust 96/128", "degrees BTDC fall"),
    ("centreline --intake 92", "pairs such as"),
    ("card --duration-intake 20 --duration-exhaust 236 --icl 108 --ecl 112", "40 to 500"),
    ("lift-at-overlap birch --read 0.2 --target 40", "--target must be above 0"),
    ("lift-at-overlap birch --bank Q --read 0.2 --target 0.3", "--bank must be one of"),
    ("steps --need 4", "nothing can be moved"),
    ("steps --need 4 --teeth 4.2", "--teeth must be a whole number"),
    ("steps --need 4 --holes 15", "two circles"),
    ("steps --need 4 --hole x", "--hole must be a plain number"),
    ("steps --need 4 --hole 400", "--hole must be above 0"),
    ("steps --need 4 --hole 4 --holes 15/16", "give one of them"),
    ("steps --need 4 --key 1.0", "--key must be mm @ radius"),
    ("steps --need 900 --teeth 42", "--need must be"),
    ("lobe --base 1.418 --nose 1.766", "was 1.418 in meant?"),
    ("lobe --base 44.86 --nose 36.02", "--nose must be more"),
    ("gaps ash", "measure by clay"),
]


@pytest.mark.parametrize(("words", "says"), REFUSED)
def test_what_is_refused(words: str, says: str, capsys: pytest.CaptureFixture[str]) -> None:
    told = run(f"cam {words}", capsys, 2)
    assert says in told
    assert told.count("\n") == 1
