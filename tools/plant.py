"""Plant small faults in a copy of the source, one at a time, and see whether the tests of their room notice.

    python tools/plant.py script 20 --seed 1       # twenty faults in the room script
    python tools/plant.py all 5                    # five in every room

A fault is one of: a comparison turned, plus and minus swapped, a number one higher, `and` for `or`, `not` left out, an
argument's default changed, a text's word dropped, a statement left out. Where a fault cannot be noticed (a comment's
worth of code, a speed) it counts all the same: the share caught is a lower bound.
"""

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
SOURCE = ROOT / "src" / "nafas"
TESTS = {
    "cli": ["tests/test_cli.py", "tests/voice/test_takes_commands.py", "tests/test_cli_faults.py"],
    "drawing": ["tests/desk/test_look.py", "tests/desk/test_score_layout.py", "tests/desk/test_deliver_view.py"],
    "score": ["tests/desk/test_score_layout.py", "tests/desk/test_score_editing.py"],
    "tasks": ["tests/review/test_produce.py", "tests/review/test_queue.py", "tests/exchange", "tests/series"],
    "parallel": ["tests/series", "tests/sound/test_measures.py"],
    "languages": ["tests/script", "tests/timing"],
}
"""Where a room's tests do not stand in the folder of its name."""
_TURNED = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In,
}  # fmt: skip
_SWAPPED = {ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Add, ast.And: ast.Or, ast.Or: ast.And}


def faults(tree: ast.Module) -> Iterator[tuple[int, str, "ast.AST", str, object]]:
    """(line, what, node, field, new value) of every fault that can be planted."""
    for node in ast.walk(tree):
        line = getattr(node, "lineno", 0)
        if isinstance(node, ast.Compare) and type(node.ops[0]) in _TURNED:
            yield line, "comparison", node, "ops", [_TURNED[type(node.ops[0])](), *node.ops[1:]]
        elif isinstance(node, ast.BinOp | ast.BoolOp) and type(node.op) in _SWAPPED:
            yield line, "operator", node, "op", _SWAPPED[type(node.op)]()
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
            yield line, "not", node, "op", ast.UAdd()
        elif isinstance(node, ast.Constant) and type(node.value) in (int, float):
            yield line, "number", node, "value", node.value + 1
        elif isinstance(node, ast.Constant) and isinstance(node.value, bool):
            yield line, "truth", node, "value", not node.value
        elif isinstance(node, ast.FunctionDef):
            for place, statement in enumerate(node.body):
                if isinstance(statement, ast.Expr) and isinstance(statement.value, ast.Call) and len(node.body) > 1:
                    body = [*node.body[:place], *node.body[place + 1 :]]
                    yield statement.lineno, "statement", node, "body", body


def plant(room: str, number: int, seed: int) -> list[tuple[str, bool]]:
    """(where and what, whether it was caught) of so many faults in a room."""
    draw, results = random.Random(seed), []
    files = sorted((SOURCE / room).rglob("*.py")) if (SOURCE / room).is_dir() else [SOURCE / f"{room}.py"]
    files = [path for path in files if path.stat().st_size > 600]
    tests = TESTS.get(room, [f"tests/{room}"])
    with tempfile.TemporaryDirectory(prefix="plant-") as name:
        copy = Path(name) / "src"
        shutil.copytree(ROOT / "src", copy, ignore=shutil.ignore_patterns("__pycache__"))
        environment = {**os.environ, "PYTHONPATH": str(copy), "QT_QPA_PLATFORM": "offscreen"}
        for _ in range(number):
            path = draw.choice(files)
            text = path.read_text(encoding="utf-8")
            tree = ast.parse(text)
            if not list(faults(tree)):
                continue
            line, what, node, field, value = draw.choice(list(faults(tree)))
            setattr(node, field, value)
            target = copy / path.relative_to(ROOT / "src")
            target.write_text(ast.unparse(ast.fix_missing_locations(tree)), encoding="utf-8")
            command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider"]
            caught = False
            for asked in (["tests/kept"], ["-n", "2", *tests]):  # the quick ones first
                ended = subprocess.run([*command, *asked], cwd=ROOT, env=environment, capture_output=True, timeout=900)
                caught = ended.returncode != 0
                if caught:
                    break
            target.write_text(text, encoding="utf-8")
            where = f"{path.relative_to(SOURCE)}:{line} {what}"
            results.append((where, caught))
            print(f"{'caught' if caught else 'MISSED'}  {where}", flush=True)
    return results


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("room")
    parser.add_argument("number", type=int)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    every = sorted(path.name for path in SOURCE.iterdir() if (path / "__init__.py").exists())
    rooms = [room for room in every if room != "demo"] if options.room == "all" else [options.room]
    shares = []
    for room in rooms:
        results = plant(room, options.number, options.seed)
        shares.append(f"{room}: {sum(caught for _, caught in results)} of {len(results)} caught")
    print("\n".join(shares))
    return 0


if __name__ == "__main__":
    sys.exit(main())
