"""A series: a session and a table of variants, whose columns are what differs from it."""

import json
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from pathlib import Path
from typing import Annotated, Any

from pydantic import Field, ValidationError, field_validator

from nafas.errors import InputError
from nafas.files import digest_of, read_whole, write_whole
from nafas.languages import LANGUAGES
from nafas.script.faults import as_input_error
from nafas.script.model.exact import Seconds
from nafas.script.model.guidance import Level
from nafas.script.model.pacing import CountLength, Rounds
from nafas.script.model.phase import Model, is_one_line
from nafas.script.model.session import Session
from nafas.sound.files.formats import ENDINGS
from nafas.state.permissions import NotPermitted, outside_folder

ENDING = ".nafas-series"
MOST_ROWS = 1_000
MOST_NAME = 150
"""Bytes of a variant's name: it names files, which have endings and companions."""
_MOST_BYTES = 4_000_000


class Variant(Model):
    """A row: what of the session is otherwise; None, or an empty table, for as it is.

    Attributes:
        name: of its files; each its own.
        title: of the session.
        length: seconds that it is fitted to.
        count_length: seconds a count where a set has none of its own.
        rounds: of sets, by their id.
        patterns: of sets, by their id, in notation: a round, with a way up or rounds where they differ too.
        language: a code.
        words: a table of translated words, next to the series (see `words`).
        guidance: how much is said in every set.
        narrator: "espeak" or "auto".
        bed: dB by which the bed is louder in all blocks.
        loudness: LUFS of the master.
    """

    name: Annotated[str, Field(min_length=1, max_length=100, pattern=r"^[^/\\\x00-\x1f]+$")]
    title: Annotated[str, Field(max_length=120)] | None = None
    length: Annotated[Fraction, Seconds("1", "14400")] | None = None
    count_length: CountLength | None = None
    rounds: dict[str, Rounds] = Field(default_factory=dict)
    patterns: dict[str, Annotated[str, Field(min_length=1, max_length=400)]] = Field(default_factory=dict)
    language: Annotated[str, Field(max_length=12)] | None = None
    words: Annotated[str, Field(max_length=300)] | None = None
    guidance: Level | None = None
    narrator: Annotated[str, Field(pattern=r"^(auto|espeak)$")] | None = None
    bed: Annotated[float, Field(ge=-40, le=12)] | None = None
    loudness: Annotated[float, Field(ge=-40, le=-8)] | None = None

    @field_validator("name")
    @classmethod
    def _is_a_name(cls, name: str) -> str:
        if not is_one_line(name) or name.strip(" .") != name:
            raise ValueError("a name is one line of plain text without spaces or dots at its ends")
        if len(name.encode()) > MOST_NAME:
            raise ValueError(
                f"a name is a file's too: keep it under {MOST_NAME} bytes ({MOST_NAME // 3} Hindi letters)"
            )
        return name

    @field_validator("language")
    @classmethod
    def _is_known(cls, language: str | None) -> str | None:
        if language is not None and language not in LANGUAGES:
            raise ValueError(f"a language is one of {' '.join(LANGUAGES)}")
        return language


class Series(Model):
    """A whole series.

    Attributes:
        format: of the file.
        title: of the series.
        session: the session's file, from the series' own folder.
        audio: endings of each variant's files.
        into: the folder of the files, from the series' own.
        variants: its rows; names are unique.
    """

    format: int = 1
    title: Annotated[str, Field(max_length=120)] = ""
    session: Annotated[str, Field(min_length=1, max_length=1000)]
    audio: Annotated[tuple[str, ...], Field(min_length=1, max_length=6)] = (".flac",)
    into: Annotated[str, Field(min_length=1, max_length=1000)] = "series"
    variants: Annotated[tuple[Variant, ...], Field(max_length=MOST_ROWS)] = ()

    @field_validator("audio")
    @classmethod
    def _is_audio(cls, audio: tuple[str, ...]) -> tuple[str, ...]:
        if not set(audio) <= set(ENDINGS):
            raise ValueError(f"audio is any of {' '.join(ENDINGS)}")
        return audio

    @field_validator("variants")
    @classmethod
    def _names_differ(cls, variants: tuple[Variant, ...]) -> tuple[Variant, ...]:
        seen: set[str] = set()
        for variant in variants:
            if variant.name.lower() in seen:
                raise ValueError(f"the name {variant.name!r} is used twice; give every variant its own")
            seen.add(variant.name.lower())
        return variants


@dataclass(frozen=True)
class Planned:
    """A variant as it will be.

    Attributes:
        variant: its row.
        session: the changed session, its paths from the series' folder; None where it cannot be made.
        length: seconds.
        notes: what is to be known: a length that is not reached, words that are missing.
        trouble: why it cannot be made, for people; "" where it can.
    """

    variant: Variant
    session: Session | None
    length: Fraction | None
    notes: tuple[str, ...]
    trouble: str


def load_series(path: Path) -> Series:
    """Read a series. Raises InputError with the row and the field at fault."""
    data = read_whole(path, _MOST_BYTES)
    try:
        raw = json.loads(data.decode("utf-8-sig"), parse_float=Decimal)
        return Series.model_validate(raw)
    except ValidationError as error:
        parts = error.errors()[0]["loc"]
        field_ = "".join(f"[{part}]" if isinstance(part, int) else f".{part}" for part in parts).lstrip(".")
        raise as_input_error(error, f"{path}: {field_}") from None
    except (UnicodeDecodeError, ValueError, ArithmeticError, RecursionError):
        raise InputError(str(path), "is no series", f"choose a *{ENDING} file") from None


def save_series(series: Series, path: Path, expected: str | None = None) -> str:
    """Write a series, whole.

    Args:
        series: it.
        path: its file.
        expected: the sum of what is known to stand there; None: whatever does is replaced.

    Returns:
        str: the sum of what stands there now.

    Raises:
        FileChanged: another program has written it since.
        InputError: it cannot be written.
    """
    data = (json.dumps(_plain(series), indent=1, ensure_ascii=False) + "\n").encode()
    write_whole(path, data, expected)
    return digest_of(data)


def _plain(series: Series) -> dict[str, Any]:
    data: dict[str, Any] = series.model_dump(mode="json", exclude_defaults=True)
    return {"format": 1, **data}


def check_place(series: Series, folder: Path) -> None:
    """See that a series writes into its own folder, or where a person has let it.

    Raises:
        NotPermitted: it would write into a folder outside its own that nobody has permitted yet.
    """
    outside = place_outside(series, folder)
    if outside is not None:
        problem = f"writes into {outside}, outside its own folder"
        raise NotPermitted(series.title or series.session, problem, "permit it if you know the series")


def place_outside(series: Series, folder: Path) -> Path | None:
    """The folder outside its own that a series writes into and nobody has permitted yet; None for none."""
    return outside_folder(folder / series.into, folder)


def paths_of(series: Series, planned: Planned, folder: Path) -> list[Path]:
    """The files of a variant as it is rendered."""
    return [folder / series.into / f"{planned.variant.name}{ending}" for ending in series.audio]
