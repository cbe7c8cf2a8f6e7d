"""One open library: its files, its index, and what is known of them in memory."""

from __future__ import annotations

import contextlib
import functools
import weakref
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.matching.unmatched import not_landing
from fox_hand.core.model.controls import FACE_REGIONS, Region
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.library_file import unreachable
from fox_hand.library.format.name_map import NameMap, all_maps
from fox_hand.library.format.names import natural
from fox_hand.library.index.alike import AlikeFinder
from fox_hand.library.index.card_columns import Columns
from fox_hand.library.index.catalogue import NOBODY, Catalogue, Personal
from fox_hand.library.index.index import (
    REGIONS,
    Index,
    IndexDamagedError,
    NoRoomError,
    elsewhere,
)
from fox_hand.library.index.index_shapes import Shape
from fox_hand.library.index.narrowing import changed_by_others
from fox_hand.library.index.query import FitFilter
from fox_hand.library.index.scan import scan
from fox_hand.library.index.sheet_tree import SheetNode, sheet_tree, tell_new, tree_order
from fox_hand.library.store.journal import carry_on
from fox_hand.library.store.sheets import Habit, Sheet, read_sheet
from fox_hand.library.store.store import Library

BITS = 40  # of a key that say which card it is; those above say which library


@dataclass(frozen=True, eq=False)
class Reading:
    """What reading a library gave; made in a job.

    Args:
        library, index: the library and its index.
        columns: all cards.
        shapes: by number.
        sheets: all sheets in order, those without cards too.
        contents: ``sheet.toml`` of the sheets that have one.
        scanned: whether the files were compared with the index.
        number: taken when the reading began; see :meth:`Index.next_reading`.
        unlisted: sheets that could not be listed, and why.
        characters: by the number of a shape whose cards they are.
        maps: what was said about the names of two rigs, by both.
    """

    library: Library
    index: Index
    columns: Columns
    shapes: Mapping[int, Shape]
    sheets: tuple[str, ...]
    contents: Mapping[str, Sheet]
    scanned: bool
    number: int
    unlisted: Mapping[str, str] = field(default_factory=dict)
    characters: Mapping[int, str] = field(default_factory=dict)
    maps: Mapping[tuple[str, str], NameMap] = field(default_factory=dict)

    @functools.cached_property
    def tree(self) -> SheetNode:
        """Its sheets as a tree."""
        return sheet_tree(self.columns, self.sheets)

    @functools.cached_property
    def nodes(self) -> Mapping[str, SheetNode]:
        """The same by path; loose cards and the whole are the empty one."""
        return {node.path: node for node in self.tree.walk()}

    @property
    def hand_made(self) -> list[str]:
        """Identities of cards in the order somebody put them in."""
        return [identity for sheet in self.contents.values() for identity in sheet.cards]


def read_place(
    library: Library, index: Index, progress: Progress, *, look: bool, so_far: bool = False
) -> Reading:
    """Read a library; run it in a job. An index that is damaged is made anew on the way.

    Args:
        look: compare all files with the index. Without, what the index knows is given at once,
            unless it is new and knows nothing.
        so_far: give what a new index knows while another job still fills it.

    Raises:
        FoxHandError: ``library.unreachable``.
        Cancelled: what was read so far is kept in the index.
    """
    try:
        return _read_place(library, index, progress, look=look, so_far=so_far)
    except IndexDamagedError:
        index.throw_away()
    except NoRoomError:
        index.throw_away(elsewhere(library.folder))
    return _read_place(library, index, progress, look=True, so_far=False)


def _read_place(
    library: Library, index: Index, progress: Progress, *, look: bool, so_far: bool = False
) -> Reading:
    folders: Sequence[str] = ()
    unlisted: Mapping[str, str] = {}
    look = look or (index.made_anew and not so_far)
    if look:
        with contextlib.suppress(FoxHandError):  # where nothing can be written now
            carry_on(library)
        try:
            changes = scan(index, progress)
            folders, unlisted = changes.folders, changes.unread
        except OSError as error:
            raise unreachable(library.folder, error) from error
        index.made_anew = False
    number, columns = index.next_reading(), index.columns()
    sheets = in_order(library, {*folders, *columns.sheet_names})
    contents = {sheet: read_sheet(library, sheet) for sheet in sheets}
    contents = {sheet: content for sheet, content in contents.items() if content != Sheet()}
    maps = {(m.source, m.target): m for m in all_maps(library.own)}
    reading = Reading(
        library,
        index,
        columns,
        index.shapes(),
        sheets,
        contents,
        look,
        number,
        unlisted,
        index.characters(),
        maps,
    )
    assert reading.nodes  # made here, beside the window
    return reading


def not_listed(name: str, sheets: Mapping[str, str]) -> FoxHandError:
    """What to say of sheets that cannot be listed."""
    first, why = next(iter(sorted(sheets.items())))
    more = tr(" and {count} more", count=len(sheets) - 1) if len(sheets) > 1 else ""
    return FoxHandError(
        "sheet.unlisted",
        tr(
            "The sheet {first}{more} in {name} cannot be listed ({why}).",
            first=first,
            more=more,
            name=name,
            why=why,
        ),
        tr("What was known of it stays in sight."),
        tr("Care of the library says what can be done."),
    )


