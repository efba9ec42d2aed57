"""Timing sets and chambers, to and from the values of an engine file."""

from dataclasses import fields
from typing import Any

from true_compass.core.engine import Engine
from true_compass.core.items import Kind
from true_compass.core.valves.chamber import Chamber, ValveRoom
from true_compass.core.valves.timing_set import TimingSet, offset_text, parse_offset
from true_compass.files.defaults import CHAMBER_DEFAULTS, DRIVE_DEFAULTS, without_defaults

USUAL_ROOM = ValveRoom()
NUMBERS = ("deck_mm", "gasket_mm", "between_mm", "least_between_mm")


def timing_sets_from(rows: list[dict[str, Any]]) -> tuple[TimingSet, ...]:
    """The timing sets of the tables `[[drive]]`."""
    return tuple(_timing_set(DRIVE_DEFAULTS | row) for row in rows)


def _timing_set(row: dict[str, Any]) -> TimingSet:
    holes = row["holes"]
    return TimingSet(
        bank=row["bank"],
        shaft=row["shaft"],
        teeth=row["teeth"],
        crank_teeth=row["crank_teeth"],
        idlers=row["idlers"],
        holes=(holes[0], holes[1]) if len(holes) == 2 else None,
        hole_deg=float(row["hole_deg"]),
        hole_on_cam=row["hole_degrees_of"] == "cam",
        keys=tuple(parse_offset("drive.keys", text) for text in row["keys"]),
        bushes=tuple(parse_offset("drive.bushes", text) for text in row["bushes"]),
        reach_deg=float(row["reach_deg"]),
        vernier=row["vernier"],
    )


def chamber_from(values: dict[str, Any]) -> Chamber:
    """The chamber of the table `[chamber]`."""
    values = {key: v for key, v in (CHAMBER_DEFAULTS | values).items() if v is not None}
    rooms = {}
    for kind in Kind:
        told = {
            part.name: float(values[f"{kind.value}_{part.name}"])
            for part in fields(ValveRoom)
            if f"{kind.value}_{part.name}" in values
        }
        rooms[kind] = ValveRoom(**told)
    numbers = {name: float(values[name]) for name in NUMBERS if name in values}
    return Chamber(intake=rooms[Kind.INTAKE], exhaust=rooms[Kind.EXHAUST], **numbers)


def degreeing_values(engine: Engine) -> dict[str, Any]:
    """The tables `[[drive]]` and `[chamber]` of an engine."""
    chamber = engine.chamber
    told: dict[str, Any] = {name: getattr(chamber, name) for name in NUMBERS}
    for kind in Kind:
        room = chamber.room(kind)
        for part in fields(ValveRoom):
            value = getattr(room, part.name)
            usual = value == getattr(USUAL_ROOM, part.name)
            told[f"{kind.value}_{part.name}"] = None if usual else value
    return {
        "drive": [_drive_values(drive) for drive in engine.timing_sets],
        "chamber": told,
    }


def _drive_values(drive: TimingSet) -> dict[str, Any]:
    values = {
        "bank": drive.bank,
        "shaft": drive.shaft,
        "teeth": drive.teeth,
        "crank_teeth": drive.crank_teeth,
        "idlers": drive.idlers,
        "holes": list(drive.holes or ()),
        "hole_deg": drive.hole_deg,
        "hole_degrees_of": "cam" if drive.hole_on_cam else "crank",
        "keys": [offset_text(key) for key in drive.keys],
        "bushes": [offset_text(bush) for bush in drive.bushes],
        "reach_deg": drive.reach_deg,
        "vernier": drive.vernier,
    }
    return without_defaults(values, DRIVE_DEFAULTS)
