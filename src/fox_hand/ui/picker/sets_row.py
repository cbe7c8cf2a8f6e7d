"""Selection sets as chips: the rig's own, and those people make."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QInputDialog, QMenu, QWidget

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr, tr_n
from fox_hand.core.model.controls import Region, Side
from fox_hand.session.app.needs import Posing
from fox_hand.session.app.sets import (
    delete_set,
    keep_in_rig,
    make_set,
    move_set,
    rename_set,
    set_rows,
)
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.selection import region_rows
from fox_hand.ui.picker.figure_drawing import ZONES, zone_rows
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.deferred_update import once_after
from fox_hand.ui.widgets.flow import Flow, add_shown
from fox_hand.ui.widgets.passing_menu import passing_menu

AFTER_STAGE = 10  # milliseconds until the row follows


def sets_of(actor: Figure) -> dict[str, list[int]]:
    """The rig's own sets, or for a rig without any the parts of the figure that it has."""
    rig = actor.rig
    if rig.sets:
        return {
            name: [rig.control_row[n] for n in members if n in rig.control_row]
            for name, members in rig.sets.items()
        }
    found = {
        tr("Face"): [r for z in ZONES if z.key == "head" for r in zone_rows(rig, z, actor.state)],
        tr("Body"): region_rows(actor, Region.TORSO),
        tr("L arm"): region_rows(actor, Region.ARMS, Side.LEFT),
        tr("R arm"): region_rows(actor, Region.ARMS, Side.RIGHT),
        tr("L hand"): region_rows(actor, Region.HANDS, Side.LEFT),
        tr("R hand"): region_rows(actor, Region.HANDS, Side.RIGHT),
        tr("Legs"): region_rows(actor, Region.LEGS),
        tr("Wings"): region_rows(actor, Region.WINGS),
        tr("Tail"): region_rows(actor, Region.TAIL),
        tr("Limbs"): region_rows(actor, Region.LIMBS),
    }
    return {name: rows for name, rows in found.items() if rows}


