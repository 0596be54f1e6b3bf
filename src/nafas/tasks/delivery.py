"""What can be handed over, what is asked for, and what came of it."""

import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from nafas.drawing.guide.sizes import RATES, SIZES
from nafas.errors import InputError, UsageError
from nafas.exchange.chapters import Chapter
from nafas.exchange.cover import Cover
from nafas.files import cut_bytes
from nafas.review.checks.finding import Finding
from nafas.review.proof import Proof
from nafas.script.model.session import Session
from nafas.sound.files.formats import ENDINGS
from nafas.sound.master.render import Mastered
from nafas.sound.mix.mix import Mix
from nafas.tasks.exit_codes import ExitCode
from nafas.timing.clock import clock
from nafas.voice.casting import Cast

M4A = ".m4a"
LOSSLESS = (".flac", ".wav")
AUDIO = (*ENDINGS, M4A)
TEXTS = {
    "srt": "captions, SubRip (.srt)",
    "vtt": "captions, WebVTT (.vtt)",
    "transcript": "transcript",
    "chapters": "chapters, JSON and text",
    "labels": "labels, tab-separated",
    "cues": "cue list, CSV",
    "midi": "MIDI with tempo and markers",
    "sheet": "timed sheet, proof (PDF)",
    "description": "description and credits",
    "packed": "packed session",
}
"""What there is next to the audio, and what it is."""
PURPOSES: dict[str, tuple[tuple[str, ...], tuple[str, ...]]] = {
    "podcast": ((".mp3",), ("srt", "vtt", "transcript", "chapters", "description")),
    "video": ((".flac",), ("srt", "vtt", "chapters", "description")),
    "app": ((".flac", ".m4a"), ("vtt", "chapters", "cues", "labels", "midi", "description")),
    "class": ((".mp3",), ("sheet", "transcript", "description")),
    "all": ((".flac", ".mp3", ".m4a"), tuple(TEXTS)),
}
"""For each purpose the audio and what comes with it."""
VIDEOS = {"video": "1080p"}
"""The size of the guide video that belongs to a purpose; the others have none."""
PATTERN = "{title}"
"""The usual name: also "{length}", "{language}", "{track}" and "{date}"."""
_FIELD = re.compile(r"\{(\w+)\}")
_UNSAFE = re.compile(r'[\\/:*?"<>|\x00-\x1f]+')
_MOST_NAME = 120
STAGES = {
    "looking": (0.0, 0.12), "casting": (0.12, 0.12), "measuring": (0.12, 0.22), "writing": (0.22, 0.4),
    "proving": (0.4, 0.55), "AAC": (0.55, 0.6), "packing": (0.6, 0.62), "paper": (0.62, 0.64), "video": (0.64, 1.0),
}  # fmt: skip


def _never(path: Path) -> bool:
    return False


@dataclass(frozen=True)
class DeliveryRequest:
    """What is to be handed over.

    Attributes:
        session: it.
        folder: where its relative paths start.
        into: the folder of the files; made where it is missing. They appear together or not at all.
        audio: endings, of `AUDIO`.
        texts: keys of `TEXTS`.
        pattern: of the names.
        grouped: captions have a phase's counts together.
        anyway: it is handed over even with findings that must be changed.
        video: the size of a guide video, one of `drawing.guide.video.SIZES`, or None.
        fps: frames a second of the video.
        replaces: whether a file that stands there may be replaced; a function of a module.
        variant: of a series, by its name; the ledger notes it.
        asked: by which the ledger knows a delivery of the same; "" where that is not to be known again.
    """

    session: Session
    folder: Path
    into: Path
    audio: tuple[str, ...]
    texts: tuple[str, ...]
    pattern: str = PATTERN
    grouped: bool = True
    anyway: bool = False
    video: str | None = None
    fps: int = 30
    replaces: Callable[[Path], bool] = _never
    asked: str = ""
    variant: str = ""

    def check(self) -> None:
        """See that it can be begun. Raises InputError: a format, a text, a size or a rate that is not offered."""
        for ending in self.audio:
            if ending not in AUDIO:
                raise UsageError(ending, "is not an audio format", f"use {', '.join(AUDIO)}")
        for name in self.texts:
            if name not in TEXTS:
                raise UsageError(name, "cannot be delivered", f"use {', '.join(TEXTS)}")
        if not self.audio:
            raise InputError("the delivery", "has no audio", f"name one of {', '.join(AUDIO)}")
        if self.video is not None and self.video not in SIZES:
            raise UsageError(f"a video of {self.video}", "is not made", f"use {', '.join(SIZES)}")
        if self.fps not in RATES:
            raise UsageError(f"{self.fps} frames a second", "are not made", f"use {', '.join(map(str, RATES))}")


