"""`state`: the engine at one crank angle."""

import argparse
import json
import math
from collections.abc import Sequence
from typing import Any

from true_compass.cli.common import engine_of, number_of, rounded, source_of
from true_compass.core.engine import Engine
from true_compass.core.limits import MOST_ANGLE_DEG
from true_compass.core.state import EngineState, Rig, engine_state


def state_record(engine: Engine, state: EngineState) -> dict[str, Any]:
    """The state at one angle as plain numbers and words, as `state --json` prints it."""
    valves = [
        {
            "name": valve.name,
            "lift_mm": rounded(state.lift_mm[row]),
            "free": bool(state.free[row]),
            # A valve without a lobe has nothing to set, and so no margin.
            "margin_deg": None
            if math.isnan(state.margin_deg[row])
            else rounded(state.margin_deg[row]),
        }
        for row, valve in enumerate(engine.valves)
    ]
    return {
        "crank_deg": rounded(float(state.crank_deg)),
        "compression_tdc": [c for c in engine.cylinders if state.at_compression_tdc[c - 1]],
        "overlap_tdc": [c for c in engine.cylinders if state.at_overlap_tdc[c - 1]],
        "cylinders": [
            {
                "cylinder": cylinder,
                "cycle_deg": rounded(state.cycle_deg[cylinder - 1]),
                "stroke": state.stroke_of(cylinder - 1).word,
                "piston_from_tdc_mm": rounded(state.piston_from_tdc_mm[cylinder - 1]),
                "valves": [
                    record
                    for valve, record in zip(engine.valves, valves, strict=True)
                    if valve.cylinder == cylinder
                ],
            }
            for cylinder in engine.cylinders
        ],
    }


def _cylinders_words(cylinders: Sequence[int]) -> str:
    return ", ".join(map(str, cylinders)) if cylinders else "none"


def state_text(engine: Engine, record: dict[str, Any]) -> str:
    """The state record as a table for people."""
    lines = [
        f"{engine.name}, {engine.layout_words} {engine.order_text}, "
        f"at {record['crank_deg']:g}° of 720° ({_direction(engine)})",
        f"compression TDC: {_cylinders_words(record['compression_tdc'])};  "
        f"overlap TDC: {_cylinders_words(record['overlap_tdc'])}",
        "cyl  stroke       cycle    piston below TDC   valves",
    ]
    for row in record["cylinders"]:
        valves = "   ".join(_valve_text(valve) for valve in row["valves"])
        lines.append(
            f"{row['cylinder']:>3}  {row['stroke']:<11} {row['cycle_deg']:6.1f}°"
            f" {row['piston_from_tdc_mm']:11.2f} mm       {valves}"
        )
    return "\n".join(lines)


def _direction(engine: Engine) -> str:
    return f"{engine.rotation.value}, seen from the {engine.seen_from.value}"


def _valve_text(valve: dict[str, Any]) -> str:
    if valve["free"]:
        return f"{valve['name']:<3} free, margin {valve['margin_deg']:5.1f}°"
    if valve["lift_mm"] > 0:
        return f"{valve['name']:<3} open, {valve['lift_mm']:8.2f} mm"
    if valve["margin_deg"] is None:
        return f"{valve['name']:<3} shut, no lobe   "
    return f"{valve['name']:<3} on its ramp     "


def run_state(options: argparse.Namespace) -> str:
    """`true-compass state`."""
    engine = engine_of(options)
    at_deg = number_of("--at", options.at, -MOST_ANGLE_DEG, MOST_ANGLE_DEG)
    record = state_record(engine, engine_state(Rig.of(engine), at_deg))
    if options.json:
        return json.dumps({"source": source_of(options, engine), **record})
    return state_text(engine, record)
