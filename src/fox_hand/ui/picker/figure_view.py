"""The figure: a drawing to select from, which also shows what a card would move."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import (
    QAccessible,
    QContextMenuEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
)
from PySide6.QtWidgets import QWidget

from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.model.controls import Side
from fox_hand.core.rig.rig import Rig
from fox_hand.session.app.needs import Posing
from fox_hand.session.applying.application import Part
from fox_hand.ui.picker.figure_dots import Dot, paint_dot
from fox_hand.ui.picker.figure_drawing import (
    HEIGHT,
    WIDTH,
    ZONES,
    FigureDrawing,
    Zone,
    drawing_from,
    drawing_view,
    zone_rows,
    zone_word,
)
from fox_hand.ui.picker.heard_controls import heard_control
from fox_hand.ui.services.services import Services
from fox_hand.ui.theme.plain_text import plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.accessible_parts import AccessiblePart, PartsOwner, tell_current
from fox_hand.ui.widgets.deferred_update import DeferredUpdate
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey
from fox_hand.ui.widgets.passing_menu import passing_menu

REACH = 6.0
# where the names stand: x, y of a corner, and how the text lies there
NAMES: dict[str, tuple[float, float, Qt.AlignmentFlag]] = {
    "head": (WIDTH, 14, Qt.AlignmentFlag.AlignRight),
    "wings": (0, 14, Qt.AlignmentFlag.AlignLeft),
    "ears": (0, 34, Qt.AlignmentFlag.AlignLeft),
    "tail": (0, HEIGHT - 32, Qt.AlignmentFlag.AlignLeft),
    "limbs": (WIDTH, HEIGHT - 32, Qt.AlignmentFlag.AlignRight),
    "arm_right": (0, 118, Qt.AlignmentFlag.AlignLeft),
    "arm_left": (WIDTH, 118, Qt.AlignmentFlag.AlignRight),
    "hand_right": (0, HEIGHT - 12, Qt.AlignmentFlag.AlignLeft),
    "legs": (WIDTH / 2, HEIGHT - 12, Qt.AlignmentFlag.AlignHCenter),
    "hand_left": (WIDTH, HEIGHT - 12, Qt.AlignmentFlag.AlignRight),
}
MARGIN = 12
WAYS = (
    ("Left", (-1.0, 0.0)),
    ("Right", (1.0, 0.0)),
    ("Up", (0.0, -1.0)),
    ("Down", (0.0, 1.0)),
)
LATER = 120  # milliseconds


class FigureView(QWidget, PartsOwner):
    """Click a dot, a region or a region's name; shift adds; drag for a marquee."""

    def __init__(self, theme: Theme, workspace: Posing, services: Services) -> None:
        super().__init__()
        self._theme, self._workspace, self._services = theme, workspace, services
        self.drawing: FigureDrawing | None = None
        self._problem = ""
        self._view = 0  # of a puppet, the one that is drawn
        self._zones: tuple[object, QPixmap] | None = None
        self._pointed_zone: Zone | None = None
        self._pointed_dot: int | None = None
        self._current: int | None = None  # the dot the keyboard is at
        self._start: QPointF | None = None
        self._marquee: QRectF | None = None
        self.keys = self._key_map()
        self._soon = DeferredUpdate(self)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFixedHeight(HEIGHT + 4)
        self.setAccessibleName(tr("Figure"))
        workspace.actor_changed.connect(self._on_actor)
        workspace.selection.changed.connect(self._repaint)
        workspace.mix_changed.connect(self._on_mix)
        workspace.mix_commands.peeked.connect(self._repaint)

    def sizeHint(self) -> QSize:
        return QSize(WIDTH + 2 * MARGIN, HEIGHT + 4)

    def _repaint(self) -> None:
        self.update()

    def _on_actor(self) -> None:
        self.drawing = None
        actor = self._workspace.actor
        self.update()
        if actor is None:
            return
        actor.posed.connect(self._on_posed, unique=True)
        self._view = actor.view
        # the stage and the window's own painting come first: outlines take some computing
        QTimer.singleShot(LATER, partial(self._trace, actor.rig))

    def _trace(self, rig: Rig) -> None:
        if self._workspace.actor is None or self._workspace.actor.rig is not rig:
            return

        def work(progress: Progress) -> FigureDrawing:
            progress.step(0.0)
            picture = self._services.pictures.picture(drawing_view(rig, view))
            return drawing_from(rig, picture, view)

        self._view = view = self._workspace.actor.view
        self._services.jobs.run(work, lambda drawing: self._drawn(drawing, rig, view), self._failed)

    def _drawn(self, drawing: FigureDrawing, rig: Rig, view: int) -> None:
        actor = self._workspace.actor
        if actor is not None and actor.rig is rig and actor.view == view:
            self.drawing = drawing
            self.update()

    def _on_posed(self) -> None:
        """A puppet in another view is another drawing."""
        actor = self._workspace.actor
        if actor is not None and actor.view != self._view:
            self._trace(actor.rig)
        self._soon.paint()

    def _failed(self, error: Exception) -> None:
        """The stage tells why pictures cannot be drawn; here it is enough to say so."""
        self._problem = str(error)
        self.update()

    def _on_mix(self) -> None:
        if self._workspace.mix is not None:
            self._workspace.mix.changed.connect(self._soon.paint)
        self.update()

    def accessible_parts(self) -> list[AccessiblePart]:
        actor, drawing = self._workspace.actor, self.drawing
        if actor is None or drawing is None:
            return []
        left, selection = QPoint((self.width() - WIDTH) // 2, 0), self._workspace.selection
        found = [
            AccessiblePart(
                ("zone", zone.key),
                zone_word(zone),
                self._name_rect(zone).toRect().translated(left),
                QAccessible.Role.Button,
                selected=self._whole(zone),
                press=partial(selection.set, self._zone_rows(zone)),
            )
            for zone in self._named()
        ]
        for row in sorted(actor.listed):
            at = QPoint(*drawing.dots[row].round().astype(int).tolist()) + left
            current = row == self._current and self.hasFocus()
            found.append(heard_control(actor, selection, row, at, current=current))
        return found

    def _zone_rows(self, zone: Zone) -> list[int]:
        actor = self._workspace.actor
        return [] if actor is None else zone_rows(actor.rig, zone, actor.state)

    # -- pointer --------------------------------------------------------------------------

    def _local(self, at: QPointF) -> QPointF:
        return at - QPointF((self.width() - WIDTH) / 2, 0)

    def dot_at(self, at: QPointF) -> int | None:
        """The control whose dot is under a point of the drawing."""
        if self.drawing is None or self._workspace.actor is None:
            return None
        actor = self._workspace.actor
        shown = np.isin(np.arange(len(actor.rig.controls)), list(actor.listed))
        dots = self.drawing.dots
        far = np.where(shown, np.hypot(dots[:, 0] - at.x(), dots[:, 1] - at.y()), np.inf)
        best = int(np.argmin(far))
        return best if far[best] <= REACH else None

    def _named(self) -> list[Zone]:
        """Zones whose names stand beside the drawing: those the rig has."""
        actor = self._workspace.actor
        if actor is None:
            return []
        return [z for z in ZONES if z.key in NAMES and self._zone_rows(z)]

    def _name_at(self, at: QPointF) -> Zone | None:
        return next((z for z in self._named() if self._name_rect(z).contains(at)), None)

    def _name_rect(self, zone: Zone) -> QRectF:
        x, y, align = NAMES[zone.key]
        if self.drawing is not None and self.drawing.aside and zone.key.startswith("arm"):
            y = HEIGHT - 52  # a long body takes the whole width at its height
        left = {
            Qt.AlignmentFlag.AlignLeft: x - 2,
            Qt.AlignmentFlag.AlignRight: x - 50,
            Qt.AlignmentFlag.AlignHCenter: x - 26,
        }[align]
        return QRectF(left, y - 9, 52, 18)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton:
            self._start = self._local(event.position())
            self._current = self.dot_at(self._start)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = self._local(event.position())
        if self._start is not None:
            d = at - self._start
            if max(abs(d.x()), abs(d.y())) > 4 or self._marquee is not None:
                self._marquee = QRectF(self._start, at).normalized()
                self.update()
            return
        dot = self.dot_at(at)
        zone = self._name_at(at)
        if zone is None and dot is None and self.drawing is not None:
            zone = self.drawing.zone_at(at)
        if (zone, dot) != (self._pointed_zone, self._pointed_dot):
            self._pointed_zone, self._pointed_dot = zone, dot
            actor = self._workspace.actor
            label = actor.rig.word(dot) if actor is not None and dot is not None else ""
            self.setToolTip(plain_tip(label or (zone.label if zone is not None else "")))
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._start is None:
            return
        start, marquee = self._start, self._marquee
        self._start = self._marquee = None
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        actor, selection = self._workspace.actor, self._workspace.selection
        self.update()
        if actor is None or self.drawing is None:
            return
        if marquee is not None:
            dots = self.drawing.dots
            rows = [
                r for r in sorted(actor.listed) if marquee.contains(QPointF(dots[r, 0], dots[r, 1]))
            ]
        else:
            dot = self.dot_at(start)
            zone = self._name_at(start) or (self.drawing.zone_at(start) if dot is None else None)
            rows = [dot] if dot is not None else []
            if zone is not None:
                rows = self._zone_rows(zone)
                mix = self._workspace.mix
                if mix is not None and mix.part is Part.REGIONS:
                    # what goes on is chosen by regions, and these are them
                    mix.toggle_regions({actor.rig.controls[r].region for r in rows})
                    return
        if shift:
            selection.toggle(rows) if rows else None
        else:
            selection.set(rows)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """A control and everything below it."""
        actor, dot = self._workspace.actor, self.dot_at(self._local(event.position()))
        if actor is not None and dot is not None:
            self._workspace.selection.set([*actor.rig.below(dot)[1:], dot])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows go from dot to dot, Space selects (Shift adds), Ctrl+Space takes all below."""
        if self._workspace.actor is None or self.drawing is None or not self.keys.do(event):
            super().keyPressEvent(event)

    def _key_map(self) -> KeyMap:
        keys = [LocalKey((name,), partial(self._walk, way), loose=True) for name, way in WAYS]
        for name, below, add in (
            ("Space", False, False),
            ("Shift+Space", False, True),
            ("Ctrl+Space", True, False),
            ("Ctrl+Shift+Space", True, True),
        ):
            keys.append(LocalKey((name,), partial(self._select_current, below, add)))
        return KeyMap(keys)

    def _walk(self, way: tuple[float, float]) -> None:
        actor, drawing = self._workspace.actor, self.drawing
        if actor is not None and drawing is not None:
            self._current = self._next(sorted(actor.listed), drawing, way)
            self._say_current()

    def _select_current(self, below: bool, add: bool) -> None:
        actor = self._workspace.actor
        if actor is not None and self._current is not None:
            rows = [self._current]
            if below:
                rows = [*actor.rig.below(self._current)[1:], self._current]
            selection = self._workspace.selection
            (selection.toggle if add else selection.set)(rows)
            self._say_current()

    def _say_current(self) -> None:
        actor = self._workspace.actor
        if actor is not None and self._current is not None:
            self.setAccessibleDescription(actor.rig.word(self._current))
            tell_current(self, ("control", self._current))
        self.update()

    def _next(self, rows: list[int], drawing: FigureDrawing, way: tuple[float, float]) -> int:
        """The nearest dot in a direction, seen from the current one."""
        if self._current not in rows:
            selected = self._workspace.selection.rows
            return selected[-1] if selected else rows[0]
        gap = drawing.dots[rows] - drawing.dots[self._current]
        along = gap @ np.array(way)
        aside = np.abs(gap @ np.array([-way[1], way[0]]))
        cost = np.where(along > 0.5, along + 2.0 * aside, np.inf)
        best = int(np.argmin(cost))
        return rows[best] if np.isfinite(cost[best]) else self._current

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """What can be done with the region under the pointer."""
        actor = self._workspace.actor
        if actor is None or self.drawing is None:
            return
        at = self._local(QPointF(event.pos()))
        zone = self._name_at(at) or self.drawing.zone_at(at)
        if zone is None:
            return
        rows, word = self._zone_rows(zone), zone_word(zone)
        menu = passing_menu(self)
        menu.addAction(tr("Select {word}", word=word), lambda: self._workspace.selection.set(rows))
        menu.addAction(tr("Add {word}", word=word), lambda: self._workspace.selection.add(rows))
        words = {Side.LEFT: tr("own left"), Side.RIGHT: tr("own right")}
        for side, text in words.items():
            part = [r for r in rows if actor.rig.controls[r].side is side]
            if part and len(part) < len(rows):
                menu.addAction(
                    tr("Only the {text}", text=text), partial(self._workspace.selection.set, part)
                )
        menu.addAction(
            tr("Put {word} back to rest", word=word),
            lambda: self._workspace.reset(rows, tr("Reset {word}", word=word)),
        )
        menu.popup(event.globalPos())

    def leaveEvent(self, event: QEvent) -> None:
        self._pointed_zone = self._pointed_dot = None
        self.update()
        super().leaveEvent(event)

    # -- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.translate((self.width() - WIDTH) / 2, 0)
        if self._workspace.actor is None:
            return
        if self.drawing is None:
            painter.setFont(self._theme.font(11))
            painter.setPen(self._theme.colour("quiet"))
            rect = QRectF(0, 0, WIDTH, HEIGHT)
            painter.drawText(
                rect, Qt.AlignmentFlag.AlignCenter, self._problem or tr("Drawing the figure …")
            )
            return
        painter.drawPixmap(0, 0, self._zones_picture(self.drawing))
        self._paint_dots(painter, self.drawing)
        self._paint_names(painter)
        if self._marquee is not None:
            painter.setBrush(self._theme.colour("text", 0.08))
            painter.setPen(QPen(self._theme.colour("text"), 1, Qt.PenStyle.DashLine))
            painter.drawRect(self._marquee)

    def _whole(self, zone: Zone) -> bool:
        """Whether everything in a zone is selected."""
        assert self._workspace.actor is not None
        rows = self._zone_rows(zone)
        return bool(rows) and all(r in self._workspace.selection for r in rows)

    def _zones_picture(self, drawing: FigureDrawing) -> QPixmap:
        """The outlines, drawn anew only when one of them looks different."""
        touched = frozenset(self._touched_zones())
        whole = frozenset(z.key for z in ZONES if self._whole(z))
        pointed = self._pointed_zone.key if self._pointed_zone is not None else ""
        ratio = self.devicePixelRatioF()
        key = (drawing, touched, whole, pointed, ratio, self._theme.age)
        if self._zones is None or self._zones[0] != key:
            pixmap = QPixmap(round(WIDTH * ratio), round(HEIGHT * ratio))
            pixmap.setDevicePixelRatio(ratio)
            pixmap.fill(Qt.GlobalColor.transparent)
            painter = QPainter(pixmap)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_zones(painter, drawing, touched)
            painter.end()
            self._zones = key, pixmap
        return self._zones[1]

    def _paint_zones(
        self, painter: QPainter, drawing: FigureDrawing, touched: frozenset[str]
    ) -> None:
        theme = self._theme
        for zone in ZONES:
            path = drawing.paths.get(zone.key)
            if path is None:
                continue
            pointed, chosen = zone is self._pointed_zone, self._whole(zone)
            raised = zone.key in ("head", "hand_left", "hand_right") or pointed
            painter.setBrush(theme.colour("figure_raised" if raised else "figure_fill"))
            line = theme.colour("text") if chosen else theme.colour("figure_line")
            painter.setPen(QPen(line, 1.75 if chosen else 1.0))
            painter.drawPath(path)
            if zone.key in touched:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.colour("accent", 0.16))
                painter.drawPath(path)

    def _touched_zones(self) -> set[str]:
        mix, actor = self._workspace.mix_commands.touching, self._workspace.actor
        if mix is None or actor is None:
            return set()
        rows = mix.rows
        return {z.key for z in ZONES if rows & set(self._zone_rows(z))}

    def _paint_dots(self, painter: QPainter, drawing: FigureDrawing) -> None:
        actor = self._workspace.actor
        assert actor is not None
        differs, mix = actor.differs(), self._workspace.mix_commands.touching
        reach = mix.reach() if mix is not None else np.zeros(len(differs))
        idle, locked = actor.rig.idle(actor.state), actor.locked_rows()
        for row in sorted(actor.listed):
            control = actor.rig.controls[row]
            at = QPointF(float(drawing.dots[row, 0]), float(drawing.dots[row, 1]))
            dot = Dot(
                control.kind,
                selected=row in self._workspace.selection,
                differs=bool(differs[row]),
                reach=float(reach[row]),
                pointed=row == self._pointed_dot,
                current=row == self._current and self.hasFocus(),
                idle=row in idle,
                locked=row in locked,
            )
            paint_dot(painter, self._theme, at, dot)

    def _paint_names(self, painter: QPainter) -> None:
        theme = self._theme
        for zone in self._named():
            on = zone is self._pointed_zone or self._whole(zone)
            align = NAMES[zone.key][2] | Qt.AlignmentFlag.AlignVCenter
            rect = self._name_rect(zone).adjusted(2, 0, -2, 0)
            painter.setFont(theme.font(11, 600 if on else 400))
            painter.setPen(theme.colour("text" if on else "quiet"))
            painter.drawText(rect, align, zone.label)
            if zone.key in ("arm_left", "arm_right"):  # in every language: both are named alike
                width = painter.fontMetrics().horizontalAdvance(zone.label)
                right = zone.key == "arm_right"
                painter.setFont(theme.font(11, 600))
                painter.setPen(theme.colour("right" if right else "left"))
                shift = width + 5
                moved = (
                    rect.adjusted(shift, 0, shift, 0) if right else rect.adjusted(0, 0, -shift, 0)
                )
                painter.drawText(moved, align, "R" if right else "L")
