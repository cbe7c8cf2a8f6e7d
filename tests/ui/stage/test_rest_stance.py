"""A stranger's character that was written in a pose, brought into the window."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtCore import QPoint

from fox_hand.interchange.sidecar import read_sidecar, sidecar_path
from tests.interchange.test_rest_stance import written
from tests.ui.conftest import CTRL, LONG, OpenWindow, choose


def test_what_counts_as_rest_is_told_and_can_be_chosen(
    open_window: OpenWindow, tmp_path: Path
) -> None:
    path = written(tmp_path / "stranger.glb", 3, "armature", posed=True)
    hand = open_window()
    hand.window.opener.open_rig(path)
    hand.qtbot.waitUntil(lambda: hand.workspace.actor is not None, timeout=LONG)
    actor = hand.workspace.actor
    assert actor is not None
    hand.qtbot.waitUntil(lambda: "written in a pose" in hand.window.notice.text, timeout=LONG)

    def ask(*words: str) -> None:
        tab = hand.window.header.cast.tab_of(actor)
        tab.menu_asked.emit(tab.mapToGlobal(QPoint(10, 10)))
        choose(hand.window, *words)

    bound = actor.rig.skeleton
    ask("What counts as rest", "Stand as the file")
    filed = actor.rig.as_filed()
    assert filed is not None
    assert np.allclose(actor.state.turn, filed.turn, atol=1e-9)
    hand.key("z", CTRL)
    assert actor.state.same_bits(actor.rig.rest)

    ask("What counts as rest", "The pose the file")
    hand.qtbot.waitUntil(lambda: actor.rig.rest_from == "nodes", timeout=LONG)
    assert read_sidecar(sidecar_path(path)).rest_from == "nodes"
    assert np.abs(actor.rig.skeleton.rest_world - bound.rest_world).max() > 0.05
    ask("What counts as rest", "The stance its skin")
    hand.qtbot.waitUntil(lambda: actor.rig.rest_from == "skin", timeout=LONG)
    assert np.abs(actor.rig.skeleton.rest_world - bound.rest_world).max() < 1e-9
