"""Cards that only puppets have: of their views, all in one go, and of single drawings."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial

from psygnal import Signal

from fox_hand.base.language import tr, tr_n
from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.library.format.card import Card
from fox_hand.session.capturing.capture_pictures import CapturePictures
from fox_hand.session.capturing.card_framing import framed
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.figures.cast import Cast
from fox_hand.session.figures.figure import Figure
from fox_hand.session.libraries.file_jobs import Outcome
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.storing import Storing, Wanted
from fox_hand.session.puppets.drawing_cards import choice_of_drawing, drawing_of, own_nodes
from fox_hand.session.runtime.settings import Settings

SHEET, DRAWINGS = tr("Views"), tr("Drawings")


def view_draft(actor: Figure, number: int) -> CaptureDraft:
    """A card that turns a puppet to one of its views, its picture the puppet at rest.

    Args:
        actor: a puppet with views.
        number: of the view.
    """
    rig = actor.rig
    view = rig.views.view
    assert view is not None
    values = rig.rest.settings.copy()
    values[view] = number
    draft = CaptureDraft(actor, (), rig.rest.with_(settings=values))
    draft.take_exactly([ChannelId(ChannelKind.SETTING, rig.settings[view].name)])
    name = rig.views.names[number]
    draft.name = f"{rig.name} {name.lower()}"
    draft.sheet = f"{rig.name}/{SHEET}"
    draft.tags = ("view", name.lower())
    drawings = [c.node for r, c in enumerate(rig.controls) if rig.views.of_control[r] == number]
    camera = framed(actor, draft.standing, [])
    draft.frame = camera.framing(rig.flesh(draft.standing.at, drawings), 1.0)
    return draft


def drawing_draft(actor: Figure, row: int, number: int) -> CaptureDraft:
    """A card of one of a part's drawings, its picture the puppet at rest that shows it.

    Args:
        actor: a puppet.
        row: the part's control.
        number: of the drawing.
    """
    rig = actor.rig
    swap, view = rig.swaps.get(row), rig.views.of_control[row]
    values = rig.rest.settings.copy()
    if rig.views.view is not None:
        values[rig.views.view] = max(view, 0)
    if swap is not None:
        values[swap.setting] = number
    draft = CaptureDraft(actor, (), rig.rest.with_(settings=values))
    draft.take_exactly([] if swap is None else [choice_of_drawing(rig, swap)])
    label = rig.controls[row].label
    draft.name = label if swap is None else f"{label} {swap.names[number]}"
    draft.sheet, draft.tags = f"{rig.name}/{DRAWINGS}", (label.lower(),)
    nodes = own_nodes(rig, row) if swap is None else (swap.nodes[number],)
    camera = framed(actor, draft.standing, [])
    draft.frame = camera.framing(rig.flesh(draft.standing.at, nodes), 1.0)
    return draft


class PuppetCards:
    """Takes them.

    Args:
        cast, open_libraries, storing, settings: whose views, where cards go, how they are signed.
        drawing: draws their pictures.
    """

    told = Signal(str)

    def __init__(
        self,
        cast: Cast,
        open_libraries: OpenLibraries,
        storing: Storing,
        settings: Settings,
        drawing: Callable[[], CapturePictures],
    ) -> None:
        self._cast, self._open_libraries = cast, open_libraries
        self._storing, self._settings, self._drawing = storing, settings, drawing

    @property
    def there(self) -> bool:
        """Whether the acting figure has views."""
        actor = self._cast.acting
        return actor is not None and actor.rig.views.view is not None

    def take_views(self, then: Callable[[Outcome], None] | None = None) -> None:
        """A card for each view of the acting puppet, one undo step; why there is none is told."""
        actor = self._cast.acting
        if actor is None or actor.rig.views.view is None:
            self.told.emit(tr("Views are of puppets that are drawn from several sides."))
            return
        drafts = [view_draft(actor, number) for number in range(len(actor.rig.views.names))]
        self._take(
            tr_n("Card of {number} view", "Cards of {number} views", len(drafts)),
            [(one, one.card()) for one in drafts],
            then,
        )

    def take_drawing(
        self, row: int, number: int, then: Callable[[Outcome], None] | None = None
    ) -> None:
        """A card of one of the drawings of a part of the acting puppet.

        Args:
            row: the part's control.
            number: of the drawing.
            then: is given what came of it.
        """
        actor = self._cast.acting
        drawing = None if actor is None else drawing_of(actor.rig, row, number)
        if actor is None or drawing is None:
            self.told.emit(tr("There is no drawing that could become a card."))
            return
        draft = drawing_draft(actor, row, number)
        card = replace(
            draft.card(), kind="drawing", drawing=drawing, region=actor.rig.controls[row].region
        )
        self._take(tr("Card of {name}", name=draft.name), [(draft, card)], then)

    def _take(
        self,
        label: str,
        made: Sequence[tuple[CaptureDraft, Card]],
        then: Callable[[Outcome], None] | None,
    ) -> None:
        place, settings = self._open_libraries.target, self._settings
        if place is None or not place.writable:
            self.told.emit(
                tr("There is no library that new cards could go into. Open or make one.")
            )
            return
        signed = [
            (draft, replace(card, author=settings.author, licence=settings.licence))
            for draft, card in made
        ]
        tasks = [(card.name, partial(self._wanted, draft, card)) for draft, card in signed]
        self._storing.store_later(label, place, tasks, then)

    def _wanted(self, draft: CaptureDraft, card: Card) -> Wanted:
        assert draft.frame is not None
        return Wanted(card, self._drawing().drawn(draft.standing, draft.frame, card), draft.sheet)
