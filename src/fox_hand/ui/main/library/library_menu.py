"""The menu of libraries, and of their order."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QFileDialog, QInputDialog

from fox_hand.base.language import tr
from fox_hand.library.index.catalogue import Grouping, Sort
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.ui.main.home import Home
from fox_hand.ui.main.library.sheet_menu import ask_sheet
from fox_hand.ui.services.desktop import show_file
from fox_hand.ui.theme.plain_text import menu_word
from fox_hand.ui.widgets.passing_menu import passing_menu

SORTS = {
    Sort.NAME: tr("By name"),
    Sort.NEWEST: tr("Newest first"),
    Sort.USED: tr("Most used first"),
    Sort.REGION: tr("Head to toe"),
    Sort.HAND: tr("As put by hand"),
}
GROUPS = {
    Grouping.SHEET: tr("Sheets"),
    Grouping.REGION: tr("Regions"),
    Grouping.NOTHING: tr("One list"),
}


def _ask_approvers(home: Home, place: OpenLibrary) -> None:
    names = place.library.file.approvers if place.library is not None else ()
    text, given = QInputDialog.getText(
        home.window,
        tr("Who may approve"),
        tr(
            "Who may approve and unlock cards of {name}?\nNames as on their cards, "
            "with commas; without any, everybody may.",
            name=place.name,
        ),
        text=", ".join(names),
    )
    if given:
        wanted = dict.fromkeys(name.strip() for name in text.split(",") if name.strip())
        home.workspace.sheet_commands.set_approvers(place, tuple(wanted))


def library_menu(home: Home, at: QPoint) -> None:
    """Which libraries are open, which is shown, and what can be done with them."""
    open_libraries, menu, only = (
        home.workspace.open_libraries,
        passing_menu(home.window),
        home.sheets.request.only,
    )
    if len(open_libraries.places) > 1:
        every = menu.addAction(tr("All libraries"), lambda: home.sheets.set_library(None))
        every.setCheckable(True)
        every.setChecked(only is None)
    for place in open_libraries.places:
        one = menu.addMenu(menu_word(f"{place.name}{_state(place)}"))
        one.addAction(
            menu_word(tr("Only {name}", name=place.name)),
            partial(home.sheets.set_library, place.number),
        )
        target = one.addAction(tr("New cards go here"), partial(home.cards.set_target, place))
        target.setCheckable(True)
        target.setChecked(place is open_libraries.target)
        target.setEnabled(place.writable)
        one.addSeparator()
        able = place.ready and place.writable
        one.addAction(tr("New sheet …"), partial(ask_sheet, home, place)).setEnabled(able)
        one.addAction(tr("Rename …"), partial(_ask_library_name, home, place)).setEnabled(able)
        names = place.library.file.approvers if place.library is not None else ()
        who = " or ".join(names) or tr("everybody")
        approvers = one.addAction(menu_word(tr("Who may approve: {who} …", who=who)))
        approvers.triggered.connect(partial(_ask_approvers, home, place))
        approvers.setEnabled(able)
        one.addAction(tr("Care …"), partial(home.screens.show_care, place))
        one.addAction(tr("Look for changes\tF5"), partial(open_libraries.look_again, place))
        one.addAction(tr("Show its folder"), partial(show_file, place.folder / "library.toml"))
        one.addSeparator()
        one.addAction(tr("Forget (its files stay)"), partial(home.cards.forget_library, place))
    menu.addSeparator()
    menu.addAction(tr("New library …"), partial(ask_new_library, home))
    menu.addAction(tr("Add a library that is there …"), partial(ask_library, home))
    menu.popup(at)


def _state(place: OpenLibrary) -> str:
    if place.problem is not None:
        return "  (away)"
    if not place.writable:
        return tr("  (read only)")
    return tr("  ({waiting} waiting)", waiting=place.waiting) if place.waiting else ""


def _ask_library_name(home: Home, place: OpenLibrary) -> None:
    name, given = QInputDialog.getText(
        home.window, tr("Rename"), tr("Name of the library"), text=place.name
    )
    if given and name.strip():
        home.workspace.sheet_commands.rename_library(place, name.strip())


def ask_new_library(home: Home) -> None:
    """Make a library in a folder."""
    folder = QFileDialog.getExistingDirectory(home.window, tr("Folder of the new library"))
    if folder:
        known = (Path(folder) / "library.toml").is_file()
        home.opener.open_library(Path(folder), create="" if known else Path(folder).name)


def ask_library(home: Home) -> None:
    """Add a library that is there."""
    folder = QFileDialog.getExistingDirectory(home.window, tr("Folder of the library"))
    if folder:
        home.opener.open_library(Path(folder))


def order_menu(home: Home, at: QPoint) -> None:
    """Order, groups and names."""
    panel, menu = home.sheets, passing_menu(home.window)
    for sort, word in SORTS.items():
        action = menu.addAction(word, partial(panel.set_order, sort))
        action.setCheckable(True)
        action.setChecked(sort is panel.request.sort)
    menu.addSeparator()
    for group, word in GROUPS.items():
        action = menu.addAction(word, partial(panel.set_order, None, group))
        action.setCheckable(True)
        action.setChecked(group is panel.request.group)
    menu.addSeparator()
    labels = menu.addAction(tr("Names on cards"), partial(toggle_labels, home))
    labels.setCheckable(True)
    labels.setChecked(panel.view.labels)
    facets = menu.addAction(
        tr("Facets"), partial(panel.open_facets, not home.workspace.settings.facets)
    )
    facets.setCheckable(True)
    facets.setChecked(home.workspace.settings.facets)
    menu.popup(at)


def toggle_labels(home: Home) -> None:
    view = home.sheets.view
    view.labels = home.workspace.settings.card_labels = not view.labels
    view.relayout()
