"""Build the wheel, install it with its own dependencies in a clean environment outside the checkout, and use it.

    python tools/try_wheel.py                 # makes and removes a folder of some 900 MB
    python tools/try_wheel.py --python python3.12

What is run: new, render, deliver with M4A, audit, and the window offscreen. Needs a package index (or `--find-links`).
"""

import argparse
import os
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
_WINDOW = """
from PySide6.QtCore import QTimer
from nafas.desk.application import application
from nafas.desk.window import MainWindow
app = application()
window = MainWindow()
window.show()
QTimer.singleShot(1500, app.quit)
app.exec()
print("window", window.width(), window.height())
"""


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--python", default=sys.executable, help="the interpreter of the clean environment")
    options = parser.parse_args()
    with tempfile.TemporaryDirectory(prefix="nafas-wheel-") as name:
        folder = Path(name)
        environment = {
            key: value for key, value in os.environ.items() if not key.startswith(("PYTHON", "NAFAS", "VIRTUAL"))
        }
        environment |= {"HOME": name, "QT_QPA_PLATFORM": "offscreen", "NAFAS_SILENT": "1"}

        def run(*command: object, may: tuple[int, ...] = (0,)) -> str:
            print("$", *command, flush=True)
            done = subprocess.run(
                [str(each) for each in command], cwd=folder, env=environment, capture_output=True, text=True
            )
            if done.returncode not in may:
                raise SystemExit(f"{done.stdout}\n{done.stderr}\nfailed with {done.returncode}")
            return done.stdout

        run(options.python, "-m", "pip", "wheel", "-q", "--no-deps", "-w", folder / "dist", ROOT)
        (wheel,) = (folder / "dist").glob("*.whl")
        run(options.python, "-m", "venv", folder / "clean")
        python, nafas = folder / "clean" / "bin" / "python", folder / "clean" / "bin" / "nafas"
        run(python, "-m", "pip", "install", "-q", "--disable-pip-version-check", wheel)
        print(wheel.name, f"{wheel.stat().st_size / 1e6:.1f} MB")
        print(run(python, "-c", "from nafas import native; print('compiled loops:', native.available())").strip())
        run(nafas, "new", "4-6 x3", "-o", "a.nafas", "--title", "Berth")
        print(run(nafas, "render", "a.nafas", "-o", "a.flac", "-o", "a.mp3").splitlines()[0])
        print(run(nafas, "deliver", "a.nafas", "-o", "out", "--as", "m4a", "--with", "srt", "--anyway").splitlines()[0])
        print(
            run(nafas, "audit", "a.flac", "--for", "a.nafas", "--no-talk", "--pdf", "a.pdf", may=(0, 6)).splitlines()[0]
        )
        print(run(python, "-c", _WINDOW).strip())
    return 0


if __name__ == "__main__":
    sys.exit(main())
