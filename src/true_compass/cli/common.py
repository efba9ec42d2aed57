"""What every command shares: words, numbers, and the engine that they name."""

import argparse
import contextlib
import io
import math
import os
import sys
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path
from typing import Any, Final, NoReturn

from true_compass.core.crank.firing import parse_firing_order
from true_compass.core.engine import Engine, even_inline
from true_compass.core.items import Kind
from true_compass.core.limits import LIMITS, EngineError, check_number
from true_compass.core.units import parse_length_mm, parse_number
from true_compass.core.valves.cam import EVENT_FIELDS, Cam, ValveTiming
from true_compass.files.engine_file import read_engine
from true_compass.files.engine_values import engine_digest
from true_compass.files.kinds import check_is_engine
from true_compass.files.problems import shown_text
from true_compass.files.rigs import demo_rig, rig_names

PROGRAM: Final = "true-compass"
COMMANDS: Final = (
    "state",
    "stops",
    "compare",
    "events",
    "lift",
    "orders",
    "check",
    "new",
    "scenario",
    "bench",
    "adjust",
    "shims",
    "book",
    "cam",
    "ignition",
    "instrument",
    "drill",
    "lesson",
    "mark",
)
PAINTING: Final = ("draw", "card", "worksheet", "paper")
"""Commands that need Qt, though no display."""

# Values of these options may start with a minus sign, which argparse takes for an option.
_SIGNED = (
    "--at",
    "--events",
    "--ramp",
    "--order",
    "--pins",
    "--banks",
    "--angle",
    "--start",
    "--lash-intake",
    "--lash-exhaust",
    "--advance-intake",
    "--advance-exhaust",
    "--before",
    "--after",
    "--need",
    "--earlier",
    "--turn",
    "--late",
    "--knock",
    "--zero",
    "--intake",
    "--exhaust",
    "--goal",
    "--seat",
    "--post1",
    "--initial",
    "--total",
)


class UsageError(Exception):
    """Wrong words on the command line, as one sentence."""


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a command has to say, and its exit code: 1 is judged wrong or impossible."""

    text: str
    code: int = 0


class OneLineParser(argparse.ArgumentParser):
    """An argument parser that raises instead of printing its usage and leaving."""

    def error(self, message: str) -> NoReturn:
        """Raise the message."""
        raise UsageError(f"{message} (see {self.prog} --help)")


def add_engine_options(command: argparse.ArgumentParser) -> None:
    """The options that name an engine, and those that replace its cam."""
    command.add_argument("target", nargs="?", metavar="FILE | RIG", help="engine file or rig")
    command.add_argument(
        "--order",
        help="an even-firing inline engine made on the spot, such as 1-3-4-2 "
        "(bore 84, stroke 80, rod 140 mm; events 15/50/50/15; ramps 20°)",
    )
    command.add_argument("--events", help="replace the cam: IVO/IVC/EVO/EVC in degrees")
    command.add_argument("--ramp", metavar="DEG", help="length of the ramps in degrees")


def join_signed(words: Sequence[str]) -> list[str]:
    """Tie a value that starts with a minus sign to its option: `--events=-4/38/45/2`.

    Raises `UsageError` for an option whose value is only two dashes.
    """
    joined: list[str] = []
    for word in words:
        option, tied, value = word.partition("=")
        if tied and value == "--" and option.startswith("--"):
            raise UsageError(f"{option} needs a value")
        if joined and joined[-1] in _SIGNED and word.startswith("-") and not word.startswith("--"):
            joined[-1] += f"={word}"
        else:
            joined.append(word)
    return joined


def resolve_engine(target: str) -> Engine:
    """The engine that a command line names: a demo rig's short name, or a file."""
    if target in rig_names():
        return demo_rig(target)
    path = Path(target)
    if not (path.suffix or is_there(path) or "/" in target):
        raise UsageError(
            f"{target[:60]} is neither a file nor a demo rig ({', '.join(rig_names())})"
        )
    check_is_engine(path)
    return read_engine(path)


def source_record(target: str, engine: Engine | None = None, tried: bool = False) -> dict[str, Any]:
    """Where the figures of a command come from: the engine, as set or as tried, digest and day."""
    record: dict[str, Any] = {"target": target, "date": date.today().isoformat()}
    if engine is None:
        return record
    told = {"engine": engine.name, "as": "tried" if tried else "set"}
    return {**told, "digest": engine_digest(engine), **record}


def source_of(options: argparse.Namespace, engine: Engine, tried: bool = False) -> dict[str, Any]:
    """Where the figures of the engine that the options name come from.

    A cam, ramp or table from the command line in the place of the file's own is only tried.
    """
    changes = ("events", "ramp", "table_intake", "table_exhaust")
    if options.target is None:
        return source_record(f"--order {options.order}", engine, tried)
    tried = tried or any(getattr(options, change, None) is not None for change in changes)
    return source_record(options.target, engine, tried)


SOON_S: Final = 0.5
EVERY_S: Final = 0.2


