"""How a link goes, in words and colours."""

from __future__ import annotations

from dataclasses import dataclass

from fox_hand.base.language import number_text, tr
from fox_hand.session.link.host_link import HostLink, LinkState


@dataclass(frozen=True)
class LinkLook:
    """What is shown of a link.

    Args:
        word: of its state.
        detail: how quick it is, or since when it is not there.
        tone: the token of its dot.
        hollow: whether the dot is only a ring.
    """

    word: str
    detail: str
    tone: str
    hollow: bool = False


def link_look(link: HostLink) -> LinkLook:
    """How a link goes now."""
    count, late = link.speed
    quick = tr("{count} a second, {late} s late", count=count, late=number_text(late, ".2f"))
    state = link.state
    if state is LinkState.LOST:
        since = link.last_seen
        at = since.strftime("%H:%M") if since is not None else ""
        return LinkLook(
            tr("lost"), tr("last seen {time}, kept as it was", time=at), "warning", hollow=True
        )
    if state is LinkState.SLOW:
        return LinkLook(tr("slow"), quick, "warning")
    if state is LinkState.WATCHING:
        return LinkLook(tr("watching"), tr("another window leads"), "quiet")
    if state is LinkState.PAUSED:
        return LinkLook(tr("paused"), tr("nothing goes there"), "quiet", hollow=True)
    if state is LinkState.LIVE:
        return LinkLook(tr("live"), quick if count else link.name, "good")
    return LinkLook(tr("linking …"), "", "quiet", hollow=True)
