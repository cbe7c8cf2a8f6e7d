"""The menu of cards, and what it asks."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QInputDialog, QMenu

from fox_hand.base.language import tr, tr_n
from fox_hand.library.format.entry import Entry
from fox_hand.session.libraries.known_names import known_tags
from fox_hand.ui.browser.rename_popup import RenamePopup
from fox_hand.ui.browser.tag_popup import TagPopup
from fox_hand.ui.main.home import Home
from fox_hand.ui.outline.sheet_chooser import SheetChooser
from fox_hand.ui.services.desktop import show_file
from fox_hand.ui.theme.plain_text import menu_word
from fox_hand.ui.widgets.passing_menu import passing_menu


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
    word = tr("Lay in") if clip else tr("Put on")
    put_on = menu.addAction(word, lambda: home.workspace.applying.put_on(entry))
    put_on.setEnabled(usable and acting)
    if entry.kind == "drawing":
        give = partial(home.puppets.give_to_selected, entry)
        action = menu.addAction(tr("Give its drawing to the selected part"), give)
        action.setEnabled(usable and acting)
    menu.addAction(
        tr("Compare with the figure"), lambda: home.screens.show_compare(entry)
    ).setEnabled(usable and acting)
    like = tr("Clips like this one") if clip else tr("Poses like this one")
    menu.addAction(like, lambda: home.cards.show_alike(entry)).setEnabled(usable)
    parts = home.cards.parts_of(entry) if usable else []
    if len(parts) > 1:
        inner = menu.addMenu(tr("Like this one in one part"))
        for word, regions in parts:
            run = partial(home.cards.show_alike, entry, regions, tr("its {word}", word=word))
            inner.addAction(word.capitalize(), run)
    menu.addAction(tr("Fit …"), lambda: home.screens.show_fit(entry)).setEnabled(usable and acting)
    select = menu.addAction(tr("Select its controls"), lambda: home.cards.select_card(entry))
    select.setEnabled(usable and acting)
    what = tr("Store these frames over it …") if clip else tr("Store the figure over it …")
    menu.addAction(what, lambda: _store_over(home, entry)).setEnabled(
        usable and acting and not entry.locked
    )
    menu.addAction(tr("Take its picture again …"), lambda: home.cards.retake(entry)).setEnabled(
        usable and acting
    )
    menu.addAction(
        tr("A picture from a file …"), lambda: home.cards.own_pictures.choose(entry)
    ).setEnabled(usable and not entry.locked)
    _add_neutral(home, menu, entry)
    menu.addAction(tr("Earlier versions"), lambda: home.screens.show_versions(entry)).setEnabled(
        usable
    )
    if clip:
        _add_motion(home, menu, entry)
    menu.addSeparator()
    menu.addAction(tr("Rename …\tF2"), lambda: ask_name(home, entry)).setEnabled(usable)
    menu.addAction(tr("Note …"), lambda: _ask_note(home, entry)).setEnabled(usable)
    menu.addAction(tr("Show the file"), partial(show_file, entry.path))


def _add_neutral(home: Home, menu: QMenu, entry: Entry) -> None:
    place = home.workspace.open_libraries.place_of(entry)
    neutral = place.neutral(entry.sheet) == entry.identity
    base = menu.addAction(
        tr("Neutral card of its sheet"),
        partial(
            home.workspace.sheet_commands.set_neutral,
            place,
            entry.sheet,
            "" if neutral else entry.identity,
        ),
    )
    base.setCheckable(True)
    base.setChecked(neutral)
    base.setEnabled(entry.readable and place.writable)


def _add_motion(home: Home, menu: QMenu, entry: Entry) -> None:
    for words, alone in (
        (tr("Its motion, with the character …"), False),
        (tr("Its motion alone …"), True),
    ):
        action = menu.addAction(words, partial(home.shots.take_clip, entry, alone=alone))
        action.setEnabled(entry.readable and home.workspace.actor is not None)


def _store_over(home: Home, entry: Entry) -> None:
    if entry.kind == "clip":
        home.shots.capture_clip(over=entry)
    else:
        home.cards.store_over(entry)


def _many(home: Home, menu: QMenu, entries: list[Entry]) -> None:
    card_commands, open_libraries = home.workspace.card_commands, home.workspace.open_libraries
    usable = [e for e in entries if e.readable]
    if len(usable) == 2:
        menu.addAction(tr("Compare the two"), partial(home.screens.show_compare, *usable))
    favourite = all(open_libraries.personal.favourite(e.identity) for e in usable)
    menu.addAction(tr("Tags …"), lambda: ask_tags(home, usable)).setEnabled(bool(usable))
    menu.addAction(
        tr("No favourite any more\t*") if favourite else tr("Favourite\t*"),
        lambda: card_commands.set_favourite(usable, not favourite),
    ).setEnabled(bool(usable))
    locked = bool(usable) and all(e.locked for e in usable)
    word, only = tr("Unlock") if locked else tr("Approve and lock"), _approvers(home, usable)
    action = menu.addAction(
        menu_word(tr("{word} (only {only} may)", word=word, only=only) if only else word)
    )
    action.triggered.connect(
        lambda: card_commands.unlock(usable) if locked else approve(home, usable)
    )
    action.setEnabled(bool(usable) and not only)
    if len(entries) > 1:
        menu.addAction(
            tr("Take their pictures again …"), lambda: home.cards.ask_reshoot(usable)
        ).setEnabled(bool(usable) and home.workspace.actor is not None)
    menu.addAction(tr("Rename controls …"), lambda: ask_control_names(home, usable)).setEnabled(
        bool(usable)
    )
    menu.addAction(
        tr("Other side, as a card …"), lambda: home.workspace.capturing.mirror(usable, both=False)
    )
    menu.addAction(
        tr("Both sides from one …"), lambda: home.workspace.capturing.mirror(usable, both=True)
    )
    menu.addSeparator()
    menu.addAction(tr("Put into …"), partial(_ask_target, home, entries, copies=False))
    menu.addAction(tr("Copy into …"), partial(_ask_target, home, entries, copies=True))
    menu.addAction(tr("Duplicate\tCtrl+D"), lambda: card_commands.duplicate(usable)).setEnabled(
        bool(usable)
    )
    menu.addSeparator()
    menu.addAction(tr("Take out of the library\tDel"), lambda: home.workspace.take_out(entries))


def ask_control_names(home: Home, entries: list[Entry]) -> None:
    """Rename controls in some cards, seen before it is done."""
    open_libraries = home.workspace.open_libraries
    names = [open_libraries.place_of(e).controls_of(e.shape) for e in entries]
    popup = RenamePopup(home.theme, home.window, names)
    popup.done.connect(lambda rules: home.workspace.card_commands.rename_controls(entries, rules))
    popup.open_above(home.sheets.foot)


def _ask_target(home: Home, entries: list[Entry], *, copies: bool) -> None:
    """Choose the sheet that cards go into, in any library that can be written."""
    open_libraries = home.workspace.open_libraries
    trees = [(p, p.tree()) for p in open_libraries.places if p.ready and p.writable]
    what = (
        entries[0].name
        if len(entries) == 1
        else tr_n("{number:,} card", "{number:,} cards", len(entries))
    )
    words = (
        (tr("Copy {what} into", what=what), tr("Copy"))
        if copies
        else (tr("Put {what} into", what=what), tr("Put"))
    )
    popup = SheetChooser(home.theme, home.window, words, trees)
    put = home.workspace.card_commands.put_in
    popup.chosen.connect(lambda place, sheet: put(entries, place, sheet, copies=copies))
    popup.open_above(home.sheets.foot)


def ask_name(home: Home, entry: Entry) -> None:
    name, given = QInputDialog.getText(
        home.window, tr("Rename"), tr("Name of the card"), text=entry.name
    )
    if given and name.strip() and name.strip() != entry.name:
        home.workspace.card_commands.rename(entry, name.strip())


def _ask_note(home: Home, entry: Entry) -> None:
    note, given = QInputDialog.getMultiLineText(
        home.window, tr("Note"), tr("Note of {name}", name=entry.name), entry.note
    )
    if given and note.strip() != entry.note:
        home.workspace.card_commands.set_note(entry, note.strip())


def ask_tags(home: Home, entries: list[Entry]) -> None:
    """Tags of some cards, in a small sheet at the foot of the cards."""
    places = home.workspace.open_libraries.places
    popup = TagPopup(home.theme, home.window, entries, partial(known_tags, places))
    popup.done.connect(lambda add, remove: home.workspace.card_commands.tag(entries, add, remove))
    popup.open_above(home.sheets.foot)


def _approvers(home: Home, entries: list[Entry]) -> str:
    """Who alone may approve some cards, where this user may not; else empty."""
    open_libraries = home.workspace.open_libraries
    who = {home.workspace.settings.author, open_libraries.who()}
    for place in {open_libraries.place_of(entry) for entry in entries}:
        names = place.library.file.approvers if place.library is not None else ()
        if names and not who & set(names):
            return tr(" or ").join(names)
    return ""


def approve(home: Home, entries: list[Entry]) -> None:
    """Lock cards in one's own name."""
    who = home.workspace.settings.author
    if not who:
        who, given = QInputDialog.getText(home.window, tr("Your name"), tr("Who approves?"))
        if not given or not who.strip():
            return
        home.workspace.settings.author = who.strip()
    home.workspace.card_commands.approve(entries, who.strip())
