"""How many planted faults the review finds, and how often it finds what is not there.

Clean sessions are the shipped outlines, the demo, and sessions made here whose words promise what is built, in many
wordings and six languages. Into each one fault at a time is planted. A fault counts as found when the check that is
meant for it finds something it did not find in the clean session; false is whatever must or should be changed in a
clean one. Only what is read of the script and its times is measured here, not the sound.

Usage: python bench/checks.py
"""

import random
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator
from fractions import Fraction

from nafas.demo import SESSION
from nafas.library.outlines import OUTLINES
from nafas.review.checks.finding import Severity, Subject
from nafas.review.checks.register import CHECKS, review
from nafas.script import Rest, Session, Talk, load_session, read_block
from nafas.script.edits.session_edits import change, change_block, insert_block, with_blocks
from nafas.script.model.blocks import BreathSet, Strokes
from nafas.script.words.cautions import CAUTIONS, caution_words, cautions_for
from nafas.script.words.lexicon import count_word
from nafas.timing import compile_session, paced

ROUNDS = {
    "en": ("{n} rounds.", "We do {n} rounds.", "For {n} rounds, gently.", "Let us take {n} rounds together.", "Repeat it {n} times.", "There are {N} rounds.", "{N} rounds, then we rest.", "It goes round {n} times."),
    "de": ("{n} Runden.", "Wir atmen {n} Runden."),
    "fr": ("{n} cycles.", "Nous faisons {n} cycles."),
    "es": ("{n} rondas.", "Hacemos {n} ciclos."),
    "it": ("{n} cicli.", "Facciamo {n} cicli."),
    "ru": ("{N} раундов.", "Всего {N} циклов."),
}  # fmt: skip
COUNTS = {
    "en": ("We breathe in for {i}, and out for {o}.", "Inhale for {i} counts, exhale for {o}.", "Breathe in through the nose for {I}, and out through the mouth for {O}.", "In for a count of {i}, out for a count of {o}.", "{i} in, {o} out."),
    "de": ("Einatmen für {I}, ausatmen für {O}.", "Einatmen auf {i}, ausatmen auf {o}."),
    "fr": ("Inspirez sur {i}, expirez sur {o}.", "Inspirez pendant {I}, expirez pendant {O}."),
    "es": ("Inhala en {i}, exhala en {o}.", "Inhala contando {i}, exhala contando {o}."),
    "it": ("Inspira per {i}, espira per {o}.", "Inspira in {I}, espira in {O}."),
    "ru": ("Вдох на {i}, выдох на {o}.", "Вдох на {I}, выдох на {O}."),
}  # fmt: skip
SAFE = {
    "de": "Wenn dir schwindlig wird, hör auf und atme ruhig. Nie erzwingen. Nicht beim Fahren, im Wasser oder an Maschinen. Es ersetzt keinen Arzt. Bei Schwangerschaft oder Herzleiden frag zuerst.",
    "fr": "En cas de vertige ou de malaise, arrêtez. Ne jamais forcer. Pas au volant, dans l'eau ou à une machine. Cela ne remplace pas un médecin. Enceinte ou cardiaque, demandez d'abord.",
    "es": "Si te mareas, para y respira. No lo fuerces nunca, sin esfuerzo. No al conducir, en el agua ni con máquinas. No sustituye al médico. En el embarazo o con una enfermedad, pregunta.",
    "it": "Se hai un capogiro, fermati. Non forzare mai. Non alla guida, in acqua o con macchine. Non sostituisce il medico. In gravidanza o con una malattia, chiedi prima.",
    "ru": "При головокружении остановитесь. Никогда не дышите через силу, без усилий. Не за рулём, не в воде и не у машин. Это не заменяет врача. При беременности или заболевании спросите.",
}  # fmt: skip
CURES = ("This heals the heart.", "It detoxes your body.", "It lowers your blood pressure.", "It boosts your immune system.", "This cures asthma.", "You flush out toxins.")  # fmt: skip
SHAMES = ("Don't give up now.", "Push through it.", "You must hold to the end.", "Fight the urge to breathe.", "No excuses.", "Don't let go yet.")  # fmt: skip


def words(number: int, language: str) -> str:
    return count_word(number, language)


