"""An empty stage: whatever is asked for does nothing, says so where it should, and is no step."""

from __future__ import annotations

import numpy as np

from fox_hand.core.animation.curves import ChannelId, ChannelKind, Origin
from fox_hand.library.format.container import read_card
from fox_hand.session.animating.frame_sequence import FrameSequence
from fox_hand.session.app.workspace import Workspace
from tests.session.conftest import entry

HEAD = ChannelId(ChannelKind.TURN, "head")


def test_nothing_is_keyed_copied_laid_in_or_captured_where_nobody_acts(
    workspace: Workspace,
) -> None:
    actor = workspace.actor
    assert actor is not None
    states = actor.take.many(np.arange(4.0))
    workspace.keying.key(everything=True)
    assert workspace.keying.copy({HEAD: np.array([1.0])}) == 1
    workspace.clear_stage()
    assert workspace.actor is None
    before = workspace.history.undo_label
    keying, placements = workspace.keying, workspace.placements
    assert keying.key() == 0 and keying.key(everything=True) == 0
    assert keying.copy({HEAD: np.array([1.0])}) == 0
    assert keying.paste() == {}
    assert keying.key_frames().tolist() == []
    card = read_card(entry(workspace, "Nod").path)[0]
    assert card.clip is not None
    assert placements.begin(card.clip, Origin(card.identity, card.name)) is None
    assert placements.take_up(0) is None and placements.now is None
    placements.remove(0)
    placements.keep()
    placements.as_keys()
    workspace.review.open(FrameSequence(actor, states, 24.0, "frames"))
    assert workspace.review.lay() == 0
    assert workspace.capturing.begin() is None
    workspace.capturing.mirror([entry(workspace, "Fist")], both=True)
    assert workspace.history.undo_label == before
