"""What all tests share: state of their own, no sound card, and small sessions."""

import os
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["NAFAS_SILENT"] = "1"
# What reads at once; the natural voice has tests of its own.
os.environ["NAFAS_NARRATOR"] = "espeak"
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="nafas-test-")
# What the stand-in has read once, for all workers of this run.
os.environ["NAFAS_CACHE"] = os.path.join(  # noqa: PTH118 - what is imported so early must be little
    tempfile.gettempdir(), "nafas-test-" + os.environ.get("PYTEST_XDIST_TESTRUNUID", str(os.getpid()))
)

import pytest
from helpers import breath
from hypothesis import settings

from nafas.script import Session, Talk

settings.register_profile("nafas", deadline=None, max_examples=60)
settings.load_profile("nafas")


@pytest.fixture(autouse=True)
def own_state(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("NAFAS_STATE", str(tmp_path_factory.mktemp("state")))
    monkeypatch.setenv("NAFAS_RECORDS", str(tmp_path_factory.mktemp("records")))


@pytest.fixture
def short() -> Session:
    """Twenty seconds with talk, counts, chimes, bed and bell, read by the stand-in."""
    talk = Talk(id="hello", paragraphs=("Sit by the rail. Listen.",), pause_after=1)
    return Session(title="Short", opening=2, closing=4, blocks=(talk, breath("2-3", 2)))


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    return tmp_path
