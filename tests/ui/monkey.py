"""``python -m tests.ui.monkey SECONDS SEED FOLDER``: clicks, keys and drags at random on a window.

Prints as JSON what happened: steps, memory of the window and of the drawing process minute by
minute, exceptions, the longest time the window did not answer, processes and files that were left.
"""

from __future__ import annotations

import faulthandler
import functools
import json
import os
import random
import sys
import threading
import time
import traceback
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import shiboken6
from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QContextMenuEvent, QDesktopServices, QDrag, QMouseEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QInputDialog, QMenu, QWidget

from fox_hand.__main__ import assembled
from fox_hand.base.places import Places
from fox_hand.demo.demo_project import NAME, shipped
from fox_hand.ui.main.window import Window
from fox_hand.ui.widgets.popup import Popup

KEYS = (
    *(getattr(Qt.Key, f"Key_{c}") for c in "ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789"),
    *(Qt.Key(k) for k in range(Qt.Key.Key_Left.value, Qt.Key.Key_Down.value + 1)),
    *[Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Space, Qt.Key.Key_Tab] * 3,
    *[Qt.Key.Key_Delete, Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_F1, Qt.Key.Key_Plus],
)
NONE = Qt.KeyboardModifier.NoModifier
SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
ALT = Qt.KeyboardModifier.AltModifier
NEVER = {(Qt.Key.Key_Q, CTRL), (Qt.Key.Key_W, CTRL), (Qt.Key.Key_F4, ALT)}
LEFT = Qt.MouseButton.LeftButton
PATIENCE = 150.0  # seconds beside its work: to begin, to end, on a slow machine
WARM = 60.0  # seconds between two measures of memory
CHAPTER = 300.0  # seconds with one shot; what is made in it would grow without end


