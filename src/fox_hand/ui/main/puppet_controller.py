"""What is done with drawings of puppets: taken as cards, and given to parts."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QFileDialog

from fox_hand.base.language import tr
from fox_hand.library.format.entry import Entry
from fox_hand.session.app.puppet_drawings import Then
from fox_hand.session.app.swapping import drawing_shown, show_drawing
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.figure import Figure
from fox_hand.session.puppets.drawing_cards import own_nodes, part_under
from fox_hand.ui.puppet.drawing_shelf import PuppetShelves
from fox_hand.ui.puppet.ground_popup import place_under
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.plain_text import menu_word
from fox_hand.ui.widgets.notice import Notice
from fox_hand.ui.widgets.passing_menu import passing_menu

REACH = 16.0  # pixels from a handle that a drop still means


class PuppetController:
    """Menus of drawings, and cards of drawings that are dropped on parts.

    Args:
        workspace, stage, notice: what is worked on, where, and how it is told.
        shelves: the drawings and views that are shown.
    """

    def __init__(
        self, workspace: Workspace, stage: Stage, notice: Notice, shelves: PuppetShelves
    ) -> None:
        self._workspace, self._stage, self._notice = workspace, stage, notice
        self._shelves = shelves
        shelves.drawings.menu_asked.connect(self._ask_drawing)
        shelves.views.menu_asked.connect(self._ask_view)
        shelves.add_button.clicked.connect(self.ask_picture)
        workspace.puppet_drawings.told.connect(notice.tell)

    # -- taking ---------------------------------------------------------------------------

    def _ask_drawing(self, number: int, at: QPoint) -> None:
        """What can be done with a drawing on the shelf."""
        swap = self._shelves.swap
        if swap is None:
            return
        menu = passing_menu(self._stage)
        name = swap.names[number]
        take = partial(self._workspace.capturing.puppet_cards.take_drawing, swap.control, number)
        menu.addAction(
            menu_word(tr("Show {name}", name=name)), lambda: self._shelves.choose(number)
        )
        menu.addAction(menu_word(tr("Card of {name}", name=name)), take)
        menu.popup(at)

    def _ask_view(self, number: int, at: QPoint) -> None:
        actor = self._workspace.actor
        if actor is None:
            return
        menu = passing_menu(self._stage)
        name = actor.rig.views.names[number]
        menu.addAction(
            menu_word(tr("See {name}", name=name)), lambda: self._shelves.views.chosen.emit(number)
        )
        cards = self._workspace.capturing.puppet_cards
        menu.addAction(tr("Cards of all views"), cards.take_views)
        menu.popup(at)

    # -- giving ---------------------------------------------------------------------------

    def drop(self, entry: Entry, at: QPoint) -> bool:
        """A card of a drawing was dropped on the stage: the part under the pointer gets it.

        Returns:
            whether it was one, on a puppet; other cards are for others.
        """
        actor = self._workspace.actor
        if entry.kind != "drawing" or actor is None or not actor.rig.flat:
            return False
        row = self._part_at(actor, at)
        if row is None:
            self._notice.tell(
                tr(
                    "Drop {name} on a part of {name_2}, which then has it.",
                    name=entry.name,
                    name_2=actor.name,
                )
            )
        else:
            self._give(entry, actor, row)
        return True

    def give_to_selected(self, entry: Entry) -> None:
        """The part that was selected last gets the drawing of a card."""
        actor, row = self._workspace.actor, self._part_at_hand()
        if actor is None or row is None:
            self._notice.tell(tr("Select the part of a puppet that is to have the drawing first."))
        else:
            self._give(entry, actor, row)

    def ask_picture(self) -> None:
        """Let somebody choose a picture that becomes one more drawing of the part at hand."""
        actor, row = self._workspace.actor, self._part_at_hand()
        if actor is None or row is None:
            self._notice.tell(tr("Select the part of a puppet that is to have the drawing first."))
            return
        part = actor.rig.controls[row]
        name, _ = QFileDialog.getOpenFileName(
            self._stage.window(),
            tr("A drawing for {label}", label=part.label),
            "",
            "Drawings (*.png *.webp *.svg)",
        )
        now = actor.rig.control_row.get(part.name)  # the file may have been read again meanwhile
        if name and actor in self._workspace.cast.actors and now is not None:
            row = now
            swap = actor.rig.swaps.get(row)
            seen = 0 if swap is None else drawing_shown(self._workspace, swap)
            self._workspace.keep_mix()
            self._workspace.puppet_drawings.add_picture(
                Path(name), actor, row, seen, self._shown_then(actor)
            )

    def _part_at_hand(self) -> int | None:
        """The part that was selected last; None if that is none of a puppet."""
        actor, rows = self._workspace.actor, self._workspace.selection.rows
        if actor is None or not actor.rig.flat or not rows or not own_nodes(actor.rig, rows[-1]):
            return None
        return rows[-1]

    def _give(self, entry: Entry, actor: Figure, row: int) -> None:
        self._workspace.keep_mix()
        self._workspace.puppet_drawings.add(entry, actor, row, self._shown_then(actor))

    def _shown_then(self, actor: Figure) -> Then:
        """What is done when a part has a drawing: it shows it."""
        work = self._workspace

        def then(control: str, number: int) -> None:
            found = actor.rig.control_row.get(control)
            if found is None or actor not in work.cast.actors:
                return  # it went meanwhile
            work.act(actor)
            work.selection.set([found])
            show_drawing(work, actor.rig.swaps[found], number)

        return then

    def _part_at(self, actor: Figure, at: QPoint) -> int | None:
        """The part whose handle is near, else whose drawing is there."""
        layout = self._stage.layout_now()
        if layout is not None:
            rows = [r for r in sorted(actor.listed) if own_nodes(actor.rig, r) and layout.shown[r]]
            far = {
                r: float(abs(layout.points[r, 0] - at.x()) + abs(layout.points[r, 1] - at.y()))
                for r in rows
            }
            near = min(far, key=lambda r: far[r], default=None)
            if near is not None and far[near] <= REACH:
                return near
        x, y = place_under(self._stage, at)
        return part_under(actor.rig, actor.at.nodes, x, y)
