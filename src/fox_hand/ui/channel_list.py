"""The channels of the selected controls as rows to read, pull and type into."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QLineEdit, QSizePolicy, QWidget

from fox_hand.core.rig import Channel
from fox_hand.session.actor import Edit
from fox_hand.session.channels import ChannelRef, channels_of, with_value
from fox_hand.session.desk import Desk
from fox_hand.ui.look import Look

ROW = 24
NAME_X, BAR_WIDTH, VALUE_WIDTH, RESET_WIDTH = 12, 44, 46, 20


class ChannelList(QWidget):
    """Rows of 24 px: name, bar with its rest value marked, number, back to rest."""

    current_changed = Signal(int)

    def __init__(self, look: Look, desk: Desk) -> None:
        super().__init__()
        self._look, self._desk = look, desk
        self.refs: list[ChannelRef] = []
        self._current = -1
        self._pointed = -1
        self._pull: tuple[ChannelRef, Edit, float, float] | None = None
        self._editor = QLineEdit(self)
        self._editor.setAlignment(Qt.AlignmentFlag.AlignRight)
        self._editor.setStyleSheet("QLineEdit { padding: 0 3px; }")
        self._editor.hide()
        self._editor.editingFinished.connect(self._typed)
        self._editor.installEventFilter(self)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Channels")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        desk.selection.changed.connect(self._on_selection)
        desk.actor_changed.connect(self._on_actor)

    def sizeHint(self) -> QSize:
        return QSize(200, max(len(self.refs) * ROW, 1))

    def _repaint(self) -> None:
        self.update()

    def _on_actor(self) -> None:
        if self._desk.actor is not None:
            self._desk.actor.posed.connect(self._repaint)
        self._on_selection()

    def _on_selection(self) -> None:
        self._editor.hide()
        actor = self._desk.actor
        kinds = (Channel.TURN, Channel.MOVE, Channel.SCALE)
        self.refs = (
            [] if actor is None else channels_of(actor.rig, self._desk.selection.rows, kinds)
        )
        self._current = min(self._current, len(self.refs) - 1)
        self.setFixedHeight(max(len(self.refs) * ROW, 1))
        self.update()

    # -- geometry -------------------------------------------------------------------------

    def _row_at(self, y: float) -> int:
        row = int(y // ROW)
        return row if 0 <= row < len(self.refs) else -1

    def bar_rect(self, row: int) -> QRectF:
        """The bar of a row."""
        right = self.width() - 4 - RESET_WIDTH - VALUE_WIDTH
        return QRectF(right - BAR_WIDTH - 2, row * ROW, BAR_WIDTH, ROW)

    def value_rect(self, row: int) -> QRectF:
        right = self.width() - 4 - RESET_WIDTH
        return QRectF(right - VALUE_WIDTH, row * ROW, VALUE_WIDTH, ROW)

    def reset_rect(self, row: int) -> QRectF:
        return QRectF(self.width() - 4 - RESET_WIDTH, row * ROW, RESET_WIDTH, ROW)

    # -- editing --------------------------------------------------------------------------

    def edit_row(self, row: int) -> None:
        """Type into a row."""
        actor = self._desk.actor
        if actor is None or not 0 <= row < len(self.refs):
            return
        self._set_current(row)
        value = self.refs[row].value(actor.rig, actor.state)
        self._editor.setText(_number(self.refs[row], value))
        self._editor.setGeometry(self.value_rect(row).adjusted(-4, 1, 2, -1).toRect())
        self._editor.show()
        self._editor.selectAll()
        self._editor.setFocus(Qt.FocusReason.OtherFocusReason)

    def _typed(self) -> None:
        if not self._editor.isVisible():
            return
        self._editor.hide()
        actor = self._desk.actor
        if actor is None or not 0 <= self._current < len(self.refs):
            return
        ref = self.refs[self._current]
        value = typed_value(self._editor.text(), ref.value(actor.rig, actor.state))
        if value is not None:
            self._set_value(ref, value)

    def _set_value(self, ref: ChannelRef, value: float) -> None:
        actor = self._desk.actor
        assert actor is not None
        if _number(ref, value) == _number(ref, ref.value(actor.rig, actor.state)):
            return
        self._desk.keep_mix()
        name = " ".join(part for part in ref.label(actor.rig) if part)
        self._desk.apply(f"Set {name}", with_value(actor.rig, actor.state, ref, value))

    def eventFilter(self, watched: object, event: QEvent) -> bool:
        if watched is self._editor and isinstance(event, QKeyEvent):
            if event.type() == QEvent.Type.KeyPress:
                return self._editor_key(event)
            # the window must not take Esc or Enter for itself while a number is typed
            if event.type() == QEvent.Type.ShortcutOverride:
                event.accept()
                return True
        return False

    def _editor_key(self, event: QKeyEvent) -> bool:
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Escape:
            self._editor.hide()
            self.setFocus()
            return True
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._typed()
            self.setFocus()
            return True
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._typed()
            self.edit_row(self._current + (1 if key == Qt.Key.Key_Down else -1))
            return True
        return False

    # -- pointer and keys -----------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = self._row_at(event.position().y())
        actor = self._desk.actor
        if row < 0 or actor is None or event.button() is not Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        self._set_current(row)
        ref = self.refs[row]
        if self.reset_rect(row).contains(event.position()):
            self._set_value(ref, ref.rest_value(actor.rig))
        elif self.value_rect(row).contains(event.position()):
            self.edit_row(row)
        elif self.bar_rect(row).contains(event.position()):
            name = " ".join(part for part in ref.label(actor.rig) if part)
            edit = self._desk.edit(f"Set {name}")
            self._pull = (ref, edit, event.position().x(), ref.value(actor.rig, actor.state))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        actor = self._desk.actor
        if self._pull is not None and actor is not None:
            ref, edit, start, value = self._pull
            low, high = ref.span(actor.rig)
            fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            step = (high - low) / (BAR_WIDTH * (20 if fine else 4))
            new = value + (event.position().x() - start) * step
            edit.preview(with_value(actor.rig, edit.before, ref, new))
            return
        row = self._row_at(event.position().y())
        if row != self._pointed:
            self._pointed = row
            self.update()
        on_bar = row >= 0 and self.bar_rect(row).contains(event.position())
        self.setCursor(Qt.CursorShape.SizeHorCursor if on_bar else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        del event
        if self._pull is not None:
            self._pull[1].commit()
            self._pull = None

    def leaveEvent(self, event: QEvent) -> None:
        self._pointed = -1
        self.update()
        super().leaveEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, actor = Qt.Key(event.key()), self._desk.actor
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.refs:
            step = 1 if key == Qt.Key.Key_Down else -1
            self._set_current(min(max(self._current + step, 0), len(self.refs) - 1))
        elif actor is not None and 0 <= self._current < len(self.refs):
            ref = self.refs[self._current]
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._desk.mix is None:
                self.edit_row(self._current)
            elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
                self._set_value(ref, ref.rest_value(actor.rig))
            else:
                super().keyPressEvent(event)
        else:
            super().keyPressEvent(event)

    def _set_current(self, row: int) -> None:
        self._current = row
        self.current_changed.emit(row)
        self.update()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        if self._current < 0 and self.refs:
            self._set_current(0)
        self.update()

    # -- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        actor = self._desk.actor
        if actor is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        first, last = event.rect().top() // ROW, event.rect().bottom() // ROW
        touched = self._desk.mix.rows if self._desk.mix is not None else set()
        for row in range(max(first, 0), min(last + 1, len(self.refs))):
            self._paint_row(painter, row, self.refs[row].row in touched)

    def _paint_row(self, painter: QPainter, row: int, touched: bool) -> None:
        actor, look, ref = self._desk.actor, self._look, self.refs[row]
        assert actor is not None
        value, rest = ref.value(actor.rig, actor.state), ref.rest_value(actor.rig)
        differs = _number(ref, value) != _number(ref, rest)
        if row == self._current and self.hasFocus():
            painter.fillRect(QRectF(0, row * ROW, self.width(), ROW), look.colour("raised"))
            painter.fillRect(QRectF(0, row * ROW, 2, ROW), look.colour("text"))
        name, word = ref.label(actor.rig)
        bar = self.bar_rect(row)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(look.font(12, 500))
        painter.setPen(look.colour("text"))
        room = round(bar.left() - NAME_X - 4)
        shown = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QRectF(NAME_X, row * ROW, room, ROW), middle, shown)
        width = painter.fontMetrics().horizontalAdvance(shown) + 4
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        left = room - width
        if word and left > 16:
            short = painter.fontMetrics().elidedText(word, Qt.TextElideMode.ElideRight, left)
            painter.drawText(QRectF(NAME_X + width, row * ROW, left, ROW), middle, short)
        self._paint_bar(painter, ref, bar, value, touched)
        painter.setFont(look.font(12, 500))
        painter.setPen(look.colour("text" if differs else "quiet"))
        text = _number(ref, value) + ref.unit.strip()
        right = middle | Qt.AlignmentFlag.AlignRight
        painter.drawText(self.value_rect(row), right, text)
        if differs and row in (self._pointed, self._current):
            pixmap = look.pixmap("rotate-ccw", 12, "quiet", self.devicePixelRatioF())
            at = self.reset_rect(row)
            painter.drawPixmap(round(at.left() + 5), round(at.top() + 6), pixmap)

    def _paint_bar(
        self, painter: QPainter, ref: ChannelRef, bar: QRectF, value: float, touched: bool
    ) -> None:
        actor, look = self._desk.actor, self._look
        assert actor is not None
        low, high = ref.span(actor.rig)

        def x(v: float) -> float:
            share = (v - low) / (high - low) if high > low else 0.5
            return bar.left() + min(max(share, 0.0), 1.0) * bar.width()

        y, rest = bar.center().y(), x(ref.rest_value(actor.rig))
        here = x(value)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("line"))
        painter.drawRect(QRectF(bar.left(), y - 0.5, bar.width(), 1))
        painter.setBrush(look.colour("accent" if touched else "quiet"))
        painter.drawRect(QRectF(min(rest, here), y - 1.5, abs(here - rest), 3))
        painter.setBrush(look.colour("quiet"))
        painter.drawRect(QRectF(rest - 0.5, y - 5, 1, 10))


def typed_value(text: str, now: float) -> float | None:
    """What somebody means who types: a number, or with a plus in front a change of what is there
    (``+10``, ``+-10``); None for nonsense."""
    text = text.strip().rstrip("°").removesuffix("cm").strip().replace(",", ".")
    base = now if text.startswith("+") else 0.0
    try:
        value = base + float(text.removeprefix("+"))
    except ValueError:
        return None
    return value if abs(value) < 1e6 else None


def _number(ref: ChannelRef, value: float) -> str:
    decimals = 1 if ref.kind in (Channel.TURN, Channel.MOVE) else 2
    text = f"{value:.{decimals}f}"
    return text.removeprefix("-") if float(text) == 0 else text
