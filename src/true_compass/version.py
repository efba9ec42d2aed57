"""The version of the program, in its one place; the package is built with it."""

from typing import Final

VERSION: Final = "1.0.0"
