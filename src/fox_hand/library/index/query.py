"""What a person types to find cards: words, and filters such as ``region:hands``."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import TypeVar

from fox_hand.core.model.controls import BODY_REGIONS, FACE_REGIONS, Region
from fox_hand.library.format.schema import KindName, SideName

Value = TypeVar("Value")
FACE, BODY = FACE_REGIONS, BODY_REGIONS
REGION_WORDS: dict[str, frozenset[Region]] = {
    "face": FACE,
    "body": BODY,
    **{region.value: frozenset({region}) for region in Region},
    **{region.value.removesuffix("s"): frozenset({region}) for region in Region},
}
SIDE_WORDS: dict[str, tuple[SideName, ...]] = {
    "left": ("left", "both"),
    "l": ("left", "both"),
    "right": ("right", "both"),
    "r": ("right", "both"),
    "both": ("both",),
    "centre": ("centre",),
}
TEXT_FILTERS = {"tag": "tags", "by": "author", "sheet": "sheet"}  # filter and column of the index
FILTERS = ("region", "side", "tag", "by", "fits", "kind", "sheet", "new")
KINDS: tuple[KindName, ...] = ("pose", "clip")
WORD = re.compile(r"[^\W_]+")
PIECE = re.compile(r'(\w+):("[^"]*"|\S*)|"([^"]*)"|(\S+)')


class FitFilter(StrEnum):
    """How much of a card must land on the character that acts."""

    ALL = "all"
    SOME = "some"
    NONE = "none"


@dataclass(frozen=True)
class Query:
    """What is looked for; everything must be true of a card.

    Args:
        words: beginnings of words in name, tags, note, sheet or author.
        columns: beginnings of words in one column of the index.
        regions, sides: any of them; empty for all.
        fits: how much must land; None for whatever does.
        days: changed within so many days; 0 for whenever.
        favourites, locked: only those.
        nothing: two filters exclude each other.
        kind: poses or clips; None for both.
        problems: sentences about filters that were not understood.
    """

    words: tuple[str, ...] = ()
    columns: tuple[tuple[str, str], ...] = ()
    regions: frozenset[Region] = frozenset()
    sides: frozenset[SideName] = frozenset()
    fits: FitFilter | None = None
    days: int = 0
    favourites: bool = False
    locked: bool = False
    nothing: bool = False
    kind: KindName | None = None
    problems: tuple[str, ...] = field(default=(), compare=False)

    @property
    def text(self) -> str:
        """The full-text expression, empty if there are no words. Every word is quoted, so that
        nothing a person types is taken for the index's own language."""
        parts = [f'"{word}"*' for word in self.words]
        parts += [f'{column} : "{word}"*' for column, word in self.columns]
        return " AND ".join(parts)

    def together(self, other: Query) -> Query:
        """What both of them find."""
        regions, sides = self.regions & other.regions, self.sides & other.sides
        return Query(
            self.words + other.words,
            self.columns + other.columns,
            regions or self.regions | other.regions,
            sides or self.sides | other.sides,
            self.fits or other.fits,
            min(self.days, other.days) or self.days or other.days,
            self.favourites or other.favourites,
            self.locked or other.locked,
            bool(self.regions and other.regions and not regions)
            or bool(self.sides and other.sides and not sides)
            or len({self.kind, other.kind} - {None}) > 1,
            self.kind or other.kind,
            problems=self.problems + other.problems,
        )

    @property
    def empty(self) -> bool:
        return self == Query()


def words_of(text: str) -> tuple[str, ...]:
    """A text as the words the index knows: letters and digits, nothing else."""
    return tuple(WORD.findall(text.casefold()))


def parse(text: str) -> Query:
    """Read what was typed. What is not understood is said, and the rest counts."""
    words: list[str] = []
    columns: list[tuple[str, str]] = []
    regions: frozenset[Region] = frozenset()
    sides: frozenset[SideName] = frozenset()
    fits, days, problems = None, 0, list[str]()
    kind: KindName | None = None
    for match in PIECE.finditer(text.strip()):
        key, value = (match[1] or "").casefold(), (match[2] or "").strip('"').casefold()
        if key not in FILTERS:
            words += words_of(match[0])
        elif not value:
            continue  # still being typed
        elif key in TEXT_FILTERS:
            columns += [(TEXT_FILTERS[key], word) for word in words_of(value)]
        elif key == "region":
            regions |= _chosen(key, value, REGION_WORDS, problems) or frozenset()
        elif key == "side":
            sides |= frozenset(_chosen(key, value, SIDE_WORDS, problems) or ())
        elif key == "fits":
            fits = _chosen(key, value, {f.value: f for f in FitFilter}, problems)
        elif key == "kind":
            kind = _chosen(key, value, {k: k for k in KINDS}, problems)
        else:
            days = _days(value, problems)
    return Query(
        tuple(words),
        tuple(columns),
        regions,
        sides,
        fits,
        days,
        kind=kind,
        problems=tuple(problems),
    )


def _chosen(key: str, value: str, known: Mapping[str, Value], problems: list[str]) -> Value | None:
    if value in known:
        return known[value]
    begun = [word for word in known if word.startswith(value)]
    if begun:
        return known[begun[0]]
    problems.append(f"{key}: knows {', '.join(known)}.")
    return None


def _days(value: str, problems: list[str]) -> int:
    named = {"today": 1, "week": 7, "month": 31, "yes": 7}
    if value in named:
        return named[value]
    number = re.fullmatch(r"(\d{1,4})d?", value)
    if number is None:
        problems.append("new: knows today, week, month or a number of days.")
        return 0
    return int(number[1])


def unknown_filters(text: str) -> tuple[str, ...]:
    """Sentences about everything in a text that looks like a filter and is none; words in quotes
    are words. For where somebody acts on what is found, not only looks at it."""
    pieces = PIECE.finditer(text.strip())
    keys = [m[1] for m in pieces if m[1] and m[1].casefold() not in FILTERS]
    words = tuple(f"There is no filter {key}:. There are {', '.join(FILTERS)}." for key in keys)
    return words + parse(text).problems
