"""The window of the simulated host: pulled, clicked and typed at, with somebody linked."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from fox_hand.demo.host import simulated_host
from fox_hand.demo.host.host_desk import HostDesk
from fox_hand.demo.host.simulated_host import SimulatedHost
from fox_hand.interchange.link import Connection
from fox_hand.interchange.readers import read_rig
from fox_hand.session.runtime.jobs import Jobs
from fox_hand.ui.host.host_window import HostWindow
from fox_hand.ui.services.bridge import Bridge

RIG, CHEST = "rig-1", "marrow:M_chest_ctl"
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def desk(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[HostDesk]:
    monkeypatch.setattr(simulated_host, "read_rig", cache(read_rig))
    made = HostDesk(SimulatedHost(moves=True), tmp_path / "hosts")
    made.start()
    yield made
    made.stop()


@pytest.fixture
def window(desk: HostDesk, qtbot: QtBot) -> Iterator[HostWindow]:
    bridge = Bridge()
    made = HostWindow(desk, bridge.post, lambda: None)
    qtbot.addWidget(made)
    made.show()
    with qtbot.waitExposed(made):
        made.activateWindow()
    yield made
    bridge.close()


def test_whoever_is_linked_hears_what_is_done_at_the_window(
    desk: HostDesk, window: HostWindow, qtbot: QtBot
) -> None:
    assert window.said.text() == "nobody is linked"
    assert window.list.item(0).text().strip().startswith("marrow:M_root_ctl")
    heard: dict[str, dict[str, object]] = {}
    linked: list[Connection] = []
    bridge = Bridge()
    jobs = Jobs(bridge.post)
    jobs.run(  # the window itself answers meanwhile
        lambda _: Connection(desk.link.path, heard.__setitem__), linked.append, lambda _: None
    )
    qtbot.waitUntil(lambda: bool(linked) and "Fox Hand" in window.said.text(), timeout=30_000)
    qtbot.waitUntil(lambda: not window.picture.image.isNull(), timeout=60_000)
    assert window.picture.image.isGrayscale()

    time = window.time
    QTest.mouseClick(time, LEFT, pos=QPoint(round(time.width() * 23 / 71), 10))
    qtbot.waitUntil(lambda: "time" in heard, timeout=30_000)
    assert heard["time"]["frame"] == desk.host.open.frame == 24.0

    row = next(i for i in range(window.list.count()) if "M_chest" in window.list.item(i).text())
    window.list.scrollToItem(window.list.item(row))
    place = window.list.visualItemRect(window.list.item(row)).center()
    QTest.mouseClick(window.list.viewport(), LEFT, pos=place)
    qtbot.waitUntil(lambda: "selection" in heard, timeout=30_000)
    assert heard["selection"] == {"rig": RIG, "controls": [CHEST]}

    QTest.mouseClick(window.nod, LEFT)
    qtbot.waitUntil(lambda: "values" in heard, timeout=30_000)
    assert desk.host.said == ["Nudge"]
    QTest.mouseClick(window.undo, LEFT)
    qtbot.waitUntil(lambda: heard.get("scene", {}).get("what") == "undone", timeout=30_000)
    assert not desk.host.open.steps and desk.host.open.undone
    QTest.mouseClick(window.redo, LEFT)
    qtbot.waitUntil(lambda: len(desk.host.open.steps) == 1, timeout=30_000)

    window.habits["slow"].click()
    window.habits["stubborn"].click()
    assert desk.host.habits.slow == 0.2 and desk.host.habits.stubborn
    window.habits["slow"].click()
    assert desk.host.habits.slow == 0.0
    linked[0].close()
    qtbot.waitUntil(lambda: window.said.text() == "nobody is linked", timeout=30_000)
    bridge.close()
    jobs.stop()
