"""One number for every Ogg stream: libogg draws its serial number by the clock, and the same session must give the same
bytes.

Pages and their checksum as in RFC 3533: a polynomial of 0x04c11db7, from 0, nothing mirrored. zlib computes the
mirrored one, fast; so the bits of every byte are turned round before, and those of the sum after.
"""

import zlib
from pathlib import Path

_SERIAL = (1).to_bytes(4, "little")
_TURNED = bytes(int(f"{n:08b}"[::-1], 2) for n in range(256))


def checksum(page: bytes) -> int:
    """The checksum of a page whose own four bytes of it are zero."""
    crc = zlib.crc32(page.translate(_TURNED), 0xFFFFFFFF) ^ 0xFFFFFFFF
    return int(f"{crc:032b}"[::-1], 2)


def settle_serial(path: Path) -> None:
    """Give the one stream of an Ogg file the serial number 1, in place. Raises OSError."""
    with path.open("r+b") as file:
        while True:
            at, head = file.tell(), file.read(27)
            if len(head) < 27 or head[:4] != b"OggS":
                return
            lengths = file.read(head[26])
            body = file.read(sum(lengths))
            page = head[:14] + _SERIAL + head[18:22] + bytes(4) + head[26:] + lengths + body
            file.seek(at)
            file.write(page[:22] + checksum(page).to_bytes(4, "little"))
            file.seek(at + len(page))
