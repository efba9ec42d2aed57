"""`stops` and `compare`: which items at which stop, by one school or by all of them."""

import argparse
import json
import math
import re
from typing import Any, Final

from true_compass.cli.common import Outcome, UsageError, engine_of, number_of, rounded, source_of
from true_compass.core.adjusting.comparison import compare, verdict
from true_compass.core.adjusting.explaining import explained
from true_compass.core.adjusting.schools import BY_WORD, Choice, NotApplicableError
from true_compass.core.adjusting.stops import Plan, Stop, StopItem
from true_compass.core.adjusting.tasks import FELT_AT_LAST, FULL_TAPPETS
from true_compass.core.angles import TURN_DEG
from true_compass.core.cautions import BELOW_A_TABLE
from true_compass.core.changes import can_be_longer, longer
from true_compass.core.engine import Engine
from true_compass.core.evidence.rim import rim_words
from true_compass.core.evidence.signs import looks_at
from true_compass.core.items import item_named
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.core.words import counted


def add_plan_options(command: argparse.ArgumentParser) -> None:
    """Options that choose a plan."""
    command.add_argument(
        "--method",
        "--school",
        dest="school",
        choices=tuple(BY_WORD),
        default="two-stop",
        help="method of adjusting",
    )
    command.add_argument("--stops", metavar="N", help="most-margin: how many stops")
    command.add_argument("--margin", metavar="DEG", help="fewest: margin that all must have")
    command.add_argument(
        "--at", metavar="marks|any|DEG", help="solved plans: where stops may be; multiples of DEG"
    )
    command.add_argument(
        "--start",
        metavar='"cyl N"|DEGdeg',
        help="two stops: the cylinder whose compression TDC comes first, or a crank angle",
    )
    command.add_argument("--explain", metavar="ITEM", help="how the margin of an item came about")
    command.add_argument(
        "--along-heads", action="store_true", help="eo-ic: cylinder by cylinder along the heads"
    )


SOLVED: Final = ("fewest", "most-margin")
_MEANS: Final = {
    "along_heads": ("eo-ic",),
    "stops": ("most-margin",),
    "margin": ("fewest",),
    "at": SOLVED,
    "start": ("two-stop", "loose", "quarter-turn", *SOLVED),
}
"""Which methods an option says something to."""


def check_options(options: argparse.Namespace) -> None:
    """Raise `UsageError` for an option that says nothing to the method that was chosen."""
    for name, schools in _MEANS.items():
        if getattr(options, name) not in (None, False) and options.school not in schools:
            option = f"--{name.replace('_', '-')}"
            raise UsageError(
                f"{option} says nothing to {options.school}: it is for {' and '.join(schools)}"
            )


_CYLINDER: Final = re.compile(r"cyl\s*(\d{1,3})", re.ASCII | re.IGNORECASE)


def start_deg_of(text: str, rig: Rig) -> float:
    """Where a plan begins: `cyl 6` is its compression TDC, `6deg` and `6.0` are crank degrees.

    A bare whole number that is also a cylinder of the engine could be either: it is asked back.
    """
    match = _CYLINDER.fullmatch(text.strip())
    if match is not None:
        cylinder = int(match[1])
        if cylinder not in rig.engine.cylinders:
            most = rig.engine.cylinder_count
            raise UsageError(f"--start names cylinder {cylinder}: this engine has 1 to {most}")
        return float(rig.true_offsets_deg[cylinder - 1])
    bare = text.strip()
    if bare.isascii() and bare.isdigit() and int(bare) in rig.engine.cylinders:
        raise UsageError(
            f'--start {bare} may be cylinder {bare} or {bare} degrees: write "cyl {bare}" or '
            f"{bare}deg"
        )
    return number_of("--start", bare.removesuffix("deg").removesuffix("°"), -720.0, 720.0)


def choice_of(options: argparse.Namespace, rig: Rig) -> Choice:
    """What the options ask of a plan."""
    check_options(options)
    stops = None
    if options.stops is not None:
        if not (options.stops.isascii() and options.stops.isdigit() and len(options.stops) < 4):
            raise UsageError(f"--stops must be a whole number, not {options.stops[:20]!r}")
        stops = int(options.stops)
    margin = None
    if options.margin is not None:
        margin = number_of("--margin", options.margin, 0.0, 360.0)
    at_deg, marks = None, False
    if options.at == "marks":
        marks = True
    elif options.at not in (None, "any"):
        at_deg = number_of("--at", options.at, 1.0, 360.0)
        if not math.isclose(720.0 / at_deg, round(720.0 / at_deg), abs_tol=1e-9):
            raise UsageError(f"--at must divide 720 exactly, not {at_deg:g}")
    start = 0.0
    if options.start is not None:
        start = start_deg_of(options.start, rig)
    return Choice(start, stops, margin, at_deg, marks, options.along_heads)


def plan_record(plan: Plan) -> dict[str, Any]:
    """A plan as plain numbers and words, as `stops --json` prints it.

    A sweep names no item at its stops: they tell what is loose there, and `items` at the top tells
    the margin of each at the worst place to start.
    """
    swept = {"items": [_due_record(due) for due in plan.swept]} if plan.swept else {}
    return {
        "school": plan.school,
        "stops": [_stop_record(stop, bool(plan.swept)) for stop in plan.stops],
        **swept,
        "turning_deg": rounded(plan.turning_deg),
        "least_margin_deg": rounded(plan.least_margin_deg),
    }


def _stop_record(stop: Stop, swept: bool) -> dict[str, Any]:
    return {
        "crank_deg": rounded(stop.crank_deg),
        "turn_deg": rounded(stop.turn_deg),
        "sign": stop.sign,
        "items": [_due_record(due) for due in stop.items],
        **({"loose_now": [item.name for item in stop.loose_now]} if swept else {}),
    }


