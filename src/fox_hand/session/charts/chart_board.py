"""A chart against characters: which card is in which slot."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from fox_hand.library.charts.chart import Chart, Slot
from fox_hand.library.charts.chart_file import ChartFile
from fox_hand.library.charts.filling import Filling, Likely, fill, owners
from fox_hand.library.format.entry import Entry
from fox_hand.library.store.contact_sheet import Gap
from fox_hand.session.libraries.open_library import OpenLibrary

MOST_COLUMNS = 12  # slots beside each other on a contact sheet
Place = tuple[str, str]  # key of a slot, and a character


@dataclass(frozen=True, eq=False)
class ChartBoard:
    """One chart and what fills it.

    Args:
        place, file: the chart and its library.
        characters: whose slots are shown, in order.
        filled: every slot of every one of them.
    """

    place: OpenLibrary
    file: ChartFile
    characters: tuple[str, ...]
    filled: Mapping[Place, Filling]

    @property
    def chart(self) -> Chart:
        return self.file.chart

    @property
    def key(self) -> tuple[int, str]:
        """What tells it from others, now and after it is read again."""
        return self.place.number, self.file.key

    @property
    def likely(self) -> dict[Place, list[tuple[str, float]]]:
        """Identities of the cards that look like what empty slots are to be, and how much."""
        return {
            place: [(card.identity, share) for card, share in one.proposed]
            for place, one in self.filled.items()
            if one.proposed
        }

    @property
    def count(self) -> int:
        """How many slots are filled."""
        return sum(not one.missing for one in self.filled.values())

    @property
    def whole(self) -> int:
        """How many there are."""
        return len(self.filled)

    def of(self, character: str) -> tuple[Filling, ...]:
        """The slots of one character, in order."""
        return tuple(self.filled[slot.key, character] for slot in self.chart.slots)

    def missing(self) -> tuple[Filling, ...]:
        """Empty slots, character by character in the order of the chart."""
        return tuple(
            one for character in self.characters for one in self.of(character) if one.missing
        )

    def sheet(self, character: str = "") -> list[Entry | Gap]:
        """The best card of every slot, and a gap where there is none; of one character or all."""
        return [
            one.cards[0].card if one.cards else Gap(one.slot.name)
            for whose in self.whose(character)
            for one in self.of(whose)
        ]

    def sheet_title(self, character: str = "") -> str:
        """What stands over such a sheet."""
        return f"{self.chart.name}: {', '.join(self.whose(character))}"

    def whose(self, character: str = "") -> list[str]:
        """One of its characters by name, or all."""
        return [c for c in self.characters if character.casefold() in ("", c.casefold())]

    def sample(self, slot: Slot, but: str = "") -> Entry | None:
        """A card that shows what a slot is to look like: the one the chart names, else the best
        that another character has of its own."""
        for character in self.characters:
            if character == but:
                continue
            own = [one.card for one in self.filled[slot.key, character].cards if not one.lent]
            if own:
                return own[0]
        return None

    def next_missing(self, after: Place) -> Filling | None:
        """The empty slot that follows, of the same character first, then of all; None where all
        are filled."""
        key, character = after
        keys = [slot.key for slot in self.chart.slots]
        at = keys.index(key) if key in keys else -1
        own = [self.filled[k, character] for k in (*keys[at + 1 :], *keys[: at + 1])]
        others = [one for one in self.missing() if one.character != character]
        return next((one for one in (*own, *others) if one.missing and one.slot.key != key), None)


def board_of(
    place: OpenLibrary,
    file: ChartFile,
    cards: Sequence[Entry],
    present: Sequence[str] = (),
    likely: Likely | None = None,
) -> ChartBoard:
    """Decide what fills a chart.

    Args:
        place, file: the chart.
        cards: of all open libraries; those of its own fill it by name, others by being assigned.
        present: characters on the stage that have cards or are named by the chart.
        likely: as of :func:`fox_hand.library.charts.filling.fill`.
    """
    inside = [card for card in cards if card.path.is_relative_to(place.folder)]
    elsewhere = [card for card in cards if not card.path.is_relative_to(place.folder)]
    characters = owners(file.chart, inside, present)
    said = {identity for one in file.chart.assigned for identity in one.cards}
    known = {card.identity for card in inside}
    lent = [c for c in elsewhere if c.identity in said and c.identity not in known]
    filled = fill(file.chart, characters, [*inside, *lent], likely)
    return ChartBoard(place, file, characters, filled)
