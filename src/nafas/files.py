"""Files read and written with care: regular ones only, of a sane size, and whole or not at all.

What is opened may come from anywhere: a pipe would hang the program, a device has no end, a link may loop. What is
written replaces nothing but a regular file that may be written, and never one that another program has changed
meanwhile, where the writer says what it knew.
"""

import contextlib
import fcntl
import hashlib
import os
import re
import shutil
import stat
import time
from collections.abc import Callable, Iterable, Iterator
from functools import cache
from io import BufferedReader
from pathlib import Path

from nafas.errors import InputError

_LONGEST_NAME = 255  # bytes, on every usual file system
_FOREIGN = 86_400.0  # seconds after which what another machine (or an earlier start of this one) left is swept
_ABSENT = ""
"""The sum of a file that is not there."""


class FileChanged(InputError):  # noqa: N818 - the writer is not at fault
    """Another program has written the file since it was read; nothing was overwritten."""


def reason(error: OSError | ValueError | RuntimeError) -> str:
    """Why a file cannot be used, in a few words."""
    return str(getattr(error, "strerror", None) or error)


def real_path(path: Path) -> Path:
    """A path with its links followed; one that goes round in a circle is left as it is. Raises InputError for a name
    that no file can have."""
    try:
        return Path(os.path.realpath(path))
    except (OSError, ValueError) as error:
        raise InputError(str(path), f"is no path ({reason(error)})", "choose another name") from None


def check_regular(path: Path, most: int | None = None) -> os.stat_result:
    """See that a path leads to a regular file of at most `most` bytes, without opening it.

    Raises:
        InputError: it is missing, unreachable, a pipe, a device, a folder, or too large.
    """
    try:
        stat_ = path.stat()
    except (OSError, ValueError) as error:
        raise _unreadable(path, error) from None
    _is_regular(path, stat_, most)
    return stat_


def _unreadable(path: Path, error: OSError | ValueError) -> InputError:
    return InputError(str(path), f"cannot be read ({reason(error)})", "check the name and its permissions")


def _is_regular(path: Path, stat_: os.stat_result, most: int | None) -> None:
    if stat.S_ISDIR(stat_.st_mode):
        raise InputError(str(path), "is a folder", "choose a file")
    if not stat.S_ISREG(stat_.st_mode):
        raise InputError(str(path), "is a pipe or a device, not a file", "choose a file")
    if most is not None and stat_.st_size > most:
        size = f"{stat_.st_size / 1e6:.0f} MB" if stat_.st_size >= 1e6 else f"{stat_.st_size / 1e3:.0f} kB"
        raise InputError(str(path), f"is too large ({size})", "choose another file")


def read_whole(path: Path, most: int) -> bytes:
    """The bytes of a regular file of at most `most` bytes.

    Raises:
        InputError: as `check_regular`; never waits for a pipe, and never reads more than it may.
    """
    try:
        with _opened(path, most) as file:
            data = file.read(most + 1)
    except (OSError, ValueError) as error:
        raise _unreadable(path, error) from None
    if len(data) > most:  # it grew meanwhile
        raise InputError(str(path), "is too large", "choose another file")
    return data


def digest_of(data: bytes) -> str:
    """SHA-256, as sessions and take books keep it."""
    return hashlib.sha256(data).hexdigest()


def file_digest(path: Path) -> str:
    """SHA-256 of a regular file as it stands, read in blocks; "" where there is none. Raises InputError."""
    try:
        with _opened(path, None) as file:
            return hashlib.file_digest(file, "sha256").hexdigest()
    except FileNotFoundError:
        return _ABSENT
    except (OSError, ValueError) as error:
        raise _unreadable(path, error) from None


def _opened(path: Path, most: int | None) -> BufferedReader:
    handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    try:
        _is_regular(path, os.fstat(handle), most)
        return os.fdopen(handle, "rb")
    except BaseException:
        os.close(handle)
        raise


# -- writing


