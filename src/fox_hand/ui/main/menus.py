"""The window's menus."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QInputDialog, QMenu, QWidget

from fox_hand.base.language import tr
from fox_hand.core.rig.rig import RestFrom
from fox_hand.session.figures.cast import Absent, Member
from fox_hand.session.figures.figure import Figure
from fox_hand.ui.main.home import Home
from fox_hand.ui.theme.plain_text import menu_word
from fox_hand.ui.widgets.passing_menu import passing_menu


def main_menu(home: Home, button: QWidget | None = None) -> None:
    """Bringing in and taking out, libraries, the figure, and what has no place of its own."""
    menu, table = passing_menu(home.window), home.actions_table
    table.fill(menu, "open_figure", "performance", "drawings", "layers", "part_drawing", "take_in")
    home.export.menu(menu.addMenu(tr("Take out")), table)
    table.fill(menu, "", "new_library", "add_library", "charts", "care", "reload")
    table.fill(menu, "", "alike", "pairs", "reset_all", "", "card_names")
    table.fill(menu, "", "hide_figure", "hide_sheets", "sheets_left")
    table.fill(menu, "", "finder", "jobs", "preferences", "start", "")
    table.fill(menu, "manual", "keys", "news", "about", "", "quit")
    at = button or home.header.menu_button
    menu.popup(at.mapToGlobal(at.rect().bottomLeft()))


def project_menu(home: Home) -> None:
    """Shots and projects, the demo, recent figures."""
    menu, table = passing_menu(home.window), home.actions_table
    _add_shots(home, menu)
    home.links.fill(menu.addMenu(tr("Link to an animation program")))
    table.fill(menu, "", "demo", "crew", "demo_performance", "", "open_figure")
    for path in map(Path, home.workspace.settings.recent):
        run = partial(home.opener.open_rig, path)
        menu.addAction(menu_word(path.name), run).setToolTip(str(path))
    button = home.header.project_button
    menu.popup(button.mapToGlobal(button.rect().bottomLeft()))


def _add_shots(home: Home, menu: QMenu) -> None:
    shots, table = home.workspace.shots, home.actions_table
    table.fill(menu, "save", "save_as")
    if shots.path is not None and shots.edited:
        table.fill(menu, "back_to_file")
    menu.addSeparator()
    if shots.project is not None:
        others = menu.addMenu(menu_word(tr("Shots of {name}", name=shots.project.name)))
        for path in shots.project.shot_paths():
            action = others.addAction(menu_word(path.stem), partial(home.shot_opener.open, path))
            action.setCheckable(True)
            action.setChecked(path == shots.path)
    table.fill(menu, "new_shot", "open_shot", "new_project", "open_project")
    recent = [Path(p) for p in home.workspace.settings.recent_shots if p != str(shots.path)]
    if recent:
        known = menu.addMenu(tr("Recent shots"))
        for path in recent:
            known.addAction(menu_word(path.stem), partial(home.shot_opener.open, path)).setToolTip(
                str(path)
            )


def member_menu(home: Home, member: Member, at: QPoint) -> None:
    """What can be done with a member of the cast."""
    workspace, opener, menu = home.workspace, home.opener, passing_menu(home.window)
    if isinstance(member, Absent):
        menu.addAction(
            menu_word(tr("Find the file of {name} …", name=member.name)),
            lambda: opener.find_file(member),
        )
    else:
        menu.addAction(tr("Frame"), lambda: home.stage.frame_actor(member))
        menu.addAction(tr("One more of these"), lambda: opener.open_rig(member.path))
        menu.addAction(tr("Prefix …"), partial(_ask_prefix, home, member))
        menu.addAction(tr("Pairs: left and right …"), lambda: _pairs(home, member))
        if member.path.suffix.lower() == ".vrm":
            expressions = partial(home.performances.expressions, member)
            menu.addAction(tr("Its expressions as cards"), expressions)
        if member.rig.rest_from is not None:
            _add_rest(home, member, menu.addMenu(tr("What counts as rest")))
    menu.addSeparator()
    menu.addAction(tr("Take off the stage"), lambda: workspace.take_off(member))
    menu.popup(at)


def _add_rest(home: Home, member: Figure, menu: QMenu) -> None:
    """For a file that was written in a pose: its own stance, or the one its skin was bound in."""
    words: dict[RestFrom, str] = {
        "skin": tr("The stance its skin was bound in"),
        "nodes": tr("The pose the file was written in"),
    }
    for rest_from, text in words.items():
        action = menu.addAction(text, partial(home.opener.choose_rest, member, rest_from))
        action.setCheckable(True)
        action.setChecked(member.rig.rest_from == rest_from)
    if member.rig.filed is not None:
        menu.addSeparator()
        menu.addAction(
            tr("Stand as the file was written"), partial(home.opener.stand_as_filed, member)
        )


def _pairs(home: Home, member: Figure) -> None:
    home.workspace.act(member)
    home.screens.show_pairs()


def _ask_prefix(home: Home, member: Figure) -> None:
    text, given = QInputDialog.getText(
        home.window,
        tr("Prefix"),
        tr("What tells {name} from others", name=member.name),
        text=member.prefix,
    )
    if given and text.strip():
        home.workspace.rename_member(member, text.strip())
