"""Draw the icons in their sizes from the SVGs: python tools/icons.py. The PNGs are kept: nothing draws them later."""

import os
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QGuiApplication, QImage, QPainter
from PySide6.QtSvg import QSvgRenderer

from nafas.integration.desktop_files import DATA, ICONS, SIZES, SMALL


def draw(svg: Path, size: int) -> QImage:
    """An icon of so many pixels each way."""
    image = QImage(size, size, QImage.Format.Format_ARGB32)
    image.fill(Qt.GlobalColor.transparent)
    brush = QPainter(image)
    brush.setRenderHint(QPainter.RenderHint.Antialiasing)
    QSvgRenderer(str(svg)).render(brush, QRectF(0, 0, size, size))
    brush.end()
    return image


if __name__ == "__main__":
    application = QGuiApplication([])
    for name in ICONS:
        for size in SIZES:
            small = "-small" if size <= SMALL else ""
            draw(DATA / f"{name}{small}.svg", size).save(str(DATA / f"{name}-{size}.png"))
