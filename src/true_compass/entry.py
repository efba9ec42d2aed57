"""The command `true-compass`: a window, or one of the commands that need none."""

import sys
from collections.abc import Sequence
from pathlib import Path

from true_compass.cli import common
from true_compass.core.limits import EngineError
from true_compass.files.engine_file import SUFFIX, read_engine_text, text_digest
from true_compass.files.problems import EngineFileError
from true_compass.files.rigs import rig_names


def _window_parser() -> common.OneLineParser:
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
    return parser


def _other_file(target: str | None) -> Path | None:
    """The scenario that a command line names, once it was read without problems."""
    if not target or not target.endswith(".scenario.toml"):
        return None
    from true_compass.files.scenario_file import read_scenario

    read_scenario(Path(target))
    return Path(target).absolute()


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
        options = _window_parser().parse_args(words)
        other = _other_file(options.target)
        engine = None
        if options.target and other is None:
            engine = common.resolve_engine(options.target)
    except (common.UsageError, EngineFileError, EngineError) as error:
        return common.fail(str(error))
    # Qt and the window cost most of a second; a wrong word should not wait for them.
    from platformdirs import user_config_path, user_data_path, user_log_path, user_state_path

    from true_compass.app import main as app
    from true_compass.session.session import Source

    source = Source()
    if options.target in rig_names():
        source = Source(rig=options.target)
    elif options.target and other is None:
        path = Path(options.target).absolute()
        source = Source(path=path, digest=text_digest(read_engine_text(path)))
    name = "true-compass"
    folders = user_config_path(name), user_state_path(name)
    start = app.Start(
        engine, source, folders[0], options.demo, folders[1], user_data_path(name), other
    )
    problem = app.platform_problem()
    if problem:
        return common.fail(problem)
    if app.has_display():
        return app.run(start, user_log_path("true-compass"))
    if not options.demo:
        return common.fail("there is no display to open a window on: set DISPLAY, or use a command")
    picture = Path(app.PICTURE)
    if not app.draw_first_screen(start, picture):
        return common.fail(f"{picture} could not be written here: change to another folder")
    return common.tell(
        f"There is no display here, so the first screen was drawn into {picture.absolute()}"
    )
