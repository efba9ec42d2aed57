"""`orders`, `check` and `new`: what a crank allows, what is wrong, and engines from a few words."""

import argparse
import contextlib
import json
from collections.abc import Callable
from dataclasses import replace
from itertools import pairwise
from pathlib import Path
from typing import Any, Final

from true_compass.cli.common import (
    Outcome,
    UsageError,
    is_there,
    number_of,
    resolve_engine,
    rounded,
    source_record,
)
from true_compass.core.angles import CYCLE_DEG, Floats
from true_compass.core.changes import with_order
from true_compass.core.crank import makers
from true_compass.core.crank.firing import (
    Groups,
    backwards,
    cannot_follow,
    groups_of,
    groups_text,
    parse_firing_order,
    parse_groups,
)
from true_compass.core.crank.layout import Bank, Form, Layout, Seat, Throw
from true_compass.core.crank.orders import (
    OrderTable,
    all_orders,
    judge_order,
    nearest_orders,
)
from true_compass.core.engine import Engine, even_inline, plain_engine
from true_compass.core.findings import Finding, Severity, findings
from true_compass.core.ignition.leads import backwards_words
from true_compass.core.limits import LIMITS, EngineError
from true_compass.core.spark import NO_SPARK
from true_compass.core.state import Rig
from true_compass.files.engine_file import save_engine
from true_compass.files.problems import EngineFileError


def crank_of(pins_text: str, banks_text: str | None) -> Layout:
    """The crank that `--pins` and `--banks` describe: one angle a cylinder."""
    pins = _angles("--pins", pins_text, "pin_deg")
    banks = _angles("--banks", banks_text, "bank_angle_deg") if banks_text else [0.0] * len(pins)
    if len(banks) != len(pins):
        raise UsageError(
            f"--banks names {len(banks)} of the angles, but --pins {len(pins)}: one a cylinder"
        )
    stands = sorted(set(banks))
    return Layout(
        Form.INLINE if len(stands) == 1 else Form.OTHER,
        tuple(Bank(str(n + 1), angle) for n, angle in enumerate(stands)),
        tuple(Throw(pin) for pin in pins),
        tuple(Seat(stands.index(bank), n) for n, bank in enumerate(banks)),
    )


def _angles(option: str, text: str, limits_of: str) -> list[float]:
    return [number_of(option, part, *LIMITS[limits_of]) for part in text.split(",")]


MOST_LINES: Final = 60


def _order_record(table: OrderTable, row: int) -> dict[str, Any]:
    return {
        "order": "-".join(map(str, table.order(row))),
        "intervals_deg": [rounded(gap) for gap in table.intervals_deg[row]],
        "even": bool(table.even[row]),
    }


def orders_json(table: OrderTable, source: dict[str, Any]) -> str:
    """Every order as JSON, written order by order: 18 cylinders have a hundred thousand."""
    orders = ", ".join(json.dumps(_order_record(table, row)) for row in range(len(table)))
    together = ", ".join(json.dumps(_together(offsets)) for offsets in table.together_deg)
    return (
        f'{{"source": {json.dumps(source)}, "orders": [{orders}], '
        f'"count": {len(table)}, "even_count": {int(table.even.sum())}, '
        f'"simultaneous": [{together}], "simultaneous_count": {len(table.together_deg)}}}'
    )


def _together(offsets_deg: Floats) -> dict[str, Any]:
    """A choice in which some fire together, with the gap after each firing."""
    groups = groups_of(offsets_deg)
    at = [float(offsets_deg[group[0] - 1]) for group in groups]
    gaps = [rounded(b - a) for a, b in pairwise([*at, CYCLE_DEG])]
    return {"order": groups_text(groups), "intervals_deg": gaps}


