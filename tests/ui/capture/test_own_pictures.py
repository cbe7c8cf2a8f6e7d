"""Pictures of cards that come from files, and poses on the clipboard."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from fox_hand.library.format.container import read_card, read_motion, read_picture
from fox_hand.ui.capture.crop_popup import CropPopup
from fox_hand.ui.services.picture_files import decoded
from tests.ui.conftest import CTRL, LONG, Hand

RED, BLUE = (200, 20, 30), (10, 30, 180)


@pytest.fixture
def drawing(tmp_path: Path) -> Path:
    """Red on the left, blue on the right, twice as wide as high."""
    image = Image.new("RGB", (400, 200), RED)
    image.paste(BLUE, (200, 0, 400, 200))
    path = tmp_path / "drawing.png"
    image.save(path)
    return path


def dropped(hand: Hand, name: str, path: Path) -> CropPopup:
    """Drop a picture file on a card and wait for the question."""
    view = hand.window.sheets.view
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(path))])
    at = view.rect_of(hand.entry(name)).center()
    left, nothing = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    how = Qt.DropAction.CopyAction, mime, left, nothing
    for event in (
        QDragEnterEvent(at, *how),
        QDragMoveEvent(at, *how),
        QDropEvent(QPointF(at), *how),
    ):
        QApplication.sendEvent(view.viewport(), event)
    return popup(hand)


def popup(hand: Hand) -> CropPopup:
    found: list[CropPopup] = []

    def there() -> bool:
        found[:] = [w for w in QApplication.topLevelWidgets() if isinstance(w, CropPopup)]
        return bool(found) and found[0].isVisible()

    hand.qtbot.waitUntil(there, timeout=LONG)
    return found[0]


def colours(data: bytes) -> set[tuple[int, ...]]:
    image = decoded(data)
    return {
        tuple(image.pixelColor(x, y).getRgb()[:3])
        for x in range(20, image.width(), 40)
        for y in (20, image.height() - 20)
    }


def test_a_drawing_dropped_on_a_card_is_cropped_and_stays_until_it_is_drawn_again(
    hand: Hand, drawing: Path
) -> None:
    entry = hand.entry("Fist")
    drawn = read_picture(entry.path)
    view = dropped(hand, "Fist", drawing).view
    assert (view.square.left, view.square.edge) == (100, 200)
    middle = QPointF(view.rect().center())
    hand.drag(view, [middle, middle + QPointF(view.width(), 0)])
    assert view.square.left == 200  # no farther than the picture
    QTest.keyClick(view, Qt.Key.Key_Return)
    hand.qtbot.waitUntil(lambda: read_card(entry.path)[0].own_picture, timeout=LONG)
    assert decoded(read_picture(entry.path)).size().toTuple() == (320, 320)
    assert decoded(read_picture(entry.path, 640)).size().toTuple() == (640, 640)
    assert colours(read_picture(entry.path)) == {BLUE}
    reshoots = hand.workspace.capturing.reshoots
    hand.qtbot.waitUntil(lambda: hand.entry("Fist").revision > entry.revision, timeout=LONG)
    told = reshoots.preview(hand.workspace.actor, hand.entry("Fist"))
    assert told.after is None
    assert "picture of its own" in told.problem
    hand.window.home.cards.retake(hand.entry("Fist"))
    hand.qtbot.waitUntil(lambda: hand.workspace.capturing.draft is not None, timeout=LONG)
    hand.window.home.cards.save_capture()
    hand.qtbot.waitUntil(lambda: not read_card(entry.path)[0].own_picture, timeout=LONG)
    assert BLUE not in colours(read_picture(entry.path))
    hand.qtbot.waitUntil(lambda: hand.workspace.capturing.draft is None, timeout=LONG)
    hand.workspace.undo()
    hand.workspace.undo()
    hand.qtbot.waitUntil(lambda: read_picture(entry.path) == drawn, timeout=LONG)


def test_a_clip_keeps_its_moving_picture_beside_a_drawing(hand: Hand, drawing: Path) -> None:
    entry = hand.entry("Nod")
    moving = read_motion(entry.path)
    assert moving is not None
    hand.window.home.cards.own_pictures.take(drawing, entry)
    question = popup(hand)
    hand.click(question.take, question.take.rect().center())
    hand.qtbot.waitUntil(lambda: read_card(entry.path)[0].own_picture, timeout=LONG)
    assert read_motion(entry.path) == moving


def test_a_new_card_has_the_picture_that_was_chosen_for_it(hand: Hand, drawing: Path) -> None:
    hand.window.figure_panel.sets.choose("L hand")
    hand.workspace.capturing.ask()
    form = hand.window.capture.form
    form.live.dropped.emit(drawing)
    question = popup(hand)
    QTest.keyClick(question.view, Qt.Key.Key_Return)
    hand.qtbot.waitUntil(
        lambda: hand.workspace.capturing.draft.own_picture is not None, timeout=LONG
    )
    hand.qtbot.waitUntil(lambda: form.picture.text() == "From a file", timeout=LONG)
    form.name.setText("Drawn by hand")
    hand.window.home.cards.save_capture()
    card, picture = read_card(hand.wait_for_card("Drawn by hand").path)
    assert card.own_picture
    assert colours(picture) == {RED, BLUE}


def test_what_is_no_picture_is_told_of(hand: Hand, tmp_path: Path) -> None:
    path = tmp_path / "notes.png"
    path.write_text("no picture")
    hand.window.home.cards.own_pictures.take(path, hand.entry("Fist"))
    hand.qtbot.waitUntil(lambda: "notes.png" in hand.window.notice.text, timeout=LONG)
    assert not read_card(hand.entry("Fist").path)[0].own_picture


def test_a_pose_goes_from_one_figure_onto_another_by_the_clipboard(hand: Hand) -> None:
    hand.click_card("Fist")
    hand.workspace.keep_mix()
    rig, fist = hand.workspace.actor.rig, hand.workspace.actor.state
    hand.window.figure_panel.sets.choose("L hand")
    fingers = hand.workspace.selection.rows
    hand.window.stage.setFocus()
    hand.key("c", CTRL)
    hand.qtbot.waitUntil(lambda: "on the clipboard" in hand.window.notice.text, timeout=LONG)
    files = [Path(u.toLocalFile()) for u in QApplication.clipboard().mimeData().urls()]
    held = read_card(files[0])[0].pose.controls
    assert set(held) <= {rig.controls[row].name for row in fingers}
    hand.workspace.reset(None, "Reset all")
    hand.workspace.selection.set([])
    assert not np.allclose(hand.workspace.actor.state.turn, fist.turn)
    hand.key("v", CTRL)
    hand.qtbot.waitUntil(lambda: hand.workspace.mix is not None, timeout=LONG)
    state = hand.workspace.actor.state
    for name, one in held.items():
        if one.turn is not None:
            row = rig.control_row[name]
            assert np.allclose(state.turn[row], fist.turn[row], atol=1e-6)
    hand.workspace.put_back()
    QApplication.clipboard().clear()
    hand.key("v", CTRL)
    hand.qtbot.waitUntil(lambda: "no pose on the clipboard" in hand.window.notice.text)
    assert hand.workspace.mix is None
