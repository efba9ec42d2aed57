"""`ignition`: total advance, fitting a distributor, leads judged, and a mark on the rim."""

import argparse
import json
import sys
from dataclasses import replace
from typing import Any, Final

from true_compass.cli.common import Outcome, UsageError, number_of, resolve_engine, rounded
from true_compass.core.angles import CYCLE_DEG
from true_compass.core.engine import Engine
from true_compass.core.ignition.advance import (
    Parts,
    limit_checks,
    parts_at,
    rim_mm,
    told_at,
)
from true_compass.core.ignition.beyond import sparks
from true_compass.core.ignition.cap import (
    Pair,
    body_turn_words,
    check_posts,
    is_in_swing,
    pairs_near,
    posts_deg,
)
from true_compass.core.ignition.leads import (
    Judged,
    WrongLead,
    headline,
    judged,
    move_words,
    parse_wiring,
)
from true_compass.core.limits import LIMITS, EngineError, check_number
from true_compass.core.rotation import Rotation
from true_compass.core.spark import Advance, Distributor, Ignition, check_advance, parse_points
from true_compass.core.state import Rig
from true_compass.core.units import parse_depression_mbar, parse_length_mm

ASSUMED: Final = (
    "the rotor's direction was not seen and is taken as {turns}: what does it do when you bar the "
    "engine? Say --rotor"
)


def add_ignition_commands(commands: "argparse._SubParsersAction[Any]") -> None:
    """`ignition` and what it can do."""
    ignition = commands.add_parser("ignition", help="spark: advance, distributor, leads, marks")
    kinds = ignition.add_subparsers(dest="kind", required=True)
    _add_total(kinds)
    fit = kinds.add_parser("fit", help="which tooth and post come nearest, and the body's turn")
    fit.set_defaults(run=run_fit)
    fit.add_argument("target", metavar="FILE | RIG", help="engine file or rig")
    fit.add_argument(
        "--goal", required=True, metavar="DEG", help="where the rotor should point, + clockwise"
    )
    fit.add_argument("--gear", metavar="13", help="teeth of the distributor's gear")
    fit.add_argument("--posts", metavar="8", help="posts of the cap")
    fit.add_argument(
        "--seat",
        metavar="DEG",
        help="where the rotor points on a seat; the file's, or 0 beside --gear or --posts",
    )
    fit.add_argument(
        "--post1",
        metavar="DEG",
        help="where post 1 stands in mid-swing; the file's, or 0 beside --gear or --posts",
    )
    fit.add_argument("--rotor", choices=[way.value for way in Rotation], help="how it turns")
    leads = kinds.add_parser("leads", help="which leads are wrong, and what is behind it")
    leads.set_defaults(run=run_leads)
    leads.add_argument("target", metavar="FILE | RIG", help="engine file or rig")
    leads.add_argument(
        "--wired", required=True, metavar="1-2-4-6-3-5", help="from post 1, in rotor direction"
    )
    mark = kinds.add_parser("mark", help="millimetres along the damper for an advance")
    mark.set_defaults(run=run_mark)
    mark.add_argument("target", metavar="FILE | RIG", help="engine file or rig")
    mark.add_argument("--total", required=True, metavar="DEG", help="degrees before TDC")
    mark.add_argument("--diameter", metavar="MM", help="the damper's, if the file has none")
    for command in kinds.choices.values():
        command.add_argument("--json", action="store_true", help="print JSON")


def _add_total(kinds: "argparse._SubParsersAction[Any]") -> None:
    total = kinds.add_parser("total", help="initial, weights and vacuum added up")
    total.set_defaults(run=run_total)
    total.add_argument("target", nargs="?", metavar="FILE | RIG", help="engine file or rig")
    total.add_argument("--speed", required=True, metavar="RPM", help="crank speed")
    total.add_argument(
        "--vacuum", metavar="250mbar", help="depression at the can, with mbar, kPa or inHg"
    )
    total.add_argument("--initial", metavar="DEG", help="before TDC, always at the crank")
    total.add_argument("--weights", metavar="900:0,3200:24", help="points rpm:degrees")
    total.add_argument("--can", metavar="100:0,400:14", help="points mbar:degrees")
    total.add_argument(
        "--at",
        choices=["crank", "distributor"],
        help="whose points --weights and --can are: the crank's unless said",
    )


# Total -------------------------------------------------------------------------------------------


