"""Cards: what they say and hold."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Mapping
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr

if TYPE_CHECKING:
    from fox_hand.api.rig import Rig
    from fox_hand.library.format.card import Card as CoreCard

Values = Mapping[str, Mapping[str, float]]
IN_MEMORY = Path("in memory.foxcard")


def place_of(card: Card) -> Path:
    """Its file, or one that is not there: the library around it knows names of rigs."""
    return card.path or IN_MEMORY


class Card:
    """A pose or a clip with everything people know about it. It never changes; what changes
    something gives another one, which :meth:`Library.replace` writes over the first."""

    def __init__(self, core: CoreCard, path: Path | None = None) -> None:
        self.core, self.path = core, path

    @staticmethod
    def open(path: Path | str) -> Card:
        """Read a card's file.

        Raises:
            FoxHandError: if it is damaged, foreign or newer.
        """
        from fox_hand.library.format.container import read_card

        return Card(read_card(Path(path))[0], Path(path))

    def __repr__(self) -> str:
        return f"<Card {self.name}: {len(self.core.pose)} controls>"

    @property
    def name(self) -> str:
        return self.core.name

    @property
    def tags(self) -> tuple[str, ...]:
        return self.core.tags

    @property
    def note(self) -> str:
        return self.core.note

    @property
    def author(self) -> str:
        return self.core.author

    @property
    def licence(self) -> str:
        return self.core.licence

    @property
    def character(self) -> str:
        """Name of the rig it was taken from."""
        return self.core.character

    @property
    def identity(self) -> str:
        """Stays the same through renames and moves."""
        return self.core.identity

    @property
    def revision(self) -> int:
        """Grows by one each time it is stored over."""
        return self.core.revision

    @property
    def kind(self) -> str:
        """``pose`` or ``clip``."""
        return self.core.kind

    @property
    def region(self) -> str:
        return self.core.region.value

    @property
    def side(self) -> str:
        """``left``, ``right``, ``centre`` or ``both``."""
        return self.core.side

    @property
    def frames(self) -> int:
        """How many frames a clip has; of a pose 1."""
        return 1 if self.core.clip is None else round(self.core.clip.length) + 1

    def facts(self) -> dict[str, Any]:
        """Everything it says in plain words and numbers, values included."""
        card = self.core
        return {
            "name": card.name,
            "kind": card.kind,
            "id": card.identity,
            "revision": card.revision,
            "character": card.character,
            "fingerprint": card.fingerprint,
            "author": card.author,
            "licence": card.licence,
            "tags": list(card.tags),
            "note": card.note,
            "approved_by": card.approved_by,
            "source": card.source,
            "frames": None if card.clip is None else self.frames,
            "controls": self.values(),
        }

    def values(self) -> dict[str, dict[str, float]]:
        """What it holds, by the names and orders of its own rig; of a clip how it begins. What it
        does not hold is absent, not at rest."""
        from fox_hand.api.values import held_values

        return held_values(self.core.pose)

    def with_values(self, rig: Rig, values: Values, *, limits: bool = True) -> Card:
        """With some values set, and with what it did not hold until now.

        Args:
            rig: whose names, orders and ranges they are: its own.
            values, limits: as for :meth:`Stance.with_values`.

        Raises:
            FoxHandError: as :meth:`Stance.with_values`; ``api.clip`` for clips, whose values change
                from frame to frame; ``api.other_rig`` for another rig than its own.
        """
        from fox_hand.api.values import pose_with
        from fox_hand.session.applying.fit_result import foreign

        kept = tr("Nothing was changed.")
        if self.core.clip is not None:
            said = tr("{name} is a clip; its values change.", name=self.name)
            raise FoxHandError("api.clip", said, kept)
        if foreign(self.core, rig.core):
            said = tr("{name} was not taken from {rig}.", name=self.name, rig=rig.name)
            raise FoxHandError("api.other_rig", said, kept, tr("Fit it first; that gives a card."))
        pose = pose_with(rig.core, self.core.pose, values, limits=limits)
        return Card(replace(self.core, pose=pose), self.path)

    def with_words(
        self,
        *,
        name: str | None = None,
        tags: Iterable[str] | None = None,
        note: str | None = None,
        author: str | None = None,
        licence: str | None = None,
    ) -> Card:
        """With other words; None leaves them."""
        core = self.core
        return Card(
            replace(
                core,
                name=core.name if name is None else name,
                tags=core.tags if tags is None else tuple(tags),
                note=core.note if note is None else note,
                author=core.author if author is None else author,
                licence=core.licence if licence is None else licence,
            ),
            self.path,
        )

    def mirrored(self, rig: Rig, *, both: bool = False) -> Card:
        """Of the other side, or with ``both`` of both: a card of its own.

        Args:
            rig: its own.
            both: keep its side too.

        Raises:
            FoxHandError: ``api.clip`` for clips.
        """
        from fox_hand.session.figures.pose_conversion import mirrored_pose, side_after

        if self.core.clip is not None:
            said = tr("{name} is a clip; put it on the other side instead.", name=self.name)
            raise FoxHandError("api.clip", said, tr("Nothing was changed."))
        side = side_after(self.core.side, both=both)
        pose = mirrored_pose(rig.core, self.core.pose, both=both)
        plain = replace(self.core, pose=pose, side=side, frame=None, anchor=None, revision=1)
        return Card(replace(plain, identity=uuid.uuid4().hex, approved_by="", approved_at=""))

    def picture(self, pixels: int = 320) -> bytes | None:
        """The picture it brings along, PNG or WebP; None without a file or a picture.

        Args:
            pixels: how large it is wanted; more than 320 asks for the larger one.
        """
        from fox_hand.library.format.container import read_picture

        return None if self.path is None else read_picture(self.path, pixels)
