"""Words that producers type, in six languages, and what each stands for.

English, German, French, Spanish, Italian and Russian as practitioners use them (common practice, no source; the Russian
from memory). All of them are known in every session: no word of one means another thing in another, but for those that
only fill a sentence.
"""

from enum import Enum, auto
from functools import cache
from typing import NamedTuple


class Kind(Enum):
    """What a token is."""

    NUMBER = auto()
    PARTS = auto()
    TIME = auto()
    QUOTE = auto()
    MARK = auto()
    PHASE = auto()
    SIDE = auto()
    ROUTE = auto()
    SOUND = auto()
    COUNTING = auto()
    FULLNESS = auto()
    FAMILY = auto()
    ROUNDS = auto()
    TIMES = auto()
    MINUTES = auto()
    SECONDS = auto()
    COUNTS = auto()
    BPM = auto()
    PER = auto()
    AT = auto()
    FOR = auto()
    TO = auto()
    THEN = auto()
    REST = auto()
    STROKES = auto()
    VOICE = auto()
    CLAUSE = auto()
    FILLER = auto()
    UNKNOWN = auto()


class Word(NamedTuple):
    kind: Kind
    value: str = ""


_WORDS: dict[tuple[Kind, str], str] = {
    (Kind.PHASE, "in"): """in inhale inhales inhaling inbreath in-breath ein einatmen einatmung inspire inspirez
        inspirer inspiration inhala inhale inhalar inhalad inspira inspirad inspirare inspirate вдох вдохни вдохните
        вдыхаем""",
    (Kind.PHASE, "out"): """out exhale exhales exhaling outbreath out-breath aus ausatmen ausatmung expire expirez
        expirer expiration exhala exhalar exhalad espira espirad espirar espirare espirate выдох выдохни выдохните
        выдыхаем""",
    (Kind.PHASE, "hold"): """hold holds holding keep retain retention halt halte halten anhalten retenez retiens retenir
        bloque bloquez apnée retén reten retener mantén manten sostén sosten sostener trattieni trattenere trattenete
        задержка задержи задержите держи держим""",
    (Kind.PHASE, "hold-full"): "hold-full",
    (Kind.PHASE, "hold-empty"): "hold-empty",
    (Kind.FULLNESS, "full"): "full voll plein lleno pieno",
    (Kind.FULLNESS, "empty"): "empty leer vide vacío vacio vuoto",
    (Kind.SIDE, "L"): "l left links linke linkes gauche izquierda izquierdo sinistra левая левой слева",
    (Kind.SIDE, "R"): "r right rechts rechte rechtes droite derecha derecho destra правая правой справа",
    (Kind.SIDE, "both"): "both beide ambos ambas entrambe обе",
    (Kind.ROUTE, "nose"): "nose nasal nasally nase nez nariz naso нос носом",
    (Kind.ROUTE, "mouth"): "mouth mund bouche boca bocca рот ртом",
    (Kind.ROUTE, "pursed"): "pursed",
    (Kind.ROUTE, "throat"): "throat ocean kehle gorge garganta gola горло",
    (Kind.SOUND, "hum"): "hum humming hums summen summend bourdonne bourdonnez zumbido zumbando ronza ronzando гудим",
    (Kind.SOUND, "chant"): "chant chanting",
    (Kind.SOUND, "sigh"): "sigh sighing seufzen soupir suspiro sospiro",
    (Kind.COUNTING, "down"): "down backwards backward rückwärts abwärts décompte rebours",
    (Kind.COUNTING, "silent"): "silent silently uncounted quietly stumm still silencieux silencio silenzio молча",
    (Kind.COUNTING, "up"): "up",
    (Kind.FAMILY, "box"): "box square sama-vritti quadrat kasten carré carrée cuadrado cuadrada caja quadrato квадрат",
    (Kind.FAMILY, "equal"): "equal even balanced coherent coherence resonant resonance gleichmäßig égale égal igual",
    (Kind.FAMILY, "triangle"): "triangle dreieck triángulo triangolo треугольник",
    (Kind.ROUNDS, ""): """round rounds cycle cycles rep reps repetition repetitions breath breaths set runde runden
        atemzug atemzüge zyklus zyklen wiederholung wiederholungen tour tours respiration respirations ronda rondas
        vuelta vueltas ciclo ciclos respiraciones giro giri cicli respiri круг круга кругов цикл цикла циклов раунд
        раунда раундов""",
    (Kind.TIMES, ""): "times time mal fois vez veces volta volte раз раза",
    (Kind.TIMES, "1"): "once einmal",
    (Kind.TIMES, "2"): "twice zweimal",
    (Kind.TIMES, "3"): "thrice dreimal",
    (Kind.MINUTES, ""): """m min mins minute minutes minuten minuto minutos minuti мин минута минуты минуту минут""",
    (Kind.SECONDS, ""): """s sec secs second seconds sek sekunde sekunden seconde secondes segundo segundos secondo
        secondi с сек секунда секунды секунд""",
    (Kind.COUNTS, ""): "count counts counted counting beat beats zähler schläge temps tiempos conteggi счёт счета",
    (Kind.BPM, ""): "bpm",
    (Kind.PER, ""): "per each pro par por al",
    (Kind.AT, ""): "at",
    (Kind.FOR, ""): "for during für pendant durante für während",
    (Kind.TO, ""): "to until bis jusqu'à hasta fino до",
    (Kind.THEN, ""): "then followed dann puis ensuite luego después poi затем потом",
    (Kind.REST, ""): """rest pause natural naturally normal normally pausa ruhe repos descanso descansa riposo отдых
        пауза""",
    (Kind.STROKES, "rapid"): "rapid rapids",
    (Kind.STROKES, "bellows"): "bellows",
    (Kind.VOICE, "full"): "voice spoken voiced aloud stimme voix voz voce голос",
    (Kind.CLAUSE, ""): "fade step ladder glide drop ease say",
    (Kind.FILLER, ""): """a an and the of from with through via by your on breathe breathing breathes air slow slowly
        gently nostril nostrils lips lip repeat repeated do please und durch die den der das mit von atme atmen et le la
        les du de des y el los las e il lo i con и через again while you we now""",
}  # fmt: skip


@cache
def known_words() -> dict[str, Word]:
    """Every word in lower case, with what it stands for; where two would claim one, the first named keeps it."""
    known: dict[str, Word] = {}
    for (kind, value), words in _WORDS.items():
        for word in words.split():
            known.setdefault(word, Word(kind, value))
    return known


@cache
def number_words() -> dict[str, int]:
    """One to sixty in words of the six languages."""
    from num2words import num2words

    numbers: dict[str, int] = {}
    for language in ("en", "de", "fr", "es", "it", "ru"):
        for number in range(1, 61):
            word = str(num2words(number, lang=language)).lower()
            if " " not in word and word not in known_words():
                numbers.setdefault(word, number)
    return numbers
