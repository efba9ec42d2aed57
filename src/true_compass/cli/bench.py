"""`scenario` and `bench`: make a covered engine to work on, and work on it over a line of text."""

import argparse
import json
import sys
from collections.abc import Callable, Sequence
from io import TextIOWrapper
from pathlib import Path
from typing import IO, Any, Final
from uuid import uuid4

from true_compass.bench.actions import Answer
from true_compass.bench.faults import FAULTS, Fault
from true_compass.bench.log import MOST_LINE, Header, LogError, chained, parse_log, played
from true_compass.bench.run import Run
from true_compass.bench.scenario import Hand, Scenario
from true_compass.bench.state import RefusedError
from true_compass.bench.tasks import Task
from true_compass.cli.common import (
    Outcome,
    UsageError,
    is_there,
    resolve_engine,
)
from true_compass.core.chained import plain_json
from true_compass.files.atomic import write_atomic
from true_compass.files.engine_values import engine_digest
from true_compass.files.reading import read_text
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.files.scenario_file import (
    SCENARIO_FILE,
    scenario_digest,
    scenario_text,
)
from true_compass.files.scenarios import scenario_names, shipped_scenario
from true_compass.files.sealing import Sealed, SealError, read_any_scenario, sealed_text
from true_compass.version import VERSION


def run_faults(options: argparse.Namespace) -> str:
    """`true-compass scenario faults`."""
    carried = {fault.slug: _carriers(fault) for fault in FAULTS}
    if options.json:
        records = [
            {
                "name": fault.slug,
                "title": fault.title,
                "changes": fault.changes,
                "shown_by": fault.shown_by,
                "careful": fault.careful,
                "layouts": carried[fault.slug],
            }
            for fault in FAULTS
        ]
        return json.dumps({"faults": records}, indent=2, ensure_ascii=False)
    wide = max(len(fault.slug) for fault in FAULTS)
    return "\n".join(
        f"{fault.slug:<{wide}}  {fault.title} (on {len(carried[fault.slug])} demo rigs)"
        for fault in FAULTS
    )


def _carriers(fault: Fault) -> list[str]:
    return [name for name in rig_names() if not fault.missing(demo_rig(name))]


def _whole(option: str, text: str) -> int:
    if not (text.isascii() and text.isdigit() and len(text) < 12):
        raise UsageError(f"{option} must be a whole number, not {text[:20]!r}")
    return int(text)


def run_new(options: argparse.Namespace) -> str:
    """`true-compass scenario new`."""
    path = Path(options.output)
    if is_there(path):
        raise UsageError(f"{path.name} is there already: choose another name, nothing was written")
    scenario = Scenario(
        engine=resolve_engine(options.engine),
        task=Task(options.task),
        cylinder=_whole("--cylinder", options.cylinder),
        seed=_whole("--seed", options.seed),
        hardness=_whole("--hardness", options.hardness),
        hand=Hand(options.hand),
        faults=tuple(name.strip() for name in (options.fault or "").split(",") if name.strip()),
        method=options.method,
        rig=options.engine if options.engine in rig_names() else "",
        title=options.title or "",
    )
    try:
        text = scenario_text(scenario)
        if options.sealed:
            word = _word("The word of the seal: ")
            if _word("The word once more: ") != word:
                raise UsageError("the two words are not the same: nothing was written")
            text = sealed_text(scenario, word)
        write_atomic(path, text)
    except SealError as error:
        raise UsageError(str(error)) from None
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise UsageError(f"{path.name[:60]} could not be written ({reason})") from None
    return f"{path}: {scenario.shown_title}, {scenario.engine.name}"


def run_bench(options: argparse.Namespace) -> Outcome:
    """`true-compass bench`."""
    told = _scenario_of(options.scenario)
    if options.about:
        return Outcome("\n".join(about_lines(told)))
    scenario = told if isinstance(told, Scenario) else _opened(told)
    if options.play is None:
        return _serve(options, scenario)
    name = Path(options.play).name
    try:
        log = parse_log(_log_text(Path(options.play)), scenario.seal)
        if log.torn:
            raise LogError("is torn in its last line: take that line out to play the rest")
        run = played(scenario, scenario_digest(scenario), log)
    except LogError as error:
        raise UsageError(f"{name}, the file {error}") from None
    sealed = log.header is not None and log.header.sealed
    verdict = run.verdict() | ({"sealed": True} if sealed else {})
    code = 1 if verdict["passed"] is False else 0
    if options.json:
        return Outcome(json.dumps(verdict, indent=2, ensure_ascii=False), code)
    lines = verdict_lines(scenario, verdict)
    return Outcome("\n".join([*lines, *([UNDER_SEAL] if sealed else [])]), code)


