"""Make docs/screenshots/ anew from the demo: python tools/screenshots.py [FOLDER]. Needs no monitor."""

import os
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["NAFAS_SILENT"] = "1"
os.environ["NAFAS_STATE"] = tempfile.mkdtemp()
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()

from PySide6.QtWidgets import QWidget

from nafas.demo import SESSION
from nafas.desk.app import application
from nafas.desk.score import Chosen
from nafas.desk.window import MainWindow


def settle(seconds: float = 0.3) -> None:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        application().processEvents()
        time.sleep(0.01)


def take(widget: QWidget, folder: Path, name: str) -> None:
    settle()
    widget.grab().save(str(folder / f"{name}.png"))


def main(folder: Path) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    app = application()
    window = MainWindow()
    window.show()
    window.document.open(SESSION, as_copy=True)
    while window.preparation.mix is None or window.preparation.mix.cast.timeline.session is not window.document.session:
        settle(0.1)
    window.player.seek(29.0)
    take(window, folder, "score-talk")
    window.choose(Chosen(6, 3, 2))
    window.player.seek(float(window.preparation.timeline.blocks[6].start) + 33.3)
    take(window, folder, "score-set")
    window.menus.night.setChecked(True)
    take(window, folder, "score-night")
    window.menus.night.setChecked(False)
    with tempfile.TemporaryDirectory() as made:
        os.environ["HOME"] = made
        window.render()
        dialog = window.render_dialog
        assert dialog is not None
        dialog.target.setText("between-crossings.flac")
        here = Path.cwd()
        os.chdir(made)
        dialog.begin()
        while dialog.running:
            settle(0.1)
        os.chdir(here)
        take(dialog, folder, "render")
    app.quit()


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else Path(__file__).parents[1] / "docs" / "screenshots")
    os._exit(0)