def made(draw: random.Random, language: str) -> tuple[Session, dict[str, int]]:
    """A clean session with one or two sets whose words promise what is built."""
    into, out = draw.randint(3, 5), draw.randint(6, 9)
    rounds = draw.randint(4, 14)
    told = {"i": words(into, language), "o": words(out, language), "I": str(into), "O": str(out)}
    how = draw.choice(COUNTS[language]).format(**told)
    many = draw.choice(ROUNDS[language]).format(n=words(rounds, language), N=str(rounds))
    many, how = many[0].upper() + many[1:], how[0].upper() + how[1:]
    safe = CAUTIONS["every"] if language == "en" else SAFE[language]
    opening = [Talk(id="cautions", paragraphs=(safe,)), Talk(id="how", paragraphs=(f"{how} {many}",), pause_after=3)]
    work = read_block(f"{into}-{out} x{rounds}", "work")
    end = ["Thank you. When the bell sounds, open your eyes."] if language == "en" else []
    blocks = [*opening, work, Rest(id="rest", seconds=Fraction(20)), *(Talk(id="end", paragraphs=(t,)) for t in end)]
    session = Session.model_validate(
        {"title": "Watch below", "language": language, "blocks": blocks, "end_bell": bool(end), "target_length": None}
    )
    return session, {"rounds": rounds, "into": into, "out": out}


def clean(draw: random.Random) -> Iterator[tuple[str, Session]]:
    yield "demo", change(load_session(SESSION), target_length=None)
    for _, make, about, _ in OUTLINES:
        yield f"outline: {about}", change(make(), target_length=None)
    for number in range(60):
        language = ("en", "en", "en", "de", "fr", "es", "it", "ru")[number % 8]
        yield f"made {number} ({language})", made(draw, language)[0]


Fault = tuple[str, Callable[[Session], Session | None]]


def place_of(session: Session, kind: type) -> int | None:
    return next((place for place, block in enumerate(session.blocks) if isinstance(block, kind)), None)


def faults(draw: random.Random) -> list[Fault]:
    """(the check that is meant for it, how it is planted: None where a session has no place for it)."""

    def rounds(session: Session) -> Session | None:
        place = place_of(session, BreathSet)
        block = session.blocks[place] if place is not None else None
        if not isinstance(block, BreathSet) or block.pacing is not None or block.fade:
            return None
        if not any(subject_says(session, "promised-rounds", block.rounds + more) for more in (1, 2)):
            return None
        return change_block(session, place, rounds=block.rounds + draw.choice((-1, 1, 2)))

    def counts(session: Session) -> Session | None:
        if not session.title.startswith("Watch"):
            return None
        place = place_of(session, BreathSet)
        block = session.blocks[place]
        phases = list(block.pattern.phases)
        which = draw.choice((0, 1))
        phases[which] = phases[which].model_copy(update={"counts": phases[which].counts + 1})
        return change_block(session, place, pattern=block.pattern.model_copy(update={"phases": tuple(phases)}))

    def said(text: str, before: bool = True) -> Callable[[Session], Session | None]:
        def plant(session: Session) -> Session | None:
            place = place_of(session, BreathSet)
            if session.language != "en" or place is None:
                return None
            return insert_block(
                session, place if before else place + 1, Talk(id="planted", paragraphs=(text,), pause_after=3)
            )

        return plant

    def without(*keys: str) -> Callable[[Session], Session | None]:
        def plant(session: Session) -> Session | None:
            kept = [block for block in session.blocks if block.id != "cautions"]
            asked = {key for block in session.blocks for key in cautions_for(block)} | {"every"}
            if len(kept) == len(session.blocks) or not set(keys) <= asked:
                return None
            left = tuple(key for key in CAUTIONS if key in asked and key not in keys)
            if session.language == "en" and left:
                kept.insert(0, Talk(id="cautions", paragraphs=caution_words(left)))
            return with_blocks(session, kept)

        return plant

    def late(session: Session) -> Session | None:
        talk = [block for block in session.blocks if block.id == "cautions"]
        rest = [block for block in session.blocks if block.id != "cautions"]
        return with_blocks(session, [*rest, *talk]) if talk else None

    def sentence_lost(session: Session) -> Session | None:
        place = next((p for p, block in enumerate(session.blocks) if block.id == "cautions"), None)
        if place is None or session.language != "en":
            return None
        text = " ".join(session.blocks[place].paragraphs)
        lost = draw.choice(
            (
                " Never force it.",
                "Do not practise while driving, in or near water, or at a machine. ",
                "This does not replace medical care. ",
            )
        )
        return (
            change_block(session, place, paragraphs=(text.replace(lost, "", 1),))
            if text.count("force") == 1 or "driv" in lost or "medical" in lost
            else None
        )

    def silence(session: Session) -> Session | None:
        place = place_of(session, BreathSet)
        return (
            insert_block(session, place, Rest(id="planted", seconds=Fraction(draw.randint(110, 240))))
            if place is not None
            else None
        )

    def rushed(session: Session) -> Session | None:
        place = place_of(session, BreathSet)
        return insert_block(session, place + 1, read_block("4-4 x4", "planted")) if place is not None else None

    def bell(session: Session) -> Session | None:
        return change(session, end_bell=False) if session.language == "en" and session.end_bell else None

    def recovery(session: Session) -> Session | None:
        place = place_of(session, Strokes)
        if place is None:
            return insert_block(session, 2, read_block("rapid 20 @ 60/min rest 5s", "planted"))
        return change_block(session, place, recovery=Fraction(5))

    def direction(session: Session) -> Session | None:
        own = {"en": "breathe out", "de": "ausatmen", "fr": "expirez", "es": "exhala", "it": "espira", "ru": "выдох"}
        if place_of(session, BreathSet) is None:
            return None
        return change(session, wording=session.wording.model_copy(update={"inhale": own[session.language]}))

    def eyes(session: Session) -> Session | None:
        if session.language != "en" or place_of(session, Strokes) is not None or session.title.startswith("Watch"):
            return None
        return insert_block(
            change(session, title="For sleep"), len(session.blocks), Talk(id="planted", paragraphs=("Open your eyes.",))
        )

    def close(session: Session) -> Session | None:
        place = place_of(session, BreathSet)
        if (
            place is None
            or not isinstance(session.blocks[place - 1], Talk)
            or session.blocks[place].prepare is not None
        ):
            return None
        return change_block(session, place - 1, pause_after=Fraction(0))

    return [
        ("promised-rounds", rounds), ("promised-counts", counts), ("cautions-every", without("every")),
        ("cautions-every", late), ("cautions-every", sentence_lost), ("cautions-rapid", without("rapid")),
        ("cautions-holds", without("holds")), ("cautions-steps", without("steps")),
        ("cure", lambda s: said(draw.choice(CURES))(s)), ("shaming", lambda s: said(draw.choice(SHAMES))(s)),
        ("promised-length", said("The next part lasts nine minutes.")), ("promised-sets", said("Seven sets follow.")),
        ("promised-alone", said("Then nineteen more on your own.")), ("named-technique", said("We do ocean box breathing.")),
        ("silence", silence), ("rushed", rushed), ("end-bell", bell), ("recovery", recovery), ("direction", direction),
        ("open-eyes", eyes), ("first-count", close),
    ]  # fmt: skip


