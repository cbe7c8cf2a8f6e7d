"""The main window: columns, shortcuts, and what connects them."""

from __future__ import annotations

import base64
from functools import partial
from pathlib import Path

from PySide6.QtCore import QByteArray, QPoint, Qt, QTimer
from PySide6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QResizeEvent,
)
from PySide6.QtWidgets import (
    QApplication,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from fox_hand.base.errors import FoxHandError
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.snapshot import KeptBoard
from fox_hand.ui.apply.apply_controller import ApplyController
from fox_hand.ui.apply.mix_bar import MixBar
from fox_hand.ui.browser.sheets_panel import SheetsPanel
from fox_hand.ui.capture.batch_popup import BatchPopup
from fox_hand.ui.capture.capture_controller import CaptureController
from fox_hand.ui.capture.capture_frame import CaptureFrame
from fox_hand.ui.capture.capture_panel import CapturePanel
from fox_hand.ui.cards.card_drag import card_files_in, keys_in
from fox_hand.ui.commands.actions import Actions
from fox_hand.ui.commands.finder import Finder
from fox_hand.ui.help.help import Help
from fox_hand.ui.help.shortcuts import ShortcutsSheet
from fox_hand.ui.main.card_work import CardWork
from fox_hand.ui.main.command_table import command_table
from fox_hand.ui.main.header import Header
from fox_hand.ui.main.menus import ask_author, main_menu, member_menu, project_menu
from fox_hand.ui.main.opening import Opener
from fox_hand.ui.main.places_to_go import findables
from fox_hand.ui.main.shot_home import ShotHome
from fox_hand.ui.main.strip_menu import strip_menu
from fox_hand.ui.main.work_bar import WorkBar
from fox_hand.ui.picker.figure_panel import FigurePanel
from fox_hand.ui.screens.care.care_screen import CareScreen
from fox_hand.ui.screens.compare.compare_screen import CompareScreen
from fox_hand.ui.screens.fit.fit_screen import FitScreen
from fox_hand.ui.screens.pairs.pairs_screen import PairsScreen
from fox_hand.ui.services.services import Services
from fox_hand.ui.stage.inset_view import InsetView
from fox_hand.ui.stage.reference_images import ReferenceImages, can_pin
from fox_hand.ui.stage.stage_bars import EmptyStage, StageBars
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.style import dialog_sheet, palette, style_sheet
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.notice import Notice

SAVE_DELAY = 800
LATER = 50  # milliseconds


class Window(ShotHome):
    """Everything a person sees."""

    def __init__(self, theme: Theme, workspace: Workspace, services: Services) -> None:
        super().__init__()
        self._theme = self.theme = theme
        self.workspace, self._services = workspace, services
        self.setWindowTitle("Fox Hand")
        self.setMinimumSize(1024, 680)
        self.resize(1280, 800)
        QApplication.setStyle("Fusion")
        QApplication.setPalette(palette(theme.tokens))
        self.setStyleSheet(style_sheet(theme.tokens) + dialog_sheet(theme.tokens))
        self.setAcceptDrops(True)
        self._build()
        self._connect()
        self.connect_shots()
        self.actions_table = Actions(command_table(self))
        self.actions_table.install(self)
        self._restore()

    # -- building -------------------------------------------------------------------------

    def _build(self) -> None:
        theme, workspace = self._theme, self.workspace
        pictures, post = self._services.pictures, self._services.bridge.post
        # first, so that its picture comes first
        self.stage = Stage(theme, workspace, pictures, post)
        self.header = Header(theme, workspace, pictures, post)
        self.bars = StageBars(theme, workspace, self.stage)
        self.empty = EmptyStage(theme, self.stage)
        self.frame = CaptureFrame(theme, self.stage)
        self.mix_bar = MixBar(theme, workspace, self.stage, pictures, post)
        self.lens = InsetView(theme, workspace, self.stage, pictures, post)
        self.boards = ReferenceImages(theme, self.stage)
        self.notice = Notice(theme, self.stage)
        support, redraw = self._services.support, self.stage.refresh
        self.help = Help(self, theme, self.notice, support, pictures, redraw)
        self.work_bar = WorkBar(theme, self.stage, workspace.file_jobs)
        self.figure_panel = FigurePanel(theme, workspace, self._services)
        self.sheets = SheetsPanel(theme, workspace)
        self.pairs = PairsScreen(theme, workspace, pictures, post)
        self.care = CareScreen(theme, workspace)
        self.fit = FitScreen(theme, workspace, pictures, post)
        self.compare = CompareScreen(theme, workspace, pictures, post)
        self.capture = CapturePanel(theme, workspace, self.stage, self.frame, pictures, post)
        self.opener = Opener(self, workspace, self._services, self.bars, self.notice, self.sheets)
        self.capturing = CaptureController(self, workspace, pictures)
        self.build_strip()
        self.putting = ApplyController(self, workspace, self._services)
        self.card_work = CardWork(self)
        self._connect_putting()
        self.right = QStackedWidget()
        self.right.addWidget(self.sheets)
        self.right.addWidget(self.capture)
        self.right.setMinimumWidth(256)
        self.figure_panel.setMinimumWidth(232)
        self.inner = QSplitter(Qt.Orientation.Horizontal)
        self.inner.addWidget(self.figure_panel)
        self.inner.addWidget(self.stage)
        self.upright = QSplitter(Qt.Orientation.Vertical)
        self.upright.addWidget(self.inner)
        self.upright.addWidget(self.frames)
        self.outer = QSplitter(Qt.Orientation.Horizontal)
        self.outer.addWidget(self.upright)
        self.outer.addWidget(self.right)
        for splitter, keeps in ((self.inner, 1), (self.outer, 0), (self.upright, 0)):
            splitter.setHandleWidth(1)
            splitter.setChildrenCollapsible(False)
            splitter.setStretchFactor(keeps, 1)
            splitter.setStretchFactor(1 - keeps, 0)
            splitter.splitterMoved.connect(self._columns_moved)
        self._build_body()

    def _build_body(self) -> None:
        """Header above, the columns or a full screen below."""
        central = QWidget()
        central.setObjectName("desk")
        rows = QVBoxLayout(central)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(0)
        rows.addWidget(self.header)
        self.body = QStackedWidget()
        self.body.addWidget(self.outer)
        self.body.addWidget(self.pairs)
        self.body.addWidget(self.care)
        self.body.addWidget(self.fit)
        self.body.addWidget(self.compare)
        rows.addWidget(self.body, 1)
        self.setCentralWidget(central)
        self.header.set_project("Fox Hand", "")
        self.stage.setFocus(Qt.FocusReason.OtherFocusReason)

    def _connect_putting(self) -> None:
        self.sheets.put_on.connect(self.putting.put_on)
        self.sheets.view.add_to_mix.connect(self.putting.add)
        for pointed in (self.sheets.view.hovered, self.sheets.view.walked):
            pointed.connect(self.putting.point_at)
        self.sheets.hand.follow(self.putting, self.workspace.shots)
        self.putting.told.connect(self.notice.tell)
        self.figure_panel.told.connect(self.notice.tell)
        self.putting.failed.connect(self.notice.tell_error)
        self.mix_bar.store_asked.connect(self.store_mix)
        self.connect_poses()

    def _connect(self) -> None:
        workspace = self.workspace
        self.header.search.connect(self.sheets.search)
        self.header.open_figure.connect(self.opener.ask_for_rig)
        self.header.menu_asked.connect(lambda: main_menu(self))
        self.header.cards_asked.connect(self._to_cards)
        self.header.project_asked.connect(lambda: project_menu(self))
        self.header.member_asked.connect(lambda member, at: member_menu(self, member, at))
        self.sheets.capture.connect(self.begin_capture)
        self.sheets.typed.connect(self._type_into_search)
        self.sheets.failed.connect(self.notice.tell_error)
        self.capture.save_asked.connect(self.save_capture)
        self.capture.batch_asked.connect(self._ask_batch)
        self.capturing.saving.connect(self.capture.set_saving)
        self.capturing.saved.connect(self.reveal_later)
        workspace.storing.news.connect(self.notice.tell)
        workspace.shelf.changed.connect(self.reveal_now)
        self.bars.lens.clicked.connect(self._lens_switched)
        self.lens.close_button.clicked.connect(self.bars.lens.click)
        self.opener.boards_found.connect(self._show_boards)
        self.opener.newcomer.connect(self.stage.frame_actor)
        self.boards.changed.connect(self._boards_changed)
        self.pairs.closed.connect(self.close_pairs)
        self.care.closed.connect(self.close_care)
        self.care.show_cards.connect(self.show_cards)
        self.care.find_rig.connect(self.opener.ask_for_rig)
        self.care.peek.connect(self.peek_version)
        self.care.failed.connect(self.notice.tell_error)
        self.pairs.told.connect(self.notice.tell)
        self.pairs.failed.connect(self._pairs_failed)
        self.pairs.saved.connect(self.close_pairs)
        self.pairs.saved.connect(self.opener.look_for_changed_rigs)
        self.strip.menu_asked.connect(lambda at: strip_menu(self, at))
        self.empty.demo_asked.connect(self.shot_opener.open_demo)
        self.empty.open_asked.connect(self.opener.ask_for_rig)
        self.stage.failed.connect(self.notice.tell_error)
        workspace.told.connect(self.notice.tell_error)
        workspace.capture_changed.connect(self._on_capture)
        workspace.actor_changed.connect(self._on_actor)
        workspace.mix_changed.connect(self.mix_bar.place)
        self._save_timer = QTimer(self)
        self._save_timer.setSingleShot(True)
        self._save_timer.setInterval(SAVE_DELAY)
        self._save_timer.timeout.connect(workspace.save_figure)
        workspace.history.changed.connect(self._save_soon)
        workspace.selection.changed.connect(self._save_soon)
        if workspace.settings_problem is not None:
            self.notice.tell(workspace.settings_problem)

    def _save_soon(self) -> None:
        self._save_timer.start()

    def step(self, *, back: bool) -> None:
        """Undo or redo, of the screen that is open."""
        screen = self.body.currentWidget()
        if isinstance(screen, PairsScreen | FitScreen):
            (screen.undo_button if back else screen.redo_button).click()
        else:
            (self.workspace.undo if back else self.workspace.redo)()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Single keys arrive here only when the focused widget has no use for them."""
        key = Qt.Key(event.key())
        enter = key in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if key == Qt.Key.Key_Escape:
            self.escape()
        elif enter and self.between.pose is not None:
            self.between.keep()
        elif enter and self.workspace.draft is not None:
            self.save_capture()
        elif enter and (
            self.workspace.mix is not None or self.workspace.placements.now is not None
        ):
            self.workspace.keep_mix()
        elif self.on_stage() and self._stage_key(event):
            event.accept()
        else:
            super().keyPressEvent(event)

    def _stage_key(self, event: QKeyEvent) -> bool:
        """Cards at hand, then single letters."""
        current = self.sheets.view.current_entry()
        return self.putting.key(event, current) or self.actions_table.letter(event)

    def on_stage(self) -> bool:
        """Whether no other screen is open."""
        return self.body.currentWidget() is self.outer

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_V and not event.isAutoRepeat():
            self.putting.hold(False)
        super().keyReleaseEvent(event)

    def show_finder(self) -> None:
        """Every command and place by part of its name."""
        Finder(self._theme, self, partial(findables, self)).open_in(self)

    def show_keys(self) -> None:
        """Keys and pointer."""
        ShortcutsSheet(self._theme, self, self.actions_table).open()

    def ask_author(self) -> None:
        """How new cards are signed."""
        ask_author(self)

    def escape(self) -> None:
        """The nearest thing that can be taken back."""
        field = self.header.search_field
        closers = {
            self.pairs: self.close_pairs,
            self.care: self.close_care,
            self.fit: self.close_fit,
            self.compare: self.close_compare,
        }
        screen = self.body.currentWidget()
        if screen in closers:
            closers[screen]()
            return
        if self.stage.cancel_gesture() or self.escape_shot():
            return
        if field.hasFocus() and field.text():
            field.clear()
            return
        if self.workspace.mix is not None or self.workspace.placements.now is not None:
            self.workspace.put_back()
        elif self.workspace.draft is not None:
            self.workspace.cancel_capture()
        elif self.notice.isVisible():
            self.notice.hide()
        else:
            self.workspace.selection.clear()

    def _lens_switched(self) -> None:
        self.lens.set_on(self.bars.lens.isChecked())
        self._place_bars()

    def pin_board(self, path: Path, at: QPoint) -> None:
        """Pin a reference picture to the stage, its middle under the pointer."""
        try:
            board = self.boards.pin(KeptBoard(str(path)))
        except FoxHandError as error:
            self.notice.tell_error(error)
            return
        board.move(max(at.x() - board.width() // 2, 0), max(at.y() - board.height() // 2, 0))
        self._boards_changed()

    def _show_boards(self, kept: list[KeptBoard]) -> None:
        for problem in self.boards.show(kept):
            self.notice.tell_error(problem)

    def _boards_changed(self) -> None:
        self.workspace.shots.boards = self.boards.kept()
        self._save_soon()

    def select_all(self) -> None:
        """All controls that people use."""
        actor = self.workspace.actor
        if actor is not None:
            self.workspace.selection.set(
                r for r, c in enumerate(actor.rig.controls) if not c.helper
            )

    # -- figure and library ---------------------------------------------------------------

    def _on_actor(self) -> None:
        actor = self.workspace.actor
        self.empty.setVisible(actor is None)
        self.show_where()
        self._place_bars()

    # -- capturing ------------------------------------------------------------------------

    def begin_capture(self) -> None:
        problem = self.capturing.why_not()
        if problem is not None:
            self.notice.tell(problem)
        else:
            self.workspace.begin_capture()

    def _on_capture(self) -> None:
        self.right.setCurrentWidget(
            self.capture if self.workspace.draft is not None else self.sheets
        )
        self.notice.raise_()
        self._place_bars()

    def _ask_batch(self) -> None:
        """Take all marked frames at once."""
        draft, reel = self.workspace.draft, self.workspace.marked
        if draft is not None and reel is not None:
            draft.frame = self.frame.camera()
            popup = BatchPopup(self._theme, self, draft, reel)
            popup.taken.connect(self.capturing.save_marked)
            popup.open_above(self.capture.batch)

    def save_capture(self) -> None:
        self.capturing.save(self.frame.camera())

    def show_pairs(self) -> None:
        """Which control mirrors to which."""
        actor = self.workspace.actor
        if actor is not None:
            self.workspace.keep_mix()
            self.workspace.cancel_capture()
            self.body.setCurrentWidget(self.pairs)
            self.pairs.begin(actor)

    def _pairs_failed(self, error: Exception) -> None:
        self.close_pairs()
        self.notice.tell_error(error)

    def close_pairs(self) -> None:
        """Back to the stage; corrections that were not saved are gone, and said so."""
        if self.pairs.unsaved and self.body.currentWidget() is self.pairs:
            self.notice.tell("The pairs were not saved; the rig stays as it was.")
        self.body.setCurrentWidget(self.outer)
        self.stage.setFocus(Qt.FocusReason.OtherFocusReason)

    def _type_into_search(self, text: str) -> None:
        self.header.search_field.setFocus(Qt.FocusReason.OtherFocusReason)
        self.header.search_field.setText(text)

    def _to_cards(self) -> None:
        """From the search to the first card that was found."""
        view = self.sheets.view
        if view.start():
            view.setFocus(Qt.FocusReason.TabFocusReason)

    # -- layout ---------------------------------------------------------------------------

    def _restore(self) -> None:
        settings = self.workspace.settings
        if settings.window:
            self.restoreGeometry(QByteArray(base64.b64decode(settings.window)))
        QTimer.singleShot(0, self._restore_columns)

    def _restore_columns(self) -> None:
        settings = self.workspace.settings
        right = settings.sheets_width if self.width() >= 1200 else min(settings.sheets_width, 256)
        self.outer.setSizes([self.width() - right - 1, right])
        self.inner.setSizes(
            [settings.figure_width, self.width() - right - settings.figure_width - 2]
        )
        strip = settings.strip_height or (212 if self.height() >= 760 else 152)
        self.upright.setSizes([self.height() - 44 - strip, strip])
        self._place_bars()

    def _columns_moved(self) -> None:
        settings = self.workspace.settings
        settings.figure_width = self.figure_panel.width()
        settings.sheets_width = self.right.width()
        if self.workspace.motion is None:
            settings.strip_height = self.frames.height()
        self._place_bars()

    def _place_bars(self) -> None:
        self.header.set_columns(self.figure_panel.width(), self.right.width())
        self.place_strip()
        self.bars.place()
        self.empty.place()
        self.mix_bar.place()
        self.lens.place(self.stage.bottom_reserved)
        if self.notice.isVisible():
            self.notice.place()
        self.frame.setGeometry(self.stage.rect())
        if self.capture.bar.isVisible():
            self.capture.bar.place()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self._place_bars)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(u.isLocalFile() for u in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        files = [Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()]
        at = self.stage.mapFromGlobal(self.mapToGlobal(event.position().toPoint()))
        cards = card_files_in(event.mimeData())
        keys = keys_in(event.mimeData())
        if keys:
            entry = self.workspace.shelf.entry(keys[0])
            if entry is not None and self.workspace.mix is not None:
                self.putting.add(entry)  # dropped beside a card that is on
            elif entry is not None:
                self.putting.put_on(entry)
            return
        target = self.workspace.shelf.target
        if cards and target is not None:
            self.workspace.card_commands.bring_in(cards, target, "")
        for path in files:
            if path in cards:
                continue
            if can_pin(path):
                self.pin_board(path, at)
            else:
                self.open_file(path)

    def closeEvent(self, event: QCloseEvent) -> None:
        """What is on the figure is kept, everything is remembered."""
        self.workspace.keep_mix()
        self.playing.stop()
        self.workspace.save_figure()
        self.workspace.shots.end()
        geometry = bytes(self.saveGeometry().data())
        self.workspace.settings.window = base64.b64encode(geometry).decode()
        self.workspace.save_settings()
        super().closeEvent(event)
