"""A session handed over whole, and packed: read by others, refused where it must be, nothing left half done."""

import base64
import json
import shutil
import subprocess
import zipfile
from fractions import Fraction
from pathlib import Path

import mutagen
import numpy as np
import pytest
import soundfile
from helpers import deliver, produce
from mutagen.flac import Picture

from nafas.cli.main import main
from nafas.demo import SESSION
from nafas.errors import Cancelled, InputError
from nafas.exchange.aac import decode, decoded, write_m4a
from nafas.exchange.packed import pack, unpack
from nafas.files import digest_of, this_process
from nafas.script import load_session, read_block, save_session
from nafas.script.edits.session_edits import change, change_block
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FileBed
from nafas.tasks.delivery import PURPOSES, TEXTS, stem_of
from nafas.timing import compile_session, paced
from nafas.voice.takebook.book import TakeBook


def short():
    """The demo's arrival, two rounds of its first set, and its return."""
    session = load_session(SESSION)
    session = change(session, target_length=None, blocks=tuple(session.blocks[place] for place in (0, 2, 3, 8)))
    words = "We breathe in for four counts, and out for six. Two rounds."
    return change_block(change_block(session, 2, rounds=2), 1, paragraphs=(words,))


def brief():
    """Its talk and its two rounds alone, with bed and chimes: a third of the time, and all kinds of sound."""
    return change(short(), blocks=short().blocks[1:3], opening=2, closing=4)


def tiny():
    """One round, nothing under it."""
    blocks = (read_block("3-4 x2", "a"),)
    return change(short(), blocks=blocks, voice={}, bed=None, opening=1, closing=1, end_bell=False)


def test_everything_is_handed_over_and_others_read_it(folder):
    made = deliver(
        brief(), SESSION.parent, folder / "out", (".flac", ".mp3", ".ogg", ".m4a"), tuple(TEXTS), anyway=True
    )
    names = {path.name.removeprefix("Between crossings") for path in made.files}
    assert {".flac", ".flac.cue", ".mp3", ".ogg", ".m4a", ".srt", ".vtt", ".mid", ".nafas-packed", " cues.csv"} <= names
    assert {path.name for path in (folder / "out").iterdir()} == {path.name for path in made.files}
    assert all(proof.holds for proof in made.proofs) and len(made.proofs) == 4
    whole = float(made.cast.timeline.length)
    for ending in (".mp3", ".m4a", ".ogg"):
        path = folder / "out" / f"Between crossings{ending}"
        shown = ["ffprobe", "-v", "error", "-show_chapters", "-show_format", "-of", "json", str(path)]
        told = json.loads(subprocess.run(shown, capture_output=True, check=True).stdout)
        starts = sorted(float(chapter["start_time"]) for chapter in told["chapters"])
        assert starts == pytest.approx([chapter.start for chapter in made.chapters], abs=0.002), ending
        assert float(told["format"]["duration"]) == pytest.approx(whole, abs=0.06)
    tags = mutagen.File(folder / "out" / "Between crossings.m4a").tags
    assert tags["\xa9nam"] == ["Between crossings"] and "medical care" in tags["\xa9cmt"][0]


def test_m4a_sounds_as_the_master_and_is_proved_as_it_is_decoded(folder, monkeypatch):
    made = deliver(change(tiny(), bed=short().bed), SESSION.parent, folder / "out", (".flac", ".m4a"), (), anyway=True)
    by_ffmpeg = folder / "back.wav"
    source = folder / "out" / f"{made.stem}.m4a"
    subprocess.run(["ffmpeg", "-v", "error", "-i", str(source), str(by_ffmpeg)], check=True)
    one, rate = soundfile.read(folder / "out" / f"{made.stem}.flac")
    other, _ = soundfile.read(by_ffmpeg)
    a, b = one[2 * rate : 14 * rate, 0], other[2 * rate : 14 * rate, 0]
    assert np.corrcoef(a, b)[0, 1] > 0.98  # in place to the sample: AAC's delay is taken off by its edit list
    decode(source, folder / "ours.wav")
    ours, _ = soundfile.read(folder / "ours.wav")
    assert abs(len(ours) - len(other)) <= 1024 and np.abs(ours[: len(other)] - other[: len(ours)]).max() < 1e-4
    assert [proof.path.suffix for proof in made.proofs if proof.holds] == [".flac", ".m4a"]

    def late(master, path, *rest):
        soundfile.write(folder / "late.wav", np.roll(one, 480, axis=0), rate, subtype="PCM_24")
        write_m4a(folder / "late.wav", path, *rest)

    monkeypatch.setattr("nafas.tasks.deliver.write_m4a", late)
    told = deliver(tiny(), SESSION.parent, folder / "late", (".flac", ".m4a"), (), anyway=True).proofs[-1]
    assert told.path.suffix == ".m4a" and "late" in str(told.faults[0]), told.faults
    save_session(change(tiny(), bed=short().bed), folder / "s.nafas")
    assert main(["prove", str(source), "--for", str(folder / "s.nafas")]) == 0
    (folder / "none.m4a").write_bytes(source.read_bytes()[:2000])
    with pytest.raises(InputError, match=r"none\.m4a"):
        decode(folder / "none.m4a", folder / "x.wav")


