"""Qt's hands for tests. Its type stubs leave out that every method is static."""

from typing import Any

from PyQt6 import QtTest

QTest: Any = QtTest.QTest
