"""Numbers, days and counts as a language writes them; the words in a process of their own, as a
language is chosen once."""

from __future__ import annotations

import json
import os
import subprocess
import sys

import pytest

from fox_hand.base.language import CHOSEN

SPEAK = """
import json
from fox_hand.base.language import day_text, number_text, shown_number, tr, tr_n
print(json.dumps([
    number_text(1234.5, ",.1f"), shown_number(-0.25, 3), shown_number(-0.0001, 2),
    day_text("2026-03-05T10:00:00Z"), day_text("2026-03-05", with_year=True), day_text("soon"),
    tr("{low:g} {high:g}", low=0.5, high=2), [tr_n(*CARDS, n) for n in (0, 1, 1200)],
]))
"""
CARDS = ("{number:,} card", "{number:,} cards")

# days as CLDR has them (skeletons MMMd, yMMMd; values from memory); the space between
# thousands is ISO 80000-1's
EXPECTED = {
    "en": ["1 234.5", "-0.25", "0", "5 Mar", "5 Mar 2026", "", "0.5 2"],
    "de": ["1 234,5", "-0,25", "0", "5. März", "5. März 2026", "", "0,5 2"],
}
COUNTED = {
    "en": ["0 cards", "1 card", "1 200 cards"],
    "de": ["0 Karten", "1 Karte", "1 200 Karten"],
}


def plain(text: str) -> str:
    """With one kind of space."""
    return text.replace("\u00a0", " ").replace("\u202f", " ").replace("\u2009", " ")


@pytest.mark.parametrize("language", ["en", "de"])
def test_numbers_days_and_counts_are_written_as_the_language_has_them(language: str) -> None:
    said_by_desktop = ("LANG", "LC_", "LANGUAGE")
    others = {k: v for k, v in os.environ.items() if not k.startswith(said_by_desktop)}
    done = subprocess.run(
        [sys.executable, "-c", SPEAK.replace("CARDS", repr(CARDS))],
        env={**others, CHOSEN: language},
        capture_output=True,
        text=True,
        timeout=60,
        check=True,
    )
    *said, counted = json.loads(done.stdout)
    assert [plain(one) for one in said] == EXPECTED[language]
    assert [plain(one) for one in counted] == COUNTED[language]
