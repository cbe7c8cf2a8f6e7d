"""Words, numbers and dates in the language of whoever reads them.

Source texts are English. The catalogues beside this module hold the other languages; ``tools/
catalogues.py`` gathers what has to be in them. A language is chosen once, when the first word is
needed, because many words stand in tables that are made when a module is loaded: the program
begins anew for another one.
"""

from __future__ import annotations

import datetime
import gettext
import os
import re
import string
from collections.abc import Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import Any, Final

from fox_hand.base.early_settings import early

CHOSEN: Final = "FOX_HAND_LANGUAGE"  # wins over the preference; for tests and for trying
LANGUAGES: Mapping[str, str] = {"en": "English", "de": "Deutsch"}
CATALOGUES, DOMAIN = Path(__file__).parent / "catalogues", "fox-hand"  # as gettext lays them out
STRETCHED, STRETCHED_LEFTWARDS = "qps", "qpl"  # no languages: they show what is not translated
RIGHT_TO_LEFT = {"ar", "dv", "fa", "he", "ps", "sd", "ug", "ur", "yi", STRETCHED_LEFTWARDS}
PLAIN = {"C", "POSIX"}
GROUP = " "  # a space between thousands, as ISO 80000-1 has it for all languages


def tr(text: str, /, **values: object) -> str:
    """A text in the language of the user, its ``{fields}`` filled in.

    Args:
        text: English, written out at the call, so that it is found for the catalogues.
        values: the fields; real numbers get the decimal mark of the language.
    """
    said = _catalogue().gettext(text) if text else ""
    return _FORMATTER.vformat(said, (), values) if values else said


def tr_n(one: str, many: str, number: int, /, **values: object) -> str:
    """A text about a number of things, as the language counts; ``{number}`` is filled in too."""
    said = _catalogue().ngettext(one, many, number)
    return _FORMATTER.vformat(said, (), {"number": number, **values})


def within(text: str) -> str:
    """A text in the middle of a line: English begins it with a small letter, other languages write
    nouns as they are."""
    return text[:1].lower() + text[1:] if language() == "en" else text


def number_text(value: float, how: str = "") -> str:
    """A number as Python's format specification ``how`` says, with the decimal mark of the
    language."""
    return _FORMATTER.format_field(value, how)


def shown_number(value: float, most: int) -> str:
    """A number with as many decimals as it needs, at most ``most``."""
    text = f"{value:.{most}f}".rstrip("0").rstrip(".")
    return "0" if text == "-0" else text.replace(".", decimal_mark())


def day_text(day: str, *, with_year: bool = False) -> str:
    """A day, written as 2026-11-12 at the beginning of ``day``, short; empty for what is none."""
    from babel.dates import format_skeleton

    try:
        date = datetime.date.fromisoformat(day[:10])
    except ValueError:
        return ""
    return str(format_skeleton("yMMMd" if with_year else "MMMd", date, locale=locale_name()))


def weekday_text(day: datetime.date) -> str:
    """Which day of the week it is: Tuesday."""
    from babel.dates import format_skeleton

    return str(format_skeleton("EEEE", day, locale=locale_name()))


def make_ready() -> None:
    """Load what days and numbers are written by, on any thread: the first day that is shown waits
    50 ms for it otherwise."""
    weekday_text(datetime.date(2000, 1, 1))
    decimal_mark()


@cache
def language() -> str:
    """Which language the words are in: ``en``, ``de``, or one of the stretched ones."""
    return language_with(early("language", ""))


def language_with(preference: str) -> str:
    """Which language the words are in with a preference: a language, or ``desktop``."""
    for wanted in _wanted(preference):
        tag = wanted.replace("-", "_").split(".")[0].split("@")[0]
        word = tag.split("_")[0].lower()
        if word in LANGUAGES or word in (STRETCHED, STRETCHED_LEFTWARDS):
            return word
    return "en"


def leftwards() -> bool:
    """Whether lines are read from right to left."""
    return language() in RIGHT_TO_LEFT


@cache
def locale_name() -> str:
    """The locale of numbers and dates, as Babel names it: that of the desktop where it names a
    region of the language of the words, else the language's own: English days are 12 Nov then."""
    word = language()
    if word not in LANGUAGES:
        word = "en"
    from babel import Locale, UnknownLocaleError

    for wanted in _of_desktop():
        tag = wanted.split(".")[0].split("@")[0]
        if tag.startswith(f"{word}_"):
            try:
                return str(Locale.parse(tag))
            except (ValueError, UnknownLocaleError):
                continue
    return {"en": "en_GB"}.get(word, word)


@cache
def decimal_mark() -> str:
    """What stands between the whole and the rest."""
    if language() not in LANGUAGES or language() == "en":
        return "."
    from babel.numbers import get_decimal_symbol

    return str(get_decimal_symbol(locale_name()))


def _wanted(preference: str) -> Sequence[str]:
    """What was asked for, the strongest first."""
    own = os.environ.get(CHOSEN) or preference
    return [own] if own not in ("", "desktop") else _of_desktop()


def _of_desktop() -> list[str]:
    """As GNU gettext has it: ``LC_ALL`` before ``LC_MESSAGES`` before ``LANG``, ``LANGUAGE`` before
    all of them unless they ask for the plain locale."""
    said = [os.environ.get(name, "") for name in ("LC_ALL", "LC_MESSAGES", "LANG")]
    locale = next((name for name in said if name), "")
    if locale.split(".")[0] in PLAIN:
        return [locale]
    return [name for name in (*os.environ.get("LANGUAGE", "").split(":"), locale) if name]


class _Stretched(gettext.NullTranslations):
    """Every text with accents and a third longer: what looks plain in the window goes through no
    catalogue, what is cut has too little room."""

    def gettext(self, message: str) -> str:
        return stretched(message)

    def ngettext(self, msgid1: str, msgid2: str, n: int) -> str:
        return stretched(msgid1 if n == 1 else msgid2)


ACCENTS = str.maketrans("aeioucnsyzAEIOUCNSYZ", "áéíóúçñšýžÁÉÍÓÚÇÑŠÝŽ")
LEFT_ALONE = re.compile(r"(\{[^}]*\}|<[^>]*>|&\w+;|\*\.\w+)")


def stretched(text: str) -> str:
    """A text with accents, a third longer; fields, marks and file patterns stay."""
    parts = LEFT_ALONE.split(text)
    return "".join(p if number % 2 else _longer(p) for number, p in enumerate(parts))


def _longer(text: str) -> str:
    more = round(0.3 * len(text.strip()))
    made = []
    for letter in text:
        made.append(letter)
        if more > 0 and letter.lower() in "aeiou":
            made.append(letter.lower())
            more -= 1
    return "".join(made).translate(ACCENTS)


@cache
def _catalogue() -> gettext.NullTranslations:
    word = language()
    if word in (STRETCHED, STRETCHED_LEFTWARDS):
        return _Stretched()
    return gettext.translation(DOMAIN, CATALOGUES, [word], fallback=True)


class _Formatter(string.Formatter):
    """Fills fields in; real numbers get the decimal mark of the language."""

    def format_field(self, value: Any, format_spec: str) -> str:
        said = format(value, format_spec)
        if isinstance(value, bool | str):
            return said
        if "," in format_spec:
            said = said.replace(",", GROUP)
        if isinstance(value, float) or format_spec[-1:] in ("f", "e", "g", "%"):
            said = said.replace(".", decimal_mark())
        return said


_FORMATTER = _Formatter()
