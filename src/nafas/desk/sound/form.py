"""The choices of the Sound view: bed, the room it makes, chimes, voice, master; and what the chosen block does."""

from collections.abc import Callable
from fractions import Fraction
from functools import partial
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QMenu

from nafas.desk.dialogs.session_file import chosen_file
from nafas.desk.document import Document
from nafas.desk.sound.bed_fields import KINDS, BedFields, BedForm, bed_of_kind, seconds_number
from nafas.desk.widgets.controls import Button
from nafas.desk.widgets.labels import Label, set_tip
from nafas.script import Session
from nafas.script.edits.session_edits import block_name, change, change_block
from nafas.script.model.beds import Bed, BlockBed, FileBed
from nafas.script.model.session import CHIME_FAMILIES
from nafas.script.model.targets import TARGETS
from nafas.script.model.voice_level import VoiceLevel

_OWN = (
    ("inhale", "Inhale"), ("hold_full", "Hold, full"), ("exhale", "Exhale"), ("hold_empty", "Hold, empty"),
    ("tick", "Tick"), ("bell", "End bell"),
)  # fmt: skip


_STAYS = -31
"""What stands for "the same" in a field of levels that end at -30."""


class SoundForm(BedForm):
    """Where a block that brings a bed of its own is chosen, the fields of the bed are that bed's.

    Signals:
        hear_voice: hear a few words: True as shaped, False as said.
    """

    hear_voice = Signal(bool)

    def __init__(self, document: Document) -> None:
        super().__init__(document, "In this block")
        self.block = -1
        self.block_heading = self.heading
        self.sounds = self.free_tick("The bed sounds here", lambda on: self._set_block(on=on))
        self.level = self.free_number("Bed louder by", -40, 12, lambda n: self._set_block(level=float(n)), " dB")
        self.change = self.free_choice("From here on", self._choose_change, (None, "the bed before it"), *KINDS)
        self.voice_here = self.free_number("Voice louder by", -30, 6, lambda n: self._set_voice(level=float(n)), " dB")
        self.voice_end = self.free_number("Voice at its end", _STAYS, 6, self._set_voice_end, " dB")
        self.voice_end.setSpecialValueText("the same")
        self.section("Bed")
        self.bed_fields = BedFields(self)
        self.section("Ducking")
        self.ducking = {
            name: self.line(label, f"ducking.{name}", seconds_number, "seconds", "{:g}".format)
            for name, label in (
                ("lead", "Lead"), ("hold", "Hold"), ("release", "Release"), ("crossfade", "Bed crossfade"),
            )
        }  # fmt: skip
        self.section("Chimes")
        self.family = self.choice("Family", "chimes.family", *CHIME_FAMILIES.items())
        self.levels = {
            name: self.number(label, f"chimes.{name}", -40, 6, " dB")
            for name, label in (("phase", "Chimes"), ("tick", "Ticks"), ("bell", "End bell"))
        }
        breath = (("none", "not heard"), ("air", "air, in and out"), ("hum", "air in, a hum out"))
        self.pacer = self.choice("Breath", "chimes.pacer", *breath)
        set_tip(self.pacer, "Heard through each inhale and exhale; a set may leave it out, in its details")
        self.pacer_level = self.number("Its level", "chimes.pacer_level", -40, 6, " dB")
        self.own = Button("Samples of your own…")
        self.own.setMenu(QMenu(self.own))
        self.own.menu().aboutToShow.connect(self._fill_own)
        self.form.addRow(self.own)
        self.own_note = Label(objectName="muted", wordWrap=True)
        self.form.addRow(self.own_note)
        self.section("Voice")
        self.shaped = self.tick("Voice chain on", "voice_sound.on")
        self.voice = {
            name: self.number(label, f"voice_sound.{name}", 0, high, suffix, scale=scale)
            for name, label, high, scale, suffix in (
                ("high_pass", "High-pass", 200, 1, " Hz"), ("compress", "Compressor", 100, 100, " %"),
                ("soften", "De-esser", 12, 1, " dB"), ("room", "Room", 100, 100, " %"),
            )
        }  # fmt: skip
        hear = QHBoxLayout()
        for text, shaped in (("Processed", True), ("Bypass", False)):
            button = Button(text, lambda _=False, shaped=shaped: self.hear_voice.emit(shaped), kind="small")
            hear.addWidget(button)
        hear.addStretch(1)
        self.form.addRow("Hear it", hear)
        self.section("Master")
        self.use = self.free_choice("For", self._choose_use, *[each[:2] for each in TARGETS], (None, "own"))
        self.loudness = self.line("Loudness", "master.loudness", _level("LUFS"), "such as -16", _write_level)
        self.ceiling = self.line("True-peak ceiling", "master.ceiling", _level("dBTP"), "such as -1", _write_level)
        self.mono = self.tick("Mono", "master.mono")
        self.rest.addStretch(1)
        self.first = self.bed_fields.kind

    # -- the bed, of the session or of the chosen block

    @property
    def bed_block(self) -> int:
        """The chosen block where it brings a bed of its own, else -1."""
        blocks = self.document.session.blocks
        if 0 <= self.block < len(blocks):
            here = blocks[self.block].bed
            if here is not None and here.change is not None:
                return self.block
        return -1

    @property
    def bed(self) -> Bed | None:
        """The bed whose fields are shown."""
        session, index = self.document.session, self.bed_block
        here = session.blocks[index].bed if index >= 0 else None
        return session.bed if here is None else here.change

    def set_bed(self, bed: Bed | dict[str, Any] | None) -> None:
        """Put another bed, or its fields, in the place of the one that is shown."""
        if self.bed_block >= 0:
            self._set_block(change=bed)
        else:
            self.set("bed", bed, "Bed")

    def change_bed(self, fields: dict[str, Any]) -> None:
        """Change fields of the bed that is shown."""
        bed = self.bed
        if bed is not None:
            self.set_bed({**dict(bed), **fields})

    def agree(self, fields: dict[str, Any], count: Fraction | None) -> None:
        """Bring bed and count together in one step: fields of the bed that is shown, and another count length."""
        session, bed, index = self.document.session, self.bed, self.bed_block
        if bed is None:
            return

        def make() -> Session:
            new = type(bed).model_validate({**dict(bed), **fields})
            changed = session if count is None else change(session, count_length=count)
            if index < 0:
                return change(changed, bed=new)
            here = changed.blocks[index].bed or BlockBed()
            return change_block(changed, index, bed=here.model_copy(update={"change": new}))

        self.take(make, "agreement", "agree")

    def _set_block(self, **fields: Any) -> None:
        blocks = self.document.session.blocks
        if not 0 <= self.block < len(blocks):
            return
        index, before = self.block, blocks[self.block].bed or BlockBed()

        def make() -> Session:
            new = BlockBed.model_validate({**dict(before), **fields})
            return change_block(self.document.session, index, bed=None if new == BlockBed() else new)

        self.take(make, "Bed", f"{index} bed")

    def _set_voice(self, **fields: Any) -> None:
        blocks = self.document.session.blocks
        if not 0 <= self.block < len(blocks):
            return
        index, before = self.block, blocks[self.block].voice or VoiceLevel()

        def make() -> Session:
            new = VoiceLevel.model_validate({**dict(before), **fields})
            return change_block(self.document.session, index, voice=None if new == VoiceLevel() else new)

        self.take(make, "Voice level", f"{index} voice")

    def _set_voice_end(self, level: int) -> None:
        self._set_voice(to=None if level == _STAYS else float(level))

    def _choose_change(self, kind: str | None) -> None:
        new = None
        if kind is not None:
            new = bed_of_kind(kind, self.bed, self, self.document.folder)
            if new is None:
                self.show_value(self.document.session)
                return
        self._set_block(change=new)

    # -- chimes and master

    def _fill_own(self) -> None:
        menu, own = self.own.menu(), self.document.session.chimes.own
        menu.clear()
        for name, label in _OWN:
            chosen = getattr(own, name)
            sub = menu.addMenu(label if chosen is None else f"{label}: {chosen.path}")
            sub.addAction("Choose a file…", partial(self.choose_own, name))
            if chosen is not None:
                sub.addAction("The family's again", partial(self._set_own, name, None))

    def choose_own(self, name: str) -> None:
        """Ask for a sample and put it in the place of a chime."""
        file = chosen_file(self, self.document.folder, "A sample as chime")
        if file is not None:
            self._set_own(name, file)

    def _set_own(self, name: str, file: object) -> None:
        own = self.document.session.chimes.own
        self.set("chimes.own", {**dict(own), name: file}, "Chimes")

    def _choose_use(self, key: str | None) -> None:
        target_ = next((target for target in TARGETS if target.key == key), None)
        if target_ is not None:
            master = self.document.session.master
            self.set("master", {**dict(master), "loudness": target_.loudness, "mono": target_.mono}, "Master")

    # -- shown

    def show_block(self, block: int) -> None:
        """Show the session's sound, and that of a block; -1 for none."""
        self.block = block
        self.show_index(-1)

    def show_more(self, value: Any) -> None:
        session: Session = value
        blocks = session.blocks
        chosen = blocks[self.block] if 0 <= self.block < len(blocks) else None
        self.block_heading.setVisible(chosen is not None)
        for field in (self.sounds, self.level, self.change, self.voice_here, self.voice_end):
            self.show_row(field, chosen is not None)
        name = "" if chosen is None else block_name(chosen)
        if chosen is not None:
            here = chosen.bed or BlockBed()
            self.block_heading.setText(f"In {name}")
            self.sounds.setChecked(here.on)
            self.level.show_value(round(here.level))
            voice = chosen.voice or VoiceLevel()
            self.voice_here.show_value(round(voice.level))
            self.voice_end.show_value(_STAYS if voice.to is None else round(voice.to))
            self.change.show_value(None if here.change is None else here.change.kind)
        self.bed_fields.heading.setText("Bed" if self.bed_block < 0 else f"Bed from {name} on")
        self.bed_fields.show()
        self.show_row(self.pacer_level, session.chimes.pacer != "none")
        own = [label for field_name, label in _OWN if getattr(session.chimes.own, field_name) is not None]
        self.own_note.setText("Your own: " + ", ".join(own))
        self.own_note.setVisible(bool(own))
        master = session.master
        uses = {(target.loudness, target.mono): target.key for target in TARGETS}
        self.use.show_value(uses.get((master.loudness, master.mono)))

    @property
    def recording(self) -> FileBed | None:
        """The bed that is shown where it is a recording."""
        return self.bed if isinstance(self.bed, FileBed) else None


def _write_level(level: float) -> str:
    return f"{level:g}".replace("-", "\N{MINUS SIGN}")


def _level(unit: str) -> Callable[[str], float]:
    """What reads a level as typed. Raises ValueError."""

    def read(text: str) -> float:
        plain = text.strip().lower().removesuffix(unit.lower()).strip().replace("\N{MINUS SIGN}", "-")
        try:
            return float(plain)
        except ValueError:
            raise ValueError(f"{text.strip()[:20]!r} is not a level; write {unit}, such as -16") from None

    return read
