"""Between an `Engine` and the plain nested values of an engine file, version 3.

Kept apart from the strict models, whose library takes a quarter of a second to import: the shipped
rigs are checked by the tests and are read without it.
"""

import hashlib
import json
from collections.abc import Mapping
from dataclasses import asdict
from datetime import date
from typing import TYPE_CHECKING, Any, Final

from true_compass.core.crank.firing import parse_firing_order, parse_groups, second_turns_at
from true_compass.core.crank.layout import (
    Articulated,
    Bank,
    Form,
    Layout,
    Seat,
    Throw,
    turned_about,
)
from true_compass.core.engine import (
    CamDrive,
    Engine,
    FigureSource,
    Head,
    Mark,
    Meaning,
    Shaft,
    even_layout,
    fire_in_order,
)
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.rotation import End, Rotation
from true_compass.core.units import GapUnit
from true_compass.files.defaults import (
    BANK_DEFAULTS,
    DEFAULTS,
    MARK_DEFAULTS,
    SOURCE_DEFAULTS,
    with_defaults,
    without_defaults,
)
from true_compass.files.degreeing_values import (
    chamber_from,
    degreeing_values,
    timing_sets_from,
)
from true_compass.files.reading import FileFormat
from true_compass.files.spark_values import SPARK_PATHS, spark_from, spark_values
from true_compass.files.train_values import (
    advances_from,
    cam_from,
    card_from,
    compression_from,
    train_from,
    valve_train_values,
)
from true_compass.files.written_units import plain_values

if TYPE_CHECKING:
    from pydantic import BaseModel

FORMAT: Final = "true-compass-engine"
VERSION: Final = 3

# Where the core's fields stand in a file, for the messages.
PATHS: Final = {
    "firing_order": "layout.firing_order",
    "firing_intervals_deg": "layout.firing_intervals_deg",
    "cylinders": "cylinders.throw",
    "rod_mm": "dimensions.rod_mm",
    "damper_mm": "dimensions.damper_mm",
    "ring_gear_teeth": "dimensions.ring_gear_teeth",
    "hub_mm": "rods.hub_mm",
    "pattern": "valves.pattern",
    "intake_valves": "valves.intake",
    "dots_fire": "cam.dots_fire",
    "cam_gear_teeth": "cam.gear_teeth",
    "intake_ratio": "train.intake_ratio",
    "exhaust_ratio": "train.exhaust_ratio",
    "lash_at": "train.lash_at",
    "leak_down_mm": "train.leak_down_mm",
    "preload_mm": "train.preload_mm",
    "intake_accepted_mm": "train.intake_accepted_mm",
    "exhaust_accepted_mm": "train.exhaust_accepted_mm",
    "accepted_mm": "extra.accepted_mm",
    "adjuster": "train.adjuster",
    "mark.angle_deg": "mark.angle_deg",
    "variable_intake_mm": "train.variable_intake_mm",
    "torque_nm": "train.torque_nm",
    "thread": "train.thread",
    "events_at": "cam.events_at",
    "intake_mm": "lash.intake_mm",
    "intake_advance_deg": "cam.intake_advance_deg",
    "intake_centreline_deg": "cam.intake_centreline_deg",
    "exhaust_centreline_deg": "cam.exhaust_centreline_deg",
    "intake_lobe": "cam.intake_suction",
    "intake_table": "table.intake",
    "exhaust_table": "table.exhaust",
    "intake_durations": "card.intake",
    "exhaust_durations": "card.exhaust",
} | SPARK_PATHS


def _from_1(values: dict[str, Any]) -> dict[str, Any]:
    """Version 1 knew even-firing inline engines only: the pins follow from the order."""
    layout = values["layout"]
    order = parse_firing_order(layout["firing_order"])
    pins = [throw.angle_deg for throw in even_layout(order).throws]
    kept = {key: layout[key] for key in ("firing_order", "rotation") if key in layout}
    return {
        **values,
        "version": 2,
        "layout": {"form": "inline", **kept},
        "crank": {"pins_deg": pins},
    }


AT_TDC_DEG: Final = 0.5


