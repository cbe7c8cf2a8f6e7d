"""Every key and what the pointer does, on one sheet."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from fox_hand.ui.commands.actions import Actions
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind

# what the pointer does, and keys that count in one part of the window only
GROUPS: tuple[tuple[str, tuple[tuple[str, str], ...]], ...] = (
    (
        "Stage",
        (
            ("Click a handle", "select; Shift adds or takes away"),
            ("Double click", "with everything below it"),
            ("Drag a handle", "turn freely"),
            ("Drag a grip of the dial", "turn about one own axis"),
            ("Drag a goal, a pole, an arrow", "move; along one axis"),
            ("Alt+click", "the handle behind"),
            ("Drag on the ground", "select what lies inside"),
            ("Right drag, Space and drag", "look around"),
            ("Middle drag, Shift and right drag", "move the picture"),
            ("Wheel", "nearer, farther"),
        ),
    ),
    (
        "Keys on the stage",
        (
            ("[ and ]", "control before, after"),
            ("Up, Down", "bend by 5°; Shift by 1°"),
            ("Left, Right", "sway"),
            ("Page Up, Page Down", "twist"),
        ),
    ),
    (
        "Cards",
        (
            ("Click, Enter", "put on at 100 %"),
            ("Ctrl+click, Ctrl+Enter", "add to what is on, take out of it"),
            ("Rest on a card, hold V", "look at it on the figure"),
            ("1 … 9, with Ctrl, with Alt", "card at hand; lay it there; the last ones"),
            ("Drag, wheel, arrows on the ruler", "how much, -50 to 150 %"),
            ("Enter", "keep it: one undo step"),
            ("Esc", "put back what was before"),
            ("Just type", "find"),
            ("Space, Shift+click, Shift+arrows", "tick cards"),
            ("Ctrl+A in the sheets", "tick all that are shown"),
            ("Drag; with Ctrl", "into another sheet; a copy"),
            ("F2, Ctrl+D, Del", "rename, duplicate, take out"),
            ("*", "favourite"),
            ("Ctrl+C, Ctrl+V", "card files, out and in"),
        ),
    ),
    (
        "Strip",
        (
            ("Pull along the ruler", "look at frames"),
            ("Space on the strip", "play, stop"),
            ("Drag a chip, its right edge", "move, hold"),
            ("Shift+click, marquee, brackets", "pick several, stretch them"),
            ("Ctrl+C, Ctrl+V, Del", "copy, paste here, delete"),
            ("Double click on the ruler", "mark a frame"),
        ),
    ),
    (
        "Frames of a performance",
        (
            ("Pull along the strip, Left, Right", "look at a frame"),
            ("Up, Down", "the mark before, after"),
            ("M, double click", "mark it, or take the mark away"),
            ("C", "take it, or all that are marked"),
        ),
    ),
    (
        "Everywhere",
        (),
    ),
)


class ShortcutsSheet(QDialog):
    """A calm table; Esc closes it. Commands come from the table of commands."""

    def __init__(self, theme: Theme, parent: QWidget, table: Actions) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys and pointer")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        columns = QHBoxLayout()
        columns.setSpacing(32)
        for half in (GROUPS[:2] + GROUPS[5:], GROUPS[2:5]):
            grid = QGridLayout()
            grid.setHorizontalSpacing(16)
            grid.setVerticalSpacing(6)
            row = 0
            for title, lines in half:
                head = Words(title)
                head.setProperty("role", "title")
                grid.addWidget(head, row, 0, 1, 2)
                row += 1
                for keys, meaning in (*lines, *_from_table(table, title)):
                    grid.addWidget(Words(keys), row, 0)
                    what = Words(meaning)
                    what.setProperty("quiet", True)
                    grid.addWidget(what, row, 1)
                    row += 1
                grid.setRowMinimumHeight(row, 8)
                row += 1
            grid.setRowStretch(row, 1)
            columns.addLayout(grid)
        close = Button(theme, "Close", kind=Kind.PLAIN, key="Esc")
        close.clicked.connect(self.accept)
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(close)
        inside = QWidget()
        inside.setLayout(columns)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(inside)
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 20, 16, 16)
        column.setSpacing(12)
        column.addWidget(scroll, 1)
        column.addLayout(foot)
        room = parent.size()
        self.resize(
            min(inside.sizeHint().width() + 64, room.width() - 32),
            min(inside.sizeHint().height() + 96, room.height() - 32),
        )


def _from_table(table: Actions, group: str) -> list[tuple[str, str]]:
    """Keys and what they do, as the other lines are written."""
    found = []
    for command in table.in_group(group):
        words = command.words.removesuffix(" …")
        found.append((", ".join(command.keys), words[:1].lower() + words[1:]))
    return found
