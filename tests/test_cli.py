import json
import os
import re
import subprocess
import sys
from datetime import date
from pathlib import Path

import pytest

from tests.strategies import never_opens
from true_compass.core.adjusting.comparison import compare
from true_compass.core.state import Rig
from true_compass.drawing.documents import A4
from true_compass.drawing.shop_card import Card
from true_compass.entry import main
from true_compass.files.engine_file import save_engine
from true_compass.files.engine_values import engine_digest
from true_compass.files.rigs import demo_rig, rig_names, rig_text

V8_PINS = "0,0,90,90,270,270,180,180"
V8_BANKS = "45,-45,45,-45,45,-45,45,-45"


def run(words: str, capsys: pytest.CaptureFixture[str], code: int = 0) -> str:
    assert main(words.split()) == code
    return capsys.readouterr().out


def test_state_of_a_six(capsys: pytest.CaptureFixture[str]) -> None:
    record = json.loads(run("state --order 1-5-3-6-2-4 --at 240 --json", capsys))
    assert record["crank_deg"] == 240.0
    assert (record["compression_tdc"], record["overlap_tdc"]) == ([3], [4])
    assert [row["cylinder"] for row in record["cylinders"]] == [1, 2, 3, 4, 5, 6]
    first = record["cylinders"][0]
    assert set(first) == {"cylinder", "cycle_deg", "stroke", "piston_from_tdc_mm", "valves"}
    assert (first["cycle_deg"], first["stroke"]) == (240.0, "exhaust")
    # 1 060 - 15 - 20 less 960: the default cam's intake ramp begins 85° on.
    assert first["valves"][0] == {"name": "I1", "lift_mm": 0.0, "free": True, "margin_deg": 85.0}
    assert first["valves"][1]["free"] is False
    assert first["valves"][1]["lift_mm"] > 0 > first["valves"][1]["margin_deg"]


def test_stops_of_a_four(capsys: pytest.CaptureFixture[str]) -> None:
    words = "stops --order 1-3-4-2 --school two-stop --events 15/50/50/15 --ramp 0 --json"
    record = json.loads(run(words, capsys))
    assert record["school"] == "two-stop"
    assert [stop["crank_deg"] for stop in record["stops"]] == [0.0, 360.0]
    names = [[item["name"] for item in stop["items"]] for stop in record["stops"]]
    assert names == [["I1", "E1", "I2", "E3"], ["E2", "I3", "I4", "E4"]]
    assert record["least_margin_deg"] == 130.0


@pytest.mark.parametrize("events", ["--events -4/38/45/2", "--events=-4/38/45/2"])
def test_negative_events_work_with_and_without_a_sign(
    events: str, capsys: pytest.CaptureFixture[str]
) -> None:
    record = json.loads(run(f"state --order 1 --at 380 --ramp 0 --json {events}", capsys))
    intake, exhaust = record["cylinders"][0]["valves"]
    # The intake opens 4° after TDC and the exhaust closes 2° after it: at 20° after, one is open.
    assert intake["lift_mm"] > 0
    assert (exhaust["lift_mm"], exhaust["margin_deg"]) == (0.0, 18.0)


@pytest.mark.parametrize(
    ("at", "crank_deg"), [("-480", 240.0), ("960", 240.0), ("720", 0.0), ("-1e-12", 0.0)]
)
def test_any_angle_is_brought_into_the_cycle(
    at: str, crank_deg: float, capsys: pytest.CaptureFixture[str]
) -> None:
    shown = json.loads(run(f"state birch --at {at} --json", capsys))["crank_deg"]
    assert shown % 720 == crank_deg


def test_tables_for_people_name_everything(capsys: pytest.CaptureFixture[str]) -> None:
    out = run("state birch --at 240", capsys)
    assert "clockwise, seen from the front" in out
    assert "compression TDC: 3;  overlap TDC: 4" in out
    assert "I1  free, margin  88.0°" in out
    assert "on its ramp" in out
    out = run("stops alder", capsys)
    assert "at 0°: I1" in out
    assert "The maker's manual comes before this table." in out


