"""The manual inside the window: at the right page, found by words, with its pictures."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QTextDocument
from PySide6.QtTest import QTest

from fox_hand.base.manual import NEWS, manual_folder, pages
from fox_hand.demo.demo_project import shipped
from fox_hand.ui.theme.tokens import PAPER
from tests.ui.conftest import CTRL, LONG, Hand, OpenWindow

PICTURE = QTextDocument.ResourceType.ImageResource.value


@pytest.fixture
def hand(open_window: OpenWindow) -> Hand:
    """Nobody on the stage; the manual needs nobody."""
    return open_window()


def page(hand: Hand) -> str:
    found = hand.window.screens.manual.page
    assert found is not None
    return found.name


def test_f1_opens_the_page_of_what_has_the_keyboard(hand: Hand) -> None:
    window = hand.window
    QTest.keyClick(window, Qt.Key.Key_F1)
    assert page(hand) == "0-first-minutes"  # nobody is there yet
    QTest.keyClick(window, Qt.Key.Key_Escape)
    window.opener.open_rig(shipped() / "cast" / "marrow.glb")
    hand.qtbot.waitUntil(lambda: hand.workspace.actor is not None, timeout=LONG)
    for part, name in (
        (window.stage, "3-pose"),
        (window.sheets.view, "6-library"),
        (window.figure_panel.figure, "2-select"),
        (window.timeline.strip, "12-animate"),
    ):
        part.setFocus(Qt.FocusReason.OtherFocusReason)
        QTest.keyClick(window, Qt.Key.Key_F1)
        assert page(hand) == name
        QTest.keyClick(window, Qt.Key.Key_Escape)
        assert window.screens.on_stage
    QTest.keyClick(window, Qt.Key.Key_Comma, CTRL)
    QTest.keyClick(window, Qt.Key.Key_F1)
    assert page(hand) == "20-preferences"
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert window.screens.preferences.isVisible()  # where it was asked from


def test_words_are_found_and_links_followed(hand: Hand) -> None:
    QTest.keyClick(hand.window, Qt.Key.Key_F1)
    screen = hand.window.screens.manual
    QTest.keyClicks(screen.search, "openraster layer")
    names = [hit.page.name for hit in screen._entries]
    assert "19-puppets" in names or "18-drawings" in names
    assert "3-pose" not in names
    screen.view.anchorClicked.emit(QUrl("3-pose.md"))
    assert page(hand) == "3-pose"
    screen.view.anchorClicked.emit(QUrl("https://example.org/x.md"))
    assert page(hand) == "3-pose"  # nothing is fetched


def test_pictures_fit_and_come_from_the_manual_alone(hand: Hand, tmp_path: Path) -> None:
    screen = hand.window.screens.manual
    hand.window.screens.show_manual("3-pose")
    assert screen.page is not None
    (first, *_) = re.findall(r"!\[[^\]]*\]\(([^)]+)\)", screen.page.text)
    image = screen.view.loadResource(PICTURE, QUrl(first))
    assert 80 < image.width() <= screen.view.viewport().width()  # type: ignore[attr-defined]  # an image
    outside = tmp_path / "x.png"
    outside.write_bytes(b"x")
    for name in (str(outside), "../../../pyproject.toml", "https://example.org/x.png"):
        assert screen.view.loadResource(PICTURE, QUrl(name)) is None


def test_it_wears_the_theme_and_tells_what_is_new(hand: Hand) -> None:
    hand.window.screens.show_manual(NEWS)
    assert page(hand) == NEWS
    hand.workspace.preferences.set("theme", "paper")
    ground = hand.window.screens.manual.view.grab().toImage().pixelColor(4, 4)
    assert ground.name() == PAPER.panel.lower()


@pytest.mark.parametrize("language", ["", "de"])
def test_every_page_names_pictures_and_pages_that_are_there(language: str) -> None:
    folder = manual_folder() / language
    assert [one.name for one in pages(folder)] == [one.name for one in pages(manual_folder())]
    for one in pages(folder):
        for target in re.findall(r"\]\(([^)#]+)(?:#[^)]*)?\)", one.text):
            if "://" not in target and one.name != NEWS:
                assert (folder / target).exists(), (one.name, target)


def test_links_into_pages_name_headings_that_are_there() -> None:
    """As the usual viewers of Markdown name them: small letters, blanks as lines."""
    for folder in (manual_folder(), manual_folder() / "de"):
        heads = {
            one.name: {
                re.sub(r"[^\w -]", "", line.lstrip("# ").lower()).replace(" ", "-")
                for line in one.text.splitlines()
                if line.startswith("#")
            }
            for one in pages(folder)
        }
        for one in pages(folder):
            for name, place in re.findall(r"\]\(([\w-]+)\.md#([^)]+)\)", one.text):
                assert one.name == NEWS or place in heads[name], (one.name, name, place)


def test_what_is_new_is_told_entry_by_entry_in_every_language() -> None:
    """Whoever writes one line of the list of changes writes the other, too: marked words such as
    keys, commands and files are in the same entries."""
    english, german = (
        re.split(r"\n- ", pages(manual_folder() / language)[-1].text)[1:] for language in ("", "de")
    )
    assert english[0] != german[0]
    marked = [[sorted(re.findall(r"`[^`]+`", line)) for line in one] for one in (english, german)]
    assert marked[0] == marked[1]
