"""What is being put on: beginning, adding, keeping, putting back, and doing it again."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from pathlib import Path

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.core.pose.pose import Pose
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.session.applying.application import How, Part
from fox_hand.session.applying.mix import Mix, Mixed, Sheets
from fox_hand.session.applying.preparation import Again, Preparation
from fox_hand.session.applying.preview import Preview
from fox_hand.session.figures.cast import Cast
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.selection import Selection
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.runtime.history import History
from fox_hand.session.runtime.settings import Settings


class MixCommands:
    """At most one mix at a time, on the member of the cast that acts.

    Args:
        cast, selection, shelf, history: what it works on.
        settings: where it is remembered which sheets are cleared first.
    """

    beginning = Signal()  # a card goes on now; what is half done elsewhere is settled first
    changed = Signal()
    peeked = Signal()
    failed = Signal(FoxHandError)

    def __init__(
        self,
        cast: Cast,
        selection: Selection,
        open_libraries: OpenLibraries,
        history: History,
        settings: Settings,
    ) -> None:
        self._cast, self._selection, self._open_libraries = cast, selection, open_libraries
        self._history, self._settings = history, settings
        self.fits = Preparation(cast, open_libraries)
        self._neutrals: dict[tuple[Path, int], Pose] = {}
        self.mix: Mix | None = None
        self.last: Again | None = None
        self.peek: Preview | None = None
        selection.changed.connect(self._follow_selection)

    # -- cards ----------------------------------------------------------------------------

    def lay_on(self, ready: Mixed) -> Mix | None:
        """Put on a card that was made ready for the one who acts, at 100 %. What was being put on
        before is kept."""
        actor = self._cast.acting
        if actor is None:
            return None
        self.look_away()
        self.keep()
        self.beginning.emit()
        entry = ready.entry
        mix = Mix(actor, ready, self._selection.rows, Sheets(self._held, self._neutral))
        if self._sheet(entry) in self._settings.cleared_sheets:
            mix.set_clear(True)
        mix.keyed = self.sets_keys
        self._open_libraries.personal.put_on(entry.identity)
        self.mix = mix
        self.changed.emit()
        return mix

    def lay_beside(self, ready: Mixed) -> Mix | None:
        """One more card into the mix, made ready as well."""
        if self.mix is None:
            return self.lay_on(ready)
        self.mix.add(ready)
        self._open_libraries.personal.put_on(ready.entry.identity)
        return self.mix

    def drop(self, entry: Entry) -> None:
        """Take a card out of the mix; the last one stays."""
        mix = self.mix
        if mix is not None and len(mix.cards) > 1:
            mix.drop([one.entry.path for one in mix.cards].index(entry.path))

    def _is_on(self, entry: Entry) -> bool:
        return self.mix is not None and self.mix.weight_of(entry) is not None

    # -- looking --------------------------------------------------------------------------

    def look_at(self, ready: Mixed) -> None:
        """Show what a card would do; nothing is put on."""
        actor = self._cast.acting
        if actor is None or self._is_on(ready.entry):
            self.look_away()
            return
        before = self.mix.before(actor) if self.mix is not None else actor.state
        self.peek = Preview(actor, ready, before)
        self.peeked.emit()

    def look_away(self) -> None:
        """End of the peek."""
        if self.peek is not None:
            self.peek = None
            self.peeked.emit()

    @property
    def touching(self) -> Mix | Preview | None:
        """What moves controls, or would: the card looked at, else what is being put on."""
        return self.peek or self.mix

    # -- ends -----------------------------------------------------------------------------

    def keep(self) -> None:
        """What is being put on becomes one undo step."""
        if self.mix is not None:
            mix, self.mix = self.mix, None
            self.last = Again(tuple(mix.cards), tuple(mix.weights), mix.how, mix.together)
            mix.keep(self._history)
            self.changed.emit()

    def put_back(self) -> None:
        """What is being put on is taken off, bit for bit."""
        if self.mix is not None:
            mix, self.mix = self.mix, None
            mix.put_back()
            self.changed.emit()

    def lay_again(self, what: Again, cards: Sequence[Mixed]) -> Mix | None:
        """Put on what was on, by the same amounts and in the same way.

        Args:
            what: how it was on, here or on another.
            cards: those of its cards that land on the one who acts, made ready.
        """
        mix = self.lay_on(cards[0]) if cards else None
        if mix is None:
            return None
        for card in cards[1:]:
            mix.add(card)
        if len(mix.cards) == len(what.weights):
            mix.together = what.together
            mix.set_weights(what.weights)
        part = mix.part if what.how.part is Part.SELECTED else what.how.part
        selected = mix.how.selected
        mix.choose(How(what.how.side, part, what.how.way, selected, what.how.regions))
        return mix

    # -- figures --------------------------------------------------------------------------

    def copies(self) -> list[Figure]:
        """Other members of the cast with the same rig as the one that acts."""
        acting = self._cast.acting
        if acting is None:
            return []
        same = (acting.path, acting.rig.fingerprint)
        return [
            a for a in self._cast.actors if a is not acting and (a.path, a.rig.fingerprint) == same
        ]

    def set_everywhere(self, on: bool) -> None:
        """Whether all copies of the rig take the cards, or only the one that acts."""
        if self.mix is not None:
            self.mix.set_others(self.copies() if on else [])

    def carried(self) -> Again | None:
        """What is on, for another member of the cast; it is put back here."""
        mix = self.mix
        if mix is None:
            return None
        found = Again(tuple(mix.cards), tuple(mix.weights), mix.how, mix.together)
        self.put_back()
        return found

    # -- keys -----------------------------------------------------------------------------

    @property
    def sets_keys(self) -> bool:
        """Whether cards set keys: as was said last, else where there are keys already."""
        said, acting = self._settings.key_cards, self._cast.acting
        if said is not None or acting is None:
            return bool(said)
        return bool(acting.host) or bool(acting.keys)

    def set_keyed(self, on: bool) -> None:
        """Whether this card and those to come set keys."""
        self._settings.key_cards = on
        if self.mix is not None:
            self.mix.set_keyed(on)

    # -- sheets ---------------------------------------------------------------------------

    def set_clear(self, on: bool) -> None:
        """Whether what other cards of the sheet left goes first; remembered for the sheet."""
        if self.mix is None:
            return
        sheet, known = self._sheet(self.mix.entry), self._settings.cleared_sheets
        self._settings.cleared_sheets = sorted({*known, sheet} if on else {*known} - {sheet})
        self.mix.set_clear(on)

    @staticmethod
    def _sheet(entry: Entry) -> str:
        return str(entry.path.parent)

    def _held(self, entry: Entry) -> Collection[str]:
        """Names of the controls that any card of an entry's sheet holds."""
        try:
            place = self._open_libraries.place_of(entry)
        except FoxHandError:  # the library was closed meanwhile
            return ()
        return place.controls_in(entry.sheet)

    def _neutral(self, entry: Entry) -> Pose | None:
        """The pose of the neutral card of an entry's sheet, if it has one."""
        try:
            place = self._open_libraries.place_of(entry)
        except FoxHandError:
            return None
        item = place.item_of(place.neutral(entry.sheet))
        found = (
            self._open_libraries.entry(self._open_libraries.key_of(place, item))
            if item is not None
            else None
        )
        if found is None:
            return None
        key = found.path, found.revision
        if key not in self._neutrals:
            try:
                self._neutrals[key] = read_card(found.path)[0].pose
            except FoxHandError as error:
                self.failed.emit(error)
                return None
        return self._neutrals[key]

    def _follow_selection(self) -> None:
        if self.mix is not None:
            self.mix.select(self._selection.rows)
