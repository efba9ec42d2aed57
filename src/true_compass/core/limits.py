"""The least and most of every number, and the error that names a wrong one.

The engine file and the command line read the limits from here, so that all refuse the same values.
"""

import math
import re
from typing import Final

MOST_CYLINDERS: Final = 18
MOST_ANGLE_DEG: Final = 1e6
LEAST_DURATION_DEG: Final = 40.0
MOST_LOBE_DEG: Final = 700.0

LIMITS: Final = {
    "bore_mm": (10.0, 2000.0),
    "stroke_mm": (10.0, 5000.0),
    "rod_mm": (10.0, 10000.0),
    "pin_offset_mm": (-50.0, 50.0),
    "axis_offset_mm": (-500.0, 500.0),
    "hub_mm": (1.0, 2000.0),
    "damper_mm": (0.0, 3000.0),
    "bank_angle_deg": (-360.0, 360.0),
    "between_banks_deg": (1.0, 180.0),
    "pin_deg": (-720.0, 720.0),
    "split_deg": (-180.0, 180.0),
    "tdc_deg": (-720.0, 720.0),
    "intake_opens_btdc_deg": (-90.0, 150.0),
    "intake_closes_abdc_deg": (-90.0, 150.0),
    "exhaust_opens_bbdc_deg": (-90.0, 150.0),
    "exhaust_closes_atdc_deg": (-90.0, 150.0),
    "peak_lift_mm": (0.1, 200.0),
    "lash_mm": (0.0, 5.0),
    "ramp_deg": (0.0, 120.0),
    "ramp_mm": (0.0, 10.0),
    "check_lift_mm": (0.01, 100.0),
    "duration_deg": (40.0, 500.0),
    "centreline_deg": (0.0, 200.0),
    "lobe_separation_cam_deg": (60.0, 160.0),
    "advance_deg": (-60.0, 60.0),
    "cycle_deg": (-720.0, 1440.0),
    "ratio": (0.5, 4.0),
    "leak_down_mm": (0.0, 3.0),
    "preload_mm": (0.0, 5.0),
    "turns": (0.0, 10.0),
    "height_mm": (0.0, 500.0),
    "variable_intake_mm": (0.0, 5.0),
    "torque_nm": (0.0, 500.0),
    "resolution_mm": (0.0, 0.2),
    "compression_ratio": (2.0, 30.0),
    "polytropic_exponent": (1.0, 1.6),
    "start_kpa": (20.0, 500.0),
    "hole_deg": (0.0, 40.0),
    "reach_deg": (0.0, 60.0),
    "speed_rpm": (0.0, 20000.0),
    "depression_mbar": (0.0, 1000.0),
    "advance_point_deg": (0.0, 60.0),
    "most_wide_open_deg": (0.0, 60.0),
    "most_starter_deg": (0.0, 40.0),
    "seat_deg": (-360.0, 360.0),
    "post_1_deg": (-360.0, 360.0),
    "twist_deg": (-90.0, 90.0),
    "slot_deg": (-360.0, 360.0),
    "swing_deg": (0.0, 90.0),
    "sensor_deg": (0.0, 720.0),
    "injects_deg": (0.0, 720.0),
    "trip_deg": (-20.0, 60.0),
    "chamber_deck_mm": (-10.0, 50.0),
    "chamber_gasket_mm": (0.0, 10.0),
    "chamber_between_mm": (5.0, 500.0),
    "chamber_least_between_mm": (0.0, 10.0),
    "chamber_pocket_mm": (0.0, 50.0),
    "chamber_recess_mm": (-20.0, 50.0),
    "chamber_angle_deg": (0.0, 50.0),
    "chamber_head_mm": (5.0, 400.0),
    "chamber_drop_mm": (0.0, 100.0),
    "chamber_least_mm": (0.0, 20.0),
}


class EngineError(ValueError):
    """A value no engine can have. `field` is the name of the field it concerns."""

    def __init__(self, field: str, sentence: str) -> None:
        super().__init__(sentence)
        self.field = field

    @property
    def in_words(self) -> str:
        """The whole sentence for a screen, where nobody knows the keys of a file.

        >>> EngineError("dimensions.bore_mm", "must be a length").in_words
        'Bore must be a length'
        >>> EngineError("temperature_c", "must be -50 to 400, not 900").in_words
        'Temperature must be -50 to 400, not 900'
        """
        return f"{called(self.field)} {self}"


_UNIT_OF_KEY: Final = re.compile(r"_(mm|deg|c|nm|rpm|mbar|kpa|h)$")


def called(field: str) -> str:
    """A field in words: the last part of a key, without its unit; the name of an item as it is.

    >>> called("lash.intake_mm"), called("I1a"), called("measured gap"), called("rested_h")
    ('Intake', 'I1a', 'Measured gap', 'Rested')
    """
    last = field if " " in field else field.rpartition(".")[2]
    words = _UNIT_OF_KEY.sub("", last).replace("_", " ").strip() or field
    return words[0].upper() + words[1:]


def check_count(field: str, count: int, least: int, most: int) -> None:
    """Raise unless a count is within its limits, or 0 because nobody counted."""
    if count and not least <= count <= most:
        raise EngineError(field, f"must be {least} to {most}, or 0 if not known, not {count}")


def check_number(field: str, value: float, limits_of: str = "") -> None:
    """Raise unless `value` is a finite number within the limits of its field."""
    least, most = LIMITS[limits_of or field]
    if not (math.isfinite(value) and least <= value <= most):
        suffix = field.rpartition("_")[2]
        unit = f" {suffix}" if suffix in ("deg", "mm", "kpa", "rpm", "mbar") else ""
        raise EngineError(field, f"must be from {least:g} to {most:g}{unit}, not {value:g}")
