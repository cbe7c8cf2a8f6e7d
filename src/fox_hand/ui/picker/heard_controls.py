"""Controls as they are heard: dots of the figure, handles of the stage, rows of channels."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PySide6.QtCore import QPoint, QRect, QRectF, QSize
from PySide6.QtGui import QAccessible

from fox_hand.base.language import tr
from fox_hand.core.model.controls import SettingKind, Side
from fox_hand.core.naming.part_words import side_word
from fox_hand.session.figures.channel_rows import ChannelRow
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.selection import Selection
from fox_hand.ui.picker.channel_paint import number
from fox_hand.ui.widgets.accessible_parts import AccessibleAmount, AccessiblePart

DOT = 12  # pixels
ROLES = {
    SettingKind.FLOAT: QAccessible.Role.SpinBox,
    SettingKind.BOOL: QAccessible.Role.CheckBox,
    SettingKind.CHOICE: QAccessible.Role.ComboBox,
}


def heard_control(
    actor: Figure, selection: Selection, row: int, at: QPoint, *, current: bool
) -> AccessiblePart:
    """A control that is seen as a dot.

    Args:
        actor, selection: whose, and whether it is selected.
        row: the control.
        at: its middle, pixels.
        current: whether it has the keyboard.
    """
    said = [tr("moved")] if actor.differs()[row] else []
    if row in actor.locked_rows():
        said.append(tr("locked"))
    control = actor.rig.controls[row]
    side = "" if control.side is Side.CENTRE else f", {side_word(control.side)}"
    return AccessiblePart(
        ("control", row),
        f"{actor.rig.word(row)}{side}",
        QRect(at - QPoint(DOT // 2, DOT // 2), QSize(DOT, DOT)),
        QAccessible.Role.ListItem,
        ", ".join(said),
        selected=row in selection,
        current=current,
        press=lambda: selection.set([row]),
    )


def heard_channels(
    actor: Figure,
    rows: list[ChannelRow],
    current: int,
    rect_of: Callable[[int], QRectF],
    locked: Callable[[ChannelRow], bool],
    change: Callable[[ChannelRow, float], object],
    press: Callable[[int], object],
) -> Iterator[AccessiblePart]:
    """Every channel with its value.

    Args:
        actor, rows: what is shown.
        current: the row with the keyboard; -1 for none.
        rect_of: where a row is.
        locked: whether all of it is locked.
        change: sets its value.
        press: types into it, turns it over or shows its options.
    """
    for index, row in enumerate(rows):
        yield _channel(actor, row, index, index == current, rect_of, locked(row), change, press)


def _channel(
    actor: Figure,
    row: ChannelRow,
    index: int,
    current: bool,
    rect_of: Callable[[int], QRectF],
    locked: bool,
    change: Callable[[ChannelRow, float], object],
    press: Callable[[int], object],
) -> AccessiblePart:
    rig, kind = actor.rig, row.kind(actor.rig)
    value, amount = row.value(rig, actor.state), None
    said = [] if value is None else [f"{number(row, value)}{row.first.unit}"]
    if kind is SettingKind.CHOICE and value is not None:
        said = [rig.settings[row.first.axis].options[round(value)]]
    elif kind is SettingKind.FLOAT and value is not None:
        low, high = row.first.span(rig)
        set_it = None if locked else (lambda wanted: change(row, wanted))
        amount = AccessibleAmount(value, low, high, row.grain, set_it)
    elif value is None:
        said = [tr("different values")]
    return AccessiblePart(
        ("channel", row.refs),
        row.label(rig),
        rect_of(index).toRect(),
        ROLES[kind],
        ", ".join([*said, *(["locked"] if locked else [])]),
        amount,
        checked=bool(value) if kind is SettingKind.BOOL else None,
        current=current,
        enabled=not locked,
        press=lambda: press(index),
    )