def ticker(what: str) -> Callable[[int, int], bool]:
    """A line of progress on a terminal, for what lasts longer than half a second."""
    begun = last = time.monotonic()
    shown = sys.stderr is not None and sys.stderr.isatty()

    def tell(done: int, of: int) -> bool:
        nonlocal last
        now = time.monotonic()
        if shown and now - begun > SOON_S and (now - last > EVERY_S or done == of):
            last = now
            end = "\n" if done == of else ""
            print(f"\r{done:,} of {of:,} {what}", end=end, file=sys.stderr, flush=True)
        return True

    return tell


def is_there(path: Path) -> bool:
    """Whether a name is taken; a name too long, or with a NUL in it, is none."""
    try:
        return path.exists()
    except (OSError, ValueError):
        return False


def engine_of(options: argparse.Namespace) -> Engine:
    """The engine that a target or `--order` names, with `--events` and `--ramp` put in."""
    if (options.target is None) == (options.order is None):
        raise UsageError("name an engine file or a demo rig, or give --order, but not both")
    if options.target is not None:
        engine = resolve_engine(options.target)
    else:
        engine = even_inline(parse_firing_order(options.order))
    if options.events is not None:
        engine = replace(engine, card=None, cam=_with_events(engine.cam, options.events))
    if options.ramp is not None:
        ramp = number_of("--ramp", options.ramp, *LIMITS["ramp_deg"])
        cam = engine.cam
        engine = replace(
            engine,
            cam=replace(
                cam,
                intake=replace(cam.intake, ramp_deg=ramp),
                exhaust=replace(cam.exhaust, ramp_deg=ramp),
            ),
        )
    return engine


def _with_events(cam: Cam, text: str) -> Cam:
    parts = text.split("/")
    if len(parts) != 4:
        raise UsageError(f"--events needs four angles IVO/IVC/EVO/EVC like 15/50/50/15, not {text}")
    fields = [field for kind in Kind for field in EVENT_FIELDS[kind]]
    events = []
    for field, part in zip(fields, parts, strict=True):
        value = number_of("--events", part, -math.inf, math.inf)
        check_number(field, value)
        events.append(value)
    return replace(
        cam,
        intake=_at_the_seat(cam.intake, *events[:2]),
        exhaust=_at_the_seat(cam.exhaust, *events[2:]),
    )


def _at_the_seat(timing: ValveTiming, opens: float, closes: float) -> ValveTiming:
    """The timing with two events at the seat, whatever its lobe was made from before."""
    return ValveTiming(
        opens, closes, timing.peak_lift_mm, timing.lash_mm, timing.ramp_deg, timing.ramp_mm
    )


def number_of(option: str, text: str, least: float, most: float) -> float:
    """A plain number within limits, or a sentence that names the option."""
    try:
        value = float(text)
    except ValueError:
        raise UsageError(f"{option} must be a number of degrees, not {text[:20]!r}") from None
    if not math.isfinite(value):
        raise UsageError(f"{option} must be a plain number of degrees, not {text[:20]}")
    if not least <= value <= most:
        raise UsageError(f"{option} must be from {least:g} to {most:g} degrees, not {value:g}")
    return value


def plain_number(option: str, text: str) -> float:
    """A number, or a sentence that names the option."""
    try:
        return parse_number(option, text)
    except EngineError as error:
        raise UsageError(f"{option} {error}") from None


def length_mm(option: str, text: str) -> float:
    """A length in mm, with a unit or without, or a sentence that names the option."""
    try:
        return parse_length_mm(option, text)
    except EngineError as error:
        raise UsageError(f"{option} {error}") from None


def cylinder_of(text: str, engine: Engine) -> int:
    """A cylinder that the engine has, or a sentence."""
    if not (text.isascii() and text.isdigit() and len(text) < 4 and int(text) in engine.cylinders):
        raise UsageError(
            f"--cylinder must be 1 to {engine.cylinder_count} for this engine, not {text[:20]!r}"
        )
    return int(text)


def rounded(value: float) -> float:
    """Nine decimals: finer than any engine, coarse enough to hide binary fractions."""
    return round(float(value), 9) + 0.0


def fail(sentence: str) -> int:
    """Print one line on stderr; exit code 2."""
    line = shown_text(" ".join(sentence.split()))
    with contextlib.suppress(OSError, ValueError):
        print(f"{PROGRAM}: {line}", file=sys.stderr)
    return 2


def tell(said: str | Outcome) -> int:
    """Print what a command has to say; the exit code."""
    outcome = Outcome(said) if isinstance(said, str) else said
    if isinstance(sys.stdout, io.TextIOWrapper):
        # A terminal without the degree sign shows something in its place.
        sys.stdout.reconfigure(errors="replace")
    if not outcome.text:
        return outcome.code
    try:
        print("\n".join(map(shown_text, outcome.text.split("\n"))), flush=True)
    except OSError as error:
        # What is left in the buffer would complain once more at the end.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        # A reader such as `head` has had enough, and needs to be told nothing.
        if isinstance(error, BrokenPipeError):
            return 1
        return fail(f"what was asked for could not be written ({error.strerror})")
    return outcome.code
