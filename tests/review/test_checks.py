"""The review: each check has a session that fails it and a near miss that does not; shipped sessions pass.

Bounds are common practice, no source, as the checks say.
"""

import json
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from nafas.cli.main import main
from nafas.demo import SESSION
from nafas.library.outlines import OUTLINES
from nafas.review.checks.cautions import CONFIRMED
from nafas.review.checks.finding import Severity, Subject
from nafas.review.checks.reading import read
from nafas.review.checks.register import CHECKS, review, subject_of
from nafas.script import Rest, Session, Talk, load_session, read_block, save_session
from nafas.script.edits.session_edits import change, with_set_aside
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FileBed, NightSea
from nafas.script.words.cautions import CAUTIONS, caution_words
from nafas.state.own_words import confirm, forget
from nafas.tasks.check import CheckRequest
from nafas.tasks.check import run as check_task
from nafas.tasks.exit_codes import ExitCode
from nafas.timing import compile_session, paced
from nafas.voice import cast_session
from nafas.voice.misfits import Misfit, MisfitKind

SAFE = " ".join(CAUTIONS.values())


def written(*parts, **fields):
    """A session: text is talk, a number is natural breath of so many seconds, "= 4-6 x8" is a set."""
    blocks = []
    for number, part in enumerate(parts):
        name = f"b{number}"
        if isinstance(part, int):
            blocks.append(Rest(id=name, seconds=Fraction(part)))
        elif part.startswith("="):
            blocks.append(read_block(part[2:], name))
        else:
            blocks.append(Talk(id=name, paragraphs=(part,), pause_after=3))
    return Session(**{"title": "Watch below", "end_bell": False, "blocks": tuple(blocks), **fields})


def found(session, name=None):
    subject = Subject(compile_session(session, paced(session.voice.pace)))
    return [finding for finding in review(subject).open if name is None or finding.check == name]


