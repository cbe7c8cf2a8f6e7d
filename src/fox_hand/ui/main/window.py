"""The main window: what lies where, and what connects the parts."""

from __future__ import annotations

import base64
from functools import partial
from pathlib import Path

from PySide6.QtCore import QByteArray, QMimeData, Qt, QTimer
from PySide6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDropEvent,
    QKeyEvent,
    QResizeEvent,
)
from PySide6.QtWidgets import QApplication, QMainWindow, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.session.app.workspace import Workspace
from fox_hand.ui.apply.card_looking import CardLooking
from fox_hand.ui.browser.sheets_panel import SheetsPanel
from fox_hand.ui.capture.capture_panel import CapturePanel
from fox_hand.ui.cards.card_drag import card_files_in, keys_in
from fox_hand.ui.commands.actions import Actions
from fox_hand.ui.exchange.drawing_opening import DrawingOpener, holds_drawings
from fox_hand.ui.exchange.export_menu import ExportMenu
from fox_hand.ui.exchange.link_opening import LinkOpener
from fox_hand.ui.exchange.opening import Opener
from fox_hand.ui.exchange.performance_opening import PerformanceOpener
from fox_hand.ui.exchange.shot_opening import ShotOpener
from fox_hand.ui.help.help import Help
from fox_hand.ui.main.card_controller import CardController
from fox_hand.ui.main.choices.drop_hint import DropHint
from fox_hand.ui.main.choices.preference_effects import PreferenceEffects
from fox_hand.ui.main.choices.start_work import ShotPortraits, StartWork
from fox_hand.ui.main.choices.things_coming import take
from fox_hand.ui.main.columns import WindowColumns
from fox_hand.ui.main.focus_order import FocusOrder, WayBack
from fox_hand.ui.main.header import Header
from fox_hand.ui.main.home import Home
from fox_hand.ui.main.library.card_work import CardWork
from fox_hand.ui.main.menus import main_menu, member_menu, project_menu
from fox_hand.ui.main.overlays import Overlays
from fox_hand.ui.main.puppet_controller import PuppetController
from fox_hand.ui.main.shot_controller import ShotController
from fox_hand.ui.main.showing.open_screens import Screens
from fox_hand.ui.main.stage_menu import stage_menu
from fox_hand.ui.main.strip_menu import strip_menu
from fox_hand.ui.main.tables.command_table import command_table
from fox_hand.ui.main.timeline_area import TimelineArea
from fox_hand.ui.main.work.closing import Closing, ask_about
from fox_hand.ui.main.work.jobs_panel import JobsSign
from fox_hand.ui.picker.figure_panel import FigurePanel
from fox_hand.ui.services.paint_turn import PaintTurn
from fox_hand.ui.services.picture_port import Drawing
from fox_hand.ui.services.screen_sizes import keep_sizes, take_sizes
from fox_hand.ui.services.services import Services
from fox_hand.ui.stage.reference_images import can_pin
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.style import dialog_sheet, palette, style_sheet
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.accessible_parts import install_accessible_parts
from fox_hand.ui.widgets.deferred_update import once_after
from fox_hand.ui.widgets.popup import Popup

SEEN_AT_ONCE = 4  # figures of a host; of more only the first is framed


