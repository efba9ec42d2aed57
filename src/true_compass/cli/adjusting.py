"""`adjust` and `shims`: the arithmetic of one screw, and the plan for a whole head of shims."""

import argparse
import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Final

from true_compass.book.brackets import MOST_MM, too_wide
from true_compass.book.job import SHIM_MM
from true_compass.cli.common import Outcome, UsageError, length_mm, plain_number, rounded
from true_compass.core.adjusting.screws import plunger_per_turn_mm, preload_turns, turn_to
from true_compass.core.adjusting.shims import (
    Origin,
    Placed,
    Position,
    ShimPlan,
    plan_shims,
    stock_sizes_mm,
    walk,
)
from true_compass.core.items import Item, Kind, item_named
from true_compass.core.limits import LIMITS, EngineError, check_number
from true_compass.core.units import gap_words, parse_thread_mm, parse_turns
from true_compass.core.valves.train import Adjuster, Train, TrainKind

ADJUSTERS: Final = {
    "push-rod-screw": Adjuster.ROD_SCREW,
    "finger-pivot": Adjuster.PIVOT_SCREW,
    **{adjuster.value: adjuster for adjuster in Adjuster},
}
"""The words of this command, and those of the engine file."""
MOST_POSITIONS: Final = 200
MOST_DRAWER: Final = 2000


def add_adjusting_commands(
    commands: "argparse._SubParsersAction[Any]",
) -> None:
    """`adjust` and `shims` with their options."""
    adjust = commands.add_parser("adjust", help="how far to turn an adjuster, and which way")
    adjust.set_defaults(run=run_adjust)
    adjust.add_argument("--adjuster", required=True, choices=tuple(ADJUSTERS))
    adjust.add_argument("--thread", required=True, metavar="M10x1", help="thread of the adjuster")
    adjust.add_argument("--ratio", metavar="1.6", help="rocker ratio; 1 where it is not given")
    adjust.add_argument("--hydraulic", action="store_true", help="the adjuster moves a plunger")
    adjust.add_argument("--measured", metavar="MM", help="gap at the valve as measured")
    adjust.add_argument("--target", metavar="MM", help="gap at the valve to be set")
    adjust.add_argument(
        "--preload",
        metavar="MM",
        help="with --hydraulic: past zero lash, in mm or as turns such as '0.75 turn'",
    )
    adjust.add_argument("--json", action="store_true", help="print JSON")
    shims = commands.add_parser("shims", help="which shim goes where, with the fewest to buy")
    shims.set_defaults(run=run_shims)
    shims.add_argument("--shims", required=True, metavar="2.95,2.90", help="what is in, mm")
    shims.add_argument("--gaps", required=True, metavar="0.11,0.22", help="gaps measured, mm")
    shims.add_argument(
        "--band",
        required=True,
        metavar="LOW/HIGH",
        help="both ends in; I:0.15/0.25,E:0.25/0.35 with --names for two kinds",
    )
    shims.add_argument("--names", metavar="I1,E1", help="names of the positions")
    shims.add_argument("--target", metavar="MM", help="mid-band unless said; I:0.20,E:0.30")
    shims.add_argument("--stock", metavar="2.50:3.50:0.05", help="sizes that can be bought, mm")
    shims.add_argument("--drawer", metavar="2.80,2.85", help="shims that are there, mm")
    shims.add_argument(
        "--ratio", metavar="1.5", help="where gaps are at the cam and shims at the valve"
    )
    shims.add_argument("--json", action="store_true", help="print JSON")


def run_adjust(options: argparse.Namespace) -> str:
    """`true-compass adjust`."""
    adjuster = ADJUSTERS[options.adjuster]
    ratio = 1.0 if options.ratio is None else plain_number("--ratio", options.ratio)
    _limited("--ratio", ratio, *LIMITS["ratio"])
    parse_thread_mm(options.thread)
    finger = adjuster is Adjuster.PIVOT_SCREW
    train = Train(
        kind=TrainKind.FINGER if finger else TrainKind.PUSH_ROD,
        hydraulic=options.hydraulic,
        adjuster=adjuster,
        thread=options.thread,
        intake_ratio=ratio,
        exhaust_ratio=ratio,
    )
    try:
        if options.hydraulic:
            return _preload(options, train)
        return _gap(options, train)
    except EngineError as error:
        raise UsageError(f"--adjuster {options.adjuster} {error}") from None


