"""Another shot comes: nothing of the one before stays open, and nobody of it stays in memory."""

from __future__ import annotations

import gc
import weakref
from pathlib import Path

from fox_hand.demo.demo_project import shipped
from fox_hand.ui.widgets.popup import Popup
from tests.ui.conftest import LONG, OpenWindow


def test_who_has_left_the_stage_is_gone_whatever_was_open(
    open_window: OpenWindow, tmp_path: Path
) -> None:
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
