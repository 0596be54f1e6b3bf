"""What a file is made of: a sum over the session's version, its takes, its sounds and the program."""

import hashlib
from pathlib import Path

from nafas import __version__
from nafas.files import file_digest
from nafas.ledger.entries import version_of
from nafas.script.model.assets import Asset, assets_of
from nafas.script.model.session import Session
from nafas.state.permissions import asset_path
from nafas.timing.compile import compile_session, paced
from nafas.voice.delivery import spoken_lines
from nafas.voice.takebook.book import TakeBook, line_key


class MadeOf:
    """Such sums, for many sessions that share their files: each file is read once."""

    def __init__(self) -> None:
        self._files: dict[Path, str] = {}
        self._books: dict[Path, dict[tuple[str, str], list[str]]] = {}

    def __call__(self, session: Session, folder: Path) -> str:
        """The sum for a session whose relative paths start in `folder`.

        Another take of a line that it says changes it; a take of a line that it does not say changes nothing.

        Raises:
            InputError: something that it uses is missing, or cannot be read.
        """
        version, _ = version_of(session)
        parts = [__version__, version]
        for asset in assets_of(session):
            if asset in session.take_books:
                parts += self._takes(session, asset, asset_path(asset, folder))
            else:
                parts.append(self._file(asset_path(asset, folder)))
        return hashlib.sha256("\0".join(parts).encode()).hexdigest()

    def _file(self, path: Path) -> str:
        if path not in self._files:
            self._files[path] = file_digest(path)
        return self._files[path]

    def _takes(self, session: Session, book: Asset, folder: Path) -> list[str]:
        if folder not in self._books:
            known: dict[tuple[str, str], list[str]] = {}
            index = TakeBook(folder).index
            for take in index.takes:
                known.setdefault(line_key(take.text, take.language), []).append(take.model_dump_json())
            known["", ""] = [index.chain.model_dump_json()]
            self._books[folder] = known
        takes = self._books[folder]
        lines = spoken_lines(compile_session(session, paced()))
        voices = [(line.text, line.speaking or session.speaking) for line in lines]
        keys = sorted({line_key(text, each.language) for text, each in voices if each.voice.take_book == book})
        return [*takes["", ""], *(each for key in keys for each in takes.get(key, []))]
