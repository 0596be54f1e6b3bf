"""Clips beyond a bound lie on the disk, and are the same clips."""

import gc
import os

import numpy as np

from nafas.sound.clip_track import PlacedClip, Track
from nafas.voice.spool import Spool, Spooled

RNG = np.random.default_rng(1)


def noise(*shape: int) -> np.ndarray:
    return RNG.standard_normal(shape).astype(np.float32)


def test_what_does_not_fit_in_memory_is_read_from_the_disk_as_it_was():
    spool, sounds = Spool(in_memory=8000), [noise(1000), noise(1000), noise(5000), noise(2, 3000)]
    held = [spool.hold(sound) for sound in sounds]
    assert [isinstance(each, Spooled) for each in held] == [False, False, True, True]
    for sound, each in zip(sounds, held):
        assert each.shape == sound.shape and np.array_equal(each[..., 100:250], sound[..., 100:250])
    assert np.array_equal(held[3].whole(), sounds[3]) and held[2][..., 4990:9000].shape == (10,)


def test_room_is_given_back_in_memory_and_on_the_disk():
    spool = Spool(in_memory=4000)
    first = spool.hold(noise(1000))
    second = spool.hold(noise(1000))
    assert isinstance(second, Spooled) and not isinstance(first, Spooled)
    del first
    gc.collect()
    assert not isinstance(spool.hold(noise(1000)), Spooled)
    del second
    gc.collect()
    big = [spool.hold(noise(2000)) for _ in range(3)]
    for _ in range(50):  # an edit after another, each with a new reading of a line
        big = [spool.hold(noise(2000)) for _ in range(3)]
    assert spool._end <= 12 * 8000 and all(isinstance(each, Spooled) for each in big)


def test_a_full_disk_keeps_clips_in_memory(monkeypatch):
    spool, sound = Spool(in_memory=0), noise(1000)
    monkeypatch.setattr("os.pwrite", lambda *a: (_ for _ in ()).throw(OSError(28, "No space left on device")))
    assert np.array_equal(spool.hold(sound), sound)


def test_a_track_of_clips_on_the_disk_sounds_as_one_in_memory():
    spool, sounds = Spool(in_memory=0), [noise(4000), noise(2, 3000), noise(10)]
    plain = Track([PlacedClip(100 * n, sound, 0.5) for n, sound in enumerate(sounds)])
    spooled = Track([PlacedClip(100 * n, spool.hold(sound), 0.5) for n, sound in enumerate(sounds)])
    for start in (-50, 0, 90, 3999):
        one, other = np.zeros((2, 700), np.float32), np.zeros((2, 700), np.float32)
        plain.add_to(one, start), spooled.add_to(other, start)
        assert np.array_equal(one, other)


def test_forked_processes_do_not_write_over_each_other():
    spool, sounds = Spool(in_memory=0), [noise(1000) for _ in range(4)]
    before = spool.hold(sounds[0])

    def forked(sound):
        ours, theirs = os.pipe()
        if child := os.fork():
            os.close(theirs)
            return child, ours
        held = spool.hold(sound)
        os.write(theirs, b"written")
        os.read(go_on, 1)
        same = np.array_equal(held.whole(), sound) and np.array_equal(before.whole(), sounds[0])
        os.write(theirs, b"same" if same else b"other")
        os._exit(0)

    go_on, go = os.pipe()
    children, pipes = zip(forked(sounds[1]), forked(sounds[2]))
    assert [os.read(pipe, 20) for pipe in pipes] == [b"written"] * 2
    own = spool.hold(sounds[3])
    os.write(go, b"..")
    assert [os.read(pipe, 20) for pipe in pipes] == [b"same"] * 2
    assert np.array_equal(own.whole(), sounds[3]) and np.array_equal(before.whole(), sounds[0])
    assert [os.waitpid(child, 0)[1] for child in children] == [0, 0]
    for end in (*pipes, go_on, go):
        os.close(end)
