"""A series that is worked on: written at every change, taken back step by step, never over another's work."""

import shutil

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nafas.errors import InputError
from nafas.files import FileChanged
from nafas.script import Session, read_block, save_session
from nafas.script.edits.session_edits import change
from nafas.series.open_series import OpenSeries, begin_series
from nafas.series.plan import Variant, load_series

SESSION = Session(title="Night watch", bed=None, blocks=(read_block("4-6 x3", "long"),))


@pytest.fixture
def file(folder):
    (folder / "deck").mkdir()
    save_session(SESSION, folder / "deck" / "base.nafas")
    begin_series(folder / "deck" / "base.nafas", folder / "all.nafas-series")
    return OpenSeries(folder / "all.nafas-series")


def with_rows(file, *names):
    return file.series.model_copy(update={"variants": tuple(Variant(name=name) for name in names)})


def names_in(path):
    return [variant.name for variant in load_series(path).variants]


def test_it_is_begun_of_a_session_anywhere_and_every_step_is_in_the_file(file):
    assert file.series.session == "deck/base.nafas" and file.session == SESSION and not file.undo()
    for names in (["a"], ["a", "b"], ["b"]):
        file.change(with_rows(file, *names))
        assert names_in(file.path) == names
    for names in (["a", "b"], ["a"], []):
        assert file.undo() and names_in(file.path) == names == [each.name for each in file.series.variants]
    assert not file.undo()


def test_another_programs_work_is_never_written_over_and_nothing_is_lost(file):
    file.change(with_rows(file, "a"))
    theirs = file.path.read_text().replace('"a"', '"theirs"')
    file.path.write_text(theirs)
    for does in (lambda: file.change(with_rows(file, "b")), file.undo):
        with pytest.raises(FileChanged):
            does()
        assert file.path.read_text() == theirs and file.series.variants[0].name == "a"
    file.path.write_text(theirs.replace('"theirs"', '"a"'))  # they took it back
    assert file.undo() and names_in(file.path) == []


def test_a_file_that_cannot_be_written_leaves_the_series_and_its_steps(file, monkeypatch):
    file.change(with_rows(file, "a"))

    def full(*_):
        raise InputError(str(file.path), "cannot be written (No space left on device)", "free some space")

    monkeypatch.setattr("nafas.series.plan.write_whole", full)
    with pytest.raises(InputError, match="No space"):
        file.change(with_rows(file, "b"))
    with pytest.raises(InputError, match="No space"):
        file.undo()
    monkeypatch.undo()
    assert names_in(file.path) == ["a"] and file.undo() and names_in(file.path) == []


def test_its_session_is_read_anew_and_kept_where_it_is_gone(file, folder):
    save_session(change(SESSION, title="Dog watch"), folder / "deck" / "base.nafas")
    file.read_session()
    assert file.session.title == "Dog watch"
    shutil.rmtree(folder / "deck")
    file.read_session()
    assert file.session.title == "Dog watch"
    with pytest.raises(InputError, match=r"base\.nafas"):
        OpenSeries(file.path)


@given(st.lists(st.sampled_from("abcd"), max_size=12))
def test_undo_goes_back_through_any_steps(tmp_path_factory, steps):
    home = tmp_path_factory.mktemp("home")
    save_session(SESSION, home / "base.nafas")
    begin_series(home / "base.nafas", home / "s.nafas-series")
    file = OpenSeries(home / "s.nafas-series")
    seen = [file.series]
    for name in steps:
        file.change(with_rows(file, *{name, *(each.name for each in file.series.variants)}))
        if file.series != seen[-1]:  # a change to what is there already is no step
            seen.append(file.series)
    for before in reversed(seen[:-1]):
        assert file.undo() and file.series == before == load_series(file.path)
