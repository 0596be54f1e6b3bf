"""What a session uses of the disk: named, never held."""

from collections.abc import Callable
from typing import Annotated, TypeVar

from pydantic import Field, field_validator

from nafas.script.model.phase import Model


class Asset(Model):
    """A file or folder the session uses: its path relative to the session file, and what it held when chosen."""

    path: Annotated[str, Field(min_length=1, max_length=1000)]
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")] | None = None

    @field_validator("path")
    @classmethod
    def _path_is_plain(cls, path: str) -> str:
        if "\0" in path:
            raise ValueError("a path holds no NUL; write the file's path")
        return path


_M = TypeVar("_M", bound=Model)


def with_assets(model: _M, change: Callable[[Asset], Asset]) -> _M:
    """A model with every asset in it changed, wherever it stands; the model itself where there is none."""
    changed: dict[str, object] = {}
    for name in type(model).model_fields:
        value = getattr(model, name)
        new: object = value
        if isinstance(value, Asset):
            new = change(value)
        elif isinstance(value, Model):
            new = with_assets(value, change)
        elif isinstance(value, tuple) and any(isinstance(each, Model) for each in value):
            each_new = tuple(with_assets(each, change) if isinstance(each, Model) else each for each in value)
            new = value if all(a is b for a, b in zip(value, each_new)) else each_new
        if new is not value:
            changed[name] = new
    return model.model_copy(update=changed) if changed else model


def assets_of(model: Model) -> tuple[Asset, ...]:
    """Every asset in a model."""
    assets: list[Asset] = []

    def note(asset: Asset) -> Asset:
        assets.append(asset)
        return asset

    with_assets(model, note)
    return tuple(assets)
