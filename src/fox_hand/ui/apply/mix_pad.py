"""Several cards: a pad to wander between them, and a slider for each."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from fox_hand.base.language import tr
from fox_hand.core.model.controls import Region
from fox_hand.core.naming.part_words import region_title
from fox_hand.core.pose.pad import pad_corners, shares_of_pad
from fox_hand.session.applying.application import Weights
from fox_hand.session.applying.mix import Mix
from fox_hand.ui.theme.plain_text import Words, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Tick, draw_focus
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey
from fox_hand.ui.widgets.painted_slider import PaintedSlider
from fox_hand.ui.widgets.passing_menu import passing_menu

STAMP = 48  # pixels of a card's picture beside the pad
ROOMY = 640  # pixels of the bar from which the pad has pictures
NUMBERS = {
    2: tr("Two"),
    3: tr("Three"),
    4: tr("Four"),
    5: tr("Five"),
    6: tr("Six"),
    7: tr("Seven"),
    8: tr("Eight"),
}


class MixPad(QWidget):
    """Drag the pointer between the cards; arrows move it by a twentieth."""

    moved = Signal(float, float)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._at = (0.5, 0.5)
        self._shares: list[float] = []
        self._trail: list[QPointF] = []
        self._compact = False
        self.images: dict[int, QImage] = {}
        self.keys = self._key_map()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Between the cards"))
        self.setFixedHeight(160)
        self.set_compact(False)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.CrossCursor)

    def sizeHint(self) -> QSize:
        return QSize(316, 160)

    def set_compact(self, compact: bool) -> None:
        """Where there is little room, without the cards' pictures."""
        self._compact = compact
        self.setMinimumWidth(132 if compact else 220)
        self.setMaximumWidth(132 if compact else 440)
        self.update()

    def field(self) -> QRectF:
        """The part between the pictures."""
        aside = 0 if self._compact else STAMP + 12
        return QRectF(self.rect()).adjusted(aside, 2, -aside, -2)

    def show_mix(self, at: tuple[float, float], shares: list[float]) -> None:
        self._at, self._shares = at, shares
        self.update()

    def _place(self, at: tuple[float, float]) -> QPointF:
        field = self.field().adjusted(10, 10, -10, -10)
        return QPointF(field.x() + at[0] * field.width(), field.y() + at[1] * field.height())

    def _go(self, x: float, y: float) -> None:
        self.moved.emit(min(max(x, 0.0), 1.0), min(max(y, 0.0), 1.0))

    def _go_to(self, point: QPointF) -> None:
        field = self.field().adjusted(10, 10, -10, -10)
        self._go((point.x() - field.x()) / field.width(), (point.y() - field.y()) / field.height())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is not Qt.MouseButton.LeftButton:
            event.ignore()
            return
        self._trail = []
        self._go_to(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._trail = [*self._trail[-40:], self._place(self._at)]
            self._go_to(event.position())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def _key_map(self) -> KeyMap:
        ways = {"Left": (-1, 0), "Right": (1, 0), "Up": (0, -1), "Down": (0, 1)}
        keys = []
        for name, (x, y) in ways.items():
            for written, step in ((name, 0.05), (f"Shift+{name}", 0.01)):
                keys.append(LocalKey((written,), partial(self._step, x * step, y * step)))
        return KeyMap(keys)

    def _step(self, x: float, y: float) -> None:
        self._go(self._at[0] + x, self._at[1] + y)

    def _stamp_rects(self) -> list[QRectF]:
        """Where the cards' pictures are: beside the field, at their corners."""
        count, field = len(self._shares), self.field()
        found = []
        for x, y in pad_corners(count):
            left = field.left() - STAMP - 8 if x < 0.5 else field.right() + 8
            if 0.2 < x < 0.8:
                left = field.right() + 8
            top = field.top() + y * (field.height() - STAMP)
            found.append(QRectF(left, top, STAMP, STAMP))
        return found

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter, field = self._theme, QPainter(self), self.field()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.setBrush(theme.colour("field"))
        painter.drawRoundedRect(field, 6, 6)
        painter.setPen(QPen(theme.colour("line2"), 1))
        for i in range(1, 4):
            x, y = field.x() + field.width() * i / 4, field.y() + field.height() * i / 4
            painter.drawLine(QPointF(x, field.top() + 1), QPointF(x, field.bottom() - 1))
            painter.drawLine(QPointF(field.left() + 1, y), QPointF(field.right() - 1, y))
        self._paint_lines(painter)
        for number, rect in enumerate([] if self._compact else self._stamp_rects()):
            image = self.images.get(number)
            if image is None:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.colour("raised"))
                painter.drawRoundedRect(rect, 4, 4)
            else:
                painter.drawImage(rect, image)
        if self.hasFocus():
            draw_focus(painter, theme, field, 6)

    def _paint_lines(self, painter: QPainter) -> None:
        """The heavier a card, the thicker its line."""
        theme, here = self._theme, self._place(self._at)
        for corner, share in zip(pad_corners(len(self._shares)), self._shares, strict=True):
            if share > 0.005:
                painter.setPen(QPen(theme.colour("accent", 0.75), 0.75 + 5 * share))
                painter.drawLine(self._place(corner), here)
        if len(self._trail) > 1:
            painter.setPen(QPen(theme.colour("quiet"), 1, Qt.PenStyle.DotLine))
            painter.drawPolyline(self._trail)
        painter.setPen(QPen(theme.colour("text"), 2))
        painter.setBrush(theme.colour("accent"))
        painter.drawEllipse(here, 8, 8)


