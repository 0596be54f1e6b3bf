"""What is new, from the changelog, and whether it has been looked at."""

from pathlib import Path

import nafas
from nafas.files import digest_of
from nafas.state.folder import read_names, write_names

_NAME = "news.json"
_FILE = Path(nafas.__file__).parent / "CHANGELOG.md"


def changelog() -> str:
    """The whole changelog, in Markdown; "" where it is not there."""
    try:
        return _FILE.read_text("utf-8")
    except OSError:
        return ""


def newest() -> str:
    """Its newest chapter: from the first heading of the second order to the next."""
    parts = changelog().split("\n## ")
    return f"## {parts[1].strip()}\n" if len(parts) > 1 else ""


def is_news() -> bool:
    """Whether the newest chapter is another than when it was looked at last. On a first start nothing is news."""
    seen = read_names(_NAME)
    if not seen:
        looked_at()
        return False
    return seen[0] != digest_of(newest().encode())


def looked_at() -> None:
    """Keep that the newest chapter has been looked at."""
    write_names(_NAME, [digest_of(newest().encode())])
