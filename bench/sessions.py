"""Sessions to measure on: the demo's blocks again and again, as long as wanted. Made-up, like the demo."""

from pathlib import Path

from nafas.demo import FOLDER, SESSION
from nafas.script import Block, BreathSet, Rest, Session, Talk, load_session, read_block, save_session
from nafas.script.edits.session_edits import with_blocks


def long_session(minutes: float) -> Session:
    """The demo repeated to at least `minutes`."""
    demo = load_session(SESSION)
    blocks, seconds, turn = [], 0.0, 0
    while seconds < minutes * 60:
        blocks += [block.model_copy(update={"id": f"{block.id[:30]}-{turn}"}) for block in demo.blocks]
        seconds, turn = seconds + 339.0, turn + 1
    return with_blocks(demo, blocks)


def counted_hour() -> Session:
    """60 minutes, 3,600 counts, forty sets."""
    blocks = [
        BreathSet.model_validate({"id": f"s{n}", "pattern": "4-2-6-3" if n % 2 else "4-11", "rounds": 6})
        for n in range(40)
    ]
    return Session(blocks=tuple(blocks), opening=0, closing=0)


def forty_blocks() -> Session:
    """Forty blocks of every kind: talk, rests, sets with pacing and fade, strokes. About half an hour."""
    sets = (
        "4-4-4-4 x2 step 1 to 8 ease 20s",
        "4-6 x9 fade full 3 cues 3 chimes",
        "in L 4, out R 4, in R 4, out L 4 x5",
    )
    sets += (
        "rapid 40 @ 60/min",
        "4-6 x10 glide to 1.2s",
        "3-3 x4 ladder 1 3/2 2",
        "5-5-5 x4 fade full 2 silent about 60s full 1",
    )
    blocks: list[Block] = []
    for n in range(13):
        blocks.append(Talk(id=f"t{n}", paragraphs=("Now the next one. Let it be easy.",)))
        blocks.append(read_block(sets[n % len(sets)], f"s{n}"))
        blocks.append(Rest(id=f"r{n}", seconds=30))
    return Session(blocks=(*blocks, Rest(id="end", seconds=30)))


def saved(session: Session, folder: Path) -> Path:
    """A session file that finds the demo's takes."""
    path = folder / "bench.nafas"
    book = session.voice.take_book
    assert book is not None
    moved = book.model_copy(update={"path": str(FOLDER / "takes")})
    save_session(session.model_copy(update={"voice": session.voice.model_copy(update={"take_book": moved})}), path)
    return path
