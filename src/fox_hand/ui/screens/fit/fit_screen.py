"""The Fit screen: how a card goes on another character, before it does."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QKeyEvent, QResizeEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr, tr_n
from fox_hand.base.work import Progress
from fox_hand.core.matching.name_match import Rules
from fox_hand.core.retarget.retarget import FitOptions, Landing
from fox_hand.library.format.entry import Entry
from fox_hand.session.app.needs import Shelving
from fox_hand.session.applying.fit_draft import FitDraft
from fox_hand.session.applying.fit_result import FitResult, FitRow
from fox_hand.session.applying.preparation import mixed
from fox_hand.session.runtime.ports import Pictures, Post
from fox_hand.ui.screens.fit.fit_bar import FitBar
from fox_hand.ui.screens.fit.fit_list import FitList
from fox_hand.ui.screens.fit.fit_rules import FitRules
from fox_hand.ui.screens.fit.fit_words import (
    apart_words,
    card_words,
    how_words,
    still_asked,
    verdict,
)
from fox_hand.ui.stage.figure_pair import FigurePair
from fox_hand.ui.theme.plain_text import Words, menu_word, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Tick
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
    (tr("Lands"), Landing.LANDS),
    (tr("Corrected"), Landing.CORRECTED),
    (tr("At a limit"), Landing.LIMIT),
    (tr("Locked"), Landing.LOCKED),
    (tr("Not there"), Landing.MISSING),
    (tr("To confirm"), Landing.ASK),
)
WHOLE = 30  # controls from which on the whole figure is looked at
WIDE, NARROW = 420, 296  # pixels of the right column
ROOMY = 1200  # pixels of the screen from which on it is wide
MOST = 24  # names offered in the menu of a row


class FitScreen(QWidget):
    """Takes the place of the columns while it is open."""

    closed = Signal()
    put_on = Signal(object)  # Mixed
    store = Signal(object, object)  # Card, Entry of the original
    told = Signal(str)
    failed = Signal(object)
    other_asked = Signal(object)  # Figure

    def __init__(self, theme: Theme, workspace: Shelving, pictures: Pictures, post: Post) -> None:
        super().__init__()
        self._theme, self._workspace = theme, workspace
        self.draft: FitDraft | None = None
        self._entry: Entry | None = None
        self._only: Landing | None = None
        self.list = FitList(theme)
        self.keys = KeyMap(
            [LocalKey(ENTER, self._enter), LocalKey(("Shift+Y",), self._confirm_offered)]
        )
        self.rules = FitRules(theme)
        self.pair = FigurePair(theme, pictures, post, tr("Names only, and fitted"))
        self._build()
        self.list.answered.connect(self._answer)
        self.list.matched.connect(self._say)
        self.list.left_out.connect(lambda source: self._say(source, None))
        self.list.menu_asked.connect(self._ask_target)
        self.list.seen.connect(self._point)
        self.rules.changed.connect(self._set_rules)

    # -- building -------------------------------------------------------------------------

    def _build(self) -> None:
        theme = self._theme
        self.back_button = back_to_stage(theme)
        self.back_button.clicked.connect(self.closed)
        self.undo_button, self.redo_button = undo_and_redo(theme)
        self.undo_button.clicked.connect(self._undo)
        self.redo_button.clicked.connect(self._redo)
        top = screen_top(self.back_button, tr("Fit a card"), self.undo_button, self.redo_button)
        left = QVBoxLayout()
        left.setSpacing(12)
        left.addWidget(self._head())
        left.addWidget(self._list_panel(), 1)
        left.addWidget(self._rules_panel())
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

    def _head(self) -> QWidget:
        panel = screen_panel()
        panel.setFixedHeight(64)
        self._card_name, self._card_words = Words(""), Words("")
        self._card_name.setProperty("role", "title")
        self._card_words.setProperty("quiet", True)
        self.who = Button(self._theme, "", kind=Kind.FLAT, height=28, menu=True)
        self.who.setToolTip(tr("Another character of the cast"))
        self.who.setAccessibleName(tr("Character"))
        self.who.clicked.connect(self._ask_who)
        self._who_words, self._verdict = Words(""), Words("")
        self._who_words.setProperty("quiet", True)
        self.bar = FitBar(self._theme)
        card, who, far = QVBoxLayout(), QVBoxLayout(), QVBoxLayout()
        for layout, widgets in (
            (card, (self._card_name, self._card_words)),
            (who, (self.who, self._who_words)),
            (far, (self.bar, self._verdict)),
        ):
            layout.setSpacing(2)
            layout.addStretch(1)
            for widget in widgets:
                layout.addWidget(widget)
            layout.addStretch(1)
        to = Words(tr("on"))
        to.setProperty("quiet", True)
        line = QHBoxLayout(panel)
        line.setContentsMargins(12, 6, 12, 6)
        line.setSpacing(16)
        line.addLayout(card)
        line.addWidget(to)
        line.addLayout(who)
        line.addStretch(1)
        line.addLayout(far)
        return panel

    def _list_panel(self) -> QWidget:
        panel = screen_panel()
        self.chips: dict[Landing | None, Button] = {}
        chips = QHBoxLayout()
        chips.setContentsMargins(12, 0, 12, 0)
        chips.setSpacing(2)
        for word, landing in FILTERS:
            chip = Button(self._theme, word, kind=Kind.PILL, height=24)
            chip.clicked.connect(partial(self._filter, landing))
            self.chips[landing] = chip
            chips.addWidget(chip)
        chips.addStretch(1)
        self.fold = Tick(self._theme, tr("Same ones folded away"))
        self.fold.setChecked(True)
        self.fold.toggled.connect(self._show_rows)
        chips.addWidget(self.fold)
        column = QVBoxLayout(panel)
        column.setContentsMargins(0, 8, 0, 8)
        column.setSpacing(8)
        column.addLayout(chips)
        column.addWidget(self.list, 1)
        return panel

    def _rules_panel(self) -> QWidget:
        panel = screen_panel()
        self._map_words = Words("")
        self._map_words.setProperty("quiet", True)
        self.save_button = Button(
            self._theme, tr("Save"), tip=tr("Keep the names in the card's library")
        )
        self.save_button.clicked.connect(self.save)
        foot = QHBoxLayout()
        foot.setContentsMargins(12, 0, 12, 8)
        foot.addWidget(self._map_words, 1)
        foot.addWidget(self.save_button)
        column = QVBoxLayout(panel)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.rules)
        column.addLayout(foot)
        return panel

    def _side(self) -> QWidget:
        panel = self._side_panel = screen_panel()
        panel.setFixedWidth(WIDE)
        title = Words(tr("How it is fitted"))
        title.setProperty("role", "title")
        self.stance = Tick(self._theme, tr("Meet in one stance"))
        self.correct = Tick(self._theme, tr("Correct turns by rest"))
        self.stretch = Tick(self._theme, tr("Stretch to the limbs"))
        self.limits = Tick(self._theme, tr("Stop at limits and locks"))
        self.lifted = Tick(self._theme, tr("Take the locks off for this"))
        column = QVBoxLayout(panel)
        column.setContentsMargins(12, 12, 12, 12)
        column.setSpacing(4)
        column.addWidget(self.pair, 1)
        column.addSpacing(8)
        column.addWidget(title)
        for tick in (self.stance, self.correct, self.stretch, self.limits, self.lifted):
            tick.toggled.connect(self._set_options)
            column.addWidget(tick)
        self.warning = Words("")
        self.warning.setWordWrap(True)
        self.warning.setProperty("plate", "warning")
        self.roles_button = Button(
            self._theme,
            tr("Yes to those by likely role"),
            tip=tr("Arms, legs, spine and fingers"),
        )
        self.roles_button.clicked.connect(self._confirm_roles)
        column.addWidget(self.warning)
        column.addWidget(self.roles_button)
        self.store_button = Button(self._theme, tr("Store as card"))
        self.store_button.clicked.connect(self._store)
        self.put_button = Button(self._theme, tr("Put on"), kind=Kind.MAIN, key="Enter")
        self.put_button.clicked.connect(self.finish)
        foot = QHBoxLayout()
        foot.addWidget(self.store_button)
        foot.addStretch(1)
        foot.addWidget(self.put_button)
        column.addSpacing(8)
        column.addLayout(foot)
        return panel

    def resizeEvent(self, event: QResizeEvent) -> None:
        """A narrow window has a narrow right column and fewer words."""
        super().resizeEvent(event)
        roomy = self.width() >= ROOMY
        self._side_panel.setFixedWidth(WIDE if roomy else NARROW)
        self._who_words.setVisible(roomy)
        for tick in (self.stance, self.correct, self.stretch, self.limits, self.lifted):
            tick.set_terse(not roomy)

    # -- showing --------------------------------------------------------------------------

    def later(self, make: Callable[[], FitResult], take: Callable[[FitResult], None]) -> None:
        """Compute beside the window."""

        def work(progress: Progress) -> FitResult:
            progress.step(0.0)
            outcome = make()
            _ = outcome.names_only  # for the pictures
            return outcome

        self._workspace.open_libraries.jobs.run(work, take, self.failed.emit)

    def begin(self, entry: Entry, draft: FitDraft) -> None:
        """Show how a card fits a character."""
        self._entry, self.draft, actor = entry, draft, draft.actor
        draft.changed.connect(self._refresh)
        self._only = None
        self.rules.begin(draft)
        self.pair.outline(frozenset())
        self._refresh()
        rows = sorted(draft.fitted.choice.channels)
        self.pair.frame(frozenset() if len(rows) > WHOLE else actor.flesh_nodes(rows))
        self.list.setFocus(Qt.FocusReason.OtherFocusReason)

    def end(self) -> None:
        """Keep nothing of a character that has left the stage."""
        self._entry = self.draft = None
        self.list.show_rows([], None, folded=False)
        self.rules.end()
        self.pair.show_figures([], [])

    def _refresh(self) -> None:
        draft = self.draft
        if draft is None:
            return
        card, actor, counts = draft.card, draft.actor, draft.counts()
        self._card_name.setText(card.name)
        count = len(card.pose.controls)
        self._card_words.setText(card_words(card.character, count))
        self.who.setText(actor.name)
        self.who.updateGeometry()
        self._who_words.setText(apart_words(draft.fitted))
        self.bar.show_counts(counts)
        out = counts[Landing.MISSING] + counts[Landing.LOCKED]
        ask = counts[Landing.ASK]
        self._verdict.setText(verdict(draft.lands, ask, out))
        for landing, chip in self.chips.items():
            word = next(w for w, value in FILTERS if value is landing)
            number = count if landing is None else counts[landing]
            chip.setText(f"{word} {number}")
            chip.setAccessibleName(chip.text())
            chip.setChecked(landing is self._only)
            chip.setVisible(number > 0 or landing is self._only)
            chip.updateGeometry()
        self._show_rows()
        self._show_side(draft, counts)
        self.rules.show_draft()

    def _show_side(self, draft: FitDraft, counts: dict[Landing, int]) -> None:
        ask, rig, told = counts[Landing.ASK], draft.actor.rig, draft.told
        self.undo_button.setEnabled(draft.steps.can_undo)
        self.redo_button.setEnabled(draft.steps.can_redo)
        options = told.options
        ticks = (self.stance, self.correct, self.stretch, self.limits, self.lifted)
        on = (options.stance, options.correct, options.stretch, told.limits, told.lifted)
        for tick, is_on, said in zip(ticks, on, how_words(draft.fitted, counts), strict=True):
            tick.set_state(is_on, False, said)
        self.warning.setText(still_asked(ask))
        self.warning.setVisible(bool(ask))
        self.roles_button.setVisible(bool(draft.likely))
        self.roles_button.setText(tr("Yes to {count} by likely role", count=len(draft.likely)))
        self.roles_button.updateGeometry()
        whole = len(draft.card.pose.controls)
        self.put_button.setText(tr("Put on {lands} of {count}", lands=draft.lands, count=whole))
        self.store_button.setText(tr("Store as card"))
        stores = tr("Capture what the card comes to on {name}", name=rig.name)
        self.store_button.setToolTip(plain_tip(stores))
        for button in (self.put_button, self.store_button):
            button.setEnabled(draft.lands > 0)
            button.updateGeometry()
        unsaved = draft.unsaved
        whose = draft.card.character or tr("the card")
        self._map_words.setText(
            tr("Names of {character} on {name}", character=whose, name=rig.name)
        )
        self.save_button.setText(tr_n("Save 1 change", "Save {number} changes", unsaved))
        self.save_button.setEnabled(unsaved > 0)
        self.save_button.updateGeometry()
        actor = draft.actor
        self.pair.show_figures(
            [actor.standing_in(draft.outcome.names_only), actor.standing_in(draft.outcome.worn)],
            [
                (tr("Names only"), tr("values as {character} has them", character=whose)),
                (tr("Fitted"), tr("as it goes on")),
            ],
        )

    def _show_rows(self) -> None:
        if self.draft is not None:
            self.list.show_rows(self.draft.rows, self._only, folded=self.fold.isChecked())

    def _point(self, row: FitRow | None) -> None:
        """Outline what a line of the list moves."""
        if self.draft is None:
            return
        actor, name = self.draft.actor, row.target if row is not None else None
        at = actor.rig.control_row.get(name) if name is not None else None
        self.pair.outline(actor.flesh_nodes([at]) if at is not None else frozenset())

    def _filter(self, landing: Landing | None) -> None:
        self._only = landing
        for value, chip in self.chips.items():
            chip.setChecked(value is landing)
        self._show_rows()

    # -- changing -------------------------------------------------------------------------

    def _answer(self, source: str, yes: bool) -> None:
        draft = self.draft
        if draft is None:
            return
        alike = draft.alike(source)
        draft.confirm([source], yes)
        if alike:
            word = tr("Yes") if yes else tr("No")
            self._offered = alike, yes
            self.told.emit(
                tr_n(
                    "{word} for {number} more that is spelled alike: press Shift+Y.",
                    "{word} for {number} more that are spelled alike: press Shift+Y.",
                    len(alike),
                    word=word,
                )
            )

    def _undo(self) -> None:
        if self.draft is not None:
            self.draft.undo()

    def _redo(self) -> None:
        if self.draft is not None:
            self.draft.redo()

    def _confirm_roles(self) -> None:
        if self.draft is not None:
            self.draft.confirm(self.draft.likely, True)

    def _say(self, source: str, target: str | None) -> None:
        if self.draft is not None:
            self.draft.say(source, target)

    def _set_rules(self, rules: Rules) -> None:
        if self.draft is not None:
            self.draft.set_rules(rules)

    def _set_options(self) -> None:
        draft = self.draft
        if draft is None:
            return
        options = FitOptions(
            self.stance.isChecked(), self.correct.isChecked(), self.stretch.isChecked()
        )
        lifted = self.lifted.isChecked()
        draft.set_options(options, limits=self.limits.isChecked(), lifted=lifted)

    def _ask_target(self, source: str, at: QPoint) -> None:
        """Which name of the character a name of the card stands for."""
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
        menu.popup(self.who.mapToGlobal(self.who.rect().bottomLeft()))

    _offered: tuple[tuple[str, ...], bool] = ((), False)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def _enter(self) -> bool:
        enabled = self.put_button.isEnabled()
        if enabled:
            self.finish()
        return enabled

    def _confirm_offered(self) -> bool:
        (sources, yes), self._offered = self._offered, ((), False)
        if self.draft is not None and sources:
            self.draft.confirm(sources, yes)
        return bool(sources)

    def save(self) -> None:
        """Keep what was said in the card's library."""
        if self.draft is None or self._entry is None:
            return
        try:
            self._workspace.mix_commands.fits.save(self._entry, self.draft)
            self.told.emit(tr("Saved for all who use this library: undo leaves it as it is."))
        except FoxHandError as error:
            self.failed.emit(error)

    def finish(self) -> None:
        """Put the card on as it is fitted."""
        if self.draft is not None and self._entry is not None:
            self.put_on.emit(mixed(self._entry, self.draft))

    def _store(self) -> None:
        if self.draft is not None and self._entry is not None:
            self.store.emit(self.draft.as_card(), self._entry)