def run_orders(options: argparse.Namespace) -> str | Outcome:
    """`true-compass orders`."""
    engine = None
    if options.pins is not None:
        if options.target is not None:
            raise UsageError("name an engine file or a demo rig, or give --pins, but not both")
        layout = crank_of(options.pins, options.banks)
        source = source_record(f"--pins {options.pins}")
    elif options.target is None:
        raise UsageError("name an engine file or a demo rig, or give --pins")
    else:
        engine = resolve_engine(options.target)
        layout, source = engine.layout, source_record(options.target, engine)
    if options.test is not None:
        return _tested(layout, options.test, options, source)
    if options.backwards is not None:
        return _read_backwards(layout, options, engine, source)
    table = all_orders(layout)
    if options.json:
        return orders_json(table, source)
    return orders_text(table)


def _tested(
    layout: Layout, text: str, options: argparse.Namespace, source: dict[str, Any]
) -> Outcome:
    """`orders --test`: 0 where the order is possible, 1 where it is not, with the reason."""
    verdict = judge_order(layout, text)
    code = 0 if verdict.good else 1
    nearest = ["-".join(map(str, order)) for order in verdict.nearest]
    mirrored = "-".join(map(str, verdict.mirrored))
    if options.json:
        record: dict[str, Any] = {
            "possible": verdict.good,
            "head": verdict.head,
            "reason": verdict.body,
        }
        record |= {"nearest": nearest, "mirrored": mirrored or None}
        return Outcome(json.dumps({"source": source, **record}), code)
    lines = [verdict.head, verdict.body]
    lines += [f"Nearest on this crank: {', '.join(nearest)}."] if nearest else []
    lines += [f"On the mirrored crank: {mirrored}."] if mirrored else []
    return Outcome("\n".join(filter(None, lines)), code)


def _read_backwards(
    layout: Layout, options: argparse.Namespace, engine: Engine | None, source: dict[str, Any]
) -> Outcome:
    """`orders --backwards`: an order read the wrong way, and what the sparks do then.

    A crank alone is taken with the cam of `--order`.
    """
    text = options.backwards or ("" if engine is None else engine.order_text)
    if not text:
        raise UsageError("--backwards needs an order here, such as --backwards=1-3-4-2")
    groups = parse_groups(text)
    named = sum(len(group) for group in groups)
    if named != layout.cylinder_count or cannot_follow(layout.tdc_deg, groups):
        return _tested(layout, text, options, source)
    if engine is None:
        engine = plain_engine(layout, groups)
    head, body = backwards_words(Rig.of(with_order(replace(engine, spark=NO_SPARK), groups)))
    if options.json:
        turned = groups_text(backwards(groups))
        return Outcome(json.dumps({"source": source, "backwards": turned, "says": body}))
    return Outcome(f"{head}\n{body}")


def orders_text(table: OrderTable) -> str:
    """The first orders of a crank as lines for people, and how many there are."""
    lines = [
        f"{len(table)} orders in which all fire apart, {int(table.even.sum())} of them even; "
        f"{len(table.together_deg)} choices in which some fire together"
    ]
    for row in range(min(len(table), MOST_LINES)):
        record = _order_record(table, row)
        gaps = " ".join(f"{gap:g}" for gap in record["intervals_deg"])
        even = "even  " if record["even"] else "uneven"
        lines.append(f"{even}  {record['order']}   gaps {gaps}")
    if len(table) > MOST_LINES:
        lines.append(f"… and {len(table) - MOST_LINES} more: use --json")
    return "\n".join(lines)


def run_check(options: argparse.Namespace) -> Outcome:
    """`true-compass check`: 1 where something is wrong, 2 where there is nothing to check."""
    engine = None
    try:
        engine = resolve_engine(options.target)
        found = findings(engine)
    except EngineFileError as error:
        if not error.problems[0].field:
            raise
        found = [Finding(Severity.WRONG, problem.field, str(problem)) for problem in error.problems]
        rest = error.count - len(found)
        if rest > 0:
            found.append(Finding(Severity.WRONG, "file", f"And {rest:,} more."))
    wrong = int(any(finding.severity is Severity.WRONG for finding in found))
    if options.json:
        rows = [
            {"severity": f.severity.value, "field": f.field, "sentence": f.sentence} for f in found
        ]
        source = source_record(options.target, engine)
        return Outcome(json.dumps({"source": source, "findings": rows}), wrong)
    lines = [f"{finding.severity.value:<6} {finding.sentence}" for finding in found]
    return Outcome("\n".join(lines or ["nothing to say: this engine is in order"]), wrong)


