"""What the pages promise a newcomer: commands that run, links that lead somewhere, true counts."""

import re
import shlex
from pathlib import Path

import pytest
from tools.shots import SHOTS

from tests.lessons.made import answers, person, result_text
from true_compass.app.registry import WORKSPACES
from true_compass.app.window.glossary import CODES
from true_compass.cli.common import COMMANDS, PAINTING
from true_compass.core.adjusting.schools import SCHOOLS
from true_compass.entry import main
from true_compass.files.course import shipped_lesson
from true_compass.files.rigs import rig_names

ROOT = Path(__file__).resolve().parents[1]
README = (ROOT / "README.md").read_text(encoding="utf-8")
PAGES = [ROOT / "README.md", ROOT / "CONTRIBUTING.md", *sorted((ROOT / "docs").glob("*.md"))]
EXAMPLES = re.findall(r"^\.venv/bin/true-compass (.+?)(?:\s+#.*)?$", README, re.MULTILINE)


@pytest.mark.parametrize("line", EXAMPLES)
def test_every_command_of_the_readme_runs(
    line: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.chdir(tmp_path)
    words = shlex.split(line.partition(" > ")[0])
    if words[0] == "mark":
        lesson = shipped_lesson("four-strokes")
        given = answers(lesson, person(1, "Ines"))
        text = result_text(lesson, person(1, "Ines"), given)
        (tmp_path / words[1]).write_text(text, encoding="utf-8")
    assert main(words) == 0
    assert capsys.readouterr().out
    if "-o" in words:
        assert (tmp_path / words[words.index("-o") + 1]).stat().st_size > 300


def test_the_readme_shows_each_command() -> None:
    assert {line.split()[0] for line in EXAMPLES} == {*COMMANDS, *PAINTING}
    assert f"one of the {len(rig_names())} demo rigs" in README


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_links_lead_somewhere(page: Path) -> None:
    links = re.findall(r"\]\(([^)#]+)[^)]*\)", page.read_text(encoding="utf-8"))
    missing = [
        link for link in links if not link.startswith("http") and not (page.parent / link).exists()
    ]
    assert missing == []


def test_every_picture_is_taken_by_one_command_and_shown_in_the_gallery() -> None:
    taken = {f"{shot.name}.png" for shot in SHOTS}
    kept = {path.name for path in (ROOT / "docs" / "screenshots").iterdir()}
    gallery = (ROOT / "docs" / "gallery.md").read_text(encoding="utf-8")
    assert taken == kept == set(re.findall(r"screenshots/([\w-]+\.png)", gallery))
    assert len(re.findall(r"docs/screenshots/([\w-]+\.png)", README)) == 3
    assert len(kept) < 20


def test_make_and_its_list_agree() -> None:
    makefile = (ROOT / "Makefile").read_text(encoding="utf-8")
    (targets,) = re.findall(r"^\.PHONY: (.+)$", makefile, re.MULTILINE)
    told = set(re.findall(r'"make (\w+)', makefile))
    assert told == set(targets.split()) - {"help", "clean"}
    assert all(f"make {target}" in README for target in told)


def test_architecture_names_every_room_and_workspace() -> None:
    page = (ROOT / "docs" / "architecture.md").read_text(encoding="utf-8")
    rooms = [path.name for path in (ROOT / "src" / "true_compass").iterdir() if path.is_dir()]
    assert [room for room in rooms if f"{room}/" not in page and room[0] != "_"] == []
    assert all(f"**{entry.word}**" in README for entry in WORKSPACES if entry.word != "Watch")


def test_terms_that_the_screens_use_are_explained_on_the_help_page() -> None:
    told = {left for left, _ in CODES}
    assert {"Margin", "Companion", "Ramp", "On, back", "Thou"} <= told
    # No code of the trade stands alone in a school's name.
    assert not [school.name for school in SCHOOLS if re.search(r"\b[A-Z]{2,}\b", school.name)]
