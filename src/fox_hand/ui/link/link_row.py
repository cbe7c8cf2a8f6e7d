"""The row over a card that is being put on a figure of a host: where it goes when it is kept."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QWidget

from fox_hand.base.language import number_text, tr
from fox_hand.session.app.linked_stage import LinkedStage
from fox_hand.session.figures.playhead import Playhead
from fox_hand.session.link.host_link import LinkState
from fox_hand.ui.theme.plain_text import Words, menu_word
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.choice import Choice
from fox_hand.ui.widgets.passing_menu import passing_menu
from fox_hand.ui.widgets.sign import Sign

SHOWN, KEYED = "shown", "keyed"
WAYS = ((SHOWN, tr("Only show")), (KEYED, tr("Keyed")))
HEIGHT = 40  # pixels
NARROW = 560


class LinkRow(QWidget):
    """Says it in a sentence; layer, and whether it is keyed, are chosen in it."""

    def __init__(self, theme: Theme, linking: LinkedStage, timing: Playhead) -> None:
        super().__init__()
        self._theme, self._linking, self._timing = theme, linking, timing
        self.setFixedHeight(HEIGHT)
        self._goes = Words(tr("goes to the host:"))
        self._goes.setProperty("quiet", True)
        self.where = Words("")
        self.layer = Button(
            theme, "", kind=Kind.FLAT, height=24, menu=True, padding=4, tip=tr("Layer of the keys")
        )
        self.layer.clicked.connect(self._ask_layer)
        self.way = Choice(theme, WAYS, tr("Whether what is kept sets keys there"))
        self.way.chosen.connect(lambda value: linking.set_keyed(value == KEYED))
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 8, 12, 0)
        row.setSpacing(8)
        row.addWidget(Sign(theme, "link", 16))
        row.addWidget(self._goes)
        row.addWidget(self.where)
        row.addWidget(self.layer)
        row.addStretch(1)
        row.addWidget(self.way)
        linking.changed.connect(self.refresh)
        timing.moved.connect(self.refresh)

    @property
    def needed(self) -> bool:
        """Whether the one who acts is a host's."""
        return self._linking.acting is not None

    def set_width(self, width: int) -> None:
        """A narrow row says less."""
        self._goes.setVisible(width >= NARROW)

    def refresh(self) -> None:
        """Say where it goes now."""
        linked, link = self._linking.acting, self._linking.link
        if linked is None or link is None:
            return
        keyed = self._linking.keyed
        frame = number_text(self._timing.frame, "g")
        layers = [layer.name for layer in linked.layers]
        if link.state is LinkState.LOST:
            text = tr("waits until {name} is there again", name=link.name)
        elif link.state is LinkState.WATCHING:
            text = tr("stays here: another window leads")
        elif link.state is LinkState.PAUSED:
            text = tr("waits: the link is paused")
        elif "time" not in link.can:
            text = tr("keyed where it is") if keyed else tr("without a key")
        elif keyed and len(layers) > 1:
            text = tr("keyed at its frame {frame}, layer", frame=frame)
        elif keyed:
            text = tr("keyed at its frame {frame}", frame=frame)
        else:
            text = tr("without a key, at its frame {frame}", frame=frame)
        self.where.setText(text)
        self.where.setProperty("tone", "text" if link.ready else "warning")
        self.where.style().polish(self.where)
        self.layer.setVisible(keyed and len(layers) > 1 and link.ready)
        usual = next((layer.name for layer in linked.layers if layer.active), "")
        self.layer.setText(linked.layer or usual)
        self.layer.updateGeometry()
        self.way.set_value(KEYED if keyed else SHOWN)

    def _ask_layer(self) -> None:
        linked, menu = self._linking.acting, passing_menu(self)
        if linked is None:
            return
        for layer in reversed(linked.layers):  # the highest on top
            choose = partial(self._linking.set_layer, layer.name)
            action = menu.addAction(menu_word(layer.name), choose)
            action.setCheckable(True)
            action.setChecked(layer.name == linked.layer or (not linked.layer and layer.active))
        menu.popup(self.layer.mapToGlobal(self.layer.rect().bottomLeft()))
