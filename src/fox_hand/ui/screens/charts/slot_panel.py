"""The slot that is chosen: how it is to look, what is in it, and what can be done."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractButton, QFrame, QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.library.charts.filling import Filling
from fox_hand.library.format.entry import Entry
from fox_hand.ui.theme.plain_text import Words, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, draw_focus

WIDTH, PICTURE, SMALL, MOST = 288, 100, 40, 5
Picture = Callable[[Entry | None, int], QImage | None]


class SlotPicture(QWidget):
    """A picture with round corners."""

    def __init__(self, theme: Theme, size: int) -> None:
        super().__init__()
        self._theme, self._image = theme, QImage()
        self.setFixedSize(size, size)

    def show_image(self, image: QImage | None) -> None:
        """Show this; nothing for None."""
        self._image = image if image is not None else QImage()
        self.setVisible(image is not None)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), self._theme.colour("raised"))
        if not self._image.isNull():
            painter.drawImage(QRectF(self.rect()), self._image)


class SmallCard(QAbstractButton):
    """A card of a slot, small; pressed it is the best."""

    def __init__(self, theme: Theme, entry: Entry, image: QImage | None) -> None:
        super().__init__()
        self._theme, self._image = theme, image
        self.setFixedSize(SMALL, SMALL)
        self.setToolTip(plain_tip(entry.name))
        self.setAccessibleName(entry.name)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(SMALL, SMALL)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), self._theme.colour("raised"))
        if self._image is not None and not self._image.isNull():
            painter.drawImage(QRectF(self.rect()), self._image)
        if self.hasFocus() or self.underMouse():
            draw_focus(painter, self._theme, QRectF(self.rect()), 4)


class SlotPanel(QFrame):
    """Floats over the charts; hidden while no slot is chosen.

    Args:
        theme, parent, picture: colours, over what, and pictures of cards.
    """

    pose = Signal()
    put_on = Signal(object)  # Entry
    lend = Signal(object)  # Entry
    best = Signal(object)  # Entry
    refuse = Signal(object)  # Entry
    edit = Signal()

    def __init__(self, theme: Theme, parent: QWidget, picture: Picture) -> None:
        super().__init__(parent)
        self._theme, self._picture = theme, picture
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(WIDTH)
        self._title, self._state = Words(""), Words("")
        self._title.setProperty("role", "title")
        self._state.setProperty("quiet", True)
        self._shape = SlotPicture(theme, PICTURE)
        self._looks, self._fit, self._caption = Words(""), Words(""), Words("")
        for words in (self._looks, self._fit):
            words.setWordWrap(True)
        self._caption.setProperty("quiet", True)
        self._caption.setProperty("small", True)
        self._cards = QHBoxLayout()
        self._cards.setSpacing(4)
        self._doing = QVBoxLayout()
        self._doing.setSpacing(4)
        self.buttons: dict[str, Button] = {}
        self._build()
        self.hide()

    def _build(self) -> None:
        head, middle, beside = QHBoxLayout(), QHBoxLayout(), QVBoxLayout()
        head.setSpacing(8)
        head.addWidget(self._title)
        head.addWidget(self._state, 1)
        edit = Button(
            self._theme,
            icon="pencil",
            kind=Kind.FLAT,
            height=24,
            icon_size=14,
            tip=tr("This slot …"),
        )
        edit.clicked.connect(self.edit)
        head.addWidget(edit)
        beside.setSpacing(4)
        beside.addWidget(self._looks)
        beside.addWidget(self._fit)
        beside.addStretch(1)
        self._looks.setMinimumHeight(32)
        middle.setSpacing(12)
        middle.addWidget(self._shape, 0, Qt.AlignmentFlag.AlignTop)
        middle.addLayout(beside, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 8, 12)
        column.setSpacing(8)
        column.addLayout(head)
        column.addLayout(middle)
        column.addWidget(self._caption)
        column.addLayout(self._cards)
        column.addLayout(self._doing)

    # -- content --------------------------------------------------------------------------

    def show_slot(
        self,
        one: Filling,
        sample: Entry | None,
        wanted_look: QImage | None,
        fit: str,
        problem: str | None,
    ) -> None:
        """Show a slot.

        Args:
            one: what is in it.
            sample: a card that shows how it is to look.
            wanted_look: a picture of that.
            fit: how much of that lands on the character, in words.
            problem: why it cannot be posed now; None if it can.
        """
        best = one.cards[0] if one.cards else None
        self._title.setText(f"{one.character}, {one.slot.name}")
        state = "missing" if best is None else "lent" if best.lent else ""
        self._state.setText(
            state or (tr("{short} more wanted", short=one.short) if one.short else "")
        )
        self._looks.setText(one.slot.looks or tr("Nobody said how it looks."))
        self._fit.setText(problem if problem is not None and best is None else fit)
        self._shape.show_image(
            self._picture(best.card, PICTURE) if best is not None else wanted_look
        )
        self._caption.setText(_caption(one, sample))
        self._show_cards(one)
        self._show_doing(one, sample, problem)
        self._fit_height()
        self.show()
        self.raise_()

    def _fit_height(self) -> None:
        """As high as what is in it, at the one width; words may need several lines."""
        layout = self.layout()
        assert layout is not None
        layout.invalidate()
        layout.activate()
        self.resize(WIDTH, max(layout.totalHeightForWidth(WIDTH), layout.sizeHint().height()))

    def _show_cards(self, one: Filling) -> None:
        _clear(self._cards)
        others = [f.card for f in one.cards[1:]] or [entry for entry, _ in one.proposed]
        for entry in others[:MOST]:
            small = SmallCard(self._theme, entry, self._picture(entry, SMALL))
            small.clicked.connect(partial(self.best.emit, entry))
            small.setToolTip(
                plain_tip(tr("{name}: click to make it the best here", name=entry.name))
            )
            self._cards.addWidget(small)
            small.show()
        if others:
            self._cards.addStretch(1)

    def _show_doing(self, one: Filling, sample: Entry | None, problem: str | None) -> None:
        _clear(self._doing)
        self.buttons = {}
        best = one.cards[0] if one.cards else None
        if best is None:
            pose = self._add("pose", tr("Pose and capture it"), Kind.MAIN, "Enter", self.pose.emit)
            pose.setEnabled(problem is None)
            if one.proposed:
                entry = one.proposed[0][0]
                words = tr("Take {name}", name=entry.name)
                self._add("take", words, Kind.PLAIN, "", partial(self.best.emit, entry))
            if sample is not None and sample.character.casefold() != one.character.casefold():
                words = tr("Lend {character}'s card", character=sample.character)
                self._add("lend", words, Kind.PLAIN, "", partial(self.lend.emit, sample))
            return
        on = partial(self.put_on.emit, best.card)
        self._add("put_on", tr("Put it on"), Kind.MAIN, "Enter", on)
        words = tr("Pose its own") if best.lent else tr("Pose one more")
        more = self._add("pose", words, Kind.PLAIN, "", self.pose.emit)
        more.setEnabled(problem is None)
        out = partial(self.refuse.emit, best.card)
        self._add("refuse", tr("Take it out of the slot"), Kind.PLAIN, "Del", out)

    def _add(
        self, name: str, words: str, kind: Kind, key: str, run: Callable[[], object]
    ) -> Button:
        button = Button(self._theme, _short(words), kind=kind, key=key)
        button.setFixedWidth(WIDTH - 20)
        button.clicked.connect(partial(_pressed, run))
        self.buttons[name] = button
        self._doing.addWidget(button)
        button.show()  # at once, or the panel is not made high enough for it
        return button


def _pressed(run: Callable[[], object], _on: bool = False) -> None:
    run()


def _short(words: str) -> str:
    return words if len(words) <= 32 else f"{words[:31]}…"


def _caption(one: Filling, sample: Entry | None) -> str:
    if one.cards:
        best = one.cards[0]
        return (
            tr("{name}, of {character}", name=best.card.name, character=best.card.character)
            if best.lent
            else best.card.name
        )
    if one.proposed:
        names: Sequence[str] = [entry.name for entry, _ in one.proposed[:2]]
        return tr(
            "{names} {rest} like it",
            names=tr(" and ").join(names),
            rest=tr("looks") if len(names) == 1 else tr("look"),
        )
    return (
        tr("{character} has it", character=sample.character)
        if sample is not None and sample.character
        else ""
    )


def _clear(layout: QHBoxLayout | QVBoxLayout) -> None:
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()
