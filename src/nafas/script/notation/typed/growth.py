"""`4-4 to 8-8`, `4-6 to 4-8`: a round that grows into another, count by count."""

from nafas.script.notation.phases import SHORT
from nafas.script.notation.typed.line import Line
from nafas.script.notation.typed.phrases import chain_of
from nafas.script.notation.typed.vocabulary import Kind


def growth(line: Line) -> str | None:
    """The round with its step, as notation; None for a line that says none.

    Raises:
        NotationError: the two rounds have no steps of one count between them.
    """
    places = [n for n, token in enumerate(line.tokens) if token.kind is Kind.TO or token.is_mark(">")]
    if not places:
        return None
    at, end = places[0], places[-1] + 1
    first, last = (chain_of(Line(line.text, part)) for part in (line.tokens[:at], line.tokens[end:]))
    if first is None or last is None or line.tokens[at + 1 : end].count(line.tokens[at]):
        return None
    begin, goal = ([int(number.number) for number in chain] for chain in (first, last))
    if len(begin) != len(goal):
        raise line.fail(line.at(end), "another number of phases", "write both rounds with the same phases")
    moves = [after - before for before, after in zip(begin, goal)]
    steps = {abs(move) for move in moves if move}
    if len(steps) != 1:
        raise line.fail(
            line.at(end), "these rounds have no even steps between them", "write the steps: 4-4 x2; 5-6 x2; 6-8 x2"
        )
    count = steps.pop()
    size = {(move > 0) - (move < 0) for move in moves if move}
    grows = [n for n, move in enumerate(moves) if move]
    limits = {goal[n] for n in grows}
    if len(size) == 1 and len(limits) == 1:
        by = size.pop()
        kinds = "" if len(grows) == len(begin) else f" on {' '.join(SHORT[len(begin)][n] for n in grows)}"
        return f"{'-'.join(map(str, begin))} step {'-' if by < 0 else ''}1{kinds} to {limits.pop()}"
    one = [move // count for move in moves]
    rounds = ["-".join(str(b + n * step) for b, step in zip(begin, one)) for n in range(count + 1)]
    return "; ".join(rounds)
