"""What a master says of itself in the formats whose encoder writes no tags, or garbles them: ID3v2.4 in MP3 and WAV.

In UTF-8 throughout. No ID3v1 stands next to it: that one cuts everything at thirty letters.
"""

from pathlib import Path

from nafas.sound.files.formats import Encoding

ID3_CONTAINERS = ("MP3", "WAV")


def write_tags(path: Path, encoding: Encoding, tags: dict[str, str]) -> None:
    """Write a file's ID3 tags: title, artist, album, comment, track, as far as they are not empty.

    RF64 (WAV over 4 GB) has no room for them that readers agree on, and gets none.

    Raises:
        OSError: the disk is full.
    """
    if encoding.container not in ID3_CONTAINERS or not any(tags.values()):
        return
    from mutagen import MutagenError
    from mutagen.id3 import COMM, ID3, TALB, TIT2, TPE1, TRCK
    from mutagen.wave import WAVE

    utf8 = 3
    plain = {"title": TIT2, "artist": TPE1, "album": TALB, "track": TRCK}
    frames = [frame(encoding=utf8, text=[tags[key]]) for key, frame in plain.items() if tags.get(key)]
    if tags.get("comment"):
        # XXX is ID3's own code where no language is said.
        frames.append(COMM(encoding=utf8, lang="XXX", desc="", text=[tags["comment"]]))
    try:
        if encoding.container == "WAV":
            file = WAVE(path)
            file.add_tags()
            for frame in frames:
                file.tags.add(frame)
            file.save(v2_version=4)
        else:
            tags_ = ID3()
            for frame in frames:
                tags_.add(frame)
            tags_.save(path, v1=0, v2_version=4, padding=lambda info: 0)
    except MutagenError as error:
        raise OSError(str(error)) from error
