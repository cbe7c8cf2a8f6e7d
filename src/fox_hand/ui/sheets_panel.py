"""The right column: title, filters, the contact sheet, facts of one card."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QSlider, QVBoxLayout, QWidget

from fox_hand.core.controls import Region
from fox_hand.library.card import Card
from fox_hand.library.store import Entry
from fox_hand.session.desk import Desk
from fox_hand.session.jobs import Jobs
from fox_hand.ui.buttons import Button, Kind
from fox_hand.ui.card_pictures import CardPictures
from fox_hand.ui.look import Look
from fox_hand.ui.sheets_view import SheetsView

FACE = (Region.HEAD, Region.EYES, Region.MOUTH)
BODY = (Region.TORSO, Region.ARMS, Region.LEGS)
FILTERS = (
    ("all", "All"),
    ("body", "Body"),
    ("face", "Face"),
    ("left", "L hand"),
    ("right", "R hand"),
)


def passes(card: Card | None, which: str) -> bool:
    """Whether a card belongs under a filter; cards that cannot be read show under All."""
    if which == "all":
        return True
    if card is None:
        return False
    if which == "body":
        return card.region in BODY
    if which == "face":
        return card.region in FACE
    return card.region is Region.HANDS and card.side in (which, "both")


def found(entry: Entry, words: list[str]) -> bool:
    """Whether every word begins some word of the card's name, tags, note, sheet or author."""
    if not words:
        return True
    card = entry.card
    text = f"{entry.name} {entry.sheet}"
    if card is not None:
        text += f" {' '.join(card.tags)} {card.note} {card.author}"
    known = text.casefold().replace("/", " ").replace("-", " ").split()
    return all(any(k.startswith(w) for k in known) for w in words)


