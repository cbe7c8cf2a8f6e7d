"""The library as one scrollable contact sheet. Only what is visible is painted."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QHelpEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QToolTip

from fox_hand.core.rig import Rig
from fox_hand.library.store import Entry
from fox_hand.session.jobs import Jobs
from fox_hand.session.mix import Fit, Mix, fit_of
from fox_hand.ui.card_painter import CardState, draw_card
from fox_hand.ui.card_pictures import CardPictures
from fox_hand.ui.look import Look
from fox_hand.ui.sheet_layout import HEADING, PAD, TAB, SheetLayout, lay_out_sheets

INDEX_WIDTH = 28
SKELETONS = 12
STAMPS = 2000
FRESH = 8  # new stamps drawn in one paint, so that no paint takes long
MARGIN = QPointF(2, 2)  # around a card in its stamp


class SheetsView(QAbstractScrollArea):
    """Cards in sections with sticky headings and a thumb index at the edge."""

    put_on = Signal(object)  # Entry
    pointed_at = Signal(object)  # Entry or None
    folded = Signal()
    typed = Signal(str)
    menu_asked = Signal(object, QPoint)

    def __init__(self, look: Look, jobs: Jobs) -> None:
        super().__init__()
        self._look = look
        self._pictures = CardPictures(jobs, self._picture_came)
        self._groups: list[tuple[str, list[Entry]]] = []
        self._layout: SheetLayout | None = None
        self._pointed: tuple[int, int] | None = None
        self._current: tuple[int, int] | None = None
        self._mix: Mix | None = None
        self._rig: Rig | None = None
        self._fits: dict[tuple[str, int], Fit] = {}
        self._stamps: dict[object, QPixmap] = {}
        self._fresh = 0
        self._came = QTimer(self)  # pictures come in crowds; one paint is enough for several
        self._came.setSingleShot(True)
        self._came.setInterval(16)
        self._came.timeout.connect(self.viewport().update)
        self.closed: set[str] = set()
        self.card_size = 68
        self.labels = True
        self.loading = False
        self.empty_text = ""
        self.new_paths: set[str] = set()
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.viewport().setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Sheets")
        self.verticalScrollBar().valueChanged.connect(lambda _: self.viewport().update())

    # -- content --------------------------------------------------------------------------

    def show_groups(self, groups: list[tuple[str, list[Entry]]]) -> None:
        """Show these sheets; the current card stays current if it is still there."""
        current = self.current_entry()
        self._groups = groups
        self.relayout()
        self._current = self._place_of(current.path if current is not None else None)
        self.viewport().update()

    def set_rig(self, rig: Rig | None) -> None:
        """Whose fit the cards show."""
        self._rig = rig
        self._fits.clear()
        self.viewport().update()

    def set_mix(self, mix: Mix | None) -> None:
        """The card that is being put on has a ring and says how much."""
        self.update_mixed()
        self._mix = mix
        self.update_mixed()

    def update_mixed(self) -> None:
        """Paint anew only the card that is being put on."""
        rect = self.rect_of(self._mix.entry) if self._mix is not None else None
        if rect is not None:
            self.viewport().update(rect.adjusted(-4, -4, 4, 4))

    def relayout(self) -> None:
        self._layout = None
        layout = self.layout_now()
        bar = self.verticalScrollBar()
        bar.setRange(0, max(layout.height - self.viewport().height(), 0))
        bar.setPageStep(self.viewport().height())
        bar.setSingleStep(layout.pitch[1] // 3)
        self.viewport().update()

    def layout_now(self) -> SheetLayout:
        if self._layout is None:
            width = self.viewport().width() - self._index_width()
            self._layout = lay_out_sheets(
                self._groups, width, self.card_size, self.labels, self.closed
            )
        return self._layout

    def _index_width(self) -> int:
        return INDEX_WIDTH if self.width() >= 320 and len(self._groups) > 1 else 0

    def _place_of(self, path: object) -> tuple[int, int] | None:
        for s, section in enumerate(self.layout_now().sections):
            for i, entry in enumerate(section.entries):
                if entry.path == path:
                    return s, i
        return None

    def entry_at(self, place: tuple[int, int] | None) -> Entry | None:
        if place is None:
            return None
        sections = self.layout_now().sections
        if place[0] < len(sections) and place[1] < len(sections[place[0]].entries):
            return sections[place[0]].entries[place[1]]
        return None

    def current_entry(self) -> Entry | None:
        """The card with the keyboard."""
        return self.entry_at(self._current)

    def rect_of(self, entry: Entry) -> QRect | None:
        """Where a card is in the viewport now (it may be scrolled out of sight)."""
        place = self._place_of(entry.path)
        if place is None:
            return None
        return QRect(*self.layout_now().card_rect(*place)).translated(0, -self._scroll)

    def reveal(self, entry: Entry) -> None:
        """Scroll to a card and make it current."""
        place = self._place_of(entry.path)
        if place is not None:
            self._make_current(place)

    @property
    def _scroll(self) -> int:
        return self.verticalScrollBar().value()

    def _picture_came(self) -> None:
        if not self._came.isActive():
            self._came.start()

    def _fit(self, entry: Entry) -> Fit:
        if entry.card is None or self._rig is None:
            return Fit(0, 0, ())
        key = (entry.card.identity, entry.card.revision)
        if key not in self._fits:
            self._fits[key] = fit_of(entry.card, self._rig)
        return self._fits[key]

    # -- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.viewport().rect(), self._look.colour("panel"))
        layout = self.layout_now()
        if self.loading and not layout.sections:
            self._paint_skeletons(painter)
            return
        if not layout.sections:
            self._paint_empty(painter)
            return
        top = self._scroll
        dirty, self._fresh = event.rect(), 0
        for s, i in layout.visible(top + dirty.top(), top + dirty.bottom()):
            self._paint_card(painter, s, i)
        self._paint_headings(painter, layout, top)
        if self._index_width():
            self._paint_index(painter, layout, top)

    def _paint_card(self, painter: QPainter, s: int, i: int) -> None:
        entry = self.layout_now().sections[s].entries[i]
        rect = QRectF(QRect(*self.layout_now().card_rect(s, i)).translated(0, -self._scroll))
        mixed = self._mix is not None and self._mix.entry.path == entry.path
        fit = self._fit(entry)
        state = CardState(
            pointed=(s, i) == self._pointed,
            focus=(s, i) == self._current and self.hasFocus(),
            amount=self._mix.amount if mixed and self._mix is not None else None,
            lands=fit.lands,
            asked=fit.asked,
            new=str(entry.path) in self.new_paths,
        )
        pixels = round(self.card_size * self.devicePixelRatioF())
        image = self._pictures.get(entry, pixels)
        if state.amount is not None or state.focus:  # these change all the time
            draw_card(painter, self._look, rect, entry, image, state, self.labels)
        else:
            stamp = self._stamp(entry, image, state)
            if stamp is not None:
                painter.drawPixmap(rect.topLeft() - MARGIN, stamp)
            else:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(self._look.colour("raised"))
                painter.drawRoundedRect(rect.adjusted(0, TAB, 0, 0), 6, 6)

    def _stamp(self, entry: Entry, image: QImage | None, state: CardState) -> QPixmap | None:
        """A card as it usually looks, drawn once; None where enough was drawn for one paint."""
        width, height = self.card_size, self.layout_now().card_height
        ratio = self.devicePixelRatioF()
        loaded = image.cacheKey() if image is not None else -1
        shown = (entry.name, entry.card.region, entry.card.side) if entry.card is not None else None
        key = (entry.path, shown, state, loaded, width, height, ratio)
        if key not in self._stamps:
            if self._fresh >= FRESH:
                self._picture_came()  # the others follow at once
                return None
            self._fresh += 1
            if len(self._stamps) > STAMPS:
                self._stamps.clear()
            room = 2 * round(MARGIN.x())
            stamp = QPixmap(round((width + room) * ratio), round((height + room) * ratio))
            stamp.setDevicePixelRatio(ratio)
            stamp.fill(Qt.GlobalColor.transparent)
            painter = QPainter(stamp)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            rect = QRectF(MARGIN.x(), MARGIN.y(), width, height)
            draw_card(painter, self._look, rect, entry, image, state, self.labels)
            painter.end()
            self._stamps[key] = stamp
        return self._stamps[key]

    def _paint_headings(self, painter: QPainter, layout: SheetLayout, top: int) -> None:
        look = self._look
        right = layout.width - PAD
        for section in layout.sections:
            y = section.top - top
            if y < 0:  # the heading of the section in view stays at the top
                y = min(0, section.top + section.height - HEADING - top)
            if y + HEADING < 0 or y > self.viewport().height():
                continue
            painter.fillRect(QRect(0, y, layout.width, HEADING), look.colour("panel"))
            painter.setFont(look.font(12, 600))
            painter.setPen(look.colour("text"))
            width = painter.fontMetrics().horizontalAdvance(section.title)
            middle = Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(PAD, y, width + 2, HEADING), middle, section.title)
            painter.setFont(look.font(11))
            painter.setPen(look.colour("quiet"))
            count = str(len(section.entries)) + (" folded" if section.closed else "")
            painter.drawText(QRectF(PAD + width + 8, y, 80, HEADING), middle, count)
            start = PAD + width + 16 + painter.fontMetrics().horizontalAdvance(count)
            painter.setPen(QPen(look.colour("line"), 1))
            painter.drawLine(start, y + HEADING // 2, right, y + HEADING // 2)

    def _index_tabs(self) -> list[tuple[int, QRect]]:
        layout = self.layout_now()
        if not layout.sections:
            return []
        height = min(92, (self.viewport().height() - 16) // len(layout.sections))
        x = self.viewport().width() - INDEX_WIDTH
        return [
            (i, QRect(x + 1, 8 + i * height, INDEX_WIDTH - 1, height - 4))
            for i in range(len(layout.sections))
        ]

    def _paint_index(self, painter: QPainter, layout: SheetLayout, top: int) -> None:
        look = self._look
        here = max((i for i, s in enumerate(layout.sections) if s.top <= top + 4), default=0)
        for i, rect in self._index_tabs():
            section = layout.sections[i]
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.colour("high" if i == here else "raised"))
            painter.drawRoundedRect(QRectF(rect).adjusted(0, 0, 6, 0), 6, 6)
            card = section.entries[0].card if section.entries else None
            if card is not None:
                painter.fillRect(
                    QRect(rect.right() - 2, rect.top(), 3, rect.height()),
                    look.tokens.region(card.region),
                )
            painter.save()
            painter.translate(rect.center().x() + 1, rect.center().y())
            painter.rotate(90)
            painter.setFont(look.font(11, 600 if i == here else 400))
            painter.setPen(look.colour("text" if i == here else "quiet"))
            text = painter.fontMetrics().elidedText(
                section.title, Qt.TextElideMode.ElideRight, rect.height() - 8
            )
            half = rect.height() / 2
            painter.drawText(
                QRectF(-half, -12, rect.height(), 24), Qt.AlignmentFlag.AlignCenter, text
            )
            painter.restore()

    def _paint_skeletons(self, painter: QPainter) -> None:
        """Cards that stand still while the library is read."""
        size, (dx, dy) = self.card_size, self.layout_now().pitch
        columns = self.layout_now().columns
        painter.setPen(Qt.PenStyle.NoPen)
        for i in range(SKELETONS):
            x, y = PAD + i % columns * dx, HEADING + i // columns * dy + 6
            painter.setBrush(self._look.colour("raised"))
            painter.drawRoundedRect(QRectF(x, y, size, size + 20), 6, 6)
            painter.setBrush(self._look.colour("line2"))
            painter.drawRoundedRect(QRectF(x + 6, y + size + 6, size * 0.6, 8), 2, 2)

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setFont(self._look.font(12))
        painter.setPen(self._look.colour("quiet"))
        rect = QRectF(24, 32, self.viewport().width() - 48, 120)
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(rect, flags, self.empty_text)

    # -- pointer and keys -----------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position().toPoint()
        for i, rect in self._index_tabs() if self._index_width() else []:
            if rect.contains(at):
                self.verticalScrollBar().setValue(self.layout_now().sections[i].top)
                return
        heading = self._heading_at(at)
        if heading is not None:
            self.closed ^= {heading}
            self.relayout()
            self.folded.emit()
            return
        place = self.layout_now().at(at.x(), at.y() + self._scroll)
        entry = self.entry_at(place)
        if entry is None:
            return
        self._current = place
        if event.button() is Qt.MouseButton.LeftButton:
            self.put_on.emit(entry)
        elif event.button() is Qt.MouseButton.RightButton:
            self.menu_asked.emit(entry, event.globalPosition().toPoint())
        self.viewport().update()

    def _heading_at(self, at: QPoint) -> str | None:
        layout, top = self.layout_now(), self._scroll
        for section in layout.sections:
            y = section.top - top
            if y < 0:
                y = min(0, section.top + section.height - HEADING - top)
            if y <= at.y() < y + HEADING and at.x() < layout.width:
                return section.sheet
        return None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position().toPoint()
        place = None
        if self._heading_at(at) is None:
            place = self.layout_now().at(at.x(), at.y() + self._scroll)
        self._point(place)

    def leaveEvent(self, event: QEvent) -> None:
        self._point(None)
        super().leaveEvent(event)

    def _point(self, place: tuple[int, int] | None) -> None:
        if place != self._pointed:
            self._pointed = place
            self.viewport().setCursor(
                Qt.CursorShape.ArrowCursor if place is None else Qt.CursorShape.PointingHandCursor
            )
            self.pointed_at.emit(self.entry_at(place))
            self.viewport().update()

    def viewportEvent(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            at = event.pos()
            entry = self.entry_at(self.layout_now().at(at.x(), at.y() + self._scroll))
            if entry is not None and entry.error is not None:
                QToolTip.showText(event.globalPos(), entry.error.sentence(), self)
            elif entry is not None and self._fit(entry).missing:
                missing = ", ".join(self._fit(entry).missing[:6])
                QToolTip.showText(event.globalPos(), f"Not on this character: {missing}", self)
            else:
                QToolTip.hideText()
            return True
        return super().viewportEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: -1,
            Qt.Key.Key_Right: 1,
            Qt.Key.Key_Up: -self.layout_now().columns,
            Qt.Key.Key_Down: self.layout_now().columns,
        }
        key = Qt.Key(event.key())
        entry = self.current_entry()
        if key in steps:
            self._walk(steps[key])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and entry is not None:
            if self._mix is not None and self._mix.entry.path == entry.path:
                super().keyPressEvent(event)  # a second Enter keeps what is on
            else:
                self.put_on.emit(entry)
        elif event.text().isalnum() and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.typed.emit(event.text())
        else:
            super().keyPressEvent(event)

    def _walk(self, step: int) -> None:
        flat = self.layout_now().flat()
        if not flat:
            return
        at = flat.index(self._current) + step if self._current in flat else 0
        self._make_current(flat[min(max(at, 0), len(flat) - 1)])

    def _make_current(self, place: tuple[int, int]) -> None:
        self._current = place
        _, y, _, height = self.layout_now().card_rect(*place)
        top = self._scroll + HEADING
        if y < top:
            self.verticalScrollBar().setValue(y - HEADING)
        elif y + height > self._scroll + self.viewport().height():
            self.verticalScrollBar().setValue(y + height + 8 - self.viewport().height())
        self.pointed_at.emit(self.entry_at(place))
        self.viewport().update()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        if self._current is None and event.reason() in (
            Qt.FocusReason.TabFocusReason,
            Qt.FocusReason.BacktabFocusReason,
        ):
            self._walk(0)
        self.viewport().update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.relayout()

    def sizeHint(self) -> QSize:
        return QSize(348, 480)
