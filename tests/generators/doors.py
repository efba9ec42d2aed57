"""Walks through the doors of the window: every pair of workspaces, rigs and themes, with waits."""

from itertools import permutations
from random import Random

from PyQt6.QtWidgets import QAbstractButton

from tests.hand import Hand
from tests.qtest import QTest
from true_compass.app.registry import WORKSPACES
from true_compass.app.window.window import MainWindow
from true_compass.files.rigs import rig_names

WAITS_MS = (0, 0, 100, 1100, 3000)
PAIRS = list(permutations([entry.word for entry in WORKSPACES], 2))
STEP = 7
"""It has no factor in common with the number of pairs, so all of them come."""


def walk(window: MainWindow, random: Random, number: int) -> str:
    """Go to one workspace, to another, open a rig there, change the theme and come back."""
    one, other = PAIRS[number * STEP % len(PAIRS)]
    rig = random.choice(rig_names())

    def enter(word: str) -> None:
        buttons = window.findChildren(QAbstractButton)
        Hand(window).click(next(b for b in buttons if b.text() == word and b.isVisible()))
        QTest.qWait(random.choice(WAITS_MS))

    enter(one)
    enter(other)
    window.opener.open_rig(rig)
    QTest.qWait(random.choice(WAITS_MS))
    window.look.set_dark(not window.look.dark)
    enter(one)
    return f"{one}, {other}, {rig}"
