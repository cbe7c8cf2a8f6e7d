"""Cards that changed since they went on: which, and letting their keys follow."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.animation.curves import ChannelId, Origin, row_of
from fox_hand.core.pose.pose import BoundPose, bind
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.session.animating.following import Newer, changed_by_hand, touched
from fox_hand.session.animating.keying import Keying
from fox_hand.session.applying.card_origin import is_stale
from fox_hand.session.applying.preparation import Preparation
from fox_hand.session.figures.cast import Cast
from fox_hand.session.figures.figure import Figure
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.runtime.jobs import JobRunner


@dataclass(frozen=True)
class StaleCard:
    """A card of which a newer revision lies in its library.

    Args:
        number: of the origin among the figure's keys.
        origin: how it went on.
        entry: the card now.
        by_hand: how many channels of it were changed by hand since.
    """

    number: int
    origin: Origin
    entry: Entry
    by_hand: int


class CardUpdates:
    """Lets keys follow their cards.

    Args:
        cast, keying, open_libraries: whose keys, and where the cards are.
        fits: makes cards ready for a character.
        jobs: where cards are read and fitted.
    """

    told = Signal(str)
    failed = Signal(Exception)

    def __init__(
        self,
        cast: Cast,
        keying: Keying,
        open_libraries: OpenLibraries,
        fits: Preparation,
        jobs: JobRunner,
    ) -> None:
        self._cast, self._keying, self._open_libraries = cast, keying, open_libraries
        self._fits, self._jobs = fits, jobs

    def stale(self, numbers: Collection[int] | None = None) -> list[StaleCard]:
        """Cards of some origins, or of all, that have other values now than when they went on."""
        actor = self._cast.acting
        if actor is None:
            return []
        found = []
        for number, origin in sorted(actor.keys.origins.items()):
            if numbers is not None and number not in numbers:
                continue
            entry = self._open_libraries.by_identity(origin.card) if origin.card else None
            if entry is not None and entry.readable and is_stale(origin, entry):
                held = set(self._open_libraries.place_of(entry).controls_of(entry.shape))
                names = {*held, *_settings_of(actor, held)}
                count = len(changed_by_hand(actor.keys, number, names))
                found.append(StaleCard(number, origin, entry, count))
        return found

    def update(self, cards: Sequence[StaleCard], *, over_hand: bool = False) -> None:
        """Let the keys of cards follow; one undo step, and what stays as it was is told."""
        actor = self._cast.acting
        able = [one for one in cards if one.origin.whole]
        refused = [one.origin.name for one in cards if not one.origin.whole]
        if refused:
            self.told.emit(
                tr(
                    "{names} went on in part or on top before a shot said how, and stays "
                    "as it was. Put it on anew where it should follow.",
                    names=", ".join(refused),
                )
            )
        if actor is None or not able:
            return

        def work(progress: Progress) -> tuple[list[Newer], list[FoxHandError]]:
            newer, problems = [], []
            for step, one in enumerate(able):
                progress.step(step / len(able), one.origin.name)
                try:
                    newer.append(self._newer(one, actor))
                except FoxHandError as error:
                    problems.append(error)
            return newer, problems

        def done(found: tuple[list[Newer], list[FoxHandError]]) -> None:
            newer, problems = found
            for error in problems:
                self.failed.emit(error)
            if newer and self._cast.acting is actor:
                name = (
                    newer[0].entry.name
                    if len(newer) == 1
                    else tr("{count} cards", count=len(newer))
                )
                by_hand = self._keying.follow(
                    newer, tr("Update {name}", name=name), over_hand=over_hand
                )
                self._tell(actor, name, by_hand)

        self._jobs.run(work, done, self.failed.emit)

    def keep(self, card: StaleCard) -> None:
        """Its keys stay as they are, and nobody asks again before it changes anew."""
        self._keying.keep_old(card.number, card.entry)

    def _newer(self, one: StaleCard, actor: Figure) -> Newer:
        card = read_card(one.entry.path)[0]
        pose = self._bound(one.entry, card, actor)
        return Newer(one.number, one.entry, pose, self._before(one, actor))

    def _bound(self, entry: Entry, card: Card, actor: Figure) -> BoundPose:
        return bind(self._fits.ready(entry, actor, card).card.pose, actor.rig)

    def _before(self, one: StaleCard, actor: Figure) -> frozenset[ChannelId] | None:
        """What the card touched when it went on, if that version is still there."""
        library = self._open_libraries.library_of(one.entry)
        for path in reversed(library.versions(one.entry.identity)):
            try:
                card = read_card(path)[0]
                if card.revision == one.origin.revision:
                    return touched(actor, one.origin, self._bound(one.entry, card, actor))
            except FoxHandError:
                continue  # a damaged version says nothing
        return None

    def _tell(self, actor: Figure, name: str, by_hand: Sequence[ChannelId]) -> None:
        if not by_hand:
            return
        rows = dict.fromkeys(row for c in by_hand if (row := row_of(actor.rig, c)) is not None)
        labels = [actor.rig.word(row) for row in rows]
        words = ", ".join(labels[:3]) + (
            tr(" and {count} more", count=len(labels) - 3) if len(labels) > 3 else ""
        )
        self.told.emit(
            tr(
                "{name} follows. {words} had been changed by hand at its frames and "
                "stays so; the menu of its keys takes that along too.",
                name=name,
                words=words,
            )
        )


def _settings_of(actor: Figure, names: Collection[str]) -> list[str]:
    rig = actor.rig
    rows = (rig.control_row[name] for name in names if name in rig.control_row)
    return [rig.settings[s].name for row in rows for s in rig.settings_of[row]]
