"""The top line: project, cast, undo, search, menu."""

from __future__ import annotations

from html import escape
from importlib import resources

from PySide6.QtCore import QByteArray, QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from fox_hand.base.language import tr
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.runtime.ports import Pictures, Post
from fox_hand.ui.main.cast_tabs import CastTabs
from fox_hand.ui.main.search_field import FilterValues, SearchField
from fox_hand.ui.theme.plain_text import plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.fields.completing import clearable
from fox_hand.ui.widgets.sign import SearchSign


class Mark(QWidget):
    """The application's mark: a hand making the fox sign."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._source = resources.files("fox_hand.ui.icons").joinpath("fox-hand.svg").read_text()
        self.setFixedSize(24, 28)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        source = self._source.replace("currentColor", self._theme.tokens.accent)
        QSvgRenderer(QByteArray(source.encode())).render(QPainter(self), QRectF(self.rect()))


class Header(QWidget):
    """44 px. Left under the figure column, middle over the stage, right over the sheets."""

    search = Signal(str)
    cards_asked = Signal()
    open_figure = Signal()
    menu_asked = Signal()
    project_asked = Signal()
    member_asked = Signal(object, QPoint)

    def __init__(self, theme: Theme, workspace: Workspace, pictures: Pictures, post: Post) -> None:
        super().__init__()
        self._theme, self._workspace, self._pictures, self._post = theme, workspace, pictures, post
        self.setFixedHeight(44)
        self.left, self.right = QWidget(), QWidget()
        self.project = QLabel("")
        self.project.setTextFormat(Qt.TextFormat.RichText)
        self.project_button = Button(
            theme,
            icon="chevron-down",
            kind=Kind.FLAT,
            tip=tr("Open a figure, a recent one or the demo"),
        )
        self.project_button.clicked.connect(self.project_asked)
        self.cast = CastTabs(theme, workspace, pictures, post)
        self.cast.menu_asked.connect(self.member_asked)
        self.open_button = Button(
            theme, icon="plus", kind=Kind.FLAT, tip=tr("Put one more figure on the stage")
        )
        self.open_button.clicked.connect(self.open_figure)
        self.undo_button = Button(theme, icon="undo-2", kind=Kind.FLAT, tip=tr("Undo"))
        self.redo_button = Button(theme, icon="redo-2", kind=Kind.FLAT, tip=tr("Redo"))
        self.save_button = Button(
            theme, tr("Unsaved"), icon="save", height=28, tip=tr("Save the shot")
        )
        self.save_button.tint = ("warning", "warning_ground")
        self.save_button.hide()
        self.undo_button.clicked.connect(workspace.undo)
        self.redo_button.clicked.connect(workspace.redo)
        self.jobs_button = Button(theme, tr("Jobs"), icon="list-checks", tip=tr("Long jobs"))
        self.search_field = SearchField()
        self.search_field.left.connect(self.cards_asked)
        self.search_field.setPlaceholderText(tr("Find: name, tag, note"))
        self.search_field.setAccessibleName(tr("Find cards"))
        self.search_field.setFixedHeight(28)
        clearable(self.search_field)
        SearchSign(self.search_field, theme)
        self.filter_values = FilterValues(self.search_field, workspace.open_libraries)
        self.search_field.textChanged.connect(self.search)
        self.menu_button = Button(theme, icon="menu", kind=Kind.FLAT, tip=tr("Menu"))
        self.menu_button.clicked.connect(self.menu_asked)
        self._arrange()
        workspace.actor_changed.connect(self.refresh)
        workspace.history.changed.connect(self.refresh)
        workspace.mix_changed.connect(self.refresh)
        self.refresh()

    def _arrange(self) -> None:
        left = QHBoxLayout(self.left)
        left.setContentsMargins(12, 0, 8, 0)
        left.setSpacing(8)
        left.addWidget(Mark(self._theme))
        left.addWidget(self.project, 1)
        left.addWidget(self.project_button)
        right = QHBoxLayout(self.right)
        right.setContentsMargins(12, 0, 8, 0)
        right.setSpacing(8)
        right.addWidget(self.search_field, 1)
        right.addWidget(self.menu_button)
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(0)
        line.addWidget(self.left)
        middle = QHBoxLayout()
        middle.setContentsMargins(12, 4, 12, 0)
        middle.setSpacing(8)
        middle.addWidget(self.cast, 0, Qt.AlignmentFlag.AlignBottom)
        middle.addWidget(self.open_button)
        middle.addStretch(1)
        middle.addWidget(self.jobs_button)
        middle.addWidget(self.save_button)
        middle.addWidget(self.undo_button)
        middle.addWidget(self.redo_button)
        line.addLayout(middle, 1)
        line.addWidget(self.right)

    def set_columns(self, left: int, right: int) -> None:
        """Follow the columns below."""
        self.left.setFixedWidth(max(left, 160))
        self.right.setFixedWidth(max(right, 200))
        self.cast.set_words(self.width() >= 1200)

    def set_project(self, project: str, shot: str) -> None:
        """Names at the left: where we are."""
        quiet = self._theme.tokens.quiet
        metrics = QFontMetrics(self._theme.font(14, 600))
        self.project.setToolTip(plain_tip(f"{project} / {shot}" if shot else project))
        whole = self.left.width() - 92
        shot = metrics.elidedText(shot, Qt.TextElideMode.ElideRight, whole - 32)
        room = whole - metrics.horizontalAdvance(f" / {shot}")  # the shot is what changes
        project = escape(metrics.elidedText(project, Qt.TextElideMode.ElideRight, max(room, 24)))
        shot = escape(shot)
        self.project.setText(
            f'<span style="color:{quiet}; font-size:14px">{project} / </span>'
            f'<span style="font-size:14px; font-weight:600">{shot}</span>'
            if shot
            else f'<span style="font-size:14px; font-weight:600">{project}</span>'
        )

    def show_edited(self, edited: bool) -> None:
        """Whether the shot has changes that are not in its file."""
        self.save_button.setVisible(edited)

    def refresh(self) -> None:
        history, mix = self._workspace.history, self._workspace.mix
        undo = tr("Put back {name}", name=mix.card.name) if mix is not None else None
        if undo is None and history.undo_label is not None:
            undo = tr("Undo {undo_label}", undo_label=history.undo_label)
        self.undo_button.setEnabled(undo is not None)
        self.undo_button.setToolTip(plain_tip(undo or tr("Nothing to undo")))
        self.redo_button.setEnabled(history.redo_label is not None)
        redo = (
            tr("Redo {redo_label}", redo_label=history.redo_label)
            if history.redo_label
            else tr("Nothing to redo")
        )
        self.redo_button.setToolTip(plain_tip(redo))
