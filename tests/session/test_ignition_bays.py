"""An ignition as it was left: on the disk as it is worked at, and checked when it comes back."""

import json
from dataclasses import replace
from pathlib import Path

import pytest

from true_compass.core.ignition.bay import BLANK, Bay, Step, made_wrong
from true_compass.core.ignition.lamp import Asked, How, Reading
from true_compass.core.ignition.spin import Seen
from true_compass.core.rotation import Rotation
from true_compass.files.ignition_bay import bay_from, bay_values
from true_compass.files.rigs import demo_rig
from true_compass.session.cam_sheets import cam_sheets
from true_compass.session.ignition_bays import ignition_bays
from true_compass.session.session import Session, Source
from true_compass.session.store import Store, Troubles

FULL = replace(
    made_wrong(demo_rig("cedar"), ("rotor-tooth", "leads-swapped", "can-leaks"), 3),
    seen_turns=Rotation.ANTICLOCKWISE,
    done=(Step.TURNS, Step.MARK),
    readings=(Reading(Asked(How.LAMP, 2400.0, 330.0, hose_on=True), 27.0),),
    seen=(Seen(3, 120.0),),
)


def session(name: str = "cedar") -> Session:
    return Session(demo_rig(name), Source(rig=name))


def test_a_bay_comes_back_as_it_went() -> None:
    values = json.loads(json.dumps(bay_values(FULL)))
    assert bay_from(values) == FULL
    assert bay_from(json.loads(json.dumps(bay_values(BLANK)))) == BLANK


@pytest.mark.parametrize(
    ("path", "value"),
    [
        (("wired",), [1, 1, 2]),
        (("wired",), [99]),
        (("fitted", "body_deg"), 1e9),
        (("fitted", "post_1"), 0),
        (("faults", "crept_deg"), "much"),
        (("done",), ["somersault"]),
        (("readings", 0, "asked", "speed_rpm"), -5),
        (("seen", 0, "cylinder"), 0),
    ],
)
def test_what_makes_no_sense_is_no_bay(path: tuple[str | int, ...], value: object) -> None:
    values = json.loads(json.dumps(bay_values(FULL)))
    place = values["bay"]
    for key in path[:-1]:
        place = place[key]
    place[path[-1]] = value
    assert bay_from(values) is None
    assert bay_from({"version": 99}) is None
    assert bay_from("x") is None


def test_every_change_is_on_the_disk_and_a_drag_when_it_ends(tmp_path: Path) -> None:
    one = session()
    keeper = ignition_bays(Store(tmp_path, Troubles()), one)
    begun = keeper.attach()
    assert begun == BLANK

    def kept() -> Bay:
        return ignition_bays(Store(tmp_path, Troubles()), session()).attach()

    one.write_ignition(FULL, "all of it")
    assert kept() == FULL
    held = replace(FULL, done=())
    one.put_ignition(held, in_hand=True)
    assert kept() == FULL
    one.write_ignition(held, "let go", before=FULL)
    assert kept() == held
    assert one.undo_words == "let go"
    one.undo()
    assert kept() == FULL
    one.undo()
    assert kept() == BLANK
    # The other slices of the session are not written again by this one's drags and releases.
    cams = Store(tmp_path / "cam", Troubles())
    cam_sheets(cams, one).attach()
    one.put_ignition(held, in_hand=True)
    one.write_ignition(held, "let go", before=BLANK)
    assert kept() == held
    assert not list((tmp_path / "cam").glob("*"))
    other = session("birch")
    assert ignition_bays(Store(tmp_path, Troubles()), other).attach() == BLANK
