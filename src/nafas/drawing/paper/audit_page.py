"""A recording that was put to the test, on paper: what is wrong, its rounds, and its talk, as a PDF."""

from dataclasses import replace
from pathlib import Path

from PySide6.QtGui import QImage, QPainter

from nafas.drawing.paper.print_page import STYLE, print_page
from nafas.drawing.rounds import RoundsDrawing
from nafas.drawing.theme import DAY
from nafas.review.audit.audit import Audit
from nafas.review.audit.page import body

_WIDTH, _SHARP = 860, 2
_ROUNDS = 24
"""Rounds of one picture: a page holds no more."""


def print_audit(audit: Audit, path: Path) -> None:
    """Write an audit as a PDF. Raises InputError."""
    faults = tuple(finding.at for finding in audit.findings)
    images: dict[str, QImage] = {}
    for number, one in enumerate(audit.sets, 1):
        for first in range(0, len(one.rounds), _ROUNDS):
            part = replace(one, rounds=one.rounds[first : first + _ROUNDS])
            drawing = RoundsDrawing((part,), faults, _WIDTH, DAY, number)
            image = QImage(_WIDTH * _SHARP, drawing.height * _SHARP, QImage.Format.Format_RGB32)
            image.fill("white")
            painter = QPainter(image)
            painter.scale(_SHARP, _SHARP)
            drawing.paint(painter)
            painter.end()
            images[f"set-{number}-{first}"] = image
    html = f"<html><head><style>{STYLE}</style></head><body>{body(audit, tuple(images))}</body></html>"
    print_page(html, f"{audit.path.name}: review", path, images)
