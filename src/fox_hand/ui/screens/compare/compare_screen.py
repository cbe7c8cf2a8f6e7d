"""The Compare screen: two poses or clips side by side, overlaid, and one change at a time."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QGuiApplication,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
)
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from fox_hand.base.language import tr, tr_n
from fox_hand.base.words import some_of
from fox_hand.core.model.state import State
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Picture, Quality, Standing, View
from fox_hand.core.view.usual_views import seen_from
from fox_hand.session.app.needs import Posing
from fox_hand.session.applying.comparing import Compared, Comparison, DifferingPart, Row
from fox_hand.session.capturing.card_framing import frame_of_card
from fox_hand.session.runtime.ports import Pictures, Post
from fox_hand.ui.screens.compare.compare_facts import facts_of
from fox_hand.ui.screens.compare.compare_list import CompareList, shown_values
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.amount_ruler import AmountRuler
from fox_hand.ui.widgets.buttons import Button, Segments
from fox_hand.ui.widgets.buttons import Kind as ButtonKind
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.passing_menu import passing_menu
from fox_hand.ui.widgets.screen_parts import back_to_stage, screen_panel, screen_top
from fox_hand.ui.widgets.screen_pixels import follow_screen, in_pixels

SHOWN = (("all", tr("All")), ("large", tr("Large")), ("settings", tr("Settings")))
STOPS = (0.0, 0.25, 0.5, 0.75, 1.0)
LARGE = 0.05  # of a quarter turn: differences that can be seen


class ComparePicture(QWidget):
    """One picture with a title; dragging turns all of them."""

    turned = Signal(float, float)

    def __init__(self, theme: Theme, letter: str = "") -> None:
        super().__init__()
        self._theme, self._letter = theme, letter
        self._title, self._words = "", ""
        self.images: list[QImage] = []
        self._from: QPointF | None = None
        self.setMinimumSize(160, 140)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setCursor(Qt.CursorShape.OpenHandCursor)

    def show_words(self, title: str, words: str) -> None:
        self._title, self._words = title, words
        self.setAccessibleName(f"{title}, {words}")
        self.update()

    def room(self) -> tuple[int, int]:
        """Width and height of the picture."""
        return max(self.width(), 16), max(self.height() - 32, 16)

    def show_images(self, images: list[QImage]) -> None:
        """One image, or two to lay over each other, half and half."""
        self.images = images
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._from = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is not None:
            gone, self._from = event.position() - self._from, event.position()
            self.turned.emit(-gone.x() * 0.01, gone.y() * 0.006)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._from = None
        super().mouseReleaseEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.colour("panel"))
        x = 12.0
        if self._letter:
            box = QRectF(x, 6, 20, 20)
            second = self._letter == "B"
            painter.setPen(theme.colour("text"))
            painter.setBrush(theme.colour("accent" if second else "panel"))
            painter.drawRoundedRect(box, 4, 4)
            painter.setFont(theme.font(12, 600))
            painter.setPen(theme.colour("on_accent" if second else "text"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, self._letter)
            x += 28
        for text, font, token in (
            (self._title, theme.font(12, 600), "text"),
            (self._words, theme.font(11), "quiet"),
        ):
            painter.setFont(font)
            painter.setPen(theme.colour(token))
            short = painter.fontMetrics().elidedText(
                text, Qt.TextElideMode.ElideRight, max(round(self.width() - x - 8), 8)
            )
            line = QRectF(x, 0, self.width() - x, 32)
            painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, short)
            x += painter.fontMetrics().horizontalAdvance(short) + 8
        width, height = self.room()
        box = QRectF(0, 32, width, height)
        painter.fillRect(box, theme.colour("stage_middle"))
        for number, image in enumerate(self.images):
            painter.setOpacity(1.0 if number == 0 else 0.5)
            painter.drawImage(box, image)
        painter.setOpacity(1.0)


class CompareScreen(QWidget):
    """Takes the place of the columns while it is open."""

    closed = Signal()
    put_on = Signal(object)  # Mixed
    store = Signal(object)  # Pose

    def __init__(self, theme: Theme, workspace: Posing, pictures: Pictures, post: Post) -> None:
        super().__init__()
        self._theme, self._workspace, self._pictures, self._post = theme, workspace, pictures, post
        self.comparison: Comparison | None = None
        self._camera = Camera()
        self._images: dict[str, QImage] = {}
        self._drawn: dict[str, object] = {}
        self.first, self.second = ComparePicture(theme, "A"), ComparePicture(theme, "B")
        self.over, self.one = ComparePicture(theme), ComparePicture(theme)
        self.list = CompareList(theme)
        self.keys = KeyMap([LocalKey(ENTER, self._enter)])
        self._build()
        for picture in (self.first, self.second, self.over, self.one):
            picture.turned.connect(self._turn)
        self.list.toggled.connect(lambda key: self.comparison and self.comparison.toggle(key))
        self.list.row_menu_asked.connect(self._ask_row)
        follow_screen(self, self._draw)
        self.list.seen.connect(lambda key: self.comparison and self.comparison.point(key))

    # -- building -------------------------------------------------------------------------

    def _build(self) -> None:
        theme = self._theme
        self.back_button = back_to_stage(theme)
        self.back_button.clicked.connect(self.closed)
        self.swap_button = Button(theme, tr("Exchange A and B"), icon="flip-horizontal", height=28)
        self.swap_button.clicked.connect(self._swap)
        top = screen_top(self.back_button, tr("Compare"), self.swap_button)
        self.moment = AmountRuler(theme, (0.0, 1.0), STOPS, usual=0.5)
        self.moment.setAccessibleName(tr("Moment"))
        self.moment.setToolTip(tr("Where on their way the clips are compared"))
        self.moment.pulled.connect(self._look)
        grid = QGridLayout()
        grid.setSpacing(12)
        grid.addWidget(self.first, 0, 0, 1, 3)
        grid.addWidget(self.second, 0, 3, 1, 3)
        grid.addWidget(self.over, 1, 0, 1, 2)
        grid.addWidget(self.one, 1, 2, 1, 2)
        grid.addWidget(self._about(), 1, 4, 1, 2)
        grid.addWidget(self.moment, 2, 0, 1, 6)
        grid.setRowStretch(0, 3)
        grid.setRowStretch(1, 2)
        for column in range(6):
            grid.setColumnStretch(column, 1)
        body = QHBoxLayout()
        body.setContentsMargins(12, 8, 12, 12)
        body.setSpacing(12)
        body.addLayout(grid, 1)
        body.addWidget(self._side())
        column_ = QVBoxLayout(self)
        column_.setContentsMargins(0, 0, 0, 0)
        column_.setSpacing(0)
        column_.addLayout(top)
        column_.addLayout(body, 1)

    def _about(self) -> QWidget:
        panel = screen_panel()
        self._facts = QGridLayout()
        self._facts.setHorizontalSpacing(8)
        self._facts.setVerticalSpacing(4)
        self.store_button = Button(self._theme, tr("Store halfway as card"))
        self.store_button.clicked.connect(self._store)
        column = QVBoxLayout(panel)
        column.setContentsMargins(12, 8, 12, 8)
        column.addLayout(self._facts)
        column.addStretch(1)
        column.addWidget(self.store_button, 0, Qt.AlignmentFlag.AlignHCenter)
        return panel

    def _side(self) -> QWidget:
        panel = screen_panel()
        panel.setFixedWidth(420)
        title = Words(tr("What differs"))
        title.setProperty("role", "title")
        self.count = Words("")
        self.count.setProperty("quiet", True)
        head = QHBoxLayout()
        head.setContentsMargins(12, 0, 12, 0)
        head.setSpacing(8)
        head.addWidget(title)
        head.addWidget(self.count, 1)
        self.shown = Segments(self._theme, SHOWN, tr("Which differences are shown"))
        self.shown.chosen.connect(lambda _: self._show_rows())
        filters = QHBoxLayout()
        filters.setContentsMargins(12, 0, 12, 0)
        filters.addWidget(self.shown)
        filters.addStretch(1)
        self.said = Words("")
        self.said.setWordWrap(True)
        self.said.setProperty("quiet", True)
        self.said.setContentsMargins(12, 0, 12, 0)
        self.put_first = Button(self._theme, tr("Put on A"))
        self.put_second = Button(self._theme, tr("Put on B"))
        self.put_part = Button(self._theme, tr("Put on chosen"), kind=ButtonKind.MAIN)
        self.put_first.clicked.connect(lambda: self._put(second=False))
        self.put_second.clicked.connect(lambda: self._put(second=True))
        self.put_part.clicked.connect(self._put_part)
        foot = QHBoxLayout()
        foot.setContentsMargins(12, 0, 12, 0)
        foot.addWidget(self.put_first)
        foot.addWidget(self.put_second)
        foot.addStretch(1)
        foot.addWidget(self.put_part)
        column = QVBoxLayout(panel)
        column.setContentsMargins(0, 8, 0, 12)
        column.setSpacing(8)
        column.addLayout(head)
        column.addLayout(filters)
        column.addWidget(self.list, 1)
        column.addWidget(self.said)
        column.addLayout(foot)
        return panel

    # -- showing --------------------------------------------------------------------------

    def begin(self, comparison: Comparison) -> None:
        """Compare two poses."""
        self.comparison = comparison
        comparison.changed.connect(self._refresh)
        self._images.clear()
        self._drawn.clear()
        self.shown.set_value("all")
        self.moment.setVisible(comparison.moves)
        self._frame()
        self._refresh()
        self.list.setFocus(Qt.FocusReason.OtherFocusReason)

    def end(self) -> None:
        """Keep nothing of a character that has left the stage."""
        self.comparison = None
        self._images.clear()
        self._drawn.clear()
        self.list.forget()

    def _frame(self) -> None:
        comparison = self.comparison
        if comparison is None:
            return
        actor = comparison.actor
        ready = comparison.first.ready or comparison.second.ready
        flat, states = actor.rig.flat, comparison.states()
        fits = ready is not None and ready.original is None and not flat
        if fits and ready is not None and ready.card.frame is not None:
            stands = states[0 if comparison.first.ready is ready else 1]
            self._camera = frame_of_card(actor, ready.card, actor.standing_in(stands))
            return
        rows = sorted(comparison.shared.channels)
        nodes = actor.flesh_nodes(rows) if rows else None
        width, height = self.first.room()
        every = 1 if flat else 3
        # a hand may be elsewhere in each of them: both are to be seen
        points = [actor.rig.flesh(actor.standing_in(s).at, nodes, every=every) for s in states]
        camera = seen_from(actor.rig, 0.3, 0.04)
        self._camera = camera.framing(np.concatenate(points), width / height, 1.2)

    def _refresh(self) -> None:
        comparison = self.comparison
        if comparison is None:
            return
        first, second = comparison.first, comparison.second
        self.first.show_words(first.name, first.words)
        self.second.show_words(second.name, second.words)
        self.over.show_words(tr("Overlaid"), tr("half A, half B"))
        chosen = self._chosen_words(comparison)
        several = len(comparison.chosen) > 1
        wearing = "A" if comparison.giver is second else "B"
        what = tr("changes") if several else tr("one change")
        self.one.show_words(tr("{wearing} with {what}", wearing=wearing, what=what), chosen)
        self.count.setText(
            tr_n("{number} difference", "{number} differences, largest first", len(comparison.rows))
        )
        self.moment.show_amount(comparison.share)
        self._show_rows()
        self._show_facts(first, second)
        self._say(comparison)
        self.put_first.setEnabled(first.ready is not None)
        self.put_second.setEnabled(second.ready is not None)
        self.put_part.setEnabled(bool(comparison.chosen) and comparison.part() is not None)
        count = len(comparison.chosen)
        words = {0: tr("Put on chosen"), 1: tr("Put on {chosen} only", chosen=chosen)}
        self.put_part.setText(words.get(count, tr("Put on {count} chosen", count=count)))
        self.put_part.updateGeometry()
        self._draw()

    def _chosen_words(self, comparison: Comparison) -> str:
        keys = comparison.chosen or {comparison.pointed}
        names = [f"{r.label} {r.word}" for r in comparison.rows if r.key in keys]
        giver = "B" if comparison.giver is comparison.second else "A"
        if len(names) > 1:
            return tr("{count} of {giver}", count=len(names), giver=giver)
        return names[0] if names else tr("point at a row")

    def _rows(self, comparison: Comparison) -> tuple[Row, ...]:
        if self.shown.value == "large":
            return tuple(r for r in comparison.rows if r.size >= LARGE)
        if self.shown.value == "settings":
            return tuple(r for r in comparison.rows if r.key[0] is DifferingPart.SETTING)
        return comparison.rows

    def _show_rows(self) -> None:
        if self.comparison is not None:
            self.list.show_rows(self.comparison, self._rows(self.comparison))

    def _show_facts(self, first: Compared, second: Compared) -> None:
        while (item := self._facts.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        for row, texts in enumerate(facts_of(first, second)):
            for column, text in enumerate(texts):
                label = Words(text)
                label.setWordWrap(True)
                if column == 0 and row:
                    label.setProperty("quiet", True)
                if row == 0:
                    label.setProperty("role", "title")
                self._facts.addWidget(label, row, column, Qt.AlignmentFlag.AlignTop)
            self._facts.setColumnStretch(1, 1)
            self._facts.setColumnStretch(2, 1)

    def _say(self, comparison: Comparison) -> None:
        same = comparison.count - len({r.key for r in comparison.rows})
        said = []
        for second, letter in ((False, "A"), (True, "B")):
            only = comparison.only(second)
            if only:
                said.append(tr("Only in {letter}: {names}.", letter=letter, names=some_of(only)))
        if not comparison.rows:
            moment = tr(" at this moment") if comparison.moves else ""
            said.append(tr("They are the same in all that both hold{moment}.", moment=moment))
        else:
            said.append(
                tr(
                    "{same} are the same within 0.01°. Click a row to hold its change.",
                    same=max(same, 0),
                )
            )
        self.said.setText(" ".join(said))

    # -- pictures -------------------------------------------------------------------------

    def _turn(self, yaw: float, pitch: float) -> None:
        pitch = min(max(self._camera.pitch + pitch, -1.4), 1.4)
        self._camera = replace(self._camera, yaw=self._camera.yaw + yaw, pitch=pitch)
        self._draw()

    def _draw(self) -> None:
        comparison = self.comparison
        if comparison is None:
            return
        first, second = comparison.states()
        wide, small = in_pixels(self, self.first.room()), in_pixels(self, self.one.room())
        self._ask("A", first, wide)
        self._ask("B", second, wide)
        self._ask(tr("over A"), first, small)
        self._ask(tr("over B"), second, small)
        self._ask("one", comparison.changed_only(), small)

    def _ask(self, name: str, state: State, room: tuple[int, int]) -> None:
        comparison = self.comparison
        assert comparison is not None
        wanted = state, self._camera, room
        if self._drawn.get(name) == wanted:  # pointing at a row changes only one of them
            return
        self._drawn[name] = wanted
        standing: Standing = comparison.actor.standing_in(state)
        width, height = room
        # a card's frame is square; in a wider picture it keeps its height
        view = View((standing,), self._camera, width, height, Quality.CARD)
        self._pictures.submit(f"compare {name}", view, partial(self._came, name))

    def _came(self, name: str, result: Picture | Exception) -> None:
        self._post(lambda: self._arrived(name, result))

    def _arrived(self, name: str, result: Picture | Exception) -> None:
        if isinstance(result, Exception):
            return
        height, width = result.pixels.shape[:2]
        kind = QImage.Format.Format_RGBA8888_Premultiplied
        self._images[name] = QImage(result.pixels.data, width, height, width * 4, kind).copy()
        got = self._images
        self.first.show_images([got["A"]] if "A" in got else [])
        self.second.show_images([got["B"]] if "B" in got else [])
        self.over.show_images([got[n] for n in (tr("over A"), tr("over B")) if n in got])
        self.one.show_images([got["one"]] if "one" in got else [])

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._draw()

    # -- doing ----------------------------------------------------------------------------

    def _look(self, share: float) -> None:
        if self.comparison is not None:
            self.comparison.look_at(share)

    def _swap(self) -> None:
        if self.comparison is not None:
            self.comparison.swap()

    def _put(self, *, second: bool) -> None:
        comparison = self.comparison
        if comparison is not None:
            ready = (comparison.second if second else comparison.first).ready
            if ready is not None:
                self.put_on.emit(ready)

    def _put_part(self) -> None:
        part = self.comparison.part() if self.comparison is not None else None
        if part is not None:
            self.put_on.emit(part)

    def _store(self) -> None:
        if self.comparison is not None:
            self.store.emit(self.comparison.halfway())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def _ask_row(self, index: int, at: QPoint) -> None:
        """What can be done with the difference there."""
        comparison = self.comparison
        if comparison is None or not 0 <= index < len(self.list.rows):
            return
        row, menu = self.list.rows[index], passing_menu(self)
        held, chosen = row.key in comparison.chosen, comparison.chosen
        words = tr("Let its change go\tSpace") if held else tr("Hold its change\tSpace")
        menu.addAction(words, partial(comparison.toggle, row.key))
        only = menu.addAction(tr("Hold only this"), partial(self._hold, frozenset({row.key})))
        only.setEnabled(chosen != {row.key})
        every = frozenset(one.key for one in self.list.rows)
        menu.addAction(tr("Hold all in this list"), partial(self._hold, every))
        nothing = menu.addAction(tr("Hold none"), partial(self._hold, frozenset()))
        nothing.setEnabled(bool(chosen))
        menu.addSeparator()
        values = "  ".join(shown_values(row))
        copied = partial(
            QGuiApplication.clipboard().setText, f"{row.label} {row.word}  {values}".strip()
        )
        menu.addAction(tr("Copy both values"), copied)
        menu.popup(at)

    def _hold(self, keys: frozenset[tuple[DifferingPart, int]]) -> None:
        if self.comparison is not None:
            self.comparison.hold(keys)

    def _enter(self) -> bool:
        enabled = self.put_part.isEnabled()
        if enabled:
            self._put_part()
        return enabled
