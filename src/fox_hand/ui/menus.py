"""The window's menus."""

from __future__ import annotations

from abc import abstractmethod
from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QInputDialog, QMainWindow, QMenu

from fox_hand.library.store import Entry
from fox_hand.session.actor import Actor
from fox_hand.session.cast import Absent, Member
from fox_hand.session.desk import Desk
from fox_hand.ui.header import Header
from fox_hand.ui.opening import Opener
from fox_hand.ui.sheets_panel import SheetsPanel
from fox_hand.ui.stage import Stage


class MenuHome(QMainWindow):
    """What the menus need of the window."""

    desk: Desk
    opener: Opener
    stage: Stage
    sheets: SheetsPanel
    header: Header

    @abstractmethod
    def put_on(self, entry: Entry) -> None: ...

    @abstractmethod
    def select_card(self, entry: Entry) -> None: ...

    @abstractmethod
    def show_pairs(self) -> None: ...

    @abstractmethod
    def show_shortcuts(self) -> None: ...


def card_menu(window: MenuHome, entry: Entry, at: QPoint) -> None:
    """What can be done with a card."""
    desk, menu = window.desk, QMenu(window)
    menu.addAction("Put on", lambda: window.put_on(entry)).setEnabled(entry.card is not None)
    menu.addAction("Select its controls", lambda: window.select_card(entry)).setEnabled(
        entry.card is not None and desk.actor is not None
    )
    menu.addSeparator()
    menu.addAction("Take out of the library", lambda: desk.take_out(entry))
    menu.popup(at)


def main_menu(window: MenuHome) -> None:
    """Everything that has no place of its own."""
    desk, opener, menu = window.desk, window.opener, QMenu(window)
    menu.addAction("Open a figure …", opener.ask_for_rig)
    menu.addAction("Open or make a library …", opener.ask_for_library)
    menu.addAction("Look for changed cards", opener.reload_cards)
    menu.addSeparator()
    menu.addAction("Pairs: left and right …", window.show_pairs).setEnabled(desk.actor is not None)
    menu.addAction("Reset the whole figure", lambda: desk.reset(None, "Reset all"))
    labels = menu.addAction("Names on cards", partial(_toggle_labels, window))
    labels.setCheckable(True)
    labels.setChecked(window.sheets.view.labels)
    menu.addAction("Your name on cards …", partial(_ask_author, window))
    menu.addSeparator()
    menu.addAction("Keys and pointer", window.show_shortcuts)
    button = window.header.menu_button
    menu.popup(button.mapToGlobal(button.rect().bottomLeft()))


def project_menu(window: MenuHome) -> None:
    """The demo and recent figures."""
    desk, opener, menu = window.desk, window.opener, QMenu(window)
    menu.addAction("Open the demo", opener.open_demo)
    menu.addAction("Open a figure …", opener.ask_for_rig)
    recent = [Path(p) for p in desk.settings.recent]
    if recent:
        menu.addSeparator()
    for path in recent:
        menu.addAction(path.name, partial(opener.open_rig, path)).setToolTip(str(path))
    button = window.header.project_button
    menu.popup(button.mapToGlobal(button.rect().bottomLeft()))


def member_menu(window: MenuHome, member: Member, at: QPoint) -> None:
    """What can be done with a member of the cast."""
    desk, opener, menu = window.desk, window.opener, QMenu(window)
    if isinstance(member, Absent):
        menu.addAction(f"Find the file of {member.name} …", lambda: opener.find_file(member))
    else:
        menu.addAction("Frame", lambda: window.stage.frame_actor(member))
        menu.addAction("One more of these", lambda: opener.open_rig(member.path))
        menu.addAction("Prefix …", partial(_ask_prefix, window, member))
        menu.addAction("Pairs: left and right …", lambda: _pairs(window, member))
    menu.addSeparator()
    menu.addAction("Take off the stage", lambda: desk.take_off(member))
    menu.popup(at)


def _pairs(window: MenuHome, member: Actor) -> None:
    window.desk.act(member)
    window.show_pairs()


def _ask_prefix(window: MenuHome, member: Actor) -> None:
    text, given = QInputDialog.getText(
        window, "Prefix", f"What tells {member.name} from others", text=member.prefix
    )
    if given and text.strip():
        window.desk.rename_member(member, text.strip())


def _toggle_labels(window: MenuHome) -> None:
    view = window.sheets.view
    view.labels = window.desk.settings.card_labels = not view.labels
    view.relayout()


def _ask_author(window: MenuHome) -> None:
    settings = window.desk.settings
    name, given = QInputDialog.getText(
        window, "Your name", "New cards are signed with", text=settings.author
    )
    if given:
        settings.author = name.strip()
        window.desk.save_settings()