UNDER_SEAL: Final = "The log was made under the word of the seal, and not altered since."


def _word(asked: str) -> str:
    """A word as it is typed, unseen."""
    from getpass import getpass

    try:
        return getpass(asked)
    except (EOFError, OSError):
        raise UsageError("a seal needs its word typed at a terminal") from None


def _opened(sealed: Sealed) -> Scenario:
    try:
        return sealed.opened(_word("The word of the seal: "))
    except SealError as error:
        raise UsageError(str(error)) from None


def _scenario_of(target: str) -> Scenario | Sealed:
    """The scenario that a command line names: a shipped one's short name, or a file."""
    if target in scenario_names():
        return shipped_scenario(target)
    path = Path(target)
    if not (path.suffix or is_there(path) or "/" in target):
        names = ", ".join(scenario_names())
        raise UsageError(f"{target[:60]} is neither a file nor a shipped scenario ({names})")
    return read_any_scenario(path)


def about_lines(told: Scenario | Sealed) -> list[str]:
    """What a scenario asks, without what is hidden in it."""
    scenario = told if isinstance(told, Scenario) else told.seen
    last = "sealed" if scenario is not told else f"engine {scenario.seed}"
    engine = scenario.engine
    asked = scenario.task.title(scenario.cylinder)
    return [
        f"{scenario.shown_title}: {engine.name}, {engine.layout_words}",
        *([scenario.note] if scenario.note else []),
        f"Asked: {asked}. Passed with {scenario.task.passes}.",
        f"Hardness {scenario.hardness} of 5, {last}.",
    ]


def run_list(options: argparse.Namespace) -> str:
    """`true-compass scenario list`."""
    shipped = [(name, shipped_scenario(name)) for name in scenario_names()]
    shipped.sort(key=lambda pair: (pair[1].hardness, pair[0]))
    if options.json:
        records = [
            {
                "name": name,
                "title": scenario.title,
                "task": scenario.task.value,
                "engine": scenario.engine.name,
                "layout": scenario.engine.layout_words,
                "hardness": scenario.hardness,
            }
            for name, scenario in shipped
        ]
        return json.dumps({"scenarios": records}, indent=2, ensure_ascii=False)
    wide = max(len(name) for name, _ in shipped)
    return "\n".join(
        f"{name:<{wide}}  {scenario.hardness}  {scenario.title} ({scenario.engine.layout_words})"
        for name, scenario in shipped
    )


MOST_LOG_BYTES = 50_000_000


def _log_text(path: Path) -> str:
    """The text of a log; a long one is longer than other files may be."""
    return read_text(path, "a log of the bench", MOST_LOG_BYTES)


def verdict_lines(scenario: Scenario, verdict: dict[str, Any]) -> list[str]:
    """A verdict as lines for people."""
    judged = {True: "passed", False: "not passed", None: "not judged"}[verdict["passed"]]
    lines = [f"{scenario.shown_title}, {scenario.engine.name}: {judged}"]
    if verdict["tdc_error_deg"] is not None:
        lines.append(f"TDC {verdict['tdc_error_deg']:+.1f}° off")
    for item in verdict["items"]:
        if item["was_set"] or not item["in_band"]:
            low, high = item["band_mm"]
            told = "; ".join(filter(None, (item["follows"], item["cause"])))
            lines.append(
                f"{item['name']}: found {item['found_mm']:.2f}, left {item['left_mm']:.2f}, "
                f"band {low:.2f} to {high:.2f} mm" + (f" ({told})" if told else "")
            )
    lines += [f"wrong idea: {name}" for name in verdict["wrong_ideas"]]
    lines.append(
        f"turned {verdict['turned_deg']:g}° on, {verdict['turned_back_deg']:g}° back, "
        f"{verdict['hints']} hints"
    )
    return [*lines, *verdict["careful"], *verdict["notes"]]


