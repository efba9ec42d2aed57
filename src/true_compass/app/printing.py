"""`paper`: sheets that are true to scale, and the others that hang beside an engine."""

import argparse
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import TYPE_CHECKING, Final

from true_compass.app.draw import output_path, paint_application, refused
from true_compass.cli.common import (
    PROGRAM,
    OneLineParser,
    UsageError,
    cylinder_of,
    fail,
    join_signed,
    length_mm,
    number_of,
    resolve_engine,
    tell,
)
from true_compass.cli.planning import add_plan_options, chosen_plan
from true_compass.core.limits import EngineError
from true_compass.core.paper.blades import parse_blades
from true_compass.core.paper.catalogue import BY_WORD, ELSEWHERE, SHEETS, SheetKind
from true_compass.core.paper.keyway import Keyway
from true_compass.core.paper.page import parse_page_mm
from true_compass.core.paper.places import MOST_LATE_DEG
from true_compass.core.paper.proof import PLAIN, parse_proof
from true_compass.core.paper.tape import (
    Ring,
    Tape,
    parse_teeth,
    tape_of_diameter,
    tape_of_string,
    tape_of_strip,
)
from true_compass.core.paper.wheel import Face, PaperWheel
from true_compass.core.state import Rig
from true_compass.core.units import GapUnit
from true_compass.files.problems import EngineFileError

if TYPE_CHECKING:
    from true_compass.core.adjusting.stops import Plan
    from true_compass.drawing.documents import Document, Paper
    from true_compass.drawing.paper.sheet import Style

UNITS: Final = tuple(unit.value for unit in GapUnit)
FACES: Final = tuple(face.value for face in Face)


def whole_parser() -> OneLineParser:
    """The parser of all sheets."""
    parser = OneLineParser(prog=f"{PROGRAM} paper", description=__doc__)
    sheets = parser.add_subparsers(dest="sheet", required=True, metavar="SHEET")
    sheets.add_parser("list", help="every sheet with what it is for")
    for kind in SHEETS:
        command = sheets.add_parser(kind.word, help=f"{kind.name}: {kind.what}")
        if kind.needs_engine:
            command.add_argument("target", metavar="FILE | RIG", help="engine file or rig")
        sizes = "a4, a3, letter" + (" or WIDTHxHEIGHT in mm" if kind.to_scale else "")
        command.add_argument("--paper", default="a4", help=sizes)
        if kind.to_scale and kind.word != "proof":
            command.add_argument(
                "--proof", metavar="ACROSS/ALONG", help="what the 100 mm bars of the proof measure"
            )
            command.add_argument(
                "--outlines", action="store_true", help="leave plates white, to save toner"
            )
        for add in OPTIONS.get(kind.word, ()):
            add(command)
        command.add_argument(
            "-o", "--output", required=True, metavar="FILE", help="ends in .pdf, .svg or .png"
        )
    return parser


# What each sheet asks for ---------------------------------------------------------------------


def _add_wheel(command: argparse.ArgumentParser) -> None:
    command.add_argument("--diameter", default="180", metavar="MM", help="of its rim; 7in is 7 in")
    command.add_argument("--hole", default="20", metavar="MM", help="of the hole in its middle")


def _add_marks(command: argparse.ArgumentParser) -> None:
    command.add_argument(
        "--scale", choices=FACES, default=Face.SPLIT.value, help="how it is graduated"
    )
    command.add_argument(
        "--late", default="0", metavar="DEG", help="the cast mark is met so far after true TDC"
    )
    command.add_argument("--cylinder", default="1", metavar="N", help="whose events are drawn")


def _add_round(command: argparse.ArgumentParser) -> None:
    command.add_argument("--diameter", metavar="MM", help="measured across")
    command.add_argument("--thickness", default="0.1", metavar="MM", help="of the paper")
    command.add_argument("--strip", metavar="MM", help="a strip of the same paper, pricked")
    command.add_argument("--string", metavar="MM", help="a string laid round")
    command.add_argument("--string-thickness", default="1", metavar="MM", help="of that string")


def _add_teeth(command: argparse.ArgumentParser) -> None:
    command.add_argument("--teeth", metavar="N", help="of the ring gear, if the file has none")


