"""The screen on which a performance is fitted to a character, before it goes on."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QPoint, Qt, Signal, SignalInstance
from PySide6.QtGui import QHideEvent, QKeyEvent, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.retarget.retarget import Landing
from fox_hand.session.animating.performance_draft import PerformanceDraft
from fox_hand.session.animating.performance_fit import PerformanceFit
from fox_hand.session.app.needs import Shelving
from fox_hand.session.runtime.ports import Pictures, Post
from fox_hand.ui.screens.fit.fit_list import NARROW, FitList
from fox_hand.ui.screens.performance.frame_player import FramePlayer
from fox_hand.ui.screens.performance.ground_numbers import GroundNumbers
from fox_hand.ui.screens.performance.performance_head import PerformanceHead, rate_words
from fox_hand.ui.screens.performance.performance_lanes import PerformanceLanes
from fox_hand.ui.screens.performance.performance_stage import PerformanceStage
from fox_hand.ui.screens.performance.unit_line import UnitLine
from fox_hand.ui.theme.plain_text import Words, menu_word
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Tick
from fox_hand.ui.widgets.fields.number_field import NumberField
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.passing_menu import passing_menu
from fox_hand.ui.widgets.screen_parts import (
    back_to_stage,
    screen_panel,
    screen_top,
    undo_and_redo,
)

FILTERS: tuple[tuple[str, Landing | None], ...] = (
    (tr("All"), None),
    (tr("Corrected"), Landing.CORRECTED),
    (tr("Is it this one?"), Landing.ASK),
    (tr("Not there"), Landing.MISSING),
)
WIDE, NARROWER = 420, 392  # pixels of the right column
ROOMY = 1200
MOST = 24  # names offered in the menu of a row


class PerformanceScreen(QWidget):
    """Takes the place of the columns while it is open."""

    closed = Signal()
    lay_in = Signal(object)  # FrameSequence
    look_through = Signal(object)  # FrameSequence
    told = Signal(str)
    failed = Signal(object)
    other_asked = Signal(object)  # Figure

    def __init__(self, theme: Theme, workspace: Shelving, pictures: Pictures, post: Post) -> None:
        super().__init__()
        self._theme, self._workspace = theme, workspace
        self.draft: PerformanceDraft | None = None
        self._only: Landing | None = None
        self.head = PerformanceHead(theme)
        self.stage = PerformanceStage(theme, pictures, post)
        self.lanes = PerformanceLanes(theme)
        self.numbers = GroundNumbers(theme)
        self.player = FramePlayer(self)
        self.list = FitList(theme, tr("What each joint of the recording becomes"), NARROW)
        self.keys = KeyMap([LocalKey(ENTER, self._enter), LocalKey(("Space",), self.player.toggle)])
        self._build()
        self._connect()

    # -- building -------------------------------------------------------------------------

    def _build(self) -> None:
        theme = self._theme
        self.back_button = back_to_stage(theme)
        self.undo_button, self.redo_button = undo_and_redo(theme)
        top = screen_top(
            self.back_button, tr("Fit a performance"), self.undo_button, self.redo_button
        )
        left = QVBoxLayout()
        left.setSpacing(12)
        left.addWidget(self.head)
        left.addWidget(self.stage, 1)
        left.addWidget(self._lanes_panel())
        body = QHBoxLayout()
        body.setContentsMargins(12, 8, 12, 12)
        body.setSpacing(12)
        body.addLayout(left, 1)
        body.addWidget(self._side())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(top)
        column.addLayout(body, 1)

    def _lanes_panel(self) -> QWidget:
        theme, panel = self._theme, screen_panel()
        self.before = Button(theme, icon="step-back", kind=Kind.FLAT, tip=tr("One frame back"))
        self.play = Button(theme, icon="play", kind=Kind.PLAIN, tip=tr("Play (Space)"))
        self.after = Button(theme, icon="step-forward", kind=Kind.FLAT, tip=tr("One frame on"))
        self.at = NumberField(tr("frame"), 1, 1, 1)
        self._of = Words("")
        self._of.setProperty("quiet", True)
        self.first = NumberField(tr("goes in"), 1, 1, 1)
        self.last = NumberField(tr("up to"), 1, 1, 1)
        self.found_again = Button(
            theme, tr("Find again"), kind=Kind.FLAT, tip=tr("Find where the feet stand again")
        )
        self.key_poses = Button(
            theme,
            tr("Key poses"),
            icon="flag",
            tip=tr("Look through its frames, to take cards of some"),
        )
        row = QHBoxLayout()
        row.setContentsMargins(12, 8, 12, 4)
        row.setSpacing(4)
        for widget in (self.before, self.play, self.after, self.at, self._of):
            row.addWidget(widget)
        row.addStretch(1)
        for widget in (self.found_again, self.first, self.last, self.key_poses):
            row.addWidget(widget)
        column = QVBoxLayout(panel)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(row)
        column.addWidget(self.lanes)
        return panel

    def _side(self) -> QWidget:
        theme = self._theme
        panel = self._side_panel = screen_panel()
        panel.setFixedWidth(WIDE)
        self.chips: dict[Landing | None, Button] = {}
        chips = QHBoxLayout()
        chips.setContentsMargins(12, 8, 12, 0)
        chips.setSpacing(2)
        for word, landing in FILTERS:
            chip = Button(theme, word, kind=Kind.PILL, height=24)
            chip.clicked.connect(partial(self._filter, landing))
            self.chips[landing] = chip
            chips.addWidget(chip)
        chips.addStretch(1)
        title = Words(tr("How it is fitted"))
        title.setProperty("role", "title")
        self.feet = Tick(theme, tr("Feet hold the ground"))
        self.hands = Tick(theme, tr("Hands meet"))
        self.facing = Tick(theme, tr("Follow its facing"))
        self.stretch = Tick(theme, tr("Scale by the legs"))
        self.ticks = self.feet, self.hands, self.facing, self.stretch
        self.unit = UnitLine(theme)
        options = QVBoxLayout()
        options.setContentsMargins(12, 8, 12, 8)
        options.setSpacing(4)
        options.addWidget(title)
        for tick in self.ticks:
            options.addWidget(tick)
        options.addWidget(self.unit)
        options.addSpacing(4)
        options.addWidget(self.numbers)
        self.save_button = Button(theme, tr("Save the names"), tip=tr("Keep them in the library"))
        self.lay_button = Button(theme, tr("Lay it in"), kind=Kind.MAIN, key="Enter")
        foot = QHBoxLayout()
        foot.setContentsMargins(12, 8, 12, 12)
        foot.addWidget(self.save_button)
        foot.addStretch(1)
        foot.addWidget(self.lay_button)
        column = QVBoxLayout(panel)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(chips)
        column.addWidget(self.list, 1)
        column.addLayout(options)
        column.addLayout(foot)
        return panel

    def _connect(self) -> None:
        self.back_button.clicked.connect(self.closed)
        self.undo_button.clicked.connect(partial(self._step, back=True))
        self.redo_button.clicked.connect(partial(self._step, back=False))
        self.head.who.clicked.connect(self._ask_who)
        self.before.clicked.connect(partial(self.lanes.step, -1))
        self.after.clicked.connect(partial(self.lanes.step, 1))
        self.play.clicked.connect(self.player.toggle)
        self.player.switched.connect(lambda on: self.play.set_icon("pause" if on else "play"))
        self.player.due.connect(partial(self._look, moving=True))
        self.lanes.frame_asked.connect(self._asked)
        self.numbers.frame_asked.connect(partial(self._asked, moving=False))
        self.at.changed.connect(lambda value: self._asked(round(value) - 1, moving=False))
        for field in (self.first, self.last):
            field.changed.connect(self._set_span)
        for field in (self.at, self.first, self.last):
            field.told.connect(self.told)
        self.found_again.clicked.connect(self._find_again)
        self.key_poses.clicked.connect(partial(self._hand_on, self.look_through))
        self.lay_button.clicked.connect(partial(self._hand_on, self.lay_in))
        self.save_button.clicked.connect(self.save)
        self.list.answered.connect(self._answer)
        self.list.matched.connect(self._say)
        self.list.left_out.connect(lambda source: self._say(source, None))
        self.list.menu_asked.connect(self._ask_target)
        for tick in self.ticks:
            tick.toggled.connect(self._set_options)
        self.unit.said.connect(self._set_unit)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        roomy = self.width() >= ROOMY
        self._side_panel.setFixedWidth(WIDE if roomy else NARROWER)
        self.head.set_terse(not roomy)
        self._of.setVisible(roomy)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.player.stop()

    # -- showing --------------------------------------------------------------------------

    def later(
        self, make: Callable[[], PerformanceFit], take: Callable[[PerformanceFit], None]
    ) -> None:
        """Compute beside the window."""

        def work(progress: Progress) -> PerformanceFit:
            progress.step(0.0)
            return make()

        self._workspace.open_libraries.jobs.run(work, take, self.failed.emit)

    def begin(self, draft: PerformanceDraft) -> None:
        """Show how a performance fits a character."""
        self.player.stop()
        self.draft, self._only = draft, None
        draft.changed.connect(self._refresh)
        self.stage.begin(draft)
        self.lanes.begin(draft)
        for field in (self.at, self.first, self.last):
            field.field.setRange(1, max(len(draft), 1))
        self._of.setText(
            tr(
                "of {count} at {rate_words} a second",
                count=len(draft),
                rate_words=rate_words(draft.performance.rate),
            )
        )
        self._refresh()
        self._look(0)
        self.lanes.setFocus(Qt.FocusReason.OtherFocusReason)

    def end(self) -> None:
        """Keep nothing of a character that has left the stage."""
        self.player.stop()
        self.draft = None
        self.stage.begin(None)
        self.lanes.begin(None)
        self.list.show_rows([], None, folded=False)

    def _refresh(self) -> None:
        draft = self.draft
        if draft is None:
            return
        counts = draft.fit.counts()
        self.head.show_draft(draft)
        self.undo_button.setEnabled(draft.steps.can_undo)
        self.redo_button.setEnabled(draft.steps.can_redo)
        for landing, chip in self.chips.items():
            word = next(w for w, value in FILTERS if value is landing)
            number = len(draft.fit.rows) if landing is None else counts[landing]
            chip.setText(f"{word} {number}")
            chip.setAccessibleName(f"{word} {number}")
            chip.setChecked(landing is self._only)
            chip.setVisible(number > 0 or landing in (None, self._only))
            chip.updateGeometry()
        self._show_rows()
        self._show_options(draft)
        self.numbers.show_figures(draft.fit.before, draft.fit.ground, computing=draft.computing)
        first, last = draft.span
        self.first.show_value(first + 1)
        self.last.show_value(last + 1)
        self.player.set_span(first, last, draft.performance.rate)
        self.found_again.setVisible(bool(draft.told.options.spans))
        able = draft.fit.made is not None and not draft.computing
        here = self._workspace.cast.timing.frame
        self.lay_button.setText(tr("Lay it in at frame {here:g}", here=here))
        self.save_button.setText(tr("Save the names") if draft.unsaved else tr("Names saved"))
        for button in (self.lay_button, self.key_poses, self.save_button):
            button.updateGeometry()
        self.lay_button.setEnabled(able)
        self.key_poses.setEnabled(able)
        self.save_button.setEnabled(draft.unsaved > 0)
        self.lanes.update()
        self.stage.show_frame(self.stage.frame)

    def _show_options(self, draft: PerformanceDraft) -> None:
        made, options = draft.fit.made, draft.told.options
        stands = made.stands if made is not None else None
        counts = {side: len(draft.spans(side)) for side in ("left", "right")}
        holds = tr(
            "{values} holds, L {counts}, R {counts_2}",
            values=sum(counts.values()),
            counts=counts["left"],
            counts_2=counts["right"],
        )
        self.feet.set_state(
            options.feet, False, holds if stands is not None else tr("no feet known")
        )
        self.feet.setEnabled(stands is not None)
        self.hands.set_state(options.hands, False, tr("where the recording's do"))
        turned = round(abs(made.facing) * 57.29578) if made is not None else 0
        word = (
            tr("{turned}° from ahead", turned=turned)
            if options.ahead is False
            else tr("turned to look ahead")
        )
        self.facing.set_state(not options.ahead, False, word)
        legs = tr("{legs:.2f} of its own", legs=made.legs) if made is not None else ""
        self.stretch.set_state(options.stretch, False, legs)
        shown = draft.fit.performance
        self.unit.show_unit(draft.unit, shown.rig.height, guessed=shown.guessed)

    def _show_rows(self) -> None:
        if self.draft is not None:
            self.list.show_rows(self.draft.fit.rows, self._only, folded=False)

    def _filter(self, landing: Landing | None) -> None:
        self._only = landing
        for value, chip in self.chips.items():
            chip.setChecked(value is landing)
        self._show_rows()

    # -- looking --------------------------------------------------------------------------

    def _asked(self, frame: int, moving: bool = False) -> None:
        """Somebody wants to see a frame, so it does not play on."""
        self.player.stop()
        self._look(frame, moving=moving)

    def _look(self, frame: int, moving: bool = False) -> None:
        if self.draft is None:
            return
        frame = min(max(frame, 0), len(self.draft) - 1)
        self.player.frame = frame
        self.at.show_value(frame + 1)
        self.lanes.show_frame(frame)
        self.stage.show_frame(frame, moving=moving)

    # -- changing -------------------------------------------------------------------------

    def _step(self, *, back: bool) -> None:
        if self.draft is not None:
            (self.draft.undo if back else self.draft.redo)()

    def _answer(self, source: str, yes: bool) -> None:
        if self.draft is not None:
            self.draft.confirm([source], yes)

    def _say(self, source: str, target: str | None) -> None:
        if self.draft is not None:
            self.draft.say(source, target)

    def _set_span(self) -> None:
        if self.draft is not None:
            self.draft.set_span(round(self.first.value) - 1, round(self.last.value) - 1)

    def _find_again(self) -> None:
        if self.draft is not None:
            self.draft.find_spans()

    def _set_options(self) -> None:
        if self.draft is not None:
            self.draft.set_options(
                feet=self.feet.isChecked(),
                hands=self.hands.isChecked(),
                stretch=self.stretch.isChecked(),
                facing=self.facing.isChecked(),
            )

    def _set_unit(self, unit: float) -> None:
        if self.draft is not None:
            self.draft.set_unit(unit)

    def _ask_target(self, source: str, at: QPoint) -> None:
        """Which joint of the character a joint of the recording stands for."""
        draft = self.draft
        if draft is None:
            return
        menu = passing_menu(self)
        menu.addAction(tr("Nothing here"), partial(self._say, source, None))
        if source in draft.told.names:
            menu.addAction(tr("Find it again"), partial(draft.unsay, source))
        menu.addSeparator()
        names = draft.free_targets(source)
        for name in names[:MOST]:
            menu.addAction(menu_word(name), partial(self._say, source, name))
        if len(names) > MOST:
            more = menu.addMenu(tr("More"))
            for name in names[MOST:]:
                more.addAction(menu_word(name), partial(self._say, source, name))
        menu.popup(at)

    def _ask_who(self) -> None:
        menu = passing_menu(self)
        for actor in self._workspace.cast.actors:
            menu.addAction(menu_word(actor.name), partial(self.other_asked.emit, actor))
        menu.popup(self.head.who.mapToGlobal(self.head.who.rect().bottomLeft()))

    # -- ending ---------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def _enter(self) -> bool:
        enabled = self.lay_button.isEnabled()
        if enabled:
            self._hand_on(self.lay_in)
        return enabled

    def _hand_on(self, signal: SignalInstance) -> None:
        draft = self.draft
        if draft is None or draft.computing:
            return
        self._keep_unit(draft)
        sequence = draft.sequence()
        if sequence is not None:
            signal.emit(sequence)

    def _keep_unit(self, draft: PerformanceDraft) -> None:
        """Beside the file; where that cannot be, it is said and goes on."""
        try:
            draft.keep_unit()
        except FoxHandError as error:
            self.failed.emit(error)

    def save(self) -> None:
        """Keep what was said about names in the library that cards go into."""
        if self.draft is None:
            return
        try:
            fits = self._workspace.mix_commands.fits
            fits.save_names(self.draft.saved_as(), self._workspace.open_libraries.target)
        except FoxHandError as error:
            self.failed.emit(error)
            return
        self.draft.was_saved()
        self.told.emit(tr("Saved for all who use this library: undo leaves it as it is."))