class SheetsPanel(QWidget):
    """Everything about the library that is always in sight."""

    put_on = Signal(object)
    capture = Signal()
    typed = Signal(str)
    menu_asked = Signal(object, QPoint)

    def __init__(self, look: Look, desk: Desk, jobs: Jobs) -> None:
        super().__init__()
        self._look, self._desk = look, desk
        self._which, self._words = "all", list[str]()
        self.setProperty("panel", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.view = SheetsView(look, jobs)
        self.facts = Facts(look, jobs)
        self._library = QLabel("")
        self._library.setProperty("quiet", True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._title_row())
        column.addWidget(self._filter_row())
        column.addWidget(self.view, 1)
        column.addWidget(self.facts)
        self.view.card_size = desk.settings.card_size
        self.view.labels = desk.settings.card_labels
        self.view.closed = set(desk.settings.closed_sections)
        self.view.put_on.connect(self.put_on)
        self.view.typed.connect(self.typed)
        self.view.menu_asked.connect(self.menu_asked)
        self.view.pointed_at.connect(self._show_facts)
        self.view.folded.connect(self._remember_folds)
        desk.cards_changed.connect(self.refresh)
        desk.actor_changed.connect(self._on_actor)
        desk.mix_changed.connect(self._on_mix)
        self.refresh()

    def _title_row(self) -> QWidget:
        row = QWidget()
        row.setFixedHeight(36)
        line = QHBoxLayout(row)
        line.setContentsMargins(12, 0, 8, 0)
        line.setSpacing(8)
        title = QLabel("Sheets")
        title.setProperty("role", "title")
        self._size = SizeSlider(self._look, self._desk.settings.card_size)
        self._size.valueChanged.connect(self._resize_cards)
        self.capture_button = Button(
            self._look, "Capture", icon="camera", tip="Keep what is selected as a card (C)"
        )
        self.capture_button.clicked.connect(self.capture)
        line.addWidget(title)
        line.addWidget(self._library)
        line.addStretch(1)
        line.addWidget(self._size)
        line.addWidget(self.capture_button)
        return row

    def resizeEvent(self, event: QResizeEvent) -> None:
        """A narrow column leaves out what can be found elsewhere."""
        super().resizeEvent(event)
        wide = self.width() >= 320
        self._size.setVisible(wide)
        self._library.setVisible(wide)

    def _filter_row(self) -> QWidget:
        row = QWidget()
        row.setFixedHeight(32)
        line = QHBoxLayout(row)
        line.setContentsMargins(8, 0, 8, 0)
        line.setSpacing(0)
        self._pills: dict[str, Button] = {}
        for key, word in FILTERS:
            pill = Button(self._look, word, kind=Kind.PILL, height=24, tip=f"Show {word}")
            pill.clicked.connect(lambda _=False, k=key: self.filter(k))
            self._pills[key] = pill
            line.addWidget(pill)
        self._pills["all"].setChecked(True)
        line.addStretch(1)
        return row

    def filter(self, which: str) -> None:
        """Narrow the cards to a part of the body."""
        self._which = which
        for key, pill in self._pills.items():
            pill.setChecked(key == which)
        self.refresh()

    def search(self, text: str) -> None:
        """Narrow the cards to those that match some words."""
        self._words = text.casefold().split()
        self.refresh()

    def refresh(self) -> None:
        """Show the desk's cards as filtered."""
        library = self._desk.library
        self._library.setText(library.name if library is not None else "")
        groups: dict[str, list[Entry]] = {}
        for entry in self._desk.cards:
            if passes(entry.card, self._which) and found(entry, self._words):
                groups.setdefault(entry.sheet, []).append(entry)
        self.view.empty_text = self._empty_text()
        self.view.show_groups(list(groups.items()))

    def _empty_text(self) -> str:
        if self._desk.cards:
            return "No card matches. Clear the search or choose All."
        if self._desk.library is None:
            return "No library is open yet."
        return "This library is still empty. Pose the figure, then press Capture to keep a card."

    def _on_actor(self) -> None:
        self.view.set_rig(self._desk.actor.rig if self._desk.actor is not None else None)

    def _on_mix(self) -> None:
        mix = self._desk.mix
        self.view.set_mix(mix)
        if mix is not None:
            mix.changed.connect(self.view.update_mixed)
            self.facts.show_entry(mix.entry)

    def _show_facts(self, entry: Entry | None) -> None:
        if entry is None and self._desk.mix is not None:
            entry = self._desk.mix.entry
        if entry is not None:
            self.facts.show_entry(entry)

    def _resize_cards(self, size: int) -> None:
        self.view.card_size = self._desk.settings.card_size = size
        self.view.relayout()

    def _remember_folds(self) -> None:
        self._desk.settings.closed_sections = sorted(self.view.closed)


class SizeSlider(QSlider):
    """A small slider for the size of the cards."""

    def __init__(self, look: Look, value: int) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self._look = look
        self.setRange(48, 144)
        self.setSingleStep(4)
        self.setValue(value)
        self.setFixedSize(64, 20)
        self.setToolTip("Size of the cards")
        self.setAccessibleName("Size of the cards")

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        share = (self.value() - self.minimum()) / (self.maximum() - self.minimum())
        x = 6 + share * (self.width() - 12)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("line"))
        painter.drawRoundedRect(QRectF(2, 9, self.width() - 4, 2), 1, 1)
        painter.setBrush(self._look.colour("text"))
        painter.drawEllipse(QRectF(x - 5, 5, 10, 10))
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(self._look.colour("text"))
            painter.drawEllipse(QRectF(x - 8, 2, 16, 16))


