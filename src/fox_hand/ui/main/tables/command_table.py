"""Every command of the window, in one table that menus, keys and the finder are made from."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt

from fox_hand.base.language import tr
from fox_hand.ui.commands.actions import Command, always
from fox_hand.ui.main.choices.help_pages import show_manual, show_news
from fox_hand.ui.main.home import Home
from fox_hand.ui.main.library.library_commands import library_commands
from fox_hand.ui.main.places_to_go import show_finder
from fox_hand.ui.main.tables.figure_commands import (
    acts,
    capture_commands,
    figure_commands,
    frame_commands,
    view_commands,
)
from fox_hand.ui.main.window_keys import show_keys, window_keys

SHOT, LIBRARY, FIGURE = tr("Shot"), tr("Library"), tr("Figure")
EVERYWHERE = tr("Everywhere")


def command_table(home: Home) -> list[Command]:
    """In the order in which they are shown."""
    return [
        *_everywhere(home),
        *_help(home),
        *_application(home),
        *_shots(home),
        *_projects(home),
        *_bringing_in(home),
        *library_commands(home, acts(home)),
        *figure_commands(home),
        *view_commands(home),
        *home.columns.commands(),
        *frame_commands(home),
        *capture_commands(home),
        *window_keys(home),
    ]


def _everywhere(home: Home) -> list[Command]:
    field = home.header.search_field

    def focus() -> None:
        home.search_from.remember()
        home.columns.show_sheets()
        field.setFocus(Qt.FocusReason.ShortcutFocusReason)

    group = EVERYWHERE
    return [
        Command(
            "undo",
            tr("Undo"),
            partial(_step, home, back=True),
            ("Ctrl+Z",),
            group,
            icon="undo-2",
        ),
        Command(
            "redo",
            tr("Redo"),
            partial(_step, home, back=False),
            ("Ctrl+Shift+Z",),
            group,
            icon="redo-2",
        ),
        Command(
            "finder",
            tr("Find a command …"),
            partial(show_finder, home),
            ("F3",),
            group,
            icon="search",
        ),
        Command("find_cards", tr("Find cards"), focus, ("Ctrl+F",), group, icon="search"),
    ]


def _help(home: Home) -> list[Command]:
    group = EVERYWHERE
    return [
        Command(
            "manual", tr("Manual"), partial(show_manual, home), ("F1",), group, icon="book-text"
        ),
        Command(
            "keys",
            tr("Keys and pointer"),
            partial(show_keys, home),
            ("Shift+F1",),
            group,
            icon="info",
        ),
        Command("news", tr("What is new"), partial(show_news, home), group=tr("Help"), icon="info"),
        Command(
            "about", tr("About Fox Hand …"), home.help.show_about, group=tr("Help"), icon="info"
        ),
    ]


def _application(home: Home) -> list[Command]:
    group = EVERYWHERE
    return [
        Command(
            "preferences",
            tr("Preferences …"),
            home.screens.show_preferences,
            ("Ctrl+,",),
            group,
            tr("name, libraries, theme, size, keys"),
            "settings",
        ),
        Command("jobs", tr("Long jobs"), home.show_jobs, group=group, icon="list-checks"),
        Command("start", tr("Start screen"), home.begin_again, group=group, icon="history"),
        Command(
            "quit",
            tr("Quit"),
            home.window.close,
            ("Ctrl+Q",),
            group,
            tr("work is written down first"),
            "x",
        ),
    ]


def _shots(home: Home) -> list[Command]:
    shots = home.workspace.shots
    group = EVERYWHERE
    return [
        Command(
            "save",
            tr("Save the shot"),
            home.shots.save,
            ("Ctrl+S",),
            group,
            icon="save",
            ready=acts(home),
        ),
        Command(
            "save_as",
            tr("Save the shot as …"),
            home.shots.save_as,
            ("Ctrl+Shift+S",),
            group,
            icon="save",
        ),
        Command(
            "back_to_file",
            tr("Back to the file as it was saved"),
            home.shot_opener.go_back,
            group=SHOT,
            icon="rotate-ccw",
            ready=lambda: shots.path is not None and shots.edited,
        ),
    ]


def _projects(home: Home) -> list[Command]:
    return [
        Command(
            "new_shot", tr("New shot …"), home.shots.ask_new_shot, group=SHOT, icon="clapperboard"
        ),
        Command(
            "open_shot",
            tr("Open a shot …"),
            home.shots.ask_for_shot,
            group=SHOT,
            icon="clapperboard",
        ),
        Command(
            "new_project",
            tr("New project …"),
            home.shots.ask_new_project,
            group=SHOT,
            icon="folder-plus",
        ),
        Command(
            "open_project",
            tr("Open a project …"),
            home.shots.ask_for_project,
            group=SHOT,
            icon="folder-plus",
        ),
        Command(
            "demo", tr("Open the demo"), home.shot_opener.open_demo, group=SHOT, icon="book-open"
        ),
        Command(
            "link",
            tr("Link to an animation program …"),
            lambda: home.links.show_menu(home.header.project_button),
            group=SHOT,
            icon="link",
        ),
        Command(
            "crew",
            tr("The demo's crew, nothing keyed"),
            home.opener.open_crew,
            group=SHOT,
            icon="users",
        ),
    ]


def _bringing_in(home: Home) -> list[Command]:
    opener, out, ready = home.opener, home.export, acts(home)
    performance = home.demo_performance
    group = tr("Bring in and take out")

    def there() -> bool:
        return ready() and performance.is_file()

    return [
        Command(
            "open_figure",
            tr("Open a figure …"),
            opener.ask_for_rig,
            ("Ctrl+O",),
            EVERYWHERE,
            icon="person-standing",
        ),
        Command(
            "performance",
            tr("Bring in a performance …"),
            home.performances.ask,
            group=group,
            icon="film",
            ready=ready,
        ),
        *_bringing_drawings(home),
        Command(
            "expressions",
            tr("Expressions of this figure's file as cards"),
            partial(_expressions, home),
            group=group,
            icon="smile",
            more="VRM",
            ready=ready,
        ),
        Command(
            "demo_performance",
            tr("The demo's performance"),
            partial(home.performances.open, performance),
            group=group,
            icon="film",
            ready=there,
        ),
        Command("take_in", tr("Take in a pack …"), out.ask_pack, group=group, icon="archive"),
        *_taking_out(home),
    ]


def _bringing_drawings(home: Home) -> list[Command]:
    group = tr("Bring in and take out")
    return [
        Command(
            "drawings",
            tr("Puppet from a folder of drawings …"),
            home.drawings.ask_folder,
            group=group,
            icon="layers",
        ),
        Command(
            "layers",
            tr("Puppet from a layered file …"),
            home.drawings.ask_file,
            group=group,
            icon="layers",
        ),
        Command(
            "part_drawing",
            tr("A drawing for the selected part …"),
            home.puppets.ask_picture,
            group=group,
            icon="layers",
            ready=acts(home),
        ),
    ]


def _expressions(home: Home) -> None:
    actor = home.workspace.actor
    if actor is not None:
        home.performances.expressions(actor)


def _taking_out(home: Home) -> list[Command]:
    out, ready = home.export, acts(home)
    of_the_shot: tuple[tuple[str, str, Callable[[], object], str], ...] = (
        ("motion", tr("Motion, with the character …"), partial(out.motion, alone=False), "share-2"),
        ("motion_alone", tr("Motion alone …"), partial(out.motion, alone=True), "share-2"),
        ("pose", tr("This pose as glTF …"), out.pose, "share-2"),
        ("picture", tr("Picture of this frame …"), out.picture, "camera"),
        ("puppet_layers", tr("The puppet as layers …"), out.layers, "layers"),
        ("pictures", tr("Pictures of all frames …"), out.pictures, "images"),
        ("moving_picture", tr("Moving picture …"), out.moving, "film"),
        ("turntable", tr("Once around …"), out.around, "rotate-cw"),
    )
    of_cards: tuple[tuple[str, str, Callable[[], object], str], ...] = (
        ("contact_sheet", tr("Contact sheet of the cards shown …"), out.contact_sheet, "images"),
        ("pack", tr("Pack the cards shown …"), out.pack, "archive"),
        ("pack_whole", tr("Pack them with names and rigs …"), partial(out.pack, whole=True), ""),
    )
    found = []
    for commands, usable in ((of_the_shot, ready), (of_cards, always)):
        for name, words, run, icon in commands:
            found.append(Command(name, words, run, more=tr("take out"), icon=icon, ready=usable))
    return found


def _step(home: Home, *, back: bool) -> None:
    """Undo or redo, of the screen that is open."""
    if not home.screens.step(back=back):
        (home.workspace.undo if back else home.workspace.redo)()
