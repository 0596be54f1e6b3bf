"""How a word of any language sounds to a recogniser of English: eSpeak's phonemes, each as the English ones nearest.

English words are looked up in the CMU pronouncing dictionary that the recogniser carries. All others, and words of a
producer's own that are not in it, are spelled in the phonemes of eSpeak NG (IPA) and brought to the dictionary's. The
pairs are ours, by place and manner of articulation (International Phonetic Association, Handbook, 1999; from memory).
"""

import re
import unicodedata
from itertools import islice, product

from nafas.voice.engines.espeak import Espeak

_PAIRS = """
aɪ=AY aʊ=AW ɔɪ=OY ɔø=OY ɔʏ=OY ɔy=OY eɪ=EY oʊ=OW əʊ=OW əl=AH+L a=AA|AE ɑ=AA ɐ=AH æ=AE ʌ=AH ə=AH ɚ=ER ɜ=ER e=EY|EH
ɛ=EH i=IY ᵻ=IH ɪ=IH ɨ=IH o=OW|AO ɔ=AO ɒ=AA u=UW ʊ=UH ʉ=UW ɯ=UH y=UW|IY ʏ=IH|UH ø=ER|UH œ=ER|AH ɤ=AH ɵ=UH tʃ=CH
tɕ=CH dʒ=JH dʑ=JH ts=S|T+S dz=D+Z pf=P+F ŋ=NG ɲ=N+Y ʎ=L+Y p=P b=B t=T d=D k=K ɡ=G g=G f=F v=V s=S z=Z m=M n=N l=L
ɫ=L ɭ=L ɳ=N ɴ=NG ʃ=SH ɕ=SH ʂ=SH ʒ=ZH ʑ=ZH ʐ=ZH θ=TH ð=DH x=HH|K χ=HH|K ç=HH|SH h=HH ħ=HH ɦ=HH ʁ=R|HH ʀ=R r=R ɾ=R
ɹ=R ɽ=R j=Y ʝ=Y w=W ɥ=W ʋ=V β=B|V ɸ=F ɣ=G ʈ=T ɖ=D c=K ɟ=G q=K
"""
"""Sounds of IPA and the phones nearest to them: "|" between two that may stand for one, "+" between two that follow."""
_NEAREST = {
    sound: tuple(way.replace("+", " ") for way in ways.split("|"))
    for sound, _, ways in (pair.partition("=") for pair in _PAIRS.split())
}
_NASAL, _MOST_WAYS = "\u0303", 6
_DROPPED = re.compile("[ˈˌːˑ_ʲʰʷˤʼ\u032f\u0329\u0306\u031d\u031e\u0361\u02d1?ʔ`'.\\-]|\\([a-z-]+\\)")


def phones(text: str, language: str, dictionary: bytes) -> tuple[str, ...]:
    """The ways a word or phrase may sound, each as phones of the CMU dictionary between spaces; () where none is known.

    Args:
        text: of the language.
        language: a code of eSpeak's.
        dictionary: the CMU dictionary.
    """
    if language.partition("-")[0] == "en":
        parts = [_pronounced(dictionary, word) for word in re.findall(r"[a-z']+", text.lower())]
        if parts and all(parts):
            return tuple(" ".join(way) for way in islice(product(*parts), _MOST_WAYS))
    ways: list[tuple[str, ...]] = [()]
    for options in _nearest(Espeak().phonemes(text, language)):
        ways = [(*way, option) for way in ways for option in options][:_MOST_WAYS]
    return tuple(dict.fromkeys(" ".join(way) for way in ways if way))


def _nearest(ipa: str) -> list[tuple[str, ...]]:
    """For each sound of a word in IPA the phones that may stand for it. Sounds that are not known are left out."""
    spelled = _DROPPED.sub("", unicodedata.normalize("NFD", ipa))
    options: list[tuple[str, ...]] = []
    at = 0
    while at < len(spelled):
        two = spelled[at : at + 2]
        sound = two if two in _NEAREST else spelled[at]
        if sound == _NASAL and options:
            options[-1] = tuple(f"{option} N" for option in options[-1])
        elif sound in _NEAREST:
            options.append(_NEAREST[sound])
        at += len(sound)
    return options


def _pronounced(dictionary: bytes, word: str) -> tuple[str, ...]:
    """The ways a word of the dictionary is said: "inhale IH N HH EY L", and any other as "inhale(2) …" below it."""
    name, sounds = word.encode(), list[str]()
    at = dictionary.find(b"\n" + name + b" ")
    while at >= 0:
        line, _, _ = dictionary[at + 1 : at + 200].partition(b"\n")
        sounds.append(line.partition(b" ")[2].strip().decode())
        at += 1 + len(line)
        if not dictionary.startswith(b"\n" + name + b"(", at):
            break
    return tuple(sounds)
