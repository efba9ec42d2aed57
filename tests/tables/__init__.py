"""Published and trade check values, one row a fact with its source."""

import csv
from pathlib import Path


def rows(name: str) -> list[dict[str, str]]:
    """The rows of a table by its name."""
    with (Path(__file__).parent / f"{name}.csv").open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))
