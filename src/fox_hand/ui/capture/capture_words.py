"""What the head of a capture says."""

from __future__ import annotations

from fox_hand.base.language import tr
from fox_hand.session.capturing.draft import CaptureDraft


def words_of(draft: CaptureDraft) -> tuple[str, str, str]:
    """What is done, of what, and what the button says that ends it."""
    if draft.retaken is not None:
        return tr("Take the picture again"), tr("of {name}", name=draft.name), tr("Save picture")
    if draft.over is not None:
        return tr("Store over"), draft.over.name, tr("Store over")
    if draft.span is not None:
        first, last = draft.span
        frames = tr("frames {first:g} to {last:g}", first=first, last=last)
        return tr("Capture a clip"), frames, tr("Save card")
    return tr("Capture a card"), draft.source_words, tr("Save card")
