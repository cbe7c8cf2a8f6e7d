"""Which cards fill which slot: a decision from what is said on cards and charts, and nothing
else."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import IntEnum

from fox_hand.core.model.controls import FACE_REGIONS
from fox_hand.library.charts.chart import Chart, Slot, alike_name
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.query import REGION_WORDS, SIDE_WORDS

LEAST = 0.85  # how like its sample a card must be to be proposed


class How(IntEnum):
    """Why a card fills a slot; the first counts most."""

    ASSIGNED = 0
    TAG = 1
    NAME = 2


@dataclass(frozen=True)
class Filled:
    """A card in a slot.

    Args:
        card: the card.
        how: why it is there.
        lent: whether it is another character's.
    """

    card: Entry
    how: How
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
    of = {character.casefold(): list[Entry]() for character in characters}
    for card in readable:
        if card.character.casefold() in of:
            of[card.character.casefold()].append(card)
    found = {}
    for character in characters:
        own = of[character.casefold()]
        for slot in chart.slots:
            filled = _in_slot(chart, slot, character, own, by_identity)
            found[slot.key, character] = Filling(slot, character, filled)
    return _with_likely(found, chart, by_identity, likely or {})


def _in_slot(
    chart: Chart,
    slot: Slot,
    character: str,
    own: Sequence[Entry],
    by_identity: Mapping[str, Entry],
) -> tuple[Filled, ...]:
    said = chart.said(slot.key, character)
    chosen = [by_identity[i] for i in dict.fromkeys(said.cards) if i in by_identity]
    found = [
        Filled(card, How.ASSIGNED, card.character.casefold() != character.casefold())
        for card in chosen
    ]
    taken = {*said.refused, *said.cards}
    elsewhere = _assigned_elsewhere(chart, slot, character)
    others = []
    for card in own:
        how = _how(chart, slot, card)
        if how is not None and card.identity not in taken | elsewhere and belongs(slot, card):
            others.append(Filled(card, how))
    others.sort(key=_rank)
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


def _how(chart: Chart, slot: Slot, card: Entry) -> How | None:
    names = {alike_name(slot.name), alike_name(slot.key)}
    full = {alike_name(f"{chart.name} {slot.name}"), alike_name(f"{chart.name} {slot.key}")}
    other = _named_otherwise(chart, slot, card)
    if any(alike_name(tag) in (full if other else names | full) for tag in card.tags):
        return How.TAG
    called = names | full | {alike_name(word) for word in slot.words}
    return How.NAME if not other and alike_name(card.name) in called else None


def _named_otherwise(chart: Chart, slot: Slot, card: Entry) -> bool:
    """A card that is called like another slot is no grip because somebody tagged it ``grip``."""
    called = alike_name(card.name)
    own = {alike_name(slot.name), alike_name(slot.key)}
    others = {alike_name(one.name) for one in chart.slots if one.key != slot.key}
    return called in others - own


def belongs(slot: Slot, card: Entry) -> bool:
    """Whether a card is of the region and side of a slot. A face is one: mouths lie where heads
    lie."""
    if slot.region:
        wanted = REGION_WORDS[slot.region]
        if wanted & FACE_REGIONS:
            wanted = wanted | FACE_REGIONS
        if card.region not in wanted:
            return False
    return not slot.side or card.side in SIDE_WORDS[slot.side]


def _rank(one: Filled) -> tuple[object, ...]:
    """What was said before what is only called so, poses before clips, approved before others, the
    newest first."""
    card = one.card
    newest = tuple(-ord(c) for c in card.changed)
    return one.how, card.kind != "pose", not card.locked, newest, card.name


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