def test_a_container_of_another_codec_is_decoded_and_one_without_sound_refused(folder):
    sound = np.random.default_rng(2).uniform(-0.5, 0.5, (30_000, 2)).astype(np.float32)
    soundfile.write(folder / "a.wav", sound, 48_000, subtype="PCM_16")
    made, ffmpeg = folder / "a.mp4", ["ffmpeg", "-v", "error", "-i"]
    subprocess.run([*ffmpeg, str(folder / "a.wav"), "-c:a", "flac", "-strict", "-2", str(made)], check=True)
    with decoded(made) as back:
        assert np.array_equal(soundfile.read(back)[0], soundfile.read(folder / "a.wav")[0])
    assert not back.exists()
    picture = ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "color=size=64x64:duration=1", str(folder / "silent.mp4")]
    subprocess.run(picture, check=True)
    with pytest.raises(InputError, match="holds no sound"), decoded(folder / "silent.mp4"):
        pass
    with decoded(folder / "a.wav") as back:
        assert back is None


def test_what_is_encoded_comes_from_what_loses_nothing_and_the_packed_session_is_the_session(folder):
    session = tiny()
    made = deliver(session, SESSION.parent, folder / "out", (".mp3", ".m4a"), ("packed",), anyway=True)
    assert {path.suffix for path in made.files} == {".mp3", ".json", ".m4a", ".nafas-packed"}
    assert made.sound.suffix == ".flac" and [proof.path.suffix for proof in made.proofs] == [".mp3", ".m4a"]
    assert load_session(unpack(folder / "out" / f"{made.stem}.nafas-packed", folder / "back")) == session
    alone = deliver(session, SESSION.parent, folder / "alone", (".m4a",), (), anyway=True)
    assert [path.suffix for path in alone.files] == [".m4a", ".json"] and alone.proofs[0].holds


def test_what_must_be_mended_is_said_before_anything_is_written(folder):
    session = change_block(short(), 0, paragraphs=("This heals the lungs.",))
    with pytest.raises(InputError, match="change it in Review first"):
        deliver(session, SESSION.parent, folder / "out", (".mp3",), ("srt",))
    assert not list((folder / "out").iterdir())


def test_nothing_is_replaced_and_a_stop_leaves_nothing(folder):
    (folder / "Between crossings.srt").write_text("mine")
    with pytest.raises(InputError, match="is there already"):
        deliver(tiny(), SESSION.parent, folder, (".mp3",), ("srt",), anyway=True)
    assert [path.name for path in folder.iterdir()] == ["Between crossings.srt"]

    def stop(stage, done):
        if stage == "proving":
            raise Cancelled

    with pytest.raises(Cancelled):
        deliver(tiny(), SESSION.parent, folder / "out", (".mp3",), ("srt",), anyway=True, progress=stop)
    assert not list((folder / "out").iterdir())


def test_names_and_kinds_that_are_none_are_refused(folder, capsys):
    session = change(short(), title="../a:b*c")
    assert stem_of(session, 61, "{title} {length} {language}") == "a-b-c 1-01 en"
    for pattern in ("{nobody}", "{title.__class__}", "{"):
        with pytest.raises(InputError):
            stem_of(session, 61, pattern)
    for audio, texts in (((".wma",), ()), ((), ()), ((".mp3",), ("poem",))):
        with pytest.raises(InputError):
            deliver(session, SESSION.parent, folder, audio, texts)
    save_session(change(short(), voice={}, bed=None), folder / "s.nafas")
    assert main(["deliver", str(folder / "s.nafas"), "-o", str(folder / "o"), "--for", "nobody"]) == 2
    assert all(set(texts) <= set(TEXTS) for _, texts in PURPOSES.values())


# -- packed


@pytest.fixture
def packed_demo(folder):
    """The demo next to a bed of its own, packed."""
    home = folder / "home"
    shutil.copytree(SESSION.parent / "takes", home / "takes")
    soundfile.write(home / "engine.flac", np.random.default_rng(1).standard_normal(48_000) * 0.05, 48_000)
    session = change(short(), bed=FileBed(file=Asset(path="engine.flac")))
    save_session(session, home / "s.nafas")
    return pack(compile_session(session, paced()), home, folder / "s.nafas-packed"), home


