"""Menus of cards, sheets and libraries."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint
from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QFileDialog, QInputDialog, QMenu

from fox_hand.library.format.entry import Entry
from fox_hand.library.index.catalogue import Grouping, Sort
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.libraries.request import Shown
from fox_hand.ui.browser.rename_popup import RenamePopup
from fox_hand.ui.browser.sheets_panel import MORE
from fox_hand.ui.browser.tag_popup import TagPopup
from fox_hand.ui.cards.card_words import counted
from fox_hand.ui.main.home import Home
from fox_hand.ui.services.desktop import show_file
from fox_hand.ui.theme.plain_text import menu_word
from fox_hand.ui.widgets.passing_menu import passing_menu

SORTS = {
    Sort.NAME: "By name",
    Sort.NEWEST: "Newest first",
    Sort.USED: "Most used first",
    Sort.REGION: "Head to toe",
    Sort.HAND: "As put by hand",
}
GROUPS = {Grouping.SHEET: "Sheets", Grouping.REGION: "Regions", Grouping.NOTHING: "One list"}
COLOURS = {  # for headings; the name is what is read out
    "": "No colour",
    "#C98A93": "Rose",
    "#D9A15F": "Amber",
    "#A9B86A": "Moss",
    "#5FB3A3": "Sea",
    "#6FA3D8": "Sky",
    "#B79AE0": "Heather",
}


def card_menu(home: Home, entry: Entry, at: QPoint) -> None:
    """What can be done with a card, or with all that are ticked."""
    entries = home.sheets.view.chosen() if home.sheets.view.choice.ticked else [entry]
    menu = passing_menu(home.window)
    if len(entries) == 1:
        _one(home, menu, entries[0])
        menu.addSeparator()
    _many(home, menu, entries)
    menu.popup(at)


def _one(home: Home, menu: QMenu, entry: Entry) -> None:
    usable, acting = entry.readable, home.workspace.actor is not None
    clip = entry.kind == "clip"
    word = "Lay in" if clip else "Put on"
    menu.addAction(word, lambda: home.workspace.applying.put_on(entry)).setEnabled(
        usable and acting
    )
    menu.addAction("Compare with the figure", lambda: home.screens.show_compare(entry)).setEnabled(
        usable and acting
    )
    like = "Clips like this one" if clip else "Poses like this one"
    menu.addAction(like, lambda: home.cards.show_alike(entry)).setEnabled(usable)
    parts = home.cards.parts_of(entry) if usable else []
    if len(parts) > 1:
        inner = menu.addMenu("Like this one in one part")
        for word, regions in parts:
            run = partial(home.cards.show_alike, entry, regions, f"its {word}")
            inner.addAction(word.capitalize(), run)
    menu.addAction("Fit …", lambda: home.screens.show_fit(entry)).setEnabled(usable and acting)
    menu.addAction("Select its controls", lambda: home.cards.select_card(entry)).setEnabled(
        usable and acting
    )
    what = "Store these frames over it …" if clip else "Store the figure over it …"
    menu.addAction(what, lambda: _store_over(home, entry)).setEnabled(
        usable and acting and not entry.locked
    )
    menu.addAction("Take its picture again …", lambda: home.cards.retake(entry)).setEnabled(
        usable and acting
    )
    menu.addAction(
        "A picture from a file …", lambda: home.cards.own_pictures.choose(entry)
    ).setEnabled(usable and not entry.locked)
    place = home.workspace.open_libraries.place_of(entry)
    neutral = place.neutral(entry.sheet) == entry.identity
    base = menu.addAction(
        "Neutral card of its sheet",
        partial(
            home.workspace.card_commands.set_neutral,
            place,
            entry.sheet,
            "" if neutral else entry.identity,
        ),
    )
    base.setCheckable(True)
    base.setChecked(neutral)
    base.setEnabled(usable and place.writable)
    menu.addAction("Earlier versions", lambda: home.screens.show_versions(entry)).setEnabled(usable)
    if clip:
        for words, alone in (
            ("Its motion, with the character …", False),
            ("Its motion alone …", True),
        ):
            action = menu.addAction(words, partial(home.shots.take_clip, entry, alone=alone))
            action.setEnabled(usable and acting)
    menu.addSeparator()
    menu.addAction("Rename …\tF2", lambda: ask_name(home, entry)).setEnabled(usable)
    menu.addAction("Note …", lambda: _ask_note(home, entry)).setEnabled(usable)
    menu.addAction("Show the file", partial(show_file, entry.path))


def _store_over(home: Home, entry: Entry) -> None:
    if entry.kind == "clip":
        home.shots.capture_clip(over=entry)
    else:
        home.cards.store_over(entry)


def _many(home: Home, menu: QMenu, entries: list[Entry]) -> None:
    card_commands, open_libraries = home.workspace.card_commands, home.workspace.open_libraries
    usable = [e for e in entries if e.readable]
    if len(usable) == 2:
        menu.addAction("Compare the two", partial(home.screens.show_compare, *usable))
    favourite = all(open_libraries.personal.favourite(e.identity) for e in usable)
    menu.addAction("Tags …", lambda: ask_tags(home, usable)).setEnabled(bool(usable))
    menu.addAction(
        "No favourite any more\t*" if favourite else "Favourite\t*",
        lambda: card_commands.set_favourite(usable, not favourite),
    ).setEnabled(bool(usable))
    locked = bool(usable) and all(e.locked for e in usable)
    word, only = "Unlock" if locked else "Approve and lock", _approvers(home, usable)
    action = menu.addAction(menu_word(f"{word} (only {only} may)" if only else word))
    action.triggered.connect(
        lambda: card_commands.unlock(usable) if locked else approve(home, usable)
    )
    action.setEnabled(bool(usable) and not only)
    if len(entries) > 1:
        menu.addAction(
            "Take their pictures again …", lambda: home.cards.ask_reshoot(usable)
        ).setEnabled(bool(usable) and home.workspace.actor is not None)
    menu.addAction("Rename controls …", lambda: ask_control_names(home, usable)).setEnabled(
        bool(usable)
    )
    menu.addAction(
        "Other side, as a card …", lambda: home.workspace.capturing.mirror(usable, both=False)
    )
    menu.addAction(
        "Both sides from one …", lambda: home.workspace.capturing.mirror(usable, both=True)
    )
    menu.addSeparator()
    _targets(home, menu.addMenu("Put into"), entries, copies=False)
    _targets(home, menu.addMenu("Copy into"), entries, copies=True)
    menu.addAction("Duplicate\tCtrl+D", lambda: card_commands.duplicate(usable)).setEnabled(
        bool(usable)
    )
    menu.addSeparator()
    menu.addAction("Take out of the library\tDel", lambda: home.workspace.take_out(entries))


def ask_control_names(home: Home, entries: list[Entry]) -> None:
    """Rename controls in some cards, seen before it is done."""
    open_libraries = home.workspace.open_libraries
    names = [open_libraries.place_of(e).controls_of(e.shape) for e in entries]
    popup = RenamePopup(home.theme, home.window, names)
    popup.done.connect(lambda rules: home.workspace.card_commands.rename_controls(entries, rules))
    popup.open_above(home.sheets.foot)


def _targets(home: Home, menu: QMenu, entries: list[Entry], *, copies: bool) -> None:
    open_libraries = home.workspace.open_libraries
    for place in open_libraries.places:
        if not (place.ready and place.writable):
            continue
        into = menu.addMenu(menu_word(place.name)) if len(open_libraries.places) > 1 else menu
        for sheet in place.sheets:
            into.addAction(
                menu_word(sheet.replace("/", " / ")),
                partial(home.workspace.card_commands.put_in, entries, place, sheet, copies=copies),
            )
        into.addAction("A new sheet …", partial(_into_new, home, entries, place, copies))


def _into_new(home: Home, entries: list[Entry], place: OpenLibrary, copies: bool) -> None:
    name, given = QInputDialog.getText(
        home.window, "New sheet", "Name, with / for a sheet in another"
    )
    if given and name.strip():
        home.workspace.card_commands.put_in(entries, place, name.strip().strip("/"), copies=copies)


def ask_name(home: Home, entry: Entry) -> None:
    name, given = QInputDialog.getText(home.window, "Rename", "Name of the card", text=entry.name)
    if given and name.strip() and name.strip() != entry.name:
        home.workspace.card_commands.rename(entry, name.strip())


def _ask_note(home: Home, entry: Entry) -> None:
    note, given = QInputDialog.getMultiLineText(
        home.window, "Note", f"Note of {entry.name}", entry.note
    )
    if given and note.strip() != entry.note:
        home.workspace.card_commands.set_note(entry, note.strip())


def ask_tags(home: Home, entries: list[Entry]) -> None:
    """Tags of some cards, in a small sheet at the foot of the cards."""
    popup = TagPopup(home.theme, home.window, entries)
    popup.done.connect(lambda add, remove: home.workspace.card_commands.tag(entries, add, remove))
    popup.open_above(home.sheets.foot)


def _approvers(home: Home, entries: list[Entry]) -> str:
    """Who alone may approve some cards, where this user may not; else empty."""
    open_libraries = home.workspace.open_libraries
    who = {home.workspace.settings.author, open_libraries.who()}
    for place in {open_libraries.place_of(entry) for entry in entries}:
        names = place.library.file.approvers if place.library is not None else ()
        if names and not who & set(names):
            return " or ".join(names)
    return ""


def _ask_approvers(home: Home, place: OpenLibrary) -> None:
    names = place.library.file.approvers if place.library is not None else ()
    text, given = QInputDialog.getText(
        home.window,
        "Who may approve",
        f"Who may approve and unlock cards of {place.name}?\n"
        "Names as on their cards, with commas; without any, everybody may.",
        text=", ".join(names),
    )
    if given:
        wanted = dict.fromkeys(name.strip() for name in text.split(",") if name.strip())
        home.workspace.card_commands.set_approvers(place, tuple(wanted))


def approve(home: Home, entries: list[Entry]) -> None:
    """Lock cards in one's own name."""
    who = home.workspace.settings.author
    if not who:
        who, given = QInputDialog.getText(home.window, "Your name", "Who approves?")
        if not given or not who.strip():
            return
        home.workspace.settings.author = who.strip()
    home.workspace.card_commands.approve(entries, who.strip())


