"""Sound cards and microphones by a simulated PortAudio: chosen, lost, found again, and fed while the window is busy."""

import threading
import time
from types import SimpleNamespace

import numpy as np
import pytest

from nafas.desk.audio import devices, outputs
from nafas.desk.audio.audition import Audition
from nafas.desk.audio.feeder import Feeder
from nafas.desk.audio.microphones import Microphone, Practice, microphones
from nafas.desk.audio.outputs import SILENT, SilentCard, SoundCard, open_output, output_names
from nafas.desk.preferences import choose_output
from nafas.errors import InputError

RATE = 48_000


class SimulatedPortAudio:
    """As much of sounddevice as is used: devices by name, streams that run by the clock, and can be pulled out."""

    class PortAudioError(Exception):
        pass

    def __init__(self):
        self.names, self.pulled, self.refused, self.heard, self.looked = ["desk", "ears"], False, set(), [], 0
        self.default = SimpleNamespace(device=[2, 0])

    def _terminate(self):
        self.looked += 1

    def _initialize(self):
        pass

    def query_devices(self):
        cards = [{"name": n, "max_output_channels": 2, "max_input_channels": 0} for n in self.names]
        cards.append({"name": "booth", "max_output_channels": 0, "max_input_channels": 2})
        return [{**card, "default_samplerate": 44_100.0} for card in cards]

    def RawOutputStream(self, samplerate, device, channels, dtype, latency):
        audio = self
        if self.query_devices()[device]["name"] in self.refused:
            raise self.PortAudioError("Device unavailable")
        clock = SilentCard(samplerate)

        class Stream:
            @property
            def write_available(self):
                if audio.pulled:
                    raise audio.PortAudioError("Stream is stopped")
                return clock.free()

            def write(self, data):
                audio.heard.append(np.frombuffer(data, np.float32).reshape(-1, 2))
                clock.write(data)

            start = abort = close = lambda self: None

        return Stream()

    def InputStream(self, samplerate, device, channels, dtype, latency):
        audio = self

        class Stream:
            def read(self, frames):
                if audio.pulled:
                    raise audio.PortAudioError("gone")
                time.sleep(frames / samplerate)
                return np.tile(np.float32([0.0, 0.25]), (frames, 1)), False

            start = abort = close = lambda self: None

        return Stream()


@pytest.fixture
def portaudio(monkeypatch):
    found = SimulatedPortAudio()
    monkeypatch.delenv("NAFAS_SILENT")
    monkeypatch.setattr(devices, "portaudio", lambda: found)
    yield found
    choose_output("")


def test_everything_plays_to_the_device_that_is_chosen(qtbot, portaudio):
    audition = Audition()
    for chosen, heard in (("ears", "ears"), ("gone", "desk"), ("", "desk"), (SILENT, SilentCard.name)):
        choose_output(chosen)
        audition.play(np.zeros(480, np.float32), RATE)  # what is tried out goes there as what is played does
        card = open_output(RATE)
        assert card.name == audition.output_name == heard
        audition.stop()
        card.stop()
    assert devices._open == 0


def test_devices_that_come_and_go_are_seen_but_not_while_one_plays(portaudio):
    assert output_names() == ["desk", "ears"]
    portaudio.names.append("radio")
    looked = portaudio.looked
    card = open_output(RATE)
    assert portaudio.looked == looked + 1 and "radio" in output_names() and portaudio.looked == looked + 1
    card.stop()
    assert output_names() == ["desk", "ears", "radio"] and portaudio.looked == looked + 2
    portaudio.refused = {"desk"}
    assert open_output(RATE).name == "ears"  # one that is in use by another program: the next one
    portaudio.refused = {"desk", "ears"}
    assert open_output(RATE).name == SilentCard.name


def test_no_portaudio_or_a_broken_one_is_a_silent_card(portaudio, monkeypatch):
    portaudio.query_devices = lambda: 1 / 0
    assert output_names() == [] and open_output(RATE).name == SilentCard.name
    monkeypatch.setattr(devices, "portaudio", lambda: None)
    assert open_output(RATE).name == SilentCard.name and [name for name, _ in microphones()] == [Practice.name]


def test_a_card_is_fed_while_the_window_is_busy_and_nothing_is_lost_or_doubled(portaudio):
    ramp = np.arange(3 * RATE, dtype=np.float32)
    feeder = Feeder(open_output(RATE), lambda at, frames: np.tile(ramp[at : at + frames], (2, 1)))
    until = time.monotonic() + 0.6
    while time.monotonic() < until:  # the window's thread works in Python and lets nobody ask it for anything
        sum(range(1000))
    feeder.stop()
    heard = np.concatenate(portaudio.heard)[:, 0]
    assert len(heard) > 0.5 * RATE and np.array_equal(heard, ramp[: len(heard)])


def test_a_card_that_is_pulled_out_is_seen_and_one_that_hangs_too(portaudio, monkeypatch):
    card = open_output(RATE)
    assert isinstance(card, SoundCard) and not card.failed()
    card.write(bytes(8 * 480))
    portaudio.pulled = True
    assert card.free() == 0 and card.failed()
    card.stop()
    portaudio.pulled = False
    monkeypatch.setattr(outputs, "STALLED_SECONDS", 0.05)
    card = open_output(RATE)
    monkeypatch.setattr(type(card._stream), "write_available", 100)
    card.write(bytes(8 * 480))
    assert not card.failed()
    time.sleep(0.1)
    assert card.failed()


def test_what_cannot_be_read_is_told_and_ends_the_feeding(portaudio):
    def read(at, frames):
        raise InputError("bed.wav", "is gone", "choose another")

    feeder = Feeder(open_output(RATE), read)
    time.sleep(0.1)
    assert "bed.wav" in feeder.error and not feeder._thread.is_alive()
    feeder.stop()


def test_a_microphone_hears_while_the_window_is_busy_and_its_louder_channel_is_taken(portaudio):
    name, make = microphones()[0]
    microphone = make()
    assert name == "booth" and isinstance(microphone, Microphone) and microphone.rate == 44_100
    time.sleep(0.3)
    heard = microphone.read()
    assert 0.15 * 44_100 < len(heard) < 0.45 * 44_100 and (heard == 0.25).all() and not microphone.failed
    portaudio.pulled = True
    until = time.monotonic() + 10
    while not microphone.failed and time.monotonic() < until:  # a busy machine comes to it later
        time.sleep(0.02)
    assert microphone.failed
    microphone.stop()
    assert not any(thread.name.startswith("listen to") for thread in threading.enumerate())
