"""Another shot comes: nothing of the one before stays open, and nobody of it stays in memory."""

from __future__ import annotations

import gc
import weakref

import pytest
from PySide6.QtCore import QCoreApplication, QEvent
from pytestqt.qtbot import QtBot

from fox_hand.base.places import Places
from fox_hand.demo.demo_project import demo_performance, first_shot, prepare, shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.render.renderer import Renderer
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures import gathering
from fox_hand.session.runtime.jobs import Jobs
from fox_hand.ui.main.window import Window
from fox_hand.ui.services.bridge import Bridge
from fox_hand.ui.services.services import Demo, Services
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.theme.tokens import DUSK
from fox_hand.ui.widgets.popup import Popup
from tests.ui.conftest import LONG, OpenWindow


def test_who_has_left_the_stage_is_gone_whatever_was_open(
    open_window: OpenWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(gathering, "read_rig", read_rig)  # nobody else keeps what it read
    hand = open_window()
    window, workspace = hand.window, hand.workspace
    first, second = sorted((shipped() / "shots").glob("*.foxshot"))[:2]
    window.shot_opener.open(first)
    hand.qtbot.waitUntil(lambda: workspace.shots.path == first, timeout=LONG)
    window.opener.open_library(shipped() / "library")
    hand.wait_for_card("Fist")
    actor = workspace.actor
    assert actor is not None
    hand.click_card("Wave")
    workspace.keep_mix()
    for shows, screen in (
        (lambda: window.screens.show_fit(hand.entry("Fist")), window.screens.fit),
        (lambda: window.screens.show_compare(hand.entry("Fist")), window.screens.compare),
        (window.screens.show_pairs, window.screens.pairs),
    ):
        shows()
        hand.qtbot.waitUntil(screen.isVisible, timeout=LONG)
        window.screens.close()
    workspace.timing.set_marks((1, 5, 9))
    workspace.capturing.begin()
    window.capture.batch_asked.emit()
    hand.qtbot.waitUntil(lambda: window.findChild(Popup) is not None, timeout=LONG)
    popup = window.findChild(Popup)
    left = [weakref.ref(actor), weakref.ref(actor.rig)]
    del actor, popup, shows, screen
    window.shot_opener.open(second)
    hand.qtbot.waitUntil(lambda: workspace.shots.path == second, timeout=LONG)
    hand.qtbot.waitUntil(lambda: not window.findChildren(Popup), timeout=LONG)

    def gone() -> bool:
        gc.collect()
        return all(one() is None for one in left)

    hand.qtbot.waitUntil(gone, timeout=LONG)


def test_a_window_that_was_closed_is_forgotten(
    qtbot: QtBot, renderer: Renderer, places: Places
) -> None:
    """Whoever listens to a session's signal with a function of its own would hold all of it."""
    bridge = Bridge()
    jobs = Jobs(bridge.post, inline=True)
    demo = Demo(lambda: prepare(places), first_shot, demo_performance())
    workspace = Workspace(places, jobs, jobs)
    window = Window(Theme(DUSK), workspace, Services(renderer, bridge, jobs, demo))
    window.show()
    window.screens.show_preferences("Keys")
    window.start_work.show()
    qtbot.wait(300)  # what comes in a moment has come
    left = weakref.ref(workspace), weakref.ref(window)
    window.close()
    qtbot.wait(300)
    window.deleteLater()
    bridge.close()
    del window, workspace
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    for _ in range(3):
        gc.collect()
    assert [one() for one in left] == [None, None]
