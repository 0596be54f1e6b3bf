"""What views need, imported before they are opened: else the first time that each is opened waits for it.

On a thread, after the first paint. No module here imports in a circle, so two threads that import never wait for each
other.
"""

import importlib
import threading
from functools import cache

_AFTER = 1.0  # seconds: the session is read and timed first
_VIEWS = (
    "nafas.desk.plan", "nafas.desk.takes.room", "nafas.desk.deliver.view", "nafas.desk.sound", "nafas.desk.review",
    "nafas.desk.rehearse", "nafas.desk.ledger.view",
)  # fmt: skip


@cache
def import_views() -> None:
    """Begin to import them, once in a process."""
    timer = threading.Timer(_AFTER, _import)
    timer.daemon = True
    timer.start()


def _import() -> None:
    from nafas.library.own import shipped

    for name in _VIEWS:
        importlib.import_module(name)
    shipped()
