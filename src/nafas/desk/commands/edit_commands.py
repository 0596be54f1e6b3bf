"""What a person does to the session in the window: each is one step of undo, and says why when it cannot be."""

import math
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QMimeData, QObject, Signal
from PySide6.QtWidgets import QApplication

from nafas.desk.document import Document
from nafas.desk.widgets.fields import message_of
from nafas.errors import InputError
from nafas.files import real_path
from nafas.score.hit_test import Pause, Word
from nafas.score.selection import Chosen
from nafas.script import Block, BreathSet, Pattern, Rest, Session, Talk
from nafas.script.edits.round_edits import (
    WordTarget,
    with_counts,
    with_ease_words,
    with_more_rounds,
    with_paragraph,
    with_pause,
    with_sentence,
    with_word,
)
from nafas.script.edits.session_edits import block_name, change, change_block, insert_blocks, move_blocks, remove_blocks
from nafas.script.model.assets import Asset, with_assets
from nafas.script.model.exact import parse_seconds
from nafas.script.model.recordings import PlacedRecording
from nafas.script.notation.typed.interpret import interpret
from nafas.sound.files.recording import recording_length
from nafas.state.permissions import permit_readable
from nafas.suggest.length_fit import Option
from nafas.timing.clock import clock

if TYPE_CHECKING:
    from nafas.library.own import LibraryEntry


