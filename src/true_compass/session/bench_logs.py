"""Runs at the bench on the disk: a scenario file and a log each, one line an action, at once.

A line is on the disk before the next action can be done: a kill or a power cut loses at most the
last one. Every window writes files of its own. What finds no room waits and is written later.
"""

import contextlib
import os
from collections.abc import Callable
from pathlib import Path
from typing import Final
from uuid import uuid4

from true_compass.bench.log import Header, LogError, chained, parse_log
from true_compass.bench.scenario import Scenario
from true_compass.bench.state import RefusedError
from true_compass.files.atomic import write_atomic
from true_compass.files.engine_values import engine_digest
from true_compass.files.growing import GrowingFile, is_held
from true_compass.files.problems import EngineFileError
from true_compass.files.reading import read_text
from true_compass.files.scenario_file import (
    SCENARIO_FILE,
    scenario_digest,
    scenario_text,
)
from true_compass.files.sealing import Sealed, read_any_scenario
from true_compass.session.bench import OnBench
from true_compass.session.session import Session, SessionState
from true_compass.session.store import Troubles
from true_compass.version import VERSION

LOG: Final = ".benchlog.jsonl"
MOST_RUNS: Final = 60
MOST_BYTES: Final = 50_000_000


def scenario_beside(log: Path) -> Path:
    """The scenario of a log."""
    return log.with_name(log.name.removesuffix(LOG) + SCENARIO_FILE.suffix)


class BenchLogs:
    """Keeps every run, and brings back the one that was not finished."""

    def __init__(self, folder: Path, troubles: Troubles) -> None:
        self.folder = folder
        self._troubles = troubles
        self._log: GrowingFile | None = None
        self._scenario = ""
        """What is still to be written beside the log."""

    def watch(self, session: Session) -> Callable[[], None]:
        """Keep every action of a session, as it is done."""

        def on_change(before: SessionState, after: SessionState) -> None:
            if after.bench is before.bench or after.bench is None:
                return
            if after.bench.run.work is not (before.bench and before.bench.run.work):
                self.begin(after.bench)
            elif after.bench.last is not None:
                self._append(after.bench)

        return session.subscribe(on_change)

    def begin(self, bench: OnBench) -> None:
        """Begin the files of a run; one that was brought back goes on in its own."""
        if self._log is not None and bench.run.state.done:
            return
        scenario = bench.run.work.scenario
        name = f"run-{os.getpid()}-{uuid4().hex[:12]}"
        header = Header.of(
            scenario,
            engine_digest(scenario.engine),
            scenario_digest(scenario),
            VERSION,
            str(uuid4()),
            closed=bench.closed,
        )
        if self._log is not None:
            self._log.close()
        self._log = GrowingFile(self.folder / f"{name}{LOG}", [header.line()])
        self._scenario = scenario_text(scenario)
        self._write()
        self._forget_the_oldest()

    def _append(self, bench: OnBench) -> None:
        if self._log is not None and bench.last is not None:
            seal = bench.run.work.scenario.seal
            self._log.add(chained(self._log.lines[-1], *bench.last, seal))
            self._write()

    def _write(self) -> None:
        try:
            self._write_all()
        except OSError as error:
            self._troubles.tell(
                f"Work at the bench cannot be kept in {self.folder} ({error.strerror}). It waits "
                "here until there is room: make some before the program is closed.",
                self.catch_up,
            )

    def _write_all(self) -> None:
        if self._log is None:
            return
        if self._scenario:
            self.folder.mkdir(parents=True, exist_ok=True)
            write_atomic(scenario_beside(self._log.path), self._scenario)
            self._scenario = ""
        self._log.write()

    def close(self) -> None:
        """Let go of the log; what waits is tried once more."""
        self.catch_up()
        if self._log is not None:
            self._log.close()
            self._log = None

    def catch_up(self) -> bool:
        """Write what waits; whether nothing waits any longer."""
        with contextlib.suppress(OSError):
            self._write_all()
            return True
        return False

    def _logs(self) -> list[Path]:
        """Logs, the newest first."""
        with contextlib.suppress(OSError):
            found = [path for path in self.folder.iterdir() if path.name.endswith(LOG)]
            return sorted(found, key=lambda path: path.stat().st_mtime, reverse=True)
        return []

    def _forget_the_oldest(self) -> None:
        for path in self._logs()[MOST_RUNS:]:
            if not is_held(path):
                for old in (path, scenario_beside(path)):
                    with contextlib.suppress(OSError):
                        old.unlink(missing_ok=True)

    def unfinished(self) -> OnBench | Sealed | None:
        """The newest run that no other window is at, if it was not finished; it goes on here. A
        sealed one waits for its word: `goes_on`.
        """
        if (path := self._newest_free()) is not None:
            with contextlib.suppress(EngineFileError, LogError, RefusedError, OSError):
                scenario = read_any_scenario(scenario_beside(path))
                if isinstance(scenario, Scenario):
                    return self._brought_back(path, scenario)
                log = parse_log(read_text(path, "a log of the bench", MOST_BYTES))
                ended = any(action.get("do") == "finish" for action in log.actions)
                return scenario if log.actions and not ended else None
        return None

    def goes_on(self, scenario: Scenario) -> OnBench | None:
        """The newest run, of a sealed scenario whose word was typed."""
        if (path := self._newest_free()) is not None:
            with contextlib.suppress(LogError, RefusedError, OSError, EngineFileError):
                return self._brought_back(path, scenario)
        return None

    def _newest_free(self) -> Path | None:
        return next((path for path in self._logs() if not is_held(path)), None)

    def _brought_back(self, path: Path, scenario: Scenario) -> OnBench | None:
        log = parse_log(read_text(path, "a log of the bench", MOST_BYTES), scenario.seal)
        if log.header is None or log.header.scenario_digest != scenario_digest(scenario):
            return None
        bench = OnBench.begin(scenario, log.closed)
        for action in log.actions:
            bench = bench.done(action)
        if bench.verdict is not None:
            return None
        file = GrowingFile.gone_on_with(path, log.lines)
        if file is None:
            return None
        self._log = file
        return bench
