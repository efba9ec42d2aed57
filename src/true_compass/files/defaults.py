"""What the keys of an engine file mean where they are left out."""

from typing import Any, Final

from true_compass.core.valves.cam import DEFAULT_RAMP_DEG

CAM_DEFAULTS: Final[dict[str, Any]] = {
    "events_at": "seat",
    "ramp_deg": DEFAULT_RAMP_DEG,
    "intake_advance_deg": 0.0,
    "exhaust_advance_deg": 0.0,
    "intake_suction": False,
    "drive": "with",
    "camshafts": 1,
    "dots_fire": 0,
    "gear_teeth": 0,
}
TRAIN_DEFAULTS: Final[dict[str, Any]] = {
    "kind": "push-rod",
    "tappet": "flat",
    "hydraulic": False,
    "intake_ratio": 1.0,
    "exhaust_ratio": 1.0,
    "adjuster": "valve-screw",
    "thread": "",
    "bridge": False,
    "lash_at": "valve",
    "leak_down_mm": 0.0,
    "preload_mm": [],
    "zero_lash": "play",
    "intake_accepted_mm": [],
    "exhaust_accepted_mm": [],
    "variable_intake_mm": 0.0,
    "spanner": "",
    "key": "",
    "torque_nm": 0.0,
    "bridge_screw": True,
    "bridge_spanner": "",
    "bridge_key": "",
    "bridge_torque_nm": 0.0,
}
COMPRESSION_DEFAULTS: Final[dict[str, Any]] = {"ratio": 9.0, "exponent": 1.3, "start_kpa": 100.0}
BUMP_DEFAULTS: Final[dict[str, Any]] = {"ramp_deg": DEFAULT_RAMP_DEG}
EXTRA_DEFAULTS: Final[dict[str, Any]] = {
    **BUMP_DEFAULTS,
    "opens_deg": None,
    "closes_deg": None,
    "lift_mm": None,
    "ratio": 1.0,
    "lash_mm": 0.0,
    "method": "",
    "accepted_mm": [],
    "turns": 0.0,
    "height_mm": 0.0,
    "place": "",
    "tool": "",
    "thread": "",
    "spanner": "",
    "key": "",
    "torque_nm": 0.0,
}
ADVANCE_DEFAULTS: Final[dict[str, Any]] = {"intake_deg": 0.0, "exhaust_deg": 0.0}
TABLE_DEFAULTS: Final[dict[str, Any]] = {"of": "lobe", "resolution_mm": 0.01}
DRIVE_DEFAULTS: Final[dict[str, Any]] = {
    "bank": "",
    "shaft": "",
    "teeth": 0,
    "crank_teeth": 0,
    "idlers": 0,
    "holes": [],
    "hole_deg": 0.0,
    "hole_degrees_of": "crank",
    "keys": [],
    "bushes": [],
    "reach_deg": 0.0,
    "vernier": False,
}
CHAMBER_DEFAULTS: Final[dict[str, Any]] = dict.fromkeys(
    (
        *("deck_mm", "gasket_mm", "between_mm", "least_between_mm"),
        *(
            f"{kind}_{part}"
            for kind in ("intake", "exhaust")
            for part in (
                *("pocket_mm", "recess_mm", "angle_deg"),
                *("head_mm", "drop_mm", "least_mm"),
            )
        ),
    )
)
DEFAULTS: Final[dict[str, Any]] = {
    "place": "",
    "note": "",
    "layout": {
        "rotation": "clockwise",
        "seen_from": "front",
        "cylinder_1_at": "front",
        "firing_intervals_deg": [],
    },
    "bank": [],
    "crank": {
        "pins_deg": [],
        "split_deg": [],
        "on_second_crank": [],
        "second_crank_turns": "with",
    },
    "cylinders": {"bank": [], "throw": [], "tdc_deg": []},
    "dimensions": {"pin_offset_mm": 0.0, "damper_mm": 0.0, "ring_gear_teeth": 0},
    "valves": {"intake": 1, "exhaust": 1, "pattern": "", "mirrored": False},
    "cam": CAM_DEFAULTS,
    "train": TRAIN_DEFAULTS,
    "compression": COMPRESSION_DEFAULTS,
    "bank_advance": [],
    "extra": [],
    "lash": {"measured": "cold", "gap_unit": "mm"},
    "ignition": {
        "kind": "unknown",
        "rotor_turns": "",
        "rotor_seen_from": "above",
        "gear_teeth": 0,
        "posts": 0,
        "post_1_deg": None,
        "seat_deg": None,
        "twist_deg": None,
        "slot_ways": 0,
        "slot_deg": 0.0,
        "swing_deg": [],
        "swing_meets": [],
        "figures_at": "crank",
        "initial_deg": None,
        "weights_rpm_deg": [],
        "can_mbar_deg": [],
        "port": "",
        "idle_rpm": 0.0,
        "idle_mbar": 0.0,
        "cruise_rpm": 0.0,
        "cruise_mbar": 0.0,
        "most_wide_open_deg": None,
        "most_starter_deg": None,
        "waste_spark": False,
        "sensor_deg": [],
        "injects_deg": None,
        "trip_deg": None,
    },
    "mark": [],
    "serial": "",
    "source": [],
    "drive": [],
    "chamber": CHAMBER_DEFAULTS,
}
"""Values of the keys that a file may leave out."""

BANK_DEFAULTS: Final = {"ahead": False, "axis_offset_mm": 0.0}
MARK_DEFAULTS: Final = {
    "angle_deg": None,
    "stamped": "",
    "colour": "",
    "meaning": "tdc",
    "shaft": "crank",
    "cylinder": 1,
    "can_creep": False,
}
SOURCE_DEFAULTS: Final = {"edition": "", "page": "", "variant": "", "of": ""}
ROW_DEFAULTS: Final = (
    DRIVE_DEFAULTS
    | SOURCE_DEFAULTS
    | BANK_DEFAULTS
    | MARK_DEFAULTS
    | ADVANCE_DEFAULTS
    | EXTRA_DEFAULTS
)
"""Values of the keys that a table in a list may leave out."""


def with_defaults(values: dict[str, Any], defaults: dict[str, Any]) -> dict[str, Any]:
    """The values with the missing keys filled in, table by table."""
    filled = defaults | values
    for key, default in defaults.items():
        if isinstance(default, dict):
            filled[key] = with_defaults(values.get(key, {}), default)
    return filled


def without_defaults(values: dict[str, Any], defaults: dict[str, Any]) -> dict[str, Any]:
    """Only the keys that say something, table by table; whole numbers as the same as decimals."""
    told: dict[str, Any] = {}
    for key, value in values.items():
        usual = defaults.get(key)
        if isinstance(value, dict):
            inner = without_defaults(value, usual or {})
            if inner:
                told[key] = inner
        elif value is not None and value != usual:
            told[key] = value
    return told