def _gap(options: argparse.Namespace, train: Train) -> str:
    if options.preload is not None:
        raise UsageError("--preload is for --hydraulic: give --measured and --target")
    if options.measured is None or options.target is None:
        raise UsageError("a solid tappet needs --measured and --target")
    target_mm = _gap_mm("--target", options.target)
    measured_mm = _gap_mm("--measured", options.measured)
    turn = turn_to(train, Kind.INTAKE, measured_mm, target_mm)
    if options.json:
        told = {
            "turn_deg": rounded(turn.turn_deg),
            "direction": turn.direction,
            "new_mm": rounded(turn.new_mm),
        }
        return json.dumps(told | _assumed(options), indent=2)
    if turn.direction == "none":
        return f"{gap_words(turn.new_mm)}: as it should be, leave it."
    words = (
        f"Turn {turn.turn_deg:.0f}° {turn.direction}: "
        f"{gap_words(measured_mm)} becomes {gap_words(turn.new_mm)}."
    )
    return words + _assumed_words(options)


def _preload_mm(text: str, train: Train) -> float:
    """A preload as a length, or as turns of this adjuster."""
    turns = parse_turns("--preload", text)
    if turns is None:
        return length_mm("--preload", text)
    per_turn_mm = plunger_per_turn_mm(train, Kind.INTAKE)
    if per_turn_mm is None:
        raise UsageError("--preload is in turns, and this adjuster moves no plunger: give mm")
    return turns * per_turn_mm


def _preload(options: argparse.Namespace, train: Train) -> str:
    if options.measured is not None or options.target is not None:
        raise UsageError("a hydraulic tappet has no gap: give --preload alone")
    if options.preload is None:
        raise UsageError("--hydraulic needs --preload past zero lash: 1.0, 40 thou or 0.75 turn")
    preload_mm = _preload_mm(options.preload, train)
    _limited("--preload", preload_mm, *LIMITS["preload_mm"], "mm")
    turns = preload_turns(train, Kind.INTAKE, preload_mm)
    if options.json:
        told = {
            "turn_deg": rounded(turns * 360.0),
            "turns": rounded(turns),
            "preload_mm": rounded(preload_mm),
            "direction": "tighter" if turns > 0 else "none",
        }
        return json.dumps(told | _assumed(options), indent=2)
    words = f"{turns * 360.0:.0f}° past zero lash ({turns:.2f} turns): {preload_mm:.2f} mm."
    return words + _assumed_words(options)


def _assumed(options: argparse.Namespace) -> dict[str, Any]:
    """What was not said and taken as usual."""
    return {"assumed": {"ratio": 1.0}} if options.ratio is None else {}


def _assumed_words(options: argparse.Namespace) -> str:
    return " Ratio 1 assumed: give --ratio." if options.ratio is None else ""


def _gap_mm(option: str, text: str) -> float:
    """A gap of 0 to 5 mm; what is wider was meant otherwise."""
    gap_mm = length_mm(option, text)
    if gap_mm < 0:
        raise UsageError(f"{option} cannot be less than nothing: with no gap at all give 0")
    if gap_mm > MOST_MM:
        raise UsageError(f"{option} {too_wide(gap_mm)}")
    return gap_mm


def _limited(option: str, value: float, least: float, most: float, unit: str = "") -> None:
    if not least <= value <= most:
        unit = f" {unit}" if unit else ""
        raise UsageError(f"{option} must be from {least:g} to {most:g}{unit}, not {value:g}")


# Shims -------------------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class _Aim:
    """A band with its target."""

    band_mm: tuple[float, float]
    target_mm: float


def _list(text: str | None) -> list[str]:
    return [part.strip() for part in text.split(",") if part.strip()] if text else []


def _band(option: str, text: str) -> tuple[float, float]:
    low, slash, high = text.partition("/")
    if not slash:
        raise UsageError(f"{option} must be two ends such as 0.15/0.25, not {text[:20]!r}")
    ends = _gap_mm(option, low), _gap_mm(option, high)
    if ends[0] > ends[1]:
        raise UsageError(f"{option} has its wider end first: write {high}/{low}")
    return ends


def _by_kind(option: str, text: str) -> dict[str, str]:
    """`0.15/0.25` is for all (""); `I:0.15/0.25,E:0.25/0.35` for two kinds."""
    if ":" not in text:
        return {"": text}
    told: dict[str, str] = {}
    for part in _list(text):
        letter, colon, rest = part.partition(":")
        if not colon or letter not in ("I", "E") or letter in told:
            raise UsageError(f"{option} must name each kind once, such as I:{rest or '…'},E:…")
        told[letter] = rest
    return told


def band_by_kind(text: str | None) -> Callable[[Item], tuple[float, float] | None]:
    """The band of each item that a command line gives: one for all, or one a kind."""
    bands = {
        kind: _band("--band", ends) for kind, ends in _by_kind("--band", text or "").items() if ends
    }
    return lambda item: bands.get(item.kind.letter, bands.get(""))


