"""Pictures of many cards, taken again: drawn side by side, written one after the other."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import ExitStack, contextmanager
from pathlib import Path
from queue import SimpleQueue
from typing import get_args

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.schema import StyleName
from fox_hand.library.store import moves
from fox_hand.library.store.store import Library
from fox_hand.render.renderer import Renderer
from fox_hand.session.capturing.capture_pictures import CapturePictures
from fox_hand.session.capturing.reshooting import not_drawn, reshot
from fox_hand.session.figures.figure import Figure

MOST_PROCESSES = 4
Drawn = tuple[Card, tuple[bytes | None, ...]]
Took = Callable[[Entry, FoxHandError | None], None]


class Reshooter:
    """Draws cards on one character.

    Args:
        rig: who wears them.
        renderers: as many as draw at once.
        style: how to draw; empty for as each card was drawn.

    Raises:
        FoxHandError: ``style.unknown``.
    """

    def __init__(self, rig: Rig, renderers: Sequence[Renderer], style: str = "") -> None:
        self._style: StyleName | None = next((s for s in get_args(StyleName) if s == style), None)
        if style and self._style is None:
            raise FoxHandError(
                "style.unknown",
                tr("{style} is no way to draw.", style=style),
                tr("Nothing was changed."),
                tr("There are {names}.", names=", ".join(get_args(StyleName))),
            )
        self._actor = Figure(rig, Path())
        self._count = len(renderers)
        self._idle: SimpleQueue[CapturePictures] = SimpleQueue()
        for renderer in renderers:
            self._idle.put(CapturePictures(renderer))

    def take(self, library: Library, entries: Sequence[Entry], took: Took) -> None:
        """Take their pictures; ``took`` is told of each, with what went wrong or None."""
        with ThreadPoolExecutor(self._count) as pool:
            waiting = [(entry, pool.submit(self._read, entry)) for entry in entries]
            for entry, drawing in waiting:
                took(entry, self._written(library, entry, drawing))

    @staticmethod
    def _written(library: Library, entry: Entry, drawing: Future[Drawn]) -> FoxHandError | None:
        try:
            card, pictures = drawing.result()
            moves.repicture(library, entry, card, *pictures)
        except FoxHandError as error:
            return error
        return None

    def _read(self, entry: Entry) -> Drawn:
        return self.drawn(read_card(entry.path)[0])

    def drawn(self, card: Card) -> Drawn:
        """The card with its frame, and its pictures at 320 and 640 px, of a clip moving too."""
        drawing = self._idle.get()
        try:
            again = reshot(card, self._actor, drawing, self._style)
            pictures = again.pictures()
        finally:
            self._idle.put(drawing)
        if pictures[0] is None:
            raise not_drawn(card.name)
        return again.card, pictures


@contextmanager
def renderers(most: int = MOST_PROCESSES) -> Iterator[list[Renderer]]:
    """One drawing process for each processor, ended afterwards."""
    count = max(1, min(len(os.sched_getaffinity(0)), most))
    with ExitStack() as ends:
        found = []
        for _ in range(count):
            renderer = Renderer()
            ends.callback(renderer.stop)
            found.append(renderer)
        yield found
