"""The tokens of one typed set that are not spoken for yet."""

from fractions import Fraction

from nafas.script.notation.tokens import NotationError
from nafas.script.notation.typed.vocabulary import Kind, Typed


class Line:
    """The tokens of one set that are not spoken for yet."""

    def __init__(self, text: str, tokens: list[Typed]) -> None:
        self.text = text
        self.tokens = tokens

    def fail(self, token: Typed | None, problem: str, remedy: str) -> NotationError:
        return NotationError(self.text, token.begin if token else len(self.text), problem, remedy)

    def at(self, index: int) -> Typed | None:
        return self.tokens[index] if 0 <= index < len(self.tokens) else None

    def kind(self, index: int) -> Kind | None:
        token = self.at(index)
        return token.kind if token is not None else None

    def kinds(self, index: int, *each: tuple[Kind, ...]) -> bool:
        """Whether tokens of these kinds stand from a place on."""
        return all(self.kind(index + n) in kinds for n, kinds in enumerate(each))

    def mark(self, index: int, *marks: str) -> bool:
        token = self.at(index)
        return token is not None and token.is_mark(*marks)

    def cut(self, begin: int, end: int) -> None:
        """Take tokens away; a comma left standing at either end of the line goes too."""
        del self.tokens[begin:end]
        while self.tokens and self.tokens[-1].is_mark(",", ";", "-", ".", "+", ":"):
            self.tokens.pop()
        while self.tokens and self.tokens[0].is_mark(",", ";", "-", ".", "+", ":"):
            self.tokens.pop(0)

    def number(self, index: int) -> Fraction:
        token = self.at(index)
        assert token is not None
        return token.number

    def whole(self, index: int, what: str, high: int) -> int:
        token = self.at(index)
        assert token is not None
        if token.number.denominator != 1 or not 1 <= token.number <= high:
            raise self.fail(token, f"{what} {token.value} is not allowed", f"write a whole number from 1 to {high}")
        return int(token.number)
