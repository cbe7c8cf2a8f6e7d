"""Which key means which command: found, changed, cleared of clashes, taken from a file."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from fox_hand.base.key_words import key_words
from fox_hand.base.language import tr
from fox_hand.session.preferences.preferences import Preferences
from fox_hand.ui.commands.actions import Actions, Command
from fox_hand.ui.commands.own_keys import has_key
from fox_hand.ui.screens.preferences.key_editor import KeyEditor, KeyField
from fox_hand.ui.screens.preferences.key_list import KEY, ROW, KeyList
from fox_hand.ui.screens.preferences.key_rows import KeyFilter, rows_of, words_of
from fox_hand.ui.screens.preferences.page import thin_line
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Segments
from fox_hand.ui.widgets.fields.completing import clearable
from fox_hand.ui.widgets.key_map import KeyMap
from fox_hand.ui.widgets.sign import SearchSign

FILTERS = (
    (KeyFilter.ALL, tr("All")),
    (KeyFilter.CHANGED, tr("Changed")),
    (KeyFilter.NONE, tr("No key")),
)
HINT = tr("Click a key, then press another. Esc leaves it, Backspace takes it away.")
DESKTOP = {"Alt+Tab", "Alt+F4", "Ctrl+Alt+Del", "Alt+Space", "Ctrl+Alt+L", "Meta"}


class KeysPage(QWidget):
    """Everything is made from the table of commands; what is chosen is a preference."""

    told = Signal(str)
    export_asked = Signal()
    import_asked = Signal()

    def __init__(self, theme: Theme, preferences: Preferences) -> None:
        super().__init__()
        self._preferences = preferences
        self._table: Actions | None = None
        self._parts: Mapping[str, KeyMap] = {}
        self._clash: tuple[int, str, Command] | None = None
        self._title, self._count = Words(tr("Keys")), Words("")
        self._title.setProperty("role", "title")
        self._count.setProperty("quiet", True)
        self.export_button = Button(theme, tr("Export"), icon="download")
        self.import_button = Button(theme, tr("Import"), icon="upload")
        self.export_button.clicked.connect(self.export_asked)
        self.import_button.clicked.connect(self.import_asked)
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("Find a command"))
        self.search.setAccessibleName(tr("Find a command by its words"))
        self.search.setFixedSize(216, 28)
        clearable(self.search)
        SearchSign(self.search, theme)
        self.by_key = KeyField(tr("Find a command by its key"))
        self.by_key.setPlaceholderText(tr("or press a key"))
        self.by_key.setFixedWidth(144)
        self.filters = Segments(
            theme, [(f.value, word) for f, word in FILTERS], tr("Which commands")
        )
        self.list = KeyList(theme)
        self.editor = KeyEditor(theme)
        self.editor.setParent(self.list.viewport())
        self.editor.hide()
        self.back_button = Button(theme, tr("All back to ours"), icon="rotate-ccw")
        self._arrange()
        self._connect()

    def _arrange(self) -> None:
        top, finding, foot = QHBoxLayout(), QHBoxLayout(), QHBoxLayout()
        for line in (top, finding, foot):
            line.setContentsMargins(12, 8, 12, 8)
            line.setSpacing(8)
        for widget in (self._title, self._count):
            top.addWidget(widget)
        top.addStretch(1)
        top.addWidget(self.export_button)
        top.addWidget(self.import_button)
        for found in (self.search, self.by_key, self.filters):
            finding.addWidget(found)
        finding.addStretch(1)
        hint = Words(HINT)
        hint.setProperty("quiet", True)
        foot.addWidget(hint, 1)
        foot.addWidget(self.back_button)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(top)
        column.addWidget(thin_line())
        column.addLayout(finding)
        column.addWidget(self.list, 1)
        column.addWidget(thin_line())
        column.addLayout(foot)

    def _connect(self) -> None:
        self.search.textChanged.connect(self._find)
        self.by_key.pressed.connect(self._find_key)
        self.by_key.left.connect(lambda: self._find_key(""))
        self.filters.chosen.connect(self._choose_filter)
        self.list.opened.connect(self.open)
        self.list.back_asked.connect(self._back)
        self.list.none_asked.connect(self._none)
        self.list.verticalScrollBar().valueChanged.connect(lambda _: self._place())
        self.editor.chosen.connect(self._take)
        self.editor.swap_asked.connect(self._swap)
        self.editor.take_asked.connect(self._take_from)
        self.editor.left.connect(self.close_editor)
        self.back_button.clicked.connect(lambda: self._set({}))
        self._preferences.changed.connect(self._on_changed)

    # -- showing --------------------------------------------------------------------------

    def show_table(self, table: Actions, parts: Mapping[str, KeyMap]) -> None:
        """The commands there are, and the keys that parts of the window have for themselves."""
        self._table, self._parts = table, parts
        self.refresh()

    def refresh(self) -> None:
        """Everything as it is now."""
        if self._table is None:
            return
        listed = [c.name for c in self._table.shipped if c.listed]
        now = [self._table[name] for name in listed]
        shipped = [c for c in self._table.shipped if c.listed]
        changed = sum(a.keys != b.keys for a, b in zip(now, shipped, strict=True))
        self._count.setText(
            tr("{count} commands, {changed} changed by you", count=len(now), changed=changed)
        )
        self.back_button.setEnabled(changed > 0)
        rows = rows_of(
            now, shipped, self.search.text(), self.by_key.key, KeyFilter(self.filters.value)
        )
        self.list.show_rows(rows)
        self._hide_editor()

    def _on_changed(self, name: str) -> None:
        if name == "keys":
            QTimer.singleShot(0, self.refresh)  # the table takes them first

    def _find(self) -> None:
        self.refresh()

    def _find_key(self, key: str) -> None:
        self.by_key.show_key(key)
        self.refresh()

    def _choose_filter(self, value: str) -> None:
        self.filters.set_value(value)
        self.refresh()

    # -- one row --------------------------------------------------------------------------

    def open(self, row: int) -> None:
        """Let a command take another key."""
        command = self.list.rows[row].command
        if command is None:
            return
        self._clash = None
        self.editor.show_command(command, round(self.list.viewport().width() * KEY))
        self.editor.show()
        self._show_open(row)
        self.editor.fields[0].setFocus(Qt.FocusReason.OtherFocusReason)

    def _show_open(self, row: int) -> None:
        """As high as what lies over it, and in sight."""
        self.list.show_rows(self.list.rows, row, ROW + self.editor.wanted_height)
        self.list.scrollTo(self.list.model().index(row, 0))
        self._place()

    def close_editor(self) -> None:
        """Leave it as it is."""
        row = self.list.open_row
        self._hide_editor()
        self.list.show_rows(self.list.rows)
        self.list.setFocus(Qt.FocusReason.OtherFocusReason)
        self.list.go_to(row, quietly=True)

    def _hide_editor(self) -> None:
        self._clash = None
        self.editor.hide()

    def _place(self) -> None:
        row = self.list.open_row
        if row >= 0:
            place = self.list.rect_of(row)
            self.editor.setGeometry(
                2, place.top() + ROW, place.width() - 4, self.editor.wanted_height
            )

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self._place)

    @property
    def _command(self) -> Command | None:
        row = self.list.open_row
        return self.list.rows[row].command if 0 <= row < len(self.list.rows) else None

    def _take(self, number: int, key: str) -> None:
        command = self._command
        if command is None or self._table is None:
            return
        other = has_key(self._table, key, command) if key else None
        if other is not None:
            self._clash = number, key, other
            self.editor.show_clash(number, key, other)
            self._show_open(self.list.open_row)
            return
        if key in DESKTOP:
            self.told.emit(
                tr("{key} may be taken by the desktop before it gets here.", key=key_words(key))
            )
        own = [part for part, keys in self._parts.items() if keys.has(key)]
        if own:
            self.told.emit(
                tr(
                    "{key} has a meaning of its own in: {names}.",
                    key=key_words(key),
                    names=", ".join(own),
                )
            )
        self._set({**self._own(), command.name: _with(command.keys, number, key)})

    def _swap(self) -> None:
        command, clash = self._command, self._clash
        if command is None or clash is None:
            return
        number, key, other = clash
        had = command.keys[number] if number < len(command.keys) else ""
        theirs = [had if k == key else k for k in other.keys]
        mine = _with(command.keys, number, key)
        self._set({**self._own(), command.name: mine, other.name: [k for k in theirs if k]})

    def _take_from(self) -> None:
        command, clash = self._command, self._clash
        if command is None or clash is None:
            return
        number, key, other = clash
        mine = _with(command.keys, number, key)
        left = [k for k in other.keys if k != key]
        self._set({**self._own(), command.name: mine, other.name: left})

    def _none(self, row: int) -> None:
        """A command has no key any more."""
        command = self.list.rows[row].command
        if command is not None:
            self._set({**self._own(), command.name: []})

    def _back(self, row: int) -> None:
        """A command takes the keys it came with, from whoever has them now."""
        one = self.list.rows[row]
        if one.command is None or self._table is None:
            return
        own = self._own()
        own.pop(one.command.name, None)
        for key in one.shipped:
            other = has_key(self._table, key, one.command)
            if other is not None:
                own[other.name] = [k for k in other.keys if k != key]
                self.told.emit(
                    tr(
                        "{key} was {words_of}, which has no such key now.",
                        key=key_words(key),
                        words_of=words_of(other),
                    )
                )
        self._set(own)

    # -- keeping --------------------------------------------------------------------------

    def _own(self) -> dict[str, list[str]]:
        return dict(self._preferences["keys"])

    def _set(self, own: Mapping[str, Sequence[str]]) -> None:
        """Only what differs from ours is kept."""
        assert self._table is not None
        shipped = {c.name: list(c.keys) for c in self._table.shipped}
        kept = {n: list(k) for n, k in own.items() if shipped.get(n) != list(k)}
        self._preferences.set("keys", kept)


def _with(keys: Sequence[str], number: int, key: str) -> list[str]:
    """Keys of a command with one of them exchanged; an empty one is taken away."""
    found = list(keys)
    found[number : number + 1] = [key] if key else []
    return list(dict.fromkeys(found))
