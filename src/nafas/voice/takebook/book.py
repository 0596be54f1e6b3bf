"""The take book: a folder of short clips with `takes.json`, the producer's own voice.

`takes.json` names each take's line, language, trim, gain and felt beat; the audio files are never altered.
"""

import json
import os
from collections import defaultdict
from functools import cached_property
from pathlib import Path
from typing import Annotated, Literal

import numpy as np
from pydantic import Field, ValidationError

from nafas.audio_files import AudioReader
from nafas.errors import InputError
from nafas.files import file_digest, read_whole
from nafas.script.faults import as_input_error
from nafas.script.model.phase import Model
from nafas.voice.beat.felt_beat import SURE_BEAT
from nafas.voice.chain import Chain, through
from nafas.voice.clip import MAX_RATE, MIN_RATE, Clip, Samples, tapered
from nafas.voice.finished import finished
from nafas.voice.level import tame_peaks

INDEX = "takes.json"
FORMAT = 2
"""Format 2 added confidences, takes set aside and the chain; format 1 is read as it is."""
LONGEST_TAKE = 600.0
_MOST_BYTES = 64_000_000  # of an index; 20,000 takes are under 10 MB
SURE = 0.5
"""Confidence from which a take is taken to be the line it was matched to."""
_AGAIN = "put the right file back, record it again or remove it from takes.json"


class Take(Model):
    """One take. Times in seconds from the start of its file; `beat` from the start of its trim.

    Attributes:
        file: name inside the take book's folder.
        text: the words said.
        trim: where the sound begins and ends.
        gain: dB that bring it to the level of the others.
        beat: felt beat, seconds from the trim's start.
        sha256: of the file, to notice a changed or broken one; None to skip that.
        origin: where it came from.
        confidence: how sure it is that this is its line, 0 to 1; None where a person said so.
        beat_confidence: how sure the beat is, 0 to 1; None where a person set it.
        aside: kept in the book, and never cast.
    """

    file: Annotated[str, Field(min_length=1, max_length=200, pattern=r"^[^/\\\x00]+$")]
    text: Annotated[str, Field(min_length=1, max_length=4000)]
    language: Annotated[str, Field(min_length=2, max_length=12)] = "en"
    trim: tuple[Annotated[float, Field(ge=0)], Annotated[float, Field(ge=0, le=LONGEST_TAKE)]]
    gain: Annotated[float, Field(ge=-60, le=60)] = 0.0
    beat: Annotated[float, Field(ge=0, le=60)] = 0.0
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")] | None = None
    origin: Annotated[str, Field(max_length=400)] = ""
    confidence: Annotated[float, Field(ge=0, le=1)] | None = None
    beat_confidence: Annotated[float, Field(ge=0, le=1)] | None = None
    aside: bool = False

    @property
    def seconds(self) -> float:
        """Length between the trims."""
        return self.trim[1] - self.trim[0]

    @property
    def sure(self) -> bool:
        """Whether it is taken to be the line it was matched to."""
        return self.confidence is None or self.confidence >= SURE

    @property
    def beat_sure(self) -> bool:
        """Whether its felt beat was found clearly, or set by a person."""
        return self.beat_confidence is None or self.beat_confidence >= SURE_BEAT

    @property
    def after_beat(self) -> float:
        """Seconds from the beat to the end of the sound."""
        return self.seconds - self.beat


class TakeIndex(Model):
    """The whole of `takes.json`."""

    format: Literal[1, 2]
    title: Annotated[str, Field(max_length=200)] = ""
    origin: Annotated[str, Field(max_length=2000)] = ""
    licence: Annotated[str, Field(max_length=400)] = ""
    chain: Chain = Chain()
    takes: Annotated[tuple[Take, ...], Field(max_length=20000)] = ()


def line_key(text: str, language: str) -> tuple[str, str]:
    """Two lines with one key can use the same take: case, spacing and end marks do not change how they are read."""
    return language, " ".join(text.casefold().split()).strip(" .,;:…")


