"""Sessions small and odd enough that most of what a script can ask for is in one of them."""

from pathlib import Path

from nafas.library.own import shipped
from nafas.script import Rest, Session, Talk, read_block
from nafas.script.edits.session_edits import insert_blocks
from nafas.script.model.blocks import Block

TYPED = Path(__file__).parents[1] / "script" / "typed.tsv"
_TALK = Talk(
    id="talk",
    title="At the rail",
    paragraphs=("Sit by the rail. [3s] Let the watch go. It is 6 minutes.", "Breathe in for four, and out for six."),
)
_REST = Rest(id="rest", seconds=25, shortest=20, longest=40, paragraphs=("Let the breath go on by itself.",))
_LINES = (
    "4-2-8 x3 @ 0.9s",
    "4-4 x2 step 1 to 6 ease 8s",
    "4-4-6 x2 ladder 1 3/2 2 round down",
    "5-5 x4 glide to 1.3s fade full 2 cues 1 chimes",
    "in L 4, hold 8, out R 8, in R 4, hold 8, out L 8 x2",
    "in 4 nose, out 6 mouth hum x2",
    "in 2+2+2, out 6 x2",
    "in 4, hold 45s calls half 10 5 release, out 6 x1",
    "4-4-4-4 x2 say ahead 2 first 4 down",
    '4-6 x3 say long last carrier "sea"',
    'in 4 long "breathe in softly" move "arms up", hold 2 tick, out 6 "let it go" x2 @ 50/min',
    "in 2~2~2 (belly, ribs, chest), out 3+3 through (chest: arms down, belly) x2",
    'in 4 to 2/3, hold 30s calls +20 5 "nearly", out 5 sigh, hold-empty 3 silent x2',
    "4-4 x2 step -1 to 2 drop last",
    "4-6 x2; 4-7 x1 @ 1.1s; 4-8 x2",
    "rapid 40 @ 60/min every 10 down demo 5 @ 10/min count-in 3 rest 45s",
    "bellows 20 @ 50/min arms quiet",
    "in 4, out 8 ahead 3 x2",
    "4-6 x8 fade full 3 silent about 60s full 1",
)


_TYPED = """
rapid 40 at 60 | rapid exhale for 30 seconds | bellows 20 at 50 bpm | rapid for 1 minute at 80 per minute, 20 times
rapid | rest 90 | rest for 2 minutes | 601 rapid | 4-4 > 6-6 | 4-4 to 4-8 | 3-3 to 6-6 x2 | 4-4 to 5 | 4-4 to 4-4
60-60 | 61-61 | 4-6 x500 | 4-6 x501 | 4-6 x0 | 4-6 @ 0.2s | 4-6 @ 0.19s | 4-6 @ 7s | 4-6 for 0 min
hold 300s | hold 301s | 4-6 x
box | 4-7-8 twice | in 4 | out 6 | hold 4 | 4 | left in 4 | in four out six for ten minutes | 4-4-4-4 x4 slower
"""


def typed_lines() -> list[str]:
    """Lines as producers type them, and lines at and over every bound."""
    lines = [f"{line.strip()}\t" for row in _TYPED.splitlines() for line in row.split("|") if line.strip()]
    lines += TYPED.read_text(encoding="utf-8").splitlines()
    return [line.split("\t")[0] for line in lines if line and not line.startswith("#")]


def notations() -> list[str]:
    """Breath notation of every kind: of the lines above and of what typed lines become; those that read alone."""
    right = [line.split("\t")[1] for line in TYPED.read_text(encoding="utf-8").splitlines() if "\t" in line]
    every = [*_LINES, *(part.strip() for text in right for part in text.replace("/ ", ";").split(";"))]
    found = []
    for text in dict.fromkeys(every):
        try:
            read_block(text)
        except ValueError:
            continue
        found.append(text)
    return found


def scenes() -> dict[str, Session]:
    """Sessions by name: every entry of the library, and notation in six languages between talk and rest."""
    made = {entry.entry.name: entry.entry.begun() for entry in shipped()}
    lines = notations()
    for number, language in enumerate(("en", "es", "fr", "it", "pt", "de")):
        title = f"Watch {number + 1}"
        session = Session(title=title, language=language, target_length=600)
        blocks: list[Block] = [_TALK, *(read_block(line) for line in lines[number::6]), _REST]
        for block in blocks:
            try:
                session = insert_blocks(session, len(session.blocks), [block])
            except ValueError:  # a language that has no words for it
                continue
        made[title] = session
    return made
