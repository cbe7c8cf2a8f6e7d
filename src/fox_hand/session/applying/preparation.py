"""Cards made ready for a character: as they are for their own rig, fitted for another."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.puppet.between_views import in_view, view_of_pose
from fox_hand.core.rig.rig import Rig
from fox_hand.library.files.atomic import keep_earlier
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.name_map import NameMap, map_path, read_map, write_map
from fox_hand.session.applying.application import How, Weights
from fox_hand.session.applying.fit_draft import FitDraft, Later
from fox_hand.session.applying.fit_result import foreign
from fox_hand.session.applying.mix import Fit, Mixed, fit_of
from fox_hand.session.figures.cast import Cast
from fox_hand.session.figures.figure import Figure
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.open_library import OpenLibrary


@dataclass(frozen=True)
class Again:
    """What was put on last, to put it on once more."""

    cards: tuple[Mixed, ...]
    weights: tuple[Weights, ...]
    how: How
    together: bool


@dataclass(frozen=True)
class ReadyAgain:
    """Cards that land, and why others do not."""

    cards: Sequence[Mixed]
    problems: Sequence[FoxHandError]


class Preparation:
    """May be asked in a job.

    Args:
        cast: where a card's own rig may stand.
        shelf: in whose libraries name maps lie.
    """

    def __init__(self, cast: Cast, open_libraries: OpenLibraries) -> None:
        self._cast, self._open_libraries = cast, open_libraries

    def ready(self, entry: Entry, actor: Figure, card: Card | None = None) -> Mixed:
        """A card as it goes on a character.

        Args:
            entry: the card.
            actor: the character.
            card: what the file holds, where it was read already.

        Raises:
            FoxHandError: if it cannot be read, or ``mix.nothing_lands``.
        """
        card = card or read_card(entry.path)[0]
        return prepared(entry, card, actor, lambda: self.draft(entry, card, actor))

    def ready_again(self, what: Again, actor: Figure) -> ReadyAgain:
        """The cards of what was on before, made ready for a character."""
        cards, problems = [], []
        for one in what.cards:
            try:
                cards.append(self.ready(one.entry, actor, one.original or one.card))
            except FoxHandError as error:
                problems.append(error)
        return ReadyAgain(cards, problems)

    def draft(
        self, entry: Entry, card: Card, actor: Figure, later: Later | None = None
    ) -> FitDraft:
        """How a card fits a character, with what was said before about the two rigs.

        Args:
            later: computes changes beside the window.
        """
        known = self.known(entry, card, actor.rig)
        return FitDraft(card, actor, known, self.own_rig(card), later)

    def own_rig(self, card: Card) -> Rig | None:
        """The rig a card was taken from, if it is on the stage."""
        rigs = (a.rig for a in list(self._cast.actors))
        return next((r for r in rigs if card.fingerprint and not foreign(card, r)), None)

    def known(self, entry: Entry, card: Card, rig: Rig) -> NameMap:
        """The name map of the card's rig and another; one that cannot be read counts as none, and
        is refused when it is to be written."""
        try:
            own = self._open_libraries.library_of(entry).own
            return read_map(own, card.character, rig.name)
        except FoxHandError:
            return NameMap(card.character, rig.name)

    def told_names(self, source: str, rig: Rig) -> dict[str, str | None]:
        """What was said about the names of some figure and a character, in any library: by name
        there the name here, or None where it has nothing."""
        for place in self._open_libraries.places:
            if place.library is None:
                continue
            try:
                found = read_map(place.library.own, source, rig.name)
            except FoxHandError:
                continue
            if found.names:
                return dict(found.names)
        return {}

    def save(self, entry: Entry, draft: FitDraft) -> None:
        """Keep what was said in the card's library.

        Raises:
            FoxHandError: why it could not be kept.
        """
        self.save_names(draft.saved_as(), self._open_libraries.place_of(entry))
        draft.was_saved()

    def save_names(self, content: NameMap, place: OpenLibrary | None) -> None:
        """Keep what was said about the names of two rigs in a library.

        Raises:
            FoxHandError: why it could not be kept; ``fit.no_library`` where there is none.
        """
        if place is None or place.library is None:
            raise FoxHandError(
                "fit.no_library",
                tr("There is no library in which the names could be kept."),
                tr("They count for what is being put on now."),
                tr("Open or make a library first."),
            )
        library = place.library
        read_map(library.own, content.source, content.target)  # refuses one it does not understand
        keep_earlier(map_path(library.own, content.source, content.target))
        write_map(library.own, content)
        place.know_names(content)
        self._open_libraries.changed.emit()


def prepared(entry: Entry, card: Card, actor: Figure, fitting: Callable[[], FitDraft]) -> Mixed:
    """A card as it goes on a character: as it is, or fitted where it is another's.

    Args:
        entry: where it lies.
        card: what it holds.
        actor: the character.
        fitting: how it would be fitted.

    Raises:
        FoxHandError: ``mix.nothing_lands``.
    """
    if card.drawing is not None and foreign(card, actor.rig):
        raise FoxHandError(
            "mix.drawing",
            tr(
                "{name} is a drawing of {character}.",
                name=entry.name,
                character=card.character or tr("another puppet"),
            ),
            tr("Nothing was changed."),
            tr("Drop it on a part of a puppet, which then has it as one more of its own."),
        )
    if foreign(card, actor.rig):
        draft = fitting()
        if draft.lands:
            return mixed(entry, draft)
    found = fit_of(card, actor.rig)
    if not found.lands:
        raise _nothing_lands(entry, actor.rig.name)
    drawn = view_of_pose(actor.rig, card.pose)
    if drawn is not None and drawn != actor.view and card.clip is None:
        return _in_view(entry, card, actor, drawn)
    return Mixed(entry, card, found)


def _in_view(entry: Entry, card: Card, actor: Figure, drawn: int) -> Mixed:
    """A card of one view on the parts of the view that is seen."""
    names = actor.rig.views.names
    worn = in_view(actor.rig, card.pose, actor.view)
    if not len(worn.pose):
        raise FoxHandError(
            "mix.other_view",
            tr(
                "{name} is drawn for {names}, and {names_2} has none of its parts.",
                name=entry.name,
                names=names[drawn],
                names_2=names[actor.view],
            ),
            tr("Nothing was changed."),
            tr("See {name} in {names} first.", name=actor.rig.name, names=names[drawn]),
        )
    asked = len(card.pose.controls)
    fit = Fit(asked - len(worn.lost), asked, worn.lost)
    return Mixed(entry, replace(card, pose=worn.pose), fit, card, names[drawn])


def mixed(entry: Entry, draft: FitDraft) -> Mixed:
    """A fitted card for a mix."""
    asked = len(draft.card.pose.controls)
    lost = tuple(row.source for row in draft.rows if row.source not in draft.taken_names)
    return Mixed(entry, draft.as_card(), Fit(asked - len(lost), asked, lost), draft.card)


def _nothing_lands(entry: Entry, rig: str) -> FoxHandError:
    return FoxHandError(
        "mix.nothing_lands",
        tr("{name} has no control in common with {rig}.", name=entry.name, rig=rig),
        tr("Nothing was changed."),
        tr("Choose Fit in the card's menu to say which names belong together."),
    )