class TakeBook:
    """A take book on disk. Opening reads the index alone; audio is read when asked for."""

    def __init__(self, folder: Path) -> None:
        """Open a take book.

        Raises:
            InputError: the folder or its index is missing, broken or from a newer Nafas.
        """
        self.folder = folder
        index = folder / INDEX
        try:
            raw = json.loads(read_whole(index, _MOST_BYTES).decode())
            if isinstance(raw, dict) and isinstance(raw.get("format"), int) and raw["format"] > FORMAT:
                raise InputError(str(index), f"format {raw['format']} is from a newer Nafas", "update Nafas")
            self.index = TakeIndex.model_validate(raw)
        except InputError as error:
            remedy = error.remedy if "newer" in error.problem else "choose the folder that holds takes.json"
            raise InputError(error.place, error.problem, remedy) from None
        except ValidationError as error:
            fault = as_input_error(error)
            remedy = f"{fault.remedy}, or make the take book again"
            raise InputError(f"{index}: {fault.place}", fault.problem, remedy) from None
        except (ValueError, RecursionError) as error:
            raise InputError(str(index), f"is no take book ({error})", "fix it or make the take book again") from None
        self._takes: dict[tuple[str, str], list[Take]] = defaultdict(list)
        for take in self.index.takes:
            self._takes[line_key(take.text, take.language)].append(take)

    def takes(self, text: str, language: str) -> tuple[Take, ...]:
        """The takes of a line that may be cast, in the index's order; none is ()."""
        return tuple(take for take in self.every_take(text, language) if not take.aside)

    def every_take(self, text: str, language: str) -> tuple[Take, ...]:
        """The takes of a line, those set aside too."""
        return tuple(self._takes.get(line_key(text, language), ()))

    @cached_property
    def absent(self) -> frozenset[str]:
        """Names of takes' files that are not in the folder: it was moved or copied in part."""
        try:
            there = {path.name for path in self.folder.iterdir()}
        except OSError:
            there = set()
        return frozenset(take.file for take in self.index.takes if take.file not in there)

    @cached_property
    def sha256(self) -> str:
        """Of the index, which holds those of the audio: what a session remembers of its take book."""
        return file_digest(self.folder / INDEX)

    def clip(self, take: Take) -> Clip:
        """A take as it is heard: trimmed, levelled, through the book's chain, peaks eased, ends tapered.

        Raises:
            InputError: naming the file, as `sound`; also for a trim that leaves nothing.
        """
        digest = self._digest(take)
        made_from = (digest, take.model_dump_json(include={"text", "file", "trim", "gain", "beat"}))
        return finished((*made_from, self.index.chain.model_dump_json()), lambda: (self._finished(take),))[0]

    def _finished(self, take: Take) -> Clip:
        mono, rate = self.sound(take)
        begin, end = (min(len(mono), round(t * rate)) for t in take.trim)
        part = mono[begin:end]
        if len(part) < rate // 200:
            file = str(self.folder / take.file)
            raise InputError(file, f"is empty between its trims ({len(part)} samples)", _AGAIN)
        part = through(self.index.chain, part * np.float32(10 ** (take.gain / 20)), rate)
        part = tapered(tame_peaks(part, rate), rate)
        return Clip(take.text, take.file, part, rate, min(take.beat, len(part) / rate))

    def sound(self, take: Take) -> tuple[Samples, int]:
        """A take's whole file as it was recorded: mono (the average of its channels), shape (n,), and its rate.

        Raises:
            InputError: naming the file: missing, not audio, changed, a useless rate, not numbers.
        """
        self._digest(take)
        try:
            reader = AudioReader(self.folder / take.file)
        except InputError as error:
            raise InputError(error.place, error.problem, _AGAIN) from None
        path = self.folder / take.file
        rate = reader.rate
        if not MIN_RATE <= rate <= MAX_RATE:
            raise InputError(str(path), f"has a rate of {rate} Hz", f"use {MIN_RATE} to {MAX_RATE} Hz")
        if reader.seconds > LONGEST_TAKE:
            raise InputError(str(path), f"lasts {reader.seconds / 60:.0f} minutes", "cut it into takes")
        samples = reader.read(0, reader.frames)
        mono: Samples = samples.mean(axis=1)
        if not np.isfinite(mono).all():
            raise InputError(str(path), "holds samples that are not numbers", _AGAIN)
        return mono, rate

    def _digest(self, take: Take) -> str:
        """SHA-256 of a take's file, "" for a missing one. Raises InputError: the index names another file."""
        path = self.folder / take.file
        if not Path(os.path.realpath(path)).is_relative_to(os.path.realpath(self.folder)):
            raise InputError(str(path), "is a link out of the take book", "put the file itself there")
        try:
            known = file_digest(path)
        except InputError as error:
            raise InputError(error.place, error.problem, _AGAIN) from None
        if known and known != (take.sha256 or known):
            raise InputError(str(path), "is not the recording takes.json describes (changed or broken)", _AGAIN)
        return known
