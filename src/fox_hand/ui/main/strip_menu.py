"""What can be done with keys: the strip's menu."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QMenu

from fox_hand.base.language import tr
from fox_hand.core.animation.curves import row_of
from fox_hand.core.animation.interpolation import Ease
from fox_hand.ui.main.home import Home
from fox_hand.ui.theme.plain_text import menu_word
from fox_hand.ui.timeline.strip_tools import EASES
from fox_hand.ui.widgets.passing_menu import passing_menu


def strip_menu(home: Home, at: QPoint) -> QMenu:
    """Open it over the selected keys."""
    menu, strip, keying = passing_menu(home.window), home.timeline.strip, home.workspace.keying
    picked = strip.picked
    placement = home.workspace.placements.now
    if placement is not None and placement.actor is home.workspace.actor:
        menu.addAction(
            menu_word(tr("{name} as keys", name=placement.instance.origin.name)),
            home.workspace.placements.as_keys,
        )
        menu.addAction(
            tr("Take it out"), partial(home.workspace.placements.remove, placement.number)
        )
        menu.addSeparator()
    if picked:
        for ease, word in EASES.items():
            menu.addAction(tr("Go on: {word}", word=word.lower()), partial(_ease, home, ease))
        menu.addSeparator()
        menu.addAction(tr("Copy\tCtrl+C"), partial(keying.copy, picked))
        menu.addAction(tr("Delete\tDel"), partial(keying.delete, picked))
        menu.addAction(tr("Select what they key"), partial(_select, home))
        _add_updates(home, menu)
        menu.addSeparator()
    frame = home.workspace.timing.frame
    menu.addAction(tr("Key at frame {frame:g}\tK", frame=frame), home.shots.key_pose)
    menu.addAction(
        tr("Paste\tCtrl+V"),
        lambda: strip.pick({channel_id: f.tolist() for channel_id, f in keying.paste().items()}),
    ).setEnabled(keying.copied is not None)
    menu.addAction(tr("Capture a clip\tShift+C"), home.shots.capture_clip)
    menu.addAction(tr("Mark this frame\tM"), home.shots.mark_frame)
    menu.addAction(tr("Mark every key"), partial(_mark_keys, home)).setEnabled(
        bool(len(keying.key_frames()))
    )
    if home.workspace.timing.marks:
        menu.addAction(
            tr("Take all marks away"), partial(home.workspace.shot_settings.set_marks, ())
        )
    menu.addAction(tr("Show the whole range"), strip.show_range)
    menu.popup(at)
    return menu


def _ease(home: Home, ease: Ease) -> None:
    home.workspace.keying.ease(home.timeline.strip.picked, ease)


def _mark_keys(home: Home) -> None:
    """Frames with keys, as for a set of poses on frames one after the other."""
    frames = home.workspace.keying.key_frames().tolist()
    home.workspace.shot_settings.set_marks(map(round, frames))


def _select(home: Home) -> None:
    actor = home.workspace.actor
    if actor is not None:
        rows = (row_of(actor.rig, channel_id) for channel_id in home.timeline.strip.picks)
        home.workspace.selection.set(dict.fromkeys(row for row in rows if row is not None))


def _add_updates(home: Home, menu: QMenu) -> None:
    """Cards that changed since: follow them, or keep what there is."""
    updates, actor = home.workspace.card_updates, home.workspace.actor
    if actor is None:
        return
    lines = actor.keys.picked(home.timeline.strip.picked)
    stale = updates.stale({int(n) for line in lines.values() for n in line.origins if n})
    if not stale:
        return
    menu.addSeparator()
    for one in stale:
        name = one.origin.name
        menu.addAction(menu_word(tr("Update {name}", name=name)), partial(updates.update, [one]))
        if one.by_hand:
            words = tr(
                "Update {name}, also what was changed by hand ({by_hand})",
                name=name,
                by_hand=one.by_hand,
            )
            menu.addAction(menu_word(words), partial(updates.update, [one], over_hand=True))
        menu.addAction(
            menu_word(tr("Keep {name} as it was", name=name)), partial(updates.keep, one)
        )
    everywhere = updates.stale()
    if len(everywhere) > 1:
        words = tr("Update all {count} cards", count=len(everywhere))
        menu.addAction(words, partial(updates.update, everywhere))
