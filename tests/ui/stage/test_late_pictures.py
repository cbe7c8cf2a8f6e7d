"""A picture that comes late is of no use, and holds nobody on the stage."""

from __future__ import annotations

import gc
import weakref

from fox_hand.session.app.stage_composition import GHOST
from tests.ui.conftest import LONG, Hand


def test_a_ghost_that_comes_after_its_card_does_not_keep_the_card_on(hand: Hand) -> None:
    pictures = hand.window.stage.pictures
    hand.click_card("Wave")
    mix, key = hand.workspace.mix, pictures._ghost_key()
    assert key is not None
    hand.qtbot.waitUntil(lambda: pictures._ghost_known, timeout=LONG)
    hand.settle()
    drawn = pictures.latest
    assert drawn is not None
    hand.workspace.put_back()
    pictures.forget(everything=False)
    late = type(drawn)(drawn.pixels, drawn.view, {GHOST: ()}, drawn.milliseconds)
    pictures._arrived(late, key, None, None)
    assert pictures._ghost is None
    gone = weakref.ref(mix)
    del mix, key
    hand.click_card("Glad")  # what is put on again is another mix
    hand.workspace.put_back()
    hand.settle()

    def let_go() -> bool:
        gc.collect()
        return gone() is None

    hand.qtbot.waitUntil(let_go, timeout=LONG)