def _from_2(values: dict[str, Any]) -> dict[str, Any]:
    """Version 2 had one figure for an accepted band and a preload, and marks without a meaning.

    It did not say what cylinder 1 at the rear means for the throws: every TDC stays.
    """
    changed = {**values, "version": 3, "train": {**values.get("train", {})}}
    train, lash = changed["train"], values.get("lash", {})
    accepted = train.pop("accepted_mm", 0.0)
    if accepted:
        for kind in Kind:
            gap = float(lash[f"{kind.value}_mm"])
            band = [round(max(gap - accepted, 0.0), 9), round(gap + accepted, 9)]
            train[f"{kind.value}_accepted_mm"] = band
    preload = train.pop("preload_mm", 0.0)
    if preload:
        train["preload_mm"] = [preload, preload]
    if train.get("lash_at") == "foot":
        train["lash_at"] = "rod-end"
    filled = with_defaults(values, DEFAULTS)
    # The order of the throws said nothing about the end before: they are listed as they stood.
    front = {**filled, "layout": {**filled["layout"], "cylinder_1_at": "front"}}
    layout = _layout_from(front)
    if filled["layout"]["cylinder_1_at"] == "rear":
        row = layout.on_bank(layout.seats[0].bank)
        layout = layout if row[-1] == 1 else turned_about(layout)
        changed |= _layout_values(layout)
    if "mark" in values:
        tdc_deg = layout.tdc_deg.tolist()
        changed["mark"] = [_mark_from_2(mark, tdc_deg) for mark in values["mark"]]
    return changed


def _mark_from_2(mark: dict[str, Any], tdc_deg: list[float]) -> dict[str, Any]:
    angle = float(mark["angle_deg"]) % 360.0 % 360.0
    away = [abs((angle - tdc + 180.0) % 360.0 - 180.0) for tdc in tdc_deg]
    meaning = {} if min(away) <= AT_TDC_DEG else {"meaning": "other"}
    return {**mark, "angle_deg": angle, **meaning}


def _models() -> "Mapping[int, type[BaseModel]]":
    from true_compass.files.model_v1 import EngineFileV1
    from true_compass.files.model_v2 import EngineFileV2
    from true_compass.files.model_v3 import EngineFile

    return {1: EngineFileV1, 2: EngineFileV2, 3: EngineFile}


ENGINE_FILE: Final = FileFormat(
    FORMAT,
    "an engine file",
    ".engine.toml",
    VERSION,
    _models,
    {1: _from_1, 2: _from_2},
    plain=plain_values,
)


def engine_from_values(values: dict[str, Any]) -> Engine:
    """The engine that checked values describe; keys with a default may be missing.

    Raises `EngineError` for values that no engine can have.
    """
    values = with_defaults(ENGINE_FILE.upgraded(plain_values(values)), DEFAULTS)
    told, dimensions, cam = values["layout"], values["dimensions"], values["cam"]
    layout = _layout_from(values)
    groups = parse_groups(told["firing_order"])
    named = sum(len(group) for group in groups)
    if named != layout.cylinder_count:
        raise EngineError(
            "firing_order",
            f"names {named} cylinders, but the engine has {layout.cylinder_count}: "
            "correct one of them",
        )
    intervals = told["firing_intervals_deg"]
    late = (
        second_turns_at(layout.tdc_deg, groups, intervals)
        if intervals
        else fire_in_order(layout, groups)
    )
    if told["cylinder_1_at"] == "rear" and not _may_be_at_rear(layout):
        raise EngineError(
            "layout.cylinder_1_at",
            "says rear, but its throw is not the last of its bank: number the throws from the "
            "front in cylinders.throw",
        )
    valves, train = values["valves"], train_from(values["train"])
    card = card_from(values["card"]) if values.get("card") else None
    return Engine(
        name=values["name"],
        layout=layout,
        late=late,
        bore_mm=float(dimensions["bore_mm"]),
        stroke_mm=float(dimensions["stroke_mm"]),
        rod_mm=float(dimensions["rod_mm"]),
        pin_offset_mm=float(dimensions["pin_offset_mm"]),
        damper_mm=float(dimensions["damper_mm"]),
        ring_gear_teeth=dimensions["ring_gear_teeth"],
        cam=cam_from(values, train, card),
        rotation=Rotation(told["rotation"]),
        seen_from=End(told["seen_from"]),
        head=Head(valves["intake"], valves["exhaust"], valves["pattern"], valves["mirrored"]),
        cam_drive=CamDrive(cam["drive"]),
        camshafts=cam["camshafts"],
        train=train,
        card=card,
        bank_advances=advances_from(values["bank_advance"]),
        compression=compression_from(values["compression"]),
        dots_fire=cam["dots_fire"],
        marks=tuple(_mark_from(MARK_DEFAULTS | mark) for mark in values["mark"]),
        spark=spark_from(values["ignition"]),
        cam_gear_teeth=cam["gear_teeth"],
        lash_hot=values["lash"]["measured"] == "hot",
        gap_unit=GapUnit(values["lash"]["gap_unit"]),
        serial=values["serial"],
        timing_sets=timing_sets_from(values["drive"]),
        chamber=chamber_from(values["chamber"]),
        sources=tuple(FigureSource(**(SOURCE_DEFAULTS | row)) for row in values["source"]),
        place=values["place"],
        note=values["note"],
    )


