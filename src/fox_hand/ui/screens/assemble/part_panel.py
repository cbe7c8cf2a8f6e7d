"""Everything that is said of one part."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtCore import QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QAbstractButton,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr, tr_n
from fox_hand.core.model.controls import Region, Side
from fox_hand.core.naming.part_words import region_word
from fox_hand.core.naming.roles import ALL_ROLES
from fox_hand.core.puppet.drawn import PartDrawing
from fox_hand.core.puppet.puppet import PuppetPart
from fox_hand.session.puppets.assembly import Key, PuppetAssembly
from fox_hand.ui.screens.assemble.assemble_canvas import hung
from fox_hand.ui.screens.assemble.parts_list import Images, draw_within
from fox_hand.ui.theme.plain_text import Words, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Segments, Tick, draw_focus
from fox_hand.ui.widgets.fields.number_field import NumberField
from fox_hand.ui.widgets.flow import Flow
from fox_hand.ui.widgets.passing_menu import passing_menu

SMALL, WIDE = 60, 64
ALONE, AS_NAMED = tr("none"), tr("as its name says")
ROLES = (None, "", *ALL_ROLES)
SIDES = (("left", tr("L near")), ("right", tr("R far")), ("centre", tr("none")))


class DrawingButton(QAbstractButton):
    """One drawing of a part; pressed it is the one that is seen."""

    menu_asked = Signal(QPoint)  # where on the screen

    def __init__(self, theme: Theme, images: Images, drawing: PartDrawing, size: int) -> None:
        super().__init__()
        self._theme, self._images, self._drawing = theme, images, drawing
        self.setFixedSize(size, size + 20)
        self.setCheckable(True)
        self.setToolTip(plain_tip(drawing.name))
        self.setAccessibleName(drawing.name)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return self.size()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu_asked.emit(event.globalPos())

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter, theme, side = QPainter(self), self._theme, self.width()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        square = QRectF(2, 2, side - 4, side - 4)
        on = self.isChecked()
        painter.setPen(QPen(theme.colour("text" if on else "line"), 2 if on else 1))
        painter.setBrush(theme.colour("stage_middle"))
        painter.drawRoundedRect(square, 6, 6)
        image = self._images(self._drawing)
        if image is not None:
            draw_within(painter, image.image, square.adjusted(6, 6, -6, -6))
        painter.setPen(theme.colour("text" if on else "quiet"))
        painter.setFont(theme.font(12, 600 if on else 400))
        name = painter.fontMetrics().elidedText(
            self._drawing.name, Qt.TextElideMode.ElideRight, side
        )
        painter.drawText(QRectF(0, side, side, 20), Qt.AlignmentFlag.AlignCenter, name)
        if self.hasFocus():
            draw_focus(painter, theme, square, 6)


class NameField(QLineEdit):
    """Enter says the name; it does not make the puppet as it does elsewhere on the screen."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        super().keyPressEvent(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.accept()


