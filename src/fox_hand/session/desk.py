"""The desk: the cast on the stage, one open library, and everything done with them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.core.bounds import Lock
from fox_hand.core.camera import Camera
from fox_hand.core.rig import Rig
from fox_hand.core.state import State
from fox_hand.interchange.readers import read_rig
from fox_hand.library.card import Card
from fox_hand.library.store import Entry, Library
from fox_hand.session.actor import Actor, ChangeStep, Edit
from fox_hand.session.capture import CaptureDraft
from fox_hand.session.cast import Absent, Cast, Mark, Member
from fox_hand.session.channels import at_rest
from fox_hand.session.history import History
from fox_hand.session.keep import (
    VERSION,
    KeptBoard,
    KeptCast,
    KeptMember,
    kept_member,
    wake,
    write_cast,
)
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
        self.cast = Cast()
        self.stage_key = "desk"
        self.boards: list[KeptBoard] = []  # reference pictures pinned to the stage
        self.mix: Mix | None = None
        self.draft: CaptureDraft | None = None
        self.library: Library | None = None
        self.cards: tuple[Entry, ...] = ()
        self.selection.changed.connect(self._follow_selection)

    # -- cast -----------------------------------------------------------------------------

    @property
    def actor(self) -> Actor | None:
        """The member of the cast that edits go to."""
        return self.cast.acting

    def open_rig(self, path: Path) -> Actor:
        """Put a character on the stage.

        Raises:
            FoxHandError: if the file cannot be read; the desk stays as it was.
        """
        return self.place(Actor(read_rig(path), path))

    def place(self, actor: Actor, kept: KeptMember | None = None) -> Actor:
        """Put a character that was read elsewhere (in a job) on the stage, and let it act.

        Args:
            actor: the character.
            kept: how it stood when it was last seen; None for a newcomer, who stands beside the
                others.
        """
        self._leave()
        selected: tuple[int, ...] = ()
        actor.prefix = self.cast.free_prefix(actor.prefix)
        if kept is None:
            actor.stand_at(self.cast.free_ground(actor.rig))
        else:
            selected = wake(actor, kept)
        self.cast.add(actor, selected)
        self._remember_recent(actor.path)
        self._enter(actor)
        return actor

    def place_absent(self, kept: KeptMember) -> Absent:
        """Keep a place for a character whose file is not there; it is told about."""
        member = Absent(kept, "")
        error = FoxHandError(
            "cast.missing",
            f"{member.name} is not on the stage: {kept.path} is not there.",
            "How the character stood is kept.",
            "Put the file back, or choose Find its file on the character's tab.",
        )
        member.why = error.sentence()
        self.cast.add(member)
        return member

    def bring_back(self, member: Absent, actor: Actor) -> None:
        """The file of an absent member was found: it stands as it stood."""
        if member not in list(self.cast):
            return  # it came back by another way meanwhile
        selected = wake(actor, member.kept)
        self.cast.replace(member, actor, selected)
        if self.actor is actor:
            self._enter(actor)
        self.save_figure()

    def keep_view(self, name: str, camera: Camera | None) -> None:
        """Keep a view of the acting figure under a name, or with None forget it."""
        actor = self.actor
        if actor is None:
            return
        views = {k: v for k, v in actor.views.items() if k != name}
        actor.views = views if camera is None else {**views, name: camera}
        actor.changed.emit()
        self.save_figure()

    def rename_member(self, actor: Actor, prefix: str) -> None:
        """Give a member another prefix; one undo step."""
        before = actor.prefix
        after = self.cast.free_prefix(prefix) if prefix != before else before

        def name(value: str) -> None:
            actor.prefix = value
            self.cast.changed.emit()
            self.save_figure()

        if after != before:
            name(after)
            step = ChangeStep(f"Prefix {after}", lambda: name(before), lambda: name(after))
            self.history.push(step)

    def act(self, actor: Actor) -> None:
        """Let another member of the cast act."""
        if actor is not self.actor:
            self._leave()
            self._enter(actor)

    def take_off(self, member: Member) -> None:
        """Take a member off the stage; one undo step."""
        self._leave()
        index = self.cast.remove(member)

        def back() -> None:
            self._leave()
            self.cast.insert(index, member)
            if isinstance(member, Actor):
                self._enter(member)

        def forth() -> None:
            self._leave()
            self.cast.remove(member)
            self._enter(self.cast.acting)

        self.history.push(ChangeStep(f"Take {member.name} off the stage", back, forth))
        self._enter(self.cast.acting)

    def exchange_rig(self, actor: Actor, rig: Rig, mark: Mark) -> frozenset[str]:
        """A rig file changed on disk and was read again: values follow by name.

        Returns:
            names of controls and settings that are gone.
        """
        self.keep_mix()
        self.cancel_capture()
        names = [actor.rig.controls[r].name for r in self.selection.rows]
        gone = actor.exchange(rig)
        self.cast.seen(actor, mark)
        if actor is self.actor:
            self.selection.set(rig.control_row[n] for n in names if n in rig.control_row)
            self.actor_changed.emit()
        self.cast.changed.emit()
        return gone

    def _leave(self) -> None:
        """Finish what is under way with the acting member."""
        self.keep_mix()
        self.cancel_capture()
        if self.actor is not None:
            self.cast.remember_selected(self.actor, self.selection.rows)

    def _enter(self, actor: Actor | None) -> None:
        if actor is not None:
            self.cast.act(actor)
        self.selection.set(())
        self.actor_changed.emit()
        if actor is not None:
            self.selection.set(self.cast.selected(actor))
        self.save_figure()

    def save_figure(self) -> None:
        """Write down how everybody stands; problems are told, never raised."""
        members = []
        for member in self.cast:
            if isinstance(member, Absent):
                members.append(member.kept)
                continue
            acts = member is self.actor
            state = self.mix.base if acts and self.mix is not None else member.state
            rows = self.selection.rows if acts else self.cast.selected(member)
            members.append(kept_member(member, state, rows))
        acting = self.actor.prefix if self.actor is not None else ""
        try:
            write_cast(self.places, self.stage_key, KeptCast(VERSION, acting, members, self.boards))
        except FoxHandError as error:
            self.told.emit(error)

    # -- figure ---------------------------------------------------------------------------

    def edit(self, label: str, *, free: bool = False) -> Edit:
        """Begin a change of the figure. A card being put on is kept first.

        Args:
            label: what the step is called.
            free: partners do not follow, and locks and limits do not hold (the figure stays).

        Raises:
            ValueError: if there is no figure.
        """
        if self.actor is None:
            raise ValueError("there is no figure to edit")
        self.keep_mix()
        symmetric = self.settings.symmetric and not free
        return Edit(self.actor, self.history, label, symmetric=symmetric, free=free)

    def apply(self, label: str, state: State) -> None:
        """One finished change of the figure as one undo step."""
        edit = self.edit(label)
        edit.preview(state)
        edit.commit()

    def set_locks(self, locks: frozenset[Lock], label: str) -> None:
        """Lock exactly these channels of the acting figure; one undo step."""
        actor = self.actor
        if actor is None or locks == actor.locks:
            return
        before = actor.locks
        actor.set_locks(locks)
        step = ChangeStep(label, lambda: actor.set_locks(before), lambda: actor.set_locks(locks))
        self.history.push(step)

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
