"""First and last frame of the shot."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QLineEdit, QWidget

from fox_hand.base.language import tr
from fox_hand.session.app.shot_settings import ShotSettings
from fox_hand.session.figures.playhead import LONGEST, Playhead
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.fields.typed_numbers import bent, typed_number
from fox_hand.ui.widgets.popup import Popup


class RangePopup(Popup):
    """Two numbers; they count at once."""

    done = Signal()
    told = Signal(str)

    def __init__(
        self, theme: Theme, parent: QWidget, timing: Playhead, shot_settings: ShotSettings
    ) -> None:
        super().__init__(parent, 208)
        self._timing, self._shot_settings = timing, shot_settings
        self.first, self.last = QLineEdit(str(timing.first)), QLineEdit(str(timing.last))
        self.field = self.last
        grid = QGridLayout(self)
        grid.setContentsMargins(12, 8, 12, 12)
        grid.setSpacing(8)
        title = Words(tr("Frames of the shot"))
        title.setProperty("role", "title")
        grid.addWidget(title, 0, 0, 1, 2)
        for line, (word, field) in enumerate(
            ((tr("First"), self.first), (tr("Last"), self.last)), 1
        ):
            field.setAccessibleName(tr("{word} frame", word=word))
            field.setFixedHeight(26)
            field.editingFinished.connect(self._changed)
            field.returnPressed.connect(self._close)
            grid.addWidget(Words(word), line, 0)
            grid.addWidget(field, line, 1)
        close = Button(theme, tr("Done"), kind=Kind.PLAIN, key="Enter")
        close.clicked.connect(self._close)
        grid.addWidget(close, 3, 1)

    def _changed(self) -> None:
        timing = self._timing
        typed = typed_number(self.first.text()), typed_number(self.last.text())
        first = timing.first if typed[0] is None else round(typed[0])
        last = timing.last if typed[1] is None else round(typed[1])
        self._shot_settings.set_range(first, last)
        words = bent(tr("The first frame"), first, 0, LONGEST - 1)
        words = words or bent(tr("The last frame"), last, timing.first + 1, LONGEST)
        self.first.setText(str(timing.first))
        self.last.setText(str(timing.last))
        if words:
            self.told.emit(words)

    def _close(self) -> None:
        self._changed()
        self.close()
        self.done.emit()