def _make_v(o: argparse.Namespace, first: str) -> Engine:
    return makers.vee(
        o.count,
        o.angle,
        o.pins or "shared",
        o.crank or "usual",
        o.numbering or "along",
        o.end or "front",
        first,
    )


def _make_flat(o: argparse.Namespace, first: str) -> Engine:
    return makers.flat(o.count, o.numbering or "across", o.end or "front", first)


WITH_TWO_BANKS: Final[dict[str, Callable[[argparse.Namespace, str], Engine]]] = {
    "v": _make_v,
    "flat": _make_flat,
}
MAKERS: Final[dict[str, Callable[[argparse.Namespace], Engine]]] = {
    "inline": lambda o: makers.inline(o.count, o.crank or "even", o.end or "front"),
    "v": lambda o: _make_v(o, "A"),
    "flat": lambda o: _make_flat(o, "A"),
    "opposed-twin": lambda _: makers.flat(2),
    "w": lambda o: makers.double_u(o.count, o.banks or 3, o.angle),
    "staggered": lambda o: makers.staggered(o.count, 15.0 if o.angle is None else o.angle),
    "radial": lambda o: makers.radial(o.count, o.rows or 1),
    "square-four": lambda _: makers.square_four(),
    "u": lambda o: makers.u_engine(o.count),
    "order": lambda o: even_inline(parse_firing_order(o.order)),
}
FIXED_COUNT: Final = ("opposed-twin", "square-four", "order")
# What each maker reads beside its count; any other is refused, so that none is quietly ignored.
READS: Final = {
    "inline": {"crank", "end"},
    "v": {"angle", "pins", "crank", "numbering", "end"},
    "flat": {"numbering", "end"},
    "w": {"angle", "banks"},
    "staggered": {"angle"},
    "radial": {"rows"},
}
WAY_OUT: Final = {
    ("flat", "pins"): "for opposed rods on one pin use: v COUNT --angle 180",
    ("flat", "angle"): "its banks lie at 180°",
    ("radial", "angle"): "its cylinders stand evenly round",
}


def _count_of(options: argparse.Namespace) -> int | None:
    """The number of cylinders, or a sentence; also refuses options that the maker does not read."""
    maker, text = options.maker, options.count
    for option in ("angle", "banks", "rows", "crank", "pins", "numbering", "end"):
        if getattr(options, option) is not None and option not in READS.get(maker, ()):
            reads = ", ".join(f"--{name}" for name in sorted(READS.get(maker, ())))
            way = WAY_OUT.get(
                (maker, option), f"leave it out (it takes {reads or 'none of these'})"
            )
            raise UsageError(f"{maker} takes no --{option}: {way}")
    if maker in FIXED_COUNT:
        if text is not None:
            raise UsageError(f"{maker} takes no number of cylinders: leave out {text[:20]!r}")
        return None
    if text is None:
        raise UsageError(f"{maker} needs the number of cylinders, such as: new v 8")
    if not (text.isascii() and text.isdigit() and len(text) < 4):
        raise UsageError(f"the number of cylinders must be a whole number, not {text[:20]!r}")
    return int(text)


def _made_to_order(options: argparse.Namespace, groups: Groups) -> Engine:
    """An engine of the options that fires in an order, or a sentence with what would make it do."""
    engine = MAKERS[options.maker](options)
    named = sum(len(group) for group in groups)
    if named != engine.cylinder_count:
        raise EngineError(
            "firing_order", f"names {named} cylinders, but there are {engine.cylinder_count}"
        )
    try:
        return _to_order(options, groups)
    except EngineError as error:
        raise UsageError(f"{error.field} {error}. {_way_out(options, engine, groups)}") from None


def _to_order(options: argparse.Namespace, groups: Groups) -> Engine:
    both = WITH_TWO_BANKS.get(options.maker)
    if both is None:
        return makers.to_order([MAKERS[options.maker](options)], groups)
    return makers.to_order((both(options, first) for first in "AB"), groups)


