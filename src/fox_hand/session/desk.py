"""The desk: one figure on the stage, one open library, and everything done with them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.core.state import State
from fox_hand.interchange.readers import read_rig
from fox_hand.library.card import Card
from fox_hand.library.store import Entry, Library
from fox_hand.session.actor import Actor, Edit
from fox_hand.session.capture import CaptureDraft
from fox_hand.session.channels import at_rest
from fox_hand.session.history import History
from fox_hand.session.keep import keep_figure, kept_figure
from fox_hand.session.mix import Mix, fit_of
from fox_hand.session.selection import Selection
from fox_hand.session.settings import Settings, read_settings, write_settings


@dataclass
class TakeOutStep:
    """A card taken out of the library, for the history."""

    desk: Desk
    entry: Entry
    kept: Path
    label: str

    def undo(self) -> None:
        self.entry = self.desk.library_or_error().bring_back(self.kept, self.entry)
        self.desk.reload_cards()

    def redo(self) -> None:
        self.kept = self.desk.library_or_error().take_out(self.entry)
        self.desk.reload_cards()


@dataclass
class CaptureStep:
    """A captured card, for the history: undo takes it out, redo brings it back."""

    desk: Desk
    entry: Entry
    label: str
    kept: Path | None = None

    def undo(self) -> None:
        self.kept = self.desk.library_or_error().take_out(self.entry)
        self.desk.reload_cards()

    def redo(self) -> None:
        assert self.kept is not None
        self.entry = self.desk.library_or_error().bring_back(self.kept, self.entry)
        self.desk.reload_cards()


class Desk:
    """The application's state. Signals are emitted once per change."""

    actor_changed = Signal()
    mix_changed = Signal()
    capture_changed = Signal()
    cards_changed = Signal()
    told = Signal(FoxHandError)

    def __init__(self, places: Places) -> None:
        self.places = places
        self.settings: Settings
        self.settings, self.settings_problem = read_settings(places)
        self.history = History()
        self.selection = Selection()
        self.actor: Actor | None = None
        self.mix: Mix | None = None
        self.draft: CaptureDraft | None = None
        self.library: Library | None = None
        self.cards: tuple[Entry, ...] = ()
        self.selection.changed.connect(self._follow_selection)

    # -- figure ---------------------------------------------------------------------------

    def open_rig(self, path: Path) -> Actor:
        """Put a character on the stage, standing as it was last seen.

        Raises:
            FoxHandError: if the file cannot be read; the desk stays as it was.
        """
        return self.place(Actor(read_rig(path), path))

    def place(self, actor: Actor) -> Actor:
        """Put a character that was read elsewhere (in a job) on the stage."""
        self.keep_mix()
        self.cancel_capture()
        self.save_figure()
        kept = kept_figure(self.places, actor.path, actor.rig)
        if kept is not None:
            actor.show(kept[0])
        self.actor = actor
        self.history.clear()
        self.selection.set(kept[1] if kept is not None else ())
        self._remember_recent(actor.path)
        self.actor_changed.emit()
        return actor

    def save_figure(self) -> None:
        """Write down how the figure stands; problems are told, never raised."""
        if self.actor is None:
            return
        state = self.mix.base if self.mix is not None else self.actor.state
        try:
            keep_figure(self.places, self.actor.path, self.actor.rig, state, self.selection.rows)
        except FoxHandError as error:
            self.told.emit(error)

    def edit(self, label: str) -> Edit:
        """Begin a change of the figure. A card being put on is kept first.

        Raises:
            ValueError: if there is no figure.
        """
        if self.actor is None:
            raise ValueError("there is no figure to edit")
        self.keep_mix()
        return Edit(self.actor, self.history, label)

    def apply(self, label: str, state: State) -> None:
        """One finished change of the figure as one undo step."""
        edit = self.edit(label)
        edit.preview(state)
        edit.commit()

    def reset(self, rows: Iterable[int] | None, label: str) -> None:
        """Put controls back to rest; None means all of them."""
        if self.actor is None:
            return
        rows = range(len(self.actor.rig.controls)) if rows is None else rows
        self.keep_mix()
        self.apply(label, at_rest(self.actor.rig, self.actor.state, rows))

    def undo(self) -> None:
        """Take back the card being put on, else the last step. Problems are told."""
        if self.mix is not None:
            self.put_back()
            return
        self._step(self.history.undo)

    def redo(self) -> None:
        self.keep_mix()
        self._step(self.history.redo)

    def _step(self, move: Callable[[], bool]) -> None:
        try:
            move()
        except FoxHandError as error:
            self.told.emit(error)

    # -- putting on -----------------------------------------------------------------------

    def put_on(self, entry: Entry) -> Mix | None:
        """Put a card on at 100 %. What was being put on before is kept.

        A card that cannot be read, or of which nothing lands, is told about; the figure stays.
        """
        if self.actor is None:
            return None
        if self.mix is not None and self.mix.entry.path == entry.path:
            self.mix.set_amount(1.0)
            return self.mix
        if entry.card is None:
            assert entry.error is not None
            self.told.emit(entry.error)
            return None
        if not fit_of(entry.card, self.actor.rig).lands:
            self.told.emit(_nothing_lands(entry, self.actor.rig.name))
            return None
        self.keep_mix()
        mix = Mix(self.actor, entry, self.selection.rows)
        self.mix = mix
        self.mix_changed.emit()
        return mix

    def keep_mix(self) -> None:
        """What is being put on becomes one undo step."""
        if self.mix is not None:
            mix, self.mix = self.mix, None
            mix.keep(self.history)
            self.mix_changed.emit()

    def put_back(self) -> None:
        """What is being put on is taken off, bit for bit."""
        if self.mix is not None:
            mix, self.mix = self.mix, None
            mix.put_back()
            self.mix_changed.emit()

    def _follow_selection(self) -> None:
        if self.mix is not None:
            self.mix.select(self.selection.rows)

    # -- capture --------------------------------------------------------------------------

    def begin_capture(self) -> CaptureDraft | None:
        """Start a card of what is selected, else of what is away from rest."""
        if self.actor is None:
            return None
        self.keep_mix()
        draft = CaptureDraft(self.actor, self.selection.rows)
        draft.author, draft.licence = self.settings.author, self.settings.licence
        draft.sheet = self.sheet_for(draft)
        self.draft = draft
        self.capture_changed.emit()
        return draft

    def sheet_for(self, draft: CaptureDraft) -> str:
        """The sheet that holds most cards of the same region, else the first."""
        counts: dict[str, int] = {}
        for entry in self.cards:
            if entry.card is not None and entry.card.region is draft.region:
                counts[entry.sheet] = counts.get(entry.sheet, 0) + 1
        if counts:
            return max(counts, key=lambda sheet: counts[sheet])
        sheets = self.library.sheets() if self.library is not None else ()
        return sheets[0] if sheets else ""

    def cancel_capture(self) -> None:
        if self.draft is not None:
            self.draft = None
            self.capture_changed.emit()

    def save_capture(self, card: Card, picture: bytes | None, sheet: str) -> Entry:
        """Write a captured card; one undo step.

        Raises:
            FoxHandError: if it cannot be written; the draft stays open.
        """
        library = self.library_or_error()
        entry = library.add(card, picture, sheet)
        self.captured(entry, library.entries())
        return entry

    def captured(self, entry: Entry, cards: tuple[Entry, ...]) -> None:
        """A captured card has been written (in a job): remember the step, show the cards."""
        assert entry.card is not None
        self.settings.author, self.settings.licence = entry.card.author, entry.card.licence
        self.history.push(CaptureStep(self, entry, f"Capture {entry.card.name}"))
        self.cancel_capture()
        self.show_cards(cards)

    def take_out(self, entry: Entry) -> None:
        """Move a card into the library's keep; one undo step. Problems are told."""
        if self.mix is not None and self.mix.entry.path == entry.path:
            self.keep_mix()
        try:
            kept = self.library_or_error().take_out(entry)
        except FoxHandError as error:
            self.told.emit(error)
            return
        self.history.push(TakeOutStep(self, entry, kept, f"Take out {entry.name}"))
        self.reload_cards()

    # -- library --------------------------------------------------------------------------

    def open_library(self, library: Library, cards: tuple[Entry, ...]) -> None:
        """Show a library whose cards were read elsewhere (in a job)."""
        self.library, self.cards = library, cards
        self.settings.library = str(library.folder)
        self.cards_changed.emit()

    def show_cards(self, cards: tuple[Entry, ...]) -> None:
        """What the library holds now."""
        if cards != self.cards:
            self.cards = cards
            self.cards_changed.emit()

    def reload_cards(self) -> None:
        """Read what changed on disk."""
        if self.library is not None:
            self.show_cards(self.library.entries())

    def library_or_error(self) -> Library:
        """The open library.

        Raises:
            FoxHandError: ``library.none``.
        """
        if self.library is None:
            raise FoxHandError(
                "library.none",
                "There is no library open.",
                "The pose stays on the figure.",
                "Open or make a library first.",
            )
        return self.library

    # -- memory ---------------------------------------------------------------------------

    def save_settings(self) -> None:
        """Problems are told, never raised."""
        try:
            write_settings(self.places, self.settings)
        except FoxHandError as error:
            self.told.emit(error)

    def _remember_recent(self, path: Path) -> None:
        text = str(path.resolve())
        self.settings.recent = [text, *(p for p in self.settings.recent if p != text)][:8]


def _nothing_lands(entry: Entry, rig: str) -> FoxHandError:
    return FoxHandError(
        "mix.nothing_lands",
        f"{entry.name} has no control in common with {rig}.",
        "The figure was left as it is.",
        "The card was taken from a character with other control names.",
    )
