"""The shipped outlines: whole sessions to start from, by purpose and length.

The words promise no number of rounds, so that an outline can be fitted to another length and still be true.
"""

from fractions import Fraction

from nafas.library.patterns import ARMS
from nafas.script.model.beds import BlockBed
from nafas.script.model.blocks import Block, CountStyle, Rest, Talk
from nafas.script.model.session import Session
from nafas.script.model.voice_level import VoiceLevel
from nafas.script.notation.block import read_block
from nafas.script.words.cautions import CAUTIONS, caution_words, cautions_for

_SIT = "Sit with your back long and your shoulders easy. Rest your hands. Close your eyes if you like."
_BELL = "When the bell sounds, open your eyes."
_LIE = "Lie down, or lean back, and let your weight be carried. Close your eyes."


def _talk(name: str, title: str, *paragraphs: str) -> Talk:
    return Talk(id=name, title=title, paragraphs=paragraphs, sentence_pause=Fraction(3, 2))


def _rest(name: str, title: str, seconds: int, words: str) -> Rest:
    rest_words = (words,) if words else ()
    return Rest(id=name, title=title, seconds=Fraction(seconds), paragraphs=rest_words, sentence_pause=Fraction(3))


def _set(name: str, title: str, notation: str, **more: object) -> Block:
    block = read_block(notation, name)
    fields = {field: getattr(block, field) for field in type(block).model_fields}
    return type(block).model_validate({**fields, "title": title, **more})


def _session(
    title: str, length: int, greeting: str, posture: str, body: list[Block], close: str, **more: object
) -> Session:
    asked = tuple(dict.fromkeys(key for block in body for key in cautions_for(block)))
    extra = ("sleep",) if more.pop("sleep", False) else ()
    cautions = [CAUTIONS["every"], *caution_words((*asked, *extra))]
    blocks: list[Block] = [
        _talk("greeting", "Greeting", greeting),
        _talk("cautions", "Cautions", *cautions),
        _talk("posture", "Posture", posture),
        _rest("before", "Natural breath", 40, "Notice your natural breath. There is nothing to change."),
        *body,
        _rest("after", "A look after", 40, "Breathe naturally. Notice how you are now."),
        _talk("close", "Close", close if not more.get("end_bell", True) else f"{close} {_BELL}"),
    ]
    blocks = _fading(blocks) if extra else blocks
    return Session.model_validate({"title": title, "target_length": length, "blocks": blocks, **more})


def _fading(blocks: list[Block]) -> list[Block]:
    """The voice goes down through the last set, and it and the bed stay so until the end (our own levels)."""
    last = max(n for n, block in enumerate(blocks) if block.kind == "breath")
    quiet = {"voice": VoiceLevel(level=-5), "bed": BlockBed(level=-5)}
    return [
        *blocks[:last],
        blocks[last].replace(voice=VoiceLevel(to=-5)),
        *(block.replace(**quiet) for block in blocks[last + 1 :]),
    ]


def wake_short() -> Session:
    return _session(
        "A short lift", 420, "Welcome. This is a short practice to wake up the breath.", _SIT,
        [
            _talk("how-rapid", "How it works", "Breathe out sharply, and let the breath come in by itself. First slowly."),
            _set("rapid-1", "Rapid exhale, first set", "rapid 10 @ 40/min every 5 demo 4 @ 12/min rest 40s",
                 recovery_words="Breathe as you like. Let it settle."),
            _set("rapid-2", "Rapid exhale", "rapid 20 @ 60/min every 10 rest 45s",
                 recovery_words="Breathe naturally. Notice the change."),
            _talk("how-even", "Even breath", "Now in and out alike, for four counts."),
            _set("even", "Even breath", "4-4 x5"),
        ],
        "Move your fingers and your feet. Thank you.",
    )  # fmt: skip


def wake_long() -> Session:
    return _session(
        "Open, energise, settle", 660, "Welcome. We open the breath, wake it up, and let it settle again.", _SIT,
        [
            _talk("how-open", "How to open", "We begin in and out for four counts, with the arms."),
            _set("open", "Arms and breath", ARMS),
            _rest("ease-1", "Ease", 25, "Let your arms rest."),
            _talk("how-bellows", "How it works", "Now both ways are active: in as the arms go up, out as they come down."),
            _set("bellows", "Bellows", "bellows 40 @ 50/min every 10 arms demo 4 @ 10/min rest 60s",
                 recovery_words="Let your arms rest. Breathe as you like."),
            _talk("how-hold", "How to hold", "Breathe out and in, then in until you are two thirds full, and hold. Let go whenever you want."),
            _set("hold", "Hold", 'out 4, in 4, out 4, in 4 to 2/3, hold 30s calls half 10 5 release, out 6 "and out" x1'),
            _rest("ease-2", "Ease", 45, "Breathe naturally, and let it settle."),
            _talk("how-long", "Quieten", "Last, in for four and out for six."),
            _set("quieten", "Long exhale", "4-6 x8", fade=({"level": "full", "rounds": 3}, {"level": "cues"})),
        ],
        "Thank you.",
    )  # fmt: skip