def run_total(options: argparse.Namespace) -> str:
    """`true-compass ignition total`."""
    speed = number_of("--speed", options.speed, *LIMITS["speed_rpm"])
    try:
        mbar = parse_depression_mbar("vacuum", options.vacuum) if options.vacuum else 0.0
        advance = _advance_of(options)
    except EngineError as error:
        raise UsageError(f"--{error.field.removesuffix('_deg')} {error}") from None
    if advance.initial_deg is None:
        raise UsageError("--initial is not known: read it at idle, hose off, and say it")
    parts = parts_at(advance, speed, mbar)
    passed = [check for check in limit_checks(advance) if not check.fine]
    warnings = [f"{check.said}. {check.why}" for check in passed]
    if options.json:
        record = _parts_record(parts) | ({"warnings": warnings} if warnings else {})
        return json.dumps(record, indent=2, ensure_ascii=False)
    told = (
        f"{parts.total_deg:.1f}° before TDC at the crank: {parts.initial_deg:g} initial, "
        f"{parts.mechanical_deg:.1f} weights, {parts.vacuum_deg:.1f} vacuum."
    )
    return "\n".join([told, *warnings])


def _advance_of(options: argparse.Namespace) -> Advance:
    """The advance of the engine, with what was typed in its place."""
    advance = resolve_engine(options.target).spark.advance if options.target else Advance()
    if options.initial is not None:
        initial = number_of("--initial", options.initial, -90.0, 90.0)
        advance = replace(advance, initial_deg=initial)
    if options.weights is None and options.can is None:
        if options.at is not None:
            advance = replace(advance, at_distributor=options.at == "distributor")
    else:
        advance = _with_points(advance, options)
    check_advance(advance)
    return advance


def _with_points(advance: Advance, options: argparse.Namespace) -> Advance:
    """Points that were typed, the file's beside them as it has them: all brought to the crank."""
    typed = Advance(
        weights=parse_points("weights", options.weights or ""),
        can=parse_points("can", options.can or ""),
        at_distributor=options.at == "distributor",
    )
    check_advance(typed)
    own, typed = (told_at(each, distributor=False) for each in (advance, typed))
    return replace(
        own,
        weights=own.weights if options.weights is None else typed.weights,
        can=own.can if options.can is None else typed.can,
    )


def _parts_record(parts: Parts) -> dict[str, Any]:
    return {
        "initial_deg": rounded(parts.initial_deg),
        "mechanical_deg": rounded(parts.mechanical_deg),
        "vacuum_deg": rounded(parts.vacuum_deg),
        "total_deg": rounded(parts.total_deg),
    }


# Fit ---------------------------------------------------------------------------------------------


def run_fit(options: argparse.Namespace) -> Outcome:
    """`true-compass ignition fit`. A gear or posts that are typed are another distributor's than
    the file's, whose seat and post 1 say nothing of it.
    """
    engine = _with_rotor(resolve_engine(options.target), options.rotor)
    typed = options.gear is not None or options.posts is not None
    here = Distributor() if typed else engine.distributor
    goal = _direction("--goal", options.goal)
    seat = here.seat_deg or 0.0
    if options.seat is not None:
        seat = _direction("--seat", options.seat)
    post_1 = here.post_1_deg or 0.0
    if options.post1 is not None:
        post_1 = _direction("--post1", options.post1)
    teeth = _count("--gear", options.gear, 5, 60) or engine.distributor_teeth
    posts = _count("--posts", options.posts, 1, 36) or engine.posts
    try:
        check_posts(engine, posts)
        angles = posts_deg(engine, post_1, posts)
    except EngineError as error:
        raise UsageError(f"--posts {error}") from None
    # Said only once nothing else is wrong: what is refused says one line.
    if engine.rotor.turns is None:
        _note(ASSUMED.format(turns=engine.rotor_turns.value))
    pairs = pairs_near(angles, teeth, seat, goal)
    pair, code = pairs[0], 0
    if not is_in_swing(engine, pair.body_turn_deg):
        roomy = [other for other in pairs if is_in_swing(engine, other.body_turn_deg)]
        _note(_beyond_swing(engine, pair, roomy))
        code = 0 if roomy else 1
    if options.json:
        record = {
            "post": pair.post,
            "tooth": pair.tooth,
            "rotor_deg": rounded(pair.rotor_deg),
            "body_turn_deg": rounded(pair.body_turn_deg),
        }
        return Outcome(json.dumps(record, indent=2), code)
    return Outcome(
        f"Post {pair.post}, tooth {pair.tooth}: the rotor points to {pair.rotor_deg:.1f}° "
        f"({engine.rotor.seen_from.words}, clockwise from the engine's front). "
        f"Turn the body {body_turn_words(pair.body_turn_deg)} from mid-swing. "
        f"Seats counted from {seat:g}°, post 1 at {post_1:g}°.",
        code,
    )


