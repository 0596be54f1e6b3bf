"""The one error every room raises when what it was given cannot be used."""


class InputError(Exception):
    """The input is at fault, not the program.

    Attributes:
        place: where, as a person would point at it ("night.nafas: blocks[2] rounds").
        problem: what is wrong there.
        remedy: what to do or write instead.
    """

    def __init__(self, place: str, problem: str, remedy: str) -> None:
        super().__init__(place, problem, remedy)
        self.place = place
        self.problem = problem
        self.remedy = remedy

    def __str__(self) -> str:
        line = f"{self.place}: {self.problem}; {self.remedy}"
        return " ".join(line.split())


class UsageError(InputError):
    """An option asks for what is not offered; it says what is."""


class Cancelled(Exception):  # noqa: N818 - being stopped on request is no error
    """The person stopped long work half-way; nothing was left behind."""
