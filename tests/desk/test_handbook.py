"""The handbook: every page is there, its links lead somewhere, and F1 opens it where one is."""

import re
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from nafas.desk.dialogs.preferences_dialog import PreferencesDialog
from nafas.desk.handbook.window import Handbook
from nafas.desk.widgets.dialog import Dialog
from nafas.handbook import PAGES, page, search, title

FOLDER = Path(__file__).parents[2] / "src/nafas/handbook"


def test_every_page_is_listed_and_every_link_leads_to_a_file():
    assert sorted(PAGES) == sorted(path.stem for path in FOLDER.glob("*.md"))
    for name in PAGES:
        for link in re.findall(r"\]\(([^)]+)\)", (FOLDER / f"{name}.md").read_text("utf-8")):
            assert link.startswith("http") or (FOLDER / link.partition("#")[0]).exists(), (name, link)
        assert title(name) and ".png" not in page(name)


def test_words_are_found_wherever_they_stand():
    places = search("felt BEAT")
    assert (places[0].page, places[0].heading) == ("takes", "The felt beat") and len(places) > 2
    for place in places:
        assert place.page in PAGES and place.heading in {
            re.sub(r"[#*`]", "", line).strip() for line in page(place.page).splitlines() if line.startswith("#")
        }
    assert search("   ") == [] and search("no such word anywhere") == []
    assert {place.page for place in search("the")} == set(PAGES)


def dialogs(kind):
    return [*kind.__subclasses__(), *(deeper for each in kind.__subclasses__() for deeper in dialogs(each))]


def test_the_place_of_every_dialog_is_there(window):
    window.menus._show_preferences()
    window.menus.preferences.close()
    from nafas.desk.review import audit_dialog  # noqa: F401 - so that its class is known
    from nafas.desk.series import series_dialog  # noqa: F401
    from nafas.desk.takes import room_dialog  # noqa: F401

    assert PreferencesDialog in dialogs(Dialog)
    for kind in dialogs(Dialog):
        name, _, heading = kind.help_place.partition("#")
        headings = [line.lstrip("# ") for line in page(name).splitlines() if line.startswith("#")]
        assert not heading or any(each.startswith(heading) for each in headings), kind


@pytest.mark.parametrize(("view", "shown"), [("takes", "takes"), ("score", "notation"), ("plan", "tour")])
def test_f1_opens_the_page_of_the_view(qtbot, window, view, shown):
    window.show_view(view)
    with qtbot.waitActive(window):
        window.activateWindow()
    QTest.keyClick(window, Qt.Key.Key_F1)
    assert window.menus.handbook.isVisible() and window.menus.handbook.shown == shown
    window.menus.handbook.close()


def test_f1_in_a_dialog_and_a_search_by_keys(qtbot, window):
    window.menus._show_preferences()
    dialog = window.menus.preferences
    QTest.keyClick(dialog, Qt.Key.Key_F1)
    book = dialog.handbook
    assert isinstance(book, Handbook) and book.shown == "desktop"
    qtbot.waitUntil(book.line.hasFocus)
    QTest.keyClicks(book.line, "quieter gaps")
    QTest.keyClick(book.line, Qt.Key.Key_Return)
    assert book.isVisible() and book.list.count() >= 1
    QTest.keyClick(book.line, Qt.Key.Key_Down)
    assert book.shown == book.list.currentItem().data(Qt.ItemDataRole.UserRole).page
    book.show_place("takes#The room")
    assert book.text.verticalScrollBar().value() > 0
    book.line.setText("no such word anywhere")
    assert book.list.count() == 1 and "Nothing" in book.list.item(0).text()
    dialog.close()