def _add_key(command: argparse.ArgumentParser) -> None:
    command.add_argument("--shaft", default="25", metavar="MM", help="the crank's nose, across")
    command.add_argument("--key", default="5", metavar="MM", help="the key, across")


def _add_blades(command: argparse.ArgumentParser) -> None:
    command.add_argument("--blades", default="", metavar="SIZES", help='such as "0.05 0.10 0.15"')
    command.add_argument("--unit", choices=UNITS, help="of the blades; else the engine's own")


def _add_cylinder(command: argparse.ArgumentParser) -> None:
    command.add_argument("--cylinder", default="1", metavar="N", help="which cylinder")


OPTIONS: Final[dict[str, tuple[Callable[[argparse.ArgumentParser], None], ...]]] = {
    "wheel": (_add_wheel, _add_marks, add_plan_options),
    "tape": (_add_round, _add_marks, add_plan_options),
    "flywheel": (_add_round, _add_teeth, add_plan_options),
    "keyway": (_add_key,),
    "blades": (_add_blades,),
    "lap": (_add_cylinder,),
}


# What is printed --------------------------------------------------------------------------------


@dataclass(frozen=True)
class Asked:
    """What every sheet is made from."""

    options: argparse.Namespace
    style: "Style"
    day: date

    @property
    def rig(self) -> Rig:
        """The engine that was named."""
        return Rig.of(resolve_engine(self.options.target))

    def plan(self, rig: Rig) -> "Plan":
        """The plan that the options name."""
        return chosen_plan(self.options, rig)


def _late_deg(options: argparse.Namespace) -> float:
    return number_of("--late", options.late, -MOST_LATE_DEG, MOST_LATE_DEG)


def _proof(_asked: Asked) -> "Document":
    from true_compass.drawing.paper.proof_page import proof_document

    return proof_document()


def _wheel(asked: Asked) -> "Document":
    from true_compass.drawing.paper.made import wheel_for

    options, rig = asked.options, asked.rig
    wheel = PaperWheel(
        length_mm("--diameter", options.diameter),
        length_mm("--hole", options.hole),
        Face(options.scale),
    )
    cylinder = cylinder_of(options.cylinder, rig.engine)
    late = _late_deg(options)
    return wheel_for(rig, asked.plan(rig), wheel, asked.style, asked.day, late, cylinder)


def _round(options: argparse.Namespace, known_mm: float, sense: int) -> Tape:
    """The tape that the options name: a strip, a string, or a diameter."""
    given = [way for way in ("diameter", "strip", "string") if getattr(options, way) is not None]
    if len(given) > 1:
        raise UsageError(f"--{given[0]} and --{given[1]} both say how large it is: give one")
    if options.strip is not None:
        return tape_of_strip(length_mm("--strip", options.strip), sense)
    thick = length_mm("--thickness", options.thickness)
    if options.string is not None:
        string = length_mm("--string-thickness", options.string_thickness)
        return tape_of_string(length_mm("--string", options.string), string, thick, sense)
    if options.diameter is None and not known_mm:
        raise UsageError("--diameter, --strip or --string is needed: how large is it?")
    diameter = known_mm if options.diameter is None else length_mm("--diameter", options.diameter)
    return tape_of_diameter(diameter, thick, sense)


def _tape(asked: Asked) -> "Document":
    from true_compass.drawing.paper.made import sense_for, tape_for

    options, rig = asked.options, asked.rig
    tape = _round(options, rig.engine.damper_mm, sense_for(rig))
    cylinder = cylinder_of(options.cylinder, rig.engine)
    late, face = _late_deg(options), Face(options.scale)
    return tape_for(rig, asked.plan(rig), tape, asked.style, asked.day, late, cylinder, face)


def _flywheel(asked: Asked) -> "Document":
    from true_compass.drawing.paper.made import REAR, flywheel_for, sense_for

    options, rig = asked.options, asked.rig
    teeth = rig.engine.ring_gear_teeth
    if options.teeth is not None:
        teeth = parse_teeth(options.teeth)
    if not teeth:
        raise UsageError("--teeth is needed: the file does not say how many the ring gear has")
    tape = _round(options, 0.0, sense_for(rig, REAR))
    return flywheel_for(rig, asked.plan(rig), tape, Ring(teeth), asked.style, asked.day)


