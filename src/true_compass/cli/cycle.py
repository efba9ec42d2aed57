"""`events` and `lift`: when the valves really open and close, and how far they lift."""

import argparse
import json
from pathlib import Path
from typing import Any

import numpy as np

from true_compass.cli.common import (
    UsageError,
    cylinder_of,
    engine_of,
    number_of,
    rounded,
    source_of,
)
from true_compass.core.changes import with_table
from true_compass.core.engine import Engine
from true_compass.core.items import Kind
from true_compass.core.limits import LIMITS, EngineError, check_number
from true_compass.core.state import AS_SET, Rig, WhatIf
from true_compass.core.units import parse_length_mm
from true_compass.core.valves.cam import parse_check_lift
from true_compass.core.valves.timing import CylinderTimes, ValveTimes, engine_times
from true_compass.files.lift_table import read_lift_table


def add_trial_options(command: argparse.ArgumentParser) -> None:
    """Options that try another lash, advance or lobe."""
    for kind in ("intake", "exhaust"):
        command.add_argument(f"--lash-{kind}", metavar="0.25mm", help=f"lash of {kind} valves")
        command.add_argument(f"--advance-{kind}", metavar="DEG", help=f"advance of the {kind} cam")
        command.add_argument(
            f"--table-{kind}", metavar="FILE.csv", help=f"lift table of the {kind} lobe"
        )


def _length_mm(option: str, text: str) -> float:
    try:
        value = parse_length_mm(option, text)
        check_number("lash_mm", value)
    except EngineError as error:
        raise UsageError(f"{option} {error}") from None
    return value


def rig_of(options: argparse.Namespace) -> Rig:
    """The rig that the options name, with the lash and advance to try."""
    engine = _with_tables(engine_of(options), options)
    changes: dict[str, float] = {}
    for kind in Kind:
        lash, advance = (
            getattr(options, f"{part}_{kind.value}", None) for part in ("lash", "advance")
        )
        if lash is not None:
            given = _length_mm(f"--lash-{kind.value}", lash)
            changes[f"{kind.value}_lash_mm"] = given - engine.cam.timing(kind).lash_mm
        if advance is not None:
            limits = LIMITS["advance_deg"]
            changes[f"{kind.value}_advance_deg"] = number_of(
                f"--advance-{kind.value}", advance, *limits
            )
    rig = Rig.of(engine)
    return rig.trying(WhatIf(**changes)) if changes else rig


def _source(options: argparse.Namespace, rig: Rig) -> dict[str, Any]:
    return source_of(options, rig.engine, rig.what_if != AS_SET)


def _with_tables(engine: Engine, options: argparse.Namespace) -> Engine:
    for kind in Kind:
        path = getattr(options, f"table_{kind.value}", None)
        if path is None:
            continue
        engine = with_table(engine, kind, read_lift_table(Path(path)))
    return engine


def _valve_record(valve: ValveTimes) -> dict[str, Any]:
    def shown(value: float | None) -> float | None:
        return None if value is None else round(value, 4) + 0.0

    return {
        "name": valve.name,
        "opens_deg": shown(valve.opens_deg),
        "closes_deg": shown(valve.closes_deg),
        "opens": valve.opens,
        "closes": valve.closes,
        "duration_deg": shown(valve.duration_deg),
        "centreline_deg": shown(valve.centreline_deg),
        "peak_lift_mm": round(valve.peak_lift_mm, 4),
        "lift_at_overlap_tdc_mm": round(valve.lift_at_overlap_mm, 4),
    }


def _together_record(times: CylinderTimes) -> dict[str, Any]:
    def shown(value: float | None) -> float | None:
        return None if value is None else round(value, 4) + 0.0

    return {
        "overlap_deg": shown(times.overlap_deg),
        "overlap_area_mm_deg": round(times.overlap_area_mm_deg, 4),
        "lobe_separation_cam_deg": shown(times.lobe_separation_cam_deg),
        "advance_deg": shown(times.advance_deg),
    }


