"""What stands over the cards: libraries, outline, size, order, capture; and the parts of the
body."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QFontMetrics, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.core.model.controls import Region
from fox_hand.library.index.query import BODY, FACE, Query
from fox_hand.ui.browser.sheets_bar import SizeSlider
from fox_hand.ui.outline.path_row import facets_button
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Segments

HANDS = frozenset({Region.HANDS})
PARTS = {
    "all": (tr("All"), Query()),
    "body": (tr("Body"), Query(regions=BODY)),
    "face": (tr("Face"), Query(regions=FACE)),
    "left": (tr("L hand"), Query(regions=HANDS, sides=frozenset({"left", "both"}))),
    "right": (tr("R hand"), Query(regions=HANDS, sides=frozenset({"right", "both"}))),
    "clips": (tr("Clips"), Query(kind="clip")),
}
WIDE, WIDER = 320, 500  # pixels from which there is room for more
ONE_ICON, SWITCH = 28, 162
ELIDE = Qt.TextElideMode.ElideRight


class SheetsHead(QWidget):
    """The first line.

    Args:
        theme: colours and type.
        size: of the cards.
    """

    library_menu_asked = Signal(QPoint)
    order_menu_asked = Signal(QPoint)
    capture = Signal()
    resized = Signal(int)
    outline_asked = Signal(bool)

    def __init__(self, theme: Theme, size: int) -> None:
        super().__init__()
        self._theme = theme
        self._text = ""
        self.setFixedHeight(36)
        line = QHBoxLayout(self)
        line.setContentsMargins(4, 0, 8, 0)
        line.setSpacing(4)
        self.library_button = Button(
            theme, kind=Kind.FLAT, menu=True, height=24, tip=tr("Libraries")
        )
        self.outline_button = Button(
            theme, icon="outline", kind=Kind.SWITCH, height=28, tip=tr("Outline of the sheets")
        )
        self.outline_switch = Segments(
            theme, [("outline", tr("Outline")), ("index", tr("Thumb index"))], tr("Sheets")
        )
        self.slider = SizeSlider(theme, size)
        self.order_button = Button(
            theme,
            icon="arrow-up-down",
            kind=Kind.FLAT,
            height=28,
            tip=tr("Order, groups and names"),
        )
        self.capture_button = Button(
            theme, tr("Capture"), icon="camera", tip=tr("Keep what is selected as a card")
        )
        line.addWidget(self.library_button)
        line.addStretch(1)
        for part in (
            self.outline_switch,
            self.outline_button,
            self.slider,
            self.order_button,
            self.capture_button,
        ):
            line.addWidget(part)
        self._connect()

    def _connect(self) -> None:
        for button, asked in (
            (self.library_button, self.library_menu_asked),
            (self.order_button, self.order_menu_asked),
        ):
            button.clicked.connect(lambda _=False, b=button, a=asked: a.emit(below(b)))
        self.capture_button.clicked.connect(self.capture)
        self.slider.valueChanged.connect(self.resized)
        self.outline_button.clicked.connect(self.outline_asked)
        self.outline_switch.chosen.connect(lambda way: self.outline_asked.emit(way == "outline"))

    def show_outline(self, on: bool) -> None:
        """Whether the outline is in sight."""
        self.outline_button.setChecked(on)
        self.outline_switch.set_value("outline" if on else "index")

    def resizeEvent(self, event: QResizeEvent) -> None:
        """A narrow column leaves out what can be found elsewhere."""
        super().resizeEvent(event)
        self.slider.setVisible(self.width() >= WIDE)
        self.outline_switch.setVisible(self.width() >= WIDER)
        self.outline_button.setVisible(self.width() < WIDER)
        self.name_libraries(self._text)

    def name_libraries(self, text: str) -> None:
        """Which libraries are shown, as far as there is room."""
        self._text = text
        room = self.width() - (266 if self.width() >= WIDE else 210)
        if self.width() >= WIDER:
            room += ONE_ICON - SWITCH
        metrics = QFontMetrics(self._theme.font(12, 500))
        self.library_button.setText(metrics.elidedText(text, ELIDE, max(room, 40)))
        self.library_button.setAccessibleName(tr("Libraries: {text}", text=text))
        self.library_button.updateGeometry()


class PartsRow(QWidget):
    """Parts of the body to narrow the cards to, and the way to the facets."""

    chosen = Signal(str)
    facets_asked = Signal(bool)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setFixedHeight(32)
        line = QHBoxLayout(self)
        line.setContentsMargins(8, 0, 8, 0)
        line.setSpacing(0)
        self.pills: dict[str, Button] = {}
        for key, (word, _) in PARTS.items():
            pill = Button(theme, word, kind=Kind.PILL, height=24, tip=tr("Show {word}", word=word))
            pill.clicked.connect(lambda _=False, k=key: self.chosen.emit(k))
            self.pills[key] = pill
            line.addWidget(pill)
        self.pills["all"].setChecked(True)
        line.addStretch(1)
        self.facets_button = facets_button(theme)
        self.facets_button.clicked.connect(self.facets_asked)
        line.addWidget(self.facets_button)

    def show_part(self, part: str) -> None:
        """Which part is chosen."""
        for key, pill in self.pills.items():
            pill.setChecked(key == part)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        wide = self.width() >= WIDE
        self.facets_button.setVisible(wide)
        for key in ("left", "right"):  # letters are enough where six words have no room
            word = PARTS[key][0]
            self.pills[key].setText(word if wide else word[0])
            self.pills[key].setAccessibleName(word)
            self.pills[key].updateGeometry()


def below(button: Button) -> QPoint:
    """The lower left corner of a button on the screen."""
    return button.mapToGlobal(button.rect().bottomLeft())
