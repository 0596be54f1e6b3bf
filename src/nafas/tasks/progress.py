"""How far a task is: stages, and the share of the whole that each of them takes."""

from collections.abc import Callable, Mapping

Note = Callable[[str, float], None]
"""Called with a stage and 0.0 to 1.0 of it; raises Cancelled where the task is to stop."""
Stages = Mapping[str, tuple[float, float]]
"""From and to: the share of a task that each of its stages takes, about."""


def quiet(stage: str, done: float) -> None:
    """Notes nothing."""


def of_whole(note: Note, stages: Stages) -> Note:
    """What turns a stage's own progress into that of the whole task.

    Args:
        note: called with the stage and 0.0 to 1.0 of the whole.
        stages: of the task; a stage that it does not name counts as all of it.
    """

    def heard(stage: str, done: float) -> None:
        low, high = stages.get(stage, (0.0, 1.0))
        note(stage, low + (high - low) * done)

    return heard
