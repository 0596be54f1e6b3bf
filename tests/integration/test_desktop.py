"""At home on the desktop: what is installed is read by the desktop's own tools, and all of it goes again."""

import configparser
import re
import shutil
import struct
import subprocess
import xml.etree.ElementTree as ET

import pytest

from nafas.cli.main import _parser, main
from nafas.integration.desktop_files import PACKED, SERIES, SESSION, SIZES, desktop_entry
from nafas.integration.install import install, uninstall
from nafas.tasks.exit_codes import MEANINGS

NAMESPACE = {"m": "http://www.freedesktop.org/standards/shared-mime-info"}


def needs(tool):
    return pytest.mark.skipif(shutil.which(tool) is None, reason=f"{tool} is not here")


def run(*command, **more):
    return subprocess.run(command, capture_output=True, text=True, timeout=60, **more)


@pytest.fixture
def share(folder, monkeypatch, capsys):
    monkeypatch.setenv("XDG_DATA_HOME", str(folder / "share"))
    assert main(["--install-desktop"]) == 0
    capsys.readouterr()
    return folder / "share"


def test_the_menu_entry_opens_a_file_and_names_its_types(share):
    entry = configparser.ConfigParser(interpolation=None)
    entry.optionxform = str
    entry.read(share / "applications" / "nafas.desktop", "utf-8")
    shown = entry["Desktop Entry"]
    assert shown["Exec"].endswith('nafas" open %f') and shown["Exec"].startswith('"/')
    assert shown["MimeType"] == f"{SESSION};{PACKED};{SERIES};" and shown["Icon"] == "nafas"
    for size in SIZES:
        for kind, name in (("apps", "nafas"), ("mimetypes", "nafas-session")):
            data = (share / f"icons/hicolor/{size}x{size}/{kind}/{name}.png").read_bytes()
            assert struct.unpack(">II", data[16:24]) == (size, size) and len(data) > 300
    quoted = desktop_entry('/home/a "b" $c/50%/nafas').splitlines()[6]
    assert quoted == 'Exec="/home/a \\\\"b\\\\" \\\\$c/50%%/nafas" open %f'


@needs("update-mime-database")
def test_the_file_types_are_known_by_their_names(share):
    globs = (share / "mime" / "globs2").read_text()
    for kind, ending in ((SESSION, "nafas"), (PACKED, "nafas-packed"), (SERIES, "nafas-series")):
        assert f"80:{kind}:*.{ending}" in globs
    types = ET.parse(share / "mime" / "packages" / "nafas.xml").getroot().findall("m:mime-type", NAMESPACE)
    assert [each.find("m:icon", NAMESPACE).get("name") for each in types] == ["nafas-session"] * 3
    assert "nafas-session" in (share / "mime" / "icons").read_text()


@needs("appstreamcli")
def test_the_software_data_is_valid(share):
    found = run("appstreamcli", "validate", "--no-net", "--no-color", str(share / "metainfo" / "nafas.metainfo.xml"))
    errors = [line for line in found.stdout.splitlines() if line.startswith("E:")]
    assert not errors, found.stdout


def test_the_manual_has_every_command_and_roff_has_nothing_against_it(share):
    page = (share / "man" / "man1" / "nafas.1").read_text("utf-8")
    group = next(action for action in _parser()._actions if hasattr(action, "_choices_actions"))
    for name in group.choices:
        assert f'.SS "nafas {name}"' in page
    assert '.SS "nafas series render"' in page and r"\fB\-\-at\-once\fR" in page
    if shutil.which("groff"):
        found = run("groff", "-man", "-ww", "-Tutf8", input=page)
        shown = " ".join(re.sub(".\b", "", found.stdout).split())  # bold is a letter struck twice
        assert not found.stderr and "EXIT STATUS" in shown
        for told in MEANINGS.values():
            assert told.split(";")[0][:30] in shown


@needs("fish")
def test_fish_completes_the_values_of_options(share):
    script = share / "fish" / "vendor_completions.d" / "nafas.fish"
    for option, value in (("--for", "podcast"), ("--with", "srt"), ("--video", "1080p")):
        shown = run("fish", "-c", f"source {script}; complete -C 'nafas deliver {option} '").stdout
        assert value in [line.split("\t")[0] for line in shown.splitlines()]


@needs("mandoc")
def test_mandoc_has_nothing_against_the_manual(share):
    assert run("mandoc", "-T", "lint", str(share / "man" / "man1" / "nafas.1")).stdout == ""


@needs("desktop-file-validate")
def test_the_menu_entry_is_valid(share):
    assert run("desktop-file-validate", str(share / "applications" / "nafas.desktop")).stdout == ""


def test_the_shell_completes_commands_and_options(share):
    script = share / "bash-completion" / "completions" / "nafas"
    asked = (
        f'source "{script}"; COMP_WORDS=(nafas series re); COMP_CWORD=2; COMP_LINE="nafas series re"; '
        'f=$(complete -p nafas | sed "s/.*-F \\([^ ]*\\).*/\\1/"); $f nafas re series; echo "${COMPREPLY[@]}"'
    )
    assert run("bash", "-c", asked).stdout.split() == ["render"]


def test_all_of_it_goes_again_and_nothing_else(share, capsys):
    (share / "applications" / "other.desktop").write_text("[Desktop Entry]")
    assert main(["--uninstall-desktop"]) == 0
    assert "nafas.desktop" in capsys.readouterr().out
    left = [path.name for path in share.rglob("*nafas*") if path.is_file()]
    assert left == [] and (share / "applications" / "other.desktop").exists()
    assert main(["--uninstall-desktop"]) == 0 and "Nothing" in capsys.readouterr().out


def test_a_person_s_own_files_are_neither_written_over_nor_taken_out(share, capsys):
    entry, target = share / "applications" / "nafas.desktop", share / "mine.desktop"
    entry.write_text("mine")  # changed since it was installed
    assert main(["--install-desktop"]) == 1 and "not from here" in capsys.readouterr().err
    assert main(["--uninstall-desktop"]) == 0 and entry.read_text() == "mine"
    assert [path for path in share.rglob("*") if path.is_file() and "nafas" in path.name] == [entry]
    assert not (share / "man").exists() and not (share / "bash-completion").exists()  # no empty folders are left
    entry.unlink()
    target.write_text("mine")
    entry.symlink_to(target)
    assert main(["--install-desktop"]) == 1 and target.read_text() == "mine"


def test_where_it_cannot_be_written_it_is_said(folder, monkeypatch, capsys):
    (folder / "share").write_text("a file")
    monkeypatch.setenv("XDG_DATA_HOME", str(folder / "share"))
    assert main(["--install-desktop"]) == 1 and "cannot be made" in capsys.readouterr().err
    assert main(["--completion", "elvish"]) == 1 and "bash or zsh or fish" in capsys.readouterr().err
    assert install(_parser(), MEANINGS, folder / "other", "/usr/bin/nafas") and uninstall(folder / "other")