def test_a_packed_session_sounds_the_same_elsewhere(packed_demo, folder):
    path, home = packed_demo
    script = unpack(path, folder / "elsewhere")
    shutil.move(home, folder / "gone")
    session = load_session(script)
    one = produce(session, script.parent, folder / "one.wav", with_proof=False, anyway=True).mastered.path
    two = produce(
        load_session(folder / "gone" / "s.nafas"), folder / "gone", folder / "two.wav", with_proof=False, anyway=True
    ).mastered.path
    assert one.read_bytes() == two.read_bytes()
    assert len(TakeBook(script.parent / "takes").index.takes) < len(TakeBook(folder / "gone" / "takes").index.takes) + 1
    with pytest.raises(InputError, match="there already"):
        unpack(path, folder / "elsewhere")


def again(path, out, change_of):
    """The packed session with something done to its parts."""
    with zipfile.ZipFile(path) as old:
        parts = {info.filename: old.read(info) for info in old.infolist()}
    change_of(parts)
    with zipfile.ZipFile(out, "w") as new:
        for name, data in parts.items():
            new.writestr(name, data)
    return out


def renamed(name, to):
    def do(parts):
        manifest = json.loads(parts["manifest.json"])
        for each in manifest["files"]:
            each["name"] = to if each["name"] == name else each["name"]
        parts["manifest.json"] = json.dumps(manifest).encode()
        parts[to] = parts.pop(name)

    return do


def resized(parts):
    manifest = json.loads(parts["manifest.json"])
    manifest["files"][0]["size"] = 9_000_000_000
    parts["manifest.json"] = json.dumps(manifest).encode()


def reaching_out(parts):
    text = parts["session.nafas"].replace(b"sounds/engine.flac", b"../../../../etc/hostname")
    manifest = json.loads(parts["manifest.json"])
    for each in manifest["files"]:
        if each["name"] == "session.nafas":
            each.update(size=len(text), sha256=digest_of(text))
    parts["session.nafas"], parts["manifest.json"] = text, json.dumps(manifest).encode()


@pytest.mark.parametrize(
    "harm",
    [
        renamed("sounds/engine.flac", "../engine.flac"),
        renamed("sounds/engine.flac", "/tmp/engine.flac"),
        renamed("sounds/engine.flac", "sounds\\..\\engine.flac"),
        lambda parts: parts.update({"sounds/engine.flac": b"x" * len(parts["sounds/engine.flac"])}),
        lambda parts: parts.update({"more.txt": b"x"}),
        lambda parts: parts.pop("sounds/engine.flac"),
        lambda parts: parts.pop("manifest.json"),
        lambda parts: parts.update({"manifest.json": b"[1"}),
        resized,
        reaching_out,
    ],
)
def test_a_packed_session_that_is_not_as_it_should_be_is_refused(packed_demo, folder, harm):
    path = again(packed_demo[0], folder / "bad.nafas-packed", harm)
    before = {each.name for each in folder.iterdir()}
    with pytest.raises(InputError, match="not a complete packed session"):
        unpack(path, folder / "elsewhere")
    assert {each.name for each in folder.iterdir()} == before


def test_a_link_a_cut_file_and_a_missing_sound(packed_demo, folder):
    path, home = packed_demo
    info = zipfile.ZipInfo("sounds/engine.flac")
    info.external_attr = 0o120777 << 16
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(folder / "l.nafas-packed", "w") as new:
        for each in old.infolist():
            new.writestr(info if each.filename == info.filename else each, old.read(each))
    (folder / "cut.nafas-packed").write_bytes(path.read_bytes()[:5000])
    for name in ("l", "cut"):
        with pytest.raises(InputError):
            unpack(folder / f"{name}.nafas-packed", folder / "elsewhere")
    (home / "engine.flac").unlink()
    with pytest.raises(InputError, match="is missing"):
        pack(compile_session(load_session(home / "s.nafas"), paced()), home, folder / "again.nafas-packed")
    assert not (folder / "again.nafas-packed").exists()


def picture(kind):
    """A small picture, by a writer of its own (PyAV), 32 px wide and 24 high."""
    import av

    codec = av.CodecContext.create({"jpg": "mjpeg", "png": "png"}[kind], "w")
    codec.width, codec.height, codec.time_base = 32, 24, Fraction(1, 25)
    codec.pix_fmt = {"jpg": "yuvj420p", "png": "rgb24"}[kind]
    grey = np.full((24, 32, 3), 90, np.uint8)
    frame = av.VideoFrame.from_ndarray(grey, format="rgb24").reformat(format=codec.pix_fmt)
    frame.pts = 0
    return b"".join(bytes(packet) for packet in [*codec.encode(frame), *codec.encode(None)])


