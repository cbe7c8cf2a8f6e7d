"""``python -m tests.ui.every_screen``: opens every screen in the language of the environment and
prints as JSON which words look untranslated and which are cut without a way to read them.

A program of its own, as words are looked up once; in the stretched language what goes through no
catalogue has no accents.
"""

from __future__ import annotations

import json
import re
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from PySide6.QtCore import QEventLoop, QPoint, QRect, QRectF, Qt, QTimer
from PySide6.QtGui import QFontMetricsF, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QDialog,
    QLabel,
    QLineEdit,
    QMenu,
    QWidget,
)

from fox_hand.__main__ import assembled
from fox_hand.base.manual import manual_folder, pages
from fox_hand.base.places import Places
from fox_hand.demo.demo_project import demo_performance, shipped
from fox_hand.library.format.entry import Entry
from fox_hand.ui.commands.finder import Finder
from fox_hand.ui.main.menus import main_menu, member_menu, project_menu
from fox_hand.ui.main.window import Window
from fox_hand.ui.main.window_keys import show_keys
from fox_hand.ui.services.spoken import speak

ACCENTS = set("áéíóúçñšýžÁÉÍÓÚÇÑŠÝŽ")
MEANT = re.compile("[A-Za-z]{2}")
WORD = re.compile(r"[A-Z]?[a-z]+|[A-Z]{2,}")
# units, the languages' own names, our name, and what the demo's recording and drawings hold
NAMES = "mm cm fps English Deutsch Fox Hand config Nov Collar Elbow Wrist grin"


class Survey:
    """What is seen and heard on the way.

    Args:
        window: the window.
    """

    def __init__(self, window: Window) -> None:
        self.window, self.workspace, self.where = window, window.workspace, ""
        self.seen: dict[str, str] = {}
        self.cut: dict[str, str] = {}
        self._draw = QPainter.drawText

    def watch_painters(self) -> None:
        """Words that are painted by hand are seen too."""
        survey = self

        def draw(painter: QPainter, *how: object) -> object:
            survey.painted(painter, how)
            return survey._draw(painter, *how)

        QPainter.drawText = draw  # type: ignore[method-assign, assignment]  # on purpose

    def painted(self, painter: QPainter, how: tuple[object, ...]) -> None:
        text = next((one for one in how if isinstance(one, str)), "")
        rect = next((one for one in how if isinstance(one, QRectF | QRect)), None)
        self.note(text)
        wraps = any(_bits(one) & Qt.TextFlag.TextWordWrap.value for one in how)
        wide = QFontMetricsF(painter.font()).horizontalAdvance(text)
        if text and rect is not None and not wraps and wide > rect.width() + 1:
            self.cut.setdefault(text, f"{self.where}: {wide:.0f} in {rect.width():.0f} px")

    def note(self, text: str) -> None:
        text = re.sub("<[^>]*>", "", text)
        if MEANT.search(text) and not set(text) & ACCENTS:
            self.seen.setdefault(text, self.where)

    def look(self, where: str, over: QWidget | None = None) -> None:
        """Look at the window, or at what lies over it."""
        self.where, top = where, over or self.window
        rest(0.3)
        top.grab()
        for widget in [top, *top.findChildren(QWidget)]:
            if widget.isVisible():
                self._look_at(widget)

    def _look_at(self, widget: QWidget) -> None:
        said = [widget.toolTip(), widget.accessibleName()]
        if isinstance(widget, QLabel | QAbstractButton):
            said.append(widget.text())
        if isinstance(widget, QLineEdit):
            said.append(widget.placeholderText())
        if isinstance(widget, QComboBox):
            said.append(widget.currentText())
        for text in said:
            self.note(text)
        if isinstance(widget, QLabel) and widget.text() and not widget.wordWrap():
            wide, room = widget.sizeHint().width(), widget.width()
            if wide > room + 1 and not widget.toolTip():
                self.cut.setdefault(widget.text(), f"{self.where}: {wide} in {room} px")

    def menus(self, where: str) -> None:
        """All menus that are open."""
        self.where = where
        rest(0.1)
        for menu in [m for m in QApplication.topLevelWidgets() if isinstance(m, QMenu)]:
            if menu.isVisible():
                for text in _texts(menu):
                    self.note(text.split("\t")[0].replace("&", ""))
                menu.close()

    def plain(self) -> dict[str, str]:
        """What was seen and is neither translated nor a name of somebody's."""
        known = {word.lower() for word in self._names()}
        return {text: where for text, where in self.seen.items() if not _made_of(text, known)}

    def _names(self) -> Iterator[str]:
        """Words of cards, characters, charts, files: they are as people wrote them."""
        written = [NAMES, str(self.workspace.places.config), *sys.path]
        for entry in self.workspace.open_libraries.entries():
            written += [entry.name, entry.note, entry.author, entry.sheet, entry.character]
            written += [*entry.tags, entry.changed_by]
        for place in self.workspace.open_libraries.places:
            written += [place.name, *place.sheets]
        written += [search.name for search in self.workspace.kept_searches.all()]
        for actor in self.workspace.cast.actors:
            written.append(actor.path.name)
            rig = actor.rig
            written += [rig.name, *rig.sets]
            for control in rig.controls:
                written += [control.name, control.label, control.role or ""]
            for setting in rig.settings:
                written += [setting.name, setting.label, *setting.options]
        for board in self.workspace.charts.boards:
            written += [board.chart.name, *(slot.name for slot in board.chart.slots)]
        written += [page.title for page in pages(manual_folder())]
        assembly = self.window.screens.assemble.assembly
        for part in () if assembly is None else assembly.puppet.parts:
            written += [part.name, part.called, *part.drawings]
        for text in written:
            yield from WORD.findall(text)
            yield from re.findall(r"[A-Z][a-z]+", text)  # LeftCollar


