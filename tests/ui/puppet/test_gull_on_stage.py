"""A puppet in several views in the real window: its shelf of drawings, its views, its cards in
other views, what it stands before."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from dataclasses import replace
from io import BytesIO
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from fox_hand.library.format.entry import Entry
from fox_hand.session.puppets.drawing_cards import drawing_of
from fox_hand.session.shots.shot_file import read_shot
from fox_hand.ui.puppet.ground_popup import GroundPopup, stand_backdrop
from fox_hand.ui.screens.compare.compare_list import shown_values
from tests.held_jobs import HeldJobs
from tests.small_demo import WHOLE
from tests.ui.conftest import LONG, SHIFT, Hand, OpenWindow, choose

Answer = Callable[[], object]


@pytest.fixture
def gull(open_window: OpenWindow, tmp_path: Path) -> Hand:
    project = tmp_path / "ferry"
    for part in ("backdrops", "library/Gull", "library/.foxhand"):
        shutil.copytree(WHOLE / part, project / part)
    for part in ("project.toml", "cast/gull.glb", "cast/gull.foxrig.json", "shots/nf_040.foxshot"):
        (project / part).parent.mkdir(exist_ok=True)
        shutil.copyfile(WHOLE / part, project / part)
    shutil.copyfile(WHOLE / "library" / "library.toml", project / "library" / "library.toml")
    hand = open_window()
    shot = project / "shots" / "nf_040.foxshot"
    with hand.qtbot.waitSignal(hand.window.shot_opener.opened, timeout=LONG):
        hand.window.shot_opener.open(shot)
    hand.qtbot.waitUntil(
        lambda: any(e.name == "Squawk" for e in hand.workspace.open_libraries.entries()),
        timeout=LONG,
    )
    hand.settle()
    return hand


def setting(hand: Hand, name: str) -> str:
    """The option that a choice shows."""
    rig, state = hand.workspace.actor.rig, hand.workspace.actor.state
    row = rig.setting_row[name]
    return rig.settings[row].options[round(float(state.settings[row]))]


def put_on(hand: Hand, name: str) -> None:
    entries = hand.workspace.open_libraries.entries()
    entry = next(e for e in entries if e.name == name and e.character == "Gull")
    hand.workspace.applying.put_on(entry)
    hand.wait_for_mix(name)


def press_tile(hand: Hand, tiles, number: int) -> None:
    QTest.mouseClick(
        tiles, Qt.MouseButton.LeftButton, Qt.KeyboardModifier(0), tiles.tile_rect(number).center()
    )


def test_the_shelf_beside_a_part_changes_its_drawing_and_keys_it(gull: Hand) -> None:
    work, shelves = gull.workspace, gull.window.overlays.shelves
    work.go(16.0)
    gull.settle()
    assert not shelves.drawings_panel.isVisible()
    gull.click(gull.window.stage, gull.handle("beak"))
    assert shelves.drawings_panel.isVisible()
    assert shelves.title.text() == "Beak  1 of 5"
    assert shelves.drawings.words == ("closed", "open", "shout", "ticket", "fish")
    gull.qtbot.waitUntil(lambda: len(shelves.drawings.images) == 5, timeout=LONG)
    beaks = [np.array(image.bits()) for _, image in sorted(shelves.drawings.images.items())]
    assert len({beak.tobytes() for beak in beaks}) == 5
    press_tile(gull, shelves.drawings, 2)
    assert setting(gull, "beak_drawing") == "shout"
    assert shelves.title.text() == "Beak  3 of 5"
    gull.key("d")
    assert setting(gull, "beak_drawing") == "ticket"
    gull.key("d", SHIFT)
    gull.key("d", SHIFT)
    assert setting(gull, "beak_drawing") == "open"
    shelves.drawings.setFocus()
    QTest.keyClick(shelves.drawings, Qt.Key.Key_Right)
    assert setting(gull, "beak_drawing") == "open"  # walked, not chosen
    QTest.keyClick(shelves.drawings, Qt.Key.Key_Return)
    assert setting(gull, "beak_drawing") == "shout"
    frames = [f for f in work.keying.key_frames().tolist() if f == 16.0]
    assert frames == [16.0]  # keyed, as automatic keys are on
    work.go(17.0)
    assert setting(gull, "beak_drawing") == "shout"  # held
    work.go(16.0)
    for _ in range(5):
        work.history.undo()
    assert setting(gull, "beak_drawing") == "closed"
    # what has no drawings has no shelf
    gull.click(gull.window.stage, gull.handle("body"))
    assert not shelves.drawings_panel.isVisible()


def test_views_are_seen_one_at_a_time_and_everything_follows(gull: Hand) -> None:
    work, window = gull.workspace, gull.window
    shelves, rig = window.overlays.shelves, gull.workspace.actor.rig
    work.go(30.0)
    gull.settle()
    assert shelves.views.words == ("Side", "Half", "Front")
    gull.click(window.stage, gull.handle("tail"))
    press_tile(gull, shelves.views, 2)
    assert setting(gull, "view") == "Front"
    assert work.selection.rows == ()  # the tail is not drawn there
    gull.settle()
    layout = window.stage.layout_now()
    shown = {rig.controls[row].name for row in np.flatnonzero(layout.shown)}
    assert {"front_beak", "front_left_wing", "root"} <= shown
    assert not {name for name in shown if not name.startswith("front_")} - {"root"}
    figure = window.figure_panel.figure
    gull.qtbot.waitUntil(lambda: figure.drawing is not None and figure._view == 2, timeout=LONG)
    names = {part.name for part in figure.accessible_parts()}
    assert any("Left wing" in name for name in names)
    assert not any("Near wing" in name for name in names)
    gull.key("a", Qt.KeyboardModifier.ControlModifier)
    of = rig.views.of_control
    assert {of[row] for row in work.selection.rows} == {-1, 2}
    gull.key("u")
    assert setting(gull, "view") == "Side"
    gull.key("u", SHIFT)
    assert setting(gull, "view") == "Front"


def test_a_card_of_another_view_lands_on_the_parts_of_this_one(gull: Hand) -> None:
    work, bar = gull.workspace, gull.window.overlays.mix_bar
    work.go(30.0)
    press_tile(gull, gull.window.overlays.shelves.views, 2)
    put_on(gull, "Squawk")
    assert work.mix.cards[0].view == "Side"
    assert set(work.mix.fit.missing) == {"neck", "tail"}
    assert setting(gull, "front_beak_drawing") == "shout"
    assert setting(gull, "front_left_wing_drawing") == "up"
    assert bar.choices.view.isVisible()
    assert "Side" in bar.choices.view.toolTip() and "Front" in bar.choices.view.toolTip()
    # the same turn lifts a wing that is drawn on the other side of its pivot
    turns = {n: gull.value(n, 2) for n in ("front_left_wing", "front_right_wing")}
    assert turns["front_left_wing"] == pytest.approx(-6, abs=0.01)
    QTest.mouseClick(bar.choices.view, Qt.MouseButton.LeftButton)
    choose(gull.window, "Turn to Side")
    gull.wait_for_mix("Squawk")
    assert setting(gull, "view") == "Side"
    assert work.mix.cards[0].view == "" and work.mix.fit.missing == ()
    assert not bar.choices.view.isVisible()
    bar.choices.facing.chosen.emit("other")
    assert setting(gull, "facing") == "turned"
    assert gull.value("body", 2) == pytest.approx(-8, abs=0.01)
    work.put_back()
    assert setting(gull, "facing") == "as drawn"


def test_a_clip_or_parts_that_a_view_does_not_have_are_refused_in_a_sentence(gull: Hand) -> None:
    work, told = gull.workspace, []
    work.failed.connect(told.append)
    work.go(30.0)
    rig = work.actor.rig
    work.selection.set([rig.control_row["tail"]])
    work.capturing.begin()
    work.capturing.draft.name = "Tail only"
    gull.window.home.cards.save_capture()
    gull.wait_for_card("Tail only")
    press_tile(gull, gull.window.overlays.shelves.views, 2)
    entry = next(e for e in work.open_libraries.entries() if e.name == "Tail only")
    work.applying.put_on(entry)
    gull.qtbot.waitUntil(lambda: bool(told), timeout=LONG)
    assert told[0].code == "mix.other_view"
    assert "drawn for Side" in told[0].happened
    assert work.mix is None


def test_the_strip_has_a_row_for_every_part_whose_drawing_is_keyed(gull: Hand) -> None:
    strip = gull.window.timeline.strip
    rows = strip.rows()
    titles = [row.title for row in rows]
    assert titles[:2] == ["Stances", "View"]
    assert {"Beak drawing", "Near wing drawing", "Clips"} <= set(titles)
    beak = next(row for row in rows if row.title == "Beak drawing")
    assert beak.drawings
    assert set(beak.content.channel_ids) == {
        x
        for x in gull.workspace.actor.keys.lines
        if x.name in ("beak_drawing", "half_beak_drawing")
    }
    stances = rows[0]
    assert not any(x.name.endswith("_drawing") for x in stances.content.channel_ids)


def test_cards_of_all_views_are_taken_in_one_go(gull: Hand) -> None:
    work = gull.workspace
    before = {e.path for e in work.open_libraries.entries()}
    gull.window.actions_table["view_cards"].run()

    def made() -> list[str]:
        return sorted(e.name for e in work.open_libraries.entries() if e.path not in before)

    gull.qtbot.waitUntil(lambda: len(made()) == 3, timeout=LONG)
    assert made() == ["Gull front 2", "Gull half 2", "Gull side 2"] or made() == [
        "Gull front",
        "Gull half",
        "Gull side",
    ]
    work.go(30.0)
    entry = next(
        e for e in work.open_libraries.entries() if e.path not in before and "half" in e.name
    )
    work.applying.put_on(entry)
    gull.wait_for_mix(entry.name)
    assert setting(gull, "view") == "Half"
    assert work.mix.rows == {work.actor.rig.control_row["root"]}
    work.put_back()
    work.history.undo()
    gull.qtbot.waitUntil(lambda: not made(), timeout=LONG)


def test_a_backdrop_stands_behind_and_is_kept_with_the_shot(gull: Hand, tmp_path: Path) -> None:
    work, window = gull.workspace, gull.window
    stage = window.stage
    assert [Path(one.path).name for one in work.backdrops.kept] == ["lake.webp", "quay.webp"]
    picture = tmp_path / "green.png"
    Image.new("RGBA", (64, 32), (0, 200, 0, 255)).save(picture)
    stand_backdrop(work, stage, picture, near=False)
    gull.qtbot.waitUntil(
        lambda: any("green" in one.path for one in work.backdrops.kept), timeout=LONG
    )

    def fills() -> bool:
        red, green, _ = stage.pictures.latest.pixels[4, 4, :3]
        return green > 150 and red < 60

    gull.qtbot.waitUntil(fills, timeout=LONG)
    window.home.shots.save()
    path = work.shots.path

    def kept() -> list[str]:
        return [Path(one.path).name for one in read_shot(path).backdrops]

    gull.qtbot.waitUntil(lambda: kept() == ["green.png", "quay.webp"], timeout=LONG)
    work.history.undo()
    assert [Path(one.path).name for one in work.backdrops.kept] == ["lake.webp", "quay.webp"]
    QTest.mouseClick(window.overlays.bars.ground, Qt.MouseButton.LeftButton)
    popup = next(p for p in window.findChildren(GroundPopup) if p.isVisible())
    assert popup.lines(False).name.text() == "lake.webp"
    QTest.mouseClick(popup.lines(False).off, Qt.MouseButton.LeftButton)
    assert work.backdrops.of(False) is None
    popup.ground.chosen.emit("clear")
    popup.close()
    gull.qtbot.waitUntil(lambda: stage.pictures.latest.pixels[4, 4, 3] == 0, timeout=LONG)
    assert work.settings.clear_ground
    (tmp_path / "broken.png").write_bytes(b"\x89PNG\r\n\x1a\nno")
    told: list[object] = []
    work.failed.connect(told.append)
    stand_backdrop(work, stage, tmp_path / "broken.png", near=True)
    gull.qtbot.waitUntil(lambda: bool(told), timeout=LONG)
    assert told[0].code == "backdrop.unreadable"
    assert Path(work.backdrops.of(True).path).name == "quay.webp"


def test_what_is_dragged_on_a_turned_puppet_follows_the_pointer(gull: Hand) -> None:
    work, stage = gull.workspace, gull.window.stage
    work.go(60.0)
    gull.settle()
    work.selection.set(())
    gull.key("x")  # mirrors the whole figure
    assert setting(gull, "facing") == "turned"
    gull.settle()
    gull.click(stage, gull.handle("head"))
    at, tip = gull.handle("head"), gull.handle("beak")
    pulled = QPoint(tip.x() + 10, tip.y() - 60)
    gull.drag(stage, [at, at + (tip - at) * 1.0, pulled])
    before, after = tip - at, gull.handle("beak") - gull.handle("head")
    wanted = pulled - at

    def angle(p: QPoint) -> float:
        return float(np.degrees(np.arctan2(-p.y(), p.x())))

    moved = (angle(after) - angle(before) + 180) % 360 - 180
    asked = (angle(wanted) - angle(before) + 180) % 360 - 180
    assert moved == pytest.approx(asked, abs=8)


def test_a_drawing_becomes_a_card_and_another_part_gets_it(gull: Hand) -> None:
    work, window = gull.workspace, gull.window
    shelves = window.overlays.shelves
    work.go(16.0)
    gull.settle()
    gull.click(window.stage, gull.handle("beak"))
    tile = shelves.drawings.tile_rect(3).center()
    event = QContextMenuEvent(
        QContextMenuEvent.Reason.Mouse, tile, shelves.drawings.mapToGlobal(tile)
    )
    QApplication.sendEvent(shelves.drawings, event)
    choose(window, "Card of ticket")

    def taken() -> list[Entry]:
        return [e for e in work.open_libraries.entries() if e.sheet == "Gull/Drawings"]

    gull.qtbot.waitUntil(lambda: bool(taken()), timeout=LONG)
    (entry,) = taken()
    assert (entry.name, entry.kind) == ("Beak ticket", "drawing")
    before = work.actor.path.read_bytes()
    body = gull.handle("body")
    assert window.home.puppets.drop(entry, QPoint(3, 3))  # beside the figure: nothing happens
    assert work.actor.path.read_bytes() == before
    assert window.home.puppets.drop(entry, body)
    body_row = work.actor.rig.control_row["body"]
    gull.qtbot.waitUntil(lambda: body_row in work.actor.rig.swaps, timeout=LONG)
    gull.qtbot.waitUntil(lambda: setting(gull, "body_drawing") == "ticket", timeout=LONG)
    assert shelves.drawings.words == ("first", "ticket")
    assert work.actor.path.read_bytes() != before
    for _ in range(2):
        work.history.undo()
    gull.qtbot.waitUntil(lambda: work.actor.path.read_bytes() == before, timeout=LONG)
    gull.qtbot.waitUntil(
        lambda: work.actor.rig.control_row["body"] not in work.actor.rig.swaps, timeout=LONG
    )
    # its cards still are its own: nothing has to be fitted
    put_on(gull, "Squawk")
    assert work.mix.cards[0].original is None
    other = next(e for e in work.open_libraries.entries() if e.name == "Squawk")
    assert not window.home.puppets.drop(other, body)  # no drawing: it goes on as cards do


def test_a_clip_of_another_view_is_refused_with_a_sentence(gull: Hand) -> None:
    work = gull.workspace
    work.go(34.0)
    show = {name: n for n, name in enumerate(work.actor.rig.views.names)}
    gull.click(gull.window.stage, gull.handle("tail"))
    press_tile(gull, gull.window.overlays.shelves.views, show["Front"])
    failed = []
    work.failed.connect(failed.append)
    flap = next(e for e in work.open_libraries.entries() if e.name == "Wing flap")
    before = len(work.actor.take.instances)
    work.applying.put_on(flap)
    gull.qtbot.waitUntil(lambda: bool(failed), timeout=LONG)
    assert failed[0].code == "clip.other_view" and "Side" in failed[0].todo
    assert len(work.actor.take.instances) == before
    press_tile(gull, gull.window.overlays.shelves.views, show["Side"])
    work.applying.put_on(flap)
    gull.qtbot.waitUntil(lambda: len(work.actor.take.instances) == before + 1, timeout=LONG)


def test_a_picture_from_a_file_becomes_one_more_drawing_of_the_part_at_hand(
    gull: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    work, shelves = gull.workspace, gull.window.overlays.shelves
    before = work.actor.path.read_bytes()
    work.go(16.0)
    gull.settle()
    gull.click(gull.window.stage, gull.handle("beak"))
    rig = work.actor.rig
    seen = drawing_of(rig, rig.control_row["beak"], 0)
    with Image.open(BytesIO(seen.data)) as own:
        middle = [
            half - at for half, at in zip((own.width / 2, own.height / 2), seen.pivot, strict=True)
        ]
    leek = tmp_path / "07 Leek.svg"
    leek.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="90" height="60">'
        '<rect x="10" y="20" width="60" height="20" fill="#3a7"/></svg>'
    )
    picked = [str(leek)]
    monkeypatch.setattr(
        "fox_hand.ui.main.puppet_controller.QFileDialog.getOpenFileName",
        lambda *_: (picked[-1], ""),
    )
    shelves.add_button.click()
    gull.qtbot.waitUntil(lambda: len(shelves.drawings.words) == 6, timeout=LONG)
    assert shelves.drawings.words[-1] == setting(gull, "beak_drawing") == "Leek"
    lead = gull.window.stage.lead
    assert lead is not None and lead[0] == work.actor.rig.control_row["beak"]
    # middle on middle, pixel on pixel, without the empty room around it
    rig = work.actor.rig
    new = drawing_of(rig, rig.control_row["beak"], 5)
    with Image.open(BytesIO(new.data)) as picture:
        assert (picture.width, picture.height) == (64, 24)
    assert new.pixel == pytest.approx(seen.pixel, rel=1e-4)
    assert [32 - new.pivot[0], 12 - new.pivot[1]] == pytest.approx(middle, abs=0.05)
    failed = []
    work.failed.connect(failed.append)
    picked.append(str(tmp_path / "none.png"))
    shelves.add_button.click()
    gull.qtbot.waitUntil(lambda: bool(failed), timeout=LONG)
    assert failed[0].code == "puppet.no_picture" and len(work.actor.rig.swaps) == len(rig.swaps)
    work.history.undo()  # that it is shown
    work.history.undo()
    gull.qtbot.waitUntil(lambda: work.actor.path.read_bytes() == before, timeout=LONG)
    gull.qtbot.waitUntil(lambda: len(shelves.drawings.words) == 5, timeout=LONG)


def test_two_stances_are_compared_whole_and_their_drawings_by_name(gull: Hand) -> None:
    window, work = gull.window, gull.workspace
    entries = {e.name: e for e in work.open_libraries.entries() if e.character == "Gull"}
    window.screens.show_compare(entries["Squawk"], entries["Peck"])
    screen = window.screens.compare
    gull.qtbot.waitUntil(lambda: window.screens.body.currentWidget() is screen, timeout=LONG)
    texts = {row.label: shown_values(row) for row in screen.list.rows if row.options}
    assert texts["Beak"] == ["shout", "open"] and texts["Near wing L"] == ["up", "folded"]
    actor, (width, height) = work.actor, screen.first.room()
    to_clip = screen._camera.projection(width / height) @ screen._camera.view()
    for state in screen.comparison.states():
        points = actor.rig.flesh(actor.standing_in(state).at)
        clip = np.hstack([points, np.ones((len(points), 1))]) @ to_clip.T
        assert np.abs(clip[:, :2] / clip[:, 3:]).max() < 1.0  # nothing is cut off


def test_what_we_write_ourselves_is_not_told_as_changed_by_others(gull: Hand) -> None:
    """Not while it is on its way, and not by a look that began before it."""
    work, window, opener = gull.workspace, gull.window, gull.window.opener
    opener._watch.stop()
    files, jobs = HeldJobs(), HeldJobs()
    work.puppet_drawings._files = files
    opener._services = replace(opener._services, jobs=jobs)
    actor, written, looked = work.actor, list[Answer](), list[Answer]()
    before = actor.path.read_bytes()

    opener.look_for_changed_rigs()
    picture = actor.path.with_name("spot.png")
    Image.new("RGBA", (40, 30), (200, 40, 40, 255)).save(picture)
    row = actor.rig.control_row["body"]
    work.puppet_drawings.add_picture(picture, actor, row, 0, lambda *_: None)
    files.held[0].do(written.append)
    assert actor.path.read_bytes() != before
    jobs.held[0].do(looked.append)  # has read what was just written
    opener.look_for_changed_rigs()  # is under way already
    for answer in (*written, *looked):
        answer()
    assert row in work.actor.rig.swaps
    assert "changed on disk" not in window.notice.text

    work.history.undo()
    opener.look_for_changed_rigs()
    assert len(jobs.held) == 1  # nobody looks while it is written
    files.release(1)
    assert actor.path.read_bytes() == before
    opener.look_for_changed_rigs()
    jobs.release(1)
    assert "changed on disk" not in window.notice.text
