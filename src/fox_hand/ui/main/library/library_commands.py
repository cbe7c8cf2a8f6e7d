"""Commands about libraries and sheets."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt

from fox_hand.base.language import tr
from fox_hand.ui.commands.actions import Command
from fox_hand.ui.main.home import Home
from fox_hand.ui.main.library.library_menu import ask_library, ask_new_library, toggle_labels
from fox_hand.ui.main.window_keys import CARDS

LIBRARY = tr("Library")


def library_commands(home: Home, acts: Callable[[], bool]) -> list[Command]:
    """What is done with libraries, and how one finds one's way in them.

    Args:
        home: the window's parts.
        acts: whether anybody acts.
    """
    return [*_libraries(home), *_finding_ones_way(home), *_about_cards(home, acts)]


def _libraries(home: Home) -> list[Command]:
    return [
        Command(
            "new_library",
            tr("New library …"),
            partial(ask_new_library, home),
            group=LIBRARY,
            icon="library",
        ),
        Command(
            "add_library",
            tr("Add a library that is there …"),
            partial(ask_library, home),
            group=LIBRARY,
            icon="library",
        ),
        Command(
            "charts",
            tr("Charts"),
            home.screens.show_charts,
            ("F9",),
            CARDS,
            icon="images",
            more=tr("what characters should have, and what is missing"),
            ready=lambda: bool(home.workspace.open_libraries.places),
        ),
        Command(
            "care",
            tr("Care of the library …"),
            home.screens.show_care,
            group=LIBRARY,
            icon="file-warning",
            more=tr("conflicts, twins, what was taken out"),
            ready=lambda: bool(home.workspace.open_libraries.places),
        ),
        Command(
            "reload",
            tr("Look for changed cards"),
            home.opener.reload_cards,
            ("F5",),
            CARDS,
            icon="refresh-cw",
        ),
    ]


def _about_cards(home: Home, acts: Callable[[], bool]) -> list[Command]:
    view = home.sheets.view
    return [
        Command(
            "alike",
            tr("Cards like the figure"),
            home.cards.show_alike,
            group=LIBRARY,
            icon="copy",
            ready=acts,
        ),
        Command(
            "card_names",
            tr("Names on cards"),
            partial(toggle_labels, home),
            group=tr("Settings"),
            icon="tag",
            checked=lambda: view.labels,
        ),
    ]


def _finding_ones_way(home: Home) -> list[Command]:
    sheets, settings = home.sheets, home.workspace.settings

    def outline() -> None:
        home.columns.show_sheets()
        sheets.side.set_shown(not sheets.side.shown)
        if sheets.side.shown:
            sheets.outline.to_rows()
        else:
            sheets.view.setFocus(Qt.FocusReason.OtherFocusReason)

    return [
        Command(
            "outline",
            tr("Outline of the sheets"),
            outline,
            ("F8",),
            CARDS,
            icon="outline",
            checked=lambda: sheets.side.shown,
        ),
        Command(
            "facets",
            tr("Facets of the cards"),
            lambda: sheets.open_facets(not settings.facets),
            ("Shift+F8",),
            CARDS,
            icon="list-filter",
            checked=lambda: settings.facets,
        ),
        Command(
            "all_sheets",
            tr("All sheets again"),
            sheets.widen,
            group=CARDS,
            icon="x",
            ready=lambda: bool(sheets.request.within),
        ),
        Command(
            "keep_search",
            tr("Keep this search …"),
            sheets.outline.list.keep_asked.emit,
            group=LIBRARY,
            icon="search",
        ),
    ]
