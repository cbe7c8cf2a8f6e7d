"""The words that were probably meant."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

from rapidfuzz import process
from rapidfuzz.distance import DamerauLevenshtein

LIKE = 0.66  # share of letters that must agree
LOOKED_AT = 24  # the nearest by letters, of which the likeliest is taken


def nearest_words(typed: Sequence[str], known: Collection[str]) -> tuple[str, ...] | None:
    """For every typed word the known word that was probably meant, or how it begins: the nearest
    by swapped, missing, added and exchanged letters, and of several as near the one of the very
    same letters, then the one that begins with the same. A typed word that begins a known one
    stays. None if one of them is like none."""
    meant = []
    for word in typed:
        if any(k.startswith(word) for k in known):
            meant.append(word)
            continue
        found = process.extract(
            word,
            {*known, *(k[: len(word)] for k in known if len(k) > len(word))},
            scorer=DamerauLevenshtein.normalized_similarity,
            score_cutoff=LIKE,
            limit=LOOKED_AT,
        )
        if not found:
            return None
        meant.append(max(((share, str(near)) for near, share, _ in found), key=_likely(word))[1])
    return tuple(meant)


def _likely(word: str) -> Callable[[tuple[float, str]], tuple[float, bool, bool, int, str]]:
    letters = sorted(word)

    def order(found: tuple[float, str]) -> tuple[float, bool, bool, int, str]:
        share, near = found
        return share, sorted(near) == letters, near[:1] == word[:1], len(near), near

    return order
