"""Where played sound goes: the sound card, or a silent one that keeps time when there is none.

Both take interleaved float32 stereo frames and say how many they could take now and how many have sounded.
"""

import os
import time
from typing import Protocol

from nafas.desk import preferences
from nafas.desk.audio import devices
from nafas.desk.audio.devices import Device
from nafas.log import logger

BUFFER_SECONDS = 0.12
STALLED_SECONDS = 3.0  # some servers take two to begin
_FRAME_BYTES = 8


class Output(Protocol):
    """A sound card."""

    name: str

    def free(self) -> int: ...
    def write(self, data: bytes) -> None: ...
    def sounded(self) -> int: ...
    def failed(self) -> bool: ...
    def stop(self) -> None: ...


class SilentCard:
    """A sound card nobody hears: frames go by at the rate of the clock."""

    name = "no sound card: silent, keeping time"

    def __init__(self, rate: int) -> None:
        self._rate = rate
        self._written = 0
        self._began = time.monotonic()

    def free(self) -> int:
        return max(0, int(BUFFER_SECONDS * self._rate) - (self._written - self.sounded()))

    def write(self, data: bytes) -> None:
        self._written += len(data) // _FRAME_BYTES

    def sounded(self) -> int:
        passed = int((time.monotonic() - self._began) * self._rate)
        if passed > self._written:
            # It ran dry: time without sound does not count.
            self._began += (passed - self._written) / self._rate
            passed = self._written
        return passed

    def failed(self) -> bool:
        return False

    def stop(self) -> None:
        pass


class SoundCard:
    """An output device by PortAudio. Raises PortAudio's own errors where it cannot be opened."""

    def __init__(self, rate: int, device: Device) -> None:
        self.name = device.name
        devices.opened()
        try:
            self._stream = devices.portaudio().RawOutputStream(
                samplerate=rate, device=device.index, channels=2, dtype="float32", latency=BUFFER_SECONDS
            )
            self._stream.start()
        except BaseException:
            devices.closed()
            raise
        self._room = max(1, self._stream.write_available)
        self._written = 0
        self._broken = False
        self._moved = (0, time.monotonic())

    def free(self) -> int:
        return 0 if self._broken else int(self._asked("write_available"))

    def write(self, data: bytes) -> None:
        if self._broken:
            return
        try:
            self._stream.write(data)
            self._written += len(data) // _FRAME_BYTES
        except Exception as error:
            self._break(error)

    def sounded(self) -> int:
        waiting = 0 if self._broken else max(0, self._room - int(self._asked("write_available")))
        return max(0, self._written - waiting)

    def _asked(self, what: str) -> int:
        try:
            return int(getattr(self._stream, what))
        except Exception as error:
            self._break(error)
            return 0

    def _break(self, error: Exception) -> None:
        if not self._broken:
            logger.warning("%s stopped answering: %s", self.name, error)
        self._broken = True

    def failed(self) -> bool:
        """Whether the device went away."""
        if self._broken:
            return True
        # A sound server that has died reports nothing at all: it only stops taking frames.
        seconds, now = self.sounded(), time.monotonic()
        if seconds != self._moved[0] or seconds >= self._written:
            self._moved = (seconds, now)
        return now - self._moved[1] > STALLED_SECONDS

    def stop(self) -> None:
        try:
            self._stream.abort()
            self._stream.close()
        except Exception as error:
            self._break(error)
        finally:
            devices.closed()


SILENT = "silent"
"""The name of the silent card, where a device is chosen by its name."""


def output_names() -> list[str]:
    """What the devices there are call themselves."""
    return [device.name for device in devices.outputs()]


def open_output(rate: int) -> Output:
    """The device that was chosen, the usual one where it is not there; the silent card where there is no device, where
    that is chosen, or `NAFAS_SILENT` is set."""
    name = preferences.output()
    if not os.environ.get("NAFAS_SILENT") and name != SILENT:
        there = devices.outputs()
        for device in sorted(there, key=lambda each: each.name != name)[:2]:
            try:
                return SoundCard(rate, device)
            except Exception as error:
                logger.warning("%s cannot be opened: %s", device.name, error)
    return SilentCard(rate)
