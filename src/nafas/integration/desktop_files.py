"""The files by which a desktop knows Nafas, by the specifications of freedesktop.org.

Desktop Entry 1.4, Shared MIME-info Database 0.21, Icon Theme 0.13, AppStream 1.0.
"""

from datetime import date
from html import escape
from pathlib import Path

from nafas import __version__

DATA = Path(__file__).parent / "data"
ICONS = ("nafas", "nafas-session")
SIZES = (16, 22, 24, 32, 48, 64, 128, 256, 512)
SMALL = 24
"""Up to this many pixels an icon is drawn in fewer strokes."""
SESSION, PACKED, SERIES = (f"application/x-nafas-{kind}" for kind in ("session", "packed", "series"))
_TYPES = (
    (SESSION, "Nafas session", "application/json", "*.nafas"),
    (PACKED, "Packed Nafas session", "application/zip", "*.nafas-packed"),
    (SERIES, "Nafas series", "application/json", "*.nafas-series"),
)
_SUMMARY = "Script, time, mix and prove guided breathing recordings"
_VIEWS = (
    "Write the practice as a page; every count is timed exactly and every word falls on it",
    "Record line by line, or cut one long recording up into takes; a natural voice reads the rest",
    "Mix voice, chimes and a bed to a target loudness, and prove it in the finished file",
    "Check promises and cautions, and audit any recording",
    "Deliver audio with chapters, captions, cue lists and a guide video, and keep a record of it",
)


def desktop_entry(command: str) -> str:
    """The menu entry.

    Args:
        command: the absolute path of the `nafas` command.
    """
    return f"""[Desktop Entry]
Version=1.4
Type=Application
Name=Nafas
GenericName=Guided Breathing Recordings
Comment={_SUMMARY}
Exec={_quoted(command)} open %f
Icon=nafas
Terminal=false
StartupNotify=true
StartupWMClass=nafas
Categories=AudioVideo;Audio;AudioVideoEditing;
Keywords=breathing;breath;meditation;recording;voice;count;podcast;
MimeType={SESSION};{PACKED};{SERIES};
"""


def _quoted(command: str) -> str:
    """As an argument of Exec: quoted, with what is special inside quotes escaped, and a per cent sign doubled."""
    plain = command.replace("\\", "\\\\\\\\")
    for sign in ('"', "`", "$"):
        plain = plain.replace(sign, f"\\\\{sign}")
    return f'"{plain.replace("%", "%%")}"'


def mime_package() -> str:
    """The file types, with their icon."""
    types = "".join(
        f'  <mime-type type="{kind}">\n    <comment>{text}</comment>\n    <sub-class-of type="{above}"/>\n'
        f'    <icon name="nafas-session"/>\n    <glob pattern="{pattern}" weight="80"/>\n  </mime-type>\n'
        for kind, text, above, pattern in _TYPES
    )
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info">\n{types}</mime-info>\n'
    )


def software_data(released: date) -> str:
    """What software centres show (AppStream).

    Args:
        released: the day of this version.
    """
    points = "".join(f"      <li>{escape(view)}</li>\n" for view in _VIEWS)
    types = "".join(f"    <mediatype>{kind}</mediatype>\n" for kind, *_ in _TYPES)
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<component type="desktop-application">
  <id>nafas.desktop</id>
  <name>Nafas</name>
  <summary>{_SUMMARY}</summary>
  <metadata_license>CC0-1.0</metadata_license>
  <project_license>GPL-3.0-or-later</project_license>
  <description>
    <p>Nafas times spoken counts, phase chimes, rounds and progressive pacing against background sound, so that every
    inhale, hold and exhale lands exactly on the count, and proves it in the finished recording.</p>
    <ul>
{points}    </ul>
    <p>It measures and checks recordings. It gives no medical advice and does not replace licensed care.</p>
  </description>
  <launchable type="desktop-id">nafas.desktop</launchable>
  <icon type="stock">nafas</icon>
  <categories>
    <category>AudioVideo</category>
    <category>Audio</category>
  </categories>
  <provides>
    <binary>nafas</binary>
{types}  </provides>
  <content_rating type="oars-1.1"/>
  <releases>
    <release version="{__version__}" date="{released.isoformat()}"/>
  </releases>
</component>
"""
