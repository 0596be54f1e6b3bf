"""Texts that people read keep to the word list (src/nafas/handbook/words.md)."""

import ast
import re
from pathlib import Path

import pytest

import nafas

ROOT = Path(nafas.__file__).parent
WORDS = Path(__file__).parents[1] / "src/nafas/handbook/words.md"
ROW = re.compile(r"^\| (?P<use>[^|]+?) \| (?P<instead>[^|]+?) \|", re.MULTILINE)
SPOKEN = ("library/", "demo/", "script/", "languages")  # read aloud or read from people, not by them


def banned():
    table = WORDS.read_text("utf-8").partition("\n## Used")[2].partition("\n## ")[0].partition("|---|---|\n")[2]
    rows = [row["instead"] for row in ROW.finditer(table)]
    return [phrase.strip() for row in rows for phrase in row.split(",") if phrase.strip()]


def texts(path):
    """(line, text) of every string of a module that is no docstring and has words in it."""
    tree = ast.parse(path.read_text("utf-8"))
    quoted = {
        id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
    }
    for node in ast.walk(tree):
        text = node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else ""
        if id(node) not in quoted and " " in text.strip():
            yield node.lineno, text


def test_the_word_list_names_what_is_not_used():
    assert len(banned()) >= 20 and "hand over" in banned()


@pytest.mark.parametrize("room", sorted(path.name for path in ROOT.iterdir() if path.is_dir() and path.name[0] != "_"))
def test_no_text_uses_a_word_that_is_not_used(room):
    found = []
    patterns = [(phrase, re.compile(rf"\b{re.escape(phrase)}\b", re.IGNORECASE)) for phrase in banned()]
    for path in sorted((ROOT / room).rglob("*.py")):
        name = path.relative_to(ROOT).as_posix()
        if name.startswith(SPOKEN) or name.endswith("command_words.py"):  # these are words that people search with
            continue
        found += [
            f"{name}:{line}: {phrase!r} in {text[:60]!r}"
            for line, text in texts(path)
            for phrase, pattern in patterns
            if pattern.search(text)
        ]
    assert found == []