def _bits(flags: object) -> int:
    value = getattr(flags, "value", flags)
    return value if isinstance(value, int) else 0


def _texts(menu: QMenu) -> Iterator[str]:
    for action in menu.actions():
        yield action.text()
        inner = action.menu()
        if isinstance(inner, QMenu):
            yield from _texts(inner)


def _made_of(text: str, known: set[str]) -> bool:
    words = [word.lower() for word in WORD.findall(text)]
    if text.rstrip(" .\u2026") != text and words:  # cut: the last word may be a beginning
        cut = words.pop()
        if not any(word.startswith(cut) for word in known):
            return False
    return all(word in known for word in words)


def rest(seconds: float) -> None:
    loop = QEventLoop()
    QTimer.singleShot(round(seconds * 1000), loop.quit)
    loop.exec()


def until(ready: Callable[[], bool], extra: float = 0.3) -> None:
    """Wait for the window."""
    end = time.monotonic() + 60
    while not ready():
        if time.monotonic() > end:
            raise TimeoutError("the window did not get ready")
        rest(0.05)
    rest(extra)


def card(survey: Survey, name: str) -> Entry:
    entries = survey.workspace.open_libraries.entries()
    return next(e for e in entries if e.name == name and e.character == "Marrow")


def main_window(survey: Survey) -> None:
    """Stage, figure, cards, menus, capture, putting on."""
    window, workspace = survey.window, survey.workspace
    survey.look("main")
    actor = workspace.actor
    assert actor is not None
    workspace.selection.set([actor.rig.control_row["hand_L"]])
    survey.look("selected")
    workspace.selection.clear()
    main_menu(window.home)
    survey.menus("menu")
    project_menu(window.home)
    survey.menus("project menu")
    member_menu(window.home, actor, QPoint(10, 10))
    survey.menus("member menu")
    workspace.capturing.ask()
    rest(0.3)
    survey.look("capture")
    QTest.keyClick(window, Qt.Key.Key_Escape)
    workspace.applying.put_on(card(survey, "Fist"))
    until(lambda: workspace.mix is not None)
    survey.look("putting on")
    workspace.applying.add(card(survey, "Relaxed"))
    survey.look("mixing")
    workspace.put_back()
    window.sheets.side.set_shown(True)
    window.sheets.open_facets(True)
    survey.look("outline and facets")
    window.sheets.open_facets(False)


def screens(survey: Survey) -> None:
    """Every screen that lies over the stage."""
    window, screens = survey.window, survey.window.screens

    def leave(name: str, screen: QWidget) -> None:
        until(lambda: screens.body.currentWidget() is screen, 0.5)
        survey.look(name)
        screens.close()

    screens.show_compare(card(survey, "Glad"), card(survey, "Surprised"))
    leave("compare", screens.compare)
    window.performances.open(demo_performance())
    leave("performance", screens.performance)
    screens.show_charts()
    until(lambda: len(screens.charts.boards) > 0)
    leave("charts", screens.charts)
    window.home.drawings.open(shipped() / "drawings" / "ticket")
    until(lambda: screens.assemble.assembly is not None and screens.assemble.isVisible())
    screens.assemble.choose("Left arm")
    leave("assemble", screens.assemble)
    place = survey.workspace.open_libraries.places[0]
    screens.show_care(place)
    until(lambda: screens.care.report.total > 0)
    leave("care", screens.care)
    screens.show_pairs()
    leave("pairs", screens.pairs)
    screens.show_fit(card(survey, "Wave"))
    leave("fit", screens.fit)
    screens.show_preferences()
    for number in range(screens.preferences.stack.count()):
        screens.preferences.stack.setCurrentIndex(number)
        survey.look(f"preferences {number + 1}")
    screens.close()
    window.start_work.show()
    survey.look("start")
    screens.close()


def over_the_window(survey: Survey) -> None:
    """Sheets and lists that float, then a shot with its strip."""
    window, workspace = survey.window, survey.workspace
    show_keys(window.home)
    rest(0.2)
    for sheet in [x for x in QApplication.topLevelWidgets() if isinstance(x, QDialog)]:
        survey.look("keys", sheet)
        sheet.close()
    window.actions_table["jobs"].run()
    survey.look("jobs")
    window.actions_table["finder"].run()
    finder = window.findChildren(Finder)[-1]
    survey.look("finder", finder)
    finder.close()
    window.notice.hide()
    window.shot_opener.open_demo()
    until(lambda: workspace.shots.path is not None and len(workspace.cast) == 1, 1.0)
    window.notice.hide()
    survey.look("shot")
    workspace.go(66.0)
    workspace.applying.put_on(card(survey, "Double blink"))
    until(lambda: workspace.placements.now is not None)
    survey.look("clip")
    workspace.put_back()


def main() -> None:
    """Walk, and print."""
    application = QApplication([])
    speak(application)
    with (
        tempfile.TemporaryDirectory() as home,
        assembled(Places.under(Path(home) / "user")) as window,
    ):
        window.resize(1280, 800)
        window.opener.open_crew()
        entries = window.workspace.open_libraries.entries
        until(lambda: len(window.workspace.cast) == 2 and len(list(entries())) > 10, 1.0)
        survey = Survey(window)
        survey.watch_painters()
        for part in (main_window, screens, over_the_window):
            part(survey)
        print(json.dumps({"plain": survey.plain(), "cut": survey.cut}))  # noqa: T201


if __name__ == "__main__":
    main()
