"""The left column: the figure, sets, channels."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLayoutItem,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from fox_hand.core.rig import Region, Rig, Side
from fox_hand.session.desk import Desk
from fox_hand.session.selection import region_rows
from fox_hand.ui.buttons import Button, Kind
from fox_hand.ui.channel_list import ROW, ChannelList
from fox_hand.ui.doors import Doors
from fox_hand.ui.figure_drawing import ZONES, zone_rows
from fox_hand.ui.figure_view import FigureView
from fox_hand.ui.look import Look


class Flow(QLayout):
    """Lays chips out in lines, as words in a text."""

    def __init__(self, gap: int = 4) -> None:
        super().__init__()
        self._items: list[QLayoutItem] = []
        self._gap = gap

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._arrange(QRect(0, 0, width, 0), False)

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._arrange(rect, True)

    def sizeHint(self) -> QSize:
        return QSize(100, self.heightForWidth(208))

    def minimumSize(self) -> QSize:
        return QSize(60, 24)

    def _arrange(self, rect: QRect, move: bool) -> int:
        margins = self.contentsMargins()
        inner = rect.adjusted(margins.left(), margins.top(), -margins.right(), 0)
        x, y, line = inner.left(), inner.top(), 0
        for item in self._items:
            size = item.sizeHint()
            if x > inner.left() and x + size.width() > inner.right() + 1:
                x, y, line = inner.left(), y + line + self._gap, 0
            if move:
                item.setGeometry(QRect(QPoint(x, y), size))
            x += size.width() + self._gap
            line = max(line, size.height())
        return y + line - rect.top() + margins.bottom()


def sets_of(rig: Rig) -> dict[str, list[int]]:
    """The rig's own sets, or for a rig without any the parts of the figure that it has."""
    if rig.sets:
        return {
            name: [rig.control_row[n] for n in members if n in rig.control_row]
            for name, members in rig.sets.items()
        }
    found = {
        "Face": [r for z in ZONES if z.key == "head" for r in zone_rows(rig, z)],
        "Body": region_rows(rig, Region.TORSO),
        "L arm": region_rows(rig, Region.ARMS, Side.LEFT),
        "R arm": region_rows(rig, Region.ARMS, Side.RIGHT),
        "L hand": region_rows(rig, Region.HANDS, Side.LEFT),
        "R hand": region_rows(rig, Region.HANDS, Side.RIGHT),
        "Legs": region_rows(rig, Region.LEGS),
    }
    return {name: rows for name, rows in found.items() if rows}


class FigurePanel(QWidget):
    """Select from the drawing and the sets, read and type channels."""

    def __init__(self, look: Look, desk: Desk, doors: Doors) -> None:
        super().__init__()
        self._look, self._desk = look, desk
        self.setProperty("panel", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.figure = FigureView(look, desk, doors)
        self.channels = ChannelList(look, desk)
        self._hint = QLabel("")
        self._hint.setProperty("quiet", True)
        self._chips: dict[str, tuple[Button, list[int]]] = {}
        self._flow = Flow()
        self._flow.setContentsMargins(12, 8, 12, 8)
        chips = QWidget()
        chips.setLayout(self._flow)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setWidget(self.channels)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._scroll.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.channels.current_changed.connect(self._reveal)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._title())
        column.addWidget(self.figure)
        column.addWidget(self._line())
        column.addWidget(chips)
        column.addWidget(self._heading())
        column.addWidget(self._scroll, 1)
        desk.actor_changed.connect(self._on_actor)
        desk.selection.changed.connect(self._on_selection)
        desk.mix_changed.connect(self._on_mix)
        desk.capture_changed.connect(self._on_mix)
        self._on_mix()
        self._on_selection()

    def _title(self) -> QWidget:
        row = QWidget()
        row.setFixedHeight(32)
        line = QHBoxLayout(row)
        line.setContentsMargins(12, 0, 12, 0)
        line.setSpacing(8)
        title = QLabel("Figure")
        title.setProperty("role", "title")
        line.addWidget(title)
        line.addWidget(self._hint, 1)
        return row

    def _line(self) -> QWidget:
        line = QWidget()
        line.setFixedHeight(1)
        line.setStyleSheet(f"background: {self._look.tokens.line};")
        return line

    def _heading(self) -> QWidget:
        row = QWidget()
        row.setObjectName("heading")
        row.setStyleSheet(f"QWidget#heading {{ background: {self._look.tokens.raised}; }}")
        row.setFixedHeight(28)
        line = QHBoxLayout(row)
        line.setContentsMargins(12, 0, 4, 0)
        line.setSpacing(4)
        self._what = QLabel("")
        self._what.setProperty("role", "heading")
        self._count = QLabel("")
        self._count.setProperty("quiet", True)
        self.reset_button = Button(
            self._look,
            icon="rotate-ccw",
            kind=Kind.FLAT,
            tip="Put the selected controls back to rest (R)",
            height=24,
            icon_size=14,
        )
        self.reset_button.clicked.connect(self._reset)
        line.addWidget(self._what, 1)
        line.addWidget(self._count)
        line.addWidget(self.reset_button)
        return row

    def _reset(self) -> None:
        rows = self._desk.selection.rows
        self._desk.reset(rows or None, "Reset selected" if rows else "Reset all")

    def _on_actor(self) -> None:
        while (item := self._flow.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        self._chips.clear()
        actor = self._desk.actor
        if actor is None:
            return
        rig = actor.rig
        everything = [r for r, c in enumerate(rig.controls) if not c.helper]
        for name, rows in {"All": everything, **sets_of(rig)}.items():
            tip = f"Select {name} ({len(rows)} controls); Shift adds"
            chip = Button(self._look, name, kind=Kind.CHIP, height=24, tip=tip)
            chip.setCheckable(True)
            chip.clicked.connect(lambda _=False, n=name: self.choose_set(n))
            self._chips[name] = (chip, rows)
            self._flow.addWidget(chip)
        self._on_selection()

    def choose_set(self, name: str) -> None:
        """Select a set; with Shift add it."""
        rows = self._chips[name][1]
        if QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._desk.selection.toggle(rows)
        else:
            self._desk.selection.set(rows)
        self._on_selection()

    def chip(self, name: str) -> Button:
        """The button of a set."""
        return self._chips[name][0]

    def _on_selection(self) -> None:
        rows = set(self._desk.selection.rows)
        chosen = ""
        for name, (chip, members) in self._chips.items():
            on = bool(members) and rows == set(members)
            chip.setChecked(on)
            chosen = name if on and not chosen else chosen
        actor = self._desk.actor
        if actor is None or not rows:
            self._what.setText("Nothing selected")
            self._count.setText("")
        else:
            single = actor.rig.controls[next(iter(rows))].label if len(rows) == 1 else ""
            self._what.setText(chosen or single or "Selection")
            self._count.setText(f"{len(rows)} selected")
        tip = "Put the selected controls back to rest (R)"
        self.reset_button.setToolTip(tip if rows else "Put the whole figure back to rest (R)")

    def _on_mix(self) -> None:
        if self._desk.draft is not None:
            self._hint.setText("dots: what has moved")
        elif self._desk.mix is not None:
            self._hint.setText("dots: what the card moves")
        else:
            self._hint.setText("click to select")
        self.channels.update()

    def _reveal(self, row: int) -> None:
        self._scroll.ensureVisible(0, row * ROW + ROW // 2, 0, ROW)
