"""Between cams and valve trains and the plain nested values of an engine file."""

from dataclasses import replace
from typing import Any

from true_compass.core.engine import BankAdvance, Compression, Engine
from true_compass.core.items import ExtraKind, Kind
from true_compass.core.limits import EngineError
from true_compass.core.valves.cam import (
    DEFAULT_RAMP_DEG,
    EVENT_FIELDS,
    Bump,
    Cam,
    ExtraLobe,
    LiftTable,
    Method,
    ValveTiming,
    parse_check_lift,
)
from true_compass.core.valves.cam_card import Card, CardSide, timings_of_card
from true_compass.core.valves.readings import timing_of_table
from true_compass.core.valves.train import Adjuster, LashAt, Tappet, Train, TrainKind, ZeroLash
from true_compass.files.defaults import (
    ADVANCE_DEFAULTS,
    BUMP_DEFAULTS,
    COMPRESSION_DEFAULTS,
    EXTRA_DEFAULTS,
    TABLE_DEFAULTS,
)


def train_from(values: dict[str, Any]) -> Train:
    """The valve train of a file's `[train]`, defaults filled in."""
    return Train(
        kind=TrainKind(values["kind"]),
        tappet=Tappet(values["tappet"]),
        hydraulic=values["hydraulic"],
        intake_ratio=float(values["intake_ratio"]),
        exhaust_ratio=float(values["exhaust_ratio"]),
        adjuster=Adjuster(values["adjuster"]),
        thread=values["thread"],
        bridge=values["bridge"],
        lash_at=LashAt(values["lash_at"]),
        leak_down_mm=float(values["leak_down_mm"]),
        preload_mm=band_from("preload_mm", values["preload_mm"]),
        zero_lash=ZeroLash(values["zero_lash"]),
        intake_accepted_mm=band_from("intake_accepted_mm", values["intake_accepted_mm"]),
        exhaust_accepted_mm=band_from("exhaust_accepted_mm", values["exhaust_accepted_mm"]),
        variable_intake_mm=float(values["variable_intake_mm"]),
        spanner=values["spanner"],
        key=values["key"],
        torque_nm=float(values["torque_nm"]),
        bridge_screw=values["bridge_screw"],
        bridge_spanner=values["bridge_spanner"],
        bridge_key=values["bridge_key"],
        bridge_torque_nm=float(values["bridge_torque_nm"]),
    )


def band_from(field: str, ends: list[float]) -> tuple[float, float] | None:
    """Both ends of a band; none are no band. Raises `EngineError` for one end or three."""
    if not ends:
        return None
    if len(ends) != 2:
        raise EngineError(field, f"must have both ends, such as [0.2, 0.3], not {len(ends)} values")
    return float(ends[0]), float(ends[1])


def train_values(train: Train) -> dict[str, Any]:
    """The values of `[train]`."""
    return {
        "kind": train.kind.value,
        "tappet": train.tappet.value,
        "hydraulic": train.hydraulic,
        "intake_ratio": train.intake_ratio,
        "exhaust_ratio": train.exhaust_ratio,
        "adjuster": train.adjuster.value,
        "thread": train.thread,
        "bridge": train.bridge,
        "lash_at": train.lash_at.value,
        "leak_down_mm": train.leak_down_mm,
        "preload_mm": list(train.preload_mm or ()),
        "zero_lash": train.zero_lash.value,
        "intake_accepted_mm": list(train.intake_accepted_mm or ()),
        "exhaust_accepted_mm": list(train.exhaust_accepted_mm or ()),
        "variable_intake_mm": train.variable_intake_mm,
        "spanner": train.spanner,
        "key": train.key,
        "torque_nm": train.torque_nm,
        "bridge_screw": train.bridge_screw,
        "bridge_spanner": train.bridge_spanner,
        "bridge_key": train.bridge_key,
        "bridge_torque_nm": train.bridge_torque_nm,
    }


def compression_from(values: dict[str, Any]) -> Compression:
    """The compression of a file's `[compression]`, defaults filled in."""
    return Compression(*(float(values[key]) for key in COMPRESSION_DEFAULTS))


def advances_from(rows: list[dict[str, Any]]) -> tuple[BankAdvance, ...]:
    """Advances of the banks' camshafts."""
    filled = (ADVANCE_DEFAULTS | row for row in rows)
    return tuple(
        BankAdvance(row["bank"], float(row["intake_deg"]), float(row["exhaust_deg"]))
        for row in filled
    )


def card_from(values: dict[str, Any]) -> Card:
    """The cam card of a file's `[card]`."""

    def number(table: dict[str, Any], key: str) -> float | None:
        return None if table.get(key) is None else float(table[key])

    def side(kind: Kind) -> CardSide:
        part = values.get(kind.value, {})
        field = f"card.{kind.value}"
        return CardSide(
            tuple(
                (parse_check_lift(f"{field}.duration", row["at"]), float(row["deg"]))
                for row in part.get("duration", [])
            ),
            lobe_lift_mm=number(part, "lobe_lift_mm"),
            valve_lift_mm=number(part, "valve_lift_mm"),
            centreline_deg=number(part, "centreline_deg"),
            opens_deg=number(part, "opens_deg"),
            closes_deg=number(part, "closes_deg"),
            events_at=parse_check_lift(f"{field}.events_at", part.get("events_at", "seat")),
        )

    return Card(
        side(Kind.INTAKE),
        side(Kind.EXHAUST),
        number(values, "lobe_separation_cam_deg"),
        number(values, "advance_deg"),
    )


