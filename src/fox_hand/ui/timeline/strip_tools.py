"""What stands before the strip's ruler: playing, the frame, keys and how they go on."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from fox_hand.base.language import tr
from fox_hand.core.animation.interpolation import Ease
from fox_hand.session.app.needs import Animating
from fox_hand.session.figures.playhead import LONGEST, RATES
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.timeline.range_popup import RangePopup
from fox_hand.ui.timeline.strip import Strip
from fox_hand.ui.timeline.strip_keys import go_to_key
from fox_hand.ui.timeline.strip_paint import RULER, TOOLS
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.fields.typed_numbers import bent, plain, typed_number
from fox_hand.ui.widgets.passing_menu import passing_menu

EASES = {Ease.SMOOTH: tr("Smooth"), Ease.LINEAR: tr("Straight"), Ease.STEP: tr("Hold")}


class StripTools(QWidget):
    """Two short rows at the left of the strip."""

    between_asked = Signal()
    told = Signal(str)

    def __init__(self, theme: Theme, workspace: Animating, strip: Strip) -> None:
        super().__init__(strip)
        self._theme, self._workspace, self._strip = theme, workspace, strip
        self._build_transport()
        self._build_keys()
        self.setFixedHeight(RULER + TOOLS - 1)
        workspace.timing.moved.connect(self.refresh)
        workspace.timing.changed.connect(self.refresh)
        strip.picked_changed.connect(self.refresh)
        self.refresh()

    def _icon(self, icon: str, tip: str) -> Button:
        return Button(self._theme, icon=icon, kind=Kind.FLAT, tip=tip, height=24, icon_size=14)

    def _build_transport(self) -> None:
        theme = self._theme
        self.before = self._icon("step-back", tr("The key before"))
        self.before.clicked.connect(lambda: go_to_key(self._strip, -1))
        self.play = self._icon("play", tr("Play"))
        self.play.clicked.connect(self._strip.play_asked)
        self.after = self._icon("step-forward", tr("The key after"))
        self.after.clicked.connect(lambda: go_to_key(self._strip, 1))
        self.frame = QLineEdit()
        self.frame.setFixedSize(40, 24)
        self.frame.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.frame.setAccessibleName(tr("Current frame"))
        self.frame.setToolTip(tr("Type a frame; +5 and -5 go on from here"))
        self.frame.editingFinished.connect(self._typed)
        self.range, self.rate = (
            Button(theme, word, kind=Kind.FLAT, height=24, padding=5, tip=tip)
            for word, tip in (
                (tr("of 72"), tr("First and last frame")),
                (tr("24 fps"), tr("Frames a second")),
            )
        )
        self.range.clicked.connect(self._ask_range)
        self.rate.clicked.connect(self._ask_rate)
        self._upper = QWidget(self)
        self._lay(
            self._upper,
            0,
            RULER,
            (self.before, self.play, self.after, self.frame, self.range, self.rate),
        )

    def _build_keys(self) -> None:
        theme = self._theme
        self.key, self.auto, self.between = (
            Button(theme, word, kind=kind, height=20, tip=tip)
            for word, kind, tip in (
                (
                    tr("Key"),
                    Kind.CHIP,
                    tr("Key the selected, else all that is posed (K); everything (Shift+K)"),
                ),
                (
                    tr("Auto"),
                    Kind.SWITCH,
                    tr("What has keys gets one when it is changed at another frame"),
                ),
                (tr("Between"), Kind.CHIP, tr("A pose between the keys before and after")),
            )
        )
        self.key.clicked.connect(self._key)
        self.auto.clicked.connect(self._switched)
        self.ease = Button(
            theme,
            tr("Smooth"),
            kind=Kind.FLAT,
            height=20,
            menu=True,
            padding=4,
            tip=tr("How it goes on from the selected keys, or from those to come"),
        )
        self.ease.clicked.connect(self._ask_ease)
        self.between.clicked.connect(self.between_asked)
        self.host = Words("")
        self.host.setProperty("quiet", True)
        self.host.hide()
        self._lower = QWidget(self)
        parts = (self.key, self.auto, self.ease, self.between, self.host)
        self._lay(self._lower, RULER, TOOLS - 1, parts)
        self._workspace.linking.changed.connect(self._on_link)

    def _on_link(self) -> None:
        """In a host's time line keys are set, and all else is done there."""
        linked = self._workspace.linking.acting
        for part in (self.auto, self.ease, self.between):
            part.setVisible(linked is None)
        self.host.setVisible(linked is not None)
        if linked is not None:
            name = linked.figure.host
            told = bool({"time", "keys"} & linked.link.can)
            self.host.setText(tr("{name}: its frames and keys", name=name) if told else name)

    def _lay(self, panel: QWidget, top: int, height: int, widgets: tuple[QWidget, ...]) -> None:
        line = QHBoxLayout(panel)
        line.setContentsMargins(6, 0, 4, 0)
        line.setSpacing(2)
        for widget in widgets:
            line.addWidget(widget)
        line.addStretch(1)
        panel.setGeometry(0, top, 232, height)

    def set_width(self, width: int) -> None:
        """As wide as the figure column."""
        self.setFixedWidth(width)
        for panel in (self._upper, self._lower):
            panel.setFixedWidth(width)

    def refresh(self) -> None:
        """Say where we are."""
        timing = self._workspace.timing
        if not self.frame.hasFocus():
            text = plain(timing.frame)
            self.frame.setText(text)
            wide = self.frame.fontMetrics().horizontalAdvance(text) + 20
            self.frame.setFixedWidth(min(max(wide, 40), 72))
        first = "" if timing.first == 1 else tr("{first} to ", first=timing.first)
        self.range.setText(
            tr("of {first}{last}", first=first, last=timing.last)
            if not first
            else f"{first}{timing.last}"
        )
        self.auto.setChecked(timing.auto)
        self.ease.setText(EASES[self._ease()])
        if not self.playing:
            self.rate.setText(tr("{rate:g} fps", rate=timing.rate))

    playing = False

    def show_playing(self, on: bool) -> None:
        """Whether it plays."""
        self.playing = on
        self.play.set_icon("pause" if on else "play")
        self.refresh()

    def show_rate(self, shown: float) -> None:
        """How many frames a second are really seen."""
        rate = self._workspace.timing.rate
        slow = shown < rate - 0.75
        self.rate.setText(
            tr("{shown:.0f} of {rate:g}", shown=shown, rate=rate)
            if slow
            else tr("{rate:g} fps", rate=rate)
        )

    def _ease(self) -> Ease:
        """Of the selected keys where they agree, else of those to come."""
        actor, picked = self._workspace.actor, self._strip.picked
        if actor is not None and picked:
            found = {int(e) for line in actor.keys.picked(picked).values() for e in line.eases}
            if len(found) == 1:
                return Ease(found.pop())
        return self._workspace.timing.ease

    # -- doing ----------------------------------------------------------------------------

    def _key(self) -> None:
        self._workspace.keep_mix()
        self._workspace.keying.key()

    def _switched(self) -> None:
        self._workspace.timing.work_with(auto=self.auto.isChecked())
        self._workspace.settings.auto_key = self.auto.isChecked()

    def _typed(self) -> None:
        text, timing = self.frame.text().strip(), self._workspace.timing
        value = typed_number(text)
        self.frame.clearFocus()
        if value is None:
            self.refresh()
            return
        if text[:1] in ("+", "-"):
            value += timing.frame
        words = bent(tr("The frame"), round(value), 0, LONGEST)
        self._workspace.go(max(round(value), 0))
        self._strip.set_scale(self._strip.scale.revealing(timing.frame))
        self.refresh()
        if words:
            self.told.emit(words)

    def _ask_range(self) -> None:
        popup = RangePopup(self._theme, self, self._workspace.timing, self._workspace.shot_settings)
        popup.done.connect(self._strip.show_range)
        popup.told.connect(self.told)
        popup.open_above(self.range)

    def _ask_rate(self) -> None:
        menu, timing = passing_menu(self), self._workspace.timing
        for rate in RATES:
            action = menu.addAction(
                tr("{rate:g} frames a second", rate=rate),
                partial(self._workspace.shot_settings.set_rate, rate),
            )
            action.setCheckable(True)
            action.setChecked(rate == timing.rate)
        menu.addSeparator()
        loop = menu.addAction(tr("Begin again at the end"), self._loop)
        loop.setCheckable(True)
        loop.setChecked(timing.loop)
        menu.popup(self.rate.mapToGlobal(self.rate.rect().topLeft()))

    def _loop(self) -> None:
        timing = self._workspace.timing
        timing.work_with(loop=not timing.loop)

    def _ask_ease(self) -> None:
        menu, keying = passing_menu(self), self._workspace.keying
        for ease, word in EASES.items():
            action = menu.addAction(word, partial(keying.ease, self._strip.picked, ease))
            action.setCheckable(True)
            action.setChecked(ease is self._ease())
        menu.aboutToHide.connect(self.refresh)
        menu.popup(self.ease.mapToGlobal(self.ease.rect().topLeft()))