def steady_short() -> Session:
    return _session(
        "Five steady minutes", 300, "Welcome. We take a few minutes to steady the breath.", _SIT,
        [
            _talk("how", "How it works", "Breathe in for four, hold for four, out for four, and rest for four."),
            _set("square", "Square", "4-4-4-4 x7", prepare="3-4",
                 fade=({"level": "full", "rounds": 3}, {"level": "cues"})),
        ],
        "Take one deep breath. Thank you.",
    )  # fmt: skip


def steady_long() -> Session:
    return _session(
        "Sides and squares", 660, "Welcome. We balance the breath from side to side, and then make it even.", _SIT,
        [
            _talk("how-sides", "How it works", "Close one side, and change sides after every breath in. We begin on the left."),
            _set("sides", "Alternate sides", "in L 4, out R 4, in R 4, out L 4 x5 @ 1.35s",
                 style=CountStyle(announce_last=True)),
            _rest("ease-1", "Ease", 40, "Let your hand rest. Breathe through both sides."),
            _talk("how-square", "Growing square", "Now four even sides. They grow by one count at a time."),
            _set("growing", "Square, growing", "4-4-4-4 x2 step 1 to 6 drop step ease 20s",
                 ease_words="Relax, and take a natural breath."),
            _rest("ease-2", "Ease", 45, "Breathe as you like."),
            _talk("how-alone", "Practise alone", "Now five in, five held, five out. After a few rounds you go on alone, with the chimes."),
            _set("alone", "Equal with a top hold", "5-5-5 x4 fade full 3 chimes at-least 60s full 1"),
        ],
        "Move your fingers and your shoulders. Thank you.",
    )  # fmt: skip


def unwind_short() -> Session:
    return _session(
        "Letting the day go", 360, "Welcome. This is a quiet practice for the end of the day.", _SIT,
        [
            _talk("how", "How it works", "Breathe in for four, and out for six. Smaller is fine."),
            _set("long", "Long exhale", "4-6 x8", prepare="3-4"),
            _rest("ease", "Ease", 30, "Breathe as you like. Notice what has changed."),
            _talk("how-hum", "Humming", "Now hum softly, all the way out."),
            _set("hum", "Humming exhale", "in 4 nose, out 8 hum x5"),
        ],
        "Let the sound fade. Thank you.",
    )  # fmt: skip


def unwind_long() -> Session:
    return _session(
        "A longer way out", 600, "Welcome. We let the breath out grow, step by step.", _SIT,
        [
            _talk("how-ladder", "How it works", "In for four, and out for four. Then the way out grows to six, and to eight."),
            _set("ladder", "Ratio ladder", "4-4 x4 ladder 1 3/2 2 ease 25s",
                 ease_words="Relax. Take a natural breath."),
            _rest("ease-1", "Ease", 45, "Breathe as you like."),
            _talk("how-hold", "A soft hold", "Now in for four, a soft hold for two, and out for eight."),
            _set("hold", "Hold and long exhale", "4-2-8 x8",
                 fade=({"level": "full", "rounds": 3}, {"level": "cues", "rounds": 2}, {"level": "chimes"})),
            _rest("quiet", "Quiet", 60, "Let the count go, and rest."),
        ],
        "Stretch a little. Thank you.",
    )  # fmt: skip


def sleep_short() -> Session:
    return _session(
        "Toward sleep", 480, "Welcome. Let this lead you toward sleep.", _LIE,
        [
            _talk("how", "How it works", "Breathe in for four, and out for six. Each count is a little slower than the last."),
            _set("slower", "Slower and slower", "4-6 x12 glide to 1.25s fade full 4 cues 4 chimes"),
            _rest("rest", "Rest", 80, "Let the count go."),
        ],
        "Stay as long as you like. Good night.",
        end_bell=False, closing=40, sleep=True,
    )  # fmt: skip


def sleep_long() -> Session:
    return _session(
        "A long quiet night", 720, "Welcome. There is nothing to do now but breathe, and rest.", _LIE,
        [
            _talk("how-regions", "Three places", "Let the breath fill the belly, then the ribs, then the chest, and leave again."),
            _set("regions", "Three regions", "in 2~2~2 (belly, ribs, chest), out 2~2~2 (chest, ribs, belly) x8 @ 1.35s"),
            _rest("ease", "Ease", 50, "Breathe as you like."),
            _talk("how-long", "A longer way out", "Now in for four, and out for eight. After a while the voice leaves, and you go on alone."),
            _set("long", "Long exhale", "4-8 x16 fade full 4 cues 4 chimes 4 silent"),
            _rest("rest", "Rest", 90, "Let the count go. Rest."),
        ],
        "Good night.",
        end_bell=False, closing=60, sleep=True,
    )  # fmt: skip


OUTLINES = (
    ("wake", wake_short, "A rapid set in two steps, then even breath.", ()),
    ("wake", wake_long, "Arms, bellows, a hold after it, and a quiet end.", ()),
    ("steady", steady_short, "Square breath, the voice leaving half-way.", ()),
    ("steady", steady_long, "Alternate sides, a growing square, practice alone.", ()),
    ("unwind", unwind_short, "Long exhale and humming.", ()),
    ("unwind", unwind_long, "A ratio ladder, then a soft hold.", ()),
    ("sleep", sleep_short, "Slower and slower counts, no bell.", ("sleep",)),
    ("sleep", sleep_long, "Three regions, long exhale, silence, no bell.", ("sleep",)),
)
"""(purpose, what makes it, a line about it, cautions beyond those its work asks for)."""
