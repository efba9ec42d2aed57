"""The log of a run: a header, then one line an action, each chained to the one before by its hash.

The chain shows that a log was altered, not by whom, and cannot show that a whole log was made up.
A plain list of actions, one a line, is a log too: nothing vouches for it.
"""

from dataclasses import dataclass
from typing import Any, Final

from true_compass.bench.actions import Answer
from true_compass.bench.run import Run
from true_compass.bench.scenario import Scenario
from true_compass.bench.seal import Seal
from true_compass.bench.state import RefusedError
from true_compass.core.chained import compact, mark_of, plain_json

FORMAT: Final = "true-compass-benchlog"
VERSION: Final = 1
SEALED_VERSION: Final = 2
"""A log that was made under the word of a seal: each line carries a mark of the key as well."""
MOST_LINE: Final = 20_000


class LogError(Exception):
    """A log that cannot be played, as one sentence."""


@dataclass(frozen=True, slots=True)
class Header:
    """What a log is of. `closed` tells that covers, caps and plugs were on at the start.

    That of a sealed scenario tells no seed: it is hidden.
    """

    engine_digest: str
    scenario_digest: str
    seed: int
    program: str
    closed: bool
    log_id: str
    sealed: bool = False

    @staticmethod
    def of(
        scenario: Scenario,
        engine_digest: str,
        digest: str,
        program: str,
        log_id: str,
        *,
        closed: bool,
    ) -> "Header":
        """The header of a new log of a scenario, whose digest is `digest`."""
        sealed = scenario.seal is not None
        seed = 0 if sealed else scenario.seed
        return Header(engine_digest, digest, seed, program, closed, log_id, sealed)

    def line(self) -> str:
        """As the first line of a log."""
        told = {
            "format": FORMAT,
            "version": SEALED_VERSION if self.sealed else VERSION,
            "engine_digest": self.engine_digest,
            "scenario_digest": self.scenario_digest,
            "seed": self.seed,
            "program": self.program,
            "starts": "closed" if self.closed else "open",
            "id": self.log_id,
        }
        return compact(told)


def chained(before: str, action: object, answer: Answer, seal: Seal | None = None) -> str:
    """The next line of a log whose line before is `before`; under a seal with its mark."""
    told = {"action": action, "answer": answer}
    chain = mark_of(before, told)
    mac = {} if seal is None else {"mac": seal.mac_of(chain)}
    return compact({**told, "chain": chain, **mac})


@dataclass(frozen=True, slots=True)
class Log:
    """A log as it was read: its header, if it has one, and its actions with their answers."""

    header: Header | None
    actions: tuple[Any, ...]
    answers: tuple[Any, ...]
    lines: tuple[str, ...]
    torn: bool = False

    @property
    def closed(self) -> bool:
        """Whether everything was covered at its start."""
        return self.header is not None and self.header.closed


def parse_log(text: str, seal: Seal | None = None) -> Log:
    """Read a log. A last line that a power cut tore off is left out, and said (`torn`).

    With the key of its seal the marks of a sealed log are checked too. Raises `LogError` for what
    is no log, was altered, or was not made under the word.
    """
    whole = text.endswith("\n")
    lines = text.split("\n")
    tail = "" if whole else lines[-1]
    lines = [line for line in (lines if whole else lines[:-1]) if line.strip()]
    if tail.strip():
        # Without its line end a line may still be whole: plain lists often end so.
        if _is_json(tail):
            lines.append(tail)
        elif not lines:
            raise LogError("is no log of actions: it has no whole line")
    torn = bool(tail.strip()) and not _is_json(tail)
    values = [_value(nth, line) for nth, line in enumerate(lines, start=1)]
    if not values:
        return Log(None, (), (), (), torn)
    if "do" in values[0]:
        return Log(None, tuple(values), (), tuple(lines), torn)
    header = _header(values[0])
    for nth in range(1, len(values)):
        _check_chain(nth + 1, lines[nth - 1], values[nth], sealed=header.sealed)
        if seal is not None and not seal.holds(values[nth]["chain"], values[nth].get("mac")):
            raise LogError(f"was not made under the word of its seal: see line {nth + 1}")
    actions = tuple(value["action"] for value in values[1:])
    answers = tuple(value["answer"] for value in values[1:])
    return Log(header, actions, answers, tuple(lines), torn)


def _is_json(line: str) -> bool:
    try:
        plain_json(line)
    except ValueError:
        return False
    return True


def _value(nth: int, line: str) -> dict[str, Any]:
    if len(line) > MOST_LINE:
        raise LogError(f"has a line {nth} that is too long for an action")
    try:
        value = plain_json(line)
    except ValueError:
        raise LogError(f"is not readable in line {nth}: is this a log of the bench?") from None
    if not isinstance(value, dict):
        raise LogError(f"has no action in line {nth}: is this a log of the bench?")
    return value


def _header(value: dict[str, Any]) -> Header:
    if value.get("format") != FORMAT:
        raise LogError("does not begin as a log of the bench: is this another file?")
    version = value.get("version")
    if version not in (VERSION, SEALED_VERSION):
        told, known = str(version)[:10], f"up to {SEALED_VERSION}"
        raise LogError(f"is of version {told}; this reads {known}: open it with a newer one")
    try:
        return Header(
            str(value["engine_digest"]),
            str(value["scenario_digest"]),
            int(value["seed"]),
            str(value["program"]),
            value["starts"] == "closed",
            str(value["id"]),
            version == SEALED_VERSION,
        )
    except (KeyError, TypeError, ValueError):
        raise LogError("has a first line that is not whole") from None


def _check_chain(nth: int, before: str, value: dict[str, Any], *, sealed: bool) -> None:
    told = {key: value[key] for key in ("action", "answer") if key in value}
    keys = {"action", "answer", "chain", *(["mac"] if sealed else [])}
    if set(value) != keys or value["chain"] != mark_of(before, told):
        raise LogError(f"was altered: line {nth} does not follow from the one before it")


def played(scenario: Scenario, scenario_digest: str, log: Log) -> Run:
    """The run that a log tells of. Raises `LogError` where it is another scenario's."""
    if log.header is None:
        return _played_plain(scenario, log)
    if log.header.scenario_digest != scenario_digest:
        raise LogError("is of another scenario: open the one it was made with")
    try:
        return Run.begin(scenario, log.closed).replayed(log.actions)
    except RefusedError as error:
        raise LogError(f"cannot be played: {error}") from None


def _played_plain(scenario: Scenario, log: Log) -> Run:
    """The run of a plain list: what is refused changes nothing, as on a line, and the rest goes on.

    A list of which nothing can be done is no list of actions.
    """
    run, first, done = Run.begin(scenario, log.closed), "", 0
    for nth, action in enumerate(log.actions, start=1):
        try:
            run, done = run.replayed([action]), done + 1
        except RefusedError as error:
            first = first or f"Action {nth}: {str(error).removeprefix('Action 1: ')}"
    if log.actions and not done:
        raise LogError(f"cannot be played: {first}")
    return run
