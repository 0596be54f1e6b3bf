"""A proof on paper: its verdict, its picture, and every sound in a table, as a PDF."""

from pathlib import Path

from PySide6.QtGui import QImage, QPainter

from nafas.drawing.paper.print_page import STYLE, print_page
from nafas.drawing.proof import paint
from nafas.drawing.theme import DAY
from nafas.review.proof import Proof
from nafas.review.proof.page import body
from nafas.review.proof.picture import picture

_PICTURE = '<p><img src="picture" width="640"></p>'
_SHARP = 3  # pixels a unit of the picture


def print_proof(proof: Proof, path: Path) -> None:
    """Write a proof as a PDF. Raises InputError."""
    drawn = picture(proof, 640)
    image = QImage(round(656 * _SHARP), round(drawn.height * _SHARP), QImage.Format.Format_RGB32)
    image.fill("white")
    painter = QPainter(image)
    painter.scale(_SHARP, _SHARP)
    paint(painter, drawn, DAY)
    painter.end()

    html = f"<html><head><style>{STYLE}</style></head><body>{body(proof, _PICTURE)}</body></html>"
    print_page(html, f"{proof.title}: proof", path, {"picture": image})
