"""`cam`: true TDC, centrelines, a card, lift at overlap, steps, lobes and gaps to the piston."""

import argparse
import json
import math
from dataclasses import replace
from typing import Any, Final

import numpy as np

from true_compass.cli.common import (
    Outcome,
    UsageError,
    cylinder_of,
    length_mm,
    number_of,
    plain_number,
    resolve_engine,
    rounded,
)
from true_compass.core.degreeing.centreline import (
    SIDE,
    Centrelines,
    Nose,
    Pair,
    crossing_of,
    late_words,
    later_deg,
    misread_words,
    nose_of,
)
from true_compass.core.degreeing.clearance import Least, least_between_mm, least_gaps
from true_compass.core.degreeing.curve import curve_of
from true_compass.core.degreeing.lobe_size import (
    is_in_inches,
    lobe_lift_mm,
    parse_size_mm,
    slip_words,
    valve_lift_mm,
)
from true_compass.core.degreeing.overlap_lift import turn_for_lift_deg
from true_compass.core.degreeing.own_card import events_of
from true_compass.core.degreeing.steps import (
    Option,
    best_options,
    option_words,
    reach_words,
    steps_of,
)
from true_compass.core.degreeing.top import Fit, Span, TrueTop, fit_of, span_of, true_top
from true_compass.core.degreeing.wheel import Scale, Wheel, Zero
from true_compass.core.items import Kind
from true_compass.core.limits import LIMITS, EngineError, check_number
from true_compass.core.state import Rig
from true_compass.core.units import parse_length_mm
from true_compass.core.valves.timing_set import TimingSet, check_timing_set, parse_offset

MOST_PAIRS: Final = 20


def add_cam_commands(commands: "argparse._SubParsersAction[Any]") -> None:
    """`cam` and what it can do."""
    cam = commands.add_parser("cam", help="degree a cam: TDC, centrelines, steps, lobes, gaps")
    kinds = cam.add_subparsers(dest="kind", required=True)
    _add_tdc(kinds)
    _add_card_commands(kinds)
    _add_steps(kinds)
    lobe = kinds.add_parser("lobe", help="lift of a lobe by micrometer, and at the valve")
    lobe.set_defaults(run=run_lobe)
    lobe.add_argument("--base", required=True, metavar="MM", help="base circle; 11.02+25 is fine")
    lobe.add_argument("--nose", required=True, metavar="MM", help="over the nose")
    lobe.add_argument("--zero", default="0", metavar="MM", help="what the shut micrometer reads")
    lobe.add_argument("--keep", action="store_true", help="take a lobe that looks misread")
    lobe.add_argument("--ratio", metavar="1.6", help="rocker ratio")
    lobe.add_argument("--lash", metavar="MM", help="lash at the valve")
    gaps = kinds.add_parser("gaps", help="least gaps from valves to pistons, and valve to valve")
    gaps.set_defaults(run=run_gaps)
    gaps.add_argument("target", metavar="FILE | RIG", help="engine file or rig")
    gaps.add_argument("--earlier", default="0", metavar="DEG", help="with the cam so much earlier")
    for command in kinds.choices.values():
        command.add_argument("--json", action="store_true", help="print JSON")


def _add_tdc(kinds: "argparse._SubParsersAction[Any]") -> None:
    tdc = kinds.add_parser("tdc", help="true TDC from two readings at an equal drop")
    tdc.set_defaults(run=run_tdc)
    tdc.add_argument(
        "--before",
        required=True,
        metavar="DEG",
        help="the figure before TDC; on a wheel that tells no side, − beyond zero",
    )
    tdc.add_argument("--after", required=True, metavar="DEG", help="the same after TDC")
    tdc.add_argument("--keep", action="store_true", help="take a pair that does not fit its drop")
    tdc.add_argument("--drop", metavar="MM", help="how far the piston was down; with --rig")
    tdc.add_argument("--rig", metavar="FILE | RIG", help="engine file or rig; with --drop")
    tdc.add_argument("--cylinder", default="1", metavar="N", help="on which cylinder")
    tdc.add_argument(
        "--wheel",
        default=Scale.SPLIT.value,
        choices=[scale.value for scale in Scale],
        help="how the wheel is graduated",
    )
    tdc.add_argument(
        "--zero", default="tdc", choices=[zero.value for zero in Zero], help="where its zero is"
    )
    tdc.add_argument(
        "--against", action="store_true", help="a 0-360 whose figures fall as the crank turns"
    )