def writable(path: Path) -> Path:
    """Where bytes for `path` go: itself, or the regular file that a link leads to.

    Raises:
        InputError: something stands there that must not be replaced: a folder, a pipe, a device, a link to nothing, a
            write-protected file; or the folder is none.
    """
    try:
        if len(os.fsencode(path.name)) > _LONGEST_NAME:
            raise InputError(str(path), "has too long a name", f"keep it under {_LONGEST_NAME} bytes")
        target = Path(os.path.realpath(path)) if path.is_symlink() else path
        if path.is_symlink() and not target.exists():
            raise InputError(str(path), "is a link that leads nowhere", "remove the link or choose another name")
        if not target.parent.is_dir():
            raise InputError(str(target.parent), "no such folder", "make it or choose another")
        try:
            stat_ = os.lstat(target)
        except FileNotFoundError:
            stat_ = None
    except (OSError, ValueError, RuntimeError) as error:
        raise _unwritable(path, error) from None
    if stat_ is not None:
        if stat.S_ISDIR(stat_.st_mode):
            raise InputError(str(path), "is a folder", "write a file name")
        if not stat.S_ISREG(stat_.st_mode):
            raise InputError(str(path), "is a pipe or a device, not a file", "choose another name")
        if not stat_.st_mode & 0o222 or not os.access(target, os.W_OK):
            raise InputError(str(path), "is write-protected", "choose another name or allow writing")
    if not os.access(target.parent, os.W_OK):
        raise InputError(str(target.parent), "is write-protected", "choose another folder")
    return target


class AlreadyThere(InputError):  # noqa: N818 - the name is at fault, not the program
    """Something stands where a file is to be written, and nobody has said that it may be replaced."""


def new_name(
    path: Path,
    endings: tuple[str, ...] = (),
    replace: bool | Callable[[Path], bool] = False,
    inputs: Iterable[Path] = (),
) -> Path:
    """See that a file can be written without harm to anything that stands there. Every output is asked for here.

    Args:
        path: of the file or the folder that is to be made.
        endings: one of which its name must have; () for any.
        replace: whether a file that stands there may be replaced, or what says so of it.
        inputs: what is read by the same work; none of it is ever written over.

    Raises:
        AlreadyThere: something stands there that may not be replaced.
        InputError: another ending; a link; one of the inputs; or as `writable`.
    """
    if endings and path.suffix.lower() not in endings:
        raise InputError(str(path), "is no name for it", f"end it in {' or '.join(endings)}")
    if path.is_symlink():
        raise InputError(str(path), "is a link", "name the file itself, or choose another name")
    if any(_same(path, each) for each in inputs):
        raise InputError(str(path), "is what is read here", "choose another name")
    there = writable(path)
    if path.exists() and not (replace(path) if callable(replace) else replace):
        raise AlreadyThere(str(path), "is there already", "choose a new name, or move it away")
    return there


def _same(one: Path, other: Path) -> bool:
    try:
        return one.samefile(other)
    except (OSError, ValueError):
        return one.absolute() == other.absolute()


def _unwritable(path: Path, error: OSError | ValueError | RuntimeError) -> InputError:
    return InputError(str(path), f"cannot be written ({reason(error)})", "choose another place or free some space")


def write_whole(path: Path, data: bytes, expected: str | None = None) -> None:
    """Write bytes to `path` whole or not at all: a part next to it, flushed to disk, then renamed over it.

    Killed at any moment, either the old file or the new one stands under the name.

    Args:
        expected: the sum (`file_digest`) that the file must have to be replaced, "" for none there; None: whatever.

    Raises:
        FileChanged: the file is another than was expected; it is left as it is.
        InputError: it cannot be written; the old file is intact.
    """
    target = writable(path)
    part = part_path(target)
    try:
        # What is looked at first must not change before it is replaced.
        with contextlib.nullcontext() if expected is None else one_writer(target.parent, 5.0):
            if expected is not None and file_digest(target) != expected:
                raise FileChanged(str(path), "was changed by another program meanwhile", "look at both before saving")
            _write_part(part, data)
            if target.exists():
                part.chmod(stat.S_IMODE(target.stat().st_mode))
            part.replace(target)
            sync_folder(target.parent)
    except OSError as error:
        raise _unwritable(path, error) from None
    finally:
        with contextlib.suppress(OSError):
            part.unlink(missing_ok=True)


def write_new(folder: Path, stem: str, ending: str, data: bytes) -> Path:
    """Write bytes whole under the first free of the names stem-1, stem-2, ...; what is there is never replaced, whoever
    writes at the same time. Returns the file. Raises InputError."""
    part, number = part_path(folder / f"{stem}{ending}"), 1
    try:
        _write_part(part, data)
        while True:
            path = folder / f"{stem}-{number}{ending}"
            try:
                os.link(part, path)  # fails where the name is taken, as a rename does not
                return path
            except FileExistsError:
                number += 1
            except OSError:
                if not _reserved(path):  # a file system without links
                    number += 1
                    continue
                part.replace(path)
                return path
    except OSError as error:
        raise _unwritable(folder / f"{stem}-{number}{ending}", error) from None
    finally:
        with contextlib.suppress(OSError):
            part.unlink(missing_ok=True)


