"""Small things that many tests use."""

from nafas.script import BreathSet


def breath(notation: str = "4-2-8", rounds: int = 6, **more: object) -> BreathSet:
    return BreathSet.model_validate({"id": "set-1", "pattern": notation, "rounds": rounds, **more})


def ready(qtbot, window):
    """Wait until voice and sound of the newest edit are there."""

    def done():
        mix = window.preparation.mix
        return mix is not None and mix.cast.timeline.session is window.document.session

    qtbot.waitUntil(done, timeout=120_000)
