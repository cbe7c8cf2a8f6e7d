"""The menu of the stage: about the controls under the pointer, or about the figure and the view."""

from __future__ import annotations

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QMenu

from fox_hand.base.language import tr
from fox_hand.session.figures.channel_rows import rows_of
from fox_hand.ui.main.home import Home
from fox_hand.ui.widgets.passing_menu import passing_menu

CONTROLS = ("reset", "mirror", "mirror_over", "", "other_side", "both_sides", "make_set", "")
FIGURE = ("select_all", "reset_all", "mirror", "", "paste_pose", "key_all", "")


def stage_menu(home: Home, on_control: bool, at: QPoint) -> None:
    """Open it.

    Args:
        home: the window's parts.
        on_control: whether it is about what is selected.
        at: where on the screen.
    """
    menu, table = passing_menu(home.window), home.actions_table
    if on_control:
        table.fill(menu, "key", "copy_pose", *CONTROLS)
        _add_locks(home, menu)
        table.fill(menu, "limbs", "", "frame_selected")
    else:
        table.fill(menu, *FIGURE, "frame_all", "handles", "ghost", "symmetry", "lens")
    table.fill(menu, "", "capture")
    menu.popup(at)


def _add_locks(home: Home, menu: QMenu) -> None:
    """All channels of what is selected are locked, or none is any more."""
    workspace, actor = home.workspace, home.workspace.actor
    if actor is None:
        return
    rows = rows_of(actor.rig, sorted(workspace.selection.rows))
    locks = frozenset(lock for row in rows for lock in row.locks(actor.rig))
    if locks <= actor.locks:
        words, wanted = tr("Unlock what is selected"), actor.locks - locks
    else:
        words, wanted = tr("Lock what is selected"), actor.locks | locks
    menu.addAction(words, lambda: workspace.set_locks(wanted, words))