def _may_be_at_rear(layout: Layout) -> bool:
    """Whether cylinder 1 is the last of its bank; alone on it, it is at both ends."""
    return layout.on_bank(layout.seats[0].bank)[-1] == 1


def _mark_from(mark: dict[str, Any]) -> Mark:
    angle = mark["angle_deg"]
    return Mark(
        where=mark["where"],
        angle_deg=None if angle is None else float(angle),
        stamped=mark["stamped"],
        can_creep=mark["can_creep"],
        colour=mark["colour"],
        meaning=Meaning(mark["meaning"]),
        shaft=Shaft(mark["shaft"]),
        cylinder=mark["cylinder"],
    )


def _layout_from(values: dict[str, Any]) -> Layout:
    crank, placed = values["crank"], values["cylinders"]
    banks = tuple(
        Bank(part["name"], float(part["angle_deg"]), part["ahead"], float(part["axis_offset_mm"]))
        for part in (BANK_DEFAULTS | bank for bank in values["bank"])
    ) or (Bank("A"),)
    names = [bank.name for bank in banks]
    if len(set(names)) != len(names):
        raise EngineError("bank", "has one name twice: give each bank a name of its own")
    pins = crank["pins_deg"]
    count = len(placed["tdc_deg"] or placed["throw"] or pins)
    if count == 0:
        raise EngineError("crank.pins_deg", "is missing: give one angle a throw, such as [0, 180]")
    usual = range(1, count + 1)
    at_rear = values["layout"]["cylinder_1_at"] == "rear"
    throws = placed["throw"] or list(reversed(usual) if at_rear else usual)
    on_banks = placed["bank"] or [names[0]] * count
    for field, given in (("throw", throws), ("bank", on_banks)):
        if len(given) != count:
            raise EngineError(
                f"cylinders.{field}", f"has {len(given)} values for {count} cylinders"
            )
    for name in on_banks:
        if name not in names:
            raise EngineError("cylinders.bank", f"names {name!r}, which is no bank")
    if placed["tdc_deg"] and not pins:
        pins = [0.0] * max(throws)
    splits = crank["split_deg"] or [0.0] * len(pins)
    if len(splits) != len(pins):
        raise EngineError("crank.split_deg", f"has {len(splits)} values for {len(pins)} throws")
    rods = values.get("rods") or {}
    masters, hub_mm = tuple(rods.get("masters", ())), float(rods.get("hub_mm", 0.0))
    return Layout(
        form=Form(values["layout"]["form"]),
        banks=banks,
        throws=tuple(
            Throw(float(pin), float(split), number in crank["on_second_crank"])
            for number, (pin, split) in enumerate(zip(pins, splits, strict=True), start=1)
        ),
        seats=tuple(
            Seat(names.index(bank), throw - 1) for bank, throw in zip(on_banks, throws, strict=True)
        ),
        articulated=Articulated(masters, hub_mm) if rods else None,
        second_crank_against=crank["second_crank_turns"] == "against",
        typed_tdc_deg=tuple(float(angle) for angle in placed["tdc_deg"]),
    )


def values_of_engine(engine: Engine) -> dict[str, Any]:
    """The values of an engine file that describes this engine.

    Raises `EngineError` for what the format cannot say, such as ramps of different length.
    """
    likely = fire_in_order(engine.layout, engine.firing_groups) == engine.late
    return {
        "format": FORMAT,
        "version": VERSION,
        "name": engine.name,
        "place": engine.place,
        "note": engine.note,
        "layout": {
            "form": engine.layout.form.value,
            "rotation": engine.rotation.value,
            "seen_from": engine.seen_from.value,
            "cylinder_1_at": engine.cylinder_1_at.value,
            "firing_order": engine.order_text,
            "firing_intervals_deg": [] if likely else list(engine.intervals_deg),
        },
        **_layout_values(engine.layout),
        "dimensions": {
            "bore_mm": engine.bore_mm,
            "stroke_mm": engine.stroke_mm,
            "rod_mm": engine.rod_mm,
            "pin_offset_mm": engine.pin_offset_mm,
            "damper_mm": engine.damper_mm,
            "ring_gear_teeth": engine.ring_gear_teeth,
        },
        "valves": {
            "intake": engine.head.intake_valves,
            "exhaust": engine.head.exhaust_valves,
            "pattern": engine.head.pattern,
            "mirrored": engine.head.mirrored,
        },
        **valve_train_values(engine),
        **degreeing_values(engine),
        "ignition": spark_values(engine.spark),
        "mark": [_mark_values(mark) for mark in engine.marks],
        "serial": engine.serial,
        "source": [without_defaults(asdict(one), SOURCE_DEFAULTS) for one in engine.sources],
    }


