"""Draw the program's icons: at every size as PNG, and once as SVG. `make icons` writes them anew.

The mark of the strip on its dark ground: a crank's circle with its axis, and the pointer that
stands on it. Small sizes have thicker lines, or the circle would be a haze.
"""

import os
from pathlib import Path
from typing import Final

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QGuiApplication, QImage, QPainter, QPen, QPolygonF
from PyQt6.QtSvg import QSvgGenerator

FOLDER: Final = Path(__file__).resolve().parents[2] / "packaging" / "icons"
NAME: Final = "true-compass"
SIZES: Final = (16, 22, 24, 32, 48, 64, 96, 128, 256, 512)
GROUND, RIM, POINTER = QColor("#1B1527"), QColor("#F6F4FB"), QColor("#FF5C9A")
WHOLE: Final = 128.0


def paint(p: QPainter, thick: float = 1.0) -> None:
    """The icon in a square of 128."""
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(GROUND)
    p.drawRoundedRect(QRectF(2, 2, 124, 124), 26, 26)
    middle = QPointF(64, 72)
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(RIM, 8.0 * thick))
    p.drawEllipse(middle, 36, 36)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(RIM)
    p.drawEllipse(middle, 8.0 * thick, 8.0 * thick)
    p.setBrush(POINTER)
    half = 22.0 * (0.5 + thick / 2)
    p.drawPolygon(QPolygonF([QPointF(64 - half, 14), QPointF(64 + half, 14), QPointF(64, 58)]))


def picture(size: int) -> QImage:
    """One size."""
    image = QImage(QSize(size, size), QImage.Format.Format_ARGB32)
    image.fill(Qt.GlobalColor.transparent)
    p = QPainter(image)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.scale(size / WHOLE, size / WHOLE)
    paint(p, 1.5 if size <= 24 else 1.2 if size <= 48 else 1.0)
    p.end()
    return image


def write_all(folder: Path = FOLDER) -> list[Path]:
    """Write every size and the SVG; where they are."""
    folder.mkdir(parents=True, exist_ok=True)
    written = []
    for size in SIZES:
        path = folder / f"{NAME}-{size}.png"
        picture(size).save(str(path), "PNG")
        written.append(path)
    made, path = QSvgGenerator(), folder / f"{NAME}.svg"
    made.setFileName(str(path))
    made.setSize(QSize(128, 128))
    made.setViewBox(QRectF(0, 0, WHOLE, WHOLE))
    made.setTitle("True Compass")
    p = QPainter(made)
    paint(p)
    p.end()
    return [*written, path]


if __name__ == "__main__":
    application = QGuiApplication([])
    for written_path in write_all():
        print(written_path)