class Line:
    """One run spoken to over a line of text: an action in, an answer out, and a log if asked."""

    def __init__(
        self, scenario: Scenario, log: IO[str] | None = None, closed: bool = False
    ) -> None:
        self.run = Run.begin(scenario, closed)
        self._log = log
        self._seal = scenario.seal
        mark, digest = scenario_digest(scenario), engine_digest(scenario.engine)
        header = Header.of(scenario, digest, mark, VERSION, str(uuid4()), closed=closed)
        self._before = header.line()
        self._write(self._before)

    def answer(self, text: str) -> Answer:
        """Do what one line asks. What cannot be done answers an error and changes nothing."""
        try:
            if len(text) > MOST_LINE:
                raise ValueError("too long")
            action = plain_json(text)
        except ValueError:
            return {"error": 'A line is one JSON object, such as {"do":"bar","deg":30}.'}
        try:
            self.run, answer = self.run.done(action)
        except RefusedError as error:
            return {"error": str(error)}
        told = {} if self.run.state.finished else answer
        self._before = chained(self._before, action, told, self._seal)
        self._write(self._before)
        return answer

    def _write(self, line: str) -> None:
        if self._log is not None:
            self._log.write(line + "\n")
            self._log.flush()


def _serve(options: argparse.Namespace, scenario: Scenario) -> Outcome:
    """Answer lines from standard input until it ends; exit 1 if the work was judged wrong."""
    if sys.stdin is None:
        raise UsageError("--stdin is closed: send one JSON action a line")
    if isinstance(sys.stdin, TextIOWrapper):
        # A line in another encoding is answered like any other that is no action.
        sys.stdin.reconfigure(encoding="utf-8", errors="surrogateescape")
    if options.log is None:
        line = Line(scenario)
        return _spoken(line, sys.stdin, print)
    path = Path(options.log)
    try:
        with path.open("x", encoding="utf-8") as file:
            return _spoken(Line(scenario, file), sys.stdin, print)
    except FileExistsError:
        raise UsageError(f"{path.name[:60]} is there already: choose another name") from None
    except OSError as error:
        raise UsageError(f"{path.name[:60]} could not be written ({error.strerror})") from None


def _spoken(line: Line, asked: Sequence[str] | IO[str], say: Callable[..., None]) -> Outcome:
    verdict: Answer = {}
    for text in asked:
        if not text.strip():
            continue
        answer = line.answer(text)
        if line.run.state.finished and "passed" in answer:
            verdict = answer
        say(json.dumps(answer, ensure_ascii=False), flush=True)
    return Outcome("", 1 if verdict.get("passed") is False else 0)


def add_bench_commands(commands: "argparse._SubParsersAction[Any]") -> None:
    """Add both commands to a parser."""
    scenario = commands.add_parser("scenario", help="covered engines to work on")
    kinds = scenario.add_subparsers(dest="kind", required=True)
    faults = kinds.add_parser("faults", help="every fault, and which rigs can carry it")
    faults.set_defaults(run=run_faults)
    faults.add_argument("--json", action="store_true", help="print JSON")
    shipped = kinds.add_parser("list", help="the scenarios that ship with the program")
    shipped.set_defaults(run=run_list)
    shipped.add_argument("--json", action="store_true", help="print JSON")
    new = kinds.add_parser("new", help=f"write a scenario, NAME{SCENARIO_FILE.suffix}")
    new.set_defaults(run=run_new)
    new.add_argument("--engine", required=True, metavar="FILE | RIG", help="engine file or rig")
    new.add_argument("--fault", metavar="NAME[,NAME]", help="faults, two at most")
    new.add_argument("--seed", default="1", metavar="N", help="fixes all that is left to chance")
    new.add_argument(
        "--task", choices=[task.value for task in Task], default="free", help="what is asked"
    )
    new.add_argument("--cylinder", default="1", metavar="N", help="which cylinder")
    new.add_argument("--hardness", default="2", metavar="1-5", help="how hard")
    new.add_argument(
        "--hand",
        choices=[hand.value for hand in Hand],
        default="usual",
        help="how readings scatter",
    )
    new.add_argument("--method", default="two-stop", help="method of adjusting")
    new.add_argument("--title", help="its name")
    new.add_argument(
        "--sealed", action="store_true", help="hide what is wrong under a word that is asked for"
    )
    new.add_argument("-o", "--output", required=True, metavar="FILE")
    bench = commands.add_parser("bench", help="work on a covered engine, line by line")
    bench.set_defaults(run=run_bench)
    bench.add_argument("scenario", metavar="FILE | NAME", help="scenario file, or one that ships")
    way = bench.add_mutually_exclusive_group(required=True)
    way.add_argument("--play", metavar="LOG", help="play a log and judge it")
    way.add_argument("--stdin", action="store_true", help="one JSON action a line, one answer each")
    way.add_argument("--about", action="store_true", help="what is asked")
    bench.add_argument("--log", metavar="FILE", help="with --stdin: write the log here")
    bench.add_argument("--json", action="store_true", help="print the verdict as JSON")
