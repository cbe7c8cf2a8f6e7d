"""The screens that take the place of the stage: Pairs, Care, Fit, Charts, a performance, Compare,
Assemble and Preferences."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from typing import TypeVar

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from fox_hand.base.language import tr, tr_n
from fox_hand.base.work import Progress
from fox_hand.core.pose.pose import Pose
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.session.animating.clips import clip_for
from fox_hand.session.animating.frame_sequence import FrameSequence
from fox_hand.session.animating.performance_draft import PerformanceDraft
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.applying.comparing import Compared, Comparison, of_card, of_clip, of_figure
from fox_hand.session.applying.fit_draft import FitDraft
from fox_hand.session.applying.mix import Mixed
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.pose_conversion import choice_of, state_of
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.puppets.assembly import PuppetAssembly
from fox_hand.session.runtime.listed_read import ListedRead
from fox_hand.ui.browser.sheets_panel import SheetsPanel
from fox_hand.ui.cards.card_words import short_date
from fox_hand.ui.main.focus_order import WayBack
from fox_hand.ui.main.showing.screen_set import ScreenSet
from fox_hand.ui.services.services import Services
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.notice import Notice

Result = TypeVar("Result")


class Screens(ScreenSet):
    """Opens and closes them, one at a time.

    Args:
        theme, workspace, services: what they show.
        desk: what lies there when none is open.
        stage: has the keyboard after one was closed, where who had it is gone.
        sheets, notice: the window's.
    """

    def __init__(
        self,
        theme: Theme,
        workspace: Workspace,
        services: Services,
        desk: QWidget,
        stage: QWidget,
        sheets: SheetsPanel,
        notice: Notice,
    ) -> None:
        super().__init__(theme, workspace, services, desk)
        self._jobs = services.jobs
        self._desk, self._sheets, self._notice = desk, sheets, notice
        self._way_back = WayBack(stage)
        self._fitted: Entry | None = None  # the card that is looked at in the Fit screen
        self._below: QWidget | None = None  # what the manual was opened over
        self._asked = 0  # goes up with everything that opens or closes a screen
        for name, connect in (
            ("pairs", self._connect_pairs),
            ("care", self._connect_care),
            ("fit", self._connect_fit),
            ("compare", self._connect_compare),
            ("performance", self._connect_performance),
            ("charts", lambda: self.charts.closed.connect(self.close)),
            ("assemble", partial(self._connect_own, "assemble")),
            ("preferences", partial(self._connect_own, "preferences")),
            ("manual", lambda: self.manual.closed.connect(self.close)),
        ):
            self.when(name, connect)

    def _connect_pairs(self) -> None:
        self.pairs.closed.connect(self.close)
        self.pairs.saved.connect(self.close)
        self.pairs.failed.connect(self._pairs_failed)
        self.pairs.told.connect(self._notice.tell)

    def _connect_care(self) -> None:
        self.care.closed.connect(self.close)
        self.care.show_cards.connect(self.show_cards)
        self.care.peek.connect(self.peek_version)
        self.care.compare.connect(self.show_compare)
        self.care.failed.connect(self._notice.tell_error)

    def _connect_fit(self) -> None:
        self.fit.closed.connect(self.close)
        self.fit.put_on.connect(self.put_fitted)
        self.fit.store.connect(self.store_fitted)
        self.fit.other_asked.connect(self.fit_other)
        self.fit.told.connect(self._notice.tell)
        self.fit.failed.connect(self._notice.tell_error)

    def _connect_compare(self) -> None:
        self.compare.closed.connect(self.close)
        self.compare.put_on.connect(self.put_compared)
        self.compare.store.connect(self.store_pose)

    def _connect_performance(self) -> None:
        self.performance.closed.connect(self.close)
        self.performance.lay_in.connect(self.lay_performance)
        self.performance.look_through.connect(self.look_through)
        self.performance.other_asked.connect(self.perform_other)
        self.performance.told.connect(self._notice.tell)
        self.performance.failed.connect(self._notice.tell_error)

    def _connect_own(self, name: str) -> None:
        screen = self.assemble if name == "assemble" else self.preferences
        screen.closed.connect(self.close)
        screen.told.connect(self._notice.tell)
        screen.failed.connect(self._notice.tell_error)

    # -- opening and closing --------------------------------------------------------------

    @property
    def on_stage(self) -> bool:
        """Whether no screen is open."""
        return self.body.currentWidget() is self._desk

    def close(self) -> None:
        """Back to the stage; what is left unsaved is said."""
        self._asked += 1
        if self.on_stage:
            return
        now = self.now
        if now == "pairs" and self.pairs.unsaved:
            self._notice.tell(tr("The pairs were not saved; the rig stays as it was."))
        elif now == "fit" and self.fit.draft is not None and self.fit.draft.unsaved:
            self._notice.tell(
                tr("The names were not saved; they count only where they were put on.")
            )
        elif now == "performance" and self.performance.draft is not None:
            self._notice.tell(tr("The performance was not laid in: nothing was changed."))
        elif now == "assemble":
            self.keep_drawings()
        self._close(now)

    def _close(self, name: str) -> None:
        if name == "performance":
            self.performance.end()
        elif name == "assemble":
            self.assemble.end()
        elif name == "manual" and self._below is not None:
            self.body.setCurrentWidget(self._below)
            return
        self.body.setCurrentWidget(self._desk)
        self._way_back.go()

    def forget(self) -> None:
        """Another shot is on the stage: nothing is kept of who stood there."""
        self._fitted = None
        for name in ("pairs", "fit", "compare", "performance"):
            if self.is_built(name):
                getattr(self, name).end()

    def step(self, *, back: bool) -> bool:
        """Undo or redo of the screen that is open; false where the workspace's counts."""
        if self.now not in ("pairs", "fit", "performance", "assemble", "preferences"):
            return False
        screen = getattr(self, self.now)
        (screen.undo_button if back else screen.redo_button).click()
        return True

    def _leave_work(self) -> int:
        """Finish what is under way on the stage; the number of what is asked for now."""
        self._workspace.keep_mix()
        self._workspace.capturing.cancel()
        if self.on_stage:
            self._way_back.remember()
        self._asked += 1
        return self._asked

    # -- start ----------------------------------------------------------------------------

    @property
    def starting(self) -> bool:
        """Whether the screen of a start has the window."""
        return self.now == "start"

    def show_start(self) -> None:
        """Instead of everything else."""
        self._leave_work()
        self.body.setCurrentWidget(self.start)

    # -- manual ---------------------------------------------------------------------------

    def show_manual(self, page: str) -> None:
        """A page of the manual; what was open before comes back after it."""
        now = self.body.currentWidget()
        if self.now != "manual":
            self._below = None if self.on_stage else now
            self._leave_work()
        self.body.setCurrentWidget(self.manual)
        self.manual.begin(page)

    # -- preferences ----------------------------------------------------------------------

    def show_preferences(self, page: str = "") -> None:
        """What a person chooses; at a page, or where it was left."""
        self._leave_work()
        self.body.setCurrentWidget(self.preferences)
        self.preferences.begin(page)

    # -- pairs ----------------------------------------------------------------------------

    def show_pairs(self) -> None:
        """Which control mirrors to which."""
        actor = self._workspace.actor
        if actor is not None:
            self._leave_work()
            self.body.setCurrentWidget(self.pairs)
            self.pairs.begin(actor)

    def _pairs_failed(self, error: Exception) -> None:
        self.close()
        self._notice.tell_error(error)

    # -- care -----------------------------------------------------------------------------

    def show_care(self, place: OpenLibrary | None = None, entry: Entry | None = None) -> None:
        """Look after a library; with a card, show its earlier versions."""
        self._leave_work()
        self.body.setCurrentWidget(self.care)
        self.care.begin(place, entry)

    def show_versions(self, entry: Entry) -> None:
        """Earlier versions of a card."""
        self.show_care(self._workspace.open_libraries.place_of(entry), entry)

    def show_cards(self, entries: Sequence[Entry]) -> None:
        """Back to the sheets, with some cards ticked and in sight."""
        self.close()
        self._sheets.show_all()
        view = self._sheets.view
        view.choice.set_ticked(
            [k for k in map(self._workspace.open_libraries.key_in, entries) if k is not None]
        )
        view.reveal(entries[0])

    def peek_version(self, entry: Entry, version: Entry) -> None:
        """Put an earlier version on the figure."""
        self.close()
        self._workspace.applying.put_on(replace(version, sheet=entry.sheet))

    # -- drawings -------------------------------------------------------------------------

    def show_assemble(self, assembly: PuppetAssembly) -> None:
        """Drawings that were read, to be put together."""
        self.keep_drawings()
        self._leave_work()
        self.assemble.begin(assembly)
        self.body.setCurrentWidget(self.assemble)

    def keep_drawings(self) -> None:
        """What was said of drawings is written down before others come, or the window goes."""
        if self.is_built("assemble") and self.assemble.unsaved:
            self.assemble.keep()

    def leave_drawings(self) -> None:
        """The puppet is made; another screen that was opened meanwhile stays."""
        if self.now == "assemble":
            self.close()

    # -- charts ---------------------------------------------------------------------------

    def show_charts(self) -> None:
        """What characters should have, and what is missing."""
        self._leave_work()
        self.body.setCurrentWidget(self.charts)
        self.charts.grid.setFocus(Qt.FocusReason.OtherFocusReason)

    # -- fitting --------------------------------------------------------------------------

    def show_fit(self, entry: Entry) -> None:
        """How a card goes on the one who acts."""
        actor = self._workspace.actor
        if actor is None:
            return
        asked = self._leave_work()
        fits, later = self._workspace.mix_commands.fits, self.fit.later

        def work(progress: Progress) -> FitDraft:
            progress.step(0.0)
            draft = fits.draft(entry, read_card(entry.path)[0], actor, later)
            _ = draft.outcome.names_only  # for the pictures
            return draft

        def done(draft: FitDraft) -> None:
            if self._workspace.actor is actor and asked == self._asked:
                self._fitted = entry
                self.body.setCurrentWidget(self.fit)
                self.fit.begin(entry, draft)

        self._list(tr("Look how {name} fits", name=entry.name), work, done)

    def _list(
        self, label: str, work: Callable[[Progress], Result], done: Callable[[Result], None]
    ) -> None:
        ListedRead(
            self._workspace.long_work, self._jobs, label, work, done, self._notice.tell_error
        )

    def fit_mix(self) -> None:
        """The same for the card that is being put on; it is put back meanwhile."""
        mix = self._workspace.mix
        if mix is not None:
            entry = mix.entry
            self._workspace.put_back()
            self.show_fit(entry)

    def fit_other(self, actor: Figure) -> None:
        """Fit the same card to another member of the cast."""
        self._workspace.act(actor)
        if self._fitted is not None:
            self.show_fit(self._fitted)

    def put_fitted(self, ready: Mixed) -> None:
        """Back to the stage, with the fitted card on the figure."""
        draft = self.fit.draft
        told = draft.saved_as() if draft is not None else None
        self.close()
        if ready.entry.kind == "clip":
            self._workspace.applying.lay_in(ready.entry, told=told)
        else:
            self._workspace.mix_commands.lay_on(ready)

    def store_fitted(self, card: Card, entry: Entry) -> None:
        """Capture what the card comes to on this character."""
        self.close()
        if entry.kind == "clip":
            self._notice.tell(
                tr("Lay the clip in on this character, then capture it with Shift+C.")
            )
            return
        actor = self._workspace.actor
        if actor is None:
            return
        rows = [actor.rig.control_row[n] for n in card.pose.controls if n in actor.rig.control_row]
        self._workspace.selection.set(rows)
        draft = self._workspace.capturing.begin(state=state_of(actor.rig, card.pose))
        if draft is not None:
            draft.name, draft.tags, draft.note = entry.name, entry.tags, entry.note
            draft.changed.emit()

    # -- performances ---------------------------------------------------------------------

    def show_performance(self, draft: PerformanceDraft) -> None:
        """How a performance goes on the one who acts."""
        self._leave_work()
        draft.later = self.performance.later
        self.body.setCurrentWidget(self.performance)
        self.performance.begin(draft)

    def lay_performance(self, sequence: FrameSequence) -> None:
        """Back to the stage, with its frames as keys from the frame in sight on."""
        self._close("performance")
        review, timing = self._workspace.review, self._workspace.cast.timing
        first = timing.frame
        review.open(sequence)
        count = review.lay()
        if count:
            words = tr_n(
                "{name} is laid in: {number} frame, at frame {first:g}.",
                "{name} is laid in: {number} frames from frame {first:g} on.",
                count,
                name=sequence.name,
                first=first,
            )
            self._notice.tell(" ".join([words, *sequence.words]))
        else:
            self._notice.tell(tr("Nothing of {name} moves; no keys were made.", name=sequence.name))

    def look_through(self, sequence: FrameSequence) -> None:
        """Back to the stage, with its frames on the strip and the key poses marked."""
        self._close("performance")
        self._workspace.review.open(sequence)
        self._notice.tell(marked_words(sequence))

    def perform_other(self, actor: Figure) -> None:
        """Fit the same performance to another member of the cast."""
        draft = self.performance.draft
        if draft is None or actor is draft.actor:
            return
        self._workspace.act(actor)
        fits, later = self._workspace.mix_commands.fits, self.performance.later
        self._asked += 1
        asked, performance, told = self._asked, draft.performance, draft.told

        def work(progress: Progress) -> PerformanceDraft:
            progress.step(0.0)
            names = fits.told_names(performance.rig.name, actor.rig)
            return PerformanceDraft(
                performance, draft.name, actor, names, told.options, later, told.unit
            )

        def done(other: PerformanceDraft) -> None:
            if asked == self._asked and self._workspace.actor is actor:
                self.performance.begin(other)

        self._list(tr("Fit {name} to {name_2}", name=draft.name, name_2=actor.name), work, done)

    # -- comparing ------------------------------------------------------------------------

    def show_compare(self, first: Entry, second: Entry | None = None) -> None:
        """Compare two cards, or a card and the figure as it stands."""
        workspace, actor = self._workspace, self._workspace.actor
        if actor is None:
            self._notice.tell(
                tr("There is no figure on the stage to compare them on. Open one first.")
            )
            return
        asked = self._leave_work()
        entries = [first] if second is None else [first, second]

        def compared(entry: Entry) -> Compared:
            words, fits = _from_where(entry), workspace.mix_commands.fits
            card = read_card(entry.path)[0]
            ready = fits.ready(entry, actor, card)
            if card.clip is None:
                return of_card(actor.rig, ready, words)
            return of_clip(actor.rig, ready, clip_for(entry, card, actor, fits), words)

        def work(progress: Progress) -> list[Compared]:
            progress.step(0.0)
            return [compared(entry) for entry in entries]

        def done(cards: list[Compared]) -> None:
            if workspace.actor is not actor or asked != self._asked:
                return
            other = cards[1] if len(cards) > 1 else of_figure(actor, cards[0])
            self.body.setCurrentWidget(self.compare)
            self.compare.begin(Comparison(actor, cards[0], other))

        self._list(tr("Compare with {name}", name=first.name), work, done)

    def put_compared(self, ready: Mixed) -> None:
        """Back to the stage, with one of the two or some of what differs on the figure."""
        self.close()
        if ready.card.clip is not None:
            self._workspace.applying.lay_clip(ready.entry, ready.card, ready.card.clip)
        else:
            self._workspace.mix_commands.lay_on(ready)

    def store_pose(self, pose: Pose) -> None:
        """Capture a pose that stands between two others."""
        self.close()
        actor = self._workspace.actor
        if actor is not None:
            rows = choice_of(actor.rig, pose).channels
            self._workspace.selection.set(sorted(rows))
            self._workspace.capturing.begin(state=state_of(actor.rig, pose))


def marked_words(sequence: FrameSequence) -> str:
    """Mark the poses that are worth a look, and say so."""
    marks = sequence.mark_held() if sequence.stepped else sequence.propose()
    poses = (
        tr_n("{number} held pose", "{number} held poses", len(marks))
        if sequence.stepped
        else tr_n("{number} key pose", "{number} key poses", len(marks))
    )
    return " ".join(
        [
            tr(
                "{name}: {frames}, {poses} marked.",
                name=sequence.name,
                frames=tr_n("{number} frame", "{number} frames", len(sequence)),
                poses=poses,
            ),
            *sequence.words,
            tr(
                "Pull along the strip to look at them. M marks a frame, C takes one or all, Lay in "
                "keys them."
            ),
        ]
    )


def _from_where(entry: Entry) -> str:
    sheet = entry.sheet.rpartition("/")[2] or tr("Loose")
    return ", ".join(part for part in (sheet, short_date(entry.changed), entry.author) if part)
