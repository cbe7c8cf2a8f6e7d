"""Renaming controls in many cards at once, seen before it is done."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr, tr_n
from fox_hand.core.matching.name_match import Rule, Rules
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Tick
from fox_hand.ui.widgets.fields.completing import clearable
from fox_hand.ui.widgets.popup import Popup

WIDTH, SHOWN = 380, 6


class RenamePopup(Popup):
    """What is looked for, what takes its place, and which names change.

    Args:
        names: of the controls of each card.
    """

    field: QLineEdit
    done = Signal(object)  # Rules

    def __init__(self, theme: Theme, parent: QWidget, names: Sequence[Sequence[str]]) -> None:
        super().__init__(parent, WIDTH)
        self._theme, self._names = theme, names
        title = Words(
            tr(
                "Rename controls in {counted}",
                counted=tr_n("{number:,} card", "{number:,} cards", len(names)),
            )
        )
        title.setProperty("role", "title")
        self.field, self.put = QLineEdit(), QLineEdit()
        clearable(self.field, self.put)
        for field, name in ((self.field, tr("look for")), (self.put, tr("put instead"))):
            field.setPlaceholderText(name)
            field.setAccessibleName(name.capitalize())
            field.setFixedHeight(28)
            field.textChanged.connect(self._show_names)
            field.returnPressed.connect(self._finish)
        self.any_case, self.pattern = Tick(theme, tr("any case")), Tick(theme, tr("pattern"))
        for tick in (self.any_case, self.pattern):
            tick.toggled.connect(self._show_names)
        self.preview = Words("")
        self.preview.setTextFormat(Qt.TextFormat.PlainText)
        self.preview.setWordWrap(True)
        self.preview.setMinimumHeight(18 * (SHOWN + 1))
        self.preview.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.button = Button(theme, tr("Rename"), kind=Kind.MAIN, key="Enter")
        self.button.clicked.connect(self._finish)
        fields, foot = QHBoxLayout(), QHBoxLayout()
        fields.setSpacing(8)
        for widget in (self.field, Words(tr("to")), self.put):
            fields.addWidget(widget)
        foot.setSpacing(12)
        foot.addWidget(self.any_case)
        foot.addWidget(self.pattern)
        foot.addStretch(1)
        foot.addWidget(self.button)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 12)
        column.setSpacing(8)
        column.addWidget(title)
        column.addLayout(fields)
        column.addWidget(self.preview)
        column.addLayout(foot)
        self._show_names()

    @property
    def rules(self) -> Rules:
        """What was typed."""
        rule = Rule(self.field.text(), self.put.text(), self.pattern.isChecked())
        return Rules((rule,) if rule.find else (), self.any_case.isChecked())

    def _changes(self) -> dict[str, str]:
        """Names before and after, of those that change."""
        rules = self.rules
        known = dict.fromkeys(name for names in self._names for name in names)
        found = {name: rules.applied(name) for name in known}
        return {name: after for name, after in found.items() if after != name}

    def _show_names(self) -> None:
        try:
            changes = self._changes()
        except FoxHandError as error:
            self.preview.setText(error.sentence())
            self.button.setEnabled(False)
            return
        cards = sum(1 for names in self._names if any(n in changes for n in names))
        lines = [
            tr("{before} to {after}", before=before, after=after)
            for before, after in list(changes.items())[:SHOWN]
        ]
        if len(changes) > SHOWN:
            lines.append(tr("and {count} more", count=len(changes) - SHOWN))
        nothing = tr("No name changes yet.") if self.field.text() else tr("Type a part of a name.")
        self.preview.setText("\n".join(lines) or nothing)
        self.button.setText(tr("Rename in {cards}", cards=cards) if cards else tr("Rename"))
        self.button.updateGeometry()
        self.button.setEnabled(bool(changes))

    def _finish(self) -> None:
        if self.button.isEnabled():
            self.done.emit(self.rules)
            self.close()