def _add_card_commands(kinds: "argparse._SubParsersAction[Any]") -> None:
    lines = kinds.add_parser("centreline", help="centrelines from equal drops")
    lines.set_defaults(run=run_centreline)
    lines.add_argument("--intake", metavar="92/124,84.5/131", help="pairs, degrees ATDC")
    lines.add_argument("--exhaust", metavar="128/96,135.5/88.5", help="pairs, degrees BTDC")
    lines.add_argument("--card-icl", metavar="DEG", help="the card's intake centreline")
    lines.add_argument("--card-ecl", metavar="DEG", help="the card's exhaust centreline")
    lines.add_argument("--card-separation", metavar="DEG", help="the card's, in cam degrees")
    card = kinds.add_parser("card", help="the four events from durations and centrelines")
    card.set_defaults(run=run_card)
    for option in ("--duration-intake", "--duration-exhaust", "--icl", "--ecl"):
        card.add_argument(option, required=True, metavar="DEG")
    lift = kinds.add_parser("lift-at-overlap", help="the turn that gives a lift at overlap TDC")
    lift.set_defaults(run=run_lift_at_overlap)
    lift.add_argument("target_engine", metavar="FILE | RIG", help="engine file or rig")
    lift.add_argument("--bank", metavar="A", help="the bank; the first where it is left out")
    lift.add_argument("--read", required=True, metavar="MM", help="lift read at the valve")
    lift.add_argument("--target", required=True, metavar="MM", help="lift that it should have")
    lift.add_argument(
        "--valve", default="intake", choices=[kind.value for kind in Kind], help="which valve"
    )


def _add_steps(kinds: "argparse._SubParsersAction[Any]") -> None:
    steps = kinds.add_parser("steps", help="teeth, holes, keys and bushes that move a cam so far")
    steps.set_defaults(run=run_steps)
    steps.add_argument("rig", nargs="?", metavar="FILE | RIG", help="an engine with its drive")
    steps.add_argument("--need", required=True, metavar="DEG", help="crank degrees, + is earlier")
    steps.add_argument("--teeth", metavar="42", help="teeth of the cam's gear")
    steps.add_argument("--holes", metavar="15/16", help="holes of the two circles")
    steps.add_argument(
        "--hole", metavar="4deg", help="what one hole moves, crank degrees; 4cam: cam degrees"
    )
    steps.add_argument(
        "--key", metavar="1.0@24[:cam]", help="offset keys, mm @ radius; several with commas"
    )
    steps.add_argument("--bush", metavar="0.8@22", help="offset bushes, mm @ radius")


def _maybe(value: float | None) -> float | None:
    return None if value is None else rounded(value)


# True TDC ----------------------------------------------------------------------------------------


