"""Which performance goes on whom, and how much of it lands."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import shown_number, tr, tr_n
from fox_hand.core.retarget.retarget import Landing
from fox_hand.session.animating.performance_draft import PerformanceDraft
from fox_hand.ui.screens.fit.fit_bar import FitBar
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind


def rate_words(rate: float) -> str:
    """Frames a second as people say them: 24, 23.98, 59.94."""
    return shown_number(rate, 2)


class PerformanceHead(QWidget):
    """The first panel of the screen."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setProperty("panel", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(56)
        self.name, self.words = Words(""), Words("")
        self.name.setProperty("role", "title")
        self.who = Button(theme, "", kind=Kind.FLAT, height=28, menu=True)
        self.who.setToolTip(tr("Another character of the cast"))
        self.who.setAccessibleName(tr("Character"))
        self.build, self.verdict = Words(""), Words("")
        to = Words(tr("on"))
        for quiet in (self.words, to, self.build):
            quiet.setProperty("quiet", True)
        self.bar = FitBar(theme)
        card, far = QVBoxLayout(), QVBoxLayout()
        for layout, widgets in ((card, (self.name, self.words)), (far, (self.bar, self.verdict))):
            layout.setSpacing(2)
            layout.addStretch(1)
            for widget in widgets:
                layout.addWidget(widget)
            layout.addStretch(1)
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 4, 12, 4)
        line.setSpacing(16)
        line.addLayout(card)
        line.addWidget(to)
        line.addWidget(self.who)
        line.addWidget(self.build)
        line.addStretch(1)
        line.addLayout(far)

    def set_terse(self, terse: bool) -> None:
        """Fewer words in a narrow window."""
        self.build.setVisible(not terse)

    def show_draft(self, draft: PerformanceDraft) -> None:
        """Show how a performance fits a character."""
        performance, counts, made = draft.performance, draft.fit.counts(), draft.fit.made
        seconds = len(draft) / performance.rate
        self.name.setText(draft.name)
        self.words.setText(
            tr(
                "{joints}, {frames}, {seconds:.1f} s",
                joints=tr_n("{number} joint", "{number} joints", len(draft.fit.rows)),
                frames=tr_n("{number} frame", "{number} frames", len(draft)),
                seconds=seconds,
            )
        )
        self.who.setText(draft.actor.name)
        self.who.updateGeometry()
        if made is not None:
            away = max(made.stance.angles.values(), default=0.0)
            self.build.setText(
                tr("legs {legs:.2f} of its own, stance {away:.0f}° off", legs=made.legs, away=away)
            )
        else:
            self.build.setText("")
        self.bar.show_counts(counts)
        ask, out = counts[Landing.ASK], counts[Landing.MISSING]
        said = [
            tr("{lands} land", lands=draft.lands),
            tr("{ask} to answer", ask=ask) if ask else "",
            tr("{out} stay out", out=out),
        ]
        self.verdict.setText(", ".join(part for part in said if part))