class EditCommands(QObject):
    """Edits one document, and knows what is selected in it.

    Signals:
        selected: the selection is another: `chosen`, and `also` with it.
        begin_writing: a new block wants its details.
        write: a block of talk, by its place, wants words on the page.
        said: words for the status line.
    """

    selected = Signal(bool)
    begin_writing = Signal()
    write = Signal(int)
    said = Signal(str)

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.chosen = Chosen()
        self.also: frozenset[int] = frozenset()
        self.ask_outside: Callable[[Session, Path], None] = lambda session, folder: None
        """Asked before blocks from elsewhere are put in: the files they name may not be theirs to read."""

    # -- selection

    @property
    def session(self) -> Session:
        return self.document.session

    @property
    def places(self) -> list[int]:
        """Every selected block, in order."""
        return sorted(
            position for position in self.also | {self.chosen.block} if 0 <= position < len(self.session.blocks)
        )

    def chosen_block(self) -> Block | None:
        """The block that is selected by itself; None where none is, or several are."""
        places = self.places
        return self.session.blocks[places[0]] if len(places) == 1 else None

    def change_chosen(self, block: Block) -> None:
        """Put a changed block in the place of the selected one."""
        place = self.places[0]
        blocks = [*self.session.blocks[:place], block, *self.session.blocks[place + 1 :]]
        self.attempt(lambda: change(self.session, blocks=tuple(blocks)), f"change {block_name(block) or 'a block'}")

    def choose(self, chosen: Chosen, also: frozenset[int] = frozenset(), reveal: bool = True) -> None:
        """Select something, alone or with other blocks."""
        self.chosen, self.also = chosen, also
        self.selected.emit(reveal)

    def choose_also(self, number: int, through: bool) -> None:
        """Add a block to the selection or take it out; or select everything from the chosen one through to it."""
        if self.chosen.block < 0:
            self.choose(Chosen(number))
        elif through:
            low, high = sorted((self.chosen.block, number))
            self.choose(Chosen(self.chosen.block), frozenset(range(low, high + 1)))
        else:
            every = (self.also | {self.chosen.block}) ^ {number}
            self.choose(Chosen(number if number in every or not every else min(every)), frozenset(every))

    def choose_all(self) -> None:
        every = frozenset(range(len(self.session.blocks)))
        if every:
            self.choose(Chosen(max(0, self.chosen.block)), every)

    def forget(self) -> None:
        """Nothing is selected in a document that was just opened."""
        self.chosen, self.also = Chosen(), frozenset()

    def hold_selection(self) -> None:
        """After the session has changed: keep selected what is still there."""
        blocks = self.session.blocks
        chosen = self.chosen
        if chosen.block >= len(blocks):
            chosen = Chosen()
        elif chosen.round and not isinstance(blocks[chosen.block], BreathSet):
            chosen = Chosen(chosen.block)
        self.choose(chosen, frozenset(position for position in self.also if position < len(blocks)), reveal=False)

    # -- taking steps

    def attempt(self, make: Callable[[], Session], label: str, key: str | None = None) -> bool:
        """Take a changed session as a step; if it would not be sound, say why and change nothing."""
        try:
            new = make()
        except (ValueError, InputError) as error:
            self.said.emit(message_of(error))
            return False
        self.document.edit(new, label, key)
        return True

    # -- blocks

    def insert(self, blocks: list[Block], label: str) -> bool:
        """Put blocks after what is selected, and select them."""
        places = self.places
        position = places[-1] + 1 if places else len(self.session.blocks)
        done = self.attempt(lambda: insert_blocks(self.session, position, blocks), label)
        if done:
            also = frozenset(range(position, position + len(blocks))) if len(blocks) > 1 else frozenset()
            self.choose(Chosen(position), also)
        return done

    def _ask(self, blocks: list[Block]) -> None:
        self.ask_outside(
            Session.model_construct(blocks=tuple(blocks), title=block_name(blocks[0])), self.document.folder
        )

    def add(self, kind: str) -> None:
        """Add a block of a kind and put the cursor in it."""
        block: Block
        if kind == "talk":
            block = Talk(id="talk-1")
        elif kind == "rest":
            block = Rest(id="rest-1", seconds=Fraction(30))
        else:
            block = BreathSet(id="set-1", pattern=Pattern.model_validate("4-6"), rounds=6)
        if self.insert([block], f"add {block_name(block) or 'talk'}"):
            if kind == "talk":
                self.write.emit(self.chosen.block)
            else:
                self.begin_writing.emit()

    def add_recording(self, file: Asset) -> None:
        """Add natural breath that is as long as a recording and plays it."""
        path = real_path(self.document.folder / file.path)
        try:
            seconds = max(Fraction(1), Fraction(math.ceil(10 * recording_length(path)), 10))
            recordings = (PlacedRecording(file=file),)
            rest = Rest(id="recording-1", title=path.stem[:60], seconds=seconds, locked=True, recordings=recordings)
        except (InputError, ValueError) as error:
            self.said.emit(message_of(error))
            return
        if self.insert([rest], "play a recording"):
            self.said.emit(f"{path.name} is played here. Its place and level: Recordings, in the details.")

    def add_entry(self, entry: "LibraryEntry", with_cautions: bool) -> None:
        """Add a pattern of the library, after its cautions where wanted."""
        assert entry.block is not None
        blocks: list[Block] = [entry.caution_talk(self.session.language)] if with_cautions else []
        own = entry.in_language(self.session.language).block
        assert own is not None
        self._ask([own])
        if self.insert([*blocks, own], f"add {entry.name}"):
            self.said.emit(f"Added {entry.name}. Ctrl+Z takes it back.")

    def move(self, by: int) -> None:
        """Move the selected blocks up or down by one."""
        places = self.places
        if not places or not 0 <= places[0] + by <= places[-1] + by < len(self.session.blocks):
            return
        self.reorder(places, places[0] - 1 if by < 0 else places[-1] + 2)

    def reorder(self, places: list[int], before: int) -> None:
        """Put blocks before the one that is now at `before`, and keep them selected."""
        if self.attempt(
            lambda: move_blocks(self.session, places, before), "move blocks" if places[1:] else "move a block"
        ):
            begin = before - sum(position < before for position in places)
            also = frozenset(range(begin, begin + len(places))) if len(places) > 1 else frozenset()
            self.choose(Chosen(begin), also)

    def remove(self) -> None:
        """Remove the selected blocks."""
        places = self.places
        if not places:
            return
        name = block_name(self.session.blocks[places[0]]) or "talk"
        what = name if len(places) == 1 else f"{len(places)} blocks"
        if self.attempt(lambda: remove_blocks(self.session, places), f"remove {what}"):
            left = len(self.session.blocks)
            self.choose(Chosen(min(places[0], left - 1)))
            self.said.emit(f"Removed {what}. Ctrl+Z brings it back.")

    def lock(self, number: int | None = None) -> None:
        """Lock the selected blocks against fitting; unlock them if all are locked."""
        places = self.places if number is None else [number]
        if not places:
            return
        on = not all(self.session.blocks[p].locked for p in places)

        def locked() -> Session:
            session = self.session
            for p in places:
                session = change_block(session, p, locked=on)
            return session

        self.attempt(locked, "lock" if on else "unlock")

    # -- clipboard

    def copy(self) -> bool:
        """Copy the selected blocks."""
        from nafas.script.edits.clipboard import MIME, blocks_json, blocks_text  # late: not needed to open a window

        places = self.places
        if not places:
            return False
        data = QMimeData()
        data.setData(MIME, blocks_json(self.session, places).encode())
        data.setText(blocks_text(self.session, places))
        QApplication.clipboard().setMimeData(data)
        self.said.emit("Copied a block" if len(places) == 1 else f"Copied {len(places)} blocks")
        return True

    def cut(self) -> None:
        if self.copy():
            self.remove()

    def put_in(self, blocks: list[Block], label: str) -> None:
        """Put in blocks from elsewhere, once the files that they name may be read."""
        self._ask(blocks)
        self.insert(blocks, label)

    # -- on the page

    def type_counts(self, index: int, round_number: int, phase: int, counts: int) -> None:
        self.attempt(lambda: with_counts(self.session, index, round_number, phase, counts), "change counts")

    def drag_counts(self, index: int, round_number: int, phase: int, counts: int) -> None:
        key = f"drag {index} {phase}"
        self.attempt(lambda: with_counts(self.session, index, round_number, phase, counts), "change counts", key)

    def drag_rounds(self, index: int, more: int) -> None:
        if self.session.blocks[index].kind in ("breath", "strokes"):
            self.attempt(lambda: with_more_rounds(self.session, index, more), "change rounds", f"rounds {index}")

    def drag_pause(self, pause: Pause, seconds: Fraction) -> None:
        key = f"pause {pause.block} {pause.sentence}"
        self.attempt(lambda: with_pause(self.session, pause.block, pause.sentence, seconds), "change pause", key)

    def retype(self, word: Word, text: str) -> bool:
        """Words changed where they stand; False where they cannot be taken."""

        def changed() -> Session:
            if word.target == "new":
                return with_paragraph(self.session, word.block, text)
            if word.target == "title":
                return change_block(self.session, word.block, title=text.strip())
            if isinstance(word.target, Pause):
                seconds = parse_seconds(text.strip().rstrip("s").strip()) if text.strip() else None
                return with_pause(self.session, word.block, word.target.sentence, seconds)
            if isinstance(word.target, WordTarget):
                return with_word(self.session, word.block, word.round, word.target, text)
            if isinstance(self.session.blocks[word.block], Talk | Rest):
                return with_sentence(self.session, word.block, int(word.target), text)
            return with_ease_words(self.session, word.block, int(word.target), text)

        return self.attempt(changed, "change words")

    def make_set(self, word: Word, text: str) -> bool:
        """A line that was written as talk becomes a set, after the talk or in place of an empty one; False where it is
        none."""
        reading = interpret(text, self.session.count_length)
        if not reading.ways:
            self.said.emit(
                f"{reading.fault.problem}: {reading.fault.remedy}" if reading.fault else "Nothing is written"
            )
            return False
        block = self.session.blocks[word.block]
        empty = isinstance(block, Talk) and not block.paragraphs
        position = word.block if empty else word.block + 1

        def made() -> Session:
            rest = remove_blocks(self.session, {word.block}) if empty else self.session
            return insert_blocks(rest, position, reading.ways[0].blocks)

        done = self.attempt(made, f"add {block_name(reading.ways[0].blocks[0])}")
        if done:
            self.choose(Chosen(position))
        return done

    # -- length and library

    def set_target(self, target: Fraction | None) -> None:
        self.attempt(lambda: change(self.session, target_length=target), "change target", "target")

    def apply_fit(self, option: Option) -> None:
        """Do what an option says."""
        fitted = change(option.session, target_length=option.length - option.off)
        self.document.edit(fitted, f"fit to {clock(option.length - option.off)}")
        self.said.emit(f"{option.title}. Now {clock(option.length, tenths=True)} long. Ctrl+Z takes it back.")

    def keep_in_library(self, name: str, purpose: object, about: str, whole: bool) -> None:
        """Save the chosen set, or the whole session, among the producer's own."""
        from nafas.library.own import LibraryEntry, keep

        folder = self.document.folder

        def whole_path(asset: Asset) -> Asset:
            return asset.model_copy(update={"path": str(real_path(folder / asset.path))})

        permit_readable(self.session, folder)  # its files are found from there, wherever the entry is used
        said: dict[str, object] = {"name": name.strip(), "purpose": purpose, "about": about.strip()}
        if whole:
            said["session"] = with_assets(self.session, whole_path)
        else:
            block = self.session.blocks[self.chosen.block]
            if isinstance(block, BreathSet) and block.count_from is not None:
                own = {"count_from": None, "count_length": self.session.count_length_of(block)}
                block = block.model_copy(update=own)
            block = with_assets(block, whole_path)
            said["block"] = block.model_copy(update={"title": name.strip(), "locked": False})
        try:
            kept = keep(LibraryEntry.model_validate(said))
        except (ValueError, InputError) as error:
            self.said.emit(message_of(error))
            return
        self.said.emit(f"Kept {kept.entry.name} in your library")