def run_tdc(options: argparse.Namespace) -> Outcome:
    """`true-compass cam tdc`. A pair that does not fit its drop is held out, exit code 1."""
    scale = Scale(options.wheel)
    if options.against and scale is not Scale.FULL:
        raise UsageError(f"--against is for a {Scale.FULL.value} wheel: give --wheel 0-360")
    wheel = Wheel(scale, Zero(options.zero), options.against)
    if (options.drop is None) != (options.rig is None):
        raise UsageError("--drop and --rig belong together: the span follows from both")
    try:
        figures = (
            _figure(wheel, "--before", options.before),
            _figure(wheel, "--after", options.after),
        )
        top = true_top(*figures, wheel)
    except EngineError as error:
        raise UsageError(f"--{error.field} {error}") from None
    span, fit = None, Fit(True, "")
    if options.drop is not None:
        drop_mm = length_mm("--drop", options.drop)
        engine = resolve_engine(options.rig)
        try:
            span = span_of(Rig.of(engine), cylinder_of(options.cylinder, engine), drop_mm)
            fit = fit_of(*figures, wheel, span, drop_mm)
        except EngineError as error:
            raise UsageError(f"--{error.field} {error}") from None
    held = not fit.fits and not options.keep
    if options.json:
        told = json.dumps(_tdc_record(top, span, fit.words, held), indent=2, ensure_ascii=False)
    else:
        told = fit.words if held else _tdc_words(top, fit.words)
    return Outcome(told, int(held))


def _figure(wheel: Wheel, option: str, text: str) -> float:
    """What stood under the pointer; for a split wheel with its zero at BDC degrees from TDC will
    do, since nothing else can be so far from BDC."""
    value = plain_number(option, text)
    if wheel.scale is Scale.SPLIT and wheel.zero is Zero.BDC and abs(value) <= 90.0:
        return math.copysign(180.0 - abs(value), value)
    return value


def _tdc_record(top: TrueTop, span: Span | None, words: str, held: bool) -> dict[str, Any]:
    record: dict[str, Any] = {
        "set_to_deg": rounded(top.set_to_deg),
        "shift_deg": rounded(top.shift_deg),
        "mark_error_deg": rounded(top.mark_error_deg),
        "late": top.late,
        "held": held,
        "half_span_deg": rounded(top.half_span_deg),
        "expected_span_deg": _maybe(span.half_deg if span else None),
        "bias_deg": _maybe(span.bias_deg if span else None),
    }
    return record | {"note": words} if words else record


def _tdc_words(top: TrueTop, words: str) -> str:
    lines = [
        f"Standing at the second reading, set the pointer to {top.set_to_deg:g}°.",
        f"Half the span is {top.half_span_deg:g}°; the zero is met {top.words}.",
    ]
    return "\n".join([*lines, words] if words else lines)


# Centrelines -------------------------------------------------------------------------------------


def run_centreline(options: argparse.Namespace) -> Outcome:
    """`true-compass cam centreline`. Pairs that contradict each other are held, exit code 1."""
    noses: dict[Kind, Nose] = {}
    for kind, text in ((Kind.INTAKE, options.intake), (Kind.EXHAUST, options.exhaust)):
        if text is not None:
            noses[kind] = _nose(kind, text)
    if not noses:
        raise UsageError("give --intake or --exhaust, pairs such as 92/124,84.5/131")
    crossing = [crossing_of(kind, nose.pairs) for kind, nose in noses.items()]
    held = [
        f"The {one.kind.value} pairs {one.words} cannot both be, since neither lies inside the "
        "other: read one again."
        for one in crossing
        if one is not None
    ]
    misread = {kind: nose for kind, nose in noses.items() if nose.odd}
    noses = {kind: _with_all(nose) for kind, nose in noses.items()}
    middles = {kind: nose.middle_deg for kind, nose in noses.items()}
    lines = Centrelines(middles.get(Kind.INTAKE), middles.get(Kind.EXHAUST))
    cards = {
        kind: plain_number(option, text)
        for kind, option, text in (
            (Kind.INTAKE, "--card-icl", options.card_icl),
            (Kind.EXHAUST, "--card-ecl", options.card_ecl),
        )
        if text is not None
    }
    if options.json:
        record = _lines_record(noses, lines)
        odd = {kind.value: [place + 1 for place in n.odd] for kind, n in misread.items()}
        record |= {"misread": odd} if odd else {}
        late = {
            kind.value: rounded(later_deg(kind, middles[kind], card))
            for kind, card in cards.items()
            if kind in middles
        }
        record |= {"late_deg": late} if late else {}
        record |= {"held": True, "note": " ".join(held)} if held else {}
        return Outcome(json.dumps(record, indent=2, ensure_ascii=False), int(bool(held)))
    told = held or _lines_words(noses, lines, cards, options.card_separation)
    return Outcome("\n".join([*told, *map(misread_words, misread.values())]), int(bool(held)))


