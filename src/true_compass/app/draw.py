"""`draw`, `card`, `worksheet`: figures and paper into PNG, SVG or PDF, without a window."""

import argparse
import os
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import date
from pathlib import Path
from typing import Final

from true_compass.cli.common import (
    PROGRAM,
    OneLineParser,
    Outcome,
    UsageError,
    add_engine_options,
    cylinder_of,
    engine_of,
    fail,
    join_signed,
    number_of,
    tell,
)
from true_compass.cli.cycle import add_trial_options, rig_of
from true_compass.cli.lessons import lesson_of, whole_number
from true_compass.cli.planning import add_plan_options, chosen_plan
from true_compass.core.angles import wrap_deg
from true_compass.core.limits import MOST_ANGLE_DEG, EngineError
from true_compass.core.state import Rig
from true_compass.files.engine_values import origin_words
from true_compass.files.problems import EngineFileError
from true_compass.lessons.guide import LessonError
from true_compass.lessons.lesson import MOST_SEED

MOST_STUDENTS = 60
FIGURES = ("ring", "diagram", "chart")


def _parser() -> OneLineParser:
    parser = OneLineParser(prog=f"{PROGRAM} draw", description=__doc__)
    parser.add_argument("figure", choices=FIGURES)
    add_engine_options(parser)
    add_trial_options(parser)
    parser.add_argument("--at", default="0", metavar="DEG", help="crank angle")
    parser.add_argument("--cylinder", default="1", metavar="N", help="cylinder of the diagram")
    parser.add_argument(
        "-o", "--output", required=True, metavar="FILE", help="ends in .png, .svg or .pdf"
    )
    return parser


def _card_parser() -> OneLineParser:
    parser = OneLineParser(prog=f"{PROGRAM} card", description="The shop card of a plan.")
    add_engine_options(parser)
    add_plan_options(parser)
    parser.add_argument("--paper", choices=("a4", "letter"), default="a4")
    parser.add_argument(
        "-o", "--output", required=True, metavar="FILE", help="ends in .pdf, .png or .svg"
    )
    return parser


def _worksheet_parser() -> OneLineParser:
    parser = OneLineParser(
        prog=f"{PROGRAM} worksheet", description="A lesson's drills on paper, with their key."
    )
    parser.add_argument("lesson", metavar="FILE | NAME", help="lesson file, or one that ships")
    parser.add_argument("--seed", default="1", metavar="N", help="the same seed asks the same")
    parser.add_argument("--students", default="1", metavar="N", help="a set of their own for each")
    parser.add_argument("--paper", choices=("a4", "letter"), default="a4")
    parser.add_argument(
        "-o", "--output", required=True, metavar="FILE", help="ends in .pdf, .png or .svg"
    )
    return parser


PARSERS: Final = {"draw": _parser, "card": _card_parser, "worksheet": _worksheet_parser}


def run(words: Sequence[str]) -> int:
    """Run `draw`, `card` or `worksheet`; the exit code."""
    command, *rest = words
    try:
        act = {"draw": _draw, "card": _card, "worksheet": _worksheet}[command]
        done = act(PARSERS[command]().parse_args(join_signed(rest)))
        return tell(done if isinstance(done, Outcome) else str(done))
    except EngineError as error:
        return fail(f"{error.field} {error}")
    except (UsageError, EngineFileError) as error:
        return fail(str(error))


def output_path(options: argparse.Namespace) -> Path:
    """The file that `-o` names, or a sentence about its ending."""
    path = Path(options.output)
    if path.suffix.lower() not in (".png", ".svg", ".pdf"):
        raise UsageError(f"-o must end in .png, .svg or .pdf, not {path.suffix or path.name!r}")
    return path


@contextmanager
def refused(path: Path) -> Iterator[None]:
    """Say in one sentence why a picture was not written; the old one is still there."""
    try:
        yield
    except OSError as error:
        reason = error.strerror or str(error)
        raise UsageError(
            f"{path.name} could not be written ({reason}): choose another folder"
        ) from None


def _card(options: argparse.Namespace) -> Path | Outcome:
    path = output_path(options)
    rig = Rig.of(engine_of(options))
    plan = chosen_plan(options, rig)
    if not plan.safe:
        off = plan.least_item.off_words
        return Outcome(f"{plan.school} is unsafe on this engine: {off}. Nothing was written.", 1)
    application = paint_application()
    from true_compass.drawing.documents import A4, LETTER, DocumentError, write_document
    from true_compass.drawing.shop_card import shop_card

    card = shop_card(rig, plan, origin=origin_words(rig.engine, date.today()))
    try:
        with refused(path):
            write_document(card, A4 if options.paper == "a4" else LETTER, path)
    except DocumentError as error:
        raise UsageError(f"{plan.school} is unsafe on this engine: {error}") from None
    del application
    return path


def _worksheet(options: argparse.Namespace) -> Path:
    path = output_path(options)
    lesson = lesson_of(options.lesson)
    seed = whole_number("--seed", options.seed, 0, MOST_SEED)
    students = whole_number("--students", options.students, 1, MOST_STUDENTS)
    application = paint_application()
    from true_compass.drawing.documents import A4, LETTER, write_document
    from true_compass.drawing.worksheet import worksheet

    try:
        document = worksheet(lesson, seed, students)
        with refused(path):
            write_document(document, A4 if options.paper == "a4" else LETTER, path)
    except LessonError as error:
        raise UsageError(str(error)) from None
    del application
    return path


def paint_application() -> object:
    """A figure needs Qt's painter and typeface, but no display."""
    from PyQt6.QtGui import QGuiApplication

    from true_compass.drawing.theme import load_fonts

    # A platform that is not there would end the program: a figure needs none but this one.
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    application = QGuiApplication.instance() or QGuiApplication([PROGRAM])
    load_fonts()
    return application


def _draw(options: argparse.Namespace) -> Path:
    path = output_path(options)
    rig = rig_of(options)
    at_deg = wrap_deg(number_of("--at", options.at, -MOST_ANGLE_DEG, MOST_ANGLE_DEG))
    cylinder = cylinder_of(options.cylinder, rig.engine)
    application = paint_application()
    from true_compass.drawing import figure_sheets
    from true_compass.drawing.documents import write_document

    if options.figure == "ring":
        sheet = figure_sheets.ring_sheet(rig, at_deg)
    elif options.figure == "diagram":
        sheet = figure_sheets.diagram_sheet(rig, cylinder, at_deg)
    else:
        sheet = figure_sheets.chart_sheet(rig, at_deg)
    with refused(path):
        write_document(sheet, sheet.papers[0], path)
    del application
    return path
