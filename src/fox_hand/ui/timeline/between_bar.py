"""The bar over the stage while a pose between two keys is pulled."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr, tr_n
from fox_hand.core.animation.inbetween import HIGHEST, LOWEST
from fox_hand.session.animating.keying import Between
from fox_hand.session.app.needs import PosingInTime
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.amount_ruler import AmountRuler
from fox_hand.ui.widgets.buttons import Button, Kind

HEIGHT = 88
WIDEST = 720


class BetweenBar(QWidget):
    """How far of the way from the key before to the one after; the figure follows."""

    def __init__(self, theme: Theme, workspace: PosingInTime, stage: Stage) -> None:
        super().__init__(stage)
        self._theme, self._workspace, self._stage = theme, workspace, stage
        self.pose: Between | None = None
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._title, self._what = Words(tr("In between")), Words("")
        self._title.setProperty("role", "title")
        self._what.setProperty("quiet", True)
        self._number = Words("50 %")
        self._number.setProperty("role", "amount")
        self.ruler = AmountRuler(theme, (LOWEST, HIGHEST), (-0.25, 0.0, 0.5, 1.0, 1.25), usual=0.5)
        self.ruler.setAccessibleName(tr("Part of the way"))
        self.ruler.pulled.connect(self.pull)
        self.keep_button = Button(theme, tr("Keep"), kind=Kind.MAIN, key="Enter")
        self.keep_button.clicked.connect(self.keep)
        self.back_button = Button(theme, tr("Put back"), key="Esc")
        self.back_button.clicked.connect(self.put_back)
        self._arrange()
        self.hide()
        workspace.timing.moved.connect(self._left)
        workspace.actor_changed.connect(self._left)
        workspace.mix_commands.beginning.connect(self.keep)  # a step of its own

    def _arrange(self) -> None:
        words = QVBoxLayout()
        words.setSpacing(0)
        for label in (self._title, self._what, self._number):
            words.addWidget(label)
        side = QWidget()
        side.setFixedWidth(176)
        side.setLayout(words)
        words.setContentsMargins(0, 0, 0, 0)
        buttons = QVBoxLayout()
        buttons.setSpacing(8)
        width = max(self.keep_button.sizeHint().width(), self.back_button.sizeHint().width())
        for button in (self.keep_button, self.back_button):
            button.setFixedWidth(width)
            buttons.addWidget(button)
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 8, 12, 8)
        line.setSpacing(12)
        line.addWidget(side)
        line.addWidget(self.ruler, 1)
        line.addLayout(buttons)

    def begin(self) -> None:
        """Half way at first."""
        if self.pose is not None:
            return
        self._workspace.keep_mix()
        pose = self._workspace.keying.between()
        if pose is None:
            return
        self.pose = pose
        count = len(pose.channel_ids)
        what = tr("selected") if len(self._workspace.selection) else tr("whole figure")
        self._title.setText(tr("In between, frame {frame:g}", frame=pose.frame))
        self._what.setText(
            ", ".join((what, tr_n("{number:,} channel", "{number:,} channels", count)))
        )
        self.show()
        self.raise_()
        self.place()
        self.ruler.setFocus(Qt.FocusReason.OtherFocusReason)
        self.pull(0.5)

    def pull(self, part: float) -> None:
        if self.pose is not None:
            self.pose.pull(part)
            self.ruler.show_amount(part)
            self._number.setText(f"{part * 100:.0f} %")

    def keep(self) -> None:
        """Set keys, as one step."""
        pose, self.pose = self.pose, None
        if pose is not None:
            pose.keep()
            self._close()

    def put_back(self) -> None:
        pose, self.pose = self.pose, None
        if pose is not None:
            pose.put_back()
            self._close()

    def _left(self) -> None:
        """Somewhere else, or somebody else: nothing was kept."""
        if self.pose is not None:
            self.pose = None
            self._close()

    def _close(self) -> None:
        if self.isAncestorOf(self.window().focusWidget()):
            self._stage.setFocus(Qt.FocusReason.OtherFocusReason)
        self.hide()
        self._stage.bottom_reserved = 0

    def place(self) -> None:
        """12 px from the stage's lower edge."""
        stage = self._stage
        width = min(max(stage.width() - 24, 320), WIDEST)
        self.setFixedSize(width, HEIGHT + 8)
        self.move((stage.width() - width) // 2, stage.height() - self.height() - 12)
        if self.pose is not None:
            stage.bottom_reserved = self.height() + 12