class WeightSlider(PaintedSlider):
    """0 to 100 % of one card. Drag, wheel, arrows."""

    def __init__(self, theme: Theme, name: str) -> None:
        super().__init__((0.0, 1.0), tr("Weight of {name}", name=name), 0.5)
        self._theme = theme
        self.setFixedHeight(24)
        self.setMinimumWidth(60)

    def x_of(self, amount: float) -> float:
        return 6 + amount * (self.width() - 12)

    def amount_at(self, x: float) -> float:
        """The weight that a pull to a place means."""
        return self._bounded((x - 6) / max(self.width() - 12, 1))

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("line"))
        painter.drawRoundedRect(QRectF(6, 9, self.width() - 12, 6), 3, 3)
        here = self.x_of(self.amount)
        painter.setBrush(theme.colour("accent"))
        painter.drawRoundedRect(QRectF(6, 9, here - 6, 6), 3, 3)
        painter.setBrush(theme.colour("text"))
        painter.drawRoundedRect(QRectF(here - 2, 5, 4, 14), 2, 2)
        if self.hasFocus():
            draw_focus(painter, theme, QRectF(self.rect()), 4)


class MixWeights(QWidget):
    """The pad and the sliders, for two cards and more."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._mix: Mix | None = None
        self._region: Region | None = None
        self.pad = MixPad(theme)
        self.pad.moved.connect(self._moved)
        self._title = Words("")
        self._title.setProperty("role", "title")
        self._sum = Words("")
        self._sum.setProperty("quiet", True)
        self.where = Button(theme, tr("Everywhere"), kind=Kind.FLAT, height=24, menu=True)
        self.where.setToolTip(tr("Weights for all regions, or for one of its own"))
        self.where.clicked.connect(self._ask_where)
        self.together = Tick(theme, tr("Weights always add to 100"))
        self.together.toggled.connect(self._keep_together)
        self.sliders: list[WeightSlider] = []
        self.drops: list[Button] = []
        self._values: list[QLabel] = []
        self._rows = QWidget()
        self._grid = QGridLayout(self._rows)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(2)
        head = QHBoxLayout()
        head.setSpacing(8)
        head.addWidget(self._title)
        head.addWidget(self._sum)
        head.addStretch(1)
        head.addWidget(self.where)
        side = QVBoxLayout()
        side.setSpacing(4)
        side.addLayout(head)
        side.addWidget(self._rows)
        side.addStretch(1)
        side.addWidget(self.together)
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(12)
        line.addWidget(self.pad, 5)
        line.addLayout(side, 4)

    def end(self) -> None:
        """Nothing is mixed any more."""
        self._mix = None

    def begin(self, mix: Mix) -> None:
        """Show the cards of a mix."""
        self._mix, self._region = mix, None
        self.pad.images.clear()
        while (item := self._grid.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        self.sliders, self.drops, self._values = [], [], []
        for number, one in enumerate(mix.cards):
            self._row(number, one.card.name)
        self.show_mix()

    def _row(self, number: int, name: str) -> None:
        label = Words()
        label.setText(label.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, 76))
        label.setToolTip(plain_tip(name))
        label.setFixedWidth(76)
        slider = WeightSlider(self._theme, name)
        slider.pulled.connect(partial(self._pulled, number))
        value = Words("")
        value.setFixedWidth(38)
        value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        drop = Button(
            self._theme,
            icon="x",
            kind=Kind.FLAT,
            height=24,
            icon_size=12,
            tip=tr("Take {name} out", name=name),
        )
        drop.clicked.connect(partial(self._drop, number))
        for column, widget in enumerate((label, slider, value, drop)):
            self._grid.addWidget(widget, number, column)
        self.sliders.append(slider)
        self._values.append(value)
        self.drops.append(drop)

    def set_width(self, width: int) -> None:
        """How wide the bar is that it lies in."""
        compact = width < ROOMY
        self.pad.set_compact(compact)
        self._sum.setVisible(not compact)

    def show_mix(self) -> None:
        """Bring pad, sliders and words up to date."""
        mix = self._mix
        if mix is None or len(self.sliders) != len(mix.cards):
            return
        values = [
            w.whole if self._region is None else w.regions.get(self._region, w.whole)
            for w in mix.weights
        ]
        for slider, label, value in zip(self.sliders, self._values, values, strict=True):
            slider.show_amount(value)
            label.setText(f"{value * 100:.0f} %")
        count = len(mix.cards)
        self._title.setText(tr("{numbers} cards", numbers=NUMBERS.get(count, str(count))))
        self._sum.setText(
            tr("sum {values:.0f} %", values=sum(values) * 100)
            if mix.together
            else tr("each for itself")
        )
        self.together.set_state(mix.together, False, "")
        self.where.setText(region_title(self._region) if self._region else tr("Everywhere"))
        self.where.updateGeometry()
        self.pad.show_mix(mix.pad_at, values)

    def _moved(self, x: float, y: float) -> None:
        mix = self._mix
        if mix is None:
            return
        mix.pad_at = (x, y)
        shares = [round(s, 4) for s in shares_of_pad((x, y), len(mix.cards))]
        if self._region is None:
            mix.set_weights([Weights(share) for share in shares])
        else:
            mix.set_weights(
                [
                    Weights(w.whole, {**w.regions, self._region: share})
                    for w, share in zip(mix.weights, shares, strict=True)
                ]
            )
        self.show_mix()

    def _pulled(self, number: int, value: float) -> None:
        if self._mix is not None:
            self._mix.set_amount(value, number, self._region)
            self.show_mix()

    def _drop(self, number: int) -> None:
        """Take a card out; the keyboard, where it did that, goes on at the next row."""
        here = self.drops[number].hasFocus()
        if self._mix is not None:
            self._mix.drop(number)
        if here and self.drops:
            following = self.drops[min(number, len(self.drops) - 1)]
            following.show()
            following.setFocus(Qt.FocusReason.OtherFocusReason)

    def _keep_together(self, on: bool) -> None:
        if self._mix is not None:
            self._mix.keep_together(on)
            self.show_mix()

    def _ask_where(self) -> None:
        mix = self._mix
        if mix is None:
            return
        menu = passing_menu(self)
        for region in (None, *mix.regions):
            word = tr("Everywhere") if region is None else region_title(region)
            action = menu.addAction(word, partial(self._choose_where, region))
            action.setCheckable(True)
            action.setChecked(region is self._region)
        menu.popup(self.where.mapToGlobal(self.where.rect().bottomLeft()))

    def _choose_where(self, region: Region | None) -> None:
        self._region = region
        self.show_mix()