def _due_record(due: StopItem) -> dict[str, Any]:
    return {
        "name": due.name,
        "margin_deg": rounded(due.margin_deg),
        "back_deg": rounded(due.back_deg),
        "on_deg": rounded(due.on_deg),
    }


def plan_text(engine: Engine, rig: Rig, plan: Plan) -> str:
    """A plan as lines for people."""
    name = BY_WORD[plan.school].name
    lines = [f"{engine.name}, {engine.layout_words} {engine.order_text}: {name}"]
    if plan.swept:
        lines += _sweep_lines(plan)
    for stop in () if plan.swept else plan.stops:
        items = ", ".join(f"{due.name} {due.margin_deg:.1f}°" for due in stop.items)
        rim = rim_words(rig, stop.turn_deg)
        way = f"{stop.turn_deg:.4g}° on" + (f": {rim}" if rim else "")
        turn = f" (turn {way})" if stop.turn_deg else ""
        lines.append(f"at {stop.crank_deg:.4g}°{turn}: {items}")
        looks = looks_at(rig, stop)
        lines.append(f"    there: {'; '.join(looks) or 'a degree scale from TDC'}")
    lines.append(f"least margin {plan.least_margin_deg:.1f}° on {plan.least_item.name}")
    lines.append(f"{plan.turning_deg:.0f}° of turning in all, {turns_words(plan.turning_deg)}")
    if not plan.safe:
        lines.append("UNSAFE: an item is off its base circle at its stop. Use another plan.")
    lines.append(BELOW_A_TABLE)
    return "\n".join(lines)


def _sweep_lines(plan: Plan) -> list[str]:
    """A sweep: slacken, eight quarters from anywhere, then the preload on all."""
    lines = ["slacken every item until it clacks; start anywhere"]
    for number, stop in enumerate(plan.stops, start=1):
        turn = "turn 90° on: " if stop.turn_deg else ""
        loose = ", ".join(item.name for item in stop.loose_now)
        lines.append(f"quarter {number}: {turn}take up to zero whatever is loose")
        lines.append(f"    begun at {plan.stops[0].crank_deg:.4g}° that is {loose}")
    return [
        *lines,
        "then the preload, so much tighter on all, wherever the crank stands; no zero is sought",
        f"    {FULL_TAPPETS}",
        f"    {FELT_AT_LAST}",
    ]


def turns_words(turning_deg: float) -> str:
    """How many turns of the crank that is: `2.5 turns`."""
    return counted(round(turning_deg / TURN_DEG, 1), "turn")


def chosen_plan(options: argparse.Namespace, rig: Rig) -> Plan:
    """The plan that the options name, or a sentence why there is none."""
    school = BY_WORD[options.school]
    try:
        return school.plan(rig, choice_of(options, rig))
    except NotApplicableError as error:
        raise UsageError(f"{school.word}: {error}") from None


def run_stops(options: argparse.Namespace) -> Outcome:
    """`true-compass stops`. A plan that is unsafe is printed all the same, with exit code 1."""
    engine = engine_of(options)
    rig = Rig.of(engine)
    plan = chosen_plan(options, rig)
    lines = _explained(rig, plan, options.explain) if options.explain else []
    if options.json:
        record = {"source": source_of(options, engine), **plan_record(plan)}
        text = json.dumps({**record, "explain": lines} if lines else record)
    else:
        text = "\n".join(lines) or plan_text(engine, rig, plan)
    return Outcome(text, 0 if plan.safe else 1)


def _explained(rig: Rig, plan: Plan, name: str) -> list[str]:
    try:
        item = item_named(name)
    except EngineError as error:
        raise UsageError(f"--explain {error}") from None
    if item not in rig.items:
        first = rig.items[0].name
        raise UsageError(f"--explain {name[:20]} is not set on this engine: take {first}")
    return explained(rig, plan, item)


def run_compare(options: argparse.Namespace) -> str:
    """`true-compass compare`."""
    engine = engine_of(options)
    if options.longer is not None:
        by_deg = number_of("--longer", options.longer, -200.0, 200.0)
        if not can_be_longer(engine):
            raise UsageError("--longer needs lobes from events, not from a card or a table")
        engine = longer(engine, by_deg)
    rig = Rig.of(engine)
    rows = compare(rig)
    if options.json:
        records = []
        for row in rows:
            record: dict[str, Any] = {"school": row.school.word, "name": row.school.name}
            record |= {"needs": row.school.needs, "risks": row.school.risks}
            if row.plan is None:
                record |= {"applies": False, "reason": row.reason}
                record |= {"without_stops": row.without_stops}
            else:
                record |= {
                    "applies": True,
                    "stops": len(row.plan.stops),
                    "turning_deg": rounded(row.plan.turning_deg),
                    "least_margin_deg": rounded(row.plan.least_margin_deg),
                    "item": row.plan.least_item.name,
                    "safe": row.plan.safe,
                }
            records.append(record)
        source = source_of(options, rig.engine, tried=options.longer is not None)
        return json.dumps({"source": source, "schools": records, "verdict": verdict(rows)})
    lines = [verdict(rows), "method                       stops  turning  least margin"]
    for row in rows:
        if row.plan is None:
            lines.append(f"{row.school.name:<28} {row.reason}")
            continue
        unsafe = "" if row.plan.safe else "  UNSAFE"
        lines.append(
            f"{row.school.name:<28} {len(row.plan.stops):5d} {row.plan.turning_deg:7.0f}°"
            f" {row.plan.least_margin_deg:8.1f}° {row.plan.least_item.name}{unsafe}"
        )
    return "\n".join(lines)
