"""Commands that are keys above all: back, keep, and the cards at hand."""

from __future__ import annotations

from functools import partial

from fox_hand.base.language import tr
from fox_hand.session.app.apply_controller import SLOTS
from fox_hand.ui.commands.actions import Command, Where
from fox_hand.ui.help.shortcuts import ShortcutsSheet
from fox_hand.ui.main.home import Home
from fox_hand.ui.widgets.buttons import Button
from fox_hand.ui.widgets.key_map import KeyMap

UNDOING = ("pairs", "fit")  # screens with buttons of their own for it
STAGE, STRIP, CARDS = tr("Keys on the stage"), tr("Strip"), tr("Cards")


def show_keys(home: Home) -> None:
    """The sheet of keys, of every part."""
    ShortcutsSheet(home.theme, home.window, home.actions_table, keys_of_parts(home)).open()


def keys_of_parts(home: Home) -> dict[str, KeyMap]:
    """Keys that mean something only where a part has the keyboard, by the part."""
    return {
        STAGE: home.stage.keys,
        CARDS: home.sheets.input.keys,
        tr("Outline of the sheets"): home.sheets.outline.list.keys,
        STRIP: home.timeline.strip.keys,
        tr("Charts"): home.screens.charts.grid.keys,
        tr("Assemble a puppet"): home.screens.assemble.canvas.keys,
        tr("Parts of a puppet"): home.screens.assemble.list.keys,
        tr("Fit a performance"): home.screens.performance.lanes.keys,
        tr("Frames of a performance"): home.timeline.frame_strip.keys,
    }


def window_keys(home: Home) -> list[Command]:
    """Esc, Enter, the number keys, P and V."""
    applying, looking = home.workspace.applying, home.looking
    found = [
        _key("back", tr("Back"), partial(go_back, home), "Esc"),
        Command(
            "keep",
            tr("Keep"),
            partial(_keep, home),
            ("Return", "Enter"),
            where=Where.SPARE,
            ready=lambda: _under_way(home),
            listed=False,
        ),
        Command(
            "again",
            tr("Put on again what was on last"),
            applying.again,
            ("P",),
            tr("Cards"),
            where=Where.STAGE,
            ready=lambda: home.workspace.actor is not None,
        ),
        Command(
            "look",
            tr("Look at the current card"),
            lambda: looking.hold(True, home.sheets.view.current_entry()),
            ("V",),
            where=Where.STAGE,
            listed=False,
            released=partial(looking.hold, False),
        ),
    ]
    for number in range(SLOTS):
        found += _at_hand(home, number)
    return found


def _key(
    name: str, words: str, run: partial[None], key: str, where: Where = Where.SPARE
) -> Command:
    return Command(name, words, run, (key,), where=where, listed=False)


def _at_hand(home: Home, number: int) -> list[Command]:
    """A number key: put on; with Ctrl lay the current card there; with Alt one of the last."""
    applying, digit = home.workspace.applying, number + 1

    def lay() -> None:
        current = home.sheets.view.current_entry()
        if current is not None:
            applying.take_in_hand(number, current)

    press, recent = partial(applying.press, number), partial(applying.recent, number)
    stage = Where.STAGE
    return [
        _key(
            f"at_hand_{digit}",
            tr("Put on card {digit} at hand", digit=digit),
            press,
            f"{digit}",
            stage,
        ),
        _key(
            f"lay_{digit}",
            tr("Lay the card on {digit}", digit=digit),
            partial(lay),
            f"Ctrl+{digit}",
            stage,
        ),
        _key(
            f"recent_{digit}",
            tr("Put on the last but {number}", number=number),
            recent,
            f"Alt+{digit}",
            stage,
        ),
    ]


def tell_keys(home: Home) -> None:
    """Buttons say in their tooltips which key does the same."""
    header, bars, over, panel = home.header, home.overlays.bars, home.overlays, home.figure_panel
    tools, sheets, screens = home.timeline.tools, home.sheets, home.screens
    undoing = [getattr(screens, name) for name in UNDOING if screens.is_built(name)]
    buttons: dict[str, tuple[Button, ...]] = {
        "undo": (header.undo_button, *(screen.undo_button for screen in undoing)),
        "redo": (header.redo_button, *(screen.redo_button for screen in undoing)),
        "save": (header.save_button,),
        "open_figure": (header.open_button,),
        "handles": (bars.handles,),
        "ghost": (bars.ghost,),
        "symmetry": (bars.symmetry,),
        "lens": (bars.lens, over.lens.close_button),
        "neighbours": (bars.keys,),
        "reset": (panel.reset_button,),
        "mirror": (panel.mirror_button,),
        "make_set": (panel.sets.new_button,),
        "capture": (sheets.head.capture_button,),
        "outline": (sheets.head.outline_button,),
        "facets": (sheets.parts.facets_button, sheets.path.facets_button),
        "key_before": (tools.before,),
        "play": (tools.play,),
        "key_after": (tools.after,),
        "key": (tools.key,),
        "between": (tools.between,),
    }
    for name, these in buttons.items():
        for button in these:
            button.tell_key(home.actions_table[name].key)
    keys = sheets.input.keys
    sheets.ticked.clear_button.tell_key(keys.key("untick"))
    sheets.ticked.out_button.tell_key(keys.key("take_out"))
    for button in (sheets.ticked.star_button, sheets.facts.star):
        button.tell_key(keys.key("favourite"))


def _under_way(home: Home) -> bool:
    workspace = home.workspace
    return (
        home.overlays.between.pose is not None
        or workspace.capturing.draft is not None
        or workspace.mix is not None
        or workspace.placements.now is not None
    )


def _keep(home: Home) -> None:
    """What is under way becomes one undo step, or a card."""
    if home.overlays.between.pose is not None:
        home.overlays.between.keep()
    elif home.workspace.capturing.draft is not None:
        home.cards.save_capture()
    else:
        home.workspace.keep_mix()


def go_back(home: Home) -> None:
    """The nearest thing that can be taken back."""
    workspace, field, over = home.workspace, home.header.search_field, home.overlays
    if not home.screens.on_stage:
        home.screens.close()
    elif home.stage.cancel_gesture():
        return
    elif home.timeline.playing.on:
        home.timeline.playing.stop()
    elif over.between.pose is not None:
        over.between.put_back()
    elif field.hasFocus() and field.text():
        field.clear()
    elif field.hasFocus():
        home.search_from.go()
    elif workspace.applying.give_up():
        return
    elif workspace.mix is not None or workspace.placements.now is not None:
        workspace.put_back()
    elif workspace.capturing.draft is not None:
        workspace.capturing.cancel()
    elif over.notice.isVisible():
        over.notice.hide()
    else:
        workspace.selection.clear()