class Window(QMainWindow):
    """Everything a person sees; it lays out and connects, what is done is done elsewhere.

    Args:
        theme, workspace, services: what it shows, and what it asks of the machine.
    """

    def __init__(self, theme: Theme, workspace: Workspace, services: Services) -> None:
        super().__init__()
        self.theme, self.workspace, self._services = theme, workspace, services
        self.setWindowTitle(tr("Fox Hand"))
        self.setMinimumSize(1024, 680)
        self.resize(1280, 800)
        if QApplication.style().name() != "fusion":  # set again, it would polish all there is anew
            QApplication.setStyle("Fusion")
        self._wear()
        theme.changed.connect(self._wear)
        self.setAcceptDrops(True)
        install_accessible_parts()
        painting = PaintTurn(self)
        self._build()
        painting.hear(self.figure_panel.sets.new_button)
        self._lay_out()
        self.home = self._home()
        self.actions_table = self.home.actions_table = Actions(command_table(self.home))
        self.actions_table.install(self)
        self._soon = QTimer(self)
        self._places = once_after(self, 0, self._place)
        self._drop_hint = DropHint(self)
        self.ending = False  # the program ends: nothing is asked any more
        self.start_work = StartWork(
            self.home,
            services.bridge.post,
            lambda: main_menu(self.home, self.screens.start.menu_button),
        )
        self.jobs_sign = JobsSign(
            self.theme, self, self.header.jobs_button, self.workspace.long_work
        )
        self._portraits = ShotPortraits(self.home, services)
        self.preference_effects = PreferenceEffects(self.home, self._soon, services.restart)
        self._card_work = CardWork(self.home)
        self._focus_order = FocusOrder(
            self,
            (self.header, self.figure_panel, self.stage, self.timeline, self.columns.right),
        )
        self._connect()
        self._remember()
        self._restore()

    def _wear(self) -> None:
        """The colours that are worn now, on everything that is open."""
        tokens = self.theme.tokens
        QApplication.setPalette(palette(tokens))
        self.setStyleSheet(style_sheet(tokens) + dialog_sheet(tokens))
        for widget in self.findChildren(QWidget):
            widget.update()

    # -- building -------------------------------------------------------------------------

    def _build(self) -> None:
        theme, workspace, services = self.theme, self.workspace, self._services
        pictures, post = services.pictures, services.bridge.post
        # first, so that its picture comes first
        self.stage = Stage(theme, workspace, pictures, post)
        self.header = Header(theme, workspace, pictures, post)
        self.overlays = Overlays(theme, workspace, services, self.stage)
        self.notice = self.overlays.notice
        self.figure_panel = FigurePanel(theme, workspace, services)
        self.sheets = SheetsPanel(theme, workspace)
        self.timeline = TimelineArea(theme, workspace, self.stage)
        frame = self.overlays.frame
        self.capture = CapturePanel(theme, workspace, self.stage, frame, pictures, post)
        workspace.capturing.draw_with(pictures)

    def _lay_out(self) -> None:
        """Header above, the columns or a full screen below."""
        theme, workspace = self.theme, self.workspace
        self.columns = WindowColumns(
            self.figure_panel,
            self.stage,
            self.timeline,
            self.sheets,
            self.capture,
            workspace.settings,
            lambda: self.sheets.side.width,
        )
        self.screens = Screens(
            theme,
            workspace,
            self._services,
            self.columns,
            self.stage,
            self.sheets,
            self.notice,
        )
        central = QWidget()
        central.setObjectName("desk")
        rows = QVBoxLayout(central)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(0)
        rows.addWidget(self.header)
        rows.addWidget(self.screens.body, 1)
        self.setCentralWidget(central)
        self.screens.body.currentChanged.connect(self._on_screen)
        self.header.set_project(tr("Fox Hand"), "")
        self.stage.setFocus(Qt.FocusReason.OtherFocusReason)

    def _home(self) -> Home:
        theme, workspace, services = self.theme, self.workspace, self._services
        notice, over = self.notice, self.overlays
        self.opener = Opener(self, workspace, services, over.bars, notice, self.sheets)
        self.performances = PerformanceOpener(self, theme, workspace, services, over.bars, notice)
        self.shot_opener = ShotOpener(self, workspace, services, self.opener, notice)
        links = LinkOpener(self, workspace, services, self.opener, self.shot_opener, notice)
        drawing = Drawing(services.pictures, services.jobs)
        export = ExportMenu(
            self, theme, workspace, self.stage, self.sheets, notice, over.work_bar, drawing
        )
        cards = CardController(
            theme, workspace, services.jobs, self.sheets, self.capture, over.frame, notice
        )
        shots = ShotController(
            self,
            workspace,
            self.timeline,
            self.header,
            notice,
            self.opener,
            self.shot_opener,
            export,
        )
        return Home(
            window=self,
            theme=theme,
            workspace=workspace,
            header=self.header,
            stage=self.stage,
            overlays=over,
            figure_panel=self.figure_panel,
            sheets=self.sheets,
            timeline=self.timeline,
            columns=self.columns,
            screens=self.screens,
            cards=cards,
            shots=shots,
            opener=self.opener,
            performances=self.performances,
            drawings=DrawingOpener(self, services.jobs, workspace.long_work, over.bars, notice),
            puppets=PuppetController(workspace, self.stage, notice, over.shelves),
            shot_opener=self.shot_opener,
            links=links,
            export=export,
            looking=CardLooking(self, workspace.applying),
            search_from=WayBack(self.stage),
            help=Help(self, theme, notice, services.support, services.pictures, self.stage.refresh),
            demo_performance=services.demo.performance,
            begin_again=self._begin_again,
            show_jobs=self._show_jobs,
        )

    # -- connecting -----------------------------------------------------------------------

    def _connect(self) -> None:
        home, workspace, over = self.home, self.workspace, self.overlays
        self.header.search.connect(self.sheets.search)
        self.header.open_figure.connect(self.opener.ask_for_rig)
        self.header.menu_asked.connect(partial(main_menu, home))
        self.header.cards_asked.connect(self._to_cards)
        self.header.project_asked.connect(partial(project_menu, home))
        self.header.member_asked.connect(partial(member_menu, home))
        self.stage.menu_asked.connect(partial(stage_menu, home))
        self.sheets.typed.connect(self._type_into_search)
        self.sheets.search_written.connect(self.header.search_field.setText)
        self.figure_panel.told.connect(self.notice.tell)
        self.timeline.tools.between_asked.connect(over.between.begin)
        self.timeline.strip.menu_asked.connect(partial(strip_menu, home))
        self.shot_opener.opened.connect(over.between.put_back)
        self.shot_opener.opened.connect(self._another_shot)
        self.opener.boards_found.connect(over.show_boards)
        self.performances.read.connect(self.screens.show_performance)
        home.drawings.read.connect(self.screens.show_assemble)
        home.drawings.made.connect(self.screens.leave_drawings)
        home.drawings.made.connect(self.opener.open_rig)
        self.opener.newcomer.connect(self.stage.frame_actor)
        home.links.linked.connect(self._on_host)
        over.pill.hang_up_asked.connect(home.links.hang_up)
        self._connect_screens()
        over.mix_bar.choices.fit_asked.connect(self.screens.fit_mix)
        over.mix_bar.store_asked.connect(home.cards.store_mix)
        over.empty.demo_asked.connect(self.shot_opener.open_demo)
        over.empty.open_asked.connect(self.opener.ask_for_rig)
        self.stage.pictures.failed.connect(self.notice.tell_error)
        workspace.failed.connect(self.notice.tell_error)
        workspace.capturing.changed.connect(self._on_capture)
        workspace.actor_changed.connect(self._on_actor)
        self.columns.moved.connect(self._place)
        self.sheets.side.changed.connect(self.columns.make_room)
        self.theme.changed.connect(home.shots.show_where)
        self._connect_applying()

    def _connect_screens(self) -> None:
        screens, drawings = self.screens, self.home.drawings

        def assemble() -> None:
            screen = screens.assemble
            drawings.making.connect(screen.set_making)
            screen.make_asked.connect(drawings.make)
            screen.again_asked.connect(drawings.again)
            screen.more_asked.connect(drawings.ask_more)
            screen.view_asked.connect(drawings.ask_view)
            drawings.read_again.connect(screen.read_again)

        screens.when("assemble", assemble)
        screens.when(
            "pairs", lambda: screens.pairs.saved.connect(self.opener.look_for_changed_rigs)
        )
        screens.when("care", lambda: screens.care.find_rig.connect(self.opener.ask_for_rig))

    def _connect_applying(self) -> None:
        applying, looking = self.workspace.applying, self.home.looking
        self.sheets.put_on.connect(applying.put_on)
        self.sheets.input.add_to_mix.connect(applying.add)
        for pointed in (self.sheets.view.hovered, self.sheets.view.walked):
            pointed.connect(looking.point_at)
        self.sheets.hand.follow(applying, self.workspace.shots)
        applying.told.connect(self.notice.tell)

    def _remember(self) -> None:
        """How everybody stands is written down soon after it changed."""
        workspace = self.workspace
        timer = self._soon
        timer.setSingleShot(True)
        timer.timeout.connect(workspace.save_figure)

        def soon() -> None:
            timer.start()

        for changed in (
            workspace.history.changed,
            workspace.selection.changed,
            workspace.timing.changed,
            self.overlays.boards.changed,
        ):
            changed.connect(soon)
        if workspace.settings_problem is not None:
            self.notice.tell(workspace.settings_problem)

    def _begin_again(self) -> None:
        self.start_work.show()

    def _show_jobs(self) -> None:
        self.jobs_sign.toggle()

    def _on_screen(self) -> None:
        """Another screen lies there, or none."""
        self.header.setVisible(not self.screens.starting)
        self.notice.settle()

    def _another_shot(self) -> None:
        """What was open of the one before is over."""
        for popup in self.findChildren(Popup):
            popup.close()
        self.screens.forget()

    def _on_host(self) -> None:
        """The stage is another program's."""
        if self.screens.starting:
            self.screens.close()
        self._another_shot()
        self.timeline.show_shot()
        few = len(self.workspace.cast) <= SEEN_AT_ONCE
        self.stage.frame_actor(None if few else self.workspace.actor)
        self.overlays.place()

    def _on_actor(self) -> None:
        self.overlays.empty.setVisible(self.workspace.actor is None)
        self.home.shots.show_where()
        self._places.start()

    def _on_capture(self) -> None:
        self.columns.show_capture(self.workspace.capturing.draft is not None)
        self.notice.raise_()
        self._place()

    def _type_into_search(self, text: str) -> None:
        self.home.search_from.remember()
        self.header.search_field.setFocus(Qt.FocusReason.OtherFocusReason)
        self.header.search_field.setText(text)

    def _to_cards(self) -> None:
        """From the search to the first card that was found."""
        view = self.sheets.view
        if view.start():
            view.setFocus(Qt.FocusReason.TabFocusReason)

    # -- keys -----------------------------------------------------------------------------

    def focusNextPrevChild(self, on: bool) -> bool:
        """Header, figure, channels, stage, mix, strip, sheets, and round."""
        return self._focus_order.go(on=on) or super().focusNextPrevChild(on)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Keys arrive here only when the focused widget has no use for them."""
        if self.actions_table.pressed(event, on_stage=self.screens.on_stage):
            event.accept()
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        self.actions_table.released(event)
        super().keyReleaseEvent(event)

    # -- layout ---------------------------------------------------------------------------

    def _restore(self) -> None:
        take_sizes(self.workspace.settings)
        window = self.workspace.settings.window
        if window:
            self.restoreGeometry(QByteArray(base64.b64decode(window)))
        QTimer.singleShot(0, self._restore_columns)

    def _restore_columns(self) -> None:
        self.columns.restore(self.width(), self.height())
        self._place()

    def _place(self) -> None:
        left = self.columns.left_width
        self.header.set_columns(left, self.columns.right.width())
        self.timeline.place(left)
        self.overlays.place()
        if self.capture.bar.isVisible():
            self.capture.bar.place()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self._place)

    # -- files from elsewhere -------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        files = files_in(event.mimeData())
        if files:
            if not keys_in(event.mimeData()):  # cards of our own say it at the pointer
                self._drop_hint.show_for(self.home, files)
            event.acceptProposedAction()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        self._drop_hint.hide()
        super().dragLeaveEvent(event)

    def dropEvent(self, event: QDropEvent) -> None:
        self._drop_hint.hide()
        keys = keys_in(event.mimeData())
        at = self.stage.mapFromGlobal(self.mapToGlobal(event.position().toPoint()))
        if keys:
            entry = self.workspace.open_libraries.entry(keys[0])
            if entry is None or not self.home.puppets.drop(entry, at):
                self.home.cards.drop(keys)
            return
        cards = card_files_in(event.mimeData())
        self.home.cards.bring_in(cards)
        rest = [path for path in files_in(event.mimeData()) if path not in cards]
        for path in rest:
            if can_pin(path) and not holds_drawings(path):
                self.overlays.pin_board(path, at)
        take(self.home, [path for path in rest if not can_pin(path) or holds_drawings(path)])

    def _may_close(self) -> bool:
        work = self.workspace.long_work
        if self.ending or not work.lasting or not self.isVisible():
            return True
        answer = ask_about(self, work.lasting)
        if answer is Closing.WAIT:
            self.hide()
            work.ended.connect(self._close_after)
        elif answer is Closing.STOP:
            for job in work.going:
                job.stop()
            return True
        return False

    def _close_after(self) -> None:
        if not self.workspace.long_work.changing:
            QTimer.singleShot(0, self.close)

    def closeEvent(self, event: QCloseEvent) -> None:
        """What is on the figure is kept, everything is remembered; while something goes on it is
        asked first."""
        if not self._may_close():
            event.ignore()
            return
        self.workspace.linking.end()
        self.workspace.keep_mix()
        self.screens.keep_drawings()
        self.timeline.playing.stop()
        self.workspace.save_figure()
        self.workspace.shots.end()
        geometry = bytes(self.saveGeometry().data())
        self.workspace.settings.window = base64.b64encode(geometry).decode()
        keep_sizes(self.workspace.settings)
        self.workspace.save_settings()
        super().closeEvent(event)


def files_in(data: QMimeData) -> list[Path]:
    """The files of this machine that are dragged."""
    return [Path(u.toLocalFile()) for u in data.urls() if u.isLocalFile()]