OTHER_WAYS: Final = {
    "numbering": ("along", "across"),
    "crank": ("usual", "flat", "even", "180", "360", "crossplane"),
    "pins": ("shared", "split", "own"),
}


def _way_out(options: argparse.Namespace, engine: Engine, groups: Groups) -> str:
    """What would make an order possible: another option of the maker, or else other orders."""
    for option, values in OTHER_WAYS.items():
        for value in values if option in READS.get(options.maker, ()) else ():
            other = argparse.Namespace(**{**vars(options), option: value})
            with contextlib.suppress(EngineError):
                _to_order(other, groups)
                return f"With --{option} {value} it is possible"
    flat = [cylinder for group in groups for cylinder in group]
    near = nearest_orders(all_orders(engine.layout), flat)
    told = ", ".join("-".join(map(str, order)) for order in near)
    return f"This crank allows {told}" if told else "Here some cylinders must fire together"


def run_new(options: argparse.Namespace) -> str:
    """`true-compass new`."""
    options.count = _count_of(options)
    if options.maker == "order" and not options.order:
        raise UsageError("order needs --order, such as: new order --order 1-3-4-2")
    if options.angle is not None:
        options.angle = number_of("--angle", options.angle, *LIMITS["between_banks_deg"])
    if options.maker in ("v", "w") and options.angle is None:
        raise UsageError(f"{options.maker} needs --angle, the degrees between neighbouring banks")
    path = Path(options.output)
    if is_there(path):
        raise UsageError(f"{path.name} is there already: choose another name, nothing was written")
    if options.order and options.maker != "order":
        engine = _made_to_order(options, parse_groups(options.order))
    else:
        engine = MAKERS[options.maker](options)
    if options.name:
        engine = replace(engine, name=options.name)
    try:
        save_engine(engine, path)
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise UsageError(f"{path.name[:60]} could not be written ({reason})") from None
    return f"{path}: {engine.layout_words}, {engine.order_text}"


def add_commands(commands: "argparse._SubParsersAction[Any]") -> None:
    """Add the three commands to a parser."""
    orders = commands.add_parser("orders", help="every firing order that a crank allows")
    orders.set_defaults(run=run_orders)
    orders.add_argument("target", nargs="?", metavar="FILE | RIG", help="engine file or rig")
    orders.add_argument("--pins", help="pin angle of each cylinder, such as 0,180,180,0")
    orders.add_argument("--banks", help="bank angle of each cylinder, such as 45,-45")
    orders.add_argument("--test", metavar="ORDER", help="judge one order: 0 possible, 1 not")
    orders.add_argument(
        "--backwards",
        nargs="?",
        const="",
        metavar="ORDER",
        help="read an order the wrong way round: the engine's own, or this one",
    )
    orders.add_argument("--json", action="store_true", help="print JSON")
    check = commands.add_parser("check", help="what is wrong or worth a look in an engine file")
    check.set_defaults(run=run_check)
    check.add_argument("target", metavar="FILE | RIG", help="engine file or rig")
    check.add_argument("--json", action="store_true", help="print JSON")
    new = commands.add_parser("new", help="write an engine file from a few words")
    new.set_defaults(run=run_new)
    new.add_argument("maker", choices=tuple(MAKERS))
    new.add_argument("count", nargs="?", help="number of cylinders")
    new.add_argument("-o", "--output", required=True, metavar="FILE")
    new.add_argument("--angle", help="degrees between neighbouring banks")
    new.add_argument("--banks", type=int, choices=(3, 4), help="banks of a W")
    new.add_argument("--rows", type=int, choices=(1, 2), help="rows of a radial")
    new.add_argument("--crank", help="inline: even, 180, 360, crossplane; v: usual, flat")
    new.add_argument("--pins", help="v: shared, split or own")
    new.add_argument("--numbering", help="along each bank or across them")
    new.add_argument("--end", choices=("front", "rear"), help="end of cylinder 1")
    new.add_argument("--order", help="firing order, + joins cylinders that fire together")
    new.add_argument("--name", help="name of the engine")
