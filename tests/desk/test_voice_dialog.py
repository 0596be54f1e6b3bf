"""The natural voice of five languages, got from the window."""

from nafas.desk.dialogs import voice_dialog
from nafas.errors import InputError
from nafas.score.selection import Chosen
from nafas.script.edits.session_edits import change
from nafas.voice.engines.kokoro_files import model_path
from nafas.voice.engines.voice_files import voices_folder


def narrator(window):
    window.choose(Chosen())
    fields = window.details.session_form.narrator
    fields.section.head.click()
    return fields


def test_the_voice_is_offered_where_it_can_be_had_and_reads_once_it_is_there(qtbot, window, tmp_path, monkeypatch):
    monkeypatch.setenv("NAFAS_VOICES", str(tmp_path / "voices"))
    fields = narrator(window)
    assert fields.get.isHidden()
    window.document.edit(change(window.document.session, language="de"), "language")
    assert fields.get.isHidden() and "no natural voice for German" in fields.licence.text()
    window.document.edit(change(window.document.session, language="es"), "language")
    assert not fields.get.isHidden()

    def fetched(folder, note):
        note("fetching", 0.5)
        model_path(folder).parent.mkdir(parents=True)
        model_path(folder).write_bytes(b"model")
        return model_path(folder)

    monkeypatch.setattr(voice_dialog, "fetch", fetched)
    fields.get.click()
    dialog = fields.voice_dialog
    assert "Apache" in dialog.findChild(voice_dialog.WrappedLabel).text()
    dialog.start.click()
    qtbot.waitUntil(lambda: not dialog.isVisible(), timeout=30_000)
    assert model_path(voices_folder()).exists() and fields.get.isHidden()
    assert "es-dora" in fields.voice.currentText()


def test_what_goes_wrong_is_said_in_the_dialog(qtbot, window, tmp_path, monkeypatch):
    monkeypatch.setenv("NAFAS_VOICES", str(tmp_path / "voices"))

    def fails(folder, note):
        raise InputError("the voice", "cannot be fetched (no network)", "try again")

    monkeypatch.setattr(voice_dialog, "fetch", fails)
    dialog = voice_dialog.VoiceDialog(window)
    dialog.open()
    dialog.start.click()
    qtbot.waitUntil(lambda: not dialog.running, timeout=30_000)
    assert any("no network" in label.text() for label in dialog.findChildren(voice_dialog.Label))
    dialog.reject()
