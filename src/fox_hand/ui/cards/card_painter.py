"""How a card looks, in every state."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen

from fox_hand.base.language import tr
from fox_hand.core.model.controls import Region
from fox_hand.library.format.entry import Entry
from fox_hand.ui.cards.card_metrics import NAME, TAB
from fox_hand.ui.theme.theme import Theme

# from head to toe, and what lies as high as something else
DOWNWARDS = (
    *(Region.HEAD, Region.EYES, Region.MOUTH, Region.TORSO),
    *(Region.ARMS, Region.HANDS, Region.LEGS),
)
BESIDE = {
    Region.EARS: Region.HEAD,
    Region.WINGS: Region.ARMS,
    Region.TAIL: Region.LEGS,
    Region.LIMBS: Region.LEGS,
}


@dataclass(frozen=True)
class CardState:
    """What is true of a card just now."""

    pointed: bool = False
    focus: bool = False
    amount: float | None = None  # while it is being put on
    lands: int = 0
    asked: int = 0
    new: bool = False
    favourite: bool = False
    ticked: bool = False
    ticking: bool = False  # some card is ticked, so every card shows its box


def draw_card(
    painter: QPainter,
    theme: Theme,
    rect: QRectF,
    entry: Entry,
    image: QImage | None,
    state: CardState,
    labels: bool,
) -> None:
    """Draw a card into ``rect`` (tab, picture and, with labels, name)."""
    body = rect.adjusted(0, TAB, 0, 0)
    picture = QRectF(body.left(), body.top(), body.width(), body.width())
    fits_nothing = state.asked > 0 and state.lands == 0
    painter.save()
    if fits_nothing:
        painter.setOpacity(0.42)
    _draw_tab(painter, theme, rect, entry.region)
    path = QPainterPath()
    path.addRoundedRect(body, 6, 6)
    painter.setClipPath(path)
    painter.fillRect(body, theme.colour("high" if state.pointed else "raised"))
    _draw_picture(painter, theme, picture, entry, image)
    painter.setClipping(False)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(theme.colour("line2"), 1))
    painter.drawRoundedRect(body.adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)
    if labels:
        painter.setFont(theme.font(11, 500))
        painter.setPen(theme.colour("text"))
        name = QRectF(body.left() + 6, picture.bottom(), body.width() - 10, NAME)
        text = painter.fontMetrics().elidedText(
            entry.name, Qt.TextElideMode.ElideRight, round(name.width())
        )
        painter.drawText(name, Qt.AlignmentFlag.AlignVCenter, text)
    painter.restore()
    if entry.readable:
        _draw_side(painter, theme, picture, entry.side)
    _draw_sign(painter, theme, picture, entry, state)
    if state.pointed or state.ticked or state.ticking:
        _draw_tick(painter, theme, picture, state.ticked)
    if state.amount is not None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("accent"), 2))
        painter.drawRoundedRect(body.adjusted(-1, -1, 1, 1), 7, 7)
    elif state.ticked and not state.focus:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("text"), 2))
        painter.drawRoundedRect(body.adjusted(1, 1, -1, -1), 5, 5)
    elif state.focus:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("text"), 1.5))
        painter.drawRoundedRect(body.adjusted(-1.5, -1.5, 1.5, 1.5), 7, 7)


def _draw_tab(painter: QPainter, theme: Theme, rect: QRectF, region: Region) -> None:
    """The tab stands further right the lower the region is on the body."""
    place = DOWNWARDS.index(BESIDE.get(region, region)) / (len(DOWNWARDS) - 1)
    x = rect.left() + 4 + place * (rect.width() - 26)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(theme.tokens.region(region)))
    painter.drawRoundedRect(QRectF(round(x), rect.top(), 18, TAB + 4), 3, 3)


def _draw_picture(
    painter: QPainter, theme: Theme, rect: QRectF, entry: Entry, image: QImage | None
) -> None:
    if not entry.readable:
        _draw_missing(painter, theme, rect, "file-warning", "")
    elif image is None:  # still loading: a resting bar where the name will be
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("line2"))
        painter.drawRoundedRect(
            QRectF(rect.left() + 6, rect.bottom() - 14, rect.width() * 0.6, 8), 2, 2
        )
    elif image.isNull():
        _draw_missing(painter, theme, rect, "image-off", tr("No picture"))
    else:
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(rect, image)


def _draw_missing(painter: QPainter, theme: Theme, rect: QRectF, icon: str, word: str) -> None:
    pixmap = theme.pixmap(icon, 20, "quiet", painter.device().devicePixelRatioF())
    centre = rect.center() - QPointF(10, 16 if word and rect.width() > 60 else 10)
    painter.drawPixmap(round(centre.x()), round(centre.y()), pixmap)
    if word and rect.width() > 60:
        painter.setFont(theme.font(11))
        painter.setPen(theme.colour("quiet"))
        painter.drawText(
            rect.adjusted(0, rect.height() / 2 + 4, 0, 0), Qt.AlignmentFlag.AlignHCenter, word
        )


def _plate(painter: QPainter, theme: Theme, rect: QRectF) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("ink", 0.88))
    painter.drawRoundedRect(rect, 4, 4)


def _draw_side(painter: QPainter, theme: Theme, picture: QRectF, side: str) -> None:
    letters = {"left": "L", "right": "R", "both": "RL"}.get(side, "")
    if not letters:
        return
    painter.setFont(theme.font(11, 600))
    widths = [painter.fontMetrics().horizontalAdvance(c) for c in letters]
    rect = QRectF(picture.left() + 4, picture.top() + 4, sum(widths) + 9, 16)
    _plate(painter, theme, rect)
    x = rect.left() + 4.5
    for letter, width in zip(letters, widths, strict=True):
        painter.setPen(theme.colour("left_sign" if letter == "L" else "right_sign"))
        painter.drawText(
            QRectF(x, rect.top(), width + 1, 16), Qt.AlignmentFlag.AlignVCenter, letter
        )
        x += width


def _sign(entry: Entry, state: CardState) -> tuple[str, str]:
    """One sign only, the most urgent: a word and an icon, either may be empty."""
    if state.amount is not None:
        return f"{state.amount * 100:.0f} %", ""
    if not entry.readable:
        code = entry.error.code if entry.error is not None else ""
        return {"version.newer": tr("newer"), "card.foreign": tr("foreign")}.get(
            code, tr("damaged")
        ), ""
    if 0 < state.lands < state.asked:
        return f"{state.lands}/{state.asked}", ""
    if entry.locked:
        return "", "lock"
    if state.new:
        return "new", ""
    if entry.kind != "pose":
        return "", "film" if entry.kind == "clip" else "layers"
    return "", "star" if state.favourite else ""


def _draw_sign(
    painter: QPainter, theme: Theme, picture: QRectF, entry: Entry, state: CardState
) -> None:
    text, icon = _sign(entry, state)
    if not text and not icon:
        return
    painter.setFont(theme.font(11, 600))
    width = painter.fontMetrics().horizontalAdvance(text) + 8 if text else 18
    rect = QRectF(picture.right() - 4 - width, picture.bottom() - 20, width, 16)
    _plate(painter, theme, rect)
    if icon:
        pixmap = theme.pixmap(icon, 12, "paper", painter.device().devicePixelRatioF())
        painter.drawPixmap(round(rect.left() + 3), round(rect.top() + 2), pixmap)
        return
    painter.setPen(theme.colour("paper" if entry.readable else "warning"))
    painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)


def tick_rect(picture: QRectF) -> QRectF:
    """Where a card is ticked: its upper right corner."""
    return QRectF(picture.right() - 22, picture.top() + 2, 20, 20)


def _draw_tick(painter: QPainter, theme: Theme, picture: QRectF, on: bool) -> None:
    box = tick_rect(picture).adjusted(2, 2, -2, -2)
    painter.setPen(QPen(theme.colour("paper"), 1.5))
    painter.setBrush(theme.colour("ink", 0.88))
    if on:
        painter.setPen(QPen(theme.colour("ink"), 1))
        painter.setBrush(theme.colour("text"))
    painter.drawRoundedRect(box, 4, 4)
    if on:
        pixmap = theme.pixmap("check", 12, "ink", painter.device().devicePixelRatioF())
        painter.drawPixmap(round(box.left() + 2), round(box.top() + 2), pixmap)
