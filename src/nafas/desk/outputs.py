"""Where played sound goes: the sound card, or a silent one that keeps time when there is none.

Both take interleaved float32 stereo frames and say how many they could take now and how many have sounded.
"""

import os
import time

from PySide6.QtCore import QSettings
from PySide6.QtMultimedia import QAudio, QAudioDevice, QAudioFormat, QAudioSink, QMediaDevices

BUFFER_SECONDS = 0.12
STALLED_SECONDS = 3.0  # some servers take two to begin
_FRAME_BYTES = 8


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
    """An output device by QtMultimedia."""

    def __init__(self, rate: int, device: QAudioDevice) -> None:
        sound = QAudioFormat()
        sound.setSampleRate(rate)
        sound.setChannelCount(2)
        sound.setSampleFormat(QAudioFormat.SampleFormat.Float)
        self.name = device.description()
        self._sink = QAudioSink(device, sound)
        self._sink.setBufferSize(int(BUFFER_SECONDS * rate) * _FRAME_BYTES)
        self._io = self._sink.start()
        self._written = 0
        self._moved = (0, time.monotonic())

    def free(self) -> int:
        return self._sink.bytesFree() // _FRAME_BYTES if self._io is not None else 0

    def write(self, data: bytes) -> None:
        taken = self._io.write(data)
        self._written += max(0, taken) // _FRAME_BYTES

    def sounded(self) -> int:
        waiting = (self._sink.bufferSize() - self._sink.bytesFree()) // _FRAME_BYTES
        return max(0, self._written - waiting)

    def failed(self) -> bool:
        """Whether the device could not be opened or went away."""
        gone = (QAudio.Error.OpenError, QAudio.Error.IOError, QAudio.Error.FatalError)
        if self._io is None or self._sink.error() in gone:
            return True
        # A sound server that has died reports nothing at all: it only stops taking frames.
        place, now = self.sounded(), time.monotonic()
        if place != self._moved[0]:
            self._moved = (place, now)
        return now - self._moved[1] > STALLED_SECONDS

    def stop(self) -> None:
        self._sink.reset()


SILENT = "silent"
"""The name of the silent card, where a device is chosen by its name."""


def output_names() -> list[str]:
    """What the devices there are call themselves."""
    return [device.description() for device in QMediaDevices.audioOutputs()]


def chosen_output() -> str:
    """The device that was chosen, by its description; "" for the usual one, `SILENT` for none."""
    return str(QSettings("nafas", "nafas").value("output", ""))


def choose_output(name: str) -> None:
    """Play to a device from the next sound on, and the next time too."""
    QSettings("nafas", "nafas").setValue("output", name)


def open_output(rate: int) -> "SilentCard | SoundCard":
    """The device that was chosen, the usual one where it is not there; the silent card where there is no device, where
    that is chosen, or `NAFAS_SILENT` is set."""
    name = chosen_output()
    if not os.environ.get("NAFAS_SILENT") and name != SILENT:
        named = [device for device in QMediaDevices.audioOutputs() if device.description() == name]
        device = named[0] if named else QMediaDevices.defaultAudioOutput()
        if not device.isNull():
            card = SoundCard(rate, device)
            if not card.failed():
                return card
    return SilentCard(rate)
