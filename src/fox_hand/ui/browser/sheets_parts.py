"""The sheets as they are heard: headings and cards in sight."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PySide6.QtCore import QRect
from PySide6.QtGui import QAccessible

from fox_hand.base.language import tr_n
from fox_hand.library.format.entry import Entry
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.request import Shown
from fox_hand.ui.browser.card_choice import CardChoice
from fox_hand.ui.browser.sheet_layout import HEADING, SheetLayout
from fox_hand.ui.browser.sheets_paint import heading_top
from fox_hand.ui.browser.sheets_painter import Marks, card_tip
from fox_hand.ui.cards.card_words import describe
from fox_hand.ui.widgets.accessible_parts import AccessibleAmount, AccessiblePart

Key = tuple[str, object]


def heard_sheets(
    open_libraries: OpenLibraries,
    layout: SheetLayout,
    choice: CardChoice,
    marks: Marks,
    view: QRect,
    press: Callable[[Entry], object],
    fold: Callable[[Shown, bool], object],
) -> Iterator[AccessiblePart]:
    """Every heading in sight, followed by its cards.

    Args:
        shelf, layout, choice, marks: the cards, where they lie, and what is the matter with them.
        view: what is in sight, content pixels.
        press: puts a card on.
        fold: folds a section, or opens it.
    """
    seen = list(layout.visible(view.top(), view.bottom()))
    for number, section in enumerate(layout.sections):
        top = heading_top(section, view.top())
        inside = [at for at in seen if at[0] == number]
        if not inside and not -HEADING < top <= view.height():
            continue
        shown, closed = section.shown, section.closed
        yield AccessiblePart(
            ("section", f"{shown.place.number}/{shown.key}"),
            section.title,
            QRect(0, top, layout.width, HEADING),
            QAccessible.Role.Heading,
            ", ".join(
                [tr_n("{number:,} card", "{number:,} cards", section.count), shown.place.name]
            ),
            expanded=not closed,
            press=lambda shown=shown, closed=closed: fold(shown, not closed),  # type: ignore[misc]
        )
        for at in inside:
            entry = open_libraries.at_hand(layout.key(at) or 0)
            if entry is not None:
                rect = QRect(*layout.card_rect(*at)).translated(0, -view.top())
                yield _card(open_libraries, entry, rect, at == choice.current, choice, marks, press)


def card_part_key(key: int) -> Key:
    """What tells a card's part from others."""
    return "card", key


def _card(
    open_libraries: OpenLibraries,
    entry: Entry,
    rect: QRect,
    current: bool,
    choice: CardChoice,
    marks: Marks,
    press: Callable[[Entry], object],
) -> AccessiblePart:
    key = open_libraries.key_in(entry) or 0
    amount = marks.mix.weight_of(entry) if marks.mix is not None else None
    more = card_tip(open_libraries, entry, marks.rig, marks.author)
    return AccessiblePart(
        card_part_key(key),
        entry.name,
        rect,
        QAccessible.Role.ListItem,
        ". ".join(part for part in (describe(entry), more) if part),
        AccessibleAmount(amount * 100, -50.0, 150.0, 1.0) if amount is not None else None,
        selected=amount is not None,
        checked=key in choice.ticked,
        current=current and marks.focus,
        enabled=entry.readable,
        press=lambda: press(entry),
    )
