"""Attacks through what somebody else wrote: lines, lessons, results, books, tables."""

import contextlib
import io
import json
import shutil
from pathlib import Path
from typing import TYPE_CHECKING

from tools.attack_base import Attack, check_sentences

if TYPE_CHECKING:
    from true_compass.book.job import Person

ACTIONS_A_RUN = 200


class Actions(Attack):
    """Lines for the bench: each is answered, and the log that comes of them is played again."""

    def __init__(self, folder: Path, seed: int) -> None:
        super().__init__(folder, seed)
        from true_compass.files.scenarios import scenario_names, shipped_scenario

        self.scenarios = [shipped_scenario(name) for name in scenario_names()]
        self.begun = -1

    def _begin(self, number: int) -> None:
        from true_compass.cli.bench import Line

        self.begun = number // ACTIONS_A_RUN
        self.log = io.StringIO()
        self.line = Line(self.scenarios[self.begun % len(self.scenarios)], self.log)
        self.items = list(self.line.run.work.place)

    def try_one(self, number: int) -> str:
        """One line in, one answer out; at the end of a run its log says the same again."""
        from tests.generators.files import bench_line

        if number // ACTIONS_A_RUN != self.begun or self.line.run.state.finished:
            self._begin(number)
        random = self.random(number)
        asked = bench_line(self.items, random).decode("utf-8", "surrogateescape")
        answer = self.line.answer(asked)
        json.dumps(answer, allow_nan=False).encode()
        if "error" in answer:
            check_sentences([answer["error"]])
        if number % ACTIONS_A_RUN == ACTIONS_A_RUN - 1:
            self._play_again()
        return asked[:60]

    def _play_again(self) -> None:
        from true_compass.bench.log import parse_log, played
        from true_compass.files.scenario_file import scenario_digest

        scenario = self.line.run.work.scenario
        log = parse_log(self.log.getvalue())
        again = played(scenario, scenario_digest(scenario), log)
        assert again.state.done == self.line.run.state.done


class Lessons(Attack):
    """Lesson files with something changed; what is accepted is begun."""

    def __init__(self, folder: Path, seed: int) -> None:
        super().__init__(folder, seed)
        from true_compass.files.course import lesson_names, shipped_lesson
        from true_compass.files.lesson_file import lesson_text

        self.texts = {name: lesson_text(shipped_lesson(name)) for name in lesson_names()}

    def try_one(self, number: int) -> str:
        """Read one text, and begin it."""
        from tests.generators.files import odd_lesson

        from true_compass.files.lesson_file import lesson_digest, lesson_text, parse_lesson
        from true_compass.files.problems import EngineFileError
        from true_compass.lessons.guide import LessonError
        from true_compass.lessons.result import Person
        from true_compass.session.lesson import OnLesson

        random = self.random(number)
        name = random.choice(list(self.texts))
        try:
            lesson = parse_lesson(odd_lesson(self.texts[name], random), "odd.lesson.toml")
        except EngineFileError as error:
            check_sentences(error.sentences())
            return f"{name}: refused"
        again = parse_lesson(lesson_text(lesson), "again.lesson.toml")
        assert lesson_digest(again) == lesson_digest(lesson)
        if random.random() < 0.1:
            with contextlib.suppress(LessonError):
                OnLesson.begin(lesson, Person("x"), random.randrange(1000))
        return f"{name}: taken"


class Results(Attack):
    """Results with something changed: each gives a sheet, or one sentence that names the file."""

    def __init__(self, folder: Path, seed: int) -> None:
        super().__init__(folder, seed)
        from tests.lessons.made import answers, person, result_text

        from true_compass.files.course import shipped_lesson

        who = person(1, "Ines")
        self.texts = []
        for name in ("four-strokes", "two-tdcs", "order-and-crank", "fires-next"):
            with contextlib.suppress(KeyError, StopIteration):
                lesson = shipped_lesson(name)
                self.texts.append(result_text(lesson, who, answers(lesson, who, 0.6)[:4]))

    def try_one(self, number: int) -> str:
        """Read one result, and make a class of it."""
        from tests.generators.files import odd_result
        from tests.lessons.made import NOW

        from true_compass.files.class_table import answer_lines, student_lines
        from true_compass.files.result_files import NoResultError, read_sheet
        from true_compass.lessons.collect import class_of, one_each

        random = self.random(number)
        path = self.folder / "odd.result.jsonl"
        path.write_bytes(odd_result(random.choice(self.texts), random))
        try:
            sheet = read_sheet(path)
        except NoResultError as error:
            check_sentences([str(error)])
            if not str(error).startswith(path.name):
                raise AssertionError(f"it does not name the file: {error}") from None
            return "left out"
        room = class_of(one_each([sheet]), NOW)
        assert student_lines(room)
        assert answer_lines(room)
        return f"{sheet.answered} answers"


