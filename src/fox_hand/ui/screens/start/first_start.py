"""The first start: the crew, the demo first, and what this is."""

from __future__ import annotations

from importlib import resources

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QImage, QPainter, QPainterPath, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.ui.services.picture_files import decoded
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind

CAPTION = 40  # pixels of the band with names
# who stands where, as shares of the picture's width
CREW = (
    (0.26, "Quill", tr("ticket inspector")),
    (0.39, "Pim", tr("stowaway")),
    (0.505, "Marrow", tr("deckhand")),
    (0.64, "Brandle", tr("skipper")),
    (0.75, "Gull", tr("a flat one")),
)
STEPS = (
    (tr("Put a card on"), tr("One click on Fist closes the hand. Slide for a bit of a fist.")),
    (tr("Keep it, or put it back"), tr("Going on working keeps it. Esc puts back what was there.")),
    (tr("Take a card of your own"), tr("Pose, then capture: name and picture come along.")),
    (
        tr("Bring your own figure"),
        tr("Drop a glTF file with a skin here, or on this window later."),
    ),
)


class CrewPicture(QWidget):
    """All of them on deck, with their names below."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._image = QImage()  # unpacked when it is seen
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(200)
        self.setAccessibleName(", ".join(f"{name}, {what}" for _, name, what in CREW))

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter, rect = self._theme, QPainter(self), QRectF(self.rect())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        path = QPainterPath()
        path.addRoundedRect(rect, 8, 8)
        painter.setClipPath(path)
        upper = rect.adjusted(0, 0, 0, -CAPTION)
        if self._image.isNull():
            data = resources.files("fox_hand.ui.icons").joinpath("crew.webp").read_bytes()
            self._image = decoded(data)
        image = self._image
        scale = max(upper.width() / image.width(), upper.height() / image.height())
        wide, high = upper.width() / scale, upper.height() / scale
        left = (image.width() - wide) / 2
        painter.drawImage(upper, image, QRectF(left, image.height() - high, wide, high))
        band = QRectF(0, rect.bottom() - CAPTION, rect.width(), CAPTION)
        painter.fillRect(band, theme.colour("panel"))
        for share, name, what in CREW:
            x = (share * image.width() - left) * scale
            self._caption(painter, x, band, name, what)

    def _caption(
        self, painter: QPainter, middle: float, band: QRectF, name: str, what: str
    ) -> None:
        theme = self._theme
        painter.setFont(theme.font(12, 600))
        first = painter.fontMetrics().horizontalAdvance(f"{name}, ")
        painter.setFont(theme.font(12))
        second = painter.fontMetrics().horizontalAdvance(what)
        x = middle - (first + second) / 2
        upright = Qt.AlignmentFlag.AlignVCenter
        painter.setPen(theme.colour("text"))
        painter.drawText(QRectF(x + first, band.top(), second + 4, band.height()), upright, what)
        painter.setFont(theme.font(12, 600))
        painter.drawText(QRectF(x, band.top(), first + 4, band.height()), upright, f"{name},")


class FirstStart(QWidget):
    """What somebody sees who was never here."""

    demo_asked = Signal()
    open_asked = Signal()
    new_asked = Signal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        title = Words(tr("Your desk is still empty. The crew would like to help."))
        title.setProperty("role", "large")
        hint = Words(
            tr(
                "Fox Hand keeps poses, hands and faces as cards, and puts them back on any figure. "
                "Open the demo and click any card: the figure moves. Nothing you do there can "
                "break it."
            )
        )
        for label in (title, hint):
            label.setWordWrap(True)
        hint.setProperty("quiet", True)
        self.open = Button(theme, tr("Open a project"))
        self.new = Button(theme, tr("Make a new one"))
        self.demo = Button(theme, tr("Open the demo"), kind=Kind.MAIN, key="Enter", height=36)
        self.open.clicked.connect(self.open_asked)
        self.new.clicked.connect(self.new_asked)
        self.demo.clicked.connect(self.demo_asked)
        words = QVBoxLayout()
        words.setSpacing(4)
        words.addWidget(title)
        words.addWidget(hint)
        line = QHBoxLayout()
        line.setSpacing(8)
        line.addLayout(words, 1)
        for button in (self.open, self.new, self.demo):
            line.addWidget(button)
        steps = QHBoxLayout()
        steps.setSpacing(32)
        for number, (name, text) in enumerate(STEPS, 1):
            steps.addWidget(FirstStep(theme, number, name, text), 1)
        rule = QWidget()
        rule.setProperty("plate", "line")
        rule.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        rule.setFixedHeight(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(28)
        column.addWidget(CrewPicture(theme), 1)
        column.addLayout(line)
        column.addWidget(rule)
        column.addLayout(steps)


class FirstStep(QWidget):
    """A number, what it is, and a line about it."""

    def __init__(self, theme: Theme, number: int, name: str, text: str) -> None:
        super().__init__()
        self._theme, self._number = theme, number
        title, words = Words(name), Words(text)
        title.setProperty("role", "title")
        words.setProperty("quiet", True)
        words.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(36, 2, 0, 0)
        column.setSpacing(2)
        column.addWidget(title)
        column.addWidget(words)
        column.addStretch(1)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("raised"))
        place = QRectF(0, 0, 24, 24)
        painter.drawEllipse(place)
        painter.setPen(theme.colour("text"))
        painter.setFont(theme.font(12, 600))
        painter.drawText(place, Qt.AlignmentFlag.AlignCenter, f"{self._number}")
