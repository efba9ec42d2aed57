"""The same work without a window: `true-compass state`, `stops`, `events`, `orders` and more.

Wrong input ends with one line on stderr and exit code 2. Angles are in the running direction, 0 at
cylinder 1 on compression TDC.
"""

from collections.abc import Sequence

from true_compass.cli.adjusting import add_adjusting_commands
from true_compass.cli.bench import add_bench_commands
from true_compass.cli.book import add_book_commands
from true_compass.cli.building import add_commands
from true_compass.cli.cam import add_cam_commands
from true_compass.cli.common import (
    PROGRAM,
    OneLineParser,
    UsageError,
    add_engine_options,
    fail,
    join_signed,
    tell,
)
from true_compass.cli.cycle import add_trial_options, run_events, run_lift
from true_compass.cli.ignition import add_ignition_commands
from true_compass.cli.instrument import add_instrument_commands
from true_compass.cli.lessons import add_lesson_commands
from true_compass.cli.planning import add_plan_options, run_compare, run_stops
from true_compass.cli.turning import run_state
from true_compass.core.limits import EngineError
from true_compass.files.problems import EngineFileError


def whole_parser() -> OneLineParser:
    """The parser of every command that needs no Qt."""
    parser = OneLineParser(prog=PROGRAM, description=__doc__)
    commands = parser.add_subparsers(dest="command", required=True)
    for name, run, help_text in (
        ("state", run_state, "strokes, pistons, lifts and margins at one crank angle"),
        ("stops", run_stops, "which items to adjust at which stop, by one method"),
        ("compare", run_compare, "all methods side by side"),
        ("events", run_events, "when the valves really open and close"),
        ("lift", run_lift, "lift of every valve, degree by degree"),
    ):
        command = commands.add_parser(name, help=help_text)
        command.set_defaults(run=run)
        add_engine_options(command)
        command.add_argument("--json", action="store_true", help="print JSON")
    commands.choices["state"].add_argument(
        "--at", required=True, metavar="DEG", help="crank angle in degrees"
    )
    add_plan_options(commands.choices["stops"])
    commands.choices["compare"].add_argument(
        "--longer", metavar="DEG", help="with both lobes longer by so many crank degrees"
    )
    events, lift = commands.choices["events"], commands.choices["lift"]
    for command in (events, lift):
        add_trial_options(command)
    events.add_argument("--cylinder", metavar="N", help="one cylinder only")
    events.add_argument(
        "--at-lift", default="seat", metavar="1mm@valve", help="checking lift and its place"
    )
    lift.add_argument("--step", default="1", metavar="DEG", help="degrees from row to row")
    lift.add_argument("--csv", action="store_true", help="print CSV")
    add_commands(commands)
    add_bench_commands(commands)
    add_adjusting_commands(commands)
    add_book_commands(commands)
    add_cam_commands(commands)
    add_ignition_commands(commands)
    add_instrument_commands(commands)
    add_lesson_commands(commands)
    return parser


def run(words: Sequence[str]) -> int:
    """Run one command; the exit code."""
    try:
        options = whole_parser().parse_args(join_signed(words))
        return tell(options.run(options))
    except EngineError as error:
        return fail(f"{error.field} {error}")
    except (UsageError, EngineFileError) as error:
        return fail(str(error))
    except KeyboardInterrupt:
        return fail("stopped: nothing was changed")
