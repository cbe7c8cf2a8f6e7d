"""The part of the window that fits cards to characters and compares poses."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt

from fox_hand.base.work import Progress
from fox_hand.core.pose.pose import Pose
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.session.applying.comparing import Comparison, of_card, of_figure
from fox_hand.session.applying.fit_draft import FitDraft
from fox_hand.session.applying.mix import Mixed
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.pose_conversion import choice_of, state_of
from fox_hand.ui.cards.card_words import short_date
from fox_hand.ui.main.card_home import CardHome
from fox_hand.ui.screens.compare.compare_screen import CompareScreen
from fox_hand.ui.screens.fit.fit_screen import FitScreen

MOST_ALIKE = 60  # cards shown as like a pose
LEAST_ALIKE = 0.3  # of it; less has only the same controls


class PoseHome(CardHome):
    """Opens the Fit and the Compare screen, and shows cards like a pose."""

    fit: FitScreen
    compare: CompareScreen
    fitted: Entry | None = None  # the card that is looked at in the Fit screen

    def connect_poses(self) -> None:
        """What the two screens ask for."""
        self.mix_bar.choices.fit_asked.connect(self.fit_mix)
        self.fit.closed.connect(self.close_fit)
        self.fit.put_on.connect(self.put_fitted)
        self.fit.store.connect(self.store_fitted)
        self.fit.other_asked.connect(self.fit_other)
        self.fit.told.connect(self.notice.tell)
        self.fit.failed.connect(self.notice.tell_error)
        self.compare.closed.connect(self.close_compare)
        self.compare.put_on.connect(self.put_compared)
        self.compare.store.connect(self.store_pose)
        self.care.compare.connect(self.show_compare)

    # -- fitting --------------------------------------------------------------------------

    def show_fit(self, entry: Entry) -> None:
        """How a card goes on the one who acts."""
        actor = self.workspace.actor
        if actor is None:
            return
        self.workspace.keep_mix()
        self.workspace.cancel_capture()

        fits, later = self.workspace.mix_commands.fits, self.fit.later

        def work(progress: Progress) -> FitDraft:
            progress.step(0.0)
            draft = fits.draft(entry, read_card(entry.path)[0], actor, later)
            _ = draft.outcome.names_only  # for the pictures
            return draft

        def done(draft: FitDraft) -> None:
            if self.workspace.actor is actor:
                self.fitted = entry
                self.body.setCurrentWidget(self.fit)
                self.fit.begin(entry, draft)

        self._services.jobs.run(work, done, self.notice.tell_error)

    def fit_mix(self) -> None:
        """The same for the card that is being put on; it is put back meanwhile."""
        mix = self.workspace.mix
        if mix is not None:
            entry = mix.entry
            self.workspace.put_back()
            self.show_fit(entry)

    def fit_other(self, actor: Figure) -> None:
        """Fit the same card to another member of the cast."""
        self.workspace.act(actor)
        if self.fitted is not None:
            self.show_fit(self.fitted)

    def close_fit(self) -> None:
        draft = self.fit.draft
        if draft is not None and draft.unsaved:
            self.notice.tell("The names were not saved; they count only where they were put on.")
        self.body.setCurrentWidget(self.outer)
        self.stage.setFocus(Qt.FocusReason.OtherFocusReason)

    def put_fitted(self, ready: Mixed) -> None:
        """Back to the stage, with the fitted card on the figure."""
        draft = self.fit.draft
        told = draft.saved_as() if draft is not None else None
        self.close_fit()
        if ready.entry.kind == "clip":
            self.putting.lay_in(ready.entry, told=told)
        else:
            self.workspace.mix_commands.lay_on(ready)

    def store_fitted(self, card: Card, entry: Entry) -> None:
        """Capture what the card comes to on this character."""
        self.close_fit()
        if entry.kind == "clip":
            self.notice.tell("Lay the clip in on this character, then capture it with Shift+C.")
            return
        actor = self.workspace.actor
        if actor is None:
            return
        rows = [actor.rig.control_row[n] for n in card.pose.controls if n in actor.rig.control_row]
        self.workspace.selection.set(rows)
        self.workspace.begin_capture(state=state_of(actor.rig, card.pose))
        draft = self.workspace.draft
        if draft is not None:
            draft.name, draft.tags, draft.note = entry.name, entry.tags, entry.note
            draft.changed.emit()

    # -- comparing ------------------------------------------------------------------------

    def show_compare(self, first: Entry, second: Entry | None = None) -> None:
        """Compare two cards, or a card and the figure as it stands."""
        workspace, actor = self.workspace, self.workspace.actor
        if actor is None:
            self.notice.tell("There is no figure on the stage to compare them on. Open one first.")
            return
        workspace.keep_mix()
        workspace.cancel_capture()
        entries = [first] if second is None else [first, second]

        def work(progress: Progress) -> list[Mixed]:
            progress.step(0.0)
            return [workspace.mix_commands.fits.ready(entry, None, actor) for entry in entries]

        def done(ready: list[Mixed]) -> None:
            if workspace.actor is not actor:
                return
            cards = [of_card(actor.rig, one, _from_where(one.entry)) for one in ready]
            other = cards[1] if len(cards) > 1 else of_figure(actor, cards[0])
            self.body.setCurrentWidget(self.compare)
            self.compare.begin(Comparison(actor, cards[0], other))

        workspace.shelf.jobs.run(work, done, self.notice.tell_error)

    def close_compare(self) -> None:
        self.body.setCurrentWidget(self.outer)
        self.stage.setFocus(Qt.FocusReason.OtherFocusReason)

    def put_compared(self, ready: Mixed) -> None:
        """Back to the stage, with one of the two or some of what differs on the figure."""
        self.close_compare()
        self.workspace.mix_commands.lay_on(ready)

    def store_pose(self, pose: Pose) -> None:
        """Capture a pose that stands between two others."""
        self.close_compare()
        actor = self.workspace.actor
        if actor is not None:
            rows = choice_of(actor.rig, pose).channels
            self.workspace.selection.set(sorted(rows))
            self.workspace.begin_capture(state=state_of(actor.rig, pose))

    # -- alike ----------------------------------------------------------------------------

    def show_alike(self, entry: Entry | None = None) -> None:
        """Cards like a card, or like the figure as it stands (of what is selected, else whole)."""
        workspace, actor = self.workspace, self.workspace.actor
        if entry is None and actor is None:
            return
        name = entry.name if entry is not None else "the figure"
        asked = self._pose_of(entry)
        own = self.sheets.view.key_of(entry) if entry is not None else None

        def work(progress: Progress) -> list[tuple[int, float]]:
            progress.step(0.0)
            found = workspace.shelf.alike(asked(), MOST_ALIKE)
            return [(key, share) for key, share in found if share >= LEAST_ALIKE and key != own]

        def done(found: list[tuple[int, float]]) -> None:
            if found:
                self.sheets.show_alike(name, found)
            else:
                self.notice.tell(f"No other card is like {name}.")

        workspace.shelf.jobs.run(work, done, self.notice.tell_error)

    def _pose_of(self, entry: Entry | None) -> Callable[[], Pose]:
        """The pose to look for, read in a job where it is a card's."""
        if entry is not None:
            return lambda: read_card(entry.path)[0].pose
        pose = self.workspace.figure_pose()
        return lambda: pose


def _from_where(entry: Entry) -> str:
    sheet = entry.sheet.rpartition("/")[2] or "Loose"
    return ", ".join(part for part in (sheet, short_date(entry.changed), entry.author) if part)
