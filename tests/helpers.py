"""Small things that many tests use."""

from nafas.script import BreathSet
from nafas.tasks import deliver as deliver_task
from nafas.tasks import render
from nafas.tasks.delivery import DeliveryRequest
from nafas.tasks.progress import quiet


def breath(notation: str = "4-2-8", rounds: int = 6, **more: object) -> BreathSet:
    return BreathSet.model_validate({"id": "set-1", "pattern": notation, "rounds": rounds, **more})


def ready(qtbot, window):
    """Wait until voice and sound of the newest edit are there."""

    def done():
        mix = window.preparation.mix
        return mix is not None and mix.cast.timeline.session is window.document.session

    qtbot.waitUntil(done, timeout=120_000)


def produce(session, folder, out, stems=None, progress=quiet, also=(), **more):
    """Render without the ledger."""
    more = {"replaces": render.anything, **more}
    return render.produce(render.RenderRequest(session, folder, out, stems, also=tuple(also), **more), progress)


def deliver(session, folder, into, audio, texts, progress=quiet, **more):
    return deliver_task.run(DeliveryRequest(session, folder, into, tuple(audio), tuple(texts), **more), progress)
