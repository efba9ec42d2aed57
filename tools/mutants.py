"""Do the core's own tests notice? Makes small changes in the core, one at a time, and runs them.

    python tools/mutants.py --seed 1 --count 60        a sample; the same for one seed
    python tools/mutants.py --seed 1 --only schools    the part of it in one module

A change is an operator, a comparison, a constant, `min` for `max`, `and` for `or`. Messages and
tolerances are left alone. Each is run through the tests that come by its line. What none noticed is
printed; it may change no answer at all.
"""

import argparse
import ast
import json
import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from random import Random

from coverage import CoverageData

ROOT = Path(__file__).parents[1]
CORE = Path("src/true_compass/core")
SMALL = 1e-4
"""Constants below this are tolerances."""

COMPARISONS: dict[type[ast.cmpop], str] = {
    ast.Lt: "<=",
    ast.LtE: "<",
    ast.Gt: ">=",
    ast.GtE: ">",
    ast.Eq: "!=",
    ast.NotEq: "==",
}
OPERATORS: dict[type[ast.operator], str] = {
    ast.Add: "-",
    ast.Sub: "+",
    ast.Mult: "/",
    ast.Div: "*",
}
NAMES_OF_TESTS = """
import coverage, pytest
@pytest.hookimpl(wrapper=True)
def pytest_runtest_protocol(item):
    coverage.Coverage.current().switch_context(item.nodeid.partition("[")[0])
    return (yield)
"""
"""What tells the measuring which test it watches."""

NAMES = {"min": "max", "max": "min", "argmin": "argmax", "argmax": "argmin", "any": "all"}
QUIET = (ast.JoinedStr, ast.Raise, ast.Assert, ast.Import, ast.ImportFrom)


@dataclass(frozen=True, slots=True)
class Mutant:
    """One change: bytes from `start` to `end` of a file, and what stands there instead.

    `lines` are those of the statement, as far as they are run with the change.
    """

    path: Path
    line: int
    lines: range
    start: int
    end: int
    was: str
    now: str

    def __str__(self) -> str:
        text = (ROOT / self.path).read_text(encoding="utf-8").split("\n")[self.line - 1].strip()
        return f"{self.path.name}:{self.line}: {self.was} -> {self.now}    {text[:90]}"

    def text(self) -> bytes:
        """The file with the change."""
        whole = (ROOT / self.path).read_bytes()
        return whole[: self.start] + self.now.encode() + whole[self.end :]


