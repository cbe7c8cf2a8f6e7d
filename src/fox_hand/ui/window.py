"""The main window: columns, shortcuts, and what connects them."""

from __future__ import annotations

import base64
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QByteArray, QPoint, Qt, QTimer
from PySide6.QtGui import (
    QAction,
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QKeySequence,
    QResizeEvent,
)
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QInputDialog,
    QMainWindow,
    QMenu,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from fox_hand.base.errors import FoxHandError
from fox_hand.base.work import Progress
from fox_hand.core.view import Quality, View
from fox_hand.interchange.readers import RIG_READERS, read_rig
from fox_hand.library.store import Entry, Library
from fox_hand.library.thumb import png
from fox_hand.session.actor import Actor
from fox_hand.session.desk import Desk
from fox_hand.session.selection import both_sides, other_side
from fox_hand.ui.capture_frame import CaptureFrame
from fox_hand.ui.capture_panel import CapturePanel
from fox_hand.ui.doors import Doors
from fox_hand.ui.figure_panel import FigurePanel
from fox_hand.ui.header import Header
from fox_hand.ui.look import Look
from fox_hand.ui.mix_bar import MixBar
from fox_hand.ui.notice import Notice
from fox_hand.ui.sheets_panel import SheetsPanel
from fox_hand.ui.shortcuts import ShortcutsSheet
from fox_hand.ui.stage import Stage
from fox_hand.ui.stage_bars import EmptyStage, StageBars
from fox_hand.ui.strip import Strip
from fox_hand.ui.style import dialog_sheet, palette, style_sheet

PICTURE = 320
SAVE_DELAY = 800
LATER = 50  # milliseconds


