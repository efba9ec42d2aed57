"""The readings of a cam as a table: one line a reading, as it stood and what it means."""

import csv
from collections.abc import Iterable, Sequence
from dataclasses import replace
from io import StringIO
from pathlib import Path
from typing import Final

from true_compass.core.degreeing.found import degrees_of, found
from true_compass.core.degreeing.sheet import NosePair, Round, Setup, Sheet, TopPair
from true_compass.core.state import Rig
from true_compass.files.atomic import write_atomic
from true_compass.files.safe_cells import safe_cell

COLUMNS: Final = (
    "round",
    "cylinder",
    "what",
    "drop_mm",
    "side",
    "figure",
    "degrees",
    "unit",
    "counts",
    "note",
)

_Line = tuple[object, ...]


def table_text(rig: Rig, sheet: Sheet) -> str:
    """The table as CSV: comma between, point in numbers, a header first."""
    out = StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerows(map(_safe, _all_lines(rig, sheet)))
    return out.getvalue()


def _safe(cells: Iterable[object]) -> list[object]:
    return [safe_cell(cell) if isinstance(cell, str) else cell for cell in cells]


def _all_lines(rig: Rig, sheet: Sheet) -> Iterable[Sequence[object]]:
    yield COLUMNS
    setup = sheet.setup or Setup()
    wheel = f"wheel {setup.wheel.scale.value}, zero at {setup.wheel.zero.value}"
    for nth, one in enumerate(sheet.rounds, start=1):
        name = f"{nth} {one.after_step}".strip()
        for top in one.tops:
            yield from _top_lines(name, sheet.cylinder, top, wheel)
        yield from _nose_lines(rig, sheet, one, name, wheel)
    yield from _lobe_lines(sheet)
    yield from (("", "", name, "", "", text, "", "", "yes", "") for name, text in sheet.texts)


def _lobe_lines(sheet: Sheet) -> Iterable[_Line]:
    for lobe in sheet.lobes:
        for place, (nose, heel) in zip(("front", "middle", "rear"), lobe.places, strict=True):
            for what, value in (("over the nose", nose), ("heel", heel)):
                if value is not None:
                    cells = ("", lobe.cylinder, f"{lobe.kind.value} lobe", "", place, value)
                    yield (*cells, "", "mm", "yes", what)


def _top_lines(name: str, cylinder: int, top: TopPair, wheel: str) -> list[_Line]:
    lines: list[_Line] = []
    for side, figure, far in (
        ("before", top.before, top.before_far),
        ("after", top.after, top.after_far),
    ):
        if figure is not None:
            note = f"{wheel}, beyond zero" if far else wheel
            counts = "no" if top.void else "yes"
            signed = -figure if far else figure
            cells = (name, cylinder, "tdc", top.drop_mm, side, figure, signed)
            lines.append((*cells, "deg from zero", counts, note))
    return lines


def _nose_lines(rig: Rig, sheet: Sheet, one: Round, name: str, wheel: str) -> Iterable[_Line]:
    for nose in one.noses:
        own = replace(sheet, cylinder=nose.cylinder)
        correction = found(rig, own, one).correction_deg
        for pair in nose.pairs:
            for after in (False, True):
                figure = pair.after if after else pair.before
                if figure is None:
                    continue
                deg = degrees_of(rig, own, nose.kind, pair, after, correction)
                unit = "deg ATDC" if nose.kind.value == "intake" else "deg BTDC"
                side = "after" if after else "before"
                what = f"{nose.kind.value} nose"
                cells = (name, nose.cylinder, what, pair.drop_mm, side, figure, deg, unit)
                yield (*cells, "no" if pair.void else "yes", _note(pair, wheel))


def _note(pair: NosePair, wheel: str) -> str:
    parts = [wheel]
    if pair.falls is not None:
        parts.append("piston falls" if pair.falls else "piston rises")
    if pair.kept:
        parts.append("read again and kept")
    return ", ".join(parts)


def write_readings(rig: Rig, sheet: Sheet, path: Path) -> None:
    """Write the table. Raises `OSError`."""
    write_atomic(path, "\ufeff" + table_text(rig, sheet))
