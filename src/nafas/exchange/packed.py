"""A packed session: one file with the script, the takes and sounds that it uses, and what made its master.

A zip file with "session.nafas", "takes/", "sounds/" and "manifest.json", which names every file with its size and its
sum (SHA-256). It is opened into a folder of its own: no name leaves it, nothing is larger than it says, every sum is
checked before anything is in its place.
"""

import hashlib
import json
import lzma
import os
import re
import shutil
import stat
import sys
import zipfile
import zlib
from collections.abc import Callable, Iterator
from importlib.metadata import version
from pathlib import Path, PurePosixPath
from typing import Any

from nafas.errors import InputError
from nafas.files import cut_bytes, part_path, real_path, reason, sweep_parts, writable
from nafas.script.file import load_session, session_text
from nafas.script.model.assets import Asset, assets_of, with_assets
from nafas.script.model.session import Session
from nafas.timing.timeline import Timeline
from nafas.voice.call_sheet import call_sheet
from nafas.voice.takebook.book import INDEX, TakeBook, line_key

ENDING = ".nafas-packed"
SCRIPT, MANIFEST = "session.nafas", "manifest.json"
MOST_FILES, MOST_BYTES = 20_000, 8_000_000_000
"""Files of a packed session, and bytes of all of them, that are opened."""
_BLOCK = 1 << 20
_UNSAFE = re.compile(r'[<>:"|?*\\/\x00-\x1f\x7f]')
_MOST_NAME = 120  # bytes of a name inside
_MANIFEST_BYTES = 16_000_000
_BROKEN = (
    zipfile.BadZipFile, zlib.error, lzma.LZMAError, RuntimeError, NotImplementedError, EOFError, UnicodeError,
    OverflowError,
)  # fmt: skip
"""What a damaged zip file makes its reader raise."""
Progress = Callable[[str, float], None]


def pack(timeline: Timeline, folder: Path, path: Path, progress: Progress = lambda stage, done: None) -> Path:
    """Pack a session.

    Args:
        timeline: of the session.
        folder: where its relative paths start.
        path: of the packed session; it appears whole or not at all.
        progress: called with a stage and 0.0 to 1.0; raises Cancelled to stop.

    Raises:
        InputError: something that it uses is missing, or it cannot be written.
        Cancelled: when `progress` does; nothing is left.
    """
    session = timeline.session
    files: dict[str, Path | bytes] = {}
    books = {book: f"takes-{n}" if n > 1 else "takes" for n, book in enumerate(session.take_books, 1)}
    for book, inside_ in books.items():
        _take_book(timeline, book, folder, inside_, files)
    names: dict[str, str] = {}

    def packed(asset: Asset) -> Asset:
        if asset in books:
            return Asset(path=books[asset])
        source = real_path(folder / asset.path)
        if str(source) not in names:
            if not source.is_file():
                raise InputError(str(source), "is missing", "choose it again in the session, then pack it")
            names[str(source)] = _free(f"sounds/{_plain_name(source.name)}", files)
            files[names[str(source)]] = source
        return asset.model_copy(update={"path": names[str(source)]})

    inside = with_assets(session, packed)
    files[SCRIPT] = session_text(inside).encode()
    target = writable(path)
    sweep_parts(target.parent)
    part = part_path(target)
    try:
        _write(part, files, session, progress)
        _see_that_it_opens(part)
        part.replace(target)
    except OSError as error:
        raise InputError(
            str(path), f"cannot be written ({reason(error)})", "free some space, or choose another"
        ) from None
    finally:
        part.unlink(missing_ok=True)
    return path


def _take_book(timeline: Timeline, asset: Asset, folder: Path, place: str, files: dict[str, Path | bytes]) -> None:
    """The takes of the lines that are said with a take book, and an index of them alone, in the folder `place`."""
    book = TakeBook(folder / asset.path)
    own = "" if asset == timeline.session.voice.take_book else asset.path
    keys = {line.key for line in call_sheet([timeline]) if line.book == own}
    takes = [take for take in book.index.takes if line_key(take.text, take.language) in keys]
    names: dict[str, str] = {}
    for file in dict.fromkeys(take.file for take in takes):
        inside = _free(f"{place}/{_plain_name(file)}", files)
        names[file], files[inside] = PurePosixPath(inside).name, book.folder / file
    renamed = tuple(take.model_copy(update={"file": names[take.file]}) for take in takes)
    index = book.index.model_copy(update={"takes": renamed})
    files[f"{place}/{INDEX}"] = index.model_dump_json(indent=1).encode()


def _free(name: str, taken: dict[str, Path | bytes]) -> str:
    inside, number = PurePosixPath(name), 2
    while str(inside) in taken:
        inside = PurePosixPath(name).with_stem(f"{PurePosixPath(name).stem}-{number}")
        number += 1
    return str(inside)


def _plain_name(name: str) -> str:
    """A name that every file system can hold, whatever the sound is called here."""
    stem, dot, ending = _UNSAFE.sub("-", name).rpartition(".")
    return f"{cut_bytes(stem or ending, _MOST_NAME)}{dot}{ending}" if stem else cut_bytes(ending, _MOST_NAME)


def _see_that_it_opens(part: Path) -> None:
    """Read a packed session as `unpack` would, every sum of it, without writing anything. Raises InputError."""
    with zipfile.ZipFile(part) as packed:
        for name, size, sha256 in _listed(packed, part):
            _one(packed, part, name, size, sha256, None)


