"""What is said over and instead of the cards."""

from __future__ import annotations

from collections.abc import Sequence

from fox_hand.base.language import tr, tr_n
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.libraries.request import Request


def said_waiting(places: Sequence[OpenLibrary]) -> str:
    """What has not reached its library yet."""
    return " ".join(
        tr_n(
            "{number} card for {name} waits here until it can be written.",
            "{number} cards for {name} wait here until they can be written.",
            place.waiting,
            name=place.name,
        )
        for place in places
        if place.waiting
    )


def why_empty(places: Sequence[OpenLibrary], request: Request, *, part: bool) -> str:
    """Why no card is shown, and what to do.

    Args:
        places: the libraries that are looked in.
        request: what is asked for.
        part: whether only a part of the body is.
    """
    if request.within and (request.text or part):
        return tr("No card here matches. Press All sheets to look everywhere, or clear the search.")
    if request.within:
        return tr("Nothing lies in here yet. Drop cards onto it, or capture one.")
    problem = next((p.problem for p in places if p.problem is not None), None)
    if problem is not None and not any(map(len, places)):
        return problem.sentence()
    if any(map(len, places)):
        return tr("No card matches. Clear the search, or choose All and take the filters off.")
    if not places:
        return tr("No library is open. Make one, or add one that is there, in the menu above.")
    return tr("This library is still empty. Pose the figure, then press Capture to keep a card.")


def libraries_word(places: Sequence[OpenLibrary], one: OpenLibrary | None) -> str:
    """What the head says of the libraries that are seen: the one, or how many there are."""
    if one is None and len(places) == 1:
        one = places[0]
    if one is not None:
        return one.name
    return tr_n("1 library", "{number} libraries", len(places)) if places else tr("None")
