"""What menus and commands reach of the window."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from PySide6.QtWidgets import QMainWindow

from fox_hand.session.app.workspace import Workspace
from fox_hand.ui.apply.card_looking import CardLooking
from fox_hand.ui.browser.sheets_panel import SheetsPanel
from fox_hand.ui.commands.actions import Actions
from fox_hand.ui.exchange.drawing_opening import DrawingOpener
from fox_hand.ui.exchange.export_menu import ExportMenu
from fox_hand.ui.exchange.link_opening import LinkOpener
from fox_hand.ui.exchange.opening import Opener
from fox_hand.ui.exchange.performance_opening import PerformanceOpener
from fox_hand.ui.exchange.shot_opening import ShotOpener
from fox_hand.ui.help.help import Help
from fox_hand.ui.main.card_controller import CardController
from fox_hand.ui.main.columns import WindowColumns
from fox_hand.ui.main.focus_order import WayBack
from fox_hand.ui.main.header import Header
from fox_hand.ui.main.overlays import Overlays
from fox_hand.ui.main.puppet_controller import PuppetController
from fox_hand.ui.main.shot_controller import ShotController
from fox_hand.ui.main.showing.open_screens import Screens
from fox_hand.ui.main.timeline_area import TimelineArea
from fox_hand.ui.picker.figure_panel import FigurePanel
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.theme import Theme


@dataclass(eq=False)
class Home:
    """The parts of one window. They do not know one another; who needs several takes this.

    Args:
        window: parent of menus and dialogs.
        theme, workspace: what everything shows.
        header, stage, overlays, figure_panel, sheets, timeline, columns: what is in sight.
        screens, cards, shots: what is done from menus.
        opener, performances, drawings, shot_opener, export: bring in and take out.
        links: to other programs.
        puppets: what is done with drawings of puppets.
        looking: looks at cards while a key is held.
        search_from: where the keyboard was before it went to the search field.
        help: about the program.
        demo_performance: the shipped motion file.
        begin_again: shows the screen of a start.
        show_jobs: opens the panel of long work, or shuts it.
        actions_table: every command; made from this.
    """

    window: QMainWindow
    theme: Theme
    workspace: Workspace
    header: Header
    stage: Stage
    overlays: Overlays
    figure_panel: FigurePanel
    sheets: SheetsPanel
    timeline: TimelineArea
    columns: WindowColumns
    screens: Screens
    cards: CardController
    shots: ShotController
    opener: Opener
    performances: PerformanceOpener
    drawings: DrawingOpener
    puppets: PuppetController
    shot_opener: ShotOpener
    links: LinkOpener
    export: ExportMenu
    looking: CardLooking
    search_from: WayBack
    help: Help
    demo_performance: Path
    begin_again: Callable[[], None]
    show_jobs: Callable[[], None]
    actions_table: Actions = field(init=False)
