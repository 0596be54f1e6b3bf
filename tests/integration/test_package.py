"""What a wheel asks for is what the program imports."""

import ast
import re
import sys
import tomllib
from importlib.metadata import packages_distributions
from pathlib import Path

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src" / "nafas"


def plain(name):
    return re.sub(r"[-_.]+", "-", name).lower()


def asked():
    lines = (ROOT / "requirements" / "run.in").read_text().splitlines()
    return {plain(re.split(r"[<>=!\s]", line)[0]) for line in lines if line and not line.startswith("#")}


def imported():
    """Top-level names that any module imports, wherever in it, and where."""
    found = {}
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            names = [each.name for each in node.names] if isinstance(node, ast.Import) else []
            if isinstance(node, ast.ImportFrom) and not node.level:
                names = [node.module]
            for name in names:
                found.setdefault(name.partition(".")[0], path.relative_to(SOURCE))
    return {name: path for name, path in found.items() if name not in sys.stdlib_module_names and name != "nafas"}


def test_every_package_that_is_imported_is_asked_for_by_the_wheel_and_pinned_by_the_lock():
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())
    assert project["project"]["dynamic"] == ["dependencies"]
    assert project["tool"]["setuptools"]["dynamic"]["dependencies"] == {"file": ["requirements/run.in"]}
    distributions, wanted = packages_distributions(), asked()
    lock = {
        plain(line.split("==")[0])
        for line in (ROOT / "requirements" / "run.lock").read_text().splitlines()
        if "==" in line
    }
    # What comes with what is asked for.
    brings = {"shiboken6": "pyside6-essentials", "onnxruntime": "piper-tts", "pydantic_core": "pydantic"}
    for name, path in imported().items():
        owners = {plain(owner) for owner in distributions[name]} | {brings.get(name, "")}
        assert owners & wanted, f"{path} imports {name}, which requirements/run.in does not name"
    assert wanted <= lock
