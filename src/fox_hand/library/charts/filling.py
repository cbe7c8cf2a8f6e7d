"""Which cards fill which slot: a decision from what is said on cards and charts, and nothing
else."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import IntEnum
from functools import partial

from fox_hand.core.model.controls import FACE_REGIONS, Region
from fox_hand.library.charts.chart import Chart, Slot, alike_name
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.query import REGION_WORDS, SIDE_WORDS

LEAST = 0.85  # how like its sample a card must be to be proposed


class Why(IntEnum):
    """Why a card fills a slot; the first counts most."""

    ASSIGNED = 0
    TAG = 1
    NAME = 2
    WORD = 3


@dataclass(frozen=True)
class Filled:
    """A card in a slot.

    Args:
        card: the card.
        how: why it is there.
        lent: whether it is another character's.
    """

    card: Entry
    how: Why
    lent: bool = False


@dataclass(frozen=True)
class Filling:
    """A slot of one character.

    Args:
        slot, character: which.
        cards: that fill it, best first.
        proposed: cards that perhaps do, by how like they are, most first; nobody said so yet.
    """

    slot: Slot
    character: str
    cards: tuple[Filled, ...] = ()
    proposed: tuple[tuple[Entry, float], ...] = ()

    @property
    def missing(self) -> bool:
        return not self.cards

    @property
    def short(self) -> int:
        """How many more cards are wanted, where there are some."""
        return max(self.slot.wanted - len(self.cards), 0) if self.cards else 0


Likely = Mapping[tuple[str, str], Sequence[tuple[str, float]]]


def fill(
    chart: Chart, characters: Sequence[str], cards: Iterable[Entry], likely: Likely | None = None
) -> dict[tuple[str, str], Filling]:
    """Decide it for all slots of a chart.

    Args:
        chart: its slots, and what was said of them.
        characters: whose.
        cards: all cards there are.
        likely: by slot and character identities of cards that look like it and how much, 0...1.

    Returns:
        by the slot's key and the character.
    """
    readable = [card for card in cards if card.readable and card.identity]
    by_identity = {card.identity: card for card in readable}
    of = {character.casefold(): list[_Called]() for character in characters}
    for card in readable:
        if card.character.casefold() in of:
            of[card.character.casefold()].append(_Called.of(card))
    all_names = {slot.key: alike_name(slot.name) for slot in chart.slots}
    names = {slot.key: _SlotNames.of(chart, slot, all_names) for slot in chart.slots}
    found = {}
    for character in characters:
        own = of[character.casefold()]
        for slot in chart.slots:
            filled = _in_slot(chart, slot, character, names[slot.key], own, by_identity)
            found[slot.key, character] = Filling(slot, character, filled)
    return _with_likely(found, chart, by_identity, likely or {})


@dataclass(frozen=True)
class _Called:
    """A card with its names as slots compare them."""

    card: Entry
    name: str
    tags: frozenset[str]

    @staticmethod
    def of(card: Entry) -> _Called:
        return _Called(card, alike_name(card.name), frozenset(map(alike_name, card.tags)))


@dataclass(frozen=True)
class _SlotNames:
    """What a card in a slot may be called.

    Args:
        own: the slot's name and key.
        full: the same with the chart's name before it.
        words: all names, the other ones too.
        others: names of the chart's other slots.
    """

    own: frozenset[str]
    full: frozenset[str]
    words: frozenset[str]
    others: frozenset[str]

    @staticmethod
    def of(chart: Chart, slot: Slot, all_names: Mapping[str, str]) -> _SlotNames:
        own = frozenset({all_names[slot.key], alike_name(slot.key)})
        full = frozenset(alike_name(f"{chart.name} {x}") for x in (slot.name, slot.key))
        words = own | full | {alike_name(word) for word in slot.words}
        others = frozenset(name for key, name in all_names.items() if key != slot.key) - own
        return _SlotNames(own, full, words, others)

    def how(self, one: _Called) -> Why | None:
        """Why a card belongs here; a card that is called like another slot is no grip because
        somebody tagged it ``grip``."""
        other = one.name in self.others
        if one.tags & (self.full if other else self.own | self.full):
            return Why.TAG
        if other or one.name not in self.words:
            return None
        return Why.NAME if one.name in self.own | self.full else Why.WORD


def _in_slot(
    chart: Chart,
    slot: Slot,
    character: str,
    names: _SlotNames,
    own: Sequence[_Called],
    by_identity: Mapping[str, Entry],
) -> tuple[Filled, ...]:
    said = chart.said(slot.key, character)
    chosen = [by_identity[i] for i in dict.fromkeys(said.cards) if i in by_identity]
    found = [
        Filled(card, Why.ASSIGNED, card.character.casefold() != character.casefold())
        for card in chosen
    ]
    out = {*said.refused, *said.cards} | _assigned_elsewhere(chart, slot, character)
    others = [
        Filled(one.card, how)
        for one in own
        if (how := names.how(one)) is not None
        and one.card.identity not in out
        and belongs(slot, one.card)
    ]
    others.sort(key=partial(_rank, slot))
    return (*found, *others)


def _assigned_elsewhere(chart: Chart, slot: Slot, character: str) -> set[str]:
    """A card that somebody put into another slot does not fill this one by its name."""
    same = character.casefold()
    return {
        identity
        for one in chart.assigned
        if one.slot != slot.key and one.character.casefold() == same
        for identity in one.cards
    }


def belongs(slot: Slot, card: Entry) -> bool:
    """Whether a card is of the region and side of a slot. A whole face holds a mouth and eyes, and
    is told by the region of the head."""
    wanted = _regions(slot)
    if wanted and card.region not in wanted:
        return False
    return not slot.side or card.side in SIDE_WORDS[slot.side]


def _regions(slot: Slot) -> frozenset[Region]:
    """Where cards of a slot may lie; empty for anywhere."""
    wanted = REGION_WORDS[slot.region] if slot.region else frozenset()
    if wanted & FACE_REGIONS:
        wanted = wanted | (FACE_REGIONS if Region.HEAD in wanted else {Region.HEAD})
    return wanted


def _near(slot: Slot, card: Entry) -> bool:
    """Whether a card is of just the part of the body that a slot is about."""
    if slot.region in ("face", "head"):
        return card.region is Region.HEAD
    return not slot.region or card.region in REGION_WORDS[slot.region]


def _rank(slot: Slot, one: Filled) -> tuple[object, ...]:
    """What was said before what is only called so, its own part of the body before others, poses
    before clips, approved before others, the newest first."""
    card = one.card
    newest = tuple(-ord(c) for c in card.changed)
    kind = card.kind != "pose"
    return one.how, not _near(slot, card), kind, not card.locked, newest, card.name


def _with_likely(
    found: dict[tuple[str, str], Filling],
    chart: Chart,
    by_identity: Mapping[str, Entry],
    likely: Likely,
) -> dict[tuple[str, str], Filling]:
    """Slots that nothing fills, with cards that look like it and fill no other slot."""
    used: dict[str, set[str]] = {}
    for (_, character), filling in found.items():
        used.setdefault(character, set()).update(one.card.identity for one in filling.cards)
    for (key, character), filling in found.items():
        if not filling.missing:
            continue
        refused = set(chart.said(key, character).refused) | used.get(character, set())
        proposed = [
            (by_identity[identity], share)
            for identity, share in likely.get((key, character), ())
            if identity in by_identity
            and identity not in refused
            and share >= LEAST
            and by_identity[identity].character.casefold() == character.casefold()
            and belongs(filling.slot, by_identity[identity])
        ]
        proposed.sort(key=lambda pair: -pair[1])
        found[key, character] = Filling(filling.slot, character, (), tuple(proposed))
    return found


def owners(chart: Chart, cards: Iterable[Entry], present: Sequence[str] = ()) -> tuple[str, ...]:
    """Characters that a chart is for: those it names, else all that are there or have cards.

    Args:
        chart: the chart.
        cards: all cards there are.
        present: characters that are known anyway, first.
    """
    if chart.characters:
        return tuple(dict.fromkeys(chart.characters))
    found: dict[str, str] = {}
    for name in (*present, *sorted({card.character for card in cards if card.character})):
        found.setdefault(name.casefold(), name)
    return tuple(found.values())
