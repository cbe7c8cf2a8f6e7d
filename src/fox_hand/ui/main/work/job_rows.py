"""One job as it is shown: its bar, how long it takes, what came of each item."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QGuiApplication, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr, tr_n
from fox_hand.session.runtime.long_work import LongJob, WorkState, time_words
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.passing_menu import passing_menu

SHOWN = 8  # items that did not work
BAR = 6  # pixels
WANDERS, PIECE = 7.0, 0.15  # seconds, share of the bar


class JobBar(QWidget):
    """How far it is, or how much of it worked."""

    def __init__(self, theme: Theme, job: LongJob) -> None:
        super().__init__()
        self._theme, self._job = theme, job
        self.now = job.began  # seconds of the same clock
        self.setFixedHeight(BAR)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, job, painter = self._theme, self._job, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        whole = QRectF(self.rect())
        painter.setBrush(theme.colour("trough"))
        painter.drawRoundedRect(whole, BAR / 2, BAR / 2)
        if job.going:
            painter.setBrush(theme.colour("text"))
            done = QRectF(0, 0, whole.width() * job.share, BAR)
            if not job.share:  # nobody knows how far: a piece that wanders
                at = (self.now - job.began) % WANDERS / WANDERS
                done = QRectF(whole.width() * at * (1 - PIECE), 0, whole.width() * PIECE, BAR)
            painter.drawRoundedRect(done, BAR / 2, BAR / 2)
            return
        worked = job.worked / job.total if job.total else float(job.state is WorkState.DONE)
        missed = len(job.problems) / job.total if job.total else float(bool(job.problems))
        painter.setBrush(theme.colour("good"))
        painter.drawRoundedRect(QRectF(0, 0, whole.width() * worked, BAR), BAR / 2, BAR / 2)
        painter.setBrush(theme.colour("warning"))
        left = whole.width() * worked + (2 if worked else 0)
        painter.drawRoundedRect(
            QRectF(left, 0, max(whole.width() * missed - 2, 0), BAR), BAR / 2, BAR / 2
        )


class JobRow(QWidget):
    """All of one job."""

    again_asked = Signal(object)  # LongJob
    forget_asked = Signal(object)  # LongJob

    def __init__(self, theme: Theme, job: LongJob) -> None:
        super().__init__()
        self._job = job
        self._time, self._said = Words(), Words()
        self.stop = Button(
            theme, icon="x", kind=Kind.PLAIN, height=24, tip=tr("Stop: {label}", label=job.label)
        )
        self.stop.clicked.connect(self._stop)
        name = Words(job.label)
        name.setProperty("role", "heading")
        self._said.setProperty("quiet", True)
        self._said.setWordWrap(True)
        top = QHBoxLayout()
        top.setSpacing(8)
        top.addWidget(name, 1)
        top.addWidget(self._time)
        top.addWidget(self.stop)
        self._bar = JobBar(theme, job)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 8)
        column.setSpacing(4)
        column.addLayout(top)
        column.addWidget(self._bar)
        column.addWidget(self._said)
        self.again = Button(theme, tr("Try it again"), icon="refresh-cw", height=24)
        self._add_problems(column)
        self.refresh(job.began)

    def _add_problems(self, column: QVBoxLayout) -> None:
        """Which did not work, and why."""
        job = self._job
        if job.going:
            return
        for name, why in job.problems[:SHOWN]:
            line = Words(f"{name}: {why}" if name not in why else why)
            line.setWordWrap(True)
            line.setProperty("tone", "warning")
            line.setContentsMargins(12, 0, 0, 0)
            column.addWidget(line)
        if len(job.problems) > SHOWN:
            more = Words(tr("and {count} more", count=len(job.problems) - SHOWN))
            more.setProperty("quiet", True)
            more.setContentsMargins(12, 0, 0, 0)
            column.addWidget(more)
        if job.again is None:
            return
        count = len(job.problems) + job.left
        self.again.setText(tr_n("Try it again", "Try those {number} again", count))
        self.again.clicked.connect(lambda: self.again_asked.emit(job))
        foot = QHBoxLayout()
        foot.addWidget(self.again)
        foot.addStretch(1)
        column.addLayout(foot)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """What the buttons do, and what is said as text for whoever helps."""
        job, menu = self._job, passing_menu(self)
        if job.going:
            menu.addAction(self.stop.toolTip(), self._stop).setEnabled(self.stop.isEnabled())
        if job.again is not None:
            menu.addAction(self.again.text(), partial(self.again_asked.emit, job))
        said = [self.accessibleName(), *(f"{name}: {why}" for name, why in job.problems)]
        copied = partial(QGuiApplication.clipboard().setText, "\n".join(said))
        menu.addAction(tr("Copy what it says"), copied)
        if not job.going:
            menu.addAction(tr("Forget this"), partial(self.forget_asked.emit, job))
        menu.popup(event.globalPos())

    def _stop(self) -> None:
        self.stop.setEnabled(False)  # once is enough
        self._job.stop()

    def refresh(self, now: float) -> None:
        """As it is now."""
        job = self._job
        self.stop.setVisible(job.going)
        left = job.seconds_left(now)
        if job.going:
            self._time.setText(
                tr("{time_words} left", time_words=time_words(left)) if left is not None else ""
            )
            self._said.setText(_how_far(job, now))
        else:
            self._time.setText(tr("took {time_words}", time_words=time_words(job.took)))
            self._said.setText(outcome_words(job))
        self.setAccessibleName(f"{job.label}: {self._said.text()}")
        self._bar.now = now
        self._bar.update()


def _how_far(job: LongJob, now: float) -> str:
    if job.share > 0.0:
        said = tr("{share:.0f} %", share=job.share * 100)
        return tr("{said}, now {item}", said=said, item=job.item) if job.item else said
    gone = tr("for {time_words} now", time_words=time_words(now - job.began))
    return f"{job.item}, {gone}" if job.item else gone


def outcome_words(job: LongJob) -> str:
    """What came of it."""
    if job.state is WorkState.STOPPED and job.total <= 1:
        return tr("Stopped.")
    if job.state is WorkState.STOPPED:
        return tr(
            "Stopped after {worked} of {total}; those stay done.",
            worked=job.worked,
            total=job.total,
        )
    if not job.problems:
        return tr_n("Done.", "All {number} of them.", job.total)
    if job.total <= 1:
        return tr("It did not work.")
    return tr(
        "{worked} of {total} are done. {count} did not work:",
        worked=job.worked,
        total=job.total,
        count=len(job.problems),
    )