SIDES = "= in L 4, out R 4, in R 4, out L 4 x5"
PAIRS = {
    "illness-named": [
        (written("Tumours shrink with this breath.", "= 4-6 x7"), written("With asthma, ask your doctor.", "= 4-6 x7")),
        (written("Diga adeus à diabetes.", "= 4-6 x7", language="pt"), written("Diga adeus.", "= 4-6 x7")),
    ],
    "promised-rounds": [
        (written("Eight rounds.", "= 4-6 x7"), written("Eight rounds.", "= 4-6 x8")),
        (written("Twenty-five strokes.", "= rapid 20 @ 60/min"), written("Twenty strokes.", "= rapid 20 @ 60/min")),
        (written("For eight breaths.", "= 4-6 x7"), written("Take eight deep breaths.", "= 4-6 x7")),
        (written("Achtzehn Runden.", "= 4-6 x8", language="de"), written("Acht Runden.", "= 4-6 x8", language="de")),
        (written("Do it three times.", "= 4-6 x8"), written("Do it three times a day.", "= 4-6 x8")),
    ],
    "promised-sets": [(written("Three sets.", "= 4-6 x8"), written("Two sets.", "= 4-6 x8", 20, "= 4-4 x4"))],
    "promised-counts": [
        (written("In for four, out for seven.", "= 4-6 x8"), written("In for four, out for six.", "= 4-6 x8")),
        (written("Hold for two.", "= 4-6 x8"), written("Hold for two.", "= 4-2-6 x8")),
        (written("Five in, six out.", "= 4-6 x8"), written("A longer one out. Four in, six out.", "= 4-6 x8")),
        (written("Inspirez sur cinq.", "= 4-6 x8", language="fr"), written("Inspirez sur quatre.", "= 4-6 x8", language="fr")),
    ],
    "promised-length": [
        (written("Two minutes of this.", "= 4-4-6 x9 @ 1.05s"), written("Two minutes of this.", "= 4-4-6 x9 @ 0.952s")),
        (written("Sit for at least three minutes.", 100), written("Sit for at least a while.", 100)),
        (written("= 4-6 x8", title="Nine quiet minutes"), written("= 4-6 x8", title="Nine quiet crossings")),
        (written("About two minutes.", "= 4-6 x17"), written("About two minutes.", "= 4-6 x11")),
    ],
    "promised-alone": [
        (written("Three more on your own.", "= 4-6 x6 fade full 4 silent 2"), written("Two more on your own.", "= 4-6 x6 fade full 4 silent 2"))
    ],
    "promised-side": [(written("We begin on the right.", SIDES), written("We begin on the left.", SIDES))],
    "named-technique": [(written("Box breathing now.", "= 4-6 x8"), written("Box breathing now.", "= 4-4-4-4 x8"))],
    "said-last": [(written("The last set.", "= 4-6 x4", 20, "= 4-4 x4"), written("The last set.", "= 4-6 x4"))],
    "words-read": [(written("Hyvää iltaa.", "= 4-6 x4", language="fi"), written("Guten Abend.", "= 4-6 x4", language="de"))],
    "cautions-every": [
        (written("= 4-6 x8", SAFE), written(SAFE, "= 4-6 x8")),  # said too late
        (written(CAUTIONS["every"].replace("Never force it. ", ""), "= 4-6 x8"), written(CAUTIONS["every"], "= 4-6 x8")),
    ],
    "cautions-rapid": [(written(CAUTIONS["every"], "= rapid 20 @ 60/min"), written(CAUTIONS["rapid"], "= rapid 20 @ 60/min"))],
    "cautions-holds": [(written(CAUTIONS["every"], "= 4-4-6 x4"), written(CAUTIONS["every"], "= 4-3-6 x4"))],
    "cautions-steps": [(written("= 4-4 x2 step 1 to 6", SAFE), written(SAFE, "= 4-4 x2 step 1 to 6"))],
    "calls": [
        (written("= in 4, hold 20s calls half 10 release, out 6 x1"), written("= in 4, hold 30s calls half 10 release, out 6 x1"))
    ],
    "recovery": [
        (written("= rapid 20 @ 60/min rest 10s"), written("= rapid 20 @ 60/min rest 40s")),
        (written("= in 4, hold 30s x1", "= 4-6 x4"), written("= in 4, hold 30s x1", 20, "= 4-6 x4")),
    ],
    "strong-stretch": [
        (written("= in 4, hold 40s, out 6 x3"), written("= in 4, hold 40s, out 6 x2")),
        (written("= in 4, hold 20, out 6 x5"), written("= in 4, hold 10, out 6 x7")),
    ],
    "sleep-work": [
        (written("= rapid 20 @ 60/min", title="To sleep"), written("= rapid 20 @ 60/min", title="To wake"))
    ],
    "empty-after-strokes": [
        (written("= rapid 20 @ 60/min", "= out 4, hold 20s x1"), written("= rapid 20 @ 60/min", 20, "= out 4, hold 20s x1"))
    ],
    "long-hold": [
        (written("= in 4, hold 100s x1"), written("= in 4, hold 80s x1")),
        (written("= in 4, hold 50, out 4 x1 @ 2s"), written("= in 4, hold 50, out 4 x1 @ 1.5s")),  # counted, as breathed
    ],
    "cure": [
        (written("This heals the lungs."), written("This does not heal anything.")),
        (written("Das heilt die Lunge.", language="de"), written("Das heilt nichts.", language="de")),
        (written("Cela guérit l'asthme.", language="fr"), written("Cela ne guérit rien.", language="fr")),
        (written("Esto cura la ansiedad.", language="es"), written("Esto no cura nada.", language="es")),
        (written("Questo guarisce.", language="it"), written("Prenditi cura di te.", language="it")),
        (written("Это лечит астму.", language="ru"), written("Это не лечит.", language="ru")),
        (written("It will detox you."), written("Notice your health, and your heart.")),
    ],
    "shaming": [(written("Push through it."), written("Never push through it."))],
    "silence": [
        (written("Sit.", 120), written("Sit. I'll be quiet for a while.", 120)),
        (written("You go on alone.", 200), written("You go on alone.", 150)),
        (written("Sit.", 60), written("Breathe as you like.", 60)),
    ],
    "long-sentence": [(written("word " * 31 + "."), written("word " * 15 + ". " + "word " * 16 + "."))],
    "end-bell": [
        (written("When the bell sounds, open your eyes."), written("When the bell sounds, open your eyes.", end_bell=True)),
        (written("Thank you.", end_bell=True), written("Thank you.")),
    ],
    "open-eyes": [
        (written("Open your eyes.", title="To sleep"), written("Open your eyes.", title="To wake")),
        (written("Lie.", title="To sleep", end_bell=True), written("Lie.", title="To sleep")),
    ],
    "language": [
        (
            written("Asseyez-vous le dos droit et laissez vos mains se reposer dans la nuit.", "= 4-6 x4"),
            written("Sit with your back straight and let your hands rest, and bonsoir to you.", "= 4-6 x4"),
        ),
        (
            written("Setz dich bequem hin, lass die Hände ruhen und schließ die Augen, du hast Zeit.", language="fr"),
            written("Setz dich bequem hin, lass die Hände ruhen und schließ die Augen.", language="de"),
        ),
    ],
    "target": [(written(20, target_length=60), written(44, target_length=60))],
    "direction": [
        (written("= in 4 \"breathe out now\", out 6 x4"), written("= in 4 \"and breathe in\", out 6 x4")),
        (written("= 4-6 x4", wording={"exhale": "breathe in"}), written("= 4-6 x4", wording={"exhale": "let go"})),
    ],
    "sides": [(written("= in L 4, out R 4, in R 5, out L 4 x5"), written(SIDES))],
    "first-count": [
        (
            Session(end_bell=False, blocks=(Talk(id="t", paragraphs=("Sit.",), pause_after=0), read_block("4-6 x4", "s"))),
            Session(end_bell=False, blocks=(Talk(id="t", paragraphs=("Sit.",), pause_after=2), read_block("4-6 x4", "s"))),
        )
    ],
    "rushed": [(written("= 4-6 x4", "= 4-4 x4"), written("= 4-6 x4", 15, "= 4-4 x4"))],
    "fades": [(written(20, closing=1), written(20, closing=1, bed=None))],
}  # fmt: skip
HEARD = {"pace", "misfit", "stand-ins", "shortened", "voice-over-bed", "chimes-over-voice", "sudden", "level", "mono"}
BY_DESIGN = {"voice-back", "sounds", "loop"}
"""What cannot be written wrong, and what is tested with its files below."""