@pytest.mark.parametrize(
    ("words", "count", "first"),
    [
        ("orders --pins 0,180,180,0 --json", 2, "1-2-4-3"),
        ("orders --pins 0,0 --json", 1, "1-2"),
        ("orders birch --json", 4, "1-2-3-6-5-4"),
        (
            "orders --pins 0,0,90,90,270,270,180,180 --banks 45,-45,45,-45,45,-45,45,-45 --json",
            8,
            "",
        ),
    ],
)
def test_orders_of_a_crank(
    words: str, count: int, first: str, capsys: pytest.CaptureFixture[str]
) -> None:
    record = json.loads(run(words, capsys))
    assert record["count"] == len(record["orders"]) == count
    assert record["orders"][0]["order"].startswith(first)
    assert all(sum(row["intervals_deg"]) == 720 for row in record["orders"])
    assert (
        len(record["simultaneous"]) == 2 ** (len(record["orders"][0]["intervals_deg"]) - 1) - count
    )


def test_an_order_read_backwards(capsys: pytest.CaptureFixture[str]) -> None:
    # Spark of the second firing reaches the last of the order, 120° before its compression TDC on.
    told = run("orders birch --backwards", capsys)
    assert told.startswith("Backwards it is 1-4-2-6-3-5")
    pins = "orders --pins 0,180,180,0 --backwards=1-3-4-2 --json"
    assert json.loads(run(pins, capsys))["backwards"] == "1-2-4-3"
    judged = json.loads(run(pins.replace("1-3-4-2", "1-2-3-4"), capsys, code=1))
    assert not judged["possible"]


def test_a_longer_cam_leaves_less(capsys: pytest.CaptureFixture[str]) -> None:
    # Two stops 360° apart leave 180 − D/2: 40° more of D costs 20°.
    def least(words: str) -> float:
        record = json.loads(run(words, capsys))
        (row,) = [row for row in record["schools"] if row["school"] == "firing-order"]
        assert record["source"]["as"] == ("tried" if "--longer" in words else "set")
        return float(row["least_margin_deg"])

    pair = [least("compare alder --json"), least("compare alder --longer 40 --json")]
    assert pair[0] - pair[1] == pytest.approx(20.0, abs=0.1)


def test_orders_for_people(capsys: pytest.CaptureFixture[str]) -> None:
    assert "even    1-3-4-2   gaps 180 180 180 180" in run("orders alder", capsys)


