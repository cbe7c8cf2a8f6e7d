"""How long the window does not answer: a timer ticks while somebody works; the longest gap counts.

Prints one line for each thing that is done: name, longest gap in milliseconds, and the most that
the window itself computed between two ticks: the rest of a gap is waiting for a core or for the
interpreter, on a machine that is busy otherwise; the last line says how much of that there is
when nothing is done. With ``--library FOLDER`` a large library (such as the one
``bench/library.py`` makes) is scrolled through, searched and sorted instead, and a colleague's
card is waited for.
"""

from __future__ import annotations

import os
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtWidgets import QApplication

from fox_hand.__main__ import assembled, set_aside_what_stays
from fox_hand.base.places import Places
from fox_hand.core.pose.pose import Pose
from fox_hand.library.format.card import Card
from fox_hand.library.index.catalogue import Sort
from fox_hand.library.store.store import Library
from fox_hand.ui.main.window import Window

Step = Callable[[], object]


class Watch:
    """Measures gaps between ticks of a timer that wants to tick every 2 ms."""

    def __init__(self) -> None:
        self._last, self._worked = time.perf_counter(), time.thread_time()
        self.longest = self.most = 0.0
        self._timer = QTimer()
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)
        self._timer.start(2)

    def _tick(self) -> None:
        now, worked = time.perf_counter(), time.thread_time()
        self.longest = max(self.longest, (now - self._last) * 1000)
        self.most = max(self.most, (worked - self._worked) * 1000)
        self._last, self._worked = now, worked

    def during(self, name: str, steps: list[Callable[[], object]], pause: int = 16) -> None:
        """Do some steps with pauses as a person leaves them, and say the longest gap."""
        self._last, self._worked = time.perf_counter(), time.thread_time()
        self.longest = self.most = 0.0
        for step in steps:
            QTimer.singleShot(0, step)
            wait(pause)
        wait(300)
        print(f"{name}\t{self.longest:.1f}\t{self.most:.1f}", flush=True)


def wait(milliseconds: int) -> None:
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


def work(window: Window, watch: Watch) -> None:
    workspace, stage = window.workspace, window.stage
    watch.during("opening the demo", [window.opener.open_crew], 2500)

    def card(name: str) -> Callable[[], object]:
        return lambda: window.workspace.applying.put_on(
            next(e for e in workspace.open_libraries.entries() if e.name == name)
        )

    def pull(amount: float) -> None:
        if workspace.mix is not None:
            workspace.mix.set_amount(amount)

    watch.during("putting a body card on", [card("Wave")], 400)
    watch.during("pulling its amount", [partial(pull, a / 40) for a in range(60)])
    print(f"from a pull to its picture\t{pull_to_picture(window, pull):.1f}", flush=True)
    watch.during("keeping it, the next card", [card("Fist"), workspace.keep_mix], 300)
    watch.during(
        "looking around", [lambda: stage.set_camera(stage.camera.orbit(0.05, 0)) for _ in range(40)]
    )
    watch.during("selecting a hand", [lambda: window.figure_panel.sets.choose("L hand")], 300)
    watch.during("capturing", [window.workspace.capturing.ask], 500)

    def save() -> None:
        window.capture.form.name.setText("Bench")
        window.home.cards.save_capture()

    watch.during("saving the card", [save], 600)
    watch.during("undo", [workspace.undo for _ in range(3)], 200)
    watch.during("opening the demo's shot", [window.shot_opener.open_demo], 4000)
    watch.during("putting a card on in it", [card("Wave")], 400)
    watch.during("keeping it", [workspace.keep_mix], 300)
    watch.during("capturing in it", [window.workspace.capturing.ask], 1000)
    watch.during("undo in it", [workspace.undo], 300)
    watch.during("nothing at all", [lambda: None], 2500)


def pull_to_picture(window: Window, pull: Callable[[float], None]) -> float:
    """Median time from moving the amount until the stage shows that pose, in milliseconds. Each
    pull waits for the picture of the one before, as a hand that follows what it sees."""
    stage, workspace = window.stage, window.workspace
    took = []
    for number in range(60):
        start = time.perf_counter()
        pull(0.2 + 0.01 * number)
        actor = workspace.actor
        assert actor is not None
        while time.perf_counter() - start < 2:
            wait(1)
            picture = stage.pictures.latest
            if picture is not None and any(f.at is actor.at for f in picture.view.figures):
                break
        took.append((time.perf_counter() - start) * 1000)
    return statistics.median(took)


def large_library(window: Window, watch: Watch, folder: Path) -> None:
    """Scrolling, typing, sorting and ticking among very many cards."""
    sheets, open_libraries = window.sheets, window.workspace.open_libraries
    watch.during("opening", [lambda: window.opener.open_library(folder)], 500)
    while any(p.reading is None or not p.reading.scanned for p in open_libraries.places):
        wait(200)  # the first time it is indexed
    print(f"while it was read the first time\t{watch.longest:.1f}", flush=True)
    watch.during("shown", [lambda: None], 1000)
    print(f"{sum(map(len, open_libraries.places))} cards", flush=True)
    bar = sheets.view.verticalScrollBar()
    field = window.header.search_field
    fast: list[Step] = [partial(bar.setValue, bar.maximum() * i // 200) for i in range(200)]
    slow: list[Step] = [partial(bar.setValue, bar.maximum() // 3 + i * 24) for i in range(150)]
    typed: list[Step] = [partial(field.setText, "haul rope"[:i]) for i in range(1, 10)]
    watch.during("scrolling through all of it", fast)
    watch.during("scrolling card by card", slow)
    watch.during("typing a word", typed, 60)
    watch.during("clearing it", [field.clear], 600)
    watch.during("newest first", [partial(sheets.set_order, Sort.NEWEST)], 1500)
    watch.during("by name again", [partial(sheets.set_order, Sort.NAME)], 1500)
    watch.during("one part", [partial(sheets.filter, "left")], 800)
    watch.during("all parts", [partial(sheets.filter, "all")], 800)
    watch.during("ticking everything", [sheets.view.choice.tick_all], 400)
    sheets.view.choice.set_ticked(())


def a_colleague(window: Window, folder: Path) -> None:
    """How long until somebody else's card is known here."""
    made = Library(folder).add(Card("From a colleague", Pose({})), None, "Colleagues")
    start = time.perf_counter()
    while (
        window.workspace.open_libraries.entry_at(made) is None and time.perf_counter() - start < 20
    ):
        wait(10)
    print(
        f"a colleague's card is seen after\t{(time.perf_counter() - start) * 1000:.0f}", flush=True
    )
    made.unlink()


def main() -> None:
    application = QApplication([])
    with tempfile.TemporaryDirectory() as home, assembled(Places.under(Path(home))) as window:
        wait(500)
        set_aside_what_stays()
        if "--library" in sys.argv:
            folder = Path(sys.argv[sys.argv.index("--library") + 1])
            large_library(window, Watch(), folder)
            a_colleague(window, folder)
        else:
            work(window, Watch())
    del application


if __name__ == "__main__":
    main()
