"""Everything that takes a while: a sign in the header while there is something to see, a panel that
lists it, a notice of the desktop when one ends while the window is elsewhere."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QHideEvent, QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.session.runtime.long_work import SHORT, LongJob, LongWork
from fox_hand.ui.main.work.desktop_notice import DesktopNotice
from fox_hand.ui.main.work.job_rows import JobRow, outcome_words
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey

WIDTH, TOP, LEAST = 500, 48, 120  # pixels
NEWS_AFTER = 10.0  # seconds; what took less is no news elsewhere
TICK, TOLD = 1000, 100  # milliseconds
LASTS = round(SHORT * 1000) + 50  # milliseconds, after which reading is listed


class JobsPanel(QWidget):
    """Floats at the upper right; work goes on when it is shut."""

    shut = Signal()

    def __init__(self, theme: Theme, window: QWidget, work: LongWork) -> None:
        super().__init__(window)
        self._theme, self._over, self._work = theme, window, work
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName(tr("Long jobs"))
        self.keys = KeyMap([LocalKey(("Esc",), self.hide)])
        title, hint = (
            Words(tr("Long jobs")),
            Words(tr("they go on while you work, and when this is shut")),
        )
        title.setProperty("role", "title")
        hint.setProperty("quiet", True)
        self.clear = Button(
            theme, tr("Clear"), kind=Kind.FLAT, height=24, tip=tr("Forget what is over")
        )
        self.clear.clicked.connect(work.clear)
        close = Button(theme, icon="x", kind=Kind.FLAT, height=24, icon_size=14, tip=tr("Close"))
        close.clicked.connect(self.hide)
        head = QHBoxLayout()
        head.setContentsMargins(12, 8, 8, 4)
        head.setSpacing(8)
        head.addWidget(title)
        head.addWidget(hint, 1)
        head.addWidget(self.clear)
        head.addWidget(close)
        self._rows = QVBoxLayout()
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(0)
        self._inside = QWidget()
        self._inside.setLayout(self._rows)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setWidget(self._inside)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 8)
        column.setSpacing(0)
        column.addLayout(head)
        column.addWidget(self._scroll)
        self.list: list[tuple[LongJob, bool, JobRow]] = []
        self._tick = QTimer(self)
        self._tick.setInterval(TICK)
        self._tick.timeout.connect(self.refresh)
        self.hide()

    def open(self) -> None:
        """Show it; what is over is seen from now on."""
        self.refresh()
        self.show()
        self.raise_()
        self.setFocus(Qt.FocusReason.OtherFocusReason)
        self._tick.start()
        self._work.look()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def hideEvent(self, event: QHideEvent) -> None:
        self._tick.stop()
        super().hideEvent(event)
        self.shut.emit()

    def refresh(self) -> None:
        """All as it is now; rows stay as long as their job is in the same state."""
        listed = self._work.listed
        now = [(job, job.going) for job in listed]
        # also where nothing was ever built: that nothing goes on is said
        if not self._rows.count() or now != [(job, going) for job, going, _ in self.list]:
            self._build(listed)
        for _, _, row in self.list:
            row.refresh(self._work.clock())
        self.clear.setVisible(any(not job.going for job in listed))
        wanted = self._inside.sizeHint().height() + 56
        self.resize(WIDTH, max(min(wanted, self._over.height() - TOP - 16), LEAST))
        self.move(self._over.width() - WIDTH - 16, TOP)

    def _build(self, listed: Sequence[LongJob]) -> None:
        while (item := self._rows.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.list = []
        for job in sorted(listed, key=lambda one: not one.going):
            row = JobRow(self._theme, job)
            row.again_asked.connect(self._again)
            row.forget_asked.connect(self._work.drop)
            self.list.append((job, job.going, row))
            self._rows.addWidget(row)
        if not self.list:
            nothing = Words(tr("Nothing goes on."))
            nothing.setProperty("quiet", True)
            nothing.setContentsMargins(12, 8, 12, 8)
            self._rows.addWidget(nothing)
        self._rows.addStretch(1)
        self.list.sort(key=lambda one: listed.index(one[0]))

    def _again(self, job: LongJob) -> None:
        again, job.again = job.again, None  # once
        if again is not None:
            self._work.jobs.remove(job)
            again()
            self.refresh()


class JobsSign(QObject):
    """The button in the header, and what comes of jobs while nobody looks.

    Args:
        theme, window: the window's.
        button: shown while there is something to see.
        work: all jobs.
    """

    def __init__(self, theme: Theme, window: QWidget, button: Button, work: LongWork) -> None:
        super().__init__(window)
        self._window, self._button, self._work = window, button, work
        self.panel = JobsPanel(theme, window, work)
        self._notice = DesktopNotice()
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(TOLD)
        self._soon.timeout.connect(self._show)
        button.clicked.connect(self.toggle)
        button.hide()
        self.panel.shut.connect(self._changed)  # nothing may be left to see
        work.changed.connect(self._changed)
        work.ended.connect(self._ended)

    def toggle(self) -> None:
        """Open the panel, or shut it."""
        if self.panel.isVisible():
            self.panel.hide()
        else:
            self.panel.open()

    def _changed(self) -> None:
        if not self._soon.isActive():
            self._soon.start()  # hundreds of items a second are one change

    def _show(self) -> None:
        listed = self._work.listed
        going, unseen = sum(job.going for job in listed), len(self._work.unseen)
        if len(self._work.going) > going:
            QTimer.singleShot(LASTS, self._changed)
        missed = sum(len(job.problems) for job in self._work.unseen)
        text = (
            tr("{going} going on", going=going)
            if going
            else tr("{missed} did not work", missed=missed)
            if missed
            else tr("Done")
            if unseen
            else tr("Long jobs")
        )
        self._button.setText(text)
        self._button.setAccessibleName(tr("Long jobs: {text}", text=text))
        self._button.tint = ("warning", "warning_ground") if missed and not going else None
        self._button.setVisible(bool(going or unseen) or self.panel.isVisible())
        self._button.updateGeometry()
        if self.panel.isVisible():
            self.panel.refresh()
            if unseen:
                self._work.look()

    def _ended(self, job: LongJob) -> None:
        if job.took >= NEWS_AFTER and not self._window.isActiveWindow():
            self._notice.tell(job.label, outcome_words(job))