def events_record(rig: Rig, at_lift: str, cylinder: int | None) -> dict[str, Any]:
    """The events of an engine as plain words and numbers, as `events --json` prints them.

    What the valves of a cylinder do together stands at the top where all cylinders agree, and
    for each cylinder in `cylinders`.
    """
    check = parse_check_lift("--at-lift", at_lift)
    everyone = engine_times(rig, check)
    shown = [times for times in everyone if cylinder in (None, times.cylinder)]
    together = [_together_record(times) for times in shown]
    alike = all(record == together[0] for record in together)
    return {
        "at_lift": check.text,
        "valves": [_valve_record(valve) for times in shown for valve in times.valves],
        **(together[0] if alike else dict.fromkeys(together[0])),
        "cylinders": [
            {"cylinder": times.cylinder, **record}
            for times, record in zip(shown, together, strict=True)
        ],
    }


def _events_text(rig: Rig, record: dict[str, Any]) -> str:
    engine = rig.engine
    lines = [
        f"{engine.name}, {engine.layout_words} {engine.order_text}: events at "
        f"{parse_check_lift('--at-lift', record['at_lift']).words}",
        "valve  opens       closes      duration  centreline  peak lift  at overlap TDC",
    ]
    for valve in record["valves"]:
        if valve["duration_deg"] is None:
            lines.append(f"{valve['name']:<6} never reaches that lift: the lash takes it up")
            continue
        lines.append(
            f"{valve['name']:<6} {valve['opens']:<11} {valve['closes']:<11} "
            f"{valve['duration_deg']:7.1f}°  {valve['centreline_deg']:8.1f}°"
            f" {valve['peak_lift_mm']:8.2f} mm {valve['lift_at_overlap_tdc_mm']:10.2f} mm"
        )
    for row in record["cylinders"] if record["overlap_deg"] is None else [record]:
        who = f"cylinder {row['cylinder']}: " if "cylinder" in row else ""
        if row["overlap_deg"] is not None:
            lines.append(
                f"{who}overlap {row['overlap_deg']:.1f}° ({row['overlap_area_mm_deg']:.1f} mm·°), "
                f"separation {row['lobe_separation_cam_deg']:.1f} cam °, "
                f"advance {row['advance_deg']:+.1f}°"
            )
    return "\n".join(lines)


def run_events(options: argparse.Namespace) -> str:
    """`true-compass events`."""
    rig = rig_of(options)
    cylinder = None
    if options.cylinder is not None:
        cylinder = cylinder_of(options.cylinder, rig.engine)
    record = events_record(rig, options.at_lift, cylinder)
    if rig.what_if != AS_SET:
        record["as_set"] = events_record(Rig.of(rig.engine), options.at_lift, cylinder)
    if options.json:
        return json.dumps({"source": _source(options, rig), **record})
    text = _events_text(rig, record)
    if "as_set" in record:
        text += "\n\nas set:\n" + _events_text(rig, record["as_set"])
    return text


def run_lift(options: argparse.Namespace) -> str:
    """`true-compass lift`."""
    rig = rig_of(options)
    step = number_of("--step", options.step, 0.1, 90.0)
    angles = np.arange(0.0, 720.0, step)
    lifts = rig.lobes.lift_mm(angles)
    names = [valve.name for valve in rig.engine.valves]
    if rig.extras is not None:
        names += [item.name for item in rig.engine.extra_items]
        lifts = np.concatenate((lifts, rig.extras.lift_mm(angles)))
    if options.json:
        return json.dumps(
            {
                "source": _source(options, rig),
                "crank_deg": [rounded(angle) for angle in angles],
                "lift_mm": {
                    name: [round(float(lift), 6) for lift in row]
                    for name, row in zip(names, lifts, strict=True)
                },
            }
        )
    mark = "," if options.csv else "  "
    lines = [mark.join(["crank_deg", *(n if options.csv else f"{n:>7}" for n in names)])]
    for angle, row in zip(angles, lifts.T, strict=True):
        figures = (f"{lift:.4f}" if options.csv else f"{lift:7.3f}" for lift in row)
        lines.append(mark.join([f"{angle:g}" if options.csv else f"{angle:9.1f}", *figures]))
    return "\n".join(lines)