class SetsRow(QWidget):
    """Click selects a set; Shift adds it; the right button changes one that was made here."""

    def __init__(self, theme: Theme, workspace: Posing) -> None:
        super().__init__()
        self._theme, self._workspace = theme, workspace
        self._chips: dict[str, tuple[Button, list[int]]] = {}
        self._own: set[str] = set()
        self._view = 0
        self._flow = Flow()
        self._flow.setContentsMargins(12, 8, 12, 8)
        self.setLayout(self._flow)
        self.new_button = Button(
            theme,
            icon="plus",
            kind=Kind.CHIP,
            height=24,
            icon_size=14,
            tip=tr("Make a set of what is selected"),
        )
        self.new_button.clicked.connect(self.ask_new)
        # a stage that is set says it several times, and has much to do in that moment
        self._soon = once_after(self, AFTER_STAGE, self._rebuild)
        workspace.actor_changed.connect(self._on_actor)
        workspace.selection.changed.connect(self.refresh)

    def _on_actor(self) -> None:
        if self._workspace.actor is not None:
            self._workspace.actor.changed.connect(self._rebuild, unique=True)
            self._workspace.actor.posed.connect(self._on_posed, unique=True)
        self._soon.start()

    def _on_posed(self) -> None:
        """A puppet in another view has other parts."""
        actor = self._workspace.actor
        if actor is not None and actor.view != self._view:
            self._rebuild()

    def _rebuild(self) -> None:
        while (item := self._flow.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None and widget is not self.new_button:
                widget.deleteLater()
        self._chips.clear()
        self._own.clear()
        actor = self._workspace.actor
        self.new_button.setVisible(actor is not None)
        if actor is None:
            return
        self._view = actor.view
        for name, rows in {tr("All"): sorted(actor.listed), **sets_of(actor)}.items():
            self._add(name, rows, own=False)
        for name in actor.sets:
            self._add(name, set_rows(actor, name), own=True)
        self._flow.addWidget(self.new_button)
        self.updateGeometry()
        self.refresh()

    def _add(self, name: str, rows: list[int], *, own: bool) -> None:
        tip = tr_n(
            "Select {name} ({number} control); Shift adds",
            "Select {name} ({number} controls); Shift adds",
            len(rows),
            name=name,
        )
        if own:
            tip += tr("; right click changes it")
        chip = Button(self._theme, name, kind=Kind.CHIP, height=24, tip=tip)
        chip.setCheckable(True)
        chip.clicked.connect(lambda: self.choose(name))
        if own:
            self._own.add(name)
            chip.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
            chip.customContextMenuRequested.connect(partial(self.show_menu, name))
        self._chips[name] = (chip, rows)
        add_shown(self._flow, chip)

    def chip(self, name: str) -> Button:
        """The button of a set."""
        return self._chips[name][0]

    @property
    def names(self) -> list[str]:
        """Sets in the order they are shown."""
        return list(self._chips)

    def choose(self, name: str) -> None:
        """Select a set; with Shift add it."""
        if name not in self._chips:
            return  # of a figure that has just left
        rows = self._chips[name][1]
        if QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._workspace.selection.toggle(rows)
        else:
            self._workspace.selection.set(rows)
        self.refresh()

    def chosen(self) -> str:
        """The set that is exactly what is selected, else empty."""
        rows = set(self._workspace.selection.rows)
        return next((n for n, (_, m) in self._chips.items() if m and rows == set(m)), "")

    def refresh(self) -> None:
        rows = set(self._workspace.selection.rows)
        for chip, members in self._chips.values():
            chip.setChecked(bool(members) and rows == set(members))
        self.new_button.setEnabled(bool(rows))

    # -- making and changing --------------------------------------------------------------

    def ask_new(self) -> None:
        """Ask for a name and make a set of what is selected."""
        if not len(self._workspace.selection):
            return
        name = self._ask(tr("New set"), tr("Set {count}", count=len(self._own) + 1))
        if name:
            make_set(self._workspace, name, self._workspace.selection.rows)

    def _ask(self, title: str, suggested: str) -> str:
        text, given = QInputDialog.getText(self, title, tr("Name of the set"), text=suggested)
        return text.strip() if given and text.strip() not in set(self._chips) - self._own else ""

    def show_menu(self, name: str, at: QPoint) -> None:
        """What can be done with a set that was made here."""
        self.menu(name).popup(self.chip(name).mapToGlobal(at))

    def menu(self, name: str) -> QMenu:
        """The menu of one set."""
        workspace, menu = self._workspace, passing_menu(self)
        actor = workspace.actor
        assert isinstance(actor, Figure)
        rows = workspace.selection.rows
        update = menu.addAction(
            tr("Update to what is selected"), lambda: make_set(workspace, name, rows)
        )
        update.setEnabled(bool(rows) and set(rows) != set(set_rows(actor, name)))
        menu.addAction(tr("Rename …"), lambda: self._rename(name))
        names = list(actor.sets)
        menu.addAction(tr("Earlier"), lambda: move_set(workspace, name, -1)).setEnabled(
            names[0] != name
        )
        menu.addAction(tr("Later"), lambda: move_set(workspace, name, 1)).setEnabled(
            names[-1] != name
        )
        menu.addSeparator()
        menu.addAction(tr("Keep it with the rig"), lambda: self._keep_in_rig(actor, name))
        menu.addAction("Delete", lambda: delete_set(workspace, name))
        return menu

    def _keep_in_rig(self, actor: Figure, name: str) -> None:
        """Into the sidecar; then it need not be kept with the stage."""
        try:
            keep_in_rig(actor, name)
        except FoxHandError as error:
            self._workspace.failed.emit(error)
            return
        delete_set(self._workspace, name)

    def _rename(self, name: str) -> None:
        new = self._ask(tr("Rename set"), name)
        if new and new != name:
            rename_set(self._workspace, name, new)
