"""The bar over the stage while a card is being put on."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QFontMetrics,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPolygonF,
    QWheelEvent,
)
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from fox_hand.core.controls import ControlKind
from fox_hand.core.view import Picture, Quality, Standing, View
from fox_hand.session.desk import Desk
from fox_hand.session.mix import HIGHEST, LOWEST, Mix
from fox_hand.session.ports import Pictures, Post
from fox_hand.session.putting import Part
from fox_hand.ui.buttons import Button, Kind, Segments, draw_focus
from fox_hand.ui.look import Look
from fox_hand.ui.stage import Stage

STOPS = (-0.5, 0.0, 0.5, 1.0, 1.5)
SNAP = 0.012  # a pull this near to a stop lands on it
SMALL = 36
LATER = 40  # milliseconds
WIDEST = 880


class AmountRuler(QWidget):
    """-50 to 150 % with a small live picture at every stop. Drag, wheel, arrows."""

    pulled = Signal(float)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._amount = 1.0
        self._by_key = False
        self._images: dict[float, QImage] = {}
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumWidth(150)
        self.setFixedHeight(76)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Amount")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(330, 76)

    def focusInEvent(self, event: QFocusEvent) -> None:
        """The ring shows only for those who came by keyboard."""
        by_key = (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self._by_key = event.reason() in by_key
        super().focusInEvent(event)

    def show_amount(self, amount: float) -> None:
        self._amount = amount
        self.setAccessibleDescription(f"{amount * 100:.0f} %")
        self.update()

    def show_image(self, stop: float, image: QImage) -> None:
        self._images[stop] = image
        self.update()

    def clear_images(self) -> None:
        self._images.clear()
        self.update()

    def x_of(self, amount: float) -> float:
        """Where an amount is, in widget pixels."""
        return 20 + (amount - LOWEST) / (HIGHEST - LOWEST) * (self.width() - 40)

    def _pull_to(self, x: float) -> None:
        amount = LOWEST + (x - 20) / max(self.width() - 40, 1) * (HIGHEST - LOWEST)
        amount = min(max(amount, LOWEST), HIGHEST)
        near = min(STOPS, key=lambda stop: abs(stop - amount))
        amount = near if abs(near - amount) < SNAP else round(amount, 2)
        self.pulled.emit(amount)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pull_to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._pull_to(event.position().x())

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._step(0.05 if event.angleDelta().y() > 0 else -0.05)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        size = 0.01 if fine else 0.05
        steps = {Qt.Key.Key_Left: -size, Qt.Key.Key_Right: size}
        if Qt.Key(event.key()) in steps:
            self._step(steps[Qt.Key(event.key())])
        elif event.key() == Qt.Key.Key_Home:
            self.pulled.emit(0.0)
        elif event.key() == Qt.Key.Key_End:
            self.pulled.emit(1.0)
        else:
            super().keyPressEvent(event)

    def _step(self, by: float) -> None:
        self.pulled.emit(round(min(max(self._amount + by, LOWEST), HIGHEST), 2))

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        look, painter = self._look, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        size = min(SMALL, (self.x_of(0.5) - self.x_of(0.0)) - 4)
        for stop in STOPS:
            at = QRectF(self.x_of(stop) - size / 2, SMALL - size, size, size)
            image = self._images.get(stop)
            painter.setOpacity(1.0 if 0 <= stop <= 1 else 0.6)
            if image is None:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(look.colour("raised"))
                painter.drawRoundedRect(at, 4, 4)
            else:
                painter.drawImage(at, image)
        painter.setOpacity(1.0)
        self._paint_track(painter)
        if self.hasFocus() and self._by_key:
            draw_focus(painter, look, QRectF(2, 40, self.width() - 4, 36), 6)

    def _paint_track(self, painter: QPainter) -> None:
        look, y = self._look, 48.0
        low, high, zero, full = (self.x_of(v) for v in (LOWEST, HIGHEST, 0.0, 1.0))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("line"))
        painter.drawRect(QRectF(low, y - 1, high - low, 2))
        painter.drawRoundedRect(QRectF(zero, y - 3, full - zero, 6), 3, 3)
        painter.setBrush(look.colour("accent"))
        here = self.x_of(self._amount)
        painter.drawRoundedRect(QRectF(min(zero, here), y - 3, abs(here - zero), 6), 3, 3)
        painter.setBrush(look.colour("quiet"))
        for tick in range(-50, 151, 10):
            tall = 6 if tick % 50 == 0 else 4
            painter.drawRect(QRectF(self.x_of(tick / 100) - 0.5, y + 7, 1, tall))
        painter.setFont(look.font(11))
        for stop in STOPS:
            on = abs(stop - self._amount) < 1e-6
            painter.setPen(look.colour("text" if on else "quiet"))
            rect = QRectF(self.x_of(stop) - 24, y + 13, 48, 14)
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, f"{stop * 100:.0f}")
        pointer = QPolygonF(
            [
                QPointF(here, y - 12),
                QPointF(here + 7, y - 5),
                QPointF(here + 7, y + 10),
                QPointF(here - 7, y + 10),
                QPointF(here - 7, y - 5),
            ]
        )
        painter.setPen(look.colour("panel"))
        painter.setBrush(look.colour("accent"))
        painter.drawPolygon(pointer)


class CardThumb(QWidget):
    """The card's picture, 68 px."""

    def __init__(self) -> None:
        super().__init__()
        self.image = QImage()
        self.setFixedSize(68, 68)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if not self.image.isNull():
            painter.drawImage(QRectF(self.rect()), self.image)


