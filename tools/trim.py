"""Take out of a folder of packages what Nafas never asks for, and say how much that was:

    python tools/trim.py FOLDER                 for a package that is handed out
    python tools/trim.py FOLDER --environment   for .venv: what tests and builds need stays

What goes: tests of packages, typing stubs, sources of C, the parts of Qt for QML, Quick, Designer and translators, and
what the narrator has for Hebrew and Arabic. Licences and metadata stay. What is left still does all that the program
did: the tests run in a trimmed environment, and tools/make_deb.sh runs the program afterwards.
"""

import shutil
import sys
from pathlib import Path

PATTERNS = (
    # Qt: widgets alone are used. Of packages: their own tests, and what C is built with.
    "PySide6/Qt/qml", "PySide6/Qt/lib/libQt6*Qml*", "PySide6/Qt/lib/libQt6*Quick*",
    "PySide6/Qt/lib/libQt6Designer*", "PySide6/Qt/lib/libQt6Labs*", "PySide6/Qt/lib/libQt6Help*",
    "PySide6/Qt/lib/libQt6UiTools*", "PySide6/Qt/lib/libQt6Test*", "PySide6/Qt/plugins/designer",
    "PySide6/Qt/plugins/qmltooling", "PySide6/Qt/plugins/qmllint", "PySide6/Qt/plugins/qmlls",
    "PySide6/Qt/plugins/sqldrivers", "PySide6/Qt/translations", "PySide6/Qt/metatypes", "PySide6/Qt/libexec",
    "PySide6/QtQml*", "PySide6/QtQuick*", "PySide6/QtDesigner*", "PySide6/QtHelp*", "PySide6/QtUiTools*",
    "PySide6/QtTest*", "PySide6/libpyside6qml*", "PySide6/QtSql*", "PySide6/QtXml*", "PySide6/QtConcurrent*",
    "PySide6/assistant*", "PySide6/designer*", "PySide6/linguist*", "PySide6/lrelease", "PySide6/lupdate",
    "PySide6/qml*", "PySide6/svgtoqml", "PySide6/balsam*", "PySide6/qsb", "PySide6/uic", "PySide6/rcc",
    "PySide6/doc", "PySide6/glue", "PySide6/include", "PySide6/scripts", "PySide6/typesystems", "PySide6/examples",
    "PySide6/*.pyi", "shiboken6/*.pyi", "*/tests", "*/*/tests", "*/*/*/tests", "numpy/_core/include",
    "numpy/random/_examples", "onnx/**/*.h", "onnx/**/*.proto", "onnx/backend/test", "setuptools",
    "_distutils_hack", "distutils-precedence.pth", "scipy/**/*.pxd", "numpy/**/*.pxd", "**/__pycache__",
    "piper/hebrew", "piper/tashkeel/*.onnx*",
)  # fmt: skip
KEPT = ("numpy/testing", "hypothesis")
BUILT_WITH = ("setuptools", "_distutils_hack", "distutils-precedence.pth")
TESTED_WITH = ("PySide6/QtTest", "PySide6/Qt/lib/libQt6Test")


def trim(folder: Path, environment: bool = False) -> int:
    """Remove it; bytes that are gone. Of an environment stays what tests, types and builds need."""
    kept = (*KEPT, *BUILT_WITH, *TESTED_WITH) if environment else KEPT
    gone = 0
    for pattern in PATTERNS:
        for path in sorted(folder.glob(pattern)):
            inside = path.relative_to(folder).as_posix()
            if not path.exists() or inside.startswith(kept) or (environment and path.suffix == ".pyi"):
                continue
            gone += sum(each.stat().st_size for each in path.rglob("*") if each.is_file()) if path.is_dir() else 0
            if path.is_dir():
                shutil.rmtree(path)
            else:
                gone += path.stat().st_size
                path.unlink()
    return gone


if __name__ == "__main__":
    root = Path(sys.argv[1])
    print(f"{trim(root, sys.argv[2:] == ['--environment']) / 1e6:.0f} MB taken out of {root}")
