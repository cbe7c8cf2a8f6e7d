"""A host's figures in the window: linked from the menu, cards put on, kept, undone; time both ways,
lost and found, clips, and what stood on the stage before."""

from __future__ import annotations

import dataclasses
import tempfile
from collections.abc import Callable, Iterator
from functools import cache

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from fox_hand.demo.demo_project import first_shot, shipped
from fox_hand.demo.host import simulated_host
from fox_hand.demo.host.simulated_host import Habits
from fox_hand.interchange.link.fox_hand_link import folder_of_hosts
from fox_hand.interchange.readers import read_rig
from fox_hand.session.link.host_link import LinkState
from fox_hand.ui.timeline.strip_rows import LAYERS
from tests.held_jobs import HeldJobs
from tests.interchange.link.conftest import Running
from tests.ui.conftest import Hand, choose

INDEX = ("marrow:L_finger_index_1_ctl", "turn.x")
HEAD = ("marrow:M_head_ctl", "turn.x")


class Linked:
    """A window and a host, and how it is in both."""

    def __init__(self, hand: Hand, running: Running) -> None:
        self.hand, self.running = hand, running
        self.workspace, self.window = hand.workspace, hand.window
        self.linking = hand.workspace.linking

    def until(self, so: Callable[[], bool]) -> None:
        self.hand.qtbot.waitUntil(so, timeout=60_000)

    def turns(self) -> list[float]:
        """Of a finger, as they are seen there."""
        with self.running.lock:
            return list(self.running.host.open.values("rig-1")[INDEX[0]].values())

    def keys(self, layer: str = "Base") -> set[tuple[str, str]]:
        with self.running.lock:
            return set(self.running.host.open.figures["rig-1"].layers[layer])

    def shown(self) -> bool:
        with self.running.lock:
            return bool(self.running.host.open.shown.get("rig-1"))

    @property
    def said(self) -> list[str]:
        return self.running.host.said

    @property
    def names(self) -> list[tuple[str, str]]:
        return [(actor.name, actor.host) for actor in self.workspace.cast.actors]


@pytest.fixture
def running(monkeypatch: pytest.MonkeyPatch) -> Iterator[Running]:
    place = tempfile.TemporaryDirectory(prefix="fh")  # a socket's path has a hundred letters
    monkeypatch.setenv("XDG_RUNTIME_DIR", place.name)
    monkeypatch.setattr(simulated_host, "read_rig", cache(read_rig))
    made = Running(Habits(), folder_of_hosts(), 5.0, moves=True)
    with place:
        yield made
        made.stop()


@pytest.fixture
def linked(hand: Hand, running: Running) -> Linked:
    """Linked as a person does it: from the menu of the project."""
    made = Linked(hand, running)
    hand.window.header.project_button.click()
    choose(hand.window, "Link to an animation program", running.link.path.stem)
    made.until(lambda: made.linking.stands)
    return made


def test_a_card_is_shown_there_kept_as_one_step_and_undone_with_its_keys(linked: Linked) -> None:
    hand, window, workspace = linked.hand, linked.window, linked.workspace
    assert linked.names == [("Marrow", "Harbour host"), ("Pim", "Harbour host")]
    assert "harbour" in window.header.project.toolTip()
    pill = window.overlays.pill
    assert pill.isVisible() and pill.word.text() == "live"
    before, layers = linked.turns(), window.timeline.strip.rows()[-1]
    assert layers.key == LAYERS and [x.name for x in layers.layers] == ["Base", "Hands fix"]
    hand.click_card("Fist")
    row = window.overlays.mix_bar.link
    assert row.isVisible() and "frame 1" in row.where.text() and row.layer.text() == "Base"
    coming = linked.linking.coming
    assert coming is not None and coming.title == "Fist 100 %"
    linked.until(lambda: max(abs(a - b) for a, b in zip(linked.turns(), before, strict=True)) > 10)
    assert linked.said == []  # shown, not kept
    hand.key(Qt.Key.Key_Return)
    linked.until(lambda: linked.said == ["Fist 100 %"])
    keys = linked.keys()
    assert INDEX in keys
    linked.until(lambda: len(workspace.actor.keys.lines) > 15)  # and seen in our strip
    hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    linked.until(lambda: len(linked.said) == 2)
    assert linked.turns() == before and len(linked.keys()) < len(keys)


