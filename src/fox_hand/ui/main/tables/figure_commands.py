"""Commands about the figure, what is seen of it, its frames, and what is taken of them."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from fox_hand.base.language import tr
from fox_hand.session.figures.selection import both_sides, other_side
from fox_hand.ui.commands.actions import Command, Where
from fox_hand.ui.main.home import Home
from fox_hand.ui.main.window_keys import CARDS, STAGE, STRIP
from fox_hand.ui.timeline.strip_keys import go_to_key

FIGURE = tr("Figure")


def figure_commands(home: Home) -> list[Command]:
    """What is done to what is selected."""
    panel, selection, ready = home.figure_panel, home.workspace.selection, acts(home)

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
    ready, ask = acts(home), home.figure_panel.sets.ask_new
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


def view_commands(home: Home) -> list[Command]:
    """How the figure is looked at."""
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
            ready=acts(home),
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
            ready=acts(home),
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
            ready=acts(home),
        ),
        switch("handles", tr("Handles"), "H", "handles"),
        switch("ghost", tr("Ghost of what was before"), "G", "ghost"),
        switch("symmetry", tr("Both sides at once"), "Y", "symmetry", "flip-horizontal"),
        switch("lens", tr("Lens"), "L", "lens"),
    ]


def frame_commands(home: Home) -> list[Command]:
    """Keys, playing and marks."""

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


def capture_commands(home: Home) -> list[Command]:
    """What becomes cards."""

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


def acts(home: Home) -> Callable[[], bool]:
    """Whether somebody acts."""
    return lambda: home.workspace.actor is not None


def _select_all(home: Home) -> None:
    """All controls that people use."""
    actor = home.workspace.actor
    if actor is not None:
        home.workspace.selection.set(sorted(actor.listed))
