"""Colours, typeface and sizes, read from `look/tokens.json`; the one place that knows them."""

import json
from dataclasses import dataclass, fields
from enum import IntEnum
from functools import cache
from importlib.resources import as_file, files
from typing import Any, Final

from PyQt6.QtCore import QByteArray
from PyQt6.QtGui import QColor, QFont, QFontDatabase

from true_compass.core.strokes import Stroke


@cache
def tokens() -> dict[str, Any]:
    """The design tokens as they stand in the file."""
    data: dict[str, Any] = json.loads(
        files("true_compass.look").joinpath("tokens.json").read_bytes()
    )
    return data


@dataclass(frozen=True, slots=True)
class Theme:
    """The colours of one theme. Names and uses are those of docs/design.md."""

    name: str
    paper: QColor
    sheet: QColor
    well: QColor
    ink: QColor
    ink2: QColor
    ink3: QColor
    line: QColor
    hair: QColor
    on_ink: QColor
    now: QColor
    on_now: QColor
    now_tint: QColor
    metal: QColor
    metal_dk: QColor
    power: QColor
    compression: QColor
    intake: QColor
    exhaust: QColor
    power_tint: QColor
    compression_tint: QColor
    intake_tint: QColor
    exhaust_tint: QColor
    on_power: QColor
    on_compression: QColor
    on_intake: QColor
    on_exhaust: QColor
    strip: QColor
    """Ground of the top strip: dark in both themes, so that the sheet below stands out."""
    now_on_strip: QColor

    def stroke(self, stroke: Stroke) -> QColor:
        """The strong colour of a stroke."""
        return _by_stroke(self.power, self.exhaust, self.intake, self.compression)[stroke]

    def tint(self, stroke: Stroke) -> QColor:
        """The ground that a stroke's texture lies on."""
        return _by_stroke(
            self.power_tint, self.exhaust_tint, self.intake_tint, self.compression_tint
        )[stroke]

    def on_stroke(self, stroke: Stroke) -> QColor:
        """Text on the strong colour of a stroke."""
        return _by_stroke(self.on_power, self.on_exhaust, self.on_intake, self.on_compression)[
            stroke
        ]

    @property
    def on_strip(self) -> QColor:
        """Text on the top strip."""
        return self.on_ink if self.name == "light" else self.ink


def _by_stroke(
    power: QColor, exhaust: QColor, intake: QColor, compression: QColor
) -> dict[Stroke, QColor]:
    return {
        Stroke.POWER: power,
        Stroke.EXHAUST: exhaust,
        Stroke.INTAKE: intake,
        Stroke.COMPRESSION: compression,
    }


@cache
def theme(name: str) -> Theme:
    """The `light` or `dark` theme."""
    colours = tokens()[name]
    names = [field.name for field in fields(Theme) if field.name != "name"]
    return Theme(name=name, **{key: QColor(colours[key]) for key in names})


class Weight(IntEnum):
    """The three weights of the typeface."""

    BODY = 400
    LABEL = 600
    STRONG = 700


NOTE: Final = 14
BODY: Final = 16
LABEL: Final = 17
LEAD: Final = 20
HEAD: Final = 27
READOUT: Final = 33
RING: Final = 40


@cache
def font(px: float, weight: Weight = Weight.BODY) -> QFont:
    """The typeface at a size in unscaled pixels."""
    made = QFont(tokens()["type"]["family"])
    made.setPixelSize(round(px))
    made.setWeight(QFont.Weight(int(weight)))
    made.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    return made


def load_fonts() -> None:
    """Make the shipped typeface known to Qt. Needs a running QGuiApplication."""
    folder = files("true_compass.look")
    for name in tokens()["type"]["files"]:
        with as_file(folder.joinpath(name)) as path:
            QFontDatabase.addApplicationFontFromData(QByteArray(path.read_bytes()))