def sheet_menu(home: Home, shown: Shown, at: QPoint) -> None:
    """What can be done with a sheet."""
    card_commands, place, sheet = home.workspace.card_commands, shown.place, shown.sheet
    menu = passing_menu(home.window)
    keys = shown.keys.tolist()
    menu.addAction("Tick all its cards", lambda: home.sheets.view.choice.set_ticked(keys))
    able = place.ready and place.writable
    menu.addAction("New sheet …", partial(ask_sheet, home, place)).setEnabled(able)
    if sheet:
        menu.addSeparator()
        menu.addAction("Rename or move …", partial(_ask_move, home, shown)).setEnabled(able)
        merge = menu.addMenu("Merge into")
        merge.setEnabled(able)
        for other in place.sheets:
            if other != sheet:
                merge.addAction(
                    menu_word(other.replace("/", " / ")),
                    partial(card_commands.merge_sheet, place, sheet, other),
                )
        colours = menu.addMenu("Colour")
        colours.setEnabled(able)
        for value, word in COLOURS.items():
            action = colours.addAction(
                word, partial(card_commands.colour_sheet, place, sheet, value)
            )
            if value:
                action.setIcon(_dot(value))
        _order(home, menu, place, sheet, able)
        word = f"Remove, {counted(len(keys), 'card')} into the keep" if keys else "Remove"
        menu.addAction(word, partial(home.cards.remove_sheet, shown)).setEnabled(able)
    menu.popup(at)