def test_only_show_sets_no_key_and_the_layer_is_chosen(linked: Linked) -> None:
    hand, row = linked.hand, linked.window.overlays.mix_bar.link
    hand.click_card("Fist")
    keys = linked.keys()
    row.way.chosen.emit("shown")
    hand.key(Qt.Key.Key_Return)
    linked.until(lambda: len(linked.said) == 1)
    assert linked.keys() == keys
    hand.click_card("Flat")
    row.way.chosen.emit("keyed")
    row.layer.click()
    choose(linked.window, "Hands fix")
    assert row.layer.text() == "Hands fix"
    hand.key(Qt.Key.Key_Return)
    linked.until(lambda: len(linked.said) == 2)
    assert linked.keys() == keys and INDEX in linked.keys("Hands fix")


def test_time_and_selection_go_both_ways_and_what_is_put_on_goes_along(linked: Linked) -> None:
    hand, workspace, running = linked.hand, linked.workspace, linked.running
    workspace.go(24.0)
    linked.until(lambda: running.host.open.frame == 24.0)
    hand.settle()
    assert running.host.previews == 0  # going somewhere pulls nothing
    figure = workspace.actor
    assert figure is not None
    hand.click_card("Fist")
    linked.until(linked.shown)
    with running.lock:
        assert all("L_" in control for control in running.host.open.shown["rig-1"])
        assert "rig-2" not in running.host.open.shown
    with running.lock:  # somebody scrubs and selects there
        running.link.end_previews()
        running.host.go(44.0)
        running.link.moved_in_time()
        running.host.select("rig-1", [HEAD[0]])
        running.link.selected("rig-1")
    linked.until(lambda: workspace.timing.frame == 44.0 and workspace.mix is not None)
    linked.until(linked.shown)
    linked.until(lambda: workspace.selection.rows == (figure.rig.control_row[HEAD[0]],))
    assert linked.said == []
    hand.key(Qt.Key.Key_Escape)
    linked.until(lambda: not linked.shown())
    workspace.selection.set([figure.rig.control_row["marrow:M_neck_ctl"]])
    linked.until(lambda: running.host.open.selected["rig-1"] == ["marrow:M_neck_ctl"])


def test_a_lost_host_is_told_and_what_is_kept_meanwhile_waits(linked: Linked) -> None:
    hand, window, running = linked.hand, linked.window, linked.running
    hand.click_card("Fist")
    linked.until(linked.shown)
    window.home.links._tick.stop()  # the test says when it is looked for
    running.link.drop_all()
    linked.until(lambda: window.overlays.pill.word.text() == "lost")
    assert window.header.cast.tab_of(linked.workspace.actor).lost
    assert "waits" in window.overlays.mix_bar.link.where.text()
    linked.until(lambda: not linked.shown())  # by its own watch
    hand.key(Qt.Key.Key_Return)
    assert "waits" in window.notice.text and linked.said == []
    linked.linking.tick()
    linked.until(lambda: linked.said == ["Fist 100 %"])
    assert window.overlays.pill.word.text() == "live"
    assert not window.header.cast.tab_of(linked.workspace.actor).lost


def test_a_clip_goes_there_as_curves_and_its_keys_are_not_moved_here(linked: Linked) -> None:
    hand, workspace, strip = linked.hand, linked.workspace, linked.window.timeline.strip
    workspace.go(10.0)
    hand.press_card("Blink")
    linked.until(lambda: workspace.placements.now is not None)
    keys = linked.keys()
    workspace.keep_mix()
    linked.until(lambda: linked.said == ["Lay in Blink"])
    fresh = linked.keys() - keys
    assert fresh and all("lid" in channel or "eye" in control for control, channel in fresh)
    assert workspace.actor is not None and workspace.actor.take.instances == ()
    linked.until(lambda: len(workspace.actor.keys.lines) > 10)
    strip.pick_all()
    workspace.keying.delete(strip.picked)
    assert "change them there" in linked.window.notice.text
    assert linked.said == ["Lay in Blink"]


