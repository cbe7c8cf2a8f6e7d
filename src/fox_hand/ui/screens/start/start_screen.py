"""What a day begins with: the last shot large, others beside it, something new below."""

from __future__ import annotations

import datetime
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QStackedWidget, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.session.shots.recent import RecentShot, day_words
from fox_hand.ui.screens.start.first_start import FirstStart
from fox_hand.ui.screens.start.last_shot import LastShot
from fox_hand.ui.screens.start.recent_list import RecentList, short_place
from fox_hand.ui.screens.start.start_tile import StartTile
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Tick
from fox_hand.ui.widgets.fields.completing import clearable
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.sign import SearchSign

SIDE = 48  # pixels beside everything


class StartScreen(QWidget):
    """Has the whole window; what is chosen is opened by whoever hears of it."""

    opened = Signal(object)  # Path of a shot
    find_asked = Signal(object)  # RecentShot whose file is gone
    forgotten = Signal(object)  # Path of a shot
    demo_asked = Signal()
    open_asked = Signal()
    new_asked = Signal()
    skipped = Signal(bool)
    help_asked = Signal()
    menu_asked = Signal()

    def __init__(self, theme: Theme, mark: QWidget, version: str, settings_place: str) -> None:
        super().__init__()
        self._theme, self._shots = theme, dict[Path, RecentShot]()
        self.last = LastShot(theme)
        self.list = RecentList(theme)
        self.first = FirstStart(theme)
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("Find a project or shot"))
        self.search.setAccessibleName(tr("Find a project or shot"))
        self.search.setFixedSize(184, 28)
        clearable(self.search)
        SearchSign(self.search, theme)
        self.help_button = Button(
            theme, icon="circle-question-mark", kind=Kind.FLAT, tip=tr("Manual")
        )
        self.menu_button = Button(theme, icon="menu", kind=Kind.FLAT, tip=tr("Menu"))
        self.skip = Tick(theme, tr("Skip this and open the last shot next time"))
        self.tiles = (
            StartTile(
                theme,
                "folder-plus",
                tr("A new project"),
                tr("An empty folder with a library in it. Any glTF figure can join the cast."),
                tr("Make one"),
            ),
            StartTile(
                theme,
                "folder-open",
                tr("Open a project"),
                tr("Or drop its folder anywhere on this window."),
                tr("Choose"),
            ),
            StartTile(
                theme,
                "ship",
                tr("The demo"),
                tr("Five figures, their cards and four shots to break without harm."),
                tr("Look around"),
            ),
        )
        self.pages = QStackedWidget()
        self.keys = KeyMap([LocalKey(ENTER, self._enter)])
        self._when = Words()
        self._foot = Words(
            tr(
                "Version {version}, settings in {settings_place}",
                version=version,
                settings_place=settings_place,
            )
        )
        self._arrange(mark)
        self._connect()

    def _arrange(self, mark: QWidget) -> None:
        name, hint = Words(tr("Fox Hand")), Words(tr("pick up where you were"))
        name.setProperty("role", "screen")
        hint.setProperty("quiet", True)
        head = QWidget()
        head.setFixedHeight(44)
        head.setProperty("plate", "above")
        head.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        top = QHBoxLayout(head)
        top.setContentsMargins(12, 0, 8, 0)
        top.setSpacing(8)
        for widget in (mark, name, hint):
            top.addWidget(widget)
        top.addStretch(1)
        top.addWidget(self.help_button)
        top.addWidget(self.menu_button)
        self.pages.addWidget(self._later())
        self.pages.addWidget(self.first)
        self._foot.setProperty("quiet", True)
        foot = QHBoxLayout()
        foot.addWidget(self._foot, 1)
        foot.addWidget(self.skip)
        inside = QVBoxLayout()
        inside.setContentsMargins(SIDE, 20, SIDE, 12)
        inside.setSpacing(16)
        inside.addWidget(self.pages, 1)
        inside.addLayout(foot)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(head)
        column.addLayout(inside, 1)

    def _later(self) -> QWidget:
        page = QWidget()
        left, right, tiles = QVBoxLayout(), QVBoxLayout(), QHBoxLayout()
        title, before = Words(tr("Last on your desk")), Words(tr("Before that"))
        for words in (title, before):
            words.setProperty("role", "screen")
        self._when.setProperty("quiet", True)
        first, second = QHBoxLayout(), QHBoxLayout()
        first.setSpacing(8)
        first.addWidget(title)
        first.addWidget(self._when, 1)
        second.addWidget(before, 1)
        second.addWidget(self.search)
        for column, line, widget in ((left, first, self.last), (right, second, self.list)):
            column.setSpacing(8)
            line.setContentsMargins(0, 0, 0, 0)
            holder = QWidget()
            holder.setFixedHeight(28)
            holder.setLayout(line)
            column.addWidget(holder)
            column.addWidget(widget, 1)
        both = QHBoxLayout()
        both.setSpacing(24)
        both.addLayout(left, 1)
        both.addLayout(right, 1)
        tiles.setSpacing(16)
        for tile in self.tiles:
            tiles.addWidget(tile, 1)
        whole = QVBoxLayout(page)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(32)
        whole.addLayout(both, 1)
        whole.addLayout(tiles)
        return page

    def _connect(self) -> None:
        new, choose, demo = self.tiles
        for asks, signal in (
            (new.chosen, self.new_asked),
            (choose.chosen, self.open_asked),
            (demo.chosen, self.demo_asked),
            (self.first.new_asked, self.new_asked),
            (self.first.open_asked, self.open_asked),
            (self.first.demo_asked, self.demo_asked),
            (self.help_button.clicked, self.help_asked),
            (self.menu_button.clicked, self.menu_asked),
        ):
            asks.connect(signal)
        self.last.go_on.connect(self.go_on)
        self.list.opened.connect(lambda shot: self.opened.emit(shot.path))
        self.list.find_asked.connect(self.find_asked)
        self.list.forget_asked.connect(self._forget)
        self.search.textChanged.connect(self._show)
        self.skip.toggled.connect(self.skipped)

    # -- showing --------------------------------------------------------------------------

    def begin(self, known: list[RecentShot], *, skips: bool) -> None:
        """Open it with what is known at once; answers follow with :meth:`came`.

        Args:
            known: shots, the last one first; none at a first start.
            skips: whether starts go on without it.
        """
        self._shots = {shot.path: shot for shot in known}
        self.skip.blockSignals(True)
        self.skip.setChecked(skips)
        self.skip.blockSignals(False)
        self.search.clear()
        self.pages.setCurrentIndex(0 if known else 1)
        self.skip.setVisible(bool(known))
        self._show()
        (self.last.button if known else self.first.demo).setFocus(Qt.FocusReason.OtherFocusReason)

    def _forget(self, shot: RecentShot) -> None:
        self._shots.pop(shot.path, None)
        self.forgotten.emit(shot.path)
        self._show()

    def came(self, shot: RecentShot) -> None:
        """A place has answered."""
        if shot.path in self._shots:
            self._shots[shot.path] = shot
            self._show()

    def go_on(self) -> None:
        """With the last shot, or with the demo where there is none."""
        shot = next(iter(self._shots.values()), None)
        if shot is None:
            self.demo_asked.emit()
        elif self.last.asks_for_file(shot):
            self.find_asked.emit(shot)
        else:
            self.opened.emit(shot.path)

    def _enter(self) -> None:
        """The button with the keyboard, else the large one."""
        focused = self.focusWidget()
        if isinstance(focused, Button) and focused is not self.last.button:
            focused.click()
        else:
            self.go_on()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def _show(self) -> None:
        shots = list(self._shots.values())
        if not shots:
            return
        last, text = shots[0], self.search.text().strip().lower()
        image = QImage() if last.picture is None else QImage(str(last.picture))
        self.last.show_shot(last, image)
        now = datetime.datetime.now().astimezone()
        self._when.setText(day_words(last.when, now) if last.when is not None else "")
        self.list.show_shots(found(shots, text) if text else shots[1:])


def found(shots: list[RecentShot], text: str) -> list[RecentShot]:
    """Shots whose words hold a text, and further shots of their projects."""
    rows = {shot.path: shot for shot in shots}
    for shot in shots:
        for other in shot.others:
            beside = replace(
                shot, path=other, said=tr("another shot of this project"), when=None, picture=None
            )
            rows.setdefault(other, beside)
    return [
        shot
        for shot in rows.values()
        if all(
            w in f"{shot.name} {shot.said} {short_place(shot.path)}".lower() for w in text.split()
        )
    ]
