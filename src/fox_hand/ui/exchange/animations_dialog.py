"""Which of a file's animations is brought in, or all of them as cards."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRect, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import QDialog, QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.animation_facts import AnimationFacts
from fox_hand.base.language import tr, tr_n
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.painted_list import PaintedList, PaintedRow

ROW, EDGE, RIGHT = 32, 12, 200


class AnimationList(PaintedList):
    """Name, length and rate of each."""

    chosen = Signal()  # with a second click

    def __init__(self, theme: Theme, facts: Sequence[AnimationFacts]) -> None:
        super().__init__(tr("Animations of the file"))
        self._theme, self._facts = theme, facts
        self.show_painted([PaintedRow(f"{one.name}: {one.words}", ROW) for one in facts], 0)

    def paint_row(self, painter: QPainter, row: int) -> None:
        one, theme, wide = self._facts[row], self._theme, self.viewport().width()
        if row == self.row:
            painter.fillRect(0, 0, wide, ROW, theme.colour("high"))
        elif row == self.over:
            painter.fillRect(0, 0, wide, ROW, theme.colour("raised"))
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(theme.font(13))
        painter.setPen(theme.colour("text"))
        box = QRect(EDGE, 0, wide - 2 * EDGE - RIGHT, ROW)
        short = painter.fontMetrics().elidedText(one.name, Qt.TextElideMode.ElideRight, box.width())
        painter.drawText(box, middle | Qt.AlignmentFlag.AlignLeft, short)
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("quiet" if row != self.row else "text"))
        right = QRect(wide - EDGE - RIGHT, 0, RIGHT, ROW)
        painter.drawText(right, middle | Qt.AlignmentFlag.AlignRight, one.words)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.row_at(event.position().toPoint().y()) >= 0:
            self.chosen.emit()


class AnimationsDialog(QDialog):
    """A list to choose one from; all of them can become cards at once.

    Args:
        theme, parent: as of every dialog.
        file: its name.
        facts: its animations.
        whose: the character they go on.
        why_not: why no cards can be made now; empty if they can.
    """

    one_chosen = Signal(str)  # number from 1, as names may be there twice
    all_chosen = Signal()

    def __init__(
        self,
        theme: Theme,
        parent: QWidget,
        file: str,
        facts: Sequence[AnimationFacts],
        whose: str,
        why_not: str = "",
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Which animation?"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(520, 420)
        title = Words(
            tr(
                "{file} holds {counted}",
                file=file,
                counted=tr_n("{number:,} animation", "{number:,} animations", len(facts)),
            )
        )
        title.setProperty("role", "title")
        words = Words(
            tr(
                "One goes through the Fit screen onto {whose}. All of them become "
                "cards: poses where they are one frame, clips otherwise.",
                whose=whose,
            )
        )
        words.setProperty("quiet", True)
        words.setWordWrap(True)
        self.keys = KeyMap([LocalKey(ENTER, self._choose)])
        self.list = AnimationList(theme, facts)
        self.list.chosen.connect(self._choose)
        cancel = Button(theme, tr("Cancel"), key="Esc")
        cancel.clicked.connect(self.reject)
        self.all = Button(theme, tr("All as cards"))
        self.all.setEnabled(not why_not)
        self.all.setToolTip(why_not or tr("Into a sheet of the library that captures go to"))
        self.all.clicked.connect(self._all)
        self.one = Button(theme, tr("Bring it in"), kind=Kind.MAIN, key="Enter")
        self.one.clicked.connect(self._choose)
        foot = QHBoxLayout()
        foot.setSpacing(8)
        foot.addWidget(self.all)
        foot.addStretch(1)
        foot.addWidget(cancel)
        foot.addWidget(self.one)
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 20, 24, 16)
        column.setSpacing(12)
        column.addWidget(title)
        column.addWidget(words)
        column.addWidget(self.list, 1)
        column.addLayout(foot)
        self.list.setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def _choose(self) -> None:
        row = max(self.list.row, 0)
        self.accept()
        self.one_chosen.emit(str(row + 1))

    def _all(self) -> None:
        self.accept()
        self.all_chosen.emit()
