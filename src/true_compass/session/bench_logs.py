"""Runs at the bench on the disk: a scenario file and a log each, one line an action, at once.

A line is on the disk before the next action can be done: a kill or a power cut loses at most the
last one. Every window writes files of its own.
"""

import contextlib
import os
from collections.abc import Callable
from pathlib import Path
from typing import Final
from uuid import uuid4

from true_compass.bench.log import Header, LogError, chained, parse_log
from true_compass.bench.state import RefusedError
from true_compass.files.atomic import write_atomic
from true_compass.files.engine_values import engine_digest
from true_compass.files.problems import EngineFileError
from true_compass.files.reading import read_text
from true_compass.files.scenario_file import (
    SCENARIO_FILE,
    read_scenario,
    scenario_digest,
    scenario_text,
)
from true_compass.session.bench import OnBench
from true_compass.session.session import Session, SessionState
from true_compass.session.store import Troubles, is_held_elsewhere
from true_compass.version import VERSION

LOG: Final = ".benchlog.jsonl"
MOST_RUNS: Final = 60
MOST_BYTES: Final = 50_000_000


class BenchLogs:
    """Keeps every run, and brings back the one that was not finished."""

    def __init__(self, folder: Path, troubles: Troubles) -> None:
        self.folder = folder
        self._troubles = troubles
        self._before = ""
        self._path: Path | None = None

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
        if self._path is not None and bench.run.state.done:
            return
        scenario = bench.run.work.scenario
        name = f"run-{os.getpid()}-{uuid4().hex[:12]}"
        header = Header(
            engine_digest(scenario.engine),
            scenario_digest(scenario),
            scenario.seed,
            VERSION,
            bench.closed,
            str(uuid4()),
        )
        self._before, self._path = header.line(), self.folder / f"{name}{LOG}"
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            write_atomic(self.folder / f"{name}{SCENARIO_FILE.suffix}", scenario_text(scenario))
            self._write(self._before)
            self._forget_the_oldest()
        except OSError as error:
            self._failed(error)

    def _append(self, bench: OnBench) -> None:
        assert bench.last is not None
        self._before = chained(self._before, *bench.last)
        try:
            self._write(self._before)
        except OSError as error:
            self._failed(error)

    def _write(self, line: str) -> None:
        if self._path is None:
            return
        with self._path.open("ab") as file:
            file.write(line.encode("utf-8") + b"\n")
            file.flush()
            os.fsync(file.fileno())

    def _failed(self, error: OSError) -> None:
        self._path = None
        self._troubles.tell(
            f"Work at the bench cannot be kept in {self.folder} ({error.strerror}): it is lost "
            "when the program closes."
        )

    def _logs(self) -> list[Path]:
        """Logs, the newest first."""
        with contextlib.suppress(OSError):
            found = [path for path in self.folder.iterdir() if path.name.endswith(LOG)]
            return sorted(found, key=lambda path: path.stat().st_mtime, reverse=True)
        return []

    def _forget_the_oldest(self) -> None:
        for path in self._logs()[MOST_RUNS:]:
            for suffix in (LOG, SCENARIO_FILE.suffix):
                with contextlib.suppress(OSError):
                    path.with_name(path.name.removesuffix(LOG) + suffix).unlink(missing_ok=True)

    def unfinished(self) -> OnBench | None:
        """The newest run that no other window is at, if it was not finished; it goes on here."""
        free = (path for path in self._logs() if not is_held_elsewhere(path.name))
        if (path := next(free, None)) is not None:
            with contextlib.suppress(EngineFileError, LogError, RefusedError, OSError):
                return self._brought_back(path)
        return None

    def _brought_back(self, path: Path) -> OnBench | None:
        scenario = read_scenario(path.with_name(path.name.removesuffix(LOG) + SCENARIO_FILE.suffix))
        log = parse_log(read_text(path, "a log of the bench", MOST_BYTES))
        if log.header is None or log.header.scenario_digest != scenario_digest(scenario):
            return None
        bench = OnBench.begin(scenario, log.closed)
        for action in log.actions:
            bench = bench.done(action)
        if bench.verdict is not None:
            return None
        if log.torn:
            whole = "".join(f"{line}\n" for line in log.lines)
            write_atomic(path, whole)
        self._path, self._before = path, log.lines[-1]
        return bench