def test_check_names_what_is_worth_a_look(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    found = json.loads(run("check acacia --json", capsys))["findings"]
    assert {"severity", "field", "sentence"} == set(found[0])
    assert any("Link rods" in finding["sentence"] for finding in found)
    path = tmp_path / "wrong.engine.toml"
    path.write_text(rig_text("birch").replace("182.0", "1"), encoding="utf-8")
    found = json.loads(run(f"check {path} --json", capsys, code=1))["findings"]
    assert [(f["severity"], f["field"]) for f in found] == [("wrong", "dimensions.rod_mm")]


@pytest.mark.parametrize(
    ("words", "says"),
    [
        ("v 8 --angle 90 --order 1-5-4-8-6-3-7-2", "90° V8, 1-5-4-8-6-3-7-2"),
        ("inline 4 --crank crossplane", "inline four, 1-3-2-4"),
        ("flat 4", "flat four"),
        ("flat 12", "flat twelve, 1-"),
        ("opposed-twin", "flat twin"),
        ("w 12 --angle 60", "W12"),
        ("staggered 6", "staggered six"),
        ("radial 9", "radial nine, 1-3-5-7-9-2-4-6-8"),
        ("square-four", "square four"),
        ("u 8 --name Pair", "U8"),
        ("order --order 1-3-2", "inline three, 1-3-2"),
    ],
)
def test_new_writes_a_file_that_opens(
    words: str, says: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "new.engine.toml"
    assert says in run(f"new {words} -o {path}", capsys)
    assert json.loads(run(f"check {path} --json", capsys))["findings"] is not None
    before = path.read_bytes()
    assert main(["new", *words.split(), "-o", str(path)]) == 2
    assert "is there already" in capsys.readouterr().err
    assert path.read_bytes() == before


def test_events_of_a_cylinder(capsys: pytest.CaptureFixture[str]) -> None:
    record = json.loads(run("events --order 1-3-4-2 --events 15/50/50/15 --json", capsys))
    assert [valve["name"] for valve in record["valves"]][:3] == ["I1", "E1", "I2"]
    first = record["valves"][0]
    assert (first["opens"], first["closes"]) == ("15 BTDC", "50 ABDC")
    assert (first["opens_deg"], first["closes_deg"]) == (345.0, 590.0)
    assert (first["duration_deg"], first["centreline_deg"]) == (245.0, 107.5)
    together = ("overlap_deg", "lobe_separation_cam_deg", "advance_deg")
    assert [record[key] for key in together] == [30.0, 107.5, 0.0]
    third = json.loads(run("events --order 1-3-4-2 --cylinder 3 --json", capsys))["valves"][0]
    assert (third["name"], third["opens_deg"]) == ("I3", 525.0)
    negative = json.loads(run("events --order 1 --events -4/38/45/2 --json", capsys))
    assert negative["valves"][0]["opens"] == "4 ATDC"
    assert negative["overlap_deg"] == -2.0


def test_events_at_a_lift_and_with_another_lash(capsys: pytest.CaptureFixture[str]) -> None:
    plain = json.loads(run("events birch --json", capsys))
    lifted = json.loads(run("events birch --at-lift 0.050in@tappet --json", capsys))
    assert lifted["valves"][0]["duration_deg"] < plain["valves"][0]["duration_deg"] - 20
    assert lifted["at_lift"] == "0.050in@tappet"
    wide = json.loads(run("events birch --lash-intake 0.35mm --advance-intake 2 --json", capsys))
    assert wide["as_set"]["valves"][0] == plain["valves"][0]
    assert plain["valves"][0]["peak_lift_mm"] - wide["valves"][0]["peak_lift_mm"] == pytest.approx(
        0.1
    )
    shut = json.loads(run("events birch --lash-exhaust 5 --at-lift 8mm@valve --json", capsys))
    assert shut["valves"][1]["opens"] == "never"
    assert shut["valves"][1]["duration_deg"] is None
    assert shut["overlap_deg"] is None
    assert "never reaches that lift" in run("events birch --lash-exhaust 5 --at-lift 8mm", capsys)


def test_lift_as_csv(capsys: pytest.CaptureFixture[str]) -> None:
    lines = run("lift hickory --csv --step 10", capsys).splitlines()
    assert lines[0].startswith("crank_deg,I1,E1,I2")
    assert lines[0].endswith("U6,B6")
    assert len(lines) == 73
    assert lines[46].split(",")[0] == "450"
    assert float(lines[46].split(",")[1]) > 11.0
    record = json.loads(run("lift alder --json --step 90", capsys))
    assert record["crank_deg"] == [0.0, 90.0, 180.0, 270.0, 360.0, 450.0, 540.0, 630.0]


def test_a_table_from_a_file(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "lobe.csv"
    lifts = [0, 0.5, 2.1, 4.0, 5.0, 4.0, 2.1, 0.5, 0]
    rows = "".join(f"{15 * i},{lift:.2f}\n" for i, lift in enumerate(lifts))
    path.write_text(f"cam_deg,lift_mm\n{rows}", encoding="utf-8")
    record = json.loads(run(f"events alder --table-intake {path} --json", capsys))
    # Rig Alder's ratio is 1.4 and its lash 0.20 mm.
    assert record["valves"][0]["peak_lift_mm"] == pytest.approx(5.0 * 1.4 - 0.2, abs=0.01)
    assert main(["events", "alder", "--table-intake", str(tmp_path / "none.csv")]) == 2
    assert "is not there" in capsys.readouterr().err


@pytest.mark.parametrize("figure", ["ring", "diagram", "chart"])
@pytest.mark.parametrize(
    ("suffix", "head"), [("png", b"\x89PNG"), ("svg", b"<?xml"), ("pdf", b"%PDF")]
)
def test_figures_without_a_window(
    figure: str, suffix: str, head: bytes, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / f"{figure}.{suffix}"
    run(f"draw {figure} hickory --at 240 --lash-intake 0.4mm -o {path}", capsys)
    assert path.read_bytes().startswith(head)
    assert path.stat().st_size > 15_000
    if suffix == "svg":
        # Textures are outlines: Qt's SVG drops clips, and embedded pictures would not scale.
        assert b"<image" not in path.read_bytes()


@pytest.mark.parametrize(
    "school", ["firing-order", "companion", "eo-ic", "opposite-open", "fewest"]
)
def test_stops_of_other_schools(school: str, capsys: pytest.CaptureFixture[str]) -> None:
    record = json.loads(run(f"stops birch --school {school} --json", capsys))
    assert record["school"] == school
    assert sum(stop["turn_deg"] for stop in record["stops"]) == pytest.approx(record["turning_deg"])
    names = [item["name"] for stop in record["stops"] for item in stop["items"]]
    assert len(names) == len(set(names)) == 12
    assert "least margin" in run(f"stops birch --school {school}", capsys)


def test_solved_stops_as_asked(capsys: pytest.CaptureFixture[str]) -> None:
    record = json.loads(run("stops cedar --school most-margin --stops 4 --at 15 --json", capsys))
    assert len(record["stops"]) == 4
    assert all(stop["crank_deg"] % 15 == 0 for stop in record["stops"])
    marks = json.loads(run("stops cedar --school fewest --margin 40 --at marks --json", capsys))
    assert {stop["crank_deg"] % 360 for stop in marks["stops"]} == {0.0}


def test_compare(capsys: pytest.CaptureFixture[str]) -> None:
    record = json.loads(
        run("compare --order 1-2-4-5-3 --events 50/85/90/45 --ramp 25 --json", capsys)
    )
    rows = {row["school"]: row for row in record["schools"]}
    assert rows["two-stop"]["safe"] is False
    assert rows["two-stop"]["least_margin_deg"] == pytest.approx(-2.0)
    assert rows["companion"]["applies"] is False
    assert "has none" in rows["companion"]["reason"]
    assert record["verdict"]
    assert "Quarter-turn sweep" in run("compare birch", capsys)


@pytest.mark.parametrize("suffix", ["pdf", "png", "svg"])
def test_a_shop_card(suffix: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / f"card.{suffix}"
    run(f"card oak --school firing-order --paper letter -o {path}", capsys)
    assert path.stat().st_size > 20_000
    # Twelve stops, four a page: one PDF of three pages, or three pictures.
    if suffix == "pdf":
        assert path.read_bytes().count(b"/Type /Page\n") == 3
    else:
        assert (tmp_path / f"card-3.{suffix}").exists()


def test_a_thin_plan_is_called_unsafe(capsys: pytest.CaptureFixture[str]) -> None:
    words = "stops --order 1-2-4-5-3 --events 50/85/90/45 --ramp 25"
    assert "UNSAFE" in run(words, capsys, code=1)
    record = json.loads(run(f"{words} --json", capsys, code=1))
    assert record["least_margin_deg"] < 0
    assert run("stops hickory --method firing-order", capsys)


def test_no_card_is_written_of_an_unsafe_plan(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert "two-stop is unsafe" in run(f"card hickory -o {tmp_path}/x.pdf", capsys, code=1)
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize(
    ("start", "first_deg"),
    [
        ("cyl 6", 360.0),
        ("cyl6", 360.0),
        ("CYL 5", 120.0),
        ("6deg", 6.0),
        ("6.0", 6.0),
        ("240", 240.0),
    ],
)
def test_a_plan_begins_at_a_cylinder_or_at_an_angle(
    start: str, first_deg: float, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["stops", "birch", "--start", start, "--json"]) == 0
    stops = json.loads(capsys.readouterr().out)["stops"]
    assert stops[0]["crank_deg"] == first_deg


@pytest.mark.parametrize(
    ("words", "says"),
    [
        ("state birch --at nan", "--at must be a plain number of degrees, not nan"),
        ("state birch --at -inf", "--at must be a plain number"),
        ("state birch --at 1e300", "--at must be from -1e"),
        ("state birch --at x", "--at must be a number of degrees, not 'x'"),
        ("state birch", "required: --at"),
        ("state --at 3", "name an engine file or a demo rig, or give --order"),
        ("state birch --order 1-2 --at 3", "but not both"),
        ("state --order 1-1-2 --at 3", "firing_order has 1 more than once"),
        ("state teak --at 3", "teak is neither a file nor a demo rig (acacia, alder,"),
        ("state teak.engine.toml --at 3", "the file is not there"),
        ("stops birch --school other", "invalid choice: 'other'"),
        ("stops birch --ramp -3", "--ramp must be from 0 to 120"),
        ("stops birch --ramp 119 --events 150/150/50/15", "leaves no base circle"),
        ("stops birch --events 1/2/3", "needs four angles IVO/IVC/EVO/EVC"),
        ("stops birch --events 900/1/2/3", "intake_opens_btdc_deg must be from -90 to 150 deg"),
        ("stops birch --events nan/1/2/3", "--events must be a plain number"),
        ("events birch --at-lift 5", "--at-lift must be seat, or a lift"),
        ("events birch --lash-intake 0.015mile", "--lash-intake must be a length"),
        ("events birch --lash-intake 15mm", "--lash-intake must be from 0 to 5 mm"),
        ("events birch --cylinder 7", "--cylinder must be 1 to 6"),
        ("events birch --advance-intake nan", "--advance-intake must be a plain number"),
        ("lift birch --step 0", "--step must be from 0.1 to 90"),
        ("stops birch --school most-margin --stops x", "--stops must be a whole number"),
        ("stops birch --school fewest --margin 999", "--margin must be from 0 to 360"),
        ("stops birch --school fewest --margin 250", "No stop leaves 250° on E1"),
        ("stops birch --school fewest --at 7", "must divide 720 exactly"),
        ("stops birch --school fewest --at marks", "no marks in its file"),
        ("stops linden --school companion", "cylinder 1 has none"),
        ("stops birch --explain I9", "I9 is not set on this engine: take I1"),
        ("stops birch --explain lid", "--explain must be a name such as I1"),
        ("state birch --at=--", "--at needs a value"),
        ("events birch --cylinder " + "9" * 5000, "--cylinder must be 1 to 6"),
        ("check teak.engine.toml", "the file is not there"),
        ("check /dev/zero", "is no ordinary file"),
        ("check " + "a" * 300 + ".engine.toml", "File name too long"),
        ("lift birch --table-intake /dev/zero", "is no ordinary file"),
        ("new inline 4 -o " + "b" * 300 + ".engine.toml", "File name too long"),
        ("new v 8 --angle 90 --numbering along --order 1-8-4-3-6-5-7-2 -o x.toml", "With --numb"),
        ("new inline 4 --order 1-3-2-4 -o x.toml", "With --crank crossplane it is possible"),
        ("new inline 4 --order 1-2-3 -o x.toml", "names 3 cylinders, but there are 4"),
        (
            "stops birch --start 6",
            '--start 6 may be cylinder 6 or 6 degrees: write "cyl 6" or 6deg',
        ),
        ("stops birch --start cyl9", "--start names cylinder 9: this engine has 1 to 6"),
        ("stops birch --along-heads", "--along-heads says nothing to two-stop: it is for eo-ic"),
        ("stops birch --method loose --stops 3", "--stops says nothing to loose"),
        ("stops birch --margin 20", "--margin says nothing to two-stop: it is for fewest"),
        ("draw ring birch -o x.jpg", "must end in .png, .svg or .pdf, not '.jpg'"),
        ("draw pie birch -o x.png", "invalid choice: 'pie'"),
        ("draw ring birch -o /no/such/place/x.png", "could not be written"),
        ("orders --pins 0,x", "--pins must be a number of degrees, not 'x'"),
        ("orders --pins 0,180 --backwards", "--backwards needs an order here"),
        ("compare fir --longer 10", "--longer needs lobes from events"),
        ("compare birch --longer x", "--longer must be a number"),
        ("orders --pins 0,180 --banks 0", "--banks names 1 of the angles, but --pins 2"),
        ("orders birch --pins 0,180", "but not both"),
        ("orders", "name an engine file or a demo rig, or give --pins"),
        ("new v 8 -o x.toml", "v needs --angle"),
        ("new inline -o x.toml", "needs the number of cylinders"),
        ("new v 8 --angle 1e309 -o x.toml", "--angle must be a plain number"),
        ("new v 6 --angle 720 -o x.toml", "--angle must be from 1 to 180 degrees, not 720"),
        ("new w 12 --banks 4 --angle 150 -o x.toml", "angle_deg must be less"),
        ("new w 8 --banks 5 --angle 60 -o x.toml", "--banks: invalid choice: 5"),
        ("new flat 12 --pins shared -o x.toml", "flat takes no --pins: for opposed rods on one"),
        ("new radial 9 --crank flat -o x.toml", "radial takes no --crank: leave it out (it takes"),
        ("new square-four 6 -o x.toml", "square-four takes no number of cylinders"),
        ("new order 1-3-2 -o x.toml", "order takes no number of cylinders: leave out '1-3-2'"),
        ("new order -o x.toml", "order needs --order"),
        ("new inline 1-2 -o x.toml", "must be a whole number, not '1-2'"),
        ("new inline 99 -o x.toml", "count must be 1 to 8"),
        ("new inline 4 --order 1-2-3-4 -o x.toml", "4 cannot follow 3"),
        ("no-such-command", "neither a file nor a demo rig"),
        ("--no-such-option", "unrecognized arguments"),
    ],
)
def test_wrong_words_end_in_one_line_and_exit_code_2(
    words: str, says: str, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(words.split()) == 2
    out, err = capsys.readouterr()
    assert out == ""
    assert err.count("\n") == 1
    assert err.startswith("true-compass: ")
    assert says in err


def test_a_file_works_like_a_rig(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "mine.engine.toml"
    path.write_text(rig_text("birch"), encoding="utf-8")
    from_file, from_rig = (
        json.loads(run(f"state {target} --at 240 --json", capsys)) for target in (path, "birch")
    )
    assert from_file.pop("source")["digest"] == from_rig.pop("source")["digest"]
    assert from_file == from_rig
    path.write_text(rig_text("birch").replace("182.0", "1"), encoding="utf-8")
    assert main(["state", str(path), "--at", "0"]) == 2
    assert "dimensions.rod_mm" in capsys.readouterr().err


def test_the_installed_command_answers() -> None:
    command = [sys.executable, "-m", "true_compass", "stops", "alder", "--json"]
    done = subprocess.run(command, capture_output=True, text=True, check=True)
    assert json.loads(done.stdout)["school"] == "two-stop"


@pytest.mark.parametrize(
    ("tail", "encoding", "code", "out", "err"),
    [
        ("| head -1", "utf-8", "0", "crank_deg,I1,E1", ""),
        ("> /dev/full", "utf-8", "2", "", "could not be written (No space left on device)"),
        ("", "ascii", "0", "crank_deg,I1,E1", ""),
    ],
)
def test_a_closed_pipe_a_full_disk_and_an_old_terminal(
    tail: str, encoding: str, code: str, out: str, err: str, tmp_path: Path
) -> None:
    for words in ("lift ash --csv", "stops birch", f"draw ring ash -o {tmp_path}/ring.png"):
        command = f"{sys.executable} -m true_compass {words} {tail}; echo $? >&2"
        done = subprocess.run(
            command,
            shell=True,
            capture_output=True,
            text=True,
            check=True,
            env={**os.environ, "PYTHONIOENCODING": encoding},
        )
        assert done.stderr.splitlines()[-1] == code
        assert "Traceback" not in done.stderr
        assert err in done.stderr
        assert out in done.stdout or not words.startswith("lift")


def test_without_a_display_the_demo_draws_a_picture(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        monkeypatch.delenv(name, raising=False)
    for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME"):
        monkeypatch.setenv(name, str(tmp_path))
    command = [sys.executable, "-m", "true_compass"]
    done = subprocess.run(
        [*command, "--demo"], capture_output=True, text=True, check=True, cwd=tmp_path
    )
    assert "There is no display here" in done.stdout
    assert (tmp_path / "true-compass-demo.png").stat().st_size > 20_000
    refused = subprocess.run(command, capture_output=True, text=True, check=False, cwd=tmp_path)
    assert (refused.returncode, refused.stderr.count("\n")) == (2, 1)
    assert "there is no display" in refused.stderr


def test_a_sweep_names_no_item_at_its_stops(capsys: pytest.CaptureFixture[str]) -> None:
    record = json.loads(run("stops cedar --school quarter-turn --json", capsys))
    assert [stop["items"] for stop in record["stops"]] == [[]] * 8
    assert [stop["turn_deg"] for stop in record["stops"]] == [0.0] + [90.0] * 7
    assert all(stop["loose_now"] for stop in record["stops"])
    margins = {item["name"]: item["margin_deg"] for item in record["items"]}
    rig = Rig.of(demo_rig("cedar"))
    assert set(margins) == set(rig.item_names)
    for item, arcs in rig.item_arcs_deg.items():
        assert margins[item.name] == pytest.approx(max(length for _, length in arcs) / 2 - 45.0)
    assert record["least_margin_deg"] == pytest.approx(min(margins.values()))


def test_figures_say_where_they_come_from(capsys: pytest.CaptureFixture[str]) -> None:
    for words in ("stops", "compare", "events", "lift", "orders", "check", "state --at 5"):
        command, *more = words.split()
        source = json.loads(run(" ".join([command, "birch", *more, "--json"]), capsys))["source"]
        assert source["as"] == "set"
        assert (source["engine"], source["target"]) == ("Rig Birch", "birch")
        assert source["digest"] == engine_digest(demo_rig("birch"))
        assert date.fromisoformat(source["date"])
    for words in ("events birch --lash-intake 0.3mm", "stops birch --ramp 30"):
        assert json.loads(run(f"{words} --json", capsys))["source"]["as"] == "tried"
    pins = json.loads(run("orders --pins 0,180 --json", capsys))["source"]
    assert pins == {"target": "--pins 0,180", "date": date.today().isoformat()}


@pytest.mark.parametrize("name", ["birch", "hickory", "mulberry"])
def test_any_margin_is_explained_by_figures_that_add_up(
    name: str, capsys: pytest.CaptureFixture[str]
) -> None:
    for item in Rig.of(demo_rig(name)).item_names[::5]:
        words = ["stops", name, "--school", "firing-order", "--explain", item]
        assert main(words) == 0
        told = capsys.readouterr().out
        match = re.search(
            r"([\d.]+)° back to where that begins, ([\d.]+)° on to where it ends. "
            r"The nearer is the margin: ([\d.]+)°",
            told,
        )
        assert match is not None
        back, on, margin = map(float, match.groups())
        assert margin == pytest.approx(min(back, on), abs=0.1)
    sweep = run("stops cedar --school quarter-turn --explain I1", capsys)
    assert "/ 2 − 45° leaves" in sweep


def test_one_order_is_judged_with_its_reason(capsys: pytest.CaptureFixture[str]) -> None:
    assert "Its gaps are 120°." in run("orders birch --test 1-5-3-6-2-4", capsys)
    told = run("orders birch --test 1-2-3-4-5-6", capsys, code=1)
    assert "5 cannot follow 4" in told
    assert "Nearest on this crank: 1-2-" in told
    # A tie that the crank cannot make is called one, and one that it makes is possible.
    assert "3 cannot fire together with 1" in run("orders birch --test 1+3-2-4-5-6", capsys, code=1)
    assert "Some fire together" in run("orders --pins 0,180,180,0 --test 1+4-2+3", capsys)
    record = json.loads(run("orders birch --test 1-3-2 --json", capsys, code=1))
    assert (record["possible"], record["head"]) == (False, "Another engine.")
    # Beyond two thousand orders as well, each is told for what it is.
    pins = ",".join(f"{(37 * n) % 360}" for n in range(13))
    first = json.loads(run(f"orders --pins {pins} --json", capsys))["orders"][-1]
    told = run(f"orders --pins {pins} --test {first['order']}", capsys)
    assert "fire together" not in told


def test_check_has_an_exit_code_that_tells_the_truth(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    run("check birch", capsys)
    path = tmp_path / "shut.engine.toml"
    save_engine(never_opens(), path)
    found = json.loads(run(f"check {path} --json", capsys, code=1))["findings"]
    assert found[0]["severity"] == "wrong"
    assert "it never opens" in found[0]["sentence"]
    severities = [finding["severity"] for finding in found]
    assert severities == sorted(severities, key=["wrong", "look", "note"].index)
    assert "never reaches that lift" in run(f"events {path}", capsys)


def test_names_that_are_no_text_and_names_that_hide_something(tmp_path: Path) -> None:
    odd = os.fsencode(tmp_path) + b"/\xff\xfe.engine.toml"
    command = [sys.executable, "-m", "true_compass", "check"]
    done = subprocess.run([*command, odd], capture_output=True, text=True, check=False)
    assert (done.returncode, "Traceback" in done.stderr) == (2, False)
    assert "\\udcff\\udcfe.engine.toml" in done.stderr
    hidden = tmp_path / "\u202ekcab.engine.toml"
    hidden.write_text(rig_text("birch").replace("Rig Birch", "Rig \u202eBirch"), encoding="utf-8")
    done = subprocess.run([*command, hidden], capture_output=True, text=True, check=False)
    assert done.returncode == 1
    assert "without control or direction characters" in done.stdout
    assert "\u202e" not in done.stdout + done.stderr


def test_a_platform_that_is_not_there_ends_in_one_sentence(tmp_path: Path) -> None:
    env = {**os.environ, "QT_QPA_PLATFORM": "bogus"}
    window = [sys.executable, "-m", "true_compass", "birch"]
    done = subprocess.run(window, capture_output=True, text=True, check=False, env=env)
    assert (done.returncode, done.stderr.count("\n")) == (2, 1)
    picture = tmp_path / "ring.png"
    drawing = [sys.executable, "-m", "true_compass", "draw", "ring", "birch", "-o", str(picture)]
    subprocess.run(drawing, check=True, env=env, capture_output=True)
    assert picture.stat().st_size > 10_000


@pytest.mark.parametrize("suffix", ["pdf", "svg", "png"])
def test_a_full_disk_leaves_the_old_card_and_says_so(suffix: str, tmp_path: Path) -> None:
    path = tmp_path / f"card.{suffix}"
    path.write_text("the old card", encoding="utf-8")
    # No file of this process may grow beyond 2 kB: what a full disk does to a card of 30.
    script = (
        "import resource, signal, sys\n"
        "signal.signal(signal.SIGXFSZ, signal.SIG_IGN)\n"
        "resource.setrlimit(resource.RLIMIT_FSIZE, (2000, 2000))\n"
        "from true_compass.entry import main\n"
        f"sys.exit(main(['card', 'birch', '-o', {str(path)!r}]))\n"
    )
    command = [sys.executable, "-c", script]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 2, done.stderr
    assert "could not be written" in done.stderr
    assert path.read_text(encoding="utf-8") == "the old card"
    assert [entry.name for entry in tmp_path.iterdir()] == [path.name]


def test_what_a_kill_left_is_swept_at_the_next_write(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    left = tmp_path / ".card.svg.abc123.tc-part.svg"
    other = tmp_path / ".letter.txt.abc123.tc-part.txt"
    mine = tmp_path / ".notes"
    fresh = tmp_path / ".letter.txt.abc124.tc-part.txt"
    for path in (left, other, mine, fresh):
        path.write_text("half", encoding="utf-8")
    for path in (left, other, mine):
        os.utime(path, (1e9, 1e9))
    run(f"card birch -o {tmp_path}/card.svg", capsys)
    assert sorted(path.name for path in tmp_path.iterdir()) == [fresh.name, ".notes", "card.svg"]


def test_a_card_of_a_plan_tells_the_turns_of_that_plan(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Card, text and JSON walk the same stops: on the card each turn stands before its stop."""
    for name in rig_names():
        rig = Rig.of(demo_rig(name))
        for row in compare(rig):
            if row.plan is None or not row.plan.safe or row.plan.swept:
                continue
            card = Card(None, rig, row.plan, A4, "")  # type: ignore[arg-type]
            for number, stop in enumerate(row.plan.stops[1:], start=1):
                told = card._after(number)
                degrees = float(re.findall(r"([\d.]+)°", told)[0])
                assert degrees == pytest.approx(stop.turn_deg, abs=0.05), (name, row.school.word)
            assert card._after(len(row.plan.stops)) == ""
