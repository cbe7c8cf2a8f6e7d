"""Charts: characters against the shapes they should have."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDropEvent,
    QImage,
    QKeyEvent,
    QResizeEvent,
    QShowEvent,
)
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.library.charts.filling import Filling
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.session.app.needs import Charting
from fox_hand.session.charts.chart_board import ChartBoard
from fox_hand.ui.cards.card_drag import picture_in
from fox_hand.ui.cards.card_pictures import CardPictures
from fox_hand.ui.screens.charts.chart_grid import ChartGrid
from fox_hand.ui.screens.charts.chart_layout import At
from fox_hand.ui.screens.charts.chart_legend import ChartLegend
from fox_hand.ui.screens.charts.chart_list import ChartList
from fox_hand.ui.screens.charts.missing_bar import Gap, MissingBar
from fox_hand.ui.screens.charts.slot_panel import PICTURE, SlotPanel
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.screen_parts import back_to_stage, screen_panel, screen_top

LEFT, MARGIN = 208, 16
NONE_YET = tr(
    "There are no charts yet. A chart says which shapes a character should have: mouth shapes,"
    " emotions, hands. Press + at the left to take one that is ready, or to make one from cards."
)


class ChartsScreen(QWidget):
    """Full screen.

    Args:
        theme, workspace: what it shows.
    """

    closed = Signal()
    told = Signal(str)
    new_asked = Signal(QPoint)
    chart_menu_asked = Signal(object, QPoint)  # ChartBoard
    slot_menu_asked = Signal(object, object, QPoint)  # ChartBoard, Filling
    rename_asked = Signal(object)  # ChartBoard
    edit_asked = Signal(object, object)  # ChartBoard, Filling
    put_on = Signal(object)  # Entry
    pose_asked = Signal(object, object)  # ChartBoard, Filling
    picture_dropped = Signal(object)  # Path
    frames_asked = Signal(object, object)  # ChartBoard, list of Fillings

    def __init__(self, theme: Theme, workspace: Charting) -> None:
        super().__init__()
        self._theme, self._workspace = theme, workspace
        self._pictures = CardPictures(
            workspace.open_libraries.jobs,
            PictureCache(workspace.places.cache / "pictures"),
            self._picture_came,
        )
        self.back = back_to_stage(theme)
        self.list = ChartList(theme)
        self.add_button = Button(
            theme, icon="plus", kind=Kind.FLAT, height=24, tip=tr("New chart …")
        )
        self.grid = ChartGrid(theme, workspace.open_libraries, lambda: self._pictures)
        self.grid.empty_text = NONE_YET
        self.panel = SlotPanel(theme, self.grid, self.grid.picture)
        self.missing = MissingBar(theme, self.grid.face_of)
        self.missing.hide()
        self._wrong = Words("")
        self._wrong.setWordWrap(True)
        self._wrong.setContentsMargins(12, 4, 12, 8)
        self.setAcceptDrops(True)
        self._build()
        self._connect()

    # -- building -------------------------------------------------------------------------

    def _build(self) -> None:
        left = screen_panel()
        left.setFixedWidth(LEFT)
        head = QHBoxLayout()
        head.setContentsMargins(12, 8, 8, 4)
        title = Words(tr("Charts"))
        title.setProperty("role", "title")
        head.addWidget(title, 1)
        head.addWidget(self.add_button)
        beside = QVBoxLayout(left)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.setSpacing(0)
        beside.addLayout(head)
        beside.addWidget(self.list, 1)
        beside.addWidget(self._wrong)
        beside.addWidget(ChartLegend(self._theme))
        right = QVBoxLayout()
        right.setSpacing(0)
        right.addWidget(self.grid, 1)
        right.addWidget(self.missing)
        below = QHBoxLayout()
        below.setSpacing(0)
        below.addWidget(left)
        below.addLayout(right, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        top = screen_top(self.back, tr("Charts"))
        column.addLayout(top)
        column.addLayout(below, 1)

    def _connect(self) -> None:
        workspace, panel = self._workspace, self.panel
        self.back.clicked.connect(self.closed)
        self.add_button.clicked.connect(
            lambda: self.new_asked.emit(
                self.add_button.mapToGlobal(self.add_button.rect().bottomLeft())
            )
        )
        workspace.charts.changed.connect(self.refresh)
        workspace.open_libraries.changed.connect(self._on_cards)
        workspace.actor_changed.connect(self._on_cards)
        self.list.chosen.connect(self._on_charts)
        self.list.menu_asked.connect(self.chart_menu_asked)
        self.list.rename_asked.connect(self.rename_asked)
        self.list.remove_asked.connect(workspace.charts.take_away)
        self.grid.chosen.connect(self._show_slot)
        self.grid.entered.connect(self._enter)
        self.grid.refused.connect(self._refuse)
        self.grid.menu_asked.connect(self._ask_slot_menu)
        panel.pose.connect(self._pose)
        panel.put_on.connect(self.put_on)
        panel.lend.connect(self._assign)
        panel.best.connect(self._assign)
        panel.refuse.connect(lambda _: self._refuse())
        panel.edit.connect(self._edit)
        self.missing.chips.pressed.connect(self._go_to)
        self.missing.frames_asked.connect(self._ask_frames)

    # -- content --------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._workspace.charts.read()

    def _on_cards(self) -> None:
        if self.isVisible():
            self._workspace.charts.read()

    def refresh(self) -> None:
        """Show the charts as they were read."""
        found = self._workspace.charts.found
        self.list.show_boards(found.boards)
        self._wrong.setText(" ".join(error.sentence() for error in found.wrong))
        self._wrong.setVisible(bool(found.wrong))
        self._on_charts()

    @property
    def boards(self) -> list[ChartBoard]:
        """The charts that are shown."""
        return [board for board in self.list.boards if board.key in self.list.shown]

    def _on_charts(self) -> None:
        self.grid.show_boards(self.boards)
        self._show_slot()

    def _gaps(self) -> list[Gap]:
        return [
            ((board.key, one.slot.key, one.character), one.slot.name, board)
            for board in self.boards
            for one in board.missing()
        ]

    def _show_slot(self) -> None:
        gaps = self._gaps()
        framed = self._frames_for()
        who = framed[1][0].character if framed is not None else ""
        count = len(framed[1]) if framed is not None else 0
        self.missing.setVisible(bool(self.boards))  # of no chart nothing is missing
        self.missing.show_gaps(gaps, self.grid.at, len(self.boards), (who, count))
        found = self.grid.filling(self.grid.at)
        if found is None:
            self.panel.hide()
            self.grid.below = 0
            return
        board, one = found
        sample = self._sample(board, one)
        problem = self._workspace.gap_filling.why_not(board, one)
        look = self.grid.sample_of(board, one.slot, one.character, PICTURE)
        self.panel.show_slot(one, sample, look, self._fit(one, sample), problem)
        self._place_panel()

    def _sample(self, board: ChartBoard, one: Filling) -> Entry | None:
        named = self._workspace.open_libraries.by_identity(one.slot.pose)
        return named or board.sample(one.slot, one.character)

    def _fit(self, one: Filling, sample: Entry | None) -> str:
        """How much of the card lands on the character, where it stands on the stage."""
        figure = self._workspace.gap_filling.figure_of(one.character)
        card = one.cards[0].card if one.cards else sample
        if figure is None or card is None or not card.shape:
            return ""
        place = self._workspace.open_libraries.place_of(card)
        lands, asked = place.lands(card.shape, figure.rig, card.character)
        return (
            tr(
                "{lands} of {asked} fit {character}",
                lands=lands,
                asked=asked,
                character=one.character,
            )
            if asked
            else ""
        )

    def _place_panel(self) -> None:
        """Lower right; where the chosen slot lies there, lower left."""
        grid, panel = self.grid.viewport(), self.panel
        y = max(grid.height() - panel.height() - MARGIN, 8)
        x = grid.width() - panel.width() - MARGIN
        at = self.grid.at
        chosen = self.grid.rect_of(at) if at is not None else None
        if chosen is not None and chosen.right() > x - 8 and chosen.bottom() > y - 8:
            x = MARGIN
        panel.move(x, y)
        below = panel.height() + 2 * MARGIN
        if self.grid.below != below:
            self.grid.below = below
            self.grid.relayout()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self.panel.isVisible():
            self.grid.go_to(self.grid.at)

    def _picture_came(self) -> None:
        self.grid.viewport().update()
        self.missing.chips.update()
        found = self.grid.filling(self.grid.at)
        if found is not None and self.panel.isVisible():
            self._show_slot()

    def picture(self, entry: Entry, pixels: int) -> QImage | None:
        """A card's picture; None while it is not there."""
        return self.grid.picture(entry, pixels)

    # -- doing ----------------------------------------------------------------------------

    def _now(self) -> tuple[ChartBoard, Filling] | None:
        return self.grid.filling(self.grid.at)

    def _go_to(self, at: At) -> None:
        self.grid.go_to(at)
        self.grid.setFocus(Qt.FocusReason.OtherFocusReason)

    def _enter(self) -> None:
        now = self._now()
        if now is None:
            return
        if now[1].missing:
            self._pose()
        else:
            self.put_on.emit(now[1].cards[0].card)

    def _pose(self) -> None:
        now = self._now()
        if now is not None:
            self.pose_asked.emit(*now)

    def _assign(self, entry: Entry) -> None:
        now = self._now()
        if now is not None:
            self._workspace.charts.assign(now[0], now[1].slot.key, now[1].character, entry)

    def _refuse(self) -> None:
        now = self._now()
        if now is not None and now[1].cards:
            board, one = now
            self._workspace.charts.refuse(board, one.slot.key, one.character, one.cards[0].card)

    def _edit(self) -> None:
        now = self._now()
        if now is not None:
            self.edit_asked.emit(*now)

    def _ask_slot_menu(self, at: At, corner: QPoint) -> None:
        found = self.grid.filling(at)
        if found is not None:
            self.slot_menu_asked.emit(*found, corner)

    def _frames_for(self) -> tuple[ChartBoard, list[Filling]] | None:
        """Whose gaps frames are made for: of the chosen slot's chart and character, else of the
        first that stands on the stage and lacks something."""
        filling = self._workspace.gap_filling
        chosen = self._now()
        tries = [(chosen[0], chosen[1].character)] if chosen is not None else []
        tries += [(board, c) for board in self.boards for c in board.characters]
        for board, character in tries:
            gaps = [one for one in board.of(character) if one.missing]
            if gaps and filling.why_not(board, gaps[0]) is None:
                return board, gaps
        return None

    def _ask_frames(self) -> None:
        found = self._frames_for()
        if found is not None:
            self.frames_asked.emit(*found)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if picture_in(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        picture = picture_in(event.mimeData())
        if picture is not None:
            event.acceptProposedAction()
            self.picture_dropped.emit(picture)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        event.ignore()
