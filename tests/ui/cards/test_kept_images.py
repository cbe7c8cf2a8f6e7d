"""Pictures in memory: counted in bytes, whatever size cards are shown at."""

from __future__ import annotations

from PySide6.QtGui import QImage

from fox_hand.ui.browser.sheets_bar import SizeSlider
from fox_hand.ui.cards.kept_images import ROOM, SCREENS, KeptImages
from tests.ui.conftest import LONG, Hand


def image(pixels: int) -> QImage:
    return QImage(pixels, pixels, QImage.Format.Format_ARGB32_Premultiplied)


def test_the_ones_not_asked_for_the_longest_go_when_there_is_no_room() -> None:
    kept = KeptImages[QImage](room=10 * 100 * 100 * 4 + 10 * 400)
    for number in range(10):
        kept.put(number, image(100))
    assert kept.get(0) is not None  # asked for again
    kept.put(10, image(100))
    assert kept.get(1) is None
    assert kept.get(0) is not None
    kept.put(0, image(10))  # another in its place
    assert kept.held < 10 * 100 * 100 * 4
    kept.put("huge", image(4000))
    assert len(kept) == 1  # what was asked for last is there, however large
    assert kept.get("huge") is not None
    for number in range(50):
        kept.put(number, image(20))
    assert kept.get("huge") is None


def test_cards_of_many_sizes_do_not_fill_the_memory(hand: Hand) -> None:
    view = hand.window.sheets.view
    stamps, pictures = view._painter._stamps._kept, view._painter._pictures._kept
    slider = hand.window.sheets.findChild(SizeSlider)
    for size in range(slider.minimum(), slider.maximum() + 1, 2):
        slider.setValue(size)
        view.repaint()
    hand.settle()
    hand.qtbot.waitUntil(lambda: len(pictures) > 0 and len(stamps) > 0, timeout=LONG)
    seen = len(list(view.layout_now().visible(view.offset, view.offset + view.height())))
    whole = seen * view.card_size**2 * 4
    assert pictures.held <= max(ROOM, SCREENS * whole)
    assert stamps.held <= max(ROOM, 2 * SCREENS * whole)  # name and margin are on them too
    slider.setValue(slider.minimum())
    view.repaint()
    hand.settle()
    assert pictures.held <= ROOM  # what was needed for large ones is given back
