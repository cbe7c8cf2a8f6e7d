"""A card as the index knows it: everything a list shows, without the pose."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.core.model.controls import Region
from fox_hand.library.format.schema import KindName, SideName


@dataclass(frozen=True)
class Entry:
    """One card file of a library.

    Args:
        path: the file.
        sheet: its folder below the library, with ``/``; empty for the library's own folder.
        item: its number in the library's index; 0 before it is in one.
        identity: the card's own, which stays through renames and moves; empty if unreadable.
        name: as shown; the file's name where the card cannot be read.
        count: controls it holds.
        holds: kinds of channel it holds, of ``moves turns scales settings``.
        shape: number of its set of controls and settings in the index, 0 for none.
        changed_by: who changed it last; its author where nobody says.
        content: stands for all values it holds: another where any of them is another.
        approved_by, approved_at: who locked it and when; empty if nobody did.
        has_picture: whether it brings a picture.
        error: why it could not be read, None if it could.

    The others are those of :class:`fox_hand.library.format.card.Card`.
    """

    path: Path
    sheet: str
    item: int = 0
    identity: str = ""
    name: str = ""
    revision: int = 0
    region: Region = Region.TORSO
    side: SideName = "centre"
    kind: KindName = "pose"
    tags: tuple[str, ...] = ()
    note: str = ""
    author: str = ""
    licence: str = ""
    character: str = ""
    fingerprint: str = ""
    created: str = ""
    changed: str = ""
    changed_by: str = ""
    content: str = ""
    approved_by: str = ""
    approved_at: str = ""
    count: int = 0
    holds: tuple[str, ...] = ()
    shape: int = 0
    has_picture: bool = False
    error: FoxHandError | None = None

    @property
    def readable(self) -> bool:
        return self.error is None

    @property
    def locked(self) -> bool:
        return bool(self.approved_by or self.approved_at)
