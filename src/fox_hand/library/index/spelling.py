"""The words that were probably meant."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from rapidfuzz import process
from rapidfuzz.distance import DamerauLevenshtein

LIKE = 0.66  # share of letters that must agree


def nearest_words(typed: Sequence[str], known: Collection[str]) -> tuple[str, ...] | None:
    """For every typed word the known word nearest to it, by swapped, missing, added and exchanged
    letters; a typed word that begins a known one stays. None if one of them is like none."""
    meant = []
    for word in typed:
        if any(k.startswith(word) for k in known):
            meant.append(word)
            continue
        found = process.extractOne(
            word, known, scorer=DamerauLevenshtein.normalized_similarity, score_cutoff=LIKE
        )
        if found is None:
            return None
        meant.append(str(found[0]))
    return tuple(meant)