def _keyway(asked: Asked) -> "Document":
    from true_compass.drawing.paper.keyway_page import keyway_document
    from true_compass.drawing.paper.made import about_of, key_marks

    options, rig = asked.options, asked.rig
    keyway = Keyway(length_mm("--shaft", options.shaft), length_mm("--key", options.key))
    return keyway_document(about_of(rig, asked.day), keyway, key_marks(rig), asked.style)


def _blades(asked: Asked) -> "Document":
    from true_compass.drawing.paper.blades_page import blades_document
    from true_compass.drawing.paper.made import about_of

    options, rig = asked.options, asked.rig
    unit = GapUnit(options.unit) if options.unit else rig.engine.gap_unit
    blades = parse_blades(options.blades, unit)
    return blades_document(about_of(rig, asked.day), rig.engine, blades, asked.style)


def _card(asked: Asked) -> "Document":
    from true_compass.drawing.paper.made import card_for

    options, rig = asked.options, asked.rig
    cylinder = cylinder_of(getattr(options, "cylinder", "1"), rig.engine)
    return card_for(options.sheet, rig, cylinder, asked.style, asked.day)


def _pocket(asked: Asked) -> "Document":
    from true_compass.drawing.paper.pocket_card import pocket_document

    return pocket_document(asked.style)


def _job(asked: Asked) -> "Document":
    from true_compass.book.targets import targets_of
    from true_compass.drawing.job_sheet import job_sheet

    engine = asked.rig.engine
    title = f"{engine.name}, number {engine.serial}" if engine.serial else engine.name
    return job_sheet(engine, title, targets_of(engine), None, ())


MAKES: Final[dict[str, Callable[[Asked], "Document"]]] = {
    "proof": _proof,
    "wheel": _wheel,
    "tape": _tape,
    "flywheel": _flywheel,
    "keyway": _keyway,
    "blades": _blades,
    "cam-card": _card,
    "lap": _card,
    "pocket": _pocket,
    "cap-map": _card,
    "job": _job,
}


def _paper(kind: SheetKind, text: str) -> "Paper":
    from true_compass.drawing.documents import PAPERS, page_of

    named = {paper.word.lower(): paper for paper in PAPERS}
    if text.lower() in named:
        return named[text.lower()]
    if not kind.to_scale:
        raise UsageError(f"--paper for {kind.word} must be a4, a3 or letter, not {text[:20]}")
    wide, high = parse_page_mm(text)
    return page_of(f"{wide:g} × {high:g} mm", wide, high)


def _listed() -> str:
    lines = [f"{kind.word:<10} {kind.name}: {kind.what}" for kind in SHEETS]
    lines += [f"{word:<10} a command of its own: {what}" for word, what in ELSEWHERE]
    return "\n".join(lines)


def _print(options: argparse.Namespace) -> str:
    path = output_path(options)
    application = paint_application()
    from true_compass.drawing.documents import DocumentError, write_document
    from true_compass.drawing.paper.sheet import Style

    kind = BY_WORD[options.sheet]
    paper = _paper(kind, options.paper)
    proof = getattr(options, "proof", None)
    style = Style(
        PLAIN if proof is None else parse_proof(proof), getattr(options, "outlines", False)
    )
    try:
        document = MAKES[kind.word](Asked(options, style, date.today()))
        with refused(path):
            write_document(document, paper, path)
    except DocumentError as error:
        raise UsageError(str(error)) from None
    del application
    return "\n".join((str(path), *_warned(style)))


def _warned(style: "Style") -> tuple[str, ...]:
    """What a person should hear about the proof."""
    return () if style.proof.is_plain else style.proof.sentences


def run(words: Sequence[str]) -> int:
    """Run `paper`; the exit code."""
    try:
        options = whole_parser().parse_args(join_signed(words))
        return tell(_listed() if options.sheet == "list" else _print(options))
    except EngineError as error:
        return fail(f"{error.field} {error}")
    except (UsageError, EngineFileError) as error:
        return fail(str(error))