def _nose(kind: Kind, text: str) -> Nose:
    option = f"--{kind.value}"
    pairs = []
    for part in filter(None, text.split(",")):
        before, slash, after = part.partition("/")
        if not slash:
            raise UsageError(f"{option} needs pairs such as 92/124, not {part[:20]!r}")
        pairs.append(Pair(plain_number(option, before), plain_number(option, after)))
    if not 1 <= len(pairs) <= MOST_PAIRS:
        raise UsageError(f"{option} needs 1 to {MOST_PAIRS} pairs, not {len(pairs)}")
    try:
        return nose_of(kind, pairs)
    except EngineError as error:
        raise UsageError(f"{option} {error.field}: {error}") from None


def _with_all(nose: Nose) -> Nose:
    """The nose with every pair counted: nobody can be asked here, so it is only said."""
    return replace(nose, used=(True,) * len(nose.pairs))


def _lines_record(noses: dict[Kind, Nose], lines: Centrelines) -> dict[str, Any]:
    return {
        "icl_deg": _maybe(lines.icl_deg),
        "ecl_deg": _maybe(lines.ecl_deg),
        "separation_cam_deg": _maybe(lines.separation_cam_deg),
        "advance_deg": _maybe(lines.advance_deg),
        "walk_deg": {
            kind.value: _maybe(noses[kind].walk_deg if kind in noses else None) for kind in Kind
        },
    }


def _lines_words(
    noses: dict[Kind, Nose],
    lines: Centrelines,
    cards: dict[Kind, float],
    separation: str | None,
) -> list[str]:
    told = []
    for kind, nose in noses.items():
        name = "ICL" if kind is Kind.INTAKE else "ECL"
        told.append(f"{name} {nose.middle_deg:.1f}° {SIDE[kind]}; the middle {nose.walk_words}.")
        if kind in cards:
            late = late_words(later_deg(kind, nose.middle_deg, cards[kind]))
            told.append(
                f"The card's events are at {cards[kind]:g}; you stand at {nose.middle_deg:.1f}: "
                f"{late}."
            )
    if lines.separation_cam_deg is not None:
        told.append(
            f"Separation {lines.separation_cam_deg:.1f} cam °, advance {lines.advance_deg:+.1f}°."
        )
    elif separation is not None:
        by_card = lines.advance_by_card_deg(plain_number("--card-separation", separation))
        told.append(f"Advance {by_card:+.1f}°, if the card's separation of {separation} holds.")
    else:
        told.append("Advance needs the other nose, or the card's separation to rest on.")
    return told


def run_card(options: argparse.Namespace) -> str:
    """`true-compass cam card`."""
    durations = []
    for option, text in (
        ("--duration-intake", options.duration_intake),
        ("--duration-exhaust", options.duration_exhaust),
    ):
        durations.append(number_of(option, text, *LIMITS["duration_deg"]))
    lines = [
        number_of(option, text, *LIMITS["centreline_deg"])
        for option, text in (("--icl", options.icl), ("--ecl", options.ecl))
    ]
    events = events_of(*durations, *lines)
    record = {
        "ivo": rounded(events.ivo_deg),
        "ivc": rounded(events.ivc_deg),
        "evo": rounded(events.evo_deg),
        "evc": rounded(events.evc_deg),
        "overlap_deg": rounded(events.overlap_deg),
    }
    if options.json:
        return json.dumps(record, indent=2)
    return (
        f"Intake opens {events.ivo_deg:g} BTDC, closes {events.ivc_deg:g} ABDC; exhaust opens "
        f"{events.evo_deg:g} BBDC, closes {events.evc_deg:g} ATDC; overlap {events.overlap_deg:g}°."
    )


