"""Putting cards on: read beside the window, and only the last one that was asked for goes on."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import TypeVar

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.curves import Origin
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.name_map import NameMap
from fox_hand.session.animating.clip_placement import ClipPlacements
from fox_hand.session.animating.clip_transfer import ClipFeet
from fox_hand.session.animating.clips import keep_to_view, played_clip
from fox_hand.session.applying.mix import Mixed
from fox_hand.session.applying.mix_commands import MixCommands
from fox_hand.session.applying.preparation import Again, ReadyAgain
from fox_hand.session.figures.cast import Cast
from fox_hand.session.figures.figure import ChangeStep, Figure
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.runtime.history import History
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.session.shots.shots import Shots

SLOTS = 9  # cards at hand
Made = TypeVar("Made")
Then = Callable[[], object]


class ApplyController:
    """The one way cards go onto the figure.

    Args:
        cast, open_libraries, shots, history: what it works on.
        mix_commands, placements: where poses go, and where clips go.
        jobs: where cards are read and fitted.
        captures: whether a capture is open; nothing goes on meanwhile.
    """

    told = Signal(str)
    failed = Signal(Exception)

    def __init__(
        self,
        cast: Cast,
        open_libraries: OpenLibraries,
        shots: Shots,
        history: History,
        mix_commands: MixCommands,
        placements: ClipPlacements,
        jobs: JobRunner,
        captures: Callable[[], bool],
    ) -> None:
        self._cast, self._open_libraries, self._shots = cast, open_libraries, shots
        self._history = history
        self._mix_commands, self._placements = mix_commands, placements
        self._jobs, self._captures = jobs, captures
        self._wanted: object = None  # what was asked for last
        self._looks = 0  # goes up with every end of a look

    def _ready(
        self,
        make: Callable[[Figure], Made],
        then: Callable[[Made], object],
    ) -> None:
        """Make something ready for the one who acts; of several only the last counts."""
        actor = self._cast.acting
        assert actor is not None
        asked = self._wanted = object()

        def counts() -> bool:
            return self._wanted is asked and not self._captures() and self._cast.acting is actor

        def work(progress: Progress) -> Made:
            progress.step(0.0)
            return make(actor)

        def done(ready: Made) -> None:
            if counts():
                self._wanted = None
                then(ready)

        def failed(error: Exception) -> None:
            if counts():
                self._wanted = None
                self.failed.emit(error)

        self._jobs.run(work, done, failed)

    def give_up(self) -> bool:
        """What was asked for and is still being read does not go on; whether there was such."""
        pending, self._wanted = self._wanted is not None, None
        return pending

    def _refused(self) -> bool:
        """Whether no card can go on now; why is told."""
        if self._cast.acting is None:
            self.told.emit(tr("There is no figure on the stage to put it on. Open one first."))
        elif self._captures():
            self.told.emit(tr("Finish the capture first: Enter keeps the card, Esc leaves it."))
        return self._cast.acting is None or self._captures()

    # -- on -------------------------------------------------------------------------------

    def put_on(self, entry: Entry, then: Then | None = None) -> None:
        """Put a card on; one that is on goes to 100 %.

        Args:
            entry: its card.
            then: follows when it is on.
        """
        if self._refused():
            return
        self.look_away()
        if entry.kind == "clip":
            self.lay_in(entry, then)
            return
        mix = self._mix_commands.mix
        if mix is not None and len(mix.cards) == 1 and mix.entry.path == entry.path:
            self._wanted = None  # what is still being read was asked for before
            mix.set_amount(1.0)
            _follow(then)
            return

        def lay(ready: Mixed) -> None:
            self._mix_commands.lay_on(ready)
            _follow(then)

        self._ready(partial(self._fitted, entry), lay)

    def _fitted(self, entry: Entry, actor: Figure) -> Mixed:
        return self._mix_commands.fits.ready(entry, actor)

    def lay_in(self, entry: Entry, then: Then | None = None, told: NameMap | None = None) -> None:
        """Lay a clip in at the frame in sight.

        Args:
            entry: its card.
            then: follows when it is there.
            told: what was just said about its names and those of who acts.
        """

        def make(actor: Figure) -> tuple[Card, Clip, ClipFeet | None]:
            card = read_card(entry.path)[0]
            return card, *played_clip(entry, card, actor, self._mix_commands.fits, told)

        def lay(ready: tuple[Card, Clip, ClipFeet | None]) -> None:
            if self.lay_clip(entry, *ready):
                _follow(then)

        self._ready(make, lay)

    def lay_clip(self, entry: Entry, card: Card, clip: Clip, feet: ClipFeet | None = None) -> bool:
        """Lay in what a card's clip, or a part of it, is on who acts.

        Returns:
            whether it was; clips of a view that is not seen are not, and it says so.
        """
        actor = self._cast.acting
        try:
            if actor is not None:
                keep_to_view(entry, clip, actor)
        except FoxHandError as error:
            self.failed.emit(error)
            return False
        self._mix_commands.keep()
        self._mix_commands.beginning.emit()
        self._placements.keep()
        self._placements.begin(clip, Origin(card.identity, card.name, card.revision), feet)
        self._open_libraries.personal.put_on(entry.identity)
        return True

    def add(self, entry: Entry) -> None:
        """Add a card to what is being put on, or take it out of it."""
        mix = self._mix_commands.mix
        if self._refused():
            return
        if entry.kind == "clip":
            self.told.emit(tr("A clip is laid in by itself; it cannot be mixed with poses."))
        elif mix is not None and mix.weight_of(entry) is not None:
            self._mix_commands.drop(entry)
        else:
            self._ready(partial(self._fitted, entry), self._mix_commands.lay_beside)

    def again(self) -> None:
        """What was put on last, once more, by the same amounts and in the same way."""
        if self._refused():
            return
        last = self._mix_commands.last
        if last is None:
            self.told.emit(tr("Nothing has been put on yet."))
        else:
            self._lay_again(last)

    def carry_on(self, what: Again) -> None:
        """Put on the one who acts now what was on another."""
        self._lay_again(what)

    def _lay_again(self, what: Again) -> None:
        """Cards of which nothing lands on who acts now are left out, and told of."""

        def lay(found: ReadyAgain) -> None:
            self._mix_commands.lay_again(what, found.cards)
            for problem in found.problems:
                self.failed.emit(problem)

        self._ready(partial(self._mix_commands.fits.ready_again, what), lay)

    def recent(self, number: int) -> None:
        """The card that was put on last, the one before, and so on from 0."""
        known = self._open_libraries.personal.recent
        entry = self._open_libraries.by_identity(known[number]) if number < len(known) else None
        if entry is not None:
            self.put_on(entry)
        else:
            self.told.emit(
                tr("Fewer than {number} cards have been put on so far.", number=number + 1)
            )

    # -- at hand --------------------------------------------------------------------------

    @property
    def at_hand(self) -> list[Entry | None]:
        """Cards on the number keys, which belong to the shot."""
        return [
            self._open_libraries.by_identity(identity) for identity in self._shots.at_hand[:SLOTS]
        ]

    def take_in_hand(self, number: int, entry: Entry | None) -> None:
        """Lay a card on a number key from 0 on; None clears it."""
        before = list(self._shots.at_hand)
        kept = [*before, *[""] * SLOTS][:SLOTS]
        if entry is not None:
            kept = ["" if identity == entry.identity else identity for identity in kept]
        kept[number] = entry.identity if entry is not None else ""

        def hold(identities: list[str]) -> None:
            self._shots.hold(identities)
            self._shots.write_down()

        hold(kept)
        label = (
            tr("Key {number}: {name}", number=number + 1, name=entry.name)
            if entry is not None
            else tr("Clear key {number}", number=number + 1)
        )
        self._history.push(ChangeStep(label, lambda: hold(before), lambda: hold(kept)))

    def press(self, number: int) -> None:
        """Put on the card of a number key."""
        held: Sequence[Entry | None] = self.at_hand
        entry = held[number] if number < len(held) else None
        if entry is not None:
            self.put_on(entry)
        else:
            self.told.emit(
                tr(
                    "No card lies on {number}. Ctrl+{number} lays the current card there.",
                    number=number + 1,
                )
            )

    # -- looking --------------------------------------------------------------------------

    def look_at(self, entry: Entry) -> None:
        """Show what a card would do, as soon as it is read; nothing is put on."""
        actor, number = self._cast.acting, self._looks
        if not entry.readable or entry.kind == "clip" or self._captures() or actor is None:
            return

        def work(progress: Progress) -> Mixed:
            progress.step(0.0)
            return self._fitted(entry, actor)

        def done(ready: Mixed) -> None:
            if number == self._looks and self._cast.acting is actor:
                self._mix_commands.look_at(ready)

        # what is wrong with a card it says itself, and where nothing lands there is nothing to see
        self._jobs.run(work, done, lambda _: None)

    def look_away(self) -> None:
        """Nothing is looked at, nor will what is being read for it be."""
        self._looks += 1
        self._mix_commands.look_away()


def _follow(then: Then | None) -> None:
    if then is not None:
        then()
