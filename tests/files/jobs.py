"""Invented jobs for the tests of the book."""

import random
from dataclasses import replace
from datetime import date, timedelta
from pathlib import Path
from types import MappingProxyType

from true_compass.book.brackets import Bracket
from true_compass.book.job import (
    BookEngine,
    BookSource,
    General,
    ItemRecord,
    Job,
    Measure,
    Part,
    Person,
    Target,
    ToDo,
    Witness,
)
from true_compass.book.targets import targets_of
from true_compass.core.adjusting.setting import settings_of
from true_compass.core.engine import Engine
from true_compass.core.spark import NO_SPARK
from true_compass.core.units import GapUnit
from true_compass.core.valves.chamber import UNKNOWN_CHAMBER
from true_compass.files.book_file import Book
from true_compass.files.engine_values import engine_digest, values_of_engine
from true_compass.files.rigs import demo_rig

JOEL, MINA = Person("p-joel", "Joel R."), Person("p-mina", "Mina L.")
NOW = "2026-11-12T10:00:00+00:00"


def as_first_said(engine: Engine) -> Engine:
    """A rig without what its file has learnt to say since."""
    return replace(engine, timing_sets=(), chamber=UNKNOWN_CHAMBER, spark=NO_SPARK)


def book_engine(name: str = "birch", serial: str = "3") -> tuple[BookEngine, Engine]:
    # The demo rigs learn to say more; the books of old versions hold what they said then.
    engine = as_first_said(demo_rig(name))
    told = BookEngine(
        f"e-{name}-{serial}", engine.name, serial, f"rig {name}", engine_digest(engine)
    )
    return told, engine


def full_job(job_id: str = "j-1", day: date = date(2026, 11, 12), name: str = "birch") -> Job:
    """A job that says something everywhere."""
    told, engine = book_engine(name)
    items = {}
    rng = random.Random(job_id)
    for item in (setting.item for setting in settings_of(engine)):
        target = 0.25 if item.name.startswith("I") else 0.40
        found = Measure.mm(round(target + rng.choice((-0.02, 0.0, 0.01)), 2))
        items[item] = ItemRecord(found)
    names = sorted(items, key=lambda item: item.name)
    items[names[0]] = ItemRecord(
        Measure(Bracket(0.30, 0.35), None, "0.30..0.35", GapUnit.MM),
        Measure(Bracket.of(0.42), None, "0.42", GapUnit.MM),
        Measure(Bracket.of(0.4064), None, "16 thou", GapUnit.THOU),
        27.0,
        True,
        '=2+3 "quoted", ünïcode;\nsecond line',
        "valve",
        2.85,
        2.775,
    )
    items[names[1]] = ItemRecord(Measure(None, 1.5, "1.5 turns", GapUnit.MM))
    return Job(
        id=job_id,
        engine_id=told.id,
        engine_digest=told.digest,
        day=day,
        made=NOW,
        person=JOEL,
        seen_by="Mina L.",
        clock=1840.5,
        temperature_c=18.0,
        rested_h=20.0,
        blades="set 3",
        blade_step_mm=0.05,
        unit=GapUnit.THOU,
        school="two-stop",
        targets=(
            *targets_of(engine),
            Target("E", True, 0.35, (0.30, 0.40), BookSource("Workshop book", "2", "41", "turbo")),
        ),
        zero_lash="play",
        pumped=False,
        complaint="ticks at idle, warm",
        signs_before="pulls evenly",
        signs_after="quiet",
        head_first=True,
        parts=(Part("head gasket", "weeps"), Part("counter", "new dial")),
        to_do=(ToDo("E5 again", 2140.0, date(2027, 3, 7)),),
        put_back=("pin out", "plugs"),
        rolled_over=True,
        signed="J. Reed",
        note="nothing else",
        origin="paper",
        readings=(General("intake centreline", "° ATDC", 108.0, 106.5, "108"),),
        witness=(Witness("E5", 4.1, 1.6, 8.0, 190.5),),
        items=MappingProxyType(items),
    )


def filled(path: Path, count: int = 3) -> Book:
    """A book with some jobs on one engine."""
    book = Book(path)
    told, engine = book_engine()
    book.put_engine(told, values_of_engine(engine))
    for n in range(count):
        day = date(2026, 1, 1) + timedelta(days=30 * n)
        book.write_job(None, full_job(f"j-{n}", day), NOW)
    return book