def _aim(options: argparse.Namespace, name: str) -> _Aim:
    bands, letter = _by_kind("--band", options.band), ""
    targets = _by_kind("--target", options.target) if options.target else {}
    if "" not in bands or targets.keys() - {""}:
        try:
            letter = item_named(name).kind.letter
        except EngineError as error:
            raise UsageError(f"--names {error}: the bands differ by kind") from None
    if letter not in bands and "" not in bands:
        raise UsageError(f"--band says nothing of {name}: add {letter}:LOW/HIGH")
    band = _band("--band", bands.get(letter, bands.get("", "")))
    told = targets.get(letter, targets.get(""))
    target = sum(band) / 2 if told is None else _gap_mm("--target", told)
    if not band[0] - 1e-9 <= target <= band[1] + 1e-9:
        raise UsageError(f"--target {target:g} lies outside the band {band[0]:g}/{band[1]:g}")
    return _Aim(band, target)


def _sizes(option: str, text: str | None) -> list[float]:
    sizes = [length_mm(option, part) for part in _list(text)]
    for size in sizes:
        _limited(option, size, *SHIM_MM, "mm")
    if len(sizes) > MOST_DRAWER:
        raise UsageError(f"{option} has {len(sizes)} shims: at most {MOST_DRAWER} are taken")
    return sizes


def _positions(options: argparse.Namespace) -> list[Position]:
    shims, gaps = _sizes("--shims", options.shims), _list(options.gaps)
    if not shims or len(shims) > MOST_POSITIONS:
        raise UsageError(f"--shims must name 1 to {MOST_POSITIONS} shims, not {len(shims)}")
    names = _list(options.names) or [str(n) for n in range(1, len(shims) + 1)]
    for option, given in (("--gaps", gaps), ("--names", names)):
        if len(given) != len(shims):
            raise UsageError(f"{option} has {len(given)} values for {len(shims)} shims")
    if len(set(names)) != len(names):
        raise UsageError("--names has one name twice: give each position a name of its own")
    ratio = 1.0 if options.ratio is None else plain_number("--ratio", options.ratio)
    check_number("ratio", ratio)
    found = []
    for name, shim, gap in zip(names, shims, gaps, strict=True):
        aim = _aim(options, name)
        gap_mm = _gap_mm("--gaps", gap)
        found.append(Position(name, shim, gap_mm, aim.band_mm, aim.target_mm, ratio))
    return found


def run_shims(options: argparse.Namespace) -> Outcome:
    """`true-compass shims`."""
    stock: tuple[float, ...] = ()
    if options.stock is not None:
        parts = options.stock.split(":")
        if len(parts) != 3:
            raise UsageError("--stock must be least:most:step in mm, such as 2.50:3.50:0.05")
        low, high, step = (length_mm("--stock", part) for part in parts)
        stock = stock_sizes_mm(low, high, step)
    positions = _positions(options)
    plan = plan_shims(positions, _sizes("--drawer", options.drawer), stock)
    code = 1 if plan.impossible else 0
    if options.json:
        told = {
            "place": [_place_record(plan, placed) for placed in plan.places],
            "bought": [rounded(size) for size in plan.bought_mm],
        }
        return Outcome(json.dumps(told, indent=2, ensure_ascii=False), code)
    return Outcome("\n".join(_plan_lines(plan)), code)


def _place_record(plan: ShimPlan, placed: Placed) -> dict[str, Any]:
    return {
        "position": placed.position.name,
        "shim_mm": None if placed.shim_mm is None else rounded(placed.shim_mm),
        "from": from_words(plan, placed),
        "gap_mm": None if placed.gap_mm is None else rounded(placed.gap_mm),
    }


def from_words(plan: ShimPlan, placed: Placed) -> str | None:
    """Where the shim of a position comes from: `stays`, `position I1`, `drawer`, `buy`."""
    if placed.origin is Origin.MOVED and placed.giver is not None:
        return f"position {plan.places[placed.giver].position.name}"
    return placed.origin.value if placed.origin is not None else None


def _plan_lines(plan: ShimPlan) -> list[str]:
    lines = []
    wide = max(len(placed.position.name) for placed in plan.places)
    for placed in plan.places:
        name = f"{placed.position.name:<{wide}}  {placed.position.shim_mm:.2f}"
        if placed.shim_mm is None or placed.gap_mm is None:
            low, high = placed.position.band_mm
            lines.append(f"{name}  nothing brings it to {low:.2f} to {high:.2f} mm")
        else:
            words = from_words(plan, placed)
            lines.append(f"{name} → {placed.shim_mm:.2f} mm, gap {placed.gap_mm:.2f} mm ({words})")
    lines += ["", *walk(plan)]
    bought = ", ".join(f"{size:.2f}" for size in plan.bought_mm)
    lines.append(f"Buy: {bought} mm." if bought else "Nothing to buy.")
    return lines
