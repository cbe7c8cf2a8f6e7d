"""A chart and its slots, as they are in ``charts/<name>.foxchart.toml``."""

from __future__ import annotations

from typing import Annotated, Literal

import msgspec

from fox_hand.base.files.documents import Number
from fox_hand.base.files.published import published
from fox_hand.library.format.schema import SideName
from fox_hand.library.index.query import words_of
from fox_hand.library.index.scan import CHARTS

VERSION = 1
SUFFIX = ".foxchart.toml"
FOLDER = CHARTS
MOST_SLOTS = 500
Name = Annotated[str, msgspec.Meta(min_length=1, max_length=80)]
RegionWord = Literal[
    "",
    "face",
    "body",
    "head",
    "eyes",
    "mouth",
    "torso",
    "arms",
    "hands",
    "legs",
    "ears",
    "wings",
    "tail",
    "limbs",
]


class Slot(msgspec.Struct, frozen=True, omit_defaults=True):
    """A shape that a character should have.

    ``key`` tells it from the others and stays when ``name`` changes. ``region`` and ``side`` say
    where it belongs; empty for anywhere. ``wanted`` is how many cards there should be. ``words``
    are other names a card may have. ``looks`` says in a sentence how it looks. ``picture`` is a
    file beside the chart. ``pose`` is the identity of a card that shows it. ``settings`` are
    values by what settings of a face do, such as ``jaw open``. ``stands_for`` is what the source
    calls it.
    """

    key: Name
    name: Name
    region: RegionWord = ""
    side: SideName | Literal[""] = ""
    wanted: Annotated[int, msgspec.Meta(ge=1, le=99)] = 1
    words: tuple[str, ...] = ()
    looks: str = ""
    picture: str = ""
    pose: str = ""
    settings: dict[str, Number] = {}
    stands_for: tuple[str, ...] = ()


class Assigned(msgspec.Struct, frozen=True, omit_defaults=True):
    """What somebody said of one slot and one character: identities of ``cards`` that fill it, best
    first (one of another character's is lent), and of those that are ``refused``."""

    slot: str
    character: str
    cards: tuple[str, ...] = ()
    refused: tuple[str, ...] = ()


class Chart(msgspec.Struct, frozen=True, omit_defaults=True):
    """Shapes that characters should have, in order.

    ``source`` names where the list comes from. ``characters`` are those it is for; empty for all
    that have cards.
    """

    name: Name
    version: Literal[1] = 1
    source: str = ""
    characters: tuple[str, ...] = ()
    slots: Annotated[tuple[Slot, ...], msgspec.Meta(max_length=MOST_SLOTS)] = ()
    assigned: tuple[Assigned, ...] = ()

    def slot(self, key: str) -> Slot | None:
        """The slot with a key."""
        return next((slot for slot in self.slots if slot.key == key), None)

    def said(self, key: str, character: str) -> Assigned:
        """What was said of a slot and a character."""
        same = (
            one
            for one in self.assigned
            if one.slot == key and one.character.casefold() == character.casefold()
        )
        return next(same, Assigned(key, character))


def alike_name(text: str) -> str:
    """A name as slots compare it: letters and digits only, in lower case, without a number at the
    end: ``M B P 2`` and ``mbp`` are the same."""
    words = list(words_of(text))
    while len(words) > 1 and words[-1].isdigit():
        words.pop()
    return "".join(words)


def json_schema() -> bytes:
    """The JSON Schema (draft 2020-12) of a chart, read as TOML."""
    return published(Chart, "Fox Hand chart, version 1")