def cover_in(path):
    """The bytes of the cover in a file, as mutagen reads them."""
    file = mutagen.File(path)
    if path.suffix in (".mp3", ".wav"):
        return file.tags.getall("APIC")[0].data
    if path.suffix == ".m4a":
        return bytes(file.tags["covr"][0])
    if path.suffix == ".flac":
        return file.pictures[0].data
    return Picture(base64.b64decode(file.tags["metadata_block_picture"][0])).data


@pytest.mark.parametrize("kind", ["jpg", "png"])
def test_a_cover_and_the_track_stand_in_every_file(folder, kind):
    (folder / f"deck.{kind}").write_bytes(picture(kind))
    tags = {"track": 7, "cover": Asset(path=f"deck.{kind}"), "album": "Crossings"}
    sounds = (".mp3", ".wav", ".flac", ".ogg", ".opus", ".m4a") if kind == "jpg" else (".mp3", ".m4a")
    made = deliver(change(tiny(), tags=tags), folder, folder / "o", sounds, [], anyway=True)
    assert all(proof.holds for proof in made.proofs)
    for path in (path for path in made.files if path.suffix in sounds):
        assert cover_in(path) == picture(kind), path
        asked = ["ffprobe", "-v", "error", "-show_entries", "format_tags:stream_tags:stream=width", "-of", "json"]
        shown = json.loads(subprocess.run([*asked, str(path)], capture_output=True, check=True).stdout)
        told = {**{k.lower(): v for s in shown["streams"] for k, v in s.get("tags", {}).items()},
                **{k.lower(): v for k, v in shown["format"].get("tags", {}).items()}}  # fmt: skip
        assert told["track"] == "7" and told["album"] == "Crossings", path
        assert 32 in [stream.get("width") for stream in shown["streams"]] or path.suffix == ".wav", path


@pytest.mark.parametrize("data", [b"", b"GIF89a", b"\xff\xd8\xff\xe0", b"\x89PNG\r\n\x1a\n" + b"\0" * 40])
def test_what_is_no_cover_is_refused_before_anything_is_made(folder, data):
    (folder / "deck.png").write_bytes(data)
    session = change(tiny(), tags={"cover": Asset(path="deck.png")})
    with pytest.raises(InputError, match=r"JPEG or PNG|damaged"):
        deliver(session, folder, folder / "o", [".mp3"], [], anyway=True)
    assert not list((folder / "o").iterdir())


def test_what_a_killed_delivery_left_is_swept_by_the_next(folder):
    (folder / "out").mkdir()
    boot = this_process().rpartition("-")[2]
    left = folder / "out" / f".delivery.999999-1-{boot}.1.part"  # of a process that is no more, on this machine
    left.mkdir()
    (left / "master.flac").write_bytes(b"half")
    made = deliver(tiny(), folder, folder / "out", [".mp3"], [], anyway=True)
    assert {path.name for path in (folder / "out").iterdir()} == {path.name for path in made.files}


def test_what_was_to_be_replaced_stands_where_the_new_cannot_be_placed(folder, monkeypatch):
    made = deliver(tiny(), folder, folder / "out", [".mp3"], ["srt", "vtt"], anyway=True)
    before = {path.name: path.read_bytes() for path in made.files}
    usual, broken = Path.replace, {"in"}

    def full(path, target):
        way = "back" if path.parent.name == "before" else "in"
        if path.suffix == ".vtt" and way in broken and Path(target).parent == folder / "out":
            raise OSError(28, "No space left on device")
        return usual(path, target)

    monkeypatch.setattr(Path, "replace", full)
    other = change_block(tiny(), 0, rounds=3)

    def again():
        with pytest.raises(InputError, match="No space"):
            deliver(other, folder, folder / "out", [".mp3"], ["srt", "vtt"], anyway=True, replaces=lambda path: True)
        return {path.name: path.read_bytes() for path in (folder / "out").rglob("*") if path.is_file()}

    assert again() == before and len(list((folder / "out").iterdir())) == len(before)
    broken.add("back")
    assert again() == before  # one of them in a folder of its own
    assert [path.name.split()[0] for path in (folder / "out").iterdir() if path.is_dir()] == ["before"]
    monkeypatch.undo()
    new = deliver(other, folder, folder / "out", [".mp3"], ["srt", "vtt"], anyway=True, replaces=lambda path: True)
    assert {path.name for path in new.files} == set(before) and new.files[0].read_bytes() != before[new.files[0].name]
