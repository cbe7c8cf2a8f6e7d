"""A real window with the demo, driven by clicks, keys and drags."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMenu, QWidget
from pytestqt.qtbot import QtBot

from fox_hand.base.places import Places
from fox_hand.core.pose.pose import shown_euler
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import demo_performance, first_shot, prepare
from fox_hand.interchange.sidecar import sidecar_path
from fox_hand.library.format.card import Card
from fox_hand.library.format.entry import Entry
from fox_hand.render.renderer import Renderer
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures import gathering
from fox_hand.session.libraries.watching import Watching
from fox_hand.session.runtime.jobs import Jobs
from fox_hand.ui.main.window import Window
from fox_hand.ui.services.bridge import Bridge
from fox_hand.ui.services.services import Demo, Services
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.theme.tokens import DUSK
from tests.ui.remembered_pictures import RememberedPictures

CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier
LONG = 60_000  # milliseconds to wait for what runs beside the window


class Hand:
    """What a person does with the window."""

    def __init__(self, window: Window, qtbot: QtBot) -> None:
        self.window, self.qtbot = window, qtbot
        self.workspace = window.workspace

    def row(self, name: str) -> int:
        assert self.workspace.actor is not None
        return self.workspace.actor.rig.control_row[name]

    def value(self, name: str, axis: int = 0) -> float:
        actor, row = self.workspace.actor, self.row(name)
        assert actor is not None
        return float(np.degrees(shown_euler(actor.rig.controls[row], actor.state, row)[axis]))

    def handle(self, name: str) -> QPoint:
        layout = self.window.stage.layout_now()
        assert layout is not None
        x, y = layout.points[self.row(name), :2]
        return QPoint(round(float(x)), round(float(y)))

    def drag(
        self,
        widget: QWidget,
        points: list[QPoint | QPointF],
        button: Qt.MouseButton = Qt.MouseButton.LeftButton,
        release: bool = True,
        keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
    ) -> None:
        path = [p.toPoint() if isinstance(p, QPointF) else p for p in points]
        QTest.mousePress(widget, button, keys, path[0])
        for point in path[1:]:
            # QTest.mouseMove does not hold the button down, so the event is made by hand
            self._move(widget, point, button, keys)
        if release:
            QTest.mouseRelease(widget, button, keys, path[-1])

    def _move(
        self, widget: QWidget, at: QPoint, button: Qt.MouseButton, keys: Qt.KeyboardModifier
    ) -> None:
        from PySide6.QtCore import QEvent
        from PySide6.QtGui import QMouseEvent
        from PySide6.QtWidgets import QApplication

        event = QMouseEvent(
            QEvent.Type.MouseMove,
            QPointF(at),
            QPointF(widget.mapToGlobal(at)),
            Qt.MouseButton.NoButton,
            button,
            keys,
        )
        QApplication.sendEvent(widget, event)

    def click(
        self,
        widget: QWidget,
        at: QPoint,
        keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
    ) -> None:
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, keys, at)

    def entry(self, name: str) -> Entry:
        """A card of this name; where a test waits, one that is not there yet is waited for."""
        found = [e for e in self.cards if e.name == name]
        assert found, f"there is no card {name}"
        return found[0]

    def written(self, card: Card) -> Entry:
        """A card somebody made otherwise, as a file in the library."""
        place = self.workspace.open_libraries.target
        assert place is not None
        assert place.library is not None
        path = place.library.add(card, None, "")
        return Entry(path, "", identity=card.identity, name=card.name)

    @property
    def cards(self) -> list[Entry]:
        """All cards of all libraries."""
        return list(self.workspace.open_libraries.entries())

    def wait_for_card(self, name: str) -> Entry:
        self.qtbot.waitUntil(lambda: any(e.name == name for e in self.cards), timeout=60_000)
        return self.entry(name)

    def wait_for_mix(self, name: str) -> None:
        self.qtbot.waitUntil(
            lambda: self.workspace.mix is not None and self.workspace.mix.card.name == name,
            timeout=60_000,
        )

    def click_card(self, name: str) -> None:
        """Click a card and wait until it is on the figure."""
        self.press_card(name)
        self.wait_for_mix(name)

    def press_card(self, name: str) -> None:
        view = self.window.sheets.view
        view.reveal(self.entry(name))
        rect = view.rect_of(self.entry(name))
        assert rect is not None
        self.click(view.viewport(), rect.center())

    def key(self, key: Qt.Key | str, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier):
        """Press a key where the focus is."""
        widget = self.window.focusWidget() or self.window
        if isinstance(key, str):
            QTest.keyClicks(widget, key, keys)
        else:
            QTest.keyClick(widget, key, keys)

    def settle(self) -> None:
        """Wait until the stage shows the newest, fine picture."""
        stage = self.window.stage

        def fine() -> bool:
            picture = stage.pictures.latest
            return (
                picture is not None
                and picture.view.quality.value == "full"
                and picture.view.camera == stage.camera
                and self.workspace.actor is not None
                and picture.view.figures[self.workspace.cast.actors.index(self.workspace.actor)].at
                is self.workspace.actor.at
            )

        self.qtbot.waitUntil(fine, timeout=60_000)


OpenWindow = Callable[[], Hand]


@pytest.fixture(scope="session", autouse=True)
def figures_read_once() -> Iterator[None]:
    """The same bytes under the same name are the same rig: reading is tested elsewhere, and here
    hundreds of windows open the same two figures."""
    read, known = gathering.read_rig, dict[tuple[str, bytes, bytes], Rig]()

    def read_once(path: Path) -> Rig:
        key = path.name, digest(path), digest(sidecar_path(path))
        if path.suffix != ".glb" or not key[1]:
            return read(path)
        if key not in known:
            known[key] = read(path)
        return known[key]

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(gathering, "read_rig", read_once)
        yield


def digest(path: Path) -> bytes:
    """What is in a file; nothing where it cannot be read."""
    try:
        return hashlib.sha256(path.read_bytes()).digest()
    except OSError:
        return b""


@pytest.fixture(scope="session")
def renderer() -> Iterator[Renderer]:
    """One drawing process for all windows."""
    made = RememberedPictures()
    yield made
    made.stop()


@pytest.fixture
def open_window(qtbot: QtBot, renderer: Renderer, places: Places) -> Iterator[OpenWindow]:
    """Opens windows one after the other on the same user's folders."""
    opened: list[tuple[Window, Watching, Jobs, Bridge, Jobs]] = []

    def make() -> Hand:
        bridge = Bridge()
        jobs, files = Jobs(bridge.post), Jobs(bridge.post, threads=1)
        demo = Demo(lambda: prepare(places), first_shot, demo_performance())
        services = Services(renderer, bridge, jobs, demo)
        workspace = Workspace(places, jobs, files, bridge.post)
        watching = Watching(workspace.open_libraries, bridge.post)
        window = Window(Theme(DUSK), workspace, services)
        qtbot.addWidget(window, before_close_func=lambda _: setattr(window, "ending", True))
        window.resize(1280, 800)
        window.show()
        with qtbot.waitExposed(window):
            window.activateWindow()
        qtbot.waitUntil(window.isActiveWindow, timeout=LONG)
        opened.append((window, watching, files, bridge, jobs))
        return Hand(window, qtbot)

    yield make
    for window, watching, files, bridge, jobs in opened:
        window.close()
        watching.stop()
        files.stop()
        bridge.close()
        jobs.stop()


@pytest.fixture
def hand(open_window: OpenWindow, qtbot: QtBot) -> Hand:
    """Marrow on the stage, the demo's cards at the right."""
    made = open_window()
    made.window.opener.open_crew()
    qtbot.waitUntil(lambda: len(made.workspace.cast) == 2 and len(made.cards) > 10, timeout=60_000)
    made.settle()
    return made


@pytest.fixture
def library_folder(places: Places) -> Path:
    return places.data / "night-ferry" / "library"


def choose(window: Window, *words: str) -> None:
    """Choose an entry of the menu that is open, by how it begins; several words go through
    menus in menus."""
    menu = next(m for m in window.findChildren(QMenu) if m.isVisible())
    top = menu
    for word in words:
        action = next(a for a in menu.actions() if a.text().startswith(word))
        assert action.isEnabled(), action.text()
        inner = action.menu()
        if inner is not None:
            menu = inner
        else:
            action.trigger()
    top.close()


def key_card(hand: Hand, name: str, frame: float) -> None:
    """Key a card at a frame, as a person does with the switch in the mix bar on."""
    hand.workspace.go(frame)
    hand.click_card(name)
    hand.workspace.mix_commands.set_keyed(True)
    hand.key(Qt.Key.Key_Return)
