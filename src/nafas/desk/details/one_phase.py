"""What every group of fields for one phase can do: know the phase, change it, and say why something cannot be."""

from collections.abc import Callable
from typing import Protocol

from nafas.desk.details.form import Form
from nafas.desk.document import Document
from nafas.script import Phase, Session
from nafas.script.edits.round_edits import phase_of, with_phase


class OwningForm(Protocol):
    """The form that a phase's form is part of: which block it shows, and how a change is taken."""

    index: int

    def take(self, make: Callable[[], Session], label: str, key: str) -> None: ...


class OnePhase(Form):
    """A form for the chosen phase of a set, as seen in the chosen round."""

    def __init__(self, document: Document, owner: OwningForm) -> None:
        super().__init__(document, "Phase")
        self.name = self.heading
        layout = self.layout()
        assert layout is not None
        layout.setContentsMargins(0, 0, 0, 0)
        self._owner = owner
        self._round = self._phase = 0

    @property
    def phase(self) -> Phase:
        """The phase that is shown, as written."""
        return phase_of(self.document.session, self._owner.index, self._round, self._phase)

    def fields(self) -> Phase:
        return self.phase

    def set_many(self, fields: dict[str, object], label: str) -> None:
        self.set_phase(**fields)

    def refuse(self, error: Exception) -> None:
        """Say why something cannot be, and change nothing."""

        def refused() -> Session:
            raise error

        self._owner.take(refused, self.name.text(), "refused")

    def set_phase(self, **fields: object) -> None:
        """Change fields of the phase that is shown."""
        self._owner.take(
            lambda: with_phase(self.document.session, self._owner.index, self._round, self._phase, **fields),
            f"{self.name.text()} {' '.join(fields)}".replace("_", " "),
            f"phase {self._phase} {' '.join(fields)}",
        )
