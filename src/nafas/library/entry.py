"""One entry of the library: a named pattern or a whole-session outline, with its purpose and its cautions."""

from fractions import Fraction
from typing import Annotated, Literal

from pydantic import Field, model_validator

from nafas.languages import library_words, printed_cautions
from nafas.script.edits.rewording import reworded, reworded_block
from nafas.script.edits.session_edits import change, with_blocks
from nafas.script.model.blocks import Block, BreathSet, Strokes, Talk, Title
from nafas.script.model.phase import Model
from nafas.script.model.sentences import sentences
from nafas.script.model.session import Session
from nafas.script.words.cautions import CAUTIONS, caution_words, cautions_for

_TITLE = "Cautions"
Purpose = Literal["wake", "steady", "unwind", "sleep"]
PURPOSES: tuple[tuple[Purpose, str], ...] = (
    ("wake", "Wake up"),
    ("steady", "Steady"),
    ("unwind", "Wind down"),
    ("sleep", "Sleep"),
)


class LibraryEntry(Model):
    """What one library file holds: a pattern's `block`, or an outline's `session`.

    Attributes:
        name, about: what it is called, and a line about it.
        purpose: the state it leads to.
        cautions: keys of `CAUTIONS` beyond those that its work asks for anyway.
    """

    format: Literal[1] = 1
    name: Annotated[Title, Field(min_length=1)]
    purpose: Purpose
    about: Annotated[str, Field(max_length=400)] = ""
    cautions: Annotated[tuple[str, ...], Field(max_length=10)] = ()
    block: Block | None = None
    session: Session | None = None

    @model_validator(mode="after")
    def _holds_one_thing(self) -> "LibraryEntry":
        if (self.block is None) == (self.session is None):
            raise ValueError("an entry holds one block or one session; take one out")
        if self.block is not None and not isinstance(self.block, BreathSet | Strokes):
            raise ValueError("an entry's block is a breath set or strokes; choose one")
        if isinstance(self.block, BreathSet) and self.block.count_from is not None:
            raise ValueError("its count length is borrowed from a set that does not come along; write its seconds")
        unknown = [key for key in self.cautions if key not in CAUTIONS]
        if unknown:
            raise ValueError(f"{unknown[0]!r} is no caution; use {', '.join(CAUTIONS)}")
        return self

    @property
    def is_outline(self) -> bool:
        return self.session is not None

    @property
    def all_cautions(self) -> tuple[str, ...]:
        """Keys of every caution it carries: those of any practice, its own, and what its work asks for."""
        blocks = [self.block] if self.block is not None else list(self.session.blocks) if self.session else []
        asked = {key for block in blocks for key in cautions_for(block)}
        return tuple(key for key in CAUTIONS if key == "every" or key in asked or key in self.cautions)

    def in_language(self, language: str) -> "LibraryEntry":
        """The entry with its words in a language, where they are the library's own; the producer's stay as they are."""
        words = {**library_words(language), **_cautions_in(language)}
        fields: dict[str, object] = {"name": words.get(self.name, self.name)}
        if self.session is not None and self.session.language == "en":
            fields["session"] = reworded(change(self.session, language=language), words)[0]
        elif self.block is not None and self.block.language is None:
            fields["block"] = reworded_block(self.block, lambda text: words.get(text, text))
        return self.model_copy(update=fields)

    def caution_talk(self, language: str) -> Talk:
        """Its cautions as talk, to stand before the work."""
        title = library_words(language).get(_TITLE, _TITLE)
        words = caution_words(self.all_cautions, language)
        return Talk(id="cautions", title=title, paragraphs=words, sentence_pause=Fraction(3, 2))

    def begun(self, language: str = "en") -> Session:
        """A new session from it: the outline's own, or the pattern after its cautions."""
        own = self.in_language(language)
        if own.session is not None:
            return own.session
        assert own.block is not None
        return with_blocks(Session(title=own.name, language=language), [self.caution_talk(language), own.block])


def _cautions_in(language: str) -> dict[str, str]:
    """The sentences of the cautions by their English ones: a caution has as many in each language."""
    own = printed_cautions(language)
    pairs = ((sentences(words), sentences(own.get(key, words))) for key, words in CAUTIONS.items())
    return {english: other for many, others in pairs for english, other in zip(many, others, strict=True)}