def run_lift_at_overlap(options: argparse.Namespace) -> str:
    """`true-compass cam lift-at-overlap`."""
    engine = resolve_engine(options.target_engine)
    layout, kind = engine.layout, Kind(options.valve)
    names = {layout.banks[bank].name: bank for bank in layout.banks_in_use}
    bank = options.bank if options.bank is not None else next(iter(names))
    if bank not in names:
        raise UsageError(f"--bank must be one of {', '.join(names)}, not {bank[:20]!r}")
    row = layout.on_bank(names[bank])
    cylinder = 1 if 1 in row else row[0]
    curve = curve_of(Rig.of(engine), cylinder, kind)
    read, target = length_mm("--read", options.read), length_mm("--target", options.target)
    try:
        turn = turn_for_lift_deg(curve, read, target)
    except EngineError as error:
        raise UsageError(f"--{error.field} {error}") from None
    if options.json:
        return json.dumps({"turn_deg": rounded(turn), "cylinder": cylinder}, indent=2)
    way = "earlier" if turn > 0 else "later"
    return (
        f"{kind.letter}{cylinder}: {read:g} mm at overlap TDC, {target:g} wanted: "
        f"the cam {abs(turn):.1f}° {way} (crank degrees)."
    )


# Steps -------------------------------------------------------------------------------------------


def run_steps(options: argparse.Namespace) -> str:
    """`true-compass cam steps`."""
    need = plain_number("--need", options.need)
    drive = _drive(options)
    steps = steps_of(drive)
    if steps.fixed:
        raise UsageError("nothing can be moved: give --teeth, --holes, --hole, --key or --bush")
    try:
        found = best_options(steps, need)
    except EngineError as error:
        raise UsageError(f"--{error.field} {error}") from None
    if options.json:
        return json.dumps({"options": [_option_record(each) for each in found]}, indent=2)
    lines = [f"{option_words(each, drive)}: {each.gives_deg:+.2f}° " for each in found]
    lines = [f"{line}({each.error_deg:+.2f}° off)" for line, each in zip(lines, found, strict=True)]
    far = reach_words(found, need)
    return "\n".join([*([far] if far else []), *lines, "On is the cam's own running direction."])


def _drive(options: argparse.Namespace) -> TimingSet:
    given = (options.teeth, options.holes, options.hole, options.key, options.bush)
    if options.rig is not None:
        if any(part is not None for part in given):
            raise UsageError("name an engine, or give its teeth, holes, keys and bushes; not both")
        return resolve_engine(options.rig).timing_set(1, Kind.INTAKE)
    hole_deg, on_cam = _hole(options.hole)
    try:
        drive = TimingSet(
            hole_deg=hole_deg,
            hole_on_cam=on_cam,
            teeth=0 if options.teeth is None else _whole("--teeth", options.teeth),
            holes=None if options.holes is None else _circles(options.holes),
            keys=tuple(parse_offset("drive.keys", text) for text in _several(options.key)),
            bushes=tuple(parse_offset("drive.bushes", text) for text in _several(options.bush)),
        )
        check_timing_set(drive)
    except EngineError as error:
        part = error.field.removeprefix("drive.")
        option = {"keys": "key", "bushes": "bush", "hole_deg": "hole"}.get(part, part)
        raise UsageError(f"--{option} {error}") from None
    return drive


def _several(text: str | None) -> list[str]:
    return [part for part in text.split(",") if part.strip()] if text else []


def _whole(option: str, text: str) -> int:
    if not (text.isascii() and text.isdigit() and len(text) < 4):
        raise UsageError(f"{option} must be a whole number, not {text[:20]!r}")
    return int(text)


def _circles(text: str) -> tuple[int, int]:
    one, slash, other = text.partition("/")
    if not slash:
        raise UsageError(f"--holes must be two circles such as 15/16, not {text[:20]!r}")
    return _whole("--holes", one), _whole("--holes", other)