@pytest.mark.parametrize(("name", "faulty", "near"), [(n, f, g) for n, pairs in PAIRS.items() for f, g in pairs])
def test_each_check_finds_its_fault_and_leaves_the_near_miss(name, faulty, near):
    assert found(faulty, name), "not found"
    assert not found(near, name), found(near, name)[0].text


def test_every_check_has_a_fault_here():
    assert {check.name for check in CHECKS} == set(PAIRS) | HEARD | BY_DESIGN


@pytest.mark.parametrize(
    "name", [name for name, pairs in PAIRS.items() if any(found(f, name)[0].remedies for f, _ in pairs)]
)
def test_a_remedy_takes_its_finding_away(name):
    for faulty, _ in PAIRS[name]:
        for finding in found(faulty, name):
            for remedy in finding.remedies:
                left = {each.key for each in found(remedy.session, name)}
                assert finding.key not in left, (finding.text, remedy.title)


@pytest.mark.parametrize("make", [make for _, make, _, _ in OUTLINES])
def test_the_shipped_outlines_pass(make):
    assert not [finding.text for finding in found(make()) if finding.severity is not Severity.LOOK]


@given(st.integers(2, 40), st.integers(2, 40))
def test_rounds_are_found_wrong_exactly_where_they_differ(told, built):
    session = written(f"We do {told} rounds.", f"= 4-6 x{built}")
    assert bool(found(session, "promised-rounds")) == (told != built)


@given(st.integers(0, 99), st.sampled_from(["en", "de", "fr", "es", "it", "ru"]))
def test_number_words_are_read_in_six_languages(number, language):
    from num2words import num2words  # the reference library for number words

    token = read(f"{num2words(number, lang=language)}", language).tokens[0]
    assert token.number == number and token.end == len(num2words(number, lang=language))


def test_a_finding_is_set_aside_with_a_reason_and_taken_up_again(folder):
    session = PAIRS["promised-rounds"][0][0]
    key = found(session, "promised-rounds")[0].key
    aside = with_set_aside(session, key, "the eighth  is the crew's own")
    save_session(aside, folder / "s.nafas")
    loaded = load_session(folder / "s.nafas")
    assert loaded.set_aside[0].reason == "the eighth is the crew's own" and not found(loaded, "promised-rounds")
    moved = change(loaded, blocks=(Rest(id="first", seconds=Fraction(9)), *loaded.blocks))
    assert not found(moved, "promised-rounds")  # an edit elsewhere does not bring it back
    assert found(with_set_aside(loaded, key, ""), "promised-rounds")
    with pytest.raises(ValueError, match="one line"):
        with_set_aside(session, key, "\x1b[31m")


# -- what has to be heard


def heard(session, folder):
    return {finding.check: finding for finding in review(subject_of(cast_session(session, folder), folder)).open}


