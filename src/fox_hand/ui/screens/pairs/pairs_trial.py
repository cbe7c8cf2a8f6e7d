"""Trying out the pairs: the pose, its mirror image, and what happens to the settings."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QFontMetrics,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
)
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from fox_hand.base.language import number_text, tr
from fox_hand.core.model.controls import MirrorRule, SettingKind
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Picture, Quality, Standing, View
from fox_hand.session.app.rig_corrections import PairsDraft, Trial
from fox_hand.session.runtime.ports import Pictures, Post
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.accessible_parts import AccessiblePart, PartsOwner, tell_current
from fox_hand.ui.widgets.buttons import Button, Kind, draw_focus
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey
from fox_hand.ui.widgets.screen_pixels import follow_screen, in_pixels

ROW = 28
RULES: tuple[tuple[MirrorRule, str], ...] = (
    (MirrorRule.SWAP, tr("swaps")),
    (MirrorRule.KEEP, tr("stays")),
    (MirrorRule.SIGN, tr("sign")),
    (MirrorRule.SWAP_SIGN, tr("both")),
)
SEGMENT, AROUND = 40, 12  # pixels: the least, and round a longer word
EXACT_MM = 1.0


class TwoPictures(QWidget):
    """The figure posed, and mirrored, beside each other."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._images: list[QImage | None] = [None, None]
        self.setMinimumHeight(180)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(tr("The figure posed, and mirrored"))

    def room(self) -> tuple[int, int]:
        """Width and height of one picture."""
        return max((self.width() - 4) // 2, 32), max(self.height() - 28, 32)

    def show_image(self, which: int, image: QImage | None) -> None:
        self._images[which] = image
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        width, height = self.room()
        for which, (image, word) in enumerate(
            zip(self._images, (tr("Posed"), tr("Mirrored")), strict=True)
        ):
            box = QRectF(which * (width + 4), 0, width, height)
            painter.fillRect(box, self._theme.colour("stage_middle"))
            if image is not None:
                painter.drawImage(box, image)
            painter.setFont(self._theme.font(12, 600))
            painter.setPen(self._theme.colour("text"))
            under = QRectF(box.left() + 8, height, width - 8, 28)
            painter.drawText(under, Qt.AlignmentFlag.AlignVCenter, word)


class SettingRuleRows(QWidget, PartsOwner):
    """Rows: the setting, its value before and after mirroring, and its rule. Up and Down go from
    row to row, Left and Right choose."""

    rule_chosen = Signal(str, object)
    walked = Signal(int, int)  # top and height of the row with the keyboard

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._rig: Rig | None = None
        self._trial: Trial | None = None
        self.rows: list[int] = []
        self._current = 0
        metrics = QFontMetrics(theme.font(11, 600))
        words = max(metrics.horizontalAdvance(word) for _, word in RULES)
        self._segment = max(SEGMENT, words + AROUND)
        ways = {"Up": (-1, 0), "Down": (1, 0), "Left": (0, -1), "Right": (0, 1)}
        self.keys = KeyMap(
            [LocalKey((k,), partial(self._go, *way), loose=True) for k, way in ways.items()]
        )
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("How settings mirror"))

    def show_trial(self, rig: Rig, trial: Trial) -> None:
        """What is shown now."""
        self._rig, self._trial = rig, trial
        self.rows = [r for r, s in enumerate(rig.settings) if not s.helper]
        self._current = min(self._current, max(len(self.rows) - 1, 0))
        self.setFixedHeight(max(len(self.rows) * ROW, 1))
        self.update()

    def forget(self) -> None:
        """Nothing is shown any more."""
        self._rig, self._trial, self.rows = None, None, []
        self.update()

    def rule_rect(self, index: int, rule: int) -> QRectF:
        """One of the choices of a row."""
        left = self.width() - 8 - self._segment * len(RULES)
        return QRectF(left + rule * self._segment, index * ROW + 3, self._segment, ROW - 6)

    def accessible_parts(self) -> list[AccessiblePart]:
        if self._rig is None:
            return []
        return [
            AccessiblePart(
                (row, rule),
                f"{self._name(self._rig, row)}: {word}",
                self.rule_rect(index, i).toRect(),
                QAccessible.Role.RadioButton,
                checked=self._rig.settings[row].mirror is rule,
                current=index == self._current and self.hasFocus(),
                press=partial(self.rule_chosen.emit, self._rig.settings[row].name, rule),
            )
            for index, row in enumerate(self.rows)
            for i, (rule, word) in enumerate(RULES)
        ]

    @staticmethod
    def _name(rig: Rig, row: int) -> str:
        setting = rig.settings[row]
        holder = rig.controls[setting.control]
        letter = {"left": " L", "right": " R"}.get(holder.side.value, "")
        return f"{holder.label}{letter}: {setting.label}"

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def _go(self, by: int, way: int) -> bool:
        """Rows down, and rules on."""
        rig = self._rig
        if rig is None or not self.rows:
            return False
        self._current = min(max(self._current + by, 0), len(self.rows) - 1)
        setting = rig.settings[self.rows[self._current]]
        rules = [rule for rule, _ in RULES]
        at = rules.index(setting.mirror) if setting.mirror in rules else 0
        if way and 0 <= at + way < len(rules):
            self.rule_chosen.emit(setting.name, rules[at + way])
        self.walked.emit(self._current * ROW, ROW)
        tell_current(self, (self.rows[self._current], setting.mirror))
        self.update()
        return True

    def mousePressEvent(self, event: QMouseEvent) -> None:
        index, left = int(event.position().y() // ROW), event.button() is Qt.MouseButton.LeftButton
        if self._rig is None or not left or not 0 <= index < len(self.rows):
            return
        for i, (rule, _) in enumerate(RULES):
            if self.rule_rect(index, i).contains(event.position()):
                self.rule_chosen.emit(self._rig.settings[self.rows[index]].name, rule)

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._rig is None or self._trial is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        first, last = event.rect().top() // ROW, event.rect().bottom() // ROW
        for index in range(max(first, 0), min(last + 1, len(self.rows))):
            self._paint_row(painter, index, self._rig, self._trial)

    def _paint_row(self, painter: QPainter, index: int, rig: Rig, trial: Trial) -> None:
        theme, row = self._theme, self.rows[index]
        setting, middle = rig.settings[row], Qt.AlignmentFlag.AlignVCenter
        top, right = index * ROW, self.rule_rect(index, 0).left()
        painter.setFont(theme.font(12, 500))
        painter.setPen(theme.colour("text"))
        name = self._name(rig, row)
        room = right - 24 - 92
        shown = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, round(room))
        painter.drawText(QRectF(12, top, room, ROW), middle, shown)
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("quiet"))
        digits = 2 if setting.kind is SettingKind.FLOAT else 0
        values = (trial.posed.settings[row], trial.mirrored.settings[row])
        text = tr(" to ").join(number_text(float(v) + 0.0, f".{digits}f") for v in values)
        painter.drawText(QRectF(right - 96, top, 88, ROW), middle, text)
        if index == self._current and self.hasFocus():
            around = QRectF(2, top + 1, self.width() - 4, ROW - 2)
            draw_focus(painter, theme, around, 4)
        for i, (rule, word) in enumerate(RULES):
            box, on = self.rule_rect(index, i), setting.mirror is rule
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("high" if on else "field"))
            painter.drawRoundedRect(box.adjusted(1, 0, -1, 0), 4, 4)
            painter.setFont(theme.font(11, 600 if on else 400))
            painter.setPen(theme.colour("text" if on else "quiet"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, word)


class TrialPanel(QWidget):
    """Pictures, how well they agree, and the settings' rules."""

    def __init__(self, theme: Theme, pictures: Pictures, post: Post) -> None:
        super().__init__()
        self._theme, self._pictures, self._post = theme, pictures, post
        self._draft: PairsDraft | None = None
        self._state: State | None = None
        self.setProperty("panel", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.mirror_button = Button(
            theme,
            tr("Mirror"),
            kind=Kind.MAIN,
            key="Space",
            tip=tr("Mirror the figure and show both"),
        )
        self.mirror_button.clicked.connect(self.try_out)
        self.two = TwoPictures(theme)
        follow_screen(self.two, self.try_out)
        self.verdict = Words("")
        self.verdict.setWordWrap(True)
        self.rules = SettingRuleRows(theme)
        title = Words(tr("Try it"))
        title.setProperty("role", "title")
        head = QHBoxLayout()
        head.addWidget(title, 1)
        head.addWidget(self.mirror_button)
        scroll = QScrollArea()
        self.rules.walked.connect(lambda y, high: scroll.ensureVisible(0, y + high, 0, ROW))
        scroll.setWidgetResizable(True)
        scroll.setWidget(self.rules)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        heading = Words(tr("Settings: swaps with the other side, stays, changes sign, or both"))
        heading.setProperty("quiet", True)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 8)
        column.setSpacing(8)
        column.addLayout(head)
        column.addWidget(self.two, 3)
        column.addWidget(self.verdict)
        column.addWidget(heading)
        column.addWidget(scroll, 2)

    def begin(self, draft: PairsDraft, state: State) -> None:
        """A new draft is tried out."""
        self._draft, self._state = draft, state
        for which in (0, 1):
            self.two.show_image(which, None)
        self.verdict.setText("")
        self.try_out()

    def end(self) -> None:
        """Nothing is tried out any more."""
        self._draft = self._state = None
        self.rules.forget()

    def try_out(self) -> None:
        """Mirror the pose with the pairs as they are and show both."""
        draft, state = self._draft, self._state
        if draft is None or state is None:
            return
        trial = draft.trial(state)
        self.rules.show_trial(draft.rig, trial)
        worst = draft.rig.controls[trial.worst].name
        far = trial.gap * 1000
        agree = (
            tr("Outlines meet") if far < EXACT_MM else tr("Not alike: {worst} is off", worst=worst)
        )
        self.verdict.setText(
            tr(
                "{agree}, {far:.1f} mm at most; mirrored twice it comes back within {back:.3f}°.",
                agree=agree,
                far=far,
                back=trial.back,
            )
        )
        self._draw(draft.rig, (trial.posed, trial.mirrored))

    def _draw(self, rig: Rig, states: tuple[State, State]) -> None:
        width, height = self.two.room()
        evaluated = [rig.evaluate(s) for s in states]
        camera = Camera(yaw=rig.body.heading, pitch=0.04).framing(
            rig.flesh(evaluated[0], None, every=6), width / height, 1.25
        )
        size = in_pixels(self.two, (width, height))
        for which, at in enumerate(evaluated):
            view = View((Standing(rig, at),), camera, *size, Quality.CARD)
            self._ask(which, view)

    def _ask(self, which: int, view: View) -> None:
        def ready(result: Picture | Exception) -> None:
            self._post(lambda: self._arrived(which, result))

        self._pictures.submit(f"pairs {which}", view, ready)

    def _arrived(self, which: int, result: Picture | Exception) -> None:
        if isinstance(result, Exception):
            self.verdict.setText(str(result))
            return
        height, width = result.pixels.shape[:2]
        format_ = QImage.Format.Format_RGBA8888_Premultiplied
        image = QImage(result.pixels.data, width, height, width * 4, format_)
        self.two.show_image(which, image.copy())
