"""Which cards are ticked, and which has the keyboard; knows nothing of pixels or of Qt."""

from __future__ import annotations

from collections.abc import Collection, Sequence

import numpy as np
from psygnal import Signal

from fox_hand.session.libraries.request import Shown
from fox_hand.ui.browser.sheet_layout import At, SheetLayout, lay_out_sheets

FAR = 1 << 40  # steps to the first or last card, however many there are


class CardChoice:
    """Ticks and the current card, over a layout that may change under them."""

    ticked_changed = Signal()
    current_changed = Signal()

    def __init__(self) -> None:
        self.layout: SheetLayout = lay_out_sheets((), 0, 1, True, ())
        self.ticked: set[int] = set()
        self._current: At | None = None
        self._anchor: int | None = None  # the card a range begins with, wherever it is now

    # -- what is there --------------------------------------------------------------------

    def show(self, layout: SheetLayout) -> None:
        """Other cards are shown: what is still there stays current and ticked."""
        key, self.layout = self.current_key, layout
        self._current = layout.place_of(key)

    def forget_gone(self, shown: Sequence[Shown]) -> None:
        """Untick what is not among these any more."""
        if self.ticked:
            there = {int(k) for one in shown for k in one.keys.tolist()}
            self.set_ticked(self.ticked & there)

    # -- the current card -----------------------------------------------------------------

    @property
    def current(self) -> At | None:
        """Where the keyboard is; None where there is no card any more."""
        return self._current if self.current_key is not None else None

    @property
    def current_key(self) -> int | None:
        return self.layout.key(self._current)

    def go(self, at: At) -> None:
        """The keyboard goes on from here."""
        self._current = at
        self.current_changed.emit()

    def walk(self, step: int) -> bool:
        """Go so many cards further in reading order; false where there are none."""
        at = self.layout.walk(self._current, step)
        if at is not None:
            self.go(at)
        return at is not None

    # -- ticks ----------------------------------------------------------------------------

    def set_ticked(self, keys: Collection[int]) -> None:
        """Tick exactly these cards."""
        wanted = keys if isinstance(keys, set) else set(keys)
        if wanted != self.ticked:
            self.ticked = wanted
            self.ticked_changed.emit()

    def toggle(self, at: At) -> None:
        """Tick a card, or untick it."""
        key = self.layout.key(at)
        if key is not None:
            self._anchor = key
            self.set_ticked(self.ticked ^ {key})

    def tick_to(self, at: At) -> None:
        """Tick everything from the last ticked or current card to this one."""
        start = self.layout.place_of(self._anchor) or self.current or at
        self._anchor = self.layout.key(start)
        self.set_ticked(self.ticked | set(self.layout.between(start, at)))

    def walk_and_tick(self, step: int) -> None:
        """Go on with the keys, and tick everything passed since ticking began."""
        start = self.current
        if not self.walk(step) or start is None or self.current is None:
            return
        began = self.layout.place_of(self._anchor) if self.ticked else None
        if began is None:
            began, self._anchor = start, self.layout.key(start)
        self.set_ticked(self.layout.between(began, self.current))

    def tick_all(self) -> None:
        """Tick everything that is shown, in folded sections too."""
        keys = [section.shown.keys for section in self.layout.sections]
        self.set_ticked(set(np.concatenate(keys).tolist()) if keys else set())

    def chosen(self) -> list[int]:
        """What something is to be done with: those ticked, else the current one."""
        if self.ticked:
            return sorted(self.ticked)
        return [self.current_key] if self.current_key is not None else []

    def together_with(self, at: At) -> list[int]:
        """What is dragged with a card: all ticked where it is one of them, else it alone."""
        key = self.layout.key(at)
        if key is None:
            return []
        return sorted(self.ticked) if key in self.ticked else [key]