def _mark_values(mark: Mark) -> dict[str, Any]:
    values = {
        "where": mark.where,
        "angle_deg": mark.angle_deg,
        "stamped": mark.stamped,
        "colour": mark.colour,
        "meaning": mark.meaning.value,
        "shaft": mark.shaft.value,
        "cylinder": mark.cylinder,
        "can_creep": mark.can_creep,
    }
    return without_defaults(values, MARK_DEFAULTS)


def differing(one: Engine, other: Engine) -> list[tuple[str, str, str]]:
    """Field by field what two engines say differently: path, the one value, the other."""
    rows: list[tuple[str, str, str]] = []

    def compare(path: str, left: Any, right: Any) -> None:
        if isinstance(left, dict) and isinstance(right, dict):
            for key in {**left, **right}:
                compare(f"{path}.{key}" if path else key, left.get(key), right.get(key))
        elif left != right:
            rows.append((path, "–" if left is None else str(left), str(right)))

    compare("", values_of_engine(one), values_of_engine(other))
    return rows


NOT_THE_ENGINE: Final = ("format", "version", "name", "place", "note", "serial", "source")


def engine_digest(engine: Engine) -> str:
    """SHA-256 of everything that makes an engine what it is; not its name, number, place,
    note or sources.

    Keys at their usual value are left out, so that a new optional key changes no digest.
    """
    values = {key: v for key, v in values_of_engine(engine).items() if key not in NOT_THE_ENGINE}
    told = _without_signs_of_zero(without_defaults(values, DEFAULTS))
    text = json.dumps(told, sort_keys=True, separators=(",", ":"), ensure_ascii=True)
    return hashlib.sha256(f"{FORMAT} {text}".encode()).hexdigest()


def _without_signs_of_zero(value: Any) -> Any:
    """The same values with 0 for −0: engines that are equal have one mark."""
    if isinstance(value, dict):
        return {key: _without_signs_of_zero(inner) for key, inner in value.items()}
    if isinstance(value, list):
        return [_without_signs_of_zero(inner) for inner in value]
    return value + 0.0 if isinstance(value, float) else value


def origin_words(engine: Engine, day: date) -> str:
    """Where figures come from, in one line: the engine as set, the mark of it, the day.

    A short mark is enough for a person to hold two sheets against each other.
    """
    return f"{engine.name} as set, mark {engine_digest(engine)[:8]}, {day.isoformat()}"


def _layout_values(layout: Layout) -> dict[str, Any]:
    count = layout.cylinder_count
    throws = [seat.throw + 1 for seat in layout.seats]
    one_bank = layout.banks == (Bank("A"),)
    # With cylinder 1 at the rear the throws, told from the front, have the last cylinder first.
    usual = list(range(1, count + 1))
    usual = usual[::-1] if count > 1 and layout.on_bank(layout.seats[0].bank)[-1] == 1 else usual
    own_throws = throws == usual and len(layout.throws) == count
    splits = [throw.split_deg for throw in layout.throws]
    pins = [throw.angle_deg for throw in layout.throws]
    values: dict[str, Any] = {
        "bank": []
        if one_bank
        else [
            {
                "name": bank.name,
                "angle_deg": bank.angle_deg,
                "ahead": bank.ahead,
                "axis_offset_mm": bank.axis_offset_mm,
            }
            for bank in layout.banks
        ],
        "crank": {
            "pins_deg": pins,
            "split_deg": splits if any(splits) else [],
            "on_second_crank": [i + 1 for i, t in enumerate(layout.throws) if t.second_crank],
            "second_crank_turns": "against" if layout.second_crank_against else "with",
        },
        "cylinders": {
            "bank": [] if one_bank else [layout.banks[seat.bank].name for seat in layout.seats],
            "throw": [] if own_throws else throws,
            "tdc_deg": list(layout.typed_tdc_deg),
        },
    }
    if layout.articulated is not None:
        values["rods"] = {
            "masters": list(layout.articulated.masters),
            "hub_mm": layout.articulated.hub_mm,
        }
    return values
