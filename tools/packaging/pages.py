"""The manual page and shell completion, made from the command line's own help.

Runs in the packaging environment:  pages.py FOLDER
"""

import argparse
import sys
from pathlib import Path
from typing import Any, Final

import shtab
from argparse_manpage.manpage import Manpage

from true_compass import entry
from true_compass.app import draw, printing
from true_compass.cli import main as cli
from true_compass.cli.common import PROGRAM
from true_compass.version import VERSION

SHELLS: Final = {
    "bash": "share/bash-completion/completions/true-compass",
    "zsh": "share/zsh/site-functions/_true-compass",
}
FILES: Final = """
.SH FILES
.TP
.I ~/.config/true-compass
settings
.TP
.I ~/.local/share/true-compass
the book and the record of answers
.TP
.I ~/.local/state/true-compass
drafts, ticks, runs at the bench, the log and reports of faults
.SH CARE
The maker's manual, local rules and qualified people come before what this program says.
"""


def _children(parser: argparse.ArgumentParser) -> Any:
    """The sub-commands of a parser, as argparse keeps them."""
    return next(
        action for action in parser._actions if isinstance(action, argparse._SubParsersAction)
    )


def whole_parser() -> argparse.ArgumentParser:
    """One parser for window and commands: each command keeps a parser of its own otherwise."""
    parser = entry.window_parser()
    commands = parser.add_subparsers(metavar="COMMAND", title="commands without a window")
    known = _children(cli.whole_parser())
    helps = {action.dest: action.help for action in known._choices_actions}
    found = {name: (child, helps.get(name)) for name, child in known.choices.items()}
    for name, child in draw.PARSERS.items():
        made = child()
        found[name] = (made, (made.description or "").splitlines()[0])
    paper = printing.whole_parser()
    found["paper"] = (paper, (paper.description or "").splitlines()[0])
    for name, (child, words) in found.items():
        commands.add_parser(name, help=words or child.description or name, add_help=False)
        child.prog = f"{PROGRAM} {name}"
        commands._name_parser_map[name] = child
    return parser


def man_page() -> str:
    """The manual page, section 1."""
    parser = whole_parser()
    page = Manpage(parser, format="pretty")
    page.source = f"True Compass {VERSION}"
    page.manual = "True Compass"
    page.section = 1
    page.description = "teach the four-stroke cycle and valve adjustment on any engine"
    return f"{page}{FILES}"


def write_all(folder: Path) -> None:
    """Write the page and the completions below a folder, where a system looks for them."""
    page = folder / "share" / "man" / "man1" / "true-compass.1"
    page.parent.mkdir(parents=True, exist_ok=True)
    page.write_text(man_page(), encoding="utf-8")
    for shell, name in SHELLS.items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(shtab.complete(whole_parser(), shell=shell), encoding="utf-8")


if __name__ == "__main__":
    write_all(Path(sys.argv[1]))