def _reserved(path: Path) -> bool:
    try:
        os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o666))
    except FileExistsError:
        return False
    return True


def _write_part(part: Path, data: bytes) -> None:
    handle = os.open(part, os.O_CREAT | os.O_EXCL | os.O_WRONLY | os.O_NOFOLLOW | os.O_CLOEXEC, 0o666)
    with os.fdopen(handle, "wb") as file:
        file.write(data)
        file.flush()
        os.fsync(file.fileno())


def sync_folder(folder: Path) -> None:
    """Bring a rename in a folder to the disk, where its file system can."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


@contextlib.contextmanager
def one_writer(folder: Path, wait: float = 30.0) -> Iterator[None]:
    """Hold a folder against other programs (and threads) that ask the same; let go when the process ends, too.

    Args:
        wait: seconds to wait for another.

    Raises:
        InputError: another one still writes there.
    """
    try:
        handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    except (OSError, ValueError) as error:
        raise _unwritable(folder, error) from None
    try:
        until = time.monotonic() + wait
        while True:
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                break
            except BlockingIOError:
                if time.monotonic() > until:
                    problem = "is being written by another Nafas"
                    raise InputError(str(folder), problem, "wait until it is done, then do that again") from None
                time.sleep(0.02)
            except OSError:  # a file system without locks: one writer is all it can be used by
                break
        yield
    finally:
        os.close(handle)


# -- parts, and what dead processes left of them


@cache
def _boot() -> str:
    try:
        return Path("/proc/sys/kernel/random/boot_id").read_text()[:8]
    except OSError:
        return "0" * 8


def _started(pid: int) -> str | None:
    """When a process began, in ticks since the machine did; None where there is none."""
    try:
        text = Path(f"/proc/{pid}/stat").read_text()
    except OSError:
        return None
    return text.rpartition(")")[2].split()[19]


def this_process() -> str:
    """A name of this process that no later one gets, though its number may come again."""
    pid = os.getpid()
    return f"{pid}-{_started(pid) or 0}-{_boot()}"


def process_lives(name: str) -> bool:
    """Whether the process of a `this_process` name still runs on this machine."""
    pid, _, rest = name.partition("-")
    started, _, boot = rest.partition("-")
    return pid.isdecimal() and boot == _boot() and _started(int(pid)) == started


def cut_bytes(name: str, most: int) -> str:
    """A name cut to at most so many bytes, at the edge of a letter, as file systems count them."""
    return os.fsencode(name)[:most].decode("utf-8", "ignore").rstrip()


_parts = iter(range(1, 2**62))
_PART = re.compile(r"\.(\d+-\d+-[0-9a-f]{8})(?:\.\d+)?\.part")
_OLD_PART = re.compile(r"\.(\d+)\.part$")


def part_path(path: Path) -> Path:
    """A hidden name next to `path`, not used by anyone, that says which process writes it."""
    return path.with_name(f".{cut_bytes(path.name, 120)}.{this_process()}.{next(_parts)}.part")


def sweep_parts(folder: Path) -> list[Path]:
    """Remove the parts that dead processes left in a folder, and tell which. What belongs to another machine is left
    for a day."""
    gone: list[Path] = []
    try:
        entries = [entry for entry in os.scandir(folder) if entry.name.startswith(".") and ".part" in entry.name]
    except OSError:
        return gone
    for entry in entries:
        match, old = _PART.search(entry.name), _OLD_PART.search(entry.name)
        if match is None and old is None:
            continue
        with contextlib.suppress(OSError):
            if match is not None:
                foreign = not match[1].endswith(_boot())
                dead = _old(entry) if foreign else not process_lives(match[1])
            else:
                assert old is not None
                dead = _started(int(old[1])) is None
            if dead:
                path = Path(entry.path)
                shutil.rmtree(path) if entry.is_dir(follow_symlinks=False) else path.unlink()
                gone.append(path)
    return gone


def _old(entry: "os.DirEntry[str]") -> bool:
    return time.time() - entry.stat(follow_symlinks=False).st_mtime > _FOREIGN