class Window(QMainWindow):
    """Everything a person sees."""

    def __init__(self, look: Look, desk: Desk, doors: Doors) -> None:
        super().__init__()
        self._look, self.desk, self._doors = look, desk, doors
        self.setWindowTitle("Fox Hand")
        self.setMinimumSize(1024, 680)
        self.resize(1280, 800)
        QApplication.setStyle("Fusion")
        QApplication.setPalette(palette(look.tokens))
        self.setStyleSheet(style_sheet(look.tokens) + dialog_sheet(look.tokens))
        self.setAcceptDrops(True)
        self._build()
        self._connect()
        self._shortcuts()
        self._restore()

    # -- building -------------------------------------------------------------------------

    def _build(self) -> None:
        look, desk, pictures, post = (
            self._look,
            self.desk,
            self._doors.pictures,
            self._doors.bridge.post,
        )
        self.stage = Stage(look, desk, pictures, post)  # first, so that its picture comes first
        self.header = Header(look, desk, pictures, post)
        self.bars = StageBars(look, desk, self.stage)
        self.empty = EmptyStage(look, self.stage)
        self.frame = CaptureFrame(look, self.stage)
        self.mix_bar = MixBar(look, desk, self.stage, pictures, post)
        self.notice = Notice(look, self.stage)
        self.figure_panel = FigurePanel(look, desk, self._doors)
        self.sheets = SheetsPanel(look, desk, self._doors.jobs)
        self.capture = CapturePanel(look, desk, self.stage, self.frame, pictures, post)
        self.strip = Strip(look, desk)
        self.right = QStackedWidget()
        self.right.addWidget(self.sheets)
        self.right.addWidget(self.capture)
        self.right.setMinimumWidth(256)
        self.figure_panel.setMinimumWidth(232)
        self.inner = QSplitter(Qt.Orientation.Horizontal)
        self.inner.addWidget(self.figure_panel)
        self.inner.addWidget(self.stage)
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.inner, 1)
        column.addWidget(self.strip)
        self.outer = QSplitter(Qt.Orientation.Horizontal)
        self.outer.addWidget(left)
        self.outer.addWidget(self.right)
        for splitter, keeps in ((self.inner, 1), (self.outer, 0)):
            splitter.setHandleWidth(1)
            splitter.setChildrenCollapsible(False)
            splitter.setStretchFactor(keeps, 1)
            splitter.setStretchFactor(1 - keeps, 0)
            splitter.splitterMoved.connect(self._columns_moved)
        central = QWidget()
        central.setObjectName("desk")
        rows = QVBoxLayout(central)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(0)
        rows.addWidget(self.header)
        rows.addWidget(self.outer, 1)
        self.setCentralWidget(central)
        self.header.set_project("Fox Hand", "")
        self.stage.setFocus(Qt.FocusReason.OtherFocusReason)

    def _connect(self) -> None:
        desk = self.desk
        self.header.search.connect(self.sheets.search)
        self.header.open_figure.connect(self.ask_for_rig)
        self.header.menu_asked.connect(self._show_menu)
        self.header.project_asked.connect(self._show_project_menu)
        self.sheets.put_on.connect(self.put_on)
        self.sheets.capture.connect(self.begin_capture)
        self.sheets.typed.connect(self._type_into_search)
        self.sheets.menu_asked.connect(self._card_menu)
        self.capture.save_asked.connect(self.save_capture)
        self.empty.demo_asked.connect(self.open_demo)
        self.empty.open_asked.connect(self.ask_for_rig)
        self.stage.failed.connect(self.notice.tell_error)
        desk.told.connect(self.notice.tell_error)
        desk.capture_changed.connect(self._on_capture)
        desk.actor_changed.connect(self._on_actor)
        desk.mix_changed.connect(self.mix_bar.place)
        self._save_timer = QTimer(self)
        self._save_timer.setSingleShot(True)
        self._save_timer.setInterval(SAVE_DELAY)
        self._save_timer.timeout.connect(desk.save_figure)
        desk.history.changed.connect(self._save_soon)
        desk.selection.changed.connect(self._save_soon)
        if desk.settings_problem is not None:
            self.notice.tell(desk.settings_problem)

    def _save_soon(self) -> None:
        self._save_timer.start()

    def _shortcuts(self) -> None:
        def add(keys: str, action: Callable[[], object]) -> None:
            shortcut = QAction(self)
            shortcut.setShortcut(QKeySequence(keys))
            shortcut.setShortcutContext(Qt.ShortcutContext.WindowShortcut)
            shortcut.triggered.connect(lambda _=False: action())
            self.addAction(shortcut)

        add("Ctrl+Z", self.desk.undo)
        add("Ctrl+Shift+Z", self.desk.redo)
        add("Ctrl+O", self.ask_for_rig)
        add("Ctrl+F", lambda: self.header.search_field.setFocus(Qt.FocusReason.ShortcutFocusReason))
        add("F1", self.show_shortcuts)
        add("Ctrl+A", self._select_all)
        add("F5", self.reload_cards)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Single keys arrive here only when the focused widget has no use for them."""
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Escape:
            self.escape()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.desk.draft is not None:
            self.save_capture()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.desk.mix is not None:
            self.desk.keep_mix()
        elif event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier:
            super().keyPressEvent(event)
        elif key == Qt.Key.Key_C and self.desk.draft is None:
            self.begin_capture()
        elif key == Qt.Key.Key_R:
            self.figure_panel.reset_button.click()
        elif key == Qt.Key.Key_Z:
            self._frame_key(bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif key == Qt.Key.Key_O:
            self._other_side(bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif key == Qt.Key.Key_H:
            self.bars.handles.click()
        elif key == Qt.Key.Key_G:
            self.bars.ghost.click()
        else:
            super().keyPressEvent(event)

    def _frame_key(self, whole: bool) -> None:
        rows = list(self.desk.selection.rows)
        self.stage.frame(None if whole or not rows else rows)

    def escape(self) -> None:
        """The nearest thing that can be taken back."""
        field = self.header.search_field
        if self.stage.cancel_gesture():
            return
        if field.hasFocus() and field.text():
            field.clear()
            return
        if self.desk.mix is not None:
            self.desk.put_back()
        elif self.desk.draft is not None:
            self.desk.cancel_capture()
        elif self.notice.isVisible():
            self.notice.hide()
        else:
            self.desk.selection.clear()

    def _other_side(self, both: bool) -> None:
        actor, selection = self.desk.actor, self.desk.selection
        if actor is not None:
            change = both_sides if both else other_side
            selection.set(change(actor.rig, selection.rows))

    def _select_all(self) -> None:
        actor = self.desk.actor
        if actor is not None:
            self.desk.selection.set(r for r, c in enumerate(actor.rig.controls) if not c.helper)

    # -- figure and library ---------------------------------------------------------------

    def open_rig(self, path: Path, then: Callable[[], None] | None = None) -> None:
        """Read a rig beside the window, then put it on the stage; ``then`` follows in any case."""
        self.bars.busy(f"Opening {path.name} …")

        def work(progress: Progress) -> Actor:
            progress.step(0.0)
            actor = Actor(read_rig(path), path)
            _ = actor.rig.rest_bounds  # measured here, not in the window
            return actor

        def done(actor: Actor) -> None:
            self.bars.busy("")
            self.desk.place(actor)
            if actor.rig.notes:
                self.notice.tell(" ".join(actor.rig.notes[:3]))
            if then is not None:
                QTimer.singleShot(LATER, then)  # after the window has shown the figure

        def failed(error: Exception) -> None:
            self.bars.busy("")
            self.notice.tell_error(error)
            if then is not None:
                then()

        self._doors.jobs.run(work, done, failed)

    def open_library(self, folder: Path, *, create: str = "") -> None:
        """Read a library beside the window."""
        self.sheets.view.loading = True
        self.sheets.refresh()

        def work(progress: Progress) -> tuple[Library, tuple[Entry, ...]]:
            progress.step(0.0)
            library = Library.create(folder, create) if create else Library(folder)
            return library, library.entries()

        def done(result: tuple[Library, tuple[Entry, ...]]) -> None:
            self.sheets.view.loading = False
            self.desk.open_library(*result)

        def failed(error: Exception) -> None:
            self.sheets.view.loading = False
            self.sheets.refresh()
            self.notice.tell_error(error)

        self._doors.jobs.run(work, done, failed)

    def reload_cards(self) -> None:
        """Look for what changed on disk."""
        library = self.desk.library
        if library is not None:
            self._doors.jobs.run(
                lambda _: library.entries(), self.desk.show_cards, self.notice.tell_error
            )

    def open_demo(self) -> None:
        """The crew of the ferry."""

        def done(result: tuple[Path, Path]) -> None:
            rig, library = result
            # one after the other: the figure is what people wait for
            self.open_rig(rig, then=partial(self.open_library, library))

        self._doors.jobs.run(lambda _: self._doors.open_demo(), done, self.notice.tell_error)

    def ask_for_rig(self) -> None:
        kinds = " ".join(f"*{k}" for k in RIG_READERS)
        path, _ = QFileDialog.getOpenFileName(
            self, "Open a figure", "", f"Figures with a skin ({kinds});;All files (*)"
        )
        if path:
            self.open_rig(Path(path))

    def ask_for_library(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, "Open or make a library")
        if folder:
            name = Path(folder).name
            known = (Path(folder) / "library.toml").is_file()
            self.open_library(Path(folder), create="" if known else name)

    def _on_actor(self) -> None:
        actor = self.desk.actor
        self.empty.setVisible(actor is None)
        if actor is not None:
            self.header.set_project("On the desk", actor.rig.name)
            self.setWindowTitle(f"{actor.rig.name} - Fox Hand")
        self._place_bars()

    # -- putting on and capturing ---------------------------------------------------------

    def put_on(self, entry: Entry) -> None:
        if self.desk.draft is None:
            self.desk.put_on(entry)

    def begin_capture(self) -> None:
        if self.desk.actor is None:
            self.notice.tell("There is no figure on the stage yet. Open one first.")
        elif self.desk.library is None:
            self.notice.tell("No library is open. Open or make one in the menu, then capture.")
        else:
            self.desk.begin_capture()

    def _on_capture(self) -> None:
        self.right.setCurrentWidget(self.capture if self.desk.draft is not None else self.sheets)
        self._place_bars()

    def save_capture(self) -> None:
        """Draw the picture, then write the card; the draft stays open if either fails."""
        draft = self.desk.draft
        if draft is None or draft.why_not() is not None:
            return
        draft.frame = self.frame.camera()
        card, sheet = draft.card(), draft.sheet
        view = View((draft.actor.standing,), draft.frame, PICTURE, PICTURE, Quality.CARD)
        self.capture.save.setEnabled(False)

        def work(progress: Progress) -> tuple[Entry, tuple[Entry, ...]]:
            progress.step(0.0)
            library = self.desk.library_or_error()
            try:
                picture = png(self._doors.pictures.picture(view).pixels)
            except FoxHandError:
                picture = None  # the pose is kept all the same: work is not lost for its looks
            entry = library.add(card, picture, sheet)
            return entry, library.entries()

        def failed(error: Exception) -> None:
            self.capture.save.setEnabled(True)
            self.notice.tell_error(error)

        def done(result: tuple[Entry, tuple[Entry, ...]]) -> None:
            entry, cards = result
            self.desk.captured(entry, cards)
            self.sheets.view.new_paths.add(str(entry.path))
            if self.sheets.view.rect_of(entry) is None:  # hidden by a filter or the search
                self.header.search_field.clear()
                self.sheets.filter("all")
            self.sheets.view.reveal(entry)

        self._doors.jobs.run(work, done, failed)

    def _card_menu(self, entry: Entry, at: QPoint) -> None:
        menu = QMenu(self)
        menu.addAction("Put on", lambda: self.put_on(entry)).setEnabled(entry.card is not None)
        menu.addAction("Select its controls", lambda: self._select_card(entry)).setEnabled(
            entry.card is not None and self.desk.actor is not None
        )
        menu.addSeparator()
        menu.addAction("Take out of the library", lambda: self.desk.take_out(entry))
        menu.popup(at)

    def _select_card(self, entry: Entry) -> None:
        actor = self.desk.actor
        if actor is not None and entry.card is not None:
            names = entry.card.pose.controls
            rows = [actor.rig.control_row[n] for n in names if n in actor.rig.control_row]
            self.desk.selection.set(rows)

    def _type_into_search(self, text: str) -> None:
        self.header.search_field.setFocus(Qt.FocusReason.OtherFocusReason)
        self.header.search_field.setText(text)

    # -- menus ----------------------------------------------------------------------------

    def _show_menu(self) -> None:
        menu = QMenu(self)
        menu.addAction("Open a figure …", self.ask_for_rig)
        menu.addAction("Open or make a library …", self.ask_for_library)
        menu.addAction("Look for changed cards", self.reload_cards)
        menu.addSeparator()
        menu.addAction("Reset the whole figure", lambda: self.desk.reset(None, "Reset all"))
        labels = menu.addAction("Names on cards", self._toggle_labels)
        labels.setCheckable(True)
        labels.setChecked(self.sheets.view.labels)
        menu.addAction("Your name on cards …", self._ask_author)
        menu.addSeparator()
        menu.addAction("Keys and pointer", self.show_shortcuts)
        button = self.header.menu_button
        menu.popup(button.mapToGlobal(button.rect().bottomLeft()))

    def _show_project_menu(self) -> None:
        menu = QMenu(self)
        menu.addAction("Open the demo", self.open_demo)
        menu.addAction("Open a figure …", self.ask_for_rig)
        recent = [Path(p) for p in self.desk.settings.recent]
        if recent:
            menu.addSeparator()
        for path in recent:
            menu.addAction(path.name, partial(self.open_rig, path)).setToolTip(str(path))
        button = self.header.project_button
        menu.popup(button.mapToGlobal(button.rect().bottomLeft()))

    def _toggle_labels(self) -> None:
        view = self.sheets.view
        view.labels = self.desk.settings.card_labels = not view.labels
        view.relayout()

    def _ask_author(self) -> None:
        name, given = QInputDialog.getText(
            self, "Your name", "New cards are signed with", text=self.desk.settings.author
        )
        if given:
            self.desk.settings.author = name.strip()
            self.desk.save_settings()

    def show_shortcuts(self) -> None:
        ShortcutsSheet(self._look, self).open()

    # -- layout ---------------------------------------------------------------------------

    def _restore(self) -> None:
        settings = self.desk.settings
        if settings.window:
            self.restoreGeometry(QByteArray(base64.b64decode(settings.window)))
        QTimer.singleShot(0, self._restore_columns)

    def _restore_columns(self) -> None:
        settings = self.desk.settings
        right = settings.sheets_width if self.width() >= 1200 else min(settings.sheets_width, 256)
        self.outer.setSizes([self.width() - right - 1, right])
        self.inner.setSizes(
            [settings.figure_width, self.width() - right - settings.figure_width - 2]
        )
        self._place_bars()

    def _columns_moved(self) -> None:
        settings = self.desk.settings
        settings.figure_width = self.figure_panel.width()
        settings.sheets_width = self.right.width()
        self._place_bars()

    def _place_bars(self) -> None:
        self.header.set_columns(self.figure_panel.width(), self.right.width())
        self.strip.set_label_width(self.figure_panel.width())
        self.bars.place()
        self.empty.place()
        self.mix_bar.place()
        if self.notice.isVisible():
            self.notice.place()
        self.frame.setGeometry(self.stage.rect())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self._place_bars)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(u.isLocalFile() for u in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        files = [Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()]
        for path in files[:1]:
            self.open_rig(path)

    def closeEvent(self, event: QCloseEvent) -> None:
        """What is on the figure is kept, everything is remembered."""
        self.desk.keep_mix()
        self.desk.save_figure()
        geometry = bytes(self.saveGeometry().data())
        self.desk.settings.window = base64.b64encode(geometry).decode()
        self.desk.save_settings()
        super().closeEvent(event)