class PartPanel(QWidget):
    """Name, side, region, what it hangs on, pivot, limits, drawings."""

    refused = Signal(object)  # an error, in words
    told = Signal(str)

    def __init__(self, theme: Theme, images: Images) -> None:
        super().__init__()
        self._theme, self._images = theme, images
        self.assembly: PuppetAssembly | None = None
        self.key: Key = ("", "")
        self.name, self.where = NameField(), Words("")
        self.name.setAccessibleName(tr("Name"))
        self.name.setFixedHeight(28)
        self.where.setProperty("quiet", True)
        self.where.setWordWrap(True)
        self.side = Segments(theme, SIDES, tr("Side"), room=12)
        self.region, self.above, self.partner = QComboBox(), QComboBox(), QComboBox()
        self.limb, self.role = QComboBox(), QComboBox()
        self.role.setToolTip(tr("Which bone of a figure it stands for; poses of others go by that"))
        self.limb.setToolTip(tr("With which part it reaches for a goal at that one's tip"))
        self.pivot_x = NumberField("x", -99_999, 99_999, 1.0, "", tr("Canvas pixels from the left"))
        self.pivot_y = NumberField("y", -99_999, 99_999, 1.0, "", tr("Canvas pixels from the top"))
        for field in (self.pivot_x, self.pivot_y):
            field.field.setFixedWidth(WIDE)
        self.limited = Tick(theme, tr("only from"))
        self.low = NumberField("", -360, 360, 5.0, "°", tr("The least turn, counterclockwise"))
        self.high = NumberField(
            tr("up to"), -360, 360, 5.0, "°", tr("The greatest turn, counterclockwise")
        )
        self.free = Tick(theme, tr("moves off its pivot"))
        self.body = Button(theme, tr("Make it the body"), kind=Kind.FLAT, height=24)
        self.drawings: list[DrawingButton] = []
        self._swaps, self._shelf = Words(tr("Drawings")), Flow()
        self._build()
        self._connect()

    def _build(self) -> None:
        self.region.addItems([region_word(region) for region in Region])
        self.role.addItems([AS_NAMED, ALONE, *ALL_ROLES])
        for box, word in (
            (self.region, tr("Region")),
            (self.role, tr("Role")),
            (self.above, tr("Hangs on")),
            (self.partner, tr("Partner")),
            (self.limb, tr("Limb with")),
        ):
            box.setAccessibleName(word)
        rows = QGridLayout()
        rows.setHorizontalSpacing(8)
        rows.setVerticalSpacing(8)
        rows.setColumnStretch(1, 1)
        pivot, turns = QHBoxLayout(), QHBoxLayout()
        for line, fields in (
            (pivot, (self.pivot_x, self.pivot_y)),
            (turns, (self.limited, self.low, self.high)),
        ):
            line.setSpacing(8)
            for field in fields:
                line.addWidget(field)
            line.addStretch(1)
        content: tuple[tuple[str, QWidget | QHBoxLayout], ...] = (
            (tr("Side"), self.side),
            (tr("Region"), self.region),
            (tr("Role"), self.role),
            (tr("Hangs on"), self.above),
            (tr("Partner"), self.partner),
            (tr("Pivot"), pivot),
            (tr("Turns"), turns),
            (tr("Moves"), self.free),
            (tr("Limb with"), self.limb),
        )
        for row, (word, what) in enumerate(content):
            label = Words(word)
            label.setProperty("quiet", True)
            rows.addWidget(label, row, 0)
            if isinstance(what, QWidget):
                rows.addWidget(what, row, 1)
            else:
                rows.addLayout(what, row, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 12, 12, 12)
        column.setSpacing(8)
        column.addWidget(self.name)
        column.addWidget(self.where)
        column.addLayout(rows)
        column.addWidget(self.body, 0, Qt.AlignmentFlag.AlignLeft)
        self._swaps.setProperty("role", "title")
        column.addWidget(self._swaps)
        shelf = QWidget()
        shelf.setLayout(self._shelf)
        column.addWidget(shelf)
        column.addStretch(1)

    def _connect(self) -> None:
        self.side.chosen.connect(lambda side: self._do("set_side", Side(side)))
        self.region.activated.connect(lambda i: self._do("set_region", list(Region)[i]))
        self.role.activated.connect(lambda i: self._do("set_role", ROLES[i]))
        self.above.textActivated.connect(self._hang)
        self.partner.textActivated.connect(
            lambda name: self._do("set_partner", None if name == ALONE else name)
        )
        for field in (self.pivot_x, self.pivot_y):
            field.changed.connect(lambda _: self._set_pivot())
            field.told.connect(self.told)
        for field in (self.low, self.high):
            field.changed.connect(lambda _: self._limit())
            field.told.connect(self.told)
        self.limited.clicked.connect(lambda _: self._limit())
        self.free.clicked.connect(lambda on: self._do("set_free", bool(on)))
        self.name.editingFinished.connect(self._rename)
        self.limb.textActivated.connect(
            lambda name: self._do("set_limb", None if name == ALONE else name)
        )
        self.body.clicked.connect(lambda: self._do("make_body"))

    def _do(self, what: str, *words: object) -> None:
        if self.assembly is not None and self.key[1]:
            getattr(self.assembly, what)(self.key, *words)

    def _rename(self) -> None:
        assembly, text = self.assembly, self.name.text().strip()
        if assembly is not None and self.key[1] and text != assembly.part(self.key).called:
            self._do("rename", text)

    def _ask_drawing(self, number: int, at: QPoint) -> None:
        """What can be done with a drawing."""
        menu = passing_menu(self)
        menu.addAction(tr("See it at rest"), partial(self._do, "set_shown", number))
        menu.addAction(tr("Do not use it"), partial(self._put_aside, number))
        menu.popup(at)

    def _put_aside(self, number: int) -> None:
        try:
            self._do("put_aside", number)
        except FoxHandError as error:
            self.refused.emit(error)

    def _set_pivot(self) -> None:
        self._do("set_pivot", self.pivot_x.value, self.pivot_y.value)

    def _hang(self, above: str) -> None:
        if self.assembly is not None:
            hung(self.assembly, self.key, above, self.refused.emit)
            self.show_part(self.assembly, self.key)  # refused, it hangs where it hung

    def _limit(self) -> None:
        low, high = sorted((self.low.value, self.high.value))
        limits = (float(np.radians(low)), float(np.radians(high)))
        self._do("set_limits", limits if self.limited.isChecked() else None)

    # -- content --------------------------------------------------------------------------

    def show_part(self, assembly: PuppetAssembly, key: Key) -> None:
        """Show a part."""
        before, self.assembly, self.key = self.key, assembly, key
        part, parts = assembly.part(key), assembly.puppet.of_view(key[0])
        names = [p.name for p in parts]
        place = names.index(part.name) + 1
        carried = [p.name for p in parts if p.above == part.name]
        said = tr("{place} of {count} from the front", place=place, count=len(parts))
        hanging = tr_n(
            "{names} hangs on it", "{names} hang on it", len(carried), names=", ".join(carried)
        )
        if not self.name.hasFocus() or before != key:
            self.name.setText(part.called)
        self.name.setToolTip(plain_tip(tr("Drawn as {name}", name=part.name)))
        _fill(self.limb, [ALONE, *carried], part.lower if part.lower in carried else ALONE)
        self.limb.setEnabled(bool(carried) and part.above is not None)
        self.where.setText(f"{said}. {hanging}." if carried else f"{said}.")
        self.side.set_value(part.side.value)
        self.region.setCurrentIndex(list(Region).index(part.region))
        self.role.setCurrentIndex(ROLES.index(part.role) if part.role in ROLES else 0)
        _fill(self.above, [n for n in names if n != part.name], part.above or "")
        self.above.setEnabled(part.above is not None)
        self.body.setVisible(part.above is not None)
        _fill(self.partner, [ALONE, *(n for n in names if n != part.name)], part.partner or ALONE)
        self.pivot_x.show_value(part.pivot[0])
        self.pivot_y.show_value(part.pivot[1])
        limits = part.limits
        self.limited.setChecked(limits is not None)
        for field, angle in zip((self.low, self.high), limits or (), strict=False):
            field.show_value(round(float(np.degrees(angle)), 2))
            field.setEnabled(True)
        if limits is None:
            for field, angle in ((self.low, -90.0), (self.high, 90.0)):
                field.show_value(angle)
                field.setEnabled(False)
        self.free.setChecked(part.free)
        self._show_drawings(part, fresh=before != key)

    def _show_drawings(self, part: PuppetPart, *, fresh: bool) -> None:
        self._swaps.setText(tr_n("Drawing", "Takes turns", len(part.drawings)))
        if fresh or len(self.drawings) != len(part.drawings):
            for button in self.drawings:
                self._shelf.removeWidget(button)
                button.deleteLater()
            self.drawings = []
            for number, drawing in enumerate(part.drawings):
                button = DrawingButton(self._theme, self._images, drawing, SMALL)
                button.clicked.connect(partial(self._do, "set_shown", number))
                button.menu_asked.connect(partial(self._ask_drawing, number))
                self._shelf.addWidget(button)
                self.drawings.append(button)
        for number, button in enumerate(self.drawings):
            button.setChecked(number == part.shown)
            button.update()


def _fill(box: QComboBox, names: list[str], now: str) -> None:
    if [box.itemText(i) for i in range(box.count())] != names:
        box.clear()
        box.addItems(names)
    box.setCurrentIndex(names.index(now) if now in names else -1)
