"""The machine's sound devices, by PortAudio through sounddevice; none where it is missing or finds none."""

import os
import threading
from dataclasses import dataclass
from typing import Any

from nafas.log import logger

_open = 0
_lock = threading.RLock()


@dataclass(frozen=True)
class Device:
    """A device as PortAudio numbers it now: `index` changes when devices come and go, the name stays."""

    index: int
    name: str
    channels: int
    rate: int


def portaudio() -> Any:
    """The library, or None where this machine has none. Loaded when sound is first wanted."""
    try:
        import sounddevice
    except (OSError, ImportError) as error:  # PortAudio itself is a package of the system
        logger.info("no PortAudio: %s", error)
        return None
    return sounddevice


def outputs() -> list[Device]:
    """What can be played to, the usual one first."""
    return _devices("max_output_channels", 1)


def inputs() -> list[Device]:
    """What can be recorded from, the usual one first."""
    return _devices("max_input_channels", 0)


def _devices(channels: str, usual: int) -> list[Device]:
    library = None if os.environ.get("NAFAS_SILENT") else portaudio()
    if library is None:
        return []
    try:
        _look_again(library)
        default = library.default.device[usual]
        devices = [
            Device(index, str(each["name"]), int(each[channels]), int(each["default_samplerate"]))
            for index, each in enumerate(library.query_devices())
            if each[channels] > 0
        ]
    except Exception as error:  # a sound system may fail in ways of its own
        logger.warning("the sound devices cannot be listed: %s", error)
        return []
    return sorted(devices, key=lambda device: device.index != default)


def _look_again(library: Any) -> None:
    """PortAudio lists devices once: begin again, so that one that came or went is seen. Not while one is in use."""
    with _lock:
        if not _open:
            library._terminate()
            library._initialize()


def opened() -> None:
    """A stream is in use from now on."""
    global _open
    with _lock:
        _open += 1


def closed() -> None:
    """It is no longer."""
    global _open
    with _lock:
        _open = max(0, _open - 1)