def _dot(value: str) -> QIcon:
    pixmap = QPixmap(12, 12)
    pixmap.fill(QColor(value))
    return QIcon(pixmap)


def _order(home: Home, menu: QMenu, place: OpenLibrary, sheet: str, able: bool) -> None:
    sheets = list(place.sheets)
    at = sheets.index(sheet) if sheet in sheets else -1

    def move(step: int) -> None:
        sheets.insert(at + step, sheets.pop(at))
        home.workspace.card_commands.order_sheets(place, tuple(sheets))

    menu.addAction("Further up", lambda: move(-1)).setEnabled(able and at > 0)
    menu.addAction("Further down", lambda: move(1)).setEnabled(able and -1 < at < len(sheets) - 1)
    menu.addSeparator()


def ask_sheet(home: Home, place: OpenLibrary) -> None:
    name, given = QInputDialog.getText(
        home.window, "New sheet", "Name, with / for a sheet in another"
    )
    if given and name.strip():
        home.workspace.card_commands.make_sheet(place, name.strip())


def _ask_move(home: Home, shown: Shown) -> None:
    sheet = shown.sheet or ""
    name, given = QInputDialog.getText(
        home.window, "Rename or move", "Name, with / for a sheet in another", text=sheet
    )
    if given and name.strip() and name.strip() != sheet:
        home.workspace.card_commands.move_sheet(shown.place, sheet, name.strip())


