"""Exchanging parts of names, with what the rules find."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr, tr_n
from fox_hand.core.matching.name_match import MatchSource, Rule, Rules
from fox_hand.session.applying.fit_draft import FitDraft
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Tick
from fox_hand.ui.widgets.fields.completing import clearable

SHOWN = 3  # names of the preview


class FitRules(QWidget):
    """Rules in their order at the left, what they make of the names at the right."""

    changed = Signal(object)  # Rules

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._draft: FitDraft | None = None
        self.fields: list[tuple[QLineEdit, QLineEdit]] = []
        self._hits: list[QLabel] = []
        title, hint = Words(tr("Change names")), Words(tr("in this order, card to character"))
        title.setProperty("role", "title")
        hint.setProperty("quiet", True)
        head = QHBoxLayout()
        head.setSpacing(8)
        head.addWidget(title)
        head.addWidget(hint, 1)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(4)
        self._grid.setColumnStretch(0, 1)
        self._grid.setColumnStretch(2, 1)
        self.add_button = Button(theme, tr("Add a rule"), icon="plus", kind=Kind.FLAT, height=24)
        self.add_button.clicked.connect(self._add)
        self.any_case = Tick(theme, tr("any case"))
        self.pattern = Tick(theme, tr("pattern"))
        self.pattern.setToolTip(tr("What is looked for is a regular expression"))
        for tick in (self.any_case, self.pattern):
            tick.toggled.connect(self._emit)
        foot = QHBoxLayout()
        foot.setSpacing(12)
        foot.addWidget(self.add_button)
        foot.addWidget(self.any_case)
        foot.addWidget(self.pattern)
        foot.addStretch(1)
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addLayout(head)
        left.addLayout(self._grid)
        left.addLayout(foot)
        left.addStretch(1)
        found = Words(tr("What the rules find"))
        found.setProperty("role", "title")
        self.preview = self._preview()
        right = QVBoxLayout()
        right.setSpacing(6)
        right.addWidget(found)
        right.addWidget(self.preview)
        right.addStretch(1)
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 8, 12, 8)
        line.setSpacing(24)
        line.addLayout(left, 5)
        line.addLayout(right, 4)

    def _preview(self) -> QLabel:
        preview = QLabel("")
        preview.setTextFormat(Qt.TextFormat.RichText)
        preview.setWordWrap(True)
        self._theme.changed.connect(self.show_draft)  # its colours are in its words
        return preview

    def end(self) -> None:
        """There is no draft any more."""
        self._draft = None

    def begin(self, draft: FitDraft) -> None:
        """Show the rules of a draft."""
        self._draft, self._shown = draft, draft.told.rules
        rules = draft.told.rules
        self.any_case.set_state(rules.any_case, False, "")
        self.pattern.set_state(any(r.pattern for r in rules.items), False, "")
        self._fill([(r.find, r.put) for r in rules.items] or [("", "")])

    def _fill(self, texts: list[tuple[str, str]]) -> None:
        while (item := self._grid.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        self.fields, self._hits = [], []
        for number, (find, put) in enumerate(texts):
            fields = QLineEdit(find), QLineEdit(put)
            clearable(*fields)
            for field, name in zip(fields, (tr("Look for"), tr("Put instead")), strict=True):
                field.setAccessibleName(tr("{name}, rule {number}", name=name, number=number + 1))
                field.setFixedHeight(28)
                field.textEdited.connect(self._emit)
            arrow, hits = Words(tr("to")), Words("")
            arrow.setProperty("quiet", True)
            hits.setProperty("quiet", True)
            hits.setFixedWidth(48)
            away = Button(
                self._theme,
                icon="x",
                kind=Kind.FLAT,
                height=24,
                icon_size=12,
                tip=tr("Take it away"),
            )
            away.clicked.connect(partial(self._remove, number))
            for column, widget in enumerate((fields[0], arrow, fields[1], hits, away)):
                self._grid.addWidget(widget, number, column)
                widget.show()  # at once, so that it can take the keyboard
            self.fields.append(fields)
            self._hits.append(hits)
        self.show_draft()

    def _texts(self) -> list[tuple[str, str]]:
        return [(find.text(), put.text()) for find, put in self.fields]

    def _add(self) -> None:
        self._fill([*self._texts(), ("", "")])
        self.fields[-1][0].setFocus(Qt.FocusReason.OtherFocusReason)

    def _remove(self, number: int) -> None:
        left = [text for i, text in enumerate(self._texts()) if i != number]
        self._fill(left or [("", "")])
        self._emit()
        field = self.fields[min(number, len(self.fields) - 1)][0]
        field.setFocus(Qt.FocusReason.OtherFocusReason)

    def _emit(self) -> None:
        pattern = self.pattern.isChecked()
        items = tuple(Rule(find, put, pattern) for find, put in self._texts() if find)
        self._shown = Rules(items, self.any_case.isChecked())
        self.changed.emit(self._shown)

    def show_draft(self) -> None:
        """Bring hits and preview up to date."""
        draft = self._draft
        if draft is None:
            return
        if draft.told.rules != self._shown:  # undone
            self.begin(draft)
            return
        if draft.problem is not None:
            self.preview.setText(
                f"<span style='color:{self._theme.tokens.warning}'>"
                f"{_escaped(draft.problem.sentence())}</span>"
            )
            return
        hits = iter(draft.rule_hits())
        for (find, _), label in zip(self.fields, self._hits, strict=True):
            label.setText(tr_n("{number} hit", "{number} hits", next(hits)) if find.text() else "")
        self.preview.setText(self._found(draft))

    def _found(self, draft: FitDraft) -> str:
        if not draft.told.rules.items:
            return tr("No rule yet. Rules help where a whole rig is named in another way.")
        good, warning = self._theme.tokens.good, self._theme.tokens.warning
        lines: list[str] = []
        for row in draft.rows:
            try:
                after = draft.told.rules.applied(row.source)
            except FoxHandError:
                continue
            if after == row.source or len(lines) >= SHOWN:
                continue
            known = row.found is MatchSource.RULE
            word = tr("found") if known else tr("not on {name}", name=draft.actor.rig.name)
            colour = good if known or row.target == after else warning
            if row.target == after and not known:
                word = tr("found, {value}", value=row.found.word)
            lines.append(
                tr(
                    "{escaped} to <b>{escaped_2}</b> <span "
                    "style='color:{colour}'>{escaped_3}</span>",
                    escaped=_escaped(row.source),
                    escaped_2=_escaped(after),
                    colour=colour,
                    escaped_3=_escaped(word),
                )
            )
        return "<br>".join(lines) or tr("They change none of the card's names.")


def _escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;")