def _with_rotor(engine: Engine, turns: str | None) -> Engine:
    """The engine with the rotor's direction as it is said; noted where nobody has seen it."""
    if engine.ignition in (Ignition.DIESEL, Ignition.COILS, Ignition.IGNITER):
        what = engine.ignition.value
        raise UsageError(f"{engine.name} has no distributor to fit: its file says {what}")
    if turns is not None:
        rotor = replace(engine.rotor, turns=Rotation(turns))
        return replace(engine, spark=replace(engine.spark, rotor=rotor))
    return engine


def _note(sentence: str) -> None:
    print(f"true-compass: {sentence}.", file=sys.stderr)


def _beyond_swing(engine: Engine, pair: Pair, roomy: list[Pair]) -> str:
    back, on = engine.distributor.swing_deg or (0.0, 0.0)
    way = "Choose another goal"
    if roomy:
        other = roomy[0]
        turn = body_turn_words(other.body_turn_deg)
        way = f"Post {other.post} with tooth {other.tooth} asks {turn}, which it has"
    return (
        f"the body has no room for that: {body_turn_words(pair.body_turn_deg)} is asked, and it "
        f"goes {back:g}° anticlockwise and {on:g}° clockwise. {way}"
    )


def _direction(option: str, text: str) -> float:
    return number_of(option, text, -CYCLE_DEG, CYCLE_DEG)


def _count(option: str, text: str | None, least: int, most: int) -> int:
    if text is None:
        return 0
    if not (text.isascii() and text.isdigit() and least <= int(text[:4]) <= most):
        span = f"from {least} to {most}"
        raise UsageError(f"{option} must be a whole number {span}, not {text[:20]!r}")
    return int(text)


# Leads and mark ----------------------------------------------------------------------------------


def run_leads(options: argparse.Namespace) -> str:
    """`true-compass ignition leads`."""
    engine = resolve_engine(options.target)
    if not sparks(engine):
        raise UsageError(f"{engine.name} is a diesel: no leads. It injects {engine.order_text}")
    try:
        result = judged(Rig.of(engine), parse_wiring(engine, options.wired))
    except EngineError as error:
        raise UsageError(f"--wired {error}") from None
    if options.json:
        record = {
            "wrong": [_lead_record(lead) for lead in result.wrong],
            "meaning": result.meaning.slug,
        }
        return json.dumps(record, indent=2)
    return "\n".join([f"{headline(result)}.", *_lead_lines(result)])


def _lead_lines(result: Judged) -> list[str]:
    return [
        f"Post {lead.post}, of {lead.own}, sparks {lead.lead_to} on its {lead.spark.stroke.word} "
        f"stroke: {lead.spark.heard.sentence} {move_words(lead)}."
        for lead in result.wrong
    ]


def _lead_record(lead: WrongLead) -> dict[str, Any]:
    return {
        "post": lead.post,
        "lead_to": lead.lead_to,
        "at_cycle_deg": rounded(lead.at_cycle_deg),
        "stroke": lead.spark.stroke.word,
        "open": list(lead.spark.open_valves),
    }


def run_mark(options: argparse.Namespace) -> str:
    """`true-compass ignition mark`."""
    engine = resolve_engine(options.target)
    total = number_of("--total", options.total, -90.0, 90.0)
    try:
        diameter = engine.damper_mm
        if options.diameter is not None:
            diameter = parse_length_mm("diameter", options.diameter)
            check_number("damper_mm", diameter)
    except EngineError as error:
        raise UsageError(f"--diameter {error}") from None
    if not diameter:
        raise UsageError(f"--diameter is needed: {engine.name} has no damper_mm in its file")
    along = rim_mm(diameter, total)
    if options.json:
        return json.dumps({"rim_mm": rounded(along)}, indent=2)
    turns = "clockwise" if engine.clockwise_from_front else "anticlockwise"
    return (
        f"{abs(along):.1f} mm along a damper of {diameter:g} mm. Seen from the front, chalk it "
        f"{turns if total >= 0 else 'the other way round, not ' + turns} from the TDC line."
    )
