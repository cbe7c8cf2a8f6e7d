"""The left column: the figure, sets, channels."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QEvent, QSize, Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from fox_hand.base.language import tr
from fox_hand.session.app.mirroring import Mirroring, mirror_figure
from fox_hand.session.app.needs import Posing
from fox_hand.ui.picker.channel_list import ChannelList
from fox_hand.ui.picker.channel_paint import ROW
from fox_hand.ui.picker.figure_view import FigureView
from fox_hand.ui.picker.limb_bar import LimbBar
from fox_hand.ui.picker.sets_row import SetsRow
from fox_hand.ui.services.services import Services
from fox_hand.ui.theme.plain_text import Words, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.event_filter import EventFilter
from fox_hand.ui.widgets.passing_menu import passing_menu

TITLE, LIMBS = 32, 200  # pixels
SETS_ROW = 28
ONE_ROW = 8 + SETS_ROW  # with the margin above


class FigurePanel(QWidget):
    """Select from the drawing and the sets, read and type channels."""

    told = Signal(str)

    def __init__(self, theme: Theme, workspace: Posing, services: Services) -> None:
        super().__init__()
        self._ear = EventFilter(self, self._heard)
        self._theme, self._workspace = theme, workspace
        self.setProperty("panel", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.figure = FigureView(theme, workspace, services)
        self.channels = ChannelList(theme, workspace)
        self.limbs = LimbBar(theme, workspace)
        self._hint = Words("")
        self._hint.setProperty("quiet", True)
        self.sets = SetsRow(theme, workspace)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setWidget(self.channels)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._scroll.setMinimumHeight(ROW)  # by itself it would take room from the drawing
        self._scroll.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.channels.current_changed.connect(self._reveal)
        self.channels.told.connect(self.told)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._title())
        column.addWidget(self.figure)
        column.addWidget(self._line())
        column.addWidget(self.sets)
        self._head = self._heading()
        column.addWidget(self._head)
        column.addWidget(self.limbs)
        column.addWidget(self._scroll, 1)
        workspace.actor_changed.connect(self._on_selection)
        workspace.selection.changed.connect(self._on_selection)
        workspace.mix_changed.connect(self._on_mix)
        workspace.mix_commands.peeked.connect(self._on_mix)
        workspace.capturing.changed.connect(self._on_mix)
        self._on_mix()
        self._on_selection()

    def minimumSizeHint(self) -> QSize:
        return QSize(232, TITLE + self.figure.sizeHint().height() + 1 + ONE_ROW)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._share_room()

    def _heard(self, event: QEvent) -> bool:
        """Key groups know how large they are only when they are on screen."""
        if event.type() == QEvent.Type.LayoutRequest:
            self._share_room()
        return False

    def _share_room(self) -> None:
        """Where a tall strip leaves little room the channels go first, then rows of sets."""
        room = self.height() - TITLE - self.figure.sizeHint().height() - 1
        sets = self.sets.heightForWidth(self.width())
        channels = room >= sets + self._head.height() + ROW
        self._head.setVisible(channels)
        self._scroll.setVisible(channels)
        self.limbs.setMaximumHeight(LIMBS if channels else 0)
        whole = 8 + max((room - 8) // SETS_ROW, 1) * SETS_ROW  # no row of sets is cut through
        self.sets.setMaximumHeight(sets if channels else max(min(sets, whole), ONE_ROW))

    def _title(self) -> QWidget:
        row = QWidget()
        row.setFixedHeight(TITLE)
        line = QHBoxLayout(row)
        line.setContentsMargins(12, 0, 12, 0)
        line.setSpacing(8)
        title = Words(tr("Figure"))
        title.setProperty("role", "title")
        line.addWidget(title)
        line.addWidget(self._hint, 1)
        return row

    def _line(self) -> QWidget:
        line = QWidget()
        line.setFixedHeight(1)
        line.setProperty("plate", "line")
        line.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        return line

    def _heading(self) -> QWidget:
        row = QWidget()
        row.setProperty("plate", "heading")
        row.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row.setFixedHeight(28)
        line = QHBoxLayout(row)
        line.setContentsMargins(12, 0, 4, 0)
        line.setSpacing(4)
        self._what = Words("")
        self._what.setProperty("role", "heading")
        self._count = Words("")
        self._count.setProperty("quiet", True)
        self.reset_button = Button(
            self._theme,
            icon="rotate-ccw",
            kind=Kind.FLAT,
            tip=tr("Put the selected controls back to rest"),
            height=24,
            icon_size=14,
        )
        self.reset_button.clicked.connect(self._reset)
        self.mirror_button = Button(
            self._theme,
            icon="flip-horizontal",
            kind=Kind.FLAT,
            tip=tr("Mirror the figure or what is selected"),
            height=24,
            icon_size=14,
        )
        self.mirror_button.clicked.connect(self._ask_mirror)
        line.addWidget(self._what, 1)
        line.addWidget(self._count)
        line.addWidget(self.mirror_button)
        line.addWidget(self.reset_button)
        return row

    def _ask_mirror(self) -> None:
        menu = passing_menu(self)
        few = (Mirroring.SELECTED, Mirroring.SELECTED_OVER)
        keys = {Mirroring.WHOLE: "\tX", Mirroring.SELECTED_OVER: tr("\tShift+X")}
        for what in Mirroring:
            if what is Mirroring.SELECTED:
                menu.addSeparator()
            action = menu.addAction(what.word + keys.get(what, ""), partial(self.mirror, what))
            action.setEnabled(what not in few or bool(self._workspace.selection.rows))
        menu.popup(self.mirror_button.mapToGlobal(self.mirror_button.rect().bottomLeft()))

    def mirror(self, what: Mirroring) -> None:
        """Mirror, and tell what did not land."""
        said = mirror_figure(self._workspace, what)
        if said:
            self.told.emit(said)

    def mirror_key(self, over: bool) -> None:
        """X: what is selected, else the figure; with Shift the selected onto the other side."""
        selected = Mirroring.SELECTED_OVER if over else Mirroring.SELECTED
        self.mirror(selected if len(self._workspace.selection) or over else Mirroring.WHOLE)

    def _reset(self) -> None:
        rows = self._workspace.selection.rows
        self._workspace.reset(rows or None, tr("Reset selected") if rows else tr("Reset all"))

    def _on_selection(self) -> None:
        rows = set(self._workspace.selection.rows)
        chosen = self.sets.chosen()
        actor = self._workspace.actor
        if actor is None or not rows:
            self._what.setText(tr("Nothing selected"))
            self._count.setText("")
        else:
            single = actor.rig.word(next(iter(rows))) if len(rows) == 1 else ""
            self._what.setText(chosen or single or tr("Selection"))
            self._count.setText(tr("{count} selected", count=len(rows)))
        tip = tr("Put the selected controls back to rest")
        self.reset_button.setToolTip(tip if rows else tr("Put the whole figure back to rest"))

    def _hint_at(self, text: str) -> None:
        """As much of it as there is room for; all of it in the tooltip."""
        room = max(self._hint.width() - 4, 60)
        metrics = self._hint.fontMetrics()
        self._hint.setText(metrics.elidedText(text, Qt.TextElideMode.ElideRight, room))
        self._hint.setToolTip(plain_tip(text))

    def _on_mix(self) -> None:
        peek = self._workspace.mix_commands.peek
        self._hint.setToolTip("")
        if self._workspace.capturing.draft is not None:
            self._hint_at(tr("dots: what has moved"))
        elif peek is not None:
            missing = peek.fit.missing
            names = tr(", {count} not here", count=len(missing)) if missing else ""
            text = tr("dots: {name}{names}", name=peek.card.name, names=names)
            self._hint_at(text)
            self._hint.setToolTip(
                plain_tip(
                    tr("Not on {name}: {names}", name=peek.actor.rig.name, names=", ".join(missing))
                )
            )
        elif self._workspace.mix is not None:
            self._hint_at(tr("dots: what the card moves"))
        else:
            self._hint.setText(tr("click to select"))
        self.channels.update()

    def _reveal(self, row: int) -> None:
        self._scroll.ensureVisible(0, row * ROW + ROW // 2, 0, ROW)
