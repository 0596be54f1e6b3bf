"""The file of a session's bed or sample: where it is, and whether it is still the one that was chosen."""

from functools import lru_cache
from pathlib import Path

from nafas.errors import InputError
from nafas.files import check_regular, file_digest
from nafas.script.model.assets import Asset
from nafas.state.permissions import asset_path


def checked_path(asset: Asset, folder: Path) -> Path:
    """Where an asset's file is; `folder` is that of its session.

    Raises:
        InputError: it may not be read, is no regular file, or is another than the session was made with.
    """
    path = asset_path(asset, folder)
    stat = check_regular(path)
    if asset.sha256 not in (None, _sum(path, stat.st_size, stat.st_mtime_ns)):
        problem = "is not the recording this session was made with"
        raise InputError(str(path), problem, "put that file back, or choose it again")
    return path


@lru_cache(maxsize=64)
def _sum(path: Path, size: int, when: int) -> str:
    """SHA-256 of a file, once as long as it stays the same."""
    return file_digest(path)
