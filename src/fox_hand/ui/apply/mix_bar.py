"""The bar over the stage while cards are being put on."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtCore import QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QFontMetrics, QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from fox_hand.base.language import tr
from fox_hand.base.words import some_of
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import ControlKind
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.render_request import Picture, Quality, Standing, View
from fox_hand.session.app.needs import Posing
from fox_hand.session.applying.mix import HIGHEST, LOWEST, Mix
from fox_hand.session.runtime.ports import Pictures, Post
from fox_hand.ui.apply.mix_choices import NARROW, MixChoices
from fox_hand.ui.apply.mix_pad import STAMP, MixWeights
from fox_hand.ui.link.link_row import HEIGHT as LINKED
from fox_hand.ui.link.link_row import LinkRow
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.plain_text import Words, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.amount_ruler import SMALL, AmountRuler
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.fields.typed_numbers import bent, typed_number

STOPS = (-0.5, 0.0, 0.5, 1.0, 1.5)  # amounts with a picture of their own
LATER = 40  # milliseconds
WIDEST = 880
HEIGHT, TALL = 132, 216  # pixels, with one card and with several
SAID = 20  # pixels of the line that tells what is not as one might expect


class CardThumb(QWidget):
    """The card's picture, 68 px."""

    def __init__(self) -> None:
        super().__init__()
        self.image = QImage()
        self.setFixedSize(68, 68)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if not self.image.isNull():
            painter.drawImage(QRectF(self.rect()), self.image)