class Monkey:
    """Works through a window.

    Args:
        window: which.
        chance: where its whims come from.
    """

    def __init__(self, window: Window, chance: random.Random) -> None:
        self._window, self._chance = window, chance
        self.did: Counter[str] = Counter()
        self.last = ""  # what it did, and where
        self._deeds: list[tuple[str, int, Callable[[], None]]] = [
            ("click", 30, self._click),
            ("drag", 14, self._drag),
            ("key", 24, self._key),
            ("wheel", 8, self._wheel),
            ("menu", 5, self._context_menu),
            ("double click", 4, self._double_click),
            ("resize", 1, self._resize),
            ("undo", 4, lambda: QTest.keyClick(self._focus(), Qt.Key.Key_Z, CTRL)),
            ("escape", 3, lambda: QTest.keyClick(self._focus(), Qt.Key.Key_Escape)),
        ]

    def step(self) -> None:
        """One whim."""
        menu = next((w for w in QApplication.topLevelWidgets() if _open_menu(w)), None)
        if isinstance(menu, QMenu):
            self._choose(menu)
            return
        names, weights, deeds = zip(*self._deeds, strict=True)
        number = self._chance.choices(range(len(names)), weights)[0]
        self.did[names[number]] += 1
        self.last = names[number]
        deeds[number]()
        for dialog in QApplication.topLevelWidgets():
            if isinstance(dialog, QDialog) and dialog.isVisible() and self._chance.random() < 0.2:
                dialog.reject()

    def _choose(self, menu: QMenu) -> None:
        self.did["choice"] += 1
        actions = [a for a in menu.actions() if a.isEnabled() and a.menu() is None and a.text()]
        if not actions or self._chance.random() < 0.4:
            menu.close()
            return
        action = self._chance.choice(actions)
        menu.close()
        self.last = f"choice {action.text()}"
        if action.text().replace("&", "").partition("\t")[0] not in ("Quit", "Close"):
            action.trigger()

    def _focus(self) -> QWidget:
        return self._window.focusWidget() or self._window

    def _target(self) -> tuple[QWidget, QPoint]:
        """A place in the window or in what is open over it."""
        if not self._window.isVisible():  # it was closed by the finder, or by the desktop
            self._window.show()
        tops = [w for w in QApplication.topLevelWidgets() if w.isVisible() and not _open_menu(w)]
        top = self._chance.choice(tops) if self._chance.random() < 0.4 else self._window
        at = QPoint(
            self._chance.randrange(max(top.width(), 1)),
            self._chance.randrange(max(top.height(), 1)),
        )
        widget = top.childAt(at) or top
        if not shiboken6.isValid(widget):  # it went while we looked
            return self._window, at
        self.last += f" on {type(widget).__name__}"
        return widget, widget.mapFrom(top, at)

    def _keys(self) -> Qt.KeyboardModifier:
        return self._chance.choice([NONE] * 8 + [SHIFT, CTRL, ALT, SHIFT | CTRL])

    def _click(self) -> None:
        widget, at = self._target()
        QTest.mouseClick(widget, LEFT, self._keys(), at)

    def _double_click(self) -> None:
        widget, at = self._target()
        QTest.mouseDClick(widget, LEFT, self._keys(), at)

    def _drag(self) -> None:
        widget, at = self._target()
        button = self._chance.choice([LEFT] * 4 + [Qt.MouseButton.MiddleButton])
        keys = self._keys()
        QTest.mousePress(widget, button, keys, at)
        point = QPointF(at)
        for _ in range(self._chance.randrange(2, 9)):
            point += QPointF(self._chance.gauss(0, 40), self._chance.gauss(0, 40))
            move = QMouseEvent(
                QEvent.Type.MouseMove,
                point,
                QPointF(widget.mapToGlobal(point.toPoint())),
                Qt.MouseButton.NoButton,
                button,
                keys,
            )
            QApplication.sendEvent(widget, move)
            QApplication.processEvents()
        QTest.mouseRelease(widget, button, keys, point.toPoint())

    def _key(self) -> None:
        key, keys = self._chance.choice(KEYS), self._keys()
        self.last += f" {keys.name} {key.name} on {type(self._focus()).__name__}"
        if (key, keys) not in NEVER:
            QTest.keyClick(self._focus(), key, keys)

    def _wheel(self) -> None:
        widget, at = self._target()
        turn = QPoint(0, self._chance.choice([-120, 120, -360, 360]))
        event = QWheelEvent(
            QPointF(at),
            QPointF(widget.mapToGlobal(at)),
            QPoint(),
            turn,
            Qt.MouseButton.NoButton,
            self._keys(),
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(widget, event)

    def _context_menu(self) -> None:
        widget, at = self._target()
        reason = QContextMenuEvent.Reason.Mouse
        QApplication.sendEvent(widget, QContextMenuEvent(reason, at, widget.mapToGlobal(at)))

    def _resize(self) -> None:
        self._window.resize(self._chance.randrange(1024, 1600), self._chance.randrange(680, 1000))


def _open_menu(widget: QWidget) -> bool:
    return isinstance(widget, QMenu) and widget.isVisible()


def megabytes(process: int | None) -> float:
    """Memory that a process has now (proc(5), ``status``); 0 where there is none."""
    try:
        lines = Path(f"/proc/{process}/status").read_text("utf-8", "replace").splitlines()
    except OSError:
        return 0.0
    return next((int(x.split()[1]) / 1024 for x in lines if x.startswith("VmRSS")), 0.0)


def without_dialogs(chance: random.Random) -> None:
    """What waits for somebody outside the window answers at once."""
    for name in ("getOpenFileName", "getSaveFileName"):
        setattr(QFileDialog, name, lambda *_, **__: ("", ""))
    QFileDialog.getExistingDirectory = lambda *_, **__: ""
    for name, answer in (("getText", "monkey"), ("getMultiLineText", "ook"), ("getItem", "monkey")):
        setattr(QInputDialog, name, lambda *_, answer=answer, **__: (answer, chance.random() < 0.6))
    QInputDialog.getInt = lambda *_, **__: (8, False)
    QInputDialog.getDouble = lambda *_, **__: (24.0, chance.random() < 0.6)
    QDesktopServices.openUrl = lambda *_: True
    QDrag.exec = lambda *_, **__: Qt.DropAction.IgnoreAction


def caught_in_handlers(watched: Watched) -> None:
    """Every handler of an event says itself what it raised: on its way out through the toolkit an
    exception may lose its words, or end the program."""
    for name, module in list(sys.modules.items()):
        if not name.startswith("fox_hand.ui."):
            continue
        for kind in vars(module).values():
            if isinstance(kind, type) and issubclass(kind, QObject):
                for method, handler in list(vars(kind).items()):
                    if method.lower().endswith("event") and callable(handler):
                        setattr(kind, method, _caught(handler, watched))


def _caught(handler: Callable[..., object], watched: Watched) -> Callable[..., object]:
    @functools.wraps(handler)
    def handle(*args: object) -> object:
        try:
            return handler(*args)
        except Exception as error:  # noqa: BLE001 - that is what is looked for
            watched.hook(type(error), error, error.__traceback__)
            return True if handler.__name__ in ("event", "viewportEvent") else None

    return handle


class Watched:
    """What is kept an eye on while the monkey is at work."""

    def __init__(self) -> None:
        self.faults: Counter[str] = Counter()
        self.memory: list[tuple[float, float]] = []
        self.chapters: list[float] = []  # of the window, with a shot that was just opened
        self.slow: list[tuple[float, str]] = []

    def hook(
        self, kind: type[BaseException], error: BaseException, trace: TracebackType | None
    ) -> None:
        self.faults["".join(traceback.format_exception(kind, error, trace))] += 1

    def thread_hook(self, args: threading.ExceptHookArgs) -> None:
        self.hook(args.exc_type, args.exc_value or Exception(), args.exc_traceback)


def wait(seconds: float) -> None:
    """Let the window and its jobs work; QTest.qWait would keep the interpreter from the jobs."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        QApplication.processEvents()
        # what a loop would do by itself between two events
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
        time.sleep(0.001)


def another_shot(window: Window, number: int) -> None:
    """As people do: on with the next shot, as it was shipped."""
    for top in QApplication.topLevelWidgets():
        if isinstance(top, QDialog | QMenu | Popup) and top.isVisible():
            top.close()  # a click elsewhere does it for people, but not for clicks made by hand
    shipped_shots = sorted((shipped() / "shots").glob("*.foxshot"))
    folder = window.workspace.places.data / NAME / "shots"
    path = folder / f"day {number}.foxshot"
    path.write_bytes(shipped_shots[number % len(shipped_shots)].read_bytes())
    window.shot_opener.open(path)
    end = time.monotonic() + 20
    while window.workspace.shots.path != path and time.monotonic() < end:
        wait(0.1)
    wait(3.0)
    (folder / f"day {number - 1}.foxshot").unlink(missing_ok=True)


def run(window: Window, seconds: float, chance: random.Random, watched: Watched) -> Monkey:
    """Let it loose for a while."""
    monkey, start = Monkey(window, chance), time.monotonic()
    told = 0.0
    chapter = 1
    while (now := time.monotonic() - start) < seconds:
        before = time.monotonic()
        try:
            monkey.step()
            QApplication.processEvents()
        except Exception as error:  # noqa: BLE001 - what a handler raised inside the step
            watched.hook(type(error), error, error.__traceback__)
        watched.slow.append((round(time.monotonic() - before, 2), monkey.last))
        watched.slow = sorted(watched.slow, reverse=True)[:20]
        wait(0.001)
        if now >= chapter * CHAPTER:
            another_shot(window, chapter)
            chapter += 1
            watched.chapters.append(megabytes(os.getpid()))
        if now - told >= WARM or not watched.memory:
            told = now
            drawing = window._services.pictures.process_id
            watched.memory.append((megabytes(os.getpid()), megabytes(drawing)))
            minutes, steps = now / 60, sum(monkey.did.values())
            words = f"{minutes:.0f} minutes, {steps} steps, {watched.memory[-1]} MB"
            sys.stderr.write(words + "\n")
    watched.memory.append((megabytes(os.getpid()), megabytes(window._services.pictures.process_id)))
    return monkey


def main() -> None:
    seconds, seed, folder = float(sys.argv[1]), int(sys.argv[2]), Path(sys.argv[3])
    chance, watched = random.Random(seed), Watched()
    # what stands still says where, on all threads
    faulthandler.dump_traceback_later(seconds + PATIENCE, exit=True)
    application = QApplication([])
    without_dialogs(chance)
    caught_in_handlers(watched)
    with assembled(Places.under(folder)) as window:
        sys.excepthook, threading.excepthook = watched.hook, watched.thread_hook
        QTimer.singleShot(0, window.shot_opener.open_demo)
        wait(4.0)
        monkey = run(window, seconds, chance, watched)
        for _ in range(20):
            popup = QApplication.activePopupWidget()
            if popup is not None:
                popup.close()
        drawing = window._services.pictures.process_id
    application.processEvents()
    json.dump(
        {
            "steps": sum(monkey.did.values()),
            "did": dict(monkey.did),
            "memory": [[round(x, 1) for x in pair] for pair in watched.memory],
            "chapters": [round(x, 1) for x in watched.chapters],
            "faults": dict(watched.faults),
            "slow": watched.slow,
            "left": [drawing] if megabytes(drawing) else [],
            "parts": [str(p) for p in folder.rglob("*.part")],
        },
        sys.stdout,
        indent=1,
    )


if __name__ == "__main__":
    main()