class MixBar(QWidget):
    """Amount, part, fit, keep and put back. Changing anything moves the figure at once."""

    def __init__(
        self, look: Look, desk: Desk, stage: Stage, pictures: Pictures, post: Post
    ) -> None:
        super().__init__(stage)
        self._look, self._desk, self._stage = look, desk, stage
        self._pictures, self._post = pictures, post
        self._mix: Mix | None = None
        self._pictured: tuple[object, Part, frozenset[int]] | None = None
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(124)
        self._build()
        self.hide()
        desk.mix_changed.connect(self._on_mix)

    def _build(self) -> None:
        look = self._look
        self.thumb = CardThumb()
        self._name = QLabel("")
        self._name.setProperty("role", "title")
        self._where = QLabel("")
        self._where.setProperty("quiet", True)
        self.amount = QLineEdit()
        self.amount.setFixedSize(58, 30)
        self.amount.setFont(look.font(24, 600))
        self.amount.setAccessibleName("Amount in percent")
        self.amount.setToolTip("Type an amount from -50 to 150")
        colour = look.tokens.accent_text
        self.amount.setStyleSheet(
            "QLineEdit { background: transparent; border: none; padding: 0; font-size: 24px;"
            f" font-weight: 600; color: {colour}; }}"
            f"QLineEdit:focus {{ border: none; border-bottom: 2px solid {colour}; padding: 0; }}"
        )
        self.amount.editingFinished.connect(self._typed)
        percent = QLabel("%")
        percent.setStyleSheet(f"color: {colour}; font-weight: 600;")
        self.ruler = AmountRuler(look)
        self.ruler.pulled.connect(self._pull)
        self.keep_button = Button(look, "Keep", kind=Kind.MAIN, key="Enter")
        self.keep_button.clicked.connect(self._desk.keep_mix)
        self.back_button = Button(look, "Put back", key="Esc")
        self.back_button.clicked.connect(self._desk.put_back)
        width = max(self.keep_button.sizeHint().width(), self.back_button.sizeHint().width())
        for button in (self.keep_button, self.back_button):
            button.setFixedWidth(width)
        buttons = QVBoxLayout()
        buttons.setSpacing(8)
        buttons.addWidget(self.keep_button)
        buttons.addWidget(self.back_button)
        upper = QHBoxLayout()
        upper.setContentsMargins(12, 10, 12, 2)
        upper.setSpacing(12)
        upper.addWidget(self.thumb, 0, Qt.AlignmentFlag.AlignTop)
        upper.addWidget(self._words_and_number(percent))
        upper.addWidget(self.ruler, 1)
        upper.addLayout(buttons)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(upper, 1)
        column.addWidget(self._lower_row())

    def _words_and_number(self, percent: QLabel) -> QWidget:
        number = QHBoxLayout()
        number.setSpacing(2)
        number.addWidget(self.amount)
        number.addWidget(percent)
        number.addStretch(1)
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(self._name)
        words.addWidget(self._where)
        words.addLayout(number)
        words.addStretch(1)
        side = QWidget()
        side.setLayout(words)
        words.setContentsMargins(0, 0, 0, 0)
        side.setFixedWidth(112)
        return side

    def _lower_row(self) -> QWidget:
        row = QWidget()
        row.setFixedHeight(36)
        line = QHBoxLayout(row)
        line.setContentsMargins(12, 0, 12, 4)
        line.setSpacing(8)
        label = QLabel("Part")
        label.setProperty("quiet", True)
        words = ((Part.ALL.value, "All it holds"), (Part.SELECTED.value, "Selected"))
        self.part = Segments(self._look, words, "Part of the card")
        self.part.chosen.connect(self._choose_part)
        self._hint = QLabel("")
        self._hint.setProperty("quiet", True)
        self.fit = QLabel("")
        self.fit.setFixedHeight(24)
        line.addWidget(label)
        line.addWidget(self.part)
        line.addWidget(self._hint, 1)
        line.addWidget(self.fit)
        return row

    def _on_mix(self) -> None:
        self._mix = mix = self._desk.mix
        if mix is None and self.isAncestorOf(self.window().focusWidget()):
            self._stage.setFocus(Qt.FocusReason.OtherFocusReason)
        self.setVisible(mix is not None)
        self._stage.bottom_reserved = self.height() + 12 if mix is not None else 0
        self._pictures.forget("mix:")
        if mix is None:
            return
        mix.changed.connect(self._show)
        self._name.setText(
            self._name.fontMetrics().elidedText(mix.card.name, Qt.TextElideMode.ElideRight, 110)
        )
        sheet = mix.entry.sheet.rsplit("/", 1)[-1]
        self._where.setText(f"{sheet}, for {mix.card.character or 'any'}")
        self.ruler.clear_images()
        self.thumb.image = QImage()
        self._pictured = None
        self.raise_()
        self.ruler.setFocus(Qt.FocusReason.OtherFocusReason)
        self._show()

    def _show(self) -> None:
        mix = self._mix
        if mix is None or mix is not self._desk.mix:
            return
        self.amount.setText(f"{mix.amount * 100:.0f}")
        metrics = QFontMetrics(self._look.font(24, 600))
        self.amount.setFixedWidth(metrics.horizontalAdvance(self.amount.text()) + 8)
        self.ruler.show_amount(mix.amount)
        self.part.set_value(mix.part.value)
        self.part.set_off(set() if mix.selected_rows else {Part.SELECTED.value})
        fit, look = mix.fit, self._look.tokens
        whole = fit.lands == fit.asked
        colour, ground = (look.good, look.raised) if whole else (look.warning, look.warning_ground)
        self.fit.setText(f"Fits {fit.lands}/{fit.asked}")
        self.fit.setStyleSheet(
            f"color: {colour}; background: {ground}; border-radius: 4px;"
            " padding: 3px 8px; font-weight: 600;"
        )
        names = ", ".join(fit.missing[:8])
        self.fit.setToolTip("Every control is found." if whole else f"Not found: {names}")
        count = len(mix.rows)
        self._hint.setText(f"moves {count} control{'s' if count != 1 else ''}")
        self._ask_pictures()

    def _ask_pictures(self) -> None:
        """Small pictures at the stops: when the card or what goes on changes, never in a drag."""
        mix = self._mix
        assert mix is not None
        key = (mix, mix.part, frozenset(mix.rows))
        if key == self._pictured:
            return
        self._pictured = key
        # five poses take their time: the window has to answer first
        QTimer.singleShot(LATER, partial(self._draw_pictures, mix, key))

    def _draw_pictures(self, mix: Mix, key: object) -> None:
        if mix is not self._desk.mix or key != self._pictured:
            return
        rig = mix.actor.rig
        on_body = (ControlKind.JOINT, ControlKind.HOLDER)
        everything = sorted(mix.rows)
        rows = [r for r in everything if rig.controls[r].kind in on_body] or everything
        stands = {stop: Standing(rig, rig.evaluate(mix.at(stop))) for stop in STOPS}
        ends = (rig.handle_places(stands[s].at.nodes)[rows] for s in (0.0, 1.0))
        points = np.concatenate([*ends])
        # joints lie inside the flesh, so there is room around them, more around few
        room = 0.03 * rig.height
        around = np.concatenate([points + room, points - room])
        camera = self._stage.camera.framing(around, 1.0, 1.12)
        ratio = 2
        for stop in (1.0, 0.0, 0.5, -0.5, 1.5):
            size = SMALL * ratio if stop != 1.0 else 68 * ratio
            view = View((stands[stop],), camera, size, size, Quality.CARD)
            self._pictures.submit(
                f"mix:{stop}",
                view,
                partial(self._came, mix, stop),
            )

    def _came(self, mix: Mix, stop: float, result: Picture | Exception) -> None:
        """On another thread: hand over to the window's."""
        self._post(lambda: self._picture(mix, stop, result))

    def _picture(self, mix: Mix, stop: float, result: Picture | Exception) -> None:
        if mix is not self._desk.mix or isinstance(result, Exception):
            return
        height, width = result.pixels.shape[:2]
        image = QImage(
            result.pixels.data, width, height, width * 4, QImage.Format.Format_RGBA8888
        ).copy()
        self.ruler.show_image(stop, image)
        if stop == 1.0:
            self.thumb.image = image
            self.thumb.update()

    def _pull(self, amount: float) -> None:
        if self._mix is not None:
            self._mix.set_amount(amount)

    def _typed(self) -> None:
        if self._mix is None:
            return
        text = self.amount.text().strip().rstrip("%").replace(",", ".")
        try:
            amount = float(text) / 100
        except ValueError:
            amount = self._mix.amount
        if not np.isfinite(amount):
            amount = self._mix.amount
        self._mix.set_amount(amount)
        self._show()

    def _choose_part(self, value: str) -> None:
        if self._mix is not None:
            self._mix.set_part(Part(value))

    def place(self) -> None:
        """12 px from the stage's edges; on a wide stage in its middle."""
        stage = self._stage
        self.setFixedWidth(min(max(stage.width() - 24, 320), WIDEST))
        self.move((stage.width() - self.width()) // 2, stage.height() - self.height() - 12)
