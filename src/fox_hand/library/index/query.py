"""What a person types to find cards: words, and filters such as ``region:hands``."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import TypeVar

from fox_hand.base.language import tr
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
YES, YES_NO = {"yes": True}, {"yes": True, "no": False}
TEXT_FILTERS = {"tag": "tags", "by": "author", "sheet": "sheet"}  # filter and column of the index
FILTERS = (
    *("region", "side", "tag", "by", "character", "fits", "kind", "sheet", "new"),
    *("approved", "favourite"),
)
KINDS: dict[str, KindName] = {"pose": "pose", "clip": "clip", "drawing": "drawing"}
WORD = re.compile(r"[^\W_]+")
# a filter's values stand behind one another with commas; quoted ones may hold anything
PIECE = re.compile(
    r'(\w+):((?:"[^"]*"|[^\s,"]+)(?:,(?:"[^"]*"|[^\s,"]*))*(?=\s|$)|\S*)|"([^"]*)"|(\S+)'
)
ONE = re.compile(r'"([^"]*)"|([^,]+)')


class FitFilter(StrEnum):
    """How much of a card must land on the character that acts."""

    ALL = "all"
    SOME = "some"
    NONE = "none"


@dataclass(frozen=True)
class NamedFilter:
    """Any of some names in one column.

    Args:
        key: the filter: ``tag``, ``by``, ``character`` or ``sheet``.
        whole: names as they are, in lower case; a sheet stands for those in it, too.
        begun: beginnings of words of a name.
    """

    key: str
    whole: frozenset[str] = frozenset()
    begun: tuple[str, ...] = ()


@dataclass(frozen=True)
class Query:
    """What is looked for; everything must be true of a card.

    Args:
        words: beginnings of words in name, tags, note, sheet or author.
        columns: beginnings of words in one column of the index.
        regions, sides: any of them; empty for all.
        fits: how much must land, any of them; empty for whatever does.
        days: changed within so many days; 0 for whenever.
        favourites: only those.
        locked: whether they must be approved, or must not; None for either.
        nothing: two filters exclude each other.
        kind: poses or clips; None for both.
        names: filters of which several values may be given.
        problems: sentences about filters that were not understood.
    """

    words: tuple[str, ...] = ()
    columns: tuple[tuple[str, str], ...] = ()
    regions: frozenset[Region] = frozenset()
    sides: frozenset[SideName] = frozenset()
    fits: frozenset[FitFilter] = frozenset()
    days: int = 0
    favourites: bool = False
    locked: bool | None = None
    nothing: bool = False
    kind: KindName | None = None
    names: tuple[NamedFilter, ...] = ()
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
        fits = self.fits & other.fits
        return Query(
            self.words + other.words,
            self.columns + other.columns,
            regions or self.regions | other.regions,
            sides or self.sides | other.sides,
            fits or self.fits | other.fits,
            min(self.days, other.days) or self.days or other.days,
            self.favourites or other.favourites,
            other.locked if self.locked is None else self.locked,
            self.nothing
            or other.nothing
            or bool(self.regions and other.regions and not regions)
            or bool(self.sides and other.sides and not sides)
            or bool(self.fits and other.fits and not fits)
            or len({self.kind, other.kind} - {None}) > 1
            or len({self.locked, other.locked} - {None}) > 1,
            self.kind or other.kind,
            self.names + other.names,
            problems=self.problems + other.problems,
        )

    @property
    def empty(self) -> bool:
        return self == Query()


def words_of(text: str) -> tuple[str, ...]:
    """A text as the words the index knows: letters and digits, nothing else."""
    return tuple(WORD.findall(text.casefold()))


@dataclass(frozen=True)
class Piece:
    """Something that was typed: a filter with its values, or words.

    Args:
        text: as it was typed.
        key: of a filter, in lower case; empty for words.
        values: of a filter, in lower case, each with whether it was quoted.
    """

    text: str
    key: str = ""
    values: tuple[tuple[str, bool], ...] = ()


def pieces_of(text: str) -> list[Piece]:
    """A text as words and filters."""
    found = []
    for match in PIECE.finditer(text.strip()):
        key = (match[1] or "").casefold()
        found.append(Piece(match[0], key, _values(match[2])) if key in FILTERS else Piece(match[0]))
    return found


def _values(text: str) -> tuple[tuple[str, bool], ...]:
    found = []
    for match in ONE.finditer(text):
        quoted = match[1] is not None
        value = (match[1] if quoted else match[2].strip('"')).casefold().strip()
        if value:
            found.append((value, quoted))
    return tuple(found)


def parse(text: str) -> Query:
    """Read what was typed. What is not understood is said, and the rest counts."""
    query = Query()
    for piece in pieces_of(text):
        if not piece.key:
            query = query.together(Query(words_of(piece.text)))
        elif piece.values:  # else it is still being typed
            query = _with(query, piece)
    return query


def _with(query: Query, piece: Piece) -> Query:
    """A query and one more filter. Regions, sides and fits that are given twice are any of all."""
    key, values = piece.key, [value for value, _ in piece.values]
    problems: list[str] = []
    more = Query()
    if key in TEXT_FILTERS or key == "character":
        more = _text_filter(piece)
    elif key == "region":
        sets = _each(values, lambda v: _chosen(key, v, REGION_WORDS, problems))
        more = Query(regions=query.regions.union(*sets))
        query = replace(query, regions=frozenset())
    elif key == "side":
        wanted = _each(values, lambda v: _chosen(key, v, SIDE_WORDS, problems))
        more = Query(sides=query.sides.union(*wanted))
        query = replace(query, sides=frozenset())
    elif key == "fits":
        known = {f.value: f for f in FitFilter}
        lands = frozenset(_each(values, lambda v: _chosen(key, v, known, problems)))
        more = Query(fits=query.fits | lands)
        query = replace(query, fits=frozenset())
    elif key == "kind":
        kinds: set[KindName] = set(_each(values, lambda v: _chosen(key, v, KINDS, problems)))
        more = Query(kind=kinds.pop() if len(kinds) == 1 else None)
    elif key == "approved":
        said = set(_each(values, lambda v: _chosen(key, v, YES_NO, problems)))
        more = Query(locked=said.pop() if len(said) == 1 else None)
    elif key == "favourite":
        more = Query(favourites=bool(_each(values, lambda v: _chosen(key, v, YES, problems))))
    else:
        more = Query(days=max((_days(value, problems) for value in values), default=0))
    return query.together(more).together(Query(problems=tuple(problems)))


def _each(values: list[str], read: Callable[[str], Value | None]) -> list[Value]:
    return [found for found in map(read, values) if found is not None]


def _text_filter(piece: Piece) -> Query:
    """A single beginning is looked for among the words of all cards; everything else by name."""
    (first, quoted), several = piece.values[0], len(piece.values) > 1
    if piece.key in TEXT_FILTERS and not several and not quoted:
        return Query(columns=tuple((TEXT_FILTERS[piece.key], word) for word in words_of(first)))
    whole = frozenset(value for value, exact in piece.values if exact)
    begun = tuple(value for value, exact in piece.values if not exact)
    return Query(names=(NamedFilter(piece.key, whole, begun),))


def _chosen(key: str, value: str, known: Mapping[str, Value], problems: list[str]) -> Value | None:
    if value in known:
        return known[value]
    begun = [word for word in known if word.startswith(value)]
    if begun:
        return known[begun[0]]
    problems.append(tr("{key}: knows {names}.", key=key, names=", ".join(known)))
    return None


def _days(value: str, problems: list[str]) -> int:
    named = {"today": 1, "week": 7, "month": 31, "yes": 7}
    if value in named:
        return named[value]
    number = re.fullmatch(r"(\d{1,4})d?", value)
    if number is None:
        problems.append(tr("new: knows today, week, month or a number of days."))
        return 0
    return int(number[1])


def unknown_filters(text: str) -> tuple[str, ...]:
    """Sentences about everything in a text that looks like a filter and is none; words in quotes
    are words. For where somebody acts on what is found, not only looks at it."""
    matches = PIECE.finditer(text.strip())
    keys = [m[1] for m in matches if m[1] and m[1].casefold() not in FILTERS]
    words = tuple(
        tr("There is no filter {key}:. There are {names}.", key=key, names=", ".join(FILTERS))
        for key in keys
    )
    return words + parse(text).problems


def filter_values(text: str, key: str) -> tuple[str, ...]:
    """Values that a text gives for a filter, in lower case."""
    return tuple(v for piece in pieces_of(text) if piece.key == key for v, _ in piece.values)


def with_filter(text: str, key: str, values: tuple[str, ...]) -> str:
    """A text with other values of one filter, and everything else as it was typed.

    Args:
        text: what was typed.
        key: the filter.
        values: as they are written, quoted where they need it; none to take the filter off.
    """
    kept = [piece.text for piece in pieces_of(text) if piece.key != key]
    if values:
        kept.append(f"{key}:{','.join(values)}")
    return " ".join(kept)
