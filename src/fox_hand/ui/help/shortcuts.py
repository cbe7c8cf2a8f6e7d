"""Every key and what the pointer does, on one sheet."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from fox_hand.base.key_words import key_words, keys_in_words
from fox_hand.base.language import tr, within
from fox_hand.ui.commands.actions import Actions
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.key_map import KeyMap

SIDE, LEAST, MOST = 20, 280, 4  # pixels beside a column and of it; how many there are
KEYS = 0.44  # of a column for the keys

# what the pointer does, and lines that are about pointer and keys together
GROUPS: tuple[tuple[str, tuple[tuple[str, str], ...]], ...] = (
    (
        tr("Stage"),
        (
            (tr("Click a handle"), tr("select; Shift adds or takes away")),
            (tr("Double click"), tr("with everything below it")),
            (tr("Drag a handle"), tr("turn freely")),
            (tr("Drag a grip of the dial"), tr("turn about one own axis")),
            (tr("Drag a goal, a pole, an arrow"), tr("move; along one axis")),
            (tr("Alt+click"), tr("the handle behind")),
            (tr("Drag on the ground"), tr("select what lies inside")),
            (tr("Right drag, Space and drag"), tr("look around")),
            (tr("Middle drag, Shift and right drag"), tr("move the picture")),
            (tr("Wheel"), tr("nearer, farther")),
        ),
    ),
    (tr("Keys on the stage"), ()),
    (
        tr("Cards"),
        (
            (tr("Click, Enter"), tr("put on at 100 %")),
            (tr("Ctrl+click, Ctrl+Enter"), tr("add to what is on, take out of it")),
            (tr("Rest on a card, hold V"), tr("look at it on the figure")),
            (tr("1 … 9, with Ctrl, with Alt"), tr("card at hand; lay it there; the last ones")),
            (tr("Drag, wheel, arrows on the ruler"), tr("how much, -50 to 150 %")),
            ("Enter", tr("keep it: one undo step")),
            ("Esc", tr("put back what was before")),
            (tr("Just type"), tr("find")),
            (tr("Space, Shift+click, Shift+arrows"), tr("tick cards")),
            (tr("Drag; with Ctrl"), tr("into another sheet; a copy")),
        ),
    ),
    (
        tr("Strip"),
        (
            (tr("Pull along the ruler"), tr("look at frames")),
            (tr("Drag a chip, its right edge"), tr("move, hold")),
            (tr("Shift+click, marquee, brackets"), tr("pick several, stretch them")),
            (tr("Double click on the ruler"), tr("mark a frame")),
        ),
    ),
    (
        tr("Fit a performance"),
        (
            (tr("Drag a bar's end"), tr("when the foot stands")),
            (tr("Double click"), tr("it stands there, too")),
            (tr("Space, Enter"), tr("play; lay it in")),
        ),
    ),
    (
        tr("Frames of a performance"),
        (
            (tr("M, double click"), tr("mark it, or take the mark away")),
            ("C", tr("take it, or all that are marked")),
        ),
    ),
    (
        tr("Everywhere"),
        (),
    ),
)


class ShortcutsSheet(QDialog):
    """A calm table in columns that fill what room there is; Esc closes it.

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
        self.setWindowTitle(tr("Keys and pointer"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        room = parent.size()
        width, height = room.width() - 32, room.height() - 32
        count = max(min((width - 2 * SIDE) // LEAST, MOST), 1)
        lines = lines_of(table, local)
        columns = QHBoxLayout()
        columns.setSpacing(SIDE)
        for part in in_columns(lines, count):
            columns.addLayout(_column(part, (width - (count + 1) * SIDE - 16) // count), 1)
        close = Button(theme, tr("Close"), kind=Kind.PLAIN, key="Esc")
        close.clicked.connect(self.accept)
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(close)
        inside = QWidget()
        inside.setLayout(columns)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setWidget(inside)
        column = QVBoxLayout(self)
        column.setContentsMargins(SIDE, 12, SIDE, 12)
        column.setSpacing(8)
        column.addWidget(self.area, 1)
        column.addLayout(foot)
        self.resize(width, height)


@dataclass(frozen=True)
class KeyLine:
    """A line of the sheet: a heading, or keys and what they do.

    Args:
        keys: or the words of a heading.
        meaning: what they do; None for a heading.
    """

    keys: str
    meaning: str | None = None


def lines_of(table: Actions, local: Mapping[str, KeyMap]) -> list[KeyLine]:
    """Everything that is to be said, group by group; other parts than ours follow."""
    found: list[KeyLine] = []
    ours = dict(GROUPS)
    groups = (command.group for command in table)
    for title in dict.fromkeys((*ours, *local, *groups)):
        here = local[title].lines() if title in local else []
        said = (*ours.get(title, ()), *here, *_from_table(table, title))
        if said:
            found += [KeyLine(title), *(KeyLine(key_words(keys), words) for keys, words in said)]
    return found


def in_columns(lines: list[KeyLine], count: int) -> list[list[KeyLine]]:
    """Lines in columns about as long as one another; no heading ends one."""
    long = -(-len(lines) // count)
    found: list[list[KeyLine]] = [[]]
    for line in lines:
        full = len(found[-1]) >= long - (line.meaning is None)
        if full and len(found) < count:
            found.append([])
        found[-1].append(line)
    return found


def _column(lines: list[KeyLine], width: int) -> QGridLayout:
    grid = QGridLayout()
    grid.setHorizontalSpacing(8)
    grid.setVerticalSpacing(2)
    grid.setColumnStretch(1, 1)
    for row, line in enumerate(lines):
        keys = Words(line.keys)
        keys.setProperty("small", True)
        if line.meaning is None:
            keys.setProperty("role", "heading")
            keys.setContentsMargins(0, 4 if row else 0, 0, 0)
            grid.addWidget(keys, row, 0, 1, 2)
            continue
        what = Words(line.meaning)
        what.setProperty("small", True)
        what.setProperty("quiet", True)
        for label, room in ((keys, KEYS * width), (what, (1 - KEYS) * width - 8)):
            label.setWordWrap(True)
            label.setFixedWidth(int(room))
            label.setAlignment(Qt.AlignmentFlag.AlignTop)
        grid.addWidget(keys, row, 0)
        grid.addWidget(what, row, 1)
    grid.setRowStretch(len(lines), 1)
    return grid


def _from_table(table: Actions, group: str) -> list[tuple[str, str]]:
    """Keys and what they do, as the other lines are written."""
    found = []
    for command in table.in_group(group):
        words = command.words.removesuffix(" …")
        found.append((keys_in_words(command.keys), within(words)))
    return found
