"""The channels of the selected controls as rows to read, pull and type into."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
)
from PySide6.QtWidgets import QLineEdit, QSizePolicy, QWidget

from fox_hand.base.language import tr
from fox_hand.core.model.controls import Channel, SettingKind
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.session.app.needs import Posing
from fox_hand.session.figures.channel_rows import ChannelRow, at_rest_row, rows_of, with_row
from fox_hand.session.figures.figure import Edit, Figure
from fox_hand.ui.picker.channel_paint import (
    BAR_WIDTH,
    ROW,
    RowLook,
    bar_rect,
    lock_rect,
    number,
    paint_row,
    reset_rect,
    value_rect,
)
from fox_hand.ui.picker.heard_controls import heard_channels
from fox_hand.ui.theme.plain_text import menu_word, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.accessible_parts import AccessiblePart, PartsOwner, tell_current
from fox_hand.ui.widgets.deferred_update import DeferredUpdate
from fox_hand.ui.widgets.fields.typed_numbers import bent
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.passing_menu import passing_menu

BAR_STEPS, FINE_STEPS = 4, 20  # pixels of a pull per pixel of the bar; Shift


class ChannelList(QWidget, PartsOwner):
    """Rows of 24 px: name, bar with rest and limits marked, number, lock, back to rest."""

    current_changed = Signal(int)
    told = Signal(str)

    def __init__(self, theme: Theme, workspace: Posing) -> None:
        super().__init__()
        self._theme, self._workspace = theme, workspace
        self.rows: list[ChannelRow] = []
        self._current = -1
        self._pointed = -1
        self._pull: tuple[ChannelRow, Edit, float] | None = None
        self._editor = QLineEdit(self)
        self._editor.setAlignment(Qt.AlignmentFlag.AlignRight)
        self._editor.setStyleSheet("QLineEdit { padding: 0 3px; }")
        self._editor.hide()
        self._editor.editingFinished.connect(self._typed)
        self._editor.installEventFilter(self)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Channels"))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.keys = self._key_map()
        self._soon = DeferredUpdate(self)
        workspace.selection.changed.connect(self._on_selection)
        workspace.actor_changed.connect(self._on_actor)

    def sizeHint(self) -> QSize:
        return QSize(200, max(len(self.rows) * ROW, 1))

    def _repaint(self) -> None:
        self.update()

    def _on_actor(self) -> None:
        if self._workspace.actor is not None:
            self._workspace.actor.posed.connect(self._soon.paint, unique=True)
            self._workspace.actor.changed.connect(self._repaint, unique=True)
        self._on_selection()

    def _on_selection(self) -> None:
        self._editor.hide()
        actor = self._workspace.actor
        self.rows = [] if actor is None else rows_of(actor.rig, self._workspace.selection.rows)
        self._current = min(self._current, len(self.rows) - 1)
        self.setFixedHeight(max(len(self.rows) * ROW, 1))
        self.update()

    def accessible_parts(self) -> list[AccessiblePart]:
        actor = self._workspace.actor
        if actor is None:
            return []

        def change(row: ChannelRow, value: float) -> None:
            self._apply(row, with_row(actor.rig, actor.state, row, value))

        current = self._current if self.hasFocus() else -1
        return list(
            heard_channels(
                actor, self.rows, current, self._row_rect, self.locked, change, self.edit_row
            )
        )

    def _row_rect(self, row: int) -> QRectF:
        return QRectF(0, row * ROW, self.width(), ROW)

    # -- geometry -------------------------------------------------------------------------

    def _row_at(self, y: float) -> int:
        row = int(y // ROW)
        return row if 0 <= row < len(self.rows) else -1

    def bar_rect(self, row: int) -> QRectF:
        """The bar of a row."""
        return bar_rect(self.width(), row, named=bool(self.rows[row].name))

    def value_rect(self, row: int) -> QRectF:
        return value_rect(self.width(), row)

    def lock_rect(self, row: int) -> QRectF:
        return lock_rect(self.width(), row)

    def reset_rect(self, row: int) -> QRectF:
        return reset_rect(self.width(), row)

    # -- editing --------------------------------------------------------------------------

    def locked(self, row: ChannelRow) -> bool:
        """Whether all of a row is locked."""
        actor = self._workspace.actor
        return actor is not None and row.locks(actor.rig) <= actor.locks

    def edit_row(self, index: int) -> None:
        """Type into a row; a switch is turned over, a choice shows its options."""
        actor = self._workspace.actor
        if actor is None or not 0 <= index < len(self.rows):
            return
        self._set_current(index)
        row = self.rows[index]
        if self.locked(row):
            return
        kind, value = row.kind(actor.rig), row.value(actor.rig, actor.state)
        if kind is SettingKind.BOOL:
            self._apply(row, with_row(actor.rig, actor.state, row, 0.0 if value else 1.0))
            return
        if kind is SettingKind.CHOICE:
            self._show_options(index)
            return
        self._editor.setText("" if value is None else number(row, value))
        self._editor.setGeometry(self.value_rect(index).adjusted(-4, 1, 2, -1).toRect())
        self._editor.show()
        self._editor.selectAll()
        self._editor.setFocus(Qt.FocusReason.OtherFocusReason)

    def _show_options(self, index: int) -> None:
        actor, row = self._workspace.actor, self.rows[index]
        assert actor is not None
        menu = passing_menu(self)
        now = row.value(actor.rig, actor.state)
        for option, name in enumerate(actor.rig.settings[row.first.axis].options):
            action = menu.addAction(menu_word(name), partial(self._choose, row, float(option)))
            action.setCheckable(True)
            action.setChecked(now is not None and round(now) == option)
        menu.popup(self.mapToGlobal(self.value_rect(index).bottomLeft().toPoint()))

    def _choose(self, row: ChannelRow, option: float) -> None:
        actor = self._workspace.actor
        if actor is not None:
            self._apply(row, with_row(actor.rig, actor.state, row, option))

    def _typed(self) -> None:
        if not self._editor.isVisible():
            return
        self._editor.hide()
        actor = self._workspace.actor
        if actor is None or not 0 <= self._current < len(self.rows):
            return
        row, meant = self.rows[self._current], typed_value(self._editor.text())
        if meant is None:
            return
        value, relative = meant
        now = row.value(actor.rig, actor.state)
        if not relative and now is not None and number(row, value) == number(row, now):
            return
        self._apply(row, with_row(actor.rig, actor.state, row, value, add=relative))
        wanted = value + now if relative and now is not None else value
        self._tell_bent(row, actor.rig, wanted)

    def _tell_bent(self, row: ChannelRow, rig: Rig, wanted: float) -> None:
        """A setting keeps to its range; whoever types beyond it is told."""
        if row.first.kind is None:
            words = bent(row.label(rig), wanted, *row.first.span(rig))
            if words:
                self.told.emit(words)

    def _apply(self, row: ChannelRow, state: State) -> None:
        actor = self._workspace.actor
        assert actor is not None
        self._workspace.keep_mix()
        self._workspace.apply(tr("Set {label}", label=row.label(actor.rig)), state)

    def reset_row(self, row: ChannelRow) -> None:
        """Put a row back to rest."""
        actor = self._workspace.actor
        if actor is not None and row.away(actor.rig, actor.state):
            self._apply(row, at_rest_row(actor.rig, actor.state, row))

    def toggle_lock(self, row: ChannelRow) -> None:
        """Lock a row, or lift its lock; one undo step."""
        actor = self._workspace.actor
        if actor is None:
            return
        locks, label = row.locks(actor.rig), row.label(actor.rig)
        if locks <= actor.locks:
            self._workspace.set_locks(actor.locks - locks, tr("Unlock {label}", label=label))
        else:
            self._workspace.set_locks(actor.locks | locks, tr("Lock {label}", label=label))

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
        index = self._row_at(event.position().y())
        if (
            index < 0
            or self._workspace.actor is None
            or event.button() is not Qt.MouseButton.LeftButton
        ):
            return
        self.setFocus()
        self._set_current(index)
        row, at = self.rows[index], event.position()
        if self.reset_rect(index).contains(at):
            self.reset_row(row)
        elif self.lock_rect(index).contains(at):
            self.toggle_lock(row)
        elif self.value_rect(index).contains(at):
            self.edit_row(index)
        elif self.bar_rect(index).contains(at) and not self.locked(row):
            self._begin_pull(index, at)

    def _begin_pull(self, index: int, at: QPointF) -> None:
        actor, row = self._workspace.actor, self.rows[index]
        assert actor is not None
        if row.kind(actor.rig) is not SettingKind.FLOAT:
            self.edit_row(index)
            return
        edit = self._workspace.edit(tr("Set {label}", label=row.label(actor.rig)))
        self._pull = (row, edit, at.x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        actor = self._workspace.actor
        if self._pull is not None and actor is not None:
            self._pulled(actor, event)
            return
        index = self._row_at(event.position().y())
        if index != self._pointed:
            self._pointed = index
            self.setToolTip(plain_tip(self._tip(index)))
            self.update()
        on_bar = index >= 0 and self.bar_rect(index).contains(event.position())
        self.setCursor(Qt.CursorShape.SizeHorCursor if on_bar else Qt.CursorShape.ArrowCursor)

    def _pulled(self, actor: Figure, event: QMouseEvent) -> None:
        assert self._pull is not None
        row, edit, start = self._pull
        low, high = row.first.span(actor.rig)
        fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        step = (high - low) / (BAR_WIDTH * (FINE_STEPS if fine else BAR_STEPS))
        change = (event.position().x() - start) * step
        edit.preview(with_row(actor.rig, edit.before, row, change, add=True))

    def _tip(self, index: int) -> str:
        actor = self._workspace.actor
        if actor is None or index < 0:
            return ""
        row = self.rows[index]
        text = row.label(actor.rig)
        limit = row.first.limit(actor.rig)
        if limit is not None:
            unit = row.first.unit.strip()
            text += tr(
                ", from {limit:g}{unit} to {limit_2:g}{unit}",
                limit=limit[0],
                unit=unit,
                limit_2=limit[1],
            )
        return tr("{text}, locked", text=text) if self.locked(row) else text

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        del event
        if self._pull is not None:
            self._pull[1].commit()
            self._pull = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """On a bar: back to rest."""
        index = self._row_at(event.position().y())
        if index >= 0 and self.bar_rect(index).contains(event.position()):
            if not self.locked(self.rows[index]):
                self.reset_row(self.rows[index])
        else:
            self.mousePressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """What can be done with the channel there."""
        index = self._row_at(event.pos().y())
        if index < 0 or self._workspace.actor is None:
            return
        self._set_current(index)
        row, menu = self.rows[index], passing_menu(self)
        locked = self.locked(row)
        typed = menu.addAction(tr("Type a value"), partial(self.edit_row, index))
        typed.setEnabled(not locked)
        back = menu.addAction(tr("Back to rest\tDel"), partial(self.reset_row, row))
        back.setEnabled(not locked)
        words = tr("Unlock\tL") if locked else tr("Lock\tL")
        menu.addAction(words, partial(self.toggle_lock, row))
        menu.popup(event.globalPos())

    def leaveEvent(self, event: QEvent) -> None:
        self._pointed = -1
        self.update()
        super().leaveEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.rows or self._workspace.actor is None or not self.keys.do(event):
            super().keyPressEvent(event)

    def _key_map(self) -> KeyMap:
        keys = [
            LocalKey(("Up",), partial(self._walk, -1), loose=True),
            LocalKey(("Down",), partial(self._walk, 1), loose=True),
            LocalKey(ENTER, self._type_here, loose=True),
            LocalKey(("Del", "Backspace"), partial(self._here, self.reset_row), loose=True),
            LocalKey(("L",), partial(self._here, self.toggle_lock), loose=True),
        ]
        for name, way in (("Left", -1), ("Right", 1)):
            keys.append(LocalKey((name,), partial(self._nudge, way, False)))
            keys.append(LocalKey((f"Shift+{name}",), partial(self._nudge, way, True)))
        return KeyMap(keys)

    def _walk(self, step: int) -> None:
        self._set_current(min(max(self._current + step, 0), len(self.rows) - 1))

    def _here(self, do: Callable[[ChannelRow], object]) -> bool:
        """Something with the row that has the keyboard; false where none has."""
        if not 0 <= self._current < len(self.rows):
            return False
        do(self.rows[self._current])
        return True

    def _type_here(self) -> bool:
        return self._workspace.mix is None and self._here(lambda _: self.edit_row(self._current))

    def _nudge(self, way: int, fine: bool) -> bool:
        return self._here(partial(self._nudge_row, way, fine))

    def _nudge_row(self, way: int, fine: bool, row: ChannelRow) -> None:
        actor = self._workspace.actor
        if actor is not None and not self.locked(row):
            step = _key_step(actor.rig, row, fine) * way
            self._apply(row, with_row(actor.rig, actor.state, row, step, add=True))

    def _set_current(self, row: int) -> None:
        self._current = row
        self.current_changed.emit(row)
        tell_current(self, ("channel", self.rows[row].refs))
        self.update()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        if self._current < 0 and self.rows:
            self._set_current(0)
        self.update()

    # -- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        actor = self._workspace.actor
        if actor is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        first, last = event.rect().top() // ROW, event.rect().bottom() // ROW
        touched = self._workspace.mix.rows if self._workspace.mix is not None else set()
        for index in range(max(first, 0), min(last + 1, len(self.rows))):
            row = self.rows[index]
            shown = RowLook(
                index,
                self.width(),
                touched=any(ref.row in touched for ref in row.refs),
                current=index == self._current and self.hasFocus(),
                pointed=index in (self._pointed, self._current),
                locked=self.locked(row),
            )
            paint_row(painter, self._theme, actor, row, shown)


def _key_step(rig: Rig, row: ChannelRow, fine: bool) -> float:
    """How far the arrow keys go: a degree, a centimetre, a twentieth of a setting; Shift a
    tenth of it; switches and choices to the next."""
    if row.kind(rig) is not SettingKind.FLOAT:
        return 1.0
    first = row.first
    whole = 1.0 if first.kind in (Channel.TURN, Channel.MOVE) else 0.05
    return whole / 10 if fine else whole


def typed_value(text: str) -> tuple[float, bool] | None:
    """What somebody means who types: a number, and whether it is a change of what is there
    (a plus in front: ``+10``, ``+-10``); None for nonsense."""
    text = text.strip().rstrip("°").removesuffix("cm").strip().replace(",", ".")
    try:
        value = float(text.removeprefix("+"))
    except ValueError:
        return None
    return (value, text.startswith("+")) if abs(value) < 1e6 else None
