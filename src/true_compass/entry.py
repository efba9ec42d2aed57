"""The command `true-compass`: a window, or one of the commands that need none."""

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Final

from true_compass.cli import common
from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError
from true_compass.files.engine_file import SUFFIX, read_engine_text, text_digest
from true_compass.files.kinds import FileKind, kind_by_name
from true_compass.files.problems import EngineFileError
from true_compass.files.rigs import rig_names

if TYPE_CHECKING:
    from true_compass.session.session import Source


def window_parser() -> common.OneLineParser:
    """The parser of the command without a sub-command: what to open."""
    parser = common.OneLineParser(
        prog=common.PROGRAM,
        description="Open the window of True Compass.",
        epilog=f"Without a window: {', '.join((*common.COMMANDS, *common.PAINTING))} "
        "(COMMAND --help tells more).",
    )
    parser.add_argument(
        "target",
        nargs="?",
        metavar="FILE | RIG",
        help=f"engine file NAME{SUFFIX}, or a demo rig: {', '.join(rig_names())}",
    )
    parser.add_argument("--demo", action="store_true", help="open with the demo rigs")
    parser.add_argument(
        "--new-window", action="store_true", help="open a window of its own beside an open one"
    )
    parser.add_argument(
        "--version", action="store_true", help="print the versions of program and libraries"
    )
    return parser


def _check_lesson(path: Path) -> None:
    from true_compass.files.lesson_file import read_lesson

    read_lesson(path)


def _check_scenario(path: Path) -> None:
    from true_compass.files.sealing import read_any_scenario

    read_any_scenario(path)


def _check_book(path: Path) -> None:
    """A book is read by the window that shows it; here it only has to be there."""
    if not common.is_there(path):
        raise common.UsageError(f"{path.name} is not there: look at its name and folder")


OTHER_FILES: Final = {
    FileKind.SCENARIO: _check_scenario,
    FileKind.LESSON: _check_lesson,
    FileKind.BOOK: _check_book,
}
"""Kinds of file that a workspace of their own opens, with what refuses a wrong one."""


def _other_file(target: str | None) -> Path | None:
    """The file of another kind that a command line names, once it was found without problems."""
    kind = kind_by_name(target) if target else None
    if target is None or kind not in OTHER_FILES:
        return None
    OTHER_FILES[kind](Path(target))
    return Path(target).absolute()


def _asked(source: "Source", other: Path | None) -> dict[str, str]:
    """What an open window is asked to open."""
    path = other or source.path
    return {"path": str(path)} if path is not None else {"rig": source.rig} if source.rig else {}


def main(words: Sequence[str] | None = None) -> int:
    """Run the command line; the exit code."""
    words = sys.argv[1:] if words is None else words
    if words and words[0] in common.COMMANDS:
        from true_compass.cli.main import run

        return run(words)
    if words and words[0] == "paper":
        from true_compass.app.printing import run as run_paper

        return run_paper(words[1:])
    if words and words[0] in common.PAINTING:
        from true_compass.app.draw import run as run_painting

        return run_painting(words)
    try:
        options = window_parser().parse_args(words)
        if options.version:
            from true_compass.cli.versions import version_text

            return common.tell(version_text())
        other = _other_file(options.target)
        engine = None
        if options.target and other is None:
            engine = common.resolve_engine(options.target)
    except (common.UsageError, EngineFileError, EngineError) as error:
        return common.fail(str(error))
    return _open(options, engine, other)


def _open(options: argparse.Namespace, engine: Engine | None, other: Path | None) -> int:
    """Open a window on what was asked for, or have the open one do it; the exit code."""
    from platformdirs import user_config_path, user_data_path, user_log_path, user_state_path

    from true_compass.cli.handing_over import answers, hand_over, has_display, socket_path
    from true_compass.session.session import Source

    source = Source()
    if options.target in rig_names():
        source = Source(rig=options.target)
    elif options.target and other is None:
        path = Path(options.target).absolute()
        source = Source(path=path, digest=text_digest(read_engine_text(path)))
    config = user_config_path(common.PROGRAM)
    listens_at = socket_path(config / "demo" if options.demo else config)
    if has_display() and not options.new_window and hand_over(listens_at, _asked(source, other)):
        return common.tell("It is open in the window that was open already.")
    if options.new_window and answers(listens_at):
        listens_at = None  # the first window goes on answering
    # Qt and the window cost most of a second; a wrong word or a second start should not wait.
    from true_compass.app import main as app

    start = app.Start(
        engine,
        source,
        config,
        options.demo,
        user_state_path(common.PROGRAM),
        user_data_path(common.PROGRAM),
        other,
        listens_at,
    )
    problem = app.platform_problem()
    if problem:
        return common.fail(problem)
    if has_display():
        return app.run(start, user_log_path(common.PROGRAM))
    if not options.demo:
        return common.fail("there is no display to open a window on: set DISPLAY, or use a command")
    picture = Path(app.PICTURE)
    if not app.draw_first_screen(start, picture):
        return common.fail(f"{picture} could not be written here: change to another folder")
    return common.tell(
        f"There is no display here, so the first screen was drawn into {picture.absolute()}"
    )
