"""The cast in the header: a tab for every character, the acting one raised."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtCore import QEvent, QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QEnterEvent,
    QFontMetrics,
    QImage,
    QKeyEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QSizePolicy, QSpacerItem, QWidget

from fox_hand.base.language import tr
from fox_hand.core.model.controls import FACE_REGIONS, ControlKind
from fox_hand.core.view.render_request import Picture, Quality, View
from fox_hand.core.view.usual_views import seen_from
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.cast import Absent, Member
from fox_hand.session.figures.figure import Figure
from fox_hand.session.link.host_link import LinkState
from fox_hand.session.runtime.ports import Pictures, Post
from fox_hand.ui.theme.plain_text import menu_word, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.deferred_update import once_after
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.passing_menu import passing_menu

LONGEST_NAME, SPACE = 160, 4
SIGN, FADED = 14, 0.35  # pixels of the sign of a linked figure, and how much of a lost one is left
BETWEEN_FACES = 60  # milliseconds, after a stage that was set, too; for each a figure is posed


class CastTab(QAbstractButton):
    """One character: face and name. Click lets it act."""

    picked = Signal()
    menu_asked = Signal(QPoint)

    def __init__(self, theme: Theme, member: Member) -> None:
        super().__init__()
        self._theme, self.member = theme, member
        self._face = QImage()
        self._acts = self._words = self._lost = False
        self._pointed = False
        self.setFixedHeight(40)
        self.setCheckable(True)
        self.clicked.connect(self.picked)
        self.keys = KeyMap([LocalKey(ENTER, self.click)])
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)
        self.show_state(acts=False, words=True)

    def show_state(self, *, acts: bool, words: bool, lost: bool = False) -> None:
        """Whether it acts, whether there is room for words, and whether its host is gone."""
        self._acts, self._words, self._lost = acts, words, lost
        name = f"{self.member.name} {self._host}".strip()
        absent = isinstance(self.member, Absent)
        said = tr("acting") if acts else (tr("not there") if absent else tr("click to let act"))
        self.setAccessibleName(f"{name}, {said}")
        self.setChecked(acts)
        tip = self.member.why if isinstance(self.member, Absent) else f"{name}: {said}"
        self.setToolTip(plain_tip(tip))
        self.setFixedWidth(self.sizeHint().width())
        self.update()

    @property
    def lost(self) -> bool:
        """Whether its host is gone."""
        return self._lost

    def show_face(self, image: QImage) -> None:
        self._face = image
        self.update()

    @property
    def _host(self) -> str:
        """In which other program it stands, if it does."""
        host = self.member.host if isinstance(self.member, Figure) else ""
        return tr("in {host}", host=host) if host else ""

    def _note(self, *, acts: bool) -> str:
        """What stands behind its name."""
        if isinstance(self.member, Absent):
            return tr("not there")
        return "   ".join(word for word in (self._host, tr("acting") if acts else "") if word)

    def sizeHint(self) -> QSize:
        return QSize(self.room_for(acts=self._acts, words=self._words), 40)

    def room_for(self, *, acts: bool, words: bool) -> int:
        """How wide it is in some state."""
        if not words and not acts:
            return 44
        note = self._note(acts=acts) if words else ""
        extra = QFontMetrics(self._theme.font(12)).horizontalAdvance(note) + 8 if note else 0
        return 42 + self._name_width() + extra + 12

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def _name_width(self) -> int:
        metrics = QFontMetrics(self._theme.font(14, 500))
        return min(metrics.horizontalAdvance(self.member.name) + 2, LONGEST_NAME)

    def nextCheckState(self) -> None:
        """Who acts is shown, whatever is clicked."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu_asked.emit(event.globalPos())

    def enterEvent(self, event: QEnterEvent) -> None:
        self._pointed = True
        self.update()
        super().enterEvent(event)

    def leaveEvent(self, event: QEvent) -> None:
        self._pointed = False
        self.update()
        super().leaveEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setPen(Qt.PenStyle.NoPen)
        if self._acts or self._pointed:
            painter.setBrush(theme.colour("stage_middle" if self._acts else "raised"))
            painter.drawRoundedRect(QRectF(0, 0, self.width(), self.height() + 8), 8, 8)
        if self.hasFocus():
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(2, 2, self.width() - 4, self.height() - 4), 6, 6)
            painter.setPen(Qt.PenStyle.NoPen)
        self._paint_face(painter)
        if not self._words and not self._acts:
            return
        width = self._name_width()
        painter.setFont(theme.font(14, 500))
        absent = isinstance(self.member, Absent)
        token = "ink" if self._acts else ("quiet" if absent else "text")
        painter.setPen(theme.colour(token))
        middle = Qt.AlignmentFlag.AlignVCenter
        metrics = painter.fontMetrics()
        name = metrics.elidedText(self.member.name, Qt.TextElideMode.ElideRight, width)
        painter.drawText(QRectF(42, 0, width, 40), middle, name)
        if self._words:
            painter.setFont(theme.font(12))
            note = self._note(acts=self._acts)
            painter.drawText(QRectF(50 + width, 0, self.width(), 40), middle, note)

    def _paint_face(self, painter: QPainter) -> None:
        circle = QRectF(10, 8, 24, 24)
        path = QPainterPath()
        path.addEllipse(circle)
        painter.setBrush(self._theme.colour("stage_edge"))
        if isinstance(self.member, Absent) or self._lost:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(self._theme.colour("quiet"), 1.25, Qt.PenStyle.DashLine))
        painter.drawPath(path)
        if not self._face.isNull():
            painter.setClipPath(path)
            painter.setOpacity(FADED if self._lost else 1.0)
            painter.drawImage(circle, self._face)
            painter.setOpacity(1.0)
            painter.setClipping(False)
        if self._host:
            self._paint_sign(painter)

    def _paint_sign(self, painter: QPainter) -> None:
        """At the lower right of the face: another program's."""
        theme, ratio = self._theme, self.devicePixelRatioF()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("panel"))
        painter.drawEllipse(QRectF(23, 21, SIGN + 2, SIGN + 2))
        icon = theme.pixmap("unplug" if self._lost else "link", SIGN - 4, "text", ratio)
        painter.drawPixmap(26, 24, icon)


