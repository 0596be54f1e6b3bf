"""Typed lines that are no breath set: natural breath, and rapid strokes."""

from fractions import Fraction

from nafas.script.model.exact import decimal_text
from nafas.script.model.phase import LONGEST_HOLD
from nafas.script.notation.typed.clauses import part_of_an_hour
from nafas.script.notation.typed.line import Line
from nafas.script.notation.typed.vocabulary import Kind

_USUAL_PACE = Fraction(60)
_USUAL_HOLD, _MOST_GROUPS = Fraction(30), 20
"""Seconds of a hold whose length is not said (our own), and groups of strokes in one line."""
_CALLED = 20  # seconds from which a hold has calls within it
_SAYS_NOTHING = (Kind.FOR, Kind.ROUNDS, Kind.COUNTING)


def read_rest(line: Line) -> str | None:
    """`rest 1 min`, `pause 30s`, `natural breath for 60 s`, `1 minute of rest`, as notation; None for any other."""
    for_so_long = [n for n in range(len(line.tokens)) if line.kinds(n, (Kind.PER,), (Kind.NUMBER, Kind.FILLER))]
    tokens = [
        t
        for n, t in enumerate(line.tokens)
        if t.kind not in _SAYS_NOTHING and not t.is_mark(",", ":", "=") and n not in for_so_long
    ]
    if not any(token.kind is Kind.REST for token in tokens):
        return None
    seconds = Fraction(0)
    index = 0
    while index < len(tokens):
        token = tokens[index]
        parts = part_of_an_hour(tokens[index:])
        if parts is not None:
            seconds += parts[1]
            index += parts[0]
            continue
        while token.kind is Kind.FILLER and index + 1 < len(tokens):
            index += 1
            token = tokens[index]
        after = tokens[index + 1].kind if index + 1 < len(tokens) else None
        if token.kind is Kind.TIME:
            seconds += token.number
        elif token.kind is Kind.MINUTES:
            seconds += 60
        elif token.kind is Kind.NUMBER and after in (Kind.MINUTES, Kind.SECONDS, None, Kind.REST):
            seconds += token.number * (60 if after is Kind.MINUTES else 1)
            index += after in (Kind.MINUTES, Kind.SECONDS)
        elif token.kind not in (Kind.REST, Kind.FILLER):
            return None
        index += 1
    return f"rest {decimal_text(seconds)}s" if seconds else None


def read_stroke_groups(line: Line) -> list[str] | None:
    """`two rounds of 25 quick breaths, hold 40 seconds after each`: notation of strokes and a hold, again and again;
    None for any other line. The hold is that of the library, after a breath in to two thirds."""
    kinds = [token.kind for token in line.tokens]
    holds = [n for n, token in enumerate(line.tokens) if token.kind is Kind.PHASE]
    if Kind.STROKES not in kinds or len(holds) != 1 or line.tokens[holds[0]].value != "hold":
        return None
    strokes = kinds.index(Kind.STROKES)
    size = next((n for n in range(strokes - 1, -1, -1) if kinds[n] is Kind.NUMBER), None)
    if size is None or holds[0] < strokes:
        return None
    groups = next(
        (n for n in range(size) if kinds[n] is Kind.NUMBER and kinds[n + 1] in (Kind.ROUNDS, Kind.TIMES)), None
    )
    number = line.whole(groups, "groups", _MOST_GROUPS) if groups is not None else 1
    lasts = _USUAL_HOLD
    for n in range(strokes + 1, len(kinds)):
        if kinds[n] is Kind.NUMBER:
            unit = next((kind for kind in kinds[n + 1 :] if kind in (Kind.MINUTES, Kind.SECONDS)), None)
            lasts = line.number(n) * (60 if unit is Kind.MINUTES else 1)
    form = line.tokens[strokes].value
    if not 1 <= lasts <= LONGEST_HOLD:
        raise line.fail(line.at(holds[0]), f"a hold of {decimal_text(lasts)} s", f"write 1 to {LONGEST_HOLD} seconds")
    calls = "calls half 10 5 release" if lasts > _CALLED else "calls release"
    hold = f"out 4, in 4, out 4, in 4 to 2/3, hold {decimal_text(lasts)}s {calls}, out 6 x1"
    return [f"{form} {line.whole(size, 'strokes', 600)} rest 0s", hold] * number


def read_strokes(line: Line) -> str | None:
    """`rapid 1 min @ 60/min`, `30 rapid`, `rapid 20 at 50 per minute`, as notation; None for any other."""
    forms = [n for n, token in enumerate(line.tokens) if token.kind is Kind.STROKES]
    if not forms:
        return None
    form = line.tokens[forms[0]].value
    line.cut(forms[0], forms[0] + 1)
    pace, lasts, number = _USUAL_PACE, None, None
    index, rest = 0, []
    while index < len(line.tokens):
        token, after = line.tokens[index], line.kind(index + 1)
        if token.kind is Kind.AT and after is Kind.NUMBER:
            pace = line.number(index + 1)
            index += 2
            while line.mark(index, "/") or line.kind(index) in (Kind.PER, Kind.FILLER, Kind.FOR):
                index += 1
            pace *= 60 if line.kind(index) is Kind.SECONDS else 1
            index += line.kind(index) in (Kind.SECONDS, Kind.MINUTES, Kind.BPM)
        elif token.kind is Kind.NUMBER and after in (Kind.MINUTES, Kind.SECONDS) and number is None:
            lasts = (lasts or 0) + token.number * (60 if after is Kind.MINUTES else 1)
            index += 2
        elif token.kind is Kind.NUMBER and after is Kind.BPM:
            pace = token.number
            index += 2
        elif line.kinds(index, (Kind.NUMBER,), (Kind.FILLER, Kind.PER), (Kind.SECONDS,)):
            pace = 60 * token.number
            index += 3
        elif token.kind is Kind.NUMBER and number is None:
            number = line.whole(index, "strokes", 600)
            index += 1
        elif token.kind in (Kind.FILLER, Kind.FOR, Kind.ROUNDS, Kind.TIMES) or token.is_mark(",", "x"):
            index += 1
        else:
            rest.append(line.text[token.begin : token.end])
            index += 1
    if number is None and lasts is not None:
        number = round(lasts * pace / 60)
    if number is None:
        raise line.fail(None, "how many strokes is missing", f"write for example {form} 30")
    words = [form, str(number)]
    if pace != _USUAL_PACE or lasts is not None:
        words.append(f"@ {decimal_text(pace)}/min")
    return " ".join([*words, *rest])
