"""Limbs of the selection: who moves them, their joints or their goal."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.core.model.solvers import Limb
from fox_hand.session.app.limbs import limbs_of, on_goal, switch
from fox_hand.session.app.needs import Posing
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind


class LimbBar(QWidget):
    """One line with two switches; switching leaves the figure where it is."""

    def __init__(self, theme: Theme, workspace: Posing) -> None:
        super().__init__()
        self._workspace = workspace
        self._name = Words("")
        self._name.setProperty("quiet", True)
        tip = tr("Hand the limb over to its {} (I); the figure stays where it is")
        self.joints = Button(
            theme, tr("Joints"), kind=Kind.SWITCH, height=24, tip=tip.format("joints")
        )
        self.goal = Button(theme, tr("Goal"), kind=Kind.SWITCH, height=24, tip=tip.format("goal"))
        self.joints.clicked.connect(lambda: self.switch(False))
        self.goal.clicked.connect(lambda: self.switch(True))
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 4, 4, 4)
        line.setSpacing(4)
        line.addWidget(self._name, 1)
        line.addWidget(self.joints)
        line.addWidget(self.goal)
        self.hide()
        workspace.selection.changed.connect(self.refresh)
        workspace.actor_changed.connect(self._on_actor)

    def _on_actor(self) -> None:
        if self._workspace.actor is not None:
            self._workspace.actor.posed.connect(self.refresh, unique=True)
        self.refresh()

    def limbs(self) -> list[Limb]:
        """Limbs that the selection touches."""
        actor = self._workspace.actor
        return [] if actor is None else limbs_of(actor.rig, self._workspace.selection.rows)

    def refresh(self) -> None:
        limbs = self.limbs()
        self.setVisible(bool(limbs))
        if limbs:
            self._name.setText(
                limbs[0].name if len(limbs) == 1 else tr("{count} limbs", count=len(limbs))
            )
            states = {on_goal(self._workspace, limb) for limb in limbs}
            self.joints.setChecked(states == {False})
            self.goal.setChecked(states == {True})

    def switch(self, goal: bool) -> None:
        """Hand the selected limbs over."""
        switch(self._workspace, self.limbs(), goal)
        self.refresh()

    def toggle(self) -> None:
        """The other one for all of them."""
        limbs = self.limbs()
        if limbs:
            self.switch(not all(on_goal(self._workspace, limb) for limb in limbs))