def card_values(card: Card) -> dict[str, Any]:
    """The values of `[card]`."""

    def told(values: dict[str, Any]) -> dict[str, Any]:
        return {key: value for key, value in values.items() if value is not None}

    def side(part: CardSide) -> dict[str, Any]:
        return told(
            {
                "lobe_lift_mm": part.lobe_lift_mm,
                "valve_lift_mm": part.valve_lift_mm,
                "centreline_deg": part.centreline_deg,
                "opens_deg": part.opens_deg,
                "closes_deg": part.closes_deg,
                "events_at": part.events_at.text if part.opens_deg is not None else None,
                "duration": [{"at": check.text, "deg": deg} for check, deg in part.durations_deg]
                or None,
            }
        )

    return told(
        {
            "lobe_separation_cam_deg": card.lobe_separation_cam_deg,
            "advance_deg": card.advance_deg,
            "intake": side(card.intake),
            "exhaust": side(card.exhaust),
        }
    )


def cam_from(values: dict[str, Any], train: Train, card: Card | None) -> Cam:
    """The cam that a whole file describes; its tables `cam` and `lash` have their defaults."""
    cam, lash = values["cam"], values["lash"]
    lashes = {kind: float(lash[f"{kind.value}_mm"]) for kind in Kind}
    ramp_mm = cam.get("ramp_mm")
    if card is not None:
        timings = timings_of_card(card, train, lashes, float(cam["ramp_deg"]))
        stated = [key for kind in Kind for key in EVENT_FIELDS[kind] if cam.get(key) is not None]
        if stated:
            raise EngineError(
                f"cam.{stated[0]}",
                "is given beside a [card]: keep one of them, not both",
            )
    else:
        timings = {kind: _timing_from(kind, values, train, lashes[kind]) for kind in Kind}
    for kind, timing in timings.items():
        changes: dict[str, Any] = {"advance_deg": float(cam[f"{kind.value}_advance_deg"])}
        if ramp_mm is not None:
            changes["ramp_mm"] = float(ramp_mm)
        timings[kind] = replace(timing, **changes)
    release = values.get("release")
    return Cam(
        timings[Kind.INTAKE],
        timings[Kind.EXHAUST],
        _bump_from(BUMP_DEFAULTS | release) if release else None,
        tuple(_extra_from(EXTRA_DEFAULTS | row) for row in values.get("extra", [])),
    )


def _timing_from(kind: Kind, values: dict[str, Any], train: Train, lash_mm: float) -> ValveTiming:
    cam, table = values["cam"], values.get("table", {}).get(kind.value)
    centreline = cam.get(f"{kind.value}_centreline_deg")
    if table:
        return timing_of_table(
            kind,
            _table_from(TABLE_DEFAULTS | table),
            train,
            lash_mm,
            centreline,
            ramp_deg=float(cam["ramp_deg"]),
        )
    opens, closes = EVENT_FIELDS[kind]
    for key in (opens, closes, f"{kind.value}_lift_mm"):
        if cam.get(key) is None:
            raise EngineError(
                f"cam.{key}",
                "is missing: add it, or give a [card], or a lift table of this kind of valve",
            )
    suction = kind is Kind.INTAKE and bool(cam["intake_suction"])
    return ValveTiming(
        opens_before_deg=float(cam[opens]),
        closes_after_deg=float(cam[closes]),
        peak_lift_mm=float(cam[f"{kind.value}_lift_mm"]),
        lash_mm=lash_mm,
        ramp_deg=0.0 if suction else float(cam["ramp_deg"]),
        check=parse_check_lift("cam.events_at", cam["events_at"]),
        centreline_deg=None if centreline is None else float(centreline),
        suction=suction,
    )


def _table_from(values: dict[str, Any]) -> LiftTable:
    angles, lifts = values["angles_deg"], values["lifts_mm"]
    if len(angles) != len(lifts):
        raise EngineError("table", f"has {len(angles)} angles and {len(lifts)} lifts: give pairs")
    return LiftTable(
        tuple(map(float, angles)),
        tuple(map(float, lifts)),
        values["of"] == "lobe",
        float(values["resolution_mm"]),
    )


def _bump_from(values: dict[str, Any]) -> Bump:
    return Bump(*(float(values[key]) for key in ("opens_deg", "closes_deg", "lift_mm", "ramp_deg")))


