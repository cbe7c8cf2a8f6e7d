"""What a person chooses takes effect at once, is kept in a file, and can be taken back."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path

import jsonschema
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog, QMessageBox, QWidget
from pytestqt.qtbot import QtBot

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.session.preferences.key_file import write_keys
from fox_hand.session.preferences.preferences import Preferences
from fox_hand.session.runtime.settings import settings_path
from fox_hand.ui.main.choices.keep_size import SECONDS, KeepSize
from fox_hand.ui.screens.preferences.key_list import ROW
from fox_hand.ui.screens.preferences.preferences_screen import PreferencesScreen
from fox_hand.ui.theme.tokens import DUSK, DUSK_STRONG, PAPER
from tests.interchange.test_bvh import bvh_text
from tests.ui.capture.test_capture_panel import capture
from tests.ui.conftest import CTRL, Hand, OpenWindow

FORMATS = Path(__file__).parents[4] / "docs" / "format"


@pytest.fixture
def bare(open_window: OpenWindow) -> Hand:
    """Nobody on the stage."""
    return open_window()


def kept(places: Places) -> dict[str, object]:
    found: dict[str, object] = json.loads(settings_path(places).read_text("utf-8"))
    return found


def opened(hand: Hand, page: str) -> PreferencesScreen:
    QTest.keyClick(hand.window, Qt.Key.Key_Comma, CTRL)
    screen = hand.window.screens.preferences
    assert screen.isVisible()
    names = [entry.name for entry in screen.entries]
    hand.click(screen.list.viewport(), screen.list.rect_of(names.index(page)).center())
    return screen


def press(widget: QWidget, hand: Hand) -> None:
    hand.click(widget, widget.rect().center())


def test_a_theme_is_worn_at_once_kept_and_taken_back(bare: Hand, places: Places) -> None:
    hand = bare
    screen = opened(hand, "Look")
    ground = hand.window.grab().toImage().pixelColor(600, 700)
    assert ground.name() == DUSK.panel.lower()
    press(screen.look.tiles.tiles["paper"], hand)
    assert hand.window.theme.tokens == PAPER
    assert hand.window.grab().toImage().pixelColor(600, 700).name() == PAPER.panel.lower()
    assert kept(places)["theme"] == "paper"
    press(screen.look.tiles.tiles["dusk"], hand)
    press(screen.look.stronger, hand)
    assert hand.window.theme.tokens == DUSK_STRONG
    for _ in range(3):
        QTest.keyClick(hand.window, Qt.Key.Key_Z, CTRL)
    assert hand.window.theme.tokens == DUSK
    assert kept(places)["theme"] == "dusk"
    QTest.keyClick(hand.window, Qt.Key.Key_Escape)
    assert hand.window.screens.on_stage
    schema = json.loads((FORMATS / "settings-1.schema.json").read_text())
    jsonschema.Draft202012Validator(schema).validate(kept(places))


def key_row(screen: PreferencesScreen, name: str) -> int:
    return next(
        i
        for i, row in enumerate(screen.keys.list.rows)
        if row.command is not None and row.command.name == name
    )


def take_key(hand: Hand, screen: PreferencesScreen, name: str, key: Qt.Key) -> None:
    """Click a command's row and press another key."""
    rows, number = screen.keys.list, key_row(screen, name)
    rows.scrollTo(rows.model().index(number, 0))
    hand.click(rows.viewport(), rows.rect_of(number).topLeft() + QPoint(60, ROW // 2))
    QTest.keyClick(screen.keys.editor.fields[0], key)


def test_a_command_takes_another_key(
    hand: Hand, places: Places, qtbot: QtBot, open_window: OpenWindow
) -> None:
    screen, table = opened(hand, "Keys"), hand.window.actions_table
    take_key(hand, screen, "handles", Qt.Key.Key_F12)
    qtbot.waitUntil(lambda: not screen.keys.editor.isVisible())
    assert kept(places)["keys"] == {"handles": ["F12"]}
    QTest.keyClick(hand.window, Qt.Key.Key_Escape)
    bars, before = hand.window.overlays.bars, hand.window.stage.handles_on
    assert "F12" in bars.handles.toolTip()
    QTest.keyClick(hand.window.stage, Qt.Key.Key_F12)
    assert hand.window.stage.handles_on is not before
    shipped = next(c for c in table.shipped if c.name == "handles").key
    QTest.keyClick(hand.window.stage, Qt.Key[f"Key_{shipped}"])
    assert hand.window.stage.handles_on is not before  # the old one means nothing any more
    other = open_window().window
    assert other.actions_table["handles"].keys == ("F12",)


def test_a_key_that_another_has_is_swapped_or_taken_and_goes_back(
    bare: Hand, qtbot: QtBot, places: Places
) -> None:
    hand = bare
    screen, table = opened(hand, "Keys"), hand.window.actions_table
    handles, ghost = table["handles"].key, table["ghost"].key
    take_key(hand, screen, "handles", Qt.Key[f"Key_{ghost}"])
    assert not screen.keys.editor.swap.visibleRegion().isEmpty()  # nothing is changed unasked
    assert table["handles"].key == handles
    press(screen.keys.editor.swap, hand)
    assert (table["handles"].key, table["ghost"].key) == (ghost, handles)
    qtbot.waitUntil(lambda: not screen.keys.editor.isVisible())
    take_key(hand, screen, "lens", Qt.Key[f"Key_{ghost}"])
    press(screen.keys.editor.take, hand)
    assert (table["lens"].key, table["handles"].keys) == (ghost, ())
    qtbot.waitUntil(lambda: not screen.keys.editor.isVisible())
    press(screen.keys.back_button, hand)
    assert kept(places)["keys"] == {}
    assert (table["handles"].key, table["ghost"].key) == (handles, ghost)
    QTest.keyClick(hand.window, Qt.Key.Key_Z, CTRL)
    assert table["lens"].key == ghost


def test_keys_from_a_file_are_shown_before_they_are_taken(
    bare: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    hand = bare
    opened(hand, "Keys")
    exchange = hand.window.preference_effects._key_exchange
    write_keys(tmp_path / "k.json", {"lens": ["F12"], "handles": ["F12"], "nobody": ["X"]})
    schema = json.loads((FORMATS / "foxkeys-1.schema.json").read_text())
    jsonschema.Draft202012Validator(schema).validate(json.loads((tmp_path / "k.json").read_text()))
    asked: list[str] = []

    def answer(box: QMessageBox, number: int) -> None:
        asked.append(box.informativeText())
        box.buttons()[number].click()

    monkeypatch.setattr(QMessageBox, "exec", lambda box: answer(box, 1))
    exchange.take(tmp_path / "k.json")
    assert hand.workspace.settings.keys == {}
    monkeypatch.setattr(QMessageBox, "exec", lambda box: answer(box, 0))
    exchange.take(tmp_path / "k.json")
    table = hand.window.actions_table
    first, second = sorted((table["lens"], table["handles"]), key=lambda c: not c.keys)
    assert first.keys == ("F12",)
    assert second.keys == ()  # two cannot have one key
    assert "F12" in asked[0]
    assert "not known" in asked[0]
    (tmp_path / "bad.json").write_text("{")
    exchange.take(tmp_path / "bad.json")
    assert "holds no keys" in hand.window.notice.text
    assert first.keys == ("F12",)


def test_controls_are_called_as_in_the_rig(hand: Hand) -> None:
    actor = hand.workspace.actor
    assert actor is not None
    screen, row = opened(hand, "Look"), hand.row("arm_L")
    before = actor.rig.word(row)
    screen.look.names.chosen.emit("rig")
    assert actor.rig.word(row) == "arm_L" != before
    hand.window.screens.close()
    QTest.keyClick(hand.window, Qt.Key.Key_Comma, CTRL)
    screen.look.names.chosen.emit("spoken")
    assert actor.rig.word(row) == before


def test_a_larger_size_opens_the_window_anew_and_goes_back_without_an_answer(
    bare: Hand, open_window: OpenWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    hand = bare
    restarted: list[int] = []
    effects = hand.window.preference_effects
    monkeypatch.setattr(
        effects, "_restart", lambda: restarted.append(hand.workspace.settings.interface)
    )
    screen = opened(hand, "Look")
    screen.look.size_field.chosen.emit("175")
    assert restarted == [175]
    other = open_window()
    qtbot.waitUntil(lambda: bool(other.window.findChildren(KeepSize)))
    assert not other.window.screens.on_stage  # where it was chosen
    (asked,) = other.window.findChildren(KeepSize)
    for _ in range(SECONDS):
        asked.count()
    assert other.workspace.settings.interface == 100
    again = open_window()
    qtbot.wait(50)
    assert not again.window.findChildren(KeepSize)


def test_what_the_file_cannot_mean_is_told_and_the_rest_is_kept(
    open_window: OpenWindow, places: Places
) -> None:
    path = settings_path(places)
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text('{"version": 1, "author": "Ines", "theme": "pink", "undo_steps": -5}')
    made = open_window()
    assert made.workspace.settings.author == "Ines"
    assert made.workspace.settings.theme == "dusk"
    assert made.workspace.settings.undo_steps == 500
    assert "theme, undo steps" in made.window.notice.text


def test_what_cannot_be_is_refused_and_fewer_steps_are_kept_from_now_on(hand: Hand) -> None:
    screen, workspace = opened(hand, "Stage and work"), hand.workspace
    for number in range(30):
        workspace.selection.set([number % 3])
        workspace.reset([number % 3], "nothing")
    with pytest.raises(FoxHandError, match="cannot be 5"):
        Preferences(workspace.settings, lambda: None).set("undo_steps", 5)
    field = screen.stage.steps.field
    field.lineEdit().setText("4")
    QTest.keyClick(field.lineEdit(), Qt.Key.Key_Return)
    notice = hand.window.notice
    assert "from 10 to 10000" in notice.text
    assert not notice.visibleRegion().isEmpty()  # also where the stage is not seen
    assert workspace.settings.undo_steps == 10
    hand.window.screens.close()
    assert notice.parentWidget() is hand.window.stage
    assert not notice.visibleRegion().isEmpty()


def test_the_order_of_libraries_is_the_one_of_the_sheets(
    hand: Hand, tmp_path: Path, places: Places
) -> None:
    hand.window.opener.open_library(tmp_path / "other", create="Other")
    libraries = hand.workspace.open_libraries
    hand.qtbot.waitUntil(lambda: len(libraries.places) == 2)
    screen = opened(hand, "Libraries")
    press(screen.libraries.list[1].up, hand)
    assert libraries.places[0].name == "Other"
    assert kept(places)["libraries"][0] == str(tmp_path / "other")  # type: ignore[index]  # a list
    press(screen.libraries.list[0].target, hand)
    assert libraries.target is libraries.places[0]
    QTest.keyClick(hand.window, Qt.Key.Key_Z, CTRL)
    assert libraries.target is libraries.places[1]


def test_a_file_that_does_not_say_its_unit_is_in_the_usual_one_or_asked_for(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked: list[str] = []

    def nobody(*words: object) -> tuple[str, bool]:
        asked.append(str(words[2]))
        return "", False

    monkeypatch.setattr(QInputDialog, "getItem", nobody)
    path, other = tmp_path / "walk.bvh", tmp_path / "run.bvh"
    for file in (path, other):
        file.write_text(bvh_text(1))
    hand.window.opener.open_rig(path)
    hand.qtbot.waitUntil(lambda: bool(asked))
    screen = opened(hand, "Shots")
    screen.shots.units.chosen.emit("centimetres")
    hand.window.screens.close()
    hand.window.opener.open_rig(other)
    hand.qtbot.waitUntil(lambda: any(a.path == other for a in hand.workspace.cast.actors))
    assert len(asked) == 1
    assert "centimetres, as in the preferences" in hand.window.notice.text
    figure = next(a for a in hand.workspace.cast.actors if a.path == other)
    assert figure.rig.height == pytest.approx(1.43, abs=0.02)


def test_cards_with_small_pictures_only_have_no_large_one(hand: Hand) -> None:
    screen = opened(hand, "You and your cards")
    screen.you.sizes.chosen.emit("small")
    hand.window.screens.close()
    hand.click_card("Fist")
    hand.key(Qt.Key.Key_Return)
    hand.workspace.capturing.ask()
    with zipfile.ZipFile(capture(hand, "Small one")) as card:
        assert "thumb.png" in card.namelist()
        assert "thumb@2x.webp" not in card.namelist()
