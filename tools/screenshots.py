"""``python tools/screenshots.py``: makes the pictures of docs/screenshots/ anew from the demo."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QApplication, QWidget

from fox_hand.__main__ import assembled
from fox_hand.base.places import Places
from fox_hand.core.pose.placing import put
from fox_hand.demo.demo_project import demo_performance, shipped
from fox_hand.demo.host.host_desk import HostDesk
from fox_hand.demo.host.simulated_host import SimulatedHost
from fox_hand.library.format.container import card_bytes, read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.store import moves
from fox_hand.library.store.conflicts import set_aside
from fox_hand.library.store.moves import current
from fox_hand.library.store.store import Library
from fox_hand.session.app.limbs import switch
from fox_hand.session.shots.project import SHOTS
from fox_hand.session.shots.recent import portrait_path
from fox_hand.ui.host.host_window import HostWindow
from fox_hand.ui.main.window import Window
from fox_hand.ui.services.bridge import Bridge

OUT = Path(__file__).parents[1] / "docs" / "screenshots"


def needing_care(library: Library) -> None:
    """What happens to libraries: two people at one card, a copy cut off, a note in a wrong place,
    a hand captured twice, cards taken out."""
    body, hands = library.folder / "Marrow" / "Body", library.folder / "Marrow" / "Hands"
    mine, _ = read_card(body / "Sit on bollard.foxcard")
    lower, picture = read_card(body / "Crouch.foxcard")
    late = replace(
        lower,
        name=mine.name,
        identity=mine.identity,
        author="Tomas R.",
        note="lower, hands on knees",
    )
    set_aside(library, mine.identity, card_bytes(late, picture))
    tense = hands / "Tense.foxcard"
    card, picture = read_card(tense)
    moves.store_over(library, current(library, tense), replace(card, note="tighter"), picture)
    tense.write_bytes(tense.read_bytes()[:31_000])
    (hands / "Haul rope 03.foxcard").write_text("rope: 3 m, wet")
    moves.copy(library, hands / "Fist.foxcard", "Marrow/Hands")
    for path in (hands / "Point.foxcard", library.folder / "Marrow" / "Face" / "Neutral.foxcard"):
        moves.take_out(library, path)


class Photographer:
    """Drives one window and keeps pictures of it."""

    def __init__(self, window: Window) -> None:
        self.window, self.workspace = window, window.workspace

    def wait(self, ready: Callable[[], bool], extra: int = 900) -> None:
        """Run the window until something is true, and a little longer."""
        for _ in range(200):
            self._run(100)
            if ready():
                self._run(extra)
                return
        raise TimeoutError("the window did not get ready")

    @staticmethod
    def _run(milliseconds: int) -> None:
        loop = QEventLoop()
        QTimer.singleShot(milliseconds, loop.quit)
        loop.exec()

    def card(self, name: str) -> Entry:
        return next(e for e in self.cards() if e.name == name and e.character == "Marrow")

    def cards(self) -> list[Entry]:
        return list(self.workspace.open_libraries.entries())

    def put_on(self, name: str, keep: bool = True) -> None:
        self.workspace.selection.clear()
        self.window.workspace.applying.put_on(self.card(name))
        self.wait(
            lambda: self.workspace.mix is not None and self.workspace.mix.card.name == name, 0
        )
        if keep:
            self.workspace.keep_mix()

    def keep(self, name: str, over: QWidget | None = None) -> None:
        """One PNG of the window as it is, with what floats over it."""
        self.wait(lambda: True)
        image = self.window.grab()
        if over is not None:
            painter = QPainter(image)
            painter.drawPixmap(self.window.mapFromGlobal(over.pos()), over.grab())
            painter.end()
        image.save(str(OUT / f"{name}.png"))

    def worn(self, theme: str, name: str) -> None:
        """One PNG in another theme."""
        self.workspace.preferences.put("theme", theme)
        self.keep(name)
        self.workspace.preferences.put("theme", "dusk")

    def choices(self) -> None:
        """Keys being changed, and what a day begins with."""
        screens = self.window.screens
        screens.show_preferences("Keys")
        page = screens.preferences.keys
        row = next(
            i
            for i, one in enumerate(page.list.rows)
            if one.command is not None and one.command.name == "handles"
        )
        self.workspace.preferences.put("keys", {"ghost": ["J"], "lens": ["Shift+L"]})
        self.wait(lambda: True, 300)
        page.open(row)
        page.editor.fields[0].pressed.emit("J")
        self.keep("preferences")
        screens.close()
        self.workspace.preferences.put("keys", {})
        places = self.workspace.places
        self.workspace.settings.recent_shots.append("/mnt/studio/hand-tests/shots/hands.foxshot")
        path = self._shots() / "nf_010.foxshot"
        self.wait(portrait_path(places, path).is_file, 300)
        self.window.shot_opener.open(path)
        self.wait(lambda: self.workspace.shots.name == "nf_010", 3000)
        self.window.start_work.show()
        self.keep("start")
        screens.close()

    def all(self) -> None:
        self.window.resize(1280, 800)
        self.window.opener.open_crew()
        self.wait(
            lambda: (
                len(self.workspace.cast) == 2
                and len(list(self.workspace.open_libraries.entries())) > 10
            ),
            1500,
        )
        figure = self.window.figure_panel.figure
        self.wait(lambda: figure.drawing is not None, 1500)
        self.put_on("Wave")
        self.put_on("Glad")
        self.window.figure_panel.sets.choose("L hand")
        self.put_on("Fist", keep=False)
        assert self.workspace.mix is not None
        self.workspace.mix.set_amount(0.7)
        self.keep("mix")
        self.workspace.keep_mix()
        self.window.figure_panel.sets.choose("L hand")
        self.window.workspace.capturing.ask()
        self.window.capture.form.name.setText("Half a fist")
        self.window.capture.form.tags.setText("rail, deck")
        self.window.capture.form.note.setPlainText("Loose, for the rope.")
        self.window.capture.form.author.setText("Ines B.")
        self.keep("capture")
        self.workspace.capturing.cancel()
        self.workspace.selection.clear()
        self.several()
        self.window.overlays.bars.go_to("Three-quarter")
        self.performance()
        self.goals()
        self.pairs()
        self.overview()
        self.crew()
        self.library()

    def several(self) -> None:
        """Four faces on the pad; a card that is only looked at; two poses compared."""
        self.put_on("Glad", keep=False)
        for name in ("Surprised", "Sad", "Disgusted"):
            self.window.workspace.applying.add(self.card(name))
            self.wait(partial(self._is_on, name), 200)
        mix = self.workspace.mix
        assert mix is not None
        self.window.overlays.mix_bar.weights.pad.moved.emit(0.32, 0.24)
        self.window.overlays.bars.go_to("Face")  # into the free part above the bar
        self.wait(lambda: len(self.window.overlays.mix_bar.weights.pad.images) == 4, 300)
        self.keep("pad")
        self.workspace.put_back()
        self.window.overlays.bars.go_to("Front")
        for number, name in enumerate(("Fist", "Glad", "Wave")):
            self.window.workspace.applying.take_in_hand(number, self.card(name))
        for number in range(3):
            self.window.workspace.applying.take_in_hand(number, None)
        self.window.screens.show_compare(self.card("Glad"), self.card("Surprised"))
        compare = self.window.screens.compare
        self.wait(lambda: self.window.screens.body.currentWidget() is compare, 900)
        compare.list.toggled.emit(compare.list.rows[2].key)
        self.worn("paper", "compare")
        self.window.screens.close()

    def _is_on(self, name: str) -> bool:
        mix = self.workspace.mix
        return mix is not None and mix.weight_of(self.card(name)) is not None

    def performance(self) -> None:
        """Frames of a performance, one of them being taken."""
        self.window.performances.open(demo_performance())
        screen = self.window.screens.performance
        self.wait(lambda: self.window.screens.body.currentWidget() is screen, 1500)
        screen.lanes.step(121)
        self.keep("performance")
        self.window.screens.close()
        self.window.notice.hide()

    def overview(self) -> None:
        """The outline beside the cards, narrowed and with facets; charts with their gaps."""
        sheets, place = self.window.sheets, self.workspace.open_libraries.places[0]
        sheets.side.set_shown(True)
        sheets.narrow((place.number, "Marrow/Hands"), False)
        sheets.open_facets(True)
        self.keep("outline")
        sheets.open_facets(False)
        sheets.widen()
        self.window.screens.show_charts()
        screen = self.window.screens.charts
        self.wait(lambda: len(screen.boards) > 5, 1500)
        board = next(b for b in screen.boards if b.file.key == "emotions")
        screen.grid.go_to((board.key, "sad", "Quill"))
        self.keep("charts")
        self.window.screens.close()

    def library(self) -> None:
        """Drawings put together; a library that needs care."""
        drawings = self.workspace.open_libraries.places[0].folder.parent / "drawings" / "ticket"
        self.window.home.drawings.open(drawings)
        screen = self.window.screens.assemble
        self.wait(lambda: screen.isVisible() and screen.assembly is not None, 1500)
        screen.choose("Left arm")
        self.keep("assemble")
        self.window.screens.close()

        place = self.workspace.open_libraries.places[0]
        assert place.library is not None
        needing_care(place.library)
        self.workspace.open_libraries.look_again(place)
        self.wait(lambda: True, 1500)
        self.window.screens.show_care(place)
        self.wait(lambda: self.window.screens.care.report.total > 0, 1200)
        self.keep("care")
        self.window.screens.close()

    def shot(self) -> None:
        """The demo's first shot: cards at their frames, a pose between two, a clip laid in."""
        window, workspace = self.window, self.workspace
        window.resize(1280, 800)
        window.shot_opener.open_demo()
        self.wait(lambda: workspace.shots.name == "nf_010" and len(workspace.cast) == 1, 1200)
        window.notice.hide()
        self.wait(lambda: window.figure_panel.figure.drawing is not None, 900)
        self.keep("main")
        actor = workspace.actor
        assert actor is not None
        window.columns.upright.setSizes([800 - 44 - 300, 300])
        window.timeline.strip.book.toggle("Body")
        workspace.selection.set([actor.rig.control_row["arm_L"]])
        workspace.go(27.0)
        window.overlays.bars.keys.click()
        window.stage.frame(None)
        window.timeline.strip.set_scroll(0)
        self.keep("shot")
        window.overlays.bars.keys.click()
        window.timeline.strip.book.toggle("Body")
        window.columns.upright.setSizes([800 - 44 - 212, 212])
        workspace.selection.clear()
        workspace.go(66.0)
        window.workspace.applying.put_on(self.card("Double blink"))
        self.wait(lambda: workspace.placements.now is not None, 0)
        assert workspace.placements.now is not None
        workspace.placements.now.change(repeats=2.0, gap=4.0, lead=1.0)
        workspace.go(69.0)
        window.overlays.bars.go_to("Face")
        self.keep("clip")
        workspace.put_back()
        window.shot_opener.open(self._shots() / "nf_040.foxshot")
        self.wait(lambda: workspace.shots.name == "nf_040" and len(workspace.cast) == 1, 1200)
        window.notice.hide()
        workspace.go(40.0)
        window.stage.frame(None)
        window.timeline.strip.show_range()
        actor = workspace.actor
        assert actor is not None
        workspace.selection.set([actor.rig.control_row["near_wing"]])
        self.wait(lambda: len(window.overlays.shelves.drawings.images) == 4, 1500)
        self.keep("gull")
        workspace.selection.set(())
        self.wait(portrait_path(workspace.places, self._shots() / "nf_040.foxshot").is_file, 300)
        self.choices()

    def _shots(self) -> Path:
        project = self.workspace.shots.project
        assert project is not None
        return project.folder / SHOTS

    def goals(self) -> None:
        """Arms and legs on their goals, one foot lifted, a lens on a hand."""
        actor = self.workspace.actor
        assert actor is not None
        switch(self.workspace, list(actor.rig.limbs), True)
        rig, row = actor.rig, actor.rig.control_row["foot_goal_R"]
        self.workspace.selection.set([row])
        place = actor.at.nodes[rig.controls[row].node, :3, 3] + (-0.08, 0.22, 0.16)
        self.workspace.apply("Lift", put(rig, actor.state, row, actor.at.nodes, place))
        self.window.overlays.bars.lens.click()
        self.window.overlays.lens.look_at("Left hand")
        self.keep("goals")
        self.window.overlays.bars.lens.click()

    def pairs(self) -> None:
        """The Pairs screen, trying out the wave."""
        self.window.screens.show_pairs()
        self.window.screens.pairs.table.go_to(4)
        self.keep("pairs")
        self.window.screens.close()

    def crew(self) -> None:
        """Everybody."""
        for name in ("quill", "brandle"):
            self.window.opener.open_rig(shipped() / "cast" / f"{name}.glb")
            self.wait(partial(self._last_is, name), 1500)
        quill = next(a for a in self.workspace.cast.actors if a.rig.name == "Quill")
        self.workspace.act(quill)
        self.window.screens.show_fit(self.card("Wave"))
        self.wait(lambda: self.window.screens.body.currentWidget() is self.window.screens.fit, 1500)
        self.worn("paper", "fit")
        self.window.screens.close()
        for member in list(self.workspace.cast.actors)[2:]:
            self.workspace.take_off(member)
        self.workspace.act(self.workspace.cast.actors[0])
        self.window.stage.frame()

    def _last_is(self, prefix: str) -> bool:
        return self.workspace.cast.actors[-1].prefix == prefix

    def linked(self) -> None:
        """A figure of the simulated host with a card on it, and the host's window over ours."""
        host = HostDesk(SimulatedHost(moves=True), Path(os.environ["XDG_RUNTIME_DIR"]) / "hosts")
        host.start()
        bridge = Bridge()
        other = HostWindow(host, bridge.post, lambda: None)
        other.resize(480, 330)
        other.show()
        window, workspace = self.window, self.workspace
        window.shot_opener.open_demo()
        self.wait(lambda: len(workspace.cast) == 1 and len(self.cards()) > 30, 2500)
        window.home.links.open(host.link.path)
        self.wait(lambda: workspace.linking.stands, 2500)
        window.notice.hide()
        workspace.go(37.0)
        self.wait(lambda: host.time[0] == 37.0)
        window.stage.look_from(0, 3, None, 1.0)
        window.stage.frame_actor(workspace.actor)
        self.put_on("Fist", keep=False)
        assert workspace.mix is not None
        for step in range(40):
            workspace.mix.set_amount(0.3 + step / 100)
            self._run(30)
        workspace.mix.set_amount(0.7)
        self.wait(lambda: not other.picture.image.isNull(), 1200)
        image = window.grab()
        painter = QPainter(image)
        corner = (window.width() - other.width() - 12, window.height() - other.height() - 12)
        painter.drawPixmap(*corner, other.grab())
        painter.end()
        image.save(str(OUT / "linked.png"))
        workspace.linking.end()
        self.wait(lambda: True)
        other.close()
        bridge.close()
        host.stop()


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    application = QApplication([])
    with tempfile.TemporaryDirectory() as home, assembled(Places.under(Path(home))) as window:
        Photographer(window).shot()
    with tempfile.TemporaryDirectory() as home, assembled(Places.under(Path(home))) as window:
        Photographer(window).all()
    with tempfile.TemporaryDirectory() as home, assembled(Places.under(Path(home))) as window:
        os.environ["XDG_RUNTIME_DIR"] = home
        Photographer(window).linked()
    del application


if __name__ == "__main__":
    main()
