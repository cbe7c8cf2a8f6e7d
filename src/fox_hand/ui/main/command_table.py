"""Every command of the window, in one table that menus, keys and the finder are made from."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt

from fox_hand.base.language import tr
from fox_hand.session.figures.selection import both_sides, other_side
from fox_hand.ui.commands.actions import Command, Where, always
from fox_hand.ui.main.choices.help_pages import show_manual, show_news
from fox_hand.ui.main.home import Home
from fox_hand.ui.main.library.library_commands import library_commands
from fox_hand.ui.main.places_to_go import show_finder
from fox_hand.ui.main.window_keys import CARDS, STAGE, STRIP, show_keys, window_keys
from fox_hand.ui.timeline.strip_keys import go_to_key

SHOT, LIBRARY, FIGURE = tr("Shot"), tr("Library"), tr("Figure")
EVERYWHERE = tr("Everywhere")


def command_table(home: Home) -> list[Command]:
    """In the order in which they are shown."""
    return [
        *_everywhere(home),
        *_shots(home),
        *_bringing_in(home),
        *library_commands(home, _acts(home)),
        *_figure(home),
        *_view(home),
        *home.columns.commands(),
        *_frames(home),
        *_capture(home),
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
            ready=_acts(home),
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
            "crew",
            tr("The demo's crew, nothing keyed"),
            home.opener.open_crew,
            group=SHOT,
            icon="users",
        ),
    ]


def _bringing_in(home: Home) -> list[Command]:
    opener, out, acts = home.opener, home.export, _acts(home)
    performance = home.demo_performance
    group = tr("Bring in and take out")

    def there() -> bool:
        return acts() and performance.is_file()

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
            ready=acts,
        ),
        *_bringing_drawings(home),
        Command(
            "expressions",
            tr("Expressions of this figure's file as cards"),
            partial(_expressions, home),
            group=group,
            icon="smile",
            more="VRM",
            ready=acts,
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
            ready=_acts(home),
        ),
    ]


def _expressions(home: Home) -> None:
    actor = home.workspace.actor
    if actor is not None:
        home.performances.expressions(actor)


def _taking_out(home: Home) -> list[Command]:
    out, acts = home.export, _acts(home)
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
    for commands, ready in ((of_the_shot, acts), (of_cards, always)):
        for name, words, run, icon in commands:
            found.append(Command(name, words, run, more=tr("take out"), icon=icon, ready=ready))
    return found


def _figure(home: Home) -> list[Command]:
    panel, selection, ready = home.figure_panel, home.workspace.selection, _acts(home)

    def sides(change: Callable[..., list[int]]) -> None:
        actor = home.workspace.actor
        if actor is not None:
            selection.set(change(actor.rig, selection.rows))

    def on_stage(
        name: str,
        words: str,
        run: Callable[[], object],
        key: str,
        icon: str = "",
        more: str = "",
    ) -> Command:
        return Command(name, words, run, (key,), STAGE, more, icon, Where.STAGE, ready)

    return [
        on_stage(
            "reset",
            tr("Back to rest"),
            panel.reset_button.click,
            "R",
            icon="rotate-ccw",
            more=tr("what is selected, or the whole figure"),
        ),
        on_stage(
            "mirror",
            tr("Mirror"),
            partial(panel.mirror_key, False),
            "X",
            icon="flip-horizontal",
            more=tr("the selected controls in place, or the whole figure"),
        ),
        on_stage(
            "mirror_over",
            tr("Mirror onto the other side"),
            partial(panel.mirror_key, True),
            "Shift+X",
            icon="flip-horizontal",
            more=tr("the selected stay as they are"),
        ),
        on_stage(
            "copy_pose",
            tr("Copy the pose"),
            home.cards.clipboard.copy,
            "Ctrl+C",
            icon="copy",
            more=tr("what is selected, else what is away from rest; as a card file"),
        ),
        on_stage("paste_pose", tr("Paste a pose"), home.cards.clipboard.paste, "Ctrl+V"),
        on_stage("limbs", tr("Limbs: joints or goal"), panel.limbs.toggle, "I", icon="move-3d"),
        on_stage(
            "other_side", tr("Select the other side instead"), partial(sides, other_side), "O"
        ),
        on_stage("both_sides", tr("Select both sides"), partial(sides, both_sides), "Shift+O"),
        *_whole_figure(home),
    ]


def _whole_figure(home: Home) -> list[Command]:
    ready, ask = _acts(home), home.figure_panel.sets.ask_new
    return [
        Command(
            "select_all",
            tr("Select all"),
            partial(_select_all, home),
            ("Ctrl+A",),
            STAGE,
            ready=ready,
        ),
        Command(
            "make_set", tr("Make a set of the selected …"), ask, ("Ctrl+G",), STAGE, ready=ready
        ),
        Command(
            "reset_all",
            tr("Reset the whole figure"),
            lambda: home.workspace.reset(None, tr("Reset all")),
            group=FIGURE,
            icon="rotate-ccw",
            ready=ready,
        ),
        Command(
            "pairs",
            tr("Pairs: left and right …"),
            home.screens.show_pairs,
            group=FIGURE,
            icon="users",
            more=tr("what mirrors to what"),
            ready=ready,
        ),
    ]


def _view(home: Home) -> list[Command]:
    bars = home.overlays.bars

    def switch(name: str, words: str, key: str, button: str, icon: str = "eye") -> Command:
        of = getattr(bars, button)
        return Command(
            name,
            words,
            of.click,
            (key,),
            STAGE,
            icon=icon,
            where=Where.STAGE,
            ready=_acts(home),
            checked=of.isChecked,
        )

    def frame(whole: bool) -> None:
        rows = list(home.workspace.selection.rows)
        home.stage.frame(None if whole or not rows else rows)

    return [
        Command(
            "frame_selected",
            tr("Frame what is selected"),
            partial(frame, False),
            ("Z",),
            STAGE,
            icon="search",
            where=Where.STAGE,
            ready=_acts(home),
        ),
        Command(
            "true_size",
            tr("Drawings pixel by pixel"),
            home.stage.look_pixel_by_pixel,
            ("E",),
            STAGE,
            icon="search",
            where=Where.STAGE,
            ready=lambda: home.stage.flat,
        ),
        Command(
            "frame_all",
            tr("Frame all"),
            partial(frame, True),
            ("Shift+Z",),
            STAGE,
            icon="search",
            where=Where.STAGE,
            ready=_acts(home),
        ),
        switch("handles", tr("Handles"), "H", "handles"),
        switch("ghost", tr("Ghost of what was before"), "G", "ghost"),
        switch("symmetry", tr("Both sides at once"), "Y", "symmetry", "flip-horizontal"),
        switch("lens", tr("Lens"), "L", "lens"),
    ]


def _frames(home: Home) -> list[Command]:
    def keyed() -> bool:
        return home.workspace.review.sequence is None

    def on(words: str, name: str, run: Callable[[], object], key: str, icon: str = "") -> Command:
        return Command(name, words, run, (key,), STRIP, icon=icon, where=Where.STAGE, ready=keyed)

    return [
        on(tr("Key what is selected or posed"), "key", home.shots.key_pose, "K"),
        on(
            tr("Key everything"),
            "key_all",
            partial(home.shots.key_pose, everything=True),
            "Shift+K",
        ),
        on(tr("A pose between two keys"), "between", home.overlays.between.begin, "B"),
        on(tr("Play or stop"), "play", home.timeline.playing.toggle, "T", "play"),
        on(
            tr("One frame back"), "frame_before", partial(home.timeline.go_on, -1), "Q", "step-back"
        ),
        on(tr("One frame on"), "frame_after", partial(home.timeline.go_on, 1), "W", "step-forward"),
        on(
            tr("To the key before"),
            "key_before",
            partial(go_to_key, home.timeline.strip, -1),
            "Shift+Q",
            "skip-back",
        ),
        on(
            tr("To the key after"),
            "key_after",
            partial(go_to_key, home.timeline.strip, 1),
            "Shift+W",
            "skip-forward",
        ),
        Command(
            "neighbours",
            tr("Outlines at the neighbouring keys"),
            home.overlays.bars.keys.click,
            ("N",),
            STRIP,
            icon="layers",
            where=Where.STAGE,
            ready=keyed,
            checked=home.overlays.bars.keys.isChecked,
        ),
        Command(
            "mark",
            tr("Mark this frame, or take the mark away"),
            home.shots.mark_frame,
            ("M",),
            STRIP,
            icon="flag",
            where=Where.STAGE,
        ),
    ]


def _capture(home: Home) -> list[Command]:
    def ready() -> bool:
        return home.workspace.capturing.draft is None

    return [
        Command(
            "capture",
            tr("Capture"),
            home.workspace.capturing.ask,
            ("C",),
            CARDS,
            tr("a card of what is posed"),
            "camera",
            Where.STAGE,
            ready,
        ),
        Command(
            "capture_clip",
            tr("Capture a clip"),
            home.shots.capture_clip,
            ("Shift+C",),
            CARDS,
            tr("of the frames that are selected"),
            "film",
            Where.STAGE,
            ready,
        ),
        Command(
            "view_cards",
            tr("Cards of all views"),
            home.workspace.capturing.puppet_cards.take_views,
            group=CARDS,
            more=tr("one for each view of a puppet"),
            icon="layers",
            ready=lambda: ready() and home.workspace.capturing.puppet_cards.there,
        ),
    ]


def _acts(home: Home) -> Callable[[], bool]:
    return lambda: home.workspace.actor is not None


def _step(home: Home, *, back: bool) -> None:
    """Undo or redo, of the screen that is open."""
    if not home.screens.step(back=back):
        (home.workspace.undo if back else home.workspace.redo)()


def _select_all(home: Home) -> None:
    """All controls that people use."""
    actor = home.workspace.actor
    if actor is not None:
        home.workspace.selection.set(sorted(actor.listed))
