"""The lexicon of one session: every word it says of its own accord, in its language, with its own wording put first."""

from dataclasses import dataclass
from functools import cache, cached_property

from nafas.languages import cues, language_name, number_words, phrases
from nafas.script.model.phase import Phase, PhaseKind
from nafas.script.words.wording import Wording

CUE_KEYS = {
    PhaseKind.INHALE: "inhale",
    PhaseKind.HOLD_FULL: "hold_full",
    PhaseKind.EXHALE: "exhale",
    PhaseKind.HOLD_EMPTY: "hold_empty",
}
_LONG = dict(zip(PhaseKind, ("long_in", "long_full", "long_out", "long_empty")))
_SIDES = {"L": "left", "R": "right", "both": "both"}


@cache
def count_word(count: int, language: str) -> str:
    """The word for a number, 0 to 999, in one of `LANGUAGES`."""
    own = number_words(language)
    if own:
        hundreds, rest = divmod(count, 100)
        words = [f"{own[hundreds]} सौ"] if hundreds else []  # Hindi is the one language that num2words has not
        return " ".join([*words, own[rest]] if rest or not hundreds else words)
    from num2words import num2words  # imported late: `nafas --version` must not pay for it

    language, _, region = language.partition("-")
    return str(num2words(count, lang=f"{language}_{region.upper()}" if region else language))


@cache
def lexicon_of(language: str, wording: Wording) -> "Lexicon":
    """The lexicon of a language and a session's own wording: one object for the same two."""
    return Lexicon(language, wording)


@dataclass(frozen=True, eq=False)
class Lexicon:
    """Words by meaning. Compared and hashed by identity, so that what is built from it can be kept cheaply."""

    language: str
    wording: Wording

    def count(self, number: int) -> str:
        """The word for a number, 0 to 999."""
        return count_word(number, self.language)

    def find(self, key: str) -> str | None:
        """The session's own words for a key of the phrases, else its language's, else None."""
        own: str | None = getattr(self.wording, key, None)
        return own if own is not None else phrases(self.language).get(key)

    def say(self, key: str) -> str:
        """As `find`. Raises ValueError where there are no words."""
        result = self.find(key)
        if result is None:
            what = key.replace("_", " ")
            name = language_name(self.language)
            raise ValueError(f"{name} has no words for {what!r} here; write them in the session's wording")
        return result

    def kind(self, kind: PhaseKind) -> str:
        """The plain cue for a phase kind."""
        return self._kinds[kind]

    @cached_property
    def _kinds(self) -> dict[PhaseKind, str]:
        usual = dict(zip(PhaseKind, cues(self.language)))
        return {kind: getattr(self.wording, CUE_KEYS[kind]) or usual[kind] for kind in PhaseKind}

    def cue(self, phase: Phase, long: bool = False, mind: bool = False, ways: bool = False) -> str:
        """What is said at the beginning of a phase.

        Args:
            phase: with the words of its own, if it has any.
            long: the long form of the first round, where the language has one.
            mind: the breath is only thought of, without hands; said here.
            ways: its route and its fill are named, where the language has words for them.

        Raises:
            ValueError: its language has no words for a side, a sound or the mind.
        """
        if long and phase.long_cue is not None:
            return phase.long_cue
        if phase.cue is not None:
            return phase.cue
        base = self.say(phase.sound.value) if phase.sound else self.kind(phase.kind)
        named = long and not phase.sound and self._long(phase)
        base = named or (f"{base}{self._way(phase)}" if ways else base)
        if phase.side is not None:
            base = (self.find("sided") or "{cue} {side}").format(cue=base, side=self.say(_SIDES[phase.side.value]))
        return f"{self.say('mind')}, {base}" if mind else base

    def _long(self, phase: Phase) -> str | None:
        own = getattr(self.wording, CUE_KEYS[phase.kind])
        template = None if own else self.find(_LONG[phase.kind])
        if template is None:
            return None
        return " ".join(template.format(way=self._way(phase)).split())

    def _way(self, phase: Phase) -> str:
        """ " through the nose until two thirds full"; "" where nothing is written or the language has no words."""
        way = (self.find(phase.route.value) or "") if phase.route else ""
        fill = self.find(str(phase.fill)) if phase.fill else None
        if fill is not None and self.find("fill"):
            way += self.say("fill").format(n=fill)
        return way

    def left(self, units: int, seconds: bool, counted: bool) -> str:
        """The call so many counts or seconds before the end.

        Five seconds are "five more seconds", other seconds their number. Among counts that are spoken a bare number
        would be one of them: there it is "ten more".
        """
        if seconds and units == 5:
            return self.say("more").format(n=self.count(units))
        more = self.find("more_counts") if counted or not seconds else None
        return more.format(n=self.count(units)) if more else self.count(units)
