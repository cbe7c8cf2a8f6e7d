"""Every key and what the pointer does, on one sheet."""

from __future__ import annotations

from collections.abc import Mapping

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
from fox_hand.ui.widgets.key_map import KeyMap

# what the pointer does, and lines that are about pointer and keys together
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
    ("Keys on the stage", ()),
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
            ("Drag; with Ctrl", "into another sheet; a copy"),
        ),
    ),
    (
        "Strip",
        (
            ("Pull along the ruler", "look at frames"),
            ("Drag a chip, its right edge", "move, hold"),
            ("Shift+click, marquee, brackets", "pick several, stretch them"),
            ("Double click on the ruler", "mark a frame"),
        ),
    ),
    (
        "Fit a performance",
        (
            ("Drag a bar's end", "when the foot stands"),
            ("Double click", "it stands there, too"),
            ("Space, Enter", "play; lay it in"),
        ),
    ),
    (
        "Frames of a performance",
        (
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
    """A calm table; Esc closes it.

    Args:
        theme: colours and type.
        parent: the window.
        table: its commands.
        local: keys of one part only, by the group they stand in.
    """

    def __init__(
        self, theme: Theme, parent: QWidget, table: Actions, local: Mapping[str, KeyMap]
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys and pointer")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        columns = QHBoxLayout()
        columns.setSpacing(32)
        for half in (GROUPS[:2] + GROUPS[6:], GROUPS[2:6]):
            grid = QGridLayout()
            grid.setHorizontalSpacing(16)
            grid.setVerticalSpacing(6)
            row = 0
            for title, lines in half:
                head = Words(title)
                head.setProperty("role", "title")
                grid.addWidget(head, row, 0, 1, 2)
                row += 1
                here = local[title].lines() if title in local else []
                for keys, meaning in (*lines, *here, *_from_table(table, title)):
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