class CastTabs(QWidget):
    """All tabs in a row."""

    menu_asked = Signal(object, QPoint)

    def __init__(self, theme: Theme, workspace: Workspace, pictures: Pictures, post: Post) -> None:
        super().__init__()
        self._theme, self._workspace, self._pictures, self._post = theme, workspace, pictures, post
        self.tabs: list[CastTab] = []
        self._words = True
        self.more = Button(theme, "", kind=Kind.FLAT, tip=tr("Others of the cast"), menu=True)
        self.more.clicked.connect(self._show_others)
        self.more.hide()
        self._soon = once_after(self, 0, self._fit)
        self._faceless: list[CastTab] = []
        self._faces = once_after(self, BETWEEN_FACES, self._ask_next_face)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(SPACE)
        self._row.setSizeConstraint(QHBoxLayout.SizeConstraint.SetNoConstraint)
        self._row.addWidget(self.more)
        self._rest = QSpacerItem(0, 0, QSizePolicy.Policy.Expanding)
        self._row.addItem(self._rest)
        workspace.cast.changed.connect(self._on_cast)
        workspace.actor_changed.connect(self.refresh)
        workspace.linking.changed.connect(self._on_link)

    def _lost(self, tab: CastTab) -> bool:
        link = self._workspace.linking.link
        ours = not isinstance(tab.member, Figure) or not tab.member.host
        return not ours and (link is None or link.state is LinkState.LOST)

    def _on_link(self) -> None:
        """Its host is gone, or there again."""
        for tab in self.tabs:
            if tab.lost is not self._lost(tab):
                self.refresh()
                return

    def tab_of(self, member: Member) -> CastTab:
        """The tab of a member."""
        return next(t for t in self.tabs if t.member is member)

    def set_words(self, words: bool) -> None:
        """Whether tabs that do not act have room for their names."""
        if words != self._words:
            self._words = words
            self.refresh()

    def refresh(self) -> None:
        actor = self._workspace.actor
        for tab in self.tabs:
            tab.show_state(acts=tab.member is actor, words=self._words, lost=self._lost(tab))
        self.updateGeometry()
        self._soon.start()

    def sizeHint(self) -> QSize:
        return QSize(self._room_for(words=self._words), 40)

    def _room_for(self, *, words: bool) -> int:
        """How wide all of them are in some state, whatever they are in now."""
        actor = self._workspace.actor
        rooms = [t.room_for(acts=t.member is actor, words=words) for t in self.tabs]
        return sum(rooms) + SPACE * max(len(rooms) - 1, 0)

    def minimumSizeHint(self) -> QSize:
        return QSize(0, 40)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._soon.start()  # children that come and go within a resize stay half shown

    def _fit(self) -> None:
        """Show as many as have room: with names, as faces, else some with a menu of the others.
        The one that acts is always there."""
        words = self._words and self._room_for(words=True) <= self.width()
        for tab in self.tabs:
            acts = tab.member is self._workspace.actor
            tab.show_state(acts=acts, words=words, lost=self._lost(tab))
        room = self.width() + SPACE
        crowded = self._room_for(words=words) > self.width()
        if crowded:
            self.more.setText(tr("{count} in all", count=len(self.tabs)))
            room -= self.more.sizeHint().width() + SPACE
        acting = [t for t in self.tabs if t.member is self._workspace.actor]
        shown = set()
        for tab in [*acting, *(t for t in self.tabs if t not in acting)]:
            room -= tab.sizeHint().width() + SPACE
            if room >= 0 or tab in acting:
                shown.add(tab)
        for tab in self.tabs:
            tab.setVisible(tab in shown)
        self.more.setVisible(crowded)

    def _show_others(self) -> None:
        menu = passing_menu(self)
        for tab in self.tabs:
            action = menu.addAction(menu_word(tab.member.name), partial(self._pick, tab.member))
            action.setCheckable(True)
            action.setChecked(tab.member is self._workspace.actor)
        menu.popup(self.more.mapToGlobal(self.more.rect().bottomLeft()))

    def _on_cast(self) -> None:
        members = list(self._workspace.cast)
        if [t.member for t in self.tabs] != members:
            known = {id(t.member): t for t in self.tabs}
            for tab in self.tabs:
                self._row.removeWidget(tab)
                if tab.member not in members:
                    tab.blockSignals(True)  # a click may still be on its way to it
                    tab.hide()
                    tab.deleteLater()
            self.tabs = [known.get(id(m)) or self._made(m) for m in members]
            for tab in self.tabs:
                self._row.addWidget(tab)
            self._row.removeWidget(self.more)
            self._row.addWidget(self.more)
            self._row.removeItem(self._rest)
            self._row.addItem(self._rest)
        self.refresh()
        self._faceless = [t for t in self.tabs if isinstance(t.member, Figure)]
        self._faces.start()  # the stage comes first

    def _made(self, member: Member) -> CastTab:
        tab = CastTab(self._theme, member)
        tab.picked.connect(lambda: self._pick(member))
        tab.menu_asked.connect(lambda at: self.menu_asked.emit(member, at))
        return tab

    def _pick(self, member: Member) -> None:
        if isinstance(member, Figure):
            self._workspace.act(member)
        else:
            tab = self.tab_of(member)
            under = tab if tab.isVisible() else self.more
            self.menu_asked.emit(member, self.mapToGlobal(under.geometry().bottomLeft()))

    def _ask_next_face(self) -> None:
        """One at a time: a figure has to be posed for it."""
        if self._faceless:
            tab = self._faceless.pop(0)
            if tab in self.tabs and isinstance(tab.member, Figure):
                self._ask_face(tab, tab.member)
            self._faces.start()

    def _ask_face(self, tab: CastTab, actor: Figure) -> None:
        controls = actor.rig.controls
        on_head = (ControlKind.JOINT, ControlKind.HOLDER)
        rows = [i for i, c in enumerate(controls) if c.region in FACE_REGIONS and c.kind in on_head]
        handles = actor.rig.handle_places(actor.rig.evaluate(actor.rig.rest).nodes)
        places = handles[rows] if rows else handles
        room = 0.07 * actor.rig.height  # handles lie inside the head
        around = np.concatenate([places + room, places - room]) + actor.ground
        camera = seen_from(actor.rig, 0.25, 0.0).framing(around, 1.0, 1.0)
        view = View((actor.standing,), camera, 48, 48, Quality.CARD)

        def ready(result: Picture | Exception) -> None:
            self._post(lambda: self._face(tab, result))

        self._pictures.submit(f"face {actor.prefix}", view, ready)

    def _face(self, tab: CastTab, result: Picture | Exception) -> None:
        if not isinstance(result, Exception) and tab in self.tabs:
            height, width = result.pixels.shape[:2]
            image = QImage(
                result.pixels.data, width, height, width * 4, QImage.Format.Format_RGBA8888
            )
            tab.show_face(image.copy())
