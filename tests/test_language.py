"""Numbers, days and counts as a language writes them; the words in a process of their own, as a
language is chosen once."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from fox_hand import __main__
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


def others() -> dict[str, str]:
    """The environment without what a desktop says of languages."""
    return {k: v for k, v in os.environ.items() if not k.startswith(("LANG", "LC_"))}


@pytest.mark.parametrize("language", ["en", "de"])
def test_numbers_days_and_counts_are_written_as_the_language_has_them(language: str) -> None:
    done = subprocess.run(
        [sys.executable, "-c", SPEAK.replace("CARDS", repr(CARDS))],
        env={**others(), CHOSEN: language},
        capture_output=True,
        text=True,
        timeout=60,
        check=True,
    )
    *said, counted = json.loads(done.stdout)
    assert [plain(one) for one in said] == EXPECTED[language]
    assert [plain(one) for one in counted] == COUNTED[language]


DAY = """
from fox_hand.cli.command_words import speak
speak()  # as every command begins, the window too
from fox_hand.base.language import day_text, language
print(language(), day_text("2026-03-05"))
"""


@pytest.mark.parametrize(
    ("desktop", "chosen", "day"),
    [
        ({"LANG": "en_US.UTF-8"}, "", "en Mar 5"),
        ({"LANG": "en_GB.UTF-8", "LANGUAGE": "en_GB:en"}, "", "en 5 Mar"),
        ({"LANG": "de_AT.UTF-8"}, "", "de 5. März"),
        ({"LANG": "de_DE.UTF-8"}, "en", "en 5 Mar"),
        ({"LANG": "de_DE.UTF-8", "LC_ALL": "C", "LANGUAGE": "de"}, "", "en 5 Mar"),
        ({"LANG": "de_DE.UTF-8", "LC_ALL": "en_US.UTF-8"}, "", "en Mar 5"),
    ],
)
def test_days_are_those_of_the_region_also_once_the_command_line_has_spoken(
    desktop: dict[str, str], chosen: str, day: str, tmp_path: Path
) -> None:
    """What goes before what is in GNU gettext's manual, "Locale Environment Variables"."""
    done = subprocess.run(
        [sys.executable, "-c", DAY],
        env={**others(), **desktop, CHOSEN: chosen, "XDG_CONFIG_HOME": str(tmp_path)},
        capture_output=True,
        text=True,
        timeout=60,
        check=True,
    )
    assert plain(done.stdout).strip() == day


def test_a_window_that_opens_anew_hears_the_desktop_again(monkeypatch: pytest.MonkeyPatch) -> None:
    """Not the language it spoke itself."""
    monkeypatch.setenv("LANGUAGE", "en")
    monkeypatch.setattr(__main__, "SAID_BY_DESKTOP", "de_CH:de")
    begun = list[str | None]()
    monkeypatch.setattr(os, "execv", lambda *_: begun.append(os.environ.get("LANGUAGE")))
    __main__.start_again()
    monkeypatch.setattr(__main__, "SAID_BY_DESKTOP", None)
    __main__.start_again()
    assert begun == ["de_CH:de", None]
