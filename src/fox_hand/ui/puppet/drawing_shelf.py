"""The shelf of a part's drawings, beside it on the stage, and the views of a puppet above it."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.core.rig.rig import Rig
from fox_hand.core.rig.swaps import Swap
from fox_hand.session.app.needs import Posing
from fox_hand.session.app.swapping import drawing_shown, show_drawing, show_view, swap_at_hand
from fox_hand.session.runtime.ports import Pictures, Post
from fox_hand.ui.puppet.part_tiles import PartTiles
from fox_hand.ui.puppet.tile_pictures import TilePictures, drawing_views, view_pictures
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.plain_text import Words, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind

DRAWING, VIEW = 56, 44  # sides of the pictures
EDGE, TOP = 12, 56  # pixels from the stage's edges
SHORT = 64  # pixels of a title on a narrow shelf
NARROW = 640  # pixels; on a narrower stage pictures stand on each other
HEADING = 48  # pixels of a panel besides its pictures


class PuppetShelves:
    """The drawings of the part that was selected last, and the views; each is there where there
    is a choice.

    Args:
        theme, workspace: what is shown.
        stage: where they lie.
        pictures, post: who draws, and the way back from there.
    """

    def __init__(
        self, theme: Theme, workspace: Posing, stage: Stage, pictures: Pictures, post: Post
    ) -> None:
        self._workspace, self._stage = workspace, stage
        self._images = TilePictures(pictures, post)
        self.views = PartTiles(theme, tr("Views"), VIEW, 4)
        self.views.chosen.connect(partial(show_view, workspace))
        self.views_panel = self._panel(self.views)
        self.title = Words("")
        self.title.setProperty("role", "small")
        self.drawings = PartTiles(theme, tr("Drawings"), DRAWING, 2)
        self.drawings.chosen.connect(self.choose)
        self.add_button = Button(
            theme,
            icon="plus",
            kind=Kind.FLAT,
            height=24,
            icon_size=14,
            tip=tr("Add a drawing from a file to this part"),
        )
        self.drawings_panel = self._panel(self._head(), self.drawings)
        self._swap: tuple[Rig, Swap] | None = None
        self._said = "", ""  # of which part the drawings are, and which of them is seen
        self._viewed: Rig | None = None
        self._new = False  # a puppet has come whose views were not shown before
        workspace.actor_changed.connect(self._on_actor)
        workspace.selection.changed.connect(self.refresh)
        workspace.capturing.changed.connect(self.refresh)

    def _head(self) -> QHBoxLayout:
        """Which part it is, and what brings in one more drawing."""
        row = QHBoxLayout()
        row.addWidget(self.title, 1)
        row.addWidget(self.add_button)
        return row

    def _panel(self, *members: QWidget | QHBoxLayout) -> QWidget:
        panel = QWidget(self._stage)
        panel.setProperty("floating", True)
        panel.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(panel)
        column.setContentsMargins(8, 8, 8, 6)
        column.setSpacing(6)
        for member in members:
            if isinstance(member, QWidget):
                column.addWidget(member, 0, Qt.AlignmentFlag.AlignHCenter)
            else:
                column.addLayout(member)
        panel.hide()
        return panel

    def _on_actor(self) -> None:
        actor = self._workspace.actor
        if actor is not None:
            actor.posed.connect(self.refresh, unique=True)
        self.refresh()

    @property
    def swap(self) -> Swap | None:
        """The part whose drawings are shown."""
        return None if self._swap is None else self._swap[1]

    def choose(self, number: int) -> None:
        """Show one of the drawings."""
        if self._swap is not None:
            show_drawing(self._workspace, self._swap[1], number)

    def refresh(self) -> None:
        """What there is to choose from now."""
        actor, capturing = self._workspace.actor, self._workspace.capturing.draft is not None
        if actor is None or capturing or not actor.rig.flat:
            self.views_panel.hide()
            self.drawings_panel.hide()
            self._stage.lead = None
            self._swap = self._viewed = None
            return
        self._show_views(actor.rig, actor.view)
        swap = swap_at_hand(self._workspace)
        self._show_drawings(actor.rig, swap)
        self.place()

    def _show_views(self, rig: Rig, seen: int) -> None:
        setting, there = rig.views.view, rig.views.view is not None
        self.views_panel.setVisible(there)
        if setting is None:
            self._viewed = None
            return
        self.views.show_tiles(rig.views.names, seen)
        if self._viewed is not rig:
            self._viewed, self._new = rig, True
            shown = partial(self._show_view, rig)
            self._images.ask(rig, setting, partial(view_pictures, rig), shown)

    def _show_drawings(self, rig: Rig, swap: Swap | None) -> None:
        self.drawings_panel.setVisible(swap is not None)
        if swap is None:
            self._swap = None
            return
        now = drawing_shown(self._workspace, swap)
        label = rig.word(swap.control)
        self._said = (
            label,
            tr("{label}  {now} of {count}", label=label, now=now + 1, count=len(swap.names)),
        )
        new = self._swap is None or self._swap[0] is not rig or self._swap[1] is not swap
        if new:
            self.drawings.words = ()  # the same words may be another part's
        self.drawings.show_tiles(swap.names, now)
        if new:
            self._swap = rig, swap
            shown = partial(self._show_drawing, rig, swap)
            self._images.ask(rig, swap.setting, partial(drawing_views, rig, swap), shown)

    def _show_view(self, rig: Rig, number: int, image: QImage) -> None:
        if self._viewed is rig:
            self.views.show_image(number, image)

    def _show_drawing(self, rig: Rig, swap: Swap, number: int, image: QImage) -> None:
        if self._swap is not None and self._swap[0] is rig and self._swap[1] is swap:
            self.drawings.show_image(number, image)

    def place(self) -> None:
        """The views at the right edge of the stage, the drawings under them, or at the left edge
        where they would lie on their part. On a narrow stage they stand on each other."""
        stage = self._stage
        narrow, room = stage.width() < NARROW, stage.height() - stage.bottom_reserved - TOP - EDGE
        self.views.set_columns(1 if narrow else 4)
        single = narrow and self.drawings.height_in(1) + HEADING < room
        self.drawings.set_columns(1 if single else 2)
        self._entitle(short=single)
        top, right = TOP, stage.width() - EDGE
        for panel in (self.views_panel, self.drawings_panel):
            panel.adjustSize()
        seen = self.views_panel.isVisibleTo(stage)
        reserved = self.views_panel.width() + EDGE if seen and narrow else 0
        stage.lead = None
        came, stage.right_reserved = reserved > stage.right_reserved, reserved
        if came and self._new and len(self._workspace.cast.actors) == 1:
            stage.frame(None)  # it was framed before there was anything beside it
        self._new = False
        if seen:
            self.views_panel.move(right - self.views_panel.width(), top)
            top += self.views_panel.height() + EDGE
        if self._swap is not None and self.drawings_panel.isVisibleTo(stage):
            panel = self.drawings_panel
            left = self._part_at() > stage.width() * (0.4 if narrow else 0.66)
            panel.move(EDGE if left else right - panel.width(), TOP if left else top)
            stage.lead = self._swap[1].control, panel.geometry()
        stage.update()

    def _entitle(self, *, short: bool) -> None:
        """Say what is shown, on a narrow shelf the part alone."""
        part, whole = self._said
        metrics = self.title.fontMetrics()
        told = metrics.elidedText(part, Qt.TextElideMode.ElideRight, SHORT) if short else whole
        self.title.setText(told)
        self.title.setToolTip(plain_tip(whole))
        layout = self.drawings_panel.layout()
        assert layout is not None
        layout.invalidate()  # also the line within it, or the panel would be as wide as before
        layout.activate()

    def _part_at(self) -> float:
        """Where the part is whose drawings are shown, pixels from the stage's left edge."""
        layout = self._stage.layout_now()
        if layout is None or self._swap is None:
            return 0.0
        return float(layout.points[self._swap[1].control, 0])
