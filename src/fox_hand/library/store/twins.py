"""Near twins that are kept on purpose: the library remembers, so nobody is asked again."""

from __future__ import annotations

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import decode_json, wrong_with
from fox_hand.base.files.inputs import TEXT, read_file
from fox_hand.base.language import tr
from fox_hand.library.files.atomic import write_atomically
from fox_hand.library.store.store import Library

FILE = "twins.json"
Pair = tuple[str, str]


class _TwinsFile(msgspec.Struct):
    version: int = 1
    kept: list[Pair] = []


def kept_on_purpose(library: Library) -> frozenset[Pair]:
    """Pairs of identities, the smaller first. A file that cannot be read counts as none."""
    try:
        file = decode_json(read_file(library.own / FILE, TEXT), _TwinsFile)
    except (OSError, ValueError):
        return frozenset()
    return frozenset(pair_of(*pair) for pair in file.kept)


def keep_on_purpose(library: Library, first: str, second: str, *, kept: bool = True) -> None:
    """Remember that two cards are meant to be alike, or forget it.

    Raises:
        FoxHandError: ``file.write``, or ``twins.foreign`` where the file is of another version.
    """
    path, pair = library.own / FILE, pair_of(first, second)
    with library.lock():
        if path.exists():
            try:
                decode_json(read_file(path, TEXT), _TwinsFile)
            except (OSError, ValueError) as error:
                raise FoxHandError(
                    "twins.foreign",
                    tr(
                        "{file} of {name} cannot be read ({wrong_with}).",
                        file=FILE,
                        name=library.name,
                        wrong_with=wrong_with(error),
                    ),
                    tr("It was left as it is."),
                ) from error
        pairs = kept_on_purpose(library)
        pairs = pairs | {pair} if kept else pairs - {pair}
        write_atomically(path, msgspec.json.encode(_TwinsFile(kept=sorted(pairs))))


def pair_of(first: str, second: str) -> Pair:
    return (first, second) if first < second else (second, first)
