"""The words on a card that is being taken: name, sheet, tags, author, licence, note."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from fox_hand.base.language import tr
from fox_hand.session.app.needs import Capturing
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.libraries.known_names import known_authors, known_sheets, known_tags
from fox_hand.ui.capture.capture_parts import LivePicture
from fox_hand.ui.services.picture_files import decoded
from fox_hand.ui.theme.plain_text import Words, menu_word, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.fields.completing import Completing, clearable
from fox_hand.ui.widgets.passing_menu import passing_menu

DRAWN = tr("Live picture")


def small(text: str) -> QLabel:
    """A label above a field."""
    label = Words(text)
    label.setProperty("quiet", True)
    label.setProperty("small", True)
    return label


class CaptureForm(QWidget):
    """Picture, fields and what they mean for the draft."""

    edited = Signal()
    filed = Signal(str)
    save_asked = Signal()
    picture_asked = Signal(object)  # a path, or None for one that is chosen

    def __init__(self, theme: Theme, workspace: Capturing) -> None:
        super().__init__()
        self._theme, self._workspace = theme, workspace
        self.live = LivePicture(theme)
        self.live.dropped.connect(self.picture_asked)
        self.picture = Button(
            theme,
            DRAWN,
            kind=Kind.FLAT,
            menu=True,
            height=24,
            padding=4,
            tip=tr("Drawn or a file"),
        )
        self.picture.clicked.connect(self._choose_picture)
        self.name, self.sheet = self._field(tr("Name")), self._field(tr("Sheet"))
        self.tags, self.author = self._field(tr("Tags")), self._field(tr("Author"))
        self.licence = self._field(tr("Licence"))
        libraries = workspace.open_libraries
        Completing(self.tags, lambda: known_tags(libraries.places), several=True)
        Completing(self.author, lambda: known_authors(libraries.places))
        Completing(self.sheet, lambda: known_sheets(libraries.target))
        self.tags.setPlaceholderText(tr("with commas"))
        self.sheet.setPlaceholderText(tr("none: a loose card"))
        self.note = QPlainTextEdit()
        self.note.setFixedHeight(44)
        self.note.setAccessibleName(tr("Note"))
        self.note.setTabChangesFocus(True)
        self.note.installEventFilter(self)
        self.target = Button(
            theme, "", icon="book-open", kind=Kind.FLAT, menu=True, height=24, icon_size=14
        )
        self.target.clicked.connect(self._choose_target)
        self.sheets = Button(
            theme,
            icon="chevron-down",
            kind=Kind.FLAT,
            tip=tr("Choose a sheet"),
            height=26,
            icon_size=14,
        )
        self.sheets.clicked.connect(self._choose_sheet)
        self.name.textChanged.connect(self._changed)
        self.sheet.textChanged.connect(self._changed)
        self.sheet.editingFinished.connect(lambda: self.filed.emit(self.sheet.text().strip("/ ")))
        for field in (self.tags, self.author, self.licence, self.note):
            field.textChanged.connect(self._changed)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addLayout(self._picture_and_name())
        column.addLayout(self._words())

    def _field(self, name: str) -> QLineEdit:
        field = QLineEdit()
        field.setFixedHeight(26)
        field.setAccessibleName(name)
        field.installEventFilter(self)
        clearable(field)
        return field

    def _picture_and_name(self) -> QHBoxLayout:
        left = QVBoxLayout()
        left.setSpacing(4)
        left.addWidget(self.live)
        left.addWidget(self.picture, 0, Qt.AlignmentFlag.AlignHCenter)
        left.addStretch(1)
        sheet = QHBoxLayout()
        sheet.setSpacing(2)
        sheet.addWidget(self.sheet, 1)
        sheet.addWidget(self.sheets)
        where = QHBoxLayout()
        where.addWidget(small(tr("Sheet")), 1)
        where.addWidget(self.target)
        right = QVBoxLayout()
        right.setSpacing(4)
        right.addWidget(small(tr("Name")))
        right.addWidget(self.name)
        right.addLayout(where)
        right.addLayout(sheet)
        right.addStretch(1)
        row = QHBoxLayout()
        row.setSpacing(12)
        row.addLayout(left)
        row.addLayout(right, 1)
        return row

    def _words(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        for column, (word, field, stretch) in enumerate(
            (
                (tr("Tags"), self.tags, 4),
                (tr("Author"), self.author, 3),
                (tr("Licence"), self.licence, 3),
            )
        ):
            grid.addWidget(small(word), 0, column)
            grid.addWidget(field, 1, column)
            grid.setColumnStretch(column, stretch)
        grid.addWidget(small(tr("Note")), 2, 0)
        grid.addWidget(self.note, 3, 0, 1, 3)
        return grid

    def show_draft(self, draft: CaptureDraft) -> None:
        """Show a draft's words without announcing them."""
        for field, text in (
            (self.name, draft.name),
            (self.sheet, draft.sheet),
            (self.tags, ", ".join(draft.tags)),
            (self.author, draft.author),
            (self.licence, draft.licence),
        ):
            field.blockSignals(True)
            field.setText(text)
            field.blockSignals(False)
        self.note.blockSignals(True)
        self.note.setPlainText(draft.note)
        self.note.blockSignals(False)
        only_picture = draft.retaken is not None
        words: tuple[QWidget, ...] = (self.name, self.tags, self.author, self.licence, self.note)
        for part in words:
            part.setEnabled(not only_picture)
        for place in (self.sheet, self.sheets, self.target):
            place.setEnabled(not only_picture and draft.over is None)
        self._name_target()

    def _changed(self) -> None:
        draft = self._workspace.capturing.draft
        if draft is None:
            return
        draft.name, draft.sheet = self.name.text(), self.sheet.text().strip().strip("/")
        words = (w.strip() for w in self.tags.text().split(","))
        draft.tags = tuple(dict.fromkeys(w for w in words if w))
        draft.author, draft.licence = self.author.text(), self.licence.text()
        draft.note = self.note.toPlainText()
        self.edited.emit()

    def _name_target(self) -> None:
        target = self._workspace.open_libraries.target
        name = target.name if target is not None else ""
        metrics = self.target.fontMetrics()
        self.target.setText(metrics.elidedText(name, Qt.TextElideMode.ElideRight, 90))
        self.target.setAccessibleName(tr("Library: {name}", name=name))
        self.target.setToolTip(plain_tip(tr("Library for the new card: {name}", name=name)))
        self.target.setVisible(len(self._workspace.open_libraries.places) > 1)

    def _choose_sheet(self) -> None:
        menu = passing_menu(self)
        target = self._workspace.open_libraries.target
        for sheet in target.sheets if target is not None else ():
            menu.addAction(menu_word(sheet.replace("/", " / ")), partial(self._take_sheet, sheet))
        menu.popup(self.sheets.mapToGlobal(self.sheets.rect().bottomLeft()))

    def _take_sheet(self, sheet: str) -> None:
        self.sheet.setText(sheet)
        self.filed.emit(sheet)

    def _choose_picture(self) -> None:
        draft, menu = self._workspace.capturing.draft, passing_menu(self)
        if draft is None:
            return
        own = draft.own_picture is not None
        drawn = menu.addAction(DRAWN, partial(draft.set_own_picture, None))
        drawn.setCheckable(True)
        drawn.setChecked(not own)
        chosen = menu.addAction(tr("From a file …"), lambda: self.picture_asked.emit(None))
        chosen.setCheckable(True)
        chosen.setChecked(own)
        menu.popup(self.picture.mapToGlobal(self.picture.rect().bottomLeft()))

    def show_picture(self, draft: CaptureDraft) -> bool:
        """Show the picture from a file; whether there is one."""
        own = draft.own_picture
        self.picture.setText(DRAWN if own is None else tr("From a file"))
        self.picture.updateGeometry()
        if own is not None:
            self.live.image = decoded(own[0])
            self.live.update()
        return own is not None

    def _choose_target(self) -> None:
        menu = passing_menu(self)
        for place in self._workspace.open_libraries.places:
            if place.writable:
                menu.addAction(menu_word(place.name), partial(self._take_target, place.number))
        menu.popup(self.target.mapToGlobal(self.target.rect().bottomLeft()))

    def _take_target(self, number: int) -> None:
        self._workspace.open_libraries.target_number = number
        self._name_target()

    def eventFilter(self, watched: object, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            newline = watched is self.note and event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            if enter and not newline:
                self.save_asked.emit()
                return True
        return False