def test_another_stage_puts_back_what_was_shown_and_guests_come_again(linked: Linked) -> None:
    hand, workspace, window = linked.hand, linked.workspace, linked.window
    window.opener.open_rig(shipped() / "cast" / "quill.glb")
    linked.until(lambda: len(workspace.cast) == 3)
    workspace.act(workspace.cast.actors[0])
    hand.click_card("Fist")
    linked.until(linked.shown)
    window.overlays.pill.more.click()
    choose(window, "Hang up")
    linked.until(lambda: not linked.running.link.guests and not linked.shown())
    assert linked.said == []
    linked.until(lambda: linked.names == [("Marrow", ""), ("Pim", "")])
    assert not window.overlays.pill.isVisible()
    window.home.links.open(linked.running.link.path)
    linked.until(lambda: ("Quill", "") in linked.names)
    assert linked.names[:2] == [("Marrow", "Harbour host"), ("Pim", "Harbour host")]


def test_a_card_from_a_host_says_so_and_goes_onto_our_rigs(linked: Linked) -> None:
    hand, workspace = linked.hand, linked.workspace
    hand.click_card("Fist")
    hand.key(Qt.Key.Key_Return)
    workspace.selection.set(
        row
        for row, control in enumerate(workspace.actor.rig.controls)
        if "L_finger" in control.name
    )
    workspace.capturing.begin()
    draft = workspace.capturing.draft
    assert draft is not None
    assert (draft.taken_from, draft.note) == ("Harbour host", "From Harbour host")
    linked.window.capture.name.setText("Host fist")
    linked.window.home.cards.save_capture()
    hand.wait_for_card("Host fist")
    linked.window.home.links.hang_up()
    linked.until(lambda: linked.names == [("Marrow", ""), ("Pim", "")])
    hand.click_card("Host fist")
    assert workspace.mix is not None and workspace.mix.fit.missing == ()


def test_a_shot_that_comes_late_does_not_take_the_host_s_stage(
    hand: Hand, running: Running
) -> None:
    """Asked for before the link, it is read when the host's figures stand there already."""
    linked, jobs = Linked(hand, running), HeldJobs()
    opener, services = hand.window.shot_opener, hand.window.shot_opener._services
    opener._services = dataclasses.replace(services, jobs=jobs)
    opener.open(first_shot(hand.workspace.places.data / "night-ferry" / "library"))
    opener._services = services
    hand.window.home.links.open(running.link.path)
    linked.until(lambda: linked.linking.stands)
    jobs.release()
    assert linked.names == [("Marrow", "Harbour host"), ("Pim", "Harbour host")]
    assert hand.workspace.shots.path is None
    hand.key(Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    assert "save it there" in hand.window.notice.text


def test_a_second_window_watches(linked: Linked, open_window: Callable[[], Hand]) -> None:
    other = open_window()
    other.window.home.links.open(linked.running.link.path)
    linked.until(lambda: other.workspace.linking.stands)
    assert other.window.overlays.pill.word.text() == "watching"
    linked.hand.window.activateWindow()
    linked.window.home.links.hang_up()
    linked.until(lambda: other.workspace.linking.link.state is LinkState.LIVE)
    assert other.window.overlays.pill.word.text() == "live"


def test_its_own_picture_and_its_spaces_are_asked_for(linked: Linked, qtbot: QtBot) -> None:
    window, picture = linked.window, linked.window.overlays.host_picture
    window.overlays.pill.more.click()
    choose(window, "Picture of Harbour host")
    linked.until(lambda: not picture.image.isNull())
    assert picture.isVisible() and picture.image.width() >= 240
    picture.close_button.click()
    assert not picture.isVisible()
    linked.linking.acting.switch("armL", "IK")
    figure = linked.running.host.open.figures["rig-1"]
    linked.until(lambda: figure.spaces["armL"] == "IK")
