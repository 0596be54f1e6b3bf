"""How long a frame of the Rehearse view takes to draw, against the sixtieth of a second that there is.

Off the screen, by the raster engine: a screen adds its own. Ratios in one run: frame time over 1/60 s.

Usage: QT_QPA_PLATFORM=offscreen python bench/guide.py
"""

import os
import time

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PySide6.QtGui import QFontMetricsF, QPainter, QPixmap

from nafas.demo import SESSION
from nafas.desk.application import application
from nafas.drawing.guide.painter import GuidePainter
from nafas.drawing.page.lettering import opening_width, wrapped
from nafas.drawing.theme import NIGHT, font
from nafas.rehearsal.guide import Guide
from nafas.score.layout import lay_out
from nafas.script import Session, load_session, read_block
from nafas.timing import compile_session, paced

app = application()
metrics = QFontMetricsF(font(11.5))
long_set = Session(blocks=(read_block("4-4-6-2 x500", "s"),))
for name, session in (("demo", load_session(SESSION)), ("500 rounds", long_set)):
    timeline = compile_session(session, paced())
    layout = lay_out(timeline, None, 760, lambda text, width: wrapped(text, width, metrics), measure=opening_width)
    guide = Guide(timeline, layout)
    for width, height in ((744, 560), (1920, 1080)):
        painter, picture = GuidePainter(guide, width, height, NIGHT), QPixmap(width, height)
        taken = []
        for frame in range(900):
            began = time.perf_counter()
            brush = QPainter(picture)
            painter.paint(brush, guide.at(60 + frame / 30))
            brush.end()
            taken.append(60 * (time.perf_counter() - began))
        middle, worst = np.median(taken), np.quantile(taken, 0.99)
        shares = f"middle {middle:.0%}, 1 in 100 {worst:.0%}"
        print(f"{name:12} {width} x {height}, share of a frame's time: {shares}")
os._exit(0)