def remembered(library: Library, index: Index) -> Reading:
    """What the index knows of a library that is away."""
    try:
        number, columns = index.next_reading(), index.columns()
    except IndexDamagedError:
        index.throw_away()
        number, columns = index.next_reading(), index.columns()
    sheets = tuple(s for s in columns.sheet_names if s)
    return Reading(library, index, columns, index.shapes(), sheets, {}, True, number)


def with_sheets_of(new: Reading, old: Reading) -> Reading:
    """Sheets without cards are only known from looking at all folders."""
    if new.scanned:
        return new
    both = dict.fromkeys((*old.sheets, *new.sheets))
    if len(both) == len(new.sheets):
        return new
    return replace(new, sheets=tuple(s for s in both if (new.library.folder / s).is_dir()))


def in_order(library: Library, sheets: set[str]) -> tuple[str, ...]:
    """Sheets as the library orders them, the others after them by name; what lies in a sheet
    follows it."""
    found = sheets - {""}
    first = [s for s in library.file.sheets if s in found]
    return tree_order((*first, *sorted(found - set(first), key=natural)))


@dataclass(eq=False)
class OpenLibrary:
    """A library on the shelf.

    Args:
        number: its own on this shelf; stays when others go.
        folder: where it is, or was.
        name: as last known.
        reading: what is known of it; None before it was read.
        problem: why it cannot be reached or read, None if it can.
        writable: whether this user may write there.
        personal: favourites and the like, by number.
        waiting_in: by sheet, cards that wait on this machine to be written there.
        index: where its cards are listed, as soon as it is open.
        partial: whether ``reading`` is only what was listed so far.
        unlisted: sheets of which it was said that they cannot be listed.
    """

    number: int
    folder: Path
    name: str
    reading: Reading | None = None
    problem: FoxHandError | None = None
    writable: bool = True
    personal: Personal = NOBODY
    waiting_in: Mapping[str, int] = field(default_factory=dict)
    index: Index | None = None
    partial: bool = False
    unlisted: frozenset[str] = frozenset()
    catalogue: Catalogue | None = None
    finder: AlikeFinder | None = None
    _landing: dict[tuple[int, str | None], tuple[int, int]] = field(default_factory=dict)
    _landing_of: weakref.ref[Rig] | None = None
    _seen: set[str] = field(default_factory=set)
    _told_new: object = None

    def take(self, reading: Reading) -> bool:
        """Take what was read, unless something newer is here already; whether it was taken."""
        before = self.reading
        if before is not None and before.index is reading.index:
            if reading.number < before.number:
                return False
        else:
            self.finder = AlikeFinder(reading.index)
        if self.finder is not None:
            self.finder.forget()
        self.reading, self.problem = reading, None
        self.name = reading.library.name
        self.writable = reading.library.writable
        self.catalogue = Catalogue(reading.columns)
        self._landing.clear()
        return True

    @property
    def library(self) -> Library | None:
        return self.reading.library if self.reading is not None else None

    @property
    def waiting(self) -> int:
        """Cards that wait on this machine to be written there."""
        return sum(self.waiting_in.values())

    def lists(self, entry: Entry) -> bool:
        """Whether a card is among those that are shown; it may only be indexed yet."""
        return self.reading is not None and entry.item in self.reading.columns.items

    @property
    def ready(self) -> bool:
        """Whether cards can be read from it now."""
        return self.reading is not None and self.problem is None

    @property
    def sheets(self) -> tuple[str, ...]:
        return self.reading.sheets if self.reading is not None else ()

    def habit(self, sheet: str) -> Habit | None:
        """How cards of a sheet are taken by habit; None for as it comes."""
        content = self.reading.contents.get(sheet) if self.reading is not None else None
        return content.habit if content is not None else None

    def neutral(self, sheet: str) -> str:
        """Identity of a sheet's neutral card; empty if it has none."""
        content = self.reading.contents.get(sheet) if self.reading is not None else None
        return content.neutral if content is not None else ""

    def item_of(self, identity: str) -> int | None:
        """Number of the card with an identity."""
        if self.reading is None or not identity:
            return None
        return next((item for _, item in self.reading.index.items_of([identity])), None)

    def controls_in(self, sheet: str) -> frozenset[str]:
        """Names of the controls that any card of a sheet holds."""
        if self.reading is None or sheet not in self.reading.columns.sheet_names:
            return frozenset()
        columns = self.reading.columns
        rows = columns.sheets == columns.sheet_names.index(sheet)
        shapes = np.unique(columns.shapes[rows]).tolist()
        return frozenset(name for shape in shapes for name in self.controls_of(shape))

    def chart(self, sheet: str) -> str:
        """The chart in whose order a sheet is shown; empty for none."""
        content = self.reading.contents.get(sheet) if self.reading is not None else None
        return content.chart if content is not None else ""

    def colour(self, sheet: str) -> str:
        """A sheet's own colour, ``#rrggbb``; empty if it has none."""
        content = self.reading.contents.get(sheet) if self.reading is not None else None
        return content.colour if content is not None else ""

    def tree(self, before: str = "", mine: Collection[str] = ()) -> SheetNode:
        """Its sheets as a tree.

        Args:
            before: cards changed later are new, RFC 3339; empty for none.
            mine: people whose cards are never new.
        """
        reading = self.reading
        if reading is None:
            return SheetNode("", self.name, 0)
        asked = reading, before, frozenset(mine), len(self._seen)
        if asked != self._told_new:
            self._told_new = asked
            columns = reading.columns
            seen = [i for i, name in enumerate(columns.sheet_names) if name in self._seen]
            new = changed_by_others(columns, before, asked[2]) & ~np.isin(columns.sheets, seen)
            tell_new(reading.nodes, columns, new)
        return reading.tree

    @property
    def tree_is(self) -> object:
        """Something that is another when its tree is another, or what is new in it."""
        return self._told_new

    def node(self, sheet: str) -> SheetNode | None:
        """A sheet in its tree; the whole library for the empty name."""
        return self.reading.nodes.get(sheet) if self.reading is not None else None

    def see(self, sheets: Iterable[str]) -> None:
        """Somebody has looked at some sheets: nothing in them counts as new any more."""
        self._seen |= set(sheets)

    def count_in(self, sheet: str) -> int:
        """How many cards lie in a sheet and in those in it."""
        node = self.node(sheet)
        return node.count if node is not None else 0

    def __len__(self) -> int:
        return len(self.catalogue) if self.catalogue is not None else 0

    def landing(self, rig: Rig | None) -> Mapping[int, FitFilter] | None:
        """By shape, how much of a card lands on a rig."""
        if rig is None or self.reading is None:
            return None
        found = {}
        for number in self.reading.shapes:
            lands, asked = self.lands(number, rig)
            found[number] = (
                FitFilter.NONE if not lands else FitFilter.ALL if lands == asked else FitFilter.SOME
            )
        return found

    def lands(self, shape: int, rig: Rig, character: str | None = None) -> tuple[int, int]:
        """Controls of a shape that a rig has, and all of them.

        Args:
            shape: the number of the set of controls.
            rig: where they are to land.
            character: whose card it is; else the one that most cards of the shape are of.
        """
        if self._landing_of is None or self._landing_of() is not rig:
            self._landing_of = weakref.ref(rig)
            self._landing.clear()
        known = self._landing.get((shape, character))
        if known is None:
            missing = len(self.missing(shape, rig, character))
            asked = len(self._controls(shape))
            known = self._landing[shape, character] = asked - missing, asked
        return known

    def know_names(self, content: NameMap) -> None:
        """Something was said about the names of two rigs."""
        if self.reading is not None:
            maps = {**self.reading.maps, (content.source, content.target): content}
            self.reading = replace(self.reading, maps=maps)
        self._landing.clear()

    @property
    def shapes(self) -> tuple[int, ...]:
        """Numbers of all sets of controls that its cards hold."""
        return tuple(self.reading.shapes) if self.reading is not None else ()

    def controls_of(self, shape: int) -> tuple[str, ...]:
        """Names of the controls that cards of a shape hold."""
        return tuple(name for name, _ in self._controls(shape))

    def missing(self, shape: int, rig: Rig, character: str | None = None) -> tuple[str, ...]:
        """Controls of a shape that find no place on a rig, with all that was said about the names
        of the two; ``character`` as for :meth:`lands`."""
        reading = self.reading
        if reading is None:
            return ()
        source = reading.characters.get(shape, "") if character is None else character
        said = reading.maps.get((source, rig.name)) or NameMap(source, rig.name)
        joints = reading.shapes[shape].said if shape in reading.shapes else {}
        return not_landing(dict(self._controls(shape)), rig, said.names, said.rules, joints)

    def _controls(self, shape: int) -> tuple[tuple[str, tuple[str, ...]], ...]:
        found = self.reading.shapes.get(shape) if self.reading is not None else None
        return found.controls if found is not None else ()

    def usual_sheet(self, region: Region, character: str = "") -> str:
        """The sheet that holds most cards of a region and a character, else of a region, else the
        first. A face is one: eyes and mouths lie where heads lie."""
        if self.reading is None:
            return ""
        columns = self.reading.columns
        alike = [REGIONS.index(r) for r in (FACE_REGIONS if region in FACE_REGIONS else (region,))]
        inside = np.isin(columns.regions, alike)
        names = columns.characters.names
        own = [n for n, name in enumerate(names) if name.casefold() == character.casefold()]
        mine = inside & np.isin(columns.characters.codes, own)
        where = columns.sheets[mine if mine.any() else inside]
        if len(where):
            return columns.sheet_names[int(np.bincount(where).argmax())]
        return self.sheets[0] if self.sheets else ""