class MixBar(QWidget):
    """Amount or weights, choices, keep and put back. Changing anything moves the figure at once."""

    store_asked = Signal()
    told = Signal(str)

    def __init__(
        self, theme: Theme, workspace: Posing, stage: Stage, pictures: Pictures, post: Post
    ) -> None:
        super().__init__(stage)
        self._theme, self._workspace, self._stage = theme, workspace, stage
        self._pictures, self._post = pictures, post
        self._mix: Mix | None = None
        self._pictured: object = None
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._build()
        self.hide()
        workspace.mix_changed.connect(self._on_mix)

    def _build(self) -> None:
        self.thumb = CardThumb()
        self._name = Words("")
        self._name.setProperty("role", "title")
        self._where = Words("")
        self._where.setProperty("quiet", True)
        self.ruler = AmountRuler(self._theme, (LOWEST, HIGHEST), STOPS, pictures=True)
        self.ruler.pulled.connect(self._pull)
        self.weights = MixWeights(self._theme)
        self.said = Words("")
        self.said.setFixedHeight(SAID)
        self.said.setContentsMargins(12, 0, 12, 0)
        self.said.setProperty("tone", "warning")
        self.choices = MixChoices(self._theme, self._workspace)
        self.part, self.fit = self.choices.part, self.choices.fit
        single = QWidget()
        line = QHBoxLayout(single)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(12)
        line.addWidget(self.thumb, 0, Qt.AlignmentFlag.AlignTop)
        line.addWidget(self._words_and_number())
        line.addWidget(self.ruler, 1)
        self.pages = QStackedWidget()
        self.pages.addWidget(single)
        self.pages.addWidget(self.weights)
        upper = QHBoxLayout()
        upper.setContentsMargins(12, 10, 12, 2)
        upper.setSpacing(12)
        upper.addWidget(self.pages, 1)
        upper.addLayout(self._buttons())
        self.link = LinkRow(self._theme, self._workspace.linking, self._workspace.cast.timing)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.link)
        column.addLayout(upper, 1)
        column.addWidget(self.said)
        column.addWidget(self.choices)

    def _buttons(self) -> QVBoxLayout:
        theme = self._theme
        self.keep_button = Button(theme, tr("Keep"), kind=Kind.MAIN, key="Enter", height=24)
        self.keep_button.clicked.connect(self._workspace.keep_mix)
        self.back_button = Button(theme, tr("Put back"), key="Esc", height=24)
        self.back_button.clicked.connect(self._workspace.put_back)
        self.store_button = Button(
            theme, tr("Store as card"), tip=tr("Capture exactly what is put on"), height=24
        )
        self.store_button.clicked.connect(self.store_asked.emit)
        buttons = (self.keep_button, self.back_button, self.store_button)
        width = max(button.sizeHint().width() for button in buttons)
        column = QVBoxLayout()
        column.setSpacing(4)
        for button in buttons:
            button.setFixedWidth(width)
            column.addWidget(button)
        column.addStretch(1)
        return column

    def _words_and_number(self) -> QWidget:
        theme = self._theme
        self.amount = QLineEdit()
        self.amount.setFixedSize(58, 30)
        self.amount.setFont(theme.font(24, 600))
        self.amount.setAccessibleName(tr("Amount in percent"))
        self.amount.setToolTip(tr("Type an amount from -50 to 150"))
        self.amount.setProperty("role", "amount")
        self.amount.editingFinished.connect(self._typed)
        percent = Words("%")
        percent.setProperty("tone", "accent")
        number = QHBoxLayout()
        number.setSpacing(2)
        number.addWidget(self.amount)
        number.addWidget(percent)
        number.addStretch(1)
        side = QWidget()
        side.setFixedWidth(112)
        words = QVBoxLayout(side)
        words.setContentsMargins(0, 0, 0, 0)
        words.setSpacing(0)
        words.addWidget(self._name)
        words.addWidget(self._where)
        words.addLayout(number)
        words.addStretch(1)
        return side

    # -- following ------------------------------------------------------------------------

    def _on_mix(self) -> None:
        self._mix = mix = self._workspace.mix
        if mix is None and self.isAncestorOf(self.window().focusWidget()):
            self._stage.setFocus(Qt.FocusReason.OtherFocusReason)
        self.setVisible(mix is not None)
        self._pictures.forget("mix:")
        if mix is None:
            self._stage.bottom_reserved = 0
            self._pictured = None  # it holds the mix, and with it the figure
            self.weights.end()
            return
        mix.changed.connect(self._show)
        mix.reshaped.connect(self._reshape)
        self.raise_()
        self._reshape()

    def _reshape(self) -> None:
        """Other cards are in the mix."""
        mix = self._mix
        if mix is None or mix is not self._workspace.mix:
            return
        several = len(mix.cards) > 1
        self.pages.setCurrentIndex(int(several))
        metrics = self._name.fontMetrics()
        self._name.setText(metrics.elidedText(mix.card.name, Qt.TextElideMode.ElideRight, 110))
        sheet = mix.entry.sheet.rsplit("/", 1)[-1]
        made_for = (mix.cards[-1].original or mix.card).character or "any"
        where = (
            tr("{sheet}, for {made_for}", sheet=sheet, made_for=made_for)
            if sheet
            else tr("For {made_for}", made_for=made_for)
        )  # a loose card
        self._where.setText(
            self._where.fontMetrics().elidedText(where, Qt.TextElideMode.ElideRight, 110)
        )
        self._where.setToolTip(plain_tip(where))
        self.ruler.clear_images()
        self.thumb.image = QImage()
        self._pictured = None
        if several:
            self.weights.begin(mix)
        chosen = self.weights.pad if several else self.ruler
        chosen.setFocus(Qt.FocusReason.OtherFocusReason)
        self._show()
        self.place()

    def _show(self) -> None:
        mix = self._mix
        if mix is None or mix is not self._workspace.mix:
            return
        if len(mix.cards) == 1:
            self.amount.setText(f"{mix.amount * 100:.0f}")
            metrics = QFontMetrics(self._theme.font(24, 600))
            self.amount.setFixedWidth(metrics.horizontalAdvance(self.amount.text()) + 8)
            self.ruler.show_amount(mix.amount)
        else:
            self.weights.show_mix()
        self.choices.show_mix(mix)
        self.link.refresh()
        self._say(mix)
        self._ask_pictures()

    def _say(self, mix: Mix) -> None:
        """What is not as one might expect: what jumps, what is stopped, what finds no place."""
        said = []
        count = len(mix.rows)
        if not count:
            said.append(tr("Nothing of it is touched: choose another part."))
        jumps, stopped, missing = mix.jumps(), mix.stopped(), mix.fit.missing
        self.ruler.show_step(bool(jumps))
        if jumps:
            said.append(tr("Changes at 50 %: {names}.", names=some_of(jumps)))
        if stopped:
            said.append(tr("Stopped at a limit or lock: {names}.", names=some_of(stopped)))
        if missing:
            said.append(
                tr("Not on {name}: {names}.", name=mix.actor.rig.name, names=some_of(missing))
            )
        text = "  ".join(said)
        short = self.said.fontMetrics().elidedText(
            text, Qt.TextElideMode.ElideRight, max(self.width() - 24, 60)
        )
        self.said.setText(short)
        self.said.setToolTip(plain_tip(text))
        if self.said.isVisibleTo(self) is not bool(text):
            self.said.setVisible(bool(text))
            self.place()

    # -- pictures -------------------------------------------------------------------------

    def _ask_pictures(self) -> None:
        """Small pictures: when the cards or what goes on changes, never in a drag."""
        mix = self._mix
        assert mix is not None
        key = (mix, mix.how, mix.clear, len(mix.cards), frozenset(mix.rows))
        if key == self._pictured:
            return
        self._pictured = key
        # several poses take their time: the window has to answer first
        QTimer.singleShot(LATER, partial(self._draw_pictures, mix, key))

    def _draw_pictures(self, mix: Mix, key: object) -> None:
        if mix is not self._workspace.mix or key != self._pictured:
            return
        rig, alone = mix.actor.rig, len(mix.cards) == 1
        states = {s: mix.at(s) for s in STOPS} if alone else dict(enumerate(mix.each()))
        stands = {stop: Standing(rig, rig.evaluate(state)) for stop, state in states.items()}
        shown = (0.0, 1.0) if alone else tuple(stands)
        places = [rig.handle_places(stands[s].at.nodes) for s in shown]
        camera = self._stage.camera.framing(_around(rig, mix.rows, places), 1.0, 1.12)
        order = (1.0, 0.0, 0.5, -0.5, 1.5) if alone else tuple(stands)
        for stop in order:
            size = 2 * (STAMP if not alone else 68 if stop == 1.0 else SMALL)
            view = View((stands[stop],), camera, size, size, Quality.CARD)
            self._pictures.submit(f"mix:{stop}", view, partial(self._came, mix, key, stop))

    def _came(self, mix: Mix, key: object, stop: float, result: Picture | Exception) -> None:
        """On another thread: hand over to the window's."""
        self._post(lambda: self._picture(mix, key, stop, result))

    def _picture(self, mix: Mix, key: object, stop: float, result: Picture | Exception) -> None:
        if mix is not self._workspace.mix or key != self._pictured or isinstance(result, Exception):
            return
        height, width = result.pixels.shape[:2]
        image = QImage(
            result.pixels.data, width, height, width * 4, QImage.Format.Format_RGBA8888
        ).copy()
        if len(mix.cards) > 1:
            self.weights.pad.images[int(stop)] = image
            self.weights.pad.update()
            return
        self.ruler.show_image(stop, image)
        if stop == 1.0:
            self.thumb.image = image
            self.thumb.update()

    # -- doing ----------------------------------------------------------------------------

    def _pull(self, amount: float) -> None:
        if self._mix is not None:
            self._mix.set_amount(amount)

    def _typed(self) -> None:
        if self._mix is None:
            return
        mix = self._mix
        wanted = typed_number(self.amount.text(), "%")
        if wanted is None:
            self._show()
            return
        mix.set_amount(wanted / 100)
        low, high = mix.span
        words = bent(tr("The amount"), wanted, low * 100, high * 100, " %")
        if words:
            self.told.emit(words)
        self._show()

    def place(self) -> None:
        """12 px from the stage's edges; on a wide stage in its middle."""
        stage, mix = self._stage, self._mix
        several = mix is not None and len(mix.cards) > 1
        width = min(max(stage.width() - 24, 320), WIDEST)
        told = SAID if self.said.isVisibleTo(self) else 0
        linked = self.link.needed
        self.link.setVisible(linked)
        self.link.set_width(width)
        told += LINKED if linked else 0
        self.setFixedSize(width, (TALL if several else HEIGHT) + told)
        self.choices.set_width(width)
        self.thumb.setVisible(width >= NARROW)
        self.weights.set_width(width)
        self.move((stage.width() - self.width()) // 2, stage.height() - self.height() - 12)
        stage.bottom_reserved = self.height() + 12 if mix is not None else 0


def _around(rig: Rig, touched: set[int], places: list[Array]) -> Array:
    """Points around what moves. Joints lie inside the flesh, so there is room around them."""
    on_body = (ControlKind.JOINT, ControlKind.HOLDER)
    everything = sorted(touched) or list(range(len(rig.controls)))
    rows = [r for r in everything if rig.controls[r].kind in on_body] or everything
    points = np.concatenate([at[rows] for at in places])
    room = 0.03 * rig.height
    return np.concatenate([points + room, points - room])
