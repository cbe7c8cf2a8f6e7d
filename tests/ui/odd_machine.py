"""``python -m tests.ui.odd_machine FOLDER YEARS NAME``: the demo, a card and a saved shot on a
machine whose clock is off by some years.

Prints as JSON which cards were there before and after, what the window said, and whether the shot
was saved.
"""

from __future__ import annotations

import datetime
import json
import os
import sys
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
YEAR = 365.25 * 86400


def shift_clock(years: float) -> None:
    """What the interpreter says the time is."""
    true_time, true_nanoseconds = time.time, time.time_ns

    class Shifted(datetime.datetime):
        @classmethod
        def now(cls, tz: datetime.tzinfo | None = None) -> datetime.datetime:
            return cls.fromtimestamp(time.time(), tz)

    time.time = lambda: true_time() + years * YEAR
    time.time_ns = lambda: true_nanoseconds() + round(years * YEAR * 1e9)
    datetime.datetime = Shifted  # type: ignore[misc]


def main() -> None:
    folder, name = Path(sys.argv[1]), sys.argv[3]
    shift_clock(float(sys.argv[2]))
    from PySide6.QtWidgets import QApplication

    from fox_hand.__main__ import assembled
    from fox_hand.base.places import Places
    from fox_hand.demo import demo_project
    from tests.small_demo import make_small_demo

    if not (folder / "small").exists():
        make_small_demo(folder / "small")
    demo_project.SOURCE = folder / "small"
    application = QApplication([])
    said: list[str] = []
    notices: set[str] = set()

    def wait(ready: Callable[[], bool], what: str) -> None:
        until = time.monotonic() + 60
        while not ready() and time.monotonic() < until:
            application.processEvents()
            time.sleep(0.01)  # QTest.qWait would keep the interpreter from the jobs
            notices.add(window.notice.text)
        if not ready():
            said.append(f"waited in vain for {what}")

    with assembled(Places.under(folder)) as window:
        workspace = window.workspace
        faults: list[str] = []
        sys.excepthook = lambda kind, error, _: faults.append(f"{kind.__name__}: {error}")
        workspace.failed.connect(lambda error: said.append(error.sentence()))
        window.shot_opener.open_demo()
        cards = lambda: sorted(e.name for e in workspace.open_libraries.entries())  # noqa: E731 - short lived
        wait(lambda: len(workspace.cast) == 1 and len(cards()) > 10, "the demo")
        before = cards()
        actor = workspace.actor
        assert actor is not None
        workspace.selection.set([actor.rig.control_row["arm_L"]])
        workspace.go(30)
        workspace.keying.key()
        window.workspace.capturing.ask()
        window.capture.form.name.setText(name)
        window.home.cards.save_capture()
        wait(lambda: name in cards(), "the card")
        window.home.shots.save()
        path = workspace.shots.path
        assert path is not None
        wait(lambda: "is saved" in window.notice.text, "the shot")
        after, saved = cards(), "is saved" in window.notice.text
        keys = path.read_text().count('"frames"')
        # what is left on the clipboard does not stop a process from ending in order
        window.home.cards.clipboard.copy()
        wait(lambda: "is on the clipboard" in window.notice.text, "the clipboard")
    application.processEvents()
    json.dump(
        {
            "before": before,
            "after": after,
            "said": said,
            "notices": sorted(notices),
            "faults": faults,
            "saved": saved,
            "keys": keys,
        },
        sys.stdout,
    )


if __name__ == "__main__":
    main()
