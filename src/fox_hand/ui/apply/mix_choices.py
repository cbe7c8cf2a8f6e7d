"""The lower row of the mix bar: side, part, way, for whom, and how much fits."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QPoint, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.core.model.controls import Region
from fox_hand.core.naming.part_words import region_title
from fox_hand.core.pose.flat_mirror import is_whole
from fox_hand.core.pose.sides import Sides
from fox_hand.session.app.needs import Posing
from fox_hand.session.applying.application import Part, Way
from fox_hand.session.applying.mix import Fit, Mix
from fox_hand.ui.theme.plain_text import Words, menu_word, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Tick
from fox_hand.ui.widgets.choice import Choice
from fox_hand.ui.widgets.passing_menu import passing_menu
from fox_hand.ui.widgets.popup import Popup

SIDES = (
    (Sides.CAPTURED.value, tr("As captured")),
    (Sides.OTHER.value, tr("Other")),
    ("both", tr("Both")),
)
FACING = ((Sides.CAPTURED.value, tr("As drawn")), (Sides.OTHER.value, tr("Turned")))
PARTS = (
    (Part.ALL.value, tr("All")),
    (Part.SELECTED.value, tr("Selected")),
    ("regions", tr("Regions")),
)
WAYS = ((Way.REPLACE.value, tr("Replace")), (Way.ON_TOP.value, tr("On top")))
COMPACT = 656  # pixels; narrower, the choices become menus
NARROW = 480  # pixels; narrower, only what is needed most is there
ROOMY = 760  # pixels; narrower, nothing says what the choices are about but themselves


class RegionsPopup(Popup):
    """Ticks for the regions that go on."""

    def __init__(self, theme: Theme, parent: QWidget, mix: Mix) -> None:
        super().__init__(parent, 168)
        self._mix = mix
        title = Words(tr("Only these regions"))
        title.setProperty("role", "title")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 12)
        column.setSpacing(4)
        column.addWidget(title)
        self.ticks: dict[Region, Tick] = {}
        for region in mix.regions:
            tick = Tick(theme, region_title(region))
            tick.setChecked(region in mix.how.regions)
            tick.toggled.connect(self._ticked)
            self.ticks[region] = tick
            column.addWidget(tick)

    def _ticked(self) -> None:
        wanted = [region for region, tick in self.ticks.items() if tick.isChecked()]
        if wanted:
            self._mix.set_part(Part.REGIONS, wanted)
        else:  # one has to stay: nothing at all would look as if the card did not work
            for region in self._mix.how.regions:
                self.ticks[region].setChecked(True)


class MixChoices(QWidget):
    """Changing any of them computes the figure anew from the state before."""

    fit_asked = Signal()
    turn_asked = Signal()  # to the view that the card is drawn for

    def __init__(self, theme: Theme, workspace: Posing) -> None:
        super().__init__()
        self._theme, self._workspace = theme, workspace
        self._fit: Fit | None = None
        self._short = False
        self.setFixedHeight(36)
        self.side = Choice(theme, SIDES, tr("Side of the body"))
        self.facing = Choice(theme, FACING, tr("Which way the puppet looks"))
        self.view = Button(theme, "", icon="layers", kind=Kind.FLAT, height=24, tip=tr("View"))
        self.view.hide()
        self.part = Choice(theme, PARTS, tr("Part of the card"))
        self.way = Choice(theme, WAYS, tr("Take the place of what is there, or add to it"))
        self.more = Button(
            theme, icon="ellipsis", kind=Kind.FLAT, height=24, tip=tr("For whom, and more")
        )
        self.keyed = Button(
            theme,
            tr("Keyed"),
            kind=Kind.SWITCH,
            height=24,
            tip=tr("Keeping it sets keys at this frame of all that the card holds"),
        )
        self.fit = Button(theme, "", kind=Kind.FLAT, height=24, tip=tr("How much of it fits"))
        self._labels = [Words(word) for word in (tr("Side"), tr("Part"), tr("Way"))]
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 0, 12, 4)
        line.setSpacing(6)
        for label, choice in zip(self._labels, (self.side, self.part, self.way), strict=True):
            label.setProperty("quiet", True)
            line.addWidget(label)
            line.addWidget(choice)
            if choice is self.side:
                line.addWidget(self.facing)
        line.addWidget(self.view)
        line.addWidget(self.keyed)
        line.addWidget(self.more)
        line.addStretch(1)
        line.addWidget(self.fit)
        self.side.chosen.connect(lambda value: self._mix_do(lambda m: m.set_side(Sides(value))))
        self.way.chosen.connect(lambda value: self._mix_do(lambda m: m.set_way(Way(value))))
        self.part.chosen.connect(self._choose_part)
        self.keyed.clicked.connect(lambda: workspace.mix_commands.set_keyed(self.keyed.isChecked()))
        self.more.clicked.connect(self._ask_more)
        self.fit.clicked.connect(self.fit_asked.emit)
        self.facing.chosen.connect(lambda value: self._mix_do(lambda m: m.set_side(Sides(value))))
        self.view.clicked.connect(self._ask_view)

    def set_width(self, width: int) -> None:
        """Narrow rows have menus instead of words side by side."""
        compact = width < COMPACT
        self._short = width < NARROW
        self._show_fit()
        for label in self._labels:
            label.setVisible(width >= ROOMY)
        for choice in (self.side, self.facing, self.part, self.way):
            choice.set_compact(compact)

    def _show_fit(self) -> None:
        if self._fit is not None:
            words = f"{self._fit.lands}/{self._fit.asked}"
            self.fit.setText(words if self._short else tr("Fits {words}", words=words))
            self.fit.updateGeometry()

    def show_mix(self, mix: Mix) -> None:
        """Bring every choice up to date."""
        turns = _turns_round(mix)
        self.side.setVisible(not turns)
        self.facing.setVisible(turns)
        self._labels[0].setText(tr("Facing") if turns else tr("Side"))
        self.side.set_value(mix.how.side.value)
        if mix.how.side is not Sides.BOTH:
            self.facing.set_value(mix.how.side.value)
        self._show_view(mix)
        self.part.set_value(mix.part.value)
        self.part.set_off(set() if mix.selected_rows else {Part.SELECTED.value})
        self.way.set_value(mix.how.way.value)
        self.keyed.setChecked(mix.keyed)
        self.keyed.setVisible(not mix.actor.host)  # there it is said above, with its layer
        fit = mix.fit
        whole = fit.lands == fit.asked
        if fit == self._fit:  # nothing to lay out anew while an amount is pulled
            return
        self._fit = fit
        self.fit.tint = ("good", "raised") if whole else ("warning", "warning_ground")
        self._show_fit()
        names = ", ".join(fit.missing[:8])
        text = tr("Every control is found.") if whole else tr("Not found: {names}", names=names)
        self.fit.setToolTip(plain_tip(text))
        self.fit.updateGeometry()

    def _show_view(self, mix: Mix) -> None:
        """For which view a card is drawn, where it is put on the parts of another."""
        drawn = next((one.view for one in mix.cards if one.view), "")
        self.view.setVisible(bool(drawn))
        if drawn:
            seen = mix.actor.rig.views.names[mix.actor.view]
            self.view.setText(
                "" if self._short else tr("{drawn} on {seen}", drawn=drawn, seen=seen)
            )
            self.view.setToolTip(
                plain_tip(
                    tr("Drawn for {drawn}, put on the parts of {seen}", drawn=drawn, seen=seen)
                )
            )
            self.view.updateGeometry()

    def _ask_view(self) -> None:
        mix = self._workspace.mix
        one = None if mix is None else next((one for one in mix.cards if one.view), None)
        if mix is None or one is None:
            return
        menu = passing_menu(self)
        seen = mix.actor.rig.views.names[mix.actor.view]
        kept = menu.addAction(menu_word(tr("On the parts of {seen}", seen=seen)))
        kept.setCheckable(True)
        kept.setChecked(True)
        menu.addAction(
            menu_word(tr("Turn to {view} and put it on", view=one.view)), self.turn_asked.emit
        )
        menu.popup(self.view.mapToGlobal(self.view.rect().topLeft()))

    def _mix_do(self, what: Callable[[Mix], object]) -> None:
        if self._workspace.mix is not None:
            what(self._workspace.mix)

    def _choose_part(self, value: str) -> None:
        mix = self._workspace.mix
        if mix is None:
            return
        mix.set_part(Part(value))
        if mix.part is Part.REGIONS:
            self.ask_regions()
        self.show_mix(mix)

    def ask_regions(self) -> RegionsPopup | None:
        """Which regions go on."""
        mix = self._workspace.mix
        if mix is None:
            return None
        popup = RegionsPopup(self._theme, self.window(), mix)
        popup.open_at(self.part.mapToGlobal(QPoint(0, -4)))
        return popup

    def _ask_more(self) -> None:
        mix, mix_commands = self._workspace.mix, self._workspace.mix_commands
        if mix is None:
            return
        menu = passing_menu(self)
        clear = menu.addAction(tr("Clear first what its sheet may have left"), self._toggle_clear)
        clear.setCheckable(True)
        clear.setChecked(mix.clear)
        actors, copies = list(self._workspace.cast.actors), mix_commands.copies()
        if len(actors) > 1:
            menu.addSection(tr("For whom"))
            for actor in actors:
                one = menu.addAction(menu_word(actor.name), partial(self._workspace.mix_for, actor))
                one.setCheckable(True)
                one.setChecked(actor is self._workspace.actor)
        if copies:
            every = menu.addAction(
                menu_word(
                    tr("All {count} of {name}", count=len(copies) + 1, name=mix.actor.rig.name)
                ),
                partial(mix_commands.set_everywhere, not mix.others),
            )
            every.setCheckable(True)
            every.setChecked(bool(mix.others))
        if Part.REGIONS is mix.part:
            menu.addSeparator()
            menu.addAction(tr("Regions …"), self.ask_regions)
        menu.popup(self.more.mapToGlobal(self.more.rect().topLeft()))

    def _toggle_clear(self) -> None:
        if self._workspace.mix is not None:
            self._workspace.mix_commands.set_clear(not self._workspace.mix.clear)


def _turns_round(mix: Mix) -> bool:
    """Whether the other side of what goes on is a puppet that looks the other way."""
    rig = mix.actor.rig
    return rig.views.facing is not None and is_whole(rig, mix.rows)
