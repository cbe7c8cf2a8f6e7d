"""Cards of the views of a puppet, all in one go: each turns to its view and holds nothing else."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from psygnal import Signal

from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.session.capturing.capture_pictures import CapturePictures
from fox_hand.session.capturing.card_framing import framed
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.figures.cast import Cast
from fox_hand.session.figures.figure import Figure
from fox_hand.session.libraries.file_jobs import Outcome
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.storing import Storing, Wanted
from fox_hand.session.runtime.settings import Settings

SHEET = "Views"


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


class ViewCards:
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

    def take(self, then: Callable[[Outcome], None] | None = None) -> None:
        """A card for each view of the acting puppet, one undo step; why there is none is told."""
        actor, place = self._cast.acting, self._open_libraries.target
        if actor is None or actor.rig.views.view is None:
            self.told.emit("Views are of puppets that are drawn from several sides.")
            return
        if place is None or not place.writable:
            self.told.emit("There is no library that new cards could go into. Open or make one.")
            return
        drafts = [view_draft(actor, number) for number in range(len(actor.rig.views.names))]
        for draft in drafts:
            draft.author, draft.licence = self._settings.author, self._settings.licence
        tasks = [(draft.name, partial(self._wanted, draft)) for draft in drafts]
        self._storing.store_later(f"Cards of {len(tasks)} views", place, tasks, then)

    def _wanted(self, draft: CaptureDraft) -> Wanted:
        card = draft.card()
        assert draft.frame is not None
        return Wanted(card, self._drawing().drawn(draft.standing, draft.frame, card), draft.sheet)
