"""The window's menus."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QInputDialog, QMenu

from fox_hand.core.rig.rig import RestFrom
from fox_hand.session.figures.cast import Absent, Member
from fox_hand.session.figures.figure import Figure
from fox_hand.ui.main.home import Home
from fox_hand.ui.main.library_menus import ask_library, ask_new_library, toggle_labels
from fox_hand.ui.theme.plain_text import menu_word
from fox_hand.ui.widgets.passing_menu import passing_menu

if TYPE_CHECKING:
    from fox_hand.ui.main.shot_home import ShotHome


def main_menu(home: ShotHome) -> None:
    """Everything that has no place of its own."""
    workspace, opener, menu = home.workspace, home.opener, passing_menu(home)
    menu.addAction("Open a figure …", opener.ask_for_rig)
    menu.addAction("New library …", partial(ask_new_library, home))
    menu.addAction("Add a library …", partial(ask_library, home))
    menu.addAction("Take in a pack …", home.take_out.ask_pack)
    home.take_out.menu(menu.addMenu("Take out"))
    menu.addSeparator()
    menu.addAction("Care of the library …", partial(home.show_care)).setEnabled(
        bool(workspace.shelf.places)
    )
    menu.addAction("Look for changed cards\tF5", opener.reload_cards)
    menu.addSeparator()
    menu.addAction("Cards like the figure", partial(home.show_alike, None)).setEnabled(
        workspace.actor is not None
    )
    menu.addAction("Pairs: left and right …", home.show_pairs).setEnabled(
        workspace.actor is not None
    )
    menu.addAction("Reset the whole figure", lambda: workspace.reset(None, "Reset all"))
    labels = menu.addAction("Names on cards", partial(toggle_labels, home))
    labels.setCheckable(True)
    labels.setChecked(home.sheets.view.labels)
    menu.addAction("Your name on cards …", partial(_ask_author, home))
    menu.addSeparator()
    menu.addAction("Keys and pointer\tF1", home.help.show_keys)
    menu.addAction("About Fox Hand …", home.help.show_about)
    button = home.header.menu_button
    menu.popup(button.mapToGlobal(button.rect().bottomLeft()))


def project_menu(home: ShotHome) -> None:
    """Shots and projects, the demo, recent figures."""
    workspace, opener, menu = home.workspace, home.opener, passing_menu(home)
    _add_shots(home, menu)
    menu.addSeparator()
    menu.addAction("Open the demo", home.shot_opener.open_demo)
    menu.addAction("The demo's crew, nothing keyed", opener.open_crew)
    menu.addAction("Open a figure …", opener.ask_for_rig)
    menu.addAction("Bring in a performance …", opener.ask_for_performance).setEnabled(
        workspace.actor is not None
    )
    performance = home.demo_performance
    menu.addAction(
        "The demo's performance", partial(opener.open_performance, performance)
    ).setEnabled(workspace.actor is not None and performance.is_file())
    recent = [Path(p) for p in workspace.settings.recent]
    if recent:
        menu.addSeparator()
    for path in recent:
        menu.addAction(menu_word(path.name), partial(opener.open_rig, path)).setToolTip(str(path))
    button = home.header.project_button
    menu.popup(button.mapToGlobal(button.rect().bottomLeft()))


def _add_shots(home: ShotHome, menu: QMenu) -> None:
    shots = home.workspace.shots
    menu.addAction("Save the shot\tCtrl+S", home.save_shot).setEnabled(
        home.workspace.actor is not None
    )
    menu.addAction("Save the shot as …\tCtrl+Shift+S", home.save_shot_as)
    if shots.path is not None and shots.edited:
        menu.addAction("Back to the file as it was saved", home.shot_opener.go_back)
    menu.addSeparator()
    if shots.project is not None:
        others = menu.addMenu(menu_word(f"Shots of {shots.project.name}"))
        for path in shots.project.shot_paths():
            action = others.addAction(menu_word(path.stem), partial(home.shot_opener.open, path))
            action.setCheckable(True)
            action.setChecked(path == shots.path)
    menu.addAction("New shot …", home.ask_new_shot)
    menu.addAction("Open a shot …", home.ask_for_shot)
    menu.addAction("New project …", home.ask_new_project)
    menu.addAction("Open a project …", home.ask_for_project)
    recent = [Path(p) for p in home.workspace.settings.recent_shots if p != str(shots.path)]
    if recent:
        known = menu.addMenu("Recent shots")
        for path in recent:
            known.addAction(menu_word(path.stem), partial(home.shot_opener.open, path)).setToolTip(
                str(path)
            )


def member_menu(home: Home, member: Member, at: QPoint) -> None:
    """What can be done with a member of the cast."""
    workspace, opener, menu = home.workspace, home.opener, passing_menu(home)
    if isinstance(member, Absent):
        menu.addAction(
            menu_word(f"Find the file of {member.name} …"), lambda: opener.find_file(member)
        )
    else:
        menu.addAction("Frame", lambda: home.stage.frame_actor(member))
        menu.addAction("One more of these", lambda: opener.open_rig(member.path))
        menu.addAction("Prefix …", partial(_ask_prefix, home, member))
        menu.addAction("Pairs: left and right …", lambda: _pairs(home, member))
        if member.rig.rest_from is not None:
            _add_rest(home, member, menu.addMenu("What counts as rest"))
    menu.addSeparator()
    menu.addAction("Take off the stage", lambda: workspace.take_off(member))
    menu.popup(at)


def _add_rest(home: Home, member: Figure, menu: QMenu) -> None:
    """For a file that was written in a pose: its own stance, or the one its skin was bound in."""
    words: dict[RestFrom, str] = {
        "skin": "The stance its skin was bound in",
        "nodes": "The pose the file was written in",
    }
    for rest_from, text in words.items():
        action = menu.addAction(text, partial(home.opener.choose_rest, member, rest_from))
        action.setCheckable(True)
        action.setChecked(member.rig.rest_from == rest_from)
    if member.rig.filed is not None:
        menu.addSeparator()
        menu.addAction("Stand as the file was written", partial(home.opener.stand_as_filed, member))


def _pairs(home: Home, member: Figure) -> None:
    home.workspace.act(member)
    home.show_pairs()


def _ask_prefix(home: Home, member: Figure) -> None:
    text, given = QInputDialog.getText(
        home, "Prefix", f"What tells {member.name} from others", text=member.prefix
    )
    if given and text.strip():
        home.workspace.rename_member(member, text.strip())


def _ask_author(home: Home) -> None:
    settings = home.workspace.settings
    name, given = QInputDialog.getText(
        home, "Your name", "New cards are signed with", text=settings.author
    )
    if given:
        settings.author = name.strip()
        home.workspace.save_settings()