class Facts(QWidget):
    """What is known about one card, 108 px at the foot of the sheets."""

    def __init__(self, look: Look, jobs: Jobs) -> None:
        super().__init__()
        self._look = look
        self._entry: Entry | None = None
        self._pictures = CardPictures(jobs, self.update)
        self.setFixedHeight(108)

    def sizeHint(self) -> QSize:
        return QSize(256, 108)

    def show_entry(self, entry: Entry | None) -> None:
        self._entry = entry
        self.setAccessibleName(f"Facts of {entry.name}" if entry is not None else "Facts")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        look, painter = self._look, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), look.colour("panel"))
        painter.fillRect(0, 0, self.width(), 1, look.colour("line"))
        entry = self._entry
        if entry is None:
            painter.setFont(look.font(12))
            painter.setPen(look.colour("quiet"))
            text = "Point at a card to read about it. Click it to put it on."
            flags = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(QRectF(12, 12, self.width() - 24, 84), flags, text)
            return
        x = 12.0
        image = self._pictures.get(entry, round(84 * self.devicePixelRatioF()))
        if self.width() >= 320 and image is not None and not image.isNull():
            painter.drawImage(QRectF(12, 12, 84, 84), image)
            x = 108.0
        self._paint_words(painter, x, entry)

    def _paint_words(self, painter: QPainter, x: float, entry: Entry) -> None:
        look, width = self._look, self.width() - x - 12

        def line(y: float, text: str, size: int, weight: int, token: str) -> None:
            painter.setFont(look.font(size, weight))
            painter.setPen(look.colour(token))
            short = painter.fontMetrics().elidedText(
                text, Qt.TextElideMode.ElideRight, round(width)
            )
            painter.drawText(QRectF(x, y, width, 18), Qt.AlignmentFlag.AlignVCenter, short)

        line(10, entry.name, 13, 600, "text")
        if entry.card is None:
            assert entry.error is not None
            painter.setFont(look.font(12))
            painter.setPen(look.colour("warning"))
            rect = QRectF(x, 30, width, 70)
            painter.drawText(rect, Qt.TextFlag.TextWordWrap, entry.error.sentence())
            return
        line(29, describe(entry.card), 12, 400, "quiet")
        line(47, entry.card.note, 12, 400, "text")
        self._paint_tags(painter, x, width, entry.card)

    def _paint_tags(self, painter: QPainter, x: float, width: float, card: Card) -> None:
        look, start = self._look, x
        painter.setFont(look.font(11))
        signed = f"{card.author}, {short_date(card.changed)}" if card.author else ""
        signed = signed or short_date(card.changed)
        room = width - painter.fontMetrics().horizontalAdvance(signed) - 12
        for tag in card.tags:
            painter.setFont(look.font(11, 500))
            wide = painter.fontMetrics().horizontalAdvance(tag) + 16
            if x - start + wide > room:
                break
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.colour("high"))
            painter.drawRoundedRect(QRectF(x, 74, wide, 20), 4, 4)
            painter.setPen(look.colour("text"))
            painter.drawText(QRectF(x, 74, wide, 20), Qt.AlignmentFlag.AlignCenter, tag)
            x += wide + 4
        painter.setFont(look.font(11))
        painter.setPen(look.colour("quiet"))
        right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(start, 74, width, 20), right, signed)


def describe(card: Card) -> str:
    """Such as "Left hand, 15 controls, turns only"."""
    word = {Region.HANDS: "hand", Region.ARMS: "arm", Region.LEGS: "leg"}.get(card.region)
    side = {"left": "Left ", "right": "Right ", "both": "Both "}.get(card.side, "")
    place = (
        f"{side}{word}{'s' if side == 'Both ' else ''}"
        if word
        else {
            Region.HEAD: "face",
            Region.TORSO: "body",
        }.get(card.region, card.region.value)
    )
    held = card.pose.controls.values()
    kinds = [
        name
        for name, there in (
            ("turns", any(h.turn is not None for h in held)),
            ("moves", any(h.move is not None for h in held)),
            ("scales", any(h.scale is not None for h in held)),
            ("settings", any(h.settings for h in held)),
        )
        if there
    ]
    what = f"{kinds[0]} only" if len(kinds) == 1 else " and ".join(kinds)
    count = len(card.pose)
    plural = "control" if count == 1 else "controls"
    return f"{place[:1].upper()}{place[1:]}, {count} {plural}, {what}"


def short_date(text: str) -> str:
    """``2026-11-12T09:00:00Z`` as ``12 Nov``."""
    months = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"]
    parts = text[:10].split("-")
    if len(parts) != 3 or not all(p.isdigit() for p in parts) or not 1 <= int(parts[1]) <= 12:
        return ""
    return f"{int(parts[2])} {months[int(parts[1]) - 1]}"
