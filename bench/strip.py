"""``python bench/strip.py``: the strip over a long shot: a key of everything every eight frames.

Ratios are to painting the same strip without keys, measured in the same run.
"""

from __future__ import annotations

import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parents[1]))

from bench.shot import FRAMES, busy, timed
from PySide6.QtCore import QEventLoop, QPointF, QTimer
from PySide6.QtWidgets import QApplication

from fox_hand.__main__ import assembled
from fox_hand.base.places import Places
from fox_hand.demo.demo_project import shipped
from fox_hand.ui.main.window import Window


def wait(milliseconds: int) -> None:
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


def work(window: Window) -> None:
    workspace, strip = window.workspace, window.timeline.strip
    window.opener.open_rig(shipped() / "cast" / "marrow.glb")
    while workspace.actor is None:
        wait(50)
    wait(1000)
    workspace.timing.set_range(1, FRAMES)
    strip.show_range()
    wait(200)
    unit = timed(strip.grab)

    def said(word: str, took: float) -> None:
        print(f"{word:52}{took:9.2f} ms{took / unit:9.2f} x the strip without keys")

    said("painting without keys", unit)
    workspace.keying.change(busy(workspace.actor.rig, 1), "Keys")
    wait(300)
    print(f"{FRAMES} frames, {workspace.actor.keys.count} keys")
    said("painting, rows closed", timed(strip.grab))
    for part in ("Body", "Face"):
        strip.book.toggle(part)
    said("painting, Body and Face open", timed(strip.grab))
    said("which rows there are", timed(strip.rows))
    said("what lies under the pointer", timed(lambda: strip.hit(QPointF(600, 150))))
    strip.pick_all()
    said("painting with all keys selected", timed(strip.grab))
    keys, picked, drag = workspace.actor.keys, strip.picked, workspace.keying.drag()
    assert drag is not None
    ways = iter([1.0, 2.0, 3.0, 4.0] * 5)

    def pulled() -> None:
        by = next(ways)
        drag.preview(keys.carried(picked, lambda frame: frame + by))

    said("pulling all of them", timed(pulled))
    drag.cancel()


def main() -> None:
    application = QApplication([])
    with tempfile.TemporaryDirectory() as home, assembled(Places.under(Path(home))) as window:
        window.resize(1280, 800)
        wait(300)
        work(window)
    del application


if __name__ == "__main__":
    main()
