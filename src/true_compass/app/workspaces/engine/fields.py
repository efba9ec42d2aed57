"""The fields of the form: what each shows of an engine, and how its text is read back.

Texts are read into the values of an engine file, so the form, the file and the command line refuse
the same things in the same words.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Final

from true_compass.app.workspaces.engine.readers import (
    maybe,
    maybe_mm,
    numbers,
    plain,
    read_advances,
    read_band,
    read_banks,
    read_bump,
    read_drives,
    read_durations,
    read_extras,
    read_hub,
    read_marks,
    read_phrases,
    read_points,
    read_seat,
    read_sources,
    read_table,
    read_text,
    read_whole,
    read_wholes,
    read_words,
    read_yes,
    show_advances,
    show_banks,
    show_bump,
    show_drives,
    show_durations,
    show_extras,
    show_marks,
    show_phrases,
    show_points,
    show_sources,
    show_table,
    words,
    yes,
)
from true_compass.core.units import (
    parse_length_mm,
    parse_number,
    parse_numbers,
    parse_torque_nm,
)
from true_compass.core.valves.train import Adjuster, LashAt, TrainKind

Values = dict[str, Any]


def _get(values: Values, path: str) -> Any:
    for part in path.split("."):
        values = values.get(part, {}) if isinstance(values, dict) else {}
    return values if values != {} else ""


def _set(values: Values, path: str, value: Any) -> None:
    *tables, key = path.split(".")
    for table in tables:
        values = values.setdefault(table, {})
    values[key] = value


@dataclass(frozen=True, slots=True)
class Field:
    """One field. `path` is its place in an engine file; `choices` make it a list to pick from."""

    path: str
    label: str
    show: Callable[[Any], str]
    read: Callable[[str, str], Any]
    unit: str = ""
    wide: int = 2
    choices: tuple[tuple[str, str], ...] = field(default=())

    def value(self, values: Values) -> Any:
        """The value of the field in the values of an engine file."""
        return _get(values, self.path)

    def text(self, values: Values) -> str:
        """What the field shows."""
        return self.show(self.value(values))

    def put(self, values: Values, text: str) -> None:
        """Read the text into the values. Raises `EngineError` that names this field."""
        _set(values, self.path, self.read(self.path, text))


def _choices(*words: str) -> tuple[tuple[str, str], ...]:
    return tuple((word, word) for word in words)


def _length(path: str, label: str, wide: int = 2) -> Field:
    return Field(path, label, plain, parse_length_mm, "mm", wide)


def _angle(path: str, label: str, unit: str = "°", wide: int = 3) -> Field:
    return Field(path, label, plain, parse_number, unit, wide)


def _free(path: str, label: str, unit: str = "°", wide: int = 3) -> Field:
    """A figure that may be left out."""
    return Field(path, label, plain, maybe, unit, wide)


def _free_length(path: str, label: str, wide: int = 3) -> Field:
    return Field(path, label, plain, maybe_mm, "mm", wide)


def _card_side(kind: str, letter: str) -> tuple[Field, ...]:
    path, before = f"card.{kind}", "TDC" if kind == "intake" else "BDC"
    after = "BDC" if kind == "intake" else "TDC"
    return (
        Field(f"{path}.duration", f"{letter} durations", show_durations, read_durations, "°", 6),
        _free_length(f"{path}.lobe_lift_mm", f"{letter} lobe lift"),
        _free_length(f"{path}.valve_lift_mm", "or valve lift"),
        _free(f"{path}.centreline_deg", f"{letter} centreline"),
        _free(f"{path}.opens_deg", f"{letter} opens", f"° B{before}"),
        _free(f"{path}.closes_deg", f"{letter} closes", f"° A{after}"),
        Field(f"{path}.events_at", "events at", plain, read_seat, wide=3),
    )


def _room(kind: str, letter: str) -> tuple[Field, ...]:
    path = f"chamber.{kind}"
    return (
        _free_length(f"{path}_pocket_mm", f"{letter} pocket"),
        _free_length(f"{path}_recess_mm", f"{letter} recess"),
        _free(f"{path}_angle_deg", f"{letter} stem leans"),
        _free_length(f"{path}_head_mm", f"{letter} head Ø"),
        _free_length(f"{path}_drop_mm", f"{letter} drop at TDC", 4),
        _free_length(f"{path}_least_mm", f"{letter} least gap", 4),
    )


FORMS: Final = (
    ("inline", "inline"),
    ("v", "V"),
    ("flat", "flat"),
    ("w", "W"),
    ("staggered", "staggered"),
    ("radial", "radial"),
    ("square", "square four"),
    ("u", "U"),
    ("other", "other"),
)

GROUPS: Final[tuple[tuple[str, tuple[Field, ...]], ...]] = (
    (
        "Name",
        (
            Field("name", "Name", plain, read_text, wide=6),
            Field("serial", "Its own number", plain, read_text, wide=6),
            Field("place", "Where it stands", plain, read_text, wide=6),
            Field("note", "Lesson or note", plain, read_text, wide=12),
            Field("source", "Sources of the figures", show_sources, read_sources, wide=12),
        ),
    ),
    (
        "Banks and crank",
        (
            Field("layout.form", "Layout", str, read_text, wide=4, choices=FORMS),
            Field("bank", "Banks: name, angle", show_banks, read_banks, "°", wide=8),
            Field("crank.pins_deg", "Pin angles, front to rear", numbers, parse_numbers, "°", 8),
            Field("crank.split_deg", "Split pins", numbers, parse_numbers, "°", 4),
            Field("cylinders.bank", "Bank of each cylinder", words, read_words, wide=6),
            Field("cylinders.throw", "Throw of each cylinder", words, read_wholes, wide=6),
            Field("cylinders.tdc_deg", "or TDC of each, typed in", numbers, parse_numbers, "°", 8),
            _length("dimensions.pin_offset_mm", "Pin offset", 4),
            Field("rods.masters", "Radial: master rods", words, read_wholes, wide=6),
            Field("rods.hub_mm", "Knuckle pins from crank pin", plain, read_hub, "mm", 6),
            Field("crank.on_second_crank", "Throws on a 2nd crank", words, read_wholes, wide=6),
            Field(
                "crank.second_crank_turns",
                "which turns",
                str,
                read_text,
                wide=6,
                choices=_choices("with", "against"),
            ),
            _length("dimensions.bore_mm", "Bore", 4),
            _length("dimensions.stroke_mm", "Stroke", 4),
            _length("dimensions.rod_mm", "Rod", 4),
        ),
    ),
    (
        "Rotation and order",
        (
            Field(
                "layout.rotation",
                "Turns",
                str,
                read_text,
                wide=5,
                choices=_choices("clockwise", "anticlockwise"),
            ),
            Field(
                "layout.seen_from",
                "Seen from the",
                str,
                read_text,
                wide=3,
                choices=_choices("front", "rear"),
            ),
            Field(
                "layout.cylinder_1_at",
                "Cylinder 1 at the",
                str,
                read_text,
                wide=4,
                choices=_choices("front", "rear"),
            ),
            Field("layout.firing_order", "Firing order", plain, read_text, wide=6),
            Field(
                "layout.firing_intervals_deg",
                "Intervals, if not the most even",
                numbers,
                parse_numbers,
                "°",
                6,
            ),
        ),
    ),
    (
        "Valves",
        (
            Field("valves.intake", "Intake", plain, read_whole, wide=2),
            Field("valves.exhaust", "Exhaust", plain, read_whole, wide=2),
            Field("valves.pattern", "Along a head", plain, read_text, wide=5),
            Field(
                "valves.mirrored",
                "Mirrored",
                yes,
                read_yes,
                wide=3,
                choices=_choices("no", "yes"),
            ),
            _free("cam.intake_opens_btdc_deg", "I opens", "° BTDC"),
            _free("cam.intake_closes_abdc_deg", "I closes", "° ABDC"),
            _free("cam.exhaust_opens_bbdc_deg", "E opens", "° BBDC"),
            _free("cam.exhaust_closes_atdc_deg", "E closes", "° ATDC"),
            _free_length("cam.intake_lift_mm", "I lift"),
            _free_length("cam.exhaust_lift_mm", "E lift"),
            Field("cam.events_at", "Events at", plain, read_seat, wide=3),
            _angle("cam.ramp_deg", "Ramps"),
            _free("cam.intake_centreline_deg", "I nose", "° ATDC"),
            _free("cam.exhaust_centreline_deg", "E nose", "° BTDC"),
            _free_length("cam.ramp_mm", "Ramp lift"),
            Field(
                "cam.intake_suction",
                "I by suction",
                yes,
                read_yes,
                wide=3,
                choices=_choices("no", "yes"),
            ),
            _length("lash.intake_mm", "Lash, I", 3),
            _length("lash.exhaust_mm", "Lash, E", 3),
            Field(
                "lash.measured", "Set it", str, read_text, wide=3, choices=_choices("cold", "hot")
            ),
            Field(
                "lash.gap_unit",
                "Blades in",
                str,
                read_text,
                wide=3,
                choices=_choices("mm", "thou"),
            ),
            Field("cam.camshafts", "Camshafts", plain, read_whole, wide=3),
            Field(
                "cam.drive",
                "Camshafts turn",
                str,
                read_text,
                wide=6,
                choices=(("with", "with the crank"), ("against", "against it")),
            ),
            Field("cam.dots_fire", "Dots fire (0 = unknown)", plain, read_whole, wide=6),
            Field("cam.gear_teeth", "Cam gear teeth (0 = unknown)", plain, read_whole, wide=6),
        ),
    ),
    (
        "Cam card, in place of the events",
        (
            _free("card.lobe_separation_cam_deg", "Separation", "cam °", 4),
            _free("card.advance_deg", "Advance", wide=2),
            Field("table.intake", "I lift table", show_table, read_table, wide=3),
            Field("table.exhaust", "E lift table", show_table, read_table, wide=3),
            *_card_side("intake", "I"),
            *_card_side("exhaust", "E"),
        ),
    ),
    (
        "Valve train",
        (
            Field(
                "train.kind",
                "Valve train",
                str,
                read_text,
                wide=5,
                choices=tuple((kind.value, kind.short) for kind in TrainKind),
            ),
            Field(
                "train.tappet",
                "Tappets",
                str,
                read_text,
                wide=3,
                choices=_choices("flat", "roller"),
            ),
            Field(
                "train.hydraulic",
                "Hydraulic",
                yes,
                read_yes,
                wide=4,
                choices=_choices("no", "yes"),
            ),
            _angle("train.intake_ratio", "I ratio", ""),
            _angle("train.exhaust_ratio", "E ratio", ""),
            Field(
                "train.lash_at",
                "Lash measured",
                str,
                read_text,
                wide=6,
                choices=tuple((at.value, at.words) for at in LashAt),
            ),
            Field(
                "train.adjuster",
                "Adjuster",
                str,
                read_text,
                wide=5,
                choices=tuple((kind.value, kind.words) for kind in Adjuster),
            ),
            Field("train.thread", "Thread", plain, read_text, wide=3),
            Field("train.bridge", "Bridges", yes, read_yes, wide=4, choices=_choices("no", "yes")),
            _length("train.leak_down_mm", "Leak-down", 4),
            Field("train.preload_mm", "Preload, least, most", numbers, read_band, "mm", 4),
            Field(
                "train.zero_lash",
                "Zero lash by",
                str,
                read_text,
                wide=4,
                choices=_choices("play", "spin", "plunger"),
            ),
            Field("train.intake_accepted_mm", "I accepted", numbers, read_band, "mm", 4),
            Field("train.exhaust_accepted_mm", "E accepted", numbers, read_band, "mm", 4),
            _length("train.variable_intake_mm", "Variable I gap", 4),
            Field("train.key", "Key", plain, read_text, wide=4),
            Field("train.spanner", "Spanner", plain, read_text, wide=4),
            Field("train.torque_nm", "Nut torque", plain, parse_torque_nm, "N·m", 4),
            Field(
                "train.bridge_screw",
                "Bridge has a screw",
                yes,
                read_yes,
                wide=4,
                choices=_choices("no", "yes"),
            ),
            Field("train.bridge_key", "Bridge key", plain, read_text, wide=4),
            Field("train.bridge_spanner", "Bridge spanner", plain, read_text, wide=4),
            Field("train.bridge_torque_nm", "Bridge torque", plain, parse_torque_nm, "N·m", 4),
            _angle("cam.intake_advance_deg", "I cam advance", wide=4),
            _angle("cam.exhaust_advance_deg", "E cam advance", wide=4),
            Field("bank_advance", "Banks: I, E earlier", show_advances, read_advances, "°", 6),
            Field("release", "Release: opens to ramp", show_bump, read_bump, "°, mm", 6),
            Field("extra", "Injector, brake: opens to lash", show_extras, read_extras, wide=12),
            _angle("compression.ratio", "Compression", "", 4),
            _angle("compression.exponent", "n of p·Vⁿ", "", 4),
            _angle("compression.start_kpa", "From", "kPa", 4),
        ),
    ),
    (
        "Moving the cam, and what it may touch",
        (
            Field("drive", "Teeth, holes, keys, bushes, slots", show_drives, read_drives, wide=12),
            _free_length("chamber.deck_mm", "Below the deck", 4),
            _free_length("chamber.gasket_mm", "Gasket, pressed", 4),
            _free_length("chamber.between_mm", "Heads, centres", 4),
            *_room("intake", "I"),
            *_room("exhaust", "E"),
            _free_length("chamber.least_between_mm", "Least, heads", 4),
        ),
    ),
    (
        "Marks",
        (
            _length("dimensions.damper_mm", "Damper (0 = unknown)", 6),
            Field(
                "dimensions.ring_gear_teeth",
                "Ring teeth (0 = unknown)",
                plain,
                read_whole,
                "",
                6,
            ),
            Field("mark", "Where, angle, what it is, = stamp", show_marks, read_marks, wide=12),
        ),
    ),
    (
        "Ignition",
        (
            Field(
                "ignition.kind",
                "Lit by",
                str,
                read_text,
                wide=4,
                choices=_choices("unknown", "distributor", "magneto", "coils", "igniter", "diesel"),
            ),
            Field(
                "ignition.rotor_turns",
                "Rotor turns",
                str,
                read_text,
                wide=5,
                choices=(
                    ("", "not looked at"),
                    ("clockwise", "clockwise"),
                    ("anticlockwise", "anticlockwise"),
                ),
            ),
            Field(
                "ignition.rotor_seen_from",
                "seen from",
                str,
                read_text,
                wide=3,
                choices=_choices("above", "front", "rear"),
            ),
            Field("ignition.gear_teeth", "Gear teeth (0 = unknown)", plain, read_whole, wide=6),
            Field("ignition.posts", "Posts (0 = unknown)", plain, read_whole, wide=6),
            _free("ignition.post_1_deg", "Post 1 from front", wide=4),
            _free("ignition.seat_deg", "Rotor seat", wide=4),
            _free("ignition.twist_deg", "Gear twists", wide=4),
            Field("ignition.slot_ways", "Slot fits, ways", plain, read_whole, wide=4),
            _angle("ignition.slot_deg", "Slot from rotor", wide=4),
            Field("ignition.swing_deg", "Swing, anti, clockw.", numbers, parse_numbers, "°", 4),
            Field("ignition.swing_meets", "Swing meets", show_phrases, read_phrases, wide=6),
            Field(
                "ignition.figures_at",
                "Figures below are at the",
                str,
                read_text,
                wide=6,
                choices=_choices("crank", "distributor"),
            ),
            _free("ignition.initial_deg", "Initial, at the crank", wide=4),
            Field("ignition.weights_rpm_deg", "Weights, rpm:°", show_points, read_points, wide=8),
            Field("ignition.can_mbar_deg", "Can, mbar:°", show_points, read_points, wide=6),
            Field(
                "ignition.port",
                "Hose at",
                str,
                read_text,
                wide=6,
                choices=(("", "not known"), ("ported", "ported"), ("full", "full vacuum")),
            ),
            _angle("ignition.idle_rpm", "Idle", "rpm"),
            _angle("ignition.idle_mbar", "vacuum", "mbar"),
            _angle("ignition.cruise_rpm", "Cruise", "rpm"),
            _angle("ignition.cruise_mbar", "vacuum", "mbar"),
            _free("ignition.most_wide_open_deg", "Most, wide open", wide=6),
            _free("ignition.most_starter_deg", "Most, for the starter", wide=6),
            Field(
                "ignition.waste_spark",
                "Coil fires two",
                yes,
                read_yes,
                wide=4,
                choices=_choices("no", "yes"),
            ),
            Field("ignition.sensor_deg", "Cam sensor", numbers, parse_numbers, "°", 4),
            _free("ignition.injects_deg", "Injects at", wide=4),
            _free("ignition.trip_deg", "Igniter trips before TDC", wide=6),
        ),
    ),
)
FIELDS: Final = tuple(field for _, fields in GROUPS for field in fields)
