"""A simulated colleague: does to a shared library what people do."""

from __future__ import annotations

import random
import time
import uuid
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.library.format.container import read_card, read_picture
from fox_hand.library.format.schema import SUFFIX
from fox_hand.library.store import moves
from fox_hand.library.store.moves import current
from fox_hand.library.store.store import Library

NAME = "Tomas R."
THINGS = ("rail", "rope", "lamp", "hatch", "crate", "line", "wheel", "horn")
TAGS = ("night", "deck", "retake", "calm", "wind")


class Colleague:
    """Works in a library, one deed after the other.

    Args:
        folder: the library.
        seed: the same seed does the same deeds.

    Raises:
        FoxHandError: if it is no library.
    """

    name = NAME

    def __init__(self, folder: Path, seed: int = 1) -> None:
        self._library = Library(folder, by=lambda: NAME)
        self._random = random.Random(seed)
        self._deeds = (self.add, self.change, self.tag, self.move)

    def work(
        self,
        every: float,
        deeds: int,
        say: Callable[[str], object],
        wait: Callable[[float], object] = time.sleep,
    ) -> None:
        """Do deeds until there were enough, or for ever with 0."""
        done = 0
        while not deeds or done < deeds:
            try:
                say(self._deeds[done % len(self._deeds)]())
            except FoxHandError as error:
                say(error.sentence())
            done += 1
            if not deeds or done < deeds:
                wait(every)

    def _some_card(self) -> Path:
        folder = self._library.folder
        paths = [
            p
            for p in sorted(folder.rglob(f"*{SUFFIX}"))
            if not any(part.startswith(".") for part in p.relative_to(folder).parts)
        ]
        if not paths:
            raise FoxHandError("demo.empty", tr("There is no card to work with."), "")
        return self._random.choice(paths)

    def add(self) -> str:
        """A new card, made from one that is there."""
        source = self._some_card()
        card, picture = read_card(source)
        name = f"{card.name} at the {self._random.choice(THINGS)}"
        own = replace(
            card,
            name=name,
            identity=uuid.uuid4().hex,
            revision=1,
            created="",
            author=NAME,
            approved_by="",
            approved_at="",
        )
        sheet = source.parent.relative_to(self._library.folder).as_posix()
        large = read_picture(source, 640)
        path = self._library.add(own, picture, "" if sheet == "." else sheet, large)
        return tr("{who} added {card}", who=NAME, card=path.name)

    def change(self) -> str:
        """Another pose for a card: that of another in its sheet."""
        path = self._some_card()
        other = self._random.choice(sorted(path.parent.glob(f"*{SUFFIX}")))
        entry = current(self._library, path)
        card, _ = read_card(path)
        pose, picture = read_card(other)
        changed = replace(
            card,
            pose=pose.pose,
            kind=pose.kind,
            clip=pose.clip,
            author=NAME,
            note=f"now like {pose.name}",
        )
        moves.store_over(self._library, entry, changed, picture, read_picture(other, 640))
        return tr("{who} stored {pose} over {card}", who=NAME, pose=pose.name, card=path.name)

    def tag(self) -> str:
        """A tag more."""
        path, tag = self._some_card(), self._random.choice(TAGS)
        moves.reword(
            self._library,
            current(self._library, path),
            lambda card: replace(card, tags=tuple(dict.fromkeys((*card.tags, tag)))),
        )
        return tr("{who} tagged {card} with {tag}", who=NAME, card=path.name, tag=tag)

    def move(self) -> str:
        """Into the sheet of another card."""
        path, other = self._some_card(), self._some_card()
        sheet = other.parent.relative_to(self._library.folder).as_posix()
        moved = moves.move(self._library, path, "" if sheet == "." else sheet)
        assert moved.path is not None
        sheet = moved.path.parent.name
        return tr("{who} put {card} into {sheet}", who=NAME, card=path.name, sheet=sheet)