def subject_says(session: Session, check: str, number: int) -> bool:
    """Whether the words of a session promise rounds at all."""
    place = place_of(session, BreathSet)
    if place is None:
        return False
    try:
        other = change_block(session, place, rounds=number)
    except ValueError:
        return False
    return any(finding.check == check for finding in found(other))


def found(session: Session) -> tuple:
    return review(Subject(compile_session(session, paced(session.voice.pace)))).open


def main() -> None:
    draw = random.Random(7)
    planted: Counter[str] = Counter()
    hits: Counter[str] = Counter()
    false: defaultdict[str, list[str]] = defaultdict(list)
    missed: list[str] = []
    sessions = list(clean(draw))
    for name, session in sessions:
        before = found(session)
        for finding in before:
            if finding.severity is not Severity.LOOK:
                false[finding.check].append(f"{name}: {finding.text}")
        for check, plant in faults(draw):
            try:
                faulty = plant(session)
            except ValueError:
                continue
            if faulty is None or faulty == session:
                continue
            planted[check] += 1
            if {f.text for f in found(faulty) if f.check == check} - {f.text for f in before if f.check == check}:
                hits[check] += 1
            else:
                missed.append(f"{check}: {name}")
    for check in sorted(planted):
        print(f"  {check:18} found {hits[check]:3} of {planted[check]:3}   false in clean sessions {len(false[check])}")
    total, judged = sum(planted.values()), len(sessions) * len(CHECKS)
    wrong = sum(map(len, false.values()))
    print(f"found {sum(hits.values())} of {total} planted ({sum(hits.values()) / total:.1%})")
    print(f"false {wrong} in {len(sessions)} clean sessions, of {judged} verdicts ({wrong / judged:.2%})")
    for line in [*missed, *(text for texts in false.values() for text in texts)]:
        print(f"  ! {line}")


if __name__ == "__main__":
    main()