def _extra_from(values: dict[str, Any]) -> ExtraLobe:
    lobe = [values[key] for key in ("opens_deg", "closes_deg", "lift_mm")]
    if None in lobe and lobe != [None, None, None]:
        raise EngineError("opens_deg", "needs closes_deg and lift_mm beside it, or leave out all")
    return ExtraLobe(
        ExtraKind(values["kind"]),
        None if None in lobe else _bump_from(values),
        float(values["ratio"]),
        float(values["lash_mm"]),
        method=Method(values["method"]) if values["method"] else None,
        accepted_mm=band_from("accepted_mm", values["accepted_mm"]),
        turns=float(values["turns"]),
        height_mm=float(values["height_mm"]),
        torque_nm=float(values["torque_nm"]),
        **{key: values[key] for key in ("place", "tool", "thread", "spanner", "key")},
    )


def _extra_values(extra: ExtraLobe) -> dict[str, Any]:
    values = {
        "kind": extra.kind.value,
        **(_bump_values(extra.bump) if extra.bump else {}),
        "method": extra.method.value if extra.method else "",
        "accepted_mm": list(extra.accepted_mm or ()),
    }
    for key in ("ratio", "lash_mm", "turns", "height_mm", "torque_nm"):
        values[key] = getattr(extra, key)
    for key in ("place", "tool", "thread", "spanner", "key"):
        values[key] = getattr(extra, key)
    return {key: v for key, v in values.items() if v != EXTRA_DEFAULTS.get(key)}


def valve_train_values(engine: Engine) -> dict[str, Any]:
    """Every table about cams and valve train.

    Raises `EngineError` where the two kinds of valve differ in what a file says once for both.
    """
    cam = engine.cam
    driven = [t for t in (cam.intake, cam.exhaust) if not t.suction and t.table is None]
    for field in ("ramp_deg", "ramp_mm", "check"):
        if engine.card is None and len({getattr(timing, field) for timing in driven}) > 1:
            raise EngineError(field, "must be the same for intake and exhaust in an engine file")
    one = driven[0] if driven else None
    # A table of a valve's lift stands on ramps too.
    ramps = [t.ramp_deg for t in (cam.intake, cam.exhaust) if t.table and not t.table.of_lobe]
    ramps = [one.ramp_deg, *ramps] if one else ramps
    if len(set(ramps)) > 1:
        raise EngineError("ramp_deg", "must be the same for intake and exhaust in an engine file")
    values: dict[str, Any] = {
        "cam": {
            "events_at": one.check.text if one and engine.card is None else "seat",
            "ramp_deg": ramps[0] if ramps else DEFAULT_RAMP_DEG,
            "intake_advance_deg": cam.intake.advance_deg,
            "exhaust_advance_deg": cam.exhaust.advance_deg,
            "intake_suction": cam.intake.suction,
            "drive": engine.cam_drive.value,
            "camshafts": engine.camshafts,
            "dots_fire": engine.dots_fire,
            "gear_teeth": engine.cam_gear_teeth,
        },
        "lash": {
            "measured": "hot" if engine.lash_hot else "cold",
            "gap_unit": engine.gap_unit.value,
            "intake_mm": cam.intake.lash_mm,
            "exhaust_mm": cam.exhaust.lash_mm,
        },
        "train": train_values(engine.train),
        "compression": {key: getattr(engine.compression, key) for key in COMPRESSION_DEFAULTS},
        "bank_advance": [
            {"bank": row.bank, "intake_deg": row.intake_deg, "exhaust_deg": row.exhaust_deg}
            for row in engine.bank_advances
        ],
        "extra": [_extra_values(extra) for extra in cam.extras],
    }
    if one is not None and one.ramp_mm is not None and engine.card is None:
        values["cam"]["ramp_mm"] = one.ramp_mm
    if cam.release is not None:
        values["release"] = _bump_values(cam.release)
    if engine.card is not None:
        values["card"] = card_values(engine.card)
    else:
        for kind in Kind:
            _put_timing(values, kind, cam.timing(kind))
    return values


def _put_timing(values: dict[str, Any], kind: Kind, timing: ValveTiming) -> None:
    if timing.centreline_deg is not None:
        values["cam"][f"{kind.value}_centreline_deg"] = timing.centreline_deg
    if timing.table is not None:
        values.setdefault("table", {})[kind.value] = {
            "of": "lobe" if timing.table.of_lobe else "valve",
            "resolution_mm": timing.table.resolution_mm,
            "angles_deg": list(timing.table.angles_deg),
            "lifts_mm": list(timing.table.lifts_mm),
        }
        return
    if timing.durations_deg:
        raise EngineError("durations", "of a lobe can be saved with its cam card only")
    opens, closes = EVENT_FIELDS[kind]
    values["cam"][opens] = timing.opens_before_deg
    values["cam"][closes] = timing.closes_after_deg
    values["cam"][f"{kind.value}_lift_mm"] = timing.peak_lift_mm


def _bump_values(bump: Bump) -> dict[str, Any]:
    return {
        "opens_deg": bump.opens_deg,
        "closes_deg": bump.closes_deg,
        "lift_mm": bump.lift_mm,
        "ramp_deg": bump.ramp_deg,
    }
