"""The main job in the window: put a card on, pull it, keep it, take one of your own."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path

import jsonschema
import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication

from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.pose.pose import Pose
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import card_bytes
from fox_hand.library.format.schema import json_schema
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.session.applying.application import Part
from fox_hand.ui.cards.card_pictures import CardPictures
from tests.conftest import MARROW
from tests.glb import morphing, no_skin, two_skins
from tests.ui.conftest import CTRL, LONG, Hand, OpenWindow


def finger_angles(hand: Hand) -> np.ndarray:
    rows = [hand.row(n) for n in hand.workspace.actor.rig.sets["L hand"]]
    return angle_between(
        hand.workspace.actor.state.turn[rows], hand.workspace.actor.rig.rest.turn[rows]
    )


def shown_names(hand: Hand) -> list[str]:
    """What the sheets show now."""
    open_libraries, layout = hand.workspace.open_libraries, hand.window.sheets.view.layout_now()
    return [open_libraries.entry(k).name for s in layout.sections for k in s.shown.keys.tolist()]


def test_a_click_puts_a_card_on_and_the_ruler_pulls_it(hand: Hand) -> None:
    before = hand.workspace.actor.state
    hand.click_card("Fist")
    bar = hand.window.overlays.mix_bar
    assert bar.isVisible()
    assert bar.amount.text() == "100"
    full = finger_angles(hand)
    assert full.max() > 1.5
    ruler = bar.ruler
    y = 48
    spots = [QPointF(ruler.x_of(a), y) for a in (1.0, 0.7, 0.5)]
    hand.drag(ruler, spots)
    assert bar.amount.text() == "50"
    assert np.allclose(finger_angles(hand), full / 2, atol=1e-6)
    hand.drag(ruler, [QPointF(ruler.x_of(0.5), y), QPointF(ruler.width() + 50, y)])
    assert bar.amount.text() == "150"
    hand.drag(ruler, [QPointF(ruler.x_of(0.5), y), QPointF(-50, y)])
    assert bar.amount.text() == "-50"
    rig = hand.workspace.actor.rig
    back = [rig.controls[hand.row(f"finger_index_{i}_L")].limits[0][0] for i in (2, 3)]
    rows = [rig.sets["L hand"].index(f"finger_index_{i}_L") for i in (2, 3)]
    assert np.allclose(finger_angles(hand)[rows], np.abs(back))  # limits hold
    hand.key(Qt.Key.Key_Escape)
    assert hand.workspace.actor.state is before
    assert not bar.isVisible()
    assert hand.workspace.history.undo_label is None


def test_typing_wheel_keys_and_enter(hand: Hand) -> None:
    hand.click_card("Glad")
    bar = hand.window.overlays.mix_bar
    bar.ruler.setFocus()
    hand.key(Qt.Key.Key_Left)
    assert hand.workspace.mix.amount == pytest.approx(0.95)
    hand.key(Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert hand.workspace.mix.amount == pytest.approx(0.94)
    bar.amount.setFocus()
    bar.amount.selectAll()
    hand.key("33 %")
    hand.key(Qt.Key.Key_Return)
    assert hand.workspace.history.undo_label == "Glad 33 %" or hand.workspace.mix.amount == 0.33
    hand.key(Qt.Key.Key_Return)
    assert hand.workspace.mix is None
    assert hand.workspace.history.undo_label == "Glad 33 %"
    row = hand.workspace.actor.rig.setting_row["mouth_corner_up_L"]
    assert hand.workspace.actor.state.settings[row] == pytest.approx(0.85 * 0.33)
    hand.key(Qt.Key.Key_Z, CTRL)
    assert hand.workspace.actor.state is hand.workspace.actor.rig.rest


def test_nonsense_in_the_amount_changes_nothing(hand: Hand) -> None:
    hand.click_card("Glad")
    for text in ("abc", "nan", "", "1e999"):
        hand.window.overlays.mix_bar.amount.setText(text)
        hand.window.overlays.mix_bar.amount.editingFinished.emit()
        assert np.isfinite(hand.workspace.mix.amount)
    assert hand.window.overlays.mix_bar.amount.text() in ("100", "150")


def test_with_controls_selected_only_those_move_until_all_is_chosen(hand: Hand) -> None:
    hand.workspace.selection.set([hand.row("finger_index_1_L")])
    hand.click_card("Fist")
    bar = hand.window.overlays.mix_bar
    assert bar.part.value == Part.SELECTED.value
    moved = {
        hand.workspace.actor.rig.controls[r].name
        for r in np.flatnonzero(hand.workspace.actor.differs())
    }
    assert moved == {"finger_index_1_L"}
    hand.click(bar.part.segments, bar.part.segments.rect_of(Part.ALL.value).center())
    assert (finger_angles(hand) > 0.1).sum() > 12
    hand.click(bar.back_button, bar.back_button.rect().center())
    assert not hand.workspace.actor.differs().any()


def test_small_pictures_show_the_amounts(hand: Hand) -> None:
    hand.click_card("Fist")
    ruler = hand.window.overlays.mix_bar.ruler
    hand.qtbot.waitUntil(lambda: len(ruler._images) == 5, timeout=60_000)
    assert all(not i.isNull() for i in ruler._images.values())
    images = [i.convertToFormat(QImage.Format.Format_RGBA8888) for i in ruler._images.values()]
    assert len({bytes(i.constBits()) for i in images}) == 5


def test_keyboard_alone_finds_and_puts_on(hand: Hand) -> None:
    hand.key(Qt.Key.Key_F, CTRL)
    hand.key("hel")
    view = hand.window.sheets.view
    hand.qtbot.waitUntil(lambda: len(shown_names(hand)) == 4, timeout=LONG)
    shown = shown_names(hand)
    assert set(shown) == {"Open wide", "Glad", "Wave", "Wave loop"}  # by tag
    hand.key(Qt.Key.Key_Down)
    assert view.hasFocus()
    first = view.current_entry()
    assert first is not None
    assert first.name == shown[0]
    hand.key(Qt.Key.Key_Right)
    chosen = view.current_entry()
    assert chosen is not None
    assert chosen is not first
    hand.key(Qt.Key.Key_Return)
    hand.wait_for_mix(chosen.name)
    hand.window.sheets.filter("face")
    shown = shown_names(hand)
    assert "Glad" in shown
    assert "Fist" not in shown


def test_curl_a_hand_capture_it_and_find_it_on_disk_at_once(
    hand: Hand, library_folder: Path
) -> None:
    """Step 3 of the first slice, as a person does it."""
    window, workspace = hand.window, hand.workspace
    window.figure_panel.sets.choose("L hand")
    window.stage.setFocus()
    for _ in range(9):
        hand.key(Qt.Key.Key_Up)
    hand.key(Qt.Key.Key_C)
    assert window.columns.right.currentWidget() is window.capture
    draft = workspace.capturing.draft
    assert draft is not None
    assert window.overlays.frame.isVisible()
    square = window.overlays.frame.square
    seen = workspace.actor.rig.flesh(
        workspace.actor.at, workspace.actor.flesh_nodes(sorted(draft.rows))
    )
    flat = window.stage.camera.project(seen, window.stage.width(), window.stage.height())
    assert all(square.contains(QPointF(x, y)) for x, y in flat[:, :2])
    assert not window.capture.save.isEnabled()
    hand.key("My own grip")
    window.capture.form.tags.setText("rail, deck")
    assert window.capture.save.isEnabled()
    hand.qtbot.waitUntil(lambda: not window.capture.form.live.image.isNull(), timeout=60_000)
    frame = window.overlays.frame.camera()
    hand.click(window.capture.save, window.capture.save.rect().center())
    hand.qtbot.waitUntil(lambda: any(e.name == "My own grip" for e in hand.cards), timeout=60_000)
    assert window.columns.right.currentWidget() is window.sheets
    path = library_folder / "Marrow" / "Hands" / "My own grip.foxcard"
    with zipfile.ZipFile(path) as archive:
        assert archive.namelist() == ["mimetype", "card.json", "thumb.png", "thumb@2x.webp"]
        document = json.loads(archive.read("card.json"))
        with archive.open("thumb.png") as file:
            picture = Image.open(file)
            assert picture.size == (320, 320)
            pixels = np.asarray(picture)
    jsonschema.Draft202012Validator(json.loads(json_schema())).validate(document)
    assert document["tags"] == ["rail", "deck"]
    assert len(document["controls"]) == 15
    assert document["controls"]["finger_ring_2_L"]["euler"][0] == pytest.approx(45)
    assert np.allclose(document["frame"]["shift"], frame.shift)
    skin = (pixels[..., 0] > pixels[..., 2] + 40).mean()
    assert skin > 0.2  # the hand fills the picture
    rect = window.sheets.view.rect_of(hand.entry("My own grip"))
    assert window.sheets.view.viewport().rect().contains(rect.center())
    hand.click_card("Flat")
    hand.click_card("My own grip")
    assert np.allclose(np.degrees(finger_angles(hand))[1:], 45, atol=1e-6)


def test_the_two_warnings_of_capture_can_be_answered_with_one_click(hand: Hand) -> None:
    window, workspace = hand.window, hand.workspace
    hand.click_card("Stand easy")
    hand.key(Qt.Key.Key_Return)
    window.figure_panel.sets.choose("Face")
    window.workspace.capturing.ask()
    panel = window.capture
    assert panel.left_out.isVisible()
    count = len(workspace.capturing.draft.rows)
    hand.click(panel.left_out.button, panel.left_out.button.rect().center())
    assert len(workspace.capturing.draft.rows) > count + 40
    assert not panel.left_out.isVisible()
    assert panel.untouched.isVisible()
    hand.click(panel.untouched.button, panel.untouched.button.rect().center())
    assert not panel.untouched.isVisible()
    differs = workspace.actor.differs()
    assert all(differs[r] for r in workspace.capturing.draft.rows)
    camera = window.stage.camera
    hand.key(Qt.Key.Key_Escape)
    assert workspace.capturing.draft is None
    assert window.columns.right.currentWidget() is window.sheets
    assert camera is not None


def test_the_capture_frame_moves_and_sizes_and_the_stage_turns_under_it(hand: Hand) -> None:
    window = hand.window
    window.figure_panel.sets.choose("Face")
    start = window.stage.camera
    window.workspace.capturing.ask()
    frame = window.overlays.frame
    square = frame.square
    inside = square.center().toPoint()
    hand.drag(frame, [inside, inside + QPoint(30, 12)])
    assert frame.square.topLeft() == square.topLeft() + QPointF(30, 12)
    corner = frame.square.bottomRight().toPoint()
    hand.drag(frame, [corner, corner + QPoint(-20, -20)])
    assert frame.square.width() == pytest.approx(square.width() - 40, abs=2)
    yaw = window.stage.camera.yaw
    hand.drag(frame, [inside, inside + QPoint(50, 0)], Qt.MouseButton.RightButton)
    hand.drag(window.stage, [inside, inside + QPoint(50, 0)], Qt.MouseButton.RightButton)
    assert window.stage.camera.yaw < yaw - 0.2
    window.actions_table["back"].run()
    assert window.stage.camera == start


def test_taking_a_card_out_can_be_undone(hand: Hand) -> None:
    count = len(hand.cards)
    entry = hand.entry("Fox")
    hand.workspace.take_out([entry])
    hand.qtbot.waitUntil(lambda: len(hand.cards) == count - 1, timeout=LONG)
    assert not entry.path.exists()
    hand.key(Qt.Key.Key_Z, CTRL)
    assert hand.wait_for_card("Fox").path == entry.path
    assert entry.path.is_file()


def test_close_and_open_again_everything_is_there(open_window: OpenWindow, hand: Hand) -> None:
    """Pose, selection, cards, sizes and folds."""
    hand.click_card("Wave")
    hand.key(Qt.Key.Key_Return)
    hand.click_card("Fox")
    hand.window.figure_panel.sets.choose("R hand")
    hand.window.workspace.capturing.ask()
    hand.window.capture.form.name.setText("Kept")
    hand.window.home.cards.save_capture()
    hand.qtbot.waitUntil(lambda: hand.workspace.capturing.draft is None, timeout=60_000)
    hand.window.sheets.head.slider.setValue(96)
    hand.window.sheets.view.closed.add(
        f"{hand.workspace.open_libraries.places[0].name}/Marrow/Body"
    )
    hand.window.sheets.view.folded.emit()
    state = hand.workspace.actor.state
    hand.window.close()
    again = open_window()
    again.window.opener.open_crew()
    again.qtbot.waitUntil(lambda: len(again.cards) > 10, timeout=60_000)
    assert again.workspace.actor.state.same_bits(state)
    assert [again.workspace.actor.rig.controls[r].side for r in again.workspace.selection.rows] == [
        "right"
    ] * 16
    assert again.entry("Kept").readable
    assert again.window.sheets.view.card_size == 96
    assert again.window.sheets.view.layout_now().sections[-2].closed


def test_a_rig_that_is_not_ours_is_posed_captured_and_gets_its_card_back(
    open_window: OpenWindow, tmp_path: Path
) -> None:
    """Step 6 of the first slice."""
    hand = open_window()
    window = hand.window
    window.opener.open_library(tmp_path / "own", create="My cards")
    window.opener.open_rig(two_skins(tmp_path / "crane.glb"))
    hand.qtbot.waitUntil(lambda: hand.workspace.actor is not None, timeout=60_000)
    hand.settle()
    assert window.header.cast.tabs[-1].accessibleName() == "Crane, acting"
    figure = window.figure_panel.figure
    hand.qtbot.waitUntil(lambda: figure.drawing is not None, timeout=60_000)
    hand.click(window.stage, hand.handle("LeftElbow"))
    assert hand.workspace.selection.rows == (hand.row("LeftElbow"),)
    start = hand.handle("LeftElbow")
    hand.drag(window.stage, [start, start + QPoint(20, 0), start + QPoint(70, 10)])
    turned = hand.workspace.actor.state.turn[hand.row("LeftElbow")].copy()
    hand.key(Qt.Key.Key_C)
    hand.key("Crane bend")
    window.home.cards.save_capture()
    hand.qtbot.waitUntil(lambda: len(hand.cards) == 1, timeout=60_000)
    hand.window.workspace.reset(None, "Reset all")
    hand.click_card("Crane bend")
    assert np.array_equal(hand.workspace.actor.state.turn[hand.row("LeftElbow")], turned)
    hand.key(Qt.Key.Key_Return)
    window.opener.open_rig(morphing(tmp_path / "face.glb"))
    hand.qtbot.waitUntil(lambda: hand.workspace.actor.rig.name == "Face", timeout=60_000)
    hand.workspace.selection.set([hand.workspace.actor.rig.settings[0].control])
    channels = window.figure_panel.channels
    assert [r.word for r in channels.rows] == ["L blink", "R blink"]
    hand.click(channels, channels.value_rect(0).center().toPoint())
    hand.key("1")
    hand.key(Qt.Key.Key_Return)
    assert hand.workspace.actor.state.settings.tolist() == [1.0, 0.0]


@pytest.mark.parametrize("kind", ["no skin", "cut", "text", "empty"])
def test_a_file_that_is_no_rig_is_explained_and_the_session_stays(
    hand: Hand, tmp_path: Path, kind: str
) -> None:
    path = tmp_path / "thing.glb"
    if kind == "no skin":
        no_skin(path)
    else:
        whole = MARROW.read_bytes()
        path.write_bytes({"cut": whole[: len(whole) // 3], "text": b"hello", "empty": b""}[kind])
    hand.click_card("Fist")
    actor, state = hand.workspace.actor, hand.workspace.actor.state
    hand.window.opener.open_rig(path)
    notice = hand.window.notice
    hand.qtbot.waitUntil(notice.isVisible, timeout=60_000)
    assert "thing.glb" in notice.text
    assert "Nothing that was open has changed." in notice.text
    assert hand.workspace.actor is actor
    assert actor.state is state
    assert hand.workspace.mix is not None


def test_damaged_and_strange_cards_are_listed_explained_and_never_changed(
    hand: Hand, library_folder: Path
) -> None:
    sheet = library_folder / "Marrow" / "Hands"
    whole = (sheet / "Fist.foxcard").read_bytes()
    files = {
        "Cut.foxcard": whole[: len(whole) // 2],
        "Text.foxcard": b"dear diary",
        "Bare.foxcard": card_bytes(Card("Bare", Pose({})), None),
    }
    for name, data in files.items():
        (sheet / name).write_bytes(data)
    count = len(hand.cards)
    hand.key(Qt.Key.Key_F5)
    hand.qtbot.waitUntil(lambda: len(hand.cards) == count + 3, timeout=60_000)
    before = hand.workspace.actor.state
    for name in ("Cut", "Text"):
        hand.press_card(name)
        hand.qtbot.waitUntil(hand.window.notice.isVisible, timeout=LONG)
        assert f"{name}.foxcard" in hand.window.notice.text
        assert "was left as it is" in hand.window.notice.text
        hand.window.notice.hide()
    hand.press_card("Bare")
    hand.qtbot.waitUntil(hand.window.notice.isVisible, timeout=LONG)
    assert "no control in common" in hand.window.notice.text
    assert hand.workspace.actor.state is before
    for name, data in files.items():
        assert (sheet / name).read_bytes() == data
    hand.click_card("Fist")
    assert hand.workspace.mix is not None


def test_pictures_of_cards_are_decoded_once_and_beside_the_window(
    hand: Hand, tmp_path: Path
) -> None:
    arrived: list[int] = []
    cache = PictureCache(tmp_path / "pictures")
    pictures = CardPictures(hand.window._services.jobs, cache, lambda: arrived.append(1))
    entry = hand.entry("Glad")
    assert pictures.get(entry, 136) is None  # at once, without the picture
    hand.qtbot.waitUntil(lambda: bool(arrived), timeout=60_000)
    image = pictures.get(entry, 136)
    assert image is not None
    assert (image.width(), image.height()) == (136, 136)
    assert pictures.get(entry, 136) is image
    assert len(arrived) == 1


def test_dropping_a_file_opens_it(hand: Hand, tmp_path: Path) -> None:
    from PySide6.QtCore import QMimeData, QUrl
    from PySide6.QtGui import QDragEnterEvent, QDropEvent

    path = two_skins(tmp_path / "dropped.glb")
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    how = Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    enter = QDragEnterEvent(QPoint(300, 300), *how)
    QApplication.sendEvent(hand.window, enter)
    assert enter.isAccepted()
    QApplication.sendEvent(hand.window, QDropEvent(QPointF(300, 300), *how))
    hand.qtbot.waitUntil(lambda: hand.workspace.actor.rig.name == "Dropped", timeout=60_000)
