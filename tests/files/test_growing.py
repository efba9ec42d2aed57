"""A file of lines on a disk that is full, cut, taken away, or written by another window."""

import resource
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from true_compass.files.atomic import write_atomic
from true_compass.files.growing import GrowingFile, is_held


@contextmanager
def room_for(count: int) -> Iterator[None]:
    """The system itself writes no file beyond so many bytes: it writes what fits, then refuses."""
    soft, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
    resource.setrlimit(resource.RLIMIT_FSIZE, (count, hard))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, (soft, hard))


LINE = st.text(st.characters(exclude_categories=["Cs", "Cc"]), min_size=1, max_size=30)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(LINE, st.integers(0, 400)), min_size=1, max_size=12))
def test_at_any_moment_the_disk_holds_whole_lines_only(
    tmp_path_factory: pytest.TempPathFactory, steps: list[tuple[str, int]]
) -> None:
    path = tmp_path_factory.mktemp("grown") / "new" / "lines"
    file = GrowingFile(path)
    for line, room in steps:
        file.add(line)
        with room_for(room):
            try:
                file.write()
            except OSError:
                assert file.waiting
        told = path.read_bytes().decode("utf-8") if path.exists() else ""
        assert told == "".join(f"{one}\n" for one in file.lines[: len(file.lines) - file.waiting])
    file.write()
    assert path.read_bytes().decode("utf-8") == file.text()
    file.close()


def test_what_somebody_else_does_to_it_is_made_good(tmp_path: Path) -> None:
    path = tmp_path / "lines"
    file = GrowingFile(path, ["one"])
    file.write()
    for harm in (
        lambda: path.unlink(),
        lambda: path.write_text("on", encoding="utf-8"),
        lambda: write_atomic(path, "another\n"),
        lambda: path.write_bytes(path.read_bytes() + b"half a li"),
    ):
        harm()
        file.add("more")
        file.write()
        assert path.read_text(encoding="utf-8") == file.text()
    file.close()


def test_one_window_at_a_file(tmp_path: Path) -> None:
    path = tmp_path / "lines"
    file = GrowingFile(path, ["one", "two"])
    file.write()
    assert is_held(path)
    assert GrowingFile.gone_on_with(path, ["one", "two"]) is None
    file.close()
    assert not is_held(path)
    path.write_text("one\ntwo\nhal", encoding="utf-8")
    again = GrowingFile.gone_on_with(path, ["one", "two"])
    assert again is not None
    again.add("three")
    again.write()
    assert path.read_text(encoding="utf-8") == "one\ntwo\nthree\n"
    again.close()


def test_a_link_at_the_visible_name_is_replaced_and_never_written_through(tmp_path: Path) -> None:
    precious = tmp_path / "precious"
    precious.write_text("mine", encoding="utf-8")
    for target in (precious, tmp_path, tmp_path / "nothing", tmp_path / "link"):
        link = tmp_path / "link"
        link.unlink(missing_ok=True)
        link.symlink_to(target)
        write_atomic(link, "result", follow=False)
        assert not link.is_symlink()
        assert link.read_text(encoding="utf-8") == "result"
        assert precious.read_text(encoding="utf-8") == "mine"