def test_the_demo_passes_with_its_sound(capsys):
    assert main(["check", str(SESSION), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["passes"] and set(told["looked_at"]) == {check.name for check in CHECKS} and not told["not_looked_at"]


def test_bed_voice_and_loudness_are_judged_by_what_sounds(folder):
    talk = (
        "Sit where the deck is quiet, and let your back be long.",
        "Let your hands rest.",
        "Listen to the water now.",
    )
    base = Session(end_bell=False, blocks=(Talk(id="t", paragraphs=talk, sentence_pause=2, paragraph_pause=2),))
    fine = heard(base, folder)
    assert not {"voice-over-bed", "pace", "level", "mono", "chimes-over-voice", "sudden"} & set(fine)
    loud = change(base, bed=NightSea(under_voice=0))
    assert heard(loud, folder)["voice-over-bed"].severity is Severity.MUST
    mended = heard(loud, folder)["voice-over-bed"].remedies[0].session
    assert "voice-over-bed" not in heard(mended, folder)
    rushed = change(
        base, blocks=(Talk(id="t", paragraphs=(" ".join(talk * 2),), sentence_pause=0),), voice={"pace": 220}
    )
    assert "pace" in heard(rushed, folder)
    still = change(base, bed=None, blocks=(Rest(id="r", seconds=Fraction(9)),))
    assert heard(still, folder)["level"].severity is Severity.MUST
    bells = change(base, chimes={"bell": 6}, end_bell=True, bed=None)
    assert "chimes-over-voice" in heard(bells, folder)


def test_a_bed_that_cancels_itself_and_one_that_jumps(folder):
    noise = np.random.default_rng(1).standard_normal(48_000 * 30) * 0.05
    soundfile.write(folder / "apart.wav", np.stack([noise, -noise], 1), 48_000)
    jump = noise * np.where(np.arange(len(noise)) > 48_000 * 20, 1, 0.01)
    soundfile.write(folder / "jump.wav", np.stack([jump, jump * 0.9], 1), 48_000)
    session = Session(end_bell=False, blocks=(Rest(id="r", seconds=Fraction(20)),))
    beds = {
        name: change(session, bed=FileBed(file=Asset(path=f"{name}.wav"), find_seam=False))
        for name in ("apart", "jump")
    }
    assert "mono" in heard(beds["apart"], folder) and "mono" not in heard(beds["jump"], folder)
    assert "sudden" in heard(beds["jump"], folder) and "sudden" not in heard(beds["apart"], folder)
    gone = change(session, bed=FileBed(file=Asset(path="gone.wav")))
    assert "sounds" in heard(gone, folder)


def graves(session):
    """The severities of what is said of cautions."""
    return [one.severity for one in found(session) if one.check.startswith("cautions")]


def test_cautions_in_words_of_ones_own_are_not_blamed_and_missing_ones_are():
    """Whole cautions of five topics in plain and playful words, ours; 34 of the English ones and all 30 in other
    languages were written after the words they are known by."""
    lines = [line.split("\t") for line in (Path(__file__).parent / "own_cautions.tsv").read_text("utf-8").splitlines()]
    blamed = [
        text for language, text in lines if set(graves(written(text, "= 4-6 x8", language=language))) - {Severity.LOOK}
    ]
    assert len(lines) >= 70 and len(blamed) <= len(lines) / 20, blamed
    usual = CAUTIONS["every"]
    assert not graves(written(usual, "= 4-6 x8"))
    for sentence in usual.split(". "):  # what is written in the usual words is held to be whole
        assert Severity.MUST in graves(written(usual.replace(sentence, ""), "= 4-6 x8")), sentence
    assert graves(written("Sit down, and let the deck carry you.", "= 4-6 x8")) == [Severity.MUST]
    assert graves(written("If you get dizzy, stop.", "= 4-6 x8")) == [Severity.MUST]


INCOMPLETE = (
    ("es", "Si te mareas, para y respira normal. No fuerces. No lo hagas mientras conduces ni en el agua."),
    ("es", "No sustituye al médico. Si estás embarazada, pregunta antes. No fuerces nunca."),
    ("fr", "Si la tête vous tourne, arrêtez. Ne forcez pas. Pas au volant."),
    ("fr", "Cela ne remplace pas un médecin. Ne forcez jamais, et arrêtez si vous avez un vertige."),
    ("de", "Wenn dir schwindlig wird, hör auf. Zwing dich nicht. Nicht beim Fahren."),
    ("de", "Das ersetzt keinen Arzt. Wenn du schwanger bist, frag vorher. Nie mit Druck."),
    ("it", "Se ti gira la testa fermati. Non forzare. Non mentre guidi."),
    ("it", "Non sostituisce il medico. Se sei incinta chiedi prima. Non forzare mai."),
    ("pt", "Se ficar tonto, pare. Não force. Não a conduzir."),
    ("pt", "Não substitui o médico. Se está grávida pergunte antes. Nunca force."),
)


@pytest.mark.parametrize(("language", "text"), INCOMPLETE)
def test_cautions_that_leave_a_topic_out_are_found_in_every_language(language, text):
    assert graves(written(text, "= 4-6 x8", language=language))


JUDGED = [line.split("\t") for line in (Path(__file__).parent / "judged.tsv").read_text("utf-8").splitlines()]
SETS = {"A": "4-2-6 x8", "B": "rapid 20 @ 60/min", "S": "in L 4, out R 4, in R 4, out L 4 x5"}


def judged(language, form, text):
    """What is found with a sentence before a set, and not without it."""

    def findings(talk):
        cautions = Talk(id="c", paragraphs=caution_words(("every", "rapid", "holds"), language))
        blocks = (cautions, Talk(id="t", paragraphs=(talk,)), read_block(SETS[form], "s"))
        return found(Session(title="", language=language, end_bell=False, blocks=blocks))

    usual = {(one.check, one.severity) for one in findings(".")}
    return [one for one in findings(text) if (one.check, one.severity) not in usual]


def test_sentences_of_six_languages_are_judged_as_a_person_would():
    """415 sentences of our own, in kinds: P promises wrongly, N holds numbers and promises nothing, C claims or shames, K
    is kind. Those marked 3 were written after the words by which promises are known, and looked at once."""
    missed, blamed = {"P": 0, "C": 0}, []
    for _, language, kind, form, text in JUDGED:
        there = judged(language, form, text)
        if kind in missed:
            missed[kind] += not there
        elif any(one.severity is not Severity.LOOK for one in there):
            blamed.append(text)
    total = {kind: sum(row[2] == kind for row in JUDGED) for kind in "PC"}
    assert len(JUDGED) > 400 and not blamed
    assert missed["P"] <= 0.1 * total["P"] and missed["C"] <= 0.2 * total["C"]


def test_words_that_cover_a_caution_are_confirmed_once_and_known_in_other_sessions(folder, monkeypatch):
    monkeypatch.setenv("NAFAS_STATE", str(folder))
    own = (
        "If you get dizzy, stop. Never force it. Not at the wheel. Your doctor knows better. The mate asks the purser."
    )
    session = written(own, "= 4-6 x8")
    (finding,) = cautions_of(session)
    cover = finding.remedies[-1]
    assert "condition" in finding.text and cover.title == "My words cover this"
    assert cautions_of(cover.session)[0].reason == CONFIRMED
    confirm(*cover.confirms)
    other = written(f"Welcome aboard. {own}", "= 5-5 x4")
    assert [one.reason for one in cautions_of(other)] == [CONFIRMED]
    assert [one.reason for one in cautions_of(written(own.replace("purser", "cook"), "= 4-6 x8"))] == [""]
    forget(*cover.confirms)
    assert [one.reason for one in cautions_of(other)] == [""]


def cautions_of(session):
    every = review(Subject(compile_session(session, paced()))).findings
    return [finding for finding in every if finding.check == "cautions-every"]


def test_lines_that_do_not_fit_and_stand_ins_are_told(folder):
    session = Session(
        end_bell=False,
        publishing=True,
        blocks=(read_block('in 2 "breathe in with the whole of the tide", out 4 x2', "s"),),
    )
    found = heard(session, folder)
    assert found["misfit"].severity is Severity.MUST and "publishing" in found["stand-ins"].text
    assert "stand-ins" not in heard(change(session, publishing=False), folder)
    lines = check_task(CheckRequest(session, folder)).lines()
    at = next(n for n, line in enumerate(lines) if line.startswith("  \N{LEFT DOUBLE QUOTATION MARK}breathe in with"))
    assert lines[at + 1].startswith("  · ")  # and its place stands above, once
    misfit = Misfit(MisfitKind.TOO_LONG, heard_placement(session, folder), 0.431, 0.434)
    assert "is 3 ms longer than its place" in str(misfit)


def heard_placement(session, folder):
    return cast_session(session, folder).placements[0]


def test_the_command_says_what_it_looked_at(folder, capsys):
    save_session(written(caution_words(("every",))[0], "= 4-6 x4", 20), folder / "s.nafas")
    assert main(["check", str(folder / "s.nafas"), "--no-sound"]) == 0
    told = capsys.readouterr().out
    assert "Nothing found." in told and "Not checked: " in told and "licensed practice" in told
    save_session(PAIRS["promised-rounds"][0][0], folder / "s.nafas")
    assert main(["check", str(folder / "s.nafas"), "--no-sound"]) == ExitCode.FOUND
    assert "MUST" in capsys.readouterr().out