def _hole(text: str | None) -> tuple[float, bool]:
    """What one hole moves, and whether that is cam degrees."""
    if text is None:
        return 0.0, False
    word = text.strip().lower().removesuffix("°")
    on_cam = word.endswith("cam")
    figure = word.removesuffix("cam").removesuffix("crank").removesuffix("deg").strip()
    value = plain_number("--hole", figure)
    if not 0 < value <= 60:
        raise UsageError(f"--hole must be above 0 and at most 60 degrees, not {value:g}")
    return value, on_cam


def _option_record(option: Option) -> dict[str, Any]:
    return {
        "tooth": option.tooth,
        "hole": option.hole,
        "key": rounded(option.key_deg + option.cam_key_deg),
        "bush": rounded(option.bush_deg),
        "gives_deg": rounded(option.gives_deg),
        "error_deg": rounded(option.error_deg),
    }


# Lobes and gaps ----------------------------------------------------------------------------------


def run_lobe(options: argparse.Namespace) -> Outcome:
    """`true-compass cam lobe`. A lobe that cannot be is held out, exit code 1."""
    try:
        zero = parse_length_mm("zero", options.zero)
        base = parse_size_mm("base", options.base) - zero
        nose = parse_size_mm("nose", options.nose) - zero
        lobe = lobe_lift_mm(base, nose)
    except EngineError as error:
        raise UsageError(f"--{error.field} {error}") from None
    valve = None
    if options.ratio is not None or options.lash is not None:
        ratio = 1.0 if options.ratio is None else plain_number("--ratio", options.ratio)
        lash = 0.0 if options.lash is None else length_mm("--lash", options.lash)
        for field, value in (("ratio", ratio), ("lash_mm", lash)):
            check_number(field, value)
        valve = valve_lift_mm(lobe, ratio, lash)
    slip = "" if options.keep else slip_words(base, nose, inches=is_in_inches(options.base))
    if options.json:
        record = {"lobe_lift_mm": rounded(lobe), "valve_lift_mm": _maybe(valve)}
        told = record | {"held": bool(slip)} | ({"note": slip} if slip else {})
        return Outcome(json.dumps(told, indent=2, ensure_ascii=False), int(bool(slip)))
    words = f"The lobe lifts {lobe:.2f} mm"
    words = f"{words}, the valve {valve:.2f} mm." if valve is not None else f"{words}."
    return Outcome(slip or words, int(bool(slip)))


def run_gaps(options: argparse.Namespace) -> str:
    """`true-compass cam gaps`."""
    engine = resolve_engine(options.target)
    rig, chamber = Rig.of(engine), engine.chamber
    by = number_of("--earlier", options.earlier, -90.0, 90.0)
    earlier = np.full(len(engine.valves), by)
    least = least_gaps(rig, chamber, earlier)
    between = least_between_mm(rig, chamber, 1, earlier)
    if not least and between is None:
        raise UsageError(
            f"{engine.name} has no dimensions for this: give [chamber] its deck, gasket and "
            "pockets, or measure by clay or a soft spring"
        )
    if options.json:
        record = {
            "valves": [_least_record(each) for each in least],
            "valve_to_valve_mm": None if between is None else rounded(between[0]),
        }
        return json.dumps(record, indent=2)
    lines = [f"{each.words}, must keep {each.limit_mm:g}{_short(each)}" for each in least]
    if between is not None:
        lines.append(f"Valve to valve {between[0]:.2f} mm, {between[1]:+.0f}° from overlap TDC")
    return "\n".join(lines)


def _short(least: Least) -> str:
    return "" if least.clears else ": too near, do not turn it"


def _least_record(least: Least) -> dict[str, Any]:
    return {
        "valve": least.item.name,
        "least_mm": rounded(least.gap_mm),
        "after_tdc_deg": rounded(least.after_tdc_deg),
        "must_keep_mm": rounded(least.limit_mm),
        "clears": least.clears,
    }