class Finder:
    """All changes that can be made in one file."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.content = (ROOT / path).read_bytes()
        self.statement: ast.stmt | None = None
        self.begins = [0]
        for line in self.content.split(b"\n"):
            self.begins.append(self.begins[-1] + len(line) + 1)

    def all(self) -> list[Mutant]:
        """Every change, in the order of the file."""
        return list(self._in(ast.parse(self.content)))

    def _place(self, line: int, column: int) -> int:
        return self.begins[line - 1] + column

    def _in(self, node: ast.AST) -> Iterator[Mutant]:
        if isinstance(node, ast.stmt):
            self.statement = node
        yield from self._of(node)
        for field, child in ast.iter_fields(node):
            if field in ("annotation", "returns", "decorator_list"):
                continue
            for part in child if isinstance(child, list) else [child]:
                if isinstance(part, ast.AST) and not isinstance(part, QUIET):
                    yield from self._in(part)

    def _of(self, node: ast.AST) -> Iterator[Mutant]:
        if isinstance(node, ast.Compare) and type(node.ops[0]) in COMPARISONS:
            yield self._between(node.left, node.comparators[0], COMPARISONS[type(node.ops[0])])
        elif isinstance(node, ast.BinOp) and type(node.op) in OPERATORS:
            yield self._between(node.left, node.right, OPERATORS[type(node.op)])
        elif isinstance(node, ast.BoolOp):
            now = "or" if isinstance(node.op, ast.And) else "and"
            yield self._between(node.values[0], node.values[1], now)
        elif isinstance(node, ast.Constant) and isinstance(node.value, int | float):
            if isinstance(node.value, bool):
                return
            if abs(node.value) > SMALL or node.value == 0:
                now = (
                    str(node.value + 1)
                    if isinstance(node.value, int)
                    else f"{node.value * 1.1 + (node.value == 0):g}"
                )
                yield self._whole(node, now)
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub | ast.Not):
            start, end = self._span(node.operand)
            operand = self.content[start:end].decode()
            if not isinstance(node.operand, ast.Constant):
                yield self._whole(node, f"({operand})")
        elif isinstance(node, ast.Call):
            called = node.func
            name = called.id if isinstance(called, ast.Name) else getattr(called, "attr", "")
            if name in NAMES:
                end = self._span(called)[1]
                yield self._made(called.lineno, end - len(name), end, NAMES[name])

    def _span(self, node: ast.expr) -> tuple[int, int]:
        assert node.end_lineno is not None
        assert node.end_col_offset is not None
        return (
            self._place(node.lineno, node.col_offset),
            self._place(node.end_lineno, node.end_col_offset),
        )

    def _whole(self, node: ast.expr, now: str) -> Mutant:
        return self._made(node.lineno, *self._span(node), now)

    def _between(self, left: ast.expr, right: ast.expr, now: str) -> Mutant:
        """Change the operator between two parts; brackets around them stay."""
        start, end = self._span(left)[1], self._span(right)[0]
        gap = self.content[start:end].decode()
        was = gap.strip(" ()\n").split()[0] if gap.strip(" ()\n") else ""
        at = start + len(gap[: gap.index(was)].encode())
        return self._made(left.lineno, at, at + len(was.encode()), now)

    def _made(self, line: int, start: int, end: int, now: str) -> Mutant:
        was = self.content[start:end].decode()
        assert self.statement is not None
        # Of a statement that holds others, such as `if`, only its head.
        last = line if hasattr(self.statement, "body") else self.statement.end_lineno or line
        lines = range(min(self.statement.lineno, line), last + 1)
        return Mutant(self.path, line, lines, start, end, was, now)


def sample(seed: int, count: int, only: str) -> list[Mutant]:
    """The changes of a seed, spread over the core by its size."""
    paths = sorted((ROOT / CORE).rglob("*.py"))
    found = [m for path in paths for m in Finder(path.relative_to(ROOT)).all()]
    chosen = Random(seed).sample(found, min(count, len(found)))
    return [m for m in chosen if not only or m.path.stem in only.split(",")]


class Tests:
    """The core's own tests, and which of them come by a line."""

    def __init__(self, kept: Path | None) -> None:
        """Run them all once, as they are, or read what a run before has kept."""
        self._names: dict[str, dict[int, list[str]]] = {}
        if kept is not None and kept.exists():
            lines = json.loads(kept.read_text(encoding="utf-8")).items()
            self._names = {name: {int(at): own for at, own in by.items()} for name, by in lines}
            return
        with tempfile.TemporaryDirectory() as place:
            tree, data, settings = Path(place), Path(place, "data"), Path(place, "settings")
            settings.write_text(f"[run]\ndata_file = {data}\n")
            _copy_to(tree)
            (tree / "names_of_tests.py").write_text(NAMES_OF_TESTS)
            watched = ("coverage", "run", f"--rcfile={settings}", "-m", "pytest")
            if _run(tree, [*watched, "-p", "names_of_tests", "tests/core", str(CORE)], None):
                raise SystemExit("The tests fail as they are.")
            found = CoverageData(str(data))
            found.read()
            for path in (ROOT / CORE).rglob("*.py"):
                where = str(tree / path.relative_to(ROOT))
                self._names[path.name] = found.contexts_by_lineno(where)
        if kept is not None:
            kept.write_text(json.dumps(self._names), encoding="utf-8")

    def by(self, mutant: Mutant) -> list[str]:
        """Its tests as pytest names them, the module's own first; all for what an import runs."""
        lines = self._names[mutant.path.name]
        names = {name for line in mutant.lines for name in lines.get(line, ())}
        if names == {""}:
            return ["tests/core", str(CORE)]
        names.discard("")
        own = (f"test_{mutant.path.stem}.py", f"{mutant.path}::")
        return sorted(names, key=lambda name: (not any(part in name for part in own), name))

    def notice(self, mutant: Mutant, patience_s: float) -> bool:
        """Whether one of them fails with the change; one that never ends has noticed too."""
        chosen = self.by(mutant)
        if not chosen:
            return False
        with tempfile.TemporaryDirectory() as place:
            tree = Path(place)
            _copy_to(tree)
            (tree / mutant.path).write_bytes(mutant.text())
            return _run(tree, ["pytest", "-x", *chosen], patience_s)


def _copy_to(tree: Path) -> None:
    for part in ("src", "tests", "docs"):
        shutil.copytree(ROOT / part, tree / part, ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(ROOT / "pyproject.toml", tree)


def _run(tree: Path, words: list[str], patience_s: float | None) -> bool:
    """Whether a run of the tests failed or did not end."""
    command = [sys.executable, "-m", *words, "-q", "-p", "no:cacheprovider"]
    own = {"PYTHONPATH": str(tree / "src"), "QT_QPA_PLATFORM": "offscreen"}
    try:
        ran = subprocess.run(
            command, cwd=tree, env=os.environ | own, capture_output=True, timeout=patience_s
        )
    except subprocess.TimeoutExpired:
        return True
    if ran.returncode > 2:
        raise SystemExit(ran.stderr.decode() or ran.stdout.decode())
    return ran.returncode != 0


def main() -> int:
    """Try a sample of changes; exit code 1 where fewer than nine in ten were noticed."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--count", type=int, default=60)
    parser.add_argument("--only", default="", help="modules, such as schools,where")
    parser.add_argument("--jobs", type=int, default=os.cpu_count() or 1)
    parser.add_argument("--kept", type=Path, help="file for which tests come by which line")
    parser.add_argument("--patience", type=float, default=300.0, help="seconds a run may take")
    options = parser.parse_args()
    mutants = sample(options.seed, options.count, options.only)
    tests, noticed = Tests(options.kept), 0
    with ThreadPoolExecutor(options.jobs) as pool:
        results = pool.map(lambda m: tests.notice(m, options.patience), mutants)
        for number, (mutant, was_noticed) in enumerate(zip(mutants, results, strict=True), 1):
            noticed += was_noticed
            if not was_noticed:
                print(f"unnoticed ({number}): {mutant}", flush=True)
    print(f"{noticed} of {len(mutants)} changes noticed (seed {options.seed})")
    return 0 if noticed >= 0.9 * len(mutants) else 1


if __name__ == "__main__":
    sys.exit(main())
