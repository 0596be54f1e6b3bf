"""Say which system libraries Qt's parts and sound cannot find here, or which packages would bring them.

Without arguments: prints each missing library and exits 1 if there is one.
With --packages: prints the Debian/Ubuntu packages that carry everything Qt may ask for.
"""

import ctypes.util
import subprocess
import sys
from pathlib import Path

PACKAGES = """
libegl1 libgl1 libopengl0 libglib2.0-0 libdbus-1-3 libfontconfig1 libfreetype6 libx11-6
libx11-xcb1 libxkbcommon0 libxkbcommon-x11-0 libxcb1 libxcb-cursor0 libxcb-icccm4 libxcb-image0
libxcb-keysyms1 libxcb-randr0 libxcb-render0 libxcb-render-util0 libxcb-shape0 libxcb-shm0
libportaudio2 libxcb-sync1 libxcb-xfixes0 libxcb-xkb1 libxcb-util1 libwayland-client0 libwayland-cursor0
"""

PARTS = (
    "QtCore.abi3.so",
    "QtGui.abi3.so",
    "QtWidgets.abi3.so",
    "Qt/plugins/platforms/libqxcb.so",
    "Qt/plugins/platforms/libqoffscreen.so",
)


def missing() -> list[str]:
    import PySide6

    home = Path(PySide6.__file__).parent
    lines: list[str] = []
    for part in PARTS:
        told = subprocess.run(["ldd", str(home / part)], capture_output=True, text=True, check=False).stdout
        lines += [f"{part}: {line.split()[0]}" for line in told.splitlines() if "not found" in line]
    if ctypes.util.find_library("portaudio") is None:
        lines.append("sounddevice: libportaudio.so.2")
    return lines


if __name__ == "__main__":
    if "--packages" in sys.argv:
        print(" ".join(PACKAGES.split()))
        raise SystemExit(0)
    found = missing()
    print("\n".join(found))
    raise SystemExit(bool(found))