def _write(part: Path, files: dict[str, Path | bytes], session: Session, progress: Progress) -> None:
    listed: list[dict[str, Any]] = []
    with zipfile.ZipFile(part, "w", zipfile.ZIP_STORED) as packed:
        for number, (name, source) in enumerate(sorted(files.items())):
            progress("packing", number / len(files))
            how = zipfile.ZIP_DEFLATED if name.endswith((".nafas", ".json")) else zipfile.ZIP_STORED
            info = zipfile.ZipInfo(name, (2020, 1, 1, 0, 0, 0))
            info.compress_type = how
            digest, size = hashlib.sha256(), 0
            with packed.open(info, "w", force_zip64=True) as target:
                for block in _blocks(source):
                    digest.update(block)
                    size += len(block)
                    target.write(block)
            listed.append({"name": name, "size": size, "sha256": digest.hexdigest()})
        made = {"nafas": version("nafas"), "python": sys.version.split()[0], "title": session.title}
        text = json.dumps({"format": 1, "made": made, "files": listed}, indent=1)
        packed.writestr(zipfile.ZipInfo(MANIFEST, (2020, 1, 1, 0, 0, 0)), text, zipfile.ZIP_DEFLATED)


def _blocks(source: Path | bytes) -> Iterator[bytes]:
    """What a file holds, piece by piece. Raises InputError."""
    if isinstance(source, bytes):
        yield source
        return
    try:
        with source.open("rb") as file:
            while block := file.read(_BLOCK):
                yield block
    except OSError as error:
        raise InputError(str(source), f"cannot be read ({reason(error)})", "fix it, then pack it") from None


def unpack(path: Path, folder: Path, progress: Progress = lambda stage, done: None) -> Path:
    """Open a packed session into a new folder; its script is returned.

    Args:
        path: of the packed session.
        folder: that must not be there yet; it appears whole or not at all.
        progress: called with a stage and 0.0 to 1.0; raises Cancelled to stop.

    Raises:
        InputError: it is no packed session, is damaged, would leave its folder, or cannot be written.
        Cancelled: when `progress` does; nothing is left.
    """
    if folder.exists() or folder.is_symlink():
        raise InputError(str(folder), "is there already", "choose a new name for the folder")
    folder.parent.mkdir(parents=True, exist_ok=True)
    sweep_parts(folder.parent)
    where = part_path(folder)
    try:
        where.mkdir(mode=0o700)
        with zipfile.ZipFile(path) as packed:
            listed = _listed(packed, path)
            for number, (name, size, sha256) in enumerate(listed):
                progress("unpacking", number / len(listed))
                _one(packed, path, name, size, sha256, where)
        session = load_session(where / SCRIPT)
        for asset in assets_of(session):
            if not real_path(where / asset.path).is_relative_to(real_path(where)):
                raise _damaged(path, f"its script names {asset.path!r}, outside its folder")
        where.chmod(0o755)
        where.replace(folder)
    except _BROKEN as error:
        raise _damaged(path, str(error)[:120]) from None
    except OSError as error:
        raise InputError(
            str(path), f"cannot be opened ({reason(error)})", "check the file and the free space"
        ) from None
    finally:
        shutil.rmtree(where, ignore_errors=True)
    return folder / SCRIPT


def _damaged(path: Path, why: str) -> InputError:
    return InputError(str(path), f"is not a complete packed session ({why})", "copy it again from where it was made")


def _listed(packed: zipfile.ZipFile, path: Path) -> list[tuple[str, int, str]]:
    """(name, size, sum) of what is in it, by its manifest; nothing else may be."""
    infos = {info.filename: info for info in packed.infolist()}
    manifest = infos.pop(MANIFEST, None)
    if manifest is None or manifest.file_size > _MANIFEST_BYTES:
        raise _damaged(path, "without a list of files")
    try:
        raw = json.loads(packed.read(manifest))
        listed = [(str(each["name"]), int(each["size"]), str(each["sha256"])) for each in raw["files"]]
    except (ValueError, KeyError, TypeError, RecursionError):
        raise _damaged(path, "its list of files cannot be read") from None
    if len(listed) > MOST_FILES or sum(size for _, size, _ in listed) > MOST_BYTES:
        raise _damaged(path, "too large to open")
    if {name for name, _, _ in listed} != set(infos) or SCRIPT not in infos:
        raise _damaged(path, "its files are not those of its list")
    for name, size, _ in listed:
        inside = PurePosixPath(name)
        link = stat.S_ISLNK(infos[name].external_attr >> 16)
        if inside.is_absolute() or ".." in inside.parts or "\\" in name or ":" in name or link or name.endswith("/"):
            raise _damaged(path, f"{name!r} would leave its folder")
        if infos[name].file_size != size or size < 0:
            raise _damaged(path, f"{name!r} is not as large as it should be")
    return listed


def _one(packed: zipfile.ZipFile, path: Path, name: str, size: int, sha256: str, where: Path | None) -> None:
    """Check a file that is packed, and write it into a folder; None: only check it."""
    digest, total = hashlib.sha256(), 0
    inside = Path(os.devnull) if where is None else where / name
    inside.parent.mkdir(parents=True, exist_ok=True)
    with packed.open(name) as source, inside.open("wb" if where is None else "xb") as target:
        while block := source.read(_BLOCK):
            total += len(block)
            if total > size:
                raise _damaged(path, f"{name!r} is larger than it says")
            digest.update(block)
            target.write(block)
    if total != size or digest.hexdigest() != sha256:
        raise _damaged(path, f"{name!r} is not what was packed")
