"""What the finder finds: commands, sheets, characters, shots, by part of a word."""

from __future__ import annotations

import unicodedata
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

MOST = 8  # of one group; whoever wants another types one more letter


@dataclass(frozen=True)
class Findable:
    """Something one can go to or do.

    Args:
        words: what is looked through and shown.
        run: goes there, or does it.
        group: the heading it stands under.
        more: quiet words after it, which are looked through last.
        icon: before it.
        keys: of a command.
        state: at the right where it has no keys, such as *on*.
        ready: whether it can be used now.
    """

    words: str
    run: Callable[[], object]
    group: str
    more: str = ""
    icon: str = ""
    keys: str = ""
    state: str = ""
    ready: bool = True


@dataclass(frozen=True)
class FoundWord:
    """One that was found.

    Args:
        of: what.
        start, end: which letters of its words are meant; both 0 where it was found by ``more``.
    """

    of: Findable
    start: int
    end: int


def find(text: str, all_of_them: Iterable[Findable], most: int = MOST) -> list[FoundWord]:
    """Those whose words hold a text, by group: words that begin with it before others, what can be
    used now before what cannot; without a text all that can be used.

    Args:
        text: as typed; capitals and accents do not matter.
        all_of_them: in the order of their groups.
        most: of one group.
    """
    wanted = folded(text.strip())
    ranked: dict[str, list[tuple[tuple[int, bool, int], FoundWord]]] = {}
    for number, one in enumerate(all_of_them):
        found = _place(wanted, one)
        if found is not None and (wanted or one.ready):
            rank, start = found
            hit = (
                FoundWord(one, start, start + len(wanted))
                if rank < OTHERWISE
                else FoundWord(one, 0, 0)
            )
            ranked.setdefault(one.group, []).append(((rank, not one.ready, number), hit))
    hits = []
    for group in ranked.values():
        hits += [hit for _, hit in sorted(group, key=lambda pair: pair[0])[:most]]
    return hits


OTHERWISE = 3
INSIDE = 3  # letters from which on a word is looked through; two are in every other word


def _place(wanted: str, one: Findable) -> tuple[int, int] | None:
    """How well and where; 0 at the beginning, 1 at the beginning of a word, 2 inside one, 3 in what
    is said beside it."""
    words = folded(one.words)
    at = words.find(wanted)
    if at == 0:
        return 0, 0
    begins = words.find(f" {wanted}")
    if begins >= 0:
        return 1, begins + 1
    if len(wanted) < INSIDE:
        return None
    if at > 0:
        return 2, at
    return (OTHERWISE, 0) if wanted in folded(one.more) else None


def folded(text: str) -> str:
    """Letter by letter without capitals and accents, as long as the text itself."""
    return "".join(unicodedata.normalize("NFD", c)[0].lower()[:1] or c for c in text)


def grouped(hits: Sequence[FoundWord]) -> list[tuple[str, list[FoundWord]]]:
    """Hits under their headings."""
    found: list[tuple[str, list[FoundWord]]] = []
    for hit in hits:
        if not found or found[-1][0] != hit.of.group:
            found.append((hit.of.group, []))
        found[-1][1].append(hit)
    return found