def library_menu(home: Home, at: QPoint) -> None:
    """Which libraries are open, which is shown, and what can be done with them."""
    open_libraries, menu, only = (
        home.workspace.open_libraries,
        passing_menu(home.window),
        home.sheets.request.only,
    )
    if len(open_libraries.places) > 1:
        every = menu.addAction("All libraries", lambda: home.sheets.set_library(None))
        every.setCheckable(True)
        every.setChecked(only is None)
    for place in open_libraries.places:
        one = menu.addMenu(menu_word(f"{place.name}{_state(place)}"))
        one.addAction(
            menu_word(f"Only {place.name}"), partial(home.sheets.set_library, place.number)
        )
        target = one.addAction("New cards go here", partial(home.cards.set_target, place))
        target.setCheckable(True)
        target.setChecked(place is open_libraries.target)
        target.setEnabled(place.writable)
        one.addSeparator()
        able = place.ready and place.writable
        one.addAction("New sheet …", partial(ask_sheet, home, place)).setEnabled(able)
        one.addAction("Rename …", partial(_ask_library_name, home, place)).setEnabled(able)
        names = place.library.file.approvers if place.library is not None else ()
        who = " or ".join(names) or "everybody"
        approvers = one.addAction(menu_word(f"Who may approve: {who} …"))
        approvers.triggered.connect(partial(_ask_approvers, home, place))
        approvers.setEnabled(able)
        one.addAction("Care …", partial(home.screens.show_care, place))
        one.addAction("Look for changes\tF5", partial(open_libraries.look_again, place))
        one.addAction("Show its folder", partial(show_file, place.folder / "library.toml"))
        one.addSeparator()
        one.addAction("Forget (its files stay)", partial(home.cards.forget_library, place))
    menu.addSeparator()
    menu.addAction("New library …", partial(ask_new_library, home))
    menu.addAction("Add a library that is there …", partial(ask_library, home))
    menu.popup(at)


def _state(place: OpenLibrary) -> str:
    if place.problem is not None:
        return "  (away)"
    if not place.writable:
        return "  (read only)"
    return f"  ({place.waiting} waiting)" if place.waiting else ""


def _ask_library_name(home: Home, place: OpenLibrary) -> None:
    name, given = QInputDialog.getText(
        home.window, "Rename", "Name of the library", text=place.name
    )
    if given and name.strip():
        home.workspace.card_commands.rename_library(place, name.strip())


def ask_new_library(home: Home) -> None:
    """Make a library in a folder."""
    folder = QFileDialog.getExistingDirectory(home.window, "Folder of the new library")
    if folder:
        known = (Path(folder) / "library.toml").is_file()
        home.opener.open_library(Path(folder), create="" if known else Path(folder).name)


def ask_library(home: Home) -> None:
    """Add a library that is there."""
    folder = QFileDialog.getExistingDirectory(home.window, "Folder of the library")
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
    labels = menu.addAction("Names on cards", partial(toggle_labels, home))
    labels.setCheckable(True)
    labels.setChecked(panel.view.labels)
    if not panel.filter_button.isVisible():  # a narrow column has no room for it
        _filters(home, menu.addMenu("Show only"))
    menu.popup(at)


def toggle_labels(home: Home) -> None:
    view = home.sheets.view
    view.labels = home.workspace.settings.card_labels = not view.labels
    view.relayout()


def filter_menu(home: Home, at: QPoint) -> None:
    """Filters that are not always in sight."""
    menu = passing_menu(home.window)
    _filters(home, menu)
    menu.popup(at)


def _filters(home: Home, menu: QMenu) -> None:
    panel = home.sheets
    for key, (word, _) in MORE.items():
        action = menu.addAction(word, partial(panel.switch, key))
        action.setCheckable(True)
        action.setChecked(key in panel.more)
