"""The window is killed, or the drawing process: nothing stays behind, and it comes back quietly."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from fox_hand.base.files.scratch import scratch_folder, sweep

LONG = 60.0
WINDOW = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
from fox_hand.__main__ import assembled
from fox_hand.base.places import Places

application = QApplication([])
with assembled(Places.under(Path(sys.argv[1]))) as window:
    window.opener.open_crew()

    seen = [None]

    def ready():
        stage = window.stage
        if stage.pictures.latest is not None and stage.pictures.latest is not seen[0]:
            seen[0] = stage.pictures.latest
            print(window._services.pictures.process_id, flush=True)
            stage.set_camera(stage.camera.orbit(0.1, 0.0))

    timer = QTimer()
    timer.timeout.connect(ready)
    timer.start(200)
    application.exec()
"""


def _children(process: int) -> list[int]:
    """Processes that were started by one (proc(5), ``stat``, field 4)."""
    found = []
    for path in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = path.read_text("utf-8", "replace").rpartition(")")[2].split()
        except OSError:
            continue
        if int(fields[1]) == process and fields[0] != "Z":
            found.append(int(path.parent.name))
    return found


def _waits_until(true: Callable[[], bool]) -> None:
    end = time.monotonic() + LONG
    while time.monotonic() < end:
        if true():
            return
        time.sleep(0.05)
    raise AssertionError("waited in vain")


def _runs(process: int) -> bool:
    try:
        stat = Path(f"/proc/{process}/stat").read_text("utf-8", "replace")
    except OSError:
        return False
    return stat.rpartition(")")[2].split()[0] != "Z"


@pytest.fixture
def window(tmp_path: Path) -> Iterator[subprocess.Popen[str]]:
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    started = subprocess.Popen(
        [sys.executable, "-c", WINDOW, str(tmp_path)],
        stdout=subprocess.PIPE,
        text=True,
        env=environment,
    )
    yield started
    started.kill()
    started.wait()


def test_no_drawing_process_outlives_a_window_that_was_killed(
    window: subprocess.Popen[str],
) -> None:
    assert window.stdout is not None
    window.stdout.readline()
    drawing = _children(window.pid)
    assert len(drawing) == 1
    window.send_signal(signal.SIGKILL)
    _waits_until(lambda: not any(map(_runs, drawing)))


def test_a_killed_drawing_process_comes_back_once_and_quietly(
    window: subprocess.Popen[str],
) -> None:
    assert window.stdout is not None
    first = int(window.stdout.readline())
    os.kill(first, signal.SIGKILL)
    later = next(int(line) for line in window.stdout if int(line) != first)
    assert _children(window.pid) == [later]
    assert all(int(window.stdout.readline()) == later for _ in range(3))


def test_what_killed_programs_left_goes_and_what_others_use_stays(tmp_path: Path) -> None:
    own = tmp_path / "state"
    own.mkdir()
    old, young = own / ".old.part", own / ".young.part"
    for path in (old, young):
        path.write_bytes(b"half")
    os.utime(old, (1, 1))
    script = (
        "import os, signal; from pathlib import Path; from fox_hand.base.files.scratch import *\n"
        f"with scratch_folder(Path({str(own)!r})) as f:\n"
        "    (f / 'x').write_text('x'); os.kill(os.getpid(), signal.SIGKILL)"
    )
    subprocess.run([sys.executable, "-c", script], check=False)
    with scratch_folder(own) as used:
        assert len(list(own.glob("fox-hand-*"))) == 2
        assert sweep([own]) >= 2
        assert used.is_dir()
    assert [p.name for p in own.iterdir()] == [young.name]


FAULTY = """
import sys
from pathlib import Path
from PySide6.QtCore import QCoreApplication, QEvent, QPointF, Qt, QTimer
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication
from fox_hand.__main__ import assembled
from fox_hand.base.places import Places
from fox_hand.ui.browser.sheets_input import SheetsInput
from fox_hand.ui.timeline.strip import Strip

raised = []

def faulty(self, event):
    raised.append(self)
    {}["not there"]

SheetsInput._press = Strip.mousePressEvent = faulty
application = QApplication([])
with assembled(Places.under(Path(sys.argv[1]))) as window:

    def press():
        for widget in (window.sheets.view.viewport(), window.timeline.strip):
            at, left = QPointF(20, 20), Qt.MouseButton.LeftButton
            event = QMouseEvent(
                QEvent.Type.MouseButtonPress, at, widget.mapToGlobal(at), left, left,
                Qt.KeyboardModifier.NoModifier,
            )
            QCoreApplication.postEvent(widget, event)

    for number in range(20):
        QTimer.singleShot(500 + 20 * number, press)
    QTimer.singleShot(2000, application.quit)
    application.exec()
    print(len(raised), window.notice.text, flush=True)
"""


def test_a_fault_in_a_handler_does_not_end_the_window(tmp_path: Path) -> None:
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        [sys.executable, "-c", FAULTY, str(tmp_path)],
        capture_output=True,
        text=True,
        env=environment,
        check=False,
        timeout=LONG,
    )
    assert done.stdout.startswith("40 Something went wrong"), done.stdout + done.stderr[-2000:]
    assert done.returncode == 0


COPIED = """
import sys
from pathlib import Path
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication
from fox_hand.__main__ import assembled
from fox_hand.base.places import Places
from fox_hand.ui.cards.card_drag import cards_mime

application = QApplication([])
with assembled(Places.under(Path(sys.argv[1]))) as window:
    QGuiApplication.clipboard().setMimeData(cards_mime([1], [Path("a.foxcard")]))
"""


def test_cards_on_the_clipboard_do_not_spoil_the_end(tmp_path: Path) -> None:
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    command = [sys.executable, "-c", COPIED, str(tmp_path)]
    assert subprocess.run(command, env=environment, check=False, timeout=LONG).returncode == 0
