"""Lines of the bench, lessons, results, books and tables with something wrong in them."""

import json
import sqlite3
from contextlib import closing, suppress
from pathlib import Path
from random import Random
from typing import Any

from tests.generators.engines import broken, mutant
from tests.generators.kept import VALUES, odd_value
from true_compass.bench.actions import ACTIONS, Key
from true_compass.core.chained import compact, mark_of

ODD_LINES = (
    b"",
    b"\xff\xfe",
    b"{",
    b"[" * 9_000,
    b'{"do":"\\ud800"}',
    b'{"do":1e400}',
    b"null",
    b"\0",
)


def _plausible(key: Key, items: list[str], random: Random) -> Any:
    if key.words:
        return random.choice(key.words)
    kinds = key.kind if isinstance(key.kind, tuple) else (key.kind,)
    if str in kinds:
        return random.choice((*items, "intake", "note", "all"))
    if bool in kinds:
        return random.random() < 0.5
    least, most = max(key.least, -800.0), min(key.most, 800.0)
    number = random.uniform(least, most)
    return round(number) if float not in kinds else round(number, 2)


def bench_line(items: list[str], random: Random) -> bytes:
    """One line for the bench: most of them can be done, many cannot, some are no line at all."""
    if random.random() < 0.05:
        return random.choice((*ODD_LINES, random.randbytes(20)))
    do, action = random.choice(list(ACTIONS.items()))
    told: Any = {"do": do}
    for name, key in action.keys.items():
        if key.needed or random.random() < 0.5:
            told[name] = _plausible(key, items, random)
    if random.random() < 0.4:
        told = odd_value(told, random)
    text = json.dumps(told, ensure_ascii=random.random() < 0.5)
    return text.encode("utf-8", "surrogatepass")


def odd_lesson(text: str, random: Random) -> str:
    """A lesson with some lines changed, or broken as any file can be."""
    if random.random() < 0.7 and text.count("=") > 10:
        return mutant(text, random)
    return broken(text, random).decode("utf-8", "replace")


def odd_result(text: str, random: Random) -> bytes:
    """A result with odd values and, mostly, a chain that holds; or a file that is broken."""
    if random.random() < 0.15:
        return broken(text, random)
    lines = [json.loads(line) for line in text.split("\n") if line]
    nth = random.randrange(len(lines))
    if nth:
        lines[nth]["given"] = odd_value(lines[nth]["given"], random)
    else:
        lines[0] = odd_value(lines[0], random)
        if isinstance(lines[0], dict) and isinstance(lines[0].get("lesson"), str):
            lines[0]["lesson"] = odd_lesson(lines[0]["lesson"], random)
    if random.random() < 0.1:
        lines[random.randrange(len(lines))] = random.choice(VALUES)
    told = [json.dumps(lines[0])]
    for line in lines[1:]:
        given = line.get("given") if isinstance(line, dict) else line
        mark = "0"
        with suppress(UnicodeEncodeError):
            mark = mark_of(told[-1], given)
        pair = {"given": given, "chain": mark}
        told.append(json.dumps(pair) if mark == "0" else compact(pair))
    return "".join(f"{line}\n" for line in told).encode("utf-8", "surrogatepass")


CELLS = (
    *("'null'", "'{'", "'[]'", "''", "NULL", "-1", "9e999", "-9e999", "x'ff00'", "'2026-13-40'"),
    *("1e300", "'\ud7ff'", "char(0)", "printf('%.*c', 100000, 'x')", "'[[[[[[[['", "'{\"a\":1}'"),
)


def damage_book(path: Path, random: Random) -> str:
    """Do something to a book; what."""
    if random.random() < 0.4:
        data = bytearray(path.read_bytes())
        if random.random() < 0.2:
            path.write_bytes(data[: random.randrange(len(data))])
            return "cut"
        for _ in range(random.choice((1, 1, 3, 30))):
            data[random.randrange(random.choice((100, 4096, len(data))))] = random.randrange(256)
        path.write_bytes(data)
        return "bytes"
    with closing(sqlite3.connect(path, isolation_level=None)) as db:
        tables = [row[0] for row in db.execute("SELECT name FROM sqlite_master WHERE type='table'")]
        told = []
        for _ in range(random.choice((1, 1, 2, 5))):
            table = random.choice(tables or ["job"])
            columns = [row[1] for row in db.execute(f"PRAGMA table_info({table})")] or ["id"]
            line = random.choice(
                (
                    f"UPDATE {table} SET {random.choice(columns)} = {random.choice(CELLS)}",
                    f"DELETE FROM {table}",
                    f"DROP TABLE {table}",
                    f"CREATE TRIGGER t AFTER UPDATE ON {table} BEGIN DELETE FROM {table}; END",
                    f"CREATE VIEW v AS SELECT * FROM {table}",
                    f"PRAGMA user_version = {random.choice((-1, 0, 1, 3, 99))}",
                    f"PRAGMA application_id = {random.choice((0, 1))}",
                )
                if random.random() < 0.2
                else (f"UPDATE {table} SET {random.choice(columns)} = {random.choice(CELLS)}",)
            )
            told.append(line)
            with suppress(sqlite3.Error):
                db.execute(line)
        return "; ".join(told)


def odd_table(text: str, random: Random) -> bytes:
    """A table of jobs with something changed in it."""
    if random.random() < 0.4:
        return broken(text, random)
    lines = text.split("\r\n")
    for _ in range(random.choice((1, 1, 3))):
        at = random.randrange(len(lines))
        cells = lines[at].split(",")
        cells[random.randrange(len(cells))] = random.choice(
            (*CELLS, *map(str, VALUES), "1.5 turns", "nan turns", "8..10 thou", "99" * 200, "=1+1")
        ).replace(",", " ")
        lines[at] = ",".join(cells)
    return "\r\n".join(lines).encode("utf-8", "surrogatepass")
