"""The picture of the house: rooms as boxes, imports as lines, made from the imports themselves.

python tools/house.py            # writes docs/house.svg
python tools/house.py --check    # exit 1 where docs/house.svg is not what the imports are
"""

import ast
import sys
import tomllib
from collections import Counter
from html import escape
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
SOURCE, PICTURE = ROOT / "src" / "nafas", ROOT / "docs" / "house.svg"
SMALL = ("tables", "errors", "interruption", "bounded_cache", "filters", "plain_text", "files", "log")
"""Single files that nearly everything uses: drawn as one box."""
SHELVES = (
    ("faces", ("demo", "cli", "desk")),
    ("tasks", ("tasks",)),
    ("from what is made", ("drawing", "series", "exchange", "rehearsal", "score")),
    ("judging and proposing", ("review", "suggest")),
    ("sound and voice", ("sound", "voice")),
    ("time and record", ("timing", "library", "ledger", "integration")),
    ("what is written", ("script", "languages", "handbook")),
    ("small tools", ("parallel", "state", "audio_files", "native", "small")),
)
WIDE, HIGH, GAP, LEFT, TOP, STEP = 132, 46, 16, 190, 30, 92


def room_of(path: Path) -> str:
    name = path.relative_to(SOURCE).parts[0].removesuffix(".py")
    return "small" if name in SMALL or name == "__init__" else name


def imports() -> tuple[Counter[tuple[str, str]], Counter[str]]:
    """Imports from room to room, and lines of each room."""
    found: Counter[tuple[str, str]] = Counter()
    lines: Counter[str] = Counter()
    for path in sorted(SOURCE.rglob("*.py")):
        if path.name == "__main__.py" and path.parent == SOURCE:
            continue
        room, text = room_of(path), path.read_text(encoding="utf-8")
        lines[room] += text.count("\n")
        for node in ast.walk(ast.parse(text)):
            modules = [node.module] if isinstance(node, ast.ImportFrom) and node.module else []
            modules += [alias.name for alias in node.names] if isinstance(node, ast.Import) else []
            for module in modules:
                parts = module.split(".")
                if parts[0] == "nafas" and len(parts) > 1:
                    other = "small" if parts[1] in SMALL else parts[1]
                    if other != room and not other.startswith("_"):
                        found[room, other] += 1
    return found, lines


def picture() -> str:
    arrows, lines = imports()
    places: dict[str, tuple[float, float]] = {}
    parts: list[str] = []
    for row, (title, rooms) in enumerate(SHELVES):
        y = TOP + row * STEP
        parts.append(f'<text x="14" y="{y + HIGH / 2 + 4}" class="shelf">{escape(title)}</text>')
        for column, room in enumerate(rooms):
            places[room] = (LEFT + column * (WIDE + GAP), y)
    missing = set(lines) - set(places)
    if missing:
        raise SystemExit(f"rooms without a shelf in tools/house.py: {', '.join(sorted(missing))}")
    rows = {room: row for row, (_, rooms) in enumerate(SHELVES) for room in rooms}
    for (room, other), number in sorted(arrows.items()):
        if other == "small" or rows[other] - rows[room] > 2:  # nearly everything uses these; far ones only cross out
            continue
        (x1, y1), (x2, y2) = places[room], places[other]
        level = rows[room] == rows[other]
        start = (x1 + WIDE / 2, y1 + HIGH) if not level else (x1 + (WIDE if x2 > x1 else 0), y1 + HIGH / 2)
        end = (x2 + WIDE / 2, y2) if not level else (x2 + (0 if x2 > x1 else WIDE), y2 + HIGH / 2)
        width = min(4.0, 0.6 + number / 30)
        parts.append(
            f'<line x1="{start[0]:.0f}" y1="{start[1]:.0f}" x2="{end[0]:.0f}" y2="{end[1]:.0f}" '
            f'stroke-width="{width:.1f}"><title>{room} uses {other}: {number} imports</title></line>'
        )
    for room, (x, y) in places.items():
        parts.append(f'<rect x="{x}" y="{y}" width="{WIDE}" height="{HIGH}" rx="6"/>')
        parts.append(f'<text x="{x + WIDE / 2}" y="{y + 20}" class="room">{room}</text>')
        parts.append(f'<text x="{x + WIDE / 2}" y="{y + 36}" class="lines">{lines[room]:,} lines</text>')
    wide, high = LEFT + 5 * (WIDE + GAP) + 10, TOP + len(SHELVES) * STEP
    style = (
        "svg{font:13px sans-serif;background:#fbf7ee}rect{fill:#f1eadd;stroke:#6a6055}line{stroke:#1b5e63;opacity:.45}"
        ".room{font-weight:600;text-anchor:middle;fill:#2a2520}.lines{font-size:11px;text-anchor:middle;fill:#6a6055}"
        ".shelf{fill:#6a6055}"
    )
    body = "\n".join(parts)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide}" height="{high}" viewBox="0 0 {wide} {high}">\n'
        f"<style>{style}</style>\n{body}\n</svg>\n"
    )


def check() -> list[str]:
    """What of the picture is not as the imports are: shelves that are used upwards."""
    contract = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["importlinter"]["contracts"][0]["layers"]
    order = {room: number for number, room in enumerate(contract)}
    shelves = [room for _, rooms in SHELVES for room in rooms if room != "small"]
    return [f"{room} has no place in the contract" for room in shelves if room not in order]


def main() -> int:
    made = picture()
    if "--check" in sys.argv:
        faults = check()
        if not PICTURE.exists() or _shape(PICTURE.read_text()) != _shape(made):
            faults.append("docs/house.svg is old: run python tools/house.py")
        print("\n".join(faults), end="\n" if faults else "")
        return bool(faults)
    PICTURE.write_text(made)
    return 0


def _shape(text: str) -> list[str]:
    """The picture without its numbers of lines, which change with every edit."""
    return [line for line in text.splitlines() if 'class="lines"' not in line and "<line" not in line]


if __name__ == "__main__":
    sys.exit(main())