class Damaged(Attack):
    """Damaged books: checked, looked at by the window's keeper, listed and merged."""

    def __init__(self, folder: Path, seed: int) -> None:
        super().__init__(folder, seed)
        from datetime import date

        from tests.files.jobs import filled

        self.whole = folder / "whole.tcbook"
        book = filled(self.whole)
        book.db.back_up_of_day(date(2026, 11, 30))
        book.db.sweep()
        book.close()

    def try_one(self, number: int) -> str:
        """Damage one book, and use it in every way."""
        from tests.generators.files import damage_book

        from true_compass.cli.main import run
        from true_compass.files.book_db import BookError
        from true_compass.files.book_exchange import coming_from
        from true_compass.session.book_keeper import BookKeeper
        from true_compass.session.store import Troubles

        path = self.folder / "odd.tcbook"
        for end in ("", "-wal", "-shm"):
            path.with_name(path.name + end).unlink(missing_ok=True)
        shutil.copy(self.whole, path)
        did = damage_book(path, self.random(number))
        table = self.folder / "odd.csv"
        table.unlink(missing_ok=True)
        for words in (["check"], ["list", "--json"], ["check", "--json"], ["export", f"-o{table}"]):
            out, err = io.StringIO(), io.StringIO()
            with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
                code = run(["book", *words, "--book", str(path)])
            assert code in (0, 1, 2)
            assert err.getvalue().count("\n") <= 1, err.getvalue()
        keeper = BookKeeper(path, Troubles())
        for line in keeper.lines("e-birch-3"):
            keeper.job(line.id)
        keeper.entries("e-birch-3")
        keeper.hand("Joel R.")
        keeper.close()
        mine = self.folder / "mine.tcbook"
        with contextlib.suppress(BookError):
            coming_from(mine, path)
        return did[:80]


class Tables(Attack):
    """Tables of jobs with something changed; what is accepted is taken into a book."""

    def __init__(self, folder: Path, seed: int) -> None:
        super().__init__(folder, seed)
        from tests.files.jobs import filled

        from true_compass.files.book_merge import export_values
        from true_compass.files.job_table import csv_text, table_of

        book = filled(folder / "whole.tcbook")
        jobs = [job for engine in book.engines() for job in book.jobs(engine.id)]
        paper = "job,date,hours,person,item,found_mm,left_mm,note\r\n"
        for nth in range(3):
            for item in ("I1", "E1", "I2", "E2"):
                paper += f"{nth},2026-0{nth + 1}-02,{nth}00,Joel,{item},0.2{nth},0.25,\r\n"
        self.texts = (csv_text(table_of(jobs, export_values(book))), paper)
        book.close()

    def try_one(self, number: int) -> str:
        """Read one table, and take it in."""
        from datetime import date

        from tests.generators.files import odd_table

        from true_compass.book.job import BookEngine
        from true_compass.files.book_db import BookError
        from true_compass.files.book_file import Book
        from true_compass.files.job_import import Setup, jobs_from, take_in
        from true_compass.files.job_table import entries_of, read_table
        from true_compass.files.problems import EngineFileError

        random = self.random(number)
        path, book_path = self.folder / "odd.csv", self.folder / "new.tcbook"
        path.write_bytes(odd_table(random.choice(self.texts), random))
        for read in ("trend", "jobs"):
            try:
                tables = read_table(path)
                if read == "trend":
                    entries_of(tables, path.name, date(2026, 12, 1))
                    continue
                engine = BookEngine("e", "Birch", "", "rig birch", "d")
                setup = Setup(engine, _person, date(2026, 12, 1), "now")
                found = jobs_from(tables, setup, path.name)
            except EngineFileError as error:
                check_sentences(error.sentences())
                continue
            if number % 10 == 0:
                for end in ("", "-wal", "-shm"):
                    book_path.with_name(book_path.name + end).unlink(missing_ok=True)
                with contextlib.closing(Book(book_path)) as book:
                    try:
                        take_in(book, found, engine, None, "now")
                    except BookError as error:
                        check_sentences([str(error)])
                        assert not book.lines()
                    assert not book.check(), book.check()
            return "taken"
        return "refused"


def _person(name: str) -> "Person":
    from true_compass.book.job import Person

    return Person(f"p-{name}"[:40], name)


ON_FILES: "dict[str, type[Attack]]" = {
    "actions": Actions,
    "lessons": Lessons,
    "results": Results,
    "damaged": Damaged,
    "tables": Tables,
}