def for_purpose(purpose: str, video: str | None = None) -> tuple[tuple[str, ...], tuple[str, ...], str | None]:
    """Audio, texts and the size of the guide video of a purpose; `video` instead of its own. Raises InputError."""
    if purpose not in PURPOSES:
        raise UsageError(purpose, "is no purpose", f"use {', '.join(PURPOSES)}")
    return (*PURPOSES[purpose], video or VIDEOS.get(purpose))


@dataclass(frozen=True, eq=False)
class DeliveryResult:
    """Delivered files.

    Attributes:
        stem: of all names.
        files: in the order in which they were made.
        cast, mix, mastered: of the session.
        sound: a master that loses nothing, to be encoded further; it need not be one of the files.
        cover: that goes into its files; None for none.
        chapters: of it.
        proofs: of every file with sound, as it is handed over.
        findings: that must or should be changed and were let stand.
        remarks: what else is to be known, for people.
        warnings: why it is not in the ledger, if it is not.
    """

    stem: str
    files: tuple[Path, ...]
    cast: Cast
    mix: Mix
    mastered: Mastered
    sound: Path
    cover: Cover | None
    chapters: tuple[Chapter, ...]
    proofs: tuple[Proof, ...]
    findings: tuple[Finding, ...]
    remarks: tuple[str, ...] = ()
    warnings: tuple[str, ...] = ()

    @property
    def holds(self) -> bool:
        """No proof found a fault."""
        return all(proof.holds for proof in self.proofs)

    @property
    def exit_code(self) -> ExitCode:
        return ExitCode.DONE if self.holds else ExitCode.NOT_PROVEN

    def lines(self) -> list[str]:
        verdicts = ("holds" if proof.holds else "does not hold" for proof in self.proofs)
        return [
            *(f"{finding.severity.value.upper()}  {finding.where}  {finding.text}" for finding in self.findings),
            *map(str, self.files),
            *self.remarks,
            *(f"proof of {proof.path.name} {verdict}" for proof, verdict in zip(self.proofs, verdicts)),
        ]


def stem_of(session: Session, seconds: float, pattern: str = PATTERN) -> str:
    """The name of a delivery's files, without an ending. Raises InputError where the pattern names what is unknown."""
    values = {
        "title": session.title or "session",
        "length": clock(seconds).replace(":", "-"),
        "language": session.language,
        "track": "" if session.tags.track is None else f"{session.tags.track:02d}",
        "date": datetime.now(UTC).astimezone().strftime("%Y-%m-%d"),
    }
    made = _FIELD.sub(lambda field: values.get(field[1], field[0]), pattern)
    if set(_FIELD.findall(pattern)) - set(values) or "{" in _FIELD.sub("", pattern) or "}" in _FIELD.sub("", pattern):
        offered = ", ".join(f"{{{name}}}" for name in values)
        raise UsageError(pattern, "names something unknown", f"use {offered}")
    return cut_bytes(_UNSAFE.sub("-", made).strip(" .-"), _MOST_NAME).strip(" .-") or "session"
