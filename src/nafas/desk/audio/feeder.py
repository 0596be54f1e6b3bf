"""Feeds a sound card from a thread of its own, so that a busy window cannot starve it."""

import threading
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from nafas.desk.audio.outputs import Output
from nafas.errors import InputError
from nafas.log import logger

_PAUSE = 0.006  # seconds between looks at the card: a fraction of its buffer

Read = Callable[[int, int], "NDArray[np.float32]"]
"""Frames `at` to `at + frames` since the card began, shape (2, frames); from the feeder's thread."""


class Feeder:
    """Keeps a card filled until it is stopped.

    Attributes:
        card: what is fed.
        sent: frames given to it.
        error: why reading stopped, in words for people; "" as long as it goes on.
    """

    def __init__(self, card: Output, read: Read) -> None:
        self.card, self.sent, self.error = card, 0, ""
        self._read = read
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name="playback", daemon=True)
        self._thread.start()

    def _run(self) -> None:
        try:
            while not self._stop.is_set():
                frames = self.card.free()
                if frames > 0 and not self.card.failed():
                    block = self._read(self.sent, frames)
                    self.card.write(np.ascontiguousarray(block.T, np.float32).tobytes())
                    self.sent += frames
                self._stop.wait(_PAUSE)
        except InputError as error:
            self.error = str(error)
        except Exception as error:
            logger.exception("playing")
            self.error = f"Playing stopped: {error!r}"

    def stop(self) -> None:
        """Stop feeding, and the card."""
        self._stop.set()
        if self._thread is not threading.current_thread():
            self._thread.join(timeout=2.0)
        self.card.stop()
